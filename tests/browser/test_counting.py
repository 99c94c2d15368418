"""Counting on the real pages: bins chosen by when they were counted, counted on the phone, posted on the board; the calendar of plans on their bench."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import no_axe_violations, scan, sign_in
from tests.browser.test_picking import GROUND, in_the_run
from tests.browser.test_release import HEAD, begun
from tests.playbook import barcode


@pytest.mark.needs("L01", "L02", "L06", "L08", "L10", "L11", "L12", "L13")
def test_two_bins_are_chosen_counted_on_the_phone_and_posted_on_the_board(page: Page, phone: Page) -> None:
    """Never counted ones come first; the sheet leads the phone; a typed nought is refused, what is found gets a line; the board shows what differs by worth, and posts it."""
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
    page.get_by_role("button", name="Post what may be").click()
    expect(page.get_by_text("Nothing is to be counted.")).to_be_visible()
    page.get_by_label("also what is done").check()
    expect(sheets.get_by_role("row", name="CSR-0001")).to_contain_text("3 in the books")


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
    page.get_by_role("textbox").last.fill("2")
    page.keyboard.press("Enter")
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
