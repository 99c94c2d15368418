"""From zone to zone: each zone's task waits for the totes of the one before, takes them along, and sets them down for the next."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.checking import check_opening
from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, TaskNo, WaveNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.tasks import Do, TaskState
from mindful_crate.core.floor.waves import WaveState
from mindful_crate.core.proving.chronicle import Does, chronicle
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.releasing.onward import Stop, kept_for
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Short
from mindful_crate.core.rulebook.recipes import Caps
from mindful_crate.core.rulebook.waves import Goes, Method
from mindful_crate.core.work.picking.rounds import rounds_at_work
from mindful_crate.core.world import acts
from mindful_crate.core.world.events import Done
from mindful_crate.core.world.invariants import broken
from tests.core.test_covering import BOOK
from tests.core.test_picking import TOTES, bar, wanted
from tests.core.test_waves import HQ, by, order, plan, released, sound, state, tasks
from tests.playbook import Play
from tests.properties import tried

THREE = (
    order("SO-1", ("ROPE-12", 10), ("SHK-08", 4)),
    order("SO-2", ("FEN-10", 2), ("SHK-10", 6)),
    order("SO-3", ("ROPE-16", 20), ("FEN-15", 1)),
)
"""Bulk and pick shelves, reserve and pick shelves, bulk and reserve: their cart is in three zones."""
POINTS = ("STG-09", "STG-11")
"""Where reserve and the pick shelves are handed totes."""


def in_zones(rulebook: Rulebook, *orders: object, **more: object) -> Play:
    """A wave of orders that is picked from zone to zone."""
    play = released(by(rulebook, plan(Method.ZONES, **more)), *(orders or THREE))  # type: ignore[arg-type]
    return play.do(acts.MakeWave(plan().id)).done()


def chain(play: Play) -> list[TaskNo]:
    """All tasks of the wave, in the order of the zones."""
    return list(play.state.waves[WaveNo("WR-0001")].tasks)


def answers(play: Play) -> bool:
    """One question of a pick flow answered as it is shown; false when nothing is picked any more."""
    question = play.question()
    match question.asks:
        case "picked":
            return False
        case "tote":
            new = next(t for t in (f"LPR-9000{n:02}" for n in range(1, 30)) if not used(play, t))
            play.scan(question.expect or new).done()
        case "pick_item":
            play.scan(bar(wanted(play))).done()
        case "pick_lot":
            play.scan(question.picks[0].value, "tapped").done()
        case "pick_count":
            play.press("confirm").done()
        case _:
            play.scan(question.expect or "STG-10").done()
    return True


def used(play: Play, tote: str) -> bool:
    return play.state.has_plate(PlateNo(tote)) or play.state.tasks.with_tote(PlateNo(tote)) is not None


def works(play: Play, number: str) -> Play:
    """A task from its list to where it is set down."""
    play.opens("F-PICK").scan(number).done("is yours")
    while answers(play):
        pass
    return play.press("leave")


def on(play: Play, tote: str) -> dict[str, int]:
    return {g.item: g.quantity for g in play.state.all_goods(PlateNo(tote))}


def test_a_cart_goes_from_zone_to_zone(rulebook: Rulebook) -> None:
    """Of a cart a task in each zone, in the order of the walk. The next may be taken when the totes stand at its hand-over point; they are told and
    checked, go along also when nothing there is for them, and stand together at the station in the end."""
    play = in_zones(rulebook)
    bulk, reserve, shelves = (play.state.tasks[n] for n in chain(play))
    zones = [
        {play.state.ground.bins[m.at].zone for m in t.plan.moves if m.do is Do.TAKE} for t in (bulk, reserve, shelves)
    ]
    assert zones == [{"BLK"}, {"RSV"}, {"PCK"}]
    assert [t.plan.behind for t in (bulk, reserve, shelves)] == [None, bulk.number, reserve.number]
    assert [t.to_bin for t in (bulk, reserve)] == list(POINTS)
    walked = rounds_at_work(play.state, WaveNo("WR-0001"))
    assert [r.begins for r in walked.rounds] == ["STG-08", *POINTS] and all(r.mm > 0 for r in walked.rounds)
    ada = play.other("ada", "H2")
    ada.opens("F-PICK").scan(reserve.number).refused("task_held", f"its totes are still at task {bulk.number}")
    works(play, bulk.number)
    assert {play.state.bin_of(t) for t in TOTES[:2]} == {"STG-09"} and on(play, TOTES[0]) == {"ROPE-12": 10}
    ada.scan(TOTES[1]).done(f"Task `{reserve.number}` is yours", "2 totes that wait")  # by what stands there
    ada.asks("tote", f"Take tote `{TOTES[0]}` along", TOTES[0])
    ada.scan(TOTES[2]).refused("other_tote", TOTES[0], TOTES[1])
    ada.scan(TOTES[1]).done("taken along from `STG-09`").asks("tote", TOTES[0]).scan(TOTES[0]).done()
    ada.asks("tote", "empty tote for `SO-2`").scan(TOTES[0]).refused("tote_in_use", "SO-1")
    assert not {
        k.next
        for n in ("SO-1", "SO-3")
        for k in kept_for(play.state, play.world.rulebook, play.state.order(OrderNo(n)))
    } - {Stop.PICK}
    ada.scan(TOTES[2]).done()
    while answers(ada):
        pass
    assert {play.state.bin_of(t) for t in TOTES} == {"STG-11"}
    assert on(play, TOTES[1]) == {"ROPE-16": 20, "FEN-15": 1} and on(play, TOTES[0]) == {"ROPE-12": 10}
    assert not play.state.tasks[shelves.number].held
    works(play, shelves.number)
    at = play.state.tasks[shelves.number].placed_in
    assert [play.state.bin_of(t) for t in TOTES] == [at] * 3 and play.state.ground.bins[at].zone == "PAK"
    assert on(play, TOTES[2]) == {"FEN-10": 2, "SHK-10": 6} and on(play, TOTES[0]) == {"ROPE-12": 10, "SHK-08": 4}
    assert state(play, "WR-0001") is WaveState.DONE
    told = chronicle(play.world.log, None, lambda moment: moment.date())
    assert [h.place for h in told if h.does is Does.OBSERVE and h.plates == (TOTES[0],)] == ["STG-11", at]
    nexts = {
        k.next
        for n in (1, 2, 3)
        for k in kept_for(play.state, play.world.rulebook, play.state.order(OrderNo(f"SO-{n}")))
    }
    assert nexts == {Stop.PACK}


def test_nobody_else_takes_a_tote_that_waits(rulebook: Rulebook) -> None:
    """At a hand-over point a tote is no plate that may be moved, packed or staged: it is named by the task that goes on with it."""
    play = in_zones(rulebook)
    bulk, reserve, _ = chain(play)
    works(play, bulk)
    play.opens("F-MOVEPLATES").scan(TOTES[0]).refused("has_task", reserve)
    sound(play)


def test_a_wave_that_is_held_and_let_go_keeps_its_order(rulebook: Rulebook) -> None:
    """Held as a whole, let go, held again in the middle: what waits for its totes waits for them afterwards, too."""
    play = in_zones(rulebook, goes=Goes.HELD)
    bulk, reserve, shelves = chain(play)
    play.do(acts.LetWaveGo(WaveNo("WR-0001"))).done()
    assert [bool(play.state.tasks[n].held) for n in (bulk, reserve, shelves)] == [False, True, True]
    play.do(acts.PickInOffice(bulk, "picked by its list")).done(
        "is picked", "STG-09"
    )  # without totes: nothing is handed on
    assert not play.state.tasks[reserve].held
    play.do(acts.HoldWave(WaveNo("WR-0001"), "the launch is late")).done()
    assert "the launch is late" in play.state.tasks[reserve].held and "totes" in play.state.tasks[shelves].held
    play.do(acts.LetWaveGo(WaveNo("WR-0001"))).done()
    assert not play.state.tasks[reserve].held and reserve in play.state.tasks[shelves].held
    sound(play)


def test_of_a_zone_in_which_nothing_is_there_the_totes_go_on(rulebook: Rulebook) -> None:
    """All of it is short: the task is not over as long as totes came with it; they are brought on all the same, and the next zone goes on."""
    book = replace(
        rulebook,
        flows=tuple(replace(f, short=Short.STAYS_OPEN) if f.id == "F-PICK" else f for f in rulebook.flows),
    )
    play = in_zones(book)
    bulk, reserve, shelves = chain(play)
    works(play, bulk)
    play.opens("F-PICK").scan(reserve).done()
    while play.question().asks == "tote":
        answers(play)
    for _ in range(2):
        play.asks("pick_at").press("short").scan("not found").done()
        sound(play)
    play.asks("set_at", "STG-11").scan("STG-11").done(
        "Set down in `STG-11`: tote", "Nothing more of task", f"wait for task `{shelves}`"
    )
    assert play.state.tasks[reserve].state is TaskState.CANCELLED
    works(play, shelves)
    assert state(play, "WR-0001") is WaveState.DONE
    assert play.state.ground.bins[play.state.bin_of(TOTES[1])].zone == "PAK"  # SO-3 has what was in bulk
    sound(play)


def test_a_tote_that_is_not_there(rulebook: Rulebook) -> None:
    """What is in it is short like any other: looked for elsewhere, kept from everybody until it is counted; its order gets another tote."""
    play = in_zones(rulebook)
    bulk, reserve, _ = chain(play)
    works(play, bulk)
    play.opens("F-PICK").scan(reserve).asks("tote", TOTES[0]).offers(
        "tote_gone", "Not there", "give_back", "Give it back", "leave", "Leave"
    )
    play.press("tote_gone").scan("nowhere to be seen").done(TOTES[0], "10 m Braided rope", "Fetch 10 m Braided rope")
    sound(play)
    assert [r.missed_by for r in play.state.reservations.values() if r.order is None and r.item == "ROPE-12"] == [
        "oren"
    ]
    play.asks("tote", TOTES[1]).scan(TOTES[1]).done()
    lacking = play.question().title
    assert "empty tote for `SO-" in lacking
    while answers(play):
        pass
    assert play.state.bin_of(TOTES[0]) == "STG-09"  # by the book, until somebody looks
    totes = {t.order: t.plate for t in play.state.tasks[chain(play)[2]].going.totes}
    assert totes["SO-1"] != TOTES[0] and on(play, totes["SO-1"]) == {"ROPE-12": 10}


def test_who_leaves_in_the_middle_leaves_the_totes_where_they_stand(rulebook: Rulebook) -> None:
    """Half of a zone's task is set down at the next hand-over point, and gone on with by somebody else, who brings the rest there."""
    play = in_zones(rulebook)
    bulk, reserve, shelves = chain(play)
    works(play, bulk)
    play.opens("F-PICK").scan(reserve).done()
    while play.question().asks != "pick_into":
        answers(play)
    answers(play)
    play.asks("pick_at").press("set_down_now").asks("set_at").scan("STG-11").done("1 stop", "left for whoever goes on")
    sound(play)
    assert play.state.tasks[shelves].held  # not all of it is there yet
    ways = kept_for(play.state, play.world.rulebook, play.state.order(OrderNo("SO-3")))
    assert {k.next for k in ways} == {Stop.PICK}  # nobody packs what stands half picked
    play.press("leave")
    play.opens("F-MOVEPLATES").scan(TOTES[1]).refused("has_task", reserve).press("leave")
    ada = play.other("ada", "H2")
    ada.opens("F-PICK").scan(reserve).done("1 stop").asks("pick_at")
    while answers(ada):
        pass
    assert play.state.tasks[reserve].state is TaskState.DONE
    assert {t.plate for t in play.state.tasks[shelves].going.totes} == set(TOTES)
    play.press("leave")
    play.do(acts.SetDown(shelves)).refused("not_taken")
    play.opens("F-PICK").scan(shelves).scan(TOTES[0]).done()
    play.do(acts.SetDown(shelves)).done("open again")  # what was taken along stands there again
    assert play.state.bin_of(TOTES[0]) == "STG-11" and not play.state.tasks[shelves].going.carried
    sound(play)


