"""Tours: the exact ones against every order of the stops, the searched ones against what they are bounded by."""

from __future__ import annotations

import random
from itertools import permutations

import pytest

from mindful_crate.core.catalog.places import Axis, Heading, WayKind
from mindful_crate.core.problem import Refusal
from mindful_crate.core.walking.network import NOWHERE, Network
from mindful_crate.core.walking.search import at_least, length, short_round
from mindful_crate.core.walking.sets import shortest_round
from mindful_crate.core.walking.tours import Proof, Tours
from tests.walked import parallel, place, ragged, site, way


@pytest.mark.parametrize("seed", range(150))
def test_a_tour_is_the_shortest_of_all_orders(seed: int) -> None:
    """On ragged sites, parallel or not, with start and end together or apart: what is called shortest is as long as the best of
    all orders, walking it is as long as is said, and it has every stop once."""
    chance = random.Random(seed)
    where, bins, ways = ragged(chance, one_way=seed % 3 == 0, partial=seed % 2 == 0)
    tours = Tours(Network(where, bins, ways))
    for apart in (False, True):
        stops = chance.sample(range(len(bins)), k=min(len(bins), chance.randint(2, 6)))
        if max(map(max, tours.network.matrix(stops))) >= NOWHERE:
            continue
        start, end = stops[0], stops[1] if apart else stops[0]
        middle = [n for n in stops if n not in (start, end)]
        tour = tours.shortest(middle, start, end)
        home = [start] if start == end else []
        best = min(
            tours.length([start, *order, *home, *([end] if apart else [])], is_round=False)
            for order in permutations(middle)
        )
        assert tour.is_shortest and tour.mm == best == tours.length([*tour.stops, *home], is_round=False)
        assert sorted(tour.stops) == sorted(stops) and tour.stops[0] == start
        assert not apart or tour.stops[-1] == end
        exactly = tours.aisles.can_serve(stops)
        assert tour.proof is (Proof.AISLES if exactly else Proof.ALL_ORDERS)
        assert apart or not exactly or tours.aisles.length(stops) == best


@pytest.mark.parametrize("seed", range(9))
def test_wide_sites_are_exact_too(seed: int) -> None:
    """Many aisles, of which most have no stops and up to all are blocked in one block or another: the exact tour is as short as the best of all orders of its
    few stops."""
    chance = random.Random(seed)
    for blocks in (1, 2, 3):
        where, bins = parallel(40, blocks)
        ways = []
        for a in range(40):
            if chance.random() < seed / 8:
                low = where.cross_aisles[chance.randrange(blocks)] + chance.randint(1_000, 20_000)
                told = {"zone": "P", "aisle": f"{a:03d}", "from_mm": low, "to_mm": low + 9_000}
                ways.append(way(f"B{a}", WayKind.BLOCKED, **told))
        tours = Tours(Network(where, bins, ways))
        for _ in range(6):
            stops = [0, *chance.sample(range(1, len(bins)), k=8)]
            far = tours.network.matrix(stops)
            if max(map(max, far)) >= NOWHERE:
                continue
            mm, _ = shortest_round(far)
            tour = tours.shortest(stops, 0)
            assert (tour.mm, tour.proof, tours.length(tour.stops)) == (mm, Proof.AISLES, mm)


