"""Chance that is the same everywhere: whole numbers only, of no library whose next version might draw others."""

from __future__ import annotations

_ALL = (1 << 64) - 1


class Chance:
    """Numbers drawn from a seed (xorshift64*, Vigna 2016)."""

    __slots__ = ("_state",)

    def __init__(self, seed: int) -> None:
        self._state = (seed * 0x9E3779B97F4A7C15 + 0x1234567) & _ALL or 1

    def below(self, n: int) -> int:
        """A whole number from 0 to n - 1."""
        x = self._state
        x ^= x >> 12
        x ^= x << 25 & _ALL
        x ^= x >> 27
        self._state = x
        return ((x * 0x2545F4914F6CDD1D & _ALL) >> 32) % n

    def shuffle(self, some: list[int]) -> None:
        """Put a list into a drawn order."""
        for n in range(len(some) - 1, 0, -1):
            m = self.below(n + 1)
            some[n], some[m] = some[m], some[n]
