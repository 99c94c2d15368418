"""Advance notices: license plates that are on their way, and what is on them, told before they arrive."""

from __future__ import annotations

from datetime import date

from mindful_crate.core.catalog.ids import ItemCode, NoticeNo, OrderNo, PlateKindCode, PlateNo, UnitCode
from mindful_crate.core.record import record


@record
class NoticeLine:
    """Goods of an order line on an announced plate; ``quantity`` is in base units."""

    order_line: int
    item: ItemCode
    unit: UnitCode
    quantity: int
    lot: str = ""
    expiry: date | None = None
    serials: tuple[str, ...] = ()
    """The number of each piece, where they are told."""


@record
class NoticePlate:
    """A plate that is announced, by the SSCC on its label."""

    number: PlateNo
    plate_kind: PlateKindCode
    lines: tuple[NoticeLine, ...]


@record
class Notice:
    """What comes of an order, plate by plate."""

    number: NoticeNo
    order: OrderNo
    plates: tuple[NoticePlate, ...]
