"""What counting costs: choosing tomorrow's bins of a large site against a small one, taking ten thousand differences into the books against a bare insert, and telling stock before and after against reading one state."""

from __future__ import annotations

import time
from collections.abc import Iterator
from datetime import UTC, datetime
from itertools import islice

import orjson
import psycopg

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import CountNo, CountPlanId, PersonId, SiteCode
from mindful_crate.core.floor.counts import CountLine, CountSheet
from mindful_crate.core.floor.state import SNAPSHOT, Settings, State
from mindful_crate.core.plain import to_plain
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.counting import CountPlan, SplitBy
from mindful_crate.core.work.counting.looking import by_the_book, due_by, goods_in, split
from mindful_crate.core.world import acts
from mindful_crate.core.world.between import mark, stock_since
from mindful_crate.core.world.fold import apply
from mindful_crate.core.world.versions import stored
from mindful_crate.core.world.world import World
from mindful_crate.demo.loader import demo_opening, demo_rulebook
from mindful_crate.store import db
from mindful_crate.store.db import Database, migrate
from mindful_crate.store.worlds import Worlds
from tests.bench import big
from tests.bench.big import few
from tests.bench.handsets import long_log
from tests.bench.measures import Line, database, settle_down
from tests.bench.receiving import in_turns

PLAN = CountPlan(CountPlanId("CP-1"), "All of it", every_days=30, most_bins=few(400), split=SplitBy.ZONE, most_lines=40)
BOOK = Rulebook("Counts", count_plans=(PLAN,))


def counting() -> Iterator[Line]:
    """Choosing, posting, before and after."""
    yield from _choosing()
    yield _posting()
    yield _before_and_after()


def _choosing() -> Iterator[Line]:
    """Which bins are due, and the lines of their sheets."""
    small, large = (big.big_site(size).state() for size in (big.TENTH, big.FULL))

    def choose(state: State) -> None:
        split(state, PLAN, due_by(state, BOOK, PLAN))

    for state in (small, large):
        choose(state)
    settle_down()
    ratio, ms = in_turns(lambda _: choose(small), lambda _: choose(large), max(2, few(20)))
    sizes = f"{big.FULL.bins:,} bins with {big.FULL.rows:,} rows against {big.TENTH.bins:,}"
    seconds = ms * ratio / 1_000
    yield Line("choosing tomorrow's counts", sizes, ratio, 12, at_least=False, note=f"{ms:.0f} and {ms * ratio:.0f} ms")
    yield Line("choosing them, of a third of a second", f"{big.FULL.bins:,} bins", seconds / 0.3, 1, at_least=False, note=f"{seconds:.2f} s")  # fmt: skip


def _posting() -> Line:
    """Ten thousand lines that all differ, posted in one act and written as one entry; the same number of rows inserted one by one in one transaction."""
    many = few(10_000)
    world, sheet = _counted(many)
    settle_down()
    with database() as dsn, psycopg.connect(dsn) as conn:
        conn.execute("CREATE TABLE bare (no int, bin text, item text, difference int)")
        conn.execute("CREATE TABLE log (seq int, body bytea)")
        conn.commit()
        began = time.perf_counter()
        stamp = world.stamp("post", PersonId("tove"))
        entry = world.run(acts.Command(stamp, acts.PostCount(sheet.number)))
        conn.execute("INSERT INTO log VALUES (1, %s)", (orjson.dumps(stored(entry)),))
        conn.commit()
        middle = time.perf_counter()
        for x in sheet.lines:
            conn.execute("INSERT INTO bare VALUES (%s, %s, %s, %s)", (x.no, x.bin, x.item, x.difference))
        conn.commit()
        ended = time.perf_counter()
    assert "difference" in entry.says, entry.says
    note = f"{(middle - began) * 1_000:.0f} and {(ended - middle) * 1_000:.0f} ms"
    return Line(
        "posting differences in one act",
        f"{many:,} lines",
        (middle - began) / (ended - middle),
        3,
        at_least=False,
        note=note,
    )


def _counted(many: int) -> tuple[World, CountSheet]:
    """A world with a sheet of so many lines, each of which was counted and differs by one."""
    site = big.big_site(big.TENTH)
    world = World(site.ground, Settings(SiteCode("X"), big.STARTS), BOOK, lambda at: at.date())
    state = world.state
    at = datetime(2026, 3, 3, 9, tzinfo=UTC)
    kinds = (
        (b.code, plate, Goods(g.item, 0, g.lot, g.expiry, g.status))
        for b in site.ground.bins.values()
        for plate, g in goods_in(state, b.code)
    )
    lines = []
    for n, (code, plate, g) in enumerate(islice(dict.fromkeys(kinds), many), start=1):
        line = CountLine(n, code, g.item, g.lot, g.expiry, g.status, plate, by=PersonId("oren"), at=at)
        book = by_the_book(state, line)
        lines.append(
            CountLine(n, code, g.item, g.lot, g.expiry, g.status, plate, book, book + 1, (), PersonId("oren"), at)
        )
    sheet = CountSheet(CountNo("CS-0001"), PLAN.id, "all", 1, at, tuple(lines))
    state.counts.put(sheet.number, sheet)
    return world, sheet


def _before_and_after() -> Line:
    """Stock before and after the last hundred entries of a long log, against reading the state before them; its snapshot is just there, so
    that nothing but the hundred makes a difference."""
    many, apart = few(20_000), 100
    rows = long_log(many + apart // 5)
    before = len(rows) - apart
    opening, rulebook = demo_opening(), demo_rulebook()
    with database() as dsn:
        migrate(dsn)
        holder = Database(dsn, most=2)
        worlds = Worlds(holder)
        with holder.transaction() as conn:
            conn.execute(
                "INSERT INTO person (id, name, role, sites, login, password_hash) VALUES ('p', 'p', 'analyst', '{}', 'p', '')"
            )
            settings = Settings(SiteCode("HQ"), datetime(2026, 3, 2, 8, 30, tzinfo=UTC))
            world = worlds.create(
                conn, name="long", settings=settings, opening=worlds.keep_opening(conn, opening),
                rulebook=worlds.keep_rulebook(conn, rulebook), made_by="p",
            )  # fmt: skip
            with conn.cursor().copy("COPY entry (world, seq, command_id, body) FROM STDIN") as copy:
                for seq, body in enumerate(rows, start=1):
                    copy.write_row((world, seq, f"f{seq}", body))
            conn.execute("UPDATE world SET seq = %s WHERE id = %s", (len(rows), world))
        with holder.transaction() as conn:
            kept = worlds.state_at(conn, world, before).state.kept()
            db.run(conn, "put_snapshot", world=world, seq=before, shape=SNAPSHOT, body=orjson.dumps(to_plain(kept)))

        def read(_: int) -> None:
            with holder.transaction() as conn:
                worlds.state_at(conn, world, before)

        def compare(_: int) -> None:
            with holder.transaction() as conn:
                state = worlds.state_at(conn, world, before).state
                was = mark(state)
                for entry in worlds.entries(conn, worlds.row(conn, world), before, len(rows)):
                    apply(state, entry)
                assert stock_since(state, was)

        settle_down()
        ratio, ms = in_turns(read, compare, max(2, few(20)))
        holder.close()
    return Line(
        "stock before and after, against reading one state", f"{apart} of {len(rows):,} entries", ratio, 1.5,
        at_least=False, note=f"{ms:.0f} and {ms * ratio:.0f} ms",
    )  # fmt: skip
