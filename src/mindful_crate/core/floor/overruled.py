"""How often another bin was taken than the one a rule had chosen, and the latest of them, so that rules can be mended where they
are edited."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import BinCode, PersonId
from mindful_crate.core.record import record

KEPT = 20
"""So many of the latest are kept of each rule."""


@record
class Overruling:
    """Once: the bin that was shown, the one that was taken, why, and by whom."""

    shown: BinCode
    taken: BinCode
    reason: str
    by: PersonId
    seq: int


@record
class Overruled:
    """All of a rule: how often, and the latest."""

    count: int = 0
    latest: tuple[Overruling, ...] = ()

    def more(self, one: Overruling) -> Overruled:
        """With one more."""
        return Overruled(self.count + 1, (*self.latest, one)[-KEPT:])
