"""Splitting a wave: against the best of all splits, within what a cart holds, the same everywhere."""

from __future__ import annotations

import random
from collections.abc import Sequence
from itertools import product

import pytest

from mindful_crate.core.catalog.places import WayKind
from mindful_crate.core.problem import Refusal
from mindful_crate.core.releasing.methods import Method, compared
from mindful_crate.core.releasing.sharing import everybody_walks, share
from mindful_crate.core.releasing.splitting import Caps, Improving, Picked, Split, Wave
from mindful_crate.core.walking.network import Network
from mindful_crate.core.walking.rounds import Ready, Rounds
from mindful_crate.core.walking.sets import shortest_round
from mindful_crate.core.walking.tours import Tours
from tests.walked import parallel, place, ragged, site, way


def orders(chance: random.Random, bins: range, count: int) -> list[Picked]:
    """Orders of one to four stops."""
    found = []
    for n in range(count):
        stops = tuple(chance.sample(bins, chance.randint(1, 4)))
        found.append(
            Picked(f"SO-{n:03d}", stops, chance.choice([1, 1, 2]), chance.randrange(1, 9) * 1_000_000, len(stops))
        )
    return found


def wave(seed: int, count: int, blocks: int = 1, totes: int = 4) -> Wave:
    """A wave on equal aisles, from a door at the corner."""
    where, bins = parallel(8, blocks, length=12_000)
    return Wave(
        orders(random.Random(seed), range(1, len(bins)), count),
        Rounds(Tours(Network(where, bins)), 0),
        Caps(totes, 20_000_000),
    )


def is_whole(wave: Wave, split: Split) -> bool:
    """Is every order on one cart, no cart too full, and each as long as it is said?"""
    caps, network = wave.caps, wave.rounds.network
    for cart, mm in zip(split.carts, split.metres, strict=True):
        stops = list(dict.fromkeys(n for k in cart for n in wave.orders[k].stops))
        if len(stops) <= 9 and shortest_round(network.matrix([0, *stops]))[0] != mm:
            return False
        weight = sum(wave.orders[k].weight_mg for k in cart)
        if sum(wave.orders[k].totes for k in cart) > caps.totes or (caps.weight_mg and weight > caps.weight_mg):
            return False
    return sorted(k for cart in split.carts for k in cart) == list(range(len(wave.orders)))


def best_of_all(wave: Wave) -> int:
    """The least that all carts can walk together, over all sets of orders that fit one."""
    count = len(wave.orders)
    cost = {}
    for some in range(1, 1 << count):
        cart = [n for n in range(count) if some >> n & 1]
        if wave.fits((0, 0), wave.load(cart)):
            cost[some] = wave.cost(cart)
    best = {0: 0}
    for some in range(1, 1 << count):
        first, options, part = some & -some, [], some
        while part:
            if part & first and part in cost:
                options.append(best[some ^ part] + cost[part])
            part = (part - 1) & some
        best[some] = min(options)
    return best[(1 << count) - 1]


