"""The front of the server, with real sockets: streams, slow and broken clients, a database that goes away."""

from __future__ import annotations

import asyncio
import http.client
import json
import socket
import threading
from collections.abc import Iterator
from contextlib import suppress
from typing import Any

import pytest
from psycopg.conninfo import conninfo_to_dict, make_conninfo

from mindful_crate.api.doors import SLOW
from mindful_crate.api.front import MOST_SLOWED, THREADS, Front
from mindful_crate.api.stream import MOST_OF_ONE, Streams
from tests.api.conftest import HEADER
from tests.serving import Server


@pytest.fixture(scope="module")
def server(dsn: str) -> Iterator[Server]:
    """One server process, so that its limits are those of the whole."""
    made = Server(dsn, processes=1).start()
    yield made
    made.stop()


class Signed:
    """Somebody signed in, over real connections."""

    def __init__(self, server: Server, login: str = "ines") -> None:
        self.port, self.cookie = server.port, ""
        head, self.me = self.ask("POST", "/api/session", {"login": login, "password": "quay"})
        self.cookie = "; ".join(v.split(";")[0] for k, v in head.getheaders() if k.lower() == "set-cookie")

    def ask(self, method: str, path: str, body: Any = None, **headers: str) -> tuple[http.client.HTTPResponse, Any]:
        conn = http.client.HTTPConnection("127.0.0.1", self.port, timeout=20)
        text = None if body is None else json.dumps(body)
        sent = {**HEADER, "Content-Type": "application/json", "Cookie": self.cookie, **headers}
        conn.request(method, path, text, sent)
        head = conn.getresponse()
        content = head.read()
        conn.close()
        return head, json.loads(content) if content else None

    def stream(self) -> Any:
        """An open stream as a file of its lines, from its status line on; closing it ends it."""
        with socket.create_connection(("127.0.0.1", self.port), timeout=20) as conn:
            conn.sendall(f"GET /api/stream HTTP/1.1\r\nHost: localhost\r\nCookie: {self.cookie}\r\n\r\n".encode())
            return conn.makefile("rb")


def until(lines: Any, wanted: bytes) -> bytes:
    """The first line that begins so."""
    return next(line for line in lines if line.startswith(wanted))


def raw(server: Server, sent: bytes) -> tuple[int, Any]:
    """What is answered to these bytes: the status, and the problem told; the server then closes the connection."""
    with socket.create_connection(("127.0.0.1", server.port), timeout=20) as conn:
        conn.sendall(sent)
        head = http.client.HTTPResponse(conn)
        head.begin()
        return head.status, json.loads(head.read())


def test_the_stream_says_what_moved(server: Server) -> None:
    """A command in a world is told to every listener with world and sequence number; what says nothing of whose the
    stream is."""
    ines = Signed(server)
    lines = ines.stream()
    head = list(iter(lines.readline, b"\r\n"))
    assert head[0].startswith(b"HTTP/1.1 200") and not any(b"x-stream-of" in line.lower() for line in head)
    until(lines, b"data: hello")
    world = ines.ask("POST", "/api/worlds", {"name": "tried", "draft": "d-1"})[1]["id"]
    act = {"id": "c-1", "act": {"kind": "confirm_order", "order": "PO-1007"}}
    ines.ask("POST", f"/api/worlds/{world}/commands", act)
    assert until(lines, b"data: world").split()[1:] == [b"world", world.encode(), b"2"]
    lines.close()


def test_one_person_may_not_open_every_stream(server: Server) -> None:
    """The limit is a person's own: another is served. One that closes makes room."""
    mara, oren = Signed(server, "mara"), Signed(server, "oren")  # nobody whose streams of before may still count
    streams = [mara.stream() for _ in range(MOST_OF_ONE)]
    for lines in streams:
        until(lines, b"data: hello")
    lines = mara.stream()
    assert b" 429 " in lines.readline()
    lines.close()
    lines = oren.stream()
    assert until(lines, b"data: hello")
    lines.close()
    for lines in streams:
        lines.close()
    while True:  # the server hears of it when it hears of it
        lines = mara.stream()
        status = lines.readline()
        lines.close()
        if b" 200 " in status:
            break


