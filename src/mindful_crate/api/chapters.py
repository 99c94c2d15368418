"""Chapters of a draft as pages, what their words may say instead, what must be computed of them, and all that was found."""

from __future__ import annotations

from typing import Literal

from flask import current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field, RootModel

from mindful_crate.api.doors import needs
from mindful_crate.api.drafts import note_of, seen_draft
from mindful_crate.api.openings import opening_state
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.catalog.ids import RuleId, SiteCode, ZoneCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.effective import Effective, effective
from mindful_crate.core.proving.overruling import overruled_told
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.chapter import Chapter, Draw, Fact, narrowed
from mindful_crate.core.rulebook.chapters import CHAPTERS, chapter_of, draw, where
from mindful_crate.core.rulebook.choices import Choices, choices
from mindful_crate.core.rulebook.words.parts import words_of
from mindful_crate.core.rulebook.words.settings import WHENCE
from mindful_crate.core.world.supposing import open_goods, reach, reach_told
from mindful_crate.store import db
from mindful_crate.store.drafts import Draft
from mindful_crate.store.rows import PersonRow, WorldRow

api = APIBlueprint("chapters", __name__, url_prefix="/api", abp_tags=[Tag(name="chapters")], doc_ui=WITH_DOCUMENT)


class ChapterPath(Body):
    """A chapter of a draft."""

    id: str = Field(max_length=80)
    chapter: str = Field(max_length=40)


class TabQuery(Body):
    """Which of its lists; a rule's id finds the list it is in. ``most``: so many rows of a long list, and on to that rule; 0:
    all. ``find``: of all of them only those that hold these words."""

    tab: str = Field(default="", max_length=80)
    most: int = Field(default=0, ge=0, le=100_000)
    find: str = Field(default="", max_length=80)


class ChapterView(Answer):
    """A page, and the version of the draft it shows."""

    version: int
    page: Chapter


class Reached(Answer):
    """What was computed of a rule."""

    path: str
    says: str
    overruled: str = ""
    """How often another bin was taken on the live floor, and why; empty: never."""


class FactsView(Answer):
    """What must be computed of a chapter's rows."""

    facts: list[Reached]


class FoundView(Answer):
    """A finding, with the chapter that shows its place: ``at`` says where, ``link`` leads there."""

    code: str
    severity: Literal["blocks", "doubt"]
    chapter: str
    place: str
    says: str
    witness: str
    at: str
    link: str


class FoundList(Answer):
    """All findings of a draft."""

    findings: list[FoundView]


class PlaceView(Answer):
    """A part of the rulebook that can be searched for."""

    kind: str
    says: str
    chapter: str
    id: str


class PlaceList(Answer):
    """Everything in the rulebook that has a place on a page."""

    places: list[PlaceView]


class ChoicesView(RootModel[Choices]):
    """What a live word may be changed to."""


class ChoicesQuery(Body):
    """Which word: its field, and where it stands."""

    field: str = Field(max_length=40)
    path: str = Field(default="", max_length=300)


@api.get("/drafts/<id>/chapters/<chapter>", responses={200: ChapterView, **PROBLEMS})
@needs(Right.LOOK)
def chapter(path: ChapterPath, query: TabQuery) -> ChapterView:
    """One chapter as a page."""
    with wired(current_app).database.transaction() as conn:
        found, ground = _with_ground(conn, path.id)
        what = _draw(
            conn, found, ground, holds=path.chapter == "settings", most=0 if query.find.strip() else query.most
        )
    page = draw(path.chapter, what, query.tab)
    if page is None:
        raise Refusal("unknown_chapter", f"The rulebook has no chapter `{path.chapter}`.")
    return ChapterView(version=found.row.version, page=narrowed(page, query.find))


def _with_ground(conn: db.Conn, id_: str) -> tuple[Draft, Ground]:
    found = seen_draft(conn, id_)
    return found, wired(current_app).worlds.ground(conn, found.row.opening)


def _draw(conn: db.Conn, found: Draft, ground: Ground, *, holds: bool = False, most: int = 0) -> Draw:
    book, site = found.rulebook, SiteCode(found.row.site)
    notes = tuple(note_of(f) for f in wired(current_app).drafts.found(conn, found))
    facts = tuple(_fact(e) for e in effective(book, ground, site)) if holds else ()
    people = (p for p in db.rows(conn, PersonRow, "people") if p.active and (not p.sites or site in p.sites))
    members: dict[str, tuple[str, ...]] = {}
    for each in people:
        for crew in each.crews:
            members[crew] = (*members.get(crew, ()), each.id)
    return Draw(book, ground, site, notes, facts, most, members)


