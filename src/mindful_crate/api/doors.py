"""Who may do what: rights by role, declared beside each route; sign-in; the guard against foreign pages."""

from __future__ import annotations

import hmac
import re
import secrets
import time
from collections.abc import Callable
from datetime import timedelta
from functools import wraps
from typing import Any, TypeVar, cast

from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error, InvalidHashError
from flask import Request, current_app, g, request
from flask.sessions import SessionInterface

from mindful_crate.api.rights import ROLES, Right, rights_at
from mindful_crate.api.wiring import wired
from mindful_crate.core.problem import Refusal
from mindful_crate.store import db
from mindful_crate.store.loaded import Proof
from mindful_crate.store.rows import PersonRow, SessionRow

F = TypeVar("F", bound=Callable[..., Any])


HASHER = PasswordHasher()
_DECOY = HASHER.hash("nobody has this password")


BADGE_LETTERS = "23456789ABCDEFGHJKMNPQRSTVWXYZ"
BADGE = re.compile(rf"BDG-[{BADGE_LETTERS}]{{12}}")
"""What the code of a badge looks like."""
HOST_ROLE = "host"
BY_BADGE = frozenset({Right.LOOK, Right.SCAN})
"""All that a badge opens: the handset."""
IDLE_HOURS = 12
"""A session that is not used for so long has ended."""
SESSION_DAYS = 30
"""No session lasts longer."""
AT_HAND, MOST_AT_HAND = 30.0, 5_000
"""Seconds for which a session is at hand, for routes that make sure of it themselves, and how many are."""
SHORTEST_PASSWORD = 8
FREE_TRIES = 3
"""So many wrong tries in five minutes for one name from one address are answered at once; the next ones ever later."""
FREE_FROM = 12
"""The same from one address for any name or badge, behind which a whole site may stand."""
LONGEST_WAIT = 8.0
"""Seconds a wrong answer is kept waiting at most."""
SLOW = "X-Slow"
"""How many seconds the front waits before it sends an answer; it goes no further than there."""


COOKIE = "session"
"""Its value is the token of a session: random, and of no use to whoever reads the database, where only its hash is kept. There is
nothing to sign, nothing else is kept in it, and it is read once a request."""


class Sessionless(SessionInterface):
    """Flask's own session is not used: to sign and write it with every answer would cost a tenth of a scan."""

    def open_session(self, *_: Any) -> None:
        """There is none."""


class Person:
    """The signed-in person, through one session."""

    def __init__(
        self, row: PersonRow | SessionRow, token: str = "", by_badge: bool = False, proof: Proof | None = None
    ) -> None:
        self.row = row
        self.proof = proof
        """When that was looked up a while ago, for a route that makes sure of it itself."""
        self.id = row.id
        self.token = token
        self.by_badge = by_badge

    @property
    def rights(self) -> frozenset[Right]:
        """What this person may do in this session."""
        return ROLES[self.row.role] & BY_BADGE if self.by_badge else ROLES[self.row.role]

    def rights_at(self, site: str) -> frozenset[Right]:
        """What this person may do at a site in this session."""
        held = rights_at(self.row, site)
        return held & BY_BADGE if self.by_badge else held


class Denied(Exception):
    """A request without the right it needs."""

    def __init__(self, status: int, says: str) -> None:
        super().__init__(says)
        self.status = status
        self.says = says


def person() -> Person:
    """The signed-in person; only behind :func:`needs`."""
    return cast(Person, g.person)


def needs(right: Right, *, proves: bool = False) -> Callable[[F], F]:
    """The right a route needs; a test walks every route and role by it. ``proves``: the route itself makes sure that the
    person's session is still as it was, so it need not be looked up anew."""

    def mark(view: F) -> F:
        @wraps(view)
        def guarded(*args: Any, **kwargs: Any) -> Any:
            who = who_asks(at_hand=proves)
            if who is None or right not in who.rights:
                look_again(right)
            return view(*args, **kwargs)

        guarded.needs = right  # type: ignore[attr-defined]
        return cast(F, guarded)

    return mark


def somebody(conn: db.Conn, id_: str) -> PersonRow:
    """The person with an id; Refusal: there is none."""
    row = db.row(conn, PersonRow, "person", id=id_)
    if row is None:
        raise Refusal("unknown_person", f"There is nobody with the id `{id_}`.")
    return row


