"""Reservations: stock kept for somebody, in a bin or on a plate wherever it goes."""

from __future__ import annotations

from bisect import bisect_left, insort
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from heapq import merge
from itertools import groupby
from operator import itemgetter
from types import MappingProxyType

from mindful_crate.core.catalog.amounts import Goods, sort_key
from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, PersonId, PlateNo, ReservationNo, RuleId, TaskNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.placing.fit import Lying
from mindful_crate.core.record import apart, record


@record
class Reserved:
    """A quantity reserved of goods in a bin, on a plate wherever it goes, or in the hands of who does a task. ``rule``: which chose it for an
    order."""

    bin: BinCode
    goods: Goods
    plate: PlateNo | None = None
    rule: RuleId | None = None
    task: TaskNo | None = None


@record
class Reservation:
    """Stock kept for somebody. Later reservations are let go first when stock is taken away."""

    number: ReservationNo
    holder: str
    item: ItemCode
    parts: tuple[Reserved, ...]
    order: OrderNo | None = None
    line: int = 0
    """The order line it is for, if that was released."""
    missed_by: PersonId | None = None
    """Who did not find it where it should lie, if it is kept for nobody because of that."""
    task: TaskNo | None = None
    """The task that is to bring it where it is picked, if it is kept for that."""

    @property
    def serves(self) -> LineKey | None:
        """The order line it is for."""
        return LineKey(self.order, self.line) if self.order else None

    @property
    def quantity(self) -> int:
        """How much is kept, in base units."""
        return sum(p.goods.quantity for p in self.parts)


def _spot(code: BinCode, plate: PlateNo | None, task: TaskNo | None) -> str:
    """Reservations are kept by plate, so that they move with it, else by bin or by who carries it."""
    return f"task {task}" if task else f"plate {plate}" if plate else f"bin {code}"


def _spot_of(part: Reserved) -> str:
    return _spot(part.bin, part.plate, part.task)


def place_of(code: BinCode, plate: PlateNo | None, goods: Goods, task: TaskNo | None = None) -> tuple[str, ...]:
    """Where a reservation is kept, and by kind of goods."""
    return (_spot(code, plate, task), *sort_key(goods))


NOTHING: Mapping[ReservationNo, int] = MappingProxyType({})
Kin = tuple[OrderNo, ItemCode | None]
"""All that is kept for an order, or what of an item is."""
Line = tuple[int, ReservationNo]
"""For which line of an order something is kept, by which reservation."""


def parts_changed(was: Reservation | None, now: Reservation | None) -> tuple[Sequence[Reserved], Sequence[Reserved]]:
    """The parts that a reservation has no more, and those it has anew."""
    if (
        was is None
        or now is None
        or (was.order, was.line, was.item, was.task) != (now.order, now.line, now.item, now.task)
    ):
        return was.parts if was else (), now.parts if now else ()
    return apart(was.parts, now.parts)


