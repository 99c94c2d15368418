"""What a dialogue has been told so far."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Literal

from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, PlateNo, TaskNo, UnitCode
from mindful_crate.core.record import record


@record
class Slots:
    """Answers of a dialogue. ``count`` is in ``unit``; ``new_plate`` says that a new one was asked for."""

    order: OrderNo | None = None
    plate: PlateNo | None = None
    new_plate: bool = False
    item: ItemCode | None = None
    unit: UnitCode | None = None
    expiry: date | None = None
    lot: str | None = None
    count: Decimal | None = None
    task: TaskNo | None = None
    bin: BinCode | None = None
    reason: str | None = None
    from_bin: BinCode | None = None
    from_plate: PlateNo | None = None
    tasks: tuple[TaskNo, ...] = ()
    """Plates that are carried, by their tasks."""
    on: PlateNo | None = None
    """The plate things are placed on."""
    going: bool = False
    """No further plate is taken up."""
    part: Decimal | None = None
    """How many are placed here, when it is not all; 0 while that is asked."""
    looked: Looked | None = None


@record
class Looked:
    """What is being looked up."""

    kind: Literal["item", "bin", "plate"]
    code: str


@record
class Doubt:
    """A question back to the worker before something unusual: a warning to confirm, or a reason to give."""

    asks: Literal["yes_no", "reason"]
    says: str
    then: Slots
    """The slots if the worker goes on."""
    yes: str = "Place here"
    """What the button says that goes on."""
