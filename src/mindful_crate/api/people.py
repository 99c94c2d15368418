"""Looking after people: who they are, what they may do, badges, sessions, erasing names."""

from __future__ import annotations

import re
import secrets
from base64 import b64encode
from collections.abc import Iterable
from datetime import datetime
from typing import Any, Literal

import psycopg
from flask import current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.doors import (
    BADGE_LETTERS,
    HASHER,
    HOST_ROLE,
    IDLE_HOURS,
    SHORTEST_PASSWORD,
    Denied,
    needs,
    person,
    secret_hash,
    somebody,
)
from mindful_crate.api.rights import GIVEN_APART, ROLE_SAYS, ROLES, SAYS, Right, given
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.catalog.ids import CrewId, FlowId, SiteCode
from mindful_crate.core.floor.prints import Label
from mindful_crate.core.problem import Refusal
from mindful_crate.files import labels as drawing
from mindful_crate.store import db
from mindful_crate.store.rows import OpenSessions, PersonRow

api = APIBlueprint("people", __name__, url_prefix="/api", abp_tags=[Tag(name="people")], doc_ui=WITH_DOCUMENT)
Role = Literal["analyst", "supervisor", "buyer", "floor", "viewer", "host"]


class PersonView(Answer):
    """Somebody, for showing a name where the log holds an id."""

    id: str
    name: str
    role: str
    crews: list[str]


class People(Answer):
    """Everybody."""

    people: list[PersonView]


class GivenRight(Body):
    """A right a person has at a site besides what the role brings."""

    site: str = Field(max_length=20)
    right: Right


class Card(Answer):
    """A person as whoever looks after people sees them."""

    id: str
    name: str
    role: str
    sites: list[str]
    crews: list[str]
    login: str
    active: bool
    has_badge: bool
    erased_at: datetime | None
    sessions: int
    seen_at: datetime | None
    default_site: str
    default_flow: str
    given: list[GivenRight]
    notes: list[str]
    """What does not agree: a flow to begin with that her crews do not see."""


class Called(Answer):
    """A crew or flow of some rulebook, and what it is called there."""

    id: str
    name: str


class RoleView(Answer):
    """A role: what it is for, and the rights it brings."""

    role: str
    says: str
    rights: list[Right]


class RightView(Answer):
    """A right in words. ``apart``: a person may be given it besides what the role brings."""

    right: Right
    says: str
    apart: bool


class Cards(Answer):
    """Everybody, those who left last; the sites, crews and flows there are to choose from; roles and rights in words."""

    people: list[Card]
    sites: list[str]
    crews: list[Called]
    flows: list[Called]
    roles: list[RoleView]
    rights: list[RightView]


class PersonBody(Body):
    """What can be said of a person. A new one needs a password too."""

    name: str = Field(min_length=1, max_length=80)
    role: Role
    sites: list[str] = Field(max_length=50)
    crews: list[str] = Field(max_length=50)
    login: str = Field(min_length=2, max_length=40)
    active: bool = True
    password: str = Field(default="", max_length=200)
    default_site: str = Field(default="", max_length=20)
    default_flow: str = Field(default="", max_length=80)
    given: list[GivenRight] = Field(default=[], max_length=200)


class PasswordBody(Body):
    """A new password."""

    password: str = Field(max_length=200)


class NewBadge(Answer):
    """A badge's code, or a host's key, which nobody can read afterwards; of a badge its label too, as SVG and as PDF in base64: a
    request for them later would carry the code in its address."""

    badge: str
    svg: str
    pdf: str


HOST_KEY = "KEY-"


@api.get("/people", responses={200: People, **PROBLEMS})
@needs(Right.LOOK)
def people() -> People:
    """Everybody's names."""
    with wired(current_app).database.transaction() as conn:
        known = db.rows(conn, PersonRow, "people")
    return People(people=[PersonView(id=p.id, name=p.name, role=p.role, crews=p.crews) for p in known])


