"""The guide's first chapter, followed step by step. The words in bold there are the words pressed here, in order."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import ROOT

GUIDE = (ROOT / "docs" / "guide" / "first-rehearsal.md").read_text()


class Reader:
    """Reads the bold words of the guide one after the other; each must be what the test does next."""

    def __init__(self) -> None:
        self.words = iter(re.findall(r"\*\*(.+?)\*\*", GUIDE.replace("\n   ", ""))[1:])

    def next(self, expected: str) -> str:
        """The next bold words, which must be these."""
        assert next(self.words, None) == expected
        return expected


@pytest.mark.needs("R01", "R04", "R09", "R12", "R14")
def test_the_first_chapter_works_as_written(page: Page) -> None:
    """Signed in, asked, received, refused, put in a rehearsal, changed, caught."""
    read = Reader()

    def press(name: str) -> None:
        page.get_by_role("button", name=read.next(name), exact=True).click()

    def tray(label: str) -> None:
        page.locator(".tray button", has_text=read.next(label)).first.click()

    def chapter(name: str) -> None:
        page.get_by_role("navigation").get_by_role("link", name=read.next(name)).click()

    def entry(name: str) -> None:
        page.get_by_role("button", name=read.next(name), exact=True).click()

    page.goto("/")
    entry("Sign in as Ines")
    page.wait_for_url("**/today")  # where the studio begins
    chapter("Bin rules")
    expect(page.get_by_test_id("bench-answer")).to_contain_text("B-02-01-1")
    expect(page.get_by_label("Bench")).to_contain_text("120 bins looked at: 63 not empty, 3 blocked, 54 fit.")

    chapter("Rehearsals")
    press("Begin a new one on a desk")
    page.get_by_label(read.next("Confirm an order")).select_option("PO-1007")
    expect(page.locator(".log")).to_contain_text("The host confirmed PO-1007, 3 lines.")
    press("Receive to a pallet")
    expect(page.get_by_role("heading", name="Which order is it?")).to_be_visible()
    tray("order PO-1007")
    expect(page.get_by_role("heading", name="Scan an item of PO-1007")).to_be_visible()
    tray("Braided rope 12 mm, coil")
    expect(page.get_by_role("heading", name="How many coils?")).to_be_visible()
    tray("bin B-03-01-1")
    expect(page.get_by_role("status").first).to_contain_text(
        "That is bin B-03-01-1; enter how many coils, or scan the next item."
    )
    page.get_by_label(read.next("Scan or type")).fill("10")
    page.keyboard.press("Enter")
    expect(page.get_by_role("status").first).to_contain_text("10 coils (2,000 m)")
    expect(page.locator(".side")).to_contain_text("is being built, not stock yet")
    press("Finish plate")
    expect(page.locator(".side")).to_contain_text("RCR-0093 booked")

    entry("Entry 8")
    expect(page.locator("#entry-8")).to_contain_text("54 fit")
    page.get_by_role("button", name=read.next("Expect rule 3")).click()
    expect(page.locator(".side")).to_contain_text("by rule BR-3")
    entry("Entry 6")
    page.get_by_role("button", name=read.next("Expect this refusal")).click()
    expect(page.locator(".side")).to_contain_text("refused: wrong kind")

    press("Keep as rehearsal")
    page.get_by_label(read.next("Name"), exact=True).fill("My first pallet")
    press("Keep it")
    expect(page.get_by_role("heading", name="My first pallet")).to_be_visible()
    expect(page.get_by_role("main")).to_contain_text("✓ passed")

    chapter("Bin rules")
    page.locator("#BR-3 .word", has_text=read.next("Bulk")).click()
    page.get_by_role("option", name=read.next("Reserve")).click()
    expect(page.locator("#BR-3 .word", has_text="Bulk or Reserve")).to_be_visible()
    page.get_by_role("option", name=read.next("Bulk")).click()
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("bench-answer")).to_contain_text("R-01-02-3")
    chapter("Rehearsals")
    page.get_by_role("link", name=read.next("My first pallet")).click()
    press("Run on this draft")
    expect(page.get_by_role("main")).to_contain_text("when recorded")
    expect(page.get_by_role("main")).to_contain_text("✓ passed")
    press("Open on a desk")
    entry("Entry 8")
    page.get_by_role("button", name=read.next("Expect bin R-01-02-3")).click()
    expect(page.locator(".side")).to_contain_text("bin R-01-02-3")
    press("Keep as rehearsal")
    page.get_by_role("button", name=read.next("Replace")).click()
    expect(page.get_by_role("main")).to_contain_text("✓ passed")
    undo = page.get_by_role("button", name=read.next("Undo"), exact=True)
    undo.click()
    expect(page.get_by_role("main")).to_contain_text("but the rules were others")
    undo.click()
    expect(undo).to_be_disabled()
    press("Run on this draft")
    expect(page.get_by_role("main")).to_contain_text("✕ failed")
    expect(page.get_by_role("main")).to_contain_text("The first step that differs is s8")
    with page.expect_download() as download:
        page.get_by_role("link", name=read.next("Take out as a file")).click()
    assert download.value.suggested_filename == "my-first-pallet.rehearsal.yaml"
    assert next(read.words, None) is None, "the guide says more than the test follows"
