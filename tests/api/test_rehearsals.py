"""Rehearsals keep their word: opened and kept they stay what they were, pins check what they say, results say what they
speak for."""

from __future__ import annotations

import uuid
from typing import Any

import yaml

from mindful_crate.core.catalog.opening import Ground
from tests.api.conftest import Api
from tests.playbook import barcode


def script(ines: Api, id_: str) -> Any:
    return yaml.safe_load(ines.get(f"/api/rehearsals/{id_}/file").text)


def keep(ines: Api, world: str, **body: Any) -> Any:
    return ines.post(f"/api/worlds/{world}/rehearsal", body)


def change_zone(ines: Api) -> int:
    """The draft's rope goes to the reserve; the version to undo it by."""
    edit = {"op": "set", "path": "bin_rules/BL-1/rules/BR-3/targets/T-5/look_in/zones", "value": ["RSV"]}
    version = ines.get("/api/drafts/d-1").json["version"]
    return int(ines.post("/api/drafts/d-1/edits", {"version": version, "edits": [edit]}).json["version"])


def test_opened_on_a_desk_and_kept_nothing_changes(ines: Api) -> None:
    """Each rehearsal of the demo: steps, ids, references, pins and words; and it passes as before. Steps that follow get
    ids of their own."""
    heads = ines.get("/api/rehearsals", draft="d-1").json["rehearsals"]
    assert len(heads) >= 9
    for head in heads:
        was = script(ines, head["id"])
        desk = ines.post(f"/api/rehearsals/{head['id']}/open", {"rulebook": "d-1"}).json
        assert desk["of"]["version"] == desk["of"]["latest"] == head["version"] and desk["of"]["about"] == head["about"]
        kept = keep(ines, desk["id"], id=head["id"], name=head["name"]).json
        assert kept["shown"]["verdict"] == "passed", (head["id"], kept["result"]["first_difference"])
        assert script(ines, head["id"]) == was, head["id"]
    desk = ines.post("/api/rehearsals/rope-by-the-pallet/open", {"rulebook": "d-1"}).json
    ines.command(desk["id"], {"kind": "wait", "seconds": 60})
    longer = keep(ines, desk["id"], id="rope-by-the-pallet", name="Rope by the pallet").json
    was = [s["id"] for s in script(ines, "rope-by-the-pallet")["steps"]]
    assert len(set(was)) == len(was) == longer["head"]["steps"] and longer["shown"]["verdict"] == "passed"


def test_steps_that_could_not_be_tried_keep_their_place(ines: Api) -> None:
    """Without the step that makes the plate, the one that scans it is not tried; opened and kept it is still there, with
    what it expects."""
    text = ines.get("/api/rehearsals/rope-by-the-pallet/file").text
    broken = yaml.safe_load(text)
    broken |= {
        "id": "broken",
        "name": "Broken",
        "steps": [s for s in broken["steps"] if s["id"] not in ("s2", "s3", "s4", "s5")],
    }
    broken["steps"][-1]["expect"] = [{"kind": "asks", "asks": "task"}]
    assert ines.post("/api/rehearsals", {"text": yaml.safe_dump(broken)}).status_code == 200
    desk = ines.post("/api/rehearsals/broken/open", {"rulebook": "d-1"}).json
    elsewhere = ines.post("/api/rehearsals", {"text": yaml.safe_dump(broken | {"site": "GL", "name": "Elsewhere"})})
    assert elsewhere.json["code"] == "id_taken"
    assert all(p["seq"] is None for p in desk["pins"] if p["expectation"]["kind"] != "asks")
    keep(ines, desk["id"], id="broken", name="Broken")
    again = script(ines, "broken")
    assert [(s["id"], s.get("expect")) for s in again["steps"]] == [(s["id"], s.get("expect")) for s in broken["steps"]]
    ines.post("/api/rehearsals/broken", method="DELETE")
    ines.post("/api/rehearsals", {"text": yaml.safe_dump(broken)})
    assert (
        ines.get(f"/api/worlds/{desk['id']}").json["of"] is None
    )  # another one that has the id of what was cleared away
    ines.post("/api/rehearsals/broken", method="DELETE")


