"""The API: doors on every route, problems in words, the bench, commands, rehearsals, the stream."""

from __future__ import annotations

import json
from typing import Any

import psycopg
import pytest

from mindful_crate.api import app as application
from mindful_crate.api.rights import ROLES, Right
from mindful_crate.api.wiring import wired
from mindful_crate.store.worlds import Worlds
from tests.api.conftest import HEADER, Api
from tests.playbook import barcode

OPEN = {
    ("/api/health", "GET"), ("/api/welcome", "GET"), ("/api/session", "POST"), ("/api/session/badge", "POST"),
    ("/api/session", "DELETE"), ("/api/first", "POST"),
}  # fmt: skip
"""Routes that need no right: who is there, and coming in and out."""


@pytest.mark.parametrize("role", sorted(ROLES))
def test_every_route_keeps_its_door(app: Any, role: str) -> None:
    """Each route declares a right; a role without it is refused, one with it is not; signed out, nobody enters."""
    login = {
        "analyst": "ines",
        "supervisor": "tove",
        "floor": "oren",
        "viewer": "vik",
        "buyer": "petra",
        "host": "counting-house",
    }[role]
    inside, outside = Api(app.test_client(), login), Api(app.test_client())
    walked = 0
    for rule in app.url_map.iter_rules():
        for method in rule.methods - {"HEAD", "OPTIONS"}:
            if not rule.rule.startswith("/api/") or (rule.rule, method) in OPEN:
                continue
            right: Right = app.view_functions[rule.endpoint].needs
            path = (
                rule.rule.replace("<id>", "none")
                .replace("<device>", "H1")
                .replace("<seq>", "1")
                .replace("<pin>", "1")
                .replace("<message>", "M-1")
                .replace("<order>", "PO-1")
            )
            query = {"symbol": "code128", "text": "x", "field": "wants"}
            denied = outside.client.open(path, method=method, json={}, headers=HEADER, query_string=query)
            assert denied.status_code in (401, 422), (path, method)
            answer = inside.client.open(path, method=method, json={}, headers=HEADER, query_string=query)
            walked += 1
            if right not in ROLES[role] and answer.status_code != 422:
                assert answer.status_code == 403, (path, method, answer.json)
            assert answer.status_code != 401
    assert walked > 20


def test_rights_are_checked_before_anything_is_done(app: Any) -> None:
    """With well-formed bodies: a viewer changes nothing, a floor worker neither edits nor makes worlds."""
    edits = {"version": 1, "edits": [{"op": "set", "path": "step_plans/SP-1/put_away/on", "value": False}]}
    for login in ("vik", "oren"):
        api = Api(app.test_client(), login)
        assert api.post("/api/drafts/d-1/edits", edits).status_code == 403
        assert api.post("/api/drafts/d-1/in-force", {"version": 1}).status_code == 403
        assert api.post("/api/worlds", {"name": "x", "draft": "d-1"}).status_code == 403
    assert Api(app.test_client(), "tove").post("/api/drafts/d-1/edits", edits).status_code == 403


def test_signing_in(app: Any) -> None:
    """Wrong name and wrong password read alike; signing out ends it; foreign pages cannot act."""
    api = Api(app.test_client())
    wrong = [api.post("/api/session", {"login": n, "password": p}) for n, p in (("ines", "no"), ("nobody", "quay"))]
    assert {(w.status_code, w.json["title"]) for w in wrong} == {(422, "Name or password is wrong.")}
    assert api.client.post("/api/session", json={"login": "ines", "password": "quay"}).status_code == 403
    api = Api(app.test_client(), "INES")
    assert api.get("/api/me").json["role"] == "analyst"
    assert api.post("/api/session", method="DELETE").status_code == 204
    assert api.get("/api/me").status_code == 401


