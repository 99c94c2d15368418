"""The map in a real browser: how long until a site is first drawn, and how long a step of panning or zooming takes."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from dataclasses import replace

from argon2 import PasswordHasher
from playwright.sync_api import Browser, Page, sync_playwright

from mindful_crate.core.catalog.opening import Opening
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.store import db
from mindful_crate.store.db import Database, migrate
from mindful_crate.store.drafts import Drafts
from mindful_crate.store.worlds import Worlds
from tests.bench import big
from tests.bench.handsets import server
from tests.bench.measures import Line, database
from tests.browser.conftest import ARGS

SIZES = (
    (big.Size(600, 4_000, 200), big.Size(1_300, 8_000, 200))
    if big.TINY
    else (big.Size(1_000, 8_000, 200), big.Size(100_000, 100_000, 2_000))
)
WATCH = """
window.drawn = []
new PerformanceObserver((list) => list.getEntries().forEach((e) => e.name === 'map drawn' && window.drawn.push(e.startTime + e.duration)))
  .observe({ entryTypes: ['measure'] })
"""
STEP = """
async (how) => {
  const canvas = document.querySelector('.sitemap canvas'), pen = canvas.getContext('2d'), box = canvas.getBoundingClientRect()
  const act = {
    zoom: () => canvas.dispatchEvent(new WheelEvent('wheel', { deltaY: -90, clientX: box.left + 200, clientY: box.top + 200, cancelable: true })),
    pan: () => canvas.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', bubbles: true })),
  }[how]
  const took = []
  for (let n = 0; n < 12; n += 1) {
    await new Promise((done) => requestAnimationFrame(() => setTimeout(done)))
    const before = window.drawn.length, began = performance.now()
    act()
    while (window.drawn.length === before) await new Promise((done) => setTimeout(done))
    pen.getImageData(0, 0, 1, 1)  // what was drawn is there
    took.push(performance.now() - began)
  }
  return took.sort((a, b) => a - b)[6]
}
"""


def maps() -> Iterator[Line]:
    """The site page of 100,000 bins against one of 1,000, in the same browser: first draw, a step of zoom, a step of
    panning with all of it in sight and with some of it."""
    found: dict[int, dict[str, float]] = {}
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=ARGS)
        for size in SIZES:
            with database() as dsn:
                migrate(dsn)
                _begin(dsn, big.opening(size))
                with server(dsn) as served:
                    port = served.port
                    found[size.bins] = _measured(browser, f"http://127.0.0.1:{port}")
        browser.close()
    small, large = found[SIZES[0].bins], found[SIZES[1].bins]
    for what, target in (("first draw", 6), ("pan, all in sight", 2), ("zoom", 2), ("pan, some in sight", 2)):
        note = f"{small[what]:.0f} and {large[what]:.0f} ms"
        yield Line(f"map: {what}, 100,000 bins against 1,000", "median", large[what] / small[what], target, False, note)


def _begin(dsn: str, opening: Opening) -> None:
    """A database whose ground is this opening, and an analyst with a draft."""
    store = Database(dsn, most=2)
    worlds = Worlds(store)
    with store.transaction() as conn:
        hashed = PasswordHasher().hash("quay")
        db.run(conn, "put_person", id="ines", name="Ines", role="analyst", sites=["X"], crews=[], login="ines", password_hash=hashed)  # fmt: skip
        hash_ = worlds.keep_opening(conn, replace(opening, orders=()))
        db.run(conn, "put_ground", no=1, opening=hash_, says="", made_by="ines")
        Drafts(worlds).create(conn, id_="d-1", name="Bench", site="X", opening=hash_, rulebook=Rulebook("Bench"), by="ines", parent=None)  # fmt: skip
    store.close()


def _measured(browser: Browser, url: str) -> dict[str, float]:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=url)
    context.request.post("/api/session", data={"login": "ines", "password": "quay"}, headers={"X-Mindful-Crate": "1"})
    context.add_init_script(WATCH)
    page = context.new_page()
    firsts = []
    for _ in range(5):
        page.goto("/site")
        page.evaluate("async () => { while (!window.drawn.length) await new Promise((r) => setTimeout(r, 20)) }")
        firsts.append(float(page.evaluate("window.drawn[0]")))
    took = {"first draw": sorted(firsts)[2], "pan, all in sight": _step(page, "pan"), "zoom": _step(page, "zoom")}
    took["pan, some in sight"] = _step(page, "pan")
    context.close()
    return took


def _step(page: Page, how: str) -> float:
    return float(page.evaluate(STEP, how))
