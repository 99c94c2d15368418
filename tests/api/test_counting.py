"""Counting and returns over HTTP: the board, a sheet, bins, the calendar of a draft, what it accepts back; who may post, set and change."""

from __future__ import annotations

import io
from typing import Any

import pypdfium2

from tests.api.conftest import HEADER, Api


def brought(api: Api, path: str, content: bytes) -> Any:
    """What is answered to a file."""
    data = {"file": (io.BytesIO(content), "sheet.csv")}
    return api.client.post(path, data=data, headers=HEADER, content_type="multipart/form-data").json


def test_a_sheet_is_made_counted_and_posted(ines: Api) -> None:
    """What is due by each plan; a sheet with its lines by worth of difference; unknown sheets are refused; bins by when they were counted."""
    world = ines.world()
    board = ines.get(f"/api/worlds/{world}/counts").json
    assert board["sheets"] == [] and [p["name"] for p in board["plans"]] == ["Dear goods", "Shelves", "Pallets"]
    act = {"kind": "make_counts", "bins": ["P-01-02-4", "P-01-01-2"]}
    assert ines.command(world, act).json["entry"]["done"]
    (sheet,) = ines.get(f"/api/worlds/{world}/counts").json["sheets"]
    assert (sheet["left"], sheet["posted"], sheet["state"]) == (2, 0, "open")
    rows = ines.get(f"/api/worlds/{world}/bins-to-count", words="P-01-01-2").json["bins"]
    assert [(r["bin"], r["days"], r["due"], r["sheet"]) for r in rows] == [("P-01-01-2", None, True, sheet["count"])]
    inside = ines.get(f"/api/worlds/{world}/counts/{sheet['count']}").json
    assert {x["bin"] for x in inside["lines"]} == {"P-01-02-4", "P-01-01-2"} and all(
        x["counted"] is None for x in inside["lines"]
    )
    assert ines.get(f"/api/worlds/{world}/counts/CS-9").json["code"] == "unknown_count"
    own = f"/api/worlds/{world}/counts/{sheet['count']}"
    page = pypdfium2.PdfDocument(ines.get(f"{own}/sheet.pdf").data)[0].get_textpage().get_text_range()
    assert (
        f"Count sheet {sheet['count']}" in page
        and "P-01-02-4" in page
        and ines.get(f"{own}/sheet.csv").data.startswith(b"line,bin,")
    )
    read = brought(ines, f"{own}/read", b"line,counted\n1,4\n2,\n9,1")
    assert (read["lines"], read["blank"], len(read["wrong"])) == ([{"line": 1, "quantity": 4, "serials": []}], 1, 1)
    assert brought(ines, f"{own}/read", b"")["code"] == "unreadable"
    refused = ines.command(world, {"kind": "post_count", "count": sheet["count"], "lines": []}).json["entry"]
    assert not refused["done"] and refused["code"] == "nothing_counted"
    set_ = {"kind": "adjust_stock", "bin": "P-01-02-3", "item": "WAX-1", "quantity": 40, "why": "one was broken"}
    entry = ines.command(world, set_).json["entry"]
    assert entry["done"] and "less of" in entry["says"] and "one was broken" in entry["says"]
    last = ines.get(f"/api/worlds/{world}/stock/between").json
    assert (last["after"], last["until"], last["rows"]) == (last["seq"] - 1, last["seq"], []), "the host's answer"
    asked = {"find": "wax-1", "after": str(entry["seq"] - 1), "until": str(entry["seq"])}
    last = ines.get(f"/api/worlds/{world}/stock/between", **asked).json
    (row,) = last["rows"]
    assert (row["bin"], row["item"], row["after"], row["more"] < 0) == ("P-01-02-3", "WAX-1", "40 pieces", True)
    assert row["change"].startswith("−") and last["was"]["free"] != last["levels"]["free"]
    assert ines.get(f"/api/worlds/{world}/stock/between", after="0", until="1").json["rows"] == [], (
        "a sheet moves nothing"
    )
    wrong = {"no_such_entry": {"until": "99"}, "before_after": {"after": "3", "until": "2"}}
    for code, asked in wrong.items():
        assert ines.get(f"/api/worlds/{world}/stock/between", **asked).json["code"] == code
    done = ines.get(f"/api/worlds/{world}/counts", finished="true").json
    assert len(done["sheets"]) == 2 and done["finished"] == 1


def test_the_calendar_of_a_draft_and_what_it_accepts_back(ines: Api) -> None:
    """Days with bins and minutes, and whether all are counted in time; an item from a customer is judged, and what is not there is refused."""
    plans = ines.post("/api/drafts/d-1/bench/counts", {}).json["plans"]
    dear = plans[0]
    assert len(dear["days"]) == 28 and dear["days"][0]["bins"] == 20 and dear["late"] is None and dear["first"]
    judged = ines.post("/api/drafts/d-1/bench/returns", {"item": "SHK-08", "partner": "C-510"}).json
    assert judged["becomes"] == "refused" and judged["judged"]["number"] == 4 and "Fennick" in judged["judged"]["says"]
    assert ines.post("/api/drafts/d-1/bench/returns", {"item": "NONE"}).json["code"] == "unknown_item"
    assert ines.post("/api/drafts/d-1/bench/returns", {"partner": "C-9999"}).json["code"] == "unknown_partner"


def test_an_analyst_neither_posts_nor_sets_on_the_live_floor(app: Any, ines: Api) -> None:
    """Rights of their own: the refusal names what is missing; a supervisor may."""
    tove = Api(app.test_client(), "tove")
    floor = next(w["id"] for w in ines.get("/api/worlds").json["worlds"] if w["kind"] == "live" and w["site"] == "HQ")
    act = {"kind": "make_counts", "bins": ["P-01-01-2"]}
    assert ines.command(floor, act).status_code == 403
    assert tove.command(floor, act).json["entry"]["done"]
    set_ = {"kind": "adjust_stock", "bin": "P-01-02-3", "item": "WAX-1", "quantity": 40, "why": "one was broken"}
    assert ines.command(floor, set_).status_code == 403
    assert tove.command(floor, set_).json["entry"]["done"]
