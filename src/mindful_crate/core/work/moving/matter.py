"""Moves inside the site: the flows for plates and for goods, and their row among the matters."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from typing import ClassVar

from mindful_crate.core.catalog.amounts import portion
from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import TaskNo
from mindful_crate.core.floor.answers import PLATE, TASK, Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.plates import in_hands
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, Prompt
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.scanning.dialogue import settled
from mindful_crate.core.scanning.kinds import (
    BIN,
    COUNT,
    ITEM,
    LOT,
    REASON,
    SERIALS,
    UNIT,
    ButtonKind,
    Context,
    FlowKind,
    Step,
    Wanted,
    bin_place,
)
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.work import numbered
from mindful_crate.core.work.counting.correct_flow import NoPhoto
from mindful_crate.core.work.counting.correct_prompts import PHOTO, WHY, reason_given
from mindful_crate.core.work.counting.correct_prompts import REASON as STOCK_REASON
from mindful_crate.core.work.moving import checks as moving
from mindful_crate.core.work.moving.acts import PlaceGoods, PlacePlates, TakeGoods, TakePlate
from mindful_crate.core.work.moving.decide import DECIDES
from mindful_crate.core.work.moving.from_prompts import (
    FROM_BIN,
    FROM_PLATE,
    FROM_PROMPTS,
    GOING,
    base_count,
    take_count,
    there,
)
from mindful_crate.core.work.moving.to_prompts import TO_PROMPTS
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.rows import Matter
from mindful_crate.core.work.tasks.dialogue import ON, PART, TASKS, carried_on
from mindful_crate.core.work.tasks.parts import OnlyAPart


def _into(ctx: Context, answers: Answers) -> tuple[str, ...]:
    """Where something goes, and why there, for a last look."""
    code, on = answers.known(BIN), answers[ON]
    where = f"onto `{on}` in `{code}`" if on else f"into `{code}`"
    given = reason_given(ctx, answers)
    why = tuple(x for x in (given.name if given else "", _words(answers)) if x)
    return (f"{where}, {bin_place(ctx, code)}", *why)


WHY_ASKED: dict[Asks, tuple[Asks, ...]] = {Asks.STOCK_REASON: (Asks.TO,), Asks.STOCK_PHOTO: (Asks.STOCK_REASON,)}
"""Why it is moved, and a photo of it, where a flow asks for that: once it is clear what goes where."""


def _words(answers: Answers) -> str:
    """What was written: why there and not where the rules say, why at all."""
    return "; ".join(x for x in (answers[REASON], answers[WHY]) if x)


class SetDown(ButtonKind):
    """No further plate is taken up."""

    action = "go_on"
    says = "Nothing more is taken up."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if prompt is not None and prompt.asks is Asks.PLATES and dialogue.answers[TASKS]:
            return None
        return Refusal("not_now", "Take a plate up first.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Set down"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(GOING, True), ())


class MovePlates(FlowKind):
    """Plates are taken up as they are scanned, one or several, and placed all or one by one."""

    waits: ClassVar = {
        Asks.PLATES: (), Asks.TO: (Asks.PLATES,), **WHY_ASKED, Asks.REVIEW: (Asks.PLATES, Asks.TO, *WHY_ASKED),
    }  # fmt: skip
    needed = (Asks.PLATES, Asks.TO)
    buttons = (SetDown(), NoPhoto())

    def between(self, ctx: Context, answers: Answers, prompt: Prompt | None) -> tuple[tuple[Named, ...], Answers]:
        if answers[PLATE] is None:
            return (), answers
        return (TakePlate(ctx.flow.id, answers.known(PLATE)),), answers.having(PLATE, None)

    @staticmethod
    def _placed(answers: Answers) -> tuple[TaskNo, ...]:
        """The tasks whose plates are placed: one by one, or all that are carried."""
        return (answers.known(TASK),) if answers[TASK] else answers[TASKS]

    def about_to(self, ctx: Context, answers: Answers) -> tuple[str, ...]:
        placed = self._placed(answers)
        if not placed or answers[BIN] is None:
            return ()
        plates = [p for t in placed if (p := ctx.state.tasks[t].plate)]
        return (f"{counted(len(plates), 'plate')}: {', '.join(f'`{p}`' for p in plates)}", *_into(ctx, answers))

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        """What is still carried is asked for next."""
        placed = self._placed(answers)
        left = tuple(t for t in answers[TASKS] if t not in placed)
        act = PlacePlates(
            placed, answers.known(BIN), answers[ON], _words(answers), answers[STOCK_REASON], answers[PHOTO] or ""
        )
        return act, Answers().having(TASKS, left).having(GOING, bool(left))

    def follows(self, answers: Answers, acts: Sequence[Named], events: Sequence[Named]) -> Answers:
        return carried_on(answers, events)

    def carried(self, ctx: Context) -> list[str]:
        plates = [ctx.state.tasks[n].plate for n in moving.carried_plates(ctx.state, ctx.person)]
        return [f"plate `{n}`" for n in plates if n]


class MoveGoods(FlowKind):
    """Goods are taken out of a bin or off a plate once source, item and count are known, and placed whole or in parts."""

    waits: ClassVar = {
        Asks.FROM: (), Asks.GOODS: (), Asks.LOT_THERE: (Asks.FROM, Asks.GOODS), Asks.UNIT: (Asks.GOODS,), Asks.COUNT: (Asks.GOODS, Asks.UNIT), Asks.PART: (),
        Asks.PIECES: (Asks.FROM, Asks.GOODS, Asks.LOT_THERE, Asks.COUNT),
        Asks.TO: (Asks.FROM, Asks.GOODS, Asks.LOT_THERE, Asks.COUNT, Asks.PIECES),
        **WHY_ASKED,
        Asks.REVIEW: (Asks.FROM, Asks.GOODS, Asks.LOT_THERE, Asks.COUNT, Asks.PIECES, Asks.PART, Asks.TO, *WHY_ASKED),
    }  # fmt: skip
    needed = (Asks.FROM, Asks.GOODS, Asks.COUNT, Asks.TO)
    buttons = (OnlyAPart(Asks.TO), NoPhoto())

    def counted(self, ctx: Context, answers: Answers) -> tuple[Item, int | None] | None:
        asked = super().counted(ctx, answers) if answers[TASK] is None else None
        if asked is None or answers[FROM_BIN] is None:
            return asked
        return asked[0], sum(g.quantity for g in there(ctx, answers))

    def between(self, ctx: Context, answers: Answers, prompt: Prompt | None) -> tuple[tuple[Named, ...], Answers]:
        """The count then tells what is still to come."""
        ready = answers[FROM_BIN] and answers[ITEM] and answers[COUNT]
        if answers[TASK] or not ready or not prompt or prompt.asks is not Asks.TO:
            return (), answers
        count = take_count(ctx, answers)
        left = base_count(ctx, answers) - count
        act = TakeGoods(
            ctx.flow.id, answers.known(FROM_BIN), answers.known(ITEM), count, answers[LOT] or "", answers[FROM_PLATE],
            answers[SERIALS],
        )  # fmt: skip
        rest = Decimal(left) if left and ctx.flow.takes_by else None
        return (act,), answers.only(ITEM, UNIT, LOT).having(COUNT, rest)

    def pieces(self, ctx: Context, answers: Answers) -> Wanted | None:
        """Those that are taken, or those in hands that are placed, where others are not."""
        if answers[TASK]:
            if answers[BIN] is None or not answers[PART]:
                return None
            task = ctx.task(answers)
            part = int(answers.known(PART))
            return numbered.pieces_wanted(ctx.state, in_hands(task.number), task.goods, part, "is placed here")
        if answers[FROM_BIN] is None or answers[ITEM] is None or answers[COUNT] is None:
            return None
        holder = moving.goods_to_take(ctx.state, answers.known(FROM_BIN), answers[FROM_PLATE], answers.known(ITEM))[0]
        spot = moving.source(answers.known(FROM_BIN), holder)
        return numbered.pieces_wanted(ctx.state, spot, there(ctx, answers), take_count(ctx, answers), "is taken")

    def about_to(self, ctx: Context, answers: Answers) -> tuple[str, ...]:
        if answers[TASK] is None or answers[BIN] is None:
            return ()
        task = ctx.task(answers)
        goods = portion(task.goods, int(answers.known(PART))) if answers[PART] else task.goods
        return (receiving.goods_text(ctx.state, goods), f"from `{task.from_bin}`", *_into(ctx, answers))

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        """What the worker came for and has not taken yet is gone on with."""
        part = int(answers.known(PART)) if answers[PART] else None
        act = PlaceGoods(
            ctx.flow.id,
            answers.known(TASK),
            answers.known(BIN),
            answers[ON],
            part,
            _words(answers),
            answers[SERIALS],
            answers[STOCK_REASON],
            answers[PHOTO] or "",
        )
        if answers[COUNT] and answers[ITEM]:
            return act, answers.only(ITEM, COUNT, LOT).having(UNIT, ctx.item(answers).base.code)
        return act, Answers()

    def follows(self, answers: Answers, acts: Sequence[Named], events: Sequence[Named]) -> Answers:
        return carried_on(answers, events)

    def carried(self, ctx: Context) -> list[str]:
        task = moving.carried_goods(ctx.state, ctx.person)
        items = ctx.ground.items
        return [f"{items[g.item].told(g.quantity)} of {items[g.item].name}" for g in task.goods] if task else []


MOVING = Matter(
    "moving", DECIDES,
    flows={FlowPurpose.MOVE_PLATES: MovePlates(), FlowPurpose.MOVE_GOODS: MoveGoods()}, prompts={**FROM_PROMPTS, **TO_PROMPTS},
)  # fmt: skip
"""What it brings."""
