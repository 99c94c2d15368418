"""A whole day of goods in: plates received, placed by the rules and put away, as commands of the core, beside the naive engine that looks at every bin
for every target. Both choose for the first plates of the day and for the last, and must choose the same."""

from __future__ import annotations

import random
import time
from collections.abc import Iterator
from datetime import timedelta

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine, Partner
from mindful_crate.core.catalog.ids import (
    BinCode,
    CrewId,
    OrderNo,
    PartnerCode,
    PersonId,
    PlanId,
    PlateKindCode,
    RecipeId,
    SiteCode,
    UnitCode,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import Settings
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.rulebook.bin_rules import BinPurpose, BinRuleList
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Crew
from mindful_crate.core.rulebook.recipes import Recipe
from mindful_crate.core.rulebook.steps import BookingPoint, Need, PutAwayStep, ReceiveStep, StepPlan
from mindful_crate.core.work.receiving.acts import OfficeLine
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.world import World
from tests.bench import big
from tests.bench.big import BigSite, few
from tests.bench.measures import Line, settle_down
from tests.bench.naive import Content, Naive

SITE, DOOR, PALLET, ORDER = SiteCode("X"), BinCode("DOOR-1"), PlateKindCode("PAL"), OrderNo("PO-1")
QUAY, OREN = CrewId("quay"), PersonId("oren")
PLATES = 10_000
SAMPLE = 40
"""So many plates of the beginning and of the end the naive engine places too; all of them would take it a quarter of an hour."""


def days() -> Iterator[Line]:
    """Ten thousand plates."""
    ours, theirs, differ, plates, whole = day(big.FULL, few(PLATES), min(SAMPLE, few(PLATES) // 2))
    each = whole / plates * 1e3
    yield Line(
        "a day of plates received and put away, against the naive engine", f"{plates:,} plates at {big.FULL.bins:,} bins", theirs / ours, 100,
        note=f"{each:.2f} ms a plate over the day, {whole:.0f} s; {differ} of {2 * min(SAMPLE, plates // 2)} chosen otherwise",
    )  # fmt: skip


def day(size: big.Size, plates: int, sample: int) -> tuple[float, float, int, int, float]:
    """Seconds of ours and of the naive engine over the same plates, how many they choose otherwise, how many plates there were, and how long all
    of them took us."""
    chance = random.Random(11)
    items = list(big.opening(size).items)
    some = chance.sample([i for i in items if i.hazard_class is None], min(400, len(items) // 2))
    lines = tuple(OrderLine(n, i.code, UnitCode("pc"), 10**9) for n, i in enumerate(some, start=1))
    order = Order(ORDER, OrderKind.PURCHASE, SITE, PartnerCode("V"), big.TODAY, lines, True)
    opening = big.opening(size, partners=(Partner(PartnerCode("V"), "Vendor", "Vendors"),), orders=(order,))
    ground = Ground(opening, hash="day")
    world = World(ground, Settings(SITE, big.STARTS), _rules(), lambda at: at.date())
    naive = Naive(BigSite(size, ground, big.putting_rules(), big.taking_rules()))
    settle_down()
    took, differ, whole = [0.0, 0.0], 0, 0.0
    for n in range(plates):
        item = chance.choice(some)
        lot, expiry = big.lot_of(chance, item)
        while expiry is not None and expiry < big.TODAY:  # what has expired is not received
            lot, expiry = big.lot_of(chance, item)
        goods = Goods(item.code, 12 * chance.randrange(1, 40), lot, expiry)
        asked = n < sample or n >= plates - sample
        began = time.perf_counter()
        chosen = _received(world, n, goods)
        mine = time.perf_counter() - began
        whole += mine
        if asked:
            began = time.perf_counter()
            answer = naive.put(_request(goods), big.putting_rules())
            took[0], took[1] = took[0] + mine, took[1] + time.perf_counter() - began
            differ += [s[0] for s in answer[0]] != [chosen]
        _lies(naive, chosen, goods)
    return took[0], took[1], differ, plates, whole


def _rules() -> Rulebook:
    plan = StepPlan(
        PlanId("SP-1"), "All", ReceiveStep(DOOR), PutAwayStep(), BookingPoint.BY_HAND, order_kind=OrderKind.PURCHASE
    )
    rules = BinRuleList("BL-1", BinPurpose.PUT_AWAY, big.putting_rules())  # type: ignore[arg-type]
    recipe = Recipe(RecipeId("RE-1"), Need.PUT_AWAY, QUAY)
    return Rulebook("Day", crews=(Crew(QUAY, "Quay"),), step_plans=(plan,), bin_rules=(rules,), recipes=(recipe,))


def _request(goods: Goods) -> BinRequest:
    return BinRequest(SITE, BinPurpose.PUT_AWAY, (goods,), PALLET, door=DOOR, from_bin=DOOR, today=big.TODAY)


def _received(world: World, n: int, goods: Goods) -> str:
    """A plate is received, its task taken, and placed where the rules say."""
    line = OfficeLine(goods.item, goods.quantity, goods.lot, goods.expiry)
    events = _does(world, f"r{n}", acts.ReceiveInOffice(ORDER, (line,), PALLET, why="a day of many plates"))
    task = next(e.task for e in events if isinstance(e, ev.WorkMade))
    to = world.state.tasks[task].to_bin
    assert to is not None, goods
    _does(world, f"t{n}", acts.Take(task))
    _does(world, f"p{n}", acts.Place(task, to))
    return to


def _does(world: World, id_: str, act: acts.Act) -> tuple[ev.Event, ...]:
    at = world.state.clock + timedelta(seconds=1)
    entry = world.run(acts.Command(acts.Stamp(id_, at, big.TODAY, OREN, crews=(QUAY,)), act))
    assert isinstance(entry.outcome, ev.Done), entry.says
    return entry.outcome.events


def _lies(naive: Naive, code: str, goods: Goods) -> None:
    """The naive engine hears where a plate stands."""
    volume, weight = naive.bulk(goods.item, goods.quantity)
    v, w, _ = naive.plate_load(volume, weight)
    there = naive.content.setdefault(code, Content())
    there.volume, there.weight, there.plates = there.volume + v, there.weight + w, there.plates + 1
    there.kinds |= {(goods.item, goods.lot, goods.status)}
