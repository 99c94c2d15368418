"""Waves over HTTP: the bench of a draft, the board of a floor, picked tasks, and the map of stations for goods going out."""

from __future__ import annotations

import re
from typing import Any

import pypdfium2
import pytest
import zxingcpp

from tests.api.conftest import Api


def released(ines: Api, *orders: str) -> str:
    """A run on which these orders are released."""
    world = ines.world()
    for order in orders:
        ines.command(world, {"kind": "confirm_order", "order": order})
    ines.command(world, {"kind": "wait", "seconds": 120})
    act = {"kind": "release_orders", "orders": list(orders)}
    assert ines.command(world, act).json["entry"]["done"]
    return world


def says(ines: Api, world: str, act: dict[str, Any]) -> tuple[bool, str]:
    entry = ines.command(world, act).json["entry"]
    return entry["done"], entry["says"]


def test_the_bench_says_which_plan_takes_what_and_compares_the_ways(ines: Api) -> None:
    """Every order that may go belongs to one plan or goes at once, and says why those before do not take it; the wave of a plan with its tasks
    and all ways to pick it; what is released on a floor counts as it is; nothing is kept."""
    found = ines.post("/api/drafts/d-1/bench/waves", {"plan": "WP-2"}).json
    assert sum(found["counts"].values()) == len(found["orders"]) > 40
    assert found["counts"]["WP-2"] == len(found["takes"]) and found["plan"] == "WP-2"
    assert re.search("No plan takes orders by no carrier, .* is one[.]", found["in_no_plan"])
    (one,) = [o for o in found["orders"] if o["order"] == "SO-2002"]
    assert one["plan"] == "WP-3" and [p["plan"] for p in one["passed"]] == ["Parcels of one line", "Parcels"]
    assert one["passed"][0]["says"] == "it goes by HEAV"
    assert found["times"] == "10:30, 15:45" and 1 <= len(found["runs"]) <= 3
    assert set(found["runs"][0]["takes"]) <= {o["order"] for o in found["orders"]}
    assert not ines.post("/api/drafts/d-1/bench/waves", {"plan": "WP-3"}).json["times"]
    methods = {m["method"]: m for m in found["methods"]}
    assert list(methods) == ["order by order", "cluster", "batch, then sort", "zone to zone"]
    assert methods["cluster"]["own"] and methods["cluster"]["metres"] < methods["order by order"]["metres"]
    assert methods["batch, then sort"]["sort_scans"] > 0 and methods["zone to zone"]["hand_overs"] > 0
    assert {t["cart"] for t in found["tasks"]} >= {1, 2}
    handed_over = {t["recipe"] for t in found["tasks"] if not t["to"].startswith("PACK-")}
    assert len(handed_over) == 1  # engine parts, by the recipe whose pallets trucks bring on
    world = released(ines, "SO-2002", "SO-2004")
    here = ines.post("/api/drafts/d-1/bench/waves", {"world": world, "plan": "WP-3"}).json
    assert [o["order"] for o in here["orders"] if o["released"]] == ["SO-2004", "SO-2002"]
    seq = ines.get(f"/api/worlds/{world}").json["seq"]
    assert "SO-2002" in here["takes"] and ines.get(f"/api/worlds/{world}").json["seq"] == seq
    picks = ines.post("/api/drafts/d-1/bench/tasks", {"need": "pick", "orders": ["SO-2004"]}).json
    assert {t["crew_name"] for t in picks["tasks"]} == {"Instrument store", "Quay crew"}
    assert (
        ines.post("/api/drafts/d-1/bench/tasks", {"need": "pick", "orders": ["PO-1001"]}).json["code"] == "other_kind"
    )


