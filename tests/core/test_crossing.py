"""Cross-docking: what comes goes to who waits for all of it, by a lane or straight through; and why not, condition by condition."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine
from mindful_crate.core.catalog.ids import (
    BinCode,
    DockRuleId,
    ItemCode,
    OrderNo,
    PartnerCode,
    PlateKindCode,
    UnitCode,
)
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.tasks import Do, Task, TaskState
from mindful_crate.core.proving.work_lists import station
from mindful_crate.core.rulebook.bin_rules import Conditions
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.docks import DockRule
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.work.picking.arranging import to_fetch
from mindful_crate.core.work.receiving.acts import OfficeLine
from mindful_crate.core.work.sorting.looking import Far, how_far
from mindful_crate.core.world import acts
from mindful_crate.demo.loader import demo_rulebook
from tests.core.test_covering import GROUND, HQ, LATE, asked
from tests.core.test_releasing import releases, takes_back
from tests.core.test_waves import by_hand, order, sound, tasks
from tests.playbook import Play, new_world
from tests.properties import tried

ROPE = ItemCode("ROPE-24")
LANE = DockRule(DockRuleId("XD-1"), goes=(OrderKind.SALES,), to=BinCode("XDK-01"))


def with_rules(book: Rulebook, *rules: DockRule) -> Rulebook:
    """The demo's rules with these of cross-docking, and no gate."""
    return replace(book, dock_rules=rules, gates=())


def supply(play: Play, number: str, item: str, quantity: int) -> Play:
    """So much is ordered, and on its way."""
    unit = GROUND.items[ItemCode(item)].units[0].code
    lines = (OrderLine(1, ItemCode(item), UnitCode(unit), quantity, Decimal(1)),)
    return asked(play, Order(OrderNo(number), OrderKind.PURCHASE, HQ, PartnerCode("V-100"), LATE, lines))


def comes(play: Play, number: str, item: str, quantity: int, **more: Any) -> Play:
    """It comes on a pallet."""
    line = OfficeLine(ItemCode(item), quantity, **more)
    return play.do(acts.ReceiveInOffice(OrderNo(number), (line,), PlateKindCode("PAL"), why="label torn")).done()


def away(play: Play) -> list[Task]:
    """Tasks that bring what came somewhere, by number."""
    return [t for t in play.state.tasks.values() if t.need is Need.PUT_AWAY and not t.state.ended]


def does(play: Play, task: Task) -> Play:
    """A task from its first take to its place, as it was shown."""
    hand = Play(play.world, "oren", "H7", ("quay", "reach", "store", "hazard"))
    hand.do(acts.Take(task.number)).done()
    while not play.state.tasks[task.number].state.ended:
        to = play.state.tasks[task.number].to_bin
        assert to is not None
        hand.do(acts.Place(task.number, to)).done()
    return hand


def waits(book: Rulebook, item: str = "ROPE-24", *wants: int) -> Play:
    """Released orders of whose first line nothing is on hand: what there was is kept for the yard."""
    play = Play(new_world(GROUND, book))
    there = sum(x.goods.quantity for x in play.state.lines(ItemCode(item)))
    for _ in range(40):
        if there:
            play.do(acts.ReserveStock("the yard", ItemCode(item), there))
    for n, quantity in enumerate(wants, start=1):
        asked(play, order(f"SO-{n}", (item, quantity), ("CLT-20", 1), carrier=None))
    if wants:
        releases(play, *(f"SO-{n}" for n in range(1, len(wants) + 1)), warned=True).done()
    return play


def docks(play: Play) -> list[tuple[str, bool, str]]:
    """What the trails of the last command say of cross-docking."""
    done: Any = play.last and play.last.outcome
    return list(dict.fromkeys((d.line, d.takes, d.says) for t in done.trails for d in t.docks))


