"""Rules of packing in sentences."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.rulebook.orders import OrderClass
from mindful_crate.core.rulebook.packing import CONDITIONS, PackRule, Proof, Short, Weigh
from mindful_crate.core.rulebook.words.parts import Names, Part, Sentence, any_of, just
from mindful_crate.core.rulebook.words.shipping import OUTBOUND

PACKED = {True: "They are packed", False: "They are not packed: they go on as they were picked"}
PROOF = {
    Proof.EACH: "every piece is scanned",
    Proof.COUNT: "the item is scanned and how many is said",
    Proof.REST: "the item is scanned and how many is said, or all the rest goes in after a look",
    Proof.TOTE: "the item is scanned, all the rest goes in after a look, or a tote with one order's goods leaves as it is",
}
SUGGESTS = {True: "is proposed by what is to go in", False: "is chosen by who packs"}
WEIGH = {
    Weigh.SCALE: "is read from the scale of the bench, or said by hand where that does not answer",
    Weigh.HAND: "is said by hand",
    Weigh.NO: "is what the catalogue says: nobody weighs",
}
SHORT = {
    Short.BACK: "is put back where it came from, and stays open on the order",
    Short.STAY: "stays at the station, kept for the order",
}
ONLY = {
    "order_kinds": "of a kind",
    "order_classes": "of a class",
    "partners": "of some partner",
    "partner_groups": "of a group of partners",
    "carriers": "by a carrier",
    "groups": "with goods of an item group",
}
"""What a rule may be for alone, where it is not yet."""


def pack_sentence(rule: PackRule, ground: Ground, path: str = "", classes: Iterable[OrderClass] = ()) -> Sentence:
    """One rule in words: for which orders, how it is proved, which cartons, how they are weighed, what is left."""
    names, parts = Names(ground, classes), list[Part]()

    def word(text: str, at: str, field: str = "") -> Part:
        return Part("word", text, f"{path}/{at}", field or at)

    def line() -> None:
        parts.append(Part("text", "", line="in"))

    carriers = {c.code: c.name for c in ground.opening.carriers}
    told = {
        "order_kinds": any_of(OUTBOUND.get(k, str(k)) for k in rule.order_kinds),
        "order_classes": any_of(map(names.order_class, rule.order_classes)),
        "partners": any_of(map(names.partner, rule.partners)),
        "partner_groups": any_of(rule.partner_groups),
        "carriers": any_of(carriers.get(c, f"{c} (missing)") for c in rule.carriers),
        "groups": any_of(rule.groups),
    }
    lead = {"order_classes": "of class ", "carriers": "by ", "groups": "with goods of "}
    fields = {"order_kinds": "pack_kinds"}
    asked = [name for name in CONDITIONS if told[name]]
    parts.append(just("Orders "))
    for n, name in enumerate(asked):
        parts += [
            just((" and " if n else "") + lead.get(name, "of ")),
            word(told[name], name, fields.get(name, "")),
        ]
    if not asked:
        parts.append(just("of any kind"))
    if len(asked) < len(CONDITIONS):
        parts.append(Part("add", "and only" if asked else "only those", path, "pack_only"))
    parts.append(just(". "))
    parts += [word(PACKED[rule.packs], "packs"), just(". " if rule.packs else ".")]
    if rule.packs:
        line()
        parts += [just("Of what goes in, "), word(PROOF[rule.proof], "proof"), just(". ")]
        line()
        kinds = any_of(names.carton_kind(k) for k in rule.kinds) if rule.kinds else "any carton"
        parts += [just("They go into "), word(kinds, "kinds", "carton_kinds"), just(", which ")]
        parts += [word(SUGGESTS[rule.suggests], "suggests"), just(". ")]
        line()
        parts += [just("Its weight "), word(WEIGH[rule.weigh], "weigh")]
        if rule.weigh is not Weigh.NO:
            parts += [
                just("; it may differ from what is in it by "),
                word(f"{rule.percent} %", "percent", "pack_percent"),
            ]
            parts += [just(", or "), word(f"{rule.grams} g", "grams", "pack_grams"), just(" if that is more")]
        parts.append(just(". "))
        line()
        parts += [
            just("When it is closed short, what is left "),
            word(SHORT[rule.short], "short", "pack_short"),
            just("."),
        ]
    if not rule.on:
        parts.append(just(" Switched off: it is for nothing."))
    return tuple(parts)
