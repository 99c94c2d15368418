"""A rulebook made on its pages from nothing, put in force on a live floor, seen on a handset."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import sign_in

ASK = "async ([method, path, body]) => { const r = await fetch(path, {method, headers: {'X-Mindful-Crate': '1', 'content-type': 'application/json'}, body: body ? JSON.stringify(body) : undefined}); return r.json() }"


def call(page: Page, method: str, path: str, body: Any = None) -> Any:
    return page.evaluate(ASK, [method, path, body])


def choose(page: Page, word: Locator, *options: str) -> None:
    """Open a word and take what it may say."""
    word.click()
    for option in options:
        known = re.compile(rf"^(✓ ?)?{re.escape(option)}( |$)")  # a note may follow
        page.locator(".editor").get_by_role("option", name=known).first.click()
    if page.locator(".editor").count():  # where several may be taken it stays; Escape would close what came after it
        page.keyboard.press("Escape")


@pytest.mark.needs("R20")
def test_rules_are_made_from_nothing_and_reach_the_floor(page: Page, phone: Page) -> None:
    """A crew, a flow with a prompt in words of its own, a menu, a plan, a recipe: every part by its button; then in force, and
    whoever works there has it on the handset without anybody's doing."""
    sign_in(page)
    draft = call(page, "GET", "/api/drafts/d-3")
    call(page, "POST", "/api/drafts/d-3/live", {"version": draft["version"]})
    nothing = [
        {"op": "set", "path": p, "value": []} for p in ("crews", "step_plans", "bin_rules", "recipes", "flows", "menus")
    ]
    call(
        page,
        "POST",
        "/api/drafts/d-3/edits",
        {"version": draft["version"], "edits": nothing, "says": "Nothing is left."},
    )
    page.evaluate("localStorage.setItem('draft', 'd-3')")
    page.goto("/crews")
    expect(page.get_by_text("There is no crew yet")).to_be_visible()
    page.get_by_role("button", name="Add a crew").click()
    crew = page.locator("#crew-1")
    crew.get_by_role("button", name="Rename").click()
    page.get_by_role("textbox", name="Called").fill("Room crew")
    page.keyboard.press("Enter")
    expect(crew.get_by_role("heading", name="Room crew")).to_be_visible()
    expect(crew).to_contain_text("Sees nothing")
    page.goto("/scanner")
    expect(page.get_by_text("There is no flow yet")).to_be_visible()
    page.get_by_role("button", name="Add a flow").click()
    page.get_by_role("menuitem", name="Receive goods onto a license plate").click()
    flow = page.locator("#F-1")
    choose(
        page, flow.locator(".word", has_text="gets the site's next number"), "is not built: goods are received loose"
    )
    expect(flow).to_contain_text("People use it to receive goods loose.")
    prompts = flow.get_by_role("list", name="What it asks").locator("> li")
    expect(prompts).to_have_count(7)
    prompts.nth(2).get_by_text("+ in other words").click()
    page.get_by_role("textbox", name="In the words").fill("What did you bring?")
    page.keyboard.press("Enter")
    expect(prompts.nth(2)).to_contain_text("What did you bring?")
    prompts.nth(1).hover()
    prompts.nth(1).get_by_role("button", name="Copy").click()
    expect(flow).to_contain_text("asks twice for the plate")
    prompts.nth(2).hover()
    prompts.nth(2).get_by_role("button", name="Remove").click()
    expect(prompts).to_have_count(7)
    page.get_by_role("button", name="Give a menu to").click()
    page.get_by_role("menuitem", name="Room crew").click()
    choose(page, page.locator("#MN-1").locator(".word", has_text="nothing yet"), "Receive")
    expect(flow).to_contain_text("On the menu of Room crew")
    page.goto("/steps")
    page.get_by_role("button", name="Add a plan").click()
    page.get_by_role("menuitem", name="All orders").click()
    page.get_by_role("dialog", name="What this changes").get_by_role("button", name="Save it").click()
    plan = page.locator("#SP-1")
    choose(page, plan.locator(".word", has_text="none yet"), "SLIPWAY")
    saved = page.get_by_role("dialog", name="What this changes").get_by_role("button", name="Save it")
    saved.click()
    expect(plan).to_contain_text("received into SLIPWAY")
    choose(page, plan.locator(".word", has_text="They are put away"), "They stay there")
    saved.click()
    expect(plan).to_contain_text("They are received into SLIPWAY")
    page.goto("/recipes")
    page.get_by_role("button", name="Add a recipe for").click()
    page.get_by_role("menuitem", name="Room crew").click()
    saved.click()
    expect(page.locator("#RE-1")).to_contain_text("Room crew takes it where its plan puts it away")
    sam = {
        "name": "Sam Reed",
        "login": "sam",
        "password": "slipway room",
        "role": "floor",
        "sites": ["SW"],
        "crews": ["crew-1"],
    }
    call(page, "POST", "/api/people", sam)
    phone.goto("/handset")
    phone.get_by_label("Name").fill("sam")
    phone.get_by_label("Password").fill("slipway room")
    phone.get_by_role("button", name="Sign in").click()
    phone.get_by_role("button", name="floor").click()
    expect(phone.get_by_text("No flow is on a menu of your crews")).to_be_visible()
    page.goto("/drafts")
    changes = page.get_by_role("list", name="What would change")
    expect(changes).to_contain_text("They are received into SLIPWAY")
    page.get_by_role("button", name="Put it in force, also on the live floor").click()
    expect(page.get_by_text("says the same as what is in force")).to_be_visible()
    expect(page.get_by_text("goes by what is in force")).to_be_visible()
    phone.get_by_role("button", name="Receive", exact=True).click()
    phone.get_by_role("button", name="SW-71").click()
    expect(phone.get_by_role("heading", name="What did you bring?")).to_be_visible()
    page.reload()
    expect(page.get_by_text("Receive: has taken it")).to_be_visible()
