"""What a message between host and floor says: its content, apart from how it is written down."""

from __future__ import annotations

from datetime import datetime

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import MessageNo, OrderNo, PartnerCode, PersonId, PlateNo, ReceiptNo, SiteCode
from mindful_crate.core.catalog.notices import Notice
from mindful_crate.core.floor.messages import Message
from mindful_crate.core.floor.plates import PlateLine
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.topics import Topic
from mindful_crate.core.record import record
from mindful_crate.core.world.events import Done, Entry, MessageSent


@record
class ReceiptNote:
    """What arrived: on which plate, of which order lines, in base units."""

    number: ReceiptNo
    plate: PlateNo
    lines: tuple[PlateLine, ...]
    by: PersonId | None = None
    arrived: datetime | None = None


@record
class Letter:
    """The content of a message: an order, a notice, or a receipt."""

    message: MessageNo
    topic: Topic
    site: SiteCode
    sent: datetime | None
    order: Order | None = None
    receipt: ReceiptNote | None = None
    notice: Notice | None = None
    partner: PartnerCode | None = None
    """Of a notice or a receipt: who sends the goods."""


def letter(state: State, message: Message, sent: Entry | None = None) -> Letter:
    """The content of a message. ``sent`` is the entry that sent it, needed for an order that was accepted since."""
    head = (message.number, message.topic, state.settings.site, message.sent)
    if message.from_host:
        told = _sent(message.number, sent)
        order = message.order or (told.order if told else None)
        notice = message.notice or (told.notice if told else None)
        return Letter(*head, order=order, notice=notice, partner=_sender(state, notice.order) if notice else None)
    receipt = state.receipts[ReceiptNo(message.subject)]
    plate = state.plate(receipt.plate)
    by, at = (plate.by, plate.finished_at) if plate else (None, None)
    note = ReceiptNote(receipt.number, receipt.plate, receipt.lines, by, at)
    return Letter(*head, receipt=note, partner=_sender(state, receipt.lines[0].order) if receipt.lines else None)


def _sender(state: State, number: OrderNo) -> PartnerCode | None:
    order = state.order(number)
    return order.partner if order else None


def _sent(number: MessageNo, sent: Entry | None) -> MessageSent | None:
    events = sent.outcome.events if sent and isinstance(sent.outcome, Done) else ()
    return next((e for e in events if isinstance(e, MessageSent) and e.message == number), None)
