"""What ``choose`` and ``explain`` share: whether a rule applies, and in what order its bins come.

They do not share the search itself: tests prove that the quick search and the full count agree.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable

from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import Bin, BinType
from mindful_crate.core.placing.fit import Held
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.rulebook.bin_rules import BinRule, LookIn, Prefer, UnitForm
from mindful_crate.core.rulebook.sentences import ORDER_KINDS, Names, any_of
from mindful_crate.core.walking.distance import millimetres

FORM_WORDS = {UnitForm.WHOLE_PLATE: "a whole plate", UnitForm.CASE: "full cases", UnitForm.EACH: "single pieces"}
DYNAMIC = frozenset({Prefer.FULLEST, Prefer.EMPTIEST})
"""Keys that change with the stock; the others depend on the site and the request alone."""


def unmet(rule: BinRule, request: BinRequest, ground: Ground) -> str | None:
    """The condition of a rule that does not hold, in words; None if the rule applies."""
    names, when = Names(ground), rule.applies
    items = [ground.items[g.item] for g in request.goods]

    def all_items(wanted: tuple[str, ...], of: Callable[[Item], str | None], told: Callable[[Item], str]) -> str | None:
        if not wanted:
            return None
        return next((told(i) for i in items if of(i) not in wanted), None)

    by_item = (
        all_items(when.groups, lambda i: i.group, lambda i: f"{i.name} is of group {i.group}")
        or all_items(when.items, lambda i: i.code, lambda i: f"{i.name} is not one of its items")
        or all_items(
            when.hazard_classes,
            lambda i: i.hazard_class,
            lambda i: f"{i.name} has " + (f"hazard class {i.hazard_class}" if i.hazard_class else "no hazard class"),
        )
    )
    if by_item:
        return by_item
    if when.order_kinds and request.order_kind not in when.order_kinds:
        kind = request.order_kind
        return f"the goods come from {ORDER_KINDS[kind]}" if kind else "the goods come from no order"
    if when.partners and not (request.partners and set(request.partners) <= set(when.partners)):
        return f"supplied by {any_of(map(names.partner, request.partners))}" if request.partners else "no supplier"
    form = request.unit_form(ground)
    if when.unit_forms and form not in when.unit_forms:
        return f"the goods come as {FORM_WORDS[form]}"
    return None


def bins_in(ground: Ground, site: SiteCode, look_in: LookIn) -> Iterable[Bin]:
    """The bins a target looks at, in code order within zones."""
    zones = look_in.zones or tuple(z.code for z in ground.zones.values() if z.site == site)
    for zone in zones:
        if zone not in ground.zones or ground.zones[zone].site != site:
            continue
        for each in ground.bins_by_zone[zone]:
            if (
                (not look_in.aisles or each.aisle in look_in.aisles)
                and (not look_in.bin_types or each.bin_type in look_in.bin_types)
                and (not look_in.bins or each.code in look_in.bins)
            ):
                yield each


def fullness(kind: BinType, held: Held) -> int:
    """How full a bin is, in millionths, by volume or plates, whichever is more; 0 when nothing limits it."""
    by_volume = held.volume_mm3 * 1_000_000 // kind.max_volume_mm3 if kind.max_volume_mm3 else 0
    by_plates = held.plates * 1_000_000 // kind.max_plates if kind.max_plates else 0
    return max(by_volume, by_plates)


class Order:
    """Sort keys of bins for the ``prefer`` of a target."""

    def __init__(self, ground: Ground, request: BinRequest, prefer: tuple[Prefer, ...]) -> None:
        self.ground = ground
        self.prefer = prefer
        self.site = ground.sites[request.site]
        self.start = ground.bins.get(request.from_bin) if request.from_bin else None

    @property
    def static(self) -> bool:
        """Does the order depend on nothing that stock changes?"""
        return not DYNAMIC & set(self.prefer)

    def static_key(self, each: Bin) -> tuple[int | str, ...]:
        """Key by the static preferences, then bin code."""
        return (*(self._one(p, each) for p in self.prefer if p not in DYNAMIC), each.code)

    def key(self, each: Bin, held: Held) -> tuple[int | str, ...]:
        """Key by all preferences, then bin code."""
        full = fullness(self.ground.bin_types[each.bin_type], held)
        signs = {Prefer.FULLEST: -full, Prefer.EMPTIEST: full}
        return (*(signs[p] if p in signs else self._one(p, each) for p in self.prefer), each.code)

    def _one(self, prefer: Prefer, each: Bin) -> int:
        if prefer is Prefer.WALK_ORDER:
            return each.walk
        if prefer is Prefer.LOWEST_LEVEL:
            return each.level
        return millimetres(self.start, each, self.site) if self.start else 0
