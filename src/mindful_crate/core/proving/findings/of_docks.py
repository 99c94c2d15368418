"""Findings of the rules of cross-docking: lanes that are there, conditions that can hold, items that are fit."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.goods import INBOUND
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.findings.finding import Finding, blocks, doubt, spans, whereabouts
from mindful_crate.core.rulebook.bin_rules import Conditions
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.docks import DockRule
from mindful_crate.core.rulebook.steps import BY_RULES


def docks(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Rules of cross-docking."""
    fit = [i for i in ground.items.values() if i.cross_docks]
    above: DockRule | None = None
    for rule in book.docks_at(site):
        place = f"dock_rules/{rule.id}"
        yield from spans(rule.applies, "rule", place)
        if not rule.through and rule.to == BY_RULES:
            yield blocks(
                "step_without_place", f"{place}/to", "It is not said which lane the goods go to. Name a zone or a bin."
            )
        elif not rule.through:
            yield from whereabouts(rule.to, ground, site if rule.site in (None, site) else None, f"{place}/to")
        if odd := [k for k in rule.goes if k in INBOUND]:
            yield blocks(
                "comes_in",
                f"{place}/goes",
                f"Nobody waits for goods of a {odd[0].value.replace('_', ' ')}: those come in.",
            )
        wanted = [i for i in fit if _may_be(i.group, i.code, rule.applies)]
        if not wanted:
            says = "No item it is for is fit for cross-docking, says the catalogue: it is never taken."
            yield doubt("nothing_fit", f"{place}/applies", says)
        if above is not None and above.goes == ():
            yield doubt("never_reached", place, f"Never reached: rule `{above.id}` above takes all of that.")
        if rule.applies == Conditions():
            above = above or rule
    if book.docks_at(site) and not any(p.on and p.put_away.on for p in book.step_plans):
        yield doubt(
            "nothing_put_away",
            "dock_rules",
            "No plan puts anything away, and it is decided then: these rules have no effect.",
        )


def _may_be(group: str, item: str, applies: Conditions) -> bool:
    """May a rule be for an item, as far as groups and items say?"""
    return (not applies.groups or group in applies.groups) and (not applies.items or item in applies.items)