def test_versions_are_kept_and_there_is_a_way_back(ines: Api) -> None:
    """A stump replaces the whole, and is told; the version before comes back; what it proves is not lost; a desk opened
    before somebody else's change does not wipe it."""
    id_ = "bin-blocked-meanwhile"
    whole = ines.get(f"/api/rehearsals/{id_}").json
    desk = ines.post(f"/api/rehearsals/{id_}/open", {"rulebook": "d-1"}).json
    stale = ines.post(f"/api/rehearsals/{id_}/open", {"rulebook": "d-1"}).json
    stump = ines.post(f"/api/worlds/{desk['id']}/branch", {"seq": 3}).json
    assert (stump["of"]["steps"], stump["seq"]) == (whole["head"]["steps"], 3)
    cut = keep(ines, stump["id"], id=id_, name=whole["head"]["name"], version=stump["of"]["latest"]).json
    assert cut["head"]["steps"] < whole["head"]["steps"] and cut["head"]["about"] == whole["head"]["about"]
    meanwhile = keep(ines, stale["id"], id=id_, name=whole["head"]["name"], version=stale["of"]["latest"])
    assert meanwhile.json["code"] == "changed_meanwhile"
    back = ines.post(f"/api/rehearsals/{id_}/versions/{whole['head']['version']}").json
    assert back["head"]["steps"] == whole["head"]["steps"] and back["steps"] == whole["steps"]
    assert [v["version"] for v in back["versions"]][:3] == [whole["head"]["version"] + n for n in (2, 1, 0)]
    assert ines.post(f"/api/rehearsals/{id_}/versions/99").json["code"] == "unknown_version"
    named = ines.post(f"/api/rehearsals/{id_}", {"name": "Blocked", "about": "It finds another."}, method="PUT").json
    assert (named["head"]["name"], named["head"]["about"], named["steps"]) == (
        "Blocked",
        "It finds another.",
        whole["steps"],
    )
    taken = ines.post(f"/api/rehearsals/{id_}", {"name": "rope by the pallet"}, method="PUT")
    assert taken.json["code"] == "name_taken" and ines.get(f"/api/rehearsals/{id_}").json["head"]["name"] == "Blocked"
    assert keep(ines, desk["id"], name="Blocked").json["code"] == "name_taken"
    assert ines.post(f"/api/rehearsals/{id_}", {"name": "  "}, method="PUT").json["code"] == "no_name"


def test_a_pin_of_stock_says_what_it_checks(ines: Api, ground: Ground) -> None:
    """Two plates of one item in one bin: each pin is about its plate, quantity from the data; kept, it is about the plate
    of its step; another lot, status or plate fails."""
    world = ines.world()

    def act(act: dict[str, Any]) -> Any:
        return ines.command(world, act, device="H1", person="oren").json

    ines.command(world, {"kind": "confirm_order", "order": "PO-1001"})
    dialogue = act({"kind": "open_flow", "flow": "F-RECEIVE"})["handset"]["question"]["dialogue"]

    def scan(text: str, how: str = "scanned") -> None:
        act({"kind": "answer", "dialogue": dialogue, "scan": {"text": text, "how": how}})

    for boxes in ("1", "2"):
        scan("PO-1001")
        scan(barcode(ground, "SHK-08", "box"))
        scan(boxes, "typed")
        act({"kind": "press", "dialogue": dialogue, "action": "finish"})
    view = ines.get(f"/api/worlds/{world}").json
    rows = [r for r in view["changes"]["stock"] if r["item"] == "SHK-08"]
    assert [(r["bin"], r["quantity"], r["status"]) for r in rows] == [
        ("RCV-01", 50, "available"),
        ("RCV-01", 100, "available"),
    ]
    for r in rows:
        plate = {"kind": "text", "text": r["plate"]}
        pin = {"kind": "stock", "bin": {"kind": "bin", "bin": r["bin"]}, "item": r["item"], "quantity": r["quantity"], "lot": r["lot"], "plate": plate, "status": r["status"]}  # fmt: skip
        view = ines.post(f"/api/worlds/{world}/pins", {"seq": None, "expectation": pin}).json
    assert rows[0]["plate"] in view["pins"][0]["says"] and "50 pieces of `SHK-08`, available" in view["pins"][0]["says"]
    whole = {"kind": "stock", "bin": {"kind": "bin", "bin": "RCV-01"}, "item": "SHK-08", "quantity": 150}
    ines.post(f"/api/worlds/{world}/pins", {"seq": None, "expectation": whole})
    for wrong in (
        {**whole, "loose": True},
        {**pin, "status": "damaged"},
        {**pin, "bin": {"kind": "bin", "bin": "P-01-01-2"}},
    ):
        ines.post(f"/api/worlds/{world}/pins", {"seq": None, "expectation": wrong})
    checks = ines.get(f"/api/worlds/{world}/checks").json["checks"]
    assert [c["holds"] for c in checks] == [True, True, True, False, False, False]
    assert "stands in `RCV-01`" in checks[-1]["found"]
    keep(ines, world, name="Two plates")
    pinned = script(ines, "two-plates")["at_end"]
    assert [p["plate"]["kind"] for p in pinned[:2]] == ["plate_of", "plate_of"] and "plate" not in pinned[2]


