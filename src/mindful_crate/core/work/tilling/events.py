"""What happens: the till copies the stock."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.record import record


@record
class TillCopied:
    """The till says this of some items from now on, in base units; of the others what it said before. ``minutes``: it was set anew."""

    numbers: tuple[tuple[ItemCode, int], ...]
    minutes: int | None = None
    kind: Literal["till_copied"] = "till_copied"


@record
class TillGone:
    """There is no till any more."""

    kind: Literal["till_gone"] = "till_gone"


TillEvent = TillCopied | TillGone
"""What happens."""
