"""What deciders make of tasks that take goods or a plate in one place and put them in another."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, CrewId, PersonId, PlateNo, RuleId, TaskNo
from mindful_crate.core.catalog.refs import Ref
from mindful_crate.core.floor.plates import Spot, in_bin, in_hands, on_plate, with_person
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Task
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.work import numbered
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.picking.keeping import keep_where
from mindful_crate.core.work.tasks.events import MoveDone, MoveTurned, WorkMade


def make(
    making: Making,
    number: TaskNo,
    need: Need,
    crew: CrewId | None,
    from_bin: BinCode,
    to: BinCode | None,
    rule: RuleId | None,
    *,
    goods: tuple[Goods, ...] = (),
    plate: PlateNo | None = None,
    about: tuple[Ref, ...] = (),
    share: int = 0,
) -> None:
    """A task to take goods, perhaps off a plate, or a whole plate without them, and to place them: all, or a share of them at
    that place."""
    whole = None if goods else plate
    moves = (Move(1, Do.TAKE, from_bin, goods, plate), Move(2, Do.PLACE, to, goods, whole, rule, share))
    making.event(WorkMade(number, need, crew, moves, about))


def take_up(
    state: State,
    making: Making,
    task: Task,
    person: PersonId,
    plate: PlateNo | None = None,
    serials: tuple[str, ...] = (),
) -> None:
    """Somebody has in hands what it is about: all loose goods, or of whole plates one, that which is named or the next. Refused when
    it is not clear which pieces, of goods that are kept by serial numbers."""
    if task.plan.several:
        plate = plate or task.plate
    for move in task.going.remaining:
        if move.do is not Do.TAKE or (plate and move.plate != plate):
            continue
        assert move.at is not None
        off = on_plate(move.plate) if move.plate and move.goods else in_bin(move.at)
        whole = None if move.goods else move.plate
        to = with_person(person) if whole else in_hands(task.number)
        named = numbered.named(state, off, move.goods, serials, task.receipts) if state.serials.kept else ()
        making.event(MoveDone(task.number, move.no, person, move.at, off, to, move.goods, whole, serials=named))
        if move.serves and move.goods:
            keep_where(state, making, move, move.goods, (move.at, move.plate, None), (move.at, None, task.number))


def place(
    state: State, making: Making, task: Task, code: BinCode, on: PlateNo | None, goods: tuple[Goods, ...], reason: str,
    serials: tuple[str, ...] = (),
) -> None:  # fmt: skip
    """Goods, or the plate without them, lie in a bin now, perhaps on a plate there."""
    move, person, plate = task.going.place, task.person, task.plate
    assert move is not None and person is not None
    source = in_hands(task.number) if goods else with_person(person)
    target = on_plate(on) if on else in_bin(code)
    named = numbered.named(state, source, goods, serials) if state.serials.kept else ()
    making.event(
        MoveDone(task.number, move.no, person, code, source, target, goods, None if goods else plate, reason, named)
    )
    if move.serves and goods:
        keep_where(state, making, move, goods, (None, None, task.number), (code, on, None))


def place_part(
    state: State, making: Making, task: Task, code: BinCode, spot: Spot, goods: tuple[Goods, ...], reason: str,
    serials: tuple[str, ...] = (),
) -> None:  # fmt: skip
    """A part of what is carried lies in a bin now, out of the hands or off the plate at ``spot``; the rest goes on."""
    move, person = task.going.place, task.person
    assert move is not None and person is not None
    named = numbered.named(state, spot, goods, serials) if state.serials.kept else ()
    making.event(MoveDone(task.number, move.no, person, code, spot, in_bin(code), goods, None, reason, named))
    if move.serves and move.goods:
        keep_where(state, making, move, goods, (None, None, task.number), (code, None, None))


def turn(making: Making, task: Task, to: BinCode | None, rule: RuleId | None, share: int = 0) -> None:
    """What is carried goes elsewhere now, all or a share of it."""
    move = task.going.place
    assert move is not None
    making.event(MoveTurned(task.number, move.no, to, rule, share))
