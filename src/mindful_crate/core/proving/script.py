"""A rehearsal as data: office acts and scans with expectations.

Scans refer to things (the bin shown, the plate of an earlier step, the barcode of an item's case) rather than
to literal codes, so that a changed rule shows where it matters and the replay goes on.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import date, datetime
from typing import Any, Literal, get_type_hints

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import (
    BinCode,
    CountNo,
    CrewId,
    DeviceId,
    FlowId,
    ItemCode,
    OrderNo,
    PersonId,
    PlateNo,
    ReservationNo,
    ShipmentNo,
    SiteCode,
    TaskNo,
    UnitCode,
    WaveNo,
)
from mindful_crate.core.floor.counts import CountState
from mindful_crate.core.floor.topics import HostStandIn
from mindful_crate.core.floor.waves import WaveState
from mindful_crate.core.proving.release_list import Standing
from mindful_crate.core.record import Word, record
from mindful_crate.core.scanning.reading import How
from mindful_crate.core.work.rows import Made
from mindful_crate.core.work.stamp import Lost
from mindful_crate.core.world.acts import HostAct, OfficeAct, TaskAct

SHAPE = 1
"""Version of the rehearsal's shape, written into every file."""


@record
class Literally:
    """This very text."""

    text: str
    kind: Literal["text"] = "text"


@record
class TheOrder:
    """The number of an order."""

    order: OrderNo
    kind: Literal["order"] = "order"


@record
class TheItem:
    """The barcode of an item's unit; with lot, expiry or count it is a GS1 code that holds them."""

    item: ItemCode
    unit: UnitCode
    lot: str = ""
    expiry: date | None = None
    count: int | None = None
    kind: Literal["item"] = "item"


@record
class TheBin:
    """A bin by its code."""

    bin: BinCode
    kind: Literal["bin"] = "bin"


@record
class Shown:
    """The code the handset awaits, whatever it is."""

    kind: Literal["shown"] = "shown"


@record
class PlateOf:
    """The plate that an earlier step made."""

    step: str
    kind: Literal["plate_of"] = "plate_of"


@record
class BinOf:
    """The bin that was chosen in an earlier step."""

    step: str
    kind: Literal["bin_of"] = "bin_of"


Ref = Literally | TheOrder | TheItem | TheBin | Shown | PlateOf | BinOf


@record
class DoConfirm:
    """The buyer confirms an order in the host."""

    order: OrderNo
    kind: Literal["confirm_order"] = "confirm_order"


@record
class DoOpen:
    """Opens a flow on the handset."""

    flow: FlowId
    kind: Literal["open_flow"] = "open_flow"


@record
class DoScan:
    """Scans, types or taps a code."""

    code: Ref
    how: How = How.SCANNED
    kind: Literal["scan"] = "scan"


@record
class DoPress:
    """Presses a button of the handset."""

    action: str
    line: int | None = None
    count: str | None = None
    kind: Literal["press"] = "press"


@record
class DoFinish:
    """The office finishes a plate."""

    plate: Ref
    kind: Literal["finish_plate"] = "finish_plate"


@record
class DoBook:
    """The office books the receipt of a plate."""

    plate: Ref
    kind: Literal["book_receipt"] = "book_receipt"


@record
class DoBlock:
    """The office blocks a bin, or frees it with an empty reason."""

    bin: Ref
    reason: str = ""
    kind: Literal["block_bin"] = "block_bin"


@record
class DoReserve:
    """The office keeps stock for somebody, chosen by the pick-from rules."""

    holder: str
    item: ItemCode
    quantity: int
    kind: Literal["reserve_stock"] = "reserve_stock"


@record
class DoLetGo:
    """The office ends the reservation that an earlier step made."""

    step: str
    kind: Literal["let_go"] = "let_go"


@record
class DoHost:
    """Somebody does something in the host: makes, changes, cancels, opens an order, sets the stand-in, repeats a
    message."""

    act: HostAct
    kind: Literal["host"] = "host"


