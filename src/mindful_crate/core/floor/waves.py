"""Waves: released orders that are worked together, and how far they are."""

from __future__ import annotations

from datetime import datetime

from mindful_crate.core.catalog.ids import OrderNo, TaskNo, WaveNo, WavePlanId
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.floor.task_keeper import Tasks
from mindful_crate.core.floor.tasks import TaskState
from mindful_crate.core.record import Word, record
from mindful_crate.core.rulebook.waves import Method


class WaveState(Word):
    """How far a wave is."""

    GATHERED = "gathered"
    """Its orders stand together; nothing is kept for them yet."""
    HELD = "held"
    LET_GO = "let_go"
    IN_PROGRESS = "in_progress"
    DONE = "done"
    CANCELLED = "cancelled"


@record
class Wave:
    """A wave, made in entry ``seq`` by a plan, or by a release of its own. ``allocated``: stock was kept for its orders and tasks were
    made; ``held``: why nobody may take them; ``gone``: the entry that let it go, 0 before."""

    number: WaveNo
    plan: WavePlanId | None
    name: str
    method: Method
    orders: tuple[OrderNo, ...]
    seq: int
    made: datetime
    allocated: bool = False
    tasks: tuple[TaskNo, ...] = ()
    held: str = ""
    gone: int = 0
    cancelled: str = ""


class ByClock(Word):
    """What runs by the clock, besides waves."""

    RELEASES = "releases"
    COUNTS = "counts"
    SHELVES = "shelves"


@record
class Awaited:
    """What runs at these minutes of the day is waited for: the next of them after ``since``."""

    since: datetime
    minutes: tuple[int, ...]


def awaiting(since: datetime, minutes: tuple[int, ...]) -> Awaited | None:
    """What is waited for from a moment on; None: nothing, as it never runs."""
    return Awaited(since, minutes) if minutes else None


class Waves(Keeper[WaveNo, Wave]):
    """All waves, and which holds an order."""

    def __init__(self, journal: Journal) -> None:
        super().__init__(journal)
        self._of: dict[OrderNo, dict[WaveNo, None]] = {}

    def changed(self, key: WaveNo, before: Wave | None, after: Wave | None) -> None:
        """Which orders are in it."""
        for order in before.orders if before else ():
            self._of[order].pop(key)
            if not self._of[order]:
                del self._of[order]
        for order in after.orders if after else ():
            self._of.setdefault(order, {})[key] = None

    def has_wave(self, number: WaveNo) -> bool:
        """Is there a wave of that number?"""
        return number in self

    def of_order(self, order: OrderNo) -> list[Wave]:
        """The waves an order is in, the first before the last: what is released later goes in another."""
        return [self[n] for n in sorted(self._of.get(order, ()))]

    def at_work_on(self, order: OrderNo) -> list[Wave]:
        """Of these, those for which stock was kept, and which are not cancelled."""
        return [w for w in self.of_order(order) if w.allocated and not w.cancelled]


def state_of(wave: Wave, tasks: Tasks) -> WaveState:
    """How far a wave is: what was taken of its tasks says whether it is under way or done."""
    if wave.cancelled:
        return WaveState.CANCELLED
    if not wave.allocated:
        return WaveState.GATHERED
    mine = [tasks[n] for n in wave.tasks]
    states = [t.state for t in mine]
    begun = any(t.state in (TaskState.TAKEN, TaskState.DONE) or t.going.parts for t in mine)
    if wave.gone and states and all(s.ended for s in states):
        return WaveState.DONE
    if begun:
        return WaveState.IN_PROGRESS
    return WaveState.HELD if wave.held else WaveState.LET_GO
