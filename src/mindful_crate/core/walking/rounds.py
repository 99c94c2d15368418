"""How long the shortest round from a start is, for whoever asks it many thousand times of ever other stops.

In one block of aisles, the site most often asked about, the dynamic programme of :mod:`aisles` is a dozen lines of arithmetic: with two
cross aisles there are five kinds of unfinished tour (Ratliff and Rosenthal 1983).
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Sequence
from itertools import pairwise

from mindful_crate.core.record import record
from mindful_crate.core.walking.network import NOWHERE, Network
from mindful_crate.core.walking.outline import Outline, Outlines
from mindful_crate.core.walking.search import length, short_round
from mindful_crate.core.walking.sets import shortest_round
from mindful_crate.core.walking.tours import Tours

Places = dict[int, list[int]]
"""Of a block: where one stops, by column."""


@record
class Ready:
    """Stops by number, as places of a block where they are all in one, and else in outline where rounds over them are exact."""

    stops: tuple[int, ...]
    places: Places | None
    outline: Outline | None


FEW = 9
"""So many places are weighed in every order where aisles are not parallel; more are searched for, without kicks."""


class Rounds:
    """Rounds from one start. Stops are made ready once (:meth:`ready`) and then put together in any way (:meth:`over`)."""

    def __init__(self, tours: Tours, start: int) -> None:
        self.tours, self.start = tours, start
        self.network: Network = tours.network
        self._block = _Block.of(tours, start)
        self._far: dict[tuple[int, int], int] = {}
        self._outlines = Outlines(tours.aisles) if tours.aisles.is_exact and self._block is None else None
        self._begins = self._outlines.of([start]) if self._outlines else None

    @property
    def is_quick(self) -> bool:
        """Is it one block, in which a round is a few microseconds' work?"""
        return self._block is not None

    def ready(self, stops: Iterable[int]) -> Ready:
        """Stops as :meth:`over` takes them."""
        some = tuple(sorted(dict.fromkeys(stops)))
        return Ready(
            some,
            self._block.places(some) if self._block else None,
            self._outlines.of(some) if self._outlines else None,
        )

    def at_least(self, some: Sequence[Ready]) -> int:
        """No round over all stops of several that were made ready is shorter; 0 where nothing is known of that but the round itself."""
        outlines = [r.outline for r in some if r.outline is not None]
        if self._outlines is None or self._begins is None or len(outlines) < len(some):
            return 0
        return self._outlines.at_least([self._begins, *outlines])

    def over(self, some: Sequence[Ready]) -> int:
        """Length of the shortest round over all stops of several that were made ready, exact wherever tours are."""
        if self._block:
            places = [r.places for r in some if r.places is not None]
            if len(places) == len(some):
                return self._block.length(places)
        stops = [self.start, *(n for r in some for n in r.stops)]
        if self.tours.aisles.can_serve(stops):
            return self.tours.aisles.length(stops)
        return self._searched(stops)

    def _searched(self, stops: list[int]) -> int:
        network = self.network
        places = {(network.segment_of[n], network.place_of[n]): n for n in reversed(stops)}
        nodes = [self.start, *sorted(n for n in places.values() if n != self.start)]
        far = [[self._mm(a, b) for b in nodes] for a in nodes]
        if len(nodes) <= FEW:
            return shortest_round(far)[0]
        return length(far, short_round(far, 0))

    def _mm(self, a: int, b: int) -> int:
        known = self._far.get((a, b))
        if known is None:
            known = self._far[a, b] = self.network.mm(a, b)
        return known