def test_the_board_follows_a_wave_from_its_orders_to_its_tasks(ines: Api) -> None:
    """What waits by plan, with when it runs; a wave made, its orders, lines and tasks each with the others; a picked task counts; the map shows
    what is to be picked and what stands where it was brought."""
    world = released(ines, "SO-2002", "SO-2017", "SO-2004", "SO-2023")
    view = ines.get(f"/api/worlds/{world}/waves").json
    assert [(w["name"], w["orders"]) for w in view["waves"]] == [("Released at once", 1)]
    assert [(a["name"], a["runs"], len(a["orders"])) for a in view["awaited"]] == [
        ("Parcels", "10:30, 15:45", 1),
        ("Haulage", "", 2),
    ]
    done, told = says(ines, world, {"kind": "make_wave", "plan": "WP-3", "orders": []})
    assert done and "Wave `WR-0002` of Haulage: 2 orders" in told
    gathered = ines.get(f"/api/worlds/{world}/wave", wave="WR-0002").json
    assert gathered["wave"]["stands"] == "gathered" and gathered["tasks"] == [] and gathered["may_join"] == ["SO-2004"]
    assert says(ines, world, {"kind": "let_wave_go", "wave": "WR-0002"})[0]
    wave = ines.get(f"/api/worlds/{world}/wave", wave="WR-0002").json
    numbers = {t["number"] for t in wave["tasks"]}
    assert {o["number"] for o in wave["orders"]} == {"SO-2002", "SO-2017"} and wave["may_join"] == []
    assert all(set(x["tasks"]) <= numbers and x["tasks"] for x in (*wave["orders"], *wave["lines"]))
    assert all(x["fetched"] == 0 < x["kept"] for x in wave["lines"])
    task = next(t for t in wave["tasks"] if t["orders"] == ["SO-2002"])
    waits = ines.get("/api/drafts/d-1/stations", world=world).json["now"]
    assert "1 order waiting for a wave" in waits["pick"] and "tasks" in waits["pick"]
    assert says(ines, world, {"kind": "pick_in_office", "task": task["number"], "why": "picked by paper"})[0]
    wave = ines.get(f"/api/worlds/{world}/wave", wave="WR-0002").json
    assert wave["wave"]["stands"] == "in_progress" and wave["wave"]["done"] == 1
    assert [x["fetched"] == x["kept"] for x in wave["lines"] if x["order"] == "SO-2002"] == [True]
    assert [o["leaves"] for o in wave["orders"] if o["number"] == "SO-2002"] == [False]
    refused = says(ines, world, {"kind": "take_out_of_wave", "wave": "WR-0002", "order": "SO-2002", "why": "not today"})
    assert refused[0] is False and "were fetched" in refused[1]
    release = ines.get(f"/api/worlds/{world}/releases", find="SO-2002").json["orders"][0]["release"]
    assert (release["waits"], release["waves"]) == ("", ["WR-0002"])
    chain = ines.get(f"/api/worlds/{world}/chain", number="SO-2002").json["docs"]
    assert {"order", "shipment", "wave", "task"} <= {d["kind"] for d in chain}
    assert ines.get(f"/api/worlds/{world}/wave", wave="WR-9").json["code"] == "unknown_wave"


def test_waves_on_a_live_floor_are_a_right_of_their_own(app: Any, ines: Api) -> None:
    """Who leads has it; who decides the rules, or works on the floor, has not, and is refused."""
    tove, oren = (Api(app.test_client(), name) for name in ("tove", "oren"))
    waves = {"make_wave", "let_wave_go", "hold_wave", "add_to_wave", "take_out_of_wave", "cancel_wave"}
    assert waves <= set(tove.get("/api/me").json["acts"]["HQ"])
    for person in (ines, oren):
        assert not waves & set(person.get("/api/me").json["acts"].get("HQ", ()))
    live = next(w["id"] for w in ines.get("/api/worlds").json["worlds"] if w["kind"] == "live")
    act = {"kind": "make_wave", "plan": "WP-3", "orders": []}
    assert oren.command(live, act).status_code == 403 and ines.command(live, act).status_code == 403
    assert says(tove, live, act) == (False, "No released order waits for Haulage.")


def test_a_pick_list_is_paper_with_its_code_stops_and_packing_lists(ines: Api) -> None:
    """The stops of a task in their order, its code to scan, and a page for each order; of what is not picked there is none."""
    world = released(ines, "SO-2023")
    task = next(t for t in ines.get(f"/api/worlds/{world}/work").json["lists"]["tasks"] if t["need"] == "pick")
    made = ines.get(f"/api/worlds/{world}/tasks/{task['number'].lower()}/list.pdf")
    assert made.status_code == 200 and made.mimetype == "application/pdf"
    document = pypdfium2.PdfDocument(made.data)
    pages = [document[n].get_textpage().get_text_range() for n in range(len(document))]
    assert len(pages) == 2 and f"Pick list {task['number']}" in pages[0] and task["from_bin"] in pages[0]
    assert "Packing list SO-2023" in pages[1] and "Set it down in" in pages[0]
    read = zxingcpp.read_barcodes(document[0].render(scale=3).to_pil())
    assert [b.text for b in read] == [task["number"]]
    rounds = ines.get(f"/api/worlds/{world}/wave/rounds", wave="WR-0001").json
    assert task["number"] in [r["task"] for r in rounds["rounds"]] and rounds["pickers"][0]["person"] == ""
    assert ines.get(f"/api/worlds/{world}/wave/rounds", wave="WR-0009").json["code"] == "unknown_wave"
    assert (
        ines.command(world, {"kind": "print_label", "code": task["number"], "prints": "pick_list"})
        .json["entry"]["says"]
        .startswith("Pick list")
    )
    (sent, *_) = ines.get(f"/api/worlds/{world}/prints").json["prints"]
    assert (sent["what"], sent["paper"], sent["printer"]) == (f"pick list `{task['number']}`", True, "PAPER-1")
    shown = ines.get(f"/api/worlds/{world}/prints/{sent['number']}/pages").json["pages"]
    paper = pypdfium2.PdfDocument(ines.get(f"/api/worlds/{world}/prints/{sent['number']}/labels.pdf").data)
    assert [p["code"] for p in shown] == [task["number"], "SO-2023"] and len(paper) == 2
    assert paper[0].get_size() == pytest.approx((595.3, 841.9), abs=0.1)
    none = ines.get(f"/api/worlds/{world}/tasks/TR-9999/list.pdf")
    assert (none.status_code, none.json["code"]) == (422, "unknown_task")
    ines.command(world, {"kind": "pick_in_office", "task": task["number"], "why": "by paper", "begin": False})
    assert ines.get(f"/api/worlds/{world}/tasks/{task['number']}/list.pdf").json["code"] == "nothing_to_pick"
