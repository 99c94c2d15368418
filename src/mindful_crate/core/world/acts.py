"""Commands: what somebody asks of a world. An act says what; its stamp says who, where and when."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from mindful_crate.core.catalog.goods import Order, OrderKind
from mindful_crate.core.catalog.ids import (
    BinCode,
    CrewId,
    DeviceId,
    DialogueNo,
    FlowId,
    ItemCode,
    MessageNo,
    OrderNo,
    PersonId,
    PlateKindCode,
    PlateNo,
    ReceiptNo,
    ReservationNo,
    TaskNo,
    UnitCode,
)
from mindful_crate.core.catalog.notices import Notice
from mindful_crate.core.floor.topics import HostStandIn, OrderTopic
from mindful_crate.core.record import record
from mindful_crate.core.scanning.reading import Scan


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
class AnnounceOrder:
    """The vendor announces the plates on which all that is open of an order will come."""

    order: OrderNo
    kind: Literal["announce_order"] = "announce_order"


@record
class OpenOrder:
    """Somebody in the office opens an order for editing."""

    order: OrderNo
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
class OpenFlow:
    """A person opens a flow on a handset."""

    flow: FlowId
    kind: Literal["open_flow"] = "open_flow"


@record
class Answer:
    """A scan, typed or tapped text. ``step`` is the question it answers; None skips that check."""

    dialogue: DialogueNo
    scan: Scan
    step: int | None = None
    kind: Literal["answer"] = "answer"


@record
class Press:
    """A button of the handset; ``line`` and ``count`` go with editing a line."""

    dialogue: DialogueNo
    action: Literal[
        "confirm", "yes", "no", "new_plate", "other_order", "finish", "change_line", "remove_line", "go_on", "part"
    ]
    step: int | None = None
    line: int | None = None
    count: str | None = None
    kind: Literal["press"] = "press"


@record
class StepBack:
    """Takes back the last answer of the line being asked."""

    dialogue: DialogueNo
    step: int | None = None
    kind: Literal["step_back"] = "step_back"


@record
class LeaveFlow:
    """Leaves a dialogue; what was done stays."""

    dialogue: DialogueNo
    kind: Literal["leave_flow"] = "leave_flow"


@record
class NoteLine:
    """Goods of an order onto a plate that is being built; ``plate`` None makes a new one. Base units."""

    flow: FlowId
    order: OrderNo
    item: ItemCode
    unit: UnitCode
    quantity: int
    plate: PlateNo | None = None
    plate_kind: PlateKindCode | None = None
    lot: str = ""
    expiry: date | None = None
    kind: Literal["note_line"] = "note_line"


@record
class ReceiveAnnounced:
    """An announced plate is here: it is begun with the lines it was announced with."""

    flow: FlowId
    plate: PlateNo
    kind: Literal["receive_announced"] = "receive_announced"


@record
class ChangeLine:
    """Changes the quantity of a line of a plate that is being built; 0 takes it off."""

    plate: PlateNo
    line: int
    quantity: int
    kind: Literal["change_line"] = "change_line"


@record
class FinishPlate:
    """Declares a plate complete: its goods become stock."""

    plate: PlateNo
    kind: Literal["finish_plate"] = "finish_plate"


@record
class BookReceipt:
    """Tells the host about a receipt, where the step plan leaves that to the office."""

    receipt: ReceiptNo
    kind: Literal["book_receipt"] = "book_receipt"


@record
class Take:
    """Takes up the plate of a task."""

    task: TaskNo
    kind: Literal["take"] = "take"


@record
class Place:
    """Places the plate of a task into a bin; ``reason`` when it is another bin than the one shown."""

    task: TaskNo
    bin: BinCode
    reason: str = ""
    kind: Literal["place"] = "place"


@record
class TakePlate:
    """Takes up a plate to move it; ``flow`` says by which rules a bin is proposed."""

    flow: FlowId
    plate: PlateNo
    kind: Literal["take_plate"] = "take_plate"


@record
class TakeGoods:
    """Takes goods out of a bin, or off a plate, to move them. Base units."""

    flow: FlowId
    bin: BinCode
    item: ItemCode
    quantity: int
    lot: str = ""
    plate: PlateNo | None = None
    kind: Literal["take_goods"] = "take_goods"


@record
class PlacePlates:
    """Places plates that are carried into a bin, or ``on`` a plate that stands there."""

    tasks: tuple[TaskNo, ...]
    bin: BinCode
    on: PlateNo | None = None
    reason: str = ""
    kind: Literal["place_plates"] = "place_plates"


@record
class PlaceGoods:
    """Places carried goods into a bin, or onto a plate there; ``quantity`` None means all of them."""

    flow: FlowId
    task: TaskNo
    bin: BinCode
    plate: PlateNo | None = None
    quantity: int | None = None
    reason: str = ""
    kind: Literal["place_goods"] = "place_goods"


@record
class ReserveStock:
    """Keeps stock for somebody, chosen by the pick-from rules. Base units."""

    holder: str
    item: ItemCode
    quantity: int
    kind: Literal["reserve_stock"] = "reserve_stock"


@record
class LetGo:
    """Ends a reservation."""

    reservation: ReservationNo
    kind: Literal["let_go"] = "let_go"


@record
class BlockBin:
    """Blocks a bin with a reason, or unblocks it with an empty one."""

    bin: BinCode
    reason: str = ""
    kind: Literal["block_bin"] = "block_bin"


@record
class Wait:
    """Lets time pass in a rehearsal."""

    seconds: int
    kind: Literal["wait"] = "wait"


HostAct = (
    WriteOrder
    | TryOrder
    | CancelOrder
    | ShipTransfer
    | AnnounceOrder
    | OpenOrder
    | CloseOrder
    | SetHost
    | RepeatMessage
)
"""What somebody does in the host, besides confirming an order."""
OfficeAct = ConfirmOrder | HostAct | FinishPlate | BookReceipt | BlockBin | ReserveStock | LetGo | Wait
"""What somebody does in the office."""
HandsetAct = OpenFlow | Answer | Press | StepBack | LeaveFlow
"""What somebody does on a handset."""
Act = (
    ConfirmOrder
    | HostAct
    | HostAnswers
    | HostTells
    | HostAnnounces
    | OpenFlow
    | Answer
    | Press
    | StepBack
    | LeaveFlow
    | NoteLine
    | ReceiveAnnounced
    | ChangeLine
    | FinishPlate
    | BookReceipt
    | Take
    | Place
    | TakePlate
    | TakeGoods
    | PlacePlates
    | PlaceGoods
    | ReserveStock
    | LetGo
    | BlockBin
    | Wait
)


@record
class Stamp:
    """Who asks, from where, and when. ``at`` is UTC, ``today`` the site's local date, both set by the server;
    ``device_time`` is what the device believes."""

    id: str
    at: datetime
    today: date
    actor: PersonId
    acting_for: PersonId | None = None
    device: DeviceId | None = None
    crews: tuple[CrewId, ...] = ()
    device_time: datetime | None = None

    @property
    def who(self) -> PersonId:
        """Whose hands these are: the person acted for, else the one signed in."""
        return self.acting_for or self.actor


@record
class Command:
    """An act with its stamp."""

    stamp: Stamp
    act: Act


@record
class At:
    """Where in the log an event stands: its entry's place, and the stamp of its command."""

    seq: int
    stamp: Stamp
