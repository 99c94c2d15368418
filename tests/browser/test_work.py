"""Work in the office: goods that wait, gathered into a task that is seen before it is made; on the map of stations meanwhile."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import no_axe_violations, sign_in


@pytest.mark.needs("B13", "B14", "E17", "B22")
def test_what_waits_is_gathered_seen_and_made(page: Page) -> None:
    """Put-away on demand: two receipts wait on the list, are shown as one task with its way and recipe, not made, then made; the
    task stands on its list, and the map says where the goods are."""
    sign_in(page)
    page.goto("/steps")
    plan = page.locator("#SP-1")
    plan.locator(".word", has_text="by itself").click()
    page.get_by_role("option").filter(has_text="on demand").click()
    told = page.get_by_role("dialog", name="What this changes")
    expect(told).to_contain_text("Put-away of what Purchase receipts receives begins on demand")
    told.get_by_role("button", name="Save it").click()
    expect(plan).to_contain_text("It begins on demand")
    page.goto("/rehearsals")
    page.get_by_role("button", name="Begin a new one on a desk").click()
    page.get_by_label("Confirm an order").select_option("PO-1007")

    def tray(text: str) -> None:
        page.locator(".tray button").filter(has_text=text).first.click()

    page.get_by_role("button", name="Receive to a pallet", exact=True).click()
    tray("order PO-1007")
    for rope in ("12 mm", "16 mm"):
        tray(f"Braided rope {rope}, coil")
        page.get_by_role("button", name=re.compile("^Confirm")).first.click()
        page.get_by_role("button", name="Finish plate").click()
        expect(page.locator(".log").get_by_text("for a put-away task to be made").last).to_be_visible()
    world = page.url.rsplit("/", 1)[1]
    page.goto(f"/work?world={world}")
    expect(page.get_by_role("tab", name="Waits for a task 2")).to_be_visible()
    no_axe_violations(page)
    page.get_by_role("button", name="Tick all").click()
    page.get_by_role("button", name="Tasks of these 2").click()
    seen = page.get_by_role("dialog", name="Tasks before they are made")
    expect(seen).to_contain_text("2 tasks for Quay crew")
    seen.get_by_text("gather all of one recipe into one task").click()
    expect(seen).to_contain_text("1 task for Quay crew")
    expect(seen).to_contain_text("Recipe 3: it is for anything")
    seen.get_by_role("button", name="Not now").click()
    expect(page.get_by_role("tab", name="Waits for a task 2")).to_be_visible()
    page.get_by_role("button", name="Tasks of these 2").click()
    seen.get_by_role("button", name="Make them").click()
    expect(page.get_by_role("tab", name="Tasks 1")).to_be_visible()
    page.get_by_role("tab", name="Tasks 1").click()
    expect(page.get_by_role("row").filter(has_text="TR-0204")).to_contain_text("LPR-000417")
    page.goto("/steps")
    page.get_by_label("What is there now on").select_option(world)
    expect(page.get_by_label("Map of stations")).to_contain_text("2 plates")
    expect(page.get_by_label("Map of stations")).to_contain_text("1 task")
