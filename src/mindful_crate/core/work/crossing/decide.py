"""How its acts are decided: tying what is still to come to orders that wait for it."""

from __future__ import annotations

from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Serves
from mindful_crate.core.problem import Refusal
from mindful_crate.core.releasing.cover import wanting
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.crossing.acts import TieThrough
from mindful_crate.core.work.crossing.doing import station_of
from mindful_crate.core.work.crossing.events import LineTied
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp


def _tie(state: State, making: Making, rulebook: Rulebook, _: Stamp, act: TieThrough) -> str:
    source, target = LineKey(act.inbound, act.inbound_line), LineKey(act.order, act.line)
    known = state.ties.get(source, ())
    others = tuple(t for t in known if t.line != target)
    if act.quantity == 0:
        if others == known:
            raise Refusal("not_tied", f"Nothing of `{source}` goes straight to `{target}`.")
        making.event(LineTied(source, others))
        return f"What comes of `{source}` is stored like anything else: `{target}` gets it by the ordinary way."
    coming, order = state.order(act.inbound), state.order(act.order)
    line = state.ordered.line(coming, act.inbound_line) if coming else None
    if coming is None or line is None or not coming.inbound or state.is_cancelled(act.inbound):
        raise Refusal("unknown_order", f"Nothing comes in as `{source}`.", "inbound")
    wants = wanting(state, order, act.line)
    if order is None or wants is None:
        raise Refusal("no_such_line", f"`{target}` is no line that goes out from here, or is not confirmed.", "order")
    item = state.ground.items[wants.item]
    if line.item != wants.item:
        raise Refusal("other_item", f"`{source}` is `{line.item}`, `{target}` wants `{wants.item}`.")
    if not item.cross_docks:
        raise Refusal("not_fit", f"{item.name} is not fit for cross-docking, says the catalogue.")
    if station_of(state, rulebook, order, item.code) is None:
        raise Refusal(
            "no_station",
            f"By the plan of `{target}` what is picked is brought nowhere, so nothing can go straight there.",
        )
    open_ = state.open_quantity(coming, line) - sum(t.quantity for t in others)
    still = wants.quantity - state.reservations.of_line(target)
    if not 0 < act.quantity <= min(open_, still):
        says = f"Of `{source}` {item.told(max(0, open_))} are still to come and go nowhere yet; `{target}` wants {item.told(still)} more."
        raise Refusal("too_much", says, "quantity")
    making.event(LineTied(source, (*others, Serves(target, act.quantity))))
    return (
        f"{item.told(act.quantity)} of what comes of `{source}` go straight to `{target}`, as soon as it is released."
    )


DECIDES = (deciding(TieThrough, _tie),)
"""How its acts are decided."""
