"""Decide where goods are taken from: stock that may be taken, by expiry and arrival where the item demands it.

A *source* is what is taken at one go: everything of the item in one bin that may be taken, or one whole plate.
Lines of a source are taken earliest expiry first, then earliest arrival, then by plate and lot.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from datetime import date, timedelta
from enum import StrEnum

from mindful_crate.core.catalog.goods import Item, LotOrder, Status
from mindful_crate.core.catalog.ids import BinCode, PlateNo, ZoneCode
from mindful_crate.core.catalog.places import Bin
from mindful_crate.core.placing.fit import Floor, Lying
from mindful_crate.core.placing.free import NEVER, Carried, Free, Source, Takeable, replaced, takeable
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.placing.rules import Facts, Key, Order, legs, place_of, seeing, special_bins, zones_alone
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.bin_rules import BinRule, IfNothing, LookIn, Prefer, Target, Wants
from mindful_crate.core.trail import Allocation, Outcome, Trail, TrailLine, does_not_apply


class TakeDown(StrEnum):
    """Why stock is not taken; the first that holds, in this order."""

    OTHER_LOT = "other_lot"
    OTHER_STATUS = "other_status"
    BLOCKED = "blocked"
    EXPIRED = "expired"
    TOO_SHORT = "too_short"
    RESERVED = "reserved"
    EXPIRES_LATER = "expires_later"
    ARRIVED_LATER = "arrived_later"
    NOT_ALL = "not_all"
    NOT_WHOLE = "not_whole"
    SHARE_TOO_SMALL = "share_too_small"


TAKE_COUNTED = {
    TakeDown.OTHER_LOT: "of another lot",
    TakeDown.OTHER_STATUS: "of another status",
    TakeDown.BLOCKED: "in a blocked bin",
    TakeDown.EXPIRED: "expired",
    TakeDown.TOO_SHORT: "keep too short for this partner",
    TakeDown.RESERVED: "reserved",
    TakeDown.EXPIRES_LATER: "expire later than goods elsewhere",
    TakeDown.ARRIVED_LATER: "arrived later than goods elsewhere",
    TakeDown.NOT_ALL: "do not cover all",
    TakeDown.NOT_WHOLE: "are no whole plate of this quantity",
    TakeDown.SHARE_TOO_SMALL: "cover too little",
}
"""How a count of stock not taken reads."""


def keeps_until(request: BinRequest, floor: Floor) -> date | None:
    """The day goods must keep to for these partners; None when the day is not known."""
    if request.today is None:
        return None
    days = [p.shelf_life_days for c in request.partners if (p := floor.ground.partners.get(c))]
    return request.today + timedelta(days=max(days, default=0))


def line_down(request: BinRequest, line: Lying, floor: Floor, until: date | None) -> TakeDown | None:
    """Why a line of stock may not be taken at all; None if it may, at least in part."""
    wanted, goods = request.goods[0], line.goods
    if wanted.lot and goods.lot != wanted.lot:
        return TakeDown.OTHER_LOT
    if goods.status is not wanted.status:
        return TakeDown.OTHER_STATUS
    if floor.blocked(line.bin) is not None:
        return TakeDown.BLOCKED
    if until is not None and goods.expiry is not None and goods.expiry < until:
        expired = request.today is not None and goods.expiry < request.today
        return TakeDown.EXPIRED if expired else TakeDown.TOO_SHORT
    if floor.reserved(line, request.holder) >= goods.quantity:
        return TakeDown.RESERVED
    return None


class Taking:
    """One decision in the making: what is left to find, and what of each line is taken already."""

    def __init__(self, request: BinRequest, floor: Floor, carried: Carried | None = None) -> None:
        self.request = request
        self.floor = floor
        self.carried = carried
        self.ground = floor.ground
        wanted = request.goods[0]
        self.item: Item = self.ground.items[wanted.item]
        self.rest = wanted.quantity
        self.facts = Facts(request, self.ground)
        until = keeps_until(request, floor)
        self.fresh: Takeable | None = None
        """Remembered stock, as long as nothing of it is taken and no wish of this request narrows it."""
        narrowed = bool(wanted.lot) or wanted.status is not Status.AVAILABLE
        reserved = floor.has_reservations(wanted.item)
        if carried is not None and not narrowed and request.holder is None:
            first = self._may_be_taken if reserved else lambda u: takeable(wanted.item, request.site, u, floor).free[:]
            self.fresh = carried.of(wanted.item, request.site, until, lambda: first(until))
            self.free = self.fresh.free
        elif narrowed or reserved:
            self.free = self._may_be_taken(until)
        else:
            self.fresh = takeable(wanted.item, request.site, until, floor)
            self.free = self.fresh.free
        self.allocations: list[Allocation] = []
        self.broken: set[PlateNo] = set()
        """Plates of which something was taken: they are not whole any more."""

    def _may_be_taken(self, until: date | None) -> list[Free]:
        """:func:`line_down` for every line."""
        request, floor = self.request, self.floor
        bins, found = self.ground.bins, []
        for line in floor.lines(self.item.code):
            if line_down(request, line, floor, until) is None and self.ground.site_of(line.bin) == request.site:
                found.append(Free(line, bins[line.bin], line.goods.quantity - floor.reserved(line, request.holder)))
        return sorted(found, key=lambda f: f.order)

    def watch(self, lists: Iterable[tuple[BinRule, ...]]) -> None:
        """Keep in mind which bins the rules that apply look at: goods that leave by expiry are compared there."""
        self.watching: list[tuple[set[BinCode] | None, Callable[[Bin], bool]]] = []
        self.watching_zones: set[ZoneCode] = set()
        if self.item.lot_order is not LotOrder.FEFO:
            return
        for rules in lists:
            for rule in self.applying(rules):
                zones, looks = _looks_of(rule)
                self.watching_zones |= zones
                self.watching += [(special_bins(x, self.request, self.floor), seeing(x)) for x in looks]

    def applying(self, rules: tuple[BinRule, ...]) -> list[BinRule]:
        """The rules of a list that apply to what is left."""
        return [leg.rule for leg in legs(rules, self.facts) if leg.rule and leg.unmet(self.facts) is None]

    def watched(self, each: Free) -> bool:
        """Does it lie in a bin that is kept in mind? Asked of the few that expire first, so not worked out ahead."""
        if each.bin.zone in self.watching_zones:
            return True
        return any(sees(each.bin) and (few is None or each.bin.code in few) for few, sees in self.watching)

    def inside(self, target: Target) -> list[Free]:
        """Free stock in the bins a target looks at; not to be changed but by :meth:`give`."""
        look, fresh = target.look_in, self.fresh
        few, sees = special_bins(look, self.request, self.floor), seeing(look)
        if few is not None:
            return [f for f in self.free if f.line.bin in few and sees(f.bin)]
        if fresh is None:
            return [f for f in self.free if sees(f.bin)]
        known = fresh.inside.get(id(look))
        if known is None or known[0] is not look:
            known = fresh.inside[id(look)] = (look, [f for f in fresh.free if sees(f.bin)])
            for at in [at for at in fresh.sources if at[0] == id(look)]:
                del fresh.sources[at]
        return known[1]

    def leaves_by(self, rule: BinRule, plates: bool) -> tuple[date, date, str]:
        """For goods that leave by expiry: the latest expiry that may be taken, the latest that one holder (a plate,
        or else a bin) may give, and that holder. What lies in one holder is no hindrance to itself: it is taken in
        order. Free stock is kept sorted by expiry."""
        first = other = NEVER
        at = ""
        for each in self.free:
            if self.watched(each):
                holder = holder_of(each, plates)
                if first is NEVER and not at:
                    first, at = each.expiry, holder
                elif holder != at:
                    other = each.expiry
                    break
        return _later(first, rule.fefo_days), _later(other, rule.fefo_days), at

    def too_early(self, rule: BinRule, inside: list[Free], plates: bool) -> Callable[[Free], TakeDown | None] | None:
        """Tells of free stock inside a target whether goods elsewhere must leave before it; None if nothing must."""
        if self.item.lot_order is LotOrder.FEFO:
            first, other, at = self.leaves_by(rule, plates)
            return lambda f: (
                TakeDown.EXPIRES_LATER if f.expiry > (other if holder_of(f, plates) == at else first) else None
            )
        if self.item.lot_order is LotOrder.FIFO:
            first, other, at = _two_first(((f.arrived, holder_of(f, plates)) for f in inside), NEVER)
            return lambda f: (
                TakeDown.ARRIVED_LATER if f.arrived > (other if holder_of(f, plates) == at else first) else None
            )
        return None

    def is_whole(self, plate: PlateNo | None, count: int) -> bool:
        """Is so much of the item everything that stands on a plate?"""
        if plate is None or plate in self.broken:
            return False
        return self.floor.holds_just(plate, self.item.code, count)

    def give(self, rule: BinRule, target: Target, source: Iterable[Free], count: int, inside: list[Free]) -> list[Free]:
        """Take so much from a source; what is still free inside the target."""
        if self.fresh is not None and self.carried is None:  # what is remembered stays as it is
            self.free, inside, self.fresh = self.free[:], inside[:], None
        if self.fresh is None:
            own: list[list[Free]] = [self.free, inside]
        else:  # what was found by place is carried, what was found among a few bins is not
            own = [] if any(inside is x for _, x in self.fresh.inside.values()) else [inside]
        for each in sorted(source, key=lambda f: f.order):
            part = min(count, each.count)
            if part <= 0:
                break
            line = each.line
            goods = line.goods if part == line.goods.quantity else evolve(line.goods, quantity=part)
            self.allocations.append(Allocation(line.bin, part, rule.id, target.id, line.plate, goods))
            count -= part
            self.rest -= part
            if self.carried is not None:
                self.carried.less(self.item, line, part)
            if own:
                left = each.less(part)
                for listed in own:
                    replaced(listed, each, left)
            if line.plate:
                self.broken.add(line.plate)
        return inside

    def rest_request(self) -> BinRequest:
        """The request for what is left."""
        return self.request.of(self.rest)


_looks: dict[int, tuple[BinRule, frozenset[ZoneCode], tuple[LookIn, ...]]] = {}


def _looks_of(rule: BinRule) -> tuple[frozenset[ZoneCode], tuple[LookIn, ...]]:
    """Where a rule looks: zones it looks at all of, and other places."""
    known = _looks.get(id(rule))
    if known is None or known[0] is not rule:
        if len(_looks) > 5000:
            _looks.clear()
        looks = [(t.look_in, None if _is_special(t.look_in) else zones_alone(t.look_in)) for t in rule.targets]
        whole = frozenset(z for _, zones in looks if zones for z in zones)
        known = _looks[id(rule)] = (rule, whole, tuple(look for look, zones in looks if zones is None))
    return known[1:]


def _is_special(look: LookIn) -> bool:
    return look.home_bins or look.own_plate


def holder_of(each: Free, plates: bool) -> str:
    """The plate a line stands on when whole plates are taken, else its bin."""
    return (each.line.plate or "") if plates else each.line.bin


def _two_first(rows: Iterable[tuple[date, str]], none: date) -> tuple[date, date, str]:
    """The earliest day, the earliest day of another holder, and whose the first is."""
    first, other, at = none, none, ""
    for day, holder in rows:
        if holder == at:
            first = min(first, day)
        elif day < first or not at:
            first, other, at = day, first, holder
        else:
            other = min(other, day)
    return first, other, at


def _later(day: date, days: int) -> date:
    return NEVER if (NEVER - day).days < days else day + timedelta(days=days)


SourceKey = Callable[[Source, int], int]
_OF_STOCK: dict[Prefer, SourceKey] = {
    Prefer.FEFO: lambda s, _: s.expiry.toordinal(),
    Prefer.FIFO: lambda s, _: s.arrived.toordinal(),
    Prefer.LIFO: lambda s, _: -max([f.arrived for f in s.free]).toordinal(),
    Prefer.SMALLEST_REMAINDER: lambda s, rest: max(0, s.count - rest),
    Prefer.FEWEST_BINS: lambda s, rest: -min(s.count, rest),
    Prefer.WALK_ORDER: lambda s, _: s.bin.walk,
    Prefer.LOWEST_LEVEL: lambda s, _: s.bin.level,
}


_HANG_ON_NOTHING = {Prefer.FEFO, Prefer.FIFO, Prefer.LIFO, Prefer.WALK_ORDER, Prefer.LOWEST_LEVEL}
"""Preferences by which a source stands where it stands, whatever is asked for."""

_OF_ITS_BIN = {Prefer.WALK_ORDER, Prefer.LOWEST_LEVEL}
"""And however much of it was taken before."""

_source_keys: dict[int, tuple[Target, list[SourceKey | None], bool, bool]] = {}


class SourceOrder:
    """Sort keys of sources: the target's preferences, then the bin, then the plate."""

    def __init__(self, target: Target, request: BinRequest, floor: Floor) -> None:
        known = _source_keys.get(id(target))
        if known is None or known[0] is not target:
            if len(_source_keys) > 5000:
                _source_keys.clear()
            fixed = _HANG_ON_NOTHING.issuperset(target.prefer)
            stands = _OF_ITS_BIN.issuperset(target.prefer)
            known = _source_keys[id(target)] = (target, [_OF_STOCK.get(p) for p in target.prefer], fixed, stands)
        self._target, self._fixed = target, known[2]
        self.stands = known[3]
        """Sources sorted once stay sorted: the first that may give is the best."""
        self._keys = [
            key or self._of_bin(prefer, request, floor) for key, prefer in zip(known[1], target.prefer, strict=True)
        ]

    @staticmethod
    def _of_bin(prefer: Prefer, request: BinRequest, floor: Floor) -> SourceKey:
        order = Order(floor.ground, request, (prefer,))

        def key(source: Source, _: int) -> int:
            volume, _, plates = (0, 0, 0) if order.static else floor.load(source.bin.code)
            found = order.key(source.bin, volume, plates)[0]
            assert isinstance(found, int)
            return found

        return key

    def key(self, source: Source, rest: int) -> Key:
        """The key when so much is still asked for."""
        known = source.known
        if known is not None and known[0] is self._target:
            return known[1]
        key = (*[k(source, rest) for k in self._keys], source.bin.code, source.plate or "")
        if self._fixed:
            source.known = (self._target, key)
        return key


