"""Cartons to pack into, things that look thrown, and an independent look at what was packed."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

from mindful_crate.core.catalog.goods import CartonKind
from mindful_crate.core.catalog.ids import CartonKindCode
from mindful_crate.core.packing.things import Packed, Suggestion, Thing

KG = 1_000_000
KINDS = tuple(
    CartonKind(CartonKindCode(code), code, *size, weight_mg=KG * size[0] // 1000, max_weight_mg=most * KG)
    for code, size, most in (
        ("S", (220, 160, 110), 6), ("M", (320, 240, 160), 12), ("L", (420, 320, 240), 20), ("XL", (600, 400, 400), 30),
        ("FLAT", (520, 380, 90), 10), ("TALL", (260, 260, 520), 15),
    )
)  # fmt: skip


def spans(packed: Packed) -> list[tuple[int, range, range, range]]:
    return [
        (p.thing, *(range(at, at + s) for at, s in zip((p.x_mm, p.y_mm, p.z_mm), p.size, strict=True)))
        for p in packed.things
    ]  # fmt: skip


def shared(a: range, b: range) -> int:
    return max(0, min(a.stop, b.stop) - max(a.start, b.start))


def faults(things: Sequence[Thing], found: Suggestion) -> list[str]:
    """What is wrong with a suggestion; nothing when all is well."""
    wrong = []
    kinds = {k.code: k for k in KINDS}
    seen = [n for carton in found.cartons for n, *_ in spans(carton)]
    if sorted([*seen, *found.homeless]) != list(range(len(things))):
        wrong.append("something is left out, or there twice")
    for carton in found.cartons:
        kind, lying = kinds[carton.kind], spans(carton)
        weight = kind.weight_mg + sum(things[n].weight_mg for n, *_ in lying)
        if weight != carton.weight_mg or (kind.max_weight_mg is not None and weight > kind.max_weight_mg):
            wrong.append("weight")
        for n, x, y, z in lying:
            size = (len(x), len(y), len(z))
            if sorted(size) != sorted(things[n].size) or (things[n].upright and len(z) != things[n].height_mm):
                wrong.append(f"{n} is turned in a way it may not be")
            if (
                min(x.start, y.start, z.start) < 0
                or x.stop > kind.length_mm
                or y.stop > kind.width_mm
                or z.stop > kind.height_mm
            ):
                wrong.append(f"{n} sticks out")
            below = [(m, shared(x, a) * shared(y, b)) for m, a, b, c in lying if c.stop == z.start]
            if any(area and things[m].fragile for m, area in below):
                wrong.append(f"{n} stands on something fragile")
            if z.start and sum(area for _, area in below) * 4 < len(x) * len(y) * 3:
                wrong.append(f"{n} is badly borne")
        for (n, x, y, z), (m, a, b, c) in combinations(lying, 2):
            if shared(x, a) and shared(y, b) and shared(z, c):
                wrong.append(f"{n} and {m} are in one place")
    return wrong


def lots(seed: int) -> list[int]:
    """Numbers that look thrown (xorshift64*), the same on every machine."""
    state, drawn = seed, []
    for _ in range(400):
        state ^= state >> 12
        state = (state ^ (state << 25)) & (2**64 - 1)
        state ^= state >> 27
        drawn.append((state * 2685821657736338717 & (2**64 - 1)) >> 33)
    return drawn
