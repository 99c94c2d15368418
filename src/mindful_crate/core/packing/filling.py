"""Filling one carton: each thing is put where it lies best among the points at which something can begin.

The points are the *extreme points* of what lies there already (Crainic, Perboli and Tadei 2008): the three far corners of each
thing, also pushed back along the other two axes until they meet something. Which thing comes next and which point is best are
rules of thumb; several are tried in turn, always in the same order, so that the answer is the same on every machine.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from mindful_crate.core.catalog.goods import CartonKind
from mindful_crate.core.packing.things import Size, Thing, turns

BORNE_OF, BORNE = 4, 3
"""So many parts of a base, of so many, must rest on the floor or on things."""

Point = tuple[int, int, int]
Lying = tuple[int, int, int, int, int, int, int]
"""A thing by its place in the list, its nearest corner, and its size as it is turned."""

ORDERS: tuple[Callable[[Thing], tuple[int, ...]], ...] = (
    lambda t: (t.fragile, -t.volume, -max(t.size)),
    lambda t: (t.fragile, -max(t.size), -t.volume),
    lambda t: (t.fragile, -(t.volume // max(1, min(t.size))), -t.volume),
    lambda t: (t.fragile, -min(t.size), -t.volume),
)
"""Which thing comes first: the largest, longest, widest or thickest; fragile ones last, since nothing may stand on them."""

SCORES: tuple[Callable[[Point, Size], tuple[int, ...]], ...] = (
    lambda at, size: (at[2] + size[2], at[2], at[1] + size[1], at[0] + size[0]),
    lambda at, size: (at[0] + size[0], at[2], at[1] + size[1], at[2] + size[2]),
    lambda at, size: (at[2], at[1], at[0], size[2]),
    lambda at, size: ((at[0] + size[0]) ** 2 + (at[1] + size[1]) ** 2 + (at[2] + size[2]) ** 2, at[2]),
)
"""Where a thing lies best, the least first: lowest top, nearest to one end, layer by layer, nearest to the corner."""


def room(kind: CartonKind) -> int:
    """What is inside a carton, in cubic millimetres."""
    return kind.length_mm * kind.width_mm * kind.height_mm


def load(kind: CartonKind) -> int | None:
    """How much a carton may hold, without its own weight; None: as much as there is room for."""
    return None if kind.max_weight_mg is None else kind.max_weight_mg - kind.weight_mg


@dataclass(slots=True)
class Filling:
    """A carton that is being filled."""

    kind: CartonKind
    score: Callable[[Point, Size], tuple[int, ...]]
    lying: list[Lying] = field(default_factory=list)
    points: list[Point] = field(default_factory=lambda: [(0, 0, 0)])
    weight: int = 0
    used: int = 0

    def put(self, n: int, things: Sequence[Thing]) -> bool:
        """Put a thing where it lies best; False when there is no such place."""
        thing, kind, most = things[n], self.kind, load(self.kind)
        if (most is not None and self.weight + thing.weight_mg > most) or self.used + thing.volume > room(kind):
            return False
        best: tuple[tuple[int, ...], Point, Size] | None = None
        for size in turns(thing):
            for at in self.points:
                if (
                    at[0] + size[0] > kind.length_mm
                    or at[1] + size[1] > kind.width_mm
                    or at[2] + size[2] > kind.height_mm
                ):
                    continue
                score = self.score(at, size)
                if (
                    (best is None or score < best[0])
                    and self._free(at, size)
                    and self._borne(at, size, things)
                    and not (thing.fragile and self._bears(at, size))
                ):
                    best = score, at, size
        if best is None:
            return False
        _, at, size = best
        self.lying.append((n, *at, *size))
        self.weight += thing.weight_mg
        self.used += thing.volume
        self._grow(at, size)
        return True

    def _free(self, at: Point, size: Size) -> bool:
        """Is nothing where it would lie?"""
        x, y, z = at
        right, back, top = x + size[0], y + size[1], z + size[2]
        for _, a, b, c, da, db, dc in self.lying:
            if a < right and x < a + da and b < back and y < b + db and c < top and z < c + dc:
                return False
        return True

    def _borne(self, at: Point, size: Size, things: Sequence[Thing]) -> bool:
        """Does enough of its base rest, and on nothing fragile?"""
        x, y, z = at
        if z == 0:
            return True
        right, back, area = x + size[0], y + size[1], 0
        for n, a, b, c, da, db, dc in self.lying:
            if c + dc == z and a < right and x < a + da and b < back and y < b + db:
                if things[n].fragile:
                    return False
                area += (min(right, a + da) - max(x, a)) * (min(back, b + db) - max(y, b))
        return area * BORNE_OF >= size[0] * size[1] * BORNE

    def _bears(self, at: Point, size: Size) -> bool:
        """Would something that overhangs rest on it?"""
        x, y, z = at
        right, back, top = x + size[0], y + size[1], z + size[2]
        return any(
            c == top and a < right and x < a + da and b < back and y < b + db for _, a, b, c, da, db, _ in self.lying
        )

    def _grow(self, at: Point, size: Size) -> None:
        """The points at which something can begin, now that something more lies there."""
        x, y, z = at
        right, back, top = x + size[0], y + size[1], z + size[2]
        new = set(self.points)
        for corner in ((right, y, z), (x, back, z), (x, y, top)):
            new.add(corner)
            new |= self._pushed(corner)
        kind = self.kind
        inside = (p for p in new if p[0] < kind.length_mm and p[1] < kind.width_mm and p[2] < kind.height_mm)
        self.points = sorted((p for p in inside if not self._covered(p)), key=lambda p: (p[2], p[1], p[0]))

    def _covered(self, point: Point) -> bool:
        x, y, z = point
        return any(a <= x < a + da and b <= y < b + db and c <= z < c + dc for _, a, b, c, da, db, dc in self.lying)

    def _pushed(self, point: Point) -> set[Point]:
        """A corner pushed back along each axis until it meets something, or the wall."""
        x, y, z = point
        ends: tuple[int, int, int] = (0, 0, 0)
        for _, a, b, c, da, db, dc in self.lying:
            if b <= y < b + db and c <= z < c + dc and ends[0] < a + da <= x:
                ends = (a + da, ends[1], ends[2])
            if a <= x < a + da and c <= z < c + dc and ends[1] < b + db <= y:
                ends = (ends[0], b + db, ends[2])
            if a <= x < a + da and b <= y < b + db and ends[2] < c + dc <= z:
                ends = (ends[0], ends[1], c + dc)
        return {(ends[0], y, z), (x, ends[1], z), (x, y, ends[2])}


def filled(kind: CartonKind, which: Sequence[int], things: Sequence[Thing]) -> tuple[Filling, list[int]]:
    """A carton of a kind with all of some things in it, or the fullest one that was found, and what it leaves over."""
    best: tuple[tuple[int, int], Filling, list[int]] | None = None
    for order in ORDERS:
        row = sorted(which, key=lambda n: (order(things[n]), n))
        for score in SCORES:
            filling, left = _tried(Filling(kind, score), row, things)
            if not left:
                return filling, left
            worth = -filling.used, len(left)
            if best is None or worth < best[0]:
                best = worth, filling, left
    assert best is not None
    return best[1], best[2]


def _tried(filling: Filling, row: Sequence[int], things: Sequence[Thing]) -> tuple[Filling, list[int]]:
    """Everything put in that finds a place, one after the other. What found none once finds none later, nor do its likes."""
    left: list[int] = []
    without_place: set[tuple[Size, int, bool, bool]] = set()
    for n in row:
        thing = things[n]
        like = (thing.size, thing.weight_mg, thing.upright, thing.fragile)
        if like in without_place or not filling.put(n, things):
            left.append(n)
            without_place.add(like)
    return filling, left
