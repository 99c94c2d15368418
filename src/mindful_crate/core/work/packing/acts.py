"""What may be asked: packing."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import BinCode, CartonKindCode, OrderNo, PackStationCode, PlateNo, ShipmentNo
from mindful_crate.core.floor.devices import Scale
from mindful_crate.core.record import record


@record
class BeginCarton:
    """A new carton for a shipment, at a station; under a label that was scanned, or a number that is made."""

    shipment: ShipmentNo
    at: BinCode
    number: PlateNo | None = None
    carton_kind: CartonKindCode | None = None
    kind: Literal["begin_carton"] = "begin_carton"


@record
class PackInto:
    """So much of what is kept for an order line goes into a carton that stands at a station; into the one that is open there, or a new one, when none
    is named. In base units; ``serials``: which pieces."""

    at: BinCode
    order: OrderNo
    line: int
    quantity: int
    carton: PlateNo | None = None
    serials: tuple[str, ...] = ()
    kind: Literal["pack_into"] = "pack_into"


@record
class PackRest:
    """All that is left to pack of a shipment goes into the carton that is open at a station, or a new one, after a look at it; of an order alone, if
    one is named."""

    shipment: ShipmentNo
    at: BinCode
    order: OrderNo | None = None
    carton: PlateNo | None = None
    kind: Literal["pack_rest"] = "pack_rest"


@record
class PackAsIs:
    """A tote or a plate that was picked leaves as it is."""

    plate: PlateNo
    kind: Literal["pack_as_is"] = "pack_as_is"


@record
class TakeOut:
    """So much of an order line is taken out of a carton again, or put ``into`` another. In base units."""

    carton: PlateNo
    order: OrderNo
    line: int
    quantity: int
    into: PlateNo | None = None
    serials: tuple[str, ...] = ()
    kind: Literal["take_out"] = "take_out"


@record
class CloseCarton:
    """A carton is closed, as of a kind, with its weight; 0: the scale says it, or the catalogue. ``recounted``: its content was counted again, and it
    weighs what it weighs."""

    carton: PlateNo
    carton_kind: CartonKindCode | None = None
    weight_mg: int = 0
    recounted: bool = False
    kind: Literal["close_carton"] = "close_carton"


@record
class ReopenCarton:
    """A closed carton is opened again, as long as it was not staged."""

    carton: PlateNo
    kind: Literal["reopen_carton"] = "reopen_carton"


@record
class PackShort:
    """No more of an order is packed: what is left becomes what the rule says."""

    order: OrderNo
    why: str
    kind: Literal["pack_short"] = "pack_short"


@record
class SetScale:
    """How the scale stand-in of a pack station behaves from now on."""

    station: PackStationCode
    scale: Scale
    kind: Literal["set_scale"] = "set_scale"


PackingAct = BeginCarton | PackInto | PackRest | PackAsIs | TakeOut | CloseCarton | ReopenCarton | PackShort | SetScale
"""What may be asked."""
