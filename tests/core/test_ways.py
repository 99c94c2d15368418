"""Ways to receive: by order and item, by line number, by item alone; more and less than ordered; delivery notes; when the host is told."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.ids import ItemCode, NoticeNo, OrderNo, PlateKindCode, PromptId, ReceiptNo, SiteCode
from mindful_crate.core.catalog.notices import Notice
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.state import State
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.proving.work_lists import work_lists
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Check, Each, OtherBin, PlateBy, Prompt
from mindful_crate.core.rulebook.steps import BookingPoint, DeliveryNote, Over, Tolerance
from mindful_crate.core.work.host.decide import in_host
from mindful_crate.core.world import acts
from mindful_crate.core.world.acts import OfficeLine
from mindful_crate.core.world.invariants import broken
from tests.playbook import Play, barcode, from_snapshot, new_world
from tests.properties import tried


def planned(book: Rulebook, booking: BookingPoint | None = None, **receive: Any) -> Rulebook:
    """The demo's rules with another way to receive purchase orders."""
    plans = tuple(
        evolve(p, booking=booking, receive=evolve(p.receive, **receive)) if p.id == "SP-1" else p
        for p in book.step_plans
    )
    return evolve(book, step_plans=plans)


def asking(book: Rulebook, *asks: Asks, loose: bool = False, scan: tuple[Asks, ...] = ()) -> Rulebook:
    """The demo's rules with a first flow that asks for these, in this order."""
    prompts = tuple(
        Prompt(
            PromptId(f"PR-X{n}"),
            a,
            Each.ONCE if a in (Asks.ORDER, Asks.NOTE, Asks.PLATE) else Each.LINE,
            Check.SCAN if a in scan else Check.BELIEVE,
        )
        for n, a in enumerate(asks)
    )
    by = PlateBy.NONE if loose else PlateBy.MADE
    flows = tuple(evolve(f, prompts=prompts, plate_by=by) if f.id == "F-RECEIVE" else f for f in book.flows)
    return evolve(book, flows=flows)


ORDINARY = (Asks.ORDER, Asks.NOTE, Asks.PLATE, Asks.ITEM, Asks.EXPIRY, Asks.LOT, Asks.QUANTITY)


def progress(play: Play, order: str, line: int) -> tuple[int, int, int, int]:
    """Arrived, booked, more than ordered, not waited for."""
    done = play.state.line_progress(order, line)
    return done.arrived, done.booked, done.over, done.closed


def sound(play: Play) -> None:
    """What is always true is, and the snapshot says the same."""
    state: State = play.state
    assert broken(state) == [] and from_snapshot(state).kept() == state.kept()


def test_more_than_ordered_is_refused_asked_or_taken(ground: Ground, rulebook: Rulebook) -> None:
    """Within five per cent of 500 pieces, over all receipts of the line; beyond it always refused, saying how much more is taken."""
    code = barcode(ground, "SHK-08", "pc")
    strict = Play(new_world(ground, rulebook)).opens("F-RECEIVE").scan("PO-1001").scan(code)
    strict.type("501").refused("more_than_ordered")
    warned = (
        Play(new_world(ground, planned(rulebook, over=Over.WARN, more=Tolerance(5))))
        .opens("F-RECEIVE")
        .scan("PO-1001")
        .scan(code)
    )
    warned.type("530").refused("more_than_ordered", "at most 25 pieces more are taken")
    warned.type("520").done().asks("yes_no", "20 pieces of Bow shackle 8 mm are more than `PO-1001` has ordered")
    warned.press("no").asks("quantity").type("520").press("yes").done("20 pieces of Bow shackle 8 mm are more")
    warned.press("finish").done()
    assert progress(warned, "PO-1001", 1)[::2] == (520, 20)
    warned.scan(code).asks("quantity").type("6").refused("more_than_ordered", "at most 5 pieces more")
    warned.type("5").press("yes").done().press("finish").done()
    assert progress(warned, "PO-1001", 1)[::2] == (525, 25)
    warned.scan(code).refused("line_complete")
    sound(warned)
    taken = (
        Play(new_world(ground, planned(rulebook, over=Over.ACCEPT, more=Tolerance(0, 3))))
        .opens("F-RECEIVE")
        .scan("PO-1001")
        .scan(code)
    )
    taken.type("503").done("3 pieces of Bow shackle 8 mm are more than").press("change_line", 1, "501").done("1 piece")
    taken.press("change_line", 1, "504").refused("more_than_ordered").press("finish").done()
    assert progress(taken, "PO-1001", 1)[::2] == (501, 1)
    sound(taken)