def test_live_worlds_are_for_the_floor(app: Any, ines: Api) -> None:
    """The analyst may look at the live floor, not act on it; a floor worker scans there with their own hands only."""
    live = next(w["id"] for w in ines.get("/api/worlds").json["worlds"] if w["kind"] == "live")
    opens = {"kind": "open_flow", "flow": "F-RECEIVE"}
    assert ines.command(live, opens, device="H1").status_code == 403
    assert ines.command(live, {"kind": "confirm_order", "order": "PO-1007"}).status_code == 403
    oren = Api(app.test_client(), "oren")
    assert oren.command(live, {"kind": "confirm_order", "order": "PO-1007"}).status_code == 403
    assert oren.command(live, opens, device="H1", person="mara").status_code == 403
    done = oren.command(live, opens, device="H1").json
    assert done["entry"]["done"] and done["handset"]["question"]["asks"] == "order"
    tove = Api(app.test_client(), "tove")
    assert tove.command(live, {"kind": "confirm_order", "order": "PO-1007"}).json["entry"]["done"]
    waits = tove.command(live, {"kind": "wait", "seconds": 5}).json
    assert waits["entry"]["code"] == "live_clock"
    assert ines.post(f"/api/worlds/{live}/branch", {"seq": 0}).json["code"] == "live_world"


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "part"),
    [
        ("GET", "/api/drafts/none", None, 404, "no such draft"),
        ("GET", "/api/worlds/none", None, 404, "no such world"),
        ("GET", "/api/rehearsals/none", None, 404, "no such rehearsal"),
        ("GET", "/api/nothing", None, 404, "Not Found"),
        ("POST", "/api/worlds", {"name": ""}, 422, "name"),
        ("POST", "/api/worlds", {"name": "x", "draft": "d-1", "oops": 1}, 422, "oops"),
        ("POST", "/api/drafts/d-1/bench/bin", {"item": "NONE", "quantity": 1}, 422, "no item `NONE`"),
        ("POST", "/api/drafts/d-1/bench/bin", {"item": "ROPE-12", "quantity": 0}, 422, "quantity"),
        ("POST", "/api/drafts/d-1/bench/bin", {"item": "ROPE-12", "quantity": 1, "order": "PO-0"}, 422, "no order"),
        ("POST", "/api/drafts/d-1/bench/bin", {"item": "ROPE-12", "quantity": 1, "plate_kind": "SLED"}, 422, "kind of plate"),
        ("GET", "/api/drafts/d-1/choices?field=colour", None, 422, "No word"),
        ("GET", "/api/barcode.svg?text=(01)1&symbol=gs1datamatrix", None, 422, "cannot be drawn"),
        ("POST", "/api/rehearsals", {"text": "{"}, 422, "neither JSON nor YAML"),
        ("PUT", "/api/drafts/d-1/file", {"version": 1, "text": "name: [x]"}, 422, "not text"),
        ("POST", "/api/drafts/d-1/edits", {"version": 1, "edits": [{"op": "set", "path": "bin_rules/NO/rules"}]}, 422, "nothing at"),
    ],
)  # fmt: skip
def test_problems_are_told_in_words(ines: Api, method: str, path: str, body: Any, status: int, part: str) -> None:
    """Bad requests are answered as problem+json with a sentence, never with a bug."""
    answer = (
        ines.client.open(path, method=method, json=body, headers=HEADER)
        if body
        else ines.client.open(path, method=method)
    )
    assert answer.status_code == status, answer.json
    assert answer.mimetype == "application/problem+json"
    assert part in answer.json["title"]


