"""What the bins hold at the opening, summed once for all worlds: volume, weight and plates of each bin."""

from __future__ import annotations

from array import array
from typing import TYPE_CHECKING

from mindful_crate.core.catalog.ids import BinCode, PlateNo
from mindful_crate.core.catalog.opening import Ground

if TYPE_CHECKING:
    Sums = tuple[array[int], array[int], array[int]]


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
    items = [ground.items[code] for code in table.items]  # type: ignore[index]
    bulk: dict[tuple[int, int], tuple[int, int]] = {}
    plates = table.plates
    loose = [[0] * len(table.bins), [0] * len(table.bins)]
    on_plate = [[0] * len(plates), [0] * len(plates)]
    for item, quantity, where, plate in zip(table.item, table.quantity, table.bin, table.plate, strict=True):
        taken_up = bulk.get((item, quantity))
        if taken_up is None:
            taken_up = bulk[item, quantity] = items[item].bulk(quantity)
        if plate < 0:
            loose[0][where] += taken_up[0]
            loose[1][where] += taken_up[1]
        else:
            on_plate[0][plate] += taken_up[0]
            on_plate[1][plate] += taken_up[1]
    counts = [0] * len(table.bins)
    own = {number: (on_plate[0][n], on_plate[1][n]) for n, number in enumerate(plates)}
    for code, at in table.bin_at.items():
        for number in ground.plates_in.get(BinCode(code), ()):
            volume, weight = _plate(ground, number, own)
            loose[0][at] += volume
            loose[1][at] += weight
            counts[at] += 1
    return array("q", loose[0]), array("q", loose[1]), array("q", counts)


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
