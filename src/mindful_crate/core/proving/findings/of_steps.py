"""Findings of the step plans: scopes, steps with their places and crews, and what nothing is received by."""

from __future__ import annotations

from collections.abc import Container, Iterator

from mindful_crate.core.catalog.goods import INBOUND, OrderKind
from mindful_crate.core.catalog.ids import CrewId, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import STORAGE, PlateNeed
from mindful_crate.core.proving.findings.finding import Finding, blocks, doubt, whereabouts
from mindful_crate.core.rulebook.bin_rules import (
    BinPurpose,
    puts_away_by,
)
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, PlateBy
from mindful_crate.core.rulebook.starter import RECEIVES
from mindful_crate.core.rulebook.steps import (
    BY_RULES,
    EXACT,
    Begins,
    DeliveryNote,
    Found,
    Need,
    Over,
    ReceiptBy,
    StepPlan,
    fixed,
    ties,
)
from mindful_crate.core.rulebook.words.bin_rules import PURPOSE_TITLES
from mindful_crate.core.rulebook.words.parts import ORDERS, Names
from mindful_crate.core.rulebook.words.steps import DOCUMENT, ONLY_TITLES, scope_told
from mindful_crate.core.work.unloading.checks import SET_DOWN


def plans(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Step plans: each by itself, two for the same goods, orders that none is for."""
    if not book.step_plans:
        yield blocks("no_plan", "step_plans", "There is no step plan: nothing can be received.")
    names = Names(ground, book.order_classes)
    for first, plan in ties(book.step_plans):
        says = f"{first.name} and {plan.name} are for the same goods, {scope_told(plan, names)}: one of them must go."
        yield blocks("plans_tie", f"step_plans/{first.id}", says)
    for plan in book.step_plans:
        place = f"step_plans/{plan.id}"
        yield from _scope(plan, book, ground, place)
        if plan.on:
            yield from _steps_of(book, ground, site, plan, place)
    yield from _returns(book, ground, site)
    coming: dict[str, tuple[OrderKind, str, int]] = {}
    for order in ground.opening.orders:
        if not order.inbound or order.site != site or not book.step_plans:
            continue
        lost = [x for x in order.lines if book.plan_for(book.asked(ground, order, x.item)) is None]
        if lost:
            coming.setdefault(order.kind, (order.kind, order.number, len(lost) if len(lost) < len(order.lines) else 0))
    for _, (kind, number, some) in sorted(coming.items()):
        what = f"{some} lines of `{number}` reach" if some > 1 else f"a line of `{number}` reaches" if some else ""
        says = (
            f"No step plan is for some {ORDERS[kind].lower()}: {what} no handset." if some
            else f"No step plan is for {ORDERS[kind].lower()}: `{number}` never reaches a handset."
        )  # fmt: skip
        yield doubt("no_plan_for", "step_plans", says, number)


def _scope(plan: StepPlan, book: Rulebook, ground: Ground, place: str) -> Iterator[Finding]:
    """What a plan is for: one thing beside the kind of order, which the catalogue has, and whose goods come in."""
    only = plan.only
    if len(only.named) > 1:
        says = f"{plan.name} is only for {' and '.join(ONLY_TITLES[n] for n in only.named)}: a plan is for one of them alone."
        yield blocks("two_scopes", f"{place}/only", says)
    known: dict[str, Container[str]] = {
        "item": ground.items, "group": {i.group for i in ground.items.values()}, "partner": ground.partners,
        "partner_group": {p.group for p in ground.partners.values()}, "order_class": {c.id for c in book.order_classes},
    }  # fmt: skip
    for name in only.named:
        if getattr(only, name) not in known[name]:
            whose = "the rulebook" if name == "order_class" else "the catalogue"
            says = f"{plan.name} is only for {ONLY_TITLES[name]} `{getattr(only, name)}`, which {whose} does not have."
            yield doubt("missing_scope", f"{place}/only/{name}", says)
    if plan.order_kind is not None and plan.order_kind not in INBOUND:
        kinds = ORDERS[plan.order_kind].lower()
        says = f"{plan.name} is for {kinds}, whose goods go out: nothing of them is received."
        yield blocks("goes_out", f"{place}/order_kind", says)


def _steps_of(book: Rulebook, ground: Ground, site: SiteCode, plan: StepPlan, place: str) -> Iterator[Finding]:
    """The steps of a plan, each with its place, its crew, what begins it."""
    places = [("receive/into", plan.receive.into, BinPurpose.RECEIVE_INTO, True)]
    places += [("unload/at", plan.unload.at, BinPurpose.UNLOAD_AT, plan.unload.on)]
    places += [("inspect/at", plan.inspect.at, BinPurpose.INSPECT_AT, plan.inspect.on)]
    places += [("put_away/at", plan.put_away.at, BinPurpose.PUT_AWAY, plan.put_away.on)]
    for at, where, purpose, on in places:
        if not on:
            continue
        if where == BY_RULES and purpose is not BinPurpose.PUT_AWAY and not book.rules_for(site, purpose):
            says = f"{plan.name} leaves it to the bin rules where this is, and there are none under {PURPOSE_TITLES[purpose]}."
            yield blocks("step_without_place", f"{place}/{at}", says)
        yield from whereabouts(where, ground, site if plan.site in (None, site) else None, f"{place}/{at}")
    for step in ("unload", "receive", "inspect", "put_away"):
        each = getattr(plan, step)
        crew = getattr(each, "crew", None)
        if each.on and crew is not None and all(c.id != crew for c in book.crews):
            yield blocks("missing_crew", f"{place}/{step}/crew", f"Crew `{crew}` does not exist. Choose another.")
        if each.on and getattr(each, "begins", None) is Begins.ON_NEED:
            says = f"This step of {plan.name} begins when a later one lacks goods, and none asks for them yet: they wait until the office makes the task."
            yield doubt("no_need", f"{place}/{step}/begins", says)
    if plan.receive.document is not ReceiptBy.FIRST_SCAN:
        says = f"The receipt of {plan.name} {DOCUMENT[plan.receive.document]}, it says; receipts are made by the first scan alone yet."
        yield doubt("no_such_document", f"{place}/receive/document", says)
    code = fixed(plan.receive.into)
    into = ground.bins.get(code) if code else None
    here = [b for z in ground.zones_of_site.get(site, ()) for b in ground.bins_by_zone[z]]
    only = into is not None and here == [into]
    if into is not None and ground.zones[into.zone].purpose in STORAGE and not only:
        says = f"`{into.code}` lies in {ground.zones[into.zone].name}, which is storage, not receiving."
        yield doubt("receives_into_storage", f"{place}/receive/into", says)
    if only and plan.put_away.on:
        says = f"`{code}` is the only place of this site: putting away would tell nobody where. Switch it off."
        yield blocks("put_away_nowhere", f"{place}/put_away/on", says)
    if into is not None and not plan.put_away.on and not only and ground.zones[into.zone].purpose in RECEIVES:
        says = f"Put-away is off: what {plan.name} receives stays in `{into.code}`, and no step takes it on from there."
        yield doubt("stays_in_receiving", f"{place}/put_away/on", says, into.code)
    yield from _plates_there(book, ground, site, plan, place)
    by = puts_away_by(plan.order_kind)
    if plan.put_away.on and plan.put_away.at == BY_RULES and not book.rules_for(site, by):
        returned = f" under {PURPOSE_TITLES[by]}" if by is BinPurpose.RETURN_TO else ""
        says = f"Put-away is on, but there is no rule{returned} that finds a bin."
        yield blocks("no_put_away_rules", f"{place}/put_away/on", says)
    if plan.put_away.on and not any(r.on for r in book.recipes_for(site, Need.PUT_AWAY)):
        yield blocks("no_recipe", f"{place}/put_away/on", "Put-away is on, but no recipe makes its tasks.")
    if plan.put_away.on:
        yield from _seen(book, site, FlowPurpose.PUT_AWAY, f"{place}/put_away/on")
    yield from _seen(book, site, FlowPurpose.RECEIVE, f"{place}/receive")
    yield from _done_by(book, site, plan, plan.receive.crew, FlowPurpose.RECEIVE, f"{place}/receive/crew")
    yield from _how_much(book, site, plan, place)
    if plan.unload.on:
        yield from _seen(book, site, FlowPurpose.UNLOAD, f"{place}/unload/on")
        yield from _done_by(book, site, plan, plan.unload.crew, FlowPurpose.UNLOAD, f"{place}/unload/crew")
        yield from _doors(ground, site, plan, place)
    if plan.inspect.on:
        yield from _inspection(book, site, plan, place)


def _doors(ground: Ground, site: SiteCode, plan: StepPlan, place: str) -> Iterator[Finding]:
    """Is where goods are unloaded a place for what is not stock?"""
    code = fixed(plan.unload.at)
    each = ground.bins.get(code) if code else None
    zone = ground.zones[each.zone] if each else None
    if zone is None and isinstance(plan.unload.at, Found) and plan.unload.at.zone:
        zone = ground.zones.get(plan.unload.at.zone)
    if zone is not None and zone.purpose not in SET_DOWN:
        says = f"{plan.name} unloads in {zone.name}, where only stock stands: say a door, a dock, receiving or a cross-dock lane."
        yield blocks("no_door", f"{place}/unload/at", says, code or "")


def _how_much(book: Rulebook, site: SiteCode, plan: StepPlan, place: str) -> Iterator[Finding]:
    """How much more or less is taken, and the delivery note."""
    step = plan.receive
    for name in ("more", "less"):
        tolerance = getattr(step, name)
        if min(tolerance.percent, tolerance.units) < 0:
            says = f"{plan.name} names a limit below zero: say 0 or more."
            yield blocks("below_zero", f"{place}/receive/{name}", says)
    if step.over is not Over.REFUSE and step.more.percent <= 0 and step.more.units <= 0:
        says = f"{plan.name} takes more than was ordered, up to nothing at all: say how much more. This has no effect."
        yield doubt("no_effect", f"{place}/receive/over", says)
    if step.over is Over.REFUSE and step.more != EXACT:
        yield doubt(
            "no_effect", f"{place}/receive/more", f"{plan.name} refuses more than was ordered. This has no effect."
        )
    if step.over is Over.HOLD and not book.rules_for(site, BinPurpose.HOLD_AT):
        says = f"What {plan.name} holds as more than ordered goes where the worker chooses: there are no rules under {PURPOSE_TITLES[BinPurpose.HOLD_AT]}."
        yield doubt("no_hold_rules", f"{place}/receive/over", says)
    if step.note is DeliveryNote.NO:
        return
    for flow in book.shown_flows(site, FlowPurpose.RECEIVE):
        if all(p.asks is not Asks.NOTE for p in flow.prompts):
            must = step.note is DeliveryNote.REQUIRED
            does = "it can receive nothing of this" if must else "it receives without one"
            says = f"{plan.name} wants the number of the delivery note, and {flow.name} never asks for it: {does}."
            yield (blocks if must else doubt)("note_not_asked", f"{place}/receive/note", says, flow.id)


DOES = {
    FlowPurpose.UNLOAD: ("unloaded", "unloads"),
    FlowPurpose.RECEIVE: ("received", "receives"),
    FlowPurpose.INSPECT: ("inspected", "inspects"),
}


def _done_by(
    book: Rulebook, site: SiteCode, plan: StepPlan, crew: CrewId | None, purpose: FlowPurpose, place: str
) -> Iterator[Finding]:
    """A crew that a step names, and that has no flow for it."""
    if crew is not None and all(f.purpose is not purpose for f in book.menu_for(site, (crew,))):
        name = next((c.name for c in book.crews if c.id == crew), crew)
        done, does = DOES[purpose]
        yield blocks(
            "nobody_does", place, f"{plan.name} is {done} by {name}, and no flow on its menu {does}: nobody would."
        )


def _inspection(book: Rulebook, site: SiteCode, plan: StepPlan, place: str) -> Iterator[Finding]:
    """Who inspects, how much, and where what fails goes."""
    step = plan.inspect
    yield from _seen(book, site, FlowPurpose.INSPECT, f"{place}/inspect/on")
    yield from _done_by(book, site, plan, step.crew, FlowPurpose.INSPECT, f"{place}/inspect/crew")
    if step.every < 1:
        yield blocks(
            "no_turn", f"{place}/inspect/every", f"{plan.name} inspects every {step.every}th receipt: say 1 or more."
        )
    if step.sample < 0:
        yield blocks(
            "no_sample", f"{place}/inspect/sample", f"{plan.name} looks at {step.sample} pieces: say 1 or more, or all."
        )
    if not book.rules_for(site, BinPurpose.HOLD_AT):
        says = f"What fails the inspection of {plan.name} goes where the worker chooses: there are no rules under {PURPOSE_TITLES[BinPurpose.HOLD_AT]}."
        yield doubt("no_hold_rules", f"{place}/inspect/on", says)
    if plan.put_away.on and not any(r.on for r in book.recipes_for(site, Need.PUT_AWAY)):
        return  # that is said of the put-away
    if not plan.put_away.on and not book.shown_flows(site, FlowPurpose.PUT_AWAY):
        says = f"What fails the inspection of {plan.name} is taken away with a flow to put away, and none is on a menu."
        yield blocks("no_flow", f"{place}/inspect/on", says)


def _plates_there(book: Rulebook, ground: Ground, site: SiteCode, plan: StepPlan, place: str) -> Iterator[Finding]:
    """Do the flows that receive build plates where the bin takes them, and none where it does not?"""
    code = fixed(plan.receive.into)
    into = ground.bins.get(code) if code else None
    flows = book.shown_flows(site, FlowPurpose.RECEIVE)
    need = ground.bin_types[into.bin_type].plates if into else PlateNeed.OPTIONAL
    for flow in flows:
        builds = flow.plate_by is not PlateBy.NONE
        if builds and need is PlateNeed.NONE:
            says = f"`{code}` takes no plates, but {flow.name} builds them: it cannot receive there."
            yield doubt("plates_not_taken", f"{place}/receive/into", says, flow.id)
        if not builds and need is PlateNeed.REQUIRED:
            says = f"`{code}` takes goods on plates only, but {flow.name} builds none."
            yield doubt("plates_needed", f"{place}/receive/into", says, flow.id)


def _seen(book: Rulebook, site: SiteCode, purpose: FlowPurpose, place: str) -> Iterator[Finding]:
    if not book.shown_flows(site, purpose):
        word = purpose.value.replace("_", " ")
        yield blocks("no_flow", place, f"No crew has a flow to {word} on its menu: nobody can do this step.")


def _returns(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Goods that customers send back, received by a plan for all orders as if they were new."""
    back = OrderKind.CUSTOMER_RETURN
    order = next((o for o in ground.opening.orders if o.kind is back and o.site == site), None)
    plan = book.plan_for(book.asked(ground, order, order.lines[0].item)) if order and order.lines else None
    if plan is not None and plan.order_kind is None and order is not None:
        says = f"{plan.name} is for all orders, announced returns too: what customers send back becomes available stock like new goods."
        yield doubt("returns_as_new", f"step_plans/{plan.id}/order_kind", says, order.number)
