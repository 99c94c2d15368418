"""What no round over some stops can do without: so far across the aisles and back, into every stretch with a stop, and between rows with stops on both sides an
even number of times. A bound for whoever compares many rounds of which few matter: it takes a twentieth of finding the shortest.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import pairwise

from mindful_crate.core.record import record
from mindful_crate.core.walking.aisles import Aisles
from mindful_crate.core.walking.frontier import ONCE
from mindful_crate.core.walking.network import NONE, NOWHERE

Served = tuple[tuple[int, ...], int, int]
"""A segment's stops along it, in order; what walking through it costs, NOWHERE where one cannot; and what serving them without that does."""


@record
class Outline:
    """Stops as the bound sees them: from where to where across the aisles; of the rows, one not above the first and one not below the last that any round over them
    comes to; and what is served, by segment."""

    across: tuple[int, int]
    rows: tuple[int, int]
    served: dict[int, Served]


class Outlines:
    """Bounds of the rounds of a site of parallel aisles."""

    def __init__(self, aisles: Aisles) -> None:
        self._aisles, self._network = aisles, aisles.network
        self._heights = [high - low for low, high in pairwise(aisles.rows)]

    def of(self, stops: Sequence[int]) -> Outline | None:
        """Stops in outline; None where there are none, or rounds over them are not found column by column."""
        aisles, network = self._aisles, self._network
        if not stops or not aisles.can_serve(stops):
            return None
        places: dict[int, set[int]] = {}
        for n in stops:
            places.setdefault(network.segment_of[n], set()).add(network.place_of[n])
        ats = [network.segments[number].at for number in places]
        # to a segment between two rows one comes by either
        ends = [aisles.ends[number] for number in places]
        if (NONE, NONE) in ends:
            return None
        rows = min(max(a, b) for a, b in ends), max(min(e for e in (a, b) if e != NONE) for a, b in ends)
        return Outline(
            (min(ats), max(ats)), rows, {number: self._served(number, mine) for number, mine in places.items()}
        )

    def _served(self, number: int, places: Iterable[int]) -> Served:
        stretch = self._aisles.stretch(number, sorted(places))
        stops = tuple(stretch.stops)
        if NONE in (stretch.low_row, stretch.high_row):
            return stops, NOWHERE, stretch.out_and_back()
        if stretch.high_row > stretch.low_row + 1:
            return stops, NOWHERE, 0  # it leads past a row, of which nothing is known here
        ways = dict(stretch.ways())
        return stops, ways.pop(ONCE), min(ways.values())

    def at_least(self, some: Sequence[Outline]) -> int:
        """No round over all stops of some outlines is shorter; 0 where nothing is known of that but the round itself."""
        served = dict(some[0].served)
        (west, east), (first, last) = some[0].across, some[0].rows
        for each in some[1:]:
            west, east = min(west, each.across[0]), max(east, each.across[1])
            first, last = min(first, each.rows[0]), max(last, each.rows[1])
            for number, mine in each.served.items():
                have = served.get(number)
                served[number] = mine if have is None or have == mine else self._served(number, {*have[0], *mine[0]})
        if len(served) == 1:
            ((stops, _, _),) = served.values()
            return 2 * (stops[-1] - stops[0])
        total = 2 * (east - west)
        segments, ends = self._network.segments, self._aisles.ends
        # by the row below: walked through nowhere, an even number of times, an odd number of times
        costs: dict[int, tuple[int, int, int]] = {}
        floors: dict[int, int] = {}
        for number, (_, through, apart) in served.items():
            floor = segments[number].floor
            if floor is not None and floors.setdefault(floor, number) != number:
                return 0  # one walks straight from one to the other
            if through >= NOWHERE:
                total += apart
                continue
            low = ends[number][0]
            none, even, odd = costs.get(low, (0, NOWHERE, NOWHERE))
            costs[low] = (
                none + apart,
                min(even + apart, odd + through, none + 2 * through),
                min(odd + apart, none + through, even + through),
            )
        for low, height in enumerate(self._heights):
            none, even, odd = costs.get(low, (0, NOWHERE, NOWHERE))
            least = min(even, odd + height, none + 2 * height)
            total += least if first <= low < last else min(least, none)
        return total
