"""Orders as the floor and the host know them, notices of what comes, and how far each order line is."""

from __future__ import annotations

from bisect import insort
from collections.abc import Callable, Iterator
from datetime import datetime
from enum import StrEnum
from typing import cast

from mindful_crate.core.catalog.goods import Order, OrderLine
from mindful_crate.core.catalog.ids import NoticeNo, OrderNo, PersonId, PlateNo
from mindful_crate.core.catalog.notices import Notice, NoticePlate
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.record import evolve, maker, record


class Output(StrEnum):
    """How far a production order is in the host, whatever of it has arrived."""

    RUNNING = "running"
    COMPLETE = "complete"
    """No more of it is made."""
    CLOSED = "closed"
    """No more of it is taken."""


@record
class HostOrder:
    """An order as the host has it. ``editor`` has it open since ``since``."""

    order: Order
    confirmed: bool = False
    cancelled: bool = False
    editor: PersonId | None = None
    since: datetime | None = None
    output: Output = Output.RUNNING
    """Of a production order: how far it is."""


@record
class LineProgress:
    """How far an order line is, in base units: on plates being built, arrived, booked."""

    noted: int = 0
    arrived: int = 0
    booked: int = 0
    arrived_in: int = 0
    """The entry in which something arrived last; the same for ``booked_in``."""
    booked_in: int = 0
    over: int = 0
    """How much of it is more than was ordered, and was taken all the same."""
    closed: int = 0
    """How much is not waited for any more."""


NOTHING = LineProgress()
_progress: Callable[..., LineProgress] = maker(LineProgress)


class Progress(Keeper[LineKey, LineProgress]):
    """How far order lines are."""

    def add(
        self, line: LineKey, seq: int, noted: int = 0, arrived: int = 0, booked: int = 0, over: int = 0, closed: int = 0
    ) -> None:
        """Let a line be so much farther, by entry ``seq``."""
        old = self._held.get(line, NOTHING)
        last, last_booked = seq if arrived else old.arrived_in, seq if booked else old.booked_in
        now = _progress(
            old.noted + noted, old.arrived + arrived, old.booked + booked, last, last_booked, old.over + over,
            old.closed + closed,
        )  # fmt: skip
        self.put(line, now)


class Notices(Keeper[NoticeNo, Notice]):
    """Advance notices, and which plate which of them announces."""

    def __init__(self, journal: Journal) -> None:
        super().__init__(journal)
        self.of_plate: dict[PlateNo, NoticeNo] = {}
        self.of_order: dict[OrderNo, list[NoticeNo]] = {}

    def changed(self, key: NoticeNo, before: Notice | None, after: Notice | None) -> None:
        """Which plates and orders it is about."""
        if before is not None:
            self.of_order[before.order].remove(key)
            for plate in before.plates:
                self.of_plate.pop(plate.number, None)
        if after is not None:
            insort(self.of_order.setdefault(after.order, []), key)
            for plate in after.plates:
                self.of_plate[plate.number] = key


class Orders:
    """Everything about orders that is not as at the opening."""

    def __init__(self, journal: Journal, ground: Ground) -> None:
        self.ground = ground
        self.told: Keeper[OrderNo, Order] = Keeper(journal)
        """Orders as the floor knows them, where they are not as at the opening."""
        self.in_host: Keeper[OrderNo, HostOrder] = Keeper(journal)
        """Orders as the host has them, where they are not as at the opening."""
        self.confirmed: Keeper[OrderNo, int] = Keeper(journal)
        """Orders the floor has heard of since the opening, with the entry; the same for ``cancelled``."""
        self.cancelled: Keeper[OrderNo, int] = Keeper(journal)
        self.notices = Notices(journal)
        self.progress = Progress(journal)

    def order(self, number: OrderNo) -> Order | None:
        """An order as the floor knows it; as the host has it while the floor has not heard of it."""
        found = self.told.get(number) or self.ground.orders.get(number)
        if found is None or (number in self.in_host and not self.is_confirmed(number)):
            held = self.in_host.get(number)
            return held.order if held else None
        return found

    def all_orders(self) -> Iterator[Order]:
        """All orders, those of the opening first, the others by number."""
        for number in self.ground.orders:
            yield cast(Order, self.order(number))
        for number in sorted({*self.in_host, *self.told}):
            if number not in self.ground.orders:
                yield cast(Order, self.order(number))

    def host_order(self, number: OrderNo) -> HostOrder | None:
        """An order as the host has it."""
        held = self.in_host.get(number)
        if held is None and (order := self.told.get(number) or self.ground.orders.get(number)):
            return HostOrder(evolve(order, confirmed=False), self.is_confirmed(number), self.is_cancelled(number))
        return held

    def is_confirmed(self, order: OrderNo) -> bool:
        """Has the order reached the floor?"""
        at_opening = self.ground.orders.get(order)
        return order in self.confirmed or (at_opening is not None and at_opening.confirmed)

    def is_cancelled(self, order: OrderNo) -> bool:
        """Does the floor know that it is cancelled?"""
        return order in self.cancelled

    def announced(self, number: PlateNo) -> tuple[Notice, NoticePlate] | None:
        """The notice that announces a plate, here or not, and what it says of it."""
        known = self.notices.of_plate.get(number)
        if known is None:
            return None
        notice = self.notices[known]
        return notice, next(p for p in notice.plates if p.number == number)

    def announced_of(self, order: OrderNo) -> list[NoticePlate]:
        """The plates that were announced of an order, here or not."""
        return [p for n in self.notices.of_order.get(order, ()) for p in self.notices[n].plates]

    def line_progress(self, order: OrderNo, line: int) -> LineProgress:
        """How far an order line is."""
        return self.progress.get(LineKey(order, line), NOTHING)

    def open_quantity(self, order: Order, line: OrderLine) -> int:
        """What of a line is neither noted on a plate nor arrived, and still waited for; below zero when more came."""
        done = self.line_progress(order.number, line.no)
        return line.quantity - done.noted - done.arrived - done.closed

    def lines_open(self, order: Order) -> int:
        """How many lines still want something."""
        number, progress, count = order.number, self.progress, 0
        any_ = len(progress) > 0
        for line in order.lines:
            done = progress.get(LineKey(number, line.no)) if any_ else None
            if line.quantity > (done.noted + done.arrived + done.closed if done else 0):
                count += 1
        return count
