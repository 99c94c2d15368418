"""What was done with goods, for machines elsewhere: an EPCIS 2.0 document in JSON-LD, and the same as CSV; both written event by event.

Names are GS1 Digital Link URIs where there is a GS1 key: items by their GTIN, plates that are an SSCC. All else has a ``tag`` URI of our own
(RFC 4151). Standard: GS1 EPCIS 2.0.1 and CBV 2.0, https://ref.gs1.org/standards/epcis/; the tests read the published JSON schema.
"""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable, Iterable, Iterator
from datetime import UTC, date, datetime
from typing import Any
from urllib.parse import quote
from zoneinfo import ZoneInfo

import orjson

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.checking import gtin_check_digit
from mindful_crate.core.catalog.goods import Order, OrderKind, Status
from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, PlateNo, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.proving.chronicle import Does, Happening, Step, chronicle
from mindful_crate.core.scanning.reading import is_sscc
from mindful_crate.core.world.events import Entry
from mindful_crate.files.cells import guarded
from mindful_crate.files.un_units import MEASURES

CONTEXT = "https://ref.gs1.org/standards/epcis/2.0.0/epcis-context.jsonld"
GS1 = "https://id.gs1.org"
OWN = "tag:mindful-crate.invalid,2026"
"""Ours: of a domain that nobody has, since no site of the demo has one."""
FORMS = {"epcis": "application/ld+json", "csv": "text/csv"}
"""What it is written as, with its media type."""
MOST_HELD = 10_000
COLUMNS = (
    "entry", "no", "time", "step", "does", "bin", "who", "item", "lot", "expiry", "quantity", "unit", "serials", "plate", "onto", "orders",
    "receipt", "shipment", "carrier",
)  # fmt: skip
_STANDS = {
    Step.SHIPPING: "in_transit",
    Step.STORING: "sellable_accessible",
    Step.PACKING: "in_progress",
    Step.PICKING: "in_progress",
    Step.STAGING: "container_closed",
    Step.LOADING: "container_closed",
    Step.RECEIVING: "in_progress",
    Step.UNLOADING: "in_progress",
    Step.VOID_SHIPPING: "in_progress",
}
"""What is true of goods after a step, by CBV."""
_FOUND = {
    Status.AVAILABLE: "conformant",
    Status.DAMAGED: "damaged",
    Status.EXPIRED: "expired",
    Status.QUARANTINE: "non_conformant",
    Status.INSPECT: "non_conformant",
}


class Naming:
    """URIs of what a site knows."""

    def __init__(self, ground: Ground, site: SiteCode, world: str, order: Callable[[OrderNo], Order | None]) -> None:
        self.ground, self.site, self.world, self.order = ground, site, world, order
        self.zone = ZoneInfo(ground.sites[site].time_zone)
        self._items: dict[ItemCode, str] = {}
        self._units: dict[ItemCode, str | None] = {}
        self._bins: dict[BinCode, str] = {}
        self._plates: dict[PlateNo, str] = {}
        self._documents: dict[Ref, dict[str, str]] = {}
        self._hours: dict[datetime, str] = {}
        self._here = self.own("site", site)

    def own(self, kind: str, code: str) -> str:
        """A name of our own."""
        return f"{OWN}:{kind}/{quote(code, safe='')}"

    def item(self, code: ItemCode) -> str:
        """An item: by the GTIN of its base unit, else by its code."""
        found = self._items.get(code)
        if found is None:
            base = self.ground.items[code].base.code
            codes = (b.code for b in self.ground.barcodes_of.get(code, ()) if b.unit == base)
            gtin = next((c for c in codes if gtin_check_digit(c) == c[-1:]), None)
            found = self._items[code] = f"{GS1}/01/{gtin.zfill(14)}" if gtin else self.own("item", code)
        return found

    def unit(self, code: ItemCode) -> str | None:
        """The code of what the base unit measures (UN/ECE Recommendation 20); None: pieces."""
        if code not in self._units:
            known = MEASURES.get(self.ground.items[code].base.code)
            self._units[code] = next((c for c, worth in known.items() if worth == 1), None) if known else None
        return self._units[code]

    def lot(self, goods: Goods) -> str:
        """An item of a lot."""
        name = self.item(goods.item)
        if not goods.lot:
            return name
        joins = f"/10/{quote(goods.lot, safe='')}"
        return name + (joins if name.startswith(GS1) else joins.replace("/10/", "/lot/"))

    def piece(self, item: ItemCode, number: str) -> str:
        """A piece by its serial number."""
        name = self.item(item)
        return name + ("/21/" if name.startswith(GS1) else "/serial/") + quote(number, safe="")

    def plate(self, number: PlateNo) -> str:
        """A license plate: an SSCC, or ours."""
        found = self._plates.get(number)
        if found is None:
            if len(self._plates) > MOST_HELD:
                self._plates.clear()
            found = self._plates[number] = self._plate(number)
        return found

    def _plate(self, number: PlateNo) -> str:
        return f"{GS1}/00/{number}" if is_sscc(number) else self.own("plate", number)

    def bin(self, code: BinCode) -> str:
        """A bin of the site."""
        found = self._bins.get(code)
        if found is None:
            found = self._bins[code] = self.own(f"site/{quote(self.site, safe='')}/bin", code)
        return found

    def here(self) -> str:
        """The site."""
        return self._here

    def offset(self, at: datetime) -> str:
        """How far the clocks of the site are from UTC, which does not change within an hour."""
        hour = at.replace(minute=0, second=0, microsecond=0)
        found = self._hours.get(hour)
        if found is None:
            if len(self._hours) > MOST_HELD:
                self._hours.clear()
            told = at.astimezone(self.zone).strftime("%z")
            found = self._hours[hour] = f"{told[:3]}:{told[3:]}"
        return found

    def document(self, ref: Ref) -> dict[str, str]:
        """A document that something was done for."""
        found = self._documents.get(ref)
        if found is None:
            if len(self._documents) > MOST_HELD:
                self._documents.clear()
            found = self._documents[ref] = self._document(ref)
        return found

    def _document(self, ref: Ref) -> dict[str, str]:
        if ref.kind is DocKind.COUNT:  # the vocabulary has no type of document for a count
            return {"bizTransaction": self.own(ref.kind.value, ref.number)}
        kinds = {DocKind.SHIPMENT: "desadv", DocKind.RECEIPT: "recadv"}
        kind = kinds.get(ref.kind, "po")
        order = self.order(OrderNo(ref.number)) if ref.kind is DocKind.ORDER else None
        if order is not None and order.kind is OrderKind.PRODUCTION:
            kind = "prodorder"
        if order is not None and order.kind in (OrderKind.CUSTOMER_RETURN, OrderKind.VENDOR_RETURN):
            kind = "rma"
        return {"type": kind, "bizTransaction": self.own(ref.kind.value, ref.number)}


