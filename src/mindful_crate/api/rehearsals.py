"""Rehearsals: kept from a desk, run on a draft or on what is in force, opened on a desk again, as files."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime
from zoneinfo import ZoneInfo

import orjson
from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.doors import check_site, needs, person
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.api.worlds import WorldView, opened_from, refuse_unusable, world_row, world_view
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import Settings
from mindful_crate.core.plain import canonical, from_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.moving_over import Moved, moved
from mindful_crate.core.proving.recording import Played, record, step_ids
from mindful_crate.core.proving.rehearse import Beside, Checked, Result, check_script, run_all, settings_of
from mindful_crate.core.proving.rehearse import run as run_script
from mindful_crate.core.proving.script import Expectation, Rehearsal
from mindful_crate.core.proving.standing import Basis, Verdict, stale, verdict
from mindful_crate.core.proving.telling import expectation_told, step_told
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.world.world import Today, World
from mindful_crate.files import gs1
from mindful_crate.files.texts import read_rehearsal, rehearsal_text
from mindful_crate.store import db
from mindful_crate.store import rehearsals as kept
from mindful_crate.store.rows import DraftRow, PinRow, RehearsalRow, ResultRow, RevisionRow, WorldRow

api = APIBlueprint("rehearsals", __name__, url_prefix="/api", abp_tags=[Tag(name="rehearsals")], doc_ui=WITH_DOCUMENT)


class StepView(Answer):
    """A step of a script in words, with its expectations."""

    id: str
    does: str
    by: str
    expects: list[str]


class Ran(Answer):
    """A result, what it speaks for, and whether it still speaks for the rehearsal, the rules and the engine of today."""

    id: int
    verdict: Verdict
    at: datetime
    by: str
    on: str
    """The draft or revision, in words."""
    version: int
    current: bool
    stale: str
    """Why it no longer speaks for today."""
    rulebook: str
    opening: str
    engine: str
    first_difference: str | None


class RehearsalHead(Answer):
    """A rehearsal in the list, with its result on the draft that was asked about and on what is in force."""

    id: str
    name: str
    about: str
    site: str
    steps: int
    pins: int
    version: int
    last: Ran | None
    in_force: Ran | None
    behind: bool
    """Was it made on the ground as it was before?"""
    missing: list[str]
    """What it names that is not on the ground as it is."""
    changed: list[str]
    """What it names that is otherwise there."""
    needs_a_look: bool
    """Has it not passed on the rules that were asked about, or is the ground no longer what it names?"""


class RehearsalList(Answer):
    """All rehearsals of the person's sites, or of a draft's site."""

    rehearsals: list[RehearsalHead]


class VersionView(Answer):
    """A version a rehearsal has had."""

    version: int
    name: str
    says: str
    by: str
    at: datetime
    steps: int
    pins: int


class RehearsalView(Answer):
    """One rehearsal: its steps, the run that is shown, all its runs and all its versions."""

    head: RehearsalHead
    site: str
    site_name: str
    opening: str
    steps: list[StepView]
    at_end: list[str]
    shown: Ran | None
    result: Result | None
    runs: list[Ran]
    versions: list[VersionView]


class RunBody(Body):
    """Which rulebook to run on: a draft by its id, or what is in force. ``draft`` is the one whose results are of
    interest besides."""

    rulebook: str = Field(default="in-force", max_length=80)
    draft: str = Field(default="", max_length=80)


class RunQuery(Body):
    """The draft whose results are of interest, and the run to show."""

    draft: str = Field(default="", max_length=80)
    run: int | None = Field(default=None, ge=1, le=2**53)


class NameBody(Body):
    """What a rehearsal is called and what it proves."""

    name: str = Field(min_length=2, max_length=80)
    about: str = Field(default="", max_length=400)


class VersionPath(Body):
    """A version of a rehearsal."""

    id: str = Field(max_length=80)
    version: int = Field(ge=1, le=2**53)


class KeepBody(Body):
    """Keep what was done in a world as a rehearsal: a new one, or the next version of ``id``. Without ``about`` it proves
    what it did. ``version`` is the version that is to be replaced; refused when it is no longer the latest."""

    name: str = Field(min_length=2, max_length=80)
    id: str | None = Field(default=None, max_length=60)
    about: str | None = Field(default=None, max_length=400)
    version: int | None = Field(default=None, ge=1, le=2**53)


class PinCheck(Answer):
    """Does a pin hold, and what was found."""

    id: int
    holds: bool
    found: str


class PinChecks(Answer):
    """The pins of a desk, checked."""

    checks: list[PinCheck]


class FileBody(Body):
    """A rehearsal file as text."""

    text: str = Field(max_length=2_000_000)


@api.get("/rehearsals", responses={200: RehearsalList, **PROBLEMS})
@needs(Right.LOOK)
def rehearsals(query: RunQuery) -> RehearsalList:
    """Rehearsals with their latest results; of a draft's site, if a draft is named."""
    with wired(current_app).database.transaction() as conn:
        return RehearsalList(rehearsals=_heads(conn, query.draft))


