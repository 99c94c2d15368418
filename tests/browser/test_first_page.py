"""The first page, long tables, what all sites share, and rules carried about: by hand, as a person does it."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import Server, no_axe_violations, sign_in, window


@pytest.fixture
def page(browser: Browser, server: Server) -> object:
    """A window on the demo."""
    with window(browser, server) as found:
        yield found


def titles(page: Page) -> list[str]:
    return page.locator(".tile .title").all_inner_texts()


@pytest.mark.needs("O14")
def test_today_is_arranged_and_stays_so(page: Page) -> None:
    """Numbers are added, taken away and moved by keyboard; each leads on; another machine shows the same."""
    sign_in(page, at="/today")
    expect(page.get_by_role("link", name=re.compile("Rehearsals to look at"))).to_be_visible()
    page.get_by_role("button", name="Arrange").click()
    page.get_by_role("button", name="Take Findings in doubt away").click()
    page.get_by_role("button", name="Add a number").click()
    page.get_by_role("menuitem", name="Bins blocked").click()
    expect(page.get_by_role("link", name=re.compile("Bins blocked"))).to_contain_text("B-02-06-1")
    before = titles(page)
    no_axe_violations(page)
    page.get_by_role("button", name=re.compile("^Move number 2")).focus()
    page.keyboard.press("Space")
    expect(page.get_by_role("status").filter(has_text="would become number 2")).to_have_count(1)
    page.evaluate("() => new Promise(done => setTimeout(done))")  # keys are listened to one turn after it is taken up
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_role("status").filter(has_text="would become number 1")).to_have_count(1)
    page.keyboard.press("Space")
    expect(page.locator(".tile .title").first).to_have_text(before[1])
    with page.expect_response("**/api/today**"):
        page.reload()
    expect(page.locator(".tile .title")).to_have_text([before[1], before[0], *before[2:]])
    page.get_by_role("link", name=re.compile("Bins blocked")).click()
    expect(page.get_by_role("heading", name="Stock")).to_be_visible()
    page.get_by_role("navigation", name="Chapters").get_by_role("link", name="Live floor").click()
    page.wait_for_url("**/desk/**")
    expect(page.get_by_text("What the office does here, your role looks at.")).to_be_visible()
    expect(page.get_by_role("heading", name="Handsets at work")).to_be_visible()
    expect(page.get_by_role("button", name="Keep as rehearsal")).to_have_count(0)
    no_axe_violations(page)


@pytest.mark.needs("Q03")
def test_a_supervisor_has_the_page_she_watches(page: Page) -> None:
    """Her first page begins with the floor, not with the rules; waves are added and put first, lead to the board, and stay hers alone."""
    sign_in(page, "Tove", at="/today")
    expect(page.get_by_role("link", name=re.compile("Tasks in hands"))).to_be_visible()
    assert "Findings in doubt" not in titles(page)
    page.get_by_role("button", name="Arrange").click()
    for number in ("Waves", "Orders to release"):
        page.get_by_role("button", name="Add a number").click()
        page.get_by_role("menuitem", name=number, exact=True).click()
        expect(page.locator(".tile .title").last).to_have_text(number)
    for number in ("Receipts the host does not know", "Messages given up"):
        page.get_by_role("button", name=f"Take {number} away").click()
        expect(page.locator(".tile .title", has_text=number)).to_have_count(0)
    mine = titles(page)
    assert mine[-2:] == ["Waves", "Orders to release"]
    page.get_by_role("link", name=re.compile(r"^Waves \d")).click()
    expect(page.get_by_role("heading", name="Wave board")).to_be_visible()
    with page.expect_response("**/api/today**"):
        page.goto("/today")
    expect(page.locator(".tile .title")).to_have_text(mine)
    page.get_by_role("button", name="Sign out").click()
    expect(page.get_by_role("button", name="Sign in", exact=True)).to_be_visible()
    sign_in(page, at="/today")
    expect(page.get_by_role("link", name=re.compile("Rehearsals to look at"))).to_be_visible()
    assert "Orders to release" not in titles(page)


def test_who_may_act_on_the_live_floor_does_it_from_the_rail(page: Page) -> None:
    """The supervisor has the office there, and a handset of her own: nobody's hands but hers."""
    sign_in(page, "Tove", at="/today")
    page.get_by_role("navigation", name="Chapters").get_by_role("link", name="Live floor").click()
    page.wait_for_url("**/desk/**")
    expect(page.get_by_label("Whose hands")).to_have_count(0)
    page.get_by_role("button", name="Office", exact=True).click()
    dialog = page.get_by_role("dialog", name="Office")
    expect(dialog.get_by_role("button", name="minutes pass")).to_have_count(0)
    dialog.get_by_label("Bin", exact=True).fill("B-01-01-1")
    dialog.get_by_label("Reason").fill("beam bent")
    dialog.get_by_role("button", name="Block the bin").click()
    expect(page.locator(".log")).to_contain_text("beam bent")
    page.locator(".log .row").first.click()
    expect(page.get_by_role("button", name="Go on from here")).to_have_count(0)
    no_axe_violations(page)


