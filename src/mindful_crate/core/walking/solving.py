"""The dynamic programme over the columns of a site: see :mod:`aisles`."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from mindful_crate.core.walking.circuit import Circuit, Place
from mindful_crate.core.walking.columns import Column, Stretch
from mindful_crate.core.walking.frontier import FROM_LOW, Step, frontier
from mindful_crate.core.walking.network import NOWHERE

Costs = dict[int, int]
"""Shortest so far, by state."""
Back = dict[int, Step]
"""The state before, and how it was left, by state."""


class Solving:
    """One run over the columns. ``best`` is the length; what was done is kept when the order is asked for. ``walkable``: which rows one
    may walk from each column to the next, as masks, when not all of them."""

    def __init__(
        self, columns: Sequence[Column], rows: int, walkable: Sequence[int] | None, *, is_open: bool, order: bool
    ) -> None:
        self.columns, self.rows, self.walkable, self.is_open = columns, rows, walkable, is_open
        self.states = frontier(rows, is_open=is_open)
        self.best = NOWHERE
        self._keeps = order
        self._trace: list[tuple[Any, Back]] = []
        """Step by step what was worked on, and the way back."""
        self._end: tuple[int, int] = (0, 0)
        self._run()

    def _run(self) -> None:
        columns = self.columns
        needed = max(n for n, c in enumerate(columns) if c.ends or any(s.stops for s in c.stretches))
        known = {self.states.start: 0}
        for n, column in enumerate(columns):
            for stretch in column.stretches:
                known = self._walked(known, stretch)
            if column.ends:
                known = self._ended(known, column)
            if n >= needed:
                self._close(known)
            if n + 1 < len(columns):
                known = self._crossed(known, n, columns[n + 1].x - column.x)

    def _walked(self, known: Costs, stretch: Stretch) -> Costs:
        """Over one stretch of a column."""
        low, high = stretch.low_row, stretch.high_row
        if low < 0 or high < 0:
            row = low if high < 0 else high
            return self._stepped(known, lambda s: self.states.touch(s, row), stretch.out_and_back(), stretch)
        after: Costs = {}
        back: Back = {}
        ways = stretch.ways()
        table = self.states.ways(low, high)
        get = after.get
        for s, mm in known.items():
            to = table.get(s) or self.states.walk(s, low, high)
            for way, far in ways:
                t, step = to[way]
                total = mm + far
                if total < get(t, NOWHERE):
                    after[t] = total
                    back[t] = step
        if self._keeps:
            self._trace.append((stretch, back))
        return after

    def _stepped(self, known: Costs, to: Callable[[int], int | None], mm: int, what: Any) -> Costs:
        """One step that every state takes alike, or cannot take."""
        after: Costs = {}
        back: Back = {}
        for s, far in known.items():
            t = to(s)
            if t is not None and far + mm < after.get(t, NOWHERE):
                after[t] = far + mm
                back[t] = s, FROM_LOW
        if self._keeps:
            self._trace.append((what, back))
        return after

    def _ended(self, known: Costs, column: Column) -> Costs:
        """Over the stretches around the ends of an open tour: each end has one walk more, along the row that costs nothing."""
        states = self.states
        for row, _ in column.ends:
            known = self._stepped(known, lambda s, row=row: states.join(s, row, self.rows, 1), 0, row)  # type: ignore[misc]
        for _, parts in column.ends:
            for stretch in parts:
                known = self._walked(known, stretch)
        for row, _ in column.ends:
            known = self._stepped(known, lambda s, row=row: states.drop(s, row), 0, None)  # type: ignore[misc]
        return known

    def _close(self, known: Costs) -> None:
        """The tour may end here where everything walked hangs together and no walk is left over."""
        for s, mm in known.items():
            if mm < self.best and self.states.is_closed(s):
                self.best, self._end = mm, (s, len(self._trace))

    def _crossed(self, known: Costs, n: int, width: int) -> Costs:
        """From a column to the next."""
        after: Costs = {}
        back: Back = {}
        crossed, across = self.states.crossed, self.states.across
        barred = 0 if self.walkable is None else ~self.walkable[n] & (1 << self.rows) - 1
        get = after.get
        for s, mm in known.items():
            for t, walks, mask, step in crossed.get(s) or across(s):
                total = mm + width * walks
                if total < get(t, NOWHERE) and not mask & barred:
                    after[t] = total
                    back[t] = step
        if self._keeps:
            self._trace.append((n, back))
        return after

    def order(self) -> list[Place]:
        """The places in the order of the tour, as segments and places along them."""
        state, steps = self._end
        done = []
        for what, back in reversed(self._trace[:steps]):
            state, how = back[state]
            done.append((what, how))
        return Circuit(self.rows, done[::-1]).places()
