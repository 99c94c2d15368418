"""What the log says of its events: the host: its orders, and the messages between it and the floor."""

from __future__ import annotations

from mindful_crate.core.rulebook.words.parts import ORDERS, counted
from mindful_crate.core.work.host.acts import (
    AnnounceOrder,
    BookReceipt,
    CancelOrder,
    CloseOrder,
    CloseOutput,
    ConfirmOrder,
    DeclareOutput,
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
    NoticeTold,
    OrderConfirmed,
    OrderDropped,
    OrderTold,
    OutputClosed,
    OutputDeclared,
    ReceiptBooked,
)
from mindful_crate.core.work.rows import Row, Words, silent, telling


def _message_sent(e: MessageSent) -> str:
    way = "from the host" if e.order or e.notice else "to the host"
    return f"message `{e.message}` {way}, due {e.due:%H:%M:%S} UTC"


WORDS: tuple[Row[Words[object]], ...] = (
    telling(MessageSent, _message_sent),
    silent(MessageAnswered),
    telling(MessageFailed, lambda e: f"message `{e.message}` not delivered" + ("" if e.due else ", given up")),
    telling(MessageRefused, lambda e: f"message `{e.message}` refused: {e.why}"),
    telling(MessageHeardAgain, lambda e: f"message `{e.message}` came again, to no effect"),
    telling(MessageRepeated, lambda e: f"message `{e.message}` is sent again"),
    silent(HostSet),
    telling(HostOrderWritten, lambda e: f"`{e.order.number}` written in the host"),
    silent(HostOrderConfirmed),
    telling(HostOrderCancelled, lambda e: f"`{e.order}` cancelled in the host"),
    telling(HostOrderOpened, lambda e: f"@{e.person} has `{e.order}` open"),
    telling(HostOrderClosed, lambda e: f"nobody has `{e.order}` open any more"),
    telling(OutputDeclared, lambda e: f"the output of `{e.order}` is complete"),
    telling(OutputClosed, lambda e: f"`{e.order}` is closed" + (f": {e.why}" if e.why else "")),
    telling(OrderTold, lambda e: f"`{e.order.number}` has {len(e.order.lines)} lines on the floor"),
    telling(OrderDropped, lambda e: f"`{e.order}` is cancelled on the floor"),
    telling(
        NoticeTold,
        lambda e: f"`{e.notice.number}` announces {len(e.notice.plates)} plates of `{e.notice.order}`",
    ),
    telling(OrderConfirmed, lambda e: f"`{e.order}` reached the floor"),
    telling(ReceiptBooked, lambda e: f"receipt `{e.receipt}` booked"),
)
"""What the log says of its events."""


def _set_host(act: SetHost) -> str:
    host = act.host
    ways = ["is down"] * host.down + ["answers twice"] * host.twice + ["refuses"] * bool(host.refuses)
    return f"The host {' and '.join(ways) or 'is well'}, {host.book_seconds} s to answer"


ASKED: tuple[Row[Words[object]], ...] = (
    telling(ConfirmOrder, lambda a: f"The buyer confirms `{a.order}` in the host"),
    telling(WriteOrder, lambda a: f"`{a.order.number}` is written in the host, {counted(len(a.order.lines), 'line')}"),
    telling(TryOrder, lambda a: f"The host makes a test order: {ORDERS[a.order_kind].lower()}"),
    telling(CancelOrder, lambda a: f"`{a.order}` is cancelled in the host"),
    telling(ShipTransfer, lambda a: f"The other site ships `{a.order}`"),
    telling(
        PassOn,
        lambda a: (
            f"Shipment `{a.shipment}` of the other site is passed on for `{a.order}`, {counted(len(a.plates), 'plate')}"
        ),
    ),
    telling(AnnounceOrder, lambda a: f"The vendor announces what comes of `{a.order}`"),
    telling(DeclareOutput, lambda a: f"The output of `{a.order}` is declared complete in the host"),
    telling(
        CloseOutput, lambda a: f"`{a.order}` is closed in the host" + (f": {a.why.strip()}" if a.why.strip() else "")
    ),
    telling(OpenOrder, lambda a: f"The office {'takes over' if a.take_over else 'opens'} `{a.order}` for editing"),
    telling(CloseOrder, lambda a: f"The office closes `{a.order}`"),
    telling(SetHost, _set_host),
    telling(RepeatMessage, lambda a: f"Message `{a.message}` is sent again"),
    telling(BookReceipt, lambda a: f"The office books receipt `{a.receipt}`"),
)
"""What the office asks, in words."""