def test_what_comes_goes_to_who_waits_and_the_rest_is_stored(rulebook: Rulebook) -> None:
    """Kept for the order from the moment it came; brought to the lane off its pallet, and picked from there by a task of its wave."""
    play = supply(waits(with_rules(rulebook, LANE), "ROPE-24", 40), "PO-1", "ROPE-24", 100)
    comes(play, "PO-1", "ROPE-24", 100).done("40 m go to `SO-1/1` instead of being stored.")
    assert docks(play) == [("SO-1/1", True, "40 m go there instead of being stored")]
    cross, store = away(play)
    assert [station(rulebook, GROUND, t) for t in (cross, store)] == ["Across the dock", "Put away"]
    assert (cross.to_bin, cross.from_plate, [s.line for m in cross.plan.moves for s in m.serves]) == (
        "XDK-01", store.plate, [LineKey(OrderNo("SO-1"), 1)] * 2,
    )  # fmt: skip
    assert play.state.reservations.of_line(LineKey(OrderNo("SO-1"), 1)) == 40
    assert to_fetch(play.state, [OrderNo("SO-1")]) == []  # it is in no bin it may be picked from yet
    assert how_far(play.state, OrderNo("SO-1")) == {}  # nor picked
    sound(play)
    does(play, cross).done("1 task")
    (pick,) = [t for t in tasks(play) if t.need is Need.PICK and ROPE in {g.item for g in t.plan.loose}]
    assert [(m.at, m.goods[0].quantity) for m in pick.plan.moves if m.do is Do.TAKE] == [("XDK-01", 40)]
    does(play, store)
    assert play.state.tasks[store.number].placed_in != "XDK-01"
    sound(play)


def test_straight_through_counts_as_picked(rulebook: Rulebook) -> None:
    """The whole pallet goes to the first station after picking, and stands there for its order; its release is not taken back then."""
    play = supply(waits(with_rules(rulebook, replace(LANE, through=True)), "ROPE-24", 60), "PO-1", "ROPE-24", 60)
    comes(play, "PO-1", "ROPE-24", 60)
    (task,) = away(play)
    assert task.plate is not None and task.to_bin == "PACK-1"
    assert how_far(play.state, OrderNo("SO-1")) == {}
    does(play, task)
    assert how_far(play.state, OrderNo("SO-1")) == {1: Far(60, 60)}
    assert ROPE not in {g.item for t in tasks(play) if t.need is Need.PICK for g in t.plan.loose}
    assert play.state.bin_of(task.plate) == "PACK-1"
    assert play.state.reservations.of_line(LineKey(OrderNo("SO-1"), 1)) == 60
    takes_back(play, OrderNo("SO-1")).refused("begun", "PACK-1")
    sound(play)


@pytest.mark.parametrize(
    ("item", "wants", "rule", "why"),
    [
        ("ROPE-24", 140, LANE, "all or nothing"),
        ("ROPE-24", 40, replace(LANE, goes=(OrderKind.TRANSFER,)), "other orders than sales order"),
        ("ROPE-24", 40, replace(LANE, applies=Conditions(groups=("Chain",))), "of group Rope"),
        ("ROPE-24", 40, replace(LANE, applies=Conditions(order_kinds=(OrderKind.PRODUCTION,))), "come from a purchase"),
        ("LR-24", 40, LANE, "is not fit for cross-docking"),
    ],
)
def test_each_condition_that_fails_is_in_the_trail(
    rulebook: Rulebook, item: str, wants: int, rule: DockRule, why: str
) -> None:
    """Then it is stored like anything else."""
    play = supply(waits(with_rules(rulebook, rule), item, wants), "PO-1", item, 100)
    comes(play, "PO-1", item, 100)
    (task,) = away(play)
    assert task.plate is not None and not task.plan.orders
    ((line, takes, says),) = docks(play)
    assert (line, takes) == ("SO-1/1", False) and why in says
    sound(play)


def test_who_comes_first_gets_it_and_who_has_something_kept_does_not(rulebook: Rulebook) -> None:
    """By priority, day and number, as long as whole lines are covered; a line of which something is kept already is not asked."""
    play = supply(waits(with_rules(rulebook, LANE), "ROPE-24", 70, 40, 25), "PO-1", "ROPE-24", 100)
    comes(play, "PO-1", "ROPE-24", 100)
    told = [(line, takes) for line, takes, _ in docks(play)]
    assert told == [("SO-1/1", True), ("SO-2/1", False), ("SO-3/1", True)]
    assert sorted(sum(s.quantity for s in m.serves) for t in away(play) for m in t.plan.moves[:1]) == [0, 25, 70]
    supply(play, "PO-2", "ROPE-24", 100)
    comes(play, "PO-2", "ROPE-24", 100)
    assert [line for line, takes, _ in docks(play) if takes] == ["SO-2/1"]
    sound(play)