def test_a_long_table_is_sorted_filtered_and_keeps_its_columns(page: Page) -> None:
    """All 717 rows can be reached; what is hidden and how it is sorted is so again after a reload."""
    sign_in(page, at="/stock")
    grid = page.get_by_role("grid", name="stock")
    expect(grid.get_by_text("B-01-01-1")).to_be_visible()
    expect(page.get_by_text("1–100 of 717")).to_be_visible()
    page.get_by_role("button", name="Go to next page").click()
    expect(page.get_by_text("101–200 of 717")).to_be_visible()
    grid.get_by_role("columnheader", name="Quantity").click()
    expect(grid.locator("[role=row] [data-field=quantity]").nth(1)).to_have_text(re.compile("^1 "))
    page.get_by_role("button", name="Columns").click()
    with page.expect_request(lambda r: "/me/kept/" in r.url and '"zone":false' in (r.post_data or "")):
        page.get_by_role("checkbox", name="Zone").click()
    no_axe_violations(page)
    page.keyboard.press("Escape")
    expect(grid.get_by_role("columnheader", name="Zone")).to_have_count(0)
    page.reload()
    expect(grid.locator("[role=row] [data-field=quantity]").nth(1)).to_have_text(re.compile("^1 "))
    expect(grid.get_by_role("columnheader", name="Zone")).to_have_count(0)
    page.get_by_role("button", name="Filter").click()
    page.get_by_role("combobox", name="Column").click()
    page.get_by_role("option", name="Item", exact=True).click()
    page.get_by_placeholder("Filter value").fill("SHK-08")
    expect(grid.locator("[role=row] [data-field=item]").nth(1)).to_have_text("SHK-08")
    expect(page.get_by_text("717 rows")).to_have_count(0)


def test_rules_change_places_by_mouse(page: Page) -> None:
    """A rule is held by its number and dropped where it shall stand; one step takes it back."""
    sign_in(page)
    numbers = page.locator(".rules > li")
    expect(numbers).to_have_count(6)
    assert numbers.first.get_attribute("id") == "BR-1"
    hold, onto = page.get_by_role("button", name="Move rule 1"), page.get_by_role("button", name="Move rule 2")
    start, end = hold.bounding_box(), onto.bounding_box()
    assert start and end
    page.mouse.move(start["x"] + 5, start["y"] + 8)
    page.mouse.down()
    page.mouse.move(end["x"] + 5, end["y"] + 20, steps=8)
    expect(page.get_by_role("status").filter(has_text="would become rule 2")).to_have_count(1)
    page.mouse.up()
    expect(numbers.first).to_have_id("BR-2")
    page.get_by_role("button", name="Undo").click()
    expect(numbers.first).to_have_id("BR-1")


