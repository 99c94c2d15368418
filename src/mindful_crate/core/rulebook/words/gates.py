"""Release gates in sentences."""

from __future__ import annotations

from mindful_crate.core.rulebook.gates import QUANTITIES, Gate, GateVerdict, Measure, Rung
from mindful_crate.core.rulebook.words.parts import Part, Sentence, any_of, just

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
OTHERS = {True: "whatever no other gate is for", False: "nothing else"}


def gate_sentence(gate: Gate, path: str = "") -> Sentence:
    """A gate in words; its rungs have sentences of their own."""
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
