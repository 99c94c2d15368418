"""The scan tray: everything worth scanning now, right ones and instructive wrong ones.

Whether a code is right is not claimed here: each is put to ``decide`` as a dry run, and its answer is shown.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import timedelta
from itertools import islice
from typing import Literal

from mindful_crate.core.catalog.goods import Item, Tracking
from mindful_crate.core.placing.explain import explain
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks
from mindful_crate.core.scanning.dialogue import ask, current
from mindful_crate.core.scanning.kinds import Context
from mindful_crate.core.scanning.reading import COUNT, EXPIRY, GTIN, LOT, How, Scan
from mindful_crate.core.world import acts, putting, receiving
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.decide import context, decide
from mindful_crate.core.world.state import State
from mindful_crate.core.world.things import Dialogue

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
    waiting = [o for o in ctx.ground.orders.values() if not ctx.state.is_confirmed(o.number)]
    for order in waiting[:1]:
        yield _plain(f"order {order.number}, not confirmed", order.number)
    yield from _any_bin(ctx)
    yield _plain("a code nobody knows", "X-0000")


def _any_bin(ctx: Context) -> Codes:
    for each in islice(ctx.ground.bins.values(), 40, 41):
        yield _plain(f"bin {each.code}", each.code)


def _plates(ctx: Context, _: Dialogue) -> Codes:
    for plate in islice(ctx.state.building(), 2):
        yield _plain(f"plate {plate.number}, being built", plate.number)
    yield _plain("a fresh plate label", ctx.state.number("plate")[0])
    for number in islice(ctx.ground.bin_of_plate, 1):
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
    known = next((r.lot for r in ctx.ground.opening.stock if r.item == dialogue.slots.item and r.lot), None)
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
    for task in putting.open_tasks(ctx.state, ctx.crews)[:3]:
        yield _plain(f"plate {task.plate}", task.plate)
    for number in islice(ctx.ground.bin_of_plate, 1):
        yield _plain(f"plate {number}, stored", number)
    for plate in islice(ctx.state.building(), 1):
        yield _plain(f"plate {plate.number}, being built", plate.number)
    yield from _any_bin(ctx)


def _bins(ctx: Context, dialogue: Dialogue) -> Codes:
    task = ctx.task(dialogue.slots)
    if task.to_bin:
        yield _plain(f"bin {task.to_bin}, shown", task.to_bin)
    request = putting.request_of_task(ctx.state, task)
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
    yield _plain(f"plate {task.plate}", task.plate)


_CODES = {
    Asks.ORDER: _orders,
    Asks.PLATE: _plates,
    Asks.ITEM: _items,
    Asks.EXPIRY: _dates,
    Asks.LOT: _lots,
    Asks.QUANTITY: _quantities,
    Asks.TASK: _tasks,
    Asks.BIN: _bins,
}
