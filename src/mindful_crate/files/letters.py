"""Messages between host and floor written down: JSON, CSV, and UBL 2.1 (OASIS); orders are read back from all three.

UBL documents used: Order-2, OrderChange-2 and OrderCancellation-2 for orders, DespatchAdvice-2 for advance notices,
ReceiptAdvice-2 for what a host is told. Quantities are base units; their unit codes are those of UN/ECE Recommendation 20 where there is one.
"""

from __future__ import annotations

import csv
import io
import json
import re
import xml.etree.ElementTree as ET
from datetime import date
from typing import Any, cast, get_args

import orjson
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from mindful_crate.core.catalog.goods import Item, Order
from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.catalog.notices import Notice
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.plain import Misfit, from_plain, to_plain
from mindful_crate.core.problem import Problem
from mindful_crate.core.record import record
from mindful_crate.core.world.acts import HostAnnounces, HostTells
from mindful_crate.core.world.letters import Letter, ReceiptNote
from mindful_crate.core.world.topics import OrderTopic, Topic
from mindful_crate.files.cells import MEANT, whole
from mindful_crate.files.texts import BadText

MESSAGE_ID = r"[\x21-\x7e]{1,60}"
"""A message id of a host's own: printable, without blanks."""
MOST_BYTES = 4_000_000
"""A message is no longer than that."""
FORMS = ("json", "csv", "ubl")
UN_UNITS = {"m": "MTR", "kg": "KGM", "g": "GRM", "l": "LTR", "pc": "H87"}
"""Codes of UN/ECE Recommendation 20; anything else goes out as ``C62``, one."""
ROOTS: dict[str, Topic] = {
    "Order": "confirm_order", "OrderChange": "change_order", "OrderCancellation": "cancel_order",
    "DespatchAdvice": "announce",
}  # fmt: skip
UBL = "urn:oasis:names:specification:ubl:schema:xsd:"
CBC, CAC = UBL + "CommonBasicComponents-2", UBL + "CommonAggregateComponents-2"
KIND = "kind"
"""A note of an UBL order that says which kind of order it is; without it, it is a purchase order."""


@record
class Told:
    """What a host tells in a file: its message id, and an order or an advance notice. The id is in effect once."""

    message: str
    topic: Topic
    order: Order | None = None
    notice: Notice | None = None

    @property
    def act(self) -> HostTells | HostAnnounces:
        """What it asks of the floor; :class:`BadText` when it tells nothing."""
        if self.notice is not None:
            return HostAnnounces(self.notice)
        if self.order is None or self.topic not in get_args(OrderTopic):
            raise _bad(self.message, "It tells neither an order nor a notice.")
        return HostTells(cast(OrderTopic, self.topic), self.order)


# Out


def letter_text(letter: Letter, form: str, ground: Ground) -> str:
    """A message in one of :data:`FORMS`."""
    if form == "csv":
        return _csv(letter)
    if form == "ubl":
        return _ubl(letter, ground)
    return json.dumps(to_plain(letter), indent=1, ensure_ascii=False) + "\n"


def _csv(letter: Letter) -> str:
    out = io.StringIO()
    head = {"message": letter.message, "topic": letter.topic}
    rows: list[dict[str, Any]] = []
    order, receipt = letter.order, letter.receipt
    if order:
        fixed = {**head, "number": order.number, "kind": order.kind.value, "site": order.site, "partner": order.partner, "promised": order.promised, "shipped": "yes" if order.shipped else "no"}  # fmt: skip
        rows = [{**fixed, "no": x.no, "item": x.item, "unit": x.unit, "quantity": x.quantity, "net_price": x.net_price} for x in order.lines]  # fmt: skip
    if receipt:
        fixed = {**head, "receipt": receipt.number, "plate": receipt.plate, "site": letter.site}
        rows = [{**fixed, "order": x.order, "order_line": x.order_line, "item": x.item, "quantity": x.quantity, "lot": x.lot, "expiry": x.expiry or ""} for x in receipt.lines]  # fmt: skip
    if letter.notice:
        notice = letter.notice
        rows = [
            {**head, "notice": notice.number, "order": notice.order, "plate": p.number, "plate_kind": p.plate_kind, "order_line": x.order_line, "item": x.item, "unit": x.unit, "quantity": x.quantity, "lot": x.lot, "expiry": x.expiry or ""}
            for p in notice.plates for x in p.lines
        ]  # fmt: skip
    if rows:
        writer = csv.DictWriter(out, list(rows[0]), lineterminator="\n")
        writer.writeheader()
        writer.writerows(rows)
    return out.getvalue()


