"""Which bin: one judgement of fit, and the quick search against the full count."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import OrderKind, PlateRow, Status, StockRow, Tracking
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.explain import explain
from mindful_crate.core.placing.fit import Held, Judge, TurnDown, most_in
from mindful_crate.core.placing.index import REMEMBERED_ANCHORS
from mindful_crate.core.placing.request import BinRequest, Nested, load_of
from mindful_crate.core.placing.rules import Facts, unmet
from mindful_crate.core.rulebook.bin_rules import (
    Between,
    BinPurpose,
    BinRule,
    Conditions,
    Disposition,
    IfNothing,
    LookIn,
    Prefer,
    Target,
    UnitForm,
    UpTo,
    Wants,
    Weekday,
)
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.trail import Outcome, Trail
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.fold import apply
from tests.core import small
from tests.playbook import new_world
from tests.properties import tried

Stock = tuple[tuple[StockRow, ...], tuple[PlateRow, ...]]


def disturbed(floor: State, blocks: list[str]) -> State:
    """The same floor in which some bins were blocked and freed since, so that indexes must follow."""
    for n, code in enumerate(blocks):
        event = ev.BinBlocked(code, "wet" if n % 2 else "")  # type: ignore[arg-type]
        stamp = acts.Stamp(f"b{n}", small.STARTS, small.TODAY, "office")  # type: ignore[arg-type]
        apply(floor, ev.Entry(floor.seq + 1, acts.Command(stamp, acts.BlockBin(event.bin)), ev.Done((event,), "x")))
    return floor


def agree(trail: Trail, why: Any) -> None:
    assert (trail.allocations, trail.rest) == (why.allocations, why.rest)
    asked = [(look.rule, look.target, look.outcome) for look in why.looks if look.outcome]
    assert [(line.rule, line.target, line.outcome) for line in trail.lines] == asked


@tried(100)
@given(small.stocks(), small.requests, small.putting_lists, st.lists(small.bin_codes, max_size=3))
def test_choosing_and_explaining_agree_when_putting(
    stock: Stock, request: BinRequest, rules: tuple[BinRule, ...], blocks: list[str]
) -> None:
    """The quick search finds the shares that looking at everything finds, with the same outcomes; and again after
    bins have changed under its indexes."""
    floor = small.floor(*stock)
    agree(choose(request, rules, floor), explain(request, rules, floor))
    disturbed(floor, blocks)
    agree(choose(request, rules, floor), explain(request, rules, floor))


@tried(100)
@given(small.stocks(), small.takings, small.taking_lists, small.taking_lists, st.lists(small.bin_codes, max_size=2))
def test_choosing_and_explaining_agree_when_taking(
    stock: Stock, request: BinRequest, rules: tuple[BinRule, ...], reserve: tuple[BinRule, ...], blocks: list[str]
) -> None:
    """So it is for taking, with what replenishment takes from kept in mind."""
    floor = disturbed(small.floor(*stock), blocks)
    agree(choose(request, rules, floor, reserve), explain(request, rules, floor, reserve))


@tried(60)
@given(small.stocks(), small.requests, small.putting_lists)
def test_every_share_may_lie_where_it_goes(stock: Stock, request: BinRequest, rules: tuple[BinRule, ...]) -> None:
    """Shares add up to what was asked, each bin has one at most and may hold it, and none is smaller than useful."""
    floor = small.floor(*stock)
    trail = choose(request, rules, floor)
    assert choose(request, rules, floor) == trail
    asked = sum(g.quantity for g in request.all_goods)
    assert sum(a.quantity for a in trail.allocations) + trail.rest == asked
    assert len({a.bin for a in trail.allocations}) == len(trail.allocations)
    for share in trail.allocations:
        part = request.of(share.quantity) if request.splits else request
        assert Judge(part, floor).turn_down(floor.ground.bins[share.bin]) is None
        if not request.splits:
            assert share.quantity == asked


class Thorough(Judge):
    """A judge that always lists everything that lies in a bin."""

    def _needed_of(self, code: Any, kind: Any, wants: Wants) -> Held | None:
        return self.floor.held(code, self.task)


@tried(100)
@given(small.stocks(), small.requests, st.sampled_from(list(Wants)), st.lists(small.bin_codes, max_size=2))
def test_a_bin_is_turned_down_for_the_same_reason_whether_or_not_all_in_it_is_listed(
    stock: Stock, request: BinRequest, wants: Wants, blocks: list[str]
) -> None:
    """What lies in a bin is listed only where the verdict hangs on it; that changes no verdict and no reason."""
    floor = disturbed(small.floor(*stock), blocks)
    quick, thorough = Judge(request, floor), Thorough(request, floor)
    for each in floor.ground.opening.bins:
        assert quick.turn_down(each, wants) is thorough.turn_down(each, wants)


@tried(60)
@given(small.stocks(), small.takings, small.taking_lists)
def test_what_is_taken_is_there_and_may_be_taken(stock: Stock, request: BinRequest, rules: tuple[BinRule, ...]) -> None:
    """Nothing is taken twice, nothing that is damaged, expired or in a blocked bin, and expiry order holds."""
    floor = small.floor(*stock)
    trail = choose(request, rules, floor)
    left = {(x.bin, x.plate, x.goods): x.goods.quantity for x in floor.lines(request.goods[0].item)}
    for share in trail.allocations:
        assert share.goods and share.goods.status is Status.AVAILABLE and floor.blocked(share.bin) is None
        assert share.goods.expiry is None or share.goods.expiry >= small.TODAY
        key = next(
            k
            for k in left
            if (k[0], k[1]) == (share.bin, share.plate) and k[2].alike(share.goods) and left[k] >= share.quantity
        )
        left[key] -= share.quantity
    assert sum(a.quantity for a in trail.allocations) + trail.rest == request.goods[0].quantity


@given(st.integers(0, 300), st.none() | st.integers(0, 400_000_000), st.none() | st.integers(0, 90_000_000))
def test_the_most_that_fits_is_the_most(wanted: int, volume: int | None, weight: int | None) -> None:
    """What fits keeps within volume and weight as they are summed, and ten pieces count as the case they make."""
    item = small.ITEMS[0]
    most = most_in(item, wanted, volume, weight)
    v, w = item.bulk(most)
    assert most <= wanted
    assert (volume is None or v <= volume) and (weight is None or w <= weight)


NUTS, OIL = Goods("NUT", 20), Goods("OIL", 20, "L1")  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("bin_", "stock", "request_", "wants", "down"),
    [
        ("Z1-7", [], small.request(NUTS), Wants.ANY, TurnDown.BLOCKED),
        ("Z1-0", [], small.request(NUTS), Wants.ANY, TurnDown.PLATE_NEEDED),
        ("Z1-0", [], small.request(NUTS, plate=True), Wants.ANY, None),
        ("Z1-3", [], small.request(NUTS, plate=True), Wants.ANY, TurnDown.NO_PLATES),
        ("Z1-5", [], small.request(OIL), Wants.ANY, TurnDown.HAZARD),
        ("Z1-0", [], small.request(OIL, plate=True), Wants.ANY, None),
        ("Z1-4", [], small.request(Goods("NUT", 9000), plate=True), Wants.ANY, TurnDown.TOO_LOW),  # type: ignore[arg-type]
        ("Z1-4", [], small.request(NUTS, plate=True, nested=(Nested("PAL", (Goods("NUT", 600),)),)), Wants.ANY, TurnDown.TOO_LOW),  # type: ignore[arg-type]
        ("Z1-0", [], small.request(Goods("NUT", 2000), plate=True), Wants.ANY, TurnDown.TOO_HEAVY),  # type: ignore[arg-type]
        ("Z1-1", [], small.request(Goods("NUT", 900)), Wants.ANY, TurnDown.TOO_BIG),  # type: ignore[arg-type]
        ("Z1-3", [("ROD", 1, "")], small.request(NUTS), Wants.ANY, TurnDown.OTHER_ITEM),
        ("Z1-3", [], small.request(Goods("NUT", 1), Goods("ROD", 1)), Wants.ANY, TurnDown.OTHER_ITEM),  # type: ignore[arg-type]
        ("Z1-0", [], small.request(NUTS, plate=True, nested=(Nested("PAL", (OIL,)),)), Wants.ANY, TurnDown.OTHER_ITEM),  # type: ignore[arg-type]
        ("Z1-1", [("NUT", 1, "L9")], small.request(Goods("NUT", 1, "L1")), Wants.ANY, TurnDown.OTHER_LOT),  # type: ignore[arg-type]
        ("Z1-2", [("NUT", 1, "L9")], small.request(Goods("NUT", 1, "L1")), Wants.ANY, None),  # type: ignore[arg-type]
        ("Z1-2", [("NUT", 1, "")], small.request(NUTS), Wants.EMPTY, TurnDown.NOT_EMPTY),
        ("Z1-2", [("ROD", 1, "")], small.request(NUTS), Wants.SAME_ITEM, TurnDown.NOT_SAME_ITEM),
        ("Z1-2", [("NUT", 1, "")], small.request(NUTS), Wants.SAME_ITEM, None),
        ("Z1-2", [("NUT", 1, "L2")], small.request(Goods("NUT", 1, "L1")), Wants.SAME_ITEM_AND_LOT, TurnDown.NOT_SAME_LOT),  # type: ignore[arg-type]
        ("Z1-2", [("NUT", 1, "L1")], small.request(Goods("NUT", 1, "L1")), Wants.SAME_ITEM_AND_LOT, None),  # type: ignore[arg-type]
    ],
)  # fmt: skip
def test_each_reason_to_turn_a_bin_down(
    bin_: str, stock: list[tuple[str, int, str]], request_: BinRequest, wants: Wants, down: TurnDown | None
) -> None:
    """Fit as a table: what lies there, what comes, what is wanted, and why not. Each reason has a sentence."""
    floor = small.floor(tuple(StockRow(bin_, item, n, lot) for item, n, lot in stock))  # type: ignore[arg-type]
    judge, each = Judge(request_, floor), floor.ground.bins[bin_]  # type: ignore[index]
    assert judge.turn_down(each, wants) is down
    if down:
        assert judge.told(each, down).startswith(f"`{bin_}` ")


def test_the_height_of_a_plate_is_its_goods_spread_over_it() -> None:
    """40 cases of 13.5 l on 0.96 m2: 562.5 mm, rounded up, on a deck of 144 mm. A plate on it counts as goods do."""
    load = load_of((Goods("NUT", 400),), "PAL", small.site())  # type: ignore[arg-type]
    assert (load.height_mm, load.plates, load.weight_mg) == (144 + 563, 1, 40 * 5_200_000 + 20_000_000)
    both = load_of((), "PAL", small.site(), (Nested("PAL", (Goods("NUT", 400),)),))  # type: ignore[arg-type]
    assert (both.height_mm, both.plates) == (144 + load.height_mm, 1)


@pytest.mark.parametrize(
    ("conditions", "says"),
    [
        (Conditions(), None),
        (Conditions(groups=("Small",)), None),
        (Conditions(groups=("Wet",)), "NUT is of group Small"),
        (Conditions(items=("ROD",)), "NUT is not one of its items"),  # type: ignore[arg-type]
        (Conditions(hazard_classes=("3",)), "NUT has no hazard class"),
        (Conditions(velocity_classes=("A", "B")), None),
        (Conditions(velocity_classes=("C",)), "NUT has velocity class A"),
        (Conditions(trackings=(Tracking.LOT,)), "NUT is not tracked"),
        (Conditions(order_kinds=(OrderKind.TRANSFER,)), "the goods come from a purchase order"),
        (Conditions(partners=("V1",)), "the partner is Two"),  # type: ignore[arg-type]
        (Conditions(partner_groups=("Vendors",)), None),
        (Conditions(partner_groups=("Shops",)), "the partner is of Vendors"),
        (Conditions(unit_forms=(UnitForm.WHOLE_PLATE,)), "the goods come as full cases"),
        (Conditions(unit_forms=(UnitForm.CASE,)), None),
        (Conditions(statuses=(Status.DAMAGED,)), "the goods are available"),
        (Conditions(dispositions=(Disposition.SCRAP,)), "the goods are marked to restock"),
        (Conditions(weekdays=(Weekday.TUESDAY,)), None),
        (Conditions(weekdays=(Weekday.SUNDAY,)), "today is Tuesday"),
        (Conditions(quantity=Between(10, 20)), None),
        (Conditions(quantity=Between(None, 19)), "20 is not at most 19"),
        (Conditions(weight_kg=Between(11)), "10.4 kg are not at least 11 kg"),
        (Conditions(height_mm=Between(100, 100)), None),
        (Conditions(height_mm=Between(None, 99)), "100 mm are not at most 99 mm"),
    ],
)
def test_a_condition_that_fails_is_told(conditions: Conditions, says: str | None) -> None:
    """Twenty nuts to restock are two full cases from vendor V2 on a purchase order, on a Tuesday."""
    asked = small.request(
        NUTS, order_kind=OrderKind.PURCHASE, partners=("V2",), disposition=Disposition.RESTOCK, today=small.TODAY
    )
    assert unmet(BinRule("R", (), conditions), Facts(asked, small.site())) == says  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("prefer", "bin_"),
    [
        ((Prefer.WALK_ORDER,), "Z1-5"),  # walk 1
        ((Prefer.LOWEST_LEVEL, Prefer.WALK_ORDER), "Z1-9"),  # level 0, walk 9
        ((Prefer.FULLEST,), "Z1-5"),
        ((Prefer.EMPTIEST,), "Z1-1"),
        ((Prefer.NEAREST_LAST,), "Z1-9"),
        ((Prefer.NEAREST_DOOR,), "Z1-5"),  # the door is at 5 m
        ((Prefer.NEAREST_PACK,), "Z1-1"),  # packing is in the corner
        ((), "Z1-1"),
    ],
)
def test_preferences_order_the_shelves(prefer: tuple[Prefer, ...], bin_: str) -> None:
    """Of the shelves 1, 5 and 9 of zone 1, five holds most; the goods are at nine; ties break by code."""
    stock = (StockRow("Z1-5", "NUT", 40), StockRow("Z1-9", "NUT", 10))  # type: ignore[arg-type]
    rule = BinRule("R", (Target("T", LookIn(zones=("Z1",), bin_types=("SHELF",)), Wants.ANY, prefer),))  # type: ignore[arg-type]
    assert choose(small.request(NUTS, from_bin="Z1-9"), (rule,), small.floor(stock)).bin == bin_


def shares(trail: Trail) -> list[tuple[str, int]]:
    return [(a.bin, a.quantity) for a in trail.allocations]


def rule(*targets: Target, **more: Any) -> BinRule:
    return BinRule("R", targets, **more)  # type: ignore[arg-type]


def target(zone: str, kind: str = "", **more: Any) -> Target:
    return Target(f"T-{zone}{kind}", LookIn(zones=(zone,), bin_types=(kind,) if kind else ()), **more)  # type: ignore[arg-type]


def test_home_bins_fill_to_their_maximum_and_the_rest_goes_on() -> None:
    """Z1-1 may have 60 nuts and has 25; 35 go there, 15 into the other home, which has no maximum."""
    homes = Target("T", LookIn(home_bins=True), prefer=(Prefer.EMPTIEST,), up_to=UpTo.HOME_MAXIMUM)  # type: ignore[arg-type]
    floor = small.floor((StockRow("Z1-1", "NUT", 25), StockRow("Z2-2", "NUT", 400)))  # type: ignore[arg-type]
    asked = small.request(Goods("NUT", 50))  # type: ignore[arg-type]
    assert shares(choose(asked, (rule(homes, split=True),), floor)) == [("Z2-2", 50)]
    by_walk = replace(homes, prefer=(Prefer.LOWEST_LEVEL, Prefer.WALK_ORDER))
    assert shares(choose(asked, (rule(by_walk, split=True),), floor)) == [("Z1-1", 35), ("Z2-2", 15)]
    assert shares(choose(asked, (rule(by_walk),), floor)) == [("Z2-2", 50)]  # not split: all in one


def test_a_share_must_be_useful_and_what_is_left_goes_to_the_overflow() -> None:
    """A drawer takes 29 nuts; of 100 that is more than a quarter and less than half."""
    drawers = target("Z1", "LOOSE")
    asked = small.request(Goods("NUT", 100))  # type: ignore[arg-type]
    half = choose(asked, (rule(drawers, split=True, least_percent=50),), small.floor())
    assert (shares(half), half.rest) == ([], 100)
    quarter = rule(drawers, split=True, least_percent=25, if_nothing=IfNothing.OVERFLOW, overflow="Z2-2")
    trail = choose(asked, (quarter,), small.floor())
    assert shares(trail) == [("Z1-3", 29), ("Z1-11", 29), ("Z2-2", 42)]
    assert [x.outcome for x in trail.lines] == [Outcome.PART, Outcome.OVERFLOW]


def test_an_overflow_bin_of_another_site_takes_nothing(ground: Ground) -> None:
    """Goods stay where they are asked for, whatever a rule names; both searches say so."""
    state = new_world(ground, Rulebook("none")).state
    asked = BinRequest("HQ", BinPurpose.PUT_AWAY, (Goods("SHK-08", 5),), None)  # type: ignore[arg-type]
    away = rule(target("NOWHERE"), if_nothing=IfNothing.OVERFLOW, overflow="D1-01-1")
    assert ground.site_of("D1-01-1") == "GL"  # type: ignore[arg-type]
    trail = choose(asked, (away,), state)
    assert trail.allocations == () and trail.lines[-1].outcome is Outcome.NO_BIN
    assert [look.outcome for look in explain(asked, (away,), state).looks][-1] is Outcome.NO_BIN


def test_the_plate_being_built_is_looked_at() -> None:
    """Goods go where the worker's plate stands, if they may."""
    own = Target("T", LookIn(own_plate=True))  # type: ignore[arg-type]
    floor = small.floor((), (PlateRow("P0", "PAL", "Z1-2"),))  # type: ignore[arg-type]
    assert choose(small.request(NUTS, onto="P0"), (rule(own),), floor).bin == "Z1-2"
    assert choose(small.request(NUTS), (rule(own),), floor).bin is None


