"""Returns: judged at the first scan, marked line by line, finished into a number, stock and tasks; announced and not."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import Order, OrderKind, Status
from mindful_crate.core.catalog.ids import ItemCode, OrderNo, PartnerCode, PlateKindCode, ReturnMarkId, ReturnRuleId
from mindful_crate.core.catalog.refs import DocKind, LineKey, Ref
from mindful_crate.core.floor.plates import in_bin, on_plate
from mindful_crate.core.proving.facts import facts_of
from mindful_crate.core.proving.findings.of_returns import returns as findings_of
from mindful_crate.core.rulebook.bin_rules import Disposition
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose, PlateBy
from mindful_crate.core.rulebook.returns import Accepts, Otherwise, ReturnRule
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import words_of
from mindful_crate.core.rulebook.words.returns import return_sentence
from mindful_crate.core.work.returning.judging import judge
from mindful_crate.core.world import acts
from mindful_crate.core.world.chain import documents
from mindful_crate.core.world.invariants import broken
from mindful_crate.core.world.letters import letter
from tests.core.test_covering import BOOK, GROUND, HQ
from tests.core.test_shipping import SH, bar, by, numbered, picked, steps
from tests.core.test_waves import order, sound
from tests.playbook import Play
from tests.properties import tried

YARD = PartnerCode("C-500")
RULE = ReturnRule(ReturnRuleId("RA-1"))
RN = OrderNo("RNR-0001")


def rules(*some: ReturnRule, **more: object) -> Rulebook:
    """Nothing is packed, staged or loaded; goods come back by these rules."""
    return replace(by(steps(BOOK)), return_rules=tuple(replace(r, **more) for r in some or (RULE,)))  # type: ignore[arg-type]


def sent(book: Rulebook, *orders: Order) -> Play:
    """Orders of the yard that were shipped."""
    play = picked(book, *(orders or (order("SO-1", ("SHK-08", 20), ("CLT-15", 3), carrier=None),)))
    return play.do(acts.ShipShipment(SH)).done("has left")


def takes(play: Play, who: str = "C-500") -> Play:
    return play.opens("F-RETURN").scan(who, "typed")


def line(play: Play, item: str, much: str, mark: str, remark: str = "") -> Play:
    """One line, all of its questions answered."""
    play.asks("return_item").scan(bar(item)).type(much).scan(mark, "tapped")
    return play.asks("return_remark").type(remark) if remark else play.press("nothing_seen")


def test_two_lines_with_two_marks_become_a_number_stock_and_tasks() -> None:
    """Found by name; judged with the last shipment; nothing is stock before it is finished; then by mark: status, rules for their place, credit told to the host."""
    play = sent(rules())
    takes(play, "ardle").done("Ardle Sound Yachts").asks("return_item")
    play.scan(bar("SHK-10")).refused("not_accepted", "No Bow shackle 10 mm was ever shipped")
    play.scan(bar("SHK-08")).asks("return_count")
    assert "SHR-0001" in play.question().note
    play.type("21").refused("not_accepted", "20 pieces of Bow shackle 8 mm were shipped").type("2").asks(
        "disposition"
    ).type("burn it").refused("not_among")
    play.scan("RM-1", "tapped").press("nothing_seen").done("As good as new")
    assert len(play.question().so_far) == 1 and not [o for o in play.state.all_orders() if o.number == RN]
    line(play, "CLT-15", "3", "RM-3", "bent")
    line(play, "SHK-08", "18", "RM-2")
    play.scan(bar("SHK-08")).refused("not_accepted")
    play.press("drop_last").done("off the list").scan(bar("SHK-08")).type("4").scan("RM-2", "tapped").press(
        "nothing_seen"
    )
    play.press("finish_return").done("Return `RNR-0001`", "3 lines", "Put-away tasks").asks("returned_by")
    marks = play.state.returned
    assert [(marks[LineKey(RN, n)].goes, marks[LineKey(RN, n)].credits) for n in (1, 2, 3)] == [
        (Disposition.RESTOCK, True), (Disposition.SCRAP, True), (Disposition.REPAIR, True),
    ]  # fmt: skip
    tasks = {(t.goods[0].item, t.goods[0].status): t for t in play.state.tasks.values() if t.need is Need.PUT_AWAY}
    zones = {k: GROUND.bins[t.to_bin].zone for k, t in tasks.items() if t.to_bin}
    assert zones == {
        ("SHK-08", Status.AVAILABLE): "PCK",
        ("CLT-15", Status.DAMAGED): "QUA",
        ("SHK-08", Status.DAMAGED): "RET",
    }
    (receipt,) = play.state.messages_about(re.findall(r"Receipt `([^`]+)`", play.last.says if play.last else "")[0])
    note = letter(play.state, receipt).receipt
    assert note and [(m.mark, m.credit) for m in note.returned] == [
        ("As good as new", True),
        ("Scrap", True),
        ("To be repaired", True),
    ]
    assert next(d for d in documents(play.state) if d.number == RN)
    facts = {f.word: f.says for f in facts_of(play.state, rules(), Ref(DocKind.ORDER, RN))}
    assert facts["Line 2 came back"] == "Scrap, damaged, credited, \u201cbent\u201d", (
        "what was seen is told in the office"
    )
    sound(play)
    takes(play).scan(bar("SHK-08")).type("15").refused("not_accepted", "6 pieces came back since")
    assert play.press("leave").last
    sound(play)


def test_the_last_day_counts_and_after_it_the_rule_says_what_becomes_of_it() -> None:
    """Thirty days later it is accepted; a day after that it is refused, or held: then it is kept apart, marked for nothing and not credited, until a supervisor frees it."""
    play = sent(rules())
    play.do(acts.Wait(30 * 86_400)).done()
    takes(play).scan(bar("SHK-08")).asks("return_count").press("leave")
    play.do(acts.Wait(86_400)).done()
    takes(play).scan(bar("SHK-08")).refused("not_accepted", "within 30 days", "31 days ago").press("leave")
    play = sent(rules(outside=Otherwise.HOLD))
    play.do(acts.Wait(31 * 86_400)).done()
    takes(play).scan(bar("SHK-08")).asks("yes_no", "held for a supervisor").press("no").asks("return_item")
    play.scan(bar("SHK-08")).press("yes").type("2").scan("RM-1", "tapped").press("nothing_seen").done("held").press(
        "finish_return"
    )
    play.done("1 line is held for a supervisor")
    marked = play.state.returned[LineKey(RN, 1)]
    assert (marked.status, marked.goes, marked.credits) == (Status.QUARANTINE, None, False)
    (task,) = [t for t in play.state.tasks.values() if t.need is Need.PUT_AWAY]
    assert task.to_bin and GROUND.bins[task.to_bin].zone == "QUA"
    sound(play)


def test_leaving_makes_nothing_and_one_customer_at_a_time() -> None:
    """What was scanned is gone with the dialogue; a former shipment, its order and its label lead to the customer; nobody else does."""
    play = sent(rules())
    takes(play, "SHR-0001")
    line(play, "SHK-08", "2", "RM-1")
    play.press("leave").done("Nothing of it was taken back")
    assert len(play.state.returning) == 0 and len(play.state.returned) == 0
    assert {o.number for o in play.state.all_orders() if o.kind is OrderKind.CUSTOMER_RETURN} == {
        o.number for o in GROUND.orders.values() if o.kind is OrderKind.CUSTOMER_RETURN
    }
    takes(play, "SO-1").asks("return_item").press("leave")
    play.opens("F-RETURN").type("NOBODY-9").refused("unknown_customer").type("C-999").refused("unknown_customer").type(
        "s"
    ).refused("unknown_customer")
    play.type("sound").done("Ardle Sound Yachts").press("leave")
    sound(play)
    play.do(acts.FinishReturn()).refused("nothing_back")


def test_announced_returns_come_by_their_number_and_not_beside_it() -> None:
    """Its open lines and no more; what is announced is refused without the number."""
    book = rules()
    play = sent(book)
    back = replace(order("RT-1", ("SHK-08", 5), carrier=None), kind=OrderKind.CUSTOMER_RETURN)
    play.do(acts.WriteOrder(back)).confirm("RT-1").do(acts.Wait(60)).done()
    takes(play).scan(bar("SHK-08")).refused("announced", "`RT-1`").press("leave")
    play.opens("F-RETURN")
    assert "RT-1" in [p.value for p in play.question().picks]
    play.scan("RT-1").asks("return_item").scan(bar("CLT-15")).refused("not_on_order").scan(bar("SHK-08")).type(
        "6"
    ).scan("RM-1", "tapped")
    play.press("nothing_seen").refused("more_than_ordered", "5 pieces")
    play.press("leave").opens("F-RETURN").scan("RT-1")
    line(play, "SHK-08", "5", "RM-1")
    play.press("finish_return").done("Return `RT-1`")
    assert play.state.line_progress(OrderNo("RT-1"), 1).arrived == 5
    sound(play)
    play.press("leave") if play.question() else None
    play.opens("F-RETURN").scan("RT-1").refused("order_complete")


def test_numbered_pieces_are_those_that_were_shipped_to_them() -> None:
    """A number somebody else got, or nobody, is refused; the right one comes back as what it is marked."""
    play = sent(rules(), numbered("SO-1", ("SHK-08", 2), ("PLOT-12", 1)))
    piece = next(p.serials[0] for d in play.state.departures.values() for p in d.parcels if p.serials)
    other = next(
        n
        for x in play.state.lines(ItemCode("PLOT-12"))
        for n in play.state.serials.at(on_plate(x.plate) if x.plate else in_bin(x.bin), x.goods)
    )
    takes(play).scan(bar("PLOT-12")).asks("return_serials").scan(other).refused("other_piece").scan(piece).press(
        "all_pieces"
    )
    play.scan("RM-4", "tapped").press("nothing_seen").press("finish_return").done()
    lies = play.state.serials.where(ItemCode("PLOT-12"), piece)
    assert lies.spot is not None and lies.goods.status is Status.QUARANTINE
    sound(play)


def test_onto_a_plate_with_several_marks() -> None:
    """All of it stands on one plate, each kind with its own status."""
    book = rules()
    flows = tuple(
        replace(f, plate_by=PlateBy.MADE, plate_kind=PlateKindCode("PAL")) if f.purpose is FlowPurpose.RETURN else f
        for f in book.flows
    )
    play = sent(replace(book, flows=flows))
    takes(play)
    line(play, "SHK-08", "2", "RM-1")
    line(play, "SHK-08", "3", "RM-3")
    play.press("finish_return").done("Return `RNR-0001`")
    plate = next(
        p
        for p in play.state.plates.values()
        if p.receipt and p.goods and p.goods[0].item == "SHK-08" and sum(g.quantity for g in p.goods) == 5
    )
    assert sorted((g.status.value, g.quantity) for g in plate.goods) == [("available", 2), ("damaged", 3)]
    sound(play)


def test_what_could_not_be_told_apart_in_stock_is_taken_back_one_after_the_other() -> None:
    """To be repaired and scrap are both damaged, and go to two places; broken by themselves is scrap, too."""
    play = takes(sent(rules()))
    line(play, "SHK-08", "2", "RM-2")
    play.asks("return_item").scan(bar("SHK-08")).type("3").scan("RM-3", "tapped")
    play.refused("one_stock", "2 pieces of Bow shackle 8 mm are on the list as To be repaired: both are damaged then")
    play.press("back").press("back").press("finish_return").done("Return `RNR-0001`")
    takes(play)
    line(play, "SHK-08", "3", "RM-3")
    line(play, "SHK-08", "1", "RM-5")
    play.press("finish_return").done("Return `RNR-0002`")
    goes = [state.goes for key, state in play.state.returned.items()]
    assert goes == [Disposition.REPAIR, Disposition.SCRAP, Disposition.SCRAP]
    sound(play)


def test_somebody_who_is_no_customer_goes_by_the_rule_for_such() -> None:
    """Without one the button is not there; with one it is written down under its partner, refused, held or accepted as it says; customers are
    not concerned."""
    play = takes(sent(rules()), "nobody at all").refused("unknown_customer")
    play.press("no_customer").refused("only_customers")
    for otherwise in Otherwise:
        known = replace(RULE, id=ReturnRuleId("RA-7"), stranger=PartnerCode("C-510"), never_shipped=otherwise)
        play = sent(replace(rules(), return_rules=(known, RULE)))
        play.opens("F-RETURN").press("no_customer").done().asks("return_item").scan(bar("SHK-08"))
        if otherwise is Otherwise.REFUSE:
            play.refused("not_accepted", "was ever shipped to Fennick")
            continue
        if otherwise is Otherwise.HOLD:
            play.asks("yes_no").press("yes")
        play.type("2").scan("RM-1", "tapped").press("nothing_seen").press("finish_return").done(
            "of Fennick and Daughters"
        )
        (marked,) = play.state.returned.values()
        assert bool(marked.held) == (otherwise is Otherwise.HOLD) and marked.partner == "C-510"
        assert (
            judge(
                play.state,
                play.world.rulebook,
                YARD,
                GROUND.items[ItemCode("SHK-08")],
                2,
                play.world.stamp("", play.person).today,
            ).number
            == 2
        )
        sound(play)
    lost = replace(RULE, id=ReturnRuleId("RA-7"), stranger=PartnerCode("C-000"))
    assert "unknown_stranger" in [f.code for f in findings_of(rules(lost, RULE), GROUND, HQ)]
    assert "no customer here" in words_of(return_sentence(lost, GROUND))


def test_rules_and_marks_that_do_nothing_are_findings() -> None:
    """A rule under one for everything, days below zero, a group nobody is of; a mark without a place; takers without rules."""
    bad = replace(RULE, id=ReturnRuleId("RA-2"), days=-1, partner_groups=("Nobody",))
    codes = [f.code for f in findings_of(rules(RULE, bad), GROUND, HQ)]
    assert codes == ["never_reached", "bad_days", "nothing_like_it"]
    lost = tuple(replace(x, rules=tuple(r for r in x.rules if r.applies.dispositions)) for x in BOOK.bin_rules)
    book = replace(rules(), bin_rules=lost)
    assert [f.code for f in findings_of(book, GROUND, HQ)] == ["no_place", "no_place"]
    assert [f.code for f in findings_of(replace(rules(), return_rules=(), return_marks=()), GROUND, HQ)] == [
        "nothing_accepted",
        "no_marks",
    ]
    assert [f.code for f in findings_of(replace(rules(), menus=()), GROUND, HQ)] == ["nobody_takes"]
    assert [f.code for f in findings_of(replace(rules(), step_plans=()), GROUND, HQ)] == ["no_plan"]


drawn = st.lists(
    st.tuples(st.sampled_from(["SHK-08", "CLT-15", "SHK-10"]), st.integers(1, 24), st.sampled_from(["RM-1", "RM-3", None]), st.sampled_from(["note", "note", "drop", "finish", "wait"])),
    max_size=12,
)  # fmt: skip


@tried(25)
@given(drawn, st.sampled_from(list(Accepts)), st.sampled_from(list(Otherwise)))
def test_no_more_comes_back_than_was_shipped_unless_somebody_says_so(
    some: list[tuple[str, int, str | None, str]], accepts: Accepts, otherwise: Otherwise
) -> None:  # fmt: skip
    """Whatever is scanned, dropped and finished: accepted is never more than was shipped in the window; what is held is never credited; the books balance."""
    play = sent(rules(accepts=accepts, never_shipped=otherwise))
    shipped = {"SHK-08": 20, "CLT-15": 3}
    for item, much, mark, what in some:
        if what == "note":
            play.do(acts.NoteReturn(YARD, ItemCode(item), much, mark=ReturnMarkId(mark) if mark else None))
        elif what == "drop":
            play.do(acts.DropReturnLine(much % 4))
        elif what == "finish":
            play.do(acts.FinishReturn())
        else:
            play.do(acts.Wait(much * 86_400))
        assert broken(play.state) == []
    accepted: dict[str, int] = {}
    for m in play.state.returned.values():
        if not m.held:
            accepted[m.item] = accepted.get(m.item, 0) + m.quantity
        assert not (m.held and m.credits)
    if otherwise is not Otherwise.ACCEPT:
        assert all(n <= shipped.get(item, 0) for item, n in accepted.items())
    if accepts is Accepts.NEVER:
        assert not accepted
    sound(play)


@pytest.mark.parametrize("much", [0, -1])
def test_nothing_comes_back_in_no_quantity(much: int) -> None:
    sent(rules()).do(acts.NoteReturn(YARD, ItemCode("SHK-08"), much)).refused("not_above_zero")
