"""Bring in your warehouse: the guide's chapter followed from an empty product; the map and the tables by hand."""

from __future__ import annotations

import re
import uuid
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
from playwright.sync_api import Browser, Page, expect
from psycopg.conninfo import make_conninfo

from mindful_crate.store.db import migrate
from tests.browser.conftest import Server, no_axe_violations, sign_in, window
from tests.conftest import ROOT, crate

GUIDE = (ROOT / "docs" / "guide" / "bring-in.md").read_text()


@pytest.fixture
def empty(server_dsn: str, browser: Browser) -> Iterator[Page]:
    """A window on a server whose database has nothing but its tables."""
    name = f"crate_test_{uuid.uuid4().hex[:8]}"
    dsn = make_conninfo(server_dsn, dbname=name)
    migrate(dsn)
    server = Server(dsn)
    server.start()
    with window(browser, server) as page:
        yield page
    server.kill()
    with psycopg.connect(server_dsn, autocommit=True) as conn:
        conn.execute(f"DROP DATABASE {name} WITH (FORCE)")


def files_of_the_guide(folder: Path) -> list[Path]:
    """The files whose content the chapter shows, by the name that stands before each."""
    found = []
    for name, content in re.findall(r"`(\w+\.csv)`.*?```csv\n(.*?)```", GUIDE, re.S):
        path = folder / name
        path.write_text(re.sub(r"^ +", "", content, flags=re.M))
        found.append(path)
    return found


def test_from_nothing_to_goods_on_the_handset(empty: Page, tmp_path: Path) -> None:
    """Every bold word of the numbered steps is used in their order, and the pallet ends as a task with its bin."""
    page = empty
    words = iter(re.findall(r"\*\*(.+?)\*\*", GUIDE.split("## Changing")[0].replace("\n   ", " "))[1:])

    def read(expected: str) -> str:
        assert next(words, None) == expected
        return expected

    def press(name: str) -> None:
        page.get_by_role("button", name=read(name), exact=True).click()

    def chapter(name: str) -> None:
        page.get_by_role("navigation").get_by_role("link", name=read(name)).click()
        expect(page.get_by_role("heading", name=name, exact=True)).to_be_visible()

    page.goto("/")
    page.get_by_label(read("Your name")).fill("Asta Grenholt")
    page.get_by_label(read("You sign in as")).fill("asta")
    page.get_by_label(read("Password, eight characters or more")).fill("long enough")
    press("Begin")
    page.get_by_label(read("Code")).fill("nb")
    page.get_by_label(read("Name"), exact=True).fill("North Basin")
    page.get_by_label("Time zone").fill("Europe/London")
    press("Make the site")
    press("Make 4 bins")
    press("Pallet racks")
    press("Make 320 bins")
    expect(page.get_by_text("324 bins in 2 zones")).to_be_visible()
    press("close")
    press("Write first rules from the zones")
    chapter("Catalogue")
    press("Bring files in")
    page.locator("input[type=file]").set_input_files(files_of_the_guide(tmp_path))
    expect(page.get_by_role("dialog")).to_contain_text("BUOY-30")
    press("Take it all")
    expect(page.get_by_role("button", name="CHAIN-8")).to_be_visible()
    chapter("Orders")
    press("A test order to receive")
    expect(page.get_by_role("row", name=re.compile("TEST-001.*● yes"))).to_be_visible()
    for other, says in (("Bin rules", "R-01-01-1"), ("Steps", "Received onto a plate in RCV-01")):
        page.get_by_role("navigation").get_by_role("link", name=other).click()
        expect(page.get_by_label("Bench")).to_contain_text(says)
    chapter("Rehearsals")
    press("Begin a new one on a desk")
    press("Receive to a plate")
    for label in ("order TEST-001", "Marker buoy 30 cm, box"):
        page.locator(".tray button", has_text=read(label)).first.click()
    press("Confirm 4")
    press("Finish plate")
    expect(page.locator(".side")).to_contain_text("R-01-01-1")
    page.get_by_role("link", name="Rehearsals").click()
    page.get_by_role("navigation").get_by_role("link", name=read("Site")).click()
    press("Begin the live floor")
    no_axe_violations(page)
    press("Begin it")
    expect(page.get_by_text("North Basin floor has begun.")).to_be_visible()
    page.get_by_role("list").get_by_role("link", name="host").click()
    expect(page.get_by_role("combobox", name="World")).to_have_value(re.compile("w-"))
    expect(page.get_by_role("combobox", name="World")).to_contain_text("North Basin floor (live)")
    expect(page.get_by_role("row", name=re.compile("TEST-001"))).to_be_visible()
    assert next(words, None) is None


