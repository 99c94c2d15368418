"""Stock before and after: which rows of stock are others after some entries of the log, told side by side."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from datetime import date
from typing import NamedTuple, TypeVar

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PersonId, PlateNo, TaskNo
from mindful_crate.core.floor.plates import Holder, Spot, on_plate
from mindful_crate.core.floor.serials import Lies, SerialKey
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import record

K = TypeVar("K")
V = TypeVar("V")


class Place(NamedTuple):
    """Where a row of stock is: in a bin, on a plate there, or carried ``by`` somebody; each empty where it is not so."""

    bin: str
    plate: str
    by: str


class Row(NamedTuple):
    """What makes a row of stock one: where it is, and what the goods are."""

    place: Place
    item: ItemCode
    lot: str
    expiry: date | None
    status: Status


@record
class StockBetween:
    """A row of stock with how much there was and is, in base units, and the numbers of pieces that left it or came."""

    bin: str
    plate: str
    by: PersonId | None
    item: ItemCode
    lot: str
    expiry: date | None
    status: Status
    before: int
    after: int
    gone: tuple[str, ...]
    came: tuple[str, ...]


class Mark(NamedTuple):
    """What lies where at one entry, as far as it is not as at the opening. Only references are copied: nothing in it changes
    when the state goes on."""

    loose: Mapping[BinCode, tuple[Goods, ...]]
    on_plates: Mapping[PlateNo, tuple[Goods, ...]]
    spots: Mapping[PlateNo, Spot]
    hands: Mapping[TaskNo, tuple[PersonId | None, tuple[Goods, ...]]]
    serials: Mapping[SerialKey, Lies]


def mark(state: State) -> Mark:
    """What lies where now, to be asked by :func:`stock_since` once the state has gone on."""
    return Mark(
        state.loose_now.all(), state.plates.goods.all(), state.plates.spots.all(),
        {t: (going.person, going.hands) for t, going in state.tasks.going.all().items() if going.hands}, state.serials.moved.all(),
    )  # fmt: skip


def stock_since(state: State, was: Mark) -> list[StockBetween]:
    """The rows of stock of the state's site that are others than at the mark, by item, bin, plate. Goods on a plate that is
    being built, and those that left the site, are in no row."""
    now = mark(state)
    bins = _other(was.loose, now.loose)
    moved = {*_other(was.on_plates, now.on_plates), *_other(was.spots, now.spots)}
    towers = {each for number in moved for each in state.plates.tower(number)}
    serials = _other(was.serials, now.serials) | {key for number in towers for key in _pieces_on(state, number)}
    before, after = _Side(state, was), _Side(state, now)
    for side in (before, after):
        side.count(bins, towers)
        side.number(serials)
    none: set[str] = set()
    found = []
    for row in sorted({*before.rows, *after.rows, *before.numbers, *after.numbers}, key=_place_of):
        had, has = before.numbers.get(row, none), after.numbers.get(row, none)
        if before.rows[row] == after.rows[row] and had == has:
            continue
        (code, plate, by), item, lot, expiry, status = row
        gone, came = tuple(sorted(had - has)), tuple(sorted(has - had))
        carrier = PersonId(by) if by else None
        found.append(
            StockBetween(code, plate, carrier, item, lot, expiry, status, before.rows[row], after.rows[row], gone, came)
        )
    return found


def _other(was: Mapping[K, V], now: Mapping[K, V]) -> set[K]:
    """What has another value; a value that was not touched is the same object, so that equal ones need no comparing."""
    return {key for key in {*was, *now} if (a := was.get(key)) is not (b := now.get(key)) and a != b}


def _pieces_on(state: State, number: PlateNo) -> Iterator[SerialKey]:
    """The pieces that are known by number on a plate: they go where it goes, and nothing else of them changes."""
    for goods in state.plates.goods_on(number):
        if goods.item in state.serials.kept:
            yield from (SerialKey(goods.item, n) for n in state.serials.at(on_plate(number), goods))


def _place_of(row: Row) -> tuple[str, ...]:
    return row.item, row.place.bin, row.place.plate, row.place.by, row.lot, str(row.expiry or ""), row.status


class _Side:
    """One of the two sides: the rows of some bins, plates and hands as a mark has them."""

    def __init__(self, state: State, at: Mark) -> None:
        self.state, self.at = state, at
        self.rows: Counter[Row] = Counter()
        self.numbers: dict[Row, set[str]] = {}

    def count(self, bins: Iterable[BinCode], plates: Iterable[PlateNo]) -> None:
        """Sum what lay loose in bins, on plates and in all hands."""
        for code in bins:
            self._put(Place(code, "", ""), self.state.bins.loose_was(code, self.at.loose.get(code)))
        for number in plates:
            place = self._plate(number)
            if place is not None:
                self._put(place, self.state.plates.goods_were(number, self.at.on_plates.get(number)))
        for by, goods in self.at.hands.values():
            self._put(Place("", "", by or ""), goods)

    def number(self, keys: Iterable[SerialKey]) -> None:
        """Note in which rows pieces were that are known by their numbers."""
        for key in keys:
            lies = self.at.serials.get(key) or self.state.serials.at_opening(*key)
            place = self._spot(lies.spot) if lies is not None and lies.spot is not None else None
            if lies is not None and place is not None and self._ours(place):
                self.numbers.setdefault(_row(place, lies.goods), set()).add(key.serial)

    def _put(self, place: Place, goods: Iterable[Goods]) -> None:
        if self._ours(place):
            for each in goods:
                self.rows[_row(place, each)] += each.quantity

    def _ours(self, place: Place) -> bool:
        return not place.bin or self.state.ground.site_of(BinCode(place.bin)) == self.state.settings.site

    def _plate(self, number: PlateNo) -> Place | None:
        """Where a plate was; None while it was being built, and once it left or was used up."""
        plates = self.state.plates
        spot = plates.spot_was(number, self.at.spots.get(number))
        while spot is not None and spot.holder is Holder.PLATE:
            under = PlateNo(spot.code)
            spot = plates.spot_was(under, self.at.spots.get(under))
        if spot is None or spot.holder not in (Holder.BIN, Holder.PERSON):
            return None
        return Place(spot.code, number, "") if spot.holder is Holder.BIN else Place("", number, spot.code)

    def _spot(self, spot: Spot) -> Place | None:
        if spot.holder is Holder.PLATE:
            return self._plate(PlateNo(spot.code))
        if spot.holder is Holder.BIN:
            return Place(spot.code, "", "")
        if spot.holder is Holder.TASK:
            by, _ = self.at.hands.get(TaskNo(spot.code), (None, ()))
            return Place("", "", by or "")
        return None


def _row(place: Place, goods: Goods) -> Row:
    return Row(place, goods.item, goods.lot, goods.expiry, goods.status)