def _fact(held: Effective) -> Fact:
    link = next(id_ for id_, kind in CHAPTERS.items() if kind.title == held.chapter)
    return Fact(held.of, held.setting, held.value, held.level, WHENCE[held.level], held.otherwise, held.chapter, link)


@api.get("/drafts/<id>/chapters/<chapter>/facts", responses={200: FactsView, **PROBLEMS})
@needs(Right.LOOK)
def facts(path: ChapterPath, query: TabQuery) -> FactsView:
    """How far each bin rule of a list reaches, and how many open goods it decides; other chapters have none."""
    parts = wired(current_app)
    told: dict[RuleId, str] = {}
    with parts.database.transaction() as conn:
        found, ground = _with_ground(conn, path.id)
        site = SiteCode(found.row.site)
        purpose = next((p for p in BinPurpose if p.value == query.tab), None)
        lists = found.rulebook.lists_for(site, purpose) if purpose else []
        live = db.row(conn, WorldRow, "live_world", site=site) if lists else None
        if live is not None:
            with parts.worlds.reading(conn, live.id) as w:
                told = overruled_told(w.state, [r.id for r in lists[0].rules])
    if path.chapter != "bin-rules" or purpose is None or not lists:
        return FactsView(facts=[])
    # goods are supposed there one after another: in a state of its own, for what others ask meanwhile of the opening
    state = State(ground, opening_state(ground, site).settings)
    kind = next(iter(ground.plate_kinds), None)
    supposed = open_goods(state, found.rulebook, purpose, kind, None)
    list_ = lists[0]
    far = reach(state, tuple(r for r in list_.rules if r.on), supposed)
    return FactsView(
        facts=[
            Reached(
                path=f"bin_rules/{list_.id}/rules/{id_}",
                says=reach_told(each, len(supposed), purpose),
                overruled=told.get(RuleId(id_), ""),
            )
            for id_, each in far.items()
        ]
    )


@api.get("/drafts/<id>/choices", responses={200: ChoicesView, **PROBLEMS})
@needs(Right.LOOK)
def word_choices(path: ById, query: ChoicesQuery) -> ChoicesView:
    """What a live word may be changed to."""
    with wired(current_app).database.transaction() as conn:
        found, ground = _with_ground(conn, path.id)
    state = opening_state(ground, found.row.site)

    def free(zone: ZoneCode) -> tuple[int, int]:
        bins = ground.bins_by_zone[zone]
        return sum(not state.held(b.code).kinds and state.blocked(b.code) is None for b in bins), len(bins)

    answer = choices(query.field, ground, SiteCode(found.row.site), free, found.rulebook)
    if answer is None:
        raise Refusal("unknown_word", f"No word has the field {query.field}.")
    return ChoicesView(answer)


@api.get("/drafts/<id>/findings", responses={200: FoundList, **PROBLEMS})
@needs(Right.LOOK)
def found_in(path: ById) -> FoundList:
    """Everything that was found in a draft, what stops it first."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        every = wired(current_app).drafts.found(conn, found)
    listed = []
    for f in every:
        at, link = where(f.place, found.rulebook)
        listed.append(
            FoundView(
                code=f.code, severity=f.severity.value, chapter=chapter_of(f.place), place=f.place, says=f.says,
                witness=f.witness, at=at, link=f"/{link}",
            )
        )  # fmt: skip
    return FoundList(findings=sorted(listed, key=lambda f: f.severity != "blocks"))


@api.get("/drafts/<id>/places", responses={200: PlaceList, **PROBLEMS})
@needs(Right.LOOK)
def places(path: ById) -> PlaceList:
    """Everything that has a place on a page: rules by their sentences, plans, flows and crews by name."""
    with wired(current_app).database.transaction() as conn:
        found, ground = _with_ground(conn, path.id)
        what = _draw(conn, found, ground)
    listed = []
    for id_ in CHAPTERS:
        page = draw(id_, what, "")
        tabs = [t.id for t in page.tabs] if page and page.tabs else [""]
        for tab in tabs:
            shown = draw(id_, what, tab)
            for section in shown.sections if shown else ():
                for n, row in enumerate(section.rows, start=1):
                    says = row.name.text if row.name else words_of(row.parts)
                    kind = section.called.lower() if row.name else f"{section.called.lower()} {n}"
                    listed.append(PlaceView(kind=kind, says=says, chapter=id_, id=row.id))
    return PlaceList(places=listed)
