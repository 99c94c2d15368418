"""What of a rulebook a run has tried: rules that chose a bin, plans that goods went by, flows that were opened, and which kinds of orders, goods and
work there were. And of a whole rulebook, what no run has."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import fields, is_dataclass
from typing import Any

from mindful_crate.core.catalog.goods import Order, Tracking
from mindful_crate.core.catalog.ids import ItemCode, OrderNo, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.record import record
from mindful_crate.core.releasing.onward import pack_rule
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.chapters import where
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.bin_rules import PURPOSE_TITLES
from mindful_crate.core.rulebook.words.parts import ORDERS, TRACKINGS, capital
from mindful_crate.core.trail import Trail
from mindful_crate.core.work.packing.decide import rule_of
from mindful_crate.core.work.packing.events import GoodsPacked, PlateConfirmed
from mindful_crate.core.work.releasing.events import GateGiven, GatesGiven, OrderReleased
from mindful_crate.core.work.returning.judging import rule_for
from mindful_crate.core.work.waving.events import WaveAwaited
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.world import World

WATCHED = (
    "step_plans", "ship_plans", "order_classes", "bin_rules", "recipes", "crews", "gates", "release_runs", "shelf_runs", "wave_plans", "dock_rules", "flows", "menus",
    "pack_rules", "label_rules", "return_rules", "return_marks", "count_plans", "stock_reasons",
)  # fmt: skip
"""The lists of a rulebook whose parts are watched, in the order of its chapters. Of papers only what prints them: a form changes nothing."""
TITLES = {
    "step_plans": "Receipt steps", "ship_plans": "Steps out", "order_classes": "Order classes", "bin_rules": "Bin rules", "recipes": "Recipes",
    "crews": "Crews", "gates": "Gates", "release_runs": "Releases by the clock", "shelf_runs": "Shelves filled by the clock", "wave_plans": "Wave plans", "dock_rules": "Cross-docking rules",
    "flows": "Flows", "menus": "Menus", "pack_rules": "Packing rules", "label_rules": "What is printed", "return_rules": "Return rules",
    "return_marks": "Return marks", "count_plans": "Count plans", "stock_reasons": "Stock reasons", "kind": "Kinds of orders",
    "tracking": "Ways items are tracked", "need": "Kinds of tasks",
}  # fmt: skip
NEEDS = {
    Need.PUT_AWAY: "put away", Need.INSPECT: "inspect", Need.PICK: "pick", Need.REPLENISH: "refill", Need.MOVE: "move",
}  # fmt: skip
RELEASES = (acts.ReleaseOrders, acts.ReleaseLines, acts.PassGate, acts.SayToOrder)

BEFORE = (GatesGiven, GateGiven, WaveAwaited)
"""Events that name a part before it has done anything."""


def tried(world: World) -> frozenset[str]:
    """What a run has tried, as places of the rulebook (``flows/F-PICK``), and kinds (``tracking/lot``). What was refused counts too, but not
    what a rule that was asked did not do."""
    book, found = world.rulebook, set[str]()
    ids = _ids(book)
    for entry in world.log:
        stamp, act = entry.command.stamp, entry.command.act
        found |= {f"crews/{c}" for c in stamp.crews}
        found |= set(_named(act, ids))
        if isinstance(act, acts.OpenFlow):
            found |= {f"menus/{m.id}" for m in book.menus if m.crew in stamp.crews and act.flow in m.flows}
        if isinstance(act, RELEASES):
            found |= _of_release(world, act)
        if isinstance(act, acts.ReleaseDue):
            runs = book.release_runs_at(world.state.settings.site)
            found |= {f"release_runs/{r.id}" for r in runs if act.minute in r.minutes}
        if isinstance(act, acts.RefillDue):
            shelves = book.shelf_runs_at(world.state.settings.site)
            found |= {f"shelf_runs/{r.id}" for r in shelves if act.minute in r.minutes}
        if isinstance(entry.outcome, ev.Refused):
            found |= {entry.outcome.problem.by} - {""}
        else:
            for event in entry.outcome.events:
                found |= set(_of_event(world, event)) | (
                    set() if isinstance(event, BEFORE) else set(_named(event, ids))
                )
            for trail in entry.outcome.trails:
                found |= set(_of_trail(trail, ids))
    for marked in world.state.returned.values():
        rule = rule_for(world.state, book, world.state.ground.items[marked.item], marked.partner)[1]
        found |= {f"return_rules/{rule.id}"} if rule else set()
    return frozenset(found)


def _ids(book: Rulebook) -> dict[str, str]:
    """The places of parts by their ids."""
    found: dict[str, str] = {}
    for name in WATCHED:
        for part in getattr(book, name):
            if name == "bin_rules":
                found |= {str(r.id): f"bin_rules/{part.id}/rules/{r.id}" for r in part.rules}
            else:
                found[str(part.id)] = f"{name}/{part.id}"
    return found


def _named(value: Any, ids: dict[str, str]) -> Iterator[str]:
    """The parts that an act or an event names, wherever it does."""
    if isinstance(value, str):
        if (place := ids.get(value)) is not None:
            yield place
    elif is_dataclass(value):
        for each in fields(value):
            yield from _named(getattr(value, each.name), ids)
    elif isinstance(value, tuple):
        for part in value:
            yield from _named(part, ids)


def _of_trail(trail: Trail, ids: dict[str, str]) -> Iterator[str]:
    """The rules that chose, the recipe that made the task, the rules of cross-docking that took it."""
    chosen = {str(a.rule) for a in trail.allocations} | {str(r.recipe) for r in trail.recipe if r.makes}
    yield from (ids[c] for c in chosen | {str(d.rule) for d in trail.docks if d.takes} if c in ids)


def _of_event(world: World, event: ev.Event) -> Iterator[str]:
    book, ground, site = world.rulebook, world.state.ground, world.state.settings.site
    number = getattr(event, "order", None)
    order = world.state.order(OrderNo(number)) if isinstance(number, str) and number else None
    item = getattr(event, "item", None)
    if isinstance(event, ev.WorkMade):
        yield f"need/{event.need.value}"
    if isinstance(item, str) and ItemCode(item) in ground.items:
        yield f"tracking/{ground.items[ItemCode(item)].tracking.value}"
    if isinstance(event, PlateConfirmed) and (rule := rule_of(world.state, book, event.shipment)).id:
        yield f"pack_rules/{rule.id}"
    if order is None or order.site != site:
        return
    yield from _of_order(book, ground, order)
    if isinstance(event, ev.LineNoted) and (plan := book.plan_for(book.asked(ground, order, event.item))) is not None:
        yield f"step_plans/{plan.id}"
    if isinstance(event, OrderReleased):
        for line in order.lines:
            ship = book.ship_plan_for(book.asked(ground, order, line.item))
            yield from [f"ship_plans/{ship.id}"] if ship else []
            yield f"tracking/{ground.items[line.item].tracking.value}"
    if isinstance(event, GoodsPacked) and (rule := pack_rule(world.state, book, order)).id:
        yield f"pack_rules/{rule.id}"


def _of_order(book: Rulebook, ground: Ground, order: Order) -> Iterator[str]:
    yield f"kind/{order.kind.value}"
    if (mine := book.class_of(ground, order)) is not None:
        yield f"order_classes/{mine.id}"


def _of_release(
    world: World, act: acts.ReleaseOrders | acts.ReleaseLines | acts.PassGate | acts.SayToOrder
) -> set[str]:
    """The gates of the orders that were to be released; the one somebody spoke at."""
    if isinstance(act, acts.SayToOrder):
        return {f"gates/{act.gate}"}
    orders = act.orders if isinstance(act, acts.ReleaseOrders) else (act.order,)
    return {f"gates/{p.gate.id}" for o in orders for p in world.state.gates_given.get(o, ())}


@record
class Untried:
    """Something no run has tried: what it is called, and where it is shown."""

    name: str
    link: str


@record
class Covered:
    """Of one list of a rulebook, or one kind of thing, how much was tried, and what was not."""

    title: str
    tried: int
    total: int
    untried: tuple[Untried, ...]


def coverage(book: Rulebook, ground: Ground, site: SiteCode, places: Iterable[str]) -> list[Covered]:
    """Of all that is switched on at a site, what runs have tried; lists without parts are left out."""
    done, found = set(places), list[Covered]()
    for name in WATCHED:
        parts = list(_parts(book, site, name))
        missing = [p for p in parts if p not in done]
        told = (_told(p, book) for p in missing)
        found += (
            [Covered(TITLES[name], len(parts) - len(missing), len(parts), tuple(Untried(*t) for t in told))]
            if parts
            else []
        )
    trackings = {i.tracking for i in ground.items.values()}
    kinds = {o.kind for o in ground.orders.values() if o.site == site}
    others: tuple[tuple[str, list[tuple[str, str]], Callable[[str], str]], ...] = (
        ("kind", [(k.value, ORDERS[k]) for k in ORDERS if k in kinds], lambda _: "orders"),
        ("tracking", [(t.value, TRACKINGS[t]) for t in Tracking if t in trackings], lambda _: "catalogue/items"),
        ("need", [(n.value, says) for n, says in NEEDS.items()], lambda _: "recipes"),
    )
    for name, each, link in others:
        lost = tuple(Untried(capital(says), link(value)) for value, says in each if f"{name}/{value}" not in done)
        found.append(Covered(TITLES[name], len(each) - len(lost), len(each), lost))
    return found


def _told(place: str, book: Rulebook) -> tuple[str, str]:
    """What a part is called, and where it is shown."""
    name, link = where(place, book)
    steps = place.split("/")
    if steps[0] == "bin_rules":
        purpose = next(x.purpose for x in book.bin_rules if x.id == steps[1])
        return f"{PURPOSE_TITLES[purpose]}, {name.rpartition(', ')[2]}", link
    return capital(name.partition(", ")[2] or name), link


def _parts(book: Rulebook, site: SiteCode, name: str) -> Iterator[str]:
    for part in getattr(book, name):
        if part.site not in (None, site) or not getattr(part, "on", True):
            continue
        if name == "bin_rules":
            yield from (f"bin_rules/{part.id}/rules/{r.id}" for r in part.rules if r.on)
        else:
            yield f"{name}/{part.id}"
