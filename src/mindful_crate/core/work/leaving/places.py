"""Where a shipment is staged, and at which door it is loaded, as its plan and the rules say."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Direction
from mindful_crate.core.catalog.ids import BinCode, ShipmentNo, TruckNo
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.floor.standing import purpose_of, stands_in
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.releasing.onward import kept_in, way_of
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.shipping import Station
from mindful_crate.core.rulebook.steps import BY_RULES, Found


def lane_for(state: State, rulebook: Rulebook, shipment: ShipmentNo) -> BinCode | None:
    """Where a shipment is staged: where some of it stands already, else what its plan names, else what the rules choose, else the first lane that is
    free. None: nothing says."""
    kept = list(kept_in(state, rulebook, shipment))
    for each in kept:
        if each.part.task is None and purpose_of(state, code := stands_in(state, each.part)) is ZonePurpose.STAGING:
            return code
    order = state.order(state.shipments[shipment].orders[0])
    plan = way_of(state, rulebook, order).plan if order else None
    at = plan.step(Station.STAGE).at if plan else BY_RULES
    if not isinstance(at, Found):
        return at
    site, ground = state.settings.site, state.ground
    if at == BY_RULES and (rules := rulebook.rules_for(site, BinPurpose.STAGE_AT)) and kept and order:
        part = kept[0].part
        request = BinRequest(
            site, BinPurpose.STAGE_AT, (Goods(part.goods.item, part.goods.quantity),), order_kind=order.kind,
            partners=(order.partner,), from_bin=stands_in(state, part), today=state.clock.date(),
        )  # fmt: skip
        found = choose(request, rules, state).bin
        if found is not None:
            return found
    lanes = ground.bins_by_zone.get(at.zone, ()) if at.zone else ground.bins_of(ZonePurpose.STAGING, site)
    open_ = [b.code for b in lanes if state.blocked(b.code) is None]
    free = (c for c in open_ if not state.held(c).kinds and not state.held(c).plates)
    return next(free, None) or next(iter(open_), None)


def trucks_out(state: State) -> list[TruckNo]:
    """Trucks that are expected at this site for goods that go out, by day, time and number."""
    site = state.settings.site
    mine = (t for t in state.ground.opening.trucks if t.site == site and t.direction is Direction.OUT)
    return [t.number for t in sorted(mine, key=lambda t: (t.day, t.time, t.number))]


def truck_for(state: State, shipment: ShipmentNo) -> TruckNo | None:
    """The truck that takes a shipment: on which some of it stands, else the first of its carrier on its day, or after."""
    for load in state.loaded.values():
        if load.shipment == shipment and load.truck:
            return load.truck
    how, trucks = state.shipments[shipment].leaves, state.ground.trucks
    mine = [trucks[n] for n in trucks_out(state)]
    fits = [t for t in mine if t.carrier in (None, how.carrier)]
    today = state.clock.date()
    return next((t.number for t in fits if t.day >= today), None)
