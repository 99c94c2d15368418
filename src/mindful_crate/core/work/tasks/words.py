"""What the log says of its events: tasks, whatever they are for."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, PersonId, TaskNo
from mindful_crate.core.floor.plates import Holder
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, PartDone, Plan, Task, TaskState
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import all_of, counted
from mindful_crate.core.work.rows import Made, Row, Words, telling
from mindful_crate.core.work.tasks.acts import CancelTask, HoldTask, LetTaskGo, RaiseTask, ReassignTask, SetDown
from mindful_crate.core.work.tasks.before import GoodsPlaced, PlatePlaced, TaskMade, TaskRetargeted, TaskTaken
from mindful_crate.core.work.tasks.events import (
    GoodsRest,
    MoveDone,
    MoveTurned,
    RestEnded,
    TaskCancelled,
    TaskHeld,
    TaskLeft,
    TaskRaised,
    TaskReassigned,
    TaskSetDown,
    WorkMade,
)


def _to(moves: Iterable[Move]) -> str:
    """The first bin that something is to be placed in."""
    return next((m.at or "" for m in moves if m.do is Do.PLACE), "")


def _made(task: TaskNo, from_bin: BinCode | None, to: BinCode | str | None) -> str:
    return f"task `{task}`" + (f": `{from_bin}` to `{to}`" if to else " without a bin")


def _work_made(e: WorkMade) -> str:
    if all(m.do is Do.LOOK for m in e.moves):
        return f"task `{e.task}`: to be looked at in `{e.moves[0].at}`"
    return _made(e.task, e.moves[0].at, _to(e.moves))


def _taken(person: PersonId, task: TaskNo) -> str:
    return f"@{person} took up task `{task}`"


def _turned(task: TaskNo, to: BinCode | None) -> str:
    return f"task `{task}` " + (f"goes to `{to}` now" if to else "has no bin now")


def _placed(what: str, on: str | None, code: BinCode, reason: str) -> str:
    return f"{what} placed {f'on `{on}` in' if on else 'in'} `{code}`" + (f": {reason}" if reason else "")


def _listed(goods: Iterable[Goods]) -> str:
    return ", ".join(f"{g.quantity} of `{g.item}`" for g in goods)


def _move_done(e: MoveDone) -> str:
    if not e.goods and e.plate is None:
        return f"task `{e.task}` is done in `{e.at}`" + (f": {e.reason}" if e.reason else "")
    if e.target.holder in (Holder.TASK, Holder.PERSON):
        return _taken(e.by, e.task)
    on = e.target.code if e.target.holder is Holder.PLATE else None
    return _placed(_listed(e.goods) or f"plate `{e.plate}`", on, e.at, e.reason)


def loose_told(state: State, plan: Plan) -> str:
    """The loose goods a task takes up, wherever they lie."""
    items = state.ground.items
    return ", ".join(f"{items[g.item].told(g.quantity)} of {items[g.item].name}" for g in plan.loose)


def picks_told(plan: Plan) -> str:
    """What a pick task fetches, counted: ``3 lines of `SO-1` and `SO-2` from 2 bins``."""
    lines = {s.line for m in plan.moves for s in m.serves}
    orders = [f"`{o}`" for o in plan.orders]
    shown = all_of(orders) if len(orders) < 4 else f"{', '.join(orders[:3])} and {len(orders) - 3} more"
    bins = {m.at for m in plan.moves if m.do is Do.TAKE}
    return f"{counted(len(lines), 'line')} of {shown} from {counted(len(bins), 'bin')}"


def _share_told(state: State, plan: Plan, part: PartDone) -> str:
    """How much was placed; of several kinds, of which."""
    item = state.ground.items[next(m.goods[0].item for m in plan.moves if m.no == part.move)]
    several = len({g.item for m in plan.moves for g in m.goods}) > 1
    return item.told(part.quantity) + (f" of {item.name}" if several else "")


def task_told(state: State, task: Task) -> str:
    """A task as it stands: how far it is, what it is about, where it goes."""
    what = ", ".join(f"`{p}`" for p in task.plan.plates) or (
        picks_told(task.plan) if task.need is Need.PICK else loose_told(state, task.plan)
    )
    if task.need is Need.PICK and task.state is TaskState.DONE:
        return f"done: {what} in {all_of(dict.fromkeys(f'`{p.bin}`' for p in task.placed))}"
    if task.need is Need.INSPECT and task.state is TaskState.DONE:
        return f"done: {what} inspected in `{task.going.parts[-1].bin}`, {task.going.parts[-1].reason}"
    shares = []
    for part in task.placed:
        much = "" if task.plan.plates else f"{_share_told(state, task.plan, part)} "
        shares.append(f"{much}{f'on `{part.plate}` ' if part.plate else ''}in `{part.bin}`")
    placed = ", ".join(shares)
    if task.state is TaskState.DONE:
        return f"done: {what} {placed}" if task.plan.plates else f"done: {placed}"
    if task.state is TaskState.CANCELLED:
        return f"cancelled: {task.held}; {what} stays in `{task.from_bin}`"
    found = f"held, {task.held}" if task.held else task.state.value
    found += f", priority {task.priority}" if task.priority else ""
    found += f" by @{task.person}" if task.person else f", for @{task.whose} alone" if task.whose else ""
    if task.need is Need.INSPECT and task.going.place is None:
        return f"{found}: {what}, to be looked at in `{task.placed_in or task.from_bin}`"
    to = f"`{task.to_bin}`" if task.to_bin else "a bin the worker chooses"
    return f"{found}: {what} to {to}" + (f"; {placed} already" if placed else "")


WORDS: tuple[Row[Words[object]], ...] = (
    telling(WorkMade, _work_made),
    telling(MoveDone, _move_done),
    telling(MoveTurned, lambda e: _turned(e.task, e.at)),
    telling(TaskMade, lambda e: _made(e.task, e.from_bin, e.to_bin)),
    telling(TaskTaken, lambda e: _taken(e.person, e.task)),
    telling(TaskRetargeted, lambda e: _turned(e.task, e.to_bin)),
    telling(PlatePlaced, lambda e: _placed(f"plate `{e.plate}`", e.on, e.bin, e.reason)),
    telling(GoodsPlaced, lambda e: _placed(_listed(e.goods), e.plate, e.bin, e.reason)),
    telling(
        GoodsRest,
        lambda e: (
            f"{f'plate `{e.plate}`' if e.plate else _listed(e.goods)} waits in `{e.at}` for a task to be made"
            + (f": {e.why}" if e.why else "")
        ),
    ),
    telling(RestEnded, lambda e: f"`{e.key}` waits for no task any more: {e.why}" if e.why else ""),
    telling(TaskSetDown, lambda e: f"what task `{e.task}` is about is back where it was taken"),
    telling(TaskLeft, lambda e: f"task `{e.task}` waits there for whoever goes on"),
    telling(TaskHeld, lambda e: f"task `{e.task}` " + (f"held: {e.why}" if e.why else "let go")),
    telling(
        TaskReassigned,
        lambda e: f"task `{e.task}` is for " + (f"@{e.person} of " if e.person else "") + f"crew `{e.crew}` now",
    ),
    telling(TaskRaised, lambda e: f"task `{e.task}` has priority {e.priority} now"),
    telling(TaskCancelled, lambda e: f"task `{e.task}` cancelled: {e.why}"),
)
"""What the log says of its events."""
ASKED: tuple[Row[Words[object]], ...] = (
    telling(SetDown, lambda a: f"What task `{a.task}` is about is put back"),
    telling(HoldTask, lambda a: f"Task `{a.task}` is held: {a.why}"),
    telling(LetTaskGo, lambda a: f"Task `{a.task}` is let go"),
    telling(
        ReassignTask,
        lambda a: f"Task `{a.task}` is given to " + (f"@{a.person} of " if a.person else "") + f"crew `{a.crew}`",
    ),
    telling(RaiseTask, lambda a: f"Task `{a.task}` gets priority {a.priority}"),
    telling(CancelTask, lambda a: f"Task `{a.task}` is cancelled: {a.why}"),
)
"""What the office asks, in words."""
MAKES: dict[Made, tuple[Row[Words[object]], ...]] = {
    "task": (telling(WorkMade, lambda e: e.task), telling(TaskMade, lambda e: e.task)),
    "bin": (
        telling(WorkMade, lambda e: _to(e.moves)),
        telling(MoveTurned, lambda e: e.at or ""),
        telling(TaskMade, lambda e: e.to_bin or ""),
        telling(TaskRetargeted, lambda e: e.to_bin or ""),
    ),
}
"""What its events make or choose."""
