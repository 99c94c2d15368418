"""Splitting a wave against general vehicle routing, and wave plans against an SMT solver, where those are installed (the extra
``yardsticks``). The routing solvers are given the cost of two orders together, which is all they can take; what they find is measured by
our own exact tours."""

from __future__ import annotations

import importlib
import random
import time
from collections.abc import Iterator, Sequence
from typing import Any

from mindful_crate.core.releasing.plans import GroupWish, Known, Of, Runs, Span, WavePlan
from mindful_crate.core.releasing.reach import Reach, reached
from mindful_crate.core.releasing.sharing import share
from mindful_crate.core.releasing.splitting import AS_A_JOB, Caps, Picked, Wave
from mindful_crate.core.walking.network import Network
from mindful_crate.core.walking.rounds import Rounds
from mindful_crate.core.walking.tours import Tours
from tests.bench.big import TINY, few
from tests.bench.measures import Line, settle_down
from tests.bench.walking import spent, yardstick
from tests.walked import parallel

CAPS = Caps(12, 120_000_000)
PICKERS = 8
SECONDS = 10


def _wave(rounds: Rounds, bins: int, count: int) -> Wave:
    """Orders of one to six lines, three on average, evenly over one block."""
    chance = random.Random(count)
    orders = []
    for n in range(count):
        lines = chance.choice((1, 1, 2, 2, 3, 3, 4, 5, 6))
        weight = sum(chance.randrange(200_000, 4_000_000) for _ in range(lines))
        orders.append(Picked(f"SO-{n:04d}", tuple(chance.randrange(1, bins) for _ in range(lines)), 1, weight, lines))
    return Wave(orders, rounds, CAPS)


def waves() -> Iterator[Line]:
    """Savings, and many rounds, against first come and against the better of two routing solvers."""
    where, bins = parallel(20, 1, length=60_000)
    rounds = Rounds(Tours(Network(where, bins)), 0)
    settle_down()
    for count in (few(200), few(1_000)):
        took, wave = spent(lambda count=count: _wave(rounds, len(bins), count))  # type: ignore[misc]
        first = wave.first_come().mm
        more, savings = spent(wave.by_savings)
        sizes = f"{count} orders, carts of {CAPS.totes} totes and 120 kg"
        note = f"{savings.mm // 1000:,} of {first // 1000:,} m, {took + more:.2f} s"
        yield Line(
            "waves: savings alone, of first come", sizes, savings.mm / first, 0.6 if count > 200 else 0.75, False, note
        )
        if count > 200:
            yield Line("waves: seconds of savings alone", sizes, took + more, 3, False)
            continue
        effort = few(AS_A_JOB)
        more, found = spent(lambda wave=wave, effort=effort: wave.shortest_found(effort))  # type: ignore[misc]
        note = f"{found.mm // 1000:,} m in {more:.1f} s"
        yield Line(f"waves: {effort:,} rounds, of first come", sizes, found.mm / first, 0.62, False, note)
        shares = share(found.metres, PICKERS)
        even = shares.longest * PICKERS / found.mm
        yield Line("waves: the longest picker, of an even share", f"{sizes}, {PICKERS} pickers", even, 1.05, False)
        others = [mm for mm in (_by_pyvrp(wave), _by_ortools(wave)) if mm]
        if others:
            note = f"{', '.join(f'{mm // 1000:,}' for mm in others)} m in {SECONDS} s each"
            yield Line(
                "waves: the same, of the better of pyvrp and OR-Tools", sizes, found.mm / min(others), 0.92, False, note
            )


