"""The page of stock care: what is counted, how often, by whom; and why stock is corrected."""

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
    run_row,
    switch_act,
)
from mindful_crate.core.rulebook.counting import CountPlan, StockReason
from mindful_crate.core.rulebook.recipes import Cause
from mindful_crate.core.rulebook.settings import Level
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.counting import REASON_FOR, SPLITS, count_sentence, reason_sentence
from mindful_crate.core.rulebook.words.filling import FILLS, shelf_run_sentence
from mindful_crate.core.rulebook.words.parts import Part, all_of


def draw(what: Draw, tab: str) -> Chapter:
    """All count plans, in the order in which they are asked, and all reasons."""
    plans = Section(
        "counts", "cards", empty="There is no count plan: bins are counted only when somebody in the office chooses them.", called="Plan",
        ordered=True, add=(Add("Count on sheets", "count_plans", "A count plan was added.", options(SPLITS)),),
        rows=tuple(_plan(what, p) for p in what.book.count_plans if p.site in (None, what.site)),
    )  # fmt: skip
    reasons = Section(
        "reasons", "cards", "Why stock is corrected, or moved", called="Reason",
        lead="Whoever corrects stock on a handset, or moves it by a flow that asks why, chooses one of these; in the office one may be chosen, or written.",
        empty="There is no reason to choose: whoever corrects stock writes why.",
        add=(Add("Add a reason", "stock_reasons", "A reason was added.", options(REASON_FOR)),),
        rows=tuple(_reason(what, r) for r in what.book.stock_reasons if r.site in (None, what.site)),
    )  # fmt: skip
    lead = (
        "What is counted, and how often. A bin belongs to the first plan that counts it. Nothing changes in the books until somebody takes what was "
        "counted into them."
    )
    return Chapter("care", "Stock care", lead, sections=(plans, _shelves(what), _runs(what), reasons), bench="counts")


def _runs(what: Draw) -> Section:
    """What fills shelves by the clock."""
    runs = [r for r in what.book.shelf_runs if r.site in (None, what.site)]
    return Section(
        "runs", "sentences", "Filled by the clock",
        empty="Shelves are filled when they hold less than their least, when orders wait for it, and when the office says so.", called="Run",
        add=(Add("Fill at a time all shelves", "shelf_runs", "A time was added.", options(FILLS)),),
        rows=tuple(
            run_row(what, path := f"shelf_runs/{r.id}", r, n, shelf_run_sentence(r, path, what.names)) for n, r in enumerate(runs, start=1)
        ),
    )  # fmt: skip


CAUSES = {
    Cause.WANTED: "What orders wait for",
    Cause.LEAST: "A shelf below its least",
    Cause.FILL: "Filled by the office, or by the clock",
}


def _shelves(what: Draw) -> Section:
    """How shelves are kept filled: by which recipe, for each cause; and what each zone is to hold, which is in the catalogue."""
    facts = []
    recipes = [r for r in what.book.recipes_for(what.site, Need.REPLENISH) if r.on]
    crews, numbers = {c.id: c.name for c in what.book.crews}, what.book.numbered_recipes(what.site)
    for cause, says in CAUSES.items():
        mine = [r for r in recipes if r.cause in (None, cause)]
        told = (
            all_of(f"recipe {numbers[r.id]}, {crews.get(r.crew, r.crew)}" for r in mine)
            or "nobody: no recipe is for it"
        )
        link = f"recipes/refill/{mine[0].id}" if mine else "recipes/refill"
        facts.append(
            Fact(
                says,
                "Brought by",
                told,
                Level.OWN if mine else Level.BUILT_IN,
                "",
                "",
                "Recipes",
                link,
            )
        )
    for zone in (what.ground.zones[z] for z in what.ground.zones_of_site.get(what.site, ())):
        homes = [
            h for some in what.ground.homes.values() for h in some.values() if what.ground.bins[h.bin].zone == zone.code
        ]
        if homes:
            least = sum(h.least > 0 for h in homes)
            value = f"{least:,} of {len(homes):,} shelves keep a least"
            facts.append(
                Fact(
                    zone.name,
                    "Least and most",
                    value,
                    Level.OWN,
                    "as the catalogue says",
                    "",
                    "Catalogue",
                    "catalogue/home_bins",
                )
            )
    lead = "What shelves hold at the least and at the most is in the catalogue, shelf by shelf; who brings what is missing, the recipes say."
    return Section("shelves", "facts", "How shelves are kept filled", lead, facts=tuple(facts))


def _plan(what: Draw, plan: CountPlan) -> Row:
    path = f"count_plans/{plan.id}"
    return _card(what, path, plan, what.parts(count_sentence(plan, what.ground, path)))


def _reason(what: Draw, reason: StockReason) -> Row:
    path = f"stock_reasons/{reason.id}"
    crews = {c.id: c.name for c in what.book.crews}
    return _card(what, path, reason, what.parts(reason_sentence(reason, crews, path)))


def _card(what: Draw, path: str, part: CountPlan | StockReason, says: tuple[Part, ...]) -> Row:
    return Row(
        part.id, path, says, what.word(part.name, f"{path}/name", "name"), off=not part.on, notes=what.notes(path), for_all=part.site is None,
        acts=(
            switch_act(f"{path}/on", part.on, part.name), copy_act(path, f"{part.name} was copied."),
            *layer_acts(path, part.name, part, what.site), remove_act(path, f"{part.name} was removed."),
        ),
    )  # fmt: skip
