"""Each screen as people meet it: reachable, accessible, by keyboard, from two windows, out of touch, on a phone."""

from __future__ import annotations

import json
import re

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import Server, no_axe_violations, scan, sign_in

PROCESSES = 2
"""As it is shipped: what one process did, the other must know."""


def test_the_sign_in_page(page: Page) -> None:
    """Wrong password in words; accessible; deep links wait behind it."""
    page.goto("/rehearsals")
    no_axe_violations(page)
    page.get_by_label("Name").fill("ines")
    page.get_by_label("Password").fill("wrong")
    page.get_by_role("button", name="Sign in", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("Name or password is wrong.")
    page.get_by_label("Password").fill("quay")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Rehearsals")).to_be_visible()


@pytest.mark.needs("B08")
def test_rules_are_edited_by_keyboard_alone(page: Page) -> None:
    """Tab to a live word, Enter opens, typing filters, Enter takes, Escape leaves; Alt+arrows move; Ctrl+Z undoes."""
    sign_in(page)
    rule = page.locator("#BR-4")
    rule.locator(".word").first.focus()
    page.keyboard.press("Tab")
    expect(rule.locator(".word", has_text="Reserve")).to_be_focused()
    page.keyboard.press("Enter")
    page.keyboard.type("pick")
    page.keyboard.press("Enter")
    expect(rule).to_contain_text("Reserve or Pick shelves")
    page.keyboard.press("Escape")
    expect(page.get_by_role("listbox")).to_have_count(0)
    rule.locator(".word").first.focus()
    page.keyboard.press("Alt+ArrowUp")
    expect(page.locator(".rule").nth(2)).to_have_attribute("id", "BR-4")
    page.keyboard.press("Control+z")
    expect(page.locator(".rule").nth(3)).to_have_attribute("id", "BR-4")
    page.keyboard.press("Control+z")
    expect(rule).not_to_contain_text("Pick shelves")
    page.keyboard.press("g")
    page.keyboard.press("s")
    expect(page.get_by_role("heading", name="Receipt steps")).to_be_visible()
    page.keyboard.press("/")
    page.get_by_label("Search", exact=True).fill("tote")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/scanner/F-TOTE$"))


def test_rules_are_added_and_removed_and_findings_show(page: Page) -> None:
    """A new rule that looks everywhere is doubted; a rule can be switched off, copied, removed; undo brings all back."""
    sign_in(page)
    page.get_by_role("button", name="Add a rule").click()
    new = page.locator("#BR-19")
    expect(new).to_contain_text("Anything goes to any bin of the site")
    expect(new).to_contain_text("▲ doubt")
    new.locator(".word", has_text="Anything").click()
    page.get_by_role("option", name="of an item group").click()
    page.get_by_role("option", name="Anchors").click()
    page.keyboard.press("Escape")
    expect(new).to_contain_text("Goods of Anchors go to any bin of the site")
    new.get_by_role("button", name="Switch off").click()
    expect(new).to_contain_text("Switched off: it is passed over.")
    new.get_by_role("button", name="Copy").click()
    expect(page.locator("#BR-19")).to_contain_text("Goods of Anchors")
    page.locator("#BR-19").get_by_role("button", name="Remove").click()
    expect(page.locator("#BR-19")).to_have_count(0)
    undo = page.get_by_role("button", name="Undo", exact=True)
    for rules in (8, 7, 7, 7, 6):
        undo.click()
        expect(page.locator(".rule")).to_have_count(rules)


def test_a_second_window_follows_and_a_stale_edit_is_told(page: Page, browser: Browser, server: Server) -> None:
    """What one window saves shows in the other by itself; an edit on an old version says what changed."""
    sign_in(page)
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.url)
    other = context.new_page()
    sign_in(other)
    word = "nearest to where it was received"
    page.locator("#BR-3 .word", has_text=word).click()
    page.get_by_role("option", name=word).click()
    page.get_by_role("option", name="fullest first").click()
    page.keyboard.press("Escape")
    expect(other.locator("#BR-3")).to_contain_text("fullest first")
    # the third window has not heard of the change: its stream is cut
    other.route("**/api/stream", lambda route: route.abort())
    other.route("**/api/drafts/d-1", lambda route: route.abort())
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.locator("#BR-3")).not_to_contain_text("fullest first")
    other.evaluate(
        "fetch('/api/drafts/d-1/edits', {method: 'POST', headers: {'X-Mindful-Crate': '1', 'content-type': 'application/json'}, body: JSON.stringify({version: 1, edits: [{op: 'set', path: 'flows/F-PUTAWAY/other_bin', value: 'never'}]})}).then(r => r.json()).then(p => document.title = p.title)"
    )
    other.wait_for_function("document.title.includes('changed meanwhile')")
    context.close()
    while page.get_by_role("button", name="Undo", exact=True).is_enabled():
        before = page.locator(".rules").inner_text()
        page.get_by_role("button", name="Undo", exact=True).click()
        page.wait_for_function(
            "b => document.querySelector('.rules').innerText !== b || document.querySelector('header button').disabled",
            arg=before,
        )


