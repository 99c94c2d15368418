"""What is always true of tasks."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import PlateNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Task, TaskState
from mindful_crate.core.rulebook.steps import Need


def tasks(state: State) -> list[str]:
    """A plate is where its latest task says; goods are carried while a task is not done; open tasks claim their bins."""
    found = []
    every = state.tasks.every()
    latest: dict[PlateNo, Task] = {}
    for task in every:
        for number in task.plan.plates:
            if number not in latest or latest[number].made < task.made:
                latest[number] = task
    for task in every:
        for number in task.plan.plates:
            plate, should = state.plate(number), _should_be(task, number)
            if plate and latest[number] is task and should and (plate.bin, plate.carrier, plate.on) != should:
                found.append(f"plate {number} of task {task.number} is not where the task says: {should}")
        open_ = not task.state.ended
        only_totes = any(t.came for t in task.going.totes) and not task.going.remaining
        nothing_there = only_totes or (task.state is TaskState.CANCELLED and not task.going.remaining)
        if not task.plan.plates and not nothing_there and bool(task.goods) != (task.state is not TaskState.DONE):
            found.append(f"task {task.number} is {task.state} and carries {task.goods}")
        claims = bool(task.to_bin and task.number in state.coming(task.to_bin))
        if claims != bool(task.to_bin and open_):
            found.append(f"task {task.number} is {task.state} and its claim is {claims}")
    return found


def _should_be(task: Task, plate: PlateNo) -> tuple[str | None, str | None, str | None] | None:
    """Where a task says that one of its plates is: its bin, who carries it, the plate it stands on. None: it may have been moved
    since."""
    if task.state is TaskState.CANCELLED or (task.need is Need.PICK and task.state is TaskState.DONE):
        return None
    take, place = (next(m for m in task.plan.moves if m.plate == plate and m.do is do) for do in (Do.TAKE, Do.PLACE))
    done = next((p for p in task.placed if p.move == place.no and p.off is None), None)
    if done is not None:
        return (None, None, done.plate) if done.plate else (done.bin, None, None)
    return (None, task.person, None) if plate in task.going.carried else (take.at, None, None)
