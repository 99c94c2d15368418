"""Events of tasks as logs before version 3 have them, and how each changes a state now. They are never made any more, and
their folds stay for good: what they leave unsaid is in entries before them, so nothing could turn one into another."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, CrewId, PersonId, PlateNo, ReceiptNo, RuleId, TaskNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.plates import in_bin, in_hands, on_plate, with_person
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At
from mindful_crate.core.work.tasks import fold as tasks
from mindful_crate.core.work.tasks.events import MoveDone, MoveTurned, WorkMade

TAKE, PLACE = 1, 2
"""The moves that every task had."""


@record
class TaskMade:
    """A task for a plate, or for loose ``goods``. ``to_bin`` is None when no rule found one: the worker chooses.
    ``crew`` None: it belongs to the worker who makes it."""

    task: TaskNo
    plate: PlateNo | None
    from_bin: BinCode
    crew: CrewId | None
    to_bin: BinCode | None = None
    rule: RuleId | None = None
    need: Need = Need.PUT_AWAY
    goods: tuple[Goods, ...] = ()
    from_plate: PlateNo | None = None
    receipt: ReceiptNo | None = None
    """The receipt of loose goods that are put away."""
    kind: Literal["task_made"] = "task_made"


@record
class TaskTaken:
    """Somebody carries the plate or the goods of a task."""

    task: TaskNo
    person: PersonId
    kind: Literal["task_taken"] = "task_taken"


@record
class TaskRetargeted:
    """The bin shown no longer held, so the rules were asked again."""

    task: TaskNo
    to_bin: BinCode | None = None
    rule: RuleId | None = None
    kind: Literal["task_retargeted"] = "task_retargeted"


@record
class PlatePlaced:
    """The plate of a task stands in a bin, perhaps ``on`` another plate there; the task is done."""

    task: TaskNo
    plate: PlateNo
    bin: BinCode
    reason: str = ""
    on: PlateNo | None = None
    kind: Literal["plate_placed"] = "plate_placed"


@record
class GoodsPlaced:
    """Goods of a task lie in a bin, perhaps on a plate there. The task is done when none are left."""

    task: TaskNo
    bin: BinCode
    goods: tuple[Goods, ...]
    plate: PlateNo | None = None
    reason: str = ""
    kind: Literal["goods_placed"] = "goods_placed"


TaskEventBefore = TaskMade | TaskTaken | TaskRetargeted | PlatePlaced | GoodsPlaced
"""What may have happened."""


def _task_made(state: State, e: TaskMade, at: At) -> None:
    moves = (
        Move(TAKE, Do.TAKE, e.from_bin, e.goods, e.plate or e.from_plate),
        Move(PLACE, Do.PLACE, e.to_bin, e.goods, e.plate, e.rule),
    )
    about = (Ref(DocKind.RECEIPT, e.receipt),) if e.receipt else ()
    tasks.work_made(state, WorkMade(e.task, e.need, e.crew, moves, about), at)


def _task_taken(state: State, e: TaskTaken, at: At) -> None:
    plan, goods = state.tasks.plans[e.task], state.tasks[e.task].goods
    off = on_plate(plan.from_plate) if plan.from_plate else in_bin(plan.from_bin)
    to = with_person(e.person) if plan.plate else in_hands(e.task)
    tasks.move_done(state, MoveDone(e.task, TAKE, e.person, plan.from_bin, off, to, goods, plan.plate), at)


def _task_retargeted(state: State, e: TaskRetargeted, at: At) -> None:
    tasks.move_turned(state, MoveTurned(e.task, PLACE, e.to_bin, e.rule), at)


def _whose(state: State, task: TaskNo) -> PersonId:
    """Who took a task."""
    person = state.tasks.going[task].person
    assert person is not None
    return person


def _plate_placed(state: State, e: PlatePlaced, at: At) -> None:
    person = _whose(state, e.task)
    to = on_plate(e.on) if e.on else in_bin(e.bin)
    tasks.move_done(state, MoveDone(e.task, PLACE, person, e.bin, with_person(person), to, (), e.plate, e.reason), at)


def _goods_placed(state: State, e: GoodsPlaced, at: At) -> None:
    to = on_plate(e.plate) if e.plate else in_bin(e.bin)
    tasks.move_done(
        state, MoveDone(e.task, PLACE, _whose(state, e.task), e.bin, in_hands(e.task), to, e.goods, None, e.reason), at
    )


FOLDS = (
    folding(TaskMade, _task_made),
    folding(TaskTaken, _task_taken),
    folding(TaskRetargeted, _task_retargeted),
    folding(PlatePlaced, _plate_placed),
    folding(GoodsPlaced, _goods_placed),
)
"""How they change a state."""
