"""Inspecting what has arrived: its flow, and its row among the matters."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import islice
from typing import ClassVar

from mindful_crate.core.floor.answers import TASK, Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, Prompt
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import (
    BIN,
    COUNT,
    ITEM,
    MUCH,
    SERIALS,
    ButtonKind,
    Context,
    FlowKind,
    Step,
    Wanted,
)
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.work.inspecting import checks as inspecting
from mindful_crate.core.work.inspecting.acts import Inspect, InspectInOffice, PlaceToInspect, TakeToInspect, Verdict
from mindful_crate.core.work.inspecting.decide import DECIDES
from mindful_crate.core.work.inspecting.events import GoodsInspected, ReceiptCounted, SampleFailed
from mindful_crate.core.work.inspecting.fold import FOLDS
from mindful_crate.core.work.inspecting.prompts import (
    FAIL,
    FAULT,
    PARTLY,
    PHOTO,
    PROMPTS,
    REMARK,
    REMARKED,
    VERDICT,
    all_waiting,
    sampled,
    the_kind,
    to_be_taken,
)
from mindful_crate.core.work.putting import doing as putting
from mindful_crate.core.work.putting.acts import MakeTasks
from mindful_crate.core.work.rows import Matter, silent, telling
from mindful_crate.core.work.tasks.buttons import PutItBack
from mindful_crate.core.work.tasks.events import MoveDone, WorkMade


class NoRemark(ButtonKind):
    """There is nothing to remark."""

    action = "no_remark"
    says = "No remark, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if prompt is not None and prompt.asks is Asks.REMARK:
            return None
        return Refusal("not_now", "No remark is asked for here.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Nothing to remark"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(REMARKED, True), passed(dialogue))


class InspectGoods(FlowKind):
    """What waits is brought to where it is inspected, unless it stands there, and each kind of goods on it is judged."""

    waits: ClassVar = {
        Asks.INSPECTED: (), Asks.INSPECT_AT: (Asks.INSPECTED, Asks.PIECES), Asks.KIND: (Asks.INSPECTED, Asks.INSPECT_AT),
        Asks.VERDICT: (Asks.INSPECTED, Asks.INSPECT_AT, Asks.KIND), Asks.FAILED: (Asks.KIND, Asks.VERDICT),
        Asks.PIECES: (Asks.INSPECTED,), Asks.FAULT: (Asks.KIND, Asks.VERDICT), Asks.REMARK: (Asks.VERDICT, Asks.FAILED, Asks.FAULT),
    }  # fmt: skip
    needed = (Asks.INSPECTED, Asks.INSPECT_AT, Asks.VERDICT, Asks.FAULT)
    buttons = (PutItBack(Asks.INSPECT_AT), NoRemark())

    def between(self, ctx: Context, answers: Answers, prompt: Prompt | None) -> tuple[tuple[Named, ...], Answers]:
        if answers[TASK] is None or ctx.task(answers).state.ended:
            return (), answers
        task = ctx.task(answers)
        if answers[BIN] is not None:
            return (PlaceToInspect(task.number, answers.known(BIN)),), answers.without(BIN)
        if to_be_taken(task) and not (prompt is not None and prompt.asks is Asks.PIECES):
            return (TakeToInspect(task.number, answers[SERIALS]),), answers.without(SERIALS)
        return (), answers

    def pieces(self, ctx: Context, answers: Answers) -> Wanted | None:
        """Those that are taken up, where others lie there too; those that fail, where the others pass."""
        if answers[TASK] is None or ctx.task(answers).state.ended:
            return None
        task = ctx.task(answers)
        if to_be_taken(task):
            return putting.to_take(ctx.state, task) if task.plate is None else None
        goods = the_kind(ctx, answers)
        if (
            goods is None
            or goods.item not in ctx.state.serials.kept
            or answers[VERDICT] != PARTLY
            or not answers[COUNT]
        ):
            return None
        mine = inspecting.pieces_of(ctx.state, task, goods)
        return Wanted(
            ctx.item(answers.having(ITEM, goods.item)), int(answers.known(COUNT)), mine, "to be inspected", "fails"
        )

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        """What the task is still about stays for the next round."""
        goods = the_kind(ctx, answers)
        if goods is None:
            raise Refusal("task_done", "All of it was inspected meanwhile.")
        failed = 0
        if answers[VERDICT] == FAIL:
            failed = goods.quantity
        elif answers[VERDICT] == PARTLY:
            failed = int(answers[COUNT] or 0)
        if sampled(ctx, answers):
            failed = min(failed, 1)
        verdict = Verdict(
            goods.item, failed, answers[FAULT] if failed else None, answers[REMARK] or "", goods.lot, goods.expiry,
            failing=answers[SERIALS], photo=answers[PHOTO] or "",
        )  # fmt: skip
        return Inspect(ctx.task(answers).number, verdict), answers.only(TASK)

    def follows(self, answers: Answers, acts: Sequence[Named], events: Sequence[Named]) -> Answers:
        if any(isinstance(a, MakeTasks) for a in acts):
            return next((Answers().having(TASK, e.task) for e in events if isinstance(e, WorkMade)), answers)
        done = {e.task for e in events if isinstance(e, MoveDone) and not e.goods and e.plate is None}
        return Answers() if answers[TASK] in done else answers

    def open_work(self, ctx: Context) -> int | None:
        return min(MUCH, sum(1 for _ in islice(all_waiting(ctx), MUCH)))

    def carried(self, ctx: Context) -> list[str]:
        task = inspecting.carried_by(ctx.state, ctx.person)
        return [inspecting.told(ctx.state, task)] if task else []


def _inspected(e: GoodsInspected) -> str:
    passed = e.goods.quantity - e.failed
    says = [f"{passed} of `{e.goods.item}` pass"] if passed else []
    says += [f"{e.failed} of `{e.goods.item}` are {inspecting.FAULTS_TOLD.get(e.fault, e.fault)}"] if e.fault else []
    says += [f"on plate `{e.onto}`"] if e.onto else []
    seen = inspecting.remarked(e)
    return ", ".join(says) + (f": {seen}" if seen else "")


def _sample(e: SampleFailed) -> str:
    seen = inspecting.remarked(e)
    return f"the sample of `{e.goods.item}` is not as it should be: all are looked at" + (f" ({seen})" if seen else "")


def _asked(a: InspectInOffice) -> str:
    says = ", ".join(f"`{v.item}` {f'{v.failed:,} fail' if v.failed else 'passes'}" for v in a.verdicts)
    return f"The office inspects what task `{a.task}` is about: {says}" + (
        f": {a.why.strip()}" if a.why.strip() else ""
    )


INSPECTING = Matter(
    "inspecting",
    DECIDES,
    FOLDS,
    (
        silent(ReceiptCounted),
        telling(SampleFailed, _sample),
        telling(GoodsInspected, _inspected),
    ),
    {FlowPurpose.INSPECT: InspectGoods()},
    PROMPTS,
    asked=(telling(InspectInOffice, _asked),),
    makes={"plate": (telling(GoodsInspected, lambda e: e.onto or ""),)},
)
"""What it brings."""
