"""What happens: receiving goods."""

from __future__ import annotations

from datetime import date
from typing import Literal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import (
    BinCode,
    ItemCode,
    OrderNo,
    PersonId,
    PlateKindCode,
    PlateNo,
    ReceiptNo,
    UnitCode,
)
from mindful_crate.core.floor.plates import Spot
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.steps import BookingPoint


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
    over: int = 0
    """How much of it is more than was ordered."""
    note: str = ""
    serials: tuple[str, ...] = ()
    """The number of each piece, where the item is kept by them."""
    kind: Literal["line_noted"] = "line_noted"


@record
class LineChanged:
    """Another quantity on a line of a plate that is being built; 0 takes the line off."""

    plate: PlateNo
    line: int
    quantity: int
    over: int = 0
    kind: Literal["line_changed"] = "line_changed"


@record
class LineClosed:
    """The rest of an order line is not waited for any more."""

    order: OrderNo
    line: int
    quantity: int
    why: str
    receipt: ReceiptNo | None = None
    """The receipt with which it was, when no more lacks than the plan lets lack."""
    kind: Literal["line_closed"] = "line_closed"


@record
class LineReopened:
    """The rest of an order line is waited for again."""

    order: OrderNo
    line: int
    quantity: int
    kind: Literal["line_reopened"] = "line_reopened"


@record
class PlateFinished:
    """The goods of a plate arrived and became stock where it stands."""

    plate: PlateNo
    receipt: ReceiptNo
    person: PersonId
    booking: BookingPoint
    inspect: tuple[int, ...] = ()
    """The lines whose goods wait for an inspection, by number."""
    held: bool = False
    """It is more than was ordered, held until the office decides: kept apart, not told to the host."""
    statuses: tuple[tuple[int, Status], ...] = ()
    """Lines whose goods become something else than available: how what came back is marked."""
    kind: Literal["plate_finished"] = "plate_finished"


@record
class SurplusTaken:
    """What was held as more than ordered is taken: it is stock like other goods."""

    receipt: ReceiptNo
    by: PersonId
    spot: Spot
    goods: tuple[Goods, ...]
    why: str = ""
    kind: Literal["surplus_taken"] = "surplus_taken"


@record
class SurplusSentBack:
    """What was held as more than ordered is gone again: it never was the site's."""

    receipt: ReceiptNo
    by: PersonId
    spot: Spot
    goods: tuple[Goods, ...]
    why: str
    kind: Literal["surplus_sent_back"] = "surplus_sent_back"


ReceivingEvent = (
    SurplusTaken
    | SurplusSentBack
    | PlateStarted
    | LoadStarted
    | LineNoted
    | LineChanged
    | LineClosed
    | LineReopened
    | PlateFinished
)
"""What may happen."""