def test_the_bench_answers_from_the_draft(ines: Api) -> None:
    """Which bin, by which rule, why not the others; on the opening state and on a world as it stands."""
    question = {"item": "ROPE-12", "quantity": 2000, "order": "PO-1007"}
    answer = ines.post("/api/drafts/d-1/bench/bin", question).json
    assert answer["why"]["bin"] == "B-02-01-1"
    assert (answer["told"], answer["weight_kg"], answer["height_mm"]) == ("2,000 m", "215.0", 999)
    assert [look["outcome"] for look in answer["why"]["explanation"]["looks"]] == [
        "does_not_apply",
        "does_not_apply",
        "chosen",
        None,
        None,
        None,
    ]
    world = ines.world()
    ines.command(world, {"kind": "block_bin", "bin": "B-02-01-1", "reason": "wet"})
    there = ines.post("/api/drafts/d-1/bench/bin", {**question, "world": world}).json
    assert there["why"]["bin"] == "B-01-03-1"
    loose = ines.post("/api/drafts/d-1/bench/bin", {**question, "quantity": 3, "plate_kind": None}).json
    assert loose["says"] == "No bin: the worker is asked."


def test_search_finds_what_a_site_has_and_what_is_on_its_floor(ines: Api) -> None:
    """Items by name, orders by number and partner, bins by code, a plate of the live floor; each with its page; of this site
    alone."""

    def found(text: str) -> dict[str, list[str]]:
        kinds: dict[str, list[str]] = {}
        for hit in ines.get("/api/drafts/d-1/search", find=text).json["hits"]:
            kinds.setdefault(hit["kind"], []).append(hit["link"])
        return kinds

    assert "/catalogue/items?find=ROPE-12" in found("braided rope 12")["item"]
    assert (
        found("po-1007")["order"][0] == "/orders?find=PO-1007"
        and "/orders?find=PO-1007" in found("brightwater")["order"]
    )
    assert found("B-02-01-1")["bin"] == ["/stock?find=B-02-01-1"] and "order" not in found("GL-501")
    (link,) = found("LP-000001")["plate"]
    assert link.startswith("/documents?world=") and link.endswith("&doc=LP-000001")
    assert ines.get("/api/drafts/d-1/search", find="x").status_code == 422 and found("nothing like it") == {}


def test_drafts_are_copied_named_and_closed(ines: Api, app: Any) -> None:
    """A copy says what the other said; a name is one draft's of its site; the last one of a site stays; what is closed is
    listed no more and still read."""
    vik = Api(app.test_client(), "vik")
    assert vik.post("/api/drafts", {"of": "d-1", "name": "Mine"}).status_code == 403
    assert ines.post("/api/drafts", {"of": "d-1", "name": " "}).json["code"] == "no_name"
    made = ines.post("/api/drafts", {"of": "d-1", "name": "  Summer   rules "}).json["id"]
    first, copy = (ines.get(f"/api/drafts/{id_}").json for id_ in ("d-1", made))
    assert (copy["name"], copy["rulebook"], copy["can_undo"]) == ("Summer rules", first["rulebook"], False)
    assert ines.post("/api/drafts", {"of": made, "name": "summer rules"}).json["code"] == "name_taken"
    assert (
        ines.client.put(f"/api/drafts/{made}", json={"name": first["name"]}, headers=HEADER).json["code"]
        == "name_taken"
    )
    assert ines.client.put(f"/api/drafts/{made}", json={"name": "Autumn"}, headers=HEADER).json["name"] == "Autumn"
    assert made in [d["id"] for d in ines.get("/api/drafts").json["drafts"]]
    assert ines.client.delete(f"/api/drafts/{made}", headers=HEADER).status_code == 204
    assert made not in [d["id"] for d in ines.get("/api/drafts").json["drafts"]]
    assert ines.get(f"/api/drafts/{made}").json["name"] == "Autumn"
    assert ines.client.delete("/api/drafts/d-2", headers=HEADER).json["code"] == "only_draft"


