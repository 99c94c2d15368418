"""In which order to walk to some bins, and what is known of how short that is."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from enum import StrEnum
from itertools import pairwise

from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.walking.aisles import Aisles
from mindful_crate.core.walking.network import NOWHERE, Network, Spot
from mindful_crate.core.walking.search import affordable, at_least, is_symmetric, length, short_round
from mindful_crate.core.walking.sets import MOST, shortest_round

ROUNDS = 300
"""Kicks of a search, when nobody says otherwise."""
SEED = 1


class Proof(StrEnum):
    """How it is known how short a tour is."""

    AISLES = "aisles"
    """Shortest: every way of walking the aisles was weighed."""
    ALL_ORDERS = "all_orders"
    """Shortest: every order of the stops was weighed."""
    BOUND = "bound"
    """Found by search; no tour is shorter than the bound."""


@record
class Tour:
    """Stops in the order in which they are walked to, from the start and, of a round, back to it. ``at_least_mm``: no tour over
    them is shorter. ``rounds`` and ``seed`` of the search, when it was one."""

    stops: tuple[int, ...]
    mm: int
    at_least_mm: int
    proof: Proof
    rounds: int = 0
    seed: int = 0

    @property
    def is_shortest(self) -> bool:
        """Is it proved that none is shorter?"""
        return self.mm == self.at_least_mm

    @property
    def above_permille(self) -> int:
        """How much longer than the shortest possible it is at most, in thousandths, rounded up."""
        return 0 if self.is_shortest else -(-1000 * (self.mm - self.at_least_mm) // max(1, self.at_least_mm))


class Tours:
    """Tours of a site. What does not depend on the stops is worked out once."""

    def __init__(self, network: Network) -> None:
        self.network = network
        self.aisles = Aisles(network)

    def shortest(
        self, stops: Iterable[int], start: int, end: int | None = None, *, rounds: int = ROUNDS, seed: int = SEED
    ) -> Tour:
        """A tour from the start over all stops to the end; a round when that is None or the start. Exact where aisles are
        parallel, and of few stops; else searched for. Refused when a stop cannot be walked to and from, with its name."""
        last = start if end is None else end
        middle = [n for n in dict.fromkeys(stops) if n not in (start, last)]
        exact = self.aisles.tour(middle, start, last)
        if exact is not None:
            return Tour(tuple(exact[1]), exact[0], exact[0], Proof.AISLES)
        return self._by_matrix(middle, start, last, rounds, seed)

    def length(self, order: Sequence[int], *, is_round: bool = True) -> int:
        """How far it is to walk to stops in the order given; NOWHERE when one cannot."""
        legs = [*order, order[0]] if is_round else list(order)
        return min(NOWHERE, sum(self.network.mm(a, b) for a, b in pairwise(legs)))

    def corners(self, order: Sequence[int], *, is_round: bool = True) -> tuple[Spot, ...]:
        """The corners over which one walks to stops in the order given, in mm; nothing where one cannot."""
        legs = [*order, order[0]] if is_round else list(order)
        walks = (self.network.walk(a, b) for a, b in pairwise(legs))
        return tuple(spot for walk in walks if walk for spot in walk.spots)

    def _by_matrix(self, middle: list[int], start: int, end: int, rounds: int, seed: int) -> Tour:
        network = self.network
        is_round = start == end
        places: dict[object, list[int]] = {}
        for n in middle:
            place = (network.segment_of[n], network.place_of[n]) if network.segment_of[n] >= 0 else n
            places.setdefault(place, []).append(n)
        first = [group[0] for group in places.values()]
        nodes = [start, *first] if is_round else [start, *first, end]
        far = network.matrix(nodes)
        self._check(nodes, far)
        if not middle and not is_round:
            return Tour((start, end), far[0][1], far[0][1], Proof.ALL_ORDERS)
        # the round is to go from the end straight back to the start, so every other leg is dearer by more than all of them
        aside = 0 if is_round else 1 + sum(max(row) for row in far)
        if aside:
            turns = is_symmetric(far)
            far = [[mm + aside for mm in row] for row in far]
            far[-1][0] = 0
            if turns:
                far[0][-1] = 0
        if len(nodes) <= MOST + 1:
            mm, order = shortest_round(far)
            bound, proof, rounds, seed = mm, Proof.ALL_ORDERS, 0, 0
        else:
            rounds = affordable(far, rounds)
            order = short_round(far, rounds, seed)
            mm = length(far, order)
            bound, proof = at_least(far, mm), Proof.BOUND
        if order[-1] != len(nodes) - 1 and not is_round:  # there and back is as far: walked the other way round
            order = [order[0], *reversed(order[1:])]
        saved = aside * (len(nodes) - 1)
        mm, bound = mm - saved, max(0, bound - saved)
        by_first = {group[0]: group for group in places.values()}
        walked = [n for at in order for n in by_first.get(nodes[at], [nodes[at]])]
        return Tour(tuple(walked), mm, bound, proof, rounds, seed)

    def _check(self, nodes: Sequence[int], far: Sequence[Sequence[int]]) -> None:
        bins, count = self.network.bins, len(nodes)
        for n in range(1, count):
            if far[0][n] >= NOWHERE:
                says = f"Nobody can walk from `{bins[nodes[0]].code}` to `{bins[nodes[n]].code}`."
                raise Refusal("unreachable", says, str(bins[nodes[n]].code))
        for n in range(1, count):
            if far[n][0] >= NOWHERE and far[n][-1] >= NOWHERE:
                says = f"One can walk to `{bins[nodes[n]].code}`, but not on from there."
                raise Refusal("unreachable", says, str(bins[nodes[n]].code))
