"""Gates: rates exact to the last fraction, ladders, whose gate it is, and cover that never promises a piece twice."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from datetime import UTC, date, datetime
from decimal import Decimal
from fractions import Fraction
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine
from mindful_crate.core.catalog.ids import (
    GateId,
    ItemCode,
    OrderClassId,
    OrderNo,
    PartnerCode,
    PersonId,
    RungId,
    SiteCode,
    UnitCode,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.shipments import WordSaid
from mindful_crate.core.floor.state import State
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.proving.levels import levels_of
from mindful_crate.core.releasing.cover import LineCover, covers, going_out
from mindful_crate.core.releasing.judging import (
    gate_of,
    judge,
    judge_row,
    judged,
    judged_orders,
    rate_of,
    row_of,
    told,
    verdict_of,
)
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.gates import Gate, GateKind, GateVerdict, Measure, Placed, Rung
from mindful_crate.core.rulebook.words.gates import gate_sentence, rung_sentence
from mindful_crate.core.rulebook.words.parts import words_of
from mindful_crate.core.world import acts
from mindful_crate.core.world.world import stamped
from tests.playbook import STARTS, Play, new_world

HQ = SiteCode("HQ")
TODAY = STARTS.date()
NOW = STARTS.replace(tzinfo=None)
LADDER = (Rung(RungId("1"), 65), Rung(RungId("2"), 95, GateVerdict.WARN))
SITE = Gate(GateId("G-1"), "Most of it", rungs=LADDER, others=True)


def order(
    *lines: tuple[str, int, str], kind: OrderKind = OrderKind.SALES, number: str = "SO-1", partner: str = "C-500"
) -> Order:
    """An order of so much of each item at a price."""
    made = tuple(OrderLine(n, ItemCode(i), UnitCode("pc"), q, Decimal(p)) for n, (i, q, p) in enumerate(lines, start=1))
    return Order(OrderNo(number), kind, HQ, PartnerCode(partner), date(2026, 3, 9), made, True)


def there(*parts: tuple[int, int]) -> tuple[LineCover, ...]:
    """Lines with so much on hand of so much."""
    return tuple(LineCover(n, ItemCode("X"), wanted, on_hand) for n, (on_hand, wanted) in enumerate(parts, start=1))


@pytest.mark.parametrize(("on_hand", "says", "verdict"), [
    (6499, "64.99 %", GateVerdict.STOP), (6500, "65.00 %", GateVerdict.WARN), (9499, "94.99 %", GateVerdict.WARN), (9500, "95.00 %", GateVerdict.PASS),
    (0, "0.00 %", GateVerdict.STOP), (10000, "100.00 %", GateVerdict.PASS),
])  # fmt: skip
def test_a_threshold_met_exactly_is_reached(on_hand: int, says: str, verdict: GateVerdict) -> None:
    """To the last piece of ten thousand."""
    found = judge(SITE, "", order(("X", 10_000, "1")), there((on_hand, 10_000)))
    assert (found.rate, found.verdict) == (says, verdict)


def test_what_is_not_all_never_reads_as_all() -> None:
    """99,999 of 100,000 with a gate that wants all of it."""
    whole = replace(SITE, rungs=(Rung(RungId("1"), 100),))
    found = judge(whole, "", order(("X", 100_000, "1")), there((99_999, 100_000)))
    assert (found.rate, found.verdict, found.below, found.after) == (
        "99.99 %",
        GateVerdict.STOP,
        100,
        ((100, GateVerdict.PASS),),
    )


def test_each_measure_measures_what_it_says() -> None:
    """A little rope of much, and all anchors: by lines, by the worst, by pieces, by value; without a value by quantity, and it says so."""
    asked, has = order(("ROPE", 1000, "1.00"), ("ANC", 4, "500.00")), there((100, 1000), (4, 4))
    rates = {m: rate_of(m, asked, has) for m in Measure}
    assert rates == {
        Measure.MEAN: Fraction(11, 20),
        Measure.LOWEST: Fraction(1, 10),
        Measure.SUM: Fraction(104, 1004),
        Measure.VALUE: Fraction(2100, 3000),
    }
    by_value = replace(SITE, measure=Measure.VALUE, quantity=Measure.LOWEST)
    assert judge(by_value, "", asked, has).rate == "70.00 %"
    free = judge(by_value, "", order(("ROPE", 1000, "0"), ("ANC", 4, "0")), has)
    assert (free.measure, free.rate, free.fell_back) == (Measure.LOWEST, "10.00 %", "the order has no value")
    moved = judge(by_value, "", order(("ROPE", 1000, "1.00"), ("ANC", 4, "500.00"), kind=OrderKind.TRANSFER_OUT), has)
    assert (moved.rate, moved.fell_back) == ("10.00 %", "a transfer has no value")
    assert rate_of(Measure.VALUE, order(), ()) == 1, "an order that wants nothing lacks nothing"


@given(
    st.lists(st.tuples(st.integers(0, 500), st.integers(1, 500), st.integers(0, 900)), min_size=1, max_size=8),
    st.sampled_from(list(Measure)),
)
def test_more_on_hand_never_makes_a_verdict_worse(lines: list[tuple[int, int, int]], measure: Measure) -> None:
    """Every rate is between nothing and all, grows with what is on hand, and is told no higher than it is."""
    asked = order(*((f"I{n}", wanted, f"{price / 100:.2f}") for n, (_, wanted, price) in enumerate(lines)))
    rate = rate_of(measure, asked, there(*((min(h, w), w) for h, w, _ in lines)))
    more = rate_of(measure, asked, there(*((min(h + 1, w), w) for h, w, _ in lines)))
    if rate is None or more is None:
        assert measure is Measure.VALUE and all(p == 0 for _, _, p in lines)
        return
    assert 0 <= rate <= more <= 1
    assert (
        Fraction(told(rate).removesuffix(" %"))
        <= rate * 100
        < Fraction(told(rate).removesuffix(" %")) + Fraction(1, 100)
    )
    ranks = [GateVerdict.STOP, GateVerdict.WARN, GateVerdict.PASS]
    assert ranks.index(verdict_of(SITE, rate)[0]) <= ranks.index(verdict_of(SITE, more)[0])


def test_whose_gate_it_is(ground: Ground, rulebook: Rulebook) -> None:
    """What the partner names, else what is for its group, else what is for all others; a site's own before that of all sites."""
    named = replace(SITE, id=GateId("G-2"), name="Whole orders only", others=False)
    shops = replace(SITE, id=GateId("G-3"), name="Shops", others=False, groups=("Shops",))
    book = replace(rulebook, gates=(SITE, shops, named))

    def of(partner: str) -> tuple[str, str]:
        gate, whence = gate_of(book, ground, HQ, order(("SHK-08", 1, "1"), partner=partner))
        return (gate.name if gate else ""), whence

    assert of("C-530") == ("Whole orders only", "Scarra Ferry Line names it")
    assert of("C-510") == ("Shops", "it is for Shops")
    assert of("C-520") == ("Most of it", "it is for whatever no other is for")
    own = replace(shops, id=GateId("G-4"), name="Shops here", site=HQ)
    assert gate_of(replace(book, gates=(*book.gates, own)), ground, HQ, order(partner="C-510"))[0] == own
    none = judge(*gate_of(replace(rulebook, gates=()), ground, HQ, order()), order(), there((0, 5)))
    assert (none.verdict, none.whence) == (GateVerdict.PASS, "no gate is for it")


