"""The ground over HTTP: an empty product, sites, tables, files, what stays behind, what is refused."""

from __future__ import annotations

import io
import uuid
from collections.abc import Iterator
from typing import Any

import openpyxl
import psycopg
import pytest
from psycopg.conninfo import make_conninfo

from mindful_crate.api import app as application
from mindful_crate.api import imports
from mindful_crate.api.front import STREAM_OF
from mindful_crate.api.wiring import wired
from mindful_crate.jobs import imports as imports_of
from mindful_crate.jobs.queue import put_schema, work
from mindful_crate.store import db
from mindful_crate.store.db import migrate
from tests.api.conftest import HEADER, Api

ITEMS = b"code,name,group,tracking\nBUOY-1,Marker buoy,Buoys,none\nBUOY-2,Ring buoy,Buoys,what\n"
UNITS = (
    b"item,code,name,plural,quantity,length_mm,width_mm,height_mm,weight_kg\n"
    b"BUOY-1,pc,piece,pieces,1,300,300,400,2.5\nBUOY-2,pc,piece,pieces,1,300,300,400,2.5\n"
)
BLOCKS = [
    {"zone": "NRCV", "zone_name": "Receiving", "purpose": "receiving", "bin_type": "LANE", "bays": 2, "pattern": "{zone}-{bay}"},
    {"zone": "NRSV", "zone_name": "Reserve", "purpose": "reserve", "bin_type": "RACK", "aisles": 2, "bays": 3, "levels": 2, "y_mm": 9_000},
]  # fmt: skip


@pytest.fixture
def bare(server_dsn: str) -> Iterator[Any]:
    """An application on a database with nothing in it."""
    name = f"crate_test_{uuid.uuid4().hex[:8]}"
    dsn = make_conninfo(server_dsn, dbname=name)
    migrate(dsn)
    put_schema(dsn)
    made = application.create(dsn, "secret for tests", None)
    yield made
    wired(made).database.close()
    with psycopg.connect(server_dsn, autocommit=True) as conn:
        conn.execute(f"DROP DATABASE {name} WITH (FORCE)")


def no(api: Api) -> int:
    """The state the ground is in."""
    return int(api.get("/api/ground").json["no"])


def bring(api: Api, files: dict[str, bytes], **more: Any) -> Any:
    """Files looked through."""
    data = {"files": [(io.BytesIO(c), n) for n, c in files.items()], **more}
    return api.client.post("/api/ground/imports", data=data, headers=HEADER, content_type="multipart/form-data")


def take(api: Api, seen: Any, good: bool = False) -> Any:
    return api.post(f"/api/ground/imports/{seen.json['id']}/take", {"good": good}).json


def rows(api: Api, table: str, **query: Any) -> list[list[str]]:
    return list(api.get(f"/api/ground/tables/{table}", **query).json["rows"])


def site(api: Api, code: str = "NB") -> str:
    """A further site with bins; its draft."""
    made = api.post("/api/ground/sites", {"base": no(api), "code": code, "name": "North Basin", "time_zone": "Europe/London"})  # fmt: skip
    assert made.status_code == 200, made.json
    body = {"base": no(api), "site": code, "blocks": BLOCKS, "apply": True}
    assert api.post("/api/ground/layout", body).json["applied"]
    return str(made.json["code"])