LOTS = (
    StockRow("Z2-2", "OIL", 30, "L1", date(2026, 3, 20), plate=None),  # type: ignore[arg-type]
    StockRow("Z2-6", "OIL", 50, "L2", date(2026, 5, 1)),  # type: ignore[arg-type]
    StockRow("Z1-2", "OIL", 90, "L0", date(2026, 3, 10)),  # type: ignore[arg-type]
)
PICK, RESERVE = target("Z2", prefer=(Prefer.FEFO,)), target("Z1", prefer=(Prefer.FEFO,))


@pytest.mark.parametrize(
    ("rules", "reserve", "asked", "found", "rest"),
    [
        ((rule(PICK, split=True),), (), 40, [("Z2-2", 30), ("Z2-6", 10)], 0),
        ((rule(PICK),), (), 40, [], 40),  # no bin covers 40 without jumping the earliest
        ((rule(PICK, fefo_days=60),), (), 40, [("Z2-6", 40)], 0),
        ((rule(PICK, split=True),), (rule(RESERVE),), 40, [], 40),  # reserve has the earliest: replenish
        ((rule(PICK, split=True, fefo_days=10),), (rule(RESERVE),), 40, [("Z2-2", 30)], 10),
        ((rule(RESERVE), rule(PICK)), (), 100, [], 100),
        ((rule(RESERVE, split=True), rule(PICK, split=True)), (), 100, [("Z1-2", 90), ("Z2-2", 10)], 0),
    ],
)
def test_goods_leave_by_expiry(
    rules: tuple[BinRule, ...], reserve: tuple[BinRule, ...], asked: int, found: list[Any], rest: int
) -> None:
    """Pick bins hold lots to 20 March and 1 May, reserve one to 10 March."""
    trail = choose(small.asked_for("OIL", asked), rules, small.floor(LOTS), reserve)
    assert (shares(trail), trail.rest) == (found, rest)
    if reserve and not rules[0].fefo_days:
        assert trail.lines[-1].outcome is Outcome.REPLENISH and "Z1-2" in trail.lines[-1].says


