"""Tables of the catalogue read: CSV and XLSX files, and forms, all through the same columns; ``writing`` is the way out.

A sheet is rows of text cells under a heading (see ``sheets``); which columns a table has follows from the core's types, so that files,
forms and documents cannot differ. Every bad cell is reported with its file, line, column, value and reason; rows that
are good may be taken without the bad ones.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Callable, Container, Iterable, Iterator, Sequence
from dataclasses import MISSING, dataclass, field, fields, replace
from datetime import date
from decimal import Decimal
from enum import Enum
from functools import cache, cached_property
from itertools import islice
from pathlib import Path
from typing import IO, Any, get_args, get_type_hints

from mindful_crate.core.catalog.channels import not_served, serving
from mindful_crate.core.catalog.checking import check_opening, check_serials, check_stock
from mindful_crate.core.catalog.goods import ItemUnit, OrderLine, StockRow, stock_key
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Opening
from mindful_crate.core.catalog.stock import StockColumns, StockTable
from mindful_crate.core.catalog.tables import TABLES, Key, Sites, TableChange, amend, key_text, merge_stock
from mindful_crate.core.plain import Misfit, from_plain, to_plain
from mindful_crate.core.problem import Problem
from mindful_crate.core.record import record
from mindful_crate.files import sheets
from mindful_crate.files.cells import MEANT, Cell, cell_reader, unguarded
from mindful_crate.files.reading import Unreadable
from mindful_crate.files.sheets import Sheet
from mindful_crate.files.stock_rows import StockBatches
from mindful_crate.files.texts import BadText

PARTS = {"units": ("items", "item", "units", ItemUnit), "order_lines": ("orders", "order", "lines", OrderLine)}
"""Tables whose rows are parts of another's: the whole's table, the column that names it, the field, the type."""
NAMES = (*TABLES, *PARTS)
MOST_SHOWN = 200
"""So many bad cells are listed; of the rest there is a count, and a file with all of them."""
MOST_KEPT = 100_000
"""So many are kept for that file; further ones are counted."""
EVERY = 5_000
"""Rows between two words of progress."""
BATCH = 250
"""Rows of stock taken together: few enough to stay in the processor's caches."""


@record
class BadCell:
    """One thing wrong: where it stands, what stands there, and why that will not do."""

    file: str
    line: int
    column: str
    value: str
    says: str


@dataclass
class Brought:
    """What files would make of an opening: the opening, what changes, what is wrong, and how many rows are bad."""

    opening: Opening
    changes: tuple[TableChange, ...] = ()
    bad: list[BadCell] = field(default_factory=list)
    """The first of them; ``bad_cells`` says how many there are."""
    bad_cells: int = 0
    bad_rows: int = 0
    rows: int = 0


# What columns there are


def columns(table: str) -> list[str]:
    """The columns of a table, in the order of a file."""
    kind: Any
    if table in PARTS:
        _, owner, _, kind = PARTS[table]
        return [owner, *_named(kind)]
    return [c for c in _named(TABLES[table].kind) if c not in {p[2] for p in PARTS.values()}]


_columns_of = cache(columns)


def _named(kind: Any) -> list[str]:
    return [f.name.replace("_mg", "_kg") for f in fields(kind)]


def _kind(table: str) -> Any:
    return PARTS[table][3] if table in PARTS else TABLES[table].kind


