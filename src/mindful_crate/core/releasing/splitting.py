"""Splitting a wave: which orders go onto which cart, so that all carts together walk as little as can be found.

The cost of a cart is the exact shortest round over its stops. Savings first: the two carts whose union saves most become one, asked
again after every merge (Clarke and Wright 1964, in the form that recomputes). Then *ruin and recreate* in rounds: some orders near one
another leave their carts and are put back where they lengthen least; a round is kept when the metres grow by no more than a drawn part of a
threshold that falls to nothing (Schrimpf and others 2000, threshold accepting). Whole numbers only, a seed and a number of rounds, never
a clock: the same carts on every machine.
"""

from __future__ import annotations

import heapq
from collections.abc import Iterable, Sequence

from mindful_crate.core.chance import Chance
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.walking.network import NOWHERE
from mindful_crate.core.walking.rounds import Rounds

NEAR = 24
"""So many orders are near each order: those that share most of its aisles, then those that end as far away."""
NEAR_AGAIN = 8
"""After a merge, so many near ones of each of its orders are asked again."""
LEFT_OVER = 12
"""Of the carts that savings leave, so many of the emptiest are tried with every other."""
MOST_OUT, MOST_CARTS = 8, 5
"""A round takes at most so many orders out of at most so many carts."""
OFTEN, SELDOM, AS_A_JOB = 4_000, 1_000, 16_000
"""Rounds while somebody waits, in one block with up to ``MANY`` orders; where a round costs more; and of a job."""
MANY = 200
KEPT = 300_000
"""So many rounds keep their length; then they start afresh, which changes no answer."""
SEED = 1

Load = tuple[int, int]
"""Totes, or whatever a cart has so many places for, and milligrams."""


@record
class Picked:
    """An order of a wave, as it is picked: its stops (bins by number), what of a cart's places it takes, and its weight."""

    order: str
    stops: tuple[int, ...]
    totes: int
    weight_mg: int = 0
    lines: int = 0


@record
class Caps:
    """What one cart holds. ``weight_mg`` None: as much as fits."""

    totes: int
    weight_mg: int | None = None


@record
class Split:
    """Carts, each by its orders' places in the wave, with what each walks. How they were found: rounds and seed, 0 rounds being
    savings alone."""

    carts: tuple[tuple[int, ...], ...]
    metres: tuple[int, ...]
    """Of each cart, in millimetres."""
    rounds: int = 0
    seed: int = 0

    @property
    def mm(self) -> int:
        """All carts together."""
        return sum(self.metres)


