"""Walking: the network against place-by-place Dijkstra and against cells; tours against OR-Tools where it is installed (the extra
``yardsticks``), on the same matrices. Its second is wall time, ours is the processor's."""

from __future__ import annotations

import importlib
import random
import sys
import time
from collections.abc import Callable, Iterator, Sequence
from heapq import heappop, heappush
from itertools import pairwise
from typing import Any

from mindful_crate.core.walking.network import NOWHERE, Network
from mindful_crate.core.walking.search import length, short_round
from mindful_crate.core.walking.sets import shortest_round
from mindful_crate.core.walking.tours import Proof, Tours
from tests.bench.big import TINY, few
from tests.bench.measures import Line, settle_down
from tests.walked import Cells, great, parallel, ragged

BINS = 100_000
INSTANCES, STOPS = 100, 60
KICKS = 300
SECONDS = 1


def yardstick(name: str, what: str) -> Any:
    """A library that benches compare with; None, with a word, where it is not installed."""
    try:
        return importlib.import_module(name)
    except ModuleNotFoundError:
        print(f"{what} is not installed: no comparison (uv pip install {what})", file=sys.stderr)
        return None


def spent(act: Callable[[], Any]) -> tuple[float, Any]:
    """Processor time of something, in seconds, and what came of it."""
    began = time.process_time()
    made = act()
    return time.process_time() - began, made


def walking() -> Iterator[Line]:
    """The network of a large site, and what it says of small ones."""
    where, bins = great(few(BINS))
    settle_down()

    def bare() -> int:
        seen: dict[tuple[str, str], tuple[int, int]] = {}
        for each in bins:
            seen[each.zone, each.aisle] = (each.x_mm, each.y_mm)
        return len(seen)

    once = ours = 0.0
    for _ in range(5):
        once += spent(bare)[0]
        took, _ = spent(lambda: Network(where, bins))
        ours += took
    yield Line(
        "network: built, against a bare pass over its bins",
        f"{len(bins):,} bins",
        ours / once,
        10,
        False,
        f"{ours / 5:.2f} s",
    )
    chance = random.Random(1)
    cold = warm = slow = 0.0
    differ = 0
    for _ in range(2 if TINY else 5):
        stops = [chance.randrange(len(bins)) for _ in range(30)]
        fresh = Network(where, bins)
        took, matrix = spent(lambda fresh=fresh, stops=stops: fresh.matrix(stops))  # type: ignore[misc]
        cold += took
        took, again = spent(lambda fresh=fresh, stops=stops: fresh.matrix(stops))  # type: ignore[misc]
        warm += took
        took, other = spent(lambda fresh=fresh, stops=stops: _by_place(fresh, stops))  # type: ignore[misc]
        slow += took
        differ += sum(a != b for x, y in zip(matrix, other, strict=True) for a, b in zip(x, y, strict=True))
        assert again == matrix
    note = f"{differ} differ"
    yield Line(
        "network: a matrix of 30 stops, asked first, against Dijkstra",
        f"{len(bins):,} bins",
        slow / cold,
        20,
        True,
        note,
    )
    yield Line("network: the same asked again", f"{len(bins):,} bins", slow / warm, 200)
    pairs = wrong = 0
    for seed in range(few(400)):
        mine, places, ways = ragged(random.Random(seed))
        small, cells = Network(mine, places, ways), Cells(mine, places, ways)
        for p, a in enumerate(places):
            far = cells.far(a)
            for q, b in enumerate(places):
                pairs += 1
                wrong += small.mm(p, q) != far.get(cells.at(b), NOWHERE)
    yield Line(
        "network: distances that differ from cells", f"{few(400)} ragged sites, {pairs:,} pairs", wrong, 0, False
    )


def _by_place(network: Network, stops: Sequence[int]) -> list[list[int]]:
    """Shortest paths over every place as a node of its own."""
    places: dict[int, set[int]] = {}
    for n in range(len(network.bins)):
        places.setdefault(network.segment_of[n], set()).add(network.place_of[n])
    edges: dict[Any, list[tuple[Any, int]]] = {}

    def join(a: Any, b: Any, mm: int) -> None:
        edges.setdefault(a, []).append((b, mm))
        edges.setdefault(b, []).append((a, mm))

    for number, s in enumerate(network.segments):
        row = [(s.low, ("j", s.start))] if s.start >= 0 else []
        row += [(y, (number, y)) for y in sorted(places.get(number, ()))]
        row += [(s.high, ("j", s.end))] if s.end >= 0 else []
        for (y, a), (z, b) in pairwise(row):
            join(a, b, z - y)
    for cross in network.crosses:
        at = sorted(n for n, spot in enumerate(network.spots) if spot[1] == cross.at)
        for a, b in pairwise(sorted(at, key=lambda n: network.spots[n])):
            join(("j", a), ("j", b), network.spots[b][0] - network.spots[a][0])
    for _, low, high, along in network.open_floor:
        for x in along:
            a, b = (network.spots.index((x, y)) for y in (low, high))
            join(("j", a), ("j", b), high - low)
    found = []
    for n in stops:
        start = (network.segment_of[n], network.place_of[n])
        far, waiting = {start: 0}, [(0, 0, start)]
        count = 1
        while waiting:
            mm, _, u = heappop(waiting)
            if mm > far[u]:
                continue
            for v, more in edges.get(u, ()):
                if mm + more < far.get(v, NOWHERE):
                    far[v] = mm + more
                    heappush(waiting, (mm + more, count, v))
                    count += 1
        row = []
        for m in stops:
            mm = far.get((network.segment_of[m], network.place_of[m]), NOWHERE)
            straight = 0 if n == m else network.straight(n, m)
            row.append(mm if straight is None else min(mm, straight))
        found.append(row)
    return found