def needed(table: str) -> list[str]:
    """Columns that may not be empty."""
    without = {f.name for f in fields(_kind(table)) if f.default is not MISSING or f.default_factory is not MISSING}
    if table == "orders":
        without.add("site")  # its channel may say it
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
    "zones": (
        "Parts of a site with one purpose each. `hand_over`: the bin where totes are set down for who picks there, when they are handed on"
        " from zone to zone."
    ),
    "bin_types": "What a kind of bin may hold. An empty limit is no limit.",
    "bins": "Places for goods. `x_mm` is east and `y_mm` north of the site's corner, `walk` the turn on the walk through it.",
    "plate_kinds": "Kinds of license plates: footprint, and height and weight of the empty carrier.",
    "items": "What is kept. Their units stand in `units`.",
    "units": "Units of items, the base unit first, with quantity 1. Sizes and weight are of one such unit.",
    "barcodes": "Codes that mean an item and a unit. Of 8, 12, 13 or 14 digits, the last must be the right check digit.",
    "partners": (
        "Whom goods come from and go to. `shelf_life_days`: goods sent must still keep so long. `address` is lines joined by `;`,"
        " `joins` whether several of its orders may leave in one shipment."
    ),
    "channels": (
        "Ways orders come, and the `site` that serves those of their orders that name none; without one they wait until somebody"
        " names it."
    ),
    "orders": (
        "Orders of the host. One without a `site` gets that of its `channel`. Their lines stand in `order_lines`. `ship_to` is lines of an address joined by `;`, if not the"
        " partner's; `priority` is from 1, the first, to 9."
    ),
    "order_lines": (
        "Lines of orders; `quantity` is in base units, `unit` is what the line was written in. `lot` or `serials`, joined by `;`, are"
        " fixed in advance."
    ),
    "home_bins": "Bins items are at home in, with what to keep there in base units; `most` 0 is no limit.",
    "plates": "License plates there at the opening: in a bin, or `on` another plate in that bin.",
    "stock": "Goods there at the opening, loose or on a plate, in base units.",
    "serials": (
        "Serial numbers of goods there at the opening, one row a piece, of items whose `tracking` is `serial`. Where they come, go or"
        " move, `stock` is counted after them: a row of it need not be brought."
    ),
    "carriers": "Who fetches what goes out. `collects` are times of day joined by `;`, like `11:00;16:30`, `services` what can be booked.",
    "rates": (
        "What a carrier takes for a carton by a `service`: `base`, and `per_kilogram` for each kilogram begun. `town` is the last line of the address, empty for"
        " anywhere else; `litres_per_kilogram` lets bulky cartons weigh more, heavier than `most_kilograms` they do not go; 0 of either is none."
    ),
    "carton_kinds": "Cartons goods are packed into: inside, weight of the empty one, and what it may hold.",
    "carts": "Carts of a site, with so many places for totes of a kind of plate.",
    "printers": (
        "Label printers: `zones`, joined by `;`, are those whose work prints there; of how many mm its labels are."
    ),
    "pack_stations": "Where orders are packed: the bin goods come to, whether there is a scale, and the printer.",
    "trucks": "Vehicles that are expected: `direction`, at which `door`, on which `day` and at what `time`, like `07:30`.",
    "ways": (
        "What bins do not tell about walking. A cross aisle runs along `axis` at `at_mm`, from `from_mm` to `to_mm` if not over the"
        " whole width; the others are about an `aisle` of a `zone`: walked one way, ending at its last bin, going through, or"
        " blocked from here to there."
    ),
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


def sheets_of(name: str, source: bytes | IO[bytes]) -> list[Sheet]:
    """The sheets of a file, each named for a table."""
    return sheets.sheets_of(name, source, NAMES)


Progress = Callable[[int, float], None]
"""Told now and then how many rows were read, and how much of the sheet that is (0 to 1); may raise to end it."""


def bring(
    opening: Opening, brought: Iterable[Sheet], *, whole: bool = False, site: SiteCode | None = None,
    sees: Container[str] | None = None, progress: Progress = lambda rows, share: None,
) -> Brought:  # fmt: skip
    """What sheets make of an opening, with everything wrong with them. Bad rows are left out of what comes out; rows
    that are good on their own but do not agree with the rest are left out too, until all that is left agrees. ``sees``:
    the sites whose rows may be brought; :class:`Unreadable` when a file breaks off."""
    listed = list(brought)
    for sheet in listed:
        named = [name for name in sheet.heading if name]
        if twice := next((name for name in named if named.count(name) > 1), None):
            raise Unreadable(f"`{sheet.file}` names column `{twice}` twice.")
    stock = [s for s in listed if s.table == "stock"]
    reading = _Reading(opening, [s for s in listed if s.table != "stock"], sees, progress)
    put = reading.values()
    serials = put.pop("serials", None)
    later = bool(stock) or serials is not None  # then whether the two agree is asked at the end
    base = replace(opening, stock=StockTable.of()) if stock else opening
    changed, changes = amend(base, put, whole=whole, site=site)
    before: set[tuple[str, str]] | None = None
    for _ in range(20 if put else 0):
        problems = check_opening(changed, serials=not later)
        if problems and before is None:
            before = {(p.place, p.says) for p in check_opening(base, serials=not later)}
        problems = [p for p in problems if (p.place, p.says) not in (before or ())]
        if not problems:
            break
        out = {reading.blame(p.place, p.says) for p in problems}
        put = {name: [r for r in rows if (name, TABLES[name].key(r)) not in out] for name, rows in put.items()}
        if None in out:  # something is wrong that no row brought: nothing can be taken
            put = {}
        changed, changes = amend(base, put, whole=whole and bool(put), site=site)
    if stock:
        changed, change = reading.stock(stock, changed, whole=whole, site=site)
        changes = (*changes, change) if change else ()
    if later:
        changed, of_serials = reading.serials(serials, changed, whole=whole, site=site)
        changes = (*changes, *of_serials) if of_serials is not None else ()
    reading.bad.sort(key=lambda b: (b.file, b.line))
    return Brought(changed, changes, reading.bad, reading.bad_cells, len(reading.bad_rows), reading.count)


