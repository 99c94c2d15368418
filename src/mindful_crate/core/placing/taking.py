"""Decide where goods are taken from: stock that may be taken, by expiry and arrival where the item demands it.

A *source* is what is taken at one go: everything of the item in one bin that may be taken, or one whole plate.
Lines of a source are taken earliest expiry first, then earliest arrival, then by plate and lot.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import date, timedelta
from enum import StrEnum

from mindful_crate.core.catalog.goods import Item, LotOrder
from mindful_crate.core.catalog.ids import BinCode, PlateNo
from mindful_crate.core.catalog.places import Bin
from mindful_crate.core.placing.fit import Floor, Lying
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.placing.rules import Facts, Key, Order, seen_by, special_bins, unmet
from mindful_crate.core.rulebook.bin_rules import BinRule, IfNothing, Prefer, Target, Wants
from mindful_crate.core.rulebook.sentences import WANTS, prefer_words
from mindful_crate.core.trail import Allocation, Outcome, Trail, TrailLine

NEVER = date.max
"""Sorts stock without an expiry date last."""


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


@dataclass(frozen=True, slots=True)
class Free:
    """What may be taken of one line of stock."""

    line: Lying
    count: int

    @property
    def expiry(self) -> date:
        """When it expires; the last day of the calendar if it does not."""
        return self.line.goods.expiry or NEVER

    @property
    def arrived(self) -> date:
        """When it arrived; unknown counts as first of all."""
        return self.line.goods.arrived or date.min

    @property
    def order(self) -> tuple[date, date, str, str]:
        """The order within a source."""
        return self.expiry, self.arrived, self.line.plate or "", self.line.goods.lot


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

    def __init__(self, request: BinRequest, floor: Floor) -> None:
        self.request = request
        self.floor = floor
        self.ground = floor.ground
        self.item: Item = self.ground.items[request.goods[0].item]
        self.rest = request.goods[0].quantity
        self.facts = Facts(request, self.ground)
        until = keeps_until(request, floor)
        self.free: list[Free] = []
        for line in floor.lines(self.item.code):
            if line_down(request, line, floor, until) is None and self._here(line.bin):
                self.free.append(Free(line, line.goods.quantity - floor.reserved(line, request.holder)))
        self.whole = _whole_plates(self.free, floor)
        self.allocations: list[Allocation] = []

    def _here(self, code: BinCode) -> bool:
        return self.ground.site_of(code) == self.request.site

    def watch(self, lists: Iterable[tuple[BinRule, ...]]) -> None:
        """Keep in mind which bins the rules that apply look at: goods that leave by expiry are compared there."""
        looks = [
            t.look_in for rules in lists for r in rules if r.on and unmet(r, self.facts) is None for t in r.targets
        ]
        specials = [(look, special_bins(look, self.request, self.floor)) for look in looks]
        self.watched: set[BinCode] = {
            f.line.bin
            for f in self.free
            if any(
                (few is None or f.line.bin in few) and seen_by(look, self.ground.bins[f.line.bin])
                for look, few in specials
            )
        }

    def inside(self, target: Target) -> list[Free]:
        """Free stock in the bins a target looks at."""
        few = special_bins(target.look_in, self.request, self.floor)
        return [
            f
            for f in self.free
            if (few is None or f.line.bin in few) and seen_by(target.look_in, self.ground.bins[f.line.bin])
        ]

    def too_early(self, rule: BinRule, inside: list[Free], plates: bool) -> Callable[[Free], TakeDown | None]:
        """Tells of free stock inside a target whether goods elsewhere must leave before it.

        What lies in the same source is no hindrance: it is taken in order.
        """

        def holder(each: Free) -> str:
            return (each.line.plate or "") if plates else each.line.bin

        if self.item.lot_order is LotOrder.FEFO:
            first, other, at = _two_first(
                ((f.expiry, holder(f)) for f in self.free if f.line.bin in self.watched), NEVER
            )
            days, down = rule.fefo_days, TakeDown.EXPIRES_LATER
            return lambda f: down if f.expiry > _later(other if holder(f) == at else first, days) else None
        if self.item.lot_order is LotOrder.FIFO:
            first, other, at = _two_first(((f.arrived, holder(f)) for f in inside), NEVER)
            return lambda f: TakeDown.ARRIVED_LATER if f.arrived > (other if holder(f) == at else first) else None
        return lambda _: None

    def give(self, rule: BinRule, target: Target, source: Iterable[Free], count: int) -> None:
        """Take so much from a source."""
        for each in sorted(source, key=lambda f: f.order):
            part = min(count, each.count)
            if part <= 0:
                break
            line = each.line
            goods = replace(line.goods, quantity=part)
            self.allocations.append(Allocation(line.bin, part, rule.id, target.id, line.plate, goods))
            count -= part
            self.rest -= part
            self.free.remove(each)
            if each.count > part:
                self.free.append(Free(line, each.count - part))
            if line.plate:
                self.whole.pop(line.plate, None)

    def rest_request(self) -> BinRequest:
        """The request for what is left."""
        return self.request.of(self.rest)


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


def _whole_plates(free: list[Free], floor: Floor) -> dict[PlateNo, int]:
    """Plates that hold nothing but goods that may all be taken, with their quantity."""
    found: dict[PlateNo, int] = {}
    for each in free:
        plate = each.line.plate
        if plate:
            found[plate] = found.get(plate, 0) + each.count
    return {plate: count for plate, count in found.items() if floor.holds_just(plate, free[0].line.goods.item, count)}


@dataclass(frozen=True, slots=True)
class Source:
    """What is taken at one go."""

    bin: Bin
    free: tuple[Free, ...]
    plate: PlateNo | None = None
    """Set when it is one whole plate."""

    @property
    def count(self) -> int:
        """How much there is to take."""
        return sum(f.count for f in self.free)


def source_key(order: Order, source: Source, rest: int, floor: Floor) -> Key:
    """Sort key of a source: the target's preferences, then the bin, then the plate."""
    each, goods = source.bin, source.free
    key: list[int | str] = []
    volume, plates = 0, 0
    if not order.static:
        volume, _, plates = floor.load(each.code)
    base = order.key(each, volume, plates)
    for prefer, plain in zip(order.prefer, base, strict=False):
        if prefer is Prefer.FEFO:
            key.append(min(f.expiry for f in goods).toordinal())
        elif prefer is Prefer.FIFO:
            key.append(min(f.arrived for f in goods).toordinal())
        elif prefer is Prefer.LIFO:
            key.append(-max(f.arrived for f in goods).toordinal())
        elif prefer is Prefer.SMALLEST_REMAINDER:
            key.append(max(0, source.count - rest))
        elif prefer is Prefer.FEWEST_BINS:
            key.append(-min(source.count, rest))
        else:
            key.append(plain)
    return (*key, each.code, source.plate or "")


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


