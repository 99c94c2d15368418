"""One order's journey: which step plan applies, why the others do not, and what will happen to its goods."""

from __future__ import annotations

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import PlanId, SiteCode
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose, PlateBy
from mindful_crate.core.rulebook.steps import BookingPoint, Need, StepPlan
from mindful_crate.core.rulebook.words.parts import ORDER_KINDS, ORDERS, any_of


@record
class PlanLook:
    """One plan looked at: does it apply, and why or why not."""

    plan: PlanId
    name: str
    applies: bool
    says: str


@record
class Journey:
    """The plans in the order they were looked at, and the stations the goods pass; none if no plan applies."""

    plans: tuple[PlanLook, ...]
    stations: tuple[str, ...]


def journey(rulebook: Rulebook, order: Order) -> Journey:
    """What the rulebook does with an order."""
    chosen = rulebook.plan_for(order.site, order.kind)
    looks = tuple(PlanLook(p.id, p.name, p is chosen, _why(p, chosen, order)) for p in rulebook.step_plans)
    return Journey(looks, _stations(rulebook, chosen, order) if chosen and chosen.receive.on else ())


def _why(plan: StepPlan, chosen: StepPlan | None, order: Order) -> str:
    if plan.site not in (None, order.site):
        return f"it is for site `{plan.site}`"
    if plan.order_kind not in (None, order.kind):
        assert plan.order_kind is not None
        return f"it is for {ORDERS[plan.order_kind].lower()}; this is {ORDER_KINDS[order.kind]}"
    if plan is chosen:
        return f"it is for {ORDERS[plan.order_kind].lower()}" if plan.order_kind else "it is for all orders"
    return f"{chosen.name} stands before it: it is nearer to this order" if chosen else "another stands before it"


def _how(rulebook: Rulebook, site: SiteCode) -> str:
    """Onto plates or loose, by the flows on the menus."""
    flows = [f for m in rulebook.menus for f in rulebook.menu_for(site, (m.crew,)) if f.purpose is FlowPurpose.RECEIVE]
    return "loose into" if flows and all(f.plate_by is PlateBy.NONE for f in flows) else "onto a plate in"


def _stations(rulebook: Rulebook, plan: StepPlan, order: Order) -> tuple[str, ...]:
    crews = {c.id: c.name for c in rulebook.crews}

    def by(purpose: FlowPurpose) -> str:
        flows = [
            f"{f.name} ({crews.get(m.crew, m.crew)})"
            for m in rulebook.menus
            for f in rulebook.menu_for(order.site, (m.crew,))
            if f.purpose is purpose
        ]
        return any_of(flows) if flows else "no flow: nobody can do this"

    booking = rulebook.booking_of(plan, order.site)
    told = " The host is told."
    stations = [
        "Confirmed in the host, the order reaches the handset.",
        f"Received {_how(rulebook, order.site)} `{plan.receive.into}`, with {by(FlowPurpose.RECEIVE)}."
        + (told if booking is BookingPoint.PLATE_FINISHED else ""),
    ]
    if plan.put_away.on:
        recipe = rulebook.recipe_for(order.site, Need.PUT_AWAY)
        crew = crews.get(recipe.crew, recipe.crew) if recipe else "nobody"
        stations.append(
            f"Put away by {crew}, with {by(FlowPurpose.PUT_AWAY)}, to the bin the rules choose."
            + (told if booking is BookingPoint.PUT_AWAY else "")
        )
    else:
        stations.append(f"There is no put-away: the goods stay in `{plan.receive.into}`.")
    if booking is BookingPoint.BY_HAND:
        stations.append("Arrived but not booked, until the office tells the host.")
    return tuple(stations)
