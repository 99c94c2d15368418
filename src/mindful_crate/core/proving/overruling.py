"""What a floor says of the rules: how often another bin was taken than the one a rule had chosen, and why."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable

from mindful_crate.core.catalog.ids import RuleId
from mindful_crate.core.floor.state import State

NAMED = 3
"""So many reasons are named."""


def overruled_told(state: State, rules: Iterable[RuleId]) -> dict[RuleId, str]:
    """For each rule that was overruled: how often, the reasons most often given lately, and the last time."""
    found = {}
    for rule in rules:
        known = state.overruled.get(rule)
        if known is None:
            continue
        times = "once" if known.count == 1 else f"{known.count} times"
        reasons = Counter(x.reason or "no reason asked" for x in known.latest)
        why = ", ".join(f"{reason}" + (f" ({n})" if n > 1 else "") for reason, n in reasons.most_common(NAMED))
        last = known.latest[-1]
        found[rule] = (
            f"Overruled {times} on the floor: {why}. Last `{last.taken}` instead of `{last.shown}`, by @{last.by}."
        )
    return found
