"""Findings of shipment plans, of recipes that pick, and of wave plans."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.goods import INBOUND, Carrier
from mindful_crate.core.catalog.ids import CarrierCode, SiteCode, ZoneCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import PICKED_FROM
from mindful_crate.core.proving.findings.finding import Finding, blocks, doubt, times_of, whereabouts
from mindful_crate.core.proving.findings.of_recipes import crews_of, hand_overs, of_any
from mindful_crate.core.releasing.planning import all_orders, criteria
from mindful_crate.core.releasing.reach import reached
from mindful_crate.core.rulebook.bin_rules import BinPurpose, Conditions
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.rulebook.orders import OrderClass
from mindful_crate.core.rulebook.recipes import Recipe, Starts
from mindful_crate.core.rulebook.shipping import STATION_RULES, ShipPlan, Station
from mindful_crate.core.rulebook.steps import BY_RULES, Need, ties
from mindful_crate.core.rulebook.times import clock, minute_of
from mindful_crate.core.rulebook.waves import Method, WavePlan
from mindful_crate.core.rulebook.words.bin_rules import PURPOSE_TITLES
from mindful_crate.core.rulebook.words.parts import all_of
from mindful_crate.core.rulebook.words.shipping import NAMES


def going_out(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Shipment plans, recipes that pick, wave plans; nothing where none of them is begun."""
    yield from _ship_plans(book, ground, site)
    yield from _recipes(book, ground, site)
    yield from _waves(book, ground, site)


