"""The tables of an opening state, and how they are amended: rows put in or taken out, everything checked again.

A table's rows have a key. Rows that belong to a site (its zones, bins, orders, stock) may be replaced for that site
alone; items, partners and kinds of things are shared by all sites.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from mindful_crate.core.catalog.goods import (
    STOCK_KEY,
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
    SerialRow,
    Series,
    StockRow,
    Truck,
    stock_key,
)
from mindful_crate.core.catalog.ids import SiteCode, ZoneCode
from mindful_crate.core.catalog.opening import Opening
from mindful_crate.core.catalog.places import Bin, BinType, PlateKind, Site, Way, Zone
from mindful_crate.core.catalog.serials import SerialTable
from mindful_crate.core.catalog.stock import SOME, Merged, StockColumns, StockTable
from mindful_crate.core.record import record

Key = tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Table:
    """One table. ``key`` tells rows apart; ``site`` names the row's site, None when it is shared by all."""

    name: str
    kind: type[Any]
    key: Callable[[Any], Key]
    one: str
    """What one row is called."""
    many: str
    site: Callable[[Any, Sites], str | None] = lambda row, sites: None
    by: tuple[str, ...] = ()
    """The columns of the key, where it is not the first alone."""


class Sites:
    """Which site a zone or a bin belongs to."""

    def __init__(self, *openings: Opening) -> None:
        self.zones: dict[str, str] = {z.code: z.site for o in openings for z in o.zones}
        self.bins: dict[str, str] = {b.code: self.zones.get(b.zone, "") for o in openings for b in o.bins}


TABLES: dict[str, Table] = {
    t.name: t
    for t in (
        Table("sites", Site, lambda r: (r.code,), "site", "sites", lambda r, s: r.code),
        Table("zones", Zone, lambda r: (r.code,), "zone", "zones", lambda r, s: r.site),
        Table("bin_types", BinType, lambda r: (r.code,), "bin type", "bin types"),
        Table("bins", Bin, lambda r: (r.code,), "bin", "bins", lambda r, s: s.zones.get(r.zone)),
        Table("plate_kinds", PlateKind, lambda r: (r.code,), "kind of plate", "kinds of plates"),
        Table("items", Item, lambda r: (r.code,), "item", "items"),
        Table("barcodes", Barcode, lambda r: (r.code,), "barcode", "barcodes"),
        Table("partners", Partner, lambda r: (r.code,), "partner", "partners"),
        Table("channels", Channel, lambda r: (r.code,), "channel", "channels"),
        Table("orders", Order, lambda r: (r.number,), "order", "orders", lambda r, s: r.site),
        Table(
            "home_bins",
            HomeBin,
            lambda r: (r.item, r.bin),
            "home bin",
            "home bins",
            lambda r, s: s.bins.get(r.bin),
            ("item", "bin"),
        ),
        Table("plates", PlateRow, lambda r: (r.number,), "plate", "plates", lambda r, s: s.bins.get(r.bin)),
        Table("stock", StockRow, stock_key, "row of stock", "rows of stock", lambda r, s: s.bins.get(r.bin), STOCK_KEY),
        Table(
            "serials",
            SerialRow,
            lambda r: (r.serial, r.item),
            "serial number",
            "serial numbers",
            lambda r, s: s.bins.get(r.bin),
            ("serial", "item"),
        ),
        Table("carriers", Carrier, lambda r: (r.code,), "carrier", "carriers"),
        Table(
            "rates",
            Rate,
            lambda r: (r.carrier, r.service, r.town),
            "rate",
            "rates",
            by=("carrier", "service", "town"),
        ),
        Table("carton_kinds", CartonKind, lambda r: (r.code,), "kind of carton", "kinds of cartons"),
        Table("carts", Cart, lambda r: (r.code,), "cart", "carts", lambda r, s: r.site),
        Table("printers", Printer, lambda r: (r.code,), "printer", "printers", lambda r, s: r.site),
        Table("pack_stations", PackStation, lambda r: (r.code,), "pack station", "pack stations", lambda r, s: r.site),
        Table("trucks", Truck, lambda r: (r.number,), "truck", "trucks", lambda r, s: r.site),
        Table("ways", Way, lambda r: (r.code,), "way", "ways", lambda r, s: r.site),
        Table("series", Series, lambda r: (r.document,), "number series", "number series"),
    )
}
"""All tables, in the order in which they build on one another."""


