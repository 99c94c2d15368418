"""What ``choose`` and ``explain`` share: whether a rule applies, in what order bins come, and how large a share is.

They do not share the search itself: tests prove that the quick search and the full count agree.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from functools import cached_property
from operator import attrgetter, itemgetter
from typing import Any, NamedTuple, Protocol

from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import BinCode, RuleId, SiteCode, ZoneCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import Bin, BinType, ZonePurpose
from mindful_crate.core.placing.fit import Floor, TurnDown
from mindful_crate.core.placing.request import BinRequest, load_of
from mindful_crate.core.rulebook.bin_rules import BinRule, Conditions, LookIn, Prefer, Target, UpTo, Wants, Weekday
from mindful_crate.core.rulebook.words.bin_rules import DAYS, DISPOSITIONS, UNIT_FORMS, WANTS, prefer_words
from mindful_crate.core.rulebook.words.parts import (
    ORDER_KINDS,
    STATUSES,
    TRACKINGS,
    Names,
    any_of,
    between,
    thousandths,
)
from mindful_crate.core.trail import Outcome, TrailLine, does_not_apply
from mindful_crate.core.walking.distance import reach_of
from mindful_crate.core.walking.network import Reach

DYNAMIC = frozenset({Prefer.FULLEST, Prefer.EMPTIEST})
"""Keys that change with the stock; the others depend on the site and the request alone."""
KILOGRAM = 1_000_000
"""Milligrams."""


class Facts:
    """What conditions ask about a request; each is worked out at most once."""

    def __init__(self, request: BinRequest, ground: Ground) -> None:
        self.request = request
        self.ground = ground
        self.names = Names(ground)
        self.items: list[Item] = [ground.items[g.item] for g in request.all_goods]

    @cached_property
    def form(self) -> Any:
        """The unit form."""
        return self.request.unit_form(self.ground)

    @cached_property
    def quantity(self) -> int:
        """Base units of everything."""
        return sum(g.quantity for g in self.request.all_goods)

    @cached_property
    def load(self) -> Any:
        """What the goods take up."""
        return load_of(self.request.goods, self.request.plate_kind, self.ground, self.request.nested)

    @cached_property
    def partner_groups(self) -> tuple[str, ...]:
        """Groups of the partners."""
        partners = (self.ground.partners.get(p) for p in self.request.partners)
        return tuple(p.group for p in partners if p)


Check = Callable[[Facts, Any], str | None]
"""A condition against a request: None if it holds, else why not."""


def _by_item(of: Callable[[Item], Any], told: Callable[[Item], str]) -> Check:
    def check(facts: Facts, wanted: Any) -> str | None:
        for item in facts.items:
            if of(item) not in wanted:
                return told(item)
        return None

    return check


def _worth(facts: Facts, wanted: Any) -> str | None:
    for item in facts.items:
        if (wanted.least is not None and item.value < wanted.least) or (
            wanted.most is not None and item.value > wanted.most
        ):
            return f"{item.name} is worth {item.value:,f} apiece, not {between(wanted)}"
    return None


def _order_kinds(facts: Facts, wanted: Any) -> str | None:
    kind = facts.request.order_kind
    if kind in wanted:
        return None
    return f"the goods come from {ORDER_KINDS[kind]}" if kind else "the goods come from no order"


def _partners(facts: Facts, wanted: Any) -> str | None:
    theirs = facts.request.partners
    if theirs and set(theirs) <= set(wanted):
        return None
    return f"the partner is {any_of(map(facts.names.partner, theirs))}" if theirs else "no partner"


def _partner_groups(facts: Facts, wanted: Any) -> str | None:
    groups = facts.partner_groups
    if groups and set(groups) <= set(wanted):
        return None
    return f"the partner is of {any_of(sorted(set(groups)))}" if groups else "no partner"


def _unit_forms(facts: Facts, wanted: Any) -> str | None:
    return None if facts.form in wanted else f"the goods come as {UNIT_FORMS[facts.form].lower()}"


def _statuses(facts: Facts, wanted: Any) -> str | None:
    odd = next((g.status for g in facts.request.all_goods if g.status not in wanted), None)
    return f"the goods are {STATUSES[odd]}" if odd else None


def _dispositions(facts: Facts, wanted: Any) -> str | None:
    mark = facts.request.disposition
    if mark in wanted:
        return None
    return f"the goods are marked {DISPOSITIONS[mark]}" if mark else "the goods bear no mark of a return"


def _weekdays(facts: Facts, wanted: Any) -> str | None:
    today = facts.request.today
    if today is None:
        return "the day is not known"
    return None if today.isoweekday() in wanted else f"today is {DAYS[Weekday(today.isoweekday())]}"


def _quantity(facts: Facts, wanted: Any) -> str | None:
    return None if wanted.holds(facts.quantity) else f"{facts.quantity:,} is not {between(wanted)}"


def _weight(facts: Facts, wanted: Any) -> str | None:
    weight = facts.load.weight_mg
    low, high = wanted.least, wanted.most
    if (low is None or weight >= low * KILOGRAM) and (high is None or weight <= high * KILOGRAM):
        return None
    return f"{thousandths(weight // 1000)} kg are not {between(wanted)} kg"


def _height(facts: Facts, wanted: Any) -> str | None:
    return None if wanted.holds(facts.load.height_mm) else f"{facts.load.height_mm} mm are not {between(wanted)} mm"


CHECKS: dict[str, Check] = {
    "groups": _by_item(lambda i: i.group, lambda i: f"{i.name} is of group {i.group}"),
    "items": _by_item(lambda i: i.code, lambda i: f"{i.name} is not one of its items"),
    "hazard_classes": _by_item(
        lambda i: i.hazard_class,
        lambda i: f"{i.name} has " + (f"hazard class {i.hazard_class}" if i.hazard_class else "no hazard class"),
    ),
    "velocity_classes": _by_item(
        lambda i: i.velocity_class,
        lambda i: (
            f"{i.name} has " + (f"velocity class {i.velocity_class}" if i.velocity_class else "no velocity class")
        ),
    ),
    "trackings": _by_item(lambda i: i.tracking, lambda i: f"{i.name} is {TRACKINGS[i.tracking]}"),
    "worth": _worth,
    "order_kinds": _order_kinds,
    "partners": _partners,
    "partner_groups": _partner_groups,
    "unit_forms": _unit_forms,
    "statuses": _statuses,
    "dispositions": _dispositions,
    "weekdays": _weekdays,
    "quantity": _quantity,
    "weight_kg": _weight,
    "height_mm": _height,
}
"""Every condition of a rule, in the order they are asked."""

BY_ITEM = ("groups", "items", "hazard_classes", "velocity_classes", "trackings", "worth")
"""Conditions that look at the item alone."""
REMEMBERED = 8_000
"""How many items an ordered list of rules remembers its legs for."""


class Conditional(Protocol):
    """Something that applies under conditions: a bin rule, a recipe."""

    @property
    def applies(self) -> Conditions:
        """When it does."""
        ...


class _Compiled:
    """The conditions of a rule that say anything."""

    __slots__ = ("by_item", "ground", "others", "rule")

    def __init__(self, rule: Conditional, ground: Ground) -> None:
        self.rule = rule
        self.ground = ground
        self.by_item: list[tuple[Check, Any]] = []
        self.others: list[tuple[Check, Any]] = []
        for name, check in CHECKS.items():
            value = getattr(rule.applies, name)
            if value if isinstance(value, tuple) else not value.open:
                wanted = frozenset(value) if isinstance(value, tuple) and name != "partners" else value
                (self.by_item if name in BY_ITEM else self.others).append((check, wanted))

    def unmet(self, facts: Facts) -> str | None:
        """See :func:`unmet`."""
        says = self.of_item(facts)
        if says is not None:
            return says
        for check, wanted in self.others:
            says = check(facts, wanted)
            if says is not None:
                return says
        return None

    def of_item(self, facts: Facts) -> str | None:
        """The condition about the items alone that does not hold, in words."""
        for check, wanted in self.by_item:
            says = check(facts, wanted)
            if says is not None:
                return says
        return None


_compiled: dict[int, _Compiled] = {}


def _compile(rule: Conditional, ground: Ground) -> _Compiled:
    known = _compiled.get(id(rule))
    if known is None or known.rule is not rule or known.ground is not ground:
        if len(_compiled) > 5000:
            _compiled.clear()
        known = _compiled[id(rule)] = _Compiled(rule, ground)
    return known


def unmet(rule: Conditional, facts: Facts) -> str | None:
    """The condition of a rule that does not hold, in words; None if the rule applies."""
    return _compile(rule, facts.ground).unmet(facts)


class Leg(NamedTuple):
    """A stretch of an ordered list: rules that cannot apply to an item, and then one that can."""

    passed: tuple[TrailLine, ...]
    """Of those that are switched off, or whose conditions about the item alone do not hold."""
    rule: BinRule | None
    """The rule that can; None at the end of the list."""
    others: tuple[tuple[Check, Any], ...] = ()
    """Its conditions that look at more than the item."""

    def unmet(self, facts: Facts) -> str | None:
        """The condition of its rule that does not hold, in words; None if the rule applies."""
        for check, wanted in self.others:
            says = check(facts, wanted)
            if says is not None:
                return says
        return None


_legs: dict[int, tuple[tuple[BinRule, ...], Ground, dict[str, tuple[Leg, ...]]]] = {}


def legs(rules: tuple[BinRule, ...], facts: Facts) -> tuple[Leg, ...]:
    """An ordered list of rules as one kind of goods meets it; remembered by item, since the same few are asked for
    again and again. Asking it leg by leg is asking each rule whether it applies."""
    if len(facts.items) != 1:
        return _legs_for(rules, facts)
    known = _legs.get(id(rules))
    if known is None or known[0] is not rules or known[1] is not facts.ground:
        if len(_legs) > 200:
            _legs.clear()
        known = _legs[id(rules)] = (rules, facts.ground, {})
    by_item, code = known[2], facts.items[0].code
    found = by_item.get(code)
    if found is None:
        if len(by_item) >= REMEMBERED:
            by_item.clear()
        found = by_item[code] = _legs_for(rules, facts)
    return found


def _legs_for(rules: tuple[BinRule, ...], facts: Facts) -> tuple[Leg, ...]:
    found: list[Leg] = []
    passed: list[TrailLine] = []
    for rule in rules:
        if not rule.on:
            passed.append(TrailLine(rule.id, Outcome.OFF, "switched off"))
            continue
        compiled = _compile(rule, facts.ground)
        says = compiled.of_item(facts)
        if says is not None:
            passed.append(does_not_apply(rule.id, says))
            continue
        found.append(Leg(tuple(passed), rule, tuple(compiled.others)))
        passed = []
    return (*found, Leg(tuple(passed), None))


REMEMBERED_PLACES = 64
"""So many places to look in keep the list of their bins; then they start afresh."""

_seeing: dict[int, tuple[LookIn, Callable[[Bin], bool]]] = {}


def seeing(look_in: LookIn) -> Callable[[Bin], bool]:
    """:func:`seen_by` for one place to look in, made once."""
    known = _seeing.get(id(look_in))
    if known is None or known[0] is not look_in:
        if len(_seeing) > 5000:
            _seeing.clear()
        zones = zones_alone(look_in)
        if zones is None:
            known = (look_in, lambda each: seen_by(look_in, each))
        else:
            known = (look_in, lambda each: each.zone in zones)
        _seeing[id(look_in)] = known
    return known[1]


def zones_alone(look_in: LookIn) -> frozenset[ZoneCode] | None:
    """The zones of a place to look in that names nothing else, home bins and the worker's plate aside."""
    if look_in.aisles or look_in.bin_types or look_in.bins or not look_in.zones:
        return None
    return frozenset(look_in.zones)