def _heads(conn: db.Conn, draft: str) -> list[RehearsalHead]:
    found = db.rows(conn, RehearsalRow, "rehearsals", sites=person().row.sites)
    about = _Asked(conn, draft)
    if about.draft:
        found = [r for r in found if r.site == about.draft.site]
    return about.heads(found)


def due(conn: db.Conn, draft: str) -> tuple[int, int]:
    """How many rehearsals of a draft's site are to be looked at, and how many there are."""
    heads = _heads(conn, draft)
    return sum(h.needs_a_look for h in heads), len(heads)


@api.get("/rehearsals/<id>", responses={200: RehearsalView, **PROBLEMS})
@needs(Right.LOOK)
def rehearsal(path: ById, query: RunQuery) -> RehearsalView:
    """One rehearsal with its steps, and the run that is asked for, or else the latest on the draft, or of all."""
    with wired(current_app).database.transaction() as conn:
        return _rehearsal_view(conn, _get(conn, path.id)[0], query.draft, query.run)


class _Asked:
    """What results are looked at for: a draft's rules as they stand, and those in force at a site."""

    def __init__(self, conn: db.Conn, draft: str) -> None:
        self.conn, self.parts = conn, wired(current_app)
        self.draft: DraftRow | None = self.parts.drafts.get(conn, draft).row if draft else None
        self.names = {d.id: d.name for d in db.rows(conn, DraftRow, "drafts", sites=person().row.sites)}
        self.today = self.parts.grounds.ground(conn)

    def heads(self, rows: list[RehearsalRow]) -> list[RehearsalHead]:
        """Rehearsals with their results on the draft and on what is in force at their sites."""
        ids = [r.id for r in rows]
        draft = self.draft
        on_draft = kept.latest(self.conn, ids, draft.rulebook, draft=draft.id) if draft else {}
        on_force: dict[str, ResultRow] = {}
        force: dict[str, RevisionRow | None] = {}
        for site in {r.site for r in rows}:
            force[site] = now = self.parts.drafts.in_force(self.conn, site)
            here = [r.id for r in rows if r.site == site]
            on_force |= kept.latest(self.conn, here, now.rulebook, revision=now.no) if now else {}
        found = []
        for row in rows:
            script, now = kept.script_of(row), force[row.site]
            ground = self._ground(script)
            last = self.ran(on_draft.get(row.id), row, script, draft.rulebook if draft else "")
            passed = last is not None and last.current and last.verdict == "passed"
            found.append(
                RehearsalHead(
                    id=row.id, name=row.name, about=script.about, site=row.site, steps=len(script.steps), pins=script.pins,
                    version=row.version, last=last,
                    in_force=self.ran(on_force.get(row.id), row, script, now.rulebook if now else ""),
                    behind=self.today is not None and self.today.hash != script.opening,
                    missing=list(ground.gone), changed=list(ground.changed),
                    needs_a_look=not passed or ground != Moved(),
                )
            )  # fmt: skip
        return found

    def _ground(self, script: Rehearsal) -> Moved:
        if self.today is None or self.today.hash == script.opening:
            return Moved()
        return moved(script, self.parts.worlds.ground(self.conn, script.opening), self.today)

    def ran(self, row: ResultRow | None, of: RehearsalRow, script: Rehearsal, rulebook: str = "") -> Ran | None:
        """A result, and what it still speaks for: those rules, or whatever rules it ran on."""
        if row is None:
            return None
        ran = Basis(row.version, row.opening, row.rulebook, row.engine)
        why = stale(ran, Basis(of.version, script.opening, rulebook))
        return Ran(
            id=row.id, verdict=verdict(row.passed, row.checked), at=row.ran_at, by=row.ran_by, on=self._on(row),
            version=row.version, current=not why, stale=why, rulebook=row.rulebook, opening=row.opening, engine=row.engine,
            first_difference=row.first_difference,
        )  # fmt: skip

    def _on(self, row: ResultRow) -> str:
        if row.revision is not None:
            return f"revision {row.revision}"
        if row.draft is not None:
            return f"draft “{self.names.get(row.draft, row.draft)}”"
        return f"rules {row.rulebook[:8]}"


