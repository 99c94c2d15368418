"""Which cartons for some goods: the fewest, then those with the least air in them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from mindful_crate.core.catalog.goods import CartonKind
from mindful_crate.core.packing.filling import Filling, filled, load, room
from mindful_crate.core.packing.things import Packed, Placed, Suggestion, Thing, turns


def suggest(things: Sequence[Thing], kinds: Iterable[CartonKind]) -> Suggestion:
    """Cartons for all things that fit into any kind. Fewest cartons first, then the least room in them, then by code; the same
    on every machine. What fits into no kind is named."""
    small_first = sorted(kinds, key=lambda k: (room(k), k.code))
    homeless = [n for n, thing in enumerate(things) if not any(fits_alone(thing, k) for k in small_first)]
    lost = set(homeless)
    rest = [n for n in range(len(things)) if n not in lost]
    if not rest:
        return Suggestion((), tuple(homeless), proved=True)
    packing = _Packing(things, small_first)
    best: tuple[tuple[int, int, list[str]], list[Filling]] | None = None
    for first in (None, *reversed(small_first)):
        cartons = packing.plan(rest, first)
        if cartons is None:
            continue
        worth = len(cartons), sum(room(c.kind) for c in cartons), sorted(str(c.kind.code) for c in cartons)
        if best is None or worth < best[0]:
            best = worth, cartons
        if len(cartons) == 1:
            break  # the smallest single carton is looked for first
    assert best is not None  # with no kind forced first, whatever fits alone is put into something
    proved = len(best[1]) == fewest([things[n] for n in rest], small_first)
    return Suggestion(tuple(_packed(c) for c in best[1]), tuple(homeless), proved)


def fewest(things: Sequence[Thing], kinds: Iterable[CartonKind]) -> int:
    """No fewer cartons can hold some things, by their volume and their weight."""
    all_kinds = list(kinds)
    most_room = max(room(k) for k in all_kinds)
    loads = [load(k) for k in all_kinds]
    by_volume = -(-sum(t.volume for t in things) // most_room)
    heaviest = None if any(each is None for each in loads) else max(each for each in loads if each is not None)
    by_weight = -(-sum(t.weight_mg for t in things) // heaviest) if heaviest else 1
    return max(1, by_volume, by_weight)


def fits_alone(thing: Thing, kind: CartonKind) -> bool:
    """Does a thing go into a carton that holds nothing else?"""
    most = load(kind)
    if most is not None and thing.weight_mg > most:
        return False
    inside = kind.length_mm, kind.width_mm, kind.height_mm
    return any(all(a <= b for a, b in zip(way, inside, strict=True)) for way in turns(thing))


def _packed(carton: Filling) -> Packed:
    things = tuple(Placed(n, x, y, z, (dx, dy, dz)) for n, x, y, z, dx, dy, dz in carton.lying)
    return Packed(carton.kind.code, things, carton.kind.weight_mg + carton.weight)


class _Packing:
    """Plans of cartons for some things; a carton filled once is not filled again."""

    def __init__(self, things: Sequence[Thing], small_first: Sequence[CartonKind]) -> None:
        self.things = things
        self.kinds = small_first
        self._known: dict[tuple[str, tuple[int, ...]], tuple[Filling, list[int]]] = {}

    def plan(self, which: Sequence[int], first: CartonKind | None) -> list[Filling] | None:
        """Cartons for some things, one after the other: a single one as soon as one holds the rest, else the one that takes the
        most. ``first`` forces the kind of the first. At the end each is made as small as it can be. None when nothing goes into
        the kind that was forced."""
        cartons: list[Filling] = []
        left = list(which)
        while left:
            single = self._single(left)
            if single is not None:
                cartons.append(single)
                break
            tried = [first] if first is not None and not cartons else list(reversed(self.kinds))
            fullest, over = max(
                (self._filled(k, left) for k in tried), key=lambda found: (found[0].used, len(found[0].lying))
            )
            if not fullest.lying:
                return None
            cartons.append(fullest)
            left = sorted(over)
        return [self._single(sorted(n for n, *_ in c.lying), room(c.kind)) or c for c in cartons]

    def _single(self, which: Sequence[int], below: int | None = None) -> Filling | None:
        """The smallest single carton, with less room than ``below``, that holds some things."""
        volume = sum(self.things[n].volume for n in which)
        weight = sum(self.things[n].weight_mg for n in which)
        for kind in self.kinds:
            if below is not None and room(kind) >= below:
                return None
            most = load(kind)
            if volume > room(kind) or (most is not None and weight > most):
                continue
            if all(fits_alone(self.things[n], kind) for n in which):
                carton, left = self._filled(kind, which)
                if not left:
                    return carton
        return None

    def _filled(self, kind: CartonKind, which: Sequence[int]) -> tuple[Filling, list[int]]:
        asked = str(kind.code), tuple(which)
        if asked not in self._known:
            self._known[asked] = filled(kind, which, self.things)
        return self._known[asked]
