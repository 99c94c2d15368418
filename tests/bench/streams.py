"""Thousands of open event streams and half-sent requests: are ordinary requests as quick as before, and in how much memory?

What is measured takes turns: nothing held, everything held, nothing, everything; so a busy moment of the machine falls on
both. Each scan is told to every stream.
"""

from __future__ import annotations

import subprocess
import sys
import time
import uuid
from collections.abc import Callable, Iterator
from pathlib import Path

from mindful_crate.api.doors import HASHER
from mindful_crate.store import db
from mindful_crate.store.db import Database
from tests.bench import big
from tests.bench.handsets import ROOT, Client, percentile, server
from tests.bench.measures import Line, demo_database
from tests.serving import Server

STREAMS, HALVES, PEOPLE = (40, 20, 2) if big.TINY else (2_000, 500, 60)
SCANS, TURNS = (5, 1) if big.TINY else (200, 2)


def streams() -> Iterator[Line]:
    """p95 of ordinary requests with all of it held over p95 without, and the memory a stream takes."""
    with demo_database() as dsn:
        _people(dsn)
        with server(dsn) as served:
            cookies = [Client(served.port, f"p{n}").cookie for n in range(PEOPLE)]
            boss, hands = Client(served.port, "ines"), Client(served.port)
            world = boss.ask("POST", "/api/worlds", {"name": "w", "draft": "d-1"})["id"]
            opened = hands.ask("POST", f"/api/worlds/{world}/commands", {"id": "o", "act": {"kind": "open_flow", "flow": "F-LOOK"}, "device": "H1"})  # fmt: skip
            dialogue = opened["handset"]["question"]["dialogue"]
            _took(boss, hands, world, dialogue)  # warm
            others = [
                boss.ask("POST", "/api/worlds", {"name": f"w{n}", "draft": "d-1"})["id"]
                for n in range(1 if big.TINY else 19)
            ]
            for label, looked_at in (
                ("each of 20 worlds looked at", [world, *others]),
                ("all told of each scan", [world]),
            ):
                yield from _held(served, cookies, looked_at, label, lambda: _took(boss, hands, world, dialogue))


def _held(
    served: Server, cookies: list[str], looked_at: list[str], label: str, took: Callable[[], list[float]]
) -> Iterator[Line]:
    quiet: list[float] = []
    held: list[float] = []
    before, most = memory(served), 0.0
    for _ in range(TURNS):
        quiet += took()
        command = [
            sys.executable,
            str(ROOT / "tests" / "bench" / "holder.py"),
            str(served.port),
            str(STREAMS),
            str(HALVES),
        ]
        with subprocess.Popen(
            [*command, *looked_at], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
        ) as holder:
            assert holder.stdin and holder.stdout
            holder.stdin.write("|".join(cookies) + "\n")
            holder.stdin.flush()
            said = int(holder.stdout.readline())
            assert said == STREAMS, f"{said} of {STREAMS} streams were opened"
            held += took()
            most = max(most, memory(served))
            holder.stdin.close()
    one, other = percentile(quiet, 0.95), percentile(held, 0.95)
    sizes = f"{STREAMS:,} streams, {HALVES} half requests, {label}"
    note = f"{one * 1e3:.1f} ms and {other * 1e3:.1f} ms, medians {percentile(quiet, 0.5) * 1e3:.1f} and {percentile(held, 0.5) * 1e3:.1f} ms"
    yield Line("p95 of ordinary requests, all of it held over nothing", sizes, other / one, 1.5, False, note)
    each = (most - before) / STREAMS / 1024
    yield Line("memory of the servers, held over nothing", sizes, most / before, 2, False, f"{before / 2**20:.0f} and {most / 2**20:.0f} MiB, {each:.0f} KiB a stream")  # fmt: skip


def _people(dsn: str) -> None:
    kept = Database(dsn, most=2)
    hashed = HASHER.hash("quay")
    with kept.transaction() as conn:
        for n in range(PEOPLE):
            db.run(conn, "put_person", id=f"p{n}", name=f"Person {n}", role="viewer", sites=["HQ"], crews=[], login=f"p{n}", password_hash=hashed)  # fmt: skip
    kept.close()


def _took(boss: Client, hands: Client, world: str, dialogue: str) -> list[float]:
    """Seconds of ordinary requests, one after another: a scan, and a look at the draft."""
    found = []
    for n in range(SCANS):
        scan = {"kind": "answer", "dialogue": dialogue, "scan": {"text": "RCV-01", "how": "scanned"}, "step": None}
        began = time.perf_counter()
        hands.ask("POST", f"/api/worlds/{world}/commands", {"id": uuid.uuid4().hex, "act": scan, "device": "H1"})
        found.append(time.perf_counter() - began)
        began = time.perf_counter()
        boss.ask("GET", "/api/me" if n % 2 else f"/api/worlds/{world}")
        found.append(time.perf_counter() - began)
        time.sleep(0.01)  # people pause; the streams are told meanwhile
    return found


def memory(served: Server) -> float:
    """Bytes the server processes hold now."""
    pages = [int(Path(f"/proc/{p.pid}/statm").read_text().split()[1]) for p in served.processes]
    return sum(pages) * 4096.0