def test_goods_that_expire_first_leave_first_unless_the_rule_says_how_far(rulebook: Rulebook) -> None:
    """Expiry order is not jumped, but by so many days."""
    item = next(i for i in GROUND.items.values() if i.cross_docks and i.lot_order.value == "fefo")
    for jumps, takes in ((0, False), (4_000, True)):
        play = Play(new_world(GROUND, with_rules(rulebook, replace(LANE, jumps=jumps))))
        held = [x for x in play.state.lines(item.code) if x.goods.expiry]
        assert held
        supply(play, "PO-1", item.code, 20)
        wanted = order("SO-1", (item.code, 20), ("CLT-20", 1), carrier=None, partner="C-520")
        late = replace(wanted.lines[0], lot="NEW-1")
        asked(play, replace(wanted, lines=(late, wanted.lines[1])))
        releases(play, "SO-1", warned=True).done()
        last = max(x.goods.expiry for x in held)
        comes(play, "PO-1", item.code, 20, lot="NEW-1", expiry=last)
        assert [(d[1], "expires first" in d[2]) for d in docks(play)] == [(takes, not takes)], docks(play)


def test_nobody_waits_and_it_is_stored(rulebook: Rulebook) -> None:
    """The same goods again, once nobody waits any more: nothing is said of cross-docking."""
    play = supply(waits(with_rules(rulebook, LANE), "ROPE-24"), "PO-1", "ROPE-24", 100)
    comes(play, "PO-1", "ROPE-24", 100)
    assert docks(play) == [] and len(away(play)) == 1


def test_put_back_cancelled_undone(rulebook: Rulebook) -> None:
    """What is put back stays kept where it lies; what is not brought at all is kept for nobody, and the order waits again."""
    play = supply(waits(with_rules(rulebook, LANE), "ROPE-24", 40), "PO-1", "ROPE-24", 100)
    comes(play, "PO-1", "ROPE-24", 100)
    cross = away(play)[0]
    hand = Play(play.world, "oren", "H7", ("quay",))
    hand.do(acts.Take(cross.number)).done()
    hand.do(acts.SetDown(cross.number)).done()
    sound(play)
    key = LineKey(OrderNo("SO-1"), 1)
    assert play.state.reservations.of_line(key) == 40
    play.do(acts.CancelTask(cross.number, "not today")).done()
    assert play.state.reservations.of_line(key) == 0
    sound(play)
    other = supply(waits(with_rules(rulebook, LANE), "ROPE-24", 40), "PO-1", "ROPE-24", 100)
    comes(other, "PO-1", "ROPE-24", 100)
    cross = away(other)[0]
    does(other, cross)
    other.do(acts.UndoTask(cross.number)).refused("goods_kept")
    takes_back(other, OrderNo("SO-1")).done()
    assert other.state.reservations.of_line(key) == 0 and other.state.tasks[cross.number].state is TaskState.DONE
    sound(other)


def tie(play: Play, quantity: int, order_: str = "SO-1", line: int = 1) -> Play:
    return play.do(acts.TieThrough(OrderNo("PO-1"), 1, OrderNo(order_), line, quantity))


def test_what_was_tied_beforehand_goes_straight_on_and_what_is_short_falls_back(rulebook: Rulebook) -> None:
    """However much comes of it; the tie holds for the rest, and what is neither tied nor waited for is stored."""
    play = supply(waits(with_rules(rulebook), "ROPE-24", 40), "PO-1", "ROPE-24", 100)
    tie(play, 0).refused("not_tied")
    tie(play, 41).refused("too_much", "40 m more")
    tie(play, 1, "SO-1", 2).refused("other_item")
    tie(play, 1, "SO-9").refused("no_such_line")
    tie(play, 40).done("go straight to `SO-1/1`")
    comes(play, "PO-1", "ROPE-24", 25).done("25 m go to `SO-1/1` instead of being stored.")
    assert docks(play) == [("SO-1/1", True, "25 m were tied to it before they came")]
    (task,) = away(play)
    assert task.to_bin == "PACK-1" and play.state.ties.get(LineKey(OrderNo("PO-1"), 1))[0].quantity == 15
    sound(play)
    does(play, task)
    cover = play.state.covers.of_line(LineKey(OrderNo("SO-1"), 1))
    assert cover.coming == 15 and play.state.reservations.of_line(cover.key) == 25
    comes(play, "PO-1", "ROPE-24", 75)
    assert sorted(sum(s.quantity for s in t.plan.moves[0].serves) for t in away(play)) == [0, 15]
    assert play.state.ties.get(LineKey(OrderNo("PO-1"), 1)) is None
    sound(play)


