"""The host of a world as the studio sees it, the documents of a world, and the door for a real host.

A real host sends a key with each request (``Authorization: Bearer``), tells orders with a message id of its own, and
fetches and answers the floor's messages. Both are in effect once, however often they are sent.
"""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

import orjson
from flask import Response, current_app
from flask_openapi3 import APIBlueprint, FileStorage, Tag
from pydantic import Field

from mindful_crate.api.doors import Denied, check_site, needs, person
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById, Problem
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.api.worlds import world_row
from mindful_crate.core.catalog.channels import not_served, serving
from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import MessageNo, OrderNo, SiteCode
from mindful_crate.core.catalog.notices import Notice
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.messages import Message, MessageState
from mindful_crate.core.floor.topics import HostStandIn, OrderTopic
from mindful_crate.core.plain import canonical, from_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.books import Booked, books_of
from mindful_crate.core.record import evolve
from mindful_crate.core.work.host.decide import in_host
from mindful_crate.core.work.host.papers import CALLED, WORD
from mindful_crate.core.world import acts, chain
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.letters import Letter, letter
from mindful_crate.core.world.versions import read_entry
from mindful_crate.files.letters import MESSAGE_ID, letter_text, read_told
from mindful_crate.outside import host as outside
from mindful_crate.store import db
from mindful_crate.store.past import LISTED
from mindful_crate.store.rows import Body as EntryBody
from mindful_crate.store.rows import WaitingOrder, WorldRow
from mindful_crate.store.worlds import Loaded, Who

api = APIBlueprint("hosts", __name__, url_prefix="/api", abp_tags=[Tag(name="host")], doc_ui=WITH_DOCUMENT)
LIST = 200
"""Most rows of a list in one answer."""


class InHostView(Answer):
    """An order in the host beside what the floor knows of it."""

    order: Order
    partner: str
    state: str
    floor: str
    agrees: bool
    editor: str | None
    since: datetime | None
    cancelled: bool
    confirmed: bool
    arrived: int
    ordered: int


class MessageView(Answer):
    """A message in the log between host and floor."""

    number: str
    topic: str
    called: str
    way: Literal["to the floor", "to the host"]
    subject: str
    state: MessageState
    says: str
    sent: datetime | None
    due: datetime | None
    settled: datetime | None
    tries: int
    heard_again: int
    seq: int


class HostView(Answer):
    """The host of a world: how it behaves, its orders, the messages between it and the floor, latest first."""

    world: str
    kind: str
    seq: int
    clock: datetime
    time_zone: str
    host: HostStandIn
    orders: list[InHostView]
    orders_total: int
    messages: list[MessageView]
    messages_total: int
    waiting: int
    came_back: int
    """Messages that were refused or given up: somebody must do something."""


class HostQuery(Body):
    """Narrows the orders: part of a number, a partner or an item; and the messages by state, of which a part is asked for."""

    find: str = Field(default="", max_length=60)
    state: Literal["", "waiting", "answered", "refused", "given_up"] = ""
    start: int = Field(default=0, ge=0, le=100_000)
    most: int = Field(default=LIST, ge=1, le=LIST)


class MessagePath(Body):
    """A message of a world."""

    id: str = Field(max_length=80)
    message: str = Field(max_length=40)


class FormQuery(Body):
    """How a message is written down."""

    form: Literal["json", "csv", "ubl"] = "json"


class StageView(Answer):
    """A state of a document, with who reached it, where and when."""

    word: str
    done: bool
    says: str
    seq: int
    who: str
    device: str
    at: datetime | None


class RefView(Answer):
    """A document by kind and number."""

    kind: chain.DocKind
    number: str


class DocView(Answer):
    """A document of a chain."""

    kind: chain.DocKind
    number: str
    says: str
    word: str
    open: bool
    stages: list[StageView]
    before: list[RefView]
    after: list[RefView]


class ChainView(Answer):
    """Documents that hang together, from the order on."""

    seq: int
    time_zone: str
    docs: list[DocView]


