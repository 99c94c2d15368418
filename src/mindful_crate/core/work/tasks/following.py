"""What follows from a step that was finished: tasks that end with it as long as none was begun, and what rests for the next."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.ids import CrewId, PersonId, TaskNo
from mindful_crate.core.floor.receipts import Receipt
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task, TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import capital
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.tasks.events import RestEnded, TaskCancelled

NAMES = {
    Need.PUT_AWAY: "put-away task",
    Need.INSPECT: "inspection",
    Need.MOVE: "move",
    Need.PICK: "pick task",
    Need.REPLENISH: "refill",
}


def task_to_begin(state: State, number: TaskNo, need: Need, crews: tuple[CrewId, ...], mine: PersonId) -> Task:
    """A task for a need that these crews may take, or that ``mine`` has; refused with the reason otherwise."""
    task, called = state.tasks.get(number), NAMES[need]
    name = capital(called.rpartition(" ")[2])
    if task is None or task.need is not need:
        raise Refusal("unknown_task", f"There is no {called} `{number}`.")
    if task.state is TaskState.DONE:
        done = "is picked already: it stands" if need is Need.PICK else "is done: it lies"
        raise Refusal("task_done", f"{name} `{number}` {done} in `{task.placed_in}`.")
    if task.state is TaskState.CANCELLED:
        more = " Its list is of no use any more." if need is Need.PICK else ""
        raise Refusal("task_cancelled", f"{name} `{number}` was cancelled: {task.held}.{more}")
    if task.state is TaskState.TAKEN:
        if task.person == mine:
            return task
        at = "picks task" if need is Need.PICK else f"is at {called}"
        raise Refusal("task_taken", f"@{task.person} {at} `{number}` already.")
    if task.crew not in crews:
        raise Refusal("other_crew", f"{name} `{number}` is for crew `{task.crew}`, and you are not in it.")
    if task.whose not in (None, mine):
        raise Refusal("other_person", f"{name} `{number}` is for @{task.whose} alone. The office gives it to others.")
    if task.held:
        more = " The office lets it go." if task.plan.behind is None else ""
        raise Refusal("task_held", f"{name} `{number}` is held: {task.held}.{more}")
    return task


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