def seen_by(look_in: LookIn, each: Bin) -> bool:
    """Does a bin lie in one of each place named? Home bins and the worker's plate aside."""
    return (
        (not look_in.zones or each.zone in look_in.zones)
        and (not look_in.aisles or each.aisle in look_in.aisles)
        and (not look_in.bin_types or each.bin_type in look_in.bin_types)
        and (not look_in.bins or each.code in look_in.bins)
    )


def bins_in(ground: Ground, site: SiteCode, look_in: LookIn) -> Sequence[Bin]:
    """The bins of a site that lie in one of each place named, in code order within zones."""
    known: dict[tuple[SiteCode, LookIn], tuple[Bin, ...]] = ground.remembered.setdefault("bins in", {})
    key = (site, look_in)
    found = known.get(key)
    if found is None:
        if len(known) >= REMEMBERED_PLACES:
            known.clear()
        zones = [z for z in look_in.zones or ground.zones_of_site.get(site, ()) if z in ground.zones]
        found = known[key] = tuple(
            b for z in zones for b in ground.bins_by_zone[z] if lies_in(ground, site, look_in, b)
        )
    return found


def lies_in(ground: Ground, site: SiteCode, look_in: LookIn, each: Bin) -> bool:
    """Is a bin of this site and in one of each place named?"""
    return ground.zones[each.zone].site == site and seen_by(look_in, each)


