"""The waves of a floor: how far each is, its orders, lines and tasks, each leading to the others; and what waits for a wave, and why."""

from __future__ import annotations

from datetime import date, datetime

from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, PersonId, ShipmentNo, TaskNo, WaveNo, WavePlanId
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Task, TaskState
from mindful_crate.core.floor.waves import Wave, WaveState, state_of
from mindful_crate.core.record import record
from mindful_crate.core.releasing.planning import as_they_go, plan_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.waves import Method
from mindful_crate.core.rulebook.words.parts import all_of
from mindful_crate.core.rulebook.words.recipes import crew_name
from mindful_crate.core.work.refilling.looking import brought, missing
from mindful_crate.core.work.sorting.looking import Far, how_far

MOST = 200
"""So many waves are told, the latest first."""


@record
class OnBoard:
    """A wave in a line: how many orders it has, and how many of its tasks are open, at work and done."""

    number: WaveNo
    plan: WavePlanId | None
    name: str
    method: Method
    stands: WaveState
    held: str
    made: datetime
    orders: int
    open: int
    at_work: int
    done: int


@record
class AwaitedPlan:
    """Orders that wait for a wave: of a plan, or of none that takes them. ``minutes``: when it runs, of the day."""

    plan: WavePlanId | None
    name: str
    minutes: tuple[int, ...]
    orders: tuple[OrderNo, ...]


@record
class OrderIn:
    """An order of a wave: for whom, in which shipment, and the tasks that serve it. ``leaves``: it may leave the wave, nothing of it was begun."""

    number: OrderNo
    partner: str
    order_class: str
    shipment: ShipmentNo | None
    day: date
    tasks: tuple[TaskNo, ...]
    leaves: bool


@record
class LineIn:
    """A line of an order in a wave, in base units: what it wants, what is kept for it, what was fetched, and of that what is still to be sorted.
    ``waits``: what of it is promised and lies in no bin it may be taken from, and which refills bring it."""

    order: OrderNo
    line: int
    item: ItemCode
    name: str
    wants: str
    kept: int
    fetched: int
    unit: str
    tasks: tuple[TaskNo, ...]
    waits: str = ""
    to_sort: int = 0


@record
class TaskIn:
    """A task of a wave: whose, how far, from how many bins to where, for which orders."""

    number: TaskNo
    stands: str
    crew: str
    person: PersonId | None
    held: str
    bins: tuple[BinCode, ...]
    to: BinCode | None
    orders: tuple[OrderNo, ...]
    lines: int


@record
class Inside:
    """What a wave is made of."""

    orders: tuple[OrderIn, ...]
    lines: tuple[LineIn, ...]
    tasks: tuple[TaskIn, ...]


def on_board(state: State, wave: Wave) -> OnBoard:
    """A wave in a line."""
    tasks = [state.tasks[n].state for n in wave.tasks]
    counts = {s: tasks.count(s) for s in TaskState}
    return OnBoard(
        wave.number, wave.plan, wave.name, wave.method, state_of(wave, state.tasks), wave.held, wave.made, len(wave.orders),
        counts[TaskState.OPEN], counts[TaskState.TAKEN], counts[TaskState.DONE],
    )  # fmt: skip


def board(state: State) -> list[OnBoard]:
    """All waves, the latest first."""
    latest = sorted(state.waves.values(), key=lambda w: w.seq, reverse=True)
    return [on_board(state, w) for w in latest[:MOST]]


def awaited(state: State, book: Rulebook, today: date) -> list[AwaitedPlan]:
    """What waits for a wave, plan by plan in their order; what no plan takes any more comes last."""
    orders = as_they_go([o for r in state.releases.values() if r.waits and (o := state.order(r.order)) is not None])
    of: dict[WavePlanId | None, list[OrderNo]] = {}
    for order in orders:
        plan = plan_of(state, book, order, today)
        of.setdefault(plan.id if plan else None, []).append(order.number)
    found = [
        AwaitedPlan(p.id, p.name, p.minutes, tuple(of[p.id])) for p in book.waves_at(state.settings.site) if p.id in of
    ]
    return [*found, AwaitedPlan(None, "no plan", (), tuple(of[None]))] if None in of else found


