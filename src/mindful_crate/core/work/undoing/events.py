"""What happens: undoing a step that was finished."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import PersonId, ReceiptNo, TaskNo, UnloadingNo
from mindful_crate.core.floor.plates import Spot
from mindful_crate.core.record import record


@record
class ReceiptUndone:
    """What a receipt made stock is none any more: the goods are noted, on a plate or load that is being built again."""

    receipt: ReceiptNo
    by: PersonId
    goods: tuple[Goods, ...]
    why: str = ""
    kind: Literal["receipt_undone"] = "receipt_undone"


@record
class UndoAsked:
    """The host is asked whether a receipt it has booked may be undone; until it answers nobody goes on with the goods."""

    receipt: ReceiptNo
    by: PersonId
    why: str = ""
    kind: Literal["undo_asked"] = "undo_asked"


@record
class UndoAnswered:
    """The host agrees that a receipt is undone, or does not, for a reason: then it stands as before."""

    receipt: ReceiptNo
    refused: str = ""
    kind: Literal["undo_answered"] = "undo_answered"


@record
class PutAwayUndone:
    """What a task put away is back where it was taken, and the task is open again."""

    task: TaskNo
    by: PersonId
    why: str = ""
    kind: Literal["put_away_undone"] = "put_away_undone"


@record
class InspectionUndone:
    """Goods wait for their inspection again, where they were looked at; their task is open again."""

    task: TaskNo
    by: PersonId
    spot: Spot
    goods: tuple[Goods, ...]
    why: str = ""
    kind: Literal["inspection_undone"] = "inspection_undone"


@record
class UnloadingUndone:
    """What was unloaded was not."""

    unloading: UnloadingNo
    by: PersonId
    why: str = ""
    kind: Literal["unloading_undone"] = "unloading_undone"


UndoingEvent = UnloadingUndone | ReceiptUndone | UndoAsked | UndoAnswered | PutAwayUndone | InspectionUndone
"""What may happen."""