def take_share(rule: BinRule, target: Target, count: int, rest: int, asked: int) -> tuple[int, TakeDown | None]:
    """The share taken from a source that offers ``count``; 0 with the reason when it is none."""
    if target.wants is Wants.WHOLE_PLATE:
        if not (count == rest or (rule.split and count < rest)) or (target.most is not None and count > target.most):
            return 0, TakeDown.NOT_WHOLE
        offered = count
    else:
        offered = min(count, rest) if target.most is None else min(count, rest, target.most)
        if offered < rest and (target.wants is Wants.ONE_COVERS or not rule.split):
            return 0, TakeDown.NOT_ALL
    if rule.split and offered * 100 < rule.least_percent * asked:
        return 0, TakeDown.SHARE_TOO_SMALL
    return offered, None


def take(
    request: BinRequest,
    rules: tuple[BinRule, ...],
    floor: Floor,
    replenish: tuple[BinRule, ...] = (),
    carried: Carried | None = None,
) -> Trail:
    """Where the goods are taken from, with a line for each rule and target asked. ``carried``: what is free is carried on to the next decision of
    the same command; what is given must then be reserved before it."""
    taking = Taking(request, floor, carried)
    taking.watch((rules, replenish))
    lines: list[TrailLine] = []
    asked_worker = False
    for leg in legs(rules, taking.facts):
        lines += leg.passed
        rule = leg.rule
        if rule is None:
            break
        condition = leg.unmet(taking.facts)
        if condition is not None:
            lines.append(does_not_apply(rule.id, condition))
            continue
        asked = taking.rest
        for target in rule.targets:
            lines.append(_ask(taking, rule, target, asked))
            if not taking.rest:
                break
        if not taking.rest:
            break
        if rule.if_nothing is IfNothing.ASK:
            lines.append(TrailLine(rule.id, Outcome.ASKS, "nothing is found: the worker is asked"))
            asked_worker = True
            break
        if taking.rest != asked:
            taking.facts = Facts(taking.rest_request(), taking.ground)
    if taking.rest and not asked_worker:
        told = elsewhere(taking, rules)
        if told:
            lines.append(told)
    return Trail(request, tuple(lines), tuple(taking.allocations), taking.rest)


