"""Opening stock in columns: a million rows in a few arrays, made into row objects only when somebody asks.

Rows are kept in one order (bin, plate, item, lot, expiry, status, arrival), so equal stock has equal bytes, the
rows of a bin lie together, and so do those of a plate. Codes are kept once, as places in sorted lists.
"""

from __future__ import annotations

import json
import sys
from array import array
from collections.abc import Callable, Container, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from datetime import date
from itertools import accumulate, islice, repeat
from operator import lt
from typing import Any, overload

from mindful_crate.core.catalog.goods import Status, StockRow
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PlateNo
from mindful_crate.core.plain import Plain, from_plain, to_plain

STATUSES = tuple(Status)
NO_DAY = 0
"""Day number of a missing date; ``date.toordinal`` begins with 1."""
COLUMNS = (
    ("bin", "i"), ("item", "i"), ("lot", "i"), ("plate", "i"), ("status", "b"), ("expiry", "i"), ("arrived", "i"),
    ("quantity", "q"), ("bin_start", "i"), ("item_start", "i"), ("item_rows", "i"),
)  # fmt: skip


class _Days(dict[int, "date | None"]):
    """Days by their number in a column, each made once; 0 is none."""

    def __missing__(self, ordinal: int) -> date | None:
        day = self[ordinal] = date.fromordinal(ordinal) if ordinal else None
        return day


DAYS = _Days()


