"""How its acts are decided: care of stock: reservations and blocks."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import ReservationNo
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.moving import checks as moving
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.stock.acts import BlockBin, LetGo, ReserveStock
from mindful_crate.core.work.stock.events import BinBlocked, ReservationCut, StockReserved


def _reserve_stock(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ReserveStock) -> str:
    item = state.ground.items.get(act.item)
    if item is None:
        raise Refusal("unknown_item", f"There is no item `{act.item}`.")
    if act.quantity <= 0:
        raise Refusal("not_above_zero", "The quantity must be above zero.")
    if not 0 < len(act.holder.strip()) <= 60:
        raise Refusal("no_holder", "Say for whom it is kept, in at most 60 characters.")
    request = BinRequest(state.settings.site, BinPurpose.PICK_FROM, (Goods(act.item, act.quantity),), today=stamp.today)
    trail = moving.ask_where_from(state, rulebook, request)
    if not trail.allocations:
        raise Refusal("nothing_free", f"No stock of `{act.item}` {item.name} is free for {act.holder}.")
    making.trail(trail)
    number = ReservationNo(making.draw("reservation"))
    parts = tuple(Reserved(a.bin, a.goods, a.plate) for a in trail.allocations if a.goods)
    kept = sum(p.goods.quantity for p in parts)
    short = f" {item.told(trail.rest)} are short." if trail.rest else ""
    making.event(StockReserved(number, act.holder, act.item, parts))
    are = "is" if kept == 1 else "are"
    return f"{item.told(kept)} of {item.name} {are} kept for {act.holder} as `{number}`.{short}"


def _let_go(state: State, making: Making, _: Rulebook, __: Stamp, act: LetGo) -> str:
    reservation = state.reservations.get(act.reservation)
    if reservation is None:
        raise Refusal("unknown_reservation", f"There is no reservation `{act.reservation}`; it may have ended.")
    if (task := next((p.task for p in reservation.parts if p.task), None)) is not None:
        says = f"What `{act.reservation}` keeps is in somebody's hands, for task `{task}`: have it put back first."
        raise Refusal("in_hands", says)
    if reservation.task is not None:
        says = f"`{act.reservation}` is kept for refill `{reservation.task}`: cancel that instead."
        raise Refusal("of_a_task", says)
    making.event(ReservationCut(act.reservation))
    return f"Reservation `{act.reservation}` of {reservation.holder} is let go."


def _block_bin(state: State, making: Making, _: Rulebook, __: Stamp, act: BlockBin) -> str:
    if act.bin not in state.ground.bins:
        raise Refusal("unknown_bin", f"There is no bin `{act.bin}`.")
    making.event(BinBlocked(act.bin, act.reason))
    return f"Bin `{act.bin}` is blocked: {act.reason}." if act.reason else f"Bin `{act.bin}` is free to use."


DECIDES = (
    deciding(ReserveStock, _reserve_stock),
    deciding(LetGo, _let_go),
    deciding(BlockBin, _block_bin),
)
"""How its acts are decided."""
