"""What the floor makes of an order or a notice that reaches it."""

from __future__ import annotations

from collections import Counter

from mindful_crate.core.catalog.goods import Order, OrderLine
from mindful_crate.core.catalog.notices import Notice, NoticeLine, NoticePlate
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.topics import OrderTopic
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.scanning.reading import is_plate_label
from mindful_crate.core.work.host.events import NoticeTold, OrderConfirmed, OrderDropped, OrderTold
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.numbered import check_new, check_numbers
from mindful_crate.core.work.receiving.checks import check_lot, check_tracking


def take_order(state: State, making: Making, topic: OrderTopic, order: Order) -> str:
    """An order reaches the floor, new, changed or cancelled; refused when work that was done contradicts it."""
    known = state.order(order.number) if state.is_confirmed(order.number) else None
    lines = "1 line" if len(order.lines) == 1 else f"{len(order.lines)} lines"
    if topic == "cancel_order":
        return _dropped(state, making, order)
    if state.is_cancelled(order.number):
        raise Refusal("order_cancelled", f"`{order.number}` was cancelled on the floor already.")
    if known is None:
        if state.ground.orders.get(order.number) != order:
            making.event(OrderTold(order))
        making.event(OrderConfirmed(order.number))
        return f"The host confirmed `{order.number}`, {lines}."
    if evolve(known, confirmed=order.confirmed) == order:
        return f"`{order.number}` stands so already."
    _check_change(state, known, order)
    making.event(OrderTold(order))
    return f"The host changed `{order.number}`, {lines}."


def take_notice(state: State, making: Making, notice: Notice) -> str:
    """A notice reaches the floor; refused when it announces what cannot come."""
    if notice.number in state.notices:
        if state.notices[notice.number] == notice:
            return f"Notice `{notice.number}` is known already."
        raise Refusal("notice_known", f"There is a notice `{notice.number}` with other plates already.")
    order = state.order(notice.order) if state.is_confirmed(notice.order) else None
    if order is None or not order.inbound or state.is_cancelled(notice.order):
        raise Refusal("unknown_order", f"`{notice.order}` is no order whose goods are awaited here.")
    if not notice.plates:
        raise Refusal("no_plates", f"Notice `{notice.number}` announces no plate.")
    coming: Counter[int] = Counter()
    for known in state.announced_of(order.number):
        coming.update({x.order_line: x.quantity for x in known.lines})
    for plate in notice.plates:
        _check_plate(state, notice, plate)
        for line in plate.lines:
            _check_line(state, order, plate, line)
            coming[line.order_line] += line.quantity
    for ordered in order.lines:
        still = max(0, state.open_quantity(order, ordered))
        if coming[ordered.no] > still:
            item = state.ground.items[ordered.item]
            says = f"{item.told(coming[ordered.no])} of line {ordered.no} are announced; {item.told(still)} are open."
            raise Refusal("more_than_ordered", says)
    count = "1 plate" if len(notice.plates) == 1 else f"{len(notice.plates)} plates"
    making.event(NoticeTold(notice))
    return f"{count} of `{order.number}` announced."


def _check_plate(state: State, notice: Notice, plate: NoticePlate) -> None:
    if not is_plate_label(plate.number, state.ground):
        raise Refusal("no_plate_label", f"`{plate.number}` is no plate label: its check digit or its series is wrong.")
    if state.has_plate(plate.number) or state.announced(plate.number):
        raise Refusal("plate_used", f"License plate `{plate.number}` is here or announced already.")
    if plate.plate_kind not in state.ground.plate_kinds:
        raise Refusal("no_plate_kind", f"There is no kind of plate `{plate.plate_kind}`.")
    if not plate.lines or [p.number for p in notice.plates].count(plate.number) > 1:
        raise Refusal("bad_plate", f"Plate `{plate.number}` has nothing on it, or stands twice.")


def _check_line(state: State, order: Order, plate: NoticePlate, line: NoticeLine) -> None:
    ordered = next((x for x in order.lines if x.no == line.order_line), None)
    if ordered is None or ordered.item != line.item:
        raise Refusal(
            "not_on_order",
            f"Plate `{plate.number}`: line {line.order_line} of `{order.number}` wants no `{line.item}`.",
        )
    item = state.ground.items[line.item]
    if line.quantity < 1 or all(u.code != line.unit for u in item.units):
        raise Refusal(
            "bad_line",
            f"Plate `{plate.number}`: `{line.item}` in `{line.unit}`, {line.quantity}: there is no such unit or number.",
        )
    check_tracking(item, line.lot, line.expiry)
    if line.serials:
        check_numbers(item, line.quantity, line.serials)
        check_new(state, item, line.serials)
    check_lot(state, item, line.lot, line.expiry)


def _dropped(state: State, making: Making, order: Order) -> str:
    building = [p.number for p in state.building() if any(x.order == order.number for x in p.lines)]
    if building:
        raise Refusal(
            "on_a_plate",
            f"Goods of `{order.number}` are on plate `{building[0]}`, which is being built. Finish it first.",
        )
    if state.is_cancelled(order.number):
        return f"`{order.number}` is cancelled already."
    lines = (state.order(order.number) or order).lines
    if any(state.line_progress(order.number, x.no).shipped for x in lines):
        raise Refusal("has_left", f"Goods of `{order.number}` have left: it cannot be cancelled any more.")
    arrived = any(state.line_progress(order.number, x.no).arrived for x in lines)
    says = "; what arrived of it stays" if arrived else ""
    making.event(OrderDropped(order.number))
    return f"The host cancelled `{order.number}`{says}."


def _check_change(state: State, before: Order, after: Order) -> None:
    if (before.kind, before.site, before.partner) != (after.kind, after.site, after.partner):
        raise Refusal("order_fixed", f"`{after.number}` is known for another kind, site or partner. Cancel it instead.")
    lines = {x.no: x for x in after.lines}
    for line in before.lines if not before.inbound else ():
        shipped = state.line_progress(before.number, line.no).shipped
        new_line = lines.get(line.no)
        if shipped and (new_line is None or new_line.item != line.item or new_line.quantity < shipped):
            item = state.ground.items[line.item]
            says = f"{item.told(shipped)} of line {line.no} have left: it cannot be less."
            raise Refusal("line_begun", says, f"lines/{line.no}")
    for line in before.lines:
        done = state.line_progress(before.number, line.no)
        if not done.noted + done.arrived:
            continue
        item = state.ground.items[line.item]
        here = f"{item.told(done.noted + done.arrived)} of line {line.no} are here already"
        new: OrderLine | None = lines.get(line.no)
        if new is None or new.item != line.item:
            raise Refusal("line_begun", f"{here}, so the line cannot go.", f"lines/{line.no}")
        if new.quantity < done.noted + done.arrived:
            raise Refusal("line_begun", f"{here}, so it cannot be {item.told(new.quantity)}.", f"lines/{line.no}")
