"""Decide which bins: the first rule and target that have them, by the quickest way that is sure."""

from __future__ import annotations

from collections.abc import Iterator
from collections.abc import Set as AbstractSet
from heapq import merge
from operator import itemgetter

from mindful_crate.core.catalog.ids import BinCode, BinTypeCode
from mindful_crate.core.catalog.places import Bin
from mindful_crate.core.placing.fit import Floor, Judge
from mindful_crate.core.placing.free import Carried
from mindful_crate.core.placing.index import Holds, Rank, Room, first_key, full_list, ranks, room_tree
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.placing.rules import (
    DYNAMIC,
    Facts,
    Key,
    Order,
    Place,
    cap,
    legs,
    overflow_bin,
    place_of,
    seeing,
    share,
    special_bins,
)
from mindful_crate.core.placing.taking import take
from mindful_crate.core.rulebook.bin_rules import BinRule, IfNothing, Target, Wants
from mindful_crate.core.trail import Allocation, Outcome, Trail, TrailLine, does_not_apply

Rules = tuple[BinRule, ...]
FEW = 64
"""So many named bins are looked at one by one rather than through an index."""


def choose(
    request: BinRequest, rules: Rules, floor: Floor, replenish: Rules = (), carried: Carried | None = None
) -> Trail:
    """The bins for a request by an ordered list of rules, with a line for each rule and target asked.

    ``replenish`` are the rules reserve is taken by; goods that must leave by expiry are looked for there too.
    ``carried``: see :func:`take`.
    """
    if request.purpose.takes:
        return take(request, rules, floor, replenish, carried)
    return _Putting(request, floor).run(rules)


