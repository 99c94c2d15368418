"""What happens: care of stock: reservations and blocks."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, PersonId, ReservationNo, RuleId, TaskNo
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.record import record


@record
class StockReserved:
    """Stock is kept for somebody."""

    reservation: ReservationNo
    holder: str
    item: ItemCode
    parts: tuple[Reserved, ...]
    order: OrderNo | None = None
    line: int = 0
    rules: tuple[RuleId, ...] = ()
    """Of a release: which rule chose each part."""
    missed_by: PersonId | None = None
    """Who did not find it where it should lie: it is kept from everybody until somebody has looked."""
    task: TaskNo | None = None
    """The task that is to bring it from reserve."""
    kind: Literal["stock_reserved"] = "stock_reserved"


@record
class ReservationCut:
    """A reservation holds only this any more; nothing ends it."""

    reservation: ReservationNo
    parts: tuple[Reserved, ...] = ()
    kind: Literal["reservation_cut"] = "reservation_cut"


@record
class BinBlocked:
    """A bin was blocked, or unblocked with an empty reason."""

    bin: BinCode
    reason: str = ""
    kind: Literal["bin_blocked"] = "bin_blocked"


StockEvent = StockReserved | ReservationCut | BinBlocked
"""What may happen."""
