"""Decide which bin: the first rule and target that has one, by the quickest way that is sure."""

from __future__ import annotations

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import Bin
from mindful_crate.core.placing.fit import Floor, Judge
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.placing.rules import Order, bins_in, unmet
from mindful_crate.core.rulebook.bin_rules import BinRule, IfNothing, Target
from mindful_crate.core.rulebook.sentences import WANTS, prefer_words
from mindful_crate.core.trail import Outcome, Trail, TrailLine


def choose(request: BinRequest, rules: tuple[BinRule, ...], floor: Floor) -> Trail:
    """The bin for a request by an ordered list of rules, with a line for each rule and target asked."""
    judge = Judge(request, floor)
    lines: list[TrailLine] = []
    for rule in rules:
        if not rule.on:
            lines.append(TrailLine(rule.id, Outcome.OFF, "switched off"))
            continue
        condition = unmet(rule, request, floor.ground)
        if condition:
            lines.append(TrailLine(rule.id, Outcome.DOES_NOT_APPLY, condition))
            continue
        for target in rule.targets:
            found = _first(target, request, floor, judge)
            if found:
                says = f"`{found.code}`: {WANTS[target.wants]}, {prefer_words(target)}"
                lines.append(TrailLine(rule.id, Outcome.CHOSEN, says, target.id))
                return Trail(request, tuple(lines), found.code, rule.id)
            lines.append(TrailLine(rule.id, Outcome.NO_BIN, f"no bin: {WANTS[target.wants]}", target.id))
        if rule.if_nothing is IfNothing.ASK:
            lines.append(TrailLine(rule.id, Outcome.ASKS, "nothing fits: the worker is asked"))
            break
    return Trail(request, tuple(lines))


def _first(target: Target, request: BinRequest, floor: Floor, judge: Judge) -> Bin | None:
    """The best bin of a target: the first that fits when the order is fixed, else the least of all that fit."""
    ground = floor.ground
    order = Order(ground, request, target.prefer)
    bins = _ordered(ground, request, target, order)
    if order.static:
        return next((b for b in bins if judge.turn_down(b, target.wants) is None), None)
    fitting = (b for b in bins if judge.turn_down(b, target.wants) is None)
    return min(fitting, key=lambda b: order.key(b, floor.held(b.code, request.task)), default=None)


def _ordered(ground: Ground, request: BinRequest, target: Target, order: Order) -> tuple[Bin, ...]:
    """Bins of a target by its static preferences; the ground, which never changes, remembers each answer."""
    key = (request.site, target.look_in, target.prefer, request.from_bin)
    known = ground.remembered.get(key)
    if known is None:
        known = tuple(sorted(bins_in(ground, request.site, target.look_in), key=order.static_key))
        if len(ground.remembered) > 2000:
            ground.remembered.clear()
        ground.remembered[key] = known
    return known