@pytest.mark.parametrize(
    ("prefer", "found"),
    [
        ((Prefer.FIFO,), [("Z2-6", 40)]),
        ((Prefer.LIFO,), [("Z2-2", 40)]),
        ((Prefer.FEWEST_BINS,), [("Z2-10", 40)]),
        ((Prefer.SMALLEST_REMAINDER,), [("Z2-2", 40)]),
    ],
)
def test_preferences_about_stock(prefer: tuple[Prefer, ...], found: list[Any]) -> None:
    """Nuts: 45 of yesterday, 60 of last week, 90 of unknown arrival in the middle, of which 30 are damaged."""
    stock = (
        StockRow("Z2-2", "NUT", 45, arrived=date(2026, 3, 2)),  # type: ignore[arg-type]
        StockRow("Z2-6", "NUT", 60, arrived=date(2026, 2, 24)),  # type: ignore[arg-type]
        StockRow("Z2-10", "NUT", 90, arrived=date(2026, 2, 26)),  # type: ignore[arg-type]
        StockRow("Z2-10", "NUT", 30, status=Status.DAMAGED),  # type: ignore[arg-type]
    )
    wanted = rule(target("Z2", wants=Wants.ONE_COVERS, prefer=prefer))
    if prefer == (Prefer.FEWEST_BINS,):  # all cover it: a tie, broken by the bin's code
        assert shares(choose(small.asked_for("NUT", 40), (wanted,), small.floor(stock))) == [("Z2-10", 40)]
    assert shares(choose(small.asked_for("NUT", 40), (wanted,), small.floor(stock))) == found