@pytest.mark.needs("B33")
def test_a_scan_check_changes_what_the_handset_asks(page: Page) -> None:
    """On Scanner, demanding a scan of the order takes the list away from the handset on the bench."""
    sign_in(page)
    page.goto("/scanner")
    page.get_by_role("button", name="Receive to a pallet", exact=True).click()
    pick = page.locator(".hs-pick", has_text="PO-1001")
    expect(pick).to_be_visible()
    page.locator("#F-RECEIVE .places .word", has_text="may be scanned, typed or tapped").first.click()
    page.get_by_role("option", name="must be scanned").click()
    page.get_by_role("button", name="Receive to a pallet", exact=True).click()
    expect(page.locator(".hs")).to_contain_text("must be scanned")
    expect(page.locator(".hs-pick")).to_have_count(0)
    page.get_by_role("button", name="Undo", exact=True).click()
    page.get_by_role("button", name="Receive to a pallet", exact=True).click()
    expect(pick).to_be_visible()


@pytest.mark.needs("R07")
def test_changing_a_rule_from_the_desk_and_going_on(page: Page) -> None:
    """Two clicks from the why trail: change the rule, go on from there; the run it came from is kept."""
    sign_in(page)
    page.goto("/rehearsals/rope-by-the-pallet")
    page.get_by_role("button", name="Open on a desk").click()
    page.get_by_role("button", name="Entry 7", exact=True).click()
    no_axe_violations(page)
    page.get_by_role("button", name="Change this rule and go on from here").click()
    page.locator("#BR-3 .word", has_text="Bulk").click()
    page.get_by_role("option", name="Reserve").click()
    page.get_by_role("option", name="Bulk").click()
    page.keyboard.press("Escape")
    expect(page.locator("#BR-3")).to_contain_text("goes to Reserve")
    page.get_by_role("button", name="Go on under these rules").click()
    expect(page.locator(".log .row")).to_have_count(6)
    page.get_by_role("button", name="Finish plate").click()
    expect(page.locator(".log")).to_contain_text("made, to R-01-02-3")
    for _ in range(2):
        page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("button", name="Undo", exact=True)).to_be_disabled()


@pytest.mark.needs("R06")
def test_a_run_is_undone_whole_and_leaves_nothing(page: Page) -> None:
    """Gone back to before anything was received: no plate, no task, and the next numbers are those that the run drew."""
    sign_in(page)
    page.goto("/rehearsals/rope-by-the-pallet")
    page.get_by_role("button", name="Open on a desk").click()
    log = page.locator(".log")
    expect(log).to_contain_text("Plate LPR-000417 made.")
    expect(log).to_contain_text("receipt RCR-0093. Put-away task TR-0204 made, to B-02-01-1.")
    first = page.url
    page.get_by_role("button", name="Entry 1", exact=True).click()
    page.get_by_role("button", name="Go on from here").click()
    expect(log.locator(".row")).to_have_count(1)
    assert page.url != first
    stock = page.request.get(f"/api/worlds/{page.url.rpartition('/')[2].partition('?')[0]}/stock?find=ROPE-12").json()
    assert "LPR-000417" not in json.dumps(stock)
    page.get_by_role("button", name="Receive to a pallet", exact=True).click()
    page.locator(".tray button", has_text="order PO-1007").first.click()
    page.locator(".tray button", has_text="Braided rope 12 mm, coil").first.click()
    page.get_by_label("Scan or type").fill("10")
    page.keyboard.press("Enter")
    expect(log).to_contain_text("Plate LPR-000417 made.")
    page.get_by_role("button", name="Finish plate").click()
    expect(log).to_contain_text("receipt RCR-0093. Put-away task TR-0204 made, to B-02-01-1.")
    page.goto(first)
    expect(log).to_contain_text("receipt RCR-0093. Put-away task TR-0204 made, to B-02-01-1.")


