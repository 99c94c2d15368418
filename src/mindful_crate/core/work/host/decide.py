"""The host's part of a world: its orders, and the messages between it and the floor.

A message has a number and is in effect once, however often it is delivered. Messages about one document are delivered
in the order they were sent: one that cannot be delivered holds back the later ones about its document, no others.
What the host stand-in does (how long it takes, whether it is down, answers twice or refuses) is state of the world;
a real host answers through the same acts.
"""

from __future__ import annotations

from datetime import timedelta
from typing import cast

from mindful_crate.core.catalog.beginnings import order_to_try, partner_to_try
from mindful_crate.core.catalog.checking import check_order
from mindful_crate.core.catalog.goods import INBOUND, Order, OrderKind, OrderLine, Tracking
from mindful_crate.core.catalog.ids import MessageNo, NoticeNo, OrderNo, PlateNo, ReceiptNo, ShipmentNo
from mindful_crate.core.catalog.notices import Notice, NoticeLine, NoticePlate
from mindful_crate.core.floor.messages import Message, MessageState
from mindful_crate.core.floor.orders import HostOrder, Output
from mindful_crate.core.floor.shipments import Departure
from mindful_crate.core.floor.state import State, WorldKind
from mindful_crate.core.floor.topics import ABOUT_COUNTS, ABOUT_SHIPMENTS, OrderTopic, Topic
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve, record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.scanning.reading import gs1_check_digit
from mindful_crate.core.work.host.acts import (
    AnnounceOrder,
    BookReceipt,
    CancelOrder,
    CloseOrder,
    ConfirmOrder,
    HostAnnounces,
    HostAnswers,
    HostTells,
    OpenOrder,
    PassOn,
    RepeatMessage,
    SetHost,
    ShipTransfer,
    TryOrder,
    WriteOrder,
)
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
    ReceiptBooked,
)
from mindful_crate.core.work.host.taking import take_notice, take_order
from mindful_crate.core.work.leaving.acts import ReversalAgreed
from mindful_crate.core.work.leaving.events import ShipmentBooked
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.receiving.checks import order_hold
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.undoing.acts import UndoAgreed

FIRST_RETRY = 10
"""Seconds until a message that could not be delivered is tried again; doubled each time."""
LONGEST_RETRY = 600
MOST_TRIES = 8
"""After so many tries a message is given up, until somebody repeats it."""
MAX_ORDER_LINES = 2_000


# What the host's user does


def write_order(state: State, making: Making, _: Rulebook, stamp: Stamp, act: WriteOrder) -> str:
    """Makes an order in the host, or changes one; a confirmed one is told to the floor."""
    check_stand_in(state)
    order = evolve(act.order, confirmed=False)
    check_written(state, order)
    held = state.host_order(order.number)
    if held is None:
        making.event(HostOrderWritten(order))
        return f"`{order.number}` is in the host, not confirmed yet."
    if held.cancelled:
        raise Refusal("order_cancelled", f"`{order.number}` was cancelled. Make another order.")
    _check_editor(held, stamp)
    if held.order == order:
        raise Refusal("nothing_changed", f"`{order.number}` is like that already.")
    same = ("kind", "site", "partner")
    differs = [word for word in same if getattr(held.order, word) != getattr(order, word)]
    if differs and held.confirmed:
        raise Refusal("order_fixed", f"`{order.number}` is confirmed, so its {differs[0]} stays. Cancel it instead.")
    making.event(HostOrderWritten(order))
    says = f"`{order.number}` changed in the host."
    if not held.confirmed:
        return says
    tell_host(state, making, stamp, "change_order", order.number, order)
    return said(says, "The floor will hear of it.")


