"""How its events change a state: the host: its orders, and the messages between it and the floor."""

from __future__ import annotations

from typing import Any, cast

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import OrderNo, ReceiptNo, ShipmentNo
from mindful_crate.core.floor.messages import Message, MessageState
from mindful_crate.core.floor.orders import HostOrder, Output
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve
from mindful_crate.core.work.host.events import (
    HostOrderCancelled,
    HostOrderClosed,
    HostOrderConfirmed,
    HostOrderOpened,
    HostOrderWritten,
    HostSet,
    MessageAnswered,
    MessageFailed,
    MessageHeardAgain,
    MessageRefused,
    MessageRepeated,
    MessageSent,
    NoticeTold,
    OrderConfirmed,
    OrderDropped,
    OrderTold,
    OutputClosed,
    OutputDeclared,
    ReceiptBooked,
)
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At


def _message_sent(state: State, e: MessageSent, at: At) -> None:
    message = Message(e.message, e.topic, e.subject, e.due, e.order, e.notice, seq=at.seq, sent=at.stamp.at)
    state.messages.put(e.message, message)
    _about_receipt(state, e.topic, e.subject, told=True)


def _about_receipt(state: State, topic: str, subject: str, **changes: Any) -> None:
    if topic == "book_shipment" and "refused" in changes and (left := state.departures.get(ShipmentNo(subject))):
        state.departures.put(left.shipment, evolve(left, refused=changes["refused"]))
    if topic == "book_receipt":
        receipt = state.receipts[ReceiptNo(subject)]
        state.receipts.put(receipt.number, evolve(receipt, **changes))


def _message_answered(state: State, e: MessageAnswered, at: At) -> None:
    m = state.messages[e.message]
    done = evolve(
        m, state=MessageState.ANSWERED, due=e.again, order=None, notice=None, settled=at.stamp.at, settled_in=at.seq,
        says="", turn=m.turn + 1, tries=m.tries + 1,
    )  # fmt: skip
    state.messages.put(e.message, done)


def _message_failed(state: State, e: MessageFailed, _: At) -> None:
    m = state.messages[e.message]
    now = MessageState.WAITING if e.due else MessageState.GIVEN_UP
    state.messages.put(e.message, evolve(m, state=now, due=e.due, says=e.why, turn=m.turn + 1, tries=m.tries + 1))


def _message_refused(state: State, e: MessageRefused, at: At) -> None:
    m = state.messages[e.message]
    refused = evolve(
        m, state=MessageState.REFUSED, due=None, settled=at.stamp.at, settled_in=at.seq, says=e.why, turn=m.turn + 1,
        tries=m.tries + 1,
    )  # fmt: skip
    state.messages.put(e.message, refused)
    _about_receipt(state, m.topic, m.subject, refused=e.why)


def _message_heard_again(state: State, e: MessageHeardAgain, _: At) -> None:
    m = state.messages[e.message]
    state.messages.put(e.message, evolve(m, due=None, heard_again=m.heard_again + 1, turn=m.turn + 1))


def _message_repeated(state: State, e: MessageRepeated, _: At) -> None:
    m = state.messages[e.message]
    again = evolve(m, state=MessageState.WAITING, due=e.due, tries=0, settled=None, settled_in=0)
    state.messages.put(e.message, again)
    _about_receipt(state, m.topic, m.subject, refused="")


def _host_set(state: State, e: HostSet, _: At) -> None:
    state.put_host(e.host)


def _host_order_written(state: State, e: HostOrderWritten, at: At) -> None:
    held = state.host_order(e.order.number) or HostOrder(e.order)
    since = at.stamp.at if held.editor == at.stamp.who else held.since
    state.host_orders.put(e.order.number, evolve(held, order=e.order, since=since))


def _host_order_confirmed(state: State, e: HostOrderConfirmed, _: At) -> None:
    _change_host_order(state, e.order, confirmed=True)


def _host_order_cancelled(state: State, e: HostOrderCancelled, _: At) -> None:
    _change_host_order(state, e.order, cancelled=True, editor=None, since=None)


def _host_order_opened(state: State, e: HostOrderOpened, at: At) -> None:
    _change_host_order(state, e.order, editor=e.person, since=at.stamp.at)


def _host_order_closed(state: State, e: HostOrderClosed, _: At) -> None:
    _change_host_order(state, e.order, editor=None, since=None)


def _output_declared(state: State, e: OutputDeclared, _: At) -> None:
    _change_host_order(state, e.order, output=Output.COMPLETE)


def _output_closed(state: State, e: OutputClosed, _: At) -> None:
    _change_host_order(state, e.order, output=Output.CLOSED)


def _change_host_order(state: State, number: OrderNo, **changes: Any) -> None:
    state.host_orders.put(number, evolve(cast(HostOrder, state.host_order(number)), **changes))


def _order_told(state: State, e: OrderTold, _: At) -> None:
    state.orders.put(e.order.number, e.order)


def _notice_told(state: State, e: NoticeTold, _: At) -> None:
    state.notices.put(e.notice.number, e.notice)


def _order_dropped(state: State, e: OrderDropped, at: At) -> None:
    about = state.messages.about(
        e.order
    )  # what the stand-in sent says who did it; a real host's word is the entry itself
    state.cancelled.put(e.order, about[-1].seq if about else at.seq)


def _order_confirmed(state: State, e: OrderConfirmed, at: At) -> None:
    about = state.messages.about(e.order)
    state.confirmed.put(e.order, about[0].seq if about else at.seq)


def _receipt_booked(state: State, e: ReceiptBooked, at: At) -> None:
    receipt = state.receipts[e.receipt]
    state.receipts.put(e.receipt, evolve(receipt, booked=True, booked_in=at.seq))
    for line in receipt.lines:
        state.progress.add(line.key, at.seq, booked=line.quantity)


def suppose_order(state: State, order: Order) -> None:
    """Let the floor know an order that nobody wrote: only under an open journal."""
    state.ordered.told.put(order.number, order)


def suppose_confirmed(state: State, order: OrderNo) -> None:
    """Let the floor have an order that nobody has confirmed yet: only under an open journal."""
    if not state.is_confirmed(order):
        state.confirmed.put(order, 1)


FOLDS = (
    folding(MessageSent, _message_sent),
    folding(MessageAnswered, _message_answered),
    folding(MessageFailed, _message_failed),
    folding(MessageRefused, _message_refused),
    folding(MessageHeardAgain, _message_heard_again),
    folding(MessageRepeated, _message_repeated),
    folding(HostSet, _host_set),
    folding(HostOrderWritten, _host_order_written),
    folding(HostOrderConfirmed, _host_order_confirmed),
    folding(HostOrderCancelled, _host_order_cancelled),
    folding(HostOrderOpened, _host_order_opened),
    folding(HostOrderClosed, _host_order_closed),
    folding(OutputDeclared, _output_declared),
    folding(OutputClosed, _output_closed),
    folding(OrderTold, _order_told),
    folding(OrderDropped, _order_dropped),
    folding(NoticeTold, _notice_told),
    folding(OrderConfirmed, _order_confirmed),
    folding(ReceiptBooked, _receipt_booked),
)
"""How its events change a state."""
