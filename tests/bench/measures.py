"""The benches that need no server of their own. Ours and the yardstick take turns within one run, a batch each, so
that a busy machine slows both; ratios are of the sums."""

from __future__ import annotations

import atexit
import gc
import os
import subprocess
import sys
import time
import uuid
from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack, contextmanager
from dataclasses import asdict, dataclass, replace
from functools import cache
from typing import Any, TypeVar

import orjson
import psycopg
from psycopg.conninfo import conninfo_to_dict, make_conninfo

from mindful_crate.core.catalog.goods import Item, PlateRow
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import Bin
from mindful_crate.core.catalog.stock import StockTable
from mindful_crate.core.placing import kept_ground
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.explain import explain
from mindful_crate.core.placing.loads import sums_of
from mindful_crate.core.plain import from_plain, to_plain
from mindful_crate.core.world.fold import apply
from mindful_crate.core.world.versions import stored
from mindful_crate.demo.loader import load
from mindful_crate.store.db import Database, migrate
from tests.bench import big
from tests.bench.big import few
from tests.bench.compare import ours
from tests.bench.floor import Dictionaries, entries
from tests.bench.naive import Naive
from tests.bench.sql import Sql

T = TypeVar("T")


@dataclass
class Line:
    """One figure: a ratio against its target. ``at_least`` says on which side of the target it should be."""

    name: str
    sizes: str
    ratio: float
    target: float
    at_least: bool = True
    note: str = ""

    @property
    def met(self) -> bool:
        """Is the target met?"""
        return self.ratio >= self.target if self.at_least else self.ratio <= self.target

    def told(self) -> str:
        """As a line."""
        sign = "at least" if self.at_least else "at most"
        mark = "met   " if self.met else "MISSED"
        return f"{mark} {self.name:58} {self.ratio:9.2f}x  {sign} {self.target:g}x  [{self.sizes}] {self.note}"

    def plain(self) -> dict[str, Any]:
        """As data."""
        return {**asdict(self), "met": self.met}


def settle_down() -> None:
    """What is there stays: the collector need not look at it again."""
    gc.collect()
    gc.freeze()


def turns(
    a: Callable[[T], Any], b: Callable[[T], Any], work: Sequence[T], batch: int
) -> tuple[float, float, list[Any]]:
    """Seconds of both over the same work, batch by batch in turn, and the answers that differ."""
    took_a = took_b = 0.0
    differ: list[Any] = []
    for at in range(0, len(work), batch):
        part = work[at : at + batch]
        began = time.perf_counter()
        one = [a(x) for x in part]
        middle = time.perf_counter()
        two = [b(x) for x in part]
        took_a, took_b = took_a + middle - began, took_b + time.perf_counter() - middle
        differ += [x for x, p, q in zip(part, one, two, strict=True) if p != q]
    return took_a, took_b, differ


@contextmanager
def database(like: str = "template1") -> Iterator[str]:
    """A fresh database on the server the launcher names, a copy of one there is."""
    server = os.environ["CRATE_TEST_DATABASE"]
    name = f"crate_bench_{uuid.uuid4().hex[:8]}"
    with psycopg.connect(server, autocommit=True) as conn:
        conn.execute(f"CREATE DATABASE {name} TEMPLATE {like}")
    try:
        yield make_conninfo(server, dbname=name)
    finally:
        with psycopg.connect(server, autocommit=True) as conn:
            conn.execute(f"DROP DATABASE {name} WITH (FORCE)")


@cache
def _with_demo() -> str:
    """The name of a database with the demo loaded, which nothing is written to; it goes when this process ends."""
    until_the_end = ExitStack()
    atexit.register(until_the_end.close)
    dsn = until_the_end.enter_context(database())
    migrate(dsn)
    kept = Database(dsn, most=2)
    load(kept)
    kept.close()
    return str(conninfo_to_dict(dsn)["dbname"])


