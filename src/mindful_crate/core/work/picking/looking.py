"""What is so of a pick task while somebody works it: whose it is, what comes next, which tote is whose."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, CrewId, ItemCode, OrderNo, PersonId, PlateNo, TaskNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.plates import Spot, in_bin, on_plate
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import AT_WORK, Do, Move, Plan, Serves, Task, Tote, line_by_line
from mindful_crate.core.memo import Memo
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.scanning.kinds import Wanted
from mindful_crate.core.work import numbered
from mindful_crate.core.work.tasks.following import task_to_begin

KNOWN = Memo(AT_WORK)
"""What was found out of a task's plan, which never changes."""


def task_to_pick(state: State, number: TaskNo, crews: tuple[CrewId, ...], mine: PersonId) -> Task:
    """A pick task that these crews may take, or that ``mine`` has; refused with the reason otherwise."""
    return task_to_begin(state, number, Need.PICK, crews, mine)


def picked_by(state: State, person: PersonId) -> Task | None:
    """The pick task that a person has begun."""
    return next(iter(state.carried(person, Need.PICK)), None)


def takes(task: Task) -> list[Move]:
    """What is still to be fetched, in order."""
    return [m for m in task.going.remaining if m.do is Do.TAKE]


def several(task: Task) -> bool:
    """Is more than one stop left?"""
    left = (m for m in task.going.remaining if m.do is Do.TAKE)
    return next(left, None) is not None and next(left, None) is not None


def next_take(task: Task, passed_over: tuple[str, ...] = ()) -> Move | None:
    """What is fetched next: what was passed over comes after all else, in its order; None: nothing is left."""
    late, first = set(passed_over), None
    for move in task.going.remaining:
        if move.do is Do.TAKE:
            if str(move.no) not in late:
                return move
            first = first or move
    return first


def stop_of(task: Task, move: Move) -> tuple[int, int]:
    """The how-manyeth stop a take is, of how many the task had."""
    stops = takes_by_number(task.plan)
    return KNOWN.answer(task.plan, move.no, lambda: list(stops).index(move.no)) + 1, len(stops)


def takes_by_number(plan: Plan) -> dict[int, Move]:
    """The stops of a plan, in order, by the numbers of their moves."""
    return KNOWN.answer(plan, "takes", lambda: {m.no: m for m in plan.moves if m.do is Do.TAKE})


def together(task: Task) -> bool:
    """Are goods of several orders set down as one, to be sorted there?"""
    plan = task.plan
    return len(plan.orders) > 1 and KNOWN.answer(plan, "places", lambda: sum(m.do is Do.PLACE for m in plan.moves)) == 1


def without_tote(task: Task) -> list[OrderNo]:
    """The orders whose goods go into a tote of their own and have none yet."""
    if task.plan.plates or together(task):
        return []
    if len(task.going.totes) == len(task.plan.orders) and task.plan.behind is None:
        return []
    has = {t.order for t in task.going.totes}
    return [o for o in task.plan.orders if o not in has]


def order_of(move: Move) -> OrderNo | None:
    """The order a take serves, if it is one."""
    orders = {s.line.order for s in move.serves}
    return orders.pop() if len(orders) == 1 else None


def tote_of(task: Task, order: OrderNo | None) -> PlateNo | None:
    """The tote an order's goods go into."""
    return next((t.plate for t in task.going.totes if t.order == order), None)


def tote_in_use(state: State, plate: PlateNo) -> tuple[Task, OrderNo] | None:
    """The task that somebody picks into a tote, and for which order."""
    task = state.tasks.with_tote(plate)
    return None if task is None else (task, next(t.order for t in task.going.totes if t.plate == plate))


def served_by(state: State, tote: Tote) -> tuple[Serves, ...]:
    """The order lines for which goods in a tote are kept, and how much."""
    kept = (
        Serves(LineKey(tote.order, no), part.goods.quantity)
        for no, numbers in state.reservations.lines_of(tote.order) for number in numbers
        for part in state.reservations[number].parts if part.plate == tote.plate
    )  # fmt: skip
    return line_by_line(kept)


def goods_of(state: State, move: Move) -> tuple[Goods, ...]:
    """What a take or place is about, of a whole plate all that is on it."""
    return move.goods or (state.all_goods(move.plate) if move.plate else ())


def lies_in(state: State, move: Move) -> Spot:
    """Where what is fetched lies."""
    assert move.at is not None
    if move.goods and move.plate:
        return on_plate(move.plate)
    return in_bin(move.at if move.goods or not move.plate else state.bin_of(move.plate) or move.at)


