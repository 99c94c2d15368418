"""Plans that tie, drafts that begin bare, effects before a change is saved; tasks before they are made; what an order takes."""

from __future__ import annotations

from typing import Any

from tests.api.conftest import Api


def edits(ines: Api, draft: str, *wanted: dict[str, Any], look: bool = False) -> Any:
    version = ines.get(f"/api/drafts/{draft}").json["version"]
    return ines.post(
        f"/api/drafts/{draft}/edits", {"version": version, "edits": list(wanted), "says": "", "look": look}
    )


def test_plans_that_tie_are_refused_when_saved(ines: Api) -> None:
    """Whether one is switched on, or made to be for what another is for; nothing is kept, and the sentence names both."""
    made = edits(ines, "d-1", {"op": "copy", "path": "step_plans/SP-1"}).json["made"][0]
    on = {"op": "set", "path": f"{made}/on", "value": True}
    for look in (True, False):
        refused = edits(ines, "d-1", on, look=look)
        assert refused.status_code == 422 and refused.json["code"] == "plans_tie"
        assert "Purchase receipts (copy) and Purchase receipts would be for the same goods" in refused.json["title"]
    rope = {"op": "set", "path": f"{made}/only", "value": {"group": "Rope"}}
    looked = edits(ines, "d-1", rope, on, look=True).json
    assert any("go by Purchase receipts (copy) instead of Purchase receipts" in says for says in looked["effects"])
    assert edits(ines, "d-1", rope, on).status_code == 200
    assert edits(ines, "d-1", {"op": "set", "path": f"{made}/only", "value": None}).json["code"] == "plans_tie"
    answer = ines.post("/api/drafts/d-1/bench/steps", {"order": "PO-1014", "line": 3}).json
    journey = answer["way"]
    assert [(x["number"], x["makes"]) for x in answer["task"]["looks"]] == [
        (1, False),
        (2, False),
        (3, False),
        (4, True),
    ]
    assert [g["plan"] for g in journey["lines"]] == ["Purchase receipts", "Purchase receipts (copy)"]
    assert next(p["says"] for p in journey["plans"] if p["plan"] == "SP-1").startswith(
        "Purchase receipts (copy) stands before it"
    )
    ines.post("/api/drafts/d-1/undo", {"version": ines.get("/api/drafts/d-1").json["version"]})


def test_a_draft_may_begin_with_no_rules(ines: Api) -> None:
    """Nothing of its own is in it; what stops it is said."""
    made = ines.post("/api/drafts", {"of": "d-1", "name": "Bare", "bare": True}).json["id"]
    page = ines.get(f"/api/drafts/{made}/chapters/recipes").json["page"]
    assert page["sections"][0]["rows"] == [] and "Make a crew first" in page["lead"]
    assert {"no_plan"} <= {f["code"] for f in ines.get(f"/api/drafts/{made}/findings").json["findings"]}


def test_tasks_are_shown_before_they_are_made(ines: Api) -> None:
    """Of orders on a bench; of what waits on a floor, which is then made, or taken off the list; each list and the stations follow."""
    shown = ines.post("/api/drafts/d-1/bench/tasks", {"orders": ["PO-1006", "po-1007 "]}).json
    assert {t["crew_name"] for t in shown["tasks"]} == {"Instrument store", "Quay crew"} and shown["left"] == []
    assert ines.post("/api/drafts/d-1/bench/tasks", {"orders": ["PO-99"]}).json["code"] == "unknown_order"
    edits(ines, "d-1", {"op": "set", "path": "step_plans/SP-1/put_away/begins", "value": "on_demand"})
    world = ines.world()

    def does(act: dict[str, Any], device: str | None = None) -> Any:
        return ines.command(world, act, device=device, person="oren" if device else None).json["entry"]

    def scans(text: str) -> None:
        asked = ines.get(f"/api/worlds/{world}/handsets/H1").json["question"]["dialogue"]
        assert does({"kind": "answer", "dialogue": asked, "scan": {"text": text, "how": "typed"}}, "H1")["done"]

    does({"kind": "open_flow", "flow": "F-RECEIVE"}, "H1")
    scans("PO-1001")
    for item in ("SHK-08", "SHK-10"):
        scans(item)
        scans("1")
        asked = ines.get(f"/api/worlds/{world}/handsets/H1").json["question"]["dialogue"]
        does({"kind": "press", "dialogue": asked, "action": "finish"}, "H1")
    work = ines.get(f"/api/worlds/{world}/work").json
    one, two = (w["key"] for w in work["lists"]["waits"])
    assert all(str(w["seq"]) in work["times"] for w in work["lists"]["waits"]) and work["lists"]["tasks"] == []
    body = {"keys": [one, two], "together": True}
    (task,) = ines.post(f"/api/worlds/{world}/rests/preview", body).json["tasks"]
    assert len(task["shares"]) == 2 and ines.get(f"/api/worlds/{world}/work").json["lists"] == work["lists"]
    assert (
        does({"kind": "make_tasks", "keys": [one]})["done"] and not does({"kind": "make_tasks", "keys": [one]})["done"]
    )
    assert does({"kind": "drop_rest", "key": two, "why": "goes back"})["done"]
    after = ines.get(f"/api/worlds/{world}/work").json
    assert after["lists"]["waits"] == [] and [t["station"] for t in after["lists"]["tasks"]] == ["Put away"]
    assert after["offered"][0]["task"] == after["lists"]["tasks"][0]["number"]
    (task,) = after["lists"]["tasks"]
    give = {"kind": "reassign_task", "task": task["number"], "crew": task["crew"]}
    for who, code in (("nobody", "unknown_person"), ("ines", "not_of_crew")):  # it would wait for nobody
        assert ines.command(world, {**give, "person": who}).json["code"] == code
    assert does({**give, "person": "oren"})["done"]
    assert ines.post(f"/api/worlds/{world}/rests/preview", body).json["code"] == "nothing_rests"
    now = ines.get("/api/drafts/d-1/stations", world=world).json["now"]
    assert now["receive `RCV-01`"] == "2 plates" and now["put away"] == "1 task"
    assert ines.get("/api/drafts/d-3/stations", world=world).json["code"] == "other_site"


def test_what_an_order_takes_is_counted_against_what_is_in_force(ines: Api) -> None:
    """By the draft and by what is in force, with the proofs that were given up between them."""
    same = ines.post("/api/drafts/d-1/bench/cost", {"flow": "F-RECEIVE", "order": "PO-1007"}).json
    assert same["now"] == same["before"] and same["now"]["scans"] == 4 and same["given_up"] == []
    edits(ines, "d-1", {"op": "remove", "path": "flows/F-RECEIVE/prompts/PR-5"})
    less = ines.post("/api/drafts/d-1/bench/cost", {"flow": "F-RECEIVE", "order": "PO-1004"}).json
    assert (
        less["now"]["stopped"] and not less["before"]["stopped"] and less["given_up"] == ["The lot is asked no more."]
    )
    assert ines.post("/api/drafts/d-1/bench/cost", {"flow": "F-LOOK", "order": "PO-1004"}).json["code"] == "not_counted"
