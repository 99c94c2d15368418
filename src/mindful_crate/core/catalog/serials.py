"""Serial numbers at the opening: which pieces of an item lie where, in columns, made into rows only when somebody asks.

Rows are in one order (item, serial), so a number is found by a search in the stretch of its item. What lies in a place is found
over an index that is made when it is first asked for. Plain form is columns too: a hundred thousand numbers are read at once.
"""

from __future__ import annotations

from array import array
from bisect import bisect_left
from collections.abc import Container, Iterable, Iterator, Sequence
from datetime import date
from typing import Any, overload

from mindful_crate.core.catalog.goods import SerialRow, Status
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PlateNo
from mindful_crate.core.plain import Misfit, Plain

_STATUSES = tuple(Status)
_CODES = ("items", "bins", "plates", "lots")
_NUMBERS = ("item", "bin", "plate", "lot", "status", "arrived")
Spot = tuple[str, str]
"""A bin, and the plate in it or nothing."""


class SerialTable(Sequence[SerialRow]):
    """Immutable rows of serial numbers."""

    __slots__ = (
        "_by_spot",
        "arrived",
        "bin",
        "bins",
        "item",
        "items",
        "lot",
        "lots",
        "plate",
        "plates",
        "serial",
        "starts",
        "status",
    )

    item: array[int]
    bin: array[int]
    plate: array[int]
    lot: array[int]
    status: array[int]
    arrived: array[int]
    items: tuple[str, ...]
    bins: tuple[str, ...]
    plates: tuple[str, ...]
    lots: tuple[str, ...]
    serial: tuple[str, ...]
    starts: dict[str, int]
    """Where the stretch of an item begins."""

    @classmethod
    def of(cls, rows: Iterable[SerialRow] = ()) -> SerialTable:
        """A table of these rows."""
        if isinstance(rows, SerialTable):
            return rows
        held = sorted(rows, key=lambda r: (r.item, r.serial))
        made = cls.__new__(cls)
        made.serial = tuple(r.serial for r in held)
        made.items, made.item = _coded(r.item for r in held)
        made.bins, made.bin = _coded(r.bin for r in held)
        made.plates, made.plate = _coded(r.plate or "" for r in held)
        made.lots, made.lot = _coded(r.lot for r in held)
        made.status = array("i", (_STATUSES.index(r.status) for r in held))
        made.arrived = array("i", (r.arrived.toordinal() if r.arrived else 0 for r in held))
        return made._indexed()

    def _indexed(self) -> SerialTable:
        self._by_spot: dict[Spot, list[int]] | None = None
        self.starts = {}
        for row, item in enumerate(self.item):
            self.starts.setdefault(self.items[item], row)
        return self

    def __len__(self) -> int:
        return len(self.serial)

    @overload
    def __getitem__(self, at: int) -> SerialRow: ...
    @overload
    def __getitem__(self, at: slice) -> Sequence[SerialRow]: ...
    def __getitem__(self, at: int | slice) -> SerialRow | Sequence[SerialRow]:
        if isinstance(at, slice):
            return [self[n] for n in range(*at.indices(len(self)))]
        plate, day = self.plates[self.plate[at]], self.arrived[at]
        return SerialRow(
            self.serial[at], ItemCode(self.items[self.item[at]]), BinCode(self.bins[self.bin[at]]),
            PlateNo(plate) if plate else None, self.lots[self.lot[at]], _STATUSES[self.status[at]],
            date.fromordinal(day) if day else None,
        )  # fmt: skip

    def __iter__(self) -> Iterator[SerialRow]:
        return (self[n] for n in range(len(self)))

    def __eq__(self, other: object) -> bool:
        return isinstance(other, SerialTable) and self.to_plain() == other.to_plain()

    def __hash__(self) -> int:
        return hash(self.serial[:8])

    def within(self, bins: Container[str]) -> SerialTable:
        """The rows that are in these bins; the table itself when all are."""
        return self if all(code in bins for code in self.bins) else self.of([r for r in self if r.bin in bins])

    def find(self, item: str, serial: str) -> int | None:
        """The row of a number."""
        begin = self.starts.get(item)
        if begin is None:
            return None
        row = bisect_left(self.serial, serial, begin, self._end(begin))
        return row if row < self._end(begin) and self.serial[row] == serial else None

    def _end(self, begin: int) -> int:
        return bisect_left(self.item, self.item[begin] + 1, begin)

    def items_with(self, serial: str) -> list[str]:
        """The items of which a piece bears this number."""
        return [item for item in self.items if self.find(item, serial) is not None]

    def rows_of_item(self, item: str) -> range:
        """The rows of an item."""
        begin = self.starts.get(item)
        return range(0) if begin is None else range(begin, self._end(begin))

    def rows_at(self, bin_: str, plate: str = "") -> Sequence[int]:
        """The rows in a bin, loose or on a plate, in order."""
        found = self._by_spot
        if found is None:
            found = {}
            for row, (where, on) in enumerate(zip(self.bin, self.plate, strict=True)):
                found.setdefault((self.bins[where], self.plates[on]), []).append(row)
            self._by_spot = found
        return found.get((bin_, plate), ())

    def to_plain(self) -> Plain:
        """Its columns; the numbers are one text."""
        plain: dict[str, Any] = {name: list(getattr(self, name)) for name in (*_CODES, *_NUMBERS)}
        return plain | {"serials": "\n".join(self.serial)}

    @classmethod
    def from_plain(cls, plain: Plain, place: str) -> SerialTable:
        """The table of plain columns."""
        made = cls.__new__(cls)
        try:
            held: Any = plain
            made.serial = tuple(held["serials"].split("\n")) if held["serials"] else ()
            for name in _CODES:
                setattr(made, name, tuple(held[name]))
            for name in _NUMBERS:
                column = array("i", held[name])
                if len(column) != len(made.serial):
                    raise ValueError(name)
                setattr(made, name, column)
        except (KeyError, TypeError, ValueError, AttributeError) as odd:
            raise Misfit(place, f"these are no columns of serial numbers: {odd}") from None
        return made._indexed()


def _coded(values: Iterable[str]) -> tuple[tuple[str, ...], array[int]]:
    held = list(values)
    codes = tuple(sorted(set(held)))
    at = {code: n for n, code in enumerate(codes)}
    return codes, array("i", map(at.__getitem__, held))
