"""Live messages: one PostgreSQL listener a process, fanned out to the tabs that listen.

A message says what moved and how far (``world w-1 12``), never what happened: the client fetches what is new by
sequence number, so nothing is missed or shown twice.
"""

from __future__ import annotations

import queue
import threading
import time
from collections.abc import Iterator

import psycopg
import structlog

HEARTBEAT = 2.0
"""Seconds between signs of life, which also free the threads of tabs that went away."""
log = structlog.get_logger()


class Hub:
    """Listens on the channel ``crate`` and passes each text to every listener."""

    def __init__(self, dsn: str) -> None:
        self.dsn = dsn
        self._listeners: set[queue.SimpleQueue[str]] = set()
        self._lock = threading.Lock()
        self._started = False
        self._ended = threading.Event()

    def stop(self) -> None:
        """Listen no more; what the database says from now on is not missed."""
        self._ended.set()

    def listen(self) -> Iterator[str]:
        """Server-sent events for one tab, until it goes away."""
        self._start()
        mine: queue.SimpleQueue[str] = queue.SimpleQueue()
        with self._lock:
            self._listeners.add(mine)
        try:
            yield "event: hello\ndata: hello\n\n"
            while True:
                try:
                    yield f"data: {mine.get(timeout=HEARTBEAT)}\n\n"
                except queue.Empty:
                    yield ": alive\n\n"
        finally:
            with self._lock:
                self._listeners.discard(mine)

    def _start(self) -> None:
        with self._lock:
            if not self._started:
                self._started = True
                threading.Thread(target=self._pump, daemon=True, name="notifications").start()

    def _pump(self) -> None:
        while not self._ended.is_set():
            try:
                with psycopg.connect(self.dsn, autocommit=True) as conn:
                    conn.execute("LISTEN crate")
                    self._tell("again")  # whatever was missed while out of touch is fetched now
                    for note in conn.notifies():
                        self._tell(note.payload)
            except psycopg.Error as error:
                if self._ended.is_set():
                    return
                log.warning("listener lost the database", error=str(error).strip())
                time.sleep(0.5)

    def _tell(self, text: str) -> None:
        with self._lock:
            for each in self._listeners:
                each.put(text)
