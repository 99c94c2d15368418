"""The shortest tour on a site of parallel aisles, exactly: any number of cross aisles, aisles of unequal length, dead ends, blocked
stretches, cross aisles over part of the width, and start and end apart.

A dynamic programme goes over the columns, that is over the aisles from west to east (see :mod:`frontier`). In each it decides how
every stretch between two junctions is walked; between two columns, how often every cross aisle is. Beyond the known procedures:

* what ends blind is a walk out from its junction and back;
* of the whole aisles without stops between two columns that matter only the first and the last are kept, since a way through another
  could be moved to one of them at no cost; so it does not matter how wide a site is;
* where start and end are apart, one more row carries a walk from the end to the start that costs nothing, and each of the two is a
  row of its own while its column is worked on.

The order of the stops is an Euler walk over what is walked.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Any

from mindful_crate.core.catalog.places import Axis
from mindful_crate.core.walking.frontier import (
    CLOSED,
    FROM_HIGH,
    FROM_LOW,
    LEFT_OUT,
    ONCE,
    TWICE,
    WITHOUT_GAP,
    Frontier,
    frontier,
)
from mindful_crate.core.walking.network import NONE, NOWHERE, Network

MOST_ROWS = 6
"""With more cross aisles there are thousands of states; the search is asked then."""

Node = tuple[int, int]
"""A junction by column and row, or one end of an open tour (column -1)."""


@dataclass(slots=True, eq=False)
class Stretch:
    """Between two nodes of a column, by row; one of them is NONE where it ends blind. ``stops`` are places along it."""

    low_row: int
    high_row: int
    low: int
    high: int
    key: int
    """The segment it is of, to name its stops by."""
    stops: list[int] = field(default_factory=list)
    _ways: list[tuple[int, int]] | None = None

    def ways(self) -> list[tuple[int, int]]:
        """How it may be walked so that all stops are served, and how far that is."""
        if self._ways is None:
            self._ways = self._all_ways()
        return self._ways

    def _all_ways(self) -> list[tuple[int, int]]:
        length, stops = self.high - self.low, self.stops
        if not stops:
            return [(LEFT_OUT, 0), (ONCE, length), (TWICE, 2 * length)]
        found = [
            (ONCE, length),
            (TWICE, 2 * length),
            (FROM_HIGH, 2 * (self.high - stops[0])),
            (FROM_LOW, 2 * (stops[-1] - self.low)),
        ]
        if len(stops) > 1:
            found.append((WITHOUT_GAP, 2 * (length - max(b - a for a, b in pairwise(stops)))))
        return found

    def out_and_back(self) -> int:
        """How far it is into a blind stretch, to the last stop, and back."""
        return 2 * (self.stops[-1] - self.low if self.high_row == NONE else self.high - self.stops[0])

    def gap(self) -> int:
        """After how many stops the largest gap comes."""
        stops = self.stops
        return max(range(1, len(stops)), key=lambda n: (stops[n] - stops[n - 1], -n))


@dataclass(slots=True, eq=False)
class Column:
    """All stretches at one place from west to east."""

    x: int
    stretches: list[Stretch] = field(default_factory=list)
    ends: list[tuple[int, list[Stretch]]] = field(default_factory=list)
    """Ends of an open tour that lie here, by row, and the stretches around them."""


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
        through: dict[int, dict[int, Stretch]] = {}
        for number, s in enumerate(network.segments):
            if s.start >= 0 and s.end >= 0:
                through.setdefault(s.at, {})[number] = self._stretch(number)
        for n, (_, low, high, along) in enumerate(network.open_floor):
            for at in along:
                stretch = Stretch(self._row[low], self._row[high], low, high, -1 - n)
                through.setdefault(at, {})[-1 - n] = stretch
        self._through = through
        steps = set(pairwise(range(len(self.rows))))
        is_full = {
            at: {(s.low_row, s.high_row) for s in stretches.values()} == steps for at, stretches in through.items()
        }
        self._full = sorted(at for at, full in is_full.items() if full)
        self._odd = sorted(at for at, full in is_full.items() if not full)

    def _stretch(self, number: int) -> Stretch:
        s = self.network.segments[number]
        low = NONE if s.start < 0 else self._row[self._spot[s.start][1]]
        high = NONE if s.end < 0 else self._row[self._spot[s.end][1]]
        return Stretch(low, high, s.low, s.high, number)

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
        places: dict[int, set[int]] = {}
        for n in (*stops, *ends):
            places.setdefault(network.segment_of[n], set()).add(network.place_of[n])
        found: dict[int, dict[int, Stretch]] = {}
        for number, along in places.items():
            stretch = self._stretch(number)
            if stretch.low_row == NONE and stretch.high_row == NONE:
                return None
            stretch.stops = sorted(along)
            found.setdefault(network.segments[number].at, {})[number] = stretch
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
        """The columns without stops that matter: those that are not whole, and the first and the last whole one between any two
        others."""
        if not self._is_whole:
            return [*self._full, *self._odd]
        full, low, high = self._full, mine[0], mine[-1]
        n, m = bisect_right(full, low) - 1, bisect_left(full, high)
        outer_low = full[n] if n >= 0 else -NOWHERE
        outer_high = full[m] if m < len(full) else NOWHERE
        odd = self._odd[bisect_left(self._odd, outer_low) : bisect_right(self._odd, outer_high)]
        kept, held = odd, sorted({*mine, *odd}) if odd else mine
        for a, b in pairwise([outer_low - 1, *held, outer_high + 1]):
            i, j = bisect_right(full, a), bisect_left(full, b)
            if i < j:
                kept = [*kept, full[i], full[j - 1]]
        return kept

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
        return NOWHERE if columns is None else _Solving(self, columns, False, order=False).best

    def tour(self, stops: Sequence[int], start: int, end: int) -> tuple[int, list[int]] | None:
        """The shortest way from start over all stops to the end, a round when that is the start, and the order of the stops
        with both ends; None when there is none, or it cannot be found exactly."""
        everything = [start, *stops, *([end] if end != start else [])]
        if not self.can_serve(everything):
            return None
        is_round = start == end or self._place(start) == self._place(end)
        if self._on_one_segment(everything) is not None:
            return self._along_one(everything, start, end)
        columns = self.columns(stops if not is_round else everything, () if is_round else (start, end))
        if columns is None:
            return None
        solving = _Solving(self, columns, not is_round, order=True)
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
        for n in sorted(set(everything)):
            at.setdefault(self._place(n), []).append(n)
        first = at.pop(self._place(start))
        last = [] if is_round else at.pop(self._place(end))
        order = list(places)
        if is_round:
            begins = order.index(self._place(start))
            order = order[begins:] + order[:begins]
        middle = [*first, *(n for where in order for n in at.pop(where, ())), *last]
        return [start, *(n for n in middle if n not in (start, end)), *([end] if end != start else [])]


Costs = dict[int, int]
"""Shortest so far, by state."""
Back = dict[int, tuple[int, Any]]
"""The state before, and how it was left, by state."""


class _Solving:
    """One run over the columns. ``best`` is the length; what was done is kept when the order is asked for."""

    def __init__(self, aisles: Aisles, columns: list[Column], is_open: bool, *, order: bool) -> None:
        self.aisles, self.columns, self.is_open = aisles, columns, is_open
        self.rows = len(aisles.rows)
        self.states: Frontier = frontier(self.rows + (3 if is_open else 0))
        self.best = NOWHERE
        self._trace: list[tuple[Any, Back]] | None = [] if order else None
        """Step by step what was worked on, and the way back."""
        self._end: tuple[int, int] = (0, 0)
        self._run()

    def _run(self) -> None:
        states, columns = self.states, self.columns
        walkable = self.aisles._walkable(columns)
        needed = max(n for n, c in enumerate(columns) if c.ends or any(s.stops for s in c.stretches))
        everywhere = (1 << states.rows) - 1
        beyond = 1 << self.rows if self.is_open else 0
        known = {states.start: 0}
        for n, column in enumerate(columns):
            for stretch in column.stretches:
                known = self._walked(known, stretch)
            if column.ends:
                known = self._ended(known, column)
            is_last = n == len(columns) - 1
            width = 0 if is_last else columns[n + 1].x - column.x
            may = everywhere if walkable is None or is_last else walkable[n] | beyond
            known = self._crossed(known, n, width, may, is_last, n >= needed)

    def _walked(self, known: Costs, stretch: Stretch) -> Costs:
        """Over one stretch of a column."""
        low, high = stretch.low_row, stretch.high_row
        if low < 0 or high < 0:
            row, mm = (low, stretch.out_and_back()) if high < 0 else (high, stretch.out_and_back())
            return self._stepped(known, lambda s: self.states.touch(s, row), mm, stretch)
        after: Costs = {}
        back: Back = {}
        ways = stretch.ways()
        table = self.states.ways(low, high)
        order = self._trace is not None
        get = after.get
        for s, mm in known.items():
            to = table.get(s) or self.states.walk(s, low, high)
            for way, far in ways:
                t = to[way]
                total = mm + far
                if total < get(t, NOWHERE):
                    after[t] = total
                    if order:
                        back[t] = s, way
        if self._trace is not None:
            self._trace.append((stretch, back))
        return after

    def _stepped(self, known: Costs, to: Callable[[int], int | None], mm: int, what: Any) -> Costs:
        """One step that every state takes alike, or cannot take."""
        after: Costs = {}
        back: Back = {}
        for s, far in known.items():
            t = to(s)
            if t is not None and far + mm < after.get(t, NOWHERE):
                after[t] = far + mm
                back[t] = s, FROM_LOW
        if self._trace is not None:
            self._trace.append((what, back))
        return after

    def _ended(self, known: Costs, column: Column) -> Costs:
        """Over the stretches around the ends of an open tour: each end has one walk more, along the row that costs nothing."""
        states = self.states
        for row, _ in column.ends:
            known = self._stepped(known, lambda s, row=row: states.join(s, row, self.rows, 1), 0, row)  # type: ignore[misc]
        for _, parts in column.ends:
            for stretch in parts:
                known = self._walked(known, stretch)
        for row, _ in column.ends:
            known = self._stepped(known, lambda s, row=row: states.drop(s, row), 0, None)  # type: ignore[misc]
        return known

    def _crossed(self, known: Costs, n: int, width: int, may: int, is_last: bool, may_close: bool) -> Costs:
        """From a column to the next, or to the end of the tour."""
        after: Costs = {}
        back: Back = {}
        order = self._trace is not None
        crossed, rows, is_open = self.states.crossed, self.rows, self.is_open
        get = after.get
        for s, mm in known.items():
            for t, walks, mask, by_row in crossed.get(s) or self.states.across(s):
                if t == CLOSED:
                    if may_close and mm < self.best:
                        self.best = mm
                        self._end = s, len(self._trace or ())
                elif not is_last and not mask & ~may:
                    total = mm + width * (walks - by_row[rows] if is_open else walks)
                    if total < get(t, NOWHERE):
                        after[t] = total
                        if order:
                            back[t] = s, by_row
        if self._trace is not None:
            self._trace.append((n, back))
        return after

    def order(self) -> list[tuple[int, int]]:
        """The places in the order of the tour, as segments and places along them."""
        assert self._trace is not None
        state, steps = self._end
        done = []
        for what, back in reversed(self._trace[:steps]):
            state, how = back[state]
            done.append((what, how))
        return _Euler(self.rows, done[::-1]).places()


@dataclass(slots=True, eq=False)
class _Edge:
    """A walk between two nodes, with the places on it from ``begin`` on."""

    begin: Node
    places: list[tuple[int, int]]
    is_free: bool = False
    is_used: bool = False


class _Euler:
    """A closed walk over everything that is walked, each as often as it is."""

    def __init__(self, rows: int, done: Sequence[tuple[Any, Any]]) -> None:
        self.rows = rows
        self.edges: dict[Node, list[tuple[Node, _Edge]]] = {}
        self.aside: dict[Node, list[tuple[int, int]]] = {}
        """Places that are served by going out from a node and coming back."""
        ends: list[Node] = []
        self.column = 0
        for what, how in done:
            if isinstance(what, Stretch):
                if how != LEFT_OUT:
                    self._stretch(how, what)
            elif isinstance(how, tuple):
                for row, walks in enumerate(how[:rows]):
                    for _ in range(walks):
                        self._edge((what, row), (what + 1, row), [])
                self.column = what + 1
            elif what is not None:
                ends.append(self._node(what))
        self.ends = sorted(ends)
        if self.ends:
            self._edge(self.ends[1], self.ends[0], [], is_free=True)

    def _node(self, row: int) -> Node:
        """The node of a row: a junction of the column that is worked on, or an end of the tour."""
        return (self.column, row) if row < self.rows else (-1, row)

    def _edge(self, a: Node, b: Node, places: list[tuple[int, int]], *, is_free: bool = False) -> None:
        edge = _Edge(a, places, is_free)
        self.edges.setdefault(a, []).append((b, edge))
        self.edges.setdefault(b, []).append((a, edge))

    def _stretch(self, way: int, stretch: Stretch) -> None:
        places = [(stretch.key, y) for y in stretch.stops]
        if NONE in (stretch.low_row, stretch.high_row):
            is_low = stretch.high_row == NONE
            node = self._node(stretch.low_row if is_low else stretch.high_row)
            self.aside.setdefault(node, []).extend(places if is_low else places[::-1])
            return
        low, high = self._node(stretch.low_row), self._node(stretch.high_row)
        if way in (ONCE, TWICE):
            self._edge(low, high, places)
        if way == TWICE:
            self._edge(low, high, [])
        elif way == FROM_HIGH:
            self.aside.setdefault(high, []).extend(places[::-1])
        elif way == FROM_LOW:
            self.aside.setdefault(low, []).extend(places)
        elif way == WITHOUT_GAP:
            n = stretch.gap()
            self.aside.setdefault(low, []).extend(places[:n])
            self.aside.setdefault(high, []).extend(places[: n - 1 : -1])

    def places(self) -> list[tuple[int, int]]:
        """All places in order; of an open tour from its start to its end."""
        if not self.edges:
            return [p for places in self.aside.values() for p in places]
        walk = self._walk()
        if self.ends:
            free = next(n for n, (_, edge, _) in enumerate(walk) if edge is not None and edge.is_free)
            start, leads_to = self.ends[0], walk[free][0]
            walk = walk[free + 1 :] + walk[1:free]  # from where the free walk leads to, all around to where it begins
            if leads_to != start:
                walk = [(came, edge, node) for node, edge, came in reversed(walk)]
            walk = [(start, None, start), *walk]
        found: list[tuple[int, int]] = []
        seen: set[Node] = set()
        for node, edge, came in walk:
            if edge is not None:
                found += edge.places if edge.begin == came else edge.places[::-1]
            if node not in seen:
                seen.add(node)
                found += self.aside.get(node, ())
        return found

    def _walk(self) -> list[tuple[Node, _Edge | None, Node]]:
        """The nodes in order, each with the edge by which one comes there and the node one comes from (Hierholzer 1873)."""
        first = min(self.edges)
        stack: list[tuple[Node, _Edge | None, Node]] = [(first, None, first)]
        walk = []
        edges = self.edges
        while stack:
            node = stack[-1][0]
            here = edges[node]
            while here and here[-1][1].is_used:
                here.pop()
            if here:
                there, edge = here.pop()
                edge.is_used = True
                stack.append((there, edge, node))
            else:
                walk.append(stack.pop())
        return walk[::-1]