def _rehearsal_view(conn: db.Conn, row: RehearsalRow, draft: str, run: int | None = None) -> RehearsalView:
    about = _Asked(conn, draft)
    script = kept.script_of(row)
    head = about.heads([row])[0]
    runs = kept.runs(conn, row.id)
    wanted = run or (head.last.id if head.last else runs[0].id if runs else None)
    shown = db.row(conn, ResultRow, "result", rehearsal=row.id, id=wanted) if wanted else None
    if run and shown is None:
        raise Refusal("unknown_run", "There is no such run of it.")
    ground = wired(current_app).worlds.ground(conn, script.opening)
    steps = [
        StepView(id=s.id, does=step_told(s, ground), by=s.by, expects=[expectation_told(e, ground) for e in s.expect])
        for s in script.steps
    ]
    return RehearsalView(
        head=head, site=script.site, site_name=ground.sites[script.site].name, opening=script.opening, steps=steps,
        at_end=[expectation_told(e, ground) for e in script.at_end], shown=about.ran(shown, row, script),
        result=kept.result(conn, shown) if shown else None,
        runs=[r for x in runs if (r := about.ran(x, row, script))],
        versions=[
            VersionView(
                version=v.version, name=v.name, says=v.says, by=v.made_by, at=v.made_at, steps=v.steps, pins=v.pins,
            )
            for v in kept.versions(conn, row.id)
        ],
    )  # fmt: skip


@api.put("/rehearsals/<id>", responses={200: RehearsalView, **PROBLEMS})
@needs(Right.REHEARSE)
def rename(path: ById, body: NameBody, query: RunQuery) -> RehearsalView:
    """Call it otherwise, or say otherwise what it proves."""
    with wired(current_app).database.transaction() as conn:
        _, script = _get(conn, path.id)
        named = replace(script, name=body.name.strip(), about=body.about.strip())
        if named != script:
            says = "renamed" if named.name != script.name else "what it proves"
            kept.put(conn, named, person().id, says)
        return _rehearsal_view(conn, _get(conn, path.id)[0], query.draft)


@api.post("/rehearsals/<id>/versions/<version>", responses={200: RehearsalView, **PROBLEMS})
@needs(Right.REHEARSE)
def go_back(path: VersionPath, query: RunQuery) -> RehearsalView:
    """Let an earlier version be the latest again; those between stay."""
    with wired(current_app).database.transaction() as conn:
        row, _ = _get(conn, path.id)
        if path.version == row.version:
            raise Refusal("latest_already", f"Version {path.version} is the latest already.")
        script = kept.script_at(conn, path.id, path.version)
        if script is None:
            raise Refusal("unknown_version", f"There is no version {path.version} of it.")
        kept.put(conn, script, person().id, f"version {path.version} again")
        return _rehearsal_view(conn, _get(conn, path.id)[0], query.draft)


