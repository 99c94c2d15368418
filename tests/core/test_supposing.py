"""What if: the open goods of a site asked for one after another, and what a rule reaches."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mindful_crate.core.catalog.ids import PlateKindCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.rules import bins_in, lies_in
from mindful_crate.core.rulebook.bin_rules import BinPurpose, LookIn
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.world.supposing import Supposed, open_goods, reach
from tests.core import small
from tests.playbook import Play, new_world

PALLET = PlateKindCode("PAL")


@pytest.fixture
def state(ground: Ground, rulebook: Rulebook) -> State:
    """The demo at its opening."""
    found = new_world(ground, rulebook).state
    assert isinstance(found, State)
    return found


def shares(supposed: list[Supposed]) -> list[tuple[str, int]]:
    """Every bin given, with how much."""
    return [(a.bin, a.quantity) for s in supposed for a in s.trail.allocations]


def test_open_lines_do_not_get_in_each_others_way(state: State, rulebook: Rulebook) -> None:
    """Each open line is asked for once with all that is open; what is given to one is not given again; and the world
    that was asked about is as it was."""
    before = state.kept()
    supposed = open_goods(state, rulebook, BinPurpose.PUT_AWAY, PALLET, None)
    assert state.kept() == before
    lines = [(s.order.number, s.line.no) for s in supposed if s.order and s.line]
    assert len(lines) == len(set(lines)) == len(supposed) > 40
    single = {b.code for b in state.ground.bins.values() if state.ground.bin_types[b.bin_type].max_plates == 1}
    given_ = [code for code, _ in shares(supposed) if code in single]
    assert given_ and len(given_) == len(set(given_))
    for each in supposed:
        assert sum(a.quantity for a in each.trail.allocations) + each.trail.rest == each.quantity


def test_loose_goods_fill_bins_together_and_never_beyond_their_limits(state: State, rulebook: Rulebook) -> None:
    """With what lies there already, all that is given to a bin keeps within its weight and volume."""
    supposed = open_goods(state, rulebook, BinPurpose.REPLENISH_TO, None, None)
    volume: dict[str, int] = {}
    weight: dict[str, int] = {}
    for each in supposed:
        item = state.ground.items[each.trail.request.goods[0].item]
        for share in each.trail.allocations:
            bulk = item.bulk(share.quantity)
            volume[share.bin] = volume.get(share.bin, state.held(share.bin).volume_mm3) + bulk[0]
            weight[share.bin] = weight.get(share.bin, state.held(share.bin).weight_mg) + bulk[1]
    assert volume
    for code in volume:
        bin_ = state.ground.bins[code]  # type: ignore[index]
        kind = state.ground.bin_types[bin_.bin_type]
        assert kind.max_volume_mm3 is None or volume[code] <= kind.max_volume_mm3, code
        assert kind.max_weight_mg is None or weight[code] <= kind.max_weight_mg, code


def test_what_was_received_is_not_open_any_more(state: State, ground: Ground, rulebook: Rulebook) -> None:
    """In a world where a line has arrived in part, only the rest is asked for."""
    play = Play(new_world(ground, rulebook)).confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007")
    play.scan("2900000000087").type("10").press("finish").done()
    now = open_goods(play.state, rulebook, BinPurpose.PUT_AWAY, None, None)
    then = open_goods(state, rulebook, BinPurpose.PUT_AWAY, None, None)

    def of_line(found: list[Supposed]) -> list[int]:
        return [s.quantity for s in found if s.order and s.order.number == "PO-1007" and s.item == "ROPE-12"]

    assert of_line(then) == [4000] and of_line(now) == [2000]


@pytest.mark.parametrize("purpose", [BinPurpose.PICK_FROM, BinPurpose.REPLENISH_FROM])
def test_every_item_in_stock_is_asked_for_once(state: State, rulebook: Rulebook, purpose: BinPurpose) -> None:
    """One unit of each, from lines that hold it."""
    supposed = open_goods(state, rulebook, purpose, None, None)
    in_stock = sorted(i for i in state.ground.items if state.lines(i))
    assert sorted(s.item for s in supposed) == in_stock
    for each in supposed:
        for share in each.trail.allocations:
            assert any(
                x.bin == share.bin and x.plate == share.plate and x.goods.quantity >= share.quantity
                for x in state.lines(each.trail.request.goods[0].item)
            )


def test_the_reach_of_rules_adds_up(state: State, rulebook: Rulebook) -> None:
    """What no rule decides found nothing; a rule that is off decides nothing; a blocked bin is not empty any more."""
    rules = rulebook.rules_for(state.settings.site, BinPurpose.PUT_AWAY)
    supposed = open_goods(state, rulebook, BinPurpose.PUT_AWAY, PALLET, None)
    found = reach(state, rules, supposed)
    assert set(found) == {r.id for r in rules}
    answered = sum(bool(s.trail.allocations) for s in supposed)
    deciding = {(n, a.rule) for n, s in enumerate(supposed) for a in s.trail.allocations}
    assert sum(r.decides for r in found.values()) == len(deciding) >= answered > 0
    assert all(0 <= r.empty <= r.bins for r in found.values())
    busiest = max(rules, key=lambda r: found[r.id].decides)
    lists = tuple(
        replace(each, rules=tuple(replace(r, on=r.on and r.id != busiest.id) for r in each.rules))
        for each in rulebook.bin_rules
    )
    without = replace(rulebook, bin_rules=lists)
    again = open_goods(state, without, BinPurpose.PUT_AWAY, PALLET, None)
    assert reach(state, without.rules_for(state.settings.site, BinPurpose.PUT_AWAY), again)[busiest.id].decides == 0


@settings(max_examples=200, deadline=None)
@given(
    st.builds(
        LookIn,
        zones=st.lists(st.sampled_from(["Z1", "Z2", "PK", "GONE"]), max_size=3, unique=True).map(tuple),
        aisles=st.lists(st.sampled_from(["A0", "A1"]), max_size=1).map(tuple),
        bin_types=st.lists(st.sampled_from(["RACK", "SHELF", "LOOSE"]), max_size=2, unique=True).map(tuple),
        bins=st.lists(small.bin_codes, max_size=2, unique=True).map(tuple),
    )
)
def test_the_bins_a_place_names_are_those_that_lie_in_it(look: LookIn) -> None:
    """What is remembered of a place is what asking each bin of the site says, and twice the same."""
    ground = small.site()
    every = {b.code for b in ground.bins.values() if lies_in(ground, "S", look, b)}  # type: ignore[arg-type]
    listed = [b.code for b in bins_in(ground, "S", look)]  # type: ignore[arg-type]
    assert sorted(listed) == sorted(every)
    assert [b.code for b in bins_in(ground, "S", look)] == listed  # type: ignore[arg-type]
    assert [*bins_in(ground, "elsewhere", look)] == []  # type: ignore[arg-type]
