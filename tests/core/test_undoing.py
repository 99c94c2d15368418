"""Undoing finished steps in reverse: by who did the last, and in the office; what stands in the way is named, and the host is asked."""

from __future__ import annotations

from typing import Any

import pytest

from mindful_crate.core.catalog.ids import (
    CrewId,
    FlowId,
    ItemCode,
    LegId,
    OrderNo,
    PlateKindCode,
    PlateNo,
    PromptId,
    TaskNo,
    ZoneCode,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.bin_rules import Conditions, LookIn, Wants
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Flow, FlowPurpose, PlateBy, Prompt
from mindful_crate.core.rulebook.recipes import Leg
from mindful_crate.core.rulebook.steps import Begins, BookingPoint, Found, Tolerance
from mindful_crate.core.world import acts
from mindful_crate.core.world.acts import OfficeLine, Verdict
from mindful_crate.core.world.invariants import broken
from tests.playbook import Play, barcode, from_snapshot, new_world

UNDO = Flow(FlowId("F-UNDO"), "Undo", FlowPurpose.UNDO_LAST, (Prompt(PromptId("PR-U"), Asks.LAST),))


def may_undo(book: Rulebook, booking: BookingPoint = BookingPoint.BY_HAND, **away: Any) -> Rulebook:
    """The demo's rules, and every step of purchase orders may be undone."""
    plans = tuple(
        evolve(
            p, booking=booking, receive=evolve(p.receive, undo=True), inspect=evolve(p.inspect, undo=True, sample=0),
            put_away=evolve(p.put_away, undo=True, **away),
        )
        if p.id in ("SP-1", "SP-5") else p
        for p in book.step_plans
    )  # fmt: skip
    menus = tuple(evolve(m, flows=(*m.flows, UNDO.id)) if m.id == "MN-1" else m for m in book.menus)
    return evolve(book, step_plans=plans, flows=(*book.flows, UNDO), menus=menus)


def receive(play: Play, ground: Ground, item: str = "SHK-08", quantity: str = "50", order: str = "PO-1001") -> Play:
    """Some of an order, finished on a plate."""
    play.opens("F-RECEIVE").scan(order).scan(barcode(ground, item, "pc")).type(quantity)
    return play.press("finish").done().press("leave")


def receipt(plate: str = "LPR-000417", why: str = "") -> acts.UndoReceipt:
    return acts.UndoReceipt(PlateNo(plate), why)


def task(number: str = "TR-0204", why: str = "") -> acts.UndoTask:
    return acts.UndoTask(TaskNo(number), why)


def sound(play: Play) -> None:
    """What is always true is, and the snapshot says the same."""
    assert broken(play.state) == [] and from_snapshot(play.state).kept() == play.state.kept()


@pytest.fixture
def play(ground: Ground, rulebook: Rulebook) -> Play:
    """A world in which every step may be undone and nothing is booked by itself."""
    return Play(new_world(ground, may_undo(rulebook)))


def test_every_step_in_reverse_by_who_finished_it(ground: Ground, play: Play) -> None:
    """Put away, undone; then the receipt, undone: the plate is built again, the order open as before; finished anew it gets another
    number."""
    receive(play, ground).opens("F-PUTAWAY").scan("LPR-000417")
    bin_ = play.question().expect
    play.scan(bin_).done().press("leave")
    play.do(receipt()).refused("not_your_last")
    play.opens("F-UNDO").asks("last", "Undo what you finished last?")
    assert [p.value for p in play.question().picks] == ["TR-0204"]
    play.scan("B-01-01-1").refused("wrong_kind", "is not what you finished last").scan("LPR-000417").asks(
        "yes_no", "to be taken back to `RCV-01`"
    )
    play.press("no").asks("last").scan("TR-0204", "tapped").press("yes").done("`TR-0204` is undone", "`RCV-01`")
    assert play.state.bin_of("LPR-000417") == "RCV-01" and not play.state.standing(bin_)
    again = play.state.tasks["TR-0204"]
    assert (again.state, again.to_bin, again.person) == ("open", bin_, None)
    play.asks("last", "There is nothing of yours to undo").press("leave")
    office = Play(play.world, "tove", "x")
    office.device = None  # type: ignore[assignment]
    office.do(receipt(why="counted wrongly")).done(
        "Plate `LPR-000417` is being built again", "`TR-0204` will not be done"
    )
    done = play.state.line_progress("PO-1001", 1)
    assert (done.noted, done.arrived, play.state.quantity_in("RCV-01", "SHK-08")) == (50, 0, 0)
    assert play.state.plate("LPR-000417").building and play.state.receipts["RCR-0093"].undone
    office.do(receipt()).refused("no_receipt")
    office.do(task()).refused("not_done")
    play.opens("F-RECEIVE").scan("PO-1001").scan("LPR-000417").press("change_line", 1, "48").press("finish").done(
        "receipt `RCR-0094`"
    )
    assert play.state.line_progress("PO-1001", 1).arrived == 48
    sound(play)


def test_what_stands_in_the_way_is_named(ground: Ground, rulebook: Rulebook) -> None:
    """A put-away that has begun, or is done; goods kept for somebody; what is no step."""
    book = may_undo(rulebook)
    anywhere = (
        evolve(
            next(x for x in book.bin_rules if x.purpose == "put_away").rules[-1].targets[0],
            look_in=LookIn(),
            wants=Wants.ANY,
            prefer=(),
        ),
    )
    lists = tuple(
        evolve(x, rules=(evolve(x.rules[0], applies=Conditions(), targets=anywhere, split=True),))
        if x.purpose.takes
        else x
        for x in book.bin_rules
    )
    play = receive(Play(new_world(ground, evolve(book, bin_rules=lists))), ground)
    office = Play(play.world, "tove", "x")
    office.device = None  # type: ignore[assignment]
    undo = receipt()
    play.opens("F-PUTAWAY").scan("LPR-000417").done()
    office.do(undo).refused("begun", "Put-away task `TR-0204` has begun")
    play.scan(play.question().expect).done().press("leave")
    office.do(undo).refused("begun", "`TR-0204` has moved it on: undo that first")
    office.do(acts.ReserveStock("a customer", ItemCode("SHK-08"), 10_000)).done()
    office.do(task()).refused("goods_kept", "for a customer: let that go first")
    office.do(task("TR-9999")).refused("no_step")
    office.do(receipt("LP-000001")).refused("no_receipt")
    sound(play)


def test_a_plan_that_says_no(ground: Ground, rulebook: Rulebook) -> None:
    """It is named."""
    never = tuple(evolve(p, receive=evolve(p.receive, undo=False)) for p in rulebook.step_plans)
    play = receive(Play(new_world(ground, evolve(rulebook, step_plans=never))), ground)
    play.do(receipt()).refused("no_undo", "Purchase receipts")


def test_what_the_host_has_booked_is_asked_first(ground: Ground, rulebook: Rulebook) -> None:
    """Until it answers nobody goes on; it agrees: undone, and booked no more; it does not: all stands as before."""
    for refuses in ("", "period is closed"):
        play = Play(new_world(ground, may_undo(rulebook, BookingPoint.PLATE_FINISHED), book_seconds=5))
        receive(play, ground)
        assert play.state.receipts["RCR-0093"].booked
        play.do(acts.SetHost(evolve(play.state.host, refuses=refuses, book_seconds=60))).done()
        play.opens("F-UNDO").scan("LPR-000417").asks("yes_no", "The host has booked it and is asked first").press(
            "yes"
        ).done("is asked whether")
        play.press("leave").opens("F-PUTAWAY").scan("LPR-000417").refused("task_held", "the host is asked").press(
            "leave"
        )
        play.do(receipt()).refused("undo_asked")
        play.do(acts.Wait(120)).done()
        done = play.state.line_progress("PO-1001", 1)
        if refuses:
            assert (done.arrived, done.booked) == (50, 50) and not play.state.receipts["RCR-0093"].undoing
            play.opens("F-PUTAWAY").scan("LPR-000417").asks("bin")
        else:
            assert (done.noted, done.arrived, done.booked) == (50, 0, 0)
            assert play.state.plate("LPR-000417").building
        sound(play)


def test_a_message_that_came_back_cannot_book_what_was_undone(ground: Ground, rulebook: Rulebook) -> None:
    """The host refused a receipt, which is undone without asking; sending the old message again is refused."""
    play = Play(new_world(ground, may_undo(rulebook, BookingPoint.PLATE_FINISHED), book_seconds=0))
    play.do(acts.SetHost(evolve(play.state.host, refuses="period is closed", book_seconds=0)))
    receive(play, ground)
    message = next(m.number for m in play.state.messages.every() if m.topic == "book_receipt")
    play.opens("F-UNDO").scan("LPR-000417").press("yes").done("`RCR-0093` is undone").press("leave")
    play.do(acts.SetHost(evolve(play.state.host, refuses=""))).do(acts.RepeatMessage(message)).refused(
        "overtaken", "was undone since"
    )
    sound(play)


def test_what_was_not_waited_for_with_a_receipt_is_waited_for_again(ground: Ground, rulebook: Rulebook) -> None:
    """Ten of 500 lacked little enough: undone, all 500 may be noted again; what the office opened meanwhile is not opened twice."""
    plans = tuple(evolve(p, receive=evolve(p.receive, less=Tolerance(2))) for p in may_undo(rulebook).step_plans)
    for opened in (False, True):
        play = Play(new_world(ground, evolve(may_undo(rulebook), step_plans=plans)))
        receive(play, ground, quantity="490")
        assert play.state.line_progress("PO-1001", 1).closed == 10
        if opened:
            play.do(acts.ReopenRest(OrderNo("PO-1001"), ItemCode("SHK-08"))).done()
        play.opens("F-UNDO").scan("LPR-000417").press("yes").done().press("leave")
        assert play.state.line_progress("PO-1001", 1).closed == 0
        play.opens("F-RECEIVE").scan("PO-1001").scan("LPR-000417").press("change_line", 1, "500").done()
        sound(play)


def test_a_way_with_a_hand_over_is_undone_part_by_part(ground: Ground, rulebook: Rulebook) -> None:
    """The next part rests on demand: it ends with the part that is undone, and the plate is back where it was taken."""
    leg = Leg(LegId("LG-1"), CrewId("quay"), Found(ZoneCode("STG")), Begins.ON_DEMAND)
    recipes = tuple(evolve(r, legs=(leg,)) if r.id == "RE-1" else r for r in may_undo(rulebook).recipes)
    play = Play(new_world(ground, evolve(may_undo(rulebook), recipes=recipes)))
    receive(play, ground).opens("F-PUTAWAY").scan("LPR-000417")
    play.scan(play.question().expect).done("waits in").press("leave")
    assert [r.leg for r in play.state.rests.values()] == [1]
    play.opens("F-UNDO").scan("LPR-000417").press("yes").done()
    assert len(play.state.rests) == 0 and play.state.bin_of("LPR-000417") == "RCV-01"
    sound(play)


def test_an_answer_of_the_host_that_comes_too_late_changes_nothing(ground: Ground, rulebook: Rulebook) -> None:
    """The plate was moved meanwhile, which nobody held: the host is told that it was not undone after all."""
    book = may_undo(rulebook, BookingPoint.PLATE_FINISHED, on=False)
    play = receive(Play(new_world(ground, book, book_seconds=5)), ground)
    play.do(acts.SetHost(evolve(play.state.host, book_seconds=60))).opens("F-UNDO").scan("LPR-000417").press(
        "yes"
    ).done().press("leave")
    play.opens("F-MOVEPLATES").scan("LPR-000417").press("go_on").scan("RCV-02").press("yes").done().press("leave")
    play.do(acts.Wait(120)).done()
    assert play.state.line_progress("PO-1001", 1).booked == 50 and not play.state.receipts["RCR-0093"].undoing
    sound(play)


def test_loose_goods_put_into_several_bins_come_back(ground: Ground, rulebook: Rulebook) -> None:
    """What was divided lies together again where it was received, and the receipt is built again under its number."""
    flows = tuple(evolve(f, plate_by=PlateBy.NONE) if f.id == "F-RECEIVE" else f for f in may_undo(rulebook).flows)
    play = Play(new_world(ground, evolve(may_undo(rulebook), flows=flows)))
    play.opens("F-RECEIVE").scan("PO-1001").scan(barcode(ground, "SHK-08", "pc")).type("60").press(
        "finish"
    ).done().press("leave")
    play.opens("F-PUTAWAY").scan("SHK-08")
    free = [b.code for b in ground.bins.values() if b.bin_type == "SHELF" and not play.state.loose(b.code)]
    while play.question().asks == "bin":
        play.scan(play.question().expect or free.pop())
    play.press("leave").opens("F-UNDO").scan("TR-0204", "tapped").press("yes").done()
    assert play.state.quantity_in("RCV-01", "SHK-08") == 60
    play.press("leave")
    office = Play(play.world, "tove", "x")
    office.device = None  # type: ignore[assignment]
    office.do(receipt("RCR-0093")).done("Receipt `RCR-0093` is being built again")
    assert play.state.quantity_in("RCV-01", "SHK-08") == 0
    play.opens("F-RECEIVE").scan("PO-1001").scan("RCR-0093").press("finish").done("Receipt `RCR-0093` finished")
    sound(play)


def test_an_inspection_is_undone_until_something_has_begun(ground: Ground, play: Play) -> None:
    """All passed: it waits again. A part failed and stands apart: that is moved back, not undone."""
    play.do(
        acts.ReceiveInOffice(
            OrderNo("PO-1006"), (OfficeLine(ItemCode("VHF-H"), 24),), PlateKindCode("PAL"), why="no label"
        )
    ).done()
    plate, number = "LPR-000417", "TR-0204"
    lotte = Play(play.world, "lotte", "H7", ("inspect", "quay"))
    lotte.opens("F-INSPECT").scan(plate).scan("INS-01").type("pass").done().press("leave")
    lotte.opens("F-UNDO").scan(number, "tapped").press("yes").done(
        "waits in `INS-01` for its inspection again", "`TR-0205` will not be done"
    )
    assert {g.status.value for g in play.state.plates.goods_on(plate)} == {"inspect"}
    lotte.press("leave").opens("F-INSPECT").scan(plate).asks("verdict").type("partly").type("2").type("damaged").press(
        "no_remark"
    ).done().press("leave")
    lotte.opens("F-UNDO").scan(number, "tapped").refused("parted", "on a plate of its own")
    sound(play)


def test_a_hand_over_that_waits_is_taken_back(ground: Ground, rulebook: Rulebook) -> None:
    """What rests after a step ends with it."""
    play = Play(new_world(ground, may_undo(rulebook, begins=Begins.ON_DEMAND)))
    receive(play, ground)
    assert len(play.state.rests) == 1
    play.opens("F-UNDO").scan("LPR-000417").press("yes").done()
    assert len(play.state.rests) == 0 and play.state.plate("LPR-000417").building
    sound(play)


def test_verdicts_of_the_office_are_undone_there(ground: Ground, play: Play) -> None:
    """The office undoes what anybody finished, with a reason that the log keeps."""
    play.do(
        acts.ReceiveInOffice(
            OrderNo("PO-1006"), (OfficeLine(ItemCode("VHF-H"), 24),), PlateKindCode("PAL"), why="no label"
        )
    ).done()
    office = Play(play.world, "tove", "x")
    office.device = None  # type: ignore[assignment]
    office.do(acts.InspectInOffice("TR-0204", (Verdict(ItemCode("VHF-H")),), "seen there")).done()  # type: ignore[arg-type]
    office.do(task(why="x" * 121)).refused("too_long")
    office.do(task(why="wrong plate")).done()
    assert "wrong plate" in play.world.log[-1].outcome.events[-1].why
    sound(play)
