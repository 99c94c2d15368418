"""What may be asked: tasks, whatever they are for."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import CrewId, PersonId, TaskNo
from mindful_crate.core.record import record


@record
class SetDown:
    """Puts what was taken back where it was taken from; the task is open again."""

    task: TaskNo
    kind: Literal["set_down"] = "set_down"


@record
class HoldTask:
    """Nobody may take a task until it is let go."""

    task: TaskNo
    why: str
    kind: Literal["hold_task"] = "hold_task"


@record
class LetTaskGo:
    """A held task may be taken again."""

    task: TaskNo
    kind: Literal["let_task_go"] = "let_task_go"


@record
class ReassignTask:
    """Gives a task to another crew, or to one person of a crew."""

    task: TaskNo
    crew: CrewId
    person: PersonId | None = None
    kind: Literal["reassign_task"] = "reassign_task"


@record
class RaiseTask:
    """Gives a task another priority; higher comes first."""

    task: TaskNo
    priority: int
    kind: Literal["raise_task"] = "raise_task"


@record
class CancelTask:
    """A task will not be done; what it is about stays where it is."""

    task: TaskNo
    why: str
    kind: Literal["cancel_task"] = "cancel_task"


@record
class TaskDue:
    """The time has come at which a task starts; the clock says so."""

    task: TaskNo
    kind: Literal["task_due"] = "task_due"


TaskAct = SetDown | HoldTask | LetTaskGo | ReassignTask | RaiseTask | CancelTask
"""What may be asked of any task."""
