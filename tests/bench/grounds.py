"""Benches of the ground and the host: stock brought in from a file, why orders are or are not on a handset, and
messages while the host is down half of the time."""

from __future__ import annotations

import gc
import io
import random
import subprocess
import sys
import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory

import openpyxl
import psycopg

from mindful_crate.core.catalog.opening import Ground, Opening
from mindful_crate.core.floor.messages import MessageState
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.topics import HostStandIn
from mindful_crate.core.proving.effective import effective
from mindful_crate.core.proving.on_handset import orders_shown
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.world import World
from mindful_crate.demo.loader import demo_opening, demo_rulebook
from mindful_crate.files.tables import bring, columns, sheets_of
from mindful_crate.files.writing import as_csv, as_workbook, rows_of
from mindful_crate.store import db
from mindful_crate.store.db import Database, migrate
from mindful_crate.store.worlds import Worlds
from tests.bench import big
from tests.bench.measures import Line, database
from tests.playbook import Play, new_world

ORDERS = big.few(1_000)
MESSAGES = 1_800 if big.TINY else 10_050
XLSX_ROWS = big.few(200_000)


def importing() -> Iterator[Line]:
    """Stock from CSV with every check until it is kept, against a bare COPY of the same file into a table without an
    index; the most memory that takes; and from XLSX, against the time openpyxl alone takes to read it."""
    opening = big.opening(big.FULL)
    head = columns("stock")
    listed = list(rows_of(opening, "stock"))
    with TemporaryDirectory() as folder, database() as dsn:
        migrate(dsn)
        _begin_with(dsn, replace(opening, stock=opening.stock.of([])))
        peaks = []
        shuffled = random.Random(3).sample(listed, len(listed))
        for order, some in (("sorted", listed[::10]), ("sorted", listed), ("in no order", shuffled)):
            path = Path(folder) / "stock.csv"
            path.write_bytes(as_csv(head, some))
            with psycopg.connect(dsn) as conn:
                conn.execute(
                    "CREATE TABLE bare (bin text, item text, quantity bigint, lot text, expiry date, status text, plate text, arrived date)"
                )
                began = time.perf_counter()
                with conn.cursor().copy("COPY bare FROM STDIN (FORMAT csv, HEADER)") as copy, path.open("rb") as file:
                    while content := file.read(1 << 20):
                        copy.write(content)
                conn.commit()
                bare = time.perf_counter() - began
                conn.execute("DROP TABLE bare")
                conn.commit()
            done = subprocess.run([sys.executable, "-c", _IMPORTS, dsn, str(path)], capture_output=True, check=True)
            took, peak, rows = done.stdout.decode().split()
            assert int(rows) == len(some), rows
            peaks.append(int(peak) / 1024)
            if len(some) == len(listed):
                note = f"{float(took):.1f} s, COPY {bare:.2f} s"
                yield Line(f"stock from CSV {order}, checked and kept, against a bare COPY", f"{len(some):,} rows", float(took) / bare, 8, False, note)  # fmt: skip
                note = f"{peaks[0]:.0f} and {peaks[-1]:.0f} MiB"
                yield Line("its most memory, against that of a tenth of the rows", f"{len(some):,} rows", peaks[-1] / peaks[0], 1.3, False, note)  # fmt: skip
    some = listed[:XLSX_ROWS]
    book = as_workbook({"stock": (head, some)})
    empty = replace(opening, stock=opening.stock.of([]))
    gc.collect()
    gc.freeze()
    mine = theirs = 0.0
    for _ in range(2):
        began = time.perf_counter()
        sheet = openpyxl.load_workbook(io.BytesIO(book), read_only=True).worksheets[0]
        assert sum(1 for _ in sheet.iter_rows(values_only=True)) == len(some) + 1
        middle = time.perf_counter()
        brought = bring(empty, sheets_of("stock.xlsx", book))
        mine, theirs = mine + time.perf_counter() - middle, theirs + middle - began
        assert brought.bad == [] and brought.rows == len(some)
    yield Line("stock from XLSX with every check, against openpyxl alone", f"{len(some):,} rows", mine / theirs, 1.5, False, f"{mine / 2:.1f} s and {theirs / 2:.1f} s")  # fmt: skip


def _begin_with(dsn: str, opening: Opening) -> None:
    """A database whose ground is this opening, and one person."""
    store = Database(dsn, most=2)
    with store.transaction() as conn:
        db.run(conn, "put_person", id="ines", name="Ines", role="analyst", sites=["X"], crews=[], login="ines", password_hash="")  # fmt: skip
        db.run(conn, "put_ground", no=1, opening=Worlds(store).keep_opening(conn, opening), says="", made_by="ines")
    store.close()


