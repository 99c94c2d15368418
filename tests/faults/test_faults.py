"""A small number of simulated fault runs; ``python -m tests.faults`` runs thousands."""

from __future__ import annotations

from collections.abc import Iterator

import psycopg
import pytest

from mindful_crate.core.catalog.ids import OrderNo, WavePlanId
from mindful_crate.core.world import acts
from mindful_crate.core.world.invariants import broken
from mindful_crate.store.db import Database
from mindful_crate.store.loaded import Loaded, Who
from tests.faults.killing import run
from tests.faults.simulator import POINTS, Killed, Mortal, Simulation, simulate
from tests.faults.waves import picked_through


@pytest.fixture(scope="module")
def database(dsn: str) -> Iterator[Database]:
    made = Database(dsn, most=4)
    yield made
    made.close()


@pytest.mark.parametrize("first", range(0, 48, 8))
def test_faults_leave_one_truth(database: Database, first: int) -> None:
    """Duplicates, delays, kills and lost connections: one outcome a command, one state in both processes."""
    for seed in range(first, first + 8):
        assert simulate(database, seed) > 0


@pytest.mark.parametrize("point", POINTS)
def test_a_release_of_many_is_all_of_it_or_nothing(database: Database, point: str) -> None:
    """The process is killed while sixty orders are released: nothing of it, or all, is there for the next process; sent again, they are
    released once."""
    run = Simulation(database, 7)
    with database.transaction() as conn, run.processes[0].reading(conn, run.world) as w:
        numbers = [o for o in w.ground.orders if o.startswith("SO-")]
    who = Who("tove", None, None, ("quay",))
    for n, order in enumerate(numbers):
        run.processes[0].run(run.world, f"c{n}", acts.ConfirmOrder(OrderNo(order)), who)
    run.processes[0].run(run.world, "later", acts.Wait(600), who)
    release = acts.ReleaseOrders(tuple(OrderNo(o) for o in numbers))
    run.processes[0].dies = point
    with pytest.raises(Killed):
        run.processes[0].run(run.world, "release", release, who)

    def released(process: Mortal) -> int:
        with database.transaction() as conn, process.reading(conn, run.world) as w:
            assert broken(w.state) == []
            return len(w.state.releases)

    fresh = Mortal(database)
    assert (released(fresh) > 50) is (point == "committed")
    entries = {
        process.run(run.world, "release", release, who).seq for process in (fresh, Mortal(database), run.processes[1])
    }
    assert len(entries) == 1 and released(fresh) == released(run.processes[1]) > 50


def test_two_waves_at_once_share_no_order(database: Database) -> None:
    """Two processes make a wave of the same orders, each by a command of its own: one gets them, the other is told that none waits; and what is
    released by both is released once."""
    run = Simulation(database, 11)
    first, second = run.processes
    who = Who("tove", None, None, ("quay",))
    orders = tuple(OrderNo(o) for o in ("SO-2002", "SO-2007", "SO-2012", "SO-2017"))
    for n, order in enumerate(orders):
        first.run(run.world, f"c{n}", acts.ConfirmOrder(order), who)
    first.run(run.world, "later", acts.Wait(600), who)
    says = [p.run(run.world, f"go {n}", acts.ReleaseOrders(orders), who).says for n, p in enumerate((first, second))]
    assert "released" in says[0] and "waits for a wave" in says[1]
    waves = [
        p.run(run.world, f"wave {n}", acts.MakeWave(WavePlanId("WP-3")), who).says
        for n, p in enumerate((second, first))
    ]
    assert "of Haulage" in waves[0] and waves[1] == "No released order waits for Haulage."
    with database.transaction() as conn, Mortal(database).reading(conn, run.world) as w:
        assert broken(w.state) == [] and len(w.state.waves) == 1


def test_waves_of_every_method_are_picked_whatever_dies(database: Database) -> None:
    """A wave together, on a cart, order by order and from zone to zone, by three handsets: each line is fetched once, and no tote holds goods of nobody."""
    answers, tasks = picked_through(database, 5, 4, 3)
    assert answers > 20 and tasks > 4


def test_a_seed_repeats(database: Database) -> None:
    """The same seed gives the same log, so that a failure can be looked at again."""
    logs = []
    for _ in range(2):
        run = Simulation(database, 4711)
        run.run(20)
        with database.transaction() as conn:
            entries = Mortal(database).entries(conn, run.processes[0].row(conn, run.world))
        logs.append([(e.seq, e.command.stamp.id, e.says) for e in entries])
    assert logs[0] == logs[1]


def test_what_is_no_longer_at_hand_is_found_in_the_log(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    """Sent again long after: the same truth when nothing that was appended is remembered."""
    monkeypatch.setattr(Loaded, "note", lambda self, entries: None)
    for seed in range(3):
        simulate(database, seed)


def test_what_is_killed_between_scans_loses_and_doubles_nothing(dsn: str) -> None:
    """Servers killed before and within a command, answers nobody waits for, connections of the database ended."""

    def end_connections() -> None:
        with psycopg.connect(dsn, autocommit=True) as conn:
            conn.execute(
                "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()"
            )

    killed = run(dsn, 8, 3, end_connections)
    assert killed.total() == 8 and len(killed) >= 3


def test_a_lost_truth_is_noticed(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    """Were a killed command answered from memory instead of the log, the simulator would say so."""
    monkeypatch.setattr(Loaded, "note", lambda self, entries: None)
    monkeypatch.setattr(Mortal, "_known", lambda self, conn, row, command_id: None)
    with pytest.raises(Exception, match=r"seed|duplicate key"):
        for seed in range(20):
            simulate(database, seed)
