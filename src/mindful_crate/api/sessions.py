"""Signing in and out, who is who, and what the server is."""

from __future__ import annotations

from flask import Response, current_app, request
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate import __version__
from mindful_crate.api.doors import (
    HASHER,
    HOST_ROLE,
    SHORTEST_PASSWORD,
    Denied,
    Person,
    begin_session,
    check_site,
    end_session,
    needs,
    person,
    signed_in,
    signed_in_by_badge,
)
from mindful_crate.api.rights import OFFICE_ACTS, Right
from mindful_crate.api.shapes import PROBLEMS, Problem
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.problem import Refusal
from mindful_crate.demo.people import DEMO_PASSWORD, DEMO_PEOPLE
from mindful_crate.store import db
from mindful_crate.store.rows import PersonRow

api = APIBlueprint("sessions", __name__, url_prefix="/api", abp_tags=[Tag(name="sessions")], doc_ui=WITH_DOCUMENT)


class SignIn(Body):
    """Name and password."""

    login: str = Field(max_length=80)
    password: str = Field(max_length=200)


class Badge(Body):
    """A badge that was scanned."""

    badge: str = Field(min_length=4, max_length=80)


class Me(Answer):
    """The signed-in person."""

    id: str
    name: str
    role: str
    sites: list[str]
    crews: list[str]
    rights: list[Right]
    default_site: str
    default_flow: str
    acts: dict[str, list[str]]
    """Which acts of the office are for this person on the live floor of each site."""


class Where(Body):
    """Where a handset of this person begins; a flow needs a site."""

    site: str = Field(default="", max_length=20)
    flow: str = Field(default="", max_length=80)


class DemoLogin(Answer):
    """A person of the demo who may be tried."""

    login: str
    password: str
    name: str
    role: str


class Welcome(Answer):
    """What the sign-in page shows: the demo's people, as long as they have the demo's password; or that nobody is
    there yet, so that the first analyst may be made."""

    demo: list[DemoLogin]
    nobody: bool


class First(Body):
    """The first analyst."""

    name: str = Field(min_length=2, max_length=80)
    login: str = Field(min_length=2, max_length=40)
    password: str = Field(max_length=200)


class Health(Answer):
    """Is the server well?"""

    product: str
    version: str


@api.get("/health", responses={200: Health, **PROBLEMS})
def health() -> Health:
    """Answers when the server and its database are up."""
    with wired(current_app).database.transaction() as conn:
        db.rows(conn, PersonRow, "person", id="")
    return Health(product="mindful-crate", version=__version__)


@api.get("/welcome", responses={200: Welcome, **PROBLEMS})
def welcome() -> Welcome:
    """The demo's logins."""
    with wired(current_app).database.transaction() as conn:
        known = {p.id: p for p in db.rows(conn, PersonRow, "people")}
    demo = [p for p in DEMO_PEOPLE if p.role != HOST_ROLE and p.id in known and known[p.id].login == p.login]
    return Welcome(
        demo=[DemoLogin(login=p.login, password=DEMO_PASSWORD, name=p.name, role=p.role) for p in demo],
        nobody=not known,
    )


@api.post("/first", responses={200: Me, 429: Problem, **PROBLEMS})
def first_analyst(body: First) -> Me:
    """Make the first analyst of an empty product, from the machine it runs on, and sign in."""
    if request.remote_addr not in ("127.0.0.1", "::1"):
        raise Denied(403, "The first analyst is made on the machine Mindful Crate runs on.")
    if len(body.password) < SHORTEST_PASSWORD:
        raise Refusal("short_password", f"A password has at least {SHORTEST_PASSWORD} characters.", "password")
    login = body.login.strip().lower()
    with wired(current_app).database.transaction() as conn:
        db.run(conn, "one_at_a_time")
        if db.rows(conn, PersonRow, "people"):
            raise Refusal("not_first", "Somebody is here already. Sign in, or ask them for a login.")
        db.run(
            conn, "put_person", id=login, name=body.name.strip(), role="analyst", sites=[], crews=[], login=login,
            password_hash=HASHER.hash(body.password),
        )  # fmt: skip
    found = signed_in(login, body.password)
    begin_session(found)
    return _me(found)


@api.post("/session", responses={200: Me, 429: Problem, **PROBLEMS})
def sign_in(body: SignIn) -> Me:
    """Sign in."""
    found = signed_in(body.login, body.password)
    begin_session(found)
    return _me(found)


@api.post("/session/badge", responses={200: Me, 429: Problem, **PROBLEMS})
def sign_in_by_badge(body: Badge) -> Me:
    """Sign in on a handset by badge; it opens the handset only."""
    found = signed_in_by_badge(body.badge)
    begin_session(found)
    return _me(found)


@api.delete("/session", responses={204: None, **PROBLEMS})
def sign_out() -> Response:
    """Sign out; the session ends."""
    end_session()
    return Response(status=204)


@api.get("/me", responses={200: Me, **PROBLEMS})
@needs(Right.LOOK)
def me() -> Me:
    """Who is signed in."""
    return _me(person())


@api.put("/me/where", responses={200: Me, **PROBLEMS})
@needs(Right.LOOK)
def put_where(body: Where) -> Me:
    """Begin here from now on, as the person says."""
    who = person()
    if body.site:
        check_site(body.site)
    with wired(current_app).database.transaction() as conn:
        db.run(conn, "put_where", id=who.id, default_site=body.site, default_flow=body.flow if body.site else "")
        row = db.row(conn, PersonRow, "person", id=who.id)
    assert row is not None
    return _me(Person(row, who.token, who.by_badge))


def _me(who: Person) -> Me:
    row = who.row
    held = {site: who.rights_at(site) for site in row.sites}
    return Me(
        id=row.id, name=row.name, role=row.role, sites=row.sites, crews=row.crews, rights=sorted(who.rights),
        default_site=row.default_site, default_flow=row.default_flow,
        acts={site: [kind for kind, right in OFFICE_ACTS.items() if right in rights] for site, rights in held.items()},
    )  # fmt: skip
