"""Commands, the one way anything in a world changes, and what a handset shows after them."""

from __future__ import annotations

from datetime import datetime
from functools import partial
from typing import Annotated, Literal

from flask import current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.doors import BADGE, Denied, look_again, needs, person, somebody
from mindful_crate.api.logs import EntryView, entry_view
from mindful_crate.api.rights import OFFICE_ACTS, SAYS, Right, rights_at
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.api.worlds import check_seen, world_row
from mindful_crate.core.catalog.ids import CrewId, DeviceId, PersonId
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.rehearse import open_dialogue
from mindful_crate.core.rulebook.words.parts import Names
from mindful_crate.core.scanning.dialogue import ask, open_work
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.scanning.reading import How, Scan
from mindful_crate.core.work.handset.decide import context
from mindful_crate.core.work.handset.given import behind, due_in
from mindful_crate.core.work.stamp import Lost
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.tray import TrayCode, tray
from mindful_crate.files import gs1
from mindful_crate.store import db
from mindful_crate.store.loaded import Loaded, Unproven, Who
from mindful_crate.store.rows import PersonRow, WorldRow

api = APIBlueprint("handsets", __name__, url_prefix="/api", abp_tags=[Tag(name="worlds")], doc_ui=WITH_DOCUMENT)


class MenuFlow(Answer):
    """A flow on the handset's menu, under a heading. ``open_work``: how much waits to be done by it, as a text; empty where
    nothing is counted."""

    id: str
    name: str
    purpose: str
    group: str
    open_work: str


class SyncView(Answer):
    """Does a handset go by other rules than those in force? ``due_in``: so many seconds until it takes these, at its menu; None:
    never by itself."""

    behind: bool
    due_in: int | None


class HandsetView(Answer):
    """What a handset shows: a question, or the menu when no flow is open; then there is no menu."""

    world: str
    device: str
    person: str
    seq: int
    menu: list[MenuFlow]
    question: Question | None
    tray: list[TrayCode]
    sync: SyncView


class HandsetQuery(Body):
    """Whose hands hold the handset."""

    person: str = Field(default="", max_length=80)
    tray: bool = False


Device = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[^\x00-\x1f\x7f]+$")]
"""The name of a handset: something that can be read."""


class HandsetPath(Body):
    """A handset in a world."""

    id: str = Field(max_length=80)
    device: Device


class ScanBody(Body):
    """A scan from a handset."""

    text: str = Field(max_length=400)
    how: How = How.SCANNED


class AnswerAct(Body):
    """Scans or types an answer."""

    kind: Literal["answer"]
    dialogue: str
    scan: ScanBody
    step: int | None = None


HandsetAct = acts.OpenFlow | AnswerAct | acts.Press | acts.StepBack | acts.LeaveFlow | acts.SyncHandset


class CommandBody(Body):
    """A command. ``id`` is made by the client; sent again, it is answered as the first time. ``lost``: the handset had no network
    when it was sent first."""

    id: str = Field(min_length=1, max_length=80)
    act: Annotated[acts.OfficeAct | HandsetAct, Field(discriminator="kind")]
    device: Device | None = None
    person: str | None = Field(default=None, max_length=80)
    device_time: datetime | None = None
    tray: bool = False
    lost: Lost = ""


class CommandAnswer(Answer):
    """The outcome of a command, and the handset's next question if it came from one."""

    entry: EntryView
    handset: HandsetView | None


@api.post("/worlds/<id>/commands", responses={200: CommandAnswer, **PROBLEMS})
@needs(Right.LOOK, proves=True)
def command(path: ById, body: CommandBody) -> CommandAnswer:
    """One command from the office or a handset; the one way anything in a world changes."""
    act: acts.Act
    if isinstance(body.act, AnswerAct):
        refuse_badge(body.act.scan.text)
        scan = Scan(body.act.scan.text, body.act.scan.how, gs1.split(body.act.scan.text))
        act = acts.Answer(body.act.dialogue, scan, body.act.step)  # type: ignore[arg-type]
    else:
        act = body.act
    hands: list[Who] = []

    def whose(conn: db.Conn, row: WorldRow) -> Who:
        check_seen(conn, row)
        hands.append(_hands(conn, row, body))
        if isinstance(act, acts.ReassignTask) and act.person:
            check_given(conn, act.person, act.crew)
        return hands[-1]

    def look(w: Loaded, entry: ev.Entry) -> CommandAnswer:
        handset = _handset(w, body.device, hands[-1], tray_too=body.tray) if body.device else None
        return CommandAnswer(entry=entry_view(entry, w.rulebook, Names(w.ground)), handset=handset)

    run = partial(wired(current_app).worlds.run_and_look, path.id, body.id, act, whose, look)
    try:
        return run()
    except (Unproven, Denied):
        if person().proof is None:
            raise
        look_again(Right.LOOK)
        return run()


