"""Tables of the catalogue in and out: CSV and XLSX files, and forms, all through the same columns.

A file is a sheet of text cells with a heading; which columns a table has follows from the core's types, so that files,
forms and documents cannot differ. Every bad cell is reported with its file, line, column, value and reason; rows that
are good may be taken without the bad ones.
"""

from __future__ import annotations

import csv
import io
import re
import zipfile
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import MISSING, dataclass, field, fields, replace
from datetime import date, datetime
from decimal import Decimal
from enum import Enum
from functools import cached_property
from pathlib import Path
from typing import Any, get_args, get_type_hints

import openpyxl
from openpyxl.utils import get_column_letter

from mindful_crate.core.catalog.goods import ItemUnit, OrderLine
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Opening, check_opening
from mindful_crate.core.catalog.tables import TABLES, Key, Sites, TableChange, amend, key_text
from mindful_crate.core.plain import Misfit, from_plain, to_plain
from mindful_crate.core.problem import Problem
from mindful_crate.core.record import record
from mindful_crate.files.cells import MEANT, Cell, cell_reader
from mindful_crate.files.texts import BadText

PARTS = {"units": ("items", "item", "units", ItemUnit), "order_lines": ("orders", "order", "lines", OrderLine)}
"""Tables whose rows are parts of another's: the whole's table, the column that names it, the field, the type."""
NAMES = (*TABLES, *PARTS)
MOST_SHOWN = 200
"""So many bad cells are listed; of the rest there is a count, and a file with all of them."""
MOST_UNPACKED = 600_000_000
"""A workbook that unpacks to more bytes is not opened."""


@record
class BadCell:
    """One thing wrong: where it stands, what stands there, and why that will not do."""

    file: str
    line: int
    column: str
    value: str
    says: str


@dataclass
class Sheet:
    """Rows of one table as text cells, each with the line it stands in."""

    table: str
    file: str
    rows: list[tuple[int, dict[str, str]]]


@dataclass
class Brought:
    """What files would make of an opening: the opening, what changes, what is wrong, and how many rows are bad."""

    opening: Opening
    changes: tuple[TableChange, ...] = ()
    bad: list[BadCell] = field(default_factory=list)
    bad_rows: int = 0
    rows: int = 0


class Unreadable(Exception):
    """A file that cannot be read at all, in a sentence."""


# What columns there are


def columns(table: str) -> list[str]:
    """The columns of a table, in the order of a file."""
    kind: Any
    if table in PARTS:
        _, owner, _, kind = PARTS[table]
        return [owner, *_named(kind)]
    return [c for c in _named(TABLES[table].kind) if c not in {p[2] for p in PARTS.values()}]


def _named(kind: Any) -> list[str]:
    return [f.name.replace("_mg", "_kg") for f in fields(kind)]


def _kind(table: str) -> Any:
    return PARTS[table][3] if table in PARTS else TABLES[table].kind


def needed(table: str) -> list[str]:
    """Columns that may not be empty."""
    without = {f.name for f in fields(_kind(table)) if f.default is not MISSING or f.default_factory is not MISSING}
    return [c for c in columns(table) if c.replace("_kg", "_mg") not in without]


def choices(table: str) -> dict[str, list[str]]:
    """What the columns of a table may hold that hold one of a few words."""
    found = {}
    for name, hint in get_type_hints(_kind(table)).items():
        kinds = [k for k in (hint, *get_args(hint)) if isinstance(k, type) and issubclass(k, Enum)]
        if kinds and name in columns(table):
            found[name] = [str(v.value) for v in kinds[0]]
        elif hint is bool:
            found[name] = ["yes", "no"]
    return found


def meant(table: str) -> dict[str, str]:
    """What the cells of a table's columns are, where they are not just text or one of a few words."""
    hints = get_type_hints(_kind(table))
    found = {c: MEANT[read] for c in columns(table) if (read := cell_reader(c)) in MEANT}
    for name, hint in hints.items():
        if date in (hint, *get_args(hint)):
            found[name] = "a date, like 2026-03-31"
        elif hint is Decimal:
            found[name] = "a number, like 12.50"
    return {c: t for c, t in found.items() if c not in choices(table)}


