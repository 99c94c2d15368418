"""What may be asked: inspecting what has arrived."""

from __future__ import annotations

from datetime import date
from typing import Literal

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PlateNo, TaskNo
from mindful_crate.core.record import record


@record
class TakeToInspect:
    """Takes up what a task is about, to bring it to where it is inspected."""

    task: TaskNo
    serials: tuple[str, ...] = ()
    """Which pieces, of loose goods that are kept by serial numbers, where it is not clear by itself."""
    kind: Literal["take_to_inspect"] = "take_to_inspect"


@record
class PlaceToInspect:
    """Sets down what is carried where it is inspected."""

    task: TaskNo
    bin: BinCode
    kind: Literal["place_to_inspect"] = "place_to_inspect"


@record
class Verdict:
    """Of one kind of goods, so many fail, in base units, and what becomes of those; 0: all pass. ``onto`` is the label of the plate
    that takes what fails off a plate of which something passes; None makes one."""

    item: ItemCode
    failed: int = 0
    fault: Status | None = None
    remark: str = ""
    lot: str = ""
    expiry: date | None = None
    onto: PlateNo | None = None
    failing: tuple[str, ...] = ()
    """The serial numbers of what fails, where the goods are kept by them."""
    photo: str = ""
    """The name of a photo of it, which lies with the pictures."""


@record
class Inspect:
    """Says how goods are that wait for it."""

    task: TaskNo
    verdict: Verdict
    kind: Literal["inspect"] = "inspect"


@record
class InspectInOffice:
    """The office says how goods of a task are: every kind in one act, wherever they stand."""

    task: TaskNo
    verdicts: tuple[Verdict, ...]
    why: str = ""
    kind: Literal["inspect_in_office"] = "inspect_in_office"


InspectingAct = TakeToInspect | PlaceToInspect | Inspect | InspectInOffice
"""What may be asked."""
