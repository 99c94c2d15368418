"""Waves: released orders are worked together, stock is kept for them and becomes tasks; held, changed, taken back, run by the clock."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine
from mindful_crate.core.catalog.ids import (
    BinCode,
    CarrierCode,
    ItemCode,
    OrderNo,
    PartnerCode,
    ReleaseRunId,
    SiteCode,
    UnitCode,
    WaveNo,
    WavePlanId,
)
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.tasks import Do, Task, TaskState
from mindful_crate.core.floor.waves import WaveState, state_of
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.proving.preview import of_orders
from mindful_crate.core.proving.wave_runs import next_runs
from mindful_crate.core.releasing.planning import (
    all_orders,
    as_waiting,
    criteria,
    filled,
    plan_of,
    size_of,
    why_not,
)
from mindful_crate.core.releasing.plans import takes
from mindful_crate.core.releasing.settling import settled
from mindful_crate.core.rulebook.bin_rules import Between, Conditions
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.chapter import Draw
from mindful_crate.core.rulebook.chapters import draw, where
from mindful_crate.core.rulebook.gates import ReleaseRun
from mindful_crate.core.rulebook.recipes import Caps, Grouping
from mindful_crate.core.rulebook.steps import Found, Need
from mindful_crate.core.rulebook.waves import Goes, Limits, Method, Of, Wanted, WavePlan
from mindful_crate.core.rulebook.words.gates import run_sentence
from mindful_crate.core.rulebook.words.parts import words_of
from mindful_crate.core.rulebook.words.waves import wave_sentence
from mindful_crate.core.work.picking.decide import to_name
from mindful_crate.core.work.waving.acts import WaveDue
from mindful_crate.core.work.waving.events import WaveMade
from mindful_crate.core.world import acts
from mindful_crate.core.world.invariants import broken
from tests.core.test_covering import BOOK, GROUND, LATE, asked, asked_or_not
from tests.core.test_releasing import kept, releases, takes_back
from tests.core.test_rulebook import change_rule
from tests.playbook import Play, from_snapshot, new_world
from tests.properties import tried

HQ = SiteCode("HQ")
TIDE, HEAV = CarrierCode("TIDE"), CarrierCode("HEAV")
TODAY = date(2026, 3, 3)
EMPTY = new_world(GROUND, BOOK).state


def order(
    number: str, *lines: tuple[str, int], carrier: CarrierCode | None = TIDE, partner: str = "C-500", priority: int = 5
) -> Order:
    """A sales order of some lines, in base units, whose carrier the demo's wave plans know."""
    units = {i: GROUND.items[ItemCode(i)].units[0].code for i, _ in lines}
    made = tuple(
        OrderLine(n, ItemCode(i), UnitCode(units[i]), quantity, Decimal(1)) for n, (i, quantity) in enumerate(lines, 1)
    )
    return Order(
        OrderNo(number), OrderKind.SALES, HQ, PartnerCode(partner), LATE, made, carrier=carrier, priority=priority
    )


def by(book: Rulebook, *plans: WavePlan) -> Rulebook:
    """The demo's rules with these wave plans alone."""
    return replace(book, wave_plans=plans)


def plan(method: Method = Method.ORDER, **more: object) -> WavePlan:
    return WavePlan(WavePlanId("WP-9"), "Morning", method=method, **more)  # type: ignore[arg-type]


def released(book: Rulebook, *orders: Order) -> Play:
    """A floor on which these orders are released."""
    play = asked(Play(new_world(GROUND, book)), *orders)
    return releases(play, *(o.number for o in orders)).done()


def tasks(play: Play) -> list[Task]:
    """Pick tasks that are not ended."""
    return [t for t in play.state.tasks.values() if t.need is Need.PICK and not t.state.ended]


def state(play: Play, wave: str) -> WaveState:
    return state_of(play.state.waves[WaveNo(wave)], play.state.tasks)


def sound(play: Play) -> None:
    """No invariant is broken, promises are as they would be if they were made anew, and a snapshot says the same."""
    assert broken(play.state) == []
    for item in {c.item for c in play.state.covers.all().values()}:
        assert list(settled(play.state, item, play.state.clock.date())) == []
    assert from_snapshot(play.state).kept() == play.state.kept()


def fetched(task: Task) -> list[tuple[str, int]]:
    """What a task fetches where, in its order."""
    takes = [m for m in task.plan.moves if m.do is Do.TAKE]
    return [(m.at or "", sum(s.quantity for s in m.serves)) for m in takes]


def test_what_no_plan_takes_goes_at_once_in_a_wave_of_its_own(rulebook: Rulebook) -> None:
    """A release makes a wave, tasks by the recipes and where its plan brings them: dear goods for their crew, whole plates by themselves, the rest
    along the shortest round; each says which order lines it serves."""
    one = order("SO-1", ("SHK-08", 20), ("ROPE-06", 30), ("PLOT-12", 2), carrier=None)
    two = order("SO-2", ("AF-RED-25", 4), carrier=None)
    play = released(rulebook, one, two)
    (wave,) = play.state.waves.values()
    assert (wave.plan, wave.orders, state(play, wave.number)) == (None, ("SO-1", "SO-2"), WaveState.LET_GO)
    found = {(t.crew, t.plan.orders): t for t in tasks(play)}
    assert set(found) == {("quay", ("SO-1",)), ("store", ("SO-1",)), ("quay", ("SO-2",))}
    mine = found["quay", ("SO-1",)]  # type: ignore[index]
    assert sorted(n for _, n in fetched(mine)) == [20, 30] and mine.priority == 0
    assert found["store", ("SO-1",)].priority == 3  # type: ignore[index]
    for task in tasks(play):
        assert task.to_bin is not None and task.to_bin.startswith("PACK-") and not task.held
        for move in task.plan.moves:
            assert sum(s.quantity for s in move.serves) == sum(g.quantity for g in move.goods)
    sound(play)