class StockTable(Sequence[StockRow]):
    """Immutable rows of stock. ``rows_of_bin`` and ``rows_of_item`` answer row numbers without a search."""

    __slots__ = (
        "arrived",
        "bin",
        "bin_at",
        "bin_start",
        "bins",
        "expiry",
        "item",
        "item_at",
        "item_rows",
        "item_start",
        "items",
        "lot",
        "lots",
        "plate",
        "plates",
        "quantity",
        "status",
    )  # fmt: skip

    bin: array[int]
    item: array[int]
    lot: array[int]
    plate: array[int]
    status: array[int]
    expiry: array[int]
    arrived: array[int]
    quantity: array[int]
    bin_start: array[int]
    item_start: array[int]
    item_rows: array[int]
    bins: tuple[str, ...]
    items: tuple[str, ...]
    lots: tuple[str, ...]
    plates: tuple[str, ...]
    bin_at: dict[str, int]
    item_at: dict[str, int]

    @classmethod
    def of(cls, rows: Iterable[StockRow] = ()) -> StockTable:
        """A table of these rows."""
        if isinstance(rows, StockTable):
            return rows
        columns = StockColumns()
        for row in rows:
            columns.put(row)
        return columns.merged(once=False).table

    @classmethod
    def of_tuples(cls, tuples: Iterable[tuple[str, str, str, str, int, int, int, int]]) -> StockTable:
        """A table of (bin, plate, item, lot, expiry, status, arrival, quantity), days as ordinals, 0 for none."""
        columns = StockColumns()
        for each in tuples:
            columns.add(*each)
        return columns.merged(once=False).table

    def _index(self) -> None:
        self.bin_start = _starts(self.bin, len(self.bins))
        self.item_start = _starts(self.item, len(self.items))
        at = list(self.item_start)
        self.item_rows = array("i", bytes(4 * len(self.item)))
        for row, item in enumerate(self.item):
            self.item_rows[at[item]] = row
            at[item] += 1
        self._look_ups()

    def _look_ups(self) -> None:
        self.bin_at = {code: n for n, code in enumerate(self.bins)}
        self.item_at = {code: n for n, code in enumerate(self.items)}

    def __len__(self) -> int:
        return len(self.quantity)

    @overload
    def __getitem__(self, at: int) -> StockRow: ...
    @overload
    def __getitem__(self, at: slice) -> Sequence[StockRow]: ...
    def __getitem__(self, at: int | slice) -> StockRow | Sequence[StockRow]:
        if isinstance(at, slice):
            return [self[n] for n in range(*at.indices(len(self)))]
        plate = self.plate[at]
        return StockRow(
            BinCode(self.bins[self.bin[at]]), ItemCode(self.items[self.item[at]]), self.quantity[at],
            self.lots[self.lot[at]], DAYS[self.expiry[at]], STATUSES[self.status[at]],
            PlateNo(self.plates[plate]) if plate >= 0 else None, DAYS[self.arrived[at]],
        )  # fmt: skip

    def __iter__(self) -> Iterator[StockRow]:
        return (self[n] for n in range(len(self)))

    def __eq__(self, other: object) -> bool:
        return isinstance(other, StockTable) and self.head() == other.head() and self.body() == other.body()

    def __hash__(self) -> int:
        return hash((len(self), self.bins[:8]))

    def within(self, bins: Container[str]) -> StockTable:
        """The rows that are in these bins; the table itself when all are."""
        if all(code in bins for code in self.bins):
            return self
        keeps = [code in bins for code in self.bins]
        return self.of_tuples(
            (
                self.bins[self.bin[n]], self.plates[plate] if (plate := self.plate[n]) >= 0 else "", self.items[self.item[n]],
                self.lots[self.lot[n]], self.expiry[n], self.status[n], self.arrived[n], self.quantity[n],
            )
            for n in range(len(self)) if keeps[self.bin[n]]
        )  # fmt: skip

    def rows_of_bin(self, code: str) -> range:
        """Numbers of the rows in a bin."""
        at = self.bin_at.get(code)
        return range(0) if at is None else range(self.bin_start[at], self.bin_start[at + 1])

    def rows_of_item(self, code: str) -> Sequence[int]:
        """Numbers of the rows of an item."""
        at = self.item_at.get(code)
        return () if at is None else self.item_rows[self.item_start[at] : self.item_start[at + 1]]

    def alike(self, a: int, b: int) -> bool:
        """Do two rows differ in their quantity at most?"""
        names = ("bin", "item", "lot", "plate", "status", "expiry", "arrived")
        return all(getattr(self, name)[a] == getattr(self, name)[b] for name in names)

    # Bytes: what is hashed, and what a snapshot holds

    def head(self) -> dict[str, Any]:
        """The codes, for a snapshot's head."""
        return {"bins": self.bins, "items": self.items, "lots": self.lots, "plates": self.plates, "rows": len(self)}

    def pieces(self) -> Iterator[bytes]:
        """The columns after one another, least significant byte first."""
        return (_little(getattr(self, name)).tobytes() for name, _ in COLUMNS)

    def body(self) -> bytes:
        """All columns as one."""
        return b"".join(self.pieces())

    @classmethod
    def from_snapshot(cls, head: dict[str, Any], body: memoryview) -> StockTable:
        """The table that :meth:`head` and :meth:`body` were taken from."""
        made = cls.__new__(cls)
        for name in ("bins", "items", "lots", "plates"):
            setattr(made, name, tuple(head[name]))
        lengths = {"bin_start": len(made.bins) + 1, "item_start": len(made.items) + 1}
        at = 0
        for name, code in COLUMNS:
            column = array(code)
            size = column.itemsize * lengths.get(name, head["rows"])
            column.frombytes(body[at : at + size])
            setattr(made, name, _little(column))
            at += size
        made._look_ups()
        return made

    def to_plain(self) -> Plain:
        """The rows as plain data."""
        return [to_plain(row) for row in self]

    @classmethod
    def from_plain(cls, plain: Plain, place: str) -> StockTable:
        """The table of plain rows."""
        return cls.of(from_plain(tuple[StockRow, ...], plain, place))

    def text(self) -> str:
        """For a failing test: the rows as JSON."""
        return json.dumps(self.to_plain())


class _Codes(dict[str, int]):
    """Codes numbered as they come."""

    def __missing__(self, code: str) -> int:
        number = self[code] = len(self)
        return number

    def ranked(self, none: bool) -> tuple[list[str], array[int]]:
        """The codes in order, and the place of each number in it; ``none``: the empty code means none and is -1."""
        codes = sorted(code for code in self if code or not none)
        at = {code: n for n, code in enumerate(codes)}
        return codes, array("i", (at.get(code, -1) for code in self))


