"""Tables of the catalogue as text: rows of cells, CSV, workbooks; with the columns they are read by (see ``tables``)."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator, Mapping, Sequence
from decimal import Decimal
from typing import Any

import openpyxl
from openpyxl.utils import get_column_letter

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Opening
from mindful_crate.core.catalog.tables import TABLES, Sites
from mindful_crate.core.plain import to_plain
from mindful_crate.files.cells import guarded
from mindful_crate.files.sheets import Sheet
from mindful_crate.files.tables import PARTS, columns


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


def cells_of(table: str, row: Any) -> dict[str, str]:
    """A row of a table as a form has it: text cells by column."""
    return {c: _cell(row, c) for c in columns(table)}


def altered(opening: Opening, table: str, codes: Iterable[str], cells: Mapping[str, str]) -> Sheet:
    """Rows of a table as they stand, with some cells otherwise: for many at once. Codes that are not there are left
    out."""
    wanted = set(codes)
    rows = (r for r in getattr(opening, table) if TABLES[table].key(r)[0] in wanted)
    return Sheet.of_cells(table, [cells_of(table, r) | dict(cells) for r in rows])


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
    writer.writerows([guarded(c) for c in row] for row in rows)
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
            sheet.append([guarded(c) for c in row])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
