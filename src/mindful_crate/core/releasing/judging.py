"""Whether an order may go: its gate, the rate of what is on hand, the verdict, and what is missing. Exact fractions decide."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from fractions import Fraction

from mindful_crate.core.catalog.goods import Order, OrderKind
from mindful_crate.core.catalog.ids import OrderNo, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import record
from mindful_crate.core.releasing.cover import LineCover, covers, going_out
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.gates import Gate, GateVerdict, Measure

ALL = Fraction(1)
TRANSFERS = (OrderKind.TRANSFER, OrderKind.TRANSFER_OUT)


@record
class Judged:
    """What a gate says of an order. ``gate`` None: none is for it, and it passes. ``fell_back``: it measures quantity although the gate
    measures value, and why. ``after``: at how many per cent the verdict would be another, and which."""

    order: OrderNo
    gate: str
    whence: str
    measure: Measure
    fell_back: str
    rate: str
    verdict: GateVerdict
    below: int
    after: tuple[tuple[int, GateVerdict], ...]
    lines: tuple[LineCover, ...]


def gate_of(book: Rulebook, ground: Ground, site: SiteCode, order: Order) -> tuple[Gate | None, str]:
    """The gate of an order and where it comes from: the partner names it, the group of the partner has it, or it is for whatever no other
    is for."""
    mine, partner = book.gates_at(site), ground.partners.get(order.partner)
    if partner is not None:
        named = next((g for g in mine if partner.gate and g.name == partner.gate), None)
        if named is not None:
            return named, f"{partner.name} names it"
        of_group = next((g for g in mine if partner.group and partner.group in g.groups), None)
        if of_group is not None:
            return of_group, f"it is for {partner.group}"
    for_rest = next((g for g in mine if g.others), None)
    return for_rest, "it is for whatever no other is for" if for_rest else "no gate is for it"


def rate_of(measure: Measure, order: Order, lines: Sequence[LineCover]) -> Fraction | None:
    """How much of an order is on hand, from 0 to 1; None: it has no value. ``lines`` are those of the order, in their order. An order that
    wants nothing lacks nothing."""
    parts = [Fraction(min(x.on_hand, x.wanted), x.wanted) for x in lines if x.wanted > 0]
    if not parts:
        return ALL
    match measure:
        case Measure.MEAN:
            return Fraction(sum(parts, Fraction(0)), len(parts))
        case Measure.LOWEST:
            return min(parts)
        case Measure.SUM:
            return Fraction(sum(min(x.on_hand, x.wanted) for x in lines), sum(x.wanted for x in lines))
        case Measure.VALUE:
            prices = {x.no: Fraction(x.net_price) for x in order.lines}
            worth = sum((prices[x.line] * x.wanted for x in lines), Fraction(0))
            there = sum((prices[x.line] * min(x.on_hand, x.wanted) for x in lines), Fraction(0))
            return Fraction(there, worth) if worth else None


def told(rate: Fraction) -> str:
    """A rate with two decimals, rounded down: what is not all never reads as all."""
    hundredths = rate.numerator * 10_000 // rate.denominator
    return f"{hundredths // 100}.{hundredths % 100:02} %"


def verdict_of(gate: Gate, rate: Fraction) -> tuple[GateVerdict, int]:
    """The verdict, and the threshold below which the rate is; 0 when it passes. A threshold met exactly is reached."""
    for rung in gate.ladder:
        if rate * 100 < rung.below:
            return rung.verdict, rung.below
    return GateVerdict.PASS, 0


def judge(gate: Gate | None, whence: str, order: Order, lines: tuple[LineCover, ...]) -> Judged:
    """What its gate says of an order with this cover."""
    measure, fell_back = gate.measure if gate else Measure.MEAN, ""
    rate = rate_of(measure, order, lines)
    if gate is not None and measure is Measure.VALUE and (rate is None or order.kind in TRANSFERS):
        fell_back = "a transfer has no value" if order.kind in TRANSFERS else "the order has no value"
        measure = gate.quantity
        rate = rate_of(measure, order, lines)
    assert rate is not None, measure
    if gate is None:
        return Judged(order.number, "", whence, measure, "", told(rate), GateVerdict.PASS, 0, (), lines)
    verdict, below = verdict_of(gate, rate)
    after: list[tuple[int, GateVerdict]] = []
    above = [r for r in gate.ladder if rate * 100 < r.below]
    for rung, next_ in zip(above, [*(r.verdict for r in above[1:]), GateVerdict.PASS], strict=False):
        if next_ is not (after[-1][1] if after else verdict):
            after.append((rung.below, next_))
    return Judged(order.number, gate.name, whence, measure, fell_back, told(rate), verdict, below, tuple(after), lines)


def gate_for(state: State, book: Rulebook, order: Order) -> tuple[Gate | None, str]:
    """The gate an order has: its own since it reached the floor, else the one it would get now."""
    given = state.gates_given.get(order.number)
    if given is not None:
        return given.gate, given.whence
    return gate_of(book, state.ground, state.settings.site, order)


def judged_orders(state: State, book: Rulebook, orders: Sequence[Order], today: date) -> list[Judged]:
    """What their gates say of these orders."""
    of = covers(state, orders, today)
    return [judge(*gate_for(state, book, o), o, of[o.number]) for o in orders]


def judged(state: State, book: Rulebook, today: date) -> list[Judged]:
    """All open orders of a site that go out, each with what its gate says, as they claim one after another."""
    return judged_orders(state, book, going_out(state), today)