def test_a_wave_is_picked_and_what_was_picked_stays_kept(rulebook: Rulebook) -> None:
    """Begun and set down: the goods leave their bins, stay kept in hands and at the pack station, and nothing of it is free; the wave goes with its
    tasks; what was fetched cannot be taken back."""
    play = released(rulebook, order("SO-1", ("SHK-08", 20), ("ROPE-06", 30), carrier=None))
    (task,) = tasks(play)
    where = fetched(task)
    before = {code: play.state.quantity_in(BinCode(code), g.item) for code, _ in where for g in task.plan.loose}
    play.do(acts.PickInOffice(task.number, "no scanner", begin=True)).done(
        "is picked by @oren, and still to be set down"
    )
    assert state(play, "WR-0001") is WaveState.IN_PROGRESS and before
    assert (kept(play, "SO-1"), play.state.reservations.of_line(LineKey(OrderNo("SO-1"), 2))) == (20, 30)
    sound(play)
    takes_back(play, "SO-1").refused("begun", f"Pick task `{task.number}` has begun.")
    play.do(acts.TakeOutOfWave(WaveNo("WR-0001"), OrderNo("SO-1"), "not today")).refused("begun")
    play.do(acts.PickInOffice(task.number, "no scanner", bin=BinCode("NO-SUCH"))).refused("unknown_bin")
    play.do(acts.PickInOffice(task.number, "no scanner")).done("is picked: 1 order in `PACK-1`")
    assert play.state.quantity_in(BinCode("PACK-1"), ItemCode("SHK-08")) == 20
    parts = [p for r in play.state.reservations.values() for p in r.parts]
    assert {(p.bin, p.task) for p in parts} == {("PACK-1", None)} and kept(play, "SO-1") == 20
    assert state(play, "WR-0001") is WaveState.DONE
    play.do(acts.PickInOffice(task.number, "again")).refused("task_done")
    play.do(acts.HoldWave(WaveNo("WR-0001"), "a pause")).refused("wave_done")
    takes_back(play, "SO-1").refused("begun", "goods of `SO-1` were fetched")
    sound(play)


def test_which_pieces_are_fetched_is_said_where_it_is_not_clear(rulebook: Rulebook) -> None:
    """Of goods that are kept by serial numbers: refused until enough of those that lie there are named; they are at the station then, and kept."""
    play = released(rulebook, order("SO-1", ("PLOT-12", 2), carrier=None))
    (task,) = tasks(play)
    count, among = to_name(play.state, task)
    assert count and len(among) > count
    play.do(acts.PickInOffice(task.number, "no scanner")).refused("which_pieces", "say which, by their serial numbers")
    play.do(acts.PickInOffice(task.number, "no scanner", serials=("NO-SUCH",))).refused("which_pieces")
    play.do(acts.PickInOffice(task.number, "no scanner", serials=among)).done("is picked")
    at = {play.state.serials.where(ItemCode("PLOT-12"), n).spot.code for n in among[:1]}  # type: ignore[union-attr]
    assert at == {"PACK-1"} and kept(play, "SO-1") == 2
    sound(play)


def test_what_was_fetched_and_is_put_back_is_kept_there_again(rulebook: Rulebook) -> None:
    """The office has it put back: the task is open, and what it fetches is kept where it lies; then the release may be taken back."""
    play = released(rulebook, order("SO-1", ("SHK-08", 20), ("ROPE-06", 30), carrier=None))
    before = {r.number: r.parts for r in play.state.reservations.values()}
    (task,) = tasks(play)
    play.do(acts.PickInOffice(task.number, "no scanner", begin=True)).done()
    play.do(acts.SetDown(task.number)).done("is open again")
    assert {r.number: r.parts for r in play.state.reservations.values()} == before
    sound(play)
    play.do(acts.CancelTask(task.number, "never mind")).refused("of_a_wave", "take that out of its wave")
    takes_back(play, "SO-1").done("1 task cancelled")
    sound(play)


def test_a_whole_pallet_goes_beside_loose_goods(rulebook: Rulebook) -> None:
    """In one shipment: the pallet as it stands, by its crew, and the rest by hand."""
    book = change_rule(rulebook, "BR-41", lambda r: replace(r, applies=Conditions()))
    play = Play(new_world(GROUND, book))
    lines = play.state.lines(ItemCode("LJ-M"))
    plate = min((x for x in lines if x.plate), key=lambda x: x.goods.arrived or TODAY)  # the oldest goes first
    asked(play, order("SO-1", ("LJ-M", plate.goods.quantity), ("SHK-08", 3), carrier=None))
    releases(play, "SO-1").done()
    crews = {t.crew: t for t in tasks(play)}
    assert set(crews) == {"reach", "quay"}
    whole = crews["reach"]  # type: ignore[index]
    assert whole.plan.plate and [m.goods for m in whole.plan.moves] == [(), ()]
    play.do(acts.PickInOffice(whole.number, "no scanner")).done()
    assert play.state.bin_of(whole.plan.plate) == play.state.tasks[whole.number].placed_in == "PACK-1"
    assert kept(play, "SO-1") == plate.goods.quantity
    sound(play)