@contextmanager
def demo_database() -> Iterator[str]:
    """A fresh database with the demo in it."""
    with database(like=_with_demo()) as dsn:
        yield dsn


def _told(size: big.Size) -> str:
    return f"{size.bins:,} bins, {size.rows:,} rows, {size.items:,} items"


def bins() -> Iterator[Line]:
    """Choosing bins: against the naive engine, against indexed SQL, and against ourselves on a tenth of the site."""
    middle = big.big_site(big.MIDDLE)
    state, naive = middle.state(), Naive(middle)
    rules = {True: middle.taking, False: middle.putting}
    _, _, differ = turns(
        lambda r: ours(middle, state, r),
        lambda r: naive.ask(r, rules[r.purpose.takes]),
        middle.requests(few(5_000)),
        500,
    )
    yield Line("answers that differ from the naive engine's", f"5,000 of {_told(big.MIDDLE)}", len(differ), 0, False)
    site = big.big_site(big.FULL)
    state, rules = site.state(), {True: site.taking, False: site.putting}
    asked, warm = site.requests(few(5_000)), site.requests(few(5_000), seed=2)
    for each in warm:
        ours(site, state, each)
    slow = Naive(site)
    settle_down()
    mine, theirs, differ = turns(
        lambda r: ours(site, state, r), lambda r: slow.ask(r, rules[r.purpose.takes]), asked[: few(200)], 50
    )
    yield Line("choose, against the naive engine", f"200 of {_told(big.FULL)}", theirs / mine, 200, note=f"{mine / few(200) * 1e6:.0f} us each, {len(differ)} differ")  # fmt: skip
    slow.content.clear()
    slow.lines.clear()
    with database() as dsn, psycopg.connect(dsn) as conn:
        sql = Sql(site, conn)
        for each in warm[:500]:
            sql.ask(each, rules[each.purpose.takes])
        settle_down()
        mine, theirs, differ = turns(
            lambda r: ours(site, state, r), lambda r: sql.ask(r, rules[r.purpose.takes]), asked, 100
        )
    yield Line(
        "choose, against indexed SQL",
        f"5,000 of {_told(big.FULL)}",
        theirs / mine,
        5,
        note=f"{mine / few(5_000) * 1e6:.0f} us each",
    )
    yield Line("answers that differ from SQL's", f"5,000 of {_told(big.FULL)}", len(differ), 0, False)
    tenth = big.big_site(big.TENTH)
    small, less = tenth.state(), tenth.requests(few(5_000))
    for each in tenth.requests(few(5_000), seed=2):
        ours(tenth, small, each)
    settle_down()
    large_took = small_took = 0.0
    for at in range(0, few(5_000), 100):
        a, *_ = turns(lambda r: ours(site, state, r), lambda r: None, asked[at : at + 100], 100)
        c, *_ = turns(lambda r: ours(tenth, small, r), lambda r: None, less[at : at + 100], 100)
        large_took, small_took = large_took + a, small_took + c
    yield Line("speed at 1,000,000 rows over that at 100,000", "same density", small_took / large_took, 0.8)


def explaining() -> Iterator[Line]:
    """One explanation against one naive decision."""
    site = big.big_site(big.FULL)
    state, naive, asked = site.state(), Naive(site), site.requests(60)
    rules = {True: site.taking, False: site.putting}
    for each in asked:
        choose(each, rules[each.purpose.takes], state)
    settle_down()
    mine, theirs, _ = turns(
        lambda r: explain(r, rules[r.purpose.takes], state), lambda r: naive.ask(r, rules[r.purpose.takes]), asked, 5
    )
    yield Line(
        "explain, against a naive decision",
        f"60 of {_told(big.FULL)}",
        mine / theirs,
        1,
        False,
        f"{mine / few(60) * 1e3:.0f} ms each",
    )


