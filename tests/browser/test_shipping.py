"""Packed at the station, followed on the dock board, and sent off: on the real pages, from a wave to what the host was told."""

from __future__ import annotations

import re
from typing import Any

import pypdfium2
import pytest
from playwright.sync_api import Page, expect

from mindful_crate.demo.loader import DEMO_PASSWORD
from tests.browser.conftest import no_axe_violations, scan, sign_in
from tests.browser.test_handset import hold
from tests.browser.test_release import HEAD
from tests.core.test_picking import bar

LINES = [("SHK-08", 12), ("CLT-15", 3)]


def picked(page: Page, number: str) -> str:
    """A run in which an order was gathered by a wave, let go, and its goods were fetched to the pack bench."""
    seen = 0

    def act(**what: Any) -> str:
        nonlocal seen
        seen += 1
        answer = page.request.post(
            f"/api/worlds/{world}/commands", data={"id": f"{number} {seen}", "act": what}, headers=HEAD
        )
        entry = answer.json()["entry"]
        assert entry["done"], entry["says"]
        return str(entry["says"])

    made = page.request.post(
        "/api/worlds", data={"name": "To the truck", "draft": "d-1", "book_seconds": 2}, headers=HEAD
    )
    world = str(made.json()["id"])
    order = {
        "number": number, "kind": "sales", "site": "HQ", "partner": "C-500", "promised": "2026-03-20", "carrier": "TIDE",
        "lines": [
            {"no": n, "item": item, "unit": "pc", "quantity": much, "net_price": "1.00"}
            for n, (item, much) in enumerate(LINES, 1)
        ],
    }  # fmt: skip
    act(kind="write_order", order=order)
    act(kind="confirm_order", order=number)
    act(kind="wait", seconds=60)
    act(kind="release_orders", orders=[number])
    (task,) = re.findall(r"TR-\d+", act(kind="make_wave", plan="WP-2"))
    act(kind="let_wave_go", wave="WR-0001")
    act(kind="pick_in_office", task=task, why="picked by paper")
    return world


def test_what_is_in_the_carton_is_seen_and_taken_out_on_the_phone(page: Page, phone: Page) -> None:
    """What is scanned while the flow opens is not lost. The list is the carton's, and beside each line stands what may be done with it there."""
    sign_in(page)
    world = picked(page, "SO-7003")
    asked = page.request.post(f"/api/worlds/{world}/guests", data={"person": "oren"}, headers=HEAD)
    assert asked.ok, asked.text()
    phone.request.post("/api/session", data={"login": "oren", "password": DEMO_PASSWORD}, headers=HEAD)
    phone.goto(f"/handset?world={world}")
    phone.get_by_role("button", name=re.compile("^Pack")).click()
    title = phone.locator(".hs h1")
    for code, then in (("SO-7003", "Scan what goes in"), (bar("SHK-08"), "How many")):
        scan(phone, code)
        expect(title).to_contain_text(then)
    phone.get_by_role("button", name="Confirm 12").click()
    phone.get_by_role("button", name="In it: 1").click()
    expect(title).to_contain_text(re.compile("^In carton"))
    expect(phone.locator(".hs-lines")).to_contain_text("12 pieces for SO-7003")
    expect(phone.get_by_role("button", name="Take off")).to_have_count(0)
    no_axe_violations(phone)
    phone.get_by_role("button", name="Take out").click()
    phone.get_by_label("How many pieces").fill("2")
    phone.get_by_role("button", name="Take out").click()
    expect(phone.get_by_role("status")).to_contain_text("2 pieces of Bow shackle 8 mm out of")
    expect(title).to_have_text("Scan what goes in")
    phone.get_by_role("button", name="In it: 1").click()
    expect(phone.locator(".hs-lines")).to_contain_text("10 pieces for SO-7003")


