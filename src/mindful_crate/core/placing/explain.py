"""Explain which bins: every bin and every line of stock looked at, counted and judged.

Written apart from ``choose`` on purpose: it looks at everything, in no clever order, and so checks it.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable

from mindful_crate.core.catalog.ids import BinCode, ItemCode, RuleId, TargetId
from mindful_crate.core.catalog.places import Bin
from mindful_crate.core.placing.fit import COUNTED, Floor, Judge, TurnDown
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.placing.rules import (
    Facts,
    Key,
    Order,
    bins_in,
    cap,
    lies_in,
    overflow_bin,
    share,
    special_bins,
    unmet,
)
from mindful_crate.core.placing.taking import (
    TAKE_COUNTED,
    Free,
    Source,
    SourceOrder,
    TakeDown,
    Taking,
    elsewhere,
    keeps_until,
    line_down,
    take_share,
)
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import BinRule, IfNothing, Target, Wants
from mindful_crate.core.trail import Allocation, Outcome
from mindful_crate.core.walking.distance import network_of

NEXT_BEST = 3
"""How many bins that fit are named."""


@record
class Candidate:
    """One bin looked at: turned down for a cause, or None when it fits."""

    bin: BinCode
    turned_down: str | None = None


@record
class Look:
    """What a rule or target saw. ``says`` is the sentence; ``bins`` every bin looked at."""

    rule: RuleId
    outcome: Outcome | None
    says: str
    target: TargetId | None = None
    bins: tuple[Candidate, ...] = ()


@record
class Explanation:
    """The answer to a request with the counts behind it. Rules after the winner are listed as not asked."""

    looks: tuple[Look, ...]
    allocations: tuple[Allocation, ...] = ()
    rest: int = 0
    metres: int | None = None
    """On foot from where the goods are to the first bin; None when there is no way, or nothing to walk from."""

    @property
    def bin(self) -> BinCode | None:
        """The first bin."""
        return self.allocations[0].bin if self.allocations else None

    @property
    def rule(self) -> RuleId | None:
        """The rule that chose the first bin."""
        return self.allocations[0].rule if self.allocations else None


def explain(
    request: BinRequest, rules: tuple[BinRule, ...], floor: Floor, replenish: tuple[BinRule, ...] = ()
) -> Explanation:
    """Every rule with what it saw, for the state the floor is in now."""
    side = _Taken(request, floor, rules, replenish) if request.purpose.takes else _Put(request, floor)
    looks: list[Look] = []
    stopped = False
    for rule in rules:
        if stopped or not side.rest:
            looks.append(Look(rule.id, None, "not asked"))
            continue
        if not rule.on:
            looks.append(Look(rule.id, Outcome.OFF, "switched off"))
            continue
        condition = unmet(rule, Facts(side.now, floor.ground))
        if condition:
            looks.append(Look(rule.id, Outcome.DOES_NOT_APPLY, f"does not apply: {condition}"))
            continue
        asked = side.rest
        for target in rule.targets:
            looks.append(side.look(rule, target, asked))
            if not side.rest:
                break
        if side.rest and rule.if_nothing is IfNothing.OVERFLOW and rule.overflow and not request.purpose.takes:
            looks.append(side.overflow(rule))
        if side.rest and rule.if_nothing is IfNothing.ASK:
            told = "nothing is found" if request.purpose.takes else "nothing fits"
            looks.append(Look(rule.id, Outcome.ASKS, f"{told}: the worker is asked"))
            stopped = True
    if side.rest and not stopped:
        looks += side.afterword(rules)
    first = side.allocations[0].bin if side.allocations else None
    return Explanation(tuple(looks), tuple(side.allocations), side.rest, _metres(request, first, floor))


class _Put:
    """Putting: every bin of every target is judged."""

    def __init__(self, request: BinRequest, floor: Floor) -> None:
        self.now = request
        self.floor = floor
        self.rest = sum(g.quantity for g in request.all_goods)
        self.allocations: list[Allocation] = []
        self.has_share = set(request.without)

    def look(self, rule: BinRule, target: Target, asked: int) -> Look:
        """One target, with all of its bins."""
        few = special_bins(target.look_in, self.now, self.floor)
        every = bins_in(self.floor.ground, self.now.site, target.look_in)
        bins = [b for b in every if few is None or b.code in few]
        order = Order(self.floor.ground, self.now, target.prefer)
        judge = Judge(self.now, self.floor)
        seen = [(each, self._judged(judge, rule, target, each, asked)[1]) for each in bins]
        fits = [b for b, down in seen if down is None]
        fits.sort(key=lambda b: self._key(order, b))
        before = self.rest
        for each in fits:
            count, _ = self._judged(Judge(self.now, self.floor), rule, target, each, asked)
            if count:
                self._allocate(rule, target, each, count)
            if not self.rest or not (rule.split and self.now.splits):
                break
        says = _told_bins(seen, COUNTED, [f"`{b.code}`{_far(self.now, b.code, self.floor)}" for b in fits[:NEXT_BEST]])
        outcome = Outcome.NO_BIN if self.rest == before else Outcome.PART if self.rest else Outcome.CHOSEN
        if outcome is Outcome.PART:
            says += f" {self.rest:,} are left."
        names = {down: down.value for down in TurnDown}
        candidates = tuple(Candidate(b.code, names[down] if down else None) for b, down in seen)
        return Look(rule.id, outcome, says, target.id, candidates)

    def _judged(
        self, judge: Judge, rule: BinRule, target: Target, each: Bin, asked: int
    ) -> tuple[int, TurnDown | None]:
        if each.code in self.has_share:
            return 0, TurnDown.SHARE_TOO_SMALL  # it has its share already
        fits, down = judge.most(each, target.wants)
        if not fits:
            return 0, down or TurnDown.SHARE_TOO_SMALL
        count, small = share(rule, self.now, asked, fits, cap(target, self.now, each, self.floor))
        return count, (down or small) if not count else None

    def _key(self, order: Order, each: Bin) -> Key:
        if self.now.task is None:
            volume, _, plates = self.floor.load(each.code)
            return order.key(each, volume, plates)
        held = self.floor.held(each.code, self.now.task)
        return order.key(each, held.volume_mm3, held.plates)

    def _allocate(self, rule: BinRule, target: Target | None, each: Bin, count: int) -> None:
        self.allocations.append(Allocation(each.code, count, rule.id, target.id if target else None))
        self.has_share.add(each.code)
        self.rest -= count
        if self.rest and self.now.splits:
            self.now = self.now.of(self.rest)

    def overflow(self, rule: BinRule) -> Look:
        """The rule's overflow bin."""
        over = overflow_bin(self.floor.ground, rule, self.now.site)
        free = over and over.code not in self.has_share
        if over and free and Judge(self.now, self.floor).turn_down(over) is None:
            self._allocate(rule, None, over, self.rest)
            return Look(rule.id, Outcome.OVERFLOW, f"`{over.code}` takes what is left")
        return Look(rule.id, Outcome.NO_BIN, f"`{rule.overflow}` may not hold these goods")

    def afterword(self, rules: tuple[BinRule, ...]) -> list[Look]:
        """Nothing more to say."""
        return []


