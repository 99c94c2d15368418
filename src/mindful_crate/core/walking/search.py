"""A short round over many stops, where the shortest cannot be found: local search with kicks, and how short it could be at best.

Effort is counted in rounds, never in time, so the answer is the same on every machine.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from itertools import pairwise

from mindful_crate.core.chance import Chance
from mindful_crate.core.walking.network import NOWHERE
from mindful_crate.core.walking.sets import Far

NEAR = 10
"""So many nearest stops are looked at from each."""
LONGEST = 3
"""Runs of so many stops are moved elsewhere."""
MOVED = 12
"""Where ways differ there and back, runs of so many: they move without being turned, which takes looking at all places."""
WORK = 90_000
"""Where ways differ, kicks times stops times stops are no more: each of them is looked at from every stop."""
KICK_WITHIN = 50
"""A kick changes a stretch of at most so many stops, so that it can be mended nearby."""


def length(far: Far, order: Sequence[int]) -> int:
    """How long a round is."""
    return sum(far[a][b] for a, b in pairwise(order)) + far[order[-1]][order[0]]


def is_symmetric(far: Far) -> bool:
    """Is it as far back as it is there, everywhere?"""
    return all(far[a][b] == far[b][a] for a in range(len(far)) for b in range(a))


def affordable(far: Far, rounds: int) -> int:
    """So many of some kicks that a round over these stops is found in about a second."""
    return rounds if is_symmetric(far) else min(rounds, WORK // len(far) ** 2)


def short_round(far: Far, rounds: int, seed: int = 1) -> list[int]:
    """The order of a short round from the first stop: begun twice, improved until nothing near is shorter, then kicked so many
    times, each kick kept when the round is not longer afterwards (Or 1976; Martin, Otto and Felten 1991)."""
    symmetric = is_symmetric(far)
    improve: Callable[[list[int], Iterable[int]], list[int]]
    improve = _Settling(far).settle if symmetric else lambda order, _: _moved(far, order)
    best = min(
        (improve(order, range(len(far))) for order in (_inserted(far), _nearest(far))), key=lambda o: length(far, o)
    )
    shortest, chance = length(far, best), Chance(seed)
    for _ in range(rounds if len(far) > LONGEST else 0):
        at = chance.below(len(far))
        turned = best[at:] + best[:at]
        within = min(len(far) - 1, KICK_WITHIN) if symmetric else len(far) - 1
        cuts = sorted({1 + chance.below(within) for _ in range(3)})
        if len(cuts) < 3:
            continue
        i, j, k = cuts
        around = (turned[0], turned[i - 1], turned[i], turned[j - 1], turned[j], turned[k - 1], turned[k])
        kicked = improve(turned[:i] + turned[j:k] + turned[i:j] + turned[k:], around)
        mm = length(far, kicked)
        if mm <= shortest:
            best, shortest = kicked, mm
    first = best.index(0)
    return best[first:] + best[:first]


def _nearest(far: Far) -> list[int]:
    left, order = set(range(1, len(far))), [0]
    while left:
        here = far[order[-1]]
        order.append(min(left, key=lambda n: (here[n], n)))
        left.remove(order[-1])
    return order


def _inserted(far: Far) -> list[int]:
    """The stop that is farthest from the round is put in where it lengthens it least, again and again."""
    order, left = [0], set(range(1, len(far)))
    near = [min(far[0][n], far[n][0]) for n in range(len(far))]
    while left:
        n = max(left, key=lambda m: (near[m], -m))
        left.remove(n)
        _, at = min(
            (far[a][n] + far[n][b] - far[a][b], at) for at, (a, b) in enumerate(pairwise([*order, order[0]]), start=1)
        )
        order.insert(at, n)
        for m in left:
            near[m] = min(near[m], far[n][m], far[m][n])
    return order


def _moved(far: Far, order: list[int]) -> list[int]:
    """Runs of stops are moved elsewhere, not turned round, while that shortens: for sites with one-way aisles."""
    again = len(order) > 3
    while again:
        again = False
        for size in range(1, min(MOVED, len(order) // 2) + 1):
            for at in range(len(order)):
                better = _run_moved(far, order, at, size)
                if better:
                    order, again = better, True
    return order


def _run_moved(far: Far, order: list[int], at: int, size: int) -> list[int] | None:
    """The run of some stops from a place on, put where it shortens most; None when it does nowhere."""
    turned = order[at:] + order[:at]
    run, rest = turned[:size], turned[size:]
    first, last = run[0], run[-1]
    gain = far[rest[-1]][first] + far[last][rest[0]] - far[rest[-1]][rest[0]]
    best, cut = 0, 0
    for n, (a, b) in enumerate(pairwise(rest), start=1):
        saved = gain - far[a][first] - far[last][b] + far[a][b]
        if saved > best:
            best, cut = saved, n
    return rest[:cut] + run + rest[cut:] if cut else None


class _Settling:
    """2-opt and Or-opt with lists of near stops and a queue of stops around which something changed."""

    def __init__(self, far: Far) -> None:
        self.far = far
        everybody = range(len(far))
        self.near = [
            sorted((m for m in everybody if m != n), key=lambda m, n=n: (far[n][m], m))[:NEAR]  # type: ignore[misc]
            for n in everybody
        ]

    def settle(self, order: list[int], around: Iterable[int]) -> list[int]:
        """The round until nothing near the stops ``around`` makes it shorter."""
        self.order = order
        self.place = [0] * len(order)
        self._place_all()
        self.queue = list(dict.fromkeys(around))
        self.waiting = set(self.queue)
        while self.queue:
            n = self.queue.pop()
            self.waiting.discard(n)
            while self._turned(n) or self._put_elsewhere(n):
                pass
        return self.order

    def _place_all(self) -> None:
        for at, n in enumerate(self.order):
            self.place[n] = at

    def _again(self, *some: int) -> None:
        for n in some:
            if n not in self.waiting:
                self.waiting.add(n)
                self.queue.append(n)

    def _turned(self, a: int) -> bool:
        """2-opt: two ways of the round crossed over, on the way out of a stop or into it."""
        far, order, place = self.far, self.order, self.place
        from_a, count = far[a], len(order)
        for side in (1, -1):
            b = order[(place[a] + side) % count]
            now = from_a[b]
            for c in self.near[a]:
                gain = now - from_a[c]
                if gain <= 0:
                    break
                d = order[(place[c] + side) % count]
                if gain + far[c][d] - far[b][d] > 0:
                    if side > 0:
                        self._turn(place[b], place[c])
                    else:
                        self._turn(place[c], place[b])
                    self._again(a, b, c, d)
                    return True
        return False

    def _turn(self, i: int, j: int) -> None:
        """The stops from place i to place j in the other order, or all others, whichever are fewer."""
        order, place, count = self.order, self.place, len(self.order)
        many = (j - i) % count + 1
        if 2 * many > count:
            i, j, many = (j + 1) % count, (i - 1) % count, count - many
        for _ in range(many // 2):
            a, b = order[i], order[j]
            order[i], order[j] = b, a
            place[b], place[a] = i, j
            i, j = (i + 1) % count, (j - 1) % count

    def _put_elsewhere(self, a: int) -> bool:
        """Or-opt: a run that begins or ends at a stop goes beside a stop near it, either way round."""
        far, order, place = self.far, self.order, self.place
        count, at, from_a = len(order), place[a], far[a]
        for side in (1, -1):
            for size in range(1, LONGEST + 1):
                if size + 3 > count:
                    break
                z = order[(at + side * (size - 1)) % count]
                p, q = order[(at - side) % count], order[(at + side * size) % count]
                gain = far[p][a] + far[z][q] - far[p][q]
                if gain <= 0:
                    continue
                for c in self.near[a]:
                    if gain - from_a[c] <= 0:
                        break
                    if (place[c] - at) * side % count < size:
                        continue
                    for e in (order[(place[c] + 1) % count], order[place[c] - 1]):
                        if (place[e] - at) * side % count < size:
                            continue
                        if gain + far[c][e] - from_a[c] - far[z][e] > 0:
                            run = [order[(at + side * n) % count] for n in range(size)]
                            self._put(run, c, e)
                            self._again(a, z, p, q, c, e)
                            return True
        return False

    def _put(self, run: list[int], c: int, e: int) -> None:
        """A run between two neighbours, its first stop beside ``c``."""
        rest = [n for n in self.order if n not in run]
        at = rest.index(c)
        if rest[(at + 1) % len(rest)] == e:
            self.order[:] = rest[: at + 1] + run + rest[at + 1 :]
        else:
            self.order[:] = rest[:at] + run[::-1] + rest[at:]
        self._place_all()


# How short a round could be at best

SCALE = 64
"""Prices are kept in parts of a millimetre, so that whole numbers do."""
ASCENTS = 150
PATIENCE = 5


def at_least(far: Far, upper: int) -> int:
    """No round over all stops is shorter. ``upper``: the length of one that is known."""
    if len(far) < 3:
        return far[0][1] + far[1][0] if len(far) == 2 else 0
    return _one_tree(far, upper) if is_symmetric(far) else _assigned(far)


def _one_tree(far: Far, upper: int) -> int:
    """A tree over all stops but the first, and its two nearest: prices on the stops are raised until each has nearly two
    neighbours (Held and Karp 1970). The bound is rounded up, since a round is whole millimetres."""
    count = len(far)
    scaled = [[mm * SCALE for mm in row] for row in far]
    price = [0] * count
    best, step_size, stalled = 0, SCALE, 0
    for _ in range(ASCENTS):
        total, degree = _tree(scaled, price)
        bound = total - 2 * sum(price)
        if bound > best:
            best, stalled = bound, 0
        else:
            stalled += 1
            if stalled >= PATIENCE:
                step_size, stalled = max(1, step_size * 2 // 3), 0
        off = sum((d - 2) ** 2 for d in degree)
        if off == 0:
            break
        step = max(1, step_size * max(upper * SCALE - bound, SCALE) // (SCALE * off))
        for n in range(count):
            price[n] += step * (degree[n] - 2)
    return min(-(-best // SCALE), upper)


def _tree(scaled: list[list[int]], price: list[int]) -> tuple[int, list[int]]:
    """The cheapest tree over stops 1 and up (Prim 1957) with the two cheapest ways to stop 0, and how many neighbours each has."""
    count = len(scaled)
    degree, total, n = [0] * count, 0, 1
    left = set(range(2, count))
    row, mine = scaled[1], price[1]
    cost = [row[m] + mine + price[m] for m in range(count)]
    parent = [1] * count
    while left:
        n = min(left, key=cost.__getitem__)
        left.remove(n)
        total += cost[n]
        degree[n] += 1
        degree[parent[n]] += 1
        row, mine = scaled[n], price[n]
        for m in left:
            mm = row[m] + mine + price[m]
            if mm < cost[m]:
                cost[m], parent[m] = mm, n
    for mm, m in sorted((scaled[0][m] + price[0] + price[m], m) for m in range(1, count))[:2]:
        total += mm
        degree[0] += 1
        degree[m] += 1
    return total, degree


def _assigned(far: Far) -> int:
    """The cheapest next stop for every stop, each taken once (Kuhn 1955, in the form of Jonker and Volgenant)."""
    count = len(far)
    by_row, by_column = [0] * (count + 1), [0] * (count + 1)
    row_of, way = [0] * (count + 1), [0] * (count + 1)
    for row in range(1, count + 1):
        row_of[0], column = row, 0
        least, used = [NOWHERE] * (count + 1), [False] * (count + 1)
        while True:
            used[column] = True
            here, delta, following = row_of[column], NOWHERE, 0
            for c in range(1, count + 1):
                if not used[c]:
                    mm = NOWHERE // 4 if here == c else far[here - 1][c - 1]
                    reduced = mm - by_row[here] - by_column[c]
                    if reduced < least[c]:
                        least[c], way[c] = reduced, column
                    if least[c] < delta:
                        delta, following = least[c], c
            for c in range(count + 1):
                if used[c]:
                    by_row[row_of[c]] += delta
                    by_column[c] -= delta
                else:
                    least[c] -= delta
            column = following
            if row_of[column] == 0:
                break
        while column:
            row_of[column] = row_of[way[column]]
            column = way[column]
    return sum(far[row_of[c] - 1][c - 1] for c in range(1, count + 1))
