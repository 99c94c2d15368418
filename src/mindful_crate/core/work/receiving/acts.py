"""What may be asked: receiving goods."""

from __future__ import annotations

from datetime import date
from typing import Literal

from mindful_crate.core.catalog.ids import (
    BinCode,
    FlowId,
    ItemCode,
    OrderNo,
    PlateKindCode,
    PlateNo,
    ReceiptNo,
    UnitCode,
)
from mindful_crate.core.record import record


@record
class NoteLine:
    """Goods of an order onto a plate that is being built; ``plate`` None makes a new one. Without an order they are for whichever
    wants them, the earliest promised first. Base units."""

    flow: FlowId
    order: OrderNo | None
    item: ItemCode
    unit: UnitCode
    quantity: int
    plate: PlateNo | None = None
    plate_kind: PlateKindCode | None = None
    lot: str = ""
    expiry: date | None = None
    note: str = ""
    """The number of the delivery note."""
    line: int | None = None
    """The line of the order; None: whichever of the item is open."""
    serials: tuple[str, ...] = ()
    """The number of each piece, where the item is kept by them."""
    into: BinCode | None = None
    """Where what is begun with it is received; None: where the plan says."""
    kind: Literal["note_line"] = "note_line"


@record
class ReceiveAnnounced:
    """An announced plate is here: it is begun with the lines it was announced with."""

    flow: FlowId
    plate: PlateNo
    note: str = ""
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
    book: bool | None = None
    """Is the host told at once, where the plan leaves that to who finishes the last of an order? None: it is not said."""
    kind: Literal["finish_plate"] = "finish_plate"


@record
class OfficeLine:
    """Goods of an order that the office receives; in base units."""

    item: ItemCode
    quantity: int
    lot: str = ""
    expiry: date | None = None
    serials: tuple[str, ...] = ()


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
    note: str = ""
    kind: Literal["receive_in_office"] = "receive_in_office"


@record
class CloseRest:
    """Nothing more of an item of an order is waited for."""

    order: OrderNo
    item: ItemCode
    why: str
    kind: Literal["close_rest"] = "close_rest"


@record
class ReopenRest:
    """What is not waited for any more of an item of an order is waited for again."""

    order: OrderNo
    item: ItemCode
    kind: Literal["reopen_rest"] = "reopen_rest"


@record
class TakeSurplus:
    """The office takes what was held as more than ordered: the host is told, and it is put away like other goods."""

    receipt: ReceiptNo
    why: str = ""
    kind: Literal["take_surplus"] = "take_surplus"


@record
class SendSurplusBack:
    """The office sends back what was held as more than ordered."""

    receipt: ReceiptNo
    why: str
    kind: Literal["send_surplus_back"] = "send_surplus_back"


ReceivingAct = (
    TakeSurplus
    | SendSurplusBack
    | NoteLine
    | ReceiveAnnounced
    | ChangeLine
    | FinishPlate
    | ReceiveInOffice
    | CloseRest
    | ReopenRest
)
"""What may be asked."""
