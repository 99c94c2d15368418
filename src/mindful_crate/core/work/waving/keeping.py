"""Stock that is kept in bins for orders, by the rules that take; and given up again."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Order, OrderLine, Status
from mindful_crate.core.catalog.ids import BinCode, PlateNo, ReservationNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.plates import Holder
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.standing import at_station, stands_in
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.free import Carried
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.releasing.cover import wanting
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.covering.decide import promised
from mindful_crate.core.work.covering.events import CoverChanged
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.moving.checks import ask_where_from
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.stock.events import ReservationCut, StockReserved


def on_hand(state: State, order: Order, lines: tuple[int, ...] = ()) -> list[tuple[OrderLine, int]]:
    """The lines of an order of which some is promised on hand that is kept in no bin for it yet, and how much; of those of ``lines``, or of
    all."""
    mine = [x for x in order.lines if not lines or x.no in lines]
    found = ((x, state.covers.of_line(LineKey(order.number, x.no))) for x in mine)
    return [(x, c.on_hand) for x, c in found if c and c.on_hand]


def allocate(
    state: State,
    making: Making,
    rulebook: Rulebook,
    stamp: Stamp,
    order: Order,
    lines: tuple[int, ...] | None = None,
    carried: Carried | None = None,
) -> Iterator[str]:
    """Keep stock in bins for what an order has on hand, by the rules that take; what the rules cannot give stays promised, and is said. What is
    left over from whole plates or cases is asked for again as what it then is. ``lines``: of these alone; None: of those that were released. ``carried``: what is free after
    the orders before it, of a wave."""
    release = state.releases.get(order.number)
    if lines is None:
        lines = release.lines if release else ()
    for line, quantity in on_hand(state, order, lines):
        left, item = quantity, state.ground.items[line.item]
        if line.serials and (parts := _of_pieces(state, line, left, carried)):
            left -= sum(p.goods.quantity for p in parts)
            number = ReservationNo(making.draw("reservation"))
            making.event(StockReserved(number, order.number, line.item, parts, order.number, line.no))
        any_piece = max(0, left - _unkept(state, order, line))
        gone = left - any_piece
        if gone:
            yield f"{item.told(gone)} of {item.name} with the numbers that were ordered may be taken nowhere here."
        left = any_piece
        while left:
            request = BinRequest(
                state.settings.site, BinPurpose.PICK_FROM, (Goods(line.item, left, line.lot),), order_kind=order.kind,
                partners=(order.partner,), today=stamp.today,
            )  # fmt: skip
            trail = ask_where_from(state, rulebook, request, carried)
            parts = tuple(Reserved(a.bin, a.goods, a.plate, a.rule) for a in trail.allocations if a.goods)
            if not parts:
                break
            number = ReservationNo(making.draw("reservation"))
            making.event(StockReserved(number, order.number, line.item, parts, order.number, line.no))
            left = trail.rest
        if left:
            yield f"The rules find {item.told(left)} of {item.name} in no bin it may be taken from."


def _of_pieces(state: State, line: OrderLine, most: int, carried: Carried | None) -> tuple[Reserved, ...]:
    """The pieces whose numbers are fixed on a line are kept where they lie, whatever the rules say; as far as they may be taken."""
    wanted: dict[tuple[BinCode, PlateNo | None, Goods], int] = {}
    for serial in line.serials[:most]:
        lies = state.serials.where(line.item, serial)
        spot = lies.spot if lies else None
        if lies is None or spot is None or lies.goods.status is not Status.AVAILABLE:
            continue
        plate = PlateNo(spot.code) if spot.holder is Holder.PLATE else None
        code = state.bin_of(plate) if plate else BinCode(spot.code) if spot.holder is Holder.BIN else None
        if code is not None and state.ground.site_of(code) == state.settings.site and state.blocked(code) is None:
            at = (code, plate, evolve(lies.goods, quantity=0))
            wanted[at] = wanted.get(at, 0) + 1
    parts = []
    for lying in state.lines(line.item):
        count = wanted.get((lying.bin, lying.plate, evolve(lying.goods, quantity=0)), 0)
        if part := min(count, lying.goods.quantity - state.reserved(lying)):
            parts.append(Reserved(lying.bin, evolve(lying.goods, quantity=part), lying.plate))
            if carried is not None:
                carried.less(state.ground.items[line.item], lying, part)
    return tuple(parts)


def _unkept(state: State, order: Order, line: OrderLine) -> int:
    """How many pieces with fixed numbers a line still wants: for those no other will do."""
    return max(0, len(line.serials) - state.reservations.of_line(LineKey(order.number, line.no)))


def check_not_there(state: State, order: Order) -> None:
    """Refuse to give up what stands at a station for an order already."""
    for numbers in state.reservations.of_order(order.number).values():
        for part in (p for n in numbers for p in state.reservations[n].parts):
            if at_station(state, part):
                where = stands_in(state, part)
                raise Refusal(
                    "begun", f"Goods of `{order.number}` stand in `{where}` already: have them put back first."
                )


def given_up(state: State, making: Making, order: Order) -> int:
    """Give up what is kept in bins for an order; it is promised again as it was before. How many reservations that were."""
    check_not_there(state, order)
    ended, back = 0, []
    for no, numbers in state.reservations.of_order(order.number).items():
        key = LineKey(order.number, no)
        kept = state.reservations.of_line(key)
        for number in numbers:
            making.event(ReservationCut(number))
        ended += len(numbers)
        cover = state.covers.of_line(key)
        if cover is not None and wanting(state, order, no) is not None:
            back.append(promised(state, evolve(cover, on_hand=cover.on_hand + kept)))
    if back:
        making.event(CoverChanged(tuple(back)))
    return ended
