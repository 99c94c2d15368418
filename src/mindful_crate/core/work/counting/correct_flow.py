"""The flows by which stock is corrected on a handset: how many there really are, and what they may be used for."""

from __future__ import annotations

from decimal import Decimal
from typing import ClassVar

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.floor.answers import Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.counting import PhotoAsked, ReasonFor
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, Prompt
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import COUNT, ITEM, LOT, UNIT, ButtonKind, Context, FlowKind, Step, not_at
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.work.counting.acts import AdjustStock, ChangeStatus, ShiftStock
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
    TO,
    WAS,
    WHY,
    kind_meant,
    pieces_here,
    reason_given,
    used_for,
)
from mindful_crate.core.work.receiving import checks as receiving


class NoneAtAll(ButtonKind):
    """None is there: nought, and no slip."""

    action = "none_there"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if used_for(ctx) is ReasonFor.PLACE:
            return Refusal("not_now", "Say how many lie elsewhere.")
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
        return f"Those are {'elsewhere' if used_for(ctx) is ReasonFor.PLACE else 'gone'}: {len(answers[GONE])}"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(ALL_GONE, True), passed(dialogue))


class AllOfIt(ButtonKind):
    """All of what it is about lies elsewhere."""

    action = "all_of_it"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if kind_meant(ctx, dialogue.answers) is None:
            return Refusal("not_now", "Say first what it is about.")
        return not_at(prompt, Asks.STOCK_COUNT)

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        kind = kind_meant(ctx, answers)
        return f"All {ctx.item(answers).told(kind[1].quantity)}" if kind else "All of it"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        kind = kind_meant(ctx, dialogue.answers)
        assert kind is not None
        whole = dialogue.answers.having(UNIT, ctx.item(dialogue.answers).base.code)
        return settled(ctx, whole.having(COUNT, Decimal(kind[1].quantity)), passed(dialogue))


class AllThatIsHere(ButtonKind):
    """All that lies in the bin, or is on the plate, is meant."""

    action = "all_here"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if dialogue.answers[ITEM] is not None:
            return Refusal("not_now", "It is about one item now: step back first.")
        if used_for(ctx) is ReasonFor.PLACE and dialogue.answers[ON] is None:
            return Refusal("say_what", "Say what of it lies elsewhere, or scan its plate.")
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
        Asks.UNIT: (Asks.STOCK_AT, Asks.STOCK_ITEM),
        Asks.STOCK_COUNT: (Asks.STOCK_AT, Asks.STOCK_ITEM, Asks.UNIT),
        Asks.STOCK_REASON: (),
        Asks.STOCK_PHOTO: (Asks.STOCK_REASON,),
    }
    needed = tuple(a for a in waits if a is not Asks.UNIT)
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


class RelocateFlow(FlowKind):
    """Goods of one place, or a whole plate, that lie elsewhere than the books say."""

    waits: ClassVar = {
        Asks.STOCK_AT: (),
        Asks.STOCK_ITEM: (Asks.STOCK_AT,),
        Asks.STOCK_GONE: (Asks.STOCK_AT, Asks.STOCK_ITEM),
        Asks.UNIT: (Asks.STOCK_AT, Asks.STOCK_ITEM),
        Asks.STOCK_COUNT: (Asks.STOCK_AT, Asks.STOCK_ITEM, Asks.UNIT),
        Asks.STOCK_TO: (Asks.STOCK_AT, Asks.STOCK_ITEM),
        Asks.STOCK_REASON: (),
        Asks.STOCK_PHOTO: (Asks.STOCK_REASON,),
    }
    needed = tuple(a for a in waits if a is not Asks.UNIT)
    buttons = (AllThatIsHere(), AllOfIt(), ThoseAreGone(), NoPhoto())

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        at, to, why = answers.known(AT), answers.known(TO), answers[WHY] or ""
        reason, photo = answers[REASON], answers[PHOTO] or ""
        if answers[EVERYTHING]:
            return ShiftStock(at, to, why, plate=answers[ON], reason=reason, photo=photo), Answers()
        item = ctx.item(answers)
        if item.code in ctx.state.serials.kept:
            much = len(answers[GONE])
        else:
            much = receiving.whole_quantity(item, ctx.unit(answers), answers.known(COUNT))
        act = ShiftStock(
            at, to, why, item.code, much, answers[LOT] or "", answers[ON], Status(answers.known(WAS)), answers[GONE], reason, photo
        )  # fmt: skip
        return act, Answers()


FLOWS = {FlowPurpose.ADJUST: AdjustFlow(), FlowPurpose.RESTATUS: RestatusFlow(), FlowPurpose.RELOCATE: RelocateFlow()}
"""What they do."""
