"""What holds for all sites, through the doors: seen by every draft, taken back, left behind, carried to another site."""

from __future__ import annotations

from typing import Any

import orjson

from tests.api.conftest import Api


def draft(api: Api, id_: str) -> dict[str, Any]:
    answer: dict[str, Any] = api.get(f"/api/drafts/{id_}").json
    return answer


def edit(api: Api, id_: str, *edits: dict[str, Any], look: bool = False) -> Any:
    body = {"version": draft(api, id_)["version"], "edits": list(edits), "says": "Tried.", "look": look}
    return api.post(f"/api/drafts/{id_}/edits", body)


def cell(api: Api, id_: str, level: int) -> str:
    """What the settings of a draft say of another bin, for all sites (0) or for its own (1)."""
    lines = api.get(f"/api/drafts/{id_}/chapters/settings").json["page"]["sections"][0]["matrix"]["lines"]
    text: str = next(x for x in lines if x["title"].startswith("Another bin"))["cells"][level]["text"]
    return text


def test_drafts_of_two_sites_share_a_setting(ines: Api) -> None:
    """It is numbered, every draft of every site sees it, and who set it takes it back for all."""
    was = [draft(ines, d)["version"] for d in ("d-1", "d-2")]
    set_ = {"op": "set", "path": "settings/general/other_bin", "value": "never"}
    edited = edit(ines, "d-1", set_).json
    assert edited["general"] == 1
    assert cell(ines, "d-1", 0) == cell(ines, "d-2", 0) != "not set here"
    assert [draft(ines, d)["version"] for d in ("d-1", "d-2")] == [was[0] + 1, was[1] + 1]
    view = ines.get("/api/general").json
    assert view["no"] == 1 and {d["general"] for d in view["drafts"]} == {1} and len(view["parts"]) == 1
    here = {"op": "set", "path": "settings/GL/other_bin", "value": "warn"}
    assert edit(ines, "d-2", here).json["general"] == 1
    assert cell(ines, "d-2", 1) != "not set here" and cell(ines, "d-1", 1) == "not set here"
    undone = ines.post("/api/drafts/d-1/undo", {"version": edited["version"]}).json
    assert undone["general"] == 2 and cell(ines, "d-2", 0) == "not set here"
    assert cell(ines, "d-2", 1) != "not set here", "what a site said itself stays"
    redone = ines.post("/api/drafts/d-1/redo", {"version": undone["version"]}).json
    assert redone["general"] == 3 and cell(ines, "d-2", 0) != "not set here"
    edit(ines, "d-2", {**set_, "value": "reason"})
    late = ines.post("/api/drafts/d-1/undo", {"version": draft(ines, "d-1")["version"]})
    assert late.status_code == 422 and "changed since" in late.json["title"]
    force = ines.post("/api/drafts/d-2/in-force", {"version": draft(ines, "d-2")["version"]})
    assert force.status_code == 200
    assert ines.get("/api/general").json["in_force"] == {"HQ": 0, "GL": 4}


def test_a_draft_that_would_lose_something_stays(ines: Api) -> None:
    """A look says so before; it can be brought along all the same, and findings say what it lacks."""
    shared = edit(ines, "d-1", {"op": "share", "path": "flows/F-LOOK"}).json
    flow = shared["made"][0]
    menus = [m["id"] for m in ines.get("/api/drafts/d-2/file").json["menus"]]
    seen = ines.get("/api/drafts/d-2/file").json["menus"][0]["flows"]
    edit(ines, "d-2", {"op": "set", "path": f"menus/{menus[0]}/flows", "value": [*seen, flow.split("/")[1]]})
    ours = next(m for m in ines.get("/api/drafts/d-1/file").json["menus"] if flow.split("/")[1] in m["flows"])
    off = [
        {"op": "set", "path": f"menus/{m['id']}/flows", "value": [f for f in m["flows"] if f != flow.split("/")[1]]}
        for m in ines.get("/api/drafts/d-1/file").json["menus"]
    ]
    assert ours
    gone = (*off, {"op": "remove", "path": flow})
    looked = edit(ines, "d-1", *gone, look=True).json["follows"]
    assert any("GL" in n["says"] and "stays on" in n["says"] for n in looked), looked
    before = draft(ines, "d-2")
    edit(ines, "d-1", *gone)
    stayed = draft(ines, "d-2")
    assert stayed["general"] == before["general"] and stayed["version"] == before["version"]
    head = next(d for d in ines.get("/api/general").json["drafts"] if d["id"] == "d-2")
    assert head["lacks"] and "does not exist" in head["lacks"][0]["says"]
    refused = edit(ines, "d-2", {"op": "set", "path": "settings/general/other_bin", "value": "warn"})
    assert refused.status_code == 422 and "Bring the draft along" in refused.json["title"]
    along = ines.post("/api/drafts/d-2/along", {"version": stayed["version"]}).json
    assert along["general"] == draft(ines, "d-1")["general"] and along["stops"]["scanner"] == 1
    assert ines.post("/api/drafts/d-2/along", {"version": along["version"]}).status_code == 422


