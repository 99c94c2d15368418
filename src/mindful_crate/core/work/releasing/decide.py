"""How releases are decided: what the gates say, what leaves together, from which bins it is kept; and how they are taken back."""

from __future__ import annotations

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import OrderNo, ShipmentNo
from mindful_crate.core.floor.shipments import Leaves
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.waves import ByClock
from mindful_crate.core.problem import Refusal
from mindful_crate.core.releasing.cover import going_out
from mindful_crate.core.releasing.judging import YES, Judged, judged_orders, row_for, row_of
from mindful_crate.core.releasing.planning import as_they_go, plan_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.gates import GateKind, GateVerdict, ReleaseRun
from mindful_crate.core.rulebook.orders import one_of
from mindful_crate.core.rulebook.times import clock
from mindful_crate.core.rulebook.words.parts import all_of, counted
from mindful_crate.core.work.covering.decide import claim
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.picking.decide import after as picks_after
from mindful_crate.core.work.receiving.checks import order_hold
from mindful_crate.core.work.releasing.acts import (
    ChangeGate,
    PassGate,
    ReleaseDue,
    ReleaseLines,
    ReleaseOrders,
    SayToOrder,
    UndoRelease,
)
from mindful_crate.core.work.releasing.events import (
    GateGiven,
    GatesGiven,
    OrderReleased,
    ReleaseAwaited,
    ReleaseUndone,
    ShipmentMade,
    WordGiven,
    WordsLapsed,
)
from mindful_crate.core.work.releasing.trimming import set_down_unkept, trimmed
from mindful_crate.core.work.releasing.words import HOW, gate_told, stopped
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.decide import reason
from mindful_crate.core.work.waving.decide import after as waves_after
from mindful_crate.core.work.waving.decide import awaits, wave_at_release
from mindful_crate.core.work.waving.events import WaveCancelled, WaveLeft
from mindful_crate.core.work.waving.keeping import allocate, on_hand
from mindful_crate.core.work.waving.working import open_of, out_of_wave

MOST_TOLD = 5
"""Of so many orders each is told by itself."""


def hold_of(state: State, order: Order) -> Refusal | None:
    """Why an order may not be released, whatever its gate says; None: nothing stands in the way."""
    number = order.number
    if order.inbound:
        return Refusal("other_kind", f"`{number}` is a {order.kind.value.replace('_', ' ')} order: its goods come in.")
    if order.site != state.settings.site:
        where = f"for site `{order.site}`" if order.site else "for no site yet"
        return Refusal("other_site", f"`{number}` is {where}, not for this one.")
    if state.is_cancelled(number):
        return Refusal("order_cancelled", f"`{number}` is cancelled.")
    if not state.is_confirmed(number):
        return Refusal("not_confirmed", f"`{number}` is not confirmed: its buyer confirms it in the host.")
    if hold := order_hold(state, number):
        return Refusal("order_held", f"`{number}` cannot be released: {hold}.")
    release = state.releases.get(number)
    if release is not None and release.waits:
        return Refusal("released_already", f"`{number}` was released into `{release.shipment}`, and waits for a wave.")
    gathered = [w.number for w in state.waves.of_order(number) if not w.allocated and not w.cancelled]
    if gathered:
        return Refusal(
            "released_already", f"`{number}` was released, and is in wave `{gathered[0]}`, which is not let go yet."
        )
    if release is not None and not on_hand(state, order):
        says = f"`{number}` was released into `{release.shipment}`, and nothing more of it is on hand."
        return Refusal("released_already", says)
    return None


def _known(state: State, number: OrderNo) -> Order:
    order = state.order(number)
    if order is None:
        raise Refusal("unknown_order", f"There is no order `{number}`.", "order")
    return order


def _release_orders(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ReleaseOrders) -> str:
    if not act.orders:
        raise Refusal("no_orders", "No order was named.")
    if not act.dry:
        return _together(state, making, rulebook, stamp, act)
    with making.tried():
        says = _together(state, making, rulebook, stamp, act)
    return f"Only tried, nothing was done. This would be the answer: {says}"