def opening_states() -> Iterator[Line]:
    """An opening state ready from its snapshot, against one built from tables; a further world; memory."""
    ground = big.big_site(big.FULL).ground
    content = kept_ground.keep(ground)
    with database() as dsn, psycopg.connect(dsn) as conn:
        _fill_tables(conn, ground)
        settle_down()
        snapshot = tables = 0.0
        for _ in range(2):
            began = time.perf_counter()
            read = kept_ground.read(content, "big")
            middle = time.perf_counter()
            built = _built_from_tables(conn, ground.opening)
            snapshot, tables = snapshot + middle - began, tables + time.perf_counter() - middle
            assert built.stock == read.stock
            del built
    yield Line(
        "opening state from its snapshot, against binary COPY",
        _told(big.FULL),
        tables / snapshot,
        4,
        note=f"{snapshot / 2:.2f} s",
    )
    site = big.BigSite(big.FULL, read, big.putting_rules(), big.taking_rules())
    began = time.perf_counter()
    for _ in range(100):
        site.state()
    world = (time.perf_counter() - began) / 100
    yield Line(
        "a further world, against the opening state",
        _told(big.FULL),
        snapshot / 2 / world,
        50,
        note=f"{world * 1e6:.0f} us",
    )
    done = subprocess.run([sys.executable, "-c", _SERVES], input=content, capture_output=True, check=True)
    gib = int(done.stdout) / 1024 / 1024
    yield Line("memory of a process that serves it, GiB", "after 5,000 choices", gib, 1, False)


_SERVES = """
import re, sys
from mindful_crate.core.placing import kept_ground
from tests.bench import big
from tests.bench.compare import ours
site = big.BigSite(big.FULL, kept_ground.read(sys.stdin.buffer.read(), "big"), big.putting_rules(), big.taking_rules())
state = site.state()
for request in site.requests(big.few(5000)):
    ours(site, state, request)
print(re.search(r"VmHWM:\\s+(\\d+) kB", open("/proc/self/status").read())[1])
"""
"""A process that serves the site, and the most memory it ever had. Not ru_maxrss: that counts in what the process had
before exec, which is this one's memory."""


def _fill_tables(conn: psycopg.Connection[Any], ground: Ground) -> None:
    conn.execute(
        "CREATE TABLE stock (bin text, plate text, item text, lot text, expiry int, status int, arrived int, count bigint)"
    )
    conn.execute("CREATE TABLE plate (number text, kind text, bin text, on_plate text)")
    conn.execute(
        "CREATE TABLE bin (code text, zone text, type text, x int, y int, level int, walk int, aisle text, height int, blocked text)"
    )
    conn.execute("CREATE TABLE item (body bytea)")
    table = ground.stock
    with conn.cursor().copy("COPY stock FROM STDIN WITH (FORMAT BINARY)") as copy:
        copy.set_types(["text"] * 4 + ["int4"] * 3 + ["int8"])
        for n in range(len(table)):
            plate = table.plate[n]
            copy.write_row((table.bins[table.bin[n]], table.plates[plate] if plate >= 0 else "", table.items[table.item[n]], table.lots[table.lot[n]], table.expiry[n], table.status[n], table.arrived[n], table.quantity[n]))  # fmt: skip
    with conn.cursor().copy("COPY plate FROM STDIN WITH (FORMAT BINARY)") as copy:
        copy.set_types(["text"] * 4)
        for p in ground.opening.plates:
            copy.write_row((p.number, p.plate_kind, p.bin, p.on))
    with conn.cursor().copy("COPY bin FROM STDIN WITH (FORMAT BINARY)") as copy:
        copy.set_types(["text"] * 3 + ["int4"] * 4 + ["text", "int4", "text"])
        for b in ground.opening.bins:
            copy.write_row(
                (b.code, b.zone, b.bin_type, b.x_mm, b.y_mm, b.level, b.walk, b.aisle, b.height_mm, b.blocked)
            )
    with conn.cursor().copy("COPY item FROM STDIN WITH (FORMAT BINARY)") as copy:
        copy.set_types(["bytea"])
        for i in ground.opening.items:
            copy.write_row((orjson.dumps(to_plain(i)),))
    conn.commit()


