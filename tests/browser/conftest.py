"""A real server and a real browser. Nothing sleeps: every wait is for something the page shows."""

from __future__ import annotations

import shutil
import time
from collections.abc import Iterator
from contextlib import contextmanager

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from mindful_crate.demo.loader import DEMO_PASSWORD
from tests.conftest import ROOT
from tests.serving import Server

ARGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--force-prefers-reduced-motion",  # what slides is waited for until it stands
]
expect.set_options(timeout=20_000)  # how long a busy machine may take


@pytest.fixture(scope="module")
def server(dsn: str, request: pytest.FixtureRequest) -> Iterator[Server]:
    """A server on a fresh copy of the demo: of one process, or as many as a file of tests says in ``PROCESSES``, where it matters that
    several share a port."""
    found = Server(dsn, processes=getattr(request.module, "PROCESSES", 1)).start()
    yield found
    found.kill()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """Debian's Chromium."""
    with sync_playwright() as playwright:
        found = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=ARGS)
        yield found
        found.close()


@contextmanager
def window(browser: Browser, server: Server) -> Iterator[Page]:
    """A window at 1280 x 800; an error in the page fails the test."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.url)
    found = context.new_page()
    errors: list[str] = []
    found.on("pageerror", lambda e: errors.append(str(e)))
    yield found
    context.close()
    assert errors == []


@pytest.fixture
def page(browser: Browser, server: Server) -> Iterator[Page]:
    """A window on the demo."""
    with window(browser, server) as found:
        yield found


@pytest.fixture
def phone(browser: Browser, server: Server) -> Iterator[Page]:
    """A phone at 390 x 844."""
    context = browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True, base_url=server.url)
    yield context.new_page()
    context.close()


def sign_in(page: Page, name: str = "Ines", at: str = "/bin-rules") -> None:
    """Signed in, and at a page. How a person signs in is tried in ``test_screens`` and ``test_guide``."""
    answer = page.request.post(
        "/api/session", data={"login": name.lower(), "password": DEMO_PASSWORD}, headers={"X-Mindful-Crate": "1"}
    )
    assert answer.ok, answer.text()
    page.goto(at)
    expect(page.get_by_role("navigation", name="Chapters")).to_be_visible()


def scan(page: Page, code: str, end: str = "Enter") -> None:
    """As a scanner does: real strokes of keys, two milliseconds apart by their own clock, however busy this machine is."""
    devtools = page.context.new_cdp_session(page)
    began = time.time()
    ends = {"Enter": ("\r", 13), "Tab": ("", 9), "": ("", 0)}[end]
    strokes = [(key, key, 0) for key in code] + ([(end, *ends)] if end else [])
    for n, (key, text, number) in enumerate(strokes):
        stroke = {"key": key, "windowsVirtualKeyCode": number, "timestamp": began + n / 500}
        devtools.send("Input.dispatchKeyEvent", {"type": "keyDown" if text else "rawKeyDown", "text": text, **stroke})
        devtools.send("Input.dispatchKeyEvent", {"type": "keyUp", **stroke})
    devtools.detach()


def write(page: Page, text: str) -> None:
    """Write into the word that was opened, over what it holds, once it takes the keys."""
    box = page.locator(".editor .entry").get_by_role("textbox").first
    expect(box).to_be_focused()
    page.keyboard.type(text)
    expect(box).to_have_value(text)
    page.keyboard.press("Enter")


def no_axe_violations(page: Page) -> None:
    """The screen as it is has nothing that axe finds wrong by WCAG A and AA."""
    source = (ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text()
    page.evaluate(f"() => {{ {source} }}")
    # what holds is not gathered, only what does not: most of the time axe takes
    found = page.evaluate("() => axe.run({ runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa'], resultTypes: ['violations'] })")
    wrong = [
        (v["id"], [n["html"][:160] + " | " + (n.get("failureSummary") or "")[:200] for n in v["nodes"][:3]])
        for v in found["violations"]
    ]
    assert wrong == []