def phone_in(phone: Page) -> None:
    phone.goto("/handset")
    phone.get_by_label("Name").fill("oren")
    phone.get_by_label("Password").fill("quay")
    phone.get_by_role("button", name="Sign in").click()
    phone.get_by_role("button", name="Halloway Quay floor").click()


@pytest.mark.needs("N02", "N04", "N10", "N11", "C25")
def test_the_handset_stands_alone_on_a_phone(phone: Page) -> None:
    """Sign in, choose the floor, receive paint with lot and date; targets are big enough; nothing scrolls sideways."""
    phone_in(phone)
    phone.get_by_role("button", name="Receive to a pallet").click()
    expect(phone.get_by_role("heading", name="Which order is it?")).to_be_visible()
    no_axe_violations(phone)
    box = phone.get_by_label("Scan or type")
    expect(box).to_be_focused()
    phone.get_by_role("button", name="PO-1002").click()
    phone.get_by_role("button", name="Antifouling red 2.5 l").click()
    for title, text, far in (("When does it expire?", "2029-08-31", "2 of 4"), ("Which lot is it?", "K2611", "3 of 4")):
        expect(phone.get_by_role("heading", name=title)).to_be_visible()
        expect(phone.locator(".hs")).to_contain_text(far)
        expect(phone.get_by_role("button", name=re.compile("^On it"))).to_have_count(0)  # there is no line yet
        box.fill(text)
        phone.keyboard.press("Enter")
    expect(phone.get_by_role("heading", name="How many tins?")).to_be_visible()
    sizes = phone.evaluate("[...document.querySelectorAll('.hs button')].map(b => b.getBoundingClientRect().height)")
    assert min(sizes) >= 48
    assert phone.evaluate("document.documentElement.scrollWidth <= innerWidth")
    phone.get_by_role("button", name="5", exact=True).click()
    phone.get_by_role("button", name="Enter").click()
    expect(phone.get_by_role("status")).to_contain_text("5 tins of Antifouling red 2.5 l")
    phone.get_by_role("button", name="On it: 1").click()
    expect(phone.locator(".hs-lines")).to_contain_text("5 tins")
    expect(phone.locator(".hs-lines")).to_contain_text("43 tins still open")
    phone.get_by_role("button", name="Change").click()
    phone.get_by_label("How many tins").fill("4")
    phone.keyboard.press("Enter")
    expect(phone.get_by_role("status")).to_contain_text("4 tins of Antifouling red 2.5 l on")
    phone.get_by_role("button", name="More").click()
    phone.get_by_role("button", name="Leave").click()
    expect(phone.get_by_role("status")).to_contain_text("is still being built")


@pytest.mark.needs("R10")
def test_a_scan_outlives_the_server(phone: Page, server: Server) -> None:
    """The server dies with a scan unanswered: the handset says so, keeps it over a reload, and it is done once."""
    phone_in(phone)
    phone.get_by_role("button", name="Receive to a tote").click()
    expect(phone.get_by_role("heading", name="Scan the label of the plate")).to_be_visible()
    server.kill()
    scan(phone, "LP-000950")
    expect(phone.locator(".hs")).to_contain_text("1 scan waiting")
    expect(phone.get_by_role("status")).to_contain_text("out of reach")
    server.start()
    expect(phone.get_by_role("heading", name="Which order is it?")).to_be_visible(timeout=20_000)
    expect(phone.locator(".hs")).to_contain_text("in touch")
    assert phone.evaluate("Object.keys(localStorage).filter(k => k.startsWith('unanswered')).length") == 0


