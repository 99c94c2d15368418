"""Messages as UBL 2.1 (OASIS): Order-2, OrderChange-2, OrderCancellation-2 and DespatchAdvice-2 out and in,
ReceiptAdvice-2 out. What left goes out as a DespatchAdvice-2, taken back with the status ``Cancelled``.

What is written validates against the schemas. Quantities go out in base units; where an order counts in another unit, a
note says so (``unit=coil``), and notes hold what UBL has no element for (``kind=transfer``, ``shipped=yes``, ``priority=2``,
``service=next day``, ``channel=web``, ``notice=yes``). Where goods go, by whom and by when stands in Delivery; lots and serials that are
fixed in advance in the item's instances. A
cancellation has no lines in UBL; the whole order stands in its extension, for a reader that wants it.
"""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from collections.abc import Iterator
from datetime import date, datetime
from fractions import Fraction
from typing import Any

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from mindful_crate.core.catalog.goods import PRIORITY, Item, ItemUnit, Order
from mindful_crate.core.catalog.ids import ItemCode, SiteCode
from mindful_crate.core.catalog.notices import Notice, NoticeLine
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.topics import Topic
from mindful_crate.core.problem import Problem, Refusal
from mindful_crate.core.world.letters import Letter, ReceiptNote, ShipmentNote, ShippedLine
from mindful_crate.files.cells import LARGEST
from mindful_crate.files.texts import BadText
from mindful_crate.files.un_units import NoUnit, in_base, un_unit

ROOTS: dict[str, Topic] = {
    "Order": "confirm_order", "OrderChange": "change_order", "OrderCancellation": "cancel_order",
    "DespatchAdvice": "announce",
}  # fmt: skip
UBL = "urn:oasis:names:specification:ubl:schema:xsd:"
CBC, CAC, EXT = (
    UBL + name for name in ("CommonBasicComponents-2", "CommonAggregateComponents-2", "CommonExtensionComponents-2")
)
NS = {"cbc": CBC, "cac": CAC, "ext": EXT}
MOST_DIGITS = 40
"""Characters of a quantity; more is no quantity of anything."""


def bad(place: str, says: str) -> BadText:
    """A message that cannot be taken, and where it is wrong."""
    return BadText(Problem("bad_message", says, place))


# Out


def ubl_text(letter: Letter, ground: Ground) -> str:
    """A message as a UBL document."""
    if letter.count:
        raise Refusal("no_ubl", "UBL has no document for what was counted: take it as JSON or CSV.", "form")
    root = {v: k for k, v in ROOTS.items()}.get(letter.topic, "ReceiptAdvice")
    for prefix, uri in NS.items():
        ET.register_namespace(prefix, uri)
    if letter.receipt:
        top = _receipt_advice(root, letter, letter.receipt, ground)
    elif letter.notice:
        top = _despatch_advice(root, letter, letter.notice, ground)
    elif letter.shipment:
        top = _despatched(letter, letter.shipment, ground)
    elif letter.order:
        top = _order(root, letter, letter.order, ground)
    else:
        top = _top(root, "", letter)
    ET.indent(top, " ")
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ET.tostring(top, encoding="unicode") + "\n"


def _top(root: str, number: str, letter: Letter, extension: ET.Element | None = None) -> ET.Element:
    """A document with its head; what stands in its extension comes before that."""
    top = ET.Element(root, {"xmlns": f"{UBL}{root}-2"})
    if extension is not None:
        held = ET.SubElement(ET.SubElement(top, f"{{{EXT}}}UBLExtensions"), f"{{{EXT}}}UBLExtension")
        ET.SubElement(held, f"{{{EXT}}}ExtensionContent").append(extension)
    _put(top, "UBLVersionID", "2.1")
    _put(top, "ID", number)
    _put(top, "UUID", letter.message)
    return top