def test_less_within_the_limit_is_all_and_the_rest_may_be_closed(ground: Ground, rulebook: Rulebook) -> None:
    """Ten lack of 500, within two per cent: the line is not waited for; of another the office closes the rest, and opens it again."""
    play = Play(new_world(ground, planned(rulebook, less=Tolerance(2)))).opens("F-RECEIVE").scan("PO-1001")
    play.scan(barcode(ground, "SHK-08", "pc")).type("490").press("finish").done(
        "10 pieces of Bow shackle 8 mm lack, and are not waited for"
    )
    assert progress(play, "PO-1001", 1)[::3] == (490, 10)
    play.scan(barcode(ground, "SHK-08", "pc")).refused("line_complete", "is not waited for any more")
    play.scan(barcode(ground, "SHK-10", "pc")).type("100").press("finish").done()
    assert progress(play, "PO-1001", 2)[3] == 0
    close = acts.CloseRest(OrderNo("PO-1001"), ItemCode("SHK-10"), "vendor is out of it")
    play.do(evolve(close, why=" ")).refused("no_reason").do(close).done("200 pieces", "vendor is out of it")
    play.do(close).refused("line_complete")
    play.scan(barcode(ground, "SHK-10", "pc")).refused("line_complete")
    again = acts.ReopenRest(OrderNo("PO-1001"), ItemCode("SHK-10"))
    play.do(again).done("200 pieces").do(again).refused("not_closed")
    play.scan(barcode(ground, "SHK-10", "pc")).asks("quantity")
    play.do(acts.CloseRest(OrderNo("PO-1001"), ItemCode("ROPE-12"), "not ours")).refused("not_on_order")
    sound(play)


def test_the_delivery_note_is_asked_as_the_plan_says(ground: Ground, rulebook: Rulebook) -> None:
    """Required: nothing goes on without it; asked anew of another order; optional: it may be left out; off: it is not asked."""
    code = barcode(ground, "SHK-08", "pc")
    must = asking(planned(rulebook, note=DeliveryNote.REQUIRED), *ORDINARY)
    play = Play(new_world(ground, must)).opens("F-RECEIVE").scan("PO-1001").asks("note", "delivery note")
    play.press("no_note").refused("not_now").scan("B-01-01-1").refused("wrong_kind").type("DN 4711").done(
        "Delivery note"
    ).asks("item")
    play.scan(code).type("10").scan("PO-1014").asks("note").type("DN 8").asks("item")
    play.scan(barcode(ground, "ROPE-12", "coil")).type("1").press("finish").done()
    receipt = next(iter(play.state.receipts.values()))
    assert [(x.order, x.note) for x in receipt.lines] == [("PO-1001", "DN 4711"), ("PO-1014", "DN 8")]
    play.do(
        acts.ReceiveInOffice(
            OrderNo("PO-1001"), (OfficeLine(ItemCode("SHK-08"), 1),), PlateKindCode("PAL"), why="by phone"
        )
    ).refused("no_delivery_note")
    lacks = (
        Play(
            new_world(
                ground, asking(planned(rulebook, note=DeliveryNote.REQUIRED), Asks.ORDER, Asks.ITEM, Asks.QUANTITY)
            )
        )
        .opens("F-RECEIVE")
        .scan("PO-1001")
        .scan(code)
    )
    lacks.type("10").refused("no_delivery_note")
    may = asking(planned(rulebook, note=DeliveryNote.OPTIONAL), *ORDINARY)
    play = Play(new_world(ground, may)).opens("F-RECEIVE").scan("PO-1001").asks("note").press("no_note").asks("item")
    play.scan(code).type("10").scan(code).asks("quantity")
    Play(new_world(ground, asking(rulebook, *ORDINARY))).opens("F-RECEIVE").scan("PO-1001").asks("item")