class _Putting:
    """One decision in the making: what is left, what was allocated, and the lines of the trail."""

    def __init__(self, request: BinRequest, floor: Floor) -> None:
        self.request = request
        self.floor = floor
        self.ground = floor.ground
        self.lines: list[TrailLine] = []
        self.allocations: list[Allocation] = []
        self.used: set[BinCode] = set(request.without)
        self.ask_for(request)

    def ask_for(self, request: BinRequest) -> None:
        """From here on for this much."""
        self.now = request
        self.judge = Judge(request, self.floor)
        self.facts = Facts(request, self.ground)
        self.rest = self.judge.whole

    def run(self, rules: Rules) -> Trail:
        """Ask the rules from the top."""
        for leg in legs(rules, self.facts):
            self.lines += leg.passed
            if leg.rule is None:
                break
            condition = leg.unmet(self.facts)
            if condition is not None:
                self.lines.append(does_not_apply(leg.rule.id, condition))
            elif self._ask(leg.rule):
                break
        return Trail(self.request, tuple(self.lines), tuple(self.allocations), self.rest)

    def _ask(self, rule: BinRule) -> bool:
        """One rule that applies: is the decision over after it?"""
        asked = self.rest
        for target in rule.targets:
            before = self.rest
            if rule.split and self.request.splits:
                self._fill(rule, target, asked)
            else:
                self._place_whole(rule, target, asked)
            place = place_of(rule.id, target)
            if self.rest == before:
                self.lines.append(place.no_bin)
                continue
            found = ", ".join([f"`{a.bin}`" for a in self.allocations if (a.rule, a.target) == (rule.id, target.id)])
            says = f"{found}: {place.says}"
            outcome = Outcome.PART if self.rest else Outcome.CHOSEN
            self.lines.append(TrailLine(rule.id, outcome, says, target.id))
            if not self.rest:
                return True
        if rule.if_nothing is IfNothing.OVERFLOW and rule.overflow:
            over = overflow_bin(self.ground, rule, self.request.site)
            if over and over.code not in self.used and self.judge.turn_down(over) is None:
                self._allocate(rule, None, over, self.rest)
                self.lines.append(TrailLine(rule.id, Outcome.OVERFLOW, f"`{over.code}` takes what is left"))
                return True
            self.lines.append(TrailLine(rule.id, Outcome.NO_BIN, f"`{rule.overflow}` may not hold these goods"))
        if rule.if_nothing is IfNothing.ASK:
            self.lines.append(TrailLine(rule.id, Outcome.ASKS, "nothing fits: the worker is asked"))
            return True
        return False

    def _allocate(self, rule: BinRule, target: Target | None, each: Bin, count: int) -> None:
        self.allocations.append(Allocation(each.code, count, rule.id, target.id if target else None))
        self.used.add(each.code)
        left = self.rest - count
        if left:
            self.ask_for(self.now.of(left))
        else:
            self.rest = 0

    def _place_whole(self, rule: BinRule, target: Target, asked: int) -> None:
        best: tuple[Key, Bin, int] | None = None
        for found in self._sources(place_of(rule.id, target), self._whole_need()):
            for key, each in found:
                if best is not None and key >= best[0]:
                    break  # each source is in order
                count = self._share(rule, target, each, asked)
                if count:
                    best = (key, each, count)
                    break
        if best:
            self._allocate(rule, target, best[1], best[2])

    def _fill(self, rule: BinRule, target: Target, asked: int) -> None:
        least = max(1, -(-rule.least_percent * asked // 100))
        need = self._least_need(min(least, self.rest))
        for _, each in merge(*self._sources(place_of(rule.id, target), need)):
            count = self._share(rule, target, each, asked)
            if count:
                self._allocate(rule, target, each, count)
                if not self.rest:
                    return

    def _share(self, rule: BinRule, target: Target, each: Bin, asked: int) -> int:
        if each.code in self.used or not self.judge.type_suits(self.ground.bin_types[each.bin_type]):
            return 0
        fits = self.judge.room(each, target.wants)
        return share(rule, self.now, asked, fits, cap(target, self.now, each, self.floor))[0] if fits else 0

    def _whole_need(self) -> Room:
        load = self.judge.load
        return load.volume_mm3, load.weight_mg, load.plates, load.height_mm

    def _least_need(self, quantity: int) -> Room:
        """Less room than this holds no such share: as if all were packed in its tightest and lightest unit."""
        units = self.ground.items[self.now.goods[0].item].units
        volume = min(u.volume_mm3 * quantity // u.quantity for u in units)
        weight = min(u.weight_mg * quantity // u.quantity for u in units)
        return volume, weight, 0, self.judge.load.height_mm

    # Where bins come from, each source in the order of the target

    def _sources(self, place: Place, need: Room) -> list[Iterator[tuple[Key, Bin]]]:
        target = place.target
        order = Order(self.ground, self.now, target.prefer, place)
        codes = self._few(place)
        if codes is not None:
            return [iter(self._sorted(target, codes, order))]
        own = self.floor.claim_of(self.now.task) if self.now.task else None
        sources: list[Iterator[tuple[Key, Bin]]] = []
        if own is not None:  # its own claim hides its bin in the indexes
            sources.append(iter(self._sorted(target, {own}, order)))
        beside: set[BinTypeCode] = set()
        for rank in ranks(self.ground, self.now.site, target.look_in, order):
            if not self.judge.type_suits(rank.kind):
                continue
            if target.wants is Wants.EMPTY:
                sources.append(self._from_tree(rank, Holds.NOTHING, need, order))
            elif rank.kind.mixed_items:
                sources.append(self._from_all(rank, need, order))
            else:
                sources.append(self._from_tree(rank, Holds.NO_GOODS, need, order))
                beside.add(rank.kind.code)
        if beside:
            there = self._bins_with_all()
            codes = {c for c in there if self.ground.bins[c].bin_type in beside}
            sources.append(iter(self._sorted(target, codes, order)))
        return sources

    def _few(self, place: Place) -> AbstractSet[BinCode] | None:
        """The bins of a target when they are so few that no index is needed; None otherwise."""
        look = place.target.look_in
        few: AbstractSet[BinCode] | None = special_bins(look, self.now, self.floor)
        if few is None and place.same:
            few = self._bins_with_all()
        if few is None and look.bins and len(look.bins) <= FEW:
            few = {c for c in look.bins if c in self.ground.bins}
        return few

    def _bins_with_all(self) -> AbstractSet[BinCode]:
        """Bins in which each of the items lies, or is on its way to."""
        first, *others = self.judge.items
        found = self.floor.bins_with(first)
        for item in others:
            found &= self.floor.bins_with(item)
        return found

    def _sorted(self, target: Target, codes: AbstractSet[BinCode], order: Order) -> list[tuple[Key, Bin]]:
        bins, zones, site, sees = self.ground.bins, self.ground.zones, self.now.site, seeing(target.look_in)
        seen = [each for c in codes if sees(each := bins[c]) and zones[each.zone].site == site]
        if order.static:
            return order.in_order(seen)
        return sorted([(self._key(order, each), each) for each in seen], key=itemgetter(0))

    def _key(self, order: Order, each: Bin) -> Key:
        if order.static:
            return order.static_key(each)
        held = self.floor.held(each.code, self.now.task)
        return order.key(each, held.volume_mm3, held.plates)

    def _from_tree(self, rank: Rank, holds: Holds, need: Room, order: Order) -> Iterator[tuple[Key, Bin]]:
        """In static order. Among bins without goods those with fewer empty plates differ in how full they are."""
        if order.static:
            for place in room_tree(self.floor, rank, holds).fitting(need):
                yield rank.keys[place], rank.bins[place]
        elif holds is Holds.NOTHING:
            for place in room_tree(self.floor, rank, holds).fitting(need):
                yield order.key(rank.bins[place], 0, 0), rank.bins[place]
        else:
            yield from self._by_fullness(rank, need, order)

    def _from_all(self, rank: Rank, need: Room, order: Order) -> Iterator[tuple[Key, Bin]]:
        if order.static:
            return self._from_tree(rank, Holds.ANYTHING, need, order)
        return self._by_fullness(rank, need, order)

    def _by_fullness(self, rank: Rank, need: Room, order: Order) -> Iterator[tuple[Key, Bin]]:
        if order.prefer[0] in DYNAMIC:
            for key, place in full_list(self.floor, rank, order).fitting(first_key(order, rank.kind, need), need):
                yield key, rank.bins[place]
            return
        places = room_tree(self.floor, rank, Holds.ANYTHING).fitting(need)
        found = [(self._key(order, rank.bins[n]), rank.bins[n]) for n in places]
        yield from sorted(found, key=lambda f: f[0])
