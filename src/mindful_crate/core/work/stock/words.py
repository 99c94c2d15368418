"""What the log says of its events: care of stock: reservations and blocks."""

from __future__ import annotations

from mindful_crate.core.work.rows import Row, Words, telling
from mindful_crate.core.work.stock.events import BinBlocked, ReservationCut, StockReserved


def _stock_reserved(e: StockReserved) -> str:
    return f"`{e.reservation}` keeps {sum(p.goods.quantity for p in e.parts)} of `{e.item}` for {e.holder}"


def _reservation_cut(e: ReservationCut) -> str:
    left = sum(p.goods.quantity for p in e.parts)
    return f"`{e.reservation}` keeps {left} any more" if left else f"`{e.reservation}` has ended"


WORDS: tuple[Row[Words[object]], ...] = (
    telling(StockReserved, _stock_reserved),
    telling(ReservationCut, _reservation_cut),
    telling(BinBlocked, lambda e: f"bin `{e.bin}` " + (f"blocked: {e.reason}" if e.reason else "free")),
)
"""What the log says of its events."""