def elsewhere(taking: Taking, rules: tuple[BinRule, ...]) -> TrailLine | None:
    """That what expires first lies where only replenishment takes from, if that is so."""
    if taking.item.lot_order is not LotOrder.FEFO:
        return None
    watched = [f for f in taking.free if taking.watched(f)]
    first = min(watched, key=lambda f: (f.expiry, f.line.bin), default=None)
    applying = taking.applying(rules)
    if first is None or first.expiry is NEVER or any(first in taking.inside(t) for r in applying for t in r.targets):
        return None
    says = f"`{first.line.bin}` holds the earliest expiry, {first.expiry.isoformat()}: ask for replenishment from there"
    return TrailLine((applying or list(rules))[-1].id, Outcome.REPLENISH, says) if rules else None


def _ask(taking: Taking, rule: BinRule, target: Target, asked: int) -> TrailLine:
    before, first = taking.rest, len(taking.allocations)
    inside = taking.inside(target)
    if inside:
        if taking.item.lot_order is LotOrder.ANY and target.most is None:
            _take_in_order(taking, rule, target, asked, inside)
        else:
            _take_one_by_one(taking, rule, target, asked, inside)
    if taking.rest == before:
        return place_of(rule.id, target).no_bin
    bins = dict.fromkeys([a.bin for a in taking.allocations[first:]])
    says = f"{', '.join([f'`{b}`' for b in bins])}: {place_of(rule.id, target).says}"
    return TrailLine(rule.id, Outcome.PART if taking.rest else Outcome.CHOSEN, says, target.id)


