"""What host and floor tell each other, and how the host stand-in behaves."""

from __future__ import annotations

from typing import Literal, get_args

from mindful_crate.core.record import record

OrderTopic = Literal["confirm_order", "change_order", "cancel_order"]
"""What a host tells the floor about an order."""
FROM_HOST: tuple[str, ...] = (*get_args(OrderTopic), "announce")
"""What comes from the host."""
Topic = Literal[
    "confirm_order", "change_order", "cancel_order", "announce", "note_arrival", "book_receipt", "undo_receipt",
    "book_shipment", "undo_shipment", "book_count",
]  # fmt: skip
"""What a message is about; the others are what the floor tells the host."""

ABOUT_SHIPMENTS = ("book_shipment", "undo_shipment")
"""What the floor tells the host about a shipment; what is about none of these is about receipts."""
ABOUT_COUNTS = ("book_count",)
"""What it tells about what was counted, or set by somebody."""


@record
class HostStandIn:
    """How the host stand-in behaves. Seconds are of the world's clock: until the floor hears of an order, and until
    the host answers what it was told."""

    confirm_seconds: int = 0
    book_seconds: int = 2
    down: bool = False
    """No message reaches it or leaves it; each is tried again later."""
    twice: bool = False
    """Every message is delivered a second time."""
    refuses: str = ""
    """Why it refuses whatever it is told; empty: it accepts."""
    outside: bool = False
    """In a live world: a real host tells orders and answers messages, and the stand-in keeps still."""
