"""The flow by which bins are counted."""

from __future__ import annotations

from decimal import Decimal
from typing import ClassVar

from mindful_crate.core.floor.answers import Answers, Doubt
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, Prompt
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import COUNT, LOT, MUCH, ButtonKind, Context, FlowKind, Step, not_at
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.work.counting import looking
from mindful_crate.core.work.counting.acts import CountAsLabelled, CountGoods, CountNothing, CountPlateHere
from mindful_crate.core.work.counting.prompts import (
    ALL_THERE,
    AT,
    HERE,
    LATER,
    NONE,
    ON,
    PIECES,
    SHEET,
    line_meant,
    lines_here,
    next_bin,
    sheet,
)
from mindful_crate.core.work.receiving import checks as receiving


class NoneThere(ButtonKind):
    """None of the item is there: nought, and no slip."""

    action = "none_there"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if (refused := not_at(prompt, Asks.COUNTED)) is not None:
            return refused
        if line_meant(ctx, dialogue.answers) is None:
            return Refusal("nothing_found", "It is not on the sheet: if none is there, step back.")
        return None

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "None there"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(COUNT, Decimal(0)), passed(dialogue))


class NothingElse(ButtonKind):
    """Nothing else is in the bin: all that is left of it is nought."""

    action = "nothing_else"
    says = "Say whether that is so."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if dialogue.answers[ON] is not None:
            return Refusal("not_now", "Count what is on the plate first.")
        return not_at(prompt, Asks.COUNT_ITEM)

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        done = any(x.bin == answers[AT] and x.counted is not None for x in sheet(ctx, answers).lines)
        return "Nothing else is here" if done else "The bin is empty"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        answers = dialogue.answers
        act = CountNothing(answers.known(SHEET), answers.known(AT))
        mine = [x for x in lines_here(ctx, answers) if x.item is not None]
        if not mine:
            return Step(_after(ctx, answers), (), acts=(act,), ended=True)
        names = ", ".join(looking.told(ctx.state, x) for x in mine[:3]) + (
            f" and {len(mine) - 3} more" if len(mine) > 3 else ""
        )
        doubt = Doubt(
            "yes_no", f"Then none is there of {names}. Is that so?", answers.having(NONE, True), "Yes, none of it"
        )
        return Step(answers, dialogue.past, doubt)


class AsLabelled(ButtonKind):
    """A plate stands there, and is taken to hold what its label says."""

    action = "as_labelled"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if dialogue.answers[ON] is None:
            return Refusal("not_now", "No plate was scanned.")
        return not_at(prompt, Asks.COUNT_ITEM, Asks.COUNTED, Asks.COUNT_LOT, Asks.COUNT_SERIALS)

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "As its label says"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        answers = dialogue.answers
        act = CountAsLabelled(answers.known(SHEET), answers.known(ON))
        return Step(_after(ctx, answers), (), acts=(act,), ended=True)


class ThatIsAll(ButtonKind):
    """All pieces that are there were scanned."""

    action = "that_is_all"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if (refused := not_at(prompt, Asks.COUNT_SERIALS)) is not None:
            return refused
        if not dialogue.answers[PIECES] and line_meant(ctx, dialogue.answers) is None:
            return Refusal("nothing_found", "It is not on the sheet: if none is there, step back.")
        return None

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        many = len(answers[PIECES])
        return f"That is all: {many}" if many else "None there"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(ALL_THERE, True), passed(dialogue))


class BinLater(ButtonKind):
    """The bin comes at the end."""

    action = "count_later"
    says = "It comes at the end."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if (refused := not_at(prompt, Asks.COUNT_AT)) is not None:
            return refused
        bins = dict.fromkeys(x.bin for x in looking.mine(sheet(ctx, dialogue.answers), ctx.person))
        if len([b for b in bins if b not in dialogue.answers[LATER]]) < 2:
            return Refusal("last_bin", "It is the last one.")
        return None

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Later"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        code = next_bin(ctx, dialogue.answers)
        later = (*dialogue.answers[LATER], *((code,) if code else ()))
        return settled(ctx, dialogue.answers.having(LATER, later), passed(dialogue))


def _after(ctx: Context, answers: Answers) -> Answers:
    """What stays after a line: the sheet, and the bin, which is asked again when all of it is counted."""
    return answers.only(SHEET, AT, LATER)


class CountFlow(FlowKind):
    """Bin by bin along a sheet, and in each whatever is there, in any order."""

    waits: ClassVar = {
        Asks.SHEET: (),
        Asks.COUNT_AT: (Asks.SHEET,),
        Asks.COUNT_ITEM: (Asks.SHEET, Asks.COUNT_AT),
        Asks.COUNT_LOT: (Asks.SHEET, Asks.COUNT_AT, Asks.COUNT_ITEM),
        Asks.COUNT_SERIALS: (Asks.SHEET, Asks.COUNT_AT, Asks.COUNT_ITEM, Asks.COUNT_LOT),
        Asks.UNIT: (Asks.SHEET, Asks.COUNT_AT, Asks.COUNT_ITEM),
        Asks.COUNTED: (Asks.SHEET, Asks.COUNT_AT, Asks.COUNT_ITEM, Asks.COUNT_LOT, Asks.COUNT_SERIALS, Asks.UNIT),
    }
    needed = (Asks.SHEET, Asks.COUNT_AT, Asks.COUNT_ITEM, Asks.COUNT_LOT, Asks.COUNT_SERIALS, Asks.COUNTED)
    buttons = (NoneThere(), ThatIsAll(), AsLabelled(), NothingElse(), BinLater())

    def between(self, ctx: Context, answers: Answers, prompt: Prompt | None) -> tuple[tuple[Named, ...], Answers]:
        if answers[SHEET] is None or answers[AT] is None:
            return (), answers
        if answers[HERE] is not None:
            act = CountPlateHere(answers.known(SHEET), answers.known(AT), answers.known(HERE))
            return (act,), _after(ctx, answers)
        if answers[NONE]:
            return (CountNothing(answers.known(SHEET), answers.known(AT)),), _after(ctx, answers)
        return (), answers

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        if answers[HERE] is not None:
            return CountPlateHere(answers.known(SHEET), answers.known(AT), answers.known(HERE)), _after(ctx, answers)
        item = ctx.item(answers)
        if item.code in ctx.state.serials.kept:
            much = len(answers[PIECES])
        else:
            count = answers.known(COUNT)
            much = receiving.whole_quantity(item, ctx.unit(answers), count) if count else 0
        line = line_meant(ctx, answers)
        lot = answers[LOT] or (line.lot if line else "")
        act = CountGoods(answers.known(SHEET), answers.known(AT), item.code, much, lot, answers[ON], answers[PIECES])
        left = [x for x in lines_here(ctx, answers) if x.plate == answers[ON] and x is not line]
        kept = _after(ctx, answers)
        return act, kept.having(ON, answers[ON]) if answers[ON] and left else kept

    def open_work(self, ctx: Context) -> int | None:
        return min(MUCH, sum(len(looking.mine(s, ctx.person)) for s in looking.to_count(ctx.state, ctx.person)))

    def unfinished(self, ctx: Context, answers: Answers) -> str:
        if answers[SHEET] is None or answers[SHEET] not in ctx.state.counts:
            return ""
        left = len(looking.mine(sheet(ctx, answers), ctx.person))
        return f"{counted(left, 'line')} of `{answers[SHEET]}` are still to be counted" if left else ""


FLOWS = {FlowPurpose.COUNT: CountFlow()}
"""What they do."""
