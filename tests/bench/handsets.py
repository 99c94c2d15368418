"""Handsets over HTTP: the application as shipped, scans in an open loop at a fixed rate.

The yardstick for processor time is the least a route can do here (``barest.py``): read who asks by a cookie, commit one row
of the size of a log entry.
"""

from __future__ import annotations

import http.client
import itertools
import json
import os
import socket
import subprocess
import sys
import threading
import time
import uuid
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

import orjson
import psycopg

from mindful_crate.core.rulebook.steps import BookingPoint
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.versions import stored
from tests.bench import barest, big
from tests.bench.floor import placed, taken, work_made
from tests.bench.measures import Line, demo_database
from tests.serving import Server

ROOT = Path(__file__).resolve().parents[2]
SECONDS = 1.0 if big.TINY else float(os.environ.get("CRATE_BENCH_SECONDS", "12"))
HEADERS = {"X-Mindful-Crate": "1", "Content-Type": "application/json"}


@contextmanager
def server(dsn: str) -> Iterator[Server]:
    """The application as it is shipped, on a free port; what it logs goes nowhere."""
    made = Server(dsn, quiet=True).start()
    try:
        yield made
    finally:
        made.stop()


class Barest:
    """The yardstick under gunicorn."""

    def __init__(self, dsn: str) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        env = {**os.environ, "PYTHONPATH": str(ROOT), "CRATE_DATABASE": dsn}
        command = [sys.executable, "-m", "gunicorn", "--bind", f"127.0.0.1:{self.port}", *barest.COMMAND]
        self.process = subprocess.Popen(command, env=env, start_new_session=True, cwd=ROOT)
        while True:
            try:
                http.client.HTTPConnection("127.0.0.1", self.port, timeout=2).request("GET", "/api/health")
                return
            except OSError:
                time.sleep(0.1)

    @property
    def pids(self) -> list[int]:
        """Its processes."""
        return [self.process.pid, *children(self.process.pid)]

    def stop(self) -> None:
        """End it."""
        self.process.terminate()
        self.process.wait()


def children(pid: int) -> list[int]:
    """Processes begun by a process."""
    return [int(p) for p in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]


TICK = os.sysconf("SC_CLK_TCK")


def processor(pids: list[int], *, ended: bool = False) -> float:
    """Seconds of processor time that processes took, with those of children that ended if asked."""
    total = 0
    for pid in pids:
        with suppress(OSError):  # a backend that ended meanwhile is counted by its parent
            fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
            total += sum(int(f) for f in fields[11 : 15 if ended else 13])
    return total / TICK


def database_time(dsn: str) -> float:
    """Seconds of processor time the database server took: its own, of what it runs, and of what ended. 0 when it runs on
    another machine."""
    with psycopg.connect(dsn) as conn:
        found = conn.execute("SELECT pg_backend_pid()").fetchone()
        try:
            head = int(Path(f"/proc/{found[0] if found else 0}/stat").read_text().rpartition(")")[2].split()[1])
        except OSError:
            return 0.0
    return processor([head], ended=True) + processor(children(head))


class Client:
    """One kept-alive connection with a session."""

    def __init__(self, port: int, login: str = "tove") -> None:
        self.conn = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        self.cookie = ""
        answer = self.ask("POST", "/api/session", {"login": login, "password": "quay"})
        assert answer.get("id") == login, answer

    def send(self, method: str, path: str, body: Any = None) -> None:
        """Ask, and do not wait for the answer."""
        text = json.dumps(body) if body is not None else None
        self.conn.request(method, path, text, {**HEADERS, "Cookie": self.cookie})

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        """The answer as data."""
        for last in (False, True):
            try:
                self.send(method, path, body)
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
    begin = time.perf_counter() + (0.2 if big.TINY else 1.5)

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


