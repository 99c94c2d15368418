"""Packing to shipping over HTTP: the bench of a draft, stations, the dock board, papers, devices, and what machines elsewhere are told."""

from __future__ import annotations

import csv
import json
import re
from pathlib import Path

import pypdfium2
import pytest

from mindful_crate.cli import main
from tests.api.conftest import Api

NAME = "מפרש " * 40 + "⛵🧭" + "Ω" * 60
"""Right to left, very long, emoji: what a name may hold."""


def packed(ines: Api) -> str:
    """A run with one order picked, packed into two cartons, and neither staged nor loaded."""
    world = ines.world()
    lines = [
        {"no": n, "item": item, "unit": "pc", "quantity": much, "net_price": "1.00"}
        for n, (item, much) in enumerate((("SHK-08", 12), ("CLT-15", 3)), 1)
    ]
    order = {
        "number": "SO-7001", "kind": "sales", "site": "HQ", "partner": "C-500", "promised": "2026-03-20", "ship_to": [NAME, "Quay 1"], "lines": lines,
    }  # fmt: skip
    acts = [
        {"kind": "write_order", "order": order},
        {"kind": "confirm_order", "order": "SO-7001"},
        {"kind": "wait", "seconds": 60},
        {"kind": "release_orders", "orders": ["SO-7001"]},
    ]
    for act in acts:
        entry = ines.command(world, act).json["entry"]
        assert entry["done"], entry["says"]
    for task in re.findall(r"TR-\d+", entry["says"]):
        assert ines.command(world, {"kind": "pick_in_office", "task": task, "why": "by paper"}).json["entry"]["done"]
    for line, much in ((1, 12), (2, 3)):
        act = {"kind": "pack_into", "at": "PACK-1", "order": "SO-7001", "line": line, "quantity": much}
        assert ines.command(world, act).json["entry"]["done"]
        carton = ines.get(f"/api/worlds/{world}/shipments/SHR-0001").json["cartons"][-1]["number"]
        assert ines.command(world, {"kind": "close_carton", "carton": carton, "carton_kind": "S"}).json["entry"]["done"]
    return world


