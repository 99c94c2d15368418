"""How the cells of a table are read. Lists stand in one cell, joined by ``;``. Weights are in kilograms
(``weight_kg``); everything else is in the core's own units."""

from __future__ import annotations

import re
from collections.abc import Callable
from decimal import Decimal
from typing import Any

Cell = Callable[[str], Any]


LARGEST = 10**15 - 1
"""Whole numbers in files are no larger: it is more than any count of goods, and every reader of JSON holds it."""


_FORMULA = re.compile(r"'*[=+\-@\t\r]")
_NUMBER = re.compile(r"-?[0-9]+(\.[0-9]+)?")


def guarded(text: str) -> str:
    """A cell as it is written into a file: with an apostrophe before it when a program for tables would take it for a
    formula. :func:`unguarded` takes it off again."""
    return "'" + text if _FORMULA.match(text) and not _NUMBER.fullmatch(text) else text


def unguarded(text: str) -> str:
    """A cell as it was before it was :func:`guarded`."""
    return text[1:] if text[:1] == "'" and _FORMULA.match(text) and not _NUMBER.fullmatch(text[1:]) else text


def whole(text: str) -> int:
    """A whole number."""
    value = int(text)
    if not -LARGEST <= value <= LARGEST:
        raise ValueError(text)
    return value


def _yes(text: str) -> bool:
    if text not in ("yes", "no"):
        raise ValueError(text)
    return text == "yes"


def _list(text: str) -> list[str]:
    return [part.strip() for part in text.split(";")]


def _wholes(text: str) -> list[int]:
    return [whole(t) for t in text.split(";")]


def milligrams(text: str) -> int:
    """Kilograms as exact milligrams; finer than a milligram is refused."""
    value = Decimal(text) * 1_000_000
    if value != value.to_integral_value() or abs(value) > LARGEST:
        raise ValueError(text)
    return int(value)


MEANT: dict[Cell, str] = {
    whole: "a whole number of at most 15 digits",
    _yes: "yes or no",
    _list: "texts joined by ;",
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
            "litres_per_kilogram",
            "most_kilograms",
            "no",
            "least",
            "most",
            "shelf_life_days",
            "totes",
            "at_mm",
            "from_mm",
            "to_mm",
            "priority",
        ],
        whole,
    ),
    **dict.fromkeys(
        (
            "mixed_items",
            "mixed_lots",
            "mixed_statuses",
            "confirmed",
            "shipped",
            "cross_docks",
            "joins",
            "scale",
            "notice_needed",
        ),
        _yes,
    ),
    **dict.fromkeys(("weight_kg", "max_weight_kg"), milligrams),
    **dict.fromkeys(("hazard_classes", "collects", "services", "address", "ship_to", "serials", "zones"), _list),
    "cross_aisles": _wholes,
}
"""How the cells of a column are read; columns not named here are text."""


def cell_reader(column: str) -> Cell:
    """What reads the cells of a column."""
    return COLUMNS.get(column, str)
