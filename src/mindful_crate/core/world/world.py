"""A world in memory: state, log and rulebook together, with the host stand-in answering by the world's clock.

The store keeps worlds in PostgreSQL and does the same steps under a lock; rehearsals and tests use this.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import date, datetime, timedelta

from mindful_crate.core.catalog.ids import PersonId
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import Settings, State, WorldKind
from mindful_crate.core.floor.waves import Awaited, ByClock
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.tilling.matter import till_due
from mindful_crate.core.world.acts import (
    Command,
    CountsDue,
    HostAnswers,
    RefillDue,
    ReleaseDue,
    Stamp,
    TaskDue,
    TillDue,
    WaveDue,
)
from mindful_crate.core.world.decide import enact
from mindful_crate.core.world.events import Entry
from mindful_crate.core.world.fold import apply

HOST = PersonId("host")
"""Who acts when the host stand-in answers."""

Today = Callable[[datetime], date]
"""The site's local date at a moment; the shell knows time zones."""


CLOCK = PersonId("clock")
"""Who acts when a time has come."""


def later(clock: datetime) -> datetime:
    """When something may be done at one site after another's clock showed that."""
    return clock + timedelta(seconds=1)


def _midnight(at: datetime, today: Today) -> datetime:
    """When the day of a moment began at the site, to the second."""
    low, high, day = at - timedelta(hours=27), at, today(at)
    while high - low > timedelta(seconds=1):
        middle = low + (high - low) // 2
        low, high = (low, middle) if today(middle) == day else (middle, high)
    return high.replace(microsecond=0)


def next_time(since: datetime, minute: int, today: Today) -> datetime:
    """The next moment after ``since`` at which a site's clock shows this minute of the day. The shell alone knows time zones, and tells
    the date of a moment; so midnight is looked for. On the two days a year on which clocks are changed it may be an hour beside."""
    day = since
    while True:
        found = _midnight(day, today) + timedelta(minutes=minute)
        if found > since:
            return found
        day = day + timedelta(days=1)


def stamped(state: State, id_: str, at: datetime, today: Today, who: PersonId) -> Stamp:
    """A stamp of a moment. Midnight is looked for once a day; on the days on which clocks are changed its minute may be an hour beside."""
    midnights: dict[date, datetime] = state.memory.setdefault("midnights", {})
    day = today(at)
    if day not in midnights:
        midnights[day] = _midnight(at, today)
    minute = (at - midnights[day]) // timedelta(minutes=1)
    return Stamp(id_, at, day, who, minute=max(0, min(minute, 24 * 60 - 1)))


def due_command(state: State, until: datetime, today: Today) -> Command | None:
    """What happens next by ``until`` without anybody's doing: the host stand-in answers, or a task's time has come. The id is of the message
    and its turn, or of the task, so it is done once."""
    message = state.due(until)
    timed = state.tasks.due(until, lambda since, minute: next_time(since, minute, today))
    for due, name, act in sorted(_runs_due(state, until, today), key=lambda run: run[:2])[:1]:
        if due <= min(timed[0] if timed else until, message.due if message and message.due else until):
            at = max(due, state.clock)
            return Command(stamped(state, f"clock:{name}:{due:%Y%m%d%H%M%S}", at, today, CLOCK), act)
    if timed is not None and (message is None or message.due is None or timed[0] < message.due):
        at = max(timed[0], state.clock)
        since, _ = state.tasks.timed[timed[1]]
        return Command(stamped(state, f"clock:{timed[1]}:{since:%Y%m%d%H%M%S}", at, today, CLOCK), TaskDue(timed[1]))
    if message is None:
        return None
    assert message.due is not None
    at = max(message.due, state.clock)
    turn = f":{message.turn}" if message.turn else ""
    return Command(stamped(state, f"host:{message.number}{turn}", at, today, HOST), HostAnswers(message.number))


DUE = {ByClock.RELEASES: ReleaseDue, ByClock.COUNTS: CountsDue, ByClock.SHELVES: RefillDue}
"""What is asked when its time has come."""


def _runs_due(
    state: State, until: datetime, today: Today
) -> Iterator[tuple[datetime, str, WaveDue | ReleaseDue | CountsDue | RefillDue | TillDue]]:
    """What runs by the clock, for orders that wait and for counts, of that whose time comes by ``until``. When that is is worked out once."""
    times: dict[Awaited, tuple[datetime, int]] = state.memory.setdefault("runs due", {})

    def when(awaited: Awaited) -> tuple[datetime, int]:
        if awaited not in times:
            times[awaited] = min((next_time(awaited.since, m, today), m) for m in awaited.minutes)
        return times[awaited]

    for plan, awaited in state.waves_awaited.all().items() if len(state.waves_awaited) else ():
        if (due := when(awaited)[0]) <= until:
            yield due, plan, WaveDue(plan, due)
    for run, awaited in state.runs_awaited.all().items() if len(state.runs_awaited) else ():
        due, minute = when(awaited)
        if due <= until:
            yield due, run.value, DUE[run](minute, due)
    if len(state.tills) and (due_ := till_due(state)) is not None and due_ <= until:
        yield due_, "till", TillDue(due_)


class World:
    """One running floor in memory."""

    def __init__(self, ground: Ground, settings: Settings, rulebook: Rulebook, today: Today) -> None:
        self.rulebook = rulebook
        self.today = today
        self.state = State(ground, settings)
        self.log: list[Entry] = []
        self._by_id: dict[str, Entry] = {}
        self._not_before: datetime | None = None

    def knows(self, command: str) -> bool:
        """Was a command of that id carried out?"""
        return command in self._by_id

    def begins_at(self, at: datetime) -> None:
        """Let the next command be no earlier, since something was done elsewhere by then."""
        self._not_before = at

    def run(self, command: Command) -> Entry:
        """Carry a command out, after whatever the host had to answer before it. Sent twice, answered once."""
        known = self._by_id.get(command.stamp.id)
        if known:
            return known
        self.settle(command.stamp.at)
        entry = self._append(command)
        self.settle(self.clock_after(command.stamp.at))
        return entry

    def settle(self, until: datetime) -> None:
        """Let the host stand-in answer everything due by ``until``."""
        while (command := due_command(self.state, until, self.today)) is not None:
            self._append(command)

    def clock_after(self, at: datetime) -> datetime:
        """When the next command of a rehearsal comes: some seconds on."""
        settings = self.state.settings
        if settings.kind is WorldKind.LIVE:
            return at
        return max(at, self.state.clock) + timedelta(seconds=settings.act_seconds)

    def stamp(self, id_: str, actor: PersonId) -> Stamp:
        """A stamp of the world's clock as it stands."""
        at = self.state.settings.starts if not self.log else self.clock_after(self.state.clock)
        if self._not_before is not None and self._not_before > at:
            at = self._not_before
        return stamped(self.state, id_, at, self.today, actor)

    def _append(self, command: Command) -> Entry:
        entry = enact(self.state, self.rulebook, command)
        self.log.append(entry)
        self._by_id[command.stamp.id] = entry
        return entry

    def branch(self, seq: int, rulebook: Rulebook | None = None) -> World:
        """A child world that goes on from after entry ``seq``, perhaps under another rulebook; this one stays."""
        if not 0 <= seq <= len(self.log):
            raise ValueError(f"the log has entries 1 to {len(self.log)}, not {seq}")
        child = World(self.state.ground, self.state.settings, rulebook or self.rulebook, self.today)
        for entry in self.log[:seq]:
            apply(child.state, entry)
            child.log.append(entry)
            child._by_id[entry.command.stamp.id] = entry
        return child