@api.post("/rehearsals/<id>/move-over", responses={200: RehearsalView, **PROBLEMS})
@needs(Right.REHEARSE)
def move_over(path: ById, query: RunQuery) -> RehearsalView:
    """Let a rehearsal run on the ground as it is, from now on; its results so far speak for the ground it leaves."""
    with wired(current_app).database.transaction() as conn:
        _, script = _get(conn, path.id)
        ground = wired(current_app).grounds.row(conn)
        if ground is None or ground.opening == script.opening:
            raise Refusal("on_ground", "This rehearsal runs on the ground as it is already.")
        kept.put(conn, replace(script, opening=ground.opening), person().id, "moved over to the ground as it is")
        return _rehearsal_view(conn, _get(conn, path.id)[0], query.draft)


@api.post("/rehearsals/<id>/run", responses={200: RehearsalView, **PROBLEMS})
@needs(Right.REHEARSE)
def run(path: ById, body: RunBody) -> RehearsalView:
    """Run it in a world of its own; the result is kept, and shown."""
    with wired(current_app).database.transaction() as conn:
        row, script = _get(conn, path.id)
        stage = _stage(conn, script, body.rulebook)
        beside = _beside(conn, script.sites[1:], stage.ground)
        result, _ = run_script(script, stage.ground, stage.rulebook, stage.today, gs1.split, beside)
        shown = kept.put_result(conn, row, result, person().id, draft=stage.draft, revision=stage.revision)
        return _rehearsal_view(conn, row, body.draft or stage.draft or "", shown)


@api.post("/rehearsals/<id>/open", responses={200: WorldView, **PROBLEMS})
@needs(Right.REHEARSE)
def open_(path: ById, body: RunBody) -> WorldView:
    """Run it and lay the whole run on a desk, with its pins, to go on from any point."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row, script = _get(conn, path.id)
        stage = _stage(conn, script, body.rulebook)
        beside = _beside(conn, script.sites[1:], stage.ground)
        result, worlds = run_all(script, stage.ground, stage.rulebook, stage.today, gs1.split, beside)
        ids: dict[SiteCode, str] = {}
        for site, world in worlds.items():
            mine = site == script.site
            ids[site] = parts.worlds.create(
                conn, name=script.name, settings=replace(settings_of(script), site=site), opening=stage.ground.hash,
                rulebook=parts.worlds.keep_rulebook(conn, world.rulebook), made_by=person().id, draft=stage.draft if mine else None,
                rehearsal=row.id, rehearsal_version=row.version,
            )  # fmt: skip
            parts.worlds.replay(conn, ids[site], world.log)
        if len(ids) > 1:
            parts.worlds.beside.put(conn, list(ids.values()))
        seqs = {s.id: s.seq for s in result.steps}
        for step in script.steps:
            if seqs[step.id] is None:
                continue  # it could not be tried; it keeps what it expects, and its place
            for expectation in step.expect:
                on = ids[step.site or script.site]
                db.value(conn, "put_pin", world=on, seq=seqs[step.id], expectation=canonical(expectation))
        for expectation in script.at_end:
            db.value(conn, "put_pin", world=ids[script.site], seq=None, expectation=canonical(expectation))
        return world_view(conn, ids[script.site])


@api.post("/worlds/<id>/rehearsal", responses={200: RehearsalView, **PROBLEMS})
@needs(Right.REHEARSE)
def keep(path: ById, body: KeepBody) -> RehearsalView:
    """Keep what was done in a world, with its pins, as a rehearsal."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world = world_row(conn, path.id)
        if world.kind == "live":
            raise Refusal("live_world", "A live world is not kept as a rehearsal.")
        if not world.seq:
            raise Refusal("nothing_done", "Nothing was done yet: there is nothing to keep.")
        about = body.about or ""
        if body.id is not None:
            row, was = _get(conn, body.id)
            if body.version is not None and body.version != row.version:
                says = f"It was changed meanwhile: its version is {row.version}, not {body.version}. Look at it first, or keep this as a new one."
                raise Refusal("changed_meanwhile", says)
            about = was.about if body.about is None else body.about
        id_ = body.id or kept.free_id(conn, body.name)
        recorded = _recorded(conn, world, id_, body.name.strip(), about.strip())
        says = "kept from a desk" if body.id is None else f"replaced from a desk, {len(recorded.script.steps)} steps"
        kept.put(conn, recorded.script, person().id, says)
        row, _ = _get(conn, id_)
        revision = _revision_of(conn, world)
        shown = kept.put_result(conn, row, recorded.run(), person().id, draft=world.draft, revision=revision)
        return _rehearsal_view(conn, row, world.draft or "", shown)


