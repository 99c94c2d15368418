"""Step plans: which receipt steps apply to which goods, where, by whom, what begins them, and when the host is told."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum
from functools import cache
from typing import Any, Protocol, TypeVar

from mindful_crate.core.catalog.goods import Order, OrderKind
from mindful_crate.core.catalog.ids import (
    BinCode,
    CrewId,
    ItemCode,
    OrderClassId,
    PartnerCode,
    PlanId,
    RuleId,
    SiteCode,
    TargetId,
    ZoneCode,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Word, record
from mindful_crate.core.rulebook.bin_rules import BinRule, IfNothing, LookIn, Target


class BookingPoint(StrEnum):
    """When arrived goods are told to the host."""

    LINE_CONFIRMED = "line_confirmed"
    """As each line is confirmed, of goods that are received loose; each is a receipt of its own. On plates: when one is finished."""
    PLATE_FINISHED = "plate_finished"
    LINES_DONE = "lines_done"
    """Once nothing of the orders of a receipt is open any more: with all that arrived of them before."""
    LINES_ASKED = "lines_asked"
    """Then who finishes the last of it says whether now or later."""
    PUT_AWAY = "put_away"
    BY_HAND = "by_hand"


class Begins(StrEnum):
    """What begins a step, once the one before it is finished."""

    ON_ARRIVAL = "on_arrival"
    """It begins by itself: its task is made at once."""
    ON_DEMAND = "on_demand"
    """Goods wait until the office makes the task, perhaps of several together, or a worker scans them."""
    ON_NEED = "on_need"
    """Goods wait until something farther on lacks them."""


class ReceiptBy(StrEnum):
    """Who makes the receipt document."""

    FIRST_SCAN = "first_scan"
    OFFICE = "office"
    """Until then the order is on no handset."""
    NEVER = "never"


@record
class Found:
    """A place that is found when it is needed: in a zone, in walking order, or, without one, by the bin rules of the step's
    purpose."""

    zone: ZoneCode | None = None


Place = BinCode | Found
"""Where a step happens: in a bin that is named, or in one that is found."""
BY_RULES = Found()
STEP = RuleId("step")
"""The rule that a step's own place stands for in a trail."""


@cache
def only_there(at: Place) -> tuple[BinRule, ...]:
    """A step's own place as a list of bin rules: that bin, or the first in walking order of its zone, and else the worker is
    asked."""
    look = LookIn(zones=(at.zone,) if at.zone else ()) if isinstance(at, Found) else LookIn(bins=(at,))
    return (BinRule(STEP, (Target(TargetId("step"), look),), split=True, if_nothing=IfNothing.ASK),)


def fixed(at: Place) -> BinCode | None:
    """The one bin that is named; None when it is found."""
    return None if isinstance(at, Found) else at


@record
class AnnounceStep:
    """Goods are announced: until a notice says that they come, they are not received."""

    on: bool = False


@record
class UnloadStep:
    """Goods are unloaded and counted at the door, before they are received."""

    on: bool = False
    at: Place = BY_RULES
    crew: CrewId | None = None
    """None: any crew that has a flow for it; the same of other steps."""
    undo: bool = False


class Over(StrEnum):
    """What becomes of more than was ordered, up to a limit; beyond it, it is refused."""

    REFUSE = "refuse"
    WARN = "warn"
    """Whoever receives it is asked first."""
    ACCEPT = "accept"
    HOLD = "hold"
    """It is taken apart, by a receipt of its own: held and not booked until the office takes it, or sends it back."""


class DeliveryNote(StrEnum):
    """Is the number of the delivery note asked for?"""

    NO = "no"
    OPTIONAL = "optional"
    REQUIRED = "required"


