"""Checks of receiving that dialogue and decision share: which order, which line, which lot, how much."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import date
from decimal import Decimal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Item, ItemUnit, Order, OrderKind, OrderLine, Tracking
from mindful_crate.core.catalog.ids import BinCode, CrewId, ItemCode, OrderNo, PlateNo
from mindful_crate.core.catalog.places import Bin, PlateNeed, ZonePurpose
from mindful_crate.core.floor.orders import Output
from mindful_crate.core.floor.plates import Plate, PlateLine
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Flow
from mindful_crate.core.rulebook.steps import DeliveryNote, Found, Over, StepPlan, goes_otherwise
from mindful_crate.core.rulebook.words.parts import ORDER_KINDS, ORDERS, any_of
from mindful_crate.core.work.unloading.standing import counted, off, standing

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


def check_kind(flow: Flow, order: Order) -> None:
    """Refuse an order of a kind that a flow does not take."""
    if not flow.is_for(order.kind):
        takes = any_of(ORDERS[k].lower() for k in flow.order_kinds)
        says = f"{flow.name} takes {takes} alone, and `{order.number}` is {ORDER_KINDS[order.kind]}."
        raise Refusal("kind_of_another_flow", says)


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
    if held and held.held_by(state.clock):
        return f"@{held.editor} has it open for editing in the office since {held.since:%H:%M} UTC"
    if held and held.output is Output.CLOSED:
        return "its production was closed, so no more of it is taken"
    order = state.order(number)
    if order and order.kind is OrderKind.TRANSFER and not order.shipped:
        return "the other site has not shipped it yet"
    return ""


def receivable_orders(state: State, item: ItemCode | None = None) -> list[Order]:
    """Confirmed orders of the site with something open, or those of them with this item; by promised date and number."""
    found = [
        o
        for o in state.all_orders()
        if o.site == state.settings.site
        and o.inbound
        and (item is None or any(x.item == item for x in o.lines))
        and state.is_confirmed(o.number)
        and not state.is_cancelled(o.number)
        and not order_hold(state, o.number)
        and state.lines_open(o)
    ]
    return sorted(found, key=lambda o: (o.promised, o.number))


def open_lines(
    rulebook: Rulebook, state: State, order: Order, item: ItemCode, no: int | None = None
) -> list[OrderLine]:
    """The lines of an order that still want this item, or the one line ``no``; where all of it is here and the plan takes more, the
    last. Refused with the reason when none does."""
    lines = [line for line in state.ordered.lines_of(order, item) if no in (None, line.no)]
    name = state.ground.items[item].name
    if not lines:
        elsewhere = [f"`{o.number}`" for o in receivable_orders(state, item)]
        hint = (
            f"It is on {any_of(elsewhere[:LISTED])}: scan that order first, or put it aside."
            if elsewhere
            else "No open order wants it: put it aside and tell the office."
        )
        raise Refusal("not_on_order", f"`{item}` {name} is not on `{order.number}`. {hint}")
    wanting = [line for line in state.ordered.lines_wanting(order, item) if no in (None, line.no)]
    if not wanting and more_taken(rulebook, state, order, item):
        return lines[-1:]
    if not wanting:
        closed = sum(state.line_progress(order.number, x.no).closed for x in lines)
        why = "is not waited for any more" if closed else "has arrived or is on a plate"
        raise Refusal("line_complete", f"All of `{item}` {name} on `{order.number}` {why}.")
    return wanting


def more_taken(rulebook: Rulebook, state: State, order: Order, item: ItemCode) -> int:
    """How much more of an item than was ordered would still be taken, in base units, over all receipts of its lines; nothing more on
    a line of which the rest is not waited for."""
    plan = rulebook.plan_for(rulebook.asked(state.ground, order, item))
    if plan is None or plan.receive.over is Over.REFUSE:
        return 0
    lines = [x for x in order.lines if x.item == item and not state.line_progress(order.number, x.no).closed]
    taken = sum(max(0, -state.open_quantity(order, x)) for x in lines)
    return max(0, sum(plan.receive.more.of(x.quantity) for x in lines) - taken)


def open_of_item(state: State, order: Order, item: ItemCode) -> int:
    """What the order still wants of an item, in base units."""
    return state.ordered.open_of_item(order, item)


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


def check_quantity(
    rulebook: Rulebook, state: State, order: Order, item: Item, quantity: int, still: int | None = None, on: str = ""
) -> int:
    """How much more this is than the order still wants, or of ``still``, which is open ``on`` several; refused when it is more than
    its plan takes."""
    still = open_of_item(state, order, item.code) if still is None else still
    over = quantity - still
    most = more_taken(rulebook, state, order, item.code) if over > 0 else 0
    if over > most:
        at_most = f", and at most {item.told(most)} more are taken" if most else ""
        raise Refusal(
            "more_than_ordered",
            f"{item.told(quantity)} are more than {f'{on} still want' if on else f'`{order.number}` still wants'}: {item.told(still)} of `{item.code}`{at_most}. "
            "Enter what belongs to the order and put the rest aside.",
        )
    return max(0, over)


def over_told(order: Order, item: Item, over: int) -> str:
    """What is said of more than was ordered."""
    return f"{item.told(over)} of {item.name} are more than `{order.number}` has ordered."


def wanting(rulebook: Rulebook, state: State, item: ItemCode, flow: Flow | None = None) -> list[Order]:
    """The orders that still want an item and may be received now, with this flow if one is named; the earliest promised first."""
    found = []
    for order in receivable_orders(state, item):
        if flow is not None and not flow.is_for(order.kind):
            continue
        if open_of_item(state, order, item):
            plan = rulebook.plan_for(rulebook.asked(state.ground, order, item))
            if plan is not None and plan.receive.on and not waits_for(state, order, plan, item):
                found.append(order)
    return found


def nobody_wants(item: Item) -> Refusal:
    """What is said when no order wants it."""
    return Refusal("not_on_order", f"No open order wants `{item.code}` {item.name}: put it aside and tell the office.")


def delivery_note(text: str) -> str:
    """The number of a delivery note, as it is kept; refused when it is none."""
    note = text.strip()
    if not 0 < len(note) <= 40 or not note.isprintable():
        raise Refusal("bad_note", "The number of a delivery note has 1 to 40 printable characters.", "note")
    return note


def check_note(plan: StepPlan, order: OrderNo, note: str) -> None:
    """Refuse goods without the number of their delivery note, where the plan must have it."""
    if plan.receive.note is DeliveryNote.REQUIRED and not note:
        says = f"Step plan {plan.name} wants the number of the delivery note of `{order}`. Scan or type it first."
        raise Refusal("no_delivery_note", says, "note")


def all_here(state: State, order: Order, but: Iterable[PlateLine] = ()) -> bool:
    """Is nothing of an order open, or on a plate that is still being built, ``but`` these lines of one?"""
    mine: dict[int, int] = {}
    for line in but:
        if line.order == order.number:
            mine[line.order_line] = mine.get(line.order_line, 0) + line.quantity
    return all(
        state.open_quantity(order, x) <= 0 and state.line_progress(order.number, x.no).noted == mine.get(x.no, 0)
        for x in order.lines
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
    if item.lots and not lot:
        raise Refusal("lot_missing", f"`{item.code}` {item.name} is kept by lot: the lot number is missing.")
    if item.tracking is Tracking.LOT_EXPIRY and expiry is None:
        raise Refusal("expiry_missing", f"`{item.code}` {item.name} is kept by expiry: the date is missing.")


def plan_of(rulebook: Rulebook, state: State, order: Order, item: ItemCode | None = None) -> StepPlan:
    """The step plan that receives an item of an order, or, without an item, any line of it that is open; refused when there is
    none, or it waits to be announced."""
    plan = next((p for p in _plans(rulebook, state, order, item) if p.receive.on), None)
    if plan is None:
        kind = ORDERS[order.kind].lower()
        what = f"`{item}` of `{order.number}`" if item else f"`{order.number}`"
        raise Refusal("no_plan", f"No step plan receives {what}: Steps has none for such {kind}.")
    if waits := waits_for_notice(state, order, plan, item):
        raise Refusal("not_announced_yet", waits)
    if waits := waits_at_door(state, order, plan):
        raise Refusal("not_unloaded", waits)
    return plan


def plan_of_line(rulebook: Rulebook, state: State, line: PlateLine) -> StepPlan:
    """The step plan of goods that were noted; refused when there is none any more."""
    order = known_order(state, line.order)
    found = rulebook.plan_for(rulebook.asked(state.ground, order, line.item))
    if found is None:
        raise Refusal("no_plan", f"No step plan receives `{line.item}` of `{order.number}` any more: Steps has none.")
    return found


def check_goes_along(rulebook: Rulebook, state: State, plate: Plate, order: Order, plan: StepPlan) -> None:
    """Refuse goods that go another way than what is on a plate already: in the next step, or in when the host is told."""
    for other in plate.lines[:1]:
        theirs, site = plan_of_line(rulebook, state, other), state.settings.site
        if goes_otherwise(theirs, plan) or rulebook.booking_of(theirs, site) is not rulebook.booking_of(plan, site):
            raise Refusal(
                "other_plan",
                f"{plate_word(plate)} goes by step plan {theirs.name}, `{order.number}` by {plan.name}, and they "
                "differ in the next step or the booking. Finish this one and begin another.",
            )


def check_crew(crew: CrewId | None, rulebook: Rulebook, mine: tuple[CrewId, ...], does: str) -> None:
    """Refuse people of other crews, where a step is one crew's."""
    if crew is not None and crew not in mine:
        name = next((c.name for c in rulebook.crews if c.id == crew), crew)
        raise Refusal("other_crew", f"{name} {does}, and you are not in it.")


