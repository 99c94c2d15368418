"""For whom goods that come need not be stored: released orders that want them, of which nothing is kept yet; and why not, condition by
condition. Nothing is made here."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import LotOrder, Order, OrderKind, Status
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.covers import fit
from mindful_crate.core.floor.free import free_of
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.placing.rules import Facts, unmet
from mindful_crate.core.record import record
from mindful_crate.core.releasing.cover import wanting
from mindful_crate.core.releasing.planning import as_they_go
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.docks import DockRule
from mindful_crate.core.rulebook.words.parts import ORDERS
from mindful_crate.core.trail import DockLook


@record
class Crossed:
    """So much of what comes goes to an order line instead of being stored, in base units, by a rule; None: it was tied to it before."""

    line: LineKey
    quantity: int
    rule: DockRule | None


def crossed(
    state: State, book: Rulebook, goods: Goods, request: BinRequest, today: date
) -> tuple[list[Crossed], tuple[DockLook, ...]]:
    """Who gets what of goods that are about to be put away, the first to be served first, with a look at each rule and line that was asked."""
    rules = book.docks_at(state.settings.site)
    lines = list(_waiting(state, goods)) if rules else []
    if not lines:
        return [], ()
    looks, found, left = list[DockLook](), list[Crossed](), goods.quantity
    barred = _barred(state, goods)
    holds = [(r, barred or _unmet(state, r, request)) for r in rules]
    for order, no, wants in lines:
        key = LineKey(order.number, no)
        for rule, why in holds:
            why = why or _why_not(state, rule, order, no, wants, goods, left, today)
            told = state.ground.items[goods.item].told(wants)
            looks.append(DockLook(rule.id, str(key), not why, why or f"{told} go there instead of being stored"))
            if not why:
                found.append(Crossed(key, wants, rule))
                left -= wants
                break
    return found, tuple(looks)


def _waiting(state: State, goods: Goods) -> Iterator[tuple[Order, int, int]]:
    """Released order lines that want these goods and of which nothing is kept, with how much they want, the first to be served first."""
    mine: dict[str, list[tuple[int, int]]] = {}
    orders: list[Order] = []
    for cover in state.covers.of_item(goods.item):
        release, order = state.releases.get(cover.order), state.order(cover.order)
        line = wanting(state, order, cover.line)
        if release is None or order is None or line is None or (release.lines and cover.line not in release.lines):
            continue
        if not state.reservations.of_line(cover.key):
            if order.number not in mine:
                orders.append(order)
            mine.setdefault(order.number, []).append((cover.line, line.quantity))
    for order in as_they_go(orders):
        yield from ((order, no, wants) for no, wants in mine[order.number])


def _barred(state: State, goods: Goods) -> str:
    """Why goods may not be cross-docked at all."""
    item = state.ground.items[goods.item]
    if not item.cross_docks:
        return f"{item.name} is not fit for cross-docking, says the catalogue"
    if goods.status is not Status.AVAILABLE:
        return f"it is {goods.status.value}, so nobody may have it"
    return ""


def _unmet(state: State, rule: DockRule, request: BinRequest) -> str:
    return unmet(rule, Facts(request, state.ground)) or ""


def _why_not(
    state: State, rule: DockRule, order: Order, no: int, wants: int, goods: Goods, left: int, today: date
) -> str:  # fmt: skip
    item = state.ground.items[goods.item]
    line = state.ordered.line(order, no)
    assert line is not None
    if rule.goes and order.kind not in rule.goes:
        return f"it is for other orders than {_kind(order.kind)}"
    if left < wants:
        return f"{item.told(wants)} are wanted, and {item.told(left)} are left of what came: all or nothing"
    want = fit(state.ground, order, line, today)
    if want.lot and want.lot != goods.lot:
        return (
            f"it is lot `{goods.lot}`, and `{want.lot}` was ordered" if goods.lot else f"lot `{want.lot}` was ordered"
        )
    if goods.expiry is not None and goods.expiry < want.until:
        return f"it keeps until {goods.expiry.isoformat()}, and the partner wants {want.until.isoformat()} at least"
    if line.serials:
        return "pieces were ordered by their numbers"
    first = _expires_first(state, goods)
    if first is not None and goods.expiry is not None and goods.expiry > first[0] + timedelta(days=rule.jumps):
        return f"what lies in `{first[1]}` expires first, {first[0].isoformat()}"
    return ""


def _expires_first(state: State, goods: Goods) -> tuple[date, str] | None:
    """Of goods that leave by expiry: what is free elsewhere and expires first, and where."""
    if state.ground.items[goods.item].lot_order is not LotOrder.FEFO:
        return None
    free = ((x.goods.expiry, x.bin) for x in state.lines(goods.item) if x.goods.expiry and free_of(state, x))
    return min(free, default=None)


def _kind(kind: OrderKind) -> str:
    return ORDERS[kind].lower()
