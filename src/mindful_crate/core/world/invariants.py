"""What is always true of a world, whatever is done in it; and what the matters say is always true of theirs. Tests check it
after every command; a sweep checks stored worlds."""

from __future__ import annotations

from collections import Counter

from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.floor.plates import Spot, in_bin, in_hands, in_transit, on_plate
from mindful_crate.core.floor.state import State
from mindful_crate.core.work.table import TABLE


def broken(state: State) -> list[str]:
    """Every invariant that does not hold, as a sentence; empty for a sound world."""
    return [
        *_quantities(state),
        *_holders(state),
        *_bins(state),
        *_indexes(state),
        *_pieces(state),
        *(says for matter in TABLE for holds in matter.invariants for says in holds(state)),
    ]


def _quantities(state: State) -> list[str]:
    now: Counter[ItemCode] = Counter()
    found = []
    for code, plate, goods in state.stock():
        now[goods.item] += goods.quantity
        if goods.quantity <= 0:
            found.append(f"{goods.item} in {code or plate} has quantity {goods.quantity}")
    should = Counter(state.ground.quantities)
    should.update(state.ledger.entered())
    found += [
        f"{i}: {now[i]} on hand, {should[i]} by the ledger" for i in sorted({*now, *should}) if now[i] != should[i]
    ]
    return found


def _pieces(state: State) -> list[str]:
    """Of every kind of goods that is kept by serial numbers there are as many numbers as pieces, wherever they are, and a number is
    in one place."""
    found, seen = [], Counter[tuple[ItemCode, str]]()
    spots = [(on_plate(p.number) if p else in_bin(c), g) for c, p, g in state.stock() if p or c]  # type: ignore[arg-type]
    spots += [(in_hands(t), g) for t in state.tasks.all_carried() for g in state.tasks.going[t].hands]
    for spot, goods in spots:
        if goods.item in state.serials.kept:
            numbers = state.serials.at(spot, goods)
            seen.update((goods.item, n) for n in numbers)
            if len(numbers) != goods.quantity:
                found.append(f"{goods.quantity} of {goods.item} {spot.holder} {spot.code} have {len(numbers)} numbers")
            found += [f"{n} of {goods.item} is not at {spot}" for n in numbers if not _lies(state, goods.item, n, spot)]
    return found + [f"{n} of {item} is in {count} places" for (item, n), count in seen.items() if count > 1]


def _lies(state: State, item: ItemCode, number: str, spot: Spot) -> bool:
    lies = state.serials.where(item, number)
    return lies is not None and lies.spot == spot


def _holders(state: State) -> list[str]:
    found = []
    gone = {in_transit(number) for number in state.departures}
    for plate in state.plates.values():
        if sum(h is not None for h in (plate.bin, plate.carrier, plate.on)) != (
            0 if plate.into or state.plates.spots.get(plate.number) in gone else 1
        ):
            found.append(f"plate {plate.number} has not exactly one holder")
        if plate.building and plate.goods:
            found.append(f"plate {plate.number} is being built and is stock")
        if plate.bin and plate.number not in {p.number for p in state.standing(plate.bin)}:
            found.append(f"plate {plate.number} is not found in {plate.bin}")
        if plate.on and plate.number not in state.plates_on(plate.on):
            found.append(f"plate {plate.number} is not found on {plate.on}")
    return found


def _indexes(state: State) -> list[str]:
    """What the indexes answer is what looking at everything answers."""
    found = []
    by_item: Counter[tuple[ItemCode, str, str]] = Counter()
    for code, plate, goods in state.stock():
        if code:
            by_item[goods.item, code, plate.number if plate else ""] += goods.quantity
    for item in {k[0] for k in by_item}:
        lying: Counter[tuple[ItemCode, str, str]] = Counter()
        for line in state.lines(item):
            lying[item, line.bin, line.plate or ""] += line.goods.quantity
        if lying != Counter({k: v for k, v in by_item.items() if k[0] == item}):
            found.append(f"the lines of {item} are not what lies in the bins")
    for code in state.changed_since(0):
        held = state.held(code)
        if state.load(code) != (held.volume_mm3, held.weight_mg, held.plates):
            found.append(f"the load of {code} is not what it holds")
    return found


def _bins(state: State) -> list[str]:
    """No command places what the bin type forbids: bins that tasks have filled keep their limits, but for those in which somebody found otherwise."""
    found = []
    for code in {t.placed_in for t in state.tasks.every() if t.placed_in and t.placed_in not in state.found_otherwise}:
        kind = state.ground.bin_types[state.ground.bins[code].bin_type]
        held = state.held(code)
        if kind.max_plates is not None and held.plates > kind.max_plates:
            found.append(f"{code} holds or expects {held.plates} plates of {kind.max_plates}")
        if kind.max_weight_mg is not None and held.weight_mg > kind.max_weight_mg:
            found.append(f"{code} is too heavy")
        if kind.max_volume_mm3 is not None and held.volume_mm3 > kind.max_volume_mm3:
            found.append(f"{code} is too full")
        if not kind.mixed_items and len({k[0] for k in held.kinds}) > 1:
            found.append(f"{code} mixes items")
        hazards = {state.ground.items[k[0]].hazard_class for k in held.kinds} - {None}
        if not hazards <= set(kind.hazard_classes):
            found.append(f"{code} does not admit {hazards}")
    return found
