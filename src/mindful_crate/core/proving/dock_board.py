"""The dock board: trucks and their doors, shipments with how far each is and what is missing, and what has left."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import BinCode, CarrierCode, OrderNo, PersonId, PlateNo, ShipmentNo, TruckNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.plates import on_plate
from mindful_crate.core.floor.shipments import Departure, Parcel
from mindful_crate.core.floor.standing import stands_in
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.releasing.freight import FreightOffer
from mindful_crate.core.releasing.onward import kept_in, top_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.leaving.carriage import offered, trackings
from mindful_crate.core.work.leaving.looking import ShipmentStep, missing_told, standing
from mindful_crate.core.work.leaving.places import lane_for, truck_for, trucks_out
from mindful_crate.core.work.packing.looking import by_plate, kilos

MOST = 200
"""So many shipments are told."""


@record
class ShipmentLeaving:
    """A shipment in a line: for whom, when and with whom; each step it takes, what keeps it, and where it stands."""

    shipment: ShipmentNo
    orders: tuple[OrderNo, ...]
    partner: str
    town: str
    day: date
    carrier: str
    service: str
    steps: tuple[ShipmentStep, ...]
    missing: str
    may_go: bool
    ready: bool
    """Is something of it ready to leave?"""
    stands: tuple[BinCode, ...]
    truck: TruckNo | None
    cartons: int
    booked: str
    """With whom it is booked, and for how much; empty: with nobody."""


@record
class TruckOut:
    """A truck for goods that go out: when it comes to which door, for which carrier, and what is on it or meant for it."""

    truck: TruckNo
    door: BinCode
    day: date
    time: str
    carrier: str
    loaded: tuple[str, ...]
    shipments: tuple[ShipmentNo, ...]


@record
class ShipmentGone:
    """A shipment that left."""

    shipment: ShipmentNo
    orders: tuple[OrderNo, ...]
    partner: str
    at: datetime
    who: PersonId
    carrier: str
    truck: TruckNo | None
    lines: int
    plates: int
    stands: str
    """What the host says of it."""


@record
class DockBoard:
    """All of it."""

    trucks: tuple[TruckOut, ...]
    leaving: tuple[ShipmentLeaving, ...]
    gone: tuple[ShipmentGone, ...]


def dock_board(state: State, rulebook: Rulebook) -> DockBoard:
    """The dock board of a floor."""
    leaving = [leaving_of(state, rulebook, n) for n in sorted(state.shipments) if not state.shipments[n].left][:MOST]
    mine: dict[TruckNo, list[ShipmentNo]] = {}
    for each in leaving:
        if each.truck:
            mine.setdefault(each.truck, []).append(each.shipment)
    trucks = []
    for number in trucks_out(state):
        truck = state.ground.trucks[number]
        loaded = tuple(sorted(x.what for x in state.loaded.values() if x.truck == number))
        trucks.append(
            TruckOut(
                number, truck.door, truck.day, truck.time, _carrier(state, truck.carrier), loaded, tuple(mine.get(number, ()))
            )
        )  # fmt: skip
    gone = sorted(state.departures.values(), key=lambda d: -d.seq)[:MOST]
    return DockBoard(
        tuple(trucks), tuple(sorted(leaving, key=lambda x: (x.day, x.shipment))), tuple(_gone(state, d) for d in gone)
    )


def _carrier(state: State, code: CarrierCode | None) -> str:
    known = state.ground.carriers.get(code) if code else None
    return known.name if known else code or ""


def leaving_of(state: State, rulebook: Rulebook, number: ShipmentNo) -> ShipmentLeaving:
    """A shipment that has not left, in a line."""
    shipment, now = state.shipments[number], standing(state, rulebook, number)
    how, partner = shipment.leaves, state.ground.partners.get(shipment.leaves.partner)
    stands = tuple(sorted({stands_in(state, k.part) for k in kept_in(state, rulebook, number) if k.part.task is None}))
    carriage = state.carriages.get(number)
    booked = ""
    if carriage is not None:
        name = _carrier(state, carriage.carrier)
        booked = f"{name} does not take it: {carriage.refused}" if carriage.refused else f"{name}, {carriage.price}"
    return ShipmentLeaving(
        number, shipment.orders, partner.name if partner else how.partner, how.address[-1] if how.address else "", how.day, _carrier(state, how.carrier),
        how.service, now.steps, missing_told(now, most=2), now.may_go, now.ready > 0, stands, truck_for(state, number), len(state.cartons.of(number)), booked,
    )  # fmt: skip


def _gone(state: State, d: Departure) -> ShipmentGone:
    partner = state.ground.partners.get(state.shipments[d.shipment].leaves.partner)
    says = (
        "being taken back" if d.undoing else "booked" if d.booked else f"refused: {d.refused}" if d.refused else "told"
    )
    return ShipmentGone(
        d.shipment, d.orders, partner.name if partner else "", d.at, d.who, _carrier(state, d.carrier), d.truck,
        len({(p.order, p.line) for p in d.parcels}), len(d.bearers), says,
    )  # fmt: skip


@record
class CartonContent:
    """So much of an order line in a carton."""

    order: OrderNo
    line: int
    item: str
    name: str
    lot: str
    much: str
    serials: tuple[str, ...]
    pieces: int
    """In base units."""
    weight_mg: int
    """By the catalogue."""
    expiry: str


@record
class CartonShown:
    """A carton or plate of a shipment: its kind, weight, where it stands, on what, and what is in it."""

    number: PlateNo
    kind: str
    stands: str
    weight: str
    at: BinCode | None
    on: PlateNo | None
    loaded: bool
    tracking: str
    content: tuple[CartonContent, ...]
    weight_mg: int = 0
    """As it was weighed; 0: it was not."""


@record
class ShipmentShown:
    """A shipment with all its cartons, what carriers take for it, or why that is not known."""

    leaving: ShipmentLeaving | None
    gone: ShipmentGone | None
    address: tuple[str, ...]
    cartons: tuple[CartonShown, ...]
    loose: tuple[CartonContent, ...]
    offers: tuple[FreightOffer, ...]
    no_offer: str
    lane: BinCode | None


def shipment_shown(state: State, rulebook: Rulebook, number: ShipmentNo) -> ShipmentShown:
    """Everything of a shipment; refused when there is none."""
    shipment = state.shipments.get(number)
    if shipment is None:
        raise Refusal("unknown_shipment", f"There is no shipment `{number}`.", "shipment")
    if shipment.left:
        left = state.departures[number]
        return ShipmentShown(
            None,
            _gone(state, left),
            shipment.leaves.address,
            _cartons_gone(state, left),
            _loose_gone(state, left),
            (),
            "",
            None,
        )
    offers: tuple[FreightOffer, ...] = ()
    why = ""
    try:
        offers = tuple(offered(state, rulebook, number))
    except Refusal as refusal:
        why = refusal.problem.says
    loose = tuple(
        content_of(state.ground.items[k.part.goods.item], k.line, (k.part.goods,))
        for k in kept_in(state, rulebook, number) if k.part.plate is None and k.part.task is None
    )  # fmt: skip
    return ShipmentShown(
        leaving_of(state, rulebook, number), None, shipment.leaves.address, cartons_shown(state, number), loose, offers, why, lane_for(state, rulebook, number)
    )  # fmt: skip


def cartons_shown(state: State, shipment: ShipmentNo) -> tuple[CartonShown, ...]:
    """The cartons and plates of a shipment that has not left, with what is in each."""
    inside = by_plate(state, shipment)
    codes = trackings(state.carriages.get(shipment), state)
    known = {c.number: c for c in state.cartons.of(shipment)}
    found = []
    for number in dict.fromkeys([*known, *sorted(inside)]):
        carton = known.get(number)
        kind = state.ground.plate_kinds.get(state.plates.kind_of(number))
        stands = (
            "open"
            if carton and not carton.closed
            else "leaves as it is"
            if carton and carton.as_is
            else "closed"
            if carton
            else "not packed"
        )
        top = top_of(state, number)
        content = []
        for each in inside.get(number, ()):
            item = state.ground.items[each.item]
            serials = (
                tuple(n for g in each.goods for n in state.serials.at(on_plate(number), g))
                if each.item in state.serials.kept
                else ()
            )
            content.append(content_of(item, each.line, each.goods, serials))
        found.append(
            CartonShown(
                number, kind.name if kind else "", stands, kilos(carton.weight_mg) if carton and carton.weight_mg else "", state.bin_of(number),
                top if top != number else None, number in state.loaded or top in state.loaded, codes.get(number, ""), tuple(content), (carton.weight_mg or 0) if carton else 0,
            )
        )  # fmt: skip
    return tuple(found)


def _cartons_gone(state: State, left: Departure) -> tuple[CartonShown, ...]:
    codes = trackings(state.carriages.get(left.shipment), state)
    return tuple(
        CartonShown(
            b.number, kind.name if (kind := state.ground.plate_kinds.get(b.plate_kind)) else "", "has left",
            kilos(b.carton.weight_mg) if b.carton and b.carton.weight_mg else "", None, b.on, False, codes.get(b.number, ""),
            tuple(_content(state, p) for p in left.parcels if p.plate == b.number), (b.carton.weight_mg or 0) if b.carton else 0,
        )
        for b in left.bearers
    )  # fmt: skip


def _loose_gone(state: State, left: Departure) -> tuple[CartonContent, ...]:
    plates = {b.number for b in left.bearers}
    return tuple(_content(state, p) for p in left.parcels if p.plate not in plates)


def _content(state: State, p: Parcel) -> CartonContent:
    return content_of(state.ground.items[p.goods.item], LineKey(p.order, p.line), (p.goods,), p.serials)


def content_of(item: Item, line: LineKey, goods: Sequence[Goods], serials: tuple[str, ...] = ()) -> CartonContent:
    """Goods of one item and lot, for one order line, as they are shown."""
    much, expires = sum(g.quantity for g in goods), sorted({g.expiry.isoformat() for g in goods if g.expiry})
    return CartonContent(
        line.order, line.line, item.code, item.name, goods[0].lot, item.told(much), serials, much, item.bulk(much)[1], ", ".join(expires),
    )  # fmt: skip
