"""Events: what has happened. They alone change a state, and they say all that folding needs."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Order
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
    RuleId,
    TaskNo,
    UnitCode,
)
from mindful_crate.core.catalog.notices import Notice
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.slots import Doubt, Slots
from mindful_crate.core.floor.topics import HostStandIn, OrderTopic, Topic
from mindful_crate.core.problem import Problem
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.steps import BookingPoint, Need
from mindful_crate.core.trail import Trail
from mindful_crate.core.world.acts import Command

__all__ = ["OrderTopic", "Topic"]


@record
class NumberDrawn:
    """A number was taken from a series; ``next`` is the one after it."""

    series: str
    next: int
    kind: Literal["number_drawn"] = "number_drawn"


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


@record
class DialogueOpened:
    """A flow was opened on a handset."""

    dialogue: DialogueNo
    flow: FlowId
    person: PersonId
    device: DeviceId | None
    kind: Literal["dialogue_opened"] = "dialogue_opened"


@record
class DialogueMoved:
    """A dialogue stands at another question. ``past`` are the slots it may step back to."""

    dialogue: DialogueNo
    slots: Slots
    past: tuple[Slots, ...] = ()
    doubt: Doubt | None = None
    kind: Literal["dialogue_moved"] = "dialogue_moved"


@record
class DialogueLeft:
    """A dialogue ended. ``taken_over`` names the handset that goes on with its plate."""

    dialogue: DialogueNo
    taken_over: DeviceId | None = None
    by: PersonId | None = None
    kind: Literal["dialogue_left"] = "dialogue_left"


@record
class Scanned:
    """What came in and how it was read (``item ROPE-12, coil``)."""

    dialogue: DialogueNo
    text: str
    read_as: str
    kind: Literal["scanned"] = "scanned"


@record
class PlateStarted:
    """A plate is being built; it is not stock."""

    plate: PlateNo
    plate_kind: PlateKindCode
    bin: BinCode
    person: PersonId
    kind: Literal["plate_started"] = "plate_started"


@record
class LoadStarted:
    """Goods are being received loose, under the number of the receipt they will have; they are not stock."""

    load: PlateNo
    into: BinCode
    person: PersonId
    kind: Literal["load_started"] = "load_started"


@record
class LineNoted:
    """Goods of an order line onto a plate that is being built."""

    plate: PlateNo
    line: int
    order: OrderNo
    order_line: int
    item: ItemCode
    unit: UnitCode
    quantity: int
    lot: str = ""
    expiry: date | None = None
    kind: Literal["line_noted"] = "line_noted"


@record
class LineChanged:
    """Another quantity on a line of a plate that is being built; 0 takes the line off."""

    plate: PlateNo
    line: int
    quantity: int
    kind: Literal["line_changed"] = "line_changed"


@record
class PlateFinished:
    """The goods of a plate arrived and became stock where it stands."""

    plate: PlateNo
    receipt: ReceiptNo
    person: PersonId
    booking: BookingPoint
    kind: Literal["plate_finished"] = "plate_finished"


@record
class TaskMade:
    """A task for a plate, or for loose ``goods``. ``to_bin`` is None when no rule found one: the worker chooses.
    ``crew`` None: it belongs to the worker who makes it."""

    task: TaskNo
    plate: PlateNo | None
    from_bin: BinCode
    crew: CrewId | None
    to_bin: BinCode | None = None
    rule: RuleId | None = None
    need: Need = Need.PUT_AWAY
    goods: tuple[Goods, ...] = ()
    from_plate: PlateNo | None = None
    receipt: ReceiptNo | None = None
    """The receipt of loose goods that are put away."""
    kind: Literal["task_made"] = "task_made"


@record
class TaskTaken:
    """Somebody carries the plate or the goods of a task."""

    task: TaskNo
    person: PersonId
    kind: Literal["task_taken"] = "task_taken"


@record
class TaskRetargeted:
    """The bin shown no longer held, so the rules were asked again."""

    task: TaskNo
    to_bin: BinCode | None = None
    rule: RuleId | None = None
    kind: Literal["task_retargeted"] = "task_retargeted"


@record
class PlatePlaced:
    """The plate of a task stands in a bin, perhaps ``on`` another plate there; the task is done."""

    task: TaskNo
    plate: PlateNo
    bin: BinCode
    reason: str = ""
    on: PlateNo | None = None
    kind: Literal["plate_placed"] = "plate_placed"


@record
class GoodsPlaced:
    """Goods of a task lie in a bin, perhaps on a plate there. The task is done when none are left."""

    task: TaskNo
    bin: BinCode
    goods: tuple[Goods, ...]
    plate: PlateNo | None = None
    reason: str = ""
    kind: Literal["goods_placed"] = "goods_placed"


@record
class StockReserved:
    """Stock is kept for somebody."""

    reservation: ReservationNo
    holder: str
    item: ItemCode
    parts: tuple[Reserved, ...]
    kind: Literal["stock_reserved"] = "stock_reserved"


@record
class ReservationCut:
    """A reservation holds only this any more; nothing ends it."""

    reservation: ReservationNo
    parts: tuple[Reserved, ...] = ()
    kind: Literal["reservation_cut"] = "reservation_cut"


@record
class BinBlocked:
    """A bin was blocked, or unblocked with an empty reason."""

    bin: BinCode
    reason: str = ""
    kind: Literal["bin_blocked"] = "bin_blocked"


@record
class TimePassed:
    """The clock of a rehearsal was moved on."""

    seconds: int
    kind: Literal["time_passed"] = "time_passed"


Event = (
    NumberDrawn
    | MessageSent
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
    | OrderTold
    | OrderDropped
    | NoticeTold
    | OrderConfirmed
    | ReceiptBooked
    | DialogueOpened
    | DialogueMoved
    | DialogueLeft
    | Scanned
    | PlateStarted
    | LoadStarted
    | LineNoted
    | LineChanged
    | PlateFinished
    | TaskMade
    | TaskTaken
    | TaskRetargeted
    | PlatePlaced
    | GoodsPlaced
    | StockReserved
    | ReservationCut
    | BinBlocked
    | TimePassed
)


@record
class Done:
    """A command that was carried out: its events, the trails that caused them, and what the person reads."""

    events: tuple[Event, ...]
    says: str
    trails: tuple[Trail, ...] = ()
    kind: Literal["done"] = "done"


@record
class Refused:
    """A command that was refused. It has its place in the log and changes nothing else."""

    problem: Problem
    kind: Literal["refused"] = "refused"


@record
class Entry:
    """One command and its one outcome, at its place in the log."""

    seq: int
    command: Command
    outcome: Done | Refused

    @property
    def says(self) -> str:
        """What the person who asked reads."""
        return self.outcome.says if isinstance(self.outcome, Done) else self.outcome.problem.says
