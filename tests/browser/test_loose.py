"""The parts store without plates, worked on the desk's handset as somebody there would."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import no_axe_violations, sign_in


def test_goods_are_received_loose_and_put_away_by_the_bin(page: Page) -> None:
    """Another site at the top of the page; its test run; a receipt without a plate; tasks by bin, taken with a scan of
    the item; and the stock page shows this site alone."""
    sign_in(page)
    page.get_by_label("Site and draft").select_option(label="GL: Drawers")
    expect(page.get_by_text("Where goods are put away")).to_be_visible()
    page.get_by_role("navigation", name="Chapters").get_by_role("link", name="Steps").click()
    expect(page.get_by_label("Bench")).to_contain_text("Received loose into GL-COUNTER")
    page.get_by_role("navigation", name="Chapters").get_by_role("link", name="Rehearsals").click()
    page.get_by_role("button", name="Begin a new one on a desk").click()

    def tray(text: str) -> None:
        page.locator(".tray button").filter(has_text=text).first.click()

    page.get_by_role("button", name="Receive", exact=True).click()
    tray("order GL-502")
    tray("Cleat 15 cm, piece")
    page.get_by_role("button", name="Confirm 40").click()
    expect(page.get_by_text("Receipt RCR-0093 begun").first).to_be_visible()
    page.get_by_role("button", name="Finish receipt").click()
    expect(page.get_by_text("arrived in GL-COUNTER").first).to_be_visible()
    page.get_by_role("button", name="Leave").click()
    page.get_by_role("button", name="Put away", exact=True).click()
    expect(page.get_by_role("heading", name="Scan what is put away")).to_be_visible()
    tray("Cleat 15 cm, piece")
    expect(page.get_by_role("heading", name="Take it to this bin and scan it")).to_be_visible()
    no_axe_violations(page)
    tray("shown")
    expect(page.get_by_text(re.compile("placed in D")).first).to_be_visible()
    page.get_by_role("link", name="Rehearsals").click()
    page.get_by_role("navigation", name="Chapters").get_by_role("link", name="Stock", exact=True).click()
    page.get_by_label("World").select_option(index=0)
    expect(page.get_by_role("row", name=re.compile("GL-COUNTER|D1-01"))).not_to_have_count(0)
    expect(page.get_by_role("row", name=re.compile("LP-0000"))).to_have_count(0)


def test_a_host_gets_a_key_of_its_own(page: Page) -> None:
    """On People: a system with the role host, whose key is shown once and is no badge."""
    sign_in(page)
    page.goto("/people")
    page.get_by_role("button", name="The counting house").click()
    page.get_by_role("button", name="Make a key").click()
    expect(page.get_by_text("copy it now: it is not shown again")).to_be_visible()
    key = page.get_by_text(re.compile("^KEY-")).inner_text()
    browser = page.context.browser
    assert browser
    other = browser.new_context()  # the host's system has no session of ours
    url = page.url.replace("/people", "/api/host/messages")
    answer = other.request.get(url, headers={"Authorization": f"Bearer {key}"})
    assert (answer.status, answer.json()) == (200, {"letters": [], "waiting": 0})
    assert other.request.get(url).status == 401
    other.close()
