"""The first page and long tables through the doors: what is counted, chosen, kept, found, sorted and shown a page at a time."""

from __future__ import annotations

from typing import Any

from mindful_crate.api.paging import PageQuery, page_of
from mindful_crate.core.proving.today import FIRST, FLOOR, PROOF
from tests.api.conftest import Api


def today(api: Api, draft: str = "d-1") -> dict[str, Any]:
    answer = api.get("/api/today", draft=draft)
    assert answer.status_code == 200, answer.json
    found: dict[str, Any] = answer.json
    return found


def figures(api: Api) -> dict[str, int]:
    return {n["id"]: n["figure"]["value"] for n in today(api)["numbers"] if n["figure"]}


def test_numbers_by_role_chosen_and_ordered(ines: Api, app: Any) -> None:
    """Each role begins with its own; what a person chooses is theirs alone, and follows them to another machine."""
    assert [n["id"] for n in today(ines)["numbers"]] == list(FIRST["analyst"])
    vik = Api(app.test_client(), "vik")
    assert [n["id"] for n in today(vik)["numbers"]] == list(FIRST["viewer"])
    every = [*PROOF, *FLOOR]
    mine = ["blocked", "stops", "no such number", "blocked"]
    assert ines.post("/api/me/kept/today", {"value": mine}, "PUT").status_code == 204
    elsewhere = Api(app.test_client(), "ines")
    view = today(elsewhere)
    assert [n["id"] for n in view["numbers"]] == ["blocked", "stops"] and view["own"]
    assert {o["id"] for o in view["others"]} == set(every) - {"blocked", "stops"}
    assert [n["id"] for n in today(vik)["numbers"]] == list(FIRST["viewer"])
    ines.post("/api/me/kept/today", {"value": None}, "PUT")
    assert [n["id"] for n in today(ines)["numbers"]] == list(FIRST["analyst"])
    assert ines.post("/api/me/kept/x", {"value": "y" * 9_000}, "PUT").status_code == 422


def test_numbers_follow_the_floor_and_the_draft(ines: Api, app: Any) -> None:
    """Every number is counted; what is done on the floor, and said in the draft, moves those it should."""
    ines.post("/api/me/kept/today", {"value": [*PROOF, *FLOOR]}, "PUT")
    before = figures(ines)
    assert set(before) == {*PROOF, *FLOOR} and before["differs"] == 2 and before["tasks_open"] == 0
    floor = today(ines)["floor"]
    oren = Api(app.test_client(), "oren")

    def does(act: dict[str, Any]) -> None:
        answer = oren.command(floor, act, device="H1").json
        assert answer["entry"]["done"], answer["entry"]["says"]

    def scans(text: str, how: str = "scanned") -> None:
        asked = oren.get(f"/api/worlds/{floor}/handsets/H1").json["question"]["dialogue"]
        does({"kind": "answer", "dialogue": asked, "scan": {"text": text, "how": how}})

    does({"kind": "open_flow", "flow": "F-RECEIVE"})
    scans("PO-1001")
    assert figures(ines)["handsets"] == 1
    scans("SHK-08", "typed")
    scans("1", "typed")
    asked = oren.get(f"/api/worlds/{floor}/handsets/H1").json["question"]["dialogue"]
    does({"kind": "press", "dialogue": asked, "action": "finish"})
    after = figures(ines)
    assert after["tasks_open"] == 1 and after["without_bin"] == 0
    edits = [{"op": "remove", "path": f"recipes/RE-{n}"} for n in (1, 2, 3, 4)]
    body = {"version": ines.get("/api/drafts/d-1").json["version"], "edits": edits, "says": ""}
    edited = ines.post("/api/drafts/d-1/edits", body).json
    now = figures(ines)
    assert now["stops"] == 9 and now["differs"] == 3 and now["rehearsals"] == before["rehearsals"]
    stays = ines.get("/api/drafts/d-1/floor").json["stays"]
    assert stays == []
    ines.post("/api/drafts/d-1/undo", {"version": edited["version"]})
    hours = ines.get(f"/api/worlds/{floor}/hours").json
    assert hours["all"] and sum(h["did"].get("plates", 0) for h in hours["hours"]) == 1
    assert sum(h["did"].get("lines", 0) for h in hours["hours"]) == 1