def test_orders_wait_for_their_plan_and_go_onto_carts(rulebook: Rulebook) -> None:
    """Nothing is kept while they wait; a wave holds so many, says why others are left out, and puts each order into a tote of its own; a cart is one
    task."""
    book = by(rulebook, plan(Method.CLUSTER, totes=2, most=Limits(most_orders=3), wants=Wanted(carriers=(TIDE,))))
    orders = [order(f"SO-{n}", ("SHK-08", n), ("ROPE-06", 10), priority=9 - n) for n in range(1, 5)]
    play = released(book, *orders)
    assert play.last is not None and "It waits for Morning, which the office makes." in play.last.outcome.says  # type: ignore[union-attr]
    assert not len(play.state.waves) and not tasks(play) and all(r.waits for r in play.state.releases.values())
    releases(play, "SO-1").refused("released_already", "waits for a wave")
    play.do(acts.MakeWave(WavePlanId("WP-X"))).refused("unknown_plan")
    play.do(acts.MakeWave(WavePlanId("WP-9"))).done(
        "Wave `WR-0001` of Morning: 3 orders, `SO-4`, `SO-3`, `SO-2`.", "2 tasks", "Not `SO-1`: the wave holds 3 orders: it waits for the next."
    )  # fmt: skip
    assert sorted(len(t.plan.orders) for t in tasks(play)) == [1, 2]
    double = next(t for t in tasks(play) if len(t.plan.orders) == 2)
    places = [m for m in double.plan.moves if m.do is Do.PLACE]
    assert [len({s.line.order for s in m.serves}) for m in places] == [1, 1]
    assert [play.state.releases[OrderNo(f"SO-{n}")].waits for n in (1, 2)] == [True, False]
    sound(play)
    play.do(acts.MakeWave(WavePlanId("WP-9"))).done("1 order, `SO-1`")
    play.do(acts.MakeWave(WavePlanId("WP-9"))).refused("no_orders", "No released order waits for Morning.")
    play.do(acts.MakeWave(WavePlanId("WP-9"), (OrderNo("SO-1"),))).refused("in_a_wave", "is in wave `WR-0002` already")
    sound(play)


def test_many_orders_are_fetched_at_once_and_sorted(rulebook: Rulebook) -> None:
    """Of one bin all that several orders want is one take, which says how much is whose; it is brought where it is sorted."""
    book = by(rulebook, plan(Method.BATCH))
    play = released(book, *(order(f"SO-{n}", ("SHK-08", n)) for n in (1, 2, 3)))
    play.do(acts.MakeWave(WavePlanId("WP-9"))).done("1 task")
    (task,) = tasks(play)
    assert [n for _, n in fetched(task)] == [6] and task.to_bin == "STG-10"
    (take, place) = task.plan.moves
    assert [(s.line.order, s.quantity) for s in take.serves] == [("SO-1", 1), ("SO-2", 2), ("SO-3", 3)]
    assert place.serves == take.serves
    play.do(acts.TakeOutOfWave(WaveNo("WR-0001"), OrderNo("SO-2"), "it leaves tomorrow")).done(
        "1 task cancelled", "waits for Morning"
    )
    (left,) = tasks(play)
    assert [n for _, n in fetched(left)] == [4] and left.plan.orders == ("SO-1", "SO-3")
    sound(play)
    play.do(acts.PickInOffice(left.number, "no scanner")).done("2 orders in `STG-10`")
    assert [kept(play, f"SO-{n}") for n in (1, 2, 3)] == [1, 0, 3]
    sound(play)


def test_a_wave_is_gathered_held_changed_and_let_go(rulebook: Rulebook) -> None:
    """Gathered: nothing is kept. Let go: stock and tasks. Held: nobody may take them, and they say why. Orders join until it was let go, leave until
    their task has begun, and wait for another then; cancelled, all of them do."""
    book = by(rulebook, plan(goes=Goes.GATHERED))
    play = released(book, *(order(f"SO-{n}", ("SHK-08", 5)) for n in (1, 2, 3)))
    play.do(acts.MakeWave(WavePlanId("WP-9"), (OrderNo("SO-1"),))).done()
    assert state(play, "WR-0001") is WaveState.GATHERED and not tasks(play) and kept(play, "SO-1") == 0
    play.do(acts.HoldWave(WaveNo("WR-0001"), "a pause")).refused("not_let_go")
    releases(play, "SO-1").refused("released_already", "is in wave `WR-0001`, which is not let go yet")
    play.do(acts.AddToWave(WaveNo("WR-0001"), OrderNo("SO-2"))).done("`SO-2` is in wave `WR-0001` now.")
    play.do(acts.LetWaveGo(WaveNo("WR-0001"))).done("is let go", "2 tasks")
    assert kept(play, "SO-1") == kept(play, "SO-2") == 5 and state(play, "WR-0001") is WaveState.LET_GO
    play.do(acts.AddToWave(WaveNo("WR-0001"), OrderNo("SO-3"))).refused("let_go")
    play.do(acts.HoldWave(WaveNo("WR-0001"), "")).refused("no_reason")
    play.do(acts.HoldWave(WaveNo("WR-0001"), "aisle closed")).done("2 tasks may not be taken")
    assert {t.held for t in tasks(play)} == {"wave WR-0001 is held: aisle closed"}
    play.do(acts.PickInOffice(tasks(play)[0].number, "no scanner")).refused("task_held", "aisle closed")
    play.do(acts.LetWaveGo(WaveNo("WR-0001"))).done("2 tasks").do(acts.LetWaveGo(WaveNo("WR-0001"))).refused("not_held")
    assert not any(t.held for t in tasks(play))
    sound(play)
    play.do(acts.TakeOutOfWave(WaveNo("WR-0001"), OrderNo("SO-3"), "not today")).refused("not_in_wave")
    play.do(acts.TakeOutOfWave(WaveNo("WR-0001"), OrderNo("SO-1"), "not today")).done(
        "`SO-1` left wave `WR-0001`: not today. 1 reservation is given up, 1 task cancelled. It waits for Morning"
    )
    assert kept(play, "SO-1") == 0 and play.state.covers.of_line(LineKey(OrderNo("SO-1"), 1)).on_hand == 5  # type: ignore[union-attr]
    play.do(acts.CancelWave(WaveNo("WR-0001"), "no truck")).done("1 order waits for another")
    assert state(play, "WR-0001") is WaveState.CANCELLED and not tasks(play)
    play.do(acts.LetWaveGo(WaveNo("WR-0001"))).refused("wave_cancelled")
    assert all(r.waits for r in play.state.releases.values())
    sound(play)
    play.do(acts.MakeWave(WavePlanId("WP-9"))).done("3 orders")
    takes_back(play, "SO-2").done("0 reservations are given up")
    assert play.state.waves[WaveNo("WR-0002")].orders == ("SO-1", "SO-3")
    sound(play)