def _ubl(letter: Letter, ground: Ground) -> str:
    root = {v: k for k, v in ROOTS.items()}.get(letter.topic, "ReceiptAdvice")
    ET.register_namespace("cbc", CBC)
    ET.register_namespace("cac", CAC)
    top = ET.Element(root, {"xmlns": f"{UBL}{root}-2"})
    _put(top, "UBLVersionID", "2.1")
    if letter.receipt:
        _receipt_advice(top, letter, letter.receipt, ground)
    elif letter.notice:
        _despatch_advice(top, letter, letter.notice, ground)
    elif letter.order:
        _order(top, letter, letter.order, ground)
    ET.indent(top, " ")
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ET.tostring(top, encoding="unicode") + "\n"


def _order(top: ET.Element, letter: Letter, order: Order, ground: Ground) -> None:
    _put(top, "ID", order.number)
    _put(top, "UUID", letter.message)
    _put(top, "IssueDate", str((letter.sent.date() if letter.sent else None) or order.promised))
    _put(top, "Note", f"{KIND}={order.kind.value}")
    _party(top, "SellerSupplierParty", order.partner)
    _put(_sub(top, "Delivery", "RequestedDeliveryPeriod"), "EndDate", order.promised.isoformat())
    for line in order.lines:
        item = _sub(top, "OrderLine", "LineItem")
        _put(item, "ID", str(line.no))
        _put(item, "Quantity", str(line.quantity), unitCode=un_unit(ground.items[line.item]))
        _put(_sub(item, "Price"), "PriceAmount", str(line.net_price), currencyID="XXX")
        _item(item, ground.items[line.item])


def _receipt_advice(top: ET.Element, letter: Letter, receipt: ReceiptNote, ground: Ground) -> None:
    _put(top, "ID", receipt.number)
    _put(top, "UUID", letter.message)
    if receipt.arrived:
        _put(top, "IssueDate", receipt.arrived.date().isoformat())
        _put(top, "IssueTime", receipt.arrived.time().isoformat("seconds"))
    for order in dict.fromkeys(x.order for x in receipt.lines):
        _put(_sub(top, "OrderReference"), "ID", order)
    _put(_sub(top, "Shipment", "TransportHandlingUnit"), "ID", receipt.plate)
    for line in receipt.lines:
        item = ground.items[line.item]
        one = _sub(top, "ReceiptLine")
        _put(one, "ID", str(line.line))
        _put(one, "ReceivedQuantity", str(line.quantity), unitCode=un_unit(item))
        ref = _sub(one, "OrderLineReference")
        _put(ref, "LineID", str(line.order_line))
        _put(_sub(ref, "OrderReference"), "ID", line.order)
        _lot(_item(one, item), line.lot, line.expiry)


def _despatch_advice(top: ET.Element, letter: Letter, notice: Notice, ground: Ground) -> None:
    _put(top, "ID", notice.number)
    _put(top, "UUID", letter.message)
    if letter.sent:
        _put(top, "IssueDate", letter.sent.date().isoformat())
    _put(_sub(top, "OrderReference"), "ID", notice.order)
    shipment = _sub(top, "Shipment")
    for plate in notice.plates:
        unit = _sub(shipment, "TransportHandlingUnit")
        _put(unit, "ID", plate.number)
        _put(unit, "TransportHandlingUnitTypeCode", plate.plate_kind)
        for no, line in enumerate(plate.lines, start=1):
            item = ground.items[line.item]
            one = _sub(unit, "HandlingUnitDespatchLine")
            _put(one, "ID", str(no))
            _put(one, "DeliveredQuantity", str(line.quantity), unitCode=un_unit(item))
            ref = _sub(one, "OrderLineReference")
            _put(ref, "LineID", str(line.order_line))
            _lot(_item(one, item), line.lot, line.expiry)


def _lot(inner: ET.Element, number: str, expiry: date | None) -> None:
    if number:
        lot = _sub(inner, "ItemInstance", "LotIdentification")
        _put(lot, "LotNumberID", number)
        if expiry:
            _put(lot, "ExpiryDate", expiry.isoformat())


def un_unit(item: Item) -> str:
    """The UN/ECE code of an item's base unit."""
    return UN_UNITS.get(item.base.code.lower(), "C62")


def _item(parent: ET.Element, item: Item) -> ET.Element:
    inner = _sub(parent, "Item")
    _put(inner, "Name", item.name)
    _put(_sub(inner, "SellersItemIdentification"), "ID", item.code)
    return inner


def _party(top: ET.Element, role: str, code: str) -> None:
    _put(_sub(top, role, "Party", "PartyIdentification"), "ID", code)


