"""Drafts of the rulebook: edits with a look at what would follow, undo, the file, in force."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from datetime import datetime
from typing import Any, Literal

from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.doors import check_site, needs, person
from mindful_crate.api.openings import opening_state
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.effects import effects as effects_of
from mindful_crate.core.proving.findings.finding import Finding, newly_missing
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.proving.on_handset import Agrees, orders_shown
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.chapter import Note
from mindful_crate.core.rulebook.chapters import chapter_of, where
from mindful_crate.core.rulebook.edits import Edit
from mindful_crate.core.rulebook.layers import merged, parts_told, taken_apart
from mindful_crate.files.texts import read_rulebook, rulebook_text
from mindful_crate.store import db
from mindful_crate.store.drafts import Draft, Supposed
from mindful_crate.store.rows import DraftRow, GeneralRow, WorldRow

api = APIBlueprint("drafts", __name__, url_prefix="/api", abp_tags=[Tag(name="drafts")], doc_ui=WITH_DOCUMENT)


class DraftHead(Answer):
    """A draft in a list."""

    id: str
    name: str
    site: str
    version: int
    says: str
    differs_from_force: bool


class DraftList(Answer):
    """Drafts of the sites the person sees."""

    drafts: list[DraftHead]


class NewDraft(Body):
    """A draft to make: a copy of another, for the same site or for site ``to``."""

    of: str = Field(max_length=80)
    name: str = Field(max_length=80)
    to: str = Field(default="", max_length=20)
    bare: bool = False
    """Does it begin with no rules of its own?"""


class ToSite(Body):
    """A site."""

    to: str = Field(max_length=20)


class Lost(Answer):
    """What a copy of a draft would lack at another site."""

    lost: list[Note]


class DraftName(Body):
    """What a draft is called."""

    name: str = Field(max_length=80)


class MadeDraft(Answer):
    """The id of what was made."""

    id: str


class OnGeneral(Answer):
    """A draft, and the version it stands on of what holds for all sites; ``lacks``: what it would not find on the newest."""

    id: str
    name: str
    site: str
    general: int
    lacks: list[Note]


class GeneralView(Answer):
    """What holds for all sites: the number of its newest version, what made it, what is in it, which drafts stand on which
    version, and whether the person may change it."""

    no: int
    says: str
    made_by: str
    made_at: datetime | None
    parts: list[str]
    drafts: list[OnGeneral]
    in_force: dict[str, int]
    may_edit: bool


class Standing(Answer):
    """How a draft stands."""

    version: int
    rulebook: str
    can_undo: bool
    can_redo: bool
    says: str
    in_force: int | None
    differs_from_force: bool
    general: int
    """The version of what holds for all sites that it stands on."""
    findings: dict[str, int]
    """How much was found in each chapter, and of that what stops; what no chapter shows is under an empty word."""
    stops: dict[str, int]


class DraftView(Standing):
    """A draft as the studio shows it."""

    id: str
    name: str
    site: str
    opening: str


class Edited(Standing):
    """What an edit made of a draft: where new parts are, and, when it was only looked at, what would follow."""

    made: list[str]
    follows: list[Note]
    effects: list[str]
    """What becomes of open orders, of goods and of what is under way, in sentences."""


class EditBody(Body):
    """One edit of a draft; see ``core.rulebook.edits``."""

    op: Literal["set", "insert", "remove", "move", "add", "copy", "share", "own"]
    path: str = Field(max_length=300)
    value: Any = None
    at: int | None = Field(default=None, ge=0, le=10_000)


class EditsBody(Body):
    """Edits made on a version of the draft; with ``look`` nothing is kept, and what would follow is answered."""

    version: int
    edits: list[EditBody] = Field(max_length=50)
    says: str = Field(default="", max_length=300)
    look: bool = False


class VersionBody(Body):
    """The version somebody looked at."""

    version: int


class OrdersShown(Answer):
    """Every order of a draft's site, whether it is on a handset, and what decides that."""

    orders: list[ShownView]


class ShownView(Answer):
    """One order."""

    order: str
    shown: bool
    says: str
    agrees: list[Agrees]


class RuleFile(Body):
    """A rulebook file as text."""

    version: int
    text: str = Field(max_length=2_000_000)