def test_cover_never_promises_a_piece_twice(ground: Ground, rulebook: Rulebook) -> None:
    """All open orders as they are: what is promised on hand is at most what is free, what is tied at most what is on its way, and nothing
    wanted is both; a bin that is closed, stock that is kept and what has just arrived count for nothing."""
    state = new_world(ground, rulebook).state
    found = covers(state, going_out(state), TODAY)
    taken, tied, wanted = Counter[ItemCode](), Counter[tuple[str, int]](), 0
    for each in (x for lines in found.values() for x in lines):
        assert each.on_hand >= 0 and each.short >= 0 and each.on_hand + each.coming + each.short == each.wanted
        taken[each.item] += each.on_hand
        wanted += each.wanted
        tied.update({(t.order, t.line): t.quantity for t in each.on_way})
    assert wanted and all(quantity <= levels_of(state, item).free for item, quantity in taken.items())
    for (number, no), quantity in tied.items():
        assert quantity <= next(x.quantity for x in ground.orders[OrderNo(number)].lines if x.no == no)
    most, much = max(taken.items(), key=lambda x: x[1])
    play = Play(new_world(ground, rulebook))
    for each in {x.bin for x in play.state.lines(most) if ground.site_of(x.bin) == HQ}:
        play.do(acts.BlockBin(each, "closed"))
    again = covers(play.state, going_out(play.state), TODAY)
    assert much and sum(x.on_hand for lines in again.values() for x in lines if x.item == most) == 0


