"""Bin rules: ordered lists that answer "which bin?" for a purpose."""

from __future__ import annotations

from enum import IntEnum, StrEnum

from mindful_crate.core.catalog.goods import OrderKind, Status, Tracking
from mindful_crate.core.catalog.ids import (
    BinCode,
    BinTypeCode,
    ItemCode,
    PartnerCode,
    RuleId,
    SiteCode,
    TargetId,
    ZoneCode,
)
from mindful_crate.core.record import record


class BinPurpose(StrEnum):
    """What a bin is wanted for. Two of them take goods out of bins, the others put goods into bins."""

    UNLOAD_AT = "unload_at"
    RECEIVE_INTO = "receive_into"
    INSPECT_AT = "inspect_at"
    HOLD_AT = "hold_at"
    PUT_AWAY = "put_away"
    RETURN_TO = "return_to"
    REPLENISH_FROM = "replenish_from"
    REPLENISH_TO = "replenish_to"
    PICK_FROM = "pick_from"
    SORT_AT = "sort_at"
    PACK_AT = "pack_at"
    STAGE_AT = "stage_at"
    LOAD_AT = "load_at"

    @property
    def takes(self) -> bool:
        """Are goods taken out of the bin?"""
        return self in (BinPurpose.PICK_FROM, BinPurpose.REPLENISH_FROM)


def puts_away_by(kind: OrderKind | None) -> BinPurpose:
    """The rules that find the place of what came on an order of this kind: what customers send back has rules of its own, so that it never
    goes among what is sold because nobody thought of it."""
    return BinPurpose.RETURN_TO if kind is OrderKind.CUSTOMER_RETURN else BinPurpose.PUT_AWAY


class UnitForm(StrEnum):
    """In what form goods ask for a bin."""

    WHOLE_PLATE = "whole_plate"
    CASE = "case"
    EACH = "each"


class Disposition(StrEnum):
    """What is to be done with goods that came back."""

    RESTOCK = "restock"
    REPAIR = "repair"
    SEND_BACK = "send_back"
    SCRAP = "scrap"


class Weekday(IntEnum):
    """Days of the week, as ``date.isoweekday`` counts them."""

    MONDAY = 1
    TUESDAY = 2
    WEDNESDAY = 3
    THURSDAY = 4
    FRIDAY = 5
    SATURDAY = 6
    SUNDAY = 7


class Wants(StrEnum):
    """What must be so in the bin already. Three are for putting, two for taking; ``any`` is for both."""

    SAME_ITEM_AND_LOT = "same_item_and_lot"
    SAME_ITEM = "same_item"
    EMPTY = "empty"
    ANY = "any"
    ONE_COVERS = "one_covers"
    """A bin that holds all that is still asked for."""
    WHOLE_PLATE = "whole_plate"
    """A license plate whose whole content is asked for, no more and no less."""


PUTTING_WANTS = (Wants.SAME_ITEM_AND_LOT, Wants.SAME_ITEM, Wants.EMPTY, Wants.ANY)
TAKING_WANTS = (Wants.ONE_COVERS, Wants.WHOLE_PLATE, Wants.ANY)


class Prefer(StrEnum):
    """By what the bins that fit are ordered; ties go on to the next key, the last tie to the bin code."""

    WALK_ORDER = "walk_order"
    NEAREST_DOOR = "nearest_door"
    """From the door or receiving bin the goods came by; from the nearest door when that is not known."""
    NEAREST_LAST = "nearest_last"
    """From the bin the goods, or the worker, are at now."""
    NEAREST_PACK = "nearest_pack"
    """From the nearest packing station."""
    LOWEST_LEVEL = "lowest_level"
    FULLEST = "fullest"
    EMPTIEST = "emptiest"
    FEFO = "fefo"
    FIFO = "fifo"
    LIFO = "lifo"
    SMALLEST_REMAINDER = "smallest_remainder"
    """The bin in which least of the item is left behind."""
    FEWEST_BINS = "fewest_bins"
    """The bin that holds most of what is asked for."""


