"""Reservations: stock kept for somebody, in a bin or on a plate wherever it goes."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods, sort_key
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PlateNo, ReservationNo
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.placing.fit import Lying
from mindful_crate.core.record import record


@record
class Reserved:
    """A quantity reserved of goods in a bin, or on a plate wherever it goes."""

    bin: BinCode
    goods: Goods
    plate: PlateNo | None = None


@record
class Reservation:
    """Stock kept for somebody. Later reservations are let go first when stock is taken away."""

    number: ReservationNo
    holder: str
    item: ItemCode
    parts: tuple[Reserved, ...]


def _place(code: BinCode, plate: PlateNo | None, goods: Goods) -> tuple[str, ...]:
    """Reservations are kept by plate, so that they move with it, else by bin; and by kind of goods."""
    return (f"plate {plate}" if plate else f"bin {code}", *sort_key(goods))


class Reservations(Keeper[ReservationNo, Reservation]):
    """Reservations that hold something, and who has reserved what of which goods."""

    def __init__(self, journal: Journal) -> None:
        super().__init__(journal)
        self._at: dict[tuple[str, ...], dict[ReservationNo, int]] = {}
        self._of_item: dict[ItemCode, int] = {}

    def changed(self, key: ReservationNo, before: Reservation | None, after: Reservation | None) -> None:
        """How much of which goods is kept by it."""
        for reservation, sign in ((before, -1), (after, 1)):
            if reservation is None:
                continue
            self._of_item[reservation.item] = self._of_item.get(reservation.item, 0) + sign
            for part in reservation.parts:
                place = _place(part.bin, part.plate, part.goods)
                holders = self._at.setdefault(place, {})
                quantity = holders.get(key, 0) + sign * part.goods.quantity
                if quantity:
                    holders[key] = quantity
                else:
                    holders.pop(key, None)
                    if not holders:
                        del self._at[place]

    def has_reservations(self, item: ItemCode) -> bool:
        """Is anything of an item reserved?"""
        return self._of_item.get(item, 0) > 0

    def reserved(self, line: Lying, but: ReservationNo | None = None) -> int:
        """How much of such a line is reserved, the reservation ``but`` left out."""
        holders = self._at.get(_place(line.bin, line.plate, line.goods))
        return sum(q for n, q in holders.items() if n != but) if holders else 0

    def reservations_of(self, line: Lying) -> list[tuple[ReservationNo, int]]:
        """Who has reserved how much of such a line, the latest first."""
        return sorted(self._at.get(_place(line.bin, line.plate, line.goods), {}).items(), reverse=True)
