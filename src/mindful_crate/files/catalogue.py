"""The catalogue, orders and opening stock as a folder of CSV files.

Each file's columns are the fields of one core type. Lists stand in one cell, joined by ``;``. Weights are in
kilograms (``weight_kg``); everything else is in the core's own units. A bad row is reported with its file, line
and column, all bad rows at once.
"""

from __future__ import annotations

import csv
from collections import defaultdict
from collections.abc import Callable, Iterator
from decimal import Decimal, InvalidOperation
from pathlib import Path
from typing import Any, TypeVar

from mindful_crate.core.catalog.goods import Barcode, HomeBin, Item, Order, Partner, PlateRow, Series, StockRow
from mindful_crate.core.catalog.opening import Opening, check_opening
from mindful_crate.core.catalog.places import Bin, BinType, PlateKind, Site, Zone
from mindful_crate.core.catalog.stock import StockTable
from mindful_crate.core.plain import Misfit, from_plain
from mindful_crate.core.problem import Problem

T = TypeVar("T")
Cell = Callable[[str], Any]


class BadFiles(Exception):
    """Files that cannot be used; ``problems`` says everything wrong with them."""

    def __init__(self, problems: list[Problem]) -> None:
        super().__init__("; ".join(f"{p.place}: {p.says}" for p in problems[:5]))
        self.problems = problems


def _whole(text: str) -> int:
    return int(text)


def _yes(text: str) -> bool:
    if text not in ("yes", "no"):
        raise ValueError(text)
    return text == "yes"


def _list(text: str) -> list[str]:
    return text.split(";")


def _wholes(text: str) -> list[int]:
    return [int(t) for t in text.split(";")]


def milligrams(text: str) -> int:
    """Kilograms as exact milligrams; finer than a milligram is refused."""
    value = Decimal(text) * 1_000_000
    if value != value.to_integral_value():
        raise ValueError(text)
    return int(value)


MEANT: dict[Cell, str] = {
    _whole: "a whole number",
    _yes: "yes or no",
    _wholes: "whole numbers joined by ;",
    milligrams: "kilograms with at most six decimals",
}
COLUMNS: dict[str, Cell] = {
    **dict.fromkeys(
        [
            "x_mm",
            "y_mm",
            "level",
            "walk",
            "height_mm",
            "length_mm",
            "width_mm",
            "deck_mm",
            "max_volume_mm3",
            "max_plates",
            "next",
            "last",
            "width",
            "quantity",
            "no",
            "least",
            "most",
            "shelf_life_days",
        ],
        _whole,
    ),
    **dict.fromkeys(("mixed_items", "mixed_lots", "mixed_statuses", "confirmed", "shipped"), _yes),
    **dict.fromkeys(("weight_kg", "max_weight_kg"), milligrams),
    "hazard_classes": _list,
    "cross_aisles": _wholes,
}
"""How the cells of a column are read; columns not named here are text."""


def cell_reader(column: str) -> Cell:
    """What reads the cells of a column."""
    return COLUMNS.get(column, str)


def read_folder(folder: Path, name: str) -> Opening:
    """The opening state in a folder of CSV files; raises :class:`BadFiles` with every problem found."""
    reader = _Reader(folder)
    units, lines = defaultdict(list), defaultdict(list)
    for place, row in reader.rows("units"):
        units[row.pop("item", "")].append((place, row))
    for place, row in reader.rows("order_lines"):
        lines[row.pop("order", "")].append((place, row))
    items = [{**row, "units": [u for _, u in units.get(row.get("code", ""), [])]} for _, row in reader.rows("items")]
    orders = [
        {**row, "lines": [x for _, x in lines.get(row.get("number", ""), [])]} for _, row in reader.rows("orders")
    ]
    opening = Opening(
        name=name,
        sites=reader.values("sites", Site),
        zones=reader.values("zones", Zone),
        bin_types=reader.values("bin_types", BinType),
        bins=reader.values("bins", Bin),
        plate_kinds=reader.values("plate_kinds", PlateKind),
        items=reader.built("items", Item, items),
        barcodes=reader.values("barcodes", Barcode),
        partners=reader.values("partners", Partner),
        orders=reader.built("orders", Order, orders),
        home_bins=reader.values("home_bins", HomeBin),
        plates=reader.values("plates", PlateRow),
        stock=StockTable.of(reader.values("stock", StockRow)),
        series=reader.values("series", Series),
    )
    if not reader.problems:
        reader.problems = check_opening(opening)
    if reader.problems:
        raise BadFiles(reader.problems)
    return opening


class _Reader:
    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.problems: list[Problem] = []

    def rows(self, name: str) -> Iterator[tuple[str, dict[str, Any]]]:
        """Rows of a file as plain data with their place (``items.csv line 3``)."""
        path = self.folder / f"{name}.csv"
        if not path.exists():
            self.problems.append(Problem("missing_file", f"The file {path.name} is missing.", path.name))
            return
        with path.open(encoding="utf-8-sig", newline="") as file:
            for line, row in enumerate(csv.DictReader(file), start=2):
                yield f"{path.name} line {line}", self._cells(f"{path.name} line {line}", row)

    def _cells(self, place: str, row: dict[str, Any]) -> dict[str, Any]:
        plain: dict[str, Any] = {}
        for column, text in row.items():
            if column is None or text is None:
                self.problems.append(Problem("bad_row", "The row has not as many cells as the heading.", place))
                continue
            if text == "":
                continue
            read = cell_reader(column)
            try:
                plain[column.replace("_kg", "_mg")] = read(text)
            except (ValueError, InvalidOperation):
                says = f"{text!r} in column {column} is not {MEANT.get(read, 'what it should be')}."
                self.problems.append(Problem("bad_cell", says, place))
        return plain

    def values(self, name: str, kind: type[T]) -> tuple[T, ...]:
        """A whole file as core values."""
        return tuple(v for place, row in self.rows(name) if (v := self._value(place, kind, row)) is not None)

    def built(self, name: str, kind: type[T], rows: list[dict[str, Any]]) -> tuple[T, ...]:
        """Rows put together from two files as core values."""
        found = (self._value(f"{name}.csv row {n}", kind, row) for n, row in enumerate(rows, start=2))
        return tuple(v for v in found if v is not None)

    def _value(self, place: str, kind: type[T], row: dict[str, Any]) -> T | None:
        try:
            return from_plain(kind, row)
        except Misfit as misfit:
            self.problems.append(Problem("bad_row", f"{misfit.place}: {misfit.says}.", place))
            return None
