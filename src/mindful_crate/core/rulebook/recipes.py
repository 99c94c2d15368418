"""Task recipes: how a need becomes tasks."""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.ids import CrewId, LegId, RecipeId, SiteCode
from mindful_crate.core.record import Word, record
from mindful_crate.core.rulebook.bin_rules import Conditions
from mindful_crate.core.rulebook.steps import Begins, Need, Place
from mindful_crate.core.rulebook.times import minute_of


class Grouping(StrEnum):
    """What becomes one task together, of what is made at once."""

    PLATE = "plate"
    """Each plate by itself; of loose goods what goes to one bin."""
    RECEIPT = "receipt"
    ORDER = "order"
    ZONE = "zone"
    """All that stands in one zone, of whatever receipts or orders."""
    SHIPMENT = "shipment"
    """All that leaves together."""
    WAVE = "wave"


GROUPINGS = {
    Need.PUT_AWAY: (Grouping.PLATE, Grouping.RECEIPT, Grouping.ORDER, Grouping.ZONE),
    Need.PICK: (Grouping.ORDER, Grouping.SHIPMENT, Grouping.ZONE, Grouping.WAVE, Grouping.PLATE),
    Need.REPLENISH: (Grouping.PLATE, Grouping.ZONE),
}
"""How what is made at once may be grouped, by what it is for."""


class Cause(Word):
    """Why something is brought from reserve."""

    WANTED = "wanted"
    """Released orders are promised it, and where they are picked from there is not enough."""
    LEAST = "least"
    """A shelf holds less than its least."""
    FILL = "fill"
    """The office has shelves filled up to their most."""


class Sequencing(StrEnum):
    """In which order the places of a task come."""

    WALK_ORDER = "walk_order"
    TOUR = "tour"
    """The shortest tour from where the goods are."""
    HEAVY_FIRST = "heavy_first"
    FEFO = "fefo"
    """What expires first."""


class Starts(StrEnum):
    """When a task may be taken."""

    AT_ONCE = "at_once"
    HELD = "held"
    """Once the office lets it go."""
    AT_TIME = "at_time"
    """From a time of the day on: the next such time after it was made."""


@record
class Leg:
    """A part of the way that ends at a hand-over point: one crew brings the goods there, another takes them on."""

    id: LegId
    crew: CrewId
    to: Place
    next: Begins = Begins.ON_ARRIVAL
    """What begins the next part of the way."""


@record
class Caps:
    """The most that one task holds; None: however much. What is over begins another."""

    things: int | None = None
    """Plates, or kinds of loose goods."""
    pieces: int | None = None
    """Base units."""
    kilograms: int | None = None
    litres: int | None = None


NO_CAPS = Caps()


@record
class Recipe:
    """How a need becomes tasks, for goods for which its conditions hold. The hand-overs of ``legs`` come one after another; the
    rest of the way is ``crew``'s."""

    id: RecipeId
    need: Need
    crew: CrewId
    grouping: Grouping = Grouping.PLATE
    site: SiteCode | None = None
    applies: Conditions = Conditions()
    legs: tuple[Leg, ...] = ()
    most: Caps = NO_CAPS
    sequence: Sequencing = Sequencing.WALK_ORDER
    starts: Starts = Starts.AT_ONCE
    priority: int = 0
    """Of its tasks, 0 to 9; the highest comes first."""
    on: bool = True
    cause: Cause | None = None
    """Of what is brought from reserve: only what is brought for this; None: whatever for."""
    time: str = ""
    """From when on its tasks may be taken, by the site's clock, as ``14:00``; of those that start at a time."""

    @property
    def minute(self) -> int | None:
        """The time of day as minutes after midnight; None when that is not how it starts, or when no time is named."""
        return minute_of(self.time) if self.starts is Starts.AT_TIME else None

    def crew_of(self, leg: int) -> CrewId:
        """Who goes a part of the way."""
        return self.legs[leg].crew if leg < len(self.legs) else self.crew