def check_written(state: State, order: Order) -> None:
    """Refuse an order that no host would keep, or that this floor could not work with."""
    if not order.number or len(order.number) > 40 or not order.number.isprintable() or " " in order.number:
        raise Refusal("bad_number", "An order number has 1 to 40 characters, no spaces among them.", "number")
    if order.number != order.number.upper():
        raise Refusal("bad_number", f"Order numbers are in capitals: `{order.number.upper()}`.", "number")
    if not order.lines:
        raise Refusal("no_lines", f"`{order.number}` has no lines.", "lines")
    if len(order.lines) > MAX_ORDER_LINES:
        raise Refusal("too_many_lines", f"An order has at most {MAX_ORDER_LINES:,} lines.", "lines")
    ground = state.ground
    for problem in check_order(order, ground.sites, ground.partners, ground.items, ground.services):
        raise Refusal("bad_order", f"`{problem.place.removeprefix('orders/')}`: {problem.says}.", problem.place)
    if order.site != state.settings.site:
        raise Refusal("other_site", f"`{order.number}` is for site `{order.site}`; this floor is another one.", "site")


def confirm_order(state: State, making: Making, _: Rulebook, stamp: Stamp, act: ConfirmOrder) -> str:
    """The host's user confirms an order, which is told to the floor."""
    check_stand_in(state)
    held = held_order(state, act.order)
    if state.is_confirmed(act.order):
        raise Refusal("already_confirmed", f"`{act.order}` is confirmed already.")
    if held.confirmed:
        raise Refusal("already_sent", f"`{act.order}` is confirmed in the host; the floor has not heard of it yet.")
    if held.cancelled:
        raise Refusal("order_cancelled", f"`{act.order}` was cancelled.")
    _check_editor(held, stamp)
    making.event(HostOrderConfirmed(act.order))
    tell_host(state, making, stamp, "confirm_order", act.order, held.order)
    return f"The host confirms `{act.order}` and tells the floor."


def try_order(state: State, making: Making, _: Rulebook, stamp: Stamp, act: TryOrder) -> str:
    """An order to try a flow with, made and confirmed in one act: of what is in stock when its goods go out."""
    check_stand_in(state)
    ground, outbound = state.ground, act.order_kind not in INBOUND
    site = state.settings.site
    items = [
        i
        for i in ground.items.values()
        if not outbound or any(ground.site_of(x.bin) == site for x in state.lines(i.code))
    ]
    if not items:
        raise Refusal("no_items", "There is nothing in stock to send." if outbound else "There is no item yet.")
    partner = partner_to_try(ground.partners.values(), ground.orders.values(), act.order_kind)
    if partner is None:
        raise Refusal("no_partner", "There is no partner for such an order. Make one in the catalogue.")
    coded = {(b.item, b.unit) for b in ground.barcodes.values()}
    taken = {o.number for o in state.all_orders()}
    order = order_to_try(act.order_kind, state.settings.site, partner.code, stamp.today, items, coded, taken)
    making.event(HostOrderWritten(order))
    making.event(HostOrderConfirmed(order.number))
    tell_host(state, making, stamp, "confirm_order", order.number, order)
    lines = "1 line" if len(order.lines) == 1 else f"{len(order.lines)} lines"
    return f"The host made and confirmed `{order.number}`, {lines}, and tells the floor."


def cancel_order(state: State, making: Making, _: Rulebook, stamp: Stamp, act: CancelOrder) -> str:
    """The host's user cancels an order."""
    check_stand_in(state)
    held = held_order(state, act.order)
    if held.cancelled:
        raise Refusal("order_cancelled", f"`{act.order}` was cancelled already.")
    _check_editor(held, stamp)
    making.event(HostOrderCancelled(act.order))
    says = f"`{act.order}` is cancelled in the host."
    if not held.confirmed:
        return says
    tell_host(state, making, stamp, "cancel_order", act.order, held.order)
    return said(says, "The floor will hear of it.")


def ship_transfer(state: State, making: Making, _: Rulebook, stamp: Stamp, act: ShipTransfer) -> str:
    """The sending site has shipped a transfer order."""
    check_stand_in(state)
    held = held_order(state, act.order)
    if held.order.kind is not OrderKind.TRANSFER:
        raise Refusal("no_transfer", f"`{act.order}` is no transfer order: nobody ships it from another site.")
    if held.order.shipped:
        raise Refusal("already_shipped", f"`{act.order}` was shipped already.")
    if not held.confirmed:
        raise Refusal("not_confirmed", f"`{act.order}` is not confirmed, so the other site has not heard of it.")
    shipped = evolve(held.order, shipped=True)
    making.event(HostOrderWritten(shipped))
    tell_host(state, making, stamp, "change_order", act.order, shipped)
    return f"`{act.order}` was shipped by the other site."


