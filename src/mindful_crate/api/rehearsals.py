"""Rehearsals: kept from a desk, run on a draft or on what is in force, opened on a desk again, as files."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import datetime
from typing import assert_never
from zoneinfo import ZoneInfo

import orjson
from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.doors import Right, check_site, needs, person
from mindful_crate.api.rulebook import PROBLEMS
from mindful_crate.api.shapes import ById
from mindful_crate.api.wiring import Answer, Body, wired
from mindful_crate.api.worlds import WorldView, _view, _world, refuse_unusable
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.plain import canonical, from_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving import script as sc
from mindful_crate.core.proving.moving_over import no_longer_there
from mindful_crate.core.proving.recording import record
from mindful_crate.core.proving.rehearse import ENGINE, Result, settings_of
from mindful_crate.core.proving.rehearse import run as run_script
from mindful_crate.core.proving.script import Expectation, Rehearsal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.sentences import ORDERS
from mindful_crate.core.world import acts
from mindful_crate.core.world.things import Settings
from mindful_crate.core.world.world import Today, World
from mindful_crate.files import gs1
from mindful_crate.files.texts import read_rehearsal, rehearsal_text
from mindful_crate.store import db
from mindful_crate.store.rows import PinRow, RehearsalRow, WorldRow

api = APIBlueprint("rehearsals", __name__, url_prefix="/api", abp_tags=[Tag(name="rehearsals")])


class StepView(Answer):
    """A step of a script in words, with its expectations."""

    id: str
    does: str
    by: str
    expects: list[str]


class LastRun(Answer):
    """The latest result, and whether it still speaks for the rehearsal, the draft and the engine of today."""

    passed: bool
    at: datetime
    by: str
    current: bool
    result: Result


class RehearsalHead(Answer):
    """A rehearsal in the list."""

    id: str
    name: str
    about: str
    steps: int
    pins: int
    version: int
    last: LastRun | None


class RehearsalList(Answer):
    """All rehearsals of the person's sites."""

    rehearsals: list[RehearsalHead]


class RehearsalView(Answer):
    """One rehearsal."""

    head: RehearsalHead
    site: str
    opening: str
    steps: list[StepView]
    at_end: list[str]
    behind: bool
    """Was it made on the ground as it was before?"""
    missing: list[str]
    """What it names that is not on the ground as it is."""


class RunBody(Body):
    """Which rulebook to run on: a draft by its id, or what is in force."""

    rulebook: str = Field(default="in-force", max_length=80)


class RunQuery(Body):
    """The draft whose results are of interest."""

    draft: str = Field(default="", max_length=80)


class KeepBody(Body):
    """Keep what was done in a world as a rehearsal."""

    name: str = Field(min_length=2, max_length=80)
    id: str | None = Field(default=None, max_length=60)
    about: str = Field(default="", max_length=400)


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
        found = db.rows(conn, RehearsalRow, "rehearsals", sites=person().row.sites)
        if query.draft:
            site = wired(current_app).drafts.get(conn, query.draft).row.site
            found = [r for r in found if r.site == site]
        wanted = _hash_of(conn, query.draft)
    return RehearsalList(rehearsals=[_head(r, wanted) for r in found])


@api.get("/rehearsals/<id>", responses={200: RehearsalView, **PROBLEMS})
@needs(Right.LOOK)
def rehearsal(path: ById, query: RunQuery) -> RehearsalView:
    """One rehearsal with its steps."""
    with wired(current_app).database.transaction() as conn:
        row, script = _get(conn, path.id)
        return _rehearsal_view(conn, row, script, _hash_of(conn, query.draft))


def _rehearsal_view(conn: db.Conn, row: RehearsalRow, script: Rehearsal, wanted: str) -> RehearsalView:
    parts = wired(current_app)
    today = parts.grounds.ground(conn)
    behind = today is not None and today.hash != script.opening
    missing = no_longer_there(script, parts.worlds.ground(conn, script.opening), today) if behind and today else ()
    steps = [
        StepView(id=s.id, does=does(s.do), by=s.by, expects=[expectation_told(e) for e in s.expect])
        for s in script.steps
    ]
    return RehearsalView(
        head=_head(row, wanted), site=script.site, opening=script.opening, steps=steps,
        at_end=[expectation_told(e) for e in script.at_end], behind=behind, missing=list(missing),
    )  # fmt: skip


