"""Release gates: how much of an order must be on hand before it may go."""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.ids import GateId, OrderClassId, ReleaseRunId, RungId, SiteCode
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.times import minutes_of


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
    """A ladder of thresholds; what is on none of its rungs passes. It is for orders of partners of ``groups``, and ``others`` says that it is
    for all that no other gate of the site is for. A partner of the catalogue may name one."""

    id: GateId
    name: str
    measure: Measure = Measure.MEAN
    quantity: Measure = Measure.MEAN
    """What is measured instead of the value, of transfers, and of orders that have none."""
    rungs: tuple[Rung, ...] = ()
    groups: tuple[str, ...] = ()
    others: bool = False
    site: SiteCode | None = None
    on: bool = True

    @property
    def ladder(self) -> tuple[Rung, ...]:
        """The rungs from the lowest on."""
        return tuple(sorted(self.rungs, key=lambda r: r.below))


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
