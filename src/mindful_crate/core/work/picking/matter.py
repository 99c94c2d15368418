"""Picking. Its row among the matters."""

from __future__ import annotations

from mindful_crate.core.floor.plates import Card, in_bin
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import PartDone, TaskState, Tote, bound
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.work.picking.acts import PickInOffice
from mindful_crate.core.work.picking.decide import DECIDES, after
from mindful_crate.core.work.picking.events import KeptMoved, MoveShort, SomeKeptMoved, TaskBegun, ToteChosen, ToteSet
from mindful_crate.core.work.picking.flow import PickFlow
from mindful_crate.core.work.picking.prompts import PROMPTS
from mindful_crate.core.work.rows import Matter, folding, silent, telling
from mindful_crate.core.work.stamp import At


def _kept_moved(state: State, e: KeptMoved, _: At) -> None:
    state.reservations.put(e.reservation, evolve(state.reservations[e.reservation], parts=e.parts))


def _some_kept_moved(state: State, e: SomeKeptMoved, _: At) -> None:
    known = state.reservations[e.reservation]
    parts = list(known.parts)
    for at, others in reversed(e.others):
        parts[at : at + 1] = others
    state.reservations.put(e.reservation, evolve(known, parts=tuple(parts)))


def _task_begun(state: State, e: TaskBegun, at: At) -> None:
    now = state.tasks.going[e.task]
    state.tasks.going.put(e.task, evolve(now, state=TaskState.TAKEN, person=e.by, taken=at.seq))


def _tote_chosen(state: State, e: ToteChosen, _: At) -> None:
    now = state.tasks.going[e.task]
    state.tasks.going.put(e.task, evolve(now, totes=(*now.totes, Tote(e.order, e.tote))))


def _tote_set(state: State, e: ToteSet, at: At) -> None:
    stamp = at.stamp
    card = Card(e.plate_kind, False, stamp.who, stamp.at, at.seq, None, None, stamp.device, stamp.at, at.seq)
    state.plates.spots.put(e.tote, in_bin(e.bin))
    state.plates.cards.put(e.tote, card)


def _move_short(state: State, e: MoveShort, at: At) -> None:
    tasks = state.tasks
    if e.moves:
        tasks.plans.put(e.task, evolve(tasks.plans[e.task], moves=e.moves))
    now = tasks.going[e.task]
    parts = (*now.parts, PartDone(e.move, e.at, 0, None, e.why, at.seq))
    tasks.going.put(e.task, evolve(now, remaining=e.remaining, bound=bound(e.remaining), parts=parts))


def _asked(act: PickInOffice) -> str:
    return f"The office says that task `{act.task}` was {'begun' if act.begin else 'picked'}: {act.why}"


def _short_told(e: MoveShort) -> str:
    goods = ", ".join(f"{g.quantity} of `{g.item}`" for g in e.missing)
    return f"{goods} not in `{e.at}`, task `{e.task}`: {e.why}"


PICKING = Matter(
    "picking",
    DECIDES,
    (
        folding(KeptMoved, _kept_moved),
        folding(SomeKeptMoved, _some_kept_moved),
        folding(TaskBegun, _task_begun),
        folding(ToteChosen, _tote_chosen),
        folding(ToteSet, _tote_set),
        folding(MoveShort, _move_short),
    ),
    (
        silent(KeptMoved),
        silent(SomeKeptMoved),
        telling(TaskBegun, lambda e: f"@{e.by} begins to pick task `{e.task}`"),
        telling(ToteChosen, lambda e: f"Goods of `{e.order}` go into tote `{e.tote}`"),
        silent(ToteSet),
        telling(MoveShort, _short_told),
    ),
    asked=(telling(PickInOffice, _asked),),
    flows={FlowPurpose.PICK: PickFlow()},
    prompts=PROMPTS,
    makes={"bin": (telling(MoveShort, lambda e: (e.moves[-1].at or "") if e.moves else ""),)},
    after=after,
)
"""What it brings."""
