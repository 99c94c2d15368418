"""Made-up wave plans, and an oracle that tries every order there can be."""

from __future__ import annotations

import random
from collections.abc import Iterator
from itertools import combinations, product

from mindful_crate.core.releasing.plans import GroupWish, Known, Of, Runs, Span, Waiting, WavePlan


def small_world(chance: random.Random) -> tuple[list[WavePlan], Known]:
    """A few plans in a world so small that all of its orders can be tried."""
    known = Known(
        {"P1": ("C1", "C2"), "P2": ("C2",), "P3": ("C1", "C3")}, {"P1": "near", "P2": "near", "P3": "far"},
        {"G1": 1, "G2": 2, "G3": chance.choice([2, 5])}, Span(0, 1), 3, 7, Span(0, 3), 5,
        {"K1": frozenset([("P1", "C1"), ("P3", "C1")]), "K2": frozenset([("P1", "C2"), ("P2", "C2"), ("P3", "C3")])},
    )  # fmt: skip

    def span(low: int, high: int, often: float = 0.4) -> Span:
        if chance.random() > often:
            return Span()
        a, b = sorted((chance.randint(low, high), chance.randint(low, high)))
        return chance.choice([Span(a, b), Span(a, None), Span(None, b)])

    def some(names: str, often: float = 0.35) -> frozenset[str]:
        all_of = names.split()
        return (
            frozenset(chance.sample(all_of, chance.randint(1, len(all_of)))) if chance.random() < often else frozenset()
        )

    plans = []
    for n in range(chance.randint(1, 5)):
        groups = GroupWish(chance.choice(list(Of)), some("G1 G2 G3", 1)) if chance.random() < 0.5 else None
        runs = None
        if chance.random() < 0.5:
            times = tuple(sorted(chance.sample(range(5), chance.randint(1, 2))))
            runs = Runs(times, span(-1, 4, 0.8))
        plans.append(
            WavePlan(
                f"W{n}", some("C1 C2 C3"), some("P1 P2 P3"), some("near far", 0.2), span(0, 1, 0.2), span(0, 7), span(1, 3), groups, runs,
                some("K1 K2", 0.25),
            )
        )  # fmt: skip
    return plans, known


def every_order(known: Known) -> Iterator[Waiting]:
    """All orders a small world can have."""
    sets = [frozenset(s) for k in (1, 2, 3) for s in combinations(known.lightest_mg, k)]
    facts = product(range(2), range(8), range(1, 4), sets, range(4), range(6))
    for (partner, carriers), fact in product(known.goes_with.items(), list(facts)):
        for carrier in carriers:
            for order_class in ("", *known.classes):
                order = Waiting("", partner, carrier, *fact, order_class)
                if known.is_possible(order):
                    yield order
