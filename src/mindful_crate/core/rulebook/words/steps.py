"""Step plans and recipes in sentences."""

from __future__ import annotations

from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import BookingPoint, Recipe, StepPlan
from mindful_crate.core.rulebook.words.parts import NO_LAYERS, ORDERS, Layers, Part, Sentence, just, layered

BOOKING = {
    BookingPoint.PLATE_FINISHED: "when the plate or receipt is finished",
    BookingPoint.PUT_AWAY: "when the goods are put away",
    BookingPoint.BY_HAND: "by hand, from the office",
}


def plan_sentence(plan: StepPlan, path: str = "", layers: Layers = NO_LAYERS) -> Sentence:
    """One step plan in words; ``layers`` are the settings and the site they are asked for."""
    parts = [
        Part("word", ORDERS[plan.order_kind] if plan.order_kind else "All orders", f"{path}/order_kind", "order_kind"),
        just(" are received into "),
        Part("word", plan.receive.into, f"{path}/receive/into", "receiving_bins"),
        just(". Then they "),
        Part(
            "word",
            "are put away by the bin rules" if plan.put_away.on else "stay there",
            f"{path}/put_away/on",
            "put_away_on",
        ),
        just(". The host is told "),
        layered(BOOKING, "booking", plan.booking, layers, path),
        just("."),
    ]
    return tuple(parts)


def recipe_sentence(recipe: Recipe, rulebook: Rulebook, path: str = "") -> Sentence:
    """One recipe in words."""
    crew = next((c.name for c in rulebook.crews if c.id == recipe.crew), f"{recipe.crew} (missing)")
    return (
        just("Each finished plate that is to be put away becomes one task for "),
        Part("word", crew, f"{path}/crew", "crew"),
        just(
            ": take the plate where it was received, place it in the bin the rules choose. Goods received loose become one for "
            "each bin they go to. It starts at once and may be taken by anyone of the crew."
        ),
    )
