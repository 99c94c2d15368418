"""What is wrong with an opening state: everything it names is there, codes are unique, numbers are in bounds, stock and serial numbers
agree. Each thing wrong has its place, so that a row of a file can be blamed."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Container, Iterable, Iterator, Mapping

from mindful_crate.core.catalog.goods import (
    Item,
    Order,
    OrderKind,
    PlateRow,
    stock_key,
)
from mindful_crate.core.catalog.ids import (
    CarrierCode,
    ItemCode,
    PlateNo,
)
from mindful_crate.core.catalog.opening import Opening
from mindful_crate.core.catalog.places import (
    PICKED_FROM,
    Axis,
    Heading,
    Way,
    WayKind,
)
from mindful_crate.core.catalog.stock import StockTable
from mindful_crate.core.problem import Problem

MIN_LABEL_MM, MAX_LABEL_MM = 20, 300


def check_opening(o: Opening, *, serials: bool = True) -> list[Problem]:
    """Everything wrong with an opening state, as problems with their place. Empty when it may be used. ``serials`` false: whether
    stock and serial numbers agree is asked later."""
    found: list[Problem] = []

    def report(place: str, says: str) -> None:
        found.append(Problem("bad_opening", says, place))

    def unique(name: str, codes: Iterable[str]) -> set[str]:
        seen: set[str] = set()
        for code in codes:
            if code in seen:
                report(name, f"`{code}` stands twice")
            seen.add(code)
        return seen

    def known(place: str, code: str | None, codes: Container[str], word: str) -> bool:
        if code is None or code in codes:
            return True
        report(place, f"{word} `{code}` does not exist")
        return False

    sites = unique("sites", (s.code for s in o.sites))
    zones = unique("zones", (z.code for z in o.zones))
    types = unique("bin_types", (t.code for t in o.bin_types))
    kinds = unique("plate_kinds", (k.code for k in o.plate_kinds))
    bins = unique("bins", (b.code for b in o.bins))
    items = unique("items", (i.code for i in o.items))
    partners = unique("partners", (p.code for p in o.partners))
    unique("barcodes", (b.code for b in o.barcodes))
    unique("orders", (r.number for r in o.orders))
    units = {(i.code, u.code): u for i in o.items for u in i.units}
    for zone in o.zones:
        known(f"zones/{zone.code}", zone.site, sites, "site")
    for kind in o.bin_types:
        limits = (kind.max_volume_mm3, kind.max_weight_mg, kind.max_plates)
        if any(limit is not None and limit < 0 for limit in limits):
            report(f"bin_types/{kind.code}", "a limit is not below zero; leave it empty if there is none")
    for carrier in o.plate_kinds:
        if min(carrier.length_mm, carrier.width_mm) < 1 or min(carrier.deck_mm, carrier.weight_mg) < 0:
            report(f"plate_kinds/{carrier.code}", "length and width must be above zero, deck and weight not below")
    site_of = {z.code: z.site for z in o.zones}
    purposes = {z.code: z.purpose for z in o.zones}
    zone_of = {b.code: b.zone for b in o.bins} if any(z.hand_over for z in o.zones) else {}
    for zone in o.zones:
        place, point = f"zones/{zone.code}", zone.hand_over
        if point and known(place, point, bins, "bin"):
            if site_of.get(zone_of[point]) != zone.site:
                report(place, f"`{point}`, where totes are handed over, is at another site")
            elif purposes.get(zone_of[point]) in PICKED_FROM:
                report(place, f"`{point}` is for storing: totes are handed over where goods only pass, as in a lane")
    at_site = {b.code: site_of.get(b.zone) for b in o.bins} if o.pack_stations or o.trucks else {}
    stands: dict[tuple[str | None, int, int, int], str] = {}
    for each in o.bins:
        known(f"bins/{each.code}", each.zone, zones, "zone")
        other = stands.setdefault((site_of.get(each.zone), each.x_mm, each.y_mm, each.level), each.code)
        if other != each.code:
            report(f"bins/{each.code}", f"it stands where bin `{other}` stands, on the same level")
        known(f"bins/{each.code}", each.bin_type, types, "bin type")
        if each.x_mm < 0 or each.y_mm < 0:
            report(f"bins/{each.code}", "it lies off the map: the corner of the site is at 0, 0")
        if each.height_mm is not None and each.height_mm < 1:
            report(f"bins/{each.code}", "the clear height must be above zero; leave it empty if nothing limits it")
    for item in o.items:
        if not item.units or item.units[0].quantity != 1:
            report(f"items/{item.code}", "the first unit must be the base unit, with quantity 1")
        unique(f"items/{item.code}/units", (u.code for u in item.units))
        if item.value < 0:
            report(f"items/{item.code}", "what one is worth is not below zero")
        if any(min(u.quantity, u.length_mm, u.width_mm, u.height_mm) < 1 or u.weight_mg < 0 for u in item.units):
            report(f"items/{item.code}", "quantities and sizes of units must be above zero")
    for code in o.barcodes:
        due = gtin_check_digit(code.code)
        if due is not None and due != code.code[-1]:
            report(f"barcodes/{code.code}", f"the check digit should be {due}, not {code.code[-1]}: a digit is wrong")
        if (code.item, code.unit) not in units:
            report(f"barcodes/{code.code}", f"item `{code.item}` has no unit `{code.unit}`")
    unique("carriers", (c.code for c in o.carriers))
    unique("carton_kinds", (c.code for c in o.carton_kinds))
    unique("carts", (c.code for c in o.carts))
    for who in o.carriers:
        for time in who.collects:
            if not TIME_OF_DAY.fullmatch(time):
                report(f"carriers/{who.code}", f"`{time}` is no time of day; write it like 16:30")
    services = {c.code: c.services for c in o.carriers}
    for rate in o.rates:
        place = f"rates/{rate.carrier}, {rate.service}, {rate.town}"
        if (
            known(place, rate.carrier, services, "carrier")
            and rate.service
            and rate.service not in services[rate.carrier]
        ):
            report(place, f"`{rate.carrier}` has no service `{rate.service}`")
        if min(rate.base, rate.per_kilogram) < 0 or min(rate.litres_per_kilogram, rate.most_kilograms) < 0:
            report(place, "nothing of a rate is below zero")
    for carton in o.carton_kinds:
        if min(carton.length_mm, carton.width_mm, carton.height_mm) < 1 or carton.weight_mg < 0:
            report(f"carton_kinds/{carton.code}", "length, width and height must be above zero, the weight not below")
        if carton.max_weight_mg is not None and carton.max_weight_mg < 1:
            report(
                f"carton_kinds/{carton.code}",
                "what it may hold must be above zero; leave it empty if nothing limits it",
            )
    for cart in o.carts:
        known(f"carts/{cart.code}", cart.site, sites, "site")
        known(f"carts/{cart.code}", cart.tote_kind, kinds, "plate kind")
        if cart.totes < 1:
            report(f"carts/{cart.code}", "a cart has a place for one tote at least")
    printers = unique("printers", (p.code for p in o.printers))
    served: dict[tuple[str, bool], str] = {}
    for printer in o.printers:
        place = f"printers/{printer.code}"
        known(place, printer.site, sites, "site")
        if (
            not min(printer.width_mm, printer.height_mm) >= MIN_LABEL_MM
            or max(printer.width_mm, printer.height_mm) > MAX_LABEL_MM
        ):
            report(place, f"what is printed on is from {MIN_LABEL_MM} to {MAX_LABEL_MM} mm wide and high")
        for serves in printer.zones:
            if known(place, serves, zones, "zone") and site_of[serves] != printer.site:
                report(place, f"zone `{serves}` is at site `{site_of[serves]}`")
            first = served.setdefault((serves, printer.takes_pages), printer.code)
            if first != printer.code:
                what = "one printer for pages" if printer.takes_pages else "one printer for labels"
                report(place, f"zone `{serves}` prints on `{first}` already; a zone has {what}")
    unique("pack_stations", (p.code for p in o.pack_stations))
    for station in o.pack_stations:
        known(f"pack_stations/{station.code}", station.site, sites, "site")
        if known(f"pack_stations/{station.code}", station.bin, bins, "bin") and at_site[station.bin] != station.site:
            report(f"pack_stations/{station.code}", f"bin `{station.bin}` is at site `{at_site[station.bin]}`")
        if station.printer:
            known(f"pack_stations/{station.code}", station.printer, printers, "printer")
    unique("channels", (c.code for c in o.channels))
    for channel in o.channels:
        known(f"channels/{channel.code}", channel.site, sites, "site")
    unique("trucks", (t.number for t in o.trucks))
    for truck in o.trucks:
        known(f"trucks/{truck.number}", truck.site, sites, "site")
        known(f"trucks/{truck.number}", truck.carrier, {c.code for c in o.carriers}, "carrier")
        if known(f"trucks/{truck.number}", truck.door, bins, "bin") and at_site[truck.door] != truck.site:
            report(f"trucks/{truck.number}", f"door `{truck.door}` is at site `{at_site[truck.door]}`")
        if not TIME_OF_DAY.fullmatch(truck.time):
            report(f"trucks/{truck.number}", f"`{truck.time}` is no time of day; write it like 16:30")
    unique("ways", (w.code for w in o.ways))
    for way in o.ways:
        known(f"ways/{way.code}", way.site, sites, "site")
        if known(f"ways/{way.code}", way.zone, zones, "zone") and way.zone and site_of[way.zone] != way.site:
            report(f"ways/{way.code}", f"zone `{way.zone}` is at site `{site_of[way.zone]}`")
        for says in _odd_way(way):
            report(f"ways/{way.code}", says)
    by_code = {i.code: i for i in o.items}
    services = {c.code: c.services for c in o.carriers}
    for order in o.orders:
        found.extend(check_order(order, sites, partners, by_code, services))
    plates = {p.number: p for p in o.plates}
    unique("plates", (p.number for p in o.plates))
    for plate in o.plates:
        place = f"plates/{plate.number}"
        known(place, plate.plate_kind, kinds, "plate kind")
        known(place, plate.bin, bins, "bin")
        under = plates.get(plate.on) if plate.on else None
        if plate.on and under is None:
            report(place, f"it stands on plate `{plate.on}`, which does not exist")
        if under and under.bin != plate.bin:
            report(place, f"it stands on plate `{plate.on}`, which is in another bin")
        steps = 0
        while under and steps <= DEEPEST_NESTING:
            under, steps = plates.get(under.on) if under.on else None, steps + 1
        if steps > DEEPEST_NESTING:
            report(place, f"plates stand on one another at most {DEEPEST_NESTING} deep, and never in a ring")
    for home in o.home_bins:
        place = f"home_bins/{home.item}"
        known(place, home.bin, bins, "bin")
        known(place, home.item, items, "item")
        if home.least < 0 or home.most < 0 or (home.most and home.least > home.most):
            report(place, f"the least and the most of `{home.bin}` contradict each other")
    found.extend(check_stock(o.stock, bins, items, plates))
    if serials:
        found.extend(check_serials(o))
    return found


def check_serials(o: Opening) -> Iterator[Problem]:
    """Where serial numbers and stock do not agree: each piece of an item that is kept by them has one, and none stands twice."""
    numbered = {i.code for i in o.items if i.numbered}
    known = {i.code for i in o.items}
    if not numbered and not o.serials:
        return
    named: Counter[tuple[str, ...]] = Counter()
    for row in o.serials:
        place = f"serials/{row.serial}, {row.item}"
        if row.item not in numbered:
            says = "is not kept by serial numbers" if row.item in known else "does not exist"
            yield Problem("bad_opening", f"item `{row.item}` {says}", place)
        if says := odd_serial(row.serial):
            yield Problem("bad_opening", says, place)
        named[stock_key(row.stock)] += 1
    for n in range(1, len(o.serials)):
        if (o.serials.item[n], o.serials.serial[n]) == (o.serials.item[n - 1], o.serials.serial[n - 1]):
            yield Problem("bad_opening", "stands twice", f"serials/{o.serials.serial[n]}, {o.serials[n].item}")
    for code in sorted(numbered):
        for n in o.stock.rows_of_item(code):
            row_ = o.stock[n]
            key = stock_key(row_)
            if row_.expiry is not None:
                yield Problem(
                    "bad_opening",
                    f"`{code}` is kept by serial numbers, not by days",
                    f"stock/{', '.join(k for k in key if k)}",
                )
            elif (has := named.pop(key, 0)) != row_.quantity:
                says = f"{row_.quantity:,} of `{code}` lie in `{row_.bin}` and {has:,} serial numbers are named there: bring the table `serials` with them"
                yield Problem("bad_opening", says, f"items/{code}")
    for key in sorted(named):
        if key[2] in numbered:
            says = f"a serial number of `{key[2]}` is named in `{key[0]}`, where none lies"
            yield Problem("bad_opening", says, f"items/{key[2]}")


MAX_SERIAL = 20
"""GS1 General Specifications: application identifier 21 holds at most 20 characters."""


def odd_serial(serial: str) -> str:
    """Why a text is no serial number; empty: it is one."""
    if not serial or serial != serial.strip() or len(serial) > MAX_SERIAL or not serial.isprintable():
        return f"`{serial[:40]}` is no serial number: at most {MAX_SERIAL} printable characters"
    return ""


def check_stock(
    table: StockTable, bins: Container[str], items: Container[str], plates: Mapping[PlateNo, PlateRow]
) -> Iterator[Problem]:
    """What is wrong with opening stock, given what there is. Looks at columns, and makes values of bad rows alone."""

    def problem(row: int, says: str) -> Problem:
        return Problem("bad_opening", says, f"stock/{', '.join(k for k in stock_key(table[row]) if k)}")

    where, what, on = table.bin, table.item, table.plate
    for row in range(1, len(table)):
        if what[row] == what[row - 1] and where[row] == where[row - 1] and table.alike(row, row - 1):
            yield problem(row, "stands twice")
    for code in table.bins:
        if code not in bins:
            yield from (problem(row, f"bin `{code}` does not exist") for row in table.rows_of_bin(code))
    for code in table.items:
        if code not in items:
            yield from (problem(row, f"item `{code}` does not exist") for row in table.rows_of_item(code))
    if len(table) and min(table.quantity) < 1:
        yield from (problem(n, "the quantity must be above zero") for n, q in enumerate(table.quantity) if q < 1)
    stands = [known.bin if (known := plates.get(PlateNo(p))) else None for p in table.plates]
    for row, plate in enumerate(on):
        if plate >= 0 and (there := stands[plate]) != (code := table.bins[table.bin[row]]):
            if there is None:
                yield problem(row, f"plate `{table.plates[plate]}` does not exist")
            else:
                yield problem(row, f"plate `{table.plates[plate]}` stands in `{there}`, not in `{code}`")


def check_order(
    order: Order,
    sites: Container[str],
    partners: Container[str],
    items: Mapping[ItemCode, Item],
    services: Mapping[CarrierCode, tuple[str, ...]],
) -> Iterator[Problem]:
    """What is wrong with an order, given what there is; of carriers, the services each has."""
    place = f"orders/{order.number}"
    if order.site not in sites:
        yield Problem("bad_opening", f"site `{order.site}` does not exist", place)
    if order.partner not in partners:
        yield Problem("bad_opening", f"partner `{order.partner}` does not exist", place)
    if order.carrier and order.carrier not in services:
        yield Problem("bad_opening", f"carrier `{order.carrier}` does not exist", place)
    elif order.service and order.service not in (services[order.carrier] if order.carrier else ()):
        whose = f"carrier `{order.carrier}` has no service" if order.carrier else "it names no carrier for service"
        yield Problem("bad_opening", f"{whose} `{order.service}`", place)
    if not 1 <= order.priority <= 9:
        yield Problem("bad_opening", f"its priority is from 1 (first) to 9, not {order.priority}", place)
    if order.transfer and order.kind not in (OrderKind.TRANSFER, OrderKind.TRANSFER_OUT):
        yield Problem("bad_opening", f"it is no transfer, and bears the number `{order.transfer}` of one", place)
    seen: set[int] = set()
    for line in order.lines:
        if line.no in seen:
            yield Problem("bad_opening", f"`{line.no}` stands twice", place)
        seen.add(line.no)
        item = items.get(line.item)
        if item is None:
            yield Problem("bad_opening", f"item `{line.item}` does not exist", f"{place}/{line.no}")
        elif all(u.code != line.unit for u in item.units):
            yield Problem("bad_opening", f"item `{line.item}` has no unit `{line.unit}`", f"{place}/{line.no}")
        if line.quantity < 1:
            yield Problem("bad_opening", "the quantity must be above zero", f"{place}/{line.no}")
        if len(set(line.serials)) < len(line.serials) or len(line.serials) > max(0, line.quantity):
            yield Problem(
                "bad_opening",
                "its serials are each for one piece: none twice, and no more than it asks for",
                f"{place}/{line.no}",
            )


_ALONG = {Axis.X: (Heading.EAST, Heading.WEST), Axis.Y: (Heading.NORTH, Heading.SOUTH)}


def _odd_way(way: Way) -> Iterator[str]:
    """What a fact about walking leaves out, or says that means nothing for its kind."""
    is_cross = way.kind is WayKind.CROSS_AISLE or (way.kind is WayKind.BLOCKED and not way.aisle)
    if is_cross:
        if way.axis is None or way.at_mm is None:
            yield "a cross aisle has an axis, x or y, and a place on the other one (`at_mm`)"
        if way.zone or way.aisle:
            yield "a cross aisle is of no zone and no aisle"
        if way.axis and way.heading and way.heading not in _ALONG[way.axis]:
            yield f"it runs along {way.axis.value}, so nobody walks it towards {way.heading.value}"
    else:
        if not way.aisle or way.zone is None:
            yield "it names the zone and the aisle it is about"
        if way.axis is not None or way.at_mm is not None:
            yield "only cross aisles have an axis and a place: where an aisle lies, its bins say"
        if (way.heading is None) != (way.kind is WayKind.BLOCKED):
            yield (
                "a blocked stretch has no heading" if way.heading
                else "it says where to: the direction one walks, or the end that is meant"
            )  # fmt: skip
    spanned = way.kind in (WayKind.BLOCKED, WayKind.CROSS_AISLE)
    if way.kind is WayKind.BLOCKED and (way.from_mm is None or way.to_mm is None):
        yield "it says from where to where it is blocked"
    if not spanned and (way.from_mm is not None or way.to_mm is not None):
        yield "it is about a whole aisle and has no stretch"
    if way.from_mm is not None and way.to_mm is not None and way.from_mm >= way.to_mm:
        yield "it ends before it begins"


GTIN_LENGTHS = (8, 12, 13, 14)


def gtin_check_digit(code: str) -> str | None:
    """The check digit a code of 8, 12, 13 or 14 digits must end in; None for any other code. Weights 3 and 1 from the
    right, as the GS1 General Specifications have it (section 7.9)."""
    if len(code) not in GTIN_LENGTHS or not (code.isascii() and code.isdigit()):
        return None
    total = sum(int(d) * (3 if n % 2 == 0 else 1) for n, d in enumerate(reversed(code[:-1])))
    return str(-total % 10)


TIME_OF_DAY = re.compile(r"([01]\d|2[0-3]):[0-5]\d")
DEEPEST_NESTING = 4
"""Plates on plates: carton on tray on pallet, and one more."""
