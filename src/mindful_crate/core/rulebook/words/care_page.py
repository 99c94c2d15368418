"""The page of stock care: what is counted, how often, by whom."""

from __future__ import annotations

from mindful_crate.core.rulebook.chapter import (
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
from mindful_crate.core.rulebook.counting import CountPlan
from mindful_crate.core.rulebook.words.counting import SPLITS, count_sentence


def draw(what: Draw, tab: str) -> Chapter:
    """All count plans, in the order in which they are asked."""
    plans = Section(
        "counts", "cards", empty="There is no count plan: bins are counted only when somebody in the office chooses them.", called="Plan",
        ordered=True, add=(Add("Count on sheets", "count_plans", "A count plan was added.", options(SPLITS)),),
        rows=tuple(_plan(what, p) for p in what.book.count_plans if p.site in (None, what.site)),
    )  # fmt: skip
    lead = (
        "What is counted, and how often. A bin belongs to the first plan that counts it. Nothing changes in the books until somebody takes what was "
        "counted into them."
    )
    return Chapter("care", "Stock care", lead, sections=(plans,), bench="counts")


def _plan(what: Draw, plan: CountPlan) -> Row:
    path = f"count_plans/{plan.id}"
    return Row(
        plan.id, path, what.parts(count_sentence(plan, what.ground, path)), what.word(plan.name, f"{path}/name", "name"),
        off=not plan.on, notes=what.notes(path), for_all=plan.site is None,
        acts=(
            switch_act(f"{path}/on", plan.on, plan.name), copy_act(path, f"{plan.name} was copied."),
            *layer_acts(path, plan.name, plan, what.site), remove_act(path, f"{plan.name} was removed."),
        ),
    )  # fmt: skip
