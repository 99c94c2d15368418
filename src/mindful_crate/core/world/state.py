"""The state of a world: its ground, and over it only what the log has changed.

One mutable object. ``apply`` alone changes it, and only from log entries; deciding reads it. What follows from
the rest (who stands where, claims, sums of bins, stock by item) is kept as indexes, which are made anew when a
snapshot is loaded. Whatever is asked once a scan is answered from an index, so that a world does not slow down
as its log grows.
"""

from __future__ import annotations

from bisect import bisect_left, insort
from collections.abc import Callable, Iterable, Iterator, Sequence
from datetime import date, datetime, timedelta
from typing import Any, cast

from mindful_crate.core.catalog.amounts import Goods, sort_key, with_less, with_more
from mindful_crate.core.catalog.goods import Order, OrderLine, StockRow
from mindful_crate.core.catalog.ids import (
    BinCode,
    CrewId,
    DeviceId,
    DialogueNo,
    ItemCode,
    MessageNo,
    NoticeNo,
    OrderNo,
    PersonId,
    PlateKindCode,
    PlateNo,
    ReceiptNo,
    ReservationNo,
    TaskNo,
)
from mindful_crate.core.catalog.notices import Notice, NoticePlate
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.stock import STATUSES, StockTable
from mindful_crate.core.placing.fit import EMPTY, Held, Lying
from mindful_crate.core.placing.loads import opening_load
from mindful_crate.core.placing.request import Nested, load_of
from mindful_crate.core.plain import Plain, from_plain, to_plain
from mindful_crate.core.record import evolve, maker, record
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.things import (
    Dialogue,
    HostOrder,
    LineProgress,
    Message,
    MessageState,
    Placed,
    Plate,
    PlateLine,
    Receipt,
    Reservation,
    Settings,
    Task,
    TaskState,
    WorldKind,
)
from mindful_crate.core.world.topics import HostStandIn

SNAPSHOT = 5
"""Version of the snapshot's shape; a snapshot of another version is made anew from the log."""
NOTHING = LineProgress()
REMEMBERED_ITEMS = 8_000
"""How many items a world remembers the stock lines of."""
REMEMBERED_BINS = 20_000
"""How many untouched bins a ground remembers the content of."""


@record
class Kept:
    """The part of a state that a snapshot holds."""

    seq: int
    clock: datetime
    next_numbers: dict[str, int]
    confirmed: dict[OrderNo, int]
    cancelled: dict[OrderNo, int]
    orders: dict[OrderNo, Order]
    host_orders: dict[OrderNo, HostOrder]
    notices: dict[NoticeNo, Notice]
    host: HostStandIn
    progress: dict[str, LineProgress]
    plates: dict[PlateNo, Plate]
    loose_now: dict[BinCode, tuple[Goods, ...]]
    tasks: dict[TaskNo, Task]
    receipts: dict[ReceiptNo, Receipt]
    messages: dict[MessageNo, Message]
    dialogues: dict[DialogueNo, Dialogue]
    reservations: dict[ReservationNo, Reservation]
    blocks: dict[BinCode, str]


