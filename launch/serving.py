"""``up`` and ``stop``: begin what serves, look after it, end it.

The launcher opens the port and keeps it; the processes that serve share it. What ends by itself is begun again, the
database first; what ends too often is given up with a sentence. Every process is remembered by id and beginning, so
that ``stop`` and the next ``up`` find what a killed launcher left behind.
"""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import time
import urllib.error
import urllib.request
from collections import deque
from collections.abc import Callable
from typing import IO

import lan
import processes
import setup
from base import Base
from cluster import free_port
from paths import DATA, PYTHON, Sorry, alone, remember, remembered, say

LOG = DATA / "server.log"
LOG_LIMIT = 20_000_000
SERVERS = 2
TRIES, WITHIN = 5, 60.0
"""So many ends within so many seconds, and a process is given up."""
LOOK = 0.25
"""Seconds between two looks at what runs."""


class Kept:
    """A process that is kept going."""

    def __init__(self, name: str, begin: Callable[[], subprocess.Popen[bytes]]) -> None:
        self.name = name
        self._begin = begin
        self._ends: deque[float] = deque(maxlen=TRIES)
        self.process = self._started()

    def _started(self) -> subprocess.Popen[bytes]:
        process = self._begin()
        processes.note(self.name, process.pid)
        return process

    def runs(self) -> bool:
        """Does it run?"""
        return self.process.poll() is None

    def again(self) -> None:
        """Begin it once more; Sorry when it ended too often."""
        too_often(self._ends, f"The {self.name}", str(LOG))
        self.process = self._started()


def too_often(ends: deque[float], what: str, log: str) -> None:
    """Count an end; Sorry when there were too many."""
    ends.append(time.monotonic())
    if len(ends) == TRIES and ends[-1] - ends[0] < WITHIN:
        raise Sorry(f"{what} ended {TRIES} times within a minute and is given up. Its log says why: {log}")


class Floor:
    """All that serves, and the database below it."""

    def __init__(self, base: Base, sockets: dict[str, socket.socket], log: IO[bytes]) -> None:
        self.base, self.sockets, self.log = base, sockets, log
        self.leash, self._held = os.pipe()  # closes with this process, whatever ends it
        self.told_to_end = False
        self._database_ends: deque[float] = deque(maxlen=TRIES)
        self.kept = [Kept("server", self._server("server")) for _ in range(SERVERS)]
        if "phones" in sockets:
            self.kept.append(Kept("server for phones", self._server("phones")))
        self.kept.append(Kept("worker", self._worker))

    def _server(self, which: str) -> Callable[[], subprocess.Popen[bytes]]:
        fd = self.sockets[which].fileno()
        own = {"CRATE_LEASH": str(self.leash), "CRATE_DOCUMENT": "no"}
        if which == "phones":
            hosts = [lan.address(), os.environ.get("CRATE_HOSTS", "")]
            own |= {"CRATE_TLS": "1", "CRATE_TLS_CERT": str(lan.CERT), "CRATE_TLS_KEY": str(lan.KEY)}
            own["CRATE_HOSTS"] = ",".join(filter(None, hosts))

        def begin() -> subprocess.Popen[bytes]:
            env = {**self.base.environment(), **own}
            return subprocess.Popen(
                [str(PYTHON), "-m", "mindful_crate.api.serve", str(fd)], env=env, stdin=subprocess.DEVNULL,
                stdout=self.log, stderr=self.log, start_new_session=True, pass_fds=(fd, self.leash),
            )  # fmt: skip

        return begin

    def _worker(self) -> subprocess.Popen[bytes]:
        return subprocess.Popen(
            [str(PYTHON), "-m", "mindful_crate.cli", "work"], env={**self.base.environment(), "CRATE_LEASH": str(self.leash)},
            stdin=subprocess.DEVNULL, stdout=self.log, stderr=self.log, start_new_session=True, pass_fds=(self.leash,),
        )  # fmt: skip

    def look_after(self) -> None:
        """Until told to end: whatever ended is begun again."""
        while not self.told_to_end:
            self._database()
            if self.base.reachable():
                for each in self.kept:
                    if not each.runs() and not self.told_to_end:
                        say(f"The {each.name} ended by itself; it is begun again.")
                        each.again()
            time.sleep(LOOK)

    def _database(self) -> None:
        cluster = self.base.cluster
        if cluster is None or cluster.running() or self.told_to_end:
            return
        say("The database ended by itself; it is started again.")
        port = cluster.port
        too_often(self._database_ends, "The database", str(cluster.log))
        try:
            cluster.start()
        except Sorry as sorry:  # a try that failed counts as an end: the next look tries again, until it is too often
            say(str(sorry))
        if cluster.port != port:  # its port was taken meanwhile: all must hear of the new one
            for each in self.kept:
                each.process.terminate()

    def end(self) -> list[processes.Known]:
        """End all of it; handed back is what would not."""
        self.told_to_end = True
        left = processes.end([known for known in processes.known() if known.name != "launcher"])
        for each in self.kept:
            each.process.poll()
        return left