def test_small_waves_come_out_as_short_as_can_be() -> None:
    """Of twenty waves of seven orders all come within three percent of the best of all splits, nine in ten reach it, and none is below
    it; every way to split has each order once, on carts that hold it."""
    reached = 0
    for seed in range(20):
        mine = wave(seed, 7, blocks=1 + seed % 2)
        best, found = best_of_all(mine), mine.shortest_found(400)
        for split in (found, mine.by_savings(), mine.first_come(), mine.one_by_one()):
            assert is_whole(mine, split) and split.mm >= best
        assert found.mm <= min(mine.by_savings().mm, best * 103 // 100)
        reached += found.mm == best
    assert reached >= 18


def test_rounds_may_be_made_in_steps_and_stopped() -> None:
    """All at once or a few at a time makes the same carts; whoever stops takes the shortest so far, never longer than what was begun
    with."""
    mine = wave(3, 40)
    begun = mine.by_savings()
    at_once, in_steps = Improving(mine, begun.carts, 300), Improving(mine, begun.carts, 300)
    at_once.step(300)
    before, done = begun.mm, 0
    while True:
        goes_on = in_steps.step(70)
        now = in_steps.best()
        assert now.mm <= before and is_whole(mine, now) and now.rounds > done
        before, done = now.mm, now.rounds
        if not goes_on:
            break
    assert in_steps.best() == at_once.best() and done == 300 and not in_steps.step(1)
    assert at_once.best().mm < begun.mm < mine.first_come().mm


def test_an_order_no_cart_holds_is_named() -> None:
    """By places, by weight, and when it cannot be walked to."""
    mine = wave(1, 3)
    with pytest.raises(Refusal, match="Order `BIG` takes 9 places; a cart has 4"):
        Wave([*mine.orders, Picked("BIG", (1,), 9)], mine.rounds, mine.caps)
    with pytest.raises(Refusal, match="Order `LEAD` weighs 50 kg; a cart bears 20 kg"):
        Wave([*mine.orders, Picked("LEAD", (1,), 1, 50_000_000)], mine.rounds, mine.caps)
    alone = Wave([Picked("ONE", (5,), 1)], mine.rounds, mine.caps)
    assert alone.shortest_found(50).carts == ((0,),)


@pytest.mark.parametrize("seed", range(40))
def test_rounds_are_those_of_tours(seed: int) -> None:
    """The short arithmetic of one block, and what is asked elsewhere, is as long as the tour; on ragged sites with one-way aisles it is
    at most a little longer."""
    chance = random.Random(seed)
    length = 20
    bins = [place(0, "D", "", chance.randint(-4, 30), chance.choice([0, 3, 5 + length + 4]))]
    for a in range(chance.randint(1, 8)):
        bins += [place(len(bins) + k, "P", f"A{a}", 5 * a, y) for k, y in enumerate(range(6, 5 + length))]
    tours = Tours(Network(site(5, 5 + length), bins))
    rounds = Rounds(tours, 0)
    assert rounds.is_quick
    sites = [(rounds, len(bins))]
    for one_way in (True, False):
        where, others, ways = ragged(chance, one_way=one_way)
        sites.append((Rounds(Tours(Network(where, others, ways)), 0), len(others)))
    for mine, count in sites:
        network = mine.network
        for _ in range(8):
            stops = chance.sample(range(1, count), min(count - 1, chance.randint(1, 7)))
            if max(map(max, network.matrix([0, *stops]))) >= 1 << 60:
                continue
            parts = [mine.ready(stops[:2]), mine.ready(stops[2:])]
            assert mine.at_least(parts) <= mine.over(parts) == mine.tours.shortest(stops, 0).mm


@pytest.mark.parametrize("blocks", [2, 3])
def test_a_bound_saves_most_rounds_and_changes_no_cart(blocks: int) -> None:
    """Savings and improving that ask for every round make the carts they make otherwise, with a third of the rounds or less."""

    class Asked(Rounds):
        known, times = True, 0

        def at_least(self, some: Sequence[Ready]) -> int:
            return super().at_least(some) if self.known else 0

        def over(self, some: Sequence[Ready]) -> int:
            self.times += 1
            return super().over(some)

    made = []
    for known in (True, False):
        orders = wave(blocks, 60, blocks, 6)
        rounds = Asked(orders.rounds.tours, 0)
        rounds.known = known
        mine = Wave(orders.orders, rounds, orders.caps)
        savings = mine.by_savings()
        asked = rounds.times
        improving = Improving(mine, savings.carts, 60)
        improving.step(60)
        made.append((savings, improving.best(), asked, rounds.times))
    assert made[0][:2] == made[1][:2]
    assert 3 * made[0][2] < made[1][2] and made[0][3] - made[0][2] < made[1][3] - made[1][2]


def test_orders_with_stops_outside_of_the_block_are_split_as_well() -> None:
    """Places on the floor, and bins beyond the last cross aisle, are walked to like any other; what is cut off is named."""
    where, bins = parallel(4, 1, length=12_000)
    bins += [place(len(bins), "S", "", 4_000, 16_000), place(len(bins) + 1, "P", "001", 3_500, 15_500)]
    rounds = Rounds(Tours(Network(where, bins)), 0)
    some = [Picked("A", (5, len(bins) - 2), 1), Picked("B", (20, len(bins) - 1), 1), Picked("C", (30,), 1)]
    mine = Wave(some, rounds, Caps(2))
    assert rounds.is_quick and all(mine.cost((n,)) == rounds.tours.shortest(some[n].stops, 0).mm for n in range(3))
    assert is_whole(mine, mine.shortest_found(40))
    shut = way("W", WayKind.BLOCKED, zone="P", aisle="001", from_mm=-1, to_mm=20_000)
    with pytest.raises(Refusal, match="Nobody can walk to all stops of order `B`"):
        Wave(some, Rounds(Tours(Network(where, bins, [shut])), 0), Caps(2))


def test_pickers_share_evenly() -> None:
    """The longest share is never longer than the longest first way of sharing gives, and close to the best of all on a few carts; with
    fewer carts than pickers smaller ones even it out, at a price that is told."""
    chance = random.Random(2)
    for _ in range(20):
        metres = [chance.randrange(50, 400) for _ in range(7)]
        best = min(
            max(sum(m for m, p in zip(metres, given, strict=True) if p == q) for q in range(3))
            for given in product(range(3), repeat=7)
        )
        shares = share(metres, 3)
        assert sorted(k for cart in shares.carts for k in cart) == list(range(7)) and sum(shares.metres) == sum(metres)
        assert best <= shares.longest <= best * 110 // 100
    mine = wave(5, 14, totes=12)
    even = everybody_walks(mine, 6, 200)
    assert len(even.small.carts) >= 6 > len(even.full.carts) and even.totes < 12
    assert even.small_shares.longest < even.full_shares.longest and even.sooner_permille > 0
    assert even.longer_permille == 1000 * (even.small.mm - even.full.mm) // even.full.mm > 0


def test_methods_stand_beside_one_another_with_what_else_they_ask_for() -> None:
    """Metres alone would always choose to sort afterwards: scans at the sort station and hand-overs stand beside them."""
    mine = wave(7, 30)
    network = mine.rounds.network
    halves = [Rounds(mine.rounds.tours, 0), Rounds(Tours(network), 0)]
    zones = {n: halves[b.x_mm > 12_000] for n, b in enumerate(network.bins)}
    by = {
        c.method: c
        for c in compared(mine.orders, mine.rounds, mine.caps, pickers=4, batch_lines=20, zones=zones, effort=200)
    }
    lines = sum(o.lines for o in mine.orders)
    assert by[Method.BATCH].mm < by[Method.CLUSTER].mm < by[Method.ORDER].mm
    assert (by[Method.BATCH].sort_scans, by[Method.CLUSTER].sort_scans) == (lines, 0)
    crossing = sum(
        len({zones[n] is halves[0] for k in cart for n in mine.orders[k].stops}) - 1
        for cart in by[Method.ZONES].split.carts
    )
    assert by[Method.ZONES].hand_overs == crossing > 0
    assert all(c.longest_mm <= c.mm for c in by.values())
