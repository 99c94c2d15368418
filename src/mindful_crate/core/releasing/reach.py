"""What a list of wave plans reaches: orders no plan takes, orders two plans take, plans that never get one. Proved over all orders
that can be, not over a sample.

Each fact an order has is cut into classes that no plan tells apart, each with the set of plans that accept it, as the bits of a whole
number. Two plans overlap when they have a class of every fact in common. A gap is a choice of one class of each fact so that no plan
accepts all of them: sought depth first, left as soon as a plan accepts whatever is still to be chosen. Facts that hang together are one: a
partner with its carriers and the classes of their orders; when an order is released with when it is due. Item groups are a set an order has, decided last, with the
weight they must have at least. Everything is whole numbers, and a witness is an order that can be, tried on the plans themselves.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Iterator, Sequence
from itertools import pairwise

from mindful_crate.core.record import record
from mindful_crate.core.releasing.plans import GroupWish, Known, Of, Span, Waiting, WavePlan, takes

MOST_NODES = 200_000
"""A search that has looked at so many choices says that it has not decided."""
Mask = int
"""A bit for each plan."""
Interval = tuple[int, int]
Trio = tuple[str, str, str]
"""A partner, a carrier, a class of orders; empty: none."""
PAIR, TIMES, PRIORITY, WEIGHT, LINES = range(5)
"""The facts of an order, item groups aside, in the order in which they are chosen."""


@record
class Overlap:
    """Two plans that both take an order, by their places in the list; the first gets it."""

    first: int
    second: int
    witness: Waiting


@record
class Box:
    """Orders of one kind, for a sentence: all partners with carriers and classes, intervals and times for which the same holds."""

    pairs: tuple[Trio, ...]
    priorities: tuple[Interval, ...]
    weights_mg: tuple[Interval, ...]
    lines: tuple[Interval, ...]
    groups: frozenset[str]
    """Of the witness."""
    any_time: bool


@record
class Gap:
    """Orders no plan takes: one of them, and what else is like it."""

    witness: Waiting
    like_it: Box


@record
class Unreached:
    """A plan that never gets an order. ``takes_nothing``: no order that can be fits it; else earlier plans take all that do."""

    plan: int
    takes_nothing: bool


@record
class Reached:
    """Everything about a list of plans. ``only_by_all``: what only a plan that asks for nothing takes. ``undecided``: plans, or -1
    for the gaps, for which the search ended before its answer."""

    overlaps: tuple[Overlap, ...]
    gaps: tuple[Gap, ...]
    only_by_all: tuple[Gap, ...]
    never: tuple[Unreached, ...]
    undecided: tuple[int, ...] = ()


class Undecided(Exception):
    """The search looked at as many choices as it may."""


def reached(plans: Sequence[WavePlan], known: Known, waiting: Sequence[Waiting] = ()) -> Reached:
    """Everything about a list of plans, shown by orders that are waiting where there are such."""
    reach = Reach(plans, known)
    masks = [(reach.mask(order), order) for order in waiting if known.is_possible(order)]
    undecided = []
    gaps: list[Gap] = []
    only: list[Gap] = []
    greedy = sum(1 << n for n, plan in enumerate(plans) if plan.takes_everything)
    for found, care in ((gaps, reach.all), *(((only, reach.all & ~greedy),) if greedy else ())):
        real = next((order for mask, order in masks if not mask & care), None)
        try:
            gap = reach.like(real, care) if real else reach.gap(care)
        except Undecided:
            undecided.append(-1)
            continue
        found += [gap] if gap else []
    never = []
    for n in range(len(plans)):
        earlier = (1 << n) - 1
        if any(mask >> n & 1 and not mask & earlier for mask, _ in masks):
            continue
        try:
            if reach.overlap(n, n) is None:
                never.append(Unreached(n, True))
            elif reach.gap(earlier, n) is None:
                never.append(Unreached(n, False))
        except Undecided:
            undecided.append(n)
    return Reached(tuple(reach.overlaps(masks)), tuple(gaps), tuple(only), tuple(never), tuple(undecided))


class Reach:
    """A list of plans with the classes of every fact."""

    def __init__(self, plans: Sequence[WavePlan], known: Known) -> None:
        self.plans, self.known = plans, known
        self.all: Mask = (1 << len(plans)) - 1
        self.by_class = any(p.classes for p in plans)
        """Does any of them ask for a class? Else classes make no difference."""
        self.pairs = self._pairs()
        self.times = _of_times(plans, known)
        priority, most = known.priority, known.most_lines
        self.intervals: dict[int, dict[Mask, list[Interval]]] = {
            PRIORITY: _of_spans([p.priority for p in plans], priority.least or 0, priority.most or 0),
            WEIGHT: _of_spans([p.weight_mg for p in plans], 0, known.most_weight_mg),
            LINES: _of_spans([p.lines for p in plans], 1, most),
        }
        self.classes: list[list[Mask]] = [
            list(self.pairs), list(self.times), *(list(self.intervals[fact]) for fact in (PRIORITY, WEIGHT, LINES)),
        ]  # fmt: skip
        self._widest = [sorted(classes, key=int.bit_count, reverse=True) for classes in self.classes]
        """Classes that most plans accept first: those in which two plans meet are found soon."""
        self._spans = {
            fact: sorted((s, m) for m, spans in self.intervals[fact].items() for s in spans) for fact in (WEIGHT, LINES)
        }
        self._wishing: Mask = sum(1 << n for n, p in enumerate(plans) if p.groups)
        self._groups = frozenset(known.lightest_mg)
        by_weight = sorted(known.lightest_mg, key=lambda g: (known.lightest_mg[g], g))
        self._rank = {group: n for n, group in enumerate(by_weight)}

    def _pairs(self) -> dict[Mask, list[Trio]]:
        plans, known = self.plans, self.known
        everybody = [0] * len(known.goes_with)
        partners = sorted(known.goes_with)
        for n, plan in enumerate(plans):
            for m, partner in enumerate(partners):
                if (not plan.partners or partner in plan.partners) and (
                    not plan.partner_groups or known.partner_group.get(partner, "") in plan.partner_groups
                ):
                    everybody[m] |= 1 << n
        carriers = sorted({c for some in known.goes_with.values() for c in some})
        by_carrier = {
            c: sum(1 << n for n, p in enumerate(plans) if not p.carriers or c in p.carriers) for c in carriers
        }
        of_class = {
            sort: sum(1 << n for n, p in enumerate(plans) if not p.classes or sort in p.classes)
            for sort in ("", *(known.classes if self.by_class else ()))
        }
        found: dict[Mask, list[Trio]] = {}
        for mask, partner in zip(everybody, partners, strict=True):
            for carrier in known.goes_with[partner]:
                for sort in known.sorts(partner, carrier) if self.by_class else ("",):
                    found.setdefault(mask & by_carrier[carrier] & of_class[sort], []).append((partner, carrier, sort))
        return found

    def mask(self, order: Waiting) -> Mask:
        """The plans that take an order."""
        return sum(1 << n for n, plan in enumerate(self.plans) if takes(plan, order, self.known))

    # Overlaps

    def overlaps(self, masks: Iterable[tuple[Mask, Waiting]] = ()) -> Iterator[Overlap]:
        """All pairs of plans that an order can fit both of, each with one: a waiting one where there is one."""
        seen: dict[tuple[int, int], Waiting] = {}
        for mask, order in masks:
            bits = [n for n in range(len(self.plans)) if mask >> n & 1]
            for at, i in enumerate(bits):
                for j in bits[at + 1 :]:
                    seen.setdefault((i, j), order)
        meets = self._meeting()
        for i in range(len(self.plans)):
            for j in range(i + 1, len(self.plans)):
                real = seen.get((i, j))
                if real:
                    yield Overlap(i, j, real)
                elif meets[i] >> j & 1:
                    made = self.overlap(i, j)
                    if made:
                        yield Overlap(i, j, made)

    def _meeting(self) -> list[Mask]:
        """For each plan those with which it has a class of every fact in common, item groups aside."""
        found = [self.all] * len(self.plans)
        for classes in self.classes:
            for n in range(len(found)):
                bit, together = 1 << n, 0
                for mask in classes:
                    if mask & bit:
                        together |= mask
                found[n] &= together
        return found

    def overlap(self, i: int, j: int) -> Waiting | None:
        """An order that fits both plans; None when there can be none."""
        both = 1 << i | 1 << j
        chosen = []
        for fact in (PAIR, TIMES, PRIORITY):
            mask = next((m for m in self._widest[fact] if m & both == both), None)
            if mask is None:
                return None
            chosen.append(mask)
        weights = [span for span, m in self._spans[WEIGHT] if m & both == both]
        lines = [span for span, m in self._spans[LINES] if m & both == both]
        wishes = [w for n in (i, j) if (w := self.plans[n].groups)]
        may = self._may(wishes)
        any_of = [w.groups & may for w in wishes if w.of is Of.ANY]
        for groups in self._choices(may, any_of):
            found = self._fitting(groups, may, lines, weights)
            if found:
                return self._order(chosen, *found)
        return None

    def _may(self, wishes: Iterable[GroupWish]) -> frozenset[str]:
        """The groups that all wishes allow."""
        may = self._groups
        for wish in wishes:
            if wish.of is Of.ALL:
                may &= wish.groups
            elif wish.of is Of.NONE:
                may -= wish.groups
        return may

    def _choices(self, may: frozenset[str], any_of: Sequence[frozenset[str]]) -> Iterator[frozenset[str]]:
        """Sets of groups, the lightest there are, that have one of each that is asked for."""
        if not may or not all(any_of):
            return
        if len(any_of) < 2 or any_of[0] & any_of[1]:
            yield frozenset([self._light(frozenset.intersection(*any_of) if any_of else may)])
        if len(any_of) == 2:
            yield frozenset(self._light(some) for some in any_of)

    def _light(self, groups: frozenset[str]) -> str:
        return min(groups, key=self._rank.__getitem__)

    def _fitting(
        self, groups: frozenset[str], may: frozenset[str], lines: Sequence[Interval], weights: Sequence[Interval]
    ) -> tuple[frozenset[str], int, int] | None:
        """Groups with a number of lines and a weight, so that there can be such an order; None when there cannot. What lines are
        left over are of the lightest group there may be."""
        filler = self._light(may)
        lightest = self.known.lightest_mg
        heaviest = weights[-1][1] if weights else -1
        for low, high in lines:
            count = max(low, len(groups))
            if count > high:
                continue
            for some in (groups, groups | {filler}) if count > len(groups) else (groups,):
                least = sum(lightest[g] for g in some) + (count - len(some)) * min(lightest[g] for g in some)
                if least <= heaviest:
                    weight = next(max(a, least) for a, b in weights if b >= least)
                    return some, count, weight
        return None

    def _order(self, chosen: Sequence[Mask], groups: frozenset[str], lines: int, weight: int) -> Waiting:
        partner, carrier, sort = self.pairs[chosen[PAIR]][0]
        released, due = self.times[chosen[TIMES]][0]
        priority = self.intervals[PRIORITY][chosen[PRIORITY]][0][0]
        return Waiting("", partner, carrier, priority, weight, lines, groups, released, due, sort)

    # Gaps

    def gap(self, care: Mask, by: int | None = None) -> Gap | None:
        """Orders that none of the plans ``care`` takes, and plan ``by`` does, if one is named; None when that is proved of none.
        :class:`Undecided` when it is not."""
        found = _Gaps(self, care, by).find()
        if found is None:
            return None
        chosen, groups, lines, weight = found
        return Gap(self._order(chosen, groups, lines, weight), self._box(chosen, groups, care))

    def like(self, order: Waiting, care: Mask) -> Gap:
        """An order that none of some plans takes, with what else is like it."""
        chosen = []
        for fact in (PAIR, TIMES, PRIORITY, WEIGHT, LINES):
            chosen.append(next(m for m in self.classes[fact] if self._is_of(fact, m, order)))
        return Gap(order, self._box(chosen, order.groups, care))

    def _is_of(self, fact: int, mask: Mask, order: Waiting) -> bool:
        if fact == PAIR:
            return (order.partner, order.carrier, order.order_class if self.by_class else "") in self.pairs[mask]
        if fact == TIMES:
            accepts = [p.runs is None or p.runs.holds(order.released, order.due) for p in self.plans]
            return mask == sum(1 << n for n, yes in enumerate(accepts) if yes)
        value = {PRIORITY: order.priority, WEIGHT: order.weight_mg, LINES: order.lines}[fact]
        return any(a <= value <= b for a, b in self.intervals[fact][mask])

    def _box(self, chosen: Sequence[Mask], groups: frozenset[str], care: Mask) -> Box:
        """Every class of each fact, one after the other, with which it stays so that none of the plans takes them."""
        ok = sum(1 << n for n, p in enumerate(self.plans) if p.groups is None or p.groups.holds(groups))
        kept: list[list[Mask]] = [[mask] for mask in chosen]
        for fact in range(len(kept)):
            others = care & ok
            for other, masks in enumerate(kept):
                if other != fact:
                    union = 0
                    for mask in masks:
                        union |= mask
                    others &= union
            kept[fact] = [mask for mask in self.classes[fact] if not mask & others]
        least = sum(self.known.lightest_mg[g] for g in groups)
        return Box(
            tuple(sorted(pair for mask in kept[PAIR] for pair in self.pairs[mask])),
            _joined(s for mask in kept[PRIORITY] for s in self.intervals[PRIORITY][mask]),
            _joined((max(a, least), b) for m in kept[WEIGHT] for a, b in self.intervals[WEIGHT][m] if b >= least),
            _joined((max(a, len(groups)), b) for m in kept[LINES] for a, b in self.intervals[LINES][m] if b >= len(groups)),
            groups,
            len(kept[TIMES]) == len(self.times),
        )  # fmt: skip

    def refused(
        self, plans: Mask, lines: Mask, weights: Mask, by: int | None
    ) -> tuple[frozenset[str], int, int] | None:
        """Groups, lines and a weight of some classes that all these plans refuse by their groups, and plan ``by`` does not."""
        if plans & ~self._wishing:
            return None
        own = self.plans[by].groups if by is not None else None
        may = set(self._may([own] if own else []))
        hit: list[frozenset[str]] = [own.groups] if own and own.of is Of.ANY else []
        for n, plan in enumerate(self.plans):
            wish = plan.groups
            if wish is None or not plans >> n & 1:
                continue
            if wish.of is Of.ANY:
                may -= wish.groups
            else:
                hit.append(self._groups - wish.groups if wish.of is Of.ALL else wish.groups)
        allowed = frozenset(may)
        asked: set[frozenset[str]] = {h & allowed for h in hit}
        if not allowed or not all(asked):
            return None
        needed = [h for h in asked if not any(o < h for o in asked)]
        spans = sorted(self.intervals[LINES][lines])
        return self._hitting(needed, allowed, spans, sorted(self.intervals[WEIGHT][weights]))

    def _hitting(
        self,
        needed: Sequence[frozenset[str]],
        may: frozenset[str],
        lines: Sequence[Interval],
        weights: Sequence[Interval],
    ) -> tuple[frozenset[str], int, int] | None:
        """A set of groups with one of each set that is needed, few and light enough."""
        most = lines[-1][1]
        lightest = self.known.lightest_mg
        heaviest = weights[-1][1]

        def go(left: list[frozenset[str]], some: frozenset[str]) -> tuple[frozenset[str], int, int] | None:
            left = [h for h in left if not h & some]
            if len(some) > most or sum(lightest[g] for g in some) > heaviest:
                return None
            if not left:
                return self._fitting(some or frozenset([self._light(may)]), may, lines, weights)
            if len(some) == most:
                return None
            narrowest: frozenset[str] = min(left, key=lambda h: (len(h), sorted(h)))
            for group in sorted(narrowest, key=lambda g: (lightest[g], g)):
                found = go(left, some | {group})
                if found:
                    return found
            return None

        return go(sorted(needed, key=lambda h: (len(h), sorted(h))), frozenset())


class _Gaps:
    """One search for a gap."""

    def __init__(self, reach: Reach, care: Mask, by: int | None) -> None:
        self.reach, self.care, self.by, self.nodes = reach, care, by, 0
        self.rows: list[list[Mask]] = []
        for fact, classes in enumerate(reach.classes):
            mine = classes if by is None else [m for m in classes if m & 1 << by]
            self.rows.append(self._fewest(fact, mine))
        self.always = [care & ~reach._wishing]
        """From each fact on: the plans that accept whatever is still to be chosen."""
        for row in reversed(self.rows):
            every = care
            for mask in row:
                every &= mask
            self.always.append(self.always[-1] & every)
        self.always.reverse()
        self.dead: set[tuple[int, Mask, Mask, Mask]] = set()

    def _fewest(self, fact: int, classes: list[Mask]) -> list[Mask]:
        """Classes, fewest accepting first; those left out that only more plans accept. Of weights and lines it matters how far they
        go as well."""
        care = self.care
        if fact == LINES:
            return classes
        if fact == WEIGHT:
            far = {m: self._farthest(m) for m in classes}
            kept: list[Mask] = []
            for mask in sorted(classes, key=lambda m: ((m & care).bit_count(), -far[m])):
                if not any(k & care & mask == k & care and far[k] >= far[mask] for k in kept):
                    kept.append(mask)
            return kept
        alike = {mask & care: mask for mask in reversed(classes)}
        least: list[Mask] = []
        for mask in sorted(alike, key=int.bit_count):
            for k in least:
                if k & mask == k:
                    break
            else:
                least.append(mask)
        return [alike[mask] for mask in least]

    def _farthest(self, mask: Mask) -> int:
        return max(b for _, b in self.reach.intervals[WEIGHT][mask])

    def find(self) -> tuple[list[Mask], frozenset[str], int, int] | None:
        if not all(self.rows):
            return None
        return self._go(0, self.care, [])

    def _go(self, fact: int, now: Mask, chosen: list[Mask]) -> tuple[list[Mask], frozenset[str], int, int] | None:
        self.nodes += 1
        if self.nodes > MOST_NODES:
            raise Undecided
        if now & self.always[fact]:
            return None
        lines = chosen[LINES] if fact > LINES else 0
        weights = chosen[WEIGHT] if fact > WEIGHT else 0
        key = fact, now, weights, lines
        if key in self.dead:
            return None
        if fact == len(self.rows):
            found = self.reach.refused(now, lines, weights, self.by)
            if found:
                return chosen, *found
        else:
            for mask in sorted(self.rows[fact], key=lambda m: ((m & now).bit_count(), m)):
                result = self._go(fact + 1, now & mask, [*chosen, mask])
                if result is not None:
                    return result
        self.dead.add(key)
        return None


def _of_spans(spans: Sequence[Span], low: int, high: int) -> dict[Mask, list[Interval]]:
    """Classes of the whole numbers from low to high."""
    change: dict[int, Mask] = {low: 0, high + 1: 0}
    for n, span in enumerate(spans):
        a = low if span.least is None else max(low, span.least)
        b = high if span.most is None else min(high, span.most)
        if a <= b:
            change[a] = change.get(a, 0) ^ 1 << n
            change[b + 1] = change.get(b + 1, 0) ^ 1 << n
    found: dict[Mask, list[Interval]] = {}
    now = 0
    for a, b in pairwise(sorted(change)):
        now ^= change[a]
        found.setdefault(now, []).append((a, b - 1))
    return found


def _of_times(plans: Sequence[WavePlan], known: Known) -> dict[Mask, list[Interval]]:
    """Classes of (released, due). Between two runs it does not matter when an order is released, so its release is put at the
    earliest; then each plan opens and shuts as the due time goes on."""
    first, last = known.released.least or 0, known.released.most or 0
    always = sum(1 << n for n, plan in enumerate(plans) if plan.runs is None)
    runs = [(n, plan.runs, sorted(plan.runs.times)) for n, plan in enumerate(plans) if plan.runs]
    after = {t + 1 for _, _, times in runs for t in times if first <= t < last}
    moments = sorted({first, *after})
    found: dict[Mask, list[Interval]] = {}
    for released in moments:
        change: dict[int, Mask] = {}
        for n, run, times in runs:
            end = None
            for time in times[bisect_left(times, released) :]:
                a = released if run.due_after.least is None else max(released, time + run.due_after.least)
                b = known.due_by if run.due_after.most is None else min(known.due_by, time + run.due_after.most)
                if a > b:
                    continue
                if end is None or a > end + 1:
                    if end is not None:
                        change[end + 1] = change.get(end + 1, 0) ^ 1 << n
                    change[a] = change.get(a, 0) ^ 1 << n
                    end = b
                else:
                    end = max(end, b)
            if end is not None:
                change[end + 1] = change.get(end + 1, 0) ^ 1 << n
        now, at = always, released
        for due in [*sorted(change), known.due_by + 1]:
            if due > at:
                found.setdefault(now, [(released, at)])
                at = due
            now ^= change.get(due, 0)
    return found


def _joined(spans: Iterable[Interval]) -> tuple[Interval, ...]:
    """Intervals with those that touch put together."""
    found: list[Interval] = []
    for a, b in sorted(spans):
        if found and a <= found[-1][1] + 1:
            found[-1] = found[-1][0], max(found[-1][1], b)
        else:
            found.append((a, b))
    return tuple(found)
