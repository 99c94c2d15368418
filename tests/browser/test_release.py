"""Orders are released on their page, under each verdict, and taken back; what one has is promised to another."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import no_axe_violations, sign_in

HEAD = {"X-Mindful-Crate": "1"}


def begun(page: Page, *orders: str, kept: dict[str, int] | None = None) -> str:
    """A run in which so much of some items is kept for somebody, these orders are confirmed, and the floor knows them."""

    def post(path: str, body: dict[str, Any]) -> Any:
        answer = page.request.post(path, data=body, headers=HEAD)
        assert answer.ok, answer.text()
        return answer.json()

    world = str(post("/api/worlds", {"name": "Orders that go", "draft": "d-1", "book_seconds": 2})["id"])
    for item, quantity in (kept or {}).items():
        act = {"kind": "reserve_stock", "holder": "the yard", "item": item, "quantity": quantity}
        post(f"/api/worlds/{world}/commands", {"id": item, "act": act})
    for n, order in enumerate(orders):
        post(f"/api/worlds/{world}/commands", {"id": f"c{n}", "act": {"kind": "confirm_order", "order": order}})
    post(f"/api/worlds/{world}/commands", {"id": "later", "act": {"kind": "wait", "seconds": 120}})
    return world


@pytest.mark.needs("H01", "H08", "H12", "H13", "H14", "R05")
def test_orders_are_released_under_each_verdict_and_taken_back(page: Page) -> None:
    """Found by words and by how they stand; one that passes, one with a warning that reads as released, one that is stopped and goes by
    name; all that can go whole in one act, the others stay in sight; looking changes nothing."""
    sign_in(page)
    world = begun(page, "SO-2001", "SO-2019", "SO-2040", "SO-2046", "SO-2060", "SO-2007")
    seq = page.request.get(f"/api/worlds/{world}").json()["seq"]
    page.goto(f"/release?world={world}")
    rows = page.get_by_role("table").locator("tbody tr")
    shown = page.get_by_label("How they stand")
    chosen = page.get_by_label("Chosen order")
    expect(shown.locator("option[value=released]")).to_have_text("0 released")
    shown.select_option("stop")
    expect(rows).to_have_count(1)
    page.get_by_role("button", name="SO-2040").click()
    expect(chosen).to_contain_text("By Whole orders only: Scarra Ferry Line names it.")
    expect(chosen.get_by_role("list", name="Lines of SO-2040")).to_contain_text(
        re.compile("Smoke signal orange: 0 pieces of 1 piece on hand")
    )
    no_axe_violations(page)
    assert page.request.get(f"/api/worlds/{world}").json()["seq"] == seq
    shown.select_option("")
    page.get_by_label("Order, partner, class, item, carrier or day").fill("so-2001")
    expect(rows).to_have_count(1)
    page.get_by_label("Take SO-2001").check()
    page.get_by_role("button", name="What would happen").click()
    tried = page.get_by_role("status").filter(has_text="Only tried, nothing was done")
    expect(tried).to_contain_text("SO-2001 was released into SHR-0001.")
    expect(shown.locator("option[value=released]")).to_have_text("0 released")
    page.get_by_role("button", name="Release 1", exact=True).click()
    said = page.get_by_role("status").filter(has_text="released")
    expect(said).to_contain_text("SO-2001 was released into SHR-0001.")
    expect(rows.first).to_contain_text("released")
    page.get_by_label("Order, partner, class, item, carrier or day").fill("SO-2060")
    expect(rows.first).to_contain_text("warned")
    page.get_by_role("button", name="Release it").click()
    expect(said).to_contain_text(re.compile(r"SO-2060 was released with a warning into .* What is not on hand stays"))
    page.get_by_label("Order, partner, class, item, carrier or day").fill("SO-2040")
    page.get_by_role("button", name="Let it past its gate").click()
    page.get_by_role("dialog").get_by_label("Why, for the log").fill("the ferry waits for it")
    no_axe_violations(page)
    page.get_by_role("dialog").get_by_role("button", name="Release it").click()
    expect(said).to_contain_text(re.compile("SO-2040 was released past its gate into .*the ferry waits for it"))
    expect(chosen).to_contain_text("released it into")
    page.get_by_role("button", name="Take the release back").click()
    page.get_by_role("dialog").get_by_label("Why, for the log").fill("the ferry is late")
    page.get_by_role("dialog").get_by_role("button", name="Take it back").click()
    expect(page.get_by_role("status").filter(has_text="is undone")).to_contain_text("the ferry is late")
    expect(chosen).to_contain_text("stopped")
    page.get_by_label("Order, partner, class, item, carrier or day").fill("")
    page.get_by_role("button", name="Release the 3 that can go whole").click()
    expect(page.get_by_role("status").filter(has_text="All 3 orders")).to_be_visible()
    shown.select_option("stop")
    expect(rows).to_have_count(1)


@pytest.mark.needs("H15")
def test_an_order_waits_at_one_gate_after_another(page: Page) -> None:
    """Where it waits is said; no with a reason, yes without; then it may go. How it stood is pinned by the gate that said so."""
    sign_in(page)
    world = begun(page, "SO-2008", "SO-2001")
    page.goto(f"/release?world={world}&order=SO-2008")
    chosen, said = page.get_by_label("Chosen order"), page.get_by_role("status")
    row = chosen.get_by_role("list", name="Gates of SO-2008").get_by_role("listitem")
    expect(row.first).to_contain_text("The host confirmed it")
    expect(row.nth(1)).to_contain_text("waits for the word of the club's treasurer")
    page.get_by_role("button", name="Treasurer 1", exact=True).click()
    expect(page.get_by_role("table").locator("tbody tr")).to_have_count(1)
    no_axe_violations(page)
    row.nth(1).get_by_role("button", name="Say no at Treasurer").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("button", name="Say no")).to_be_disabled()
    dialog.get_by_label("Why, for the log").fill("the kitty is empty")
    no_axe_violations(page)
    dialog.get_by_role("button", name="Say no").click()
    expect(said.filter(has_text="says no to")).to_contain_text(
        "SO-2008 at Treasurer: the kitty is empty. It is stopped."
    )
    expect(row.nth(1)).to_contain_text("Ines Varga said no: the kitty is empty")
    page.get_by_role("button", name="Pin how it stands").click()
    expect(page.get_by_text("Pinned: so it must be at the end of the run.")).to_be_visible()
    row.nth(1).get_by_role("button", name="Say yes at Treasurer").click()
    dialog.get_by_role("button", name="Say yes").click()
    expect(said.filter(has_text="says yes to")).to_contain_text("It may go.")
    page.get_by_role("button", name="Treasurer 0", exact=True).click()
    page.get_by_role("button", name="Release it").click()
    expect(said.filter(has_text="was released into")).to_be_visible()
    page.goto(f"/desk/{world}")
    expect(page.get_by_text(re.compile("SO-2008 is stopped, at 100.00 %, by gate Treasurer"))).to_be_visible()


@pytest.mark.needs("H05", "H07")
def test_another_gate_and_what_another_order_has(page: Page) -> None:
    """An order gets another gate with a reason, and may go; a line that lacks a piece takes it from an order that has some."""
    sign_in(page)
    world = begun(page, "SO-2046", "SO-2059", "SO-2060", kept={"ROPE-06": 330})
    page.goto(f"/release?world={world}&order=SO-2060")
    chosen = page.get_by_label("Chosen order")
    expect(chosen).to_contain_text("By Shops, by value: it is for Shops.")
    page.get_by_role("button", name="Another gate").click()
    form = page.get_by_role("dialog")
    form.get_by_role("combobox").select_option("Whole orders only")
    form.get_by_label("Why, for the log").fill("they want it in one go")
    form.get_by_role("button", name="Give it this gate").click()
    expect(chosen).to_contain_text("By Whole orders only: Ines Varga gave it.")
    page.get_by_role("button", name="Pin how it stands").click()
    expect(page.get_by_text("Pinned: so it must be at the end of the run.")).to_be_visible()
    page.get_by_role("link", name="Its desk").click()
    expect(page.get_by_text(re.compile("SO-2060 is stopped, at 42.85 %, by gate Whole orders only"))).to_be_visible()
    page.get_by_role("link", name="Orders that go out").click()
    page.get_by_role("button", name="SO-2059", exact=True).click()
    rope = chosen.get_by_role("listitem").filter(has_text="Braided rope 6 mm")
    expect(rope).to_contain_text("0 m of 30 m on hand, 30 m short.")
    rope.get_by_role("button", name="Take from another order").click()
    expect(form.get_by_role("combobox")).to_contain_text("SO-2046 line 1, has 70 m")
    form.get_by_label("How much").fill("20")
    form.get_by_label("Why, for the log").fill("the regatta starts on Friday")
    no_axe_violations(page)
    form.get_by_role("button", name="Promise it to SO-2059").click()
    expect(rope).to_contain_text("20 m of 30 m on hand, 10 m short.")
    expect(page.get_by_role("status").filter(has_text="regatta")).to_contain_text(
        "20 m of Braided rope 6 mm are promised to SO-2059/3"
    )
    page.goto(f"/documents?world={world}&doc=SO-2060")
    expect(page.locator(".chain")).to_contain_text("released")


def test_who_may_not_release_only_looks(page: Page) -> None:
    """The analyst decides nothing on the live floor: no button is there, and asked all the same it says who may."""
    sign_in(page)
    world = next(w["id"] for w in page.request.get("/api/worlds").json()["worlds"] if w["kind"] == "live")
    page.goto(f"/release?world={world}")
    expect(page.get_by_role("table")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Release"))).to_have_count(0)
    act = {"kind": "release_orders", "orders": ["SO-2001"], "warned": True, "whole": False}
    refused = page.request.post(f"/api/worlds/{world}/commands", data={"id": "x", "act": act}, headers=HEAD)
    assert refused.status == 403 and "release orders" in refused.json()["title"]


@pytest.mark.needs("A18", "H06")
def test_a_gate_stays_with_an_order_when_the_rules_change(page: Page) -> None:
    """An order of a shop is on the floor; then the gate of shops is changed, and the run goes on under the changed rules: that order is
    judged as before, one that comes later by the changed gate."""
    sign_in(page)
    world = begun(page, "SO-2060")
    draft = page.request.get("/api/drafts/d-1").json()
    edit = {"op": "set", "path": "gates/G-3/rungs/RG-5/below", "value": 100}
    body = {"version": draft["version"], "edits": [edit], "says": "", "look": False}
    assert page.request.post("/api/drafts/d-1/edits", data=body, headers=HEAD).ok
    seq = page.request.get(f"/api/worlds/{world}").json()["seq"]
    after = page.request.post(f"/api/worlds/{world}/branch", data={"seq": seq, "draft": "d-1"}, headers=HEAD).json()[
        "id"
    ]
    page.goto(f"/release?world={after}&order=SO-2060")
    chosen = page.get_by_label("Chosen order")
    expect(chosen).to_contain_text("By Shops, by value: it is for Shops.")
    expect(chosen).to_contain_text("From 90 % on it could go.")
    page.goto(f"/release?world={begun(page, 'SO-2060')}&order=SO-2060")
    expect(chosen).to_contain_text("By Shops, by value: it is for Shops.")
    expect(chosen).to_contain_text("From 100 % on it could go.")
    page.goto("/gates")
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.locator("#G-3")).to_contain_text("Below 90 %")


@pytest.mark.needs("H16")
def test_lines_of_an_order_are_released_alone(page: Page) -> None:
    """One line is ticked and goes; the other says that it was not chosen, and goes later. What wave it went in leads to the board."""
    sign_in(page)
    world = begun(page, "SO-2058")
    page.goto(f"/release?world={world}&order=SO-2058")
    chosen = page.get_by_label("Chosen order")
    release = chosen.get_by_role("button", name=re.compile("^Release .*line"))
    expect(release).to_be_disabled()
    chosen.get_by_label("Take line 1", exact=True).check()
    expect(release).to_have_text("Release 1 line")
    no_axe_violations(page)
    release.click()
    said = page.get_by_role("status").filter(has_text="released")
    expect(said).to_contain_text("Lines 2, 3 and 4 were not chosen, and may go later.")
    expect(chosen.get_by_role("list", name="Lines of SO-2058").get_by_role("listitem").first).to_contain_text(
        "kept for it in bins"
    )
    chosen.get_by_label("Take line 3", exact=True).check()
    chosen.get_by_label("Take line 2", exact=True).check()
    chosen.get_by_role("button", name="Release 2 lines").click()
    expect(said).to_contain_text("Line 4 was not chosen, and may go later.")
    chosen.get_by_role("link", name="WR-0002").click()
    expect(page.get_by_label("Chosen wave").get_by_role("heading")).to_contain_text("WR-0002")
