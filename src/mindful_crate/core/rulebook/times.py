"""Times of the day as they are written in rules."""

from __future__ import annotations


def minute_of(text: str) -> int | None:
    """A time of day as minutes after midnight; None when it is none."""
    hours, _, minutes = text.strip().partition(":")
    if not (hours.isdecimal() and minutes.isdecimal() and len(minutes) == 2 and len(hours) < 3):
        return None
    return int(hours) * 60 + int(minutes) if int(hours) < 24 and int(minutes) < 60 else None


def said_times(text: str) -> tuple[str, ...]:
    """The times of a text like ``11:00; 16:30``, as they were written."""
    return tuple(t.strip() for t in text.replace(",", ";").split(";") if t.strip())


def minutes_of(text: str) -> tuple[int, ...]:
    """The same as minutes after midnight, in order; what is no time is left out."""
    return tuple(sorted({m for t in said_times(text) if (m := minute_of(t)) is not None}))


def clock(minute: int) -> str:
    """A minute of the day as it is written: ``09:05``."""
    return f"{minute // 60:02}:{minute % 60:02}"
