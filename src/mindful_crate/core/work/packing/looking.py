"""What is so while a shipment is packed: what is left, what is in which carton, what it weighs, which carton would do."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from itertools import combinations_with_replacement, groupby, islice
from operator import itemgetter

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import CartonKind, Item
from mindful_crate.core.catalog.ids import (
    BinCode,
    CartonKindCode,
    ItemCode,
    OrderNo,
    PlateNo,
    ReservationNo,
    ShipmentNo,
)
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.cartons import Carton
from mindful_crate.core.floor.plates import Spot, in_bin, on_plate
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.standing import lying_on, purpose_of, stands_in
from mindful_crate.core.floor.state import State
from mindful_crate.core.packing.suggesting import fits_alone, suggest
from mindful_crate.core.packing.things import Suggestion, Thing
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.releasing.onward import Kept, Stop, next_stop, way_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.packing import PackRule, tolerance_mg
from mindful_crate.core.rulebook.shipping import Station
from mindful_crate.core.rulebook.steps import Found
from mindful_crate.core.rulebook.words.parts import thousandths

AT_ONCE = 60
"""Of more things no carton to begin with is proposed: somebody waits for it."""
HEAVIEST_MG = 2_000_000_000
"""No carton weighs more than two tonnes."""
MOST_THINGS = 200
"""Of more things no cartons are proposed: it would take longer than a packer waits."""


def shipment_of(state: State, order: OrderNo) -> ShipmentNo:
    """The shipment an order leaves in; refused when it is not released."""
    release = state.releases.get(order)
    if release is None:
        raise Refusal("not_released", f"`{order}` is not released: nothing of it is packed.")
    return release.shipment


def left(
    state: State, rulebook: Rulebook, shipment: ShipmentNo, item: ItemCode | None = None, first: OrderNo | None = None
) -> Iterator[Kept]:
    """What of a shipment stands at stations and is still to be packed, all of it or of one item, order by order and line by line; the
    order ``first`` comes first."""
    for number in sorted(state.shipments[shipment].orders, key=lambda n: n != first):
        yield from left_of_order(state, rulebook, number, item)


def left_of_order(state: State, rulebook: Rulebook, number: OrderNo, item: ItemCode | None = None) -> Iterator[Kept]:
    """The same of one order. Places it has nothing to pack in are passed by, so that it does not matter how much is packed already."""
    packs = _packs(state, rulebook, number)
    if packs is not None:
        for no, reservation in state.reservations.lying(number, packs, item):
            for part in reservation.parts:
                if packs(part):
                    yield Kept(LineKey(number, no), reservation.number, part, Stop.PACK)


def lines_left(state: State, rulebook: Rulebook, shipment: ShipmentNo) -> Iterator[LineKey]:
    """The lines of which something is left, in order: cheaper than what is left of each."""
    for number in state.shipments[shipment].orders:
        packs = _packs(state, rulebook, number)
        if packs is not None:
            yield from (LineKey(number, no) for no in state.reservations.lines_lying(number, packs))


def left_of_line(state: State, rulebook: Rulebook, line: LineKey) -> list[Kept]:
    """The same of one order line."""
    packs, kept = _packs(state, rulebook, line.order), state.reservations
    if packs is None:
        return []
    return [Kept(line, n, p, Stop.PACK) for n in kept.for_line(line) for p in kept[n].parts if packs(p)]


def _packs(state: State, rulebook: Rulebook, number: OrderNo) -> Callable[[Reserved], bool] | None:
    """Finds out of a part of what is kept for an order whether it is to be packed; the place it lies in decides that."""
    order = state.order(number)
    if order is None:
        return None
    way = way_of(state, rulebook, order)
    return lambda part: part.plate not in state.cartons and next_stop(state, way, number, part) is Stop.PACK


def next_line(
    state: State, rulebook: Rulebook, shipment: ShipmentNo, item: ItemCode, first: OrderNo | None
) -> list[Kept]:
    """What of an item is packed next: what is left of one order line, of the order ``first`` if something of it is."""
    one = next(left(state, rulebook, shipment, item, first), None)
    return left_of_line(state, rulebook, one.line) if one is not None else []


def source_of(part: Reserved) -> Spot:
    """Where it lies: on a plate, or loose in a bin."""
    return on_plate(part.plate) if part.plate else in_bin(part.bin)


def waiting(state: State, rulebook: Rulebook, at: BinCode | None = None) -> Iterator[ShipmentNo]:
    """Shipments of which something is to be packed, or is in an open carton; of those at a station, if one is named."""
    for number in sorted(state.shipments):
        if state.shipments[number].left:
            continue
        here = (k for k in left(state, rulebook, number) if at in (None, stands_in(state, k.part)))
        if state.cartons.open_of(number, at) or any(True for _ in here):
            yield number


def station_for(state: State, rulebook: Rulebook, shipment: ShipmentNo) -> BinCode | None:
    """Where a shipment is packed: where a carton of it is open, or its goods stand at a pack bench, else the place its plan says, else the first bench."""
    opened = state.cartons.open_of(shipment)
    if opened:
        return opened[-1].at
    first = next(left(state, rulebook, shipment), None)
    if first is None:
        return None
    code = stands_in(state, first.part)
    if purpose_of(state, code) is ZonePurpose.PACKING:
        return code
    order = state.order(first.line.order)
    plan = way_of(state, rulebook, order).plan if order else None
    at = plan.step(Station.PACK).at if plan else None
    if at is not None and not isinstance(at, Found):
        return at
    ground, site = state.ground, state.settings.site
    zone = ground.bins_by_zone.get(at.zone, ()) if at is not None and at.zone else ()
    benches = [*zone, *ground.bins_of(ZonePurpose.PACKING, site)]
    return next((b.code for b in benches if state.blocked(b.code) is None), code)


@record
class Inside:
    """So much of an order line in a carton, in base units."""

    line: LineKey
    item: ItemCode
    lot: str
    quantity: int
    goods: tuple[Goods, ...]


def inside(state: State, carton: Carton) -> tuple[Inside, ...]:
    """What is in a carton, by the order lines it is for."""
    found: list[Inside] = []
    for order in state.shipments[carton.shipment].orders:
        for no, kept in groupby(state.reservations.packed_in(order, carton.number), key=_LINE):
            found += _of_line(state, carton, LineKey(order, no), [n for _, n in kept])
    return tuple(found)


def latest_inside(state: State, carton: Carton, most: int) -> tuple[int, tuple[Inside, ...]]:
    """The last of it, at most so many, and how many come before: of a carton with hundreds of lines a packer sees no more with every scan."""
    if any(g.lot for g in state.plates.goods_on(carton.number)):  # a line may come several times
        found = inside(state, carton)
        return max(0, len(found) - most), found[-most:]
    many, last = 0, deque[Inside]()
    for order in reversed(state.shipments[carton.shipment].orders):
        lines = state.reservations.packed_in(order, carton.number)
        many += len({no for no, _ in lines})
        for no, kept in groupby(reversed(lines), key=_LINE):
            if len(last) == most:
                break
            last.extendleft(_of_line(state, carton, LineKey(order, no), [n for _, n in kept][::-1]))
    return many - len(last), tuple(last)


_LINE = itemgetter(0)


def _of_line(state: State, carton: Carton, line: LineKey, kept: Iterable[ReservationNo]) -> list[Inside]:
    """What of an order line is in a carton, lot by lot."""
    parts = [p for n in kept for p in state.reservations[n].parts if p.plate == carton.number]
    if len(parts) == 1:
        goods = parts[0].goods
        return [Inside(line, goods.item, goods.lot, goods.quantity, (goods,))]
    found: dict[str, list[Goods]] = {}
    for part in parts:
        found.setdefault(part.goods.lot, []).append(part.goods)
    return [_inside(line, lot, goods) for lot, goods in found.items()]


def _inside(line: LineKey, lot: str, goods: list[Goods]) -> Inside:
    return Inside(line, goods[0].item, lot, sum(g.quantity for g in goods), tuple(goods))


def by_plate(state: State, shipment: ShipmentNo) -> dict[PlateNo, tuple[Inside, ...]]:
    """What of a shipment is on which plate."""
    found: dict[PlateNo, dict[tuple[LineKey, str], list[Goods]]] = {}
    for order in state.shipments[shipment].orders:
        for no, numbers in state.reservations.lines_of(order):
            for part in (p for n in numbers for p in state.reservations[n].parts if p.plate):
                assert part.plate is not None
                mine = found.setdefault(part.plate, {})
                mine.setdefault((LineKey(order, no), part.goods.lot), []).append(part.goods)
    return {
        plate: tuple(_inside(line, lot, goods) for (line, lot), goods in mine.items()) for plate, mine in found.items()
    }


def kinds_for(state: State, rule: PackRule) -> list[CartonKind]:
    """The cartons that may be used by a rule."""
    kinds = state.ground.opening.carton_kinds
    return [k for k in kinds if not rule.kinds or k.code in rule.kinds]


def things_of(state: State, goods: Iterable[Goods], kinds: Sequence[CartonKind] = ()) -> list[Thing]:
    """Goods as the things they are packed as: the largest units first, each as it is; one that goes into none of these cartons is opened."""
    things: list[Thing] = []
    for each in goods:
        item, rest = state.ground.items[each.item], each.quantity
        for unit in item.largest_first():
            thing = Thing(item.code, unit.length_mm, unit.width_mm, unit.height_mm, unit.weight_mg)
            if (
                unit is not item.base
                and kinds
                and rest >= unit.quantity
                and not any(fits_alone(thing, k) for k in kinds)
            ):
                continue
            count, rest = divmod(rest, unit.quantity)
            things += [thing] * min(count, MOST_THINGS + 1)
    return things


def suggested(
    state: State, goods: Iterable[Goods], kinds: Iterable[CartonKind], most: int = MOST_THINGS
) -> Suggestion | None:
    """Cartons for some goods; None: there are no cartons, or too many things to say."""
    mine = list(kinds)
    things = things_of(state, goods, mine)
    if not mine or not things or len(things) > most:
        return None
    return suggest(things, mine)


def proposed(state: State, rulebook: Rulebook, shipment: ShipmentNo, rule: PackRule) -> CartonKindCode | None:
    """The carton to begin with: the largest of those proposed for what is left; None: nothing is proposed."""
    if not rule.suggests:
        return None
    goods = [k.part.goods for k in islice(left(state, rulebook, shipment), AT_ONCE + 1)]
    found = suggested(state, goods, kinds_for(state, rule), AT_ONCE)
    if found is None or not found.cartons:
        return None
    size = {k.code: k.length_mm * k.width_mm * k.height_mm for k in state.ground.opening.carton_kinds}
    return max((c.kind for c in found.cartons), key=lambda code: (size[code], code))


def weighs(state: State, goods: Iterable[Goods], kind: CartonKindCode | None) -> int:
    """What goods weigh by the catalogue, with their carton, in milligrams."""
    box = state.ground.carton_kinds.get(kind) if kind else None
    return (box.weight_mg if box else 0) + sum(state.ground.items[g.item].bulk(g.quantity)[1] for g in goods)


EXPLAINED = 3
"""So many ways are told in which a difference may have come about."""


def explains(state: State, goods: Iterable[Goods], difference_mg: int, tolerance: int) -> list[str]:
    """What, missing or too much, would make a carton weigh so much more or less: up to three pieces of up to two items that are in it, in any of their units,
    the nearest first."""
    pieces: list[tuple[Item, str, int]] = []
    for code in dict.fromkeys(g.item for g in goods):
        item = state.ground.items[code]
        pieces += [(item, item.told_in(1, unit), unit.weight_mg) for unit in item.units if unit.weight_mg]
    found: list[tuple[int, int, str]] = []
    for count in (1, 2, 3):
        for some in combinations_with_replacement(range(len(pieces)), count):
            weight = sum(pieces[n][2] for n in some)
            if len(set(some)) <= 2 and abs(weight - abs(difference_mg)) <= tolerance:
                names = (
                    f"{some.count(n)} x {pieces[n][1]} of {pieces[n][0].name}" if some.count(n) > 1
                    else f"{pieces[n][1]} of {pieces[n][0].name}"
                    for n in dict.fromkeys(some)
                )  # fmt: skip
                found.append((abs(weight - abs(difference_mg)), count, " and ".join(names)))
        if len(pieces) > 40:
            break
    return [says for _, _, says in sorted(found)[:EXPLAINED]]


def kilos(mg: int) -> str:
    """A weight in kilograms, as it is read."""
    return f"{thousandths(mg // 1000)} kg"


def weight_differs(state: State, rule: PackRule, goods: Sequence[Goods], weight: int, should: int) -> str:
    """What is said of a carton that weighs more or less than its rule lets it, with what could explain it; empty: it weighs as it may."""
    tolerance = tolerance_mg(rule, should)
    if abs(weight - should) <= tolerance:
        return ""
    what, lacks = ("lighter", "missing") if weight < should else ("heavier", "too much")
    why = explains(state, goods, weight - should, tolerance)
    could = f" It could be {' or '.join(why)} {lacks}." if why else ""
    return f"{kilos(weight)} is {kilos(abs(weight - should))} {what} than the list says ({kilos(should)}).{could} Count it again."


def whole_plate(state: State, plate: PlateNo) -> ShipmentNo:
    """The shipment all of whose goods on a plate it bears are; refused when it is none, or not only its."""
    mine: dict[OrderNo, int] = {}
    for lying in lying_on(state, plate):
        of = [(state.reservations[n], much) for n, much in state.reservations_of(lying)]
        if any(r.order is None for r, _ in of) or sum(m for _, m in of) < lying.goods.quantity:
            what = state.ground.items[lying.goods.item].name
            raise Refusal(
                "not_only", f"Not all on `{plate}` is kept for an order: {what} is not. Pack what is.", "plate"
            )
        for reservation, much in of:
            assert reservation.order is not None
            mine[reservation.order] = mine.get(reservation.order, 0) + much
    shipments = {shipment_of(state, o) for o in mine}
    if len(shipments) != 1:
        told = ", ".join(f"`{o}`" for o in sorted(mine)) or "no order"
        raise Refusal(
            "several_orders", f"`{plate}` holds goods of {told}, which do not leave together: pack them apart.", "plate"
        )
    return shipments.pop()