class State:
    """A world as it stands after ``seq`` log entries."""

    def __init__(self, ground: Ground, settings: Settings) -> None:
        self.ground = ground
        self.settings = settings
        self.seq = 0
        self.clock = settings.starts
        self.next_numbers: dict[str, int] = {}
        self.confirmed: dict[OrderNo, int] = {}
        """Orders the floor has heard of since the opening, with the entry; the same for ``cancelled``."""
        self.cancelled: dict[OrderNo, int] = {}
        self.orders: dict[OrderNo, Order] = {}
        """Orders as the floor knows them, where they are not as at the opening."""
        self.host_orders: dict[OrderNo, HostOrder] = {}
        """Orders as the host has them, where they are not as at the opening."""
        self.notices: dict[NoticeNo, Notice] = {}
        self.host = settings.host
        self.progress: dict[str, LineProgress] = {}
        self.plates: dict[PlateNo, Plate] = {}
        self.loose_now: dict[BinCode, tuple[Goods, ...]] = {}
        """Loose goods of bins where they are not as at the opening."""
        self.tasks: dict[TaskNo, Task] = {}
        self.receipts: dict[ReceiptNo, Receipt] = {}
        self.messages: dict[MessageNo, Message] = {}
        self.dialogues: dict[DialogueNo, Dialogue] = {}
        self.reservations: dict[ReservationNo, Reservation] = {}
        self.blocks: dict[BinCode, str] = {}
        self._standing: dict[BinCode, dict[PlateNo, None]] = {}
        self._on: dict[PlateNo, dict[PlateNo, None]] = {}
        self._claims: dict[BinCode, dict[TaskNo, Held]] = {}
        self._task_of_plate: dict[PlateNo, TaskNo] = {}
        self._open: dict[CrewId | None, dict[TaskNo, None]] = {}
        self._carried: dict[PersonId, dict[TaskNo, None]] = {}
        self._building: dict[PlateNo, None] = {}
        self._announced: dict[PlateNo, NoticeNo] = {}
        self._notices_of: dict[OrderNo, list[NoticeNo]] = {}
        self._unplaced: dict[ReceiptNo, dict[TaskNo, None]] = {}
        self._about: dict[str, list[MessageNo]] = {}
        self._unsettled: dict[str, None] = {}
        """Documents with a message that is open."""
        self._queue: list[tuple[datetime, int, MessageNo]] = []
        self._queued: dict[str, tuple[datetime, int, MessageNo]] = {}
        self._talking: dict[DeviceId | None, DialogueNo] = {}
        self._lots: dict[tuple[ItemCode, str], dict[PlateNo, date | None]] = {}
        self._plates_with: dict[ItemCode, dict[PlateNo, None]] = {}
        self._loose_with: dict[ItemCode, dict[BinCode, None]] = {}
        self._coming_with: dict[ItemCode, dict[tuple[BinCode, TaskNo], None]] = {}
        self._reserved: dict[tuple[str, ...], dict[ReservationNo, int]] = {}
        self._reserved_items: dict[ItemCode, dict[ReservationNo, None]] = {}
        self._held: dict[BinCode, Held] = {}
        self._lines: dict[ItemCode, tuple[Lying, ...]] = {}
        self._lying_in: dict[ItemCode, frozenset[BinCode]] = {}
        self._changed: dict[BinCode, int] = {}
        self.blocks_tick = 0
        """Goes up whenever a bin is blocked or freed."""
        self.tick = 0
        """Goes up with every change of a bin."""
        self.memory: dict[Any, Any] = {}
        """What placing works out for this world; it follows :meth:`changed_since`."""

    # What others ask

    def number(self, series: str, ahead: int = 0) -> tuple[str, int]:
        """The next number of a series, or one so far ahead of it, spelled and counted. The event that uses it must
        record it."""
        rules = self.ground.series[series]
        next_ = self.next_numbers.get(series, rules.next) + ahead
        rehearsal = self.settings.kind is WorldKind.REHEARSAL
        prefix = rules.rehearsal_prefix if rehearsal else rules.prefix
        return f"{prefix}{next_:0{rules.width}d}", next_

    def has_plate(self, number: PlateNo) -> bool:
        """Is there a plate of that number, at the opening or since?"""
        return number in self.plates or number in self.ground.plates

    def has_task(self, number: TaskNo) -> bool:
        """Is there a task of that number?"""
        return number in self.tasks

    def plate(self, number: PlateNo) -> Plate | None:
        """A plate by its number."""
        return self.plates.get(number) or self._opening_plate(number)

    def bin_of(self, number: PlateNo) -> BinCode | None:
        """The bin a plate stands in, through all plates it stands on; None while it is carried."""
        plate = self.plate(number)
        while plate is not None and plate.on is not None:
            plate = self.plate(plate.on)
        return plate.bin if plate else None

    def plates_on(self, number: PlateNo) -> tuple[PlateNo, ...]:
        """Plates that stand on a plate, in number order."""
        known = self._on.get(number)
        return self.ground.plates_on.get(number, ()) if known is None else tuple(sorted(known))

    def nested(self, number: PlateNo) -> tuple[Nested, ...]:
        """What stands on a plate, for a question about bins."""
        found = []
        for inner in self.plates_on(number):
            plate = cast(Plate, self.plate(inner))
            found.append(Nested(plate.plate_kind, plate.goods, self.nested(inner)))
        return tuple(found)

    def all_goods(self, number: PlateNo) -> tuple[Goods, ...]:
        """Goods of a plate and of the plates on it."""
        plate = cast(Plate, self.plate(number))
        if number not in self._on and number not in self.ground.plates_on:
            return plate.goods
        return (*plate.goods, *(g for inner in self.plates_on(number) for g in self.all_goods(inner)))

    def holds_just(self, number: PlateNo, item: ItemCode, count: int) -> bool:
        """Does a plate hold so much of this item and nothing else, nor another plate?"""
        plate = self.plate(number)
        if plate is None or self.plates_on(number):
            return False
        return all(g.item == item for g in plate.goods) and sum(g.quantity for g in plate.goods) == count

    def order(self, number: OrderNo) -> Order | None:
        """An order as the floor knows it; as the host has it while the floor has not heard of it."""
        found = self.orders.get(number) or self.ground.orders.get(number)
        if found is None or (number in self.host_orders and not self.is_confirmed(number)):
            held = self.host_orders.get(number)
            return held.order if held else None
        return found

    def all_orders(self) -> Iterator[Order]:
        """All orders, those of the opening first."""
        for number in self.ground.orders:
            yield cast(Order, self.order(number))
        for number in {**self.host_orders, **self.orders}:
            if number not in self.ground.orders:
                yield cast(Order, self.order(number))

    def announced(self, number: PlateNo) -> tuple[Notice, NoticePlate] | None:
        """The notice that announces a plate which is not here yet, and what it says of it."""
        known = self._announced.get(number)
        if known is None or self.has_plate(number):
            return None
        notice = self.notices[known]
        return notice, next(p for p in notice.plates if p.number == number)

    def announced_of(self, order: OrderNo) -> list[NoticePlate]:
        """Plates of an order that are on their way."""
        notices = (self.notices[n] for n in self._notices_of.get(order, ()))
        return [p for n in notices for p in n.plates if not self.has_plate(p.number)]

    def host_order(self, number: OrderNo) -> HostOrder | None:
        """An order as the host has it."""
        held = self.host_orders.get(number)
        if held is None and (order := self.orders.get(number) or self.ground.orders.get(number)):
            return HostOrder(evolve(order, confirmed=False), self.is_confirmed(number), self.is_cancelled(number))
        return held

    def is_confirmed(self, order: OrderNo) -> bool:
        """Has the order reached the floor?"""
        at_opening = self.ground.orders.get(order)
        return order in self.confirmed or (at_opening is not None and at_opening.confirmed)

    def is_cancelled(self, order: OrderNo) -> bool:
        """Does the floor know that it is cancelled?"""
        return order in self.cancelled

    def line_progress(self, order: OrderNo, line: int) -> LineProgress:
        """How far an order line is."""
        return self.progress.get(f"{order}/{line}", NOTHING)

    def open_quantity(self, order: Order, line: OrderLine) -> int:
        """What of a line is neither noted on a plate nor arrived."""
        done = self.line_progress(order.number, line.no)
        return line.quantity - done.noted - done.arrived

    def lines_open(self, order: Order) -> int:
        """How many lines still want something."""
        number, progress, count = order.number, self.progress, 0
        for line in order.lines:
            done = progress.get(f"{number}/{line.no}") if progress else None
            if line.quantity > (done.noted + done.arrived if done else 0):
                count += 1
        return count

    def task_of(self, plate: PlateNo) -> Task | None:
        """The latest task of a plate."""
        number = self._task_of_plate.get(plate)
        return self.tasks[number] if number else None

    def unplaced(self, receipt: ReceiptNo) -> int:
        """How many put-away tasks for loose goods of a receipt are not done."""
        return len(self._unplaced.get(receipt, ()))

    def open_tasks(self, crews: Iterable[CrewId]) -> list[Task]:
        """Open tasks of these crews, by number."""
        return [self.tasks[n] for n in sorted(n for c in set(crews) for n in self._open.get(c, ()))]

    def carried(self, person: PersonId, need: Need) -> list[Task]:
        """Tasks of a need whose plates or goods a person carries, by number."""
        found = (self.tasks[n] for n in sorted(self._carried.get(person, ())))
        return [t for t in found if t.need is need]

    def building(self) -> list[Plate]:
        """Plates that are being built, in number order."""
        return [self.plates[n] for n in sorted(self._building)]

    def talking(self, device: DeviceId | None) -> Dialogue | None:
        """The dialogue that was opened last on a handset, open or not."""
        number = self._talking.get(device)
        return self.dialogues[number] if number else None

    def blocked(self, code: BinCode) -> str | None:
        """Why a bin is blocked, if it is."""
        if code in self.blocks:
            return self.blocks[code] or None
        return self.ground.bins[code].blocked

    def lot_expiry(self, item: ItemCode, lot: str) -> date | None:
        """The expiry date a lot is known by, on stock or on a plate being built."""
        known: dict[tuple[str, str], date | None] | None = self.ground.remembered.get("lots")
        if known is None:
            table = self.ground.stock
            known = {}
            for item_at, lot_at, day in zip(table.item, table.lot, table.expiry, strict=True):
                if table.lots[lot_at]:
                    known[table.items[item_at], table.lots[lot_at]] = date.fromordinal(day) if day else None
            self.ground.remembered["lots"] = known
        if (item, lot) in known:
            return known[item, lot]
        return next(iter(self._lots.get((item, lot), {}).values()), None)

    def standing(self, code: BinCode) -> tuple[Plate, ...]:
        """The plates in a bin itself, in number order."""
        known = self._standing.get(code)
        numbers = self.ground.plates_in.get(code, ()) if known is None else sorted(known)
        return tuple(cast(Plate, self.plate(n)) for n in numbers)

    def loose(self, code: BinCode) -> tuple[Goods, ...]:
        """Loose goods in a bin."""
        known = self.loose_now.get(code)
        if known is not None:
            return known
        return tuple(
            _goods(self.ground.stock[n]) for n in self.ground.stock.rows_of_bin(code) if self.ground.stock.plate[n] < 0
        )

    def held(self, code: BinCode, but: TaskNo | None = None) -> Held:
        """What a bin holds and what is on its way there, the claim of task ``but`` left out."""
        held = self._held.get(code)
        if held is None:
            held = self._sum(code)
        for task, coming in self._claims.get(code, _NO_CLAIMS).items():
            if task != but:
                held = held.plus(coming)
        return held

    def held_without(self, code: BinCode, tasks: tuple[TaskNo, ...], plate: PlateNo | None) -> Held:
        """What a bin holds without the claims of some tasks and without one of its plates."""
        held = EMPTY
        loose = self.loose(code)
        if loose:
            held = self._sum_goods(loose, None)
        for each in self.standing(code):
            if each.number != plate:
                held = held.plus(self._sum_goods(each.goods, each))
        for task, coming in self._claims.get(code, _NO_CLAIMS).items():
            if task not in tasks:
                held = held.plus(coming)
        return held

    def holds_goods(self, code: BinCode) -> bool:
        """Do goods lie in a bin, or are they on their way there?"""
        if code not in self._changed:
            return bool(self.ground.stock.rows_of_bin(code))
        return bool(self.held(code).kinds)

    def load(self, code: BinCode) -> tuple[int, int, int]:
        """Volume (mm3), weight (mg) and plates of a bin with what is on its way there."""
        if code not in self._changed:
            return opening_load(self.ground, code)
        held = self.held(code)
        return held.volume_mm3, held.weight_mg, held.plates

    def quantity_in(self, code: BinCode, item: ItemCode, but: TaskNo | None = None) -> int:
        """How much of an item lies in a bin or is on its way there, in base units."""
        lying = sum(x.goods.quantity for x in self.lines(item) if x.bin == code)
        for where, number in self._coming_with.get(item, ()):
            if where == code and number != but:
                lying += sum(g.quantity for g in self._goods_of(self.tasks[number]) if g.item == item)
        return lying

    def coming(self, code: BinCode) -> tuple[TaskNo, ...]:
        """Tasks that claim room in a bin."""
        return tuple(self._claims.get(code, ()))

    def claim_of(self, task: TaskNo) -> BinCode | None:
        """The bin a task claims room in."""
        found = self.tasks.get(task)
        return found.to_bin if found and found.state is not TaskState.DONE else None

    def changed_since(self, tick: int) -> Iterator[BinCode]:
        """Bins that changed after that tick, latest first."""
        for code, at in reversed(self._changed.items()):
            if at <= tick:
                return
            yield code

    def lines(self, item: ItemCode) -> Sequence[Lying]:
        """All of an item that lies in bins, by bin, plate, lot."""
        known = self._lines.get(item)
        if known is None:
            if len(self._lines) >= REMEMBERED_ITEMS:
                self._lines.clear()
            known = self._lines[item] = tuple(sorted(self._lying(item), key=_line_key))
        return known

    def bins_with(self, item: ItemCode) -> frozenset[BinCode]:
        """Bins where the item lies or is on its way to."""
        known = self._lying_in.get(item)
        if known is None:
            if len(self._lying_in) >= REMEMBERED_ITEMS:
                self._lying_in.clear()
            known = self._lying_in[item] = frozenset(self._lying_bins(item))
        coming = self._coming_with.get(item)
        return known | {code for code, _ in coming} if coming else known

    def has_reservations(self, item: ItemCode) -> bool:
        """Is anything of an item reserved?"""
        return bool(self._reserved_items.get(item))

    def reserved(self, line: Lying, but: ReservationNo | None = None) -> int:
        """How much of such a line is reserved, the reservation ``but`` left out."""
        holders = self._reserved.get(_reserved_key(line.bin, line.plate, line.goods))
        return sum(q for n, q in holders.items() if n != but) if holders else 0

    def reservations_of(self, line: Lying) -> list[tuple[ReservationNo, int]]:
        """Who has reserved how much of such a line, the latest first."""
        holders = self._reserved.get(_reserved_key(line.bin, line.plate, line.goods), {})
        return sorted(holders.items(), reverse=True)

    def due(self, until: datetime) -> Message | None:
        """The next message the host stand-in sees to by ``until``; none where a real host does."""
        if not self._queue or self._queue[0][0] > until or self.host.outside:
            return None
        return self.messages[self._queue[0][2]]

    def messages_about(self, subject: str) -> list[Message]:
        """All messages about a document, in the order they were sent."""
        return [self.messages[n] for n in self._about.get(subject, ())]

    def first_open(self, subject: str) -> MessageNo | None:
        """The message about a document that the later ones wait for."""
        return next((m.number for m in self.messages_about(subject) if m.open), None)

    def to_send(self) -> list[Message]:
        """Messages to a real host that it may answer now: of each document the first that is open."""
        found = (self.messages[cast(MessageNo, self.first_open(s))] for s in self._unsettled)
        return [m for m in found if m.state is MessageState.WAITING and not m.from_host]

    def waiting(self) -> list[Message]:
        """Messages that were not accepted or refused yet, in the order they were sent."""
        found = (m for subject in self._unsettled for m in self.messages_about(subject) if m.open)
        return sorted(found, key=lambda m: m.seq)

    def stock(self) -> Iterator[tuple[BinCode | None, Plate | None, Goods]]:
        """All stock as (bin or None while carried, plate or None, goods), by bin, plate, item."""
        for code in sorted({*self.ground.stock.bins, *self.ground.plates_in, *self._standing, *self.loose_now}):
            yield from self._stock_in(cast(BinCode, code))
        for task in (self.tasks[n] for n in sorted(n for carried in self._carried.values() for n in carried)):
            if task.plate:
                for plate in self._tower(task.plate):
                    for goods in plate.goods:
                        yield None, plate, goods
            for goods in task.goods:
                yield None, None, goods

    def _stock_in(self, code: BinCode) -> Iterator[tuple[BinCode, Plate | None, Goods]]:
        for goods in self.loose(code):
            yield code, None, goods
        for bottom in self.standing(code):
            for plate in self._tower(bottom.number):
                for goods in plate.goods:
                    yield code, plate, goods

    def _tower(self, number: PlateNo) -> Iterator[Plate]:
        """A plate and all plates on it."""
        yield cast(Plate, self.plate(number))
        for inner in self.plates_on(number):
            yield from self._tower(inner)

    def _lying(self, item: ItemCode) -> Iterator[Lying]:
        table = self.ground.stock
        for n in table.rows_of_item(item):
            plate, code = table.plate[n], BinCode(table.bins[table.bin[n]])
            if plate < 0:
                if code not in self.loose_now:
                    yield _make_lying(code, None, _goods_at(table, n, item))
            elif table.plates[plate] not in self.plates:
                yield _make_lying(code, PlateNo(table.plates[plate]), _goods_at(table, n, item))
        for number in self._plates_with.get(item, ()):
            where = self.bin_of(number)
            if where:
                for goods in self.plates[number].goods:
                    if goods.item == item:
                        yield Lying(where, number, goods)
        for code in self._loose_with.get(item, ()):
            for goods in self.loose_now[code]:
                if goods.item == item:
                    yield Lying(code, None, goods)

    def _lying_bins(self, item: ItemCode) -> Iterator[BinCode]:
        """Where :meth:`_lying` finds it, without a look at what it is."""
        table, loose_now, plates = self.ground.stock, self.loose_now, self.plates
        for n in table.rows_of_item(item):
            plate, code = table.plate[n], table.bins[table.bin[n]]
            if (code not in loose_now) if plate < 0 else (table.plates[plate] not in plates):
                yield BinCode(code)
        for number in self._plates_with.get(item, ()):
            where = self.bin_of(number)
            if where and any(goods.item == item for goods in plates[number].goods):
                yield where
        yield from (c for c in self._loose_with.get(item, ()) if any(g.item == item for g in loose_now[c]))

    def _forget(self, item: ItemCode) -> None:
        """Some of an item lies elsewhere now, or is other."""
        self._lines.pop(item, None)
        self._lying_in.pop(item, None)

    # Folding

    def apply(self, entry: ev.Entry) -> None:
        """Fold one log entry. A refusal takes its place and changes nothing else."""
        if entry.seq != self.seq + 1:
            raise ValueError(f"entry {entry.seq} does not follow {self.seq}")
        self.seq = entry.seq
        self.clock = max(self.clock, entry.command.stamp.at)
        if isinstance(entry.outcome, ev.Done):
            for event in entry.outcome.events:
                _FOLD[type(event)](self, event, entry)

    def _number_drawn(self, e: ev.NumberDrawn, _: ev.Entry) -> None:
        self.next_numbers[e.series] = e.next

    def _message_sent(self, e: ev.MessageSent, entry: ev.Entry) -> None:
        at = entry.command.stamp.at
        self._about.setdefault(e.subject, []).append(e.message)
        self._put_message(Message(e.message, e.topic, e.subject, e.due, e.order, e.notice, seq=entry.seq, sent=at))
        if e.topic == "book_receipt":
            receipt = ReceiptNo(e.subject)
            self.receipts[receipt] = evolve(self.receipts[receipt], told=True)

    def _message_answered(self, e: ev.MessageAnswered, entry: ev.Entry) -> None:
        message, at = self.messages[e.message], entry.command.stamp.at
        done = evolve(
            message,
            state=MessageState.ANSWERED,
            due=e.again,
            order=None,
            notice=None,
            settled=at,
            settled_in=entry.seq,
            says="",
        )
        self._put_message(evolve(done, turn=message.turn + 1, tries=message.tries + 1))

    def _message_failed(self, e: ev.MessageFailed, _: ev.Entry) -> None:
        message = self.messages[e.message]
        state = MessageState.WAITING if e.due else MessageState.GIVEN_UP
        tried = evolve(message, turn=message.turn + 1, tries=message.tries + 1)
        self._put_message(evolve(tried, state=state, due=e.due, says=e.why))

    def _message_refused(self, e: ev.MessageRefused, entry: ev.Entry) -> None:
        message, at = self.messages[e.message], entry.command.stamp.at
        refused = evolve(message, state=MessageState.REFUSED, due=None, settled=at, settled_in=entry.seq, says=e.why)
        self._put_message(evolve(refused, turn=message.turn + 1, tries=message.tries + 1))
        if message.topic == "book_receipt":
            receipt = ReceiptNo(message.subject)
            self.receipts[receipt] = evolve(self.receipts[receipt], refused=e.why)

    def _message_heard_again(self, e: ev.MessageHeardAgain, _: ev.Entry) -> None:
        message = self.messages[e.message]
        again = message.heard_again + 1
        self._put_message(evolve(message, due=None, heard_again=again, turn=message.turn + 1))

    def _message_repeated(self, e: ev.MessageRepeated, _: ev.Entry) -> None:
        message = self.messages[e.message]
        self._put_message(evolve(message, state=MessageState.WAITING, due=e.due, tries=0, settled=None, settled_in=0))
        if message.topic == "book_receipt":
            receipt = ReceiptNo(message.subject)
            self.receipts[receipt] = evolve(self.receipts[receipt], refused="")

    def _host_set(self, e: ev.HostSet, _: ev.Entry) -> None:
        self.host = e.host

    def _host_order_written(self, e: ev.HostOrderWritten, _: ev.Entry) -> None:
        held = self.host_order(e.order.number) or HostOrder(e.order)
        self.host_orders[e.order.number] = evolve(held, order=e.order)

    def _host_order_confirmed(self, e: ev.HostOrderConfirmed, _: ev.Entry) -> None:
        self._change_host_order(e.order, confirmed=True)

    def _host_order_cancelled(self, e: ev.HostOrderCancelled, _: ev.Entry) -> None:
        self._change_host_order(e.order, cancelled=True, editor=None, since=None)

    def _host_order_opened(self, e: ev.HostOrderOpened, entry: ev.Entry) -> None:
        self._change_host_order(e.order, editor=e.person, since=entry.command.stamp.at)

    def _host_order_closed(self, e: ev.HostOrderClosed, _: ev.Entry) -> None:
        self._change_host_order(e.order, editor=None, since=None)

    def _change_host_order(self, number: OrderNo, **changes: Any) -> None:
        self.host_orders[number] = evolve(cast(HostOrder, self.host_order(number)), **changes)

    def _order_told(self, e: ev.OrderTold, _: ev.Entry) -> None:
        self.orders[e.order.number] = e.order

    def _notice_told(self, e: ev.NoticeTold, _: ev.Entry) -> None:
        self._put_notice(e.notice)

    def _put_notice(self, notice: Notice) -> None:
        self.notices[notice.number] = notice
        self._notices_of.setdefault(notice.order, []).append(notice.number)
        for plate in notice.plates:
            self._announced[plate.number] = notice.number

    def _order_dropped(self, e: ev.OrderDropped, entry: ev.Entry) -> None:
        self.cancelled[e.order] = entry.seq

    def _order_confirmed(self, e: ev.OrderConfirmed, entry: ev.Entry) -> None:
        self.confirmed[e.order] = entry.seq

    def _receipt_booked(self, e: ev.ReceiptBooked, entry: ev.Entry) -> None:
        receipt = self.receipts[e.receipt]
        self.receipts[e.receipt] = evolve(receipt, booked=True, booked_in=entry.seq)
        for line in receipt.lines:
            self._progress(line, booked=line.quantity)

    def _dialogue_opened(self, e: ev.DialogueOpened, _: ev.Entry) -> None:
        before = self._talking.get(e.device)
        if before and not self.dialogues[before].open:  # only the latest of a handset can still be asked about
            del self.dialogues[before]
        self.dialogues[e.dialogue] = Dialogue(e.dialogue, e.flow, e.person, e.device)
        self._talking[e.device] = e.dialogue

    def _dialogue_moved(self, e: ev.DialogueMoved, _: ev.Entry) -> None:
        d = self.dialogues[e.dialogue]
        self.dialogues[e.dialogue] = evolve(d, slots=e.slots, past=e.past, doubt=e.doubt, step=d.step + 1)

    def _dialogue_left(self, e: ev.DialogueLeft, _: ev.Entry) -> None:
        d = self.dialogues[e.dialogue]
        self.dialogues[e.dialogue] = evolve(d, open=False, taken_over=e.taken_over, taken_by=e.by)

    def _plate_started(self, e: ev.PlateStarted, entry: ev.Entry) -> None:
        at = entry.command.stamp.at
        self._put_plate(Plate(e.plate, e.plate_kind, e.bin, building=True, by=e.person, since=at, begun=entry.seq))

    def _load_started(self, e: ev.LoadStarted, entry: ev.Entry) -> None:
        at = entry.command.stamp.at
        no_kind = PlateKindCode("")
        self._put_plate(
            Plate(e.load, no_kind, None, building=True, by=e.person, since=at, begun=entry.seq, into=e.into)
        )

    def _line_noted(self, e: ev.LineNoted, entry: ev.Entry) -> None:
        plate = self.plates[e.plate]
        line = PlateLine(e.line, e.order, e.order_line, e.item, e.unit, e.quantity, e.lot, e.expiry, entry.seq)
        self._put_lines(evolve(plate, lines=(*plate.lines, line)))
        self._progress(line, noted=e.quantity)

    def _line_changed(self, e: ev.LineChanged, entry: ev.Entry) -> None:
        plate = self.plates[e.plate]
        old = next(x for x in plate.lines if x.line == e.line)
        changed = (evolve(x, quantity=e.quantity, seq=entry.seq) if x.line == e.line else x for x in plate.lines)
        self._put_lines(evolve(plate, lines=tuple(x for x in changed if x.quantity)))
        self._progress(old, noted=e.quantity - old.quantity)

    def _plate_finished(self, e: ev.PlateFinished, entry: ev.Entry) -> None:
        plate = self.plates[e.plate]
        stamp = entry.command.stamp
        goods: dict[tuple[ItemCode, str, date | None], int] = {}
        for line in plate.lines:
            key = (line.item, line.lot, line.expiry)
            goods[key] = goods.get(key, 0) + line.quantity
            self._progress(line, noted=-line.quantity, arrived=line.quantity)
        on_it = [Goods(item, count, lot, expiry, arrived=stamp.today) for (item, lot, expiry), count in goods.items()]
        self.receipts[e.receipt] = Receipt(e.receipt, e.plate, plate.lines, e.booking, seq=entry.seq)
        if plate.into:
            for each in sorted(on_it, key=sort_key):
                self._put_loose(plate.into, with_more(self.loose(plate.into), each))
            on_it = []
        self._put_plate(
            evolve(
                plate, goods=tuple(sorted(on_it, key=sort_key)), lines=(), building=False, receipt=e.receipt, by=e.person,
                finished_on=stamp.device, finished_at=stamp.at, finished=entry.seq,
            )
        )  # fmt: skip

    def _task_made(self, e: ev.TaskMade, entry: ev.Entry) -> None:
        task = Task(
            e.task, e.plate, e.from_bin, e.crew, e.to_bin, e.rule, need=e.need, goods=e.goods, from_plate=e.from_plate,
            receipt=e.receipt, made=entry.seq,
        )  # fmt: skip
        self._put_task(task)
        if e.plate:
            self._task_of_plate[e.plate] = e.task

    def _task_taken(self, e: ev.TaskTaken, entry: ev.Entry) -> None:
        task = self.tasks[e.task]
        self._put_task(evolve(task, state=TaskState.TAKEN, person=e.person, taken=entry.seq))
        if task.plate:
            plate = cast(Plate, self.plate(task.plate))
            self._move_plate(evolve(plate, bin=None, on=None, carrier=e.person))
        for goods in task.goods:
            if task.from_plate:
                plate = cast(Plate, self.plate(task.from_plate))
                self._put_plate(evolve(plate, goods=with_less(plate.goods, goods)))
            else:
                self._put_loose(task.from_bin, with_less(self.loose(task.from_bin), goods))

    def _task_retargeted(self, e: ev.TaskRetargeted, entry: ev.Entry) -> None:
        task = self.tasks[e.task]
        self._put_task(evolve(task, to_bin=e.to_bin, rule=e.rule, again=(*task.again, entry.seq)))

    def _plate_placed(self, e: ev.PlatePlaced, entry: ev.Entry) -> None:
        task = self.tasks[e.task]
        placed = Placed(e.bin, sum(g.quantity for g in self.all_goods(e.plate)), e.on, e.reason, entry.seq)
        self._put_task(evolve(task, state=TaskState.DONE, placed=(placed,)))
        plate = cast(Plate, self.plate(e.plate))
        self._move_plate(evolve(plate, bin=None if e.on else e.bin, on=e.on, carrier=None))

    def _goods_placed(self, e: ev.GoodsPlaced, entry: ev.Entry) -> None:
        task = self.tasks[e.task]
        left = task.goods
        for goods in e.goods:
            left = with_less(left, goods)
            if e.plate:
                plate = cast(Plate, self.plate(e.plate))
                self._put_plate(evolve(plate, goods=with_more(plate.goods, goods)))
            else:
                self._put_loose(e.bin, with_more(self.loose(e.bin), goods))
        placed = Placed(e.bin, sum(g.quantity for g in e.goods), e.plate, e.reason, entry.seq)
        state = TaskState.TAKEN if left else TaskState.DONE
        self._put_task(evolve(task, goods=left, state=state, placed=(*task.placed, placed)))

    def _stock_reserved(self, e: ev.StockReserved, _: ev.Entry) -> None:
        self._put_reservation(Reservation(e.reservation, e.holder, e.item, e.parts))

    def _reservation_cut(self, e: ev.ReservationCut, _: ev.Entry) -> None:
        self._put_reservation(evolve(self.reservations[e.reservation], parts=e.parts))

    def _bin_blocked(self, e: ev.BinBlocked, _: ev.Entry) -> None:
        self.blocks[e.bin] = e.reason
        self.blocks_tick += 1
        self._touch(e.bin)

    def _nothing(self, e: ev.Scanned | ev.TimePassed, _: ev.Entry) -> None:
        """Kept for people and for the clock; changes nothing that decisions read."""
        if isinstance(e, ev.TimePassed):
            self.clock += timedelta(seconds=e.seconds)

    # Snapshots

    def keep(self) -> Plain:
        """Plain data from which :meth:`load` makes an equal state over the same ground."""
        return to_plain(self.kept())

    def kept(self) -> Kept:
        """The part that a snapshot holds; two states are equal when this is."""
        return Kept(
            self.seq, self.clock, self.next_numbers, self.confirmed, self.cancelled, self.orders, self.host_orders,
            self.notices, self.host, self.progress, self.plates, self.loose_now,
            self.tasks, self.receipts, self.messages, self.dialogues, self.reservations, self.blocks,
        )  # fmt: skip

    def copied(self) -> Kept:
        """The same with dictionaries of its own: what is in them never changes, so it may be read later."""
        kept = self.kept()
        own = {name: dict(v) for name in Kept.__dataclass_fields__ if isinstance(v := getattr(kept, name), dict)}
        return evolve(kept, **own)

    @classmethod
    def load_snapshot(cls, ground: Ground, settings: Settings, plain: Plain) -> State:
        """The state a snapshot was kept from, its indexes made anew."""
        state, kept = cls(ground, settings), from_plain(Kept, plain)
        for name in (
            "seq",
            "clock",
            "next_numbers",
            "confirmed",
            "cancelled",
            "orders",
            "host_orders",
            "host",
            "progress",
            "receipts",
            "messages",
            "dialogues",
            "blocks",
        ):
            value = getattr(kept, name)
            setattr(state, name, dict(value) if isinstance(value, dict) else value)
        for plate in kept.plates.values():  # take every changed plate from where it stood at the opening
            before = ground.plates.get(plate.number)
            if before and before.on:
                state._kids(before.on).pop(plate.number, None)
            elif before:
                state._stand(before.bin).pop(plate.number, None)
        state.plates = dict(kept.plates)
        for plate in kept.plates.values():
            state._index_plate(plate)
        for code, goods in kept.loose_now.items():
            state._put_loose(code, goods)
        for task in kept.tasks.values():
            state._put_task(task)
            if task.plate:
                state._task_of_plate[task.plate] = task.number
        for reservation in kept.reservations.values():
            state._put_reservation(reservation)
        for code in kept.blocks:
            state._touch(code)
        for notice in kept.notices.values():
            state._put_notice(notice)
        for message in sorted(kept.messages.values(), key=lambda m: m.seq):
            state._about.setdefault(message.subject, []).append(message.number)
        for message in kept.messages.values():
            state._put_message(message)
        for dialogue in kept.dialogues.values():
            state._talking[dialogue.device] = dialogue.number
        return state

    # Indexes

    def _touch(self, code: BinCode) -> None:
        """A bin is not as it was."""
        self._held.pop(code, None)
        self.tick += 1
        self._changed.pop(code, None)
        self._changed[code] = self.tick

    def _put_plate(self, plate: Plate) -> None:
        """A plate is, holds or stands otherwise than before."""
        before = self.plates.get(plate.number) or self._opening_plate(plate.number)
        if before is not None:
            if plate.number not in self.plates:
                self._wake(plate.number)
            self._unindex_plate(before)
        self.plates[plate.number] = plate
        self._index_plate(plate)

    def _move_plate(self, plate: Plate) -> None:
        """A plate stands elsewhere; what is on it is as before."""
        before = self.plates.get(plate.number)
        if before is None:
            self._put_plate(plate)
            return
        for holder in (before, plate):
            if holder.bin:
                (self._stand(holder.bin).pop if holder is before else self._stand(holder.bin).setdefault)(
                    plate.number, None
                )
                self._touch(holder.bin)
            elif holder.on:
                (self._kids(holder.on).pop if holder is before else self._kids(holder.on).setdefault)(
                    plate.number, None
                )
                where = self.bin_of(holder.on)
                if where:
                    self._touch(where)
        self.plates[plate.number] = plate
        for goods in self.all_goods(plate.number):
            self._forget(goods.item)

    def _put_lines(self, plate: Plate) -> None:
        """The lines of a plate being built changed: only which lots are known follows from them."""
        before = self.plates[plate.number]
        self._forget_lots(before)
        self.plates[plate.number] = plate
        self._know_lots(plate)

    def _wake(self, number: PlateNo) -> None:
        """An opening plate changes: what stands on it is kept by the world from now on, since it may move."""
        for inner in self.ground.plates_on.get(number, ()):
            if inner not in self.plates:
                self._wake(inner)
                plate = cast(Plate, self._opening_plate(inner))
                self.plates[inner] = plate
                self._index_plate(plate)

    def _unindex_plate(self, plate: Plate) -> None:
        if plate.bin:
            self._stand(plate.bin).pop(plate.number, None)
        elif plate.on:
            self._kids(plate.on).pop(plate.number, None)
        self._building.pop(plate.number, None)
        where = plate.bin or (self.bin_of(plate.on) if plate.on else None)
        if where:
            self._touch(where)
        self._forget_lots(plate)
        for goods in plate.goods:
            self._plates_with.get(goods.item, {}).pop(plate.number, None)
            self._forget(goods.item)

    def _index_plate(self, plate: Plate) -> None:
        if plate.bin:
            self._stand(plate.bin)[plate.number] = None
        elif plate.on:
            self._kids(plate.on)[plate.number] = None
        if plate.building:
            self._building[plate.number] = None
        where = plate.bin or (self.bin_of(plate.on) if plate.on else None)
        if where:
            self._touch(where)
        self._know_lots(plate)
        for goods in plate.goods:
            self._plates_with.setdefault(goods.item, {})[plate.number] = None
            self._forget(goods.item)
        for inner in self._on.get(plate.number, ()):
            for goods in self.all_goods(inner):
                self._forget(goods.item)

    def _know_lots(self, plate: Plate) -> None:
        carried: tuple[Goods | PlateLine, ...] = (*plate.goods, *plate.lines)
        for each in carried:
            if each.lot:
                self._lots.setdefault((each.item, each.lot), {})[plate.number] = each.expiry

    def _forget_lots(self, plate: Plate) -> None:
        carried: tuple[Goods | PlateLine, ...] = (*plate.goods, *plate.lines)
        for each in carried:
            if each.lot:
                self._lots.get((each.item, each.lot), {}).pop(plate.number, None)

    def _put_loose(self, code: BinCode, goods: tuple[Goods, ...]) -> None:
        for each in self.loose(code):
            self._loose_with.get(each.item, {}).pop(code, None)
            self._forget(each.item)
        self.loose_now[code] = goods
        for each in goods:
            self._loose_with.setdefault(each.item, {})[code] = None
            self._forget(each.item)
        self._touch(code)

    def _put_task(self, task: Task) -> None:
        before = self.tasks.get(task.number)
        keeps_claim = (
            before is not None
            and before.to_bin == task.to_bin
            and before.goods is task.goods
            and task.state is not TaskState.DONE
        )
        if before is not None:
            self._unindex_task(before, keeps_claim)
        self.tasks[task.number] = task
        if task.receipt:
            waiting = self._unplaced.setdefault(task.receipt, {})
            if task.state is TaskState.DONE:
                waiting.pop(task.number, None)
            else:
                waiting[task.number] = None
        if task.state is TaskState.DONE:
            return
        if task.state is TaskState.OPEN:
            self._open.setdefault(task.crew, {})[task.number] = None
        elif task.person:
            self._carried.setdefault(task.person, {})[task.number] = None
        if task.to_bin and not keeps_claim:
            goods = self._goods_of(task)
            self._claims.setdefault(task.to_bin, {})[task.number] = self._taken_up(task)
            for each in goods:
                self._coming_with.setdefault(each.item, {})[task.to_bin, task.number] = None
            self._touch(task.to_bin)

    def _unindex_task(self, task: Task, keeps_claim: bool) -> None:
        self._open.get(task.crew, {}).pop(task.number, None)
        if task.person:
            self._carried.get(task.person, {}).pop(task.number, None)
        if task.to_bin and not keeps_claim and self._claims.get(task.to_bin, {}).pop(task.number, None):
            for each in self._goods_of(task):
                self._coming_with.get(each.item, {}).pop((task.to_bin, task.number), None)
            self._touch(task.to_bin)

    def _goods_of(self, task: Task) -> tuple[Goods, ...]:
        return self.all_goods(task.plate) if task.plate else task.goods

    def _taken_up(self, task: Task) -> Held:
        if task.plate:
            plate = cast(Plate, self.plate(task.plate))
            return self._sum_goods(plate.goods, plate)
        return self._sum_goods(task.goods, None)

    def _put_message(self, message: Message) -> None:
        """A message is otherwise than before; of each document only the first open one is in the queue."""
        self.messages[message.number] = message
        if message.state is MessageState.ANSWERED:
            self._queue_up(f"again {message.number}", message)
        first = self.first_open(message.subject)
        self._queue_up(message.subject, self.messages[first] if first else None)
        if first:
            self._unsettled[message.subject] = None
        else:
            self._unsettled.pop(message.subject, None)

    def _queue_up(self, key: str, message: Message | None) -> None:
        known = self._queued.pop(key, None)
        if known:
            del self._queue[bisect_left(self._queue, known)]
        if message and message.due:
            self._queued[key] = place = (message.due, message.seq, message.number)
            insort(self._queue, place)

    def _put_reservation(self, reservation: Reservation) -> None:
        before = self.reservations.pop(reservation.number, None)
        for part in before.parts if before else ():
            self._reserved.get(_reserved_key(part.bin, part.plate, part.goods), {}).pop(reservation.number, None)
        self._reserved_items.setdefault(reservation.item, {}).pop(reservation.number, None)
        if reservation.parts:
            self.reservations[reservation.number] = reservation
            self._reserved_items[reservation.item][reservation.number] = None
        for part in reservation.parts:
            holders = self._reserved.setdefault(_reserved_key(part.bin, part.plate, part.goods), {})
            holders[reservation.number] = holders.get(reservation.number, 0) + part.goods.quantity

    def _stand(self, code: BinCode) -> dict[PlateNo, None]:
        if code not in self._standing:
            self._standing[code] = dict.fromkeys(self.ground.plates_in.get(code, ()))
        return self._standing[code]

    def _kids(self, number: PlateNo) -> dict[PlateNo, None]:
        if number not in self._on:
            self._on[number] = dict.fromkeys(self.ground.plates_on.get(number, ()))
        return self._on[number]

    def _opening_plate(self, number: PlateNo) -> Plate | None:
        row = self.ground.plates.get(number)
        if row is None:
            return None
        table = self.ground.stock
        goods = []
        for n in table.rows_of_bin(row.bin):
            at = table.plate[n]
            if at >= 0 and table.plates[at] == number:
                goods.append(_goods(table[n]))
        return Plate(number, row.plate_kind, None if row.on else row.bin, on=row.on, goods=tuple(goods))

    def _sum(self, code: BinCode) -> Held:
        """What a bin holds, claims aside. Bins untouched by this world are shared with all worlds."""
        if code in self._changed:
            held = self._held[code] = self._sum_now(code)
            return held
        shared: dict[BinCode, Held] = self.ground.remembered.setdefault("held", {})
        known = shared.get(code)
        if known is None:
            if len(shared) >= REMEMBERED_BINS:
                shared.clear()
            known = shared[code] = self._sum_opening(code)
        return known

    def _sum_opening(self, code: BinCode) -> Held:
        table = self.ground.stock
        kinds = set()
        for n in table.rows_of_bin(code):
            kinds.add((ItemCode(table.items[table.item[n]]), table.lots[table.lot[n]], STATUSES[table.status[n]]))
        volume, weight, plates = opening_load(self.ground, code)
        return Held(volume, weight, plates, frozenset(kinds))

    def _sum_now(self, code: BinCode) -> Held:
        held = EMPTY
        loose = self.loose(code)
        if loose:
            held = self._sum_goods(loose, None)
        for plate in self.standing(code):
            held = held.plus(self._sum_goods(plate.goods, plate))
        return held

    def _sum_goods(self, goods: tuple[Goods, ...], plate: Plate | None) -> Held:
        nested = self.nested(plate.number) if plate else ()
        load = load_of(goods, plate.plate_kind if plate else None, self.ground, nested)
        every = (*goods, *(g for n in nested for g in n.all_goods())) if nested else goods
        kinds = frozenset((g.item, g.lot, g.status) for g in every)
        return Held(load.volume_mm3, load.weight_mg, load.plates, kinds)

    def _progress(self, line: PlateLine, *, noted: int = 0, arrived: int = 0, booked: int = 0) -> None:
        key = f"{line.order}/{line.order_line}"
        old = self.progress.get(key, LineProgress())
        self.progress[key] = LineProgress(old.noted + noted, old.arrived + arrived, old.booked + booked)


