"""Messages between host and floor as files: what goes out comes back the same, in all three forms; what is wrong is said."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import UTC, date, datetime
from decimal import Decimal
from typing import Any

import pytest
from defusedxml.ElementTree import fromstring
from hypothesis import given, settings
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine
from mindful_crate.core.catalog.ids import MessageNo, NoticeNo, OrderNo, PlateKindCode, PlateNo
from mindful_crate.core.catalog.notices import Notice, NoticeLine, NoticePlate
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.world import acts
from mindful_crate.core.world.letters import Letter, letter
from mindful_crate.demo.loader import demo_letters, demo_opening
from mindful_crate.files import letter_pages
from mindful_crate.files.letters import FORMS, letter_text, read_told
from mindful_crate.files.texts import BadText
from tests.conftest import ROOT
from tests.playbook import Play, barcode, new_world

GROUND = Ground(demo_opening())
SENT = datetime(2026, 3, 3, 9, 15, tzinfo=UTC)
ENDING = {"json": "json", "csv": "csv", "ubl": "xml"}
NUMBERS = st.text("ABCXYZ0123456789-/_", min_size=1, max_size=20)
DAYS = st.dates(date(2020, 1, 1), date(2040, 12, 31))


@st.composite
def orders(draw: st.DrawFn) -> Order:
    """Any order the demo's host could have; units are base units, since UBL counts in them."""
    items = draw(st.lists(st.sampled_from(GROUND.opening.items), min_size=1, max_size=5))
    lines = tuple(
        OrderLine(n, i.code, i.base.code, draw(st.integers(1, 10**7)), Decimal(draw(st.integers(0, 99_999))) / 100)
        for n, i in enumerate(items, start=1)
    )
    partner = draw(st.sampled_from(GROUND.opening.partners)).code
    kind = draw(st.sampled_from(OrderKind))
    return Order(OrderNo(draw(NUMBERS)), kind, GROUND.opening.sites[0].code, partner, draw(DAYS), lines)


@st.composite
def notices(draw: st.DrawFn) -> Notice:
    """Any notice, whether or not a floor would take it: that is for the floor to say."""

    def line() -> NoticeLine:
        item = draw(st.sampled_from(GROUND.opening.items))
        lot = draw(st.sampled_from(["", "L-1", "0007", "Ä/9"]))
        expiry = draw(st.none() | DAYS) if lot else None
        return NoticeLine(draw(st.integers(1, 99)), item.code, item.base.code, draw(st.integers(1, 10**6)), lot, expiry)

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
    message = next(m for m in play.state.messages.values() if m.topic == "book_receipt")
    sent = letter(play.state, message)
    assert sent.receipt
    texts = {form: letter_text(sent, form, ground) for form in FORMS}
    quantity = str(sent.receipt.lines[0].quantity)
    for wanted in (order.number, "AF-RED-25", "LOT-7", "2028-05-01", quantity, sent.receipt.plate):
        assert all(wanted in text for text in texts.values()), wanted
    top = fromstring(texts["ubl"])
    assert top.tag == "{urn:oasis:names:specification:ubl:schema:xsd:ReceiptAdvice-2}ReceiptAdvice"
    unit = top.find(".//{*}TransportHandlingUnit/{*}ID")
    assert unit is not None and unit.text == sent.receipt.plate


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
    ("a.xml", ubl_order("\u00b2"), "a.xml: ROPE-12", "Quantity '\u00b2' is not a whole number"),
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


def test_a_transfer_that_was_shipped_says_so() -> None:
    """In JSON and CSV, which have a place for it."""
    order = replace(GROUND.orders[OrderNo("PO-1007")], kind=OrderKind.TRANSFER, shipped=True, confirmed=False)
    for form in ("json", "csv"):
        told = back(Letter(MessageNo("m"), "change_order", order.site, SENT, order), form)
        assert told.order and told.order.shipped
    assert PlateKindCode("PAL") in GROUND.plate_kinds


def test_the_published_page_of_messages_is_that_of_the_code() -> None:
    """docs/schemas/messages.md is what is written and read; what it calls needed is, and nothing else."""
    page = letter_pages.told(demo_letters(GROUND.opening), GROUND)
    assert (ROOT / "docs" / "schemas" / "messages.md").read_text() == page
    assert "| `quantity` | needed | `" in page and "| `net_price` | read | `" in page
    assert (
        "| `OrderLine/LineItem/Quantity` | needed |" in page
        and "| `OrderLine/LineItem/Item/Name` | left aside |" in page
    )
