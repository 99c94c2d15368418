"""What the till of a store says of its stock: a copy of what is free to use, as old as its last renewal."""

from __future__ import annotations

from datetime import datetime, timedelta

from mindful_crate.core.record import evolve, record

TILL = "till"
"""A floor has one till: its name."""


@record
class Till:
    """A till that copies the stock of the floor every so many ``minutes``, from when it was set on; 0: never again. ``at``: when it copied last,
    in entry ``seq``."""

    minutes: int
    since: datetime
    at: datetime
    seq: int
    owed: datetime | None = None
    """The time of a copy that a wait of the clock has passed over."""

    def next(self, clock: datetime) -> datetime | None:
        """When it copies again, seen from a moment; None: never."""
        if not self.minutes:
            return None
        each = timedelta(minutes=self.minutes)
        return self.since + ((clock - self.since) // each + 1) * each

    def waited(self, before: datetime, after: datetime) -> Till:
        """The same, when the clock was moved on from one moment to another."""
        following = self.next(before)
        return evolve(self, owed=self.owed or following) if following is not None and following <= after else self

    def minutes_old(self, clock: datetime) -> int:
        """How old what it says is, in whole minutes. What did not change since is as good as copied anew."""
        following = self.next(clock)
        at = max(self.at, following - timedelta(minutes=self.minutes)) if following else self.at
        return (clock - at) // timedelta(minutes=1)
