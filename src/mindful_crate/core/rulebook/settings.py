"""Settings that hold where a plan or a flow leaves them open: for all sites, and for one site before that."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum
from typing import Any

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.flows import OtherBin
from mindful_crate.core.rulebook.steps import BookingPoint

GENERAL = "general"
"""The id of the layer for all sites; the layer of a site has the site's code."""


class Sync(StrEnum):
    """When a handset takes what was put in force since: its menu and what it asks. Until then it goes by what it was given;
    whatever concerns stock is decided by what is in force."""

    AT_ONCE = "at_once"
    EVERY_5 = "5"
    EVERY_15 = "15"
    EVERY_60 = "60"
    NEVER = "0"

    @property
    def minutes(self) -> int | None:
        """After so many minutes; None: at its next question. 0: never by itself."""
        return None if self is Sync.AT_ONCE else int(self.value)


@record
class SettingsLayer:
    """What is set for all sites (``site`` None), or for one; None leaves it to the layer below."""

    id: str
    site: SiteCode | None = None
    booking: BookingPoint | None = None
    other_bin: OtherBin | None = None
    next_item_confirms: bool | None = None
    sync: Sync | None = None


BUILT_IN: dict[str, Any] = {
    "booking": BookingPoint.PLATE_FINISHED,
    "other_bin": OtherBin.WARN,
    "next_item_confirms": True,
    "sync": Sync.AT_ONCE,
}
"""What holds where nobody has set anything."""


class Level(StrEnum):
    """Where a value comes from, the nearest first."""

    OWN = "own"
    """The plan or the flow itself."""
    SITE = "site"
    GENERAL = "general"
    BUILT_IN = "built_in"


def levels(layers: Iterable[SettingsLayer], name: str, site: SiteCode, own: Any) -> list[tuple[Level, Any]]:
    """Every level that has a value for a setting, the one that holds first."""
    set_ = {layer.site: getattr(layer, name) for layer in layers if layer.site in (None, site)}
    every = ((Level.OWN, own), (Level.SITE, set_.get(site)), (Level.GENERAL, set_.get(None)))
    return [(level, value) for level, value in every if value is not None] + [(Level.BUILT_IN, BUILT_IN[name])]


def held(layers: Iterable[SettingsLayer], name: str, site: SiteCode, own: Any) -> Any:
    """The value that holds."""
    return levels(layers, name, site, own)[0][1]
