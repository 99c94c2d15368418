"""What happens: counting, and correcting what the books say."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, CountNo, CountPlanId, PersonId, PlateNo
from mindful_crate.core.floor.counts import CountLine
from mindful_crate.core.floor.ledger import Cause
from mindful_crate.core.floor.plates import Spot
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.record import record


@record
class SheetMade:
    """A sheet of what is to be counted; the fields as of a :class:`.CountSheet`."""

    count: CountNo
    plan: CountPlanId | None
    why: str
    lines: tuple[CountLine, ...]
    book_shown: bool = False
    closes: bool = False
    tolerance: tuple[int, int] | None = None
    own_posts: bool = False
    kind: Literal["sheet_made"] = "sheet_made"


@record
class LineCounted:
    """A line of a sheet as it stands after it was counted; one that was not on the sheet is added."""

    count: CountNo
    line: CountLine
    kind: Literal["line_counted"] = "line_counted"


@record
class LineAgain:
    """A line is counted once more, by somebody else."""

    count: CountNo
    no: int
    why: str
    kind: Literal["line_again"] = "line_again"


@record
class CountPosted:
    """Lines of a sheet are taken into the books; ``bins`` are counted with that."""

    count: CountNo
    lines: tuple[int, ...]
    bins: tuple[BinCode, ...]
    kind: Literal["count_posted"] = "count_posted"


@record
class CountDropped:
    """The rest of a sheet is counted no more."""

    count: CountNo
    why: str
    kind: Literal["count_dropped"] = "count_dropped"


@record
class CountsAwaited:
    """Sheets are made next at the first of these minutes of the day; none: never by the clock."""

    minutes: tuple[int, ...]
    kind: Literal["counts_awaited"] = "counts_awaited"


@record
class StockCorrected:
    """Of these goods more or less lies there than the books said; with ``source`` they lay there by the book. ``lost``: they are gone."""

    by: PersonId
    cause: Cause
    bin: BinCode
    spot: Spot
    goods: tuple[Goods, ...]
    lost: bool
    why: str
    serials: tuple[Serials, ...] = ()
    source: Spot | None = None
    count: CountNo | None = None
    kind: Literal["stock_corrected"] = "stock_corrected"


@record
class PlateFound:
    """A plate stands in another bin than the book said."""

    by: PersonId
    plate: PlateNo
    bin: BinCode
    count: CountNo | None = None
    kind: Literal["plate_found"] = "plate_found"


@record
class StatusChanged:
    """Goods have another status."""

    by: PersonId
    bin: BinCode
    spot: Spot
    goods: tuple[Goods, ...]
    status: Status
    why: str
    kind: Literal["status_changed"] = "status_changed"


CountingEvent = (
    SheetMade
    | LineCounted
    | LineAgain
    | CountPosted
    | CountDropped
    | CountsAwaited
    | StockCorrected
    | PlateFound
    | StatusChanged
)
"""What may happen."""
