"""Release gates on their page: a ladder made and changed, and all open orders judged by it at once."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import no_axe_violations, sign_in, write


@pytest.mark.needs("H02", "H03", "H04", "H15")
def test_gates_judge_all_open_orders_at_once(page: Page) -> None:
    """Rate, verdict, whose gate it is and what is missing by line; a threshold changed changes what may go, and what cannot be climbed is said;
    nothing is released by asking."""
    sign_in(page, at="/gates")
    bench = page.get_by_label("Bench")
    orders = bench.get_by_role("list", name="Orders and their verdicts").locator("> li")
    expect(orders.first).to_contain_text("stopped")
    verdicts = bench.get_by_label("Orders", exact=True)
    stopped = verdicts.locator("option[value=stop]")
    expect(stopped).to_have_text("8 stopped")
    verdicts.select_option("stop")
    expect(orders).to_have_count(8)
    ferry = orders.filter(has_text="SO-2040")
    ferry.locator("summary").click()
    expect(ferry).to_contain_text(
        "By Whole orders only: Scarra Ferry Line names it. Measured is the line of which least is on hand."
    )
    expect(ferry).to_contain_text("It is below 100 %. From 100 % on it could go.")
    expect(ferry).to_contain_text(
        re.compile(r"Line 4, Smoke signal orange: 0 pieces of 1 piece on hand.*1 piece short")
    )
    shop = orders.filter(has_text="SO-2060")
    shop.locator("summary").click()
    expect(shop).to_contain_text("By Shops, by value: it is for Shops. Measured is the value of what is on hand.")
    club = orders.filter(has_text="SO-2008")
    club.locator("summary").click()
    row = club.get_by_role("list", name="Gates of SO-2008").get_by_role("listitem")
    expect(row).to_have_text(
        [
            re.compile("The host"),
            re.compile("Treasurer waits for the word of the club's treasurer.*waits here"),
            re.compile("Most of it measures"),
        ]
    )
    bench.get_by_role("button", name="Treasurer 5").click()
    expect(orders).to_have_count(5)
    bench.get_by_role("button", name="Treasurer 5").click()
    expect(orders).to_have_count(8)
    no_axe_violations(page)
    for place in (1, 2):
        page.locator("#G-4").hover()
        page.locator("#G-4").get_by_role("button", name="Later", exact=True).click()
        expect(page.locator("section.card").nth(place)).to_contain_text("Treasurer")
    expect(row.nth(1)).to_contain_text("Most of it")
    for _ in range(2):
        page.get_by_role("button", name="Undo", exact=True).click()
    gate = page.locator("#G-3")
    gate.locator(".word", has_text="50").click()
    write(page, "40")
    expect(stopped).to_have_text("7 stopped")
    gate.locator(".word", has_text="40").click()
    write(page, "95")
    expect(gate).to_contain_text("an order goes with a warning, and with more of it on hand it is stopped")
    no_axe_violations(page)
    page.get_by_role("button", name="Undo", exact=True).click()
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(stopped).to_have_text("8 stopped")
    page.get_by_role("button", name="Add a gate that measures").click()
    page.get_by_role("menuitem", name="all base units on hand together").click()
    made = page.locator("section.card").filter(has_text="New gate")
    expect(made).to_contain_text("is for nobody: no partner names it")
    made.hover()
    made.get_by_role("button", name="Remove", exact=True).first.click()
    expect(made).to_have_count(0)


def test_a_time_at_which_orders_are_released_is_a_sentence(page: Page) -> None:
    """Added, narrowed to a group, let go with a warning too; a time that is none is a finding; taken away again. Whose gate it is stands below."""
    sign_in(page, at="/gates")
    page.get_by_role("button", name="Add a time").click()
    run = page.locator("#RR-2")
    expect(run).to_contain_text(
        "At 07:00 by the site's clock all orders are released that may go: only those that pass"
    )
    run.locator(".word", has_text="only those that pass").click()
    page.get_by_role("option", name="also those that go with a warning").click()
    expect(run).to_contain_text("also those that go with a warning")
    run.locator(".word", has_text="07:00").click()
    write(page, "7 o'clock")
    expect(run).to_contain_text("is no time of the day: say one as 14:00.")
    whose = page.get_by_role("table").filter(has_text="Otherwise")
    expect(whose.get_by_role("row").filter(has_text="Scarra Ferry Line")).to_contain_text("Whole orders only")
    for _ in range(3):
        page.get_by_role("button", name="Undo", exact=True).click()
    expect(run).to_have_count(0)
