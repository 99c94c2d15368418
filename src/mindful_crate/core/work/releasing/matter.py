"""Releasing orders. Its row among the matters."""

from __future__ import annotations

from mindful_crate.core.floor.state import State
from mindful_crate.core.work.releasing.decide import DECIDES, after
from mindful_crate.core.work.releasing.events import ShipmentMade
from mindful_crate.core.work.releasing.fold import FOLDS
from mindful_crate.core.work.releasing.papers import PAPERS
from mindful_crate.core.work.releasing.words import ASKED, WORDS
from mindful_crate.core.work.rows import Matter, telling


def released_into_one(state: State) -> list[str]:
    """Every released order is in the shipment it says, and in no other; stock is kept for lines of released orders alone."""
    found = []
    into = {o: s.number for s in state.shipments.values() if not s.left for o in s.orders}
    for release in state.releases.values():
        if into.get(release.order) != release.shipment:
            found.append(f"{release.order} is not in {release.shipment}")
    found += [
        f"{order} is in {number} and not released" for order, number in into.items() if order not in state.releases
    ]
    kept = {r.order for r in state.reservations.values() if r.order}
    return found + [
        f"stock is kept for {order}, which is not released" for order in kept if order not in state.releases
    ]


RELEASING = Matter(
    "releasing",
    DECIDES,
    FOLDS,
    WORDS,
    papers=PAPERS,
    asked=ASKED,
    invariants=(released_into_one,),
    after=after,
    makes={"shipment": (telling(ShipmentMade, lambda e: e.shipment),)},
)
"""What it brings."""
