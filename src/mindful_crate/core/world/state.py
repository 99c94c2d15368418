"""The state of a world: its ground, and over it only what the log has changed.

One mutable object. ``apply`` alone changes it, and only from log entries; deciding reads it. What follows from
the rest (who stands where, claims, sums of bins) is kept as an index and made anew when a snapshot is loaded.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import replace
from datetime import date, datetime, timedelta
from typing import Any, cast

from mindful_crate.core.catalog.goods import Order, OrderLine
from mindful_crate.core.catalog.ids import (
    BinCode,
    DialogueNo,
    ItemCode,
    MessageNo,
    OrderNo,
    PlateKindCode,
    PlateNo,
    ReceiptNo,
    TaskNo,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.placing.fit import EMPTY, Held
from mindful_crate.core.placing.request import Goods, load_of
from mindful_crate.core.plain import Plain, from_plain, to_plain
from mindful_crate.core.record import record
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.things import (
    Dialogue,
    LineProgress,
    Message,
    Plate,
    PlateLine,
    Receipt,
    Settings,
    Task,
    TaskState,
    WorldKind,
)

SNAPSHOT = 1
"""Version of the snapshot's shape; a snapshot of another version is made anew from the log."""


@record
class Kept:
    """The part of a state that a snapshot holds."""

    seq: int
    clock: datetime
    next_numbers: dict[str, int]
    confirmed: dict[OrderNo, bool]
    progress: dict[str, LineProgress]
    plates: dict[PlateNo, Plate]
    tasks: dict[TaskNo, Task]
    receipts: dict[ReceiptNo, Receipt]
    messages: dict[MessageNo, Message]
    dialogues: dict[DialogueNo, Dialogue]
    blocks: dict[BinCode, str]


