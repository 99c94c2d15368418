"""Who may what and where: rights besides those of the role, where a handset begins, orders that name no site."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from mindful_crate.api.handsets import sync_view
from mindful_crate.api.rights import GIVEN_APART, OFFICE_ACTS, ROLES, SAYS
from mindful_crate.api.wiring import wired
from mindful_crate.core.catalog.ids import DeviceId
from tests.api.conftest import HEADER, Api


def as_it_is(card: dict[str, Any], **other: Any) -> dict[str, Any]:
    """What the form sends of a person."""
    kept = ("name", "role", "sites", "crews", "login", "active", "default_site", "default_flow", "given")
    return {**{name: card[name] for name in kept}, **other}


def card_of(api: Api, id_: str) -> dict[str, Any]:
    found = next(p for p in api.get("/api/people/cards").json["people"] if p["id"] == id_)
    assert isinstance(found, dict)
    return found


def live(api: Api, site: str) -> str:
    return next(str(w["id"]) for w in api.get("/api/worlds").json["worlds"] if (w["kind"], w["site"]) == ("live", site))


def test_a_right_is_given_at_a_site_and_taken_back(app: Any, ines: Api) -> None:
    """Oren may not block a bin and is told who may; given it at HQ he may, there and at once; every right has its words."""
    oren = Api(app.test_client(), "oren")
    floor, block = live(oren, "HQ"), {"kind": "block_bin", "bin": "P-01-01-1", "reason": "wet"}
    refused = oren.command(floor, block)
    assert refused.status_code == 403
    assert "block and free bins, as Anouk Verrel, Tove Lindqvarn may" in refused.json["title"]
    assert oren.get("/api/me").json["acts"] == {"HQ": []}
    before = card_of(ines, "oren")
    given = as_it_is(before, given=[{"site": "HQ", "right": "block"}])
    assert ines.post("/api/people/oren", given, "PUT").json["given"] == [{"site": "HQ", "right": "block"}]
    assert oren.get("/api/me").json["acts"] == {"HQ": ["block_bin"]}
    assert oren.command(floor, block).json["entry"]["done"]
    assert oren.command(floor, {"kind": "confirm_order", "order": "PO-1007"}).status_code == 403
    ines.post("/api/people/oren", as_it_is(before), "PUT")
    assert oren.command(floor, block).status_code == 403
    for body, code in (
        (as_it_is(before, given=[{"site": "GL", "right": "block"}]), "not_her_site"),
        (as_it_is(before, given=[{"site": "HQ", "right": "put_in_force"}]), "role_only"),
        (as_it_is(before, default_site="SW"), "not_her_site"),
    ):
        assert ines.post("/api/people/oren", body, "PUT").json["code"] == code
    cards = ines.get("/api/people/cards").json
    assert [r["right"] for r in cards["rights"]] == [*SAYS] and {r["role"] for r in cards["roles"]} == {*ROLES}
    assert {r["right"] for r in cards["rights"] if r["apart"]} == set(GIVEN_APART)
    assert set(OFFICE_ACTS.values()) <= ROLES["supervisor"]


def test_a_buyer_orders_and_the_floor_receives(app: Any) -> None:
    """Petra confirms an order on the live floor; she neither scans nor finishes a plate, and no hands order anything."""
    petra, oren = Api(app.test_client(), "petra"), Api(app.test_client(), "oren")
    floor = live(petra, "HQ")
    assert petra.command(floor, {"kind": "confirm_order", "order": "PO-1009"}).json["entry"]["done"]
    assert petra.command(floor, {"kind": "open_flow", "flow": "F-RECEIVE"}, device="H9").status_code == 403
    assert petra.command(floor, {"kind": "finish_plate", "plate": "LP-1"}).status_code == 403
    assert petra.post("/api/worlds", {"name": "x", "draft": "d-1"}).status_code == 403
    assert oren.command(floor, {"kind": "confirm_order", "order": "PO-1017"}).status_code == 403


def test_where_a_handset_begins_is_the_persons_own(app: Any, ines: Api) -> None:
    """Kept by a tap, refused for a site that is not hers; what no menu of hers has is said beside her name."""
    oren = Api(app.test_client(), "oren")
    assert oren.post("/api/me/where", {"site": "HQ", "flow": "F-PUTAWAY"}, "PUT").json["default_flow"] == "F-PUTAWAY"
    me = oren.get("/api/me").json
    assert (me["default_site"], me["default_flow"]) == ("HQ", "F-PUTAWAY") and card_of(ines, "oren")["notes"] == []
    assert oren.post("/api/me/where", {"site": "GL", "flow": ""}, "PUT").status_code == 403
    moved = as_it_is(card_of(ines, "oren"), crews=["inspect"])
    ines.post("/api/people/oren", moved, "PUT")
    assert "Put away, which is on no menu of these crews at HQ" in card_of(ines, "oren")["notes"][0]
    assert oren.post("/api/me/where", {}, "PUT").json["default_site"] == ""
    ines.post("/api/people/oren", as_it_is(card_of(ines, "oren"), crews=["quay", "floor"]), "PUT")


def test_the_menu_of_a_handset_is_groups_with_what_waits(app: Any) -> None:
    """Headings of the demo, with orders counted; nothing is counted while a question stands."""
    oren = Api(app.test_client(), "oren")
    floor = live(oren, "HQ")
    menu = oren.get(f"/api/worlds/{floor}/handsets/H7").json["menu"]
    assert list(dict.fromkeys(f["group"] for f in menu)) == ["Goods in", "Goods out", "In the house", ""]
    assert int(menu[0]["open_work"]) == 1 and int(menu[1]["open_work"]) > 10 and menu[-1]["open_work"] == ""
    asked = oren.command(floor, {"kind": "open_flow", "flow": "F-RECEIVE"}, device="H7").json["handset"]
    assert asked["question"] and not any(f["open_work"] for f in asked["menu"])


def order(number: str, **more: Any) -> dict[str, Any]:
    lines = [{"no": 1, "item": "SHK-08", "unit": "pc", "quantity": 10, "net_price": "1.00"}]
    return {
        "number": number,
        "kind": "purchase",
        "site": "",
        "partner": "V-120",
        "promised": "2026-03-09",
        "lines": lines,
        **more,
    }


def test_orders_without_a_site_go_by_their_channel_or_wait(app: Any, ines: Api) -> None:
    """The channel's site is told at once; a channel that none serves waits in a list, is given a site by whoever tells orders,
    and stays where the floor refuses it; the host that tells again is answered as before."""
    tove = Api(app.test_client(), "tove")
    tove.command(live(tove, "HQ"), {"kind": "set_host", "host": {"outside": True}})
    sites = {
        "name": "Two sites",
        "role": "host",
        "login": "two",
        "sites": ["HQ", "GL"],
        "crews": [],
        "password": "long enough",
    }
    ines.post("/api/people", sites)
    key = {**HEADER, "Authorization": f"Bearer {ines.post('/api/people/two/badge').json['badge']}"}
    host = app.test_client()

    def tell(message: str, said: dict[str, Any]) -> dict[str, Any]:
        body = {"message": message, "topic": "confirm_order", "order": said}
        return dict(host.post("/api/host/orders", json=body, headers=key).json)

    assert tell("n-1", order("PO-7001", channel="web"))["accepted"]
    waits = tell("n-2", order("PO-7002", channel="market"))
    assert waits["waits"] and not waits["accepted"] and "no site serves its channel `market`" in waits["says"]
    assert tell("n-2", order("PO-7002", channel="market"))["waits"]
    tell("n-3", order("PO-7003", partner="NOBODY"))
    petra = Api(app.test_client(), "petra")
    listed = petra.get("/api/waiting-orders").json
    assert [o["order"]["number"] for o in listed["orders"]] == ["PO-7002", "PO-7003"] and listed["sites"] == ["HQ"]
    assert Api(app.test_client(), "oren").post("/api/waiting-orders/n-2", {"site": "HQ"}).status_code == 403
    assert petra.post("/api/waiting-orders/n-3", {"site": "HQ"}).json["code"] == "not_taken"
    assert petra.post("/api/waiting-orders/n-2", {"site": "HQ"}).json["accepted"]
    assert petra.post("/api/waiting-orders/n-2", {"site": "HQ"}).json["code"] == "placed_before"
    assert [o["order"]["number"] for o in petra.get("/api/waiting-orders").json["orders"]] == ["PO-7003"]
    live_hq = live(petra, "HQ")
    refused_twice = [petra.post("/api/waiting-orders/n-3", {"site": "HQ"}).json["code"] for _ in range(2)]
    assert refused_twice == ["not_taken"] * 2
    log = petra.get(f"/api/worlds/{live_hq}/log", last=True).json["entries"]
    assert sum("PO-7003" in e["says"] or "NOBODY" in e["says"] for e in log) >= 3, "each time it is told anew"
    again = tell("n-2", order("PO-7002", channel="market"))
    assert again["accepted"] and not again["waits"]
    more = order("PO-7002", channel="market", promised="2026-03-12")
    assert dict(
        host.post("/api/host/orders", json={"message": "n-4", "topic": "change_order", "order": more}, headers=key).json
    )["accepted"], "what is told of it later goes where it is known"
    found = petra.get(f"/api/worlds/{live(petra, 'HQ')}/host", find="PO-700").json["orders"]
    assert sorted(o["order"]["number"] for o in found) == ["PO-7001", "PO-7002"]


def test_an_order_in_a_table_gets_the_site_of_its_channel(ines: Api) -> None:
    """Brought without a site it is served by its channel's; where none serves it the row says what to do and is left out."""
    base = ines.get("/api/ground").json["no"]

    def put(number: str, channel: str) -> Any:
        row = {
            "number": number,
            "kind": "purchase",
            "site": "",
            "partner": "V-120",
            "promised": "2026-03-09",
            "channel": channel,
        }
        line = {"order": number, "no": "1", "item": "SHK-08", "unit": "pc", "quantity": "3"}
        sheets = [{"table": "orders", "rows": [row]}, {"table": "order_lines", "rows": [line]}]
        return ines.post("/api/ground/rows", {"base": base, "says": "", "sheets": sheets})

    wrong = put("PO-7100", "market")
    assert "no site serves its channel `market`" in wrong.text
    done = put("PO-7100", "phone")
    assert done.status_code == 200, done.text
    rows = ines.get("/api/ground/tables/orders", find="PO-7100").json
    assert "HQ" in str(rows["rows"])


