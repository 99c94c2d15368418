"""What may be asked: sorting."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo
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


SortingAct = SortInto
"""What may be asked."""