def test_a_whole_plate_is_taken_exactly_and_fifo_is_kept() -> None:
    """A plate of 40 and a plate of 40 with something else on it, asked for 40 and for 41."""
    plates = (PlateRow("P0", "PAL", "Z1-2"), PlateRow("P1", "PAL", "Z1-6"))  # type: ignore[arg-type]
    stock = (
        StockRow("Z1-2", "NUT", 40, plate="P0"), StockRow("Z1-2", "ROD", 1, plate="P0", arrived=date(2026, 3, 1)), StockRow("Z1-6", "NUT", 40, plate="P1"),  # type: ignore[arg-type]
        StockRow("Z1-2", "ROD", 9, arrived=date(2026, 3, 1)), StockRow("Z2-2", "ROD", 9, arrived=date(2026, 2, 1)),  # type: ignore[arg-type]
    )  # fmt: skip
    whole = rule(target("Z1", wants=Wants.WHOLE_PLATE))
    trail = choose(small.asked_for("NUT", 40), (whole,), small.floor(stock, plates))
    assert [(a.bin, a.plate) for a in trail.allocations] == [("Z1-6", "P1")]
    assert choose(small.asked_for("NUT", 41), (whole,), small.floor(stock, plates)).rest == 41
    anywhere = rule(Target("T", LookIn(), Wants.ANY, (Prefer.WALK_ORDER,)))  # type: ignore[arg-type]
    assert shares(choose(small.asked_for("ROD", 9), (anywhere,), small.floor(stock, plates))) == [("Z2-2", 9)]


