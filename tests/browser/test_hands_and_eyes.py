"""Hands and eyes: zoomed and narrow windows, first clicks, keys of any layout, focus, and axe with everything open, in the
light and in the dark."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, Route, expect

from tests.browser.conftest import Server, sign_in, window
from tests.conftest import ROOT

PAGES = ["/today", "/site", "/catalogue", "/catalogue/items", "/orders", "/steps", "/bin-rules", "/gates", "/classes", "/scanner", "/settings", "/findings", "/drafts", "/rehearsals", "/rehearsals/wrong-scans", "/release", "/stock", "/documents", "/host", "/people"]  # fmt: skip


def call(page: Page, method: str, path: str, body: Any = None) -> Any:
    """A request of the page's own session."""
    script = """([method, path, body]) => fetch(path, { method, headers: { 'X-Mindful-Crate': '1', 'Content-Type': 'application/json' },
      body: body === null ? undefined : JSON.stringify(body) }).then((r) => r.status === 204 ? null : r.json())"""
    return page.evaluate(script, [method, path, body])


def settled(page: Page) -> None:
    """The page is there, and nothing on it is loading any more."""
    expect(page.locator("main").first).to_be_visible()
    expect(page.locator("[aria-busy=true]")).to_have_count(0)


def axe(page: Page, what: str, within: str = "") -> None:
    """All of axe's rules, on the page or on what of it is new; those about the page's landmarks not while a dialog hides the page. What
    the dark changes are the colours: in it the rules about those."""
    source = (ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text()
    page.evaluate(f"() => {{ if (!window.axe) {{ {source} }} }}")
    modal = page.locator("[role=dialog][aria-modal=true]").count() > 0
    off = {r: {"enabled": False} for r in ("region", "landmark-one-main", "page-has-heading-one") if modal}
    script = """([within, rules]) => axe.run(within || document, { rules, resultTypes: ['violations'],
      ...(matchMedia('(prefers-color-scheme: dark)').matches && { runOnly: { type: 'rule', values: ['color-contrast', 'link-in-text-block'] } }) })"""
    found = page.evaluate(script, [within, off])
    wrong = [(v["id"], [n["html"][:140] for n in v["nodes"][:3]]) for v in found["violations"]]
    assert wrong == [], (what, wrong)


@pytest.fixture(scope="module", params=["light", "dark"])
def seen(request: pytest.FixtureRequest, browser: Browser, server: Server) -> Any:
    """A window in the light, and one in the dark."""
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, base_url=server.url, color_scheme=request.param
    )
    page = context.new_page()
    sign_in(page)
    yield page
    context.close()


SHOWS = {
    "/bin-rules": "Where goods are put away",
    "/steps": "Receipt steps",
    "/scanner": "What do you do?",
    "/rehearsals": "Rope by the pallet",
    "/rehearsals/wrong-scans": "is refused: not confirmed",
    "/stock": "LP-000001",
    "/settings": "What holds",
    "/findings": "Nothing was found.",
    "/drafts": "says the same as what is in force",
}


def test_each_page_opens_by_its_link_and_axe_finds_nothing(seen: Page) -> None:
    """What it is for is there; with all rules, those of best practice too; nothing scrolls sideways."""
    call(seen, "POST", "/api/rehearsals/wrong-scans/run", {"rulebook": "d-1"})
    for path in PAGES:
        seen.goto(path)
        settled(seen)
        if path in SHOWS:
            expect(seen.get_by_text(SHOWS[path]).first).to_be_visible()
        axe(seen, path)
        assert seen.evaluate("document.documentElement.scrollWidth <= innerWidth"), path
    held: list[Route] = []
    seen.route("**/api/people/cards", lambda route: held.append(route))
    seen.goto("/people")
    expect(seen.get_by_role("status", name="loading")).to_be_visible()
    axe(seen, "a page that loads")
    for route in held:
        route.continue_()
    seen.unroute("**/api/people/cards")
    settled(seen)