def test_bins_are_found_picked_and_blocked_on_the_map(page: Page) -> None:
    """A bin is gone to by its code and blocked with a reason; the next draft of a question turns it down."""
    sign_in(page)
    page.get_by_role("navigation").get_by_role("link", name="Site").click()
    expect(page.get_by_role("img", name=re.compile("Map of HQ: 1441 bins in 13 zones"))).to_be_visible()
    no_axe_violations(page)
    page.get_by_label("Go to bin").fill("b-02-01-1")
    page.keyboard.press("Enter")
    bench = page.locator(".bench")
    expect(bench).to_contain_text("in Bulk")
    page.get_by_label("Blocked").fill("floor is wet")
    page.get_by_role("button", name="Block the bin").click()
    expect(bench).to_contain_text("floor is wet")
    page.get_by_role("navigation").get_by_role("link", name="Bin rules").click()
    expect(page.get_by_test_id("bench-answer")).to_contain_text("B-01-03-1")
    page.go_back()
    expect(
        page.get_by_role("img", name=re.compile("Map of HQ"))
    ).to_be_visible()  # a bin is gone to once there is a map
    page.get_by_label("Go to bin").fill("B-02-01-1")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Open the bin").click()
    expect(page.get_by_role("button", name="Block the bin")).to_be_visible()


def test_a_bad_file_is_answered_row_by_row_and_the_good_rows_may_be_taken(page: Page, tmp_path: Path) -> None:
    """Line, column, value and reason; nothing has changed until the good rows are taken, and then those alone."""
    sign_in(page)
    page.get_by_role("navigation").get_by_role("link", name="Catalogue").click()
    page.get_by_role("tab", name="Partners").click()
    page.get_by_role("button", name="Bring files in").click()
    path = tmp_path / "partners.csv"
    path.write_text("code,name,shelf_life_days\nC-900,Harbour Lights,30\nC-901,Tern Supplies,soon\n")
    page.locator("input[type=file]").set_input_files(path)
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("1 of 2 rows will not do")
    expect(dialog.get_by_role("row", name=re.compile("3 shelf_life_days soon not a whole number"))).to_be_visible()
    expect(dialog.get_by_role("button", name="Take it all")).to_be_disabled()
    no_axe_violations(page)
    dialog.get_by_role("button", name="Take the good row").click()
    expect(page.get_by_role("button", name="C-900")).to_be_visible()
    expect(page.get_by_role("button", name="C-901")).to_have_count(0)


