"""What a log says was done with goods, for machines elsewhere: each as one happening with its step in the trade's words, read entry by entry, so that a
log of any length needs no more memory than a short one."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from datetime import UTC, date, datetime
from enum import StrEnum
from typing import Any, TypeVar

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, CarrierCode, ItemCode, OrderNo, PersonId, PlateNo, TaskNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.cartons import LOOSE
from mindful_crate.core.floor.plates import Holder
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.record import evolve, record
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.work.counting.events import PlateFound, StatusChanged, StockCorrected
from mindful_crate.core.work.inspecting.events import GoodsInspected
from mindful_crate.core.work.leaving.events import (
    GoodsBrought,
    PlateBrought,
    PutOnTruck,
    ShipmentLeft,
    ShipmentReversed,
    TakenOffTruck,
)
from mindful_crate.core.work.packing.events import GoodsPacked, PlateConfirmed
from mindful_crate.core.work.picking.events import ToteStands
from mindful_crate.core.work.receiving.events import LineChanged, LineNoted, PlateFinished, SurplusSentBack
from mindful_crate.core.work.sorting.events import GoodsSorted
from mindful_crate.core.work.tasks.events import MoveDone, TaskCancelled, WorkMade
from mindful_crate.core.work.undoing.events import ReceiptUndone
from mindful_crate.core.work.unloading.events import GoodsUnloaded
from mindful_crate.core.world.events import Done, Entry

REMEMBERED = 20_000
"""So many tasks, plates and shipments are remembered while a log is read: what is said later of one that is older says less of it."""


class Step(StrEnum):
    """What it was for, by the names of the core business vocabulary of EPCIS (CBV 2.0, business steps)."""

    UNLOADING = "unloading"
    RECEIVING = "receiving"
    INSPECTING = "inspecting"
    STORING = "storing"
    PICKING = "picking"
    PACKING = "packing"
    UNPACKING = "unpacking"
    STAGING = "staging_outbound"
    LOADING = "loading"
    SHIPPING = "shipping"
    VOID_SHIPPING = "void_shipping"
    REMOVING = "removing"
    COUNTING = "cycle_counting"


class Does(StrEnum):
    """Came to be here or together, was seen, went away or apart."""

    ADD = "ADD"
    OBSERVE = "OBSERVE"
    DELETE = "DELETE"


@record
class Happening:
    """Goods and plates with which something was done in entry ``seq``, the ``no``-th of it. With ``onto`` they were put on that plate, or taken off;
    ``hands_over``: with the documents they changed hands."""

    seq: int
    no: int
    at: datetime
    step: Step
    does: Does
    place: BinCode | None
    who: PersonId | None
    plates: tuple[PlateNo, ...] = ()
    goods: tuple[Goods, ...] = ()
    serials: tuple[Serials, ...] = ()
    onto: PlateNo | None = None
    about: tuple[Ref, ...] = ()
    hands_over: bool = False
    carrier: CarrierCode | None = None
    fault: Status | None = None


K = TypeVar("K")
V = TypeVar("V")


class _Latest(dict[K, V]):
    """The latest so many that were put in."""

    def __setitem__(self, key: K, value: V) -> None:
        self.pop(key, None)
        super().__setitem__(key, value)
        if len(self) > REMEMBERED:
            del self[next(iter(self))]


@record
class _Work:
    need: Need
    orders: tuple[Ref, ...]


@record
class _Gone:
    plates: tuple[PlateNo, ...]
    goods: tuple[Goods, ...]
    serials: tuple[Serials, ...]
    about: tuple[Ref, ...]
    carrier: CarrierCode | None


class Chronicle:
    """Reads a log from its beginning, entry after entry."""

    def __init__(self) -> None:
        self._work = _Latest[TaskNo, _Work]()
        self._built = _Latest[PlateNo, dict[int, LineNoted]]()
        self._gone = _Latest[str, _Gone]()

    def of(self, entry: Entry) -> list[Happening]:
        """What was done with goods in an entry; the entries before it were read."""
        if not isinstance(entry.outcome, Done):
            return []
        found: list[Happening] = []
        at = entry.command.stamp.at
        for event in entry.outcome.events:
            reads = READS.get(type(event))
            if reads is not None:
                for each in reads(self, event):
                    found.append(evolve(each, seq=entry.seq, no=len(found) + 1, at=at))
        return found

    def _unloaded(self, e: GoodsUnloaded) -> Iterator[Happening]:
        if e.plates:
            yield _made(Step.UNLOADING, Does.OBSERVE, e.at, e.by, plates=e.plates, about=_orders(e.order))

    def _noted(self, e: LineNoted) -> Iterator[Happening]:
        self._built[e.plate] = {**self._built.get(e.plate, {}), e.line: e}
        yield from ()

    def _changed(self, e: LineChanged) -> Iterator[Happening]:
        lines = self._built.get(e.plate, {})
        if e.line in lines:
            self._built[e.plate] = {**lines, e.line: evolve(lines[e.line], quantity=e.quantity)}
        yield from ()

    def _finished(self, e: PlateFinished) -> Iterator[Happening]:
        lines = [x for x in self._built.get(e.plate, {}).values() if x.quantity]
        about = (*_orders(*(x.order for x in lines)), Ref(DocKind.RECEIPT, e.receipt))
        goods = tuple(Goods(x.item, x.quantity, x.lot, x.expiry) for x in lines)
        serials = tuple(Serials(x.item, x.serials) for x in lines if x.serials)
        if not goods:
            return
        yield _made(Step.RECEIVING, Does.ADD, None, e.person, goods=goods, serials=serials, about=about)
        yield _made(Step.RECEIVING, Does.ADD, None, e.person, goods=goods, serials=serials, onto=e.plate, about=about)

    def _inspected(self, e: GoodsInspected) -> Iterator[Happening]:
        good = e.goods.quantity - e.failed
        off = set(e.failing)
        if good:
            numbers = tuple(s for s in e.serials if s not in off)
            yield _made(
                Step.INSPECTING, Does.OBSERVE, e.at, e.by, goods=(evolve(e.goods, quantity=good),),
                serials=_numbers(e.goods.item, numbers), plates=_maybe(e.plate), fault=Status.AVAILABLE,
            )  # fmt: skip
        if e.failed:
            yield _made(
                Step.INSPECTING, Does.OBSERVE, e.at, e.by, goods=(evolve(e.goods, quantity=e.failed),),
                serials=_numbers(e.goods.item, e.failing), plates=_maybe(e.onto or e.plate), fault=e.fault,
            )  # fmt: skip

    def _task(self, e: WorkMade) -> Iterator[Happening]:
        orders = _orders(*(s.line.order for m in e.moves for s in m.serves))
        self._work[e.task] = _Work(e.need, orders)
        yield from ()

    def _cancelled(self, e: TaskCancelled) -> Iterator[Happening]:
        self._work.pop(e.task, None)
        yield from ()

    def _moved(self, e: MoveDone) -> Iterator[Happening]:
        work = self._work.get(e.task)
        picks = work is not None and work.need is Need.PICK
        step, about = Step.PICKING if picks else Step.STORING, work.orders if work else ()
        takes = e.target.holder not in (Holder.BIN, Holder.PLATE)
        if takes:
            if e.goods and e.source.holder is Holder.PLATE:
                plate = PlateNo(e.source.code)
                yield _made(
                    Step.UNPACKING, Does.DELETE, e.at, e.by, goods=e.goods, serials=e.serials, onto=plate, about=about
                )
            if e.goods and picks:
                yield _made(step, Does.OBSERVE, e.at, e.by, goods=e.goods, serials=e.serials, about=about)
            return
        if e.goods and e.target.holder is Holder.PLATE:
            plate = PlateNo(e.target.code)
            yield _made(step, Does.ADD, e.at, e.by, goods=e.goods, serials=e.serials, onto=plate, about=about)
        elif e.goods and not picks:
            yield _made(step, Does.OBSERVE, e.at, e.by, goods=e.goods, serials=e.serials, about=about)
        elif e.plate and not e.goods:
            yield _made(step, Does.OBSERVE, e.at, e.by, plates=(e.plate,), about=about)

    def _tote_stands(self, e: ToteStands) -> Iterator[Happening]:
        work = self._work.get(e.task)
        yield _made(Step.PICKING, Does.OBSERVE, e.bin, e.by, plates=(e.tote,), about=work.orders if work else ())

    def _sorted(self, e: GoodsSorted) -> Iterator[Happening]:
        does = Does.ADD if e.tote else Does.OBSERVE
        yield _made(
            Step.PICKING, does, e.place, e.by, goods=e.goods, serials=e.serials, onto=e.tote, about=_orders(e.order)
        )

    def _packed(self, e: GoodsPacked) -> Iterator[Happening]:
        about = _orders(e.order)
        if e.plate:
            yield _made(
                Step.UNPACKING, Does.DELETE, e.source, e.by, goods=e.goods, serials=e.serials, onto=e.plate, about=about
            )
        if e.carton:
            yield _made(
                Step.PACKING, Does.ADD, e.to, e.by, goods=e.goods, serials=e.serials, onto=e.carton, about=about
            )

    def _confirmed(self, e: PlateConfirmed) -> Iterator[Happening]:
        yield _made(Step.PACKING, Does.OBSERVE, e.at, e.by, plates=(e.plate,), about=_shipment(e.shipment))

    def _brought(self, e: PlateBrought) -> Iterator[Happening]:
        if e.on:
            yield _made(Step.PACKING, Does.ADD, e.bin, e.by, plates=(e.plate,), onto=e.on)
        else:
            yield _made(Step.STAGING, Does.OBSERVE, e.bin, e.by, plates=(e.plate,))

    def _goods_brought(self, e: GoodsBrought) -> Iterator[Happening]:
        yield _made(Step.STAGING, Does.OBSERVE, e.bin, e.by, goods=e.goods, serials=e.serials, about=_orders(e.order))

    def _on_truck(self, e: PutOnTruck) -> Iterator[Happening]:
        if not e.what.startswith(LOOSE):  # loose goods are said when they leave
            yield _made(
                Step.LOADING, Does.OBSERVE, e.door, e.by, plates=(PlateNo(e.what),), about=_shipment(e.shipment)
            )

    def _off_truck(self, e: TakenOffTruck) -> Iterator[Happening]:
        if not e.what.startswith(LOOSE):
            yield _made(Step.UNLOADING, Does.OBSERVE, None, None, plates=(PlateNo(e.what),))

    def _left(self, e: ShipmentLeft) -> Iterator[Happening]:
        plates = tuple(b.number for b in e.bearers if b.on is None)
        loose = [p for p in e.parcels if p.plate is None]
        about = (*_shipment(e.shipment), *_orders(*(p.order for p in e.parcels)))
        gone = _Gone(
            plates, tuple(p.goods for p in loose),
            tuple(Serials(p.goods.item, p.serials) for p in loose if p.serials), about, e.carrier,
        )  # fmt: skip
        self._gone[e.shipment] = gone
        place = next((p.bin for p in e.parcels), None)
        yield _handed(Step.SHIPPING, Does.ADD, place, e.by, gone)

    def _reversed(self, e: ShipmentReversed) -> Iterator[Happening]:
        gone = self._gone.pop(e.shipment, _Gone((), (), (), _shipment(e.shipment), None))
        yield _handed(Step.VOID_SHIPPING, Does.DELETE, None, None, gone)

    def _receipt_undone(self, e: ReceiptUndone) -> Iterator[Happening]:
        about = (Ref(DocKind.RECEIPT, e.receipt),)
        yield _made(Step.REMOVING, Does.DELETE, None, e.by, goods=e.goods, about=about)

    def _sent_back(self, e: SurplusSentBack) -> Iterator[Happening]:
        about = (Ref(DocKind.RECEIPT, e.receipt),)
        yield _made(Step.REMOVING, Does.DELETE, None, e.by, goods=e.goods, about=about)

    def _corrected(self, e: StockCorrected) -> Iterator[Happening]:
        does = Does.OBSERVE if e.source else Does.DELETE if e.lost else Does.ADD
        about = (Ref(DocKind.COUNT, e.count),) if e.count else ()
        yield _made(Step.COUNTING, does, e.bin, e.by, goods=e.goods, serials=e.serials, about=about)

    def _plate_found(self, e: PlateFound) -> Iterator[Happening]:
        yield _made(
            Step.COUNTING,
            Does.OBSERVE,
            e.bin,
            e.by,
            plates=(e.plate,),
            about=(Ref(DocKind.COUNT, e.count),) if e.count else (),
        )

    def _status_changed(self, e: StatusChanged) -> Iterator[Happening]:
        plates = _maybe(PlateNo(e.spot.code) if e.spot.holder is Holder.PLATE else None)
        yield _made(Step.INSPECTING, Does.OBSERVE, e.bin, e.by, goods=e.goods, plates=plates, fault=e.status)


READS: dict[type, Callable[[Chronicle, Any], Iterator[Happening]]] = {
    GoodsUnloaded: Chronicle._unloaded,
    LineNoted: Chronicle._noted,
    LineChanged: Chronicle._changed,
    PlateFinished: Chronicle._finished,
    GoodsInspected: Chronicle._inspected,
    WorkMade: Chronicle._task,
    TaskCancelled: Chronicle._cancelled,
    MoveDone: Chronicle._moved,
    GoodsSorted: Chronicle._sorted,
    ToteStands: Chronicle._tote_stands,
    GoodsPacked: Chronicle._packed,
    PlateConfirmed: Chronicle._confirmed,
    PlateBrought: Chronicle._brought,
    GoodsBrought: Chronicle._goods_brought,
    PutOnTruck: Chronicle._on_truck,
    TakenOffTruck: Chronicle._off_truck,
    ShipmentLeft: Chronicle._left,
    ShipmentReversed: Chronicle._reversed,
    ReceiptUndone: Chronicle._receipt_undone,
    SurplusSentBack: Chronicle._sent_back,
    StockCorrected: Chronicle._corrected,
    PlateFound: Chronicle._plate_found,
    StatusChanged: Chronicle._status_changed,
}
"""How each is read; what is not here does nothing with goods."""
_NEVER = datetime.min.replace(tzinfo=UTC)


def chronicle(log: Iterable[Entry], day: date | None, local: Callable[[datetime], date]) -> Iterator[Happening]:
    """What a log says was done with goods; with ``day``, on that day alone, where ``local`` says which day it was."""
    reader = Chronicle()
    for entry in log:
        for each in reader.of(entry):
            if day is None or local(each.at) == day:
                yield each


def _made(step: Step, does: Does, place: BinCode | None, who: PersonId | None, **more: Any) -> Happening:
    return Happening(0, 0, _NEVER, step, does, place, who, **more)


def _handed(step: Step, does: Does, place: BinCode | None, who: PersonId | None, gone: _Gone) -> Happening:
    return _made(
        step, does, place, who, plates=gone.plates, goods=gone.goods, serials=gone.serials, about=gone.about,
        hands_over=True, carrier=gone.carrier,
    )  # fmt: skip


def _orders(*orders: OrderNo) -> tuple[Ref, ...]:
    return tuple(Ref(DocKind.ORDER, o) for o in dict.fromkeys(orders))


def _shipment(number: str) -> tuple[Ref, ...]:
    return (Ref(DocKind.SHIPMENT, number),)


def _maybe(plate: PlateNo | None) -> tuple[PlateNo, ...]:
    return (plate,) if plate else ()


def _numbers(item: ItemCode, numbers: tuple[str, ...]) -> tuple[Serials, ...]:
    return (Serials(item, numbers),) if numbers else ()
