"""Worlds: making them, naming them, pins, stock, going on from an earlier point."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from typing import Annotated, Any, Literal
from urllib.parse import quote

import orjson
from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.doors import Denied, check_site, needs, person
from mindful_crate.api.drafts import VersionBody
from mindful_crate.api.front import STREAM_OF
from mindful_crate.api.maps import SiteMap, site_map
from mindful_crate.api.openings import first_day
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import Settings, WorldKind
from mindful_crate.core.floor.topics import HostStandIn
from mindful_crate.core.plain import canonical, from_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.findings.finding import usable
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.proving.script import Expectation, Rehearsal
from mindful_crate.core.proving.taking_over import left_as_it_is
from mindful_crate.core.proving.telling import expectation_told
from mindful_crate.core.work.tasks.offered import Offered, offered
from mindful_crate.core.world.changes import Changes, changes
from mindful_crate.core.world.world import CLOCK, HOST
from mindful_crate.store import db, rehearsals
from mindful_crate.store.loaded import Loaded
from mindful_crate.store.rows import PersonRow, PinRow, RehearsalRow, WorldRow
from mindful_crate.store.worlds import local_start

api = APIBlueprint("worlds", __name__, url_prefix="/api", abp_tags=[Tag(name="worlds")], doc_ui=WITH_DOCUMENT)


def now_in(w: Loaded) -> datetime:
    """What time it is in a world: a live one goes by the real clock, also while nothing happens there."""
    clock = w.state.clock
    return max(clock, datetime.now(UTC)) if w.settings.kind is WorldKind.LIVE else clock


class WorldHead(Answer):
    """A world in a list."""

    id: str
    kind: Literal["rehearsal", "live"]
    name: str
    site: str
    seq: int
    made_by: str
    made_at: datetime


class WorldList(Answer):
    """Worlds, newest first, the live one last."""

    worlds: list[WorldHead]


class WorldView(Answer):
    """A world and where it stands."""

    id: str
    kind: Literal["rehearsal", "live"]
    name: str
    site: str
    seq: int
    clock: datetime
    time_zone: str
    opening: str
    rulebook: str
    draft: str | None
    behind_draft: bool
    stays: list[str]
    """What the draft, as it is by now, would leave as it is."""
    parent: str | None
    parent_seq: int
    rehearsal: str | None
    of: OpenedFrom | None
    changes: Changes
    pins: list[Pin]
    guests: list[str]
    """The people who were asked into a rehearsal."""
    beside: list[BesideView]
    """The floors of other sites that are played the same day."""
    may_join: list[SiteOption]
    """Sites whose floor may be put beside it."""
    to_confirm: list[str]
    offered: list[Offered]


class BesideView(Answer):
    """The floor of another site, played the same day."""

    id: str
    site: str
    name: str
    seq: int


class SiteOption(Answer):
    """A site."""

    site: str
    name: str


class OpenedFrom(Answer):
    """The rehearsal a run was opened from, in the version it had; ``latest`` is the version it has now."""

    id: str
    name: str
    about: str
    version: int
    latest: int
    steps: int
    pins: int


class Pin(Answer):
    """A pinned expectation, in words; ``seq`` null holds at the end."""

    id: int
    seq: int | None
    says: str
    expectation: Annotated[Expectation, Field(discriminator="kind")]


class BesidePath(Body):
    """A rehearsal and another site."""

    id: str = Field(max_length=80)
    site: str = Field(max_length=40)


class NewWorld(Body):
    """A world to make."""

    name: str = Field(min_length=1, max_length=80)
    draft: str = Field(max_length=80)
    book_seconds: int = Field(default=2, ge=0, le=86_400)


class WorldName(Body):
    """What a run is called."""

    name: str = Field(min_length=1, max_length=80)


class StreamQuery(Body):
    """The worlds a tab looks at; without any it is told of all."""

    world: list[str] = Field(default_factory=list, max_length=40)


class BranchBody(Body):
    """Go on from an entry; ``draft`` names a draft whose rulebook shall hold from there."""

    seq: int = Field(ge=0, le=2**53)
    draft: str | None = Field(default=None, max_length=80)


class PinBody(Body):
    """An expectation to pin to an entry, or to the end."""

    seq: int | None = Field(default=None, ge=1, le=2**53)
    expectation: Annotated[Expectation, Field(discriminator="kind")]


class GuestBody(Body):
    """Somebody to ask into a rehearsal."""

    person: str = Field(min_length=1, max_length=80)


class GuestPath(Body):
    """Somebody who was asked into a rehearsal."""

    id: str = Field(max_length=80)
    person: str = Field(max_length=80)


class PinPath(Body):
    """A pin of a world."""

    id: str = Field(max_length=80)
    pin: int = Field(ge=1, le=2**53)


WorldView.model_rebuild()


def world_row(conn: db.Conn, id_: str) -> WorldRow:
    """A world by its id; refused when there is none, or when the person does not see it."""
    row = wired(current_app).worlds.row(conn, id_)
    check_seen(conn, row)
    return row


def check_seen(conn: db.Conn, row: WorldRow) -> None:
    """Refuse a world of a site the person does not see, and a rehearsal that a person of the floor was not asked into."""
    check_site(row.site)
    if row.kind == "live" or _sees_rehearsals():
        return
    if not db.value(conn, "is_guest", world=row.id, person=person().id):
        raise Denied(
            403, f"You were not asked into the rehearsal {row.name}. Whoever rehearses asks you in, on its desk."
        )


def _sees_rehearsals() -> bool:
    """Whoever works on the floor and rehearses nothing sees those alone that they were asked into."""
    return Right.REHEARSE in person().rights or Right.SCAN not in person().rights


@api.get("/worlds", responses={200: WorldList, **PROBLEMS})
@needs(Right.LOOK)
def worlds() -> WorldList:
    """Worlds of the sites the person sees."""
    with wired(current_app).database.transaction() as conn:
        me = person()
        found = db.rows(conn, WorldRow, "worlds", sites=me.row.sites, person=me.id, all=_sees_rehearsals())
    heads = [
        WorldHead(id=w.id, kind=w.kind, name=w.name, site=w.site, seq=w.seq, made_by=w.made_by, made_at=w.made_at)
        for w in sorted(found, key=lambda w: (w.kind == "rehearsal", w.made_at), reverse=True)
    ]
    return WorldList(worlds=heads)


@api.post("/worlds", responses={200: WorldView, **PROBLEMS})
@needs(Right.REHEARSE)
def make_world(body: NewWorld) -> WorldView:
    """A rehearsal world on a draft as it stands."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        draft = parts.drafts.get(conn, body.draft)
        check_site(draft.row.site)
        ground = parts.worlds.ground(conn, draft.row.opening)
        refuse_unusable(draft.rulebook, ground, draft.row.site)
        site = ground.sites[SiteCode(draft.row.site)]
        starts = local_start(site.time_zone, first_day(ground, site.code), 8, 30)
        id_ = parts.worlds.create(
            conn, name=body.name, settings=Settings(site.code, starts, host=HostStandIn(book_seconds=body.book_seconds)),
            opening=draft.row.opening, rulebook=draft.row.rulebook, made_by=person().id, draft=draft.row.id,
        )  # fmt: skip
        return world_view(conn, id_)