class ChainQuery(Body):
    """Which document, and whether in short."""

    number: str = Field(max_length=60)
    short: bool = False


class DocHead(Answer):
    """A document in a list."""

    kind: chain.DocKind
    number: str
    says: str
    word: str
    open: bool
    latest: int


class DocList(Answer):
    """Documents, the one that moved last first."""

    docs: list[DocHead]
    total: int
    seq: int


class DocQuery(Body):
    """Narrows the list of documents, and says which part of it is asked for."""

    find: str = Field(default="", max_length=60)
    kind: Literal["", "order", "plate", "receipt", "task", "message"] = ""
    state: Literal["open", "done", "all"] = "open"
    start: int = Field(default=0, ge=0, le=100_000)
    most: int = Field(default=LIST, ge=1, le=LIST)


@api.get("/worlds/<id>/host", responses={200: HostView, **PROBLEMS})
@needs(Right.LOOK)
def host(path: ById, query: HostQuery) -> HostView:
    """What the host has, what the floor knows of it, and what is on its way between them."""
    parts, find = wired(current_app), query.find.strip().lower()
    with parts.database.transaction() as conn:
        row = world_row(conn, path.id)
    parts.worlds.keep_settled(path.id)
    with parts.database.transaction() as conn:
        until = query.start + query.most
        told = [_told_view(e) for e in _told(conn, row, until)]
        with parts.worlds.reading(conn, path.id) as w:
            state, site = w.state, w.settings.site
            partners = w.ground.partners
            orders = [
                o for o in state.all_orders() if o.site == site and (not find or any(find in t for t in _words(w, o)))
            ]
            # those touched here first, then those that wait to be confirmed
            orders.sort(
                key=lambda o: (o.number not in state.host_orders, state.is_confirmed(o.number), o.promised, o.number)
            )
            views = []
            for each in orders[:LIST]:
                how = in_host(state, each.number)
                held = how.held
                views.append(
                    InHostView(
                        order=held.order, partner=partners[held.order.partner].name, state=how.state, floor=how.floor,
                        agrees=how.agrees, editor=held.editor, since=held.since, cancelled=held.cancelled,
                        confirmed=held.confirmed, arrived=how.arrived, ordered=how.ordered,
                    )
                )  # fmt: skip
            every = list(state.messages.values())
            settled, left = _settled_messages(w, MessageState(query.state) if query.state else None, until)
            wanted: list[Message | MessageView] = [*every, *told]
            wanted = [*settled, *(m for m in wanted if not query.state or m.state == query.state)]
            wanted.sort(key=lambda m: m.seq, reverse=True)
            shown = [m if isinstance(m, MessageView) else _message_view(m) for m in wanted[query.start : until]]
            back = sum(m.state in (MessageState.REFUSED, MessageState.GIVEN_UP) for m in every)
            return HostView(
                world=row.id, kind=row.kind, seq=state.seq, clock=state.clock, time_zone=w.ground.sites[site].time_zone,
                host=state.host, orders=views, orders_total=len(orders), messages=shown,
                messages_total=len(wanted) - len(settled) + left, waiting=sum(m.state is MessageState.WAITING for m in every), came_back=back,
            )  # fmt: skip


def _words(w: Loaded, order: Order) -> list[str]:
    partner = w.ground.partners.get(order.partner)
    return [order.number.lower(), (partner.name if partner else "").lower(), *(x.item.lower() for x in order.lines)]


def _settled_messages(w: Loaded, state: MessageState | None, most: int) -> tuple[list[Message], int]:
    """The latest messages of which nothing is due any more, and how many there are."""
    word = WORD[state] if state else ""
    if state and state not in (MessageState.ANSWERED, MessageState.REFUSED):
        return [], 0
    refs, total = w.past.found([DocKind.MESSAGE], most, word=word)
    return [w.state.messages[MessageNo(r.number)] for r in refs], total


