"""Of which class each open order is, which other classes would take it, and why the others do not."""

from __future__ import annotations

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.orders import OrderClass, not_of


@record
class NotOf:
    """A class that an order is not of, and why."""

    name: str
    says: str


@record
class Sorted:
    """An open order with its class; None: it is of none. ``fits``: classes after it that would take it too."""

    order: Order
    mine: OrderClass | None
    fits: tuple[str, ...]
    others: tuple[NotOf, ...]


def sorted_orders(state: State, book: Rulebook) -> list[Sorted]:
    """All orders of a site that are not cancelled and not gone, by number."""
    site, ground, found = state.settings.site, state.ground, list[Sorted]()
    classes = book.classes_at(site)
    for order in sorted(state.open_orders(), key=lambda o: o.number):
        said = [(c, not_of(ground, c, order)) for c in classes]
        taking = [c for c, why in said if why is None]
        found.append(
            Sorted(
                order,
                taking[0] if taking else None,
                tuple(c.name for c in taking[1:]),
                tuple(NotOf(c.name, why) for c, why in said if why is not None),
            )
        )
    return found
