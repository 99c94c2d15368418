"""Every route asked whatever its document allows, and more: no 5xx, no answer the document does not describe."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis.checks import CHECKS, not_a_server_error

from mindful_crate.api import app as application
from mindful_crate.api.app import document
from mindful_crate.api.wiring import Answer, wired

SCHEMA = schemathesis.openapi.from_dict(document())
OPERATIONS = {f"{found.ok().method.upper()} {found.ok().path}": found.ok() for found in SCHEMA.get_all_operations()}
HEADERS = {"X-Mindful-Crate": "1"}
DESCRIBED = CHECKS.get_by_names(["status_code_conformance", "response_schema_conformance", "content_type_conformance"])


@pytest.fixture(scope="module")
def app(dsn: str) -> Iterator[Any]:
    made = application.create(dsn, "secret for tests", None)
    yield made
    wired(made).database.close()


@pytest.fixture(scope="module")
def cookies(app: Any) -> dict[str, str]:
    answer = app.test_client().post("/api/session", json={"login": "ines", "password": "quay"}, headers=HEADERS)
    found = dict(c.split(";")[0].split("=", 1) for c in answer.headers.getlist("Set-Cookie"))
    assert found, "signed in"
    return found


@pytest.mark.parametrize("name", sorted(OPERATIONS))
def test_no_answer_is_a_surprise(app: Any, cookies: dict[str, str], name: str) -> None:
    """Signed in as the analyst, who may do most."""
    operation = OPERATIONS[name]
    operation.schema.app = app
    mine = {} if name == "DELETE /api/session" else cookies  # the others still need the session

    @settings(
        max_examples=12, deadline=None, database=None, derandomize=True, phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )  # fmt: skip
    @given(operation.as_strategy())
    def asked(case: Any) -> None:
        if "/people/ines" in case.formatted_path:
            return
        response = case.call(headers={**(case.headers or {}), **HEADERS}, cookies=mine, app=app)
        case.validate_response(response, checks=[not_a_server_error, *DESCRIBED])

    asked()


def test_no_two_answers_share_a_name() -> None:
    """The document knows answers by their names: two of one name would be described as one."""

    def below(kind: type[Any]) -> set[type[Any]]:
        return {each for sub in kind.__subclasses__() for each in (sub, *below(sub))}

    names = [answer.__name__ for answer in below(Answer) if answer.__module__.startswith("mindful_crate.api")]
    assert sorted(names) == sorted(set(names))
