"""The application: the API under /api, the built screens elsewhere, problems in one form."""

from __future__ import annotations

import os
import secrets
import time
from pathlib import Path
from typing import Any

import psycopg
import structlog
from flask import Response, current_app, g, request, send_from_directory
from flask.json.provider import DefaultJSONProvider
from flask_openapi3 import Info, OpenAPI
from psycopg_pool import PoolTimeout
from pydantic import ValidationError
from werkzeug.exceptions import HTTPException

from mindful_crate import __version__
from mindful_crate.api import (
    benches,
    catalogue,
    chapters,
    counting,
    documents,
    doors,
    drafts,
    ground,
    handsets,
    host_door,
    hosts,
    imports,
    in_force,
    logs,
    order_classes,
    people,
    pictures,
    preferences,
    printing,
    proven,
    rehearsals,
    releasing,
    returning,
    room,
    search,
    sessions,
    shipping,
    stock,
    today,
    walking,
    waves,
    work,
    worlds,
)
from mindful_crate.api.shapes import Problem
from mindful_crate.api.wiring import Json, Wired, as_json, wired
from mindful_crate.core.problem import Problem as Wrong
from mindful_crate.core.problem import Refusal
from mindful_crate.files.reading import Unreadable, from_json
from mindful_crate.files.texts import BadText
from mindful_crate.jobs.imports import Imports
from mindful_crate.jobs.queue import let_log
from mindful_crate.outside.caretaker import Caretaker
from mindful_crate.outside.devices import read_devices
from mindful_crate.store.db import Database
from mindful_crate.store.drafts import Drafts, Stale
from mindful_crate.store.grounds import Grounds
from mindful_crate.store.worlds import Worlds

log = structlog.get_logger()
MISSING = {"unknown_draft", "unknown_world", "unknown_rehearsal", "unknown_print", "unknown_label", "unknown_picture"}
"""Refusals that say that the page itself is not there."""


class JsonIn(DefaultJSONProvider):
    """How the body of a request is read."""

    def loads(self, s: str | bytes, **_: Any) -> Any:
        """The data of a JSON text; :class:`BadText` when it is out of bounds."""
        try:
            plain = from_json(s)
        except Unreadable as error:
            raise BadText(Wrong("bad_request", str(error))) from None
        if not isinstance(plain, dict):
            raise BadText(Wrong("bad_request", "The body of a request is an object, with its fields by name."))
        return plain


class App(Json, OpenAPI):
    """Flask, with views that return models."""

    json_provider_class = JsonIn


def problem(status: int, code: str, says: str, place: str = "", changed: list[str] | None = None) -> Response:
    """A problem as ``application/problem+json``."""
    body = Problem(
        title=says, status=status, code=code, place=place, changed=changed or [], request=g.get("request_id", "")
    )
    return Response(as_json(body), status=status, mimetype="application/problem+json")


def invalid(error: ValidationError) -> Response:
    """A request of the wrong shape, the first thing wrong in words."""
    first = error.errors()[0]
    place = "/".join(str(p) for p in first["loc"])
    return problem(422, "bad_request", f"{place or 'The request'}: {first['msg']}.", place)


def create(dsn: str, secret: str, web: Path | None) -> App:
    """An application on a database. ``web`` is the folder of the built screens."""
    app = App(
        __name__,
        info=Info(title="Mindful Crate", version=__version__),
        security_schemes={"session": {"type": "apiKey", "in": "cookie", "name": "session"}},
        validation_error_callback=invalid,
        validation_error_status=422,
        validation_error_model=Problem,
        doc_ui=False,
        static_folder=None,
    )
    app.config.update(
        SECRET_KEY=secret,
        SESSION_COOKIE_SECURE=bool(os.environ.get("CRATE_TLS")),
        HOSTS=doors.OWN_HOSTS | {n.strip().lower() for n in os.environ.get("CRATE_HOSTS", "").split(",") if n.strip()},
    )
    database = Database(dsn) if dsn else None
    if database:
        kept = Worlds(database)
        app.extensions["mindful_crate"] = Wired(database, kept, Drafts(kept), Grounds(kept), Imports(database, kept))

    @app.before_request
    def begin() -> None:
        g.request_id, g.began = secrets.token_hex(6), time.perf_counter()

    @app.after_request
    def told(response: Response) -> Response:
        response.headers["X-Request-Id"] = g.get("request_id", "")
        if request.path.startswith("/api/") and (request.method != "GET" or response.status_code >= 400):
            took = round((time.perf_counter() - g.get("began", time.perf_counter())) * 1000)
            who = getattr(g.get("person"), "id", None)  # whoever was looked up; asking again could fail
            log.info(
                "request", request=g.get("request_id"), method=request.method, path=request.path[:200],
                status=response.status_code, ms=took, person=who,
            )  # fmt: skip
        return response

    doors.install(app)
    room.install(app)
    for module in (
        sessions,
        preferences,
        people,
        today,
        chapters,
        drafts,
        benches,
        worlds,
        logs,
        handsets,
        rehearsals,
        ground,
        catalogue,
        walking,
        waves,
        work,
        releasing,
        shipping,
        stock,
        counting,
        order_classes,
        proven,
        returning,
        printing,
        pictures,
        imports,
        documents,
        host_door,
        hosts,
        in_force,
        search,
    ):
        app.register_api(module.api)
    _problems(app)
    if web:
        _screens(app, web)
    return app