@api.post("/drafts/<id>/live", responses={200: WorldView, **PROBLEMS})
@needs(Right.PUT_IN_FORCE)
def begin_live(path: ById, body: VersionBody) -> WorldView:
    """Begin the live floor of a draft's site, which has none yet, on the draft as it stands; it is put in force unless
    it is already."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        draft = parts.drafts.get(conn, path.id)
        site = draft.row.site
        check_site(site)
        db.value(conn, "in_turn", what=f"live {site}")
        if there := db.row(conn, WorldRow, "live_world", site=site):
            says = f"Site `{site}` has a live floor already: {there.name}, begun on {there.made_at:%d %B %Y}."
            raise Refusal("live_there", says)
        force = parts.drafts.in_force(conn, site)
        if force is None or not force.is_of(draft.row):
            parts.drafts.put_in_force(conn, path.id, body.version, person().id)
        ground = parts.worlds.ground(conn, draft.row.opening)
        refuse_unusable(draft.rulebook, ground, site)  # what is in force may stand on another ground than this draft
        begins = datetime.now(UTC).replace(microsecond=0)
        id_ = parts.worlds.create(
            conn, name=f"{ground.sites[SiteCode(site)].name} floor", settings=Settings(SiteCode(site), begins, WorldKind.LIVE),
            opening=draft.row.opening, rulebook=draft.row.rulebook, made_by=person().id,
        )  # fmt: skip
        return world_view(conn, id_)


def refuse_unusable(rulebook: Any, ground: Any, site: str) -> None:
    """Refuse to run a world on a rulebook with a blocking finding, naming it."""
    found = findings(rulebook, ground, SiteCode(site))
    if not usable(found):
        first = next(f for f in found if f.severity.value == "blocks")
        raise Refusal("rulebook_blocked", f"This rulebook cannot be run: {first.says}", first.place)


@api.get("/worlds/<id>", responses={200: WorldView, **PROBLEMS})
@needs(Right.LOOK)
def world(path: ById) -> WorldView:
    """A world: where it stands and what it changed."""
    with wired(current_app).database.transaction() as conn:
        world_row(conn, path.id)
        return world_view(conn, path.id)


def world_view(conn: db.Conn, id_: str) -> WorldView:
    """A world as it is told."""
    parts = wired(current_app)
    with parts.worlds.reading(conn, id_) as w:
        row = w.row
        behind, stays = False, list[str]()
        if row.draft:
            draft = parts.drafts.get(conn, row.draft)
            behind = draft.row.rulebook != row.rulebook
            stays = left_as_it_is(w.state, draft.rulebook) if behind else []
        pins = [_pin(p, w.ground) for p in db.rows(conn, PinRow, "pins", world=id_)]
        before = opened_from(conn, row)
        waiting = sorted(
            str(o.number)
            for o in w.state.all_orders()
            if o.site == w.settings.site and not w.state.is_confirmed(o.number)
        )
        sites = w.ground.sites
        beside = [
            BesideView(id=r.id, site=r.site, name=sites[SiteCode(r.site)].name, seq=r.seq)
            for r in (parts.worlds.beside.of(conn, row) if row.beside else [])
        ]
        there = {row.site, *(b.site for b in beside)}
        may_join = [
            SiteOption(site=s.code, name=s.name)
            for s in sites.values()
            if row.kind == "rehearsal" and s.code not in there and s.code in person().row.sites
        ]
        return WorldView(
            id=row.id, kind=row.kind, name=row.name, site=row.site, seq=w.state.seq, clock=w.state.clock,
            time_zone=w.ground.sites[w.settings.site].time_zone,
            opening=row.opening, rulebook=w.state.rules or row.rulebook, draft=row.draft, behind_draft=behind, stays=stays, parent=row.parent,
            parent_seq=row.parent_seq, rehearsal=row.rehearsal,
            of=before[0] if before else None, changes=changes(w.state), pins=pins,
            guests=db.value(conn, "guests", world=id_) or [], to_confirm=waiting, beside=beside, may_join=may_join,
            offered=list(offered(w.state, w.rulebook)),
        )  # fmt: skip


def _pin(row: PinRow, ground: Ground) -> Pin:
    expectation: Expectation = from_plain(Expectation, orjson.loads(row.expectation))  # type: ignore[arg-type]
    return Pin(id=row.id, seq=row.seq, says=expectation_told(expectation, ground), expectation=expectation)


def opened_from(conn: db.Conn, row: WorldRow) -> tuple[OpenedFrom, Rehearsal] | None:
    """The rehearsal a world was opened from, and its script as it was then; None when there is none any more."""
    now = db.row(conn, RehearsalRow, "rehearsal", id=row.rehearsal) if row.rehearsal else None
    if now is None:
        return None
    opened = row.rehearsal_version or now.version
    latest = rehearsals.script_of(now)
    script = latest if opened == now.version else rehearsals.script_at(conn, now.id, opened)
    if script is None:
        return None
    told = OpenedFrom(
        id=now.id, name=now.name, about=latest.about, version=opened, latest=now.version, steps=len(latest.steps),
        pins=latest.pins,
    )  # fmt: skip
    return told, script


@api.put("/worlds/<id>", responses={200: WorldView, **PROBLEMS})
@needs(Right.REHEARSE)
def name_world(path: ById, body: WorldName) -> WorldView:
    """Call a run otherwise."""
    with wired(current_app).database.transaction() as conn:
        _only_runs(world_row(conn, path.id))
        name = body.name.strip()
        if not name:
            raise Refusal("no_name", "A run has a name. Say in a few words what it tries.", "name")
        db.run(conn, "name_world", id=path.id, name=name)
        return world_view(conn, path.id)


@api.delete("/worlds/<id>", responses={204: None, **PROBLEMS})
@needs(Right.REHEARSE)
def clear_world(path: ById) -> Response:
    """Clear a run away: it is no longer listed. Rehearsals kept from it stay, and runs that went on from it."""
    with wired(current_app).database.transaction() as conn:
        _only_runs(world_row(conn, path.id))
        db.run(conn, "clear_world", id=path.id)
    return Response(status=204)


def _only_runs(row: WorldRow) -> None:
    if row.kind == "live":
        raise Refusal("live_world", "The live floor is neither renamed nor cleared away.")


@api.post("/worlds/<id>/guests", responses={200: WorldView, **PROBLEMS})
@needs(Right.REHEARSE)
def ask_in(path: ById, body: GuestBody) -> WorldView:
    """Ask somebody into a rehearsal: it is among their floors on the handset then, and they work in it with their own hands."""
    with wired(current_app).database.transaction() as conn:
        row = world_row(conn, path.id)
        if row.kind == "live":
            raise Refusal("live_world", "Nobody is asked onto the live floor: whoever works there sees it.")
        who = db.row(conn, PersonRow, "person", id=body.person)
        if who is None or not who.active:
            raise Refusal("unknown_person", f"There is nobody with the id `{body.person}`.", "person")
        if row.site not in who.sites:
            raise Refusal(
                "other_site", f"{who.name} does not see site {row.site}. Sites are given under People.", "person"
            )
        db.run(conn, "ask_in", world=path.id, person=who.id, by=person().id)
        return world_view(conn, path.id)


@api.delete("/worlds/<id>/guests/<person>", responses={200: WorldView, **PROBLEMS})
@needs(Right.REHEARSE)
def ask_out(path: GuestPath) -> WorldView:
    """They were asked in long enough."""
    with wired(current_app).database.transaction() as conn:
        world_row(conn, path.id)
        db.run(conn, "ask_out", world=path.id, person=path.person)
        return world_view(conn, path.id)


@api.post("/worlds/<id>/branch", responses={200: WorldView, **PROBLEMS})
@needs(Right.REHEARSE)
def branch(path: ById, body: BranchBody) -> WorldView:
    """A child world that goes on from an entry, perhaps under a draft as it stands now."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = world_row(conn, path.id)
        rulebook = row.rulebook
        if body.draft:
            draft = parts.drafts.get(conn, body.draft)
            check_site(draft.row.site)
            refuse_unusable(draft.rulebook, parts.worlds.ground(conn, row.opening), row.site)
            rulebook = draft.row.rulebook
        child = parts.worlds.branch(conn, path.id, body.seq, person().id, rulebook, body.draft or row.draft)
        return world_view(conn, child)


