"""What may be asked: putting away."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import BinCode, TaskNo
from mindful_crate.core.record import record


@record
class Take:
    """Takes up the plate of a task."""

    task: TaskNo
    kind: Literal["take"] = "take"


@record
class Place:
    """Places the plate of a task into a bin; ``reason`` when it is another bin than the one shown."""

    task: TaskNo
    bin: BinCode
    reason: str = ""
    kind: Literal["place"] = "place"


PuttingAct = Take | Place
"""What may be asked."""