def test_a_plan_runs_by_the_clock(rulebook: Rulebook) -> None:
    """At its time it takes what was released before its cut-off, once; what came later waits for the next run; with nothing left to take it says so
    and makes nothing; nobody but the clock says that it is time."""
    book = by(rulebook, plan(times="10:00; 15:00", cut_off=30))
    play = released(book, order("SO-1", ("SHK-08", 5)))
    play.do(acts.Wait(3600)).done()  # half past nine and some seconds: after the cut-off of ten
    asked(play, order("SO-2", ("SHK-08", 5)))
    releases(play, "SO-2").done("which runs at 10:00, 15:00")
    assert not len(play.state.waves)
    play.do(acts.Wait(3600)).done()
    (wave,) = play.state.waves.values()
    assert wave.orders == ("SO-1",) and wave.name == "Morning"
    ran = [e for e in play.world.log if isinstance(e.command.act, WaveDue)]
    assert [(e.command.stamp.who, e.command.act.due) for e in ran] == [
        ("clock", datetime(2026, 3, 3, 10, 0, tzinfo=UTC))
    ]
    assert "1 order waits for its next run" in ran[0].outcome.says  # type: ignore[union-attr]
    sound(play)
    takes_back(play, "SO-2").done()
    play.do(acts.Wait(5 * 3600)).done()
    ran = [e for e in play.world.log if isinstance(e.command.act, WaveDue)]
    assert len(ran) == 2 and "no order waits for it: no wave is made" in ran[1].outcome.says  # type: ignore[union-attr]
    play.do(acts.Wait(3 * 86_400)).done()
    assert len([e for e in play.world.log if isinstance(e.command.act, WaveDue)]) == 2 and len(play.state.waves) == 1
    play.do(WaveDue(WavePlanId("WP-9"), datetime(2026, 3, 3, 10, 0, tzinfo=UTC))).refused("not_due")
    sound(play)


def hours_pass(play: Play, hours: int) -> list[tuple[datetime, tuple[str, ...]]]:
    """What ran by the clock in so many hours, and the orders of the wave each made; none where it made none."""
    for _ in range(hours):
        play.do(acts.Wait(3600)).done()
    ran = [(e.command.act.due, e) for e in play.world.log if isinstance(e.command.act, WaveDue)]
    made = [[ev for ev in e.outcome.events if isinstance(ev, WaveMade)] for _, e in ran]  # type: ignore[union-attr]
    return [(due, w[0].orders if w else ()) for (due, _), w in zip(ran, made, strict=True)]


def test_the_next_runs_are_known_beforehand(rulebook: Rulebook) -> None:
    """What a plan's next runs take, leave and why is what they do once the clock has come there."""
    today = Play(new_world(GROUND, rulebook)).world.today
    mine = plan(times="10:00; 15:00", cut_off=30, most=Limits(most_orders=1))
    book = by(rulebook, mine)
    play = released(book, *(order(f"SO-{n}", ("SHK-08", 1), priority=n) for n in (1, 2)))
    play.do(acts.Wait(3600)).done()  # after the cut-off of ten
    asked(play, order("SO-3", ("SHK-08", 1), priority=1))
    releases(play, "SO-3").done()
    numbers = [OrderNo(f"SO-{n}") for n in (1, 2, 3)]
    runs = next_runs(play.state, book, mine, numbers, today)
    assert [(f"{r.at:%d %H:%M}", r.takes, [x.order for x in r.left]) for r in runs] == [
        ("03 10:00", ("SO-1",), ["SO-3", "SO-2"]),
        ("03 15:00", ("SO-3",), ["SO-2"]),
        ("04 10:00", ("SO-2",), []),
    ]
    assert [x.says for x in runs[0].left] == [
        "it is released less than 30 minutes before", "the wave holds 1 order: it waits for the next"
    ]  # fmt: skip
    assert hours_pass(play, 30) == [(r.at, r.takes) for r in runs]


def test_an_order_becomes_another_plans_when_its_day_is_nearer(rulebook: Rulebook) -> None:
    """Who waits for the office is taken by a plan for what leaves soon on the day that it is one; a plan nobody waits for does not run; which runs
    there are, empty ones too, is known beforehand; and who goes after the day it should have left is said."""
    soon = WavePlan(WavePlanId("WP-8"), "Soon", Wanted(within_days=1), times="12:00", most=Limits(most_orders=1))
    other = WavePlan(WavePlanId("WP-7"), "Other", Wanted(partners=(PartnerCode("C-501"),)), times="11:00")
    book = by(rulebook, other, soon, plan())
    orders = [replace(order(f"SO-{n}", ("SHK-08", 1)), promised=date(2026, 3, 5 + n)) for n in (1, 2, 3)]
    orders[1] = replace(orders[1], promised=orders[0].promised)
    play = released(book, *orders)
    today, numbers = play.world.today, [o.number for o in orders]
    runs = next_runs(play.state, book, soon, numbers, today, 6)
    assert next_runs(play.state, book, other, numbers, today) == []
    assert [(r.at.day, r.takes, r.late) for r in runs if r.takes] == [
        (5, ("SO-1",), ()), (6, ("SO-2",), ()), (7, ("SO-3",), ())
    ]  # fmt: skip
    assert hours_pass(play, 6 * 24) == [(r.at, r.takes) for r in runs]
    sound(play)
    play = released(book, *(replace(o, promised=TODAY) for o in orders))
    assert [(r.at.day, r.late) for r in next_runs(play.state, book, soon, numbers, today)] == [
        (3, ()), (4, ("SO-2",)), (5, ("SO-3",))
    ]  # fmt: skip


