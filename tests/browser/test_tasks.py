"""Tasks on the desk: held with a reason, let go, raised; and a plate taken by mistake put back on the handset."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import no_axe_violations, sign_in


def test_a_task_is_held_let_go_and_put_back(page: Page) -> None:
    """What the office does shows at once in the list and on the handset, and the plate stands where it stood."""
    sign_in(page)
    page.get_by_role("navigation", name="Chapters").get_by_role("link", name="Rehearsals").click()
    page.get_by_role("button", name="Begin a new one on a desk").click()

    def tray(text: str) -> None:
        page.locator(".tray button").filter(has_text=text).first.click()

    page.get_by_label("Confirm an order").select_option("PO-1007")
    page.get_by_role("button", name="Receive to a pallet", exact=True).click()
    tray("order PO-1007")
    tray("coil")
    page.get_by_role("button", name=re.compile("^Confirm")).first.click()
    page.get_by_role("button", name="Finish plate").click()
    page.get_by_role("button", name="Change task TR-0204").click()
    expect(page.get_by_role("button", name="Hold", exact=True)).to_be_disabled()
    page.get_by_label("Reason").fill("wet floor")
    no_axe_violations(page)
    page.get_by_role("button", name="Hold", exact=True).click()
    expect(page.get_by_role("row", name=re.compile("TR-0204"))).to_contain_text("held, wet floor")
    page.get_by_role("button", name="Leave").click()
    page.get_by_role("button", name="Put away", exact=True).click()
    expect(page.get_by_text("Nothing waits to be put away").first).to_be_visible()
    page.get_by_role("button", name="Change task TR-0204").click()
    page.get_by_role("button", name="Let it go").click()
    page.get_by_role("button", name="Change task TR-0204").click()
    page.get_by_label("Priority; the highest comes first").select_option("5")
    expect(page.get_by_role("row", name=re.compile("TR-0204"))).to_contain_text("priority 5")
    tray("plate LPR-000417")
    page.get_by_role("button", name="Put it back").click()
    expect(page.get_by_text("is back in RCV-01").first).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("TR-0204"))).to_contain_text("open")
    expect(page.get_by_role("heading", name="Scan the plate to put away")).to_be_visible()