ABOUT = {
    "sites": "Warehouses and stockrooms. `cross_aisles` is how far north, in mm, the ways lie that join the aisles.",
    "zones": "Parts of a site with one purpose each.",
    "bin_types": "What a kind of bin may hold. An empty limit is no limit.",
    "bins": "Places for goods. `x_mm` is east and `y_mm` north of the site's corner, `walk` the turn on the walk through it.",
    "plate_kinds": "Kinds of license plates: footprint, and height and weight of the empty carrier.",
    "items": "What is kept. Their units stand in `units`.",
    "units": "Units of items, the base unit first, with quantity 1. Sizes and weight are of one such unit.",
    "barcodes": "Codes that mean an item and a unit. Of 8, 12, 13 or 14 digits, the last must be the right check digit.",
    "partners": "Whom goods come from and go to. `shelf_life_days`: goods sent must still keep so long.",
    "orders": "Orders of the host. Their lines stand in `order_lines`.",
    "order_lines": "Lines of orders; `quantity` is in base units, `unit` is what the line was written in.",
    "home_bins": "Bins items are at home in, with what to keep there in base units; `most` 0 is no limit.",
    "plates": "License plates there at the opening: in a bin, or `on` another plate in that bin.",
    "stock": "Goods there at the opening, loose or on a plate, in base units.",
    "carriers": "Who fetches what goes out. `collects` are times of day joined by `;`, like `11:00;16:30`.",
    "carton_kinds": "Cartons goods are packed into: inside, weight of the empty one, and what it may hold.",
    "carts": "Carts of a site, with so many places for totes of a kind of plate.",
    "series": "How documents are numbered; rehearsals have a series of their own.",
}


def told() -> str:
    """Every table with its columns, as a page of the documentation."""
    parts = ["# Tables as files\n\nWritten by `python -m mindful_crate.cli schemas`; a test keeps it true.\n"]
    for name in NAMES:
        parts.append(f"## {name}\n\n{ABOUT[name]}\n\n| column | | holds |\n| --- | --- | --- |")
        words, means, must = choices(name), meant(name), needed(name)
        for column in columns(name):
            holds = ", ".join(f"`{c}`" for c in words[column]) if column in words else means.get(column, "text")
            parts.append(f"| `{column}` | {'needed' if column in must else ''} | {holds} |")
        parts.append("")
    return "\n".join(parts)


# Reading


def sheets_of(name: str, content: bytes) -> list[Sheet]:
    """The sheets of a file: one of a CSV named for its table, all that are named for tables of a workbook."""
    if content[:4] == b"PK\x03\x04":
        return _workbook(name, content)
    table = _table_of(name)
    if table is None:
        listed = ", ".join(f"{n}.csv" for n in NAMES)
        raise Unreadable(f"`{name}` says no table. Name the file for what it holds: {listed}.")
    return [Sheet(table, name, list(_csv_rows(name, content)))]


def _table_of(name: str) -> str | None:
    stem = name.rsplit("/", 1)[-1].rsplit(".", 1)[0].lower().replace("-", "_").replace(" ", "_")
    return next((n for n in sorted(NAMES, key=len, reverse=True) if stem == n or stem.endswith(f"_{n}")), None)


def _csv_rows(name: str, content: bytes) -> Iterator[tuple[int, dict[str, str]]]:
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = content[: error.start].count(b"\n") + 1
        raise Unreadable(
            f"`{name}` is not UTF-8 text (line {line}). Save it as CSV UTF-8 and bring it again."
        ) from None
    if "\0" in text:
        raise Unreadable(f"`{name}` is no text file.")
    first = text.split("\n", 1)[0]
    delimiter = max(",;\t", key=first.count)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    try:
        heading = next(reader, None)
        if not heading or not any(heading):
            raise Unreadable(f"`{name}` is empty: its first line names the columns.")
        for row in reader:
            if any(row):
                yield reader.line_num, _cells(heading, row)
    except csv.Error as error:
        raise Unreadable(f"`{name}`, line {reader.line_num}, cannot be read: {error}.") from None


