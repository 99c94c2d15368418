"""What may be asked: bringing goods from reserve to where they are picked."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from mindful_crate.core.catalog.ids import BinCode, ItemCode, TaskNo
from mindful_crate.core.record import record


@record
class Shelf:
    """A bin an item is at home in."""

    bin: BinCode
    item: ItemCode


@record
class FillShelves:
    """Has these shelves filled up to their most now, whatever they hold; none named: all that hold less than their least."""

    shelves: tuple[Shelf, ...] = ()
    kind: Literal["fill_shelves"] = "fill_shelves"


@record
class RefillBegin:
    """Begins a refill: nobody else may take it from then on."""

    task: TaskNo
    kind: Literal["refill_begin"] = "refill_begin"


@record
class RefillTake:
    """Takes so much of what a move of a refill says, in base units; less makes the task smaller."""

    task: TaskNo
    move: int
    quantity: int
    serials: tuple[str, ...] = ()
    kind: Literal["refill_take"] = "refill_take"


@record
class RefillShort:
    """What a move of a refill was to take is not there: nobody is sent there for it until somebody has looked."""

    task: TaskNo
    move: int
    why: str
    kind: Literal["refill_short"] = "refill_short"


@record
class RefillLeave:
    """Gives a refill back of which nothing was taken."""

    task: TaskNo
    kind: Literal["refill_leave"] = "refill_leave"


@record
class RefillDue:
    """It is the time of day at which shelves are filled; the clock says so."""

    minute: int
    due: datetime
    kind: Literal["refill_due"] = "refill_due"


RefillingAct = FillShelves | RefillBegin | RefillTake | RefillShort | RefillLeave
"""What may be asked."""
