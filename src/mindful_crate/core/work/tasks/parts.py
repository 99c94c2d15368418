"""A part of what is carried: asked for, and said, by whoever carries something."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.floor.answers import TASK, Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Prompt
from mindful_crate.core.scanning.codes import item_code, typed
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import ITEM, ButtonKind, Codes, Context, NumberKind, Step
from mindful_crate.core.scanning.question import Pick, Question
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.tasks.dialogue import PART


def carried_of(state: State, task: Task, item: ItemCode | None = None) -> tuple[Goods, ...]:
    """The loose goods in hands, or what is on the plate itself that is carried; of an item, or all."""
    goods = state.plates.goods_on(task.plate) if task.plate else task.going.hands and task.goods
    return tuple(g for g in goods or () if item in (None, g.item))


def carried(ctx: Context, answers: Answers) -> tuple[Goods, ...]:
    """What is carried, of the item of which a part goes elsewhere if it is known."""
    return carried_of(ctx.state, ctx.task(answers), answers[ITEM])


def much(goods: Iterable[Goods]) -> int:
    """How much some goods are, in base units."""
    return sum(g.quantity for g in goods)


class PartKind(NumberKind):
    """How many of the carried goods go into the next bin? Asked when the worker says that it is only a part; of a plate with several
    items it is asked of which first. The barcode of a case counts a case."""

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[PART] == 0

    def _items(self, ctx: Context, answers: Answers) -> list[ItemCode]:
        return list(dict.fromkeys(g.item for g in carried(ctx, answers)))

    def _item(self, ctx: Context, answers: Answers) -> Item | None:
        """The item it is about; None while it may be several."""
        items = self._items(ctx, answers)
        return ctx.ground.items[items[0]] if len(items) == 1 else None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        item = self._item(ctx, answers)
        if reading.kind is Read.ITEM and reading.item in self._items(ctx, answers):
            if item is None:
                return answers.having(ITEM, reading.item)
            unit = item.unit(reading.unit) if reading.unit else item.base
            if unit.quantity > 1:
                return self._part(ctx, answers, item, unit.quantity)
        if item is None:
            raise self.wrong(ctx, answers, reading)
        if reading.kind is not Read.NUMBER or reading.count is None:
            raise Refusal("no_number", f"Enter how many {item.base.plural} go into the next bin.")
        return self._part(ctx, answers, item, receiving.whole_quantity(item, item.base, reading.count))

    def _part(self, ctx: Context, answers: Answers, item: Item, quantity: int) -> Answers:
        have = much(carried(ctx, answers))
        if quantity > have:
            raise Refusal("not_carried", f"You carry {item.told(have)}; {item.told(quantity)} cannot be placed.")
        return answers.having(PART, Decimal(quantity))

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        if self._item(ctx, answers) is None:
            for code in self._items(ctx, answers):
                item = ctx.ground.items[code]
                yield Pick(code, item.name, item.told(much(carried_of(ctx.state, ctx.task(answers), code))))

    def title(self, ctx: Context, answers: Answers) -> str:
        item = self._item(ctx, answers)
        return (
            f"How many {item.base.plural} go into the next bin?" if item else "Of which item does a part go elsewhere?"
        )

    def asked(self, ctx: Context, answers: Answers) -> str:
        return "an item that you carry" if self._item(ctx, answers) is None else self.wants

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        item = self._item(ctx, answers)
        if item is None:
            return {"keys": "scan", "shape": "carton", "note": "Scan it, or pick it from the list"}
        return {"note": f"You carry {item.told(much(carried(ctx, answers)))}"}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return False  # most of what is carried goes to one place

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        item = self._item(ctx, answers)
        if item is None:
            for code in self._items(ctx, answers)[:3]:
                yield from item_code(ctx, ctx.ground.items[code], ctx.ground.items[code].base.code)
            return
        have = much(carried(ctx, answers))
        yield typed("half of it", str(max(1, have // 2)))
        yield typed("one too many", str(have + 1))
        yield typed("zero", "0")
        for unit in item.units[1:2]:
            yield from item_code(ctx, item, unit.code)


class OnlyAPart(ButtonKind):
    """A part of what is carried goes into the next bin, if the flow has a question for it and there is more than one."""

    action = "part"
    says = "Only a part, then."

    def __init__(self, asks: Asks) -> None:
        self.asks = asks
        """What asks for the place."""

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        answers = dialogue.answers
        asked = prompt is not None and prompt.asks is self.asks and answers[TASK] is not None and not answers[PART]
        may = asked and any(p.asks is Asks.PART for p in ctx.flow.prompts)
        if may and much(carried(ctx, answers)) > 1:
            return None
        return Refusal("not_now", "There is nothing to split here.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Only a part"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(PART, Decimal(0)), passed(dialogue))
