"""Made-up sites to walk on, and an oracle that knows no network: every millimetre of a small site is a cell."""

from __future__ import annotations

import random
from collections.abc import Iterable, Sequence
from heapq import heappop, heappush
from itertools import pairwise
from typing import Any

from mindful_crate.core.catalog.places import Axis, Bin, Heading, Site, Way, WayKind

Cell = tuple[int | str, ...]


def site(*crosses: int) -> Site:
    """A site with cross aisles over its whole width."""
    return Site("X", "Made up", "UTC", crosses)  # type: ignore[arg-type]


def place(n: int, zone: str, aisle: str, x: int, y: int) -> Bin:
    """A bin of it; ``n`` is its turn on the walk."""
    return Bin(f"{zone}{aisle}-{n:05d}", zone, "T", x, y, 0, n, aisle)  # type: ignore[arg-type]


def way(code: str, kind: WayKind, **more: object) -> Way:
    """A fact about walking on it."""
    return Way(code, "X", kind, **more)  # type: ignore[arg-type]


def parallel(
    aisles: int, blocks: int, length: int = 30_000, pitch: int = 3_500, bay: int = 1_000
) -> tuple[Site, list[Bin]]:
    """One zone of equal aisles between ``blocks`` + 1 cross aisles, walked up and down, and a door at the south-west corner."""
    crosses = [i * (length + 2_000) for i in range(blocks + 1)]
    bins = [place(0, "D", "", 0, -500)]
    for a in range(aisles):
        ys = [c + 1_500 + k * bay for c in crosses[:-1] for k in range(length // bay)]
        for y in ys if a % 2 == 0 else reversed(ys):
            bins.append(place(len(bins), "P", f"{a:03d}", a * pitch, y))
    return site(*crosses), bins


def ragged(
    chance: random.Random, *, one_way: bool = True, partial: bool = True, docks: int = 3
) -> tuple[Site, list[Bin], list[Way]]:
    """A small site of unequal aisles, some blocked, some dead ends, with cross aisles that may be partial, blocked or one-way."""
    ats = [6]
    for _ in range(chance.randint(1, 4)):
        ats.append(ats[-1] + chance.randint(4, 12))
    columns = chance.randint(2, 7)
    wide = 4 * columns + 4
    whole = [y for y in ats if not partial or chance.random() < 0.7] or ats[:1]
    ways: list[Way] = []
    for y in ats:
        if y not in whole:
            heading = chance.choice([None, None, Heading.EAST, Heading.WEST]) if one_way else None
            low = chance.randint(0, wide // 2)
            ends = {"from_mm": low, "to_mm": chance.randint(low + 4, wide)}
            ways.append(way(f"C{y}", WayKind.CROSS_AISLE, axis=Axis.X, at_mm=y, heading=heading, **ends))
        if partial and chance.random() < 0.2:
            low = chance.randint(0, wide - 3)
            ways.append(way(f"E{y}", WayKind.BLOCKED, axis=Axis.X, at_mm=y, from_mm=low, to_mm=low + 3))
    bins: list[Bin] = []
    for a in range(columns):
        name = f"A{a}"
        told = {"zone": "P", "aisle": name}
        low = chance.choice([0, *ats]) + chance.randint(1, 3)
        high = chance.randint(low, max(low, ats[-1] + 4))
        for y in sorted({low, high, *(chance.randint(low, high) for _ in range(4))} - set(ats)):
            bins.append(place(len(bins), "P", name, 3 + 4 * a, y))
        if one_way and chance.random() < 0.25:
            heading = chance.choice([Heading.NORTH, Heading.SOUTH])
            ways.append(way(f"O{a}", WayKind.ONE_WAY, heading=heading, **told))
        if chance.random() < 0.3:
            heading = chance.choice([Heading.NORTH, Heading.SOUTH])
            ways.append(way(f"D{a}", WayKind.DEAD_END, heading=heading, **told))
        if chance.random() < 0.3:
            low = chance.randint(low, high)
            ways.append(way(f"B{a}", WayKind.BLOCKED, from_mm=low, to_mm=low + chance.randint(1, 5), **told))
    for _ in range(docks):
        y = chance.choice([0, 1, 2, ats[-1] + 6, chance.randint(0, ats[-1])])
        bins.append(place(len(bins), "D", "", 2 + 4 * chance.randrange(columns) + chance.choice([-1, 0, 2]), y))
    return site(*whole), bins, ways


class Cells:
    """A small site cell by cell: where one may step from each, worked out from the words of the facts alone. Only where places
    outside of aisles join a cross aisle, and what counts as open floor, is taken over as the network has it."""

    def __init__(self, where: Site, bins: Sequence[Bin], ways: Iterable[Way]) -> None:
        self.steps: dict[Cell, dict[Cell, int]] = {}
        facts = list(ways)
        wide = max(b.x_mm for b in bins) + 3
        self.crosses: dict[int, set[int]] = {}
        spans = [(y, -1, wide, None) for y in where.cross_aisles]
        spans += [(w.at_mm, w.from_mm, w.to_mm, w.heading) for w in facts if w.kind is WayKind.CROSS_AISLE]  # type: ignore[misc]
        gone = [(w.at_mm, w.from_mm or 0, w.to_mm or 0) for w in facts if w.kind is WayKind.BLOCKED and not w.aisle]
        for y, low, high, heading in spans:
            here = self.crosses.setdefault(y, set())
            for x in range(low, high):
                if not any(y == at and a <= x < b for at, a, b in gone):
                    self._join((x, y), (x + 1, y), heading is not Heading.WEST, heading is not Heading.EAST)
                    here |= {x, x + 1}
        self.stands: set[Cell] = set()
        spanned: set[tuple[int, int]] = set()
        on_floor = [b for b in bins if not b.aisle]
        for name in sorted({b.aisle for b in bins if b.aisle}):
            members = [b for b in bins if b.aisle == name]
            x, ys = members[0].x_mm, [b.y_mm for b in members]
            meets = sorted(y for y, xs in self.crosses.items() if x in xs)
            if not meets:
                on_floor += members
                continue
            about = [w for w in facts if w.aisle == name]
            dead = {w.heading for w in about if w.kind is WayKind.DEAD_END}
            heading = next((w.heading for w in about if w.kind is WayKind.ONE_WAY), None)
            south = max((y for y in meets if y <= min(ys)), default=min(ys))
            north = min((y for y in meets if y >= max(ys)), default=max(ys))
            inside = [y for y in meets if south <= y <= north]
            spanned |= set(pairwise(inside))
            blocked = [(w.from_mm or 0, w.to_mm or 0) for w in about if w.kind is WayKind.BLOCKED]
            blocked += [(south, min(ys))] * (Heading.SOUTH in dead) + [(max(ys), north)] * (Heading.NORTH in dead)
            for y in range(south, north):
                if not any(a <= y < b for a, b in blocked):
                    self._join((x, y), (x, y + 1), heading is not Heading.SOUTH, heading is not Heading.NORTH)
            self.stands |= {(x, y) for y in range(min(ys), max(ys) + 1)}
        rows = sorted(self.crosses)
        for a, b in pairwise(rows):
            if (a, b) not in spanned:
                for x in self.crosses[a] & self.crosses[b]:
                    self._join((x, a), (x, b), True, True)
        self.alone = {b.code for b in on_floor}
        for each in on_floor:
            self._floor_place(each)
        for p in on_floor:
            for q in on_floor:
                floor = {sum(y < b.y_mm for y in rows) for b in (p, q)}
                if p != q and len(floor) == 1 and self._clear(p, q):
                    self._join(self.at(p), self.at(q), True, True)

    def _join(self, a: Any, b: Any, there: bool, back: bool) -> None:
        far = abs(a[0] - b[0]) + abs(a[1] - b[1])
        for u, v in ((a, b),) * there + ((b, a),) * back:
            self.steps.setdefault(u, {})[v] = far

    def at(self, each: Bin) -> Cell:
        """The cell of a bin. A place outside of aisles has one of its own, which nobody walks over."""
        return (each.x_mm, each.y_mm, each.code) if each.code in self.alone else (each.x_mm, each.y_mm)

    def _floor_place(self, each: Bin) -> None:
        x, y = each.x_mm, each.y_mm
        meets = [at for at, xs in self.crosses.items() if x in xs]
        south = max((at for at in meets if at <= y), default=None)
        north = min((at for at in meets if at > y), default=None)
        if not meets:
            cells = [(abs(a - x) + abs(at - y), at, a) for at, xs in self.crosses.items() for a in xs]
            _, at, a = min(cells)
            self._join(self.at(each), (a, at), True, True)
        for at in (south, north):
            if at is not None:
                self._join(self.at(each), (x, at), True, True)
        if south is not None and north is not None:
            self._join((x, south), (x, north), True, True)

    def _clear(self, p: Bin, q: Bin) -> bool:
        low, high = sorted((p.x_mm, q.x_mm))
        return any(all((x, y) not in self.stands for x in range(low + 1, high)) for y in (p.y_mm, q.y_mm))

    def far(self, a: Bin) -> dict[Cell, int]:
        """How far it is from a bin to every cell that can be walked to."""
        found = {self.at(a): 0}
        waiting: list[tuple[int, Cell]] = [(0, self.at(a))]
        while waiting:
            mm, u = heappop(waiting)
            if mm > found[u] or (len(u) > 2 and u != self.at(a)):
                continue
            for v, more in self.steps.get(u, {}).items():
                if mm + more < found.get(v, 1 << 60):
                    found[v] = mm + more
                    heappush(waiting, (mm + more, v))
        return found


def great(count: int) -> tuple[Site, list[Bin]]:
    """A site of so many bins in five zones: short aisles, two and three blocks, dead ends far from a cross aisle, floor places."""
    pitch = 3_500

    def zone(name: str, aisles: int, bays: int, levels: int, x: int, y: int, bay: int = 1_200) -> list[Bin]:
        return [
            place(0, name, f"{name}{a:03d}", x + a * pitch, y + b * bay) for a in range(aisles) for b in range(bays) for _ in range(levels)
        ]  # fmt: skip

    share = max(1, count // 1_000)
    bins = zone("BLK", max(1, share * 3 // 10), 24, 1, 2_000, 10_000, 1_400)
    bins += zone("RSV", share * 3 // 2, 40, 8, 150_000, 10_000) + zone("RS2", share * 3 // 2, 40, 8, 150_000, 62_000)
    bins += zone("PCK", max(1, share * 6 // 10), 38, 1, 690_000, 10_000, 1_250)
    bins += zone("PC2", max(1, share * 6 // 10), 5, 1, 690_000, 61_000, 1_250)
    bins += zone("HAZ", max(1, share // 5), 12, 3, 960_000, 10_000)
    while len(bins) < count:
        bins.append(place(0, "STG", "", 2_000 + 1_500 * (len(bins) % 300), 4_000))
    named = [place(n, b.zone, b.aisle, b.x_mm, b.y_mm) for n, b in enumerate(bins[:count])]
    return site(8_000, 59_000, 111_500), named