def test_shelf_life_of_the_partner_counts() -> None:
    """C1 wants thirty days left: only the lot to May is for them."""
    wanted = rule(target("Z2", prefer=(Prefer.FEFO,)))
    trail = choose(small.asked_for("OIL", 20, partners=("C1",)), (wanted,), small.floor(LOTS))
    assert shares(trail) == [("Z2-6", 20)]
    look = explain(small.asked_for("OIL", 20, partners=("C1",)), (wanted,), small.floor(LOTS)).looks[0]
    assert "1 keep too short for this partner" in look.says


def test_explaining_counts_what_was_turned_down(ground: Ground) -> None:
    """The demo's rope: the counts of all reasons and of the bins that fit make up the bins looked at."""
    from mindful_crate.demo.loader import demo_rulebook
    from tests.playbook import new_world

    world = new_world(ground, demo_rulebook())
    asked = BinRequest(
        "HQ", BinPurpose.PUT_AWAY, (Goods("ROPE-12", 2000),), "PAL", order_kind=OrderKind.PURCHASE, from_bin="RCV-01",  # type: ignore[arg-type]
        door="RCV-01",
    )  # type: ignore[arg-type]  # fmt: skip
    rules = world.rulebook.rules_for("HQ", BinPurpose.PUT_AWAY)  # type: ignore[arg-type]
    look = next(x for x in explain(asked, rules, world.state).looks if x.outcome is Outcome.CHOSEN)
    assert look.rule == "BR-3"
    assert look.says.startswith("120 bins looked at: 63 not empty, 3 blocked, 54 fit.")
    assert len(look.bins) == 120
    assert sum(c.turned_down is None for c in look.bins) == 54


