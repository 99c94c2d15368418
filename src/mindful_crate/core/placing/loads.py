"""What the bins hold at the opening, summed once for all worlds: volume, weight and plates of each bin."""

from __future__ import annotations

from array import array
from typing import TYPE_CHECKING

from mindful_crate.core.catalog.ids import BinCode, ItemCode, PlateNo
from mindful_crate.core.catalog.opening import Ground, Opening

if TYPE_CHECKING:
    Sums = tuple[array[int], array[int], array[int]]

FULLEST = 2**62
"""A bin that holds more, in mm3 or mg, is as full: no limit is near it, and a column holds no larger number."""


def opening_load(ground: Ground, code: BinCode) -> tuple[int, int, int]:
    """Volume in mm3, weight in mg and plates of a bin at the opening."""
    sums, empty_plates = _known(ground)
    at = ground.stock.bin_at.get(code)
    if at is None:
        return empty_plates.get(code, (0, 0, 0))
    return sums[0][at], sums[1][at], sums[2][at]


def sums_of(ground: Ground) -> Sums:
    """The columns themselves, by the places of bins in the stock table; a snapshot keeps them."""
    return _known(ground)[0]


def same_loads(a: Opening, b: Opening) -> bool:
    """Do two openings hold the very same goods and plates of the very same items? Then their sums are the same too."""
    return all(getattr(a, n) is getattr(b, n) for n in ("stock", "items", "plates", "plate_kinds"))


def put_sums(ground: Ground, sums: Sums) -> None:
    """Take the columns from a snapshot."""
    ground.remembered["loads"] = (sums, _bins_of_plates_alone(ground))


def _known(ground: Ground) -> tuple[Sums, dict[BinCode, tuple[int, int, int]]]:
    found: tuple[Sums, dict[BinCode, tuple[int, int, int]]] | None = ground.remembered.get("loads")
    if found is None:
        put_sums(ground, _summed(ground))
        found = ground.remembered["loads"]
    return found


def _summed(ground: Ground) -> Sums:
    table = ground.stock
    plates = table.plates
    volumes, weights = [0] * len(table.bins), [0] * len(table.bins)
    own_volumes, own_weights = [0] * len(plates), [0] * len(plates)
    for code in table.items:  # by item, so that what a quantity of it takes up is kept for one item at a time
        item = ground.items[ItemCode(code)]
        rows = table.rows_of_item(code)
        quantities = [*map(table.quantity.__getitem__, rows)]
        bulk = item.bulks(set(quantities))
        bins, on = map(table.bin.__getitem__, rows), map(table.plate.__getitem__, rows)
        for (volume, weight), where, plate in zip(map(bulk.__getitem__, quantities), bins, on, strict=True):
            if plate < 0:
                volumes[where] += volume
                weights[where] += weight
            else:
                own_volumes[plate] += volume
                own_weights[plate] += weight
    counts = [0] * len(table.bins)
    own = dict(zip(plates, zip(own_volumes, own_weights, strict=True), strict=True))
    for code, at in table.bin_at.items():
        for number in ground.plates_in.get(BinCode(code), ()):
            volume, weight = _plate(ground, number, own)
            volumes[at] += volume
            weights[at] += weight
            counts[at] += 1
    held = [array("q", (min(n, FULLEST) for n in column)) for column in (volumes, weights, counts)]
    return held[0], held[1], held[2]


def _plate(ground: Ground, number: PlateNo, own: dict[str, tuple[int, int]]) -> tuple[int, int]:
    """Volume and weight of a plate with what stands on it, as ``load_of`` has it."""
    volume, weight = own.get(number, (0, 0))
    for inner in ground.plates_on.get(number, ()):
        v, w = _plate(ground, inner, own)
        volume, weight = volume + v, weight + w
    kind = ground.plate_kinds[ground.plates[number].plate_kind]
    foot = kind.length_mm * kind.width_mm
    return foot * (kind.deck_mm + -(-volume // foot)), weight + kind.weight_mg


def _bins_of_plates_alone(ground: Ground) -> dict[BinCode, tuple[int, int, int]]:
    """Bins in which empty plates stand and nothing else."""
    found = {}
    for code, numbers in ground.plates_in.items():
        if code not in ground.stock.bin_at:
            each = [_plate(ground, n, {}) for n in numbers]
            found[code] = (sum(v for v, _ in each), sum(w for _, w in each), len(numbers))
    return found
