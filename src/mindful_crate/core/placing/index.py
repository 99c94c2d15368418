"""Indexes that make choosing quick: bins ranked once for a ground, and over them trees of the room that is left.

A *rank* is the bins of one type that a target may look at, in one order of preference; it depends on the ground
alone and is shared by all its worlds. A *room tree* over a rank finds the first bin with enough of everything:
each node holds the most of its bins in volume, weight, plates and height. A *full list* keeps the bins of a rank
by how full they are. Trees and lists of the opening are shared too; a world copies one when it first differs
there, and then follows the bins that changed since it last looked.
"""

from __future__ import annotations

from array import array
from bisect import bisect_left, bisect_right, insort
from collections.abc import Iterator
from enum import Enum
from typing import Any

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import Bin, BinType
from mindful_crate.core.placing.fit import Floor
from mindful_crate.core.placing.loads import opening_load
from mindful_crate.core.placing.rules import Key, Order, bins_in
from mindful_crate.core.rulebook.bin_rules import LookIn, Prefer

PLENTY = 1 << 62
"""Room of a bin without a limit."""
NONE = (-1, -1, -1, -1)
NOWHERE = (None, None)
"""Neither door nor last bin: a rank that is measured from nothing."""
REMEMBERED_ANCHORS = 32
"""From so many doors and bins ranks are remembered."""
Room = tuple[int, int, int, int]
"""Volume mm3, weight mg, plates, height mm."""


class Holds(Enum):
    """Which bins a tree offers."""

    ANYTHING = 0
    NO_GOODS = 1
    NOTHING = 2
    """Neither goods nor an empty plate."""


class Rank:
    """Bins of one bin type in one order of the static preferences, ties by code."""

    __slots__ = ("bins", "key", "keys", "kind", "place")

    def __init__(self, key: Any, kind: BinType, bins: tuple[Bin, ...], order: Order) -> None:
        ranked = sorted((order.static_key(b), b) for b in bins)
        self.key = key
        self.kind = kind
        self.keys: tuple[Key, ...] = tuple(k for k, _ in ranked)
        self.bins = tuple(b for _, b in ranked)
        self.place = {b.code: n for n, b in enumerate(self.bins)}


def _groups(ground: Ground, site: SiteCode, look_in: LookIn) -> list[tuple[Any, BinType, tuple[Bin, ...]]]:
    """Bins a target looks at by zone and bin type, so that targets that share a zone share its ranks."""
    key = ("groups", site, look_in)
    known: list[tuple[Any, BinType, tuple[Bin, ...]]] | None = ground.remembered.get(key)
    if known is None:
        found: dict[Any, list[Bin]] = {}
        for each in bins_in(ground, site, look_in):
            found.setdefault((each.zone, each.bin_type, look_in.aisles, look_in.bins), []).append(each)
        known = [(k, ground.bin_types[k[1]], tuple(bins)) for k, bins in found.items()]
        ground.remembered[key] = known
    return known


def ranks(ground: Ground, site: SiteCode, look_in: LookIn, order: Order) -> list[Rank]:
    """The ranks of the bins a target looks at."""
    at = (site, order.anchors(()))
    remembered = order.place.ranks.get(at) if order.place else None
    if remembered is not None and remembered[0] is ground:
        listed: list[Rank] = remembered[1]
        return listed
    signature = order.signature
    known: list[Rank] = []
    for group, kind, bins in _groups(ground, site, look_in):
        key = ("rank", group, signature)
        box = _box(ground.remembered, key)
        rank = box.get(key)
        if rank is None:
            rank = box[key] = Rank(key, kind, bins, order)
        known.append(rank)
    if order.place:
        if len(order.place.ranks) > REMEMBERED_ANCHORS:
            order.place.ranks.clear()
        order.place.ranks[at] = (ground, known)
    return known


def _box(memory: dict[Any, Any], rank: Any) -> dict[Any, Any]:
    """Where what belongs to a rank is remembered, by its key. Goods come from any bin, and ranks measured from one are
    of no use for another: the oldest such are let go. What is made again is the same."""
    boxes: dict[Any, dict[Any, Any]] = memory.setdefault("ranked", {})
    anchors = rank[2][2:]
    box = boxes.get(anchors)
    if box is None:
        measured = [a for a in list(boxes) if a != NOWHERE]
        if len(measured) >= REMEMBERED_ANCHORS:
            boxes.pop(measured[0], None)
        box = boxes[anchors] = {}
    return box


