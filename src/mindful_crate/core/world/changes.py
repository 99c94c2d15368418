"""What a world has changed since its opening."""

from __future__ import annotations

from collections import Counter

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, CrewId, ItemCode, PersonId, PlateNo, TaskNo
from mindful_crate.core.floor.plates import Holder
from mindful_crate.core.floor.receipts import Receipt
from mindful_crate.core.floor.reservations import Reservation
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import record
from mindful_crate.core.work.receiving.checks import known_order
from mindful_crate.core.work.tasks.words import task_told


@record
class StockChange:
    """A quantity of an item that is another than at the opening; ``bin`` is empty while somebody carries it."""

    bin: str
    plate: str
    item: ItemCode
    name: str
    lot: str
    status: Status
    before: str
    now: str
    quantity: int
    """How much there is now, in base units."""
    serials: tuple[str, ...]
    """The numbers of pieces that came or moved here, where the item is kept by them."""


@record
class BuildingPlate:
    """A plate being built: not stock yet."""

    plate: PlateNo
    by: str
    content: str


@record
class LineDone:
    """An order line that is not where it began."""

    order: str
    line: int
    name: str
    far: str
    """How far it is, in words."""


@record
class TaskNow:
    """A task as it stands, in words, and what the office may change about it."""

    number: TaskNo
    says: str
    from_bin: BinCode
    held: str
    priority: int
    crew: CrewId | None
    whose: PersonId | None = None


@record
class Changes:
    """Everything that is otherwise than at the opening."""

    stock: tuple[StockChange, ...]
    building: tuple[BuildingPlate, ...]
    lines: tuple[LineDone, ...]
    tasks: tuple[TaskNow, ...]
    receipts: tuple[Receipt, ...]
    reservations: tuple[Reservation, ...]
    confirmed: tuple[str, ...]
    blocked: tuple[str, ...]
    waiting: tuple[str, ...]
    """Messages the host has not answered."""


MOST_SETTLED = 400
"""Of tasks and receipts that are settled the last so many are told."""
Key = tuple[str, str, ItemCode, str, Status]


def changes(state: State) -> Changes:
    """What differs from the opening."""
    ground = state.ground
    return Changes(
        _stock(state),
        tuple(
            BuildingPlate(p.number, p.by or "", ", ".join(f"{ground.items[x.item].told(x.quantity)} {ground.items[x.item].name}" for x in p.lines))
            for p in state.building()
        ),
        _lines(state),
        tuple(
            TaskNow(t.number, task_told(state, t), t.from_bin, t.held, t.priority, t.crew, t.whose)
            for t in state.tasks.every(MOST_SETTLED)
        ),
        tuple(state.receipts.every(MOST_SETTLED)),
        tuple(state.reservations.values()),
        tuple(state.confirmed),
        tuple(sorted(b for b, why in state.blocks.items() if why)),
        tuple(f"{m.topic.replace('_', ' ')} {m.subject}" for m in state.waiting()),
    )  # fmt: skip


def _stock(state: State) -> tuple[StockChange, ...]:
    before: Counter[Key] = Counter()
    now: Counter[Key] = Counter()
    table = state.ground.stock
    for plate in state.plates.values():
        row = state.ground.plates.get(plate.number)
        for stock in (table[n] for n in table.rows_of_bin(row.bin)) if row else ():
            if stock.plate == plate.number:
                before[stock.bin, plate.number, stock.item, stock.lot, stock.status] += stock.quantity
        for goods in plate.goods:
            now[state.bin_of(plate.number) or "", plate.number, goods.item, goods.lot, goods.status] += goods.quantity
    for code, loose in state.loose_now.items():
        for stock in (table[n] for n in table.rows_of_bin(code)):
            if not stock.plate:
                before[code, "", stock.item, stock.lot, stock.status] += stock.quantity
        for goods in loose:
            now[code, "", goods.item, goods.lot, goods.status] += goods.quantity
    for task in state.tasks.values():
        for goods in task.going.hands:
            now["", "", goods.item, goods.lot, goods.status] += goods.quantity
    items = state.ground.items
    came: dict[Key, list[str]] = {}
    for (item, serial), lies in state.serials.moved.items():
        if (spot := lies.spot) is not None:
            plate_ = spot.code if spot.holder is Holder.PLATE else ""
            bin_ = state.bin_of(PlateNo(plate_)) or "" if plate_ else spot.code if spot.holder is Holder.BIN else ""
            came.setdefault((bin_, plate_, item, lies.goods.lot, lies.goods.status), []).append(serial)
    return tuple(
        StockChange(
            *k[:3],
            items[k[2]].name,
            k[3],
            k[4],
            items[k[2]].told(before[k]),
            items[k[2]].told(now[k]),
            now[k],
            tuple(came.get(k, ())),
        )
        for k in sorted({*before, *now})
        if before[k] != now[k]
    )


def _lines(state: State) -> tuple[LineDone, ...]:
    found = []
    for key, done in state.progress.items():
        order = known_order(state, key.order)
        line = next(x for x in order.lines if x.no == key.line)
        item = state.ground.items[line.item]
        if order.inbound:
            far = f"arrived {item.told(done.arrived)}, booked {item.told(done.booked)} of {item.told(line.quantity)}"
            far += f"; {item.told(done.noted)} on a plate being built" if done.noted else ""
        else:
            far = f"{item.told(done.shipped)} of {item.told(line.quantity)} have left"
        far += f"; {item.told(done.closed)} not waited for any more" if done.closed else ""
        found.append(LineDone(key.order, line.no, item.name, far))
    return tuple(found)
