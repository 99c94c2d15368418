"""What may be asked of pick tasks."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import BinCode, TaskNo
from mindful_crate.core.record import record


@record
class PickInOffice:
    """Says in the office that a task was picked, as it was made, and set down in a bin: the one it shows, or another. ``begin``: only that somebody
    has fetched it; it is still to be set down. ``serials``: which pieces, where that is not clear."""

    task: TaskNo
    why: str
    bin: BinCode | None = None
    begin: bool = False
    serials: tuple[str, ...] = ()
    kind: Literal["pick_in_office"] = "pick_in_office"


PickingAct = PickInOffice
"""What may be asked."""
