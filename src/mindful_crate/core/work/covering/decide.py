"""How what is promised is decided: by hand, and after whatever else was decided."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import date

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import ItemCode, OrderNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.covers import Cover, Fit, Pool, fit
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.releasing.cover import here_pool, wanting
from mindful_crate.core.releasing.settling import settled
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.covering.acts import ShiftCover
from mindful_crate.core.work.covering.events import CoverChanged, CoverShifted, Promised
from mindful_crate.core.work.covering.touching import items_touched
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.decide import reason


def promised(state: State, now: Cover) -> Promised:
    """How a line is promised now, beside how it was."""
    before = state.covers.of_line(now.key)
    return Promised(now, before.on_hand if before else 0, before.coming if before else 0)


def after(state: State, making: Making, _: Rulebook, stamp: Stamp) -> str:
    """What follows for the cover of orders from whatever was decided. The log tells it; what somebody did is told without it."""
    asks: dict[ItemCode, list[LineKey]] = {item: [] for item in items_touched(state)}
    for order in [o for number in dict.fromkeys(_orders(state)) if (o := state.order(number)) is not None]:
        for line in order.lines:
            fresh = asks.setdefault(line.item, [])
            if wanting(state, order, line.no) is not None:
                fresh.append(LineKey(order.number, line.no))
    _settle(state, making, asks, stamp.today)
    return ""


def claim(state: State, making: Making, order: Order, today: date) -> None:
    """Let an order cover itself that never did: it reached the floor before cover was kept."""
    asks: dict[ItemCode, list[LineKey]] = {}
    for line in order.lines:
        key = LineKey(order.number, line.no)
        if wanting(state, order, line.no) is not None and state.covers.of_line(key) is None:
            asks.setdefault(line.item, []).append(key)
    _settle(state, making, asks, today)


def promise_anew(state: State, making: Making, item: ItemCode, lines: Iterable[LineKey], today: date) -> None:
    """Promise an item anew now, within a decision that goes on by it; ``lines`` are among those that ask."""
    _settle(state, making, {item: list(lines)}, today)


def _settle(state: State, making: Making, asks: dict[ItemCode, list[LineKey]], today: date) -> None:
    """Promise these items anew, to these lines that ask for the first time too."""
    changed = [promised(state, cover) for item in sorted(asks) for cover in settled(state, item, today, asks[item])]
    if changed:
        making.event(CoverChanged(tuple(sorted(changed, key=lambda p: p.now.key))))


def _orders(state: State) -> Iterator[OrderNo]:
    """Orders of which something was put since the decision began, as the journal has it."""
    orders = state.ordered
    about = (orders.told, orders.in_host, orders.confirmed, orders.cancelled)
    return (key for keeper, key, _ in state.journal.puts() if keeper in about)


def _shift_cover(state: State, making: Making, __: Rulebook, stamp: Stamp, act: ShiftCover) -> str:
    source, target = LineKey(act.order, act.line), LineKey(act.to_order, act.to_line)
    if source == target:
        raise Refusal("same_line", f"`{source}` is the line it is taken from.")
    (_, gives), (order, takes) = _line(state, source), _line(state, target)
    if gives.item != takes.item:
        raise Refusal("other_item", f"`{source}` is for `{gives.item}`, `{target}` for `{takes.item}`.")
    item = state.ground.items[gives.item]
    line = wanting(state, order, act.to_line)
    assert line is not None
    left = line.quantity - state.reservations.of_line(target) - takes.on_hand
    if act.quantity <= 0:
        raise Refusal("not_above_zero", "The quantity must be above zero.")
    if act.quantity > gives.on_hand:
        raise Refusal("not_on_hand", f"`{source}` has {item.told(gives.on_hand)} on hand.")
    if act.quantity > left:
        raise Refusal("wants_less", f"`{target}` wants {item.told(left)} more on hand.")
    why = reason(act.why)
    wants = fit(state.ground, order, line, stamp.today)
    if not _fits(state, gives.item, wants, takes.on_hand + act.quantity):
        raise Refusal(
            "does_not_fit", f"What is here of {item.name} does not fit `{target}`: its lot, or how long it keeps."
        )
    lines = (
        promised(state, evolve(gives, on_hand=gives.on_hand - act.quantity)),
        promised(state, evolve(takes, on_hand=takes.on_hand + act.quantity)),
    )
    making.event(CoverShifted(lines, act.quantity, why))
    return f"{item.told(act.quantity)} of {item.name} are promised to `{target}` instead of `{source}`: {why}."


def _line(state: State, key: LineKey) -> tuple[Order, Cover]:
    order = state.order(key.order)
    if order is None:
        raise Refusal("unknown_order", f"There is no order `{key.order}`.")
    if wanting(state, order, key.line) is None:
        raise Refusal(
            "no_such_line", f"Order `{key.order}` has no line {key.line} that goes out from here, or is not confirmed."
        )
    cover = state.covers.of_line(key)
    if cover is None:
        raise Refusal("no_such_line", f"Nothing is promised to `{key}` yet.")
    return order, cover


def _fits(state: State, item: ItemCode, wants: Fit, quantity: int) -> bool:
    return Pool(here_pool(state, item)).take(wants, quantity) == quantity


DECIDES = (deciding(ShiftCover, _shift_cover),)
"""How its acts are decided."""