def special_bins(look_in: LookIn, request: BinRequest, floor: Floor) -> set[BinCode] | None:
    """The few bins left when a target names home bins or the worker's plate; None when it names neither."""
    if not (look_in.home_bins or look_in.own_plate):
        return None
    few: set[BinCode] | None = None
    if look_in.home_bins:
        for goods in request.all_goods:
            homes = set(floor.ground.homes.get(goods.item, {}))
            few = homes if few is None else few & homes
    if look_in.own_plate:
        own = floor.bin_of(request.onto) if request.onto else None
        few = ({own} if own else set()) if few is None else few & ({own} if own else set())
    return few or set()


def fullness(kind: BinType, volume_mm3: int, plates: int) -> int:
    """How full a bin is, in millionths, by volume or plates, whichever is more; 0 when nothing limits it."""
    by_volume = volume_mm3 * 1_000_000 // kind.max_volume_mm3 if kind.max_volume_mm3 else 0
    by_plates = plates * 1_000_000 // kind.max_plates if kind.max_plates else 0
    return max(by_volume, by_plates)


Key = tuple[int | str, ...]


class Place:
    """What of a target does not depend on the request, worked out once: hashing its parts again and again is dear."""

    __slots__ = ("by_door", "by_last", "keys", "no_bin", "ranks", "same", "says", "static", "target")

    def __init__(self, rule: RuleId, target: Target) -> None:
        self.target = target
        self.ranks: dict[Any, Any] = {}
        """For the index: ranks of its bins by site, door and last bin."""
        self.keys = tuple(p for p in target.prefer if p not in DYNAMIC)
        self.static = len(self.keys) == len(target.prefer)
        self.by_door = Prefer.NEAREST_DOOR in self.keys
        self.by_last = Prefer.NEAREST_LAST in self.keys
        self.same = target.wants in (Wants.SAME_ITEM, Wants.SAME_ITEM_AND_LOT)
        self.says = f"{WANTS[target.wants]}, {prefer_words(target)}"
        self.no_bin = TrailLine(rule, Outcome.NO_BIN, f"no bin: {WANTS[target.wants]}", target.id)


