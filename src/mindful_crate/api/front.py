"""The front of the server: connections wait here, on an event loop, and only whole requests reach a thread.

Flask works in threads, and there are few of them. So a request is handed to one only when its body is there, and its
whole answer is taken back at once; whoever sends or reads slowly costs a connection, never a thread. Event streams are
told from the loop itself, after Flask has looked at the session as for any other request.
"""

from __future__ import annotations

import asyncio
import io
import os
from collections import Counter
from collections.abc import Awaitable, Callable
from concurrent.futures import ThreadPoolExecutor
from http import HTTPStatus
from tempfile import SpooledTemporaryFile
from typing import IO, Any
from urllib.parse import parse_qs

import orjson
from asgiref.wsgi import WsgiToAsgiInstance

from mindful_crate.api.doors import SLOW
from mindful_crate.api.room import MOST, room_for, too_much
from mindful_crate.api.stream import Streams, Tab

Scope = dict[str, Any]
Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[dict[str, Any]], Awaitable[None]]

THREADS = 24
"""Threads that work on requests; twice the database connections of a process."""
IN_MEMORY = 1_000_000
"""Bytes of a body that are kept in memory; more goes to a temporary file."""
PATIENCE = float(os.environ.get("CRATE_PATIENCE", "10"))
"""Seconds in which the head of a request must be there, and which a client may be silent in the middle of a body."""
SLOWEST = 20_000
"""Bytes a second a body must bring on the whole, after the first ``PATIENCE`` seconds."""
SIGN_IN = "/api/session"
MOST_SLOWED = 4
"""Wrong tries of one address that are kept waiting at a time; while there are so many, it is asked to wait."""
STREAM_OF = "X-Stream-Of"
"""Set by the view of the stream: whose it is, escaped as headers must be. It goes no further than here."""


class Cut(Exception):
    """The client went away in the middle of its request."""


class TooSlow(Exception):
    """The client did not send its request in time."""


class TooMuch(Exception):
    """The body is larger than its route takes."""


class Unknown(Exception):
    """Much is sent by somebody who is not signed in."""


class Answered:
    """A whole answer of Flask's."""

    def __init__(self, status: int, headers: list[tuple[bytes, bytes]], body: bytes) -> None:
        self.status, self.headers, self.body = status, headers, body

    def take(self, name: str) -> str:
        """A header's value, which is then a header no more; empty if it is not there."""
        wanted = name.lower().encode()
        found = next((v.decode("latin-1") for k, v in self.headers if k == wanted), "")
        self.headers = [(k, v) for k, v in self.headers if k != wanted]
        return found


def in_words(status: int, code: str, says: str) -> Answered:
    """A problem that is found before Flask sees the request. The connection is closed after it."""
    body = orjson.dumps({"title": says, "status": status, "code": code, "place": "", "changed": [], "request": ""})
    headers = [
        (b"content-type", b"application/problem+json"),
        (b"content-length", str(len(body)).encode()),
        (b"connection", b"close"),
    ]
    return Answered(status, headers, body)


