"""Putting away: its flow, and its row among the matters."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar

from mindful_crate.core.floor.answers import TASK, Answers
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, Prompt
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.scanning.kinds import BIN, MUCH, REASON, Context, FlowKind
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.putting.acts import DropRest, MakeTasks, Place, PutAwayInOffice, Take
from mindful_crate.core.work.putting.buttons import GiveItBack, WhereElse
from mindful_crate.core.work.putting.decide import DECIDES
from mindful_crate.core.work.putting.prompts import NEXT_PLATE, PROMPTS
from mindful_crate.core.work.rows import Matter, telling
from mindful_crate.core.work.tasks.buttons import PutItBack
from mindful_crate.core.work.tasks.dialogue import carried_on
from mindful_crate.core.work.tasks.events import MoveDone


class PutAway(FlowKind):
    """A plate or loose goods are taken up as soon as they are known, and placed in a bin; then the next."""

    waits: ClassVar = {Asks.TASK: (), Asks.BIN: (Asks.TASK,)}
    needed = (Asks.TASK, Asks.BIN)
    buttons = (PutItBack(Asks.BIN), WhereElse(), GiveItBack())

    def between(self, ctx: Context, answers: Answers, prompt: Prompt | None) -> tuple[tuple[Named, ...], Answers]:
        if answers[TASK]:
            task = ctx.task(answers)
            if task.person is None or (task.plan.several and not task.in_hands):
                return (Take(task.number, answers[NEXT_PLATE]),), answers.without(NEXT_PLATE)
        return (), answers

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        task = ctx.task(answers)
        kept = answers.only(TASK) if putting.keeps_some(task) else Answers()  # what is still in hands is gone on with
        return Place(task.number, answers.known(BIN), answers[REASON] or ""), kept

    def follows(self, answers: Answers, acts: Sequence[Named], events: Sequence[Named]) -> Answers:
        if any(isinstance(a, MakeTasks) for a in acts):  # what was made of what was scanned is carried from here on
            answers = next((answers.having(TASK, e.task) for e in events if isinstance(e, MoveDone)), answers)
        return carried_on(answers, events)

    def open_work(self, ctx: Context) -> int | None:
        begun = putting.begun_by(ctx.state, ctx.person)
        waits = ctx.state.tasks.open_numbers(ctx.crews, Need.PUT_AWAY, MUCH)
        return min(MUCH, len(waits) + bool(begun) + len(ctx.state.rests.of_need(Need.PUT_AWAY)))

    def carried(self, ctx: Context) -> list[str]:
        task = putting.carried_by(ctx.state, ctx.person)
        return [putting.told(ctx.state, task)] if task else []


ASKED = (
    telling(MakeTasks, lambda a: f"Tasks are made of what waits: {', '.join(f'`{k}`' for k in a.keys)}"),
    telling(
        PutAwayInOffice,
        lambda a: (
            f"The office puts away task `{a.task}`"
            + (f" into `{a.bin}`" if a.bin else " where it was shown to go")
            + (f": {a.why.strip()}" if a.why.strip() else "")
        ),
    ),
    telling(DropRest, lambda a: f"`{a.key}` is taken off the list of what waits: {a.why}"),
)
"""What is asked, in words."""
PUTTING = Matter("putting", DECIDES, flows={FlowPurpose.PUT_AWAY: PutAway()}, prompts=PROMPTS, asked=ASKED)
"""What it brings."""
