"""The chapters of the rulebook: a new one is a row here, a module of words, one of findings."""

from __future__ import annotations

from mindful_crate.core.record import record
from mindful_crate.core.rulebook.chapter import Chapter, Draw, Draws
from mindful_crate.core.rulebook.words import bin_rules_page, scanner_page, settings_page, steps_page


@record
class Kind:
    """A chapter: what it is called, and the parts of the rulebook it shows."""

    title: str
    parts: tuple[str, ...]
    draws: Draws


CHAPTERS: dict[str, Kind] = {
    "steps": Kind("Steps", ("step_plans", "recipes"), steps_page.draw),
    "bin-rules": Kind("Bin rules", ("bin_rules",), bin_rules_page.draw),
    "scanner": Kind("Scanner", ("flows", "menus", "crews"), scanner_page.draw),
    "settings": Kind("Settings", ("settings",), settings_page.draw),
}
"""In the order the work is done."""


def chapter_of(place: str) -> str:
    """The chapter that shows a place of the rulebook; empty when none does."""
    part = place.partition("/")[0]
    return next((id_ for id_, kind in CHAPTERS.items() if part in kind.parts), "")


def draw(id_: str, what: Draw, tab: str) -> Chapter | None:
    """A page; None when there is no such chapter."""
    kind = CHAPTERS.get(id_)
    return kind.draws(what, tab) if kind else None