@api.get("/people/cards", responses={200: Cards, **PROBLEMS})
@needs(Right.PEOPLE)
def cards() -> Cards:
    """Everybody with their sessions."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        known = db.rows(conn, PersonRow, "people")
        open_ = {s.person: s for s in db.rows(conn, OpenSessions, "sessions", idle_hours=IDLE_HOURS)}
        books = parts.drafts.rulebooks(conn)
        crews = _called((crew.id, crew.name) for book in books for crew in book.crews)
        flows = _called((flow.id, flow.name) for book in books for flow in book.flows)
        sites = parts.drafts.sites(conn)
        notes = {p.id: _disagreeing(conn, p) for p in known}
    return Cards(
        people=[_card(p, open_.get(p.id), notes[p.id]) for p in known], sites=sites, crews=crews, flows=flows,
        roles=[RoleView(role=role, says=ROLE_SAYS[role], rights=sorted(rights)) for role, rights in ROLES.items()],
        rights=[RightView(right=right, says=says, apart=right in GIVEN_APART) for right, says in SAYS.items()],
    )  # fmt: skip


def _called(pairs: Iterable[tuple[str, str]]) -> list[Called]:
    """Ids with what each is called, in any of the rulebooks."""
    names: dict[str, dict[str, None]] = {}
    for id_, name in pairs:
        names.setdefault(id_, {})[name] = None
    return [Called(id=id_, name=" or ".join(called)) for id_, called in sorted(names.items())]


def _disagreeing(conn: db.Conn, row: PersonRow) -> list[str]:
    """What is said of a person and cannot be: a flow to begin with that no menu of the crews has."""
    if not row.default_flow or not row.default_site or not row.active:
        return []
    parts = wired(current_app)
    revision = parts.drafts.in_force(conn, row.default_site)
    if revision is None:
        return []
    book = parts.worlds.rulebook(conn, revision.rulebook)
    flow = book.flow(FlowId(row.default_flow))
    if flow in book.menu_for(SiteCode(row.default_site), [CrewId(c) for c in row.crews]):
        return []
    called = flow.name if flow else row.default_flow
    return [
        f"begins with {called}, which is on no menu of these crews at {row.default_site}: the handset shows the menu"
    ]


@api.post("/people", responses={200: Card, **PROBLEMS})
@needs(Right.PEOPLE)
def add(body: PersonBody) -> Card:
    """A new person; the id is made of the login and stays."""
    _may_give(body.role, body.sites)
    if len(body.password) < SHORTEST_PASSWORD:
        raise Refusal("short_password", f"A password has at least {SHORTEST_PASSWORD} characters.", "password")
    id_ = re.sub(r"[^a-z0-9-]+", "-", body.login.strip().lower()).strip("-") or secrets.token_hex(4)
    with _unique_login(), wired(current_app).database.transaction() as conn:
        if db.row(conn, PersonRow, "person", id=id_):
            id_ = f"{id_}-{secrets.token_hex(2)}"
        db.run(
            conn, "put_person", id=id_, name=body.name.strip(), role=body.role, sites=body.sites, crews=body.crews,
            login=body.login.strip().lower(), password_hash=HASHER.hash(body.password),
        )  # fmt: skip
        _say(conn, id_, body)
        return _card(somebody(conn, id_), None)


@api.put("/people/<id>", responses={200: Card, **PROBLEMS})
@needs(Right.PEOPLE)
def change(path: ById, body: PersonBody) -> Card:
    """Another name, role, scope or login; letting somebody go ends their sessions."""
    with _unique_login(), wired(current_app).database.transaction() as conn:
        known = _changeable(conn, path.id)
        _may_give(body.role, body.sites)
        if known.id == person().id and (body.role != known.role or not body.active):
            raise Refusal("own_rights", "Nobody takes their own role away: ask somebody else to do it.", "role")
        _say(conn, path.id, body)
        if not body.active:
            db.run(conn, "end_sessions", person=path.id)
        return _card(somebody(conn, path.id), None)


@api.post("/people/<id>/password", responses={200: Card, **PROBLEMS})
@needs(Right.PEOPLE)
def password(path: ById, body: PasswordBody) -> Card:
    """A new password; sessions under the old one end."""
    if len(body.password) < SHORTEST_PASSWORD:
        raise Refusal("short_password", f"A password has at least {SHORTEST_PASSWORD} characters.", "password")
    with wired(current_app).database.transaction() as conn:
        _changeable(conn, path.id)
        db.run(conn, "put_password", id=path.id, password_hash=HASHER.hash(body.password))
        db.run(conn, "end_sessions", person=path.id)
        return _card(somebody(conn, path.id), None)


@api.post("/people/<id>/badge", responses={200: NewBadge, **PROBLEMS})
@needs(Right.PEOPLE)
def badge(path: ById) -> NewBadge:
    """A new badge, or a host's new key; the old one opens nothing any more."""
    code = "BDG-" + "".join(secrets.choice(BADGE_LETTERS) for _ in range(12))
    with wired(current_app).database.transaction() as conn:
        if _changeable(conn, path.id).role == HOST_ROLE:
            code = HOST_KEY + secrets.token_urlsafe(32)
        db.run(conn, "put_badge", id=path.id, badge=secret_hash(code))
        name = somebody(conn, path.id).name
    if code.startswith(HOST_KEY):
        return NewBadge(badge=code, svg="", pdf="")
    label = Label("badge", code, name)
    svg, pdf = (
        drawing.svg(label, drawing.CARD.width, drawing.CARD.height),
        drawing.pdf([label], drawing.CARD, f"Badge of {name}"),
    )
    return NewBadge(badge=code, svg=svg.decode(), pdf=b64encode(pdf).decode())


