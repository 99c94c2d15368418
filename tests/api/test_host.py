"""The host over the API: the studio's view of it, documents and chains, and the door for a real one."""

from __future__ import annotations

import io
import uuid
from typing import Any

from tests.api.conftest import Api


class RealHost:
    """A host's system: a key, no session."""

    def __init__(self, app: Any, key: str) -> None:
        self.client = app.test_client()
        self.headers = {"Authorization": f"Bearer {key}"}

    def get(self, path: str, **query: Any) -> Any:
        return self.client.get(path, query_string=query, headers=self.headers)

    def post(self, path: str, body: Any) -> Any:
        return self.client.post(path, json=body, headers=self.headers)


def new_order(number: str, quantity: int = 400, **more: Any) -> dict[str, Any]:
    line = {"no": 1, "item": "ROPE-12", "unit": "coil", "quantity": quantity, "net_price": "1.20"}
    return {"number": number, "kind": "purchase", "site": "HQ", "partner": "V-100", "promised": "2026-03-09", "lines": [line], **more}  # fmt: skip


def test_the_host_of_a_run(ines: Api) -> None:
    """Orders beside what the floor knows, messages with their content in three forms, and what came back."""
    world = ines.world()
    assert ines.command(world, {"kind": "try_order", "order_kind": "purchase"}).json["entry"]["done"]
    ines.command(world, {"kind": "write_order", "order": new_order("PO-3000")})
    seen = ines.get(f"/api/worlds/{world}/host").json
    orders = {o["order"]["number"]: o for o in seen["orders"]}
    assert (orders["TEST-001"]["state"], orders["TEST-001"]["floor"]) == ("confirmed", "knows it")
    assert (orders["PO-3000"]["state"], orders["PO-3000"]["floor"]) == ("not confirmed", "does not know it")
    assert [m["called"] for m in seen["messages"]] == ["order in"]
    number = seen["messages"][0]["number"]
    content = {f: ines.get(f"/api/worlds/{world}/messages/{number}", form=f).text for f in ("json", "csv", "ubl")}
    assert all("TEST-001" in text for text in content.values())
    assert content["ubl"].count("<cac:OrderLine>") == len(content["csv"].splitlines()) - 1 == 3
    assert ines.get(f"/api/worlds/{world}/messages/M-NONE").json["code"] == "unknown_message"
    down = {"kind": "set_host", "host": {"confirm_seconds": 0, "book_seconds": 2, "down": True}}
    ines.command(world, down)
    ines.command(world, {"kind": "confirm_order", "order": "PO-3000"})
    ines.command(world, {"kind": "wait", "seconds": 7200})
    seen = ines.get(f"/api/worlds/{world}/host", find="po-3000").json
    assert (seen["came_back"], seen["orders"][0]["agrees"], "given up" in seen["orders"][0]["floor"]) == (
        1,
        False,
        True,
    )
    ines.command(world, {"kind": "set_host", "host": {}})
    answer = ines.command(world, {"kind": "repeat_message", "message": seen["messages"][0]["number"]})
    assert answer.json["entry"]["done"]
    assert ines.get(f"/api/worlds/{world}/host", find="po-3000").json["orders"][0]["floor"] == "knows it"
    listed = ines.get(f"/api/worlds/{world}/documents", find="PO-3000", state="all").json["docs"]
    assert {(d["kind"], d["number"]) for d in listed if d["kind"] == "order"} == {("order", "PO-3000")}
    docs = ines.get(f"/api/worlds/{world}/chain", number="po-3000").json["docs"]
    stage = docs[0]["stages"][0]
    assert (stage["word"], stage["who"], docs[0]["after"][0]["kind"]) == ("confirmed", "ines", "message")
    assert ines.get(f"/api/worlds/{world}/chain", number="NOPE").json["code"] == "unknown_document"


