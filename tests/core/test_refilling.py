"""Shelves filled from reserve: for orders that wait, below the least, by the office; taken, short, put back; asked for once."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, ReleaseRunId, ShelfRunId, SiteCode, ZoneCode
from mindful_crate.core.floor.tasks import Do, Task, TaskState
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.bin_rules import BinPurpose, Wants
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.filling import Fills, ShelfRun
from mindful_crate.core.rulebook.gates import ReleaseRun
from mindful_crate.core.rulebook.recipes import Cause
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.filling import shelf_run_sentence
from mindful_crate.core.rulebook.words.parts import words_of
from mindful_crate.core.work.refilling.looking import brought, homes_here, missing, stand
from mindful_crate.core.world import acts
from tests.core.test_covering import BOOK, GROUND, asked
from tests.core.test_picking import bar, fetches, stock
from tests.core.test_releasing import releases, takes_back
from tests.core.test_waves import all_there, by, by_hand, order, plan, released, sound, tasks
from tests.playbook import Play, new_world
from tests.properties import tried

OILSKIN, RATION = ItemCode("OIL-L"), ItemCode("RATION-12")
SHELF = BinCode("P-01-19-4")
"""A shelf oilskins are at home on: 52 at most, 6 at least."""


def refills(play: Play) -> list[Task]:
    """Refills that are not ended, by number."""
    return [t for t in play.state.tasks.values() if t.need is Need.REPLENISH and not t.state.ended]


def picks(play: Play) -> list[Task]:
    """Pick tasks that are not ended, by number."""
    return [t for t in tasks(play) if t.need is Need.PICK]


def much(task: Task) -> int:
    """How much a refill still places."""
    return sum(g.quantity for m in task.going.remaining if m.do is Do.PLACE for g in m.goods)


def wants(play: Play, number: str, item: str, quantity: int) -> Play:
    """An order that is released."""
    asked(play, order(number, (item, quantity), carrier=None))
    return releases(play, number).done()


def reach(play: Play) -> Play:
    """Somebody who gets at reserve."""
    return Play(play.world, "oren", "H7", ("reach",))


def brings(hand: Play, number: str, count: str = "") -> Play:
    """A refill from its first question to its last."""
    hand.asks("refill").scan(number).done()
    while hand.question().asks != "refill":
        match hand.question().asks:
            case "pick_item":
                hand.scan(bar(hand.question().title.split("`")[1])).done()
            case "pick_lot":
                hand.scan(hand.question().picks[0].value, "tapped").done()
            case "pick_count":
                _ = hand.type(count).done() if count else hand.press("confirm").done()
            case "pieces":
                hand.scan(hand.question().picks[0].value).done()
            case _:
                hand.scan(hand.question().expect).done()
    return hand


def without(book: Rulebook, *causes: Cause | None) -> Rulebook:
    """The rules without recipes for these causes."""
    return replace(
        book, recipes=tuple(r for r in book.recipes if r.need is not Need.REPLENISH or r.cause not in causes)
    )


def waits(book: Rulebook) -> Play:
    """Two orders of oilskins: shelves have 129, and 31 are missing there."""
    orders = [order(f"SO-{n}", ("OIL-L", q), carrier=None) for n, q in ((1, 100), (2, 60))]
    return released(without(book, None), *orders)


def test_an_order_waits_for_reserve_and_is_picked_then(rulebook: Rulebook) -> None:
    """What the shelves lack is asked for from reserve, kept for the refill and promised to the order all the while; each part that is placed is kept
    for it, and a task of its wave fetches it."""
    play = waits(rulebook)
    assert "31 pieces of Oilskin jacket L wait for `TR-0206` and `TR-0207`" in play.last.says  # type: ignore[union-attr]
    assert missing(play.state, OILSKIN) == [("SO-2", 1, 31)]
    found = refills(play)
    assert sum(map(much, found)) == 31 and {t.priority for t in found} == {8}
    assert {r.number for t in found for r in t.plan.about} == {"SO-2"}
    kept = [r for r in play.state.reservations.values() if r.task]
    assert sum(r.quantity for r in kept) == 31 and {r.task for r in kept} == {t.number for t in found}
    hand, before = reach(play).opens("F-FILL"), len(picks(play))
    for n, task in enumerate(found, start=1):
        brings(hand, task.number)
        assert len(picks(play)) == before + n
    assert missing(play.state, OILSKIN) == []
    assert play.state.reservations.of_line(play.state.covers.of_item(OILSKIN)[1].key) == 60
    assert not [r for r in play.state.reservations.values() if r.task]
    sound(play)


def test_nothing_is_asked_for_twice(rulebook: Rulebook) -> None:
    """What is on its way for one order is not there for another, and is not asked for again: neither by a later wave nor by the office."""
    play = waits(rulebook)
    wants(play, "SO-3", "OIL-L", 9)
    assert sum(q for _, q in brought(play.state, OILSKIN)) == 40 == sum(q for *_, q in missing(play.state, OILSKIN))
    before = play.state.tasks.plans.all()
    play.do(acts.MakeWave(None, (OrderNo("SO-3"),))).refused("in_a_wave")
    assert play.state.tasks.plans.all() == before
    takes_back(play, OrderNo("SO-3"))
    releases(play, "SO-3").done()
    assert sum(q for _, q in brought(play.state, OILSKIN)) == 40  # what SO-3 had asked for is still on its way


@pytest.mark.parametrize(("recipes", "refill"), [("none", True), ("all", False)])
def test_without_a_recipe_or_by_the_plan_nothing_is_asked_for(rulebook: Rulebook, recipes: str, refill: bool) -> None:
    """It stays on its order."""
    book = without(rulebook, None, Cause.WANTED) if recipes == "none" else without(rulebook, None)
    play = released(by(book, plan(refills=refill)), *[order(f"SO-{n}", ("OIL-L", 80)) for n in (1, 2)])
    play.do(acts.MakeWave(plan().id)).done("in no bin")
    assert refills(play) == [] and missing(play.state, OILSKIN)


def test_a_shelf_below_its_least_is_filled_once(rulebook: Rulebook) -> None:
    """As soon as less is free there; again only when it is low once more. Who caused it is told nothing."""
    play = Play(new_world(GROUND, rulebook))
    home = next(h for h in homes_here(play.state, OILSKIN) if h.bin == SHELF)
    free = stand(play.state, home).free
    wants(wants(play, "SO-1", "OIL-L", 100), "SO-4", "OIL-L", 29)
    (mine,) = [t for t in refills(play) if t.to_bin == SHELF]
    now = stand(play.state, home)
    assert (now.lying, now.coming, now.low) == (free, much(mine), False) and "Refill" not in play.last.says  # type: ignore[union-attr]
    assert mine.priority == 4 and now.lying + now.coming <= home.most
    before = len(refills(play))
    asked(play, order("SO-2", ("OIL-L", 1), carrier=None))
    releases(play, "SO-2").done()
    assert len([t for t in refills(play) if t.to_bin == SHELF]) == 1 and len(refills(play)) >= before
    sound(play)


def test_the_office_fills_shelves(rulebook: Rulebook) -> None:
    """Those it names up to their most, or all that are low; refused in words when there is nothing to do, or no recipe."""
    play = Play(new_world(GROUND, rulebook))
    play.do(acts.FillShelves()).refused("nothing_low")
    play.do(acts.FillShelves((acts.Shelf(BinCode("RCV-01"), OILSKIN),))).refused("no_shelf")
    play.do(acts.FillShelves((acts.Shelf(SHELF, OILSKIN),))).done("Refill")
    (task,) = refills(play)
    home = next(h for h in homes_here(play.state, OILSKIN) if h.bin == SHELF)
    assert task.to_bin == SHELF and stock(play, SHELF, OILSKIN) + much(task) <= home.most
    play.do(acts.FillShelves((acts.Shelf(SHELF, OILSKIN),))).refused("nothing_low")
    other = Play(new_world(GROUND, without(rulebook, None)))
    other.do(acts.FillShelves()).refused("no_recipe")
    sound(play)


def test_shelves_are_filled_by_the_clock(rulebook: Rulebook) -> None:
    """At its times all shelves it is for, up to their most; what is on its way is not asked for again. Not before the next time, and only the clock says
    so; a release and a count of the same minute run as well."""
    run = ShelfRun(ShelfRunId("SF-1"), "10:00; 15:00", groups=("Clothing",))
    counting = evolve(rulebook.count_plans[0], times="10:00", on=True)
    book = replace(
        rulebook, shelf_runs=(run,), release_runs=(ReleaseRun(ReleaseRunId("RR-1"), "10:00"),), count_plans=(counting,)
    )
    play = Play(new_world(GROUND, book))
    asked(play, order("SO-1", ("SHK-08", 5), carrier=None))
    lacking = {
        h.bin: stand(play.state, h).wants for h in homes_here(play.state) if GROUND.items[h.item].group == "Clothing"
    }
    play.do(acts.Wait(2 * 3600)).done()
    due = [e for e in play.world.log if isinstance(e.command.act, acts.RefillDue | acts.ReleaseDue | acts.CountsDue)]
    assert sorted(type(e.command.act).__name__ for e in due) == ["CountsDue", "RefillDue", "ReleaseDue"]
    assert len({e.command.stamp.id for e in due}) == 3 and {e.command.stamp.who for e in due} == {"clock"}
    brought_to = {
        m.at: sum(g.quantity for g in m.goods) for t in refills(play) for m in t.plan.moves if m.do is Do.PLACE
    }
    assert brought_to and set(brought_to) <= {code for code, much_ in lacking.items() if much_}
    assert all(quantity <= lacking[code] for code, quantity in brought_to.items() if code)
    before = len(refills(play))
    play.do(acts.Wait(5 * 3600)).done()
    again = [e for e in play.world.log if isinstance(e.command.act, acts.RefillDue)]
    assert [e.command.act.minute for e in again] == [600, 900] and len(refills(play)) == before  # type: ignore[union-attr]
    play.do(acts.RefillDue(600, play.state.clock)).done()
    assert len(refills(play)) == before
    sound(play)
    quiet = Play(new_world(GROUND, replace(book, shelf_runs=(replace(run, on=False),))))
    quiet.do(acts.RefillDue(600, quiet.state.clock)).refused("not_due")
    low = replace(run, fills=Fills.LOW)
    only_low = Play(new_world(GROUND, replace(book, shelf_runs=(low,)))).do(acts.Wait(2 * 3600)).done()
    stands = [stand(only_low.state, h) for h in homes_here(only_low.state) if GROUND.items[h.item].group == "Clothing"]
    assert not any(s.low for s in stands) and not refills(only_low)


def test_what_fills_nothing_by_the_clock_is_found(rulebook: Rulebook) -> None:
    """No time, one that is none, zones that are not here or hold no shelf, and nobody who brings it."""
    bad = (
        ShelfRun(ShelfRunId("SF-1")), ShelfRun(ShelfRunId("SF-2"), "5 o'clock", zones=(ZoneCode("NO"),)),
        ShelfRun(ShelfRunId("SF-3"), "05:30", zones=(ZoneCode("RCV"),)), ShelfRun(ShelfRunId("SF-4"), "05:30"),
    )  # fmt: skip
    none = tuple(r for r in rulebook.recipes if r.need is not Need.REPLENISH)
    found = findings(replace(rulebook, shelf_runs=bad, recipes=none), GROUND, SiteCode("HQ"))
    codes = {(f.code, f.place.removeprefix("shelf_runs/")) for f in found if f.place.startswith("shelf_runs")}
    assert codes == {
        ("no_time", "SF-1/times"), ("no_time", "SF-2/times"), ("missing_place", "SF-2/zones"), ("no_shelves", "SF-2"), ("no_shelves", "SF-3"),
        *(("no_recipe", f"SF-{n}") for n in (1, 2, 3, 4)),
    }  # fmt: skip
    assert not [f for f in findings(rulebook, GROUND, SiteCode("HQ")) if f.place.startswith("shelf_runs")]
    one = ShelfRun(ShelfRunId("SF-1"), "05:30", groups=("Rope",))
    said = {
        words_of(shelf_run_sentence(replace(one, **c)))
        for c in ({}, {"times": "6:00"}, {"groups": ()}, {"fills": Fills.LOW}, {"on": False})
    }  # type: ignore[arg-type]
    assert (
        len(said) == 5
        and "At 05:30 by the site's clock all shelves for Rope that could take more are filled up to their most."
        in {t.removesuffix("but only").strip() for t in said}
    )


def test_earliest_expiry_in_reserve_is_brought_before_it_is_picked(rulebook: Rulebook) -> None:
    """What leaves first lies in reserve: later goods stay on the shelf until it was brought and taken."""
    play = released(rulebook, order("SO-1", ("RATION-12", 60), carrier=None, partner="C-520"))
    first = [(g.lot, g.quantity) for t in picks(play) for g in t.plan.loose]
    assert first == [("RA2511", 46)]
    (task,) = refills(play)
    assert [(g.lot, g.quantity) for g in task.plan.loose] == [("RA2512", 14)]
    brings(reach(play).opens("F-FILL"), task.number)
    both = [(g.lot, g.quantity) for t in picks(play) for g in t.plan.loose]
    assert both == [("RA2511", 46), ("RA2512", 14)]
    sound(play)


def test_what_is_not_in_reserve_is_looked_for_on_another_pallet(rulebook: Rulebook) -> None:
    """The pallet is kept from everybody until somebody has looked; what orders wait for is asked for elsewhere."""
    play = waits(rulebook)
    task = refills(play)[0]
    hand = reach(play).opens("F-FILL")
    hand.scan(task.number).done().press("short").asks("reason").type("pallet is gone").done("are short", "wait for")
    assert play.state.tasks[task.number].state is TaskState.CANCELLED
    doubted = [r for r in play.state.reservations.values() if r.missed_by]
    assert [(r.quantity, r.parts[0].plate) for r in doubted] == [(much(task), task.from_plate)]
    assert sum(q for _, q in brought(play.state, OILSKIN)) == 31
    sound(play)


def test_fewer_are_taken_and_the_rest_is_asked_for_when_it_is_missing(rulebook: Rulebook) -> None:
    """The refill is that much smaller; what orders still wait for is brought by another."""
    play = waits(rulebook)
    task = refills(play)[0]
    hand = reach(play).opens("F-FILL").scan(task.number).done()
    hand.scan(hand.question().expect).scan(bar("OIL-L")).asks("pick_count")
    hand.type("0").refused("not_above_zero").type("999").refused("more_than_wanted").type("6").done()
    assert much(play.state.tasks[task.number]) == 6
    hand.asks("bin").scan("P-06-10-2").asks("reason").press("no").done().scan(hand.question().expect).done("placed")
    assert sum(q for _, q in brought(play.state, OILSKIN)) == 25 == sum(q for *_, q in missing(play.state, OILSKIN))
    sound(play)


def test_put_back_given_back_and_cancelled(rulebook: Rulebook) -> None:
    """What is put back is kept for the refill again, what is given back is anybody's, and what is cancelled keeps nothing."""
    play = waits(rulebook)
    task = refills(play)[0]
    hand = reach(play).opens("F-FILL").scan(task.number).done()
    other = Play(play.world, "tove", "H8", ("reach",))
    other.do(acts.RefillBegin(task.number)).refused("task_taken", "@oren")
    other.do(acts.RefillTake(task.number, 1, 1)).refused("task_taken")
    hand.press("give_back").done("anybody of its crew").scan(task.number).done()
    hand.do(acts.RefillBegin(refills(play)[1].number)).refused("begun", task.number)
    hand.scan(hand.question().expect).scan(bar("OIL-L")).press("confirm").done().asks("bin")
    assert play.state.reservations.of_task(task.number) == []
    hand.do(acts.RefillLeave(task.number)).refused("in_hand")
    hand.press("set_down").done()
    assert [r.quantity for r in play.state.reservations.of_task(task.number)] == [much(task)]
    (kept,) = play.state.reservations.of_task(task.number)
    play.do(acts.LetGo(kept.number)).refused("of_a_task", task.number)
    play.do(acts.CancelTask(task.number, "not today")).done()
    assert play.state.reservations.of_task(task.number) == []
    sound(play)


