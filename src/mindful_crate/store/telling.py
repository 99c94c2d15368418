"""Who looks at a world is told that it moved on, soon after and not with each entry: to notify within the statement that appends
costs every scan, and of what happens within a moment only the latest matters.

A process that ends at once may owe what it did not tell: the next one that begins to listen tells everybody to look again.
"""

from __future__ import annotations

import atexit
import threading
import time

import psycopg
import structlog

from mindful_crate.store import db

PAUSE = 0.02
"""Seconds in which what moved is gathered."""
AGAIN = 0.5
"""Seconds after which it is tried again when the database is out of reach."""
log = structlog.get_logger()


class Telling:
    """How far worlds moved, told to all listeners by a thread of its own; it begins with the first."""

    def __init__(self, database: db.Database) -> None:
        self._database = database
        self._waiting: dict[str, int] = {}
        self._lock = threading.Lock()
        self._some = threading.Event()
        self._thread: threading.Thread | None = None

    def moved(self, world: str, seq: int) -> None:
        """A world moved on, and that is committed; whoever says so holds the world, so it is never said too late."""
        with self._lock:
            self._waiting[world] = seq
            if self._thread is None:
                self._thread = threading.Thread(target=self._tell, name="telling", daemon=True)
                self._thread.start()
                atexit.register(self.flush)
        self._some.set()

    def _tell(self) -> None:
        while True:
            self._some.wait()
            self._some.clear()
            time.sleep(PAUSE)
            if not self.flush():
                time.sleep(AGAIN)
                self._some.set()

    def flush(self) -> bool:
        """Tell what waits; False when it could not be told and waits on."""
        with self._lock:
            news, self._waiting = self._waiting, {}
        if not news:
            return True
        try:
            with self._database.glance() as conn:
                db.run(conn, "notify_all", texts=[f"world {world} {seq}" for world, seq in news.items()])
        except (psycopg.Error, TimeoutError) as error:
            if self._database.pool.closed:
                return True  # nobody is left to be told by this process
            log.warning("not told", worlds=len(news), error=str(error).strip())
            with self._lock:
                self._waiting = news | self._waiting  # where a world moved on meanwhile, that is what counts
            return False
        return True