def test_an_empty_product_is_begun_by_one_analyst(bare: Any) -> None:
    """The first makes herself, once; from elsewhere nobody does; then a site, rules, an order, and the handset has it."""
    asta = Api(bare.test_client())
    assert asta.get("/api/welcome").json == {"demo": [], "nobody": True}
    me = {"name": "Asta Grenholt", "login": "Łasta", "password": "long enough"}
    assert asta.post("/api/first", {**me, "password": "short"}).json["code"] == "short_password"
    far = bare.test_client().open("/api/first", method="POST", json=me, headers=HEADER, environ_base={"REMOTE_ADDR": "192.0.2.9"})  # fmt: skip
    assert far.status_code == 403 and "on the machine" in far.json["title"]
    assert asta.post("/api/first", me).json["role"] == "analyst"
    assert asta.post("/api/first", me).json["code"] == "not_first"
    assert (
        asta.get("/api/stream").headers[STREAM_OF].isascii()
    )  # whatever letters a login has, its windows hear of news
    assert asta.get("/api/ground").json["no"] == 0
    bad = {"base": 0, "code": "NB", "name": "North Basin", "time_zone": "Basin/North"}
    assert asta.post("/api/ground/sites", bad).json["code"] == "no_time_zone"
    draft = site(asta)
    assert asta.post(f"/api/drafts/{draft}/starter").status_code == 200
    assert asta.post(f"/api/drafts/{draft}/starter").json["code"] == "has_rules"
    assert asta.get(f"/api/drafts/{draft}").json["findings"] == {}
    assert asta.post("/api/ground/test-order", {"base": no(asta), "site": "NB"}).json["code"] == "no_items"
    assert take(asta, bring(asta, {"items.csv": ITEMS, "units.csv": UNITS}), good=True)["applied"]
    assert asta.post("/api/ground/test-order", {"base": no(asta), "site": "NB"}).json["code"] == "TEST-001"
    world = asta.post("/api/worlds", {"name": "tried", "draft": draft, "book_seconds": 2}).json["id"]
    opened = asta.command(world, {"kind": "open_flow", "flow": "F-RECEIVE"}, device="H1").json
    assert "TEST-001" in str(opened["handset"]["question"])


def test_files_are_looked_at_first_and_taken_as_asked(ines: Api) -> None:
    """Nothing changes on a look, nor on a take while a row is bad; the good rows go in alone; then it is all there."""
    before = no(ines)
    files = {"items.csv": ITEMS, "units.csv": UNITS}
    looked = bring(ines, files)
    seen = looked.json
    assert (seen["state"], seen["bad_rows"], seen["rows"], no(ines)) == ("read", 2, 4, before)
    assert {(b["file"], b["line"], b["column"], b["value"]) for b in seen["bad"]} == {
        ("items.csv", 3, "tracking", "what"), ("units.csv", 3, "item", "BUOY-2"),
    }  # fmt: skip
    assert take(ines, looked)["code"] == "bad_rows" and no(ines) == before
    assert "items.csv,3,tracking,what" in ines.get(f"/api/ground/imports/{seen['id']}/reasons").data.decode()
    assert take(ines, looked, good=True)["no"] == before + 1
    assert take(ines, looked, good=True)["code"] == "not_read"
    assert rows(ines, "items", find="buoy-") == [
        ["BUOY-1", "Marker buoy", "Buoys", "none", "", "", "any", "0", "", "no"]
    ]
    what = bring(ines, {"what.csv": b"a\n"}).json
    assert what["state"] == "failed" and "says no table" in what["says"]
    large = ines.client.post(
        "/api/ground/imports", data=b"--b--", headers=HEADER, content_type="multipart/form-data; boundary=b",
        environ_overrides={"CONTENT_LENGTH": "2000000000"},
    )  # fmt: skip
    assert large.status_code == 413 and "MB" in large.json["title"]


def lots(api: Api, count: int, bin_: str = "B-01-02-1") -> bytes:
    """Much stock in one file, half of it of an item that does not exist."""
    return ("bin,item,quantity,lot\n" + "".join(f"{bin_},{('ROPE-12', 'NO-1')[n % 2]},1,L{n}\n" for n in range(count))).encode()  # fmt: skip


