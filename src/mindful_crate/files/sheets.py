"""Files of tables on their way in: each table a sheet with a heading, its rows read line by line, so that a file may be
larger than memory. What cannot be read at all is told in a sentence."""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from typing import IO, Any

import openpyxl

from mindful_crate.files.reading import Unreadable

Row = tuple[int, Sequence[str]]
"""The line it stands in, and its cells in the order of the heading."""
MOST_UNPACKED = 600_000_000
"""A workbook that unpacks to more bytes is not opened."""
LONGEST_LINE = 1_000_000
"""Characters; a longer line is none of a table."""


@dataclass(frozen=True)
class Sheet:
    """One table in a file. ``rows`` begins to read it anew each time; ``share`` says how much of it has been read when
    it is at that row, from 0 to 1."""

    table: str
    file: str
    heading: tuple[str, ...]
    rows: Callable[[], Iterator[Row]]
    share: Callable[[int], float] = lambda row: 0.0

    @classmethod
    def of_cells(cls, table: str, cells: Sequence[dict[str, str]]) -> Sheet:
        """The rows of a form."""
        heading = tuple(dict.fromkeys(name for each in cells for name in each))
        listed = [(n, [each.get(name, "") for name in heading]) for n, each in enumerate(cells, start=1)]
        return cls(table, "", heading, lambda: iter(listed))


def sheets_of(name: str, source: bytes | IO[bytes], tables: Sequence[str]) -> list[Sheet]:
    """The sheets of a file: one of a CSV named for its table, all that are named for ``tables`` of a workbook."""
    file = io.BytesIO(source) if isinstance(source, bytes) else source
    file.seek(0)
    if file.read(4) == b"PK\x03\x04":
        return _workbook(name, file, tables)
    table = _table_of(name, tables)
    if table is None:
        listed = ", ".join(f"{n}.csv" for n in tables)
        raise Unreadable(f"`{name}` says no table. Name the file for what it holds: {listed}.")
    return [_csv(name, file, table)]


def _table_of(name: str, tables: Sequence[str]) -> str | None:
    stem = name.rsplit("/", 1)[-1].rsplit(".", 1)[0].lower().replace("-", "_").replace(" ", "_")
    return next((n for n in sorted(tables, key=len, reverse=True) if stem == n or stem.endswith(f"_{n}")), None)


# CSV


def _csv(name: str, file: IO[bytes], table: str) -> Sheet:
    size = max(1, _looked_over(name, file))
    file.seek(0)
    first = file.readline(LONGEST_LINE).decode("utf-8-sig", errors="replace")
    delimiter = max(",;\t", key=first.count)
    heading = next(_csv_rows(name, file, delimiter), (0, ()))[1]
    if not any(heading):
        raise Unreadable(f"`{name}` is empty: its first line names the columns.")

    def rows() -> Iterator[Row]:
        found = _csv_rows(name, file, delimiter)
        next(found)
        return found

    return Sheet(table, name, tuple(h.strip() for h in heading), rows, lambda row: file.tell() / size)


def _csv_rows(name: str, file: IO[bytes], delimiter: str) -> Iterator[Row]:
    file.seek(0)
    text = io.TextIOWrapper(file, encoding="utf-8-sig", newline="")
    try:
        reader = csv.reader(text, delimiter=delimiter)
        for row in reader:
            if any(row):
                yield reader.line_num, row
    except UnicodeDecodeError:
        file.seek(0)
        line = next(n for n, raw in enumerate(file, start=1) if not _is_text(raw))
        raise Unreadable(
            f"`{name}` is not UTF-8 text (line {line}). Save it as CSV UTF-8 and bring it again."
        ) from None
    except csv.Error as error:
        raise Unreadable(f"`{name}`, line {reader.line_num}, cannot be read: {error}.") from None
    finally:
        if not file.closed:  # it is not ours to close
            text.detach()


def _looked_over(name: str, file: IO[bytes]) -> int:
    """The size of a file that may be text in lines; refused when it cannot be, before any of it is read as such."""
    file.seek(0)
    size = since = 0
    while chunk := file.read(1 << 20):
        if b"\0" in chunk:
            raise Unreadable(f"`{name}` is no text file.")
        size += len(chunk)
        first = chunk.find(b"\n")
        since = since + len(chunk) if first < 0 else len(chunk) - chunk.rfind(b"\n")
        if max(since, first) > LONGEST_LINE:
            raise Unreadable(f"`{name}` has a line of more than {LONGEST_LINE:,} characters. It is no table.")
    return size


def _is_text(raw: bytes) -> bool:
    try:
        raw.decode("utf-8")
    except UnicodeDecodeError:
        return False
    return True


# Workbooks


def _workbook(name: str, file: IO[bytes], tables: Sequence[str]) -> list[Sheet]:
    try:
        _no_traps(name, file)
        file.seek(0)
        book = openpyxl.load_workbook(file, read_only=True)
    except Unreadable:
        raise
    except Exception as error:  # whatever a broken package makes of it, it is no workbook
        raise _broken(name, error) from None
    found = []
    for sheet in book.worksheets:
        table = _table_of(sheet.title, tables) or (_table_of(name, tables) if len(book.worksheets) == 1 else None)
        if table:
            found.append(_sheet(name, table, sheet))
    if not found:
        raise Unreadable(f"No sheet of `{name}` is named for a table. Name it {', '.join(tables)}.")
    return found


def _broken(name: str, error: Exception) -> Unreadable:
    return Unreadable(f"`{name}` is no workbook that can be read: {str(error)[:120]}")


def _no_traps(name: str, file: IO[bytes]) -> None:
    """Refuse what unpacks to more than can be meant, and entities; neither is expanded first."""
    with zipfile.ZipFile(file) as packed:
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


def _sheet(name: str, table: str, sheet: Any) -> Sheet:
    title = f"{name}, {sheet.title}"
    last = sheet.max_row
    sheet.reset_dimensions()  # what a workbook says of its size may hide cells that are there

    def rows() -> Iterator[Row]:
        try:
            found = enumerate(sheet.iter_rows(values_only=True), start=1)
            next(found, None)
            for line, row in found:
                texts = [v if type(v) is str else _text(v) for v in row]
                if any(texts):
                    yield line, [*texts, *[""] * (len(heading) - len(texts))]
        except Unreadable:
            raise
        except Exception as error:
            raise _broken(name, error) from None

    try:
        heading = tuple(_text(v).strip() for v in next(sheet.iter_rows(values_only=True, max_row=1), ()))
    except Exception as error:
        raise _broken(name, error) from None
    while heading and not heading[-1]:
        heading = heading[:-1]
    return Sheet(table, title, heading, rows, lambda row: min(1.0, row / (last or row or 1)))


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
