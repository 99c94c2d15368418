"""The page of the scanner: flows prompt by prompt, and the menus that show them."""

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
from mindful_crate.core.rulebook.flows import Asks, Flow, FlowPurpose, Menu
from mindful_crate.core.rulebook.starter import FIRST_PROMPTS
from mindful_crate.core.rulebook.words.parts import Part, just
from mindful_crate.core.rulebook.words.scanner import ASKS_NOTES, PURPOSE_NOTES, flow_sentence, prompt_sentence


def draw(what: Draw, tab: str) -> Chapter:
    """All flows, then the menus."""
    purposes = tuple(Option(p.value, p.says[0].upper() + p.says[1:], PURPOSE_NOTES[p]) for p in FlowPurpose)
    flows = Section(
        "flows", "cards", empty="There is no flow yet: the handset can do nothing. Add the first one.", ordered=False,
        called="Flow", add=(Add("Add a flow", "flows", "A flow was added.", purposes),),
        rows=tuple(_flow(what, f) for f in what.book.flows if f.site in (None, what.site)),
    )  # fmt: skip
    having = [m.crew for m in what.book.menus if m.site in (None, what.site)]
    crews = tuple(
        Option(c.id, c.name, "a further group, under a heading of its own" if c.id in having else "has none yet")
        for c in sorted(what.book.crews, key=lambda c: c.id in having)
        if c.site in (None, what.site)
    )
    menus = Section(
        "menus", "sentences", "Menus", "What each crew sees on the handset, in this order; several menus of a crew are groups.",
        called="Menu", ordered=True, empty="No crew has a menu yet: nobody sees a flow. Make a crew on Crews, then give it one.",
        add=(Add("Give a menu to", "menus", "A menu was given.", crews),) if crews else (),
        rows=tuple(_menu(what, m) for m in what.book.menus if m.site in (None, what.site)),
    )  # fmt: skip
    lead = (
        "What the handset asks, in this order, and what must be scanned rather than believed. The handset on the right "
        "runs the draft."
    )
    seeing = dict.fromkeys(m.crew for m in what.book.menus if m.flows and m.site in (None, what.site))
    return Chapter("scanner", "Scanner flows", lead, sections=(flows, menus), bench="handset", asks=" ".join(seeing))


def _flow(what: Draw, flow: Flow) -> Row:
    path = f"flows/{flow.id}"
    crews = {c.id: c.name for c in what.book.crews}
    seen = [crews.get(m.crew, m.crew) for m in what.book.menus if flow.id in m.flows]
    menu = Note("fact", "information", f"On the menu of {' and '.join(seen)}" if seen else "On no menu")
    prompts = Section(
        "prompts", "sentences", "What it asks", ordered=True, called="Prompt", empty="It asks nothing yet.",
        add=(Add("+ prompt", f"{path}/prompts", "A prompt was added.", tuple(Option(a.value, a.says, ASKS_NOTES[a]) for a in _of_use_first(flow))),),
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


def _of_use_first(flow: Flow) -> list[Asks]:
    """What may be asked: first what a flow of this purpose usually asks and this one does not yet."""
    usual = [asks for asks, _ in FIRST_PROMPTS[flow.purpose]]
    asked = {p.asks for p in flow.prompts}
    return sorted(Asks, key=lambda a: (a in asked, a not in usual))


def _menu(what: Draw, menu: Menu) -> Row:
    path = f"menus/{menu.id}"
    names = {f.id: f.name for f in what.book.flows}
    crew = next((c for c in what.book.crews if c.id == menu.crew), None)
    called = crew.name if crew else f"{menu.crew} (missing)"
    seen = ", ".join(names.get(f, f"{f} (missing)") for f in menu.flows) or "nothing yet"
    acts: list[Act] = []
    shared = {f.id for f in what.book.flows if f.site is None}
    if menu.site is not None and crew and crew.site is None and menu.flows and shared.issuperset(menu.flows):
        told = f"The menu of {called}{menu.under} was given to all sites."  # flows of one site alone would be missing at the others
        acts.append(Act("share", "Give to all sites", (Edit("share", path),), told, look=True))
    acts.append(remove_act(path, f"The menu of {called}{menu.under} was removed.", look=True))
    return Row(
        menu.id, path, (
            just(f"People of {called} see"),
            *((just(" under "), what.word(menu.name, f"{path}/name", "menu_name")) if menu.name else ()),
            just(": " if menu.name else " "), what.word(seen, f"{path}/flows", "menu_flows"), just("."),
            *(() if menu.name else (Part("add", "under a heading", f"{path}/name", "menu_name"),)),
        ),
        for_all=menu.site is None, notes=what.notes(path), acts=tuple(acts),
    )  # fmt: skip
