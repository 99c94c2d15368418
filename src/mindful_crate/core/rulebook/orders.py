"""Classes of orders: what an order is by rule, beside the kind the host gives it. An order is of the first class of a list that takes it."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from decimal import Decimal
from typing import Protocol

from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine
from mindful_crate.core.catalog.ids import CarrierCode, OrderClassId, PartnerCode, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.memo import Memo
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import Between
from mindful_crate.core.rulebook.scope import own_first
from mindful_crate.core.rulebook.waves import Of
from mindful_crate.core.rulebook.words.parts import ORDERS, Names, any_of, between, counted

KILOGRAM = 1_000_000
"""Milligrams."""


class OrderWish(Protocol):
    """Which orders are meant; what is empty asks for nothing."""

    @property
    def carriers(self) -> tuple[CarrierCode, ...]:
        """By these."""
        ...

    @property
    def partners(self) -> tuple[PartnerCode, ...]:
        """For these."""
        ...

    @property
    def partner_groups(self) -> tuple[str, ...]:
        """For partners of these."""
        ...

    @property
    def groups(self) -> tuple[str, ...]:
        """Of these item groups, as ``of`` says."""
        ...

    @property
    def of(self) -> Of:
        """How they are asked for."""
        ...

    @property
    def order_priority(self) -> Between:
        """Of such a priority."""
        ...

    @property
    def order_lines(self) -> Between:
        """With so many lines."""
        ...

    @property
    def order_weight(self) -> Between:
        """So many kilograms."""
        ...


@record
class OrderClass:
    """Orders of one class. Empty conditions ask for nothing."""

    id: OrderClassId
    name: str
    order_kinds: tuple[OrderKind, ...] = ()
    channels: tuple[str, ...] = ()
    """Where they came from."""
    carriers: tuple[CarrierCode, ...] = ()
    partners: tuple[PartnerCode, ...] = ()
    partner_groups: tuple[str, ...] = ()
    groups: tuple[str, ...] = ()
    of: Of = Of.ALL
    order_priority: Between = Between()
    order_lines: Between = Between()
    order_weight: Between = Between()
    order_value: Between = Between()
    """In whole units of the one currency, by what items are worth."""
    notice: bool = False
    """Only those of which the partner wants to be told before."""
    site: SiteCode | None = None
    on: bool = True


CONDITIONS = (
    "order_kinds", "channels", "carriers", "partners", "partner_groups", "groups", "order_priority", "order_lines", "order_weight", "order_value",
    "notice",
)  # fmt: skip
"""What a class may ask for."""


class HowLarge(Protocol):
    """What of an order counts where it is asked how large it is."""

    @property
    def lines(self) -> int:
        """So many."""
        ...

    @property
    def weight_mg(self) -> int:
        """Of all of them, in milligrams."""
        ...

    @property
    def groups(self) -> frozenset[str]:
        """Their item groups."""
        ...


@record
class Sized:
    """Lines of an order, their weight in milligrams, and their item groups."""

    lines: int
    weight_mg: int
    groups: frozenset[str]


def sized(ground: Ground, lines: Sequence[OrderLine]) -> Sized:
    """How large some lines of an order are together."""
    items = ground.items
    weight = sum(items[x.item].bulk(x.quantity)[1] for x in lines)
    return Sized(len(lines), weight, frozenset(items[x.item].group for x in lines))


def worth(ground: Ground, order: Order) -> Decimal:
    """What an order is worth by its items."""
    return sum((ground.items[x.item].value * x.quantity for x in order.lines), Decimal(0))


def unmet(ground: Ground, wish: OrderWish, order: Order, size: HowLarge) -> str | None:
    """Why an order is not meant, in words; None: it is."""
    names = Names(ground)
    if wish.carriers and order.carrier not in wish.carriers:
        return f"it goes by {order.carrier}" if order.carrier else "no carrier is named"
    if wish.partners and order.partner not in wish.partners:
        return f"it is for {names.partner(order.partner)}"
    partner = ground.partners.get(order.partner)
    group = partner.group if partner else ""
    if wish.partner_groups and group not in wish.partner_groups:
        return f"its partner is of {group}" if group else "its partner is of no group"
    if wish.groups:
        theirs, asked = size.groups, frozenset(wish.groups)
        if wish.of is Of.ALL and theirs - asked:
            return f"it has {any_of(sorted(theirs - asked))}"
        if wish.of is Of.ANY and not theirs & asked:
            return f"nothing of it is of {any_of(sorted(asked))}"
        if wish.of is Of.NONE and theirs & asked:
            return f"it has {any_of(sorted(theirs & asked))}"
    if not wish.order_priority.holds(order.priority):
        return f"its priority is {order.priority}, not {between(wish.order_priority)}"
    if not wish.order_lines.holds(size.lines):
        return f"it has {counted(size.lines, 'line')}, not {between(wish.order_lines)}"
    if not _weighs(wish.order_weight, size.weight_mg):
        return f"it weighs {size.weight_mg // KILOGRAM:,} kg, not {between(wish.order_weight)}"
    return None


def _weighs(span: Between, mg: int) -> bool:
    """Is a weight within a range of kilograms?"""
    return (span.least is None or mg >= span.least * KILOGRAM) and (span.most is None or mg <= span.most * KILOGRAM)


def not_of(ground: Ground, kind: OrderClass, order: Order) -> str | None:
    """Why an order is not of a class, in words; None: it would be, if no other stood before."""
    if kind.order_kinds and order.kind not in kind.order_kinds:
        return f"it is one of {ORDERS[order.kind].lower()}"
    if kind.channels and order.channel not in kind.channels:
        return f"it came by {order.channel}" if order.channel else "it names no channel"
    if kind.notice and not order.notice_needed:
        return "the partner need not be told before"
    if (says := unmet(ground, kind, order, sized(ground, order.lines))) is not None:
        return says
    if not kind.order_value.open:
        value, span = worth(ground, order), kind.order_value
        if (span.least is not None and value < span.least) or (span.most is not None and value > span.most):
            return f"it is worth {value:,f}, not {between(span)}"
    return None


CLASSES = Memo()
"""The class of each order, by a rulebook's classes: asked with every scan."""