def test_a_chapter_is_answered_edited_and_looked_at(ines: Api) -> None:
    """What is added says where it is; a look answers what would follow and keeps nothing; an edit sends little back, without
    the page; a chapter there is not is refused."""
    head = ines.get("/api/drafts/d-1").json
    page = ines.get("/api/drafts/d-1/chapters/scanner").json["page"]
    flow = page["sections"][0]["rows"][0]
    plan = ines.get("/api/drafts/d-1/chapters/steps").json["page"]["sections"][1]["rows"][0]
    (remove,) = (a for a in plan["acts"] if a["id"] == "remove")
    assert remove["look"]
    looked = ines.post("/api/drafts/d-1/edits", {"version": head["version"], "edits": remove["edits"], "look": True})
    assert looked.json["version"] == head["version"] and looked.json["follows"] and len(looked.data) < 3_000
    assert ines.get("/api/drafts/d-1/chapters/scanner").json["page"] == page
    add = {"op": "add", "path": f"{flow['path']}/prompts", "value": "quantity"}
    added = ines.post("/api/drafts/d-1/edits", {"version": head["version"], "edits": [add, add]})
    assert len(set(added.json["made"])) == 2 and len(added.data) < 3_000
    after = ines.get("/api/drafts/d-1/chapters/scanner").json["page"]["sections"][0]["rows"][0]
    assert [r["path"] for r in after["lists"][0]["rows"]][-2:] == added.json["made"]
    found = [f for f in ines.get("/api/drafts/d-1/findings").json["findings"] if f["chapter"] == "scanner"]
    assert added.json["findings"]["scanner"] == len(found) > 0 and all(
        f["link"] == f"/scanner/{flow['id']}" for f in found
    )
    ines.post("/api/drafts/d-1/undo", {"version": added.json["version"]})
    assert ines.get("/api/drafts/d-1/chapters/scanner").json["page"] == page
    assert ines.get("/api/drafts/d-1/chapters/dancing").json["code"] == "unknown_chapter"
    facts = ines.get("/api/drafts/d-1/chapters/bin-rules/facts", tab="put_away").json["facts"]
    rules = ines.get("/api/drafts/d-1/chapters/bin-rules", tab="put_away").json["page"]["sections"][0]["rows"]
    assert {f["path"] for f in facts} == {r["path"] for r in rules if not r["off"]}
    assert all("open lines" in f["says"] for f in facts)
    places = ines.get("/api/drafts/d-1/places").json["places"]
    assert {"rule 3", "plan", "flow", "crew"} <= {p["kind"] for p in places}


def test_edits_from_two_windows(app: Any, ines: Api) -> None:
    """The second window's stale edit is refused with what changed meanwhile; undo and redo work from both."""
    version = ines.get("/api/drafts/d-1").json["version"]
    edit = {
        "version": version,
        "edits": [{"op": "set", "path": "flows/F-PUTAWAY/other_bin", "value": "never"}],
        "says": "Another bin: never.",
    }
    view = ines.post("/api/drafts/d-1/edits", edit).json
    flows = ines.get("/api/drafts/d-1/chapters/scanner").json["page"]["sections"][0]["rows"]
    assert "is never taken" in "".join(p["text"] for f in flows for p in f["parts"])
    stale = Api(app.test_client(), "ines").post("/api/drafts/d-1/edits", edit)
    assert stale.status_code == 409
    assert stale.json["changed"] == ["@ines: Another bin: never."]
    undone = ines.post("/api/drafts/d-1/undo", {"version": view["version"]}).json
    assert undone["can_redo"] and not undone["differs_from_force"]
    ines.post("/api/drafts/d-1/redo", {"version": undone["version"]})
    again = ines.post("/api/drafts/d-1/undo", {"version": undone["version"] + 1}).json
    assert not again["differs_from_force"]


def test_a_rulebook_goes_out_and_comes_in(ines: Api) -> None:
    """The file is the draft; brought in again after a change it is the draft again, and can be undone."""
    before = ines.get("/api/drafts/d-1").json
    text = ines.get("/api/drafts/d-1/file").text
    assert json.loads(text)["bin_rules"][0]["rules"][2]["id"] == "BR-3"
    changed = text.replace('"Hazard crew"', '"Red crew"')
    view = ines.post("/api/drafts/d-1/file", {"version": before["version"], "text": changed}, "PUT").json
    assert view["rulebook"] != before["rulebook"]
    back = ines.post("/api/drafts/d-1/undo", {"version": view["version"]}).json
    assert back["rulebook"] == before["rulebook"]


