"""What may be asked: the host: its orders, and the messages between it and the floor."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.goods import Order, OrderKind
from mindful_crate.core.catalog.ids import MessageNo, OrderNo, ReceiptNo, ShipmentNo
from mindful_crate.core.catalog.notices import Notice, NoticePlate
from mindful_crate.core.floor.topics import HostStandIn, OrderTopic
from mindful_crate.core.record import record


@record
class ConfirmOrder:
    """The host's user confirms an order, which passes it to the floor."""

    order: OrderNo
    kind: Literal["confirm_order"] = "confirm_order"


@record
class WriteOrder:
    """The host's user makes an order, or changes the one of that number."""

    order: Order
    kind: Literal["write_order"] = "write_order"


@record
class TryOrder:
    """The host's user makes an order to try a flow with, and confirms it."""

    order_kind: OrderKind
    kind: Literal["try_order"] = "try_order"


@record
class CancelOrder:
    """The host's user cancels an order."""

    order: OrderNo
    kind: Literal["cancel_order"] = "cancel_order"


@record
class ShipTransfer:
    """The sending site has shipped a transfer order."""

    order: OrderNo
    kind: Literal["ship_transfer"] = "ship_transfer"


@record
class PassOn:
    """The host passes on that the other site has sent something of a transfer: ``shipment`` is its number there, ``plates`` are what the goods stand
    on. What stands on none is told by the order alone."""

    order: OrderNo
    shipment: ShipmentNo
    plates: tuple[NoticePlate, ...] = ()
    kind: Literal["pass_on"] = "pass_on"


@record
class DeclareOutput:
    """The host's user declares that the output of a production order is complete: what has arrived is booked."""

    order: OrderNo
    kind: Literal["declare_output"] = "declare_output"


@record
class CloseOutput:
    """The host's user closes a production order; ``why`` the rest is given up, when less came than was ordered."""

    order: OrderNo
    why: str = ""
    kind: Literal["close_output"] = "close_output"


@record
class AnnounceOrder:
    """The vendor announces the plates on which all that is open of an order will come."""

    order: OrderNo
    kind: Literal["announce_order"] = "announce_order"


@record
class OpenOrder:
    """Somebody in the office opens an order for editing; ``take_over``: from whoever has it open."""

    order: OrderNo
    take_over: bool = False
    kind: Literal["open_order"] = "open_order"


@record
class CloseOrder:
    """An order is no longer open for editing."""

    order: OrderNo
    kind: Literal["close_order"] = "close_order"


@record
class SetHost:
    """How the host stand-in behaves from now on."""

    host: HostStandIn
    kind: Literal["set_host"] = "set_host"


@record
class RepeatMessage:
    """Sends a message again that came back or was given up."""

    message: MessageNo
    kind: Literal["repeat_message"] = "repeat_message"


@record
class HostAnswers:
    """The host takes a message that is due, or refuses it for a reason; or the floor takes one of the host's."""

    message: MessageNo
    refused: str = ""
    kind: Literal["host_answers"] = "host_answers"


@record
class HostTells:
    """A real host tells the floor about an order."""

    topic: OrderTopic
    order: Order
    kind: Literal["host_tells"] = "host_tells"


@record
class HostAnnounces:
    """A real host passes an advance notice on."""

    notice: Notice
    kind: Literal["host_announces"] = "host_announces"


@record
class BookReceipt:
    """Tells the host about a receipt, where the step plan leaves that to the office."""

    receipt: ReceiptNo
    kind: Literal["book_receipt"] = "book_receipt"


HostAct = (
    WriteOrder
    | TryOrder
    | CancelOrder
    | ShipTransfer
    | PassOn
    | DeclareOutput
    | CloseOutput
    | AnnounceOrder
    | OpenOrder
    | CloseOrder
    | SetHost
    | RepeatMessage
)
"""What somebody does in the host, besides confirming an order."""


HostSideAct = ConfirmOrder | HostAct | HostAnswers | HostTells | HostAnnounces | BookReceipt
"""Whatever is asked about the host."""
