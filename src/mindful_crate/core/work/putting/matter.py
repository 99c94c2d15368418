"""Putting away: its flow, and its row among the matters."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar

from mindful_crate.core.floor.answers import TASK, Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, Prompt
from mindful_crate.core.scanning.kinds import BIN, REASON, ButtonKind, Context, FlowKind, Step
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.putting.acts import Place, Take
from mindful_crate.core.work.putting.decide import DECIDES
from mindful_crate.core.work.putting.prompts import PROMPTS
from mindful_crate.core.work.rows import Matter
from mindful_crate.core.work.tasks.acts import SetDown
from mindful_crate.core.work.tasks.dialogue import carried_on
from mindful_crate.core.work.tasks.offered import may_go_back


class PutItBack(ButtonKind):
    """What is carried goes back to where it was taken: while its bin is asked, and nothing was placed yet."""

    action = "set_down"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        carries = prompt is not None and prompt.asks is Asks.BIN and dialogue.answers[TASK] is not None
        if carries and may_go_back(ctx.task(dialogue.answers)):
            return None
        return Refusal("not_now", "Nothing is carried here that could be put back.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Put it back"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return Step(Answers(), acts=(SetDown(ctx.task(dialogue.answers).number),))


class PutAway(FlowKind):
    """A plate or loose goods are taken up as soon as they are known, and placed in a bin; then the next."""

    waits: ClassVar = {Asks.TASK: (), Asks.BIN: (Asks.TASK,)}
    needed = (Asks.TASK, Asks.BIN)
    buttons = (PutItBack(),)

    def between(self, ctx: Context, answers: Answers, prompt: Prompt | None) -> tuple[tuple[Named, ...], Answers]:
        if answers[TASK] and ctx.task(answers).person is None:
            return (Take(answers.known(TASK)),), answers
        return (), answers

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        return Place(answers.known(TASK), answers.known(BIN), answers[REASON] or ""), Answers()

    def follows(self, answers: Answers, acts: Sequence[Named], events: Sequence[Named]) -> Answers:
        return carried_on(answers, events)

    def carried(self, ctx: Context) -> list[str]:
        task = putting.carried_by(ctx.state, ctx.person)
        return [putting.told(ctx.state, task)] if task else []


PUTTING = Matter("putting", DECIDES, flows={FlowPurpose.PUT_AWAY: PutAway()}, prompts=PROMPTS)
"""What it brings."""