def _sub(parent: ET.Element, *names: str) -> ET.Element:
    for name in names:
        parent = ET.SubElement(parent, f"{{{CAC}}}{name}")
    return parent


def _put(parent: ET.Element, name: str, text: str, **attributes: str) -> None:
    ET.SubElement(parent, f"{{{CBC}}}{name}", attributes).text = text


# In


def read_told(content: bytes, name: str, ground: Ground, site: str) -> Told:
    """What a host tells in a file, by its ending; :class:`BadText` says what is wrong and where."""
    if len(content) > MOST_BYTES:
        raise _bad(name, f"It has more than {MOST_BYTES // 1_000_000} MB; send the order in parts.")
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise _bad(name, f"This is no text in UTF-8: byte {error.start + 1} does not belong there.") from None
    if name.lower().endswith(".xml"):
        plain = _from_ubl(text, name, ground, site)
    elif name.lower().endswith(".csv"):
        plain = _from_csv(text, name)
    else:
        plain = json_of(text, name)
        if isinstance(plain, dict):  # a message as it went out may come back: what else stands in it is left aside
            plain = {k: v for k, v in plain.items() if k not in ("site", "sent", "receipt") and v is not None}
    try:
        told = from_plain(Told, plain)
    except Misfit as misfit:
        raise _bad(f"{name}: {misfit.place}", f"{misfit.says}.") from None
    if not re.fullmatch(MESSAGE_ID, told.message):
        raise _bad(f"{name}: message", "A message id has 1 to 60 printable characters, no blanks among them.")
    return told


def json_of(text: str | bytes, name: str) -> Any:
    """What a JSON text holds; :class:`BadText` also when it nests too deep, or holds what cannot be kept."""
    try:
        plain = json.loads(text)
        orjson.dumps(plain)
    except RecursionError:
        raise _bad(name, "It nests too deep for a message.") from None
    except ValueError as error:
        raise _bad(name, f"This is no JSON: {error}.") from None
    except TypeError:
        raise _bad(name, "It holds a number that is too large, or half a character.") from None
    return plain


def _bad(place: str, says: str) -> BadText:
    return BadText(Problem("bad_message", says, place))


def _from_csv(text: str, name: str) -> Any:
    try:
        rows = list(csv.DictReader(io.StringIO(text)))
    except csv.Error as error:
        raise _bad(name, f"This is no CSV: {error}.") from None
    if not rows:
        raise _bad(name, "There are no lines in it.")
    if "notice" in rows[0]:
        return _notice_from_csv(rows, name)
    needed = {"message", "topic", "number", "kind", "site", "partner", "promised", "no", "item", "unit", "quantity"}
    missing = sorted(needed - set(rows[0]))
    if missing:
        raise _bad(name, f"The columns {', '.join(missing)} are missing.")
    lines = []
    for at, row in enumerate(rows, start=2):
        same = ("message", "topic", "number", "kind", "site", "partner", "promised")
        other = next((c for c in same if row[c] != rows[0][c]), None)
        if other:
            raise _bad(
                f"{name} line {at}", f"{other} is {row[other]!r} here and {rows[0][other]!r} before: one order a file."
            )
        lines.append(
            {
                "no": _whole(row, "no", name, at),
                "item": row["item"],
                "unit": row["unit"],
                "quantity": _whole(row, "quantity", name, at),
                "net_price": row.get("net_price") or "0",
            }
        )
    first = rows[0]
    return {
        "message": first["message"], "topic": first["topic"],
        "order": {
            "number": first["number"], "kind": first["kind"], "site": first["site"], "partner": first["partner"],
            "promised": first["promised"], "lines": lines, "shipped": first.get("shipped") == "yes",
        },
    }  # fmt: skip


def _notice_from_csv(rows: list[dict[str, str]], name: str) -> Any:
    needed = {"message", "order", "plate", "plate_kind", "order_line", "item", "unit", "quantity"}
    missing = sorted(needed - set(rows[0]))
    if missing:
        raise _bad(name, f"The columns {', '.join(missing)} are missing.")
    plates: dict[str, Any] = {}
    for at, row in enumerate(rows, start=2):
        plate = plates.setdefault(row["plate"], {"number": row["plate"], "plate_kind": row["plate_kind"], "lines": []})
        plate["lines"].append(
            {
                "order_line": _whole(row, "order_line", name, at), "item": row["item"], "unit": row["unit"],
                "quantity": _whole(row, "quantity", name, at), "lot": row.get("lot") or "", "expiry": row.get("expiry") or None,
            }
        )  # fmt: skip
    notice = {"number": rows[0]["notice"], "order": rows[0]["order"], "plates": list(plates.values())}
    return {"message": rows[0]["message"], "topic": "announce", "notice": notice}