def test_a_rule_that_was_overruled_says_so_where_it_is_edited(ines: Api, app: Any) -> None:
    """What the floor did instead stands with the facts of the rule, in every draft of the site."""
    floor = today(ines)["floor"]
    oren = Api(app.test_client(), "oren")

    def asked() -> Any:
        return oren.get(f"/api/worlds/{floor}/handsets/H5").json["question"]

    def does(act: dict[str, Any]) -> None:
        answer = oren.command(floor, act, device="H5").json
        assert answer["entry"]["done"], answer["entry"]["says"]

    def scans(text: str, how: str = "scanned") -> None:
        does({"kind": "answer", "dialogue": asked()["dialogue"], "scan": {"text": text, "how": how}})

    def press(action: str) -> None:
        does({"kind": "press", "dialogue": asked()["dialogue"], "action": action})

    does({"kind": "open_flow", "flow": "F-RECEIVE"})
    scans("PO-1005")
    scans("ANC-10", "typed")
    scans("5", "typed")
    press("finish")
    does({"kind": "leave_flow", "dialogue": asked()["dialogue"]})
    does({"kind": "open_flow", "flow": "F-PUTAWAY"})
    scans(asked()["picks"][-1]["value"])
    shown = asked()["expect"]
    for n in range(1, 20):  # the first that is free, whatever other tests have put away
        other = f"R-05-{n:02}-2"
        act = {"kind": "answer", "dialogue": asked()["dialogue"], "scan": {"text": other, "how": "scanned"}}
        if oren.command(floor, act, device="H5").json["entry"]["done"]:
            break
    press("yes")
    facts = ines.get("/api/drafts/d-1/chapters/bin-rules/facts", tab="put_away").json["facts"]
    told = [f["overruled"] for f in facts if f["overruled"]]
    assert told == [f"Overruled once on the floor: no reason asked. Last `{other}` instead of `{shown}`, by @oren."]


def test_long_tables_a_page_at_a_time(ines: Api) -> None:
    """Pages fit together; a column is sorted by number or by letter, and filtered as asked; a column that is none is refused."""
    path = "/api/ground/tables/stock"
    whole = ines.get(path, most=200).json
    pages = [
        ines.get(path, start=at, most=100, sort="quantity", down=True).json for at in range(0, whole["total"], 100)
    ]
    rows = [row for page in pages for row in page["rows"]]
    at = whole["columns"].index("quantity")
    assert len(rows) == whole["total"] and len({tuple(r) for r in rows}) == whole["total"]
    counts = [int(r[at]) for r in rows]
    assert counts == sorted(counts, reverse=True)
    item = whole["columns"].index("item")
    only = ines.get(path, column="item", op="begins", value="rope-1").json
    assert 0 < only["total"] < whole["total"] and all(r[item].startswith("ROPE-1") for r in only["rows"])
    lot = whole["columns"].index("lot")
    empty, filled = (ines.get(path, column="lot", op=op).json for op in ("empty", "filled"))
    assert empty["total"] + filled["total"] == whole["total"] and all(r[lot] for r in filled["rows"])
    assert ines.get(path, column="colour", value="red").status_code == 422
    floor = today(ines)["floor"]
    stock = ines.get(f"/api/worlds/{floor}/stock", sort="item", most=5).json
    assert [r["item"] for r in stock["rows"]] == sorted(r["item"] for r in stock["rows"]) and stock["total"] > 700
    found = ines.get(f"/api/worlds/{floor}/stock", find="quarantine").json
    assert 0 < found["total"] < stock["total"], "zones and statuses are found too"


def test_messages_and_documents_a_part_at_a_time(ines: Api) -> None:
    """The parts are the whole, in its order; how many there are is told with each."""
    world = ines.world()
    for _ in range(3):
        assert ines.command(world, {"kind": "try_order", "order_kind": "purchase"}).json["entry"]["done"]
    for path, name, total in (("host", "messages", "messages_total"), ("documents", "docs", "total")):
        asked = {"state": "all"} if path == "documents" else {}
        whole = ines.get(f"/api/worlds/{world}/{path}", **asked).json
        count = len(whole[name])
        assert count == whole[total] >= 3
        parts = [ines.get(f"/api/worlds/{world}/{path}", start=n, most=2, **asked).json for n in range(0, count, 2)]
        assert [row for part in parts for row in part[name]] == whole[name]
        assert {part[total] for part in parts} == {count}


def test_numbers_sort_by_size_and_codes_as_codes() -> None:
    """What only reads like a number is none; empty cells come first, and last when it is turned round."""
    rows = ["NAN", "10", "1E5", "", "9", "1,000", "-3"]
    query = PageQuery(sort="code")
    assert page_of(rows, ("code",), lambda row: (row,), query) == (["", "-3", "9", "10", "1,000", "1E5", "NAN"], 7)
    assert page_of(rows, ("code",), lambda row: (row,), PageQuery(sort="code", down=True))[0][-1] == ""
