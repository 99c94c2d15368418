"""What a new product begins with, so that the first site can be laid out at once: ordinary kinds of bins and plates,
and number series. All of it may be changed."""

from __future__ import annotations

from collections.abc import Container, Iterable, Sequence, Set
from dataclasses import replace
from datetime import date
from itertools import count

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


SSCCS = Series("sscc", "09520001", "19520001", 9, 1)
"""Numbers of plates that are announced: extension digit, company prefix (952 is kept for examples by GS1) and a serial
number, 17 digits in all; the check digit comes after."""


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
        series=(
            *(
                Series(document, prefix, prefix[:-1] + "R-", width, 1)
                for document, prefix, width in (
                    ("dialogue", "D-", 1), ("message", "M-", 4), ("plate", "LP-", 6), ("receipt", "RC-", 4),
                    ("reservation", "RS-", 4), ("shipment", "SH-", 4), ("task", "T-", 4),
                    ("wave", "W-", 4),
                )
            ),
            SSCCS,
        ),
    )  # fmt: skip


TEST_LINES = 3
"""A test order has so many lines, as far as there are items."""


def order_to_receive(opening: Opening, site: SiteCode, today: date) -> tuple[Order, tuple[Partner, ...]]:
    """A confirmed purchase order to try receiving with, and a partner for it if there is none. Refused when nothing can
    be ordered."""
    if not opening.items:
        raise Refusal("no_items", "There is no item yet: bring some in, or make one, in the catalogue.")
    suits = partner_to_try(opening.partners, opening.orders, OrderKind.PURCHASE)
    vendor = suits or Partner(PartnerCode("TEST-VENDOR"), "Test vendor", "Vendors")
    coded = {(b.item, b.unit) for b in opening.barcodes}
    order = order_to_try(
        OrderKind.PURCHASE, site, vendor.code, today, opening.items, coded, {o.number for o in opening.orders}
    )
    return replace(order, confirmed=True), () if suits else (vendor,)


def order_to_try(
    kind: OrderKind,
    site: SiteCode,
    partner: PartnerCode,
    today: date,
    items: Sequence[Item],
    coded: Set[tuple[ItemCode, UnitCode]],
    taken: Container[str],
) -> Order:
    """An order to try a flow with: some items that have a barcode (``coded``), a few of their largest unit each, under
    a number that is not ``taken``. A transfer was shipped."""
    scannable = [i for i in items if any((i.code, u.code) in coded for u in i.units)] or list(items)
    chosen = scannable[:: max(1, len(scannable) // TEST_LINES)][:TEST_LINES]
    number = next(n for n in (f"TEST-{n:03}" for n in count(1)) if n not in taken)
    lines = tuple(_line(no, i, coded) for no, i in enumerate(chosen, start=1))
    shipped = kind is OrderKind.TRANSFER
    return Order(OrderNo(number), kind, site, partner, today, lines, shipped=shipped)


def partner_to_try(partners: Iterable[Partner], orders: Iterable[Order], kind: OrderKind) -> Partner | None:
    """Somebody to order from or for: a partner of an order of that kind, else one whose group says that it suits."""
    known = {p.code: p for p in partners}
    had = next((known[o.partner] for o in orders if o.kind is kind and o.partner in known), None)
    vendor = kind in (OrderKind.PURCHASE, OrderKind.VENDOR_RETURN)
    suits = (p for p in known.values() if p.group.lower().startswith("vendor") == vendor)
    return had or next(suits, None)


def _line(no: int, item: Item, coded: Set[tuple[ItemCode, UnitCode]]) -> OrderLine:
    units = [u for u in item.largest_first() if (item.code, u.code) in coded] or [item.base]
    unit = units[0]
    return OrderLine(no, item.code, unit.code, unit.quantity * (4 if unit.quantity > 1 else 12))
