"""Labels and pictures: a rule of Papers set on its page, the tray of the live floor, a picture brought in and seen on the handset."""

from __future__ import annotations

from io import BytesIO

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.conftest import no_axe_violations, scan, sign_in, write
from tests.browser.test_release import HEAD


def on_the_floor(page: Page) -> None:
    """Oren on the handset of the live floor, with a pallet begun."""
    page.goto("/handset")
    page.get_by_label("Name").fill("oren")
    page.get_by_label("Password").fill("quay")
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("button", name="Halloway Quay floor").click()
    page.get_by_role("button", name="Receive to a pallet").click()
    expect(page.get_by_role("heading", name="Which order is it?")).to_be_visible()


@pytest.mark.needs("Q06")
def test_the_bench_prints_what_a_rule_says(page: Page) -> None:
    """Three copies instead of one: the bench says so at once; one that prints nothing says why. On the live floor an analyst sets
    no printer and prints nothing."""
    sign_in(page, at="/papers")
    bench = page.locator(".bench")
    expect(bench).to_contain_text("Rule 1, when a plate is begun under a new number: 1 label on LABEL-5")
    page.locator(".rule").first.locator(".word", has_text="once").click()
    write(page, "3")
    expect(bench).to_contain_text("3 labels on LABEL-5")
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(bench).to_contain_text("1 label on LABEL-5")
    expect(bench).to_contain_text("Rule 2 prints when whoever has it in hand asks for it")
    no_axe_violations(page)
    page.goto("/printers")
    expect(page.get_by_role("table", name="Printers").get_by_label("LABEL-5 is")).to_be_disabled()
    expect(page.get_by_role("button", name="Print", exact=True)).to_have_count(0)


@pytest.mark.needs("B47")
def test_what_one_chapter_wants_and_another_forbids_is_said(page: Page) -> None:
    """Picking, packing, papers and the steps out have a page each. A list that is printed when all is staged says so once no plan stages any more, and is
    right again when one does."""
    sign_in(page, at="/papers")
    row = page.locator("#LR-7")
    expect(row).to_contain_text("When the last of a shipment is staged, print its loading list")
    expect(row).not_to_contain_text("is never so")
    edits = [{"op": "set", "path": f"ship_plans/{plan}/stage/on", "value": False} for plan in ("SH-1", "SH-2")]
    version = page.request.get("/api/drafts/d-1").json()["version"]
    body = {"version": version, "edits": edits, "says": "Nothing is staged."}
    assert page.request.post("/api/drafts/d-1/edits", data=body, headers=HEAD).ok
    expect(row).to_contain_text(
        "No plan of shipments has a step for that here: the last of a shipment is staged is never so."
    )
    titles = set()
    for path in ("/packing", "/scanner", "/steps"):
        page.goto(path)
        expect(page.locator(".rule").first).to_be_visible()
        # beside it may stand a handset, with a heading of its own
        titles.add(page.locator(".page > .main > h1").inner_text())
    assert len(titles) == 3
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("button", name="Redo", exact=True)).to_be_enabled()
    page.goto("/papers")
    expect(row).not_to_contain_text("is never so")


@pytest.mark.needs("J17")
def test_the_columns_of_a_packing_list_are_chosen_and_stay(page: Page) -> None:
    """The paper of an order is there before it is packed; a column more stands on it at once, and for whoever signs in next; a text is written beneath."""
    sign_in(page, at="/papers")
    bench = page.locator(".bench")
    bench.get_by_label("Papers of").select_option("goods that leave")
    sheet = bench.get_by_role("article")
    expect(sheet).to_contain_text("Ardle Sound Yachts")
    expect(sheet.get_by_role("columnheader", name="Units")).to_have_count(0)
    form = page.locator(".rule", has_text="The packing list for Yards")
    form.locator(".word", has_text="line, item, name").click()
    page.get_by_role("option", name="base units").click()
    expect(sheet.get_by_role("columnheader", name="Units")).to_be_visible()
    page.keyboard.press("Escape")
    form.locator(".word", has_text="Please tell us").click()
    write(page, "Count it while the driver waits.")
    expect(sheet).to_contain_text("Count it while the driver waits.")
    no_axe_violations(page)
    page.get_by_role("button", name="Sign out").click()
    expect(page.get_by_role("button", name="Sign in", exact=True)).to_be_visible()
    sign_in(page, "Tove", at="/papers")
    expect(page.locator(".rule", has_text="The packing list for Yards")).to_contain_text("base units")


