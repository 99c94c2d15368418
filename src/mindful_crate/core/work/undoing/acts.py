"""What may be asked: undoing a step that was finished."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import PlateNo, ReceiptNo, TaskNo, UnloadingNo
from mindful_crate.core.record import record


@record
class UndoReceipt:
    """Undoes the receipt of what stands on a plate; of loose goods, the receipt of that number."""

    plate: PlateNo
    why: str = ""
    kind: Literal["undo_receipt"] = "undo_receipt"


@record
class UndoTask:
    """Undoes an inspection or a put-away that is done."""

    task: TaskNo
    why: str = ""
    kind: Literal["undo_task"] = "undo_task"


@record
class UndoAgreed:
    """The host agrees that a receipt it has booked is undone, or, with a reason, does not. The host's answer asks it."""

    receipt: ReceiptNo
    refused: str = ""
    kind: Literal["undo_agreed"] = "undo_agreed"


@record
class UndoUnloading:
    """What was unloaded was not, after all."""

    unloading: UnloadingNo
    why: str = ""
    kind: Literal["undo_unloading"] = "undo_unloading"


UndoingAct = UndoReceipt | UndoTask | UndoUnloading | UndoAgreed
"""What may be asked."""
