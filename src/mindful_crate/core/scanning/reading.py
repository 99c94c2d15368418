"""Read one scan: what it is, given what is expected here.

The edge has already split GS1 element strings; here they get their meaning, two-digit years their century.
"""

from __future__ import annotations

import calendar
import re
from datetime import date
from decimal import Decimal, InvalidOperation
from enum import StrEnum
from typing import Protocol

from mindful_crate.core.catalog.checking import MAX_SERIAL
from mindful_crate.core.catalog.goods import Barcode
from mindful_crate.core.catalog.ids import CountNo, ItemCode, OrderNo, PlateNo, ShipmentNo, TaskNo, UnitCode, WaveNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record


class How(StrEnum):
    """How a text came in."""

    SCANNED = "scanned"
    TYPED = "typed"
    TAPPED = "tapped"


@record
class Scan:
    """A text from the handset. ``elements`` are its GS1 application identifiers and values, if it has any."""

    text: str
    how: How = How.SCANNED
    elements: tuple[tuple[str, str], ...] = ()


class Read(StrEnum):
    """What a scan was read as."""

    ITEM = "item"
    BIN = "bin"
    PLATE = "plate"
    LABEL = "label"
    """A plate label that no plate uses yet."""
    ORDER = "order"
    TASK = "task"
    WAVE = "wave"
    PRINTER = "printer"
    SHIPMENT = "shipment"
    COUNT = "count"
    """A sheet of what is to be counted."""
    TRUCK = "truck"
    NUMBER = "number"
    DAY = "day"
    LOT = "lot"
    SERIAL = "serial"
    UNKNOWN = "unknown"


@record
class Reading:
    """One scan, read. ``code`` is what it names; the other fields are filled as far as the scan says."""

    kind: Read
    code: str
    how: How = How.SCANNED
    item: ItemCode | None = None
    unit: UnitCode | None = None
    lot: str | None = None
    expiry: date | None = None
    count: Decimal | None = None
    serial: str | None = None
    order: OrderNo | None = None
    """The order that a supplier's label names beside its item."""

    @property
    def says_unit(self) -> bool:
        """Does the code say the unit as well? The item's own code does not."""
        return self.item is not None and self.code.upper() != self.item


class Known(Protocol):
    """What reading needs to know of a world."""

    @property
    def ground(self) -> Ground:
        """The catalogue."""
        ...

    def has_plate(self, number: PlateNo) -> bool:
        """Is there a plate of that number?"""
        ...

    def order(self, number: OrderNo) -> object | None:
        """The order of that number, if there is one."""
        ...

    def has_task(self, number: TaskNo) -> bool:
        """Is there a task of that number?"""
        ...

    def has_wave(self, number: WaveNo) -> bool:
        """Is there a wave of that number?"""
        ...

    def has_count(self, number: CountNo) -> bool:
        """Is there a sheet of that number to be counted?"""
        ...

    def has_shipment(self, number: ShipmentNo) -> bool:
        """Is there a shipment of that number?"""
        ...


GTIN, CONTENT, LOT, BEST_BEFORE, EXPIRY, COUNT_VARIABLE, COUNT, SSCC = "01", "02", "10", "15", "17", "30", "37", "00"
SERIAL = "21"
OUR_ORDER = "400"
"""The customer's purchase order number: to who reads it here, that is our own order."""
MAX_TEXT = 120
MAX_LOT = 20
"""GS1 General Specifications: application identifier 10 holds at most 20 characters."""


