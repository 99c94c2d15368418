"""What happens: goods are staged, loaded, shipped."""

from __future__ import annotations

from datetime import datetime
from decimal import Decimal
from typing import Literal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import (
    BinCode,
    CarrierCode,
    OrderNo,
    PersonId,
    PlateKindCode,
    PlateNo,
    ShipmentNo,
    TruckNo,
)
from mindful_crate.core.floor.devices import CarrierStandIn
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.floor.shipments import Bearer, Parcel, Release
from mindful_crate.core.record import record


@record
class PlateBrought:
    """A carton or plate of a shipment stands somewhere else now: in a bin, or ``on`` a pallet there."""

    by: PersonId
    plate: PlateNo
    bin: BinCode
    on: PlateNo | None = None
    kind: Literal["plate_brought"] = "plate_brought"


@record
class PalletBegun:
    """An empty pallet stands in a bin, for cartons of a shipment."""

    by: PersonId
    plate: PlateNo
    plate_kind: PlateKindCode
    bin: BinCode
    kind: Literal["pallet_begun"] = "pallet_begun"


@record
class PalletDropped:
    """A pallet that was begun here and is empty is none any more."""

    plate: PlateNo
    kind: Literal["pallet_dropped"] = "pallet_dropped"


@record
class GoodsBrought:
    """Loose goods of an order lie somewhere else now."""

    by: PersonId
    order: OrderNo
    source: BinCode
    bin: BinCode
    goods: tuple[Goods, ...]
    serials: tuple[Serials, ...] = ()
    kind: Literal["goods_brought"] = "goods_brought"


@record
class PutOnTruck:
    """A plate, or the loose goods of an order, stand on a truck."""

    by: PersonId
    what: str
    shipment: ShipmentNo
    door: BinCode
    truck: TruckNo | None = None
    kind: Literal["put_on_truck"] = "put_on_truck"


@record
class TakenOffTruck:
    """They do not any more."""

    what: str
    kind: Literal["taken_off_truck"] = "taken_off_truck"


@record
class ShipmentLeft:
    """A shipment left: these goods, on these plates. ``closed``: order, line and how much of it is not waited for any more. ``done``: orders that are
    released no more, since nothing is kept for them."""

    shipment: ShipmentNo
    by: PersonId
    carrier: CarrierCode | None
    service: str
    truck: TruckNo | None
    parcels: tuple[Parcel, ...]
    bearers: tuple[Bearer, ...]
    done: tuple[Release, ...]
    closed: tuple[tuple[OrderNo, int, int], ...] = ()
    kind: Literal["shipment_left"] = "shipment_left"


@record
class RestMoved:
    """What is still kept for an order leaves in another shipment."""

    order: OrderNo
    shipment: ShipmentNo
    kind: Literal["rest_moved"] = "rest_moved"


@record
class ShipmentBooked:
    """The host agreed that a shipment left."""

    shipment: ShipmentNo
    kind: Literal["shipment_booked"] = "shipment_booked"


@record
class ReversalAsked:
    """The host is asked to take a shipment back; or it refused to, when there is a reason in ``refused``."""

    shipment: ShipmentNo
    why: str
    refused: str = ""
    kind: Literal["reversal_asked"] = "reversal_asked"


@record
class ShipmentReversed:
    """What left stands again where it left from, kept for its orders."""

    shipment: ShipmentNo
    kind: Literal["shipment_reversed"] = "shipment_reversed"


@record
class CarriageAsked:
    """A carrier was asked to take a shipment; it answers at ``due``. ``refused``: why it does not."""

    shipment: ShipmentNo
    carrier: CarrierCode
    service: str
    price: Decimal
    trackings: tuple[tuple[PlateNo, str], ...]
    due: datetime | None = None
    refused: str = ""
    real: bool = False
    kind: Literal["carriage_asked"] = "carriage_asked"


@record
class CarriageAnswered:
    """A real carrier took a shipment, with these tracking numbers, for this price; or does not, for the reason ``refused``. ``kept``: it was asked to drop it,
    and does not."""

    shipment: ShipmentNo
    trackings: tuple[tuple[PlateNo, str], ...]
    price: Decimal
    refused: str = ""
    kept: bool = False
    kind: Literal["carriage_answered"] = "carriage_answered"


@record
class DropAsked:
    """A real carrier is asked to drop a booking."""

    shipment: ShipmentNo
    why: str
    kind: Literal["drop_asked"] = "drop_asked"


@record
class CarriageDropped:
    """A shipment is booked with no carrier any more."""

    shipment: ShipmentNo
    why: str
    kind: Literal["carriage_dropped"] = "carriage_dropped"


@record
class CarrierSet:
    """A carrier stand-in behaves like this from now on."""

    carrier: CarrierCode
    stand_in: CarrierStandIn
    kind: Literal["carrier_set"] = "carrier_set"


LeavingEvent = (
    CarriageAsked
    | CarriageAnswered
    | DropAsked
    | CarriageDropped
    | CarrierSet
    | PlateBrought
    | PalletBegun
    | PalletDropped
    | GoodsBrought
    | PutOnTruck
    | TakenOffTruck
    | ShipmentLeft
    | RestMoved
    | ShipmentBooked
    | ReversalAsked
    | ShipmentReversed
)
"""What may happen."""
