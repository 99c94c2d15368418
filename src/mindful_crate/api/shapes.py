"""Shapes that several resources share."""

from __future__ import annotations

from datetime import datetime
from http import HTTPStatus
from typing import Any, Literal

from pydantic import Field

from mindful_crate.api.wiring import Answer, Body
from mindful_crate.core.placing.explain import Explanation


class Problem(Answer):
    """RFC 9457 problem details: what is so and what to do. ``changed`` is what happened to a stale draft."""

    title: str
    status: int
    code: str
    place: str = ""
    changed: list[str] = Field(default_factory=list)
    request: str = ""


class ById(Body):
    """Something found by its id."""

    id: str = Field(max_length=80)


class FindingView(Answer):
    """A finding, with the sentence's place."""

    code: str
    severity: Literal["blocks", "doubt"]
    place: str
    says: str
    witness: str = ""


class Why(Answer):
    """How a bin was chosen, with the sentences of the rules."""

    explanation: Explanation
    bin: str | None
    """The first bin."""
    rule: str | None
    """The rule that chose it."""
    rules: dict[str, str]
    """Rule id to its sentence."""
    numbers: dict[str, int]
    """Rule id to its place in the list, from 1."""


class When(Answer):
    """Somebody did something at a time."""

    who: str
    at: datetime


def _problem(status: HTTPStatus) -> dict[str, Any]:
    schema = {"$ref": "#/components/schemas/Problem"}
    return {"description": status.phrase, "content": {"application/problem+json": {"schema": schema}}}


PROBLEMS: dict[Any, Any] = {
    **{n: _problem(HTTPStatus(n)) for n in (400, 401, 403, 404, 409, 413, 415, 503)},
    422: Problem,
}
"""What any route may answer instead: a problem in words. The type itself stands once, by which the document describes it; its schema
would be drawn up anew for each status of each route."""
