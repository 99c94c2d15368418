"""What is wrong or doubtful in a rulebook, found without running it, with the place and what to do."""

from __future__ import annotations

from collections.abc import Container, Iterable, Iterator, Set
from enum import StrEnum
from typing import Any, get_args

from mindful_crate.core.catalog.goods import INBOUND, LotOrder, OrderKind, Tracking
from mindful_crate.core.catalog.ids import BinCode, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import STORAGE, PlateNeed, ZonePurpose
from mindful_crate.core.floor.numbers import Drawn
from mindful_crate.core.placing.rules import bins_in
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import (
    PUTTING_WANTS,
    STOCK_ORDERS,
    TAKING_WANTS,
    Between,
    BinPurpose,
    BinRule,
    Conditions,
    IfNothing,
    LookIn,
    UnitForm,
)
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Check, Flow, FlowPurpose, PlateBy
from mindful_crate.core.rulebook.recipes import Grouping, Recipe, Sequencing
from mindful_crate.core.rulebook.starter import RECEIVES
from mindful_crate.core.rulebook.steps import (
    BY_RULES,
    Begins,
    Found,
    Need,
    Place,
    ReceiptBy,
    StepPlan,
    asked_of,
    fixed,
    ties,
)
from mindful_crate.core.rulebook.words.bin_rules import PREFER, PURPOSE_TITLES, WANTS
from mindful_crate.core.rulebook.words.parts import ORDERS, Names, between
from mindful_crate.core.rulebook.words.steps import DOCUMENT, ONLY_TITLES, scope_told
from mindful_crate.core.scanning.kinds import called
from mindful_crate.core.scanning.reading import Read
from mindful_crate.core.work.matters import MACHINE


class Severity(StrEnum):
    """How bad: a blocking finding keeps a rulebook from being run."""

    BLOCKS = "blocks"
    DOUBT = "doubt"


@record
class Finding:
    """One thing found. ``place`` is a path of the rulebook; ``witness`` a concrete case."""

    code: str
    severity: Severity
    place: str
    says: str
    witness: str = ""


def findings(book: Rulebook, ground: Ground, site: SiteCode) -> list[Finding]:
    """All findings of a rulebook for a site, in the order of the rulebook."""
    return [
        *_twins(book),
        *_plans(book, ground, site),
        *_bin_rules(book, ground, site),
        *_idle_lists(book, site),
        *_flows(book, ground, site),
        *_numbering(ground),
    ]


def _blocks(code: str, place: str, says: str, witness: str = "") -> Finding:
    return Finding(code, Severity.BLOCKS, place, says, witness)


def _doubt(code: str, place: str, says: str, witness: str = "") -> Finding:
    return Finding(code, Severity.DOUBT, place, says, witness)


def _numbering(ground: Ground) -> Iterator[Finding]:
    """Series that are missing or at their end, so that no process stops half-way for want of a number."""
    for document in get_args(Drawn):
        series = ground.series.get(document)
        place = f"series/{document}"
        if series is None and document == "sscc":  # only plates that vendors announce need it
            says = (
                "There is no number series `sscc`: the host stand-in cannot announce plates. Add it in the catalogue."
            )
            yield _doubt("no_series", place, says)
        elif series is None:
            says = f"There is no number series for a {document}: add it in the catalogue, under Numbering."
            yield _blocks("no_series", place, says)
        elif series.last and series.next > series.last:
            says = f"The number series for a {document} ended at {series.last:,}: widen it in the catalogue."
            yield _blocks("series_full", place, says)
        elif series.last and (series.last - series.next + 1) * 10 < series.last:
            left = series.last - series.next + 1
            says = f"The number series for a {document} has {left:,} of {series.last:,} numbers left."
            yield _doubt("series_ends", place, says)


def _twins(book: Rulebook) -> Iterator[Finding]:
    rows: list[tuple[str, Iterable[str]]] = [
        ("crews", (c.id for c in book.crews)),
        ("step_plans", (p.id for p in book.step_plans)),
        ("bin_rules", (r.id for lst in book.bin_rules for r in lst.rules)),
        ("flows", (f.id for f in book.flows)),
    ]
    for place, ids in rows:
        seen: set[str] = set()
        for each in ids:
            if each in seen:
                yield _blocks("same_id", place, f"`{each}` stands twice; every part needs an id of its own.")
            seen.add(each)


