"""Rules of cross-docking in sentences."""

from __future__ import annotations

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.rulebook.docks import DockRule
from mindful_crate.core.rulebook.words.bin_rules import conditions_words
from mindful_crate.core.rulebook.words.parts import Names, Part, Sentence, all_of, counted, just
from mindful_crate.core.rulebook.words.shipping import OUTBOUND
from mindful_crate.core.rulebook.words.steps import place_told

THROUGH = {
    False: "to a lane, and is picked from there",
    True: "straight to the first station after picking, and counts as picked",
}


def dock_sentence(rule: DockRule, path: str, ground: Ground) -> Sentence:
    """One rule in words."""
    names = Names(ground)
    parts = conditions_words(rule.applies, names, f"{path}/applies", ("that comes goes ", "that come go "))
    parts.append(Part("word", THROUGH[rule.through], f"{path}/through", "dock_through"))
    if not rule.through:
        lane = place_told(rule.to, names, "a lane that is still to be named").strip("`")
        parts += [just(": "), Part("word", lane, f"{path}/to", "dock_at")]
    goes = all_of(OUTBOUND[k] for k in rule.goes) if rule.goes else "any order"
    parts += [just(", when a released order wants it, of "), Part("word", goes, f"{path}/goes", "dock_goes")]
    parts.append(
        just(
            ", of which nothing of that line is kept yet and all of it is covered. It leaves before goods elsewhere that expire "
        )
    )
    jumps = f"up to {counted(rule.jumps, 'day')} earlier" if rule.jumps else "on the same day, not earlier"
    parts += [Part("word", jumps, f"{path}/jumps", "dock_jumps"), just(".")]
    if not rule.on:
        parts.append(just(" Switched off."))
    return tuple(parts)
