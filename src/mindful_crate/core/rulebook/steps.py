"""Step plans: which receipt steps apply, where, and when the host is told."""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import BinCode, CrewId, PlanId, RecipeId, SiteCode
from mindful_crate.core.record import Word, record


class BookingPoint(StrEnum):
    """When arrived goods are told to the host."""

    PLATE_FINISHED = "plate_finished"
    PUT_AWAY = "put_away"
    BY_HAND = "by_hand"


@record
class ReceiveStep:
    """Receiving; ``into`` is the bin where finished plates stand until they go on."""

    into: BinCode
    on: bool = True


@record
class PutAwayStep:
    """Putting away what was received. Off: goods stay where they were received."""

    on: bool = True


@record
class StepPlan:
    """The receipt steps of some orders: those of ``order_kind``, or all when it is None."""

    id: PlanId
    name: str
    receive: ReceiveStep
    put_away: PutAwayStep = PutAwayStep()
    booking: BookingPoint | None = None
    """None: as the settings say."""
    order_kind: OrderKind | None = None
    site: SiteCode | None = None


class Need(Word):
    """A need that becomes tasks."""

    PUT_AWAY = "put_away"
    MOVE = "move"
    """A worker moves goods or plates by themselves; no recipe is needed."""


class Grouping(StrEnum):
    """How much work one task holds."""

    PLATE = "plate"


@record
class Recipe:
    """How a need becomes tasks. This slice knows one task a plate, made when the plate is finished."""

    id: RecipeId
    need: Need
    crew: CrewId
    grouping: Grouping = Grouping.PLATE
    site: SiteCode | None = None