def closed_loop(port: int, cookie: str, path: Any, bodies: list[Any], each: int) -> None:
    """So many requests of each client, one after another; a client for each way to make a body, from the answer before."""
    clients = len(bodies)

    def work(n: int) -> None:
        client, answer = share_session(port, cookie), None
        for _ in range(each):
            answer = client.ask("POST", path(n), bodies[n](answer))
        client.conn.close()

    threads = [threading.Thread(target=work, args=(n,)) for n in range(clients)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()


def percentile(values: list[float], share: float) -> float:
    """The value below which so large a share lies."""
    ordered = sorted(values)
    return ordered[min(len(ordered) - 1, int(len(ordered) * share))]


def handsets() -> Iterator[Line]:
    """Answer times at 30 and 200 handsets, throughput against the barest route, and flatness as the log grows."""
    with demo_database() as dsn, server(dsn) as served:
        port = served.port
        boss = Client(port, "ines")
        worlds = [
            boss.ask("POST", "/api/worlds", {"name": f"w{n}", "draft": "d-1"})["id"]
            for n in range(CLIENTS if big.TINY else 20)
        ]
        cookie = Client(port).cookie
        open_loop(port, cookie, big.few(10), worlds, min(3, SECONDS))
        for many, label in ((worlds[:1], "one world"), (worlds, "20 worlds")):
            fewer, more = (5, 10) if big.TINY else (30, 200)
            few = open_loop(port, cookie, fewer, many, SECONDS)
            pids = [p.pid for p in served.processes]
            kept, before, began = kept_entries(dsn, many), processor(pids) + database_time(dsn), time.perf_counter()
            lots = open_loop(port, cookie, more, many, SECONDS)
            used = (processor(pids) + database_time(dsn) - before) / (time.perf_counter() - began)
            lost = kept_entries(dsn, many) - kept - len(lots) - more  # each begins with a flow that is opened
            yield Line(f"processors used at {more} scans a second, {label}", "servers and database", used, 1, False, f"of {os.cpu_count()}")  # fmt: skip
            yield Line(f"scans lost, doubled or out of order at {more} a second, {label}", f"{len(lots):,} scans", abs(lost) + disorder(dsn), 0, False)  # fmt: skip
            p30, p200 = percentile(few, 0.95), percentile(lots, 0.95)
            yield Line(f"p95 of {more} handsets over {fewer}, {label}", f"{SECONDS:.0f} s each", p200 / p30, 3, False, f"{p30 * 1e3:.0f} ms and {p200 * 1e3:.0f} ms")  # fmt: skip
        yield from _processor_time(served, dsn, cookie, worlds)
        yield from _flatness(port, dsn, boss, cookie)


def kept_entries(dsn: str, worlds: list[str]) -> int:
    """How many entries of handsets there are in the logs of some worlds; what is done by the clock meanwhile is not among them."""
    with psycopg.connect(dsn) as conn:
        bodies = conn.execute("SELECT body FROM entry WHERE world = ANY(%s)", [worlds]).fetchall()
    return sum(bool(orjson.loads(b)["command"]["stamp"].get("device")) for (b,) in bodies)


def disorder(dsn: str) -> int:
    """Gaps in logs, and questions of a handset that were answered in another order than they were asked."""
    wrong = 0
    with psycopg.connect(dsn) as conn:
        for world, body in conn.execute("SELECT world, array_agg(body ORDER BY seq) FROM entry GROUP BY world"):
            at: dict[str, int] = {}
            for n, entry in enumerate((orjson.loads(b) for b in body), start=1):
                wrong += entry["seq"] != n
                stamp = entry["command"]["stamp"]
                moment = int(datetime.fromisoformat(stamp["at"]).timestamp() * 1e6)
                wrong += moment < at.get(stamp.get("device") or world, 0)
                at[stamp.get("device") or world] = moment
    return wrong


TURNS, EACH, CLIENTS = (1, 8, 2) if big.TINY else (10, 64, 8)


def answers(text: str, dialogue: str) -> dict[str, Any]:
    """A scan."""
    return {"kind": "answer", "dialogue": dialogue, "scan": {"text": text, "how": "scanned"}, "step": None}


def _processor_time(served: Server, dsn: str, cookie: str, worlds: list[str]) -> Iterator[Line]:
    """Processor time of a scan against that of the barest route, servers and database together, in turns."""
    port = served.port

    def scans(n: int) -> Any:
        """Goods are received: item and pieces three times, a wrong scan, and every eighth finishes the plate."""
        client, device = share_session(port, cookie), f"T{n}"
        dialogue = ""
        for act in ({"kind": "open_flow", "flow": "F-RECEIVE"}, answers("PO-1001", "")):
            if dialogue:
                act["dialogue"] = dialogue
            opened = client.ask(
                "POST", f"/api/worlds/{worlds[n]}/commands", {"id": uuid.uuid4().hex, "act": act, "device": device}
            )
            dialogue = opened["handset"]["question"]["dialogue"]
        turns = itertools.cycle([*["SHK-08", "1"] * 3, "X-0000", ""])
        known = [dialogue]

        def body(answer: Any) -> Any:
            question = answer and answer["handset"]["question"]
            known[0] = question["dialogue"] if question else known[0]
            text = next(turns)
            act = answers(text, known[0]) if text else {"kind": "press", "dialogue": known[0], "action": "finish"}
            return {"id": uuid.uuid4().hex, "act": act, "device": device}

        return body

    bare = Barest(dsn)
    try:
        client = share_session(bare.port, "")
        client.ask("POST", "/begin", {})
        ways = {
            "ours": (port, cookie, lambda n: f"/api/worlds/{worlds[n]}/commands", [scans(n) for n in range(CLIENTS)], [p.pid for p in served.processes]),
            "barest": (bare.port, client.cookie, lambda n: "/row", [lambda _: {"text": "x" * 900}] * CLIENTS, bare.pids),
        }  # fmt: skip
        took: Counter[str] = Counter()
        wall: Counter[str] = Counter()
        for turn in range(TURNS + 1):
            for name, (at, who, path, bodies, pids) in ways.items():
                before, began = processor(pids) + database_time(dsn), time.perf_counter()
                closed_loop(at, who, path, bodies, EACH)
                if turn:  # the first warms both up
                    took[name] += processor(pids) + database_time(dsn) - before  # type: ignore[assignment]
                    wall[name] += time.perf_counter() - began  # type: ignore[assignment]
    finally:
        bare.stop()
    count = TURNS * CLIENTS * EACH
    note = ", ".join(f"{n} {took[n] / count * 1e3:.2f} ms, {count / wall[n]:.0f}/s" for n in took)
    yield Line("processor time of a scan of receiving, over a route that commits one row", f"{count:,} of each in turns", took["ours"] / max(took["barest"], 1e-9), 1.5, False, note)  # fmt: skip


def long_log(pallets: int) -> list[bytes]:
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
        add(ev.PlateFinished(p, r, "oren", BookingPoint.BY_HAND), work_made(t, p, "RCV-01", to, "BR-3"))  # type: ignore[arg-type]
        add(*taken(t, p, "RCV-01"))
        add(placed(t, p, to))
        add(ev.TimePassed(1))
    return found


def _flatness(port: int, dsn: str, boss: Client, cookie: str) -> Iterator[Line]:
    """The same scans in a world of 100 entries and in one of 100,000, in turn."""
    worlds = [boss.ask("POST", "/api/worlds", {"name": f"long{n}", "draft": "d-1"})["id"] for n in range(2)]
    with psycopg.connect(dsn) as conn:
        for world, pallets in zip(worlds, (20, big.few(20_000)), strict=True):
            rows = long_log(pallets)
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
    for turn in range(big.few(400)):
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