@api.post("/rehearsals/<id>/move-over", responses={200: RehearsalView, **PROBLEMS})
@needs(Right.REHEARSE)
def move_over(path: ById, query: RunQuery) -> RehearsalView:
    """Let a rehearsal run on the ground as it is, from now on; its results so far speak for the ground it leaves."""
    with wired(current_app).database.transaction() as conn:
        row, script = _get(conn, path.id)
        ground = wired(current_app).grounds.row(conn)
        if ground is None or ground.opening == script.opening:
            raise Refusal("on_ground", "This rehearsal runs on the ground as it is already.")
        _put(conn, replace(script, opening=ground.opening))
        row, script = _get(conn, path.id)
        return _rehearsal_view(conn, row, script, _hash_of(conn, query.draft))


@api.post("/rehearsals/<id>/run", responses={200: RehearsalView, **PROBLEMS})
@needs(Right.REHEARSE)
def run(path: ById, body: RunBody) -> RehearsalView:
    """Run it in a world of its own; the result is kept."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row, script = _get(conn, path.id)
        ground, rulebook, today = _stage(conn, script, body.rulebook)
        result, _ = run_script(script, ground, rulebook, today, gs1.split)
        db.run(
            conn, "put_result", rehearsal=row.id, version=row.version, passed=result.passed, body=canonical(result),
            ran_by=person().id,
        )  # fmt: skip
        row, script = _get(conn, path.id)
        return _rehearsal_view(conn, row, script, result.rulebook)


@api.post("/rehearsals/<id>/open", responses={200: WorldView, **PROBLEMS})
@needs(Right.REHEARSE)
def open_(path: ById, body: RunBody) -> WorldView:
    """Run it and lay the whole run on a desk, with its pins, to go on from any point."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row, script = _get(conn, path.id)
        ground, rulebook, today = _stage(conn, script, body.rulebook)
        result, world = run_script(script, ground, rulebook, today, gs1.split)
        hash_ = parts.worlds.keep_rulebook(conn, rulebook)
        draft = None if body.rulebook == "in-force" else body.rulebook
        id_ = parts.worlds.create(
            conn, name=script.name, settings=settings_of(script), opening=ground.hash, rulebook=hash_,
            made_by=person().id, draft=draft, rehearsal=row.id,
        )  # fmt: skip
        parts.worlds.replay(conn, id_, world.log)
        seqs = {s.id: s.seq for s in result.steps}
        for step in script.steps:
            for expectation in step.expect:
                db.value(conn, "put_pin", world=id_, seq=seqs[step.id], expectation=canonical(expectation))
        for expectation in script.at_end:
            db.value(conn, "put_pin", world=id_, seq=None, expectation=canonical(expectation))
        return _view(conn, id_)


@api.post("/worlds/<id>/rehearsal", responses={200: RehearsalView, **PROBLEMS})
@needs(Right.REHEARSE)
def keep(path: ById, body: KeepBody) -> RehearsalView:
    """Keep what was done in a world, with its pins, as a rehearsal."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world = _world(conn, path.id)
        if world.kind == "live":
            raise Refusal("live_world", "A live world is not kept as a rehearsal.")
        if not world.seq:
            raise Refusal("nothing_done", "Nothing was done yet: there is nothing to keep.")
        script, ground, rulebook = _script_of(conn, world, body.id or _free_id(conn, body.name), body.name, body.about)
        _put(conn, script)
        result, _ = run_script(script, ground, rulebook, _today(ground, script.site), gs1.split)
        row, script = _get(conn, script.id)
        db.run(
            conn, "put_result", rehearsal=row.id, version=row.version, passed=result.passed, body=canonical(result),
            ran_by=person().id,
        )  # fmt: skip
        row, script = _get(conn, row.id)
        return _rehearsal_view(conn, row, script, result.rulebook)


@api.get("/worlds/<id>/checks", responses={200: PinChecks, **PROBLEMS})
@needs(Right.LOOK)
def checks(path: ById) -> PinChecks:
    """Do the pins of a desk hold? Found out by recording the run as it stands and replaying it."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world = _world(conn, path.id)
        pins = db.rows(conn, PinRow, "pins", world=path.id)
        if not pins or world.kind == "live":
            return PinChecks(checks=[])
        script, ground, rulebook = _script_of(conn, world, "desk", "desk", "")
    result, _ = run_script(script, ground, rulebook, _today(ground, script.site), gs1.split)
    found = [c for s in result.steps for c in s.checks] + list(result.at_end)
    ordered = sorted(pins, key=lambda p: (p.seq is None, p.seq or 0, p.id))
    return PinChecks(
        checks=[PinCheck(id=p.id, holds=c.holds, found=c.found) for p, c in zip(ordered, found, strict=False)]
    )


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
        wired(current_app).worlds.ground(conn, script.opening)
        _put(conn, script)
        row, script = _get(conn, script.id)
        return _rehearsal_view(conn, row, script, "")


