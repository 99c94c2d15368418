"""How waves are decided: which orders go together, stock kept for them, tasks made; and how they are held, changed and taken back."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import timedelta

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import OrderNo, WaveNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Task
from mindful_crate.core.floor.waves import Wave, WaveState, state_of
from mindful_crate.core.placing.free import Carried
from mindful_crate.core.problem import Refusal
from mindful_crate.core.releasing.planning import (
    LeftOut,
    as_they_go,
    awaited_after,
    filled,
    plan_of,
    size_of,
    to_come,
    why_not,
)
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.times import clock
from mindful_crate.core.rulebook.waves import Goes, Method, WavePlan
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.picking.arranging import hold_told, to_fetch
from mindful_crate.core.work.picking.keeping import kept_less
from mindful_crate.core.work.picking.zoning import chain_begun, held_now, with_chain
from mindful_crate.core.work.refilling.asking import ask_for_orders
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.decide import reason
from mindful_crate.core.work.tasks.events import TaskCancelled, TaskHeld
from mindful_crate.core.work.tasks.following import not_begun
from mindful_crate.core.work.waving.acts import (
    AddToWave,
    CancelWave,
    HoldWave,
    LetWaveGo,
    MakeWave,
    TakeOutOfWave,
    WaveDue,
)
from mindful_crate.core.work.waving.events import (
    WaveAllocated,
    WaveAwaited,
    WaveCancelled,
    WaveHeld,
    WaveJoined,
    WaveLeft,
    WaveMade,
    WaveRan,
)
from mindful_crate.core.work.waving.keeping import allocate, given_up
from mindful_crate.core.work.waving.working import MOST_TOLD, few, make_tasks, open_of, out_of_wave

BY_HAND = "By hand"
AT_RELEASE = "Released at once"
"""What waves are called that no plan made."""


# Waves


def _number(state: State, making: Making) -> WaveNo | None:
    """The next number; None where there is no series, since a floor may be older than waves."""
    return WaveNo(making.draw("wave")) if "wave" in state.ground.series else None


def wave_at_release(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, orders: Sequence[Order]
) -> str:  # fmt: skip
    """The wave of orders that no plan takes, let go at once: stock was kept for them; what is said of it."""
    number = _number(state, making)
    if number is None:
        return "There is no number series for a wave, so no task is made: add it in the catalogue, under Numbering."
    making.event(WaveMade(number, None, AT_RELEASE, Method.ORDER, tuple(o.number for o in orders)))
    making.event(WaveAllocated(number))
    says = make_tasks(state, making, rulebook, stamp, number, to_fetch(state, [o.number for o in orders]))
    return said(f"Wave `{number}` is let go. {says}", _refilled(state, making, rulebook, stamp, number, orders))


def awaits(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, order: Order) -> str:
    """An order waits from now on, for the plan that takes it and for those that will when its day is nearer; what is said of it."""
    size, plans = size_of(state, rulebook, order), rulebook.waves_at(state.settings.site)
    for plan, days in to_come(state, plans, size, stamp.today):
        if plan.minutes:
            after = awaited_after(days, plan.cut_off)
            known = state.waves_awaited.get(plan.id)
            if known is None or stamp.at + timedelta(minutes=after) < known.since:
                making.event(WaveAwaited(plan.id, plan.minutes, after))
        if not days and plan.minutes:
            return f"It waits for {plan.name}, which runs at {', '.join(map(clock, plan.minutes))}."
        if not days:
            return f"It waits for {plan.name}, which the office makes."
    return "It waits for a wave that the office makes."


def waiting(state: State, rulebook: Rulebook, stamp: Stamp) -> list[tuple[Order, WavePlan | None]]:
    """Released orders that wait for a wave, as they are given stock, each with the first plan that takes it."""
    orders = [o for r in state.releases.values() if r.waits and (o := state.order(r.order)) is not None]
    return [(o, plan_of(state, rulebook, o, stamp.today)) for o in as_they_go(orders)]


def _make_wave(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: MakeWave) -> str:
    plan = rulebook.wave_plan(act.plan)
    if act.plan and (plan is None or plan.site not in (None, state.settings.site)):
        raise Refusal("unknown_plan", "There is no such wave plan at this site.", "plan")
    orders = [_waits(state, n) for n in dict.fromkeys(act.orders)]
    if not orders:
        if plan is None:
            raise Refusal("no_orders", "No order was named.", "orders")
        orders = [o for o, its in waiting(state, rulebook, stamp) if its is not None and its.id == plan.id]
        if not orders:
            raise Refusal("no_orders", f"No released order waits for {plan.name}.", "orders")
    return _wave(state, making, rulebook, stamp, plan, as_they_go(orders))


def _wave(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, plan: WavePlan | None, orders: list[Order]
) -> str:
    """A wave of orders that wait, as many as it holds."""
    left: list[LeftOut] = []
    if plan is not None:
        taken, left = filled(plan.most, [size_of(state, rulebook, o) for o in orders])
        orders = [t.order for t in taken]
    number = WaveNo(making.draw("wave"))
    name, method = (plan.name, plan.method) if plan else (BY_HAND, Method.ORDER)
    making.event(WaveMade(number, plan.id if plan else None, name, method, tuple(o.number for o in orders)))
    goes = plan.goes if plan else Goes.LET_GO
    says = f"Wave `{number}` of {name}: {counted(len(orders), 'order')}, {few([f'`{o.number}`' for o in orders])}."
    if goes is not Goes.GATHERED:
        says = said(
            says, _worked(state, making, rulebook, stamp, number, "its plan holds it" if goes is Goes.HELD else "")
        )
    for why in dict.fromkeys(x.says for x in left):
        says = said(says, f"Not {few([f'`{x.order}`' for x in left if x.says == why])}: {why}.")
    return says


def _worked(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, number: WaveNo, held: str) -> str:
    """Keep stock for all orders of a wave, one after another as they go, and make its tasks; what is said of it."""
    wave = state.waves[number]
    orders = as_they_go([o for n in wave.orders if (o := state.order(n)) is not None])
    short, carried = list[str](), Carried()
    for order in orders:
        lacks = allocate(state, making, rulebook, stamp, order, carried=carried)
        short += [f"`{order.number}`: {s[:1].lower()}{s[1:]}" for s in lacks]
        if not state.reservations.of_order(order.number):
            short.append(f"`{order.number}`: nothing of it is on hand any more.")
    making.event(WaveAllocated(number, held))
    kept = to_fetch(state, [o.number for o in orders])
    says = said(
        make_tasks(state, making, rulebook, stamp, number, kept),
        _refilled(state, making, rulebook, stamp, number, orders),
    )
    more = f"And {len(short) - MOST_TOLD} more." if len(short) > MOST_TOLD else ""
    return said(says, *short[:MOST_TOLD], more)


def _refilled(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, number: WaveNo, orders: Iterable[Order]
) -> str:  # fmt: skip
    """What orders of a wave are promised and have in no bin is asked for from reserve, unless its plan leaves that; what is said of it."""
    plan = rulebook.wave_plan(state.waves[number].plan)
    if plan is not None and not plan.refills:
        return ""
    items = [x.item for o in orders for x in o.lines]
    return ask_for_orders(state, making, rulebook, stamp, items)


def _known(state: State, number: WaveNo) -> Wave:
    wave = state.waves.get(number)
    if wave is None:
        raise Refusal("unknown_wave", f"There is no wave `{number}`.", "wave")
    if wave.cancelled:
        raise Refusal("wave_cancelled", f"Wave `{number}` was cancelled: {wave.cancelled}.", "wave")
    if state_of(wave, state.tasks) is WaveState.DONE:
        raise Refusal("wave_done", f"Wave `{number}` is done.", "wave")
    return wave


def _waits(state: State, number: OrderNo) -> Order:
    """An order that waits for a wave; refused otherwise, with where it is."""
    order, release = state.order(number), state.releases.get(number)
    if order is None:
        raise Refusal("unknown_order", f"There is no order `{number}`.", "order")
    if release is None:
        raise Refusal("not_released", f"`{number}` is not released, so no wave may take it.", "order")
    if not release.waits:
        mine = [w for w in state.waves.of_order(number) if not w.cancelled]
        says = f"is in wave `{mine[-1].number}` already" if mine else "was released before there were waves"
        raise Refusal("in_a_wave", f"`{number}` {says}.", "order")
    return order


def _let_go(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: LetWaveGo) -> str:
    wave = _known(state, act.wave)
    if not wave.orders:
        raise Refusal("no_orders", f"Wave `{wave.number}` has no orders.")
    if not wave.allocated:
        return f"Wave `{wave.number}` is let go. {_worked(state, making, rulebook, stamp, wave.number, '')}"
    if not wave.held:
        raise Refusal("not_held", f"Wave `{wave.number}` is not held.")
    own = hold_told(wave)
    making.event(WaveHeld(wave.number))
    tasks = [t for t in open_of(state, wave) if t.held == own]
    for task in tasks:
        making.event(TaskHeld(task.number, held_now(state, rulebook, task)))
    return f"Wave `{wave.number}` is let go: {counted(len(tasks), 'task')}."


def _hold_wave(state: State, making: Making, _: Rulebook, __: Stamp, act: HoldWave) -> str:
    wave, why = _known(state, act.wave), reason(act.why)
    if wave.held:
        raise Refusal("held_already", f"Wave `{wave.number}` is held already: {wave.held}.")
    if not wave.allocated:
        raise Refusal("not_let_go", f"Nothing is kept for wave `{wave.number}` yet: nobody works it.")
    making.event(WaveHeld(wave.number, why))
    now = hold_told(state.waves[wave.number])
    open_ = open_of(state, wave)
    tasks = [t for t in open_ if not t.held and t.person is None]
    for task in tasks:
        making.event(TaskHeld(task.number, now))
    begun = [t for t in open_ if t.person is not None]
    says = f"Wave `{wave.number}` is held: {why}. {counted(len(tasks), 'task')} may not be taken."
    return said(says, f"Somebody is at {few([f'`{t.number}`' for t in begun])}." if begun else "")


def _add(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: AddToWave) -> str:
    wave, order = _known(state, act.wave), _waits(state, act.order)
    if wave.gone:
        says = f"Wave `{wave.number}` was let go: nothing joins it any more. Make another of `{order.number}`."
        raise Refusal("let_go", says, "wave")
    plan = rulebook.wave_plan(wave.plan)
    if plan is not None:
        mine = [size_of(state, rulebook, o) for n in (*wave.orders, order.number) if (o := state.order(n)) is not None]
        full = filled(plan.most, mine)[1]
        if full:
            raise Refusal("wave_full", f"`{order.number}` does not fit: {full[-1].says}.", "order")
    making.event(WaveJoined(wave.number, order.number))
    says = f"`{order.number}` is in wave `{wave.number}` now."
    if plan is not None and (why := why_not(state.ground, plan, size_of(state, rulebook, order), stamp.today)):
        says = said(says, f"{plan.name} would not have taken it: {why}.")
    if wave.allocated:
        short = list(allocate(state, making, rulebook, stamp, order))
        says = said(
            says,
            make_tasks(state, making, rulebook, stamp, wave.number, to_fetch(state, [order.number])),
            *short,
            _refilled(state, making, rulebook, stamp, wave.number, [order]),
        )
    return says


def _only_in(state: State, order: Order, wave: Wave) -> None:
    """Refuse to take an order out of a wave when what came later of it is in another."""
    others = [w for w in state.waves.of_order(order.number) if not w.cancelled and w.number != wave.number]
    if others:
        says = f"`{order.number}` is in wave `{others[0].number}`, too, with what came later. Undo its release instead."
        raise Refusal("in_two_waves", says, "order")


def _take_out(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: TakeOutOfWave) -> str:
    wave, why = _known(state, act.wave), reason(act.why)
    order = state.order(act.order)
    if order is None or act.order not in wave.orders:
        raise Refusal("not_in_wave", f"`{act.order}` is not in wave `{wave.number}`.", "order")
    _only_in(state, order, wave)
    kept, tasks = out_of_wave(state, making, rulebook, stamp, order, why)
    then = awaits(state, making, rulebook, stamp, order)
    return f"`{order.number}` left wave `{wave.number}`: {why}. {_ended(kept, tasks)} {then}"


def _ended(kept: int, tasks: int) -> str:
    """What ended with it."""
    are = "is" if kept == 1 else "are"
    return f"{counted(kept, 'reservation')} {are} given up, {counted(tasks, 'task')} cancelled."


def _cancel(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: CancelWave) -> str:
    wave, why = _known(state, act.wave), reason(act.why)
    orders = [o for n in wave.orders if (o := state.order(n)) is not None]
    for order in orders:
        _only_in(state, order, wave)
    begun = next((t for n in wave.tasks if (t := state.tasks[n]).going.parts), None)
    tasks = not_begun([*([begun] if begun else []), *open_of(state, wave)])
    for task in tasks:
        making.event(TaskCancelled(task, why))
    kept = 0
    for order in orders:
        making.event(WaveLeft(wave.number, order.number, why))
        kept += given_up(state, making, order)
        awaits(state, making, rulebook, stamp, order)
    making.event(WaveCancelled(wave.number, why))
    wait = "order waits" if len(wave.orders) == 1 else "orders wait"
    ended = _ended(kept, len(tasks))
    return f"Wave `{wave.number}` is cancelled: {why}. {ended} {len(wave.orders)} {wait} for another."


def _due(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: WaveDue) -> str:
    if act.plan not in state.waves_awaited:
        raise Refusal("not_due", "No order waits for that plan to run.")
    making.event(WaveRan(act.plan))
    plan = next((p for p in rulebook.waves_at(state.settings.site) if p.id == act.plan), None)
    if plan is None or not plan.minutes:
        return "The plan that was to run is gone, or runs by hand now: its orders wait for the office."
    by = act.due - timedelta(minutes=plan.cut_off)
    everybody = waiting(state, rulebook, stamp)
    mine = [o for o, its in everybody if its is not None and its.id == plan.id]
    early = [o for o in mine if (at := state.releases[o.number].at) is None or at <= by]
    says = f"{plan.name} runs, and no order waits for it: no wave is made."
    if early:
        says = _wave(state, making, rulebook, stamp, plan, early)
    still = [o for o in mine if state.releases[o.number].waits]
    plans = rulebook.waves_at(state.settings.site)
    left = (size_of(state, rulebook, o) for o, _ in everybody if state.releases[o.number].waits)
    ahead = (to_come(state, plans, size, stamp.today) for size in left)
    if days := [d for each in ahead for p, d in each if p.id == plan.id]:
        making.event(WaveAwaited(plan.id, plan.minutes, awaited_after(min(days))))
    if still:
        says = said(says, f"{counted(len(still), 'order')} {'waits' if len(still) == 1 else 'wait'} for its next run.")
    return says


def after(state: State, making: Making, rulebook: Rulebook, stamp: Stamp) -> str:
    """What was kept for an order and is lost is fetched by no task: those that were to fetch it are made anew of what is left."""
    told = []
    for number in kept_less(state):
        for wave in state.waves.of_order(number):
            tasks = with_chain(state, wave, open_of(state, wave, number))
            begun = any(t.person or t.going.parts or chain_begun(state, t) for t in tasks)
            if tasks and not begun and _lacks(state, number, tasks):
                orders = list(dict.fromkeys(o for t in tasks for o in t.plan.orders))
                for task in tasks:
                    making.event(TaskCancelled(task.number, "what it was to fetch is not kept any more"))
                rest = to_fetch(state, orders)
                made = make_tasks(state, making, rulebook, stamp, wave.number, rest) if rest else ""
                gone = few([f"`{t.number}`" for t in tasks])
                told.append(said(f"{gone} of wave `{wave.number}` cannot be picked as made.", made))
    return said(*told)


def _lacks(state: State, order: OrderNo, tasks: Iterable[Task]) -> bool:
    """Is less kept for an order than its tasks are to fetch?"""
    wanted: dict[LineKey, int] = {}
    for task in tasks:
        for move in task.going.remaining:
            if move.do is Do.TAKE:
                for each in move.serves:
                    if each.line.order == order:
                        wanted[each.line] = wanted.get(each.line, 0) + each.quantity
    return any(state.reservations.of_line(line) < quantity for line, quantity in wanted.items())


DECIDES = (
    deciding(MakeWave, _make_wave),
    deciding(LetWaveGo, _let_go),
    deciding(HoldWave, _hold_wave),
    deciding(AddToWave, _add),
    deciding(TakeOutOfWave, _take_out),
    deciding(CancelWave, _cancel),
    deciding(WaveDue, _due),
)
"""How its acts are decided."""