def test_a_flow_that_never_asks_for_the_note_is_found(ground: Ground, rulebook: Rulebook) -> None:
    """It stops what must have one, and is doubted where it may."""
    for note, severity in ((DeliveryNote.REQUIRED, "blocks"), (DeliveryNote.OPTIONAL, "doubt")):
        book = asking(
            planned(rulebook, note=note), Asks.ORDER, Asks.PLATE, Asks.ITEM, Asks.EXPIRY, Asks.LOT, Asks.QUANTITY
        )
        found = [
            f for f in findings(book, ground, SiteCode("HQ")) if f.code == "note_not_asked" and f.witness == "F-RECEIVE"
        ]
        assert {f.severity for f in found if f.place.startswith("step_plans/SP-1")} == {severity}


def test_by_item_alone_the_earliest_promised_is_served_first(ground: Ground, rulebook: Rulebook) -> None:
    """Rope is on two orders: what comes fills the one promised first, and the rest the next; more than both want is refused."""
    book = asking(rulebook, Asks.PLATE, Asks.ITEM, Asks.EXPIRY, Asks.LOT, Asks.QUANTITY)
    play = Play(new_world(ground, book)).confirm("PO-1007").opens("F-RECEIVE").asks("item", "Scan an item that came")
    assert all("first on" in p.note for p in play.question().picks) and len(play.question().picks) > 5
    play.scan("PO-1007").refused("wrong_kind", "an item that came").scan("RT-5001").refused("wrong_kind")
    play.scan(barcode(ground, "ROPE-12", "coil")).asks("quantity")
    assert play.question().note == "5,000 m still open on 2 orders", play.question().note
    play.type("26").refused("more_than_ordered").type("6").done("`LPR-000417` made").press("finish").done()
    lines = [(x.order, x.quantity) for x in next(iter(play.state.receipts.values())).lines]
    assert lines == [("PO-1014", 1000), ("PO-1007", 200)]
    play.scan(barcode(ground, "AIS-B", "case")).refused("not_on_order", "No open order wants")
    sound(play)


def test_the_number_of_a_notice_leads_to_its_order(ground: Ground, rulebook: Rulebook) -> None:
    """Whatever number the paper bears: the order's, or that of the notice that announces it."""
    play = Play(new_world(ground, rulebook)).do(acts.AnnounceOrder(OrderNo("PO-1001"))).done()
    notice = next(iter(play.state.notices))
    play.opens("F-RECEIVE").scan(str(notice).lower()).done(f"Notice `{notice}` of `PO-1001`").asks("item", "PO-1001")
    play.press("other_order").scan("AN-0000").refused("unknown_code")


def test_one_number_that_means_two_things_is_asked(ground: Ground, rulebook: Rulebook) -> None:
    """An order, and a notice of another order under its number: both are listed, and what is tapped is meant; where it must be scanned nobody
    could choose, and it is the order."""
    notice = Notice(NoticeNo("PO-1001"), OrderNo("PO-1002"), ())

    def play(book: Rulebook) -> Play:
        made = Play(new_world(ground, book))
        made.state.notices.put(notice.number, notice)
        return made.opens("F-RECEIVE").scan("PO-1001")

    asked = play(rulebook).done().asks("order")
    assert [p.value for p in asked.question().picks] == ["PO-1001", "PO-1002"]
    assert asked.question().note == "PO-1001 is an order and the number of a notice of PO-1002: choose which it is"
    asked.scan("PO-1001").asks("order").scan("PO-1002", "tapped").done().asks("item", "PO-1002")
    play(rulebook).scan("PO-1001", "tapped").done().asks("item", "PO-1001")
    strict = asking(rulebook, Asks.ORDER, Asks.ITEM, Asks.EXPIRY, Asks.LOT, Asks.QUANTITY, scan=(Asks.ORDER,))
    play(strict).done().asks("item", "PO-1001")