def pass_on(state: State, making: Making, _: Rulebook, stamp: Stamp, act: PassOn) -> str:
    """What the other site has sent is told to this one: the order as shipped, confirmed if it was not, and the plates by an advance notice."""
    check_stand_in(state)
    held = held_order(state, act.order)
    if held.order.kind is not OrderKind.TRANSFER:
        raise Refusal("no_transfer", f"`{act.order}` is no transfer that comes here.")
    if held.cancelled:
        raise Refusal("order_cancelled", f"`{act.order}` was cancelled.")
    told = [f"`{act.shipment}` of the other site is on its way for `{act.order}`"]
    if not held.order.shipped or not held.confirmed:
        shipped = evolve(held.order, shipped=True)
        if not held.order.shipped:
            making.event(HostOrderWritten(shipped))
        if not held.confirmed:
            making.event(HostOrderConfirmed(act.order))
        tell_host(state, making, stamp, "change_order" if held.confirmed else "confirm_order", act.order, shipped)
    if act.plates:
        notice = Notice(NoticeNo(f"AN-{act.shipment}"), act.order, act.plates)
        tell_host(state, making, stamp, "announce", act.order, notice=notice)
        told.append(f"{counted(len(act.plates), 'plate')} announced as `{notice.number}`")
    return f"{', '.join(told)}."


def announce_order(state: State, making: Making, _: Rulebook, stamp: Stamp, act: AnnounceOrder) -> str:
    """The vendor announces a plate for each line that is open and was not announced yet, under SSCCs of its own."""
    check_stand_in(state)
    held = held_order(state, act.order)
    if not held.order.inbound:
        raise Refusal("other_kind", f"The goods of `{act.order}` go out; nobody announces them.")
    if not held.confirmed or held.cancelled:
        raise Refusal(
            "not_confirmed",
            f"`{act.order}` is {'cancelled' if held.cancelled else 'not confirmed'}: nothing comes of it.",
        )
    coming = {x.order_line for p in state.announced_of(act.order) for x in p.lines}
    open_lines = [x for x in held.order.lines if state.open_quantity(held.order, x) > 0 and x.no not in coming]
    if not open_lines:
        raise Refusal("nothing_open", f"Nothing of `{act.order}` is open that was not announced already.")
    kinds = state.ground.opening.plate_kinds
    kind = next((k for k in kinds if k.length_mm >= 1_000), None) or next(iter(kinds), None)
    if kind is None:
        raise Refusal("no_plate_kind", "There is no kind of plate yet: make one, say a pallet, in the catalogue.")
    numbers = making.draw_some("sscc", len(open_lines) + 1)
    plates = tuple(
        NoticePlate(sscc(n), kind.code, (_announced_line(state, held.order, x, stamp),))
        for n, x in zip(numbers[1:], open_lines, strict=True)
    )
    notice = Notice(NoticeNo(f"AN-{numbers[0]}"), act.order, plates)
    count = "1 plate" if len(plates) == 1 else f"{len(plates)} plates"
    tell_host(state, making, stamp, "announce", act.order, notice=notice)
    return f"{count} of `{act.order}` are announced as `{notice.number}`."


def _announced_line(state: State, order: Order, line: OrderLine, stamp: Stamp) -> NoticeLine:
    item = state.ground.items[line.item]
    lot = f"L{stamp.today:%y%m%d}-{line.no}" if item.lots else ""
    expiry = stamp.today + timedelta(days=400) if item.tracking is Tracking.LOT_EXPIRY else None
    quantity = state.open_quantity(order, line)
    serials = tuple(line.serials or _numbers(state, order, line, quantity)) if item.numbered else ()
    return NoticeLine(line.no, line.item, line.unit, quantity, lot, expiry, serials if len(serials) == quantity else ())


def _numbers(state: State, order: Order, line: OrderLine, quantity: int) -> list[str]:
    """Numbers for pieces that the stand-in sends: by order and line, those that nobody knows."""
    begin = f"{order.number[-6:]}-{line.no}-"
    made: list[str] = []
    for n in range(1, 10 * quantity + 1):
        if state.serials.where(line.item, f"{begin}{n:03}") is None and len(made) < quantity:
            made.append(f"{begin}{n:03}")
    return made