@pytest.mark.parametrize("size", ["much", "little"])
def test_much_is_read_by_a_worker_the_same(ines: Api, dsn: str, monkeypatch: pytest.MonkeyPatch, size: str) -> None:
    """It waits, is read, and says the same as what is read at once; a worker finds nothing left afterwards."""
    monkeypatch.setattr(imports, "SMALL", 0 if size == "much" else 10**9)
    seen = bring(ines, {"stock.csv": lots(ines, 12_000)})
    assert seen.json["state"] == ("waiting" if size == "much" else "read")
    work(dsn, once=True)
    found = ines.get(f"/api/ground/imports/{seen.json['id']}").json
    assert (found["state"], found["rows"], found["bad_rows"], found["share"]) == ("read", 12_000, 6_000, 1)
    assert [(c["table"], c["new"]) for c in found["changes"]] == [("stock", 6_000)]
    assert len(ines.get(f"/api/ground/imports/{seen.json['id']}/reasons").data.splitlines()) == 6_001
    before = ines.get("/api/ground/tables/stock").json["total"]
    assert take(ines, seen, good=True)["applied"]
    after = ines.get("/api/ground/tables/stock").json["total"]
    assert after == before + 6_000
    gone = ines.post("/api/ground/rows", {"base": no(ines), "gone": {"stock": ["B-01-02-1"]}}).json
    assert gone["applied"] and ines.get("/api/ground/tables/stock").json["total"] < after - 5_999


