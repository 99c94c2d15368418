"""A last look, before anything is done: whatever a flow is about to do is shown once more, and confirmed or stepped back from."""

from __future__ import annotations

from typing import Any

from mindful_crate.core.floor.answers import Answers, flag
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Prompt
from mindful_crate.core.scanning.codes import any_bin
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import ButtonKind, Codes, Context, PromptKind, Step
from mindful_crate.core.scanning.question import Question, Shape
from mindful_crate.core.scanning.reading import Reading, told
from mindful_crate.core.work.rows import Matter

LOOKED = flag("looked")
"""What is about to be done was looked at."""


class ReviewKind(PromptKind):
    """Is that so? Asked where the flow has something to show."""

    wants = "the button"
    shape: Shape = "ticket"
    lasts = (LOOKED,)

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return not answers[LOOKED] and bool(ctx.kind.about_to(ctx, answers))

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        raise Refusal(
            "look_first", f"That is {told(reading)}. Look at what is shown, then press that it is so, or step back."
        )

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Is that so?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        return {"facts": ctx.kind.about_to(ctx, answers), "keys": "none"}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield from any_bin(ctx)


class ItIsSo(ButtonKind):
    """What is shown is done."""

    action = "it_is_so"
    says = "Looked at."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if prompt is not None and prompt.asks is Asks.REVIEW:
            return None
        return Refusal("not_now", "There is nothing to look at once more.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "It is so"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(LOOKED, True), passed(dialogue))


REVIEWING = Matter("reviewing", prompts={Asks.REVIEW: ReviewKind()}, everywhere=(ItIsSo(),))
"""What it brings."""
