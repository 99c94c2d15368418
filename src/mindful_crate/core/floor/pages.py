"""Whole pages of paper: what stands on them, drawn alike as PDF and on screens."""

from __future__ import annotations

from mindful_crate.core.record import record


@record
class PaperTable:
    """A table of a page. ``wide``: how wide each column is, in shares of the page. A cell may have several lines; in the columns ``large`` the first of
    them is read from afar."""

    title: str
    heads: tuple[str, ...]
    wide: tuple[int, ...]
    rows: tuple[tuple[str, ...], ...]
    large: tuple[int, ...] = ()


@record
class PaperPage:
    """A page: its title with the number that is its barcode, whom it is for (read from afar), what else is said, tables, and what is said beneath; ``signed``
    are lines that somebody signs, ``foot`` stands at the foot of every sheet it needs."""

    title: str
    code: str
    to: tuple[str, ...]
    says: tuple[str, ...]
    above: str
    tables: tuple[PaperTable, ...]
    beneath: tuple[str, ...]
    signed: tuple[str, ...] = ()
    foot: str = ""