def _together(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ReleaseOrders) -> str:
    orders = as_they_go([_known(state, number) for number in dict.fromkeys(act.orders)])
    for order in orders:
        claim(state, making, order, stamp.today)
    not_: list[Refusal] = []
    done: list[str] = []
    gone: list[Order] = []
    for judged in judged_orders(state, rulebook, orders, stamp.now):
        order = _known(state, judged.order)
        try:
            with making.unless_refused():
                says, at_once = _released(
                    state, making, rulebook, stamp, order, _allowed(state, order, judged, act), ""
                )
                done.append(says)
                gone += [order] if at_once else []
        except Refusal as refusal:
            not_.append(refusal)
    if not done:
        raise not_[0] if len(not_) == 1 else Refusal("none_may_go", _all_told([r.problem.says for r in not_], "")[0])
    wave = wave_at_release(state, making, rulebook, stamp, gone) if gone else ""
    if len(orders) == 1:
        return said(done[0], wave)
    says = f"{len(done)} of {len(orders)} orders are released." if not_ else f"All {len(done)} orders are released."
    return said(says, *_all_told(done, "released"), wave, *_all_told([r.problem.says for r in not_], "not released"))


def _all_told(says: list[str], what: str) -> list[str]:
    told = says[:MOST_TOLD]
    if len(says) > MOST_TOLD:
        more = len(says) - MOST_TOLD
        told.append(f"And {more} more {('is ' if more == 1 else 'are ') + what if what else 'may not go'}.")
    return [" ".join(told)] if told else []


def _allowed(state: State, order: Order, judged: Judged, act: ReleaseOrders) -> Judged:
    if (hold := hold_of(state, order)) is not None:
        raise hold
    if judged.verdict is GateVerdict.STOP:
        raise Refusal("stopped", stopped(state.ground, judged))
    if judged.verdict is GateVerdict.WARN and not act.warned:
        raise Refusal("warned", f"`{order.number}` would go with a warning: {gate_told(judged)}.")
    if act.whole and any(x.on_hand < x.wanted for x in judged.lines):
        raise Refusal("not_whole", f"Not all of `{order.number}` is on hand: {judged.rate}.")
    return judged


def _released(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, order: Order, judged: Judged, passed: str,
    lines: tuple[int, ...] = (),
) -> tuple[str, bool]:  # fmt: skip
    """Release an order into a shipment, or some lines of it: it waits for the wave of a plan, or stock is kept for what it has on hand at once. What is
    said of it, and whether it goes at once."""
    again = order.number in state.releases
    if not on_hand(state, order, lines):
        raise Refusal("nothing_on_hand", f"Nothing of `{order.number}` is on hand.")
    stays = [x.no for x, _ in on_hand(state, order) if lines and x.no not in lines]
    plan = plan_of(state, rulebook, order, stamp.today)
    short = [] if plan else list(allocate(state, making, rulebook, stamp, order, lines))
    shipment, joined = _shipment(state, making, order)
    making.event(
        OrderReleased(
            order.number,
            shipment,
            judged.verdict,
            judged.says_most.name if judged.says_most else judged.gate,
            judged.rate,
            passed,
            plan is not None,
            lines,
        )
    )
    also = f", with {_named([o for o in state.shipments[shipment].orders if o != order.number])}" if joined else ""
    what = f"What else is on hand of `{order.number}`" if again else f"`{order.number}`"
    says = f"{what} was released{HOW[judged.verdict]} into `{shipment}`{also}{f': {passed}' if passed else ''}."
    if judged.verdict is not GateVerdict.PASS:
        says = said(says, f"{gate_told(judged)}.")
    waits = [x for x in judged.lines if x.on_hand < x.wanted]
    if waits:
        lacks = [f"line {x.line} lacks {state.ground.items[x.item].told(x.wanted - x.on_hand)}" for x in waits]
        says = said(says, f"What is not on hand stays: {', '.join(lacks)}.")
    if stays:
        which = f"Line {stays[0]} was" if len(stays) == 1 else f"Lines {all_of(map(str, stays))} were"
        says = said(says, f"{which} not chosen, and may go later.")
    return said(says, *short, awaits(state, making, rulebook, stamp, order) if plan else ""), plan is None


