"""Inspecting what has arrived: which goods stop, where they are looked at, what passes, fails, or is looked at again."""

from __future__ import annotations

from dataclasses import replace

import pytest

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import ItemCode, OrderNo, PlateKindCode, TaskNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.preview import of_rests
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, PlateBy
from mindful_crate.core.rulebook.steps import Begins, InspectStep
from mindful_crate.core.world import acts
from mindful_crate.core.world.acts import OfficeLine, Verdict
from tests.playbook import STARTS, Play, from_snapshot, new_world, unnumbered


def told(book: Rulebook, **step: object) -> Rulebook:
    """The demo's rules with another inspection of electronics."""
    plans = tuple(evolve(p, inspect=evolve(p.inspect, **step)) if p.id == "SP-5" else p for p in book.step_plans)
    return evolve(book, step_plans=plans)


def received(play: Play, *lines: tuple[str, int], finish: bool = True) -> str:
    """Electronics of PO-1006 on a pallet; its number."""
    every = tuple(OfficeLine(ItemCode(item), n) for item, n in lines)
    play.do(
        acts.ReceiveInOffice(OrderNo("PO-1006"), every, PlateKindCode("PAL"), why="pallet without label", finish=finish)
    ).done()
    return str(max(play.state.plates.cards.all()))


def inspector(play: Play) -> Play:
    """Somebody of the inspection crew."""
    found = Play(play.world, "lotte", "H7", ("inspect",))
    return found.opens("F-INSPECT")


def statuses(play: Play, plate: str) -> dict[str, int]:
    """What is on a plate, by status."""
    found: dict[str, int] = {}
    for goods in play.state.plates.goods_on(plate):
        found[goods.status.value] = found.get(goods.status.value, 0) + goods.quantity
    return found


@pytest.fixture
def ground(ground: Ground) -> Ground:
    """Plotters without numbers: which pieces fail is asked in the tests of serial numbers."""
    return unnumbered(ground)


@pytest.fixture
def play(ground: Ground, rulebook: Rulebook) -> Play:
    """A world in which electronics stop at the inspection, every piece of them looked at."""
    return Play(new_world(ground, told(rulebook, sample=0)))


def test_what_passes_is_brought_judged_and_goes_on(play: Play) -> None:
    """Goods stop with a status nobody may pick, are carried to the lanes, pass, and are put away; the host knew them before."""
    plate = received(play, ("PLOT-09", 12))
    play.done("To be inspected: `TR-0204` in `INS-01`")
    assert statuses(play, plate) == {"inspect": 12}
    mara = inspector(play).asks("inspected")
    assert mara.question().note == "1 waits to be inspected"
    mara.scan("B-01-01-1").refused("wrong_kind")
    mara.scan(plate).done("Take it to `INS-01`").asks("inspect_at", expect="INS-01")
    mara.offers("set_down", "Put it back", "leave", "Leave")
    mara.type("INS-01").refused("must_scan", "`INS-01`")
    mara.scan("QUA-01").refused("not_the_place", "Take it to `INS-01`")
    mara.scan("INS-02").done("stands in `INS-02`").asks("verdict", "Look at 12 pieces")
    mara.type("maybe").refused("not_among")
    mara.type("pass").done("12 pieces of Chart plotter 9 inch pass", "Put-away task")
    assert statuses(play, plate) == {"available": 12}
    task = play.state.task_of(plate)
    assert (task.need, task.from_bin, task.plan.recipe) == ("put_away", "INS-02", "RE-2")
    mara.asks("inspected").scan(plate).refused("no_task", "waits for no inspection")
    assert from_snapshot(play.state).kept() == play.state.kept()


