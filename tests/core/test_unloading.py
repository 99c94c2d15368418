"""Unloading what comes: by order, notice, plate or truck; what may be received then; ended, and undone."""

from __future__ import annotations

import pytest

from mindful_crate.core.catalog.ids import (
    BinCode,
    OrderNo,
    PlateNo,
    TruckNo,
    UnloadingNo,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.on_handset import order_shown
from mindful_crate.core.proving.undoable import undoable
from mindful_crate.core.proving.work_lists import work_lists
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Check
from mindful_crate.core.rulebook.steps import AnnounceStep, UnloadStep
from mindful_crate.core.work.matters import MACHINE
from mindful_crate.core.world import acts
from mindful_crate.core.world.invariants import broken
from tests.playbook import Play, barcode, from_snapshot, new_world

ORDER, SOAP = OrderNo("PO-1013"), "SOAP-5"


def told(book: Rulebook, **steps: object) -> Rulebook:
    """The demo's rules with another plan for care products."""
    return evolve(book, step_plans=tuple(evolve(p, **steps) if p.id == "SP-7" else p for p in book.step_plans))


def announced(play: Play) -> list[PlateNo]:
    """The two pallets on which soap and sealant come are announced."""
    play.do(acts.AnnounceOrder(ORDER)).done()
    return [p.number for p in play.state.announced_of(ORDER)]


def office(play: Play) -> Play:
    """Somebody at a desk."""
    found = Play(play.world, "tove", "x", ())
    found.device = None  # type: ignore[assignment]
    return found


@pytest.fixture
def play(ground: Ground, rulebook: Rulebook) -> Play:
    return Play(new_world(ground, rulebook))


def test_what_is_counted_at_the_door_may_then_be_received(play: Play, ground: Ground) -> None:
    """Not received before it is unloaded, and the handset says why; counted, it is no stock; done with the order."""
    play.opens("F-RECEIVE").scan(ORDER).refused("not_unloaded", "waits to be unloaded", "Care products by truck")
    play.press("leave")
    shown = order_shown(play.state, play.world.rulebook, play.state.order(ORDER))
    assert not shown.shown and "waits to be unloaded" in " ".join(a.says for a in shown.agrees)
    play.opens("F-UNLOAD").asks("delivery").scan("PO-1005").refused("no_unload", "Purchase receipts", "receive it")
    play.scan("SO-2001").refused("other_kind").scan(ORDER).done().asks("door", expect="DOOR-1")
    play.type("DOOR-1").refused("must_scan").scan("R-01-01-1").refused("no_door", "Reserve")
    play.scan("DOOR-2").done().asks("loads", "How many pallets and packages come off?")
    play.type("0").refused("no_count").type("1000").refused("no_count").type("1.5").refused("fraction")
    before = list(play.state.stock())
    play.type("4").done("4 pallets or packages of `PO-1013` in `DOOR-2`, unloading `PO-1013-U1`").asks("delivery")
    assert list(play.state.stock()) == before
    assert from_snapshot(play.state).kept() == play.state.kept()
    lists = work_lists(play.state, play.world.rulebook)
    assert [(x.order, x.what, x.at, x.still) for x in lists.at_door] == [
        (ORDER, "4 pallets or packages", "DOOR-2", "2 lines of the order open")
    ]
    assert ORDER not in [x.order for x in lists.to_unload] and ORDER in [x.order for x in lists.to_receive]
    play.press("leave")
    play.opens("F-RECEIVE").scan(ORDER).done().scan(barcode(ground, SOAP, "case")).type("5").done().press(
        "finish"
    ).done()
    assert work_lists(play.state, play.world.rulebook).at_door, (
        "a count stands as long as anything of the order is open"
    )
    play.press("leave").opens("F-UNDO").press("leave")
    office(play).do(acts.EndUnloading(UnloadingNo("PO-1013-U1"), "")).refused("no_reason")
    office(play).do(acts.EndUnloading(UnloadingNo("PO-1013-U1"), "the rest went back")).done()
    assert not work_lists(play.state, play.world.rulebook).at_door
    play.opens("F-RECEIVE").scan(ORDER).refused("not_unloaded", "all that was unloaded of it has been received")
    assert broken(play.state) == []


def test_announced_plates_come_off_one_by_one_from_a_truck(play: Play) -> None:
    """The truck says the door; its plates are scanned; each may be received once it is off, and no other before."""
    soap, sealant = announced(play)
    play.opens("F-UNLOAD").scan("TK-73").refused("goes_out").scan("TK-99").refused("unknown_code")
    play.scan("tk-72").done("Truck `TK-72` at `DOOR-2`").asks("delivery", "What comes off truck TK-72?")
    play.scan(soap).done("1 announced plate of `PO-1013` in `DOOR-2`").asks("loads", "Scan each announced plate")
    assert "1 of 2 announced plates are off" in play.question().note
    play.scan(soap).refused("unloaded_already", "DOOR-2").scan("LP-000064").refused("plate_here")
    play.scan("095200010000000041").refused("not_announced", "count it")
    other = play.other("ada", "H2").opens("F-RECEIVE").scan(sealant).refused("not_unloaded", sealant)
    other.scan(soap).done("as announced").press("finish").done()
    play.press("all_off").done().asks("delivery").scan(sealant).done().asks("delivery").press(
        "truck_done"
    ).done().press("leave")
    assert [u.truck for u in play.state.unloadings.values()] == [TruckNo("TK-72")] * 2, "receiving began between"
    rows = {x.unloading: x.still for x in work_lists(play.state, play.world.rulebook).at_door}
    assert rows == {"PO-1013-U2": "1 of 1 plate"}
    assert ORDER not in [x.order for x in work_lists(play.state, play.world.rulebook).to_unload]
    other.scan(sealant).done().press("finish").done()
    other.scan(ORDER).refused("order_complete")
    assert not work_lists(play.state, play.world.rulebook).at_door
    assert from_snapshot(play.state).kept() == play.state.kept() and broken(play.state) == []


def test_it_is_undone_in_reverse_while_nothing_of_it_was_received(play: Play, ground: Ground) -> None:
    """On the handset the last step, in the office any; what was received, or is on a plate, stands in the way by name."""
    soap, _ = announced(play)
    play.opens("F-UNLOAD").scan("PO-1013").scan("DOOR-1").scan(soap).type("2").done("1 announced plate and 2 pallets")
    play.press("leave").opens("F-RECEIVE").scan(ORDER).scan(barcode(ground, SOAP, "case")).type("5").done()
    undo = acts.UndoUnloading(UnloadingNo("PO-1013-U1"), "another order's")
    desk = office(play)
    desk.do(undo).refused("begun", "LPR-000417", "take its lines off")
    play.press("finish").done().press("leave")
    desk.do(undo).refused("begun", "RCR-0093", "undo that first")
    assert [(u.kind, u.why_not) for u in undoable(play.state, play.world.rulebook) if u.kind == "unloading"] == [
        ("unloading", "Receipt `RCR-0093` came of it: undo that first.")
    ]
    play.opens("F-UNDO").scan("LPR-000417").press("yes").done("is asked").press("leave")
    desk.do(acts.Wait(60))
    desk.do(undo).refused("begun")
    play.opens("F-RECEIVE").scan(ORDER).scan("LPR-000417").press("remove_line", 1).done().press("leave")
    desk.do(undo).done("did not come off").do(undo).refused("undone_already")
    play.opens("F-RECEIVE").scan(ORDER).refused("not_unloaded", "nothing of it was yet").press("leave")
    play.opens("F-UNLOAD").scan(soap).scan("DOOR-1").done("PO-1013-U2").press("leave")
    play.opens("F-UNDO").asks("last").scan("PO-1013").asks("yes_no").press("yes").done("`PO-1013-U2` is undone").press(
        "leave"
    )
    assert [u.undone > 0 for u in play.state.unloadings.values()] == [True, True]
    assert from_snapshot(play.state).kept() == play.state.kept()


def test_the_office_unloads_by_the_same_decisions(play: Play) -> None:
    """With a reason where the floor must scan, where the plan says, or at the door of the truck."""
    soap, sealant = announced(play)
    desk = office(play)
    desk.do(acts.UnloadInOffice(ORDER, count=2)).refused("no_reason", "where it is set down")
    why = "handset dead"
    desk.do(acts.UnloadInOffice(ORDER, why=why)).refused("nothing_unloaded")
    desk.do(acts.UnloadInOffice(ORDER, (soap, soap), why=why)).refused("said_twice")
    desk.do(acts.UnloadInOffice(ORDER, count=2, at=BinCode("P-01-01-1"), why=why)).refused("no_door")
    desk.do(acts.UnloadInOffice(ORDER, truck=TruckNo("TK-74"), count=1, why=why)).refused("goes_out")
    desk.do(acts.UnloadInOffice(ORDER, (soap, sealant), 3, why=why)).done(
        "2 announced plates and 3 pallets", "`DOOR-1`"
    )
    desk.do(acts.UnloadInOffice(ORDER, count=1, truck=TruckNo("TK-72"), why=why)).done("`DOOR-2`", "PO-1013-U2")


def test_a_door_that_is_named_is_not_asked_unless_it_must_be_scanned(ground: Ground, rulebook: Rulebook) -> None:
    """Believed, the plan's place is taken; an order that waits for its notice is not unloaded either."""
    believed = tuple(
        evolve(f, prompts=tuple(evolve(p, check=Check.BELIEVE) for p in f.prompts)) if f.id == "F-UNLOAD" else f
        for f in rulebook.flows
    )
    book = evolve(
        told(rulebook, unload=UnloadStep(True, BinCode("DOOR-1")), announce=AnnounceStep(True)), flows=believed
    )
    play = Play(new_world(ground, book))
    play.opens("F-UNLOAD").scan(ORDER).refused("not_announced_yet")
    soap, _ = announced(play)
    play.scan(ORDER).asks("loads")
    play.scan(soap).done("in `DOOR-1`")
    assert play.question().buttons[0].action == "all_off"
    assert MACHINE.flows["unload"].open_work  # type: ignore[index]