def test_a_shipment_is_followed_to_the_truck_and_its_papers_hold_any_name(
    ines: Api, dsn: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    """What waits at the bench, how far it is, what each carrier takes; four papers as PDF whatever the names are; then it leaves, and is told."""
    world = packed(ines)
    shown = ines.get(f"/api/worlds/{world}/shipments/SHR-0001").json
    assert [c["stands"] for c in shown["cartons"]] == ["closed", "closed"]
    assert any(o["price"] for o in shown["offers"]) and not shown["leaving"]["may_go"]
    board = ines.get(f"/api/worlds/{world}/dock").json
    assert [s["shipment"] for s in board["leaving"]] == ["SHR-0001"] and board["trucks"]

    def text_of(paper: str) -> str:
        made = ines.get(f"/api/worlds/{world}/shipments/SHR-0001/papers/{paper}.pdf")
        assert made.status_code == 200, made.json
        return "".join(p.get_textpage().get_text_range() for p in pypdfium2.PdfDocument(made.data))

    assert "Cleat" in text_of("packing-list")
    assert all("SHR-0001" in text_of(x) and "Quay 1" in text_of(x) for x in ("loading-list", "pallet-sheets"))
    assert ines.get(f"/api/worlds/{world}/shipments/SHR-0001/papers/bill-of-lading.pdf").json["code"] == "no_carrier"
    assert ines.get(f"/api/worlds/{world}/shipments/SHR-9999").json["code"] == "unknown_shipment"
    plates = [c["number"] for c in shown["cartons"]]
    for act in (
        {"kind": "stage_goods", "shipment": "SHR-0001", "bin": "STG-04", "plates": plates},
        {"kind": "load_goods", "shipment": "SHR-0001", "door": "DOOR-3", "truck": "TK-74"},
        {"kind": "ship_shipment", "shipment": "SHR-0001", "carrier": "HEAV"},
    ):
        entry = ines.command(world, act).json["entry"]
        assert entry["done"], entry["says"]
    assert "Quay 1" in text_of("bill-of-lading")
    monkeypatch.setenv("CRATE_DATABASE", dsn)
    told = json.loads(ines.get(f"/api/worlds/{world}/events").data)
    assert [e["bizStep"] for e in told["epcisBody"]["eventList"]][-1] == "shipping"
    assert main(["events", world, "--out", str(tmp_path / "told.jsonld")]) == 0
    assert json.loads((tmp_path / "told.jsonld").read_text()) == told
    assert main(["events", "w-none"]) == 2 and "There is no such world" in capsys.readouterr().err
    rows = list(csv.DictReader(ines.get(f"/api/worlds/{world}/events", form="csv").get_data(as_text=True).splitlines()))
    assert {r["plate"] for r in rows if r["step"] == "shipping"} == set(plates)
    assert not list(
        csv.DictReader(
            ines.get(f"/api/worlds/{world}/events", form="csv", day="2020-01-01").get_data(as_text=True).splitlines()
        )
    )
    assert [g["shipment"] for g in ines.get(f"/api/worlds/{world}/dock").json["gone"]] == ["SHR-0001"]


def test_stations_devices_and_the_packing_bench(ines: Api) -> None:
    """A station shows what waits and the scale it has; a scale that is set reads so; the bench packs an order of the draft and refuses one there is not."""
    world = ines.world()
    view = ines.get(f"/api/worlds/{world}/stations", device="bench PS-1").json
    assert view["packing"] is None and view["waits"] == [] and "PS-1" in [s["code"] for s in view["stations"]]
    assert ines.command(world, {"kind": "set_scale", "station": "PS-1", "scale": {"down": True}}).json["entry"]["done"]
    scales = {s["station"]: s for s in ines.get(f"/api/worlds/{world}/devices").json["scales"]}
    assert scales["PS-1"]["scale"]["down"] and scales["PS-1"]["says"]
    refused = ines.command(world, {"kind": "set_scale", "station": "PS-99", "scale": {}}).json["entry"]
    assert not refused["done"] and refused["says"]
    found = ines.post("/api/drafts/d-1/bench/packing", {"order": "SO-2004"}).json
    assert found["packed"]["cartons"] and found["packed"]["number"]
    assert ines.post("/api/drafts/d-1/bench/packing", {"order": "PO-1001"}).json["code"] == "unknown_order"


def test_a_paper_of_a_draft_is_looked_at_before_anything_is_packed(ines: Api) -> None:
    """By which form, its columns and text, the labels its rules print; the same as PDF; an order there is not is refused."""
    shown = ines.post("/api/drafts/d-1/bench/papers", {"order": "SO-2001"}).json
    (page,) = shown["found"]["pages"]
    assert (
        shown["found"]["form"] == 1
        and "In" in page["tables"][0]["heads"]
        and "three working days" in page["beneath"][-1]
    )
    assert [(p["number"], p["count"], p["papers"]) for p in shown["prints"]] == [
        (4, 2, []),
        (5, 2, []),
        (7, 1, ["Loading list"]),
    ] and "<svg" in shown["prints"][0]["labels"][0]["svg"]
    for paper in ("packing-list", "loading-list", "bill-of-lading", "pallet-sheets"):
        made = ines.get(f"/api/drafts/d-1/bench/papers/{paper}.pdf", order="SO-2001")
        text = "".join(p.get_textpage().get_text_range() for p in pypdfium2.PdfDocument(made.data))
        assert "Ardle Sound Yachts" in text and "supposed" in text
    refused = ines.post("/api/drafts/d-1/bench/papers", {"order": "SO-9999"})
    assert refused.json["code"] == "unknown_order"
