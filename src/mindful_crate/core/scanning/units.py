"""In which unit something is counted: asked by flows of every kind that count, where there is a choice and no code said it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from mindful_crate.core.catalog.goods import Item, ItemUnit
from mindful_crate.core.floor.answers import Answers
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.words.parts import any_of
from mindful_crate.core.scanning.codes import any_bin, item_code, unknown
from mindful_crate.core.scanning.kinds import UNIT, UNIT_ASKED, UNIT_SAID, Codes, Context, PromptKind
from mindful_crate.core.scanning.question import Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading


class UnitKind(PromptKind):
    """In which unit is it counted? Only where more than one is possible: a question with one answer is none."""

    wants = "a unit of the item"
    shape: Shape = "carton"
    fixable = True

    def needed(self, ctx: Context, answers: Answers) -> bool:
        counted = ctx.kind.counted(ctx, answers)
        if counted is None or answers[UNIT_SAID] == counted[0].code:
            return False
        return len(_possible(*counted)) > 1

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        item, most = self._counted(ctx, answers)
        if reading.kind is Read.ITEM and reading.item != item.code:
            says = f"That is `{reading.item}`; `{item.code}` {item.name} is counted. Scan or choose its unit."
            raise Refusal("other_item", says)
        by_code = reading.unit if reading.kind is Read.ITEM and reading.says_unit else None
        unit = item.unit(by_code) if by_code else self._named(ctx, answers, item, reading)
        if most is not None and unit.quantity > most:
            says = f"A {unit.name} is {item.told(unit.quantity)}, more than the {item.told(most)} this is about. Choose a smaller unit."
            raise Refusal("more_than_wanted", says)
        return answers.having(UNIT, unit.code).having(UNIT_SAID, item.code).having(UNIT_ASKED, True)

    def _named(self, ctx: Context, answers: Answers, item: Item, reading: Reading) -> ItemUnit:
        """The unit of that code or word."""
        found = _called(item, reading)
        if found is None and reading.kind not in (Read.UNKNOWN, Read.ITEM):
            raise self.wrong(ctx, answers, reading)
        if found is None:
            names = any_of(u.name for u in item.units)
            raise Refusal("no_such_unit", f"{item.name} is not counted by the `{reading.code}`. It is by the {names}.")
        return found

    @staticmethod
    def _counted(ctx: Context, answers: Answers) -> tuple[Item, int | None]:
        counted = ctx.kind.counted(ctx, answers)
        if counted is None:
            raise Refusal("not_counted", "There is nothing to be counted in a unit now.")
        return counted

    def again(self, answers: Answers) -> str:
        return (answers[UNIT] or "") if answers[UNIT_SAID] else ""

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        counted = ctx.kind.counted(ctx, answers)
        unit = _called(counted[0], reading) if counted else None
        return f"by the {unit.name}" if unit else ""

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return answers[UNIT_ASKED] or self.needed(ctx, answers)

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        item, most = self._counted(ctx, answers)
        # what an order line is counted in stands first
        for unit in sorted(_possible(item, most), key=lambda u: u.code != answers[UNIT]):
            yield Pick(unit.code, unit.name, item.told(unit.quantity) if unit.quantity > 1 else "")

    def title(self, ctx: Context, answers: Answers) -> str:
        return "In which unit do you count?"

    def asked(self, ctx: Context, answers: Answers) -> str:
        return f"a unit of {self._counted(ctx, answers)[0].name}"

    def shows(self, ctx: Context, answers: Answers, prompt: object) -> dict[str, Any]:
        item, most = self._counted(ctx, answers)
        return {"note": f"{item.told(most)} in all" if most is not None else "Choose it, or scan the barcode of one"}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        item, _ = self._counted(ctx, answers)
        for unit in item.units[:3]:
            yield from item_code(ctx, item, unit.code)
        yield from any_bin(ctx)
        yield from unknown()


def _called(item: Item, reading: Reading) -> ItemUnit | None:
    """The unit of an item that has that code or name."""
    said = reading.code.strip().lower()
    return next((u for u in item.units if said in (u.code.lower(), u.name.lower(), u.plural.lower())), None)


def _possible(item: Item, most: int | None) -> list[ItemUnit]:
    """The units of which one at least is there to be counted."""
    return [u for u in item.units if most is None or u.quantity <= most]


UNIT_PROMPT = UnitKind()
"""Asks for the unit, in whichever flow."""
