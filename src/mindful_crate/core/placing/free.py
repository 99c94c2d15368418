"""Free stock: what of an item may be taken, remembered by the floor, and carried from one decision of a command to the next."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date

from mindful_crate.core.catalog.goods import Item, LotOrder, Status
from mindful_crate.core.catalog.ids import ItemCode, PlateNo, SiteCode
from mindful_crate.core.catalog.places import Bin
from mindful_crate.core.placing.fit import Floor, Lying
from mindful_crate.core.placing.rules import Key
from mindful_crate.core.rulebook.bin_rules import LookIn, Target

NEVER = date.max
"""Sorts stock without an expiry date last."""


class Free:
    """What may be taken of one line of stock. A missing expiry counts as the last day of the calendar, an unknown
    arrival as the first."""

    __slots__ = ("arrived", "bin", "count", "expiry", "line", "order")

    def __init__(self, line: Lying, each: Bin, count: int) -> None:
        goods = line.goods
        self.line = line
        self.bin = each
        self.count = count
        self.expiry = goods.expiry or NEVER
        self.arrived = goods.arrived or date.min
        self.order = (self.expiry, self.arrived, line.plate or "", goods.lot)
        """The order within a source."""

    def less(self, part: int) -> Free | None:
        """The same line when so much of it is taken; None when nothing is left."""
        if part >= self.count:
            return None
        made = Free.__new__(Free)
        made.line, made.bin, made.count = self.line, self.bin, self.count - part
        made.expiry, made.arrived, made.order = self.expiry, self.arrived, self.order
        return made


class Source:
    """What is taken at one go."""

    __slots__ = ("arrived", "bin", "count", "expiry", "free", "known", "plate")

    def __init__(self, each: Bin, free: list[Free], plate: PlateNo | None = None) -> None:
        self.bin = each
        self.free = free
        self.plate = plate
        """Set when it is one whole plate."""
        self.count = sum([f.count for f in free])
        """How much there is to take."""
        self.expiry = free[0].expiry
        """The earliest: free stock is sorted by it."""
        self.arrived = min([f.arrived for f in free])
        self.known: tuple[Target, Key] | None = None
        """Its sort key for a target, where that does not hang on what is asked for."""


class Takeable:
    """What of an item may be taken by anybody on a day: no other status, nothing reserved, blocked or expired.

    Remembered by the floor until the item's stock or a block changes, with the sources of every place to look in
    that was asked for, since the same rules ask for the same item again and again.
    """

    __slots__ = ("blocks", "free", "inside", "lines", "sources", "until")

    def __init__(self, lines: Sequence[Lying], blocks: int, until: date | None, free: list[Free]) -> None:
        self.lines, self.blocks, self.until = lines, blocks, until
        self.free = free
        self.inside: dict[int, tuple[LookIn, list[Free]]] = {}
        self.sources: dict[tuple[int, bool, tuple[date, date, str] | None], tuple[Target, list[Source]]] = {}

    def less(self, line: Lying, part: int, any_order: bool) -> None:
        """So much of a line is taken: what was found in places that hold it is found anew, or only the bin it lies in when the item leaves in
        any order."""
        each = next((f for f in self.free if f.line is line), None)
        if each is None:
            return
        left = each.less(part)
        replaced(self.free, each, left)
        for look, listed in self.inside.values():
            if replaced(listed, each, left):
                for key in [key for key in self.sources if key[0] == id(look)]:
                    if any_order and not key[1]:
                        target, found = self.sources[key]
                        self.sources[key] = (target, _lessened(found, each, left))
                    else:
                        del self.sources[key]


def replaced(listed: list[Free], each: Free, left: Free | None) -> bool:
    """Put what is left of a line in its place, if it is listed."""
    for at, known in enumerate(listed):
        if known is each:
            if left is None:
                del listed[at]
            else:
                listed[at] = left
            return True
    return False


def _lessened(found: list[Source], each: Free, left: Free | None) -> list[Source]:
    """Sources once there is less of one of their lines."""
    for at, source in enumerate(found):
        if each in source.free:
            free = [x for f in source.free if (x := left if f is each else f) is not None]
            return [*found[:at], *([Source(source.bin, free, source.plate)] if free else []), *found[at + 1 :]]
    return found


class Carried:
    """Free stock carried from one decision of a command to the next, each followed by the reservation of just what it gave: the rows of an
    item are looked at once, however many lines ask for it. Only for decisions between which nothing else changes stock."""

    def __init__(self) -> None:
        self._of: dict[ItemCode, dict[tuple[SiteCode, date | None], Takeable]] = {}

    def of(self, item: ItemCode, site: SiteCode, until: date | None, first: Callable[[], list[Free]]) -> Takeable:
        """What is still free of an item; ``first`` finds it when nothing was asked yet."""
        mine = self._of.setdefault(item, {})
        known = mine.get((site, until))
        if known is None:
            known = mine[site, until] = Takeable((), 0, until, first())
        return known

    def less(self, item: Item, line: Lying, part: int) -> None:
        """So much of a line is taken, however long it keeps."""
        for known in self._of.get(item.code, {}).values():
            known.less(line, part, item.lot_order is LotOrder.ANY)


REMEMBERED_ITEMS = 8_000
"""How many items a floor remembers takeable stock of."""


def takeable(item: ItemCode, site: SiteCode, until: date | None, floor: Floor) -> Takeable:
    """The stock of an item that anybody may take at a site, earliest expiry first."""
    memory: dict[tuple[ItemCode, SiteCode, date | None], Takeable] = floor.memory.setdefault("takeable", {})
    lines = floor.lines(item)
    known = memory.get((item, site, until))
    if known is None or known.lines is not lines or known.blocks != floor.blocks_tick:
        if len(memory) >= REMEMBERED_ITEMS:
            memory.clear()
        bins, zones, blocked = floor.ground.bins, floor.ground.zones, floor.blocked
        free = [
            Free(x, each, goods.quantity)
            for x in lines
            if (goods := x.goods).status is Status.AVAILABLE
            and (until is None or goods.expiry is None or goods.expiry >= until)
            and blocked(x.bin) is None
            and zones[(each := bins[x.bin]).zone].site == site
        ]
        free.sort(key=lambda f: f.order)
        known = memory[item, site, until] = Takeable(lines, floor.blocks_tick, until, free)
    return known
