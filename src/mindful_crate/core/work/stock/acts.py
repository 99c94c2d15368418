"""What may be asked: care of stock: reservations and blocks."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import BinCode, ItemCode, ReservationNo
from mindful_crate.core.record import record


@record
class ReserveStock:
    """Keeps stock for somebody, chosen by the pick-from rules. Base units."""

    holder: str
    item: ItemCode
    quantity: int
    kind: Literal["reserve_stock"] = "reserve_stock"


@record
class LetGo:
    """Ends a reservation."""

    reservation: ReservationNo
    kind: Literal["let_go"] = "let_go"


@record
class BlockBin:
    """Blocks a bin with a reason, or unblocks it with an empty one."""

    bin: BinCode
    reason: str = ""
    kind: Literal["block_bin"] = "block_bin"


StockAct = ReserveStock | LetGo | BlockBin
"""What may be asked."""