def test_goods_on_their_way_take_room(ground: Ground) -> None:
    """A bin claimed by a task is no longer empty for the next plate, and free again for its own task."""
    from mindful_crate.demo.loader import demo_rulebook
    from tests.playbook import Play, barcode, new_world

    world = new_world(ground, demo_rulebook())
    play = Play(world).confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007")
    for _ in range(2):
        play.scan(barcode(ground, "ROPE-12", "coil")).type("10").press("finish").done("Put-away task")
    first, second = world.state.tasks.every()
    assert first.to_bin != second.to_bin
    assert first.to_bin and world.state.held(first.to_bin).plates == 1
    assert world.state.held(first.to_bin, first.number).plates == 0


def test_ranks_measured_from_many_bins_do_not_pile_up(ground: Ground) -> None:
    """Goods come from any bin: the answers stay right while only so many ways of measuring are remembered."""
    state = new_world(ground, Rulebook("none")).state
    target = Target("T-1", LookIn(("RSV",)), Wants.EMPTY, (Prefer.NEAREST_LAST,))  # type: ignore[arg-type]
    rules = (BinRule("BR-1", (target,)),)  # type: ignore[arg-type]
    bins = [b.code for b in ground.bins.values() if b.zone in ("BLK", "RSV")][::8]
    assert len(bins) > 2 * REMEMBERED_ANCHORS
    for code in bins:
        asked = BinRequest("HQ", BinPurpose.PUT_AWAY, (Goods("ROPE-12", 200),), "PAL", from_bin=code)  # type: ignore[arg-type]
        trail = choose(asked, rules, state)
        assert trail.bin
        if code in bins[::9]:
            agree(trail, explain(asked, rules, state))
    assert len(state.ground.remembered["ranked"]) <= REMEMBERED_ANCHORS + 1