def _problems(app: App) -> None:
    @app.errorhandler(Refusal)
    def refused(error: Refusal) -> Response:
        p = error.problem
        return problem(404 if p.code in MISSING else 422, p.code, p.says, p.place)

    @app.errorhandler(BadText)
    def bad_text(error: BadText) -> Response:
        return problem(422, error.problem.code, error.problem.says, error.problem.place)

    @app.errorhandler(Stale)
    def stale(error: Stale) -> Response:
        changed = [f"@{s.made_by}: {s.says}" for s in error.changed]
        return problem(
            409,
            "stale",
            "The draft was changed meanwhile. Nothing of yours was saved; look and do it again.",
            changed=changed,
        )

    @app.errorhandler(doors.Denied)
    def denied(error: doors.Denied) -> Response:
        return problem(error.status, "denied", error.says)

    @app.errorhandler(HTTPException)
    def http(error: HTTPException) -> Response:
        says = room.too_much(request.path) if error.code == 413 else f"{error.name}."
        return problem(error.code or 500, "http", says)

    @app.errorhandler(psycopg.errors.DiskFull)
    def disk_full(error: Exception) -> Response:
        log.error("disk full", error=str(error).strip(), request=g.get("request_id"))
        says = "The disk of the server is full, so nothing was saved. What you entered is still here; tell whoever runs the server, then try again."
        return problem(503, "disk_full", says)

    @app.errorhandler(psycopg.DataError)
    def no_text(error: Exception) -> Response:
        log.warning("text that cannot be kept", error=str(error).strip(), request=g.get("request_id"))
        return problem(422, "bad_request", "It holds a character that no text here can hold. Take it out.")

    @app.errorhandler(psycopg.OperationalError)
    @app.errorhandler(PoolTimeout)
    def no_database(error: Exception) -> Response:
        log.error("database out of reach", error=str(error).strip(), request=g.get("request_id"))
        says = (
            "The database is out of reach, so nothing was saved. What you entered is still here; try again in a moment."
        )
        return problem(503, "no_database", says)

    @app.errorhandler(Exception)
    def bug(error: Exception) -> Response:
        log.exception("bug", request=g.get("request_id"), path=request.path[:200])
        return problem(500, "bug", f"Something went wrong inside. It is logged as {g.get('request_id')}.")


def _screens(app: App, web: Path) -> None:
    @app.route("/", defaults={"page": ""})
    @app.route("/<path:page>")
    def screens(page: str) -> Any:
        if page.startswith("api/"):
            return problem(404, "http", "There is no such resource.")
        if page and _is_file(web / page):
            seconds = 31_536_000 if page.startswith("assets/") else 0
            kind = "application/manifest+json" if page.endswith(".webmanifest") else None
            return send_from_directory(web, page, max_age=seconds, mimetype=kind)
        if page.split("/")[0] == "station":
            return send_from_directory(web, "station.html", max_age=0)
        if page.split("/")[0] != "handset":
            return send_from_directory(web, "index.html", max_age=0)
        shell = send_from_directory(web, "handset.html", max_age=0)
        shell.headers["Content-Security-Policy"] = doors.HANDSET_POLICY
        return shell


def _is_file(path: Path) -> bool:
    try:
        return path.is_file()
    except OSError:  # a name longer than any file's
        return False


def from_environment() -> App:
    """The application as the launcher starts it; what it logs is a line of JSON each."""
    let_log()
    app = create(os.environ["CRATE_DATABASE"], os.environ["CRATE_SECRET"], Path(os.environ["CRATE_WEB"]))
    drop = os.environ.get("CRATE_HOST_FOLDER")
    named = os.environ.get("CRATE_DEVICES")
    devices = read_devices(Path(named)) if named else None
    Caretaker(wired(app).worlds, Path(drop) if drop else None, devices).start()
    return app


def document() -> dict[str, Any]:
    """The OpenAPI document."""
    app = create("", "document", None)
    with app.test_request_context():
        found: dict[str, Any] = current_app.api_doc  # type: ignore[attr-defined]
    return _as_it_is(found)


def _as_it_is(found: dict[str, Any]) -> dict[str, Any]:
    """Problems go out as ``application/problem+json``; so the document says, whatever its maker assumes."""
    for path in found["paths"].values():
        for operation in path.values():
            for status, response in operation.get("responses", {}).items():
                content = response.get("content", {})
                if status >= "400" and "application/json" in content:
                    response["content"] = {"application/problem+json": content["application/json"]}
    return found
