"""What is to be done on a floor, list by list, and what is at each station of the map."""

from __future__ import annotations

from dataclasses import replace

import pytest

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.at_stations import at_stations
from mindful_crate.core.proving.preview import of_orders, of_rests
from mindful_crate.core.proving.work_lists import work_lists
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.chapter import Draw
from mindful_crate.core.rulebook.chapters import draw
from mindful_crate.core.rulebook.steps import Begins, BookingPoint, PutAwayStep
from mindful_crate.core.world import acts
from tests.core.test_recipes import FIRST, LANE, received, tasks, ways
from tests.playbook import STARTS, Play, barcode

HQ = SiteCode("HQ")


def at(play: Play) -> dict[str, str]:
    """What is at the stations, by what they are called."""
    page = draw("steps", Draw(play.world.rulebook, play.state.ground, HQ), "")
    assert page and page.sections[0].graph
    names = {n.id: f"{n.title} {n.code}".strip() for n in page.sections[0].graph.nodes}
    return {names[id_]: says for id_, says in at_stations(play.state, page.sections[0].graph).items()}


def test_every_list_says_what_waits_since_when_and_why(ground: Ground, rulebook: Rulebook) -> None:
    """A plate never finished, goods that wait for a task, a task with its part of the way, a receipt that is not booked, a plate
    that was announced, a transfer that was sent: each on its list, and off it when it is done."""
    recipe = replace(FIRST, legs=(LANE,))
    book = ways(rulebook, recipe, put_away=PutAwayStep(begins=Begins.ON_DEMAND), booking=BookingPoint.BY_HAND)
    play = received(ground, book, 2)
    play.do(acts.AnnounceOrder("PO-1008")).done()  # type: ignore[arg-type]
    play.opens("F-RECEIVE").scan("PO-1007").scan(barcode(ground, "ROPE-16", "coil")).type("1").done().press("leave")
    lists = work_lists(play.state, play.world.rulebook)
    assert [w.key for w in lists.waits] == ["LPR-000417", "LPR-000418"] and not lists.tasks
    assert [(u.number, u.by, u.at) for u in lists.unfinished] == [("LPR-000419", "oren", "RCV-01")]
    assert {n.why for n in lists.not_booked} == {"its plan leaves it to the office"} and all(
        n.may_tell for n in lists.not_booked
    )
    assert [e.order for e in lists.expected] and {e.order for e in lists.expected} == {"PO-1008"}
    assert [(t.order, t.lines) for t in lists.transfers] == [("TI-3001", 2)]
    assert at(play)["Receive RCV-01"] == "2 plates, 1 being built"
    assert at(play)["Put away"] == "2 without a task" and "announced" in at(play)["Goods arrive"]
    play.do(acts.MakeTasks(("LPR-000417",))).done()
    (task,) = work_lists(play.state, play.world.rulebook).tasks
    assert (task.station, task.crew_name, task.state) == ("Put away, part 1 of 2", "Hazard crew", "open")
    assert at(play)["Put away"] == "1 task, 1 without a task"
    play.opens("F-PUTAWAY").scan("LPR-000417").scan(task.to or "").done()
    assert at(play)["Hand over"] == "1 plate"
    play.press("leave").do(acts.BookReceipt(lists.not_booked[0].receipt)).done()
    again = work_lists(play.state, play.world.rulebook)
    still = {n.receipt: n for n in again.not_booked}.get(lists.not_booked[0].receipt)
    assert still is None or (still.why == "the host was told and has not answered" and not still.may_tell)
    assert set(again.seqs) <= {e.seq for e in play.world.log}


def test_what_is_previewed_is_what_is_made(ground: Ground, rulebook: Rulebook) -> None:
    """The tasks that are shown of what waits are those that are made then, to the bin; nothing of it stays on the floor."""
    book = ways(rulebook, FIRST, put_away=PutAwayStep(begins=Begins.ON_DEMAND))
    for together in (False, True):
        play = received(ground, book, 3)
        keys = list(play.state.rests)
        before = play.state.kept()
        shown = of_rests(play.state, book, keys, STARTS.date(), together=together)
        assert play.state.kept() == before and len(shown.tasks) == (1 if together else 3)
        play.do(acts.MakeTasks(tuple(keys), together=together)).done()
        made = [[(m.plate, m.at) for m in t.plan.moves if m.do == "place"] for t in tasks(play)]
        told = [[(s.what.split("`")[1], s.to) for s in t.shares] for t in shown.tasks]
        assert made == told and all(t.walk_mm and t.looks[-1].makes for t in shown.tasks)


def test_orders_are_previewed_as_if_they_came(ground: Ground, rulebook: Rulebook) -> None:
    """Each open line a plate, by the recipe that would hold; dear goods go to the store. What cannot be asked is refused by name."""
    play = received(ground, rulebook, 0)
    shown = of_orders(play.state, rulebook, ["PO-1006", "PO-1007"], STARTS.date())  # type: ignore[list-item]
    by_order = {(t.shares[0].order, t.crew_name) for t in shown.tasks}
    assert (
        ("PO-1006", "Instrument store") in by_order and ("PO-1007", "Quay crew") in by_order and len(shown.tasks) == 6
    )
    for number, code in (
        ("PO-9", "unknown_order"),
        ("SO-2001", "other_kind"),
        ("GL-501", "other_site"),
        ("RT-5002", "nothing_put_away"),
    ):
        with pytest.raises(Refusal) as refused:
            of_orders(play.state, rulebook, [number], STARTS.date())  # type: ignore[list-item]
        assert refused.value.problem.code == code, refused.value.problem
    with pytest.raises(Refusal, match="waits for no task"):
        of_rests(play.state, rulebook, ["LP-NO"], STARTS.date())