def sscc(digits: str) -> PlateNo:
    """A serial shipping container code: 17 digits and their check digit (GS1 General Specifications, 7.9)."""
    if len(digits) != 17 or not digits.isdigit():
        raise Refusal(
            "bad_sscc", f"An SSCC has 17 digits before its check digit, and `{digits}` has not: mend the series `sscc`."
        )
    return PlateNo(f"{digits}{gs1_check_digit(digits)}")


def open_order(state: State, making: Making, _: Rulebook, stamp: Stamp, act: OpenOrder) -> str:
    """Somebody in the office opens an order for editing: the floor may not work on it meanwhile."""
    held = held_order(state, act.order)
    if held.cancelled:
        raise Refusal("order_cancelled", f"`{act.order}` was cancelled.")
    holder = held.held_by(stamp.at)
    if not act.take_over:
        _check_editor(held, stamp)
    if holder == stamp.who:
        raise Refusal("already_open", f"You have `{act.order}` open since {held.since:%H:%M} UTC.")
    making.event(HostOrderOpened(act.order, stamp.who))
    if holder:
        return f"`{act.order}` was open with @{holder} since {held.since:%H:%M} UTC, and is open with you now. What was not saved there is refused."
    return f"`{act.order}` is open for editing. Nobody receives it until it is closed."


def close_order(state: State, making: Making, _: Rulebook, stamp: Stamp, act: CloseOrder) -> str:
    """An order is closed again by whoever has it open; of somebody who went home it is taken over first."""
    held = held_order(state, act.order)
    if held.editor is None:
        raise Refusal("not_open", f"Nobody has `{act.order}` open.")
    _check_editor(held, stamp)
    making.event(HostOrderClosed(act.order))
    return f"`{act.order}` is closed again."


def check_stand_in(state: State) -> None:
    """Refuse what a real host's user does there."""
    if state.host.outside:
        raise Refusal("outside_host", "A real host owns the orders of this floor. Make it there.")


def held_order(state: State, number: OrderNo) -> HostOrder:
    """An order as the host has it; refused when there is none."""
    held = state.host_order(number)
    if held is None:
        raise Refusal("unknown_order", f"There is no order `{number}`.")
    return held


def _check_editor(held: HostOrder, stamp: Stamp) -> None:
    if held.held_by(stamp.at) not in (None, stamp.who):
        raise Refusal(
            "opened_for_editing",
            f"@{held.editor} has `{held.order.number}` open since {held.since:%H:%M} UTC. Take it over, or wait: ten minutes idle closes it.",
        )


def set_host(state: State, making: Making, _: Rulebook, __: Stamp, act: SetHost) -> str:
    """How the host stand-in behaves from now on."""
    host = act.host
    if host.outside and state.settings.kind is not WorldKind.LIVE:
        raise Refusal("outside_host", "Only a live world talks to a real host; here the stand-in answers.")
    if not 0 <= min(host.confirm_seconds, host.book_seconds) <= max(host.confirm_seconds, host.book_seconds) <= 86_400:
        raise Refusal("bad_seconds", "The host takes 0 seconds to a day for an answer.")
    if len(host.refuses) > 200:
        raise Refusal("too_long", "The reason has at most 200 characters.")
    if host.outside:
        left = [m for m in state.messages.values() if m.from_host and m.open]
        if left and not state.host.outside:
            says = f"Message `{left[0].number}` of the stand-in has not reached the floor. Let it arrive first: repeat it, or wait."
            raise Refusal("stand_in_waits", says)
        making.event(HostSet(host))
        return "A real host tells orders and answers messages from now on."
    does = [f"takes {host.book_seconds} s to answer and {host.confirm_seconds} s to tell"]
    does += ["is down"] * host.down + ["answers twice"] * host.twice
    does += [f"refuses what it is told: {host.refuses}"] * bool(host.refuses)
    making.event(HostSet(host))
    return f"The host {', '.join(does)}."


# Messages


