"""Findings of what brings goods from reserve to where they are picked: recipes, flows, shelves, the rules that say from where and where to."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.findings.finding import Finding, blocks, doubt
from mindful_crate.core.proving.findings.of_recipes import of_any
from mindful_crate.core.rulebook.bin_rules import BinPurpose, Conditions
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.rulebook.recipes import Cause, Recipe, Starts
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.bin_rules import PURPOSE_TITLES
from mindful_crate.core.rulebook.words.recipes import CAUSES


def refills(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Recipes that bring goods from reserve: crews that can, rules that find something, conditions that can hold; shelves nothing fills."""
    mine = [r for r in book.recipes_for(site, Need.REPLENISH) if r.on]
    names = {c.id: c.name for c in book.crews}
    able = {crew for crew, _ in book.seen_by(site, FlowPurpose.REPLENISH)}
    above: list[Recipe] = []
    for recipe in mine:
        place = f"recipes/{recipe.id}"
        yield from of_any(recipe, names, place)
        if recipe.crew in names and recipe.crew not in able:
            says = f"Refills are made for {names[recipe.crew]}, and no flow on its menu does them: nobody would."
            yield blocks("nobody_does", f"{place}/crew", says)
        if recipe.starts is Starts.AT_TIME:
            says = "What is brought from reserve starts when it is asked for, or is held: a time has no effect."
            yield doubt("no_time", f"{place}/starts", says)
        covers = next((r for r in above if r.applies == Conditions() and r.cause in (None, recipe.cause)), None)
        if covers is not None:
            yield doubt("never_reached", place, f"Never reached: recipe `{covers.id}` above takes all of that.")
        above.append(recipe)
    for purpose in (BinPurpose.REPLENISH_FROM, BinPurpose.REPLENISH_TO) if mine else ():
        if not book.rules_for(site, purpose):
            says = f"Recipes bring goods from reserve, and there are no rules for it: {PURPOSE_TITLES[purpose]}. Nothing is brought."
            yield blocks("no_rules", "bin_rules", says)
    shelves = [h for h in ground.opening.home_bins if ground.site_of(h.bin) == site and h.least]
    if shelves and able and not any(r.cause in (None, Cause.LEAST) for r in mine):
        says = f"{len(shelves)} shelves have a least, and no recipe brings {CAUSES[Cause.LEAST]}: add one, on Recipes, Refill."
        yield doubt("nothing_fills", "recipes", says)
    if able and not mine:
        yield doubt(
            "nothing_to_bring",
            "recipes",
            "Flows bring goods from reserve, and no recipe asks for any: nothing is ever brought.",
        )
