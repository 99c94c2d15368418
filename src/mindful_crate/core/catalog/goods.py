"""What moves: items with their units and barcodes, partners, orders, stock."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date
from decimal import Decimal
from enum import StrEnum

from mindful_crate.core.catalog.ids import (
    BinCode,
    CarrierCode,
    CartCode,
    CartonKindCode,
    ChannelCode,
    ItemCode,
    OrderNo,
    PackStationCode,
    PartnerCode,
    PlateKindCode,
    PlateNo,
    PrinterCode,
    SiteCode,
    TruckNo,
    UnitCode,
    ZoneCode,
)
from mindful_crate.core.record import Word, record


class Tracking(StrEnum):
    """How pieces of an item are told apart."""

    NONE = "none"
    LOT = "lot"
    LOT_EXPIRY = "lot_expiry"
    SERIAL = "serial"
    """Every piece has a number of its own, known from when it is received on."""
    SERIAL_OUT = "serial_out"
    """Every piece has a number, asked for when it leaves; stock knows none before."""


class Status(Word):
    """What may be done with stock."""

    AVAILABLE = "available"
    INSPECT = "inspect"
    QUARANTINE = "quarantine"
    DAMAGED = "damaged"
    EXPIRED = "expired"


class LotOrder(StrEnum):
    """Which goods of an item leave first, whatever the rules prefer."""

    ANY = "any"
    FIFO = "fifo"
    """The earliest arrival among the bins a target looks at."""
    FEFO = "fefo"
    """The earliest expiry, looked for in pick and reserve bins together."""


class OrderKind(StrEnum):
    """Kinds of order the host owns."""

    PURCHASE = "purchase"
    TRANSFER = "transfer"
    """What another site sends here; what is sent there is a ``TRANSFER_OUT``."""
    PRODUCTION = "production"
    CUSTOMER_RETURN = "customer_return"
    SALES = "sales"
    VENDOR_RETURN = "vendor_return"
    TRANSFER_OUT = "transfer_out"


INBOUND = (OrderKind.PURCHASE, OrderKind.TRANSFER, OrderKind.PRODUCTION, OrderKind.CUSTOMER_RETURN)
"""Kinds whose goods come in."""


@record
class ItemUnit:
    """A way to count an item: ``quantity`` base units, with outer size and weight of one such unit."""

    code: UnitCode
    name: str
    plural: str
    quantity: int
    length_mm: int
    width_mm: int
    height_mm: int
    weight_mg: int

    @property
    def volume_mm3(self) -> int:
        """Volume of one unit."""
        return self.length_mm * self.width_mm * self.height_mm


@record
class Item:
    """Something kept. The first unit is the base unit (quantity 1); the others count in it."""

    code: ItemCode
    name: str
    group: str
    units: tuple[ItemUnit, ...]
    tracking: Tracking = Tracking.NONE
    hazard_class: str | None = None
    velocity_class: str | None = None
    """How fast it moves, in the site's own letters."""
    lot_order: LotOrder = LotOrder.ANY
    value: Decimal = Decimal(0)
    """Of one base unit, in the one currency there is."""
    picture: str = ""
    """The name of its picture."""
    cross_docks: bool = False
    """May it go straight from what came to what goes out?"""

    @property
    def lots(self) -> bool:
        """Is it kept by lot?"""
        return self.tracking in (Tracking.LOT, Tracking.LOT_EXPIRY)

    @property
    def numbered(self) -> bool:
        """Is the number of each piece known as long as it is here?"""
        return self.tracking is Tracking.SERIAL

    @property
    def base(self) -> ItemUnit:
        """The unit all quantities are kept in."""
        return self.units[0]

    def unit(self, code: UnitCode) -> ItemUnit:
        """The unit of that code; KeyError if the item has none."""
        for unit in self.units:
            if unit.code == code:
                return unit
        raise KeyError(code)

    def largest_first(self) -> tuple[ItemUnit, ...]:
        """Units by falling quantity, the base unit last."""
        return tuple(sorted(self.units, key=lambda u: -u.quantity))

    def bulk(self, quantity: int) -> tuple[int, int]:
        """Volume (mm3) and weight (mg) of a quantity, counted in as few units as possible."""
        return self.bulks((quantity,))[quantity]

    def bulks(self, quantities: Iterable[int]) -> dict[int, tuple[int, int]]:
        """The same of many quantities."""
        units = [(u.quantity, u.volume_mm3, u.weight_mg) for u in self.largest_first()]
        found = {}
        for quantity in quantities:
            volume, weight, rest = 0, 0, quantity
            for size, each_volume, each_weight in units:
                count, rest = divmod(rest, size)
                volume += count * each_volume
                weight += count * each_weight
            found[quantity] = volume, weight
        return found

    def told(self, quantity: int) -> str:
        """A quantity in words, base units first: ``2,000 m`` or ``150 pieces``."""
        name = self.base.name if quantity == 1 else self.base.plural
        return f"{quantity:,} {name}"

    def told_in(self, count: int, unit: ItemUnit) -> str:
        """So many units in words, with the base quantity when it says more: ``10 coils (2,000 m)``."""
        text = f"{count:,} {unit.name if count == 1 else unit.plural}"
        return text if unit.quantity == 1 else f"{text} ({self.told(count * unit.quantity)})"