def run_pallet(api: Api, world: str, ground: Any) -> list[Any]:
    """A pallet of rope received on handset H1 with Oren's hands, one scan refused."""
    said = [api.command(world, {"kind": "confirm_order", "order": "PO-1007"})]
    hands = {"device": "H1", "person": "oren"}
    said.append(api.command(world, {"kind": "open_flow", "flow": "F-RECEIVE"}, **hands))
    for text in ("PO-1007", barcode(ground, "ROPE-12", "coil"), "P-02-01-1", "10"):
        dialogue = said[-1].json["handset"]["question"]["dialogue"]
        said.append(
            api.command(
                world, {"kind": "answer", "dialogue": dialogue, "scan": {"text": text, "how": "scanned"}}, **hands
            )
        )
    said.append(api.command(world, {"kind": "press", "dialogue": dialogue, "action": "finish"}, **hands))
    return said


def test_a_run_pinned_kept_and_replayed(ines: Api, ground: Any) -> None:
    """The desk from end to end: commands, log, why, pins, keeping, replay green, a changed rule red, rewinding."""
    world = ines.world()
    said = run_pallet(ines, world, ground)
    assert [s.json["entry"]["done"] for s in said] == [True, True, True, True, False, True, True]
    log = ines.get(f"/api/worlds/{world}/log", after=0).json
    assert [e["seq"] for e in log["entries"]] == list(range(1, log["seq"] + 1))
    refused = next(e for e in log["entries"] if not e["done"])
    finished = next(e for e in log["entries"] if e["trails"])
    assert (finished["who"], finished["actor"], finished["device"]) == ("oren", "ines", "H1")
    why = ines.get(f"/api/worlds/{world}/entries/{finished['seq']}/why").json
    assert why["bin"] == finished["trails"][0]["bins"][0] == "B-02-01-1"
    assert ines.get(f"/api/worlds/{world}/entries/1/why").json["code"] == "no_trail"
    stock = ines.get(f"/api/worlds/{world}/stock", find="LPR-000417").json
    assert [(r["bin"], r["told"]) for r in stock["rows"]] == [("RCV-01", "2,000 m")]

    pins = f"/api/worlds/{world}/pins"
    ines.post(pins, {"seq": refused["seq"], "expectation": {"kind": "refused", "code": refused["code"]}})
    ines.post(pins, {"seq": finished["seq"], "expectation": {"kind": "chosen", "zone": "BLK", "rule": "", "bin": ""}})
    stock_pin = {
        "kind": "stock",
        "bin": {"kind": "bin", "bin": "RCV-01"},
        "item": "ROPE-12",
        "quantity": 2000,
        "lot": "",
    }
    view = ines.post(pins, {"seq": None, "expectation": stock_pin}).json
    assert [p["seq"] for p in view["pins"]] == [refused["seq"], finished["seq"], None]
    assert ines.post(pins, {"seq": 999, "expectation": stock_pin}).json["code"] == "no_such_entry"
    kept = ines.post(f"/api/worlds/{world}/rehearsal", {"name": "Rope, kept!"}).json
    assert (kept["head"]["id"], kept["head"]["pins"], kept["shown"]["verdict"]) == ("rope-kept", 3, "passed")

    version = ines.get("/api/drafts/d-1").json["version"]
    edit = {"op": "set", "path": "bin_rules/BL-1/rules/BR-3/targets/T-5/look_in/zones", "value": ["RSV"]}
    changed = ines.post("/api/drafts/d-1/edits", {"version": version, "edits": [edit]}).json
    red = ines.post("/api/rehearsals/rope-kept/run", {"rulebook": "d-1"}).json["head"]["last"]
    assert red["verdict"] == "failed" and red["first_difference"] == f"s{finished['seq']}"
    assert ines.get(f"/api/worlds/{world}").json["behind_draft"]
    child = ines.post(f"/api/worlds/{world}/branch", {"seq": finished["seq"] - 1, "draft": "d-1"}).json
    assert (child["parent"], child["seq"], child["behind_draft"]) == (world, finished["seq"] - 1, False)
    desk = ines.post("/api/rehearsals/rope-kept/open", {"rulebook": "d-1"}).json
    assert len(desk["pins"]) == 3 and desk["rehearsal"] == "rope-kept"
    ines.post("/api/drafts/d-1/undo", {"version": changed["version"]})
    green = ines.post("/api/rehearsals/rope-kept/run", {"rulebook": "d-1"}).json["head"]["last"]
    assert green["verdict"] == "passed" and green["current"]
    text = ines.get("/api/rehearsals/rope-kept/file").text
    assert ines.post("/api/rehearsals/rope-kept", method="DELETE").status_code == 204
    assert ines.post("/api/rehearsals", {"text": text}).json["head"]["pins"] == 3
    ines.post("/api/rehearsals/rope-kept", method="DELETE")


