"""A site of parallel aisles as columns of stretches between cross aisles, with the ways in which a stretch may be walked."""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import pairwise

from mindful_crate.core.walking.frontier import FROM_HIGH, FROM_LOW, LEFT_OUT, ONCE, TWICE, WITHOUT_GAP
from mindful_crate.core.walking.network import NONE


@dataclass(slots=True, eq=False)
class Stretch:
    """Between two nodes of a column, by row; one of them is NONE where it ends blind. ``stops`` are places along it."""

    low_row: int
    high_row: int
    low: int
    high: int
    key: int
    """The segment it is of, to name its stops by."""
    stops: list[int] = field(default_factory=list)
    _ways: list[tuple[int, int]] | None = None

    def ways(self) -> list[tuple[int, int]]:
        """How it may be walked so that all stops are served, and how far that is."""
        if self._ways is None:
            self._ways = self._all_ways()
        return self._ways

    def _all_ways(self) -> list[tuple[int, int]]:
        length, stops = self.high - self.low, self.stops
        if not stops:
            return [(LEFT_OUT, 0), (ONCE, length), (TWICE, 2 * length)]
        found = [
            (ONCE, length),
            (TWICE, 2 * length),
            (FROM_HIGH, 2 * (self.high - stops[0])),
            (FROM_LOW, 2 * (stops[-1] - self.low)),
        ]
        if len(stops) > 1:
            found.append((WITHOUT_GAP, 2 * (length - max(b - a for a, b in pairwise(stops)))))
        return found

    def out_and_back(self) -> int:
        """How far it is into a blind stretch, to the last stop, and back."""
        return 2 * (self.stops[-1] - self.low if self.high_row == NONE else self.high - self.stops[0])

    def gap(self) -> int:
        """After how many stops the largest gap comes."""
        stops = self.stops
        return max(range(1, len(stops)), key=lambda n: (stops[n] - stops[n - 1], -n))


@dataclass(slots=True, eq=False)
class Column:
    """All stretches at one place from west to east."""

    x: int
    stretches: list[Stretch] = field(default_factory=list)
    ends: list[tuple[int, list[Stretch]]] = field(default_factory=list)
    """Ends of an open tour that lie here, by row, and the stretches around them."""
