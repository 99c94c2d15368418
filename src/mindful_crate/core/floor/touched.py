"""What changed of bins and items, so that whatever was worked out about them is worked out anew.

Nothing here is taken back with a change: what was forgotten is found again, and ticks only go up.
"""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.ids import BinCode, ItemCode
from mindful_crate.core.placing.fit import Held, Lying


class Touched:
    """Bins by the tick of their latest change, and what is remembered of bins and items until they change."""

    def __init__(self) -> None:
        self.tick = 0
        """Goes up with every change of a bin."""
        self.bins: dict[BinCode, int] = {}
        """Bins that are not as at the opening, or were not for a moment; the latest last."""
        self.held: dict[BinCode, Held] = {}
        self.lines: dict[ItemCode, tuple[Lying, ...]] = {}
        self.lying_in: dict[ItemCode, frozenset[BinCode]] = {}

    def touch(self, code: BinCode) -> None:
        """A bin is not as it was."""
        self.held.pop(code, None)
        self.tick += 1
        self.bins.pop(code, None)
        self.bins[code] = self.tick

    def forget(self, item: ItemCode) -> None:
        """Some of an item lies elsewhere now, or is other."""
        self.lines.pop(item, None)
        self.lying_in.pop(item, None)

    def changed_since(self, tick: int) -> Iterator[BinCode]:
        """Bins that changed after that tick, latest first."""
        for code, at in reversed(self.bins.items()):
            if at <= tick:
                return
            yield code
