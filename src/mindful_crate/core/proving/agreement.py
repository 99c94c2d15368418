"""Do they agree? For one item, one bin and one order: all that must fit together for the goods to be received, put into
that bin and taken out of it, each on its own, with how it is and what would mend it."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Item, LotOrder, Order, Tracking
from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.catalog.places import STORAGE, Bin, BinType, PlateNeed
from mindful_crate.core.floor.numbers import Drawn
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.fit import Judge
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.placing.rules import Facts, bins_in, unmet
from mindful_crate.core.proving.on_handset import Agrees, order_shown
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import BinPurpose, puts_away_by
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Flow, FlowPurpose, PlateBy
from mindful_crate.core.rulebook.steps import Need, fixed
from mindful_crate.core.rulebook.words.bin_rules import PURPOSE_TITLES
from mindful_crate.core.rulebook.words.parts import Names, any_of
from mindful_crate.core.rulebook.words.steps import place_told
from mindful_crate.core.scanning.kinds import called

TAKING = (BinPurpose.PICK_FROM, BinPurpose.REPLENISH_FROM)
NUMBERED: tuple[Drawn, ...] = ("plate", "receipt", "task", "message", "dialogue")
"""Documents a receipt with put-away draws a number for."""


@record
class Pair:
    """Things that must agree, and whether they do."""

    what: str
    holds: bool
    says: str


def agreement(state: State, book: Rulebook, item: Item, each: Bin, order: Order | None) -> list[Pair]:
    """All pairs for an item, a bin and, if one is named, an order, in the order the goods meet them."""
    found = [*_item(state, item), *_prompts(state, book, item)]
    if order:
        found += _order(state, book, item, order)
    return [*found, *_numbers(state), *_bin(state, book, item, each, order), *_rules(state, book, item, each, order)]


def chosen_bin(state: State, book: Rulebook, item: Item, order: Order | None) -> str:
    """The bin that the put-away rules choose for the goods; the site's first bin when they choose none, empty when it
    has no bins."""
    request = _request(state, book, item, order)
    trail = choose(request, book.rules_for(request.site, request.purpose), state)
    zones = set(state.ground.zones_of_site.get(request.site, ()))
    return trail.bin or next((c for c, b in state.ground.bins.items() if b.zone in zones), "")


def _item(state: State, item: Item) -> Iterator[Pair]:
    coded = {b.unit for b in state.ground.barcodes_of.get(item.code, ())}
    missing = [u.plural for u in item.units if u.code not in coded]
    if not coded:
        yield Pair(
            "item and barcode",
            False,
            f"`{item.code}` has no barcode: its code must be typed. Add one in the catalogue.",
        )
    elif missing:
        yield Pair(
            "item and barcode", True, f"It has barcodes, but none for {any_of(missing)}: those are typed or counted."
        )
    else:
        yield Pair("item and barcode", True, "Every unit of it has a barcode.")
    if item.lot_order is LotOrder.FEFO and item.tracking is not Tracking.LOT_EXPIRY:
        says = "The first to expire leaves first, but no expiry is kept for it. Track it by lot with expiry."
        yield Pair("item and its order of leaving", False, says)


KEPT_BY = {Tracking.LOT: (Asks.LOT,), Tracking.LOT_EXPIRY: (Asks.EXPIRY, Asks.LOT), Tracking.SERIAL: (Asks.SERIAL,)}
"""What must be asked of goods as they come, by how they are kept."""


def _prompts(state: State, book: Rulebook, item: Item) -> Iterator[Pair]:
    flows = book.shown_flows(state.settings.site, FlowPurpose.RECEIVE)
    if not flows:
        yield Pair("flow and menu", False, "No flow that receives is on a crew's menu. Put one there, on Scanner.")
    needs = KEPT_BY.get(item.tracking, ())
    for flow in flows:
        asked = {p.asks for p in flow.prompts}
        lacks = [called(n) for n in needs if n not in asked]
        if lacks:
            says = f"{flow.name} never asks for the {any_of(lacks)} it is kept by, so it cannot be received with it."
            yield Pair("item and prompts", False, says)
        elif needs:
            yield Pair(
                "item and prompts",
                True,
                f"{flow.name} asks for the {' and the '.join(called(n) for n in needs)} it is kept by.",
            )
        else:
            yield Pair("item and prompts", True, f"It is not tracked; {flow.name} passes those questions over.")


def _order(state: State, book: Rulebook, item: Item, order: Order) -> Iterator[Pair]:
    line = next((x for x in order.lines if x.item == item.code), None)
    if line is None:
        yield Pair(
            "order and item", False, f"`{order.number}` has no line for `{item.code}`: it would be refused at the scan."
        )
    else:
        yield Pair("order and item", True, f"Line {line.no} of `{order.number}` wants {item.told(line.quantity)}.")
    if order.site != state.settings.site:
        yield Pair("order and site", False, f"`{order.number}` is for site `{order.site}`.")
        return
    shown = order_shown(state, book, order)
    yield from (_pair("order and handset", a) for a in shown.agrees)


def _pair(what: str, agrees: Agrees) -> Pair:
    return Pair(what, agrees.holds, agrees.says)


def _numbers(state: State) -> Iterator[Pair]:
    series = state.ground.series
    lacks = [d for d in NUMBERED if d not in series]
    if lacks:
        yield Pair(
            "numbering", False, f"There is no number series for a {any_of(lacks)}: the work would stop half-way."
        )
    full = [d for d in NUMBERED if d in series and series[d].last and state.number(d)[1] > series[d].last]
    if full:
        yield Pair("numbering", False, f"The series for a {any_of(full)} is used up.")
    if not lacks and not full:
        yield Pair("numbering", True, "Every document on the way has a number series.")


def _bin(state: State, book: Rulebook, item: Item, each: Bin, order: Order | None) -> Iterator[Pair]:
    ground = state.ground
    kind, zone = ground.bin_types[each.bin_type], ground.zones[each.zone]
    if zone.site != state.settings.site:
        yield Pair("bin and site", False, f"`{each.code}` belongs to site `{zone.site}`.")
        return
    if zone.purpose not in STORAGE:
        yield Pair("bin and zone", False, f"{zone.name} is a {zone.purpose.value} zone: it stores nothing.")
    else:
        yield Pair("bin and zone", True, f"{zone.name} is for {zone.purpose.value.replace('_', ' ')}: it stores goods.")
    yield _bin_and_plate(kind, book.shown_flows(state.settings.site, FlowPurpose.RECEIVE))
    plan = book.plan_for(book.asked(state.ground, order, item.code)) if order else None
    if plan and not plan.put_away.on and fixed(plan.receive.into) == each.code:
        yield Pair("steps and bin", True, f"Step plan {plan.name} receives into `{each.code}`, where the goods stay.")
    elif plan and not plan.put_away.on:
        yield Pair(
            "steps and bin",
            False,
            f"Step plan {plan.name} puts nothing away: the goods stay in {place_told(plan.receive.into, Names(ground))}.",
        )
    elif plan:
        request = _request(state, book, item, order)
        recipe = next(
            (r for r in book.recipes_for(request.site, Need.PUT_AWAY) if r.on and not unmet(r, Facts(request, ground))),
            None,
        )
        seen = recipe is not None and any(
            f.purpose is FlowPurpose.PUT_AWAY for f in book.menu_for(state.settings.site, (recipe.crew,))
        )
        says = (
            "The crew of the put-away recipe has a flow for it."
            if seen
            else "No crew has both the put-away task and a flow for it."
        )
        yield Pair("recipe and menu", bool(seen), says)
    request = _request(state, book, item, order)
    judge = Judge(request, state)
    down = judge.turn_down(each)
    asked = item.told(request.goods[0].quantity)
    how = "on a plate" if request.plate_kind else "loose"
    says = judge.told(each, down) if down else f"{asked} {how} fit into `{each.code}` as it is now."
    yield Pair("goods and bin", down is None, says)


def _bin_and_plate(kind: BinType, flows: list[Flow]) -> Pair:
    """Does a flow that receives bring goods in the form the bin takes?"""
    loose = [f for f in flows if f.plate_by is PlateBy.NONE]
    plates = [f for f in flows if f.plate_by is not PlateBy.NONE]
    if kind.plates is PlateNeed.NONE and flows and not loose:
        says = f"{kind.name} bins take no plates, but {plates[0].name} builds plates: only loose goods go there, with a move."
        return Pair("bin and plate", False, says)
    if kind.plates is PlateNeed.REQUIRED and flows and not plates:
        says = f"{kind.name} bins want everything on a plate, but {loose[0].name} receives loose goods."
        return Pair("bin and plate", False, says)
    takes = {
        PlateNeed.NONE: "take loose goods", PlateNeed.REQUIRED: "take plates", PlateNeed.OPTIONAL: "take plates and loose goods",
    }  # fmt: skip
    return Pair("bin and plate", True, f"{kind.name} bins {takes[kind.plates]}.")


def _request(state: State, book: Rulebook, item: Item, order: Order | None) -> BinRequest:
    line = next((x for x in order.lines if x.item == item.code), None) if order else None
    quantity = item.unit(line.unit).quantity if line else item.largest_first()[0].quantity
    flow = next(iter(book.shown_flows(state.settings.site, FlowPurpose.RECEIVE)), None)
    plan = book.plan_for(book.asked(state.ground, order, item.code)) if order else None
    into = fixed(plan.receive.into) if plan else None
    into = into if into in state.ground.bins else None
    return BinRequest(
        state.settings.site, puts_away_by(order.kind if order else None), (Goods(ItemCode(item.code), quantity),),
        flow.plate_kind if flow else None, order_kind=order.kind if order else None,
        partners=(order.partner,) if order else (), from_bin=into, door=into, today=state.settings.starts.date(),
    )  # fmt: skip


def _rules(state: State, book: Rulebook, item: Item, each: Bin, order: Order | None) -> Iterator[Pair]:
    request = _request(state, book, item, order)
    puts = any(p.put_away.on for p in book.step_plans if p.site in (None, request.site))
    if not puts and not any(book.rules_for(request.site, p) for p in (request.purpose, *TAKING)):
        return  # goods stay where they are received, and nobody asks for a bin
    if puts:
        yield _reach(state, book, request, each, request.purpose)
    taking = [
        _reach(state, book, BinRequest(request.site, p, request.goods, today=request.today), each, p) for p in TAKING
    ]
    said = [p for p in taking if p.holds]
    if said:
        yield from said
    else:
        yield Pair(
            "rules and bin", False, f"No rule takes goods from `{each.code}`: what is put there is found by nobody."
        )
    homes = state.ground.homes.get(item.code, {})
    if homes and each.code not in homes:
        yield Pair(
            "item and home bin", True, f"It is at home in {any_of(f'`{h}`' for h in list(homes)[:3])}, not here."
        )


def _reach(state: State, book: Rulebook, request: BinRequest, each: Bin, purpose: BinPurpose) -> Pair:
    """The first rule of a list that applies to the goods and looks into the bin."""
    rules = book.rules_for(request.site, purpose)
    facts = Facts(request, state.ground)
    why = ""
    for n, rule in enumerate(rules, start=1):
        looks = any(each in bins_in(state.ground, request.site, t.look_in) for t in rule.targets)
        not_for = "it is switched off" if not rule.on else unmet(rule, facts)
        if looks and not not_for:
            return Pair("rules and bin", True, f"{PURPOSE_TITLES[purpose]}: rule {n} looks there for such goods.")
        if looks and not_for and not why:
            why = f" Rule {n} does, but does not apply: {not_for}."
    return Pair(
        "rules and bin", False, f"{PURPOSE_TITLES[purpose]}: no rule looks into `{each.code}` for such goods.{why}"
    )