def read(scan: Scan, expected: Read | None, known: Known, today: date) -> Reading:
    """What a scan is. Codes of things that exist come first; free text only where it is expected."""
    text = scan.text.strip()
    if not text:
        raise Refusal("empty_scan", "Nothing was read. Scan again, or type the code.")
    if len(text) > MAX_TEXT:
        raise Refusal("scan_too_long", f"That code has {len(text)} characters; no code here is longer than {MAX_TEXT}.")
    if scan.elements:
        found = _elements(scan, known, today)
        if found:
            return found
    if expected is Read.NUMBER and (number := _number(text, scan.how, known)) is not None:
        return Reading(Read.NUMBER, text, scan.how, count=number)
    if expected is Read.DAY and (day := parse_day(text, today)):
        return Reading(Read.DAY, text, scan.how, expiry=day)
    named = _named(text, scan.how, known)
    if named:
        return named
    if expected is Read.SERIAL and len(text) <= MAX_SERIAL and text.isprintable():
        return Reading(Read.SERIAL, text, scan.how, serial=text)
    if expected is Read.LOT and len(text) <= MAX_LOT and text.isprintable():
        return Reading(Read.LOT, text, scan.how, lot=text)
    return Reading(Read.UNKNOWN, text, scan.how)


def _named(text: str, how: How, known: Known) -> Reading | None:
    """A thing that exists under this code, or a plate label that may be used."""
    ground = known.ground
    code = text.upper()
    barcode = _barcode(text, ground)
    if barcode:
        return Reading(Read.ITEM, text, how, barcode.item, barcode.unit)
    item = ground.items.get(ItemCode(code))
    if item:
        return Reading(Read.ITEM, text, how, item.code, item.base.code)
    if code in ground.bins:
        return Reading(Read.BIN, code, how)
    if known.has_plate(PlateNo(code)):
        return Reading(Read.PLATE, code, how)
    if known.order(OrderNo(code)):
        return Reading(Read.ORDER, code, how)
    if known.has_task(TaskNo(code)):
        return Reading(Read.TASK, code, how)
    if known.has_wave(WaveNo(code)):
        return Reading(Read.WAVE, code, how)
    if known.has_shipment(ShipmentNo(code)):
        return Reading(Read.SHIPMENT, code, how)
    if known.has_count(CountNo(code)):
        return Reading(Read.COUNT, code, how)
    if code in ground.trucks:
        return Reading(Read.TRUCK, code, how)
    if code in ground.printers:
        return Reading(Read.PRINTER, code, how)
    return Reading(Read.LABEL, code, how) if is_plate_label(code, ground) else None


def _barcode(text: str, ground: Ground) -> Barcode | None:
    by_gtin: dict[str, Barcode] | None = ground.remembered.get("barcodes by gtin")
    if by_gtin is None:
        by_gtin = {b.code.zfill(14): b for b in ground.barcodes.values() if b.code.isdigit()}
        ground.remembered["barcodes by gtin"] = by_gtin
    found = ground.barcodes.get(text)
    if found is None and text.isdigit() and len(text) in (8, 12, 13, 14):
        found = by_gtin.get(text.zfill(14))
    return found


def _elements(scan: Scan, known: Known, today: date) -> Reading | None:
    values = dict(scan.elements)
    if SSCC in values:
        code = values[SSCC]
        kind = Read.PLATE if known.has_plate(PlateNo(code)) else Read.LABEL
        return Reading(kind, code, scan.how)
    gtin = values.get(GTIN) or values.get(CONTENT)
    order = OrderNo(values[OUR_ORDER].upper()) if OUR_ORDER in values else None
    if gtin is None:
        return Reading(Read.ORDER, order, scan.how) if order and known.order(order) else None
    barcode = _barcode(gtin, known.ground)
    if barcode is None:
        return Reading(Read.UNKNOWN, gtin, scan.how)
    count = values.get(COUNT) or values.get(COUNT_VARIABLE)
    expiry = values.get(EXPIRY) or values.get(BEST_BEFORE)
    return Reading(
        Read.ITEM,
        gtin,
        scan.how,
        barcode.item,
        barcode.unit,
        values.get(LOT),
        gs1_day(expiry, today) if expiry else None,
        Decimal(count) if count else None,
        values.get(SERIAL),
        order,
    )


