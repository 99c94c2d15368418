"""The walking network of a site, from where its bins stand and what is declared about walking.

Aisles are straight and run along x or y; bins may stand on both their sides. A *junction* is where an aisle meets a cross aisle. An
aisle is cut at its junctions, and at what is blocked, into *segments*; a bin is a segment and a place along it. Shortest ways
between junctions are found from a junction when first asked for, and kept: junctions are few, bins many. All figures are integer
millimetres.
"""

from __future__ import annotations

from array import array
from bisect import bisect_left
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from heapq import heappop, heappush
from itertools import pairwise

from mindful_crate.core.catalog.places import Axis, Bin, Heading, Site, Way, WayKind
from mindful_crate.core.walking.crossings import EDGE, ONWARD, Span, crossings

NOWHERE = 1 << 60
"""Farther than anything: no way at all. It never leaves this package."""
NONE = -1
Aisle = tuple[str, str]
"""A zone and the name of an aisle in it: names alone are not unique."""
Spot = tuple[int, int]
"""Coordinates, x and y."""


@dataclass(slots=True, frozen=True)
class Segment:
    """A straight stretch along ``axis`` from ``low`` to ``high``, at ``at`` on the other axis. ``start`` and ``end`` are the
    junctions there, or NONE where it ends blind. ``way`` is 0, or 1 and -1 where one walks only onward or back. ``floor`` tells
    open floors apart for a single place outside of aisles; it is None in an aisle."""

    axis: Axis
    at: int
    low: int
    high: int
    start: int
    end: int
    way: int = 0
    floor: int | None = None


@dataclass(slots=True, frozen=True)
class Run:
    """An aisle as its bins have it: its first and last place along its axis, and how far they spread across it."""

    aisle: Aisle
    axis: Axis
    at: int
    low: int
    high: int
    spread: int
    bins: tuple[int, ...]


@dataclass(slots=True, frozen=True)
class Walk:
    """A shortest way on foot: its length, and the corners it leads over."""

    mm: int
    spots: tuple[Spot, ...]

    @property
    def metres(self) -> int:
        """Whole metres, rounded to the nearest."""
        return (self.mm + 500) // 1000