class _Block:
    """One block: whole aisles between two cross aisles, and a start on the open floor before one of them."""

    def __init__(
        self, length: int, flipped: bool, aisles: dict[int, int], start_at: int, off: int, tours: Tours
    ) -> None:
        self.length_mm, self.flipped, self.off = length, flipped, off
        network = tours.network
        self._network = network
        ats = sorted(aisles)
        self._column = {segment: 2 * bisect_left(ats, at) + 2 for at, segment in aisles.items()}
        """Aisles have even columns, so that there is an odd one between any two."""
        n = bisect_left(ats, start_at)
        self.start = 2 * n + 2 if n < len(ats) and ats[n] == start_at else 2 * n + 1
        self.has_aisle = self.start % 2 == 0
        self.at = {2 * m + 2: at for m, at in enumerate(ats)} | {self.start: start_at}

    @classmethod
    def of(cls, tours: Tours, start: int) -> _Block | None:
        """A site as one block; None when it is none."""
        aisles, network = tours.aisles, tours.network
        if not aisles.is_exact or len(network.crosses) != 2 or network.segment_of[start] < 0:
            return None
        mine = network.segments[network.segment_of[start]]
        through = {s.at: n for n, s in enumerate(network.segments) if s.start >= 0 and s.end >= 0}
        whole = sum(1 for s in network.segments if s.start >= 0 and s.end >= 0)
        if not all(c.is_whole for c in network.crosses) or len(through) != whole or network.open_floor:
            return None
        if any(network.segments[n].floor is not None for n in through.values()) or not through:
            return None
        if mine.floor is None or (mine.start >= 0) == (mine.end >= 0):
            return None
        low, high = (c.at for c in network.crosses)
        place = network.place_of[start]
        on_low = mine.start if mine.start >= 0 else mine.end
        is_back = (network.spots[on_low][1] if aisles.along_x else network.spots[on_low][0]) == high
        off = place - mine.low if mine.start >= 0 else mine.high - place
        return cls(high - low, is_back, through, mine.at, off, tours)

    def places(self, stops: Sequence[int]) -> Places | None:
        """Places by column, counted from the cross aisle the start is at; None when a stop is in no whole aisle."""
        network = self._network
        found: Places = {}
        for n in stops:
            number = network.segment_of[n]
            if number not in self._column:
                return None
            segment = network.segments[number]
            place = network.place_of[n]
            place = segment.high - place if self.flipped else place - segment.low
            found.setdefault(self._column[number], []).append(place)
        return found

    def length(self, some: Sequence[Places]) -> int:
        """Length of the shortest round over all places."""
        if len(some) == 1:
            places = some[0]
        else:
            places = {}
            for ready in some:
                for column, mine in ready.items():
                    have = places.get(column)
                    places[column] = mine if have is None else have + mine
        if not places:
            return 0
        whole, at, start = self.length_mm, self.at, self.start
        # by what the walks so far leave at the front and at the back: both odd; even at the front alone; at the back alone; even at both and in one piece; at both and in two
        odd = front = back = joined = parted = NOWHERE
        before = 0
        for column in sorted({*places, start}):
            if before:
                if column - before > 2:  # an aisle without stops may be walked through on the way
                    through = whole + min(front, back, joined, parted)
                    joined = min(joined, odd + whole)
                    odd = min(odd, through)
                width = 2 * (at[column] - at[before])
                front, back = min(front, joined) + width, min(back, joined) + width
                odd, joined, parted = odd + width, joined + 2 * width, parted + 2 * width
            there = places.get(column)
            if there is None:
                if not before:
                    odd, front, joined = (whole, 0, 2 * whole) if self.has_aisle else (NOWHERE, 0, NOWHERE)
                else:
                    if self.has_aisle:
                        through = whole + min(front, back, joined, parted)
                        joined = min(joined, odd + whole)
                        odd = min(odd, through)
                    parted, back = min(parted, back), NOWHERE
            else:
                low, high = min(there), max(there)
                from_back, from_front, gap = 2 * (whole - low), 2 * high, NOWHERE
                if low != high:
                    gap = 2 * (whole - max([b - a for a, b in pairwise(sorted(there))]))
                least = min(from_back, from_front, gap)
                if not before:
                    odd, front, back, joined, parted = whole, from_front, from_back, 2 * whole, gap
                else:
                    both = min(front + min(from_back, gap), back + min(from_front, gap), parted + least)
                    through = min(odd + min(least, 2 * whole), whole + min(front, back, joined, parted))
                    joined = min(odd + whole, 2 * whole + min(front, back, parted), joined + least)
                    odd, front, back, parted = through, front + from_front, back + from_back, both
                if column == start:
                    parted, back = min(parted, back), NOWHERE
            before = column
        return min(front, back, joined) + 2 * self.off