def _message_view(m: Message) -> MessageView:
    return MessageView(
        number=m.number, topic=m.topic, called=CALLED[m.topic], way="to the floor" if m.from_host else "to the host",
        subject=m.subject, state=m.state, says=m.says, sent=m.sent, due=m.due, settled=m.settled, tries=m.turn,
        heard_again=m.heard_again, seq=m.seq,
    )  # fmt: skip


def _told(conn: db.Conn, row: WorldRow, most: int = LIST) -> list[ev.Entry]:
    """What a real host told, the latest first."""
    return [read_entry(orjson.loads(b.body)) for b in db.rows(conn, EntryBody, "entries_told", world=row.id, most=most)]


def _told_view(entry: ev.Entry) -> MessageView:
    act = entry.command.act
    assert isinstance(act, acts.HostTells | acts.HostAnnounces)
    topic = act.topic if isinstance(act, acts.HostTells) else "announce"
    subject = act.order.number if isinstance(act, acts.HostTells) else act.notice.order
    done, at = isinstance(entry.outcome, ev.Done), entry.command.stamp.at
    return MessageView(
        number=entry.command.stamp.id.removeprefix("host-in:"), topic=topic, called=CALLED[topic],
        way="to the floor", subject=subject, state=MessageState.ANSWERED if done else MessageState.REFUSED,
        says="" if done else entry.says, sent=at, due=None, settled=at, tries=1, heard_again=0, seq=entry.seq,
    )  # fmt: skip


@api.get("/worlds/<id>/messages/<message>", responses={200: {"content": {"text/plain": {}}}, **PROBLEMS})
@needs(Right.LOOK)
def message(path: MessagePath, query: FormQuery) -> Response:
    """The content of a message, as JSON, CSV or UBL."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = world_row(conn, path.id)
        told = next((e for e in _told(conn, row) if e.command.stamp.id == f"host-in:{path.message}"), None)
        with parts.worlds.reading(conn, path.id) as w:
            act, at = (told.command.act, told.command.stamp.at) if told else (None, None)
            if isinstance(act, acts.HostTells):
                found = Letter(MessageNo(path.message), act.topic, w.settings.site, at, order=act.order)
            elif isinstance(act, acts.HostAnnounces):
                found = Letter(MessageNo(path.message), "announce", w.settings.site, at, notice=act.notice)
            else:
                found = _letter(conn, w, path.message)
            text = letter_text(found, query.form, w.ground)
    kind = {"json": "application/json", "csv": "text/csv", "ubl": "application/xml"}[query.form]
    ending = "xml" if query.form == "ubl" else query.form
    return Response(
        text, mimetype=kind, headers={"Content-Disposition": f'inline; filename="{found.message}.{ending}"'}
    )


def _letter(conn: db.Conn, w: Loaded, number: str) -> Letter:
    known = w.state.messages.get(MessageNo(number))
    if known is None:
        raise Refusal("unknown_message", f"There is no message `{number}`.")
    sent = wired(current_app).worlds.entries(conn, w.row, known.seq - 1, known.seq) if not known.order else []
    return letter(w.state, known, sent[0] if sent else None)


class BooksPath(Body):
    """An order in the host of a world."""

    id: str = Field(max_length=80)
    order: str = Field(max_length=40)


class Books(Answer):
    """The host's books for an order beside the floor's numbers, line by line."""

    order: str
    lines: list[Booked]


@api.get("/worlds/<id>/host/<order>", responses={200: Books, **PROBLEMS})
@needs(Right.LOOK)
def books(path: BooksPath) -> Books:
    """What the host believes of an order and what the floor knows, differences marked."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            number = OrderNo(path.order.strip().upper())
            return Books(order=number, lines=list(books_of(w.state, number)))


# Documents