def test_some_lines_go_and_the_rest_later(rulebook: Rulebook) -> None:
    """Chosen lines alone are kept and fetched, at once or by the wave; the rest keeps its promise, says that it was not chosen, and goes later; taken back,
    all of it is promised again. A plan may let them go together only."""
    number, both = OrderNo("SO-1"), (("SHK-08", 20), ("ROPE-06", 30))
    for carrier in (None, TIDE):
        book = by(rulebook, plan(wants=Wanted(carriers=(TIDE,))))
        play = asked(Play(new_world(GROUND, book)), order("SO-1", *both, carrier=carrier))
        for lines, code in (((), "no_lines"), ((1, 9), "no_such_line")):
            play.do(acts.ReleaseLines(number, lines)).refused(code)
        play.do(acts.ReleaseLines(number, (2,))).done(
            "`SO-1` was released into", "Line 1 was not chosen, and may go later."
        )
        if carrier:
            assert kept(play, "SO-1") == 0
            play.do(acts.MakeWave(WavePlanId("WP-9"))).done("1 task")
        assert [play.state.reservations.of_line(LineKey(number, n)) for n in (1, 2)] == [0, 30]
        play.do(acts.ReleaseLines(number, (2,))).refused("nothing_on_hand", "Nothing of line 2")
        releases(play, "SO-1").done("What else is on hand of `SO-1` was released")
        if carrier:
            play.do(acts.MakeWave(WavePlanId("WP-9"))).done("1 task")
        assert [play.state.reservations.of_line(LineKey(number, n)) for n in (1, 2)] == [20, 30]
        assert sorted(n for t in tasks(play) for _, n in fetched(t)) == [20, 30]
        sound(play)
        takes_back(play, "SO-1").done("2 tasks cancelled")
        assert [play.state.covers.of_line(LineKey(number, n)).on_hand for n in (1, 2)] == [20, 30]  # type: ignore[union-attr]
        sound(play)
    together = replace(rulebook, ship_plans=(replace(rulebook.ship_plans[0], apart=False),))
    play = asked(Play(new_world(GROUND, together)), order("SO-1", *both))
    play.do(acts.ReleaseLines(number, (1,))).refused(
        "goes_together", "By Sales the lines of `SO-1` are released together."
    )


def test_what_is_lost_is_fetched_by_no_task(rulebook: Rulebook) -> None:
    """A reservation of an order in a wave is given up: its task is made anew of what is left, and of the other orders nothing is lost."""
    book = by(rulebook, plan(Method.BATCH))
    play = released(book, order("SO-1", ("SHK-08", 5), ("ROPE-06", 10)), order("SO-2", ("SHK-08", 7)))
    play.do(acts.MakeWave(WavePlanId("WP-9"))).done("1 task")
    (before,) = tasks(play)
    (number,) = play.state.reservations.of_order(OrderNo("SO-1"))[1]
    play.do(acts.LetGo(number)).done(f"`{before.number}` of wave `WR-0001` cannot be picked as made.")
    (now,) = tasks(play)
    assert (
        sorted(n for _, n in fetched(now)) == [7, 10] and play.state.tasks[before.number].state is TaskState.CANCELLED
    )
    sound(play)


def test_recipes_say_what_one_task_holds(rulebook: Rulebook) -> None:
    """Grouped by order, shipment, zone, wave or line; not more than the caps; what leaves from where it lies, and what no recipe is for, is no task
    and says why."""
    orders = [order(f"SO-{n}", ("SHK-08", 5), ("ROPE-06", 10), carrier=None) for n in (1, 2)]
    (anything,) = [r for r in rulebook.recipes_for(HQ, Need.PICK) if r.id == "RE-7"]
    for grouping, count in (
        (Grouping.ORDER, 2), (Grouping.SHIPMENT, 1), (Grouping.WAVE, 1), (Grouping.PLATE, 4),
    ):  # fmt: skip
        play = released(replace(rulebook, recipes=(replace(anything, grouping=grouping),)), *orders)
        assert len(tasks(play)) == count, grouping
        sound(play)
    capped = replace(anything, grouping=Grouping.WAVE, most=Caps(pieces=12))
    play = released(replace(rulebook, recipes=(capped,)), *orders)
    assert all(sum(n for _, n in fetched(t)) <= 12 for t in tasks(play)) and len(tasks(play)) >= 3
    sound(play)
    rope = replace(anything, applies=Conditions(groups=("Rope",)))
    play = released(replace(rulebook, recipes=(rope,)), orders[0])
    assert [sum(n for _, n in fetched(t)) for t in tasks(play)] == [10]
    assert "no recipe picks it" in play.last.outcome.says  # type: ignore[union-attr]
    sales = rulebook.ship_plans[0]
    play = released(replace(rulebook, ship_plans=(replace(sales, picks=False),)), orders[0])
    assert not tasks(play) and kept(play, "SO-1") == 5
    assert "it leaves from where it lies" in play.last.outcome.says  # type: ignore[union-attr]
    takes_back(play, "SO-1").done()
    sound(play)