class State:
    """A world as it stands after ``seq`` log entries."""

    def __init__(self, ground: Ground, settings: Settings) -> None:
        self.ground = ground
        self.settings = settings
        self.seq = 0
        self.clock = settings.starts
        self.next_numbers: dict[str, int] = {}
        self.confirmed: dict[OrderNo, bool] = {}
        self.progress: dict[str, LineProgress] = {}
        self.plates: dict[PlateNo, Plate] = {}
        self.tasks: dict[TaskNo, Task] = {}
        self.receipts: dict[ReceiptNo, Receipt] = {}
        self.messages: dict[MessageNo, Message] = {}
        self.dialogues: dict[DialogueNo, Dialogue] = {}
        self.blocks: dict[BinCode, str] = {}
        self._standing: dict[BinCode, dict[PlateNo, None]] = {}
        self._claims: dict[BinCode, dict[TaskNo, Held]] = {}
        self._task_of_plate: dict[PlateNo, TaskNo] = {}
        self._held: dict[BinCode, Held] = {}

    # What others ask

    def number(self, series: str) -> tuple[str, int]:
        """The next number of a series, spelled and counted. The event that uses it must record it."""
        rules = self.ground.series[series]
        next_ = self.next_numbers.get(series, rules.next)
        rehearsal = self.settings.kind is WorldKind.REHEARSAL
        prefix = rules.rehearsal_prefix if rehearsal else rules.prefix
        return f"{prefix}{next_:0{rules.width}d}", next_

    def has_plate(self, number: PlateNo) -> bool:
        """Is there a plate of that number, at the opening or since?"""
        return number in self.plates or number in self.ground.bin_of_plate

    def has_task(self, number: TaskNo) -> bool:
        """Is there a task of that number?"""
        return number in self.tasks

    def plate(self, number: PlateNo) -> Plate | None:
        """A plate by its number."""
        return self.plates.get(number) or self._opening_plate(number)

    def is_confirmed(self, order: OrderNo) -> bool:
        """Has the order reached the floor?"""
        return self.confirmed.get(order, self.ground.orders[order].confirmed)

    def line_progress(self, order: OrderNo, line: int) -> LineProgress:
        """How far an order line is."""
        return self.progress.get(f"{order}/{line}", LineProgress())

    def open_quantity(self, order: Order, line: OrderLine) -> int:
        """What of a line is neither noted on a plate nor arrived."""
        done = self.line_progress(order.number, line.no)
        return line.quantity - done.noted - done.arrived

    def task_of(self, plate: PlateNo) -> Task | None:
        """The latest task of a plate."""
        number = self._task_of_plate.get(plate)
        return self.tasks[number] if number else None

    def building(self) -> Iterator[Plate]:
        """Plates that are being built, in number order."""
        return (p for _, p in sorted(self.plates.items()) if p.building)

    def blocked(self, code: BinCode) -> str | None:
        """Why a bin is blocked, if it is."""
        if code in self.blocks:
            return self.blocks[code] or None
        return self.ground.bins[code].blocked

    def lot_expiry(self, item: ItemCode, lot: str) -> date | None:
        """The expiry date a lot is known by, on stock or on a plate being built."""
        known: dict[tuple[ItemCode, str], date | None] | None = self.ground.remembered.get("lots")
        if known is None:
            known = {(r.item, r.lot): r.expiry for r in self.ground.opening.stock if r.lot}
            self.ground.remembered["lots"] = known
        if (item, lot) in known:
            return known[item, lot]
        for plate in self.plates.values():
            carried: tuple[Goods | PlateLine, ...] = (*plate.goods, *plate.lines)
            for each in carried:
                if each.item == item and each.lot == lot:
                    return each.expiry
        return None

    def standing(self, code: BinCode) -> tuple[Plate, ...]:
        """The plates in a bin, in number order."""
        numbers = self._standing.get(code)
        found = numbers if numbers is not None else self._opening_standing(code)
        return tuple(p for n in sorted(found) if (p := self.plate(n)) is not None)

    def loose(self, code: BinCode) -> tuple[Goods, ...]:
        """Loose goods in a bin."""
        rows = self.ground.stock_by_bin.get(code, ())
        return tuple(Goods(r.item, r.quantity, r.lot, r.expiry, r.status) for r in rows if not r.plate)

    def held(self, code: BinCode, but: TaskNo | None = None) -> Held:
        """What a bin holds and what is on its way there, the claim of task ``but`` left out."""
        held = self._held.get(code)
        if held is None:
            held = self._held[code] = self._sum(code)
        for task, coming in self._claims.get(code, {}).items():
            if task != but:
                held = held.plus(coming)
        return held

    def coming(self, code: BinCode) -> tuple[TaskNo, ...]:
        """Tasks that claim room in a bin."""
        return tuple(self._claims.get(code, ()))

    def due(self, until: datetime) -> Message | None:
        """The next message the host stand-in answers by ``until``."""
        waiting = (m for m in self.messages.values() if m.due <= until)
        return min(waiting, key=lambda m: (m.due, m.number), default=None)

    def stock(self) -> Iterator[tuple[BinCode | None, Plate | None, Goods]]:
        """All stock as (bin or None while carried, plate or None, goods), by bin, plate, item."""
        bins = sorted({*self.ground.stock_by_bin, *self._standing})
        for code in bins:
            for goods in self.loose(code):
                yield code, None, goods
            for plate in self.standing(code):
                for goods in plate.goods:
                    yield code, plate, goods
        for _, plate in sorted(self.plates.items()):
            if plate.carrier:
                for goods in plate.goods:
                    yield None, plate, goods

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

    def _message_sent(self, e: ev.MessageSent, _: ev.Entry) -> None:
        self.messages[e.message] = Message(e.message, e.topic, e.subject, e.due)
        if e.topic == "book_receipt":
            receipt = ReceiptNo(e.subject)
            self.receipts[receipt] = replace(self.receipts[receipt], told=True)

    def _message_answered(self, e: ev.MessageAnswered, _: ev.Entry) -> None:
        del self.messages[e.message]

    def _order_confirmed(self, e: ev.OrderConfirmed, _: ev.Entry) -> None:
        self.confirmed[e.order] = True

    def _receipt_booked(self, e: ev.ReceiptBooked, _: ev.Entry) -> None:
        receipt = self.receipts[e.receipt]
        self.receipts[e.receipt] = replace(receipt, booked=True)
        for line in receipt.lines:
            self._progress(line, booked=line.quantity)

    def _dialogue_opened(self, e: ev.DialogueOpened, _: ev.Entry) -> None:
        self.dialogues[e.dialogue] = Dialogue(e.dialogue, e.flow, e.person, e.device)

    def _dialogue_moved(self, e: ev.DialogueMoved, _: ev.Entry) -> None:
        d = self.dialogues[e.dialogue]
        self.dialogues[e.dialogue] = replace(d, slots=e.slots, past=e.past, doubt=e.doubt, step=d.step + 1)

    def _dialogue_left(self, e: ev.DialogueLeft, _: ev.Entry) -> None:
        d = self.dialogues[e.dialogue]
        self.dialogues[e.dialogue] = replace(d, open=False, taken_over=e.taken_over, taken_by=e.by)

    def _plate_started(self, e: ev.PlateStarted, entry: ev.Entry) -> None:
        at = entry.command.stamp.at
        self._put_plate(Plate(e.plate, e.plate_kind, e.bin, building=True, by=e.person, since=at))

    def _line_noted(self, e: ev.LineNoted, _: ev.Entry) -> None:
        plate = self.plates[e.plate]
        line = PlateLine(e.line, e.order, e.order_line, e.item, e.unit, e.quantity, e.lot, e.expiry)
        self.plates[e.plate] = replace(plate, lines=(*plate.lines, line))
        self._progress(line, noted=e.quantity)

    def _line_changed(self, e: ev.LineChanged, _: ev.Entry) -> None:
        plate = self.plates[e.plate]
        old = next(x for x in plate.lines if x.line == e.line)
        changed = (replace(x, quantity=e.quantity) if x.line == e.line else x for x in plate.lines)
        self.plates[e.plate] = replace(plate, lines=tuple(x for x in changed if x.quantity))
        self._progress(old, noted=e.quantity - old.quantity)

    def _plate_finished(self, e: ev.PlateFinished, entry: ev.Entry) -> None:
        plate = self.plates[e.plate]
        goods: dict[tuple[ItemCode, str], Goods] = {}
        for line in plate.lines:
            key = (line.item, line.lot)
            have = goods[key].quantity if key in goods else 0
            goods[key] = Goods(line.item, have + line.quantity, line.lot, line.expiry)
            self._progress(line, noted=-line.quantity, arrived=line.quantity)
        stamp = entry.command.stamp
        self.receipts[e.receipt] = Receipt(e.receipt, e.plate, plate.lines, e.booking)
        self._put_plate(
            replace(
                plate,
                goods=tuple(g for _, g in sorted(goods.items())),
                lines=(),
                building=False,
                receipt=e.receipt,
                by=e.person,
                finished_on=stamp.device,
                finished_at=stamp.at,
            )
        )

    def _task_made(self, e: ev.TaskMade, _: ev.Entry) -> None:
        self.tasks[e.task] = Task(e.task, e.plate, e.from_bin, e.crew, e.to_bin, e.rule)
        self._task_of_plate[e.plate] = e.task
        self._claim(e.task)

    def _task_taken(self, e: ev.TaskTaken, _: ev.Entry) -> None:
        task = self.tasks[e.task]
        self.tasks[e.task] = replace(task, state=TaskState.TAKEN, person=e.person)
        plate = cast(Plate, self.plate(task.plate))
        self._put_plate(replace(plate, bin=None, carrier=e.person))

    def _task_retargeted(self, e: ev.TaskRetargeted, _: ev.Entry) -> None:
        self._unclaim(e.task)
        self.tasks[e.task] = replace(self.tasks[e.task], to_bin=e.to_bin, rule=e.rule)
        self._claim(e.task)

    def _plate_placed(self, e: ev.PlatePlaced, _: ev.Entry) -> None:
        self._unclaim(e.task)
        task = self.tasks[e.task]
        self.tasks[e.task] = replace(task, state=TaskState.DONE, placed_in=e.bin, reason=e.reason)
        plate = cast(Plate, self.plate(e.plate))
        self._put_plate(replace(plate, bin=e.bin, carrier=None))

    def _bin_blocked(self, e: ev.BinBlocked, _: ev.Entry) -> None:
        self.blocks[e.bin] = e.reason

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
            self.seq, self.clock, self.next_numbers, self.confirmed, self.progress, self.plates,
            self.tasks, self.receipts, self.messages, self.dialogues, self.blocks,
        )  # fmt: skip

    @classmethod
    def load(cls, ground: Ground, settings: Settings, plain: Plain) -> State:
        """The state a snapshot was kept from, its indexes made anew."""
        state, kept = cls(ground, settings), from_plain(Kept, plain)
        for name in Kept.__dataclass_fields__:
            value = getattr(kept, name)
            setattr(state, name, dict(value) if isinstance(value, dict) else value)
        for plate in state.plates.values():
            opening_bin = ground.bin_of_plate.get(plate.number)
            if opening_bin:
                state._stand(opening_bin).pop(plate.number, None)
        for plate in state.plates.values():
            if plate.bin:
                state._stand(plate.bin)[plate.number] = None
        for task in state.tasks.values():
            state._task_of_plate[task.plate] = task.number
            if task.state is not TaskState.DONE:
                state._claim(task.number)
        return state

    # Indexes

    def _put_plate(self, plate: Plate) -> None:
        before = self.plate(plate.number)
        self.plates[plate.number] = plate
        if before and before.bin:
            self._stand(before.bin).pop(plate.number, None)
            self._held.pop(before.bin, None)
        if plate.bin:
            self._stand(plate.bin)[plate.number] = None
            self._held.pop(plate.bin, None)

    def _stand(self, code: BinCode) -> dict[PlateNo, None]:
        if code not in self._standing:
            self._standing[code] = dict.fromkeys(self._opening_standing(code))
        return self._standing[code]

    def _opening_standing(self, code: BinCode) -> Iterable[PlateNo]:
        return sorted({r.plate for r in self.ground.stock_by_bin.get(code, ()) if r.plate})

    def _opening_plate(self, number: PlateNo) -> Plate | None:
        code = self.ground.bin_of_plate.get(number)
        if code is None:
            return None
        rows = [r for r in self.ground.stock_by_bin[code] if r.plate == number]
        goods = tuple(Goods(r.item, r.quantity, r.lot, r.expiry, r.status) for r in rows)
        return Plate(number, cast(PlateKindCode, rows[0].plate_kind), code, goods=goods)

    def _sum(self, code: BinCode) -> Held:
        shared = self.ground.remembered.setdefault("held", {})
        if code not in self._standing:
            if code not in shared:
                shared[code] = self._sum_now(code)
            return cast(Held, shared[code])
        return self._sum_now(code)

    def _sum_now(self, code: BinCode) -> Held:
        held = EMPTY
        loose = self.loose(code)
        if loose:
            held = self._taken_up(loose, None)
        for plate in self.standing(code):
            held = held.plus(self._taken_up(plate.goods, plate.plate_kind))
        return held

    def _taken_up(self, goods: tuple[Goods, ...], plate_kind: PlateKindCode | None) -> Held:
        load = load_of(goods, plate_kind, self.ground)
        kinds = frozenset((g.item, g.lot, g.status) for g in goods)
        return Held(load.volume_mm3, load.weight_mg, load.plates, kinds)

    def _claim(self, number: TaskNo) -> None:
        task = self.tasks[number]
        if task.to_bin:
            plate = cast(Plate, self.plate(task.plate))
            coming = self._taken_up(plate.goods, plate.plate_kind)
            self._claims.setdefault(task.to_bin, {})[number] = coming

    def _unclaim(self, number: TaskNo) -> None:
        to_bin = self.tasks[number].to_bin
        if to_bin:
            self._claims.get(to_bin, {}).pop(number, None)

    def _progress(self, line: PlateLine, *, noted: int = 0, arrived: int = 0, booked: int = 0) -> None:
        key = f"{line.order}/{line.order_line}"
        old = self.progress.get(key, LineProgress())
        self.progress[key] = LineProgress(old.noted + noted, old.arrived + arrived, old.booked + booked)


_FOLD: dict[type, Callable[[State, Any, ev.Entry], None]] = {
    ev.NumberDrawn: State._number_drawn,
    ev.MessageSent: State._message_sent,
    ev.MessageAnswered: State._message_answered,
    ev.OrderConfirmed: State._order_confirmed,
    ev.ReceiptBooked: State._receipt_booked,
    ev.DialogueOpened: State._dialogue_opened,
    ev.DialogueMoved: State._dialogue_moved,
    ev.DialogueLeft: State._dialogue_left,
    ev.Scanned: State._nothing,
    ev.PlateStarted: State._plate_started,
    ev.LineNoted: State._line_noted,
    ev.LineChanged: State._line_changed,
    ev.PlateFinished: State._plate_finished,
    ev.TaskMade: State._task_made,
    ev.TaskTaken: State._task_taken,
    ev.TaskRetargeted: State._task_retargeted,
    ev.PlatePlaced: State._plate_placed,
    ev.BinBlocked: State._bin_blocked,
    ev.TimePassed: State._nothing,
}
