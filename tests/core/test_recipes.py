"""Recipes: how goods that are to be put away become tasks, over which hand-overs, together with what, in how big pieces."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, CrewId, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, TaskState
from mindful_crate.core.placing.rules import KILOGRAM
from mindful_crate.core.rulebook.bin_rules import Between, Conditions
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.recipes import NO_CAPS, Caps, Grouping, Leg, Recipe, Sequencing, Starts
from mindful_crate.core.rulebook.steps import Begins, BookingPoint, Found, Need, PutAwayStep
from mindful_crate.core.work.putting.arranging import Arrangement, Piece, arrange
from mindful_crate.core.work.tasks.words import task_told
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.chain import chain, find
from mindful_crate.core.world.changes import changes
from mindful_crate.core.world.invariants import broken
from tests.core.test_loose import at as loose_site
from tests.playbook import Play, barcode, from_snapshot, new_world, unnumbered

HQ, GL = SiteCode("HQ"), SiteCode("GL")
QUAY, HAZARD = CrewId("quay"), CrewId("hazard")
FIRST = Recipe("RE-1", Need.PUT_AWAY, QUAY)  # type: ignore[arg-type]
LANE = Leg("L-1", HAZARD, Found("STG"))  # type: ignore[arg-type]


def ways(book: Rulebook, *recipes: Recipe, **plan: Any) -> Rulebook:
    """A rulebook with these recipes, and with a plan that goes otherwise."""
    return replace(book, recipes=recipes, step_plans=(replace(book.step_plans[0], **plan), *book.step_plans[1:]))


def sound(play: Play) -> None:
    """Invariants hold, and a snapshot goes on alike."""
    again = from_snapshot(play.state)
    assert broken(play.state) == broken(again) == []
    assert again.kept() == play.state.kept() and [*again.stock()] == [*play.state.stock()]


def received(
    ground: Ground, book: Rulebook, plates: int = 3, order: str = "PO-1007", item: str = "ROPE-12", unit: str = "coil"
) -> Play:
    """Oren, of both crews, with some plates of an item received."""
    play = Play(new_world(ground, book), crews=("quay", "hazard")).confirm(order).opens("F-RECEIVE").scan(order)
    for _ in range(plates):
        play.scan(barcode(ground, item, unit)).type("2").press("finish").done()
    return play.press("leave")


def told_host(play: Play) -> list[str]:
    """What the host was told of, by topic."""
    return [
        e.topic
        for entry in play.world.log
        for e in getattr(entry.outcome, "events", ())
        if isinstance(e, ev.MessageSent)
    ]


def tasks(play: Play) -> list[Any]:
    return sorted(play.state.tasks.every(), key=lambda t: t.number)


def test_two_crews_hand_over(ground: Ground, rulebook: Rulebook) -> None:
    """The first brings a plate to the staging lanes, placing it makes the task of the second, who takes it where the rules say.
    Only then is it put away: the host is told at the end of the way, not in the middle."""
    book = ways(rulebook, replace(FIRST, legs=(LANE,)), booking=BookingPoint.PUT_AWAY)
    play = received(ground, book, 1)
    (one,) = tasks(play)
    assert (one.crew, one.plan.leg, play.state.ground.bins[one.to_bin].zone) == (HAZARD, 0, "STG")
    plate = one.plate
    oren = play.opens("F-PUTAWAY").scan(plate).asks("bin", "hand-over point", expect=one.to_bin)
    oren.scan("B-02-01-1").refused("not_handed_over", "is not where this is handed over")
    oren.scan(one.to_bin).done(f"Plate `{plate}` stands in `{one.to_bin}`", "Put-away task")
    assert "book_receipt" not in told_host(play)
    _, two = tasks(play)
    assert (two.crew, two.plan.leg, two.from_bin, two.state) == (QUAY, 1, one.to_bin, TaskState.OPEN)
    sound(play)
    oren.scan(plate).asks("bin", expect=two.to_bin).scan(two.to_bin).done("stands in")
    assert told_host(play).count("book_receipt") == 1
    assert play.state.bin_of(plate) == two.to_bin and ground.zones[ground.bins[two.to_bin].zone].purpose == "bulk"
    told = [d.number for d in chain(play.state, find(play.state, plate))]  # type: ignore[arg-type]
    assert {one.number, two.number, plate} <= set(told)
    sound(play)


def test_on_demand_goods_rest_until_somebody_asks(ground: Ground, rulebook: Rulebook) -> None:
    """No task comes of itself. A scan makes it and takes it up; the office makes one of several receipts; what is taken off the
    list stays where it is."""
    book = ways(rulebook, FIRST, put_away=PutAwayStep(begins=Begins.ON_DEMAND))
    play = received(ground, book, 4)
    assert not tasks(play) and [r.plate for r in play.state.rests.values()] == [f"LPR-00041{n}" for n in (7, 8, 9)] + [
        "LPR-000420"
    ]
    sound(play)
    play.opens("F-PUTAWAY").scan("LPR-000418").done("Put-away task", "Plate `LPR-000418` taken").asks("bin")
    (task,) = tasks(play)
    assert task.state is TaskState.TAKEN and "LPR-000418" not in play.state.rests
    play.scan(task.to_bin).done().press("leave")
    play.do(acts.MakeTasks(("LPR-000417", "LPR-000419"), together=True)).done("Put-away task", "to 2 bins")
    _, both = tasks(play)
    assert both.plan.several == ("LPR-000417", "LPR-000419") or set(both.plan.several) == {"LPR-000417", "LPR-000419"}
    play.do(acts.MakeTasks(("LPR-000417",))).refused("nothing_rests", "waits for no task")
    play.do(acts.DropRest("LPR-000420", "")).refused("no_reason")
    play.do(acts.DropRest("LPR-000420", "goes back")).done("stays in `RCV-01`: goes back")
    assert not len(play.state.rests) and play.state.bin_of("LPR-000420") == "RCV-01"
    sound(play)


def test_a_task_of_several_plates_is_done_plate_by_plate(ground: Ground, rulebook: Rulebook) -> None:
    """Any of them first; one at a time; in between it is still hers, and can be given back: what was placed stays placed, the
    rest waits for anybody."""
    recipe = replace(FIRST, grouping=Grouping.ORDER)
    play = received(ground, ways(rulebook, recipe, put_away=PutAwayStep(begins=Begins.ON_DEMAND)), 3)
    one, two, three = "LPR-000417", "LPR-000418", "LPR-000419"
    play.opens("F-PUTAWAY").scan(two).done("taken")
    (task,) = tasks(play)
    assert set(task.plan.several) == {one, two, three}, "the first scan gathers what becomes one task with it"
    claimed = [code for code, *_ in task.going.bound]
    assert len(claimed) >= 1 and sum(len(plates) for _, _, plates in task.going.bound) == 3
    play.scan(one).refused("wrong_kind", f"plate `{one}`").asks("bin", expect=play.state.tasks[task.number].to_bin)
    sound(play)
    mara = play.other("mara", "H2").opens("F-PUTAWAY").scan(one).refused("task_taken", "@oren")
    play.scan(play.state.tasks[task.number].to_bin).done("2 more plates of task")
    play.asks("task", f"next plate of {task.number}")
    assert {p.value for p in play.question().picks} == {one, three}
    play.scan(two).refused("task_done", "put away already")
    play.press("leave").done()
    sound(play)
    play.opens("F-PUTAWAY").asks("task", "next plate").scan(three).asks("bin").press("set_down").done(
        "is back in `RCV-01`"
    )
    assert play.state.tasks[task.number].state is TaskState.OPEN and play.state.bin_of(three) == "RCV-01"
    sound(play)
    mara.scan(one).done("taken").scan(play.state.tasks[task.number].to_bin).done("stands in")
    play.press("give_back").refused("not_now", "You have begun no task")
    mara.offers("give_back", "Give the rest back", "leave", "Leave").press("give_back").done("anybody of its crew")
    assert play.state.tasks[task.number].state is TaskState.OPEN and play.state.tasks[task.number].person is None
    sound(play)
    play.asks("task").scan(three).done("taken").scan(play.state.tasks[task.number].to_bin).done("stands in")
    assert play.state.tasks[task.number].state is TaskState.DONE
    assert all(ground.bins[play.state.bin_of(p)].zone != "RCV" for p in (one, two, three))
    sound(play)


def test_loose_goods_of_a_receipt_are_one_round(ground: Ground) -> None:
    """Taken up together and placed one after the other, by the item and bin that is next; the receipt is booked with the last."""
    play = loose_site(ground, GL, booking=BookingPoint.PUT_AWAY)
    recipe = replace(play.world.rulebook.recipes[0], grouping=Grouping.RECEIPT)
    play.world.rulebook = replace(play.world.rulebook, recipes=(recipe,))
    play.opens("F-RECEIVE").scan("GL-501")
    for item in [p.value for p in play.question().picks][:2]:
        play.scan(item).type("3").done()
    play.press("finish").done("Put-away task").press("leave")
    (task,) = tasks(play)
    assert sum(m.do is Do.PLACE for m in task.plan.moves) >= 2
    play.opens("F-PUTAWAY").scan(task.number).done("taken from `GL-COUNTER`")
    assert not play.state.loose("GL-COUNTER")
    carried = {c.item: c.quantity for c in changes(play.state).stock if not c.bin}
    assert len(carried) == 2 and carried == {g.item: g.quantity for g in task.plan.moves[0].goods}
    sound(play)
    while not (now := play.state.tasks[task.number]).state.ended:
        assert "book_receipt" not in told_host(play)
        play.asks("bin", expect=now.to_bin).scan(now.to_bin).done("placed in")
        sound(play)
    told = task_told(play.state, play.state.tasks[task.number])
    assert all(f"of {ground.items[item].name}" in told for item in carried), told
    assert "book_receipt" in told_host(play)


def test_dear_goods_are_set_apart(ground: Ground, rulebook: Rulebook) -> None:
    """By what a piece is worth they go by a recipe of their own: another crew, more urgent, held until the office lets it go;
    the trail says which recipe was asked and why it was, or was not, the one."""
    dear = replace(
        FIRST,
        id="RE-2",
        crew=HAZARD,
        applies=Conditions(worth=Between(least=100)),
        priority=5,
        starts=Starts.HELD,  # type: ignore[arg-type]
    )
    book = ways(rulebook, dear, FIRST)
    book = replace(book, step_plans=tuple(p for p in book.step_plans if not p.inspect.on))
    play = received(unnumbered(ground), book, 1, "PO-1006", "PLOT-09", "pc")
    (task,) = tasks(play)
    assert (task.crew, task.priority, task.plan.recipe) == (HAZARD, 5, "RE-2") and "lets it go" in task.held
    play.opens("F-PUTAWAY").scan(task.plate).refused("task_held").press("leave")
    play.do(acts.LetTaskGo(task.number)).done().opens("F-PUTAWAY").scan(task.plate).asks("bin")
    cheap = received(ground, book, 1)
    assert [(t.crew, t.held) for t in tasks(cheap)] == [(QUAY, "")]
    looks = next(e.outcome.trails[-1].recipe for e in reversed(cheap.world.log) if getattr(e.outcome, "trails", ()))  # type: ignore[union-attr]
    assert [(x.recipe, x.makes) for x in looks] == [("RE-2", False), ("RE-1", True)] and "is worth" in looks[0].says


def test_what_no_recipe_is_for_rests_and_says_so(ground: Ground, rulebook: Rulebook) -> None:
    """The goods are received all the same; as soon as a recipe is for them, the office makes the task."""
    never = replace(FIRST, applies=Conditions(groups=("Anchors",)))
    play = received(ground, ways(rulebook, never), 1)
    (rest,) = play.state.rests.values()
    assert rest.why == "no recipe is for it" and not tasks(play)
    play.opens("F-PUTAWAY").scan(rest.plate).refused("no_recipe", "no recipe is for it").press("leave")
    play.do(acts.MakeTasks((rest.key,))).done("no recipe is for it")
    assert len(play.state.rests) == 1
    sound(play)


def test_goods_that_no_recipe_takes_keep_their_names(ground: Ground) -> None:
    """However often tasks are asked for, and of whatever together: each receipt waits under its own number, with all its goods."""
    play = loose_site(ground, GL)
    play.world.rulebook = replace(play.world.rulebook, recipes=())
    for _ in range(2):
        play.opens("F-RECEIVE").scan("GL-501")
        for item in [p.value for p in play.question().picks][:2]:
            play.scan(item).type("3").done()
        play.press("finish").done("waits in").press("leave")
    before = {r.key: r.goods for r in play.state.rests.values()}
    assert len(before) == 2 and all(len(goods) == 2 for goods in before.values())
    for keys in (*((key,) for key in before), tuple(before), tuple(before)[::-1]):
        play.do(acts.MakeTasks(keys)).done("there is no recipe")
        assert {r.key: r.goods for r in play.state.rests.values()} == before
    sound(play)


def test_a_hand_over_may_wait_until_somebody_asks(ground: Ground, rulebook: Rulebook) -> None:
    """Placed at the hand-over point, the plate rests; the second crew's scan makes the rest of its way. A recipe that was taken
    away meanwhile does not keep it: it goes on by another."""
    book = ways(rulebook, replace(FIRST, legs=(replace(LANE, next=Begins.ON_DEMAND),)))
    play = received(ground, book, 2)
    play.opens("F-PUTAWAY")
    for task in tasks(play):
        play.scan(task.plate).scan(play.state.tasks[task.number].to_bin).done("waits in")
    assert all((r.recipe, r.leg) == ("RE-1", 1) for r in play.state.rests.values()) and len(play.state.rests) == 2
    first, second = [r.plate for r in play.state.rests.values()]
    play.scan(first).done("taken")
    assert tasks(play)[-1].plan.leg == 1
    play.scan(tasks(play)[-1].to_bin).done("stands in").press("leave")
    play.world.rulebook = ways(book, replace(FIRST, id="RE-7"))  # type: ignore[arg-type]
    play.do(acts.MakeTasks((second,))).done("Put-away task")
    assert (tasks(play)[-1].plan.recipe, tasks(play)[-1].plan.leg) == ("RE-7", 0)
    sound(play)


caps = st.builds(
    Caps,
    things=st.none() | st.integers(1, 4),
    pieces=st.none() | st.integers(1, 400),
    kilograms=st.none() | st.integers(1, 900),
    litres=st.none() | st.integers(1, 2_000),
)
items = st.sampled_from(["ROPE-12", "SHK-08", "CLT-15", "LAMP-ANCHOR", "FEN-15", "SOAP-5"])
lots = st.lists(
    st.tuples(items, st.integers(1, 300), st.sampled_from(["RCV-01", "RCV-02", "INS-01"])), min_size=1, max_size=8
)
recipes = st.builds(
    Recipe, id=st.just("RE-1"), need=st.just(Need.PUT_AWAY), crew=st.just(QUAY), grouping=st.sampled_from(Grouping),
    most=st.just(NO_CAPS) | caps, sequence=st.sampled_from(Sequencing), starts=st.sampled_from(Starts), priority=st.integers(0, 9),
    legs=st.sampled_from([(), (LANE,)]),
)  # fmt: skip


def arranged(state: State, book: Rulebook, pieces: list[Piece], together: bool) -> Arrangement:
    with state.tentatively():
        return arrange(state, book, pieces, state.settings.starts.date(), together=together)


@given(recipes, lots, st.booleans())
def test_what_is_arranged_is_all_of_it_within_its_caps(
    ground: Ground, rulebook: Rulebook, recipe: Recipe, lots: list[tuple[str, int, str]], together: bool
) -> None:
    """However it is grouped, capped and ordered: every piece of goods is in just one task, taken where it lies and placed as much as
    was taken; no task is over its caps unless one piece alone is; nothing is left of what was only supposed."""
    state = new_world(ground, rulebook).state
    pieces = [
        Piece("", BinCode(code), (Goods(item, quantity),)) for item, quantity, code in lots if item in ground.items
    ]  # type: ignore[arg-type]
    before = state.kept()
    found = arranged(state, ways(rulebook, recipe), pieces, together)
    assert state.kept() == before and not found.left
    asked: Counter[tuple[str, str]] = Counter()
    for piece in pieces:
        asked[piece.bin, piece.goods[0].item] += piece.goods[0].quantity
    taken: Counter[tuple[str, str]] = Counter()
    most = recipe.most
    for task in found.tasks:
        placed: Counter[str] = Counter()
        for move in task.moves:
            for goods in move.goods:
                if move.do is Do.TAKE:
                    taken[str(move.at), goods.item] += goods.quantity
                placed[goods.item] += goods.quantity if move.do is Do.PLACE else -goods.quantity
        assert not +placed and not -placed
        assert [m.no for m in task.moves] == list(range(1, len(task.moves) + 1))
        goods = [g for s in task.shares for g in s.goods]
        volume, weight = (sum(ground.items[g.item].bulk(g.quantity)[n] for g in goods) for n in (0, 1))
        alone = len(task.shares) == 1 and sum(g.quantity for g in goods) == 1
        assert most.things is None or len(task.shares) <= most.things
        assert most.pieces is None or sum(g.quantity for g in goods) <= most.pieces
        assert alone or most.kilograms is None or weight <= most.kilograms * KILOGRAM
        assert alone or most.litres is None or volume <= most.litres * 1_000_000
    assert taken == asked


@given(lots, st.sampled_from([Sequencing.WALK_ORDER, Sequencing.TOUR]))
def test_the_same_goods_give_the_same_tasks(
    ground: Ground, rulebook: Rulebook, lots: list[tuple[str, int, str]], by: Sequencing
) -> None:
    """Asked twice, the answer is the same; and making them one after another claims no bin twice over."""
    world = new_world(ground, ways(rulebook, replace(FIRST, grouping=Grouping.ZONE, sequence=by)))
    pieces = [
        Piece("", BinCode(code), (Goods(item, quantity),)) for item, quantity, code in lots if item in ground.items
    ]  # type: ignore[arg-type]
    assert arranged(world.state, world.rulebook, pieces, False) == arranged(world.state, world.rulebook, pieces, False)


@pytest.mark.parametrize("act", [acts.MakeTasks(()), acts.MakeTasks(("LP-NO",)), acts.DropRest("LP-NO", "because")])
def test_nothing_is_made_of_nothing(ground: Ground, rulebook: Rulebook, act: Any) -> None:
    """Refused in words, and the log has it."""
    play = Play(new_world(ground, rulebook)).do(act).refused("nothing_rests")
    assert play.last and play.last.says.endswith(".")
