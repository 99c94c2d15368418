"""What events mean: in words for the log, and what each made or chose, for scripts that refer to it."""

from __future__ import annotations

from typing import get_args

from mindful_crate.core.work.rows import Made, Words, by_kind
from mindful_crate.core.work.stamp import Lost
from mindful_crate.core.work.table import TABLE
from mindful_crate.core.world import events as ev

TOLD = by_kind(row for matter in TABLE for row in matter.words)
"""What the log says of every event."""


def event_told(event: ev.Event) -> str:
    """An event in a few words, for the log; empty for those that only keep the books."""
    return TOLD[type(event)](event)


MADE: dict[Made, dict[type[object], Words[object]]] = {
    what: by_kind(row for matter in TABLE for row in matter.makes.get(what, ())) for what in get_args(Made)
}
"""The plate or task that an event makes or finishes, the bin it chooses, the reservation it makes."""
ASKED = by_kind(row for matter in TABLE for row in matter.asked)
"""What an act of the office does, in words."""


def made_in(entry: ev.Entry, what: Made) -> str | None:
    """The plate or reservation a log entry made, or the bin it chose; None if it did not."""
    if not isinstance(entry.outcome, ev.Done):
        return None
    says = MADE[what]
    return next((found for e in entry.outcome.events if (by := says.get(type(e))) and (found := by(e))), None)


LOST: dict[Lost, str] = {
    "": "",
    "before": "Without network at first: it arrives when it is sent again.",
    "after": "Its answer is lost: it is sent again, and done once.",
}
"""What is said of a command that found no network."""
