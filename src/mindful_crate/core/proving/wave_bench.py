"""What wave plans would do with the orders as they are: which takes which and why others do not, the tasks and carts of a wave, and all ways to
pick it side by side. Nothing is released or kept."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import OrderNo, WavePlanId
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.free import Carried
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.preview import LeftOver, Preview, ShownLook, ShownShare, ShownTask
from mindful_crate.core.record import record
from mindful_crate.core.releasing.cover import going_out
from mindful_crate.core.releasing.judging import judged_orders
from mindful_crate.core.releasing.methods import Compared
from mindful_crate.core.releasing.planning import (
    LeftOut,
    all_orders,
    as_they_go,
    as_waiting,
    criteria,
    filled,
    size_of,
    why_not,
)
from mindful_crate.core.releasing.reach import reached
from mindful_crate.core.releasing.words import gap_words
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.gates import GateVerdict
from mindful_crate.core.rulebook.waves import Method, WavePlan
from mindful_crate.core.rulebook.words.recipes import crew_name
from mindful_crate.core.work.covering.decide import claim
from mindful_crate.core.work.host.fold import suppose_confirmed
from mindful_crate.core.work.picking.arranging import Kept, Picking, arrange, priority_of, to_fetch
from mindful_crate.core.work.picking.ways import ways
from mindful_crate.core.work.receiving.checks import goods_text
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.waving.keeping import allocate
from mindful_crate.core.world.decide import making_of


@record
class Passed:
    """A plan that was asked for an order before the one that takes it, and why it does not."""

    plan: str
    says: str


@record
class Goes:
    """An order and the plan it would wait for; without one it would go at once. ``released``: it waits already."""

    order: OrderNo
    partner: str
    plan: WavePlanId | None
    name: str
    passed: tuple[Passed, ...]
    lines: int
    weight_mg: int
    released: bool


@record
class Wave:
    """A wave a plan would make now: its orders, those it leaves for the next, its tasks, what no task is made of, and the ways to pick it."""

    plan: WavePlan
    orders: tuple[OrderNo, ...]
    left: tuple[LeftOut, ...]
    picking: Picking
    short: tuple[str, ...]
    methods: tuple[Compared, ...]
    why_not: str
    """Why the ways are not compared; empty when they are."""


def sorted_out(state: State, book: Rulebook, stamp: Stamp) -> list[Goes]:
    """All orders that may go out now, or wait for a wave, with the plan each belongs to; as they are given stock."""
    today, site = stamp.today, state.settings.site
    with state.tentatively():
        for order in going_out(state):
            suppose_confirmed(state, order.number)
        waits = {r.order for r in state.releases.values() if r.waits}
        open_ = [o for o in going_out(state) if o.number in waits or o.number not in state.releases]
        may = {
            j.order for j in judged_orders(state, book, open_, stamp.now)
            if j.verdict is not GateVerdict.STOP and any(x.on_hand for x in j.lines)
        }  # fmt: skip
    plans = book.waves_at(site)
    found = []
    for order in as_they_go([o for o in open_ if o.number in may or o.number in waits]):
        size, passed, mine = size_of(state, book, order), list[Passed](), None
        for plan in plans:
            says = why_not(state.ground, plan, size, today)
            if says is None:
                mine = plan
                break
            passed.append(Passed(plan.name, says))
        partner = state.ground.partners.get(order.partner)
        found.append(
            Goes(
                order.number, partner.name if partner else order.partner, mine.id if mine else None, mine.name if mine else "",
                tuple(passed), size.lines, size.weight_mg, order.number in waits,
            )
        )  # fmt: skip
    return found


def in_no_plan(state: State, book: Rulebook, orders: Sequence[OrderNo], today: date) -> str:
    """What no plan takes, proved over all orders that there can be: in a sentence, with one of these orders if one is such; empty when some plan
    takes everything, or there is none."""
    mine, known = book.waves_at(state.settings.site), all_orders(state.ground, book.classes_at(state.settings.site))
    if not mine or known is None:
        return ""
    waiting = [as_waiting(size_of(state, book, o), today) for n in orders if (o := state.order(n)) is not None]
    gaps = reached([criteria(p) for p in mine], known, waiting).gaps
    return gap_words(gaps[0], known) if gaps else ""


def wave_of(state: State, book: Rulebook, plan: WavePlan, orders: list[OrderNo], stamp: Stamp) -> Wave:
    """The wave a plan would make of these orders; under an open journal nothing of it stays."""
    known = [o for n in orders if (o := state.order(n)) is not None]
    taken, left = filled(plan.most, [size_of(state, book, o) for o in known])
    mine = [t.order for t in taken]
    with state.tentatively():
        short = _kept_for(state, book, mine, stamp)
        kept = to_fetch(state, [o.number for o in mine])
        picking = arrange(state, book, kept, plan.method, plan, stamp.today)
        methods, why = ways(state, plan, kept)
    return Wave(plan, tuple(o.number for o in mine), tuple(left), picking, tuple(short), tuple(methods), why)


def _kept_for(state: State, book: Rulebook, orders: list[Order], stamp: Stamp) -> list[str]:
    """Suppose that these orders have reached the floor and were released: stock is kept for them. What the rules cannot give, in words."""
    making = making_of(state, book, stamp)
    for order in orders:
        suppose_confirmed(state, order.number)
        claim(state, making, order, stamp.today)
    carried = Carried()
    return [f"`{o.number}`: {s}" for o in orders for s in allocate(state, making, book, stamp, o, carried=carried)]


def of_going(state: State, book: Rulebook, orders: Sequence[OrderNo], stamp: Stamp) -> Preview:
    """The tasks that recipes would make if these orders were released now, picked one at a time. Refused when an order is none, or does not go
    out from here."""
    known = [_goes_out(state, number) for number in dict.fromkeys(orders)]
    numbers = book.numbered_recipes(state.settings.site)
    rules = {str(r.id): n for lst in book.bin_rules for n, r in enumerate(lst.rules, start=1)}
    with state.tentatively():
        short = _kept_for(state, book, known, stamp)
        picking = arrange(state, book, to_fetch(state, [o.number for o in known]), Method.ORDER, None, stamp.today)
    tasks = []
    for each in picking.tasks:
        recipe, to = each.recipe, each.moves[-1].at
        shares = tuple(
            ShownShare(
                _told(state, k), k.line.order, k.bin, to, rules.get(str(k.rule)) if k.rule else None
            )
            for k in each.kept
        )  # fmt: skip
        looks = tuple(ShownLook(x.recipe, numbers.get(x.recipe, 0), x.makes, x.says) for x in each.looks)
        tasks.append(
            ShownTask(
                recipe.crew, crew_name(book.crews, recipe.crew), recipe.id, numbers.get(recipe.id, 0), 1, 1, each.held, priority_of(state, each),
                each.walk_mm, shares, looks,
            )
        )  # fmt: skip
    left = [LeftOver(_told(state, k), k.bin, why) for k, why in picking.left]
    return Preview(tuple(tasks), tuple(left), (), tuple(short))


def _told(state: State, kept: Kept) -> str:
    """What is kept in one place, in words."""
    goods = goods_text(state, kept.goods)
    return f"plate `{kept.plate}`: {goods}" if kept.whole else goods


def _goes_out(state: State, number: OrderNo) -> Order:
    order = state.order(number)
    if order is None:
        raise Refusal("unknown_order", f"There is no order `{number}`.", "orders")
    if order.inbound:
        raise Refusal("other_kind", f"`{number}` comes in: nothing of it is picked.", "orders")
    if order.site != state.settings.site:
        where = f"for site `{order.site}`" if order.site else "for no site yet"
        raise Refusal("other_site", f"`{number}` is {where}.", "orders")
    return order
