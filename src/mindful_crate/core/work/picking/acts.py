"""What may be asked of pick tasks."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, TaskNo
from mindful_crate.core.record import record


@record
class PickInOffice:
    """Says in the office that a task was picked, as it was made, and set down in a bin: the one it shows, or another. ``begin``: only that somebody
    has fetched it; it is still to be set down. ``serials``: which pieces, where that is not clear."""

    task: TaskNo
    why: str
    bin: BinCode | None = None
    begin: bool = False
    serials: tuple[str, ...] = ()
    kind: Literal["pick_in_office"] = "pick_in_office"


@record
class PickBegin:
    """Begins a pick task: nobody else may take it from then on."""

    task: TaskNo
    kind: Literal["pick_begin"] = "pick_begin"


@record
class SetTote:
    """Goods of an order of a task go into this tote, an empty one, named by its label."""

    task: TaskNo
    order: OrderNo
    tote: PlateNo
    kind: Literal["set_tote"] = "set_tote"


@record
class TakeTote:
    """Takes along a tote that was handed on to a task from the zone before."""

    task: TaskNo
    tote: PlateNo
    kind: Literal["take_tote"] = "take_tote"


@record
class ToteMissing:
    """A tote that was handed on is not where it should stand. ``other_bin``: what was in it is looked for elsewhere; else it stays open."""

    task: TaskNo
    tote: PlateNo
    why: str
    other_bin: bool = True
    kind: Literal["tote_missing"] = "tote_missing"


@record
class PickTake:
    """Fetches so much of what a take of a task says, in base units, or the whole plate; 0: all of it. ``serials``: which pieces."""

    task: TaskNo
    move: int
    quantity: int = 0
    serials: tuple[str, ...] = ()
    kind: Literal["pick_take"] = "pick_take"


@record
class PickShort:
    """What is left of a take is not there. ``other_bin``: it is looked for elsewhere by the rules; else it stays open."""

    task: TaskNo
    move: int
    why: str
    other_bin: bool = True
    kind: Literal["pick_short"] = "pick_short"


@record
class PickElsewhere:
    """Fetches what a take of a task says from another bin, or off another plate, as far as it lies there free: the take goes there now; what is not
    there stays where it was shown."""

    task: TaskNo
    move: int
    bin: BinCode
    plate: PlateNo | None = None
    reason: str = ""
    kind: Literal["pick_elsewhere"] = "pick_elsewhere"


@record
class PickPlace:
    """Sets down in a bin what of a task is in hands; ``reason`` when it is another bin than the one shown. ``leave``: also while
    something is still to be fetched; that is left for anybody of the crew."""

    task: TaskNo
    bin: BinCode
    reason: str = ""
    leave: bool = False
    kind: Literal["pick_place"] = "pick_place"


@record
class LeavePicking:
    """Gives a begun task back of which nothing is in hands."""

    task: TaskNo
    kind: Literal["leave_picking"] = "leave_picking"


PickingAct = (
    PickInOffice
    | PickBegin
    | SetTote
    | TakeTote
    | ToteMissing
    | PickTake
    | PickElsewhere
    | PickShort
    | PickPlace
    | LeavePicking
)
"""What may be asked."""