def test_a_pallet_goes_to_the_shelves_whole_where_the_rules_say_so(rulebook: Rulebook) -> None:
    """It is scanned, carried and set down as it is."""
    lists = tuple(
        replace(
            x, rules=tuple(replace(r, targets=tuple(replace(t, wants=Wants.WHOLE_PLATE) for t in r.targets)) for r in x.rules)
        )
        if x.purpose is BinPurpose.REPLENISH_FROM else x
        for x in rulebook.bin_rules
    )  # fmt: skip
    to = tuple(
        replace(x, rules=tuple(replace(r, targets=(replace(r.targets[0], look_in=replace(r.targets[0].look_in, home_bins=False, zones=("RSV",)), up_to=None),)) for r in x.rules))
        if x.purpose is BinPurpose.REPLENISH_TO else x
        for x in lists
    )  # fmt: skip
    play = Play(new_world(GROUND, replace(without(rulebook, None), bin_rules=to)))
    asked(play, order("SO-1", ("SOAP-5", 24), carrier=None), order("SO-2", ("SOAP-5", 130), carrier=None))
    releases(play, "SO-1", "SO-2").done()
    found = [t for t in refills(play) if t.plate]
    for task in found:
        brings(reach(play).opens("F-FILL"), task.number)
        assert play.state.bin_of(task.plate) == task.to_bin
    sound(play)