def test_an_order_leaves_only_while_no_tote_is_under_way(rulebook: Rulebook) -> None:
    """Before anybody began, an order is taken out and the others are made anew; then it is refused by the task that hands its totes on."""
    play = in_zones(rulebook)
    play.do(acts.TakeOutOfWave(WaveNo("WR-0001"), OrderNo("SO-2"), "tomorrow")).done()
    now = [play.state.tasks[n] for n in chain(play) if not play.state.tasks[n].state.ended]
    assert {o for t in now for o in t.plan.orders} == {"SO-1", "SO-3"}
    first, *rest = now
    assert {t.plan.behind for t in rest} == {t.number for t in now[:-1]}
    sound(play)
    works(play, first.number)
    play.do(acts.TakeOutOfWave(WaveNo("WR-0001"), OrderNo("SO-1"), "tomorrow")).refused("begun")
    play.do(acts.CancelWave(WaveNo("WR-0001"), "no launch")).refused("begun")


def test_where_nobody_is_next_any_more_the_totes_are_brought_to_the_station(rulebook: Rulebook) -> None:
    """The office let a zone begin without them: what comes later goes on to those after it, and past the last to the station, by a task."""
    play = in_zones(rulebook)
    bulk, reserve, shelves = chain(play)
    for number in (reserve, shelves):
        play.do(acts.LetTaskGo(number)).done()
        works(play.other("ada", "H2"), number)
    works(play, bulk)
    (last,) = [t for t in tasks(play) if t.number not in (bulk, reserve, shelves)]
    assert set(last.plan.plates) <= {t.plate for t in play.state.tasks[bulk].going.totes} and last.to_bin == "PACK-1"
    play.opens("F-PICK").scan(last.number).done()
    while answers(play):
        pass
    assert state(play, "WR-0001") is WaveState.DONE
    sound(play)


