"""Which bin: one judgement of fit, and the quick search against the full count."""

from __future__ import annotations

import pytest
from hypothesis import given, settings

from mindful_crate.core.catalog.goods import OrderKind, StockRow
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.explain import explain
from mindful_crate.core.placing.fit import Judge, TurnDown
from mindful_crate.core.placing.request import BinRequest, Goods, load_of
from mindful_crate.core.placing.rules import unmet
from mindful_crate.core.rulebook.bin_rules import BinRule, Conditions, LookIn, Prefer, Target, UnitForm, Wants
from mindful_crate.core.trail import Outcome
from tests.core import small


@settings(max_examples=300, deadline=None)
@given(small.stocks, small.requests, small.rule_lists)
def test_choosing_and_explaining_agree(
    stock: tuple[StockRow, ...], request: BinRequest, rules: tuple[BinRule, ...]
) -> None:
    """The quick search finds the bin and rule that looking at everything finds, with the same outcomes."""
    floor = small.floor(stock)
    trail, why = choose(request, rules, floor), explain(request, rules, floor)
    assert (trail.bin, trail.rule) == (why.bin, why.rule)
    asked = [(look.rule, look.target, look.outcome) for look in why.looks if look.outcome]
    assert [(line.rule, line.target, line.outcome) for line in trail.lines] == asked


@settings(max_examples=150, deadline=None)
@given(small.stocks, small.requests, small.rule_lists)
def test_the_chosen_bin_holds_what_it_may(
    stock: tuple[StockRow, ...], request: BinRequest, rules: tuple[BinRule, ...]
) -> None:
    """What is chosen is never turned down, is in a place looked at, and asking again gives the same."""
    floor = small.floor(stock)
    trail = choose(request, rules, floor)
    assert choose(request, rules, floor) == trail
    if trail.bin:
        assert Judge(request, floor).turn_down(floor.ground.bins[trail.bin]) is None
        look = next(look for look in explain(request, rules, floor).looks if look.outcome is Outcome.CHOSEN)
        assert trail.bin in {c.bin for c in look.bins}


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
        ("Z1-0", [], small.request(Goods("NUT", 2000), plate=True), Wants.ANY, TurnDown.TOO_HEAVY),  # type: ignore[arg-type]
        ("Z1-1", [], small.request(Goods("NUT", 900)), Wants.ANY, TurnDown.TOO_BIG),  # type: ignore[arg-type]
        ("Z1-3", [("ROD", 1, "")], small.request(NUTS), Wants.ANY, TurnDown.OTHER_ITEM),
        ("Z1-3", [], small.request(Goods("NUT", 1), Goods("ROD", 1)), Wants.ANY, TurnDown.OTHER_ITEM),  # type: ignore[arg-type]
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
    """40 cases of 13.5 l on 0.96 m2: 562.5 mm, rounded up, on a deck of 144 mm."""
    load = load_of((Goods("NUT", 400),), "PAL", small.site())  # type: ignore[arg-type]
    assert (load.height_mm, load.plates, load.weight_mg) == (144 + 563, 1, 40 * 5_200_000 + 20_000_000)


@pytest.mark.parametrize(
    ("conditions", "says"),
    [
        (Conditions(), None),
        (Conditions(groups=("Small",)), None),
        (Conditions(groups=("Wet",)), "NUT is of group Small"),
        (Conditions(items=("ROD",)), "NUT is not one of its items"),  # type: ignore[arg-type]
        (Conditions(hazard_classes=("3",)), "NUT has no hazard class"),
        (Conditions(order_kinds=(OrderKind.TRANSFER,)), "the goods come from a purchase order"),
        (Conditions(partners=("V1",)), "supplied by V2 (missing)"),  # type: ignore[arg-type]
        (Conditions(unit_forms=(UnitForm.WHOLE_PLATE,)), "the goods come as full cases"),
        (Conditions(unit_forms=(UnitForm.CASE,)), None),
    ],
)
def test_a_condition_that_fails_is_told(conditions: Conditions, says: str | None) -> None:
    """Twenty nuts are two full cases from vendor V2 on a purchase order."""
    asked = small.request(NUTS, order_kind=OrderKind.PURCHASE, partners=("V2",))
    assert unmet(BinRule("R", (), conditions), asked, small.site()) == says  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("prefer", "bin_"),
    [
        ((Prefer.WALK_ORDER,), "Z1-5"),  # walk 1
        ((Prefer.LOWEST_LEVEL, Prefer.WALK_ORDER), "Z1-9"),  # level 0, walk 9
        ((Prefer.FULLEST,), "Z1-5"),
        ((Prefer.EMPTIEST,), "Z1-1"),
        ((Prefer.NEAREST_DOOR,), "Z1-9"),
        ((), "Z1-1"),
    ],
)
def test_preferences_order_the_shelves(prefer: tuple[Prefer, ...], bin_: str) -> None:
    """Of the shelves 1, 5 and 9 of zone 1, five holds most; the way starts at nine; ties break by code."""
    stock = (StockRow("Z1-5", "NUT", 40), StockRow("Z1-9", "NUT", 10))  # type: ignore[arg-type]
    rule = BinRule("R", (Target("T", LookIn(zones=("Z1",), bin_types=("SHELF",)), Wants.ANY, prefer),))  # type: ignore[arg-type]
    assert choose(small.request(NUTS, from_bin="Z1-9"), (rule,), small.floor(stock)).bin == bin_


def test_explaining_counts_what_was_turned_down(ground: Ground) -> None:
    """The demo's rope: the counts of all reasons and of the bins that fit make up the bins looked at."""
    from mindful_crate.demo.loader import demo_rulebook
    from tests.playbook import new_world

    world = new_world(ground, demo_rulebook())
    asked = BinRequest(
        "HQ",
        small.BinPurpose.PUT_AWAY,
        (Goods("ROPE-12", 2000),),
        "PAL",
        order_kind=OrderKind.PURCHASE,
        from_bin="RCV-01",
    )  # type: ignore[arg-type]
    rules = world.rulebook.rules_for("HQ", small.BinPurpose.PUT_AWAY)  # type: ignore[arg-type]
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
    first, second = world.state.tasks.values()
    assert first.to_bin != second.to_bin
    assert first.to_bin and world.state.held(first.to_bin).plates == 1
    assert world.state.held(first.to_bin, first.number).plates == 0