@record
class Tolerance:
    """How far a line may be from what was ordered, over all its receipts: per cent of it, or so many base units if that is more."""

    percent: int = 0
    units: int = 0

    def of(self, quantity: int) -> int:
        """So much of a quantity, in base units; a part of one does not count."""
        return max(quantity * self.percent // 100, self.units)


EXACT = Tolerance()


@record
class ReceiveStep:
    """Receiving; ``into`` is where finished plates stand until they go on. ``over``: what becomes of up to ``more`` than was ordered;
    when no more than ``less`` lacks, the rest of a line is not waited for."""

    into: Place
    on: bool = True
    crew: CrewId | None = None
    document: ReceiptBy = ReceiptBy.FIRST_SCAN
    undo: bool = False
    over: Over = Over.REFUSE
    more: Tolerance = EXACT
    less: Tolerance = EXACT
    note: DeliveryNote = DeliveryNote.NO


@record
class InspectStep:
    """Goods wait for an inspection before they are put away: of every how-manyeth receipt of an item from a partner, the first
    always. ``sample``: so many pieces are looked at, in base units, and all only when one of them is not as it should be; 0: all.
    ``sends``: who finishes a receipt may send it in or past."""

    on: bool = False
    at: Place = BY_RULES
    crew: CrewId | None = None
    begins: Begins = Begins.ON_ARRIVAL
    undo: bool = False
    every: int = 1
    sample: int = 0
    sends: bool = False


@record
class PutAwayStep:
    """Putting away what was received. Off: goods stay where they were received. Who does it, the recipes say."""

    on: bool = True
    at: Place = BY_RULES
    begins: Begins = Begins.ON_ARRIVAL
    undo: bool = False


@record
class Only:
    """What a plan is for alone, beside the kind of order: one of these, or nothing."""

    item: ItemCode | None = None
    group: str | None = None
    partner: PartnerCode | None = None
    partner_group: str | None = None
    order_class: OrderClassId | None = None

    @property
    def named(self) -> tuple[str, ...]:
        """What is named, the nearest first."""
        return tuple(name for name in ONLY if getattr(self, name) is not None)


ONLY = ("item", "group", "partner", "partner_group", "order_class")
"""What a plan may be for alone, by rank."""
ANYTHING = Only()


@record
class StepPlan:
    """The receipt steps of some goods: those of ``order_kind``, or of all orders when it is None; of them ``only`` some."""

    id: PlanId
    name: str
    receive: ReceiveStep
    put_away: PutAwayStep = PutAwayStep()
    booking: BookingPoint | None = None
    """None: as the settings say."""
    order_kind: OrderKind | None = None
    site: SiteCode | None = None
    only: Only = ANYTHING
    announce: AnnounceStep = AnnounceStep()
    unload: UnloadStep = UnloadStep()
    inspect: InspectStep = InspectStep()
    on: bool = True


class Scoped(Protocol):
    """A plan for some goods: those that come, or those that go."""

    @property
    def id(self) -> str:
        """Its own name in the rulebook."""
        ...

    @property
    def name(self) -> str:
        """What it is called."""
        ...

    @property
    def order_kind(self) -> OrderKind | None:
        """Of these orders; None: of all."""
        ...

    @property
    def site(self) -> SiteCode | None:
        """Its layer."""
        ...

    @property
    def only(self) -> Only:
        """Of them some alone."""
        ...

    @property
    def on(self) -> bool:
        """Does it hold?"""
        ...


P = TypeVar("P", bound=Scoped)


def rank(plan: Scoped) -> tuple[int, bool, bool]:
    """The lowest comes first: item, item group, partner, partner group, class of order, none of them; then the kind of order before all
    orders; then the site's own plan before one of all sites."""
    named = plan.only.named
    return ONLY.index(named[0]) if named else len(ONLY), plan.order_kind is None, plan.site is None


def ties(plans: Iterable[P]) -> list[tuple[P, P]]:
    """Plans for the same goods at the same rank: each with the first of them."""
    first: dict[Any, P] = {}
    found = []
    for plan in plans:
        if plan.on:
            before = first.setdefault((plan.order_kind, plan.site, plan.only), plan)
            if before is not plan:
                found.append((before, plan))
    return found


def check_ties(before: Iterable[Scoped], after: Iterable[Scoped], list_: str = "step_plans") -> None:
    """Refuse a change after which two plans tie that did not before."""
    known = {(a.id, b.id) for a, b in ties(before)}
    for first, second in ties(after):
        if (first.id, second.id) not in known:
            says = (
                f"{second.name} and {first.name} would be for the same goods, at the same rank: neither would stand before the "
                "other. Say what else one of them is only for, or switch one of them off first."
            )
            raise Refusal("plans_tie", says, f"{list_}/{second.id}")


@record
class Asked:
    """Goods of an order line, as plans ask for them. Without an item: the order as a whole, which no plan for an item or an item
    group is for."""

    site: SiteCode
    kind: OrderKind
    item: str = ""
    group: str = ""
    partner: str = ""
    partner_group: str = ""
    order_class: str = ""


def asked_of(ground: Ground, order: Order, item: ItemCode | None = None, order_class: str = "") -> Asked:
    """An order of a class, or its lines of an item, as plans ask for them."""
    goods = ground.items.get(item) if item else None
    partner = ground.partners.get(order.partner)
    group = partner.group if partner else ""
    return Asked(
        order.site, order.kind, goods.code if goods else "", goods.group if goods else "", order.partner, group,
        order_class,
    )  # fmt: skip


def is_for(plan: Scoped, asked: Asked) -> bool:
    """Are goods within a plan's scope?"""
    only = plan.only
    return (
        plan.on
        and plan.site in (None, asked.site)
        and plan.order_kind in (None, asked.kind)
        and all(getattr(only, name) == getattr(asked, name) for name in only.named)
    )


def goes_otherwise(plan: StepPlan, other: StepPlan) -> bool:
    """Do two plans differ in what comes after receiving?"""
    return (plan.inspect, plan.put_away) != (other.inspect, other.put_away)


class Need(Word):
    """A need that becomes tasks."""

    PUT_AWAY = "put_away"
    INSPECT = "inspect"
    PICK = "pick"
    """What a wave keeps for orders is fetched, and brought to the first station after picking."""
    REPLENISH = "replenish"
    """What lies in reserve is brought to where it is picked."""
    MOVE = "move"
    """A worker moves goods or plates by themselves; no recipe is needed."""