def class_of(classes: Sequence[OrderClass], ground: Ground, order: Order) -> OrderClass | None:
    """The class of an order: the first that takes it, of those switched on, the site's own first; None: it is of none."""
    if not classes:
        return None

    def find() -> OrderClass | None:
        mine = own_first((c for c in classes if c.on), order.site)
        return next((c for c in mine if not_of(ground, c, order) is None), None)

    return CLASSES.about(classes, ground.hash, order, find)


def one_of(mine: OrderClass | None, classes: Collection[OrderClassId]) -> bool:
    """Is the class of an order among those that are asked for? Where none is, any will do."""
    return not classes or (mine is not None and mine.id in classes)


def covers(one: OrderClass, other: OrderClass) -> bool:
    """Does a class take every order that another takes? Where a condition of it is not plainly weaker, the answer is no."""

    def wider(a: tuple[str, ...], b: tuple[str, ...]) -> bool:
        return not a or (bool(b) and set(b) <= set(a))

    def spans(a: Between, b: Between) -> bool:
        low = a.least is None or (b.least is not None and b.least >= a.least)
        return low and (a.most is None or (b.most is not None and b.most <= a.most))

    alike = one.of is other.of and (
        wider(one.groups, other.groups) if one.of is not Of.NONE else set(one.groups) <= set(other.groups)
    )
    return (
        all(
            wider(getattr(one, n), getattr(other, n))
            for n in ("order_kinds", "channels", "carriers", "partners", "partner_groups")
        )
        and (not one.groups or alike)
        and (not one.notice or other.notice)
        and all(
            spans(getattr(one, n), getattr(other, n))
            for n in ("order_priority", "order_lines", "order_weight", "order_value")
        )
    )
