"""Counts: sheets of what is to be counted, how much was found of each, and what of that was taken into the books."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import date, datetime

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, CountNo, CountPlanId, ItemCode, PersonId, PlateNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.keeper import Journal
from mindful_crate.core.floor.past import Documents, Past
from mindful_crate.core.floor.plates import Spot, in_bin, on_plate
from mindful_crate.core.record import Word, record


@record
class CountLine:
    """One kind of goods in a bin, or on a plate in it; no ``item``: by the book nothing is there. Quantities are in base units."""

    no: int
    bin: BinCode
    item: ItemCode | None
    lot: str = ""
    expiry: date | None = None
    status: Status = Status.AVAILABLE
    plate: PlateNo | None = None
    book: int = 0
    """By the book, when it was counted; before that, when the sheet was made."""
    counted: int | None = None
    """How much was found; None: nobody has counted it."""
    serials: tuple[str, ...] = ()
    """The numbers of the pieces that were found."""
    by: PersonId | None = None
    at: datetime | None = None
    found: bool = False
    """By the book none of it was there: whoever counted found it."""
    before: tuple[int, ...] = ()
    """What was counted earlier, where it is counted again."""
    not_by: tuple[PersonId, ...] = ()
    """Who counted it before, and does not count it again."""
    again: str = ""
    """Why it is counted again."""
    shifted: bool = False
    """It is of a plate that by the book stood elsewhere: there is neither more nor less of it."""
    posted: int = 0
    """The entry in which it was taken into the books; 0: it was not."""

    @property
    def spot(self) -> Spot:
        """Where it lies: on its plate, or loose."""
        return on_plate(self.plate) if self.plate else in_bin(self.bin)

    @property
    def difference(self) -> int:
        """How much more was found than the book said; 0 while it is not counted."""
        return 0 if self.counted is None else self.counted - self.book

    def is_of(self, goods: Goods) -> bool:
        """Is it about such goods, whenever they came?"""
        return (self.item, self.lot, self.expiry, self.status) == (goods.item, goods.lot, goods.expiry, goods.status)

    @property
    def goods(self) -> Goods:
        """One of the goods it is about."""
        assert self.item is not None
        return Goods(self.item, 1, self.lot, self.expiry, self.status)


class CountState(Word):
    """How far a sheet is."""

    OPEN = "open"
    COUNTED = "counted"
    """Everything is counted; something of it is not taken into the books."""
    POSTED = "posted"
    DROPPED = "dropped"
    """Nobody counts the rest any more."""


@record
class CountSheet:
    """A sheet, made in entry ``seq`` by a plan, or by hand. ``why``: what called for it. ``closes``: its bins are blocked while it is counted. ``book_shown``: does
    the counter see what the book says? ``tolerance``: a difference of more than so many per cent and so many base units is counted again by somebody
    else; None: never. ``own_posts``: may who counted take it into the books?"""

    number: CountNo
    plan: CountPlanId | None
    why: str
    seq: int
    made: datetime
    lines: tuple[CountLine, ...]
    book_shown: bool = False
    closes: bool = False
    tolerance: tuple[int, int] | None = None
    own_posts: bool = False
    dropped: str = ""
    """Why the rest is counted no more."""

    @property
    def ref(self) -> Ref:
        """What it is called."""
        return Ref(DocKind.COUNT, self.number)

    @property
    def follows(self) -> tuple[Ref, ...]:
        """It follows from no document."""
        return ()

    @property
    def open_lines(self) -> tuple[CountLine, ...]:
        """What is still to be counted."""
        return () if self.dropped else tuple(x for x in self.lines if x.counted is None)

    @property
    def unposted(self) -> tuple[CountLine, ...]:
        """What was counted and is not taken into the books."""
        return tuple(x for x in self.lines if x.counted is not None and not x.posted)

    @property
    def state(self) -> CountState:
        """How far it is."""
        if self.open_lines:
            return CountState.OPEN
        if self.unposted:
            return CountState.COUNTED
        return CountState.DROPPED if self.dropped else CountState.POSTED

    def line(self, no: int) -> CountLine | None:
        """The line of that number."""
        return self.lines[no - 1] if 0 < no <= len(self.lines) else None


@record
class BinCounted:
    """When a bin was counted last, that is, taken into the books, in which entry."""

    at: datetime
    seq: int


class Counts(Documents[CountNo, CountSheet]):
    """All sheets; a bin is on one that is open, or that is counted and not posted, at most. One is settled when all of it is in the books, or nobody counts
    the rest any more."""

    def __init__(self, journal: Journal, past: Past, drawn: Callable[[str], bool]) -> None:
        super().__init__(journal, past, DocKind.COUNT)
        self._drawn = drawn
        """Was a number drawn for a sheet?"""
        self._on: dict[BinCode, CountNo] = {}
        self._open: dict[CountNo, None] = {}

    def changed(self, key: CountNo, before: CountSheet | None, after: CountSheet | None) -> None:
        """Which bins are on it."""
        for code in _busy(before):
            self._on.pop(code, None)
        for code in _busy(after):
            self._on[code] = key
        if after is not None and (after.open_lines or after.unposted):
            self._open[key] = None
        else:
            self._open.pop(key, None)
            if after is not None:
                self.may_leave[key] = None

    def with_bin(self, code: BinCode) -> CountNo | None:
        """The sheet a bin is on, as long as something of it is to be counted or posted."""
        return self._on.get(code)

    def unfinished(self) -> Iterator[CountSheet]:
        """Sheets of which something is to be counted or posted, the first made first."""
        return (self[n] for n in sorted(self._open))

    def leaving(self) -> list[CountSheet]:
        """Those that are settled, which are here no more."""
        found = [n for n in sorted(self.may_leave) if n not in self._open and self.here(n) is not None]
        self.may_leave.clear()
        return [self.leave(n) for n in found]

    def has_count(self, number: CountNo) -> bool:
        """Is there a sheet of that number? Asked of whatever is scanned."""
        return self.here(number) is not None or (self._drawn(number) and number in self)


def _busy(sheet: CountSheet | None) -> set[BinCode]:
    if sheet is None:
        return set()
    return {
        x.bin
        for x in sheet.lines
        if (x.counted is None and not sheet.dropped) or (x.counted is not None and not x.posted)
    }
