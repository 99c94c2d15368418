"""What is asked of where goods come from and onto what: order, delivery note, line, plate."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import islice
from typing import Any, ClassVar

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import PlateNo
from mindful_crate.core.floor.answers import PLATE, Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Check, PlateBy, Prompt
from mindful_crate.core.rulebook.steps import DeliveryNote
from mindful_crate.core.rulebook.words.parts import any_of
from mindful_crate.core.scanning.codes import any_bin, plain, stored_plates, typed, unknown
from mindful_crate.core.scanning.kinds import (
    ITEM,
    LISTED,
    MUCH,
    Codes,
    Context,
    NumberKind,
    PromptKind,
    Step,
)
from mindful_crate.core.scanning.question import Keys, Pick, Question, Shape
from mindful_crate.core.scanning.reading import How, Read, Reading
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.receiving.coming import (
    KINDS,
    LINE,
    NEW_PLATE,
    NO_NOTE,
    NOTE,
    ORDER,
    announced,
    asks_order,
    note_wanted,
    notice_told,
    open_on,
    order_named,
    order_of,
)


def _dropped(state: State, order: Order) -> bool:
    """Is it cancelled, on the floor or in the host?"""
    held = state.host_orders.get(order.number)
    return state.is_cancelled(order.number) or (held is not None and held.cancelled)


class OrderKind(PromptKind):
    """Which order do the goods come on?"""

    wants = "an order"
    lasts: ClassVar = (ORDER,)

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[ORDER] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        number = order_named(ctx, reading)
        if number is None:
            raise self.wrong(ctx, answers, reading)
        order = receiving.order_for_receipt(ctx.state, number)
        receiving.plan_of(ctx.rulebook, ctx.state, order)  # before work is done that no plan takes
        return answers.without(NOTE, NO_NOTE).having(ORDER, order.number)

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        return notice_told(ctx, reading)

    def open(self, ctx: Context) -> Iterator[Order]:
        """Orders that may be received and that a step plan receives; asked of no more of them than are wanted."""
        for order in receiving.receivable_orders(ctx.state):
            plan = receiving.planned(ctx.rulebook, ctx.state, order)
            if plan and not receiving.waits_for(ctx.state, order, plan):
                yield order

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        for order in islice(self.open(ctx), LISTED):
            partner = ctx.ground.partners[order.partner].name
            open_lines = ctx.state.lines_open(order)
            lines = "1 line" if open_lines == 1 else f"{open_lines} lines"
            yield Pick(order.number, order.number, f"{KINDS[order.kind]} {partner}, {lines} open")

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
        return announced(ctx, dialogue, reading)

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
        return note_wanted(ctx, answers) is not DeliveryNote.NO

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind not in (Read.UNKNOWN, Read.LABEL):
            raise self.wrong(ctx, answers, reading)
        return answers.having(NOTE, receiving.delivery_note(reading.code))

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        return f"delivery note `{reading.code}`" if reading.kind in (Read.UNKNOWN, Read.LABEL) else ""

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Which delivery note did it come with?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        return {"note": f"Of {open_on(ctx, answers)}: scan or type its number"}

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
        return announced(ctx, dialogue, reading)

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for plate in islice(ctx.state.building(), 2):
            yield plain(f"plate {plate.number}, being built", plate.number)
        yield plain("a fresh plate label", ctx.state.number("plate")[0])
        for stored in stored_plates(ctx, 1):
            yield plain(f"plate {stored}, in use", stored)
        yield from any_bin(ctx)


ORDER_PROMPTS: dict[Asks, PromptKind] = {
    Asks.ORDER: ORDERS,
    Asks.NOTE: NoteKind(),
    Asks.LINE: LineKind(),
    Asks.PLATE: PlateKind(),
}
"""What it asks of them."""