def test_a_tie_is_taken_off_or_counts_for_nothing_without_a_release(rulebook: Rulebook) -> None:
    """Then it is stored, and the trail says why."""
    play = supply(waits(with_rules(rulebook), "ROPE-24"), "PO-1", "ROPE-24", 100)
    asked(play, order("SO-1", ("ROPE-24", 40), ("CLT-20", 1), carrier=None))
    tie(play, 30).done()
    tie(play, 0).done("stored like anything else")
    tie(play, 30).done()
    comes(play, "PO-1", "ROPE-24", 100)
    ((line, takes, says),) = docks(play)
    assert (line, takes) == ("SO-1/1", False) and "is not released" in says
    (task,) = away(play)
    assert not task.plan.orders
    sound(play)


def there(play: Play) -> int:
    """How much rope there is, in bins and in hands."""
    hands = sum(g.quantity for _, _, g in play.state.stock_in_hands() if g.item == ROPE)
    return hands + sum(x.goods.quantity for x in play.state.lines(ROPE))


DOINGS = st.lists(
    st.tuples(
        st.sampled_from(
            ["ask", "comes", "comes", "tie", *["take"] * 2, *["place"] * 3, "down", "cancel", "back", "undo", "let", "fetch", "set"]
        ),
        st.integers(0, 3),
        st.integers(1, 60),
    ),
    min_size=4,
    max_size=20,
)  # fmt: skip


@tried(30)
@given(DOINGS, st.booleans())
def test_whatever_crosses_the_dock_nothing_is_lost_or_kept_twice(
    doings: list[tuple[str, int, int]], through: bool
) -> None:
    """Orders, receipts, ties, put-away, picks, and whatever is taken back, in any sequence: all that came is there, what is kept is where it lies, no
    line has more than it wants."""
    play = supply(waits(with_rules(demo_rulebook(), replace(LANE, through=through))), "PO-1", "ROPE-24", 5_000)
    came, before, numbers = 0, there(play), iter(range(1, 99))
    for what, which, much in doings:
        match what:
            case "ask":
                number = f"SO-{next(numbers)}"
                asked(play, order(number, ("ROPE-24", much), ("CLT-20", 1), carrier=None))
                releases(play, number, warned=True)
            case "comes":
                comes(play, "PO-1", "ROPE-24", much + 20)
                came += much + 20
            case "tie":
                tie(play, much, f"SO-{which}")
            case "back":
                takes_back(play, OrderNo(f"SO-{which}"))
            case "undo":
                for receipt in list(play.state.receipts.values())[which : which + 1]:
                    play.do(acts.UndoReceipt(receipt.number))
                    came -= play.last.outcome.kind == "done" and sum(x.quantity for x in receipt.lines)  # type: ignore[union-attr]
            case "let":
                for lost in [r for r in play.state.reservations.values() if r.order][which : which + 1]:
                    play.do(acts.LetGo(lost.number))
            case "fetch" | "set":
                for task in [t for t in tasks(play) if t.need is Need.PICK][which % 2 :][:1]:
                    by_hand(play, "scan", task, much)
                    by_hand(play, what, play.state.tasks[task.number], much)
            case _:
                for task in away(play)[which % 3 :][:1]:
                    _with(Play(play.world, "oren", "H7", ("quay",)), what, task)
        assert there(play) == before + came, what
    sound(play)


def _with(hand: Play, what: str, task: Task) -> None:
    match what:
        case "take":
            hand.do(acts.Take(task.number))
        case "place":
            hand.do(acts.Place(task.number, task.to_bin or BinCode("B-01-01-1")))
        case "down":
            hand.do(acts.SetDown(task.number))
        case "cancel":
            hand.do(acts.CancelTask(task.number, "not today"))
