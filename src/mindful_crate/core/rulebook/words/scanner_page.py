"""The page of the scanner: flows prompt by prompt, crews and what they see."""

from __future__ import annotations

from mindful_crate.core.rulebook.chapter import (
    Act,
    Add,
    Chapter,
    Draw,
    Note,
    Option,
    Row,
    Section,
    copy_act,
    layer_acts,
    remove_act,
)
from mindful_crate.core.rulebook.edits import Edit
from mindful_crate.core.rulebook.flows import Asks, Crew, Flow, FlowPurpose
from mindful_crate.core.rulebook.words.parts import Part, just
from mindful_crate.core.rulebook.words.scanner import flow_sentence, prompt_sentence


def draw(what: Draw, tab: str) -> Chapter:
    """All flows, then crews with their menus."""
    purposes = tuple(Option(p.value, p.says[0].upper() + p.says[1:]) for p in FlowPurpose)
    flows = Section(
        "flows", "cards", empty="There is no flow yet: the handset can do nothing. Add the first one.", ordered=False,
        called="Flow", add=(Add("Add a flow", "flows", "A flow was added.", purposes),),
        rows=tuple(_flow(what, f) for f in what.book.flows if f.site in (None, what.site)),
    )  # fmt: skip
    crews = Section(
        "crews", "cards", "Crews and what they see", "Who belongs to a crew is said on People.", called="Crew",
        empty="There is no crew yet: nobody sees a flow. Add the first one.",
        add=(Add("Add a crew", "crews", "A crew was added."),), rows=tuple(_crew(what, c) for c in what.book.crews),
    )  # fmt: skip
    lead = (
        "What the handset asks, in this order, and what must be scanned rather than believed. The handset on the right "
        "runs the draft."
    )
    return Chapter("scanner", "Scanner flows", lead, sections=(flows, crews), bench="handset")


def _flow(what: Draw, flow: Flow) -> Row:
    path = f"flows/{flow.id}"
    crews = {c.id: c.name for c in what.book.crews}
    seen = [crews.get(m.crew, m.crew) for m in what.book.menus if flow.id in m.flows]
    menu = Note("fact", "information", f"On the menu of {' and '.join(seen)}" if seen else "On no menu")
    prompts = Section(
        "prompts", "sentences", "What it asks", ordered=True, called="Prompt", empty="It asks nothing yet.",
        add=(Add("+ prompt", f"{path}/prompts", "A prompt was added.", tuple(Option(a.value, a.says) for a in Asks)),),
        rows=tuple(
            Row(
                p.id, place := f"{path}/prompts/{p.id}", what.parts(prompt_sentence(p, place)), notes=what.notes(place),
                acts=(copy_act(place, f"Prompt {n} was copied."), remove_act(place, f"Prompt {n} was removed.")),
            )
            for n, p in enumerate(flow.prompts, start=1)
        ),
    )  # fmt: skip
    off = tuple(
        Edit("set", f"menus/{m.id}/flows", [f for f in m.flows if f != flow.id])
        for m in what.book.menus
        if flow.id in m.flows
    )
    gone = Act("remove", "Remove", (*off, Edit("remove", path)), f"Flow {flow.name} was removed.", look=True)
    notes = (menu, *what.notes(path, within=False), *what.notes(f"{path}/prompts", within=False))
    return Row(
        flow.id, path, what.parts(flow_sentence(flow, path, what.layers, what.ground)),
        what.word(flow.name, f"{path}/name", "name"), lists=(prompts,), notes=notes,
        for_all=flow.site is None,
        acts=(copy_act(path, f"Flow {flow.name} was copied."), *layer_acts(path, f"Flow {flow.name}", flow, what.site), gone),
    )  # fmt: skip


def _crew(what: Draw, crew: Crew) -> Row:
    path = f"crews/{crew.id}"
    names = {f.id: f.name for f in what.book.flows}
    menus = [m for m in what.book.menus if m.crew == crew.id]
    here = [m for m in menus if m.site in (None, what.site)]
    parts: list[Part] = [] if here else [just("People of this crew see nothing: it has no menu.")]
    for n, menu in enumerate(here):
        at = f"menus/{menu.id}"
        seen = ", ".join(names.get(f, f"{f} (missing)") for f in menu.flows) or "nothing yet"
        lead = "On the handset people of this crew see " if not n else " And they see "
        parts += [just(lead), what.word(seen, f"{at}/flows", "menu_flows"), just(".")]
    give = Add("Give it a menu", "menus", f"{crew.name} got a menu.", value=crew.id)
    gone = tuple(Edit("remove", f"menus/{m.id}") for m in menus)
    acts = (
        [Act("remove menu", "Remove its menu", gone, f"The menu of {crew.name} was removed.", look=True)]
        if menus
        else []
    )
    if crew.site is not None:
        acts += layer_acts(path, crew.name, crew, what.site)
    shared = {f.id for f in what.book.flows if f.site is None}
    for menu in here:  # flows of one site alone would be missing at the others
        if menu.site is not None and crew.site is None and menu.flows and shared.issuperset(menu.flows):
            edits = (Edit("share", f"menus/{menu.id}"),)
            told = f"The menu of {crew.name} was given to all sites."
            acts.append(Act("share menu", "Give its menu to all sites", edits, told, look=True))
    acts.append(Act("remove", "Remove", (*gone, Edit("remove", path)), f"{crew.name} was removed.", look=True))
    return Row(
        crew.id, path, tuple(parts), what.word(crew.name, f"{path}/name", "name"),
        for_all=crew.site is None, lists=() if here else (Section("menu", "sentences", add=(give,)),),
        notes=(*what.notes(path), *(note for m in here for note in what.notes(f"menus/{m.id}"))), acts=tuple(acts),
    )  # fmt: skip
