"""Rulebooks as they are stored, and how older shapes are read.

A rulebook that names no shape is of shape 1, for ever: fields that hold their default are left out, so what was stored
while there was one shape does not say it. Later shapes are always written. An upcaster turns the plain data of one shape
into the next. The hash of what was stored stays its name: it is never worked out again from what was read.
"""

from __future__ import annotations

from collections.abc import Callable

from mindful_crate.core.plain import Misfit, Plain, from_plain
from mindful_crate.core.rulebook.book import SHAPE, Rulebook

UPCASTERS: dict[int, Callable[[Plain], Plain]] = {}
"""From shape n to n + 1."""


def read_rulebook(
    plain: Plain, upcasters: dict[int, Callable[[Plain], Plain]] = UPCASTERS, today: int = SHAPE
) -> Rulebook:
    """The rulebook of plain data of this shape or an older one; Misfit for a shape from the future, or none."""
    shape = plain.get("shape", 1) if isinstance(plain, dict) else 1
    if type(shape) is not int or not 1 <= shape <= today:
        raise Misfit("shape", f"this version reads rulebooks up to shape {today}, not {shape}")
    while shape < today:
        plain = {**upcasters[shape](plain), "shape": shape + 1}
        shape += 1
    return from_plain(Rulebook, plain)