def test_the_first_plan_that_takes_an_order_has_it_and_others_say_why_not(rulebook: Rulebook) -> None:
    """By carrier, partner, its group, item groups, priority, lines, weight, the day it leaves; a smaller order may go where a larger does not fit."""
    play = Play(new_world(GROUND, rulebook))
    each = order("SO-1", ("SHK-08", 20), ("ROPE-06", 30))
    asked(play, each)
    size = size_of(play.state, BOOK, each)
    assert (size.lines, size.groups) == (2, frozenset(GROUND.items[ItemCode(i)].group for i in ("SHK-08", "ROPE-06")))
    for wants, says in (
        (Wanted(), None),
        (Wanted(carriers=(HEAV,)), "it goes by TIDE"),
        (Wanted(partners=(PartnerCode("C-510"),)), "it is for Ardle Sound Yachts"),
        (Wanted(partner_groups=("Shops",)), "its partner is of Yards"),
        (Wanted(groups=("Rope",)), "it has "),
        (Wanted(groups=("Rope",), of=Of.ANY), None),
        (Wanted(groups=("Rope",), of=Of.NONE), "it has Rope"),
        (Wanted(groups=("Chain",), of=Of.ANY), "nothing of it is of Chain"),
        (Wanted(order_priority=Between(6)), "its priority is 5, not at least 6"),
        (Wanted(order_lines=Between(None, 1)), "it has 2 lines, not at most 1"),
        (Wanted(order_weight=Between(1000)), "it weighs"),
        (Wanted(within_days=2), "it leaves on 2026-03-20"),
        (Wanted(within_days=17), None),
    ):  # fmt: skip
        found = why_not(GROUND, plan(wants=wants), size, TODAY)
        assert (found is None) == (says is None) and (says or "") in (found or ""), wants
    assert plan_of(play.state, rulebook, each, TODAY) == rulebook.wave_plans[1]
    one_line = order("SO-2", ("SHK-08", 1))
    asked(play, one_line)
    assert plan_of(play.state, rulebook, one_line, TODAY) == rulebook.wave_plans[0]
    assert plan_of(play.state, rulebook, replace(each, carrier=None), TODAY) is None
    small = size_of(play.state, BOOK, one_line)
    taken, left = filled(Limits(most_lines=3), [size, size, small])
    assert [s.lines for s in taken] == [2, 1] and [x.says for x in left] == [
        "the wave holds 3 lines: it waits for the next"
    ]
    assert filled(Limits(most_kilograms=0), [size])[1] == []  # one that is larger than any wave goes alone


PARTNERS = [p.code for p in GROUND.partners.values() if p.code.startswith("C-")]
SPANS = st.builds(Between, st.none() | st.integers(0, 4), st.none() | st.integers(4, 9))
WANTS = st.builds(
    Wanted,
    st.lists(st.sampled_from([TIDE, HEAV]), max_size=2, unique=True).map(tuple),
    st.lists(st.sampled_from(PARTNERS), max_size=2, unique=True).map(tuple),
    st.lists(st.sampled_from(["Yards", "Shops"]), max_size=1).map(tuple),
    st.lists(st.sampled_from(["Rope", "Shackles", "Chain"]), max_size=2, unique=True).map(tuple),
    st.sampled_from(list(Of)), SPANS, SPANS, SPANS, st.none() | st.integers(0, 20),
)  # fmt: skip
LINES = st.lists(
    st.tuples(st.sampled_from(["SHK-08", "ROPE-06", "CHN-08"]), st.integers(1, 90)), min_size=1, max_size=4
)


@tried(200)
@given(WANTS, LINES, st.sampled_from([TIDE, HEAV, None]), st.sampled_from(PARTNERS), st.integers(0, 9))
def test_what_a_plan_says_of_an_order_is_what_is_proved_of_plans(
    wants: Wanted, lines: list[tuple[str, int]], carrier: CarrierCode | None, partner: str, priority: int
) -> None:
    """Whether it takes an order is asked in words and as numbers that are cut into classes: both say the same of any order."""
    each = order("SO-1", *lines, carrier=carrier, partner=partner, priority=priority)
    size = size_of(EMPTY, BOOK, each)
    known = all_orders(GROUND)
    assert known is not None
    assert (why_not(GROUND, plan(wants=wants), size, TODAY) is None) == takes(
        criteria(plan(wants=wants)), as_waiting(size, TODAY), known
    )


def test_a_recipe_is_called_by_one_number(rulebook: Rulebook) -> None:
    """On its page, in a preview and in a finding's place, also when one for put-away stands after those that pick."""
    last = replace(rulebook.recipes_for(HQ, Need.PUT_AWAY)[-1], id="RE-98")
    rest = tuple(r for r in rulebook.recipes if r.id != "RE-1")
    book = replace(rulebook, recipes=(*rest, last))
    number = book.numbered_recipes(HQ)[last.id]
    assert number == len(book.recipes)
    page = draw("recipes", Draw(book, GROUND, HQ), "put_away")
    assert page is not None and page.sections[0].places[-1] == number - 1
    shown = of_orders(new_world(GROUND, book).state, book, [OrderNo("PO-1001")], TODAY).tasks[0]
    assert (shown.recipe, shown.number) == ("RE-98", number)
    assert where("recipes/RE-98", book)[0] == f"Recipes, recipe {number}"


