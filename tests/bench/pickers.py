"""Pickers on handsets over HTTP: one wave of one floor, an order each, every picker a scan a second in an open loop."""

from __future__ import annotations

import os
import threading
import time
import uuid
from collections import Counter
from collections.abc import Iterator
from datetime import timedelta
from decimal import Decimal
from itertools import count
from typing import Any

from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine, Status, Tracking
from mindful_crate.core.catalog.ids import ItemCode, OrderNo, PartnerCode, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.plain import to_plain
from mindful_crate.core.world import acts
from mindful_crate.demo.loader import demo_opening
from tests.bench import big
from tests.bench.handsets import (
    SECONDS,
    Client,
    database_time,
    disorder,
    kept_entries,
    percentile,
    processor,
    server,
    share_session,
)
from tests.bench.measures import Line, demo_database
from tests.playbook import barcode

FEWER, MORE = (2, 4) if big.TINY else (30, 200)
LINES = 5
CREWS = ["quay", "store", "reach", "hazard"]


def easy_items(ground: Ground) -> list[ItemCode]:
    """Items of which much lies on the pick shelves, and that ask for neither lot nor number."""
    much: Counter[ItemCode] = Counter()
    for row in ground.opening.stock:
        if row.bin in ground.bins and ground.bins[row.bin].zone == "PCK" and row.status is Status.AVAILABLE:
            much[row.item] += row.quantity
    plain = (i for i in much if ground.items[i].tracking is Tracking.NONE and i not in ground.numbered)
    asked = LINES * (FEWER + MORE) // 20  # of each, when there are twenty of them
    return sorted(i for i in plain if much[i] >= asked)


def orders(ground: Ground, many: int) -> list[Order]:
    """So many orders of a few lines, one piece of each; no wave plan takes them, so each is let go when it is released."""
    items, day = easy_items(ground), max(o.promised for o in ground.opening.orders) + timedelta(days=20)
    return [
        Order(
            OrderNo(f"SO-P{n:04}"), OrderKind.SALES, SiteCode("HQ"), PartnerCode("C-500"), day,
            tuple(
                OrderLine(k + 1, (i := ground.items[items[(n * LINES + k) % len(items)]]).code, i.base.code, 1, Decimal(5))
                for k in range(LINES)
            ),
        )
        for n in range(many)
    ]  # fmt: skip


class Floor:
    """A floor with orders released, and people who can pick them."""

    def __init__(self, port: int, ground: Ground, pickers: int) -> None:
        self.port, self.ground, self.totes = port, ground, count(900_001)
        self.boss = Client(port, "ines")
        self.world = self.boss.ask("POST", "/api/worlds", {"name": "pickers", "draft": "d-1"})["id"]
        self.people = [self._person(n) for n in range(pickers)]
        self.orders = orders(ground, pickers)
        for order in self.orders:
            self._office(acts.WriteOrder(order))
            self._office(acts.ConfirmOrder(order.number))
        self._office(acts.ReleaseOrders(tuple(o.number for o in self.orders)))

    def _person(self, n: int) -> str:
        body = {"name": f"Picker {n}", "role": "floor", "sites": ["HQ"], "crews": CREWS, "login": f"picker{n}", "password": "quay-quay-quay"}  # fmt: skip
        return str(self.boss.ask("POST", "/api/people", body)["id"])

    def _office(self, act: Any) -> None:
        body = {"id": uuid.uuid4().hex, "act": to_plain(act)}
        entry = self.boss.ask("POST", f"/api/worlds/{self.world}/commands", body)["entry"]
        assert entry["done"], entry["says"]

    def pick(self, first: int, pickers: int) -> tuple[list[float], Counter[str]]:
        """So many people pick an order each: seconds a scan took from when it was due, and what was said of each, ``done`` or why not."""
        took: list[float] = []
        said: Counter[str] = Counter()
        lock = threading.Lock()
        begin = time.perf_counter() + (0.2 if big.TINY else 1.5)

        def work(n: int) -> None:
            client, who = share_session(self.port, self.boss.cookie), first + n
            hand = {"device": f"P{who}", "person": self.people[who]}
            act: dict[str, Any] = {"kind": "open_flow", "flow": "F-PICK"}
            for turn in range(-1, int(SECONDS)):  # the flow is opened before the first is due
                due = begin + turn + n / pickers
                time.sleep(max(0.0, due - time.perf_counter()))
                answer = client.ask("POST", f"/api/worlds/{self.world}/commands", {"id": uuid.uuid4().hex, "act": act, **hand})  # fmt: skip
                with lock:
                    if turn >= 0:
                        took.append(time.perf_counter() - due)
                        said["done" if answer["entry"]["done"] else answer["entry"]["says"]] += 1
                question = answer["handset"]["question"]
                if question["asks"] == "picked" and not answer["entry"]["done"]:
                    return  # all of it is picked
                act = self.next_act(question, who)

        threads = [threading.Thread(target=work, args=(n,)) for n in range(pickers)]
        for t in threads:
            t.start()
        for t in threads:
            t.join()
        return took, said

    def next_act(self, question: dict[str, Any], who: int) -> dict[str, Any]:
        """What somebody does who reads the question."""
        if question["asks"] == "pick_count":
            return {"kind": "press", "dialogue": question["dialogue"], "action": "confirm", "step": question["step"]}
        if question["asks"] == "picked":
            text = self.orders[who].number
        elif question["asks"] == "pick_item":
            item = self.ground.items[ItemCode(question["title"].split("`")[1])]
            text = barcode(self.ground, item.code, item.base.code)
        elif question["asks"] == "tote" and not question["expect"]:
            text = f"LPR-{next(self.totes)}"
        else:
            text = question["expect"] or question["picks"][0]["value"]
        scan = {"text": text, "how": "scanned"}
        return {"kind": "answer", "dialogue": question["dialogue"], "scan": scan, "step": question["step"]}


def pickers() -> Iterator[Line]:
    """Answer times of few pickers and of many on one floor, what that takes of the processors, and that nothing is lost."""
    ground = Ground(demo_opening())
    with demo_database() as dsn, server(dsn) as served:
        floor = Floor(served.port, ground, FEWER + MORE)
        pids = [p.pid for p in served.processes]
        few, _ = floor.pick(0, FEWER)
        was, before, began = kept_entries(dsn, [floor.world]), processor(pids) + database_time(dsn), time.perf_counter()
        lots, said = floor.pick(FEWER, MORE)
        wall = time.perf_counter() - began
        used = (processor(pids) + database_time(dsn) - before) / wall
        lost = kept_entries(dsn, [floor.world]) - was - len(lots) - MORE  # each begins with a flow that is opened
        refused = len(lots) - said["done"]
        yield Line(f"processors used by {MORE} pickers, a scan a second each", "servers and database", used, 1, False, f"of {os.cpu_count()}; {len(lots) / wall:.0f} a second answered, {refused} refused")  # fmt: skip
        yield Line(f"scans of {MORE} pickers lost, doubled or out of order", f"{len(lots):,} scans", abs(lost) + disorder(dsn), 0, False)  # fmt: skip
        p30, p200 = percentile(few, 0.95), percentile(lots, 0.95)
        yield Line(f"p95 of {MORE} pickers over {FEWER}", f"{SECONDS:.0f} s each", p200 / p30, 5, False, f"{p30 * 1e3:.0f} ms and {p200 * 1e3:.0f} ms")  # fmt: skip