@api.post("/worlds/<id>/beside/<site>", responses={200: WorldView, **PROBLEMS})
@needs(Right.REHEARSE)
def put_beside(path: BesidePath) -> WorldView:
    """Put the floor of another site beside a rehearsal, the same day: what the one sends the other hears of."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = world_row(conn, path.id)
        check_site(path.site)
        ground, site = parts.worlds.ground(conn, row.opening), SiteCode(path.site)
        if row.kind != "rehearsal":
            raise Refusal("live_world", "Live floors of all sites hear from one another already.")
        others = parts.worlds.beside.of(conn, row)
        if site not in ground.sites or site == row.site or any(o.site == site for o in others):
            raise Refusal("there_already", "That site is beside it already, or there is no such site.")
        rulebook = parts.drafts.rules_at(conn, site, ground)
        refuse_unusable(rulebook, ground, site)
        settings = replace(from_plain(Settings, orjson.loads(row.settings)), site=site)
        id_ = parts.worlds.create(
            conn, name=row.name, settings=settings, opening=row.opening, rulebook=parts.worlds.keep_rulebook(conn, rulebook),
            made_by=person().id,
        )  # fmt: skip
        parts.worlds.beside.put(conn, [row.id, *(o.id for o in others), id_])
        return world_view(conn, row.id)


@api.post("/worlds/<id>/pins", responses={200: WorldView, **PROBLEMS})
@needs(Right.REHEARSE)
def put_pin(path: ById, body: PinBody) -> WorldView:
    """Pin an expectation to an entry or to the end."""
    with wired(current_app).database.transaction() as conn:
        row = world_row(conn, path.id)
        if body.seq is not None and body.seq > row.seq:
            raise Refusal("no_such_entry", f"The log has entries up to {row.seq}.")
        entries = wired(current_app).worlds.entries(conn, row, body.seq - 1, body.seq) if body.seq else []
        if any(e.command.stamp.who in (CLOCK, HOST) for e in entries):
            raise Refusal("not_a_step", "That came by itself; pin to what somebody did, or to the end.")
        db.value(conn, "put_pin", world=path.id, seq=body.seq, expectation=canonical(body.expectation))
        return world_view(conn, path.id)


@api.delete("/worlds/<id>/pins/<pin>", responses={200: WorldView, **PROBLEMS})
@needs(Right.REHEARSE)
def drop_pin(path: PinPath) -> WorldView:
    """Take a pin off."""
    with wired(current_app).database.transaction() as conn:
        world_row(conn, path.id)
        db.run(conn, "drop_pin", world=path.id, id=path.pin)
        return world_view(conn, path.id)


@api.get("/worlds/<id>/map", responses={200: SiteMap, **PROBLEMS})
@needs(Right.LOOK)
def map_(path: ById) -> SiteMap:
    """The site's bins from above, with what they hold."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            return site_map(w.state, SiteCode(row.site))


@api.get("/stream", responses={200: {"content": {"text/event-stream": {}}}, **PROBLEMS})
@needs(Right.LOOK)
def stream(query: StreamQuery) -> Response:
    """Live messages: what moved and how far. Only who may listen is found out here; the front tells them."""
    headers = {"Cache-Control": "no-store", "X-Accel-Buffering": "no", STREAM_OF: quote(person().id)}
    return Response(mimetype="text/event-stream", headers=headers)
