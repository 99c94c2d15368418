"""Is it accepted? By the first rule that is for the goods, what was shipped to whoever sends them, and what came back since."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta

from mindful_crate.core.catalog.goods import Item, Order, OrderKind
from mindful_crate.core.catalog.ids import ItemCode, OrderNo, PartnerCode, PlateNo, ShipmentNo
from mindful_crate.core.floor.shipments import Departure, Parcel
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.returns import Accepts, Otherwise, ReturnRule


@record
class Judged:
    """What is said of goods that come back: ``becomes`` what happens to them, by which rule (its number, 0: none), why, and the last shipment in which the
    customer got some."""

    becomes: Otherwise
    number: int
    says: str
    last: ShipmentNo | None = None
    day: date | None = None
    """When that left."""
    may: int | None = None
    """So many may come back in all, in base units; None: however many."""


def rule_for(state: State, rulebook: Rulebook, item: Item, partner: PartnerCode) -> tuple[int, ReturnRule | None]:
    """The first rule that is for goods from somebody, with its number; 0 and None: none is."""
    group = state.ground.partners[partner].group if partner in state.ground.partners else ""
    for n, rule in enumerate(rulebook.returns_at(state.settings.site), start=1):
        if (
            (not rule.items or item.code in rule.items)
            and (not rule.groups or item.group in rule.groups)
            and (not rule.partners or partner in rule.partners)
            and (not rule.partner_groups or group in rule.partner_groups)
            and rule.stranger in (None, partner)
        ):
            return n, rule
    return 0, None


def not_accepted(
    state: State, rulebook: Rulebook, partner: PartnerCode, item: Item, judged: Judged, place: str = ""
) -> Refusal:
    """What is said of goods that are refused, by the rule that refuses them."""
    rule = rule_for(state, rulebook, item, partner)[1]
    return Refusal("not_accepted", judged.says, place, f"return_rules/{rule.id}" if rule else "")


def shipped(state: State, partner: PartnerCode, item: ItemCode) -> Iterator[tuple[Departure, Parcel]]:
    """What left to a customer of an item, the latest shipment first."""
    for left in state.departures.with_item(item):
        if state.shipments[left.shipment].leaves.partner == partner:
            for parcel in left.parcels:
                if parcel.goods.item == item:
                    yield left, parcel


def judge(
    state: State, rulebook: Rulebook, partner: PartnerCode, item: Item, quantity: int, today: date, already: int = 0
) -> Judged:  # fmt: skip
    """What becomes of so much of an item from a customer; ``already``: so much of it was scanned just now."""
    number, rule = rule_for(state, rulebook, item, partner)
    name = state.ground.partners[partner].name
    if rule is None:
        return Judged(Otherwise.REFUSE, 0, f"No rule accepts {item.name} from {name}.")
    all_of_it = list(shipped(state, partner, item.code))
    last = all_of_it[0][0] if all_of_it else None
    of, day = (last.shipment, last.day) if last else (None, None)
    if rule.accepts is Accepts.NEVER:
        return Judged(rule.outside, number, f"By rule {number} {item.name} is never accepted from {name}.", of, day)
    if last is None:
        return Judged(rule.never_shipped, number, f"No {item.name} was ever shipped to {name}.", of, day)
    since = today - timedelta(days=rule.days)
    in_time = [(d, p) for d, p in all_of_it if rule.accepts is Accepts.ALWAYS or (d.day is not None and d.day >= since)]
    told = f"the last shipment was `{last.shipment}`" + (f" on {last.day:%d %B %Y}" if last.day else "")
    if not in_time:
        ago = (today - last.day).days if last.day else 0
        says = f"{item.name} is accepted from {name} within {rule.days} days; {told}, {ago} days ago."
        return Judged(rule.outside, number, says, of, day)
    much = sum(p.goods.quantity for _, p in in_time)
    back = sum(
        m.quantity
        for m in state.returned.sent_back(partner, item.code)
        if rule.accepts is Accepts.ALWAYS or m.day >= since
    )
    may = max(0, much - back)
    if quantity + already > may:
        are = "is" if quantity + already == 1 else "are"
        came = f", {item.told(back)} came back since" if back else ""
        says = f"{item.told(much)} of {item.name} were shipped to {name}{came}: {item.told(quantity + already)} {are} more; {told}."
        return Judged(rule.never_shipped, number, says, of, day, may)
    return Judged(Otherwise.ACCEPT, number, f"By rule {number}: {told}.", of, day, may)


def had_pieces(state: State, partner: PartnerCode, item: ItemCode) -> set[str]:
    """The numbers of the pieces a customer got."""
    return {n for _, p in shipped(state, partner, item) for n in p.serials}


def announced(state: State, partner: PartnerCode, item: ItemCode | None = None) -> list[Order]:
    """Announced returns of a customer of which something is open, of an item or at all."""
    found = []
    for order in state.all_orders():
        if (
            order.kind is OrderKind.CUSTOMER_RETURN and order.partner == partner and order.site == state.settings.site
            and state.is_confirmed(order.number) and not state.is_cancelled(order.number)
            and any(item in (None, x.item) and state.open_quantity(order, x) > 0 for x in order.lines)
        ):  # fmt: skip
            found.append(order)
    return found


def customer_of(state: State, code: str) -> tuple[PartnerCode, OrderNo | None] | None:
    """The customer a code leads to: its number, an order of its, a shipment that left, or the label of a carton that did; with the number of the return, where
    it was announced."""
    partner = PartnerCode(code)
    if partner in state.ground.partners:
        return partner, None
    order = state.order(OrderNo(code))
    if order is not None:
        mine = order.kind is OrderKind.CUSTOMER_RETURN
        return (order.partner, order.number if mine else None) if mine or not order.inbound else None
    left = state.departures.get(ShipmentNo(code)) or state.departures.with_bearer(PlateNo(code))
    return (state.shipments[left.shipment].leaves.partner, None) if left else None
