"""Wave plans: which released orders are worked together, when, how they are picked, within which limits."""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.ids import CarrierCode, OrderClassId, PartnerCode, SiteCode, WavePlanId
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import Between
from mindful_crate.core.rulebook.times import minutes_of


class Of(StrEnum):
    """How an order's item groups are asked for."""

    ALL = "all"
    """All its lines are of these groups."""
    ANY = "any"
    """At least one is."""
    NONE = "none"
    """None is."""


class Method(StrEnum):
    """How a wave is picked."""

    ORDER = "order"
    """One order at a time."""
    CLUSTER = "cluster"
    """Several orders on a cart, each in its own totes."""
    BATCH = "batch"
    """A cart full of lines, sorted by order afterwards."""
    ZONES = "zones"
    """Carts as in a cluster, handed on from zone to zone; each picker stays in one."""


class Goes(StrEnum):
    """How far a wave goes by itself once it is made."""

    GATHERED = "gathered"
    """Its orders stand together; nothing is kept for them yet."""
    HELD = "held"
    """Stock is kept and tasks are made; nobody may take them."""
    LET_GO = "let_go"
    """They may be taken."""


@record
class Wanted:
    """Which orders a plan takes; what is empty asks for nothing."""

    carriers: tuple[CarrierCode, ...] = ()
    partners: tuple[PartnerCode, ...] = ()
    partner_groups: tuple[str, ...] = ()
    groups: tuple[str, ...] = ()
    """Item groups."""
    of: Of = Of.ALL
    """How they are asked for."""
    order_priority: Between = Between()
    order_lines: Between = Between()
    order_weight: Between = Between()
    """In kilograms."""
    within_days: int | None = None
    """Those that leave by so many days from the day it runs; 0: that day."""
    order_classes: tuple[OrderClassId, ...] = ()


ANY_ORDER = Wanted()


@record
class Limits:
    """The most that one wave holds; None: however much. What is over waits for the next."""

    most_orders: int | None = None
    most_lines: int | None = None
    most_kilograms: int | None = None


NO_LIMITS = Limits()


@record
class WavePlan:
    """A plan: an order belongs to the first of a list that takes it. ``to``: where what was picked is brought. A cart holds ``totes``, one
    for each order, or ``cart_lines`` lines where it is sorted afterwards."""

    id: WavePlanId
    name: str
    wants: Wanted = ANY_ORDER
    most: Limits = NO_LIMITS
    method: Method = Method.ORDER
    totes: int = 6
    cart_lines: int = 24
    pickers: int = 2
    times: str = ""
    """When it runs by the site's clock, as ``11:00; 16:30``; empty: by hand."""
    cut_off: int = 0
    """So many minutes before it runs an order must have been released."""
    goes: Goes = Goes.LET_GO
    refills: bool = True
    """Is what is missing where it is picked asked for from reserve?"""
    site: SiteCode | None = None
    on: bool = True

    @property
    def minutes(self) -> tuple[int, ...]:
        """Its times as minutes after midnight, in order; what is no time is left out."""
        return minutes_of(self.times)