@api.get("/worlds/<id>/documents", responses={200: DocList, **PROBLEMS})
@needs(Right.LOOK)
def documents(path: ById, query: DocQuery) -> DocList:
    """All documents of a world: open, done or both."""
    parts, find = wired(current_app), query.find.strip().lower()
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
    parts.worlds.keep_settled(path.id)
    with parts.database.transaction() as conn, parts.worlds.reading(conn, path.id) as w:
        every = list(chain.documents(w.state))
        here = [
            d
            for d in every
            if (query.state == "all" or d.open == (query.state == "open"))
            and query.kind in ("", d.kind)
            and (not find or find in d.number.lower() or find in d.says.lower())
        ]
        settled: list[Ref] = []
        left = 0
        if query.state != "open":  # nothing of what is settled is still to come
            kinds = [k for k in LISTED if query.kind in ("", k)]
            known = {(d.kind, d.number) for d in every}
            found, left = w.past.found(kinds, query.start + query.most, find)
            settled = [r for r in found if (r.kind, r.number) not in known]
        docs = [*here, *chain.told(w.state, settled)]
        seq = w.state.seq
    docs.sort(key=lambda d: (-d.latest, d.kind, d.number))
    heads = [
        DocHead(kind=d.kind, number=d.number, says=d.says, word=d.word, open=d.open, latest=d.latest)
        for d in docs[query.start : query.start + query.most]
    ]
    return DocList(docs=heads, total=len(here) + left, seq=seq)


@api.get("/worlds/<id>/chain", responses={200: ChainView, **PROBLEMS})
@needs(Right.LOOK)
def chain_of(path: ById, query: ChainQuery) -> ChainView:
    """What came before a document and after it, with who did what, where and when."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            number = query.number.strip().upper()
            start = chain.find(w.state, number)
            if start is None:
                raise Refusal("unknown_document", f"There is no document `{number}` in this world.")
            docs = chain.chain(w.state, start, short=query.short)
            seqs = sorted({s.seq for d in docs for s in d.stages} - {0})
            entries = {e.seq: e for e in parts.worlds.entries_at(conn, row, seqs)}
            seq, zone = w.state.seq, w.ground.sites[w.settings.site].time_zone
    return ChainView(seq=seq, time_zone=zone, docs=[_doc(d, entries) for d in docs])


def _doc(doc: chain.Doc, entries: dict[int, ev.Entry]) -> DocView:
    return DocView(
        kind=doc.kind, number=doc.number, says=doc.says, word=doc.word, open=doc.open,
        stages=[_stage(s, entries.get(s.seq)) for s in doc.stages],
        before=[RefView(kind=r.kind, number=r.number) for r in doc.before],
        after=[RefView(kind=r.kind, number=r.number) for r in doc.after],
    )  # fmt: skip


def _stage(stage: chain.Stage, entry: ev.Entry | None) -> StageView:
    stamp = entry.command.stamp if entry and stage.done else None
    return StageView(
        word=stage.word, done=stage.done, says=stage.says, seq=stage.seq, who=stamp.who if stamp else "",
        device=(stamp.device or "") if stamp else "", at=stamp.at if stamp else None,
    )  # fmt: skip


# A real host


class SiteQuery(Body):
    """Which site; not needed by a host of one site."""

    site: str = Field(default="", max_length=20)


class TellBody(Body):
    """An order the host tells: ``message`` is an id of the host's own, in effect once."""

    message: str = Field(max_length=60, pattern=f"^{MESSAGE_ID}$")
    topic: OrderTopic
    order: Order


class AnnounceBody(Body):
    """An advance notice the host passes on, under a message id of its own."""

    message: str = Field(max_length=60, pattern=f"^{MESSAGE_ID}$")
    notice: Notice


class ToldAnswer(Answer):
    """What became of what the host told."""

    message: str
    accepted: bool
    says: str
    waits: bool = False
    """It names no site, and waits until somebody gives it one."""


class LetterList(Answer):
    """Messages that wait for an answer, of each document the first; and how many wait in all."""

    letters: list[Letter]
    waiting: int


class AnswerPath(Body):
    """A message of the floor."""

    message: str = Field(max_length=40)


class AnswerBody(Body):
    """The host's answer to a message; a refusal has a reason."""

    accepted: bool
    reason: Annotated[str, Field(max_length=400)] = ""


