"""``python -m tests.faults [runs] [first seed] [processes]``: many simulated fault runs in one go; a failing seed is
printed. Seeds are dealt out to the processes, each of which has a database of its own."""

from __future__ import annotations

import os
import sys
import time
import uuid
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from contextlib import contextmanager

import psycopg
from psycopg.conninfo import make_conninfo

from mindful_crate.demo.loader import load
from mindful_crate.store.db import Database, migrate
from tests.faults.simulator import simulate

BATCH = 100


@contextmanager
def databases(count: int) -> Iterator[list[str]]:
    """Fresh databases on the server that is named, each with the demo."""
    server = os.environ["CRATE_TEST_DATABASE"]
    names = [f"crate_faults_{uuid.uuid4().hex[:8]}" for _ in range(count)]
    with psycopg.connect(server, autocommit=True) as conn:
        for name in names:
            conn.execute(f"CREATE DATABASE {name}")
    found = [make_conninfo(server, dbname=name) for name in names]
    try:
        for dsn in found:
            migrate(dsn)
            kept = Database(dsn, most=1)
            load(kept)
            kept.close()
        yield found
    finally:
        with psycopg.connect(server, autocommit=True) as conn:
            for name in names:
                conn.execute(f"DROP DATABASE {name} WITH (FORCE)")


def batch(dsn: str, seeds: range) -> tuple[int, list[str]]:
    """How many entries some runs wrote, and what failed."""
    database = Database(dsn, most=4)
    entries, failed = 0, []
    for seed in seeds:
        try:
            entries += simulate(database, seed)
        except AssertionError as error:
            failed.append(str(error))
    database.close()
    return entries, failed


def main() -> int:
    """Run them all."""
    given = [int(a) for a in sys.argv[1:]]
    runs, first, processes = (*given, *(10_000, 1, 1)[len(given) :])
    began, done, entries, failed = time.monotonic(), 0, 0, 0
    with databases(processes) as dsns, ProcessPoolExecutor(processes) as pool:
        starts = list(range(first, first + runs, BATCH))
        for at in range(0, len(starts), processes):
            dealt = [range(s, min(s + BATCH, first + runs)) for s in starts[at : at + processes]]
            for seeds, (more, wrong) in zip(dealt, pool.map(batch, dsns, dealt), strict=True):
                done, entries, failed = done + len(seeds), entries + more, failed + len(wrong)
                for says in wrong:
                    print(says, flush=True)
            print(f"{done} runs, {entries} entries, {failed} failed, {time.monotonic() - began:.0f} s", flush=True)
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