def test_places_of_a_rule_are_moved_copied_and_limited(page: Page) -> None:
    """On the tab for replenishment: Alt+arrows move a place, a limit is entered as a number, all of it undone."""
    sign_in(page)
    page.get_by_role("tab", name="Replenish to").click()
    rule = page.locator("#BR-31")
    expect(rule).to_contain_text("the item's home bins, any bin that fits, emptiest first, up to its home maximum")
    rule.get_by_role("button", name="Places").click()
    places = rule.get_by_role("list", name="Places this rule looks in").locator("> li")
    expect(places).to_have_count(4)
    places.nth(0).focus()
    page.keyboard.press("Alt+ArrowDown")
    expect(places.nth(1)).to_contain_text("home bins")
    places.nth(1).get_by_text("+ but only").click()
    page.get_by_role("option", name="at most so many in a bin").click()
    page.get_by_role("textbox", name="At most in a bin").fill("12")
    page.keyboard.press("Enter")
    expect(rule).to_contain_text("at most 12 a bin")
    places.nth(0).get_by_role("button", name="Copy").click()
    expect(places).to_have_count(5)
    for _ in range(3):
        page.get_by_role("button", name="Undo", exact=True).click()
    expect(places).to_have_count(4)
    expect(rule).not_to_contain_text("at most 12")
    expect(places.nth(0)).to_contain_text("home bins")


def test_the_bench_takes_and_asks_for_everything_at_once(page: Page) -> None:
    """From which bins, split as the rules say; every item in stock; every open line with the rule that decides it."""
    sign_in(page)
    page.get_by_role("tab", name="Pick from").click()
    bench = page.get_by_role("complementary", name="Bench")
    expect(bench.get_by_test_id("bench-answer")).to_contain_text("by rule 5")
    expect(bench.locator(".shares li")).to_have_count(3)
    page.get_by_label("About").select_option("all")
    expect(bench).to_contain_text("80 items, one unit each: ▲ 1 find no bin for all of it")
    page.get_by_role("tab", name="Put away", exact=True).click()
    expect(bench).to_contain_text("61 open lines")
    expect(page.locator("#BR-3")).to_contain_text(
        re.compile(r"looks at 120 bins, 54 empty; decides \d+ of 61 open lines")
    )
    page.get_by_label("About").select_option("plate")
    page.get_by_label("Plate", exact=True).fill("LP-000900")
    expect(bench.get_by_test_id("bench-answer")).to_contain_text("by rule")
    page.get_by_label("Plate", exact=True).fill("LP-XX")
    expect(bench).to_contain_text("There is no license plate LP-XX.")


@pytest.mark.needs("N01")
def test_people_are_added_and_sign_in_by_badge(page: Page, browser: Browser, server: Server) -> None:
    """Somebody new for the quay, a badge for them, and the handset opens by it."""
    sign_in(page)
    page.keyboard.press("g")
    page.keyboard.press("p")
    page.get_by_role("button", name="Add somebody").click()
    page.get_by_label("Name", exact=True).fill("Nell Arkwright")
    page.get_by_label("Signs in as").fill("nell")
    page.get_by_label("Password").fill("short")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_role("dialog")).to_contain_text("at least 8 characters")
    page.get_by_label("Password").fill("long enough")
    page.get_by_label("quay").check()
    page.get_by_role("button", name="Add", exact=True).click()
    page.get_by_role("button", name="Nell Arkwright").click()
    page.get_by_role("button", name="Make a badge").click()
    badge = page.get_by_role("img", name=re.compile("Label of badge")).get_attribute("alt") or ""
    context = browser.new_context(viewport={"width": 390, "height": 844}, base_url=server.url)
    phone = context.new_page()
    phone.goto("/handset")
    phone.get_by_label("Scan your badge").fill(badge.split()[-1])
    phone.keyboard.press("Enter")
    expect(phone.get_by_text("Nell Arkwright")).to_be_visible()
    context.close()


