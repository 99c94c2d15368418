"""The shortest round over a few stops by what is known of all sets of them (Bellman 1962, Held and Karp 1962)."""

from __future__ import annotations

from collections.abc import Sequence

from mindful_crate.core.walking.network import NOWHERE

Far = Sequence[Sequence[int]]
"""How far it is from each stop to each, in whole millimetres; there and back may differ."""
MOST = 12
"""So many stops beside the first are a tenth of a second's work; each further one more than doubles it."""


def shortest_round(far: Far) -> tuple[int, list[int]]:
    """Length and order of the shortest round over all stops from the first. NOWHERE where there is none."""
    last = len(far) - 1
    if last < 2:
        return (0, [0]) if last == 0 else (min(far[0][1] + far[1][0], NOWHERE), [0, 1])
    ways: dict[int, dict[int, int]] = {1 << n: {n: far[0][n + 1]} for n in range(last)}
    """For each set of stops: the shortest way from the first through all of it to each of its members."""
    before: dict[tuple[int, int], int] = {}
    for _ in range(last - 1):
        longer: dict[int, dict[int, int]] = {}
        for some, ends in ways.items():
            for n in range(last):
                if some >> n & 1:
                    continue
                best, by = NOWHERE, -1
                for m, mm in ends.items():
                    total = mm + far[m + 1][n + 1]
                    if total < best:
                        best, by = total, m
                grown = some | 1 << n
                longer.setdefault(grown, {})[n] = best
                before[grown, n] = by
        ways = longer
    some = (1 << last) - 1
    best, n = min((mm + far[m + 1][0], m) for m, mm in ways[some].items())
    order = []
    while n >= 0:
        order.append(n + 1)
        some, n = some ^ 1 << n, before.get((some, n), -1)
    return min(best, NOWHERE), [0, *reversed(order)]
