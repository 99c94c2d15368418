"""Buttons of whoever fetches stop by stop, for orders or for shelves: what is not there, and a task given back."""

from __future__ import annotations

from collections.abc import Callable

from mindful_crate.core.catalog.ids import TaskNo
from mindful_crate.core.floor.answers import TASK, Answers, Doubt
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.tasks import TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, Prompt
from mindful_crate.core.scanning.dialogue import passed
from mindful_crate.core.scanning.kinds import COUNT, ButtonKind, Context, Step
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.work.picking import looking
from mindful_crate.core.work.picking.stops import COUNTED, SHORT, fresh, next_stop, this
from mindful_crate.core.work.receiving.checks import goods_text

_OF_A_STOP = (Asks.PICK_AT, Asks.PICK_ITEM, Asks.PICK_LOT, Asks.PICK_COUNT, Asks.PIECES, Asks.PICK_INTO)


def at_a_stop(ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> bool:
    """Is something of a stop asked?"""
    return prompt is not None and prompt.asks in _OF_A_STOP and next_stop(ctx, dialogue.answers) is not None


class NotThere(ButtonKind):
    """What is left of this stop is not there; why is asked, and what follows the flow says."""

    action = "short"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if at_a_stop(ctx, dialogue, prompt):
            return None
        return Refusal("not_now", "Nothing is fetched here that could be short.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Not all there" if answers[COUNTED] else "Not there"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        answers = dialogue.answers
        move = this(next_stop(ctx, answers))
        if answers[COUNTED] or answers[COUNT]:
            says = "Confirm first what you have of it: the rest of it is asked for then."
            raise Refusal("confirm_first", says)
        goods = looking.goods_of(ctx.state, move)
        says = f"{goods_text(ctx.state, goods)} not in `{move.at}`. Why?"
        return Step(answers, passed(dialogue), Doubt("reason", says, fresh(answers).having(SHORT, str(move.no))))


class GiveBack(ButtonKind):
    """A task of which nothing is in hands is given back, by the act that does that for its kind."""

    action = "give_back"

    def __init__(self, act: Callable[[TaskNo], Named]) -> None:
        self.act = act

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        task = ctx.task(dialogue.answers) if dialogue.answers[TASK] is not None and prompt is not None else None
        if task is not None and task.state is TaskState.TAKEN and not looking.in_hand(task):
            return None
        return Refusal("not_now", "There is no task here that could be given back.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Give it back"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return Step(Answers(), acts=(self.act(ctx.task(dialogue.answers).number),))
