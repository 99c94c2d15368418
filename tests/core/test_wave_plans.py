"""What wave plans reach, against every order that there can be; and in words."""

from __future__ import annotations

import random
from dataclasses import replace

import pytest

from mindful_crate.core.releasing import reach as reaching
from mindful_crate.core.releasing.plans import GroupWish, Known, Of, Runs, Span, Waiting, WavePlan
from mindful_crate.core.releasing.reach import Reach, Undecided, reached
from mindful_crate.core.releasing.words import gap_words, overlap_words, unreached_words
from tests.waved import every_order, small_world


@pytest.mark.parametrize("seed", range(50))
def test_what_is_proved_is_so_for_every_order(seed: int) -> None:
    """On small worlds, by trying all of their orders: the pairs that overlap, whether there is a gap, which plans never get one; and
    every witness is an order that can be, for which just that holds, as it does for all that is said to be like it."""
    plans, known = small_world(random.Random(seed))
    reach, orders = Reach(plans, known), list(every_order(known))
    masks = {reach.mask(o) for o in orders}
    some = range(len(plans))
    overlaps = list(reach.overlaps())
    assert {(o.first, o.second) for o in overlaps} == {
        (i, j) for i in some for j in some if i < j and any(m >> i & m >> j & 1 for m in masks)
    }
    for each in overlaps:
        assert known.is_possible(each.witness)
        assert reach.mask(each.witness) >> each.first & reach.mask(each.witness) >> each.second & 1
    found = reached(plans, known)
    assert bool(found.gaps) == (0 in masks) and not found.undecided
    for gap in found.gaps:
        assert known.is_possible(gap.witness) and not reach.mask(gap.witness)
        box = gap.like_it
        like = [
            o for o in orders
            if o.groups == box.groups and (o.partner, o.carrier, o.order_class if reach.by_class else "") in box.pairs
            and (o.released, o.due) == (gap.witness.released, gap.witness.due)
            and all(any(a <= v <= b for a, b in spans) for v, spans in ((o.priority, box.priorities), (o.weight_mg, box.weights_mg), (o.lines, box.lines)))
        ]  # fmt: skip
        assert gap.witness in like and not any(reach.mask(o) for o in like)
    never = {u.plan: u.takes_nothing for u in found.never}
    for n in some:
        mine = [m for m in masks if m >> n & 1]
        assert (n in never) == (not any(not m & ((1 << n) - 1) for m in mine))
        assert n not in never or never[n] == (not mine)


KNOWN = Known(
    {"ALBATROSS": ("HAUL", "SWIFT"), "HERON": ("SWIFT",)}, {"ALBATROSS": "yards", "HERON": "shops"},
    {"Rope": 2_000_000, "Charts": 200_000, "Anchors": 15_000_000},
)  # fmt: skip


def waiting(number: str, **more: object) -> Waiting:
    facts = {
        "partner": "HERON",
        "carrier": "SWIFT",
        "priority": 3,
        "weight_mg": 9_000_000,
        "lines": 2,
        "groups": frozenset(["Rope"]),
        "released": 60,
        "due": 600,
    }
    return Waiting(number, **{**facts, **more})  # type: ignore[arg-type]


def test_orders_that_wait_are_witnesses_before_made_up_ones() -> None:
    """An overlap and a gap are shown by real orders where there are such, and a plan that a real order goes to is not asked about."""
    plans = [
        WavePlan("SWIFT", carriers=frozenset(["SWIFT"]), weight_mg=Span(None, 20_000_000)),
        WavePlan("SMALL", lines=Span(None, 2)),
    ]
    both, none = waiting("SO-1"), waiting("SO-2", weight_mg=30_000_000, lines=5)
    found = reached(plans, KNOWN, [both, none])
    assert [o.witness for o in found.overlaps] == [both] and [g.witness for g in found.gaps] == [none]
    assert (
        overlap_words(found.overlaps[0], plans)
        == "`SWIFT` and `SMALL` take the same orders; `SWIFT` gets them, since it stands first. `SO-1` is one."
    )
    assert (
        gap_words(found.gaps[0], KNOWN)
        == "No plan takes orders weighing 20 kg and more, of 3 to 500 lines, with item groups Rope. `SO-2` is one."
    )
    made_up = reached(plans, KNOWN).gaps[0]
    assert made_up.witness.number == "" and "One would be:" in gap_words(made_up, KNOWN)


def test_facts_that_hang_together_make_no_gap() -> None:
    """Herons go by one carrier only, and anchors are never light: no plan need take what cannot be."""
    plans = [
        WavePlan("HAUL", carriers=frozenset(["HAUL"])),
        WavePlan("HERON", partners=frozenset(["HERON"])),
        WavePlan(
            "YARDS",
            carriers=frozenset(["SWIFT"]),
            partner_groups=frozenset(["yards"]),
            groups=GroupWish(Of.NONE, frozenset(["Anchors"])),
        ),
        WavePlan("HEAVY", carriers=frozenset(["SWIFT"]), weight_mg=Span(15_000_000, None)),
    ]
    found = reached(plans, KNOWN)
    assert found.gaps == () and found.never == ()
    dearer = reached([*plans[:3], replace(plans[3], weight_mg=Span(15_000_001, None))], KNOWN)
    assert dearer.gaps[0].witness.groups == frozenset(["Anchors"]) and dearer.gaps[0].witness.weight_mg == 15_000_000
    late = reached([replace(p, runs=Runs((480, 960), Span(0, 48 * 60))) for p in plans], KNOWN)
    assert late.gaps and not late.gaps[0].like_it.any_time


def test_a_plan_for_everything_hides_nothing() -> None:
    """It ends every gap; what it alone takes is told. What stands after it never gets an order, nor does what fits none."""
    plans = [
        WavePlan("SWIFT", carriers=frozenset(["SWIFT"])), WavePlan("NOBODY", lines=Span(9, 3)), WavePlan("REST"), WavePlan("LATE", lines=Span(1, 1)),
    ]  # fmt: skip
    found = reached(plans, KNOWN)
    assert found.gaps == () and found.only_by_all[0].witness.carrier == "HAUL"
    assert [unreached_words(u, plans) for u in found.never] == [
        "`NOBODY` fits no order that there can be.",
        "`LATE` never gets an order: the plans before it take all that fit it.",
    ]


def test_a_search_that_goes_on_too_long_says_so(monkeypatch: pytest.MonkeyPatch) -> None:
    """Not decided is said, for the gaps and plan by plan; what was found stands."""
    plans = [
        WavePlan("A", carriers=frozenset(["HAUL"])),
        WavePlan("B", lines=Span(None, 9)),
        WavePlan("C", carriers=frozenset(["HAUL"])),
    ]
    monkeypatch.setattr(reaching, "MOST_NODES", 3)
    with pytest.raises(Undecided):
        Reach(plans, KNOWN).gap(0b111)
    found = reached(plans, KNOWN)
    assert found.undecided[0] == -1 and found.gaps == () and len(found.overlaps) == 3