def _order(root: str, letter: Letter, order: Order, ground: Ground) -> ET.Element:
    cancels = root == "OrderCancellation"
    top = _top(root, order.number, letter, _order("Order", letter, order, ground) if cancels else None)
    _issued(top, letter.sent, order.promised)
    if root == "OrderChange":
        _put(top, "SequenceNumberID", letter.message)
    _put(top, "Note", f"kind={order.kind.value}")
    for note, said in _notes_of(order).items() if not cancels else ():
        _put(top, "Note", f"{note}={said}")
    if cancels:
        _put(top, "CancellationNote", f"{order.number} is no longer wanted.")
    if root != "Order":
        _put(_sub(top, "OrderReference"), "ID", order.number)
    _party(top, "BuyerCustomerParty", order.site)
    _party(top, "SellerSupplierParty", order.partner)
    if cancels:
        return top
    delivery = _sub(top, "Delivery")
    if order.ship_to:
        address = _sub(delivery, "DeliveryAddress")
        for told in order.ship_to:
            _put(_sub(address, "AddressLine"), "Line", told)
    _put(_sub(delivery, "RequestedDeliveryPeriod"), "EndDate", order.promised.isoformat())
    if order.carrier:
        _put(_sub(delivery, "CarrierParty", "PartyIdentification"), "ID", order.carrier)
    if order.ship_by:
        _put(_sub(delivery, "Despatch"), "RequestedDespatchDate", order.ship_by.isoformat())
    for line in order.lines:
        item = ground.items[line.item]
        one = _sub(top, "OrderLine", "LineItem")
        _put(one, "ID", str(line.no))
        _unit_note(one, item, line.unit)
        _put(one, "Quantity", str(line.quantity), unitCode=un_unit(item))
        if line.promised:
            _put(_sub(one, "Delivery", "RequestedDeliveryPeriod"), "EndDate", line.promised.isoformat())
        _put(_sub(one, "Price"), "PriceAmount", f"{line.net_price:f}", currencyID="XXX")
        _instances(_item(one, item), line.lot, None, line.serials)
    return top


def _notes_of(order: Order) -> dict[str, str]:
    """What of an order UBL has no element for, as far as it says more than an order says anyway."""
    told = {
        "shipped": "yes" if order.shipped else "",
        "priority": str(order.priority) if order.priority != PRIORITY else "",
        "service": order.service,
        "channel": order.channel,
        "notice": "yes" if order.notice_needed else "",
        "transfer": order.transfer,
    }
    return {note: said for note, said in told.items() if said}


def _receipt_advice(root: str, letter: Letter, receipt: ReceiptNote, ground: Ground) -> ET.Element:
    top = _top(root, receipt.number, letter)
    _issued(top, receipt.arrived or letter.sent, None)
    if letter.topic == "undo_receipt":
        _put(top, "Note", "undone=yes")
    for order in dict.fromkeys(x.order for x in receipt.lines):
        _put(_sub(top, "OrderReference"), "ID", order)
    for note in dict.fromkeys(x.note for x in receipt.lines if x.note):
        _put(_sub(top, "DespatchDocumentReference"), "ID", note)
    _party(top, "DeliveryCustomerParty", letter.site)
    _party(top, "DespatchSupplierParty", letter.partner or "")
    shipment = _sub(top, "Shipment")
    _put(shipment, "ID", receipt.number)
    _plate(_sub(shipment, "TransportHandlingUnit"), receipt.plate)
    for line in receipt.lines:
        item = ground.items[line.item]
        one = _sub(top, "ReceiptLine")
        _put(one, "ID", str(line.line))
        _put(one, "ReceivedQuantity", str(line.quantity), unitCode=un_unit(item))
        _order_line(one, line.order, line.order_line)
        _instances(_item(one, item), line.lot, line.expiry, line.serials)
    return top


def _despatch_advice(root: str, letter: Letter, notice: Notice, ground: Ground) -> ET.Element:
    top = _top(root, notice.number, letter)
    _issued(top, letter.sent, None)
    _put(_sub(top, "OrderReference"), "ID", notice.order)
    _party(top, "DespatchSupplierParty", letter.partner or "")
    _party(top, "DeliveryCustomerParty", letter.site)
    shipment = _sub(top, "Shipment")
    _put(shipment, "ID", notice.number)
    for plate in notice.plates:
        unit = _sub(shipment, "TransportHandlingUnit")
        _plate(unit, plate.number)
        _put(unit, "TransportHandlingUnitTypeCode", plate.plate_kind)
        for no, line in enumerate(plate.lines, start=1):
            _despatch_line(_sub(unit, "HandlingUnitDespatchLine"), no, line, notice.order, ground)
    every = [(plate, line) for plate in notice.plates for line in plate.lines]
    for no, (plate, line) in enumerate(every, start=1):
        one = _sub(top, "DespatchLine")
        _despatch_line(one, no, line, notice.order, ground)
        where = _sub(one, "Shipment")
        _put(where, "ID", notice.number)
        _plate(_sub(where, "TransportHandlingUnit"), plate.number)
    return top


