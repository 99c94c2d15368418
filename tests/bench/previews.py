"""What tasks cost before they are made: a thousand receipt lines against a hundred, in turns."""

from __future__ import annotations

import time
from collections.abc import Iterator
from dataclasses import replace

from mindful_crate.core.catalog.goods import OrderLine
from mindful_crate.core.catalog.ids import OrderNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.proving.preview import of_orders
from mindful_crate.core.rulebook.recipes import Caps, Grouping, Sequencing
from mindful_crate.demo.loader import SITE, demo_opening, demo_rulebook
from tests.bench.big import few
from tests.bench.measures import Line, settle_down
from tests.playbook import STARTS


def previews() -> Iterator[Line]:
    """Of the demo's orders, written out to so many lines of ever the next item: a task for each plate, and all of an order
    together, capped, along the shortest round."""
    opening = demo_opening()
    purchases = [o for o in opening.orders if o.site == SITE and o.kind.value == "purchase"]
    items = [line for o in purchases for line in o.lines]
    many_lines = max(50, few(1_000))
    orders = []
    for lines in (many_lines // 10, many_lines):
        each = 25
        count = max(1, lines // each)
        orders.append([
            replace(
                purchases[0], number=OrderNo(f"BIG-{lines}-{n}"),
                lines=tuple(
                    OrderLine(k + 1, (i := items[(n * each + k) % len(items)]).item, i.unit, max(1, i.quantity // 10))
                    for k in range(min(each, lines))
                ),
            )
            for n in range(count)
        ])  # fmt: skip
    ground = Ground(replace(opening, orders=(*opening.orders, *orders[0], *orders[1])))
    book = demo_rulebook()
    grouped = replace(
        book.recipes[0], grouping=Grouping.ORDER, sequence=Sequencing.TOUR, most=Caps(things=10, kilograms=2_000)
    )
    for name, rules in (("each plate", book), ("by order, capped, shortest round", replace(book, recipes=(grouped,)))):
        state = State(ground, Settings(SITE, STARTS))
        today = STARTS.date()
        numbers = [[o.number for o in some] for some in orders]
        for some in numbers:  # what is worked out once for a ground and a list of rules is not what is asked about
            of_orders(state, rules, some, today)
        settle_down()
        took = [0.0, 0.0]
        rounds = few(7)
        for _ in range(rounds):
            for n, some in enumerate(numbers):
                began = time.perf_counter()
                of_orders(state, rules, some, today)
                took[n] += time.perf_counter() - began
        lines = [sum(len(o.lines) for o in some) for some in orders]
        told = f"{1000 * took[1] / rounds:,.0f} ms and {1000 * took[0] / rounds:,.0f} ms"
        sizes = f"{lines[1]:,} receipt lines against {lines[0]:,}"
        yield Line(f"tasks before they are made, {name}", sizes, took[1] / took[0], 12, at_least=False, note=told)
