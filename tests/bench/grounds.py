"""Benches of the ground and the host: stock brought in from a file, why orders are or are not on a handset, and
messages while the host is down half of the time."""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace

import psycopg

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.effective import effective
from mindful_crate.core.proving.on_handset import orders_shown
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.state import State
from mindful_crate.core.world.things import HostStandIn, MessageState
from mindful_crate.core.world.world import World
from mindful_crate.demo.loader import demo_opening, demo_rulebook
from mindful_crate.files.tables import as_csv, bring, columns, rows_of, sheets_of
from tests.bench import big
from tests.bench.measures import Line, database
from tests.playbook import Play, new_world

ORDERS = 1_000
MESSAGES = 10_050


def importing() -> Iterator[Line]:
    """Stock from CSV with every check, against a bare COPY of the same file into a table without an index."""
    site = big.big_site(big.MIDDLE)
    opening = site.ground.opening
    head = columns("stock")
    text = as_csv(head, rows_of(opening, "stock"))
    empty = replace(opening, stock=opening.stock.of([]))
    count = len(opening.stock)
    with database() as dsn, psycopg.connect(dsn) as conn:
        conn.execute("CREATE UNLOGGED TABLE bare (" + ", ".join(f"{c} text" for c in head) + ")")
        began = time.perf_counter()
        with conn.cursor().copy("COPY bare FROM STDIN (FORMAT csv, HEADER)") as copy:
            copy.write(text)
        conn.commit()
        bare = time.perf_counter() - began
    began = time.perf_counter()
    brought = bring(empty, sheets_of("stock.csv", text))
    mine = time.perf_counter() - began
    assert not brought.bad and len(brought.opening.stock) == count
    note = f"{mine:.1f} s, COPY {bare:.2f} s"
    yield Line("stock from CSV with every check, against a bare COPY", f"{count:,} rows", mine / bare, 8, False, note)


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
    sent = len(play.state.messages)
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
    assert set(accepted.values()) == {1} and len(accepted) == len(world.state.messages)
    assert all(seqs == sorted(seqs) for seqs in order.values())