def _despatched(letter: Letter, note: ShipmentNote, ground: Ground) -> ET.Element:
    """What left. One that is taken back says so by its status; where its lines are not known any more one stands for all."""
    top = _top("DespatchAdvice", note.number, letter)
    _issued(top, note.left or letter.sent, None)
    _put(top, "DocumentStatusCode", "Cancelled" if letter.topic == "undo_shipment" else "NoStatus")
    if note.service:
        _put(top, "Note", f"service={note.service}")
    for order in dict.fromkeys(x.order for x in note.lines):
        _put(_sub(top, "OrderReference"), "ID", order)
    _party(top, "DespatchSupplierParty", letter.site)
    _party(top, "DeliveryCustomerParty", note.partner)
    shipment = _sub(top, "Shipment")
    _put(shipment, "ID", note.number)
    weight = sum(p.weight_mg for p in note.plates if p.on is None or p.weight_mg)
    if weight:
        _put(shipment, "GrossWeightMeasure", str(weight // 1000), unitCode="GRM")
    if note.carrier:
        stage = _sub(shipment, "Consignment")
        _put(stage, "ID", note.number)
        _put(_sub(stage, "CarrierParty", "PartyIdentification"), "ID", note.carrier)
    if note.address:
        address = _sub(shipment, "Delivery", "DeliveryAddress")
        for told in note.address:
            _put(_sub(address, "AddressLine"), "Line", told)
    lines = list(enumerate(note.lines, start=1))
    for plate in note.plates:
        unit = _sub(shipment, "TransportHandlingUnit")
        _plate(unit, plate.number)
        _put(unit, "TransportHandlingUnitTypeCode", plate.plate_kind)
        for no, line in lines:
            if line.plate == plate.number:
                _despatch_line(
                    _sub(unit, "HandlingUnitDespatchLine"), no, _as_noticed(line, ground), line.order, ground
                )
        if plate.weight_mg:
            measured = _sub(unit, "MeasurementDimension")
            _put(measured, "AttributeID", "gross weight")
            _put(measured, "Measure", str(plate.weight_mg // 1000), unitCode="GRM")
        if plate.on:
            _plate(_sub(unit, "ReferencedShipment"), plate.on)
    for no, line in lines:
        one = _sub(top, "DespatchLine")
        _despatch_line(one, no, _as_noticed(line, ground), line.order, ground)
        if line.plate:
            where = _sub(one, "Shipment")
            _put(where, "ID", note.number)
            _plate(_sub(where, "TransportHandlingUnit"), line.plate)
    if not lines:
        one = _sub(top, "DespatchLine")
        _put(one, "ID", "0")
        _put(_sub(one, "OrderLineReference"), "LineID", "0")
        _put(_sub(one, "Item"), "Name", "all of the shipment")
    return top


def _as_noticed(line: ShippedLine, ground: Ground) -> NoticeLine:
    """A line that left, as a notice tells it: in the base unit."""
    unit = ground.items[line.item].base.code
    return NoticeLine(line.order_line, line.item, unit, line.quantity, line.lot, line.expiry, line.serials)


def _despatch_line(one: ET.Element, no: int, line: NoticeLine, order: str, ground: Ground) -> None:
    item = ground.items[line.item]
    _put(one, "ID", str(no))
    _unit_note(one, item, line.unit)
    _put(one, "DeliveredQuantity", str(line.quantity), unitCode=un_unit(item))
    _order_line(one, order, line.order_line)
    _instances(_item(one, item), line.lot, line.expiry, line.serials)


def _issued(top: ET.Element, at: datetime | None, day: date | None) -> None:
    if at is not None:
        _put(top, "IssueDate", at.date().isoformat())
        _put(top, "IssueTime", at.time().isoformat("seconds") + "Z")
    elif day is not None:
        _put(top, "IssueDate", day.isoformat())


def _order_line(one: ET.Element, order: str, no: int) -> None:
    ref = _sub(one, "OrderLineReference")
    _put(ref, "LineID", str(no))
    _put(_sub(ref, "OrderReference"), "ID", order)


def _unit_note(one: ET.Element, item: Item, unit: str) -> None:
    if unit != item.base.code:
        _put(one, "Note", f"unit={unit}")


def _plate(unit: ET.Element, number: str) -> None:
    _put(unit, "ID", number, schemeID="SSCC" if number.isdigit() and len(number) == 18 else "plate")


def _instances(inner: ET.Element, lot: str, expiry: date | None, serials: tuple[str, ...]) -> None:
    """The pieces of a line: each by its serial number, all of one lot, or one for the lot alone."""
    for serial in serials or (("",) if lot else ()):
        instance = _sub(inner, "ItemInstance")
        if serial:
            _put(instance, "SerialID", serial)
        if lot:
            known = _sub(instance, "LotIdentification")
            _put(known, "LotNumberID", lot)
            if expiry:
                _put(known, "ExpiryDate", expiry.isoformat())


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


def from_ubl(content: bytes, name: str, ground: Ground, site: str) -> Any:
    """The plain form of what a UBL document tells a site, in whatever encoding it declares; :class:`BadText` says what
    is wrong and where."""
    try:
        top = fromstring(content)
    except DefusedXmlException:
        raise bad(name, "It defines entities; a message has none.") from None
    except ET.ParseError as error:
        raise bad(name, f"This is no XML: {error}.") from None
    except (ValueError, LookupError):
        raise bad(name, "It declares an encoding that is not read here; UTF-8 is.") from None
    topic = ROOTS.get(_named(top))
    if topic is None:
        raise bad(name, f"It is a {_named(top)[:60]}; {', '.join(ROOTS)} are read here.")
    told = _Told(top, name, ground, site)
    if topic == "announce":
        return {"message": told.text(top, "cbc:UUID"), "topic": topic, "notice": told.notice()}
    return {"message": told.text(top, "cbc:UUID"), "topic": topic, "order": told.order(topic)}


def _named(element: ET.Element) -> str:
    return element.tag.rsplit("}", 1)[-1]


class _Told:
    """A document as it is read for a site."""

    def __init__(self, top: ET.Element, name: str, ground: Ground, site: str) -> None:
        self.top, self.name, self.ground, self.site = top, name, ground, site

    def order(self, topic: Topic) -> dict[str, Any]:
        """An order; of a cancellation that says no more, its number and partner alone."""
        top = self.top
        self._for_us("BuyerCustomerParty")
        number = self._order_named(top) or self.text(top, "cbc:ID")
        whole = top.find("ext:UBLExtensions/ext:UBLExtension/ext:ExtensionContent/{*}Order", NS)
        if topic == "cancel_order" and whole is not None:
            top = whole
        notes = self._notes(top)
        partner = self.text(top, "cac:SellerSupplierParty/cac:Party/cac:PartyIdentification/cbc:ID")
        found = {"number": number, "kind": notes.get("kind", "purchase"), "site": self.site, "partner": partner}
        if topic == "cancel_order" and top is self.top:
            return {**found, "promised": self._day(top, "cbc:IssueDate"), "lines": []}
        promised = self._day(top, "cac:Delivery/cac:RequestedDeliveryPeriod/cbc:EndDate")
        lines = [self._order_line(one) for one in top.findall("cac:OrderLine/cac:LineItem", NS)]
        return {**found, "promised": promised, "lines": lines, **self._delivery(top, notes)}

    def _delivery(self, top: ET.Element, notes: dict[str, str]) -> dict[str, Any]:
        """Where an order's goods go, by whom and by when, and what its notes say, as far as it says anything."""
        lines = [
            (e.text or "").strip() for e in top.findall("cac:Delivery/cac:DeliveryAddress/cac:AddressLine/cbc:Line", NS)
        ]
        carrier = top.findtext("cac:Delivery/cac:CarrierParty/cac:PartyIdentification/cbc:ID", "", NS).strip()
        ship_by = "cac:Delivery/cac:Despatch/cbc:RequestedDespatchDate"
        found: dict[str, Any] = {
            "ship_to": [told for told in lines if told],
            "carrier": carrier,
            "ship_by": self._day(top, ship_by) if top.find(ship_by, NS) is not None else "",
            "service": notes.get("service", ""),
            "channel": notes.get("channel", ""),
            "transfer": notes.get("transfer", ""),
            "shipped": notes.get("shipped") == "yes",
            "notice_needed": notes.get("notice") == "yes",
        }
        if "priority" in notes:
            found["priority"] = self._whole(notes["priority"], "The note on its priority")
        return {name: said for name, said in found.items() if said}

    def _order_line(self, one: ET.Element) -> dict[str, Any]:
        item, means = self._item(one)
        quantity, unit = self._quantity(one, "cbc:Quantity", item, means)
        price = one.findtext("cac:Price/cbc:PriceAmount", "0", NS).strip()
        instances = one.findall("cac:Item/cac:ItemInstance", NS)
        serials = [s for e in instances if (s := e.findtext("cbc:SerialID", "", NS).strip())]
        lots = {n.strip() for e in instances if (n := e.findtext("cac:LotIdentification/cbc:LotNumberID", "", NS))}
        if len(lots) > 1:
            raise bad(f"{self.name}: {item.code}", f"A line fixes one lot, not {', '.join(sorted(lots)[:5])}.")
        own_day = "cac:Delivery/cac:RequestedDeliveryPeriod/cbc:EndDate"
        found: dict[str, Any] = {
            "lot": next(iter(lots), ""),
            "serials": serials,
            "promised": self._day(one, own_day) if one.find(own_day, NS) is not None else "",
        }
        return {
            "no": self._no(one, "cbc:ID", item),
            "item": item.code,
            "unit": unit,
            "quantity": quantity,
            "net_price": price,
            **{name: said for name, said in found.items() if said},
        }

    def notice(self) -> dict[str, Any]:
        """An advance notice: which plates come, and what is on each."""
        top = self.top
        self._for_us("DeliveryCustomerParty")
        units = top.findall("cac:Shipment/cac:TransportHandlingUnit", NS)
        lines: dict[str, list[ET.Element]] = {
            self._plate_number(u): u.findall("cac:HandlingUnitDespatchLine", NS) for u in units
        }
        if len(lines) < len(units):
            raise bad(self.name, "Two plates of it have one number.")
        if not any(lines.values()):  # then its lines alone say what comes
            for one in top.findall("cac:DespatchLine", NS):
                lines.setdefault(self._plate_of(one, list(lines)), []).append(one)
        kinds = {self._plate_number(u): u.findtext("cbc:TransportHandlingUnitTypeCode", "", NS) for u in units}
        plates = [
            {"number": number, "plate_kind": self._plate_kind(kinds.get(number, "")), "lines": [self._notice_line(x) for x in found]}
            for number, found in lines.items()
        ]  # fmt: skip
        return {"number": self.text(top, "cbc:ID"), "order": self._one_order(lines.values()), "plates": plates}

    def _notice_line(self, one: ET.Element) -> dict[str, Any]:
        item, means = self._item(one)
        quantity, unit = self._quantity(one, "cbc:DeliveredQuantity", item, means)
        instances = one.findall("cac:Item/cac:ItemInstance", NS)
        instance = instances[0] if instances else None
        serials = [n for e in instances if (n := e.findtext("cbc:SerialID", "", NS).strip())]
        lot = expiry = None
        if instance is not None:
            lot = instance.findtext("cac:LotIdentification/cbc:LotNumberID", None, NS)
            ways = ("cac:LotIdentification/cbc:ExpiryDate", "cbc:BestBeforeDate")
            expiry = next((self._day(instance, w) for w in ways if instance.find(w, NS) is not None), None)
        no = self._no(one, "cac:OrderLineReference/cbc:LineID", item)
        return {
            "order_line": no, "item": item.code, "unit": unit, "quantity": quantity, "lot": (lot or "").strip(), "expiry": expiry,
            **({"serials": serials} if serials else {}),
        }  # fmt: skip

    def _one_order(self, plates: Any) -> str:
        """The order all lines are of. A notice is of one order; one that names several is refused, not cut down."""
        head = self._order_named(self.top)
        named = {self._order_named(one.find("cac:OrderLineReference", NS)) or head for lines in plates for one in lines}
        every = sorted((named or {head}) - {""})
        if not every:
            raise bad(self.name, "OrderReference/ID is missing.")
        if len(every) > 1:
            raise bad(
                self.name, f"It names the orders {', '.join(every[:5])}. A notice is of one order: send one for each."
            )
        return every[0]

    @staticmethod
    def _order_named(parent: ET.Element | None) -> str:
        found = parent.findtext("cac:OrderReference/cbc:ID", "", NS) if parent is not None else ""
        return found.strip()

    def _plate_number(self, unit: ET.Element) -> str:
        number = self.text(unit, "cbc:ID")
        found = re.fullmatch(r"(?:\(00\)|00)(\d{18})", number.replace(" ", ""))
        return found[1] if found else number

    def _plate_of(self, one: ET.Element, plates: list[str]) -> str:
        unit = one.find("cac:Shipment/cac:TransportHandlingUnit", NS)
        if unit is not None:
            return self._plate_number(unit)
        if len(plates) != 1:
            no = one.findtext("cbc:ID", "?", NS)
            said = "names no plate" if not plates else f"names {len(plates)} plates"
            raise bad(self.name, f"Line {no} does not say on which plate it comes, and the document {said}.")
        return plates[0]

    def _plate_kind(self, code: str) -> str:
        if code in self.ground.plate_kinds:
            return code
        return next((k.code for k in self.ground.opening.plate_kinds if k.length_mm >= 1_000), code)

    def _for_us(self, role: str) -> None:
        party = self.top.findtext(f"cac:{role}/cac:Party/cac:PartyIdentification/cbc:ID", "", NS).strip()
        if party != self.site and SiteCode(party) in self.ground.sites:
            raise bad(self.name, f"It is for site {party}, and this is {self.site}.")

    def _item(self, one: ET.Element) -> tuple[Item, ItemUnit | None]:
        """The item of a line, by our code or a barcode; and the barcode's unit."""
        inner = one.find("cac:Item", NS)
        found: dict[ItemCode, ItemUnit | None] = {}
        named = []
        for way in ("BuyersItemIdentification", "SellersItemIdentification", "StandardItemIdentification"):
            code = (inner.findtext(f"cac:{way}/cbc:ID", "", NS) if inner is not None else "").strip()
            if not code:
                continue
            named.append(code)
            if ItemCode(code) in self.ground.items:
                found.setdefault(ItemCode(code), None)
            elif way == "StandardItemIdentification":
                barcode = self.ground.barcodes.get(code) or self.ground.barcodes.get(code.lstrip("0"))
                if barcode:
                    units = self.ground.items[barcode.item].units
                    found[barcode.item] = next(u for u in units if u.code == barcode.unit)
        if not named:
            raise bad(self.name, "Item/SellersItemIdentification/ID is missing.")
        if len(found) != 1:
            says = "is no item here" if not found else "are different items here"
            raise bad(self.name, f"{', '.join(named)} {says}.")
        code, means = next(iter(found.items()))
        return self.ground.items[code], means

    def _quantity(self, one: ET.Element, path: str, item: Item, means: ItemUnit | None) -> tuple[int, str]:
        text = self.text(one, path)
        element = one.find(path, NS)
        code = (element.get("unitCode") or "").strip() if element is not None else ""
        place = f"{self.name}: {item.code}"
        if len(text) > MOST_DIGITS or not re.fullmatch(r"[+]?[0-9]+(\.[0-9]*)?", text):
            raise bad(place, f"{path[4:]} {text[:40]!r} is not a number of at most 15 digits.")
        try:
            quantity, unit = in_base(item, Fraction(text), code, means)
        except NoUnit as no:
            raise bad(place, f"{path[4:]}: {no}.") from None
        if quantity > LARGEST:
            raise bad(place, f"{path[4:]} {text[:40]!r} is not a whole number of at most 15 digits.")
        noted = self._notes(one).get("unit", unit.code)
        if all(noted != u.code for u in item.units):
            raise bad(place, f"Its note counts in {noted[:40]!r}, which is no unit of it.")
        return quantity, noted

    def _no(self, one: ET.Element, path: str, item: Item) -> int:
        return self._whole(self.text(one, path), path.rsplit(":", 1)[-1], f": {item.code}")

    def _whole(self, text: str, what: str, of: str = "") -> int:
        if not re.fullmatch(r"[0-9]{1,15}", text):
            raise bad(f"{self.name}{of}", f"{what} {text[:40]!r} is not a whole number.")
        return int(text)

    def _day(self, parent: ET.Element, path: str) -> str:
        """A date as it is written; the zone that may follow it does not move it."""
        return re.sub(r"(Z|[+-]\d\d:\d\d)$", "", self.text(parent, path))

    @staticmethod
    def _notes(parent: ET.Element) -> dict[str, str]:
        texts: Iterator[str] = ((e.text or "").strip() for e in parent.findall("cbc:Note", NS))
        return {k: v for k, is_, v in (t.partition("=") for t in texts) if is_}

    def text(self, parent: ET.Element, path: str) -> str:
        """The text of an element that must be there."""
        found = parent.findtext(path, None, NS)
        if not found or not found.strip():
            raise bad(self.name, f"{path.replace('cbc:', '').replace('cac:', '')} is missing.")
        return found.strip()
