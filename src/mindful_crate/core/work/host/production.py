"""Production orders in the host: running, their output complete, closed. What the floor posts of them is another thing."""

from __future__ import annotations

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import OrderNo
from mindful_crate.core.floor.orders import HostOrder, Output
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.words.parts import all_of
from mindful_crate.core.work.host.acts import CloseOutput, DeclareOutput
from mindful_crate.core.work.host.decide import check_stand_in, held_order, tell_host
from mindful_crate.core.work.host.events import OutputClosed, OutputDeclared
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.office import LONGEST
from mindful_crate.core.work.receiving.events import LineClosed
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp

NAMED = 5
"""So many receipts or plates a sentence names."""


def _production(state: State, number: OrderNo) -> HostOrder:
    """A production order that is not closed; refused when it is none."""
    check_stand_in(state)
    held = held_order(state, number)
    if held.order.kind is not OrderKind.PRODUCTION:
        raise Refusal("no_production", f"`{number}` is no production order: it has no output to declare.")
    if not held.confirmed or held.cancelled:
        raise Refusal(
            "not_confirmed", f"`{number}` is {'cancelled' if held.cancelled else 'not confirmed'}: it does not run."
        )
    if held.output is Output.CLOSED:
        raise Refusal("closed_already", f"`{number}` was closed already.")
    return held


def _declare(state: State, making: Making, _: Rulebook, stamp: Stamp, act: DeclareOutput) -> str:
    held = _production(state, act.order)
    if held.output is Output.COMPLETE:
        raise Refusal("declared_already", f"The output of `{act.order}` was declared complete already.")
    making.event(OutputDeclared(act.order))
    there = state.receipts.of_order(act.order)
    waiting = [r.number for r in there if not (r.told or r.booked or r.undone or r.held)]
    for number in waiting:
        tell_host(state, making, stamp, "book_receipt", number)
    booked = (
        f" {all_of([f'`{n}`' for n in waiting])} {'is' if len(waiting) == 1 else 'are'} booked with it."
        if waiting
        else ""
    )
    return f"The output of `{act.order}` is complete.{booked}"


def _close(state: State, making: Making, _: Rulebook, stamp: Stamp, act: CloseOutput) -> str:
    held = _production(state, act.order)
    if held.output is Output.RUNNING:
        raise Refusal("still_running", f"`{act.order}` is running: declare its output complete first.")
    built = [p.number for p in state.building() if any(x.order == act.order for x in p.lines)]
    if built:
        raise Refusal(
            "being_built",
            f"Output of `{act.order}` is on {all_of([f'`{n}`' for n in built[:NAMED]])}: finish that first.",
        )
    open_ = [r.number for r in state.receipts.of_order(act.order) if not (r.booked or r.undone)]
    if open_:
        names = all_of([f"`{n}`" for n in open_[:NAMED]])
        raise Refusal("not_booked", f"{names} {'is' if len(open_) == 1 else 'are'} not booked: see to that first.")
    why = act.why.strip()
    if len(why) > LONGEST:
        raise Refusal("too_long", f"Give the reason in at most {LONGEST} characters.", "why")
    left = [(x, q) for x in held.order.lines if (q := state.open_quantity(held.order, x)) > 0]
    if left and len(why) < 3:
        items = state.ground.items
        what = all_of([f"{items[x.item].told(q)} {items[x.item].name}" for x, q in left[:NAMED]])
        raise Refusal("less_came", f"{what} did not come. Say in a few words why the rest is given up.", "why")
    for line, quantity in left:
        making.event(LineClosed(act.order, line.no, quantity, why))
    making.event(OutputClosed(act.order, why))
    return f"`{act.order}` is closed: no more of it is taken." + (f" The rest is given up: {why}." if left else "")


DECIDES = (
    deciding(DeclareOutput, _declare),
    deciding(CloseOutput, _close),
)
"""How its acts are decided."""
