"""What a world keeps track of. Each is a value; folding replaces it."""

from __future__ import annotations

from datetime import date, datetime
from enum import StrEnum

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
    SiteCode,
    TaskNo,
    UnitCode,
)
from mindful_crate.core.catalog.notices import Notice
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.steps import BookingPoint, Need
from mindful_crate.core.scanning.slots import Doubt, Slots
from mindful_crate.core.world.events import Reserved
from mindful_crate.core.world.topics import FROM_HOST, HostStandIn, Topic

__all__ = ["HostStandIn"]


class WorldKind(StrEnum):
    """Only a live world sends anything outside."""

    REHEARSAL = "rehearsal"
    LIVE = "live"


@record
class Settings:
    """What a world is made with, besides its opening state and rulebook."""

    site: SiteCode
    starts: datetime
    kind: WorldKind = WorldKind.REHEARSAL
    act_seconds: int = 10
    """In a rehearsal, what the clock moves on with each command."""
    host: HostStandIn = HostStandIn()


@record
class PlateLine:
    """Goods on a plate that is being built, with the order line they came on."""

    line: int
    order: OrderNo
    order_line: int
    item: ItemCode
    unit: UnitCode
    quantity: int
    lot: str = ""
    expiry: date | None = None
    seq: int = 0
    """The entry that noted it, or changed it last."""


@record
class Plate:
    """A license plate. It has one holder: ``bin``, ``carrier`` or the plate it stands ``on``. While ``building`` its
    lines are not stock. A load, goods that are received loose ``into`` a bin, is kept like one, but nothing holds it."""

    number: PlateNo
    plate_kind: PlateKindCode
    bin: BinCode | None
    carrier: PersonId | None = None
    on: PlateNo | None = None
    goods: tuple[Goods, ...] = ()
    lines: tuple[PlateLine, ...] = ()
    building: bool = False
    by: PersonId | None = None
    since: datetime | None = None
    receipt: ReceiptNo | None = None
    finished_on: DeviceId | None = None
    finished_at: datetime | None = None
    begun: int = 0
    """The entry that began it; 0 when it was there at the opening."""
    finished: int = 0
    """The entry that made it stock."""
    into: BinCode | None = None
    """Of a load: the bin its goods are received into."""

    @property
    def stands(self) -> BinCode | None:
        """The bin it stands in, or its goods are received into."""
        return self.bin or self.into


class TaskState(StrEnum):
    """How far a task is."""

    OPEN = "open"
    TAKEN = "taken"
    DONE = "done"


@record
class Placed:
    """A share of a task that was placed."""

    bin: BinCode
    quantity: int
    plate: PlateNo | None = None
    """The plate it was placed on, if it was."""
    reason: str = ""
    seq: int = 0
    """The entry that placed it."""


@record
class Task:
    """Work one person takes: take a plate or loose goods at ``from_bin``, place them at ``to_bin``. ``goods`` are
    what is still to be placed when it is no plate."""

    number: TaskNo
    plate: PlateNo | None
    from_bin: BinCode
    crew: CrewId | None
    to_bin: BinCode | None
    rule: RuleId | None
    state: TaskState = TaskState.OPEN
    person: PersonId | None = None
    need: Need = Need.PUT_AWAY
    goods: tuple[Goods, ...] = ()
    from_plate: PlateNo | None = None
    placed: tuple[Placed, ...] = ()
    receipt: ReceiptNo | None = None
    made: int = 0
    """The entry that made it."""
    taken: int = 0
    """The entry in which somebody took it."""
    again: tuple[int, ...] = ()
    """Entries that gave it another bin."""

    @property
    def placed_in(self) -> BinCode | None:
        """Where the last share was placed."""
        return self.placed[-1].bin if self.placed else None


@record
class Reservation:
    """Stock kept for somebody. Later reservations are let go first when stock is taken away."""

    number: ReservationNo
    holder: str
    item: ItemCode
    parts: tuple[Reserved, ...]


@record
class Receipt:
    """What arrived with one plate. Arrived until the host has booked it."""

    number: ReceiptNo
    plate: PlateNo
    lines: tuple[PlateLine, ...]
    booking: BookingPoint
    told: bool = False
    booked: bool = False
    refused: str = ""
    """Why the host refused it, when it did."""
    seq: int = 0
    """The entry in which it arrived."""
    booked_in: int = 0
    """The entry in which the host booked it."""


@record
class HostOrder:
    """An order as the host has it. ``editor`` has it open since ``since``."""

    order: Order
    confirmed: bool = False
    cancelled: bool = False
    editor: PersonId | None = None
    since: datetime | None = None


class MessageState(StrEnum):
    """How far a message is."""

    WAITING = "waiting"
    ANSWERED = "answered"
    REFUSED = "refused"
    GIVEN_UP = "given_up"


@record
class Message:
    """A message between host and floor. ``due`` is its next delivery, if there is to be one; ``order`` is what the
    host tells, until it is accepted; ``seq`` the entry that sent it, where its content stays."""

    number: MessageNo
    topic: Topic
    subject: str
    due: datetime | None
    order: Order | None = None
    notice: Notice | None = None
    state: MessageState = MessageState.WAITING
    seq: int = 0
    sent: datetime | None = None
    turn: int = 0
    """How often it was delivered or tried in all."""
    tries: int = 0
    """The same since it was sent, or repeated, last."""
    settled: datetime | None = None
    """When it was accepted or refused."""
    settled_in: int = 0
    """The entry in which it was."""
    heard_again: int = 0
    """How often it came again after it was in effect."""
    says: str = ""
    """Why it was refused, or could not be delivered last."""

    @property
    def from_host(self) -> bool:
        """Does the host tell the floor?"""
        return self.topic in FROM_HOST

    @property
    def open(self) -> bool:
        """Does it hold back later messages about its document?"""
        return self.state in (MessageState.WAITING, MessageState.GIVEN_UP)


@record
class Dialogue:
    """One run of a flow on a handset. ``step`` counts its questions."""

    number: DialogueNo
    flow: FlowId
    person: PersonId
    device: DeviceId | None
    slots: Slots = Slots()
    past: tuple[Slots, ...] = ()
    doubt: Doubt | None = None
    step: int = 0
    open: bool = True
    taken_over: DeviceId | None = None
    taken_by: PersonId | None = None


@record
class LineProgress:
    """How far an order line is, in base units: on plates being built, arrived, booked."""

    noted: int = 0
    arrived: int = 0
    booked: int = 0