def _cells(heading: Sequence[str], row: Sequence[str]) -> dict[str, str]:
    cells = {h.strip(): v.strip() for h, v in zip(heading, row, strict=False) if h.strip()}
    if len(row) > len(heading) and any(row[len(heading) :]):
        cells[""] = ", ".join(row[len(heading) :])
    return cells


def _workbook(name: str, content: bytes) -> list[Sheet]:
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as packed:
            size = sum(i.file_size for i in packed.infolist())
            if size > MOST_UNPACKED:
                raise Unreadable(
                    f"`{name}` unpacks to {size // 1_000_000:,} MB; at most {MOST_UNPACKED // 1_000_000} are read."
                )
            for info in packed.infolist():
                if info.filename.endswith((".xml", ".rels")):
                    with packed.open(info) as part:
                        if b"<!DOCTYPE" in part.read(4096):
                            raise Unreadable(f"`{name}` declares entities, which no workbook needs. It is not opened.")
        book = openpyxl.load_workbook(io.BytesIO(content), read_only=True)
    except Unreadable:
        raise
    except Exception as error:  # whatever a broken package makes of it, it is no workbook
        raise Unreadable(f"`{name}` is no workbook that can be read: {str(error)[:120]}") from None
    found = []
    for sheet in book.worksheets:
        table = _table_of(sheet.title) or (_table_of(name) if len(book.worksheets) == 1 else None)
        if table:
            found.append(Sheet(table, f"{name}, {sheet.title}", list(_sheet_rows(sheet))))
    if not found:
        raise Unreadable(f"No sheet of `{name}` is named for a table. Name it {', '.join(NAMES)}.")
    return found


def _sheet_rows(sheet: Any) -> Iterator[tuple[int, dict[str, str]]]:
    heading: list[str] | None = None
    for line, row in enumerate(sheet.iter_rows(values_only=True), start=1):
        texts = [_text(v) for v in row]
        if heading is None:
            heading = texts
        elif any(texts):
            yield line, _cells(heading, texts)


