"""All ways to pick what is kept for some orders, side by side."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from mindful_crate.core.catalog.ids import OrderNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.releasing.methods import Compared, compared
from mindful_crate.core.releasing.splitting import Caps
from mindful_crate.core.rulebook.waves import WavePlan
from mindful_crate.core.walking.distance import network_of, tours_of
from mindful_crate.core.walking.rounds import Rounds
from mindful_crate.core.work.picking.arranging import Kept, as_picked, begins

TRIED = 400
"""Rounds of improving carts while somebody waits for the answer."""
MOST_TRIED = 150
"""More orders than that are split by savings alone."""


def ways(state: State, plan: WavePlan, kept: Iterable[Kept]) -> tuple[list[Compared], str]:
    """All ways to pick what is kept loose, with the carts and pickers of a plan; or why they cannot be compared."""
    loose: dict[OrderNo, list[Kept]] = {}
    for each in kept:
        if not each.whole:
            loose.setdefault(each.line.order, []).append(each)
    picked = [p for n, k in loose.items() if (p := as_picked(state, n, k)).stops]
    start = begins(state)
    if not picked:
        return [], "Nothing of it is picked loose."
    if start is None:
        return [], "There is no pack station, staging place or door from which pickers begin."
    rounds = Rounds(tours_of(state.ground, state.settings.site), start)
    try:
        return compared(
            picked, rounds, Caps(plan.totes), pickers=plan.pickers, batch_lines=plan.cart_lines, zones=_zones(state),
            effort=TRIED if len(picked) <= MOST_TRIED else 0,
        ), ""  # fmt: skip
    except Refusal as refusal:
        return [], refusal.problem.says


def _zones(state: State) -> Mapping[int, Rounds]:
    """Of each bin the rounds of its zone, which begin where totes are handed over there; where none is named, at its first bin on the walk."""
    ground, network = state.ground, network_of(state.ground, state.settings.site)
    tours = tours_of(ground, state.settings.site)
    found: dict[int, Rounds] = {}
    for zone in ground.zones_of_site.get(state.settings.site, ()):
        bins = [(b.walk, n) for b in ground.bins_by_zone[zone] if (n := network.number(b.code)) is not None]
        if bins:
            point = ground.zones[zone].hand_over
            named = network.number(point) if point else None
            rounds = Rounds(tours, min(bins)[1] if named is None else named)
            found |= {n: rounds for _, n in bins}
    return found
