"""Answers, never times: ours against the naive engine and against SQL, on a small made-up site."""

from __future__ import annotations

import psycopg
import pytest

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing import kept_ground
from mindful_crate.core.placing.explain import explain
from mindful_crate.core.world.fold import apply
from tests.bench.big import SMALL, BigSite, big_site, putting_rules, taking_rules
from tests.bench.compare import ours
from tests.bench.floor import Dictionaries, entries
from tests.bench.measures import _built_from_tables, _fill_tables
from tests.bench.naive import Naive
from tests.bench.sql import Sql


@pytest.fixture(scope="module")
def site() -> BigSite:
    """600 bins, 4,000 rows."""
    return big_site(SMALL)


def test_the_naive_engine_and_sql_answer_the_same(site: BigSite, dsn: str) -> None:
    """Shares, what is left, and the outcome of every rule and target asked, by three engines."""
    state, naive = site.state(), Naive(site)
    with psycopg.connect(dsn) as conn:
        sql = Sql(site, conn)
        for request in site.requests(600):
            rules = site.taking if request.purpose.takes else site.putting
            mine = ours(site, state, request)
            assert mine == naive.ask(request, rules)
            assert mine == sql.ask(request, rules)
            why = explain(request, rules, state)
            assert [(a.bin, a.quantity) for a in why.allocations] == [(b, q) for b, _, q in mine[0]]


def test_a_folded_log_is_what_dictionaries_say(site: BigSite) -> None:
    """The yardstick of folding keeps the same plates, tasks and changed bins, in the same order."""
    log = entries(site, 16)
    state, plain = site.state(), Dictionaries(site)
    for entry in log:
        apply(state, entry)
        plain.apply(entry)
    assert {p.number: p.bin for p in state.plates.values()} == {n: p["bin"] for n, p in plain.plates.items()}
    assert {t.number: t.state.value for t in state.tasks.every()} == {n: t["state"] for n, t in plain.tasks.items()}
    assert list(state.changed_since(0)) == [c for c, _ in reversed(plain.changed.items())]


def test_a_ground_from_tables_is_the_ground_from_its_snapshot(site: BigSite, dsn: str) -> None:
    """Both ways lead to the same opening state, and to worlds that choose the same."""
    with psycopg.connect(dsn) as conn:
        conn.execute("DROP TABLE IF EXISTS stock, bin")
        _fill_tables(conn, site.ground)
        built = _built_from_tables(conn, site.ground.opening)
    read = kept_ground.read(kept_ground.keep(site.ground))
    assert built.opening == read.opening == site.ground.opening
    for ground in (built, read):
        again = BigSite(SMALL, Ground(ground.opening, "x"), putting_rules(), taking_rules())
        state: State = again.state()
        assert [ours(again, state, r) for r in again.requests(60)] == [
            ours(site, site.state(), r) for r in site.requests(60)
        ]