@pytest.mark.needs("J05", "O01", "P02", "P08")
def test_an_order_is_packed_at_the_station_and_leaves_from_the_dock_board(page: Page) -> None:
    """What alone stands at the bench is begun by it, each refusal by name, one carton closed by the scale and by keys alone; then staged, loaded, sent off, its papers read;
    and taken back when the truck was the wrong one."""
    sign_in(page)
    world = picked(page, "SO-7001")
    page.goto(f"/station?world={world}")
    page.get_by_role("button", name=re.compile("PACK-1")).click()
    work, ask, strip = (
        page.get_by_label(n, exact=True) for n in ("What is packed", "The question", "Cartons of this shipment")
    )
    page.get_by_label("With the hands of").select_option("oren")
    expect(work).to_contain_text("Left to pack: 2 lines")  # what alone stands at the bench is begun by the bench itself
    expect(work).to_contain_text("SO-7001")
    no_axe_violations(page)
    scan(page, bar("SHK-10"))
    expect(page.get_by_role("status")).to_contain_text(re.compile("refused.*SHK-10|refused.*Bow shackle 10"))
    scan(page, bar("SHK-08"))
    expect(page.get_by_label("Scan or type")).to_have_attribute("placeholder", re.compile("^12 "))
    page.keyboard.press("Enter")
    expect(work.get_by_label("The open carton")).to_contain_text("Bow shackle 8 mm")
    expect(work).to_contain_text("Left to pack: 1 line")
    no_axe_violations(page)
    page.keyboard.press("Alt+a")
    expect(ask.get_by_role("button", name=re.compile("^All of it is in"))).to_be_visible()
    page.keyboard.press("Alt+y")
    expect(work.get_by_label("What is left")).to_have_count(0)
    page.keyboard.press("Alt+c")
    expect(ask.get_by_role("button", name=re.compile("^Alt 1"))).to_be_visible()
    page.keyboard.press("Alt+1")
    expect(page.get_by_label("Scan or type")).to_have_attribute("placeholder", re.compile("kg: Enter$"))
    page.keyboard.press("Enter")
    expect(page.get_by_role("status")).to_contain_text("is closed")
    expect(strip).to_contain_text("closed")

    page.goto(f"/dock?world={world}")
    one = page.get_by_label("Chosen shipment")
    expect(one).to_contain_text("0 of 2 staged")
    expect(one.get_by_label("Cartons and plates").get_by_role("listitem")).to_have_count(1)
    one.get_by_label("Cartons and plates").locator("summary").click()
    expect(one.get_by_label("Cartons and plates")).to_contain_text("SO-7001/2")
    expect(one.get_by_role("table", name="What carriers take")).to_contain_text("TIDE")
    no_axe_violations(page)
    one.get_by_role("button", name=re.compile("^Book TIDE")).first.click()
    expect(one).to_contain_text("Booked: ")
    one.get_by_role("button", name=re.compile("^Stage it in ")).click()
    expect(one).to_contain_text("0 of 2 loaded")
    papers = one.get_by_role("table", name="Papers")
    expect(papers).to_contain_text(re.compile(r"Loading list\s*printed .* on PAPER-1\s*print again"))
    one.get_by_role("button", name="Print the packing list").click()
    expect(papers).to_contain_text(re.compile(r"Packing list\s*printed .* on PAPER-1"))
    expect(papers).not_to_contain_text("it says otherwise now")
    boxes = one.get_by_label("Cartons and plates")
    boxes.get_by_role("button", name="Put it onto that").click()
    expect(boxes).to_contain_text("STG-01, on 19520001")
    expect(papers).to_contain_text(re.compile(r"Loading list\s*printed .*it says otherwise now"))
    no_axe_violations(page)
    one.get_by_role("button", name="Load all of it").click()
    expect(one).to_contain_text("may leave")
    boxes.get_by_role("button", name=re.compile("^Take pallet .* off the truck$")).first.click()
    expect(one).not_to_contain_text("may leave")
    one.get_by_role("button", name="Load all of it").click()
    expect(one).to_contain_text("may leave")
    one.get_by_role("button", name="Ship it").click()
    gone = page.get_by_role("table", name="Shipments that have left")
    expect(gone).to_contain_text("SO-7001")
    later = {"id": "later", "act": {"kind": "wait", "seconds": 60}}
    assert page.request.post(f"/api/worlds/{world}/commands", data=later, headers=HEAD).ok
    expect(gone).to_contain_text("booked by the host")
    for name in ("Packing list", "Loading list", "Bill of lading", "Pallet sheets"):
        path = one.get_by_role("link", name=name).get_attribute("href")
        sheet = pypdfium2.PdfDocument(page.request.get(str(path)).body())[0]
        assert "SHR-0001" in sheet.get_textpage().get_text_range(), name
    page.goto(f"/documents?world={world}&doc=SO-7001")
    chain = page.locator(".chain")
    expect(chain).to_contain_text("SHR-0001")
    expect(chain).to_contain_text(re.compile("sales order.*shipped"))
    expect(chain).not_to_contain_text("not shipped yet")
    page.goto(f"/dock?world={world}")
    one.get_by_role("button", name="Take it back").click()
    form = page.get_by_role("dialog", name="Take a shipment back")
    form.get_by_role("textbox").fill("the wrong truck")
    form.get_by_role("button", name="Ask the host").click()
    assert page.request.post(f"/api/worlds/{world}/commands", data={**later, "id": "later still"}, headers=HEAD).ok
    expect(page.get_by_role("table", name="Shipments", exact=True)).to_contain_text("SO-7001")


