"""Opening stock in columns: a million rows in a few arrays, made into row objects only when somebody asks.

Rows are kept in one order (bin, plate, item, lot, expiry, status, arrival), so equal stock has equal bytes, the
rows of a bin lie together, and so do those of a plate. Codes are kept once, as places in sorted lists.
"""

from __future__ import annotations

import json
import sys
from array import array
from collections.abc import Iterable, Iterator, Sequence
from datetime import date
from itertools import accumulate
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


def _day(ordinal: int) -> date | None:
    return date.fromordinal(ordinal) if ordinal else None


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
        return cls.of_tuples(
            (r.bin, r.plate or "", r.item, r.lot, r.expiry.toordinal() if r.expiry else 0, STATUSES.index(r.status),
             r.arrived.toordinal() if r.arrived else 0, r.quantity)
            for r in rows
        )  # fmt: skip

    @classmethod
    def of_tuples(cls, tuples: Iterable[tuple[str, str, str, str, int, int, int, int]]) -> StockTable:
        """A table of (bin, plate, item, lot, expiry, status, arrival, quantity), days as ordinals, 0 for none."""
        listed = sorted(tuples)
        made = cls.__new__(cls)
        columns = list(zip(*listed, strict=True)) if listed else [()] * 8
        for name, texts in (("bin", columns[0]), ("plate", columns[1]), ("item", columns[2]), ("lot", columns[3])):
            codes = sorted(set(texts) - {""} if name == "plate" else set(texts))
            at = {code: n for n, code in enumerate(codes)}
            setattr(made, name + "s", tuple(codes))
            setattr(made, name, array("i", [at.get(t, -1) for t in texts]))
        made.expiry, made.arrived = array("i", columns[4]), array("i", columns[6])
        made.status, made.quantity = array("b", columns[5]), array("q", columns[7])
        made._index()
        return made

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
            self.lots[self.lot[at]], _day(self.expiry[at]), STATUSES[self.status[at]],
            PlateNo(self.plates[plate]) if plate >= 0 else None, _day(self.arrived[at]),
        )  # fmt: skip

    def __iter__(self) -> Iterator[StockRow]:
        return (self[n] for n in range(len(self)))

    def __eq__(self, other: object) -> bool:
        return isinstance(other, StockTable) and self.head() == other.head() and self.body() == other.body()

    def __hash__(self) -> int:
        return hash((len(self), self.bins[:8]))

    def rows_of_bin(self, code: str) -> range:
        """Numbers of the rows in a bin."""
        at = self.bin_at.get(code)
        return range(0) if at is None else range(self.bin_start[at], self.bin_start[at + 1])

    def rows_of_item(self, code: str) -> Sequence[int]:
        """Numbers of the rows of an item."""
        at = self.item_at.get(code)
        return () if at is None else self.item_rows[self.item_start[at] : self.item_start[at + 1]]

    # Bytes: what is hashed, and what a snapshot holds

    def head(self) -> dict[str, Any]:
        """The codes, for a snapshot's head."""
        return {"bins": self.bins, "items": self.items, "lots": self.lots, "plates": self.plates, "rows": len(self)}

    def body(self) -> bytes:
        """All columns after one another, least significant byte first."""
        return b"".join(_little(getattr(self, name)).tobytes() for name, _ in COLUMNS)

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
