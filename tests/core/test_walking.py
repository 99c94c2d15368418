"""Walking: the network against cells one by one, what a layout leaves open, and that the demo is walked as before."""

from __future__ import annotations

import random
from dataclasses import replace
from itertools import pairwise

import pytest

from mindful_crate.core.catalog.checking import check_opening
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import Axis, Bin, Heading, Site, Way, WayKind, ZonePurpose
from mindful_crate.core.catalog.tables import amend
from mindful_crate.core.walking.asking import LayoutFinding, asked
from mindful_crate.core.walking.distance import network_of
from mindful_crate.core.walking.network import NOWHERE, Network, Reach
from mindful_crate.demo.loader import SITE
from tests.walked import Cells, place, ragged, site, way

TURNED = {
    Heading.NORTH: Heading.EAST,
    Heading.EAST: Heading.NORTH,
    Heading.SOUTH: Heading.WEST,
    Heading.WEST: Heading.SOUTH,
}


def turned(where: Site, bins: list[Bin], ways: list[Way]) -> tuple[Site, list[Bin], list[Way]]:
    """The same site with east and north changed round, so that its aisles run along x."""
    crosses = [way(f"T{y}", WayKind.CROSS_AISLE, axis=Axis.Y, at_mm=y) for y in where.cross_aisles]
    facts = [
        replace(w, heading=TURNED[w.heading] if w.heading else None, axis=Axis.Y if w.axis else None) for w in ways
    ]
    return replace(where, cross_aisles=()), [replace(b, x_mm=b.y_mm, y_mm=b.x_mm) for b in bins], crosses + facts


@pytest.mark.parametrize("seed", range(60))
def test_the_network_is_what_walking_cell_by_cell_finds(seed: int) -> None:
    """On ragged sites with dead ends, blocked and one-way stretches every distance, also that there is no way, is that of the
    cells; each way drawn is as long as it is said to be; and it is the same with east and north changed round."""
    where, bins, ways = ragged(random.Random(seed))
    network, cells = Network(where, bins, ways), Cells(where, bins, ways)
    around = Network(*turned(where, bins, ways))
    some = [n for n in range(len(bins)) if n % 3 == 0]
    reach, back = Reach(network, some), Reach(network, some, to=True)
    for p, a in enumerate(bins):
        far = cells.far(a)
        for q, b in enumerate(bins):
            mm = network.mm(p, q)
            assert mm == far.get(cells.at(b), NOWHERE), (a.code, b.code)
            assert mm == around.mm(p, q), (a.code, b.code)
            walk = network.walk(p, q)
            assert (walk is None) == (mm >= NOWHERE)
            if walk:
                legs = pairwise(walk.spots)
                assert sum(abs(x - u) + abs(y - v) for (x, y), (u, v) in legs) == mm == walk.mm
                assert (walk.spots[0], walk.spots[-1]) == ((a.x_mm, a.y_mm), (b.x_mm, b.y_mm))
        assert reach.mm(p) == min(network.mm(q, p) for q in some)
        assert back.mm(p) == min(network.mm(p, q) for q in some)


def test_the_demo_is_walked_as_before(ground: Ground) -> None:
    """Whole cross aisles alone give the distance there was before there was a network: along to one, across, along from it. Only
    from one place outside of aisles to another it led through racks, where no aisle is opposite."""
    network = network_of(ground, SITE)
    crosses = ground.sites[SITE].cross_aisles
    spots = {(b.x_mm, b.y_mm): n for n, b in enumerate(network.bins)}
    longer = set()
    for p in spots.values():
        for q in spots.values():
            a, b = network.bins[p], network.bins[q]
            across, along = abs(a.x_mm - b.x_mm), abs(a.y_mm - b.y_mm)
            before = across + (along if a.aisle == b.aisle else min(abs(a.y_mm - y) + abs(b.y_mm - y) for y in crosses))
            if network.mm(p, q) != before:
                assert not a.aisle and not b.aisle and network.mm(p, q) > before
                longer |= {a.zone, b.zone}
    assert longer and not longer & {"BLK", "RSV", "PCK", "HAZ"}
    dead = way("W1", WayKind.DEAD_END, zone="HAZ", aisle="H02", heading=Heading.NORTH)
    opening, _ = amend(ground.opening, {"ways": [replace(dead, site=SITE)]})
    assert check_opening(opening) == []
    cut = network_of(Ground(opening), SITE)
    assert (network.metres("H-02-12-1", "B-03-20-1"), cut.metres("H-02-12-1", "B-03-20-1")) == (94, 130)


