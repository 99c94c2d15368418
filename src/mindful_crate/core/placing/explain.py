"""Explain which bin: every bin of every target asked, counted and judged.

Written apart from ``choose`` on purpose: it looks at everything, in no clever order, and so checks it.
"""

from __future__ import annotations

from collections import Counter

from mindful_crate.core.catalog.ids import BinCode, RuleId, TargetId
from mindful_crate.core.placing.fit import COUNTED, Floor, Judge
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.placing.rules import Order, bins_in, unmet
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import BinRule, IfNothing, Target
from mindful_crate.core.trail import Outcome
from mindful_crate.core.walking.distance import metres

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
    bin: BinCode | None = None
    rule: RuleId | None = None
    metres: int | None = None
    """On foot from where the goods are."""


def explain(request: BinRequest, rules: tuple[BinRule, ...], floor: Floor) -> Explanation:
    """Every rule with what it saw, for the state the floor is in now."""
    looks: list[Look] = []
    chosen: BinCode | None = None
    by: RuleId | None = None
    stopped = False
    for rule in rules:
        if chosen or stopped:
            looks.append(Look(rule.id, None, "not asked"))
            continue
        if not rule.on:
            looks.append(Look(rule.id, Outcome.OFF, "switched off"))
            continue
        condition = unmet(rule, request, floor.ground)
        if condition:
            looks.append(Look(rule.id, Outcome.DOES_NOT_APPLY, f"does not apply: {condition}"))
            continue
        for target in rule.targets:
            look, best = _look(rule, target, request, floor)
            looks.append(look)
            if best:
                chosen, by = best, rule.id
                break
        if not chosen and rule.if_nothing is IfNothing.ASK:
            looks.append(Look(rule.id, Outcome.ASKS, "nothing fits: the worker is asked"))
            stopped = True
    return Explanation(tuple(looks), chosen, by, _metres(request, chosen, floor))


def _look(rule: BinRule, target: Target, request: BinRequest, floor: Floor) -> tuple[Look, BinCode | None]:
    judge = Judge(request, floor)
    order = Order(floor.ground, request, target.prefer)
    seen = [(b, judge.turn_down(b, target.wants)) for b in bins_in(floor.ground, request.site, target.look_in)]
    fits = sorted(
        (b for b, down in seen if down is None),
        key=lambda b: order.key(b, floor.held(b.code, request.task)),
    )
    counts = Counter(down for _, down in seen if down)
    told = [f"{n} {COUNTED[down]}" for down, n in sorted(counts.items(), key=lambda c: (-c[1], c[0]))]
    told.append(f"{len(fits)} fit" if len(fits) != 1 else "1 fits")
    looked = "1 bin" if len(seen) == 1 else f"{len(seen)} bins"
    says = f"{looked} looked at: {', '.join(told)}." if seen else "There is no such bin here."
    if fits:
        names = [f"`{b.code}`{_far(request, b.code, floor)}" for b in fits[:NEXT_BEST]]
        says += " First " + ", then ".join(names) + "."
    bins = tuple(Candidate(b.code, down.value if down else None) for b, down in seen)
    outcome = Outcome.CHOSEN if fits else Outcome.NO_BIN
    return Look(rule.id, outcome, says, target.id, bins), fits[0].code if fits else None


def _metres(request: BinRequest, code: BinCode | None, floor: Floor) -> int | None:
    ground = floor.ground
    if code is None or request.from_bin is None or request.from_bin not in ground.bins:
        return None
    return metres(ground.bins[request.from_bin], ground.bins[code], ground.sites[request.site])


def _far(request: BinRequest, code: BinCode, floor: Floor) -> str:
    far = _metres(request, code, floor)
    return "" if far is None else f" {far} m"
