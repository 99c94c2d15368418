"""The handset's page from nothing to its first question, on a processor slowed to a quarter."""

from __future__ import annotations

import shutil
from collections.abc import Iterator

from playwright.sync_api import sync_playwright

from tests.bench.big import few
from tests.bench.handsets import Client, server
from tests.bench.measures import Line, demo_database
from tests.browser.conftest import ARGS

SLOWED, PAINT_MS = 4, 1_000
WATCH = """
const look = () => {
  const asked = document.querySelector('.hs h1');
  if (asked) requestAnimationFrame(() => setTimeout(() => { window.painted = [performance.now(), asked.textContent] }));
  else requestAnimationFrame(look);
};
requestAnimationFrame(look);
"""
PAINTED = "() => new Promise((done) => { const look = () => (window.painted ? done(window.painted) : requestAnimationFrame(look)); look() })"


def first() -> Iterator[Line]:
    """Each time with an empty cache: a flow is open on this handset, and what it asks is painted."""
    took: list[float] = []
    with demo_database() as dsn, sync_playwright() as playwright, server(dsn) as served:
        tove = Client(served.port)
        live = next(w["id"] for w in tove.ask("GET", "/api/worlds")["worlds"] if w["kind"] == "live")
        tove.ask("POST", f"/api/worlds/{live}/commands", {"id": "begun", "act": {"kind": "open_flow", "flow": "F-RECEIVE"}, "device": "H9"})  # fmt: skip
        name, _, token = tove.cookie.partition("=")
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=ARGS)
        for _ in range(few(9)):
            address = f"http://127.0.0.1:{served.port}"
            context = browser.new_context(viewport={"width": 390, "height": 844}, base_url=address)
            context.add_cookies([{"name": name, "value": token, "url": address}])
            context.add_init_script(WATCH + "localStorage.setItem('device', 'H9')")
            page = context.new_page()
            context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": SLOWED})
            page.goto(f"/handset?world={live}")
            at, asked = page.evaluate(PAINTED)
            assert asked == "Which order is it?", asked
            took.append(at)
            context.close()
        browser.close()
    middle = sorted(took)[len(took) // 2]
    yield Line(f"the handset's first question painted, of {PAINT_MS} ms", f"processor slowed {SLOWED} times, empty cache, median of {len(took)}", middle / PAINT_MS, 1, False, f"{middle:.0f} ms, {min(took):.0f} to {max(took):.0f}")  # fmt: skip
