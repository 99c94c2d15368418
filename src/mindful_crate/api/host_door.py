"""The door for a real host, and what is done with orders it tells without a site.

It sends a key with each request (``Authorization: Bearer``), tells orders with a message id of its own, and fetches and answers the
floor's messages. Both are in effect once, however often they are sent.
"""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

import orjson
from flask import current_app
from flask_openapi3 import APIBlueprint, FileStorage, Tag
from pydantic import Field

from mindful_crate.api.doors import Denied, check_site, needs, person
from mindful_crate.api.hosts import LIST
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, Problem
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.catalog.channels import not_served, serving
from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import MessageNo, OrderNo, SiteCode
from mindful_crate.core.catalog.notices import Notice
from mindful_crate.core.floor.topics import OrderTopic
from mindful_crate.core.plain import canonical, from_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.letters import Letter, letter
from mindful_crate.files.letters import MESSAGE_ID, read_told
from mindful_crate.outside import host as outside
from mindful_crate.store import db
from mindful_crate.store.loaded import Who
from mindful_crate.store.rows import WaitingOrder, WorldRow

api = APIBlueprint("host_door", __name__, url_prefix="/api", abp_tags=[Tag(name="host")], doc_ui=WITH_DOCUMENT)


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
