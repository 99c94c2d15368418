"""What an entry of the log did on the floor, counted by kind: for pictures of a day."""

from __future__ import annotations

from collections import Counter

from mindful_crate.core.work.receiving.events import LineNoted, PlateFinished
from mindful_crate.core.work.tasks.events import MoveDone, WorkMade
from mindful_crate.core.world.acts import Answer
from mindful_crate.core.world.events import Done, Entry

DOING = {
    "lines": "lines received",
    "plates": "plates finished",
    "tasks": "tasks made",
    "moves": "moves done",
    "refused": "scans refused",
}
"""Kinds of doing, and their words."""


def did(entry: Entry) -> Counter[str]:
    """How much of each kind an entry did."""
    if not isinstance(entry.outcome, Done):
        return Counter(refused=1) if isinstance(entry.command.act, Answer) else Counter()
    found: Counter[str] = Counter()
    for event in entry.outcome.events:
        match event:
            case LineNoted():
                found["lines"] += 1
            case PlateFinished():
                found["plates"] += 1
            case WorkMade():
                found["tasks"] += 1
            case MoveDone():
                found["moves"] += 1
    return found
