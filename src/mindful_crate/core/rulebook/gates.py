"""Release gates: what must be so before an order may go. They stand in a row."""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.ids import GateId, OrderClassId, ReleaseRunId, RungId, SiteCode
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.times import minutes_of


class GateKind(StrEnum):
    """What a gate asks."""

    COVER = "cover"
    """How much of the order is on hand. An order has one such gate."""
    WORD = "word"
    """Whether somebody said yes to it."""
    UNTIL = "until"
    """Whether it is early enough."""


class Measure(StrEnum):
    """What of an order is measured; each from nothing to all of it."""

    MEAN = "mean"
    """The mean over its lines, so that metres of rope do not drown anchors."""
    LOWEST = "lowest"
    """The line of which least is there."""
    SUM = "sum"
    """All base units together."""
    VALUE = "value"
    """What is there by what it costs."""


QUANTITIES = (Measure.MEAN, Measure.LOWEST, Measure.SUM)


class GateVerdict(StrEnum):
    """What becomes of an order."""

    STOP = "stop"
    WARN = "warn"
    PASS = "pass"


@record
class Rung:
    """Below so many per cent: this verdict. A threshold that is met exactly is reached."""

    id: RungId
    below: int
    verdict: GateVerdict = GateVerdict.STOP


@record
class Gate:
    """One thing that is asked of an order before it may go.

    By cover: a ladder of thresholds; what is on none of its rungs passes. It is for orders of partners of ``groups``, and ``others`` says
    that it is for all that no other such gate of the site is for. A partner of the catalogue may name one.

    By word, or by the time: it is for every order of partners of ``groups`` and of ``order_classes`` (none: of all), beside what else
    stands in the row. ``whose`` is asked, in words; or it is open ``until`` a time like ``14:00``, ``days`` before the order leaves, and
    whoever comes ``late`` is stopped or warned."""

    id: GateId
    name: str
    measure: Measure = Measure.MEAN
    quantity: Measure = Measure.MEAN
    """What is measured instead of the value, of transfers, and of orders that have none."""
    rungs: tuple[Rung, ...] = ()
    kind: GateKind = GateKind.COVER
    whose: str = ""
    until: str = ""
    days: int = 0
    late: GateVerdict = GateVerdict.STOP
    order_classes: tuple[OrderClassId, ...] = ()
    groups: tuple[str, ...] = ()
    others: bool = False
    site: SiteCode | None = None
    on: bool = True

    @property
    def ladder(self) -> tuple[Rung, ...]:
        """The rungs from the lowest on."""
        return tuple(sorted(self.rungs, key=lambda r: r.below))


@record
class Placed:
    """A gate in the row of an order, and why it stands there."""

    gate: Gate
    whence: str


@record
class ReleaseRun:
    """Releases by the clock: at ``times``, like ``07:00; 13:00``, orders of partners of these groups and of these classes (none: of all) that leave within so many days
    (None: whenever). ``warned``: also those that go with a warning; ``whole``: those alone of which all is on hand."""

    id: ReleaseRunId
    times: str = ""
    partner_groups: tuple[str, ...] = ()
    within_days: int | None = None
    order_classes: tuple[OrderClassId, ...] = ()
    warned: bool = False
    whole: bool = False
    site: SiteCode | None = None
    on: bool = True

    @property
    def minutes(self) -> tuple[int, ...]:
        """Its times as minutes after midnight, in order; what is no time is left out."""
        return minutes_of(self.times)
