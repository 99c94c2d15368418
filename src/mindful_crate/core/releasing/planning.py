"""Which wave a released order belongs to: the first plan that takes it, why others do not, and what fits into one wave."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from datetime import date

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import OrderNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve, record
from mindful_crate.core.releasing import plans
from mindful_crate.core.rulebook.bin_rules import Between
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.orders import KILOGRAM, OrderClass, one_of, sized, unmet
from mindful_crate.core.rulebook.waves import Limits, WavePlan
from mindful_crate.core.rulebook.words.parts import counted


@record
class Size:
    """What of an order goes into a wave: lines, and their weight in milligrams; and the class of the order."""

    order: Order
    lines: int
    weight_mg: int
    groups: frozenset[str]
    order_class: OrderClass | None = None


def size_of(state: State, book: Rulebook, order: Order) -> Size:
    """What of an order is to go out: of one that waits, what was released."""
    release = state.releases.get(order.number)
    only = release.lines if release and release.waits else ()
    size = sized(state.ground, [x for x in order.lines if not only or x.no in only])
    return Size(order, size.lines, size.weight_mg, size.groups, book.class_of(state.ground, order))


def why_not(ground: Ground, plan: WavePlan, size: Size, today: date) -> str | None:
    """Why a plan does not take an order; None: it takes it."""
    wants, order, mine = plan.wants, size.order, size.order_class
    if not one_of(mine, wants.order_classes):
        return f"it is of class {mine.name}" if mine else "it is of no class"
    if (says := unmet(ground, wants, order, size)) is not None:
        return says
    if wants.within_days is not None and (order.leaves - today).days > wants.within_days:
        return f"it leaves on {order.leaves.isoformat()}"
    return None


def plan_of(state: State, book: Rulebook, order: Order, today: date) -> WavePlan | None:
    """The first plan that takes an order."""
    plans = book.waves_at(state.settings.site)
    if not plans:
        return None
    size = size_of(state, book, order)
    return next((p for p in plans if why_not(state.ground, p, size, today) is None), None)


def to_come(state: State, plans: Iterable[WavePlan], size: Size, today: date) -> Iterator[tuple[WavePlan, int]]:
    """Plans that take an order while it waits, and in how many days: when the day it leaves is nearer, it may be one's that is asked before. The last
    is in 0 days, if any plan takes it as it is today."""
    for plan in plans:
        within = plan.wants.within_days
        if why_not(state.ground, evolve(plan, wants=evolve(plan.wants, within_days=None)), size, today) is None:
            days = 0 if within is None else max(0, (size.order.leaves - today).days - within)
            yield plan, days
            if not days:
                return


def awaited_after(days: int, cut_off: int = 0) -> int:
    """So many minutes from now a plan is to run that takes an order in so many days; not before the cut-off. The run on the day before may be among
    them, since the core knows no time zones."""
    return max(cut_off, (days - 1) * DAY)


DAY = 24 * 60
NO_CARRIER = "no carrier"
"""Stands for none where plans are weighed against all orders that can be."""


def criteria(plan: WavePlan) -> plans.WavePlan:
    """What a plan asks for, as numbers that can be cut into classes (:mod:`.reach`); the day it runs is day 0."""
    wants = plan.wants
    days = None if wants.within_days is None else plans.Runs((0,), plans.Span(None, (wants.within_days + 1) * DAY - 1))
    return plans.WavePlan(
        plan.name, frozenset(wants.carriers), frozenset(wants.partners), frozenset(wants.partner_groups), _span(wants.order_priority),
        _span(wants.order_weight, KILOGRAM), _span(wants.order_lines), plans.GroupWish(wants.of, frozenset(wants.groups)) if wants.groups else None,
        days, frozenset(wants.order_classes),
    )  # fmt: skip


def as_waiting(size: Size, today: date) -> plans.Waiting:
    """An order as those numbers see it; day 0 is today."""
    order = size.order
    due = max(0, (order.leaves - today).days) * DAY
    return plans.Waiting(
        order.number, order.partner, order.carrier or NO_CARRIER, order.priority, size.weight_mg, size.lines, size.groups, 0, due,
        size.order_class.id if size.order_class else "",
    )  # fmt: skip


def _span(of: Between, unit: int = 1) -> plans.Span:
    return plans.Span(None if of.least is None else of.least * unit, None if of.most is None else of.most * unit)


def all_orders(ground: Ground, classes: Sequence[OrderClass] = ()) -> plans.Known | None:
    """All orders that there can be by a catalogue: any partner may go by any carrier, or by none, and be of any class that takes such. None:
    nothing can be ordered."""
    carriers = (NO_CARRIER, *sorted(c.code for c in ground.opening.carriers))
    groups: dict[str, str] = {p.code: p.group for p in ground.partners.values()}
    lightest: dict[str, int] = {}
    for item in ground.items.values():
        weight = item.bulk(1)[1]
        lightest[item.group] = min(weight, lightest.get(item.group, weight))
    if not groups or not lightest:
        return None
    sorts = {
        str(c.id): frozenset((p, by) for p in groups for by in carriers if _may_be(c, p, groups[p], by))
        for c in classes
    }
    return plans.Known(
        dict.fromkeys(groups, carriers), groups, lightest, released=plans.Span(0, 0), classes=sorts,
        called={str(c.id): c.name for c in classes},
    )  # fmt: skip


def _may_be(kind: OrderClass, partner: str, group: str, carrier: str) -> bool:
    """Can an order of a class be for a partner, by a carrier?"""
    return (
        (not kind.partners or partner in kind.partners)
        and (not kind.partner_groups or group in kind.partner_groups)
        and (not kind.carriers or carrier in kind.carriers)
    )


@record
class LeftOut:
    """An order that a run does not take, and why."""

    order: OrderNo
    says: str


def filled(limits: Limits, sizes: Iterable[Size]) -> tuple[list[Size], list[LeftOut]]:
    """Orders as far as one wave holds them, in their order; a smaller one may go where a larger one does not fit. One that is larger than any
    wave goes alone."""
    taken: list[Size] = []
    left: list[LeftOut] = []
    lines = weight = 0
    for each in sizes:
        full = _over(limits, len(taken) + 1, lines + each.lines, weight + each.weight_mg)
        if taken and full:
            left.append(LeftOut(each.order.number, full))
            continue
        taken.append(each)
        lines, weight = lines + each.lines, weight + each.weight_mg
    return taken, left


def _over(limits: Limits, orders: int, lines: int, weight_mg: int) -> str:
    """Why so much is more than a wave holds; empty when it is not."""
    if limits.most_orders is not None and orders > limits.most_orders:
        return f"the wave holds {counted(limits.most_orders, 'order')}: it waits for the next"
    if limits.most_lines is not None and lines > limits.most_lines:
        return f"the wave holds {counted(limits.most_lines, 'line')}: it waits for the next"
    if limits.most_kilograms is not None and weight_mg > limits.most_kilograms * KILOGRAM:
        return f"the wave holds {limits.most_kilograms:,} kg: it waits for the next"
    return ""


def as_they_go(orders: Sequence[Order]) -> list[Order]:
    """Orders as they are given stock: by priority, by the day they leave, by number."""
    return sorted(orders, key=lambda o: (o.priority, o.leaves, o.number))