def test_a_suppliers_label_names_order_and_item_at_once(ground: Ground, rulebook: Rulebook) -> None:
    """One scan answers both; an order that nobody knows and another than the one being received are refused by name, and so is an item that is
    not on it: nothing is lost."""
    code = barcode(ground, "SHK-08", "box").zfill(14)

    def label(order: str, gtin: str = code) -> str:
        return f"]C101{gtin}400{order}"

    play = (
        Play(new_world(ground, rulebook)).opens("F-RECEIVE").scan(label("PO-9999")).refused("unknown_order", "PO-9999")
    )
    play.scan(label("PO-1003")).refused("not_on_order").asks("order")
    play.scan(label("PO-1001")).done("The label of `SHK-08` on order `PO-1001`").asks("quantity").type("5").done()
    play.scan(label("PO-1003")).refused("other_order", "PO-1003", "`PO-1001` is being received").asks("item")
    play.scan(label("PO-1001")).asks("quantity").type("1").done().press("finish").done()
    assert progress(play, "PO-1001", 1)[1] == 300
    Play(new_world(ground, rulebook)).opens("F-RECEIVE").scan("]C1400PO-1001").done("Order `PO-1001`").asks("item")
    sound(play)


def test_by_order_and_line_number(ground: Ground, rulebook: Rulebook) -> None:
    """The number says the item; where the item must be scanned too, another one is refused by name."""
    book = asking(rulebook, Asks.ORDER, Asks.LINE, Asks.ITEM, Asks.QUANTITY)
    play = Play(new_world(ground, book)).opens("F-RECEIVE").scan("PO-1001").asks("line", "Which line of PO-1001?")
    play.type("9").refused("no_such_line", "It has 1, 2 or 3").type("2").asks("quantity")
    assert play.question().note == "300 pieces still open on PO-1001, line 2"
    play.type("3").done().asks("line").press("finish").done()
    assert progress(play, "PO-1001", 2)[0] > 0
    strict = asking(rulebook, Asks.ORDER, Asks.LINE, Asks.ITEM, Asks.QUANTITY, scan=(Asks.ITEM,))
    play = Play(new_world(ground, strict)).opens("F-RECEIVE").scan("PO-1001").type("2").asks("item")
    play.scan(barcode(ground, "SHK-08", "pc")).refused("other_item", "Line 2 of `PO-1001` is for `SHK-10`")
    play.scan(barcode(ground, "SHK-10", "pc")).type("3").done("3 pieces of Bow shackle 10 mm")


def test_loose_goods_line_by_line(ground: Ground, rulebook: Rulebook) -> None:
    """Each line that is confirmed is a receipt, told to the host at once; nothing is to be finished."""
    book = asking(planned(rulebook, BookingPoint.LINE_CONFIRMED), Asks.ORDER, Asks.ITEM, Asks.QUANTITY, loose=True)
    play = Play(new_world(ground, book, book_seconds=0)).opens("F-RECEIVE").scan("PO-1001")
    play.scan(barcode(ground, "SHK-08", "pc")).type("10").done("Receipt `RCR-0093` finished").asks("item").press(
        "finish"
    ).refused("empty_plate")
    play.scan(barcode(ground, "SHK-10", "pc")).type("5").done("Receipt `RCR-0094` finished")
    assert [r.told for r in play.state.receipts.every()] == [True, True]
    sound(play)


@pytest.mark.parametrize("booking", [BookingPoint.LINES_DONE, BookingPoint.LINES_ASKED])
def test_the_host_is_told_when_the_order_is_done(ground: Ground, rulebook: Rulebook, booking: BookingPoint) -> None:
    """Two receipts of an order; with the second nothing is open: both are told at once, or now or later as the worker says."""
    play = Play(new_world(ground, planned(rulebook, booking))).opens("F-RECEIVE").scan("PO-1008")
    play.scan(barcode(ground, "FEN-15", "pc")).type("24")
    assert "finish_later" not in [b.action for b in play.question().buttons]
    play.press("finish").done()
    assert [r.told for r in play.state.receipts.every()] == [False]
    play.scan(barcode(ground, "FEN-20", "pc")).type("18")
    if booking is BookingPoint.LINES_ASKED:
        labels = [b.label for b in play.question().buttons]
        assert "Finish plate, tell the host" in labels and "Finish, tell the host later" in labels
        later = new_world(ground, planned(rulebook, booking))
        for entry in play.world.log:
            later.run(entry.command)
        other = Play(later).press("finish_later").done()
        assert not any(r.told for r in other.state.receipts.every())
        other.do(acts.BookReceipt(next(iter(other.state.receipts.values())).number)).done()
    else:
        play.press("finish_later").refused("not_now")
    play.press("finish").done("The host is told of")
    assert [r.told for r in play.state.receipts.every()] == [True, True]
    sound(play)


