"""What may be asked: undoing a step that was finished."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import ReceiptNo
from mindful_crate.core.catalog.refs import Ref
from mindful_crate.core.record import record


@record
class UndoStep:
    """Undoes a finished step: a receipt, an inspection, a put-away; named by its document."""

    step: Ref
    why: str = ""
    kind: Literal["undo_step"] = "undo_step"


@record
class UndoAgreed:
    """The host agrees that a receipt it has booked is undone, or, with a reason, does not. The host's answer asks it."""

    receipt: ReceiptNo
    refused: str = ""
    kind: Literal["undo_agreed"] = "undo_agreed"


UndoingAct = UndoStep | UndoAgreed
"""What may be asked."""
