"""What events mean: in words for the log, and what each made or chose, for scripts that refer to it."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.work.rows import by_kind, telling
from mindful_crate.core.work.table import TABLE
from mindful_crate.core.world import events as ev

TOLD = by_kind(row for matter in TABLE for row in matter.words)
"""What the log says of every event."""


def event_told(event: ev.Event) -> str:
    """An event in a few words, for the log; empty for those that only keep the books."""
    return TOLD[type(event)](event)


Made = Literal["plate", "bin", "reservation"]
"""What a later step of a script may refer to."""
MADE = {
    "plate": by_kind(
        (
            telling(ev.PlateStarted, lambda e: e.plate),
            telling(ev.LoadStarted, lambda e: e.load),
            telling(ev.PlateFinished, lambda e: e.plate),
        )
    ),
    "bin": by_kind(
        (telling(ev.TaskMade, lambda e: e.to_bin or ""), telling(ev.TaskRetargeted, lambda e: e.to_bin or ""))
    ),
    "reservation": by_kind((telling(ev.StockReserved, lambda e: e.reservation),)),
}
"""The plate that an event makes or finishes, the bin it chooses, the reservation it makes."""


def made_in(entry: ev.Entry, what: Made) -> str | None:
    """The plate or reservation a log entry made, or the bin it chose; None if it did not."""
    if not isinstance(entry.outcome, ev.Done):
        return None
    says = MADE[what]
    return next((found for e in entry.outcome.events if (by := says.get(type(e))) and (found := by(e))), None)
