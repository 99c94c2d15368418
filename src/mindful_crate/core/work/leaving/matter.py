"""Staging, loading, shipping: words, invariants, and its row among the matters."""

from __future__ import annotations

from mindful_crate.core.floor.state import State
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.work.leaving.acts import (
    BookCarriage,
    DropCarriage,
    LoadGoods,
    ReverseShipment,
    SetCarrier,
    ShipShipment,
    StackPlates,
    StageGoods,
    TakeOffTruck,
)
from mindful_crate.core.work.leaving.carriage import DECIDES as CARRIAGE
from mindful_crate.core.work.leaving.carriage import behaves
from mindful_crate.core.work.leaving.decide import DECIDES
from mindful_crate.core.work.leaving.events import (
    CarriageAnswered,
    CarriageAsked,
    CarriageDropped,
    CarrierSet,
    DropAsked,
    GoodsBrought,
    PalletBegun,
    PalletDropped,
    PlateBrought,
    PutOnTruck,
    RestMoved,
    ReversalAsked,
    ShipmentBooked,
    ShipmentLeft,
    ShipmentReversed,
    TakenOffTruck,
)
from mindful_crate.core.work.leaving.flow import FLOWS
from mindful_crate.core.work.leaving.fold import FOLDS
from mindful_crate.core.work.leaving.prompts import PROMPTS
from mindful_crate.core.work.rows import Matter, telling


def what_is_loaded_is_there(state: State) -> list[str]:
    """What stands on a truck stands at its door, and is of a shipment that has not left."""
    found = []
    for load in state.loaded.values():
        shipment = state.shipments.get(load.shipment)
        if shipment is None or shipment.left:
            found.append(f"{load.what} is loaded for {load.shipment}, which is not here")
        if state.has_plate(load.what) and state.bin_of(load.what) != load.door:  # type: ignore[arg-type]
            found.append(f"{load.what} is loaded at {load.door} and stands elsewhere")
    return found


def what_left_is_counted(state: State) -> list[str]:
    """Of every line that goes out so much is shipped as left in shipments; and never more than was ordered."""
    left: dict[tuple[str, int], int] = {}
    for departure in state.departures.values():
        for parcel in departure.parcels:
            key = parcel.order, parcel.line
            left[key] = left.get(key, 0) + parcel.goods.quantity
    found = []
    for key, progress in state.progress.items():
        if progress.shipped != left.get((key.order, key.line), 0):
            found.append(f"{key} has {progress.shipped} shipped, and {left.get((key.order, key.line), 0)} left")
    return found


def _told(e: ShipmentLeft) -> str:
    lines = len({(p.order, p.line) for p in e.parcels})
    by = f" with {e.carrier}" if e.carrier else ""
    truck = f", truck `{e.truck}`" if e.truck else ""
    plates = f" on {counted(len(e.bearers), 'plate')}" if e.bearers else ""
    return f"shipment `{e.shipment}` left{by}{truck}: {counted(lines, 'line')}{plates}"


def _asked(e: ReversalAsked) -> str:
    if e.refused:
        return f"the host does not take `{e.shipment}` back: {e.refused}"
    return f"the host is asked to take `{e.shipment}` back: {e.why}"


def _booked(e: CarriageAsked) -> str:
    if e.refused:
        return f"{e.carrier} does not take `{e.shipment}`: {e.refused}"
    if e.real:
        return f"{e.carrier} is asked to take `{e.shipment}`, {e.service}: {e.price} by its rates"
    return f"`{e.shipment}` booked with {e.carrier}, {e.service}: {e.price}"


def _answered(e: CarriageAnswered) -> str:
    if e.kept:
        return f"the carrier keeps `{e.shipment}`: {e.refused}"
    return (
        f"the carrier does not take `{e.shipment}`: {e.refused}"
        if e.refused
        else f"the carrier takes `{e.shipment}`: {e.price}"
    )


LEAVING = Matter(
    "leaving",
    (*DECIDES, *CARRIAGE),
    FOLDS,
    (
        telling(CarriageAsked, _booked),
        telling(CarriageAnswered, _answered),
        telling(DropAsked, lambda e: f"the carrier is asked to drop `{e.shipment}`: {e.why}"),
        telling(CarriageDropped, lambda e: f"`{e.shipment}` is booked with no carrier any more: {e.why}"),
        telling(CarrierSet, lambda e: f"carrier `{e.carrier}` {behaves(e.stand_in)}"),
        telling(PlateBrought, lambda e: f"`{e.plate}` stands {f'on `{e.on}` ' if e.on else ''}in `{e.bin}`"),
        telling(PalletBegun, lambda e: f"pallet `{e.plate}` is begun in `{e.bin}`"),
        telling(PalletDropped, lambda e: f"`{e.plate}` is empty, and none any more"),
        telling(GoodsBrought, lambda e: f"loose goods of `{e.order}` from `{e.source}` to `{e.bin}`"),
        telling(PutOnTruck, lambda e: f"`{e.what}` loaded at `{e.door}`, for `{e.shipment}`"),
        telling(TakenOffTruck, lambda e: f"`{e.what}` taken off the truck"),
        telling(ShipmentLeft, _told),
        telling(RestMoved, lambda e: f"what is kept for `{e.order}` leaves in `{e.shipment}`"),
        telling(ShipmentBooked, lambda e: f"the host booked shipment `{e.shipment}`"),
        telling(ReversalAsked, _asked),
        telling(ShipmentReversed, lambda e: f"shipment `{e.shipment}` is taken back"),
    ),
    flows=FLOWS,
    prompts=PROMPTS,
    asked=(
        telling(BookCarriage, lambda a: f"The office books `{a.shipment}` with {a.carrier}"),
        telling(DropCarriage, lambda a: f"The office drops the booking of `{a.shipment}`: {a.why}"),
        telling(SetCarrier, lambda a: f"Carrier `{a.carrier}` {behaves(a.stand_in)}"),
        telling(StageGoods, lambda a: f"The office stages goods of `{a.shipment}` in `{a.bin}`"),
        telling(StackPlates, lambda a: f"The office puts {counted(len(a.plates), 'carton')} onto a pallet"),
        telling(LoadGoods, lambda a: f"The office loads goods of `{a.shipment}` at `{a.door}`"),
        telling(TakeOffTruck, lambda a: f"The office takes `{a.what}` off the truck"),
        telling(ShipShipment, lambda a: f"The office ships `{a.shipment}`{', what is ready' if a.partly else ''}"),
        telling(ReverseShipment, lambda a: f"The office takes `{a.shipment}` back: {a.why}"),
    ),
    invariants=(what_is_loaded_is_there, what_left_is_counted),
)
"""What it brings."""
