"""What waits to be sorted, for whom, and where each order's place is."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from mindful_crate.core.catalog.amounts import Goods, all_more
from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, PlateNo
from mindful_crate.core.catalog.places import STORAGE, ZonePurpose
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.standing import at_station, purpose_of
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve, record
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.waves import Method


@record
class ToSort:
    """Goods of one kind that lie loose where they are sorted, kept for an order line; ``kinds``: the same by when they arrived, which nobody sees."""

    line: LineKey
    goods: Goods
    kinds: tuple[Goods, ...]


def _lying(state: State, code: BinCode, item: ItemCode | None = None) -> Iterator[tuple[LineKey, Goods]]:
    """Loose goods in a bin, of an item or of all, that are kept for orders whose wave is fetched together and sorted. None where it is stored, or
    where each order has its place already."""
    if purpose_of(state, code) in (*STORAGE, ZonePurpose.SORT):
        return
    for number in state.reservations.loose_in(code):
        reservation = state.reservations[number]
        line = reservation.serves
        if line is not None and item in (None, reservation.item) and is_sorted(state, line.order):
            for part in reservation.parts:
                if part.bin == code and part.plate is None and part.task is None:
                    yield line, part.goods


def waits_at(state: State, code: BinCode, item: ItemCode | None = None) -> list[ToSort]:
    """What is to be sorted in a bin, of an item or all of it, as it was kept."""
    found: dict[tuple[LineKey, Goods], tuple[Goods, ...]] = {}
    for line, goods in _lying(state, code, item):
        key = line, evolve(goods, quantity=0, arrived=None)
        found[key] = all_more(found.get(key, ()), (goods,))
    return [
        ToSort(line, evolve(seen, quantity=sum(k.quantity for k in kinds)), kinds)
        for (line, seen), kinds in found.items()
    ]


def told(state: State, some: Iterable[ToSort]) -> list[str]:
    """How much of what, and for which order, each in words."""
    items = state.ground.items
    return [
        f"{items[x.goods.item].told(x.goods.quantity)} of {items[x.goods.item].name} for `{x.line.order}`" for x in some
    ]


def lines_at(state: State, code: BinCode, most: int | None = None) -> set[LineKey]:
    """The order lines of which something is to be sorted in a bin, so many of them at most."""
    found: set[LineKey] = set()
    for line, _ in _lying(state, code):
        found.add(line)
        if most is not None and len(found) >= most:
            break
    return found


def is_sorted(state: State, order: OrderNo) -> bool:
    """Is an order in a wave that is fetched together and sorted?"""
    return any(w.method is Method.BATCH and not w.cancelled for w in state.waves.of_order(order))


@record
class Far:
    """How far goods kept for an order line are, in base units: fetched from where they are stored, and of these beside no other order's: not among
    what is still to be sorted."""

    fetched: int = 0
    parted: int = 0
    packed: int = 0
    """In cartons that are closed, or on what leaves as it is."""


def how_far(state: State, order: OrderNo) -> dict[int, Far]:
    """How far each line of an order is; what is fetched is in the hands of who picks it, or stands at a station."""
    found: dict[int, Far] = {}
    mixed = is_sorted(state, order)
    for no, numbers in state.reservations.of_order(order).items():
        for part in (p for n in numbers for p in state.reservations[n].parts):
            hands = part.task is not None and state.tasks[part.task].need is Need.PICK
            if not hands and not at_station(state, part):
                continue
            stands = not hands and (part.plate is not None or purpose_of(state, part.bin) is ZonePurpose.SORT)
            alone = stands or not mixed
            far, more = found.get(no, Far()), part.goods.quantity
            packed = more if part.plate is not None and state.cartons.is_closed(part.plate) else 0
            found[no] = Far(far.fetched + more, far.parted + (more if alone else 0), far.packed + packed)
    return found


def stations(state: State) -> Iterator[BinCode]:
    """Bins in which something is to be sorted."""
    return (code for code in state.reservations.bins_with_loose() if lines_at(state, code, 1))


Place = tuple[BinCode, PlateNo | None]
"""A bin, or a tote in it."""


def place_of(state: State, order: OrderNo, station: BinCode) -> Place | None:
    """Where an order's goods are sorted to, once the first were: its place of the wall, or its tote beside the station."""
    for numbers in state.reservations.of_order(order).values():
        for number in numbers:
            for part in state.reservations[number].parts:
                if part.task is None and part.plate is not None and state.bin_of(part.plate) == station:
                    return station, part.plate
                if part.task is None and part.plate is None and purpose_of(state, part.bin) is ZonePurpose.SORT:
                    return part.bin, None
    return None


def whose(state: State, code: BinCode) -> OrderNo | None:
    """The order whose place of the wall a bin is."""
    orders = (state.reservations[n].order for n in state.reservations.loose_in(code))
    return next((o for o in orders if o is not None), None)


def free_places(state: State) -> Iterator[BinCode]:
    """Places of the wall that are nobody's, in their order."""
    for each in state.ground.bins_of(ZonePurpose.SORT, state.settings.site):
        if whose(state, each.code) is None and state.blocked(each.code) is None and not state.held(each.code).kinds:
            yield each.code


def next_for(state: State, code: BinCode, item: ItemCode) -> ToSort | None:
    """For whom the next piece of an item is: who has a place already, else who was kept first."""
    mine = waits_at(state, code, item)
    return next((x for x in mine if place_of(state, x.line.order, code)), mine[0] if mine else None)
