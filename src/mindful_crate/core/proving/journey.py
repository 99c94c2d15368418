"""One order's journey: which step plan applies, why the others do not, and what will happen to its goods."""

from __future__ import annotations

from datetime import date

from mindful_crate.core.catalog.beginnings import partner_to_try
from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine
from mindful_crate.core.catalog.ids import ItemCode, OrderNo, PartnerCode, PlanId, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose, PlateBy
from mindful_crate.core.rulebook.steps import Asked, Begins, BookingPoint, Need, Only, StepPlan, rank
from mindful_crate.core.rulebook.words.parts import ORDER_KINDS, ORDERS, Names, any_of
from mindful_crate.core.rulebook.words.steps import (
    BEGINS,
    BOOKING,
    ONLY_TITLES,
    every_told,
    only_told,
    place_told,
    sample_told,
    scope_told,
)


@record
class PlanLook:
    """One plan looked at: does it apply, and why or why not."""

    plan: PlanId
    name: str
    applies: bool
    says: str


@record
class LineGoes:
    """Lines of an order that go by one plan; empty when none receives them."""

    lines: tuple[int, ...]
    item: str
    plan: str


@record
class Journey:
    """The plans in the order they were looked at, by rank, for the goods of one line; the stations those pass, none if no plan
    applies; and by which plan each line goes."""

    line: int
    plans: tuple[PlanLook, ...]
    stations: tuple[str, ...]
    lines: tuple[LineGoes, ...] = ()


def journey(rulebook: Rulebook, ground: Ground, order: Order, line: int = 0) -> Journey:
    """What the rulebook does with a line of an order; with the first when none of that number is there."""
    at = next((x for x in order.lines if x.no == line), order.lines[0])
    asked, names = rulebook.asked(ground, order, at.item), Names(ground, rulebook.order_classes)
    chosen = rulebook.plan_for(asked)
    ranked = sorted(rulebook.step_plans, key=rank)
    looks = tuple(PlanLook(p.id, p.name, p is chosen, _why(p, chosen, asked, names)) for p in ranked)
    stations = _stations(rulebook, chosen, order, names) if chosen and chosen.receive.on else ()
    return Journey(at.no, looks, stations, _lines(rulebook, ground, order))


SUPPOSED = OrderNo("such an order")
"""How an order is called that nobody wrote."""


def supposed_order(
    ground: Ground, site: SiteCode, kind: OrderKind, item: ItemCode, quantity: int, partner: str, day: date
) -> Order:
    """An order for some of an item, as if somebody had written it; refused when there is no such item, partner or quantity. Without
    a partner it is with one that suits."""
    known = ground.items.get(item)
    if known is None:
        raise Refusal("unknown_item", f"There is no item `{item}`.", "item")
    if quantity <= 0:
        raise Refusal("not_above_zero", "The quantity must be above zero.", "quantity")
    with_ = ground.partners.get(PartnerCode(partner)) if partner else None
    if partner and with_ is None:
        raise Refusal("unknown_partner", f"There is no partner `{partner}`.", "partner")
    with_ = with_ or partner_to_try(ground.partners.values(), ground.orders.values(), kind)
    if with_ is None:
        raise Refusal("no_partner", "There is nobody to order from yet: make a partner in the catalogue.", "partner")
    line = OrderLine(1, known.code, known.base.code, quantity)
    return Order(SUPPOSED, kind, site, with_.code, day, (line,), shipped=kind is OrderKind.TRANSFER)


def _lines(rulebook: Rulebook, ground: Ground, order: Order) -> tuple[LineGoes, ...]:
    found: dict[str, tuple[list[int], str]] = {}
    for line in order.lines:
        plan = rulebook.plan_for(rulebook.asked(ground, order, line.item))
        found.setdefault(plan.name if plan else "", ([], line.item))[0].append(line.no)
    return tuple(LineGoes(tuple(numbers), item, plan) for plan, (numbers, item) in found.items())


def _why(plan: StepPlan, chosen: StepPlan | None, asked: Asked, names: Names) -> str:
    if not plan.on:
        return "it is switched off"
    if plan.site not in (None, asked.site):
        return f"it is for site `{plan.site}`"
    if plan.order_kind not in (None, asked.kind):
        assert plan.order_kind is not None
        return f"it is for {ORDERS[plan.order_kind].lower()}; this is {ORDER_KINDS[asked.kind]}"
    for name in plan.only.named:
        if getattr(plan.only, name) != getattr(asked, name):
            theirs = only_told(Only(**{name: getattr(asked, name) or None}), names) or "none"
            return f"it is only for {ONLY_TITLES[name]}: {only_told(plan.only, names)}; here it is {theirs}"
    if plan is chosen:
        return f"it is for {scope_told(plan, names)}"
    return f"{chosen.name} stands before it: it is nearer to these goods" if chosen else "another stands before it"


def _how(rulebook: Rulebook, site: SiteCode) -> str:
    """Onto plates or loose, by the flows on the menus."""
    flows = rulebook.shown_flows(site, FlowPurpose.RECEIVE)
    return "loose into" if flows and all(f.plate_by is PlateBy.NONE for f in flows) else "onto a plate in"


def _stations(rulebook: Rulebook, plan: StepPlan, order: Order, names: Names) -> tuple[str, ...]:
    crews = {c.id: c.name for c in rulebook.crews}

    def by(purpose: FlowPurpose) -> str:
        flows = [f"{f.name} ({crews.get(c, c)})" for c, f in rulebook.seen_by(order.site, purpose)]
        return any_of(flows) if flows else "no flow: nobody can do this"

    booking = rulebook.booking_of(plan, order.site)
    told = " The host is told."
    into = place_told(plan.receive.into, names)
    notice = ", once a notice announced its goods" if plan.announce.on or order.notice_needed else ""
    stations = [f"Confirmed in the host, the order reaches the handset{notice}."]
    if plan.unload.on:
        stations.append(
            f"Unloaded at {place_told(plan.unload.at, names)}, with {by(FlowPurpose.UNLOAD)}: counted there, no stock yet."
        )
    stations.append(
        f"Received {_how(rulebook, order.site)} {into}, with {by(FlowPurpose.RECEIVE)}."
        + (told if booking in (BookingPoint.PLATE_FINISHED, BookingPoint.LINE_CONFIRMED) else "")
    )
    if plan.inspect.on:
        step = plan.inspect
        stations.append(
            f"Inspected at {place_told(step.at, names)}, {every_told(step.every)}, {sample_told(step.sample)}, "
            f"with {by(FlowPurpose.INSPECT)}. What passes goes on, what fails is held."
        )
    if plan.put_away.on and plan.put_away.begins is not Begins.ON_ARRIVAL:
        stations.append(f"Put-away begins {BEGINS[plan.put_away.begins]}.")
    if plan.put_away.on:
        recipes = [r for r in rulebook.recipes_for(order.site, Need.PUT_AWAY) if r.on]
        crew = any_of(dict.fromkeys(crews.get(r.crew, r.crew) for r in recipes)) if recipes else "nobody"
        stations.append(
            f"Put away by {crew}, with {by(FlowPurpose.PUT_AWAY)}, to {place_told(plan.put_away.at, names)}."
            + (told if booking is BookingPoint.PUT_AWAY else "")
        )
    else:
        stations.append(f"There is no put-away: the goods stay in {into}.")
    if booking in (BookingPoint.LINES_DONE, BookingPoint.LINES_ASKED):
        stations.append(f"The host is told {BOOKING[booking]}.")
    if booking is BookingPoint.BY_HAND:
        stations.append("Arrived but not booked, until the office tells the host.")
    return tuple(stations)
