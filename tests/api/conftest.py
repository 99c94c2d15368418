"""An application on a database of its own, and people who are signed in."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from typing import Any

import pytest
from flask.testing import FlaskClient

from mindful_crate.api import app as application
from mindful_crate.api.wiring import wired

HEADER = {"X-Mindful-Crate": "1"}


class Api:
    """A signed-in person's requests."""

    def __init__(self, client: FlaskClient, login: str = "") -> None:
        self.client = client
        if login:
            answer = self.post("/api/session", {"login": login, "password": "quay"})
            assert answer.status_code == 200, answer.json

    def get(self, path: str, **query: Any) -> Any:
        return self.client.get(path, query_string=query)

    def post(self, path: str, body: Any = None, method: str = "POST") -> Any:
        return self.client.open(path, method=method, json=body, headers=HEADER)

    def world(self) -> str:
        return str(self.post("/api/worlds", {"name": "tried", "draft": "d-1", "book_seconds": 2}).json["id"])

    def command(self, world: str, act: dict[str, Any], id_: str = "", **more: Any) -> Any:
        body = {"id": id_ or uuid.uuid4().hex, "act": act, **more}
        return self.post(f"/api/worlds/{world}/commands", body)


@pytest.fixture(scope="module")
def app(dsn: str) -> Iterator[Any]:
    """The application, answering problems as it does for people."""
    made = application.create(dsn, "secret for tests", None)
    made.testing = False
    yield made
    wired(made).database.close()


@pytest.fixture
def ines(app: Any) -> Api:
    """The analyst, signed in."""
    return Api(app.test_client(), "ines")
