"""The handset as a worker's tool: what counts as scanned, the camera, its page kept on the phone, the way out."""

from __future__ import annotations

import re
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pypdfium2
import pytest
from PIL import Image
from playwright.sync_api import Browser, Page, Route, expect

from mindful_crate.core.floor.prints import Label
from mindful_crate.files.labels import Sheet, pdf
from tests.browser.conftest import ARGS, scan
from tests.browser.conftest import sign_in as studio
from tests.serving import Server

PROCESSES = 2
"""As it is shipped: what one process did, the other must know."""


def sign_in(page: Page) -> None:
    page.goto("/handset")
    page.get_by_label("Name").fill("oren")
    page.get_by_label("Password").fill("quay")
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("button", name="Halloway Quay floor").click()
    expect(page.get_by_role("heading", name="What do you do?")).to_be_visible()


@pytest.mark.needs("N03")
def test_what_counts_as_scanned_is_how_it_came(phone: Page) -> None:
    """Never its length: the shortest code a scanner types is scanned, the longest that is pasted or typed by hand is not; a Tab
    after it, or the mark of its symbology before it, always counts."""
    sign_in(phone)
    phone.get_by_role("button", name="Receive to a tote").click()
    expect(phone.get_by_role("heading", name="Scan the label of the plate")).to_be_visible()
    box, says = phone.get_by_label("Scan or type"), phone.get_by_role("status")

    def comes(code: str, how: str, then: str, told: str) -> None:
        with phone.expect_response("**/commands"):
            if how == "scanned":
                scan(phone, code, then)
            else:
                if how == "pasted":
                    box.fill(code)
                else:
                    box.press_sequentially(code, delay=60)
                phone.keyboard.press(then)
        expect(says).to_contain_text(told)

    comes("LP-000951", "pasted", "Enter", "must be scanned, not typed")
    comes("A1", "scanned", "Enter", "A1 is no plate label")  # another answer between two alike: each is waited for
    comes("LP-000951", "by hand", "Enter", "must be scanned, not typed")
    comes("]C1A2", "pasted", "Enter", "A2 is no plate label")
    comes("B3", "by hand", "Tab", "B3 is no plate label")
    phone.get_by_role("button", name="Leave").click()
    phone.get_by_role("button", name="This device").click()
    expect(phone.get_by_role("button", name="Key by key, fast")).to_have_attribute("aria-pressed", "true")
    phone.get_by_label("Scan something to try it").fill("LP-000951")
    phone.keyboard.press("Enter")
    expect(phone.get_by_role("button", name="All of it at once")).to_have_attribute("aria-pressed", "true")
    phone.get_by_role("button", name="Back").click()
    phone.get_by_role("button", name="Receive to a tote").click()
    comes("A4", "pasted", "Enter", "A4 is no plate label")


def test_half_a_code_scanned_for_a_flow_that_does_not_open_is_no_answer_to_the_next(phone: Page) -> None:
    """It came while the flow opened, which was refused then; the next flow is answered by what is scanned for it alone."""
    sign_in(phone)
    held: list[Route] = []
    phone.route("**/commands", lambda route: held.append(route), times=1)
    with phone.expect_request("**/commands"):
        phone.get_by_role("button", name="Look up").click()
    phone.keyboard.type("RCV")
    refused = {"title": "No.", "status": 422, "code": "no", "place": "", "changed": [], "request": ""}
    held[0].fulfill(status=422, content_type="application/problem+json", json=refused)
    says = phone.get_by_role("status")
    expect(says).to_contain_text("No.")
    phone.get_by_role("button", name="Look up").click()
    expect(phone.get_by_label("Scan or type")).to_be_visible()
    scan(phone, "-01")
    expect(says).to_contain_text("-01")
    expect(says).not_to_contain_text("RCV-01")


def hold(page: Page) -> Callable[[], None]:
    """Keep the next command from the server until it is let go; those after it pass."""
    held: list[Any] = []
    page.route("**/commands", lambda route: route.continue_() if held else held.append(route))
    return lambda: held[0].continue_()