def tell_host(
    state: State,
    making: Making,
    stamp: Stamp,
    topic: Topic,
    subject: str,
    order: Order | None = None,
    notice: Notice | None = None,
) -> None:
    """A message on its way, to the host or from it; with the ``order`` or ``notice`` it tells when it comes from there."""
    number = MessageNo(making.draw("message"))
    seconds = state.host.confirm_seconds if order or notice else state.host.book_seconds
    making.event(MessageSent(number, topic, subject, stamp.at + timedelta(seconds=seconds), order, notice))


def host_answers(state: State, making: Making, _: Rulebook, stamp: Stamp, act: HostAnswers) -> str:
    """A message that is due is delivered, tried in vain, refused, or delivered once more to no effect."""
    message = state.messages.get(act.message)
    if message is None:
        raise Refusal("unknown_message", f"There is no message `{act.message}`.")
    if state.host.outside:
        _check_outside(state, message, act)
    elif message.due is None:
        raise Refusal("answered", f"Message `{act.message}` is {message.state.value.replace('_', ' ')} already.")
    elif message.due > stamp.at:
        raise Refusal("not_due", f"Message `{act.message}` is due at {message.due:%H:%M:%S} UTC.")
    if message.state is not MessageState.WAITING:
        making.event(MessageHeardAgain(message.number))
        return f"Message `{message.number}` came a second time; it changed nothing."
    host = state.host
    if host.down and not state.host.outside:
        return _in_vain(making, message, stamp)
    refused = act.refused or ("" if message.from_host else host.refuses)
    if not refused:
        again = stamp.at + timedelta(seconds=max(1, host.book_seconds)) if host.twice else None
        try:
            with making.unless_refused():
                making.event(MessageAnswered(message.number, again))
                return _taken_in(state, making, message)
        except Refusal as refusal:
            refused = refusal.problem.says
    who = "The floor" if message.from_host else "The host"
    making.event(MessageRefused(message.number, refused))
    if message.topic == "undo_receipt" and state.receipts[ReceiptNo(message.subject)].undoing:
        return making.act(UndoAgreed(ReceiptNo(message.subject), refused))
    if message.topic == "undo_shipment" and _departure(state, message).undoing:
        return making.act(ReversalAgreed(ShipmentNo(message.subject), refused))
    return f"{who} refused `{message.number}`: {refused}"


def _departure(state: State, message: Message) -> Departure:
    """What left, of a message about a shipment: such messages are sent of what has left alone."""
    return state.departures[ShipmentNo(message.subject)]


def _check_outside(state: State, message: Message, act: HostAnswers) -> None:
    if message.state is MessageState.REFUSED:
        raise Refusal("answered", f"Message `{message.number}` was refused already: {message.says}")
    first = state.first_open(message.subject)
    if first and first != message.number and message.state is MessageState.WAITING:
        raise Refusal("out_of_order", f"Message `{first}` about `{message.subject}` comes first; answer that one.")
    if len(act.refused) > 400:
        raise Refusal("too_long", "The reason has at most 400 characters.")


def _in_vain(making: Making, message: Message, stamp: Stamp) -> str:
    tries = message.tries + 1
    if tries >= MOST_TRIES:
        why = f"The host was down {tries} times. Repeat it when the host is up."
        making.event(MessageFailed(message.number, None, why))
        return f"`{message.number}` is given up. {why}"
    wait = min(LONGEST_RETRY, FIRST_RETRY * 2 ** (tries - 1))
    due = (message.due or stamp.at) + timedelta(seconds=wait)
    making.event(MessageFailed(message.number, due, "The host is down."))
    return f"`{message.number}` was not delivered: the host is down. Again at {due:%H:%M:%S} UTC."