def test_who_comes_first_takes_first_and_old_stock_is_not_for_everybody(ground: Ground, rulebook: Rulebook) -> None:
    """The earlier order has what the later lacks; what expires too soon for a partner is left for another; a fixed lot is just that."""
    state: State = new_world(ground, rulebook).state
    code = ItemCode("AF-RED-25")
    free = levels_of(state, code).free
    lots = Counter({x.goods.lot: 0 for x in state.lines(code)})
    for x in state.lines(code):
        lots[x.goods.lot] += x.goods.quantity
    a, b = (
        order(("AF-RED-25", free, "1"), number="SO-1", partner="C-520"),
        order(("AF-RED-25", 8, "1"), number="SO-2", partner="C-520"),
    )
    found = covers(state, (a, b), TODAY)
    assert (found[a.number][0].on_hand, found[b.number][0].on_hand) == (free, 0) and found[b.number][0].coming == 8
    late = replace(order(("AF-RED-25", free, "1")), partner=PartnerCode("C-530"))
    soonest = min(x.goods.expiry for x in state.lines(code) if x.goods.expiry)
    picky = covers(state, (late,), soonest)[late.number][0]
    assert picky.on_hand < free
    fixed = replace(a, lines=(replace(a.lines[0], lot="D2527"),))
    assert covers(state, (fixed,), TODAY)[fixed.number][0].on_hand == lots["D2527"] > 0


def test_ladders_that_cannot_be_climbed_are_found(ground: Ground, rulebook: Rulebook) -> None:
    """Each mistake at its place; the demo has none."""
    bad = (
        replace(SITE, id=GateId("G-1"), name="A", rungs=(Rung(RungId("1"), 65, GateVerdict.WARN), Rung(RungId("2"), 95))),
        replace(SITE, id=GateId("G-2"), name="A", rungs=(Rung(RungId("1"), 0), Rung(RungId("2"), 101, GateVerdict.PASS))),
        replace(SITE, id=GateId("G-3"), name="B", others=False, rungs=()),
        replace(SITE, id=GateId("G-4"), name="C", others=False, groups=("Yards",), rungs=(Rung(RungId("1"), 50), Rung(RungId("2"), 50))),
        replace(SITE, id=GateId("G-5"), name="D", others=False, groups=("Yards",), rungs=(Rung(RungId("1"), 50), Rung(RungId("2"), 60))),
    )  # fmt: skip
    codes = {
        (f.code, f.place) for f in findings(replace(rulebook, gates=bad), ground, HQ) if f.place.startswith("gates")
    }
    assert codes >= {
        ("ladder_turns", "gates/G-1/rungs/2/verdict"), ("gate_twice", "gates/G-2/name"), ("gate_twice", "gates/G-2/others"),
        ("bad_rung", "gates/G-2/rungs/1/below"), ("bad_rung", "gates/G-2/rungs/2/below"), ("bad_rung", "gates/G-2/rungs/2/verdict"),
        ("no_rungs", "gates/G-3"), ("gate_for_nobody", "gates/G-3"), ("rung_twice", "gates/G-4/rungs/2/below"),
        ("gate_twice", "gates/G-5/groups"), ("no_effect", "gates/G-5/rungs/1"), ("missing_gate", "gates"),
    }  # fmt: skip
    assert not [f for f in findings(rulebook, ground, HQ) if f.place.startswith("gates")]
    assert "gate_twice" not in {
        f.code
        for f in findings(
            replace(rulebook, gates=(SITE, replace(SITE, id=GateId("G-9"), name="Own", site=HQ))), ground, HQ
        )
    }