def test_two_sites_share_a_setting_and_a_flow(page: Page) -> None:
    """Set in one draft, it stands in the other's page; a flow given to all sites is marked there, and made its own again."""
    sign_in(page, at="/settings")
    page.get_by_role("button", name="Another bin than the one shown, all sites: not set here").click()
    page.get_by_role("option", name=re.compile("^not allowed|never", re.IGNORECASE)).first.click()
    expect(
        page.get_by_role("button", name=re.compile("Another bin than the one shown, all sites: (?!not set)"))
    ).to_be_visible()
    page.get_by_role("navigation", name="Chapters").get_by_role("link", name="Scanner").click()
    look = page.locator("#F-LOOK")
    look.hover()
    look.get_by_role("button", name="Give to all sites").click()
    follows = page.get_by_role("dialog", name="What would follow")
    expect(follows).to_contain_text("GL, Drawers: Look up is on no menu")
    no_axe_violations(page)
    follows.get_by_role("button", name="Give to all sites all the same").click()
    shared = page.locator("[id^=all-F-]")
    expect(shared.get_by_role("link", name="for all sites")).to_be_visible()
    page.get_by_role("navigation", name="Chapters").get_by_role("link", name="Drafts").click()
    sharing = page.locator("#all-sites")
    expect(sharing).to_contain_text("Version 2")
    expect(sharing).to_contain_text("All drafts stand on it.")
    expect(sharing.get_by_role("list", name="What holds for all sites")).to_contain_text("Flow Look up")
    no_axe_violations(page)
    page.get_by_role("row", name=re.compile("GL Drawers")).get_by_role("button", name="Work on it").click()
    page.get_by_role("navigation", name="Chapters").get_by_role("link", name="Settings").click()
    expect(
        page.get_by_role("button", name=re.compile("Another bin than the one shown, all sites: (?!not set)"))
    ).to_be_visible()
    page.get_by_role("navigation", name="Chapters").get_by_role("link", name="Scanner").click()
    shared.hover()
    shared.get_by_role("button", name="Copy for this site").click()
    expect(page.get_by_role("heading", name="Look up (here)")).to_be_visible()


@pytest.mark.needs("B48")
def test_rules_go_out_come_in_and_are_carried_to_another_site(page: Page, tmp_path: Path) -> None:
    """A file saved and brought in again; what is no rulebook is refused beside the button; what cannot go along is said."""
    sign_in(page, at="/drafts")
    row = page.get_by_role("row", name=re.compile("HQ Spring rules"))
    with page.expect_download() as saved:
        row.get_by_role("link", name="Save as a file").click()
    kept = tmp_path / "quay.rulebook.json"
    saved.value.save_as(kept)
    bad = tmp_path / "note.json"
    bad.write_text('{"name": 5}')
    page.get_by_role("row", name=re.compile("SW One room")).get_by_role("button", name="Bring a file in").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Rulebook file").set_input_files(bad)
    dialog.get_by_role("button", name="Bring it in").click()
    expect(dialog.get_by_role("alert")).to_be_visible()
    no_axe_violations(page)
    good = kept.read_text().replace('"site": "HQ"', '"site": "SW"')
    kept.write_text(good)
    dialog.get_by_label("Rulebook file").set_input_files(kept)
    dialog.get_by_role("button", name="Bring it in").click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_role("row", name=re.compile("SW One room"))).to_contain_text("A file was brought in.")
    row.get_by_role("button", name="Copy").click()
    dialog.get_by_label("Called").fill("As at the quay")
    dialog.get_by_role("combobox").click()
    page.get_by_role("option", name="Gull Lane parts store").click()
    expect(dialog).to_contain_text("What cannot go along")
    expect(dialog).to_contain_text("Hazard store is at Halloway Quay")
    no_axe_violations(page)
    dialog.get_by_role("button", name="Copy", exact=True).click()
    expect(page.get_by_role("row", name=re.compile("GL As at the quay"))).to_contain_text("in hand")
    page.get_by_role("navigation", name="Chapters").get_by_role("link", name=re.compile("^Findings")).click()
    expect(page.get_by_text(re.compile("Hazard store is at Halloway Quay")).first).to_be_visible()