@pytest.mark.parametrize("seed", range(12))
def test_what_is_searched_for_is_bounded(seed: int) -> None:
    """Many stops where there is no exact way, all ways both ways or some one-way: no shorter than the bound, which is no longer
    than the shortest, and within a few percent; fewer stops, all orders weighed, say how near the search comes."""
    chance = random.Random(seed)
    where, bins = parallel(8, 2)
    ways = [way("W", WayKind.CROSS_AISLE, axis=Axis.Y, at_mm=1_700)]
    ways += [
        way(f"O{a}", WayKind.ONE_WAY, zone="P", aisle=f"{a:03d}", heading=Heading.NORTH) for a in range(seed % 2, 8, 2)
    ][: 8 * (seed % 2)]
    tours = Tours(Network(where, bins, ways))
    stops = chance.sample(range(1, len(bins)), k=30)
    tour = tours.shortest(stops, 0, rounds=40)
    assert tour.proof is Proof.BOUND and tour.rounds == 40 and sorted(tour.stops) == sorted([0, *stops])
    assert tour.at_least_mm <= tour.mm == tours.length(tour.stops)
    assert tour.above_permille <= (400 if seed % 2 else 60)
    apart = tours.shortest(stops, 0, stops[0], rounds=40)
    assert (apart.stops[0], apart.stops[-1]) == (0, stops[0]) and apart.at_least_mm <= apart.mm
    assert apart.mm == tours.length(apart.stops, is_round=False)
    far = tours.network.matrix([0, *stops[:9]])
    best, _ = shortest_round(far)
    found = short_round(far, 60)
    assert sorted(found) == list(range(10)) and at_least(far, length(far, found)) <= best <= length(far, found)
    assert length(far, found) <= best * 103 // 100


def test_a_stop_nobody_can_walk_to_is_named() -> None:
    """And one nobody can walk on from: never a large number."""
    bins = [place(0, "D", "", 0, 0)]
    bins += [
        place(len(bins) + n, "P", a, x, y) for a, x in (("A", 0), ("B", 4_000)) for n, y in enumerate((2_000, 6_000))
    ]
    blocked = Tours(
        Network(site(1_000), bins, [way("W", WayKind.BLOCKED, zone="P", aisle="A", from_mm=3_000, to_mm=5_000)])
    )
    with pytest.raises(Refusal, match="Nobody can walk from `D-00000` to `PA-00002`"):
        blocked.shortest([1, 2, 3], 0)
    trap = Tours(Network(site(1_000), bins, [way("W", WayKind.ONE_WAY, zone="P", aisle="A", heading=Heading.NORTH)]))
    with pytest.raises(Refusal, match="One can walk to `PA-00001`, but not on from there"):
        trap.shortest([1, 3], 0)


def test_bins_of_one_place_are_one_stop() -> None:
    """Levels over one another and both sides of an aisle are walked to once, one after the other."""
    where, bins = parallel(3, 1)
    again = [place(len(bins) + n, "P", "001", 3_500 + 600 * (n % 2), bins[40].y_mm) for n in range(4)]
    tours = Tours(Network(where, [*bins, *again]))
    plain, more = tours.shortest([40, 60], 0), tours.shortest([40, 60, *range(len(bins), len(bins) + 4)], 0)
    assert more.mm == plain.mm
    where_in_tour = [more.stops.index(n) for n in (40, *range(len(bins), len(bins) + 4))]
    assert max(where_in_tour) - min(where_in_tour) == 4


def test_effort_is_bounded_and_said() -> None:
    """With six cross aisles a round is still exact, a tour with its ends apart is not sought that way; where ways differ there and back,
    many stops are kicked less often, and the tour says how often."""
    where, bins = parallel(3, 5, length=4_000)
    tours = Tours(Network(where, bins))
    stops = [5, 17, 40, 52]
    assert tours.shortest(stops, 0).proof is Proof.AISLES
    apart = tours.shortest(stops, 0, 30)
    assert apart.proof is Proof.ALL_ORDERS and tours.length(apart.stops, is_round=False) == apart.mm
    where, bins = parallel(8, 1)
    one_way = [way(f"O{a}", WayKind.ONE_WAY, zone="P", aisle=f"{a:03d}", heading=Heading.NORTH) for a in range(0, 8, 2)]
    tours = Tours(Network(where, bins, one_way))
    many = tours.shortest(random.Random(1).sample(range(1, len(bins)), k=90), 0)
    assert 0 < many.rounds < 12 and many.at_least_mm <= many.mm == tours.length(many.stops)
