"""The page of recipes: what becomes a task, over which hand-overs, for whom."""

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
    remove_act,
    switch_act,
)
from mindful_crate.core.rulebook.recipes import Recipe
from mindful_crate.core.rulebook.words.recipes import leg_sentence, recipe_sentence


def draw(what: Draw, tab: str) -> Chapter:
    """All recipes, in the order in which they are asked."""
    crews = tuple(Option(c.id, c.name) for c in what.book.crews)
    recipes = Section(
        "recipes", "sentences", empty="Nothing becomes a task: goods that are to be put away wait for ever. Add the first recipe.",
        add=(Add("Add a recipe for", "recipes", "A recipe was added.", crews),) if crews else (), called="Recipe", ordered=True,
        rows=tuple(_recipe(what, r, n, crews) for n, r in enumerate((r for r in what.book.recipes if r.site in (None, what.site)), 1)),
    )  # fmt: skip
    lead = "What is to be put away becomes tasks by the first recipe whose conditions hold. Who makes them, and when, a plan says."
    if not crews:
        lead += " Make a crew first, on Crews."
    return Chapter("recipes", "Task recipes", lead, sections=(recipes,), bench="tasks", looks=True)


def _recipe(what: Draw, recipe: Recipe, n: int, crews: tuple[Option, ...]) -> Row:
    path = f"recipes/{recipe.id}"
    legs = Section(
        "legs", "sentences", "On the way", ordered=True, called="Hand-over",
        add=(Add("+ hand-over", f"{path}/legs", "A hand-over was added.", crews),),
        rows=tuple(
            Row(
                leg.id, place := f"{path}/legs/{leg.id}", what.parts(leg_sentence(leg, what.book.crews, what.ground, place)),
                notes=what.notes(place), acts=(remove_act(place, f"Hand-over {m} was removed."),),
            )
            for m, leg in enumerate(recipe.legs, start=1)
        ),
    )  # fmt: skip
    within = tuple(note for note in what.notes(path) if not note.path.startswith(f"{path}/legs/"))
    switch = evolve(switch_act(f"{path}/on", recipe.on, f"Recipe {n}"), look=True)
    return Row(
        recipe.id, path, what.parts(recipe_sentence(recipe, what.book.crews, what.ground, path)), off=not recipe.on,
        lists=(legs,), notes=within, for_all=recipe.site is None,
        acts=(
            switch, copy_act(path, f"Recipe {n} was copied."), *layer_acts(path, f"Recipe {n}", recipe, what.site),
            remove_act(path, f"Recipe {n} was removed.", look=True),
        ),
    )  # fmt: skip