def test_an_import_is_cancelled_before_and_while_it_is_read(
    ines: Api, app: Any, dsn: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What is cancelled is read no further and cannot be taken; nobody else sees it."""
    monkeypatch.setattr(imports, "SMALL", 0)
    waiting = bring(ines, {"stock.csv": lots(ines, 20)})
    assert Api(app.test_client(), "oren").get(f"/api/ground/imports/{waiting.json['id']}").status_code in (403, 404)
    assert ines.post(f"/api/ground/imports/{waiting.json['id']}/cancel").json["state"] == "cancelled"
    reading = bring(ines, {"stock.csv": lots(ines, 30_000)})
    id_ = reading.json["id"]
    at_hand = wired(app).imports
    said: list[int] = []

    def moved(import_: str, rows: int, share: float) -> None:
        said.append(rows)
        ines.post(f"/api/ground/imports/{import_}/cancel")
        move(import_, rows, share)

    move = at_hand._move
    monkeypatch.setattr(at_hand, "_move", moved)
    monkeypatch.setattr(imports_of, "EVERY", 0)
    at_hand.read(id_)
    assert said == [5_000]
    found = ines.get(f"/api/ground/imports/{id_}").json
    assert found["state"] == "cancelled" and take(ines, reading)["code"] == "not_read"
    work(dsn, once=True)
    assert ines.get(f"/api/ground/imports/{id_}").json["state"] == "cancelled"


def test_a_bug_or_a_lost_database_leaves_an_import_in_a_clear_state(
    ines: Api, app: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A bug is said and ends it; when the database goes away nothing is said, and it is read again from its start."""
    monkeypatch.setattr(imports, "SMALL", 0)
    for error, after in ((ValueError("x"), "failed"), (psycopg.OperationalError("gone"), "read")):
        seen = bring(ines, {"stock.csv": lots(ines, 10)}).json["id"]
        with monkeypatch.context() as patch:
            patch.setattr(imports_of, "bring", lambda *a, error=error, **k: (_ for _ in ()).throw(error))
            if after == "read":
                with pytest.raises(psycopg.OperationalError):
                    wired(app).imports.read(seen)
            else:
                wired(app).imports.read(seen)
        wired(app).imports.read(seen)
        found = ines.get(f"/api/ground/imports/{seen}").json
        assert found["state"] == after and bool(found["says"]) == (after == "failed")


def test_what_a_worker_left_is_read_by_the_next(ines: Api, app: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    """A worker that ends without a word leaves the import to be read from its start."""
    monkeypatch.setattr(imports, "SMALL", 0)
    seen = bring(ines, {"stock.csv": lots(ines, 10)})
    with wired(app).database.transaction() as conn:
        db.value(conn, "begin_import", id=seen.json["id"], base=1)
    wired(app).imports.read(seen.json["id"])
    assert ines.get(f"/api/ground/imports/{seen.json['id']}").json["state"] == "read"
    ines.post("/api/ground/test-order", {"base": no(ines), "site": "HQ"})
    assert take(ines, seen, good=True)["code"] == "ground_moved"


def test_a_table_goes_out_as_it_comes_in(ines: Api) -> None:
    """CSV and XLSX of one table, and a site as one workbook: brought in again they change nothing."""
    csv = ines.client.get("/api/ground/tables/bins/file?form=csv&site=HQ")
    assert csv.headers["Content-Disposition"] == "attachment; filename=bins.csv"
    assert len(csv.data.splitlines()) == 1 + 1441
    book = ines.client.get("/api/ground/workbook?site=HQ").data
    assert "order_lines" in openpyxl.load_workbook(io.BytesIO(book), read_only=True).sheetnames
    for name, content in (("bins.csv", csv.data), ("HQ.xlsx", book), ("orders.xlsx", ines.client.get("/api/ground/tables/orders/file?form=xlsx").data)):  # fmt: skip
        answer = bring(ines, {name: content}, whole="true", site="HQ").json
        assert answer["state"] == "read" and answer["bad"] == [], answer["bad"][:3]
        assert all(c["new"] == c["changed"] == c["gone"] == 0 for c in answer["changes"]), (name, answer["changes"])


def test_rows_are_changed_by_forms_and_what_is_used_stays(ines: Api) -> None:
    """A form is the same cells as a file; a stale one is refused with what happened; so is taking out what is used."""
    order = next(r for r in rows(ines, "orders") if r[0] == "PO-1007")
    columns = ines.get("/api/ground/tables/orders").json["columns"]
    cells = dict(zip(columns, order, strict=True))
    base = no(ines)
    put = {"base": base, "says": "Order PO-1007 was confirmed.", "sheets": [{"table": "orders", "rows": [{**cells, "confirmed": "yes"}]}]}  # fmt: skip
    assert ines.post("/api/ground/rows", put).json["applied"]
    stale = ines.post("/api/ground/rows", {**put, "sheets": [{"table": "orders", "rows": [cells]}]}).json
    assert stale["code"] == "ground_moved" and "PO-1007 was confirmed" in stale["title"]
    assert next(r for r in rows(ines, "orders") if r[0] == "PO-1007")[columns.index("confirmed")] == "yes"
    bad = {"base": no(ines), "sheets": [{"table": "orders", "rows": [{**cells, "promised": "soon"}]}]}
    answer = ines.post("/api/ground/rows", bad).json
    assert not answer["applied"] and answer["bad"][0]["column"] == "promised"
    used = ines.post("/api/ground/rows", {"base": no(ines), "gone": {"items": ["ROPE-12"]}}).json
    assert used["code"] == "still_used" and used["title"].startswith("Item `ROPE-12` cannot go: 9 rows of stock of it")


def test_many_bins_are_changed_at_once(ines: Api) -> None:
    """Every one, in one change, and nothing else of them; a bad value changes none; those of a site one does not see are
    not there to take out."""
    codes = [r[0] for r in rows(ines, "bins", find="P-01-")][:60]
    columns = ines.get("/api/ground/tables/bins").json["columns"]
    before = {r[0]: r for r in rows(ines, "bins", find="P-01-")}
    body = {
        "base": no(ines),
        "alter": {"table": "bins", "codes": codes, "cells": {"height_mm": "410", "blocked": "paint"}},
    }
    assert ines.post("/api/ground/rows", {**body, "alter": {**body["alter"], "cells": {"height_mm": "low"}}}).json["bad_rows"] == 60  # type: ignore[dict-item]  # fmt: skip
    answer = ines.post("/api/ground/rows", body).json
    assert answer["applied"] and [(c["table"], c["changed"]) for c in answer["changes"]] == [("bins", 60)]
    for row in (r for r in rows(ines, "bins", find="P-01-") if r[0] in codes):
        cells = dict(zip(columns, row, strict=True))
        assert (cells["height_mm"], cells["blocked"]) == ("410", "paint")
        cells |= {n: dict(zip(columns, before[row[0]], strict=True))[n] for n in ("height_mm", "blocked")}
        assert list(cells.values()) == before[row[0]]
    assert ines.post("/api/ground/rows", {"base": no(ines), "alter": {**body["alter"], "cells": {"height_mm": before[codes[0]][columns.index("height_mm")], "blocked": ""}}}).json["applied"]  # type: ignore[dict-item]  # fmt: skip


def test_drafts_and_rehearsals_keep_what_they_name(ines: Api) -> None:
    """A draft that loses a bin it names stays on the ground as it was, is told, and moves over on request; so does a
    rehearsal, whose results then speak no longer."""
    into = rows(ines, "bins", find="RCV-01")[0]
    other = [{"table": "bins", "rows": [dict(zip(ines.get("/api/ground/tables/bins").json["columns"], into, strict=True)) | {"code": "RCV-99", "x_mm": "999000"}]}]  # fmt: skip
    answer = ines.post("/api/ground/rows", {"base": no(ines), "sheets": other, "gone": {"bins": ["RCV-01"]}}).json
    assert answer["applied"] and [d["id"] for d in answer["stayed"]] == ["d-1"]
    assert "`RCV-01` does not exist" in answer["stayed"][0]["missing"][0]["says"]
    draft = next(d for s in ines.get("/api/ground").json["sites"] for d in s["drafts"] if d["id"] == "d-1")
    assert not draft["up_to_date"] and draft["missing"]
    before = ines.get("/api/drafts/d-1").json
    assert before["findings"] == {}
    assert ines.post("/api/drafts/d-1/move-over", {"version": before["version"] + 5}).json["code"] == "draft_moved"
    assert ines.post("/api/drafts/d-1/move-over", {"version": before["version"]}).status_code == 200
    after = ines.get("/api/drafts/d-1").json
    assert after["opening"] != before["opening"] and after["findings"]
    assert ines.post("/api/drafts/d-1/move-over", {"version": after["version"]}).json["code"] == "on_ground"
    found = ines.get("/api/rehearsals/rope-by-the-pallet").json["head"]
    assert found["behind"] and found["missing"] == []
    moved = ines.post("/api/rehearsals/rope-by-the-pallet/move-over").json
    assert not moved["head"]["behind"] and moved["opening"] == ines.get("/api/ground").json["opening"]


def test_a_site_is_seen_by_whom_it_is_given(ines: Api, app: Any) -> None:
    """Whoever makes a site sees it; others see neither it nor its bins, and may not write to it."""
    site(ines)
    assert "NB" in [s["code"] for s in ines.get("/api/ground").json["sites"]]
    assert len(ines.get("/api/ground/map", site="NB").json["code"]) == 14
    tove = Api(app.test_client(), "tove")
    assert [s["code"] for s in tove.get("/api/ground").json["sites"]] == ["HQ"]
    assert tove.get("/api/ground/map", site="NB").status_code == 403
    assert tove.get("/api/ground/workbook", site="NB").status_code == 403
    with wired(app).database.transaction() as conn:
        conn.execute("UPDATE person SET sites = '{GL}' WHERE id = 'ines'")
    assert ines.post("/api/ground/rows", {"base": no(ines), "gone": {"bins": ["NRCV-1"]}}).status_code == 403
    foreign = bring(ines, {"bins.csv": b"code,zone,bin_type,x_mm,y_mm,level,walk\nX-9,NRCV,LANE,1,1,0,1\n", "stock.csv": b"bin,item,quantity\nNRCV-1,ROPE-12,5\n"}).json  # fmt: skip
    assert [b["says"] for b in foreign["bad"]] == ["site `NB` is not yours"] * 2 and not any(c["new"] for c in foreign["changes"])  # fmt: skip
    with wired(app).database.transaction() as conn:
        conn.execute("UPDATE person SET sites = '{HQ,GL,SW,NB}' WHERE id = 'ines'")
    assert rows(tove, "bins", find="NRSV") == []
    assert tove.post("/api/ground/test-order", {"base": no(tove), "site": "NB"}).status_code == 403
    twice = {"base": no(ines), "site": "NB", "blocks": BLOCKS}
    assert "`NRCV-1` is there already" in str(ines.post("/api/ground/layout", twice).json["problems"])
    assert ines.post("/api/ground/sites", {"base": no(ines), "code": "NB", "name": "Twice", "time_zone": "UTC"}).json["code"] == "site_there"  # fmt: skip