def gs1_day(yymmdd: str, today: date) -> date:
    """The day of a GS1 date element.

    GS1 General Specifications, 7.12: a year 51 or more ahead of the current two-digit year is of the last
    century, one 50 or more behind is of the next; day 00 is the last day of the month.
    """
    if not re.fullmatch(r"\d{6}", yymmdd):
        raise Refusal("bad_date", f"The date in that code, `{yymmdd}`, is not six digits.")
    two, month, day = int(yymmdd[:2]), int(yymmdd[2:4]), int(yymmdd[4:])
    ahead = two - today.year % 100
    century = today.year - today.year % 100 + (-100 if ahead >= 51 else 100 if ahead <= -50 else 0)
    try:
        return date(century + two, month, day or calendar.monthrange(century + two, month)[1])
    except (ValueError, calendar.IllegalMonthError):
        raise Refusal("bad_date", f"The date in that code, `{yymmdd}`, is no day of the calendar.") from None


def parse_day(text: str, today: date) -> date | None:
    """A day written as 2027-03-31, 31.3.2027 or 270331; None if it is written otherwise."""
    if re.fullmatch(r"\d{6}", text):
        return gs1_day(text, today)
    iso = re.fullmatch(r"(\d{4})-(\d{1,2})-(\d{1,2})", text)
    dotted = re.fullmatch(r"(\d{1,2})\.(\d{1,2})\.(\d{4})", text)
    parts = iso.groups() if iso else dotted.groups()[::-1] if dotted else None
    if parts is None:
        return None
    try:
        return date(*map(int, parts))
    except ValueError:
        raise Refusal("bad_date", f"`{text}` is no day of the calendar.") from None


def _number(text: str, how: How, known: Known) -> Decimal | None:
    """A count, if that is what the text is. A scanned barcode is no count, however many digits it has."""
    if how is How.SCANNED and (len(text) > 6 or _barcode(text, known.ground)):
        return None
    if not re.fullmatch(r"[+-]?\d{1,9}([.,]\d{1,6})?", text):
        return None
    try:
        return Decimal(text.replace(",", "."))
    except InvalidOperation:  # pragma: no cover - the pattern admits numbers only
        return None


def is_plate_label(code: str, ground: Ground) -> bool:
    """Is this a number a plate may bear: one of the site's series, or an SSCC with a right check digit?"""
    series = ground.series.get("plate")
    if series and any(
        re.fullmatch(re.escape(prefix) + r"\d{4,}", code) for prefix in (series.prefix, series.rehearsal_prefix)
    ):
        return True
    return is_sscc(code)


def is_sscc(code: str) -> bool:
    """Is this an SSCC, with the check digit it must have?"""
    return len(code) == 18 and code.isascii() and code.isdigit() and gs1_check_digit(code[:-1]) == int(code[-1])


def gs1_check_digit(digits: str) -> int:
    """Check digit of a GS1 key (GS1 General Specifications, 7.9): weights 3 and 1 from the right."""
    total = sum(int(d) * (3 if n % 2 == 0 else 1) for n, d in enumerate(reversed(digits)))
    return -total % 10


NAMED = {
    Read.ITEM: "item",
    Read.BIN: "bin",
    Read.PLATE: "license plate",
    Read.LABEL: "an unused plate label",
    Read.ORDER: "order",
    Read.TASK: "task",
    Read.WAVE: "wave",
    Read.PRINTER: "printer",
    Read.SHIPMENT: "shipment",
    Read.COUNT: "sheet",
    Read.TRUCK: "truck",
    Read.NUMBER: "the number",
    Read.DAY: "the date",
    Read.LOT: "a lot",
    Read.SERIAL: "serial number",
}


def told(reading: Reading) -> str:
    """``bin `P-02-1-1``` or ``item `ROPE-12```; what a refusal calls the thing that was scanned."""
    return f"{NAMED[reading.kind]} `{reading.item or reading.code}`"
