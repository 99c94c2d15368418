"""Putting a draft in force: what would change, which floors and handsets go by it."""

from __future__ import annotations

from datetime import datetime

from flask import current_app
from flask_openapi3 import APIBlueprint, Tag

from mindful_crate.api.doors import needs, person
from mindful_crate.api.drafts import VersionBody, note_of, seen_draft
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, wired
from mindful_crate.core.catalog.ids import DeviceId, SiteCode
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.proving.taking_over import left_as_it_is
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.chapter import Note
from mindful_crate.core.rulebook.differences import Difference, differences
from mindful_crate.core.rulebook.words.settings import SYNC
from mindful_crate.core.work.handset.given import behind
from mindful_crate.core.world.acts import TakeRules
from mindful_crate.store import db
from mindful_crate.store.loaded import Who
from mindful_crate.store.rows import WorldRow

api = APIBlueprint("in_force", __name__, url_prefix="/api", abp_tags=[Tag(name="drafts")], doc_ui=WITH_DOCUMENT)


class ForceView(Answer):
    """What would change if a draft were put in force; ``changes`` empty: nothing. ``revision`` null: nothing is in force."""

    version: int
    revision: int | None
    revision_name: str
    made_by: str
    made_at: datetime | None
    changes: list[Difference]
    stops: list[Note]


class HandNow(Answer):
    """A handset of a live floor: what it is at (empty: its menu), whether it goes by the rules that hold, and when it was given
    those it goes by."""

    device: str
    person: str
    flow: str
    has_taken: bool
    at: datetime | None


class FloorNow(Answer):
    """A site's live floor: whether it goes by what is in force, and which handsets have taken it."""

    world: str
    name: str
    goes_by_it: bool
    hands: list[HandNow]
    takes: str
    """When handsets take what is put in force."""


class FloorView(Answer):
    """A site's live floor, if it has one; ``stays``: what a draft would leave on it as it is."""

    floor: FloorNow | None
    stays: list[str]


class InForce(Answer):
    """The number of the revision in force, and what the site's live floor said, if there is one."""

    revision: int
    floor: str


@api.get("/drafts/<id>/in-force", responses={200: ForceView, **PROBLEMS})
@needs(Right.LOOK)
def would_change(path: ById) -> ForceView:
    """What would change if the draft were put in force, in sentences, and what stops it."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        found = seen_draft(conn, path.id)
        site = SiteCode(found.row.site)
        ground = parts.worlds.ground(conn, found.row.opening)
        force = parts.drafts.in_force(conn, site)
        before = parts.worlds.rulebook(conn, force.rulebook) if force else Rulebook("")
        stops = [f for f in parts.drafts.found(conn, found) if f.severity.value == "blocks"]
        return ForceView(
            version=found.row.version, revision=force.no if force else None, revision_name=force.name if force else "",
            made_by=force.made_by if force else "", made_at=force.made_at if force else None,
            changes=differences(before, found.rulebook, ground, site), stops=[note_of(f) for f in stops],
        )  # fmt: skip


@api.get("/drafts/<id>/floor", responses={200: FloorView, **PROBLEMS})
@needs(Right.LOOK)
def floor_now(path: ById) -> FloorView:
    """The live floor of the draft's site: does it go by what is in force, and which handsets have taken it?"""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        found = seen_draft(conn, path.id)
        site = found.row.site
        row = db.row(conn, WorldRow, "live_world", site=site)
        if row is None:
            return FloorView(floor=None, stays=[])
        force = parts.drafts.in_force(conn, site)
        with parts.worlds.reading(conn, row.id) as w:
            stays = left_as_it_is(w.state, found.rulebook)
        return FloorView(floor=_floor(conn, row, force.rulebook if force else ""), stays=stays)


def _floor(conn: db.Conn, row: WorldRow, in_force: str) -> FloorNow:
    with wired(current_app).worlds.reading(conn, row.id) as w:
        hands = []
        for device in sorted({*w.state.devices, *(d.device or "" for d in w.state.dialogues.values() if d.open)}):
            given, d = w.state.devices.get(DeviceId(device)), w.state.talking(DeviceId(device))
            open_ = d if d and d.open else None
            flow = w.rulebook.flow(open_.flow) if open_ else None
            taken = open_.rules == w.state.rules if open_ else not behind(w.state, w.rulebook, DeviceId(device))
            hands.append(
                HandNow(
                    device=device, person=d.person if d else "", flow=flow.name if flow else open_.flow if open_ else "",
                    has_taken=taken, at=given.at if given else None,
                )
            )  # fmt: skip
        by = w.state.rules or row.rulebook
    return FloorNow(
        world=row.id,
        name=row.name,
        goes_by_it=by == in_force,
        hands=hands,
        takes=SYNC[w.rulebook.sync_of(w.settings.site)],
    )


@api.post("/drafts/<id>/in-force", responses={200: InForce, **PROBLEMS})
@needs(Right.PUT_IN_FORCE)
def put_in_force(path: ById, body: VersionBody) -> InForce:
    """Make the draft the revision in force; the site's live floor goes by it from its next entry on."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        found = seen_draft(conn, path.id)
        revision = parts.drafts.put_in_force(conn, path.id, body.version, person().id)
        live = db.row(conn, WorldRow, "live_world", site=found.row.site)
        if live is None:
            return InForce(revision=revision, floor="")
        ground = parts.worlds.ground(conn, live.opening)
        stopped = [f for f in findings(found.rulebook, ground, SiteCode(live.site)) if f.severity.value == "blocks"]
        if stopped:  # the floor may stand on another ground than the draft
            says = f"The live floor of {live.site} cannot go by it: {stopped[0].says}"
            raise Refusal("rulebook_blocked", says, stopped[0].place)
        act = TakeRules(found.row.rulebook, revision, found.rulebook.sync_of(SiteCode(live.site)))
        entry = parts.worlds.run_within(conn, live.id, f"rules:{revision}", act, Who(person().id))
        return InForce(revision=revision, floor=entry.says)