@api.delete("/rehearsals/<id>", responses={204: None, **PROBLEMS})
@needs(Right.REHEARSE)
def drop(path: ById) -> Response:
    """Clear a rehearsal away, with its results."""
    with wired(current_app).database.transaction() as conn:
        _get(conn, path.id)
        db.run(conn, "drop_rehearsal", id=path.id)
    return Response(status=204)


def _put(conn: db.Conn, script: Rehearsal) -> None:
    db.run(
        conn,
        "put_rehearsal",
        id=script.id,
        name=script.name,
        site=script.site,
        script=canonical(script),
        made_by=person().id,
    )


def _get(conn: db.Conn, id_: str) -> tuple[RehearsalRow, Rehearsal]:
    row = db.row(conn, RehearsalRow, "rehearsal", id=id_)
    if row is None:
        raise Refusal("unknown_rehearsal", "There is no such rehearsal; it may have been cleared away.")
    check_site(row.site)
    return row, from_plain(Rehearsal, orjson.loads(row.script))


def _stage(conn: db.Conn, script: Rehearsal, which: str) -> tuple[Ground, Rulebook, Today]:
    """Ground, rulebook and calendar for a run; refused when the rulebook cannot be run."""
    parts = wired(current_app)
    ground = parts.worlds.ground(conn, script.opening)
    if which == "in-force":
        force = parts.drafts.in_force(conn, script.site)
        if force is None:
            raise Refusal("nothing_in_force", "No rulebook is in force yet; run it on a draft.")
        rulebook = parts.worlds.rulebook(conn, force.rulebook)
    else:
        rulebook = parts.drafts.get(conn, which).rulebook
    refuse_unusable(rulebook, ground, script.site)
    return ground, rulebook, _today(ground, script.site)


def _today(ground: Ground, site: SiteCode) -> Today:
    zone = ZoneInfo(ground.sites[site].time_zone)
    return lambda at: at.astimezone(zone).date()


def _hash_of(conn: db.Conn, draft: str) -> str:
    return wired(current_app).drafts.get(conn, draft).row.rulebook if draft else ""


def _script_of(conn: db.Conn, world: WorldRow, id_: str, name: str, about: str) -> tuple[Rehearsal, Ground, Rulebook]:
    """What was done in a world, with its pins, as a rehearsal; and what it ran on."""
    parts = wired(current_app)
    settings = from_plain(Settings, orjson.loads(world.settings))
    ground = parts.worlds.ground(conn, world.opening)
    rulebook = parts.worlds.rulebook(conn, world.rulebook)
    head = Rehearsal(id_, name, settings.site, world.opening, settings.starts, (), about, settings.host)
    expect: dict[int, tuple[Expectation, ...]] = {}
    at_end: tuple[Expectation, ...] = ()
    for pin in db.rows(conn, PinRow, "pins", world=world.id):
        value: Expectation = from_plain(Expectation, orjson.loads(pin.expectation))  # type: ignore[arg-type]
        if pin.seq is None:
            at_end = (*at_end, value)
        else:
            expect[pin.seq] = (*expect.get(pin.seq, ()), value)
    log = tuple(parts.worlds.entries(conn, world))
    fresh = World(ground, settings, rulebook, _today(ground, settings.site))
    return record(head, log, fresh, expect, at_end), ground, rulebook


def _free_id(conn: db.Conn, name: str) -> str:
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:50] or "rehearsal"
    id_, n = base, 2
    while db.row(conn, RehearsalRow, "rehearsal", id=id_):
        id_, n = f"{base}-{n}", n + 1
    return id_


def _head(row: RehearsalRow, wanted: str) -> RehearsalHead:
    script = from_plain(Rehearsal, orjson.loads(row.script))
    last = None
    if row.body is not None and row.ran_at is not None:
        result = from_plain(Result, orjson.loads(row.body))
        current = (row.ran_version, result.engine, result.opening) == (row.version, ENGINE, script.opening)
        current = current and wanted in ("", result.rulebook)
        last = LastRun(passed=result.passed, at=row.ran_at, by=row.ran_by or "", current=current, result=result)
    pins = sum(len(s.expect) for s in script.steps) + len(script.at_end)
    return RehearsalHead(
        id=row.id, name=row.name, about=script.about, steps=len(script.steps), pins=pins, version=row.version, last=last
    )


