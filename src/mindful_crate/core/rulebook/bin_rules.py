"""Bin rules: ordered lists that answer "which bin?" for a purpose."""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.goods import OrderKind
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
    """What a bin is wanted for."""

    PUT_AWAY = "put_away"


class UnitForm(StrEnum):
    """In what form goods ask for a bin."""

    WHOLE_PLATE = "whole_plate"
    CASE = "case"
    EACH = "each"


class Wants(StrEnum):
    """What must be so in the bin already."""

    SAME_ITEM_AND_LOT = "same_item_and_lot"
    SAME_ITEM = "same_item"
    EMPTY = "empty"
    ANY = "any"


class Prefer(StrEnum):
    """By what the bins that fit are ordered; ties go on to the next key, the last tie to the bin code."""

    WALK_ORDER = "walk_order"
    NEAREST_DOOR = "nearest_door"
    LOWEST_LEVEL = "lowest_level"
    FULLEST = "fullest"
    EMPTIEST = "emptiest"


class IfNothing(StrEnum):
    """What to do when no target of a rule has a bin."""

    NEXT_RULE = "next_rule"
    ASK = "ask"


@record
class Conditions:
    """When a rule applies. An empty field holds always; goods of several items must all satisfy it."""

    items: tuple[ItemCode, ...] = ()
    groups: tuple[str, ...] = ()
    hazard_classes: tuple[str, ...] = ()
    order_kinds: tuple[OrderKind, ...] = ()
    partners: tuple[PartnerCode, ...] = ()
    unit_forms: tuple[UnitForm, ...] = ()


@record
class LookIn:
    """Which bins a target looks at: all that lie in one of each non-empty field."""

    zones: tuple[ZoneCode, ...] = ()
    aisles: tuple[str, ...] = ()
    bin_types: tuple[BinTypeCode, ...] = ()
    bins: tuple[BinCode, ...] = ()


@record
class Target:
    """One place to look in, tried in the order of the rule."""

    id: TargetId
    look_in: LookIn
    wants: Wants = Wants.ANY
    prefer: tuple[Prefer, ...] = (Prefer.WALK_ORDER,)


@record
class BinRule:
    """One rule of a list. Whole quantity in one bin; splitting comes with a later chapter."""

    id: RuleId
    targets: tuple[Target, ...]
    applies: Conditions = Conditions()
    if_nothing: IfNothing = IfNothing.NEXT_RULE
    on: bool = True


@record
class BinRuleList:
    """The rules of one purpose, tried from the top. ``site`` None is the general layer."""

    id: str
    purpose: BinPurpose
    rules: tuple[BinRule, ...] = ()
    site: SiteCode | None = None