def test_every_rehearsal_of_the_demo_runs_and_is_told_in_words(ines: Api) -> None:
    """Each passes on the draft of its site; each step says what it does, each in words of its own kind."""
    drafts = {"HQ": "d-1", "GL": "d-2", "SW": "d-3"}
    for head in ines.get("/api/rehearsals").json["rehearsals"]:
        draft = drafts[head["site"]]
        answer = ines.post(f"/api/rehearsals/{head['id']}/run", {"rulebook": draft})
        assert answer.status_code == 200, (head["id"], answer.json)
        shown = ines.get(f"/api/rehearsals/{head['id']}", draft=draft).json
        assert shown["head"]["last"]["verdict"] == "passed", head["id"]
        assert all(step["does"] for step in shown["steps"])
    kept = ines.get("/api/rehearsals/reserved-goods-moved").json["steps"]
    assert any(step["does"].startswith("The office keeps") for step in kept)


def test_a_command_sent_twice_over_the_api(ines: Api) -> None:
    """The same id is answered as the first time."""
    world = ines.world()
    first = ines.command(world, {"kind": "confirm_order", "order": "PO-1007"}, "once").json["entry"]
    again = ines.command(world, {"kind": "confirm_order", "order": "PO-1007"}, "once").json["entry"]
    assert first == again and first["done"]
    assert ines.post(f"/api/worlds/{world}/rehearsal", {"name": "ok"}).status_code == 200
    assert ines.post(f"/api/worlds/{ines.world()}/rehearsal", {"name": "ok"}).json["code"] == "nothing_done"
    ines.post("/api/rehearsals/ok", method="DELETE")


def test_a_rulebook_that_stops_cannot_be_run(ines: Api) -> None:
    """A missing zone is a finding at its place; no world starts on it, no rehearsal runs on it."""
    version = ines.get("/api/drafts/d-1").json["version"]
    edit = {"op": "set", "path": "bin_rules/BL-1/rules/BR-3/targets/T-5/look_in/zones", "value": ["MOON"]}
    view = ines.post("/api/drafts/d-1/edits", {"version": version, "edits": [edit]}).json
    found = ines.get("/api/drafts/d-1/findings").json["findings"]
    assert next((f["code"], f["severity"], f["chapter"]) for f in found) == ("missing_zone", "blocks", "bin-rules")
    made = ines.post("/api/worlds", {"name": "x", "draft": "d-1"}).json
    assert made["code"] == "rulebook_blocked" and "MOON" in made["title"] and "T-5" in made["place"]
    assert ines.post("/api/rehearsals/rope-by-the-pallet/run", {"rulebook": "d-1"}).json["code"] == "rulebook_blocked"
    ines.post("/api/drafts/d-1/undo", {"version": view["version"]})