@pytest.mark.needs("P05", "P06")
def test_scales_and_carriers_are_set_and_the_packing_chapter_packs_an_order(page: Page) -> None:
    """The chapter's sentences and its bench: cartons drawn and what carriers take; on the floor a scale is off and a carrier down, and both say so."""
    sign_in(page, at="/packing")
    expect(page.locator("#PK-1")).to_contain_text("Electronics")
    bench = page.get_by_label("Bench")
    expect(bench.locator("svg, canvas").first).to_be_visible()
    expect(bench).to_contain_text("TIDE")
    no_axe_violations(page)
    world = picked(page, "SO-7002")
    page.goto(f"/stand-ins?world={world}")
    scales = page.get_by_role("table", name="Scales")
    expect(scales).to_contain_text("Pack bench 1")
    no_axe_violations(page)
    scales.get_by_role("button", name="Let it not answer").first.click()
    expect(scales.get_by_role("row").first).to_contain_text("does not answer")
    tide = page.get_by_role("table", name="Carriers").get_by_role("row").filter(has_text="TIDE")
    tide.get_by_role("textbox").first.fill("no lorry today")
    tide.get_by_role("button", name="Let it refuse").click()
    expect(tide).to_contain_text("refuses: no lorry today")


def test_keys_pressed_before_the_answer_are_for_what_is_asked_next(page: Page) -> None:
    """A scan whose answer is late, its number confirmed, the rest, a look, all of it in: each in its turn; a key that means nothing to what is asked then is
    said, and does nothing."""
    sign_in(page)
    world = picked(page, "SO-7002")
    page.goto(f"/station?world={world}")
    page.get_by_role("button", name=re.compile("PACK-1")).click()
    page.get_by_label("With the hands of").select_option("oren")
    work = page.get_by_label("What is packed", exact=True)
    expect(work).to_contain_text("Left to pack: 2 lines")
    let_go = hold(page)
    page.keyboard.press("Alt+a")
    expect(page.get_by_role("main")).to_contain_text("sending")
    for key in ("Alt+a", "Alt+y", "Alt+c", "Alt+2"):  # the first twice is once
        page.keyboard.press(key)
    let_go()
    expect(page.get_by_label("Scan or type")).to_have_attribute("placeholder", re.compile("kg: Enter$"))
    expect(work.get_by_label("What is left")).to_have_count(0)
    let_go = hold(page)
    page.keyboard.press("Enter")
    expect(page.get_by_role("main")).to_contain_text("sending")
    page.keyboard.press("Alt+y")
    let_go()
    expect(page.get_by_role("status")).to_contain_text("What was pressed after it was not taken.")


def test_a_key_pressed_the_moment_its_button_is_drawn_is_for_it(page: Page) -> None:
    """No time passes between a question on the screen and the keys that answer it: who knows the work is faster than what is done after drawing."""
    sign_in(page)
    world = picked(page, "SO-7004")
    page.goto(f"/station?world={world}")
    page.get_by_role("button", name=re.compile("PACK-1")).click()
    page.get_by_label("With the hands of").select_option("oren")
    work, ask = (page.get_by_label(n, exact=True) for n in ("What is packed", "The question"))
    expect(work).to_contain_text("Left to pack: 2 lines")
    ask.evaluate(
        """where => new MutationObserver((_, me) => {
             if (!where.textContent.includes('All of it is in')) return
             me.disconnect()
             window.dispatchEvent(new KeyboardEvent('keydown', { code: 'KeyY', key: 'y', altKey: true }))
           }).observe(where, { childList: true, subtree: true, characterData: true })"""
    )
    page.keyboard.press("Alt+a")
    expect(work.get_by_label("What is left")).to_have_count(0)
