"""What is otherwise in one rulebook than in another, in the sentences of its pages."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.chapter import Draw, Row, Section
from mindful_crate.core.rulebook.chapters import CHAPTERS, draw, where
from mindful_crate.core.rulebook.words.parts import words_of


@record
class Difference:
    """Something new, gone, said otherwise, or at another place in its list: where, and in words before and after."""

    what: Literal["new", "gone", "changed", "moved"]
    at: str
    link: str
    before: str = ""
    after: str = ""


@record
class _Said:
    says: str
    list_: str
    n: int


def differences(before: Rulebook, after: Rulebook, ground: Ground, site: SiteCode) -> list[Difference]:
    """What changes from one rulebook to another, chapter by chapter; nothing when they say the same."""
    old, new = _said(before, ground, site), _said(after, ground, site)
    found: list[Difference] = []
    for path, now in new.items():
        was, (at, link) = old.get(path), where(path, after)
        if was is None:
            found.append(Difference("new", at, link, after=now.says))
        elif was.says != now.says:
            found.append(Difference("changed", at, link, was.says, now.says))
    for path, was in old.items():
        if path not in new:
            found.append(Difference("gone", *where(path, before), before=was.says))
    return [*found, *_moved(old, new, after)]


def _moved(old: dict[str, _Said], new: dict[str, _Said], after: Rulebook) -> Iterator[Difference]:
    """Rows of ordered lists that stand elsewhere among those that were there before: of each list the first such."""
    lists = dict.fromkeys(s.list_ for s in new.values() if s.list_)
    for list_ in lists:
        was = [p for p, s in sorted(old.items(), key=lambda x: x[1].n) if s.list_ == list_ and p in new]
        now = [p for p, s in sorted(new.items(), key=lambda x: x[1].n) if s.list_ == list_ and p in old]
        if was != now:
            path = next(b for a, b in zip(was, now, strict=True) if a != b)
            yield Difference(
                "moved", *where(path, after), f"place {old[path].n}", f"place {new[path].n}: {new[path].says}"
            )


def _said(book: Rulebook, ground: Ground, site: SiteCode) -> dict[str, _Said]:
    what = Draw(book, ground, site)
    found: dict[str, _Said] = {}
    for id_ in CHAPTERS:
        first = draw(id_, what, "")
        for tab in [t.id for t in first.tabs] if first and first.tabs else [""]:
            page = draw(id_, what, tab)
            for section in page.sections if page else ():
                found |= _section(section, f"{id_} {tab}")
    return found


def _section(section: Section, name: str) -> dict[str, _Said]:
    found = {}
    for n, row in enumerate(section.rows, start=1):
        found[row.path] = _Said(_row(row), f"{name} {section.id}" if section.ordered else "", n)
        if not row.fold:  # what is folded is said in the sentence itself
            for inner in row.lists:
                found |= _section(inner, row.path)
    if section.matrix:
        for line in section.matrix.lines:
            for column, cell in zip(section.matrix.columns[1:], line.cells, strict=False):
                found[cell.path] = _Said(f"{line.title}, {column}: {cell.text}", "", 0)
    return found


def _row(row: Row) -> str:
    return (f"{row.name.text}: " if row.name else "") + words_of(row.parts)
