"""Walking over HTTP: the layout with its questions, facts put in and taken out, tours, and what is refused."""

from __future__ import annotations

from typing import Any

from tests.api.conftest import Api

HEAD = {"says": "", "alter": None}


def layout(api: Api) -> Any:
    return api.get("/api/ground/walking", site="HQ").json


def put(api: Api, cells: dict[str, str]) -> Any:
    body = {"base": layout(api)["no"], "sheets": [{"table": "ways", "rows": [cells]}], "gone": {}, **HEAD}
    return api.post("/api/ground/rows", body)


def test_a_question_of_the_layout_is_answered_by_a_fact(ines: Api) -> None:
    """The answer is a row of the table of ways; it makes the way round longer, and is gone again when it is taken out."""
    before = layout(ines)
    questions = [f for f in before["findings"] if f["code"] == "ends_short"]
    assert [f["says"].split(" before")[0] for f in questions] == [
        "Aisle H01 of zone HAZ ends 13 m",
        "Aisle H02 of zone HAZ ends 13 m",
    ]
    assert [(c["at"], c["spans"], c["ways"]) for c in before["crosses"]] == [(8000, [], []), (40000, [], [])]
    walk = {"site": "HQ", "start": "H-02-12-1", "stops": [], "end": "B-03-20-1"}
    assert ines.post("/api/ground/tour", walk).json["shortest"]["metres"] == 94
    dead = next(a for a in questions[1]["answers"] if a["says"] == "A dead end")["cells"]
    assert put(ines, dead).json["applied"]
    after = layout(ines)
    assert [w["says"] for w in after["ways"]] == ["Aisle H02 of zone HAZ ends at its last bin in the north."]
    assert len(after["findings"]) == len(before["findings"]) - 1 and after["free"] != before["free"]
    assert ines.post("/api/ground/tour", walk).json["shortest"]["metres"] == 130
    bad = put(ines, {**dead, "code": "HQ-W09", "heading": ""}).json
    assert not bad["applied"] and "says where to" in bad["bad"][0]["says"]
    gone = {"base": after["no"], "sheets": [], "gone": {"ways": [dead["code"]]}, **HEAD}
    assert ines.post("/api/ground/rows", gone).json["applied"] and layout(ines)["ways"] == []


def test_tours_are_shown_beside_the_numbered_order(ines: Api) -> None:
    """The shortest round, proved, with its corners; the order of the numbers, which is longer; and over many tours by how much."""
    stops = ["P-01-08-1", "P-05-01-2", "P-02-11-1", "P-04-03-3", "R-03-05-1"]
    found = ines.post("/api/ground/tour", {"site": "HQ", "start": "DOOR-1", "stops": stops}).json
    shortest, numbered = found["shortest"], found["numbered"]
    assert (found["says"], found["is_shortest"]) == ("Shortest (proved)", True)
    assert shortest["bins"][0] == shortest["bins"][-1] == "DOOR-1" and sorted(shortest["bins"][1:-1]) == sorted(stops)
    assert shortest["metres"] <= numbered["metres"]
    for drawn in (shortest, numbered):
        legs = zip(drawn["spots"], drawn["spots"][1:], strict=False)
        assert abs(sum(abs(a - c) + abs(b - d) for (a, b), (c, d) in legs) - 1000 * drawn["metres"]) <= 500
    many = ines.get("/api/ground/numbered", site="HQ", stops=25).json
    assert (many["start"], many["tours"], many["proved"]) == ("DOOR-1", 100, True)
    assert 100 < many["longer_permille"] < 300


def test_what_cannot_be_walked_is_said(ines: Api) -> None:
    """A bin that is not there, a site of others, an aisle that is blocked."""
    gone = ines.post("/api/ground/tour", {"site": "HQ", "start": "DOOR-1", "stops": ["NO-SUCH"]}).json
    assert gone["title"] == "There is no bin `NO-SUCH` at site `HQ`."
    other = ines.post("/api/ground/tour", {"site": "NOWHERE", "start": "DOOR-1", "stops": []})
    assert other.status_code in (403, 404, 409) and other.json["title"]
    blocked = {
        "code": "HQ-W50",
        "site": "HQ",
        "kind": "blocked",
        "zone": "HAZ",
        "aisle": "H01",
        "from_mm": "9000",
        "to_mm": "39000",
    }
    assert put(ines, blocked).json["applied"]
    says = [f["says"] for f in layout(ines)["findings"] if f["wrong"]]
    assert says == ["Nobody can walk from a door to `H-01-01-1`, `H-01-01-2`, `H-01-01-3` and 33 more."]
    refused = ines.post("/api/ground/tour", {"site": "HQ", "start": "DOOR-1", "stops": ["H-01-05-1"]}).json
    assert refused["title"] == "Nobody can walk from `DOOR-1` to `H-01-05-1`."
