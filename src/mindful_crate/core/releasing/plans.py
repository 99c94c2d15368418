"""Wave plans by their criteria: what each takes, and what an order is to them.

Times are whole minutes of the site's own time from any beginning, so that a week with its weekend is minutes like any other. Weights
are whole milligrams.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import field

from mindful_crate.core.record import record
from mindful_crate.core.rulebook.waves import Of


@record
class Span:
    """Whole numbers from ``least`` to ``most``, both within; None where it is open."""

    least: int | None = None
    most: int | None = None

    def holds(self, value: int) -> bool:
        """Is a number within?"""
        return (self.least is None or value >= self.least) and (self.most is None or value <= self.most)


@record
class GroupWish:
    """Item groups an order should have, or not."""

    of: Of
    groups: frozenset[str]

    def holds(self, groups: frozenset[str]) -> bool:
        """Does it hold for the groups of an order's lines?"""
        if self.of is Of.ALL:
            return groups <= self.groups
        return bool(groups & self.groups) == (self.of is Of.ANY)


@record
class Runs:
    """When a plan runs, and which orders it then takes: those released by then that are due so many minutes after the run."""

    times: tuple[int, ...]
    due_after: Span

    def holds(self, released: int, due: int) -> bool:
        """Is there a run that takes it?"""
        return any(released <= time and self.due_after.holds(due - time) for time in self.times)


@record
class WavePlan:
    """The criteria of a wave plan; what is empty asks for nothing. An order goes to the first plan of a list that takes it."""

    id: str
    carriers: frozenset[str] = frozenset()
    partners: frozenset[str] = frozenset()
    partner_groups: frozenset[str] = frozenset()
    priority: Span = Span()
    weight_mg: Span = Span()
    lines: Span = Span()
    groups: GroupWish | None = None
    runs: Runs | None = None
    classes: frozenset[str] = frozenset()

    @property
    def takes_everything(self) -> bool:
        """Does it ask for nothing at all?"""
        return self == WavePlan(self.id)


@record
class Waiting:
    """An order as wave plans see it. ``number`` is empty when it is made up."""

    number: str
    partner: str
    carrier: str
    priority: int
    weight_mg: int
    lines: int
    groups: frozenset[str]
    released: int
    due: int
    order_class: str = ""
    """Empty: of none."""


@record
class Known:
    """What there is, so that nobody is warned of orders that cannot be. ``goes_with``: the carriers of each partner; ``lightest_mg``: the
    least a line of an item group weighs; how far the other facts go; and the classes of orders, each with the partners and carriers of which
    there can be orders of it, and what it is ``called``."""

    goes_with: Mapping[str, tuple[str, ...]]
    partner_group: Mapping[str, str]
    lightest_mg: Mapping[str, int]
    priority: Span = Span(0, 9)
    most_lines: int = 500
    most_weight_mg: int = 30_000_000_000
    released: Span = Span(0, 7 * 24 * 60)
    due_by: int = 14 * 24 * 60
    classes: Mapping[str, frozenset[tuple[str, str]]] = field(default_factory=dict)
    called: Mapping[str, str] = field(default_factory=dict)

    def sorts(self, partner: str, carrier: str) -> Iterator[str]:
        """The classes that orders for a partner by a carrier can be of; empty: of none."""
        yield ""
        for order_class, pairs in self.classes.items():
            if (partner, carrier) in pairs:
                yield order_class

    def is_possible(self, order: Waiting) -> bool:
        """Can there be such an order?"""
        count = len(order.groups)
        if not count or order.lines < count or order.lines > self.most_lines or order.weight_mg > self.most_weight_mg:
            return False
        weights = [self.lightest_mg[g] for g in order.groups]
        least = sum(weights) + (order.lines - count) * min(weights)
        return (
            order.carrier in self.goes_with[order.partner]
            and order.order_class in self.sorts(order.partner, order.carrier)
            and order.weight_mg >= least
            and self.priority.holds(order.priority)
            and self.released.holds(order.released)
            and order.released <= order.due <= self.due_by
        )


def takes(plan: WavePlan, order: Waiting, known: Known) -> bool:
    """Does a plan take an order?"""
    return (
        (not plan.classes or order.order_class in plan.classes)
        and (not plan.carriers or order.carrier in plan.carriers)
        and (not plan.partners or order.partner in plan.partners)
        and (not plan.partner_groups or known.partner_group.get(order.partner, "") in plan.partner_groups)
        and plan.priority.holds(order.priority)
        and plan.weight_mg.holds(order.weight_mg)
        and plan.lines.holds(order.lines)
        and (plan.groups is None or plan.groups.holds(order.groups))
        and (plan.runs is None or plan.runs.holds(order.released, order.due))
    )
