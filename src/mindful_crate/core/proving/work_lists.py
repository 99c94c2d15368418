"""What is to be done on a floor, list by list: what waits for a task, tasks, plates never finished, arrived and not booked, notices
expected, transfers sent that have not come. Each row says since which entry, and why."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from itertools import islice

from mindful_crate.core.catalog.goods import Order, OrderKind, Tracking
from mindful_crate.core.catalog.ids import (
    BinCode,
    CrewId,
    ItemCode,
    NoticeNo,
    OrderNo,
    PersonId,
    PlateNo,
    ReceiptNo,
    ReservationNo,
    TaskNo,
    TruckNo,
    UnloadingNo,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.receipts import Receipt
from mindful_crate.core.floor.standing import AT_STATIONS, stands_in
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task, TaskState
from mindful_crate.core.floor.unloadings import Unloading
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.preview import rest_told
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import BookingPoint, DeliveryNote, Need, fixed
from mindful_crate.core.rulebook.words.parts import ORDERS, counted
from mindful_crate.core.rulebook.words.recipes import crew_name
from mindful_crate.core.work.inspecting import checks as inspecting
from mindful_crate.core.work.picking.decide import to_name
from mindful_crate.core.work.putting.checks import PUTS
from mindful_crate.core.work.putting.doing import to_take
from mindful_crate.core.work.receiving.checks import (
    more_taken,
    open_of_item,
    order_for_receipt,
    plan_of,
    planned,
    plate_text,
    receivable_orders,
    waits_for,
)
from mindful_crate.core.work.refilling.looking import coming, homes_here, missing, stand
from mindful_crate.core.work.tasks.words import task_told
from mindful_crate.core.work.unloading.checks import announced_still, to_unload
from mindful_crate.core.work.unloading.checks import told as unloaded_told
from mindful_crate.core.work.unloading.standing import not_received, standing, still_stands

LISTED = 200
"""So many orders are listed; the earliest promised first."""


@record
class ToReceive:
    """An order that may be received: by which plan, and how many of its lines are open."""

    order: OrderNo
    called: str
    """The kind of order, in words."""
    partner: str
    promised: date
    lines: int
    plan: str


@record
class ToUnload:
    """An order that comes by a plan that unloads: how many announced plates of it have not come off, and where it is set down by
    the plan, None when nothing says where or several places may do."""

    order: OrderNo
    called: str
    partner: str
    promised: date
    plates: tuple[PlateNo, ...]
    at: BinCode | None
    plan: str


@record
class AtDoor:
    """What was unloaded and is still to be received: how much of it, where, off which truck."""

    unloading: UnloadingNo
    order: OrderNo
    partner: str
    what: str
    at: BinCode
    truck: TruckNo | None
    by: PersonId
    still: str
    """What of it is not received yet, as far as one knows."""
    seq: int


@record
class StillOpen:
    """An item of an order of which something is open, in base units; by what it is tracked, and the plan that receives it, or why
    none does now."""

    item: ItemCode
    name: str
    open: int
    unit: str
    lot: bool
    expiry: bool
    serial: bool
    plan: str
    why_not: str
    more: int
    """How much more than was ordered the plan takes."""
    note: DeliveryNote


@record
class Waits:
    """Something that waits for a task to be made: where it is now, None while it is carried; which part of its way comes next, and
    why none was made."""

    key: str
    what: str
    at: BinCode | None
    part: int
    why: str
    seq: int


@record
class ToDo:
    """A task that is not done: what it is for, whose, how far, and what it is about."""

    number: TaskNo
    need: Need
    station: str
    state: str
    crew: CrewId | None
    crew_name: str
    person: PersonId | None
    whose: PersonId | None
    """Who alone may take it; None: anybody of its crew."""
    priority: int
    says: str
    from_bin: BinCode
    to: BinCode | None
    held: str
    seq: int
    pieces: int
    """So many pieces must be named by their serial numbers to take it up; 0: it is clear which they are."""
    serials: tuple[str, ...]
    """Those it may be of."""


@record
class ToInspect:
    """Goods that wait to be inspected: where, by which task, and how many are looked at, in base units."""

    task: TaskNo
    plate: PlateNo | None
    at: BinCode
    item: ItemCode
    name: str
    lot: str
    expiry: date | None
    quantity: int
    looked_at: int
    unit: str
    serials: tuple[str, ...]
    """The numbers of the pieces, where the item is kept by them."""


@record
class Unfinished:
    """A plate, or a receipt of loose goods, that is still being built."""

    number: PlateNo
    by: PersonId | None
    what: str
    at: BinCode | None
    loose: bool
    seq: int


@record
class NotBooked:
    """Goods that arrived and that the host has not booked: why, and whether it can be told now."""

    receipt: ReceiptNo
    what: str
    order: OrderNo
    why: str
    may_tell: bool
    held: bool
    """It is more than was ordered, and the office takes it or sends it back."""
    seq: int


@record
class Expected:
    """A plate that was announced and is not here."""

    notice: NoticeNo
    plate: PlateNo
    order: OrderNo
    partner: str
    what: str


@record
class OnTheWay:
    """A transfer that the other site has sent and of which lines are still to come."""

    order: OrderNo
    partner: str
    lines: int


@record
class NotFound:
    """What somebody who picked did not find where it should lie; it is kept from everybody until it was counted."""

    reservation: ReservationNo
    item: ItemCode
    name: str
    much: str
    at: BinCode
    plate: PlateNo | None
    lot: str
    who: PersonId


@record
class OnShelf:
    """How an item stands on a shelf it is at home on, in base units: what lies there, what of it is free, what is on its way by which refills, and the
    least and most to be kept there. ``low``: less is there, and coming, than its least. ``wanted``: so much of the item orders wait for."""

    bin: BinCode
    item: ItemCode
    name: str
    unit: str
    lying: int
    free: int
    coming: int
    least: int
    most: int
    low: bool
    refills: tuple[TaskNo, ...]
    wanted: int


@record
class WorkLists:
    """All lists."""

    to_unload: tuple[ToUnload, ...]
    at_door: tuple[AtDoor, ...]
    to_receive: tuple[ToReceive, ...]
    waits: tuple[Waits, ...]
    tasks: tuple[ToDo, ...]
    to_inspect: tuple[ToInspect, ...]
    unfinished: tuple[Unfinished, ...]
    not_booked: tuple[NotBooked, ...]
    expected: tuple[Expected, ...]
    transfers: tuple[OnTheWay, ...]
    not_found: tuple[NotFound, ...]
    shelves: tuple[OnShelf, ...]

    @property
    def seqs(self) -> set[int]:
        """The entries since which something is as it is."""
        dated = (self.at_door, self.waits, self.tasks, self.unfinished, self.not_booked)
        every: list[list[int]] = [[r.seq for r in rows] for rows in dated]
        return {seq for seqs in every for seq in seqs if seq}


def work_lists(state: State, book: Rulebook) -> WorkLists:
    """Everything that is to be done at the site of a world."""
    rests = sorted(state.rests.values(), key=lambda r: r.seq)
    return WorkLists(
        tuple(islice(_to_unload(state, book), LISTED)),
        tuple(_at_door(state, u) for u in state.unloadings.values() if still_stands(state, u)),
        tuple(islice(_to_receive(state, book), LISTED)),
        tuple(
            Waits(r.key, rest_told(state, r), state.bin_of(r.plate) if r.plate else r.bin, r.leg + 1, r.why, r.seq)
            for r in rests
        ),
        tuple(_to_do(state, book, t) for t in state.tasks.values()),
        tuple(x for t in state.tasks.values() if t.need is Need.INSPECT for x in _to_inspect(state, book, t)),
        tuple(
            Unfinished(p.number, p.by, plate_text(state, p) or "nothing yet", p.stands, p.into is not None, p.begun)
            for p in state.building()
        ),
        tuple(_not_booked(state, r) for r in state.receipts.values() if not r.booked and not r.undone),
        tuple(_expected(state)),
        tuple(_on_the_way(state)),
        tuple(_not_found(state)),
        tuple(islice(_shelves(state), LISTED)),
    )


def _to_unload(state: State, book: Rulebook) -> Iterator[ToUnload]:
    """Orders that were not unloaded yet, and those of which announced plates are still to come off."""
    for order, plan in to_unload(book, state):
        plates = tuple(announced_still(state, order.number))
        if plates or not standing(state, order.number):
            at = fixed(plan.unload.at)
            called = ORDERS[order.kind].lower()
            yield ToUnload(order.number, called, _partner(state, order), order.promised, plates, at, plan.name)


def _not_found(state: State) -> Iterator[NotFound]:
    for each in state.reservations.values():
        if each.missed_by is not None:
            item = state.ground.items[each.item]
            for part in each.parts:
                at = stands_in(state, part)
                much = item.told(part.goods.quantity)
                yield NotFound(each.number, item.code, item.name, much, at, part.plate, part.goods.lot, each.missed_by)


def _shelves(state: State) -> list[OnShelf]:
    """Those that are low first, then those something comes to, then by how full they are."""
    found = []
    for home in homes_here(state):
        now, item = stand(state, home), state.ground.items[home.item]
        refills = tuple(t for (code, t), q in coming(state, home.item) if code == home.bin and q)
        wanted = sum(q for *_, q in missing(state, home.item))
        found.append(
            OnShelf(
                home.bin, item.code, item.name, item.base.plural, now.lying, now.free, now.coming, home.least, home.most, now.low,
                refills, wanted,
            )
        )  # fmt: skip
    return sorted(
        found, key=lambda s: (not s.low, not s.coming, s.free * 1_000 // (s.most or s.least or 1), s.bin, s.item)
    )


def _partner(state: State, order: Order) -> str:
    partner = state.ground.partners.get(order.partner)
    return partner.name if partner else order.partner


def _at_door(state: State, found: Unloading) -> AtDoor:
    order = state.order(found.order)
    left = not_received(state, found)
    parts = [f"{len(left)} of {counted(len(found.plates), 'plate')}"] if found.plates else []
    if found.count and order is not None:
        parts.append(f"{counted(state.lines_open(order), 'line')} of the order open")
    return AtDoor(
        found.number, found.order, _partner(state, order) if order else "", unloaded_told(found), found.at, found.truck, found.by,
        ", ".join(parts), found.since,
    )  # fmt: skip


def _to_receive(state: State, book: Rulebook) -> Iterator[ToReceive]:
    for order in receivable_orders(state):
        plan = planned(book, state, order)
        if plan is not None and not waits_for(state, order, plan):
            called = ORDERS[order.kind].lower()
            lines = state.lines_open(order)
            yield ToReceive(order.number, called, _partner(state, order), order.promised, lines, plan.name)


def still_open(state: State, book: Rulebook, number: OrderNo) -> tuple[StillOpen, ...]:
    """What of an order may still be received, item by item; refused when nothing of it may."""
    order = order_for_receipt(state, number)
    found = []
    for code in dict.fromkeys(x.item for x in order.lines):
        item, left = state.ground.items[code], open_of_item(state, order, code)
        if left:
            name, why, note = "", "", DeliveryNote.NO
            try:
                plan = plan_of(book, state, order, code)
                name, note = plan.name, plan.receive.note
            except Refusal as refusal:
                why = refusal.problem.says
            more = more_taken(book, state, order, code)
            by = item.lots, item.tracking is Tracking.LOT_EXPIRY, item.numbered
            found.append(StillOpen(code, item.name, left, item.base.plural, *by, name, why, more, note))
    return tuple(found)


def station(book: Rulebook, ground: Ground, task: Task) -> str:
    """What a task is for, in a word; of a way with hand-overs, which part."""
    if task.need is not Need.PUT_AWAY:
        return {Need.MOVE: "Move", Need.INSPECT: "Inspect", Need.PICK: "Pick", Need.REPLENISH: "Refill"}[task.need]
    if task.plan.orders:
        return "Across the dock"
    if ground.zones[ground.bins[task.plan.from_bin].zone].purpose in AT_STATIONS:
        return "Put back"
    recipe = book.recipe(task.plan.recipe)
    if recipe is None or not recipe.legs:
        return "Put away"
    return f"Put away, part {task.plan.leg + 1} of {len(recipe.legs) + 1}"


def _to_do(state: State, book: Rulebook, task: Task) -> ToDo:
    wanted = to_take(state, task) if task.need in PUTS and task.state is TaskState.OPEN else None
    pieces, among = (wanted.quantity, wanted.among) if wanted else (0, ())
    if task.need is Need.PICK and not task.state.ended:
        pieces, among = to_name(state, task)
    how = "taken" if task.state is TaskState.TAKEN else "held" if task.held else "open"
    return ToDo(
        task.number, task.need, station(book, state.ground, task), how, task.crew, crew_name(book.crews, task.crew) if task.crew else "", task.person,
        task.whose, task.priority, task_told(state, task), task.from_bin, task.to_bin, task.held, task.made,
        pieces, among,
    )  # fmt: skip


def _to_inspect(state: State, book: Rulebook, task: Task) -> Iterator[ToInspect]:
    at = task.from_bin if task.going.place is not None else inspecting.stands_in(task)
    for goods in inspecting.waiting(state, task):
        item = state.ground.items[goods.item]
        looked = inspecting.sample_of(book, state, task, goods)
        yield ToInspect(
            task.number, task.plate, at, item.code, item.name, goods.lot, goods.expiry,
            goods.quantity, looked, item.base.plural, inspecting.pieces_of(state, task, goods) if item.numbered else (),
        )  # fmt: skip


def _not_booked(state: State, receipt: Receipt) -> NotBooked:
    items = state.ground.items
    lines = receipt.lines
    what = ", ".join(f"{items[x.item].told(x.quantity)} {items[x.item].name}" for x in lines[:3])
    what += f" and {len(lines) - 3} more" if len(lines) > 3 else ""
    if receipt.refused:
        why = f"the host refused it: {receipt.refused}"
    elif receipt.told:
        why = "the host was told and has not answered"
    elif receipt.held:
        why = "more than was ordered, held until the office takes it or sends it back"
    elif receipt.booking is BookingPoint.BY_HAND:
        why = "its plan leaves it to the office"
    elif receipt.booking is BookingPoint.LINES_DONE:
        why = "its plan waits until nothing of its orders is open"
    elif receipt.booking is BookingPoint.LINES_ASKED:
        why = "its plan waits until nothing of its orders is open; then who finishes the last says when"
    else:
        why = "its plan waits until it is put away"
    return NotBooked(
        receipt.number, what, lines[0].order, why, not receipt.told and not receipt.held, receipt.held, receipt.seq
    )


def _expected(state: State) -> list[Expected]:
    found = []
    for number in state.notices:
        notice = state.notices[number]
        order = state.order(notice.order)
        partner = state.ground.partners[order.partner].name if order and order.partner in state.ground.partners else ""
        for plate in notice.plates:
            if not state.has_plate(plate.number):
                goods = ", ".join(
                    f"{state.ground.items[x.item].told(x.quantity)} {state.ground.items[x.item].name}"
                    for x in plate.lines
                )
                found.append(Expected(number, plate.number, notice.order, partner, goods))
    return found


def _on_the_way(state: State) -> list[OnTheWay]:
    found = []
    for order in state.all_orders():
        if order.kind is OrderKind.TRANSFER and order.site == state.settings.site and order.shipped:
            lines = state.lines_open(order)
            if lines:
                found.append(OnTheWay(order.number, _partner(state, order), lines))
    return sorted(found, key=lambda o: o.order)