def test_half_sent_requests_hold_up_nobody(server: Server) -> None:
    """More of them than there are threads, signed out, with heads and with bodies that do not come: others are served,
    and a body that comes in pieces arrives whole."""
    halves = []
    for n in range(4 * THREADS):
        conn = socket.create_connection(("127.0.0.1", server.port), timeout=20)
        body = b"POST /api/session HTTP/1.1\r\nHost: localhost\r\nX-Mindful-Crate: 1\r\nContent-Type: application/json\r\nContent-Length: 40\r\n\r\n"
        conn.sendall(b"GET /api/hea" if n % 2 else body + b'{"lo')
        halves.append(conn)
    ines = Signed(server)
    assert ines.me["id"] == "ines"
    text = b'gin":"oren","password":"quay"}'
    whole = halves[0]
    whole.sendall(text + b" " * (36 - len(text)))
    head = http.client.HTTPResponse(whole)
    head.begin()
    assert head.status == 200 and json.loads(head.read())["id"] == "oren"
    for conn in halves:
        conn.close()


def test_a_request_that_does_not_come_is_ended_in_words(dsn: str) -> None:
    """Head and body both have their time; what is told says that nothing was done."""
    made = Server(dsn, processes=1)
    made.env["CRATE_PATIENCE"] = "0.3"
    made.start()
    try:
        assert raw(made, b"GET /api/hea")[0] == 408
        status, told = raw(made, b"POST /api/session HTTP/1.1\r\nHost: localhost\r\nContent-Length: 9\r\n\r\n{")
        assert status == 408 and "nothing was done" in told["title"]
    finally:
        made.stop()


@pytest.mark.parametrize(
    ("sent", "status"),
    [
        (b"GET /" + b"a" * 40_000 + b" HTTP/1.1\r\n\r\n", 431),
        (b"GET /api/" + b"a" * 9_000 + b" HTTP/1.1\r\nHost: localhost\r\n\r\n", 404),
        (b"GET / HTTP/1.1\r\nX: " + b"a" * 40_000 + b"\r\n\r\n", 431),
        (b"\x16\x03\x01\x02\x00\x01\x00\r\n\r\n", 400),
        (b"GET /?x=\xff HTTP/1.1\r\nHost: localhost\r\n\r\n", 400),
        (b"GET /api/%ff%00 HTTP/1.1\r\nHost: localhost\r\n\r\n", 404),
        (
            b"POST /api/session HTTP/1.1\r\nHost: localhost\r\nX-Mindful-Crate: 1\r\nContent-Length: 9000000\r\n\r\n",
            413,
        ),
        (
            b"POST /api/pictures HTTP/1.1\r\nHost: localhost\r\nX-Mindful-Crate: 1\r\nContent-Length: 40000000\r\n\r\n",
            413,
        ),
        (
            b"POST /api/ground/imports HTTP/1.1\r\nHost: localhost\r\nX-Mindful-Crate: 1\r\nContent-Length: 9000000\r\n\r\n",
            401,
        ),
    ],
)
def test_what_cannot_be_served_is_refused_in_words(server: Server, sent: bytes, status: int) -> None:
    """Heads that are too long, that are none, and bodies that are too large or from nobody we know: a problem in JSON, at
    once, without the body."""
    found, told = raw(server, sent)
    assert found == status and told["title"]


