"""Three chapters of the guide followed to the letter: from an empty rulebook, and without a file, to goods received by it. The words
in bold under *Try it* are the words pressed, in their order."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import no_axe_violations, sign_in
from tests.conftest import ROOT

CHAPTERS = ("receipt-steps", "recipes", "scanner")


def bold() -> Iterator[str]:
    """What is bold in what there is to try, chapter by chapter."""
    for name in CHAPTERS:
        text = (ROOT / "docs" / "guide" / f"{name}.md").read_text()
        yield from re.findall(r"\*\*(.+?)\*\*", text.split("## Try it", 1)[1].replace("\n   ", " "))


@pytest.mark.needs("B01", "B04", "B09", "B21", "B31", "B32", "D04")
def test_from_nothing_to_goods_put_away_by_two_crews(page: Page) -> None:
    """A receipt of three steps with inspection, a recipe with a hand-over, a flow of her own and its menu lines; then received and
    inspected and put away with them."""
    words = bold()

    def read(*expected: str) -> str:
        for one in expected:
            assert next(words, None) == one
        return expected[-1]

    def button(name: str, within: Locator | Page = page) -> None:
        within.get_by_role("button", name=read(name), exact=True).first.click()

    def item(name: str) -> None:
        page.get_by_role("menuitem", name=re.compile(rf"^{re.escape(read(name))}")).click()

    def word(text: str, within: Locator) -> None:
        within.locator(".word", has_text=read(text)).first.click()

    def option(text: str) -> None:
        page.get_by_role("option").filter(has_text=read(text)).first.click()

    def chapter(name: str) -> None:
        page.get_by_role("navigation", name="Chapters").get_by_role(
            "link", name=re.compile(rf"^{read(name)}\b")
        ).click()

    def saved(says: str) -> None:
        told = page.get_by_role("dialog", name="What this changes")
        expect(told).to_contain_text(says)
        button("Save it", told)
        expect(told).to_have_count(0)

    def called(row: Locator, name: str) -> None:
        row.get_by_role("button", name=read("Rename")).click()
        page.get_by_role("textbox", name="Called").fill(name)
        page.keyboard.press("Enter")
        expect(row.get_by_role("heading", name=name)).to_be_visible()

    sign_in(page)
    chapter("Drafts")
    spring = page.get_by_role("row").filter(has_text="Spring rules").first
    button("Copy", spring)
    page.get_by_label("Called").fill("From nothing")
    page.get_by_role("dialog").get_by_text(read("with no rules in it")).click()
    page.get_by_role("dialog").get_by_role("button", name=read("Copy"), exact=True).click()
    expect(page.get_by_role("banner")).to_contain_text("From nothing")

    chapter("Crews")
    expect(page.get_by_text("There is no crew yet")).to_be_visible()
    button("Add a crew")
    expect(page.locator("#crew-1")).to_be_visible()
    page.get_by_role("button", name="Add a crew").click()
    called(page.locator("#crew-1"), "Dock crew")
    page.locator("#crew-2").get_by_role("button", name="Rename").click()
    page.get_by_role("textbox", name="Called").fill("Rack crew")
    page.keyboard.press("Enter")
    expect(page.locator("#crew-2")).to_contain_text("Rack crew")
    expect(page.locator("#crew-2")).to_contain_text("nobody of it has anything to do here")
    no_axe_violations(page)

    chapter("Steps")
    button("Add a plan")
    item("Purchase orders")
    saved("are received now, by Purchase orders.")
    plan = page.locator("#SP-1")
    word("There is no inspection", plan)
    option("They are inspected")
    saved("is inspected from now on")
    expect(plan).to_contain_text("They are inspected at the bin the rules choose")  # before the words after it move
    word("the bin the rules choose", plan)
    option("the first bin of Inspection lanes that has room")
    expect(plan).to_contain_text("They are inspected at the first bin of Inspection lanes that has room")
    expect(plan).to_contain_text("No crew has a flow to inspect on its menu")
    expect(plan).to_contain_text("there are no rules under Where goods are held that nobody may use")
    expect(page.get_by_label("Map of stations")).to_contain_text("Inspect")
    no_axe_violations(page)

    chapter("Bin rules")
    button("+ another list")
    item("Put away")
    button("Add a rule")
    expect(page.locator("#BR-1")).to_contain_text("any bin of the site")

    chapter("Recipes")
    button("Add a recipe for")
    item("Rack crew")
    saved("The first recipe")
    button("+ hand-over", page.locator("#RE-1"))
    item("Dock crew")
    saved("A hand-over comes by recipe 1: a task of Dock crew to the first bin of Staging that has room")
    expect(page.locator("#RE-1")).to_contain_text("Dock crew brings it to the first bin of Staging that has room")
    expect(page.get_by_label("Bench")).to_contain_text("part 1 of 2")
    no_axe_violations(page)

    chapter("Scanner")
    button("Add a flow")
    item("Receive goods onto a license plate")
    expect(page.locator("#F-1")).to_be_visible()
    button("Add a flow")
    item("Inspect what has arrived")
    expect(page.locator("#F-2")).to_be_visible()
    button("Add a flow")
    item("Put plates away")
    flow = page.locator("#F-1")
    expect(page.locator("#F-3")).to_be_visible()
    called(flow, "Take in")
    third = flow.get_by_role("list", name="What it asks").locator("> li").nth(2)
    third.get_by_text(read("+ in other words")).click()
    page.get_by_role("textbox", name="In the words").fill("What is it?")
    page.keyboard.press("Enter")
    expect(third).to_contain_text("What is it?")
    for n, (crew, flows) in enumerate(
        (("Dock crew", ("Take in", "Inspect", "Put away")), ("Rack crew", ("Put away",))), start=1
    ):
        button("Give a menu to")
        item(crew)
        menu = page.locator(f"#MN-{n}")
        word("nothing yet", menu)
        for name in flows:
            page.locator(".editor").get_by_role("option", name=re.compile(rf"^{name}")).click()
        page.keyboard.press("Escape")
        expect(menu).to_contain_text(", ".join(flows))

    chapter("People")
    button("Oren Maddock")
    for crew in ("Dock crew", "Rack crew"):
        page.get_by_role("checkbox", name=crew).click()
    button("Keep")
    expect(page.get_by_role("row").filter(has_text="Oren Maddock")).to_contain_text("Dock crew")

    chapter("Rehearsals")
    button("Begin a new one on a desk")
    page.get_by_label("Whose hands").select_option("oren")
    page.get_by_label("Confirm an order").select_option("PO-1007")

    def tray(text: str) -> None:
        page.locator(".tray button").filter(has_text=text).first.click()

    button("Take in")
    tray("order PO-1007")
    expect(page.get_by_role("heading", name="What is it?")).to_be_visible()
    tray("coil")
    page.get_by_role("button", name=re.compile("^Confirm")).first.click()
    button("Finish plate")
    expect(page.locator(".log")).to_contain_text("To be inspected: TR-0204 in INS-01")
    button("Leave")
    button("Inspect")
    tray("plate LPR-")
    tray("INS-01")
    button("All of it passes")
    expect(page.locator(".log")).to_contain_text("Put-away task")
    button("Leave")
    button("Put away")
    tray("plate LPR-")
    expect(page.get_by_role("heading", name=re.compile("hand-over point"))).to_be_visible()
    tray("STG-")
    expect(page.locator(".log")).to_contain_text(re.compile("stands in STG-.*Put-away task"))
    tray("plate LPR-")
    expect(page.get_by_role("heading", name=re.compile("Take the plate to this bin and scan it"))).to_be_visible()
    page.locator(".tray button").first.click()
    expect(page.locator(".log")).to_contain_text(re.compile("Plate LPR-[0-9]+ stands in (?!STG)"))
    assert next(words, None) is None, "the guide goes on"
