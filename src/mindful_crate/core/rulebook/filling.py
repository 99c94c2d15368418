"""When shelves are filled by the clock."""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.ids import ShelfRunId, SiteCode, ZoneCode
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.times import minutes_of


class Fills(StrEnum):
    """Which shelves are filled."""

    NOT_FULL = "not_full"
    """All that could take more."""
    LOW = "low"
    """Those that hold less than their least."""


@record
class ShelfRun:
    """Shelves filled by the clock: at ``times``, like ``05:30; 13:00``, those of ``zones`` with items of ``groups`` (none: of all)."""

    id: ShelfRunId
    times: str = ""
    fills: Fills = Fills.NOT_FULL
    zones: tuple[ZoneCode, ...] = ()
    groups: tuple[str, ...] = ()
    site: SiteCode | None = None
    on: bool = True

    @property
    def minutes(self) -> tuple[int, ...]:
        """Its times as minutes after midnight, in order; what is no time is left out."""
        return minutes_of(self.times)
