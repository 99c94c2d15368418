"""What may be asked: taking back what customers send."""

from __future__ import annotations

from datetime import date
from typing import Literal

from mindful_crate.core.catalog.ids import ItemCode, OrderNo, PartnerCode, PlateKindCode, PlateNo, ReturnMarkId
from mindful_crate.core.record import record


@record
class NoteReturn:
    """So much of an item comes back from a customer, in base units; of an announced return with its number."""

    partner: PartnerCode
    item: ItemCode
    quantity: int
    lot: str = ""
    expiry: date | None = None
    serials: tuple[str, ...] = ()
    mark: ReturnMarkId | None = None
    order: OrderNo | None = None
    remark: str = ""
    photo: str = ""
    kind: Literal["note_return"] = "note_return"


@record
class DropReturnLine:
    """A line of what is taken back is none, after all."""

    line: int
    kind: Literal["drop_return_line"] = "drop_return_line"


@record
class FinishReturn:
    """All of it is scanned: it gets its number, becomes stock, and tasks are made. ``plate_kind``: it goes onto a plate, under the label ``plate`` if one is
    named; without a kind it stays loose."""

    plate_kind: PlateKindCode | None = None
    plate: PlateNo | None = None
    kind: Literal["finish_return"] = "finish_return"


ReturningAct = NoteReturn | DropReturnLine | FinishReturn
"""What may be asked."""