def test_handsets_take_new_rules_when_the_settings_say(app: Any, ines: Api) -> None:
    """Put in force with an interval of an hour, a handset keeps its menu and questions, also on a server that reads them from the
    database; the office sees that it is behind; it is due after the hour, and takes them at its menu at a tap."""
    oren = Api(app.test_client(), "oren")
    floor = live(oren, "HQ")

    def shown(device: str = "H5") -> Any:
        return oren.get(f"/api/worlds/{floor}/handsets/{device}").json

    oren.command(floor, {"kind": "open_flow", "flow": "F-PUTAWAY"}, device="H5")
    asked = shown()["question"]
    assert not shown()["sync"]["behind"]
    edits = [
        {"op": "set", "path": "flows/F-PUTAWAY/name", "value": "Store it"},
        {"op": "set", "path": "settings/general/sync", "value": "60"},
    ]
    version = ines.get("/api/drafts/d-1").json["version"]
    edited = ines.post("/api/drafts/d-1/edits", {"version": version, "edits": edits}).json
    done = ines.post("/api/drafts/d-1/in-force", {"version": edited["version"]}).json
    assert "after 60 minutes, at the menu" in done["floor"]
    wired(app).worlds._books.clear()
    after = shown()
    assert after["question"] == asked and after["sync"]["behind"] and 3500 < after["sync"]["due_in"] <= 3600
    left = oren.command(floor, {"kind": "leave_flow", "dialogue": asked["dialogue"]}, device="H5").json["handset"]
    assert "Put away" in [f["name"] for f in left["menu"]]
    hands = {h["device"]: h["has_taken"] for h in ines.get("/api/drafts/d-1/floor").json["floor"]["hands"]}
    assert hands["H5"] is False
    assert "Store it" in [f["name"] for f in shown("H6")["menu"]], "one that was never here is given what is in force"
    with wired(app).database.transaction() as conn, wired(app).worlds.reading(conn, floor) as w:
        given = w.state.devices[DeviceId("H5")].at
        assert [sync_view(w, "H5", given + timedelta(minutes=m)).due_in for m in (59, 60, 90)] == [60, 0, 0]
    taken = oren.command(floor, {"kind": "sync_handset"}, device="H5").json["handset"]
    assert "Store it" in [f["name"] for f in taken["menu"]] and not taken["sync"]["behind"]
    assert not oren.command(floor, {"kind": "sync_handset"}).json["entry"]["done"], "the office has no handset"