def _plans(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    if not book.step_plans:
        yield _blocks("no_plan", "step_plans", "There is no step plan: nothing can be received.")
    names = Names(ground)
    for first, plan in ties(book.step_plans):
        says = f"{first.name} and {plan.name} are for the same goods, {scope_told(plan, names)}: one of them must go."
        yield _blocks("plans_tie", f"step_plans/{first.id}", says)
    for plan in book.step_plans:
        place = f"step_plans/{plan.id}"
        yield from _scope(plan, ground, place)
        if plan.on:
            yield from _steps_of(book, ground, site, plan, place)
    yield from _recipes(book, ground, site)
    yield from _crews(book, site)
    yield from _returns(book, ground, site)
    coming: dict[str, tuple[OrderKind, str, int]] = {}
    for order in ground.opening.orders:
        if not order.inbound or order.site != site or not book.step_plans:
            continue
        lost = [x for x in order.lines if book.plan_for(asked_of(ground, order, x.item)) is None]
        if lost:
            coming.setdefault(order.kind, (order.kind, order.number, len(lost) if len(lost) < len(order.lines) else 0))
    for _, (kind, number, some) in sorted(coming.items()):
        what = f"{some} lines of `{number}` reach" if some > 1 else f"a line of `{number}` reaches" if some else ""
        says = (
            f"No step plan is for some {ORDERS[kind].lower()}: {what} no handset." if some
            else f"No step plan is for {ORDERS[kind].lower()}: `{number}` never reaches a handset."
        )  # fmt: skip
        yield _doubt("no_plan_for", "step_plans", says, number)


def _scope(plan: StepPlan, ground: Ground, place: str) -> Iterator[Finding]:
    """What a plan is for: one thing beside the kind of order, which the catalogue has, and whose goods come in."""
    only = plan.only
    if len(only.named) > 1:
        says = f"{plan.name} is only for {' and '.join(ONLY_TITLES[n] for n in only.named)}: a plan is for one of them alone."
        yield _blocks("two_scopes", f"{place}/only", says)
    known: dict[str, Container[str]] = {
        "item": ground.items, "group": {i.group for i in ground.items.values()}, "partner": ground.partners,
        "partner_group": {p.group for p in ground.partners.values()},
    }  # fmt: skip
    for name in only.named:
        if getattr(only, name) not in known[name]:
            says = f"{plan.name} is only for {ONLY_TITLES[name]} `{getattr(only, name)}`, which the catalogue does not have."
            yield _doubt("missing_scope", f"{place}/only/{name}", says)
    if plan.order_kind is not None and plan.order_kind not in INBOUND:
        kinds = ORDERS[plan.order_kind].lower()
        says = f"{plan.name} is for {kinds}, whose goods go out: nothing of them is received."
        yield _blocks("goes_out", f"{place}/order_kind", says)


NOT_YET = {
    "unload": "what is unloaded at the door is not counted there; goods are received as if they were not unloaded",
    "inspect": "goods go past the inspection and on with the next step",
}
"""Steps that a plan may name already, and what happens without them."""


def _steps_of(book: Rulebook, ground: Ground, site: SiteCode, plan: StepPlan, place: str) -> Iterator[Finding]:
    """The steps of a plan, each with its place, its crew, what begins it."""
    for step, does in NOT_YET.items():
        if getattr(plan, step).on:
            says = f"{plan.name} has a step to {step}, and nobody can do it on a handset yet: {does}."
            yield _doubt("step_not_done", f"{place}/{step}/on", says)
    places = [("receive/into", plan.receive.into, BinPurpose.RECEIVE_INTO, True)]
    places += [("unload/at", plan.unload.at, BinPurpose.UNLOAD_AT, plan.unload.on)]
    places += [("inspect/at", plan.inspect.at, BinPurpose.INSPECT_AT, plan.inspect.on)]
    places += [("put_away/at", plan.put_away.at, BinPurpose.PUT_AWAY, plan.put_away.on)]
    for at, where, purpose, on in places:
        if on:
            yield from _place(book, ground, site, plan, f"{place}/{at}", where, purpose)
    for step in ("unload", "receive", "inspect", "put_away"):
        each = getattr(plan, step)
        crew = getattr(each, "crew", None)
        if each.on and crew is not None and all(c.id != crew for c in book.crews):
            yield _blocks("missing_crew", f"{place}/{step}/crew", f"Crew `{crew}` does not exist. Choose another.")
        if each.on and each.undo:
            says = f"What {plan.name} does in this step may be undone, it says; no step can be undone yet."
            yield _doubt("no_undo", f"{place}/{step}/undo", says)
        if each.on and getattr(each, "begins", None) is Begins.ON_NEED:
            says = f"This step of {plan.name} begins when a later one lacks goods, and none asks for them yet: they wait until the office makes the task."
            yield _doubt("no_need", f"{place}/{step}/begins", says)
    if plan.receive.document is not ReceiptBy.FIRST_SCAN:
        says = f"The receipt of {plan.name} {DOCUMENT[plan.receive.document]}, it says; receipts are made by the first scan alone yet."
        yield _doubt("no_such_document", f"{place}/receive/document", says)
    code = fixed(plan.receive.into)
    into = ground.bins.get(code) if code else None
    here = [b for z in ground.zones_of_site.get(site, ()) for b in ground.bins_by_zone[z]]
    only = into is not None and here == [into]
    if into is not None and ground.zones[into.zone].purpose in STORAGE and not only:
        says = f"`{into.code}` lies in {ground.zones[into.zone].name}, which is storage, not receiving."
        yield _doubt("receives_into_storage", f"{place}/receive/into", says)
    if only and plan.put_away.on:
        says = f"`{code}` is the only place of this site: putting away would tell nobody where. Switch it off."
        yield _blocks("put_away_nowhere", f"{place}/put_away/on", says)
    if into is not None and not plan.put_away.on and not only and ground.zones[into.zone].purpose in RECEIVES:
        says = f"Put-away is off: what {plan.name} receives stays in `{into.code}`, and no step takes it on from there."
        yield _doubt("stays_in_receiving", f"{place}/put_away/on", says, into.code)
    yield from _plates_there(book, ground, site, plan, place)
    if plan.put_away.on and plan.put_away.at == BY_RULES and not book.rules_for(site, BinPurpose.PUT_AWAY):
        yield _blocks(
            "no_put_away_rules", f"{place}/put_away/on", "Put-away is on, but there is no rule that finds a bin."
        )
    if plan.put_away.on and not any(r.on for r in book.recipes_for(site, Need.PUT_AWAY)):
        yield _blocks("no_recipe", f"{place}/put_away/on", "Put-away is on, but no recipe makes its tasks.")
    if plan.put_away.on:
        yield from _seen(book, site, FlowPurpose.PUT_AWAY, f"{place}/put_away/on")
    yield from _seen(book, site, FlowPurpose.RECEIVE, f"{place}/receive")
    crew = plan.receive.crew
    if crew is not None and all(f.purpose is not FlowPurpose.RECEIVE for f in book.menu_for(site, (crew,))):
        name = next((c.name for c in book.crews if c.id == crew), crew)
        says = f"{plan.name} is received by {name}, and no flow on its menu receives: nobody would."
        yield _blocks("nobody_does", f"{place}/receive/crew", says)


def _place(
    book: Rulebook, ground: Ground, site: SiteCode, plan: StepPlan, place: str, at: Place, purpose: BinPurpose
) -> Iterator[Finding]:
    """Is the place of a step there, at this site, and does it hold a bin?"""
    if isinstance(at, Found):
        if at.zone is None:
            if purpose is not BinPurpose.PUT_AWAY and not book.rules_for(site, purpose):
                says = f"{plan.name} leaves it to the bin rules where this is, and there are none under {PURPOSE_TITLES[purpose]}."
                yield _blocks("step_without_place", place, says)
        elif at.zone not in ground.zones:
            yield _blocks("missing_zone", place, f"Zone `{at.zone}` does not exist. Choose another.")
        elif plan.site in (None, site) and ground.zones[at.zone].site != site:
            yield _blocks(
                "other_site",
                place,
                f"{ground.zones[at.zone].name} belongs to another site. Choose a zone of this site.",
            )
        elif not ground.bins_by_zone[at.zone]:
            yield _blocks("no_bins", place, f"{ground.zones[at.zone].name} has no bins.")
        return
    if at not in ground.bins:
        yield _blocks("missing_bin", place, f"Bin `{at}` does not exist.")
    elif plan.site in (None, site) and ground.site_of(at) != site:
        yield _elsewhere(at, ground, place)


def _recipes(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Recipes: crews that can do their tasks, hand-over points that are there, conditions that can hold, settings with an effect."""
    names = {c.id: c.name for c in book.crews}
    needed = any(p.on and p.put_away.on for p in book.step_plans)
    takes_all: Recipe | None = None
    at_once = all(p.put_away.begins is Begins.ON_ARRIVAL for p in book.step_plans if p.on and p.put_away.on)
    for recipe in book.recipes_for(site, Need.PUT_AWAY):
        place = f"recipes/{recipe.id}"
        if not recipe.on:
            continue
        crews = [(leg.crew, f"{place}/legs/{leg.id}/crew") for leg in recipe.legs] + [(recipe.crew, f"{place}/crew")]
        for crew, at in crews:
            if crew not in names:
                yield _blocks("missing_crew", at, f"Crew `{crew}` does not exist. Choose another.")
            elif needed and all(f.purpose is not FlowPurpose.PUT_AWAY for f in book.menu_for(site, (crew,))):
                says = f"Put-away tasks are made for {names[crew]}, and no flow on its menu does them: nobody would."
                yield _blocks("nobody_does", at, says)
        yield from _hand_overs(recipe, ground, site, place)
        if not needed:
            continue
        if takes_all is not None:
            yield _doubt("never_reached", place, f"Never reached: recipe `{takes_all.id}` above is for all goods.")
        elif recipe.applies == Conditions():
            takes_all = recipe
        if (
            at_once
            and not any(leg.next is not Begins.ON_ARRIVAL for leg in recipe.legs)
            and recipe.grouping in (Grouping.ORDER, Grouping.ZONE)
        ):
            says = "Put-away begins as soon as a plate is finished, so there is never more than that receipt to group: this makes no difference. Let it begin on demand, on Steps."
            yield _doubt("nothing_to_group", f"{place}/grouping", says)
        if recipe.grouping is Grouping.PLATE and recipe.sequence is not Sequencing.WALK_ORDER:
            says = "Each task goes to one place, so there is no order to keep: this makes no difference. Let more become one task."
            yield _doubt("nothing_to_order", f"{place}/sequence", says)
        for name in ("things", "pieces", "kilograms", "litres"):
            value = getattr(recipe.most, name)
            if value is not None and value < 1:
                yield _blocks(
                    "no_cap", f"{place}/most/{name}", "A task that may hold nothing is never made. Say at least 1."
                )
        if recipe.priority not in range(10):
            yield _blocks("bad_priority", f"{place}/priority", "A priority is 0 to 9; the highest comes first.")
        for name in ("worth", "quantity", "weight_kg", "height_mm"):
            span = getattr(recipe.applies, name)
            if span.least is not None and span.most is not None and span.least > span.most:
                says = f"Nothing is {between(span)}: the recipe never applies."
                yield _blocks("empty_range", f"{place}/applies/{name}", says)
    if needed and takes_all is None and any(r.on for r in book.recipes_for(site, Need.PUT_AWAY)):
        says = "Each recipe is for some goods only: what none of them is for waits until the office sees to it. Let the last be for anything."
        yield _doubt("no_recipe_for_rest", "recipes", says)


def _hand_overs(recipe: Recipe, ground: Ground, site: SiteCode, place: str) -> Iterator[Finding]:
    """The points where goods change hands: there, at this site, each another than the one before."""
    before: Place | None = None
    for leg in recipe.legs:
        at = f"{place}/legs/{leg.id}/to"
        here = recipe.site in (None, site)
        if isinstance(leg.to, Found):
            if leg.to.zone is None:
                yield _blocks(
                    "step_without_place", at, "It is not said where the goods are handed over. Name a zone or a bin."
                )
            elif leg.to.zone not in ground.zones:
                yield _blocks("missing_zone", at, f"Zone `{leg.to.zone}` does not exist. Choose another.")
            elif here and ground.zones[leg.to.zone].site != site:
                says = f"{ground.zones[leg.to.zone].name} belongs to another site. Choose a zone of this site."
                yield _blocks("other_site", at, says)
            elif not ground.bins_by_zone[leg.to.zone]:
                yield _blocks("no_bins", at, f"{ground.zones[leg.to.zone].name} has no bins.")
        elif leg.to not in ground.bins:
            yield _blocks("missing_bin", at, f"Bin `{leg.to}` does not exist.")
        elif here and ground.site_of(leg.to) != site:
            yield _elsewhere(leg.to, ground, at)
        if leg.to == before:
            yield _doubt(
                "steps_loop", at, "It is handed over where it stands already: from one crew to the next without a step."
            )
        if leg.next is Begins.ON_NEED:
            says = "The next part begins when something farther on lacks the goods, and nothing asks for them yet: they wait until the office makes the task."
            yield _doubt("no_need", f"{place}/legs/{leg.id}/next", says)
        before = leg.to


def _crews(book: Rulebook, site: SiteCode) -> Iterator[Finding]:
    """Crews with nothing to see and nothing to do."""
    for crew in book.crews:
        if not book.menu_for(site, (crew.id,)) and crew.site in (None, site):
            does = [r for r in book.recipes if crew.id in (r.crew, *(leg.crew for leg in r.legs))]
            if not does:
                says = f"{crew.name} sees no flow, and no task is made for it: nobody of it has anything to do here."
                yield _doubt("idle_crew", f"crews/{crew.id}", says)


def _returns(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Goods that customers send back, received by a plan for all orders as if they were new."""
    back = OrderKind.CUSTOMER_RETURN
    order = next((o for o in ground.opening.orders if o.kind is back and o.site == site), None)
    plan = book.plan_for(asked_of(ground, order, order.lines[0].item)) if order and order.lines else None
    if plan is not None and plan.order_kind is None and order is not None:
        says = f"{plan.name} is for all orders, announced returns too: what customers send back becomes available stock like new goods."
        yield _doubt("returns_as_new", f"step_plans/{plan.id}/order_kind", says, order.number)


def _idle_lists(book: Rulebook, site: SiteCode) -> Iterator[Finding]:
    """Lists of bin rules that nothing asks yet."""
    flows = {f for m in book.menus for f in book.menu_for(site, (m.crew,))}
    asked = {*(f.puts_by for f in flows), *(f.takes_by for f in flows)}
    asked |= {BinPurpose.PICK_FROM, BinPurpose.REPLENISH_FROM}  # the office keeps stock by them
    asked |= {
        purpose
        for p in book.step_plans
        if p.on
        for purpose, on, at in (
            (BinPurpose.PUT_AWAY, p.put_away.on, p.put_away.at),
            (BinPurpose.RECEIVE_INTO, True, p.receive.into),
        )
        if on and at == BY_RULES
    }
    for rules in book.bin_rules:
        if rules.rules and rules.purpose not in asked:
            name = PURPOSE_TITLES[rules.purpose].lower()
            yield _doubt(
                "asked_by_nothing", f"bin_rules/{rules.id}", f"Nothing asks {name} yet: these rules have no effect."
            )


def _plates_there(book: Rulebook, ground: Ground, site: SiteCode, plan: StepPlan, place: str) -> Iterator[Finding]:
    """Do the flows that receive build plates where the bin takes them, and none where it does not?"""
    code = fixed(plan.receive.into)
    into = ground.bins.get(code) if code else None
    flows = dict.fromkeys(
        f for m in book.menus for f in book.menu_for(site, (m.crew,)) if f.purpose is FlowPurpose.RECEIVE
    )
    need = ground.bin_types[into.bin_type].plates if into else PlateNeed.OPTIONAL
    for flow in flows:
        builds = flow.plate_by is not PlateBy.NONE
        if builds and need is PlateNeed.NONE:
            says = f"`{code}` takes no plates, but {flow.name} builds them: it cannot receive there."
            yield _doubt("plates_not_taken", f"{place}/receive/into", says, flow.id)
        if not builds and need is PlateNeed.REQUIRED:
            says = f"`{code}` takes goods on plates only, but {flow.name} builds none."
            yield _doubt("plates_needed", f"{place}/receive/into", says, flow.id)


def _seen(book: Rulebook, site: SiteCode, purpose: FlowPurpose, place: str) -> Iterator[Finding]:
    flows = [f for m in book.menus for f in book.menu_for(site, (m.crew,))]
    if not any(f.purpose is purpose for f in flows):
        word = purpose.value.replace("_", " ")
        yield _blocks("no_flow", place, f"No crew has a flow to {word} on its menu: nobody can do this step.")


def _bin_rules(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    groups = {i.group for i in ground.items.values()}
    partner_groups = {p.group for p in ground.partners.values()}
    aisles = {b.aisle for b in ground.bins.values()}
    seen: dict[LookIn, tuple[bool, dict[ZonePurpose, BinCode]]] = {}

    def looked_at(look: LookIn) -> tuple[bool, dict[ZonePurpose, BinCode]]:
        """Is any bin looked at, and the first of each purpose of zone: many rules look in the same places."""
        if look not in seen:
            first: dict[ZonePurpose, BinCode] = {}
            for b in bins_in(ground, site, look):
                first.setdefault(ground.zones[b.zone].purpose, b.code)
            seen[look] = bool(first), first
        return seen[look]

    for rules in book.bin_rules:
        asking: dict[Conditions, BinRule] = {}
        """Of the rules above that end by asking the worker, the first for each set of goods."""
        for rule in rules.rules:
            place = f"bin_rules/{rules.id}/rules/{rule.id}"
            yield from _missing(rule, ground, place, groups, partner_groups, aisles)
            if not rule.targets:
                yield _blocks("no_target", place, "The rule names no place to look in.")
            yield from _odd_rule(rules.purpose, rule, ground, place, site if rules.site in (None, site) else None)
            for target in rule.targets:
                any_bin, first = looked_at(target.look_in)
                at = f"{place}/targets/{target.id}/look_in"
                if not any_bin:
                    yield _doubt("no_bins", at, _no_bins(target.look_in, ground, site))
                odd = set(first) - STORAGE - {ZonePurpose.QUARANTINE, ZonePurpose.RETURNS}
                if odd and rules.purpose is BinPurpose.PUT_AWAY and not target.look_in.own_plate:
                    witness = next(code for purpose, code in first.items() if purpose in odd)
                    names = ", ".join(sorted(p.value.replace("_", "-") for p in odd))
                    yield _doubt(
                        "no_storage", at, f"Goods would be put away to a {names} bin, which is no storage.", witness
                    )
            shadow = next((a for applies, a in asking.items() if rule.on and _covers(applies, rule.applies)), None)
            if shadow:
                yield _doubt(
                    "never_reached",
                    place,
                    f"Never reached: rule `{shadow.id}` above takes all its goods and ends by asking the worker.",
                )
            if rule.on and rule.if_nothing is IfNothing.ASK:
                asking.setdefault(rule.applies, rule)


def _no_bins(look: LookIn, ground: Ground, site: SiteCode) -> str:
    """Why nothing is looked at: what is named lies at another site, or nothing there is of all that is asked for."""
    of_zones = [(ground.zones[z].name, ground.zones[z].site) for z in look.zones if z in ground.zones]
    of_bins = [(f"bin `{b}`", ground.site_of(b)) for b in look.bins if b in ground.bins]
    away = [(name, ground.sites[at].name) for name, at in (*of_zones, *of_bins) if at != site and at in ground.sites]
    if not away:
        return "No bin of the site is looked at here."
    names = ", ".join(dict.fromkeys(name for name, _ in away))
    return f"No bin of the site is looked at here: {names} {'is' if len(away) == 1 else 'are'} at {away[0][1]}."


def _elsewhere(code: BinCode, ground: Ground, place: str) -> Finding:
    site = ground.sites[ground.site_of(code)].name
    return _blocks("other_site", place, f"Bin `{code}` belongs to {site}, another site. Choose one of this site.")


def _odd_rule(
    purpose: BinPurpose, rule: BinRule, ground: Ground, place: str, here: SiteCode | None
) -> Iterator[Finding]:
    """What a rule says that means nothing for its purpose, or cannot work; ``here`` is the site, if it applies there."""
    if rule.if_nothing is IfNothing.OVERFLOW:
        if rule.overflow is None:
            yield _blocks(
                "no_overflow", f"{place}/overflow", "The rule sends what is left to an overflow bin and names none."
            )
        elif here and rule.overflow in ground.bins and ground.site_of(rule.overflow) != here:
            yield _elsewhere(rule.overflow, ground, f"{place}/overflow")
        elif rule.overflow not in ground.bins:
            says = f"The overflow bin `{rule.overflow}` does not exist. Choose another, or bring it in."
            yield _blocks("missing_bin", f"{place}/overflow", says)
        if purpose.takes:
            yield _blocks(
                "overflow_taking", f"{place}/if_nothing", "Goods are taken here: there is no overflow bin for that."
            )
    for target in rule.targets:
        at = f"{place}/targets/{target.id}"
        wrong = set(PUTTING_WANTS) - set(TAKING_WANTS) if purpose.takes else set(TAKING_WANTS) - set(PUTTING_WANTS)
        if target.wants in wrong:
            side = "takes goods out of bins" if purpose.takes else "puts goods into bins"
            yield _blocks("wrong_wants", f"{at}/wants", f"This list {side}; {WANTS[target.wants]} means nothing here.")
        if not purpose.takes and STOCK_ORDERS & set(target.prefer):
            names = ", ".join(PREFER[p] for p in target.prefer if p in STOCK_ORDERS)
            yield _doubt("idle_prefer", f"{at}/prefer", f"Goods are put here: {names} makes no difference.")
        if target.most is not None and target.most < 1:
            yield _blocks("no_most", f"{at}/most", "At most none a bin: no bin can take anything.")
        if target.look_in.home_bins and not ground.homes:
            yield _doubt("no_homes", f"{at}/look_in", "No item is at home in any bin, so this place never has one.")
        if target.look_in.own_plate and purpose is BinPurpose.PUT_AWAY:
            yield _doubt(
                "no_own_plate", f"{at}/look_in", "Whole plates are put away: there is no plate being built to add to."
            )
    if not 0 <= rule.least_percent <= 100:
        yield _blocks(
            "bad_share", f"{place}/least_percent", "The smallest share is between 0 and 100 % of what is asked."
        )
    if rule.split and purpose is BinPurpose.PUT_AWAY and rule.applies.unit_forms == (UnitForm.WHOLE_PLATE,):
        yield _doubt("plates_whole", f"{place}/split", "Whole plates are never split: this makes no difference.")
    for name in ("worth", "quantity", "weight_kg", "height_mm"):
        span = getattr(rule.applies, name)
        if span.least is not None and span.most is not None and span.least > span.most:
            yield _blocks(
                "empty_range", f"{place}/applies/{name}", f"Nothing is {between(span)}: the rule never applies."
            )
    if purpose.takes:
        fefo = next(
            (
                i
                for i in ground.items.values()
                if i.lot_order is LotOrder.FEFO and i.tracking is not Tracking.LOT_EXPIRY
            ),
            None,
        )
        if fefo and (not rule.applies.items or fefo.code in rule.applies.items) and rule.fefo_days == 0:
            says = f"{fefo.name} must leave by expiry but is not kept by expiry: any of it may leave first."
            yield _doubt("fefo_without_expiry", f"{place}/fefo_days", says, fefo.code)


def _covers(above: Conditions, below: Conditions) -> bool:
    """Does whatever satisfies ``below`` satisfy ``above`` too?"""
    for name in Conditions.__dataclass_fields__:
        value, other = getattr(above, name), getattr(below, name)
        if isinstance(value, Between):
            if not value.open and value != other:
                return False
            continue
        wide, narrow = set(value), set(other)
        if wide and (not narrow or not narrow <= wide):
            return False
    return True


def _missing(
    rule: BinRule, ground: Ground, place: str, groups: Set[str], partner_groups: Set[str], aisles: Set[str]
) -> Iterator[Finding]:
    applies = f"{place}/applies"
    rows: list[tuple[str, str, Iterable[str], Container[Any]]] = [
        ("item", f"{applies}/items", rule.applies.items, ground.items),
        ("partner", f"{applies}/partners", rule.applies.partners, ground.partners),
        ("item group", f"{applies}/groups", rule.applies.groups, groups),
        ("partner group", f"{applies}/partner_groups", rule.applies.partner_groups, partner_groups),
    ]
    for target in rule.targets:
        at = f"{place}/targets/{target.id}/look_in"
        rows += [
            ("zone", f"{at}/zones", target.look_in.zones, ground.zones),
            ("bin type", f"{at}/bin_types", target.look_in.bin_types, ground.bin_types),
            ("bin", f"{at}/bins", target.look_in.bins, ground.bins),
            ("aisle", f"{at}/aisles", target.look_in.aisles, aisles),
        ]
    for word, where, codes, known in rows:
        for code in codes:
            if code not in known:
                code_of = f"missing_{word.replace(' ', '_')}"
                yield _blocks(code_of, where, f"The {word} `{code}` does not exist. Choose another, or bring it in.")


def _flows(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    flows = {f.id for f in book.flows}
    crews = {c.id for c in book.crews}
    for menu in book.menus:
        for missing in [f for f in menu.flows if f not in flows]:
            yield _blocks(
                "missing_flow", f"menus/{menu.id}/flows", f"The menu names flow `{missing}`, which does not exist."
            )
        if menu.crew not in crews:
            yield _blocks("missing_crew", f"menus/{menu.id}/crew", f"Crew `{menu.crew}` does not exist.")
    on_menus = {f for m in book.menus for f in m.flows}
    for flow in book.flows:
        place = f"flows/{flow.id}"
        if flow.id not in on_menus:
            yield _doubt("on_no_menu", place, f"{flow.name} is on no menu: nobody sees it.")
        yield from _flow(book, flow, ground, place)


def _flow(book: Rulebook, flow: Flow, ground: Ground, place: str) -> Iterator[Finding]:
    asked = [p.asks for p in flow.prompts]
    ids = [p.id for p in flow.prompts]
    for twice in dict.fromkeys(i for i in ids if ids.count(i) > 1):
        yield _blocks(
            "same_id", f"{place}/prompts", f"Two prompts of {flow.name} are `{twice}`; each needs an id of its own."
        )
    for again in dict.fromkeys(a for a in asked if asked.count(a) > 1):
        yield _blocks(
            "asked_twice", f"{place}/prompts", f"{flow.name} asks twice for the {again.value.replace('_', ' ')}."
        )
    for needed in MACHINE.lacking(flow):
        says = f"{flow.name} never asks for the {called(needed)}; it cannot do its work."
        yield _blocks("prompt_missing", f"{place}/prompts", says)
    useful = MACHINE.used(flow)
    for n, each in enumerate(flow.prompts):
        at = f"{place}/prompts/{each.id}"
        item = next((p for p in flow.prompts if p.asks is Asks.ITEM), None)
        if each.pieces and (each.asks is not Asks.QUANTITY or item is None or item.check is not Check.SCAN):
            says = "Scanning pieces one by one needs that the item must be scanned, and here it may be typed or tapped: this has no effect."
            yield _doubt("pieces_without_item", f"{at}/pieces", says)
        if each.pieces < 0:
            yield _blocks(
                "no_pieces", f"{at}/pieces", "So many pieces cannot be scanned. Say at least 1, or take it away."
            )
        if each not in useful:
            says = f"{flow.name} has no use for the {called(each.asks)}: the prompt is passed over."
            yield _doubt("prompt_idle", at, says)
        late = [a for a in MACHINE.waits_for(flow, each) if all(p.asks is not a for p in flow.prompts[:n])]
        if late:
            says = f"{flow.name} asks for the {called(each.asks)} before the {called(late[0])}: it waits until that is answered."
            yield _doubt("prompt_waits", at, says)
    if flow.purpose is FlowPurpose.RECEIVE:
        if flow.plate_by is not PlateBy.NONE and flow.plate_kind not in ground.plate_kinds:
            yield _blocks(
                "missing_plate_kind", f"{place}/plate_kind", f"{flow.name} names no kind of plate that exists."
            )
        if Asks.LOT in asked and Asks.EXPIRY in asked and asked.index(Asks.LOT) < asked.index(Asks.EXPIRY):
            yield _doubt(
                "lot_before_expiry",
                f"{place}/prompts",
                "The lot is asked before its expiry date: a mistyped lot is noticed late.",
            )
        for tracking, prompt in (("lot", Asks.LOT), ("lot_expiry", Asks.EXPIRY)):
            witness = next((i.code for i in ground.items.values() if i.tracking.value.startswith(tracking)), None)
            if prompt not in asked and witness:
                yield _doubt(
                    "tracking_not_asked",
                    f"{place}/prompts",
                    f"{flow.name} never asks for the {prompt.value}, which `{witness}` is kept by.",
                    witness,
                )
    for field, rules, used_by in (
        ("from_rules", flow.from_rules, flow.takes_by),
        ("to_rules", flow.to_rules, flow.puts_by),
    ):
        if rules is None:
            continue
        name = PURPOSE_TITLES[rules].lower()
        if used_by is None:
            way = "takes goods by rules that put" if field == "from_rules" else "puts goods by rules that take"
            yield _blocks("rules_wrong_way", f"{place}/{field}", f"{flow.name} {way}: those of {name}.")
        elif not any(r.purpose is rules for r in book.bin_rules):
            says = f"{flow.name} goes by the rules of {name}, and there are none."
            yield _blocks("no_rules", f"{place}/{field}", says)
    for prompt_ in flow.prompts:
        if MACHINE.prompts[prompt_.asks].reads is Read.NUMBER and prompt_.check is Check.SCAN:
            yield _blocks(
                "quantity_scanned",
                f"{place}/prompts/{prompt_.id}/check",
                "A quantity cannot be demanded as a scan: nobody could answer.",
            )


def newly_missing(before: Iterable[Finding], after: Iterable[Finding]) -> list[Finding]:
    """What is named and was found before, and is not any more."""
    known = {(f.place, f.says) for f in before}
    return [f for f in after if f.code.startswith("missing_") and (f.place, f.says) not in known]


def usable(found: Iterable[Finding]) -> bool:
    """May a world run on a rulebook with these findings?"""
    return not any(f.severity is Severity.BLOCKS for f in found)
