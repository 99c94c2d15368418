"""Serial numbers: where each piece of an item that is kept by them is, over what the opening says.

A kind of goods knows no numbers: bins, plates, placing and loads never see them. What holds goods holds their numbers too: of every
kind of goods that is kept by serial, as many numbers as pieces, at every spot.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import ItemCode, PlateNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.floor.plates import Holder, PlateLine, Spot, in_bin, on_plate
from mindful_crate.core.plain import Misfit, Plain
from mindful_crate.core.record import evolve, record


class SerialKey(NamedTuple):
    """One piece: its item and its number. Written with the number first: ``CP-0001 PLOT-09``."""

    item: ItemCode
    serial: str

    def __str__(self) -> str:
        """As it is written, and kept."""
        return f"{self.item}\t{self.serial}"

    def to_plain(self) -> Plain:
        """Its text."""
        return str(self)

    @classmethod
    def from_plain(cls, plain: Plain, place: str) -> SerialKey:
        """The piece of a text."""
        item, tab, serial = plain.partition("\t") if isinstance(plain, str) else ("", "", "")
        if not (item and tab and serial):
            raise Misfit(place, f"{plain!r} is no serial number of an item")
        return cls(ItemCode(item), serial)


@record
class Serials:
    """Pieces of an item by their numbers, as events say them."""

    item: ItemCode
    numbers: tuple[str, ...]


@record
class Lies:
    """Where a piece is, and as what: one of these goods. ``spot`` None: it is not here any more. ``off``: what is in somebody's
    hands, or was placed out of them, was taken from there."""

    spot: Spot | None
    goods: Goods
    off: Spot | None = None


def one_of(goods: Goods) -> Goods:
    """The kind of goods, whatever the quantity."""
    return goods if goods.quantity == 1 else evolve(goods, quantity=1)


def numbers_of(lines: Iterable[PlateLine]) -> tuple[Serials, ...]:
    """The numbers on lines, by item."""
    found: dict[ItemCode, tuple[str, ...]] = {}
    for line in lines:
        if line.serials:
            found[line.item] = (*found.get(line.item, ()), *line.serials)
    return tuple(Serials(item, numbers) for item, numbers in found.items())


class SerialNumbers:
    """All pieces of items that are kept by serial numbers."""

    def __init__(self, journal: Journal, ground: Ground) -> None:
        self.ground = ground
        self.kept = ground.numbered
        """Items of which each piece is known."""
        self.moved: Keeper[SerialKey, Lies] = Keeper(journal, self._moved)
        """Pieces that came since the opening, or are not as they were then."""
        self._at: dict[tuple[Spot, Goods], dict[str, None]] = {}
        """What lies where something changed; what the opening says of it is put in when it first does, and never taken back."""
        self._bearing: dict[str, dict[ItemCode, None]] = {}

    def where(self, item: ItemCode, serial: str) -> Lies | None:
        """Where a piece is, or that it is gone; None: nobody knows it."""
        return self.moved.get(SerialKey(item, serial)) or self.at_opening(item, serial)

    def at_opening(self, item: ItemCode, serial: str) -> Lies | None:
        """Where a piece was at the opening; None: nobody knew it then."""
        row = self.ground.serials.find(item, serial) if len(self.ground.serials) else None
        return None if row is None else self._opening(row)

    def _opening(self, row: int) -> Lies:
        held = self.ground.serials[row]
        spot = on_plate(held.plate) if held.plate else in_bin(held.bin)
        return Lies(spot, Goods(held.item, 1, held.lot, None, held.status, held.arrived))

    def here(self, item: ItemCode, serial: str) -> bool:
        """Is a piece in some place?"""
        known = self.where(item, serial)
        return known is not None and known.spot is not None

    def items_with(self, serial: str) -> list[ItemCode]:
        """Items of which a piece with this number is here, or was."""
        opening = self.ground.serials.items_with(serial) if len(self.ground.serials) else ()
        return sorted({*map(ItemCode, opening), *self._bearing.get(serial, ())})

    def at(self, spot: Spot, goods: Goods) -> tuple[str, ...]:
        """The numbers of a kind of goods in a place, in order."""
        kind = one_of(goods)
        known = self._at.get((spot, kind))
        return tuple(sorted(self._opening_at(spot, kind) if known is None else known))

    def of(self, spot: Spot, goods: Iterable[Goods]) -> tuple[str, ...]:
        """The numbers of some goods in a place."""
        return tuple(n for g in goods if g.item in self.kept for n in self.at(spot, g))

    def _opening_at(self, spot: Spot, kind: Goods) -> list[str]:
        table, ground = self.ground.serials, self.ground
        rows: Sequence[int]
        if not len(table):
            return []
        if spot.holder is Holder.BIN:
            rows = table.rows_at(spot.code)
        else:
            stood = ground.plates.get(PlateNo(spot.code)) if spot.holder is Holder.PLATE else None
            rows = table.rows_at(stood.bin, spot.code) if stood else ()
        return [table.serial[n] for n in rows if self._opening(n).goods == kind]

    def _moved(self, key: SerialKey, before: Lies | None, after: Lies | None) -> None:
        if before is None or after is None:
            row = self.ground.serials.find(*key) if len(self.ground.serials) else None
            known = None if row is None else self._opening(row)
            before, after = before or known, after or known
            bearing = self._bearing.setdefault(key.serial, {})
            if key in self.moved:
                bearing[key.item] = None
            else:
                bearing.pop(key.item, None)
        for lies in (before, after):  # before any is changed: what the opening says is put in as it was
            if lies is not None and lies.spot is not None:
                self._awake(lies.spot, lies.goods)
        if before is not None and before.spot is not None:
            self._awake(before.spot, before.goods).pop(key.serial, None)
        if after is not None and after.spot is not None:
            self._awake(after.spot, after.goods)[key.serial] = None

    def _awake(self, spot: Spot, kind: Goods) -> dict[str, None]:
        found = self._at.get((spot, kind))
        if found is None:
            # those of the opening that moved already are not there, but for the one that is moving now
            found = self._at[spot, kind] = dict.fromkeys(self._opening_at(spot, kind))
        return found

    # How they come, go on, and leave

    def enter(self, spot: Spot, goods: Goods, numbers: Iterable[str]) -> None:
        """Pieces came to be there."""
        lies = Lies(spot, one_of(goods))
        for number in numbers:
            self.moved.put(SerialKey(goods.item, number), lies)

    def shift(self, from_: Spot, to: Spot | None, goods: Iterable[Goods], named: tuple[Serials, ...] = ()) -> None:
        """Pieces are elsewhere now, or gone. Those that are ``named``, or all of their kind; ValueError when it is neither."""
        for each in goods:
            if each.item in self.kept:
                taken = to is not None and to.holder is Holder.TASK
                for number in self.meant(from_, each, named):
                    key = SerialKey(each.item, number)
                    off = from_ if taken else self.moved[key].off if from_.holder is Holder.TASK else None
                    self.moved.put(key, Lies(to, one_of(each), off))

    def turn(self, spot: Spot, before: Goods, after: Goods, named: tuple[Serials, ...] = ()) -> None:
        """Pieces have another status, lot or day now."""
        if before.item in self.kept:
            for number in self.meant(spot, before, named):
                self.moved.put(SerialKey(before.item, number), Lies(spot, one_of(after)))

    def meant(self, spot: Spot, goods: Goods, named: tuple[Serials, ...] = ()) -> tuple[str, ...]:
        """Which pieces of a place are so many of these goods: those that are named, or all of them; ValueError when it is neither."""
        there = self.at(spot, goods)
        said = {n for each in named if each.item == goods.item for n in each.numbers}
        found = tuple(n for n in there if n in said) if said else there
        if len(found) != goods.quantity:
            raise ValueError(f"{goods.quantity} of {goods.item} at {spot.code}, and {len(found)} numbers")
        return found

    def take_back(self, item: ItemCode, number: str) -> None:
        """A piece that was placed is again where it was taken from."""
        lies = self.moved[SerialKey(item, number)]
        assert lies.off is not None
        self.moved.put(SerialKey(item, number), Lies(lies.off, lies.goods))

    def put_back(self, task: Spot, goods: Iterable[Goods], to: Spot) -> None:
        """What was taken from there is back."""
        for each in goods:
            if each.item in self.kept:
                for number in self.at(task, each):
                    lies = self.moved[SerialKey(each.item, number)]
                    if lies.off == to:
                        self.moved.put(SerialKey(each.item, number), Lies(to, one_of(each)))
