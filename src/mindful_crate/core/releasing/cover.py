"""How the lines of orders that go out are promised: what is kept, and what those would have that claim nothing yet."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date

from mindful_crate.core.catalog.goods import Order, OrderLine, Status
from mindful_crate.core.catalog.ids import ItemCode, OrderNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.covers import FOR_EVER, SUPPLY, Pool, Supply, Way, as_they_claim, claimed, fit
from mindful_crate.core.floor.free import free_of
from mindful_crate.core.floor.orders import Output
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve, record


@record
class Tied:
    """So much of a line is promised from a line that is on its way, and when that is promised."""

    order: OrderNo
    line: int
    quantity: int
    promised: date


@record
class LineCover:
    """How a line is promised, in base units. What is neither on hand nor on its way is short. What was released for it, and keeps stock in
    a bin, is on hand."""

    line: int
    item: ItemCode
    wanted: int
    on_hand: int
    on_way: tuple[Tied, ...] = ()

    @property
    def coming(self) -> int:
        """How much is on its way."""
        return sum(t.quantity for t in self.on_way)

    @property
    def short(self) -> int:
        """How much nobody has promised."""
        return self.wanted - self.on_hand - self.coming


Lots = dict[tuple[date, str], int]


def free_pool(state: State, item: ItemCode) -> Lots:
    """What of an item is free to be promised, by expiry and lot."""
    found: Lots = {}
    for each in state.lines(item):
        if free := free_of(state, each):
            key = each.goods.expiry or FOR_EVER, each.goods.lot
            found[key] = found.get(key, 0) + free
    return found


def here_pool(state: State, item: ItemCode) -> Lots:
    """What of an item is at the site for whoever it is promised to, whether or not one can get at it now: where it arrives, in a bin that
    is blocked, in somebody's hands. What waits to be inspected may turn out well."""
    found: Lots = {}
    site, usable = state.settings.site, (Status.AVAILABLE, Status.INSPECT)
    lying = [
        (x.goods, x.goods.quantity - state.reservations.kept_for_good(x))
        for x in state.lines(item)
        if state.ground.site_of(x.bin) == site
    ]
    lying += [
        (g, g.quantity - state.reservations.kept_in_hands(task, g, plate.number if plate else None))
        for task, plate, g in state.stock_in_hands()
        if g.item == item
    ]
    for goods, quantity in lying:
        if goods.status in usable and quantity > 0:
            key = goods.expiry or FOR_EVER, goods.lot
            found[key] = found.get(key, 0) + quantity
    return found


def on_the_way(state: State, item: ItemCode) -> list[tuple[date, Way]]:
    """What of an item is ordered and has not arrived, line by line with the day it is promised. A notice adds dates and plates, never a
    quantity."""
    found = []
    for number in state.ordered.with_item(item):
        order = state.order(number)
        if order is None or order.kind not in SUPPLY or order.site != state.settings.site or state.is_cancelled(number):
            continue
        held = state.host_orders.get(number)
        if held is not None and held.output is not Output.RUNNING:
            continue  # no more of it is made
        for line in order.lines:
            if line.item == item:
                done = state.line_progress(number, line.no)
                if (left := line.quantity - done.arrived - done.closed) > 0:
                    found.append((order.promise(line), Way(number, line.no, left)))
    return found


def wanting(state: State, order: Order | None, line: int) -> OrderLine | None:
    """A line of an order that goes out from here as it is on the floor; None when nothing of it is wanted."""
    if order is None or order.inbound or order.site != state.settings.site:
        return None
    if not state.is_confirmed(order.number) or state.is_cancelled(order.number):
        return None
    found = state.ordered.line(order, line)
    if found is None or not len(state.progress):
        return found
    left = state.ordered.left_to_ship(order.number, found)
    return found if left == found.quantity else evolve(found, quantity=left) if left > 0 else None


def going_out(state: State) -> list[Order]:
    """The open orders of the site whose goods go out, as they claim."""
    return as_they_claim(o for o in state.open_orders() if not o.inbound)


class _Left:
    """What nobody is promised, of each item that is asked about."""

    def __init__(self, state: State) -> None:
        self._state = state
        self._of: dict[ItemCode, tuple[Pool, Supply]] = {}

    def of(self, item: ItemCode, today: date) -> tuple[Pool, Supply]:
        """What is free of it, and on its way, beside what is kept."""
        if item not in self._of:
            state, pool = self._state, Pool(free_pool(self._state, item))
            tied: dict[LineKey, int] = {}
            for cover in state.covers.of_item(item):
                order = state.order(cover.order)
                line = wanting(state, order, cover.line)
                if order is not None and line is not None:
                    pool.take(fit(state.ground, order, line, today), cover.on_hand)
                for way in cover.on_way:
                    tied[way.key] = tied.get(way.key, 0) + way.quantity
            ways = ((day, Way(w.order, w.line, w.quantity - tied.get(w.key, 0))) for day, w in on_the_way(state, item))
            self._of[item] = pool, Supply((day, w) for day, w in ways if w.quantity > 0)
        return self._of[item]


def covers(state: State, orders: Iterable[Order], today: date) -> dict[OrderNo, tuple[LineCover, ...]]:
    """How each line of these orders is promised. Orders that are not confirmed claim nothing: what they would have, one after another, of
    what is left."""
    left = _Left(state)
    return {order.number: tuple(_line(state, left, order, x, today) for x in order.lines) for order in orders}


def _line(state: State, left: _Left, order: Order, line: OrderLine, today: date) -> LineCover:
    key, wanted = LineKey(order.number, line.no), max(0, state.ordered.left_to_ship(order.number, line))
    cover = state.covers.of_line(key)
    if cover is None or cover.item != line.item:
        cover = claimed(
            order, evolve(line, quantity=wanted), fit(state.ground, order, line, today), *left.of(line.item, today)
        )
    ways = tuple(Tied(w.order, w.line, w.quantity, _promised(state, w)) for w in cover.on_way)
    return LineCover(line.no, line.item, wanted, cover.on_hand + state.reservations.of_line(key), ways)


def _promised(state: State, way: Way) -> date:
    order = state.order(way.order)
    assert order is not None, way
    line = state.ordered.line(order, way.line)
    return order.promise(line) if line else order.promised
