"""How its events change a state: undoing a step that was finished."""

from __future__ import annotations

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.refs import DocKind
from mindful_crate.core.floor.ledger import Cause
from mindful_crate.core.floor.orders import NOTHING
from mindful_crate.core.floor.plates import in_bin, on_plate
from mindful_crate.core.floor.serials import numbers_of
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.steps_done import forget
from mindful_crate.core.floor.tasks import Do, Going, TaskState, bound
from mindful_crate.core.record import evolve
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At
from mindful_crate.core.work.undoing.events import (
    InspectionUndone,
    PutAwayUndone,
    ReceiptUndone,
    UndoAnswered,
    UndoAsked,
    UnloadingUndone,
)


def _receipt_undone(state: State, e: ReceiptUndone, at: At) -> None:
    plates, receipt = state.plates, state.receipts[e.receipt]
    card = plates.card(receipt.plate)  # of a loose receipt that was settled, the past has it
    assert card is not None
    state.ledger.leave(
        Cause.RECEIPT, in_bin(card.into) if card.into else on_plate(receipt.plate), e.goods, numbers_of(receipt.lines)
    )
    for line in receipt.lines:
        booked = -line.quantity if receipt.booked else 0
        state.progress.add(line.key, at.seq, noted=line.quantity, arrived=-line.quantity, booked=booked)
    for closing in receipt.closed:  # as far as nobody has opened it again since
        still = state.progress.get(closing.key, NOTHING).closed
        state.progress.add(closing.key, at.seq, closed=-min(closing.quantity, still))
    plates.lines.put(receipt.plate, receipt.lines)
    plates.cards.put(
        receipt.plate, evolve(card, building=True, receipt=None, finished_on=None, finished_at=None, finished=0)
    )
    state.receipts.put(
        e.receipt, evolve(receipt, undone=at.seq, undoing=False, booked=False, booked_in=0, told=False, closed=())
    )  # fmt: skip
    forget(state.steps_done, DocKind.RECEIPT, e.receipt)


def _undo_asked(state: State, e: UndoAsked, _: At) -> None:
    state.receipts.put(e.receipt, evolve(state.receipts[e.receipt], undoing=True))


def _undo_answered(state: State, e: UndoAnswered, _: At) -> None:
    state.receipts.put(e.receipt, evolve(state.receipts[e.receipt], undoing=False))


def _unloading_undone(state: State, e: UnloadingUndone, at: At) -> None:
    state.unloadings.put(e.unloading, evolve(state.unloadings[e.unloading], undone=at.seq))
    forget(state.steps_done, DocKind.UNLOADING, e.unloading)


def _put_away_undone(state: State, e: PutAwayUndone, at: At) -> None:
    tasks, task = state.tasks, state.tasks[e.task]
    goods = {m.no: m.goods for m in task.plan.moves}
    if task.plate is not None:
        state.plates.spots.put(task.plate, in_bin(task.plan.from_bin))
    else:
        placed = []
        for part in task.placed:
            spot = on_plate(part.plate) if part.plate else in_bin(part.bin)
            placed.append((spot, evolve(goods[part.move][0], quantity=part.quantity), part.serials))
        takes = (m for m in task.plan.moves if m.do is Do.TAKE and m.at)
        taken = [(on_plate(m.plate) if m.plate else in_bin(m.at), m.goods) for m in takes if m.at]
        state.ledger.take_back(placed, taken)
    now = task.going
    moves = task.plan.moves
    tasks.going.put(
        e.task, Going(TaskState.OPEN, moves, bound(moves), again=now.again, crew=now.crew, priority=now.priority)
    )
    forget(state.steps_done, DocKind.TASK, e.task)


def _inspection_undone(state: State, e: InspectionUndone, at: At) -> None:
    for goods in e.goods:
        state.ledger.turn(e.spot, goods, evolve(goods, status=Status.INSPECT))
    tasks, task = state.tasks, state.tasks[e.task]
    now = task.going
    look = tuple(m for m in task.plan.moves if m.do is Do.LOOK)
    places = {m.no for m in task.plan.moves if m.do is Do.PLACE}
    parts = tuple(p for p in now.parts if p.move in places)
    tasks.going.put(
        e.task, Going(TaskState.OPEN, look, again=now.again, crew=now.crew, priority=now.priority, parts=parts)
    )
    forget(state.steps_done, DocKind.TASK, e.task)


FOLDS = (
    folding(UnloadingUndone, _unloading_undone),
    folding(ReceiptUndone, _receipt_undone),
    folding(UndoAsked, _undo_asked),
    folding(UndoAnswered, _undo_answered),
    folding(PutAwayUndone, _put_away_undone),
    folding(InspectionUndone, _inspection_undone),
)
"""How its events change a state."""
