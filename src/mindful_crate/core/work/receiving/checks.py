"""Checks of receiving that dialogue and decision share: which order, which line, which lot, how much."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date
from decimal import Decimal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Item, ItemUnit, Order, OrderKind, OrderLine, Tracking
from mindful_crate.core.catalog.ids import ItemCode, OrderNo, PlateNo, SiteCode
from mindful_crate.core.floor.plates import Plate
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import StepPlan
from mindful_crate.core.rulebook.words.parts import any_of

LISTED = 5
"""How many lines, orders and the like a sentence names before it says how many more there are."""


def order_for_receipt(state: State, number: OrderNo) -> Order:
    """The order if it may be received here now; a refusal that says why it is not on the handset if not."""
    order = state.order(number)
    if order is None:
        raise Refusal("unknown_order", f"There is no order `{number}`.")
    if not order.inbound:
        raise Refusal("other_kind", f"`{number}` is a {order.kind.value.replace('_', ' ')} order: its goods go out.")
    if order.site != state.settings.site:
        raise Refusal("other_site", f"`{number}` is for site `{order.site}`, not for this one.")
    check_free(state, order)
    if not state.lines_open(order):
        raise Refusal("order_complete", f"Nothing of `{number}` is open: all of it has arrived or is on a plate.")
    return order


def check_free(state: State, order: Order) -> None:
    """Refuse what the floor may not work on now: not confirmed, cancelled, or held by somebody."""
    number = order.number
    if not state.is_confirmed(number):
        raise Refusal(
            "not_confirmed",
            f"`{number}` is not confirmed, so it is not on the handset. Its buyer confirms it in the host.",
        )
    if state.is_cancelled(number):
        raise Refusal("order_cancelled", f"`{number}` was cancelled: put its goods aside and tell the office.")
    hold = order_hold(state, number)
    if hold:
        raise Refusal("order_held", f"`{number}` cannot be received: {hold}.")


def known_order(state: State, number: OrderNo) -> Order:
    """An order that is there."""
    order = state.order(number)
    assert order is not None, number
    return order


def order_hold(state: State, number: OrderNo) -> str:
    """Why the floor may not work on an order that it knows, in words; empty when it may."""
    held = state.host_orders.get(number)
    if held and held.editor:
        return f"@{held.editor} has it open for editing in the office since {held.since:%H:%M} UTC"
    order = state.order(number)
    if order and order.kind is OrderKind.TRANSFER and not order.shipped:
        return "the other site has not shipped it yet"
    return ""


def receivable_orders(state: State) -> list[Order]:
    """Confirmed orders of the site with something open, by promised date and number."""
    found = [
        o
        for o in state.all_orders()
        if o.site == state.settings.site
        and o.inbound
        and state.is_confirmed(o.number)
        and not state.is_cancelled(o.number)
        and not order_hold(state, o.number)
        and state.lines_open(o)
    ]
    return sorted(found, key=lambda o: (o.promised, o.number))


def open_lines(state: State, order: Order, item: ItemCode) -> list[OrderLine]:
    """The lines of an order that still want this item; refused with the reason when none does."""
    lines = [line for line in order.lines if line.item == item]
    name = state.ground.items[item].name
    if not lines:
        elsewhere = [f"`{o.number}`" for o in receivable_orders(state) if any(x.item == item for x in o.lines)]
        hint = (
            f"It is on {any_of(elsewhere[:LISTED])}: scan that order first, or put it aside."
            if elsewhere
            else "No open order wants it: put it aside and tell the office."
        )
        raise Refusal("not_on_order", f"`{item}` {name} is not on `{order.number}`. {hint}")
    wanting = [line for line in lines if state.open_quantity(order, line) > 0]
    if not wanting:
        raise Refusal("line_complete", f"All of `{item}` {name} on `{order.number}` has arrived or is on a plate.")
    return wanting


def open_of_item(state: State, order: Order, item: ItemCode) -> int:
    """What the order still wants of an item, in base units."""
    return sum(max(0, state.open_quantity(order, line)) for line in order.lines if line.item == item)


def whole_quantity(item: Item, unit: ItemUnit, count: Decimal) -> int:
    """A count of units as base units; refused unless it is above zero and whole."""
    if count <= 0:
        raise Refusal("not_above_zero", "The quantity must be above zero. Nothing came? Step back instead.")
    quantity = count * unit.quantity
    if quantity != quantity.to_integral_value():
        raise Refusal(
            "fraction",
            f"{plain_number(count)} {unit.plural} are {plain_number(quantity)} {item.base.plural}; "
            f"{item.base.plural} cannot be split. Enter a whole number of {item.base.plural}.",
        )
    return int(quantity)


def plain_number(number: Decimal) -> str:
    """A number without trailing zeros or exponent."""
    text = format(number, "f")
    return text.rstrip("0").rstrip(".") if "." in text else text


def check_quantity(state: State, order: Order, item: Item, quantity: int) -> None:
    """Refuse more than the order still wants."""
    still = open_of_item(state, order, item.code)
    if quantity > still:
        raise Refusal(
            "more_than_ordered",
            f"{item.told(quantity)} are more than `{order.number}` still wants: {item.told(still)} of `{item.code}`. "
            "Enter what belongs to the order and put the rest aside.",
        )


def check_expiry(expiry: date, today: date) -> None:
    """Refuse goods that have expired on arrival."""
    if expiry < today:
        raise Refusal(
            "expired",
            f"These goods expired on {expiry.isoformat()}. They cannot be received: put them aside and tell the office.",
        )


def check_lot(state: State, item: Item, lot: str, expiry: date | None) -> None:
    """Refuse a lot that is known with another expiry date."""
    known = state.lot_expiry(item.code, lot)
    if known is not None and expiry is not None and known != expiry:
        raise Refusal(
            "other_expiry",
            f"Lot `{lot}` of `{item.code}` is known with expiry {known.isoformat()}, not {expiry.isoformat()}. "
            "Look at the label again; step back to change the date.",
        )


def check_tracking(item: Item, lot: str, expiry: date | None) -> None:
    """Refuse goods without the lot or date their item is tracked by."""
    if item.tracking is not Tracking.NONE and not lot:
        raise Refusal("lot_missing", f"`{item.code}` {item.name} is kept by lot: the lot number is missing.")
    if item.tracking is Tracking.LOT_EXPIRY and expiry is None:
        raise Refusal("expiry_missing", f"`{item.code}` {item.name} is kept by expiry: the date is missing.")


def plan_of(rulebook: Rulebook, site: SiteCode, order: Order) -> StepPlan:
    """The step plan of an order, if there is one that receives."""
    plan = rulebook.plan_for(site, order.kind)
    if plan is None or not plan.receive.on:
        raise Refusal(
            "no_plan", f"No step plan receives `{order.number}`: Steps has none for {order.kind.value} orders."
        )
    return plan


def building_plate(state: State, number: PlateNo) -> Plate:
    """A plate that is being built; refused with what became of it otherwise."""
    plate = state.plate(number)
    if plate is None:
        raise Refusal("unknown_plate", f"There is no license plate `{number}`.")
    if plate.building:
        return plate
    if plate.finished_at is None:
        raise Refusal(
            "plate_used", f"License plate `{number}` is in use: it stands in `{plate.bin}`. Take another label."
        )
    where = f" on handset `{plate.finished_on}`" if plate.finished_on else " in the office"
    if plate.into:
        raise Refusal(
            "plate_finished", f"Receipt `{number}` was finished by @{plate.by}{where} at {plate.finished_at:%H:%M} UTC."
        )
    raise Refusal(
        "plate_finished",
        f"License plate `{number}` was finished by @{plate.by}{where} at {plate.finished_at:%H:%M} UTC; "
        "it cannot be changed any more. Take another label.",
    )


def plate_word(plate: Plate) -> str:
    """``Plate `LP-000143``` or, of goods received loose, ``Receipt `RC-0093```."""
    return f"Receipt `{plate.number}`" if plate.into else f"Plate `{plate.number}`"


def goods_text(state: State, goods: Iterable[Goods]) -> str:
    """Goods in a few words."""
    items = state.ground.items
    return ", ".join(
        f"{items[g.item].told(g.quantity)} {items[g.item].name}" + (f", lot {g.lot}" if g.lot else "") for g in goods
    )


def plate_text(state: State, plate: Plate) -> str:
    """What is on a plate in a few words."""
    items = state.ground.items
    texts = [f"{items[g.item].told(g.quantity)} {items[g.item].name}" for g in (plate.goods or plate.lines)]
    more = len(texts) - LISTED
    return ", ".join(texts[:LISTED]) + (f" and {more} more" if more > 0 else "")