def _best(
    found: list[Source], order: SourceOrder, rule: BinRule, target: Target, rest: int, asked: int
) -> tuple[Key, Source, int] | None:
    best: tuple[Key, Source, int] | None = None
    all_or_nothing = target.wants is Wants.ONE_COVERS or not rule.split
    for source in found:
        if all_or_nothing and source.count < rest:
            continue  # the commonest reason first
        count = take_share(rule, target, source.count, rest, asked)[0]
        if count:
            key = order.key(source, rest)
            if order.stands:
                return (key, source, count)
            if best is None or key < best[0]:
                best = (key, source, count)
    return best


def _take_in_order(taking: Taking, rule: BinRule, target: Target, asked: int, inside: list[Free]) -> None:
    """When nothing must leave first. As long as more is asked for than any source has, their order is fixed."""
    order = SourceOrder(target, taking.request, taking.floor)
    found = _remembered(taking, rule, target, inside, order)
    most = max([s.count for s in found], default=0)
    if rule.split and taking.rest > most:
        left = []
        for source in sorted(found, key=lambda s: order.key(s, taking.rest)):
            count = take_share(rule, target, source.count, taking.rest, asked)[0] if taking.rest > most else 0
            if count:
                inside = taking.give(rule, target, source.free, count, inside)
            else:
                left.append(source)
        found = left
    while taking.rest:
        best = _best(found, order, rule, target, taking.rest, asked)
        if best is None:
            return
        inside = taking.give(rule, target, best[1].free, best[2], inside)
        if best[1].count > best[2]:
            return  # more was there than asked for: nothing is left to ask
        found = [s for s in found if s is not best[1]]


