"""Carts to pickers: who walks how much, and what it costs that everybody walks."""

from __future__ import annotations

import heapq
from collections.abc import Sequence

from mindful_crate.core.record import record
from mindful_crate.core.releasing.splitting import Caps, Split, Wave


@record
class Shares:
    """Carts by picker, and what each walks in millimetres."""

    carts: tuple[tuple[int, ...], ...]
    metres: tuple[int, ...]

    @property
    def longest(self) -> int:
        """What the picker walks who walks most."""
        return max(self.metres, default=0)

    @property
    def over_even_permille(self) -> int:
        """How much more that is than an even share, in thousandths."""
        total = sum(self.metres)
        return 0 if not total else (1000 * self.longest * len(self.metres) + total - 1) // total - 1000


def share(metres: Sequence[int], pickers: int) -> Shares:
    """Carts to pickers: the longest first, each to whoever has least; then single carts are given away or changed for shorter ones
    while that makes the longest share shorter."""
    waiting = [(0, p) for p in range(pickers)]
    mine: list[list[int]] = [[] for _ in range(pickers)]
    for k in sorted(range(len(metres)), key=lambda k: (-metres[k], k)):
        far, p = heapq.heappop(waiting)
        mine[p].append(k)
        heapq.heappush(waiting, (far + metres[k], p))
    sums = [sum(metres[k] for k in carts) for carts in mine]
    while _evened(metres, mine, sums):
        pass
    return Shares(tuple(tuple(sorted(carts)) for carts in mine), tuple(sums))


def _evened(metres: Sequence[int], mine: list[list[int]], sums: list[int]) -> bool:
    """One cart less, or one changed for a shorter one, for the picker who walks most; False when nothing helps."""
    longest = max(range(len(sums)), key=lambda p: (sums[p], -p))
    for p in sorted(range(len(sums)), key=lambda p: (sums[p], p)):
        if p == longest:
            continue
        for a in mine[longest]:
            for b in (None, *mine[p]):
                less = metres[a] - (0 if b is None else metres[b])
                if less > 0 and max(sums[longest] - less, sums[p] + less) < sums[longest]:
                    mine[longest].remove(a)
                    mine[p].append(a)
                    if b is not None:
                        mine[p].remove(b)
                        mine[longest].append(b)
                    sums[longest] -= less
                    sums[p] += less
                    return True
    return False


@record
class EverybodyWalks:
    """Two ways to give a wave to pickers: carts as full as they may be, and carts so small that everybody has one."""

    full: Split
    small: Split
    full_shares: Shares
    small_shares: Shares
    totes: int
    """What a small cart holds."""

    @property
    def longer_permille(self) -> int:
        """What it costs: how much more is walked in all, in thousandths."""
        return 1000 * (self.small.mm - self.full.mm) // max(1, self.full.mm)

    @property
    def sooner_permille(self) -> int:
        """What it brings: how much less the longest share is, in thousandths."""
        return 1000 * (self.full_shares.longest - self.small_shares.longest) // max(1, self.full_shares.longest)


def everybody_walks(wave: Wave, pickers: int, rounds: int, seed: int = 1) -> EverybodyWalks:
    """A wave on full carts, and on carts that hold no more than an even share of its totes (and its largest order)."""
    totes = sum(o.totes for o in wave.orders)
    largest = max((o.totes for o in wave.orders), default=1)
    small = Caps(min(wave.caps.totes, max(largest, -(-totes // pickers))), wave.caps.weight_mg)
    full = wave.shortest_found(rounds, seed)
    other = full if small == wave.caps else Wave(wave.orders, wave.rounds, small).shortest_found(rounds, seed)
    return EverybodyWalks(full, other, share(full.metres, pickers), share(other.metres, pickers), small.totes)
