"""The page of stock care: what is counted, how often, by whom; and why stock is corrected."""

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
from mindful_crate.core.rulebook.counting import CountPlan, StockReason
from mindful_crate.core.rulebook.words.counting import REASON_FOR, SPLITS, count_sentence, reason_sentence
from mindful_crate.core.rulebook.words.parts import Part


def draw(what: Draw, tab: str) -> Chapter:
    """All count plans, in the order in which they are asked, and all reasons."""
    plans = Section(
        "counts", "cards", empty="There is no count plan: bins are counted only when somebody in the office chooses them.", called="Plan",
        ordered=True, add=(Add("Count on sheets", "count_plans", "A count plan was added.", options(SPLITS)),),
        rows=tuple(_plan(what, p) for p in what.book.count_plans if p.site in (None, what.site)),
    )  # fmt: skip
    reasons = Section(
        "reasons", "cards", "Why stock is corrected", called="Reason",
        lead="Whoever corrects stock on a handset chooses one of these; in the office one may be chosen, or written.",
        empty="There is no reason to choose: whoever corrects stock writes why.",
        add=(Add("Add a reason", "stock_reasons", "A reason was added.", options(REASON_FOR)),),
        rows=tuple(_reason(what, r) for r in what.book.stock_reasons if r.site in (None, what.site)),
    )  # fmt: skip
    lead = (
        "What is counted, and how often. A bin belongs to the first plan that counts it. Nothing changes in the books until somebody takes what was "
        "counted into them."
    )
    return Chapter("care", "Stock care", lead, sections=(plans, reasons), bench="counts")


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
