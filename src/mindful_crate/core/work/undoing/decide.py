"""How its acts are decided: undoing a step that was finished."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import ReceiptNo, TaskNo, UnloadingNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.work.host import decide as hosting
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.events import TaskHeld
from mindful_crate.core.work.tasks.following import end
from mindful_crate.core.work.undoing.acts import UndoAgreed, UndoReceipt, UndoTask, UndoUnloading
from mindful_crate.core.work.undoing.checks import Undoing, undoing
from mindful_crate.core.work.undoing.events import (
    InspectionUndone,
    PutAwayUndone,
    ReceiptUndone,
    UndoAnswered,
    UndoAsked,
    UnloadingUndone,
)

ASKED = "the host is asked whether its receipt may be undone"


def _undo_receipt(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: UndoReceipt) -> str:
    card = state.plates.card(act.plate)
    if card is None or card.receipt is None:
        raise Refusal("no_receipt", f"Nothing arrived by a receipt on `{act.plate}` that could be undone.")
    return _undo(state, making, rulebook, stamp, Ref(DocKind.RECEIPT, card.receipt), act.why)


def _undo_task(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: UndoTask) -> str:
    return _undo(state, making, rulebook, stamp, Ref(DocKind.TASK, act.task), act.why)


def _undo_unloading(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: UndoUnloading) -> str:
    return _undo(state, making, rulebook, stamp, Ref(DocKind.UNLOADING, act.unloading), act.why)


def _undo(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, step: Ref, why: str) -> str:
    why = why.strip()
    if len(why) > 120:
        raise Refusal("too_long", "Give the reason in at most 120 characters.", "why")
    if stamp.device is not None:
        _check_mine(state, stamp, step)
    found = undoing(state, rulebook, step)
    if found.asks_host:
        number = ReceiptNo(step.number)
        for task in found.tasks:
            making.event(TaskHeld(task, ASKED))
        making.event(UndoAsked(number, stamp.who, why))
        hosting.tell_host(state, making, stamp, "undo_receipt", number)
        return f"The host has booked `{number}`, and is asked whether it may be undone. Until it answers nobody goes on with it."
    return _done(state, making, stamp, step, found, why)


def _check_mine(state: State, stamp: Stamp, step: Ref) -> None:
    last = state.steps_done.get(stamp.who)
    if last is None or last.ref != step:
        raise Refusal("not_your_last", f"`{step.number}` is not the last step you finished. The office undoes others.")


def _done(state: State, making: Making, stamp: Stamp, step: Ref, found: Undoing, why: str) -> str:
    end(making, found.tasks, found.rests, "its step was undone")
    if step.kind is DocKind.RECEIPT:
        receipt = ReceiptNo(step.number)
        making.event(ReceiptUndone(receipt, stamp.who, found.goods, why))
        if not found.asks_host:
            hosting.tell_host(state, making, stamp, "undo_receipt", receipt)
    elif step.kind is DocKind.UNLOADING:
        making.event(UnloadingUndone(UnloadingNo(step.number), stamp.who, why))
    elif state.tasks[TaskNo(step.number)].need is Need.INSPECT:
        assert found.spot is not None
        making.event(InspectionUndone(TaskNo(step.number), stamp.who, found.spot, found.goods, why))
    else:
        making.event(PutAwayUndone(TaskNo(step.number), stamp.who, why))
    ended = " and ".join(f"`{t}`" for t in found.tasks)
    return said(f"`{step.number}` is undone. {found.says}.", f"{ended} will not be done." if ended else "")


def _agreed(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: UndoAgreed) -> str:
    receipt = state.receipts[act.receipt]
    held = [t.number for t in state.tasks.following((receipt.plate,), (act.receipt,)) if t.held == ASKED]
    if act.refused:
        making.event(UndoAnswered(act.receipt, act.refused))
        for number in held:
            if state.tasks[number].state is TaskState.OPEN:
                making.event(TaskHeld(number))
        return f"The host does not let `{act.receipt}` be undone: {act.refused} It stands as before."
    making.event(UndoAnswered(act.receipt))
    found = undoing(state, rulebook, receipt.ref)
    return said(f"The host lets `{act.receipt}` be undone.", _done(state, making, stamp, receipt.ref, found, ""))


DECIDES = (
    deciding(UndoReceipt, _undo_receipt),
    deciding(UndoTask, _undo_task),
    deciding(UndoUnloading, _undo_unloading),
    deciding(UndoAgreed, _agreed),
)
"""How its acts are decided."""
