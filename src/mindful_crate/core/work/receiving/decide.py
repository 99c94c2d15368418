"""How its acts are decided: receiving goods."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Order, OrderLine, Status
from mindful_crate.core.catalog.ids import FlowId, ItemCode, OrderNo, PlateKindCode, PlateNo, ReceiptNo
from mindful_crate.core.catalog.places import Bin, PlateNeed
from mindful_crate.core.floor.plates import Plate, PlateLine, goods_of
from mindful_crate.core.floor.rests import Rest
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.topics import Topic
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose, PlateBy
from mindful_crate.core.rulebook.steps import BookingPoint, Need, StepPlan, fixed
from mindful_crate.core.rulebook.words.parts import all_of
from mindful_crate.core.work import numbered
from mindful_crate.core.work.handset.events import DialogueLeft
from mindful_crate.core.work.host import decide as hosting
from mindful_crate.core.work.inspecting import doing as inspecting
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.office import check_why, of_every_crew
from mindful_crate.core.work.putting import doing
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.receiving import surplus
from mindful_crate.core.work.receiving.acts import (
    ChangeLine,
    CloseRest,
    FinishPlate,
    NoteLine,
    ReceiveAnnounced,
    ReceiveInOffice,
    ReopenRest,
)
from mindful_crate.core.work.receiving.events import (
    LineChanged,
    LineClosed,
    LineNoted,
    LineReopened,
    LoadStarted,
    PlateFinished,
    PlateStarted,
)
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp


def _note_line(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: NoteLine) -> str:
    flow = rulebook.flow(act.flow)
    loose = flow is not None and flow.plate_by is PlateBy.NONE
    says, number = "", act.plate
    for each in _by_order(rulebook, state, act):
        before = len(making.events)
        says = said(says, note_onto(state, making, rulebook, stamp, evolve(each, plate=number), loose))
        number = _begun(making, before) or number
    if number and loose and _booked_by_line(state, rulebook, number):
        says = said(says, _finish_plate(state, making, rulebook, stamp, FinishPlate(number)))
    return says


def _by_order(rulebook: Rulebook, state: State, act: NoteLine) -> list[NoteLine]:
    """Goods of no order that was named go to those that want them, the earliest promised first."""
    if act.order is not None:
        return [act]
    orders = receiving.wanting(rulebook, state, act.item, rulebook.flow(act.flow))
    left, found = act.quantity, list[NoteLine]()
    if not orders:
        raise receiving.nobody_wants(state.ground.items[act.item])
    numbers = act.serials
    for order in orders:
        share = min(left, receiving.open_of_item(state, order, act.item))
        left -= share
        quantity = share + (left if order is orders[-1] else 0)
        mine = _for_lines(order.lines, quantity, numbers)
        numbers = tuple(n for n in numbers if n not in mine)
        found.append(evolve(act, order=order.number, quantity=quantity, serials=mine))
        if not left:
            break
    return found


def _for_line(line: OrderLine, lines: Iterable[OrderLine], numbers: tuple[str, ...]) -> tuple[str, ...]:
    """Those of some numbers that may be for a line: what it fixes, then what none does."""
    fixed_ = {n for x in lines for n in x.serials}
    return (*(n for n in numbers if n in line.serials), *(n for n in numbers if n not in fixed_))


def _for_lines(lines: Iterable[OrderLine], quantity: int, numbers: tuple[str, ...]) -> tuple[str, ...]:
    """So many of some numbers for order lines: those that they fix first."""
    fixed_ = [n for x in lines for n in x.serials if n in numbers]
    return tuple([*fixed_, *(n for n in numbers if n not in fixed_)][:quantity])


def _begun(making: Making, before: int) -> PlateNo | None:
    """The plate or load that was begun by events since so many."""
    begun = (e for e in making.events[before:] if isinstance(e, PlateStarted | LoadStarted))
    return next((e.load if isinstance(e, LoadStarted) else e.plate for e in begun), None)


def _booked_by_line(state: State, rulebook: Rulebook, number: PlateNo) -> bool:
    """Is each line of loose goods a receipt of its own?"""
    plate = receiving.building_plate(state, number)
    plan = receiving.plan_of_line(rulebook, state, plate.lines[0])
    return rulebook.booking_of(plan, state.settings.site) is BookingPoint.LINE_CONFIRMED


def note_onto(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: NoteLine, loose: bool) -> str:
    """A line onto what is being built, which is begun with it: a plate, or a receipt of loose goods."""
    assert act.order is not None
    order = receiving.order_for_receipt(state, act.order)
    item = state.ground.items[act.item]
    unit = item.unit(act.unit)
    if act.quantity <= 0:
        raise Refusal("not_above_zero", "The quantity must be above zero.")
    lines = receiving.open_lines(rulebook, state, order, item.code, act.line)
    still = (
        sum(max(0, state.open_quantity(order, x)) for x in lines)
        if act.line
        else receiving.open_of_item(state, order, item.code)
    )
    over = receiving.check_quantity(rulebook, state, order, item, act.quantity, still)
    receiving.check_tracking(item, act.lot, act.expiry)
    numbered.check_numbers(item, act.quantity, act.serials)
    numbered.check_new(state, item, act.serials)
    if act.expiry:
        receiving.check_expiry(act.expiry, stamp.today)
    if act.lot:
        receiving.check_lot(state, item, act.lot, act.expiry)
    plan = receiving.plan_of(rulebook, state, order, item.code)
    receiving.check_crew(plan.receive.crew, rulebook, stamp.crews, "receives this")
    note = receiving.delivery_note(act.note) if act.note else ""
    receiving.check_note(plan, order.number, note)
    plate = receiving.building_plate(state, act.plate) if act.plate and state.has_plate(act.plate) else None
    if plate is None:
        goods = Goods(item.code, act.quantity, act.lot, act.expiry)
        number = _start_plate(
            state,
            making,
            rulebook,
            stamp,
            act,
            plan,
            receiving.request_at(state, order, goods, plan, stamp.today),
            loose,
        )
        noted = 0
    else:
        number = plate.number
        noted = max((x.line for x in plate.lines), default=0)
        receiving.check_goes_along(rulebook, state, plate, order, plan)
    left, numbers = act.quantity - over, act.serials
    for line in lines:
        share, last = min(left, max(0, state.open_quantity(order, line))), line is lines[-1]
        if numbers and not last:  # pieces that other lines fix are theirs
            share = min(share, len(_for_line(line, lines, numbers)))
        more = over if last else 0
        if share + more > 0:
            noted += 1
            mine = (numbers if last else _for_line(line, lines, numbers))[: share + more]
            numbers = tuple(n for n in numbers if n not in mine)
            making.event(
                LineNoted(
                    number,
                    noted,
                    order.number,
                    line.no,
                    item.code,
                    unit.code,
                    share + more,
                    act.lot,
                    act.expiry,
                    more,
                    note,
                    mine,
                )
            )
        left -= share
        if not left and not over:
            break
    count, rest = divmod(act.quantity, unit.quantity)
    told = item.told(act.quantity) if rest else item.told_in(count, unit)
    begun = f"Receipt `{number}` begun. " if loose else f"Plate `{number}` made. "
    says = f"{begun if plate is None else ''}{told} of {item.name} on `{number}`."
    return said(says, receiving.over_told(order, item, over) if over else "")


def _receive_announced(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ReceiveAnnounced) -> str:
    found = state.announced(act.plate)
    if found is None:
        raise Refusal("not_announced", f"Plate `{act.plate}` was not announced, or it is here already.")
    notice, plate = found
    order = receiving.order_for_receipt(state, notice.order)
    first = plate.lines[0]
    plan = receiving.plan_of(rulebook, state, order, first.item)
    receiving.check_crew(plan.receive.crew, rulebook, stamp.crews, "receives this")
    receiving.check_off(state, order, plan, act.plate)
    note = receiving.delivery_note(act.note) if act.note else ""
    receiving.check_note(plan, order.number, note)
    goods = Goods(first.item, first.quantity, first.lot, first.expiry)
    each = _into(
        state, making, rulebook, plan, receiving.request_at(state, order, goods, plan, stamp.today), plate.plate_kind
    )
    if state.ground.bin_types[each.bin_type].plates is PlateNeed.NONE:
        raise Refusal("takes_no_plate", f"`{each.code}` takes no plates: receive the goods by item.")
    making.event(PlateStarted(act.plate, plate.plate_kind, each.code, stamp.who))
    lines = {x.no: x for x in order.lines}
    for no, line in enumerate(plate.lines, start=1):
        item = state.ground.items[line.item]
        if line.quantity > state.open_quantity(order, lines[line.order_line]):
            raise Refusal(
                "more_than_ordered",
                f"{item.told(line.quantity)} of {item.name} are announced on `{act.plate}`, more than `{order.number}` "
                "still wants. Receive it by item.",
            )
        if line.expiry:
            receiving.check_expiry(line.expiry, stamp.today)
        receiving.check_lot(state, item, line.lot, line.expiry)
        if item.numbered and not line.serials:
            says = f"The notice does not say the serial numbers of {item.name} on `{act.plate}`. Receive it by item."
            raise Refusal("serials_missing", says)
        numbered.check_numbers(item, line.quantity, line.serials)
        numbered.check_new(state, item, line.serials)
        making.event(
            LineNoted(
                act.plate,
                no,
                order.number,
                line.order_line,
                item.code,
                line.unit,
                line.quantity,
                line.lot,
                line.expiry,
                0,
                note,
                line.serials,
            )
        )
    told = receiving.goods_text(state, (Goods(x.item, x.quantity, x.lot) for x in plate.lines))
    return f"Plate `{act.plate}` as announced: {told}. Check it, then finish it."


def _into(
    state: State, making: Making, rulebook: Rulebook, plan: StepPlan, request: BinRequest, kind: PlateKindCode | None
) -> Bin:
    """Where a plan receives: its bin, or the one that is found for the first goods."""
    code = fixed(plan.receive.into)
    if code is None:
        asked = evolve(request, plate_kind=kind)
        trail = choose(asked, rulebook.rules_for(asked.site, asked.purpose, asked.at), state)
        making.trail(trail)
        code = trail.bin
        if code is None:
            says = f"Step plan {plan.name} finds no bin to receive into. Tell the office: a bin there must be free, or a rule allow one."
            raise Refusal("no_receiving_bin", says)
    each = state.ground.bins.get(code)
    if each is None:
        raise Refusal("no_receiving_bin", f"The step plan receives into bin `{code}`, which does not exist.")
    return each


def _start_plate(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: NoteLine, plan: StepPlan, request: BinRequest,
    loose: bool,
) -> PlateNo:  # fmt: skip
    flow = rulebook.flow(act.flow)
    if act.into is not None:
        each = receiving.check_into(state, act.into, plan, loose)
    else:
        each = _into(state, making, rulebook, plan, request, None if loose else act.plate_kind)
    into, need = each.code, state.ground.bin_types[each.bin_type].plates
    if loose:
        if need is PlateNeed.REQUIRED:
            builds = f", and {flow.name} builds none" if flow else ": name a kind of plate"
            raise Refusal("needs_plate", f"`{into}` takes goods on plates only{builds}.")
        load = PlateNo(making.draw("receipt"))
        making.event(LoadStarted(load, into, stamp.who))
        return load
    if need is PlateNeed.NONE:
        instead = "receive with a flow that builds none" if flow else "receive the goods loose"
        raise Refusal("takes_no_plate", f"`{into}` takes no plates: {instead}.")
    if act.plate_kind is None or act.plate_kind not in state.ground.plate_kinds:
        names = f"Flow `{act.flow}` names no kind of plate" if flow else f"There is no kind of plate `{act.plate_kind}`"
        raise Refusal("no_plate_kind", f"{names}, so none can be begun.")
    number = act.plate or PlateNo(making.draw("plate"))
    making.event(PlateStarted(number, act.plate_kind, into, stamp.who))
    return number


def _receive_in_office(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ReceiveInOffice
) -> str:  # fmt: skip
    check_why(rulebook, state.settings.site, FlowPurpose.RECEIVE, act.why)
    if not act.lines:
        raise Refusal("nothing_received", "Say how much of at least one line came.")
    if act.plate and (state.has_plate(act.plate) or state.announced(act.plate)):
        raise Refusal(
            "plate_known", f"There is a plate `{act.plate}` already, here or announced. Take a label nobody used."
        )
    if act.plate and act.plate_kind is None:
        raise Refusal("no_plate_kind", f"Say which kind of plate `{act.plate}` is.")
    order, number = receiving.order_for_receipt(state, act.order), act.plate
    stamp, says = of_every_crew(rulebook, stamp), ""
    for line in act.lines:
        item = state.ground.items.get(line.item)
        if item is None:
            raise Refusal("unknown_item", f"There is no item `{line.item}`.")
        note = NoteLine(
            FlowId(""),
            order.number,
            item.code,
            item.base.code,
            line.quantity,
            number,
            act.plate_kind,
            line.lot,
            line.expiry,
            act.note.strip(),
            serials=tuple(n.strip() for n in line.serials),
        )
        before = len(making.events)
        says = said(says, note_onto(state, making, rulebook, stamp, note, act.plate_kind is None))
        number = _begun(making, before) or number
    assert number is not None
    if act.finish:
        return said(says, _finish_plate(state, making, rulebook, stamp, FinishPlate(number)))
    return said(
        says, f"It is noted and not stock: `{number}` stands among what was never finished until somebody does."
    )


def _change_line(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ChangeLine) -> str:
    plate = receiving.building_plate(state, act.plate)
    line = next((x for x in plate.lines if x.line == act.line), None)
    if line is None:
        raise Refusal("no_such_line", f"Line {act.line} is not on plate `{act.plate}` any more.")
    order, item = receiving.known_order(state, line.order), state.ground.items[line.item]
    if act.quantity < 0:
        raise Refusal("not_above_zero", "The quantity must be above zero.")
    if line.serials and act.quantity not in (0, line.quantity):
        says = (
            f"These {item.told(line.quantity)} have serial numbers. Take the line off, and scan those that are there."
        )
        raise Refusal("has_serials", says)
    order_line = next(x for x in order.lines if x.no == line.order_line)
    allowed = max(0, state.open_quantity(order, order_line) + line.quantity)
    over = max(0, act.quantity - allowed)
    if over > receiving.more_taken(rulebook, state, order, item.code) + line.over:
        raise Refusal(
            "more_than_ordered",
            f"{item.told(act.quantity)} are more than `{order.number}` still wants: {item.told(allowed)} of "
            f"`{item.code}`. The line stays as it was.",
        )
    making.event(LineChanged(act.plate, act.line, act.quantity, over))
    if not act.quantity:
        return f"{item.name} is off `{act.plate}`."
    says = f"{item.told(act.quantity)} of {item.name} on `{act.plate}` now."
    return said(says, receiving.over_told(order, item, over) if over else "")


def _close_rest(state: State, making: Making, _: Rulebook, stamp: Stamp, act: CloseRest) -> str:
    order, lines = _lines_of(state, act.order, act.item)
    if not 3 <= len(act.why.strip()) <= 120:
        raise Refusal("no_reason", "Give the reason in 3 to 120 characters; whoever asks for the rest reads it.", "why")
    item, closed = state.ground.items[act.item], 0
    for line in lines:
        rest = state.open_quantity(order, line)
        if rest > 0:
            making.event(LineClosed(order.number, line.no, rest, act.why.strip()))
            closed += rest
    if not closed:
        raise Refusal("line_complete", f"Nothing of `{act.item}` on `{order.number}` is waited for.")
    verb = "is" if closed == 1 else "are"
    says = f"{item.told(closed)} of {item.name} on `{order.number}` {verb} not waited for any more: {act.why.strip()}."
    return said(says, _book_what_is_done(state, making, stamp, [order.number]))


def _reopen_rest(state: State, making: Making, _: Rulebook, __: Stamp, act: ReopenRest) -> str:
    order, lines = _lines_of(state, act.order, act.item)
    item, again = state.ground.items[act.item], 0
    for line in lines:
        closed = state.line_progress(order.number, line.no).closed
        if closed:
            making.event(LineReopened(order.number, line.no, closed))
            again += closed
    if not again:
        raise Refusal("not_closed", f"Nothing of `{act.item}` on `{order.number}` was closed short.")
    return f"{item.told(again)} of {item.name} on `{order.number}` are waited for again."


def _lines_of(state: State, number: OrderNo, code: ItemCode) -> tuple[Order, list[OrderLine]]:
    """The lines of an order whose goods come here, for an item; refused when there are none."""
    order = state.order(number)
    if order is None or not order.inbound or order.site != state.settings.site:
        raise Refusal("unknown_order", f"There is no order `{number}` whose goods come here.")
    receiving.check_free(state, order)
    lines = [x for x in order.lines if x.item == code]
    if not lines:
        raise Refusal("not_on_order", f"`{code}` is not on `{number}`.")
    return order, lines


def _finish_plate(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: FinishPlate) -> str:
    plate = receiving.building_plate(state, act.plate)
    if not plate.lines:
        raise Refusal("empty_plate", f"Nothing is on plate `{act.plate}`: scan an item first.")
    site = state.settings.site
    plan = receiving.plan_of_line(rulebook, state, plate.lines[0])
    more = surplus.held_lines(state, rulebook, plate)
    apart = surplus.split_off(state, making, stamp, plate, more) if more else None
    if more and apart is None:
        return surplus.hold(state, making, rulebook, stamp, plate.number, plan)
    plate = receiving.building_plate(state, act.plate)
    booking = rulebook.booking_of(plan, site)
    receipt = ReceiptNo(plate.number if plate.into else making.draw("receipt"))
    if act.inspect is not None and not (plan.inspect.on and plan.inspect.sends):
        raise Refusal("not_yours_to_say", f"Step plan {plan.name} says itself what is inspected.")
    to_inspect = inspecting.chosen(state, plan, plate.lines, act.inspect)
    inspecting.count(state, making, plan, plate.lines)
    statuses = tuple(
        (x.line, marked.status)
        for x in plate.lines
        if x.line not in to_inspect
        and (marked := state.returned.get(x.key)) is not None
        and marked.status is not Status.AVAILABLE
    )
    making.event(PlateFinished(plate.number, receipt, stamp.who, booking, to_inspect, statuses=statuses))
    says = (
        f"{receiving.plate_word(plate)} finished: {receiving.plate_text(state, plate)} arrived in `{plate.stands}`"
        + ("." if plate.into else f", receipt `{receipt}`.")
    )
    says = said(says, _close_within(state, making, rulebook, plate.lines, receipt))
    topic: Topic = "book_receipt" if booking in AT_FINISH else "note_arrival"
    hosting.tell_host(state, making, stamp, topic, receipt)
    orders = list(dict.fromkeys(x.order for x in plate.lines))
    if booking is BookingPoint.LINES_DONE or (booking is BookingPoint.LINES_ASKED and act.book):
        says = said(says, _book_what_is_done(state, making, stamp, orders))
    if to_inspect:
        says = said(says, _inspect(state, making, rulebook, stamp, plate, plan, receipt, to_inspect))
    elif plan.put_away.on:
        says = said(says, _put_away(state, making, rulebook, stamp, plate, plan, receipt, statuses))
    if apart:
        says = said(says, surplus.hold(state, making, rulebook, stamp, apart, plan))
    for other in state.dialogues.open_about(plate.number):
        if other.device != stamp.device:
            making.event(DialogueLeft(other.number, by=stamp.who))
    return says


AT_FINISH = frozenset({BookingPoint.PLATE_FINISHED, BookingPoint.LINE_CONFIRMED})
"""When the host is told of a receipt as soon as it is one."""
WHEN_DONE = frozenset({BookingPoint.LINES_DONE, BookingPoint.LINES_ASKED})
"""When it is told once nothing of the orders is open."""


def _close_within(
    state: State, making: Making, rulebook: Rulebook, lines: tuple[PlateLine, ...], receipt: ReceiptNo
) -> str:
    """The rest of a line is not waited for when no more lacks than its plan lets lack."""
    says = ""
    for line in {x.key: x for x in lines}.values():
        order = receiving.known_order(state, line.order)
        of_order = next(x for x in order.lines if x.no == line.order_line)
        plan, rest = receiving.plan_of_line(rulebook, state, line), state.open_quantity(order, of_order)
        waits = state.line_progress(line.order, line.order_line).noted
        if 0 < rest <= plan.receive.less.of(of_order.quantity) and not waits:
            item = state.ground.items[line.item]
            why = "no more lacks than the plan lets lack"
            making.event(LineClosed(line.order, line.order_line, rest, why, receipt))
            says = said(says, f"{item.told(rest)} of {item.name} lack, and are not waited for.")
    return says


def _book_what_is_done(state: State, making: Making, stamp: Stamp, orders: Iterable[OrderNo]) -> str:
    """The host is told of all that arrived of orders of which nothing is open any more, where plans wait for that."""
    told = []
    for receipt in state.receipts.values():
        of_it = [OrderNo(ref.number) for ref in receipt.orders]
        if receipt.told or receipt.undone or receipt.booking not in WHEN_DONE or not set(of_it) & set(orders):
            continue
        if all(receiving.all_here(state, receiving.known_order(state, n)) for n in of_it):
            hosting.tell_host(state, making, stamp, "book_receipt", receipt.number)
            told.append(f"`{receipt.number}`")
    return f"The host is told of {all_of(told)}." if told else ""


def _inspect(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, plate: Plate, plan: StepPlan, number: ReceiptNo,
    which: tuple[int, ...],
) -> str:  # fmt: skip
    """What was received goes on to be inspected: a plate as a whole; of loose goods those that are, the others by their plan."""
    lines = state.receipts[number].lines
    if plate.into is None:
        waits = [inspecting.of_plate(state, plate.number, state.plates.goods_on(plate.number), lines)]
        return inspecting.set_inspecting(state, making, rulebook, stamp, waits, plan.inspect)
    goods = goods_of(lines, stamp.today, which)
    waits = [
        inspecting.Waiting(str(number), plate.into, (g,), None, None, lines, (number,))
        for g in goods if g.status is Status.INSPECT
    ]  # fmt: skip
    says = inspecting.set_inspecting(state, making, rulebook, stamp, waits, plan.inspect)
    past = tuple(g for g in goods if g.status is not Status.INSPECT)
    if past and plan.put_away.on:
        rest = Rest(f"{number}.past", Need.PUT_AWAY, plate.into, None, past, (number,))
        pieces = doing.pieces_of_goods(state, rulebook, rest, lines)
        says = said(says, doing.set_going(state, making, rulebook, stamp, pieces, plan.put_away.begins))
    return says


def _put_away(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, plate: Plate, plan: StepPlan, number: ReceiptNo,
    statuses: tuple[tuple[int, Status], ...] = (),
) -> str:  # fmt: skip
    """What was received goes on to be put away, or rests until somebody asks for it."""
    if plate.into is None:
        marked = dict(statuses)
        goods = tuple(
            Goods(x.item, x.quantity, x.lot, x.expiry, marked.get(x.line, Status.AVAILABLE)) for x in plate.lines
        )
        pieces = doing.pieces_of_plate(state, rulebook, plate, goods, plate.lines)
        return doing.set_going(state, making, rulebook, stamp, pieces, plan.put_away.begins)
    rest = Rest(
        number, Need.PUT_AWAY, plate.into, None, tuple(goods_of(plate.lines, stamp.today, (), statuses)), (number,)
    )
    pieces = doing.pieces_of_goods(state, rulebook, rest, plate.lines)
    return doing.set_going(state, making, rulebook, stamp, pieces, plan.put_away.begins)


DECIDES = (
    deciding(NoteLine, _note_line),
    deciding(ReceiveAnnounced, _receive_announced),
    deciding(ChangeLine, _change_line),
    deciding(FinishPlate, _finish_plate),
    deciding(ReceiveInOffice, _receive_in_office),
    deciding(CloseRest, _close_rest),
    deciding(ReopenRest, _reopen_rest),
    *surplus.DECIDES,
)
"""How its acts are decided."""