class Reservations(Keeper[ReservationNo, Reservation]):
    """Reservations that hold something, and who has reserved what of which goods."""

    def __init__(self, journal: Journal) -> None:
        super().__init__(journal)
        self._at: dict[str, dict[tuple[str, ...], dict[ReservationNo, int]]] = {}
        """How much of which goods is kept by which, place by place: of most places nothing is, which is known before the goods are
        looked at."""
        self._of_item: dict[ItemCode, int] = {}
        self._of_order: dict[OrderNo, dict[int, dict[ReservationNo, int]]] = {}
        self._of_task: dict[TaskNo, dict[ReservationNo, None]] = {}
        self._for_shelves: dict[tuple[str, ...], int] = {}
        """How much of what is kept at a place is only kept to be brought to where it is picked."""
        self._loose: dict[BinCode, dict[ReservationNo, int]] = {}
        """Of loose goods kept for orders: in how many parts by which reservation, by bin."""
        self._where: dict[Kin, dict[str, list[Line]]] = {}
        """Where what is kept for an order lies and is not packed, in order of lines: somebody who packs thousands of them asks with every scan."""
        self._packed: dict[Kin, dict[str, list[Line]]] = {}
        """The same of what is in cartons."""
        self._apart: set[str] = set()
        """The places that are cartons."""
        self._kins: dict[str, set[Kin]] = {}
        """Of which orders something lies in a place."""
        self._parts_in: dict[tuple[ReservationNo, str], int] = {}
        """How many parts of a reservation that is for an order lie in a place."""

    def changed(self, key: ReservationNo, before: Reservation | None, after: Reservation | None) -> None:
        """How much of which goods is kept by it."""
        for reservation, sign in ((before, -1), (after, 1)):
            if reservation is None:
                continue
            self._of_item[reservation.item] = self._of_item.get(reservation.item, 0) + sign
            if reservation.task is not None:
                self._brings(reservation, reservation.task, sign)
        gone, came = parts_changed(before, after)
        for reservation, parts, sign in ((before, gone, -1), (after, came, 1)):
            for part in parts:
                assert reservation is not None
                spot = _spot_of(part)
                if reservation.order is not None:
                    self._count(reservation, sign * part.goods.quantity)
                    self._stands(reservation, reservation.order, spot, sign)
                    if part.plate is None and part.task is None:
                        self._lies(part.bin, key, sign)
                here, goods = self._at.setdefault(spot, {}), sort_key(part.goods)
                holders = here.setdefault(goods, {})
                quantity = holders.get(key, 0) + sign * part.goods.quantity
                if quantity:
                    holders[key] = quantity
                else:
                    holders.pop(key, None)
                    if not holders:
                        del here[goods]
                        if not here:
                            del self._at[spot]

    def _stands(self, reservation: Reservation, order: OrderNo, spot: str, sign: int) -> None:
        """A part of what is kept for an order lies in a place, or no more."""
        place = (reservation.number, spot)
        before = self._parts_in.get(place, 0)
        if parts := before + sign:
            self._parts_in[place] = parts
        else:
            del self._parts_in[place]
        if bool(before) is bool(parts):
            return
        line = (reservation.line, reservation.number)
        where = self._packed if spot in self._apart else self._where
        for kin in ((order, None), (order, reservation.item)):
            if parts:
                insort(where.setdefault(kin, {}).setdefault(spot, []), line)
                self._kins.setdefault(spot, set()).add(kin)
            else:
                self._lies_no_more(where, kin, spot, line)

    def set_apart(self, plate: PlateNo, *, packed: bool) -> None:
        """A plate is a carton from now on, or none any more: what lies on it is packed, or is not."""
        spot = _spot(BinCode(""), plate, None)
        if packed is (spot in self._apart):
            return
        here, there = (self._where, self._packed) if packed else (self._packed, self._where)
        for kin in self._kins.get(spot, ()):
            there.setdefault(kin, {})[spot] = here[kin].pop(spot)
            if not here[kin]:
                del here[kin]
        (self._apart.add if packed else self._apart.discard)(spot)

    def _lies_no_more(self, where: dict[Kin, dict[str, list[Line]]], kin: Kin, spot: str, line: Line) -> None:
        spots = where[kin]
        lines = spots[spot]
        del lines[bisect_left(lines, line)]
        if not lines:
            del spots[spot]
            self._kins[spot].discard(kin)
            if not self._kins[spot]:
                del self._kins[spot]
        if not spots:
            del where[kin]

    def lying(
        self, order: OrderNo, there: Callable[[Reserved], bool], item: ItemCode | None = None
    ) -> Iterator[tuple[int, Reservation]]:
        """What is kept for an order and not packed, or of one item for it, line by line, of which some lies where it is asked for: that is decided by one
        part of each place, so it may depend on nothing but the place."""
        return ((line, self[number]) for line, number in self._lying(order, there, item))

    def lines_lying(self, order: OrderNo, there: Callable[[Reserved], bool]) -> Iterator[int]:
        """The lines of an order of which it is so, each once."""
        return (no for no, _ in groupby(self._lying(order, there, None), key=itemgetter(0)))

    def _lying(self, order: OrderNo, there: Callable[[Reserved], bool], item: ItemCode | None) -> Iterable[Line]:
        spots = self._where.get((order, item), {})
        found = [lines for spot, lines in spots.items() if there(self._part_in(spot, lines[0][1]))]
        # what lies in several places comes once
        return found[0] if len(found) == 1 else (each for each, _ in groupby(merge(*found)))

    def packed_in(self, order: OrderNo, carton: PlateNo) -> Sequence[Line]:
        """What is kept for an order and is in a carton, some of it: which reservations, line by line."""
        return self._packed.get((order, None), {}).get(_spot(BinCode(""), carton, None), ())

    def _part_in(self, spot: str, number: ReservationNo) -> Reserved:
        return next(p for p in self[number].parts if _spot_of(p) == spot)

    def _brings(self, reservation: Reservation, task: TaskNo, sign: int) -> None:
        mine = self._of_task.setdefault(task, {})
        if sign > 0:
            mine[reservation.number] = None
        else:
            mine.pop(reservation.number, None)
        if not mine:
            del self._of_task[task]
        for part in reservation.parts:
            place = place_of(part.bin, part.plate, part.goods, part.task)
            left = self._for_shelves.get(place, 0) + sign * part.goods.quantity
            if left:
                self._for_shelves[place] = left
            else:
                self._for_shelves.pop(place, None)

    def of_task(self, task: TaskNo) -> list[Reservation]:
        """What is kept for a task that brings it to where it is picked, by number."""
        return [self[number] for number in sorted(self._of_task.get(task, ()))]

    def _lies(self, code: BinCode, key: ReservationNo, sign: int) -> None:
        kept = self._loose.setdefault(code, {})
        parts = kept.get(key, 0) + sign
        if parts:
            kept[key] = parts
        else:
            kept.pop(key, None)
            if not kept:
                del self._loose[code]

    def loose_in(self, code: BinCode) -> list[ReservationNo]:
        """What keeps loose goods in a bin for orders, by number."""
        return sorted(self._loose.get(code, ()))

    def bins_with_loose(self) -> list[BinCode]:
        """Bins in which loose goods are kept for orders."""
        return sorted(self._loose)

    def _count(self, reservation: Reservation, more: int) -> None:
        """So much more is kept by a reservation for the order line it is for."""
        assert reservation.order is not None
        lines = self._of_order.setdefault(reservation.order, {})
        kept = lines.setdefault(reservation.line, {})
        if quantity := kept.pop(reservation.number, 0) + more:
            kept[reservation.number] = quantity
        if not kept:
            del lines[reservation.line]
        if not lines:
            del self._of_order[reservation.order]

    def has_reservations(self, item: ItemCode) -> bool:
        """Is anything of an item reserved?"""
        return self._of_item.get(item, 0) > 0

    def of_line(self, line: LineKey) -> int:
        """How much is kept for an order line that was released, in base units."""
        return sum(self._of_order.get(line.order, {}).get(line.line, {}).values())

    def of_order(self, order: OrderNo) -> dict[int, list[ReservationNo]]:
        """What keeps stock for an order that was released, by its lines."""
        return dict(self.lines_of(order))

    def lines_of(self, order: OrderNo) -> Iterator[tuple[int, list[ReservationNo]]]:
        """The same one after another, for who needs only the first of many."""
        lines = self._of_order.get(order, {})
        for line in sorted(lines):
            yield line, sorted(lines[line])

    def for_line(self, line: LineKey) -> list[ReservationNo]:
        """What keeps stock for one order line that was released."""
        return sorted(self._of_order.get(line.order, {}).get(line.line, ()))

    def reserved(self, line: Lying, but: ReservationNo | None = None) -> int:
        """How much of such a line is reserved, the reservation ``but`` left out."""
        holders = self._holders(_spot(line.bin, line.plate, None), line.goods)
        return sum(q for n, q in holders.items() if n != but) if holders else 0

    def kept_for_good(self, line: Lying) -> int:
        """How much of such a line is kept for somebody; what is only to be brought to where it is picked is still anybody's."""
        holders = self._holders(_spot(line.bin, line.plate, None), line.goods)
        if not holders:
            return 0
        return sum(holders.values()) - self._for_shelves.get(place_of(line.bin, line.plate, line.goods), 0)

    def _holders(self, spot: str, goods: Goods) -> Mapping[ReservationNo, int]:
        """How much of such goods in a place is kept by which."""
        here = self._at.get(spot)
        return here.get(sort_key(goods), NOTHING) if here else NOTHING

    def kept_in_hands(self, task: TaskNo, goods: Goods, plate: PlateNo | None) -> int:
        """How much of such goods in the hands of a task, on a plate or loose, is kept for anybody."""
        return sum(self._holders(_spot(BinCode(""), plate, None if plate else task), goods).values())

    def reservations_of(self, line: Lying) -> list[tuple[ReservationNo, int]]:
        """Who has reserved how much of such a line, the latest first."""
        return sorted(self._holders(_spot(line.bin, line.plate, None), line.goods).items(), reverse=True)
