"""Release gates in sentences."""

from __future__ import annotations

from mindful_crate.core.rulebook.gates import QUANTITIES, Gate, GateKind, GateVerdict, Measure, ReleaseRun, Rung
from mindful_crate.core.rulebook.times import said_times
from mindful_crate.core.rulebook.words.parts import Names, Part, Sentence, all_of, any_of, just, within

MEASURES = {
    Measure.MEAN: "the mean over its lines of how much is on hand",
    Measure.LOWEST: "the line of which least is on hand",
    Measure.SUM: "all base units on hand together",
    Measure.VALUE: "the value of what is on hand",
}
BY_QUANTITY = {m: MEASURES[m] for m in QUANTITIES}
VERDICTS = {
    GateVerdict.STOP: "it is stopped",
    GateVerdict.WARN: "it goes with a warning",
    GateVerdict.PASS: "it passes",
}
ASKED_OF_ORDERS = {
    GateKind.WORD: "asks for somebody's word",
    GateKind.UNTIL: "closes at a time",
}
"""What gates ask besides how much is on hand."""
LATE = {v: VERDICTS[v] for v in (GateVerdict.STOP, GateVerdict.WARN)}
OTHERS = {True: "whatever no other gate is for", False: "nothing else"}


def before_leaving(days: int) -> str:
    """On which day, from the one on which an order leaves."""
    return (
        "on the day it leaves"
        if days == 0
        else "on the day before it leaves"
        if days == 1
        else f"{days:,} days before it leaves"
    )


def _in_row(gate: Gate, path: str, names: Names | None) -> Sentence:
    """A gate that asks something else than the cover."""
    if gate.kind is GateKind.WORD:
        parts = [
            just("It asks for the word of "),
            Part("word", gate.whose or "nobody yet", f"{path}/whose", "gate_whose"),
        ]
    else:
        parts = [
            just("It is open until "), Part("word", gate.until.strip() or "no time yet", f"{path}/until", "gate_until"), just(", "),
            Part("word", before_leaving(gate.days), f"{path}/days", "gate_days"), just("; whoever comes later: "),
            Part("word", LATE[gate.late], f"{path}/late", "gate_late"),
        ]  # fmt: skip
    parts.append(just(". It is for every order"))
    if gate.groups:
        parts += [just(" of "), Part("word", any_of(gate.groups), f"{path}/groups", "partner_groups")]
    if gate.order_classes:
        told = any_of(names.order_class(c) if names else c for c in gate.order_classes)
        parts += [just(" of class "), Part("word", told, f"{path}/order_classes", "order_classes")]
    parts.append(just("." if gate.on else ". Switched off: it stops nobody."))
    if not gate.groups or not gate.order_classes:
        parts.append(Part("add", "but only", path, "gate_only"))
    return tuple(parts)


def gate_sentence(gate: Gate, path: str = "", names: Names | None = None) -> Sentence:
    """A gate in words; its rungs have sentences of their own."""
    if gate.kind is not GateKind.COVER:
        return _in_row(gate, path, names)
    parts = [just("Measured is "), Part("word", MEASURES[gate.measure], f"{path}/measure", "measure")]
    if gate.measure is Measure.VALUE:
        parts += [
            just(", and of transfers and orders without a value "),
            Part("word", BY_QUANTITY[gate.quantity], f"{path}/quantity", "by_quantity"),
        ]
    parts.append(just(". It is for "))
    if gate.groups:
        parts += [
            Part("word", any_of(gate.groups), f"{path}/groups", "gate_groups"),
            just(", for partners that name it, and for "),
        ]
    else:
        parts.append(just("partners that name it, and for "))
    parts.append(Part("word", OTHERS[gate.others], f"{path}/others", "gate_others"))
    parts.append(just("." if gate.on else ". Switched off: it judges nothing."))
    if not gate.groups:
        parts.append(Part("add", "for a group of partners", f"{path}/groups", "gate_groups"))
    return tuple(parts)


def rung_sentence(rung: Rung, path: str = "") -> Sentence:
    """One threshold in words."""
    return (
        just("Below "), Part("word", str(rung.below), f"{path}/below", "below"), just(" % "),
        Part("word", VERDICTS[rung.verdict], f"{path}/verdict", "verdict"), just("."),
    )  # fmt: skip


ALSO_WARNED = {False: "only those that pass", True: "also those that go with a warning"}
ONLY_WHOLE = {False: "whatever of them is on hand", True: "whole ones alone"}


def run_sentence(run: ReleaseRun, path: str = "", names: Names | None = None) -> Sentence:
    """What releases by the clock, in words."""
    times = said_times(run.times)
    parts = [just("At "), Part("word", all_of(times) if times else "no time yet", f"{path}/times", "wave_times")]
    parts.append(just(" by the site's clock all orders "))
    if run.partner_groups:
        told = any_of(run.partner_groups)
        parts += [just("of "), Part("word", told, f"{path}/partner_groups", "partner_groups"), just(" ")]
    if run.order_classes:
        told = any_of(names.order_class(c) if names else c for c in run.order_classes)
        parts += [just("of class "), Part("word", told, f"{path}/order_classes", "order_classes"), just(" ")]
    if run.within_days is not None:
        told = within(run.within_days)
        parts += [just("that leave "), Part("word", told, f"{path}/within_days", "within_days"), just(" ")]
    parts += [just("are released that may go: "), Part("word", ALSO_WARNED[run.warned], f"{path}/warned", "run_warned")]
    parts += [just(", "), Part("word", ONLY_WHOLE[run.whole], f"{path}/whole", "run_whole")]
    parts.append(just("." if run.on else ". Switched off: it releases nothing."))
    if not run.partner_groups or not run.order_classes or run.within_days is None:
        parts.append(Part("add", "but only", path, "run_only"))
    return tuple(parts)