class FileForm(Body):
    """A file with an order: JSON, CSV or UBL by its ending."""

    file: FileStorage


HOST_ANSWERS: Any = {**PROBLEMS, 413: Problem}


@api.post("/host/orders", responses={200: ToldAnswer, **HOST_ANSWERS})
@needs(Right.HOST)
def tell_order(query: SiteQuery, body: TellBody) -> ToldAnswer:
    """Tell the floor about an order: confirmed, changed or cancelled. One that names no site goes to the one that serves its
    channel; where none does, it waits until somebody names it."""
    with wired(current_app).database.transaction() as conn:
        before = db.row(conn, WaitingOrder, "waiting_order", message=body.message)
    if before and before.site:  # it was given a site by hand: the answer is what became of it there
        row = _live(before.site)
        told = acts.HostTells(body.topic, evolve(body.order, site=row.site))
        return _tell(row, before.told_as(before.tries), told)
    site = query.site or body.order.site or _known_at(body.order.number) or _serving(body.order.channel)
    if site or len(person().row.sites) == 1:
        row = _live(site)
        return _tell(
            row, body.message, acts.HostTells(body.topic, evolve(body.order, site=body.order.site or row.site))
        )
    with wired(current_app).database.transaction() as conn:
        db.run(
            conn,
            "put_waiting_order",
            message=body.message,
            topic=body.topic,
            body=canonical(body.order),
            told_by=person().id,
        )
    by = not_served(body.order.channel)
    says = f"Order `{body.order.number}` names no site, and {by}: it waits, on the page Host, until somebody names one."
    return ToldAnswer(message=body.message, accepted=False, says=says, waits=True)


def _serving(channel: str) -> str:
    """The site that serves a channel, as the catalogue says now; empty: none."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        return serving(parts.grounds.opening(conn).channels, channel) or ""


def _known_at(number: OrderNo) -> str:
    """The site, of the person's, whose live floor knows an order; empty: none. What is told of it later goes there too."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        for row in db.rows(conn, WorldRow, "live_worlds"):
            if row.site in person().row.sites:
                with parts.worlds.reading(conn, row.id) as w:
                    known = w.state.order(number)
                if known and known.site == row.site:
                    return row.site
    return ""


class Waiting(Answer):
    """An order that waits for a site; ``serving`` is the one that would serve its channel by now."""

    message: str
    order: Order
    told_by: str
    told_at: datetime
    serving: str


class WaitingList(Answer):
    """Orders that name no site, the one that waits longest first; the sites there are to give them to."""

    orders: list[Waiting]
    sites: list[str]
    """Those with a live floor at which the person may tell orders."""


class PlaceBody(Body):
    """The site an order goes to."""

    site: str = Field(min_length=1, max_length=20)


class WaitingPath(Body):
    """The message an order was told by."""

    message: str = Field(max_length=60)


