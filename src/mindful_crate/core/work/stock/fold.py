"""How its events change a state: care of stock: reservations and blocks."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import ReservationNo
from mindful_crate.core.floor.reservations import Reservation, Reserved
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve
from mindful_crate.core.trail import Trail
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At
from mindful_crate.core.work.stock.events import BinBlocked, ReservationCut, StockReserved


def _stock_reserved(state: State, e: StockReserved, _: At) -> None:
    made = Reservation(e.reservation, e.holder, e.item, e.parts, e.order, e.line, e.missed_by, e.task)
    state.reservations.put(e.reservation, made)
    cover = state.covers.of_line(made.serves) if made.serves else None
    if cover is not None:  # it is no longer promised alone: it lies in a bin for that line
        state.covers.put(cover.key, evolve(cover, on_hand=max(0, cover.on_hand - made.quantity)))


def _reservation_cut(state: State, e: ReservationCut, _: At) -> None:
    left = evolve(state.reservations[e.reservation], parts=e.parts) if e.parts else None
    state.reservations.put(e.reservation, left)


def _bin_blocked(state: State, e: BinBlocked, _: At) -> None:
    state.blocks.put(e.bin, e.reason)


def suppose_kept(state: State, trail: Trail, name: str) -> None:
    """Let what a trail found be free for nobody else: only under an open journal."""
    parts = tuple(Reserved(a.bin, a.goods, a.plate, a.rule) for a in trail.allocations if a.goods)
    if parts:
        number = ReservationNo(name)
        state.reservations.put(number, Reservation(number, name, parts[0].goods.item, parts))


FOLDS = (
    folding(StockReserved, _stock_reserved),
    folding(ReservationCut, _reservation_cut),
    folding(BinBlocked, _bin_blocked),
)
"""How its events change a state."""
