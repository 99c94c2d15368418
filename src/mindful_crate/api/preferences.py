"""What a person chose about how screens look to them; it follows them to other machines."""

from __future__ import annotations

from typing import Any

import orjson
from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from psycopg.types.json import Jsonb
from pydantic import Field

from mindful_crate.api.doors import needs, person
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.problem import Refusal
from mindful_crate.store import db

api = APIBlueprint("preferences", __name__, url_prefix="/api", abp_tags=[Tag(name="sessions")], doc_ui=WITH_DOCUMENT)
LARGEST, MOST = 8_000, 100
"""Bytes of one thing that is kept, and how many of them."""


class KeptPath(Body):
    """What is kept: the name of a table, or of a page."""

    name: str = Field(min_length=1, max_length=60)


class KeptBody(Body):
    """What was chosen; None: as it was at first."""

    value: Any = None


class KeptAll(Answer):
    """Everything the person chose, by name."""

    kept: dict[str, Any]


def kept_of(conn: db.Conn, id_: str) -> dict[str, Any]:
    """Everything somebody chose, by name."""
    return dict(conn.execute(db.QUERIES["kept"], {"person": id_}).fetchall())


@api.get("/me/kept", responses={200: KeptAll, **PROBLEMS})
@needs(Right.LOOK)
def kept() -> KeptAll:
    """Everything the person chose about how screens look."""
    with wired(current_app).database.transaction() as conn:
        return KeptAll(kept=kept_of(conn, person().id))


@api.put("/me/kept/<name>", responses={204: None, **PROBLEMS})
@needs(Right.LOOK)
def keep(path: KeptPath, body: KeptBody) -> Response:
    """Keep a choice, or forget it."""
    who = person().id
    with wired(current_app).database.transaction() as conn:
        if body.value is None:
            db.run(conn, "drop_kept", person=who, name=path.name)
        elif (
            len(orjson.dumps(body.value)) > LARGEST or db.value(conn, "count_kept", person=who, name=path.name) >= MOST
        ):
            raise Refusal("too_much", "So much cannot be kept of how screens look. Nothing else is lost.")
        else:
            db.run(conn, "keep", person=who, name=path.name, value=Jsonb(body.value))
    return Response(status=204)
