"""What must agree is said where it does not: an item and what is asked of it, numbers, plans and what is open under them; and from a
site and its map one gets to each rule, and back."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import no_axe_violations, scan, sign_in
from tests.browser.test_papers import on_the_floor


@pytest.mark.needs("A04", "A35")
def test_an_item_a_bin_and_what_is_asked_are_held_together(page: Page) -> None:
    """For one item, site and bin all that must agree, what does not first; a half that is lacking is a finding that names the item."""
    sign_in(page, at="/settings")
    bench = page.get_by_label("Bench")
    bench.get_by_label("Order").select_option("PO-1002")
    bench.get_by_label("Item").select_option("AF-RED-25")
    bench.get_by_label("Bin").fill("H-01-02-1")
    expect(bench).to_contain_text("rule 2 looks there for such goods")
    bench.get_by_label("Bin").fill("R-01-01-1")
    expect(bench.get_by_role("listitem").first).to_contain_text("R-01-01-1")
    expect(bench.get_by_role("listitem").first).to_contain_text("does not admit hazard class 3")
    no_axe_violations(page)
    page.goto("/scanner")
    flow = page.locator("#F-RECEIVE")
    lot = flow.get_by_role("list", name="What it asks").locator("> li").filter(has_text="The lot ").first
    lot.hover()
    lot.get_by_role("button", name="Remove").click()
    expect(flow.locator(".finding").filter(has_text="lot").first).to_contain_text(re.compile("AF-|never asks"))
    page.goto("/settings")
    bench.get_by_label("Order").select_option("PO-1002")
    bench.get_by_label("Item").select_option("AF-RED-25")
    expect(bench.get_by_role("listitem").first).to_contain_text(re.compile("lot"))
    page.get_by_role("button", name="Undo").click()
    expect(bench.get_by_role("listitem").first).not_to_contain_text(re.compile("lot"))


@pytest.mark.needs("A10", "B49", "R15")
def test_a_series_that_is_missing_is_said_before_anything_stops(page: Page) -> None:
    """Without numbers for receipts nothing would be received: it is a finding at the table of numbers, and none once they are back."""
    sign_in(page, at="/catalogue")
    page.get_by_role("tab", name="Numbering").click()
    page.get_by_role("button", name="receipt", exact=True).click()
    form = page.get_by_role("dialog")
    form.get_by_role("button", name="Take it out").click()
    expect(page.get_by_text(re.compile("no number series for (a )?receipts?")).first).to_be_visible()
    no_axe_violations(page)
    page.goto("/findings")
    blocked = page.get_by_role("listitem").filter(has_text=re.compile("no number series for (a )?receipts?"))
    expect(blocked.first).to_be_visible()
    blocked.first.get_by_role("link").first.click()
    page.wait_for_url("**/catalogue/series**")
    page.get_by_role("button", name=re.compile("^Add")).click()
    form.get_by_label("document", exact=True).fill("receipt")
    for name, value in (("prefix", "RC-"), ("rehearsal prefix", "RCR-"), ("width", "4"), ("next", "93")):
        form.get_by_label(name, exact="prefix" in name).fill(value)
    form.get_by_role("button", name="Add", exact=True).click()
    expect(form).to_have_count(0)
    expect(page.get_by_text(re.compile("no number series"))).to_have_count(0)


@pytest.mark.needs("B10", "B11")
def test_from_the_site_to_each_rule_and_back(page: Page) -> None:
    """The site says how many plans and hand-overs there are and leads to them; of many rows some words find the one; a station and an
    arrow of the map lead to the rule that decides it, and back is where one came from."""
    sign_in(page, at="/site")
    page.get_by_role("link", name="10 step plans").click()
    expect(page.get_by_role("heading", name="Receipt steps")).to_be_visible()
    expect(page.locator("main").get_by_role("status").first).to_have_text("10")
    page.get_by_label("Narrow this page").fill("loft rigging")
    expect(page.locator("main").get_by_role("status").first).to_have_text("1 of 10")
    expect(page.locator("section.card")).to_have_count(1)
    expect(page.locator("#SP-3")).to_contain_text("RCV-03")
    page.get_by_label("Narrow this page").fill("nothing of the kind")
    expect(page.get_by_text("Nothing here reads like that: 10 rows do not.")).to_be_visible()
    page.get_by_label("Narrow this page").fill("")
    expect(page.locator("#SP-1")).to_be_visible()
    map_ = page.get_by_label("Map of stations")
    map_.get_by_role("link", name=re.compile("^Hand over")).click()
    expect(page).to_have_url(re.compile(r"/recipes/RE-4$"))
    expect(page.locator("#RE-4")).to_be_in_viewport()
    page.go_back()
    expect(map_).to_be_visible()
    arrow = map_.locator(".react-flow__edge").filter(has=page.locator("path")).last
    arrow.locator("path").first.dispatch_event("click")
    expect(page).to_have_url(re.compile(r"/(bin-rules|recipes|steps)"))
    page.go_back()
    expect(map_).to_be_visible()


@pytest.mark.needs("B05")
def test_a_change_of_steps_says_what_is_open_under_them(page: Page, phone: Page) -> None:
    """A task is open and a plate is being built on the live floor: before put-away is switched off both are told, and what becomes of
    them; left, nothing has changed."""
    on_the_floor(phone)
    scan(phone, "PO-1001")
    expect(phone.get_by_role("heading", name="Scan an item of PO-1001")).to_be_visible()
    scan(phone, "SHK-08")
    phone.get_by_role("button", name="Confirm 500").click()
    phone.get_by_role("button", name="Finish plate").click()
    expect(phone.get_by_role("status")).to_contain_text("finished")
    scan(phone, "SHK-10")
    phone.get_by_role("button", name="Confirm 300").click()
    expect(phone.get_by_role("button", name="Finish plate")).to_be_visible()
    sign_in(page, at="/steps")
    plan = page.locator("#SP-1")
    plan.locator(".word", has_text="They are put away").click()
    page.get_by_role("option").filter(has_text=re.compile("stay|not put away")).first.click()
    told = page.get_by_role("dialog", name="What this changes")
    expect(told).to_contain_text("1 task that is open stays and may be done")
    expect(told).to_contain_text("1 plate is being built on the floor: it is finished by what the plans say then.")
    no_axe_violations(page)
    told.get_by_role("button", name="Leave it").click()
    expect(plan).to_contain_text("They are put away")


@pytest.mark.needs("A26", "Q05")
def test_a_store_sees_its_own_and_no_more(page: Page, phone: Page) -> None:
    """Somebody of the slipway alone receives there and looks up; other floors are not offered, and its orders are its own."""
    sign_in(page)
    begin = "async () => { const d = await (await fetch('/api/drafts/d-3')).json(); const r = await fetch('/api/drafts/d-3/live', {method: 'POST', headers: {'X-Mindful-Crate': '1', 'content-type': 'application/json'}, body: JSON.stringify({version: d.version})}); return r.status }"
    assert page.evaluate(begin) == 200
    page.goto("/people")
    page.get_by_role("button", name="Oren Maddock").click()
    card = page.get_by_role("dialog", name="Oren Maddock")
    card.get_by_label("HQ", exact=True).uncheck()
    card.get_by_label("SW", exact=True).check()
    card.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("row").filter(has_text="Oren Maddock")).to_contain_text("SW")
    phone.goto("/handset")
    phone.get_by_label("Name").fill("oren")
    phone.get_by_label("Password").fill("quay")
    phone.get_by_role("button", name="Sign in").click()
    expect(phone.get_by_role("heading", name="Where do you work?")).to_be_visible()
    floors = phone.get_by_role("button", name=re.compile(" floor"))
    expect(floors).to_have_count(1)
    floors.first.click()
    expect(phone.locator(".hs-top").nth(1)).to_contain_text("SW live floor")
    expect(phone.get_by_role("heading", name="What do you do?")).to_be_visible()
    flows = phone.locator(".hs-body").get_by_role("button")
    expect(flows.filter(has_text="Receive")).to_have_count(1)
    expect(flows.filter(has_text="Look up")).to_have_count(1)
    expect(flows.filter(has_text=re.compile("Put away|Move"))).to_have_count(0)
    flows.filter(has_text="Receive").click()
    expect(phone.get_by_role("button", name=re.compile("^SW-7"))).not_to_have_count(0)
    expect(phone.get_by_role("button", name=re.compile("^PO-"))).to_have_count(0)
