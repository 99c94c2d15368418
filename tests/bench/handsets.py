"""Handsets over HTTP: the application as shipped under gunicorn, scans in an open loop at a fixed rate.

The yardstick for throughput is the least a route can do here: check the signed cookie, read the person, commit one
row of the size of a log entry, under the same server settings.
"""

from __future__ import annotations

import http.client
import json
import os
import socket
import subprocess
import sys
import threading
import time
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

import orjson
import psycopg

from mindful_crate.core.rulebook.steps import BookingPoint
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.versions import stored
from mindful_crate.demo.loader import load
from mindful_crate.store.db import Database, migrate
from tests.bench.measures import Line, database

ROOT = Path(__file__).resolve().parents[2]
SECONDS = float(os.environ.get("CRATE_BENCH_SECONDS", "12"))
HEADERS = {"X-Mindful-Crate": "1", "Content-Type": "application/json"}


@contextmanager
def server(dsn: str, app: str, web: Path = ROOT) -> Iterator[int]:
    """The application under gunicorn on a free port."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    env = {
        **os.environ,
        "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}",
        "CRATE_DATABASE": dsn,
        "CRATE_SECRET": "bench",
        "CRATE_WEB": str(web),
    }
    command = [
        str(Path(sys.executable).parent / "gunicorn"),
        "--config",
        str(ROOT / "launch" / "gunicorn_conf.py"),
        "--bind",
        f"127.0.0.1:{port}",
        app,
    ]
    process = subprocess.Popen(command, env=env, start_new_session=True)
    try:
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            try:
                http.client.HTTPConnection("127.0.0.1", port, timeout=2).request("GET", "/api/health")
                break
            except OSError:
                time.sleep(0.1)
        yield port
    finally:
        process.terminate()
        process.wait()


class Client:
    """One kept-alive connection with a session."""

    def __init__(self, port: int, login: str = "tove") -> None:
        self.conn = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        self.cookie = ""
        answer = self.ask("POST", "/api/session", {"login": login, "password": "quay"})
        assert answer.get("id") == login, answer

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        """The answer as data."""
        text = json.dumps(body) if body is not None else None
        for last in (False, True):
            try:
                self.conn.request(method, path, text, {**HEADERS, "Cookie": self.cookie})
                response = self.conn.getresponse()
                content = response.read()
                break
            except (http.client.RemoteDisconnected, ConnectionError):  # an idle connection was closed
                if last:
                    raise
                self.conn.close()  # a command may be sent twice
        for name, value in response.getheaders():
            if name.lower() == "set-cookie":
                self.cookie = value.split(";")[0]
        if response.status >= 400:
            raise RuntimeError(f"{response.status} {content[:200]!r}")
        return json.loads(content) if content else {}


def share_session(port: int, cookie: str) -> Client:
    """A further connection of somebody who is signed in."""
    made = Client.__new__(Client)
    made.conn, made.cookie = http.client.HTTPConnection("127.0.0.1", port, timeout=60), cookie
    return made


def open_loop(port: int, cookie: str, handsets: int, worlds: list[str], seconds: float) -> list[float]:
    """Seconds each scan took from when it was due, one scan a second a handset, spread evenly."""
    took: list[float] = []
    lock = threading.Lock()
    begin = time.perf_counter() + 1.5

    def work(n: int) -> None:
        client, device, world = share_session(port, cookie), f"B{n}", worlds[n % len(worlds)]
        codes = ["P-01-01-2", "R-01-01-1", "LP-000064", "2900000000438", "RCV-01", "X-0000"]
        opened = client.ask("POST", f"/api/worlds/{world}/commands", {"id": uuid.uuid4().hex, "act": {"kind": "open_flow", "flow": "F-LOOK"}, "device": device})  # fmt: skip
        dialogue = opened["handset"]["question"]["dialogue"]
        for turn in range(int(seconds)):
            due = begin + turn + n / handsets
            wait = due - time.perf_counter()
            if wait > 0:
                time.sleep(wait)
            scan = {
                "kind": "answer",
                "dialogue": dialogue,
                "scan": {"text": codes[turn % len(codes)], "how": "scanned"},
                "step": None,
            }
            client.ask("POST", f"/api/worlds/{world}/commands", {"id": uuid.uuid4().hex, "act": scan, "device": device})
            with lock:
                took.append(time.perf_counter() - due)

    threads = [threading.Thread(target=work, args=(n,)) for n in range(handsets)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    return took


def throughput(port: int, cookie: str, path: str, bodies: Any, seconds: float, clients: int = 8) -> float:
    """Requests a second of a closed loop."""
    counts = [0] * clients
    stop = time.perf_counter() + seconds

    def work(n: int) -> None:
        client, body = share_session(port, cookie), bodies(n)
        while time.perf_counter() < stop:
            client.ask("POST", path(n), body())
            counts[n] += 1

    threads = [threading.Thread(target=work, args=(n,)) for n in range(clients)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    return sum(counts) / seconds


def percentile(values: list[float], share: float) -> float:
    """The value below which so large a share lies."""
    ordered = sorted(values)
    return ordered[min(len(ordered) - 1, int(len(ordered) * share))]


def _prepared(dsn: str) -> None:
    migrate(dsn)
    kept = Database(dsn, most=2)
    load(kept)
    kept.close()


def handsets() -> Iterator[Line]:
    """Answer times at 30 and 200 handsets, throughput against the barest route, and flatness as the log grows."""
    with database() as dsn:
        _prepared(dsn)
        with server(dsn, "mindful_crate.api.app:from_environment()") as port:
            boss = Client(port, "ines")
            worlds = [boss.ask("POST", "/api/worlds", {"name": f"w{n}", "draft": "d-1"})["id"] for n in range(20)]
            cookie = Client(port).cookie
            open_loop(port, cookie, 10, worlds, 3)
            for many, label in ((worlds[:1], "one world"), (worlds, "20 worlds")):
                few = open_loop(port, cookie, 30, many, SECONDS)
                lots = open_loop(port, cookie, 200, many, SECONDS)
                p30, p200 = percentile(few, 0.95), percentile(lots, 0.95)
                yield Line(f"p95 of 200 handsets over 30, {label}", f"{SECONDS:.0f} s each", p200 / p30, 3, False, f"{p30 * 1e3:.0f} ms and {p200 * 1e3:.0f} ms")  # fmt: skip

            def scans(n: int) -> Any:
                client = share_session(port, cookie)
                opened = client.ask("POST", f"/api/worlds/{worlds[n]}/commands", {"id": uuid.uuid4().hex, "act": {"kind": "open_flow", "flow": "F-LOOK"}, "device": f"T{n}"})  # fmt: skip
                dialogue = opened["handset"]["question"]["dialogue"]
                return lambda: {"id": uuid.uuid4().hex, "act": {"kind": "answer", "dialogue": dialogue, "scan": {"text": "RCV-01", "how": "scanned"}, "step": None}, "device": f"T{n}"}  # fmt: skip

            ours = throughput(port, cookie, lambda n: f"/api/worlds/{worlds[n]}/commands", scans, SECONDS)
            log = boss.ask("GET", f"/api/worlds/{worlds[0]}/log?after=0")
            flat = list(_flatness(port, dsn, boss, cookie))
        size = 900 if log["entries"] else 0
        with server(dsn, "tests.bench.barest:app()") as port:
            client = share_session(port, cookie)
            client.ask("POST", "/begin", {})
            barest = throughput(port, cookie, lambda n: "/row", lambda n: lambda: {"text": "x" * size}, SECONDS)
        yield Line(
            "throughput, against a route that commits one row",
            "8 clients",
            ours / barest,
            0.5,
            note=f"{ours:.0f}/s and {barest:.0f}/s",
        )
        yield from flat


def _long_log(pallets: int) -> list[bytes]:
    """Stored entries of so many pallets received and put away at the demo's site, five entries each."""
    start, found = datetime(2026, 3, 2, 8, 30, tzinfo=UTC), []

    def add(*events: ev.Event) -> None:
        seq = len(found) + 1
        stamp = acts.Stamp(f"f{seq}", start + timedelta(seconds=seq), date(2026, 3, 2), "oren", device="H9")  # type: ignore[arg-type]
        found.append(orjson.dumps(stored(ev.Entry(seq, acts.Command(stamp, acts.Wait(1)), ev.Done(events, "done")))))

    for n in range(pallets):
        p, t, r = f"ZP{n:07d}", f"ZT{n:07d}", f"ZR{n:07d}"
        to = f"B-0{1 + n % 6}-{1 + n % 20:02d}-1"
        add(ev.PlateStarted(p, "PAL", "RCV-01", "oren"), ev.LineNoted(p, 1, "PO-1007", 1, "ROPE-12", "m", 1))  # type: ignore[arg-type]
        add(ev.PlateFinished(p, r, "oren", BookingPoint.BY_HAND), ev.TaskMade(t, p, "RCV-01", "quay", to, "BR-3"))  # type: ignore[arg-type]
        add(ev.TaskTaken(t, "oren"))  # type: ignore[arg-type]
        add(ev.PlatePlaced(t, p, to))  # type: ignore[arg-type]
        add(ev.TimePassed(1))
    return found


