"""What is asked while receiving: order, plate, item, date, lot, quantity."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace
from datetime import timedelta
from decimal import Decimal
from itertools import islice
from typing import Any, ClassVar

from mindful_crate.core.catalog.goods import Order, Tracking
from mindful_crate.core.catalog.ids import ItemCode, NoticeNo, OrderNo, PlateNo
from mindful_crate.core.floor.answers import PLATE, Answers, Doubt, flag, number, text
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Check, PlateBy, Prompt, Proposes
from mindful_crate.core.rulebook.steps import DeliveryNote, Over
from mindful_crate.core.rulebook.words.parts import any_of
from mindful_crate.core.scanning.codes import any_bin, item_code, plain, stored_plates, typed, unknown
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import (
    COUNT,
    EXPIRY,
    ITEM,
    LISTED,
    LOT,
    MUCH,
    UNIT,
    Codes,
    Context,
    NumberKind,
    PromptKind,
    Step,
)
from mindful_crate.core.scanning.question import Keys, Pick, Question, Shape
from mindful_crate.core.scanning.reading import How, Read, Reading, told
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.receiving.acts import ReceiveAnnounced

ORDER = text("order", OrderNo)
NEW_PLATE = flag("new_plate")
"""A new one was asked for."""


NOTE = text("note", str)
"""The number of the delivery note."""
NO_NOTE = flag("no_note")
"""There is none."""
LINE = number("line")
"""The number of the order line."""


def order_of(ctx: Context, answers: Answers) -> Order:
    """The order being received."""
    return receiving.known_order(ctx.state, answers.known(ORDER))


def asks_order(ctx: Context) -> bool:
    """Is the order named, or found by what comes?"""
    return any(p.asks is Asks.ORDER for p in ctx.flow.prompts)


def orders_of(ctx: Context, answers: Answers) -> list[Order]:
    """The order being received, or, where none is named, those that want the item, the earliest promised first; refused when there
    is none."""
    if answers[ORDER] is not None:
        return [order_of(ctx, answers)]
    return receiving.wanted_by(ctx.rulebook, ctx.state, answers.known(ITEM))


def still_open(ctx: Context, answers: Answers) -> int:
    """What of the item is open, on the line that was named, the order, or all orders; in base units."""
    code = answers.known(ITEM)
    if answers[LINE] is not None and answers[ORDER] is not None:
        order = order_of(ctx, answers)
        lines = (x for x in order.lines if x.no == int(answers.known(LINE)))
        return sum(max(0, ctx.state.open_quantity(order, x)) for x in lines)
    if answers[ORDER] is not None:
        return receiving.open_of_item(ctx.state, order_of(ctx, answers), code)
    orders = receiving.receivable_orders(ctx.state)
    return sum(receiving.open_of_item(ctx.state, o, code) for o in orders)


def open_on(ctx: Context, answers: Answers) -> str:
    """Where that is open: ``PO-1001``, ``PO-1001, line 2``, ``2 orders``."""
    if answers[ORDER] is not None:
        line = f", line {int(answers.known(LINE))}" if answers[LINE] is not None else ""
        return f"{answers[ORDER]}{line}"
    orders = orders_of(ctx, answers)
    return str(orders[0].number) if len(orders) == 1 else f"{len(orders)} orders"


def over(ctx: Context, answers: Answers, quantity: int) -> int:
    """How much more this is than is open; refused when it is more than the plan takes."""
    item, orders = ctx.item(answers), orders_of(ctx, answers)
    on = f"{len(orders)} orders" if len(orders) > 1 else ""
    still = still_open(ctx, answers)
    return receiving.check_quantity(ctx.rulebook, ctx.state, orders[-1], item, quantity, still, on)


def _check_free(ctx: Context, answers: Answers) -> None:
    if answers[ORDER] is not None:
        receiving.check_free(ctx.state, order_of(ctx, answers))


def _dropped(state: State, order: Order) -> bool:
    """Is it cancelled, on the floor or in the host?"""
    held = state.host_orders.get(order.number)
    return state.is_cancelled(order.number) or (held is not None and held.cancelled)


def _announced(ctx: Context, dialogue: Dialogue, reading: Reading) -> Step | None:
    """The label of an announced plate receives all of it at once, unless another is being built."""
    if reading.kind is not Read.LABEL or dialogue.answers[PLATE] is not None:
        return None
    announced = ctx.state.announced(PlateNo(reading.code))
    if not announced:
        return None
    act = ReceiveAnnounced(ctx.flow.id, PlateNo(reading.code), dialogue.answers[NOTE] or "")
    return Step(
        dialogue.answers.having(ORDER, announced[0].order).having(NEW_PLATE, False), passed(dialogue), acts=(act,)
    )


class OrderKind(PromptKind):
    """Which order do the goods come on?"""

    wants = "an order"
    lasts: ClassVar = (ORDER,)

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[ORDER] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        number = self._number(ctx, reading)
        if number is None:
            raise self.wrong(ctx, answers, reading)
        order = receiving.order_for_receipt(ctx.state, number)
        receiving.plan_of(ctx.rulebook, ctx.state, order)  # before work is done that no plan takes
        return answers.without(NOTE, NO_NOTE).having(ORDER, order.number)

    def _number(self, ctx: Context, reading: Reading) -> OrderNo | None:
        """The order that any number on the paper leads to: its own, or that of the notice that announces it; None: to none."""
        if reading.kind is Read.ORDER:
            return OrderNo(reading.code)
        notice = ctx.state.notices.get(NoticeNo(reading.code.upper())) if reading.kind is Read.UNKNOWN else None
        return notice.order if notice else None

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        notice = reading.kind is Read.UNKNOWN and self._number(ctx, reading)
        return f"notice `{reading.code.upper()}` of `{notice}`" if notice else ""

    def open(self, ctx: Context) -> Iterator[Order]:
        """Orders that may be received and that a step plan receives; asked of no more of them than are wanted."""
        for order in receiving.receivable_orders(ctx.state):
            plan = receiving.planned(ctx.rulebook, ctx.state, order)
            if plan and not receiving.waits_for_notice(ctx.state, order, plan):
                yield order

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        for order in islice(self.open(ctx), LISTED):
            partner = ctx.ground.partners[order.partner].name
            open_lines = ctx.state.lines_open(order)
            lines = "1 line" if open_lines == 1 else f"{open_lines} lines"
            yield Pick(order.number, order.number, f"{partner}, {lines} open")

    def open_orders(self, ctx: Context) -> int:
        """How many orders may be received, counted up to :data:`MUCH`."""
        return sum(1 for _ in islice(self.open(ctx), MUCH))

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Which order is it?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        if any(self.open(ctx)):
            return {"note": "Scan its paper, or pick it from the list"}
        state = ctx.state
        coming = [o for o in state.all_orders() if o.inbound and o.site == state.settings.site]
        waiting = [o for o in coming if not state.is_confirmed(o.number) and not _dropped(state, o)]
        wait = "1 waits" if len(waiting) == 1 else f"{len(waiting)} wait"
        return {"note": f"No confirmed order is open. {wait} to be confirmed in the host."}

    def instead(self, ctx: Context, dialogue: Dialogue, prompt: Prompt, reading: Reading) -> Step | None:
        return _announced(ctx, dialogue, reading)

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        open_ = receiving.receivable_orders(ctx.state)
        # an order somebody has just confirmed here is the one they mean to receive
        for order in sorted(open_, key=lambda o: not ctx.state.confirmed.get(o.number, False))[:3]:
            yield plain(f"order {order.number}", order.number)
        for plate in islice((p for o in open_ for p in ctx.state.announced_of(o.number)), 2):
            yield plain(f"announced plate {plate.number}", plate.number)
        site = ctx.state.settings.site
        waiting = [o for o in ctx.state.all_orders() if o.site == site and not ctx.state.is_confirmed(o.number)]
        for order in waiting[:1]:
            yield plain(f"order {order.number}, not confirmed", order.number)
        yield from any_bin(ctx)
        yield from unknown()


class NoteKind(PromptKind):
    """Which delivery note did the goods come with? Asked where their plan wants it, once for each order that is named."""

    wants = "the number of the delivery note"
    keys: Keys = "text"
    lasts: ClassVar = (NOTE, NO_NOTE)

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        return False

    def needed(self, ctx: Context, answers: Answers) -> bool:
        if answers[NOTE] is not None or answers[NO_NOTE]:
            return False
        if answers[ORDER] is None and (answers[ITEM] is None or asks_order(ctx)):
            return asks_order(ctx)
        return self.wanted(ctx, answers) is not DeliveryNote.NO

    def wanted(self, ctx: Context, answers: Answers) -> DeliveryNote:
        """What the plan of the goods says of it."""
        try:
            order = orders_of(ctx, answers)[0]
            return receiving.plan_of(ctx.rulebook, ctx.state, order, answers[ITEM]).receive.note
        except Refusal:  # what is wrong is said where it is answered
            return DeliveryNote.NO

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind not in (Read.UNKNOWN, Read.LABEL):
            raise self.wrong(ctx, answers, reading)
        return answers.having(NOTE, receiving.delivery_note(reading.code))

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        return f"delivery note `{reading.code}`" if reading.kind in (Read.UNKNOWN, Read.LABEL) else ""

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Which delivery note did it come with?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        return {"note": f"Of {orders_of(ctx, answers)[0].number}: scan or type its number"}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return False

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield typed("a delivery note", f"DN-{ctx.today:%y%m%d}")
        yield from any_bin(ctx)


class LineKind(NumberKind):
    """Which line of the order? It says which item comes."""

    wants = "the number of an order line"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[LINE] is None and answers[ITEM] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        order = order_of(ctx, answers)
        receiving.check_free(ctx.state, order)
        no = self.number(reading, "lines")
        line = next((x for x in order.lines if x.no == no), None)
        if line is None:
            numbers = any_of([str(x.no) for x in order.lines][: receiving.LISTED])
            raise Refusal("no_such_line", f"`{order.number}` has no line {reading.code}. It has {numbers}.")
        receiving.open_lines(ctx.rulebook, ctx.state, order, line.item, line.no)
        answers = answers.having(LINE, no)
        item = next((p for p in ctx.flow.prompts if p.asks is Asks.ITEM), None)
        if item is not None and item.check is Check.SCAN:
            return answers
        reading = Reading(Read.ITEM, line.item, How.TYPED, line.item, line.unit)
        found = ctx.prompt(Asks.ITEM).take(ctx, answers, reading)
        assert isinstance(found, Answers)
        return found

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        order = order_of(ctx, answers)
        for line in order.lines:
            if (left := ctx.state.open_quantity(order, line)) > 0:
                item = ctx.ground.items[line.item]
                yield Pick(str(line.no), f"{line.no}: {item.name}", f"{item.told(left)} open")

    def title(self, ctx: Context, answers: Answers) -> str:
        return f"Which line of {answers[ORDER]}?"

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for line in order_of(ctx, answers).lines[:2]:
            yield typed(f"line {line.no}", str(line.no))
        yield typed("no such line", "99")
        yield from any_bin(ctx)


ORDERS = OrderKind()
"""Asks for an order; the menu counts by it."""


class PlateKind(PromptKind):
    """Onto which plate? Asked when the flow wants a label, or when a plate is still being built."""

    wants = "the label of a plate"
    shape: Shape = "pallet"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        if answers[PLATE] is not None or answers[NEW_PLATE]:
            return False
        if ctx.flow.plate_by is PlateBy.NONE:
            return any(p.into for p in ctx.state.building())
        return ctx.flow.plate_by is PlateBy.ASKED or any(p.into is None for p in ctx.state.building())

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is Read.PLATE:
            plate = receiving.building_plate(ctx.state, PlateNo(reading.code))
            if bool(plate.into) != (ctx.flow.plate_by is PlateBy.NONE):
                raise Refusal(
                    "other_way", f"{receiving.plate_word(plate)} was begun with another flow; go on with it there."
                )
            return answers.having(PLATE, plate.number)
        if reading.kind is Read.LABEL and ctx.flow.plate_by is not PlateBy.NONE:
            return answers.having(PLATE, PlateNo(reading.code))
        if reading.kind is Read.UNKNOWN:
            raise Refusal(
                "no_plate_label",
                f"`{reading.code}` is no plate label: it is neither of the site's series nor an SSCC with a right "
                "check digit. Scan another label.",
            )
        raise self.wrong(ctx, answers, reading)

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        loose = ctx.flow.plate_by is PlateBy.NONE
        for plate in (p for p in ctx.state.building() if bool(p.into) == loose):
            lines = "1 line" if len(plate.lines) == 1 else f"{len(plate.lines)} lines"
            yield Pick(plate.number, plate.number, f"still being built by @{plate.by}, {lines}")

    def title(self, ctx: Context, answers: Answers) -> str:
        if ctx.flow.plate_by is PlateBy.ASKED:
            return "Scan the label of the plate"
        if ctx.flow.plate_by is PlateBy.NONE:
            return "A receipt is still open. Go on with it?"
        return "A plate is still being built. Go on with it?"

    def instead(self, ctx: Context, dialogue: Dialogue, prompt: Prompt, reading: Reading) -> Step | None:
        return _announced(ctx, dialogue, reading)

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for plate in islice(ctx.state.building(), 2):
            yield plain(f"plate {plate.number}, being built", plate.number)
        yield plain("a fresh plate label", ctx.state.number("plate")[0])
        for stored in stored_plates(ctx, 1):
            yield plain(f"plate {stored}, in use", stored)
        yield from any_bin(ctx)


class ItemKind(PromptKind):
    """Which item is it? Its barcode says the unit too; a GS1 code may say lot, date and count."""

    wants = "an item"
    shape: Shape = "carton"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[ITEM] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is not Read.ITEM or reading.item is None:
            raise self.wrong(ctx, answers, reading)
        item = ctx.ground.items[reading.item]
        _check_free(ctx, answers)
        order = orders_of(ctx, answers.having(ITEM, item.code))[0]
        line = int(answers.known(LINE)) if answers[LINE] is not None else None
        if line is not None and all(x.item != item.code for x in order.lines if x.no == line):
            wanted = next(ctx.ground.items[x.item] for x in order.lines if x.no == line)
            raise Refusal(
                "other_item", f"Line {line} of `{order.number}` is for `{wanted.code}` {wanted.name}: scan that."
            )
        receiving.open_lines(ctx.rulebook, ctx.state, order, item.code, line)
        plan = receiving.plan_of(ctx.rulebook, ctx.state, order, item.code)
        receiving.check_crew(plan.receive.crew, ctx.rulebook, ctx.crews, "receives this")
        answers = answers.having(ITEM, item.code).having(UNIT, reading.unit)
        tracked = item.tracking is not Tracking.NONE
        dated = item.tracking is Tracking.LOT_EXPIRY
        if dated and reading.expiry:
            receiving.check_expiry(reading.expiry, ctx.today)
            answers = answers.having(EXPIRY, reading.expiry)
        if tracked and reading.lot:
            receiving.check_lot(ctx.state, item, reading.lot, answers[EXPIRY])
            answers = answers.having(LOT, reading.lot)
        unit = item.unit(answers.known(UNIT))
        if upto(ctx):
            quantity = receiving.whole_quantity(item, unit, reading.count or Decimal(1))
            over(ctx, answers, quantity)
            return counted_on(ctx, answers.having(UNIT, item.base.code), quantity)
        if reading.count is not None:
            quantity = receiving.whole_quantity(item, unit, reading.count)
            if not over(ctx, answers, quantity) or plan.receive.over is Over.ACCEPT:
                answers = answers.having(COUNT, reading.count)
        return answers

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        if answers[ORDER] is None:
            yield from islice(self._wanted(ctx), LISTED)
            return
        order = order_of(ctx, answers)
        for code in dict.fromkeys(line.item for line in order.lines):
            still = receiving.open_of_item(ctx.state, order, code)
            if still > 0:
                item = ctx.ground.items[code]
                yield Pick(code, item.name, f"{item.told(still)} open")

    def _wanted(self, ctx: Context) -> Iterator[Pick]:
        """What any order wants, of the earliest promised first."""
        seen: set[str] = set()
        for order in ORDERS.open(ctx):
            for line in order.lines:
                if line.item not in seen and ctx.state.open_quantity(order, line) > 0:
                    seen.add(line.item)
                    item = ctx.ground.items[line.item]
                    still = still_open(ctx, Answers().having(ITEM, item.code))
                    yield Pick(item.code, item.name, f"{item.told(still)} open, first on {order.number}")

    def again(self, answers: Answers) -> str:
        return answers[ITEM] or ""

    def title(self, ctx: Context, answers: Answers) -> str:
        return f"Scan an item of {answers[ORDER]}" if answers[ORDER] else "Scan an item that came"

    def asked(self, ctx: Context, answers: Answers) -> str:
        return f"an item of `{answers[ORDER]}`" if answers[ORDER] else "an item that came"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        if answers[ORDER] is None:
            return {"note": "It goes to the order that was promised first, then to the next"}
        count = sum(1 for _ in self.picks(ctx, answers))
        return {"note": "1 item is open" if count == 1 else f"{count} items are open, in any sequence"}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True  # there is one in every line

    def instead(self, ctx: Context, dialogue: Dialogue, prompt: Prompt, reading: Reading) -> Step | None:
        if reading.kind is not Read.ORDER or not asks_order(ctx):
            return _announced(ctx, dialogue, reading)
        order = receiving.order_for_receipt(ctx.state, OrderNo(reading.code))
        receiving.plan_of(ctx.rulebook, ctx.state, order)
        answers = (
            dialogue.answers.without(NOTE, NO_NOTE, LINE)
            if order.number != dialogue.answers[ORDER]
            else dialogue.answers
        )
        return settled(ctx, answers.having(ORDER, order.number), passed(dialogue))

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        if answers[ORDER] is None:
            for pick in islice(self._wanted(ctx), 3):
                item = ctx.ground.items[ItemCode(pick.value)]
                yield from item_code(ctx, item, item.base.code)
            yield from any_bin(ctx)
            yield from unknown()
            return
        yield from _order_items(ctx, answers)
        on_order = {line.item for line in order_of(ctx, answers).lines}
        for other in islice((i for i in ctx.ground.items.values() if i.code not in on_order), 1):
            yield from item_code(ctx, other, other.base.code)
        yield from any_bin(ctx)
        yield from unknown()


def _kept_by(ctx: Context, answers: Answers, how: tuple[Tracking, ...]) -> bool:
    """Is the item kept in one of these ways? As long as none is known, it may be."""
    return answers[ITEM] is None or ctx.item(answers).tracking in how


class ExpiryKind(PromptKind):
    """When does it expire? Asked before the lot, so that a known lot can be checked against it."""

    wants = "the expiry date"
    shape: Shape = "calendar"
    keys: Keys = "date"
    reads = Read.DAY

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return _kept_by(ctx, answers, (Tracking.LOT_EXPIRY,)) and answers[EXPIRY] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        _check_free(ctx, answers)
        if reading.kind is Read.ITEM and reading.item == answers[ITEM] and reading.expiry:
            reading = replace(reading, kind=Read.DAY)
        if reading.kind is not Read.DAY or reading.expiry is None:
            if reading.kind is Read.UNKNOWN:
                raise Refusal("no_date", f"`{reading.code}` is no date. Enter it like 2027-03-31 or 270331.")
            raise Refusal("wrong_kind", f"That is {told(reading)}; enter the expiry date first.")
        receiving.check_expiry(reading.expiry, ctx.today)
        if answers[LOT] is not None:
            receiving.check_lot(ctx.state, ctx.item(answers), answers.known(LOT), reading.expiry)
        return answers.having(EXPIRY, reading.expiry)

    def again(self, answers: Answers) -> str:
        expiry = answers[EXPIRY]
        return expiry.isoformat() if expiry else ""

    def title(self, ctx: Context, answers: Answers) -> str:
        return "When does it expire?"

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return answers[ITEM] is not None and self.needed(ctx, answers)  # most items have none

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield typed("in 400 days", (ctx.today + timedelta(days=400)).isoformat())
        yield typed("expired last week", (ctx.today - timedelta(days=7)).isoformat())
        yield typed("no day of the calendar", "2027-02-30")
        yield from any_bin(ctx)


class LotKind(PromptKind):
    """Which lot is it?"""

    wants = "the lot"
    shape: Shape = "carton"
    keys: Keys = "text"
    reads = Read.LOT
    fixable = True

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return _kept_by(ctx, answers, (Tracking.LOT, Tracking.LOT_EXPIRY)) and answers[LOT] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        _check_free(ctx, answers)
        if reading.kind is Read.ITEM and reading.item == answers[ITEM] and reading.lot:
            reading = replace(reading, kind=Read.LOT)
        if reading.kind is not Read.LOT or reading.lot is None:
            if reading.kind is Read.UNKNOWN:
                raise Refusal("bad_lot", f"`{reading.code}` is no lot number: at most 20 printable characters.")
            raise Refusal("wrong_kind", f"That is {told(reading)}; scan or type the lot number first.")
        receiving.check_lot(ctx.state, ctx.item(answers), reading.lot, answers[EXPIRY])
        return answers.having(LOT, reading.lot)

    def again(self, answers: Answers) -> str:
        return answers[LOT] or ""

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Which lot is it?"

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return answers[ITEM] is not None and self.needed(ctx, answers)  # most items have none

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield plain("a new lot", f"L{ctx.today:%y%m}B")
        table = ctx.ground.stock
        rows = table.rows_of_item(answers[ITEM] or "")
        known = next((lot for n in rows if (lot := table.lots[table.lot[n]])), None)
        if known:
            yield plain("a lot in stock", known)
        yield from any_bin(ctx)


PIECES = number("pieces")
"""How many were scanned one by one, in base units."""


def upto(ctx: Context) -> int:
    """So many pieces of a line are scanned one by one; 0: none. Without the item's scan check it has no effect."""
    prompts = {p.asks: p for p in ctx.flow.prompts}
    quantity, item = prompts.get(Asks.QUANTITY), prompts.get(Asks.ITEM)
    return quantity.pieces if quantity and item and item.check is Check.SCAN else 0