def test_a_part_that_fails_stands_on_a_plate_of_its_own(play: Play) -> None:
    """What fails is split off at once, is held by the rules for that, and both plates are of the same receipt."""
    plate = received(play, ("PLOT-09", 12), ("VHF-H", 24))
    mara = inspector(play).scan(plate).scan("INS-01").asks("kind")
    assert [p.value for p in mara.question().picks] == ["PLOT-09", "VHF-H"]
    mara.scan("SHK-08").refused("not_waiting")
    mara.scan("PLOT-09").asks("verdict").type("partly").asks("failed")
    mara.type("12").refused("more_than_there", "step back")
    mara.type("3").asks("fault").type("broken").refused("not_among").type("damaged").asks("remark")
    assert (mara.question().photo, mara.question().picture) == (True, "PLOT-09")
    photo = "photo-0123456789abcdef"
    mara.type(photo).done("A photo").asks("remark")
    assert mara.question().picture == photo
    mara.type("screens cracked").done(
        f"3 pieces of Chart plotter 9 inch damaged (screens cracked, photo `{photo}`), 9 pieces pass", "1 more"
    )
    apart = next(n for n in play.state.plates.cards.all() if n != plate)
    assert statuses(play, plate) == {"available": 9, "inspect": 24} and statuses(play, apart) == {"damaged": 3}
    held = play.state.task_of(apart)
    assert held.to_bin == "QUA-01" and play.world.log[-1].outcome.trails[0].request.purpose == "hold_at"
    mara.asks("verdict", "24 pieces").type("fail").type("quarantine").press("no_remark").done("24 pieces", "kept apart")
    other = next(n for n in play.state.plates.cards.all() if n not in (plate, apart))
    assert statuses(play, plate) == {"available": 9} and statuses(play, other) == {"quarantine": 24}
    assert {play.state.plates.cards[n].receipt for n in (plate, apart, other)} == {
        play.state.plates.cards[plate].receipt
    }
    anna = Play(play.world, "jonah", "H8", ("store", "quay"))
    anna.opens("F-PUTAWAY").scan(apart).asks("bin", expect="QUA-01").scan("QUA-02").asks("yes_no").press("yes").done()
    assert play.state.bin_of(apart) == "QUA-02"


def test_a_whole_plate_that_fails_is_held_as_it_is(play: Play) -> None:
    """Nothing is split off when nothing passes."""
    plate = received(play, ("PLOT-12", 8))
    inspector(play).scan(plate).scan("INS-01").type("fail").type("quarantine").press("no_remark").done("kept apart")
    assert statuses(play, plate) == {"quarantine": 8} and play.state.task_of(plate).to_bin == "QUA-01"
    assert len(play.state.plates.cards.all()) == 1


def test_a_sample_that_fails_stops_all_of_it(ground: Ground, rulebook: Rulebook) -> None:
    """Four are looked at; one is not as it should be, so all are, and the task stays."""
    play = Play(new_world(ground, rulebook))
    plate = received(play, ("PLOT-09", 12))
    mara = inspector(play).scan(plate).scan("INS-01").asks("verdict", "Look at 4 pieces of 12 pieces")
    assert [p.value for p in mara.question().picks] == ["pass", "fail"]
    mara.type("fail").asks("remark").press("no_remark").done("look at all 12 pieces").asks(
        "verdict", "Look at 12 pieces"
    )
    assert statuses(play, plate) == {"inspect": 12}
    assert from_snapshot(play.state).kept() == play.state.kept()
    mara.press("leave").opens("F-INSPECT").scan(plate).asks("verdict", "Look at 12 pieces")
    mara.type("partly").type("1").type("damaged").press("no_remark").done("11 pieces pass")


def test_every_third_receipt_of_an_item_is_looked_at(ground: Ground, rulebook: Rulebook) -> None:
    """The first always; counted by item and partner, so another item begins anew."""
    play = Play(new_world(ground, told(rulebook, every=3)))
    stops = []
    for item in ("PLOT-09", "PLOT-09", "PLOT-09", "PLOT-09", "VHF-H"):
        play.do(
            acts.ReceiveInOffice(
                OrderNo("PO-1006"), (OfficeLine(ItemCode(item), 1),), PlateKindCode("PAL"), why="no label"
            )
        ).done()
        plate = max(play.state.plates.cards.all())
        stops.append(statuses(play, plate) == {"inspect": 1})
    assert stops == [True, False, False, True, True]


