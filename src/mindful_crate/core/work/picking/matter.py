"""Picking. Its row among the matters."""

from __future__ import annotations

from mindful_crate.core.floor.overruled import Overruled, Overruling
from mindful_crate.core.floor.plates import Card, in_bin, with_person
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import PartDone, TaskState, Tote, bound
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.rulebook.words.parts import all_of
from mindful_crate.core.work.picking import elsewhere
from mindful_crate.core.work.picking.acts import PickInOffice
from mindful_crate.core.work.picking.decide import DECIDES, after
from mindful_crate.core.work.picking.events import (
    KeptMoved,
    MoveShort,
    SomeKeptMoved,
    TakenElsewhere,
    TaskBegun,
    ToteChosen,
    TotesCame,
    ToteSet,
    ToteStands,
    ToteTaken,
)
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


def _totes_came(state: State, e: TotesCame, _: At) -> None:
    now = state.tasks.going[e.task]
    state.tasks.going.put(e.task, evolve(now, totes=(*now.totes, *e.totes)))


def _tote_taken(state: State, e: ToteTaken, _: At) -> None:
    now = state.tasks.going[e.task]
    totes = tuple(evolve(t, taken=True) if t.plate == e.tote else t for t in now.totes)
    state.tasks.going.put(e.task, evolve(now, totes=totes))
    state.ledger.carry(e.tote, with_person(e.by))


def _tote_stands(state: State, e: ToteStands, _: At) -> None:
    now = state.tasks.going[e.task]
    totes = tuple(evolve(t, came=None, taken=False) if t.plate == e.tote else t for t in now.totes)
    state.tasks.going.put(e.task, evolve(now, totes=totes))
    state.ledger.carry(e.tote, in_bin(e.bin))


def _move_short(state: State, e: MoveShort, at: At) -> None:
    tasks = state.tasks
    if e.moves:
        tasks.plans.put(e.task, evolve(tasks.plans[e.task], moves=e.moves))
    now = tasks.going[e.task]
    parts = (*now.parts, PartDone(e.move, e.at, 0, None, e.why, at.seq))
    totes = now.totes if e.tote is None else tuple(t for t in now.totes if t.plate != e.tote)
    tasks.going.put(e.task, evolve(now, remaining=e.remaining, bound=bound(e.remaining), parts=parts, totes=totes))


def _taken_elsewhere(state: State, e: TakenElsewhere, at: At) -> None:
    tasks = state.tasks
    shown = next((m for m in tasks.going[e.task].remaining if m.no == e.move), None)
    tasks.plans.put(e.task, evolve(tasks.plans[e.task], moves=e.moves))
    tasks.going.put(e.task, evolve(tasks.going[e.task], remaining=e.remaining, bound=bound(e.remaining)))
    if shown is not None and shown.rule:
        known = state.overruled.get(shown.rule) or Overruled()
        state.overruled.put(shown.rule, known.more(Overruling(e.shown, e.bin, e.reason, e.by, at.seq)))


def _asked(act: PickInOffice) -> str:
    return f"The office says that task `{act.task}` was {'begun' if act.begin else 'picked'}: {act.why}"


def _short_told(e: MoveShort) -> str:
    goods = ", ".join(f"{g.quantity} of `{g.item}`" for g in e.missing)
    return f"{goods} not in `{e.at}`, task `{e.task}`: {e.why}"


PICKING = Matter(
    "picking",
    (*DECIDES, *elsewhere.DOES),
    (
        folding(KeptMoved, _kept_moved),
        folding(SomeKeptMoved, _some_kept_moved),
        folding(TaskBegun, _task_begun),
        folding(ToteChosen, _tote_chosen),
        folding(ToteSet, _tote_set),
        folding(MoveShort, _move_short),
        folding(TakenElsewhere, _taken_elsewhere),
        folding(TotesCame, _totes_came),
        folding(ToteTaken, _tote_taken),
        folding(ToteStands, _tote_stands),
    ),
    (
        silent(KeptMoved),
        silent(SomeKeptMoved),
        telling(TaskBegun, lambda e: f"@{e.by} begins to pick task `{e.task}`"),
        telling(ToteChosen, lambda e: f"Goods of `{e.order}` go into tote `{e.tote}`"),
        silent(ToteSet),
        telling(MoveShort, _short_told),
        telling(
            TotesCame,
            lambda e: f"{all_of(f'tote `{t.plate}` of `{t.order}`' for t in e.totes)} handed on to task `{e.task}`",
        ),
        telling(
            TakenElsewhere,
            lambda e: (
                f"task `{e.task}` takes it from `{e.bin}` instead of `{e.shown}`"
                + (f": {e.reason}" if e.reason else "")
            ),
        ),
        telling(ToteTaken, lambda e: f"tote `{e.tote}` taken along, task `{e.task}`"),
        telling(ToteStands, lambda e: f"tote `{e.tote}` stands in `{e.bin}`"),
    ),
    asked=(telling(PickInOffice, _asked),),
    flows={FlowPurpose.PICK: PickFlow()},
    prompts=PROMPTS,
    makes={
        "bin": (
            telling(TakenElsewhere, lambda e: e.bin),
            telling(MoveShort, lambda e: (e.moves[-1].at or "") if e.moves else ""),
        )
    },
    after=after,
)
"""What it brings."""
