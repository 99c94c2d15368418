"""The page of steps: plans with their stations, and what becomes a task."""

from __future__ import annotations

from mindful_crate.core.record import evolve
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
from mindful_crate.core.rulebook.steps import Recipe, StepPlan
from mindful_crate.core.rulebook.words.parts import ORDERS
from mindful_crate.core.rulebook.words.stations import stations
from mindful_crate.core.rulebook.words.steps import plan_sentence, recipe_sentence


def draw(what: Draw, tab: str) -> Chapter:
    """All plans, then the recipes."""
    kinds = (Option(None, "All orders"), *options(ORDERS))
    plans = Section(
        "plans", "cards", empty="There is no plan yet: no order reaches a handset. Add the first one.", called="Plan",
        add=(Add("Add a plan", "step_plans", "A plan was added.", kinds),),
        rows=tuple(_plan(what, p) for p in what.book.step_plans if p.site in (None, what.site)),
    )  # fmt: skip
    crews = tuple(Option(c.id, c.name) for c in what.book.crews)
    recipes = Section(
        "recipes", "cards", "What becomes a task", empty="Nothing becomes a task: goods that are to be put away wait for ever.",
        add=(Add("Add a recipe", "recipes", "A recipe was added.", crews),) if crews else (), called="Recipe",
        rows=tuple(_recipe(what, r) for r in what.book.recipes if r.site in (None, what.site)),
    )  # fmt: skip
    lead = (
        "One whole plan holds for the goods of an order line: that for the item before its group, the partner, the group of "
        "partners; then that for the kind of order before all orders; then the site's own before all sites'."
    )
    return Chapter("steps", "Receipt steps", lead, sections=(*stations(what), plans, recipes), bench="journey")


def _plan(what: Draw, plan: StepPlan) -> Row:
    path = f"step_plans/{plan.id}"
    sentence = plan_sentence(plan, path, what.layers, what.ground, what.book.crews)
    switch = evolve(switch_act(f"{path}/on", plan.on, f"Plan {plan.name}"), look=True)
    return Row(
        plan.id, path, what.parts(sentence), what.word(plan.name, f"{path}/name", "name"), off=not plan.on,
        notes=what.notes(path),
        for_all=plan.site is None,
        acts=(
            switch, copy_act(path, f"Plan {plan.name} was copied; the copy is switched off."), *layer_acts(path, f"Plan {plan.name}", plan, what.site),
            remove_act(path, f"Plan {plan.name} was removed.", look=True),
        ),
    )  # fmt: skip


def _recipe(what: Draw, recipe: Recipe) -> Row:
    path = f"recipes/{recipe.id}"
    return Row(
        recipe.id, path, what.parts(recipe_sentence(recipe, what.book, path)), notes=what.notes(path),
        for_all=recipe.site is None,
        acts=(*layer_acts(path, "A recipe", recipe, what.site), remove_act(path, "A recipe was removed.", look=True)),
    )  # fmt: skip
