"""The page of packing: which orders are packed, how, and into what."""

from __future__ import annotations

from mindful_crate.core.rulebook.chapter import (
    Add,
    Chapter,
    Draw,
    Fact,
    Row,
    Section,
    copy_act,
    layer_acts,
    options,
    remove_act,
    switch_act,
)
from mindful_crate.core.rulebook.packing import PackRule
from mindful_crate.core.rulebook.settings import Level
from mindful_crate.core.rulebook.words.packing import PROOF, pack_sentence
from mindful_crate.core.rulebook.words.parts import thousandths


def draw(what: Draw, tab: str) -> Chapter:
    """All rules of packing, in the order in which they are asked, and the cartons there are."""
    mine = [p for p in what.book.pack_rules if p.site in (None, what.site)]
    rules = Section(
        "packing", "sentences", empty="There is no rule yet: what goes in is scanned or looked at, any carton is proposed, and the scale is read.",
        called="Rule", ordered=True, add=(Add("Add a rule by which", "pack_rules", "A rule was added.", options(PROOF)),),
        rows=tuple(_rule(what, p, n) for n, p in enumerate(mine, start=1)),
    )  # fmt: skip
    facts = tuple(
        Fact(
            k.name, f"{k.length_mm // 10} x {k.width_mm // 10} x {k.height_mm // 10} cm inside",
            f"weighs {thousandths(k.weight_mg // 1000)} kg" + (f", bears {thousandths(k.max_weight_mg // 1000)} kg" if k.max_weight_mg else ""),
            Level.GENERAL, "as the catalogue says", "", "Catalogue", "catalogue/carton_kinds",
        )
        for k in what.ground.opening.carton_kinds
    )  # fmt: skip
    cartons = Section("cartons", "facts", "The cartons there are", "They are in the catalogue.", facts=facts)
    lead = (
        "How what was picked goes into cartons, where a shipment plan packs. The first rule is taken that is for an order. What a bench reads, prints and "
        "refuses follows from it."
    )
    return Chapter("packing", "Packing", lead, sections=(rules, *([cartons] if facts else [])), bench="packing")


def _rule(what: Draw, rule: PackRule, n: int) -> Row:
    path = f"pack_rules/{rule.id}"
    return Row(
        rule.id, path, what.parts(pack_sentence(rule, what.ground, path, what.book.order_classes)), off=not rule.on, notes=what.notes(path), for_all=rule.site is None,
        acts=(
            switch_act(f"{path}/on", rule.on, f"Rule {n}"), copy_act(path, f"Rule {n} was copied."), *layer_acts(path, f"Rule {n}", rule, what.site),
            remove_act(path, f"Rule {n} was removed."),
        ),
    )  # fmt: skip
