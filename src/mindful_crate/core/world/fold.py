"""Folding: how each event changes a state. The only module that puts."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date, timedelta
from typing import Any, cast

from mindful_crate.core.catalog.amounts import Goods, sort_key, with_less, with_more
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import ItemCode, OrderNo, PersonId, PlateKindCode, PlateNo, ReceiptNo, TaskNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.messages import Message, MessageState
from mindful_crate.core.floor.orders import HostOrder
from mindful_crate.core.floor.plates import Card, PlateLine, in_bin, on_plate, with_person
from mindful_crate.core.floor.receipts import Receipt
from mindful_crate.core.floor.reservations import Reservation
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Going, Placed, Plan, TaskState
from mindful_crate.core.record import evolve, maker
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.trail import Trail
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.acts import At
from mindful_crate.core.world.rows import by_kind, folding

_at: Callable[..., At] = maker(At)
_line: Callable[..., PlateLine] = maker(PlateLine)
_plan: Callable[..., Plan] = maker(Plan)
_going: Callable[..., Going] = maker(Going)
_placed: Callable[..., Placed] = maker(Placed)
_receipt: Callable[..., Receipt] = maker(Receipt)
_card: Callable[..., Card] = maker(Card)
_goods: Callable[..., Goods] = maker(Goods)


def apply(state: State, entry: ev.Entry) -> None:
    """Fold one log entry. A refusal takes its place and changes nothing else."""
    if entry.seq != state.seq + 1:
        raise ValueError(f"entry {entry.seq} does not follow {state.seq}")
    state.seq = entry.seq
    stamp = entry.command.stamp
    if stamp.at > state.clock:
        state.put_clock(stamp.at)
    if isinstance(entry.outcome, ev.Done):
        at = _at(entry.seq, stamp)
        for event in entry.outcome.events:
            FOLDS[type(event)](state, event, at)


def fold(state: State, event: object, at: At) -> None:
    """Fold one event, of an entry that may be in the making."""
    FOLDS[type(event)](state, event, at)


def _number_drawn(state: State, e: ev.NumberDrawn, _: At) -> None:
    state.next_numbers.put(e.series, e.next)


# Messages


def _message_sent(state: State, e: ev.MessageSent, at: At) -> None:
    message = Message(e.message, e.topic, e.subject, e.due, e.order, e.notice, seq=at.seq, sent=at.stamp.at)
    state.messages.put(e.message, message)
    _about_receipt(state, e.topic, e.subject, told=True)


def _about_receipt(state: State, topic: str, subject: str, **changes: Any) -> None:
    if topic == "book_receipt":
        receipt = state.receipts[ReceiptNo(subject)]
        state.receipts.put(receipt.number, evolve(receipt, **changes))


def _message_answered(state: State, e: ev.MessageAnswered, at: At) -> None:
    m = state.messages[e.message]
    done = evolve(
        m, state=MessageState.ANSWERED, due=e.again, order=None, notice=None, settled=at.stamp.at, settled_in=at.seq,
        says="", turn=m.turn + 1, tries=m.tries + 1,
    )  # fmt: skip
    state.messages.put(e.message, done)


def _message_failed(state: State, e: ev.MessageFailed, _: At) -> None:
    m = state.messages[e.message]
    now = MessageState.WAITING if e.due else MessageState.GIVEN_UP
    state.messages.put(e.message, evolve(m, state=now, due=e.due, says=e.why, turn=m.turn + 1, tries=m.tries + 1))


def _message_refused(state: State, e: ev.MessageRefused, at: At) -> None:
    m = state.messages[e.message]
    refused = evolve(
        m, state=MessageState.REFUSED, due=None, settled=at.stamp.at, settled_in=at.seq, says=e.why, turn=m.turn + 1,
        tries=m.tries + 1,
    )  # fmt: skip
    state.messages.put(e.message, refused)
    _about_receipt(state, m.topic, m.subject, refused=e.why)


def _message_heard_again(state: State, e: ev.MessageHeardAgain, _: At) -> None:
    m = state.messages[e.message]
    state.messages.put(e.message, evolve(m, due=None, heard_again=m.heard_again + 1, turn=m.turn + 1))


def _message_repeated(state: State, e: ev.MessageRepeated, _: At) -> None:
    m = state.messages[e.message]
    again = evolve(m, state=MessageState.WAITING, due=e.due, tries=0, settled=None, settled_in=0)
    state.messages.put(e.message, again)
    _about_receipt(state, m.topic, m.subject, refused="")


# The host and its orders


def _host_set(state: State, e: ev.HostSet, _: At) -> None:
    state.put_host(e.host)


def _host_order_written(state: State, e: ev.HostOrderWritten, _: At) -> None:
    held = state.host_order(e.order.number) or HostOrder(e.order)
    state.host_orders.put(e.order.number, evolve(held, order=e.order))


def _host_order_confirmed(state: State, e: ev.HostOrderConfirmed, _: At) -> None:
    _change_host_order(state, e.order, confirmed=True)


def _host_order_cancelled(state: State, e: ev.HostOrderCancelled, _: At) -> None:
    _change_host_order(state, e.order, cancelled=True, editor=None, since=None)


def _host_order_opened(state: State, e: ev.HostOrderOpened, at: At) -> None:
    _change_host_order(state, e.order, editor=e.person, since=at.stamp.at)


def _host_order_closed(state: State, e: ev.HostOrderClosed, _: At) -> None:
    _change_host_order(state, e.order, editor=None, since=None)


def _change_host_order(state: State, number: OrderNo, **changes: Any) -> None:
    state.host_orders.put(number, evolve(cast(HostOrder, state.host_order(number)), **changes))


def _order_told(state: State, e: ev.OrderTold, _: At) -> None:
    state.orders.put(e.order.number, e.order)


def _notice_told(state: State, e: ev.NoticeTold, _: At) -> None:
    state.notices.put(e.notice.number, e.notice)


def _order_dropped(state: State, e: ev.OrderDropped, at: At) -> None:
    state.cancelled.put(e.order, at.seq)


def _order_confirmed(state: State, e: ev.OrderConfirmed, at: At) -> None:
    state.confirmed.put(e.order, at.seq)


# Dialogues


def _dialogue_opened(state: State, e: ev.DialogueOpened, _: At) -> None:
    before = state.talking(e.device)
    if before is not None and not before.open:  # only the latest of a handset can still be asked about
        state.dialogues.put(before.number, None)
    state.dialogues.put(e.dialogue, Dialogue(e.dialogue, e.flow, e.person, e.device))


def _dialogue_moved(state: State, e: ev.DialogueMoved, _: At) -> None:
    d = state.dialogues[e.dialogue]
    state.dialogues.put(e.dialogue, evolve(d, slots=e.slots, past=e.past, doubt=e.doubt, step=d.step + 1))


def _dialogue_left(state: State, e: ev.DialogueLeft, _: At) -> None:
    d = state.dialogues[e.dialogue]
    state.dialogues.put(e.dialogue, evolve(d, open=False, taken_over=e.taken_over, taken_by=e.by))


# Receiving


def _plate_started(state: State, e: ev.PlateStarted, at: At) -> None:
    plates = state.plates
    if (
        e.plate in state.ground.plates
    ):  # logs of 0.5.0 hold plates under the number of one of the opening, which is gone
        plates.goods.put(e.plate, ())
    plates.spots.put(e.plate, in_bin(e.bin))
    card = _card(e.plate_kind, True, e.person, at.stamp.at, at.seq, None, None, None, None, 0)
    plates.cards.put(e.plate, card)


def _load_started(state: State, e: ev.LoadStarted, at: At) -> None:
    card = Card(PlateKindCode(""), by=e.person, since=at.stamp.at, begun=at.seq, into=e.into)
    state.plates.cards.put(e.load, card)


def _line_noted(state: State, e: ev.LineNoted, at: At) -> None:
    line = _line(e.line, e.order, e.order_line, e.item, e.unit, e.quantity, e.lot, e.expiry, at.seq)
    lines = state.plates.lines
    lines.put(e.plate, (*lines.get(e.plate, ()), line))
    state.progress.add(LineKey(e.order, e.order_line), noted=e.quantity)


def _line_changed(state: State, e: ev.LineChanged, at: At) -> None:
    lines = state.plates.lines[e.plate]
    old = next(x for x in lines if x.line == e.line)
    changed = (evolve(x, quantity=e.quantity, seq=at.seq) if x.line == e.line else x for x in lines)
    state.plates.lines.put(e.plate, tuple(x for x in changed if x.quantity))
    state.progress.add(old.key, noted=e.quantity - old.quantity)


def _plate_finished(state: State, e: ev.PlateFinished, at: At) -> None:
    plates, stamp = state.plates, at.stamp
    card, lines = plates.cards[e.plate], plates.lines.get(e.plate, ())
    goods: dict[tuple[ItemCode, str, date | None], int] = {}
    for line in lines:
        key = (line.item, line.lot, line.expiry)
        goods[key] = goods.get(key, 0) + line.quantity
        state.progress.add(line.key, noted=-line.quantity, arrived=line.quantity)
    available, today = Status.AVAILABLE, stamp.today
    came = [_goods(item, n, lot, expiry, available, today) for (item, lot, expiry), n in goods.items()]
    on_it = tuple(sorted(came, key=sort_key))
    state.receipts.put(e.receipt, _receipt(e.receipt, e.plate, lines, e.booking, False, False, "", at.seq, 0))
    plates.lines.put(e.plate, None)
    if card.into:
        lying = state.loose(card.into)
        for each in on_it:
            lying = with_more(lying, each)
        state.loose_now.put(card.into, lying)
    else:
        plates.goods.put(e.plate, on_it)
    done = _card(
        card.plate_kind, False, e.person, card.since, card.begun, card.into, e.receipt, stamp.device, stamp.at, at.seq
    )
    plates.cards.put(e.plate, done)


def _receipt_booked(state: State, e: ev.ReceiptBooked, at: At) -> None:
    receipt = state.receipts[e.receipt]
    state.receipts.put(e.receipt, evolve(receipt, booked=True, booked_in=at.seq))
    for line in receipt.lines:
        state.progress.add(line.key, booked=line.quantity)


# Work


def _task_made(state: State, e: ev.TaskMade, at: At) -> None:
    tasks = state.tasks
    tasks.plans.put(e.task, _plan(e.plate, e.from_bin, e.crew, e.need, e.goods, e.from_plate, e.receipt, at.seq))
    tasks.going.put(e.task, _going(TaskState.OPEN, e.to_bin, e.rule, e.goods, None, (), 0, ()))


def _task_taken(state: State, e: ev.TaskTaken, at: At) -> None:
    going, plan = state.tasks.going, state.tasks.plans[e.task]
    now = going[e.task]
    going.put(e.task, _going(TaskState.TAKEN, now.to_bin, now.rule, now.goods, e.person, now.placed, at.seq, now.again))
    if plan.plate:
        state.plates.spots.put(plan.plate, with_person(e.person))
    elif plan.from_plate:
        state.plates.goods.put(plan.from_plate, _less(state.plates.goods_on(plan.from_plate), now.goods))
    elif now.goods:
        state.loose_now.put(plan.from_bin, _less(state.loose(plan.from_bin), now.goods))


def _less(goods: tuple[Goods, ...], taken: tuple[Goods, ...]) -> tuple[Goods, ...]:
    for each in taken:
        goods = with_less(goods, each)
    return goods


def _more(goods: tuple[Goods, ...], come: tuple[Goods, ...]) -> tuple[Goods, ...]:
    for each in come:
        goods = with_more(goods, each)
    return goods


def _task_retargeted(state: State, e: ev.TaskRetargeted, at: At) -> None:
    now = state.tasks.going[e.task]
    state.tasks.going.put(e.task, evolve(now, to_bin=e.to_bin, rule=e.rule, again=(*now.again, at.seq)))


def _plate_placed(state: State, e: ev.PlatePlaced, at: At) -> None:
    now = state.tasks.going[e.task]
    placed = _placed(e.bin, sum([g.quantity for g in state.all_goods(e.plate)]), e.on, e.reason, at.seq)
    state.tasks.going.put(
        e.task,
        _going(TaskState.DONE, now.to_bin, now.rule, now.goods, now.person, (placed,), now.taken, now.again),
    )
    state.plates.spots.put(e.plate, on_plate(e.on) if e.on else in_bin(e.bin))


def _goods_placed(state: State, e: ev.GoodsPlaced, at: At) -> None:
    now = state.tasks.going[e.task]
    if e.plate:
        state.plates.goods.put(e.plate, _more(state.plates.goods_on(e.plate), e.goods))
    else:
        state.loose_now.put(e.bin, _more(state.loose(e.bin), e.goods))
    placed = Placed(e.bin, sum(g.quantity for g in e.goods), e.plate, e.reason, at.seq)
    left = _less(now.goods, e.goods)
    done = TaskState.TAKEN if left else TaskState.DONE
    state.tasks.going.put(e.task, evolve(now, goods=left, state=done, placed=(*now.placed, placed)))


def _stock_reserved(state: State, e: ev.StockReserved, _: At) -> None:
    state.reservations.put(e.reservation, Reservation(e.reservation, e.holder, e.item, e.parts))


def _reservation_cut(state: State, e: ev.ReservationCut, _: At) -> None:
    left = evolve(state.reservations[e.reservation], parts=e.parts) if e.parts else None
    state.reservations.put(e.reservation, left)


def _bin_blocked(state: State, e: ev.BinBlocked, _: At) -> None:
    state.blocks.put(e.bin, e.reason)


def _time_passed(state: State, e: ev.TimePassed, _: At) -> None:
    state.put_clock(state.clock + timedelta(seconds=e.seconds))


def _nothing(_: State, __: ev.Scanned, ___: At) -> None:
    """Kept for people; changes nothing that decisions read."""


NOBODY = PersonId("what-if")


def suppose(state: State, trail: Trail, name: str) -> None:
    """Let goods be on their way to the bins that a trail chose, in nobody's hands: only under an open journal."""
    request = trail.request
    for n, share in enumerate(trail.allocations):
        number = TaskNo(f"{name} {n}")
        plate = PlateNo(number) if request.plate_kind else None
        goods = request.goods if plate else request.of(share.quantity).goods
        if plate and request.plate_kind:
            state.plates.spots.put(plate, with_person(NOBODY))
            state.plates.cards.put(plate, Card(request.plate_kind, building=False))
            state.plates.goods.put(plate, goods)
        loose = () if plate else goods
        plan = Plan(plate, request.from_bin or share.bin, None, Need.PUT_AWAY, loose)
        state.tasks.plans.put(number, plan)
        state.tasks.going.put(number, Going(TaskState.TAKEN, share.bin, share.rule, loose, NOBODY))