_IMPORTS = """
import re, sys, time
from mindful_crate.jobs.imports import Imports
from mindful_crate.store.db import Database
from mindful_crate.store.worlds import Worlds
database = Database(sys.argv[1], most=3)
imports = Imports(database, Worlds(database))
with database.transaction() as conn:
    imports.grounds.opening(conn)  # a worker that runs has it
began = time.perf_counter()
with open(sys.argv[2], "rb") as file:
    id_ = imports.begin(by="ines", sees=["X"], site="X", whole=False, files=[("stock.csv", file)])
imports.read(id_)
took = time.perf_counter() - began
with database.transaction() as conn:
    row = imports.row(conn, id_, "ines")
    found = imports.outcome(row)
assert row.state == "read" and row.opening and not found.bad_cells, (row.says, found.bad[:3])
print(took, re.search(r"VmHWM:\\s+(\\d+) kB", open("/proc/self/status").read())[1], found.changes[0].new)
"""
"""A worker that reads one file into an empty stock, in a process of its own."""


def made_orders(count: int) -> Ground:
    """The demo's ground with so many purchase orders, half of them confirmed."""
    opening = demo_opening()
    base = next(o for o in opening.orders if o.number == "PO-1007")
    orders = tuple(replace(base, number=f"BO-{n:05}", confirmed=n % 2 == 0) for n in range(count))  # type: ignore[arg-type]
    return Ground(replace(opening, orders=orders))


def asking() -> Iterator[Line]:
    """Why orders are or are not on a handset, and what holds, for many orders in one pass against one order."""
    book = demo_rulebook()
    took = {}
    for count in (1, ORDERS):
        ground = made_orders(count)
        state = State(ground, new_world(ground, book).state.settings)
        best = 9.0
        for _ in range(7):
            began = time.perf_counter()
            shown = orders_shown(state, book)
            held = effective(book, ground, state.settings.site)
            best = min(best, time.perf_counter() - began)
        assert len(shown) == count and held
        took[count] = best
    note = f"{took[ORDERS] * 1e3:.1f} ms, one {took[1] * 1e3:.2f} ms"
    yield Line(
        "why on the handset and what holds, many against one",
        f"{ORDERS:,} orders",
        took[ORDERS] / took[1],
        20,
        False,
        note,
    )


def messages() -> Iterator[Line]:
    """Orders confirmed and changed while the host is down half of the time and answers twice: each message in effect
    once, in order for each document; and the last thousand are no slower than the first."""
    ground, book = made_orders(MESSAGES * 2 // 3), demo_rulebook()
    play = Play(new_world(ground, book))
    seconds: list[float] = []
    well = HostStandIn(twice=True)
    began = time.perf_counter()
    for n in range(MESSAGES * 2 // 3):
        if n % 50 == 0:
            play.do(acts.SetHost(replace(well, down=n % 100 == 0)))
        number = f"BO-{n:05}"
        order = play.state.host_order(number).order
        less = replace(order, lines=tuple(replace(x, quantity=x.quantity // 2) for x in order.lines))
        if n % 2:
            play.confirm(number)
        play.do(acts.WriteOrder(less))
        if n % 500 == 499:
            seconds.append(time.perf_counter() - began)
            began = time.perf_counter()
    play.do(acts.SetHost(HostStandIn()))
    while play.state.waiting():
        for each in [m for m in play.state.waiting() if m.state is MessageState.GIVEN_UP]:
            play.do(acts.RepeatMessage(each.number))
        play.do(acts.Wait(86_400))
    check(play.world)
    sent = len(play.state.messages.every())
    note = f"{sum(seconds) / sent * 1e3:.2f} ms a message, every one in effect once"
    yield Line(
        "messages, the last 500 orders against the first",
        f"{sent:,} messages",
        seconds[-1] / seconds[0],
        1.5,
        False,
        note,
    )


def check(world: World) -> None:
    """Every message accepted once, and about one document none before an earlier one."""
    accepted: Counter[str] = Counter()
    order: dict[str, list[int]] = {}
    for entry in world.log:
        for event in entry.outcome.events if isinstance(entry.outcome, ev.Done) else ():
            if isinstance(event, ev.MessageAnswered):
                message = world.state.messages[event.message]
                accepted[event.message] += 1
                order.setdefault(message.subject, []).append(message.seq)
    assert set(accepted.values()) == {1} and len(accepted) == len(world.state.messages.every())
    assert all(seqs == sorted(seqs) for seqs in order.values())
