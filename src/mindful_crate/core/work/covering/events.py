"""What happens: orders are promised otherwise."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.floor.covers import Cover
from mindful_crate.core.record import record


@record
class Promised:
    """How a line is promised now, and how much of it was on hand and on its way before, in base units."""

    now: Cover
    on_hand: int
    coming: int


@record
class CoverChanged:
    """Lines are promised otherwise: something came, went, or was asked for."""

    lines: tuple[Promised, ...]
    kind: Literal["cover_changed"] = "cover_changed"


@record
class CoverShifted:
    """Somebody gave what one line had on hand to another."""

    lines: tuple[Promised, ...]
    quantity: int
    why: str
    kind: Literal["cover_shifted"] = "cover_shifted"


CoverEvent = CoverChanged | CoverShifted
"""What may happen."""
