"""Number series: what the next number of each is."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.keeper import Journal, Keeper

Drawn = Literal[
    "plate", "task", "receipt", "message", "dialogue", "reservation", "shipment", "wave", "sscc", "count", "return"
]
"""What numbers are drawn for; each needs a series."""


class Numbers(Keeper[str, int]):
    """The next number of every series that was drawn from. Rehearsals spell theirs with a prefix of their own."""

    def __init__(self, journal: Journal, ground: Ground, rehearsal: bool) -> None:
        super().__init__(journal)
        self.ground = ground
        self.rehearsal = rehearsal

    def was_drawn(self, series: Drawn, number: str) -> bool:
        """Is it spelled like a number that this series has given out?"""
        rules = self.ground.series.get(series)
        if rules is None:
            return False
        prefix = rules.rehearsal_prefix if self.rehearsal else rules.prefix
        digits = number[len(prefix) :]
        if not number.startswith(prefix) or not digits.isdecimal() or len(digits) > 20:
            return False
        return int(digits) < self._held.get(series, rules.next)

    def number(self, series: Drawn, ahead: int = 0) -> tuple[str, int]:
        """The next number of a series, or one so far ahead of it, spelled and counted. The event that uses it must
        record it."""
        rules = self.ground.series[series]
        next_ = self._held.get(series, rules.next) + ahead
        prefix = rules.rehearsal_prefix if self.rehearsal else rules.prefix
        return f"{prefix}{next_:0{rules.width}d}", next_
