"""Task recipes in sentences."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.ids import CrewId
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.rulebook.flows import Crew
from mindful_crate.core.rulebook.recipes import NO_CAPS, Caps, Cause, Grouping, Leg, Recipe, Sequencing, Starts
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.bin_rules import conditions_words
from mindful_crate.core.rulebook.words.parts import Names, Part, Sentence, just
from mindful_crate.core.rulebook.words.steps import BEGINS, place_told

GROUPING = {
    Grouping.PLATE: "a task for each plate, and of loose goods one for each bin",
    Grouping.RECEIPT: "a task for each receipt",
    Grouping.ORDER: "a task for all that is there of an order",
    Grouping.ZONE: "a task for all that stands in one zone",
}
PICK_GROUPING = {
    Grouping.ORDER: "a task for each order",
    Grouping.SHIPMENT: "a task for all that leaves together",
    Grouping.ZONE: "a task for all that lies in one zone",
    Grouping.WAVE: "one task for the whole wave",
    Grouping.PLATE: "a task for each line",
}
"""Of loose goods that are picked order by order; what goes onto one cart becomes one task, and so does each whole plate."""
REFILL_GROUPING = {
    Grouping.PLATE: "a task for each shelf",
    Grouping.ZONE: "a task for all that lies in one zone",
}
CAUSES = {
    None: "whatever shelves lack",
    Cause.WANTED: "what released orders wait for",
    Cause.LEAST: "what a shelf has less of than its least",
    Cause.FILL: "what the office has shelves filled with",
}
SEQUENCE = {
    Sequencing.WALK_ORDER: "in walking order",
    Sequencing.TOUR: "along the shortest round",
    Sequencing.HEAVY_FIRST: "the heaviest first",
    Sequencing.FEFO: "first what expires first",
}
STARTS = {
    Starts.AT_ONCE: "may be taken at once",
    Starts.HELD: "is held until the office lets it go",
    Starts.AT_TIME: "may be taken from a time of the day on",
}
PICK_STARTS = {s: STARTS[s] for s in (Starts.AT_ONCE, Starts.HELD)}
CAPS = {
    "things": "so many plates or kinds of goods", "pieces": "so many base units", "kilograms": "so many kilograms",
    "litres": "so many litres",
}  # fmt: skip
UNITS = {"things": "plates or kinds of goods", "pieces": "base units", "kilograms": "kg", "litres": "l"}


def crew_name(crews: Iterable[Crew], crew: CrewId) -> str:
    """What a crew is called; one that is not there says so."""
    return next((c.name for c in crews if c.id == crew), f"{crew} (missing)")


def recipe_sentence(recipe: Recipe, crews: Iterable[Crew], ground: Ground, path: str = "") -> Sentence:
    """One recipe in words; its hand-overs have sentences of their own."""
    crew = crew_name(crews, recipe.crew)
    if recipe.need is Need.PICK:
        return _picks(recipe, crew, ground, path)
    if recipe.need is Need.REPLENISH:
        return _refills(recipe, crew, ground, path)
    parts = conditions_words(recipe.applies, Names(ground), f"{path}/applies", ("becomes ", "become "))
    parts += [Part("word", GROUPING[recipe.grouping], f"{path}/grouping", "grouping"), *_caps(recipe.most, path)]
    lead = ". After the hand-over " if len(recipe.legs) == 1 else ". After the hand-overs " if recipe.legs else ". "
    parts += [just(lead), Part("word", crew, f"{path}/crew", "crew")]
    parts += [
        just(" takes it where its plan puts it away, "),
        Part("word", SEQUENCE[recipe.sequence], f"{path}/sequence", "sequence"),
    ]
    parts += [just(". It "), Part("word", STARTS[recipe.starts], f"{path}/starts", "starts")]
    if recipe.starts is Starts.AT_TIME:
        parts += [
            just(", "),
            Part("word", recipe.time or "no time yet", f"{path}/time", "start_time"),
            just(" by the site's clock"),
        ]
    parts.append(just(", with priority "))
    parts += [Part("word", str(recipe.priority), f"{path}/priority", "priority")]
    parts.append(just("." if recipe.on else ". Switched off: nothing becomes a task by it."))
    return tuple(parts)


def _picks(recipe: Recipe, crew: str, ground: Ground, path: str) -> Sentence:
    """How what is kept for orders becomes tasks."""
    parts = conditions_words(recipe.applies, Names(ground), f"{path}/applies", ("becomes ", "become "))
    told = PICK_GROUPING.get(recipe.grouping, GROUPING[recipe.grouping])
    parts += [Part("word", told, f"{path}/grouping", "pick_grouping"), *_caps(recipe.most, path)]
    if recipe.legs:
        parts += [just(", fetched "), Part("word", SEQUENCE[recipe.sequence], f"{path}/sequence", "sequence")]
        parts.append(just(". After the hand-over " if len(recipe.legs) == 1 else ". After the hand-overs "))
        parts += [Part("word", crew, f"{path}/crew", "crew"), just(" brings it to its station")]
    else:
        parts += [just(". "), Part("word", crew, f"{path}/crew", "crew"), just(" picks it ")]
        parts.append(Part("word", SEQUENCE[recipe.sequence], f"{path}/sequence", "sequence"))
    parts += [just(". It "), Part("word", STARTS[recipe.starts], f"{path}/starts", "pick_starts")]
    parts += [just(", with priority "), Part("word", str(recipe.priority), f"{path}/priority", "priority")]
    parts.append(just("." if recipe.on else ". Switched off: nothing becomes a task by it."))
    return tuple(parts)


def _refills(recipe: Recipe, crew: str, ground: Ground, path: str) -> Sentence:
    """How what shelves lack becomes tasks."""
    parts = [just("Of "), Part("word", CAUSES[recipe.cause], f"{path}/cause", "cause"), just(": ")]
    parts += conditions_words(recipe.applies, Names(ground), f"{path}/applies", ("becomes ", "become "))
    told = REFILL_GROUPING.get(recipe.grouping, GROUPING[recipe.grouping])
    parts += [Part("word", told, f"{path}/grouping", "refill_grouping"), *_caps(recipe.most, path), just(". ")]
    parts += [Part("word", crew, f"{path}/crew", "crew"), just(" brings it, and places it ")]
    parts += [Part("word", SEQUENCE[recipe.sequence], f"{path}/sequence", "sequence")]
    parts += [just(". It "), Part("word", STARTS[recipe.starts], f"{path}/starts", "pick_starts")]
    parts += [just(", with priority "), Part("word", str(recipe.priority), f"{path}/priority", "priority")]
    parts.append(just("." if recipe.on else ". Switched off: nothing becomes a task by it."))
    return tuple(parts)


def _caps(most: Caps, path: str) -> list[Part]:
    parts: list[Part] = []
    for name, unit in UNITS.items():
        value = getattr(most, name)
        if value is not None:
            parts += [
                just(" and " if parts else ", at most "),
                Part("word", f"{value:,} {unit}", f"{path}/most/{name}", name),
            ]
    if most == NO_CAPS or any(getattr(most, name) is None for name in UNITS):
        parts.append(Part("add", "but at most", f"{path}/most", "caps"))
    return parts


def leg_sentence(leg: Leg, crews: Iterable[Crew], ground: Ground, path: str = "") -> Sentence:
    """One hand-over in words."""
    point = place_told(leg.to, Names(ground), "a place that is still to be named").strip("`")
    return (
        Part("word", crew_name(crews, leg.crew), f"{path}/crew", "crew"), just(" brings it to "),
        Part("word", point, f"{path}/to", "hand_over_at"), just(". The next part of the way begins "),
        Part("word", BEGINS[leg.next], f"{path}/next", "begins"), just("."),
    )  # fmt: skip