def up(args: list[str]) -> int:
    """Serve until Ctrl-C."""
    asked = asked_port("CRATE_PORT")
    with alone():
        setup.everything()
        port = remembered().get("port")
        if processes.known("launcher"):
            if port and answers(port):
                say(f"Mindful Crate is running already: http://127.0.0.1:{port}")
                return 0
            raise Sorry("Mindful Crate was started here and does not answer. Run ./crate stop, then ./crate up again.")
        processes.end(processes.known())  # what a killed launcher left behind
        base = Base()
        base.start()
        if base.cli("prepare", *(["--empty"] if "--empty" in args else [])):
            base.end()
            return 1
        sockets = {"server": _open_port(asked)}
        port = sockets["server"].getsockname()[1]
        remember(port=port)
        if "--lan" in args:
            sockets["phones"] = _open_phones()
        processes.note("launcher", os.getpid())
        floor = Floor(base, sockets, _log_file())

        def end(*_: object) -> None:
            floor.told_to_end = True

        for sign in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            if signal.getsignal(sign) is not signal.SIG_IGN:  # nohup wants it to go on
                signal.signal(sign, end)
        try:
            _wait_until(port, floor)
        except Sorry:
            floor.end()
            base.end()
            raise
    if not floor.told_to_end:
        say(f"\nMindful Crate is ready: http://127.0.0.1:{port}   (Ctrl-C ends it; it logs to {LOG})\n")
        if "--lan" in args:
            lan.show(f"https://{lan.address()}:{sockets['phones'].getsockname()[1]}/handset")
    code = 0
    try:
        floor.look_after()
    except Sorry as sorry:
        say(str(sorry))
        code = 1
    left = floor.end()
    base.end()
    for each in left:
        say(f"The {each.name}, process {each.pid}, could not be ended.")
    return code


def asked_port(name: str) -> int | None:
    """The port a setting names, if it names one; Sorry when that is no port."""
    asked = os.environ.get(name, "")
    if asked and not (asked.isascii() and asked.isdigit() and 0 < int(asked) < 65536):
        raise Sorry(f"{name} is “{asked}”, which is no port. Give a number from 1 to 65535, or leave it out.")
    return int(asked) if asked else None


def _open_port(asked: int | None) -> socket.socket:
    """The port people come to: the one that is asked for, the one of last time, or any; when another program has it,
    the next that is free."""
    wanted = asked or int(remembered().get("port") or free_port())
    for port in [*range(wanted, min(wanted + 200, 65536)), 0]:
        try:
            found = _bound("127.0.0.1", port)
        except PermissionError:
            raise Sorry(f"Port {port} may not be opened by you. Name one above 1023 in CRATE_PORT.") from None
        except OSError:
            continue
        if port != wanted:
            say(
                f"Port {wanted} is taken by another program, so this is port {found.getsockname()[1]}; CRATE_PORT names one."
            )
        return found
    raise Sorry("No port is free on this machine.")


def _bound(address: str, port: int) -> socket.socket:
    made = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
    made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        made.bind((address, port))
        made.listen(2048)
    except OSError:
        made.close()
        raise
    return made


def _open_phones() -> socket.socket:
    """A second port, for the local network, over TLS: a phone's camera needs it."""
    address = lan.address()
    lan.certificate(address)
    wanted = asked_port("CRATE_LAN_PORT") or int(remembered().get("lan_port") or free_port())
    try:
        found = _bound(address, wanted)
    except OSError:
        try:
            found = _bound(address, 0)
        except OSError:
            raise Sorry(f"{address} is no address of this machine. Name one in CRATE_LAN_ADDRESS.") from None
        say(f"Port {wanted} is taken on {address}, so phones come to port {found.getsockname()[1]}.")
    remember(lan_port=found.getsockname()[1])
    return found


def _log_file() -> IO[bytes]:
    """Where the server logs, a line of JSON each; the one before is kept when it has grown large."""
    if LOG.exists() and LOG.stat().st_size > LOG_LIMIT:
        LOG.replace(LOG.with_suffix(".1.log"))
    return LOG.open("ab")


def answers(port: int) -> bool:
    """Does Mindful Crate answer there?"""
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health", timeout=5) as answer:
            return b"mindful-crate" in answer.read()
    except (urllib.error.URLError, OSError):
        return False


def _wait_until(port: int, floor: Floor) -> None:
    deadline = time.monotonic() + 60
    while not answers(port) and not floor.told_to_end:
        if not floor.kept[0].runs():
            raise Sorry(f"The server ended at once. It said:\n{LOG.read_text(errors='replace')[-1500:]}")
        if time.monotonic() > deadline:
            raise Sorry(f"The server did not answer within a minute. It logs to {LOG}")
        time.sleep(0.1)


def stop() -> int:
    """End what ``up`` started, should it still run, and the database server."""
    running = processes.known()
    launchers = [k for k in running if k.name == "launcher"]
    left = processes.end(launchers, patience=25.0)  # it ends the others, in order
    left += processes.end([k for k in running if k not in launchers])
    was, down = bool(running), True
    if not os.environ.get("CRATE_DATABASE_URL") and remembered().get("pg_home"):
        cluster = Base().cluster
        was = was or (cluster is not None and cluster.running())
        down = cluster is None or cluster.stop()
    for each in left:
        say(f"The {each.name}, process {each.pid}, could not be ended; it belongs to somebody else or hangs.")
    if not down:
        say("The database could not be stopped; it hangs.")
    if left or not down:
        return 1
    say("Stopped." if was else "Nothing was running.")
    return 0
