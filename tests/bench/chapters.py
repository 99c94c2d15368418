"""What a page of the rulebook costs when its list is long: answered by the application over its test client, and painted by a
browser."""

from __future__ import annotations

import shutil
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import redirect_stdout
from typing import Any

from playwright.sync_api import sync_playwright

from mindful_crate.core.plain import to_plain
from mindful_crate.demo.loader import demo_rulebook
from tests.bench.big import few
from tests.bench.handsets import server
from tests.bench.measures import Line, demo_database, settle_down
from tests.browser.conftest import ARGS

Ask = Callable[..., Any]
AT_ONCE = 12
"""So many rows the studio asks for at first."""
PAINT_MS = 150
PAINTED = """
async () => {
  const press = (name) => [...document.querySelectorAll('[role=tab]')].find((t) => t.textContent.startsWith(name)).click()
  const frame = () => new Promise((done) => requestAnimationFrame(() => setTimeout(done)))
  performance.clearResourceTimings()
  press('Put away')
  while (!document.querySelector('h1').textContent.includes('put away')) await frame()
  const painted = performance.now()
  const answers = performance.getEntriesByType('resource').filter((e) => e.name.includes('/chapters/bin-rules?tab=put_away'))
  return painted - answers[0].responseEnd
}
"""


FEW = len(demo_rulebook().bin_rules[0].rules)
"""So many rules the demo's list has."""


def _drafts(ask: Ask, many: int) -> dict[int, str]:
    """The demo's draft of few rules, and a copy with so many."""
    found = {FEW: "d-1", many: ask("POST", "/api/drafts", {"of": "d-1", "name": "Many rules"})["id"]}
    rules = to_plain(demo_rulebook())["bin_rules"][0]["rules"]
    edits = [
        {"op": "copy", "path": f"bin_rules/BL-1/rules/{rules[n % len(rules)]['id']}"} for n in range(many - len(rules))
    ]
    version = 1
    for n in range(0, len(edits), 50):
        body = {"version": version, "edits": edits[n : n + 50]}
        version = ask("POST", f"/api/drafts/{found[many]}/edits", body)["version"]
    return found


def _taken(many: int, turns: int) -> tuple[dict[int, float], dict[int, float], int]:
    """Seconds in which a chapter of so many rules and one of few were seen again, and edited and seen; bytes of an edit."""
    from mindful_crate.api.app import create
    from tests.api.conftest import HEADER

    with demo_database() as dsn:
        app = create(dsn, "secret for the bench", None)
        client = app.test_client()

        def answer(method: str, path: str, body: Any = None) -> Any:
            found = client.open(path, method=method, json=body, headers=HEADER)
            assert found.status_code < 300, found.json
            return found

        def ask(method: str, path: str, body: Any = None) -> Any:
            return answer(method, path, body).json

        ask("POST", "/api/session", {"login": "ines", "password": "quay"})
        drafts = _drafts(ask, many)
        settle_down()
        seen, changed, sent = {FEW: 0.0, many: 0.0}, {FEW: 0.0, many: 0.0}, 0
        for turn in range(turns):
            for count, id_ in drafts.items():
                page = f"/api/drafts/{id_}/chapters/bin-rules?tab=put_away&most={AT_ONCE}"
                version = ask("GET", f"/api/drafts/{id_}")["version"]
                edit = {"op": "set", "path": "bin_rules/BL-1/rules/BR-1/on", "value": bool(turn % 2)}
                began = time.perf_counter()
                edited = answer("POST", f"/api/drafts/{id_}/edits", {"version": version, "edits": [edit]})
                answer("GET", page)
                middle = time.perf_counter()
                again = answer("GET", page)
                seen[count] += time.perf_counter() - middle
                changed[count] += middle - began
                section = again.json["page"]["sections"][0]
                assert len(section["rows"]) + section["more"] == count
                sent = max(sent, len(edited.data))
        app.extensions["mindful_crate"].database.close()
    return seen, changed, sent


def _painted(many: int) -> dict[int, float]:
    """Median milliseconds from the answer to the rows in sight on the screen, of so many rules and of few, the page at rest."""
    found = {}
    with demo_database() as dsn, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=ARGS)
        with server(dsn) as served:
            page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=f"http://127.0.0.1:{served.port}")
            page.goto("/")
            page.get_by_role("button", name="Sign in as Ines").click()
            page.wait_for_url("**/today")
            script = "async ([method, path, body]) => (await fetch(path, {method, headers: {'X-Mindful-Crate': '1', 'content-type': 'application/json'}, body: body && JSON.stringify(body)})).json()"
            drafts = _drafts(lambda method, path, body=None: page.evaluate(script, [method, path, body]), many)
            for count, id_ in drafts.items():
                page.evaluate("(id) => localStorage.setItem('draft', id)", id_)
                took = []
                for _ in range(few(9)):
                    page.goto("/bin-rules?for=pick_from")
                    page.locator(".rules > li").first.wait_for()
                    page.wait_for_load_state("networkidle")  # the bench beside it has its answer
                    took.append(page.evaluate(PAINTED))
                found[count] = sorted(took)[len(took) // 2]
        browser.close()
    return found


def chapters() -> Iterator[Line]:
    """A chapter of 300 rules against one of few, seen again and after an edit, and painted; and what an edit sends back."""
    many, turns = max(few(300), 12), few(40)
    with redirect_stdout(sys.stderr):  # the application tells its requests
        seen, changed, sent = _taken(many, turns)
        painted = _painted(many)
    for said, took, target in (("seen again", seen, 3), ("edited and seen", changed, 3)):
        note = f"{took[many] / turns * 1e3:.0f} ms, few {took[FEW] / turns * 1e3:.0f} ms"
        yield Line(
            f"a chapter of many rules {said}, against one of {FEW}", f"{many} rules", took[many] / took[FEW], target, False, note
        )  # fmt: skip
    note = f"{painted[many]:.0f} ms, few {painted[FEW]:.0f} ms"
    yield Line(
        f"a chapter of many rules painted, of {PAINT_MS} ms", f"{many} rules", painted[many] / PAINT_MS, 1, False, note
    )
    yield Line("what an edit of many rules sends back, in thousands of bytes", f"{many} rules", sent / 1000, 3, False)
