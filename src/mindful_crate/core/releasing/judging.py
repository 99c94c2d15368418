"""Whether an order may go: the gates in its row, the rate of what is on hand, the verdict, and what is missing. Exact fractions decide."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, time, timedelta
from fractions import Fraction

from mindful_crate.core.catalog.goods import Order, OrderKind
from mindful_crate.core.catalog.ids import GateId, OrderNo, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.shipments import WordSaid
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve, record
from mindful_crate.core.releasing.cover import LineCover, covers, going_out
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.gates import Gate, GateKind, GateVerdict, Measure, Placed
from mindful_crate.core.rulebook.orders import one_of
from mindful_crate.core.rulebook.times import minute_of

ALL = Fraction(1)
TRANSFERS = (OrderKind.TRANSFER, OrderKind.TRANSFER_OUT)


@record
class AtGate:
    """What one gate of a row says of an order, in words that follow its name."""

    id: GateId
    name: str
    kind: GateKind
    whence: str
    verdict: GateVerdict
    says: str


@record
class Judged:
    """What its gates say of an order: the worst of them is its verdict. ``gate`` empty: none is for its cover, which passes. ``fell_back``:
    it measures quantity although the gate measures value, and why. ``after``: at how many per cent what the cover's gate says would be
    another, and which. ``row``: what each gate says, in the order in which it comes to them."""

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
    row: tuple[AtGate, ...] = ()

    @property
    def waits_at(self) -> AtGate | None:
        """The first gate that stops it; None: none does."""
        return self.says_most if self.verdict is GateVerdict.STOP else None

    @property
    def says_most(self) -> AtGate | None:
        """The first gate of which it has its verdict; None when it passes."""
        if self.verdict is GateVerdict.PASS:
            return None
        return next((g for g in self.row if g.verdict is self.verdict), None)


def gate_of(book: Rulebook, ground: Ground, site: SiteCode, order: Order) -> tuple[Gate | None, str]:
    """The gate of an order's cover and where it comes from: the partner names it, the group of the partner has it, or it is for whatever no
    other is for."""
    mine = [g for g in book.gates_at(site) if g.kind is GateKind.COVER]
    partner = ground.partners.get(order.partner)
    if partner is not None:
        named = next((g for g in mine if partner.gate and g.name == partner.gate), None)
        if named is not None:
            return named, f"{partner.name} names it"
        of_group = next((g for g in mine if partner.group and partner.group in g.groups), None)
        if of_group is not None:
            return of_group, f"it is for {partner.group}"
    for_rest = next((g for g in mine if g.others), None)
    return for_rest, "it is for whatever no other is for" if for_rest else "no gate is for it"


def row_of(book: Rulebook, ground: Ground, site: SiteCode, order: Order) -> tuple[Placed, ...]:
    """The gates an order comes to, as they stand in the rulebook: the one of its cover, and all others that are for it."""
    cover, whence = gate_of(book, ground, site, order)
    partner, class_ = ground.partners.get(order.partner), book.class_of(ground, order)
    row = []
    for gate in (g for g in book.gates if g.on and g.site in (None, site)):
        if gate.kind is GateKind.COVER:
            row += [Placed(gate, whence)] if gate is cover else []
        elif (not gate.groups or (partner is not None and partner.group in gate.groups)) and one_of(
            class_, gate.order_classes
        ):
            why = [partner.group] if gate.groups and partner else []
            why += [f"class {class_.name}"] if gate.order_classes and class_ else []
            row.append(Placed(gate, f"it is for {' and '.join(why) or 'every order'}"))
    return tuple(row)


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


YES = {True: "yes", False: "no"}


def closes(gate: Gate, order: Order) -> datetime | None:
    """When a gate closes for an order, by the clocks of the site; None: it says no time."""
    minute = minute_of(gate.until)
    if minute is None:
        return None
    return datetime.combine(order.leaves, time()) + timedelta(days=-gate.days, minutes=minute)


def _word(gate: Gate, words: Sequence[WordSaid]) -> tuple[GateVerdict, str]:
    found = next((w for w in words if w.gate == gate.id), None)
    if found is None:
        return GateVerdict.STOP, f"waits for the word of {gate.whose or 'somebody'}"
    said = f"@{found.who} said {YES[found.yes]}{f': {found.why}' if found.why else ''}"
    return (GateVerdict.PASS if found.yes else GateVerdict.STOP), said


def _in_time(gate: Gate, order: Order, now: datetime) -> tuple[GateVerdict, str]:
    until = closes(gate, order)
    if until is None:
        return GateVerdict.PASS, "says no time"
    late = now >= until
    says = f"{'was' if late else 'is'} open until {until:%Y-%m-%d at %H:%M}"
    return (gate.late if late else GateVerdict.PASS), says


def judge_row(
    row: Sequence[Placed], order: Order, lines: tuple[LineCover, ...], words: Sequence[WordSaid], now: datetime
) -> Judged:
    """What all gates of a row say of an order; ``now`` by the clocks of the site, without a zone."""
    cover = next((p for p in row if p.gate.kind is GateKind.COVER), None)
    found = judge(cover.gate if cover else None, cover.whence if cover else "no gate is for it", order, lines)
    says = []
    for placed in row:
        gate = placed.gate
        match gate.kind:
            case GateKind.COVER:
                verdict, words_ = found.verdict, f"measures {found.rate}"
                words_ += f", below {found.below} %" if found.below else ""
            case GateKind.WORD:
                verdict, words_ = _word(gate, words)
            case GateKind.UNTIL:
                verdict, words_ = _in_time(gate, order, now)
        says.append(AtGate(gate.id, gate.name, gate.kind, placed.whence, verdict, words_))
    worst = min((g.verdict for g in says), key=list(GateVerdict).index, default=GateVerdict.PASS)
    return evolve(found, verdict=worst, row=tuple(says))


def row_for(state: State, book: Rulebook, order: Order) -> tuple[Placed, ...]:
    """The gates an order has: its own since it reached the floor, else those it would get now."""
    given = state.gates_given.get(order.number)
    return given if given is not None else row_of(book, state.ground, state.settings.site, order)


def judged_orders(state: State, book: Rulebook, orders: Sequence[Order], now: datetime) -> list[Judged]:
    """What their gates say of these orders; ``now`` by the clocks of the site, without a zone."""
    of, said = covers(state, orders, now.date()), state.words_said
    return [judge_row(row_for(state, book, o), o, of[o.number], said.get(o.number, ()), now) for o in orders]


def judged(state: State, book: Rulebook, now: datetime) -> list[Judged]:
    """All open orders of a site that go out, each with what its gates say, as they claim one after another."""
    return judged_orders(state, book, going_out(state), now)
