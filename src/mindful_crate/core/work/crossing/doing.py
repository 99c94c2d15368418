"""What deciders make of goods that go to orders instead of being stored: kept for them at once, and brought to a lane or a station."""

from __future__ import annotations

from collections.abc import Sequence

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Order, Status
from mindful_crate.core.catalog.ids import DockRuleId, ItemCode, ReservationNo
from mindful_crate.core.catalog.refs import DocKind, LineKey, Ref
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Serves
from mindful_crate.core.record import evolve
from mindful_crate.core.releasing.cover import wanting
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Place
from mindful_crate.core.rulebook.waves import Method
from mindful_crate.core.trail import DockLook
from mindful_crate.core.work.crossing.events import LineTied
from mindful_crate.core.work.crossing.looking import Crossed, crossed
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.picking.arranging import brought
from mindful_crate.core.work.putting.arranging import Piece, request_of
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.stock.events import StockReserved


def across(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, pieces: Sequence[Piece]
) -> tuple[list[Piece], list[str]]:
    """What is to be put away, with what goes to orders instead as pieces of their own: kept for them from now on. And what is said of it."""
    found, told = list[Piece](), list[str]()
    for piece in pieces:
        first = piece.recipe is None and piece.cause is None and not piece.serves
        there = state.all_goods(piece.plate) if piece.plate else piece.goods  # as it is stock
        if not first or len(there) != 1:
            found.append(piece)
            continue
        (goods,) = there
        tied, looks = _tied(state, making, piece, goods)
        left = goods.quantity - sum(c.quantity for c in tied)
        got: list[Crossed] = []
        if left and rulebook.docks_at(state.settings.site):
            rest = evolve(goods, quantity=left)
            got, more = crossed(state, rulebook, rest, request_of(state, piece, stamp.today), stamp.today)
            looks = (*looks, *more)
        piece, left = evolve(piece, docks=looks), goods.quantity
        for each in (*tied, *got):
            to = _goes(state, rulebook, piece, each)
            if to is None:
                continue
            left -= each.quantity
            found.append(_kept(state, making, piece, evolve(goods, quantity=each.quantity), each, to))
            item = state.ground.items[goods.item]
            told.append(f"{item.told(each.quantity)} go to `{each.line}` instead of being stored.")
        if left == goods.quantity:
            found.append(piece)
        elif left:
            found.append(evolve(piece, goods=(evolve(goods, quantity=left),)))
    return found, told


def less(ties: tuple[Serves, ...], line: LineKey, quantity: int) -> tuple[Serves, ...]:
    """Ties when so much of one has come."""
    left = ((t, t.quantity - (quantity if t.line == line else 0)) for t in ties)
    return tuple(evolve(t, quantity=n) for t, n in left if n > 0)


Goes = tuple[BinPurpose | None, Place]
PLANNED = DockRuleId("planned")
"""What stands in a trail for a tie that somebody made before the goods came."""


def _goes(state: State, rulebook: Rulebook, piece: Piece, each: Crossed) -> Goes | None:
    """By which rules it finds its place, or which it is; None: its plan brings it nowhere."""
    if each.rule is not None and not each.rule.through:
        return None, each.rule.to
    order = state.order(each.line.order)
    assert order is not None
    return station_of(state, rulebook, order, piece.goods[0].item)


def station_of(state: State, rulebook: Rulebook, order: Order, item: ItemCode) -> Goes | None:
    """Where an item of an order is brought once it is picked: by which rules, or which place; None: nowhere."""
    purpose, at = brought(rulebook.ship_plan_for(rulebook.asked(state.ground, order, item)), Method.ORDER)
    return (purpose, at) if purpose is not None else None


def _tied(
    state: State, making: Making, piece: Piece, goods: Goods
) -> tuple[list[Crossed], tuple[DockLook, ...]]:  # fmt: skip
    """What of goods was tied to orders before it came, as far as those are released and still want it; the rest falls back to the ordinary way."""
    found, looks, left = list[Crossed](), list[DockLook](), goods.quantity
    told = state.ground.items[goods.item].told
    for inbound in dict.fromkeys(LineKey(x.order, x.order_line) for x in piece.lines if x.item == goods.item):
        ties = state.ties.get(inbound, ())
        for tie in ties:
            line = wanting(state, state.order(tie.line.order), tie.line.line)
            still = line.quantity - state.reservations.of_line(tie.line) if line else 0
            much = min(tie.quantity, left, still)
            why = ""
            if tie.line.order not in state.releases:
                why = f"`{tie.line.order}`, to which {told(tie.quantity)} were tied, is not released"
            elif goods.status is not Status.AVAILABLE:
                why = f"it is {goods.status.value}, so nobody may have it"
            elif much <= 0:
                why = "nothing more of it is wanted there"
            looks.append(
                DockLook(PLANNED, str(tie.line), not why, why or f"{told(much)} were tied to it before they came")
            )
            if not why:
                found.append(Crossed(tie.line, much, None))
                left -= much
                making.event(LineTied(inbound, less(state.ties.get(inbound, ()), tie.line, much)))
    return found, tuple(looks)


def _kept(state: State, making: Making, piece: Piece, goods: Goods, each: Crossed, to: Goes) -> Piece:
    """What an order gets is kept for it where it lies, and goes as a piece of its own; a plate of which it is all, as it is."""
    number = ReservationNo(making.draw("reservation"))
    part = Reserved(piece.bin, goods, piece.plate)
    making.event(StockReserved(number, each.line.order, goods.item, (part,), each.line.order, each.line.line))
    whole = piece.plate is not None and state.holds_just(piece.plate, goods.item, goods.quantity)
    plate = state.plate(piece.plate) if piece.plate else None
    receipts = piece.receipts or ((plate.receipt,) if plate and plate.receipt else ())
    return evolve(
        piece, goods=(goods,), plate=piece.plate if whole else None, off=None if whole else piece.plate, at=to[1], purpose=to[0],
        receipts=piece.receipts if whole else receipts, serves=(Serves(each.line, each.quantity),),
        refs=(Ref(DocKind.ORDER, each.line.order),),
    )  # fmt: skip