@dataclass(slots=True)
class Merged:
    """What rows make together: the table, how many rows of those that came are new, changed or the same, how many that
    were there are gone, some of each by their keys, and lines that say again what an earlier one said."""

    table: StockTable
    new: int = 0
    changed: int = 0
    gone: int = 0
    same: int = 0
    some: dict[str, list[tuple[str, ...]]] = field(default_factory=dict)
    twice: list[tuple[int, int]] = field(default_factory=list)
    """(line, the earlier line)"""


SOME = 5
"""So many rows are named of those that are new, changed or gone."""
_SORTED = ("plate", "item", "lot", "expiry", "status", "arrived")


class StockColumns:
    """Rows of stock on their way to a table, in columns, so that a million take no more room than they need. Each has
    the line it came from; line 0 is what was there before."""

    def __init__(self) -> None:
        self.codes = {name: _Codes() for name in ("bin", "plate", "item", "lot")}
        self.column = {name: array(code) for name, code in COLUMNS[:8]} | {"line": array("i")}
        self.before = 0
        """How many rows were there before."""

    def __len__(self) -> int:
        return len(self.column["line"])

    def add(
        self, bin_: str, plate: str, item: str, lot: str, expiry: int, status: int, arrived: int, quantity: int,
        line: int = 0,
    ) -> None:  # fmt: skip
        """One row; days as ordinals, 0 for none."""
        c, codes = self.column, self.codes
        c["bin"].append(codes["bin"][bin_])
        c["plate"].append(codes["plate"][plate])
        c["item"].append(codes["item"][item])
        c["lot"].append(codes["lot"][lot])
        c["expiry"].append(expiry)
        c["status"].append(status)
        c["arrived"].append(arrived)
        c["quantity"].append(quantity)
        c["line"].append(line)

    def put(self, row: StockRow, line: int = 0) -> None:
        """One row."""
        self.add(
            row.bin, row.plate or "", row.item, row.lot, row.expiry.toordinal() if row.expiry else 0,
            STATUSES.index(row.status), row.arrived.toordinal() if row.arrived else 0, row.quantity, line,
        )  # fmt: skip

    def extend(self, lines: Sequence[int], **columns: Sequence[Any]) -> None:
        """Rows by the column: codes as texts, the rest as numbers."""
        for name, values in columns.items():
            codes = self.codes.get(name)
            self.column[name].extend(map(codes.__getitem__, values) if codes is not None else values)
        self.column["line"].extend(lines)

    def put_table(self, table: StockTable) -> None:
        """All rows of a table, as what was there before."""
        for name, codes in self.codes.items():
            held: Sequence[str] = getattr(table, name + "s")
            numbers = array("i", map(codes.__getitem__, held))
            if name == "plate":  # its -1, no plate, then is the last of the numbers
                numbers.append(codes[""])
            self.column[name].extend(map(numbers.__getitem__, getattr(table, name)))
        for name in ("status", "expiry", "arrived", "quantity"):
            self.column[name].extend(getattr(table, name))
        self.column["line"].extend(repeat(0, len(table)))
        self.before += len(table)

    def merged(self, goes: Callable[[str], bool] | None = None, *, once: bool = True) -> Merged:
        """The table of all rows: of rows that differ only in quantity the first that came holds, over what was there.
        ``goes``: is what was there in this bin gone when no row that came is like it? ``once`` false keeps rows that
        are alike, for whoever checks them."""
        ranked = {}
        for name, codes in self.codes.items():
            ranked[name], places = codes.ranked(none=name == "plate")
            if list(places) != list(range(len(places))):
                self.column[name] = array("i", map(places.__getitem__, self.column[name]))
        made = Merged(StockTable.__new__(StockTable))
        if self._sorted():  # as a file is that was written here: nothing is there twice, and nothing was before
            order: Sequence[int] = range(len(self))
            made.new = len(self)
            made.some = {what: [] for what in ("new", "changed", "gone")}
            made.some["new"] = [self._told(row, ranked) for row in order[:SOME]]
        else:
            order = self._ordered(len(ranked["bin"]))
            if once:
                order = self._once(order, ranked, goes, made)
        for name, _ in COLUMNS[:8]:  # one after the other, so that only one is there twice
            held = self.column.pop(name)
            column = held if isinstance(order, range) else array(held.typecode, map(held.__getitem__, order))
            if name in ranked:
                column = self._used(made.table, name, ranked[name], column)
            setattr(made.table, name, column)
        made.table._index()
        return made

    def _sorted(self) -> bool:
        """Are the rows in the order of the table as they came, each another, and none from before?"""
        if self.before:
            return False
        columns = [self.column[name] for name in ("bin", *_SORTED)]
        return all(map(lt, zip(*columns, strict=True), islice(zip(*columns, strict=True), 1, None)))

    def _ordered(self, bins: int) -> array[int]:
        """Row numbers in the order of the table."""
        column = self.column["bin"]
        at = list(_starts(column, bins))
        order = array("i", bytes(4 * len(column)))
        for row, bin_ in enumerate(column):
            order[at[bin_]] = row
            at[bin_] += 1
        keys = [self.column[name].__getitem__ for name in (*_SORTED, "line", "quantity")]
        begin = 0
        for end in at[:bins]:
            rows = order[begin:end]
            if end - begin > 1:
                ordered = sorted(zip(*(map(key, rows) for key in keys), rows, strict=True))
                order[begin:end] = array("i", [each[-1] for each in ordered])
            begin = end
        return order

    def _once(
        self, order: Sequence[int], ranked: dict[str, list[str]], goes: Callable[[str], bool] | None, made: Merged
    ) -> array[int]:
        """The order without rows that another stands for, and what became of the rest."""
        line, quantity, bins = self.column["line"], self.column["quantity"], self.column["bin"]
        plate, item, lot, expiry, status, arrived = (self.column[name] for name in _SORTED)
        going = [goes is not None and goes(code) for code in ranked["bin"]]
        kept = array("i")
        new, changed, gone = array("i"), array("i"), array("i")
        before = held = -1  # the row before, and the row that was there and is like it
        for row in order:
            if (
                before < 0 or plate[before] != plate[row] or item[before] != item[row] or bins[before] != bins[row]
                or lot[before] != lot[row] or arrived[before] != arrived[row] or status[before] != status[row]
                or expiry[before] != expiry[row]
            ):  # fmt: skip
                held = -1
            elif line[before]:
                made.twice.append((line[row], line[before]))
                continue
            elif not line[row]:  # there twice before: an opening that was never checked
                continue
            if line[row] == 0:
                held = row
                if going[bins[row]]:
                    gone.append(row)
                else:
                    kept.append(row)
            elif held < 0:
                kept.append(row)
                new.append(row)
            else:
                if going[bins[row]]:
                    gone.pop()
                    kept.append(row)
                else:
                    kept[-1] = row
                if quantity[held] == quantity[row]:
                    made.same += 1
                else:
                    changed.append(row)
            before = row
        made.new, made.changed, made.gone = len(new), len(changed), len(gone)
        for what, rows in (("new", new), ("changed", changed), ("gone", gone)):
            made.some[what] = [self._told(row, ranked) for row in rows[:SOME]]
        return kept

    def _told(self, row: int, ranked: dict[str, list[str]]) -> tuple[str, ...]:
        """A row in the codes that tell it from others."""
        codes = (ranked[n][at] if (at := self.column[n][row]) >= 0 else "" for n in self.codes)
        days = (str(DAYS[self.column[n][row]] or "") for n in ("arrived", "expiry"))
        return *codes, STATUSES[self.column["status"][row]].value, *days

    @staticmethod
    def _used(table: StockTable, name: str, codes: list[str], column: array[int]) -> array[int]:
        """The column over those codes that it uses; the table gets them."""
        used = sorted(set(column) - {-1})
        setattr(table, name + "s", tuple(codes[at] for at in used))
        if len(used) == len(codes):
            return column
        places = {at: n for n, at in enumerate(used)} | {-1: -1}
        return array("i", map(places.__getitem__, column))


def _starts(column: array[int], codes: int) -> array[int]:
    counts = [0] * (codes + 1)
    for at in column:
        counts[at + 1] += 1
    return array("i", accumulate(counts))


def _little(column: array[int]) -> array[int]:
    if sys.byteorder == "big":  # pragma: no cover - our machines are little-endian
        column = column[:]
        column.byteswap()
    return column
