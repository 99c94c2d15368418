"""Pages of the rulebook as data: a chapter is sections of rows of sentences with lists in them, what may be added, moved,
switched, copied and removed. One page draws any of them; the screens hold no words and no rules."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal, Protocol, TypeVar

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.plain import Plain, to_plain
from mindful_crate.core.record import evolve, record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.edits import Edit
from mindful_crate.core.rulebook.scope import Layered
from mindful_crate.core.rulebook.settings import Level
from mindful_crate.core.rulebook.words.parts import Layers, Names, Part, words_of


@record
class Note:
    """Something that is said under a row. ``mark`` is how it is shown, ``link`` where it leads."""

    kind: Literal["fact", "finding", "follows"]
    mark: Literal["holds", "doubt", "stops", "information"]
    says: str
    path: str = ""
    link: str = ""


@record
class Act:
    """Something that can be done with a row: edits, and what is told of them. ``look``: what would follow is shown first."""

    id: str
    says: str
    edits: tuple[Edit, ...]
    told: str
    look: bool = False


@record
class Option:
    """Something that can be chosen when a part is added."""

    value: str | None
    label: str
    note: str = ""


@record
class Add:
    """What can be added to the list at ``path``; with ``options`` one of them is chosen, else it is made after ``value``."""

    says: str
    path: str
    told: str
    options: tuple[Option, ...] = ()
    value: str | None = None


@record
class Row:
    """A part of the rulebook on a page. ``off`` says that it is switched off; ``lists`` are the lists within it, ``fold`` what
    opens them, should they be folded; ``notes`` are said under it."""

    id: str
    path: str
    parts: tuple[Part, ...]
    name: Part | None = None
    off: bool = False
    for_all: bool = False
    """Is it of all sites?"""
    lists: tuple[Section, ...] = ()
    fold: str = ""
    notes: tuple[Note, ...] = ()
    acts: tuple[Act, ...] = ()


@record
class Line:
    """A line of a table: words that can be changed."""

    title: str
    cells: tuple[Part, ...]
    otherwise: str = ""


@record
class Matrix:
    """A table of words: levels against things."""

    columns: tuple[str, ...]
    lines: tuple[Line, ...]


@record
class Node:
    """A place or a step that goods come to, and by what. ``path`` is where it is decided, ``link`` where that is shown; ``on`` says
    whether they come there at all."""

    id: str
    title: str
    code: str = ""
    says: str = ""
    path: str = ""
    link: str = ""
    on: bool = True
    zone: str = ""
    """The zone it is, if it is one."""


@record
class Edge:
    """Goods go from one node to another, or do not when it is off; ``link`` is where that is decided."""

    source: str
    target: str
    on: bool = True
    link: str = ""


@record
class Graph:
    """A map of where goods go."""

    nodes: tuple[Node, ...]
    edges: tuple[Edge, ...]


@record
class Fact:
    """A value that holds, where it comes from (``whence`` in words), and what would hold otherwise; the chapter it is set in
    by title and id."""

    of: str
    setting: str
    value: str
    level: Level
    whence: str
    otherwise: str
    chapter: str
    link: str


@record
class Section:
    """Rows of one kind under a title: sentences, cards, a table of words, what holds, or a map."""

    id: str
    widget: Literal["sentences", "cards", "matrix", "facts", "graph"]
    title: str = ""
    lead: str = ""
    empty: str = ""
    ordered: bool = False
    called: str = "row"
    """What one row is called, where it is moved."""
    add: tuple[Add, ...] = ()
    acts: tuple[Act, ...] = ()
    for_all: bool = False
    """Is the list the rows stand in of all sites?"""
    rows: tuple[Row, ...] = ()
    more: int = 0
    """How many rows come after those, which were not asked for."""
    passed_over: int = 0
    """How many rows do not read like what is looked for."""
    places: tuple[int, ...] = ()
    """Where in the list each row stands, counted from 0, when not all of it is shown."""
    matrix: Matrix | None = None
    facts: tuple[Fact, ...] = ()
    graph: Graph | None = None


@record
class Tab:
    """One of the lists a chapter shows one at a time."""

    id: str
    title: str
    findings: int = 0


@record
class Chapter:
    """A page."""

    id: str
    title: str
    lead: str = ""
    tabs: tuple[Tab, ...] = ()
    tab: str = ""
    begin: Add | None = None
    sections: tuple[Section, ...] = ()
    bench: Literal[
        "",
        "puts",
        "takes",
        "journey",
        "handset",
        "agreement",
        "tasks",
        "labels",
        "gates",
        "waves",
        "packing",
        "counts",
        "returns",
        "classes",
    ] = ""
    """What the bench beside it asks; empty: nothing."""
    asks: str = ""
    """What it is asked with, where a chapter asks in several ways."""
    looks: bool = False
    """Is it shown what a change makes, alters and leaves behind, before it is saved?"""


class Identified(Protocol):
    """Something with an id."""

    @property
    def id(self) -> str:
        """Its id."""
        ...


class Run(Identified, Layered, Protocol):
    """What runs by the clock, of a site or of all."""

    @property
    def on(self) -> bool:
        """Is it switched on?"""
        ...


K = TypeVar("K", bound=Identified)


@dataclass(frozen=True)
class Draw:
    """What a page is drawn from: a rulebook as it stands, for a site, with what was found in it."""

    book: Rulebook
    ground: Ground
    site: SiteCode
    found: tuple[Note, ...] = ()
    """Findings, each at its place."""
    facts: tuple[Fact, ...] = ()
    """What holds at the site, for the chapter that shows it."""
    most: int = 0
    """How many rows of a long list are drawn; 0: all of them."""
    members: Mapping[str, tuple[str, ...]] | None = None
    """Who is in each crew; None: not known."""
    _at: dict[str, Any] = field(default_factory=dict)
    """What stands at paths that were asked for, and lists by the ids of their parts."""
    _noted: dict[str, list[Note]] = field(default_factory=dict)
    """Findings at each path and within it."""

    def at(self, path: str) -> Plain:
        """What stands at a path of the rulebook, plain; None when nothing does."""
        return to_plain(self._part(path))

    def _part(self, path: str) -> Any:
        """The same as it is; each step is looked for once a page."""
        if path not in self._at:
            above, _, step = path.rpartition("/")
            parent = self._part(above) if above else self.book
            if isinstance(parent, tuple):
                ids = f"{above}/"
                if ids not in self._at:
                    self._at[ids] = {getattr(part, "id", None): part for part in parent}
                self._at[path] = self._at[ids].get(step)
            else:
                self._at[path] = getattr(parent, step, None)
        return self._at[path]

    def first(self, parts: Sequence[K], wanted: str = "") -> Sequence[K]:
        """As many parts of a long list as are drawn, and on to ``wanted``, should it stand farther down."""
        if not self.most or len(parts) <= self.most:
            return parts
        at = next((n for n, part in enumerate(parts) if part.id == wanted), 0) if wanted else 0
        return parts[: max(self.most, at + 5)]

    @property
    def names(self) -> Names:
        """What codes are called."""
        return Names(self.ground)

    @property
    def layers(self) -> Layers:
        """The settings and the site they are asked for."""
        return self.book.settings, self.site

    def parts(self, sentence: Iterable[Part]) -> tuple[Part, ...]:
        """A sentence with the value behind each word."""
        return tuple(Part(p.kind, p.text, p.path, p.field, self.at(p.path), p.line) if p.path else p for p in sentence)

    def word(self, text: str, path: str, of: str) -> Part:
        """One word with its value; ``of`` is its field."""
        return Part("word", text, path, of, self.at(path))

    def notes(self, path: str, within: bool = True) -> tuple[Note, ...]:
        """What was found at a place, and within it."""
        if self.found and not self._noted:
            for note in self.found:
                steps = note.path.split("/")
                for n in range(1, len(steps) + 1):
                    self._noted.setdefault("/".join(steps[:n]), []).append(note)
        return tuple(n for n in self._noted.get(path, ()) if within or n.path == path)


def copy_act(path: str, told: str) -> Act:
    """Once more, after itself."""
    return Act("copy", "Copy", (Edit("copy", path),), told)


def remove_act(path: str, told: str, *, look: bool = False) -> Act:
    """Away with it; with a look at what would follow where others may hang on it."""
    return Act("remove", "Remove", (Edit("remove", path),), told, look)


def layer_acts(path: str, called: str, part: Layered, site: SiteCode) -> tuple[Act, ...]:
    """Give a site's own part to all sites; put one of all sites once more, as the site's own. ``called`` begins a sentence."""
    if part.site is None:
        return (Act("own", "Copy for this site", (Edit("own", path, site),), f"{called} was copied for this site."),)
    return (Act("share", "Give to all sites", (Edit("share", path),), f"{called} was given to all sites.", look=True),)


def switch_act(path: str, on: bool, called: str) -> Act:
    """Off, or on again."""
    word = "off" if on else "on"
    return Act("switch", f"Switch {word}", (Edit("set", path, not on),), f"{called} switched {word}.")


def run_row(what: Draw, path: str, run: Run, n: int, says: Iterable[Part]) -> Row:
    """What runs by the clock, as a sentence: the how-manyeth it is."""
    called = f"Run {n}"
    return Row(
        run.id, path, what.parts(says), off=not run.on, notes=what.notes(path), for_all=run.site is None,
        acts=(
            switch_act(f"{path}/on", run.on, called), copy_act(path, f"{called} was copied."), *layer_acts(path, called, run, what.site),
            remove_act(path, f"{called} was removed."),
        ),
    )  # fmt: skip


def narrowed(page: Chapter, find: str) -> Chapter:
    """A page with only those rows that hold every word that is looked for, in their name, their sentences, or the lists within them."""
    wanted = find.lower().split()
    if not wanted:
        return page
    sections = []
    for section in page.sections:
        places = tuple(n for n, r in enumerate(section.rows) if all(w in _text(r) for w in wanted))
        rows = tuple(section.rows[n] for n in places)
        there = tuple(section.places[n] for n in places) if section.places else places
        sections.append(evolve(section, rows=rows, passed_over=len(section.rows) - len(rows), places=there))
    return evolve(page, sections=tuple(sections))


def _text(row: Row) -> str:
    """All that a row says, in small letters."""
    own = f"{row.id} {row.name.text if row.name else ''} {words_of(row.parts)}"
    return " ".join([own, *(_text(each) for part in row.lists for each in part.rows)]).lower()


Draws = Callable[[Draw, str], Chapter]
"""Draws a chapter, with the tab that is asked for."""


def options(table: dict[Any, str], but: Sequence[Any] = ()) -> tuple[Option, ...]:
    """What can be chosen from a table of words, but some."""
    return tuple(Option(getattr(k, "value", k), text) for k, text in table.items() if k not in but)
