"""The opening state: catalogue, stock and orders, immutable and content-addressed.

Many worlds start from one opening state. It keeps indexes that are made once and shared; a world keeps
only what it has changed (see ``world.state``).
"""

from __future__ import annotations

import hashlib
import json
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, fields, replace
from functools import cache, cached_property, lru_cache
from typing import Any

from mindful_crate.core.catalog.goods import (
    Barcode,
    Carrier,
    Cart,
    CartonKind,
    Channel,
    HomeBin,
    Item,
    Order,
    PackStation,
    Partner,
    PlateRow,
    Printer,
    Rate,
    Series,
    Truck,
)
from mindful_crate.core.catalog.ids import (
    BinCode,
    BinTypeCode,
    CarrierCode,
    CartonKindCode,
    ItemCode,
    OrderNo,
    PartnerCode,
    PlateKindCode,
    PlateNo,
    PrinterCode,
    SiteCode,
    TruckNo,
    ZoneCode,
)
from mindful_crate.core.catalog.places import (
    Bin,
    BinType,
    PlateKind,
    Site,
    Way,
    Zone,
    ZonePurpose,
)
from mindful_crate.core.catalog.serials import SerialTable
from mindful_crate.core.catalog.stock import StockTable
from mindful_crate.core.plain import canonical
from mindful_crate.core.record import record


class _Same:
    """Rows that are the same only when they are the very same tuple, which is found at once."""

    __slots__ = ("rows",)

    def __init__(self, rows: tuple[Any, ...]) -> None:
        self.rows = rows

    def __hash__(self) -> int:
        return id(self.rows)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and self.rows is other.rows


@cache
def _texts(table: str) -> Callable[[_Same], bytes]:
    """The canonical form of a table's rows, kept for the latest two there were."""
    return lru_cache(maxsize=2)(lambda same: canonical(same.rows))


@record
class Opening:
    """Everything a world starts from, in code order, so that equal content has an equal hash."""

    name: str
    sites: tuple[Site, ...] = ()
    zones: tuple[Zone, ...] = ()
    bin_types: tuple[BinType, ...] = ()
    bins: tuple[Bin, ...] = ()
    plate_kinds: tuple[PlateKind, ...] = ()
    items: tuple[Item, ...] = ()
    barcodes: tuple[Barcode, ...] = ()
    partners: tuple[Partner, ...] = ()
    orders: tuple[Order, ...] = ()
    home_bins: tuple[HomeBin, ...] = ()
    plates: tuple[PlateRow, ...] = ()
    stock: StockTable = field(default_factory=StockTable.of)
    series: tuple[Series, ...] = ()
    carriers: tuple[Carrier, ...] = ()
    rates: tuple[Rate, ...] = ()
    carton_kinds: tuple[CartonKind, ...] = ()
    carts: tuple[Cart, ...] = ()
    ways: tuple[Way, ...] = ()
    pack_stations: tuple[PackStation, ...] = ()
    trucks: tuple[Truck, ...] = ()
    channels: tuple[Channel, ...] = ()
    serials: SerialTable = field(default_factory=SerialTable.of)
    printers: tuple[Printer, ...] = ()

    def catalogue(self) -> bytes:
        """The canonical form of everything but the stock, table by table: of a table that did not change it is known."""
        parts = []
        for name in sorted(f.name for f in fields(self)):
            rows = getattr(self, name)
            if name == "name":
                parts.append(b'"name":' + canonical(rows))
            elif name != "stock" and rows:
                parts.append(f'"{name}":'.encode() + _texts(name)(_Same(rows)))
        return b"{" + b",".join(parts) + b"}"

    @property
    def hash(self) -> str:
        """Content address: the first 32 hex digits of SHA-256 over the catalogue's canonical form and the
        columns of the stock."""
        return self.hash_with(self.catalogue())

    def hash_with(self, catalogue: bytes) -> str:
        """The hash, for whoever has the catalogue's form already."""
        total = hashlib.sha256(catalogue)
        total.update(json.dumps(self.stock.head(), separators=(",", ":"), ensure_ascii=False).encode())
        for piece in self.stock.pieces():
            total.update(piece)
        return total.hexdigest()[:32]


