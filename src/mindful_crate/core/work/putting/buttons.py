"""Buttons of flows that put away."""

from __future__ import annotations

from mindful_crate.core.floor.answers import TASK, Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Prompt
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.scanning.kinds import ButtonKind, Context, Step
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.putting import doing, places
from mindful_crate.core.work.putting.prompts import PASSED_OVER, SOUGHT, next_given
from mindful_crate.core.work.tasks.acts import SetDown


class GiveItBack(ButtonKind):
    """The rest of a task of several plates is given back, between two of them: somebody else may go on with it."""

    action = "give_back"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        asked = prompt is not None and prompt.asks is Asks.TASK
        if asked and putting.begun_by(ctx.state, ctx.person) and not putting.carried_by(ctx.state, ctx.person):
            return None
        return Refusal("not_now", "You have begun no task of several plates whose rest could be given back.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Give the rest back"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        begun = putting.begun_by(ctx.state, ctx.person)
        assert begun is not None
        return Step(Answers(), acts=(SetDown(begun.number),))


class NotThisOne(ButtonKind):
    """What is given next is passed over: it is not found, or cannot be reached now; it comes again after the others."""

    action = "pass_over"
    says = "The next one, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        asked = prompt is not None and prompt.asks is Asks.TASK
        given = next_given(ctx, dialogue.answers) if asked else None
        if given is not None and ctx.state.open_count(ctx.takers, Need.PUT_AWAY) > 1:
            return None
        return Refusal("not_now", "Nothing is given here that could be passed over.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Not this one"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        given, answers = next_given(ctx, dialogue.answers), dialogue.answers
        assert given is not None
        passed_over = (*answers[PASSED_OVER], given)
        if len(passed_over) >= ctx.state.open_count(ctx.takers, Need.PUT_AWAY):
            passed_over = (given,)
        return Step(answers.having(PASSED_OVER, passed_over), dialogue.past)


class WhereElse(ButtonKind):
    """Shows where else what is carried could be put."""

    action = "where_else"
    says = "Where else it could go is shown."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        asked = prompt is not None and prompt.asks is Asks.BIN and dialogue.answers[TASK] is not None
        if asked and not doing.hand_over(ctx.rulebook, ctx.task(dialogue.answers)):
            return None
        return Refusal("not_now", "Nothing is carried here that could go elsewhere.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Where else?"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return Step(dialogue.answers.having(SOUGHT, places.ANY), dialogue.past)
