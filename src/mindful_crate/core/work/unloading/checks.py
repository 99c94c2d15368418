"""Checks of unloading that dialogue, office and decision share: what may be unloaded, where it is set down, what it is called."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Direction, Order, Truck
from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, TruckNo, UnloadingNo
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.unloadings import Unloading
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import StepPlan, fixed
from mindful_crate.core.trail import Trail
from mindful_crate.core.work.receiving import checks as receiving

SET_DOWN = (ZonePurpose.DOOR, ZonePurpose.DOCK, ZonePurpose.RECEIVING, ZonePurpose.CROSS_DOCK)
"""Where something may stand that came off a truck and is not stock."""
MOST = 999
"""So many pallets and packages come off at once; more is a slip of the finger."""


def order_to_unload(rulebook: Rulebook, state: State, number: OrderNo) -> tuple[Order, StepPlan]:
    """An order that may be unloaded now, and the plan that says so; refused when it may not."""
    order = receiving.order_for_receipt(state, number)
    plans = [p for p in receiving.plans_of(rulebook, state, order, None) if p.receive.on]
    plan = next((p for p in plans if p.unload.on), None)
    if plan is None and plans:
        says = f"Step plan {plans[0].name} has no step to unload `{number}`: receive it."
        raise Refusal("no_unload", says)
    if plan is None:
        raise Refusal("no_plan", f"No step plan is for `{number}`, so nothing says what becomes of it.")
    if waits := receiving.waits_for_notice(state, order, plan):
        raise Refusal("not_announced_yet", waits)
    return order, plan


def to_unload(rulebook: Rulebook, state: State) -> Iterator[tuple[Order, StepPlan]]:
    """The orders that may be unloaded now, by promised date and number; asked of no more of them than are wanted."""
    for order in receiving.receivable_orders(state):
        plans = receiving.plans_of(rulebook, state, order, None)
        plan = next((p for p in plans if p.receive.on and p.unload.on), None)
        if plan is not None and not receiving.waits_for_notice(state, order, plan):
            yield order, plan


def announced_still(state: State, order: OrderNo) -> list[PlateNo]:
    """The announced plates of an order that have not come off yet."""
    return [p.number for p in state.announced_of(order) if state.unloadings.of_plate(p.number) is None]


def check_plate(state: State, order: OrderNo, plate: PlateNo) -> None:
    """Refuse a plate that is not announced for the order, or came off already."""
    if state.has_plate(plate):
        raise Refusal("plate_here", f"Plate `{plate}` is here already: it is on the floor.")
    found = state.announced(plate)
    if found is None:
        raise Refusal("not_announced", f"Plate `{plate}` was not announced: count it among the others.")
    if found[0].order != order:
        says = f"Plate `{plate}` is announced for `{found[0].order}`, not for `{order}`."
        raise Refusal("other_order", says)
    if came := state.unloadings.of_plate(plate):
        raise Refusal("unloaded_already", f"Plate `{plate}` was unloaded already: it stands in `{came.at}`.")


def check_count(count: int) -> None:
    """Refuse a count of pallets and packages that is none."""
    if not 0 < count <= MOST:
        raise Refusal("no_count", f"So many do not come off: say from 1 to {MOST}.", "count")


def truck_of(state: State, number: str) -> Truck | None:
    """A truck that is expected here with goods that come, by its number in any case; None: there is none."""
    known: dict[str, Truck] | None = state.ground.remembered.get("trucks")
    if known is None:
        known = state.ground.remembered["trucks"] = {t.number.upper(): t for t in state.ground.opening.trucks}
    return known.get(number.upper())


def check_truck(state: State, number: TruckNo) -> Truck:
    """The truck; refused when it is not expected here, or comes for goods."""
    truck = truck_of(state, number)
    if truck is None:
        raise Refusal("unknown_truck", f"No truck `{number}` is expected.")
    if truck.site != state.settings.site:
        raise Refusal("other_site", f"Truck `{truck.number}` goes to site `{truck.site}`, not to this one.")
    if truck.direction is not Direction.IN:
        raise Refusal("goes_out", f"Truck `{truck.number}` comes for goods that go out: nothing is unloaded from it.")
    return truck


def check_door(state: State, code: BinCode) -> None:
    """Refuse a place where nothing may stand that is not stock."""
    each = state.ground.bins.get(code)
    if each is None or state.ground.site_of(code) != state.settings.site:
        raise Refusal("unknown_bin", f"There is no bin `{code}` here.")
    zone = state.ground.zones[each.zone]
    if zone.purpose not in SET_DOWN:
        says = f"`{code}` is in {zone.name}. What comes off a truck stands at a door, a dock, in receiving or in a cross-dock lane."
        raise Refusal("no_door", says)


def where(
    state: State, rulebook: Rulebook, order: Order, plan: StepPlan, today: date
) -> tuple[BinCode | None, Trail | None]:
    """Where it is set down by the plan, with how that was chosen; None when nothing says where."""
    code = fixed(plan.unload.at)
    if code is not None:
        return code, None
    line = next((x for x in order.lines if state.open_quantity(order, x) > 0), order.lines[0])
    request = BinRequest(
        order.site, BinPurpose.UNLOAD_AT, (Goods(line.item, line.quantity),), order_kind=order.kind, partners=(order.partner,),
        today=today, at=plan.unload.at,
    )  # fmt: skip
    trail = choose(request, rulebook.rules_for(request.site, request.purpose, request.at), state)
    return trail.bin, trail


def unloading_of(state: State, number: UnloadingNo) -> Unloading:
    """An unloading of which something still stands; refused when there is none."""
    found = state.unloadings.get(number)
    if found is None:
        raise Refusal("unknown_unloading", f"There is no unloading `{number}`.")
    if found.undone:
        raise Refusal("undone_already", f"Unloading `{number}` was undone.")
    return found


def loads_told(count: int) -> str:
    """``1 pallet or package``, ``4 pallets or packages``."""
    return "1 pallet or package" if count == 1 else f"{count} pallets or packages"


def told(unloading: Unloading) -> str:
    """What came off, in a few words."""
    plates = f"{len(unloading.plates)} announced plates" if len(unloading.plates) > 1 else "1 announced plate"
    parts = [plates] if unloading.plates else []
    parts += [loads_told(unloading.count)] if unloading.count else []
    return " and ".join(parts)