def in_hand(task: Task) -> bool:
    """Was anything of it fetched that is not set down yet?"""
    return bool(task.going.hands or task.going.carried)


def set_at(task: Task) -> BinCode | None:
    """Where it is set down, by its plan; of what only totes are left of, where they go on to."""
    places = (m.at for m in (*task.going.remaining, *reversed(task.plan.moves)) if m.do is Do.PLACE and m.at)
    return next(places, None)


def has_totes(task: Task) -> bool:
    """Is a tote with goods to be brought on with it?"""
    return any(t.came for t in task.going.totes)


def waiting_totes(task: Task) -> list[Tote]:
    """The totes that were handed on to a task and are still to be taken up."""
    return [t for t in task.going.totes if t.waits]


def fixed_serials(state: State, serves: Iterable[Serves]) -> tuple[str, ...]:
    """The serial numbers that are fixed on the order lines a take serves."""
    found: list[str] = []
    for each in serves:
        order = state.order(each.line.order)
        line = next((x for x in order.lines if x.no == each.line.line), None) if order else None
        found += line.serials if line else ()
    return tuple(found)


def spoken_for(state: State, item: ItemCode, but: Iterable[Serves]) -> frozenset[str]:
    """The serial numbers of an item that are fixed on lines of other orders: nobody else gets them."""
    mine = {s.line for s in but}
    others = (c.key for c in state.covers.of_item(item) if c.key not in mine)
    return frozenset(n for key in others for n in fixed_serials(state, (Serves(key, 1),)))


def pieces_wanted(
    state: State, source: Spot, kinds: tuple[Goods, ...], serves: tuple[Serves, ...], much: int, what: str
) -> Wanted | None:  # fmt: skip
    """The pieces of some kinds of goods that must be named when so many go on for these lines: those fixed on them, else any that nobody else
    ordered by its number. None: it is clear which they are, or they have none."""
    item = state.ground.items[kinds[0].item]
    if item.code not in state.serials.kept:
        return None
    if fixed := fixed_serials(state, serves):
        ordered = numbered.numbers_told(fixed).replace("`", "")
        return Wanted(item, much, fixed, "that were ordered", what, f"Ordered: {ordered}")
    there = tuple(g for g in state.ledger.at(source) if any(g.alike(k) for k in kinds))
    wanted = numbered.pieces_wanted(state, source, there, much, what)
    if wanted is None or not (taken := spoken_for(state, item.code, serves)):
        return wanted
    promised = tuple(n for n in wanted.among if n in taken)
    return replace(wanted, among=tuple(n for n in wanted.among if n not in taken), promised=promised)


def check_pieces(state: State, item: ItemCode, serves: Iterable[Serves], serials: Iterable[str]) -> tuple[str, ...]:
    """Refuse pieces that others ordered by their numbers, and others than those fixed on these lines; those that are fixed."""
    serves, serials = tuple(serves), tuple(serials)
    fixed, taken = fixed_serials(state, serves), spoken_for(state, item, serves)
    if odd := [n for n in serials if n in taken]:
        says = f"`{odd[0]}` was ordered by its number by somebody else. Take another."
        raise Refusal("ordered_piece", says, "serials")
    if fixed and (odd := [n for n in serials if n not in fixed]):
        says = f"`{odd[0]}` is not the piece that was ordered: that is {numbered.numbers_told(fixed)}."
        raise Refusal("other_piece", says, "serials")
    return fixed


def without(serves: tuple[Serves, ...], lost: Iterable[Serves]) -> tuple[Serves, ...]:
    """Order lines that are served, each with so much less."""
    less: dict[LineKey, int] = {}
    for each in lost:
        less[each.line] = less.get(each.line, 0) + each.quantity
    left = ((s, s.quantity - less.get(s.line, 0)) for s in serves)
    return tuple(evolve(s, quantity=n) for s, n in left if n > 0)


def whom(task: Task) -> str:
    """The order a task is for, or how many."""
    orders = task.plan.orders
    return f"`{orders[0]}`" if len(orders) == 1 else f"{len(orders)} orders"


def told(state: State, task: Task) -> str:
    """What a pick task is, in a line: ``SO-2011: 3 stops`` or ``4 orders: 12 stops``."""
    along = len(waiting_totes(task))
    more = f", with {counted(along, 'tote')} that {'waits' if along == 1 else 'wait'}" if along else ""
    return f"{whom(task)}: {counted(len(takes(task)), 'stop')}{more}"