@record
class Barcode:
    """A code that means an item *and* a unit, so that scanning a case counts the case."""

    code: str
    item: ItemCode
    unit: UnitCode


@record
class Partner:
    """Somebody we deal with."""

    code: PartnerCode
    name: str
    group: str = ""
    shelf_life_days: int = 0
    """Goods sent to this partner must still keep so many days."""
    address: tuple[str, ...] = ()
    """Where goods go, line by line."""
    terms: str = ""
    """Terms of delivery and payment, as they are agreed."""
    joins: bool = True
    """May several of its orders leave in one shipment?"""
    gate: str = ""
    """The release gate its orders begin with; empty: the one of its group, else of the site."""


@record
class Carrier:
    """Who fetches what goes out; ``collects`` are the times of day they come, like ``16:30``, ``services`` what can be booked."""

    code: CarrierCode
    name: str
    collects: tuple[str, ...] = ()
    services: tuple[str, ...] = ()


@record
class Rate:
    """What a carrier takes for a carton by a service: ``base`` for each, and ``per_kilogram`` for each kilogram begun. ``town`` is the last line of the address it
    goes to; empty: anywhere else. Where ``litres_per_kilogram`` is above zero it weighs at least a kilogram for so many litres. Heavier than ``most_kilograms`` it does
    not go; 0: it may be of any weight."""

    carrier: CarrierCode
    service: str = ""
    town: str = ""
    base: Decimal = Decimal(0)
    per_kilogram: Decimal = Decimal(0)
    litres_per_kilogram: int = 0
    most_kilograms: int = 0


@record
class CartonKind:
    """A kind of carton goods are packed into: its inside, what it weighs empty, and what it may hold."""

    code: CartonKindCode
    name: str
    length_mm: int
    width_mm: int
    height_mm: int
    weight_mg: int = 0
    max_weight_mg: int | None = None


@record
class Cart:
    """A cart of a site, with so many places for totes of a kind."""

    code: CartCode
    site: SiteCode
    name: str
    totes: int
    tote_kind: PlateKindCode


@record
class PackStation:
    """A place where orders are packed: the bin goods come to, whether it has a scale, and the printer beside it."""

    code: PackStationCode
    site: SiteCode
    name: str
    bin: BinCode
    scale: bool = False
    printer: str = ""


@record
class Printer:
    """A printer: the zones whose work prints there, and how large its labels, or its pages, are, in mm."""

    code: PrinterCode
    site: SiteCode
    name: str
    zones: tuple[ZoneCode, ...] = ()
    width_mm: int = 100
    height_mm: int = 150

    @property
    def takes_pages(self) -> bool:
        """Is what it prints on as large as a page of an office, of A4 or of letter size?"""
        return self.width_mm >= LEAST_PAGE[0] and self.height_mm >= LEAST_PAGE[1]


LEAST_PAGE = (210, 279)
"""The width of A4 and the height of letter size, in mm: whatever is as large as both ways holds a page."""


class Direction(StrEnum):
    """Which way a truck takes goods."""

    IN = "in"
    OUT = "out"


