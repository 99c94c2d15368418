"""The page of release gates: ladders, and whom they are for."""

from __future__ import annotations

from mindful_crate.core.rulebook.chapter import (
    Act,
    Add,
    Chapter,
    Draw,
    Fact,
    Option,
    Row,
    Section,
    copy_act,
    layer_acts,
    remove_act,
    run_row,
    switch_act,
)
from mindful_crate.core.rulebook.edits import Edit
from mindful_crate.core.rulebook.gates import Gate, GateKind, GateVerdict
from mindful_crate.core.rulebook.settings import Level
from mindful_crate.core.rulebook.words.gates import (
    ASKED_OF_ORDERS,
    MEASURES,
    VERDICTS,
    gate_sentence,
    run_sentence,
    rung_sentence,
)
from mindful_crate.core.rulebook.words.parts import Names


def draw(what: Draw, tab: str) -> Chapter:
    """All gates."""
    measures = tuple(Option(m.value, says) for m, says in MEASURES.items())
    others = tuple(Option(k.value, says) for k, says in ASKED_OF_ORDERS.items())
    gates = Section(
        "gates", "cards", empty="There is no gate: every order may go, however little of it is there.", called="Gate",
        add=(
            Add("Add a gate that measures", "gates", "A gate was added.", measures),
            Add("Add a gate that", "gates", "A gate was added.", others),
        ),
        rows=tuple(_gate(what, g) for g in what.book.gates if g.site in (None, what.site)),
    )  # fmt: skip
    lead = (
        "What an order passes before it may go, one after another from the top: the host's word first, which is its confirmation. Of the gates "
        "that measure what is on hand it has one: the gate its partner names, else that of its group, else the one for whatever no other is for. "
        "All others that are for it stand in its row besides."
    )
    return Chapter("gates", "Release gates", lead, sections=(gates, _runs(what), *_whose(what)), bench="gates")


def _runs(what: Draw) -> Section:
    """What releases by the clock."""
    runs = [r for r in what.book.release_runs if r.site in (None, what.site)]
    return Section(
        "runs", "sentences", "Released by the clock", "The same gates answer as when somebody releases by hand, and the log keeps what they say.",
        empty="Nothing is released by itself.", called="Run", add=(Add("Add a time", "release_runs", "A time was added."),),
        rows=tuple(
            run_row(what, path := f"release_runs/{r.id}", r, n, run_sentence(r, path, Names(what.ground, what.book.order_classes)))
            for n, r in enumerate(runs, start=1)
        ),
    )  # fmt: skip


def _whose(what: Draw) -> tuple[Section, ...]:
    """Which gate each partner's orders get, at which level it holds, and what would hold otherwise; none where there is no gate."""
    mine = [g for g in what.book.gates_at(what.site) if g.kind is GateKind.COVER]
    if not mine:
        return ()
    named = {g.name: g for g in reversed(mine)}
    of_group = {group: g for g in reversed(mine) for group in g.groups}
    rest = next((g for g in mine if g.others), None)
    ordering = {o.partner for o in what.ground.orders.values() if not o.inbound}
    facts = []
    for partner in (p for p in what.ground.partners.values() if p.code in ordering):
        levels = [
            (Level.OWN, named.get(partner.gate) if partner.gate else None, "the partner names it"),
            (Level.SITE, of_group.get(partner.group), f"it is for {partner.group}"),
            (Level.GENERAL, rest, "it is for whatever no other is for"),
        ]
        holds = [(level, g, says) for level, g, says in levels if g is not None]
        level, gate, whence = holds[0] if holds else (Level.BUILT_IN, None, "no gate is for it")
        then = holds[1][1].name if len(holds) > 1 else "none" if holds else ""
        link = f"gates/{gate.id}" if gate else "gates"
        value = gate.name if gate else "none: it passes"
        facts.append(Fact(partner.name, "Gate", value, level, whence, then, "Gates", link))
    lead = "As an order reaches the floor it gets the gate that holds then, and keeps it. Another is given by hand, on Release."
    return (Section("whose", "facts", "Which of the gates that measure it is", lead, facts=tuple(facts)),)


def _gate(what: Draw, gate: Gate) -> Row:
    path = f"gates/{gate.id}"
    named = Names(what.ground, what.book.order_classes)
    at = [g.id for g in what.book.gates].index(gate.id)
    mine = [n for n, g in enumerate(what.book.gates) if g.site in (None, what.site)]
    before, after = [n for n in mine if n < at], [n for n in mine if n > at]
    moves = (
        *(
            (Act("up", "Earlier", (Edit("move", path, at=before[-1]),), f"{gate.name} comes earlier."),)
            if before
            else ()
        ),
        *((Act("down", "Later", (Edit("move", path, at=after[0]),), f"{gate.name} comes later."),) if after else ()),
    )
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
        gate.id, path, what.parts(gate_sentence(gate, path, named)), what.word(gate.name, f"{path}/name", "name"), off=not gate.on,
        lists=(rungs,) if gate.kind is GateKind.COVER else (),
        notes=within, for_all=gate.site is None,
        acts=(
            *moves, switch_act(f"{path}/on", gate.on, gate.name), copy_act(path, f"{gate.name} was copied."),
            *layer_acts(path, gate.name, gate, what.site), remove_act(path, f"{gate.name} was removed."),
        ),
    )  # fmt: skip
