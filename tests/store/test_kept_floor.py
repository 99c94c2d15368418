"""A backup of a 0.5.0 installation with a live floor in the middle of its work: put back, brought up to date, sound, and
the work goes on."""

from __future__ import annotations

import sys
import uuid
from collections.abc import Iterator

import psycopg
import pytest
from psycopg.conninfo import make_conninfo

from mindful_crate.core.floor.state import State
from mindful_crate.core.plain import canonical
from mindful_crate.core.scanning.reading import Scan
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.fold import apply
from mindful_crate.core.world.invariants import broken
from mindful_crate.jobs.queue import put_schema
from mindful_crate.store import db
from mindful_crate.store.db import Database, migrate
from mindful_crate.store.loaded import Who
from mindful_crate.store.past import LISTED
from mindful_crate.store.rows import WorldRow
from mindful_crate.store.worlds import Worlds
from tests.conftest import ROOT
from tests.faults.simulator import settled_in
from tests.kept import ENDS, SAMPLES, end_of

OREN = Who("oren", None, "H1", ("quay",))


@pytest.fixture
def old(server_dsn: str) -> Iterator[Database]:
    """The database of the backup, as `./crate restore` and the next `./crate up` make it."""
    sys.path.insert(0, str(ROOT / "launch"))
    import care

    name = f"crate_test_{uuid.uuid4().hex[:8]}"
    with psycopg.connect(server_dsn, autocommit=True) as conn:
        conn.execute(f"CREATE DATABASE {name}")
    dsn = make_conninfo(server_dsn, dbname=name)
    try:
        care.put_back(dsn, SAMPLES / "floor-0.5.0.crate")
        migrate(dsn)
        put_schema(dsn)
        found = Database(dsn, most=3)
        yield found
        found.close()
    finally:
        with psycopg.connect(server_dsn, autocommit=True) as conn:
            conn.execute(f"DROP DATABASE {name} WITH (FORCE)")


def test_an_old_floor_is_put_back_and_goes_on(old: Database) -> None:
    """Every world of it is sound and as it was told to be; what hung in the air is finished by its own handset."""
    worlds = Worlds(old)
    with old.transaction() as conn:
        ids = [id_ for (id_,) in conn.execute("SELECT id FROM world").fetchall()]
        rows = [row for id_ in ids if (row := db.row(conn, WorldRow, "world", id=id_))]
    assert len(rows) == 10
    live = next(r.id for r in rows if r.kind == "live")
    for row in rows:
        with old.transaction() as conn, worlds.reading(conn, row.id) as world:
            assert broken(world.state) == [], row.name
            if row.id == live:
                assert end_of(world.state) == ENDS["live floor"]
    with old.transaction() as conn, worlds.reading(conn, live) as world:
        number = next(d.number for d in world.state.dialogues.values() if d.open and d.device == "H1")

    def scan(id_: str, text: str) -> str:
        entry = worlds.run(live, id_, acts.Answer(number, Scan(text)), OREN)
        assert isinstance(entry.outcome, ev.Done), entry.says
        return entry.says

    assert "Nothing more" in worlds.run(live, "on", acts.Press(number, "go_on"), OREN).says
    assert "RCV-03" in scan("to", "RCV-03")
    placed = worlds.run(live, "yes", acts.Press(number, "yes"), OREN)
    assert "stands in `RCV-03`" in placed.says
    fresh = Worlds(old)
    for id_ in (r.id for r in rows):
        with old.transaction() as conn, worlds.reading(conn, id_) as one, fresh.reading(conn, id_) as two:
            assert broken(two.state) == [] and canonical(one.state.kept()) == canonical(two.state.kept())
    for id_ in (r.id for r in rows):
        worlds.keep_settled(id_)
        with old.transaction() as conn, Worlds(old).reading(conn, id_) as stored:
            folded = State(stored.ground, stored.settings)
            for entry in worlds.entries(conn, stored.row):
                apply(folded, entry)
            assert settled_in(stored.state) == settled_in(folded) and stored.row.settled_to == stored.row.seq
            assert stored.past.found(LISTED, 999)[1] == sum(len(folded.past.latest(kind)) for kind in LISTED)
