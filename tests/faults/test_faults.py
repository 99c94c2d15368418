"""A small number of simulated fault runs; ``python -m tests.faults`` runs thousands."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from mindful_crate.store.db import Database
from tests.faults.simulator import Mortal, Simulation, simulate


@pytest.fixture(scope="module")
def database(dsn: str) -> Iterator[Database]:
    made = Database(dsn, most=4)
    yield made
    made.close()


@pytest.mark.parametrize("first", range(0, 120, 20))
def test_faults_leave_one_truth(database: Database, first: int) -> None:
    """Duplicates, delays, kills and lost connections: one outcome a command, one state in both processes."""
    for seed in range(first, first + 20):
        assert simulate(database, seed) > 0


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


def test_a_lost_truth_is_noticed(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    """Were a killed command answered from memory instead of the log, the simulator would say so."""
    monkeypatch.setattr(Mortal, "_known", lambda self, conn, row, command_id: None)
    with pytest.raises(Exception, match=r"seed|duplicate key"):
        for seed in range(20):
            simulate(database, seed)