def of_two_aisles(*ways: Way, door: int = 0) -> Network:
    """Two aisles of three bins with a cross aisle south of them, and one far beyond in the north."""
    bins = [place(door, "D", "", 0, 0)]
    bins += [
        place(len(bins) + n, "P", name, x, y)
        for name, x in (("A", 0), ("B", 4_000))
        for n, y in enumerate((2_000, 4_000, 6_000))
    ]
    return Network(site(1_000, 20_000), bins, ways)


def found(network: Network) -> dict[str, LayoutFinding]:
    return {f.code: f for f in asked(network, [0])}


def test_an_aisle_that_ends_early_is_asked_about_until_it_is_said() -> None:
    """Both answers settle it; a dead end changes the way, going through does not."""
    network = of_two_aisles()
    first = next(f for f in asked(network, [0]) if f.code == "ends_short")
    assert first.says == "Aisle A of zone P ends 14 m before the cross aisle at 20 m: does one walk through?"
    top_a, top_b = 3, 6
    for answer in first.answers:
        after = of_two_aisles(answer.way)
        assert [f.says.split()[1] for f in asked(after, [0])] == ["B"]
        assert after.mm(top_a, top_b) == network.mm(top_a, top_b) == 14_000  # by the south, either way
    assert [a.way.kind for a in first.answers] == [WayKind.GOES_THROUGH, WayKind.DEAD_END]


BLOCKED = {"from_mm": 3_000, "to_mm": 5_000}
OPEN_ENDS = [way(f"G{a}", WayKind.GOES_THROUGH, zone="P", aisle=a, heading=Heading.NORTH) for a in "AB"]
DEAD_ENDS = [replace(w, kind=WayKind.DEAD_END, code=f"D{w.aisle}") for w in OPEN_ENDS]


@pytest.mark.parametrize(
    ("ways", "code", "says"),
    [
        ([*DEAD_ENDS, way("W", WayKind.BLOCKED, zone="P", aisle="A", **BLOCKED)], "cut_off", "Nobody can walk from a door to `PA-00002`, `PA-00003`."),
        ([*DEAD_ENDS, way("W", WayKind.ONE_WAY, zone="P", aisle="A", heading=Heading.NORTH)], "no_way_back", "One can walk to `PA-00001`, `PA-00002`, `PA-00003`, but not back to a door."),
        ([*OPEN_ENDS, way("W", WayKind.ONE_WAY, zone="P", aisle="A", heading=Heading.NORTH), way("V", WayKind.ONE_WAY, zone="P", aisle="A", heading=Heading.SOUTH)], "both_ways", "Aisle A of zone P is said to be one-way in both directions; `V` holds."),
        ([*OPEN_ENDS, DEAD_ENDS[0]], "ends_and_goes", "Aisle A of zone P is said both to end in the north and to go through there; it ends."),
        ([*OPEN_ENDS, way("W", WayKind.BLOCKED, zone="P", aisle="A", from_mm=30_000, to_mm=31_000)], "says_nothing", "Aisle A of zone P is not there where `W` blocks it."),
        ([*OPEN_ENDS, way("W", WayKind.ONE_WAY, zone="P", aisle="A", heading=Heading.EAST)], "says_nothing", "Aisle A of zone P runs from south to north: `W` says east."),
        ([*OPEN_ENDS, way("W", WayKind.ONE_WAY, zone="P", aisle="C", heading=Heading.NORTH)], "says_nothing", "Aisle C of zone P has no bins, so `W` says nothing."),
        ([*OPEN_ENDS, way("W", WayKind.BLOCKED, axis=Axis.X, at_mm=9, **BLOCKED)], "says_nothing", "There is no cross aisle where `W` blocks one."),
        ([*OPEN_ENDS, way("W", WayKind.CROSS_AISLE, axis=Axis.X, at_mm=3_000, from_mm=9_000)], "says_nothing", "No aisle meets cross aisle `W`."),
    ],
)  # fmt: skip
def test_a_layout_says_what_is_wrong_with_it(ways: list[Way], code: str, says: str) -> None:
    """Contradictions, facts about nothing, and bins nobody can fetch from or come back from."""
    about = found(of_two_aisles(*ways))
    assert about[code].says == says and set(about) == {code}