def inside(state: State, book: Rulebook, wave: Wave) -> Inside:
    """The orders, lines and tasks of a wave."""
    tasks = [state.tasks[n] for n in wave.tasks]
    alive = [t for t in tasks if t.state is not TaskState.CANCELLED]
    by_order: dict[OrderNo, list[Task]] = {}
    for task in alive:
        for number in task.plan.orders:
            by_order.setdefault(number, []).append(task)
    orders = []
    for number in wave.orders:
        order, release = state.order(number), state.releases.get(number)
        if order is None:
            continue
        mine = by_order.get(number, [])
        partner = state.ground.partners.get(order.partner)
        leaves = not any(t.person or t.going.parts for t in mine)
        orders.append(
            OrderIn(
                number, partner.name if partner else order.partner, book.class_told(state.ground, order), release.shipment if release else None, order.leaves,
                tuple(t.number for t in mine), leaves,
            )
        )  # fmt: skip
    return Inside(tuple(orders), tuple(_lines(state, wave, alive)), tuple(_task(book, t) for t in tasks))


def _lines(state: State, wave: Wave, tasks: list[Task]) -> list[LineIn]:
    asked: dict[tuple[OrderNo, int], int] = {}
    fetched: dict[tuple[OrderNo, int], int] = {}
    of: dict[tuple[OrderNo, int], list[TaskNo]] = {}
    for task in tasks:
        left = {m.no for m in task.going.remaining}
        for move in task.plan.moves:
            if move.do is not Do.TAKE:
                continue
            for each in move.serves:
                key = (each.line.order, each.line.line)
                asked[key] = asked.get(key, 0) + each.quantity
                fetched[key] = fetched.get(key, 0) + (0 if move.no in left else each.quantity)
                if task.number not in of.setdefault(key, []):
                    of[key].append(task.number)
    for mine in (o for n in wave.orders if (o := state.order(n)) is not None):
        for key in ((mine.number, x.no) for x in mine.lines if _missing(state, mine.number, x.item, x.no)):
            asked.setdefault(key, 0)
            fetched.setdefault(key, 0)
            of.setdefault(key, [])
    found, far = [], {o: how_far(state, o) for o in wave.orders}
    for (number, no), quantity in sorted(asked.items()):
        order = state.order(number)
        line = state.ordered.line(order, no) if order else None
        if line is not None:
            item, key = state.ground.items[line.item], (number, no)
            stands = far.get(number, {}).get(no, Far())
            found.append(
                LineIn(
                    number, no, line.item, item.name, item.told(line.quantity), quantity, fetched[key], item.base.plural,
                    tuple(of[key]), _waits(state, number, line.item, no), stands.fetched - stands.parted,
                )
            )  # fmt: skip
    return found


def _missing(state: State, order: OrderNo, item: ItemCode, line: int) -> int:
    """How much of a line is promised and lies in no bin it may be taken from."""
    return sum(q for n, no, q in missing(state, item) if (n, no) == (order, line))


def _waits(state: State, order: OrderNo, item: ItemCode, line: int) -> str:
    quantity = _missing(state, order, item, line)
    if not quantity:
        return ""
    refills = [f"`{task}`" for task, _ in brought(state, item)]
    much = state.ground.items[item].told(quantity)
    return f"{much} wait for {all_of(refills)}" if refills else f"{much} lie in no bin they may be taken from"


def _task(book: Rulebook, task: Task) -> TaskIn:
    stands = "held" if task.state is TaskState.OPEN and task.held else task.state.value
    takes = [m for m in task.plan.moves if m.do is Do.TAKE]
    return TaskIn(
        task.number, stands, crew_name(book.crews, task.crew) if task.crew else "", task.person,
        task.held if not task.state.ended else "", tuple(dict.fromkeys(m.at for m in takes if m.at)),
        task.placed_in or task.to_bin, task.plan.orders, len({s.line for m in takes for s in m.serves}),
    )  # fmt: skip