class _Taken:
    """Taking: every line of stock of the item is judged."""

    def __init__(
        self, request: BinRequest, floor: Floor, rules: tuple[BinRule, ...], replenish: tuple[BinRule, ...]
    ) -> None:
        self.now = request
        self.floor = floor
        self.rest = request.goods[0].quantity
        self.taking = Taking(request, floor)  # keeps the books; the search below is its own
        self.taking.watch((rules, replenish))
        self.allocations = self.taking.allocations

    def look(self, rule: BinRule, target: Target, asked: int) -> Look:
        """One target, with every line of stock in its bins."""
        before = self.rest
        causes: dict[BinCode, str | None] = {}
        counts: Counter[TakeDown] = Counter()
        self._judge_lines(target, causes, counts)
        first = True
        taken: set[BinCode] = set()
        names: list[str] = []
        lines = 0
        while self.rest:
            good = []
            for source, down in self._judged_sources(rule, target, asked):
                if down is None and source.bin.code not in taken:
                    good.append(source)
                if first:
                    lines += down is None
                    causes[source.bin.code] = None if down is None else causes.get(source.bin.code, down.value)
                    if down:
                        counts[down] += 1
            order = SourceOrder(target, self.now, self.floor)
            good.sort(key=lambda s: order.key(s, self.rest))
            if first:
                names = [f"`{s.bin.code}`{_far(self.now, s.bin.code, self.floor)}" for s in good[:NEXT_BEST]]
            first = False
            if not good:
                break
            best = good[0]
            count, _ = take_share(rule, target, best.count, self.rest, asked)
            if target.most is not None:
                taken.add(best.bin.code)
            self.taking.give(rule, target, best.free, count, self.taking.inside(target))
            self.rest = self.taking.rest
        if self.rest and self.rest != before:
            self.now = self.now.of(self.rest)
        told = [f"{n} {TAKE_COUNTED[d]}" for d, n in sorted(counts.items(), key=lambda c: (-c[1], c[0]))]
        fit = "1 will do" if lines == 1 else f"{lines} will do"
        says = f"{', '.join([*told, fit])}." if told or lines else "There is none of it here."
        if names:
            says += " First " + ", then ".join(names) + "."
        outcome = Outcome.NO_BIN if self.rest == before else Outcome.PART if self.rest else Outcome.CHOSEN
        if outcome is Outcome.PART:
            says += f" {self.rest:,} are left."
        return Look(rule.id, outcome, says, target.id, tuple(Candidate(c, d) for c, d in sorted(causes.items())))

    def _judge_lines(self, target: Target, causes: dict[BinCode, str | None], counts: Counter[TakeDown]) -> None:
        few = special_bins(target.look_in, self.now, self.floor)
        ground = self.floor.ground
        until = keeps_until(self.now, self.floor)
        for line in self.floor.lines(ItemCode(self.taking.item.code)):
            if lies_in(ground, self.now.site, target.look_in, ground.bins[line.bin]) and (
                few is None or line.bin in few
            ):
                down = line_down(self.now, line, self.floor, until)
                if down:
                    counts[down] += 1
                    causes.setdefault(line.bin, down.value)

    def _judged_sources(self, rule: BinRule, target: Target, asked: int) -> Iterable[tuple[Source, TakeDown | None]]:
        """Every source of the target with the reason it is not taken."""
        plates = target.wants is Wants.WHOLE_PLATE
        inside = self.taking.inside(target)
        early = self.taking.too_early(rule, inside, plates)
        by_holder: dict[str, list[Free]] = {}
        for each in inside:
            by_holder.setdefault(self._holder(each, plates), []).append(each)
        for _, all_parts in sorted(by_holder.items()):
            parts = [f for f in all_parts if early is None or early(f) is None]
            plate = all_parts[0].line.plate if plates else None
            source = Source(all_parts[0].bin, parts or all_parts, plate)
            if plates and not self.taking.is_whole(plate, sum(f.count for f in all_parts)):
                yield source, TakeDown.NOT_WHOLE
            elif early is not None and (not parts or (plates and len(parts) < len(all_parts))):
                yield source, early(next(f for f in all_parts if early(f) is not None))
            else:
                yield source, take_share(rule, target, source.count, self.rest, asked)[1]

    @staticmethod
    def _holder(each: Free, plates: bool) -> str:
        return (each.line.plate or each.line.bin) if plates else each.line.bin

    def overflow(self, rule: BinRule) -> Look:
        """There is no overflow when goods are taken."""
        raise AssertionError("goods are taken, not put")

    def afterword(self, rules: tuple[BinRule, ...]) -> list[Look]:
        """That replenishment is needed, if it is."""
        told = elsewhere(self.taking, rules)
        return [Look(told.rule, told.outcome, told.says)] if told else []


def _told_bins(seen: list[tuple[Bin, TurnDown | None]], words: dict[TurnDown, str], first: list[str]) -> str:
    if not seen:
        return "There is no such bin here."
    counts = Counter([down for _, down in seen])
    fits = counts.pop(None, 0)
    told = [f"{n} {words[down]}" for down, n in sorted(counts.items(), key=lambda c: (-c[1], c[0])) if down]
    told.append(f"{fits} fit" if fits != 1 else "1 fits")
    looked = "1 bin" if len(seen) == 1 else f"{len(seen)} bins"
    says = f"{looked} looked at: {', '.join(told)}."
    return says + (" First " + ", then ".join(first) + "." if first else "")


def _metres(request: BinRequest, code: BinCode | None, floor: Floor) -> int | None:
    ground = floor.ground
    if code is None or request.from_bin is None or request.from_bin not in ground.bins:
        return None
    return network_of(ground, request.site).metres(request.from_bin, code)


def _far(request: BinRequest, code: BinCode, floor: Floor) -> str:
    far = _metres(request, code, floor)
    if far is None:
        return " (no way on foot)" if request.from_bin in floor.ground.bins else ""
    return f" {far} m"