@pytest.mark.needs("P04", "O04")
def test_a_second_browser_follows_a_world_through_a_restart(page: Page, browser: Browser, server: Server) -> None:
    """What happens on one desk shows on the other by itself, each entry once and in order, also after the server
    was killed; while out of touch the other says so."""
    sign_in(page)
    page.goto("/rehearsals")
    page.get_by_role("button", name="Begin a new one on a desk").click()
    page.get_by_label("Confirm an order").select_option("PO-1007")
    expect(page.get_by_text("The host confirmed")).to_be_visible()
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.url)
    other = context.new_page()
    sign_in(other)
    other.goto(page.url)
    rows = other.locator(".log .row")
    expect(rows).to_have_count(2)
    page.get_by_role("button", name="Look up", exact=True).click()
    expect(rows).to_have_count(3)
    server.kill()
    expect(other.get_by_text(re.compile(r"out of touch: what you see is [1-9]\d* s old"))).to_be_visible()
    server.start()
    expect(other.get_by_text("out of touch")).to_have_count(0)
    page.get_by_label("Scan or type").fill("LP-000064")
    page.keyboard.press("Enter")
    expect(rows).to_have_count(4)
    assert other.locator(".log .row .seq:first-child").all_inner_texts() == ["01", "02", "03", "04"]
    context.close()


@pytest.mark.needs("R10")
def test_the_network_is_lost_on_the_desk(page: Page, phone: Page) -> None:
    """Before it arrives, or before its answer does: the handset says so and takes nothing more; back, it is done once and
    said how; kept, both are steps. Somebody who is asked in sees it on the own handset."""
    sign_in(page)
    page.goto("/rehearsals")
    page.get_by_role("button", name="Begin a new one on a desk").click()
    expect(page).to_have_url(re.compile("/desk/"))
    network, tray, log = page.get_by_label("Network of the handset"), page.locator(".tray"), page.locator(".log .row")
    page.get_by_role("button", name="Receive to a pallet", exact=True).click()
    page.get_by_role("button", name=re.compile("^PO-1001")).first.click()
    expect(log).to_have_count(2)
    status = page.get_by_role("status").first
    network.select_option(label="gone: what is scanned does not arrive")
    page.get_by_role("button", name=re.compile("^Bow shackle 8 mm")).click()
    expect(status).to_contain_text("out of reach")
    tray.get_by_role("button").first.click()
    expect(status).to_contain_text("this one was not taken")
    expect(log).to_have_count(2)
    network.select_option("there")
    expect(log).to_have_count(3)
    expect(page.get_by_role("heading", name="How many pieces?")).to_be_visible()
    network.select_option(label="gone after it: the answer does not arrive")
    page.get_by_role("button", name="Confirm 500").click()
    expect(status).to_contain_text("out of reach")
    expect(log).to_have_count(4)
    expect(page.get_by_role("heading", name="How many pieces?")).to_be_visible()
    network.select_option("there")
    expect(page.get_by_role("heading", name="Scan an item of PO-1001")).to_be_visible()
    expect(log).to_have_count(4)
    log.nth(3).click()
    expect(page.locator(".log")).to_contain_text("Its answer is lost: it is sent again, and done once.")
    phone_in(phone)
    phone.get_by_role("button", name="Other floor").click()
    expect(phone.locator(".hs-pick")).to_have_count(1)
    page.get_by_label("Ask somebody in").select_option(label="Oren Maddock")
    expect(page.get_by_role("button", name="No longer ask Oren Maddock in")).to_be_visible()
    phone.locator(".hs-pick").first.click()
    phone.get_by_role("button", name="Other floor").click()  # the list is asked for anew
    expect(phone.locator(".hs-pick")).to_have_count(2)
    expect(phone.locator(".hs-pick").first).to_contain_text("the live floor")
    phone.locator(".hs-pick").nth(1).click()
    expect(phone.locator(".hs")).to_contain_text("HQ rehearsal")
    page.get_by_role("button", name="Keep as rehearsal").click()
    page.get_by_role("dialog").get_by_label("Name").fill("The network goes twice")
    page.get_by_role("dialog").get_by_role("button", name=re.compile("^Keep")).last.click()
    expect(page.get_by_text("Without network at first: it arrives when it is sent again.")).to_be_visible()
    expect(page.get_by_text("Its answer is lost: it is sent again, and done once.")).to_be_visible()