@pytest.mark.needs("P05")
def test_a_printer_without_paper_keeps_what_waits(page: Page, phone: Page) -> None:
    """Set on the floor's page; the handset says it and goes on; what waits is printed elsewhere, and out with paper."""
    sign_in(page, "Tove", at="/printers")
    printers, printed = page.get_by_role("table", name="Printers"), page.get_by_role("table", name="Printed")
    printers.get_by_label("LABEL-5 is").select_option("without paper")
    on_the_floor(phone)
    scan(phone, "PO-1001")
    expect(phone.get_by_role("heading", name="Scan an item of PO-1001")).to_be_visible()
    scan(phone, "SHK-08")
    phone.get_by_role("button", name="Confirm 500").click()
    expect(phone.get_by_role("status")).to_contain_text("LABEL-5")
    row = printed.get_by_role("row").nth(1)
    expect(row).to_contain_text("waits")
    expect(row).to_contain_text("has no paper")
    no_axe_violations(page)
    printers.get_by_label("LABEL-5 is").select_option("ready")
    expect(row).to_contain_text("out")
    row.get_by_role("button", name="Look at").click()
    expect(printed.get_by_role("img")).to_be_visible()
    expect(printed.get_by_role("img")).to_have_js_property("complete", True)
    assert printed.get_by_role("img").evaluate("i => i.naturalWidth > 0")
    phone.get_by_role("button", name="Finish plate").click()
    expect(phone.get_by_role("status")).to_contain_text("finished")


@pytest.mark.needs("A15", "N14")
def test_a_picture_is_brought_in_and_seen_on_the_handset(page: Page, phone: Page) -> None:
    """What is none is refused in words and the old one stays; an item without one asks as well."""
    sign_in(page, at="/catalogue")
    page.goto("/catalogue/items")
    page.get_by_role("button", name="AF-BLK-25").click()
    form = page.get_by_role("dialog")
    chooser = form.get_by_label("A picture from a file")
    chooser.set_input_files({"name": "a.png", "mimeType": "image/png", "buffer": b"no picture"})
    expect(form).to_contain_text("That is no picture, or a broken one.")
    held = BytesIO()
    Image.new("RGB", (800, 400), "#0000ff").save(held, "PNG")
    chooser.set_input_files({"name": "a.png", "mimeType": "image/png", "buffer": held.getvalue()})
    shown = form.get_by_role("img", name="picture AF-BLK-25")
    expect(shown).to_have_js_property("naturalWidth", 640)
    form.get_by_role("button", name="Keep").click()
    expect(form).to_have_count(0)
    on_the_floor(phone)
    scan(phone, "PO-1004")
    expect(phone.get_by_role("heading", name="Scan an item of PO-1004")).to_be_visible()
    scan(phone, "FLR-HH")
    expect(phone.get_by_role("heading", name="When does it expire?")).to_be_visible()
    expect(phone.locator(".hs-picture")).to_have_count(0)
    for asked in ("Scan an item of PO-1004", "Which order is it?"):
        phone.get_by_role("button", name="Step back").click()
        expect(phone.get_by_role("heading", name=asked)).to_be_visible()
    scan(phone, "PO-1002")
    expect(phone.get_by_role("heading", name="Scan an item of PO-1002")).to_be_visible()
    scan(phone, "AF-RED-25")
    expect(phone.locator(".hs-picture")).to_have_js_property("naturalWidth", 480)


@pytest.mark.needs("A22")
def test_carts_and_totes_get_labels(page: Page) -> None:
    """Each cart and each tote on it, as many as there are places: a PDF with a label each, so that no code need be typed."""
    sign_in(page, at="/printers")
    page.get_by_label("Labels of").select_option("cart")
    link = page.get_by_role("link", name="Make the PDF")
    made = page.request.get(f"{page.url.split('/printers')[0]}{link.get_attribute('href')}")
    assert made.ok and made.headers["content-type"] == "application/pdf"
    assert b"%PDF" in made.body()[:8]
