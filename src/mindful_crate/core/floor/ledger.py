"""Stock as a ledger: goods are laid, taken, shifted, and turned; they enter and leave for a cause, which is counted.

What is there is what was there at the opening, and what has entered, without what has left, whatever kinds of work there are.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from typing import NamedTuple

from mindful_crate.core.catalog.amounts import Goods, all_less, all_more
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PlateNo
from mindful_crate.core.floor.bins import Bins
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.floor.plates import Holder, Plates, Spot, on_plate
from mindful_crate.core.floor.serials import SerialNumbers, Serials
from mindful_crate.core.plain import Misfit, Plain
from mindful_crate.core.record import Word


class Cause(Word):
    """Why stock came to be, or is no more; nothing else changes how much there is."""

    RECEIPT = "receipt"
    PRODUCTION = "production"
    RETURN = "return"
    COUNT = "count"
    ADJUSTMENT = "adjustment"
    SHIPMENT = "shipment"


class Account(NamedTuple):
    """What came and went of an item for a cause; written ``receipt ROPE-12``."""

    cause: Cause
    item: ItemCode

    def __str__(self) -> str:
        """As it is written, and kept."""
        return f"{self.cause.value} {self.item}"

    def to_plain(self) -> Plain:
        """Its text."""
        return str(self)

    @classmethod
    def from_plain(cls, plain: Plain, place: str) -> Account:
        """The account of a text."""
        cause, _, item = plain.partition(" ") if isinstance(plain, str) else ("", "", "")
        if not item or cause not in {c.value for c in Cause}:
            raise Misfit(place, f"{plain!r} is no account of stock")
        return cls(Cause(cause), ItemCode(item))


class Ledger:
    """Goods in bins and on plates, and the accounts of what came and went. What is in somebody's hands is with the task."""

    def __init__(self, journal: Journal, bins: Bins, plates: Plates, serials: SerialNumbers) -> None:
        self._bins = bins
        self._plates = plates
        self.serials = serials
        self.accounts: Keeper[Account, int] = Keeper(journal)
        """Base units that came for a cause, less those that went."""
        self.movements: Keeper[BinCode, int] = Keeper(journal)
        """How often goods came into a bin or went out of it since it was counted, loose or on their plates."""

    def at(self, spot: Spot) -> tuple[Goods, ...]:
        """What lies loose in a bin, or on a plate itself."""
        if spot.holder is Holder.BIN:
            return self._bins.loose(BinCode(spot.code))
        return self._plates.goods_on(PlateNo(spot.code))

    def _put(self, spot: Spot, goods: tuple[Goods, ...]) -> None:
        if spot.holder is Holder.BIN:
            self._bins.loose_now.put(BinCode(spot.code), goods)
        elif spot.holder is Holder.PLATE:
            self._plates.goods.put(PlateNo(spot.code), goods)
        else:
            raise ValueError(f"no goods lie with a {spot.holder.value}")

    def lay(self, spot: Spot, goods: tuple[Goods, ...]) -> None:
        """Goods lie there now, whoever had them; what is alike is one. Of serial numbers it says nothing."""
        if goods:
            self._put(spot, all_more(self.at(spot), goods))

    def take(self, spot: Spot, goods: tuple[Goods, ...]) -> None:
        """Goods do not lie there any more; ValueError when there are not so many. Of serial numbers it says nothing."""
        if goods:
            self._put(spot, all_less(self.at(spot), goods))

    def move(self, goods: tuple[Goods, ...], from_: Spot, to: Spot, named: tuple[Serials, ...] = ()) -> None:
        """Goods are elsewhere now: in a bin, on a plate, or in somebody's hands, where the task keeps them; what is alike is one.
        Of goods that are kept by serial numbers those that are ``named``, or all. ValueError when there are not so many."""
        if from_.holder is not Holder.TASK:
            self.take(from_, goods)
            self.stirred(from_)
        if to.holder is not Holder.TASK:
            self.lay(to, goods)
            self.stirred(to)
        if self.serials.kept:
            self.serials.shift(from_, to, goods, named)

    def stirred(self, spot: Spot) -> None:
        """Goods come to a place or go from it: one more movement of its bin."""
        code = BinCode(spot.code) if spot.holder is Holder.BIN else None
        if spot.holder is Holder.PLATE:
            code = self._plates.bin_of(PlateNo(spot.code))
        if code is not None:
            self.movements.put(code, (self.movements.get(code) or 0) + 1)

    def carry(self, plate: PlateNo, to: Spot) -> None:
        """A plate is elsewhere now, with all that is on it."""
        self.stirred(on_plate(plate))
        self._plates.spots.put(plate, to)
        self.stirred(on_plate(plate))

    def put_back(self, goods: tuple[Goods, ...], hands: Spot, to: Spot) -> None:
        """What was taken from there is there again."""
        self.lay(to, goods)
        if self.serials.kept:
            self.serials.put_back(hands, goods, to)

    def take_back(
        self, placed: Iterable[tuple[Spot, Goods, tuple[str, ...]]], taken: Iterable[tuple[Spot, tuple[Goods, ...]]]
    ) -> None:
        """What was placed, with the pieces it was, lies again where it was taken from."""
        for spot, goods, numbers in placed:
            self.take(spot, (goods,))
            for number in numbers:
                self.serials.take_back(goods.item, number)
        for spot, all_of_them in taken:
            self.lay(spot, all_of_them)

    def turn(self, spot: Spot, before: Goods, after: Goods, named: tuple[Serials, ...] = ()) -> None:
        """Goods have another lot, status or dates now; as many of the same item."""
        if (before.item, before.quantity) != (after.item, after.quantity):
            raise ValueError(f"{before} does not turn into {after}")
        self.take(spot, (before,))
        self.lay(spot, (after,))
        if self.serials.kept:
            self.serials.turn(spot, before, after, named)

    def enter(self, cause: Cause, spot: Spot, goods: tuple[Goods, ...]) -> None:
        """Goods came to be; their serial numbers are entered by whoever knows them."""
        self.lay(spot, goods)
        self.stirred(spot)
        self._count(cause, goods, 1)

    def leave(self, cause: Cause, spot: Spot, goods: tuple[Goods, ...], named: tuple[Serials, ...] = ()) -> None:
        """Goods are no more."""
        self.take(spot, goods)
        self.stirred(spot)
        self._count(cause, goods, -1)
        if self.serials.kept:
            self.serials.shift(spot, None, goods, named)

    def _count(self, cause: Cause, goods: tuple[Goods, ...], sign: int) -> None:
        for each in goods:
            account = tuple.__new__(Account, (cause, each.item))
            self.accounts.put(account, (self.accounts.get(account) or 0) + sign * each.quantity)

    def entered(self) -> Counter[ItemCode]:
        """How much of every item came, less what went, for whatever cause."""
        found: Counter[ItemCode] = Counter()
        for account, quantity in self.accounts.items():
            found[account.item] += quantity
        return found
