"""Bins: loose goods in them, blocks, and what each holds, weighs and still has on its way; stock by item."""

from __future__ import annotations

from bisect import insort
from collections.abc import Callable, Iterator, Sequence
from datetime import date
from typing import cast

from mindful_crate.core.catalog.amounts import Goods, sort_key
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PlateKindCode, PlateNo, TaskNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.stock import STATUSES, StockTable
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.floor.plates import Lots, Plates, at_opening, goods_at, opening_goods
from mindful_crate.core.floor.touched import Touched
from mindful_crate.core.placing.fit import EMPTY, Held, Lying
from mindful_crate.core.placing.loads import opening_load
from mindful_crate.core.placing.request import Nested, load_of
from mindful_crate.core.record import apart, maker

REMEMBERED_ITEMS = 8_000
"""How many items a world remembers the stock lines of."""
REMEMBERED_BINS = 20_000
"""How many untouched bins a ground remembers the content of."""
_make_lying: Callable[..., Lying] = maker(Lying)


class Claim:
    """Goods on their way to a bin. The room they take is worked out when somebody asks about the bin."""

    __slots__ = ("_bins", "_room", "goods", "loose", "plates")

    def __init__(self, bins: Bins, loose: tuple[Goods, ...], plates: tuple[PlateNo, ...]) -> None:
        self._bins, self.loose, self.plates = bins, loose, plates
        self.goods = (*loose, *(g for p in plates for g in bins.plates.all_goods(p))) if plates else loose
        """All of them, loose or on a plate."""
        self._room: Held | None = None

    @property
    def room(self) -> Held:
        """The room they take."""
        found = self._room
        if found is None:
            bins = self._bins
            rooms = [bins.room_of(bins.plates.goods_on(p), p) for p in self.plates]
            if self.loose or not rooms:
                rooms.append(bins.room_of(self.loose, None))
            found = rooms[0]
            for more in rooms[1:]:
                found = found.plus(more)
            self._room = found
        return found


_NO_CLAIMS: dict[TaskNo, Claim] = {}


class _Loose(Keeper[BinCode, tuple[Goods, ...]]):
    def __init__(self, journal: Journal, bins: Bins) -> None:
        super().__init__(journal)
        self._bins = bins

    def changed(self, key: BinCode, before: tuple[Goods, ...] | None, after: tuple[Goods, ...] | None) -> None:
        self._bins.filled(key, before, after)


class _Blocks(Keeper[BinCode, str]):
    def __init__(self, journal: Journal, touched: Touched) -> None:
        super().__init__(journal)
        self._touched = touched
        self.tick = 0

    def changed(self, key: BinCode, before: str | None, after: str | None) -> None:
        self.tick += 1
        self._touched.touch(key)


