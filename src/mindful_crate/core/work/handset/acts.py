"""What may be asked: dialogues on handsets."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import DialogueNo, FlowId
from mindful_crate.core.record import record
from mindful_crate.core.scanning.reading import Scan


@record
class OpenFlow:
    """A person opens a flow on a handset."""

    flow: FlowId
    kind: Literal["open_flow"] = "open_flow"


@record
class Answer:
    """A scan, typed or tapped text. ``step`` is the question it answers; None skips that check."""

    dialogue: DialogueNo
    scan: Scan
    step: int | None = None
    kind: Literal["answer"] = "answer"


@record
class Press:
    """A button of the handset; ``line`` and ``count`` go with editing a line."""

    dialogue: DialogueNo
    action: str
    step: int | None = None
    line: int | None = None
    count: str | None = None
    kind: Literal["press"] = "press"


@record
class StepBack:
    """Takes back the last answer of the line being asked."""

    dialogue: DialogueNo
    step: int | None = None
    kind: Literal["step_back"] = "step_back"


@record
class LeaveFlow:
    """Leaves a dialogue; what was done stays."""

    dialogue: DialogueNo
    kind: Literal["leave_flow"] = "leave_flow"


@record
class SyncHandset:
    """A handset at its menu takes what is in force."""

    kind: Literal["sync_handset"] = "sync_handset"


HandsetAct = OpenFlow | Answer | Press | StepBack | LeaveFlow
"""What somebody does on a handset."""