def test_much_is_read_by_a_worker_while_other_things_are_done(page: Page, dsn: str, tmp_path: Path) -> None:
    """It waits, can be cancelled, goes on with the window closed, and is taken when its reasons have been read."""
    sign_in(page)
    path = tmp_path / "stock.csv"
    rows = "".join(f"B-01-02-1,{'NO-1' if n == 40_000 else 'ROPE-12'},1,LOT-{n:030}\n" for n in range(40_001))
    path.write_text(f"bin,item,quantity,lot\n{rows}")
    page.get_by_role("navigation").get_by_role("link", name="Catalogue").click()
    page.get_by_role("button", name="Bring files in").click()
    dialog = page.get_by_role("dialog")
    page.locator("input[type=file]").set_input_files(path)
    expect(dialog).to_contain_text("Waiting for a worker")
    dialog.get_by_role("button", name="Cancel").click()
    expect(dialog).to_contain_text("Cancelled. Nothing was changed.")
    page.locator("input[type=file]").set_input_files([])
    dialog.get_by_role("checkbox").click()  # with no file chosen nothing is sent, nor left
    dialog.get_by_role("checkbox").click()
    page.locator("input[type=file]").set_input_files(path)
    expect(dialog).to_contain_text("Waiting for a worker")
    dialog.get_by_role("button", name="Close").click()
    assert crate("work", "--once", CRATE_DATABASE=dsn).returncode == 0
    page.get_by_role("button", name="Bring files in").click()
    expect(dialog).to_contain_text("40,001 rows read, not taken yet")
    dialog.get_by_role("button", name="Look at it").click()
    expect(dialog).to_contain_text("1 of 40,001 rows will not do")
    expect(dialog.get_by_role("row", name=re.compile("stock.csv 40002 item NO-1"))).to_be_visible()
    no_axe_violations(page)
    dialog.get_by_role("button", name="Take the 40,000 good rows").click()
    expect(dialog).to_have_count(0)
    page.get_by_role("tab", name="Opening stock").click()
    expect(page.get_by_text("40,7").first).to_be_visible()


@pytest.mark.needs("O10")
def test_an_order_says_why_it_is_not_on_a_handset(page: Page) -> None:
    """The first thing that does not agree stands in the row, all of them in a sheet; confirmed, it is there."""
    sign_in(page)
    page.get_by_role("navigation").get_by_role("link", name="Orders").click()
    row = page.get_by_role("row", name=re.compile("PO-1009"))
    expect(row).to_contain_text("Not confirmed: its buyer confirms it in the host.")
    row.get_by_role("button", name=re.compile("○ no")).click()
    dialog = page.get_by_role("dialog", name="PO-1009 is not on a handset")
    expect(dialog).to_contain_text("On the menu of Quay crew with Receive to a pallet")
    no_axe_violations(page)
    dialog.get_by_role("button", name="Close").click()
    row.get_by_role("button", name="confirm", exact=True).click()
    row.get_by_role("button", name="● yes").click()
    expect(page.get_by_role("dialog")).to_contain_text("Confirmed in the host, and the floor knows.")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    no_axe_violations(page)


def test_a_row_is_changed_in_a_form_that_keeps_what_was_typed(page: Page) -> None:
    """A bad unit is refused in words beside what was typed; put right, it is kept; what is used cannot go."""
    sign_in(page)
    page.get_by_role("navigation").get_by_role("link", name="Catalogue").click()
    page.get_by_label("Find").fill("rope-12")  # a row is drawn when it is in sight
    page.get_by_role("button", name="ROPE-12").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("weight kg 2").fill("heavy")
    dialog.get_by_role("button", name="Keep").click()
    expect(dialog).to_contain_text("“heavy”: not kilograms")
    expect(dialog.get_by_label("weight kg 2")).to_have_value("heavy")
    expect(dialog).not_to_contain_text("has no unit")
    dialog.get_by_role("button", name="Take it out").click()
    expect(dialog).to_contain_text(re.compile(r"cannot go: [\d,]+ rows of stock of it"))
    dialog.get_by_label("weight kg 2").fill("19.5")
    dialog.get_by_role("button", name="Keep").click()
    expect(dialog).to_have_count(0)
    page.get_by_role("button", name="ROPE-12").click()
    expect(page.get_by_role("dialog").get_by_label("weight kg 2")).to_have_value("19.5")
    dialog.get_by_label("name", exact=True).fill("Braided rope 12 mm, white")
    with page.expect_request("**/api/ground/rows") as sent:
        dialog.get_by_role("button", name="Keep").click()
    assert [s["table"] for s in sent.value.post_data_json["sheets"]] == ["items"], "units nobody touched are not sent"
    expect(dialog).to_have_count(0)
    page.get_by_role("button", name="ROPE-12").click()
    expect(dialog.get_by_label("weight kg 2")).to_have_value("19.5")
