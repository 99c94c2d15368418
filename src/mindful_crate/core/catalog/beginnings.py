"""What a new product begins with, so that the first site can be laid out at once: ordinary kinds of bins and plates,
and number series. All of it may be changed."""

from __future__ import annotations

from datetime import date

from mindful_crate.core.catalog.goods import Item, Order, OrderKind, OrderLine, Partner, Series
from mindful_crate.core.catalog.ids import (
    BinTypeCode,
    ItemCode,
    OrderNo,
    PartnerCode,
    PlateKindCode,
    SiteCode,
    UnitCode,
)
from mindful_crate.core.catalog.opening import Opening
from mindful_crate.core.catalog.places import BinType, PlateKind, PlateNeed
from mindful_crate.core.problem import Refusal

_CUBIC_METRE = 1_000_000_000
_KILOGRAM = 1_000_000


def first_opening() -> Opening:
    """A ground without sites, items or orders."""
    return Opening(
        "Ground",
        bin_types=(
            BinType(BinTypeCode("LANE"), "Floor lane", PlateNeed.OPTIONAL, True, True, True),
            BinType(BinTypeCode("PLACE"), "Floor place", PlateNeed.REQUIRED, False, True, False, None, 1500 * _KILOGRAM, 1),
            BinType(BinTypeCode("RACK"), "Pallet rack", PlateNeed.REQUIRED, True, True, False, None, 1000 * _KILOGRAM, 1),
            BinType(
                BinTypeCode("SHELF"), "Shelf", PlateNeed.OPTIONAL, True, True, False, _CUBIC_METRE // 2, 200 * _KILOGRAM, 2
            ),
        ),
        plate_kinds=(
            PlateKind(PlateKindCode("PAL"), "Pallet", 1200, 800, 144, 22 * _KILOGRAM),
            PlateKind(PlateKindCode("TOTE"), "Tote", 600, 400, 20, 1_800_000),
        ),
        series=tuple(
            Series(document, prefix, prefix[:-1] + "R-", width, 1)
            for document, prefix, width in (
                ("dialogue", "D-", 1), ("message", "M-", 4), ("plate", "LP-", 6), ("receipt", "RC-", 4),
                ("reservation", "RS-", 4), ("task", "T-", 4),
            )
        ),
    )  # fmt: skip


TEST_LINES = 3
"""A test order has so many lines, as far as there are items."""


def order_to_receive(opening: Opening, site: SiteCode, today: date) -> tuple[Order, tuple[Partner, ...]]:
    """A confirmed purchase order to try receiving with, and a partner for it if there is none: some items that have a
    barcode, a few of their largest unit each. Refused when nothing can be ordered."""
    barred = {(b.item, b.unit) for b in opening.barcodes}
    items = [i for i in opening.items if any((i.code, u.code) in barred for u in i.units)] or list(opening.items)
    if not items:
        raise Refusal("no_items", "There is no item yet: bring some in, or make one, in the catalogue.")
    chosen = items[:: max(1, len(items) // TEST_LINES)][:TEST_LINES]
    vendor = next((p for p in opening.partners if _sells(opening, p)), None)
    partner = vendor or Partner(PartnerCode("TEST-VENDOR"), "Test vendor", "Vendors")
    taken = {o.number for o in opening.orders}
    n = next(n for n in range(1, len(taken) + 2) if f"TEST-{n:03}" not in taken)
    lines = tuple(_line(no, i, barred) for no, i in enumerate(chosen, start=1))
    order = Order(OrderNo(f"TEST-{n:03}"), OrderKind.PURCHASE, site, partner.code, today, lines, True)
    return order, () if vendor else (partner,)


def _sells(opening: Opening, partner: Partner) -> bool:
    return partner.group.lower().startswith("vendor") or any(
        o.partner == partner.code and o.kind is OrderKind.PURCHASE for o in opening.orders
    )


def _line(no: int, item: Item, barred: set[tuple[ItemCode, UnitCode]]) -> OrderLine:
    units = [u for u in item.largest_first() if (item.code, u.code) in barred] or [item.base]
    unit = units[0]
    return OrderLine(no, item.code, unit.code, unit.quantity * (4 if unit.quantity > 1 else 12))