def ref_told(ref: sc.Ref) -> str:
    """What a reference stands for, in words."""
    match ref:
        case sc.Literally():
            return f"`{ref.text}`"
        case sc.TheOrder():
            return f"`{ref.order}`"
        case sc.TheBin():
            return f"`{ref.bin}`"
        case sc.Shown():
            return "the code shown"
        case sc.PlateOf():
            return f"the plate of {ref.step}"
        case sc.BinOf():
            return f"the bin chosen in {ref.step}"
        case sc.TheItem():
            extra = [f"lot `{ref.lot}`" if ref.lot else "", f"expiring {ref.expiry}" if ref.expiry else ""]
            return ", ".join([f"the {ref.unit} of `{ref.item}`", *(e for e in extra if e)])
        case _ as missed:
            assert_never(missed)


def does(do: sc.Doing) -> str:
    """What a step does, in words."""
    match do:
        case sc.DoConfirm():
            return f"The buyer confirms `{do.order}` in the host"
        case sc.DoOpen():
            return f"Opens flow `{do.flow}`"
        case sc.DoScan():
            verb = {"scanned": "Scans", "typed": "Types", "tapped": "Taps"}[do.how.value]
            return f"{verb} {ref_told(do.code)}"
        case sc.DoPress():
            return f"Presses {do.action.replace('_', ' ')}"
        case sc.DoFinish():
            return f"The office finishes {ref_told(do.plate)}"
        case sc.DoBook():
            return f"The office books the receipt of {ref_told(do.plate)}"
        case sc.DoBlock():
            return f"The office blocks {ref_told(do.bin)}" if do.reason else f"The office frees {ref_told(do.bin)}"
        case sc.DoReserve():
            return f"The office keeps {do.quantity:,} of `{do.item}` for {do.holder}"
        case sc.DoLetGo():
            return f"The office lets go what was kept in {do.step}"
        case sc.DoHost():
            return _in_host(do.act)
        case sc.DoWait():
            return f"{do.seconds} seconds pass"
        case _ as missed:
            assert_never(missed)


def _in_host(act: acts.HostAct) -> str:
    match act:
        case acts.WriteOrder():
            return f"`{act.order.number}` is written in the host, {len(act.order.lines)} lines"
        case acts.TryOrder():
            return f"The host makes a test order: {ORDERS[act.order_kind].lower()}"
        case acts.CancelOrder():
            return f"`{act.order}` is cancelled in the host"
        case acts.ShipTransfer():
            return f"The other site ships `{act.order}`"
        case acts.AnnounceOrder():
            return f"The vendor announces what comes of `{act.order}`"
        case acts.OpenOrder():
            return f"The office opens `{act.order}` for editing"
        case acts.CloseOrder():
            return f"The office closes `{act.order}`"
        case acts.SetHost():
            host = act.host
            ways = ["is down"] * host.down + ["answers twice"] * host.twice + ["refuses"] * bool(host.refuses)
            return f"The host {' and '.join(ways) or 'is well'}, {host.book_seconds} s to answer"
        case acts.RepeatMessage():
            return f"Message `{act.message}` is sent again"
        case _ as missed:
            assert_never(missed)


def expectation_told(e: sc.Expectation) -> str:
    """An expectation in words."""
    match e:
        case sc.ExpectRefused():
            return f"is refused: {e.code.replace('_', ' ')}"
        case sc.ExpectAsks():
            return f"the handset asks for the {e.asks}" + (f" `{e.code}`" if e.code else "")
        case sc.ExpectStock():
            return f"{ref_told(e.bin)} holds {e.quantity:,} of `{e.item}`"
        case sc.ExpectChosen():
            parts = [
                f"bin `{e.bin}`" if e.bin else "",
                f"in zone `{e.zone}`" if e.zone else "",
                f"by rule `{e.rule}`" if e.rule else "",
            ]
            return "the rules choose " + ", ".join(p for p in parts if p)
        case sc.ExpectLine():
            return f"`{e.order}` line {e.line}: arrived {e.arrived:,}, booked {e.booked:,}"
        case _ as missed:
            assert_never(missed)