_NO_CLAIMS: dict[TaskNo, Held] = {}


def _goods(row: StockRow) -> Goods:
    return Goods(row.item, row.quantity, row.lot, row.expiry, row.status, row.arrived)


_make_goods: Callable[..., Goods] = maker(Goods)
_make_lying: Callable[..., Lying] = maker(Lying)


def _goods_at(table: StockTable, n: int, item: ItemCode) -> Goods:
    """The goods of a row, straight from the columns."""
    expiry, arrived = table.expiry[n], table.arrived[n]
    return _make_goods(
        item, table.quantity[n], table.lots[table.lot[n]], date.fromordinal(expiry) if expiry else None,
        STATUSES[table.status[n]], date.fromordinal(arrived) if arrived else None,
    )  # fmt: skip


def _line_key(line: Lying) -> tuple[str, str, tuple[str, ...]]:
    return line.bin, line.plate or "", sort_key(line.goods)


def _reserved_key(code: BinCode, plate: PlateNo | None, goods: Goods) -> tuple[str, ...]:
    """Reservations are kept by plate, so that they move with it, else by bin; and by kind of goods."""
    return (f"plate {plate}" if plate else f"bin {code}", *sort_key(goods))


_FOLD: dict[type, Callable[[State, Any, ev.Entry], None]] = {
    ev.NumberDrawn: State._number_drawn,
    ev.MessageSent: State._message_sent,
    ev.MessageAnswered: State._message_answered,
    ev.MessageFailed: State._message_failed,
    ev.MessageRefused: State._message_refused,
    ev.MessageHeardAgain: State._message_heard_again,
    ev.MessageRepeated: State._message_repeated,
    ev.HostSet: State._host_set,
    ev.HostOrderWritten: State._host_order_written,
    ev.HostOrderConfirmed: State._host_order_confirmed,
    ev.HostOrderCancelled: State._host_order_cancelled,
    ev.HostOrderOpened: State._host_order_opened,
    ev.HostOrderClosed: State._host_order_closed,
    ev.OrderTold: State._order_told,
    ev.OrderDropped: State._order_dropped,
    ev.NoticeTold: State._notice_told,
    ev.OrderConfirmed: State._order_confirmed,
    ev.ReceiptBooked: State._receipt_booked,
    ev.DialogueOpened: State._dialogue_opened,
    ev.DialogueMoved: State._dialogue_moved,
    ev.DialogueLeft: State._dialogue_left,
    ev.Scanned: State._nothing,
    ev.PlateStarted: State._plate_started,
    ev.LoadStarted: State._load_started,
    ev.LineNoted: State._line_noted,
    ev.LineChanged: State._line_changed,
    ev.PlateFinished: State._plate_finished,
    ev.TaskMade: State._task_made,
    ev.TaskTaken: State._task_taken,
    ev.TaskRetargeted: State._task_retargeted,
    ev.PlatePlaced: State._plate_placed,
    ev.GoodsPlaced: State._goods_placed,
    ev.StockReserved: State._stock_reserved,
    ev.ReservationCut: State._reservation_cut,
    ev.BinBlocked: State._bin_blocked,
    ev.TimePassed: State._nothing,
}