def _named(orders: list[OrderNo]) -> str:
    return ", ".join(f"`{o}`" for o in orders)


def leaves(state: State, order: Order) -> Leaves:
    """What an order must agree in with others to leave with them."""
    partner = state.ground.partners.get(order.partner)
    address = order.ship_to or (partner.address if partner else ())
    return Leaves(order.partner, address, order.carrier, order.service, order.leaves)


def _shipment(state: State, making: Making, order: Order) -> tuple[ShipmentNo, bool]:
    """The shipment an order joins, or one that is made for it."""
    before = state.releases.get(order.number)
    if before is not None:
        return before.shipment, False
    how, partner = leaves(state, order), state.ground.partners.get(order.partner)
    joins = partner is None or partner.joins
    known = state.shipments.to_join(how) if joins else None
    if known is not None:
        return known, True
    number = ShipmentNo(making.draw("shipment"))
    making.event(ShipmentMade(number, how, joins))
    return number, False


def _release_lines(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ReleaseLines) -> str:
    order, lines = _known(state, act.order), tuple(sorted(set(act.lines)))
    if not lines:
        raise Refusal("no_lines", f"No line of `{order.number}` was named.", "lines")
    known = {x.no for x in order.lines}
    if missing := [n for n in lines if n not in known]:
        raise Refusal("no_such_line", f"`{order.number}` has no line {missing[0]}.", "lines")
    plan = rulebook.ship_plan_for(rulebook.asked(state.ground, order))
    if plan is not None and not plan.apart:
        raise Refusal("goes_together", f"By {plan.name} the lines of `{order.number}` are released together.", "lines")
    claim(state, making, order, stamp.today)
    (judged,) = judged_orders(state, rulebook, [order], stamp.now)
    _allowed(state, order, judged, ReleaseOrders((order.number,)))
    has = {x.no for x, _ in on_hand(state, order)}
    if nothing := [n for n in lines if n not in has]:
        raise Refusal("nothing_on_hand", f"Nothing of line {nothing[0]} of `{order.number}` is on hand.", "lines")
    some = () if set(lines) >= has else lines
    says, at_once = _released(state, making, rulebook, stamp, order, judged, "", some)
    return said(says, wave_at_release(state, making, rulebook, stamp, [order]) if at_once else "")


def _release_due(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ReleaseDue) -> str:
    if ByClock.RELEASES not in state.runs_awaited:
        raise Refusal("not_due", "Nothing waits to be released by the clock.")
    runs = [r for r in rulebook.release_runs_at(state.settings.site) if act.minute in r.minutes]
    told = [f"It is {clock(act.minute)}."] if runs else ["Nothing is released at this time any more."]
    for run in runs:
        orders = [o.number for o in _may_be_released(state) if _wants(state, rulebook, run, o, stamp)]
        if not orders:
            told.append("No order waits to be released.")
            continue
        try:
            with making.unless_refused():
                told.append(making.act(ReleaseOrders(tuple(orders), run.warned, run.whole)))
        except Refusal as refusal:
            told.append(refusal.problem.says)
    making.event(ReleaseAwaited(_minutes(state, rulebook)))
    return said(*told)


def _may_be_released(state: State) -> list[Order]:
    """Orders that go out from here, have reached the floor, and are not released."""
    return [
        o for o in going_out(state) if state.is_confirmed(o.number) and o.number not in state.releases
    ]  # fmt: skip


