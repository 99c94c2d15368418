"""How its events change a state: staging, loading, shipping."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.cartons import Loaded
from mindful_crate.core.floor.ledger import Cause
from mindful_crate.core.floor.plates import Card, in_bin, in_transit, on_plate
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.floor.shipments import Carriage, Departure, Parcel
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve
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
from mindful_crate.core.work.packing.fold import plate_ends
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At


def _brought(state: State, e: PlateBrought, _: At) -> None:
    state.ledger.carry(e.plate, on_plate(e.on) if e.on else in_bin(e.bin))


def _pallet(state: State, e: PalletBegun, at: At) -> None:
    stamp = at.stamp
    state.plates.spots.put(e.plate, in_bin(e.bin))
    card = Card(e.plate_kind, False, e.by, stamp.at, at.seq, None, None, stamp.device, stamp.at, at.seq)
    state.plates.cards.put(e.plate, card)


def _pallet_dropped(state: State, e: PalletDropped, _: At) -> None:
    plate_ends(state, e.plate)


def _goods_brought(state: State, e: GoodsBrought, _: At) -> None:
    state.ledger.move(e.goods, in_bin(e.source), in_bin(e.bin), e.serials)


def _on_truck(state: State, e: PutOnTruck, at: At) -> None:
    state.loaded.put(e.what, Loaded(e.what, e.shipment, e.door, at.seq, e.by, e.truck))


def _off_truck(state: State, e: TakenOffTruck, _: At) -> None:
    state.loaded.put(e.what, None)


def _named(parcel: Parcel) -> tuple[Serials, ...]:
    return (Serials(parcel.goods.item, parcel.serials),) if parcel.serials else ()


def _left(state: State, e: ShipmentLeft, at: At) -> None:
    for parcel in e.parcels:
        spot = on_plate(parcel.plate) if parcel.plate else in_bin(parcel.bin)
        state.ledger.leave(Cause.SHIPMENT, spot, (parcel.goods,), _named(parcel))
        state.progress.add(LineKey(parcel.order, parcel.line), at.seq, shipped=parcel.goods.quantity)
    for order, line, quantity in e.closed:
        state.progress.add(LineKey(order, line), at.seq, closed=quantity)
    for bearer in e.bearers:
        if bearer.carton is not None:
            state.cartons.put(bearer.number, None)
        if state.plates.made_here(bearer.number):
            plate_ends(state, bearer.number)
        else:
            state.plates.spots.put(bearer.number, in_transit(e.shipment))
    for what in [x.what for x in state.loaded.values() if x.shipment == e.shipment]:
        state.loaded.put(what, None)
    for release in e.done:
        state.releases.put(release.order, None)
    shipment = state.shipments[e.shipment]
    gone = {p.order for p in e.parcels}
    orders = tuple(o for o in shipment.orders if o in gone)
    state.shipments.put(e.shipment, evolve(shipment, orders=orders, joins=False, left=at.seq))
    departure = Departure(
        e.shipment,
        at.seq,
        at.stamp.at,
        e.by,
        e.carrier,
        e.service,
        e.truck,
        e.parcels,
        e.bearers,
        e.done,
        e.closed,
        day=at.stamp.today,
    )
    state.departures.put(e.shipment, departure)


def _rest_moved(state: State, e: RestMoved, _: At) -> None:
    release = state.releases[e.order]
    before = state.shipments[release.shipment]
    if not before.left:
        state.shipments.put(before.number, evolve(before, orders=tuple(o for o in before.orders if o != e.order)))
    state.releases.put(e.order, evolve(release, shipment=e.shipment))
    shipment = state.shipments[e.shipment]
    state.shipments.put(e.shipment, evolve(shipment, orders=(*shipment.orders, e.order)))
    for each in state.cartons.of(before.number):
        kept = state.reservations.of_order(e.order).values()
        if any(p.plate == each.number for ns in kept for n in ns for p in state.reservations[n].parts):
            state.cartons.put(each.number, evolve(each, shipment=e.shipment))


def _booked(state: State, e: ShipmentBooked, at: At) -> None:
    state.departures.put(e.shipment, evolve(state.departures[e.shipment], booked=at.seq, refused=""))


def _reversal_asked(state: State, e: ReversalAsked, _: At) -> None:
    departure = state.departures[e.shipment]
    state.departures.put(e.shipment, evolve(departure, undoing=not e.refused))


def _reversed(state: State, e: ShipmentReversed, at: At) -> None:
    departure = state.departures[e.shipment]
    for bearer in departure.bearers:
        if bearer.number not in state.ground.plates and bearer.number not in state.plates.cards:
            card = Card(
                bearer.plate_kind, False, departure.who, at.stamp.at, at.seq, None, None, None, at.stamp.at, at.seq
            )
            state.plates.cards.put(bearer.number, card)
        state.plates.spots.put(bearer.number, on_plate(bearer.on) if bearer.on else in_bin(bearer.bin))
        if bearer.carton is not None:
            state.cartons.put(bearer.number, bearer.carton)
    for parcel in departure.parcels:
        spot = on_plate(parcel.plate) if parcel.plate else in_bin(parcel.bin)
        state.ledger.enter(Cause.SHIPMENT, spot, (parcel.goods,))
        state.serials.enter(spot, parcel.goods, parcel.serials)
        state.progress.add(LineKey(parcel.order, parcel.line), at.seq, shipped=-parcel.goods.quantity)
    for order, line, quantity in departure.closed:
        state.progress.add(LineKey(order, line), at.seq, closed=-quantity)
    for release in departure.releases:
        state.releases.put(release.order, release)
    shipment = state.shipments[e.shipment]
    state.shipments.put(e.shipment, evolve(shipment, left=0))
    state.departures.put(e.shipment, None)


def _asked(state: State, e: CarriageAsked, at: At) -> None:
    asked: Literal["", "book"] = "book" if e.real else ""
    carriage = Carriage(e.shipment, e.carrier, e.service, e.price, at.seq, e.trackings, e.due, e.refused, asked)
    state.carriages.put(e.shipment, carriage)


def _answered(state: State, e: CarriageAnswered, _: At) -> None:
    known = state.carriages[e.shipment]
    if e.kept:
        state.carriages.put(e.shipment, evolve(known, asked=""))
        return
    answered = evolve(known, trackings=e.trackings, price=e.price, refused=e.refused, asked="")
    state.carriages.put(e.shipment, answered)


def _drop_asked(state: State, e: DropAsked, _: At) -> None:
    state.carriages.put(e.shipment, evolve(state.carriages[e.shipment], asked="drop"))


def _not_booked(state: State, e: CarriageDropped, _: At) -> None:
    state.carriages.put(e.shipment, None)


def _carrier_set(state: State, e: CarrierSet, _: At) -> None:
    state.carriers_set.put(e.carrier, e.stand_in)


FOLDS = (
    folding(CarriageAsked, _asked),
    folding(CarriageAnswered, _answered),
    folding(DropAsked, _drop_asked),
    folding(CarriageDropped, _not_booked),
    folding(CarrierSet, _carrier_set),
    folding(PlateBrought, _brought),
    folding(PalletBegun, _pallet),
    folding(PalletDropped, _pallet_dropped),
    folding(GoodsBrought, _goods_brought),
    folding(PutOnTruck, _on_truck),
    folding(TakenOffTruck, _off_truck),
    folding(ShipmentLeft, _left),
    folding(RestMoved, _rest_moved),
    folding(ShipmentBooked, _booked),
    folding(ReversalAsked, _reversal_asked),
    folding(ShipmentReversed, _reversed),
)
"""How its events change a state."""
