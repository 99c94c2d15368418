"""What events of tasks mean to the dialogue in which they were made."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from mindful_crate.core.floor.slots import Slots
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.work.tasks.events import TaskMade, TaskRetargeted


def carried_on(slots: Slots, events: Sequence[Named]) -> Slots:
    """What was taken up is carried from here on; what was given another bin still is, and its bin is asked anew."""
    for event in events:
        if isinstance(event, TaskMade) and event.need is Need.MOVE:
            slots = replace(slots, task=event.task) if event.goods else replace(slots, tasks=(*slots.tasks, event.task))
        if isinstance(event, TaskRetargeted):
            slots = replace(slots, task=event.task, bin=None, on=None, reason=None, part=None)
    return slots
