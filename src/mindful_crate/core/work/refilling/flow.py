"""The flow that fills shelves: a refill is begun, fetched stop by stop from reserve, and placed shelf by shelf; then the next."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar

from mindful_crate.core.catalog.amounts import portion
from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.floor.answers import TASK, Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.plates import in_hands
from mindful_crate.core.floor.tasks import Task, TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, Prompt
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.scanning.kinds import (
    BIN,
    MUCH,
    REASON,
    SERIALS,
    ButtonKind,
    Context,
    FlowKind,
    Step,
    Wanted,
    bin_place,
)
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.work import numbered
from mindful_crate.core.work.picking import looking as stopping
from mindful_crate.core.work.picking.buttons import GiveBack, NotThere
from mindful_crate.core.work.picking.stops import (
    SHORT,
    counted_at,
    fresh,
    loose_stop,
    much_of,
    next_stop,
    stands_there,
)
from mindful_crate.core.work.putting import doing
from mindful_crate.core.work.putting.acts import Place, PlacePart
from mindful_crate.core.work.putting.buttons import WhereElse
from mindful_crate.core.work.putting.checks import keeps_some
from mindful_crate.core.work.receiving.checks import goods_text
from mindful_crate.core.work.refilling import looking
from mindful_crate.core.work.refilling.acts import RefillBegin, RefillLeave, RefillShort, RefillTake
from mindful_crate.core.work.refilling.prompts import PASSED, given, told
from mindful_crate.core.work.tasks.buttons import PutItBack
from mindful_crate.core.work.tasks.dialogue import PART, carried_on
from mindful_crate.core.work.tasks.parts import OnlyAPart, carried


class NotThisOne(ButtonKind):
    """What is given next is passed over; it comes again after the others."""

    action = "pass_over"
    says = "The next one, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        asked = prompt is not None and prompt.asks is Asks.REFILL
        several = asked and ctx.state.open_count(ctx.takers, Need.REPLENISH) > 1
        if several and given(ctx, dialogue.answers) is not None:
            return None
        return Refusal("not_now", "Nothing is given here that could be passed over.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Not this one"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        answers = dialogue.answers
        next_ = given(ctx, answers)
        assert next_ is not None
        over = (*answers[PASSED], next_)
        if len(over) >= ctx.state.open_count(ctx.takers, Need.REPLENISH):
            over = (next_,)
        return Step(answers.having(PASSED, over), dialogue.past)


class RefillFlow(FlowKind):
    """A refill is the worker's as soon as it is known; each stop and each shelf is an act of its own, so any handset goes on where it stands."""

    _STOP: ClassVar = (Asks.REFILL, Asks.PICK_AT, Asks.PICK_ITEM, Asks.PICK_LOT)
    waits: ClassVar = {
        Asks.REFILL: (),
        Asks.PICK_AT: (Asks.REFILL,),
        Asks.PICK_ITEM: (Asks.REFILL, Asks.PICK_AT),
        Asks.PICK_LOT: (Asks.REFILL, Asks.PICK_AT, Asks.PICK_ITEM),
        Asks.UNIT: _STOP,
        Asks.PICK_COUNT: (*_STOP, Asks.UNIT),
        Asks.PIECES: (*_STOP, Asks.PICK_COUNT),
        Asks.PART: (*_STOP, Asks.PICK_COUNT, Asks.PIECES),
        Asks.BIN: (*_STOP, Asks.PICK_COUNT, Asks.PIECES, Asks.PART),
        Asks.REVIEW: (Asks.REFILL, Asks.BIN),
    }
    only_with: ClassVar = {Asks.UNIT: Asks.PICK_COUNT}
    needed = (Asks.REFILL, Asks.PICK_AT, Asks.BIN)
    buttons = (NotThere(), PutItBack(Asks.BIN), OnlyAPart(Asks.BIN), WhereElse(), GiveBack(RefillLeave), NotThisOne())

    def between(self, ctx: Context, answers: Answers, prompt: Prompt | None) -> tuple[tuple[Named, ...], Answers]:
        if answers[TASK] is None:
            return (), answers
        task = ctx.task(answers)
        if task.state is TaskState.OPEN:
            return (RefillBegin(task.number),), answers
        return (), answers

    def counted(self, ctx: Context, answers: Answers) -> tuple[Item, int | None] | None:
        return counted_at(ctx, answers)

    def pieces(self, ctx: Context, answers: Answers) -> Wanted | None:
        """Those that are taken, where others lie there too; those that are placed, where it is a part of what is in hands."""
        move = loose_stop(ctx, answers)
        if move is not None:
            if not stands_there(ctx, answers, move):
                return None
            source = stopping.lies_in(ctx.state, move)
            return stopping.pieces_wanted(ctx.state, source, move.goods, (), much_of(answers, move), "is taken")
        if answers[TASK] is None or answers[BIN] is None:
            return None
        task = ctx.task(answers)
        if answers[PART]:
            spot = in_hands(task.number)
            return numbered.pieces_wanted(
                ctx.state, spot, carried(ctx, answers), int(answers.known(PART)), "is placed here"
            )
        return doing.to_place(ctx.state, task)

    def about_to(self, ctx: Context, answers: Answers) -> tuple[str, ...]:
        if answers[TASK] is None or answers[BIN] is None:
            return ()
        task, code = ctx.task(answers), answers.known(BIN)
        goods = carried(ctx, answers)
        what = goods_text(ctx.state, portion(goods, int(answers.known(PART))) if answers[PART] else goods)
        what = what or ", ".join(f"plate `{p}`" for p in task.going.carried)
        return tuple(x for x in (what, f"into `{code}`, {bin_place(ctx, code)}", answers[REASON] or "") if x)

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        task = ctx.task(answers)
        if answers[SHORT]:
            return RefillShort(task.number, int(answers.known(SHORT)), answers[REASON] or ""), fresh(answers)
        if (move := next_stop(ctx, answers)) is not None:
            much = much_of(answers, move) if move.goods else 0
            return RefillTake(task.number, move.no, much, answers[SERIALS]), fresh(answers)
        if answers[PART]:
            item, quantity = carried(ctx, answers)[0].item, int(answers.known(PART))
            part = PlacePart(task.number, answers.known(BIN), item, quantity, answers[REASON] or "", answers[SERIALS])
            return part, answers.only(TASK)
        kept = answers.only(TASK) if _more(task) else Answers()
        return Place(task.number, answers.known(BIN), answers[REASON] or "", answers[SERIALS]), kept

    def follows(self, answers: Answers, acts: Sequence[Named], events: Sequence[Named]) -> Answers:
        return carried_on(answers, events)

    def unfinished(self, ctx: Context, answers: Answers) -> str:
        begun = looking.begun_by(ctx.state, ctx.person)
        return f"Refill `{begun.number}` stays yours" if begun else ""

    def carried(self, ctx: Context) -> list[str]:
        begun = looking.begun_by(ctx.state, ctx.person)
        return [told(ctx, begun)] if begun and stopping.in_hand(begun) else []

    def open_work(self, ctx: Context) -> int | None:
        begun = looking.begun_by(ctx.state, ctx.person)
        return min(MUCH, len(ctx.state.tasks.open_numbers(ctx.takers, Need.REPLENISH, MUCH)) + bool(begun))


def _more(task: Task) -> bool:
    """Is something of it still to be placed once this is?"""
    return keeps_some(task) or len(task.going.carried) > 1
