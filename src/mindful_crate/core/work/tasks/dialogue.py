"""What events of tasks mean to the dialogue in which they were made."""

from __future__ import annotations

from collections.abc import Sequence

from mindful_crate.core.catalog.ids import PlateNo, TaskNo
from mindful_crate.core.floor.answers import TASK, Answers, number, text, texts
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.scanning.kinds import BIN, REASON
from mindful_crate.core.work.tasks.events import MoveTurned, WorkMade

TASKS = texts("tasks", TaskNo)
"""Plates that are carried, by their tasks."""
ON = text("on", PlateNo)
"""The plate things are placed on."""
PART = number("part")
"""How many are placed here, when it is not all; 0 while that is asked."""


def carried_on(answers: Answers, events: Sequence[Named]) -> Answers:
    """What was taken up is carried from here on; what was given another bin still is, and its bin is asked anew."""
    for event in events:
        if isinstance(event, WorkMade) and event.need is Need.MOVE:
            if any(move.goods for move in event.moves):
                answers = answers.having(TASK, event.task)
            else:
                answers = answers.having(TASKS, (*answers[TASKS], event.task))
        if isinstance(event, MoveTurned):
            answers = answers.having(TASK, event.task).without(BIN, ON, REASON, PART)
    return answers
