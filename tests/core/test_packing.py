"""Cartons: whatever is suggested is looked over by a checker that shares nothing with what packs (`tests/packed.py`)."""

from __future__ import annotations

import hashlib
from itertools import pairwise

from hypothesis import given, settings
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import CartonKind
from mindful_crate.core.catalog.ids import CartonKindCode
from mindful_crate.core.packing.suggesting import fewest, suggest
from mindful_crate.core.packing.things import Suggestion, Thing
from tests.packed import KG, KINDS, faults, lots

sizes = st.integers(10, 430)
a_thing = st.builds(
    Thing, st.just("T"), sizes, sizes, sizes, st.integers(0, 8 * KG), upright=st.booleans(), fragile=st.booleans()
)  # fmt: skip


@settings(deadline=None, max_examples=120)
@given(st.lists(a_thing, min_size=1, max_size=14))
def test_whatever_is_suggested_can_be_packed(things: list[Thing]) -> None:
    """Nothing overlaps, sticks out, is turned wrongly, badly borne, too heavy or left out; what is homeless fits into no kind."""
    found = suggest(things, KINDS)
    assert faults(things, found) == []
    for n in found.homeless:
        assert suggest([things[n]], KINDS).cartons == ()
    packed = [things[n] for n in range(len(things)) if n not in found.homeless]
    if packed:
        least = fewest(packed, KINDS)
        assert len(found.cartons) >= least and found.proved == (len(found.cartons) == least)


def test_nothing_fragile_is_pushed_under_what_overhangs() -> None:
    """A plate that stands out over a block leaves a gap just as high as a glass: the glass would bear it, so the plate
    goes below both."""
    kind = CartonKind(CartonKindCode("X"), "Just so", 400, 300, 150)
    block, plate = Thing("BLOCK", 300, 300, 100, upright=True), Thing("PLATE", 400, 300, 50, upright=True)
    for fragile, at in ((False, 0), (True, 50)):
        glass = Thing("GLASS", 100, 300, 100, upright=True, fragile=fragile)
        carton = suggest([block, plate, glass], [kind]).cartons[0]
        assert next(p.z_mm for p in carton.things if p.thing == 2) == at


def cut_up(kind: CartonKind, pieces: int, seed: int) -> list[Thing]:
    """Things that were one carton's inside, cut by planes and then made smaller: about half of it is left."""
    drawn = iter(lots(seed))
    blocks = [(kind.length_mm, kind.width_mm, kind.height_mm)]
    while len(blocks) < pieces:
        blocks.sort(key=lambda b: b[0] * b[1] * b[2])
        block = list(blocks.pop())
        axis = max(range(3), key=lambda i: block[i])
        at = block[axis] * (35 + next(drawn) % 31) // 100
        for part in (at, block[axis] - at):
            blocks.append(tuple(part if i == axis else block[i] for i in range(3)))  # type: ignore[arg-type]
    return [
        Thing(f"T{n}", *(max(1, side * (76 + next(drawn) % 12) // 100) for side in b)) for n, b in enumerate(blocks)
    ]


def test_what_one_carton_held_goes_into_one() -> None:
    """Of orders that are known to fit one large carton and fill it by half, nine in ten are put into one."""
    large = next(k for k in KINDS if k.code == "L")
    found = [suggest(cut_up(large, 6 + 6 * (seed % 2), seed), (large,)) for seed in range(1, 61)]
    shares = [sum(t.volume for t in cut_up(large, 6, seed)) / (420 * 320 * 240) for seed in range(1, 61)]
    assert min(shares) > 0.4 and max(shares) <= 0.6
    assert sum(len(f.cartons) == 1 for f in found) >= 54


def test_small_cases_read_by_eye() -> None:
    """One thing in the smallest carton that takes it; too heavy for two in one; what fits nowhere is named, the rest packed."""
    cup = Thing("CUP", 100, 100, 100, 400_000)
    assert [c.kind for c in suggest([cup], KINDS).cartons] == ["S"]
    lead = Thing("LEAD", 100, 100, 50, 16 * KG)
    two = suggest([lead, lead], KINDS)
    assert len(two.cartons) == 2 and two.proved and fewest([lead, lead], KINDS) == 2
    mast = Thing("MAST", 2_000, 60, 60, 3 * KG)
    found = suggest([mast, cup], KINDS)
    assert found.homeless == (0,) and [p.thing for c in found.cartons for p in c.things] == [1]
    sheet = Thing("SHEET", 200, 150, 0)  # nobody has measured how thick it is
    assert [len(c.things) for c in suggest([sheet, sheet], KINDS).cartons] == [2]
    glass = Thing("GLASS", 200, 150, 50, KG, upright=True, fragile=True)
    stacked = suggest([glass, glass], KINDS)
    assert faults([glass, glass], stacked) == [] and suggest([], KINDS) == Suggestion((), (), True)


def test_the_same_on_every_machine() -> None:
    """The same things give the same cartons, to the last corner, wherever this runs."""
    whole = hashlib.sha256()
    for seed in range(1, 41):
        drawn = lots(seed)
        things = [
            Thing(
                f"T{n}", 20 + a % 300, 20 + b % 240, 15 + c % 200, d % (4 * KG), upright=d % 5 == 0, fragile=d % 7 == 0
            )
            for n, ((a, b), (c, d)) in enumerate(
                zip(pairwise(drawn[: 3 + seed % 12]), pairwise(drawn[100:]), strict=False)
            )
        ]
        whole.update(repr(suggest(things, KINDS)).encode())
    assert whole.hexdigest()[:16] == "76277d130538fc35"