def test_results_on_draft_and_in_force_are_kept_apart(ines: Api) -> None:
    """Running on what is in force leaves the draft's result where it was, and both say on what they ran; after a change
    of the rules the draft's no longer speaks for today."""
    id_ = "wrong-scans"
    change = change_zone(ines)
    rope = ines.post("/api/rehearsals/rope-by-the-pallet/run", {"rulebook": "d-1"}).json
    assert rope["head"]["last"]["verdict"] == "failed" and rope["head"]["last"]["on"].startswith("draft “")
    force = ines.post("/api/rehearsals/rope-by-the-pallet/run", {"rulebook": "in-force", "draft": "d-1"}).json
    assert force["shown"]["verdict"] == "passed" and force["shown"]["on"] == "revision 1"
    assert force["head"]["last"]["verdict"] == "failed" and force["head"]["in_force"]["verdict"] == "passed"
    listed = next(
        h for h in ines.get("/api/rehearsals", draft="d-1").json["rehearsals"] if h["id"] == "rope-by-the-pallet"
    )
    assert (listed["last"]["verdict"], listed["last"]["current"]) == ("failed", True)
    assert [r["on"] for r in force["runs"]][:2] == ["revision 1", rope["shown"]["on"]]
    earlier = ines.get("/api/rehearsals/rope-by-the-pallet", draft="d-1", run=rope["shown"]["id"]).json
    assert earlier["result"]["first_difference"] and earlier["shown"]["id"] == rope["shown"]["id"]
    assert ines.get("/api/rehearsals/rope-by-the-pallet", run=999_999).json["code"] == "unknown_run"
    ines.post(f"/api/rehearsals/{id_}/run", {"rulebook": "d-1"})
    view = ines.get("/api/drafts/d-1").json
    name = {"op": "set", "path": "bin_rules/BL-1/rules/BR-3/targets/T-5/look_in/zones", "value": ["RSV", "BLK"]}
    change = ines.post("/api/drafts/d-1/edits", {"version": view["version"], "edits": [name]}).json["version"]
    stale = ines.get(f"/api/rehearsals/{id_}", draft="d-1").json["head"]["last"]
    assert (stale["current"], stale["stale"]) == (False, "the rules were others")
    undone = ines.post("/api/drafts/d-1/undo", {"version": change}).json["version"]
    ines.post("/api/drafts/d-1/undo", {"version": undone})


def test_a_rehearsal_never_runs_by_another_sites_rules(ines: Api) -> None:
    """Neither run nor opened; the sentence names both sites, and no result is kept."""
    other = next(d["id"] for s in ines.get("/api/ground").json["sites"] if s["code"] == "GL" for d in s["drafts"])
    before = len(ines.get("/api/rehearsals/wrong-scans").json["runs"])
    for way in ("run", "open"):
        told = ines.post(f"/api/rehearsals/wrong-scans/{way}", {"rulebook": other})
        assert (
            told.json["code"] == "other_site"
            and "Halloway Quay" in told.json["title"]
            and "Gull Lane" in told.json["title"]
        )
    assert len(ines.get("/api/rehearsals/wrong-scans").json["runs"]) == before


def test_without_expectations_nothing_is_said_to_have_passed(ines: Api) -> None:
    """A run that expects nothing says so; a refusal that nobody expected to go through is red when it does."""
    world = ines.world()
    ines.command(world, {"kind": "open_flow", "flow": "F-RECEIVE"}, device="H1", person="oren")
    kept = keep(ines, world, name="Only opened").json
    assert (kept["shown"]["verdict"], kept["head"]["pins"]) == ("nothing_expected", 0)
    plain = script(ines, "only-opened")
    plain["steps"][0]["was"] = "refused"
    ines.post("/api/rehearsals", {"text": yaml.safe_dump(plain)})
    assert ines.post("/api/rehearsals/only-opened/run", {"rulebook": "d-1"}).json["shown"]["verdict"] == "failed"
    ines.post("/api/rehearsals/only-opened", method="DELETE")


