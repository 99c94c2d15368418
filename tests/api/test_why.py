"""Why: each question a command put to the rules is shown and explained, with what was decided before it, by the rules it was
decided by."""

from __future__ import annotations

from typing import Any

import pytest

from mindful_crate.api import chapters
from mindful_crate.core.floor.state import State
from mindful_crate.core.work.tasks.fold import suppose
from mindful_crate.core.world.supposing import open_goods
from tests.api.conftest import Api
from tests.playbook import barcode


def played(api: Api, world: str, flow: str, *texts: str) -> Any:
    """Scans of the parts store's worker in one flow; a text like ``!finish`` is a button. The last answer."""
    hands = {"device": "H1", "person": "oren"}
    said = api.command(world, {"kind": "open_flow", "flow": flow}, **hands)
    for text in texts:
        question = said.json["handset"]["question"]
        act: dict[str, Any] = {"kind": "press", "dialogue": question["dialogue"], "action": text[1:]}
        if text[0] != "!":
            how = "typed" if text.isdigit() and len(text) < 4 else "scanned"
            act = {"kind": "answer", "dialogue": question["dialogue"], "scan": {"text": text, "how": how}}
        said = api.command(world, act, **hands)
        assert said.json["entry"]["done"], said.json["entry"]["says"]
    return said


def test_every_choice_of_a_command_is_explained_with_those_before_it(ines: Api, ground: Any) -> None:
    """Two items of one loose receipt: two questions, the second knows where the first will lie; a child under other rules
    explains what its parent did by its parent's."""
    world = str(ines.post("/api/worlds", {"name": "two", "draft": "d-2", "book_seconds": 2}).json["id"])
    flows = ines.get("/api/drafts/d-2/file").json["flows"]
    receive = next(f["id"] for f in flows if f["purpose"] == "receive")
    said = played(ines, world, receive, "GL-501", barcode(ground, "SHK-08", "box"), "4", "RNG-8", "60", "!finish")
    entry = said.json["entry"]
    assert len(entry["trails"]) == 2, entry
    one, two = entry["trails"]
    assert "Bow shackle" in one["asks"] and "ring" in two["asks"] and one["lines"] and two["lines"]
    why = [ines.get(f"/api/worlds/{world}/entries/{entry['seq']}/why", trail=n).json for n in (0, 1)]
    assert [w["bin"] for w in why] == [t["bins"][0] for t in (one, two)]
    assert [a["bin"] for a in why[1]["explanation"]["allocations"]] == two["bins"]
    assert ines.get(f"/api/worlds/{world}/entries/{entry['seq']}/why", trail=2).json["code"] == "no_trail"

    draft = ines.get("/api/drafts/d-2").json
    rules = next(r for r in ines.get("/api/drafts/d-2/file").json["bin_rules"] if r["purpose"] == "put_away")
    chose = next(x["rule"] for x in one["lines"] if x["outcome"] == "chosen")
    edit = {"op": "set", "path": f"bin_rules/{rules['id']}/rules/{chose}/on", "value": False}
    changed = ines.post("/api/drafts/d-2/edits", {"version": draft["version"], "edits": [edit]})
    assert changed.status_code == 200, changed.json
    child = ines.post(f"/api/worlds/{world}/branch", {"seq": entry["seq"], "draft": "d-2"}).json["id"]
    for n in (0, 1):
        assert ines.get(f"/api/worlds/{child}/entries/{entry['seq']}/why", trail=n).json == why[n]
    ines.post("/api/drafts/d-2/undo", {"version": changed.json["version"]})


def test_what_is_supposed_for_a_page_is_seen_by_no_question(ines: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    """While the rules of a page are counted over goods that are supposed to come, the bench is asked, and answers of the opening alone."""
    question = {
        "item": "ROPE-12",
        "quantity": 2000,
        "plate_kind": "PAL",
        "order": "PO-1007",
        "world": None,
    }
    before = ines.post("/api/drafts/d-1/bench/bin", question).json
    assert before["says"] == "`B-02-01-1`", before
    asked: list[Any] = []

    def meanwhile(state: State, *given: Any) -> Any:
        found = open_goods(state, *given)
        with state.tentatively():
            for supposed in found:
                suppose(state, supposed.trail, f"x {len(asked)} {supposed.item} {supposed.quantity}")
            asked.append(ines.post("/api/drafts/d-1/bench/bin", question).json)
        return found

    monkeypatch.setattr(chapters, "open_goods", meanwhile)
    assert ines.get("/api/drafts/d-1/chapters/bin-rules/facts", tab="put_away").json["facts"]
    assert asked == [before]