def test_a_stopped_database_is_said_in_words(app: Any) -> None:
    """Out of reach: 503 with what to do, and nothing else leaks."""
    lost = application.create("host=127.0.0.1 port=1 dbname=none connect_timeout=1", "s", None)
    wired(lost).database.pool.timeout = 0.3
    answer = lost.test_client().get("/api/health")
    assert answer.status_code == 503
    assert "out of reach" in answer.json["title"]
    wired(lost).database.close()


def test_a_full_disk_is_said_in_words_and_the_same_command_goes_through_later(app: Any, ines: Api, dsn: str) -> None:
    """What PostgreSQL answers when it cannot write reaches the screen as a sentence; nothing of the command is kept,
    and sent again with its id it is done once."""
    world = ines.world()
    act = {"kind": "confirm_order", "order": "PO-1007"}
    with psycopg.connect(dsn, autocommit=True) as conn:
        conn.execute("CREATE FUNCTION full_disk() RETURNS trigger LANGUAGE plpgsql AS "
                     "$$ BEGIN RAISE EXCEPTION 'no space left' USING ERRCODE = '53100'; END $$")  # fmt: skip
        conn.execute("CREATE TRIGGER full_disk BEFORE INSERT ON entry EXECUTE FUNCTION full_disk()")
        try:
            answer = ines.command(world, act, "kept")
        finally:
            conn.execute("DROP TRIGGER full_disk ON entry")
            conn.execute("DROP FUNCTION full_disk")
    assert answer.status_code == 503 and answer.json["code"] == "disk_full"
    assert "nothing was saved" in answer.json["title"]
    assert ines.get(f"/api/worlds/{world}/log").json["entries"] == []
    assert ines.command(world, act, "kept").json["entry"]["seq"] == 1
    assert ines.command(world, act, "kept").json["entry"]["seq"] == 1


def test_the_document_describes_every_route(app: Any) -> None:
    """Each route of the API is in the OpenAPI document with its problems."""
    document = application.document()
    routes = {
        r.rule.replace("<", "{").replace(">", "}") for r in app.url_map.iter_rules() if r.rule.startswith("/api/")
    }
    assert routes <= set(document["paths"])
    for path, operations in document["paths"].items():
        for method, operation in operations.items():
            if (path, method.upper()) not in OPEN:
                assert "401" in operation["responses"], (path, method)


def test_a_number_no_log_can_hold_is_refused(ines: Api) -> None:
    """More than 64 bits: said in words, nothing kept, and the world goes on."""
    world = ines.world()
    seq = ines.get(f"/api/worlds/{world}").json["seq"]
    order = {"number": "BIG-1", "kind": "purchase", "site": "HQ", "partner": "V-100", "promised": "2026-03-09", "lines": [{"no": 1, "item": "ROPE-12", "unit": "coil", "quantity": 10**30}]}  # fmt: skip
    assert "too large" in ines.command(world, {"kind": "write_order", "order": order}).json["title"]
    assert ines.get(f"/api/worlds/{world}").json["seq"] == seq
    order["lines"][0]["quantity"] = 5  # type: ignore[index]
    assert ines.command(world, {"kind": "write_order", "order": order}).json["entry"]["done"]


def test_a_site_gets_its_live_floor_once(ines: Api, app: Any) -> None:
    """On a draft without blocking findings, which is then in force; the floor is in reach of those who work there."""
    body = {"version": ines.get("/api/drafts/d-2").json["version"]}
    assert Api(app.test_client(), "tove").post("/api/drafts/d-2/live", body).status_code == 403
    broken = ines.post("/api/drafts/d-2/edits", {**body, "edits": [{"op": "set", "path": "menus", "value": []}, {"op": "set", "path": "flows", "value": []}], "says": "x"})  # fmt: skip
    assert broken.status_code == 200, broken.json
    refused = ines.post("/api/drafts/d-2/live", {"version": broken.json["version"]}).json
    assert refused["code"] == "blocked", refused
    back = ines.post("/api/drafts/d-2/undo", {"version": broken.json["version"]}).json
    site = ines.get("/api/drafts/d-2").json["site"]
    made = ines.post("/api/drafts/d-2/live", {"version": back["version"]}).json
    assert (made["kind"], made["site"], made["seq"]) == ("live", site, 0)
    assert ines.get("/api/drafts/d-2").json["in_force"] and not ines.get("/api/drafts/d-2").json["differs_from_force"]
    assert next(s for s in ines.get("/api/ground").json["sites"] if s["code"] == site)["live"] == made["id"]
    again = ines.post("/api/drafts/d-2/live", {"version": back["version"]}).json
    assert again["code"] == "live_there" and made["name"] in again["title"]
    rules_reach_the_floor(app, ines, made["id"])