def test_a_gate_reads_as_a_sentence(ground: Ground, rulebook: Rulebook) -> None:
    """Measure, whom it is for, and each rung."""
    assert words_of(gate_sentence(replace(SITE, measure=Measure.VALUE, groups=("Shops", "Yards")))) == (
        "Measured is the value of what is on hand, and of transfers and orders without a value the mean over its lines of how much is on hand. "
        "It is for Shops or Yards, for partners that name it, and for whatever no other gate is for."
    )
    assert [words_of(rung_sentence(r)) for r in LADDER] == [
        "Below 65 % it is stopped.",
        "Below 95 % it goes with a warning.",
    ]


def test_all_open_orders_at_once(ground: Ground, rulebook: Rulebook) -> None:
    """Each order of the site that goes out, once, with its gate; nothing is changed by asking."""
    state = new_world(ground, rulebook).state
    before = state.kept()
    found = judged(state, rulebook, NOW)
    assert [j.order for j in found] == [o.number for o in going_out(state)] and len(found) > 30
    assert {j.verdict for j in found} == set(GateVerdict) and {j.gate for j in found} > {"Whole orders only"}
    assert state.kept() == before


def at(*parts: int) -> datetime:
    """A moment by the clocks of the site."""
    return datetime(*parts)  # noqa: DTZ001 - it has no zone on purpose


WORD = Gate(GateId("G-7"), "Accounts", kind=GateKind.WORD, whose="accounts")
UNTIL = Gate(GateId("G-8"), "The list", kind=GateKind.UNTIL, until="13:00", days=1)


def test_an_order_comes_to_gates_as_they_stand(ground: Ground, rulebook: Rulebook) -> None:
    """One that measures, by precedence, and all others that are for it, in the order of the list, whosever they are; those switched off not."""
    yards = replace(UNTIL, groups=("Yards",))
    clubs = replace(WORD, order_classes=(OrderClassId("OC-4"),))
    own = replace(SITE, id=GateId("G-9"), name="Own", site=HQ)
    elsewhere = replace(WORD, id=GateId("G-10"), site=SiteCode("GL"))
    book = replace(rulebook, gates=(clubs, SITE, yards, own, elsewhere, replace(WORD, id=GateId("G-11"), on=False)))

    def of(partner: str) -> list[tuple[str, str]]:
        row = row_of(book, ground, HQ, order(("SHK-08", 1, "1"), partner=partner))
        return [(p.gate.name, p.whence) for p in row]

    rest = ("Own", "it is for whatever no other is for")
    assert of("C-520") == [rest]
    assert of("C-500") == [("The list", "it is for Yards"), rest]
    assert of("C-610") == [("Accounts", "it is for class Clubs"), rest]
    both = replace(book, gates=(replace(WORD, groups=("Yards",), order_classes=(OrderClassId("OC-4"),)),))
    assert row_of(both, ground, HQ, order(("SHK-08", 1, "1"), partner="C-610")) == ()


@pytest.mark.parametrize(("now", "verdict"), [
    (at(2026, 3, 8, 12, 59, 59), GateVerdict.PASS), (at(2026, 3, 8, 13, 0), GateVerdict.STOP), (at(2026, 3, 9, 0, 0), GateVerdict.STOP),
])  # fmt: skip
def test_a_gate_closes_at_its_time(now: datetime, verdict: GateVerdict) -> None:
    """At one o'clock on the day before the order leaves, to the second; who is only warned then, may go."""
    asked = replace(order(("X", 4, "1")), ship_by=date(2026, 3, 9))
    found = judge_row([Placed(UNTIL, "")], asked, there((4, 4)), (), now)
    assert (found.verdict, found.row[0].verdict) == (verdict, verdict)
    warned = judge_row([Placed(replace(UNTIL, late=GateVerdict.WARN), "")], asked, there((4, 4)), (), now)
    assert warned.verdict is (GateVerdict.PASS if verdict is GateVerdict.PASS else GateVerdict.WARN)
    assert "2026-03-08 at 13:00" in found.row[0].says


