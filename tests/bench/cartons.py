"""Cartons for 500 orders, each answer looked over; against packvium, where it is installed (the extra ``yardsticks``)."""

from __future__ import annotations

import importlib
import sys
import time
from collections.abc import Iterator
from statistics import median
from typing import Any

from mindful_crate.core.packing.suggesting import suggest
from mindful_crate.core.packing.things import Thing
from tests.bench.big import few
from tests.bench.measures import Line, settle_down
from tests.packed import KG, KINDS, faults, lots

ORDERS, COMPARED = 500, 150
CANDIDATES = 20_000
"""So much may the yardstick try for an order; counted, not timed."""


def _order(seed: int) -> list[Thing]:
    """1 to 40 things; every fifth upright, every ninth fragile."""
    drawn = iter(lots(seed))
    return [
        Thing(
            f"T{n}", 30 + next(drawn) % 270, 30 + next(drawn) % 200, 20 + next(drawn) % 160, next(drawn) % (3 * KG),
            upright=next(drawn) % 5 == 0, fragile=next(drawn) % 9 == 0,
        )
        for n in range(1 + next(drawn) % 40)
    ]  # fmt: skip


def cartons() -> Iterator[Line]:
    """Faults among all answers; cartons and time against the yardstick, in turns, order by order."""
    try:
        yardstick: Any = importlib.import_module("packvium")
    except ModuleNotFoundError:
        yardstick = None
        print("packvium is not installed: no comparison (uv pip install packvium==1.8.0)", file=sys.stderr)
    wrong, ours, theirs, mine, its = 0, 0, 0, [], []
    settle_down()
    for seed in range(1, few(ORDERS) + 1):
        things = _order(seed)
        began = time.perf_counter()
        found = suggest(things, KINDS)
        took = time.perf_counter() - began
        wrong += bool(faults(things, found))
        if yardstick is None or seed > few(COMPARED):
            continue
        packed = [t for n, t in enumerate(things) if n not in found.homeless]
        began = time.perf_counter()
        needed = _packed_by(yardstick, packed)
        its.append(time.perf_counter() - began)
        mine.append(took)
        ours, theirs = ours + len(found.cartons), theirs + needed
    yield Line("cartons: answers in which something is wrong", f"{few(ORDERS)} orders", wrong, 0, False)
    if theirs:
        note = f"{ours} and {theirs} cartons"
        yield Line("cartons needed, against packvium", f"{few(COMPARED)} orders", ours / theirs, 1, False, note)
        note = f"{median(mine) * 1e3:.1f} and {median(its) * 1e3:.0f} ms"
        yield Line(
            "cartons: median time of packvium, against ours", "in turns", median(its) / median(mine), 20, True, note
        )


def _packed_by(yardstick: Any, things: list[Thing]) -> int:
    """How many cartons it takes; its own checks say that they can be packed."""

    def grams(milligrams: int) -> Any:
        return yardstick.Weight.of(milligrams // 1000, "g")

    items = tuple(
        yardstick.Item(
            f"{n}", yardstick.Dimensions.mm(*t.size), grams(t.weight_mg), keep_upright=t.upright, stackable=not t.fragile,
            minimum_support_ratio=0.75,
        )
        for n, t in enumerate(things)
    )  # fmt: skip
    kinds = tuple(
        yardstick.Container(
            str(k.code), yardstick.Dimensions.mm(k.length_mm, k.width_mm, k.height_mm), tare_weight=grams(k.weight_mg),
            max_payload=grams((k.max_weight_mg or 0) - k.weight_mg),
        )
        for k in KINDS
    )  # fmt: skip
    budget = yardstick.EffortBudget(max_candidates_evaluated=CANDIDATES)
    config = yardstick.PackingConfig(effort_budget=budget, time_limit_ms=60_000, minimum_support_ratio=0.75)
    return len(yardstick.Packer(config).pack(items, kinds).containers)
