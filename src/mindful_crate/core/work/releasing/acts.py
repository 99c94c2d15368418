"""What may be asked: to release orders, and to take that back."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from mindful_crate.core.catalog.ids import GateId, OrderNo
from mindful_crate.core.record import record


@record
class ReleaseOrders:
    """Releases those of these orders that may go. ``warned``: also those that go with a warning. ``whole``: those alone of which all is
    on hand. ``dry``: it is only said what would happen, with shipments, waves and tasks; nothing does."""

    orders: tuple[OrderNo, ...]
    warned: bool = True
    whole: bool = False
    dry: bool = False
    kind: Literal["release_orders"] = "release_orders"


@record
class ReleaseLines:
    """Releases some lines of an order, should its plan let them go apart; the rest of it stays as it is."""

    order: OrderNo
    lines: tuple[int, ...]
    kind: Literal["release_lines"] = "release_lines"


@record
class PassGate:
    """Releases an order that its gate stops."""

    order: OrderNo
    why: str
    kind: Literal["pass_gate"] = "pass_gate"


@record
class UndoRelease:
    """Takes the release of an order back, with all it made."""

    order: OrderNo
    why: str
    kind: Literal["undo_release"] = "undo_release"


@record
class ReleaseDue:
    """The time has come at which orders are released by the clock; the clock says so: which minute of the day, and when that was."""

    minute: int
    due: datetime
    kind: Literal["release_due"] = "release_due"


@record
class ChangeGate:
    """Gives an order that is on the floor another gate of its site; an empty name: none."""

    order: OrderNo
    gate: str
    why: str
    kind: Literal["change_gate"] = "change_gate"


@record
class SayToOrder:
    """Says yes or no to an order at a gate that asks for somebody's word; a no says why."""

    order: OrderNo
    gate: GateId
    yes: bool
    why: str = ""
    kind: Literal["say_to_order"] = "say_to_order"


ReleasingAct = ReleaseOrders | ReleaseLines | PassGate | UndoRelease | ChangeGate | SayToOrder
"""What may be asked."""
