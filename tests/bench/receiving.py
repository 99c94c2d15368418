"""What a scan of goods coming in costs when the order is long, many numbers are known, or many tasks wait: much against little, in
turns."""

from __future__ import annotations

import gc
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import date

from mindful_crate.core.catalog.goods import OrderKind, OrderLine, SerialRow
from mindful_crate.core.catalog.ids import BinCode, CrewId, ItemCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.tables import amend
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.demo.loader import SITE, demo_opening, demo_rulebook
from tests.bench.big import few
from tests.bench.house import floor_of
from tests.bench.measures import Line, settle_down
from tests.playbook import Play, barcode, new_world

ROUNDS = 60


def in_turns(
    little: Callable[[int], object], much: Callable[[int], object], rounds: int, before: Callable[[], object] = int
) -> tuple[float, float]:
    """How much longer the second takes, and how long the first takes once, in milliseconds; both with the number of the round. ``before``
    each round something may be done that is not counted."""
    took = [0.0, 0.0]
    for n in range(rounds):
        before()
        for which, each in enumerate((little, much)):
            began = time.perf_counter()
            each(n)
            took[which] += time.perf_counter() - began
    return took[1] / took[0], took[0] / rounds * 1_000


def receiving() -> Iterator[Line]:
    """An item of an order, a serial number, the task that is next."""
    yield _long_order()
    yield _many_bins()
    yield _numbers()
    yield _next_task()


def _play(lines: int) -> Play:
    """Somebody who receives an order of so many lines, all of items that are told apart by nothing."""
    opening = demo_opening()
    first = next(o for o in opening.orders if o.number == "PO-1001")
    # plans must not differ from line to line, so that all may be on one plate
    items = [i for i in opening.items if i.group == "Shackles"]
    long = replace(
        first, kind=OrderKind.PURCHASE,
        lines=tuple(OrderLine(n + 1, items[n % len(items)].code, items[n % len(items)].base.code, 100_000) for n in range(lines)),
    )  # fmt: skip
    orders = tuple(long if o is first else o for o in opening.orders if o.site == SITE)
    ground = Ground(replace(opening, orders=orders))
    return Play(new_world(ground, demo_rulebook())).opens("F-RECEIVE").scan("PO-1001").done()


def _long_order() -> Line:
    many = few(5_000)
    plays = [_play(10), _play(many)]
    codes = [barcode(plays[0].world.state.ground, "SHK-08", "pc"), barcode(plays[0].world.state.ground, "SHK-10", "pc")]
    settle_down()

    def line(play: Play) -> Callable[[int], object]:
        def do(n: int) -> None:
            play.scan(codes[n % 2]).done()
            play.question()
            play.type("1").done()
            play.question()

        return do

    ratio, took = in_turns(line(plays[0]), line(plays[1]), few(ROUNDS))
    return Line(
        "a line received, of a long order",
        f"{many:,} lines against 10",
        ratio,
        1.5,
        False,
        f"{took:.1f} ms each with few",
    )


def _many_bins() -> Line:
    """Shackles onto a plate, finished every eighth line, so that the rules choose a bin for it: in the demo, and where each of its bins
    stands as often as it takes."""
    many, opening = few(100_000), demo_opening()
    here = {z.code for z in opening.zones if z.site == SITE}
    mine = [b for b in opening.bins if b.zone in here]
    more = [
        replace(b, code=BinCode(f"{b.code}-{n:03}"))
        for n in range(1, max(2, many // len(mine)))
        for b in mine
        if len(b.code) <= 20
    ]
    plays = []
    for bins in (opening.bins, (*opening.bins, *more)):
        orders = tuple(
            replace(o, lines=tuple(replace(x, quantity=10_000_000) for x in o.lines)) if o.number == "PO-1001" else o
            for o in opening.orders
        )
        ground = Ground(replace(opening, bins=bins, orders=orders))
        plays.append(Play(new_world(ground, demo_rulebook())).opens("F-RECEIVE").scan("PO-1001").done())
    codes = [barcode(plays[0].world.state.ground, "SHK-08", "pc"), barcode(plays[0].world.state.ground, "SHK-10", "pc")]

    def line(play: Play) -> Callable[[int], object]:
        def do(n: int) -> None:
            play.scan(codes[n % 2]).done()
            play.type("1").done()
            play.question()
            if n % 8 == 7:
                play.press("finish").done()

        return do

    for play in plays:  # what is worked out once for a site is not what a scan costs
        for n in range(8):
            line(play)(n)
    settle_down()
    ratio, took = in_turns(line(plays[0]), line(plays[1]), few(240))
    sizes = f"{len(opening.bins) + len(more):,} bins against {len(opening.bins):,}"
    return Line("a line received, every eighth finishes", sizes, ratio, 1.5, False, f"{took:.1f} ms each with few")


def _numbers() -> Line:
    many = few(100_000)
    opening, item, code = demo_opening(), ItemCode("PLOT-09"), BinCode("RCV-03")
    rows = [SerialRow(f"X-{n:07}", item, code, None, "", arrived=date(2026, 1, 5)) for n in range(many)]
    grounds = [Ground(opening), Ground(amend(opening, {"serials": rows})[0])]
    plays = []
    for ground in grounds:
        order = next(o for o in ground.opening.orders if o.number == "PO-1006")
        more = replace(order, lines=(replace(order.lines[0], quantity=10_000), *order.lines[1:]))
        orders = tuple(more if o is order else o for o in ground.opening.orders)
        play = Play(new_world(Ground(replace(ground.opening, orders=orders)), demo_rulebook()))
        plays.append(play.opens("F-PIECES").scan("PO-1006").scan("PLOT-09").done())
    settle_down()

    def piece(play: Play) -> Callable[[int], object]:
        def do(n: int) -> None:
            play.scan(f"NEW-{n:05}").done()
            play.question()
            if n % 20 == 19:
                play.press("that_is_all").done().scan("PLOT-09").done()

        return do

    ratio, took = in_turns(piece(plays[0]), piece(plays[1]), few(ROUNDS))
    return Line(
        "a serial number scanned",
        f"{many:,} numbers known against 1,230",
        ratio,
        1.3,
        False,
        f"{took:.1f} ms each with few",
    )


def _next_task() -> Line:
    ground, many = Ground(demo_opening()), few(10_000)
    floors = [floor_of(ground, 10, True), floor_of(ground, many, True)]
    gc.collect()

    def ask(n: int, which: int) -> object:
        return floors[which].tasks.next_on_the_walk((CrewId("quay"),), Need.PUT_AWAY, n, ())

    ratio, took = in_turns(lambda n: ask(n, 0), lambda n: ask(n, 1), few(2_000))
    return Line(
        "the task that is next", f"{many:,} open against 10", ratio, 1.5, False, f"{took * 1000:.1f} us each with few"
    )