_places: dict[int, Place] = {}


def place_of(rule: RuleId, target: Target) -> Place:
    """The :class:`Place` of a target."""
    known = _places.get(id(target))
    if known is None or known.target is not target or known.no_bin.rule != rule:
        if len(_places) > 5000:
            _places.clear()
        known = _places[id(target)] = Place(rule, target)
    return known


OF_BIN = {Prefer.WALK_ORDER: "walk", Prefer.LOWEST_LEVEL: "level"}
"""Preferences that read a number of the bin itself."""


class Order:
    """Sort keys of bins by preferences that need nothing but the bin, how full it is, and where the goods are."""

    def __init__(
        self, ground: Ground, request: BinRequest, prefer: tuple[Prefer, ...], place: Place | None = None
    ) -> None:
        self.ground = ground
        self.prefer = prefer
        self.place = place
        self.site = ground.sites[request.site]
        self.last = ground.bins.get(request.from_bin) if request.from_bin else None
        self.door = ground.bins.get(request.door) if request.door else None
        self._reach: dict[Prefer, Reach] = {}

    @property
    def doors(self) -> Sequence[Bin]:
        """The door the goods came by, else all doors of the site."""
        return (self.door,) if self.door else self.ground.bins_of(ZonePurpose.DOOR, self.site.code)

    @property
    def packs(self) -> Sequence[Bin]:
        """The packing stations."""
        return self.ground.bins_of(ZonePurpose.PACKING, self.site.code)

    @property
    def static(self) -> bool:
        """Does the order depend on nothing that stock changes?"""
        return self.place.static if self.place else not DYNAMIC & set(self.prefer)

    @property
    def signature(self) -> tuple[Any, ...]:
        """Equal for orders whose static keys are equal."""
        keys = self.place.keys if self.place else tuple(p for p in self.prefer if p not in DYNAMIC)
        return (self.site.code, keys, *self.anchors(keys))

    def anchors(self, keys: tuple[Prefer, ...]) -> tuple[str | None, str | None]:
        """The door and the last bin that static keys are measured from, as far as they are."""
        by_door = self.place.by_door if self.place else Prefer.NEAREST_DOOR in keys
        by_last = self.place.by_last if self.place else Prefer.NEAREST_LAST in keys
        return self.door.code if self.door and by_door else None, self.last.code if self.last and by_last else None

    def static_key(self, each: Bin) -> Key:
        """Key by the static preferences, then bin code."""
        return (*(self._one(p, each) for p in self.prefer if p not in DYNAMIC), each.code)

    def key(self, each: Bin, volume_mm3: int, plates: int) -> Key:
        """Key by all preferences, then bin code, for a bin that holds so much."""
        full = fullness(self.ground.bin_types[each.bin_type], volume_mm3, plates)
        signs = {Prefer.FULLEST: -full, Prefer.EMPTIEST: full}
        return (*(signs[p] if p in signs else self._one(p, each) for p in self.prefer), each.code)

    def in_order(self, bins: Iterable[Bin]) -> list[tuple[Key, Bin]]:
        """Bins by their static keys."""
        prefer = self.place.keys if self.place else self.prefer
        key: Callable[[Bin], Key] = self.static_key
        if prefer and all(p in OF_BIN for p in prefer):
            key = attrgetter(*(OF_BIN[p] for p in prefer), "code")
        return sorted([(key(each), each) for each in bins], key=itemgetter(0))

    def _one(self, prefer: Prefer, each: Bin) -> int:
        if prefer is Prefer.WALK_ORDER:
            return each.walk
        if prefer is Prefer.LOWEST_LEVEL:
            return each.level
        if prefer in (Prefer.NEAREST_DOOR, Prefer.NEAREST_PACK, Prefer.NEAREST_LAST):
            return self._far(prefer, each)
        return 0  # a preference about the stock asked for says nothing when goods are put

    def _far(self, prefer: Prefer, each: Bin) -> int:
        """How far a bin is from what it should be near to; what cannot be walked to comes last. Goods go to the pack station, and
        come from everywhere else."""
        reach = self._reach.get(prefer)
        if reach is None:
            places: Sequence[Bin] = self.doors if prefer is Prefer.NEAREST_DOOR else self.packs
            if prefer is Prefer.NEAREST_LAST:
                places = (self.last,) if self.last else ()
            codes = [p.code for p in places]
            reach = reach_of(self.ground, self.site.code, codes, to=prefer is Prefer.NEAREST_PACK)
            self._reach[prefer] = reach
        n = reach.network.number(each.code)
        return 0 if not reach.places or n is None else reach.mm(n)


