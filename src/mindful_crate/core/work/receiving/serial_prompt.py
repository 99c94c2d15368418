"""What is asked of goods that are kept by serial numbers as they come: the number of each piece."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.floor.answers import Answers
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Prompt
from mindful_crate.core.scanning.codes import any_bin, item_code, new_serial, plain
from mindful_crate.core.scanning.kinds import COUNT, ITEM, SERIALS, UNIT, Codes, Context
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.work import numbered
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.receiving.coming import check_free, open_on, orders_of, still_open


def asks_serials(ctx: Context, item: Item) -> bool:
    """Does this flow ask for the number of each piece of an item?"""
    return item.numbered and any(p.asks is Asks.SERIAL for p in ctx.flow.prompts)


def missing(ctx: Context, answers: Answers) -> int:
    """How many pieces of a known quantity still have no number."""
    if answers[ITEM] is None or answers[COUNT] is None or not asks_serials(ctx, ctx.item(answers)):
        return 0
    return _quantity(ctx, answers) - len(answers[SERIALS])


def _quantity(ctx: Context, answers: Answers) -> int:
    return receiving.whole_quantity(ctx.item(answers), ctx.unit(answers), answers.known(COUNT))


class SerialKind(numbered.OneByOne):
    """The number of each piece that comes. Asked before the quantity, the pieces are counted by it."""

    def about(self, ctx: Context, answers: Answers) -> tuple[Item, int] | None:
        if answers[ITEM] is None or not ctx.item(answers).numbered:
            return None
        return ctx.item(answers), _quantity(ctx, answers) if answers[COUNT] is not None else 0

    def check(self, ctx: Context, answers: Answers, serial: str) -> None:
        item = ctx.item(answers)
        check_free(ctx, answers)
        numbered.check_new(ctx.state, item, (serial,))
        wanted = named_by_orders(ctx, answers)
        if wanted and serial not in wanted:
            says = f"`{serial}` is none of the pieces of {item.name} that {open_on(ctx, answers)} names: {numbered.numbers_told(wanted)}."
            raise Refusal("other_serial", says)
        other = numbered.elsewhere(ctx, item.code, serial)
        if other is not None:
            says = f"@{other.person} has scanned `{serial}` of {item.name} on handset `{other.device}` just now."
            raise Refusal("serial_taken", says)

    def filled(self, ctx: Context, answers: Answers) -> Answers:
        """All that is open is there: how many is not asked any more."""
        if answers[COUNT] is None and len(answers[SERIALS]) == still_open(ctx, answers):
            return all_scanned(ctx, answers)
        return answers

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        item = ctx.item(answers)
        return {"note": f"{item.told(still_open(ctx, answers))} still open on {open_on(ctx, answers)}"}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return answers[ITEM] is not None and ctx.item(answers).numbered

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        item, wanted = ctx.item(answers), named_by_orders(ctx, answers)
        if wanted:
            for number in [n for n in wanted if n not in answers[SERIALS]][:2]:
                yield plain(f"piece {number}", number)
        else:
            yield plain("a new piece", new_serial(ctx, item, len(answers[SERIALS])))
        for number in answers[SERIALS][-1:]:
            yield plain(f"piece {number}, once more", number)
        rows = ctx.ground.serials.rows_of_item(item.code)
        for row in rows[:1]:
            yield plain("a piece that is in stock", ctx.ground.serials.serial[row])
        yield from item_code(ctx, item, item.base.code)
        yield from any_bin(ctx)


def all_scanned(ctx: Context, answers: Answers) -> Answers:
    """The pieces that were scanned are the quantity."""
    return answers.having(COUNT, Decimal(len(answers[SERIALS]))).having(UNIT, ctx.item(answers).base.code)


def named_by_orders(ctx: Context, answers: Answers) -> tuple[str, ...]:
    """The numbers that the orders fix for an item, where they fix each that is open; none: any will do."""
    item, found = answers.known(ITEM), []
    for order in orders_of(ctx, answers):
        for line in order.lines:
            if line.item != item or ctx.state.open_quantity(order, line) <= 0:
                continue
            if len(line.serials) < line.quantity:
                return ()
            found += [n for n in line.serials if not ctx.state.serials.here(item, n)]
    return tuple(found)
