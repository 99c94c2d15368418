"""What the views share: database, worlds, drafts; and how answers are written."""

from __future__ import annotations

import dataclasses
import os
from dataclasses import dataclass, field
from functools import cache
from typing import Any, cast

import orjson
from flask import Response
from pydantic import BaseModel, TypeAdapter

from mindful_crate.jobs.imports import Imports
from mindful_crate.store.db import Database
from mindful_crate.store.drafts import Drafts
from mindful_crate.store.grounds import Grounds
from mindful_crate.store.worlds import Worlds

WITH_DOCUMENT = os.environ.get("CRATE_DOCUMENT") != "no"
"""Is the OpenAPI document made? It is for the screens' types and for tests; a process that only serves starts without it,
in three fifths of the time."""


@dataclass(frozen=True)
class Wired:
    """Everything a view reaches."""

    database: Database
    worlds: Worlds
    drafts: Drafts
    grounds: Grounds
    imports: Imports
    at_hand: dict[str, tuple[Any, float]] = field(default_factory=dict)
    """Persons by the token of their session, and when each was looked up."""


def wired(app: Any) -> Wired:
    """The parts of an application."""
    return cast(Wired, app.extensions["mindful_crate"])


class Answer(BaseModel):
    """Base of answers: every field is always there, so that the screens need not guess."""

    model_config = {"extra": "forbid", "json_schema_serialization_defaults_required": True}


class Body(BaseModel):
    """Base of requests: unknown fields are refused."""

    model_config = {"extra": "forbid"}


@cache
def _adapter(kind: Any) -> TypeAdapter[Any]:
    return TypeAdapter(kind)


def as_json(value: Any) -> bytes:
    """An answer as JSON: models and core values alike, by their declared types."""
    if isinstance(value, BaseModel):
        return value.model_dump_json().encode()
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        return bytes(_adapter(type(value)).dump_json(value))
    return orjson.dumps(value)


class Json:
    """Mixed into the application: views return models or core values."""

    def make_response(self, rv: Any) -> Response:
        """Models and core values as JSON; everything else as Flask does."""
        status = None
        if isinstance(rv, tuple) and len(rv) == 2 and isinstance(rv[1], int):
            rv, status = rv
        if isinstance(rv, BaseModel) or (dataclasses.is_dataclass(rv) and not isinstance(rv, type)):
            rv = Response(as_json(rv), mimetype="application/json")
        if rv is None:
            rv = Response(status=status or 204)
        response = cast(Any, super()).make_response(rv)
        if status:
            response.status_code = status
        return cast(Response, response)
