"""What a page of the rulebook costs when its list is long: answered by the application, over its test client."""

from __future__ import annotations

import sys
import time
from collections.abc import Iterator
from contextlib import redirect_stdout
from typing import Any

from mindful_crate.core.plain import to_plain
from mindful_crate.demo.loader import demo_rulebook
from tests.bench.big import few
from tests.bench.measures import Line, database, settle_down


def _taken(many: int, turns: int) -> tuple[dict[int, float], dict[int, float], int]:
    """Seconds in which a chapter of so many rules and one of 5 were seen again, and edited and seen; bytes of an edit."""
    from mindful_crate.api.app import create
    from mindful_crate.demo.loader import load
    from mindful_crate.store.db import Database, migrate
    from tests.api.conftest import HEADER

    with database() as dsn:
        migrate(dsn)
        store = Database(dsn, most=2)
        load(store)
        store.close()
        app = create(dsn, "secret for the bench", None)
        client = app.test_client()

        def ask(method: str, path: str, body: Any = None) -> Any:
            answer = client.open(path, method=method, json=body, headers=HEADER)
            assert answer.status_code < 300, answer.json
            return answer

        ask("POST", "/api/session", {"login": "ines", "password": "quay"})
        drafts = {5: "d-1", many: ask("POST", "/api/drafts", {"of": "d-1", "name": "Many rules"}).json["id"]}
        rules = to_plain(demo_rulebook())["bin_rules"][0]["rules"]
        edits = [
            {"op": "copy", "path": f"bin_rules/BL-1/rules/{rules[n % len(rules)]['id']}"}
            for n in range(many - len(rules))
        ]
        version = 1
        for n in range(0, len(edits), 50):
            body = {"version": version, "edits": edits[n : n + 50]}
            version = ask("POST", f"/api/drafts/{drafts[many]}/edits", body).json["version"]
        settle_down()
        seen, changed, sent = {5: 0.0, many: 0.0}, {5: 0.0, many: 0.0}, 0
        for turn in range(turns):
            for count, id_ in drafts.items():
                page = f"/api/drafts/{id_}/chapters/bin-rules?tab=put_away"
                version = ask("GET", f"/api/drafts/{id_}").json["version"]
                edit = {"op": "set", "path": "bin_rules/BL-1/rules/BR-1/on", "value": bool(turn % 2)}
                began = time.perf_counter()
                edited = ask("POST", f"/api/drafts/{id_}/edits", {"version": version, "edits": [edit]})
                ask("GET", page)
                middle = time.perf_counter()
                again = ask("GET", page)
                seen[count] += time.perf_counter() - middle
                changed[count] += middle - began
                assert len(again.json["page"]["sections"][0]["rows"]) == count
                sent = max(sent, len(edited.data))
        app.extensions["mindful_crate"].database.close()
    return seen, changed, sent


def chapters() -> Iterator[Line]:
    """A chapter of 300 rules against one of 5, seen again and after an edit; and what an edit sends back."""
    many, turns = max(few(300), 12), few(40)
    with redirect_stdout(sys.stderr):  # the application tells its requests
        seen, changed, sent = _taken(many, turns)
    for said, took in (("seen again", seen), ("edited and seen", changed)):
        note = f"{took[many] / turns * 1e3:.0f} ms, five {took[5] / turns * 1e3:.0f} ms"
        yield Line(
            f"a chapter of many rules {said}, against one of 5", f"{many} rules", took[many] / took[5], 3, False, note
        )
    yield Line("what an edit of many rules sends back, in thousands of bytes", f"{many} rules", sent / 1000, 3, False)
