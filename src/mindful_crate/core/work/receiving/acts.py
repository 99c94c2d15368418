"""What may be asked: receiving goods."""

from __future__ import annotations

from datetime import date
from typing import Literal

from mindful_crate.core.catalog.ids import FlowId, ItemCode, OrderNo, PlateKindCode, PlateNo, UnitCode
from mindful_crate.core.record import record


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
    """Declares a plate complete: its goods become stock. ``inspect``: they are to be inspected, or not, where the plan leaves that
    to who finishes it."""

    plate: PlateNo
    inspect: bool | None = None
    kind: Literal["finish_plate"] = "finish_plate"


@record
class OfficeLine:
    """Goods of an order that the office receives; in base units."""

    item: ItemCode
    quantity: int
    lot: str = ""
    expiry: date | None = None


@record
class ReceiveInOffice:
    """The office receives goods of an order in one act: onto a plate of a kind, under its label if ``plate`` names one, or loose
    without one. ``finish``: they are stock at once; else they are noted, and finished by whoever goes on."""

    order: OrderNo
    lines: tuple[OfficeLine, ...]
    plate_kind: PlateKindCode | None = None
    plate: PlateNo | None = None
    why: str = ""
    finish: bool = True
    kind: Literal["receive_in_office"] = "receive_in_office"


ReceivingAct = NoteLine | ReceiveAnnounced | ChangeLine | FinishPlate | ReceiveInOffice
"""What may be asked."""
