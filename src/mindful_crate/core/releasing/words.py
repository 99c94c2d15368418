"""What wave plans reach, in sentences."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from mindful_crate.core.releasing.plans import Known, Waiting, WavePlan
from mindful_crate.core.releasing.reach import Gap, Overlap, Unreached

KILOGRAM = 1_000_000
"""Milligrams."""
FIRST = 4
"""So many names are listed; of the rest there is a count."""


def gap_words(gap: Gap, known: Known) -> str:
    """Orders that no plan takes: whatever is the same for all of them, and one of them."""
    box, told = gap.like_it, []
    every = {(p, c) for p, carriers in known.goes_with.items() for c in carriers}
    pairs, sorts = {(p, c) for p, c, _ in box.pairs}, sorted({s for _, _, s in box.pairs})
    if pairs != every:
        told.append(_pairs_words(pairs, known))
    if sorts != [""] and set(sorts) != {"", *known.classes}:
        told.append("of " + _or("no class" if not s else f"class {known.called.get(s, s)}" for s in sorts))
    if box.priorities != ((known.priority.least or 0, known.priority.most or 0),):
        told.append("priority " + _or(f"{a} to {b}" if a < b else str(a) for a, b in box.priorities))
    if not (
        len(box.weights_mg) == 1
        and box.weights_mg[0][1] == known.most_weight_mg
        and _from_least(box.weights_mg[0][0], gap, known)
    ):
        told.append("weighing " + _or(_between(a, b, known.most_weight_mg) for a, b in box.weights_mg))
    if box.lines != ((len(box.groups), known.most_lines),):
        told.append("of " + _or(f"{a} to {b}" if a < b else str(a) for a, b in box.lines) + " lines")
    told.append("with item groups " + _and(sorted(box.groups)))
    if not box.any_time:
        told.append(f"released at {_minute(gap.witness.released)} and due at {_minute(gap.witness.due)}")
    return f"No plan takes orders {', '.join(told)}. {_such(gap.witness)}"


def _from_least(weight: int, gap: Gap, known: Known) -> bool:
    """Is a weight the least that orders of these groups have anyway?"""
    return weight <= sum(known.lightest_mg[g] for g in gap.like_it.groups)


def _pairs_words(pairs: set[tuple[str, str]], known: Known) -> str:
    """Partners and carriers, told apart where every one of the one goes with every one of the other."""
    partners, carriers = sorted({p for p, _ in pairs}), sorted({c for _, c in pairs})
    possible = {(p, c) for p in partners for c in known.goes_with[p] if c in carriers}
    if possible == pairs:
        told = []
        if set(partners) != set(known.goes_with):
            told.append("of " + _or(partners))
        if set(carriers) != {c for some in known.goes_with.values() for c in some}:
            told.append("by " + _or(carriers))
        return " ".join(told) or "of all partners"
    return _or(f"of {p} by {c}" for p, c in sorted(pairs))


def overlap_words(overlap: Overlap, plans: Sequence[WavePlan]) -> str:
    """Two plans that take the same order."""
    first, second = plans[overlap.first].id, plans[overlap.second].id
    return f"`{first}` and `{second}` take the same orders; `{first}` gets them, since it stands first. {_such(overlap.witness)}"


def unreached_words(unreached: Unreached, plans: Sequence[WavePlan]) -> str:
    """A plan that never gets an order."""
    plan = plans[unreached.plan].id
    if unreached.takes_nothing:
        return f"`{plan}` fits no order that there can be."
    return f"`{plan}` never gets an order: the plans before it take all that fit it."


def _such(order: Waiting) -> str:
    if order.number:
        return f"`{order.number}` is one."
    lines = "1 line" if order.lines == 1 else f"{order.lines} lines"
    return f"One would be: {order.partner} by {order.carrier}, {lines}, {_weight(order.weight_mg)}, {_and(sorted(order.groups))}."


def _between(a: int, b: int, most: int) -> str:
    if b >= most:
        return f"{_weight(a)} and more"
    return f"{_weight(a)} to {_weight(b)}"


def _weight(mg: int) -> str:
    kilos, grams = divmod(mg // 1000, 1000)
    return f"{kilos:,}" + f".{grams:03}".rstrip("0").rstrip(".") + " kg"


def _minute(minute: int) -> str:
    days, rest = divmod(minute, 24 * 60)
    clock = f"{rest // 60:02}:{rest % 60:02}"
    return f"{clock} of day {days + 1}" if days else clock


def _listed(names: Sequence[str], word: str) -> str:
    if len(names) > FIRST:
        return ", ".join(names[:FIRST]) + f" {word} {len(names) - FIRST:,} more"
    return f" {word} ".join([", ".join(names[:-1]), names[-1]]) if len(names) > 1 else "".join(names)


def _or(names: Iterable[str]) -> str:
    return _listed(list(names), "or")


def _and(names: Sequence[str]) -> str:
    return _listed(names, "and")
