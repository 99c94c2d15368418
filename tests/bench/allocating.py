"""What it costs to keep stock for the lines of a wave: together, what is free carried from line to line, against each by itself."""

from __future__ import annotations

import random
import time
from collections.abc import Iterator

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import ReservationNo
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.free import Carried
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.trail import Trail
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.fold import apply
from tests.bench import big
from tests.bench.big import BigSite, few
from tests.bench.measures import Line, settle_down

ROUNDS = 3


def allocating() -> Iterator[Line]:
    """5,000 lines over many items and over few."""
    site = big.big_site(big.FULL)
    state = site.state()
    for items, target in ((2_500, 1.5), (200, 2.5)):
        yield _lines(site, state, few(5_000), min(items, big.FULL.items), target)


def _asked(site: BigSite, lines: int, items: int) -> list[BinRequest]:
    chance = random.Random(7)
    some = chance.sample(list(site.ground.items.values()), items)
    return [
        BinRequest("X", BinPurpose.PICK_FROM, (Goods(chance.choice(some).code, chance.choice((1, 2, 3, 6, 12, 24))),), today=big.TODAY)  # type: ignore[arg-type]
        for _ in range(lines)
    ]  # fmt: skip


def _fold(state: State, events: tuple[ev.Event, ...]) -> None:
    stamp = acts.Stamp(f"b{state.seq}", big.STARTS, big.TODAY, "bench")  # type: ignore[arg-type]
    apply(state, ev.Entry(state.seq + 1, acts.Command(stamp, acts.BlockBin("PACK-1")), ev.Done(events, "")))  # type: ignore[arg-type]


def _kept(site: BigSite, state: State, asked: list[BinRequest], carried: Carried | None) -> tuple[list[Trail], float]:
    """The answers, each reserved before the next is asked, and the seconds they took; then all is given up again."""
    state.memory.pop("takeable", None)
    settle_down()
    trails, numbers = [], []
    began = time.perf_counter()
    for n, request in enumerate(asked):
        trail = choose(request, site.taking, state, carried=carried)
        trails.append(trail)
        parts = tuple(Reserved(a.bin, a.goods, a.plate, a.rule) for a in trail.allocations if a.goods)
        if parts:
            numbers.append(ReservationNo(f"B{n:05d}"))
            _fold(state, (ev.StockReserved(numbers[-1], "B", request.goods[0].item, parts),))
    took = time.perf_counter() - began
    _fold(state, tuple(ev.ReservationCut(n) for n in numbers))
    return trails, took


def _lines(site: BigSite, state: State, lines: int, items: int, target: float) -> Line:
    asked = _asked(site, lines, items)
    took, differ = [0.0, 0.0], 0
    for _ in range(ROUNDS):
        alone, one = _kept(site, state, asked, None)
        together, other = _kept(site, state, asked, Carried())
        took[0], took[1] = took[0] + one, took[1] + other
        differ += sum(a != b for a, b in zip(alone, together, strict=True))
    each = [t / ROUNDS / lines * 1e6 for t in took]
    touched = len({r.goods[0].item for r in asked})
    return Line(
        "stock kept for a wave together, against line by line",
        f"{lines:,} lines over {touched:,} items of {big.FULL.rows:,} rows",
        took[0] / took[1],
        target,
        note=f"{each[1]:.0f} us a line against {each[0]:.0f}, {differ} differ",
    )
