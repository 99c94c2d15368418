"""Who may what and where a handset begins, on the screens; and orders of the host that name no site."""

from __future__ import annotations

import json
import re
import urllib.request

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import no_axe_violations, sign_in
from tests.serving import Server


@pytest.mark.needs("Q01", "Q04", "Q08", "N17")
def test_a_person_is_given_a_right_a_site_and_a_flow(page: Page, phone: Page) -> None:
    """Oren may besides block bins at HQ and begins there with putting away; his handset opens on it, and one tap changes it."""
    sign_in(page)
    page.goto("/people")
    page.get_by_role("button", name="Oren Maddock").click()
    card = page.get_by_role("dialog", name="Oren Maddock")
    card.get_by_label("block and free bins, at HQ").check()
    card.get_by_label("Begins at").select_option("HQ")
    card.get_by_label("Begins with").select_option("F-PUTAWAY")
    no_axe_violations(page)
    card.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("row").filter(has_text="Oren Maddock")).to_contain_text("HQ, Put away")
    page.get_by_role("tab", name="Who may what").click()
    expect(page.get_by_role("row").filter(has_text="block and free bins")).to_contain_text("Oren Maddock HQ")
    expect(page.get_by_role("row").filter(has_text="tell the host of a receipt")).to_contain_text("to nobody")
    phone.goto("/handset")
    phone.get_by_label("Name").fill("oren")
    phone.get_by_label("Password").fill("quay")
    phone.get_by_role("button", name="Sign in").click()
    expect(phone.locator(".hs-top").first).to_contain_text("Put away")
    expect(phone.locator(".hs-top").nth(1)).to_contain_text("HQ live floor")
    phone.get_by_role("button", name="Leave").click()
    goods_in = phone.get_by_role("group", name="Goods in")
    expect(goods_in.get_by_role("button", name="Receive to a pallet")).to_contain_text(re.compile(r"\d+ to do"))
    expect(goods_in.get_by_role("button", name="Put away", exact=True)).to_contain_text("nothing waits")
    phone.get_by_role("button", name="Begins: Put away").click()
    phone.get_by_role("button", name="With the menu").click()
    expect(phone.get_by_role("button", name="Begins: the menu")).to_be_visible()
    phone.reload()
    expect(phone.get_by_role("heading", name="What do you do?")).to_be_visible()
    phone.get_by_role("button", name="Other floor").click()
    expect(phone.get_by_role("heading", name="Where do you work?")).to_be_visible()


@pytest.mark.needs("A27")
def test_an_order_that_names_no_site_is_given_one(page: Page, server: Server) -> None:
    """Its channel is served by none: it stands on Host until the buyer says where it goes, then the floor has it."""
    sign_in(page)
    page.goto("/people")
    page.get_by_role("button", name="The counting house").click()
    card = page.get_by_role("dialog", name="The counting house")
    for site in ("GL", "SW"):
        card.get_by_label(site, exact=True).check()
    card.get_by_role("button", name="Keep").click()
    page.get_by_role("button", name="The counting house").click()
    card.get_by_role("button", name=re.compile("key$")).click()
    key = card.get_by_text(re.compile("^KEY-")).inner_text()
    line = {"no": 1, "item": "SHK-08", "unit": "pc", "quantity": 10, "net_price": "1.00"}
    order = {
        "number": "PO-7002", "kind": "purchase", "site": "", "partner": "V-120", "promised": "2026-03-09", "lines": [line],
        "channel": "market",
    }  # fmt: skip
    body = json.dumps({"message": "n-2", "topic": "confirm_order", "order": order}).encode()
    head = {"Content-Type": "application/json", "X-Mindful-Crate": "1", "Authorization": f"Bearer {key}"}
    with urllib.request.urlopen(urllib.request.Request(f"{server.url}/api/host/orders", body, head)) as answer:
        assert json.load(answer)["waits"] is True
    page.get_by_role("button", name="Close").click()
    page.get_by_role("button", name="Sign out").click()
    expect(page.get_by_role("button", name="Sign in as Tove")).to_be_visible()
    sign_in(page, "Tove")
    page.goto("/host")
    page.get_by_label("World").select_option(label="Halloway Quay floor (live)")
    page.get_by_label("A real host is connected").check()
    waits = page.get_by_role("region", name="Orders without a site")
    expect(waits).to_contain_text("PO-7002")
    expect(waits).to_contain_text("market")
    no_axe_violations(page)
    waits.get_by_role("button", name="Give it").click()
    expect(waits).to_have_count(0)
    page.get_by_label("Find an order").fill("PO-7002")
    expect(page.get_by_role("row").filter(has_text="PO-7002").first).to_be_visible()