def _whole(row: dict[str, str], column: str, name: str, at: int) -> int:
    try:
        return whole(row[column])
    except (TypeError, ValueError):
        says = f"{str(row[column])[:40]!r} in column {column} is not {MEANT[whole]}."
        raise _bad(f"{name} line {at}", says) from None


def _from_ubl(text: str, name: str, ground: Ground, site: str) -> Any:
    try:
        top = fromstring(text)
    except DefusedXmlException:
        raise _bad(name, "It defines entities; a message has none.") from None
    except ET.ParseError as error:
        raise _bad(name, f"This is no XML: {error}.") from None
    topic = ROOTS.get(top.tag.rsplit("}", 1)[-1])
    if topic is None:
        raise _bad(name, f"It is a {top.tag.rsplit('}', 1)[-1]}; {', '.join(ROOTS)} are read here.")
    if topic == "announce":
        return _notice_from_ubl(top, name, ground)
    kind = next((n.split("=", 1)[1] for n in _texts(top, "cbc:Note") if n.startswith(f"{KIND}=")), "purchase")
    lines = []
    for one in top.findall("cac:OrderLine/cac:LineItem", _NS):
        code = _text(one, "cac:Item/cac:SellersItemIdentification/cbc:ID", name)
        item = ground.items.get(ItemCode(code))
        no, quantity = _number(one, "cbc:ID", name, code), _number(one, "cbc:Quantity", name, code)
        price = one.findtext("cac:Price/cbc:PriceAmount", "0", _NS)
        lines.append(
            {
                "no": no,
                "item": code,
                "unit": item.base.code if item else "?",
                "quantity": quantity,
                "net_price": price,
            }
        )
    return {
        "message": _text(top, "cbc:UUID", name), "topic": topic,
        "order": {
            "number": _text(top, "cbc:ID", name), "kind": kind, "site": site,
            "partner": _text(top, "cac:SellerSupplierParty/cac:Party/cac:PartyIdentification/cbc:ID", name),
            "promised": _text(top, "cac:Delivery/cac:RequestedDeliveryPeriod/cbc:EndDate", name), "lines": lines,
        },
    }  # fmt: skip


def _notice_from_ubl(top: ET.Element, name: str, ground: Ground) -> Any:
    plates = []
    for unit in top.findall("cac:Shipment/cac:TransportHandlingUnit", _NS):
        lines = []
        for one in unit.findall("cac:HandlingUnitDespatchLine", _NS):
            code = _text(one, "cac:Item/cac:SellersItemIdentification/cbc:ID", name)
            item = ground.items.get(ItemCode(code))
            no = _number(one, "cac:OrderLineReference/cbc:LineID", name, code)
            quantity = _number(one, "cbc:DeliveredQuantity", name, code)
            lot = "cac:Item/cac:ItemInstance/cac:LotIdentification/cbc:"
            lines.append(
                {
                    "order_line": no, "item": code, "unit": item.base.code if item else "?", "quantity": quantity,
                    "lot": one.findtext(f"{lot}LotNumberID", "", _NS), "expiry": one.findtext(f"{lot}ExpiryDate", None, _NS),
                }
            )  # fmt: skip
        number, kind = _text(unit, "cbc:ID", name), unit.findtext("cbc:TransportHandlingUnitTypeCode", "", _NS)
        known = (
            kind
            if kind in ground.plate_kinds
            else next((k.code for k in ground.opening.plate_kinds if k.length_mm >= 1_000), kind)
        )
        plates.append({"number": number, "plate_kind": known, "lines": lines})
    notice = {
        "number": _text(top, "cbc:ID", name), "order": _text(top, "cac:OrderReference/cbc:ID", name), "plates": plates,
    }  # fmt: skip
    return {"message": _text(top, "cbc:UUID", name), "topic": "announce", "notice": notice}


_NS = {"cbc": CBC, "cac": CAC}


def _text(top: ET.Element, path: str, name: str) -> str:
    found = top.findtext(path, None, _NS)
    if not found or not found.strip():
        raise _bad(name, f"{path.replace('cbc:', '').replace('cac:', '')} is missing.")
    return found.strip()


def _number(top: ET.Element, path: str, name: str, item: str) -> int:
    text = _text(top, path, name)
    try:
        return whole(text)
    except ValueError:
        says = f"{path.rsplit(':', 1)[-1]} {text[:40]!r} is not {MEANT[whole]}, of base units."
        raise _bad(f"{name}: {item}", says) from None


def _texts(top: ET.Element, path: str) -> list[str]:
    return [(e.text or "").strip() for e in top.findall(path, _NS)]
