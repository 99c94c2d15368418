"""What a shipment consists of: its cartons and plates with what is in each, and what is loose; as it is now, or as it left."""

from __future__ import annotations

from collections.abc import Sequence

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, ShipmentNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.plates import on_plate
from mindful_crate.core.floor.shipments import Departure, Parcel
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.releasing.onward import kept_in, top_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.leaving.carriage import trackings
from mindful_crate.core.work.packing.looking import by_plate, kilos


@record
class CartonContent:
    """So much of an order line in a carton."""

    order: OrderNo
    line: int
    item: str
    name: str
    lot: str
    much: str
    serials: tuple[str, ...]
    pieces: int
    """In base units."""
    weight_mg: int
    """By the catalogue."""
    expiry: str


@record
class CartonShown:
    """A carton or plate of a shipment: its kind, weight, where it stands, on what, and what is in it."""

    number: PlateNo
    kind: str
    stands: str
    weight: str
    at: BinCode | None
    on: PlateNo | None
    loaded: bool
    tracking: str
    content: tuple[CartonContent, ...]
    weight_mg: int = 0
    """As it was weighed; 0: it was not."""


@record
class Contents:
    """All of it."""

    cartons: tuple[CartonShown, ...]
    loose: tuple[CartonContent, ...]


def contents(state: State, rulebook: Rulebook, number: ShipmentNo) -> Contents:
    """What a shipment consists of; refused when there is none."""
    shipment = state.shipments.get(number)
    if shipment is None:
        raise Refusal("unknown_shipment", f"There is no shipment `{number}`.", "shipment")
    if shipment.left:
        left = state.departures[number]
        return Contents(_cartons_gone(state, left), _loose_gone(state, left))
    loose = tuple(
        content_of(state.ground.items[k.part.goods.item], k.line, (k.part.goods,))
        for k in kept_in(state, rulebook, number) if k.part.plate is None and k.part.task is None
    )  # fmt: skip
    return Contents(_cartons_here(state, number), loose)


def _cartons_here(state: State, shipment: ShipmentNo) -> tuple[CartonShown, ...]:
    inside = by_plate(state, shipment)
    codes = trackings(state.carriages.get(shipment), state)
    known = {c.number: c for c in state.cartons.of(shipment)}
    found = []
    for number in dict.fromkeys([*known, *sorted(inside)]):
        carton = known.get(number)
        kind = state.ground.plate_kinds.get(state.plates.kind_of(number))
        stands = (
            "open"
            if carton and not carton.closed
            else "leaves as it is"
            if carton and carton.as_is
            else "closed"
            if carton
            else "not packed"
        )
        top = top_of(state, number)
        content = []
        for each in inside.get(number, ()):
            item = state.ground.items[each.item]
            serials = (
                tuple(n for g in each.goods for n in state.serials.at(on_plate(number), g))
                if each.item in state.serials.kept
                else ()
            )
            content.append(content_of(item, each.line, each.goods, serials))
        found.append(
            CartonShown(
                number, kind.name if kind else "", stands, kilos(carton.weight_mg) if carton and carton.weight_mg else "", state.bin_of(number),
                top if top != number else None, number in state.loaded or top in state.loaded, codes.get(number, ""), tuple(content), (carton.weight_mg or 0) if carton else 0,
            )
        )  # fmt: skip
    return tuple(found)


def _cartons_gone(state: State, left: Departure) -> tuple[CartonShown, ...]:
    codes = trackings(state.carriages.get(left.shipment), state)
    return tuple(
        CartonShown(
            b.number, kind.name if (kind := state.ground.plate_kinds.get(b.plate_kind)) else "", "has left",
            kilos(b.carton.weight_mg) if b.carton and b.carton.weight_mg else "", None, b.on, False, codes.get(b.number, ""),
            tuple(_content(state, p) for p in left.parcels if p.plate == b.number), (b.carton.weight_mg or 0) if b.carton else 0,
        )
        for b in left.bearers
    )  # fmt: skip


def _loose_gone(state: State, left: Departure) -> tuple[CartonContent, ...]:
    plates = {b.number for b in left.bearers}
    return tuple(_content(state, p) for p in left.parcels if p.plate not in plates)


def _content(state: State, p: Parcel) -> CartonContent:
    return content_of(state.ground.items[p.goods.item], LineKey(p.order, p.line), (p.goods,), p.serials)


def content_of(item: Item, line: LineKey, goods: Sequence[Goods], serials: tuple[str, ...] = ()) -> CartonContent:
    """Goods of one item and lot, for one order line, as they are shown."""
    much, expires = sum(g.quantity for g in goods), sorted({g.expiry.isoformat() for g in goods if g.expiry})
    return CartonContent(
        line.order, line.line, item.code, item.name, goods[0].lot, item.told(much), serials, much, item.bulk(much)[1], ", ".join(expires),
    )  # fmt: skip