@api.delete("/people/<id>/sessions", responses={200: Card, **PROBLEMS})
@needs(Right.PEOPLE)
def end_sessions(path: ById) -> Card:
    """End everything somebody is signed in with."""
    with wired(current_app).database.transaction() as conn:
        _changeable(conn, path.id)
        db.run(conn, "end_sessions", person=path.id)
        return _card(somebody(conn, path.id), None)


@api.post("/people/<id>/erase", responses={200: Card, **PROBLEMS})
@needs(Right.PEOPLE)
def erase(path: ById) -> Card:
    """Erase a name for good. Logs keep the id, which means nobody any more."""
    with wired(current_app).database.transaction() as conn:
        known = _changeable(conn, path.id)
        if known.id == person().id:
            raise Refusal("own_rights", "Nobody erases themselves: ask somebody else to do it.")
        db.run(conn, "end_sessions", person=path.id)
        db.run(conn, "erase_person", id=path.id)
        return _card(somebody(conn, path.id), None)


def _changeable(conn: db.Conn, id_: str) -> PersonRow:
    row = somebody(conn, id_)
    if row.erased_at is not None:
        raise Refusal("erased", "That name was erased; nothing of it can be changed.")
    _may_give(row.role, row.sites)
    return row


def _say(conn: db.Conn, id_: str, body: PersonBody) -> None:
    """Write down what is said of a person, once it agrees with itself."""
    for site in [body.default_site, *(g.site for g in body.given)]:
        if site and site not in body.sites:
            raise Refusal(
                "not_her_site", f"Site {site} is not among the sites of {body.name.strip()}. Add it, or choose another."
            )
    kept = {f"{g.site} {g.right}" for g in body.given if g.right not in ROLES[body.role]}
    if apart := sorted({g.right for g in body.given} - set(GIVEN_APART) - ROLES[body.role]):
        raise Refusal("role_only", f"The right to {SAYS[apart[0]]} comes with a role alone.", "given")
    if body.role == HOST_ROLE and kept:
        raise Refusal("role_only", "A host tells and answers, and is given nothing else.", "given")
    db.run(
        conn, "change_person", id=id_, name=body.name.strip(), role=body.role, sites=body.sites, crews=body.crews,
        login=body.login.strip().lower(), active=body.active, default_site=body.default_site,
        default_flow=body.default_flow if body.default_site else "", given=sorted(kept),
    )  # fmt: skip


def _may_give(role: str, sites: list[str]) -> None:
    """A supervisor makes nobody an analyst and changes none, and gives no site that is not hers."""
    own = person()
    if Right.EDIT_RULEBOOK in own.rights:
        return
    if role == "analyst":
        raise Denied(403, f"Your role, {own.row.role}, may not look after analysts.")
    foreign = sorted(set(sites) - set(own.row.sites))
    if foreign:
        raise Denied(
            403, f"Your role, {own.row.role}, looks after people of your own sites, not of {', '.join(foreign)}."
        )


class _unique_login:  # noqa: N801 - reads as what it does
    """Says it in words when a login is taken."""

    def __enter__(self) -> None:
        return None

    def __exit__(self, kind: Any, error: BaseException | None, trace: Any) -> None:
        if isinstance(error, psycopg.errors.UniqueViolation):
            raise Refusal("login_taken", "Somebody else has that login. Choose another.", "login") from None


def _card(row: PersonRow, sessions: OpenSessions | None, notes: list[str] | None = None) -> Card:
    return Card(
        id=row.id, name=row.name, role=row.role, sites=row.sites, crews=row.crews, login=row.login, active=row.active,
        has_badge=row.has_badge, erased_at=row.erased_at, sessions=sessions.open if sessions else 0,
        seen_at=sessions.seen_at if sessions else None, default_site=row.default_site, default_flow=row.default_flow,
        given=[GivenRight(site=site, right=right) for site in row.sites for right in sorted(given(row, site))],
        notes=notes or [],
    )  # fmt: skip
