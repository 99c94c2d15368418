"""The flow by which goods are taken back."""

from __future__ import annotations

from typing import ClassVar

from mindful_crate.core.floor.answers import Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, PlateBy, Prompt
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import LOT, ButtonKind, Context, FlowKind, Step, not_at
from mindful_crate.core.scanning.question import Question, SoFar
from mindful_crate.core.work.returning.acts import DropReturnLine, FinishReturn, NoteReturn
from mindful_crate.core.work.returning.prompts import (
    ALL_SCANNED,
    AS,
    BY,
    MARK,
    PHOTO,
    PIECES,
    SEEN,
    SEEN_SAID,
    build,
    much,
)


class FinishIt(ButtonKind):
    """All of it is scanned."""

    action = "finish_return"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        now = build(ctx)
        if now is None or not now.lines:
            return Refusal("nothing_back", "Nothing is taken back yet: scan an item first.")
        return not_at(prompt, Asks.RETURN_ITEM)

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "That is all of it"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        kind = None if ctx.flow.plate_by is PlateBy.NONE else ctx.flow.plate_kind
        return Step(Answers(), (), acts=(FinishReturn(kind),), ended=True)


class DropLine(ButtonKind):
    """The line scanned last is none."""

    action = "drop_last"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        now = build(ctx)
        if now is None or not now.lines:
            return Refusal("nothing_back", "Nothing is on the list yet.")
        return not_at(prompt, Asks.RETURN_ITEM)

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Take the last off"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        now = build(ctx)
        assert now is not None
        return Step(dialogue.answers, (), acts=(DropReturnLine(now.lines[-1].no),), ended=True)


class NoCustomer(ButtonKind):
    """Whoever sends it back is no customer here."""

    action = "no_customer"
    says = "No customer of ours, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if (refused := not_at(prompt, Asks.RETURNED_BY)) is not None:
            return refused
        if ctx.rulebook.stranger_at(ctx.state.settings.site) in ctx.ground.partners:
            return None
        return Refusal("only_customers", "No rule takes anything back from somebody who is no customer here.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "No customer of ours"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        stranger = ctx.rulebook.stranger_at(ctx.state.settings.site)
        assert stranger is not None
        return settled(ctx, dialogue.answers.having(BY, stranger), passed(dialogue))


class PiecesDone(ButtonKind):
    """All pieces that come back were scanned."""

    action = "all_pieces"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if (refused := not_at(prompt, Asks.RETURN_SERIALS)) is not None:
            return refused
        return None if dialogue.answers[PIECES] else Refusal("nothing_back", "Scan the number of a piece first.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return f"That is all: {len(answers[PIECES])}"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(ALL_SCANNED, True), passed(dialogue))


class NothingSeen(ButtonKind):
    """There is nothing to say of it."""

    action = "nothing_seen"
    says = "No remark, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        return not_at(prompt, Asks.RETURN_REMARK)

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Nothing to remark"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(SEEN_SAID, True), passed(dialogue))


class ReturnFlow(FlowKind):
    """One customer's goods, line by line, until that is all of it; leaving makes nothing."""

    waits: ClassVar = {
        Asks.RETURNED_BY: (),
        Asks.RETURN_ITEM: (Asks.RETURNED_BY,),
        Asks.RETURN_LOT: (Asks.RETURNED_BY, Asks.RETURN_ITEM),
        Asks.RETURN_SERIALS: (Asks.RETURNED_BY, Asks.RETURN_ITEM, Asks.RETURN_LOT),
        Asks.UNIT: (Asks.RETURNED_BY, Asks.RETURN_ITEM),
        Asks.RETURN_COUNT: (Asks.RETURNED_BY, Asks.RETURN_ITEM, Asks.RETURN_LOT, Asks.RETURN_SERIALS, Asks.UNIT),
        Asks.DISPOSITION: (Asks.RETURNED_BY, Asks.RETURN_ITEM, Asks.RETURN_LOT, Asks.RETURN_SERIALS, Asks.RETURN_COUNT),
        Asks.RETURN_REMARK: (
            Asks.RETURNED_BY, Asks.RETURN_ITEM, Asks.RETURN_LOT, Asks.RETURN_SERIALS, Asks.RETURN_COUNT, Asks.DISPOSITION,
        ),
    }  # fmt: skip
    needed = (Asks.RETURNED_BY, Asks.RETURN_ITEM, Asks.RETURN_LOT, Asks.RETURN_SERIALS, Asks.RETURN_COUNT)
    buttons = (FinishIt(), NoCustomer(), PiecesDone(), NothingSeen(), DropLine())

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        act = NoteReturn(
            answers.known(BY), ctx.item(answers).code, much(ctx, answers), answers[LOT] or "", None, answers[PIECES], answers[MARK], answers[AS],
            answers[SEEN] or "", answers[PHOTO] or "",
        )  # fmt: skip
        return act, answers.only(BY, AS)

    def list_told(self, ctx: Context, answers: Answers) -> tuple[str, str]:
        return "So far", "Taken back so far"

    def so_far(self, ctx: Context, answers: Answers) -> tuple[SoFar, ...]:
        now = build(ctx)
        marks = {m.id: m.name for m in ctx.rulebook.marks_at(ctx.state.settings.site)}
        found = []
        for x in now.lines if now else ():
            item = ctx.ground.items[x.item]
            says = ", ".join(s for s in (marks.get(x.mark, "") if x.mark else "", "held" if x.held else "") if s)
            label = f"{item.name}{f' ({says})' if says else ''}"
            found.append(SoFar(x.no, x.item, label, item.told(x.quantity), str(x.quantity), item.base.code))
        return tuple(found)


FLOWS = {FlowPurpose.RETURN: ReturnFlow()}
"""What they do."""