@pytest.mark.parametrize(
    ("code", "says"), [("P-01-01-1", "for storing"), ("NO-1", "does not exist"), ("GL-D-1", "another site")]
)
def test_a_hand_over_point_is_where_goods_only_pass(ground: Ground, code: str, says: str) -> None:
    """It is a bin of the site, and none for storing."""
    code = code if code != "GL-D-1" else next(b.code for b in ground.opening.bins if ground.zones[b.zone].site == "GL")
    zones = tuple(replace(z, hand_over=BinCode(code)) if z.code == "PCK" else z for z in ground.opening.zones)
    (problem,) = check_opening(replace(ground.opening, zones=zones))
    assert problem.place == "zones/PCK" and says in problem.says


def test_zones_without_a_hand_over_point_are_found(rulebook: Rulebook, ground: Ground) -> None:
    """They are named; without such a plan nobody asks."""
    zones = tuple(replace(z, hand_over=None) if z.code in ("PCK", "HAZ") else z for z in ground.opening.zones)
    bare = Ground(replace(ground.opening, zones=zones))

    def found(book: Rulebook) -> list[str]:
        return [f.says for f in findings(book, bare, HQ) if f.code == "no_hand_over"]

    (says,) = found(by(rulebook, plan(Method.ZONES)))
    assert "Pick shelves" in says and "Hazard store" in says and "Reserve" not in says
    assert not found(by(rulebook, plan(Method.CLUSTER)))


