"""How releases are decided: what the gates say, what leaves together, from which bins it is kept; and how they are taken back."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Order, OrderLine
from mindful_crate.core.catalog.ids import OrderNo, ReservationNo, ShipmentNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.shipments import Leaves
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.releasing.cover import wanting
from mindful_crate.core.releasing.judging import Judged, gate_of, judged_orders
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.gates import GateVerdict
from mindful_crate.core.work.covering.decide import claim, promised
from mindful_crate.core.work.covering.events import CoverChanged
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.moving.checks import ask_where_from
from mindful_crate.core.work.receiving.checks import order_hold
from mindful_crate.core.work.releasing.acts import ChangeGate, PassGate, ReleaseOrders, UndoRelease
from mindful_crate.core.work.releasing.events import GateGiven, OrderReleased, ReleaseUndone, ShipmentMade
from mindful_crate.core.work.releasing.words import HOW, gate_told, stopped
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.stock.events import ReservationCut, StockReserved
from mindful_crate.core.work.tasks.decide import reason

MOST_TOLD = 5
"""Of so many orders each is told by itself."""


def hold_of(state: State, order: Order) -> Refusal | None:
    """Why an order may not be released, whatever its gate says; None: nothing stands in the way."""
    number = order.number
    if order.inbound:
        return Refusal("other_kind", f"`{number}` is a {order.kind.value.replace('_', ' ')} order: its goods come in.")
    if order.site != state.settings.site:
        where = f"for site `{order.site}`" if order.site else "for no site yet"
        return Refusal("other_site", f"`{number}` is {where}, not for this one.")
    if state.is_cancelled(number):
        return Refusal("order_cancelled", f"`{number}` is cancelled.")
    if not state.is_confirmed(number):
        return Refusal("not_confirmed", f"`{number}` is not confirmed: its buyer confirms it in the host.")
    if hold := order_hold(state, number):
        return Refusal("order_held", f"`{number}` cannot be released: {hold}.")
    if number in state.releases and not on_hand(state, order):
        into = state.releases[number].shipment
        return Refusal("released_already", f"`{number}` was released into `{into}`, and nothing more of it is on hand.")
    return None


def on_hand(state: State, order: Order) -> list[tuple[OrderLine, int]]:
    """The lines of an order of which some is promised on hand that is kept in no bin for it yet, and how much."""
    found = ((x, state.covers.of_line(LineKey(order.number, x.no))) for x in order.lines)
    return [(x, c.on_hand) for x, c in found if c and c.on_hand]


def as_they_go(orders: list[Order]) -> list[Order]:
    """Orders as they are given stock: by priority, by the day they leave, by number."""
    return sorted(orders, key=lambda o: (o.priority, o.leaves, o.number))


def _known(state: State, number: OrderNo) -> Order:
    order = state.order(number)
    if order is None:
        raise Refusal("unknown_order", f"There is no order `{number}`.", "order")
    return order


def _release_orders(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ReleaseOrders) -> str:
    if not act.orders:
        raise Refusal("no_orders", "No order was named.")
    orders = as_they_go([_known(state, number) for number in dict.fromkeys(act.orders)])
    for order in orders:
        claim(state, making, order, stamp.today)
    not_: list[Refusal] = []
    done: list[str] = []
    for judged in judged_orders(state, rulebook, orders, stamp.today):
        order = _known(state, judged.order)
        try:
            with making.unless_refused():
                done.append(_released(state, making, rulebook, stamp, order, _allowed(state, order, judged, act), ""))
        except Refusal as refusal:
            not_.append(refusal)
    if not done:
        raise not_[0] if len(not_) == 1 else Refusal("none_may_go", _all_told([r.problem.says for r in not_], "")[0])
    if len(orders) == 1:
        return done[0]
    says = f"{len(done)} of {len(orders)} orders are released." if not_ else f"All {len(done)} orders are released."
    return said(says, *_all_told(done, "released"), *_all_told([r.problem.says for r in not_], "not released"))


def _all_told(says: list[str], what: str) -> list[str]:
    told = says[:MOST_TOLD]
    if len(says) > MOST_TOLD:
        more = len(says) - MOST_TOLD
        told.append(f"And {more} more {('is ' if more == 1 else 'are ') + what if what else 'may not go'}.")
    return [" ".join(told)] if told else []


def _allowed(state: State, order: Order, judged: Judged, act: ReleaseOrders) -> Judged:
    if (hold := hold_of(state, order)) is not None:
        raise hold
    if judged.verdict is GateVerdict.STOP:
        raise Refusal("stopped", stopped(state.ground, judged))
    if judged.verdict is GateVerdict.WARN and not act.warned:
        raise Refusal("warned", f"`{order.number}` would go with a warning: {gate_told(judged)}.")
    if act.whole and any(x.on_hand < x.wanted for x in judged.lines):
        raise Refusal("not_whole", f"Not all of `{order.number}` is on hand: {judged.rate}.")
    return judged


def _released(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, order: Order, judged: Judged, passed: str
) -> str:
    """Release an order: stock is kept for what it has on hand, and it joins a shipment; what is said of it."""
    lines, again = on_hand(state, order), order.number in state.releases
    if not lines:
        raise Refusal("nothing_on_hand", f"Nothing of `{order.number}` is on hand.")
    short = list(_allocated(state, making, rulebook, stamp, order, lines))
    shipment, joined = _shipment(state, making, order)
    making.event(OrderReleased(order.number, shipment, judged.verdict, judged.gate, judged.rate, passed))
    also = f", with {_named([o for o in state.shipments[shipment].orders if o != order.number])}" if joined else ""
    what = f"What else is on hand of `{order.number}`" if again else f"`{order.number}`"
    says = f"{what} was released{HOW[judged.verdict]} into `{shipment}`{also}{f': {passed}' if passed else ''}."
    if judged.verdict is not GateVerdict.PASS:
        says = said(says, f"{gate_told(judged)}.")
    waits = [x for x in judged.lines if x.on_hand < x.wanted]
    if waits:
        stays = [f"line {x.line} lacks {state.ground.items[x.item].told(x.wanted - x.on_hand)}" for x in waits]
        says = said(says, f"What is not on hand stays: {', '.join(stays)}.")
    return said(says, *short)


def _named(orders: list[OrderNo]) -> str:
    return ", ".join(f"`{o}`" for o in orders)


def _allocated(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, order: Order, lines: list[tuple[OrderLine, int]]
) -> Iterator[str]:
    """Keep stock in bins for lines by the rules that take; what the rules cannot give stays promised, and is said. What is left over from
    whole plates or cases is asked for again as what it then is."""
    for line, quantity in lines:
        left = quantity
        while left:
            request = BinRequest(
                state.settings.site, BinPurpose.PICK_FROM, (Goods(line.item, left, line.lot),), order_kind=order.kind,
                partners=(order.partner,), today=stamp.today,
            )  # fmt: skip
            trail = ask_where_from(state, rulebook, request)
            given = [(a, a.goods) for a in trail.allocations if a.goods]
            if not given:
                break
            parts = tuple(Reserved(a.bin, goods, a.plate) for a, goods in given)
            number, rules = ReservationNo(making.draw("reservation")), tuple(a.rule for a, _ in given)
            making.event(StockReserved(number, order.number, line.item, parts, order.number, line.no, rules))
            left = trail.rest
        if left:
            item = state.ground.items[line.item]
            yield f"The rules find {item.told(left)} of {item.name} in no bin it may be taken from."


def leaves(state: State, order: Order) -> Leaves:
    """What an order must agree in with others to leave with them."""
    partner = state.ground.partners.get(order.partner)
    address = order.ship_to or (partner.address if partner else ())
    return Leaves(order.partner, address, order.carrier, order.service, order.leaves)


def _shipment(state: State, making: Making, order: Order) -> tuple[ShipmentNo, bool]:
    """The shipment an order joins, or one that is made for it."""
    before = state.releases.get(order.number)
    if before is not None:
        return before.shipment, False
    how, partner = leaves(state, order), state.ground.partners.get(order.partner)
    joins = partner is None or partner.joins
    known = state.shipments.to_join(how) if joins else None
    if known is not None:
        return known, True
    number = ShipmentNo(making.draw("shipment"))
    making.event(ShipmentMade(number, how, joins))
    return number, False


def _pass_gate(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PassGate) -> str:
    order, why = _known(state, act.order), reason(act.why)
    if (hold := hold_of(state, order)) is not None:
        raise hold
    claim(state, making, order, stamp.today)
    (judged,) = judged_orders(state, rulebook, [order], stamp.today)
    if judged.verdict is not GateVerdict.STOP:
        raise Refusal("not_stopped", f"No gate stops `{order.number}`: release it.")
    return _released(state, making, rulebook, stamp, order, judged, why)


def _undo_release(state: State, making: Making, _: Rulebook, __: Stamp, act: UndoRelease) -> str:
    order, why = _known(state, act.order), reason(act.why)
    if order.number not in state.releases:
        raise Refusal("not_released", f"`{order.number}` is not released.")
    return taken_back(state, making, order, why)


def taken_back(state: State, making: Making, order: Order, why: str) -> str:
    """Take a release back: what was kept is promised again as it was before; what is said of it."""
    shipment = state.releases[order.number].shipment
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
    making.event(ReleaseUndone(order.number, why))
    are = "1 reservation is" if ended == 1 else f"{ended} reservations are"
    gone = "has ended" if shipment not in state.shipments else "goes on without it"
    return f"The release of `{order.number}` is undone: {why}. {are} given up, shipment `{shipment}` {gone}."


def _change_gate(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ChangeGate) -> str:
    order, why = _known(state, act.order), reason(act.why)
    if order.inbound or not state.is_confirmed(order.number) or state.is_cancelled(order.number):
        raise Refusal("not_open", f"`{order.number}` does not wait at a gate of this floor.")
    if order.number in state.releases:
        raise Refusal("released_already", f"`{order.number}` was released. Take that back first.")
    gate = next((g for g in rulebook.gates_at(state.settings.site) if g.name == act.gate), None)
    if gate is None and act.gate:
        raise Refusal("unknown_gate", f"There is no gate called {act.gate} at this site.", "gate")
    making.event(GateGiven(order.number, gate, f"@{stamp.who} gave it", why))
    return f"`{order.number}` {'has the gate ' + gate.name if gate else 'waits at no gate'} from now on: {why}."


def after(state: State, making: Making, rulebook: Rulebook, stamp: Stamp) -> str:
    """An order that reaches the floor gets the gate that is for it now, and keeps it; a release that the host's word undoes is taken
    back."""
    orders, told = state.ordered, list[str]()
    touched: dict[OrderNo, None] = {}
    was: dict[OrderNo, Order | None] = {}
    for keeper, key, before in state.journal.puts():
        if keeper is orders.confirmed or keeper is orders.cancelled or keeper is orders.told:
            touched[key] = None
        if keeper is orders.told:
            was.setdefault(key, before or state.ground.orders.get(key))
    for number in touched:
        order, before = state.order(number), was.get(number)
        if order is None or order.inbound or order.site != state.settings.site:
            continue
        if number in state.releases:
            if state.is_cancelled(number):
                told.append(taken_back(state, making, order, "the host cancelled it"))
            elif before is not None and (before.lines, leaves(state, before)) != (order.lines, leaves(state, order)):
                told.append(taken_back(state, making, order, "the host changed it"))
        if state.is_confirmed(number) and not state.is_cancelled(number) and number not in state.gates_given:
            making.event(GateGiven(number, *gate_of(rulebook, state.ground, state.settings.site, order)))
    return said(*told)


DECIDES = (
    deciding(ReleaseOrders, _release_orders),
    deciding(PassGate, _pass_gate),
    deciding(UndoRelease, _undo_release),
    deciding(ChangeGate, _change_gate),
)
"""How its acts are decided."""