def _pieces(ctx: Context, answers: Answers) -> tuple[int, int, int]:
    """How many are scanned, how many are to be, and how many are open, in base units."""
    still = still_open(ctx, answers)
    return int(answers[PIECES] or 0), min(upto(ctx), still), still


def counting(ctx: Context, answers: Answers) -> bool:
    """Are more pieces to be scanned one by one?"""
    if answers[ITEM] is None or not upto(ctx):
        return False
    scanned, wanted, _ = _pieces(ctx, answers)
    return scanned < wanted


def counted_on(ctx: Context, answers: Answers, quantity: int) -> Answers:
    """So many more are scanned; a barcode that says more than is still to be scanned is refused, never cut. All that is open is
    there: nothing more is asked."""
    scanned, wanted, still = _pieces(ctx, answers)
    if quantity > wanted - scanned:
        item = ctx.item(answers)
        says = f"That counts {item.told(quantity)}, and {item.told(wanted - scanned)} are still to be scanned. Scan single ones."
        raise Refusal("more_than_counted", says)
    answers = answers.having(PIECES, Decimal(scanned + quantity))
    return answers.having(COUNT, Decimal(still)) if scanned + quantity == still else answers


class QuantityKind(NumberKind):
    """How many? Proposed as the prompt says; confirmed by a number, a press, or the next item's scan. Where every piece is to be
    scanned, the rest alone is asked as a number."""

    fixable = True

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[COUNT] is None

    def again(self, answers: Answers) -> str:
        return "" if answers[PIECES] is not None else str(answers[COUNT] or "")

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        return counting(ctx, answers) or super().must_scan(ctx, answers, prompt)

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        item, unit = ctx.item(answers), ctx.unit(answers)
        if counting(ctx, answers):
            if reading.kind is not Read.ITEM or reading.item != item.code:
                raise self.wrong(ctx, answers, reading)
            each = item.unit(reading.unit) if reading.unit else item.base
            return counted_on(ctx, answers, receiving.whole_quantity(item, each, reading.count or Decimal(1)))
        if answers[PIECES] is not None:
            more = receiving.whole_quantity(item, unit, self.number(reading, unit.plural, or_next=True))
            return self._asked(ctx, self.confirmed(ctx, answers, Decimal(more)), more + int(answers[PIECES] or 0))
        if changed := self.other_unit(answers, reading):
            return changed
        if reading.kind is Read.ITEM and reading.item == answers[ITEM]:
            raise Refusal(
                "same_item", f"That is the same item again. Enter how many {unit.plural}, or scan the next item."
            )
        count = self.number(reading, unit.plural, or_next=True)
        quantity = receiving.whole_quantity(item, unit, count)
        return self._asked(ctx, answers.having(COUNT, count), quantity)

    def _asked(self, ctx: Context, filled: Answers, quantity: int) -> Answers | Doubt:
        """More than is open is asked about, where the plan says so."""
        more = over(ctx, filled, quantity)
        order = orders_of(ctx, filled)[-1]
        plan = receiving.plan_of(ctx.rulebook, ctx.state, order, filled[ITEM])
        if not more or plan.receive.over is not Over.WARN:
            return filled
        return Doubt(
            "yes_no",
            receiving.over_told(order, ctx.item(filled), more) + " Take them all the same?",
            filled,
            "Take them",
        )

    def proposal(self, ctx: Context, answers: Answers, prompt: Prompt) -> Decimal | None:
        """The number offered: what is still open in whole units, one, or nothing."""
        if prompt.proposes is Proposes.BLANK:
            return None
        if counting(ctx, answers):
            return None
        still = still_open(ctx, answers)
        whole = (still - int(answers[PIECES] or 0)) // ctx.unit(answers).quantity
        if prompt.proposes is Proposes.ONE:
            whole = min(1, whole)
        return Decimal(whole) if whole else None

    def confirmed(self, ctx: Context, answers: Answers, count: Decimal) -> Answers:
        return answers.having(COUNT, count + (answers[PIECES] or 0))

    def asked(self, ctx: Context, answers: Answers) -> str:
        return f"the next piece of {ctx.item(answers).name}" if counting(ctx, answers) else self.wants

    def title(self, ctx: Context, answers: Answers) -> str:
        if counting(ctx, answers):
            scanned, wanted, _ = _pieces(ctx, answers)
            return f"Scan the next piece: {scanned} of {wanted}"
        more = " more" if answers[PIECES] is not None else ""
        return f"How many {ctx.unit(answers).plural}{more}?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        item, unit = ctx.item(answers), ctx.unit(answers)
        note = f"{item.told(still_open(ctx, answers))} still open on {open_on(ctx, answers)}"
        if counting(ctx, answers):
            return {"note": note, "keys": "scan"}
        return {
            "note": note,
            "unit": unit.plural + (f" of {item.told(unit.quantity)}" if unit.quantity > 1 else ""),
        }

    def instead(self, ctx: Context, dialogue: Dialogue, prompt: Prompt, reading: Reading) -> Step | None:
        """The scan of the next item confirms the proposed quantity of the last."""
        answers = dialogue.answers
        if reading.kind is not Read.ITEM or reading.item == answers[ITEM]:
            return None
        unit = ctx.unit(answers)
        if counting(ctx, answers):
            scanned, wanted, _ = _pieces(ctx, answers)
            says = f"{scanned} of {wanted} are scanned. Scan the next one, or say that this is all; then the next item."
            raise Refusal("pieces_first", says)
        if not ctx.rulebook.next_item_confirms(ctx.flow, ctx.state.settings.site):
            raise Refusal("confirm_first", f"Confirm how many {unit.plural} first; then scan the next item.")
        proposal = self.proposal(ctx, answers, prompt)
        if proposal is None:
            raise Refusal("no_proposal", f"Enter how many {unit.plural} first; there is no number to confirm.")
        line, kept = ctx.kind.complete(ctx, self.confirmed(ctx, answers, proposal))
        after = ctx.prompt(Asks.ITEM).take(ctx, kept, reading)
        assert isinstance(after, Answers)
        step = settled(ctx, after, (kept,))
        return replace(step, acts=(line, *step.acts))

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        if question.proposal:
            yield typed(f"{question.proposal} {question.unit}", question.proposal)
            yield typed("one too many", str(int(question.proposal) + 1))
        yield from any_bin(ctx)
        yield typed("zero", "0")
        yield typed("a fraction", "0.333333")
        yield from _order_items(ctx, answers, answers[ITEM])
        item = ctx.item(answers)
        for barcode in ctx.ground.barcodes_of.get(item.code, ()):
            yield plain(f"{item.name}, {item.unit(barcode.unit).name}", barcode.code)


def _order_items(ctx: Context, answers: Answers, but: str | None = None) -> Codes:
    if answers[ORDER] is None:
        return
    order = order_of(ctx, answers)
    for line in order.lines:
        if line.item != but and ctx.state.open_quantity(order, line) > 0:
            yield from item_code(ctx, ctx.ground.items[line.item], line.unit)


PROMPTS: dict[Asks, PromptKind] = {
    Asks.ORDER: ORDERS,
    Asks.NOTE: NoteKind(),
    Asks.LINE: LineKind(),
    Asks.PLATE: PlateKind(),
    Asks.ITEM: ItemKind(),
    Asks.EXPIRY: ExpiryKind(),
    Asks.LOT: LotKind(),
    Asks.QUANTITY: QuantityKind(),
}
"""What it asks."""
