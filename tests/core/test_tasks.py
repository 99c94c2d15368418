"""Tasks are held, let go, given to others, raised, cancelled, and set down again; whatever they are for."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from typing import Any

import pytest

from mindful_crate.core.catalog.ids import BinCode, CrewId, ItemCode, OrderNo, PersonId, PlateKindCode, TaskNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.plates import in_bin, in_hands
from mindful_crate.core.floor.tasks import Do, Move, TaskState
from mindful_crate.core.plain import canonical, from_plain, to_plain
from mindful_crate.core.proving import script as sc
from mindful_crate.core.proving.overruling import overruled_told
from mindful_crate.core.proving.recording import record
from mindful_crate.core.proving.rehearse import run, settings_of
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Check, Listed
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.work.putting.checks import judge
from mindful_crate.core.work.tasks.offered import Offered, offered
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.acts import At, OfficeLine
from mindful_crate.core.world.chain import chain, find
from mindful_crate.core.world.fold import fold
from mindful_crate.core.world.invariants import broken
from mindful_crate.core.world.world import World
from mindful_crate.demo.loader import demo_rehearsals
from mindful_crate.files import gs1
from tests.playbook import STARTS, Play, barcode, from_snapshot, new_world

ONE, TWO = TaskNo("TR-0204"), TaskNo("TR-0205")


@pytest.fixture
def play(ground: Ground, rulebook: Rulebook) -> Play:
    """Oren, with two pallets of rope that wait to be put away."""
    play = Play(new_world(ground, rulebook)).confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007")
    for _ in range(2):
        play.scan(barcode(ground, "ROPE-12", "coil")).type("2").press("finish").done("Put-away task")
    return play.press("leave")


def test_what_workers_choose_instead_is_kept_with_the_rule(play: Play) -> None:
    """Another bin than the one a rule chose is counted for the rule, with the reasons and the last of them; the bin shown is not."""
    told = []
    for task, other in ((ONE, True), (TWO, False)):
        play.opens("F-PUTAWAY").scan(str(play.state.tasks[task].plate))
        shown, rule = play.question().expect, play.state.tasks[task].rule
        if other:
            play.scan("R-01-05-1").press("yes").done()
        else:
            play.scan(shown).done()
        play.press("leave")
        told.append((rule, shown))
    rule, shown = told[0]
    overruled = play.state.overruled[rule]
    assert overruled.count == 1 and [(x.shown, x.taken, x.by) for x in overruled.latest] == [
        (shown, "R-01-05-1", "oren")
    ]
    assert overruled_told(play.state, [rule]) == {
        rule: f"Overruled once on the floor: no reason asked. Last `R-01-05-1` instead of `{shown}`, by @oren."
    }
    assert from_snapshot(play.state).kept() == play.state.kept()


def sound(play: Play) -> None:
    """Invariants hold, and a snapshot answers the same."""
    again = from_snapshot(play.state)
    assert broken(play.state) == broken(again) == []
    assert again.kept() == play.state.kept() and [*again.stock()] == [*play.state.stock()]


def listed(play: Play) -> list[str]:
    """The plates a handset lists."""
    return [p.value for p in play.question().picks]


def test_what_was_taken_by_mistake_is_put_back(play: Play) -> None:
    """With a button while its bin is asked: the plate stands where it stood, the task is open, another takes it."""
    play.opens("F-PUTAWAY").scan("LPR-000417").asks("bin")
    assert [b.action for b in play.question().buttons] == ["set_down", "part", "where_else", "leave"]
    mara = play.other("mara", "H2").opens("F-PUTAWAY").scan("LPR-000417").refused("task_taken", "@oren carries")
    mara.do(acts.SetDown(ONE)).refused("other_person")
    play.press("set_down").done("Plate `LPR-000417` is back in `RCV-01`", "open again").asks("task")
    assert play.state.bin_of("LPR-000417") == "RCV-01" and listed(play) == ["LPR-000417", "LPR-000418"]  # type: ignore[arg-type]
    sound(play)
    play.press("set_down").refused("not_now")
    mara.scan("LPR-000417").done("taken").asks("bin")
    office = play.world.stamp("office", play.person)
    assert play.world.run(acts.Command(replace(office, device=None), acts.SetDown(ONE))).says.startswith("Plate")
    assert play.state.tasks[ONE].state is TaskState.OPEN
    mara.scan("B-02-01-1").refused("dialogue_over").opens("F-PUTAWAY").asks("task")
    sound(play)


def test_where_else_it_could_go_is_found_on_the_handset(ground: Ground, rulebook: Rulebook) -> None:
    """By what would fit, the places of the rules first, or by a part of a code or zone that is typed, also where the bin must be
    scanned; what would not take it is never named."""
    play = Play(new_world(ground, rulebook))
    received = play.opens("F-RECEIVE").scan("PO-1005").scan(barcode(ground, "ANC-10", "pc")).type("5")
    received.press("finish").press("leave").opens("F-PUTAWAY").scan("LPR-000417").asks("bin", expect="R-01-02-3")
    play.type("R-01-02-3").refused("must_scan").type("R").refused("must_scan").type("no such place").refused(
        "must_scan"
    )
    play.press("where_else").done("Where else it could go is shown")
    told = play.question().facts[0].split("`")[1::2]
    assert play.question().expect == "R-01-02-3" and len(told) == 6 and not play.question().picks
    task = play.state.tasks["TR-0204"]  # type: ignore[index]
    assert all(judge(play.state, task, BinCode(code), play.world.today(STARTS)) is None for code in told)
    play.type("02-02").done("Places with “02-02”")
    says, *codes = play.question().facts[0].split("`")
    assert says == "These with “02-02” would take it, too: " and codes and all("02-02" in code for code in codes[::2])
    play.type("quarantine").done()
    assert play.question().facts[0].startswith("These with “quarantine”")
    play.type("p-01-01-1").refused("must_scan").type("sort wall").done()
    assert play.question().facts[0] == "No other place with “sort wall” would take it"
    believed = tuple(
        evolve(f, prompts=tuple(evolve(p, check=Check.BELIEVE) for p in f.prompts)) if f.id == "F-PUTAWAY" else f
        for f in rulebook.flows
    )
    other = Play(new_world(play.state.ground, evolve(rulebook, flows=believed)))
    other.opens("F-RECEIVE").scan("PO-1005").scan(barcode(play.state.ground, "ANC-10", "pc")).type("5").press("finish")
    other.press("leave").opens("F-PUTAWAY").scan("LPR-000417").press("where_else")
    pick = other.question().picks[0].value
    other.scan(pick, "tapped").asks("yes_no").press("yes").done(f"stands in `{pick}`").asks("task")
    assert other.question().facts == ()


def test_the_office_holds_raises_gives_away_and_cancels(play: Play, ground: Ground) -> None:
    """What nobody may take is not offered and says why; the highest comes first; each refusal says what stands in the way."""
    play.opens("F-PUTAWAY")
    play.do(acts.RaiseTask(TWO, 3)).done("priority 3")
    assert listed(play) == ["LPR-000418", "LPR-000417"]
    play.do(acts.RaiseTask(TWO, 3)).refused("nothing_changed").do(acts.RaiseTask(TWO, 10)).refused("bad_priority")
    play.do(acts.HoldTask(ONE, " ")).refused("no_reason").do(acts.HoldTask(ONE, "wet floor")).done("is held: wet floor")
    assert listed(play) == ["LPR-000418"]
    sound(play)
    play.scan("LPR-000417").refused("task_held", "wet floor").do(acts.HoldTask(ONE, "again")).refused("held_already")
    play.do(acts.LetTaskGo(ONE)).done("let go").do(acts.LetTaskGo(ONE)).refused("not_held")
    play.do(acts.ReassignTask(ONE, CrewId("nobody"))).refused("unknown_crew")
    play.do(acts.ReassignTask(ONE, CrewId("hazard"))).done("Hazard crew now")
    assert listed(play) == ["LPR-000418"]
    play.scan("LPR-000417").refused("other_crew", "`hazard`")
    sound(play)
    play.scan("LPR-000418").do(acts.HoldTask(TWO, "too late")).refused("task_taken", "@oren carries")
    play.do(acts.CancelTask(ONE, "sent back")).done("cancelled: sent back", "stays in `RCV-01`")
    play.do(acts.LetTaskGo(ONE)).refused("task_cancelled", "sent back")
    assert play.state.claim_of(ONE) is None
    document = find(play.state, ONE)
    (told,) = [s for d in chain(play.state, document) for s in d.stages if s.word == "cancelled"]  # type: ignore[arg-type]
    assert told.done and told.says == "sent back" and play.world.log[told.seq - 1].command.act.kind == "cancel_task"
    sound(play)
    play.scan(play.question().expect).done("stands in").press("leave").opens("F-MOVEPLATES")
    play.scan("LPR-000417").done("Plate `LPR-000417` taken from `RCV-01`")
    play.do(acts.SetDown(TaskNo("TR-0206"))).refused("place_it", "any bin")
    play.do(acts.CancelTask(TWO, "no more")).refused("task_done").do(acts.SetDown(TaskNo("T-9"))).refused(
        "unknown_task"
    )
    sound(play)


def test_what_is_offered_is_what_is_carried_out(play: Play, rulebook: Rulebook) -> None:
    """In every state of a task each act is done exactly when it is offered."""

    def each(number: TaskNo) -> dict[str, Any]:
        known = next((o for o in offered(play.state, rulebook) if o.task == number), Offered(number))
        other = next((c.id for c in known.crews if c.id != play.state.tasks[number].crew), CrewId("hazard"))
        return {
            "set_down": (known.set_down, acts.SetDown(number)), "hold": (known.hold, acts.HoldTask(number, "wet floor")),
            "let_go": (known.let_go, acts.LetTaskGo(number)), "cancel": (known.cancel, acts.CancelTask(number, "sent back")),
            "crew": (bool(known.crews), acts.ReassignTask(number, other)),
            "priority": (7 in known.priorities, acts.RaiseTask(number, 7)),
        }  # fmt: skip

    def agree() -> None:
        for number in (ONE, TWO):
            for name, (may, act) in each(number).items():
                done = Play(play.world.branch(len(play.world.log))).do(act).last
                assert done and isinstance(done.outcome, ev.Done) is may, (name, number, done.says)

    agree()
    play.do(acts.HoldTask(ONE, "wet floor"))
    agree()
    play.do(acts.LetTaskGo(ONE)).opens("F-PUTAWAY").scan("LPR-000417")
    agree()
    play.scan(play.question().expect).done().do(acts.CancelTask(TWO, "sent back"))
    agree()


def test_goods_are_not_put_away_where_they_only_pass_through(play: Play) -> None:
    """Doors, docks and receiving lanes are refused by name, also for the lane the plate came from."""
    play.opens("F-PUTAWAY").scan("LPR-000417")
    for code in ("DOOR-1", "RCV-01", "RCV-02"):
        play.scan(code).refused("no_storage", f"`{code}`", "Take it to `B-02-01-1`")
    play.do(acts.Place(ONE, "RCV-02")).refused("no_storage")  # type: ignore[arg-type]
    play.scan("B-02-01-1").done("stands in `B-02-01-1`")
    sound(play)


def test_what_the_office_does_about_tasks_is_recorded(play: Play, ground: Ground, rulebook: Rulebook) -> None:
    """Each becomes a step that replays, and means the task that an earlier step makes, whatever its number is then."""
    play.do(acts.HoldTask(ONE, "wet floor")).do(acts.LetTaskGo(ONE)).do(acts.RaiseTask(TWO, 1))
    play.do(acts.ReassignTask(ONE, CrewId("hazard"))).do(acts.CancelTask(TWO, "sent back"))
    mara = Play(play.world, "mara", "H2", ("quay", "hazard"))
    mara.opens("F-PUTAWAY").scan("LPR-000417").done().press("set_down").done()
    head = replace(demo_rehearsals()[0], id="tasks", steps=(), at_end=())
    world: Any = World(ground, settings_of(head), rulebook, play.world.today)
    again = record(head, tuple(play.world.log), world, {}, ())
    made = {s.id: dict(s.do.made).get("task") for s in again.steps if isinstance(s.do, sc.DoOffice)}
    assert len(made) == 5 and len(set(made.values())) == 2
    ids = [s.id for s in again.steps]
    assert all(of in ids and ids.index(of) < ids.index(step) for step, of in made.items())
    result, _ = run(again, ground, rulebook, lambda at: at.date(), gs1.split)
    assert result.passed and result.first_difference is None, result
    opening = ground.opening
    later = replace(
        opening, series=tuple(replace(s, next=s.next + 40) if s.document == "task" else s for s in opening.series)
    )
    result, _ = run(again, Ground(later), rulebook, lambda at: at.date(), gs1.split)
    assert result.passed and result.first_difference, "other numbers, the same work"


def test_a_task_is_a_list_of_moves(ground: Ground, rulebook: Rulebook) -> None:
    """Two takes, two places, one of them turned elsewhere and done in two goes: at every step the stock adds up, the bins
    that are claimed are those still to be filled, and what is tried and taken back, or read from a snapshot, is the same."""
    world = new_world(ground, rulebook)
    state, task, oren, hands = world.state, TaskNo("TR-0900"), PersonId("oren"), in_hands(TaskNo("TR-0900"))
    here = [c for c in ground.bins if ground.site_of(c) == "HQ"]
    (one, first), (two, second) = [
        (c, replace(g, quantity=6)) for c in here for g in state.loose(c) if g.quantity >= 6
    ][:2]
    left, right, far = [c for c in here if not state.held(c).kinds and not state.held(c).plates][:3]
    moves = (
        Move(1, Do.TAKE, one, (first,)), Move(2, Do.TAKE, two, (second,)),
        Move(3, Do.PLACE, left, (first,)), Move(4, Do.PLACE, right, (second,)),
    )  # fmt: skip
    part = replace(second, quantity=2)
    steps: list[tuple[ev.Event, TaskState, set[BinCode]]] = [
        (ev.WorkMade(task, Need.MOVE, CrewId("quay"), moves), TaskState.OPEN, {left, right}),
        (ev.MoveDone(task, 1, oren, one, in_bin(one), hands, (first,)), TaskState.TAKEN, {left, right}),
        (ev.MoveDone(task, 2, oren, two, in_bin(two), hands, (second,)), TaskState.TAKEN, {left, right}),
        (ev.MoveTurned(task, 4, far), TaskState.TAKEN, {left, far}),
        (ev.MoveDone(task, 4, oren, far, hands, in_bin(far), (part,)), TaskState.TAKEN, {left, far}),
        (ev.MoveDone(task, 3, oren, left, hands, in_bin(left), (first,)), TaskState.TAKEN, {far}),
        (ev.MoveDone(task, 4, oren, far, hands, in_bin(far), (replace(second, quantity=4),)), TaskState.DONE, set()),
    ]
    was: set[BinCode] = set()
    for n, (event, how, claimed) in enumerate(steps, 1):
        at, before = At(n, world.stamp("x", oren)), canonical(state.kept())
        with state.tentatively():
            fold(state, event, at)
        assert canonical(state.kept()) == before and {c for c in here if task in state.coming(c)} == was
        fold(state, from_plain(type(event), to_plain(event)), at)
        again = from_snapshot(state)
        for each in (state, again):
            assert each.tasks[task].state is how and {c for c in here if task in each.coming(c)} == claimed
            assert broken(each) == [], n
        assert canonical(again.kept()) == canonical(state.kept())
        was = claimed
    done = state.tasks[task]
    assert [(p.bin, p.quantity) for p in done.placed] == [(far, 2), (left, 6), (far, 4)] and done.person == oren
    assert not done.going.hands and state.quantity_in(far, second.item) == 6


def test_what_waits_is_listed_or_given_by_the_walk(ground: Ground, rulebook: Rulebook) -> None:
    """In the order of the bins it goes to; or one after another is given, the next on the walk from where the last was placed,
    urgent ones first: another is refused with the one that is meant, and one that is not found is passed over."""

    def flow(listed: Listed) -> Rulebook:
        return evolve(
            rulebook, flows=tuple(evolve(f, listed=listed) if f.id == "F-PUTAWAY" else f for f in rulebook.flows)
        )

    def waiting(listed: Listed) -> Play:
        play = Play(new_world(ground, flow(listed)))
        for order, item in (("PO-1001", "SHK-08"), ("PO-1012", "BLG-20"), ("PO-1005", "ANC-10"), ("PO-1010", "VARN-1")):
            line = OfficeLine(ItemCode(item), 4, *(("L-1", date(2027, 5, 1)) if item == "VARN-1" else ()))
            play.do(
                acts.ReceiveInOffice(OrderNo(order), (line,), PlateKindCode("PAL"), why="label torn", note="DN-1")
            ).done()
        return play.opens("F-PUTAWAY")

    def walk(play: Play, number: str) -> int:
        task = play.state.task_of(number)
        return int(ground.bins[task.to_bin].walk)

    listed = waiting(Listed.BINS)
    plates = [p.value for p in listed.question().picks]
    turns = [walk(listed, p) for p in plates]
    assert len(set(turns)) > 1 and turns == sorted(turns)
    given = waiting(Listed.GIVEN)
    assert not given.question().picks and given.question().expect == plates[0]
    given.offers("pass_over", "Not this one", "leave", "Leave")
    given.scan(plates[2]).refused("not_the_next", plates[0], "RCV-01").press("pass_over").done().asks(
        "task", expect=plates[1]
    )
    given.scan(plates[1]).done().scan(given.question().expect).done()
    assert given.question().expect == plates[2], "from there on"
    given.do(acts.RaiseTask(given.state.task_of(plates[3]).number, 5)).done()
    assert given.question().expect == plates[3], "what is urgent comes first"
    for plate in (plates[3], plates[0], plates[2]):  # from the beginning again
        given.asks("task", expect=plate).scan(plate).done().scan(given.question().expect).done()
    given.asks("task", expect="").press("pass_over").refused("not_now")