@record
class TableChange:
    """What an amendment does to one table: how many rows, and the keys of some of them, as one text each."""

    table: str
    new: int = 0
    changed: int = 0
    gone: int = 0
    same: int = 0
    some_new: tuple[str, ...] = ()
    some_changed: tuple[str, ...] = ()
    some_gone: tuple[str, ...] = ()

    @property
    def idle(self) -> bool:
        """Does nothing change?"""
        return not (self.new or self.changed or self.gone)


def key_text(key: Key) -> str:
    """A key as one text: ``ROPE-12`` or ``P-01-01-2, ROPE-12``."""
    return ", ".join(k for k in key if k)


def amend(
    opening: Opening, put: Mapping[str, Sequence[Any]], gone: Mapping[str, Iterable[Key]] | None = None, *,
    whole: bool = False, site: SiteCode | None = None,
) -> tuple[Opening, tuple[TableChange, ...]]:  # fmt: skip
    """The opening with rows put into tables and others taken out, and what that changes.

    ``whole``: the tables named in ``put`` then hold those rows and no others; of a site's own rows only those of
    ``site`` are replaced. What comes out is not checked here: see ``check_opening``.
    """
    sites = Sites(opening, replace(opening, zones=tuple(put.get("zones", ())), bins=tuple(put.get("bins", ()))))
    values: dict[str, Any] = {}
    changes = []
    for name, table in TABLES.items():
        if name not in put and name not in (gone or {}):
            continue
        leave = set((gone or {}).get(name, ()))
        if name == "stock":
            columns = StockColumns()
            columns.put_table(
                opening.stock if not leave else StockTable.of(r for r in opening.stock if stock_key(r) not in leave)
            )
            for line, row in enumerate(put.get(name, ()), start=1):
                columns.put(row, line)
            merged, change = merge_stock(columns, sites, whole=whole and name in put, site=site)
            lost = len(opening.stock) - columns.before
            changes.append(replace(change, gone=change.gone + lost))
            values[name] = merged.table
            continue
        old = {table.key(r): r for r in getattr(opening, name)}
        rows = {table.key(r): r for r in put.get(name, ())}
        if whole and name in put:
            leave |= {k for k, r in old.items() if k not in rows and table.site(r, sites) in (None, site)}
        new = [k for k in rows if k not in old]
        changed = [k for k, r in rows.items() if k in old and old[k] != r]
        going = [k for k in old if k in leave]
        left = {k: r for k, r in {**old, **rows}.items() if k not in leave}
        some = [tuple(key_text(k) for k in keys[:SOME]) for keys in (new, changed, going)]
        changes.append(
            TableChange(name, len(new), len(changed), len(going), len(rows) - len(new) - len(changed), *some)
        )
        values[name] = tuple(left[k] for k in sorted(left))
        if name == "serials":
            values[name] = SerialTable.of(values[name])
            moved = (*(old[k] for k in (*changed, *going)), *(rows[k] for k in (*new, *changed)))
            values["stock"] = _counted(values.get("stock", opening.stock), values[name], moved)
    return replace(opening, **values), tuple(changes)


def _counted(stock: StockTable, serials: SerialTable, moved: Iterable[SerialRow]) -> StockTable:
    """Stock where serial numbers came, went or moved: as much of each kind of goods as is named there."""
    touched = {stock_key(r.stock): r.stock for r in moved}
    if not touched:
        return stock
    named: Counter[tuple[str, ...]] = Counter()
    for bin_, plate in {(r.bin, r.plate or "") for r in touched.values()}:
        named.update(stock_key(serials[n].stock) for n in serials.rows_at(bin_, plate))
    rows = [replace(row, quantity=named[key]) for key, row in touched.items() if named[key]]
    columns = StockColumns()
    columns.put_table(stock)
    for row in rows:
        columns.put(row, 1)
    gone = {key for key in touched if not named[key]}
    table = columns.merged().table
    return StockTable.of(r for r in table if stock_key(r) not in gone) if gone else table


def merge_stock(
    columns: StockColumns, sites: Sites, *, whole: bool, site: SiteCode | None
) -> tuple[Merged, TableChange]:
    """Rows of stock over those there were; ``whole``: those of ``site`` that did not come are gone."""
    merged = columns.merged((lambda code: sites.bins.get(code) in (None, site)) if whole else None)
    some = [tuple(key_text(k) for k in merged.some[what]) for what in ("new", "changed", "gone")]
    return merged, TableChange("stock", merged.new, merged.changed, merged.gone, merged.same, *some)


