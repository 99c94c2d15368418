"""The queue, kept in the database: what is put in is done by the first worker that is free, on whatever machine.

When a worker ends in the middle, another does the job again from its start.
"""

from __future__ import annotations

import asyncio
import json
import sys
from typing import Any

import orjson
import procrastinate
import structlog

from mindful_crate.jobs.imports import OUT_OF_TOUCH, Imports
from mindful_crate.store.db import Database
from mindful_crate.store.worlds import Worlds

READ_IMPORT = "read_import"


def put_schema(dsn: str) -> None:
    """The queue's own tables, where they are not there yet."""
    database = Database(dsn, most=1)
    try:
        with procrastinate.App(connector=procrastinate.SyncPsycopgConnector()).open(database.pool) as queue:
            if not queue.check_connection():
                queue.schema_manager.apply_schema()
    finally:
        database.close()


def let_read(database: Database, id_: str) -> None:
    """Have an import read by a worker."""
    queue = procrastinate.App(connector=procrastinate.SyncPsycopgConnector()).open(database.pool)
    queue.configure_task(READ_IMPORT).defer(id=id_)


def _as_json(line: Any, default: Any = None, **_: Any) -> bytes:
    try:
        return orjson.dumps(line, default=default)
    except TypeError:  # half a character, or a number of more than 64 bits
        return json.dumps(line, default=default).encode()


def let_log() -> None:
    """A worker logs as the server does: a line of JSON each."""
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.format_exc_info,
            structlog.processors.JSONRenderer(serializer=_as_json),
        ],
        logger_factory=structlog.BytesLoggerFactory(sys.stderr.buffer),
        cache_logger_on_first_use=True,
    )


def work(dsn: str, *, once: bool = False) -> None:
    """Do what is put in, one after the other, until the process is told to end; ``once``: until nothing waits."""
    asyncio.run(_work(dsn, once))


async def _work(dsn: str, once: bool) -> None:
    database = Database(dsn, most=3)
    imports = Imports(database, Worlds(database))
    queue = procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=dsn, min_size=1, max_size=3))

    @queue.task(
        name=READ_IMPORT, retry=procrastinate.RetryStrategy(wait=5, max_attempts=100, retry_exceptions=OUT_OF_TOUCH)
    )
    def read_import(id: str) -> None:  # noqa: A002
        imports.read(id)

    @queue.periodic(cron="* * * * *")
    @queue.task(name="again", pass_context=True)
    async def again(context: Any, timestamp: int) -> None:
        for job in await queue.job_manager.get_stalled_jobs():
            await queue.job_manager.retry_job(job)

    try:
        async with queue.open_async():
            await queue.run_worker_async(wait=not once, install_signal_handlers=True, delete_jobs="always")
    finally:
        database.close()
