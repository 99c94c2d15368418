"""What is always true of tasks."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import PlateNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task, TaskState


def tasks(state: State) -> list[str]:
    """A plate is where its latest task says; goods are carried while a task is not done; open tasks claim their bins."""
    found = []
    every = state.tasks.every()
    latest: dict[PlateNo, Task] = {}
    for task in every:
        if task.plate and (task.plate not in latest or latest[task.plate].made < task.made):
            latest[task.plate] = task
    for task in every:
        plate = state.plate(task.plate) if task.plate else None
        if task.plate and plate and latest[task.plate] is task:
            placed = task.placed[-1] if task.placed else None
            should = {
                TaskState.OPEN: (task.from_bin, None, None),
                TaskState.CANCELLED: (plate.bin, plate.carrier, plate.on),  # it may have been moved since
                TaskState.TAKEN: (None, task.person, None),
                TaskState.DONE: (
                    placed.bin if placed and not placed.plate else None,
                    None,
                    placed.plate if placed else None,
                ),
            }[task.state]
            if (plate.bin, plate.carrier, plate.on) != should:
                found.append(f"plate {task.plate} of task {task.number} is not where the task says: {should}")
        open_ = not task.state.ended
        if task.plate is None and bool(task.goods) != (task.state is not TaskState.DONE):
            found.append(f"task {task.number} is {task.state} and carries {task.goods}")
        claims = bool(task.to_bin and task.number in state.coming(task.to_bin))
        if claims != bool(task.to_bin and open_):
            found.append(f"task {task.number} is {task.state} and its claim is {claims}")
    return found