def test_a_key_that_ends_a_sequence_does_only_that(seen: Page) -> None:
    """`g b` goes to the bin rules; `b` alone folds the bench."""
    seen.goto("/steps")
    settled(seen)
    shell = seen.locator(".shell")
    expect(shell).not_to_have_class(re.compile("no-bench"))
    seen.keyboard.press("g")
    seen.keyboard.press("b")
    seen.wait_for_url("**/bin-rules**")
    settled(seen)
    expect(shell).not_to_have_class(re.compile("no-bench"))
    seen.goto("/settings")
    settled(seen)
    seen.keyboard.press("b")
    expect(shell).to_have_class(re.compile("no-bench"))
    seen.keyboard.press("b")
    expect(shell).not_to_have_class(re.compile("no-bench"))


def test_axe_finds_nothing_in_any_dialog_or_editor(seen: Page) -> None:
    """Keys, search, forms, files, office, keeping; and an editor of every kind of live word, in the dark of some: they share their colours."""
    most = 12 if seen.evaluate("matchMedia('(prefers-color-scheme: dark)').matches") else 1_000
    dialogs: list[tuple[str, Callable[[], Any]]] = [
        ("/bin-rules", lambda: seen.get_by_role("button", name="Keys").click()),
        ("/bin-rules", lambda: seen.get_by_role("button", name="Search or jump").click()),
        ("/orders", lambda: seen.get_by_role("button", name="Add an order").click()),
        ("/catalogue/items", lambda: seen.get_by_role("button", name=re.compile("^Add")).first.click()),
        ("/catalogue", lambda: seen.get_by_role("button", name="Bring files in").click()),
        ("/people", lambda: seen.get_by_role("button", name="Add somebody").click()),
        ("/rehearsals/wrong-scans", lambda: seen.get_by_role("button", name="Rename").click()),
        ("/rehearsals/wrong-scans", lambda: seen.get_by_role("button", name="Clear away").click()),
    ]
    for path, opens in dialogs:
        seen.goto(path)
        settled(seen)
        opens()
        expect(seen.get_by_role("dialog")).to_be_visible()
        axe(seen, f"dialog of {path}", "[role=dialog]")
    fields: set[str] = set()
    for path in ("/bin-rules", "/steps", "/scanner", "/settings"):
        seen.goto(path)
        settled(seen)
        words = seen.locator("[data-field]")
        for n in range(words.count()):
            field = words.nth(n).get_attribute("data-field") or ""
            if field in fields or len(fields) >= most:
                continue
            fields.add(field)
            words.nth(n).click()
            expect(seen.get_by_role("dialog")).to_be_visible()
            expect(seen.get_by_role("dialog", name="Choices")).to_have_count(0)  # its choices have come
            axe(seen, f"editor of {field} on {path}", "[role=dialog]")
            seen.keyboard.press("Escape")
            expect(seen.get_by_role("dialog")).to_have_count(0)
    assert len(fields) >= min(most, 15), fields


def test_axe_finds_nothing_on_desk_and_handset(seen: Page) -> None:
    """With an entry open, the office, keeping, and the handset by itself."""
    desk = call(seen, "POST", "/api/rehearsals/wrong-scans/open", {"rulebook": "d-1"})["id"]
    seen.goto(f"/desk/{desk}")
    settled(seen)
    seen.get_by_role("button", name=re.compile("^06")).click()
    settled(seen)
    axe(seen, "desk")
    seen.get_by_role("button", name="Office", exact=True).click()
    axe(seen, "office")
    seen.keyboard.press("Escape")
    seen.get_by_role("button", name="Keep as rehearsal").click()
    expect(seen.get_by_label("What it proves")).not_to_be_empty()
    axe(seen, "keep")
    for path in ("/handset", f"/handset?world={desk}"):
        seen.goto(path)
        settled(seen)
        axe(seen, path)