def rules_reach_the_floor(app: Any, ines: Api, live: str) -> None:
    """Put in force from the draft: what changes is said, the floor goes by it, a handset takes it at its next question, a
    second process and the why of what came before go by the rules of then."""
    hand = {"device": "H7"}
    who = {
        "name": "Gil Moss",
        "login": "gil",
        "password": "parts store",
        "role": "floor",
        "sites": ["GL"],
        "crews": ["floor"],
    }
    assert ines.post("/api/people", who).status_code == 200
    gil = Api(app.test_client())
    assert gil.post("/api/session", {"login": "gil", "password": "parts store"}).status_code == 200

    def shown() -> dict[str, Any]:
        view: dict[str, Any] = gil.get(f"/api/worlds/{live}/handsets/H7").json
        return view

    def floor() -> dict[str, Any]:
        now: dict[str, Any] = ines.get("/api/drafts/d-2/floor").json["floor"]
        return now

    flow = next(f["id"] for f in ines.get("/api/drafts/d-2/file").json["flows"] if f["purpose"] == "receive")
    assert gil.command(live, {"kind": "open_flow", "flow": flow}, **hand).json["entry"]["done"]
    question = shown()["question"]
    draft = ines.get("/api/drafts/d-2").json
    edits = [{"op": "set", "path": f"flows/{flow}/name", "value": "Take goods in"}]
    version = ines.post("/api/drafts/d-2/edits", {"version": draft["version"], "edits": edits}).json["version"]
    view = ines.get("/api/drafts/d-2/in-force").json
    assert ("changed", "Take goods in") in [(c["what"], c["after"].split(":")[0]) for c in view["changes"]]
    assert not view["stops"] and floor()["goes_by_it"] and [h["has_taken"] for h in floor()["hands"]] == [True]
    done = ines.post("/api/drafts/d-2/in-force", {"version": version}).json
    assert done["floor"].startswith(f"Revision {done['revision']} is in force here from now on. 1 handset takes it")
    view = ines.get("/api/drafts/d-2/in-force").json
    assert not view["changes"] and floor()["goes_by_it"] and [h["has_taken"] for h in floor()["hands"]] == [False]
    answer = {
        "kind": "answer",
        "dialogue": question["dialogue"],
        "scan": {"text": "GL-501", "how": "scanned"},
        "step": question["step"],
    }
    assert "Look at the new one" in gil.command(live, answer, **hand).json["entry"]["says"]
    assert gil.command(live, {**answer, "step": shown()["question"]["step"]}, **hand).json["entry"]["done"]
    view = ines.get("/api/drafts/d-2/in-force").json
    assert [(h["device"], h["flow"], h["has_taken"]) for h in floor()["hands"]] == [("H7", "Take goods in", True)]
    parts = wired(app)
    with parts.database.transaction() as conn:
        fresh, row = Worlds(parts.database), parts.worlds.row(conn, live)
        rules = fresh.rules_of(conn, row)
        (taken,) = (e.seq for e in fresh.entries(conn, row) if e.command.act.kind == "take_rules")
        names = [next(f.name for f in rules(seq).flows if f.id == flow) for seq in (taken, taken + 1)]
        with fresh.reading(conn, live) as w:
            assert w.rulebook.flow(flow).name == "Take goods in" and names[0] != names[1] == "Take goods in"
