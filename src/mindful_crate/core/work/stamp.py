"""Who asks, from where and when; and where in the log something stands."""

from __future__ import annotations

from datetime import date, datetime, time
from typing import Literal

from mindful_crate.core.catalog.ids import CrewId, DeviceId, PersonId
from mindful_crate.core.record import record

Lost = Literal["", "before", "after"]
"""Was the network lost when a handset sent it: before it arrived, or after, so that its answer was lost? It was sent again then."""


@record
class Stamp:
    """Who asks, from where, and when. ``at`` is UTC, ``today`` the site's local date and ``minute`` its minutes after midnight, all set by
    the server; ``device_time`` is what the device believes."""

    id: str
    at: datetime
    today: date
    actor: PersonId
    acting_for: PersonId | None = None
    device: DeviceId | None = None
    crews: tuple[CrewId, ...] = ()
    device_time: datetime | None = None
    lost: Lost = ""
    minute: int = 0

    @property
    def now(self) -> datetime:
        """The moment by the clocks of the site, to the minute, without a zone."""
        return datetime.combine(self.today, time(self.minute // 60, self.minute % 60))

    @property
    def who(self) -> PersonId:
        """Whose hands these are: the person acted for, else the one signed in."""
        return self.acting_for or self.actor


@record
class At:
    """Where in the log an event stands: its entry's place, and the stamp of its command."""

    seq: int
    stamp: Stamp