def test_what_cannot_work_is_found(rulebook: Rulebook) -> None:
    """Each mistake of shipment plans, pick recipes and wave plans at its place; the demo has none of them."""

    def found(book: Rulebook) -> set[tuple[str, str]]:
        return {(f.code, f.place) for f in findings(book, GROUND, HQ)}

    assert not {f for f in found(rulebook) if f[1].startswith(("ship_plans", "wave_plans", "recipes"))}
    sales, other, _ = rulebook.ship_plans
    one = rulebook.wave_plans[0]
    picks = rulebook.recipes_for(HQ, Need.PICK)
    rest = tuple(r for r in rulebook.recipes if r.need is not Need.PICK)
    for book, code, place in (
        (replace(rulebook, ship_plans=(sales, replace(sales, id="SH-9"))), "plans_tie", "ship_plans/SH-1"),
        (replace(rulebook, ship_plans=(replace(sales, order_kind=OrderKind.PURCHASE),)), "comes_in", "ship_plans/SH-1/order_kind"),
        (replace(rulebook, ship_plans=(replace(sales, pack=replace(sales.pack, at=Found())),)), "no_station_rules", "ship_plans/SH-1/pack/on"),
        (replace(rulebook, wave_plans=()), "nothing_to_sort", "ship_plans/SH-1/sort/on"),
        (replace(rulebook, ship_plans=(other,)), "nowhere_to_sort", "wave_plans/WP-1/method"),
        (replace(rulebook, recipes=rest), "no_pick_recipe", "recipes"),
        (replace(rulebook, recipes=(*rest, picks[0])), "no_recipe_for_rest", "recipes"),
        (replace(rulebook, recipes=(*rest, *picks[::-1])), "never_reached", "recipes/RE-6"),
        (by(rulebook, replace(one, times="10:30; noon")), "no_time", "wave_plans/WP-1/times"),
        (by(rulebook, replace(one, times="16:30")), "too_late", "wave_plans/WP-1/times"),
        (by(rulebook, replace(one, totes=0)), "no_cap", "wave_plans/WP-1/totes"),
        (by(rulebook, replace(one, most=Limits(most_lines=0))), "no_cap", "wave_plans/WP-1/most/most_lines"),
        (by(rulebook, replace(one, wants=Wanted(carriers=("GONE",)))), "missing_value", "wave_plans/WP-1/wants/carriers"),
        (by(rulebook, replace(one, wants=Wanted(order_lines=Between(4, 2)))), "empty_range", "wave_plans/WP-1/wants/order_lines"),
        (by(rulebook, plan(), one), "never_reached", "wave_plans/WP-1"),
        (by(rulebook, plan(wants=Wanted(order_lines=Between(None, 2))), replace(one, id="WP-8", wants=Wanted(order_lines=Between(3))), one),
         "never_reached", "wave_plans/WP-1"),
        (by(rulebook, plan(wants=Wanted(order_priority=Between(20)))), "takes_nothing", "wave_plans/WP-9"),
    ):  # fmt: skip
        assert (code, place) in found(book), code  # type: ignore[arg-type]


@pytest.mark.parametrize(
    "name, value",
    [
        ("method", Method.BATCH), ("totes", 9), ("cart_lines", 7), ("pickers", 5), ("times", "09:00"), ("goes", Goes.HELD), ("on", False),
        ("most", Limits(most_orders=3)), ("wants", Wanted(carriers=(HEAV,))), ("wants", Wanted(order_lines=Between(None, 2))),
    ],
)  # fmt: skip
def test_two_plans_that_differ_read_differently(name: str, value: object) -> None:
    """In whatever field that matters by their method."""
    first = plan(Method.BATCH if name == "cart_lines" else Method.CLUSTER)
    assert words_of(wave_sentence(replace(first, **{name: value}), GROUND)) != words_of(wave_sentence(first, GROUND))  # type: ignore[arg-type]


DOINGS = st.lists(
    st.tuples(
        st.sampled_from(["ask", "release", "wave", "go", "hold", "add", "out", "cancel", "back", "host", "lose", "begin", "pick",
                         "scan", "fetch", "fetch", "short", "set", "leave", "down"]),
        st.integers(0, 3), st.integers(1, 60),
    ), max_size=20,
)  # fmt: skip


def by_hand(play: Play, what: str, task: Task, much: int) -> None:
    """Somebody of every crew does something of a task with a handset."""
    hand = Play(play.world, "oren", "H9", ("quay", "store", "reach", "hazard"))
    take = next((m for m in task.going.remaining if m.do is Do.TAKE), None)
    match what:
        case "scan":
            hand.do(acts.PickBegin(task.number))
        case "fetch" if take is not None:
            hand.do(acts.PickTake(task.number, take.no, much % 30))
        case "short" if take is not None:
            hand.do(acts.PickShort(task.number, take.no, "not there", other_bin=bool(much % 2)))
        case "set":
            hand.do(acts.PickPlace(task.number, BinCode("PACK-1"), leave=bool(much % 2)))
        case "leave":
            hand.do(acts.LeavePicking(task.number))
        case "down":
            play.do(acts.SetDown(task.number))


def all_there(play: Play) -> dict[str, int]:
    """How much there is of what the orders ask for, in bins and in hands."""
    found = {}
    for item in ("SHK-08", "ROPE-06"):
        hands = sum(g.quantity for t in play.state.tasks.values() for g in t.going.hands if g.item == item)
        found[item] = hands + sum(x.goods.quantity for x in play.state.lines(ItemCode(item)))
    return found


