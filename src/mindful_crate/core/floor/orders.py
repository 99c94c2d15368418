"""Orders as the floor and the host know them, notices of what comes, and how far each order line is."""

from __future__ import annotations

from bisect import insort
from collections.abc import Callable, Iterator
from datetime import datetime, timedelta
from enum import StrEnum
from typing import cast

from mindful_crate.core.catalog.goods import Order, OrderLine
from mindful_crate.core.catalog.ids import ItemCode, NoticeNo, OrderNo, PersonId, PlateNo
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


IDLE = timedelta(minutes=10)
"""So long an order stays open for editing without anything done to it."""


@record
class HostOrder:
    """An order as the host has it. ``editor`` has it open, and did something with it last at ``since``."""

    order: Order
    confirmed: bool = False
    cancelled: bool = False
    editor: PersonId | None = None
    since: datetime | None = None
    output: Output = Output.RUNNING
    """Of a production order: how far it is."""

    def held_by(self, now: datetime) -> PersonId | None:
        """Who has it open for editing now: nobody whose hands have been off it for ten minutes."""
        return self.editor if self.since is not None and now - self.since <= IDLE else None


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
    shipped: int = 0
    """How much has left, of a line that goes out."""
    shipped_in: int = 0


NOTHING = LineProgress()
_progress: Callable[..., LineProgress] = maker(LineProgress)