def tours() -> Iterator[Line]:
    """Exact tours with their order, and the search, against a second of OR-Tools each; and against all orders of few stops."""
    solver = yardstick("ortools.constraint_solver.pywrapcp", "ortools")
    for blocks, share in ((1, 1_500), (2, 500), (3, 75)):
        where, bins = parallel(20, blocks)
        mine, chance = Tours(Network(where, bins)), random.Random(blocks)
        drawn = [[0, *chance.sample(range(1, len(bins)), STOPS)] for _ in range(few(INSTANCES))]
        mine.shortest(drawn[0], 0)  # the states are worked out once
        took, made = spent(lambda mine=mine, drawn=drawn: [mine.shortest(stops, 0) for stops in drawn])  # type: ignore[misc]
        ours, theirs, searched, longer, slow = sum(t.mm for t in made), 0, 0, 0, 0.0
        for stops, tour in zip(drawn, made, strict=True):
            assert tour.proof is Proof.AISLES and mine.length(tour.stops) == tour.mm
            far = mine.network.matrix(stops)
            more, order = spent(lambda far=far: short_round(far, KICKS))  # type: ignore[misc]
            slow += more
            searched += length(far, order)
            longer += length(far, order) < tour.mm
            if solver:
                its = _by_solver(solver, far)
                theirs += its
                longer += tour.mm > its
        each = took / len(drawn)
        sizes = f"{blocks} block{'s' * (blocks > 1)}, {STOPS} stops, {len(drawn)} tours"
        yield Line("tours: exact with its order, in a second", sizes, 1 / each, share, True, f"{each * 1e3:.2f} ms")
        if solver:
            yield Line("tours: exact ones longer than OR-Tools in its second", sizes, longer, 0, False)
            note = f"it is {1000 * (theirs - ours) / ours:.1f} per mille above the shortest, the search {1000 * (searched - ours) / ours:.2f}"
            yield Line("tours: all searched ones, against all of OR-Tools", sizes, searched / theirs, 1, False, f"{slow / len(drawn) * 1e3:.0f} ms; {note}")  # fmt: skip
    wrong = done = 0
    for seed in range(few(5_000)):
        chance = random.Random(seed)
        where, bins, ways = ragged(chance, one_way=False, partial=seed % 2 == 0)
        mine = Tours(Network(where, bins, ways))
        stops = chance.sample(range(len(bins)), min(len(bins), chance.randint(2, 8)))
        if mine.aisles.can_serve(stops) and max(map(max, mine.network.matrix(stops))) < NOWHERE:
            done += 1
            tour = mine.shortest(stops, stops[0])
            wrong += tour.mm != shortest_round(mine.network.matrix(stops))[0] or mine.length(tour.stops) != tour.mm
    yield Line(
        "tours: exact ones that differ from all orders", f"{done} tours on {few(5_000)} ragged sites", wrong, 0, False
    )


def _by_solver(solver: Any, far: list[list[int]]) -> int:
    """The length OR-Tools finds in its second, by guided local search."""
    enums = importlib.import_module("ortools.constraint_solver.routing_enums_pb2")
    manager = solver.RoutingIndexManager(len(far), 1, 0)
    routing = solver.RoutingModel(manager)
    index = routing.RegisterTransitMatrix(far)
    routing.SetArcCostEvaluatorOfAllVehicles(index)
    asked = solver.DefaultRoutingSearchParameters()
    asked.first_solution_strategy = enums.FirstSolutionStrategy.PATH_CHEAPEST_ARC
    asked.local_search_metaheuristic = enums.LocalSearchMetaheuristic.GUIDED_LOCAL_SEARCH
    asked.time_limit.FromMilliseconds(50 if TINY else 1_000 * SECONDS)
    return int(routing.SolveWithParameters(asked).ObjectiveValue())