class Bins:
    """All bins over the opening; what is on its way to them is told by the keeper of tasks."""

    def __init__(self, journal: Journal, ground: Ground, touched: Touched, lots: Lots, plates: Plates) -> None:
        self.ground = ground
        self.touched = touched
        self.lots = lots
        self.plates = plates
        self.loose_now: Keeper[BinCode, tuple[Goods, ...]] = _Loose(journal, self)
        """Loose goods of bins where they are not as at the opening."""
        self.blocks = _Blocks(journal, touched)
        """Why bins are blocked, empty when they are free, where it is not as at the opening."""
        plates.refilled = self._refilled
        self._on_its_way: dict[PlateNo, tuple[BinCode, TaskNo]] = {}
        self.claims: dict[BinCode, dict[TaskNo, Claim]] = {}
        """What is on its way to bins, by task."""
        self.coming_with: dict[ItemCode, dict[tuple[BinCode, TaskNo], int]] = {}
        """How much of an item is on its way where, by task, in base units."""
        self._loose_with: dict[ItemCode, dict[BinCode, None]] = {}

    # One bin

    def blocked(self, code: BinCode) -> str | None:
        """Why a bin is blocked, if it is."""
        known = self.blocks.get(code)
        return self.ground.bins[code].blocked if known is None else known or None

    def loose(self, code: BinCode) -> tuple[Goods, ...]:
        """Loose goods in a bin."""
        return self.loose_was(code, self.loose_now.get(code))

    def loose_was(self, code: BinCode, kept: tuple[Goods, ...] | None) -> tuple[Goods, ...]:
        """Loose goods in a bin when that was kept of it; None: nothing yet, they lie as at the opening."""
        return opening_goods(self.ground, code) if kept is None else kept

    def held(self, code: BinCode, but: TaskNo | None = None) -> Held:
        """What a bin holds and what is on its way there, the claim of task ``but`` left out."""
        held = self.touched.held.get(code)
        if held is None:
            held = self._sum(code)
        for task, claim in self.claims.get(code, _NO_CLAIMS).items():
            if task != but:
                held = held.plus(claim.room)
        return held

    def held_without(self, code: BinCode, tasks: tuple[TaskNo, ...], plate: PlateNo | None) -> Held:
        """What a bin holds without the claims of some tasks and without one of its plates."""
        held = self._sum_now(code, plate)
        for task, claim in self.claims.get(code, _NO_CLAIMS).items():
            if task not in tasks:
                held = held.plus(claim.room)
        return held

    def holds_goods(self, code: BinCode) -> bool:
        """Do goods lie in a bin, or are they on their way there?"""
        if code not in self.touched.bins:
            return bool(self.ground.stock.rows_of_bin(code))
        return bool(self.held(code).kinds)

    def load(self, code: BinCode) -> tuple[int, int, int]:
        """Volume (mm3), weight (mg) and plates of a bin with what is on its way there."""
        if code not in self.touched.bins:
            return opening_load(self.ground, code)
        held = self.held(code)
        return held.volume_mm3, held.weight_mg, held.plates

    def quantity_in(self, code: BinCode, item: ItemCode, but: TaskNo | None = None) -> int:
        """How much of an item lies in a bin or is on its way there, in base units."""
        lying = sum(x.goods.quantity for x in self.lines(item) if x.bin == code)
        coming = self.coming_with.get(item)
        return lying + sum(q for (c, t), q in coming.items() if c == code and t != but) if coming else lying

    def coming(self, code: BinCode) -> tuple[TaskNo, ...]:
        """Tasks that claim room in a bin."""
        return tuple(sorted(self.claims.get(code, ())))

    # All of an item

    def lines(self, item: ItemCode) -> Sequence[Lying]:
        """All of an item that lies in bins, by bin, plate, lot."""
        remembered = self.touched.lines
        known = remembered.get(item)
        if known is None:
            if len(remembered) >= REMEMBERED_ITEMS:
                remembered.clear()
            known = remembered[item] = self._in_order(item)
        return known

    def _in_order(self, item: ItemCode) -> tuple[Lying, ...]:
        found = self._opening_lines(item)
        since = list(self._lines_since(item))
        if len(since) * 8 > len(found):  # to put a few where they belong asks for fewer keys than to sort all anew
            return tuple(sorted((*found, *since), key=_line_key))
        for each in since:
            insort(found, each, key=_line_key)
        return tuple(found)

    def bins_with(self, item: ItemCode) -> frozenset[BinCode]:
        """Bins where the item lies or is on its way to."""
        remembered = self.touched.lying_in
        known = remembered.get(item)
        if known is None:
            if len(remembered) >= REMEMBERED_ITEMS:
                remembered.clear()
            known = remembered[item] = frozenset(self._lying_bins(item))
        coming = self.coming_with.get(item)
        return known | {code for code, _ in coming} if coming else known

    def lot_expiry(self, item: ItemCode, lot: str) -> date | None:
        """The expiry date a lot is known by, on stock or on a plate being built."""
        known: dict[tuple[str, str], date | None] | None = self.ground.remembered.get("lots")
        if known is None:
            table = self.ground.stock
            known = {}
            for item_at, lot_at, day in zip(table.item, table.lot, table.expiry, strict=True):
                if table.lots[lot_at]:
                    known[table.items[item_at], table.lots[lot_at]] = date.fromordinal(day) if day else None
            self.ground.remembered["lots"] = known
        if (item, lot) in known:
            return known[item, lot]
        return self.lots.expiry(item, lot)

    def stock(self) -> Iterator[tuple[BinCode, PlateNo | None, Goods]]:
        """All that lies in bins, as (bin, plate or None, goods), by bin, plate, item."""
        for code in sorted({*self.ground.stock.bins, *self.plates.bins_with_plates(), *self.loose_now}):
            for goods in self.loose(cast(BinCode, code)):
                yield cast(BinCode, code), None, goods
            for bottom in self.plates.standing_in(cast(BinCode, code)):
                for number in self.plates.tower(bottom):
                    for goods in self.plates.goods_on(number):
                        yield cast(BinCode, code), number, goods

    # What follows from a change

    def filled(self, code: BinCode, before: tuple[Goods, ...] | None, after: tuple[Goods, ...] | None) -> None:
        """Other goods lie loose in a bin."""
        gone, come = apart(before or (), after or ())
        for goods in gone:
            if goods.lot:
                self.lots.count(goods, -1)
        for goods in come:
            self._loose_with.setdefault(goods.item, {})[code] = None
            if goods.lot:
                self.lots.count(goods, 1)
        for item in {g.item for g in gone}:
            if not any(g.item == item for g in after or ()):
                self._loose_with[item].pop(code, None)
        opening = opening_goods(self.ground, code) if before is None or after is None else ()
        for goods in (*gone, *come, *opening):
            self.touched.forget(goods.item)
        self.touched.touch(code)

    def claim(self, task: TaskNo, code: BinCode, loose: tuple[Goods, ...], plates: tuple[PlateNo, ...]) -> None:
        """A task is on its way to a bin with loose goods and with whole plates."""
        claim = self.claims.setdefault(code, {})[task] = Claim(self, loose, plates)
        for plate in plates:
            self._on_its_way[plate] = code, task
        for each in claim.goods:
            coming = self.coming_with.setdefault(each.item, {})
            coming[code, task] = coming.get((code, task), 0) + each.quantity
        self.touched.touch(code)

    def unclaim(self, task: TaskNo, code: BinCode) -> None:
        """A task is on its way there no more."""
        gone = self.claims[code].pop(task)
        for plate in gone.plates:
            self._on_its_way.pop(plate, None)
        for each in gone.goods:
            self.coming_with[each.item].pop((code, task), None)
        self.touched.touch(code)

    def _refilled(self, plate: PlateNo) -> None:
        """Other goods are on a plate: what it claims where it goes is another amount."""
        known = self._on_its_way.get(plate)
        if known is not None:
            code, task = known
            old = self.claims[code][task]
            self.unclaim(task, code)
            self.claim(task, code, old.loose, old.plates)

    def room_of(self, goods: tuple[Goods, ...], plate: PlateNo | None) -> Held:
        """The room that goods take, on a plate with all that stands on it, or loose."""
        nested: tuple[Nested, ...] = ()
        kind: PlateKindCode | None = None
        if plate is not None:
            nested, kind = self.plates.nested(plate), self.plates.kind_of(plate)
        load = load_of(goods, kind, self.ground, nested)
        every = (*goods, *(g for n in nested for g in n.all_goods())) if nested else goods
        kinds = frozenset((g.item, g.lot, g.status) for g in every)
        return Held(load.volume_mm3, load.weight_mg, load.plates, kinds)

    def _sum(self, code: BinCode) -> Held:
        """What a bin holds, claims aside. Bins untouched by this world are shared with all worlds."""
        if code in self.touched.bins:
            held = self.touched.held[code] = self._sum_now(code)
            return held
        shared: dict[BinCode, Held] = self.ground.remembered.setdefault("held", {})
        known = shared.get(code)
        if known is None:
            if len(shared) >= REMEMBERED_BINS:
                shared.clear()
            known = shared[code] = self._sum_opening(code)
        return known

    def _sum_opening(self, code: BinCode) -> Held:
        table = self.ground.stock
        kinds = set()
        for n in table.rows_of_bin(code):
            kinds.add((ItemCode(table.items[table.item[n]]), table.lots[table.lot[n]], STATUSES[table.status[n]]))
        volume, weight, plates = opening_load(self.ground, code)
        return Held(volume, weight, plates, frozenset(kinds))

    def _sum_now(self, code: BinCode, but: PlateNo | None = None) -> Held:
        held = EMPTY
        loose = self.loose(code)
        if loose:
            held = self.room_of(loose, None)
        for number in self.plates.standing_in(code):
            if number != but:
                held = held.plus(self.room_of(self.plates.goods_on(number), number))
        return held

    def _opening_lines(self, item: ItemCode) -> list[Lying]:
        """Lines of the opening that still are as they were, in order."""
        known = at_opening(self.ground, "lines").answer(item, lambda: _lay(self.ground.stock, item))
        loose_now, awake = self.loose_now, self.plates.awake
        return [
            x for x in known
            if (x.bin not in loose_now if x.plate is None else x.plate not in awake)
        ]  # fmt: skip

    def _lines_since(self, item: ItemCode) -> Iterator[Lying]:
        """What lies elsewhere now than at the opening, or came since."""
        for number in self.plates.with_item.get(item, ()):
            where = self.plates.bin_of(number)
            if where:
                for goods in self.plates.goods_on(number):
                    if goods.item == item:
                        yield _make_lying(where, number, goods)
        for code in self._loose_with.get(item, ()):
            for goods in self.loose_now[code]:
                if goods.item == item:
                    yield _make_lying(code, None, goods)

    def _lying_bins(self, item: ItemCode) -> Iterator[BinCode]:
        """Where :meth:`_lying` finds it, without a look at what it is."""
        table, loose_now, awake = self.ground.stock, self.loose_now, self.plates.awake
        for n in table.rows_of_item(item):
            plate, code = table.plate[n], table.bins[table.bin[n]]
            if (code not in loose_now) if plate < 0 else (table.plates[plate] not in awake):
                yield BinCode(code)
        for number in self.plates.with_item.get(item, ()):
            where = self.plates.bin_of(number)
            if where:
                yield where
        yield from self._loose_with.get(item, ())


def _lay(table: StockTable, item: ItemCode) -> list[Lying]:
    """Where an item lay at the opening, in order. Rows are in order as they stand, but for those that lie together."""
    found = []
    plates, bins = cast(Sequence[PlateNo], table.plates), cast(Sequence[BinCode], table.bins)
    for n in table.rows_of_item(item):
        number = plates[plate] if (plate := table.plate[n]) >= 0 else None
        found.append(_make_lying(bins[table.bin[n]], number, goods_at(table, n)))
    return sorted(found, key=_line_key) if any(map(_status_decides, found, found[1:])) else found


def _status_decides(one: Lying, next_: Lying) -> bool:
    """Do two lines differ first in their status? The table has another order of those than a list of lines."""
    a, b = one.goods, next_.goods
    if a.status is b.status or one.bin is not next_.bin or one.plate is not next_.plate:
        return False
    return a.lot == b.lot and a.expiry == b.expiry


def _line_key(line: Lying) -> tuple[str, str, tuple[str, ...]]:
    return line.bin, line.plate or "", sort_key(line.goods)
