"""Stock care: what is counted, how often and when, on which sheets, and who takes differences into the books; and the reasons for which stock
is corrected."""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.ids import CountPlanId, CrewId, SiteCode, StockReasonId, ZoneCode
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.rulebook.times import minutes_of


class SplitBy(StrEnum):
    """What never stands on one sheet, so that several people count at once."""

    NOTHING = "nothing"
    ZONE = "zone"
    AISLE = "aisle"
    GROUP = "group"
    """Item groups: a bin that holds several is on the sheet of its first."""


@record
class CountPlan:
    """A plan: a bin belongs to the first of a list that counts it. What is empty asks for nothing: no zones, all in which goods are stored."""

    id: CountPlanId
    name: str
    zones: tuple[ZoneCode, ...] = ()
    groups: tuple[str, ...] = ()
    """Only bins that hold goods of these item groups."""
    velocity_classes: tuple[str, ...] = ()
    every_days: int | None = 90
    """A bin is due when it was counted so many days ago; None: never by days."""
    after_short: bool = True
    """Also a bin in which somebody did not find what should be there."""
    at_zero: bool = False
    """Also a bin that becomes empty."""
    times: str = ""
    """When sheets are made by the site's clock, as ``06:00``; empty: by hand."""
    most_bins: int = 40
    """So many bins at a time; those that were never counted first, then those counted longest ago."""
    split: SplitBy = SplitBy.ZONE
    most_lines: int = 20
    """So many lines stand on a sheet."""
    book_shown: bool = False
    closes: bool = False
    """Are its bins blocked while they are counted?"""
    again: bool = True
    """Is a great difference counted again, by another person?"""
    percent: int = 5
    units: int = 2
    """A difference is great when it is of more than so many per cent and more than so many base units."""
    own_posts: bool = False
    """May who counted take it into the books?"""
    site: SiteCode | None = None
    on: bool = True

    @property
    def minutes(self) -> tuple[int, ...]:
        """Its times as minutes after midnight, in order; what is no time is left out."""
        return minutes_of(self.times)

    @property
    def tolerance(self) -> tuple[int, int] | None:
        """What a difference may be at most before it is counted again; None: whatever it is."""
        return (self.percent, self.units) if self.again else None


class ReasonFor(StrEnum):
    """What a reason is given for."""

    NUMBER = "number"
    """There are more or fewer than the books say."""
    STATUS = "status"
    """Goods have another status from now on."""
    PLACE = "place"
    """Goods lie elsewhere than the books say."""
    MOVED = "moved"
    """Goods are moved, by a flow that asks why."""
    BOTH = "both"
    """Any of these."""


GIVEN_IN = {
    FlowPurpose.ADJUST: ReasonFor.NUMBER,
    FlowPurpose.RESTATUS: ReasonFor.STATUS,
    FlowPurpose.RELOCATE: ReasonFor.PLACE,
    FlowPurpose.MOVE_PLATES: ReasonFor.MOVED,
    FlowPurpose.MOVE_GOODS: ReasonFor.MOVED,
}
"""What a reason is given for in flows of a purpose."""


class PhotoAsked(StrEnum):
    """Whether a photo belongs to a reason that is given on a handset."""

    NO = "no"
    MAY = "may"
    MUST = "must"


@record
class StockReason:
    """Why stock is corrected, or moved: one of a list that whoever does it chooses from. No crews: every one whose menu has such a flow."""

    id: StockReasonId
    name: str
    used: ReasonFor = ReasonFor.BOTH
    crews: tuple[CrewId, ...] = ()
    """On handsets only these crews may give it."""
    photo: PhotoAsked = PhotoAsked.NO
    site: SiteCode | None = None
    on: bool = True

    def is_for(self, used: ReasonFor) -> bool:
        """May it be given for that?"""
        return self.used in (used, ReasonFor.BOTH)