class RoomTree:
    """The room of the bins of a rank. Leaves begin at ``size``; a leaf of -1 offers nothing."""

    __slots__ = ("height", "plates", "rank", "size", "tick", "volume", "weight")

    def __init__(self, rank: Rank) -> None:
        self.rank = rank
        self.tick = 0
        self.size = 1 << max(0, len(rank.bins) - 1).bit_length()
        self.volume = array("q", [-1]) * (2 * self.size)
        self.weight, self.plates, self.height = self.volume[:], self.volume[:], self.volume[:]

    def copy(self) -> RoomTree:
        """One of its own for a world."""
        made = RoomTree.__new__(RoomTree)
        made.rank, made.tick, made.size = self.rank, self.tick, self.size
        made.volume, made.weight = self.volume[:], self.weight[:]
        made.plates, made.height = self.plates[:], self.height[:]
        return made

    def fill(self, rooms: list[Room]) -> None:
        """Set all leaves at once."""
        size = self.size
        for column, values in zip(self._columns(), zip(*rooms, strict=True), strict=True):
            column[size : size + len(rooms)] = array("q", values)
            for node in range(size - 1, 0, -1):
                left, right = column[2 * node], column[2 * node + 1]
                column[node] = left if left > right else right

    def put(self, place: int, room: Room) -> None:
        """Set one leaf."""
        for column, value in zip(self._columns(), room, strict=True):
            node = self.size + place
            column[node] = value
            while node > 1:
                node >>= 1
                left, right = column[2 * node], column[2 * node + 1]
                most = left if left > right else right
                if column[node] == most:
                    break
                column[node] = most

    def _columns(self) -> tuple[array[int], ...]:
        return self.volume, self.weight, self.plates, self.height

    def fitting(self, need: Room) -> Iterator[int]:
        """Places of the rank with at least this room, in order."""
        volume, weight, plates, height = self._columns()
        v, w, p, h = need
        size, stack = self.size, [1]
        while stack:
            node = stack.pop()
            if volume[node] < v or weight[node] < w or plates[node] < p or height[node] < h:
                continue
            if node >= size:
                yield node - size
            else:
                stack.append(2 * node + 1)
                stack.append(2 * node)


def _room(kind: BinType, each: Bin, load: tuple[int, int, int]) -> Room:
    return (
        PLENTY if kind.max_volume_mm3 is None else kind.max_volume_mm3 - load[0],
        PLENTY if kind.max_weight_mg is None else kind.max_weight_mg - load[1],
        PLENTY if kind.max_plates is None else kind.max_plates - load[2],
        PLENTY if each.height_mm is None else each.height_mm,
    )


def _room_now(floor: Floor, kind: BinType, each: Bin, holds: Holds) -> Room:
    if floor.blocked(each.code) is not None:
        return NONE
    held = floor.held(each.code)
    if (holds is not Holds.ANYTHING and held.kinds) or (holds is Holds.NOTHING and held.plates):
        return NONE
    return _room(kind, each, (held.volume_mm3, held.weight_mg, held.plates))


def _opening_tree(ground: Ground, rank: Rank, holds: Holds) -> RoomTree:
    key, box = ("tree", rank.key, holds), _box(ground.remembered, rank.key)
    known: RoomTree | None = box.get(key)
    if known is None:
        known = RoomTree(rank)
        rooms = []
        for each in rank.bins:
            load = opening_load(ground, each.code)
            full = bool(ground.stock.rows_of_bin(each.code)) if holds is not Holds.ANYTHING else False
            if each.blocked is not None or full or (holds is Holds.NOTHING and load[2]):
                rooms.append(NONE)
            else:
                rooms.append(_room(rank.kind, each, load))
        if rooms:
            known.fill(rooms)
        box[key] = known
    return known


def room_tree(floor: Floor, rank: Rank, holds: Holds) -> RoomTree:
    """The room tree of a rank as the floor is now."""
    shared = _opening_tree(floor.ground, rank, holds)
    key, box = ("tree", rank.key, holds), _box(floor.memory, rank.key)
    tree: RoomTree = box.get(key, shared)
    if tree.tick < floor.tick or (tree is shared and floor.tick):
        changed = [(n, c) for c in floor.changed_since(tree.tick) if (n := rank.place.get(c)) is not None]
        if tree is shared:
            tree = box[key] = shared.copy()
        for place, _ in changed:
            tree.put(place, _room_now(floor, rank.kind, rank.bins[place], holds))
        tree.tick = floor.tick
    return tree