def _ship_plans(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    for first, plan in ties(book.ship_plans):
        says = f"{first.name} and {plan.name} are for the same goods: one of them must go."
        yield blocks("plans_tie", f"ship_plans/{first.id}", says)
    for plan in book.ship_plans:
        if not plan.on or plan.site not in (None, site):
            continue
        place = f"ship_plans/{plan.id}"
        if plan.order_kind in INBOUND:
            yield blocks("comes_in", f"{place}/order_kind", f"{plan.name} is for orders whose goods come in.")
        for station in plan.stations:
            yield from _station(book, ground, site, plan, station)


def _station(book: Rulebook, ground: Ground, site: SiteCode, plan: ShipPlan, station: Station) -> Iterator[Finding]:
    step, place = plan.step(station), f"ship_plans/{plan.id}/{station.value}"
    yield from whereabouts(step.at, ground, site if plan.site in (None, site) else None, f"{place}/at")
    purpose = STATION_RULES[station]
    if step.at == BY_RULES and not book.rules_for(site, purpose):
        says = f"Where it happens is for the rules to choose, and there are none: {PURPOSE_TITLES[purpose]}. Name a zone or a bin, or add rules."
        yield doubt("no_station_rules", f"{place}/on", says)
    batches = [w for w in book.waves_at(site) if w.method is Method.BATCH]
    pickers = book.seen_by(site, FlowPurpose.PICK)
    if station is Station.SORT and batches and pickers and not book.seen_by(site, FlowPurpose.SORT):
        says = f"{NAMES[station]} is on, and no flow on a menu sorts: what is fetched for several orders at once stays where it is set down."
        yield doubt("nobody_sorts", f"{place}/on", says)
    if station is Station.SORT and not batches:
        says = f"{NAMES[station]} is on, and no wave plan picks for several orders at once: nothing comes there."
        yield doubt("nothing_to_sort", f"{place}/on", says)


def _recipes(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    mine = [r for r in book.recipes_for(site, Need.PICK) if r.on]
    names = {c.id: c.name for c in book.crews}
    pickers = {crew for crew, _ in book.seen_by(site, FlowPurpose.PICK)}
    takes_all: Recipe | None = None
    for recipe in mine:
        place = f"recipes/{recipe.id}"
        yield from of_any(recipe, names, place)
        if takes_all is not None:
            yield doubt("never_reached", place, f"Never reached: recipe `{takes_all.id}` above is for all goods.")
        elif recipe.applies == Conditions():
            takes_all = recipe
        for crew, at in crews_of(recipe, place):
            if pickers and crew in names and crew not in pickers:
                says = f"Pick tasks are made for {names[crew]}, and no flow on its menu does them: only the office could say what was picked."
                yield doubt("nobody_does", at, says)
        if recipe.starts is Starts.AT_TIME:
            says = "What is picked starts with its wave: let the wave plan run at that time."
            yield blocks("no_time", f"{place}/starts", says)
        yield from hand_overs(recipe, ground, site, place)
    begun = any(p.on and p.picks for p in book.ship_plans if p.site in (None, site)) or book.waves_at(site)
    if begun and not mine:
        says = "No recipe picks: stock is kept for what is released, and nobody fetches it. Add one, on Recipes."
        yield doubt("no_pick_recipe", "recipes", says)
    elif mine and takes_all is None:
        says = "Each recipe that picks is for some goods only: what none of them is for is kept and never fetched. Let the last be for anything."
        yield doubt("no_recipe_for_rest", "recipes", says)


def _waves(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    carriers = {c.code: c for c in ground.opening.carriers}
    mine = book.waves_at(site)
    yield from _reach(mine, ground, book.classes_at(site))
    sorts = any(p.on and p.sort.on for p in book.ship_plans if p.site in (None, site))
    names: dict[str, WavePlan] = {}
    for plan in mine:
        place = f"wave_plans/{plan.id}"
        if plan.name in names:
            yield doubt("wave_twice", f"{place}/name", f"Two wave plans are called {plan.name}.")
        names.setdefault(plan.name, plan)
        yield from _numbers(plan, place)
        yield from _wanted(plan, ground, carriers, place)
        yield from times_of(plan.times, place)
        yield from _too_late(plan, carriers, place)
        if plan.method is Method.BATCH and not sorts:
            says = f"{plan.name} picks for several orders at once, and no shipment plan sorts: the orders are never parted. Switch sorting on, on Steps."
            yield doubt("nowhere_to_sort", f"{place}/method", says)
        if plan.method is Method.ZONES and (bare := _without_hand_over(book, ground, site)):
            are = "has" if len(bare) == 1 else "have"
            says = f"{plan.name} hands totes on from zone to zone, and {all_of(bare)} {are} no hand-over point: who brings them there chooses where. Name it, in the table of zones."
            yield doubt("no_hand_over", f"{place}/method", says)


def _without_hand_over(book: Rulebook, ground: Ground, site: SiteCode) -> list[str]:
    """The zones from which orders are picked by the rules, and which have no place where totes are handed over, where there are several."""
    looked: dict[ZoneCode, None] = {}
    for rule in (r for r in book.rules_for(site, BinPurpose.PICK_FROM) if r.on):
        for target in rule.targets:
            if not target.look_in.bins and not target.look_in.aisles:
                looked.update(dict.fromkeys(target.look_in.zones or ground.zones_of_site.get(site, ())))
    picked = [z for n in looked if (z := ground.zones[n]).purpose in PICKED_FROM and ground.bins_by_zone[n]]
    return [z.name for z in picked if z.hand_over is None] if len(picked) > 1 else []


def _reach(mine: list[WavePlan], ground: Ground, classes: list[OrderClass]) -> Iterator[Finding]:
    """Plans that never get an order, proved over all orders that there can be."""
    known = all_orders(ground, classes)
    if known is None or any(_turned(p) for p in mine):
        return
    for each in reached([criteria(p) for p in mine], known).never:
        plan, place = mine[each.plan], f"wave_plans/{mine[each.plan].id}"
        if each.takes_nothing:
            yield doubt("takes_nothing", place, f"{plan.name} fits no order that there can be.")
        else:
            yield doubt(
                "never_reached", place, f"{plan.name} never gets an order: the plans before it take all that fit it."
            )


def _turned(plan: WavePlan) -> bool:
    """Is a range of a plan empty, so that nothing can be said of it?"""
    spans = (plan.wants.order_priority, plan.wants.order_lines, plan.wants.order_weight)
    return any(s.least is not None and s.most is not None and s.least > s.most for s in spans)


def _numbers(plan: WavePlan, place: str) -> Iterator[Finding]:
    """Numbers of a plan below which nothing is ever picked."""
    for name in ("most_orders", "most_lines", "most_kilograms"):
        value = getattr(plan.most, name)
        if value is not None and value < 1:
            yield blocks(
                "no_cap", f"{place}/most/{name}", "A wave that may hold nothing is never made. Say at least 1."
            )
    for name in ("totes", "cart_lines", "pickers"):
        if getattr(plan, name) < 1:
            yield blocks("no_cap", f"{place}/{name}", "Say at least 1.")
    if plan.cut_off < 0:
        yield blocks("no_cap", f"{place}/cut_off", "Say 0 minutes or more.")
    wants = plan.wants
    for name in ("order_priority", "order_lines", "order_weight"):
        span = getattr(wants, name)
        if span.least is not None and span.most is not None and span.least > span.most:
            yield blocks("empty_range", f"{place}/wants/{name}", "No order is within this range: its ends are turned.")


def _wanted(plan: WavePlan, ground: Ground, carriers: dict[CarrierCode, Carrier], place: str) -> Iterator[Finding]:
    """What a plan asks for that there is not."""
    groups = {p.group for p in ground.partners.values()}
    of_items = {i.group for i in ground.items.values()}
    known: list[tuple[str, tuple[str, ...], object]] = [
        ("carriers", plan.wants.carriers, carriers),
        ("partners", plan.wants.partners, ground.partners),
        ("partner_groups", plan.wants.partner_groups, groups),
        ("groups", plan.wants.groups, of_items),
    ]
    for name, asked, there in known:
        for each in asked:
            if each not in there:  # type: ignore[operator]
                says = f"`{each}` is not in the catalogue: no order is ever taken for it."
                yield doubt("missing_value", f"{place}/wants/{name}", says)


def _too_late(plan: WavePlan, carriers: dict[CarrierCode, Carrier], place: str) -> Iterator[Finding]:
    """A run after the last time at which a carrier of the plan collects."""
    if not plan.minutes:
        return
    for code in plan.wants.carriers:
        carrier = carriers.get(code)
        times = [m for t in carrier.collects if (m := minute_of(str(t))) is not None] if carrier else []
        if carrier is not None and times and plan.minutes[-1] >= max(times):
            last = max(times)
            says = f"Its last run is not before {carrier.name} collects for the last time, at {clock(last)}: what it picks leaves a day later."
            yield doubt("too_late", f"{place}/times", says)
