"""Findings of the recipes, and of the crews whose tasks they make."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from mindful_crate.core.catalog.ids import CrewId, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.findings.finding import Finding, blocks, doubt, spans, whereabouts
from mindful_crate.core.rulebook.bin_rules import (
    Conditions,
)
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.rulebook.recipes import Grouping, Recipe, Sequencing, Starts
from mindful_crate.core.rulebook.steps import (
    BY_RULES,
    Begins,
    Need,
    Place,
)


def recipes(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Recipes: crews that can do their tasks, hand-over points that are there, conditions that can hold, settings with an effect."""
    names = {c.id: c.name for c in book.crews}
    needed = any(p.on and p.put_away.on for p in book.step_plans)
    takes_all: Recipe | None = None
    at_once = all(p.put_away.begins is Begins.ON_ARRIVAL for p in book.step_plans if p.on and p.put_away.on)
    for recipe in book.recipes_for(site, Need.PUT_AWAY):
        place = f"recipes/{recipe.id}"
        if not recipe.on:
            continue
        yield from of_any(recipe, names, place)
        for crew, at in crews_of(recipe, place):
            if (
                crew in names
                and needed
                and all(f.purpose is not FlowPurpose.PUT_AWAY for f in book.menu_for(site, (crew,)))
            ):
                says = f"Put-away tasks are made for {names[crew]}, and no flow on its menu does them: nobody would."
                yield blocks("nobody_does", at, says)
        yield from hand_overs(recipe, ground, site, place)
        if not needed:
            continue
        if takes_all is not None:
            yield doubt("never_reached", place, f"Never reached: recipe `{takes_all.id}` above is for all goods.")
        elif recipe.applies == Conditions():
            takes_all = recipe
        if (
            at_once
            and not any(leg.next is not Begins.ON_ARRIVAL for leg in recipe.legs)
            and recipe.grouping in (Grouping.ORDER, Grouping.ZONE)
        ):
            says = "Put-away begins as soon as a plate is finished, so there is never more than that receipt to group: this makes no difference. Let it begin on demand, on Steps."
            yield doubt("nothing_to_group", f"{place}/grouping", says)
        if recipe.grouping is Grouping.PLATE and recipe.sequence is not Sequencing.WALK_ORDER:
            says = "Each task goes to one place, so there is no order to keep: this makes no difference. Let more become one task."
            yield doubt("nothing_to_order", f"{place}/sequence", says)
        if recipe.starts is Starts.AT_TIME and recipe.minute is None:
            says = f"Its tasks start at a time, and {f'`{recipe.time}` is none' if recipe.time else 'none is named'}: say one as 14:00."
            yield blocks("no_time", f"{place}/time", says)
    if needed and takes_all is None and any(r.on for r in book.recipes_for(site, Need.PUT_AWAY)):
        says = "Each recipe is for some goods only: what none of them is for waits until the office sees to it. Let the last be for anything."
        yield doubt("no_recipe_for_rest", "recipes", says)


def crews_of(recipe: Recipe, place: str) -> list[tuple[CrewId, str]]:
    """The crews of a recipe, part of the way by part, and where each is named."""
    return [(leg.crew, f"{place}/legs/{leg.id}/crew") for leg in recipe.legs] + [(recipe.crew, f"{place}/crew")]


def of_any(recipe: Recipe, names: Mapping[CrewId, str], place: str) -> Iterator[Finding]:
    """What can be wrong with a recipe, whatever it is for: crews that are gone, caps, priority, conditions."""
    for crew, at in crews_of(recipe, place):
        if crew not in names:
            yield blocks("missing_crew", at, f"Crew `{crew}` does not exist. Choose another.")
    for name in ("things", "pieces", "kilograms", "litres"):
        value = getattr(recipe.most, name)
        if value is not None and value < 1:
            says = "A task that may hold nothing is never made. Say at least 1."
            yield blocks("no_cap", f"{place}/most/{name}", says)
    if recipe.priority not in range(10):
        yield blocks("bad_priority", f"{place}/priority", "A priority is 0 to 9; the highest comes first.")
    yield from spans(recipe.applies, "recipe", place)


def hand_overs(recipe: Recipe, ground: Ground, site: SiteCode, place: str) -> Iterator[Finding]:
    """The points where goods change hands: there, at this site, each another than the one before."""
    before: Place | None = None
    for leg in recipe.legs:
        at = f"{place}/legs/{leg.id}/to"
        if leg.to == BY_RULES:
            says = "It is not said where the goods are handed over. Name a zone or a bin."
            yield blocks("step_without_place", at, says)
        yield from whereabouts(leg.to, ground, site if recipe.site in (None, site) else None, at)
        if leg.to == before:
            yield doubt(
                "steps_loop", at, "It is handed over where it stands already: from one crew to the next without a step."
            )
        if leg.next is Begins.ON_NEED:
            says = "The next part begins when something farther on lacks the goods, and nothing asks for them yet: they wait until the office makes the task."
            yield doubt("no_need", f"{place}/legs/{leg.id}/next", says)
        before = leg.to


def crews(book: Rulebook, site: SiteCode) -> Iterator[Finding]:
    """Crews with nothing to see and nothing to do."""
    for crew in book.crews:
        if not book.menu_for(site, (crew.id,)) and crew.site in (None, site):
            does = [r for r in book.recipes if crew.id in (r.crew, *(leg.crew for leg in r.legs))]
            if not does:
                says = f"{crew.name} sees no flow, and no task is made for it: nobody of it has anything to do here."
                yield doubt("idle_crew", f"crews/{crew.id}", says)
