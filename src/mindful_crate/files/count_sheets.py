"""Count sheets as CSV: out with what is still to be counted, in again with what was found."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence

from mindful_crate.core.catalog.ids import CountNo
from mindful_crate.core.floor.counts import CountLine
from mindful_crate.core.floor.state import State
from mindful_crate.core.work.counting.acts import EnteredLine
from mindful_crate.core.work.counting.looking import sheet_of
from mindful_crate.core.work.counting.paper import still_to_count
from mindful_crate.files.sheets import sheets_of
from mindful_crate.files.writing import as_csv

COLUMNS = ("line", "bin", "plate", "item", "name", "lot", "expiry", "status", "unit", "book", "counted", "numbers")
NONE = "none"
"""What is written where nothing is there: a nought is too easily typed."""
MOST_WRONG = 50
"""So many things that are wrong are told."""


def sheet_csv(state: State, count: CountNo) -> bytes:
    """What of a sheet is still to be counted; what the book says only where its plan shows it."""
    book = sheet_of(state, count).book_shown
    return as_csv(COLUMNS, (_cells(state, x, book=book) for x in still_to_count(state, count)))


def _cells(state: State, x: CountLine, *, book: bool) -> Sequence[str]:
    item = state.ground.items[x.item] if x.item else None
    return (
        str(x.no), x.bin, x.plate or "", x.item or "", item.name if item else "", x.lot, x.expiry.isoformat() if x.expiry else "", x.status.value,
        item.base.code if item else "", str(x.book) if book else "", "", "",
    )  # fmt: skip


def read_counts(
    state: State, count: CountNo, name: str, content: bytes
) -> tuple[tuple[EnteredLine, ...], tuple[str, ...], int]:
    """What a file says of a sheet: the lines with a number, what is wrong with others in a sentence each, and how many are blank. :class:`Unreadable` when
    it is no table."""
    (sheet, *_) = sheets_of("counted.csv", content, ("counted",))
    lines = {x.no: x for x in sheet_of(state, count).lines}
    found: dict[int, EnteredLine] = {}
    wrong: list[str] = []
    blank = 0
    lacks = [c for c in ("line", "counted") if c not in sheet.heading]
    if lacks:
        return (
            (),
            (f"`{name}` has no column `{lacks[0]}`. Take the file of the sheet, and fill in its column `counted`.",),
            0,
        )
    for row, cells in sheet.rows():
        told = {h: c.strip() for h, c in zip(sheet.heading, cells, strict=False)}
        if not told["counted"] and not told.get("numbers"):
            blank += 1
            continue
        line = lines.get(int(told["line"])) if re.fullmatch(r"\d{1,7}", told["line"]) else None
        says = "" if line else f"`{count}` has no line `{told['line'][:20]}`"
        if line is not None:
            says = next(_odd(line, told), "") or (
                f"line {line.no} stands in the file twice" if line.no in found else ""
            )
        if says:
            wrong.append(f"Row {row}: {says}.")
        elif line is not None:
            numbers = tuple(n for n in re.split(r"[;\s]+", told.get("numbers", "")) if n)
            found[line.no] = EnteredLine(
                line.no, 0 if told["counted"].lower() == NONE else int(told["counted"]), numbers
            )
    more = (f"And {len(wrong) - MOST_WRONG} more.",) if len(wrong) > MOST_WRONG else ()
    return tuple(found[n] for n in sorted(found)), (*wrong[:MOST_WRONG], *more), blank


def _odd(line: CountLine, told: Mapping[str, str]) -> Iterator[str]:
    """What is wrong with a row of a line."""
    for column, is_ in (("bin", line.bin), ("item", line.item or ""), ("plate", line.plate or ""), ("lot", line.lot)):
        if told.get(column, "") and told[column].lstrip("'").upper() != is_.upper():
            yield f"line {line.no} is of {column} `{is_ or 'none'}`, not of `{told[column][:40]}`"
    much = told["counted"]
    if much == "0":
        yield f"line {line.no}: a nought is too easily typed; write `{NONE}` where nothing is there"
    elif much.lower() != NONE and not re.fullmatch(r"\d{1,9}", much):
        yield f"line {line.no}: `{much[:20]}` is no number of {line.item or 'pieces'} in base units"