def test_a_scan_made_while_the_last_is_answered_is_taken_next(phone: Page) -> None:
    """Quicker than the server: both count, in their order. After a refusal what came behind is said not to be taken."""
    sign_in(phone)
    phone.get_by_role("button", name="Receive to a pallet").click()
    expect(phone.get_by_role("heading", name="Which order is it?")).to_be_visible()
    let_go = hold(phone)
    for code in ("PO-1001", "SHK-08"):
        scan(phone, code)
    expect(phone.locator(".hs")).to_contain_text("sending")
    let_go()
    expect(phone.get_by_role("heading", name="How many pieces?")).to_be_visible()
    let_go = hold(phone)
    for code in ("X-0000", "5"):
        scan(phone, code)
    expect(phone.locator(".hs")).to_contain_text("sending")
    let_go()
    expect(phone.get_by_role("status")).to_contain_text("What was scanned after it was not taken.")
    phone.get_by_role("button", name="Sign out").click()
    expect(phone.get_by_role("heading", name="Who are you?")).to_be_visible()


EARLY = """() => {
  const read = Response.prototype.text, json = Response.prototype.json
  const then = async (of, how) => {
    const told = await how.call(of)
    if (!of.url.endsWith('/commands')) return told
    Response.prototype.text = read
    Response.prototype.json = json
    const press = (n) => n ? queueMicrotask(() => press(n - 1)) : document.querySelector('.tray button.wrong').click()
    press(200)
    return told
  }
  Response.prototype.text = function () { return then(this, read) }
  Response.prototype.json = function () { return then(this, json) }
}"""
"""Presses the first code of the tray once an answer has come and before it can be drawn: that waits for a task of its own."""


def receiving(page: Page) -> None:
    """A run on a desk, whose handset asks for the order; PO-1007 is confirmed."""
    studio(page)
    page.goto("/rehearsals")
    page.get_by_role("button", name="Begin a new one on a desk").click()
    page.get_by_label("Confirm an order").select_option("PO-1007")
    page.get_by_role("button", name="Receive to a pallet").click()
    expect(page.get_by_role("heading", name="Which order is it?")).to_be_visible()


def test_a_scan_between_an_answer_and_its_drawing_counts(page: Page) -> None:
    """It answers what is asked next, as one does that came before the answer; it neither vanishes nor comes up later as the answer to another."""
    receiving(page)
    first = page.locator(".tray button").first
    expect(first).to_contain_text("order PO-1007")
    page.evaluate(EARLY)
    wrong = page.locator(".tray button.wrong").first.locator("b").inner_text()
    first.click()
    expect(page.get_by_role("status").first).to_contain_text(wrong)
    expect(page.get_by_role("heading", name="Scan an item of PO-1007")).to_be_visible()


