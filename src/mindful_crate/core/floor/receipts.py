"""Receipts: what arrived."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import PlateNo, ReceiptNo
from mindful_crate.core.floor.plates import PlateLine
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.steps import BookingPoint


@record
class Receipt:
    """What arrived with one plate. Arrived until the host has booked it."""

    number: ReceiptNo
    plate: PlateNo
    lines: tuple[PlateLine, ...]
    booking: BookingPoint
    told: bool = False
    booked: bool = False
    refused: str = ""
    """Why the host refused it, when it did."""
    seq: int = 0
    """The entry in which it arrived."""
    booked_in: int = 0
    """The entry in which the host booked it."""
