"""What is asked of where goods come from and onto what: order, delivery note, line, plate."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import islice
from typing import Any, ClassVar

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import BinCode, NoticeNo, OrderNo, PlateNo
from mindful_crate.core.floor.answers import PLATE, Answers, Doubt
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Check, PlateBy, Prompt
from mindful_crate.core.rulebook.steps import DeliveryNote, StepPlan, fixed
from mindful_crate.core.rulebook.words.parts import any_of
from mindful_crate.core.scanning.codes import any_bin, plain, shown, stored_plates, typed, unknown
from mindful_crate.core.scanning.dialogue import current
from mindful_crate.core.scanning.kinds import (
    ITEM,
    MUCH,
    Codes,
    Context,
    NumberKind,
    PromptKind,
    Step,
    bin_place,
    deviation,
)
from mindful_crate.core.scanning.question import Keys, Pick, Question, Shape
from mindful_crate.core.scanning.reading import How, Read, Reading
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.receiving.coming import (
    IN_LISTS,
    INTO,
    KINDS,
    LINE,
    NEW_PLATE,
    NO_NOTE,
    NOTE,
    ORDER,
    SOUGHT,
    announced,
    asks_order,
    note_wanted,
    notice_told,
    open_on,
    order_named,
    order_of,
    orders_of,
)

LISTED_ORDERS = 60
"""So many orders are listed; a part that is typed finds others."""


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

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        number = reading.order if reading.kind is Read.ITEM else order_named(ctx, reading)
        if number is None:
            raise self.wrong(ctx, answers, reading)
        if reading.kind is Read.ITEM and ctx.state.order(number) is None:
            raise Refusal(
                "unknown_order", f"That label is of order `{number}`, which nobody here knows. Scan another paper."
            )
        if reading.how is not How.TAPPED and self._other(ctx, number) and not self._scanned(ctx):
            return answers.having(SOUGHT, number)
        order = receiving.order_for_receipt(ctx.state, number)
        receiving.check_kind(ctx.flow, order)
        receiving.plan_of(ctx.rulebook, ctx.state, order)  # before work is done that no plan takes
        answers = answers.without(NOTE, NO_NOTE, SOUGHT).having(ORDER, order.number)
        after = current(ctx, answers) if reading.kind is Read.ITEM else None
        return ctx.prompt(Asks.ITEM).take(ctx, answers, reading) if after and after.asks is Asks.ITEM else answers

    @staticmethod
    def _scanned(ctx: Context) -> bool:
        """Must the order be scanned, so that nobody could choose one of two?"""
        return any(p.asks is Asks.ORDER and p.check is Check.SCAN for p in ctx.flow.prompts)

    @staticmethod
    def _other(ctx: Context, number: str) -> OrderNo | None:
        """The order of the notice that has the number of another order."""
        notice = ctx.state.notices.get(NoticeNo(number))
        return notice.order if notice and notice.order != number and ctx.state.order(OrderNo(number)) else None

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        if reading.kind is Read.ITEM and reading.order:
            return f"the label of `{reading.item}` on order `{reading.order}`"
        if reading.kind is Read.UNKNOWN and answers[SOUGHT] == reading.code.strip():
            return f"orders with “{answers[SOUGHT]}”"
        return notice_told(ctx, reading)

    def open(self, ctx: Context) -> Iterator[Order]:
        """Orders that may be received and that a step plan receives; asked of no more of them than are wanted."""
        for order in (o for o in receiving.receivable_orders(ctx.state) if ctx.flow.is_for(o.kind)):
            plan = receiving.planned(ctx.rulebook, ctx.state, order)
            if plan and not receiving.waits_for(ctx.state, order, plan):
                yield order

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        for order in islice(self._sought(ctx, answers), LISTED_ORDERS):
            partner = ctx.ground.partners[order.partner].name
            open_lines = ctx.state.lines_open(order)
            lines = "1 line" if open_lines == 1 else f"{open_lines} lines"
            mine = ctx.rulebook.class_told(ctx.ground, order)
            says = f"{KINDS[order.kind]} {partner}, {f'{mine}, ' if mine else ''}{lines} open, for {order.promised.isoformat()}"
            yield Pick(order.number, order.number, says, IN_LISTS[order.kind], order.promised.isoformat())

    def _sought(self, ctx: Context, answers: Answers) -> Iterator[Order]:
        """The open orders, or those of them that are looked for."""
        part = (answers[SOUGHT] or "").lower()
        noticed = self._other(ctx, part.upper()) if part else None
        return (o for o in self.open(ctx) if not part or o.number == noticed or self._reads(ctx, o, part))

    @staticmethod
    def _reads(ctx: Context, order: Order, part: str) -> bool:
        """Does its number, its partner or something on it read like that?"""
        if part in order.number.lower() or part in ctx.ground.partners[order.partner].name.lower():
            return True
        items = (ctx.ground.items[x.item] for x in order.lines if ctx.state.open_quantity(order, x) > 0)
        return any(part in i.code.lower() or part in i.name.lower() for i in items)

    def sought(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | None:
        part = reading.code.strip()
        if reading.kind is not Read.UNKNOWN or len(part) < 2 or order_named(ctx, reading):
            return None
        filled = answers.having(SOUGHT, part)
        return filled if next(self._sought(ctx, filled), None) is not None else None

    def open_orders(self, ctx: Context) -> int:
        """How many orders may be received, counted up to :data:`MUCH`."""
        return sum(1 for _ in islice(self.open(ctx), MUCH))

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Which order is it?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        if answers[SOUGHT] and (other := self._other(ctx, answers.known(SOUGHT).upper())):
            return {"note": f"{answers[SOUGHT]} is an order and the number of a notice of {other}: choose which it is"}
        if answers[SOUGHT]:
            return {
                "note": f"These have “{answers[SOUGHT]}” in their number, partner or items; type something else to look anew"
            }
        if any(self.open(ctx)):
            return {"note": "Scan its paper, pick it from the list, or type a part of its number, partner or item"}
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


class IntoKind(PromptKind):
    """Into which bin is it received? Asked before anything is counted, for each plate or receipt that is begun."""

    wants = "the bin it is received into"
    shape: Shape = "bin"
    lasts: ClassVar = (INTO,)

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[INTO] is None and not (answers[PLATE] and ctx.state.has_plate(answers.known(PLATE)))

    def _plan(self, ctx: Context, answers: Answers) -> StepPlan | None:
        order = orders_of(ctx, answers)[0] if answers[ORDER] or answers[ITEM] else None
        return receiving.plan_of(ctx.rulebook, ctx.state, order, answers[ITEM]) if order else None

    def _shown(self, ctx: Context, answers: Answers) -> BinCode | None:
        """The one bin its plan receives into, if it is one."""
        plan = self._plan(ctx, answers)
        return fixed(plan.receive.into) if plan else None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        if reading.kind is not Read.BIN:
            raise self.wrong(ctx, answers, reading)
        code, plan = BinCode(reading.code), self._plan(ctx, answers)
        if plan is not None:
            receiving.check_into(ctx.state, code, plan, ctx.flow.plate_by is PlateBy.NONE)
        filled = answers.having(INTO, code)
        return deviation(ctx, code, self._shown(ctx, answers), filled, "Receive it here all the same?", "Receive here")

    def again(self, answers: Answers) -> str:
        return answers[INTO] or ""

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Into which bin is it received?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        code = self._shown(ctx, answers)
        return (
            {"expect": code, "note": bin_place(ctx, code)} if code else {"note": "Scan it before anything is counted"}
        )

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield from shown(question.expect)
        found = (b for p in receiving.PASSED_THROUGH for b in ctx.ground.bins_of(p, ctx.state.settings.site))
        for each in islice((b for b in found if b.code != question.expect), 3):
            yield plain(f"bin {each.code}", each.code)
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
        if answers[PLATE] is not None or answers[NEW_PLATE] or self._passed(ctx, answers):
            return False
        if ctx.flow.plate_by is PlateBy.NONE:
            return any(p.into for p in ctx.state.building())
        return ctx.flow.plate_by is PlateBy.ASKED or any(p.into is None for p in ctx.state.building())

    @staticmethod
    def _passed(ctx: Context, answers: Answers) -> bool:
        """Was it passed over in this line, since no plate was being built? One that somebody else begins meanwhile is not asked about
        in the middle of it."""
        asks = [p.asks for p in ctx.flow.prompts]
        early = Asks.ITEM in asks and asks.index(Asks.PLATE) < asks.index(Asks.ITEM)
        return early and answers[ITEM] is not None and ctx.flow.plate_by is not PlateBy.ASKED

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
    Asks.INTO: IntoKind(),
}
"""What it asks of them."""