def take(request: BinRequest, rules: tuple[BinRule, ...], floor: Floor, replenish: tuple[BinRule, ...] = ()) -> Trail:
    """Where the goods are taken from, with a line for each rule and target asked."""
    taking = Taking(request, floor)
    taking.watch((rules, replenish))
    lines: list[TrailLine] = []
    asked_worker = False
    for rule in rules:
        if not rule.on:
            lines.append(TrailLine(rule.id, Outcome.OFF, "switched off"))
            continue
        condition = unmet(rule, taking.facts)
        if condition is not None:
            lines.append(TrailLine(rule.id, Outcome.DOES_NOT_APPLY, condition))
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
    watched = [f for f in taking.free if f.line.bin in taking.watched]
    first = min(watched, key=lambda f: (f.expiry, f.line.bin), default=None)
    applying = [r for r in rules if r.on and unmet(r, taking.facts) is None]
    if first is None or any(first in taking.inside(t) for r in applying for t in r.targets):
        return None
    says = f"`{first.line.bin}` holds the earliest expiry, {first.expiry.isoformat()}: ask for replenishment from there"
    return TrailLine((applying or list(rules))[-1].id, Outcome.REPLENISH, says) if rules else None


def _ask(taking: Taking, rule: BinRule, target: Target, asked: int) -> TrailLine:
    order = Order(taking.ground, taking.request, target.prefer)
    before, first = taking.rest, len(taking.allocations)
    passed: set[str] = set()
    while taking.rest:
        best: tuple[Key, Source, int] | None = None
        for source in sources(taking, rule, target):
            key = source_key(order, source, taking.rest, taking.floor)
            if source.bin.code in passed or (best is not None and key >= best[0]):
                continue
            count = take_share(rule, target, source.count, taking.rest, asked)[0]
            if count:
                best = (key, source, count)
        if best is None:
            break
        if target.most is not None:
            passed.add(best[1].bin.code)
        taking.give(rule, target, best[1].free, best[2])
    if taking.rest == before:
        return TrailLine(rule.id, Outcome.NO_BIN, f"no bin: {WANTS[target.wants]}", target.id)
    bins = dict.fromkeys(a.bin for a in taking.allocations[first:])
    says = f"{', '.join(f'`{b}`' for b in bins)}: {WANTS[target.wants]}, {prefer_words(target)}"
    return TrailLine(rule.id, Outcome.PART if taking.rest else Outcome.CHOSEN, says, target.id)


def sources(taking: Taking, rule: BinRule, target: Target) -> Iterator[Source]:
    """What may be taken at one go in the bins of a target."""
    plates = target.wants is Wants.WHOLE_PLATE
    inside = taking.inside(target)
    early = taking.too_early(rule, inside, plates)
    found: dict[str, list[Free]] = {}
    for each in inside:
        if plates and each.line.plate not in taking.whole:
            continue
        if early(each) is None:
            found.setdefault((each.line.plate or "") if plates else each.line.bin, []).append(each)
    for parts in found.values():
        source = Source(taking.ground.bins[parts[0].line.bin], tuple(parts), parts[0].line.plate if plates else None)
        if source.plate is None or source.count == taking.whole[source.plate]:
            yield source
