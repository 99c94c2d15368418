"""What orders that go out cost: judged by their gates, released in one act, and what the cover of all of them adds to a command that has
nothing to do with them; many against few, in turns."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from datetime import timedelta

from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine
from mindful_crate.core.catalog.ids import ItemCode, OrderNo, PartnerCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.releasing.judging import judged
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.world import acts
from mindful_crate.demo.loader import SITE, demo_opening, demo_rulebook
from tests.bench.big import few
from tests.bench.measures import Line, settle_down
from tests.bench.receiving import in_turns
from tests.playbook import STARTS, Play, barcode, new_world

LINES = 5


def ground_with(count: int) -> Ground:
    """The demo's site with so many confirmed sales orders of five lines each, of one or two base units, over all its items."""
    opening = demo_opening()
    items = [i for i in opening.items if i.tracking.value == "none"]
    partners = [p for p in opening.partners if p.code.startswith("C-")]
    orders = tuple(
        Order(
            OrderNo(f"BIG-{n:05}"), OrderKind.SALES, SITE, PartnerCode(partners[n % len(partners)].code),
            STARTS.date() + timedelta(days=n % 20),
            tuple(
                OrderLine(k + 1, (i := items[(n * LINES + k) % len(items)]).code, i.base.code, 1 + n % 2)
                for k in range(LINES)
            ),
            confirmed=True,
        )
        for n in range(count)
    )  # fmt: skip
    coming = (o for o in opening.orders if o.inbound)
    endless = (
        replace(o, lines=tuple(replace(x, quantity=10_000_000) for x in o.lines)) if o.number == "PO-1001" else o
        for o in coming
    )
    return Ground(replace(opening, orders=(*endless, *orders)))


def releases() -> Iterator[Line]:
    """All of them judged; some of them released; a command beside them."""
    book, many = demo_rulebook(), few(2_000)
    little, much = (ground_with(n) for n in (max(5, many // 10), many))
    yield _judged(book, little, much, many)
    yield _released(book, much)
    yield _beside(book, ground_with(0), much, many)


def _judged(book: Rulebook, little: Ground, much: Ground, many: int) -> Line:
    states = [new_world(g, book).state for g in (little, much)]
    for state in states:  # what is worked out once for a ground is not what is asked about
        judged(state, book, STARTS.replace(tzinfo=None))
    settle_down()
    ratio, ms = in_turns(
        lambda _: judged(states[0], book, STARTS.replace(tzinfo=None)),
        lambda _: judged(states[1], book, STARTS.replace(tzinfo=None)),
        few(12),
    )
    sizes = f"{many:,} orders against {max(5, many // 10):,}"
    return Line(
        "all open orders judged by their gates",
        sizes,
        ratio,
        12,
        at_least=False,
        note=f"{ms * ratio:,.0f} ms and {ms:,.0f} ms",
    )


def _released(book: Rulebook, ground: Ground) -> Line:
    """Ever the next orders, many in one act against few: for one order each."""
    play, of = Play(new_world(ground, book)), iter(sorted(o for o in ground.orders if o.startswith("BIG")))
    some, lot = max(1, few(10)), max(2, few(100))

    def act(count: int) -> None:
        play.do(acts.ReleaseOrders(tuple(next(of) for _ in range(count)))).done()

    act(some)
    settle_down()
    ratio, ms = in_turns(lambda _: act(some), lambda _: act(lot), max(1, few(6)))
    each = ratio * some / lot
    note = f"{ms / some:,.1f} ms an order of {LINES} lines by {some}, {ms * ratio / lot:,.1f} ms by {lot}"
    return Line(
        "released in one act, for one order", f"{lot:,} orders against {some:,}", each, 1.5, at_least=False, note=note
    )


def _beside(book: Rulebook, none: Ground, much: Ground, many: int) -> Line:
    """A box of shackles noted on a plate, where nobody waits for any and where orders are promised some of everything."""
    plays = [Play(new_world(g, book)).opens("F-RECEIVE").scan("PO-1001").done() for g in (none, much)]
    code = barcode(none, ItemCode("SHK-08"), "box")

    def notes(play: Play) -> None:
        play.scan(code).type("1").done()

    for play in plays:
        notes(play)
    settle_down()
    ratio, ms = in_turns(lambda _: notes(plays[0]), lambda _: notes(plays[1]), max(2, few(120)))
    return Line(
        "a line received beside orders that go out",
        f"{many:,} orders against none",
        ratio,
        1.3,
        at_least=False,
        note=f"{ms:,.2f} ms",
    )