def _remembered(taking: Taking, rule: BinRule, target: Target, inside: list[Free], order: SourceOrder) -> list[Source]:
    """The sources of a target, remembered as long as nothing is taken: with what may leave how late, if expiry rules. Sorted where they stay so."""
    fresh, look = taking.fresh, target.look_in
    if fresh is None or fresh.inside.get(id(look), (None, None))[1] is not inside:
        return _found(taking, rule, target, inside, order)
    plates = target.wants is Wants.WHOLE_PLATE
    late = taking.leaves_by(rule, plates) if taking.item.lot_order is LotOrder.FEFO else None
    at = (id(look), plates, late)
    known = fresh.sources.get(at)
    if known is None or known[0] is not target:
        known = fresh.sources[at] = (target, _found(taking, rule, target, inside, order))
    return known[1]


def _found(taking: Taking, rule: BinRule, target: Target, inside: list[Free], order: SourceOrder) -> list[Source]:
    found = list(sources(taking, rule, target, inside))
    return sorted(found, key=lambda s: order.key(s, 0)) if order.stands else found


def _take_one_by_one(taking: Taking, rule: BinRule, target: Target, asked: int, inside: list[Free]) -> None:
    """When what may be taken next depends on what was taken, or a bin gives only so much."""
    order = SourceOrder(target, taking.request, taking.floor)
    passed: set[str] = set()
    while taking.rest:
        found = [s for s in _remembered(taking, rule, target, inside, order) if s.bin.code not in passed]
        best = _best(found, order, rule, target, taking.rest, asked)
        if best is None:
            return
        if target.most is not None:
            passed.add(best[1].bin.code)
        inside = taking.give(rule, target, best[1].free, best[2], inside)


def sources(taking: Taking, rule: BinRule, target: Target, inside: list[Free]) -> Iterator[Source]:
    """What may be taken at one go of the free stock inside a target."""
    plates = target.wants is Wants.WHOLE_PLATE
    found: dict[str, list[Free]] = {}
    if taking.item.lot_order is LotOrder.FEFO:
        first, other, at = taking.leaves_by(rule, plates)
        for each in inside:
            if each.expiry > other:
                break  # sorted by expiry: nothing further may leave yet
            holder = holder_of(each, plates)
            if holder and (each.expiry <= first or holder == at):
                found.setdefault(holder, []).append(each)
    else:
        early = taking.too_early(rule, inside, plates)
        for each in inside:
            holder = holder_of(each, plates)
            if holder and (early is None or early(each) is None):
                found.setdefault(holder, []).append(each)
    for parts in found.values():
        source = Source(parts[0].bin, parts, parts[0].line.plate if plates else None)
        if not plates or taking.is_whole(source.plate, source.count):
            yield source