def _revision_of(conn: db.Conn, world: WorldRow) -> int | None:
    force = wired(current_app).drafts.in_force(conn, world.site)
    return force.no if force and not world.draft and force.rulebook == world.rulebook else None


@api.get("/worlds/<id>/checks", responses={200: PinChecks, **PROBLEMS})
@needs(Right.LOOK)
def checks(path: ById) -> PinChecks:
    """Do the pins of a desk hold? Found out by recording the run as it stands and replaying it."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world = world_row(conn, path.id)
        pins = db.rows(conn, PinRow, "pins", world=path.id)
        if not pins or world.kind == "live":
            return PinChecks(checks=[])
        recorded = _recorded(conn, world, "desk", "desk", "")
    result = recorded.run()
    found = {s.id: iter(s.checks) for s in result.steps}
    at_end = iter(result.at_end)
    checked: list[PinCheck] = []
    for pin in pins:  # those of one step are in the order in which the step has them
        check: Checked | None = next(at_end if pin.seq is None else found.get(recorded.ids[pin.seq], iter(())), None)
        if check is not None:
            checked.append(PinCheck(id=pin.id, holds=check.holds, found=check.found))
    return PinChecks(checks=checked)


@api.get("/rehearsals/<id>/file", responses={200: {"content": {"application/yaml": {}}}, **PROBLEMS})
@needs(Right.LOOK)
def file(path: ById) -> Response:
    """The rehearsal as a file for the command line."""
    with wired(current_app).database.transaction() as conn:
        _, script = _get(conn, path.id)
    headers = {"Content-Disposition": f"attachment; filename={script.id}.rehearsal.yaml"}
    return Response(rehearsal_text(script), mimetype="application/yaml", headers=headers)


@api.post("/rehearsals", responses={200: RehearsalView, **PROBLEMS})
@needs(Right.REHEARSE)
def bring_in(body: FileBody) -> RehearsalView:
    """Bring a rehearsal file in."""
    script = read_rehearsal(body.text)
    check_site(script.site)
    with wired(current_app).database.transaction() as conn:
        check_script(script, wired(current_app).worlds.ground(conn, script.opening))
        kept.put(conn, script, person().id, "brought in as a file")
        return _rehearsal_view(conn, _get(conn, script.id)[0], "")


@api.delete("/rehearsals/<id>", responses={204: None, **PROBLEMS})
@needs(Right.REHEARSE)
def drop(path: ById) -> Response:
    """Clear a rehearsal away, with its versions and results."""
    with wired(current_app).database.transaction() as conn:
        _get(conn, path.id)
        db.run(conn, "drop_rehearsal", id=path.id)
    return Response(status=204)


def _get(conn: db.Conn, id_: str) -> tuple[RehearsalRow, Rehearsal]:
    row = kept.get(conn, id_)
    check_site(row.site)
    return row, kept.script_of(row)


@dataclass(frozen=True)
class _Stage:
    """What a run stands on: a draft's rules or a revision's."""

    ground: Ground
    rulebook: Rulebook
    today: Today
    draft: str | None
    revision: int | None


def _stage(conn: db.Conn, script: Rehearsal, which: str) -> _Stage:
    """Ground, rulebook and calendar for a run; refused when the rulebook cannot be run, or is another site's."""
    parts = wired(current_app)
    ground = parts.worlds.ground(conn, script.opening)
    check_script(script, ground)
    draft, revision = None, None
    if which == "in-force":
        force = parts.drafts.in_force(conn, script.site)
        if force is None:
            raise Refusal("nothing_in_force", "No rulebook is in force yet; run it on a draft.")
        rulebook, revision = parts.worlds.rulebook(conn, force.rulebook), force.no
    else:
        found = parts.drafts.get(conn, which)
        if found.row.site != script.site:
            here, there = ground.sites[script.site].name, ground.sites.get(SiteCode(found.row.site))
            says = f"This rehearsal is of {here}; the draft “{found.row.name}” is of {there.name if there else found.row.site}. Choose a draft of {here}."
            raise Refusal("other_site", says)
        rulebook, draft = found.rulebook, found.row.id
    refuse_unusable(rulebook, ground, script.site)
    return _Stage(ground, rulebook, _today(ground, script.site), draft, revision)