class Front:
    """The ASGI application around Flask's."""

    def __init__(self, app: Any, streams: Streams) -> None:
        self.app, self.streams = app, streams
        self.slowed: Counter[str] = Counter()
        self.threads = ThreadPoolExecutor(THREADS, thread_name_prefix="request")

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request."""
        if scope["type"] != "http":
            return
        try:
            if not scope["query_string"].isascii():
                await _answer(send, in_words(400, "http", "The address holds characters that must be escaped."))
                return
            address = (scope["client"] or ("",))[0]
            signs_in = scope["method"] == "POST" and scope["path"].startswith(SIGN_IN)
            if signs_in and self.slowed[address] >= MOST_SLOWED:
                await _answer(send, in_words(429, "denied", "Too many wrong tries come from here. Wait some seconds."))
                return
            with await self._body(scope, receive) as body:
                answered = await self._flask(scope, body)
        except TooSlow:
            says = "The request did not come whole in time, so nothing was done. Send it again."
            await _answer(send, in_words(408, "too_slow", says))
            return
        except TooMuch:
            await _answer(send, in_words(413, "http", too_much(scope["path"])))
            return
        except Unknown:
            await _answer(send, in_words(401, "denied", "Sign in first."))
            return
        except Cut:
            return
        if slow := answered.take(SLOW):
            await self._slow(address, float(slow))
        person = answered.take(STREAM_OF)
        if person and scope["method"] == "GET":
            worlds = parse_qs(scope["query_string"].decode()).get("world")
            await self._stream(person, frozenset(worlds) if worlds else None, receive, send, answered)
        else:
            await _answer(send, answered)

    async def _slow(self, address: str, seconds: float) -> None:
        """Keep a wrong answer waiting; it costs a connection, no thread."""
        self.slowed[address] += 1
        try:
            await asyncio.sleep(seconds)
        finally:
            self.slowed[address] -= 1
            if not self.slowed[address]:
                del self.slowed[address]

    async def _body(self, scope: Scope, receive: Receive) -> IO[bytes]:
        """The whole body; its length is put among the headers when it came without one."""
        headers = dict(scope["headers"])
        declared = headers.get(b"content-length", b"")
        chunked = b"transfer-encoding" in headers
        if not chunked and declared in (b"", b"0"):
            return io.BytesIO()
        most = room_for(scope["path"])
        if declared.isdigit() and int(declared) > most:
            raise TooMuch
        if most > MOST and not await self._known(scope):
            raise Unknown
        body: IO[bytes] = SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115
        loop = asyncio.get_running_loop()
        began, size, more = loop.time(), 0, True
        try:
            while more:
                async with asyncio.timeout_at(min(loop.time(), began + size / SLOWEST) + PATIENCE):
                    message = await receive()
                if message["type"] == "http.disconnect":
                    raise Cut
                part, more = message.get("body", b""), message.get("more_body", False)
                size += len(part)
                if size > most:
                    raise TooMuch
                body.write(part)
        except TimeoutError:
            body.close()
            raise TooSlow from None
        except (Cut, TooMuch):
            body.close()
            raise
        body.seek(0)
        if chunked:
            kept = [(k, v) for k, v in scope["headers"] if k not in (b"content-length", b"transfer-encoding")]
            scope["headers"] = [*kept, (b"content-length", str(size).encode())]
        return body

    async def _known(self, scope: Scope) -> bool:
        """Is somebody signed in who sends this? Asked before much is taken in."""
        kept = [(k, v) for k, v in scope["headers"] if k in (b"cookie", b"authorization", b"host")]
        asks = {**scope, "method": "GET", "path": "/api/me", "query_string": b"", "headers": kept}
        return (await self._flask(asks, io.BytesIO())).status == HTTPStatus.OK

    async def _flask(self, scope: Scope, body: Any) -> Answered:
        loop = asyncio.get_running_loop()
        return await loop.run_in_executor(self.threads, _call, self.app, scope, body)

    async def _stream(
        self, person: str, worlds: frozenset[str] | None, receive: Receive, send: Send, answered: Answered
    ) -> None:
        if self.streams.full(person):
            says = "You have as many windows open as one person may. Close some, then load this one again."
            await _answer(send, in_words(429, "too_many_streams", says))
            return
        answered.take("Content-Length")
        await send({"type": "http.response.start", "status": 200, "headers": answered.headers})
        tab = self.streams.open(person, worlds)
        gone = asyncio.create_task(_end_with(receive, tab))
        text: str | None = "event: hello\ndata: hello\n\n"
        try:
            while text is not None:
                await send({"type": "http.response.body", "body": text.encode(), "more_body": True})
                text = await tab.next()
        finally:
            gone.cancel()
            self.streams.close(tab)
        await send({"type": "http.response.body", "body": b""})


async def _end_with(receive: Receive, tab: Tab) -> None:
    """End a stream when its client goes away."""
    while (await receive())["type"] != "http.disconnect":
        pass
    tab.end()


async def _answer(send: Send, answered: Answered) -> None:
    await send({"type": "http.response.start", "status": answered.status, "headers": answered.headers})
    await send({"type": "http.response.body", "body": answered.body})


def _call(app: Any, scope: Scope, body: Any) -> Answered:
    """Flask's answer to a request, taken whole; in a thread."""
    try:
        call = WsgiToAsgiInstance(app)
        call.scope = scope
        environ = call.build_environ(scope, body)
    except ValueError:
        return in_words(400, "http", "The request's headers cannot be read.")
    found: dict[str, Any] = {}

    def start(status: str, headers: list[tuple[str, str]], exc_info: Any = None) -> None:
        found["status"] = int(status.split(" ", 1)[0])
        found["headers"] = [(k.lower().encode("latin-1"), v.encode("latin-1")) for k, v in headers]

    parts = app(environ, start)
    try:
        content = b"".join(parts)
    finally:
        getattr(parts, "close", lambda: None)()
    if environ["REQUEST_METHOD"] == "HEAD":
        content = b""
    return Answered(found["status"], found["headers"], content)