def _wants(state: State, rulebook: Rulebook, run: ReleaseRun, order: Order, stamp: Stamp) -> bool:
    partner = state.ground.partners.get(order.partner)
    if run.partner_groups and (partner is None or partner.group not in run.partner_groups):
        return False
    if not one_of(rulebook.class_of(state.ground, order), run.order_classes):
        return False
    return run.within_days is None or (order.leaves - stamp.today).days <= run.within_days


def _minutes(state: State, rulebook: Rulebook) -> tuple[int, ...]:
    """The minutes of the day at which orders that wait now may be released by the clock; none when nobody waits."""
    runs = rulebook.release_runs_at(state.settings.site)
    return tuple(sorted({m for r in runs for m in r.minutes})) if runs and _may_be_released(state) else ()


def _pass_gate(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PassGate) -> str:
    order, why = _known(state, act.order), reason(act.why)
    if (hold := hold_of(state, order)) is not None:
        raise hold
    claim(state, making, order, stamp.today)
    (judged,) = judged_orders(state, rulebook, [order], stamp.now)
    if judged.verdict is not GateVerdict.STOP:
        raise Refusal("not_stopped", f"No gate stops `{order.number}`: release it.")
    says, at_once = _released(state, making, rulebook, stamp, order, judged, why)
    return said(says, wave_at_release(state, making, rulebook, stamp, [order]) if at_once else "")


def _undo_release(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: UndoRelease) -> str:
    order, why = _known(state, act.order), reason(act.why)
    if order.number not in state.releases:
        raise Refusal("not_released", f"`{order.number}` is not released.")
    return taken_back(state, making, rulebook, stamp, order, why)


def taken_back(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, order: Order, why: str) -> str:
    """Take a release back, with the tasks it led to: what was kept is promised again as it was before; what is said of it. Refused when a task has
    begun."""
    shipment = state.releases[order.number].shipment
    ended, tasks = out_of_wave(state, making, rulebook, stamp, order, why)
    making.event(ReleaseUndone(order.number, why))
    are = "1 reservation is" if ended == 1 else f"{ended} reservations are"
    with_them = f"{counted(tasks, 'task')} cancelled, " if tasks else ""
    gone = "has ended" if shipment not in state.shipments else "goes on without it"
    says = f"{with_them}{are} given up, shipment `{shipment}` {gone}."
    return f"The release of `{order.number}` is undone: {why}. {says}"


def _change_gate(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ChangeGate) -> str:
    order, why = _known(state, act.order), reason(act.why)
    if order.inbound or not state.is_confirmed(order.number) or state.is_cancelled(order.number):
        raise Refusal("not_open", f"`{order.number}` does not wait at a gate of this floor.")
    if order.number in state.releases:
        raise Refusal("released_already", f"`{order.number}` was released. Take that back first.")
    mine = [g for g in rulebook.gates_at(state.settings.site) if g.kind is GateKind.COVER]
    gate = next((g for g in mine if g.name == act.gate), None)
    if gate is None and act.gate:
        raise Refusal("unknown_gate", f"There is no gate called {act.gate} at this site that measures.", "gate")
    making.event(GateGiven(order.number, gate, f"@{stamp.who} gave it", why))
    told = f"has the gate {gate.name}" if gate else "waits at no gate that measures"
    return f"`{order.number}` {told} from now on: {why}."


def _say_to_order(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: SayToOrder) -> str:
    order = _known(state, act.order)
    if (hold := hold_of(state, order)) is not None:
        raise hold
    row = row_for(state, rulebook, order)
    gate = next((p.gate for p in row if p.gate.id == act.gate and p.gate.kind is GateKind.WORD), None)
    if gate is None:
        raise Refusal("unknown_gate", f"`{order.number}` comes to no gate `{act.gate}` that asks for a word.", "gate")
    why = act.why.strip() if act.yes and not act.why.strip() else reason(act.why)
    making.event(WordGiven(order.number, gate.id, gate.name, act.yes, why))
    (judged,) = judged_orders(state, rulebook, [order], stamp.now)
    then = judged.waits_at
    if then is None:
        warned = judged.verdict is GateVerdict.WARN
        next_ = f"It may go with a warning: {gate_told(judged)}." if warned else "It may go."
    else:
        next_ = "It is stopped." if then.id == gate.id else f"It waits at {then.name} now: {then.says}."
    return said(
        f"@{stamp.who} says {YES[act.yes]} to `{order.number}` at {gate.name}{f': {why}' if why else ''}.",
        next_,
    )


