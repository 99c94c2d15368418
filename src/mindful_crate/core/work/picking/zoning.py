"""Tasks that hand their totes on from zone to zone: which comes before which, and what one still waits for."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from mindful_crate.core.catalog.ids import TaskNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task, TaskState
from mindful_crate.core.floor.waves import Wave
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.waves import Method
from mindful_crate.core.work.picking.arranging import held_by


def waits_told(behind: TaskNo) -> str:
    """Why nobody may take a task whose totes are in a zone before."""
    return f"its totes are still at task {behind}"


def _before(state: State, task: Task) -> Iterator[Task]:
    """The tasks in the zones before, the nearest first."""
    number = task.plan.behind
    while number is not None:
        found = state.tasks[number]
        yield found
        number = found.plan.behind


def chain_begun(state: State, task: Task) -> bool:
    """Has somebody begun in a zone before, so that totes are on their way to this task?"""
    begun = (t for t in _before(state, task) if t.state in (TaskState.TAKEN, TaskState.DONE) or t.going.parts)
    return bool(task.going.totes) or next(begun, None) is not None


def held_now(state: State, rulebook: Rulebook, task: Task) -> str:
    """Why nobody may take a task of a wave that is let go: its totes are not there yet, or its recipe holds it."""
    open_ = next((t for t in _before(state, task) if not t.state.ended), None)
    if open_ is not None:
        return waits_told(open_.number)
    recipe = rulebook.recipe(task.plan.recipe)
    return held_by(recipe) if recipe else ""


def with_chain(state: State, wave: Wave, tasks: Iterable[Task]) -> list[Task]:
    """Some tasks of a wave with those that hand totes on to them, or get them from them, as far as they have not ended."""
    some = list(tasks)
    if wave.method is not Method.ZONES:
        return some
    mine = {t.number for t in some}
    every = [state.tasks[n] for n in wave.tasks]
    for along in (every, every[::-1]):
        for each in along:
            behind = each.plan.behind
            if behind is not None and {each.number, behind} & mine:
                mine |= {each.number, behind}
    return [t for t in every if t.number in mine and not t.state.ended]


def followers(state: State, wave: Wave, number: TaskNo) -> list[Task]:
    """The tasks after one, the next first, as far as each is handed totes by the one before."""
    found, last = list[Task](), number
    for each in wave.tasks:
        task = state.tasks[each]
        if task.plan.behind == last:
            found.append(task)
            last = each
    return found


def was_waiting(state: State, task: Task) -> bool:
    """Is it held since its totes were in a zone before, whichever that was?"""
    return any(task.held == waits_told(t.number) for t in _before(state, task))