def test_a_rehearsal_is_seen_by_whom_it_was_asked_to(app: Any, ines: Api) -> None:
    """Oren sees the live floor; a rehearsal, its stock and its handset only while he is asked in, and he works there then."""
    oren = Api(app.test_client(), "oren")
    live = next(w["id"] for w in ines.get("/api/worlds").json["worlds"] if w["kind"] == "live")
    world = ines.world()
    opens = {"kind": "open_flow", "flow": "F-RECEIVE"}

    def seen() -> list[str]:
        return [w["id"] for w in oren.get("/api/worlds").json["worlds"] if w["id"] in (live, world)]

    assert seen() == [live]
    for path in ("", "/stock", "/handsets/H1", "/log"):
        told = oren.get(f"/api/worlds/{world}{path}")
        assert (told.status_code, "not asked into the rehearsal tried" in told.json["title"]) == (403, True), path
    assert oren.command(world, opens, device="H1").status_code == 403
    assert ines.post(f"/api/worlds/{live}/guests", {"person": "oren"}).json["code"] == "live_world"
    assert ines.post(f"/api/worlds/{world}/guests", {"person": "nobody"}).json["code"] == "unknown_person"
    assert oren.post(f"/api/worlds/{world}/guests", {"person": "oren"}).status_code == 403
    for _ in range(2):
        assert ines.post(f"/api/worlds/{world}/guests", {"person": "oren"}).json["guests"] == ["oren"]
    assert seen() == [world, live]
    assert oren.command(world, opens, device="H1").json["entry"]["done"]
    assert ines.post(f"/api/worlds/{world}/guests/oren", method="DELETE").json["guests"] == []
    assert seen() == [live]
    assert oren.command(world, {"kind": "leave_flow", "dialogue": "D-1"}, device="H1").status_code == 403
    tove = Api(app.test_client(), "tove")
    assert world in [w["id"] for w in tove.get("/api/worlds").json["worlds"]]


def test_a_badge_is_no_answer_and_stays_out_of_the_log(ines: Api) -> None:
    """Scanned where the handset asks for something else, whoever's it is: said, and written nowhere."""
    code = ines.post("/api/people/oren/badge").json["badge"]
    world, hand = ines.world(), {"device": "H1", "person": "oren"}
    dialogue = ines.command(world, {"kind": "open_flow", "flow": "F-RECEIVE"}, **hand).json["handset"]["question"][
        "dialogue"
    ]
    scan = {"kind": "answer", "dialogue": dialogue, "scan": {"text": f" {code.lower()} ", "how": "scanned"}}
    told = ines.command(world, scan, **hand)
    assert told.json["code"] == "badge_scanned" and "sign out first" in told.json["title"]
    assert code not in told.json["title"] and len(ines.get(f"/api/worlds/{world}/log").json["entries"]) == 1
