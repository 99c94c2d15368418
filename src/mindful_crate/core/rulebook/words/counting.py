"""Count plans, and the reasons for which stock is corrected, in sentences."""

from __future__ import annotations

from collections.abc import Mapping

from mindful_crate.core.catalog.ids import CrewId
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.rulebook.counting import CountPlan, PhotoAsked, ReasonFor, SplitBy, StockReason
from mindful_crate.core.rulebook.times import said_times
from mindful_crate.core.rulebook.words.parts import Names, Part, Sentence, all_of, any_of, just

SPLITS = {
    SplitBy.NOTHING: "whatever lies where",
    SplitBy.ZONE: "of one zone",
    SplitBy.AISLE: "of one aisle",
    SplitBy.GROUP: "of one item group",
}
AFTER_SHORT = {
    True: "also where somebody did not find what should be there",
    False: "not because somebody did not find something",
}
AT_ZERO = {True: "also where a bin becomes empty", False: "not because a bin becomes empty"}
BOOK = {True: "sees what the book says", False: "does not see what the book says"}
CLOSES = {
    True: "are blocked until they are counted",
    False: "stay open; what moves after it was counted is counted again",
}
AGAIN = {True: "is counted again, by somebody else", False: "is left as it was counted"}
OWN = {True: "whoever may post, also who counted", False: "somebody else than who counted"}
REASON_FOR = {
    ReasonFor.NUMBER: "when there are more or fewer than the books say",
    ReasonFor.STATUS: "when goods get another status",
    ReasonFor.PLACE: "when goods lie elsewhere than the books say",
    ReasonFor.MOVED: "when goods are moved by hand",
    ReasonFor.BOTH: "for any of these",
}
PHOTO_ASKED = {
    PhotoAsked.NO: "no photo is asked",
    PhotoAsked.MAY: "a photo may be taken",
    PhotoAsked.MUST: "a photo must be taken",
}
COUNT_ONLY = {"groups": "with goods of an item group", "velocity_classes": "with goods of a velocity class"}


def count_sentence(plan: CountPlan, ground: Ground, path: str = "") -> Sentence:
    """One plan in words: which bins and how often, when and on which sheets, what the counter sees, and what becomes of differences."""
    names, parts = Names(ground), list[Part]()

    def word(text: str, at: str, field: str = "") -> Part:
        return Part("word", text, f"{path}/{at}", field or f"count_{at}")

    def line(text: str = "") -> None:
        parts.append(Part("text", text, line="in"))

    zones = any_of(map(names.zone, plan.zones)) if plan.zones else "all zones in which goods are stored"
    parts += [just("Bins of "), word(zones, "zones", "zones")]
    for name, told in (("groups", any_of(plan.groups)), ("velocity_classes", any_of(plan.velocity_classes))):
        if getattr(plan, name):
            parts += [just(" that hold goods of "), word(told, name, name)]
    if not (plan.groups and plan.velocity_classes):
        parts.append(Part("add", "only those", path, "count_only"))
    days = "are not due by days" if plan.every_days is None else f"are due every {plan.every_days} days"
    parts += [just(" "), word(days, "every_days"), just(", "), word(AFTER_SHORT[plan.after_short], "after_short")]
    parts += [just(", "), word(AT_ZERO[plan.at_zero], "at_zero"), just(". ")]
    line("Sheets are made ")
    parts.append(
        word(
            f"at {all_of(said_times(plan.times))}" if plan.times else "when the office makes them",
            "times",
            "wave_times",
        )
    )
    parts += [
        just(", with at most "),
        word(f"{plan.most_bins} bins", "most_bins"),
        just(" at a time, never counted ones first; each with "),
    ]
    parts += [
        word(f"{plan.most_lines} lines", "most_lines"),
        just(" at most, "),
        word(SPLITS[plan.split], "split"),
        just(". "),
    ]
    line("Who counts ")
    parts += [
        word(BOOK[plan.book_shown], "book_shown"),
        just("; the bins "),
        word(CLOSES[plan.closes], "closes"),
        just(". "),
    ]
    line("A difference ")
    if plan.again:
        parts += [
            just("of more than "), word(f"{plan.percent} %", "percent"), just(" and more than "), word(f"{plan.units} base units", "units"), just(" "),
        ]  # fmt: skip
    parts += [
        word(AGAIN[plan.again], "again"),
        just("; it is taken into the books by "),
        word(OWN[plan.own_posts], "own_posts"),
        just("."),
    ]
    if not plan.on:
        parts.append(just(" Switched off: it counts nothing."))
    return tuple(parts)


def reason_sentence(reason: StockReason, crews: Mapping[CrewId, str], path: str = "") -> Sentence:
    """One reason in words: for what it is given, by whom on handsets, and whether with a photo. ``crews``: their names."""
    who = all_of(crews.get(c, f"{c} (missing)") for c in reason.crews)
    return (
        just("Given "), Part("word", REASON_FOR[reason.used], f"{path}/used", "reason_used"),
        just(". On handsets "), Part("word", f"only {who} may give it" if who else "every crew with such a flow may give it", f"{path}/crews", "reason_crews"),
        just("; "), Part("word", PHOTO_ASKED[reason.photo], f"{path}/photo", "reason_photo"),
        just("." if reason.on else ". Switched off: nobody can choose it."),
    )  # fmt: skip
