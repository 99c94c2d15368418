"""What may be asked: to give what is promised to one order to another."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import OrderNo
from mindful_crate.core.record import record


@record
class ShiftCover:
    """Gives what a line of an order has on hand to a line of another with the same item. Base units."""

    order: OrderNo
    line: int
    to_order: OrderNo
    to_line: int
    quantity: int
    why: str
    kind: Literal["shift_cover"] = "shift_cover"


CoverAct = ShiftCover
"""What may be asked."""