@record
class DoTask:
    """The office does something about a task of this number; recorded as :class:`DoOffice` now."""

    act: TaskAct
    kind: Literal["task"] = "task"


@record
class DoOffice:
    """The office does anything else. ``made`` names fields of the act, each with the step whose plate, task or reservation it
    means, whatever number that gets when the script runs."""

    act: OfficeAct
    made: tuple[tuple[str, str], ...] = ()
    kind: Literal["office"] = "office"


@record
class DoWait:
    """Time passes."""

    seconds: int
    kind: Literal["wait"] = "wait"


NAMED: dict[object, Made] = {
    PlateNo: "plate",
    TaskNo: "task",
    ReservationNo: "reservation",
    WaveNo: "wave",
    ShipmentNo: "shipment",
    CountNo: "count",
}


def named_by(act: OfficeAct, name: str) -> Made | None:
    """What that a step makes does a field of an act name, by its type?"""
    return NAMED.get(get_type_hints(type(act)).get(name))


def meaning(act: OfficeAct, numbers: Mapping[str, str]) -> OfficeAct:
    """The act with other numbers in these fields; TypeError when it has no such field."""
    given: Any = numbers
    return replace(act, **given)


Doing = (
    DoConfirm
    | DoOpen
    | DoScan
    | DoPress
    | DoFinish
    | DoBook
    | DoBlock
    | DoReserve
    | DoLetGo
    | DoHost
    | DoTask
    | DoWait
    | DoOffice
)


@record
class ExpectRefused:
    """The step is refused for this reason."""

    code: str
    kind: Literal["refused"] = "refused"


@record
class ExpectAsks:
    """After the step the handset asks for this; ``code`` is what it awaits, when that matters."""

    asks: str
    code: str = ""
    kind: Literal["asks"] = "asks"


@record
class ExpectStock:
    """A bin holds this quantity of an item, in base units: loose and on plates together, or on one ``plate`` that stands
    there, or ``loose`` alone; of one lot and status, or of all. The pieces with these ``serials`` are among them."""

    bin: Ref
    item: ItemCode
    quantity: int
    lot: str = ""
    plate: Ref | None = None
    loose: bool = False
    status: Status | None = None
    serials: tuple[str, ...] = ()
    kind: Literal["stock"] = "stock"


@record
class ExpectChosen:
    """The step chose a bin by this rule, in this zone, or this bin; empty fields do not matter."""

    rule: str = ""
    zone: str = ""
    bin: str = ""
    kind: Literal["chosen"] = "chosen"


@record
class ExpectLine:
    """An order line is this far, in base units."""

    order: OrderNo
    line: int
    arrived: int
    booked: int
    kind: Literal["line"] = "line"


@record
class ExpectLabels:
    """So many labels of a thing lie in the tray, or wait; of one printer, or of all."""

    code: Ref
    count: int = 1
    printer: str = ""
    waiting: bool = False
    kind: Literal["labels"] = "labels"


@record
class ExpectGoes:
    """An order that goes out stands so: stopped, warned or passed by its gate, kept back, or released; at this rate, by the gate that
    says so first (of an order that may go: the one of its cover), if those matter. ``with_``: the orders it leaves with, if it was released."""

    order: OrderNo
    stands: Standing
    rate: str = ""
    gate: str = ""
    leaves_with: tuple[OrderNo, ...] | None = None
    kind: Literal["goes"] = "goes"


@record
class ExpectCover:
    """So much of an order line is promised on hand, is on its way, and is kept in bins, in base units."""

    order: OrderNo
    line: int
    on_hand: int
    on_way: int = 0
    kept: int = 0
    kind: Literal["cover"] = "cover"


@record
class ExpectWave:
    """A wave stands so; with so many tasks that are not ended, and these orders, if those matter."""

    wave: Ref
    stands: WaveState
    tasks: int | None = None
    orders: tuple[OrderNo, ...] | None = None
    kind: Literal["wave"] = "wave"