def test_zoomed_to_200_percent_every_page_is_usable(browser: Browser, server: Server) -> None:
    """As narrow as 1280 x 1024 at 200 % and as low as 1440 x 900: nothing scrolls sideways, the page has the width, nothing lies over the
    acts."""
    width, height = 640, 450
    with window(browser, server) as page:
        sign_in(page)
        page.set_viewport_size({"width": width, "height": height})
        desk = call(page, "POST", "/api/rehearsals/wrong-scans/open", {"rulebook": "d-1"})["id"]
        for path in [*PAGES, f"/desk/{desk}"]:
            page.goto(path)
            settled(page)
            sideways = page.evaluate("document.documentElement.scrollWidth - innerWidth")
            assert sideways <= 0, (path, sideways)
            main = page.locator("main").first.bounding_box()
            assert main and main["width"] >= 0.85 * width, (path, main)
        keep = page.get_by_role("button", name="Keep as rehearsal")
        keep.click()  # nothing lies over it
        expect(page.get_by_role("dialog", name="Keep as rehearsal")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_role("heading", name="What changed")).to_be_visible()
        for path, word in {
            "/bin-rules": "",
            "/gates": "Clubs",
            "/classes": "",
            "/scanner": "",
            "/settings": "",
        }.items():
            page.goto(path)
            page.locator(".word", has_text=word).first.click()
            editor = page.get_by_role("dialog")
            expect(editor.get_by_role("option").first).to_be_visible()
            box = editor.bounding_box()
            assert box and box["x"] >= 0 and box["x"] + box["width"] <= width, (path, box)
            axe(page, f"editor on {path} at {width} px", "[role=dialog]")
            page.keyboard.press("Escape")
        page.goto("/bin-rules")
        page.locator(".bench h2").first.scroll_into_view_if_needed()
        expect(page.locator(".bench .answer")).to_be_visible()