def _rows(conn: psycopg.Connection[Any], table: str, types: list[str]) -> Iterator[tuple[Any, ...]]:
    with conn.cursor().copy(f"COPY {table} TO STDOUT WITH (FORMAT BINARY)") as copy:  # type: ignore[arg-type]
        copy.set_types(types)
        yield from copy.rows()


def _built_from_tables(conn: psycopg.Connection[Any], like: Any) -> Ground:
    """The same ground, its rows fetched by binary COPY and its indexes and sums made."""
    stock = StockTable.of_tuples(_rows(conn, "stock", ["text"] * 4 + ["int4"] * 3 + ["int8"]))  # type: ignore[arg-type]
    plates = tuple(PlateRow(*row) for row in _rows(conn, "plate", ["text"] * 4))
    bins = tuple(Bin(*row) for row in _rows(conn, "bin", ["text"] * 3 + ["int4"] * 4 + ["text", "int4", "text"]))
    items = tuple(from_plain(Item, orjson.loads(row[0])) for row in _rows(conn, "item", ["bytea"]))
    ground = Ground(replace(like, stock=stock, plates=plates, bins=bins, items=items), hash="built")
    sums_of(ground)
    return ground


def folding() -> Iterator[Line]:
    """Folding a log, against dictionaries changed in place."""
    site = big.big_site(big.MIDDLE)
    log = entries(site, few(10_000))
    settle_down()
    mine = theirs = 0.0
    for _ in range(3):
        state, plain = site.state(), Dictionaries(site)
        a, b, _unused = turns(lambda e, s=state: apply(s, e), lambda e, d=plain: d.apply(e), log, 1_000)  # type: ignore[misc]
        mine, theirs = mine + a, theirs + b
    yield Line("folding events, against dictionaries changed in place", f"{len(log):,} entries", theirs / mine, 0.5, note=f"{mine / 3 / len(log) * 1e6:.0f} us an entry")  # fmt: skip


def storing() -> Iterator[Line]:
    """Appending a thousand entries in one statement and commit, against one by one."""
    from mindful_crate.store.db import QUERIES
    from mindful_crate.store.past import nothing_settled

    log = entries(big.big_site(big.SMALL), 400)[:1_000]
    bodies = [orjson.dumps(stored(e)) for e in log]
    with database() as dsn:
        migrate(dsn)
        with psycopg.connect(dsn) as conn:
            conn.execute(
                "INSERT INTO person (id, name, role, sites, login, password_hash) VALUES ('p', 'p', 'analyst', '{}', 'p', '')"
            )
            conn.execute("INSERT INTO opening (hash, name) VALUES ('o', 'o')")
            conn.execute("INSERT INTO rulebook (hash, content) VALUES ('r', '')")
            for world in ("a", "b"):
                conn.execute(
                    "INSERT INTO world (id, kind, name, site, opening, rulebook, settings, made_by) VALUES (%s, 'live', 'w', 'X', 'o', 'r', '', 'p')",
                    (world,),
                )
            conn.commit()

            def append(world: str, part: slice) -> None:
                conn.execute(QUERIES["append"], {
                    "world": world, "seqs": [e.seq for e in log[part]], "ids": [e.command.stamp.id for e in log[part]],
                    "bodies": bodies[part], "seq": log[part][-1].seq, "told": "world x 1",
                    "settled_to": log[part][-1].seq, **nothing_settled(),
                })  # fmt: skip
                conn.commit()

            began = time.perf_counter()
            append("a", slice(0, 1_000))
            middle = time.perf_counter()
            for n in range(1_000):
                append("b", slice(n, n + 1))
            one_by_one = time.perf_counter() - middle
    yield Line("1,000 entries in one statement, against one by one", "1,000 entries", one_by_one / (middle - began), 8)
