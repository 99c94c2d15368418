"""Walking in the order in which bins are numbered, beside the shortest tours over the same bins."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from mindful_crate.core.catalog.places import Bin
from mindful_crate.core.chance import Chance
from mindful_crate.core.record import record
from mindful_crate.core.walking.network import NOWHERE, Reach
from mindful_crate.core.walking.tours import Tours


@record
class Measured:
    """Some tours walked both ways, in all. ``at_least_mm``: none over the same bins are shorter than that together."""

    tours: int
    stops: int
    """Of each."""
    numbered_mm: int
    shortest_mm: int
    at_least_mm: int

    @property
    def longer_permille(self) -> int:
        """How much longer the numbered order is, in thousandths of the shortest, to the nearest."""
        return longer_permille(self.numbered_mm, self.shortest_mm)


def longer_permille(mm: int, shortest: int) -> int:
    """How much longer one length is than another, in thousandths of that, to the nearest."""
    return (1000 * (mm - shortest) + shortest // 2) // max(1, shortest)


def numbered(bins: Sequence[Bin], stops: Iterable[int]) -> list[int]:
    """Bins by their turn on the walk through the site."""
    return sorted(dict.fromkeys(stops), key=lambda n: (bins[n].walk, bins[n].code))


def measured(tours: Tours, among: Sequence[int], start: int, *, count: int, stops: int, seed: int) -> Measured | None:
    """So many rounds from a start over stops drawn from some bins, each walked in the numbered order and as short as can be.
    Bins that cannot be walked to and from are left out; None when too few are left."""
    network = tours.network
    out, back = Reach(network, [start]), Reach(network, [start], to=True)
    fit = [n for n in among if n != start and out.mm(n) < NOWHERE and back.mm(n) < NOWHERE]
    stops = min(stops, len(fit))
    if stops < 2:
        return None
    chance = Chance(seed)
    by_number = shortest = at_least = 0
    for _ in range(count):
        drawn: dict[int, None] = {}
        while len(drawn) < stops:
            drawn[fit[chance.below(len(fit))]] = None
        some = list(drawn)
        by_number += tours.length([start, *numbered(network.bins, some)])
        tour = tours.shortest(some, start)
        shortest += tour.mm
        at_least += tour.at_least_mm
    return Measured(count, stops, by_number, shortest, at_least)
