"""License plates: what each is, where it stands, what is on it. Three records, since a plate moves far more often than it
is made, and nothing of what it is changes by that."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from datetime import date, datetime
from typing import cast

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import (
    BinCode,
    DeviceId,
    ItemCode,
    OrderNo,
    PersonId,
    PlateKindCode,
    PlateNo,
    ReceiptNo,
    TaskNo,
    UnitCode,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.refs import DocKind, LineKey, Ref, line_key
from mindful_crate.core.catalog.stock import DAYS, STATUSES, StockTable
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.floor.past import Past
from mindful_crate.core.floor.touched import Touched
from mindful_crate.core.memo import Bounded
from mindful_crate.core.placing.request import Nested
from mindful_crate.core.record import Word, apart, maker, record

ROWS = 200_000
"""So many rows of the opening a ground remembers as goods, by bins, and as many by items."""


@record
class PlateLine:
    """Goods on a plate that is being built, with the order line they came on."""

    line: int
    order: OrderNo
    order_line: int
    item: ItemCode
    unit: UnitCode
    quantity: int
    lot: str = ""
    expiry: date | None = None
    seq: int = 0
    """The entry that noted it, or changed it last."""
    over: int = 0
    """How much of it is more than was ordered."""
    note: str = ""
    """The delivery note it came with."""
    serials: tuple[str, ...] = ()
    """The number of each piece, where the item is kept by them."""

    @property
    def key(self) -> LineKey:
        """The order line they came on."""
        return line_key(self.order, self.order_line)


class Holder(Word):
    """What can hold goods or a plate."""

    BIN = "bin"
    PLATE = "plate"
    PERSON = "person"
    """Whoever carries a plate."""
    TASK = "task"
    """Loose goods in the hands of whoever does the task."""
    TRANSIT = "transit"
    """A plate that left with a shipment."""


@record
class Spot:
    """Where a plate or goods are: in a bin, on a plate, with who carries the plate, in the hands of who does the task."""

    holder: Holder
    code: str


_spot: Callable[..., Spot] = maker(Spot)


NOWHERE = (Holder.PERSON, Holder.TRANSIT)
"""What holds a plate and is no place of the site."""


def in_bin(code: BinCode) -> Spot:
    """Standing in a bin."""
    return _spot(Holder.BIN, code)


def on_plate(number: PlateNo) -> Spot:
    """Standing on a plate."""
    return _spot(Holder.PLATE, number)


def with_person(person: PersonId) -> Spot:
    """Carried by somebody."""
    return _spot(Holder.PERSON, person)


def in_transit(shipment: str) -> Spot:
    """Left with a shipment."""
    return _spot(Holder.TRANSIT, shipment)


def in_hands(task: TaskNo) -> Spot:
    """Loose goods of a task, carried."""
    return _spot(Holder.TASK, task)


@record
class Card:
    """What a plate is that was made here. A load, goods that are received loose ``into`` a bin, is kept like one, but
    nothing holds it."""

    plate_kind: PlateKindCode
    building: bool = True
    by: PersonId | None = None
    since: datetime | None = None
    begun: int = 0
    """The entry that began it."""
    into: BinCode | None = None
    """Of a load: the bin its goods are received into."""
    receipt: ReceiptNo | None = None
    finished_on: DeviceId | None = None
    finished_at: datetime | None = None
    finished: int = 0
    """The entry that made it stock."""


@record
class Load:
    """What is left of goods that were received loose: who did it, once all of it is settled."""

    number: PlateNo
    card: Card

    @property
    def ref(self) -> Ref:
        """Its name; the receipt has the same number."""
        return Ref(DocKind.PLATE, self.number)

    @property
    def follows(self) -> tuple[Ref, ...]:
        """Nothing that is told: the receipt is."""
        return ()


@record
class Plate:
    """A license plate as a whole. It has one holder: ``bin``, ``carrier`` or the plate it stands ``on``. While
    ``building`` its lines are not stock. ``begun`` 0: it was there at the opening."""

    number: PlateNo
    plate_kind: PlateKindCode
    bin: BinCode | None
    carrier: PersonId | None = None
    on: PlateNo | None = None
    goods: tuple[Goods, ...] = ()
    lines: tuple[PlateLine, ...] = ()
    building: bool = False
    by: PersonId | None = None
    since: datetime | None = None
    receipt: ReceiptNo | None = None
    finished_on: DeviceId | None = None
    finished_at: datetime | None = None
    begun: int = 0
    finished: int = 0
    into: BinCode | None = None

    @property
    def stands(self) -> BinCode | None:
        """The bin it stands in, or its goods are received into."""
        return self.bin or self.into


_plate: Callable[..., Plate] = maker(Plate)
_goods: Callable[..., Goods] = maker(Goods)
_NO_CARD = Card(PlateKindCode(""), building=False)


def goods_of(
    lines: tuple[PlateLine, ...], arrived: date, inspect: tuple[int, ...] = (), statuses: tuple[tuple[int, Status], ...] = ()
) -> tuple[Goods, ...]:  # fmt: skip
    """What lines make when they become stock: of each item, lot and date one amount. Those of the lines ``inspect`` wait for an
    inspection; others may have a status of their own."""
    available, waits = Status.AVAILABLE, Status.INSPECT
    if not inspect and not statuses and len({x.item for x in lines}) == len(lines):
        return tuple([_goods(x.item, x.quantity, x.lot, x.expiry, available, arrived) for x in lines])
    found: dict[tuple[ItemCode, str, date | None, Status], int] = {}
    marked = dict(statuses)
    for line in lines:
        status = waits if line.line in inspect else marked.get(line.line, available)
        key = (line.item, line.lot, line.expiry, status)
        found[key] = found.get(key, 0) + line.quantity
    return tuple([_goods(item, n, lot, expiry, status, arrived) for (item, lot, expiry, status), n in found.items()])


def goods_at(table: StockTable, n: int) -> Goods:
    """The goods of a row of the opening stock."""
    return _goods(
        cast(ItemCode, table.items[table.item[n]]), table.quantity[n], table.lots[table.lot[n]], DAYS[table.expiry[n]],
        STATUSES[table.status[n]], DAYS[table.arrived[n]],
    )  # fmt: skip


class Lots:
    """The expiry dates that lots have been seen with since the opening, and how often."""

    def __init__(self) -> None:
        self._seen: dict[tuple[ItemCode, str], dict[date | None, int]] = {}

    def count(self, goods: Goods | PlateLine, by: int) -> None:
        """Goods of a lot came to be somewhere, or are there no more."""
        lot = goods.item, goods.lot
        seen = self._seen.get(lot)
        if seen is None:
            seen = self._seen[lot] = {}
        seen[goods.expiry] = left = seen.get(goods.expiry, 0) + by
        if not left:
            del seen[goods.expiry]

    def expiry(self, item: ItemCode, lot: str) -> date | None:
        """The date a lot is known by: the earliest, should there be several."""
        return min((d for d in self._seen.get((item, lot), ()) if d), default=None)


class _Cards(Keeper[PlateNo, Card]):
    def __init__(self, journal: Journal) -> None:
        super().__init__(journal)
        self.building: dict[PlateNo, None] = {}

    def changed(self, key: PlateNo, before: Card | None, after: Card | None) -> None:
        if after is not None and after.building:
            self.building[key] = None
        else:
            self.building.pop(key, None)


class _Lines(Keeper[PlateNo, tuple[PlateLine, ...]]):
    def __init__(self, journal: Journal, lots: Lots) -> None:
        super().__init__(journal)
        self._lots = lots
        self.noted: dict[tuple[ItemCode, str], PlateNo] = {}
        """Serial numbers that are noted and not stock yet, with where."""

    def changed(self, key: PlateNo, before: tuple[PlateLine, ...] | None, after: tuple[PlateLine, ...] | None) -> None:
        for line in before or ():
            if line.lot:
                self._lots.count(line, -1)
            for serial in line.serials:
                self.noted.pop((line.item, serial), None)
        for line in after or ():
            if line.lot:
                self._lots.count(line, 1)
            for serial in line.serials:
                self.noted[line.item, serial] = key


class Plates:
    """All plates: those of the opening as they are in the ground, and over them what has changed."""

    def __init__(
        self, journal: Journal, ground: Ground, touched: Touched, lots: Lots, past: Past, drawn: Callable[[str], bool]
    ) -> None:
        self.ground = ground
        self.touched = touched
        self.lots = lots
        self.past = past
        self._drawn = drawn
        """Was a number drawn for a receipt, and so for a load?"""
        self.cards = _Cards(journal)
        """What plates are that were made here."""
        self.spots: Keeper[PlateNo, Spot] = Keeper(journal, self.moved)
        """Where plates are that were made here or moved."""
        self.goods: Keeper[PlateNo, tuple[Goods, ...]] = Keeper(journal, self.filled)
        """What is on plates that were made here, or where it is not as at the opening."""
        self.lines = _Lines(journal, lots)
        """What is on plates that are being built."""
        self.refilled: Callable[[PlateNo], None] | None = None
        """What else follows when other goods are on a plate."""
        self.awake: dict[PlateNo, tuple[Goods, ...]] = {}
        """Plates of the opening that are looked for here and no longer in the ground, since they, or what is under them,
        changed once, with what was on them then; never taken back."""
        self.with_item: dict[ItemCode, dict[PlateNo, None]] = {}
        self._standing: dict[BinCode, dict[PlateNo, None]] = {}
        self._on: dict[PlateNo, dict[PlateNo, None]] = {}

    # As wholes

    def get(self, number: PlateNo) -> Plate | None:
        """A plate that was made here, or is not as at the opening."""
        return self.plate(number) if number in self else None

    def __getitem__(self, number: PlateNo) -> Plate:
        """A plate that is there."""
        found = self.plate(number)
        if found is None:
            raise KeyError(number)
        return found

    def __contains__(self, number: object) -> bool:
        """Was it made here, or is it not as at the opening?"""
        return number in self.cards or number in self.spots or number in self.goods

    def values(self) -> Iterator[Plate]:
        """All that were made here or changed, by number."""
        numbers = {*self.cards.all(), *self.spots.all(), *self.goods.all()}
        return (self[n] for n in sorted(numbers))

    def has_plate(self, number: PlateNo) -> bool:
        """Is there a plate of that number, at the opening or since?"""
        return number in self.cards or number in self.ground.plates or self._load(number) is not None

    def _load(self, number: PlateNo) -> Card | None:
        """The card of a load that is settled."""
        found = self.past.find(Ref(DocKind.PLATE, number)) if self._drawn(number) else None
        return found.card if isinstance(found, Load) else None

    def made_here(self, number: PlateNo) -> bool:
        """Is it a tote, carton or pallet that was made here, neither received nor there at the opening? Such a one is none any more once it
        is empty; others stay, empty."""
        card = self.cards.get(number)
        return card is not None and card.receipt is None and number not in self.ground.plates

    def card(self, number: PlateNo) -> Card | None:
        """What was noted of a plate or load that was made here."""
        return self.cards.get(number) or (None if number in self.ground.plates else self._load(number))

    def plate(self, number: PlateNo) -> Plate | None:
        """A plate by its number, as a whole."""
        card = self.cards.get(number)
        if card is None:
            row = self.ground.plates.get(number)
            card = _NO_CARD if row else self._load(number)
            if card is None:
                return None
            kind = row.plate_kind if row else card.plate_kind
        else:
            kind = card.plate_kind
        spot = self.spot(number)
        code = spot.code if spot else None
        holder = spot.holder if spot else None
        return _plate(
            number, kind, code if holder is Holder.BIN else None, code if holder is Holder.PERSON else None,
            code if holder is Holder.PLATE else None, self.goods_on(number), self.lines.get(number, ()), card.building,
            card.by, card.since, card.receipt, card.finished_on, card.finished_at, card.begun, card.finished, card.into,
        )  # fmt: skip

    # Part by part

    def kind_of(self, number: PlateNo) -> PlateKindCode:
        """The kind of a plate that is there."""
        card = self.cards.get(number)
        return card.plate_kind if card is not None else self.ground.plates[number].plate_kind

    def spot(self, number: PlateNo) -> Spot | None:
        """Where a plate is; None for a load, and for what is no plate."""
        return self.spot_was(number, self.spots.get(number))

    def spot_was(self, number: PlateNo, kept: Spot | None) -> Spot | None:
        """Where a plate was when that was kept of it; None: nothing yet, as at the opening."""
        return self._opening_spot(number) if kept is None else kept

    def goods_on(self, number: PlateNo) -> tuple[Goods, ...]:
        """What is on a plate itself."""
        return self.goods_were(number, self.goods.get(number))

    def goods_were(self, number: PlateNo, kept: tuple[Goods, ...] | None) -> tuple[Goods, ...]:
        """What was on a plate itself when that was kept of it; None: nothing yet, as at the opening."""
        return self._opening_goods(number) if kept is None else kept

    def bin_of(self, number: PlateNo) -> BinCode | None:
        """The bin a plate stands in, through all plates it stands on; None while it is carried."""
        spot = self.spot(number)
        while spot is not None and spot.holder is Holder.PLATE:
            spot = self.spot(PlateNo(spot.code))
        return BinCode(spot.code) if spot is not None and spot.holder is Holder.BIN else None

    def plates_on(self, number: PlateNo) -> tuple[PlateNo, ...]:
        """Plates that stand on a plate, in number order."""
        known = self._on.get(number)
        return self.ground.plates_on.get(number, ()) if known is None else tuple(sorted(known))

    def standing_in(self, code: BinCode) -> tuple[PlateNo, ...]:
        """The numbers of the plates in a bin itself, in order."""
        known = self._standing.get(code)
        return self.ground.plates_in.get(code, ()) if known is None else tuple(sorted(known))

    def standing(self, code: BinCode) -> tuple[Plate, ...]:
        """The plates in a bin itself, in number order."""
        return tuple(self[n] for n in self.standing_in(code))

    def nested(self, number: PlateNo) -> tuple[Nested, ...]:
        """What stands on a plate, for a question about bins."""
        return tuple(Nested(self.kind_of(n), self.goods_on(n), self.nested(n)) for n in self.plates_on(number))

    def all_goods(self, number: PlateNo) -> tuple[Goods, ...]:
        """Goods of a plate and of the plates on it."""
        if number not in self._on and number not in self.ground.plates_on:
            return self.goods_on(number)
        return (*self.goods_on(number), *(g for n in self.plates_on(number) for g in self.all_goods(n)))

    def holds_just(self, number: PlateNo, item: ItemCode, count: int) -> bool:
        """Does a plate hold so much of this item and nothing else, nor another plate?"""
        if not self.has_plate(number) or self.plates_on(number):
            return False
        goods = self.goods_on(number)
        return all(g.item == item for g in goods) and sum(g.quantity for g in goods) == count

    def tower(self, number: PlateNo) -> Iterator[PlateNo]:
        """A plate and all plates on it."""
        yield number
        for inner in self.plates_on(number):
            yield from self.tower(inner)

    def building(self) -> list[Plate]:
        """Plates that are being built, in number order."""
        return [self[n] for n in sorted(self.cards.building)]

    # What follows from a change

    def moved(self, number: PlateNo, before: Spot | None, after: Spot | None) -> None:
        """A plate is elsewhere; what is on it is as before."""
        if number in self.ground.plates:
            self._wake(number)
        left, come = before or self._opening_spot(number), after or self._opening_spot(number)
        if left is not None and left.holder not in NOWHERE:
            self._beside(left).pop(number, None)
            self._touch_under(left)
        if come is not None and come.holder not in NOWHERE:
            self._beside(come)[number] = None
            self._touch_under(come)
        forget = self.touched.forget
        for goods in self.all_goods(number):
            forget(goods.item)

    def filled(self, number: PlateNo, before: tuple[Goods, ...] | None, after: tuple[Goods, ...] | None) -> None:
        """Other goods are on a plate."""
        if number in self.ground.plates:
            self._wake(number)
        was: Sequence[Goods] = self.goods_were(number, before)
        now: Sequence[Goods] = self.goods_were(number, after)
        if before is not None and after is not None:
            was, now = apart(before, after)
        for goods in was:
            if not any(g.item == goods.item for g in after or ()):
                self.with_item[goods.item].pop(number, None)
            self.touched.forget(goods.item)
            if goods.lot and before is not None:
                self.lots.count(goods, -1)
        for goods in now:
            plates = self.with_item.get(goods.item)
            if plates is None:
                plates = self.with_item[goods.item] = {}
            plates[number] = None
            self.touched.forget(goods.item)
            if goods.lot and after is not None:
                self.lots.count(goods, 1)
        where = self.bin_of(number)
        if where:
            self.touched.touch(where)
        if self.refilled is not None:
            self.refilled(number)

    def _wake(self, number: PlateNo) -> None:
        """A plate of the opening changes: it and what stands on it are looked for here from now on."""
        if number in self.awake:
            return
        self.awake[number] = opening = self._opening_goods(number)
        for goods in opening:
            self.with_item.setdefault(goods.item, {})[number] = None
            self.touched.forget(goods.item)
        for inner in self.ground.plates_on.get(number, ()):
            self._wake(inner)

    def _touch_under(self, spot: Spot) -> None:
        where = BinCode(spot.code) if spot.holder is Holder.BIN else self.bin_of(PlateNo(spot.code))
        if where:
            self.touched.touch(where)

    def _beside(self, spot: Spot) -> dict[PlateNo, None]:
        """The plates in a bin or on a plate, kept here from now on."""
        if spot.holder is Holder.BIN:
            found = self._standing.get(BinCode(spot.code))
            if found is None:
                inside = self.ground.plates_in.get(BinCode(spot.code), ())
                found = self._standing[BinCode(spot.code)] = dict.fromkeys(inside)
            return found
        under = PlateNo(spot.code)
        found = self._on.get(under)
        if found is None:
            found = self._on[under] = dict.fromkeys(self.ground.plates_on.get(under, ()))
        return found

    def bins_with_plates(self) -> set[BinCode]:
        """Bins in which plates stand, or stood once."""
        return {*self.ground.plates_in, *self._standing}

    def _opening_spot(self, number: PlateNo) -> Spot | None:
        row = self.ground.plates.get(number)
        if row is None or number in self.cards:  # a plate made here under the number of another
            return None
        return on_plate(row.on) if row.on else in_bin(row.bin)

    def _opening_goods(self, number: PlateNo) -> tuple[Goods, ...]:
        row = self.ground.plates.get(number)
        if row is None or number in self.cards:
            return ()
        if number in self.awake:
            return self.awake[number]
        table = self.ground.stock
        goods = []
        for n in table.rows_of_bin(row.bin):
            at = table.plate[n]
            if at >= 0 and table.plates[at] == number:
                goods.append(goods_at(table, n))
        return tuple(goods)


def opening_goods(ground: Ground, code: BinCode) -> tuple[Goods, ...]:
    """The loose goods of a bin at the opening."""
    table, plate = ground.stock, ground.stock.plate
    return at_opening(ground, "loose goods").answer(
        code, lambda: (goods_at(table, n) for n in table.rows_of_bin(code) if plate[n] < 0)
    )


def at_opening(ground: Ground, what: str) -> Bounded:
    """What a ground remembers of its rows, by bins or by items, under a name."""
    known: Bounded | None = ground.remembered.get(what)
    if known is None:
        known = ground.remembered[what] = Bounded(ROWS)
    return known
