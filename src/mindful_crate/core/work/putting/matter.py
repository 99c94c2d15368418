"""Putting away: its flow, and its row among the matters."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar

from mindful_crate.core.catalog.amounts import portion
from mindful_crate.core.floor.answers import TASK, Answers
from mindful_crate.core.floor.plates import in_hands, on_plate
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, Prompt
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.scanning.kinds import BIN, MUCH, REASON, SERIALS, Context, FlowKind, Wanted, bin_place
from mindful_crate.core.work import numbered
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.putting import doing
from mindful_crate.core.work.putting.acts import DropRest, MakeTasks, Place, PlacePart, PutAwayInOffice, Take
from mindful_crate.core.work.putting.buttons import GiveItBack, NotThisOne, WhereElse
from mindful_crate.core.work.putting.decide import DECIDES
from mindful_crate.core.work.putting.prompts import NEXT_PLATE, PROMPTS
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.rows import Matter, telling
from mindful_crate.core.work.tasks.buttons import PutItBack
from mindful_crate.core.work.tasks.dialogue import PART, carried_on
from mindful_crate.core.work.tasks.events import MoveDone
from mindful_crate.core.work.tasks.parts import OnlyAPart, carried


class PutAway(FlowKind):
    """A plate or loose goods are taken up as soon as they are known, and placed in a bin; then the next."""

    waits: ClassVar = {
        Asks.TASK: (),
        Asks.PIECES: (Asks.TASK,),
        Asks.LOT_HELD: (Asks.TASK, Asks.PIECES),
        Asks.PART: (Asks.TASK, Asks.PIECES),
        Asks.BIN: (Asks.TASK, Asks.PIECES, Asks.LOT_HELD, Asks.PART),
        Asks.REVIEW: (Asks.TASK, Asks.PIECES, Asks.LOT_HELD, Asks.PART, Asks.BIN),
    }
    needed = (Asks.TASK, Asks.BIN)
    buttons = (PutItBack(Asks.BIN), OnlyAPart(Asks.BIN), WhereElse(), GiveItBack(), NotThisOne())

    def between(self, ctx: Context, answers: Answers, prompt: Prompt | None) -> tuple[tuple[Named, ...], Answers]:
        if answers[TASK]:
            task = ctx.task(answers)
            asks = prompt is not None and prompt.asks is Asks.PIECES
            if not asks and (task.person is None or (task.plan.several and not task.in_hands)):
                act = Take(task.number, answers[NEXT_PLATE], answers[SERIALS])
                return (act,), answers.without(NEXT_PLATE, SERIALS)
        return (), answers

    def pieces(self, ctx: Context, answers: Answers) -> Wanted | None:
        """Those that are taken up, where others lie there too; those that are placed, where it is a part of what is in hands."""
        if answers[TASK] is None or answers[NEXT_PLATE]:
            return None
        task = ctx.task(answers)
        if not task.in_hands:
            return doing.to_take(ctx.state, task) if not task.plan.plates else None
        if answers[BIN] is None:
            return None
        if answers[PART]:
            spot = on_plate(task.plate) if task.plate else in_hands(task.number)
            return numbered.pieces_wanted(
                ctx.state, spot, carried(ctx, answers), int(answers.known(PART)), "is placed here"
            )
        return doing.to_place(ctx.state, task)

    def about_to(self, ctx: Context, answers: Answers) -> tuple[str, ...]:
        if answers[TASK] is None or answers[BIN] is None:
            return ()
        task, code = ctx.task(answers), answers.known(BIN)
        goods = carried(ctx, answers)
        if answers[PART]:
            what = receiving.goods_text(ctx.state, portion(goods, int(answers.known(PART))))
        elif task.plate:
            what = f"plate `{task.plate}`: {receiving.plate_text(ctx.state, putting.plate_of(ctx.state, task))}"
        else:
            what = receiving.goods_text(ctx.state, goods)
        lots = ", ".join(f"lot `{lot}`" for lot in dict.fromkeys(g.lot for g in goods if g.lot))
        other = f", not in `{task.to_bin}` as shown" if task.to_bin and task.to_bin != code else ""
        into = f"into `{code}`, {bin_place(ctx, code)}{other}"
        return tuple(x for x in (what, lots, f"from `{task.from_bin}`", into, answers[REASON] or "") if x)

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        task = ctx.task(answers)
        if answers[PART]:
            item, quantity = carried(ctx, answers)[0].item, int(answers.known(PART))
            part = PlacePart(task.number, answers.known(BIN), item, quantity, answers[REASON] or "", answers[SERIALS])
            return part, answers.only(TASK)
        kept = answers.only(TASK) if putting.keeps_some(task) else Answers()  # what is still in hands is gone on with
        return Place(task.number, answers.known(BIN), answers[REASON] or "", answers[SERIALS]), kept

    def follows(self, answers: Answers, acts: Sequence[Named], events: Sequence[Named]) -> Answers:
        if any(isinstance(a, MakeTasks) for a in acts):  # what was made of what was scanned is carried from here on
            answers = next((answers.having(TASK, e.task) for e in events if isinstance(e, MoveDone)), answers)
        return carried_on(answers, events)

    def open_work(self, ctx: Context) -> int | None:
        begun = putting.begun_by(ctx.state, ctx.person)
        waits = ctx.state.tasks.open_numbers(ctx.takers, Need.PUT_AWAY, MUCH)
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