def request_at(state: State, order: Order, goods: Goods, plan: StepPlan, today: date) -> BinRequest:
    """Into which bin are these goods of an order received?"""
    return BinRequest(
        order.site, BinPurpose.RECEIVE_INTO, (goods,), order_kind=order.kind, partners=(order.partner,), today=today,
        at=plan.receive.into,
    )  # fmt: skip


def check_into(state: State, code: BinCode, plan: StepPlan, loose: bool) -> Bin:
    """The bin that somebody receives into; refused when it is none here, not where the plan receives, or takes these goods not so."""
    each = state.ground.bins.get(code)
    if each is None:
        raise Refusal("unknown_bin", f"There is no bin `{code}`.")
    if state.ground.site_of(code) != state.settings.site:
        raise Refusal("other_site", f"Bin `{code}` belongs to another site.")
    if why := state.blocked(code):
        raise Refusal("bin_blocked", f"`{code}` is blocked: {why}.")
    into, zone = plan.receive.into, state.ground.zones[each.zone]
    if isinstance(into, Found) and into.zone is not None and each.zone != into.zone:
        raise Refusal(
            "not_there",
            f"Step plan {plan.name} receives in {state.ground.zones[into.zone].name}; `{code}` is in {zone.name}.",
        )
    if not isinstance(into, Found) and code != into and zone.purpose not in PASSED_THROUGH:
        says = f"`{code}` is in {zone.name}, where nothing is received: scan a receiving lane, a dock or a door."
        raise Refusal("no_receiving_place", says)
    need = state.ground.bin_types[each.bin_type].plates
    if need is PlateNeed.NONE and not loose:
        raise Refusal("takes_no_plate", f"`{code}` takes no plates: receive with a flow that builds none.")
    if need is PlateNeed.REQUIRED and loose:
        raise Refusal("needs_plate", f"`{code}` takes goods on plates only.")
    return each


