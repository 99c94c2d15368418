"""How its events change a state: tasks, whatever they are for."""

from __future__ import annotations

from collections.abc import Callable

from mindful_crate.core.catalog.amounts import Goods, all_less, all_more
from mindful_crate.core.catalog.ids import PersonId, PlateNo, TaskNo
from mindful_crate.core.floor.plates import Card, Holder, in_bin, with_person
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Going, Move, MoveKey, Part, Plan, TaskState
from mindful_crate.core.record import evolve, maker
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.trail import Trail
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At
from mindful_crate.core.work.tasks.events import (
    MoveDone,
    MoveTurned,
    TaskCancelled,
    TaskHeld,
    TaskRaised,
    TaskReassigned,
    TaskSetDown,
    WorkBegun,
    WorkMade,
)

_plan: Callable[..., Plan] = maker(Plan)
_going: Callable[..., Going] = maker(Going)
_part: Callable[..., Part] = maker(Part)
_NO_GOODS: tuple[Goods, ...] = ()


def _work_made(state: State, e: WorkMade, at: At) -> None:
    made(state, e.task, _plan(e.need, e.crew, e.moves, e.about, at.seq))


def made(state: State, number: TaskNo, plan: Plan) -> None:
    """A task waits."""
    state.tasks.plans.put(number, plan)
    state.tasks.going.put(number, _going(TaskState.OPEN, plan.moves, _NO_GOODS, None, 0, (), plan.crew, "", 0, 0, None))


def _work_begun(state: State, e: WorkBegun, at: At) -> None:
    begun(state, e.task, e.person, at.seq)


def begun(state: State, number: TaskNo, person: PersonId, seq: int) -> None:
    """Somebody does it."""
    now = state.tasks.going[number]
    state.tasks.going.put(number, evolve(now, state=TaskState.TAKEN, person=person, taken=seq))


def _move_done(state: State, e: MoveDone, at: At) -> None:
    done(state, e, at.seq)


def done(state: State, e: MoveDone, seq: int) -> None:
    """A move is farther: what is left of it stays to be done; the task is done with its last."""
    tasks = state.tasks
    now, hands = tasks.going[e.task], None
    key = MoveKey(e.task, e.move)
    on = PlateNo(e.target.code) if e.target.holder is Holder.PLATE else None
    carried = e.goods or (state.all_goods(e.plate) if e.plate else ())
    part = _part(e.at, sum([g.quantity for g in carried]), on, e.reason, seq)
    if e.goods:
        hands = now.hands
        if e.source.holder is Holder.TASK:
            hands = all_less(hands, e.goods)
        if e.target.holder is Holder.TASK:
            hands = all_more(hands, e.goods)
    todo, shown = _after(now.todo, e)
    over = not todo
    tasks.going.put(
        e.task,
        _going(
            TaskState.DONE if over else now.state, todo, now.hands if hands is None else hands, now.person, now.taken,
            now.again, now.crew, now.held, now.priority, 0, shown if over else None,
        ),
    )  # fmt: skip
    tasks.parts.put(key, (*tasks.parts.get(key, ()), part))
    if not e.goods:
        if e.plate:
            state.plates.spots.put(e.plate, e.target)
        return
    if e.source.holder is not Holder.TASK:
        state.ledger.take(e.source, e.goods)
    if e.target.holder is not Holder.TASK:
        state.ledger.lay(e.target, e.goods)


def _after(todo: tuple[Move, ...], e: MoveDone) -> tuple[tuple[Move, ...], Move | None]:
    """What is still to do after a move or a part of it, and the place it was, if it was one."""
    found: list[Move] = []
    shown = None
    for move in todo:
        if move.no != e.move:
            found.append(move)
            continue
        shown = move if move.do is Do.PLACE else None
        left = all_less(move.goods, e.goods) if move.goods else ()
        if left:
            found.append(evolve(move, goods=left))
    return tuple(found), shown


def _move_turned(state: State, e: MoveTurned, at: At) -> None:
    turned(state, e, at.seq)


def turned(state: State, e: MoveTurned, seq: int) -> None:
    """A move goes elsewhere now."""
    now = state.tasks.going[e.task]
    todo = tuple(evolve(m, at=e.at, rule=e.rule) if m.no == e.move else m for m in now.todo)
    state.tasks.going.put(e.task, evolve(now, todo=todo, again=(*now.again, seq)))


def _task_set_down(state: State, e: TaskSetDown, _: At) -> None:
    tasks = state.tasks
    now, plan = tasks.going[e.task], tasks.plans[e.task]
    taken = [m for m in plan.moves if m.do is Do.TAKE]
    todo = (*taken, *(m for m in now.todo if m.do is not Do.TAKE))
    tasks.going.put(e.task, evolve(now, state=TaskState.OPEN, todo=todo, hands=(), person=None, taken=0))
    for move in taken:
        tasks.parts.put(MoveKey(e.task, move.no), None)
    if plan.plate:
        state.plates.spots.put(plan.plate, in_bin(plan.from_bin))
    else:
        state.ledger.lay(in_bin(plan.from_bin), now.hands)


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
        place = Move(2, Do.PLACE, share.bin, loose, plate, share.rule)
        moves = (Move(1, Do.TAKE, request.from_bin or share.bin, loose, plate), place)
        state.tasks.plans.put(number, Plan(Need.PUT_AWAY, None, moves))
        state.tasks.going.put(number, Going(TaskState.TAKEN, (place,), loose, NOBODY))


FOLDS = (
    folding(WorkMade, _work_made),
    folding(WorkBegun, _work_begun),
    folding(MoveDone, _move_done),
    folding(MoveTurned, _move_turned),
    folding(TaskSetDown, _task_set_down),
    folding(TaskHeld, _task_held),
    folding(TaskReassigned, _task_reassigned),
    folding(TaskRaised, _task_raised),
    folding(TaskCancelled, _task_cancelled),
)
"""How its events change a state."""
