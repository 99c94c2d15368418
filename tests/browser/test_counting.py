"""Counting on the real pages: bins chosen by when they were counted, counted on the phone, posted on the board; the calendar of plans on their bench."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from mindful_crate.core.catalog.ids import BinCode
from tests.browser.conftest import no_axe_violations, scan, sign_in, write
from tests.browser.test_picking import GROUND, in_the_run
from tests.browser.test_release import HEAD, begun
from tests.playbook import barcode


@pytest.mark.needs("G03", "R03", "L01", "L02", "L06", "L08", "L10", "L11", "L12", "L13")
def test_two_bins_are_chosen_counted_on_the_phone_and_posted_on_the_board(page: Page, phone: Page) -> None:
    """Never counted ones come first; the sheet leads the phone; a typed nought is refused, what is found gets a line; the board shows what differs by worth, and posts it; stock before and after that stands side by side."""
    sign_in(page, at="/counts")
    world = begun(page)
    asked = page.request.post(f"/api/worlds/{world}/guests", data={"person": "oren"}, headers=HEAD)
    assert asked.ok, asked.text()
    page.goto(f"/counts?world={world}&part=bins")
    page.get_by_label("Bins that read like").fill("P-01-01")
    bins = page.get_by_role("table", name="Bins")
    expect(bins.get_by_role("row", name="P-01-01-2")).to_contain_text("never")
    expect(bins.get_by_role("row", name="P-01-01-2")).to_contain_text("due")
    no_axe_violations(page)
    for code in ("P-01-01-2", "P-01-01-3"):
        page.get_by_label(f"Bin {code}").check()
    page.get_by_role("button", name="Have these 2 counted").click()
    expect(page.get_by_role("status")).to_contain_text("2 bins are to be counted on CSR-0001")
    expect(bins.get_by_role("row", name="P-01-01-2")).to_contain_text("CSR-0001")

    in_the_run(phone, world)
    phone.get_by_role("button", name="Count", exact=False).filter(has_text="Count").first.click()
    title = phone.locator(".hs h1")
    expect(title).to_contain_text("Scan the sheet")
    scan(phone, "CSR-0001")
    expect(title).to_contain_text("P-01-01-2")
    scan(phone, "P-01-01-2")
    expect(title).to_contain_text("Scan what is in")
    no_axe_violations(phone)
    scan(phone, barcode(GROUND, "SHK-06", "pc"))
    expect(title).to_contain_text("How many pieces")
    phone.get_by_label("Scan or type").fill("0")
    phone.keyboard.press("Enter")
    expect(phone.get_by_role("status")).to_contain_text("None there has a button of its own")
    phone.get_by_label("Scan or type").fill("52")
    phone.keyboard.press("Enter")
    expect(title).to_contain_text("P-01-01-3")
    scan(phone, "P-01-01-3")
    expect(title).to_contain_text("Scan what is in")
    scan(phone, barcode(GROUND, "CLT-15", "pc"))
    expect(title).to_contain_text("How many pieces")
    phone.get_by_label("Scan or type").fill("2")
    phone.keyboard.press("Enter")
    expect(phone.get_by_role("status")).to_contain_text("All of CSR-0001 is counted")

    page.goto(f"/counts?world={world}")
    sheets = page.get_by_role("table", name="Sheets")
    expect(sheets.get_by_role("row", name="CSR-0001")).to_contain_text("3 counted")
    lines = page.get_by_role("table", name="Lines of CSR-0001")
    expect(lines.get_by_role("row").nth(1)).to_contain_text("Cleat 15 cm")
    expect(lines.get_by_role("row", name="Bow shackle 6 mm")).to_contain_text("−1")
    no_axe_violations(page)
    lines.get_by_role("row", name="Bow shackle 6 mm").get_by_role("checkbox").check()
    page.get_by_role("button", name="Post this line").click()
    expect(sheets.get_by_role("row", name="CSR-0001")).to_contain_text("1 in the books, 2 counted")
    seq = page.request.get(f"/api/worlds/{world}", headers=HEAD).json()["seq"]
    page.goto(f"/stock?world={world}&view=between")
    stock = page.get_by_role("grid", name="stock before and after")
    expect(page.get_by_label("and after entry")).to_have_value(str(seq))
    page.get_by_label("Before entry").fill("1")
    page.get_by_role("button", name="Show").click()
    shackles = stock.get_by_role("row", name="SHK-06")
    expect(shackles).to_contain_text("53 pieces52 pieces−1 piece")
    expect(stock.get_by_role("row")).to_have_count(2)
    shackles.get_by_role("button", name="SHK-06").click()
    expect(page.get_by_role("table", name="How far SHK-06 was and is").get_by_role("row")).to_have_count(3)
    no_axe_violations(page)
    page.get_by_role("button", name="Count opened").click()
    expect(page.get_by_text("No row of stock that reads like “SHK-06” is another")).to_be_visible()
    page.get_by_label("and after entry").fill(str(seq + 1))
    page.get_by_role("button", name="Show").click()
    expect(page.get_by_text(f"there is no {seq + 1} yet")).to_be_visible()
    page.goto(f"/counts?world={world}")
    page.get_by_role("button", name="Post what may be").click()
    expect(page.get_by_text("Nothing is to be counted.")).to_be_visible()
    page.get_by_label("also what is done").check()
    expect(sheets.get_by_role("row", name="CSR-0001")).to_contain_text("3 in the books")
    page.goto(f"/counts?world={world}&part=bins")
    page.get_by_role("link", name="When each bin was counted last, on the map").click()
    expect(page.get_by_text("never, or some of those above one another")).to_be_visible()
    drawn = page.request.get(f"/api/worlds/{world}/map", headers=HEAD).json()
    assert drawn["counted"] == dict.fromkeys(("P-01-01-2", "P-01-01-3"), 0), "today; no other ever was"
    assert {z["code"]: z["stores"] for z in drawn["zones"]}.items() >= {"PCK": True, "RCV": False}.items()


@pytest.mark.needs("A32")
def test_a_count_plan_is_changed_and_its_calendar_says_what_is_late(page: Page) -> None:
    """The bench reckons bins and minutes of the days to come; with two bins a day it names the first that is late, and so does a finding."""
    sign_in(page, at="/care")
    bench = page.get_by_label("Bench")
    dear = bench.get_by_label("Dear goods", exact=True)
    expect(dear).to_contain_text("Every bin is counted in time.")
    expect(dear.get_by_role("listitem").first).to_contain_text("20 bins")
    plan = page.locator("#CP-1")
    plan.locator(".word", has_text="20 bins").click()
    write(page, "2")
    expect(dear).to_contain_text("is the first that is counted late")
    no_axe_violations(page)


@pytest.mark.needs("F15", "F18")
def test_goods_are_taken_back_on_the_phone_and_judged_on_the_bench(page: Page, phone: Page) -> None:
    """The bench says what a draft accepts, by which rule; on the phone the customer is found by name, what was never shipped is asked about, and finishing makes a number."""
    sign_in(page, at="/returns")
    bench = page.get_by_label("Bench")
    bench.get_by_label("From").select_option(label="Ardle Sound Yachts")
    expect(bench).to_contain_text("held for a supervisor")
    rule = page.locator("#RA-2")
    rule.locator(".word", has_text="is taken in and held").last.click()
    page.get_by_role("option", name="is accepted").click()
    expect(bench).to_contain_text("It is accepted.")
    expect(bench).to_contain_text("Where it goes")
    no_axe_violations(page)
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(bench).to_contain_text("held for a supervisor")
    world = begun(page)
    asked = page.request.post(f"/api/worlds/{world}/guests", data={"person": "oren"}, headers=HEAD)
    assert asked.ok, asked.text()
    in_the_run(phone, world)
    phone.get_by_role("button", name="Take back").first.click()
    title = phone.locator(".hs h1")
    expect(title).to_contain_text("Who sends it back?")
    phone.get_by_label("Scan or type").fill("ardle")
    phone.keyboard.press("Enter")
    expect(title).to_contain_text("Ardle Sound Yachts sends back")
    scan(phone, barcode(GROUND, "SHK-08", "pc"))
    expect(title).to_contain_text("was ever shipped")
    no_axe_violations(phone)
    phone.get_by_role("button", name="Take it in").click()
    phone.get_by_label("Scan or type").fill("2")
    phone.keyboard.press("Enter")
    expect(title).to_contain_text("What becomes of it?")
    phone.get_by_role("button", name="Scrap").click()
    phone.get_by_role("button", name="Nothing to remark").click()
    expect(title).to_contain_text("sends back")
    phone.get_by_role("button", name="That is all of it").click()
    expect(phone.get_by_role("status")).to_contain_text("Return RNR-0001 of Ardle Sound Yachts")


@pytest.mark.needs("G01", "G14", "G15")
def test_stock_is_corrected_by_a_reason_on_the_phone_and_in_the_office(page: Page, phone: Page) -> None:
    """Reasons are made in the chapter; the phone offers those that are this crew's; the office chooses one in its dialog. Stock is found by any layer
    down to the number of a piece, and as it was before once the run goes on from there."""
    sign_in(page, at="/care")
    page.get_by_role("button", name="Add a reason").click()
    page.get_by_role("menuitem", name="when there are more or fewer than the books say", exact=False).click()
    expect(page.get_by_text("New reason")).to_be_visible()
    no_axe_violations(page)
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_text("New reason")).to_have_count(0)
    world = begun(page)
    asked = page.request.post(f"/api/worlds/{world}/guests", data={"person": "oren"}, headers=HEAD)
    assert asked.ok, asked.text()
    in_the_run(phone, world)
    phone.get_by_role("button", name="Correct a number").first.click()
    title = phone.locator(".hs h1")
    expect(title).to_contain_text("Scan the bin, or the plate it is on")
    scan(phone, "P-01-02-4")
    expect(title).to_contain_text("Scan what is not as it should be")
    scan(phone, barcode(GROUND, "SHK-08", "pc"))
    expect(title).to_contain_text("How many pieces are there?")
    phone.get_by_label("Scan or type").fill("70")
    phone.keyboard.press("Enter")
    expect(title).to_contain_text("Why?")
    expect(phone.get_by_role("button", name="Taken without a scan")).to_have_count(0)
    no_axe_violations(phone)
    phone.get_by_role("button", name="Not there").click()
    expect(phone.get_by_role("status")).to_contain_text("9 pieces less of Bow shackle 8 mm")

    page.goto(f"/stock?world={world}&find=P-01-02-4")
    row = page.get_by_role("grid", name="stock").get_by_role("row", name="P-01-02-4")
    expect(row).to_contain_text("70 pieces")
    row.get_by_role("button", name="Correct").click()
    dialog = page.get_by_role("dialog", name="Correct SHK-08")
    dialog.get_by_label("There are, in base units").fill("60")
    dialog.get_by_label("Reason").select_option(label="Taken without a scan")
    no_axe_violations(page)
    dialog.get_by_role("button", name="Set it").click()
    expect(row).to_contain_text("60 pieces")
    find = page.get_by_role("textbox", name="Find")
    for words, shows in (
        ("LP-000009", "Braided rope 12 mm"),
        ("P12-2511-0057", "P12-2511-0057"),
        ("D2527", "AF-RED-25"),
        ("quarantine", "quarantine"),
    ):
        find.fill(words)
        expect(page.get_by_role("grid", name="stock").get_by_role("row").nth(1)).to_contain_text(shows)
    find.fill("shk-08")
    expect(page.get_by_label("How far SHK-08 is")).to_contain_text("Free to use")
    page.goto(f"/desk/{world}")
    page.get_by_role("button", name="Correct a number opened").click()
    page.get_by_role("button", name="Go on from here").click()
    page.wait_for_url(lambda url: "/desk/" in url and world not in url)
    page.goto(f"/stock?world={page.url.rsplit('/', 1)[-1]}&find=P-01-02-4")
    expect(row).to_contain_text("79 pieces")


def test_a_time_at_which_shelves_are_filled_is_a_sentence(page: Page) -> None:
    """Added, changed to those below their least, narrowed to a group; a time that is none is a finding; taken away again."""
    sign_in(page, at="/care")
    expect(page.get_by_role("heading", name="Filled by the clock")).to_be_visible()
    expect(page.locator("#SF-1")).to_contain_text(
        "At 17:00 by the site's clock all shelves for Clothing that could take more are filled up to their most"
    )
    page.get_by_role("button", name="Fill at a time all shelves").click()
    page.get_by_role("menuitem", name="that hold less than their least").click()
    run = page.locator("#SF-2")
    expect(run).to_contain_text(
        "At 05:30 by the site's clock all shelves that hold less than their least are filled up to their most."
    )
    run.locator(".word", has_text="05:30").click()
    write(page, "half past five")
    expect(run).to_contain_text("is no time of the day: say one as 14:00.")
    no_axe_violations(page)
    for _ in range(2):
        page.get_by_role("button", name="Undo", exact=True).click()
    expect(run).to_have_count(0)


def test_a_sheet_counted_on_paper_is_brought_in_and_entered(page: Page) -> None:
    """As a file: what is wrong with a row is said before anything is counted; then what is right is entered for whoever counted."""
    sign_in(page, at="/counts")
    world = begun(page)
    act = {"kind": "make_counts", "bins": ["P-01-02-4", "P-01-01-2"]}
    assert page.request.post(f"/api/worlds/{world}/commands", data={"id": "m", "act": act}, headers=HEAD).ok
    page.goto(f"/counts?world={world}&sheet=CSR-0001")
    page.get_by_role("table", name="Sheets").get_by_role("row", name="CSR-0001").click()
    page.get_by_text("Counted on paper").click()
    expect(page.get_by_role("link", name="The sheet as PDF")).to_have_attribute("href", re.compile("sheet.pdf$"))
    with page.expect_download() as sent:
        page.get_by_role("link", name="as CSV").click()
    rows = sent.value.path().read_text().splitlines()
    head, first, second = rows
    filled = "\n".join([head, first[:-1] + "79,", second[:-1] + "0,"])
    file = {"name": "CSR-0001.csv", "mimeType": "text/csv", "buffer": filled.encode()}
    page.get_by_label("The sheet, filled in").set_input_files(file)  # type: ignore[arg-type]
    wrong = page.get_by_role("list", name="What is wrong")
    expect(wrong).to_contain_text("a nought is too easily typed")
    no_axe_violations(page)
    page.get_by_label("Who counted").select_option("oren")
    page.get_by_role("button", name="Enter those that are right").click()
    expect(page.get_by_role("status")).to_contain_text("1 line of CSR-0001 counted by")
    expect(page.get_by_role("table", name="Lines of CSR-0001")).to_contain_text("Oren Maddock")


def test_a_sheet_of_hundreds_of_lines_scrolls(page: Page) -> None:
    """All lines of a long sheet are there to be scrolled to, the last as the first, while only those in sight are drawn; the heading stays."""
    sign_in(page, at="/counts")
    version = page.request.get("/api/drafts/d-1").json()["version"]
    whole = {"split": "nothing", "most_lines": 10_000}
    edits = [
        {"op": "set", "path": f"count_plans/{plan}/{name}", "value": value}
        for plan in ("CP-1", "CP-2", "CP-3")
        for name, value in whole.items()
    ]
    assert page.request.post("/api/drafts/d-1/edits", data={"version": version, "edits": edits}, headers=HEAD).ok
    world = begun(page)
    act = {"kind": "make_counts", "bins": sorted({str(p.bin) for p in GROUND.opening.plates if p.bin in GROUND.bins})}
    act["bins"] = [code for code in act["bins"] if GROUND.site_of(BinCode(code)) == "HQ"]
    made = page.request.post(f"/api/worlds/{world}/commands", data={"id": "long", "act": act}, headers=HEAD).json()
    assert made["entry"]["done"], made
    page.goto(f"/counts?world={world}&count=CSR-0001")
    page.get_by_role("table", name="Sheets").get_by_role("button", name="CSR-0001").click()
    lines = page.get_by_role("table", name="Lines of CSR-0001")
    first = lines.get_by_role("row").nth(1)
    expect(first).to_have_attribute("aria-rowindex", "2")
    many = int(lines.get_attribute("aria-rowcount") or 0)
    assert many > 300
    last = lines.locator(f'[aria-rowindex="{many}"]')
    expect(last).to_have_count(0)
    heading = lines.get_by_role("columnheader", name="Counted")
    lines.evaluate("table => { table.parentElement.scrollTop = table.parentElement.scrollHeight }")
    last.scroll_into_view_if_needed()  # rows were taller than thought
    expect(last).to_be_in_viewport()
    expect(heading).to_be_in_viewport()
    assert lines.get_by_role("row").count() < 100
    lines.evaluate("table => { table.parentElement.scrollTop = 0 }")
    expect(lines.locator('[aria-rowindex="2"]')).to_be_in_viewport()
    expect(last).to_have_count(0)
    page.request.post("/api/drafts/d-1/undo", data={"version": version + 1}, headers=HEAD)
