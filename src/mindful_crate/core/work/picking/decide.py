"""How picking is decided: goods kept for orders leave their bins, stay kept in hands, and are set down where they are brought."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import BinCode
from mindful_crate.core.floor.plates import in_bin, on_plate
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Task, TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.work import numbered
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.picking import looking
from mindful_crate.core.work.picking.acts import PickInOffice
from mindful_crate.core.work.picking.doing import (
    DOES,
    NOTHING_MORE,
    check_place,
    drop_unkept,
    fetch,
    set_down,
    stand_totes,
)
from mindful_crate.core.work.picking.handing import hand_on, pass_on
from mindful_crate.core.work.picking.keeping import keep_where, kept_less
from mindful_crate.core.work.picking.looking import lies_in, takes
from mindful_crate.core.work.picking.zoning import chain_begun
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.decide import reason
from mindful_crate.core.work.tasks.events import TaskCancelled


def _pick_in_office(state: State, making: Making, _: Rulebook, stamp: Stamp, act: PickInOffice) -> str:
    task = state.tasks.get(act.task)
    if task is None or task.need is not Need.PICK:
        raise Refusal("unknown_task", f"There is no pick task `{act.task}`.")
    if task.state.ended:
        raise Refusal("task_done", f"Pick task `{task.number}` is {task.state.value}.")
    if task.held:
        raise Refusal("task_held", f"Task `{task.number}` is held: {task.held}. Let it go first.")
    if task.person is not None and task.person != stamp.who:
        raise Refusal("other_person", f"@{task.person} is at task `{task.number}`.")
    why = reason(act.why)
    for move in takes(task):
        fetch(state, making, task, move, stamp, 0, _lying(state, move, act.serials))
    if act.begin:
        return f"Task `{task.number}` is picked by @{stamp.who}, and still to be set down."
    places = [m for m in state.tasks[task.number].going.remaining if m.do is Do.PLACE]
    at: dict[BinCode, None] = {}
    if totes := [t for t in task.going.totes if t.came]:
        along = act.bin or looking.set_at(task)
        if along is None:
            raise Refusal("no_bin", "No rule says where it is brought: say where it was set down.", "bin")
        check_place(state, along)
        stand_totes(state, making, task, totes, along, stamp.who)
        at[along] = None
    for move in places:
        code = act.bin or move.at
        if code is None:
            raise Refusal("no_bin", "No rule says where it is brought: say where it was set down.", "bin")
        check_place(state, code)
        set_down(state, making, state.tasks[task.number], move, move.goods, code, stamp, why)
        at[code] = None
    if not state.tasks[task.number].going.remaining and not state.tasks[task.number].state.ended:
        making.event(TaskCancelled(task.number, NOTHING_MORE))
    where = " and ".join(f"`{c}`" for c in at)
    return f"Task `{task.number}` is picked: {counted(len(task.plan.orders), 'order')} in {where}."


def to_name(state: State, task: Task) -> tuple[int, tuple[str, ...]]:
    """How many pieces of a task must be named by their serial numbers before they are fetched, and among which."""
    count, among = 0, list[str]()
    for move in task.going.remaining:
        if move.do is Do.TAKE and move.at is not None and move.goods:
            source = on_plate(move.plate) if move.plate else in_bin(move.at)
            for goods in move.goods:
                if goods.item in state.serials.kept and numbered.clear(state, source, goods) is None:
                    count += goods.quantity
                    among += state.serials.at(source, goods)
    return count, tuple(dict.fromkeys(among))


def _lying(state: State, move: Move, serials: tuple[str, ...]) -> tuple[str, ...]:
    """Of the pieces that are named those that lie where a take is, and no more of them than it fetches."""
    if not move.goods or not state.serials.kept:
        return ()
    source = lies_in(state, move)
    return tuple(n for g in move.goods for n in [n for n in serials if n in state.serials.at(source, g)][: g.quantity])


def after(state: State, making: Making, rulebook: Rulebook, stamp: Stamp) -> str:
    """What was put back where it was fetched is kept there again; what a begun task is to fetch, and is kept no more, is dropped from it; what was set
    down at a hand-over point goes on."""
    _kept_again(state, making)
    tasks = dict.fromkeys(n for o in kept_less(state) for w in state.waves.of_order(o) for n in w.tasks)
    begun = [
        t for n in tasks
        if (t := state.tasks[n]).state is TaskState.TAKEN or (not t.state.ended and (t.going.parts or chain_begun(state, t)))
    ]  # fmt: skip
    dropped = [drop_unkept(state, making, task, stamp) for task in begun]
    events = list(making.events)
    return said(
        *dropped,
        hand_on(state, making, rulebook, stamp, events),
        pass_on(state, making, rulebook, stamp, events),
    )


def _kept_again(state: State, making: Making) -> None:
    going = state.tasks.going
    taken = [
        key for keeper, key, was in state.journal.puts()
        if keeper is going and was is not None and was.state is TaskState.TAKEN
    ]  # fmt: skip
    for number in dict.fromkeys(taken):
        task = state.tasks.get(number)
        if task is None or task.state is not TaskState.OPEN:
            continue
        for move in task.plan.moves:
            if move.do is Do.TAKE and move.goods and move.serves:
                keep_where(state, making, move, move.goods, (move.at, None, number), (move.at, move.plate, None))


DECIDES = (deciding(PickInOffice, _pick_in_office), *DOES)
"""How its acts are decided."""
