"""Buttons of flows that carry what a task is about."""

from __future__ import annotations

from mindful_crate.core.floor.answers import TASK, Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Prompt
from mindful_crate.core.scanning.kinds import BIN, REASON, ButtonKind, Context, Step
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.work.tasks.acts import SetDown
from mindful_crate.core.work.tasks.offered import may_go_back


class PutItBack(ButtonKind):
    """What is carried goes back to where it was taken: while its place is asked, and nothing was placed yet."""

    action = "set_down"

    def __init__(self, asks: Asks) -> None:
        self.asks = asks
        """What asks for the place."""

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        carries = prompt is not None and prompt.asks is self.asks and dialogue.answers[TASK] is not None
        if carries and may_go_back(ctx.task(dialogue.answers)):
            return None
        return Refusal("not_now", "Nothing is carried here that could be put back.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Put it back"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return Step(dialogue.answers.without(TASK, BIN, REASON), acts=(SetDown(ctx.task(dialogue.answers).number),))