STOCK_ORDERS = frozenset({Prefer.FEFO, Prefer.FIFO, Prefer.LIFO, Prefer.SMALLEST_REMAINDER, Prefer.FEWEST_BINS})
"""Preferences that look at the stock asked for; they mean something for taking alone."""
BOTH_ORDERS = tuple(p for p in Prefer if p not in STOCK_ORDERS)


class IfNothing(StrEnum):
    """What to do when no target of a rule has a bin."""

    NEXT_RULE = "next_rule"
    ASK = "ask"
    OVERFLOW = "overflow"
    """What is left goes to the rule's overflow bin, whatever lies there, if the goods may lie there at all."""


@record
class Between:
    """A range, both ends included; None is no end."""

    least: int | None = None
    most: int | None = None

    def holds(self, value: int) -> bool:
        """Is the value within?"""
        return (self.least is None or value >= self.least) and (self.most is None or value <= self.most)

    @property
    def open(self) -> bool:
        """Does every value lie within?"""
        return self.least is None and self.most is None


@record
class Conditions:
    """When a rule applies. An empty field holds always; goods of several items must all satisfy it."""

    items: tuple[ItemCode, ...] = ()
    groups: tuple[str, ...] = ()
    hazard_classes: tuple[str, ...] = ()
    velocity_classes: tuple[str, ...] = ()
    trackings: tuple[Tracking, ...] = ()
    order_kinds: tuple[OrderKind, ...] = ()
    partners: tuple[PartnerCode, ...] = ()
    partner_groups: tuple[str, ...] = ()
    unit_forms: tuple[UnitForm, ...] = ()
    statuses: tuple[Status, ...] = ()
    dispositions: tuple[Disposition, ...] = ()
    weekdays: tuple[Weekday, ...] = ()
    worth: Between = Between()
    """Of one base unit of the item, in whole units of the currency."""
    quantity: Between = Between()
    """Base units, all goods together."""
    weight_kg: Between = Between()
    height_mm: Between = Between()


@record
class LookIn:
    """Which bins a target looks at: all that lie in one of each non-empty field."""

    zones: tuple[ZoneCode, ...] = ()
    aisles: tuple[str, ...] = ()
    bin_types: tuple[BinTypeCode, ...] = ()
    bins: tuple[BinCode, ...] = ()
    home_bins: bool = False
    """Only bins the item is at home in."""
    own_plate: bool = False
    """Only the bin of the license plate the worker is building."""

    @property
    def anywhere(self) -> bool:
        """Is every bin of the site looked at?"""
        return self == LookIn()


class UpTo(StrEnum):
    """How much a target may put into one bin."""

    ROOM = "room"
    HOME_MAXIMUM = "home_maximum"
    """Up to the most that is kept of the item in that home bin."""


@record
class Target:
    """One place to look in, tried in the order of the rule. ``most`` limits one bin's share, in base units."""

    id: TargetId
    look_in: LookIn
    wants: Wants = Wants.ANY
    prefer: tuple[Prefer, ...] = (Prefer.WALK_ORDER,)
    up_to: UpTo = UpTo.ROOM
    most: int | None = None


@record
class BinRule:
    """One rule of a list. What a rule leaves over goes on to the next."""

    id: RuleId
    targets: tuple[Target, ...]
    applies: Conditions = Conditions()
    split: bool = False
    """May the goods be split over several bins?"""
    least_percent: int = 0
    """The smallest useful share of a bin, in hundredths of what the rule was asked for."""
    if_nothing: IfNothing = IfNothing.NEXT_RULE
    overflow: BinCode | None = None
    fefo_days: int = 0
    """By how many days goods taken may expire later than the earliest there is."""
    on: bool = True


@record
class BinRuleList:
    """The rules of one purpose, tried from the top. ``site`` None is the general layer."""

    id: str
    purpose: BinPurpose
    rules: tuple[BinRule, ...] = ()
    site: SiteCode | None = None