def refuse_badge(text: str) -> None:
    """A badge opens the handset of whoever has it; scanned anywhere else it is not even written into the log."""
    if BADGE.fullmatch(text.strip().upper()):
        raise Refusal(
            "badge_scanned",
            "That is somebody's badge. To take this handset over, sign out first; the badge is scanned where it asks who you are.",
        )


def check_given(conn: db.Conn, who: PersonId, crew: CrewId) -> None:
    """A task given to one person alone waits for nobody else: it must be somebody who works here, in that crew."""
    given = somebody(conn, who)
    if not given.active:
        raise Refusal(
            "person_inactive", f"{given.name} works here no more. Give the task to somebody else, or to the crew."
        )
    if crew not in given.crews:
        raise Refusal("not_of_crew", f"{given.name} is not of the crew {crew}, so the task would wait for nobody.")


def _hands(conn: db.Conn, row: WorldRow, body: CommandBody) -> Who:
    """Check the right for this act in this kind of world, and whose hands it is done with."""
    me, other = person(), body.person if body.person != person().id else None
    live, rehearses = row.kind == "live", Right.REHEARSE in me.rights
    needed = OFFICE_ACTS.get(body.act.kind, Right.SCAN)
    if needed not in me.rights_at(row.site) and (live or not rehearses):
        raise Denied(403, _who_may(conn, row, needed))
    if other and (live or not rehearses):
        raise Denied(403, "With the hands of others one works in a rehearsal only, and with the right to rehearse.")
    hands = somebody(conn, other) if other else me.row
    return Who(me.id, other, body.device, tuple(hands.crews), body.device_time, body.lost, me.proof)


def _who_may(conn: db.Conn, row: WorldRow, needed: Right) -> str:
    """That a right is missing, and who has it there."""
    where = f"on the live floor of {row.site}" if row.kind == "live" else "here"
    says = f"Your role, {person().row.role}, may not do this {where}. It needs the right to {SAYS[needed]}"
    able = [p.name for p in db.rows(conn, PersonRow, "people") if p.active and needed in rights_at(p, row.site)]
    if not able:
        return f"{says}, which nobody has there. It is given under People."
    others = f" and {len(able) - 3} more" if len(able) > 3 else ""
    return f"{says}, as {', '.join(able[:3])}{others} may."


@api.get("/worlds/<id>/handsets/<device>", responses={200: HandsetView, **PROBLEMS})
@needs(Right.LOOK)
def handset(path: HandsetPath, query: HandsetQuery) -> HandsetView:
    """What a handset shows now."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        who = somebody(conn, query.person or person().id)
        with parts.worlds.reading(conn, path.id) as w:
            hands = Who(person().id, who.id, path.device, tuple(who.crews))
            return _handset(w, path.device, hands, tray_too=query.tray)


def _handset(w: Loaded, device: str | None, hands: Who, *, tray_too: bool) -> HandsetView:
    stamp = w.stamp("look", hands)
    dialogue = open_dialogue(w.state, DeviceId(device or ""))
    book = wired(current_app).worlds.shown_on(w, device)
    flow = book.flow(dialogue.flow) if dialogue else None
    question, codes = None, []
    if dialogue and flow:
        question = ask(context(w.state, book, stamp, flow), dialogue)
        codes = list(tray(w.state, book, stamp, dialogue)) if tray_too else []
    groups = book.menu_groups(w.settings.site, stamp.crews) if question is None else ()
    menu = [
        MenuFlow(
            id=f.id, name=f.name, purpose=f.purpose.value, group=name, open_work=open_work(context(w.state, book, stamp, f))
        )
        for name, flows in groups
        for f in flows
    ]  # fmt: skip
    return HandsetView(
        world=w.row.id, device=device or "", person=stamp.who, seq=w.state.seq, menu=menu, question=question, tray=codes,
        sync=sync_view(w, device, stamp.at),
    )  # fmt: skip


def sync_view(w: Loaded, device: str | None, now: datetime) -> SyncView:
    """How far a handset is behind what is in force."""
    known = DeviceId(device or "")
    left = due_in(w.state, w.rulebook, known, now)
    return SyncView(
        behind=behind(w.state, w.rulebook, known), due_in=None if left is None else int(left.total_seconds())
    )
