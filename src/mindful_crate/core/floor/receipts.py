"""Receipts: what arrived."""

from __future__ import annotations

from collections.abc import Callable

from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, ReceiptNo
from mindful_crate.core.catalog.refs import DocKind, LineKey, Ref, line_key, ref_to
from mindful_crate.core.floor.past import Documents
from mindful_crate.core.floor.plates import PlateLine
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.steps import BookingPoint


@record
class Closing:
    """So much of an order line is not waited for any more."""

    order: OrderNo
    line: int
    quantity: int

    @property
    def key(self) -> LineKey:
        """The order line."""
        return line_key(self.order, self.line)


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
    closed: tuple[Closing, ...] = ()
    """What is not waited for any more because no more lacked, when it arrived, than the plan lets lack."""
    undone: int = 0
    """The entry in which it was undone: its goods are noted, not stock."""
    undoing: bool = False
    """The host was asked whether it may be undone, and has not answered."""
    held: bool = False
    """It is more than was ordered, and the office has not decided yet."""
    into: BinCode | None = None
    """The bin in which it arrived; of one that older versions kept, unknown."""

    @property
    def ref(self) -> Ref:
        """Its name."""
        return ref_to(DocKind.RECEIPT, self.number)

    @property
    def loose(self) -> bool:
        """Are its goods on no plate? Then it has taken the number under which they were received."""
        return str(self.plate) == str(self.number)

    @property
    def orders(self) -> tuple[Ref, ...]:
        """The orders that its goods were for."""
        return tuple(dict.fromkeys(Ref(DocKind.ORDER, x.order) for x in self.lines))

    @property
    def follows(self) -> tuple[Ref, ...]:
        """Its plate, if there is one, and the orders."""
        return self.orders if self.loose else (Ref(DocKind.PLATE, self.plate), *self.orders)


class Receipts(Documents[ReceiptNo, Receipt]):
    """All receipts. One is settled when the host has booked it and its goods are put away."""

    def changed(self, key: ReceiptNo, before: Receipt | None, after: Receipt | None) -> None:
        """It may be settled once it is booked, or undone."""
        if after is not None and (after.booked or after.undone):
            self.may_leave[key] = None

    def of_order(self, order: OrderNo) -> list[Receipt]:
        """Those of an order, here or settled, by number."""
        ref = Ref(DocKind.ORDER, order)
        found = {r.number: r for r in self.past.after(ref) if isinstance(r, Receipt)}
        found |= {r.number: r for r in self.values() if ref in r.orders}
        return [found[n] for n in sorted(found)]

    def leaving(self, busy: Callable[[Receipt], bool]) -> list[Receipt]:
        """Those that are settled, which are here no more; not one with whose goods something is still ``busy``."""
        here = [r for n in sorted(self.may_leave) if (r := self.here(n))]
        found = [r for r in here if (r.booked and not busy(r)) or (r.undone and not r.loose)]
        self.may_leave.clear()
        for receipt in found:
            self.leave(receipt.number)
        return found
