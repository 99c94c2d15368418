"""What may be asked: that goods which are still to come go straight to an order."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import OrderNo
from mindful_crate.core.record import record


@record
class TieThrough:
    """Ties so much of a line that comes in to a line that goes out, in base units: it goes straight to the first station after picking when it
    comes. 0: no more of it."""

    inbound: OrderNo
    inbound_line: int
    order: OrderNo
    line: int
    quantity: int
    kind: Literal["tie_through"] = "tie_through"


CrossingAct = TieThrough
"""What may be asked."""
