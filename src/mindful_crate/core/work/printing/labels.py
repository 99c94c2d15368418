"""What stands on labels: of plates, items, bins, carts, printers, badges.

GS1 element strings as in the GS1 General Specifications: 00 is a serial shipping container code, 01 a trade item, 02 with 37 the
trade items contained and their count, 10 lot, 17 expiry, 21 serial number.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from datetime import date

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Item, ItemUnit
from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, PlateNo, ShipmentNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.plates import PlateLine
from mindful_crate.core.floor.prints import Elements, Label
from mindful_crate.core.floor.shipments import Leaves
from mindful_crate.core.floor.state import State
from mindful_crate.core.rulebook.words.parts import thousandths
from mindful_crate.core.scanning.reading import CONTENT, COUNT, EXPIRY, GTIN, LOT, SERIAL, SSCC, gs1_check_digit

_SHOWN = 4
"""So many kinds of goods are named on the label of a plate."""
_CHARACTERS = re.compile(r"[!\"%&'()*+,\-./0-9:;<=>?A-Z_a-z]{1,20}")
"""What a lot or serial number may be made of in a GS1 code (General Specifications, figure 7.11-1)."""


def plate_label(state: State, number: PlateNo) -> Label:
    """The label of a plate: what is on it now, or is noted so far. On one whose goods are all alike a second code says what they
    are, lot, expiry and how many."""
    plate, ground = state.plate(number), state.ground
    assert plate is not None
    head = _carton_told(state, number)
    kinds: list[Goods | PlateLine] = [*plate.goods] or [*plate.lines]
    lines = [ground.plate_kinds[plate.plate_kind].name if plate.plate_kind in ground.plate_kinds else plate.plate_kind]
    if head:
        lines = head
    lines += [_told(ground, g) for g in kinds[:_SHOWN]]
    if len(kinds) > _SHOWN:
        lines.append(f"and {len(kinds) - _SHOWN} more")
    for inner in state.plates_on(number)[:_SHOWN]:
        lines.append(f"with {inner}")
    alike = {(g.item, g.lot, g.expiry) for g in kinds}
    one = kinds[0] if len(alike) == 1 and not state.plates_on(number) else None
    return Label(
        "plate", number, number, tuple(lines), ((SSCC, number),) if is_sscc(number) else (),
        _content(ground, one, sum(g.quantity for g in kinds)) if one else (),
    )  # fmt: skip


def _carton_told(state: State, number: PlateNo) -> list[str]:
    carton = state.cartons.get(number)
    shipment = state.shipments.get(carton.shipment) if carton else None
    if carton is None or shipment is None:
        return []
    mine = [c.number for c in state.cartons.of(carton.shipment)]
    kind = state.ground.plate_kinds.get(state.plates.kind_of(number))
    booked = state.carriages.get(carton.shipment)
    code = dict(booked.trackings).get(number, "") if booked and not booked.refused else ""
    return carton_told(
        state.ground, shipment.leaves, shipment.orders, (mine.index(number) + 1, len(mine)), kind.name if kind else "carton", carton.weight_mg or 0, code
    )  # fmt: skip


def carton_told(
    ground: Ground, leaves: Leaves, orders: Sequence[OrderNo], nth: tuple[int, int], kind: str, weight_mg: int, tracking: str = ""
) -> list[str]:  # fmt: skip
    """Of a carton: whom it is for and where it goes, for which orders, the how-manyeth of how many it is, what it weighs, and its tracking number."""
    partner = ground.partners.get(leaves.partner)
    weight = f", {thousandths(weight_mg // 1000)} kg" if weight_mg else ""
    by = ", ".join(x for x in (leaves.carrier or "", leaves.service, tracking) if x)
    return [
        partner.name if partner else leaves.partner,
        *leaves.address,
        ", ".join(orders[:3]) + (f" and {len(orders) - 3} more" if len(orders) > 3 else ""),
        f"{nth[0]} of {nth[1]}: {kind}{weight}",
        *([by] if by else []),
    ]


MOST_LINES = 30
"""So many lines stand on a packing slip; the list of the shipment as PDF has all."""


def packing_slips(state: State, shipment: ShipmentNo | None, plate: PlateNo) -> list[Label]:
    """A slip for each order that has goods on a plate; or, of a shipment that left, for each of its orders."""
    if shipment is None:
        return []
    much: dict[OrderNo, dict[tuple[int, str], int]] = {}
    left = state.departures.get(shipment)
    if left is not None:
        for parcel in left.parcels:
            mine = much.setdefault(parcel.order, {})
            mine[parcel.line, parcel.goods.item] = mine.get((parcel.line, parcel.goods.item), 0) + parcel.goods.quantity
    for order in state.shipments[shipment].orders if left is None else ():
        for no, numbers in state.reservations.of_order(order).items():
            for part in (p for n in numbers for p in state.reservations[n].parts if p.plate == plate):
                mine = much.setdefault(order, {})
                mine[no, part.goods.item] = mine.get((no, part.goods.item), 0) + part.goods.quantity
    where = f"shipment {shipment}" if left else f"in {plate}"
    return [packing_slip(state.ground, number, lines, where) for number, lines in much.items()]


def packing_slip(ground: Ground, order: OrderNo, lines: dict[tuple[int, str], int], where: str) -> Label:
    """The slip of an order: how much of which item, by line and item."""
    told = [
        f"{ground.items[ItemCode(item)].told(n)} {ground.items[ItemCode(item)].name}"
        for (_, item), n in sorted(lines.items())
    ]
    more = [f"and {len(told) - MOST_LINES} more lines"] if len(told) > MOST_LINES else []
    return Label("paper", order, f"Packing slip {order}", (where, *told[:MOST_LINES], *more))


def content_labels(ground: Ground, kinds: Iterable[Goods | PlateLine], number: PlateNo) -> list[Label]:
    """A label for each kind of goods on a plate: item, lot, expiry and how many, in words and, where the item has a trade number, as GS1 elements 02, 17,
    37 and 10."""
    found: dict[tuple[ItemCode, str, date | None], list[Goods | PlateLine]] = {}
    for goods in kinds:
        found.setdefault((goods.item, goods.lot, goods.expiry), []).append(goods)
    labels = []
    for some in found.values():
        item, much = ground.items[some[0].item], sum(g.quantity for g in some)
        lines = [item.code, item.told(much)]
        lines += [f"lot {some[0].lot}"] if some[0].lot else []
        lines += [f"expires {some[0].expiry.isoformat()}"] if some[0].expiry else []
        label = Label("content", item.code, item.name, (*lines, f"in {number}"), _content(ground, some[0], much))
        labels.append(label)
    return labels


def called(labels: Sequence[Label], count: int) -> str:
    """What was sent together, in words: a paper by its name, labels by how many there are."""
    if labels[0].pages:
        times = f", {count} times" if count > 1 else ""
        return f"{labels[0].title.lower()} `{labels[0].code}`{times}"
    return f"label of `{labels[0].code}`" if count == 1 else f"{count} labels"


def number_label(number: str, kind: str) -> Label:
    """The label of a plate to come."""
    return Label("number", number, number, (kind,), ((SSCC, number),) if is_sscc(number) else ())


def is_sscc(number: str) -> bool:
    """Is it a serial shipping container code with a right check digit?"""
    return len(number) == 18 and number.isdecimal() and gs1_check_digit(number[:-1]) == int(number[-1])


def item_label(
    ground: Ground, item: Item, unit: ItemUnit, goods: Goods | PlateLine | None = None, serial: str = ""
) -> Label:
    """The label of one unit of an item, with what is known of its lot, expiry and number. An item without a trade number is
    known by its code."""
    lines = [item.code, item.told_in(1, unit)]
    gtin = _gtin(ground, item.code, unit)
    elements = [(GTIN, gtin)] if gtin else []
    if goods and goods.expiry:
        lines.append(f"expires {goods.expiry.isoformat()}")
        elements += [(EXPIRY, goods.expiry.strftime("%y%m%d"))] if gtin else []
    if goods and goods.lot:
        lines.append(f"lot {goods.lot}")
        elements += [(LOT, goods.lot)] if gtin and _CHARACTERS.fullmatch(goods.lot) else []
    if serial:
        lines.append(f"number {serial}")
        elements += [(SERIAL, serial)] if gtin and _CHARACTERS.fullmatch(serial) else []
    return Label("item", item.code, item.name, tuple(lines), tuple(elements))


def bin_label(ground: Ground, code: BinCode) -> Label:
    """The label of a bin."""
    each = ground.bins[code]
    zone = ground.zones[each.zone]
    aisle = f", aisle {each.aisle}" if each.aisle else ""
    level = "floor level" if each.level == 0 else f"level {each.level}"
    return Label("bin", code, code, (f"{zone.name}{aisle}", level))


def goods_labels(
    ground: Ground, kinds: Iterable[tuple[Goods | PlateLine, str, tuple[str, ...]]], *, each: bool
) -> list[tuple[Label, int]]:
    """The labels of goods with how many of each: one a kind, or one for ``each`` unit. Every kind comes with its unit and the
    numbers of its pieces; what has numbers has a label a piece."""
    found: list[tuple[Label, int]] = []
    for goods, unit_code, serials in kinds:
        item = ground.items[goods.item]
        unit = next((u for u in item.units if u.code == unit_code), item.base)
        if serials and each:
            found += [(item_label(ground, item, item.base, goods, s), 1) for s in serials]
            continue
        if goods.quantity % unit.quantity:
            unit = item.base
        found.append((item_label(ground, item, unit, goods), goods.quantity // unit.quantity if each else 1))
    return found


def _told(ground: Ground, goods: Goods | PlateLine) -> str:
    item = ground.items[goods.item]
    lot = f", lot {goods.lot}" if goods.lot else ""
    expiry = f", expires {goods.expiry.isoformat()}" if goods.expiry else ""
    return f"{item.told(goods.quantity)} {item.name}{lot}{expiry}"


def _content(ground: Ground, goods: Goods | PlateLine, quantity: int) -> Elements:
    item = ground.items[goods.item]
    for unit in item.largest_first():
        gtin = _gtin(ground, item.code, unit)
        count, rest = divmod(quantity, unit.quantity)
        if gtin and not rest and 0 < count < 10**8:
            break
    else:
        return ()
    found = [(CONTENT, gtin)]
    if goods.expiry:
        found.append((EXPIRY, goods.expiry.strftime("%y%m%d")))
    found.append((COUNT, str(count)))
    if goods.lot and _CHARACTERS.fullmatch(goods.lot):
        found.append((LOT, goods.lot))
    return tuple(found)


def _gtin(ground: Ground, item: ItemCode, unit: ItemUnit) -> str:
    """The trade number of an item's unit, as 14 digits; empty when it has none."""
    codes = (b.code for b in ground.barcodes_of.get(item, ()) if b.unit == unit.code)
    right = (c for c in codes if c.isdecimal() and len(c) in (8, 12, 13, 14) and gs1_check_digit(c[:-1]) == int(c[-1]))
    return next((c.zfill(14) for c in right), "")
