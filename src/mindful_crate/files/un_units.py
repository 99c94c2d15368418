"""Unit codes of UN/ECE Recommendation 20 (with 21 for packages) against the units of our items.

A code is converted exactly or refused, never guessed: feet of a rope that is counted in metres are taken only when they
come to whole metres.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from mindful_crate.core.catalog.goods import Item, ItemUnit

MEASURES: dict[str, dict[str, Fraction]] = {
    "m": {
        "MTR": Fraction(1), "DMT": Fraction(1, 10), "CMT": Fraction(1, 100), "MMT": Fraction(1, 1000), "KMT": Fraction(1000),
        "FOT": Fraction(3048, 10_000), "INH": Fraction(254, 10_000), "YRD": Fraction(9144, 10_000),
    },
    "kg": {"KGM": Fraction(1), "GRM": Fraction(1, 1000), "TNE": Fraction(1000), "LBR": Fraction(45_359_237, 100_000_000)},
    "g": {"GRM": Fraction(1), "KGM": Fraction(1000), "MGM": Fraction(1, 1000)},
    "l": {"LTR": Fraction(1), "DLT": Fraction(1, 10), "CLT": Fraction(1, 100), "MLT": Fraction(1, 1000), "HLT": Fraction(100), "MTQ": Fraction(1000)},
}  # fmt: skip
"""What one of a code is in a base unit of that name. Figures: UN/ECE Recommendation 20, Annex II."""
COUNTS = {
    "C62": 1,
    "H87": 1,
    "EA": 1,
    "NMB": 1,
    "NAR": 1,
    "PR": 2,
    "DZN": 12,
    "DPC": 12,
    "CEN": 100,
    "GRO": 144,
    "MIL": 1000,
}
"""Codes that count pieces."""
PACKAGES = {
    "BX": "box", "CS": "case", "CT": "carton", "CL": "coil", "CO": "can", "DR": "drum", "TN": "tin", "PX": "pallet", "PF": "pallet",
    "BG": "bag", "RO": "roll", "RL": "reel", "PK": "pack", "PA": "packet", "SA": "sack", "CR": "crate", "BJ": "bucket",
}  # fmt: skip
"""What a package is called, by its code of Recommendation 21. Within Recommendation 20 an X stands before it."""


class NoUnit(Exception):
    """A code that cannot be converted; the text says why, as the rest of a sentence."""


def un_unit(item: Item) -> str:
    """The code of an item's base unit; ``C62``, one, where there is none of its own."""
    name = item.base.code.lower()
    if name in MEASURES:
        return next(iter(MEASURES[name]))
    return "H87" if name == "pc" else "C62"


def in_base(item: Item, quantity: Fraction, code: str, means: ItemUnit | None = None) -> tuple[int, ItemUnit]:
    """So many of a code as base units of an item, and the item's unit they were counted in. ``means`` is the unit of the
    barcode by which the item was named, which a count then counts. :class:`NoUnit` when it cannot be said exactly."""
    factor, unit = _factor(item, code, means or item.base)
    found = quantity * factor
    if found.denominator != 1:
        raise NoUnit(f"{_told(quantity)} {code} are {_told(found)} {item.base.code}, which is no whole number")
    return int(found), unit


def _factor(item: Item, code: str, means: ItemUnit) -> tuple[Fraction, ItemUnit]:
    measures = MEASURES.get(item.base.code.lower())
    if measures and code in measures:
        return measures[code], item.base
    if not measures and code in COUNTS:
        if means is not item.base:
            raise NoUnit(
                f"{code} counts pieces and the barcode is that of a {means.name}, so it is not clear what is counted"
            )
        return Fraction(COUNTS[code]), item.base
    wanted = PACKAGES.get(code[1:] if code.startswith("X") and len(code) == 3 else code)
    unit = next((u for u in item.units if wanted in (u.code.lower(), u.name.lower())), None) if wanted else None
    if unit is None:
        known = ", ".join(dict.fromkeys(_codes(item)))
        raise NoUnit(f"{code or 'a quantity without a unit code'} is no unit of it; read are {known}")
    return Fraction(unit.quantity), unit


def _codes(item: Item) -> Iterator[str]:
    yield from MEASURES.get(item.base.code.lower(), COUNTS)
    for unit in item.units:
        yield from (f"X{code}" for code, name in PACKAGES.items() if name in (unit.code.lower(), unit.name.lower()))


def _told(value: Fraction) -> str:
    return f"{value.numerator}" if value.denominator == 1 else f"{float(value):g}"