@tried(5)
@given(st.data())
def test_whatever_happens_on_the_way_no_tote_is_lost(data: st.DataObject) -> None:
    """Two people, shorts, totes not found, leaving, giving back, tasks let go early, a cap on what a task holds: nothing breaks, and in the end
    everything kept stands at its station."""
    most = Caps(things=data.draw(st.sampled_from([1, 2, None])))
    book = replace(BOOK, recipes=tuple(replace(r, most=most) for r in BOOK.recipes))
    play = in_zones(book, totes=data.draw(st.sampled_from([1, 2, 3])))
    hands = {"oren": play.opens("F-PICK"), "ada": play.other("ada", "H2").opens("F-PICK")}
    for _ in range(data.draw(st.integers(10, 30))):
        one = hands[data.draw(st.sampled_from(sorted(hands)))]
        may = {b.action for b in one.question().buttons}
        odd = sorted(may & {"short", "tote_gone", "later", "set_down_now", "give_back"})
        if one.question().asks == "picked":
            if waiting := {t.number: t for t in tasks(play) if t.state is TaskState.OPEN}:
                task = waiting[data.draw(st.sampled_from(sorted(waiting)))]
                if task.held and data.draw(st.integers(0, 3)) == 0:
                    play.do(acts.LetTaskGo(task.number)).done()
                one.scan(task.number)
        elif odd and data.draw(st.integers(0, 5)) == 0:
            action = data.draw(st.sampled_from(odd))
            one.press(action)
            if not isinstance(one.last and one.last.outcome, Done):
                one.refused("confirm_first")  # some were counted one by one
                answers(one)
            elif action in ("short", "tote_gone"):
                one.scan("not found").done()
            elif action == "set_down_now":
                one.scan(one.question().expect or "STG-10").done()
            assert broken(play.state) == []
        else:
            answers(one)
    for one in hands.values():
        while answers(one):
            pass
    while waiting := [t for t in tasks(play) if not t.held]:
        play.scan(waiting[0].number).done()
        while answers(play):
            pass
    sound(play)
    assert not tasks(play)
    left = [(o.number, k) for o in THREE for k in kept_for(play.state, play.world.rulebook, o) if k.next is Stop.PICK]
    assert not [x for x in left if x[1].part.plate is not None and str(x[1].part.plate).startswith("LPR-9000")]
    assert not [p for p in play.state.plates.spots if str(p).startswith("LPR-9000") and play.state.bin_of(p) is None]
