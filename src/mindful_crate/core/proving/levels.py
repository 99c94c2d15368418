"""How far the stock of an item is: what was noted, what has arrived, what is free. Three numbers that are never one."""

from __future__ import annotations

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.floor.free import free_of, in_storage
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import record


@record
class Levels:
    """Quantities of an item at a site, in base units."""

    item: ItemCode
    name: str
    unit: str
    noted: int
    """On plates and receipts that are being made: no stock yet."""
    not_booked: int
    """It has arrived, and the host has not booked it; it is counted among the others too."""
    on_its_way: int
    """Stock that anybody may use, and that is not in storage: where it arrives, or carried."""
    free: int
    """In storage, for anybody to take."""
    promised: int
    """So much is promised to orders, and lies in no bin for them yet: counted among what is free, too."""
    kept: int
    """In storage, kept for somebody or in a bin that is closed."""
    barred: int
    """Nobody may use it: to be inspected, in quarantine, damaged, expired."""


def levels_of(state: State, item: ItemCode) -> Levels:
    """How far the stock of an item is. KeyError when there is no such item."""
    found, site = state.ground.items[item], state.settings.site
    noted = sum(x.quantity for p in state.building() for x in p.lines if x.item == item)
    not_booked = sum(
        x.quantity for r in state.receipts.values() if not r.booked and not r.undone for x in r.lines if x.item == item
    )
    on_its_way = free = kept = barred = 0
    for line in state.lines(item):
        if state.ground.site_of(line.bin) != site:
            continue
        if line.goods.status is not Status.AVAILABLE:
            barred += line.goods.quantity
        elif not in_storage(state, line):
            on_its_way += line.goods.quantity
        else:
            untaken = free_of(state, line)
            free += untaken
            kept += line.goods.quantity - untaken
    for _, _, goods in state.stock_in_hands():
        if goods.item == item:
            on_its_way += goods.quantity if goods.status is Status.AVAILABLE else 0
            barred += 0 if goods.status is Status.AVAILABLE else goods.quantity
    promised = sum(c.on_hand for c in state.covers.of_item(item))
    return Levels(item, found.name, found.base.plural, noted, not_booked, on_its_way, free, promised, kept, barred)
