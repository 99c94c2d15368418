"""The flows by which stock is corrected on a handset: how many there really are, and what they may be used for."""

from __future__ import annotations

from decimal import Decimal
from typing import ClassVar

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.floor.answers import Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.counting import PhotoAsked
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, Prompt
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import COUNT, ITEM, LOT, ButtonKind, Context, FlowKind, Step, not_at
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.work.counting.acts import AdjustStock, ChangeStatus
from mindful_crate.core.work.counting.correct_prompts import (
    ALL_GONE,
    AT,
    EVERYTHING,
    GONE,
    ON,
    PHOTO,
    PHOTO_SAID,
    REASON,
    STATUS,
    WAS,
    WHY,
    pieces_here,
    reason_given,
)
from mindful_crate.core.work.receiving import checks as receiving


class NoneAtAll(ButtonKind):
    """None is there: nought, and no slip."""

    action = "none_there"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        return not_at(prompt, Asks.STOCK_COUNT)

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "None there"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(COUNT, Decimal(0)), passed(dialogue))


class ThoseAreGone(ButtonKind):
    """All pieces that are gone were said."""

    action = "that_is_all"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if (refused := not_at(prompt, Asks.STOCK_GONE)) is not None:
            return refused
        return None if dialogue.answers[GONE] else Refusal("nothing_gone", "Say the number of a piece first.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return f"Those are gone: {len(answers[GONE])}"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(ALL_GONE, True), passed(dialogue))


class AllThatIsHere(ButtonKind):
    """All that lies in the bin, or is on the plate, gets the other status."""

    action = "all_here"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if dialogue.answers[ITEM] is not None:
            return Refusal("not_now", "It is about one item now: step back first.")
        return not_at(prompt, Asks.STOCK_ITEM)

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return f"All on {answers[ON]}" if answers[ON] else f"All in {answers[AT]}"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(EVERYTHING, True), passed(dialogue))


class NoPhoto(ButtonKind):
    """It goes without a photo, where one need not be."""

    action = "no_photo"
    says = "No photo, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if (refused := not_at(prompt, Asks.STOCK_PHOTO)) is not None:
            return refused
        found = reason_given(ctx, dialogue.answers)
        if found is not None and found.photo is PhotoAsked.MUST:
            return Refusal("no_photo", f"{found.name}: a photo of it must be taken.")
        return None

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "No photo"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(PHOTO_SAID, True), passed(dialogue))


class AdjustFlow(FlowKind):
    """One kind of goods in one place, set to what is there."""

    waits: ClassVar = {
        Asks.STOCK_AT: (),
        Asks.STOCK_ITEM: (Asks.STOCK_AT,),
        Asks.STOCK_GONE: (Asks.STOCK_AT, Asks.STOCK_ITEM),
        Asks.STOCK_COUNT: (Asks.STOCK_AT, Asks.STOCK_ITEM),
        Asks.STOCK_REASON: (),
        Asks.STOCK_PHOTO: (Asks.STOCK_REASON,),
    }
    needed = tuple(waits)
    buttons = (NoneAtAll(), ThoseAreGone(), NoPhoto())

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        item = ctx.item(answers)
        if item.code in ctx.state.serials.kept:
            much = len(pieces_here(ctx, answers)) - len(answers[GONE])
        else:
            count = answers.known(COUNT)
            much = receiving.whole_quantity(item, ctx.unit(answers), count) if count else 0
        act = AdjustStock(
            answers.known(AT), item.code, much, answers[WHY] or "", answers[LOT] or "", answers[ON], Status(answers.known(WAS)),
            answers[GONE], answers[REASON], answers[PHOTO] or "",
        )  # fmt: skip
        return act, Answers()


class RestatusFlow(FlowKind):
    """Goods in one place, or all of them, kept from being used or let be used again."""

    waits: ClassVar = {
        Asks.STOCK_AT: (),
        Asks.STOCK_ITEM: (Asks.STOCK_AT,),
        Asks.NEW_STATUS: (Asks.STOCK_AT, Asks.STOCK_ITEM),
        Asks.STOCK_REASON: (),
        Asks.STOCK_PHOTO: (Asks.STOCK_REASON,),
    }
    needed = tuple(waits)
    buttons = (AllThatIsHere(), NoPhoto())

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        plate, all_of_it = answers[ON], answers[EVERYTHING]
        act = ChangeStatus(
            Status(answers.known(STATUS)), answers[WHY] or "", None if plate else answers.known(AT), plate,
            None if all_of_it else answers.known(ITEM), "" if all_of_it else answers[LOT] or "",
            None if all_of_it else Status(answers.known(WAS)), loose=not plate and not all_of_it, reason=answers[REASON],
            photo=answers[PHOTO] or "",
        )  # fmt: skip
        return act, Answers()


FLOWS = {FlowPurpose.ADJUST: AdjustFlow(), FlowPurpose.RESTATUS: RestatusFlow()}
"""What they do."""
