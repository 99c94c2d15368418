"""What happens while goods are picked."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, OrderNo, PersonId, PlateKindCode, PlateNo, ReservationNo, TaskNo
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.tasks import Move, Tote
from mindful_crate.core.record import record


@record
class KeptMoved:
    """What a reservation holds is elsewhere now; it is as much as before."""

    reservation: ReservationNo
    parts: tuple[Reserved, ...]
    kind: Literal["kept_moved"] = "kept_moved"


@record
class SomeKeptMoved:
    """The same of one that holds a great many parts, of which all others stay as they are: for the part at each place, counted from 0, come these."""

    reservation: ReservationNo
    others: tuple[tuple[int, tuple[Reserved, ...]], ...]
    kind: Literal["some_kept_moved"] = "some_kept_moved"


@record
class TaskBegun:
    """A task is somebody's, before anything of it was fetched."""

    task: TaskNo
    by: PersonId
    kind: Literal["task_begun"] = "task_begun"


@record
class ToteChosen:
    """Goods of an order of a task go into this tote."""

    task: TaskNo
    order: OrderNo
    tote: PlateNo
    kind: Literal["tote_chosen"] = "tote_chosen"


@record
class ToteSet:
    """A tote stands in a bin: a plate from now on, of this kind."""

    task: TaskNo
    tote: PlateNo
    plate_kind: PlateKindCode
    bin: BinCode
    kind: Literal["tote_set"] = "tote_set"


@record
class MoveShort:
    """What was still to be fetched by a take is not there. ``remaining`` is what is still to do then; ``moves``: all moves of the task, when
    some came instead."""

    task: TaskNo
    move: int
    by: PersonId
    at: BinCode
    missing: tuple[Goods, ...]
    why: str
    remaining: tuple[Move, ...]
    moves: tuple[Move, ...] = ()
    tote: PlateNo | None = None
    """It was a tote that was handed on, with all that is in it; its goods belong to no move of this task."""
    kind: Literal["move_short"] = "move_short"


@record
class TakenElsewhere:
    """A take goes to another bin than the one shown, or off another plate, with so much of it. ``remaining`` is what is still to do then, ``moves`` all
    moves of the task."""

    task: TaskNo
    move: int
    by: PersonId
    shown: BinCode
    bin: BinCode
    goods: tuple[Goods, ...]
    reason: str
    remaining: tuple[Move, ...]
    moves: tuple[Move, ...]
    plate: PlateNo | None = None
    kind: Literal["taken_elsewhere"] = "taken_elsewhere"


@record
class TotesCame:
    """Totes with goods were handed on to a task, and wait where they stand."""

    task: TaskNo
    totes: tuple[Tote, ...]
    kind: Literal["totes_came"] = "totes_came"


@record
class ToteTaken:
    """A tote that was handed on is taken along, by whoever picks into it now."""

    task: TaskNo
    tote: PlateNo
    by: PersonId
    kind: Literal["tote_taken"] = "tote_taken"


@record
class ToteStands:
    """A tote that was taken along stands in a bin."""

    task: TaskNo
    tote: PlateNo
    bin: BinCode
    by: PersonId
    kind: Literal["tote_stands"] = "tote_stands"


PickingEvent = (
    KeptMoved
    | SomeKeptMoved
    | TaskBegun
    | ToteChosen
    | ToteSet
    | MoveShort
    | TakenElsewhere
    | TotesCame
    | ToteTaken
    | ToteStands
)
"""What may happen."""