def test_a_real_host_with_its_key(app: Any, ines: Api) -> None:
    """Told once though sent twice; refused in words; the receipt fetched and answered; others kept out."""
    tove = Api(app.test_client(), "tove")
    live = next(w["id"] for w in ines.get("/api/worlds").json["worlds"] if w["kind"] == "live")
    tove.command(live, {"kind": "set_host", "host": {"outside": True}})
    key = ines.post("/api/people/counting-house/badge").json["badge"]
    host = RealHost(app, key)
    body = {"message": "ext-1", "topic": "confirm_order", "order": new_order("EXT-1")}
    first, again = host.post("/api/host/orders", body), host.post("/api/host/orders", body)
    assert first.status_code == 200, first.json
    assert (
        first.json
        == again.json
        == {"message": "ext-1", "accepted": True, "says": "The host confirmed `EXT-1`, 1 line.", "waits": False}
    )
    bad = host.post("/api/host/orders", {**body, "message": "ext-2", "order": new_order("EXT-2", 0)}).json
    assert (bad["accepted"], "above zero" in bad["says"]) == (False, True)
    seen = ines.get(f"/api/worlds/{live}/host").json["messages"]
    assert [(m["number"], m["state"]) for m in seen if m["number"].startswith("ext")] == [("ext-2", "refused"), ("ext-1", "answered")]  # fmt: skip
    assert "EXT-1" in ines.get(f"/api/worlds/{live}/messages/ext-1", form="csv").text
    file = (io.BytesIO(b"message,topic\n"), "order.csv")
    told = host.client.post("/api/host/files", data={"file": file}, headers=host.headers)
    assert (told.status_code, told.json["code"]) == (422, "bad_message")

    oren = Api(app.test_client(), "oren")
    scan = {"kind": "open_flow", "flow": "F-RECEIVE"}
    asked = oren.command(live, scan, device="H7").json["handset"]["question"]
    for text in ("EXT-1", "ROPE-12", "400"):
        act = {"kind": "answer", "dialogue": asked["dialogue"], "scan": {"text": text, "how": "typed"}}
        assert oren.command(live, act, device="H7").json["entry"]["done"], text
    press = {"kind": "press", "action": "finish", "dialogue": asked["dialogue"]}
    assert oren.command(live, press, device="H7").json["entry"]["done"]
    letters = host.get("/api/host/messages").json["letters"]
    letter = next(x for x in letters if x["receipt"] and x["receipt"]["lines"][0]["order"] == "EXT-1")
    path = f"/api/host/messages/{letter['message']}/answer"
    assert host.post(path, {"accepted": False}).json["code"] == "no_reason"
    assert "booked receipt" in host.post(path, {"accepted": True}).json["says"]
    assert "a second time" in host.post(path, {"accepted": True}).json["says"]
    assert all(x["message"] != letter["message"] for x in host.get("/api/host/messages").json["letters"])
    assert host.post("/api/host/messages/M-NONE/answer", {"accepted": True}).json["code"] == "unknown_message"

    assert host.get("/api/worlds").status_code == 403
    assert host.get("/api/host/messages", site="XX").status_code == 403
    assert tove.get("/api/host/messages").status_code == 403
    assert RealHost(app, "KEY-" + uuid.uuid4().hex).get("/api/host/messages").status_code == 401
    badge = ines.post("/api/people/oren/badge").json["badge"]
    assert RealHost(app, badge).get("/api/me").status_code == 401
    phone = Api(app.test_client())
    assert phone.post("/api/session/badge", {"badge": key}).json["code"] == "wrong_login"
    tove.command(live, {"kind": "set_host", "host": {}})


def test_settings_and_agreement_of_a_draft(ines: Api) -> None:
    """A layer that is not there yet is made by the first word set in it; the sentence and what holds follow, undo takes it
    back; an unknown bin or item is said."""

    def holds() -> dict[str, Any]:
        levels, facts = ines.get("/api/drafts/d-1/chapters/settings").json["page"]["sections"]
        (line,) = (x for x in levels["matrix"]["lines"] if x["title"].startswith("Another bin"))
        (fact,) = (f for f in facts["facts"] if f["of"] == "Move plates" and f["setting"].startswith("Another bin"))
        return {"set": [c["value"] for c in line["cells"]], "level": fact["level"]}

    before = holds()
    assert before["set"] == [None, None]
    version = ines.get("/api/drafts/d-1").json["version"]
    edits = [{"op": "set", "path": "settings/HQ/other_bin", "value": "never"}]
    draft = ines.post("/api/drafts/d-1/edits", {"version": version, "edits": edits}).json
    assert holds()["set"] == [None, "never"] and holds()["level"] in ("site", "own")
    ines.post("/api/drafts/d-1/undo", {"version": draft["version"]})
    assert holds() == before
    ask = {"item": "ROPE-12", "order": "PO-1007"}
    found = ines.post("/api/drafts/d-1/bench/agreement", ask).json
    assert found["bin"].startswith("B-")
    assert [p["what"] for p in found["pairs"] if not p["holds"]] == ["order and handset"]
    assert ines.post("/api/drafts/d-1/bench/agreement", {**ask, "bin": "zz"}).json["code"] == "unknown_bin"
    assert ines.post("/api/drafts/d-1/bench/agreement", {**ask, "item": "zz"}).json["code"] == "unknown_item"
    assert ines.post("/api/drafts/d-1/bench/agreement", {**ask, "order": "zz"}).json["code"] == "unknown_order"


