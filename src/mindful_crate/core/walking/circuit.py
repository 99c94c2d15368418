"""One closed walk over everything that is walked, each as often as it is (Hierholzer 1873), and the places in its order."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from mindful_crate.core.walking.columns import Stretch
from mindful_crate.core.walking.frontier import FROM_HIGH, FROM_LOW, LEFT_OUT, ONCE, TWICE, WITHOUT_GAP
from mindful_crate.core.walking.network import NONE

Place = tuple[int, int]
"""A segment and where along it."""
FREE = -1
"""The walk from the end of an open tour to its start, which costs nothing."""


class Circuit:
    """What is walked, column by column, as edges between nodes: a junction is its column times the rows and its row, an end of an open
    tour a number below zero."""

    def __init__(self, rows: int, done: Iterable[tuple[Any, Any]]) -> None:
        self.rows = rows
        self._edges: list[tuple[int, int, list[Place]]] = []
        self._at: dict[int, list[int]] = {}
        """By node: the edges that end there, by number."""
        self._aside: dict[int, list[Place]] = {}
        """By node: places served by going out from it and coming back."""
        self._column = 0
        ends = []
        for what, how in done:
            if isinstance(what, Stretch):
                if how != LEFT_OUT:
                    self._stretch(how, what)
            elif isinstance(how, tuple):
                begin = self._column * rows
                for node, walks in enumerate(how[:rows], start=begin):
                    for _ in range(walks):
                        self._edge(node, node + rows, [])
                self._column += 1
            elif what is not None:
                ends.append(self._node(what))
        self._ends = sorted(ends, reverse=True)
        """The start and the end of an open tour."""
        self._free = len(self._edges) if ends else FREE
        if ends:
            self._edge(self._ends[1], self._ends[0], [])

    def _node(self, row: int) -> int:
        return self._column * self.rows + row if row < self.rows else self.rows - row

    def _edge(self, a: int, b: int, places: list[Place]) -> None:
        number, at = len(self._edges), self._at
        self._edges.append((a, b, places))
        for node in (a, b):
            if node in at:
                at[node].append(number)
            else:
                at[node] = [number]

    def _serve(self, node: int, places: list[Place]) -> None:
        self._aside[node] = self._aside.get(node, []) + places

    def _stretch(self, way: int, stretch: Stretch) -> None:
        key = stretch.key
        places = [(key, y) for y in stretch.stops]
        if stretch.high_row == NONE:
            self._serve(self._node(stretch.low_row), places)
            return
        if stretch.low_row == NONE:
            self._serve(self._node(stretch.high_row), places[::-1])
            return
        low, high = self._node(stretch.low_row), self._node(stretch.high_row)
        if way in (ONCE, TWICE):
            self._edge(low, high, places)
        if way == TWICE:
            self._edge(low, high, [])
        elif way == FROM_HIGH:
            self._serve(high, places[::-1])
        elif way == FROM_LOW:
            self._serve(low, places)
        elif way == WITHOUT_GAP:
            n = stretch.gap()
            self._serve(low, places[:n])
            self._serve(high, places[: n - 1 : -1])

    def places(self) -> list[Place]:
        """All places in order; of an open tour from its start to its end."""
        if not self._edges:
            return [p for places in self._aside.values() for p in places]
        nodes, edges = self._walk()
        if self._ends:
            at = edges.index(self._free)  # what follows it leads all around to where it begins
            nodes, edges = [*nodes[at + 1 :], *nodes[1 : at + 1]], [*edges[at + 1 :], *edges[:at]]
            if nodes[0] != self._ends[0]:
                nodes.reverse()
                edges.reverse()
        return self._served(nodes, edges)

    def _served(self, nodes: Sequence[int], edges: Sequence[int]) -> list[Place]:
        aside, found = dict(self._aside), list(self._aside.get(nodes[0], ()))
        aside.pop(nodes[0], None)
        for node, number in zip(nodes[1:], edges, strict=True):
            _, to, places = self._edges[number]
            if places:
                found += places if to == node else places[::-1]
            if node in aside:
                found += aside.pop(node)
        return found

    def _walk(self) -> tuple[list[int], list[int]]:
        """Nodes in the order of a closed walk, and the edge from each to the next."""
        at, edges = self._at, self._edges
        used = bytearray(len(edges))
        stack = [(min(at), FREE)]
        nodes, walked = [], []
        while stack:
            node, by = stack[-1]
            here = at[node]
            while here and used[here[-1]]:
                here.pop()
            if here:
                number = here.pop()
                used[number] = 1
                a, b, _ = edges[number]
                stack.append((b if a == node else a, number))
            else:
                stack.pop()
                nodes.append(node)
                walked.append(by)
        return nodes[::-1], walked[-2::-1]