def check_site(site: str) -> None:
    """Refuse what belongs to a site the person does not see."""
    if site not in person().row.sites:
        raise Denied(403, f"You do not see site {site}.")


def secret_hash(text: str) -> str:
    """A code or token as it is kept: nobody who reads the database can use it."""
    secret = str(current_app.config["SECRET_KEY"]).encode()
    return hmac.new(secret, text.encode(), "sha256").hexdigest()


def signed_in(login: str, password: str) -> Person:
    """The person of a login and password, with a new session; the same answer, in the same time, whatever of the two
    is wrong. Wrong tries make further wrong answers slow, never a right one: nobody can lock out somebody else."""
    name = login.strip().lower()

    def find(conn: db.Conn) -> PersonRow | None:
        row = db.row(conn, PersonRow, "person_by_login", login=name)
        try:
            HASHER.verify(row.password_hash if row else _DECOY, password)
        except (Argon2Error, InvalidHashError):
            return None
        return row

    return _enter(find, f"login {name} ", "Name or password is wrong.", by_badge=False)


def signed_in_by_badge(badge: str) -> Person:
    """The person of a badge, for the handset alone."""

    def find(conn: db.Conn) -> PersonRow | None:
        row = db.row(conn, PersonRow, "person_by_badge", badge=secret_hash(badge.strip()))
        return None if row and row.role == HOST_ROLE else row

    return _enter(find, "badge", "Nobody here has that badge. Ask your supervisor for another.", by_badge=True)


def _enter(find: Callable[[db.Conn], PersonRow | None], what: str, wrong: str, *, by_badge: bool) -> Person:
    database = wired(current_app).database
    address = f"from {request.remote_addr}"
    keys = {address: FREE_FROM, **({} if by_badge else {f"{what}{address}": FREE_TRIES})}
    with database.transaction() as conn:
        row = find(conn)
    with database.transaction() as conn:
        if row is None:
            db.run(conn, "note_try", what=list(keys))
            over = max(db.value(conn, "tries", what=key) - free for key, free in keys.items())
        else:
            token = secrets.token_urlsafe(32)
            db.run(conn, "clear_tries")
            db.run(conn, "clear_sessions", days=SESSION_DAYS)
            db.run(conn, "begin_session", id=secret_hash(token), person=row.id, by_badge=by_badge)
    if row is None:
        g.slow = min(LONGEST_WAIT, 0.25 * 2 ** min(over, 10)) if over > 0 else 0.0
        raise Refusal("wrong_login", wrong)
    return Person(row, token, by_badge)


def begin_session(found: Person) -> None:
    """From this answer on the browser is known by this session: what its cookie holds is the token, not the person."""
    g.person, g.cookie = found, found.token


def end_session() -> None:
    """End the session of this request, if there is one."""
    found, g.cookie = who_asks(), ""
    if found and found.token:
        with wired(current_app).database.transaction() as conn:
            db.run(conn, "end_session", id=secret_hash(found.token))


def who_asks(*, at_hand: bool = False) -> Person | None:
    """Whoever sent this request, by the cookie of a session, or a host by the key it sends with each request; looked up once.
    Who sends a key is who the key says, whatever cookies come with it. ``at_hand``: as they were some seconds ago will do."""
    if "person" not in g:
        key = _key_of(request)
        g.person = _by_key(key) if key else _by_session(request.cookies.get(COOKIE, ""), at_hand)
    return cast(Person | None, g.person)


def look_again(right: Right) -> None:
    """Look up anew who asks, if they were at hand; :class:`Denied` when nobody does, or without a right."""
    known = cast(Person | None, g.get("person"))
    if known and known.proof:
        wired(current_app).at_hand.pop(known.token, None)
        del g.person
    who = who_asks()
    if who is None:
        raise Denied(401, "Sign in first.")
    if right not in who.rights:
        raise Denied(403, f"Your role, {who.row.role}, may not do this.")


