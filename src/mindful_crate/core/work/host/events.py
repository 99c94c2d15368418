"""What happens: the host: its orders, and the messages between it and the floor."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import MessageNo, OrderNo, PersonId, ReceiptNo
from mindful_crate.core.catalog.notices import Notice
from mindful_crate.core.floor.topics import HostStandIn, Topic
from mindful_crate.core.record import record


@record
class MessageSent:
    """A message to the host, or from it when it brings an ``order``. The stand-in sees to it at ``due``."""

    message: MessageNo
    topic: Topic
    subject: str
    due: datetime
    order: Order | None = None
    notice: Notice | None = None
    kind: Literal["message_sent"] = "message_sent"


@record
class MessageAnswered:
    """A message was accepted; ``again`` is when the stand-in delivers it once more."""

    message: MessageNo
    again: datetime | None = None
    kind: Literal["message_answered"] = "message_answered"


@record
class MessageFailed:
    """A message could not be delivered. ``due`` is the next try; None gives it up."""

    message: MessageNo
    due: datetime | None
    why: str
    kind: Literal["message_failed"] = "message_failed"


@record
class MessageRefused:
    """The host, or the floor, refused a message."""

    message: MessageNo
    why: str
    kind: Literal["message_refused"] = "message_refused"


@record
class MessageHeardAgain:
    """A message came that was in effect already; it changed nothing."""

    message: MessageNo
    kind: Literal["message_heard_again"] = "message_heard_again"


@record
class MessageRepeated:
    """Somebody sends a message again."""

    message: MessageNo
    due: datetime
    kind: Literal["message_repeated"] = "message_repeated"


@record
class HostSet:
    """The host stand-in behaves like this from now on."""

    host: HostStandIn
    kind: Literal["host_set"] = "host_set"


@record
class HostOrderWritten:
    """An order stands like this in the host."""

    order: Order
    kind: Literal["host_order_written"] = "host_order_written"


@record
class HostOrderConfirmed:
    """An order is confirmed in the host."""

    order: OrderNo
    kind: Literal["host_order_confirmed"] = "host_order_confirmed"


@record
class HostOrderCancelled:
    """An order is cancelled in the host."""

    order: OrderNo
    kind: Literal["host_order_cancelled"] = "host_order_cancelled"


@record
class HostOrderOpened:
    """Somebody has an order open for editing."""

    order: OrderNo
    person: PersonId
    kind: Literal["host_order_opened"] = "host_order_opened"


@record
class HostOrderClosed:
    """Nobody has an order open any more."""

    order: OrderNo
    kind: Literal["host_order_closed"] = "host_order_closed"


@record
class OutputDeclared:
    """The output of a production order is complete."""

    order: OrderNo
    kind: Literal["output_declared"] = "output_declared"


@record
class OutputClosed:
    """A production order is closed."""

    order: OrderNo
    why: str = ""
    kind: Literal["output_closed"] = "output_closed"


@record
class OrderTold:
    """The floor knows an order like this."""

    order: Order
    kind: Literal["order_told"] = "order_told"


@record
class NoticeTold:
    """The floor knows which plates are on their way."""

    notice: Notice
    kind: Literal["notice_told"] = "notice_told"


@record
class OrderDropped:
    """The floor knows that an order is cancelled."""

    order: OrderNo
    kind: Literal["order_dropped"] = "order_dropped"


@record
class OrderConfirmed:
    """An order reached the floor."""

    order: OrderNo
    kind: Literal["order_confirmed"] = "order_confirmed"


@record
class ReceiptBooked:
    """The host has booked a receipt."""

    receipt: ReceiptNo
    kind: Literal["receipt_booked"] = "receipt_booked"


HostEvent = (
    MessageSent
    | MessageAnswered
    | MessageFailed
    | MessageRefused
    | MessageHeardAgain
    | MessageRepeated
    | HostSet
    | HostOrderWritten
    | HostOrderConfirmed
    | HostOrderCancelled
    | HostOrderOpened
    | HostOrderClosed
    | OutputDeclared
    | OutputClosed
    | OrderTold
    | NoticeTold
    | OrderDropped
    | OrderConfirmed
    | ReceiptBooked
)
"""What may happen."""