def test_what_is_asked_next_stands_there_with_its_answer(page: Page) -> None:
    """The floor tells that it moved before the answer comes: a question shown by then would take no key, so it is not asked for."""
    receiving(page)
    page.locator(".tray button").filter(has_text="order PO-1007").first.click()
    rows = page.locator(".log .row")
    expect(page.get_by_role("heading", name="Scan an item of PO-1007")).to_be_visible()
    before = int(page.locator(".hs").get_attribute("data-entry") or 0)
    expect(rows).to_have_count(before)
    looks: list[str] = []

    def told_first(route: Route) -> None:
        answer = route.fetch()
        expect(rows).to_have_count(before + 1)
        expect(page.get_by_role("heading", name="Scan an item of PO-1007")).to_be_visible()
        route.fulfill(response=answer)

    page.on("request", lambda r: looks.append(r.url) if "/handsets/" in r.url else None)
    page.route("**/commands", told_first, times=1)
    page.locator(".tray button").filter(has_text="Braided rope 12 mm").first.click()
    expect(page.get_by_role("heading", name="How many")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Confirm")).first.click()
    expect(rows).to_have_count(before + 2)
    assert looks == []


def test_the_page_can_be_installed_and_comes_up_without_the_network(
    browser: Browser, server: Server, tmp_path: Path
) -> None:
    """The browser itself finds nothing that keeps it from being installed; out of reach, the page is there and says so."""
    context = browser.browser_type.launch_persistent_context(
        tmp_path,
        executable_path=shutil.which("chromium"),
        args=ARGS,
        viewport={"width": 390, "height": 844},
        base_url=server.url,
    )
    page = context.new_page()
    sign_in(page)
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.reload()
    expect(page.get_by_role("heading", name="What do you do?")).to_be_visible()
    devtools = context.new_cdp_session(page)
    assert devtools.send("Page.getInstallabilityErrors")["installabilityErrors"] == []
    manifest = devtools.send("Page.getAppManifest")
    assert manifest["errors"] == [] and manifest["url"].endswith("/handset.webmanifest")
    context.set_offline(True)
    page.reload()
    expect(page.get_by_role("heading", name="The server is out of reach.")).to_be_visible()
    context.set_offline(False)
    expect(page.get_by_role("heading", name="What do you do?")).to_be_visible()
    context.close()


def film(path: Path, code: str) -> None:
    """A film of a label, as a camera would see it: YUV frames in the plain format that Chromium takes."""
    label = pypdfium2.PdfDocument(pdf([Label("bin", code, code)], Sheet("", "", 70, 40)))[0].render(scale=2.4).to_pil()
    picture = Image.new("L", (640, 480), 150)
    picture.paste(label.convert("L"), (60, 160))
    light = np.asarray(picture, dtype=np.uint8)
    grey = np.full((240, 320), 128, dtype=np.uint8).tobytes()
    frame = b"FRAME\n" + light.tobytes() + grey + grey
    path.write_bytes(b"YUV4MPEG2 W640 H480 F10:1 Ip A0:0 C420jpeg\n" + frame * 4)


@pytest.fixture
def filming(browser: Browser, server: Server, tmp_path: Path) -> Iterator[Page]:
    """A small phone whose camera sees the barcode of an item."""
    film(tmp_path / "item.y4m", "2900000000452")
    fake = ["--use-fake-device-for-media-stream", "--use-fake-ui-for-media-stream"]
    films = f"--use-file-for-fake-video-capture={tmp_path / 'item.y4m'}"
    found = browser.browser_type.launch(executable_path=shutil.which("chromium"), args=[*ARGS, *fake, films])
    context = found.new_context(viewport={"width": 360, "height": 640}, has_touch=True, base_url=server.url)
    yield context.new_page()
    found.close()


@pytest.mark.needs("N02")
def test_a_pallet_is_received_by_the_camera(filming: Page) -> None:
    """On 360 by 640: what the camera sees is scanned, and the rest of the page stays in reach."""
    sign_in(filming)
    filming.get_by_role("button", name="Receive to a pallet").click()
    filming.get_by_role("button", name="PO-1001").click()
    expect(filming.get_by_role("heading", name="Scan an item")).to_be_visible()
    filming.get_by_role("button", name="Camera").click()
    expect(filming.get_by_role("heading", name="How many")).to_be_visible()
    filming.get_by_role("button", name="Close the camera").click()
    filming.get_by_label("Scan or type").fill("2")
    filming.keyboard.press("Enter")
    expect(filming.get_by_role("status")).to_contain_text("Plate LP-")
    assert filming.evaluate("document.documentElement.scrollWidth <= innerWidth")
    filming.get_by_role("button", name="Finish plate").click()
    expect(filming.get_by_role("status")).to_contain_text("arrived")


def test_a_camera_that_is_refused_says_so(phone: Page) -> None:
    """And scanning goes on without it."""
    sign_in(phone)
    phone.get_by_role("button", name="Look up").click()
    phone.get_by_role("button", name="Camera").click()
    expect(phone.get_by_role("region", name="Camera")).to_contain_text(re.compile("scan and type as before", re.I))
    phone.get_by_role("button", name="Close the camera").click()
    phone.keyboard.type("B-01-01-1")
    phone.keyboard.press("Enter")
    expect(phone.get_by_role("heading", name="Bin B-01-01-1")).to_be_visible()
