"""Cover: how the lines of orders that go out are promised, kept line by line. It knows items and sites, never bins.

A line covers itself from what is free: in storage, available, kept for nobody, keeping long enough for the partner, of the lot that is
fixed. The rest is tied to lines that are on their way, the earliest promised first. Who comes first takes first; what a line has is its
own until it is shifted by hand, or lost.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import date, timedelta
from typing import NamedTuple

from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine, Status
from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import PICKED_FROM
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.catalog.stock import STATUSES
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.record import evolve, record

SUPPLY = (OrderKind.PURCHASE, OrderKind.TRANSFER, OrderKind.PRODUCTION)
"""Kinds of orders whose goods may be promised before they are here. What customers send back may come or not."""
FOR_EVER = date.max


@record
class Way:
    """So much is promised from a line that is on its way, in base units."""

    order: OrderNo
    line: int
    quantity: int

    @property
    def key(self) -> LineKey:
        """The line it comes by."""
        return LineKey(self.order, self.line)


@record
class Cover:
    """How a line of an order is promised, in base units: from what is on hand, and from what is on its way."""

    order: OrderNo
    line: int
    item: ItemCode
    on_hand: int = 0
    on_way: tuple[Way, ...] = ()

    @property
    def key(self) -> LineKey:
        """The line that is promised."""
        return LineKey(self.order, self.line)

    @property
    def coming(self) -> int:
        """How much is on its way."""
        return sum(w.quantity for w in self.on_way)


class Fit(NamedTuple):
    """What goods must be like for a line: of a lot, if one is fixed, and good at least until a day."""

    lot: str
    until: date


def fit(ground: Ground, order: Order, line: OrderLine, today: date) -> Fit:
    """What goods must be like for a line of an order."""
    partner = ground.partners.get(order.partner)
    days = partner.shelf_life_days if partner else 0
    return Fit(line.lot, today + timedelta(days=days) if days else date.min)


class Pool:
    """Stock of one item by lots, of which one line after another takes; what expires first goes first."""

    def __init__(self, lots: Mapping[tuple[date, str], int]) -> None:
        self._lots = sorted(lots)
        self._left = dict(lots)

    def take(self, wants: Fit, quantity: int) -> int:
        """Take up to so much of what fits: how much it is."""
        left = quantity
        for each in self._lots:
            if left <= 0:
                break
            expiry, lot = each
            if expiry >= wants.until and wants.lot in ("", lot):
                taken = min(left, self._left[each])
                self._left[each] -= taken
                left -= taken
        return quantity - left


class Supply:
    """What is on its way of one item, line by line, of which one line after another takes; what is promised first goes first."""

    def __init__(self, ways: Iterable[tuple[date, Way]]) -> None:
        self._ways = [w for _, w in sorted(ways, key=lambda w: (w[0], w[1].order, w[1].line))]
        self._left = [w.quantity for w in self._ways]

    def take(self, quantity: int) -> tuple[Way, ...]:
        """Take up to so much."""
        found = []
        for n, way in enumerate(self._ways):
            taken = min(quantity, self._left[n])
            if taken > 0:
                self._left[n] -= taken
                quantity -= taken
                found.append(evolve(way, quantity=taken))
        return tuple(found)


def claimed(order: Order, line: OrderLine, wants: Fit, pool: Pool, supply: Supply) -> Cover:
    """How a line covers itself of what is left; what it takes is taken."""
    on_hand = pool.take(wants, line.quantity)
    return Cover(order.number, line.no, line.item, on_hand, supply.take(line.quantity - on_hand))


def as_they_claim(orders: Iterable[Order]) -> list[Order]:
    """Orders as they claim when they come together: the earliest promised first."""
    return sorted(orders, key=lambda o: (o.promised, o.number))


def at_opening(ground: Ground, site: SiteCode, today: date) -> dict[LineKey, Cover]:
    """How the orders are promised that a site is to send out as the floor begins. Worked out once for all worlds on a ground."""
    known: dict[tuple[SiteCode, date], dict[LineKey, Cover]] = ground.remembered.setdefault("covers", {})
    if (site, today) not in known:
        known[site, today] = _opening(ground, site, today)
    return known[site, today]


def _opening(ground: Ground, site: SiteCode, today: date) -> dict[LineKey, Cover]:
    orders = as_they_claim(o for o in ground.orders.values() if o.confirmed and not o.inbound and o.site == site)
    wanted = {x.item for o in orders for x in o.lines}
    coming: dict[ItemCode, list[tuple[date, Way]]] = {}
    for o in ground.orders.values() if wanted else ():
        if o.kind in SUPPLY and o.site == site:
            for x in o.lines:
                coming.setdefault(x.item, []).append((o.promise(x), Way(o.number, x.no, x.quantity)))
    pools = {item: Pool(_free_at_opening(ground, site, item)) for item in wanted}
    ways = {item: Supply(coming.get(item, ())) for item in wanted}
    found = [claimed(o, x, fit(ground, o, x, today), pools[x.item], ways[x.item]) for o in orders for x in o.lines]
    return {c.key: c for c in found}


def _free_at_opening(ground: Ground, site: SiteCode, item: ItemCode) -> dict[tuple[date, str], int]:
    table, found = ground.stock, dict[tuple[date, str], int]()
    for n in table.rows_of_item(item):
        place = ground.bins[BinCode(table.bins[table.bin[n]])]
        zone = ground.zones[place.zone]
        stored = zone.site == site and zone.purpose in PICKED_FROM and not place.blocked
        if stored and STATUSES[table.status[n]] is Status.AVAILABLE:
            key = date.fromordinal(table.expiry[n]) if table.expiry[n] else FOR_EVER, table.lots[table.lot[n]]
            found[key] = found.get(key, 0) + table.quantity[n]
    return found


class Covers(Keeper[LineKey, Cover]):
    """How lines are promised, where it is not as at the opening; and which lines of an item are promised at all."""

    def __init__(self, journal: Journal, opening: Callable[[], Mapping[LineKey, Cover]]) -> None:
        super().__init__(journal)
        self._opening = opening
        self._begun: dict[ItemCode, dict[LineKey, None]] | None = None
        self._of_item: dict[ItemCode, dict[LineKey, None]] = {}

    def changed(self, key: LineKey, before: Cover | None, after: Cover | None) -> None:
        """Which lines of an item are promised."""
        if before is not None:
            self._of_item[before.item].pop(key, None)
        if after is not None:
            self._of_item.setdefault(after.item, {})[key] = None

    def of_line(self, key: LineKey) -> Cover | None:
        """How a line is promised; None: it never claimed anything."""
        return self.get(key) or self._opening().get(key)

    def of_item(self, item: ItemCode) -> Sequence[Cover]:
        """How the lines of an item are promised that claimed any of it, by order and line."""
        if self._begun is None:
            self._begun = {}
            for key, cover in self._opening().items():
                self._begun.setdefault(cover.item, {})[key] = None
        begun, since = self._begun.get(item, {}), self._of_item.get(item, {})
        found = [self._opening()[key] for key in begun if key not in self]
        found += [self[key] for key in since]
        return sorted(found, key=lambda c: (c.order, c.line))
