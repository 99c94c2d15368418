"""What may be released on a floor: every open order that goes out, what its gate says, what keeps it, and what a release made of it."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from typing import Literal

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import OrderNo
from mindful_crate.core.floor.shipments import Release
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import record
from mindful_crate.core.releasing.cover import LineCover
from mindful_crate.core.releasing.judging import Judged, judged
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.releasing.decide import hold_of

Standing = Literal["stop", "warn", "pass", "held", "released"]
STANDS_TOLD: dict[Standing, str] = {
    "stop": "is stopped", "warn": "goes with a warning", "pass": "may go", "held": "is kept back", "released": "is released",
}  # fmt: skip
"""How an order stands, in words."""
STANDINGS: tuple[Standing, ...] = ("stop", "warn", "pass", "held", "released")
MOST_OTHERS = 5


@record
class Waits:
    """An order that goes out. ``hold``: what keeps it whatever its gate says; ``release``: that it was released."""

    order: Order
    stands: Standing
    judged: Judged
    hold: str
    release: Release | None

    @property
    def whole(self) -> bool:
        """Is all of it on hand?"""
        return all(x.on_hand >= x.wanted for x in self.judged.lines)


@record
class HasSome:
    """A line of another order that has some of the same item on hand, in base units."""

    order: OrderNo
    line: int
    on_hand: int


def release_list(state: State, book: Rulebook, now: datetime) -> list[Waits]:
    """All open orders that go out, as they leave: the earliest first, of a day by priority and number. Nothing is changed by asking."""
    found = []
    for each in judged(state, book, now):
        order = state.order(each.order)
        assert order is not None, each.order
        release, hold = state.releases.get(each.order), hold_of(state, order)
        # of what was released in part, the rest may go once more of it is on hand
        stands: Standing = ("released" if release else "held") if hold else each.verdict.value
        found.append(Waits(order, stands, each, hold.problem.says if hold and not release else "", release))
    return sorted(found, key=lambda w: (w.order.leaves, w.order.priority, w.order.number))


def who_has(state: State, order: OrderNo, line: LineCover) -> Iterator[HasSome]:
    """Lines of other orders that have some on hand of what a line lacks, those that have most first."""
    others = [c for c in state.covers.of_item(line.item) if c.on_hand and c.order != order]
    for c in sorted(others, key=lambda c: (-c.on_hand, c.order, c.line))[:MOST_OTHERS]:
        yield HasSome(c.order, c.line, c.on_hand)
