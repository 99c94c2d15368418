"""The dock board: trucks and their doors, shipments with how far each is and what is missing, and what has left."""

from __future__ import annotations

from datetime import date, datetime

from mindful_crate.core.catalog.ids import BinCode, CarrierCode, OrderNo, PersonId, PrinterCode, ShipmentNo, TruckNo
from mindful_crate.core.floor.shipments import Departure
from mindful_crate.core.floor.standing import stands_in
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve, record
from mindful_crate.core.releasing.freight import FreightOffer
from mindful_crate.core.releasing.onward import kept_in
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.papers import Paper
from mindful_crate.core.rulebook.words.papers import TITLES
from mindful_crate.core.work.leaving.carriage import offered
from mindful_crate.core.work.leaving.contents import CartonContent, CartonShown, contents
from mindful_crate.core.work.leaving.looking import ShipmentStep, missing_told, standing
from mindful_crate.core.work.leaving.places import lane_for, truck_for, trucks_out
from mindful_crate.core.work.leaving.shipping_papers import paper_pages

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
        if carriage.asked:
            booked += ", asked and not answered yet" if carriage.asked == "book" else ", asked to drop it"
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
class PaperPrinted:
    """A paper of a shipment that was sent to a printer, the latest of its kind. ``stale``: it says otherwise now."""

    print: str
    paper: Paper
    sent: datetime
    by: PersonId
    printer: PrinterCode | None
    stale: bool


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
    printed: tuple[PaperPrinted, ...]


def shipment_shown(state: State, rulebook: Rulebook, number: ShipmentNo) -> ShipmentShown:
    """Everything of a shipment; refused when there is none."""
    has = contents(state, rulebook, number)
    shipment, printed = state.shipments[number], _printed(state, rulebook, number)
    if shipment.left:
        gone = _gone(state, state.departures[number])
        return ShipmentShown(None, gone, shipment.leaves.address, has.cartons, has.loose, (), "", None, printed)
    offers: tuple[FreightOffer, ...] = ()
    why = ""
    try:
        offers = tuple(offered(state, rulebook, number))
    except Refusal as refusal:
        why = refusal.problem.says
    return ShipmentShown(
        leaving_of(state, rulebook, number), None, shipment.leaves.address, has.cartons, has.loose, offers, why, lane_for(state, rulebook, number), printed
    )  # fmt: skip


def _printed(state: State, rulebook: Rulebook, number: ShipmentNo) -> tuple[PaperPrinted, ...]:
    """The papers of a shipment that lie in the tray; what stands at their feet, their age, does not count."""
    found: dict[Paper, PaperPrinted] = {}
    for made in state.prints.latest():
        label = made.labels[0]
        paper = next((p for p, title in TITLES.items() if title == label.title), None)
        if not label.pages or label.code != number or paper is None or paper in found:
            continue
        try:
            now = paper_pages(state, rulebook, number, paper)
        except Refusal:
            now = ()
        stale = [evolve(p, foot="") for p in now] != [evolve(p, foot="") for p in label.pages]
        found[paper] = PaperPrinted(made.number, paper, made.sent, made.by, made.printer, stale)
    return tuple(found.values())
