"""Snapshots of worlds: when one is due, and how it is written while the world goes on."""

from __future__ import annotations

import threading
import time
from dataclasses import fields

import orjson
import psycopg
import structlog

from mindful_crate.core.floor.state import SNAPSHOT, Kept
from mindful_crate.core.plain import Plain, to_plain
from mindful_crate.store import db
from mindful_crate.store.loaded import Loaded

log = structlog.get_logger()

EVERY = 500
"""A snapshot is kept every so many entries, so that a replay stays short; further apart as the log grows, so that it costs each
entry the same."""
AT_ONE_GO, BETWEEN = 40, 0.003
"""So many documents of a snapshot are written at one go, about a millisecond, and so many seconds are left to others after it."""


def due(seq: int) -> int:
    """The latest entry up to one at which a snapshot is to be kept: the same for all processes, an eighth to a quarter of the log
    apart."""
    apart = EVERY
    while apart * 8 <= seq:
        apart *= 2
    return seq - seq % apart


def _unhurried(kept: Kept) -> dict[str, Plain]:
    """What a snapshot holds as plain data, some of it at a time: in between, the scans of this process have it to themselves."""
    plain: dict[str, Plain] = {}
    for field in fields(kept):
        value = getattr(kept, field.name)
        if isinstance(value, dict):
            items = list(value.items())
            whole: dict[str, Plain] = {}
            for at in range(0, len(items), AT_ONE_GO):
                whole |= to_plain(dict(items[at : at + AT_ONE_GO]))
                time.sleep(BETWEEN)
            plain[field.name] = whole
        else:
            plain[field.name] = to_plain(value)
    return plain


def keep(database: db.Database, loaded: Loaded) -> None:
    """Keep one of a world. Only the dictionaries are copied while the world is held; writing them out is left to a thread of its own."""
    loaded.snapshotting = True
    kept, world, seq = loaded.state.kept(), loaded.row.id, loaded.state.seq

    def write() -> None:
        try:
            body = orjson.dumps(_unhurried(kept))
            with database.transaction() as conn:
                db.run(conn, "put_snapshot", world=world, seq=seq, shape=SNAPSHOT, body=body)
            loaded.snapshot = max(loaded.snapshot, seq)  # others may have kept a later one meanwhile
        except psycopg.Error as error:  # the log is whole without it; the next command tries again
            log.warning("no snapshot", world=world, seq=seq, error=str(error))
        finally:
            loaded.snapshotting = False

    threading.Thread(target=write, name=f"snapshot {world}", daemon=True).start()
