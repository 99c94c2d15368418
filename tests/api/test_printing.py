"""The tray of a floor, PDFs and pictures of labels, sheets from the catalogue, what rules would print, the page of papers."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

import pypdfium2

from mindful_crate.api.wiring import wired
from mindful_crate.store import db
from tests.api.conftest import Api
from tests.api.test_work import edits


def test_the_tray_and_what_is_in_it(ines: Api) -> None:
    """What is printed is in the tray as PDF and picture; what waits says why, and another printer prints it."""
    world = ines.world()
    tray = ines.get(f"/api/worlds/{world}/prints").json
    assert [p["code"] for p in tray["printers"]] == ["LABEL-1", "LABEL-2", "LABEL-4", "LABEL-5", "LABEL-6", "PAPER-1"]
    assert tray["prints"] == [] and tray["printers"][3]["zones"] == ["Doors", "Receiving", "Inspection lanes"]
    done = ines.command(
        world, {"kind": "print_label", "code": "B-01-01-1", "prints": "plate", "copies": 3, "printer": "LABEL-6"}
    )
    assert done.json["entry"]["says"] == "3 labels on `LABEL-6`."
    ines.command(world, {"kind": "set_printer", "printer": "LABEL-5", "condition": "off"})
    ines.command(world, {"kind": "print_numbers", "count": 2, "printer": "LABEL-5"})
    tray = ines.get(f"/api/worlds/{world}/prints").json
    waits, out = tray["prints"]
    assert (waits["out"], waits["why"], waits["count"], tray["sent"]) == (False, "`LABEL-5` does not answer", 2, 2)
    assert (out["out"], out["what"], out["count"]) == (True, "bin `B-01-01-1`", 3)
    made = ines.get(f"/api/worlds/{world}/prints/{out['number']}/labels.pdf")
    document = pypdfium2.PdfDocument(made.data)
    assert made.content_type == "application/pdf" and len(document) == 3
    assert (round(document[0].get_width() / 72 * 25.4), round(document[0].get_height() / 72 * 25.4)) == (70, 40)
    assert b"B-01-01-1" in ines.get(f"/api/worlds/{world}/prints/{out['number']}/0/label.svg").data
    assert ines.get(f"/api/worlds/{world}/prints/{out['number']}/9/label.svg").status_code == 404
    assert ines.get(f"/api/worlds/{world}/prints/none/labels.pdf").json["code"] == "unknown_print"
    ines.command(world, {"kind": "print_again", "number": waits["number"], "printer": "LABEL-1"})
    assert not any(p["why"] for p in ines.get(f"/api/worlds/{world}/prints").json["prints"])


def test_what_was_given_to_a_real_printer(app: Any, ines: Api) -> None:
    """A real printer and a real scale are told from stand-ins, with why one takes nothing; of a print, that it was given, or why it never will be."""
    world = ines.world()
    for _ in range(3):
        ines.command(
            world, {"kind": "print_label", "code": "STG-01", "prints": "plate", "copies": 1, "printer": "LABEL-6"}
        )
    numbers = [p["number"] for p in ines.get(f"/api/worlds/{world}/prints").json["prints"]]
    at = datetime(2020, 3, 2, tzinfo=UTC)
    with wired(app).database.transaction() as conn:
        for kind, code in (("printer", "LABEL-6"), ("scale", "PS-1")):
            db.run(conn, "put_device", world=world, kind=kind, code=code, says="somewhere", since=at)
            db.run(conn, "device_failed", world=world, kind=kind, code=code, failed="nobody there")
        for number, failed in ((numbers[1], ""), (numbers[2], "undrawable")):
            db.run(conn, "put_delivery", world=world, print=number, printer="LABEL-6", at=at, failed=failed)
    tray = ines.get(f"/api/worlds/{world}/prints").json
    real = {p["code"]: (p["real"], p["failed"]) for p in tray["printers"]}
    assert (real["LABEL-6"], real["LABEL-5"]) == (("somewhere", "nobody there"), ("", ""))
    handed = [(p["handed"], p["not_given"]) for p in tray["prints"]]
    assert handed == [("not_yet", ""), ("given", ""), ("never", "undrawable")]
    scales = {s["station"]: (s["real"], s["failed"]) for s in ines.get(f"/api/worlds/{world}/devices").json["scales"]}
    assert (scales["PS-1"], scales["PS-2"]) == (("somewhere", "nobody there"), ("", ""))


def test_sheets_from_the_catalogue(ines: Api) -> None:
    """Bins of a zone, items of a group, carts, printers; what is not there is said."""
    for of, within, pages in (("bin", "RCV", 1), ("item", "Rope", 1), ("cart", "", 2), ("printer", "", 1)):
        made = ines.get("/api/drafts/d-1/labels.pdf", of=of, within=within, sheet="a4-24")
        assert made.status_code == 200, made.json
        assert len(pypdfium2.PdfDocument(made.data)) == pages
    sheets = [s["name"] for s in ines.get("/api/labels/sheets").json["sheets"]]
    assert "a4-24" in sheets
    assert all(ines.get("/api/drafts/d-1/labels.pdf", of="printer", sheet=s).status_code == 200 for s in sheets)
    assert ines.get("/api/drafts/d-1/labels.pdf", of="bin", within="NONE").json["code"] == "nothing_to_print"
    assert ines.get("/api/drafts/d-1/labels.pdf", of="bin", sheet="huge").json["code"] == "unknown_sheet"


def test_what_rules_would_print_is_shown_before_they_do(ines: Api) -> None:
    """The bench receives an order and keeps nothing; a rule that is added there prints at once, its word is a sentence."""
    shown = ines.post("/api/drafts/d-1/bench/labels", {"order": "PO-1001"}).json
    assert [(p["number"], p["printer"], p["count"]) for p in shown["prints"]] == [(1, "LABEL-5", 1)]
    assert "LPR-000417" in shown["prints"][0]["labels"][0]["svg"] and len(shown["nothing"]) == 7
    edits(ines, "d-1", {"op": "add", "path": "label_rules", "value": "finished"})
    page = ines.get("/api/drafts/d-1/chapters/papers").json["page"]
    row = page["sections"][0]["rows"][-1]
    assert "".join(p["text"] for p in row["parts"] if p["kind"] != "add").startswith(
        "When what was received is finished, print the label"
    )
    edits(
        ines,
        "d-1",
        {"op": "set", "path": f"{row['path']}/prints", "value": "unit"},
        {"op": "set", "path": f"{row['path']}/groups", "value": ["Rope"]},
    )
    shown = ines.post("/api/drafts/d-1/bench/labels", {"order": "PO-1007"}).json
    assert "prints" in shown, shown
    assert [p["count"] for p in shown["prints"] if p["rule"] == row["id"]] and "Rule 2" in shown["nothing"][0]
    edits(ines, "d-1", {"op": "set", "path": f"{row['path']}/when", "value": "begun"})
    found = ines.get("/api/drafts/d-1/findings").json["findings"]
    assert any(f["code"] == "nothing_to_print" and f["chapter"] == "papers" for f in found)
    assert ines.post("/api/drafts/d-1/bench/labels", {"order": "PO-99"}).status_code == 422
    edits(ines, "d-1", {"op": "remove", "path": row["path"]})