def opening_of(name: str, folders: Iterable[Path]) -> Opening:
    """The opening that folders of CSV files make, one after the other; :class:`BadText` says what is wrong with them."""
    opening = Opening(name)
    for folder in folders:
        found = [s for path in sorted(folder.glob("*.csv")) for s in sheets_of(path.name, path.read_bytes())]
        brought = bring(opening, found)
        if brought.bad:
            causes = sorted(brought.bad, key=lambda b: not b.column)  # what follows from a bad cell names no column
            says = "; ".join(f"{b.file} line {b.line}, {b.column} {b.value!r}: {b.says}" for b in causes[:5])
            raise BadText(Problem("bad_files", says, folder.name))
        opening = brought.opening
    return opening


def _cells(heading: Sequence[str], row: Sequence[str]) -> dict[str, str]:
    cells = {h: v.strip() for h, v in zip(heading, row, strict=False) if h}
    named = {n for n, h in enumerate(heading) if h}
    if len(row) > len(named) and (nameless := [v for n, v in enumerate(row) if n not in named and v]):
        cells[""] = ", ".join(nameless)
    return cells


class _Reading:
    """Sheets on their way to core values; remembers where each came from."""

    def __init__(
        self, opening: Opening, found: list[Sheet], sees: Container[str] | None, progress: Progress
    ) -> None:  # fmt: skip
        self.opening = opening
        self.sheets = found
        self.sees = sees
        self.progress = progress
        self.bad: list[BadCell] = []
        self.bad_cells = 0
        self.bad_rows: set[tuple[str, int]] = set()
        self.count = 0
        self.origin: dict[tuple[str, Key], tuple[str, int]] = {}
        self.broken: dict[tuple[str, str], tuple[str, int]] = {}
        """Wholes of which a part is wrong: where it stands."""
        self.sites = Sites(opening)
        self.channels = {c.code: c for c in opening.channels}
        """With those that are brought along."""

    def wrong(self, file: str, line: int, column: str, value: str, says: str) -> None:
        self.bad_cells += 1
        if len(self.bad) < MOST_KEPT:
            self.bad.append(BadCell(file, line, column, value[:80], says))
        self.bad_rows.add((file, line))

    def values(self) -> dict[str, list[Any]]:
        """The good rows of every table but stock as core values."""
        order = list(TABLES)
        parts = {name: self._parts(name) for name in PARTS}
        put: dict[str, list[Any]] = {}
        for sheet in sorted((s for s in self.sheets if s.table not in PARTS), key=lambda s: order.index(s.table)):
            put.setdefault(sheet.table, []).extend(self._table(sheet, parts))
        for name, (whole, _, into, _) in PARTS.items():
            self._parts_alone(name, whole, into, parts[name], put)
        return put

    def _rows(self, sheet: Sheet) -> Iterator[tuple[int, dict[str, str]]]:
        """Rows as cells by column, counted."""
        for line, row in sheet.rows():
            self.count += 1
            if self.count % EVERY == 0:
                self.progress(self.count, sheet.share(line))
            yield line, _cells(sheet.heading, row)

    def _plain(self, sheet: Sheet, line: int, cells: dict[str, str]) -> dict[str, Any] | None:
        """Cells as plain data, or None when one of them is bad."""
        known, good = _columns_of(sheet.table), True
        plain: dict[str, Any] = {}
        for column, text in cells.items():
            if text == "":
                continue
            if column not in known:
                more = "stands in a column without a name"
                says = f"no such column; there are {', '.join(known)}" if column else more
                self.wrong(sheet.file, line, column, text, says)
                good = False
                continue
            if text.startswith("="):
                self.wrong(sheet.file, line, column, text, "a formula; put its value there")
                good = False
                continue
            read: Cell = cell_reader(column)
            try:
                plain[column.replace("_kg", "_mg")] = read(unguarded(text))
            except (ValueError, ArithmeticError):
                self.wrong(sheet.file, line, column, text, f"not {MEANT.get(read, 'what it should be')}")
                good = False
        return plain if good else None

    def _seen(self, sheet: Sheet, line: int, site: str | None) -> bool:
        """Is the row's site one whose rows may be brought? Sites that are new are."""
        if self.sees is None or not site or site in self.sees or all(s.code != site for s in self.opening.sites):
            return True
        self.wrong(sheet.file, line, "site" if "site" in sheet.heading else "", site, f"site `{site}` is not yours")
        return False

    def _value(self, kind: Any, sheet: Sheet, line: int, plain: dict[str, Any], cells: dict[str, str]) -> Any:
        try:
            return from_plain(kind, plain)
        except Misfit as misfit:
            column = misfit.place.split("/")[0].replace("_mg", "_kg")
            self.wrong(sheet.file, line, column, cells.get(column, ""), misfit.says)
            return None

    def _parts(self, name: str) -> dict[str, list[Any]]:
        """Parts by the code of the whole they belong to. A whole of which one part is wrong is not taken by the rest."""
        _, owner, _, kind = PARTS[name]
        found: dict[str, list[Any]] = {}
        for sheet in (s for s in self.sheets if s.table == name):
            for line, cells in self._rows(sheet):
                plain = self._plain(sheet, line, cells)
                code = cells.get(owner, "")
                if plain is not None and not code:
                    self.wrong(sheet.file, line, owner, "", f"names no {owner}")
                    continue
                value = None
                if plain is not None:
                    plain.pop(owner)
                    value = self._value(kind, sheet, line, plain, cells)
                if value is None:
                    self.broken.setdefault((name, code), (sheet.file, line))
                else:
                    found.setdefault(code, []).append(value)
                    self.origin.setdefault((name, (code,)), (sheet.file, line))
        return found

    def _table(self, sheet: Sheet, parts: dict[str, dict[str, list[Any]]]) -> Iterator[Any]:
        table = TABLES[sheet.table]
        part = next(((n, p[2]) for n, p in PARTS.items() if p[0] == sheet.table), None)
        old = {table.key(r): r for r in getattr(self.opening, sheet.table)} if part else {}
        for line, cells in self._rows(sheet):
            plain = self._plain(sheet, line, cells)
            if plain is None:
                continue
            if sheet.table == "orders" and not plain.get("site") and not self._served(sheet, line, plain):
                continue
            if part:
                code = plain.get("code") or plain.get("number") or ""
                before = old.get((code,))
                given = parts[part[0]].get(code)
                if (part[0], code) in self.broken:
                    file, at = self.broken[part[0], code]
                    where = f"of `{file}`" if file else f"of its {part[0].replace('_', ' ')}"
                    self.wrong(sheet.file, line, "", code, f"line {at} {where} will not do")
                    continue
                plain[part[1]] = [to_plain(p) for p in (given or (getattr(before, part[1]) if before else ()))]
            value = self._value(table.kind, sheet, line, plain, cells)
            if value is None or not self._seen(sheet, line, table.site(value, self.sites)):
                continue
            if sheet.table == "channels":
                self.channels[value.code] = value
            elif sheet.table == "zones":
                self.sites.zones[value.code] = value.site
            elif sheet.table == "bins":
                self.sites.bins[value.code] = self.sites.zones.get(value.zone, "")
            key = table.key(value)
            if (sheet.table, key) in self.origin:
                first = self.origin[sheet.table, key]
                self.wrong(sheet.file, line, "", key_text(key), f"stands twice: first in line {first[1]}")
                continue
            self.origin[sheet.table, key] = (sheet.file, line)
            yield value

    def _served(self, sheet: Sheet, line: int, plain: dict[str, Any]) -> bool:
        """Give an order that names no site the one that serves its channel, if there is one."""
        channel = plain.get("channel") or ""
        if site := serving(self.channels.values(), channel):
            plain["site"] = site
            return True
        says = f"an order needs a site, and {not_served(channel)}: name one, or say on Channels which site serves it"
        self.wrong(sheet.file, line, "site", "", says)
        return False

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
            if (name, code) in self.broken:
                file, line = self.origin[name, (code,)]
                at = self.broken[name, code][1]
                self.wrong(file, line, PARTS[name][1], code, f"line {at}, of the same {PARTS[name][1]}, will not do")
                continue
            if (code,) not in there:
                file, line = self.origin[name, (code,)]
                self.wrong(file, line, PARTS[name][1], code, f"there is no {TABLES[whole].one} with this code")
                continue
            put.setdefault(whole, []).append(replace(there[code,], **{into: tuple(parts)}))
            self.origin[whole, (code,)] = self.origin[name, (code,)]

    def stock(
        self, found: list[Sheet], changed: Opening, *, whole: bool, site: SiteCode | None
    ) -> tuple[Opening, TableChange | None]:  # fmt: skip
        """Stock merged over what there was, against a catalogue that agrees with itself: a batch at a time, row by row
        only where something is wrong. No change at all when what was there would not agree with it."""
        plates = {p.number: p for p in changed.plates}
        sites = Sites(changed)
        mine = {code: at for code, at in sites.bins.items() if self.sees is None or at in self.sees}
        items = {i.code: i for i in changed.items}
        stands: dict[str, str] = {p.number: p.bin for p in changed.plates}
        columns = StockColumns()
        columns.put_table(self.opening.stock)
        bases: list[int] = []  # each sheet's lines go on from those of the one before
        last = 0
        for sheet in found:
            bases.append(last)
            batches = StockBatches(columns, sheet.heading, mine.keys(), items.keys(), stands)
            rows = sheet.rows()
            while batch := list(islice(rows, BATCH)):
                self.count += len(batch)
                lines = [bases[-1] + line for line, _ in batch]
                if not batches.take(lines, [row for _, row in batch]):
                    for line, row in batch:
                        self._stock_row(sheet, line, row, columns, bases[-1], (sites, items, plates))
                last = lines[-1]
                if self.count % EVERY < BATCH:
                    self.progress(self.count, sheet.share(batch[-1][0]))
        merged, change = merge_stock(columns, sites, whole=whole, site=site)
        for line, first in merged.twice:
            at = bisect_left(bases, line) - 1
            says = f"stands twice: first in line {first - max(b for b in bases if b < first)}"
            self.wrong(found[at].file, line - bases[at], "", "", says)
        after = replace(changed, stock=merged.table)
        problems = list(check_stock(merged.table, sites.bins, items, plates)) if columns.before else []
        if problems:
            before = {(p.place, p.says) for p in check_opening(self.opening)}
            problems = [p for p in problems if (p.place, p.says) not in before]
        for problem in problems:
            self.blame(problem.place, problem.says)
        return (self.opening, None) if problems else (after, change)

    def serials(
        self, rows: list[Any] | None, changed: Opening, *, whole: bool, site: SiteCode | None
    ) -> tuple[Opening, tuple[TableChange, ...] | None]:
        """Serial numbers put over what there was, and stock counted after them, against a catalogue that agrees with itself. Rows
        that lie nowhere are left out; so are all of an item whose numbers and stock do not agree. No change at all when what
        was there would not agree with what comes."""
        plates = {p.number: p for p in changed.plates}
        bins = {b.code for b in changed.bins}
        put = {"serials": rows} if rows is not None else {}
        for row in list(rows or ()):
            for problem in check_stock(StockTable.of([row.stock]), bins, {i.code for i in changed.items}, plates):
                self.blame(f"serials/{row.serial}, {row.item}", problem.says)
                put["serials"].remove(row)
                break
        before: set[tuple[str, str]] | None = None
        for _ in range(2 if put else 1):
            after, changes = amend(changed, put, whole=whole, site=site)
            problems = list(check_serials(after))
            if problems and before is None:
                before = {(p.place, p.says) for p in check_serials(self.opening)}
            problems = [p for p in problems if (p.place, p.says) not in (before or ())]
            if not problems:
                return after, changes
            for problem in problems:
                self.blame(problem.place, problem.says)
            odd = {code for p in problems for code in (p.place.rpartition(", ")[2], *re.findall(r"`([^`]+)`", p.says))}
            put = {name: [r for r in held if r.item not in odd] for name, held in put.items()}
        return self.opening, None

    def _stock_row(
        self, sheet: Sheet, line: int, row: Sequence[str], columns: StockColumns, base: int,
        known: tuple[Sites, dict[Any, Any], dict[Any, Any]],
    ) -> None:  # fmt: skip
        cells = _cells(sheet.heading, row)
        plain = self._plain(sheet, line, cells)
        value = self._value(StockRow, sheet, line, plain, cells) if plain is not None else None
        if value is None:
            return
        sites, items, plates = known
        for problem in check_stock(StockTable.of([value]), sites.bins, items, plates):
            about = re.findall(r"`([^`]+)`", problem.says)[:1]
            column = next((c for c, text in cells.items() if [text] == about), "" if about else "quantity")
            self.wrong(sheet.file, line, column, cells.get(column, key_text(stock_key(value))), problem.says)
            return
        if self._seen(sheet, line, sites.bins.get(value.bin)):
            columns.put(value, base + line)

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