def cap(target: Target, request: BinRequest, each: Bin, floor: Floor) -> int | None:
    """The most a target allows into a bin beyond the bin's own limits, in base units; None for no limit.

    With several goods it is the least over them of what their home bin still wants, and is 0 when one is not at
    home there.
    """
    found = target.most
    if target.up_to is UpTo.HOME_MAXIMUM:
        for goods in request.all_goods:
            home = floor.ground.homes.get(goods.item, {}).get(each.code)
            wanted = 0 if home is None else home.most - floor.quantity_in(each.code, goods.item, request.task)
            if home is None or home.most:
                found = max(0, wanted if found is None else min(found, wanted))
    return found


def share(rule: BinRule, request: BinRequest, asked: int, fits: int, limit: int | None) -> tuple[int, TurnDown | None]:
    """The share of a bin into which ``fits`` base units go and whose target allows ``limit``; 0 with the reason
    when that is less than all and the rule does not split, or less than the smallest useful share of what the
    rule was asked for."""
    rest = sum(g.quantity for g in request.all_goods)
    count = min(rest, fits) if limit is None else min(rest, fits, limit)
    if count <= 0 or (count < rest and not (rule.split and request.splits)):
        return 0, TurnDown.SHARE_TOO_SMALL
    if rule.split and request.splits and count * 100 < rule.least_percent * asked:
        return 0, TurnDown.SHARE_TOO_SMALL
    return count, None


def overflow_bin(ground: Ground, rule: BinRule, site: SiteCode) -> Bin | None:
    """The bin that takes what a rule leaves over, at the site that asks; None when there is none there."""
    over = ground.bins.get(rule.overflow) if rule.overflow else None
    return over if over and ground.site_of(over.code) == site else None
