"""How its events change a state: tasks, whatever they are for."""

from __future__ import annotations

from collections.abc import Callable

from mindful_crate.core.catalog.amounts import Goods, all_less, all_more
from mindful_crate.core.catalog.ids import BinCode, CrewId, PersonId, PlateKindCode, PlateNo, RecipeId, TaskNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.overruled import Overruled, Overruling
from mindful_crate.core.floor.plates import Card, Holder, in_bin, in_hands, on_plate, with_person
from mindful_crate.core.floor.rests import Rest
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.steps_done import StepDone
from mindful_crate.core.floor.tasks import LASTING, Do, Going, Move, PartDone, Plan, Serves, TaskState, bound, divided
from mindful_crate.core.record import evolve, maker
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.trail import Trail
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At
from mindful_crate.core.work.tasks.events import (
    GoodsRest,
    MoveDone,
    MoveTurned,
    RestEnded,
    TaskCancelled,
    TaskHeld,
    TaskLeft,
    TaskRaised,
    TaskReassigned,
    TaskSetDown,
    WorkMade,
)

_plan: Callable[..., Plan] = maker(Plan)
_going: Callable[..., Going] = maker(Going)
_part: Callable[..., PartDone] = maker(PartDone)
_NO_GOODS: tuple[Goods, ...] = ()
_NO_PLATES: tuple[PlateNo, ...] = ()


def _plan_of(
    need: Need,
    crew: CrewId | None,
    moves: tuple[Move, ...],
    about: tuple[Ref, ...] = (),
    made: int = 0,
    recipe: RecipeId | None = None,
    leg: int = 0,
    behind: TaskNo | None = None,
) -> Plan:
    first, several = moves[0], _NO_PLATES
    plate = None if first.goods else first.plate
    if len(moves) > 2 and plate:
        whole = tuple(m.plate for m in moves if m.do is Do.TAKE and not m.goods and m.plate)
        if len(whole) > 1:
            plate, several = None, whole
    return _plan(need, crew, moves, about, made, plate, several, recipe, leg, behind)


def work_made(state: State, e: WorkMade, at: At) -> None:
    """A task waits."""
    moves = e.moves
    state.tasks.plans.put(e.task, _plan_of(e.need, e.crew, moves, e.about, at.seq, e.recipe, e.leg, e.behind))
    since = None if e.at_minute is None else at.stamp.at
    waits = _going(
        TaskState.OPEN, moves, bound(moves), _NO_GOODS, None, 0, (), e.crew, e.held, e.priority, 0, (), None, None, e.at_minute, since, ()
    )  # fmt: skip
    state.tasks.going.put(e.task, waits)


def move_done(state: State, e: MoveDone, at: At) -> None:
    """A move is farther: what is left of it stays to be done. The first begins the task, with the last it is done."""
    going, goods, target = state.tasks.going, e.goods, e.target
    now = going[e.task]
    remaining, was = _after(state, now.remaining, e)
    places = was is not None and was.do is Do.PLACE
    parts = now.parts
    looks = was is not None and was.do is Do.LOOK
    if goods or places or looks:
        carried = goods or (state.all_goods(e.plate) if e.plate else ())
        on = PlateNo(target.code) if target.holder is Holder.PLATE else None
        numbers = _numbers(state, e) if places and state.serials.kept else ()
        off = goods[0].item if goods and places and was is not None and not was.goods else None
        parts = (*parts, _part(e.move, e.at, sum([g.quantity for g in carried]), on, e.reason, at.seq, numbers, off))
    if now.person is None:
        person, taken = e.by, at.seq
    else:
        person, taken = now.person, now.taken
    after = _going(
        TaskState.TAKEN if remaining else TaskState.DONE, remaining, bound(remaining) if places else now.bound,
        _in_hands(now.hands, e) if goods else now.hands, person, taken, now.again, now.crew, now.held, now.priority, 0,
        parts, None if remaining or not places else was, now.whose, None, None, now.totes,
    )  # fmt: skip
    going.put(e.task, after)
    if places and was is not None and was.rule and was.at and was.at != e.at:
        known = state.overruled.get(was.rule) or Overruled()
        state.overruled.put(was.rule, known.more(Overruling(was.at, e.at, e.reason, e.by, at.seq)))
    if not remaining and person is not None and state.tasks.plans[e.task].need not in LASTING:
        state.steps_done.put(person, StepDone(DocKind.TASK, e.task, at.seq))
    if not goods:
        if e.plate:
            state.ledger.carry(e.plate, target)
        return
    state.ledger.move(goods, e.source, target, e.serials)


