"""The studio's first page: numbers by role, chosen and ordered by the person, and what a floor did by the hour."""

from __future__ import annotations

from collections import Counter
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import orjson
from flask import current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.doors import needs, person
from mindful_crate.api.drafts import seen_draft
from mindful_crate.api.openings import local_now
from mindful_crate.api.preferences import kept_of
from mindful_crate.api.rehearsals import due
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.api.worlds import world_row
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.proving.today import FIRST, FLOOR, PROOF, Figure
from mindful_crate.core.world.doing import DOING, did
from mindful_crate.core.world.versions import read_entry
from mindful_crate.store import db
from mindful_crate.store.drafts import Draft
from mindful_crate.store.rows import Body as EntryBody
from mindful_crate.store.rows import DraftRow, WorldRow

api = APIBlueprint("today", __name__, url_prefix="/api", abp_tags=[Tag(name="today")], doc_ui=WITH_DOCUMENT)
TITLES = {**PROOF, **{id_: title for id_, (title, _) in FLOOR.items()}}
LATEST = 4000
"""So many entries of a floor are looked through at most."""


class TodayQuery(Body):
    """The draft in hand."""

    draft: str = Field(max_length=80)


class NumberView(Answer):
    """A number of the first page. ``figure`` null: there is no floor to read it off."""

    id: str
    title: str
    figure: Figure | None


class OtherNumber(Answer):
    """A number that could be shown as well."""

    id: str
    title: str


class TodayView(Answer):
    """The first page: the numbers in the person's order, those that could be chosen, and the site's live floor."""

    numbers: list[NumberView]
    others: list[OtherNumber]
    own: bool
    """Did the person choose them?"""
    site: str
    floor: str
    floor_name: str


class Hour(Answer):
    """What was done in an hour, by kind."""

    at: datetime
    did: dict[str, int]


class Hours(Answer):
    """What a floor did by the hour, since its day began; the kinds in order, with their words."""

    kinds: dict[str, str]
    hours: list[Hour]
    all: bool
    """Is the whole day there?"""
    time_zone: str


@api.get("/today", responses={200: TodayView, **PROBLEMS})
@needs(Right.LOOK)
def today(query: TodayQuery) -> TodayView:
    """The first page."""
    parts, who = wired(current_app), person().row
    with parts.database.transaction() as conn:
        chosen = kept_of(conn, who.id).get("today")
        ids = chosen if isinstance(chosen, list) else list(FIRST.get(who.role, FIRST["viewer"]))
        ids = [id_ for id_ in dict.fromkeys(ids) if id_ in TITLES]
        found = seen_draft(conn, query.draft)
        live = db.row(conn, WorldRow, "live_world", site=found.row.site)
        figures = {id_: _of_draft(conn, found, id_) for id_ in ids if id_ in PROOF}
        figures |= _of_floor(conn, live, [id_ for id_ in ids if id_ in FLOOR]) if live else {}
    return TodayView(
        numbers=[NumberView(id=id_, title=TITLES[id_], figure=figures.get(id_)) for id_ in ids],
        others=[OtherNumber(id=id_, title=title) for id_, title in TITLES.items() if id_ not in ids],
        own=isinstance(chosen, list), site=found.row.site, floor=live.id if live else "",
        floor_name=live.name if live else "",
    )  # fmt: skip


def _of_floor(conn: db.Conn, live: WorldRow, ids: list[str]) -> dict[str, Figure]:
    if not ids:
        return {}
    with wired(current_app).worlds.reading(conn, live.id) as w:
        now = local_now(w.ground, SiteCode(live.site), w.state.clock)
        return {id_: FLOOR[id_][1](w.state, w.rulebook, now) for id_ in ids}


def _of_draft(conn: db.Conn, found: Draft, id_: str) -> Figure:
    drafts = wired(current_app).drafts
    match id_:
        case "stops" | "doubts":
            stops = id_ == "stops"
            some = [f for f in drafts.found(conn, found) if (f.severity.value == "blocks") == stops]
            if not some:
                return Figure(0, "Nothing stops it." if stops else "Nothing is doubtful.", "/findings", "holds")
            return Figure(len(some), some[0].says, "/findings", "stops" if stops else "doubt")
        case "rehearsals":
            n, every = due(conn, found.row.id)
            says = f"Of {every} kept, on {found.row.name}." if every else "None is kept yet."
            return Figure(n, says, "/rehearsals", "doubt" if n else "holds")
        case "differs":
            rows = db.rows(conn, DraftRow, "drafts", sites=person().row.sites)
            force = {d.site: drafts.in_force(conn, d.site) for d in rows}
            other = [f"{d.site} {d.name}" for d in rows if (f := force[d.site]) is None or not f.is_of(d)]
            return Figure(len(other), ", ".join(other[:3]) + "." if other else "All are in force.", "/drafts")
        case _:
            now = drafts.general(conn).no
            rows = [d for d in db.rows(conn, DraftRow, "drafts", sites=person().row.sites) if d.general != now]
            says = ", ".join(f"{d.site} {d.name}" for d in rows[:3])
            none = "All stand on what holds for all sites."
            return Figure(len(rows), f"{says}." if rows else none, "/drafts#all-sites", "doubt" if rows else "holds")


class WorldPath(Body):
    """A world."""

    id: str = Field(max_length=80)


@api.get("/worlds/<id>/hours", responses={200: Hours, **PROBLEMS})
@needs(Right.LOOK)
def hours(path: WorldPath) -> Hours:
    """What a floor did by the hour on the day its clock shows."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            clock, zone = w.state.clock, w.ground.sites[SiteCode(row.site)].time_zone
        begins = clock.astimezone(ZoneInfo(zone)).replace(hour=0, minute=0, second=0, microsecond=0)
        bodies = db.rows(conn, EntryBody, "entries_latest", world=row.id, most=LATEST)
    found: dict[datetime, Counter[str]] = {}
    whole = len(bodies) < LATEST
    for body in bodies:
        entry = read_entry(orjson.loads(body.body))
        at = entry.command.stamp.at
        if at < begins:
            whole = True
            break
        hour = at.astimezone(ZoneInfo(zone)).replace(minute=0, second=0, microsecond=0)
        found.setdefault(hour, Counter()).update(did(entry))
    if found:
        at = min(found)
        while at < max(found):
            at += timedelta(hours=1)
            found.setdefault(at, Counter())
    listed = [Hour(at=at, did=dict(found[at])) for at in sorted(found)]
    return Hours(kinds=DOING, hours=listed, all=whole, time_zone=zone)
