"""The list of a pick task, for paper: its code, its stops in order, totes, where it is set down, and a packing list for each order."""

from __future__ import annotations

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import TaskNo
from mindful_crate.core.catalog.refs import DocKind
from mindful_crate.core.floor.pages import PaperPage, PaperTable
from mindful_crate.core.floor.standing import bin_now
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Task
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.recipes import crew_name
from mindful_crate.core.work.picking.looking import fixed_serials, goods_of, together, waiting_totes


def pick_list(state: State, book: Rulebook, number: TaskNo) -> tuple[PaperPage, ...]:
    """The list of a task as it stands now, and a packing list for each order; refused when it is none that is picked, or is not to be picked any more."""
    task = state.tasks.get(number)
    if task is None or task.need is not Need.PICK:
        raise Refusal("unknown_task", f"There is no pick task `{number}`.", "task")
    takes = [m for m in task.going.remaining if m.do is Do.TAKE]
    if task.state.ended or not takes:
        raise Refusal("nothing_to_pick", f"Nothing of task `{number}` is to be fetched any more.", "task")
    wave = next((r.number for r in task.plan.about if r.kind is DocKind.WAVE), None)
    crew = crew_name(book.crews, task.crew) if task.crew else ""
    orders = [o for n in task.plan.orders if (o := state.order(n)) is not None]
    site = state.ground.sites[state.settings.site].name
    about = (
        f"{site}.",
        f"{crew}." if crew else "",
        f"Wave {wave}." if wave else "",
        f"For {', '.join(o.number for o in orders)}.",
    )
    how = "Into no tote: it is sorted afterwards." if together(task) else "Each order into a tote of its own."
    if along := waiting_totes(task):
        how = f"Take along from {along[0].came}: {', '.join(f'tote {t.plate} of {t.order}' for t in along)}. {how}"
    stops = PaperTable(
        "", ("", "Bin", "Item", "How many", "For", "Done"), (8, 38, 58, 32, 32, 12),
        tuple(_stop(state, n, m) for n, m in enumerate(takes, start=1)), large=(1, 2, 3),
    )  # fmt: skip
    foot = f"{number} as it stood {state.clock:%Y-%m-%d %H:%M} UTC. What the handset says later counts."
    to = f"Set it down in {task.to_bin or 'the place the worker chooses'}."
    first = PaperPage("Pick list", number, (), (" ".join(x for x in about if x), how), "", (stops,), (to,), foot=foot)
    return (first, *(_packing(state, task, o, takes, foot) for o in orders))


def _stop(state: State, n: int, move: Move) -> tuple[str, ...]:
    """A stop: where, what, how much, and for whom."""
    goods = goods_of(state, move)
    item = state.ground.items[goods[0].item]
    assert move.at is not None
    orders = dict.fromkeys(s.line.order for s in move.serves)
    much = item.told(sum(g.quantity for g in goods)) + (" (the whole plate)" if not move.goods else "")
    where = [bin_now(state, move.plate, move.at), *([f"on {move.plate}"] if move.plate else [])]
    lot = [f"lot {goods[0].lot}"] if goods[0].lot else []
    what = [item.code, item.name, *lot, *(f"number {n}" for n in fixed_serials(state, move.serves))]
    return (str(n), "\n".join(where), "\n".join(what), much, ", ".join(orders), "☐")


def _packing(state: State, task: Task, order: Order, takes: list[Move], foot: str) -> PaperPage:
    """What of an order this task brings."""
    wanted: dict[int, int] = {}
    for each in (s for m in takes for s in m.serves if s.line.order == order.number):
        wanted[each.line.line] = wanted.get(each.line.line, 0) + each.quantity
    items, partner = state.ground.items, state.ground.partners.get(order.partner)
    rows = tuple(
        (str(x.no), x.item, items[x.item].name, items[x.item].told(wanted[x.no])) for x in order.lines if x.no in wanted
    )
    tote = next((t.plate for t in task.going.totes if t.order == order.number), None)
    address = tuple(order.ship_to) or (tuple(partner.address) if partner else ())
    table = PaperTable(f"Tote {tote}" if tote else "", ("Line", "Item", "", "How many"), (15, 35, 90, 40), rows)
    says = (f"What pick list {task.number} brings of it:",)
    to = (partner.name if partner else order.partner, *address)
    return PaperPage("Packing list", order.number, to, says, "", (table,), (), foot=foot)
