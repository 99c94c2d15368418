"""Goods: so much of an item, lot and status. The one word for amounts in stock, on plates, in hands and in questions."""

from __future__ import annotations

from datetime import date
from operator import attrgetter

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.record import evolve, record


@record
class Goods:
    """A quantity of one item, lot and status."""

    item: ItemCode
    quantity: int
    lot: str = ""
    expiry: date | None = None
    status: Status = Status.AVAILABLE
    arrived: date | None = None

    def alike(self, other: Goods) -> bool:
        """The same but for the quantity?"""
        return self.item == other.item and (self.lot, self.expiry, self.status, self.arrived) == (
            other.lot, other.expiry, other.status, other.arrived,
        )  # fmt: skip


def with_less(goods: tuple[Goods, ...], less: Goods) -> tuple[Goods, ...]:
    """Goods without some; ValueError when there are not so many."""
    for n, each in enumerate(goods):
        if each.alike(less) and each.quantity >= less.quantity:
            left = each.quantity - less.quantity
            kept = (evolve(each, quantity=left),) if left else ()
            return (*goods[:n], *kept, *goods[n + 1 :])
    raise ValueError(f"{less} is not there")


def all_more(goods: tuple[Goods, ...], come: tuple[Goods, ...]) -> tuple[Goods, ...]:
    """Goods with all of some others; what is alike is one."""
    if not goods and len({g.item for g in come}) == len(come):
        return come if len(come) == 1 else tuple(sorted(come, key=_item))
    found, new = list(goods), False
    for more in come:
        for n, each in enumerate(found):
            if each.alike(more):
                found[n] = evolve(each, quantity=each.quantity + more.quantity)
                break
        else:
            found.append(more)
            new = True
    if new and len(found) > 1:
        found.sort(key=sort_key)
    return tuple(found)


def all_less(goods: tuple[Goods, ...], gone: tuple[Goods, ...]) -> tuple[Goods, ...]:
    """Goods without all of some; ValueError when there are not so many."""
    for each in gone:
        goods = with_less(goods, each)
    return goods


def portion(goods: tuple[Goods, ...], quantity: int) -> tuple[Goods, ...]:
    """So much of some goods, from the first on."""
    taken: tuple[Goods, ...] = ()
    for each in goods:
        part = min(quantity, each.quantity)
        if part > 0:
            taken = (*taken, Goods(each.item, part, each.lot, each.expiry, each.status, each.arrived))
            quantity -= part
    return taken


_item = attrgetter("item")


def sort_key(goods: Goods) -> tuple[str, str, str, str, str]:
    """The order goods are listed in."""
    expiry, arrived = goods.expiry, goods.arrived
    return (
        goods.item, goods.lot, "" if expiry is None else _SPELLED.get(expiry) or _spelled(expiry),
        goods.status, "" if arrived is None else _SPELLED.get(arrived) or _spelled(arrived),
    )  # fmt: skip


def _spelled(day: date) -> str:
    """A day as it is sorted by. The same few thousand are spelled for every line of stock."""
    if len(_SPELLED) >= DAYS_AT_HAND:
        _SPELLED.clear()
    found = _SPELLED[day] = str(day)
    return found


DAYS_AT_HAND = 20_000
_SPELLED: dict[date, str] = {}
