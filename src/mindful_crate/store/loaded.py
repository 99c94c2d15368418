"""A world in memory, and who sends it commands."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

from mindful_crate.core.catalog.ids import CrewId, DeviceId, PersonId
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import Settings, State, WorldKind
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.stamp import Lost
from mindful_crate.core.world.acts import Stamp
from mindful_crate.core.world.events import Entry
from mindful_crate.core.world.world import Today
from mindful_crate.store.past import StoredPast
from mindful_crate.store.rows import WorldRow

RECENT = 1_000
"""So many entries of a world are at hand for commands that are sent again; for older ones the database is asked."""


@dataclass(frozen=True, slots=True)
class Proof:
    """A session and its person as they were read a while ago: what is done by them holds only if they are still the same."""

    session: str
    stands: str


class Unproven(Exception):
    """The session has ended since, or its person was changed: nothing was done; whoever it is must be looked up anew."""


@dataclass(frozen=True, slots=True)
class Who:
    """Who sends a command, and from where. ``proof``: when that was not looked up just now."""

    actor: str
    acting_for: str | None = None
    device: str | None = None
    crews: tuple[str, ...] = ()
    device_time: datetime | None = None
    lost: Lost = ""
    proof: Proof | None = None


@dataclass
class Loaded:
    """A world in memory, caught up with its log."""

    row: WorldRow
    settings: Settings
    ground: Ground
    rulebook: Rulebook
    state: State
    past: StoredPast
    recent: OrderedDict[str, Entry] = field(default_factory=OrderedDict)
    """The latest entries this process saw, by the id of their command: one that is sent again is answered from here."""
    lock: threading.RLock = field(default_factory=threading.RLock)
    dropped: bool = False
    """Set when a commit failed: the state may be ahead of the log and must not be used."""
    snapshot: int = 0
    """The entry of the latest snapshot."""
    snapshotting: bool = False
    undisturbed: int = 0
    """So many commands in a row found the log as this process had left it."""

    def note(self, entries: Iterable[Entry]) -> None:
        """Remember what was appended."""
        for entry in entries:
            self.recent[entry.command.stamp.id] = entry
        while len(self.recent) > RECENT:
            self.recent.popitem(last=False)

    @property
    def today(self) -> Today:
        """The site's local date at a moment."""
        zone = self._zone
        return lambda at: at.astimezone(zone).date()

    @property
    def _zone(self) -> ZoneInfo:
        return ZoneInfo(self.ground.sites[self.settings.site].time_zone)

    def now(self) -> datetime:
        """The clock for the next command: the real one when live, else some seconds after the last command."""
        if self.settings.kind is WorldKind.LIVE:
            return max(datetime.now(UTC), self.state.clock)
        seconds = self.settings.act_seconds if self.state.seq else 0
        return self.state.clock + timedelta(seconds=seconds)

    def stamp(self, id_: str, who: Who, at: datetime | None = None) -> Stamp:
        """The stamp the server puts on a command."""
        at = at or self.now()
        local = at.astimezone(self._zone)
        return Stamp(
            id_, at, local.date(), PersonId(who.actor), PersonId(who.acting_for) if who.acting_for else None,
            DeviceId(who.device) if who.device else None, tuple(CrewId(c) for c in who.crews), who.device_time, who.lost,
            local.hour * 60 + local.minute,
        )  # fmt: skip
