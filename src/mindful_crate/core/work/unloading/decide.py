"""How its acts are decided: unloading what comes."""

from __future__ import annotations

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import BinCode, PlateNo, TruckNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.office import LONGEST, check_why, of_every_crew
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.unloading import checks as unloading
from mindful_crate.core.work.unloading.acts import EndUnloading, Unload, UnloadInOffice
from mindful_crate.core.work.unloading.events import GoodsUnloaded, UnloadingEnded
from mindful_crate.core.work.unloading.standing import standing, still_stands


def _unload(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: Unload) -> str:
    plates = (act.plate,) if act.plate else ()
    order, plan = unloading.order_to_unload(rulebook, state, act.order)
    receiving.check_crew(plan.unload.crew, rulebook, stamp.crews, "unloads this")
    return _off(state, making, stamp, order, act.at, plates, act.count, act.truck)


def _off(
    state: State, making: Making, stamp: Stamp, order: Order, at: BinCode, plates: tuple[PlateNo, ...], count: int, truck: TruckNo | None,
) -> str:  # fmt: skip
    """Plates and pieces come off and stand in a bin: with what is being unloaded there of the order, or as an unloading of its own."""
    if not plates and not count:
        raise Refusal("nothing_unloaded", "Say what came off: an announced plate, or how many pallets and packages.")
    if count:
        unloading.check_count(count)
    for plate in plates:
        unloading.check_plate(state, order.number, plate)
    unloading.check_door(state, at)
    if truck:
        truck = unloading.check_truck(state, truck).number
    arrived = _arrived(state, order)
    goes_on = next(
        (
            u
            for u in reversed(standing(state, order.number))
            if u.at == at and u.truck == truck and u.by == stamp.who and u.arrived == arrived
        ),
        None,
    )
    number = goes_on.number if goes_on else state.unloadings.next_of(order.number)
    begun = goes_on.arrived if goes_on else arrived
    making.event(GoodsUnloaded(number, order.number, at, stamp.who, plates, count, truck, begun))
    return f"{unloading.told(state.unloadings[number])} of `{order.number}` in `{at}`, unloading `{number}`."


def _arrived(state: State, order: Order) -> int:
    """How much of an order has arrived or is noted, over all lines."""
    progress = (state.line_progress(order.number, x.no) for x in order.lines)
    return sum(p.noted + p.arrived for p in progress)


def _unload_in_office(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: UnloadInOffice) -> str:
    check_why(rulebook, state.settings.site, FlowPurpose.UNLOAD, act.why)
    order, plan = unloading.order_to_unload(rulebook, state, act.order)
    if len(set(act.plates)) < len(act.plates):
        raise Refusal("said_twice", "A plate is named twice.")
    at = act.at or (unloading.check_truck(state, act.truck).door if act.truck else None)
    if at is None:
        at, trail = unloading.where(state, rulebook, order, plan, stamp.today)
        if trail:
            making.trail(trail)
    if at is None:
        raise Refusal("no_door", f"Step plan {plan.name} finds no place to unload at. Name one.", "at")
    return _off(state, making, of_every_crew(rulebook, stamp), order, at, act.plates, act.count, act.truck)


def _end(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: EndUnloading) -> str:
    found = unloading.unloading_of(state, act.unloading)
    if not still_stands(state, found):
        raise Refusal("ended_already", f"Nothing of unloading `{found.number}` is waited for any more.")
    why = act.why.strip()
    if not 3 <= len(why) <= LONGEST:
        raise Refusal("no_reason", f"Say why, in 3 to {LONGEST} characters.", "why")
    making.event(UnloadingEnded(found.number, why))
    return f"Nothing more of unloading `{found.number}` is waited for: {why}."


DECIDES = (
    deciding(Unload, _unload),
    deciding(UnloadInOffice, _unload_in_office),
    deciding(EndUnloading, _end),
)
"""How its acts are decided."""
