"""The list of a pick task, for paper: its code, its stops in order, totes, where it is set down, and a packing list for each order."""

from __future__ import annotations

from datetime import datetime

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, TaskNo, WaveNo
from mindful_crate.core.catalog.refs import DocKind
from mindful_crate.core.floor.standing import bin_now
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Task
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.recipes import crew_name
from mindful_crate.core.work.picking.looking import fixed_serials, goods_of, together


@record
class StopRow:
    """A stop: where, what, how much, and for whom."""

    no: int
    bin: BinCode
    plate: PlateNo | None
    item: str
    name: str
    lot: str
    serials: tuple[str, ...]
    much: str
    orders: tuple[OrderNo, ...]


@record
class PackingRow:
    """A line of an order, as it is packed."""

    line: int
    item: str
    name: str
    much: str


@record
class PackingList:
    """What of an order this task brings."""

    order: OrderNo
    partner: str
    ship_to: tuple[str, ...]
    tote: PlateNo | None
    lines: tuple[PackingRow, ...]


@record
class PickList:
    """All of it. ``together``: no tote, it is sorted afterwards."""

    task: TaskNo
    wave: WaveNo | None
    crew: str
    made: datetime
    to: BinCode | None
    together: bool
    stops: tuple[StopRow, ...]
    packing: tuple[PackingList, ...]


def pick_list(state: State, book: Rulebook, number: TaskNo) -> PickList:
    """The list of a task as it stands now; refused when it is none that is picked, or is not to be picked any more."""
    task = state.tasks.get(number)
    if task is None or task.need is not Need.PICK:
        raise Refusal("unknown_task", f"There is no pick task `{number}`.", "task")
    takes = [m for m in task.going.remaining if m.do is Do.TAKE]
    if task.state.ended or not takes:
        raise Refusal("nothing_to_pick", f"Nothing of task `{number}` is to be fetched any more.", "task")
    wave = next((WaveNo(r.number) for r in task.plan.about if r.kind is DocKind.WAVE), None)
    crew = crew_name(book.crews, task.crew) if task.crew else ""
    stops = tuple(_stop(state, n, m) for n, m in enumerate(takes, start=1))
    orders = [o for n in task.plan.orders if (o := state.order(n)) is not None]
    packing = tuple(_packing(state, task, o, takes) for o in orders)
    return PickList(number, wave, crew, state.clock, task.to_bin, together(task), stops, packing)


def _stop(state: State, n: int, move: Move) -> StopRow:
    goods = goods_of(state, move)
    item = state.ground.items[goods[0].item]
    assert move.at is not None
    code = bin_now(state, move.plate, move.at)
    orders = tuple(dict.fromkeys(s.line.order for s in move.serves))
    much = item.told(sum(g.quantity for g in goods)) + (" (the whole plate)" if not move.goods else "")
    return StopRow(
        n, code, move.plate, item.code, item.name, goods[0].lot, fixed_serials(state, move.serves), much, orders
    )


def _packing(state: State, task: Task, order: Order, takes: list[Move]) -> PackingList:
    wanted: dict[int, int] = {}
    for each in (s for m in takes for s in m.serves if s.line.order == order.number):
        wanted[each.line.line] = wanted.get(each.line.line, 0) + each.quantity
    items, partner = state.ground.items, state.ground.partners.get(order.partner)
    lines = tuple(
        PackingRow(x.no, x.item, items[x.item].name, items[x.item].told(wanted[x.no]))
        for x in order.lines
        if x.no in wanted
    )
    tote = next((t.plate for t in task.going.totes if t.order == order.number), None)
    address = tuple(order.ship_to) or (tuple(partner.address) if partner else ())
    return PackingList(order.number, partner.name if partner else order.partner, address, tote, lines)
