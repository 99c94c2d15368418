"""The scan tray: everything worth scanning now, right ones and instructive wrong ones.

Whether a code is right is not claimed here: each is put to ``decide`` as a dry run, and its answer is shown.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import timedelta
from itertools import islice
from typing import Literal

from mindful_crate.core.catalog.goods import Item, Tracking
from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.catalog.places import STORAGE
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.explain import explain
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks
from mindful_crate.core.scanning.dialogue import ask, current
from mindful_crate.core.scanning.kinds import Context
from mindful_crate.core.scanning.reading import COUNT, EXPIRY, GTIN, LOT, How, Scan
from mindful_crate.core.scanning.registry import KINDS
from mindful_crate.core.work.handset.decide import context
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.decide import decide

Symbol = Literal["code128", "gs1datamatrix", "typed"]


@record
class TrayCode:
    """Something that can be scanned, and what would come of it."""

    label: str
    text: str
    how: How
    symbol: Symbol
    taken: bool
    says: str


MOST = 8


def tray(state: State, rulebook: Rulebook, stamp: acts.Stamp, dialogue: Dialogue) -> tuple[TrayCode, ...]:
    """Codes for the question a dialogue asks now, accepted ones first."""
    flow = rulebook.flow(dialogue.flow)
    if flow is None or dialogue.doubt:
        return ()
    ctx = context(state, rulebook, stamp, flow)
    prompt = current(ctx, dialogue.slots)
    if prompt is None:
        return ()
    found: dict[str, TrayCode] = {}
    for label, scan, symbol in _CODES[prompt.asks](ctx, dialogue):
        if scan.text in found:
            continue
        outcome = decide(state, rulebook, acts.Command(stamp, acts.Answer(dialogue.number, scan))).outcome
        taken = isinstance(outcome, ev.Done)
        says = outcome.says if isinstance(outcome, ev.Done) else outcome.problem.says
        found[scan.text] = TrayCode(label, scan.text, scan.how, symbol, taken, says)
    listed = sorted(found.values(), key=lambda c: not c.taken)
    taken_ones = [c for c in listed if c.taken][: MOST // 2 + 1]
    return (*taken_ones, *[c for c in listed if not c.taken][: MOST - len(taken_ones)])


Codes = Iterator[tuple[str, Scan, Symbol]]


def _plain(label: str, text: str) -> tuple[str, Scan, Symbol]:
    return label, Scan(text), "code128"


def _typed(label: str, text: str) -> tuple[str, Scan, Symbol]:
    return label, Scan(text, How.TYPED), "typed"


def _orders(ctx: Context, _: Dialogue) -> Codes:
    open_ = receiving.receivable_orders(ctx.state)
    # an order somebody has just confirmed here is the one they mean to receive
    for order in sorted(open_, key=lambda o: not ctx.state.confirmed.get(o.number, False))[:3]:
        yield _plain(f"order {order.number}", order.number)
    site = ctx.state.settings.site
    for plate in islice((p for o in open_ for p in ctx.state.announced_of(o.number)), 2):
        yield _plain(f"announced plate {plate.number}", plate.number)
    waiting = [o for o in ctx.state.all_orders() if o.site == site and not ctx.state.is_confirmed(o.number)]
    for order in waiting[:1]:
        yield _plain(f"order {order.number}, not confirmed", order.number)
    yield from _any_bin(ctx)
    yield _plain("a code nobody knows", "X-0000")


def _here(ctx: Context, item: Item) -> bool:
    """Does any of an item lie at this site?"""
    site = ctx.state.settings.site
    return any(ctx.ground.site_of(x.bin) == site for x in ctx.state.lines(item.code))


def _any_bin(ctx: Context) -> Codes:
    here = (b for b in ctx.ground.bins.values() if ctx.ground.site_of(b.code) == ctx.state.settings.site)
    for each in [*islice(here, 41)][-1:]:
        yield _plain(f"bin {each.code}", each.code)


def _plates(ctx: Context, _: Dialogue) -> Codes:
    for plate in islice(ctx.state.building(), 2):
        yield _plain(f"plate {plate.number}, being built", plate.number)
    yield _plain("a fresh plate label", ctx.state.number("plate")[0])
    for number in _stored_plates(ctx, 1):
        yield _plain(f"plate {number}, in use", number)
    yield from _any_bin(ctx)


def _item_code(ctx: Context, item: Item, unit_code: str) -> Codes:
    barcode = next((b for b in ctx.ground.barcodes_of.get(item.code, ()) if b.unit == unit_code), None)
    if barcode is None:
        return
    unit = item.unit(barcode.unit)
    yield _plain(f"{item.name}, {unit.name}", barcode.code)
    if item.tracking is not Tracking.NONE:
        expiry = ctx.today + timedelta(days=400)
        elements = [(GTIN, barcode.code.zfill(14))]
        if item.tracking is Tracking.LOT_EXPIRY:
            elements.append((EXPIRY, expiry.strftime("%y%m%d")))
        elements += [(COUNT, "1"), (LOT, f"L{expiry:%y%m}A")]
        text = "".join(f"({ai}){value}" for ai, value in elements)
        yield f"{item.name}, {unit.name}, with lot and count", Scan(text, How.SCANNED, tuple(elements)), "gs1datamatrix"


def _order_items(ctx: Context, dialogue: Dialogue, but: str | None = None) -> Codes:
    order = ctx.order(dialogue.slots)
    for line in order.lines:
        if line.item != but and ctx.state.open_quantity(order, line) > 0:
            yield from _item_code(ctx, ctx.ground.items[line.item], line.unit)


def _items(ctx: Context, dialogue: Dialogue) -> Codes:
    yield from _order_items(ctx, dialogue)
    order = ctx.order(dialogue.slots)
    on_order = {line.item for line in order.lines}
    for other in islice((i for i in ctx.ground.items.values() if i.code not in on_order), 1):
        yield from _item_code(ctx, other, other.base.code)
    yield from _any_bin(ctx)
    yield _plain("a code nobody knows", "X-0000")


def _dates(ctx: Context, _: Dialogue) -> Codes:
    yield _typed("in 400 days", (ctx.today + timedelta(days=400)).isoformat())
    yield _typed("expired last week", (ctx.today - timedelta(days=7)).isoformat())
    yield _typed("no day of the calendar", "2027-02-30")
    yield from _any_bin(ctx)


def _lots(ctx: Context, dialogue: Dialogue) -> Codes:
    yield _plain("a new lot", f"L{ctx.today:%y%m}B")
    table = ctx.ground.stock
    rows = table.rows_of_item(dialogue.slots.item or "")
    known = next((lot for n in rows if (lot := table.lots[table.lot[n]])), None)
    if known:
        yield _plain("a lot in stock", known)
    yield from _any_bin(ctx)


def _quantities(ctx: Context, dialogue: Dialogue) -> Codes:
    question = ask(ctx, dialogue)
    if question.proposal:
        yield _typed(f"{question.proposal} {question.unit}", question.proposal)
        yield _typed("one too many", str(int(question.proposal) + 1))
    yield from _any_bin(ctx)
    yield _typed("zero", "0")
    yield _typed("a fraction", "0.333333")
    yield from _order_items(ctx, dialogue, dialogue.slots.item)
    item = ctx.item(dialogue.slots)
    for barcode in ctx.ground.barcodes_of.get(item.code, ()):
        yield _plain(f"{item.name}, {item.unit(barcode.unit).name}", barcode.code)


def _tasks(ctx: Context, _: Dialogue) -> Codes:
    for task in putting.open_tasks(ctx.state, ctx.crews, 3):
        if task.plate:
            yield _plain(f"plate {task.plate}", task.plate)
        else:
            item = ctx.ground.items[task.goods[0].item]
            yield from _item_code(ctx, item, item.base.code)
            yield _plain(f"task {task.number}, {item.name}", task.number)
    for number in _stored_plates(ctx, 1):
        yield _plain(f"plate {number}, stored", number)
    for plate in islice(ctx.state.building(), 1):
        yield _plain(f"plate {plate.number}, being built", plate.number)
    yield from _any_bin(ctx)


def _bins(ctx: Context, dialogue: Dialogue) -> Codes:
    task = ctx.task(dialogue.slots)
    if task.to_bin:
        yield _plain(f"bin {task.to_bin}, shown", task.to_bin)
    request = putting.request_of_task(ctx.state, task, ctx.today)
    looks = explain(request, ctx.rulebook.rules_for(request.site, request.purpose), ctx.state).looks
    seen = [c for look in looks for c in look.bins if c.bin != task.to_bin]
    for other in islice((c for c in seen if c.turned_down is None), 1):
        yield _plain(f"bin {other.bin}, fits too", other.bin)
    causes: set[str] = set()
    for other in seen:
        if other.turned_down and other.turned_down not in causes and len(causes) < 3:
            causes.add(other.turned_down)
            yield _plain(f"bin {other.bin}", other.bin)
    yield from _any_bin(ctx)
    if task.plate:
        yield _plain(f"plate {task.plate}", task.plate)


def _from(ctx: Context, dialogue: Dialogue) -> Codes:
    slots = dialogue.slots
    question = ask(ctx, dialogue)
    if question.expect:
        yield _plain(f"bin {question.expect}, shown", question.expect)
    if slots.item:
        for line in ctx.state.lines(slots.item)[:4]:
            yield _plain(f"bin {line.bin}, has it", line.bin)
    else:
        for code in _filled_bins(ctx, 2):
            yield _plain(f"bin {code}", code)
        for plate in _stored_plates(ctx, 1):
            yield _plain(f"plate {plate}", plate)
    for code in _empty_bins(ctx, 1):
        yield _plain(f"bin {code}, empty", code)
    yield from _waiting_plates(ctx)
    yield _plain("a code nobody knows", "X-0000")


def _filled_bins(ctx: Context, count: int) -> Iterator[str]:
    """Bins of the site with loose goods, else with plates."""
    site = ctx.state.settings.site
    bins = [b for b in ctx.ground.bins.values() if ctx.ground.zones[b.zone].site == site]
    loose = (b.code for b in bins if ctx.state.loose(b.code))
    yield from islice(loose, count)


def _empty_bins(ctx: Context, count: int) -> Iterator[str]:
    site = ctx.state.settings.site
    empty = (
        b.code
        for b in ctx.ground.bins.values()
        if ctx.ground.zones[b.zone].site == site
        and ctx.ground.zones[b.zone].purpose in STORAGE
        and not ctx.state.held(b.code).kinds
        and not ctx.state.held(b.code).plates
    )
    yield from islice(empty, count)


def _stored_plates(ctx: Context, count: int) -> Iterator[str]:
    site = ctx.state.settings.site
    yield from islice(
        (n for n in ctx.ground.plates if (b := ctx.state.bin_of(n)) and ctx.ground.site_of(b) == site), count
    )


def _waiting_plates(ctx: Context) -> Codes:
    for task in putting.open_tasks(ctx.state, ctx.crews, 1):
        yield _plain(f"plate {task.plate}, to be put away", task.plate or "")
    for plate in ctx.state.building()[:1]:
        yield _plain(f"plate {plate.number}, being built", plate.number)


def _goods_there(ctx: Context, dialogue: Dialogue) -> Codes:
    slots = dialogue.slots
    here = [p.value for p in KINDS[Asks.GOODS].picks(ctx, slots)]
    for code in here[:3]:
        item = ctx.ground.items[ItemCode(code)]
        yield from _item_code(ctx, item, item.base.code)
        for unit in item.units[1:2]:
            yield from _item_code(ctx, item, unit.code)
    if not slots.from_bin:
        for item in islice((i for i in ctx.ground.items.values() if _here(ctx, i)), 3):
            yield from _item_code(ctx, item, item.base.code)
    for other in islice((i for i in ctx.ground.items.values() if i.code not in here), 1):
        yield from _item_code(ctx, other, other.base.code)
    yield from _any_bin(ctx)
    yield _plain("a code nobody knows", "X-0000")


def _lots_there(ctx: Context, dialogue: Dialogue) -> Codes:
    for pick in KINDS[Asks.LOT_THERE].picks(ctx, dialogue.slots):
        yield _plain(f"lot {pick.label}", pick.value)
    yield _plain("a lot that is not there", "L0000")
    yield from _any_bin(ctx)


def _counts(ctx: Context, dialogue: Dialogue) -> Codes:
    question = ask(ctx, dialogue)
    if question.proposal:
        yield _typed(f"all {question.proposal}", question.proposal)
        yield _typed("one too many", str(int(question.proposal) + 1))
    yield _typed("one", "1")
    yield _typed("zero", "0")
    yield _typed("a fraction", "0.333333")
    yield from _any_bin(ctx)


def _plates_to_move(ctx: Context, dialogue: Dialogue) -> Codes:
    for plate in _stored_plates(ctx, 3):
        yield _plain(f"plate {plate}", plate)
    if dialogue.slots.tasks:
        yield from _targets(ctx, dialogue)
    yield from _waiting_plates(ctx)
    yield _plain("a plate label nobody used", ctx.state.number("plate")[0])
    yield from _any_bin(ctx)


def _targets(ctx: Context, dialogue: Dialogue) -> Codes:
    question = ask(ctx, dialogue)
    if question.expect:
        yield _plain(f"bin {question.expect}, shown", question.expect)
    for code in _empty_bins(ctx, 2):
        yield _plain(f"bin {code}, empty", code)
    for code in _filled_bins(ctx, 2):
        yield _plain(f"bin {code}", code)
    for plate in _stored_plates(ctx, 1):
        yield _plain(f"plate {plate}", plate)
    yield from _waiting_plates(ctx)
    yield _plain("a code nobody knows", "X-0000")


def _look(ctx: Context, _: Dialogue) -> Codes:
    for item in islice((i for i in ctx.ground.items.values() if _here(ctx, i)), 2):
        yield from _item_code(ctx, item, item.base.code)
    for code in _filled_bins(ctx, 2):
        yield _plain(f"bin {code}", code)
    for plate in _stored_plates(ctx, 1):
        yield _plain(f"plate {plate}", plate)
    for order in islice((o.number for o in ctx.state.all_orders() if o.site == ctx.state.settings.site), 1):
        yield _plain(f"order {order}", order)
    yield _plain("a code nobody knows", "X-0000")


_CODES = {
    Asks.ORDER: _orders,
    Asks.PLATE: _plates,
    Asks.ITEM: _items,
    Asks.EXPIRY: _dates,
    Asks.LOT: _lots,
    Asks.QUANTITY: _quantities,
    Asks.TASK: _tasks,
    Asks.BIN: _bins,
    Asks.FROM: _from,
    Asks.GOODS: _goods_there,
    Asks.LOT_THERE: _lots_there,
    Asks.COUNT: _counts,
    Asks.PART: _counts,
    Asks.PLATES: _plates_to_move,
    Asks.TO: _targets,
    Asks.LOOK: _look,
}