def test_bins_that_a_network_cannot_place_are_taken_as_open_floor() -> None:
    """An aisle that meets no cross aisle, and a site without any: walked straight, and said."""
    bench = [place(n, "K", "BENCH", 500 * n, 30_000) for n in range(3)]
    network = Network(site(20_000), [*of_two_aisles().bins, *bench])
    assert network.mm(7, 9) == 1_000 and network.mm(7, 0) == 30_000
    assert (
        found(network)["meets_none"].says
        == "Aisle BENCH of zone K meets no cross aisle: its bins are taken as places on open floor."
    )
    nothing = Network(site(), network.bins)
    assert nothing.mm(0, 6) == 10_000 and "no_crossing" in found(nothing)
    wide = Network(site(1_000), [place(n, "P", "A", 9_000 * (n % 2), 2_000 + 9_500 * n) for n in range(3)])
    assert "have one name" in found(wide)["wide"].says


@pytest.mark.parametrize(
    ("bad", "says"),
    [
        (way("W", WayKind.CROSS_AISLE, axis=Axis.X), "a cross aisle has an axis, x or y, and a place on the other one (`at_mm`)"),
        (way("W", WayKind.CROSS_AISLE, axis=Axis.X, at_mm=5, heading=Heading.NORTH), "it runs along x, so nobody walks it towards north"),
        (way("W", WayKind.CROSS_AISLE, axis=Axis.X, at_mm=5, from_mm=9, to_mm=9), "it ends before it begins"),
        (way("W", WayKind.ONE_WAY, zone="HAZ", aisle="H01"), "it says where to: the direction one walks, or the end that is meant"),
        (way("W", WayKind.ONE_WAY, heading=Heading.NORTH), "it names the zone and the aisle it is about"),
        (way("W", WayKind.BLOCKED, zone="HAZ", aisle="H01"), "it says from where to where it is blocked"),
        (way("W", WayKind.DEAD_END, zone="HAZ", aisle="H01", heading=Heading.NORTH, from_mm=1), "it is about a whole aisle and has no stretch"),
        (way("W", WayKind.DEAD_END, zone="NONE", aisle="H01", heading=Heading.NORTH), "zone `NONE` does not exist"),
    ],
)  # fmt: skip
def test_a_fact_that_says_too_little_or_too_much_is_refused(ground: Ground, bad: Way, says: str) -> None:
    """Each in a sentence, with its place."""
    opening, _ = amend(ground.opening, {"ways": [replace(bad, site=SITE)]})
    assert [(p.place, p.says) for p in check_opening(opening)] == [("ways/W", says)]


def test_nearest_and_far_follow_the_layout(ground: Ground) -> None:
    """Bins nobody can walk to come last, and are named as such where a rule is explained."""
    facts = [way("W1", WayKind.BLOCKED, zone="HAZ", aisle="H01", from_mm=9_000, to_mm=39_000)]
    opening, _ = amend(ground.opening, {"ways": [replace(f, site=SITE) for f in facts]})
    network = network_of(Ground(opening), SITE)
    doors = [n for b in ground.bins_of(ZonePurpose.DOOR, SITE) if (n := network.number(b.code)) is not None]
    cut = next(f for f in asked(network, doors) if f.code == "cut_off")
    assert len(cut.bins) == 36 and all(code.startswith("H-01-") for code in cut.bins)
    assert network.metres("DOOR-1", cut.bins[0]) is None
