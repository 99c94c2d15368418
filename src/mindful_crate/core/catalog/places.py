"""Where things are: sites, zones, bin types and bins.

Lengths are integer millimetres, volumes integer cubic millimetres, weights integer milligrams: exact,
and small enough for every reader of JSON. Coordinates have their origin in the site's south-west corner.
"""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.ids import BinCode, BinTypeCode, PlateKindCode, SiteCode, WayCode, ZoneCode
from mindful_crate.core.record import record


class ZonePurpose(StrEnum):
    """What a zone is for."""

    DOOR = "door"
    DOCK = "dock"
    RECEIVING = "receiving"
    INSPECTION = "inspection"
    CROSS_DOCK = "cross_dock"
    RESERVE = "reserve"
    PICK = "pick"
    BULK = "bulk"
    HAZARD = "hazard"
    RETURNS = "returns"
    QUARANTINE = "quarantine"
    SORT = "sort"
    PACKING = "packing"
    STAGING = "staging"


STORAGE = frozenset({ZonePurpose.RESERVE, ZonePurpose.PICK, ZonePurpose.BULK, ZonePurpose.HAZARD})
"""Purposes of zones in which goods are meant to stay."""
PICKED_FROM = STORAGE | {ZonePurpose.CROSS_DOCK}
"""Purposes of zones from which orders may be picked: goods stay a while in cross-dock lanes, too."""


class PlateNeed(StrEnum):
    """Whether goods in a bin of this type stand on license plates."""

    REQUIRED = "required"
    OPTIONAL = "optional"
    NONE = "none"


@record
class Site:
    """One warehouse. ``cross_aisles`` are the y of the ways that join the aisles over the whole width, in mm; others are facts
    of the layout (:class:`Way`)."""

    code: SiteCode
    name: str
    time_zone: str
    cross_aisles: tuple[int, ...] = ()


@record
class Zone:
    """A named part of a site with one purpose. ``hand_over``: where totes are set down for whoever picks in it, when they are handed on from zone
    to zone."""

    code: ZoneCode
    site: SiteCode
    name: str
    purpose: ZonePurpose
    hand_over: BinCode | None = None


@record
class BinType:
    """What a kind of bin may hold; a limit of None is no limit."""

    code: BinTypeCode
    name: str
    plates: PlateNeed
    mixed_items: bool = False
    mixed_lots: bool = False
    mixed_statuses: bool = False
    max_volume_mm3: int | None = None
    max_weight_mg: int | None = None
    max_plates: int | None = None
    hazard_classes: tuple[str, ...] = ()
    """Classes admitted; goods with another hazard class may not lie here. Goods without one may."""


@record
class Bin:
    """One place for goods. ``walk`` is its turn on the walk through the site; ``height_mm`` is clear height."""

    code: BinCode
    zone: ZoneCode
    bin_type: BinTypeCode
    x_mm: int
    y_mm: int
    level: int
    walk: int
    aisle: str = ""
    height_mm: int | None = None
    blocked: str | None = None
    """Why nothing may be put here, if so."""


@record
class PlateKind:
    """A kind of license plate: its footprint and the height and weight of the empty carrier."""

    code: PlateKindCode
    name: str
    length_mm: int
    width_mm: int
    deck_mm: int
    weight_mg: int


class WayKind(StrEnum):
    """What a fact says about walking."""

    CROSS_AISLE = "cross_aisle"
    """One walks here from aisle to aisle."""
    ONE_WAY = "one_way"
    """An aisle is walked in one direction only."""
    DEAD_END = "dead_end"
    """An aisle ends at its last bin: nobody walks on to the next cross aisle."""
    GOES_THROUGH = "goes_through"
    """One does walk on to the next cross aisle, however far it is: nothing to ask about."""
    BLOCKED = "blocked"
    """A stretch of an aisle, or of a cross aisle, that nobody walks."""


class Heading(StrEnum):
    """A direction on the site."""

    NORTH = "north"
    EAST = "east"
    SOUTH = "south"
    WEST = "west"


class Axis(StrEnum):
    """Along which coordinate something runs: ``x`` from west to east, ``y`` from south to north."""

    X = "x"
    Y = "y"


@record
class Way:
    """A fact about walking at a site that its bins do not tell.

    A cross aisle runs along ``axis`` at ``at_mm`` from ``from_mm`` to ``to_mm`` (empty: as far as there is anything); with a
    ``heading`` it is walked that way only. The others are about an aisle, by zone and name: a one-way one is walked towards
    ``heading``, a dead end is the end at ``heading``, and ``from_mm`` to ``to_mm`` along it are blocked. A blocked stretch of a
    cross aisle names its axis and place instead of an aisle.
    """

    code: WayCode
    site: SiteCode
    kind: WayKind
    zone: ZoneCode | None = None
    aisle: str = ""
    heading: Heading | None = None
    axis: Axis | None = None
    at_mm: int | None = None
    from_mm: int | None = None
    to_mm: int | None = None

    @property
    def of_aisle(self) -> tuple[str, str] | None:
        """The aisle it is about, by zone and name; None for cross aisles."""
        return (self.zone or "", self.aisle) if self.aisle else None