def event(each: Happening, names: Naming) -> dict[str, Any]:
    """One happening as an event of EPCIS."""
    made: dict[str, Any] = {
        "type": "TransactionEvent" if each.hands_over else "AggregationEvent" if each.onto else "ObjectEvent",
        "eventID": f"{OWN}:event/{names.world}/{each.seq}/{each.no}",
        "eventTime": each.at.isoformat(),
        "eventTimeZoneOffset": names.offset(each.at),
        "action": each.does.value,
        "bizStep": each.step.value,
    }
    stands = _FOUND.get(each.fault) if each.fault else _STANDS.get(each.step)
    if stands and not (each.onto and each.does is Does.DELETE):
        made["disposition"] = stands
    numbered = {s.item: len(s.numbers) for s in each.serials}
    things = [names.plate(p) for p in each.plates]
    things += [names.piece(s.item, n) for s in each.serials for n in s.numbers]
    much: dict[str, dict[str, Any]] = {}
    for goods in each.goods:
        told = min(numbered.get(goods.item, 0), goods.quantity)
        numbered[goods.item] = numbered.get(goods.item, 0) - told
        if goods.quantity == told:
            continue
        name = names.lot(goods)
        if name not in much:
            much[name] = {"epcClass": name, "quantity": 0}
            if unit := names.unit(goods.item):
                much[name]["uom"] = unit
        much[name]["quantity"] += goods.quantity - told
    if each.onto:
        made["parentID"] = names.plate(each.onto)
        made["childEPCs"] = things
        made["childQuantityList"] = list(much.values())
    else:
        made["epcList"] = things
        made["quantityList"] = list(much.values())
    if each.place:
        made["readPoint"] = {"id": names.bin(each.place)}
    made["bizLocation"] = {"id": names.here()}
    if each.about:
        made["bizTransactionList"] = [names.document(r) for r in each.about]
    return made


def written(
    form: str, log: Iterable[Entry], names: Naming, day: date | None = None, made: datetime | None = None
) -> Iterator[str]:
    """A log in one of :data:`FORMS`, in parts as it is read; with ``day``, what was done on that day at the site."""
    happened = chronicle(log, day, lambda at: at.astimezone(names.zone).date())
    return rows(happened, names.ground) if form == "csv" else document(happened, names, made or datetime.now(UTC))


def document(happened: Iterable[Happening], names: Naming, made: datetime) -> Iterator[str]:
    """An EPCIS document in JSON-LD, a part for each event."""
    head = {
        "@context": [CONTEXT], "id": names.own("document", names.world), "type": "EPCISDocument", "schemaVersion": "2.0",
        "creationDate": made.astimezone(UTC).isoformat(),
    }  # fmt: skip
    yield json.dumps(head, ensure_ascii=False)[:-1] + ', "epcisBody": {"eventList": ['
    between = "\n"
    for each in happened:
        yield between + orjson.dumps(event(each, names)).decode()
        between = ",\n"
    yield "\n]}}\n"


def rows(happened: Iterable[Happening], ground: Ground) -> Iterator[str]:
    """The same as CSV, a line for each item, lot or plate; quantities are base units."""
    text = io.StringIO()
    out = csv.writer(text)
    out.writerow(COLUMNS)
    for each in happened:
        of = {kind: " ".join(r.number for r in each.about if r.kind is kind) for kind in DocKind}
        first = (
            each.seq,
            each.no,
            each.at.isoformat(),
            each.step.value,
            each.does.value,
            each.place or "",
            each.who or "",
        )
        last = (each.onto or "", of[DocKind.ORDER], of[DocKind.RECEIPT], of[DocKind.SHIPMENT], each.carrier or "")
        numbers = {s.item: " ".join(s.numbers) for s in each.serials}
        for goods in each.goods:
            base = ground.items[goods.item].base.code
            lies = (goods.item, goods.lot, goods.expiry or "", goods.quantity, base, numbers.get(goods.item, ""), "")
            out.writerow(map(guarded, map(str, (*first, *lies, *last))))
        for plate in each.plates:
            out.writerow(map(guarded, map(str, (*first, "", "", "", "", "", "", plate, *last))))
        yield text.getvalue()
        text.seek(0)
        text.truncate()
    yield text.getvalue()
