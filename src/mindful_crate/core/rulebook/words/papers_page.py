"""The page of papers: which labels are printed, when, and where."""

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
    options,
    remove_act,
    switch_act,
)
from mindful_crate.core.rulebook.papers import LabelRule, PaperForm
from mindful_crate.core.rulebook.words.papers import TITLES, WHEN, form_sentence, label_sentence


def draw(what: Draw, tab: str) -> Chapter:
    """All label rules, and the printers there are."""
    mine = [r for r in what.book.label_rules if r.site in (None, what.site)]
    times = tuple(Option(when.value, says) for when, says in WHEN.items())
    rules = Section(
        "labels", "sentences", empty="No label is printed by itself. Plates are known by labels that were printed before, or written by hand.",
        called="Label rule", add=(Add("Print labels when", "label_rules", "A label rule was added.", times),),
        rows=tuple(_rule(what, r, n) for n, r in enumerate(mine, start=1)),
    )  # fmt: skip
    forms = Section(
        "forms", "sentences", "What stands on the papers of a shipment", called="Form", ordered=True,
        lead="The first form that is for a partner is taken; where none is, the paper has its usual columns. Saved for everybody.",
        empty="Every paper has its usual columns.",
        add=(Add("Say what stands on", "paper_forms", "A form of a paper was added.", options(TITLES)),),
        rows=tuple(_form(what, f) for f in what.book.paper_forms if f.site in (None, what.site)),
    )  # fmt: skip
    lead = "Every rule that holds prints. What cannot be printed waits in the tray and holds nobody up. "
    here = what.ground.printers_of(what.site)
    count = "one printer" if len(here) == 1 else f"{len(here)} printers"
    lead += f"This site has {count}: they are in the catalogue, each with the zones whose work prints there." if here else (
        "This site has no printer, so whatever is printed waits. Printers are made in the catalogue."
    )  # fmt: skip
    return Chapter("papers", "Papers", lead, sections=(rules, forms), bench="labels")


def _rule(what: Draw, rule: LabelRule, n: int) -> Row:
    path = f"label_rules/{rule.id}"
    return Row(
        rule.id, path, what.parts(label_sentence(rule, what.ground, path)), off=not rule.on, notes=what.notes(path),
        for_all=rule.site is None,
        acts=(
            switch_act(f"{path}/on", rule.on, f"Label rule {n}"), copy_act(path, f"Label rule {n} was copied."),
            *layer_acts(path, f"Label rule {n}", rule, what.site), remove_act(path, f"Label rule {n} was removed."),
        ),
    )  # fmt: skip


def _form(what: Draw, form: PaperForm) -> Row:
    path, name = f"paper_forms/{form.id}", f"The form of the {TITLES[form.paper].lower()}"
    return Row(
        form.id, path, what.parts(form_sentence(form, path)), off=not form.on, notes=what.notes(path), for_all=form.site is None,
        acts=(
            switch_act(f"{path}/on", form.on, name), copy_act(path, f"{name} was copied."),
            *layer_acts(path, name, form, what.site), remove_act(path, f"{name} was removed."),
        ),
    )  # fmt: skip
