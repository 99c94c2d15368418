"""What happens: tasks, whatever they are for."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, CrewId, PersonId, PlateNo, ReceiptNo, RecipeId, RuleId, TaskNo
from mindful_crate.core.catalog.refs import Ref
from mindful_crate.core.floor.plates import Spot
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.floor.tasks import Move
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.steps import Need


@record
class WorkMade:
    """A task: its moves, for a crew. ``crew`` None: it belongs to the worker who makes it. ``about`` are the documents it
    serves; ``leg`` says which part of the way it is by its recipe, ``held`` why nobody may take it yet."""

    task: TaskNo
    need: Need
    crew: CrewId | None
    moves: tuple[Move, ...]
    about: tuple[Ref, ...] = ()
    recipe: RecipeId | None = None
    leg: int = 0
    held: str = ""
    priority: int = 0
    at_minute: int | None = None
    """It is held until this minute of the day, the next one there is."""
    behind: TaskNo | None = None
    """Its totes are handed on by that task, of the zone before."""
    kind: Literal["work_made"] = "work_made"


@record
class MoveDone:
    """Somebody did a move of a task, or a part of it, in a bin: goods, or a whole plate, came from one spot to another. With
    the first the task is theirs."""

    task: TaskNo
    move: int
    by: PersonId
    at: BinCode
    source: Spot
    target: Spot
    goods: tuple[Goods, ...] = ()
    plate: PlateNo | None = None
    reason: str = ""
    serials: tuple[Serials, ...] = ()
    """Which pieces, of goods that are kept by serial numbers; none: all of their kind that were there."""
    kind: Literal["move_done"] = "move_done"


@record
class MoveTurned:
    """The bin shown no longer held, so the rules were asked again."""

    task: TaskNo
    move: int
    at: BinCode | None = None
    rule: RuleId | None = None
    share: int = 0
    kind: Literal["move_turned"] = "move_turned"


@record
class GoodsRest:
    """Goods are to go on from where they are, and no task takes them yet: a whole plate, or loose goods of receipts."""

    key: str
    need: Need
    at: BinCode
    plate: PlateNo | None = None
    goods: tuple[Goods, ...] = ()
    receipts: tuple[ReceiptNo, ...] = ()
    recipe: RecipeId | None = None
    leg: int = 0
    why: str = ""
    kind: Literal["goods_rest"] = "goods_rest"


@record
class RestEnded:
    """A task takes what rested, or nothing is to be done with it any more, for that reason."""

    key: str
    why: str = ""
    kind: Literal["rest_ended"] = "rest_ended"


@record
class TaskSetDown:
    """What was taken is back where it was taken from; the task is open again."""

    task: TaskNo
    kind: Literal["task_set_down"] = "task_set_down"


@record
class TaskLeft:
    """Who brought what a task is about to its place leaves it there: the rest is for anybody of its crew."""

    task: TaskNo
    kind: Literal["task_left"] = "task_left"


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
    person: PersonId | None = None
    """Who of it alone may take it; None: anybody."""
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
    WorkMade | MoveDone | MoveTurned
    | GoodsRest | RestEnded | TaskSetDown | TaskLeft | TaskHeld | TaskReassigned | TaskRaised | TaskCancelled
)  # fmt: skip
"""What may happen."""