@api.get("/drafts", responses={200: DraftList, **PROBLEMS})
@needs(Right.LOOK)
def drafts() -> DraftList:
    """Drafts of the sites the person sees."""
    with wired(current_app).database.transaction() as conn:
        found = db.rows(conn, DraftRow, "drafts", sites=person().row.sites)
        force = {site: wired(current_app).drafts.in_force(conn, site) for site in {d.site for d in found}}
    heads = [
        DraftHead(
            id=d.id, name=d.name, site=d.site, version=d.version, says=d.says,
            differs_from_force=(now := force[d.site]) is None or not now.is_of(d),
        )
        for d in found
    ]  # fmt: skip
    return DraftList(drafts=heads)


@api.post("/drafts", responses={200: MadeDraft, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def copy_draft(body: NewDraft) -> MadeDraft:
    """A new draft of the same site that says what another says now."""
    with wired(current_app).database.transaction() as conn:
        seen_draft(conn, body.of)
        if body.to:
            check_site(body.to)
        return MadeDraft(
            id=wired(current_app).drafts.copy(conn, body.of, body.name, person().id, body.to, bare=body.bare)
        )


@api.get("/drafts/<id>/lost", responses={200: Lost, **PROBLEMS})
@needs(Right.LOOK)
def lost(path: ById, query: ToSite) -> Lost:
    """What cannot go along when a draft is copied to another site: what it names and would not find there."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        check_site(query.to)
        at: dict[Note, list[str]] = {}
        for f in wired(current_app).drafts.lost_at(conn, found, query.to):
            note = evolve(note_of(f), path="")
            at.setdefault(note, []).append(where(f.place, found.rulebook)[0])
        return Lost(lost=[evolve(note, says=f"{_listed(places)}: {note.says}") for note, places in at.items()])


def _listed(places: list[str]) -> str:
    """Places as one text, what they begin with said once: ``Bin rules, rule 1, rule 3``."""
    first, *rest = dict.fromkeys(places)
    head = first.partition(", ")[0]
    return ", ".join([first, *(p.removeprefix(f"{head}, ") for p in rest)])


@api.get("/general", responses={200: GeneralView, **PROBLEMS})
@needs(Right.LOOK)
def general() -> GeneralView:
    """What holds for all sites, and how the drafts of the person's sites stand on it."""
    drafts_ = wired(current_app).drafts
    with wired(current_app).database.transaction() as conn:
        row, now = db.row(conn, GeneralRow, "general"), drafts_.general(conn)
        sites = person().row.sites
        on = [
            OnGeneral(
                id=d.id, name=d.name, site=d.site, general=d.general,
                lacks=[note_of(f) for f in drafts_.lost_by_going(conn, d, now.no)] if d.general != now.no else [],
            )
            for d in db.rows(conn, DraftRow, "drafts", sites=sites)
        ]  # fmt: skip
        force = {s: f.general for s in sites if (f := drafts_.in_force(conn, s))}
        return GeneralView(
            no=now.no, says=row.says if row else "", made_by=row.made_by if row else "", made_at=row.made_at if row else None,
            parts=parts_told(now.rulebook), drafts=on, in_force=force, may_edit=not _unseen(conn),
        )  # fmt: skip


def _unseen(conn: db.Conn) -> list[str]:
    """Sites with drafts that the person does not see: what holds for all sites holds there too."""
    return [s for s in wired(current_app).drafts.sites(conn) if s not in person().row.sites]


def _for_all_sites(conn: db.Conn, before: Draft, general: Rulebook) -> None:
    """Refuse a change of what holds for all sites to whoever does not see them all."""
    drafts_ = wired(current_app).drafts
    if general != drafts_.general_at(conn, before.row.general).rulebook and (unseen := _unseen(conn)):
        names = ", ".join(unseen)
        raise Refusal(
            "not_your_sites", f"That holds for all sites, and {names} is not among yours. Copy it for your site."
        )


@api.post("/drafts/<id>/along", responses={200: Edited, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def bring_along(path: ById, body: VersionBody) -> Edited:
    """Let a draft that stayed behind stand on what holds for all sites as it is now."""
    with wired(current_app).database.transaction() as conn:
        seen_draft(conn, path.id)
        return _edited(conn, wired(current_app).drafts.bring_along(conn, path.id, body.version))


@api.put("/drafts/<id>", responses={200: DraftView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def name_draft(path: ById, body: DraftName) -> DraftView:
    """Call a draft otherwise."""
    with wired(current_app).database.transaction() as conn:
        seen_draft(conn, path.id)
        wired(current_app).drafts.rename(conn, path.id, body.name)
        return _view(conn, seen_draft(conn, path.id))


@api.delete("/drafts/<id>", responses={204: None, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def close_draft(path: ById) -> Response:
    """Work on a draft no longer; runs and results that name it stay."""
    with wired(current_app).database.transaction() as conn:
        seen_draft(conn, path.id)
        wired(current_app).drafts.close(conn, path.id)
    return Response(status=204)


@api.get("/drafts/<id>", responses={200: DraftView, **PROBLEMS})
@needs(Right.LOOK)
def draft(path: ById) -> DraftView:
    """One draft as sentences."""
    with wired(current_app).database.transaction() as conn:
        return _view(conn, seen_draft(conn, path.id))


@api.post("/drafts/<id>/edits", responses={200: Edited, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def edit(path: ById, body: EditsBody) -> Edited:
    """Save edits, or look at what would follow; a stale version is answered with what changed meanwhile."""
    edits = tuple(Edit(e.op, e.path, e.value, e.at) for e in body.edits)
    drafts_ = wired(current_app).drafts
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        made: list[str] = []
        if body.look:
            after = drafts_.supposed(conn, found, edits)
            return _edited(conn, found, (), _follows(conn, found, after), _effects(conn, found, after))
        says = body.says or f"{len(edits)} edits."
        edited = drafts_.edit(conn, path.id, body.version, edits, says, person().id, made)
        _for_all_sites(conn, found, drafts_.general_at(conn, edited.row.general).rulebook)
        return _edited(conn, edited, made)


def _follows(conn: db.Conn, before: Draft, after: Supposed) -> list[Note]:
    """What would be found that is not found now, and what would not be any more; at other sites too, where something would
    change for all."""
    parts = wired(current_app)
    site = SiteCode(before.row.site)
    ground = parts.worlds.ground(conn, before.row.opening)
    follows = _told_apart(findings(before.rulebook, ground, site), findings(after.whole, ground, site))
    if after.general == parts.drafts.general_at(conn, before.row.general).rulebook:
        return follows
    for row in db.rows(conn, DraftRow, "drafts", sites=person().row.sites):
        if row.id == before.row.id or row.general != before.row.general:
            continue
        other = parts.drafts.get(conn, row.id)
        ground, there = parts.worlds.ground(conn, row.opening), SiteCode(row.site)
        then = findings(merged(after.general, taken_apart(other.rulebook)[1]), ground, there)
        known = parts.drafts.found(conn, other)
        follows += [evolve(n, says=f"{row.site}, {row.name}: {n.says}", path="") for n in _told_apart(known, then)]
        if newly_missing(known, then):
            follows.append(
                Note("follows", "doubt", f"{row.site}, {row.name}: stays on what holds for all sites today.")
            )
    return follows


def _effects(conn: db.Conn, before: Draft, after: Supposed) -> list[str]:
    """What a change of plans and recipes makes of the site's live floor, or, where there is none, of its opening."""
    parts, site = wired(current_app), before.row.site
    live = db.row(conn, WorldRow, "live_world", site=site)
    if live is None:
        state = opening_state(parts.worlds.ground(conn, before.row.opening), site)
        return effects_of(before.rulebook, after.whole, state)
    with parts.worlds.reading(conn, live.id) as world:
        return effects_of(before.rulebook, after.whole, world.state)


def _told_apart(before: Sequence[Finding], after: Sequence[Finding]) -> list[Note]:
    was, now = ({(f.place, f.says): f for f in found} for found in (before, after))
    new = [note_of(f, "follows") for key, f in now.items() if key not in was]
    gone = [Note("follows", "holds", f"No longer found: {f.says}", f.place) for key, f in was.items() if key not in now]
    return [*new, *gone]


def note_of(finding: Finding, kind: Literal["finding", "follows"] = "finding") -> Note:
    """A finding as it is said under its row."""
    says = finding.says + (f" For example `{finding.witness}`." if finding.witness else "")
    return Note(kind, "stops" if finding.severity.value == "blocks" else "doubt", says, finding.place)


def by_chapter(found: list[Finding]) -> dict[str, int]:
    """How many findings each chapter has; those of no chapter under an empty word."""
    return dict(Counter(chapter_of(f.place) for f in found))


@api.post("/drafts/<id>/undo", responses={200: Edited, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def undo(path: ById, body: VersionBody) -> Edited:
    """Take the last edit back."""
    return _stepped(path.id, body.version, -1)


@api.post("/drafts/<id>/redo", responses={200: Edited, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def redo(path: ById, body: VersionBody) -> Edited:
    """Make an edit that was taken back again."""
    return _stepped(path.id, body.version, 1)


def _stepped(id_: str, version: int, by: int) -> Edited:
    with wired(current_app).database.transaction() as conn:
        before = seen_draft(conn, id_)
        drafts_ = wired(current_app).drafts
        stepped = drafts_.step(conn, id_, version, by, person().id)
        _for_all_sites(conn, before, drafts_.general_at(conn, stepped.row.general).rulebook)
        return _edited(conn, stepped)


@api.get("/drafts/<id>/orders", responses={200: OrdersShown, **PROBLEMS})
@needs(Right.LOOK)
def shown_orders(path: ById) -> OrdersShown:
    """Which orders are on a handset by the draft as it stands, at the opening, and why the others are not."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        ground = wired(current_app).worlds.ground(conn, found.row.opening)
    shown = orders_shown(opening_state(ground, found.row.site), found.rulebook)
    return OrdersShown(
        orders=[ShownView(order=s.order, shown=s.shown, says=s.says, agrees=list(s.agrees)) for s in shown]
    )


@api.get("/drafts/<id>/file", responses={200: {"content": {"application/json": {}}}, **PROBLEMS})
@needs(Right.LOOK)
def file(path: ById) -> Response:
    """The rulebook as a file."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
    name = f"{found.row.id}.rulebook.json"
    headers = {"Content-Disposition": f"attachment; filename={name}"}
    return Response(rulebook_text(found.rulebook), mimetype="application/json", headers=headers)


@api.put("/drafts/<id>/file", responses={200: DraftView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def bring_in(path: ById, body: RuleFile) -> DraftView:
    """Make a rulebook file the site's own rules; it can be undone. What holds for all sites stays as it is."""
    rulebook = read_rulebook(body.text)
    with wired(current_app).database.transaction() as conn:
        seen_draft(conn, path.id)
        drafts_ = wired(current_app).drafts
        return _view(
            conn, drafts_.replace(conn, path.id, body.version, rulebook, "A file was brought in.", person().id)
        )


def seen_draft(conn: db.Conn, id_: str) -> Draft:
    """A draft of a site that the person may see."""
    found = wired(current_app).drafts.get(conn, id_)
    check_site(found.row.site)
    return found


def _view(conn: db.Conn, found: Draft) -> DraftView:
    row = found.row
    return DraftView(id=row.id, name=row.name, site=row.site, opening=row.opening, **_standing(conn, found))


def _edited(
    conn: db.Conn, found: Draft, made: Sequence[str] = (), follows: Sequence[Note] = (), effects: Sequence[str] = ()
) -> Edited:
    return Edited(**_standing(conn, found), made=list(made), follows=list(follows), effects=list(effects))


def _standing(conn: db.Conn, found: Draft) -> dict[str, Any]:
    """How a draft stands, for those who look at it and those who changed it."""
    row, parts = found.row, wired(current_app)
    force = parts.drafts.in_force(conn, row.site)
    found_ = list(parts.drafts.found(conn, found))
    return {
        "version": row.version, "rulebook": row.rulebook, "can_undo": row.cursor > 1, "can_redo": row.cursor < row.last_step,
        "says": row.says, "in_force": force.no if force else None,
        "differs_from_force": force is None or not force.is_of(row), "general": row.general,
        "findings": by_chapter(found_), "stops": by_chapter([f for f in found_ if f.severity.value == "blocks"]),
    }  # fmt: skip