def _by_session(token: str, at_hand: bool) -> Person | None:
    if not token:
        return None
    known = wired(current_app).at_hand
    held = known.get(token) if at_hand else None
    if held and time.monotonic() - held[1] < AT_HAND:
        return cast(Person, held[0])
    key = secret_hash(token)
    with wired(current_app).database.glance() as conn:
        row = db.row(conn, SessionRow, "session", id=key, idle_hours=IDLE_HOURS, days=SESSION_DAYS)
        if row and row.stale:
            db.run(conn, "seen_session", id=key)
    if row is None:
        known.pop(token, None)
        return None
    if at_hand and not row.stale:
        if len(known) >= MOST_AT_HAND:
            known.clear()
        known[token] = Person(row, token, row.by_badge, Proof(key, row.stands)), time.monotonic()
    return Person(row, token, row.by_badge)


def _by_key(key: str) -> Person | None:
    with wired(current_app).database.glance() as conn:
        row = db.row(conn, PersonRow, "person_by_badge", badge=secret_hash(key))
    return Person(row) if row and row.role == HOST_ROLE else None


def _key_of(asked: Request) -> str:
    scheme, _, key = asked.headers.get("Authorization", "").partition(" ")
    return key.strip() if scheme.lower() == "bearer" else ""


OWN_HOSTS = frozenset({"localhost", "127.0.0.1", "[::1]"})
"""Names a server always has: those of the machine it runs on."""
POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; object-src 'none'; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
"""Everything from here, nothing inline but styles (the component library writes style elements), no framing."""

CSP, CACHED = "Content-Security-Policy", "Cache-Control"
ALWAYS = (
    ("X-Content-Type-Options", "nosniff"),
    ("X-Frame-Options", "DENY"),
    ("Referrer-Policy", "same-origin"),
    ("Cross-Origin-Opener-Policy", "same-origin"),
    ("Cross-Origin-Resource-Policy", "same-origin"),
    ("Permissions-Policy", "camera=(self), microphone=(), geolocation=()"),
)
"""Headers of every answer."""
HANDSET_POLICY = f"{POLICY}; script-src 'self' 'wasm-unsafe-eval'"
"""The handset reads barcodes in pictures with a compiled program; it may compile that, and run no text as a script."""


def install(app: Any) -> None:
    """Sign-in by session, and the guard: changes must come from our own pages, which send a header."""
    app.session_interface = Sessionless()

    @app.before_request
    def right_name() -> None:
        """A page of somebody else's may give its name our address; then the browser takes it for ours."""
        hosts: frozenset[str] = app.config["HOSTS"]
        name = request.host.rsplit(":", 1)[0].lower() if not request.host.endswith("]") else request.host.lower()
        if name not in hosts:
            raise Denied(421, f"This server is not called {name[:80]}. If it is to be, name that in CRATE_HOSTS.")

    @app.before_request
    def same_pages() -> None:
        if _key_of(request):
            return  # a key, which no browser sends by itself; no cookie counts beside it
        # A foreign page cannot send this header without asking us first, and we never allow it.
        if request.method not in ("GET", "HEAD", "OPTIONS") and request.headers.get("X-Mindful-Crate") != "1":
            raise Denied(403, "This request did not come from Mindful Crate's own pages.")

    @app.after_request
    def headers(response: Any) -> Any:
        here = g._get_current_object()
        if slow := here.pop("slow", 0.0):
            response.headers[SLOW] = str(slow)
        token = here.pop("cookie", None)
        if token is not None:
            lasts = timedelta(days=SESSION_DAYS) if token else timedelta()
            response.set_cookie(
                COOKIE,
                token,
                max_age=lasts,
                httponly=True,
                samesite="Strict",
                secure=app.config["SESSION_COOKIE_SECURE"],
            )
        return response

    app.wsgi_app = _headed(app.wsgi_app)


def _headed(serve: Callable[..., Any]) -> Callable[..., Any]:
    """A WSGI application whose answers all carry our headers: put to the list as it is sent, which costs a twentieth of putting
    them into the response one by one."""

    def headed(environ: dict[str, Any], start: Callable[..., Any]) -> Any:
        def begin(status: str, headers: list[tuple[str, str]], *info: Any) -> Any:
            there = dict(headers)
            headers.extend(ALWAYS)
            if CSP not in there:
                headers.append((CSP, POLICY))
            if CACHED not in there and environ["PATH_INFO"].startswith("/api/"):
                headers.append((CACHED, "no-store"))
            if environ["wsgi.url_scheme"] == "https":
                headers.append(("Strict-Transport-Security", "max-age=86400"))
            return start(status, headers, *info)

        return serve(environ, begin)

    return headed
