"""Who may do what: rights by role, declared beside each route; sign-in; the guard against foreign pages."""

from __future__ import annotations

from collections.abc import Callable
from enum import StrEnum
from functools import wraps
from typing import Any, TypeVar, cast

from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error
from flask import current_app, request
from flask_login import LoginManager, UserMixin, current_user

from mindful_crate.api.wiring import wired
from mindful_crate.core.problem import Refusal
from mindful_crate.store import db
from mindful_crate.store.rows import PersonRow

F = TypeVar("F", bound=Callable[..., Any])


class Right(StrEnum):
    """Something a role may do."""

    LOOK = "look"
    EDIT_RULEBOOK = "edit_rulebook"
    PUT_IN_FORCE = "put_in_force"
    REHEARSE = "rehearse"
    """Run rehearsal worlds, also with the hands of others."""
    SCAN = "scan"
    """Work on a handset with one's own hands, in a live world too."""
    OFFICE = "office"
    """Office acts in a live world."""


RIGHTS: dict[str, frozenset[Right]] = {
    "analyst": frozenset({Right.LOOK, Right.EDIT_RULEBOOK, Right.PUT_IN_FORCE, Right.REHEARSE}),
    "supervisor": frozenset({Right.LOOK, Right.REHEARSE, Right.SCAN, Right.OFFICE}),
    "floor": frozenset({Right.LOOK, Right.SCAN}),
    "viewer": frozenset({Right.LOOK}),
}
HASHER = PasswordHasher()
_DECOY = HASHER.hash("nobody has this password")


class Person(UserMixin):
    """The signed-in person."""

    def __init__(self, row: PersonRow) -> None:
        self.row = row
        self.id = row.id

    @property
    def rights(self) -> frozenset[Right]:
        """What this person may do."""
        return RIGHTS[self.row.role]


class Denied(Exception):
    """A request without the right it needs."""

    def __init__(self, status: int, says: str) -> None:
        super().__init__(says)
        self.status = status
        self.says = says


def person() -> Person:
    """The signed-in person; only behind :func:`needs`."""
    return cast(Person, current_user)


def needs(right: Right) -> Callable[[F], F]:
    """The right a route needs; a test walks every route and role by it."""

    def mark(view: F) -> F:
        @wraps(view)
        def guarded(*args: Any, **kwargs: Any) -> Any:
            if not cast(Any, current_user).is_authenticated:
                raise Denied(401, "Sign in first.")
            if right not in person().rights:
                raise Denied(403, f"Your role, {person().row.role}, may not do this.")
            return view(*args, **kwargs)

        guarded.needs = right  # type: ignore[attr-defined]
        return cast(F, guarded)

    return mark


def check_site(site: str) -> None:
    """Refuse what belongs to a site the person does not see."""
    if site not in person().row.sites:
        raise Denied(403, f"You do not see site {site}.")


def verified(conn: db.Conn, login: str, password: str) -> Person:
    """The person of a login and password; the same answer, in the same time, whatever of the two is wrong."""
    row = db.row(conn, PersonRow, "person_by_login", login=login.strip().lower())
    try:
        HASHER.verify(row.password_hash if row else _DECOY, password)
    except Argon2Error:
        row = None
    if row is None:
        raise Refusal("wrong_login", "Name or password is wrong.")
    return Person(row)


def install(app: Any) -> None:
    """Sign-in by signed cookie, and the guard: changes must come from our own pages, which send a header."""
    manager = LoginManager(app)

    @manager.user_loader
    def load(id_: str) -> Person | None:
        with wired(current_app).database.transaction() as conn:
            row = db.row(conn, PersonRow, "person", id=id_)
        return Person(row) if row else None

    @app.before_request
    def same_pages() -> None:
        # A foreign page cannot send this header without asking us first, and we never allow it.
        if request.method not in ("GET", "HEAD", "OPTIONS") and request.headers.get("X-Mindful-Crate") != "1":
            raise Denied(403, "This request did not come from Mindful Crate's own pages.")

    @app.after_request
    def headers(response: Any) -> Any:
        response.headers.setdefault(
            "Content-Security-Policy",
            "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; frame-ancestors 'self'; "
            "base-uri 'none'; form-action 'self'",
        )
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        return response
