"""The guide's chapter on the host, done in a browser: an order made, a host that is down, the chain of a document."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Locator, Page, Route, expect

from tests.browser.conftest import no_axe_violations, sign_in

PROCESSES = 2
"""As it is shipped: what one process did, the other must know."""


@pytest.mark.needs("C01", "P01", "P09", "O02", "O03", "O13", "R02")
def test_an_order_made_refused_repeated_and_followed(page: Page) -> None:
    """Made and confirmed in one act, then one by hand with its mistakes; the host goes down and comes back; every
    message is accepted once, and its document leads to the chain."""
    sign_in(page)
    page.goto("/host")
    page.get_by_role("button", name="Begin a run").click()
    page.get_by_role("button", name="A test order", exact=True).click()
    expect(page.get_by_role("row", name=re.compile("TEST-001.*knows it"))).to_be_visible()
    page.get_by_role("button", name="Write an order").click()
    form = page.get_by_role("dialog")
    form.get_by_label("Number").fill("po-77")
    form.get_by_label("Partner").select_option(label="Brightwater Ropeworks")
    form.get_by_role("button", name="Add a line").click()
    form.get_by_label("Item 1").fill("ROPE-99")
    form.get_by_label("How many 1").fill("3")
    form.get_by_role("button", name="Put it into the host").click()
    expect(form).to_contain_text("item ROPE-99 does not exist")
    form.get_by_label("Item 1").fill("ROPE-12")
    form.get_by_label("Unit 1").select_option(label="coils")
    expect(form).to_contain_text("600 m")
    form.get_by_role("button", name="Put it into the host").click()
    row = page.get_by_role("row", name=re.compile("^PO-77"))
    expect(row).to_contain_text("does not know it")

    page.get_by_label("It is down").check()
    row.get_by_role("button", name="confirm").click()
    expect(row).to_contain_text("is due at")
    log = page.get_by_role("row", name=re.compile("^MR-0002"))
    expect(log).to_contain_text("waits")
    no_axe_violations(page)
    page.get_by_label("It is down").uncheck()
    expect(log).to_contain_text("accepted")
    expect(row).to_contain_text("knows it")
    log.get_by_role("button", name="MR-0002").click()
    page.get_by_role("button", name="UBL").click()
    expect(page.get_by_label("Host stand-in")).to_contain_text("<cbc:ID>PO-77</cbc:ID>")

    row.get_by_role("link", name="PO-77").click()
    chain = page.get_by_label("Chain")
    expect(chain).to_contain_text("confirmed Ines Varga")
    expect(chain).to_contain_text("not arrived yet")
    chain.get_by_role("button", name="MR-0002").first.click()
    expect(chain.get_by_role("heading")).to_contain_text("MR-0002")
    no_axe_violations(page)
    page.get_by_label("Kind").select_option("message")
    expect(page.get_by_text("No document here reads like that")).to_be_visible()
    page.get_by_label("State").select_option("done")
    expect(page.get_by_role("row")).to_have_count(3)  # its heading is one
    chain.get_by_role("link", name="entry 3 of the log").or_(chain.get_by_role("link")).first.click()
    expect(page).to_have_url(re.compile(r"/desk/.*entry="))


def at_host(page: Page) -> tuple[Locator, str]:
    """Signed in at the host's page: where it says which world is looked at, and which it is."""
    sign_in(page)
    page.goto("/host")
    floor = page.get_by_label("World")
    expect(floor).not_to_have_value("")
    return floor, floor.input_value()


def test_what_was_asked_before_an_act_and_answered_after_it_is_not_believed(page: Page) -> None:
    """A run just begun, and its first page slower than the order made in it: the order stands there all the same."""
    floor, before = at_host(page)

    def ordered_meanwhile(route: Route) -> None:
        answer = route.fetch()
        expect(floor).not_to_have_value(before)
        with page.expect_response(re.compile("/commands$")):
            page.get_by_role("button", name="A test order", exact=True).click()
        route.fulfill(response=answer)

    page.route(re.compile(rf"/worlds/(?!{before})[^/]+/host\?"), ordered_meanwhile, times=1)
    page.get_by_role("button", name="Begin a run").click()
    expect(page.get_by_role("row", name=re.compile("TEST-001.*knows it"))).to_be_visible()


@pytest.mark.needs("F13")
def test_a_production_order_runs_whatever_has_arrived(page: Page) -> None:
    """How far it is in the host stands beside what has arrived; ended with a reason when less came, nothing more is taken."""
    floor, before = at_host(page)
    page.get_by_role("button", name="Begin a run").click()
    expect(floor).not_to_have_value(before)  # until then an order would go to the run before
    page.get_by_label("Kind of test order").select_option(label="production output")
    page.get_by_role("button", name="A test order", exact=True).click()
    row = page.get_by_role("row", name=re.compile("^TEST-001"))
    expect(row).to_contain_text("running")
    expect(row).to_contain_text("knows it")
    row.get_by_role("button", name="complete").click()
    expect(row).to_contain_text("output complete")
    row.get_by_role("button", name="end", exact=True).click()
    form = page.get_by_role("dialog", name="End TEST-001")
    form.get_by_role("button", name="End it").click()
    expect(page.get_by_text("did not come. Say in a few words")).to_be_visible()
    row.get_by_role("button", name="end", exact=True).click()
    form.get_by_label(re.compile("^Why the rest")).fill("machine down")
    no_axe_violations(page)
    form.get_by_role("button", name="End it").click()
    expect(row).to_contain_text("closed")
    expect(row.get_by_role("button", name="complete")).to_have_count(0)


@pytest.mark.parametrize("path", ["/host", "/documents"])
def test_a_viewer_looks_and_changes_nothing(page: Page, path: str) -> None:
    """No buttons where there is no right; everything there is to see."""
    sign_in(page, "Vik")
    page.goto(path)
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    expect(
        page.get_by_role("button", name=re.compile("test order|Write an order|Begin a run|^confirm$"))
    ).to_have_count(0)


@pytest.mark.needs("A30")
def test_a_setting_is_made_for_all_sites_and_seen_where_it_holds(page: Page) -> None:
    """Set once, said in the flow's sentence and in its row with where it comes from; undone, it is as usual; the bench
    names what does not agree first."""
    sign_in(page)
    page.goto("/settings")
    page.get_by_role("button", name="Scanning the next item, all sites: not set here").click()
    page.get_by_role("option", name="is refused until the quantity of the last is confirmed").click()
    row = page.get_by_role("row", name=re.compile("is refused until.*set for all sites confirms.*as usual"))
    expect(row).to_have_count(6)
    page.get_by_role("button", name="Undo").click()
    expect(row).to_have_count(0)
    bench = page.get_by_label("Bench")
    bench.get_by_label("Order").select_option("PO-1007")
    bench.get_by_label("Item").select_option("ROPE-12")
    expect(bench).to_contain_text("1 of")
    expect(bench.get_by_role("listitem").first).to_contain_text("Not confirmed")
    bench.get_by_label("Bin").fill("nowhere")
    expect(bench).to_contain_text("There is no bin NOWHERE.")
