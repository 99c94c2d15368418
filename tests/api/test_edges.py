"""What nobody should send: text that is no data, data out of bounds, and worlds after commands that were refused."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

import pytest
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from mindful_crate.api.app import document
from tests.api.conftest import HEADER, Api

DEEP = "[" * 1_500 + "]" * 1_500
NASTY = {
    "deep lists": DEEP,
    "deep objects": '{"a":' * 1_500 + "1" + "}" * 1_500,
    "deep and torn": "[" * 100_000,
    "half a character": '"\\ud800"',
    "half a key": '{"\\udfff": 1}',
    "a number past 64 bits": str(2**63),
    "a number of 6,000 digits": "9" * 6_000,
    "a number no float holds": "1e999",
    "no number": "NaN",
    "a key twice": '{"a": 1, "a": 2}',
}
"""Values as JSON has them, each of which must be refused wherever it stands."""


def routes() -> Iterator[tuple[str, str, list[str]]]:
    """Method, path and fields of the body of every route that takes JSON."""
    found = document()
    for path, operations in found["paths"].items():
        for method, operation in operations.items():
            content = operation.get("requestBody", {}).get("content", {}).get("application/json")
            if content:
                name = content["schema"]["$ref"].rsplit("/", 1)[-1]
                yield method.upper(), path, sorted(found["components"]["schemas"][name].get("properties", {}))


ROUTES = sorted(routes())


@pytest.mark.parametrize(("method", "path", "fields"), ROUTES, ids=[f"{m} {p}" for m, p, _ in ROUTES])
def test_no_text_is_too_much_for_a_route(app: Any, ines: Api, method: str, path: str, fields: list[str]) -> None:
    """As the whole body and as the value of each field, signed in and signed out: refused with a sentence."""
    there = path.replace("{id}", "d-1").replace("{message}", "M-1")
    bodies = [*NASTY.values(), *(f'{{"{f}": {v}}}' for f in fields for v in NASTY.values()), "null", "1", '"{}"', ""]
    for client in (ines.client, app.test_client()):
        for body in bodies:
            answer = client.open(there, method=method, data=body, headers=HEADER, content_type="application/json")
            assert answer.status_code in (401, 403, 404, 409, 422, 429), (
                there,
                body[:80],
                answer.status_code,
                answer.json,
            )
            assert answer.json["title"]


def test_what_is_out_of_bounds_is_named(ines: Api) -> None:
    """The words say what is wrong, not what an expression was."""
    says = {
        name: ines.client.post("/api/worlds", data=text, headers=HEADER, content_type="application/json").json["title"]
        for name, text in NASTY.items()
    }
    assert "nests too deep" in says["deep lists"] and "half a character" in says["half a character"]
    assert "too large" in says["a number past 64 bits"] and "'a' stands twice" in says["a key twice"]


def test_a_handset_has_a_name(ines: Api) -> None:
    """None of nothing, and none of characters nobody sees."""
    world = ines.world()
    for name in ("", "\x00", "H\x001", "H\n1"):
        answer = ines.command(world, {"kind": "open_flow", "flow": "F-RECEIVE"}, device=name)
        assert answer.status_code == 422, name
    assert ines.client.get(f"/api/worlds/{world}/handsets/H%001").status_code == 422
    layout = {"site": "\ud800", "zones": []}
    answer = ines.client.post(
        "/api/ground/layout", data=json.dumps(layout), headers=HEADER, content_type="application/json"
    )
    assert answer.status_code == 422 and "half a character" in answer.json["title"]


IDS = st.sampled_from(
    ["PO-1001", "PO-1007", "SO-1", "R-000001", "LPR-000417", "P-01-01-2", "T-1", "M-1", "x", "", "'", "é" * 30]
)
ACTS = st.one_of(
    st.fixed_dictionaries({"kind": st.sampled_from(["confirm_order", "cancel_order", "ship_transfer", "announce_order", "open_order", "close_order"]), "order": IDS}),
    st.fixed_dictionaries({"kind": st.just("finish_plate"), "plate": IDS}),
    st.fixed_dictionaries({"kind": st.just("book_receipt"), "receipt": IDS}),
    st.fixed_dictionaries({"kind": st.just("block_bin"), "bin": IDS, "reason": st.sampled_from(["", "wet"])}),
    st.fixed_dictionaries({"kind": st.just("reserve_stock"), "holder": IDS, "item": st.sampled_from(["ROPE-12", "x"]), "quantity": st.sampled_from([-1, 0, 1, 10**12, 2**63 - 1])}),
    st.fixed_dictionaries({"kind": st.just("let_go"), "reservation": IDS}),
    st.fixed_dictionaries({"kind": st.just("repeat_message"), "message": IDS}),
    st.fixed_dictionaries({"kind": st.just("wait"), "seconds": st.sampled_from([-1, 0, 1, 86_400, 2**40])}),
    st.fixed_dictionaries({"kind": st.just("open_flow"), "flow": st.sampled_from(["F-RECEIVE", "F-PUTAWAY", "F-MOVE", "x"])}),
    st.fixed_dictionaries({"kind": st.just("answer"), "dialogue": st.sampled_from(["D-1", "D-000001", "x"]), "scan": st.fixed_dictionaries({"text": IDS})}),
    st.fixed_dictionaries({"kind": st.sampled_from(["step_back", "leave_flow"]), "dialogue": st.sampled_from(["D-1", "D-000001"])}),
)  # fmt: skip


@given(st.lists(st.tuples(ACTS, st.sampled_from([None, "H1", "H2"])), min_size=1, max_size=8))
@settings(max_examples=15, deadline=None, derandomize=True, database=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck))  # fmt: skip
def test_a_world_stands_whatever_was_refused_in_it(ines: Api, done: list[tuple[dict[str, Any], str | None]]) -> None:
    """Nothing that anybody can do, carried out or refused, makes its screens or keeping it fail."""
    world = ines.world()
    for act, device in done:
        assert ines.command(world, act, device=device).status_code < 500, (act, device)
    assert ines.post(f"/api/worlds/{world}/pins", {"seq": None, "expectation": {"kind": "stock", "bin": {"kind": "bin", "bin": "RCV-01"}, "item": "ROPE-12", "quantity": 0}}).status_code == 200  # fmt: skip
    for page in (
        "",
        "/log",
        "/stock",
        "/checks",
        "/handsets/H1?tray=true",
        "/handsets/H2",
        "/map",
        "/documents",
        "/host",
    ):
        assert ines.client.get(f"/api/worlds/{world}{page}").status_code < 500, page
    kept = ines.post(f"/api/worlds/{world}/rehearsal", {"name": "whatever"})
    assert kept.status_code in (200, 422), kept.json
    if kept.status_code == 200:
        id_ = kept.json["head"]["id"]
        assert ines.post(f"/api/rehearsals/{id_}/run", {"rulebook": "d-1"}).status_code == 200
        ines.post(f"/api/rehearsals/{id_}", method="DELETE")


def test_a_refused_booking_is_kept_and_replayed(ines: Api) -> None:
    """A receipt nobody knows, a reservation nobody made: refused when they were done, kept, and refused again."""
    world = ines.world()
    ines.command(world, {"kind": "book_receipt", "receipt": "R-999999"})
    ines.command(world, {"kind": "let_go", "reservation": "RS-999999"})
    kept = ines.post(f"/api/worlds/{world}/rehearsal", {"name": "two refusals"}).json
    steps = kept["result"]["steps"]
    assert [(s["outcome"], s["fails"], s["differs"]) for s in steps] == [("refused", False, False)] * 2, steps
    assert ines.get(f"/api/worlds/{world}/checks").status_code == 200
