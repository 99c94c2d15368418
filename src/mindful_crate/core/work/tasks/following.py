"""What follows from a step that was finished: tasks that end with it as long as none was begun, and what rests for the next."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.ids import TaskNo
from mindful_crate.core.floor.receipts import Receipt
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task, TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import capital
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.tasks.events import RestEnded, TaskCancelled

NAMES = {Need.PUT_AWAY: "put-away task", Need.INSPECT: "inspection", Need.MOVE: "move", Need.PICK: "pick task"}


def not_begun(tasks: Iterable[Task]) -> tuple[TaskNo, ...]:
    """The numbers of tasks that may end with what they follow from; refused when one was begun."""
    found = []
    for task in tasks:
        if task.state is not TaskState.OPEN or task.going.parts:
            raise Refusal("begun", f"{capital(NAMES[task.need])} `{task.number}` has begun.")
        found.append(task.number)
    return tuple(found)


def after_receipt(state: State, receipt: Receipt) -> tuple[tuple[TaskNo, ...], tuple[str, ...]]:
    """The tasks and rests that follow from a receipt; refused when one was begun."""
    tasks = not_begun(state.tasks.following((receipt.plate,), (receipt.number,)))
    return tasks, tuple(r.key for r in state.rests.of_receipt(receipt.number, receipt.plate))


def end(making: Making, tasks: Iterable[TaskNo], rests: Iterable[str], why: str) -> None:
    """They end, for a reason."""
    for key in rests:
        making.event(RestEnded(key, why))
    for task in tasks:
        making.event(TaskCancelled(task, why))
