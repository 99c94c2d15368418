"""What is accepted back, and how it is marked, in sentences."""

from __future__ import annotations

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.rulebook.returns import Accepts, Otherwise, ReturnMark, ReturnRule
from mindful_crate.core.rulebook.words.bin_rules import DISPOSITIONS
from mindful_crate.core.rulebook.words.parts import STATUSES, Names, Part, Sentence, any_of, just

ACCEPTS = {
    Accepts.WITHIN: "accepted within some days after it was shipped",
    Accepts.ALWAYS: "accepted however long ago it was shipped",
    Accepts.NEVER: "never accepted",
}
OTHERWISE = {
    Otherwise.REFUSE: "is refused",
    Otherwise.HOLD: "is taken in and held for a supervisor",
    Otherwise.ACCEPT: "is accepted",
}
CREDITS = {True: "the host may credit it", False: "the host does not credit it"}
RETURN_ONLY = {
    "items": "of an item",
    "groups": "of an item group",
    "partners": "from some customer",
    "partner_groups": "from a group of customers",
    "stranger": "from whoever is no customer here",
}


def return_sentence(rule: ReturnRule, ground: Ground, path: str = "") -> Sentence:
    """One rule in words: of what, from whom, how long, and what becomes of the rest."""
    names, parts = Names(ground), list[Part]()

    def word(text: str, at: str, field: str = "") -> Part:
        return Part("word", text, f"{path}/{at}", field or at)

    goods = [x for x in (any_of(map(names.item, rule.items)), any_of(rule.groups)) if x]
    parts.append(just("What comes back"))
    for name, lead, told in (
        ("items", " of ", any_of(map(names.item, rule.items))),
        ("groups", " of ", any_of(rule.groups)),
        ("partners", " from ", any_of(map(names.partner, rule.partners))),
        ("partner_groups", " from ", any_of(rule.partner_groups)),
    ):
        if getattr(rule, name):
            parts += [just(lead), word(told, name)]
    if rule.stranger is not None:
        parts += [
            just(" from whoever is no customer here, taken for "),
            word(names.partner(rule.stranger), "stranger"),
            just(","),
        ]
    if not goods and not rule.partners and not rule.partner_groups and rule.stranger is None:
        parts.append(just(", whatever and from whom,"))
    if not all(getattr(rule, name) for name in RETURN_ONLY):
        parts.append(Part("add", "only what is", path, "return_only"))
    parts.append(just(" is "))
    parts.append(word(ACCEPTS[rule.accepts], "accepts"))
    if rule.accepts is Accepts.WITHIN:
        parts += [just(", "), word(f"{rule.days} days", "days", "return_days"), just(" at most, the last day counts")]
    if rule.accepts is not Accepts.ALWAYS:
        parts += [just("; what is not "), word(OTHERWISE[rule.outside], "outside")]
    parts += [
        just("; what was never shipped to whoever sends it, or not so much, "),
        word(OTHERWISE[rule.never_shipped], "never_shipped"),
    ]
    parts.append(just("." if rule.on else ". Switched off: it is for nothing."))
    return tuple(parts)


def mark_sentence(mark: ReturnMark, path: str = "") -> Sentence:
    """One mark in words: what goods become by it, which bin rules find their place, and whether they are credited."""
    return (
        just("Goods are "), Part("word", STATUSES[mark.status], f"{path}/status", "return_status"),
        just(" then; where they go is said by the bin rules for what is "), Part("word", DISPOSITIONS[mark.goes], f"{path}/goes", "return_goes"),
        just("; "), Part("word", CREDITS[mark.credits], f"{path}/credits", "return_credits"),
        just("." if mark.on else ". Switched off: nobody can choose it."),
    )  # fmt: skip