@given(
    st.permutations(["cover", "word", "until"]),
    st.sampled_from([None, True, False]),
    st.booleans(),
    st.integers(0, 100),
)
def test_the_worst_of_a_row_is_its_verdict(row: list[str], said: bool | None, late: bool, on_hand: int) -> None:
    """An order waits at the first gate that stops it, wherever that stands; it passes when all let it pass."""
    gates = {"cover": SITE, "word": WORD, "until": UNTIL}
    words = () if said is None else (WordSaid(WORD.id, said, PersonId("ines"), STARTS, "so"),)
    asked = replace(order(("X", 100, "1")), ship_by=date(2026, 3, 9))
    now = at(2026, 3, 8, 14 if late else 9)
    found = judge_row([Placed(gates[n], "") for n in row], asked, there((on_hand, 100)), words, now)
    stops = {"cover": on_hand < 65, "word": said is not True, "until": late}
    first = next((gates[n].name for n in row if stops[n]), None)
    assert (found.waits_at.name if found.waits_at else None) == first
    whole = GateVerdict.WARN if on_hand < 95 else GateVerdict.PASS
    assert found.verdict is (GateVerdict.STOP if first else whole)
    assert found.rate == told(Fraction(on_hand, 100)) and len(found.row) == 3


def test_gates_that_ask_nothing_are_found(ground: Ground, rulebook: Rulebook) -> None:
    """Nobody asked, no time, late ones that pass, groups and classes that are not there; a partner may name only one that measures."""
    bad = (
        SITE, replace(WORD, whose=" ", groups=("Nobodies",)), replace(UNTIL, until="25:00", days=400, late=GateVerdict.PASS),
        replace(WORD, id=GateId("G-9"), name="Whole orders only", order_classes=(OrderClassId("OC-99"),)),
    )  # fmt: skip
    codes = {
        (f.code, f.place) for f in findings(replace(rulebook, gates=bad), ground, HQ) if f.place.startswith("gates")
    }
    assert codes == {
        ("nobody_asked", "gates/G-7/whose"), ("missing_value", "gates/G-7/groups"), ("no_time", "gates/G-8/until"), ("bad_days", "gates/G-8/days"),
        ("no_effect", "gates/G-8/late"), ("missing_class", "gates/G-9/order_classes"), ("missing_gate", "gates"),
    }  # fmt: skip


def test_a_word_and_a_time_read_as_sentences() -> None:
    """Whom it asks, or until when, and for whom."""
    assert words_of(gate_sentence(replace(WORD, groups=("Yards",)))).startswith(
        "It asks for the word of accounts. It is for every order of Yards."
    )
    assert words_of(gate_sentence(UNTIL)).startswith(
        "It is open until 13:00, on the day before it leaves; whoever comes later: it is stopped. It is for every order."
    )


def test_by_the_clocks_of_the_site(ground: Ground, rulebook: Rulebook) -> None:
    """A stamp knows how late it is at the site, not on the server; and by that a gate is open or closed."""
    zone = ZoneInfo(ground.sites[HQ].time_zone)
    book = replace(rulebook, gates=(replace(UNTIL, days=0),))
    world = new_world(ground, book)
    late = replace(order(("SHK-08", 1, "1")), ship_by=date(2026, 7, 1))
    said = {}
    for hour in (11, 12):
        stamp = stamped(
            world.state,
            "x",
            datetime(2026, 7, 1, hour, 30, tzinfo=UTC),
            lambda at: at.astimezone(zone).date(),
            PersonId("ines"),
        )
        said[stamp.now.hour] = judged_orders(world.state, book, [late], stamp.now)[0].verdict
    assert said == {12: GateVerdict.PASS, 13: GateVerdict.STOP}