def test_who_finishes_sends_in_or_past_where_the_plan_allows(ground: Ground, rulebook: Rulebook) -> None:
    """The button says what it would do, and is not there where the plan decides."""
    play = (
        Play(new_world(ground, told(rulebook, sends=True))).opens("F-RECEIVE").scan("PO-1006").scan("PLOT-09").type("4")
    )
    assert ("finish_otherwise", "Finish, past the inspection") in [(b.action, b.label) for b in play.question().buttons]
    play.press("finish_otherwise").done("Put-away task")
    plate = max(play.state.plates.cards.all())
    assert statuses(play, plate) == {"available": 4}
    strict = (
        Play(new_world(ground, told(rulebook, sends=False)))
        .opens("F-RECEIVE")
        .scan("PO-1006")
        .scan("PLOT-09")
        .type("4")
    )
    strict.press("finish_otherwise").refused("not_yours_to_say").press("finish").done("To be inspected")


def test_loose_goods_are_looked_at_and_parted(ground: Ground, rulebook: Rulebook) -> None:
    """Each kind is its own inspection; what fails and what passes lie in the same place until their tasks take them on."""
    flows = tuple(replace(f, plate_by=PlateBy.NONE) if f.id == "F-RECEIVE" else f for f in rulebook.flows)
    play = Play(new_world(ground, evolve(told(rulebook, sample=0), flows=flows)))
    play.opens("F-RECEIVE").scan("PO-1006").scan("PLOT-09").type("12").scan("VHF-H").type("24").press("finish").done(
        "`INS-01`"
    )
    mara = inspector(play)
    mara.scan("PLOT-09").asks("inspect_at").scan("INS-01").type("partly").type("2").type("damaged").press(
        "no_remark"
    ).done()
    lies = {g.status: g.quantity for g in play.state.loose("INS-01")}
    assert lies == {Status.AVAILABLE: 10, Status.DAMAGED: 2}
    to = {t.to_bin for t in play.state.tasks.values() if t.need == "put_away"}
    assert "QUA-01" in to and len(to) == 2
    mara.asks("inspected").scan("VHF-H").press("set_down").done("is open again")
    assert {g.item for g in play.state.loose("RCV-01")} == {"VHF-H"}
    mara.scan("VHF-H").scan("INS-01").type("pass").done("24 pieces of Handheld VHF radio pass")


def test_on_demand_it_waits_until_it_is_scanned_or_made(ground: Ground, rulebook: Rulebook) -> None:
    """What rests becomes an inspection by the scan of an inspector, and is no put-away for others."""
    play = Play(new_world(ground, told(rulebook, begins=Begins.ON_DEMAND, sample=0)))
    plate = received(play, ("PLOT-09", 12))
    play.done("waits in `RCV-01` for an inspection")
    play.opens("F-PUTAWAY").scan(plate).refused("no_task").press("leave")
    inspector(play).scan(plate).done("To be inspected").asks("inspect_at").scan("INS-03").type("pass").done()
    other = received(play, ("VHF-H", 24))
    play.do(acts.MakeTasks((other,))).done("To be inspected")
    assert play.state.task_of(other).need == "inspect"