class Wave:
    """Orders that are worked together, with what carts of them cost. Refused when one is larger than a cart, or has no stops that
    can be walked to, with its number."""

    def __init__(self, orders: Sequence[Picked], rounds: Rounds, caps: Caps) -> None:
        self.orders, self.rounds, self.caps = orders, rounds, caps
        for each in orders:
            self._check(each)
        self._ready = [rounds.ready(o.stops) for o in orders]
        self.size: list[Load] = [(o.totes, o.weight_mg) for o in orders]
        self._kept: dict[frozenset[int], int] = {}
        self.alone = [self.cost((n,)) for n in range(len(orders))]
        for each, mm in zip(orders, self.alone, strict=True):
            if mm >= NOWHERE:
                raise Refusal(
                    "unreachable", f"Nobody can walk to all stops of order `{each.order}` and back.", each.order
                )
        self.near = self._near()

    def _check(self, each: Picked) -> None:
        weight = self.caps.weight_mg
        if each.totes > self.caps.totes:
            says = f"Order `{each.order}` takes {each.totes} places; a cart has {self.caps.totes}."
            raise Refusal("order_too_large", says, each.order)
        if weight is not None and each.weight_mg > weight:
            says = (
                f"Order `{each.order}` weighs {each.weight_mg // 1_000_000} kg; a cart bears {weight // 1_000_000} kg."
            )
            raise Refusal("order_too_heavy", says, each.order)

    def _near(self) -> list[list[int]]:
        network = self.rounds.network
        aisles, ends = [], []
        for each in self.orders:
            mask, farthest = 0, 0
            for n in each.stops:
                mask |= 1 << network.segment_of[n]
                farthest = max(farthest, network.mm(self.rounds.start, n))
            aisles.append(mask)
            ends.append(farthest)
        found = []
        for n, (mine, end) in enumerate(zip(aisles, ends, strict=True)):

            def apart(m: int, mine: int = mine, end: int = end) -> tuple[int, int, int]:
                both = (mine & aisles[m]).bit_count()
                return (mine ^ aisles[m]).bit_count() - 2 * both, abs(ends[m] - end), m

            found.append(heapq.nsmallest(NEAR, (m for m in range(len(aisles)) if m != n), key=apart))
        return found

    def cost(self, some: Iterable[int]) -> int:
        """What a cart with some orders walks, in millimetres."""
        key = frozenset(some)
        if not key:
            return 0
        found = self._kept.get(key)
        if found is None:
            if len(self._kept) >= KEPT:
                self._kept.clear()
            ready = self._ready
            found = self._kept[key] = self.rounds.over([ready[n] for n in sorted(key)])
        return found

    def at_least(self, some: Iterable[int]) -> tuple[int, bool]:
        """No cart with some orders walks less, and whether that is what it walks. Much quicker than :meth:`cost` where that is slow."""
        key = frozenset(some)
        found = self._kept.get(key)
        if found is None and self.rounds.is_quick:
            found = self.cost(key)
        if found is not None:
            return found, True
        ready = self._ready
        return self.rounds.at_least([ready[n] for n in key]), False

    def load(self, some: Iterable[int]) -> Load:
        """What some orders take of a cart."""
        totes = weight = 0
        for n in some:
            totes, weight = totes + self.size[n][0], weight + self.size[n][1]
        return totes, weight

    def fits(self, a: Load, b: Load) -> bool:
        """Do two loads go onto one cart?"""
        most = self.caps.weight_mg
        return a[0] + b[0] <= self.caps.totes and (most is None or a[1] + b[1] <= most)

    def split(self, carts: Iterable[Sequence[int]], rounds: int = 0, seed: int = 0) -> Split:
        """Carts as an answer: the orders of each in their order, the carts by their first."""
        there = sorted(tuple(sorted(c)) for c in carts if c)
        return Split(tuple(there), tuple(self.cost(c) for c in there), rounds, seed)

    # Ways to split

    def one_by_one(self) -> Split:
        """Every order on its own."""
        return self.split([n] for n in range(len(self.orders)))

    def first_come(self) -> Split:
        """Carts filled in the order of the wave."""
        carts: list[list[int]] = [[]]
        now = (0, 0)
        for n, size in enumerate(self.size):
            if carts[-1] and not self.fits(now, size):
                carts.append([])
                now = (0, 0)
            carts[-1].append(n)
            now = now[0] + size[0], now[1] + size[1]
        return self.split(carts)

    def by_savings(self) -> Split:
        """Carts put together while that shortens the way of both."""
        return self.split(_Savings(self).carts())

    def shortest_found(self, rounds: int, seed: int = SEED) -> Split:
        """The shortest split found: by savings, and by improving those in a quarter of the rounds and in all of them. More rounds do
        not always find shorter carts, so each is kept only if it is."""
        best = self.by_savings()
        begun = best.carts
        for count in (rounds // 4, rounds) if rounds >= 4 else (rounds,) if rounds else ():
            found = Improving(self, begun, count, seed)
            found.step(count)
            if found.best().mm < best.mm:
                best = found.best()
        return best

    def rounds_to_wait_for(self) -> int:
        """How many rounds somebody may be kept waiting for."""
        return OFTEN if self.rounds.is_quick and len(self.orders) <= MANY else SELDOM


class _Savings:
    """Carts that become one while that saves most."""

    def __init__(self, wave: Wave) -> None:
        self.wave = wave
        count = len(wave.orders)
        self.cart: dict[int, list[int]] = {n: [n] for n in range(count)}
        self.load = {n: wave.size[n] for n in range(count)}
        self.mm = dict(enumerate(wave.alone))
        self.cart_of = list(range(count))
        self.next = count
        self.waiting: list[tuple[int, int, int, bool]] = []
        """Two carts and how much longer one would be: exactly, or no less than that."""

    def carts(self) -> list[list[int]]:
        wave = self.wave
        for n in range(len(wave.orders)):
            for m in wave.near[n]:
                if (m > n or n not in wave.near[m]) and wave.fits(self.load[n], self.load[m]):
                    self._wait(n, m)
        while self.waiting:
            more, a, b, is_so = heapq.heappop(self.waiting)
            if more >= 0 or a not in self.cart or b not in self.cart:
                continue
            if is_so:
                self._merge(a, b, more)
            else:  # it may be the next: now it pays to know
                heapq.heappush(self.waiting, (self._more(a, b), a, b, True))
        while merged := self._best_left():
            self._merge(*merged)
        return [self.cart[c] for c in sorted(self.cart)]

    def _more(self, a: int, b: int) -> int:
        """How much longer one cart is than two; below zero when it is shorter."""
        return self.wave.cost(self.cart[a] + self.cart[b]) - self.mm[a] - self.mm[b]

    def _wait(self, a: int, b: int) -> None:
        more, is_so = self._more_at_least(a, b)
        if more < 0:
            heapq.heappush(self.waiting, (more, a, b, is_so))

    def _more_at_least(self, a: int, b: int) -> tuple[int, bool]:
        """No less than how much longer one cart is than two, and whether that is it."""
        mm, is_so = self.wave.at_least(self.cart[a] + self.cart[b])
        return mm - self.mm[a] - self.mm[b], is_so

    def _merge(self, a: int, b: int, more: int) -> None:
        wave, new = self.wave, self.next
        some = self.cart[new] = self.cart.pop(a) + self.cart.pop(b)
        left, right = self.load.pop(a), self.load.pop(b)
        self.load[new] = left[0] + right[0], left[1] + right[1]
        self.mm[new] = self.mm.pop(a) + self.mm.pop(b) + more
        for n in some:
            self.cart_of[n] = new
        for other in dict.fromkeys(self.cart_of[m] for n in some for m in wave.near[n][:NEAR_AGAIN]):
            if other != new and wave.fits(self.load[new], self.load[other]):
                self._wait(other, new)
        self.next += 1

    def _best_left(self) -> tuple[int, int, int] | None:
        """The two carts, near one another or not, that save most, one of them among the emptiest; None when none do."""
        wave, best = self.wave, (0, 0, 0)
        left = sorted(self.cart, key=lambda c: (self.load[c], c))
        for n, a in enumerate(left[:LEFT_OVER]):
            for b in left[n + 1 :]:
                if wave.fits(self.load[a], self.load[b]) and (self._more_at_least(a, b)[0], a, b) < best:
                    best = min(best, (self._more(a, b), a, b))
        return (best[1], best[2], best[0]) if best[0] < 0 else None


class Improving:
    """Carts being improved by ruin and recreate: so many rounds in all, made in steps of any size. What was found best so far may be
    taken at any time, and whoever is told to stop stops between two steps."""

    def __init__(self, wave: Wave, carts: Sequence[Sequence[int]], rounds: int, seed: int = SEED) -> None:
        self.wave, self.rounds, self.seed, self.done = wave, rounds, seed, 0
        self._chance = Chance(seed)
        self.carts = [list(c) for c in carts]
        self.mm = [wave.cost(c) for c in self.carts]
        self.load = [wave.load(c) for c in self.carts]
        self.cart_of = {n: k for k, c in enumerate(self.carts) for n in c}
        self.threshold = max(1, sum(wave.alone) // max(1, len(wave.alone)) // 6)
        self.total = self.best_mm = sum(self.mm)
        self._best = [list(c) for c in self.carts]

    def best(self) -> Split:
        """The shortest carts so far."""
        return self.wave.split(self._best, self.done, self.seed)

    def step(self, rounds: int) -> bool:
        """So many more rounds, as far as there are any left; False when there are none after it."""
        if len(self.wave.orders) > 1:
            for _ in range(min(rounds, self.rounds - self.done)):
                self._round()
                self.done += 1
        else:
            self.done = self.rounds
        return self.done < self.rounds

    def _round(self) -> None:
        wave, chance = self.wave, self._chance
        first = chance.below(len(wave.orders))
        out, touched = self._ruin(first)
        gone = set(out)
        carts = {k: [n for n in self.carts[k] if n not in gone] for k in touched}
        load = {k: wave.load(c) for k, c in carts.items()}
        mm = {k: wave.cost(c) for k, c in carts.items()}
        near = wave.near[first]
        others = [self.cart_of[near[chance.below(len(near))]] for _ in range(2)]
        tried = list(dict.fromkeys([*touched, *others, chance.below(len(self.carts))]))
        self._arrange(out)
        for n in out:
            to, more = self._least(n, tried, carts, load, mm)
            if to < 0:
                return  # they do not go back in this order: the round is left out
            mm[to] = mm.get(to, self.mm[to]) + more
            carts[to] = [*carts.get(to, self.carts[to]), n]
            held = load.get(to, self.load[to])
            load[to] = held[0] + wave.size[n][0], held[1] + wave.size[n][1]
        more = sum(far - self.mm[k] for k, far in mm.items())
        left = self.rounds - self.done
        if more > 0 and more >= chance.below(2 * (self.threshold * left * left // (self.rounds * self.rounds)) + 1):
            return
        for k, cart in carts.items():
            self.carts[k], self.mm[k], self.load[k] = cart, mm[k], load[k]
            for n in cart:
                self.cart_of[n] = k
        self.total += more
        if self.total < self.best_mm:
            self.best_mm = self.total
            self._best = [list(c) for c in self.carts]

    def _ruin(self, first: int) -> tuple[list[int], list[int]]:
        """Orders near one another that leave, and the carts they leave."""
        chance = self._chance
        want, few = 1 + chance.below(MOST_OUT), 1 + chance.below(MOST_CARTS)
        of_each = -(-want // few)
        touched: dict[int, int] = {}
        out: list[int] = []
        for n in (first, *self.wave.near[first]):
            k = self.cart_of[n]
            if (k in touched or len(touched) < few) and touched.get(k, 0) < of_each:
                touched[k] = touched.get(k, 0) + 1
                out.append(n)
                if len(out) == want:
                    break
        return out, list(touched)

    def _arrange(self, out: list[int]) -> None:
        """In which order they go back: the largest first, the farthest, the nearest, or as drawn."""
        how, size, alone = self._chance.below(4), self.wave.size, self.wave.alone
        if how == 0:
            out.sort(key=lambda n: (-size[n][0], n))
        elif how == 1:
            out.sort(key=lambda n: (-alone[n], n))
        elif how == 2:
            out.sort(key=lambda n: (alone[n], n))
        else:
            self._chance.shuffle(out)

    def _least(
        self, n: int, tried: Sequence[int], carts: dict[int, list[int]], load: dict[int, Load], mm: dict[int, int]
    ) -> tuple[int, int]:
        """The cart that an order lengthens least, and by how much; -1 when it fits onto none."""
        wave, size = self.wave, self.wave.size[n]
        to, least = -1, NOWHERE
        for k in tried:
            if not wave.fits(load.get(k, self.load[k]), size):
                continue
            cart, far = [*carts.get(k, self.carts[k]), n], mm.get(k, self.mm[k])
            longer, is_so = wave.at_least(cart)
            if longer - far >= least:
                continue
            more = (longer if is_so else wave.cost(cart)) - far
            if more < least:
                to, least = k, more
        return to, least