@api.get("/waiting-orders", responses={200: WaitingList, **PROBLEMS})
@needs(Right.LOOK)
def waiting_orders() -> WaitingList:
    """Orders a host told without a site."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        rows = db.rows(conn, WaitingOrder, "waiting_orders")
        live = [w.site for w in db.rows(conn, WorldRow, "live_worlds")]
    told = [(row, from_plain(Order, orjson.loads(row.body))) for row in rows]
    orders = [
        Waiting(message=r.message, order=o, told_by=r.told_by, told_at=r.told_at, serving=_serving(o.channel))
        for r, o in told
    ]
    return WaitingList(orders=orders, sites=[s for s in live if Right.ORDERS in person().rights_at(s)])


@api.post("/waiting-orders/<message>", responses={200: ToldAnswer, **PROBLEMS})
@needs(Right.LOOK)
def place_order(path: WaitingPath, body: PlaceBody) -> ToldAnswer:
    """Give an order a site: its floor is told as the host told it. What the floor refuses waits on."""
    check_site(body.site)
    if Right.ORDERS not in person().rights_at(body.site):
        raise Denied(403, f"Your role, {person().row.role}, may not give orders to {body.site}.")
    database = wired(current_app).database
    with database.transaction() as conn:  # it is taken off the list first, so that two who give it at once do not both
        row = db.row(conn, WaitingOrder, "waiting_order", message=path.message)
        if row is None:
            raise Refusal("unknown_message", f"No order waits under message `{path.message}`.")
        if row.site:
            raise Refusal("placed_before", f"It was given to {row.site} meanwhile.")
        db.run(conn, "place_waiting_order", message=row.message, site=body.site)
    order = from_plain(Order, orjson.loads(row.body))
    told = None
    try:
        act = acts.HostTells(row.topic, evolve(order, site=SiteCode(body.site)))
        told = _tell(_live(body.site), row.told_as(row.tries + 1), act)
    finally:
        if told is None or not told.accepted:
            with database.transaction() as conn:
                db.run(conn, "unplace_waiting_order", message=row.message)
    if not told.accepted:
        raise Refusal("not_taken", told.says)
    return told


@api.post("/host/notices", responses={200: ToldAnswer, **HOST_ANSWERS})
@needs(Right.HOST)
def tell_notice(query: SiteQuery, body: AnnounceBody) -> ToldAnswer:
    """Announce license plates and what is on them, ahead of arrival."""
    return _tell(_live(query.site), body.message, acts.HostAnnounces(body.notice))


@api.post("/host/files", responses={200: ToldAnswer, **HOST_ANSWERS})
@needs(Right.HOST)
def tell_file(query: SiteQuery, form: FileForm) -> ToldAnswer:
    """The same as a file."""
    row = _live(query.site)
    with wired(current_app).database.transaction() as conn:
        ground = wired(current_app).worlds.ground(conn, row.opening)
    told = read_told(form.file.read(), form.file.filename or "message", ground, row.site)
    return _tell(row, told.message, told.act)


@api.get("/host/messages", responses={200: LetterList, **HOST_ANSWERS})
@needs(Right.HOST)
def to_answer(query: SiteQuery) -> LetterList:
    """Messages of the floor that wait for an answer."""
    row = _live(query.site)
    parts = wired(current_app)
    with parts.database.transaction() as conn, parts.worlds.reading(conn, row.id) as w:
        return LetterList(
            letters=[letter(w.state, m) for m in w.state.to_send()[:LIST]], waiting=len(w.state.waiting())
        )


@api.post("/host/messages/<message>/answer", responses={200: ToldAnswer, **HOST_ANSWERS})
@needs(Right.HOST)
def answer(path: AnswerPath, query: SiteQuery, body: AnswerBody) -> ToldAnswer:
    """Accept or refuse a message of the floor."""
    row = _live(query.site)
    refused = None if body.accepted else body.reason
    entry = outside.answer(wired(current_app).worlds, row, MessageNo(path.message), refused, _me())
    if isinstance(entry.outcome, ev.Refused):
        raise Refusal(entry.outcome.problem.code, entry.says)
    return ToldAnswer(message=path.message, accepted=body.accepted, says=entry.says)


def _live(site: str) -> WorldRow:
    sites = person().row.sites
    if not site and len(sites) != 1:
        raise Refusal("which_site", f"Say which site: {', '.join(sites) or 'this key opens none'}.", "site")
    code = site or sites[0]
    check_site(code)
    with wired(current_app).database.transaction() as conn:
        row = db.row(conn, WorldRow, "live_world", site=code)
    if row is None:
        raise Denied(404, f"Site {code} has no live floor.")
    return row


def _me() -> Who:
    return Who(person().id)


def _tell(row: WorldRow, message: str, act: acts.HostTells | acts.HostAnnounces) -> ToldAnswer:
    entry = outside.tell(wired(current_app).worlds, row, message, act, _me())
    return ToldAnswer(message=message, accepted=isinstance(entry.outcome, ev.Done), says=entry.says)
