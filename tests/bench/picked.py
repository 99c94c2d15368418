"""A whole day of goods out: orders released wave by wave, picked by forty pickers at once and set down, as commands of the core, by every method; beside the
naive engine, which chooses where each line is taken from and takes it. In the end as much must lie in every bin and on every plate."""

from __future__ import annotations

import random
import time
from collections import Counter, deque
from collections.abc import Iterator
from datetime import timedelta

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine, Partner, Series
from mindful_crate.core.catalog.ids import (
    BinCode,
    CrewId,
    OrderNo,
    PartnerCode,
    PersonId,
    PlateNo,
    RecipeId,
    ShipPlanId,
    SiteCode,
    TaskNo,
    UnitCode,
    WaveNo,
    WavePlanId,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import Settings
from mindful_crate.core.floor.tasks import Do, TaskState
from mindful_crate.core.placing.loads import sums_of
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.bin_rules import BinPurpose, BinRule, BinRuleList
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Crew
from mindful_crate.core.rulebook.recipes import Grouping, Recipe
from mindful_crate.core.rulebook.shipping import ShipPlan, StationStep
from mindful_crate.core.rulebook.steps import Found, Need
from mindful_crate.core.rulebook.waves import Method, WavePlan
from mindful_crate.core.work.picking.looking import waiting_totes, without_tote
from mindful_crate.core.work.waving.events import WaveMade
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.world import World
from tests.bench import big
from tests.bench.big import BigSite, few
from tests.bench.measures import Line, settle_down
from tests.bench.naive import Naive

SITE, PACKING, PLAN, QUAY = SiteCode("X"), Found("P"), WavePlanId("WP-1"), CrewId("quay")  # type: ignore[arg-type]
INES = PersonId("ines")
ORDERS, A_WAVE, PICKERS, SAMPLE = 5_000, 250, 40, 40
Lies = Counter[tuple[str, str, str]]
"""How much lies in a bin, on a plate, of an item."""


def picked() -> Iterator[Line]:
    """Each method on the same day."""
    orders = _orders(big.FULL, few(ORDERS))
    lines = sum(len(o.lines) for o in orders)
    naive, theirs = _naive_day(orders, lines)
    for method in Method:
        to_tasks, took, lies = _day(orders, method)
        differ = sum(lies[k] != naive[k] for k in {*lies, *naive})
        ours = took / lines
        yield Line(
            f"a line of a day of orders from release to tasks, against the naive engine: {method.value}",
            f"{len(orders):,} orders of {lines:,} lines, {big.FULL.rows:,} rows", theirs / (to_tasks / lines), 100,
            note=f"{to_tasks / lines * 1e3:.2f} ms a line of ours, {theirs * 1e3:.1f} ms of it",
        )  # fmt: skip
        yield Line(
            f"a line of a day of orders picked, against the naive engine: {method.value}",
            f"{len(orders):,} orders of {lines:,} lines, {PICKERS} pickers, {big.FULL.rows:,} rows", theirs / ours, 100,
            note=f"{ours * 1e3:.2f} ms a line of ours, {took:.0f} s; {theirs * 1e3:.1f} ms of it; stock differs in {differ} places",
        )  # fmt: skip


def _orders(size: big.Size, count: int) -> tuple[Order, ...]:
    """Confirmed orders of one to six lines, three on average, most of them of few items."""
    chance = random.Random(5)
    items = [i for i in big.opening(size).items if i.hazard_class is None]
    busy = chance.sample(items, max(8, len(items) // 10))
    made = []
    for n in range(count):
        wanted = [
            chance.choice(busy if chance.random() < 0.8 else items) for _ in range(chance.choice((1, 1, 2, 3, 4, 6)))
        ]
        lines = tuple(
            OrderLine(k, i.code, UnitCode("pc"), chance.choice((1, 2, 3, 6, 12))) for k, i in enumerate(dict.fromkeys(wanted), 1)
        )  # fmt: skip
        number = OrderNo(f"SO-{n:05}")
        made.append(Order(number, OrderKind.SALES, SITE, PartnerCode(f"C-{n}"), big.TODAY, lines, True))
    return tuple(made)


def _world(orders: tuple[Order, ...], method: Method) -> World:
    partners = tuple(Partner(o.partner, "Customer", "Customers") for o in orders)
    more = tuple(Series(d, f"{d[:2].upper()}-", f"{d[:2].upper()}R-", 7, 1) for d in ("wave", "shipment"))
    opening = big.opening(big.FULL, partners=partners, orders=orders)
    ground = Ground(evolve(opening, series=(*opening.series, *more)), hash="picked")
    rules = BinRuleList("BL-1", BinPurpose.PICK_FROM, big.taking_rules())  # type: ignore[arg-type]
    there = StationStep(True, PACKING)
    plan = ShipPlan(ShipPlanId("SH-1"), "All", sort=there if method is Method.BATCH else StationStep(), pack=there)
    book = Rulebook(
        "Day", crews=(Crew(QUAY, "Quay"),), ship_plans=(plan,), bin_rules=(rules,), recipes=(Recipe(RecipeId("RE-1"), Need.PICK, QUAY, Grouping.ORDER),),
        wave_plans=(WavePlan(PLAN, "All", method=method, pickers=PICKERS),),
    )  # fmt: skip
    sums_of(ground)  # an opening that is kept brings them along
    return World(ground, Settings(SITE, big.STARTS), book, lambda at: at.date())


def _day(orders: tuple[Order, ...], method: Method) -> tuple[float, float, Lies]:
    """The seconds a day takes until there are tasks and altogether, and what lies in storage then of the items that were ordered."""
    world = _world(orders, method)
    settle_down()
    began, to_tasks = time.perf_counter(), 0.0
    for n in range(0, len(orders), A_WAVE):
        released = time.perf_counter()
        _does(world, acts.ReleaseOrders(tuple(o.number for o in orders[n : n + A_WAVE])))
        (made,) = [e for e in _does(world, acts.MakeWave(PLAN)) if isinstance(e, WaveMade)]
        to_tasks += time.perf_counter() - released
        _picked(world, made.wave)
    took = time.perf_counter() - began
    lies: Lies = Counter()
    for item in {x.item for o in orders for x in o.lines}:
        for x in world.state.lines(item):
            if world.state.ground.bins[x.bin].zone != "P":
                lies[x.bin, x.plate or "", item] += x.goods.quantity
    return to_tasks, took, lies


def _picked(world: World, wave: WaveNo) -> None:
    """Forty pickers at once: each does one thing after another's, and takes the next task that may be taken."""
    waits, totes = deque(world.state.waves[wave].tasks), iter(range(10**6))
    pickers = deque((PersonId(f"p{n}"), TaskNo("")) for n in range(PICKERS))
    while pickers:
        who, task = pickers.popleft()
        if not task:
            for _ in range(len(waits)):
                if not world.state.tasks[waits[0]].held:
                    task = waits.popleft()
                    _does(world, acts.PickBegin(task), who)
                    break
                waits.rotate(-1)
            if not task:
                if waits:  # all that is left waits for totes of others
                    pickers.append((who, task))
                continue
        now = world.state.tasks[task]
        take = next((m for m in now.going.remaining if m.do is Do.TAKE), None)
        act: acts.Act
        if along := waiting_totes(now):
            act = acts.TakeTote(task, along[0].plate)
        elif lacking := without_tote(now):
            act = acts.SetTote(task, lacking[0], PlateNo(f"PLR-{wave[-4:]}{next(totes):06}"))
        elif take is not None:
            act = acts.PickTake(task, take.no)
        else:
            act = acts.PickPlace(task, now.to_bin or BinCode("PACK-1"), "" if now.to_bin else "no rule says where")
        _does(world, act, who)
        done = world.state.tasks[task].state is TaskState.DONE
        pickers.append((who, TaskNo("") if done else task))


def _does(world: World, act: acts.Act, who: PersonId = INES) -> tuple[ev.Event, ...]:
    at = world.state.clock + timedelta(seconds=1)
    entry = world.run(acts.Command(acts.Stamp(f"c{world.state.seq}", at, big.TODAY, who, crews=(QUAY,)), act))
    assert isinstance(entry.outcome, ev.Done), entry.says
    return entry.outcome.events


def _naive_day(orders: tuple[Order, ...], lines: int) -> tuple[Lies, float]:
    """What lies in storage after the naive engine's day, and the seconds it takes for a line: it looks at every row of stock, chooses as the rules are
    written, and takes away; a plate of which some is taken is no whole one any more as long as its wave is picked. Measured on the first and the last lines; all of
    them would take it a quarter of an hour."""
    rules = big.taking_rules()
    naive = Naive(BigSite(big.FULL, Ground(big.opening(big.FULL), hash="naive"), (), rules))
    every, no, took = [(i, x) for i, rows in naive.lines.items() for x in rows], 0, 0.0
    settle_down()
    for n in range(0, len(orders), A_WAVE):
        broken = []
        for order in sorted(orders[n : n + A_WAVE], key=lambda o: (o.priority, o.promised, o.number)):
            for line in order.lines:
                no += 1
                asked = no <= SAMPLE or no > lines - SAMPLE
                began = time.perf_counter()
                if asked:
                    naive.lines[line.item] = [x for i, x in every if i == line.item and x["count"]]
                broken += _line(naive, rules, line)
                took += (time.perf_counter() - began) * asked
        for row in broken:
            row.pop("broken", None)
    lies: Lies = Counter()
    for item in {x.item for o in orders for x in o.lines}:
        for row in naive.lines[item]:
            if row["count"]:
                lies[row["bin"], row["plate"], item] += row["count"]
    return lies, took / max(1, min(lines, 2 * SAMPLE))


def _line(naive: Naive, rules: tuple[BinRule, ...], line: OrderLine) -> list[dict[str, object]]:
    """A line is chosen and taken; the rows of all plates it was taken off."""
    broken, left = [], line.quantity
    while left:
        asked = BinRequest(
            SITE, BinPurpose.PICK_FROM, (Goods(line.item, left),), order_kind=OrderKind.SALES, today=big.TODAY
        )
        shares, left, _ = naive.take(asked, rules)
        if not shares:
            break
        for code, plate, much in shares:
            broken += _takes(naive, line.item, code, plate, much)
    return broken


def _takes(naive: Naive, item: str, code: str, plate: str, much: int) -> list[dict[str, object]]:
    """So much leaves a place, what expires first before the rest; the rows of that plate."""
    there = [x for x in naive.lines[item] if (x["bin"], x["plate"]) == (code, plate) and naive_may(x)]
    for row in sorted(there, key=lambda x: (x["expiry"], x["arrived"], x["lot"])):
        part = min(much, row["count"])
        row["count"] -= part
        much -= part
        if plate:
            row["broken"] = True
    assert not much, (item, code, plate)
    naive.lines[item] = [x for x in naive.lines[item] if x["count"]]
    return there


def naive_may(row: dict[str, object]) -> bool:
    """May it be used today?"""
    return row["status"] == "available" and row["expiry"] >= big.TODAY  # type: ignore[operator]