DOINGS = st.lists(
    st.tuples(
        st.sampled_from(
            ["ask", "begin", *["take"] * 3, *["place"] * 3, "short", "leave", "down", "cancel", "hold", "fill", "back", "keep", "fetch", "set"]
        ),
        st.integers(0, 3),
        st.integers(0, 60),
    ),
    min_size=4,
    max_size=24,
)  # fmt: skip


@tried(40)
@given(DOINGS)
def test_whatever_is_brought_nothing_is_lost_or_asked_for_twice(doings: list[tuple[str, int, int]]) -> None:
    """Orders, refills, picks, losses of what is kept, and the office in any sequence: what there is stays what it was, every refill keeps exactly what
    it is still to fetch, no more is on its way to shelves for orders than they wait for, and a snapshot says the same."""
    play = Play(new_world(GROUND, without(BOOK, None)))
    before, numbers = all_there(play), iter(range(1, 99))
    for what, which, count in doings:
        _does(play, what, which, count, numbers)
        assert all_there(play) == before
        for task in (t for t in play.state.tasks.values() if t.need is Need.REPLENISH):
            left = [] if task.state.ended else [m for m in task.going.remaining if m.do is Do.TAKE]
            kept = sum(r.quantity for r in play.state.reservations.of_task(task.number))
            assert kept == sum(g.quantity for m in left for g in m.goods), (what, task)
    sound(play)


