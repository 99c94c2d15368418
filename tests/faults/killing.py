"""``python -m tests.faults.killing [times] [seed]``: the handset's connection, the servers, the database are killed between scans and in the
middle of them. On another run beside it nothing is ever killed: both must say the same, step by step, and stand the same in the end.

The command has a database server of its own, whose processes it kills; the small run among the tests ends the connections alone.
"""

from __future__ import annotations

import argparse
import http.client
import json
import os
import random
import re
import signal
import sys
import tempfile
import uuid
from collections import Counter
from collections.abc import Callable, Iterator
from typing import Any

import psycopg

from tests.bench.handsets import Client, answers
from tests.serving import Server

Act = Callable[[Any], dict[str, Any]]


def round_of_work() -> Iterator[Act]:
    """Received onto a pallet with a wrong scan, and put away with another; each act made from the answer before."""

    def opens(flow: str) -> Act:
        return lambda _: {"kind": "open_flow", "flow": flow}

    def scans(text: str) -> Act:
        return lambda last: answers(text, last["handset"]["question"]["dialogue"])

    def presses(action: str) -> Act:
        return lambda last: {"kind": "press", "dialogue": last["handset"]["question"]["dialogue"], "action": action}

    def leaves(last: Any) -> dict[str, Any]:
        return {"kind": "leave_flow", "dialogue": last["handset"]["question"]["dialogue"]}

    finished: list[str] = []

    def leaves_what_is_finished(last: Any) -> dict[str, Any]:
        finished.extend(re.findall(r"Plate `([^`]+)` finished", last["entry"]["says"]))
        return leaves(last)

    yield opens("F-RECEIVE")
    for text in ("PO-1001", "SHK-08", "1", "X-0000", "SHK-10", "1"):
        yield scans(text)
    yield presses("finish")
    yield leaves_what_is_finished
    yield opens("F-PUTAWAY")
    yield lambda last: scans(finished[-1])(last)
    yield scans("X-0000")
    yield lambda last: scans(last["handset"]["question"]["expect"])(last)
    yield leaves


class Hands:
    """A handset that keeps what was not answered and sends it again under its id, as the page does."""

    def __init__(
        self, server: Server, world: str, cookie: str, chance: random.Random, break_database: Callable[[], None]
    ) -> None:
        self.server, self.world, self.cookie = server, world, cookie
        self.chance, self.break_database = chance, break_database
        self.killed: Counter[str] = Counter()

    def command(self, act: dict[str, Any], *, faults: bool) -> Any:
        """The answer, however often it has to be asked for."""
        body = {"id": uuid.uuid4().hex, "act": act, "device": "H1"}
        fault = self.chance.choice(("browser", "server before", "server within", "database", "")) if faults else ""
        if fault:
            self.killed[fault] += 1
        if fault == "server before":
            self.server.kill()
            self.server.start()
            fault = ""
        for _ in range(100):
            found = self._tried(body, fault)
            fault = ""
            if found is not None:
                return found
        raise AssertionError(f"never answered: {act}")

    def _tried(self, body: dict[str, Any], fault: str) -> Any:
        client = Client.__new__(Client)
        client.conn, client.cookie = http.client.HTTPConnection("127.0.0.1", self.server.port, timeout=30), self.cookie
        if not fault:
            try:
                return client.ask("POST", f"/api/worlds/{self.world}/commands", body)
            except (RuntimeError, OSError, http.client.HTTPException) as error:
                if str(error).startswith("4"):
                    raise
                return None
            finally:
                client.conn.close()
        answer: Any = None
        client.conn.connect()
        try:
            client.send("POST", f"/api/worlds/{self.world}/commands", body)
            if fault == "browser":
                return None
            if fault == "server within":
                self.server.kill()
            else:
                self.break_database()
            response = client.conn.getresponse()
            content = response.read()
            if response.status == 200:
                answer = json.loads(content)
        except (OSError, http.client.HTTPException):
            pass  # it is sent again
        finally:
            client.conn.close()
            if fault == "server within":
                self.server.start()
        return answer


def run(dsn: str, times: int, seed: int, break_database: Callable[[], None]) -> Counter[str]:
    """Work until so many were killed; how often what was. AssertionError where the two runs part."""
    chance = random.Random(seed)
    server = Server(dsn, quiet=True).start()
    try:
        boss = Client(server.port, "ines")
        tried, beside = (
            boss.ask("POST", "/api/worlds", {"name": n, "draft": "d-1"})["id"] for n in ("tried", "beside")
        )
        worker = Client(server.port, "tove")
        worker.conn.close()
        cookie = worker.cookie
        hands, others = (Hands(server, world, cookie, chance, break_database) for world in (tried, beside))
        while hands.killed.total() < times:
            here: Any = None
            there: Any = None
            for act in round_of_work():
                here = hands.command(act(here), faults=hands.killed.total() < times)
                there = others.command(act(there), faults=False)
                same = [(a["entry"]["seq"], a["entry"]["says"], a["entry"]["done"]) for a in (here, there)]
                assert same[0] == same[1], (seed, same)
                asked = [a["handset"]["question"] and (a["handset"]["question"]["title"], a["handset"]["question"]["expect"]) for a in (here, there)]  # fmt: skip
                assert asked[0] == asked[1], (seed, asked)
        for what in ("stock?most=200&find=SHK-", "log?last=true"):
            one, other = (_but_ids(boss.ask("GET", f"/api/worlds/{world}/{what}")) for world in (tried, beside))
            assert one == other, (seed, what)
        boss.conn.close()
        with psycopg.connect(dsn) as conn:
            found = conn.execute(
                "SELECT count(*), count(DISTINCT command_id), max(seq) FROM entry WHERE world = %s", (tried,)
            ).fetchone()
        assert found and found[0] == found[1] == found[2], (seed, found)
        return hands.killed
    finally:
        server.stop()


def _but_ids(told: Any) -> Any:
    """An answer without the ids of commands, which clients make."""
    for entry in told.get("entries", ()):
        entry["command"] = ""
    return told


def main() -> int:
    """Two hundred by default, on a database server of its own."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("times", nargs="?", type=int, default=200)
    asked.add_argument("seed", nargs="?", type=int, default=1)
    given = asked.parse_args()
    with tempfile.TemporaryDirectory(dir="/var/tmp") as folder:
        os.chmod(folder, 0o755)
        os.environ["CRATE_DATA"] = folder
        sys.path.insert(0, "launch")
        from cluster import Cluster  # type: ignore[import-not-found]
        from mindful_crate.demo.loader import load
        from mindful_crate.store.db import Database, migrate

        cluster = Cluster()
        cluster.start()
        try:
            dsn = cluster.dsn()
            migrate(dsn)
            kept = Database(dsn, most=1)
            load(kept)
            kept.close()

            def crash() -> None:
                """One process of the database dies, and all start anew from what is written."""
                with psycopg.connect(dsn, autocommit=True) as conn:
                    found = conn.execute(
                        "SELECT pid FROM pg_stat_activity WHERE backend_type = 'client backend' AND pid <> pg_backend_pid() ORDER BY random() LIMIT 1"
                    ).fetchone()
                if found:
                    os.kill(found[0], signal.SIGKILL)

            killed = run(dsn, given.times, given.seed, crash)
        finally:
            cluster.stop()
    print(
        ", ".join(f"{n} x {what}" for what, n in sorted(killed.items())),
        f"seed {given.seed}: nothing lost, nothing doubled",
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
