"""The shortest tour on a site of parallel aisles, exactly: any number of cross aisles, aisles of unequal length, dead ends, blocked
stretches, cross aisles over part of the width, and start and end apart.

A dynamic programme goes over the columns, that is over the aisles from west to east (see :mod:`frontier`). In each it decides how
every stretch between two junctions is walked; between two columns, how often every cross aisle is. Beyond the known procedures:

* what ends blind is a walk out from its junction and back;
* of the aisles without stops those are left out whose every stretch is in the columns on both sides of them, too: a tour comes to
  them from one side and leaves to the same or the other, and could as well change rows at one of those; so it does not matter how wide
  a site is;
* where start and end are apart, one more row carries a walk from the end to the start that costs nothing, and each of the two is a
  row of its own while its column is worked on.

The order of the stops is an Euler walk over what is walked.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence
from itertools import pairwise

from mindful_crate.core.catalog.places import Axis
from mindful_crate.core.walking.columns import Column, Stretch
from mindful_crate.core.walking.network import NONE, NOWHERE, Network
from mindful_crate.core.walking.solving import Solving

KEPT = 100_000
"""For so many pairs of columns it is kept which between them matter; then it starts afresh."""
MOST_ROWS, MOST_ROWS_APART = 6, 5
"""Of cross aisles, for rounds and where start and end are apart: with more there are thousands of states, and the search is asked."""


class Aisles:
    """A network whose aisles are parallel, ready for exact tours. ``is_exact`` says whether it is one."""

    def __init__(self, network: Network) -> None:
        self.network = network
        axes = {c.axis for c in network.crosses}
        self.is_exact = (
            len(axes) == 1
            and len(network.crosses) <= MOST_ROWS
            and not network.has_one_way
            and all(s.axis not in axes for s in network.segments)
        )
        if not self.is_exact:
            return
        self.along_x = axes == {Axis.X}
        self.rows = [c.at for c in network.crosses]
        self._row = {at: n for n, at in enumerate(self.rows)}
        self._is_whole = all(c.is_whole for c in network.crosses)
        self._spot = [s if self.along_x else (s[1], s[0]) for s in network.spots]
        self.ends = [self._rows_of(number) for number in range(len(network.segments))]
        """Of each segment the rows that it begins and ends at; NONE where it ends blind."""
        through: dict[int, dict[int, Stretch]] = {}
        for number, s in enumerate(network.segments):
            if s.start >= 0 and s.end >= 0:
                through.setdefault(s.at, {})[number] = self.stretch(number, [])
        for n, (_, low, high, along) in enumerate(network.open_floor):
            for at in along:
                stretch = Stretch(self._row[low], self._row[high], low, high, -1 - n)
                through.setdefault(at, {})[-1 - n] = stretch
        self._through = through
        self._ats = sorted(through)
        bits: dict[tuple[int, int], int] = {}
        self._joins = {
            at: sum({bits.setdefault((s.low_row, s.high_row), 1 << len(bits)) for s in stretches.values()})
            for at, stretches in through.items()
        }
        """Of each column: which rows it joins, as a mask."""
        self._all = (1 << len(bits)) - 1
        self._between: dict[tuple[int, int], tuple[int, ...]] = {}

    def _rows_of(self, number: int) -> tuple[int, int]:
        s = self.network.segments[number]
        low = NONE if s.start < 0 else self._row[self._spot[s.start][1]]
        return low, NONE if s.end < 0 else self._row[self._spot[s.end][1]]

    def stretch(self, number: int, stops: list[int]) -> Stretch:
        """A segment with stops along it, in order."""
        s, (low, high) = self.network.segments[number], self.ends[number]
        return Stretch(low, high, s.low, s.high, number, stops)

    # From stops to columns

    def can_serve(self, stops: Iterable[int]) -> bool:
        """May these stops be served exactly? Two places on one open floor reach one another without a cross aisle."""
        network = self.network
        if not self.is_exact:
            return False
        floors: dict[int, int] = {}
        for n in stops:
            number = network.segment_of[n]
            if number < 0:
                return False
            floor = network.segments[number].floor
            if floor is not None and floors.setdefault(floor, number) != number:
                return False
        return True

    def columns(self, stops: Iterable[int], ends: Sequence[int] = ()) -> list[Column] | None:
        """The columns of a tour; None when a stop has no junction."""
        network = self.network
        segment_of, place_of, segments = network.segment_of, network.place_of, network.segments
        places: dict[int, set[int]] = {}
        for n in (*stops, *ends):
            number = segment_of[n]
            if number in places:
                places[number].add(place_of[n])
            else:
                places[number] = {place_of[n]}
        found: dict[int, dict[int, Stretch]] = {}
        for number, along in places.items():
            if self.ends[number] == (NONE, NONE):
                return None
            found.setdefault(segments[number].at, {})[number] = self.stretch(number, sorted(along))
        kept = self._kept(sorted(found))
        columns: list[Column] = []
        for at in sorted({*found, *kept}):
            mine = self._through.get(at, {})
            if at in found:
                mine = {**mine, **found[at]}
            columns.append(Column(at, [mine[key] for key in sorted(mine)] if len(mine) > 1 else [*mine.values()]))
        for row, n in enumerate(ends, start=len(self.rows) + 1):
            self._mark(columns, n, row)
        return columns

    def _kept(self, mine: list[int]) -> list[int]:
        """The columns without stops that matter between those with stops, and beyond the outermost."""
        if not self._is_whole:
            return self._ats
        kept = [*self._beyond(mine[0], -1), *self._beyond(mine[-1], 1)]
        for a, b in pairwise(mine):
            kept += self._inner(a, b)
        return kept

    def _beyond(self, at: int, side: int) -> Sequence[int]:
        """Those that matter beyond the outermost column with stops: as far as to one that joins all rows, or to the last."""
        if self._joins.get(at) == self._all:
            return ()
        beyond = self._ats[bisect_right(self._ats, at) :] if side > 0 else self._ats[: bisect_left(self._ats, at)][::-1]
        if not beyond:
            return ()
        last = next((other for other in beyond if self._joins[other] == self._all), beyond[-1])
        return (*self._inner(min(at, last), max(at, last)), last)

    def _inner(self, a: int, b: int) -> tuple[int, ...]:
        """Those that matter between two columns: from the one, each time on to the farthest that together with the last makes all between
        them needless."""
        joins, everything = self._joins, self._all
        if joins.get(a) == everything == joins.get(b):
            return ()
        found = self._between.get((a, b))
        if found is None:
            ahead = [*self._ats[bisect_right(self._ats, a) : bisect_left(self._ats, b)], b]
            kept, at, n = [a], joins.get(a, 0), 0
            while kept[-1] != b:
                passed, to = 0, n
                for m in range(n, len(ahead)):
                    mine = joins.get(ahead[m], 0)
                    if not passed & ~mine:
                        to = m
                    passed |= mine
                    if passed & ~at:
                        break
                kept.append(ahead[to])
                at, n = joins.get(ahead[to], 0), to + 1
            if len(self._between) >= KEPT:
                self._between.clear()
            found = self._between[a, b] = tuple(kept[1:-1])
        return found

    def _mark(self, columns: list[Column], n: int, row: int) -> None:
        """Make an end of an open tour a row of its own: the stretch it lies on is cut there."""
        number, at = self.network.segment_of[n], self.network.place_of[n]
        for column in columns:
            for stretch in (*column.stretches, *(s for _, parts in column.ends for s in parts)):
                if stretch.key == number and stretch.low <= at <= stretch.high:
                    self._cut(column, stretch, at, row)
                    return
        raise AssertionError("an end lies on a stretch of its column")

    def _cut(self, column: Column, stretch: Stretch, at: int, row: int) -> None:
        below = Stretch(stretch.low_row, row, stretch.low, at, stretch.key, [y for y in stretch.stops if y < at])
        above = Stretch(row, stretch.high_row, at, stretch.high, stretch.key, [y for y in stretch.stops if y > at])
        parts = [p for p in (below, above) if NONE not in (p.low_row, p.high_row) or p.stops]
        for _, others in column.ends:
            if stretch in others:
                others.remove(stretch)
        if stretch in column.stretches:
            column.stretches.remove(stretch)
        column.ends.append((row, parts))

    def _solving(self, columns: Sequence[Column], *, is_open: bool, order: bool) -> Solving:
        return Solving(columns, len(self.rows), self._walkable(columns), is_open=is_open, order=order)

    def _walkable(self, columns: Sequence[Column]) -> list[int] | None:
        """Which rows one may walk from each column to the next, as masks; None when that is all."""
        if self._is_whole:
            return None
        crosses = self.network.crosses
        return [sum(1 << row for row, c in enumerate(crosses) if c.stretch(a.x, b.x)[0]) for a, b in pairwise(columns)]

    # Tours

    def length(self, stops: Sequence[int]) -> int:
        """Length of the shortest round through some stops that :meth:`can_serve`; NOWHERE when there is none."""
        line = self._on_one_segment(stops)
        if line is not None:
            return 2 * (line[-1] - line[0])
        columns = self.columns(stops)
        return NOWHERE if columns is None else self._solving(columns, is_open=False, order=False).best

    def tour(self, stops: Sequence[int], start: int, end: int) -> tuple[int, list[int]] | None:
        """The shortest way from start over all stops to the end, a round when that is the start, and the order of the stops
        with both ends; None when there is none, or it cannot be found exactly."""
        everything = [start, *stops, *([end] if end != start else [])]
        if not self.can_serve(everything):
            return None
        is_round = start == end or self._place(start) == self._place(end)
        if not is_round and len(self.rows) > MOST_ROWS_APART:
            return None
        if self._on_one_segment(everything) is not None:
            return self._along_one(everything, start, end)
        columns = self.columns(stops if not is_round else everything, () if is_round else (start, end))
        if columns is None:
            return None
        solving = self._solving(columns, is_open=not is_round, order=True)
        if solving.best >= NOWHERE:
            return None
        return solving.best, self._named(solving.order(), everything, start, end, is_round=is_round)

    def _place(self, n: int) -> tuple[int, int]:
        return self.network.segment_of[n], self.network.place_of[n]

    def _on_one_segment(self, stops: Sequence[int]) -> list[int] | None:
        """The places of stops that all lie on one segment, in order: no junction need be reached then."""
        network = self.network
        if len({network.segment_of[n] for n in stops}) > 1:
            return None
        return sorted({network.place_of[n] for n in stops})

    def _along_one(self, everything: Sequence[int], start: int, end: int) -> tuple[int, list[int]]:
        place = self.network.place_of
        low, high = min(everything, key=lambda n: place[n]), max(everything, key=lambda n: place[n])
        a, b, y, z = place[start], place[end], place[low], place[high]
        there = sorted(everything, key=lambda n: (place[n], n))
        if abs(a - y) + abs(z - b) <= abs(a - z) + abs(y - b):  # down first, then up, then back to the end
            mm = (a - y) + (z - y) + (z - b)
            first = [n for n in reversed(there) if place[n] <= a]
            last = [n for n in there if place[n] > a]
        else:
            mm = (z - a) + (z - y) + (b - y)
            first = [n for n in there if place[n] >= a]
            last = [n for n in reversed(there) if place[n] < a]
        middle = [n for n in first + last if n not in (start, end)]
        return mm, [start, *middle, *([end] if end != start else [])]

    def _named(
        self, places: Iterable[tuple[int, int]], everything: Sequence[int], start: int, end: int, *, is_round: bool
    ) -> list[int]:
        """Places in the order of a tour as stops: those of one place one after the other."""
        at: dict[tuple[int, int], list[int]] = {}
        segment_of, place_of = self.network.segment_of, self.network.place_of
        for n in sorted(set(everything)):
            place = segment_of[n], place_of[n]
            if place in at:
                at[place].append(n)
            else:
                at[place] = [n]
        first = at.pop(self._place(start))
        last = [] if is_round else at.pop(self._place(end))
        order = list(places)
        if is_round:
            begins = order.index(self._place(start))
            order = order[begins:] + order[:begins]
        middle = [*first, *(n for where in order for n in at.pop(where, ())), *last]
        return [start, *(n for n in middle if n not in (start, end)), *([end] if end != start else [])]