def _does(play: Play, what: str, which: int, count: int, numbers: object) -> None:
    hand = reach(play)
    found = refills(play)[which % 2 :][:1]
    match what:
        case "ask":
            number = f"SO-{next(numbers)}"  # type: ignore[call-overload]
            asked(play, order(number, ("OIL-L", 20 + count), carrier=None))
            play.do(acts.ReleaseOrders((OrderNo(number),)))
        case "fill":
            play.do(acts.FillShelves((acts.Shelf(SHELF, OILSKIN),) if which else ()))
        case "back":
            takes_back(play, OrderNo(f"SO-{which}"))
        case "keep":
            play.do(acts.ReserveStock("the yard", OILSKIN, 1 + count * 4))
        case "fetch" | "set":
            for task in picks(play)[which % 2 :][:1]:
                by_hand(play, "scan", task, count)
                by_hand(play, what, play.state.tasks[task.number], count)
        case _:
            for task in found:
                _with(hand if which % 3 else Play(play.world, "tove", "H8", ("reach",)), what, task, count)


def _with(hand: Play, what: str, task: Task, count: int) -> None:
    take = next((m for m in task.going.remaining if m.do is Do.TAKE), None)
    match what:
        case "begin":
            hand.do(acts.RefillBegin(task.number))
        case "take" if take is not None:
            hand.do(acts.RefillBegin(task.number)).do(acts.RefillTake(task.number, take.no, count % 30))
        case "short" if take is not None:
            hand.do(acts.RefillShort(task.number, take.no, "not there"))
        case "place":
            hand.do(acts.Place(task.number, task.to_bin or SHELF, "nearer"))
        case "leave":
            hand.do(acts.RefillLeave(task.number))
        case "down":
            hand.do(acts.SetDown(task.number))
        case "cancel":
            hand.do(acts.CancelTask(task.number, "not today"))
        case "hold":
            hand.do(acts.HoldTask(task.number, "wait a bit"))


def test_fetching_is_the_same_for_orders(rulebook: Rulebook) -> None:
    """A pick that finds a shelf empty asks for reserve and waits for it; what was brought is fetched by another task."""
    play = released(
        without(rulebook, None), order("SO-1", ("OIL-L", 100), carrier=None), order("SO-2", ("OIL-L", 29), carrier=None)
    )
    assert refills(play) == []
    (task, *_) = tasks(play)
    play.opens("F-PICK").scan(task.number).done().asks("tote").scan("LPR-900001").done()
    play.press("short").asks("reason").type("shelf is empty").done("wait for")
    missed = sum(q for *_, q in missing(play.state, OILSKIN))
    assert missed and sum(q for _, q in brought(play.state, OILSKIN)) == missed
    while play.question().asks.startswith("pick"):
        fetches(play)
    play.scan(play.question().expect).done()
    for each in refills(play):
        brings(reach(play).opens("F-FILL"), each.number)
    assert sum(g.quantity for t in picks(play) if "SO-1" in t.plan.orders for g in t.plan.loose) == missed
    sound(play)
