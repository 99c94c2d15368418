"""What tests share: the demo's ground, a small made-up site, databases made from a template."""

from __future__ import annotations

import os
import subprocess
import sys
import uuid
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
from hypothesis import settings
from psycopg.conninfo import make_conninfo

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.demo.loader import demo_opening, demo_rulebook

settings.register_profile("ours", deadline=None)  # how long an example takes says how busy the machine is
settings.load_profile("ours")
ROOT = Path(__file__).resolve().parent.parent


@pytest.fixture(scope="session")
def ground() -> Ground:
    """The demo site."""
    return Ground(demo_opening())


@pytest.fixture(scope="session")
def rulebook() -> Rulebook:
    """The demo's rulebook."""
    return demo_rulebook()


@pytest.fixture(scope="session")
def server_dsn() -> str:
    """A PostgreSQL server for tests: the one the launcher names, else our own cluster, started now."""
    named = os.environ.get("CRATE_TEST_DATABASE")
    if named:
        return named
    sys.path.insert(0, str(ROOT / "launch"))
    from cluster import Cluster

    cluster = Cluster()
    cluster.start()
    return str(cluster.dsn("postgres"))


@pytest.fixture(scope="session")
def template(server_dsn: str) -> Iterator[str]:
    """A database with the demo loaded, of which every test module gets a copy."""
    from mindful_crate.demo.loader import load
    from mindful_crate.jobs.queue import put_schema
    from mindful_crate.store.db import Database, migrate

    name = f"crate_test_{uuid.uuid4().hex[:8]}"
    dsn = make_conninfo(server_dsn, dbname=name)
    migrate(dsn)
    put_schema(dsn)
    database = Database(dsn, most=2)
    load(database)
    database.close()
    yield name
    with psycopg.connect(server_dsn, autocommit=True) as conn:
        conn.execute(f"DROP DATABASE {name} WITH (FORCE)")


@pytest.fixture(scope="module")
def dsn(server_dsn: str, template: str) -> Iterator[str]:
    """A fresh copy of the demo's database."""
    name = f"crate_test_{uuid.uuid4().hex[:8]}"
    with psycopg.connect(server_dsn, autocommit=True) as conn:
        conn.execute(f"CREATE DATABASE {name} TEMPLATE {template}")
    yield make_conninfo(server_dsn, dbname=name)
    with psycopg.connect(server_dsn, autocommit=True) as conn:
        conn.execute(f"DROP DATABASE {name} WITH (FORCE)")


def crate(*args: str, **env: str) -> subprocess.CompletedProcess[str]:
    """Run the application's command line."""
    return subprocess.run(
        [sys.executable, "-m", "mindful_crate.cli", *args],
        env={**os.environ, "PYTHONPATH": str(ROOT / "src"), **env},
        capture_output=True,
        text=True,
        check=False,
    )