FOLDS = by_kind(
    (
        folding(ev.NumberDrawn, _number_drawn),
        folding(ev.MessageSent, _message_sent),
        folding(ev.MessageAnswered, _message_answered),
        folding(ev.MessageFailed, _message_failed),
        folding(ev.MessageRefused, _message_refused),
        folding(ev.MessageHeardAgain, _message_heard_again),
        folding(ev.MessageRepeated, _message_repeated),
        folding(ev.HostSet, _host_set),
        folding(ev.HostOrderWritten, _host_order_written),
        folding(ev.HostOrderConfirmed, _host_order_confirmed),
        folding(ev.HostOrderCancelled, _host_order_cancelled),
        folding(ev.HostOrderOpened, _host_order_opened),
        folding(ev.HostOrderClosed, _host_order_closed),
        folding(ev.OrderTold, _order_told),
        folding(ev.OrderDropped, _order_dropped),
        folding(ev.NoticeTold, _notice_told),
        folding(ev.OrderConfirmed, _order_confirmed),
        folding(ev.ReceiptBooked, _receipt_booked),
        folding(ev.DialogueOpened, _dialogue_opened),
        folding(ev.DialogueMoved, _dialogue_moved),
        folding(ev.DialogueLeft, _dialogue_left),
        folding(ev.Scanned, _nothing),
        folding(ev.PlateStarted, _plate_started),
        folding(ev.LoadStarted, _load_started),
        folding(ev.LineNoted, _line_noted),
        folding(ev.LineChanged, _line_changed),
        folding(ev.PlateFinished, _plate_finished),
        folding(ev.TaskMade, _task_made),
        folding(ev.TaskTaken, _task_taken),
        folding(ev.TaskRetargeted, _task_retargeted),
        folding(ev.PlatePlaced, _plate_placed),
        folding(ev.GoodsPlaced, _goods_placed),
        folding(ev.StockReserved, _stock_reserved),
        folding(ev.ReservationCut, _reservation_cut),
        folding(ev.BinBlocked, _bin_blocked),
        folding(ev.TimePassed, _time_passed),
    )
)
