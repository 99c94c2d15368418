"""The page of wave plans: which orders are worked together, and how."""

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
from mindful_crate.core.rulebook.waves import WavePlan
from mindful_crate.core.rulebook.words.waves import METHODS, wave_sentence


def draw(what: Draw, tab: str) -> Chapter:
    """All wave plans, in the order in which they are asked."""
    plans = Section(
        "waves", "cards", empty="There is no wave plan: what is released is let go at once, each release in a wave of its own.", called="Plan",
        ordered=True, add=(Add("Add a plan that picks", "wave_plans", "A wave plan was added.", options(METHODS)),),
        rows=tuple(_plan(what, p) for p in what.book.wave_plans if p.site in (None, what.site)),
    )  # fmt: skip
    lead = (
        "Which released orders are worked together. An order belongs to the first plan that takes it, whichever runs first; what no plan takes is let "
        "go at once, in a wave of its own."
    )
    return Chapter("waves", "Waves", lead, sections=(plans,), bench="waves")


def _plan(what: Draw, plan: WavePlan) -> Row:
    path = f"wave_plans/{plan.id}"
    return Row(
        plan.id, path, what.parts(wave_sentence(plan, what.ground, path, what.book.order_classes)), what.word(plan.name, f"{path}/name", "name"),
        off=not plan.on, notes=what.notes(path), for_all=plan.site is None,
        acts=(
            switch_act(f"{path}/on", plan.on, plan.name), copy_act(path, f"{plan.name} was copied."),
            *layer_acts(path, plan.name, plan, what.site), remove_act(path, f"{plan.name} was removed."),
        ),
    )  # fmt: skip
