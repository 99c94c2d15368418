"""Undoing a step that was finished: its flow, and its row among the matters."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any, ClassVar

from mindful_crate.core.catalog.ids import ReceiptNo, TaskNo, UnloadingNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.answers import Answers, Doubt, text
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, Prompt
from mindful_crate.core.rulebook.words.parts import capital
from mindful_crate.core.scanning.codes import any_bin, plain
from mindful_crate.core.scanning.kinds import Codes, Context, FlowKind, PromptKind
from mindful_crate.core.scanning.question import Pick, Question, Shape
from mindful_crate.core.scanning.reading import Reading
from mindful_crate.core.work.rows import Matter, telling
from mindful_crate.core.work.undoing.acts import UndoReceipt, UndoTask, UndoUnloading
from mindful_crate.core.work.undoing.checks import did, undoing
from mindful_crate.core.work.undoing.decide import DECIDES
from mindful_crate.core.work.undoing.events import (
    InspectionUndone,
    PutAwayUndone,
    ReceiptUndone,
    UndoAnswered,
    UndoAsked,
    UnloadingUndone,
)
from mindful_crate.core.work.undoing.fold import FOLDS

UNDONE = text("undone", str)
"""The step that is undone, as ``task TR-0204``."""


def _called(step: Ref) -> str:
    return f"{step.kind.value} `{step.number}`"


class LastKind(PromptKind):
    """The last step that somebody finished: is it undone?"""

    wants = "what you finished last"
    shape: Shape = "ticket"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[UNDONE] is None

    def _last(self, ctx: Context) -> Ref | None:
        step = ctx.state.steps_done.get(ctx.person)
        return step.ref if step else None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        last = self._last(ctx)
        if last is None:
            raise Refusal("nothing_to_undo", "You have finished nothing that could be undone.")
        if reading.code not in self._names(ctx, last):
            raise Refusal(
                "wrong_kind",
                f"`{reading.code}` is not what you finished last: {_called(last)}, {did(ctx.state, last)}.",
            )
        found = undoing(ctx.state, ctx.rulebook, last)
        asks = " The host has booked it and is asked first." if found.asks_host else ""
        says = f"Undo {_called(last)}, {did(ctx.state, last)}? {found.says}.{asks}"
        return Doubt("yes_no", says, answers.having(UNDONE, f"{last.kind.value} {last.number}"), "Undo it")

    def _names(self, ctx: Context, last: Ref) -> set[str]:
        """What is scanned to mean it: its number, or the plate it was about."""
        if last.kind is DocKind.RECEIPT:
            return {last.number, ctx.state.receipts[ReceiptNo(last.number)].plate}
        if last.kind is DocKind.UNLOADING:
            off = ctx.state.unloadings[UnloadingNo(last.number)]
            return {last.number, off.order, *off.plates}
        return {last.number, *ctx.state.tasks[TaskNo(last.number)].plan.plates}

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        last = self._last(ctx)
        return _called(last) if last and reading.code in self._names(ctx, last) else ""

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        last = self._last(ctx)
        if last is not None:
            label = f"{capital(last.kind.value)} {last.number}"
            yield Pick(last.number, label, did(ctx.state, last).replace("`", ""))  # a pick's note is plain text

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Undo what you finished last?" if self._last(ctx) else "There is nothing of yours to undo"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        if self._last(ctx) is None:
            return {"note": "What you finish next could be undone here, where its step plan says so"}
        return {"note": "Scan its number or plate, or choose it"}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        last = self._last(ctx)
        for code in sorted(self._names(ctx, last)) if last else ():
            yield plain(f"{code}, your last step", code)
        yield from any_bin(ctx)


class UndoLast(FlowKind):
    """One step is undone; then the one before may be, if it was this person's."""

    waits: ClassVar = {Asks.LAST: ()}
    needed = (Asks.LAST,)

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        kind, _, number = answers.known(UNDONE).partition(" ")
        if DocKind(kind) is DocKind.RECEIPT:
            return UndoReceipt(ctx.state.receipts[ReceiptNo(number)].plate), Answers()
        if DocKind(kind) is DocKind.UNLOADING:
            return UndoUnloading(UnloadingNo(number)), Answers()
        return UndoTask(TaskNo(number)), Answers()

    def follows(self, answers: Answers, acts: Sequence[Named], events: Sequence[Named]) -> Answers:
        return Answers()


def _why(why: str) -> str:
    return f": {why}" if why else ""


UNDOING = Matter(
    "undoing",
    DECIDES,
    FOLDS,
    (
        telling(UnloadingUndone, lambda e: f"unloading `{e.unloading}` undone by @{e.by}{_why(e.why)}"),
        telling(ReceiptUndone, lambda e: f"receipt `{e.receipt}` undone by @{e.by}{_why(e.why)}"),
        telling(UndoAsked, lambda e: f"@{e.by} asks to undo receipt `{e.receipt}`{_why(e.why)}"),
        telling(
            UndoAnswered,
            lambda e: f"the host {'does not let' if e.refused else 'lets'} `{e.receipt}` be undone{_why(e.refused)}",
        ),
        telling(PutAwayUndone, lambda e: f"what task `{e.task}` put away is back, undone by @{e.by}{_why(e.why)}"),
        telling(InspectionUndone, lambda e: f"inspection `{e.task}` undone by @{e.by}{_why(e.why)}"),
    ),
    {FlowPurpose.UNDO_LAST: UndoLast()},
    {Asks.LAST: LastKind()},
    asked=(
        telling(UndoReceipt, lambda a: f"The office undoes the receipt of `{a.plate}`{_why(a.why.strip())}"),
        telling(UndoUnloading, lambda a: f"The office undoes unloading `{a.unloading}`{_why(a.why.strip())}"),
        telling(UndoTask, lambda a: f"The office undoes task `{a.task}`{_why(a.why.strip())}"),
    ),
)
"""What it brings."""