Entry = tuple[Key, int, Room]
"""Full key, place in the rank, room."""
BLOCK = 256
"""So many entries share one maximum of their rooms."""


class FullList:
    """The bins of a rank sorted by a full key that begins with how full they are.

    Kept in blocks; each knows the most room of its bins, so that blocks in which nothing fits are passed over.
    """

    __slots__ = ("blocks", "entries", "most", "rank", "tick")

    def __init__(self, rank: Rank, entries: list[Entry]) -> None:
        self.rank = rank
        self.tick = 0
        self.entries = entries
        """By place."""
        ordered = sorted(entries)
        self.blocks = [ordered[n : n + BLOCK] for n in range(0, len(ordered), BLOCK)]
        self.most: list[Room | None] = [None] * len(self.blocks)

    def copy(self) -> FullList:
        """One of its own for a world."""
        made = FullList.__new__(FullList)
        made.rank, made.tick, made.entries = self.rank, self.tick, self.entries[:]
        made.blocks, made.most = [b[:] for b in self.blocks], self.most[:]
        return made

    def put(self, place: int, key: Key, room: Room) -> None:
        """A bin has another key or room now."""
        old, new = self.entries[place], (key, place, room)
        at = self._block_of(old)
        block = self.blocks[at]
        del block[bisect_left(block, old)]
        self.most[at] = None
        if not block and len(self.blocks) > 1:
            del self.blocks[at], self.most[at]
        at = self._block_of(new)
        block = self.blocks[at]
        insort(block, new)
        self.most[at] = None
        if len(block) > 2 * BLOCK:
            self.blocks[at : at + 1] = [block[:BLOCK], block[BLOCK:]]
            self.most[at : at + 1] = [None, None]
        self.entries[place] = new

    def _block_of(self, entry: Entry) -> int:
        """The last block that begins at or before an entry, else the first. Only a sole block may be empty."""
        return max(0, bisect_right(self.blocks, entry, key=lambda block: block[0] if block else entry) - 1)

    def fitting(self, first: Key, need: Room) -> Iterator[tuple[Key, int]]:
        """Keys and places from a key on with at least this room, in order."""
        v, w, p, h = need
        start = (first, -1, NONE)
        begin = self._block_of(start)
        for at in range(begin, len(self.blocks)):
            block = self.blocks[at]
            most = self.most[at]
            if most is None:
                most = self.most[at] = (
                    tuple(max(c) for c in zip(*(e[2] for e in block), strict=True)) if block else NONE
                )
            if most[0] < v or most[1] < w or most[2] < p or most[3] < h:
                continue
            for key, place, room in block[bisect_left(block, start) :] if at == begin else block:
                if room[0] >= v and room[1] >= w and room[2] >= p and room[3] >= h:
                    yield key, place


def full_list(floor: Floor, rank: Rank, order: Order) -> FullList:
    """The full list of a rank as the floor is now."""
    ground, key = floor.ground, ("full", rank.key, order.prefer)
    common, box = _box(ground.remembered, rank.key), _box(floor.memory, rank.key)
    shared: FullList | None = common.get(key)
    if shared is None:
        entries: list[Entry] = []
        for place, each in enumerate(rank.bins):
            load = opening_load(ground, each.code)
            room = NONE if each.blocked is not None else _room(rank.kind, each, load)
            entries.append((order.key(each, load[0], load[2]), place, room))
        shared = common[key] = FullList(rank, entries)
    listed: FullList = box.get(key, shared)
    if listed.tick < floor.tick:
        changed = [n for c in floor.changed_since(listed.tick) if (n := rank.place.get(c)) is not None]
        if listed is shared:
            listed = box[key] = shared.copy()
        for place in changed:
            each = rank.bins[place]
            volume, _, plates = floor.load(each.code)
            listed.put(place, order.key(each, volume, plates), _room_now(floor, rank.kind, each, Holds.ANYTHING))
        listed.tick = floor.tick
    return listed


def first_key(order: Order, kind: BinType, need: Room) -> Key:
    """The least key a bin of this type can have in which there is room for so much: fuller bins are passed over.

    A bin that fits is at most so full by volume and at most so full by plates, so at most the larger of both.
    """
    if order.prefer[0] is not Prefer.FULLEST:
        return ()
    by_volume = (kind.max_volume_mm3 - need[0]) * 1_000_000 // kind.max_volume_mm3 if kind.max_volume_mm3 else 0
    by_plates = (kind.max_plates - need[2]) * 1_000_000 // kind.max_plates if kind.max_plates else 0
    return (-max(by_volume, by_plates, 0),)