def test_only_who_sees_all_sites_changes_what_holds_for_them(ines: Api, app: Any) -> None:
    """The edit is refused in words and nothing of it stays."""
    body = {
        "name": "Pell Aster",
        "login": "pell",
        "role": "analyst",
        "sites": ["HQ"],
        "crews": [],
        "password": "a long one, made up",
    }
    assert ines.post("/api/people", body).status_code == 200
    pell = Api(app.test_client())
    assert pell.post("/api/session", {"login": "pell", "password": body["password"]}).status_code == 200
    before = draft(ines, "d-1")
    refused = edit(pell, "d-1", {"op": "set", "path": "settings/general/booking", "value": "by_hand"})
    assert refused.status_code == 422 and "GL, SW is not among yours" in refused.json["title"]
    assert draft(ines, "d-1") == before
    assert pell.get("/api/general").json["may_edit"] is False
    assert edit(pell, "d-1", {"op": "set", "path": "settings/HQ/booking", "value": "by_hand"}).status_code == 200


def test_rules_are_carried_to_another_site(ines: Api) -> None:
    """What cannot go along is said before; the copy names what it named, and findings say what is not there."""
    lost = ines.get("/api/drafts/d-1/lost", to="GL").json["lost"]
    assert any("another site" in n["says"] for n in lost), lost
    made = ines.post("/api/drafts", {"of": "d-1", "name": "As at the quay", "to": "GL"}).json["id"]
    there = draft(ines, made)
    assert there["site"] == "GL" and sum(there["stops"].values()) >= 1
    book = ines.get(f"/api/drafts/{made}/file").json
    assert {p["site"] for p in book["step_plans"]} == {"GL"} and {x.get("site") for x in book["settings"]} <= {
        "GL",
        None,
    }
    found = {f["says"] for f in ines.get(f"/api/drafts/{made}/findings").json["findings"]}
    assert all(any(says in n["says"] for says in found) for n in lost)
    assert any(n["says"].startswith("Bin rules, rule 1, rule ") and "Hazard store is at" in n["says"] for n in lost)
    nowhere = ines.post("/api/drafts", {"of": "d-1", "name": "Nowhere", "to": "XX"})
    assert nowhere.status_code == 403


def test_a_file_is_a_sites_own_and_leaves_what_all_have(ines: Api) -> None:
    """Out and in again changes nothing; a file of one site brought in at another is that site's own."""
    text = ines.get("/api/drafts/d-1/file").text
    before, general = draft(ines, "d-1"), ines.get("/api/general").json["no"]
    same = ines.post("/api/drafts/d-1/file", {"version": before["version"], "text": text}, "PUT").json
    assert same["version"] == before["version"]
    there = draft(ines, "d-3")
    plain = orjson.loads(text)
    for name in ("crews", "step_plans", "bin_rules", "recipes", "flows", "menus"):
        for part in plain.get(name, []):
            part.pop("site", None)
    body = {"version": there["version"], "text": orjson.dumps(plain).decode()}
    brought = ines.post("/api/drafts/d-3/file", body, "PUT").json
    assert brought["version"] == there["version"] + 1
    assert ines.get("/api/general").json["no"] == general
    assert {p.get("site") for p in ines.get("/api/drafts/d-3/file").json["step_plans"]} == {"SW"}