def _numbers(state: State, e: MoveDone) -> tuple[str, ...]:
    """The pieces a move places, of loose goods that are kept by serial numbers."""
    kept = (g for g in e.goods if g.item in state.serials.kept)
    return tuple(n for g in kept for n in state.serials.meant(e.source, g, e.serials))


def _in_hands(hands: tuple[Goods, ...], e: MoveDone) -> tuple[Goods, ...]:
    """Loose goods in the hands of who does the task, after this."""
    if e.source.holder is Holder.TASK:
        hands = all_less(hands, e.goods)
    return all_more(hands, e.goods) if e.target.holder is Holder.TASK else hands


def _after(state: State, remaining: tuple[Move, ...], e: MoveDone) -> tuple[tuple[Move, ...], Move | None]:
    """What is still to do after a move or a part of it, and the move as it was."""
    for n, move in enumerate(remaining):
        if move.no == e.move:
            if e.goods and not move.goods and move.do is Do.PLACE:
                return remaining, move  # a part of what is on the plate was put elsewhere: the plate still goes there
            left = all_less(move.goods, e.goods) if move.goods and move.do is not Do.LOOK else ()
            if left:
                serves = _still(state, move, e.goods) if move.serves else ()
                return (*remaining[:n], evolve(move, goods=left, serves=serves), *remaining[n + 1 :]), move
            return remaining[:n] + remaining[n + 1 :], move
    return remaining, None


def _still(state: State, move: Move, goods: tuple[Goods, ...]) -> tuple[Serves, ...]:
    """The order lines a move still serves after a part of it; of goods of several items, each line what is of its own item."""
    if len({g.item for g in move.goods}) < 2:
        return divided(move.serves, sum([g.quantity for g in goods]))[1]
    left: list[Serves] = []
    gone = {item: sum(g.quantity for g in goods if g.item == item) for item in {g.item for g in goods}}
    for each in move.serves:
        order = state.order(each.line.order)
        line = state.ordered.line(order, each.line.line) if order else None
        less = min(each.quantity, gone.get(line.item, 0)) if line else 0
        if line and less:
            gone[line.item] -= less
        if each.quantity > less:
            left.append(evolve(each, quantity=each.quantity - less))
    return tuple(left)


def move_turned(state: State, e: MoveTurned, at: At) -> None:
    """A move goes elsewhere now."""
    now = state.tasks.going[e.task]
    remaining = tuple(evolve(m, at=e.at, rule=e.rule, share=e.share) if m.no == e.move else m for m in now.remaining)
    state.tasks.going.put(e.task, evolve(now, remaining=remaining, bound=bound(remaining), again=(*now.again, at.seq)))