class Progress(Keeper[LineKey, LineProgress]):
    """How far order lines are."""

    def add(
        self, line: LineKey, seq: int, noted: int = 0, arrived: int = 0, booked: int = 0, over: int = 0, closed: int = 0,
        shipped: int = 0,
    ) -> None:  # fmt: skip
        """Let a line be so much farther, by entry ``seq``."""
        old = self._held.get(line, NOTHING)
        last, last_booked = seq if arrived else old.arrived_in, seq if booked else old.booked_in
        now = _progress(
            old.noted + noted, old.arrived + arrived, old.booked + booked, last, last_booked, old.over + over,
            old.closed + closed, old.shipped + shipped, seq if shipped else old.shipped_in,
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


LONG = 40
"""From so many lines on, what of an order is open is kept, not counted each time."""


class OpenLines:
    """What of a long order is open, item by item, kept as its lines go on."""

    __slots__ = ("_at", "count", "left", "order", "wanting", "where")

    def __init__(self, order: Order, progress: Progress) -> None:
        self.order = order
        self._at = {x.no: n for n, x in enumerate(order.lines)}
        self.where: dict[ItemCode, list[OrderLine]] = {}
        """The lines of each item, in the sequence of the order."""
        self.left: dict[ItemCode, int] = {}
        """How much of each item is open, in base units."""
        self.wanting: dict[ItemCode, list[int]] = {}
        """Where in the order the lines of each item are that want some."""
        self.count = 0
        for line in order.lines:
            self.where.setdefault(line.item, []).append(line)
            self._now(line, 0, _still(line, progress.get(LineKey(order.number, line.no))))

    def _now(self, line: OrderLine, before: int, after: int) -> None:
        if before == after:
            return
        self.left[line.item] = self.left.get(line.item, 0) + after - before
        if bool(before) != bool(after):
            places, at = self.wanting.setdefault(line.item, []), self._at[line.no]
            if after:
                insort(places, at)
            else:
                places.remove(at)
            self.count += 1 if after else -1

    def line(self, no: int) -> OrderLine | None:
        """The line of a number."""
        at = self._at.get(no)
        return None if at is None else self.order.lines[at]

    def went_on(self, no: int, before: LineProgress | None, after: LineProgress | None) -> None:
        """A line is farther, or was taken back."""
        at = self._at.get(no)
        if at is not None:
            line = self.order.lines[at]
            self._now(line, _still(line, before), _still(line, after))


def _still(line: OrderLine, done: LineProgress | None) -> int:
    """What of a line is still waited for; 0 when all of it, or more, is here."""
    return max(0, line.quantity - (done.noted + done.arrived + done.closed if done else 0))


class Orders:
    """Everything about orders that is not as at the opening."""

    def __init__(self, journal: Journal, ground: Ground) -> None:
        self.ground = ground
        self.told: Keeper[OrderNo, Order] = Keeper(journal, lambda _, __, after: self._with(after))
        """Orders as the floor knows them, where they are not as at the opening."""
        self.in_host: Keeper[OrderNo, HostOrder] = Keeper(
            journal, lambda _, __, held: self._with(held.order if held else None)
        )
        """Orders as the host has them, where they are not as at the opening."""
        self.confirmed: Keeper[OrderNo, int] = Keeper(journal)
        """Orders the floor has heard of since the opening, with the entry; the same for ``cancelled``."""
        self.cancelled: Keeper[OrderNo, int] = Keeper(journal)
        self.notices = Notices(journal)
        self._open: dict[OrderNo, OpenLines] = {}
        self._since: dict[ItemCode, set[OrderNo]] = {}
        self.progress = Progress(journal, self._went_on)

    def _with(self, order: Order | None) -> None:
        if order is not None:
            for line in order.lines:
                self._since.setdefault(line.item, set()).add(order.number)

    def with_item(self, item: ItemCode) -> list[OrderNo]:
        """Orders that have lines of an item, or had: at the opening, in the host, or told since."""
        begun: dict[ItemCode, list[OrderNo]] | None = self.ground.remembered.get("orders_with")
        if begun is None:
            begun = {}
            for order in self.ground.orders.values():
                for line in order.lines:
                    begun.setdefault(line.item, []).append(order.number)
            self.ground.remembered["orders_with"] = begun  # when it is whole: others may ask meanwhile
        return sorted({*begun.get(item, ()), *self._since.get(item, ())})

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

    def left_to_ship(self, order: OrderNo, line: OrderLine) -> int:
        """What of a line that goes out is still to leave; what was given up is not."""
        done = self.progress.get(LineKey(order, line.no))
        return line.quantity - (done.shipped + done.closed if done else 0)

    def is_shipped(self, order: Order) -> bool:
        """Has all of an order left that is to leave?"""
        return len(self.progress) > 0 and all(self.left_to_ship(order.number, x) <= 0 for x in order.lines)

    def open_quantity(self, order: Order, line: OrderLine) -> int:
        """What of a line is neither noted on a plate nor arrived, and still waited for; below zero when more came."""
        done = self.line_progress(order.number, line.no)
        return line.quantity - done.noted - done.arrived - done.closed

    def lines_open(self, order: Order) -> int:
        """How many lines still want something."""
        if len(order.lines) >= LONG:
            return self._of(order).count
        number, progress, count = order.number, self.progress, 0
        any_ = len(progress) > 0
        for line in order.lines:
            done = progress.get(LineKey(number, line.no)) if any_ else None
            if line.quantity > (done.noted + done.arrived + done.closed if done else 0):
                count += 1
        return count

    def _went_on(self, key: LineKey, before: LineProgress | None, after: LineProgress | None) -> None:
        known = self._open.get(key.order)
        if known is not None:
            known.went_on(key.line, before, after)

    def _of(self, order: Order) -> OpenLines:
        """What of a long order is open; made anew when the order is another."""
        known = self._open.get(order.number)
        if known is None or known.order is not order:
            known = self._open[order.number] = OpenLines(order, self.progress)
        return known

    def line(self, order: Order, no: int) -> OrderLine | None:
        """The line of an order that has a number."""
        if len(order.lines) >= LONG:
            return self._of(order).line(no)
        return next((x for x in order.lines if x.no == no), None)

    def open_of_item(self, order: Order, item: ItemCode) -> int:
        """What an order still wants of an item, in base units."""
        if len(order.lines) >= LONG:
            return self._of(order).left.get(item, 0)
        return sum(max(0, self.open_quantity(order, line)) for line in order.lines if line.item == item)

    def lines_of(self, order: Order, item: ItemCode) -> list[OrderLine]:
        """The lines of an order with an item."""
        if len(order.lines) >= LONG:
            return self._of(order).where.get(item, [])
        return [line for line in order.lines if line.item == item]

    def open_items(self, order: Order) -> Iterator[ItemCode]:
        """The items of which an order still wants something, in the sequence of its lines."""
        if len(order.lines) >= LONG:
            known = self._of(order)
            return (item for item in known.where if known.wanting.get(item))
        return iter(dict.fromkeys(x.item for x in order.lines if self.open_quantity(order, x) > 0))

    def lines_wanting(self, order: Order, item: ItemCode) -> list[OrderLine]:
        """The lines of an order that still want some of an item."""
        if len(order.lines) >= LONG:
            return [order.lines[at] for at in self._of(order).wanting.get(item, ())]
        return [x for x in order.lines if x.item == item and self.open_quantity(order, x) > 0]
