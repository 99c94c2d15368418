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
    Tab,
    copy_act,
    layer_acts,
    remove_act,
    switch_act,
)
from mindful_crate.core.rulebook.recipes import Recipe
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.recipes import leg_sentence, recipe_sentence

NEEDS = {Need.PUT_AWAY: "Put away", Need.PICK: "Pick", Need.REPLENISH: "Refill"}
"""What recipes are for: a tab each."""
EMPTY = {
    Need.PUT_AWAY: "Nothing becomes a task: goods that are to be put away wait for ever. Add the first recipe.",
    Need.PICK: "Nothing becomes a task: stock is kept for released orders, and nobody fetches it. Add the first recipe.",
    Need.REPLENISH: "Nothing becomes a task: shelves run empty, and orders wait although reserve has stock. Add the first recipe.",
}
LEAD = {
    Need.PUT_AWAY: "What is to be put away becomes tasks by the first recipe whose conditions hold. Who makes them, and when, a plan says.",
    Need.PICK: "What a wave keeps for orders becomes tasks by the first recipe whose conditions hold. What goes onto one cart stays together: the wave plan says that.",
    Need.REPLENISH: "What orders wait for, and what shelves hold less of than their least, is brought from reserve by the first recipe whose conditions hold. The bin rules say from where, and to where.",
}


def draw(what: Draw, tab: str) -> Chapter:
    """All recipes for one need, in the order in which they are asked."""
    mine = [r for r in what.book.recipes if r.site in (None, what.site)]
    need = next((n for n in NEEDS if n.value == tab), None) or next(
        (r.need for r in mine if r.id == tab), Need.PUT_AWAY
    )
    crews = tuple(Option(c.id, c.name) for c in what.book.crews)
    asked = tuple(Option(f"{need.value} {c.value}", c.label) for c in crews)
    numbers = what.book.numbered_recipes(what.site)
    shown = [r for r in mine if r.need is need]
    recipes = Section(
        "recipes", "sentences", empty=EMPTY[need],
        add=(Add("Add a recipe for", "recipes", "A recipe was added.", asked),) if crews else (), called="Recipe", ordered=True,
        rows=tuple(_recipe(what, r, numbers[r.id], crews) for r in shown),
        places=tuple(numbers[r.id] - 1 for r in shown),
    )  # fmt: skip
    lead = LEAD[need]
    if not crews:
        lead += " Make a crew first, on Crews."
    tabs = tuple(
        Tab(n.value, says, sum(len(what.notes(f"recipes/{r.id}")) for r in mine if r.need is n))
        for n, says in NEEDS.items()
    )
    return Chapter(
        "recipes",
        "Task recipes",
        lead,
        tabs,
        need.value,
        sections=(recipes,),
        bench="tasks",
        asks=need.value,
        looks=True,
    )


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
    lists = (legs,) if recipe.need in (Need.PUT_AWAY, Need.PICK) else ()
    within = tuple(note for note in what.notes(path) if not note.path.startswith(f"{path}/legs/"))
    switch = evolve(switch_act(f"{path}/on", recipe.on, f"Recipe {n}"), look=True)
    return Row(
        recipe.id, path, what.parts(recipe_sentence(recipe, what.book.crews, what.ground, path)), off=not recipe.on,
        lists=lists, notes=within, for_all=recipe.site is None,
        acts=(
            switch, copy_act(path, f"Recipe {n} was copied."), *layer_acts(path, f"Recipe {n}", recipe, what.site),
            remove_act(path, f"Recipe {n} was removed.", look=True),
        ),
    )  # fmt: skip