def _task_set_down(state: State, e: TaskSetDown, _: At) -> None:
    tasks = state.tasks
    now, plan = tasks.going[e.task], tasks.plans[e.task]
    left = {m.no: m for m in now.remaining}
    back = set(now.carried)
    done = {m.no: _fetched(m, now) for m in plan.moves if m.do is Do.TAKE and m.goods}
    whole = {m.no for m in plan.moves if m.do is Do.TAKE and not m.goods and m.plate in back}
    remaining = []
    for move in plan.moves:
        rest = left.get(move.no)
        if goods := done.get(move.no):
            goods = all_more(rest.goods if rest else (), goods)
            move = evolve(move, goods=goods, serves=divided(move.serves, sum([g.quantity for g in goods]))[0])
        elif rest:
            move = rest
        elif move.no not in whole:
            continue
        remaining.append(move)
    parts = tuple(p for p in now.parts if plan.several)
    totes = tuple(evolve(t, taken=False) for t in now.totes if t.came)  # what was handed on stands there again
    tasks.going.put(
        e.task,
        evolve(
            now,
            state=TaskState.OPEN,
            remaining=tuple(remaining),
            hands=(),
            person=None,
            taken=0,
            parts=parts,
            totes=totes,
        ),
    )
    for tote in (t for t in now.totes if t.came and t.taken):
        state.ledger.carry(tote.plate, in_bin(tote.came or BinCode("")))
    for move in plan.moves:
        if (goods := done.get(move.no)) and move.at:
            spot = on_plate(move.plate) if move.plate else in_bin(move.at)
            state.ledger.put_back(goods, in_hands(e.task), spot)
        elif move.no in whole and move.plate and move.at:
            state.plates.spots.put(move.plate, in_bin(move.at))


def _fetched(move: Move, now: Going) -> tuple[Goods, ...]:
    """What was fetched by a take of loose goods: of one kind what its parts say, of several kinds all or nothing."""
    if len(move.goods) > 1:
        return () if any(m.no == move.no for m in now.remaining) else move.goods
    much = sum([p.quantity for p in now.parts if p.move == move.no])
    return (evolve(move.goods[0], quantity=much),) if much else ()


def _task_left(state: State, e: TaskLeft, _: At) -> None:
    now = state.tasks.going[e.task]
    stand = tuple(t for t in now.totes if state.has_plate(t.plate))  # an empty one goes with who leaves
    state.tasks.going.put(e.task, evolve(now, state=TaskState.OPEN, person=None, taken=0, totes=stand))


def _goods_rest(state: State, e: GoodsRest, at: At) -> None:
    rest = Rest(e.key, e.need, e.at, e.plate, e.goods, e.receipts, e.recipe, e.leg, e.why, at.seq)
    state.rests.put(e.key, rest)


def _rest_ended(state: State, e: RestEnded, _: At) -> None:
    rest = state.rests[e.key]
    state.rests.put(e.key, None)
    for number in rest.receipts or (
        (card.receipt,) if rest.plate and (card := state.plates.cards.get(rest.plate)) else ()
    ):
        if number and (receipt := state.receipts.here(number)) and receipt.booked:
            state.receipts.may_leave[number] = None


def _task_held(state: State, e: TaskHeld, _: At) -> None:
    state.tasks.going.put(e.task, evolve(state.tasks.going[e.task], held=e.why, at_minute=None, since=None))


def _task_reassigned(state: State, e: TaskReassigned, _: At) -> None:
    state.tasks.going.put(e.task, evolve(state.tasks.going[e.task], crew=e.crew, whose=e.person))


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
        state.tasks.plans.put(number, _plan_of(Need.PUT_AWAY, None, moves))
        state.tasks.going.put(number, Going(TaskState.TAKEN, (place,), bound((place,)), loose, NOBODY))


def suppose_plate(state: State, plate: PlateNo, kind: PlateKindCode, code: BinCode, goods: tuple[Goods, ...]) -> None:
    """Let a plate stand in a bin that never came: only under an open journal."""
    state.plates.spots.put(plate, in_bin(code))
    state.plates.cards.put(plate, Card(kind, building=False))
    state.plates.goods.put(plate, goods)


FOLDS = (
    folding(WorkMade, work_made),
    folding(MoveDone, move_done),
    folding(MoveTurned, move_turned),
    folding(GoodsRest, _goods_rest),
    folding(RestEnded, _rest_ended),
    folding(TaskSetDown, _task_set_down),
    folding(TaskLeft, _task_left),
    folding(TaskHeld, _task_held),
    folding(TaskReassigned, _task_reassigned),
    folding(TaskRaised, _task_raised),
    folding(TaskCancelled, _task_cancelled),
)
"""How its events change a state."""