def repeat_message(state: State, making: Making, _: Rulebook, stamp: Stamp, act: RepeatMessage) -> str:
    """Sends a message again that was given up or refused, or at once one that waits for its next try."""
    message = state.messages.get(act.message)
    if message is None:
        raise Refusal("unknown_message", f"There is no message `{act.message}`.")
    if message.state is MessageState.ANSWERED:
        raise Refusal("answered", f"Message `{act.message}` was accepted; sending it again would change nothing.")
    about_receipt = not message.from_host and message.topic not in (*ABOUT_SHIPMENTS, *ABOUT_COUNTS)
    receipt = state.receipts[ReceiptNo(message.subject)] if about_receipt else None
    if message.topic in ABOUT_SHIPMENTS:
        left = state.departures.get(ShipmentNo(message.subject))
        if left is None or left.seq > message.seq:
            says = f"Shipment `{message.subject}` was taken back since, so `{act.message}` no longer holds."
            raise Refusal("overtaken", says)
        if message.topic == "undo_shipment" and not left.undoing:
            raise Refusal("overtaken", f"Ask again to take `{message.subject}` back: that is another message.")
    if receipt and message.topic == "book_receipt" and (receipt.undone or receipt.seq > message.seq):
        raise Refusal("overtaken", f"Receipt `{receipt.number}` was undone since, so `{act.message}` no longer holds.")
    later = [m for m in state.messages_about(message.subject) if m.seq > message.seq]
    if message.state is MessageState.REFUSED and any(m.state is MessageState.ANSWERED for m in later):
        raise Refusal(
            "overtaken", f"A later message about `{message.subject}` was accepted, so `{act.message}` no longer holds."
        )
    making.event(MessageRepeated(act.message, stamp.at))
    return f"Message `{act.message}` is sent again."


def host_tells(state: State, making: Making, _: Rulebook, __: Stamp, act: HostTells) -> str:
    """A real host tells the floor about an order. The command's id is the message's, so it is in effect once."""
    if not state.host.outside:
        raise Refusal("stand_in", "The host stand-in owns the orders of this world; a real host cannot tell it any.")
    if act.topic != "cancel_order" or act.order.lines:  # a cancellation may say no more than which order
        check_written(state, act.order)
    held = state.host_orders.get(act.order.number)
    if held is not None:  # the stand-in had it: what it says of the order from now on is what the real host says
        if act.topic == "cancel_order":
            making.event(HostOrderCancelled(act.order.number))
        else:
            making.event(HostOrderWritten(act.order))
        if act.topic != "cancel_order" and not held.confirmed:
            making.event(HostOrderConfirmed(act.order.number))
    return take_order(state, making, act.topic, act.order)


def host_announces(state: State, making: Making, _: Rulebook, __: Stamp, act: HostAnnounces) -> str:
    """A real host passes an advance notice on."""
    if not state.host.outside:
        raise Refusal("stand_in", "The host stand-in owns the orders of this world; a real host cannot announce here.")
    return take_notice(state, making, act.notice)


def _taken_in(state: State, making: Making, message: Message) -> str:
    if message.notice is not None:
        return take_notice(state, making, message.notice)
    if message.order is not None:
        return take_order(state, making, cast(OrderTopic, message.topic), message.order)
    if message.topic == "book_shipment":
        making.event(ShipmentBooked(ShipmentNo(message.subject)))
        return f"The host booked shipment `{message.subject}`."
    if message.topic == "undo_shipment":
        return making.act(ReversalAgreed(ShipmentNo(message.subject)))
    if message.topic in ABOUT_COUNTS:
        return f"The host took `{message.subject}` into its books."
    receipt = ReceiptNo(message.subject)
    if message.topic == "note_arrival":
        return f"The host noted the arrival of receipt `{receipt}`."
    if message.topic == "undo_receipt":
        asked = state.receipts[receipt].undoing
        return making.act(UndoAgreed(receipt)) if asked else f"The host noted that receipt `{receipt}` was undone."
    making.event(ReceiptBooked(receipt))
    return f"The host booked receipt `{receipt}`."


@record
class InHost:
    """An order in the host beside what the floor knows of it. ``agrees`` is false while the floor knows less; ``hold``
    says what keeps the floor from working on it, should it not just be unknown or done with."""

    held: HostOrder
    state: str
    floor: str
    agrees: bool
    arrived: int
    ordered: int
    hold: str = ""


OUTPUT = {Output.RUNNING: "running", Output.COMPLETE: "output complete", Output.CLOSED: "closed"}
"""How far a production order is, in words."""