def _costs(wave: Wave) -> list[list[int]]:
    """From order to order: half of each alone from the start, and what the two are longer than the halves together."""
    alone = wave.alone
    count = len(alone)
    far = [[0] * (count + 1) for _ in range(count + 1)]
    for n in range(count):
        far[0][n + 1] = far[n + 1][0] = alone[n] // 2
        for m in range(n):
            both = max(0, wave.cost((n, m)) - (alone[n] + alone[m]) // 2)
            far[n + 1][m + 1] = far[m + 1][n + 1] = both
    return far


def _walked(wave: Wave, carts: Sequence[Sequence[int]]) -> int:
    """What carts really walk; all orders must be on them, and fit."""
    assert sorted(n for cart in carts for n in cart) == list(range(len(wave.orders)))
    assert all(wave.fits((0, 0), wave.load(cart)) for cart in carts)
    return wave.split(carts).mm


def _by_pyvrp(wave: Wave) -> int:
    pyvrp = yardstick("pyvrp", "pyvrp")
    if pyvrp is None:
        return 0
    stop = importlib.import_module("pyvrp.stop")
    far = _costs(wave)
    model = pyvrp.Model()
    places = [model.add_location(n, 0) for n in range(len(far))]
    depot = model.add_depot(places[0])
    weight = CAPS.weight_mg or 0
    model.add_vehicle_type(len(wave.orders), [CAPS.totes, weight // 1000], depot, depot)
    for place, (totes, mg) in zip(places[1:], wave.size, strict=True):
        model.add_client(place, [totes, mg // 1000 + 1])
    for a, row in zip(places, far, strict=True):
        for b, mm in zip(places, row, strict=True):
            if a is not b:
                model.add_edge(a, b, mm)
    result = model.solve(stop.MaxRuntime(0.2 if TINY else SECONDS), display=False)
    return _walked(wave, [[visit.idx for visit in route if visit.is_client()] for route in result.best.routes()])


def _by_ortools(wave: Wave) -> int:
    solver = yardstick("ortools.constraint_solver.pywrapcp", "ortools")
    if solver is None:
        return 0
    enums = importlib.import_module("ortools.constraint_solver.routing_enums_pb2")
    far = _costs(wave)
    carts = -(-sum(t for t, _ in wave.size) // CAPS.totes) + 8
    manager = solver.RoutingIndexManager(len(far), carts, 0)
    routing = solver.RoutingModel(manager)
    routing.SetArcCostEvaluatorOfAllVehicles(routing.RegisterTransitMatrix(far))
    for name, most, at in (("totes", CAPS.totes, 0), ("weight", (CAPS.weight_mg or 0) // 1000, 1)):
        sizes = [0, *(size[at] if at == 0 else size[at] // 1000 + 1 for size in wave.size)]
        index = routing.RegisterUnaryTransitVector(sizes)
        routing.AddDimensionWithVehicleCapacity(index, 0, [most] * carts, True, name)
    asked = solver.DefaultRoutingSearchParameters()
    asked.first_solution_strategy = enums.FirstSolutionStrategy.SAVINGS
    asked.local_search_metaheuristic = enums.LocalSearchMetaheuristic.GUIDED_LOCAL_SEARCH
    asked.time_limit.FromMilliseconds(200 if TINY else 1_000 * SECONDS)
    found = routing.SolveWithParameters(asked)
    if found is None:
        return 0
    made = []
    for cart in range(carts):
        at, some = found.Value(routing.NextVar(routing.Start(cart))), []
        while not routing.IsEnd(at):
            some.append(manager.IndexToNode(at) - 1)
            at = found.Value(routing.NextVar(at))
        made.append(some)
    return _walked(wave, [c for c in made if c])


# Wave plans

PLANS, SAMPLED, NEVER = 100, 300, 40
GROUPS = [f"G{n:02d}" for n in range(24)]
CARRIERS = [f"C{n}" for n in range(6)]


def _plans(count: int, seed: int) -> tuple[list[WavePlan], Known]:
    """Plans as a busy house might have them: each asks for a few things, runs up to four times a day."""
    chance = random.Random(seed)
    partners = [f"P{n:02d}" for n in range(60)]
    known = Known(
        {p: tuple(sorted(chance.sample(CARRIERS, chance.randint(1, 3)))) for p in partners},
        {p: f"K{n % 5}" for n, p in enumerate(partners)},
        {g: chance.randrange(50_000, 20_000_000) for g in GROUPS},
    )  # fmt: skip

    def some(names: Sequence[str], few_of: int, often: float) -> frozenset[str]:
        return (
            frozenset(chance.sample(list(names), chance.randint(1, few_of))) if chance.random() < often else frozenset()
        )

    def span(low: int, high: int, often: float) -> Span:
        if chance.random() > often:
            return Span()
        a, b = sorted((chance.randint(low, high), chance.randint(low, high)))
        return chance.choice([Span(a, b), Span(a), Span(None, b)])

    made = []
    for n in range(count):
        wish = some(GROUPS, 6, 0.5)
        hours = chance.sample(range(6, 20), chance.randint(1, 4))
        times = tuple(sorted(day * 1440 + 60 * hour for day in range(5) for hour in hours))
        runs = Runs(times, Span(chance.randint(0, 120), chance.randint(240, 4_000))) if chance.random() < 0.6 else None
        made.append(
            WavePlan(
                f"W{n:03d}", some(CARRIERS, 3, 0.5), some(partners, 20, 0.3), some([f"K{k}" for k in range(5)], 2, 0.2), span(0, 9, 0.3),
                span(0, 2_000_000_000, 0.4), span(1, 60, 0.4), GroupWish(chance.choice(list(Of)), wish) if wish else None, runs,
            )
        )  # fmt: skip
    return made, known


def plans() -> Iterator[Line]:
    """All findings of a hundred plans, and what the solver says of the same."""
    count = few(PLANS)
    plans, known = _plans(count, 1)
    reached(plans, known)
    settle_down()
    began = time.perf_counter()
    found = reached(plans, known)
    took = time.perf_counter() - began
    note = f"{len(found.overlaps):,} overlaps, {len(found.gaps)} gap, {len(found.never)} never reached, {len(found.undecided)} undecided"
    yield Line("plans: seconds for all findings", f"{count} plans", took, 0.5, False, note)
    z3 = yardstick("z3", "z3-solver")
    if z3 is None:
        return
    reach = Reach(plans, known)
    order = _Order(z3, known)
    took, overlaps = spent(lambda: {(o.first, o.second) for o in reach.overlaps()})
    chance = random.Random(3)
    all_pairs = [(i, j) for i in range(count) for j in range(i)]
    asked = chance.sample(all_pairs, min(len(all_pairs), few(SAMPLED)))
    its, answers = spent(lambda: [order.can(order.takes(plans[i]), order.takes(plans[j])) for i, j in asked])
    differ = sum(((j, i) in overlaps) != answer for (i, j), answer in zip(asked, answers, strict=True))
    differ += order.can(*(z3.Not(order.takes(p)) for p in plans)) != bool(found.gaps)
    never = {u.plan for u in found.never}
    for n in chance.sample(range(count), min(count, few(NEVER))):
        reaches = order.can(order.takes(plans[n]), *(z3.Not(order.takes(p)) for p in plans[:n]))
        differ += reaches == (n in never)
    yield Line(
        "plans: answers that differ from z3", f"{len(asked)} pairs, the gap, {few(NEVER)} plans", differ, 0, False
    )
    scaled = its * len(all_pairs) / len(asked)
    note = f"{took * 1e3:.0f} ms and {scaled:.1f} s"
    yield Line(
        "plans: all pairs, z3 against ours",
        f"{len(all_pairs):,} pairs, {len(asked)} asked",
        scaled / took,
        15,
        True,
        note,
    )


class _Order:
    """An order as z3 sees it, and what there can be."""

    def __init__(self, z3: Any, known: Known) -> None:
        self.z3, self.known = z3, known
        self.partners = sorted(known.goes_with)
        self.partner, self.carrier, self.priority, self.weight, self.lines, self.released, self.due = z3.Ints(
            "partner carrier priority weight lines released due"
        )
        self.groups = {g: z3.Bool(g) for g in known.lightest_mg}
        self.solver = z3.Solver()
        count = z3.Sum([z3.If(b, 1, 0) for b in self.groups.values()])
        least = z3.Sum([z3.If(b, known.lightest_mg[g], 0) for g, b in self.groups.items()])
        self.solver.add(
            count >= 1,
            self.lines >= count,
            self.lines <= known.most_lines,
            self.weight >= 0,
            self.weight <= known.most_weight_mg,
        )
        light = sorted(self.groups, key=lambda g: known.lightest_mg[g])
        for n, group in enumerate(light):
            lightest = z3.And(self.groups[group], *(z3.Not(self.groups[other]) for other in light[:n]))
            self.solver.add(
                z3.Implies(lightest, self.weight >= least + known.lightest_mg[group] * (self.lines - count))
            )
        self.solver.add(*self._between(self.priority, known.priority), *self._between(self.released, known.released))
        self.solver.add(self.due >= self.released, self.due <= known.due_by)
        self.solver.add(
            z3.Or(
                [
                    z3.And(self.partner == n, self.carrier == CARRIERS.index(c))
                    for n, p in enumerate(self.partners)
                    for c in known.goes_with[p]
                ]
            )
        )

    def _between(self, value: Any, span: Span) -> list[Any]:
        found = [] if span.least is None else [value >= span.least]
        return found + ([] if span.most is None else [value <= span.most])

    def takes(self, plan: WavePlan) -> Any:
        """A plan as a formula."""
        z3, known = self.z3, self.known
        asked = []
        if plan.carriers:
            asked.append(z3.Or([self.carrier == CARRIERS.index(c) for c in sorted(plan.carriers)]))
        if plan.partners:
            asked.append(z3.Or([self.partner == self.partners.index(p) for p in sorted(plan.partners)]))
        if plan.partner_groups:
            asked.append(
                z3.Or(
                    [
                        self.partner == n
                        for n, p in enumerate(self.partners)
                        if known.partner_group[p] in plan.partner_groups
                    ]
                )
            )
        for value, span in ((self.priority, plan.priority), (self.weight, plan.weight_mg), (self.lines, plan.lines)):
            asked += self._between(value, span)
        if plan.groups:
            mine = [self.groups[g] for g in sorted(plan.groups.groups)]
            rest = [b for g, b in self.groups.items() if g not in plan.groups.groups]
            wish = {
                Of.ANY: lambda: z3.Or(mine),
                Of.NONE: lambda: z3.Not(z3.Or(mine)),
                Of.ALL: lambda: z3.Not(z3.Or(rest)),
            }
            asked.append(wish[plan.groups.of]())
        if plan.runs:
            asked.append(
                z3.Or(
                    [
                        z3.And(self.released <= t, *self._between(self.due - t, plan.runs.due_after))
                        for t in plan.runs.times
                    ]
                )
            )
        return z3.And(asked) if asked else z3.BoolVal(True)

    def can(self, *formulas: Any) -> bool:
        """Can there be an order of which all of this holds?"""
        self.solver.push()
        self.solver.add(*formulas)
        answer = self.solver.check() == self.z3.sat
        self.solver.pop()
        return bool(answer)
