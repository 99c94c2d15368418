"""What may be asked: staging, loading, shipping."""

from __future__ import annotations

from decimal import Decimal
from typing import Literal

from mindful_crate.core.catalog.ids import BinCode, CarrierCode, OrderNo, PlateNo, ShipmentNo, TruckNo
from mindful_crate.core.floor.devices import CarrierStandIn
from mindful_crate.core.record import record


@record
class StageGoods:
    """Cartons and plates of a shipment, and the loose goods of orders, are brought to a staging place."""

    shipment: ShipmentNo
    bin: BinCode
    plates: tuple[PlateNo, ...] = ()
    orders: tuple[OrderNo, ...] = ()
    """Orders of which the loose goods are brought."""
    kind: Literal["stage_goods"] = "stage_goods"


@record
class StackPlates:
    """Cartons of a shipment are put onto a pallet that stands where they do; a new one, when its label is not known yet, or when none is named."""

    plates: tuple[PlateNo, ...]
    on: PlateNo | None = None
    kind: Literal["stack_plates"] = "stack_plates"


@record
class LoadGoods:
    """Cartons and plates of a shipment, and loose goods of orders, go onto a truck at a door; all of the shipment, when nothing is named. ``partly``: what is
    ready, of one that is not complete."""

    shipment: ShipmentNo
    door: BinCode
    truck: TruckNo | None = None
    plates: tuple[PlateNo, ...] = ()
    orders: tuple[OrderNo, ...] = ()
    partly: bool = False
    kind: Literal["load_goods"] = "load_goods"


@record
class TakeOffTruck:
    """A carton, a plate, or the loose goods of an order, are taken off the truck again, and stand at its door."""

    what: str
    kind: Literal["take_off_truck"] = "take_off_truck"


@record
class ShipShipment:
    """A shipment leaves. ``partly``: what is ready goes, and the rest does what its plan says. ``carrier``: who drives; None: as it was meant."""

    shipment: ShipmentNo
    carrier: CarrierCode | None = None
    partly: bool = False
    kind: Literal["ship_shipment"] = "ship_shipment"


@record
class ReverseShipment:
    """What left comes back, if the host agrees."""

    shipment: ShipmentNo
    why: str
    kind: Literal["reverse_shipment"] = "reverse_shipment"


@record
class ReversalAgreed:
    """The host agrees that a shipment is taken back, or, with a reason, does not. The host's answer asks it."""

    shipment: ShipmentNo
    refused: str = ""
    kind: Literal["reversal_agreed"] = "reversal_agreed"


@record
class BookCarriage:
    """A shipment is booked with a carrier, by one of its services."""

    shipment: ShipmentNo
    carrier: CarrierCode
    service: str = ""
    kind: Literal["book_carriage"] = "book_carriage"


@record
class DropCarriage:
    """It is not, after all."""

    shipment: ShipmentNo
    why: str
    kind: Literal["drop_carriage"] = "drop_carriage"


@record
class SetCarrier:
    """How a carrier stand-in behaves from now on."""

    carrier: CarrierCode
    stand_in: CarrierStandIn
    kind: Literal["set_carrier"] = "set_carrier"


@record
class CarrierIs:
    """Whether a carrier is asked in earnest from now on, and does not answer."""

    carrier: CarrierCode
    real: bool
    down: bool = False
    kind: Literal["carrier_is"] = "carrier_is"


@record
class CarrierAnswers:
    """What a real carrier answers to what it was asked in entry ``asked``: the tracking number of each carton and its price; that it takes no booking, or
    keeps one it was asked to drop, for the reason ``refused``; or that it dropped it."""

    shipment: ShipmentNo
    asked: int
    trackings: tuple[tuple[PlateNo, str], ...] = ()
    price: Decimal | None = None
    refused: str = ""
    dropped: bool = False
    kind: Literal["carrier_answers"] = "carrier_answers"


CarrierAct = CarrierIs | CarrierAnswers
"""What real carriers do."""
LeavingAct = (
    BookCarriage
    | DropCarriage
    | SetCarrier
    | StageGoods
    | StackPlates
    | LoadGoods
    | TakeOffTruck
    | ShipShipment
    | ReverseShipment
)
"""What somebody may ask."""