def in_host(state: State, number: OrderNo) -> InHost:
    """How an order stands in the host and on the floor, in words; ``arrived`` and ``ordered`` count base units."""
    held = held_order(state, number)
    order = held.order
    word = "cancelled" if held.cancelled else "confirmed" if held.confirmed else "not confirmed"
    if held.confirmed and not held.cancelled and order.kind is OrderKind.PRODUCTION:
        word = OUTPUT[held.output]
    arrived = sum(state.line_progress(number, x.no).arrived for x in order.lines)
    if not order.inbound:
        arrived = _invoiced(state, number)
        if arrived:
            whole = state.ordered.is_shipped(order) and arrived == _gone(state, order)
            word = "ready to invoice" if whole else "partly ready to invoice"
    ordered = sum(x.quantity for x in order.lines)
    first = state.first_open(number)
    last = state.messages_left(number)[-1:]  # one that was refused stays until a later one was accepted
    if first:
        message = state.messages[first]
        told = f"message `{first}` is " + ("given up" if message.due is None else f"due at {message.due:%H:%M:%S} UTC")
        return InHost(held, word, told, False, arrived, ordered, told)
    if last and last[0].state is MessageState.REFUSED:
        refused = f"refused `{last[0].number}`: {last[0].says}"
        return InHost(held, word, refused, False, arrived, ordered, refused)
    if not state.is_confirmed(number):
        return InHost(held, word, "does not know it", True, arrived, ordered)
    gone = not order.inbound and state.ordered.is_shipped(order)
    if state.is_cancelled(number) or arrived >= ordered or gone:
        floor = "cancelled" if state.is_cancelled(number) else "all here" if order.inbound else "all has left"
        return InHost(held, word, floor, True, arrived, ordered)
    hold = order_hold(state, number) or ""
    return InHost(held, word, hold or "knows it", True, arrived, ordered, hold)


def _invoiced(state: State, number: OrderNo) -> int:
    """How much of an order the host has booked as shipped, in base units: that it may invoice."""
    booked = (d for d in state.departures.values() if d.booked)
    return sum(p.goods.quantity for d in booked for p in d.parcels if p.order == number)


def _gone(state: State, order: Order) -> int:
    return sum(state.line_progress(order.number, x.no).shipped for x in order.lines)


def book_receipt(state: State, making: Making, _: Rulebook, stamp: Stamp, act: BookReceipt) -> str:
    """The office tells the host about a receipt."""
    receipt = state.receipts.get(act.receipt)
    if receipt is None:
        raise Refusal("unknown_receipt", f"There is no receipt `{act.receipt}`.")
    if receipt.booked:
        raise Refusal("already_booked", f"The host has booked `{act.receipt}` already.")
    if receipt.undone:
        raise Refusal("receipt_undone", f"Receipt `{act.receipt}` was undone: its goods are no stock.")
    if receipt.held:
        says = f"What `{act.receipt}` holds is more than was ordered: take it first, or send it back."
        raise Refusal("held", says)
    if receipt.told:
        sent = next((m for m in state.messages_left(act.receipt) if m.topic == "book_receipt"), None)
        if sent and sent.state in (MessageState.REFUSED, MessageState.GIVEN_UP):
            raise Refusal("not_taken_in", f"Message `{sent.number}` about it came back: {sent.says} Repeat that one.")
        raise Refusal("already_sent", f"`{act.receipt}` was sent to the host already; it has not answered yet.")
    tell_host(state, making, stamp, "book_receipt", act.receipt)
    return f"The host was told about receipt `{act.receipt}`."


DECIDES = (
    deciding(ConfirmOrder, confirm_order),
    deciding(WriteOrder, write_order),
    deciding(TryOrder, try_order),
    deciding(CancelOrder, cancel_order),
    deciding(ShipTransfer, ship_transfer),
    deciding(PassOn, pass_on),
    deciding(OpenOrder, open_order),
    deciding(CloseOrder, close_order),
    deciding(SetHost, set_host),
    deciding(RepeatMessage, repeat_message),
    deciding(HostAnswers, host_answers),
    deciding(HostTells, host_tells),
    deciding(HostAnnounces, host_announces),
    deciding(AnnounceOrder, announce_order),
    deciding(BookReceipt, book_receipt),
)
"""How its acts are decided."""