class Network:
    """Who asks names bins by their place in the list it was built from (:meth:`number`)."""

    def __init__(self, site: Site, bins: Sequence[Bin], ways: Iterable[Way] = ()) -> None:
        self.site = site
        self.bins = bins
        self.facts = sorted((w for w in ways if w.site == site.code), key=lambda w: w.code)
        self._facts_of: dict[Aisle, list[Way]] = {}
        for fact in self.facts:
            if fact.of_aisle:
                self._facts_of.setdefault(fact.of_aisle, []).append(fact)
        self.crosses = crossings(site, self.facts)
        self.is_open = not self.crosses
        """Without a cross aisle nothing is known of how one walks: everything is open floor."""
        self.segments: list[Segment] = []
        self.segment_of = array("i", [NONE]) * len(bins)
        self.place_of = array("q", [0]) * len(bins)
        self.spots: list[Spot] = []
        """Where each junction is."""
        self.runs: list[Run] = []
        """Aisles that meet a cross aisle."""
        self.loose: list[Run] = []
        """Aisles that meet none: their bins are taken as places on open floor."""
        self.open_floor: list[tuple[Axis, int, int, tuple[int, ...]]] = []
        """Open floor between two cross aisles along an axis, and where along it one crosses it."""
        self._numbers: dict[str, int] | None = None
        self._junctions: dict[Spot, int] = {}
        self._on: dict[tuple[Axis, int], dict[int, int]] = {(c.axis, c.at): {} for c in self.crosses}
        self._onward: list[list[tuple[int, int]]] = []
        self._back: list[list[tuple[int, int]]] = []
        self._rows: tuple[dict[int, list[int]], dict[int, list[int]]] = ({}, {})
        self._lines: dict[Axis, list[Run]] = {Axis.X: [], Axis.Y: []}
        if not self.is_open:
            self._build()

    # Building

    def _build(self) -> None:
        aisles: dict[Aisle, list[int]] = {}
        floor: list[int] = []
        for n, each in enumerate(self.bins):
            if each.aisle:
                aisles.setdefault((each.zone, each.aisle), []).append(n)
            else:
                floor.append(n)
        lines: dict[tuple[Axis, int], list[Run]] = {}
        for aisle in sorted(aisles):
            run = self._run(aisle, aisles[aisle])
            if any(c.axis is not run.axis and c.meets(run.at) for c in self.crosses):
                self.runs.append(run)
                lines.setdefault((run.axis, run.at), []).append(run)
            else:
                self.loose.append(run)
                floor += run.bins
        spanned: set[tuple[Axis, int, int]] = set()
        for axis, at in sorted(lines, key=lambda key: (key[0].value, key[1])):
            self._line(axis, at, lines[axis, at], spanned)
        for run in self.runs:
            self._lines[run.axis].append(run)
        for of_axis in self._lines.values():
            of_axis.sort(key=lambda r: (r.at, r.low))
        for n in floor:
            self._floor_place(n)
        self._crossings_meet()
        self._open_floor(spanned)
        for cross in self.crosses:
            stops = self._on[cross.axis, cross.at]
            row = sorted(stops)
            for a, b in pairwise(row):
                onward, back = cross.stretch(a, b)
                if onward:
                    self._edge(stops[a], stops[b], b - a)
                if back:
                    self._edge(stops[b], stops[a], b - a)

    def _run(self, aisle: Aisle, members: list[int]) -> Run:
        bins = self.bins
        xs, ys = [bins[n].x_mm for n in members], [bins[n].y_mm for n in members]
        west, east, south, north = min(xs), max(xs), min(ys), max(ys)
        if east - west > north - south or (
            west == east and south == north and not any(c.axis is Axis.X and c.meets(west) for c in self.crosses)
        ):  # of a single place, the cross aisles tell
            return Run(aisle, Axis.X, (south + north) // 2, west, east, north - south, tuple(members))
        return Run(aisle, Axis.Y, (west + east) // 2, south, north, east - west, tuple(members))

    def _line(self, axis: Axis, at: int, runs: list[Run], spanned: set[tuple[Axis, int, int]]) -> None:
        """Aisles of one line: it reaches the nearest cross aisles beyond its first and its last bin."""
        meets = [c.at for c in self.crosses if c.axis is not axis and c.meets(at)]
        other = Axis.X if axis is Axis.Y else Axis.Y
        bins, along = self.bins, []
        for run in runs:
            along += [(bins[n].y_mm if axis is Axis.Y else bins[n].x_mm, n) for n in run.bins]
        along.sort()
        low, high = along[0][0], along[-1][0]
        first = max(bisect_left(meets, low + 1) - 1, 0)
        used = meets[first : bisect_left(meets, high) + 1]
        cuts = self._cuts(runs, meets)
        bounds: list[tuple[int, bool]] = [(c, True) for c in used]
        if low < used[0]:
            bounds.insert(0, (low, False))
        if high > used[-1]:
            bounds.append((high, False))
        if len(bounds) == 1:
            bounds.append((bounds[0][0], False))
        done = 0
        for (a, a_meets), (b, b_meets) in pairwise(bounds):
            stop = len(along) if b == bounds[-1][0] else bisect_left(along, (b + 1,))
            here, done = along[done:stop], stop
            start = self._junction(other, a, at) if a_meets else NONE
            end = self._junction(other, b, at) if b_meets else NONE
            if a_meets and b_meets:
                spanned.add((other, a, b))
            self._stretch(axis, at, (a, b), (start, end), here, self._way(runs, a, b), cuts)

    def _cuts(self, runs: list[Run], meets: list[int]) -> list[Span]:
        """What of a line nobody walks: what is blocked, and from the last bin of a dead end to the next cross aisle."""
        found: list[Span] = []
        for run in runs:
            for way in self.of_aisle(run.aisle):
                if way.kind is WayKind.BLOCKED and way.from_mm is not None and way.to_mm is not None:
                    found.append((way.from_mm, way.to_mm))
                elif way.kind is WayKind.DEAD_END:
                    beyond = gap_at(run, way.heading, meets)
                    if beyond and beyond[0] < beyond[1]:
                        found.append(beyond)
        return sorted(found)

    def of_aisle(self, aisle: Aisle) -> list[Way]:
        """The facts about an aisle."""
        return self._facts_of.get(aisle, [])

    def _way(self, runs: list[Run], a: int, b: int) -> int:
        """In which direction a stretch of a line is walked; the first aisle on it that says so decides."""
        for run in runs:
            if run.low <= b and run.high >= a:
                for way in self.of_aisle(run.aisle):
                    if way.kind is WayKind.ONE_WAY and _axis_of(way.heading) is run.axis:
                        return 1 if way.heading in ONWARD else -1
        return 0

    def _stretch(
        self, axis: Axis, at: int, ends: Span, junctions: Span, here: list[tuple[int, int]], way: int, cuts: list[Span]
    ) -> None:
        """Segments between two ends of a line: what is cut out leaves two blind stumps."""
        low, high = ends
        pieces: list[tuple[int, int, int, int]] = []
        begin, left = low, junctions[0]
        for a, b in cuts:
            if a >= high or b <= low or b <= begin:
                continue
            if a > begin or (a == begin and left >= 0):
                pieces.append((begin, a, left, NONE))
            begin, left = max(begin, b), NONE
        if begin <= high:
            pieces.append((begin, high, left, junctions[1]))
        for begin, stop, start, end in pieces:
            number = len(self.segments)
            self.segments.append(Segment(axis, at, begin, stop, start, end, way))
            if start >= 0 and end >= 0:
                if way >= 0:
                    self._edge(start, end, stop - begin)
                if way <= 0:
                    self._edge(end, start, stop - begin)
            for place, n in here:
                if begin <= place <= stop and self.segment_of[n] < 0:
                    self.segment_of[n], self.place_of[n] = number, place

    def _floor_place(self, n: int) -> None:
        """A place outside of aisles goes straight to the nearest cross aisles on both sides; where none passes it, over open
        floor to the nearest that there is."""
        x, y = self.bins[n].x_mm, self.bins[n].y_mm
        for axis, along, across in ((Axis.Y, y, x), (Axis.X, x, y)):
            meets = [c for c in self.crosses if c.axis is not axis and c.meets(across)]
            if not meets:
                continue
            below = max((c.at for c in meets if c.at <= along), default=None)
            above = min((c.at for c in meets if c.at > along), default=None)
            other = meets[0].axis
            start = NONE if below is None else self._junction(other, below, across)
            end = NONE if above is None else self._junction(other, above, across)
            low, high = along if below is None else below, along if above is None else above
            self._put_floor(n, Segment(axis, across, low, high, start, end, 0, self._floor(x, y)), along)
            if start >= 0 and end >= 0:
                self._edge(start, end, high - low)
                self._edge(end, start, high - low)
            return
        reach = []
        for cross in self.crosses:
            spans = cross.onward + cross.back
            if spans:
                along, across = (x, y) if cross.axis is Axis.X else (y, x)
                at = cross.nearest(along)
                reach.append((abs(at - along) + abs(cross.at - across), cross.axis.value, cross.at, at, cross))
        if reach:
            far, _, _, at, cross = min(reach, key=lambda r: r[:4])
            start = self._junction(cross.axis, cross.at, at)
            axis = Axis.Y if cross.axis is Axis.X else Axis.X
            self._put_floor(n, Segment(axis, at, 0, far, start, NONE, 0, self._floor(x, y)), far)

    def _put_floor(self, n: int, segment: Segment, place: int) -> None:
        self.segment_of[n], self.place_of[n] = len(self.segments), place
        self.segments.append(segment)

    def _floor(self, x: int, y: int) -> int:
        """Which open floor a place is on: between the same two cross aisles. Those along x decide, if there are any."""
        along_x = [c.at for c in self.crosses if c.axis is Axis.X]
        return bisect_left(along_x, y) if along_x else bisect_left([c.at for c in self.crosses], x)

    def _crossings_meet(self) -> None:
        """Where cross aisles cross one another one turns from one into the other."""
        for a in self.crosses:
            for b in self.crosses:
                if a.axis is Axis.X and b.axis is Axis.Y and a.meets(b.at) and b.meets(a.at):
                    self._junction(Axis.X, a.at, b.at)
                    self._junction(Axis.Y, b.at, a.at)

    def _open_floor(self, spanned: set[tuple[Axis, int, int]]) -> None:
        """Between two neighbouring cross aisles with no aisle between them the floor is open: one crosses it at every junction,
        and where either ends."""
        pairs = []
        for axis in Axis:
            row = [c for c in self.crosses if c.axis is axis]
            pairs += [(a, b) for a, b in pairwise(row) if (axis, a.at, b.at) not in spanned]
        known = -1
        while known < len(self.spots):  # what is crossed here is a junction for the floor beyond
            known = len(self.spots)
            for a, b in pairs:
                ends = {end for c in (a, b) for span in c.onward + c.back for end in span if abs(end) < EDGE}
                for along in sorted({*self._on[a.axis, a.at], *self._on[b.axis, b.at], *ends}):
                    if a.meets(along) and b.meets(along):
                        self._junction(a.axis, a.at, along)
                        self._junction(b.axis, b.at, along)
        for a, b in pairs:
            here, there = self._on[a.axis, a.at], self._on[b.axis, b.at]
            shared = sorted(here.keys() & there.keys())
            self.open_floor.append((a.axis, a.at, b.at, tuple(shared)))
            for along in shared:
                self._edge(here[along], there[along], b.at - a.at)
                self._edge(there[along], here[along], b.at - a.at)

    def _junction(self, axis: Axis, at: int, along: int) -> int:
        """The junction at ``along`` on the cross aisle that runs along ``axis`` at ``at``."""
        spot = (along, at) if axis is Axis.X else (at, along)
        found = self._junctions.get(spot)
        if found is None:
            found = self._junctions[spot] = len(self.spots)
            self.spots.append(spot)
            self._onward.append([])
            self._back.append([])
        self._on[axis, at][along] = found
        return found

    def _edge(self, u: int, v: int, mm: int) -> None:
        self._onward[u].append((v, mm))
        self._back[v].append((u, mm))

    # Asking

    def number(self, code: str) -> int | None:
        """The place of a bin in the list; None when it is none of them."""
        if self._numbers is None:
            self._numbers = {b.code: n for n, b in enumerate(self.bins)}
        return self._numbers.get(code)

    def row(self, junction: int, *, back: bool = False) -> list[int]:
        """Shortest ways from a junction to all others, or (``back``) from all others to it (Dijkstra 1959)."""
        kept = self._rows[back]
        found = kept.get(junction)
        if found is None:
            edges = self._back if back else self._onward
            found = kept[junction] = [NOWHERE] * len(edges)
            found[junction] = 0
            waiting = [(0, junction)]
            pop, push = heappop, heappush
            while waiting:
                far, u = pop(waiting)
                if far == found[u]:
                    for v, mm in edges[u]:
                        total = far + mm
                        if total < found[v]:
                            found[v] = total
                            push(waiting, (total, v))
        return found

    def leaving(self, n: int) -> list[tuple[int, int]]:
        """The junctions one comes to first from a bin, with how far they are."""
        if self.segment_of[n] < 0:
            return []
        segment, place, found = self.segments[self.segment_of[n]], self.place_of[n], []
        if segment.start >= 0 and segment.way <= 0:
            found.append((segment.start, place - segment.low))
        if segment.end >= 0 and segment.way >= 0:
            found.append((segment.end, segment.high - place))
        return found

    def arriving(self, n: int) -> list[tuple[int, int]]:
        """The junctions from which one comes to a bin, with how far it is from there."""
        if self.segment_of[n] < 0:
            return []
        segment, place, found = self.segments[self.segment_of[n]], self.place_of[n], []
        if segment.start >= 0 and segment.way >= 0:
            found.append((segment.start, place - segment.low))
        if segment.end >= 0 and segment.way <= 0:
            found.append((segment.end, segment.high - place))
        return found

    def straight(self, a: int, b: int) -> int | None:
        """How far it is without any junction: along one segment, or over open floor; None when there is no such way."""
        s, t = self.segment_of[a], self.segment_of[b]
        if self.is_open:
            p, q = self.bins[a], self.bins[b]
            return abs(p.x_mm - q.x_mm) + abs(p.y_mm - q.y_mm)
        if s < 0 or t < 0:
            return None
        segment = self.segments[s]
        if s == t:
            gap = self.place_of[b] - self.place_of[a]
            return abs(gap) if gap * segment.way >= 0 else None
        if segment.floor is not None and segment.floor == self.segments[t].floor:
            p, q = self.bins[a], self.bins[b]
            if self._turn(p, q) is not None:
                return abs(p.x_mm - q.x_mm) + abs(p.y_mm - q.y_mm)
        return None

    def _turn(self, p: Bin, q: Bin) -> Spot | None:
        """Where one turns on the way over open floor; None when an aisle stands in both ways."""
        for turn in ((p.x_mm, q.y_mm), (q.x_mm, p.y_mm)):
            across = sorted((p.x_mm, q.x_mm)), turn[1]
            along = sorted((p.y_mm, q.y_mm)), turn[0]
            if not self._stands_between(Axis.Y, *across) and not self._stands_between(Axis.X, *along):
                return turn
        return None

    def _stands_between(self, axis: Axis, ends: Sequence[int], at: int) -> bool:
        """Does an aisle along ``axis`` stand across a leg from end to end at ``at``?"""
        lines = self._lines[axis]
        n = bisect_left(lines, ends[0] + 1, key=lambda r: r.at)
        while n < len(lines) and lines[n].at < ends[1]:
            if lines[n].low <= at <= lines[n].high:
                return True
            n += 1
        return False

    def mm(self, a: int, b: int) -> int:
        """Shortest way on foot from one bin to another, levels aside; NOWHERE when there is none."""
        if a == b:
            return 0
        straight = self.straight(a, b)
        if straight is not None and self.segments and self.segment_of[a] == self.segment_of[b]:
            return straight
        best = NOWHERE if straight is None else straight
        there = self.arriving(b)
        for u, out in self.leaving(a):
            row = self.row(u)
            for v, off in there:
                far = out + row[v] + off
                if far < best:
                    best = far
        return best

    def matrix(self, stops: Sequence[int]) -> list[list[int]]:
        """From each of some bins to each: rows are where one comes from."""
        return [[self.mm(a, b) for b in stops] for a in stops]

    def metres(self, a: str, b: str) -> int | None:
        """Whole metres on foot between two bins by code, rounded to the nearest; None when there is no way."""
        p, q = self.number(a), self.number(b)
        far = NOWHERE if p is None or q is None else self.mm(p, q)
        return None if far >= NOWHERE else (far + 500) // 1000

    def walk(self, a: int, b: int) -> Walk | None:
        """A shortest way with its corners; None when there is none."""
        far = self.mm(a, b)
        if far >= NOWHERE:
            return None
        p, q = self.bins[a], self.bins[b]
        begin, stop = (p.x_mm, p.y_mm), (q.x_mm, q.y_mm)
        if a == b:
            return Walk(0, (begin,))
        if self.straight(a, b) == far:
            if self.segment_of[a] == self.segment_of[b] and not self.is_open:
                return Walk(far, _corners([begin, self._beside(a), self._beside(b), stop]))
            return Walk(far, _corners([begin, self._turn(p, q) or (p.x_mm, q.y_mm), stop]))
        for u, out in self.leaving(a):
            row = self.row(u)
            for v, off in self.arriving(b):
                if out + row[v] + off == far:
                    between = [self.spots[j] for j in self._chain(u, v)]
                    first = [*self._to_junction(a, between[0])]
                    last = [*self._to_junction(b, between[-1])]
                    return Walk(far, _corners([*first, *between, *reversed(last)]))
        raise AssertionError("a way has a first and a last junction")

    def _to_junction(self, n: int, spot: Spot) -> Iterator[Spot]:
        """From a bin into its aisle, and over open floor to where a cross aisle begins."""
        each, segment = self.bins[n], self.segments[self.segment_of[n]]
        yield each.x_mm, each.y_mm
        if segment.floor is None:
            yield self._beside(n)
        elif spot[0] != each.x_mm and spot[1] != each.y_mm:
            yield (spot[0], each.y_mm) if segment.axis is Axis.Y else (each.x_mm, spot[1])

    def _beside(self, n: int) -> Spot:
        """Where one stands in the aisle before a bin."""
        segment, place = self.segments[self.segment_of[n]], self.place_of[n]
        return (segment.at, place) if segment.axis is Axis.Y else (place, segment.at)

    def _chain(self, u: int, v: int) -> list[int]:
        """The junctions of a shortest way, from u to v."""
        row, chain = self.row(u), [v]
        while chain[-1] != u:
            here = chain[-1]
            chain.append(min(w for w, mm in self._back[here] if row[w] + mm == row[here]))
        return chain[::-1]

    @property
    def has_one_way(self) -> bool:
        """Is it anywhere farther one way than the other?"""
        return any(s.way for s in self.segments) or any(c.onward != c.back for c in self.crosses)


class Reach:
    """How far it is from the nearest of some places to any other, or (``to``) from any other to the nearest of them."""

    def __init__(self, network: Network, places: Iterable[int], *, to: bool = False) -> None:
        self.network = network
        self.to = to
        self.places = list(places)
        self._by_junction = [NOWHERE] * len(network.spots)
        self._same: dict[int, list[int]] = {}
        self._floor: list[int] = []
        for n in self.places:
            number = network.segment_of[n]
            if network.is_open or (number >= 0 and network.segments[number].floor is not None):
                self._floor.append(n)
            self._same.setdefault(number, []).append(n)
            for u, off in network.arriving(n) if to else network.leaving(n):
                row = network.row(u, back=to)
                self._by_junction = [min(known, off + far) for known, far in zip(self._by_junction, row, strict=True)]

    def mm(self, n: int) -> int:
        """How far it is for a bin; NOWHERE when there is no way."""
        network, by_junction = self.network, self._by_junction
        number = network.segment_of[n]
        best = NOWHERE
        for u, off in network.leaving(n) if self.to else network.arriving(n):
            if by_junction[u] + off < best:
                best = by_junction[u] + off
        near = self._same.get(number, ())
        if self._floor and (network.is_open or (number >= 0 and network.segments[number].floor is not None)):
            near = self._floor
        for m in near:
            straight = 0 if m == n else network.straight(n, m) if self.to else network.straight(m, n)
            if straight is not None and straight < best:
                best = straight
        return min(best, NOWHERE)


def gap_at(run: Run, heading: Heading | None, meets: Sequence[int]) -> Span | None:
    """From the last bin of an aisle at one of its ends to the next cross aisle beyond; None when there is none."""
    if heading is None or _axis_of(heading) is not run.axis:
        return None
    if heading in ONWARD:
        n = bisect_left(meets, run.high)
        return (run.high, meets[n]) if n < len(meets) else None
    n = bisect_left(meets, run.low + 1) - 1
    return (meets[n], run.low) if n >= 0 else None


def meets_of(network: Network, run: Run) -> list[int]:
    """Where the cross aisles are that an aisle meets, along its axis."""
    return [c.at for c in network.crosses if c.axis is not run.axis and c.meets(run.at)]


def _axis_of(heading: Heading | None) -> Axis | None:
    if heading is None:
        return None
    return Axis.Y if heading in (Heading.NORTH, Heading.SOUTH) else Axis.X


def _corners(spots: Iterable[Spot]) -> tuple[Spot, ...]:
    """Without spots that stand twice, or on the straight between two others."""
    found: list[Spot] = []
    for spot in spots:
        if found and found[-1] == spot:
            continue
        while len(found) > 1 and (
            (found[-2][0] == found[-1][0] == spot[0] and (found[-2][1] < found[-1][1]) == (found[-1][1] < spot[1]))
            or (found[-2][1] == found[-1][1] == spot[1] and (found[-2][0] < found[-1][0]) == (found[-1][0] < spot[0]))
        ):
            found.pop()
        found.append(spot)
    return tuple(found)
