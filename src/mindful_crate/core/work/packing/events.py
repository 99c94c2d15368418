"""What happens: goods are packed, cartons begun, closed, opened again."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import (
    BinCode,
    CartonKindCode,
    OrderNo,
    PackStationCode,
    PersonId,
    PlateKindCode,
    PlateNo,
    ShipmentNo,
)
from mindful_crate.core.floor.cartons import Weighed
from mindful_crate.core.floor.devices import Scale
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.record import record


@record
class CartonBegun:
    """A carton stands empty at a station."""

    by: PersonId
    carton: PlateNo
    shipment: ShipmentNo
    at: BinCode
    plate_kind: PlateKindCode
    carton_kind: CartonKindCode | None = None
    kind: Literal["carton_begun"] = "carton_begun"


@record
class GoodsPacked:
    """Goods of an order went from a bin, or off a ``plate``, into a ``carton``; out of one, loose into the bin ``to``, when it is None. ``emptied``: nothing
    is left on that plate, and it was a tote: its label is free."""

    by: PersonId
    order: OrderNo
    source: BinCode
    plate: PlateNo | None
    to: BinCode
    carton: PlateNo | None
    goods: tuple[Goods, ...]
    serials: tuple[Serials, ...] = ()
    emptied: bool = False
    kind: Literal["goods_packed"] = "goods_packed"


@record
class PlateConfirmed:
    """A tote or plate leaves as it is."""

    by: PersonId
    plate: PlateNo
    shipment: ShipmentNo
    at: BinCode
    weight_mg: int
    kind: Literal["plate_confirmed"] = "plate_confirmed"


@record
class CartonClosed:
    """A carton is closed; it weighs so much, and its goods and its kind so much by the catalogue."""

    by: PersonId
    carton: PlateNo
    carton_kind: CartonKindCode | None
    plate_kind: PlateKindCode
    weight_mg: int
    weighed: Weighed
    should_mg: int
    kind: Literal["carton_closed"] = "carton_closed"


@record
class CartonReopened:
    """A carton is open again; what left as it is does so no more."""

    by: PersonId
    carton: PlateNo
    kind: Literal["carton_reopened"] = "carton_reopened"


@record
class CartonDropped:
    """An empty carton, or an emptied plate, is none any more."""

    carton: PlateNo
    kind: Literal["carton_dropped"] = "carton_dropped"


@record
class ScaleSet:
    """A scale stand-in behaves like this from now on."""

    station: PackStationCode
    scale: Scale
    kind: Literal["scale_set"] = "scale_set"


PackingEvent = ScaleSet | CartonBegun | GoodsPacked | PlateConfirmed | CartonClosed | CartonReopened | CartonDropped
"""What may happen."""
