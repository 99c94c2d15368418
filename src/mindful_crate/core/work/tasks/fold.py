"""How its events change a state: tasks, whatever they are for."""

from __future__ import annotations

from collections.abc import Callable

from mindful_crate.core.catalog.amounts import all_less
from mindful_crate.core.catalog.ids import PersonId, PlateNo, TaskNo
from mindful_crate.core.floor.plates import Card, in_bin, on_plate, with_person
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Going, Placed, Plan, TaskState
from mindful_crate.core.record import evolve, maker
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.trail import Trail
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At
from mindful_crate.core.work.tasks.events import (
    GoodsPlaced,
    PlatePlaced,
    TaskCancelled,
    TaskHeld,
    TaskMade,
    TaskRaised,
    TaskReassigned,
    TaskRetargeted,
    TaskSetDown,
    TaskTaken,
)

_plan: Callable[..., Plan] = maker(Plan)
_going: Callable[..., Going] = maker(Going)
_placed: Callable[..., Placed] = maker(Placed)


def _task_made(state: State, e: TaskMade, at: At) -> None:
    tasks = state.tasks
    tasks.plans.put(e.task, _plan(e.plate, e.from_bin, e.crew, e.need, e.goods, e.from_plate, e.receipt, at.seq))
    tasks.going.put(e.task, _going(TaskState.OPEN, e.to_bin, e.rule, e.goods, None, (), 0, (), e.crew, "", 0, 0))


def _task_taken(state: State, e: TaskTaken, at: At) -> None:
    going, plan = state.tasks.going, state.tasks.plans[e.task]
    now = going[e.task]
    taken = _going(
        TaskState.TAKEN, now.to_bin, now.rule, now.goods, e.person, now.placed, at.seq, now.again, now.crew, now.held,
        now.priority, 0,
    )  # fmt: skip
    going.put(e.task, taken)
    if plan.plate:
        state.plates.spots.put(plan.plate, with_person(e.person))
    else:
        state.ledger.take(on_plate(plan.from_plate) if plan.from_plate else in_bin(plan.from_bin), now.goods)


def _task_retargeted(state: State, e: TaskRetargeted, at: At) -> None:
    now = state.tasks.going[e.task]
    state.tasks.going.put(e.task, evolve(now, to_bin=e.to_bin, rule=e.rule, again=(*now.again, at.seq)))


def _plate_placed(state: State, e: PlatePlaced, at: At) -> None:
    now = state.tasks.going[e.task]
    placed = _placed(e.bin, sum([g.quantity for g in state.all_goods(e.plate)]), e.on, e.reason, at.seq)
    done = _going(
        TaskState.DONE, now.to_bin, now.rule, now.goods, now.person, (placed,), now.taken, now.again, now.crew, now.held,
        now.priority, 0,
    )  # fmt: skip
    state.tasks.going.put(e.task, done)
    state.plates.spots.put(e.plate, on_plate(e.on) if e.on else in_bin(e.bin))


def _goods_placed(state: State, e: GoodsPlaced, at: At) -> None:
    now = state.tasks.going[e.task]
    state.ledger.lay(on_plate(e.plate) if e.plate else in_bin(e.bin), e.goods)
    placed = Placed(e.bin, sum(g.quantity for g in e.goods), e.plate, e.reason, at.seq)
    left = all_less(now.goods, e.goods)
    done = TaskState.TAKEN if left else TaskState.DONE
    state.tasks.going.put(e.task, evolve(now, goods=left, state=done, placed=(*now.placed, placed)))


def _task_set_down(state: State, e: TaskSetDown, _: At) -> None:
    now, plan = state.tasks.going[e.task], state.tasks.plans[e.task]
    state.tasks.going.put(e.task, evolve(now, state=TaskState.OPEN, person=None, taken=0))
    if plan.plate:
        state.plates.spots.put(plan.plate, in_bin(plan.from_bin))
    else:
        state.ledger.lay(in_bin(plan.from_bin), now.goods)


def _task_held(state: State, e: TaskHeld, _: At) -> None:
    state.tasks.going.put(e.task, evolve(state.tasks.going[e.task], held=e.why))


def _task_reassigned(state: State, e: TaskReassigned, _: At) -> None:
    state.tasks.going.put(e.task, evolve(state.tasks.going[e.task], crew=e.crew))


def _task_raised(state: State, e: TaskRaised, _: At) -> None:
    state.tasks.going.put(e.task, evolve(state.tasks.going[e.task], priority=e.priority))


def _task_cancelled(state: State, e: TaskCancelled, at: At) -> None:
    now = state.tasks.going[e.task]
    state.tasks.going.put(e.task, evolve(now, state=TaskState.CANCELLED, held=e.why, cancelled=at.seq))


NOBODY = PersonId("what-if")


def suppose(state: State, trail: Trail, name: str) -> None:
    """Let goods be on their way to the bins that a trail chose, in nobody's hands: only under an open journal."""
    request = trail.request
    for n, share in enumerate(trail.allocations):
        number = TaskNo(f"{name} {n}")
        plate = PlateNo(number) if request.plate_kind else None
        goods = request.goods if plate else request.of(share.quantity).goods
        if plate and request.plate_kind:
            state.plates.spots.put(plate, with_person(NOBODY))
            state.plates.cards.put(plate, Card(request.plate_kind, building=False))
            state.plates.goods.put(plate, goods)
        loose = () if plate else goods
        plan = Plan(plate, request.from_bin or share.bin, None, Need.PUT_AWAY, loose)
        state.tasks.plans.put(number, plan)
        state.tasks.going.put(number, Going(TaskState.TAKEN, share.bin, share.rule, loose, NOBODY))


FOLDS = (
    folding(TaskMade, _task_made),
    folding(TaskTaken, _task_taken),
    folding(TaskRetargeted, _task_retargeted),
    folding(PlatePlaced, _plate_placed),
    folding(GoodsPlaced, _goods_placed),
    folding(TaskSetDown, _task_set_down),
    folding(TaskHeld, _task_held),
    folding(TaskReassigned, _task_reassigned),
    folding(TaskRaised, _task_raised),
    folding(TaskCancelled, _task_cancelled),
)
"""How its events change a state."""
