"""How picking is decided: goods kept for orders leave their bins, stay kept in hands, and are set down where they are brought."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, PlateNo, TaskNo
from mindful_crate.core.floor.plates import in_bin, in_hands, on_plate, with_person
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Task, TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.work import numbered
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.picking.acts import PickInOffice
from mindful_crate.core.work.picking.events import KeptMoved
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.decide import reason
from mindful_crate.core.work.tasks.events import MoveDone


def _pick_in_office(state: State, making: Making, _: Rulebook, stamp: Stamp, act: PickInOffice) -> str:
    task = state.tasks.get(act.task)
    if task is None or task.need is not Need.PICK:
        raise Refusal("unknown_task", f"There is no pick task `{act.task}`.")
    if task.state.ended:
        raise Refusal("task_done", f"Pick task `{task.number}` is {task.state.value}.")
    if task.held:
        raise Refusal("task_held", f"Task `{task.number}` is held: {task.held}. Let it go first.")
    if task.person is not None and task.person != stamp.who:
        raise Refusal("other_person", f"@{task.person} is at task `{task.number}`.")
    why = reason(act.why)
    for move in [m for m in task.going.remaining if m.do is Do.TAKE]:
        _fetch(state, making, task, move, stamp, act.serials)
    if act.begin:
        return f"Task `{task.number}` is picked by @{stamp.who}, and still to be set down."
    places = [m for m in state.tasks[task.number].going.remaining if m.do is Do.PLACE]
    at: dict[BinCode, None] = {}
    for move in places:
        code = act.bin or move.at
        if code is None:
            raise Refusal("no_bin", "No rule says where it is brought: say where it was set down.", "bin")
        _check_place(state, code)
        _set_down(state, making, state.tasks[task.number], move, code, stamp, why)
        at[code] = None
    where = " and ".join(f"`{c}`" for c in at)
    return f"Task `{task.number}` is picked: {counted(len(task.plan.orders), 'order')} in {where}."


def _check_place(state: State, code: BinCode) -> None:
    each = state.ground.bins.get(code)
    if each is None or state.ground.site_of(code) != state.settings.site:
        raise Refusal("unknown_bin", f"There is no bin `{code}` at this site.", "bin")
    if (why := state.blocked(code)) is not None:
        raise Refusal("bin_blocked", f"Bin `{code}` is blocked: {why}.", "bin")


def to_name(state: State, task: Task) -> tuple[int, tuple[str, ...]]:
    """How many pieces of a task must be named by their serial numbers before they are fetched, and among which."""
    count, among = 0, list[str]()
    for move in task.going.remaining:
        if move.do is Do.TAKE and move.at is not None and move.goods:
            source = on_plate(move.plate) if move.plate else in_bin(move.at)
            for goods in move.goods:
                if goods.item in state.serials.kept and numbered.clear(state, source, goods) is None:
                    count += goods.quantity
                    among += state.serials.at(source, goods)
    return count, tuple(dict.fromkeys(among))


def _fetch(
    state: State, making: Making, task: Task, move: Move, stamp: Stamp, serials: tuple[str, ...]
) -> None:  # fmt: skip
    """Take what a move says out of its bin, or off its plate; it stays kept for its lines."""
    assert move.at is not None
    if not move.goods:
        person = with_person(stamp.who)
        at = (state.bin_of(move.plate) if move.plate else None) or move.at
        making.event(MoveDone(task.number, move.no, stamp.who, at, in_bin(at), person, (), move.plate))
        return
    source = on_plate(move.plate) if move.plate else in_bin(move.at)
    lies = state.ledger.at(source)
    if any(sum(x.quantity for x in lies if x.alike(g)) < g.quantity for g in move.goods):
        raise Refusal("not_there", f"`{move.at}` does not hold what is to be fetched there.")
    target = in_hands(task.number)
    # of what is named only what lies there, and no more of it than is fetched here
    named: tuple[Serials, ...] = ()
    for goods in move.goods if state.serials.kept else ():
        mine = [n for n in serials if n in state.serials.at(source, goods)][: goods.quantity]
        named += numbered.named(state, source, (goods,), mine)
    making.event(MoveDone(task.number, move.no, stamp.who, move.at, source, target, move.goods, serials=named))
    _keep(state, making, move, (move.at, move.plate, None), (move.at, None, task.number))


def _set_down(
    state: State, making: Making, task: Task, move: Move, code: BinCode, stamp: Stamp, why: str
) -> None:  # fmt: skip
    """Set down what a move says in a bin."""
    reason_ = why if code != move.at else ""
    if not move.goods:
        source = with_person(task.person or stamp.who)
        making.event(MoveDone(task.number, move.no, stamp.who, code, source, in_bin(code), (), move.plate, reason_))
        return
    source = in_hands(task.number)
    named: tuple[Serials, ...] = ()
    for goods in move.goods if state.serials.kept else ():
        named += numbered.named(state, source, (goods,), state.serials.at(source, goods)[: goods.quantity])
    making.event(
        MoveDone(task.number, move.no, stamp.who, code, source, in_bin(code), move.goods, None, reason_, named)
    )
    _keep(state, making, move, (None, None, task.number), (code, None, None))


def after(state: State, making: Making, _: Rulebook, __: Stamp) -> str:
    """What was put back where it was fetched is kept there again."""
    going = state.tasks.going
    taken = [
        key for keeper, key, was in state.journal.puts()
        if keeper is going and was is not None and was.state is TaskState.TAKEN
    ]  # fmt: skip
    for number in dict.fromkeys(taken):
        task = state.tasks.get(number)
        if task is None or task.need is not Need.PICK or task.state is not TaskState.OPEN:
            continue
        for move in task.plan.moves:
            if move.do is Do.TAKE and move.goods:
                _keep(state, making, move, (None, None, number), (move.at, move.plate, None))
    return ""


_At = tuple[BinCode | None, PlateNo | None, TaskNo | None]
"""In a bin, off a plate, or in the hands of who does a task; no bin: whichever."""


def _keep(state: State, making: Making, move: Move, was: _At, now: _At) -> None:
    """What was kept of these goods for the lines a move serves is kept where they are now."""
    for each in move.serves:
        left = each.quantity
        for number in state.reservations.of_order(each.line.order).get(each.line.line, ()):
            parts: list[Reserved] = []
            moved = 0
            for part in state.reservations[number].parts:
                takes = min(left, part.goods.quantity) if _is_there(part, move.goods, was) else 0
                if takes:
                    left -= takes
                    moved += takes
                    code = now[0] or part.bin
                    parts.append(Reserved(code, evolve(part.goods, quantity=takes), now[1], part.rule, now[2]))
                if part.goods.quantity > takes:
                    parts.append(evolve(part, goods=evolve(part.goods, quantity=part.goods.quantity - takes)))
            if moved:
                making.event(KeptMoved(number, tuple(parts)))


def _is_there(part: Reserved, goods: tuple[Goods, ...], at: _At) -> bool:
    code, plate, task = at
    return (
        part.task == task
        and (code is None or part.bin == code or plate is not None)
        and part.plate == plate
        and any(g.alike(part.goods) for g in goods)
    )


DECIDES = (deciding(PickInOffice, _pick_in_office),)
"""How its acts are decided."""
