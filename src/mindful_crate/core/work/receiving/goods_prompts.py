"""What is asked of the goods that come: item, date, lot, quantity, piece by piece where the flow says so."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace
from datetime import timedelta
from decimal import Decimal
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.goods import Tracking
from mindful_crate.core.catalog.ids import ItemCode, OrderNo
from mindful_crate.core.floor.answers import PLATE, Answers, Doubt, number
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Check, Prompt, Proposes
from mindful_crate.core.rulebook.steps import Over
from mindful_crate.core.scanning.codes import any_bin, item_code, plain, typed, unknown
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import (
    COUNT,
    EXPIRY,
    ITEM,
    LISTED,
    LOT,
    SERIALS,
    UNIT,
    Codes,
    Context,
    NumberKind,
    PromptKind,
    Step,
)
from mindful_crate.core.scanning.question import Keys, Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading, told
from mindful_crate.core.scanning.units import UNIT_PROMPT
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.receiving.coming import (
    LINE,
    NO_NOTE,
    NOTE,
    ORDER,
    announced,
    asks_order,
    check_free,
    open_on,
    order_of,
    orders_of,
    over,
    still_open,
)
from mindful_crate.core.work.receiving.order_prompts import ORDERS
from mindful_crate.core.work.receiving.serial_prompt import SerialKind, asks_serials

PIECES = number("pieces")
"""How many were scanned one by one, in base units."""


LISTED_ITEMS = 60
"""So many items of an order are listed; any is scanned."""


def upto(ctx: Context, answers: Answers) -> int:
    """So many pieces of a line are scanned one by one; 0: none. Without the item's scan check it has no effect, nor where each piece
    is scanned by its own number."""
    if answers[ITEM] is not None and asks_serials(ctx, ctx.item(answers)):
        return 0
    prompts = {p.asks: p for p in ctx.flow.prompts}
    quantity, item = prompts.get(Asks.QUANTITY), prompts.get(Asks.ITEM)
    return quantity.pieces if quantity and item and item.check is Check.SCAN else 0


def _pieces(ctx: Context, answers: Answers) -> tuple[int, int, int]:
    """How many are scanned, how many are to be, and how many are open, in base units."""
    still = still_open(ctx, answers)
    return int(answers[PIECES] or 0), min(upto(ctx, answers), still), still


def counting(ctx: Context, answers: Answers) -> bool:
    """Are more pieces to be scanned one by one?"""
    if answers[ITEM] is None or not upto(ctx, answers):
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
        check_free(ctx, answers)
        if reading.order and answers[ORDER] and reading.order != answers[ORDER] and ctx.state.order(reading.order):
            raise Refusal(
                "other_order",
                f"That label is of order `{reading.order}`; `{answers[ORDER]}` is being received. Take the other order first.",
            )
        orders = orders_of(ctx, answers.having(ITEM, item.code))
        if not orders:
            raise receiving.nobody_wants(item)
        order = orders[0]
        line = int(answers.known(LINE)) if answers[LINE] is not None else None
        if line is not None and all(x.item != item.code for x in order.lines if x.no == line):
            wanted = next(ctx.ground.items[x.item] for x in order.lines if x.no == line)
            raise Refusal(
                "other_item", f"Line {line} of `{order.number}` is for `{wanted.code}` {wanted.name}: scan that."
            )
        receiving.open_lines(ctx.rulebook, ctx.state, order, item.code, line)
        plan = receiving.plan_of(ctx.rulebook, ctx.state, order, item.code)
        receiving.check_crew(plan.receive.crew, ctx.rulebook, ctx.crews, "receives this")
        building = ctx.state.plate(answers.known(PLATE)) if answers[PLATE] else None
        if building is not None:  # before its pieces are scanned
            receiving.check_goes_along(ctx.rulebook, ctx.state, building, order, plan)
        answers = ctx.about(answers, reading)
        tracked = item.lots
        dated = item.tracking is Tracking.LOT_EXPIRY
        if dated and reading.expiry:
            receiving.check_expiry(reading.expiry, ctx.today)
            answers = answers.having(EXPIRY, reading.expiry)
        if tracked and reading.lot:
            receiving.check_lot(ctx.state, item, reading.lot, answers[EXPIRY])
            answers = answers.having(LOT, reading.lot)
        unit = item.unit(answers.known(UNIT))
        if asks_serials(ctx, item):
            return self._serial(ctx, answers, reading)
        if upto(ctx, answers):
            quantity = receiving.whole_quantity(item, unit, reading.count or Decimal(1))
            over(ctx, answers, quantity)
            return counted_on(ctx, answers.having(UNIT, item.base.code), quantity)
        if reading.count is not None:
            quantity = receiving.whole_quantity(item, unit, reading.count)
            if not over(ctx, answers, quantity) or plan.receive.over is Over.ACCEPT:
                answers = answers.having(COUNT, reading.count)
        return answers

    def _serial(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        """A code that says the number of the piece as well begins the pieces with it."""
        if not reading.serial:
            return answers
        kind = ctx.prompt(Asks.SERIAL)
        filled = kind.take(ctx, answers, reading)
        assert isinstance(filled, Answers)
        return filled

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        if answers[ORDER] is None:
            yield from islice(self._wanted(ctx), LISTED)
            return
        order = order_of(ctx, answers)
        for code in islice(ctx.state.ordered.open_items(order), LISTED_ITEMS):
            item = ctx.ground.items[code]
            yield Pick(code, item.name, f"{item.told(receiving.open_of_item(ctx.state, order, code))} open")

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
        count = sum(1 for _ in ctx.state.ordered.open_items(order_of(ctx, answers)))
        return {
            "note": "1 item is open"
            if count == 1
            else f"{count:,} items are open, in any sequence"
            if count
            else "Nothing is open any more"
        }

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True  # there is one in every line

    def instead(self, ctx: Context, dialogue: Dialogue, prompt: Prompt, reading: Reading) -> Step | None:
        if reading.kind is not Read.ORDER or not asks_order(ctx):
            return announced(ctx, dialogue, reading)
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
        check_free(ctx, answers)
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

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        ahead = ctx.today.year + 1
        return {"note": f"Scan it, or type it like {ahead}-03-31, 31.3.{ahead} or {ahead % 100}0331"}

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
        check_free(ctx, answers)
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
        if quantity < len(answers[SERIALS]):
            raise Refusal(
                "fewer_than_scanned", f"{item.told(len(answers[SERIALS]))} were scanned by their numbers already."
            )
        return self._asked(ctx, answers.having(COUNT, count), quantity)

    def _asked(self, ctx: Context, filled: Answers, quantity: int) -> Answers | Doubt:
        """More than is open is asked about, where the plan says so."""
        more = over(ctx, filled, quantity)
        if not more:
            return filled
        order = orders_of(ctx, filled)[-1]
        plan = receiving.plan_of(ctx.rulebook, ctx.state, order, filled[ITEM])
        if plan.receive.over is not Over.WARN:
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
        if asks_serials(ctx, ctx.item(answers)):
            says = f"Confirm how many {unit.plural} first, and scan their serial numbers; then the next item."
            raise Refusal("serials_first", says)
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


GOODS_PROMPTS: dict[Asks, PromptKind] = {
    Asks.ITEM: ItemKind(),
    Asks.EXPIRY: ExpiryKind(),
    Asks.LOT: LotKind(),
    Asks.UNIT: UNIT_PROMPT,
    Asks.QUANTITY: QuantityKind(),
    Asks.SERIAL: SerialKind(),
}
"""What it asks of them."""