@tried(25)
@given(st.sampled_from([Method.ORDER, Method.CLUSTER, Method.BATCH]), st.sampled_from(list(Goes)), DOINGS)
def test_whatever_is_done_with_waves_nothing_is_fetched_twice(
    method: Method, goes: Goes, doings: list[tuple[str, int, int]]
) -> None:
    """In any sequence, in the office and on handsets: open tasks fetch what is kept, of orders of their wave, nothing is lost, and a snapshot says
    the same."""
    play = Play(new_world(GROUND, by(BOOK, plan(method, goes=goes, totes=2, most=Limits(most_orders=2)))))
    before = all_there(play)
    for what, which, much in doings:
        number, waves = OrderNo(f"SO-{which}"), sorted(play.state.waves.all())
        wave = waves[which % len(waves)] if waves else WaveNo("WR-0000")
        open_ = tasks(play)
        match what:
            case "ask":
                asked_or_not(play, order(number, ("SHK-08", much), ("ROPE-06", much)))
            case "release":
                releases(play, number, "SO-0")
            case "wave":
                play.do(acts.MakeWave(WavePlanId("WP-9") if much % 2 else None, (number,) if much % 3 else ()))
            case "go":
                play.do(acts.LetWaveGo(wave))
            case "hold":
                play.do(acts.HoldWave(wave, "a pause"))
            case "add":
                play.do(acts.AddToWave(wave, number))
            case "out":
                play.do(acts.TakeOutOfWave(wave, number, "not today"))
            case "cancel":
                play.do(acts.CancelWave(wave, "no truck"))
            case "back":
                takes_back(play, number)
            case "host":
                play.do(acts.CancelOrder(number)).do(acts.Wait(60))
            case "lose":
                for each in [r for r in play.state.reservations.values() if r.order][:1]:
                    play.do(acts.LetGo(each.number))
            case "scan" | "fetch" | "short" | "set" | "leave" | "down":
                for task in open_[which % 2 :][:1]:
                    by_hand(play, what, task, much)
            case "begin" | "pick":
                for task in open_[:1]:
                    play.do(acts.PickInOffice(task.number, "no scanner", begin=what == "begin"))
    assert all_there(play) == before
    sound(play)


def test_orders_are_released_by_the_clock(rulebook: Rulebook) -> None:
    """At its time all that may go and fit its sentence, by the same gates in the same words; the log keeps them. Nothing runs while nobody waits, and
    only the clock says that it is time."""
    yards = ReleaseRun(ReleaseRunId("RR-1"), "10:00; 15:00", partner_groups=("Yards",), within_days=30)
    whole = ReleaseRun(ReleaseRunId("RR-2"), "15:00", whole=True, warned=True)
    book = replace(rulebook, release_runs=(yards, whole))
    play = Play(new_world(GROUND, book))
    play.do(acts.Wait(3 * 3600)).done()
    due = [e for e in play.world.log if isinstance(e.command.act, acts.ReleaseDue)]
    assert not due  # half past eleven: nobody waited at ten
    asked(play, order("SO-1", ("SHK-08", 5), carrier=None), order("SO-2", ("SHK-08", 5), carrier=None, partner="C-510"))
    asked(play, order("SO-3", ("ROPE-06", 1_000_000), carrier=None))
    play.do(acts.Wait(4 * 3600)).done()
    (entry,) = [e for e in play.world.log if isinstance(e.command.act, acts.ReleaseDue)]
    said = entry.outcome.says  # type: ignore[union-attr]
    assert entry.command.stamp.who == "clock" and said.startswith("It is 15:00. 1 of 2 orders are released.")
    assert "`SO-3` is stopped" in said and "`SO-2` was released" in said
    assert set(play.state.releases.all()) == {"SO-1", "SO-2"} and len(play.state.waves) == 2
    sound(play)
    play.do(acts.CancelOrder(OrderNo("SO-3"))).done().do(acts.Wait(86_400)).done()
    due = [e for e in play.world.log if isinstance(e.command.act, acts.ReleaseDue)]
    assert [e.command.act.minute for e in due] == [900, 600]  # it waited at ten of the next day for the last time
    play.do(acts.ReleaseDue(600, play.state.clock)).refused("not_due")
    sound(play)
    bad = replace(
        rulebook, release_runs=(replace(yards, times="7 o'clock", partner_groups=("Nobody",)), replace(whole, times=""))
    )
    codes = {(f.code, f.place) for f in findings(bad, GROUND, HQ) if f.place.startswith("release_runs")}
    assert codes == {
        ("no_time", "release_runs/RR-1/times"), ("missing_value", "release_runs/RR-1/partner_groups"), ("no_time", "release_runs/RR-2/times"),
    }  # fmt: skip
    for change in (
        {"times": "09:00"},
        {"partner_groups": ()},
        {"within_days": 0},
        {"warned": True},
        {"whole": True},
        {"on": False},
    ):
        assert words_of(run_sentence(replace(yards, **change))) != words_of(run_sentence(yards))  # type: ignore[arg-type]


def test_an_urgent_order_raises_its_tasks(rulebook: Rulebook) -> None:
    """On a cart the most urgent decides; a recipe that says more keeps its own; the handset lists them first."""
    orders = [order(f"SO-{n}", ("SHK-08", n), carrier=None, priority=p) for n, p in ((1, 5), (2, 3), (3, 9))]
    play = released(rulebook, *orders, order("SO-4", ("PLOT-12", 1), carrier=None, priority=4))
    assert {o: t.priority for t in tasks(play) for o in t.plan.orders} == {"SO-1": 0, "SO-2": 4, "SO-3": 0, "SO-4": 3}
    assert play.opens("F-PICK").question().picks[0].label.split()[2] == "SO-2:"
    cart = released(by(rulebook, plan(Method.CLUSTER)), *[replace(o, carrier=TIDE) for o in orders])
    cart.do(acts.MakeWave(plan().id)).done()
    assert [t.priority for t in tasks(cart)] == [4]
