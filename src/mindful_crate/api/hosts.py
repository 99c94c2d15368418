"""The host of a world as the studio sees it: its orders, its books, the messages between it and the floor."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

import orjson
from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.doors import needs
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.api.worlds import now_in, world_row
from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import MessageNo, OrderNo
from mindful_crate.core.catalog.refs import DocKind
from mindful_crate.core.floor.messages import Message, MessageState
from mindful_crate.core.floor.topics import HostStandIn
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.books import Booked, books_of
from mindful_crate.core.work.host.decide import in_host
from mindful_crate.core.work.host.papers import CALLED, WORD
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.letters import Letter, letter
from mindful_crate.core.world.versions import read_entry
from mindful_crate.files.letters import letter_text
from mindful_crate.store import db
from mindful_crate.store.loaded import Loaded
from mindful_crate.store.rows import Body as EntryBody
from mindful_crate.store.rows import WorldRow

api = APIBlueprint("hosts", __name__, url_prefix="/api", abp_tags=[Tag(name="host")], doc_ui=WITH_DOCUMENT)
LIST = 200
"""Most rows of a list in one answer."""


class InHostView(Answer):
    """An order in the host beside what the floor knows of it."""

    order: Order
    order_class: str
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
                        order=held.order, order_class=w.rulebook.class_told(w.ground, held.order), partner=partners[held.order.partner].name, state=how.state, floor=how.floor,
                        agrees=how.agrees, editor=held.held_by(now_in(w)), since=held.since, cancelled=held.cancelled,
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
