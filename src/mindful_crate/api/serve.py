"""One server process: ``python -m mindful_crate.api.serve FD``, listening on a socket the launcher opened.

The launcher keeps the socket, so a process that ends and is begun again loses no connection that waits, and several
processes share one port.
"""

from __future__ import annotations

import asyncio
import gc
import os
import resource
import socket
import sys
from typing import Any

import httptools
import uvicorn
from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

from mindful_crate import leash
from mindful_crate.api.app import from_environment
from mindful_crate.api.front import PATIENCE, Front, in_words
from mindful_crate.api.stream import Streams

MOST_HEAD = 32_768
"""Bytes of a request's head."""
MOST_CONNECTIONS = 6_000
"""Connections of one process; more are told that it is full."""
COLLECTED = (20_000, 20, 20)
"""The garbage collector looks after so many new objects, not after every 700: a scan makes some thousand that go by themselves,
and each look at all that is in memory of the worlds costs as much as several scans."""
PATIENT = 0.0005
"""Seconds after which a thread that computes lets others in: a scan comes to that some ten times, and with the usual 5 ms would stand
for as long as something large is computed or written."""
FILES_SPARE = 300
"""File handles kept for the database and temporary files."""


class Protocol(HttpToolsProtocol):
    """uvicorn's, with an end to waiting for a head, a bound on its size, and refusals in words."""

    def connection_made(self, transport: Any) -> None:
        """A client has connected; it must send a head."""
        super().connection_made(transport)
        self._head_bytes = self._came = 0
        self._head_clock: asyncio.TimerHandle | None = None
        self._await_head()

    def connection_lost(self, exc: Exception | None) -> None:
        """It has gone."""
        self._head_there()
        super().connection_lost(exc)

    def data_received(self, data: bytes) -> None:
        """Bytes of a head or of a body."""
        if self._head_clock is None and (self.cycle is None or self.cycle.response_complete):
            self._await_head()  # a further request on a connection that is kept
        self._came += len(data)
        super().data_received(data)
        if self._head_clock is not None and self._came > MOST_HEAD:
            self._too_long()

    def on_url(self, url: bytes) -> None:
        """A part of the address."""
        self._head_bytes += len(url)
        super().on_url(url)

    def on_header(self, name: bytes, value: bytes) -> None:
        """A header."""
        self._head_bytes += len(name) + len(value)
        super().on_header(name, value)

    def on_headers_complete(self) -> None:
        """The head is there."""
        self._head_there()
        if self._head_bytes > MOST_HEAD:
            self._too_long()
            return
        try:
            super().on_headers_complete()
        except (httptools.HttpParserInvalidURLError, UnicodeDecodeError):
            self._refuse(400, "The address of the request cannot be read.")

    def on_body(self, body: bytes) -> None:
        """A part of a body, of a request that was not refused."""
        if self.cycle is not None:
            super().on_body(body)

    def on_message_complete(self) -> None:
        """The end of a request, if it was not refused."""
        if self.cycle is not None:
            super().on_message_complete()

    def send_400_response(self, msg: str) -> None:
        """What came is no request."""
        self._head_there()
        self._refuse(400, "What was sent is no request this server can read.")

    def _too_long(self) -> None:
        self._refuse(431, "The address or the headers of the request are too long.")

    def _await_head(self) -> None:
        self._head_bytes = self._came = 0
        self._head_clock = self.loop.call_later(PATIENCE, self._head_late)

    def _head_there(self) -> None:
        if self._head_clock is not None:
            self._head_clock.cancel()
            self._head_clock = None

    def _head_late(self) -> None:
        self._head_clock = None
        if not self.transport.is_closing():
            if self._came:
                self._refuse(408, "The request did not come whole in time, so nothing was done. Send it again.")
            else:
                self.transport.close()

    def _refuse(self, status: int, says: str) -> None:
        if self.transport.is_closing():
            return
        answered = in_words(status, "http", says)
        head = b"HTTP/1.1 %d x\r\n" % status + b"".join(k + b": " + v + b"\r\n" for k, v in answered.headers)
        self.transport.write(head + b"\r\n" + answered.body)
        self.transport.close()


class Server(uvicorn.Server):
    """Ends the streams first when it is told to end, so that ordinary requests have the time that is left."""

    def __init__(self, config: uvicorn.Config, streams: Streams) -> None:
        super().__init__(config)
        self.streams = streams

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        """Begin to serve."""
        self.streams.start()
        await super().startup(sockets)

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        """End."""
        self.streams.stop()
        await super().shutdown(sockets)


def main(args: list[str]) -> int:
    """Serve until told to end."""
    leash.hold()
    gc.set_threshold(*COLLECTED)
    sys.setswitchinterval(PATIENT)
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    files = hard if hard != resource.RLIM_INFINITY else 65_536
    resource.setrlimit(resource.RLIMIT_NOFILE, (max(soft, files), hard))
    app = from_environment()
    streams = Streams(os.environ["CRATE_DATABASE"])
    front = Front(app, streams)
    config = uvicorn.Config(
        front, http=Protocol, ws="none", lifespan="off", loop="uvloop", log_config=None, access_log=False,
        server_header=False, timeout_keep_alive=20, timeout_graceful_shutdown=3, backlog=2048, proxy_headers=False,
        limit_concurrency=max(100, min(MOST_CONNECTIONS, files - FILES_SPARE)),
        ssl_certfile=os.environ.get("CRATE_TLS_CERT"), ssl_keyfile=os.environ.get("CRATE_TLS_KEY"),
    )  # fmt: skip
    Server(config, streams).run(sockets=[socket.socket(fileno=int(args[0]))])
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
