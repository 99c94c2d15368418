"""What may be asked: counting, and correcting what the books say."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, CountNo, CountPlanId, ItemCode, PersonId, PlateNo, StockReasonId
from mindful_crate.core.record import record


@record
class MakeCounts:
    """The office has bins counted that it chooses itself."""

    bins: tuple[BinCode, ...]
    kind: Literal["make_counts"] = "make_counts"


@record
class RunCountPlan:
    """Sheets are made of what is due by a plan now."""

    plan: CountPlanId
    kind: Literal["run_count_plan"] = "run_count_plan"


@record
class CountsDue:
    """It is the time of day at which plans make sheets."""

    minute: int
    due: datetime
    kind: Literal["counts_due"] = "counts_due"


@record
class CountGoods:
    """So much of an item was found in a bin, or on a plate in it, in base units; of numbered ones these pieces. What is not on the sheet is added to it."""

    count: CountNo
    bin: BinCode
    item: ItemCode
    quantity: int
    lot: str = ""
    plate: PlateNo | None = None
    serials: tuple[str, ...] = ()
    kind: Literal["count_goods"] = "count_goods"


@record
class CountNothing:
    """Nothing else is in a bin than what was counted there: every other line of it is zero."""

    count: CountNo
    bin: BinCode
    kind: Literal["count_nothing"] = "count_nothing"


@record
class CountAsLabelled:
    """A plate stands there as its label says."""

    count: CountNo
    plate: PlateNo
    kind: Literal["count_as_labelled"] = "count_as_labelled"


@record
class CountPlateHere:
    """A plate was found in a bin where by the book it is not."""

    count: CountNo
    bin: BinCode
    plate: PlateNo
    kind: Literal["count_plate_here"] = "count_plate_here"


@record
class CountAgain:
    """Lines of a sheet are counted once more, by somebody else."""

    count: CountNo
    lines: tuple[int, ...]
    why: str = ""
    kind: Literal["count_again"] = "count_again"


@record
class EnteredLine:
    """What was found of a line of a sheet, in base units; of numbered ones these pieces."""

    line: int
    quantity: int
    serials: tuple[str, ...] = ()


@record
class EnterCounts:
    """The office enters what was counted on paper: ``by`` is who counted, whoever enters it if that is left out. All of it, or none."""

    count: CountNo
    lines: tuple[EnteredLine, ...]
    by: PersonId | None = None
    kind: Literal["enter_counts"] = "enter_counts"


@record
class PostCount:
    """What was counted is taken into the books: these lines, or all that may be."""

    count: CountNo
    lines: tuple[int, ...] = ()
    kind: Literal["post_count"] = "post_count"


@record
class DropCount:
    """What of a sheet is not counted yet is counted no more."""

    count: CountNo
    why: str = ""
    kind: Literal["drop_count"] = "drop_count"


@record
class AdjustStock:
    """There is so much of some goods in a bin, or on a plate, whatever the books say: in base units, with a reason, one of the list, or
    words, or both. Of numbered ones ``serials`` are those that are gone."""

    bin: BinCode
    item: ItemCode
    quantity: int
    why: str
    lot: str = ""
    plate: PlateNo | None = None
    status: Status = Status.AVAILABLE
    serials: tuple[str, ...] = ()
    reason: StockReasonId | None = None
    photo: str = ""
    kind: Literal["adjust_stock"] = "adjust_stock"


@record
class ChangeStatus:
    """Stock has another status from now on, with a reason: of a bin, a plate, or a lot wherever it lies; of one item or of all there."""

    status: Status
    why: str
    bin: BinCode | None = None
    plate: PlateNo | None = None
    item: ItemCode | None = None
    lot: str = ""
    was: Status | None = None
    """Only what has this status."""
    loose: bool = False
    """Of a bin, only what lies loose in it."""
    reason: StockReasonId | None = None
    photo: str = ""
    kind: Literal["change_status"] = "change_status"


@record
class ShiftStock:
    """Goods lie in another bin than the books say: so many of some (None: all of them), or a whole plate, without ``item``. With a reason, one of
    the list, or words, or both. Of numbered ones ``serials`` are those that lie there."""

    bin: BinCode
    to: BinCode
    why: str
    item: ItemCode | None = None
    quantity: int | None = None
    lot: str = ""
    plate: PlateNo | None = None
    status: Status = Status.AVAILABLE
    serials: tuple[str, ...] = ()
    reason: StockReasonId | None = None
    photo: str = ""
    kind: Literal["shift_stock"] = "shift_stock"


CountingInOffice = (
    MakeCounts
    | RunCountPlan
    | EnterCounts
    | CountAgain
    | PostCount
    | DropCount
    | AdjustStock
    | ChangeStatus
    | ShiftStock
)
"""What the office asks."""
CountingAct = CountingInOffice | CountGoods | CountNothing | CountAsLabelled | CountPlateHere
"""What may be asked."""