@dataclass(eq=False)
class Ground:
    """An opening state with the look-ups that worlds share."""

    opening: Opening
    hash: str = ""
    remembered: dict[Any, Any] = field(default_factory=dict)
    """Answers that depend on the ground alone, kept by those who work them out."""
    sites: dict[SiteCode, Site] = field(init=False)
    zones: dict[ZoneCode, Zone] = field(init=False)
    bin_types: dict[BinTypeCode, BinType] = field(init=False)
    bins: dict[BinCode, Bin] = field(init=False)
    plate_kinds: dict[PlateKindCode, PlateKind] = field(init=False)
    items: dict[ItemCode, Item] = field(init=False)
    barcodes: dict[str, Barcode] = field(init=False)
    partners: dict[PartnerCode, Partner] = field(init=False)
    orders: dict[OrderNo, Order] = field(init=False)
    series: dict[str, Series] = field(init=False)

    def __post_init__(self) -> None:
        o = self.opening
        self.hash = self.hash or o.hash
        self.sites = {s.code: s for s in o.sites}
        self.zones = {z.code: z for z in o.zones}
        self.bin_types = {t.code: t for t in o.bin_types}
        self.bins = {b.code: b for b in o.bins}
        boxes = ((PlateKindCode(c.code), c) for c in o.carton_kinds)  # a carton is a plate of its own kind
        self.plate_kinds = {k.code: k for k in o.plate_kinds}
        for code, box in boxes:
            self.plate_kinds.setdefault(code, PlateKind(code, box.name, box.length_mm, box.width_mm, 0, box.weight_mg))
        self.items = {i.code: i for i in o.items}
        self.barcodes = {b.code: b for b in o.barcodes}
        self.partners = {p.code: p for p in o.partners}
        self.orders = {r.number: r for r in o.orders}
        self.series = {s.document: s for s in o.series}

    @property
    def stock(self) -> StockTable:
        """The opening stock."""
        return self.opening.stock

    @property
    def serials(self) -> SerialTable:
        """The serial numbers of the opening stock."""
        return self.opening.serials

    @cached_property
    def printers(self) -> dict[PrinterCode, Printer]:
        """The label printers."""
        return {p.code: p for p in self.opening.printers}

    def printers_of(self, site: SiteCode) -> list[Printer]:
        """The label printers of a site."""
        return [p for p in self.opening.printers if p.site == site]

    @cached_property
    def numbered(self) -> frozenset[ItemCode]:
        """Items of which each piece is known by its number."""
        return frozenset(i.code for i in self.opening.items if i.numbered)

    @cached_property
    def services(self) -> dict[CarrierCode, tuple[str, ...]]:
        """The services of each carrier."""
        return {c.code: c.services for c in self.opening.carriers}

    @cached_property
    def carriers(self) -> dict[CarrierCode, Carrier]:
        """Who fetches what goes out."""
        return {c.code: c for c in self.opening.carriers}

    @cached_property
    def carton_kinds(self) -> dict[CartonKindCode, CartonKind]:
        """The kinds of cartons goods are packed into."""
        return {k.code: k for k in self.opening.carton_kinds}

    @cached_property
    def trucks(self) -> dict[TruckNo, Truck]:
        """Vehicles that are expected at a door."""
        return {t.number: t for t in self.opening.trucks}

    @cached_property
    def bins_by_zone(self) -> dict[ZoneCode, tuple[Bin, ...]]:
        """Bins of each zone in code order."""
        found: dict[ZoneCode, list[Bin]] = {z: [] for z in self.zones}
        for each in sorted(self.opening.bins, key=lambda b: b.code):
            found[each.zone].append(each)
        return {zone: tuple(bins) for zone, bins in found.items()}

    @cached_property
    def zones_of_site(self) -> dict[SiteCode, tuple[ZoneCode, ...]]:
        """Zones of each site, in the order of the opening."""
        return {s: tuple(z.code for z in self.opening.zones if z.site == s) for s in self.sites}

    @cached_property
    def plates(self) -> dict[PlateNo, PlateRow]:
        """Plates of the opening stock."""
        return {p.number: p for p in self.opening.plates}

    @cached_property
    def plates_on(self) -> dict[PlateNo, tuple[PlateNo, ...]]:
        """Plates that stand on another plate."""
        found: dict[PlateNo, list[PlateNo]] = {}
        for each in self.opening.plates:
            if each.on:
                found.setdefault(each.on, []).append(each.number)
        return {on: tuple(sorted(numbers)) for on, numbers in found.items()}

    @cached_property
    def plates_in(self) -> dict[BinCode, tuple[PlateNo, ...]]:
        """Plates that stand in a bin itself."""
        found: dict[BinCode, list[PlateNo]] = {}
        for each in self.opening.plates:
            if not each.on:
                found.setdefault(each.bin, []).append(each.number)
        return {code: tuple(sorted(numbers)) for code, numbers in found.items()}

    @cached_property
    def barcodes_of(self) -> dict[ItemCode, tuple[Barcode, ...]]:
        """The barcodes of each item."""
        found: dict[ItemCode, list[Barcode]] = {}
        for each in self.opening.barcodes:
            found.setdefault(each.item, []).append(each)
        return {item: tuple(codes) for item, codes in found.items()}

    @cached_property
    def homes(self) -> dict[ItemCode, dict[BinCode, HomeBin]]:
        """The bins each item is at home in."""
        found: dict[ItemCode, dict[BinCode, HomeBin]] = {}
        for each in self.opening.home_bins:
            found.setdefault(each.item, {})[each.bin] = each
        return found

    @cached_property
    def quantities(self) -> Counter[ItemCode]:
        """How much of each item there is at the opening, in base units."""
        table = self.stock
        found = [0] * len(table.items)
        for item, quantity in zip(table.item, table.quantity, strict=True):
            found[item] += quantity
        return Counter({ItemCode(code): n for code, n in zip(table.items, found, strict=True) if n})

    def at(self, site: SiteCode) -> Ground:
        """The ground as a floor of a site has it: with the stock, the plates and the numbered pieces that are there. What other sites hold is in
        worlds of their own, and comes here when it is sent. The ground itself when nothing is elsewhere."""
        known: dict[SiteCode, Ground] = self.remembered.setdefault("at site", {})
        if site not in known:
            o, here = self.opening, {b.code for b in self.bins_at(site)}
            stock, serials = o.stock.within(here), o.serials.within(here)
            plates = tuple(p for p in o.plates if p.bin in here)
            if stock is o.stock and serials is o.serials and len(plates) == len(o.plates):
                known[site] = self
            else:
                made = replace(o, stock=stock, serials=serials, plates=plates)
                known[site] = Ground(made, self.hash)
        return known[site]

    def site_of(self, code: BinCode) -> SiteCode:
        """The site a bin belongs to."""
        return self.zones[self.bins[code].zone].site

    def bins_at(self, site: SiteCode) -> Iterator[Bin]:
        """All bins of a site, zone by zone."""
        return (b for zone in self.zones_of_site.get(site, ()) for b in self.bins_by_zone[zone])

    def bins_of(self, purpose: ZonePurpose, site: SiteCode) -> Sequence[Bin]:
        """All bins of a site in zones of a purpose, in code order."""
        key = ("bins of", purpose, site)
        if key not in self.remembered:
            zones = [z for z in self.zones_of_site.get(site, ()) if self.zones[z].purpose is purpose]
            self.remembered[key] = tuple(sorted((b for z in zones for b in self.bins_by_zone[z]), key=lambda b: b.code))
        found: Sequence[Bin] = self.remembered[key]
        return found