def test_documents_are_narrowed_and_a_run_that_goes_on_keeps_its_chain(ines: Api) -> None:
    """By kind, state and words; in a run that goes on from an earlier point, who did what before it is still there."""
    world = ines.world()
    ines.command(world, {"kind": "confirm_order", "order": "PO-1007"})
    act = {"kind": "open_flow", "flow": "F-RECEIVE"}
    dialogue = ines.command(world, act, device="H1", person="oren").json["handset"]["question"]["dialogue"]
    for text in ("PO-1007", "ROPE-12", "200"):
        scan = {"kind": "answer", "dialogue": dialogue, "scan": {"text": text, "how": "typed"}}
        assert ines.command(world, scan, device="H1", person="oren").json["entry"]["done"], text
    press = {"kind": "press", "action": "finish", "dialogue": dialogue}
    ines.command(world, press, device="H1", person="oren")

    def listed(in_: str = world, **query: str) -> list[str]:
        return [d["number"] for d in ines.get(f"/api/worlds/{in_}/documents", **query).json["docs"]]

    (receipt,) = listed(kind="receipt", state="all")
    (task,) = listed(kind="task")
    assert listed(kind="receipt") == []
    assert listed(kind="plate") == []
    assert listed(find="rope", kind="receipt", state="done") == [receipt]
    assert listed(find=task.lower()) == [task]
    assert ines.get(f"/api/worlds/{world}/documents", kind="barge").status_code == 422

    seq = ines.get(f"/api/worlds/{world}").json["seq"]
    child = ines.post(f"/api/worlds/{world}/branch", {"seq": seq, "draft": None}).json["id"]
    ines.command(child, {"kind": "try_order", "order_kind": "purchase"})
    docs = {d["number"]: d for d in ines.get(f"/api/worlds/{child}/chain", number=task).json["docs"]}
    made = docs[task]["stages"][0]
    assert (made["word"], made["who"], made["device"]) == ("made", "oren", "H1")
    assert {r["number"] for r in docs[task]["before"]} == {docs[receipt]["before"][0]["number"]}
    short = ines.get(f"/api/worlds/{child}/chain", number=task, short="true").json["docs"]
    assert {d["kind"] for d in short} == {"order", "receipt", "task"}
    assert "TEST-001" in listed(child, kind="order") and "TEST-001" not in listed(kind="order", state="all")
    assert ines.get("/api/worlds/none/documents").status_code == 404


def test_an_announced_plate_over_the_api(ines: Api) -> None:
    """Announced in one act, told in the message log as despatch advice, scanned on the handset with one code."""
    world = ines.world()
    ines.command(world, {"kind": "confirm_order", "order": "PO-1009"})
    assert ines.command(world, {"kind": "announce_order", "order": "PO-1009"}).json["entry"]["done"]
    seen = ines.get(f"/api/worlds/{world}/host", state="answered").json["messages"]
    notice = next(m for m in seen if m["called"] == "advance notice")
    assert (notice["way"], notice["subject"]) == ("to the floor", "PO-1009")
    text = ines.get(f"/api/worlds/{world}/messages/{notice['number']}", form="ubl").text
    assert text.count("<cbc:TransportHandlingUnitTypeCode>") == 2
    label = text.split("<cac:TransportHandlingUnit>")[1].split('<cbc:ID schemeID="SSCC">')[1].split("</cbc:ID>")[0]
    act = {"kind": "open_flow", "flow": "F-RECEIVE"}
    asked = ines.command(world, act, device="H1", person="oren", tray=True).json["handset"]
    assert label in str(asked["tray"])
    scan = {
        "kind": "answer",
        "dialogue": asked["question"]["dialogue"],
        "scan": {"text": f"(00){label}", "how": "scanned"},
    }
    answer = ines.command(world, scan, device="H1", person="oren").json
    assert "as announced" in answer["entry"]["says"]
    assert answer["handset"]["question"]["plate"] == label
    assert len(answer["handset"]["question"]["so_far"]) == 1