def _by_the_host(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, order: Order, why: str) -> str:
    """Take a release back since the host said something else; once somebody fetches it, the open part goes and what was fetched too much is put
    back."""
    try:
        with making.unless_refused():
            return taken_back(state, making, rulebook, stamp, order, why)
    except Refusal as refusal:
        less = trimmed(state, making, rulebook, stamp, order)
        if state.is_cancelled(order.number):
            # tasks are made anew, or drop what they were to fetch for it, while it is still in its waves
            less = said(less, waves_after(state, making, rulebook, stamp), picks_after(state, making, rulebook, stamp))
            for number in [w.number for w in state.waves.of_order(order.number) if not w.cancelled]:
                making.event(WaveLeft(number, order.number, why))
                if not state.waves[number].orders and not open_of(state, state.waves[number]):
                    making.event(WaveCancelled(number, "no order is left in it"))
            making.event(ReleaseUndone(order.number, why))
            return said(f"`{order.number}` is picked no further: {why}.", less)
        goes = f"`{order.number}` goes on as it was released, although {why}: {refusal.problem.says}"
        return said(f"Of `{order.number}` less is picked: {why}.", less) if less else goes


def after(state: State, making: Making, rulebook: Rulebook, stamp: Stamp) -> str:
    """An order that reaches the floor gets the gate that is for it now, and keeps it; a release that the host's word undoes is taken
    back."""
    orders, told = state.ordered, list[str]()
    touched: dict[OrderNo, None] = {}
    was: dict[OrderNo, Order | None] = {}
    for keeper, key, before in state.journal.puts():
        if keeper is orders.confirmed or keeper is orders.cancelled or keeper is orders.told:
            touched[key] = None
        if keeper is orders.told:
            was.setdefault(key, before or state.ground.orders.get(key))
    for number in touched:
        order, before = state.order(number), was.get(number)
        if order is None or order.inbound or order.site != state.settings.site:
            continue
        if number in state.releases:
            why = "the host cancelled it" if state.is_cancelled(number) else ""
            if not why and before is not None:
                changed = (before.lines, leaves(state, before)) != (order.lines, leaves(state, order))
                why = "the host changed it" if changed else ""
            if why:
                told.append(_by_the_host(state, making, rulebook, stamp, order, why))
        if number in state.words_said and before is not None and before.lines != order.lines:
            making.event(WordsLapsed(number, "the host changed it"))
            told.append(f"What was said to `{number}` at its gates holds no more: the host changed it.")
        waits = state.is_confirmed(number) and not state.is_cancelled(number)
        if waits and ByClock.RELEASES not in state.runs_awaited and (minutes := _minutes(state, rulebook)):
            making.event(ReleaseAwaited(minutes))
        if waits and number not in state.gates_given:
            making.event(GatesGiven(number, row_of(rulebook, state.ground, state.settings.site, order)))
    return said(*told, set_down_unkept(state, making, rulebook, stamp, list(making.events)))


DECIDES = (
    deciding(ReleaseOrders, _release_orders),
    deciding(ReleaseLines, _release_lines),
    deciding(ReleaseDue, _release_due),
    deciding(PassGate, _pass_gate),
    deciding(UndoRelease, _undo_release),
    deciding(ChangeGate, _change_gate),
    deciding(SayToOrder, _say_to_order),
)
"""How its acts are decided."""