def _today(ground: Ground, site: SiteCode) -> Today:
    zone = ZoneInfo(ground.sites[site].time_zone)
    return lambda at: at.astimezone(zone).date()


def _beside(conn: db.Conn, sites: Iterable[SiteCode], ground: Ground) -> dict[SiteCode, Beside]:
    """What other sites of a rehearsal go by."""
    drafts = wired(current_app).drafts
    return {s: Beside(drafts.rules_at(conn, s, ground), _today(ground, s)) for s in sites}


@dataclass(frozen=True)
class _Recorded:
    """What was done in a world as a rehearsal, with what it was done on; ``ids`` are the steps of its entries."""

    script: Rehearsal
    ids: dict[int, str]
    ground: Ground
    rulebook: Rulebook
    beside: dict[SiteCode, Beside]

    def run(self) -> Result:
        """Run it where it was recorded."""
        today = _today(self.ground, self.script.site)
        return run_script(self.script, self.ground, self.rulebook, today, gs1.split, self.beside)[0]


def _recorded(conn: db.Conn, world: WorldRow, id_: str, name: str, about: str) -> _Recorded:
    """What was done in a world, and in those of other sites beside it, with its pins, as a rehearsal. Steps it replays stay what they were in the
    script it was opened from."""
    parts = wired(current_app)
    settings = from_plain(Settings, orjson.loads(world.settings))
    ground = parts.worlds.ground(conn, world.opening)
    mine, at_end = _played(conn, world, ground)
    others = [
        _played(conn, row, ground, SiteCode(row.site))[0] for row in parts.worlds.beside.of(conn, world) if row.seq
    ]
    before = opened_from(conn, world)
    head = Rehearsal(id_, name, settings.site, world.opening, settings.starts, (), about, settings.host)
    if before and before[1].site != settings.site:
        before = None  # what was played beside another site's is another rehearsal, seen from here
    steps = before[1].steps if before else ()
    if before and at_end:
        head = replace(head, shows=before[1].shows)
    script = record(head, mine.log, mine.fresh, mine.expect, at_end, steps, whole=world.parent is None, beside=others)
    ids = step_ids([mine.log, *(o.log for o in others)], frozenset(s.id for s in steps))[0]
    beside = {o.site: Beside(o.fresh.rulebook, o.fresh.today) for o in others if o.site}
    return _Recorded(script, ids, ground, mine.fresh.rulebook, beside)


def _played(
    conn: db.Conn, row: WorldRow, ground: Ground, site: SiteCode | None = None
) -> tuple[Played, tuple[Expectation, ...]]:
    """What was done in one world, with its pins; and what is expected at its end."""
    parts = wired(current_app)
    settings = from_plain(Settings, orjson.loads(row.settings))
    with parts.worlds.reading(conn, row.id) as w:
        rulebook = w.rulebook
    expect: dict[int, tuple[Expectation, ...]] = {}
    at_end: tuple[Expectation, ...] = ()
    for pin in db.rows(conn, PinRow, "pins", world=row.id):
        value: Expectation = from_plain(Expectation, orjson.loads(pin.expectation))  # type: ignore[arg-type]
        if pin.seq is None:
            at_end = (*at_end, value)
        else:
            expect[pin.seq] = (*expect.get(pin.seq, ()), value)
    fresh = World(ground, settings, rulebook, _today(ground, settings.site))
    return Played(tuple(parts.worlds.entries(conn, row)), fresh, expect, site), at_end
