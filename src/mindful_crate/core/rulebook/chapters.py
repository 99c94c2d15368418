"""The chapters of the rulebook: a new one is a row here, a module of words, one of findings."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.chapter import Chapter, Draw, Draws
from mindful_crate.core.rulebook.words import (
    bin_rules_page,
    care_page,
    crews_page,
    gates_page,
    orders_page,
    packing_page,
    papers_page,
    recipes_page,
    returns_page,
    scanner_page,
    settings_page,
    steps_page,
    waves_page,
)
from mindful_crate.core.rulebook.words.parts import counted


@record
class Kind:
    """A chapter: what it is called, and the parts of the rulebook it shows."""

    title: str
    parts: tuple[str, ...]
    draws: Draws


CHAPTERS: dict[str, Kind] = {
    "classes": Kind("Order classes", ("order_classes",), orders_page.draw),
    "steps": Kind("Steps", ("step_plans", "ship_plans", "dock_rules"), steps_page.draw),
    "bin-rules": Kind("Bin rules", ("bin_rules",), bin_rules_page.draw),
    "recipes": Kind("Recipes", ("recipes",), recipes_page.draw),
    "crews": Kind("Crews", ("crews",), crews_page.draw),
    "gates": Kind("Gates", ("gates", "release_runs"), gates_page.draw),
    "waves": Kind("Waves", ("wave_plans",), waves_page.draw),
    "scanner": Kind("Scanner", ("flows", "menus"), scanner_page.draw),
    "packing": Kind("Packing", ("pack_rules",), packing_page.draw),
    "papers": Kind("Papers", ("label_rules", "paper_forms"), papers_page.draw),
    "returns": Kind("Returns", ("return_rules", "return_marks"), returns_page.draw),
    "care": Kind("Stock care", ("count_plans", "shelf_runs", "stock_reasons"), care_page.draw),
    "settings": Kind("Settings", ("settings",), settings_page.draw),
}
"""In the order the work is done."""


def chapter_of(place: str) -> str:
    """The chapter that shows a place of the rulebook; empty when none does."""
    part = place.partition("/")[0]
    return next((id_ for id_, kind in CHAPTERS.items() if part in kind.parts), "")


def where(place: str, book: Rulebook) -> tuple[str, str]:
    """Where a place of the rulebook is shown, as a person says it and as the studio finds it: ``Bin rules, rule 3`` and
    ``bin-rules/BR-3``. Number series are in the catalogue."""
    chapter, steps = chapter_of(place), place.split("/")
    if not chapter:
        return "Numbering, in the catalogue", "catalogue/series"
    title, link = CHAPTERS[chapter].title, chapter
    if steps[0] == "bin_rules" and len(steps) > 3:
        rules = next((x.rules for x in book.bin_rules if x.id == steps[1]), ())
        n = next((n for n, rule in enumerate(rules, start=1) if rule.id == steps[3]), 0)
        return f"{title}, rule {n}", f"{link}/{steps[3]}"
    if len(steps) < 2:
        return title, link
    names = {f"step_plans/{x.id}": x.name for x in book.step_plans}
    names |= {f"gates/{x.id}": x.name for x in book.gates}
    names |= {f"ship_plans/{x.id}": x.name for x in book.ship_plans}
    names |= {f"order_classes/{x.id}": x.name for x in book.order_classes}
    names |= {f"wave_plans/{x.id}": x.name for x in book.wave_plans}
    names |= {f"return_marks/{x.id}": x.name for x in book.return_marks}
    names |= {f"count_plans/{x.id}": x.name for x in book.count_plans}
    names |= {f"stock_reasons/{x.id}": x.name for x in book.stock_reasons}
    names |= {f"flows/{x.id}": x.name for x in book.flows} | {f"crews/{x.id}": x.name for x in book.crews}
    name = names.get("/".join(steps[:2]), "")
    if steps[0] == "menus":
        menu = next((m for m in book.menus if m.id == steps[1]), None)
        name = next((f"menu of {c.name}{menu.under}" for c in book.crews if menu and c.id == menu.crew), "")
    counted: dict[str, tuple[str, list[str]]] = {
        "recipes": ("recipe", [r.id for r in book.recipes]), "label_rules": ("label rule", [r.id for r in book.label_rules]),
        "paper_forms": ("form", [f.id for f in book.paper_forms]),
        "return_rules": ("rule", [r.id for r in book.return_rules]),
        "dock_rules": ("rule", [r.id for r in book.dock_rules]),
        "pack_rules": ("rule", [r.id for r in book.pack_rules]),
    }  # fmt: skip
    if steps[0] in counted:
        word, ids = counted[steps[0]]
        name = f"{word} {ids.index(steps[1]) + 1}" if steps[1] in ids else ""
    return f"{title}, {name}" if name else title, f"{link}/{steps[1]}"


def how_much(book: Rulebook, site: SiteCode) -> tuple[tuple[str, str], ...]:
    """How much of each part of the rulebook there is at a site, in words, with the chapter that shows it; what there is none of is left
    out."""
    recipes = [r for r in book.recipes if r.site in (None, site)]
    counts = (
        (sum(c.site in (None, site) for c in book.order_classes), "order class", "classes"),
        (sum(p.site in (None, site) for p in book.step_plans), "step plan", "steps"),
        (sum(len(r.rules) for r in book.bin_rules if r.site in (None, site)), "bin rule", "bin-rules"),
        (len(recipes), "recipe", "recipes"),
        (sum(len(r.legs) for r in recipes), "hand-over", "recipes"),
        (sum(c.site in (None, site) for c in book.crews), "crew", "crews"),
        (sum(f.site in (None, site) for f in book.flows), "scanner flow", "scanner"),
        (sum(r.site in (None, site) for r in book.label_rules), "label rule", "papers"),
        (sum(f.site in (None, site) for f in book.paper_forms), "paper form", "papers"),
        (sum(g.site in (None, site) for g in book.gates), "release gate", "gates"),
        (sum(p.site in (None, site) for p in book.ship_plans), "shipment plan", "steps"),
        (sum(p.site in (None, site) for p in book.wave_plans), "wave plan", "waves"),
        (sum(d.site in (None, site) for d in book.dock_rules), "cross-docking rule", "steps/across"),
        (sum(p.site in (None, site) for p in book.pack_rules), "packing rule", "packing"),
        (sum(c.site in (None, site) for c in book.count_plans), "count plan", "care"),
        (sum(r.site in (None, site) for r in book.stock_reasons), "stock reason", "care"),
        (sum(r.site in (None, site) for r in book.return_rules), "return rule", "returns"),
    )
    return tuple((counted(n, word), link) for n, word, link in counts if n)


def draw(id_: str, what: Draw, tab: str) -> Chapter | None:
    """A page; None when there is no such chapter."""
    kind = CHAPTERS.get(id_)
    return kind.draws(what, tab) if kind else None
