"""Moves inside the site: the flows for plates and for goods, and their row among the matters."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from typing import ClassVar

from mindful_crate.core.floor.answers import PLATE, TASK, Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, Prompt
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import BIN, COUNT, ITEM, LOT, REASON, UNIT, ButtonKind, Context, FlowKind, Step
from mindful_crate.core.scanning.question import Question
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
)
from mindful_crate.core.work.moving.to_prompts import TO_PROMPTS
from mindful_crate.core.work.rows import Matter
from mindful_crate.core.work.tasks.dialogue import ON, PART, TASKS, carried_on


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


class OnlyAPart(ButtonKind):
    """A part of the carried goods goes into the next bin, if the flow has a question for it and there is more than one."""

    action = "part"
    says = "Only a part, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        answers = dialogue.answers
        asked = prompt is not None and prompt.asks is Asks.TO and answers[TASK] is not None
        may = asked and any(p.asks is Asks.PART for p in ctx.flow.prompts)
        if may and sum(g.quantity for g in ctx.task(answers).goods) > 1:
            return None
        return Refusal("not_now", "There is nothing to split here.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Only a part"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(PART, Decimal(0)), passed(dialogue))


class MovePlates(FlowKind):
    """Plates are taken up as they are scanned, one or several, and placed all or one by one."""

    waits: ClassVar = {Asks.PLATES: (), Asks.TO: (Asks.PLATES,)}
    needed = (Asks.PLATES, Asks.TO)
    buttons = (SetDown(),)

    def between(self, ctx: Context, answers: Answers, prompt: Prompt | None) -> tuple[tuple[Named, ...], Answers]:
        if answers[PLATE] is None:
            return (), answers
        return (TakePlate(ctx.flow.id, answers.known(PLATE)),), answers.having(PLATE, None)

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        """What is still carried is asked for next."""
        placed = (answers.known(TASK),) if answers[TASK] else answers[TASKS]
        left = tuple(t for t in answers[TASKS] if t not in placed)
        act = PlacePlates(placed, answers.known(BIN), answers[ON], answers[REASON] or "")
        return act, Answers().having(TASKS, left).having(GOING, bool(left))

    def follows(self, answers: Answers, acts: Sequence[Named], events: Sequence[Named]) -> Answers:
        return carried_on(answers, events)

    def carried(self, ctx: Context) -> list[str]:
        plates = [ctx.state.tasks[n].plate for n in moving.carried_plates(ctx.state, ctx.person)]
        return [f"plate `{n}`" for n in plates if n]


class MoveGoods(FlowKind):
    """Goods are taken out of a bin or off a plate once source, item and count are known, and placed whole or in parts."""

    waits: ClassVar = {
        Asks.FROM: (), Asks.GOODS: (), Asks.LOT_THERE: (Asks.FROM, Asks.GOODS), Asks.COUNT: (Asks.GOODS,), Asks.PART: (),
        Asks.TO: (Asks.FROM, Asks.GOODS, Asks.LOT_THERE, Asks.COUNT),
    }  # fmt: skip
    needed = (Asks.FROM, Asks.GOODS, Asks.COUNT, Asks.TO)
    buttons = (OnlyAPart(),)

    def between(self, ctx: Context, answers: Answers, prompt: Prompt | None) -> tuple[tuple[Named, ...], Answers]:
        """The count then tells what is still to come."""
        ready = answers[FROM_BIN] and answers[ITEM] and answers[COUNT]
        if answers[TASK] or not ready or not prompt or prompt.asks is not Asks.TO:
            return (), answers
        count = take_count(ctx, answers)
        left = base_count(ctx, answers) - count
        act = TakeGoods(
            ctx.flow.id, answers.known(FROM_BIN), answers.known(ITEM), count, answers[LOT] or "", answers[FROM_PLATE]
        )
        rest = Decimal(left) if left and ctx.flow.takes_by else None
        return (act,), answers.only(ITEM, UNIT, LOT).having(COUNT, rest)

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        """What the worker came for and has not taken yet is gone on with."""
        part = int(answers.known(PART)) if answers[PART] else None
        act = PlaceGoods(ctx.flow.id, answers.known(TASK), answers.known(BIN), answers[ON], part, answers[REASON] or "")
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
