"""Steps that were finished and may be undone, the latest first; with what stands in the way of those that may not now."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice

from mindful_crate.core.catalog.ids import PersonId, PlateNo, ReceiptNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import LASTING, TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.undoing.checks import did, undoing

LISTED = 60
"""So many steps are looked at, the latest."""
NEVER = frozenset({"no_undo", "no_plan", "undone_already"})
"""Why a step is not listed at all: nothing that anybody does would change it."""


@record
class Undoable:
    """A finished step: what it did, who finished it, since which entry; what undoing it would do, or why it cannot be now."""

    kind: DocKind
    number: str
    plate: PlateNo | None
    """Of a receipt: the plate, or the receipt itself where goods came loose; by it the receipt is undone."""
    what: str
    by: PersonId | None
    seq: int
    does: str
    why_not: str
    asks_host: bool


def undoable(state: State, book: Rulebook) -> tuple[Undoable, ...]:
    """The latest finished steps that their plans let be undone."""
    return tuple(u for u in (_of(state, book, *s) for s in islice(_steps(state), LISTED)) if u is not None)


def _steps(state: State) -> Iterator[tuple[Ref, int, PersonId | None]]:
    """Unloadings, receipts, inspections and put-aways that are done, the latest first."""
    found: list[tuple[int, Ref, PersonId | None]] = []
    off = sorted((u for u in state.unloadings.values() if not u.undone), key=lambda u: u.since)
    found += [(u.since, u.ref, u.by) for u in off[-LISTED:]]
    for receipt in state.receipts.every(LISTED):
        plate = state.plate(receipt.plate)
        found.append((receipt.seq, receipt.ref, plate.by if plate else None))
    for task in state.tasks.every(LISTED):
        if task.state is TaskState.DONE and task.need not in LASTING and task.going.parts:
            found.append((task.going.parts[-1].seq, task.ref, task.person))
    found.sort(key=lambda f: (-f[0], f[1].kind, f[1].number))
    return ((ref, seq, by) for seq, ref, by in found)


def _of(state: State, book: Rulebook, step: Ref, seq: int, by: PersonId | None) -> Undoable | None:
    what = did(state, step)
    plate = state.receipts[ReceiptNo(step.number)].plate if step.kind is DocKind.RECEIPT else None
    try:
        found = undoing(state, book, step)
    except Refusal as refusal:
        if refusal.problem.code in NEVER:
            return None
        return Undoable(step.kind, step.number, plate, what, by, seq, "", refusal.problem.says, False)
    return Undoable(step.kind, step.number, plate, what, by, seq, found.says, "", found.asks_host)