PASSED_THROUGH = frozenset({ZonePurpose.DOCK, ZonePurpose.DOOR, ZonePurpose.RECEIVING, ZonePurpose.RETURNS})
"""Purposes of zones that goods are received in."""


def plans_of(rulebook: Rulebook, state: State, order: Order, item: ItemCode | None) -> list[StepPlan]:
    """The plans of its open lines, each once, or that of an item."""
    if item is not None:
        found = rulebook.plan_for(rulebook.asked(state.ground, order, item))
        return [found] if found else []
    return list({p.id: p for p in _plans(rulebook, state, order, None)}.values())


def _plans(rulebook: Rulebook, state: State, order: Order, item: ItemCode | None) -> Iterator[StepPlan]:
    """The plan of an item, or of each item of which something is open, one after another: the first often is enough."""
    for code in state.ordered.open_items(order) if item is None else (item,):
        found = rulebook.plan_for(rulebook.asked(state.ground, order, code))
        if found is not None:
            yield found


def planned(rulebook: Rulebook, state: State, order: Order) -> StepPlan | None:
    """The first plan that receives anything open of an order; None when none does."""
    return next((p for p in _plans(rulebook, state, order, None) if p.receive.on), None)


def waits_for_notice(state: State, order: Order, plan: StepPlan, item: ItemCode | None = None) -> str:
    """Why an order, or an item of it, is not received before it is announced; empty when it may be."""
    if not plan.announce.on and not order.notice_needed:
        return ""
    lines = {x.no for x in order.lines if item in (None, x.item)}
    if any(x.order_line in lines for p in state.announced_of(order.number) for x in p.lines):
        return ""
    what = f"`{item}` of `{order.number}`" if item else f"`{order.number}`"
    why = f"step plan {plan.name} receives what is announced" if plan.announce.on else "the order asks for a notice"
    return f"{what} waits for its notice: {why}, and none says that it comes. Its notices are under Host."


def waits_at_door(state: State, order: Order, plan: StepPlan) -> str:
    """Why an order is not received before something of it is unloaded; empty when it may be."""
    if not plan.unload.on or standing(state, order.number):
        return ""
    before = any(not u.undone for u in state.unloadings.of_order(order.number))
    why = "all that was unloaded of it has been received" if before else "nothing of it was yet"
    return f"`{order.number}` waits to be unloaded: step plan {plan.name} receives what was, and {why}."


def check_off(state: State, order: Order, plan: StepPlan, plate: PlateNo) -> None:
    """Refuse an announced plate that was not unloaded, where its plan unloads; what was only counted may be any of them."""
    if plan.unload.on and off(state, plate) is None and not counted(state, order.number):
        says = f"Plate `{plate}` of `{order.number}` was not unloaded yet: unload it first."
        raise Refusal("not_unloaded", says)


def waits_for(state: State, order: Order, plan: StepPlan, item: ItemCode | None = None) -> str:
    """Why an order, or an item of it, is not received yet: it waits to be announced, or to be unloaded; empty when it may be."""
    return waits_for_notice(state, order, plan, item) or waits_at_door(state, order, plan)


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
    items, much = state.ground.items, dict[ItemCode, int]()
    for each in plate.goods or plate.lines:  # of several lots or orders it is one item all the same
        much[each.item] = much.get(each.item, 0) + each.quantity
    texts = [f"{items[code].told(quantity)} {items[code].name}" for code, quantity in much.items()]
    more = len(texts) - LISTED
    return ", ".join(texts[:LISTED]) + (f" and {more} more" if more > 0 else "")