def _text(value: Any) -> str:
    """A cell of a workbook as a file of text would have it."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, datetime):
        return value.date().isoformat() if value.time() == datetime.min.time() else value.isoformat(sep=" ")
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, float):
        return format(Decimal(repr(value)).normalize(), "f")
    return str(value)


def bring(opening: Opening, sheets: Iterable[Sheet], *, whole: bool = False, site: SiteCode | None = None) -> Brought:
    """What sheets make of an opening, with everything wrong with them. Bad rows are left out of what comes out; rows
    that are good on their own but do not agree with the rest are left out too, until all that is left agrees."""
    reading = _Reading(opening, list(sheets))
    put = reading.values()
    changed, changes = amend(opening, put, whole=whole, site=site)
    before = {(p.place, p.says) for p in check_opening(opening)}
    for _ in range(20):
        problems = [p for p in check_opening(changed) if (p.place, p.says) not in before]
        if not problems:
            break
        out = {reading.blame(p.place, p.says) for p in problems}
        put = {name: [r for r in rows if (name, TABLES[name].key(r)) not in out] for name, rows in put.items()}
        if None in out:  # something is wrong that no row brought: nothing can be taken
            put = {}
        changed, changes = amend(opening, put, whole=whole and bool(put), site=site)
    reading.bad.sort(key=lambda b: (b.file, b.line))
    return Brought(changed, changes, reading.bad, len(reading.bad_rows), reading.count)


def opening_of(name: str, folders: Iterable[Path]) -> Opening:
    """The opening that folders of CSV files make, one after the other; :class:`BadText` says what is wrong with them."""
    opening = Opening(name)
    for folder in folders:
        sheets = [s for path in sorted(folder.glob("*.csv")) for s in sheets_of(path.name, path.read_bytes())]
        brought = bring(opening, sheets)
        if brought.bad:
            says = "; ".join(f"{b.file} line {b.line}, {b.column} {b.value!r}: {b.says}" for b in brought.bad[:5])
            raise BadText(Problem("bad_files", says, folder.name))
        opening = brought.opening
    return opening


class _Reading:
    """Sheets on their way to core values; remembers where each came from."""

    def __init__(self, opening: Opening, sheets: list[Sheet]) -> None:
        self.opening = opening
        self.sheets = sheets
        self.bad: list[BadCell] = []
        self.bad_rows: set[tuple[str, int]] = set()
        self.count = sum(len(s.rows) for s in sheets)
        self.origin: dict[tuple[str, Key], tuple[str, int]] = {}

    def wrong(self, file: str, line: int, column: str, value: str, says: str) -> None:
        self.bad.append(BadCell(file, line, column, value[:80], says))
        self.bad_rows.add((file, line))

    def values(self) -> dict[str, list[Any]]:
        """The good rows of every table as core values."""
        parts = {name: self._parts(name) for name in PARTS}
        put: dict[str, list[Any]] = {}
        for sheet in self.sheets:
            if sheet.table not in PARTS:
                put.setdefault(sheet.table, []).extend(self._table(sheet, parts))
        for name, (whole, _, into, _) in PARTS.items():
            self._parts_alone(name, whole, into, parts[name], put)
        return put

    def _plain(self, sheet: Sheet, line: int, cells: dict[str, str]) -> dict[str, Any] | None:
        """Cells as plain data, or None when one of them is bad."""
        known, good = columns(sheet.table), True
        plain: dict[str, Any] = {}
        for column, text in cells.items():
            if column not in known:
                if text:
                    says = (
                        "the row has more cells than the heading"
                        if not column
                        else f"no such column; there are {', '.join(known)}"
                    )
                    self.wrong(sheet.file, line, column, text, says)
                    good = False
                continue
            if text == "":
                continue
            if text.startswith("="):
                self.wrong(sheet.file, line, column, text, "a formula; put its value there")
                good = False
                continue
            read: Cell = cell_reader(column)
            try:
                plain[column.replace("_kg", "_mg")] = read(text)
            except (ValueError, ArithmeticError):
                self.wrong(sheet.file, line, column, text, f"not {MEANT.get(read, 'what it should be')}")
                good = False
        return plain if good else None

    def _value(self, kind: Any, sheet: Sheet, line: int, plain: dict[str, Any], cells: dict[str, str]) -> Any:
        try:
            return from_plain(kind, plain)
        except Misfit as misfit:
            column = misfit.place.split("/")[0].replace("_mg", "_kg")
            self.wrong(sheet.file, line, column, cells.get(column, ""), misfit.says)
            return None

    def _parts(self, name: str) -> dict[str, list[Any]]:
        """Parts by the code of the whole they belong to."""
        _, owner, _, kind = PARTS[name]
        found: dict[str, list[Any]] = {}
        for sheet in (s for s in self.sheets if s.table == name):
            for line, cells in sheet.rows:
                plain = self._plain(sheet, line, cells)
                code = plain.pop(owner, "") if plain is not None else ""
                if plain is not None and not code:
                    self.wrong(sheet.file, line, owner, "", f"names no {owner}")
                elif plain is not None:
                    value = self._value(kind, sheet, line, plain, cells)
                    if value is not None:
                        found.setdefault(code, []).append(value)
                        self.origin.setdefault((name, (code,)), (sheet.file, line))
        return found

    def _table(self, sheet: Sheet, parts: dict[str, dict[str, list[Any]]]) -> Iterator[Any]:
        table = TABLES[sheet.table]
        part = next(((n, p[2]) for n, p in PARTS.items() if p[0] == sheet.table), None)
        old = {table.key(r): r for r in getattr(self.opening, sheet.table)} if part else {}
        for line, cells in sheet.rows:
            plain = self._plain(sheet, line, cells)
            if plain is None:
                continue
            if part:
                code = plain.get("code") or plain.get("number") or ""
                before = old.get((code,))
                given = parts[part[0]].get(code)
                plain[part[1]] = [to_plain(p) for p in (given or (getattr(before, part[1]) if before else ()))]
            value = self._value(table.kind, sheet, line, plain, cells)
            if value is None:
                continue
            key = table.key(value)
            if (sheet.table, key) in self.origin:
                first = self.origin[sheet.table, key]
                self.wrong(sheet.file, line, "", key_text(key), f"stands twice: first in line {first[1]}")
                continue
            self.origin[sheet.table, key] = (sheet.file, line)
            yield value

    def _parts_alone(
        self, name: str, whole: str, into: str, found: dict[str, list[Any]], put: dict[str, list[Any]]
    ) -> None:
        """Parts whose whole is not brought along change the whole that is there."""
        key = TABLES[whole].key
        brought = {key(r) for r in put.get(whole, ())}
        there = {key(r): r for r in getattr(self.opening, whole)}
        for code, parts in found.items():
            if (code,) in brought:
                continue
            if (code,) not in there:
                file, line = self.origin[name, (code,)]
                self.wrong(file, line, PARTS[name][1], code, f"there is no {TABLES[whole].one} with this code")
                continue
            put.setdefault(whole, []).append(replace(there[code,], **{into: tuple(parts)}))
            self.origin[whole, (code,)] = self.origin[name, (code,)]

    def blame(self, place: str, says: str) -> tuple[str, Key] | None:
        """The row a problem of the whole is about, noted as bad; None if no row brought it."""
        name, _, rest = place.partition("/")
        for code in (rest, rest.split("/")[0], *re.findall(r"`([^`]+)`", says)):
            found = self._by_code.get((name, code))
            if found:
                file, line = self.origin[found]
                self.wrong(file, line, "", key_text(found[1]), says)
                return found
        self.wrong("", 0, "", place, says)
        return None

    @cached_property
    def _by_code(self) -> dict[tuple[str, str], tuple[str, Key]]:
        """Rows by their table and what a problem calls them."""
        found: dict[tuple[str, str], tuple[str, Key]] = {}
        for table, key in self.origin:
            found.setdefault((table, key[0]), (table, key))
            found[table, key_text(key)] = (table, key)
        return found


# Writing


def rows_of(opening: Opening, table: str, site: SiteCode | None = None) -> Iterator[list[str]]:
    """A table as text cells, in the order of its columns; of one site, or of all."""
    named = columns(table)
    whole = PARTS[table][0] if table in PARTS else table
    sites = Sites(opening)
    for row in getattr(opening, whole):
        if site is not None and TABLES[whole].site(row, sites) not in (None, site):
            continue
        if table in PARTS:
            _, owner, into, _ = PARTS[table]
            for part in getattr(row, into):
                yield [TABLES[whole].key(row)[0] if c == owner else _cell(part, c) for c in named]
        else:
            yield [_cell(row, c) for c in named]


def _cell(value: Any, column: str) -> str:
    if column.endswith("_kg"):
        held = getattr(value, column.replace("_kg", "_mg"))
        return "" if held is None else kilograms(held)
    held = to_plain(getattr(value, column))
    if held is None:
        return ""
    if isinstance(held, bool):
        return "yes" if held else "no"
    if isinstance(held, list):
        return ";".join(str(h) for h in held)
    return str(held)


def kilograms(milligrams: int) -> str:
    """Exact kilograms: ``0.023``."""
    return format((Decimal(milligrams) / 1_000_000).normalize(), "f")


def as_csv(heading: Sequence[str], rows: Iterable[Sequence[str]]) -> bytes:
    """A file of CSV, UTF-8."""
    text = io.StringIO(newline="")
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(heading)
    writer.writerows(rows)
    return text.getvalue().encode()


def as_workbook(sheets: Mapping[str, tuple[Sequence[str], Iterable[Sequence[str]]]]) -> bytes:
    """A workbook with a sheet for each table; every cell is text, so that codes keep their zeros."""
    book = openpyxl.Workbook(write_only=True)
    for title, (heading, rows) in sheets.items():
        sheet = book.create_sheet(title)
        sheet.freeze_panes = "A2"
        for n in range(1, len(heading) + 1):
            sheet.column_dimensions[get_column_letter(n)].width = 16
        sheet.append(list(heading))
        for row in rows:
            sheet.append([_literal(sheet, c) for c in row])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _literal(sheet: Any, text: str) -> Any:
    """A cell that stays the text it is, also when it begins like a formula."""
    if not text.startswith("="):
        return text
    cell = openpyxl.cell.WriteOnlyCell(sheet, value=text)
    cell.data_type = "s"
    return cell
