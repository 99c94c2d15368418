"""The page of settings: what is set for all sites and for this one, and all that holds."""

from __future__ import annotations

from mindful_crate.core.rulebook.chapter import Chapter, Draw, Line, Matrix, Section
from mindful_crate.core.rulebook.settings import BUILT_IN, GENERAL
from mindful_crate.core.rulebook.words.settings import TABLES, TITLES


def draw(what: Draw, tab: str) -> Chapter:
    """A table of levels, then the table of what holds."""
    made = {layer.id: layer for layer in what.book.settings}
    levels = ((GENERAL, "all sites"), (str(what.site), what.ground.sites[what.site].name))
    lines = []
    for name, table in TABLES.items():
        cells = []
        for level, _ in levels:
            value = getattr(made[level], name) if level in made else None
            says = "not set here" if value is None else table[value]
            cells.append(what.word(says, f"settings/{level}/{name}", f"set_{name}"))
        lines.append(Line(TITLES[name], tuple(cells), table[BUILT_IN[name]]))
    columns = ("Setting", *(says for _, says in levels), "if neither says anything")
    lead = (
        "What a plan or a flow leaves open is taken from here: what is set for the site, else for all sites. Below stands all "
        "that holds."
    )
    sections = (
        Section("levels", "matrix", matrix=Matrix(columns, tuple(lines))),
        Section("holds", "facts", "What holds", facts=what.facts),
    )
    return Chapter("settings", "Settings", lead, sections=sections, bench="agreement")