def test_what_nobody_may_use_is_never_on_no_list(ground: Ground, rulebook: Rulebook) -> None:
    """A cancelled inspection waits for another; it cannot be taken off the list; the office sees it before it is made, and where it
    stood a plate that was carried off is named."""
    play = Play(new_world(ground, told(rulebook, sample=0)))
    plate = received(play, ("PLOT-09", 12))
    play.do(acts.CancelTask(TaskNo("TR-0204"), "inspector ill")).done("waits in `RCV-01` for another inspection")
    play.do(acts.DropRest(plate, "not needed")).refused("waits_for_inspection")
    shown = of_rests(play.state, play.world.rulebook, [plate], STARTS.date())
    assert (shown.tasks, shown.left) == ((), ()) and shown.inspections == (
        f"plate `{plate}`: 12 pieces Chart plotter 9 inch in `RCV-01`",
    )
    play.opens("F-MOVEPLATES").scan(plate).done()
    play.do(acts.MakeTasks((plate,))).refused("not_there", "@oren carries it")
    play.press("go_on").scan("RCV-02").press("yes").done().press("leave")
    play.do(acts.MakeTasks((plate,))).done("To be inspected: `TR-0206`")
    assert play.state.tasks["TR-0206"].from_bin == "RCV-02"


def test_the_office_inspects_by_the_same_rules(play: Play) -> None:
    """Brought, judged and split as on the floor, with a reason where the floor must scan."""
    plate = received(play, ("PLOT-09", 12))
    task = TaskNo(play.state.task_of(plate).number)
    verdict = Verdict(ItemCode("PLOT-09"), 2, Status.DAMAGED, "box crushed")
    play.do(acts.InspectInOffice(task, (verdict,))).refused("no_reason", "where it is inspected must be scanned")
    too_many = evolve(verdict, failed=13)
    play.do(acts.InspectInOffice(task, (too_many,), "seen from the office")).refused("more_than_there")
    no_fault = evolve(verdict, fault=None)
    play.do(acts.InspectInOffice(task, (no_fault,), "seen from the office")).refused("no_fault")
    assert play.state.bin_of(plate) == "RCV-01"
    play.do(acts.InspectInOffice(task, (verdict,), "seen from the office")).done("2 pieces", "10 pieces pass")
    assert play.state.bin_of(plate) == "INS-01" and statuses(play, plate) == {"available": 10}
    play.do(acts.InspectInOffice(task, (verdict,), "again")).refused(
        "task_done", "2 pieces of Chart plotter 9 inch damaged"
    )


def test_two_inspectors_at_one_plate(play: Play) -> None:
    """What one carries the other cannot take; what stands there either may judge, and only once."""
    plate = received(play, ("PLOT-09", 12))
    mara, sten = inspector(play), Play(play.world, "sten", "H9", ("inspect",)).opens("F-INSPECT")
    mara.scan(plate).done()
    sten.scan(plate).refused("task_taken", "@lotte carries")
    mara.scan("INS-01").asks("verdict")
    sten.scan(plate).asks("verdict")
    mara.type("pass").done()
    sten.type("pass")
    assert not isinstance(sten.last.outcome, type(None)) and sten.question().asks == "inspected"
    assert statuses(play, plate) == {"available": 12}


def test_a_flow_without_a_count_offers_no_part(ground: Ground, rulebook: Rulebook) -> None:
    """Prompts that are left out take their answers with them; nothing ends in an error."""
    flows = tuple(
        evolve(f, prompts=tuple(p for p in f.prompts if p.asks not in (Asks.FAILED, Asks.KIND, Asks.REMARK)))
        if f.id == "F-INSPECT"
        else f
        for f in rulebook.flows
    )
    play = Play(new_world(ground, evolve(told(rulebook, sample=0), flows=flows)))
    plate = received(play, ("PLOT-09", 12), ("VHF-H", 24))
    mara = inspector(play).scan(plate).scan("INS-01").asks("verdict")
    assert [p.value for p in mara.question().picks] == ["pass", "fail"]
    mara.type("pass").done("12 pieces of Chart plotter 9 inch pass").type("fail").type("damaged").done(
        "24 pieces of Handheld VHF radio damaged"
    )


def test_an_inspection_step_by_default_looks_at_everything() -> None:
    """So a plan says no more than that it inspects."""
    assert InspectStep(on=True) == InspectStep(on=True, every=1, sample=0, sends=False)
