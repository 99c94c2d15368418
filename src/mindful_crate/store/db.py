"""Run named queries. Statements live in ``queries/*.sql``; nothing else in the code holds SQL."""

from __future__ import annotations

import os
import re
import select
import subprocess
import sysconfig
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any, LiteralString, TypeVar, cast
from urllib.parse import quote

import psycopg
from psycopg.conninfo import conninfo_to_dict
from psycopg.pq import TransactionStatus
from psycopg.rows import class_row
from psycopg_pool import ConnectionPool, PoolTimeout

T = TypeVar("T")
HERE = Path(__file__).parent
DOWN_FOR = 5.0
"""Seconds after a failed try in which the server counts as down."""
WHILE_DOWN = 0.3
"""Seconds one waits for a connection then."""
LOOK = 1.0
"""Seconds after which one who waits looks whether it went down meanwhile."""


def _load() -> dict[str, LiteralString]:
    found: dict[str, LiteralString] = {}
    for path in sorted((HERE / "queries").glob("*.sql")):
        parts = re.split(r"^-- name: (\w+)$", path.read_text(), flags=re.M)
        for name, sql in zip(parts[1::2], parts[2::2], strict=True):
            if name in found:
                raise ValueError(f"two queries are named {name}")
            found[name] = cast(LiteralString, sql.strip())
    return found


QUERIES = _load()
Conn = psycopg.Connection[Any]


def run(conn: Conn, name: str, /, **values: Any) -> None:
    """Run a statement without an answer."""
    conn.execute(QUERIES[name], values)


def rows(conn: Conn, kind: type[T], name: str, /, **values: Any) -> list[T]:
    """All rows as values of ``kind``, whose fields are the columns."""
    with conn.cursor(row_factory=class_row(kind)) as cursor:
        return cursor.execute(QUERIES[name], values).fetchall()


def row(conn: Conn, kind: type[T], name: str, /, **values: Any) -> T | None:
    """The one row as a value of ``kind``, or None."""
    with conn.cursor(row_factory=class_row(kind)) as cursor:
        return cursor.execute(QUERIES[name], values).fetchone()


def value(conn: Conn, name: str, /, **values: Any) -> Any:
    """The first column of the one row, or None."""
    found = conn.execute(QUERIES[name], values).fetchone()
    return None if found is None else found[0]


def _alive(conn: Conn) -> None:
    """Raise when an idle connection has been closed. Its server has nothing to say to it but that; only if there is
    word from it, it is asked."""
    poll = select.poll()
    poll.register(conn.fileno(), select.POLLIN | select.POLLHUP)
    if poll.poll(0):
        ConnectionPool.check_connection(conn)


class Database:
    """A pool of connections; one transaction a ``with``.

    While the server is down, whoever asks is answered soon instead of waiting in line, and each asking tries to
    connect anew; so the first request after its return is served.
    """

    def __init__(self, dsn: str, most: int = 12) -> None:
        self.dsn = dsn
        self._down_at: float | None = None
        self.pool = ConnectionPool(
            dsn,
            min_size=1,
            max_size=most,
            timeout=8,
            check=self._check,
            reconnect_timeout=0,  # one try each time; the pool's own pauses between tries grow to minutes
            reconnect_failed=lambda pool: self._not_reached(),
            open=True,
        )

    def _check(self, conn: Conn) -> None:
        try:
            _alive(conn)
        except psycopg.Error:
            self.pool.drain()  # the server was restarted: the others are as stale as this one
            raise

    def _not_reached(self) -> None:
        self._down_at = time.monotonic()

    @contextmanager
    def transaction(self) -> Iterator[Conn]:
        """A connection whose work is committed at the end, or rolled back by an exception."""
        conn = self._taken()
        try:
            yield conn
            if conn.info.transaction_status is not TransactionStatus.IDLE:
                conn.commit()
        except BaseException:
            with suppress(psycopg.Error):  # what went wrong first is what is told
                conn.rollback()
            raise
        finally:
            self.pool.putconn(conn)

    @contextmanager
    def glance(self) -> Iterator[Conn]:
        """A connection on which each statement is a transaction of its own: for one that reads on its own, which then
        goes to the server once instead of three times."""
        with self.transaction() as conn:
            conn.autocommit = True
            try:
                yield conn
            finally:
                if not conn.closed:
                    conn.autocommit = False

    def _taken(self) -> Conn:
        """A connection of the pool; waited for as long as the pool says, unless the server is out of reach."""
        until = time.monotonic() + self.pool.timeout
        while True:
            try:
                conn = self.pool.getconn(WHILE_DOWN if self._down() else min(LOOK, self.pool.timeout))
            except PoolTimeout:
                if self._down() or time.monotonic() > until:
                    raise
            else:
                self._down_at = None
                return conn

    def _down(self) -> bool:
        return self._down_at is not None and time.monotonic() - self._down_at < DOWN_FOR

    def close(self) -> None:
        """Close all connections."""
        self.pool.close()


def migrate(dsn: str) -> None:
    """Bring a database up to date with dbmate; raises RuntimeError with what it said."""
    program = Path(sysconfig.get_path("scripts")) / "dbmate"
    done = subprocess.run(
        [str(program), "--migrations-dir", str(HERE / "migrations"), "--no-dump-schema", "up"],
        env={**os.environ, "DATABASE_URL": _url(dsn)},
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode:
        raise RuntimeError(f"The database could not be brought up to date: {done.stderr.strip()}")


def _url(dsn: str) -> str:
    """The address in the form dbmate wants."""
    parts = {k: str(v) for k, v in conninfo_to_dict(dsn).items() if v is not None}
    host, port = parts.get("host", "127.0.0.1"), parts.get("port", "5432")
    login = quote(parts.get("user", "")) + (f":{quote(parts['password'])}" if "password" in parts else "")
    return f"postgres://{login}@{host}:{port}/{parts.get('dbname', '')}?sslmode=disable"


def pending(dsn: str) -> int:
    """How many migrations a database still lacks."""
    with psycopg.connect(dsn) as conn:
        there = conn.execute(QUERIES["migrations_kept"]).fetchone()
        done = {str(r[0]) for r in conn.execute(QUERIES["migrations_done"]).fetchall()} if there and there[0] else set()
    return sum(p.name.split("_")[0] not in done for p in (HERE / "migrations").glob("*.sql"))


def clear(dsn: str) -> None:
    """Take everything out of a database: the launcher's ``reset``."""
    with psycopg.connect(dsn, autocommit=True) as conn:
        conn.execute("DROP SCHEMA public CASCADE")
        conn.execute("CREATE SCHEMA public")