@record
class Truck:
    """A vehicle that is expected at a door, with goods that come or for goods that go: on which day, and when, like ``07:30``."""

    number: TruckNo
    site: SiteCode
    direction: Direction
    door: BinCode
    day: date
    time: str
    carrier: CarrierCode | None = None


@record
class Channel:
    """A way orders come: a shop, a web shop, a phone; and the site that serves those of its orders that name none."""

    code: ChannelCode
    name: str
    site: SiteCode | None = None


@record
class OrderLine:
    """One line of an order; ``quantity`` is in base units, ``unit`` is what the order was written in. A lot, or serials, may be fixed
    in advance; ``promised`` is the line's own day, if it has one."""

    no: int
    item: ItemCode
    unit: UnitCode
    quantity: int
    net_price: Decimal = Decimal(0)
    lot: str = ""
    serials: tuple[str, ...] = ()
    promised: date | None = None


PRIORITY = 5
"""Of an order of which nobody says more, from 1 (first) to 9."""


@record
class Order:
    """An order of the host for one site."""

    number: OrderNo
    kind: OrderKind
    site: SiteCode
    partner: PartnerCode
    promised: date
    lines: tuple[OrderLine, ...]
    confirmed: bool = False
    shipped: bool = False
    """Of a transfer order: has the other site shipped it?"""
    ship_to: tuple[str, ...] = ()
    """Where goods go, line by line; empty: to the partner's address."""
    carrier: CarrierCode | None = None
    service: str = ""
    """Of the carrier's, the one that was asked for."""
    ship_by: date | None = None
    """When goods leave at the latest; None: when they are promised."""
    priority: int = PRIORITY
    channel: str = ""
    """Where the order came from: a shop, a web shop, a phone."""
    notice_needed: bool = False
    """Does the partner want to be told before goods come, or come back?"""
    transfer: str = ""
    """Of a transfer: the number it has for both sites. The order of the one goes out, that of the other comes in."""

    @property
    def leaves(self) -> date:
        """The day its goods are to leave."""
        return self.ship_by or self.promised

    def promise(self, line: OrderLine) -> date:
        """The day one of its lines is promised."""
        return line.promised or self.promised

    @property
    def inbound(self) -> bool:
        """Do its goods come in?"""
        return self.kind in INBOUND


@record
class StockRow:
    """A quantity of an item at the opening, in a bin, loose or on a plate that stands there."""

    bin: BinCode
    item: ItemCode
    quantity: int
    lot: str = ""
    expiry: date | None = None
    status: Status = Status.AVAILABLE
    plate: PlateNo | None = None
    arrived: date | None = None


STOCK_KEY = ("bin", "plate", "item", "lot", "status", "arrived", "expiry")
"""The columns that tell rows of stock apart."""


def stock_key(row: StockRow) -> tuple[str, ...]:
    """What tells rows of stock apart: everything but the quantity."""
    return row.bin, row.plate or "", row.item, row.lot, row.status.value, str(row.arrived or ""), str(row.expiry or "")


@record
class SerialRow:
    """One piece at the opening, of an item that is kept by serial numbers: where it lies, and as what."""

    serial: str
    item: ItemCode
    bin: BinCode
    plate: PlateNo | None = None
    lot: str = ""
    status: Status = Status.AVAILABLE
    arrived: date | None = None

    @property
    def stock(self) -> StockRow:
        """The row of stock it is one of, as if it were alone."""
        return StockRow(self.bin, self.item, 1, self.lot, None, self.status, self.plate, self.arrived)


@record
class PlateRow:
    """A license plate at the opening: it stands in a bin, or ``on`` another plate in that bin."""

    number: PlateNo
    plate_kind: PlateKindCode
    bin: BinCode
    on: PlateNo | None = None


@record
class HomeBin:
    """A bin an item is at home in, with the quantities to keep there, in base units; ``most`` 0 is no limit."""

    item: ItemCode
    bin: BinCode
    least: int = 0
    most: int = 0


@record
class Series:
    """How documents of one kind are numbered. Rehearsals draw from a series of their own. ``width`` is the fewest
    digits; after ``last`` there are no more numbers, 0 is no last."""

    document: str
    prefix: str
    rehearsal_prefix: str
    width: int
    next: int
    last: int = 0
