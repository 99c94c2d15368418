"""What happens: tasks, whatever they are for."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, CrewId, PersonId, PlateNo, ReceiptNo, RuleId, TaskNo
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.steps import Need


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


@record
class TaskSetDown:
    """What was taken is back where it was taken from; the task is open again."""

    task: TaskNo
    kind: Literal["task_set_down"] = "task_set_down"


@record
class TaskHeld:
    """Nobody may take a task for this reason; with an empty one it is let go."""

    task: TaskNo
    why: str = ""
    kind: Literal["task_held"] = "task_held"


@record
class TaskReassigned:
    """A task is another crew's."""

    task: TaskNo
    crew: CrewId
    kind: Literal["task_reassigned"] = "task_reassigned"


@record
class TaskRaised:
    """A task has another priority; higher comes first."""

    task: TaskNo
    priority: int
    kind: Literal["task_raised"] = "task_raised"


@record
class TaskCancelled:
    """A task will not be done; what it is about stays where it is."""

    task: TaskNo
    why: str
    kind: Literal["task_cancelled"] = "task_cancelled"


TaskEvent = (
    TaskMade
    | TaskTaken
    | TaskRetargeted
    | PlatePlaced
    | GoodsPlaced
    | TaskSetDown
    | TaskHeld
    | TaskReassigned
    | TaskRaised
    | TaskCancelled
)
"""What may happen."""
