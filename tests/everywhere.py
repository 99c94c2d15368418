"""What is computed ahead, as one hash a subject: ``python -m tests.everywhere``. Nothing here is drawn by a library."""

from __future__ import annotations

import hashlib

from mindful_crate.core.catalog.places import Axis, Heading, WayKind
from mindful_crate.core.chance import Chance
from mindful_crate.core.releasing.plans import GroupWish, Known, Of, Runs, Span, WavePlan
from mindful_crate.core.releasing.reach import reached
from mindful_crate.core.releasing.sharing import everybody_walks
from mindful_crate.core.releasing.splitting import Caps, Picked, Wave
from mindful_crate.core.walking.network import Network
from mindful_crate.core.walking.rounds import Rounds
from mindful_crate.core.walking.tours import Tours
from tests.walked import parallel, way


def tours() -> str:
    """Exact and searched tours, rounds and open ones, with one-way aisles and without."""
    whole = hashlib.sha256()
    aisle = {"zone": "P", "aisle": "002", "heading": Heading.NORTH}
    facts = (
        [],
        [way("C", WayKind.CROSS_AISLE, axis=Axis.Y, at_mm=1_700)],
        [way("O", WayKind.ONE_WAY, **aisle)],
        [way("D", WayKind.DEAD_END, **aisle)],
    )
    for blocks in (1, 2, 3):
        where, bins = parallel(12, blocks)
        for ways in facts:
            chance = Chance(blocks)
            mine = Tours(Network(where, bins, ways))
            for count in (6, 11, 24):
                stops = [1 + chance.below(len(bins) - 1) for _ in range(count)]
                for end in (0, stops[0]):
                    tour = mine.shortest(stops, 0, end, rounds=40)
                    whole.update(repr((tour.stops, tour.mm, tour.at_least_mm, tour.proof.value)).encode())
    return whole.hexdigest()[:16]


def splits() -> str:
    """Waves on carts, in one block and in two, and shared over pickers."""
    whole = hashlib.sha256()
    for blocks, count, rounds in ((1, 60, 800), (2, 24, 60)):
        where, bins = parallel(14, blocks)
        chance = Chance(7)
        orders = [
            Picked(f"SO-{n}", tuple(1 + chance.below(len(bins) - 1) for _ in range(1 + chance.below(5))), 1, (1 + chance.below(9)) * 1_000_000)
            for n in range(count)
        ]  # fmt: skip
        wave = Wave(orders, Rounds(Tours(Network(where, bins)), 0), Caps(8, 30_000_000))
        for split in (wave.first_come(), wave.by_savings(), wave.shortest_found(rounds)):
            whole.update(repr((split.carts, split.metres)).encode())
        even = everybody_walks(wave, 5, rounds // 4)
        whole.update(repr((even.small.carts, even.small_shares)).encode())
    return whole.hexdigest()[:16]


def plans() -> str:
    """Overlaps, gaps with their witnesses and what is like them, plans never reached."""
    whole = hashlib.sha256()
    chance = Chance(11)
    groups = [f"G{n}" for n in range(8)]
    carriers = [f"C{n}" for n in range(4)]
    known = Known(
        {f"P{n}": tuple(carriers[: 1 + n % 4]) for n in range(12)}, {f"P{n}": f"K{n % 3}" for n in range(12)},
        {g: 100_000 * (1 + n) for n, g in enumerate(groups)},
    )  # fmt: skip

    def some(names: list[str], often: int) -> frozenset[str]:
        return frozenset(n for n in names if chance.below(3) == 0) if chance.below(10) < often else frozenset()

    for _ in range(12):
        made = []
        for n in range(3 + chance.below(12)):
            wish = some(groups, 5)
            low = chance.below(40)
            times = tuple(60 * chance.below(24) for _ in range(2))
            made.append(
                WavePlan(
                    f"W{n}", some(carriers, 5), some(sorted(known.goes_with), 3), some(["K0", "K1", "K2"], 2), Span(),
                    Span(None, 1_000_000 * low) if chance.below(3) == 0 else Span(), Span(low, None) if chance.below(4) == 0 else Span(),
                    GroupWish(list(Of)[chance.below(3)], wish) if wish else None,
                    Runs(times, Span(0, 60 * chance.below(48))) if chance.below(3) == 0 else None,
                )
            )  # fmt: skip
        found = reached(made, known)
        for part in (found.overlaps, found.gaps, found.only_by_all):
            for each in part:
                order = each.witness
                facts = (
                    order.partner,
                    order.carrier,
                    order.weight_mg,
                    order.lines,
                    sorted(order.groups),
                    order.released,
                    order.due,
                )
                whole.update(repr((facts, getattr(each, "first", None), getattr(each, "second", None))).encode())
        whole.update(repr((found.never, found.undecided)).encode())
    return whole.hexdigest()[:16]


if __name__ == "__main__":
    print(tours(), splits(), plans())
