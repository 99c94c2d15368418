"""What may be asked: sorting."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.record import record


@record
class SortInto:
    """So much of what is kept for an order line, loose where it is sorted, goes to the order's place: a ``place`` of the wall, or a ``tote`` that
    stands there. In base units; ``serials``: which pieces."""

    at: BinCode
    order: OrderNo
    line: int
    quantity: int
    place: BinCode | None = None
    tote: PlateNo | None = None
    serials: tuple[str, ...] = ()
    kind: Literal["sort_into"] = "sort_into"


@record
class SortShort:
    """What is still to be sorted for an order line, or without one all that is left, is not there. ``other_bin``: it is looked for by the rules, and
    fetched by a task of its own; else it stays open."""

    at: BinCode
    why: str
    line: LineKey | None = None
    other_bin: bool = True
    kind: Literal["sort_short"] = "sort_short"


SortingAct = SortInto | SortShort
"""What may be asked."""
