"""How far what is kept for orders that leave is on its way out, and which station it comes to next."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import OrderNo, PlateNo, ReservationNo, ShipmentNo, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.cartons import loose_load
from mindful_crate.core.floor.plates import Holder
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.standing import at_station, is_handed, lying_on, purpose_of, stands_in
from mindful_crate.core.floor.state import State
from mindful_crate.core.memo import Memo
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Word, record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.orders import one_of
from mindful_crate.core.rulebook.packing import PLAIN, PackRule
from mindful_crate.core.rulebook.shipping import ShipPlan, Station
from mindful_crate.core.rulebook.steps import Found
from mindful_crate.core.rulebook.waves import Method


class Stop(Word):
    """What is to be done next with goods of an order that leaves."""

    PICK = "pick"
    SORT = "sort"
    PACK = "pack"
    STAGE = "stage"
    LOAD = "load"
    SHIP = "ship"


@record
class Way:
    """The way of an order's goods: its plan, the rule by which they are packed, and the stations they stop at."""

    plan: ShipPlan | None
    rule: PackRule
    stations: tuple[Station, ...]

    def has(self, station: Station) -> bool:
        """Do they stop at a station?"""
        return station in self.stations


@record
class Kept:
    """A part of what is kept for an order line, and what comes next with it."""

    line: LineKey
    reservation: ReservationNo
    part: Reserved
    next: Stop


WAYS = Memo()
"""The ways of orders by a rulebook: asked with every scan of what may have thousands of lines."""


RULES = Memo()
"""The rules by which orders are packed."""


def pack_rule(state: State, rulebook: Rulebook, order: Order) -> PackRule:
    """The rule by which an order is packed: the first whose conditions hold."""
    ground, site = state.ground, state.settings.site
    return RULES.about(rulebook, (ground.hash, site), order, lambda: _pack_rule(ground, rulebook, site, order))


def _pack_rule(ground: Ground, rulebook: Rulebook, site: SiteCode, order: Order) -> PackRule:
    partner = ground.partners.get(order.partner)
    groups = {ground.items[x.item].group for x in order.lines}
    mine = rulebook.class_of(ground, order)
    for rule in rulebook.packs_at(site):
        if (
            (not rule.order_kinds or order.kind in rule.order_kinds)
            and one_of(mine, rule.order_classes)
            and (not rule.partners or order.partner in rule.partners)
            and (not rule.partner_groups or (partner is not None and partner.group in rule.partner_groups))
            and (not rule.carriers or order.carrier in rule.carriers)
            and (not rule.groups or groups & set(rule.groups))
        ):
            return rule
    return PLAIN


def way_of(state: State, rulebook: Rulebook, order: Order) -> Way:
    """The way of an order's goods: those are sorted that are fetched together with those of others, and packed where a rule says so."""
    sorts = any(w.method is Method.BATCH and not w.cancelled for w in state.waves.of_order(order.number))
    asked = (state.ground.hash, state.settings.site, sorts)
    return WAYS.about(rulebook, asked, order, lambda: _way(state, rulebook, order, sorts))


def _way(state: State, rulebook: Rulebook, order: Order, sorts: bool) -> Way:
    plan, rule = rulebook.ship_plan_for(rulebook.asked(state.ground, order)), pack_rule(state, rulebook, order)
    skips = {Station.SORT: not sorts, Station.PACK: not rule.packs}
    return Way(plan, rule, tuple(s for s in plan.stations if not skips.get(s)) if plan else ())


def bearers(state: State, plate: PlateNo) -> Iterator[PlateNo]:
    """A plate, and what it stands on, from below to the top of what is carried as one."""
    at: PlateNo | None = plate
    while at is not None:
        yield at
        spot = state.plates.spot(at)
        at = PlateNo(spot.code) if spot is not None and spot.holder is Holder.PLATE else None


def top_of(state: State, plate: PlateNo) -> PlateNo:
    """What is carried when a plate is: the lowest of those it stands on, or itself."""
    return list(bearers(state, plate))[-1]


def next_stop(state: State, way: Way, order: OrderNo, part: Reserved) -> Stop:
    """What comes next with a part of what is kept for an order."""
    plan = way.plan
    if plan is not None and not plan.picks:
        return Stop.SHIP
    if part.task is not None or not at_station(state, part):
        return Stop.PICK
    if part.plate is not None and is_handed(state, part.plate):
        return Stop.PICK  # more of its order is put into that tote, in another zone
    if part.plate is None and way.has(Station.SORT) and purpose_of(state, part.bin) is not ZonePurpose.SORT:
        return Stop.SORT
    if way.has(Station.PACK) and not is_packed(state, part.plate):
        return Stop.PACK
    if is_loaded(state, order, part):
        return Stop.SHIP
    if way.has(Station.STAGE) and not _is_there(state, way, Station.STAGE, ZonePurpose.STAGING, part):
        return Stop.STAGE
    return Stop.LOAD if way.has(Station.LOAD) else Stop.SHIP


def is_packed(state: State, plate: PlateNo | None) -> bool:
    """Is a plate a closed carton, or does it stand on one?"""
    return plate is not None and any(state.cartons.is_closed(p) for p in bearers(state, plate))


def is_loaded(state: State, order: OrderNo, part: Reserved) -> bool:
    """Does it stand on a truck?"""
    if not len(state.loaded):
        return False
    if part.plate is None:
        load = state.loaded.get(loose_load(order))
        return load is not None and load.door == part.bin
    return any(p in state.loaded for p in bearers(state, part.plate))


def _is_there(state: State, way: Way, station: Station, purpose: ZonePurpose, part: Reserved) -> bool:
    """Does it stand where its plan has this station?"""
    assert way.plan is not None
    at, code = way.plan.step(station).at, stands_in(state, part)
    if not isinstance(at, Found):
        return code == at
    zone = state.ground.zones[state.ground.bins[code].zone]
    if zone.purpose is ZonePurpose.DOOR and station is Station.STAGE:
        return True  # it was taken off a truck again
    return zone.code == at.zone if at.zone else zone.purpose is purpose


def shipment_to_send(state: State, number: ShipmentNo) -> None:
    """Refuse a shipment that is none, or has left."""
    shipment = state.shipments.get(number)
    if shipment is None:
        raise Refusal("unknown_shipment", f"There is no shipment `{number}`.", "shipment")
    if shipment.left:
        raise Refusal("left", f"Shipment `{number}` has left.", "shipment")


def kept_on(state: State, plate: PlateNo) -> Iterator[tuple[OrderNo | None, LineKey | None, Reserved]]:
    """What is kept of the goods on a plate and on those it bears: for which order and line, None: for somebody else."""
    for lying in lying_on(state, plate):
        for number, _ in state.reservations_of(lying):
            reservation = state.reservations[number]
            for part in reservation.parts:
                if part.plate == lying.plate and part.goods.alike(lying.goods):
                    yield reservation.order, reservation.serves, part


def kept_for(state: State, rulebook: Rulebook, order: Order) -> Iterator[Kept]:
    """Everything that is kept for an order, line by line, with what comes next."""
    way = way_of(state, rulebook, order)
    for no, numbers in state.reservations.lines_of(order.number):
        for number in numbers:
            for part in state.reservations[number].parts:
                yield Kept(LineKey(order.number, no), number, part, next_stop(state, way, order.number, part))


def kept_in(state: State, rulebook: Rulebook, shipment: ShipmentNo) -> Iterator[Kept]:
    """Everything that is kept for the orders of a shipment."""
    for number in state.shipments[shipment].orders:
        order = state.order(number)
        if order is not None:
            yield from kept_for(state, rulebook, order)
