"""Live messages: one PostgreSQL listener a process, fanned out to the tabs that listen, on the event loop alone.

A message says what moved and how far (``world w-1 12``), never what happened: the client fetches what is new by
sequence number, so nothing is missed or shown twice, and of two messages about one thing only the later matters.
"""

from __future__ import annotations

import asyncio
import random
import time
from collections import defaultdict

import psycopg
import structlog

from mindful_crate.store import db

HEARTBEAT = 15.0
"""Seconds between signs of life; a tab whose machine went away without a word is found out by them."""
LONGEST = 3600.0
"""Seconds a stream lasts; the tab then asks again, and its session is looked at again."""
MOST_OF_ONE = 60
"""Streams a person may have open in one server process: tabs and handsets that share a login."""
PACE = (0.35, 0.65)
"""Seconds between two messages to one tab, drawn anew each time so that thousands are not told in step; the first comes at
once, and what happens in between is told by its latest."""
AT_ONCE = 40
"""Streams that are woken before other work of the loop has its turn."""
log = structlog.get_logger()


def _put(news: dict[str, str], key: str, text: str) -> None:
    """A message takes the place of one about the same thing, unless that one reaches further: processes tell of a world each by
    itself, and the one that was behind may tell last."""
    known = news.get(key)
    if known is None or _reach(text) >= _reach(known):
        news[key] = text


def _reach(text: str) -> int:
    """How far the thing moved that a message is about; 0 where it does not say."""
    last = text.rpartition(" ")[2]
    return int(last) if last.isdecimal() else 0


class Streams:
    """Listens on the channel ``crate`` and passes each text to every tab. Lives on one event loop."""

    def __init__(self, dsn: str) -> None:
        self.dsn = dsn
        self._open: dict[str, set[Tab]] = defaultdict(set)
        self._news: dict[str, str] = {}
        self._some = asyncio.Event()
        self._tasks: list[asyncio.Task[None]] = []
        self._ended = False

    def start(self) -> None:
        """Begin to listen; the loop must be running."""
        self._tasks = [asyncio.create_task(self._listen()), asyncio.create_task(self._tell())]

    def stop(self) -> None:
        """End every stream, and listen no more."""
        self._ended = True
        for task in self._tasks:
            task.cancel()
        for tabs in self._open.values():
            for tab in tabs:
                tab.end()

    def full(self, person: str) -> bool:
        """Has this person as many streams open as one may have?"""
        return len(self._open.get(person, ())) >= MOST_OF_ONE

    def open(self, person: str, worlds: frozenset[str] | None = None) -> Tab:
        """One tab's stream, which is told of these worlds, or of all; :meth:`close` it when it goes away."""
        tab = Tab(person, worlds)
        self._open[person].add(tab)
        return tab

    def close(self, tab: Tab) -> None:
        """The tab is gone."""
        self._open[tab.person].discard(tab)
        if not self._open[tab.person]:
            del self._open[tab.person]

    def _hear(self, text: str) -> None:
        _put(self._news, " ".join(text.split(" ")[:2]), text)
        self._some.set()

    async def _listen(self) -> None:
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(self.dsn, autocommit=True) as conn:
                    await conn.execute("LISTEN crate")
                    # whatever was missed while out of touch is fetched now, and by all, what one that ended did not tell
                    await conn.execute(db.QUERIES["notify"], {"text": "again"})
                    async for note in conn.notifies():
                        self._hear(note.payload)
            except psycopg.Error as error:
                log.warning("listener lost the database", error=str(error).strip())
                await asyncio.sleep(0.5)

    async def _tell(self) -> None:
        """Hand on what is new, some tabs at a time, so that thousands of them do not hold up ordinary requests."""
        while True:
            await self._some.wait()
            self._some.clear()
            news, self._news = self._news, {}
            for n, tab in enumerate([t for tabs in self._open.values() for t in tabs], start=1):
                tab.tell(news)
                if n % AT_ONCE == 0:
                    await asyncio.sleep(0)


class Tab:
    """One open stream: what it has not been told yet, the latest of each thing."""

    def __init__(self, person: str, worlds: frozenset[str] | None = None) -> None:
        self.person = person
        self._keys = None if worlds is None else {f"world {w}" for w in worlds}
        self._not_before = 0.0
        self._until = time.monotonic() + LONGEST
        self._waiting: dict[str, str] = {}
        self._wake = asyncio.Event()
        self._over = False

    def tell(self, news: dict[str, str]) -> None:
        """Something moved; of worlds, only those the tab looks at."""
        wanted = {k: v for k, v in news.items() if self._keys is None or k in self._keys or not k.startswith("world ")}
        if wanted:
            for key, text in wanted.items():
                _put(self._waiting, key, text)
            self._wake.set()

    def end(self) -> None:
        """There is nobody to tell any more, or nobody who tells."""
        self._over = True
        self._wake.set()

    async def next(self) -> str | None:
        """The next server-sent events as text; None at the end."""
        while not self._over and time.monotonic() < self._until:
            try:
                async with asyncio.timeout(HEARTBEAT):
                    await self._wake.wait()
            except TimeoutError:
                return ": alive\n\n"
            await asyncio.sleep(max(0.0, self._not_before - time.monotonic()))
            self._wake.clear()
            news, self._waiting = self._waiting, {}
            if news:
                self._not_before = time.monotonic() + random.uniform(*PACE)
                return "".join(f"data: {text}\n\n" for text in news.values())
        return None
