"""Scanner flows on the page: purposes searched, answers said beforehand, what it takes before and after, menus in groups."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import no_axe_violations, sign_in


@pytest.mark.needs("A05", "B24", "B36", "R17")
def test_a_flow_is_found_by_typing_and_costs_what_it_asks(page: Page) -> None:
    """A purpose found by a part of its sentence; a quantity that is fixed takes fewer taps, and what nobody looks at any more is
    said beside the numbers; where a word has no effect it says why."""
    sign_in(page)
    page.goto("/scanner")
    page.get_by_role("button", name="Add a flow").click()
    page.get_by_label("Find").fill("changes nothing")
    expect(page.get_by_role("menuitem")).to_have_count(1)
    no_axe_violations(page)
    page.keyboard.press("Enter")
    expect(page.locator("[id^='F-']").filter(has_text="Look up")).to_have_count(2)
    cost = page.get_by_role("region", name="What an order takes")
    expect(cost).to_contain_text("As many as by what is in force.")
    cost.get_by_label("Order").select_option("PO-1005")
    prompts = page.locator("#F-RECEIVE").get_by_role("list", name="What it asks").locator("> li")
    last = prompts.nth(6)
    last.hover()
    last.get_by_text("+ a fixed answer").click()
    page.get_by_role("textbox", name="Not asked but taken to be").fill("4")
    page.keyboard.press("Enter")
    expect(last).to_contain_text("it is not asked but taken to be 4 as long as that can be")
    expect(cost).to_contain_text("The quantity is taken to be 4: nobody looks whether it is.")
    expect(cost.get_by_role("columnheader", name="In force")).to_be_visible()
    item = prompts.nth(3)
    item.locator(".word", has_text="for each line").click()
    page.get_by_role("option", name="once").click()
    plate = prompts.nth(2)
    plate.locator(".word", has_text="once").click()
    page.get_by_role("option", name="for each line").click()
    expect(plate).to_contain_text("so it is asked once. This has no effect.")


@pytest.mark.needs("C12", "P03")
def test_menus_are_groups_and_handsets_take_them_when_the_settings_say(page: Page, phone: Page) -> None:
    """A group gets its heading, and work that waits is counted under it. Put in force with handsets that take it at a tap, one at
    work keeps its menu, the office sees that it is behind, and the tap brings the new one."""
    sign_in(page)
    phone.goto("/handset")
    phone.get_by_label("Name").fill("mara")
    phone.get_by_label("Password").fill("quay")
    phone.get_by_role("button", name="Sign in").click()
    expect(phone.get_by_role("heading", name="Which order is it?")).to_be_visible()
    page.goto("/scanner")
    menu = page.locator("#MN-7")
    menu.hover()
    menu.get_by_text("+ under a heading").click()
    page.get_by_role("textbox", name="Under the heading").fill("Ask it")
    page.keyboard.press("Enter")
    expect(menu).to_contain_text("People of Quay crew see under Ask it: Undo, Look up")
    page.goto("/settings")
    row = page.get_by_role("row").filter(has_text="Handsets take new menus and flows").first
    row.get_by_role("button").nth(1).click()
    page.get_by_role("option").filter(has_text="never by themselves").click()
    expect(row).to_contain_text("never by themselves")
    page.goto("/findings")
    expect(page.get_by_role("main")).to_contain_text("Handsets never take what is put in force by themselves")
    page.goto("/drafts")
    page.get_by_role("button", name="Put it in force, also on the live floor").click()
    expect(page.get_by_role("main")).to_contain_text("never by themselves: each when somebody taps for it")
    expect(page.get_by_role("main")).to_contain_text("▲ has not")
    phone.get_by_role("button", name="Leave").click()
    expect(phone.get_by_role("group", name="Goods in")).to_contain_text("15 to do")
    expect(phone.get_by_role("group", name="Ask it")).to_have_count(0)
    phone.get_by_role("button", name="Take the new menu").click()
    expect(phone.get_by_role("group", name="Ask it").get_by_role("button", name="Look up")).to_be_visible()
    expect(phone.get_by_role("button", name="Take the new menu")).to_have_count(0)


@pytest.mark.needs("C09", "C10", "N07", "N09", "N19")
def test_a_list_of_orders_stays_narrowed_and_says_how_old_it_is(page: Page) -> None:
    """By kind and by day, on this handset until it is changed, with how many are left out; loaded anew by a button."""
    sign_in(page)
    page.goto("/rehearsals")
    page.get_by_role("button", name="Begin a new one on a desk").click()
    handset = page.get_by_label("Handset", exact=True).last
    handset.get_by_role("button", name="Receive to a pallet").first.click()
    listed = handset.locator(".hs-pick")
    expect(listed).to_have_count(15)
    expect(listed.first).to_contain_text("purchase from")
    expect(listed.first).to_contain_text("for 2026-03-02")
    handset.get_by_label("Kind").select_option("transfers")
    expect(listed).to_have_count(1)
    expect(listed).to_contain_text("transfer from Gull Lane")
    expect(handset.get_by_text("1 of 15 shown")).to_be_visible()
    handset.get_by_role("button", name="Leave").click()
    handset.get_by_role("button", name="Receive to a pallet").first.click()
    expect(handset.get_by_text("1 of 15 shown")).to_be_visible()
    no_axe_violations(page)
    handset.get_by_role("button", name="show all").click()
    handset.get_by_label("Day").select_option("2026-03-03")
    expect(listed.first).to_contain_text("PO-1001")
    expect(handset.get_by_text(re.compile("^[2-9] of 15 shown$"))).to_be_visible()
    expect(handset.get_by_text(re.compile("^loaded at "))).to_be_visible()
    with page.expect_response(lambda r: "/handsets/H1" in r.url):
        handset.get_by_role("button", name="load anew").click()
