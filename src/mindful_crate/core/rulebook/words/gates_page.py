"""The page of release gates: ladders, and whom they are for."""

from __future__ import annotations

from mindful_crate.core.rulebook.chapter import (
    Add,
    Chapter,
    Draw,
    Option,
    Row,
    Section,
    copy_act,
    layer_acts,
    remove_act,
    switch_act,
)
from mindful_crate.core.rulebook.gates import Gate, GateVerdict
from mindful_crate.core.rulebook.words.gates import MEASURES, VERDICTS, gate_sentence, rung_sentence


def draw(what: Draw, tab: str) -> Chapter:
    """All gates."""
    measures = tuple(Option(m.value, says) for m, says in MEASURES.items())
    gates = Section(
        "gates", "cards", empty="There is no gate: every order may go, however little of it is there.", called="Gate",
        add=(Add("Add a gate that measures", "gates", "A gate was added.", measures),),
        rows=tuple(_gate(what, g) for g in what.book.gates if g.site in (None, what.site)),
    )  # fmt: skip
    lead = (
        "Whether an order may go with what is on hand of it; what is on its way does not count. The gate a partner names holds first, then that of "
        "its group, then the one for whatever no other is for. What is on none of its rungs passes."
    )
    return Chapter("gates", "Release gates", lead, sections=(gates,), bench="gates")


def _gate(what: Draw, gate: Gate) -> Row:
    path = f"gates/{gate.id}"
    verdicts = tuple(Option(v.value, VERDICTS[v]) for v in (GateVerdict.STOP, GateVerdict.WARN))
    rungs = Section(
        "rungs", "sentences", "From the lowest on", called="Rung",
        add=(Add("+ rung below which", f"{path}/rungs", "A rung was added.", verdicts),),
        rows=tuple(
            Row(
                rung.id, place := f"{path}/rungs/{rung.id}", what.parts(rung_sentence(rung, place)), notes=what.notes(place),
                acts=(remove_act(place, f"A rung of {gate.name} was removed."),),
            )
            for rung in gate.ladder
        ),
    )  # fmt: skip
    within = tuple(note for note in what.notes(path) if not note.path.startswith(f"{path}/rungs/"))
    return Row(
        gate.id, path, what.parts(gate_sentence(gate, path)), what.word(gate.name, f"{path}/name", "name"), off=not gate.on, lists=(rungs,),
        notes=within, for_all=gate.site is None,
        acts=(
            switch_act(f"{path}/on", gate.on, gate.name), copy_act(path, f"{gate.name} was copied."),
            *layer_acts(path, gate.name, gate, what.site), remove_act(path, f"{gate.name} was removed."),
        ),
    )  # fmt: skip