class Sent(Word):
    """How far a shipment is."""

    OPEN = "open"
    """Something of it is still to be done before it may leave."""
    READY = "ready"
    LEFT = "left"
    BOOKED = "booked"
    """It left, and the host agreed."""
    REFUSED = "refused"
    """It left, and the host did not agree."""


SENT_TOLD = {
    Sent.OPEN: "is not ready to leave",
    Sent.READY: "may leave",
    Sent.LEFT: "has left",
    Sent.BOOKED: "has left, and the host agreed",
    Sent.REFUSED: "has left, and the host refused it",
}


@record
class ExpectShipment:
    """A shipment stands so; with so many cartons and plates that are packed, and what nobody has done yet next, if that is said."""

    shipment: Ref
    stands: Sent
    cartons: int | None = None
    next: str = ""
    """``pick``, ``sort``, ``pack``, ``stage`` or ``load``: the first step that is not done."""
    kind: Literal["shipment"] = "shipment"


@record
class ExpectShipped:
    """So much of an order line has left, in base units."""

    order: OrderNo
    line: int
    shipped: int
    kind: Literal["shipped"] = "shipped"


@record
class ExpectCounted:
    """A sheet stands so; with so many lines in the books, counted and waiting, and not counted, where those are said."""

    count: Ref
    stands: CountState
    posted: int | None = None
    waiting: int | None = None
    left: int | None = None
    kind: Literal["counted"] = "counted"


COUNT_TOLD = {
    CountState.OPEN: "is still to be counted",
    CountState.COUNTED: "is counted and not all in the books",
    CountState.POSTED: "is in the books",
    CountState.DROPPED: "is counted no more",
}


@record
class ExpectTill:
    """The site's till says that there is so much of an item, in base units."""

    item: ItemCode
    quantity: int
    kind: Literal["till"] = "till"


Expectation = (
    ExpectRefused
    | ExpectAsks
    | ExpectStock
    | ExpectChosen
    | ExpectLine
    | ExpectLabels
    | ExpectGoes
    | ExpectCover
    | ExpectWave
    | ExpectShipment
    | ExpectShipped
    | ExpectCounted
    | ExpectTill
)


@record
class ScriptStep:
    """One step. ``was``, ``answered`` and ``asked`` are what happened when it was recorded; ``shows`` are the numbers of the needs
    that its expectations show to be met. With ``lost``, the handset finds no network and sends it again."""

    id: str
    do: Doing
    by: PersonId = PersonId("office")
    device: DeviceId | None = None
    crews: tuple[CrewId, ...] = ()
    expect: tuple[Expectation, ...] = ()
    was: Literal["done", "refused"] = "done"
    answered: str = ""
    asked: str = ""
    shows: tuple[str, ...] = ()
    lost: Lost = ""
    site: SiteCode | None = None
    """Of another site than the rehearsal's: it is done on that one's floor, the same day."""


@record
class Rehearsal:
    """A script with expectations, made on one opening state (by its hash). ``starts`` is UTC."""

    id: str
    name: str
    site: SiteCode
    opening: str
    starts: datetime
    steps: tuple[ScriptStep, ...]
    about: str = ""
    host: HostStandIn = HostStandIn()
    at_end: tuple[Expectation, ...] = ()
    shape: int = SHAPE
    shows: tuple[str, ...] = ()
    """The numbers of the needs that what is expected at the end shows to be met."""

    @property
    def sites(self) -> tuple[SiteCode, ...]:
        """Its own site, and those on whose floors some of its steps are done."""
        return tuple(dict.fromkeys((self.site, *(s.site for s in self.steps if s.site))))

    @property
    def pins(self) -> int:
        """How many expectations it has."""
        return sum(len(s.expect) for s in self.steps) + len(self.at_end)
