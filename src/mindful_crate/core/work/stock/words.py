"""What the log says of its events: care of stock: reservations and blocks."""

from __future__ import annotations

from mindful_crate.core.work.rows import Made, Row, Words, telling
from mindful_crate.core.work.stock.acts import BlockBin, LetGo, ReserveStock
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
ASKED: tuple[Row[Words[object]], ...] = (
    telling(ReserveStock, lambda a: f"The office keeps {a.quantity:,} of `{a.item}` for {a.holder}"),
    telling(LetGo, lambda a: f"The office lets go reservation `{a.reservation}`"),
    telling(BlockBin, lambda a: f"The office {'blocks' if a.reason else 'frees'} `{a.bin}`"),
)
"""What the office asks, in words."""
MAKES: dict[Made, tuple[Row[Words[object]], ...]] = {"reservation": (telling(StockReserved, lambda e: e.reservation),)}
"""What its events make."""
