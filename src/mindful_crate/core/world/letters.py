"""What a message between host and floor says: its content, apart from how it is written down."""

from __future__ import annotations

from datetime import date, datetime

from mindful_crate.core.catalog.goods import Order, Status
from mindful_crate.core.catalog.ids import (
    BinCode,
    CarrierCode,
    CountNo,
    ItemCode,
    MessageNo,
    OrderNo,
    PartnerCode,
    PersonId,
    PlateKindCode,
    PlateNo,
    ReceiptNo,
    ShipmentNo,
    SiteCode,
    TruckNo,
)
from mindful_crate.core.catalog.notices import Notice
from mindful_crate.core.floor.messages import Message
from mindful_crate.core.floor.plates import PlateLine
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.topics import ABOUT_COUNTS, ABOUT_SHIPMENTS, Topic
from mindful_crate.core.record import record
from mindful_crate.core.world.events import Done, Entry, MessageSent


@record
class ReturnedNote:
    """How a line of a return is marked, and whether its credit may be made; ``held``: why a supervisor looks at it first."""

    order: OrderNo
    order_line: int
    mark: str
    status: Status
    credit: bool
    held: str = ""


@record
class ReceiptNote:
    """What arrived: on which plate, of which order lines, in base units."""

    number: ReceiptNo
    plate: PlateNo
    lines: tuple[PlateLine, ...]
    by: PersonId | None = None
    arrived: datetime | None = None
    returned: tuple[ReturnedNote, ...] = ()
    """Of what customers sent back."""


@record
class ShippedLine:
    """Goods of an order line that left, in base units: loose, or on a plate, which may stand ``on`` another."""

    order: OrderNo
    order_line: int
    item: ItemCode
    quantity: int
    lot: str = ""
    expiry: date | None = None
    serials: tuple[str, ...] = ()
    plate: PlateNo | None = None


@record
class ShippedPlate:
    """A carton or plate that left: its kind, what it weighs, in milligrams, 0 where nobody knows, and what it stood on."""

    number: PlateNo
    plate_kind: PlateKindCode
    weight_mg: int = 0
    on: PlateNo | None = None


@record
class ShipmentNote:
    """What left: line by line, with cartons and plates, by whom and when."""

    number: ShipmentNo
    partner: PartnerCode
    address: tuple[str, ...]
    carrier: CarrierCode | None
    service: str
    truck: TruckNo | None
    by: PersonId | None
    left: datetime | None
    lines: tuple[ShippedLine, ...] = ()
    plates: tuple[ShippedPlate, ...] = ()


@record
class CorrectedLine:
    """Goods of which so many were found, in base units, where the book said otherwise: ``difference`` is what the host adds, or takes away."""

    bin: BinCode
    item: ItemCode
    book: int
    counted: int
    difference: int
    lot: str = ""
    expiry: date | None = None
    status: Status = Status.AVAILABLE
    plate: PlateNo | None = None
    by: PersonId | None = None


@record
class CountNote:
    """What was taken into the books by one act: of a sheet, or set by somebody for the reason ``why``. Lines without a difference are left out."""

    number: CountNo
    why: str
    lines: tuple[CorrectedLine, ...] = ()


@record
class Letter:
    """The content of a message: an order, a notice, a receipt, a shipment, or what was counted."""

    message: MessageNo
    topic: Topic
    site: SiteCode
    sent: datetime | None
    order: Order | None = None
    receipt: ReceiptNote | None = None
    notice: Notice | None = None
    partner: PartnerCode | None = None
    """Of a notice or a receipt: who sends the goods."""
    shipment: ShipmentNote | None = None
    count: CountNote | None = None


def letter(state: State, message: Message, sent: Entry | None = None) -> Letter:
    """The content of a message. ``sent`` is the entry that sent it, needed for an order that was accepted since."""
    head = (message.number, message.topic, state.settings.site, message.sent)
    if message.from_host:
        told = _sent(message.number, sent)
        order = message.order or (told.order if told else None)
        notice = message.notice or (told.notice if told else None)
        return Letter(*head, order=order, notice=notice, partner=_sender(state, notice.order) if notice else None)
    if message.topic in ABOUT_SHIPMENTS:
        return Letter(*head, shipment=shipment_note(state, ShipmentNo(message.subject)))
    if message.topic in ABOUT_COUNTS:
        return Letter(*head, count=count_note(state, CountNo(message.subject), message.seq))
    receipt = state.receipts[ReceiptNo(message.subject)]
    plate = state.plate(receipt.plate)
    by, at = (plate.by, plate.finished_at) if plate else (None, None)
    marked = ((x.key, m) for x in receipt.lines if (m := state.returned.get(x.key)) is not None)
    back = tuple(ReturnedNote(k.order, k.line, m.name, m.status, m.credits, m.held) for k, m in dict(marked).items())
    note = ReceiptNote(receipt.number, receipt.plate, receipt.lines, by, at, back)
    return Letter(*head, receipt=note, partner=_sender(state, receipt.lines[0].order) if receipt.lines else None)


def _sender(state: State, number: OrderNo) -> PartnerCode | None:
    order = state.order(number)
    return order.partner if order else None


def _sent(number: MessageNo, sent: Entry | None) -> MessageSent | None:
    events = sent.outcome.events if sent and isinstance(sent.outcome, Done) else ()
    return next((e for e in events if isinstance(e, MessageSent) and e.message == number), None)


def shipment_note(state: State, number: ShipmentNo) -> ShipmentNote:
    """What left with a shipment; nothing, of one that was taken back since."""
    shipment, left = state.shipments[number], state.departures.get(number)
    how = shipment.leaves
    head = (number, how.partner, how.address)
    if left is None:
        return ShipmentNote(*head, how.carrier, how.service, None, None, None)
    lines = tuple(
        ShippedLine(
            p.order, p.line, p.goods.item, p.goods.quantity, p.goods.lot, p.goods.expiry, p.serials, p.plate
        )
        for p in left.parcels
    )  # fmt: skip
    plates = tuple(
        ShippedPlate(b.number, b.plate_kind, b.carton.weight_mg if b.carton else 0, b.on) for b in left.bearers
    )
    return ShipmentNote(*head, left.carrier, left.service, left.truck, left.who, left.at, lines, plates)


def count_note(state: State, number: CountNo, seq: int) -> CountNote:
    """What of a sheet was taken into the books in an entry."""
    sheet = state.counts[number]
    lines = tuple(
        CorrectedLine(x.bin, x.item, x.book, x.counted, x.difference, x.lot, x.expiry, x.status, x.plate, x.by)
        for x in sheet.lines
        if x.posted == seq and x.item is not None and x.counted is not None and x.difference and not x.shifted
    )
    return CountNote(number, sheet.why, lines)
