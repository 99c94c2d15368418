"""``python -m tests.faults [runs] [first seed]``: many simulated fault runs in one go; a failing seed is printed."""

from __future__ import annotations

import os
import sys
import time
import uuid

import psycopg
from psycopg.conninfo import make_conninfo

from mindful_crate.demo.loader import load
from mindful_crate.store.db import Database, migrate
from tests.faults.simulator import simulate


def main() -> int:
    """Run them on a database of their own."""
    runs, first = (int(a) for a in (sys.argv[1:3] + ["10000", "1"][len(sys.argv) - 1 :]))
    server = os.environ["CRATE_TEST_DATABASE"]
    name = f"crate_faults_{uuid.uuid4().hex[:8]}"
    with psycopg.connect(server, autocommit=True) as conn:
        conn.execute(f"CREATE DATABASE {name}")
    dsn = make_conninfo(server, dbname=name)
    migrate(dsn)
    database = Database(dsn, most=4)
    load(database)
    began, entries, failed = time.monotonic(), 0, 0
    for n, seed in enumerate(range(first, first + runs), start=1):
        try:
            entries += simulate(database, seed)
        except AssertionError as error:
            failed += 1
            print(error, flush=True)
        if n % 500 == 0 or n == runs:
            print(f"{n} runs, {entries} entries, {failed} failed, {time.monotonic() - began:.0f} s", flush=True)
    database.close()
    with psycopg.connect(server, autocommit=True) as conn:
        conn.execute(f"DROP DATABASE {name} WITH (FORCE)")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
