"""What of a tour is known at a cut between two columns of aisles: the states of the dynamic programme of :mod:`aisles`.

A state says of each row, that is of each cross aisle where the cut is, how many walks end at its junction (none, an odd or an even
number) and which junctions hang together by what was walked so far. That is all the rest of a tour depends on (Ratliff and
Rosenthal 1983 for two rows, Roodbergen and de Koster 2001 for three; the same for any number). States and what follows them do
not depend on a site: they are worked out once for a number of rows, and are small integers from then on.
"""

from __future__ import annotations

from functools import cache
from itertools import product
from typing import Any

UNTOUCHED, ODD, EVEN = 0, 1, 2
Row = tuple[int, int]
"""How many walks end there, and the name of what hangs together."""
Step = tuple[int, Any]
"""The state before, and how it was left: a way of walking a stretch, or the walks of each row to the next column."""
LEFT_OUT, ONCE, TWICE, FROM_HIGH, FROM_LOW, WITHOUT_GAP = range(6)
"""How a stretch between two junctions is walked: not at all, through, there and back through, in and back out from one end or from
the other, or from both with the largest gap between two stops left out."""


def _named(rows: list[Row]) -> tuple[Row, ...]:
    """The same state with its parts named in the order in which they come."""
    names: dict[int, int] = {}
    return tuple((walks, names.setdefault(part, len(names) + 1)) if walks else (0, 0) for walks, part in rows)


class Frontier:
    """The states for a number of rows. Rows from ``free`` on stand for no cross aisle: walks along them cost nothing. Tours whose ends
    are apart use them."""

    def __init__(self, rows: int, free: int) -> None:
        self.rows, self.free = rows, free
        self.states: list[tuple[Row, ...]] = []
        self._numbers: dict[tuple[Row, ...], int] = {}
        self._touched: dict[tuple[int, int], int] = {}
        self._joined: dict[tuple[int, int, int, int], int] = {}
        self._dropped: dict[tuple[int, int], int | None] = {}
        self._closed: dict[int, bool] = {}
        self.walked: dict[tuple[int, int], dict[int, tuple[tuple[int, Step], ...]]] = {}
        """By two rows and a state: the states after each way of walking the stretch between them, as far as asked for."""
        self.crossed: dict[int, list[tuple[int, int, int, Step]]] = {}
        """By a state, as far as asked for: see :meth:`across`."""
        self.start = self._number(((0, 0),) * rows)

    def _number(self, state: tuple[Row, ...]) -> int:
        found = self._numbers.get(state)
        if found is None:
            found = self._numbers[state] = len(self.states)
            self.states.append(state)
        return found

    def touch(self, state: int, row: int) -> int:
        """After a walk out from a row and back to it."""
        key = state, row
        found = self._touched.get(key)
        if found is None:
            rows = list(self.states[state])
            if not rows[row][0]:
                rows[row] = EVEN, len(rows) + 1
            found = self._touched[key] = self._number(_named(rows))
        return found

    def join(self, state: int, a: int, b: int, times: int) -> int:
        """After walking between two rows once or twice."""
        key = state, a, b, times
        found = self._joined.get(key)
        if found is None:
            rows = list(self.states[state])
            parts = set()
            for row in (a, b):
                walks, part = rows[row]
                if not walks:
                    walks, part = EVEN, len(rows) + 1 + row
                rows[row] = (walks if times == 2 else ODD + EVEN - walks), part
                parts.add(part)
            one = min(parts)
            rows = [(walks, one if part in parts else part) for walks, part in rows]
            found = self._joined[key] = self._number(_named(rows))
        return found

    def drop(self, state: int, row: int) -> int | None:
        """After a row that is no cross aisle is done with; None where a walk would end there, or a part be left behind."""
        key = state, row
        if key not in self._dropped:
            rows = list(self.states[state])
            walks, part = rows[row]
            rows[row] = 0, 0
            stays = walks == UNTOUCHED or (walks == EVEN and any(w and p == part for w, p in rows))
            self._dropped[key] = self._number(_named(rows)) if stays else None
        return self._dropped[key]

    def ways(self, a: int, b: int) -> dict[int, tuple[tuple[int, Step], ...]]:
        """The states after each way of walking between two rows, by the state before; filled by :meth:`walk`."""
        return self.walked.setdefault((a, b), {})

    def walk(self, state: int, a: int, b: int) -> tuple[tuple[int, Step], ...]:
        """The states after each way of walking the stretch between rows a and b, in the order of ``LEFT_OUT`` to ``WITHOUT_GAP``, each
        with the step that leads there."""
        low = self.touch(state, a)
        after = (
            state,
            self.join(state, a, b, 1),
            self.join(state, a, b, 2),
            self.touch(state, b),
            low,
            self.touch(low, b),
        )
        found = self.ways(a, b)[state] = tuple((to, (state, way)) for way, to in enumerate(after))
        return found

    def is_closed(self, state: int) -> bool:
        """May a tour be over? Everything walked hangs together, and nothing must be walked on."""
        if state not in self._closed:
            rows = self.states[state]
            parts = {part for walks, part in rows if walks}
            self._closed[state] = len(parts) == 1 and all(walks != ODD for walks, _ in rows)
        return self._closed[state]

    def across(self, state: int) -> list[tuple[int, int, int, Step]]:
        """How one goes on to the next column: the state there, the walks that cost anything, the rows walked as a mask, and the step, with
        the walks of each row. An odd row is walked once, an even one twice or not; no part may be left behind."""
        found = self.crossed.get(state)
        if found is None:
            found = self.crossed[state] = []
            rows = self.states[state]
            parts = {part for walks, part in rows if walks}
            for walks in product(*(((0,), (1,), (0, 2))[n] for n, _ in rows)):
                on = {part for (_, part), n in zip(rows, walks, strict=True) if n}
                if parts <= on and on:
                    after = [(n, part) if n else (0, 0) for (_, part), n in zip(rows, walks, strict=True)]
                    mask = sum(1 << row for row, n in enumerate(walks) if n)
                    found.append((self._number(_named(after)), sum(walks[: self.free]), mask, (state, walks)))
            if not parts:
                found.append((state, 0, 0, (state, (0,) * len(rows))))
        return found


@cache
def frontier(rows: int, *, is_open: bool) -> Frontier:
    """The states for so many cross aisles, made once; of tours whose ends are apart, with a row between the ends and one for each."""
    return Frontier(rows + (3 if is_open else 0), rows)
