"""Packing: which orders are packed, how what goes into a carton is proved, which cartons may be used, and how they are weighed."""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import CarrierCode, CartonKindCode, OrderClassId, PackRuleId, PartnerCode, SiteCode
from mindful_crate.core.record import record


class Proof(StrEnum):
    """How much a packer must show of what goes into a carton."""

    EACH = "each"
    """Every piece is scanned."""
    COUNT = "count"
    """The item is scanned, and how many is said."""
    REST = "rest"
    """The same, or all the rest goes in after a look at what it is."""
    TOTE = "tote"
    """The same, and a tote or plate that holds one order's goods alone may leave as it is."""


class Weigh(StrEnum):
    """How a carton is weighed when it is closed."""

    SCALE = "scale"
    """By the scale of the station; by hand where there is none, or it is down."""
    HAND = "hand"
    NO = "no"
    """It weighs what its goods do by the catalogue."""


class Short(StrEnum):
    """What becomes of goods that are left when an order is closed short."""

    BACK = "back"
    """They are put back where they came from, and may be promised again."""
    STAY = "stay"
    """They stay at the station, kept for the order: its shipment waits for them, or is shipped without them."""


@record
class PackRule:
    """How some orders are packed: those for which its conditions hold; empty ones hold for all. ``kinds``: the cartons that may be used, all when
    there are none. A carton may weigh up to ``percent`` or ``grams`` more or less than its goods do, whichever is more."""

    id: PackRuleId
    order_kinds: tuple[OrderKind, ...] = ()
    partners: tuple[PartnerCode, ...] = ()
    partner_groups: tuple[str, ...] = ()
    carriers: tuple[CarrierCode, ...] = ()
    groups: tuple[str, ...] = ()
    """Item groups, one of which it has a line of."""
    order_classes: tuple[OrderClassId, ...] = ()
    packs: bool = True
    """Are they packed at all? Else they go on as they were picked."""
    proof: Proof = Proof.REST
    kinds: tuple[CartonKindCode, ...] = ()
    suggests: bool = True
    """Is a carton proposed by what is to go in?"""
    weigh: Weigh = Weigh.SCALE
    percent: int = 2
    grams: int = 50
    short: Short = Short.BACK
    site: SiteCode | None = None
    on: bool = True


PLAIN = PackRule(PackRuleId(""))
"""What holds where no rule is for an order."""
CONDITIONS = ("order_kinds", "order_classes", "partners", "partner_groups", "carriers", "groups")
"""What a rule may be for alone."""


def tolerance_mg(rule: PackRule, weight_mg: int) -> int:
    """So much a carton may weigh more or less than its goods do."""
    return max(weight_mg * rule.percent // 100, rule.grams * 1000)