def test_runs_are_named_and_cleared_away(ines: Api, app: Any) -> None:
    """A run that others went on from goes from the list, and they go on; the live floor stays what it is."""
    world = ines.world()
    ines.command(world, {"kind": "wait", "seconds": 60})
    child = ines.post(f"/api/worlds/{world}/branch", {"seq": 1}).json["id"]
    assert ines.post(f"/api/worlds/{world}", {"name": "The first try"}, method="PUT").json["name"] == "The first try"
    assert ines.post(f"/api/worlds/{world}", {"name": " "}, method="PUT").json["code"] == "no_name"
    assert ines.post(f"/api/worlds/{world}", method="DELETE").status_code == 204
    assert world not in [w["id"] for w in ines.get("/api/worlds").json["worlds"]]
    assert ines.get(f"/api/worlds/{child}/log").json["entries"][0]["seq"] == 1
    live = next(w["id"] for w in ines.get("/api/worlds").json["worlds"] if w["kind"] == "live")
    assert ines.post(f"/api/worlds/{live}", method="DELETE").json["code"] == "live_world"
    assert Api(app.test_client(), "oren").post(f"/api/worlds/{child}", method="DELETE").status_code == 403


def test_a_long_log_is_read_in_windows(ines: Api) -> None:
    """Forwards from the start, or the last of it and then what came before; none is missing, none twice."""
    world = ines.world()
    for _ in range(430):
        ines.command(world, {"kind": "wait", "seconds": 1}, uuid.uuid4().hex)
    first = ines.get(f"/api/worlds/{world}/log").json
    rest = ines.get(f"/api/worlds/{world}/log", after=first["entries"][-1]["seq"]).json
    assert [e["seq"] for e in first["entries"] + rest["entries"]] == list(range(1, 431)) and first["seq"] == 430
    last = ines.get(f"/api/worlds/{world}/log", last=True).json["entries"]
    before = ines.get(f"/api/worlds/{world}/log", last=True, until=last[0]["seq"] - 1).json["entries"]
    assert [e["seq"] for e in before + last] == list(range(1, 431))


def test_a_changed_ground_marks_what_it_touches(ines: Api, app: Any) -> None:
    """An order taken out, an order with another quantity: named at the rehearsals that use them, in the list, and at no
    others; moving over is a version with its way back."""
    ground = ines.get("/api/ground").json
    gone = ines.post("/api/ground/rows", {"base": ground["no"], "sheets": [], "gone": {"orders": ["PO-1002"]}}).json
    assert gone["applied"], gone
    heads = {h["id"]: h for h in ines.get("/api/rehearsals", draft="d-1").json["rehearsals"]}
    assert all(h["behind"] for h in heads.values())
    touched = {id_ for id_, h in heads.items() if "order `PO-1002`" in h["missing"]}
    uses = {id_ for id_ in heads if "PO-1002" in ines.get(f"/api/rehearsals/{id_}/file").text}
    assert touched and touched == uses
    columns = ines.get("/api/ground/tables/order_lines").json["columns"]
    found = ines.get("/api/ground/tables/order_lines", find="PO-1007").json["rows"][0]
    cells = found["cells"] if isinstance(found, dict) else found
    row = dict(zip(columns, cells, strict=True)) | {"quantity": "999"}
    done = ines.post(
        "/api/ground/rows", {"base": gone["no"], "sheets": [{"table": "order_lines", "rows": [row]}], "gone": {}}
    ).json
    assert done["applied"], done
    heads = {h["id"]: h for h in ines.get("/api/rehearsals", draft="d-1").json["rehearsals"]}
    assert "order `PO-1007`" in heads["rope-by-the-pallet"]["changed"]
    moved = ines.post("/api/rehearsals/rope-by-the-pallet/move-over").json
    assert not moved["head"]["behind"] and moved["versions"][0]["says"].startswith("moved over")
    ines.post(f"/api/rehearsals/rope-by-the-pallet/versions/{moved['versions'][1]['version']}")
    assert ines.get("/api/rehearsals/rope-by-the-pallet").json["head"]["behind"]