def test_the_first_click_on_a_word_further_down_opens_it(page: Page) -> None:
    """Mouse down, a moment, up: with another rule in the hands, and with its editor still open."""
    sign_in(page)
    rules = page.locator(".rule")
    expect(rules).to_have_count(6)
    page.set_viewport_size({"width": 1280, "height": 1500})
    for left_open, pairs in ((False, [(n, n + 1) for n in range(4)]), (True, [(0, 3), (0, 4), (1, 4)])):
        for one, other in pairs:
            rules.nth(one).locator(".word").first.click()
            expect(page.get_by_role("dialog")).to_be_visible()
            if not left_open:
                page.keyboard.press("Escape")
            word = rules.nth(other).locator(".word").last
            at = word.evaluate("(e) => { const r = e.getClientRects()[0]; return [r.x + 6, r.y + 8] }")  # it may wrap
            page.mouse.move(*at)
            page.mouse.down()
            page.evaluate("() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
            page.mouse.up()
            expect(word).to_have_class(re.compile("open"))
            page.keyboard.press("Escape")


def test_keys_go_by_character_and_are_all_listed(page: Page) -> None:
    """`/` and `?` however a layout types them, each chapter's letter, the bench on every page that has one."""
    sign_in(page)

    def press(key: str, code: str, shift: bool = False) -> None:
        body = json.dumps({"key": key, "code": code, "shiftKey": shift, "bubbles": True, "cancelable": True})
        page.evaluate(
            f"for (const kind of ['keydown', 'keyup']) document.body.dispatchEvent(new KeyboardEvent(kind, {body}))"
        )

    press("/", "Digit7", shift=True)  # as on a German keyboard
    expect(page.get_by_role("dialog", name="Search or jump")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    press("-", "Slash")
    expect(page.get_by_role("dialog")).to_have_count(0)
    press("?", "Minus", shift=True)
    keys = page.get_by_role("dialog", name="Keys")
    expect(keys).to_be_visible()
    chapters = page.locator(".rail a").count()
    assert keys.get_by_text(re.compile("^g then .$")).count() == chapters == 32
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    for path in ("/steps", "/recipes", "/settings", "/host", "/bin-rules"):
        page.goto(path)
        settled(page)
        expect(page.locator(".bench")).to_be_visible()
        page.keyboard.press("b")
        expect(page.locator(".bench")).to_be_hidden()
        page.keyboard.press("b")
        expect(page.locator(".bench")).to_be_visible()
    page.keyboard.press("g")
    page.keyboard.press("d")
    page.wait_for_url("**/documents")


def test_hands_begin_at_the_content(page: Page) -> None:
    """The first Tab offers to skip what every page has; a change of page puts the focus at its content; a file is brought
    in by Enter."""
    page.on("filechooser", lambda chooser: None)  # handed over from now on, not only once one is due
    sign_in(page)
    page.goto("/steps")
    settled(page)
    page.keyboard.press("Tab")
    skip = page.get_by_role("link", name="Skip to the content")
    expect(skip).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.locator("#content")).to_be_focused()
    page.get_by_role("navigation", name="Chapters").get_by_role("link", name="Rehearsals").click()
    expect(page.locator("#content")).to_be_focused()
    bring = page.get_by_role("button", name="Bring in a file")
    bring.focus()
    expect(bring).to_be_focused()
    with page.expect_file_chooser():
        page.keyboard.press("Enter")


def test_a_lost_connection_is_no_refusal(page: Page) -> None:
    """A scan out of touch waits, in words; it is not said to be refused; back in touch it is done."""
    sign_in(page)
    world = call(page, "POST", "/api/worlds", {"name": "A run", "draft": "d-1"})["id"]
    page.goto(f"/desk/{world}")
    page.get_by_role("button", name="Look up").click()
    box = page.get_by_label("Scan or type")
    expect(box).to_be_visible()
    page.context.set_offline(True)
    box.fill("RCV-01")
    box.press("Enter")
    reply = page.get_by_role("status").filter(has_text="waiting")
    expect(reply).to_contain_text("kept and sent again by itself")
    expect(reply).not_to_contain_text("refused")
    page.context.set_offline(False)
    expect(page.get_by_role("status").filter(has_text="done")).to_be_visible()


def test_the_desk_shows_the_whole_of_a_long_log(page: Page) -> None:
    """The latest window first, what came before on request, nothing missing in between."""
    sign_in(page)
    world = call(page, "POST", "/api/worlds", {"name": "A long run", "draft": "d-1"})["id"]
    page.evaluate(
        """async (world) => { for (let n = 0; n < 430; n++) await fetch(`/api/worlds/${world}/commands`, { method: 'POST',
        headers: { 'X-Mindful-Crate': '1', 'Content-Type': 'application/json' }, body: JSON.stringify({ id: `w${n}`, act: { kind: 'wait', seconds: 1 } }) }) }""",
        world,
    )
    page.goto(f"/desk/{world}")
    expect(page.locator("#entry-430")).to_be_visible()
    expect(page.locator(".log .row")).to_have_count(400)
    page.get_by_role("button", name="Show entries before 31").click()
    expect(page.locator(".log .row")).to_have_count(430)
    expect(page.get_by_role("button", name=re.compile("Show entries before"))).to_have_count(0)


def test_a_rehearsal_keeps_its_word_on_screen(page: Page) -> None:
    """Opened, kept as it was: what it proves is still there; a shorter one is told before it replaces; there is a way
    back; renamed, and cleared away after a question."""
    sign_in(page)
    page.goto("/rehearsals/rope-by-the-pallet")
    page.get_by_role("button", name="Open on a desk").click()
    page.wait_for_url("**/desk/**")
    page.get_by_role("button", name=re.compile("^03")).click()
    desk = page.url
    page.get_by_role("button", name="Go on from here").click()
    page.wait_for_url(lambda url: "/desk/" in url and url != desk)
    page.get_by_role("button", name="Keep as rehearsal").click()
    dialog = page.get_by_role("dialog", name="Keep as rehearsal")
    expect(dialog.get_by_label("What it proves")).to_have_value(re.compile("A pallet of one rope"))
    expect(dialog).to_contain_text("went on from an earlier point")
    dialog.get_by_role("button", name="Replace “Rope by the pallet”").click()
    versions = page.get_by_role("region", name="Versions")
    expect(versions).to_contain_text("replaced from a desk")
    versions.get_by_role("button", name="Go back to it").last.click()
    expect(versions).to_contain_text("version 1 again: 10 steps")
    page.get_by_role("button", name="Run on what is in force").click()
    expect(page.get_by_text("Shown is the run of").filter(has_text="revision 1")).to_be_visible()
    page.get_by_role("button", name="Rename").click()
    page.get_by_role("dialog").get_by_label("Name").fill("Rope, renamed")
    page.get_by_role("dialog").get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("heading", name="Rope, renamed")).to_be_visible()
    page.get_by_role("button", name="Clear away").click()
    page.get_by_role("dialog").get_by_role("button", name="Clear it away").click()
    page.wait_for_url("**/rehearsals")
    expect(page.get_by_role("link", name="Rope, renamed")).to_have_count(0)