def used_by(opening: Opening, table: str, code: str) -> list[str]:
    """What keeps a row from being taken out, each in a few words: ``3 rows of stock lie in it``."""
    found: list[str] = []

    def count(n: int, one: str, many: str) -> None:
        if n:
            found.append(f"1 {one}" if n == 1 else f"{n:,} {many}")

    if table == "sites":
        count(sum(z.site == code for z in opening.zones), "zone of it", "zones of it")
        count(sum(o.site == code for o in opening.orders), "order for it", "orders for it")
        count(sum(c.site == code for c in opening.carts), "cart of it", "carts of it")
        count(sum(p.site == code for p in opening.pack_stations), "pack station of it", "pack stations of it")
        count(sum(p.site == code for p in opening.printers), "printer of it", "printers of it")
        count(sum(t.site == code for t in opening.trucks), "truck expected there", "trucks expected there")
        count(sum(c.site == code for c in opening.channels), "channel it serves", "channels it serves")
        count(sum(w.site == code for w in opening.ways), "fact about walking there", "facts about walking there")
    elif table == "zones":
        count(sum(b.zone == code for b in opening.bins), "bin in it", "bins in it")
        count(sum(w.zone == code for w in opening.ways), "fact about walking in it", "facts about walking in it")
        count(sum(code in p.zones for p in opening.printers), "printer that serves it", "printers that serve it")
    elif table == "printers":
        count(
            sum(p.printer == code for p in opening.pack_stations), "pack station beside it", "pack stations beside it"
        )
    elif table == "bin_types":
        count(sum(b.bin_type == code for b in opening.bins), "bin of this type", "bins of this type")
    elif table == "bins":
        rows = len(opening.stock.rows_of_bin(code))
        count(rows, "row of stock lies in it", "rows of stock lie in it")
        count(sum(p.bin == code for p in opening.plates), "plate stands in it", "plates stand in it")
        count(sum(h.bin == code for h in opening.home_bins), "item is at home in it", "items are at home in it")
        count(sum(p.bin == code for p in opening.pack_stations), "pack station at it", "pack stations at it")
        count(sum(t.door == code for t in opening.trucks), "truck expected at it", "trucks expected at it")
        count(
            sum(z.hand_over == code for z in opening.zones),
            "zone is handed totes there",
            "zones are handed totes there",
        )
    elif table == "items":
        count(len(opening.stock.rows_of_item(code)), "row of stock of it", "rows of stock of it")
        count(len(opening.serials.rows_of_item(code)), "serial number of it", "serial numbers of it")
        orders = {o.number for o in opening.orders for x in o.lines if x.item == code}
        count(len(orders), "order with it", "orders with it")
        count(sum(b.item == code for b in opening.barcodes), "barcode of it", "barcodes of it")
        count(sum(h.item == code for h in opening.home_bins), "home bin of it", "home bins of it")
    elif table == "partners":
        count(sum(o.partner == code for o in opening.orders), "order with it", "orders with it")
    elif table == "carriers":
        count(sum(o.carrier == code for o in opening.orders), "order it takes", "orders it takes")
        count(sum(t.carrier == code for t in opening.trucks), "truck of it", "trucks of it")
        count(sum(r.carrier == code for r in opening.rates), "rate of it", "rates of it")
    elif table == "channels":
        count(sum(o.channel == code for o in opening.orders), "order that came by it", "orders that came by it")
    elif table == "plate_kinds":
        count(sum(p.plate_kind == code for p in opening.plates), "plate of this kind", "plates of this kind")
        count(
            sum(c.tote_kind == code for c in opening.carts),
            "cart for totes of this kind",
            "carts for totes of this kind",
        )
    elif table == "plates":
        stock = opening.stock
        rows = stock.plate.count(stock.plates.index(code)) if code in stock.plates else 0
        count(rows, "row of stock on it", "rows of stock on it")
        count(sum(p.on == code for p in opening.plates), "plate on it", "plates on it")
    return found


def bins_in_use(opening: Opening) -> set[str]:
    """Bins that goods lie in, plates stand in, items are at home in, orders are packed at, trucks come to, or totes are handed over in."""
    stations = {*(p.bin for p in opening.pack_stations), *(t.door for t in opening.trucks)}
    stations |= {z.hand_over for z in opening.zones if z.hand_over}
    return {*opening.stock.bins, *(p.bin for p in opening.plates), *(h.bin for h in opening.home_bins), *stations}


def zones_of(opening: Opening, site: SiteCode) -> dict[ZoneCode, Zone]:
    """The zones of a site."""
    return {z.code: z for z in opening.zones if z.site == site}
