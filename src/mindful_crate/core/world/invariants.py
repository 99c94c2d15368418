"""What is always true of a world. Tests check it after every command; a sweep checks stored worlds."""

from __future__ import annotations

from collections import Counter

from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.world.state import State
from mindful_crate.core.world.things import TaskState


def broken(state: State) -> list[str]:
    """Every invariant that does not hold, as a sentence; empty for a sound world."""
    return [*_quantities(state), *_holders(state), *_orders(state), *_tasks(state), *_bins(state)]


def _quantities(state: State) -> list[str]:
    now: Counter[ItemCode] = Counter()
    found = []
    for code, plate, goods in state.stock():
        now[goods.item] += goods.quantity
        if goods.quantity <= 0:
            found.append(f"{goods.item} in {code or plate} has quantity {goods.quantity}")
    should: Counter[ItemCode] = Counter()
    for row in state.ground.opening.stock:
        should[row.item] += row.quantity
    for receipt in state.receipts.values():
        for line in receipt.lines:
            should[line.item] += line.quantity
    return found + [f"{i}: {now[i]} on hand, {should[i]} received" for i in {*now, *should} if now[i] != should[i]]


def _holders(state: State) -> list[str]:
    found = []
    for plate in state.plates.values():
        if (plate.bin is None) == (plate.carrier is None):
            found.append(f"plate {plate.number} has not exactly one holder")
        if plate.building and plate.goods:
            found.append(f"plate {plate.number} is being built and is stock")
        if plate.bin and plate.number not in {p.number for p in state.standing(plate.bin)}:
            found.append(f"plate {plate.number} is not found in {plate.bin}")
    return found


def _orders(state: State) -> list[str]:
    found = []
    noted: Counter[str] = Counter()
    for plate in state.plates.values():
        for on_plate in plate.lines:
            noted[f"{on_plate.order}/{on_plate.order_line}"] += on_plate.quantity
    for order in state.ground.orders.values():
        for line in order.lines:
            done = state.line_progress(order.number, line.no)
            name = f"{order.number}/{line.no}"
            if done.noted != noted[name] or min(done.noted, done.arrived, done.booked) < 0:
                found.append(f"{name}: noted {done.noted}, on plates {noted[name]}")
            if done.noted + done.arrived > line.quantity or done.booked > done.arrived:
                found.append(f"{name}: {done} of {line.quantity}")
    return found


def _tasks(state: State) -> list[str]:
    found = []
    for task in state.tasks.values():
        plate = state.plate(task.plate)
        where = (plate.bin, plate.carrier) if plate else None
        should = {
            TaskState.OPEN: (task.from_bin, None),
            TaskState.TAKEN: (None, task.person),
            TaskState.DONE: (task.placed_in, None),
        }[task.state]
        if where != should:
            found.append(f"plate {task.plate} of task {task.number} is in {where}, not {should}")
        claims = bool(task.to_bin and task.number in state.coming(task.to_bin))
        if claims != bool(task.to_bin and task.state is not TaskState.DONE):
            found.append(f"task {task.number} is {task.state} and its claim is {claims}")
    return found


def _bins(state: State) -> list[str]:
    """No command places what the bin type forbids: bins that tasks have filled keep their limits."""
    found = []
    for code in {t.placed_in for t in state.tasks.values() if t.placed_in}:
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
