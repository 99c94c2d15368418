"""Long tables, asked a page at a time: found, filtered and sorted here, so that a screen holds what it shows."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from typing import Any, Literal, TypeVar

from pydantic import Field

from mindful_crate.api.wiring import Body
from mindful_crate.core.problem import Refusal

R = TypeVar("R")
NUMBER = re.compile(r"-?\d[\d,]*(\.\d+)?")
"""What is sorted by size; a code like `1E5` or `NAN` is none."""


class PageQuery(Body):
    """Which rows: that read like ``find`` anywhere, and of one column as ``op`` says; sorted by a column, from a place on."""

    find: str = Field(default="", max_length=80)
    start: int = Field(default=0, ge=0)
    most: int = Field(default=100, ge=1, le=200)
    sort: str = Field(default="", max_length=40)
    down: bool = False
    column: str = Field(default="", max_length=40)
    op: Literal["has", "is", "begins", "empty", "filled"] = "has"
    value: str = Field(default="", max_length=80)


def page_of(
    rows: Iterable[R], columns: Sequence[str], cells: Callable[[R], Sequence[Any]], query: PageQuery
) -> tuple[list[R], int]:
    """The rows of a page, and how many there are in all. ``cells`` are a row's values in the order of ``columns``; None is an
    empty cell. A column that there is not is refused."""
    wanted = query.find.strip().lower()
    at = _place(columns, query.column) if query.column and (query.value or query.op in ("empty", "filled")) else None
    says = query.value.strip().lower()
    found = []
    for row in rows:
        values = cells(row)
        if wanted and not any(wanted in str(v).lower() for v in values if v is not None):
            continue
        if at is None or _holds(query.op, "" if values[at] is None else str(values[at]).lower(), says):
            found.append(row)
    if query.sort:
        by = _place(columns, query.sort)
        found.sort(key=lambda row: _rank(cells(row)[by]), reverse=query.down)
    return found[query.start : query.start + query.most], len(found)


def _place(columns: Sequence[str], name: str) -> int:
    if name not in columns:
        raise Refusal("no_column", f"There is no column `{name}` here.")
    return columns.index(name)


def _holds(op: str, cell: str, says: str) -> bool:
    match op:
        case "has":
            return says in cell
        case "is":
            return cell == says
        case "begins":
            return cell.startswith(says)
        case "empty":
            return not cell
        case _:
            return bool(cell)


def _rank(cell: Any) -> tuple[int, float, str]:
    """Numbers by size before words by letter; empty cells come first."""
    text = "" if cell is None else str(cell)
    if NUMBER.fullmatch(text):
        return 1, float(text.replace(",", "")), ""
    return (2 if text else 0), 0.0, text.lower()