def test_wrong_answers_wait_in_front_of_the_threads() -> None:
    """The answer is kept, not a thread; while an address has as many waiting as it may, it is told to wait."""

    def wrong(environ: Any, start: Any) -> list[bytes]:
        start("422 x", [(SLOW, "0.2"), ("Content-Type", "text/plain")])
        return [b"wrong"]

    async def asked() -> list[tuple[int, list[Any]]]:
        front = Front(wrong, Streams(""))

        async def one(client: str, method: str = "POST") -> tuple[int, list[Any]]:
            sent: list[dict[str, Any]] = []

            async def send(message: dict[str, Any]) -> None:
                sent.append(message)

            async def receive() -> dict[str, Any]:
                return {"type": "http.request", "body": b""}

            scope = {
                "type": "http", "method": method, "path": "/api/session", "query_string": b"", "headers": [], "client": (client, 1),
                "http_version": "1.1",
            }  # fmt: skip
            await front(scope, receive, send)
            return sent[0]["status"], sent[0]["headers"]

        many = [asyncio.create_task(one("192.0.2.1")) for _ in range(MOST_SLOWED)]
        while front.slowed["192.0.2.1"] < MOST_SLOWED:
            await asyncio.sleep(0)
        found = [
            await one("192.0.2.1"),
            await one("192.0.2.2"),
            await one("192.0.2.1", "DELETE"),
            *[await m for m in many],
        ]
        assert not front.slowed
        return found

    answers = asyncio.run(asked())
    assert [status for status, _ in answers] == [429] + [422] * (MOST_SLOWED + 2)
    assert not any(k == SLOW.lower().encode() for _, headers in answers for k, _ in headers)


class Cable:
    """A cable to the database that can be pulled out: connections break, new ones are refused."""

    def __init__(self, dsn: str) -> None:
        parts = conninfo_to_dict(dsn)
        self.to = (str(parts["host"]), int(str(parts["port"])))
        self.port = 0
        self.plug()
        self.dsn = make_conninfo(dsn, host="127.0.0.1", port=self.port)

    def plug(self) -> None:
        self.ends: list[socket.socket] = []
        self.listener = socket.create_server(("127.0.0.1", self.port))
        self.port = self.listener.getsockname()[1]
        threading.Thread(target=self._accept, args=(self.listener,), daemon=True).start()

    def pull(self) -> None:
        self.listener.shutdown(socket.SHUT_RDWR)
        self.listener.close()
        for end in self.ends:
            with suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)

    def _accept(self, listener: socket.socket) -> None:
        with suppress(OSError):
            while True:
                near, far = listener.accept()[0], socket.create_connection(self.to)
                self.ends += [near, far]
                for one, other in ((near, far), (far, near)):
                    threading.Thread(target=self._carry, args=(one, other), daemon=True).start()

    @staticmethod
    def _carry(one: socket.socket, other: socket.socket) -> None:
        with suppress(OSError):
            while part := one.recv(65536):
                other.sendall(part)
        with suppress(OSError):
            other.shutdown(socket.SHUT_RDWR)
        one.close()


def test_when_the_database_is_back_the_next_request_is_served(dsn: str) -> None:
    """While it is away everybody is told so in words; the first request after its return is answered, whatever stale
    connections lie about, and the stream tells its tab to look again."""
    cable = Cable(dsn)
    made = Server(cable.dsn, processes=1).start()
    try:
        ines = Signed(made)
        lines = ines.stream()
        until(lines, b"data: hello")
        at_once = [threading.Thread(target=ines.ask, args=("GET", "/api/rehearsals")) for _ in range(12)]
        for each in at_once:
            each.start()
        for each in at_once:
            each.join()
        for _ in range(2):  # and away again when it was back
            cable.pull()
            for _ in range(4):
                head, told = ines.ask("GET", "/api/me")
                assert head.status == 503 and "out of reach" in told["title"]
            cable.plug()
            assert ines.ask("GET", "/api/me")[0].status == 200
            until(lines, b"data: again")
        lines.close()
    finally:
        made.stop()
        cable.pull()


def test_the_one_that_is_behind_takes_nothing_back() -> None:
    """Two processes tell of a world in another order than it moved: a tab is told how far it is, of other things the latest."""

    async def told() -> str:
        streams = Streams("")
        tab = streams.open("ines")
        for text in ("world w-1 11", "world w-1 10", "again", "world w-2 3", "world w-2 4"):
            streams._hear(text)
        teller = asyncio.create_task(streams._tell())
        found = await tab.next()
        teller.cancel()
        return found or ""

    assert asyncio.run(told()) == "data: world w-1 11\n\ndata: again\n\ndata: world w-2 4\n\n"