def test_closing_the_rest_tells_the_host_too(ground: Ground, rulebook: Rulebook) -> None:
    """What is not waited for any more keeps nothing back."""
    play = Play(new_world(ground, planned(rulebook, BookingPoint.LINES_DONE))).opens("F-RECEIVE").scan("PO-1008")
    play.scan(barcode(ground, "FEN-15", "pc")).type("24").press("finish").done()
    play.do(acts.CloseRest(OrderNo("PO-1008"), ItemCode("FEN-20"), "not made any more")).done("The host is told of")


@tried(30)
@given(st.lists(st.tuples(st.integers(1, 700), st.booleans()), max_size=8), st.integers(0, 30), st.integers(0, 40))
def test_no_more_arrives_than_is_taken(
    ground: Ground, rulebook: Rulebook, tries: list[tuple[int, bool]], percent: int, units: int
) -> None:
    """Whatever is tried, in whatever parts: what arrives of a line is at most what was ordered and the plan takes more."""
    play = (
        Play(new_world(ground, planned(rulebook, over=Over.ACCEPT, more=Tolerance(percent, units))))
        .opens("F-RECEIVE")
        .scan("PO-1001")
    )
    for quantity, finish in tries:
        play.scan(barcode(ground, "SHK-08", "pc"))
        if play.question().asks == "quantity":
            play.type(str(quantity))
        if play.question().asks == "quantity":
            play.press("back")
        elif finish:
            play.press("finish")
    done = play.state.line_progress("PO-1001", 1)
    assert done.noted + done.arrived <= 500 + max(500 * percent // 100, units)
    assert broken(play.state) == []


IN_ONE = (*ORDINARY, Asks.BIN)


def test_received_and_put_away_in_one(ground: Ground, rulebook: Rulebook) -> None:
    """What is finished is taken up by who received it, its bin asked before all else; then the next line of the order."""
    play = Play(new_world(ground, asking(rulebook, *IN_ONE, scan=(Asks.BIN,))))
    play.opens("F-RECEIVE").scan("PO-1001").scan(barcode(ground, "SHK-08", "box")).type("2").press("finish")
    play.done("Put-away task `TR-0204` made", "Take it up.").asks("bin", expect="R-01-02-3")
    play.offers("set_down", "Put it back", "where_else", "Where else?", "leave", "Leave").press("other_order").refused(
        "not_now", "what you carry"
    )
    play.type("R-01-02-3").refused("must_scan").scan("B-01-01-1").refused("bin_other_item")
    play.do(acts.BlockBin("R-01-02-3", "broken beam"))  # type: ignore[arg-type]
    play.scan("R-01-02-3").done("is blocked", "Take the plate to")
    other = play.question().expect
    assert other and other != "R-01-02-3"
    play.scan(other).done(f"stands in `{other}`").asks("item", "Scan an item of PO-1001")
    assert play.state.steps_done["oren"].number == "TR-0204"  # type: ignore[index]
    play.scan(barcode(ground, "SHK-10", "box")).type("1").press("finish").done("Take it up").press("leave")
    play.done("You still carry", "open the flow again to place it")
    play.opens("F-RECEIVE").asks("bin").press("set_down").done().asks("order").press("leave")
    sound(play)


def test_what_another_crew_puts_away_is_left_to_it(ground: Ground, rulebook: Rulebook) -> None:
    """So is what is inspected first; loose goods are taken task by task."""
    play = Play(new_world(ground, asking(rulebook, *IN_ONE)))
    play.opens("F-RECEIVE").scan("PO-1005").scan(barcode(ground, "ANC-16", "pc")).type("8").press("finish")
    worth = play.state.task_of("LPR-000417")  # type: ignore[arg-type]
    assert worth and worth.crew == "quay" and worth.person == "oren"
    play.scan(play.question().expect).done().press("leave")
    play.opens("F-RECEIVE").scan("PO-1006").scan(barcode(ground, "VHF-H", "case")).type("1").press("finish")
    play.done("To be inspected").asks("item").press("leave")
    hazard = evolve(rulebook, recipes=tuple(evolve(r, crew="hazard") for r in rulebook.recipes))
    play = Play(new_world(ground, asking(hazard, *IN_ONE)))
    play.opens("F-RECEIVE").scan("PO-1001").scan(barcode(ground, "SHK-08", "box")).type("2").press("finish")
    play.done("Put-away task").asks("item")
    sound(play)


def test_production_runs_is_complete_and_closed(ground: Ground, rulebook: Rulebook) -> None:
    """What the floor posts is one thing, how far the order is another: declared complete all that arrived is booked; it is closed only
    when nothing waits, and what did not come is given up with a reason; then nothing more is taken."""
    play, order = Play(new_world(ground, rulebook)), OrderNo("PR-4001")
    declare, close = acts.DeclareOutput(order), acts.CloseOutput(order)
    play.do(declare).refused("not_confirmed").confirm(order).do(close).refused("still_running")
    play.do(acts.DeclareOutput(OrderNo("PO-1001"))).refused("no_production")
    play.opens("F-RECEIVE").scan(order).scan(barcode(ground, "MOOR-12", "coil")).type("2").press("finish").done()
    play.scan(barcode(ground, "MOOR-12", "coil")).type("1").done()
    assert progress(play, order, 1)[:2] == (200, 0)
    play.do(declare).done("complete", "`RCR-0093` is booked with it").do(declare).refused("declared_already")
    play.do(close).refused("being_built", "LPR-000418")
    play.press("finish").done().press("leave").do(acts.Wait(120)).done().do(close).refused("not_booked", "RCR-0094")
    play.do(acts.BookReceipt("RCR-0094")).done().do(acts.Wait(120))  # type: ignore[arg-type]
    assert progress(play, order, 1)[:2] == (300, 300)
    play.do(close).refused("less_came", "300 m Mooring line 12 mm did not come")
    play.do(acts.CloseOutput(order, "machine down")).done("is given up").do(close).refused("closed_already")
    assert progress(play, order, 1) == (300, 300, 0, 300)
    play.opens("F-RECEIVE").scan(order).refused("order_held", "closed").press("leave")
    held = in_host(play.state, order)
    assert (held.state, held.arrived, held.ordered) == ("closed", 300, 600)
    sound(play)


def test_more_than_ordered_is_held_until_the_office_decides(ground: Ground, rulebook: Rulebook) -> None:
    """It goes onto a plate and a receipt of its own, kept apart and unknown to the host, to where held goods are put; taken it is stock
    like the rest, sent back it never came."""
    book = planned(rulebook, over=Over.HOLD, more=Tolerance(50))
    play = Play(new_world(ground, book))
    desk = Play(play.world, "tove", "x", ())
    desk.device = None  # type: ignore[assignment]
    play.opens("F-RECEIVE").scan("PO-1005").scan(barcode(ground, "ANC-10", "pc")).type("14").done(
        "2 pieces", "more than"
    )
    play.scan(barcode(ground, "ANC-16", "pc")).type("3").press("finish")
    play.done(
        "12 pieces Plough anchor 10 kg, 3 pieces",
        "Held apart, more than ordered: 2 pieces Plough anchor 10 kg",
        "LPR-000418",
    )
    play.press("leave")
    apart = play.state.plates.goods_on("LPR-000418")  # type: ignore[arg-type]
    assert [(g.item, g.quantity, g.status) for g in apart] == [("ANC-10", 2, "quarantine")]
    task = play.state.task_of("LPR-000418")  # type: ignore[arg-type]
    assert task and task.to_bin == "QUA-01" and task.going.remaining
    desk.do(acts.Wait(120)).done()
    assert progress(play, "PO-1005", 1) == (14, 12, 2, 0)
    (row,) = work_lists(play.state, book).not_booked
    assert (row.receipt, row.held, row.may_tell) == ("RCR-0094", True, False) and "sends it back" in row.why
    desk.do(acts.BookReceipt("RCR-0094")).refused("held")  # type: ignore[arg-type]
    desk.do(acts.UndoReceipt("LPR-000418")).refused("held")  # type: ignore[arg-type]
    sound(play)
    other = Play(new_world(ground, book))
    other.opens("F-RECEIVE").scan("PO-1005").scan(barcode(ground, "ANC-10", "pc")).type("12").press("finish").done()
    other.scan(barcode(ground, "ANC-10", "pc")).type("1").press("finish").done("Held apart").press("leave")
    take = acts.TakeSurplus(ReceiptNo("RCR-0094"))
    other.opens("F-PUTAWAY").scan("LPR-000418").done("QUA-01")
    other.do(take).refused("begun", "Put-away task `TR-0205` has begun").scan("QUA-01").done().press("leave")
    other.do(take).done("are taken, and the host is told", "Put-away task").do(take).refused("not_held")
    assert [g.status for g in other.state.plates.goods_on("LPR-000418")] == ["available"]  # type: ignore[arg-type]
    other.do(acts.Wait(120))
    assert progress(other, "PO-1005", 1) == (13, 13, 1, 0)
    sound(other)
    back = acts.SendSurplusBack(ReceiptNo("RCR-0094"), "with the same truck")
    desk.do(evolve(back, why="")).refused("no_reason").do(back).done("are sent back").do(back).refused("not_held")
    assert progress(play, "PO-1005", 1) == (12, 12, 0, 0) and not play.state.plates.goods_on("LPR-000418")  # type: ignore[arg-type]
    assert play.state.tasks[task.number].state == "cancelled"
    sound(play)


def test_loose_goods_more_than_ordered_are_held_too(ground: Ground, rulebook: Rulebook) -> None:
    """A receipt of their own, found where they lie; a plan that holds without rules for it is doubted."""
    loose = asking(planned(rulebook, over=Over.HOLD, more=Tolerance(50)), *ORDINARY, loose=True)
    play = Play(new_world(ground, loose))
    play.opens("F-RECEIVE").scan("PO-1005").scan(barcode(ground, "ANC-10", "pc")).type("13").press("finish")
    play.done("Held apart, more than ordered: 1 piece Plough anchor 10 kg").press("leave")
    held = next(r for r in play.state.receipts.values() if r.held)
    sound(play)
    play.do(acts.TakeSurplus(held.number)).done("are taken")
    sound(play)
    bare = evolve(loose, bin_rules=tuple(b for b in loose.bin_rules if b.purpose != "hold_at"))
    codes = [(f.code, f.place) for f in findings(bare, ground, SiteCode("HQ"))]
    assert ("no_hold_rules", "step_plans/SP-1/receive/over") in codes


def test_what_is_held_is_not_booked_with_the_output(ground: Ground, rulebook: Rulebook) -> None:
    """Declared complete, a production order books what was ordered; what is held is decided first, also before it is closed."""
    plans = tuple(
        evolve(p, receive=evolve(p.receive, over=Over.HOLD, more=Tolerance(50))) if p.id == "SP-3" else p
        for p in rulebook.step_plans
    )
    play, order = Play(new_world(ground, evolve(rulebook, step_plans=plans))).confirm("PR-4001"), OrderNo("PR-4001")
    play.opens("F-RECEIVE").scan(order).scan(barcode(ground, "MOOR-12", "coil")).type("7").press("finish").done(
        "Held apart"
    )
    play.press("leave").do(acts.DeclareOutput(order)).done("`RCR-0093` is booked with it").do(acts.Wait(120))
    assert progress(play, order, 1) == (700, 600, 100, 0)
    play.do(acts.CloseOutput(order)).refused("not_booked", "RCR-0094")
    play.do(acts.SendSurplusBack(ReceiptNo("RCR-0094"), "back to the loft")).done().do(acts.CloseOutput(order)).done()
    sound(play)


def test_the_bin_is_asked_before_anything_is_counted(ground: Ground, rulebook: Rulebook) -> None:
    """For each plate that is begun; the plan's own bin is shown, another lane as the flow has it, and no place where nothing is
    received; where the plan leaves a zone, any bin of it."""

    def into(other: OtherBin) -> Play:
        prompts = (Asks.ORDER, Asks.INTO, Asks.PLATE, Asks.ITEM, Asks.QUANTITY)
        book = asking(rulebook, *prompts)
        flows = tuple(evolve(f, other_bin=other) if f.id == "F-RECEIVE" else f for f in book.flows)
        return (
            Play(new_world(ground, evolve(book, flows=flows)))
            .opens("F-RECEIVE")
            .scan("PO-1001")
            .asks("into", expect="RCV-01")
        )

    play = into(OtherBin.WARN).scan("ROPE-12").refused("wrong_kind").scan("NO-BIN").refused("unknown_code")
    play.scan("R-01-02-3").refused("no_receiving_place").scan("RCV-03").asks("yes_no").press("yes").asks("item")
    play.scan(barcode(ground, "SHK-08", "box")).type("2").done().scan(barcode(ground, "SHK-10", "box")).type("1").done()
    play.press("finish").done("arrived in `RCV-03`").asks("into").scan("RCV-01").done()
    play.scan(barcode(ground, "SHK-08", "box")).type("1").press("finish").done("arrived in `RCV-01`").press("leave")
    play.confirm("RT-5002").opens("F-RECEIVE").scan("RT-5002").asks("into", expect="").scan("RCV-01").refused(
        "not_there"
    )
    play.scan("RET-01-2").done().asks("item")
    sound(play)
    into(OtherBin.NEVER).scan("RCV-03").refused("not_the_bin")
    into(OtherBin.REASON).scan("RCV-03").asks("reason")


def test_orders_are_listed_by_kind_and_day_and_found_by_typing(ground: Ground, rulebook: Rulebook) -> None:
    """Each says its kind and day; a typed part of a number, a partner or an item narrows the list, also where it must be scanned;
    what nothing reads like is refused as before."""
    play = Play(new_world(ground, rulebook)).opens("F-RECEIVE")
    picks = {p.value: p for p in play.question().picks}
    assert (picks["TI-3001"].kind, picks["PO-1001"].kind, picks["PO-1001"].day) == (
        "transfers",
        "purchases",
        "2026-03-02",
    )
    play.type("ropeworks").done()
    found = [p.value for p in play.question().picks]
    assert found and all(ground.orders[n].partner == "V-100" for n in found) and "ropeworks" in play.question().note
    play.type("spar varn").done()
    assert [p.value for p in play.question().picks] == ["PO-1010"]
    play.type("zzz").refused("unknown_code").scan("spar varn").refused("unknown_code").type("10").done()
    play.scan("PO-1010").done().press("other_order").done()
    assert len(play.question().picks) == len(picks), "the next list is whole again"


def test_what_is_open_of_a_long_order_is_kept_as_it_is_counted(ground: Ground, rulebook: Rulebook) -> None:
    """Line by line and item by item, whatever is noted, changed, taken off, closed, opened again or only tried."""
    first = ground.orders[OrderNo("PO-1001")]
    codes = ("SHK-08", "SHK-10", "SHK-12")
    lines = tuple(evolve(first.lines[0], no=n + 1, item=ItemCode(codes[n % 3]), quantity=7) for n in range(60))
    long = evolve(first, lines=lines)
    orders = tuple(long if o is first else o for o in ground.opening.orders)
    play = Play(new_world(Ground(evolve(ground.opening, orders=orders)), rulebook))

    def agree() -> None:
        state = play.state
        still = [(x, state.open_quantity(long, x)) for x in long.lines]
        assert state.lines_open(long) == sum(n > 0 for _, n in still)
        for code in map(ItemCode, codes):
            assert state.ordered.open_of_item(long, code) == sum(max(0, n) for x, n in still if x.item == code)
            assert state.ordered.lines_wanting(long, code) == [x for x, n in still if x.item == code and n > 0]
        assert set(state.ordered.open_items(long)) == {x.item for x, n in still if n > 0}

    agree()
    play.opens("F-RECEIVE").scan("PO-1001")
    for much in ("10", "25", "105"):
        play.scan(barcode(ground, "SHK-08", "pc")).type(much).done()
        agree()
    play.press("change_line", 1, "3").done()
    agree()
    play.press("remove_line", 2).done()
    agree()
    play.press("finish").done().press("leave")
    for act in (
        acts.CloseRest(long.number, ItemCode("SHK-10"), "sold out"),
        acts.ReopenRest(long.number, ItemCode("SHK-10")),
    ):
        play.do(act).done()
        agree()
    with play.state.tentatively():
        play.state.progress.add(LineKey(long.number, 3), 9, noted=7)
        agree()
    agree()
    sound(play)
