"""The page of returns: what is accepted back, and how it is marked."""

from __future__ import annotations

from mindful_crate.core.rulebook.chapter import (
    Act,
    Add,
    Chapter,
    Draw,
    Row,
    Section,
    copy_act,
    layer_acts,
    options,
    remove_act,
    switch_act,
)
from mindful_crate.core.rulebook.returns import ReturnMark, ReturnRule
from mindful_crate.core.rulebook.words.bin_rules import DISPOSITIONS
from mindful_crate.core.rulebook.words.returns import ACCEPTS, mark_sentence, return_sentence


def draw(what: Draw, tab: str) -> Chapter:
    """The windows in which goods are accepted back, and the marks they may get."""
    mine = [r for r in what.book.return_rules if r.site in (None, what.site)]
    windows = Section(
        "windows", "sentences", "What is accepted", called="Rule", ordered=True, empty="No rule accepts anything: what nobody announced is refused.",
        add=(Add("Accept what comes back", "return_rules", "A rule was added.", options(ACCEPTS)),),
        rows=tuple(_rule(what, r, n) for n, r in enumerate(mine, start=1)),
    )  # fmt: skip
    marks = Section(
        "marks", "cards", "What becomes of it", called="Mark", empty="There is no mark: whoever takes goods back cannot say what becomes of them, and they are kept apart.",
        lead="Whoever takes goods back chooses one for each line.", add=(Add("Add a mark for what is", "return_marks", "A mark was added.", options(DISPOSITIONS)),),
        rows=tuple(_mark(what, m) for m in what.book.return_marks if m.site in (None, what.site)),
    )  # fmt: skip
    lead = (
        "Goods that customers send back, announced or not. They are judged at the first scan of an item, by the first rule that is for it; with the last "
        "shipment named in which the customer got some."
    )
    return Chapter("returns", "Returns", lead, sections=(windows, marks), bench="returns")


def _rule(what: Draw, rule: ReturnRule, n: int) -> Row:
    path = f"return_rules/{rule.id}"
    return Row(
        rule.id, path, what.parts(return_sentence(rule, what.ground, path)), off=not rule.on, notes=what.notes(path), for_all=rule.site is None,
        acts=_acts(what, path, f"Rule {n}", rule),
    )  # fmt: skip


def _mark(what: Draw, mark: ReturnMark) -> Row:
    path = f"return_marks/{mark.id}"
    return Row(
        mark.id, path, what.parts(mark_sentence(mark, path)), what.word(mark.name, f"{path}/name", "name"), off=not mark.on, notes=what.notes(path),
        for_all=mark.site is None, acts=_acts(what, path, mark.name, mark),
    )  # fmt: skip


def _acts(what: Draw, path: str, name: str, part: ReturnRule | ReturnMark) -> tuple[Act, ...]:
    return (
        switch_act(f"{path}/on", part.on, name), copy_act(path, f"{name} was copied."), *layer_acts(path, name, part, what.site),
        remove_act(path, f"{name} was removed."),
    )  # fmt: skip
