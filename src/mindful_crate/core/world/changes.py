"""What a world has changed since its opening, and what its events mean in words."""

from __future__ import annotations

from collections import Counter

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import ItemCode, PlateNo
from mindful_crate.core.floor.receipts import Receipt
from mindful_crate.core.floor.reservations import Reservation
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task, TaskState
from mindful_crate.core.record import record
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.receiving import known_order


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
    ordered: str
    noted: str
    arrived: str
    booked: str


@record
class Changes:
    """Everything that is otherwise than at the opening."""

    stock: tuple[StockChange, ...]
    building: tuple[BuildingPlate, ...]
    lines: tuple[LineDone, ...]
    tasks: tuple[Task, ...]
    receipts: tuple[Receipt, ...]
    reservations: tuple[Reservation, ...]
    confirmed: tuple[str, ...]
    blocked: tuple[str, ...]
    waiting: tuple[str, ...]
    """Messages the host has not answered."""


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
        tuple(state.tasks.values()),
        tuple(state.receipts.values()),
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
        for goods in task.goods if task.state is TaskState.TAKEN else ():
            now["", "", goods.item, goods.lot, goods.status] += goods.quantity
    items = state.ground.items
    return tuple(
        StockChange(*k[:3], items[k[2]].name, k[3], k[4], items[k[2]].told(before[k]), items[k[2]].told(now[k]), now[k])
        for k in sorted({*before, *now})
        if before[k] != now[k]
    )


def _lines(state: State) -> tuple[LineDone, ...]:
    found = []
    for key, done in state.progress.items():
        order = known_order(state, key.order)
        line = next(x for x in order.lines if x.no == key.line)
        item = state.ground.items[line.item]
        told = (item.told(n) for n in (line.quantity, done.noted, done.arrived, done.booked))
        found.append(LineDone(key.order, line.no, item.name, *told))
    return tuple(found)


def event_told(event: ev.Event) -> str:
    """An event in a few words, for the log; empty for those that only keep the books."""
    match event:
        case ev.Scanned():
            return f"read `{event.text}` as {event.read_as}"
        case ev.PlateStarted():
            return f"plate `{event.plate}` begun in `{event.bin}`"
        case ev.LoadStarted():
            return f"receipt `{event.load}` begun, loose into `{event.into}`"
        case ev.LineNoted():
            return f"`{event.plate}` line {event.line}: {event.quantity} of `{event.item}` for `{event.order}`"
        case ev.LineChanged():
            return (
                f"`{event.plate}` line {event.line} is {event.quantity} now"
                if event.quantity
                else f"`{event.plate}` line {event.line} taken off"
            )
        case ev.PlateFinished():
            return f"plate `{event.plate}` is stock, receipt `{event.receipt}`"
        case ev.TaskMade():
            return (
                f"task `{event.task}`: `{event.from_bin}` to `{event.to_bin}`"
                if event.to_bin
                else f"task `{event.task}` without a bin"
            )
        case ev.TaskTaken():
            return f"@{event.person} took up task `{event.task}`"
        case ev.GoodsPlaced():
            where = f"on `{event.plate}` in `{event.bin}`" if event.plate else f"in `{event.bin}`"
            placed = ", ".join(f"{g.quantity} of `{g.item}`" for g in event.goods)
            return f"{placed} placed {where}" + (f": {event.reason}" if event.reason else "")
        case ev.StockReserved():
            return f"`{event.reservation}` keeps {sum(p.goods.quantity for p in event.parts)} of `{event.item}` for {event.holder}"
        case ev.ReservationCut():
            left = sum(p.goods.quantity for p in event.parts)
            return f"`{event.reservation}` keeps {left} any more" if left else f"`{event.reservation}` has ended"
        case ev.TaskRetargeted():
            return (
                f"task `{event.task}` goes to `{event.to_bin}` now"
                if event.to_bin
                else f"task `{event.task}` has no bin now"
            )
        case ev.PlatePlaced():
            on = f"on `{event.on}` in" if event.on else "in"
            return f"plate `{event.plate}` placed {on} `{event.bin}`" + (f": {event.reason}" if event.reason else "")
        case ev.MessageSent():
            way = "from the host" if event.order or event.notice else "to the host"
            return f"message `{event.message}` {way}, due {event.due:%H:%M:%S} UTC"
        case ev.MessageFailed():
            return f"message `{event.message}` not delivered" + ("" if event.due else ", given up")
        case ev.MessageRefused():
            return f"message `{event.message}` refused: {event.why}"
        case ev.MessageHeardAgain():
            return f"message `{event.message}` came again, to no effect"
        case ev.MessageRepeated():
            return f"message `{event.message}` is sent again"
        case ev.HostOrderWritten():
            return f"`{event.order.number}` written in the host"
        case ev.HostOrderOpened():
            return f"@{event.person} has `{event.order}` open"
        case ev.HostOrderCancelled():
            return f"`{event.order}` cancelled in the host"
        case ev.OrderTold():
            return f"`{event.order.number}` has {len(event.order.lines)} lines on the floor"
        case ev.NoticeTold():
            return f"`{event.notice.number}` announces {len(event.notice.plates)} plates of `{event.notice.order}`"
        case ev.OrderDropped():
            return f"`{event.order}` is cancelled on the floor"
        case ev.OrderConfirmed():
            return f"`{event.order}` reached the floor"
        case ev.ReceiptBooked():
            return f"receipt `{event.receipt}` booked"
        case ev.BinBlocked():
            return f"bin `{event.bin}` " + (f"blocked: {event.reason}" if event.reason else "free")
        case ev.DialogueLeft() if event.taken_over:
            return f"the dialogue moved to handset `{event.taken_over}`"
        case _:
            return ""
