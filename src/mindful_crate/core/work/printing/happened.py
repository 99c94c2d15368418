"""What happened that rules may print something of, and what such a rule is asked about."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Order, OrderKind
from mindful_crate.core.catalog.ids import BinCode, CarrierCode, ItemCode, PlateKindCode, PlateNo, ShipmentNo, TaskNo
from mindful_crate.core.floor.plates import Holder, PlateLine
from mindful_crate.core.floor.standing import stands_in
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named, record
from mindful_crate.core.releasing.onward import Stop, kept_in
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.papers import LabelRule, Prints, When
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.work.leaving.events import ShipmentLeft
from mindful_crate.core.work.leaving.looking import standing
from mindful_crate.core.work.making import Making, NumberDrawn
from mindful_crate.core.work.packing.events import CartonClosed, PlateConfirmed
from mindful_crate.core.work.picking.looking import goods_of
from mindful_crate.core.work.receiving.events import PlateFinished, PlateStarted
from mindful_crate.core.work.tasks.events import MoveDone, TaskHeld, WorkMade


@record
class Thing:
    """What may be printed of: a plate or a load, its goods, where it is; a whole ``shipment``; a ``task``. What leaves on a plate has both."""

    number: str
    plate_kind: PlateKindCode | None
    at: BinCode | None
    lines: tuple[PlateLine, ...] = ()
    shipment: ShipmentNo | None = None
    task: TaskNo | None = None

    @property
    def plate(self) -> PlateNo:
        """Its number, as that of a plate."""
        return PlateNo(self.number)


@record
class LabelFacts:
    """What a rule is asked about: the kind of plate (None: loose, or no plate at all), the groups of the items, kinds of the orders, and, of what leaves, for
    whom and by which carriers."""

    plate_kind: PlateKindCode | None
    groups: tuple[str, ...]
    order_kinds: tuple[OrderKind, ...]
    partner_groups: tuple[str, ...] = ()
    carriers: tuple[CarrierCode, ...] = ()


def is_printed(rule: LabelRule, of: LabelFacts) -> bool:
    """Is a rule for this? Loose goods have no label of a plate."""
    return not (
        (rule.prints is Prints.PLATE and of.plate_kind is None)
        or (rule.plate_kinds and of.plate_kind not in rule.plate_kinds)
        or (rule.groups and not set(of.groups) & set(rule.groups))
        or (rule.partner_groups and not set(of.partner_groups) & set(rule.partner_groups))
        or (rule.carriers and not set(of.carriers) & set(rule.carriers))
        or (rule.order_kinds and not set(of.order_kinds) & set(rule.order_kinds))
    )


def happened(state: State, rulebook: Rulebook, making: Making) -> Iterator[tuple[When, Thing]]:
    """What of an entry a rule may print something of, in the order in which it happened; what is so of whole shipments at the end."""
    events = tuple(making.events)
    made = any(isinstance(e, NumberDrawn) and e.series in ("plate", "sscc") for e in events)
    for event in events:
        yield from _of_one(state, rulebook, event, made)
    for number in dict.fromkeys(_let_go(state, events)):
        yield When.LET_GO, _task(state, number)
    if rulebook.labels_for(state.settings.site, When.PACKED):  # looked at only where somebody asks
        for shipment in dict.fromkeys(_packed_on(state, events)):
            if _is_packed(state, rulebook, shipment):
                yield When.PACKED, whole(state, rulebook, shipment)
    for stop, number_ in making.whole:
        yield PAST[stop], whole(state, rulebook, ShipmentNo(number_))


PAST: dict[str, When] = {Stop.STAGE: When.STAGED, Stop.LOAD: When.LOADED}
"""What it is called when all of a shipment is past a station."""


def _of_one(state: State, rulebook: Rulebook, event: Named, made: bool) -> Iterator[tuple[When, Thing]]:
    if isinstance(event, PlateStarted) and made:
        yield When.BEGUN, Thing(event.plate, event.plate_kind, event.bin)
    elif isinstance(event, PlateFinished):
        receipt = state.receipts[event.receipt]
        kind = None if receipt.loose else state.plates.kind_of(event.plate)
        plate = state.plate(event.plate)
        yield When.FINISHED, Thing(event.plate, kind, plate.stands if plate else None, receipt.lines)
    elif isinstance(event, MoveDone) and event.plate is not None:
        when = When.PLACED if event.target.holder is Holder.BIN else When.TAKEN
        yield when, Thing(event.plate, state.plates.kind_of(event.plate), event.at)
    elif isinstance(event, CartonClosed):
        carton = state.cartons[event.carton]
        yield When.CLOSED, Thing(event.carton, event.plate_kind, carton.at, shipment=carton.shipment)
    elif isinstance(event, PlateConfirmed):
        yield When.CLOSED, Thing(event.plate, state.plates.kind_of(event.plate), event.at, shipment=event.shipment)
    elif isinstance(event, ShipmentLeft):
        yield When.LEFT, whole(state, rulebook, event.shipment)


def _let_go(state: State, events: Iterable[Named]) -> Iterator[TaskNo]:
    """Pick tasks that may be fetched from now on."""
    for event in events:
        if isinstance(event, WorkMade | TaskHeld) and state.tasks.get(event.task) is not None:
            task = state.tasks[event.task]
            if task.need is Need.PICK and not task.held and task.state is TaskState.OPEN:
                yield event.task


def _task(state: State, number: TaskNo) -> Thing:
    task = state.tasks[number]
    first = next((m.at for m in task.going.remaining if m.at is not None), None)
    return Thing(number, None, task.to_bin or first, task=number)


def _packed_on(state: State, events: Iterable[Named]) -> Iterator[ShipmentNo]:
    """Shipments of which the last was packed just now, perhaps."""
    for event in events:
        if isinstance(event, CartonClosed):
            yield state.cartons[event.carton].shipment
        elif isinstance(event, PlateConfirmed):
            yield event.shipment


def _is_packed(state: State, rulebook: Rulebook, shipment: ShipmentNo) -> bool:
    """Is all of a shipment packed, with nothing still to be picked?"""
    now = standing(state, rulebook, shipment)
    step = next((s for s in now.steps if s.stop is Stop.PACK), None)
    return step is not None and step.whole and now.parts > 0 and not now.tasks


def whole(state: State, rulebook: Rulebook, shipment: ShipmentNo) -> Thing:
    """A shipment, and where something of it is; refused when there is none."""
    known = state.shipments.get(shipment)
    if known is None:
        raise Refusal("unknown_shipment", f"There is no shipment `{shipment}`.", "shipment")
    if known.left:
        parcels = state.departures[shipment].parcels
        return Thing(shipment, None, parcels[0].bin if parcels else None, shipment=shipment)
    first = next((stands_in(state, k.part) for k in kept_in(state, rulebook, shipment) if k.part.task is None), None)
    return Thing(shipment, None, first, shipment=shipment)


def facts_of(state: State, rulebook: Rulebook, thing: Thing) -> LabelFacts:
    """What a rule is asked about a thing."""
    orders = list(_orders(state, thing))
    partners = {o.partner for o in orders} if thing.task else set()
    carriers = {o.carrier for o in orders if o.carrier} if thing.task else set()
    shipment = state.shipments.get(thing.shipment) if thing.shipment else None
    if shipment is not None:
        partners, carriers = {shipment.leaves.partner}, {c for c in (shipment.leaves.carrier,) if c}
    known = [state.ground.partners[p].group for p in sorted(partners) if p in state.ground.partners]
    return LabelFacts(
        thing.plate_kind, tuple(dict.fromkeys(state.ground.items[i].group for i in _items(state, rulebook, thing))),
        tuple(dict.fromkeys(o.kind for o in orders)), tuple(dict.fromkeys(known)), tuple(sorted(carriers)),
    )  # fmt: skip


def _items(state: State, rulebook: Rulebook, thing: Thing) -> Iterator[ItemCode]:
    if thing.task is not None:
        yield from (g.item for m in state.tasks[thing.task].going.remaining for g in goods_of(state, m))
        return
    if thing.shipment == thing.number:
        if state.shipments[thing.shipment].left:
            yield from (p.goods.item for p in state.departures[thing.shipment].parcels)
        else:
            yield from (k.part.goods.item for k in kept_in(state, rulebook, thing.shipment))
        return
    plate = state.plate(thing.plate)
    goods: list[Goods | PlateLine] = [*thing.lines, *(plate.goods if plate else ()), *(plate.lines if plate else ())]
    yield from (g.item for g in goods)


def _orders(state: State, thing: Thing) -> Iterator[Order]:
    if thing.task is not None:
        numbers = state.tasks[thing.task].plan.orders
    elif thing.shipment is not None:
        numbers = state.shipments[thing.shipment].orders
    else:
        plate = state.plate(thing.plate)
        receipt = state.receipts.get(plate.receipt) if plate and plate.receipt else None
        lines = thing.lines or (receipt.lines if receipt else plate.lines if plate else ())
        numbers = tuple(dict.fromkeys(x.order for x in lines))
    yield from (o for n in numbers if (o := state.order(n)) is not None)