def _flatness(port: int, dsn: str, boss: Client, cookie: str) -> Iterator[Line]:
    """The same scans in a world of 100 entries and in one of 100,000, in turn."""
    worlds = [boss.ask("POST", "/api/worlds", {"name": f"long{n}", "draft": "d-1"})["id"] for n in range(2)]
    with psycopg.connect(dsn) as conn:
        for world, pallets in zip(worlds, (20, 20_000), strict=True):
            rows = _long_log(pallets)
            with conn.cursor().copy("COPY entry (world, seq, command_id, body) FROM STDIN") as copy:
                for seq, body in enumerate(rows, start=1):
                    copy.write_row((world, seq, f"f{seq}", body))
            conn.execute("UPDATE world SET seq = %s WHERE id = %s", (len(rows), world))
        conn.commit()
    clients = [share_session(port, cookie) for _ in worlds]
    dialogues = []
    for client, world in zip(clients, worlds, strict=True):
        for _ in range(12):  # both processes load the log
            opened = client.ask("POST", f"/api/worlds/{world}/commands", {"id": uuid.uuid4().hex, "act": {"kind": "open_flow", "flow": "F-LOOK"}, "device": "H1"})  # fmt: skip
        dialogues.append(opened["handset"]["question"]["dialogue"])
    took: list[list[float]] = [[], []]
    for turn in range(400):
        n = turn % 2
        scan = {
            "kind": "answer",
            "dialogue": dialogues[n],
            "scan": {"text": "P-01-01-2", "how": "scanned"},
            "step": None,
        }
        began = time.perf_counter()
        clients[n].ask(
            "POST", f"/api/worlds/{worlds[n]}/commands", {"id": uuid.uuid4().hex, "act": scan, "device": "H1"}
        )
        took[n].append(time.perf_counter() - began)
    few, many = (percentile(t, 0.5) for t in took)
    yield Line("answer time at entry 100,000 over that at 100", "median of 200", many / few, 1.3, False, f"{few * 1e3:.1f} ms and {many * 1e3:.1f} ms")  # fmt: skip
