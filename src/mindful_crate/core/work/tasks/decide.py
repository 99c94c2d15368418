"""How its acts are decided: tasks, whatever they are for."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import TaskNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task, TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import all_of
from mindful_crate.core.work.handset.events import DialogueLeft
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.acts import (
    CancelTask,
    HoldTask,
    LetTaskGo,
    RaiseTask,
    ReassignTask,
    SetDown,
    TaskDue,
)
from mindful_crate.core.work.tasks.events import (
    GoodsRest,
    TaskCancelled,
    TaskHeld,
    TaskRaised,
    TaskReassigned,
    TaskSetDown,
)
from mindful_crate.core.work.tasks.offered import PRIORITIES, able, may_go_back


def _known(state: State, number: TaskNo) -> Task:
    task = state.tasks.get(number)
    if task is None:
        raise Refusal("unknown_task", f"There is no task `{number}`.")
    if task.state is TaskState.DONE:
        raise Refusal("task_done", f"Task `{number}` is done: it was placed in `{task.placed_in}`.")
    if task.state is TaskState.CANCELLED:
        raise Refusal("task_cancelled", f"Task `{number}` was cancelled: {task.held}.")
    return task


def _open(state: State, number: TaskNo) -> Task:
    task = _known(state, number)
    if task.state is TaskState.TAKEN:
        raise Refusal("task_taken", f"@{task.person} carries what task `{number}` is about. Have it set down first.")
    return task


def reason(why: str) -> str:
    """A reason somebody gave, without blanks around it; refused when it says too little or too much."""
    if not 3 <= len(why.strip()) <= 120:
        raise Refusal("no_reason", "Give the reason in 3 to 120 characters; whoever meets the task reads it.")
    return why.strip()


def _set_down(state: State, making: Making, _: Rulebook, stamp: Stamp, act: SetDown) -> str:
    task = _known(state, act.task)
    if task.state is not TaskState.TAKEN:
        raise Refusal("not_taken", f"Nobody carries what task `{act.task}` is about.")
    if stamp.device is not None and task.person != stamp.who:
        raise Refusal("other_person", f"@{task.person} carries what belongs to task `{act.task}`.")
    if not may_go_back(task):
        raise Refusal(
            "place_it", "A part was placed, or it is moved at will: place the rest in any bin, also the old one."
        )
    making.event(TaskSetDown(act.task))
    for other in state.dialogues.open_about(task=act.task):
        if other.device != stamp.device:  # whoever carried it is asked for nothing any more
            making.event(DialogueLeft(other.number, by=stamp.who))
    if not task.in_hands and not task.going.hands and not task.going.carried:
        return f"The rest of task `{act.task}` is given back: anybody of its crew may go on with it."
    if task.need is Need.PICK and not task.plan.plates:
        return f"What was fetched is back where it lay; task `{act.task}` is open again."
    what = f"Plate `{task.plate}`" if task.plate else "What was taken"
    return f"{what} is back in `{task.from_bin}`; task `{act.task}` is open again."


def _hold(state: State, making: Making, _: Rulebook, __: Stamp, act: HoldTask) -> str:
    task = _open(state, act.task)
    if task.held:
        raise Refusal("held_already", f"Task `{act.task}` is held already: {task.held}.")
    making.event(TaskHeld(act.task, reason(act.why)))
    return f"Task `{act.task}` is held: {act.why.strip()}. Nobody takes it until it is let go."


def _let_go(state: State, making: Making, _: Rulebook, __: Stamp, act: LetTaskGo) -> str:
    if not _open(state, act.task).held:
        raise Refusal("not_held", f"Task `{act.task}` is not held.")
    making.event(TaskHeld(act.task))
    return f"Task `{act.task}` is let go."


def _reassign(state: State, making: Making, rulebook: Rulebook, _: Stamp, act: ReassignTask) -> str:
    task = _open(state, act.task)
    crew = next((c for c in rulebook.crews if c.id == act.crew), None)
    if crew is None:
        raise Refusal("unknown_crew", f"The rulebook has no crew `{act.crew}`.")
    if (task.crew, task.whose) == (act.crew, act.person):
        already = f"@{act.person}" if act.person else crew.name
        raise Refusal("nothing_changed", f"Task `{act.task}` is for {already} already.")
    if crew not in able(rulebook, state.settings.site, task.need):
        raise Refusal("no_flow", f"No flow on the menu of {crew.name} does such a task, so nobody of it would find it.")
    making.event(TaskReassigned(act.task, act.crew, act.person))
    return f"Task `{act.task}` is for {f'@{act.person} of ' if act.person else ''}{crew.name} now."


def _due(state: State, making: Making, _: Rulebook, __: Stamp, act: TaskDue) -> str:
    if act.task not in state.tasks.timed:
        raise Refusal("not_due", f"Task `{act.task}` starts at no time.")
    making.event(TaskHeld(act.task))
    return f"It is time: task `{act.task}` may be taken."


def _raise(state: State, making: Making, _: Rulebook, __: Stamp, act: RaiseTask) -> str:
    task = _open(state, act.task)
    if act.priority not in PRIORITIES:
        raise Refusal("bad_priority", f"A priority is {PRIORITIES[0]} to {PRIORITIES[-1]}; the highest comes first.")
    if task.priority == act.priority:
        raise Refusal("nothing_changed", f"Task `{act.task}` has priority {act.priority} already.")
    making.event(TaskRaised(act.task, act.priority))
    return f"Task `{act.task}` has priority {act.priority} now."


def _cancel(state: State, making: Making, _: Rulebook, __: Stamp, act: CancelTask) -> str:
    task = _open(state, act.task)
    if task.need is Need.PICK:  # what is kept would be fetched by nobody
        says = f"Task `{act.task}` fetches what is kept for {all_of(f'`{o}`' for o in task.plan.orders)}: take that out of its wave, or hold the task."
        raise Refusal("of_a_wave", says)
    making.event(TaskCancelled(act.task, reason(act.why)))
    if task.need is Need.INSPECT:  # what nobody may use is never on no list
        at, goods = task.placed_in or task.from_bin, () if task.plate else task.plan.loose
        making.event(
            GoodsRest(
                task.plate or task.number, Need.INSPECT, at, task.plate, goods, task.receipts, why=act.why.strip()
            )
        )
        return (
            f"Task `{act.task}` is cancelled: {act.why.strip()}; it waits in `{at}` for another inspection to be made."
        )
    what = f"plate `{task.plate}` stays" if task.plate else "the goods stay"
    return f"Task `{act.task}` is cancelled: {act.why.strip()}; {what} in `{task.from_bin}`."


DECIDES = (
    deciding(SetDown, _set_down),
    deciding(HoldTask, _hold),
    deciding(LetTaskGo, _let_go),
    deciding(ReassignTask, _reassign),
    deciding(RaiseTask, _raise),
    deciding(CancelTask, _cancel),
    deciding(TaskDue, _due),
)
"""How its acts are decided."""
