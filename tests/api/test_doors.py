"""Doors that lock: people and their rights, sessions that end, badges, limits, headers, names that are erased."""

from __future__ import annotations

from base64 import b64decode
from typing import Any

import numpy as np
import pypdfium2
import pytest
import zxingcpp

from mindful_crate.api.doors import FREE_FROM, FREE_TRIES, LONGEST_WAIT, SLOW
from mindful_crate.api.wiring import wired
from mindful_crate.core.world.acts import Wait
from mindful_crate.store.loaded import Who
from mindful_crate.store.worlds import Worlds
from tests.api.conftest import HEADER, Api


def nell(**more: Any) -> dict[str, Any]:
    return {"name": "Nell Arkwright", "role": "floor", "sites": ["HQ"], "crews": ["quay"], "login": "nell", "active": True, "password": "long enough", **more}  # fmt: skip


def sql(app: Any, statement: str) -> None:
    with wired(app).database.transaction() as conn:
        conn.execute(statement)  # type: ignore[arg-type]


def test_a_person_is_added_signs_in_and_is_let_go(app: Any, ines: Api) -> None:
    """Short password, taken login, then a session that ends with the job, at once and everywhere."""
    assert ines.post("/api/people", nell(password="short")).json["code"] == "short_password"
    assert ines.post("/api/people", nell(role="king")).status_code == 422
    made = ines.post("/api/people", nell()).json
    assert (made["id"], made["sessions"]) == ("nell", 0)
    assert ines.post("/api/people", nell(name="Other")).json["code"] == "login_taken"
    floor = Api(app.test_client())
    assert floor.post("/api/session", {"login": "Nell", "password": "long enough"}).json["rights"] == ["look", "scan"]
    card = next(p for p in ines.get("/api/people/cards").json["people"] if p["id"] == "nell")
    assert card["sessions"] == 1 and card["seen_at"]
    assert floor.get("/api/me").status_code == 200
    assert ines.post("/api/people/nell", nell(active=False), method="PUT").json["active"] is False
    assert floor.get("/api/me").status_code == 401
    assert floor.post("/api/session", {"login": "nell", "password": "long enough"}).json["code"] == "wrong_login"


def test_a_badge_opens_the_handset_and_nothing_else(app: Any, ines: Api) -> None:
    """Even an analyst's badge only looks and scans; a new badge closes the old one; the code is not kept."""
    code = ines.post("/api/people/ines/badge").json["badge"]
    phone = Api(app.test_client())
    assert phone.post("/api/session/badge", {"badge": "BDG-NOBODYATALL"}).json["code"] == "wrong_login"
    assert phone.post("/api/session/badge", {"badge": code}).json["rights"] == ["look"]
    assert phone.post("/api/drafts/d-1/undo", {"version": 1}).status_code == 403
    again = ines.post("/api/people/ines/badge").json["badge"]
    assert again != code
    assert Api(app.test_client()).post("/api/session/badge", {"badge": code}).status_code == 422
    made = ines.post("/api/people/oren/badge").json
    page = pypdfium2.PdfDocument(b64decode(made["pdf"]))[0].render(scale=200 / 72).to_pil().convert("L")
    assert [found.text for found in zxingcpp.read_barcodes(np.array(page))] == [made["badge"]]
    assert made["badge"] in made["svg"] and "Oren Maddock" in made["svg"]
    with wired(app).database.transaction() as conn:
        kept = str(conn.execute("SELECT badge_hash FROM person").fetchall())
    assert code not in kept and again not in kept


def test_a_supervisor_makes_nobody_an_analyst(app: Any) -> None:
    """Nor changes one, nor takes her own role away; the floor looks after nobody."""
    tove, oren = Api(app.test_client(), "tove"), Api(app.test_client(), "oren")
    assert tove.post("/api/people", nell(role="analyst", login="x1")).status_code == 403
    assert tove.post("/api/people/ines/password", {"password": "long enough"}).status_code == 403
    own = nell(login="tove", name="Tove", role="floor")
    assert tove.post("/api/people/tove", own, method="PUT").json["code"] == "own_rights"
    assert oren.get("/api/people/cards").status_code == 403


def test_a_supervisor_keeps_to_her_own_sites(app: Any, ines: Api) -> None:
    """She gives no other site, herself neither, and does not touch who works at another; the analyst may."""
    tove = Api(app.test_client(), "tove")
    assert tove.post("/api/people", nell(login="x2", sites=["HQ", "FAR"])).status_code == 403
    own = nell(login="tove", name="Tove", role="supervisor", sites=["HQ", "FAR"])
    told = tove.post("/api/people/tove", own, method="PUT")
    assert told.status_code == 403 and "not of FAR" in told.json["title"]
    far = ines.post("/api/people", nell(login="far", sites=["FAR"])).json["id"]
    assert tove.post(f"/api/people/{far}/password", {"password": "long enough"}).status_code == 403
    assert tove.post(f"/api/people/{far}/badge").status_code == 403


def test_sessions_end_by_time_and_by_hand(app: Any, ines: Api) -> None:
    """Unused for half a day, or a month old, or ended by whoever looks after people, or by a new password."""
    for statement in (
        "UPDATE session SET seen_at = now() - interval '13 hours' WHERE person = 'vik'",
        "UPDATE session SET made_at = now() - interval '31 days' WHERE person = 'vik'",
    ):
        vik = Api(app.test_client(), "vik")
        assert vik.get("/api/me").status_code == 200
        sql(app, statement)
        assert vik.get("/api/me").status_code == 401
    vik = Api(app.test_client(), "vik")
    ines.post("/api/people/vik/sessions", method="DELETE")
    assert vik.get("/api/me").status_code == 401
    vik = Api(app.test_client(), "vik")
    vik.post("/api/session", method="DELETE")
    assert vik.get("/api/me").status_code == 401
    vik = Api(app.test_client(), "vik")
    ines.post("/api/people/vik/password", {"password": "another one"})
    assert vik.get("/api/me").status_code == 401


@pytest.mark.parametrize("end", [
    "DELETE FROM session WHERE person = 'tove'",
    "UPDATE person SET active = false WHERE id = 'tove'",
    "UPDATE person SET sites = '{GL}' WHERE id = 'tove'",
])  # fmt: skip
@pytest.mark.parametrize("others", [False, True])
def test_who_scans_without_a_pause_is_stopped_in_the_middle(app: Any, ines: Api, end: str, others: bool) -> None:
    """A session that is at hand counts no longer than it stands, whether the process works alone in the world or not: nothing is
    done, and the log is as it was."""
    tove = Api(app.test_client(), "tove")
    world = tove.world()
    opened = tove.command(world, {"kind": "open_flow", "flow": "F-LOOK"}, device="H5").json
    dialogue = opened["handset"]["question"]["dialogue"]
    look = {"kind": "answer", "dialogue": dialogue, "scan": {"text": "RCV-01", "how": "scanned"}, "step": None}
    for _ in range(8):
        assert tove.command(world, look, device="H5").status_code == 200
    assert wired(app).at_hand
    if others:  # somebody appended in another process: what is at hand of the world is behind
        theirs = Worlds(wired(app).database)
        theirs.run(world, "theirs", Wait(1), Who("ines"))
    log = ines.get(f"/api/worlds/{world}/log").json
    assert log["entries"][-1]["kind"] == ("wait" if others else "answer")
    sql(app, end)
    try:
        assert tove.command(world, look, device="H5").status_code in (401, 403)
        assert ines.get(f"/api/worlds/{world}/log").json == log
    finally:
        sql(app, "UPDATE person SET active = true, sites = '{HQ,GL,SW}' WHERE id = 'tove'")


def test_a_name_is_erased_and_the_log_stays(app: Any, ines: Api) -> None:
    """The entry still says who by id; the name is gone from every answer, and nothing of it can be changed."""
    ines.post("/api/people", nell(login="gone", name="Unforgotten Name"))
    world = ines.world()
    ines.command(world, {"kind": "confirm_order", "order": "PO-1007"}, person="gone")
    erased = ines.post("/api/people/gone/erase").json
    assert erased["name"] == "somebody" and erased["erased_at"]
    assert ines.get(f"/api/worlds/{world}/log").json["entries"][0]["who"] == "gone"
    assert "Unforgotten" not in ines.get("/api/people").text + ines.get("/api/people/cards").text
    assert ines.post("/api/people/gone", nell(login="gone2"), method="PUT").json["code"] == "erased"
    assert ines.post("/api/people/ines/erase").json["code"] == "own_rights"


def test_guessing_is_slow_and_locks_out_nobody(app: Any) -> None:
    """Wrong answers come ever later, for this name from this address; the right password is let in all the same, and
    another address is answered as before."""
    api = Api(app.test_client())

    def wait(**body: Any) -> float:
        path = "/api/session/badge" if "badge" in body else "/api/session"
        answer = api.post(path, body)
        assert answer.json["code"] == "wrong_login"
        return float(answer.headers.get(SLOW, 0))

    waits = [wait(login="mara", password="guess") for _ in range(12)]
    assert waits[:FREE_TRIES] == [0.0] * FREE_TRIES and waits == sorted(waits) and waits[-1] == LONGEST_WAIT
    right = api.post("/api/session", {"login": "mara", "password": "quay"})
    assert right.status_code == 200 and SLOW not in right.headers
    there = {"REMOTE_ADDR": "192.0.2.7"}
    wrong = api.client.post(
        "/api/session", json={"login": "mara", "password": "guess"}, headers=HEADER, environ_base=there
    )
    assert SLOW not in wrong.headers
    badges = [wait(badge=f"BDG-GUESS{n}") for n in range(FREE_FROM)]
    assert badges[-1] == LONGEST_WAIT
    sql(app, "UPDATE sign_in_try SET at = at - interval '6 minutes'")
    assert wait(login="mara", password="guess") == 0
    sql(app, "DELETE FROM sign_in_try")


def test_a_key_is_who_it_says_and_opens_no_cookie(app: Any, ines: Api) -> None:
    """A made-up key does not get a cookie past the guard against foreign pages; a real one counts before the cookie."""
    made_up = {"Authorization": "Bearer x"}
    answer = ines.client.post("/api/worlds", json={"name": "x", "draft": "d-1"}, headers=made_up)
    assert answer.status_code == 401
    assert ines.client.get("/api/me", headers=made_up).status_code == 401
    ines.post("/api/people", nell(login="erp", name="Ledger", role="host"))
    key = ines.post("/api/people/erp/badge").json["badge"]
    asked = ines.client.get("/api/me", headers={"Authorization": f"Bearer {key}"})
    assert asked.status_code == 403  # a host looks at nothing, also when an analyst's cookie comes along
    assert ines.get("/api/me").json["id"] == "ines"


def test_a_name_that_is_not_ours_is_answered_with_nothing(app: Any, ines: Api) -> None:
    """A page elsewhere that lets its name point here is told so, also for pages and signed-in requests."""
    for path in ("/api/me", "/api/health"):
        answer = ines.client.get(path, headers={"Host": "quay.example:8080"})
        assert answer.status_code == 421 and "CRATE_HOSTS" in answer.json["title"]
    for name in ("127.0.0.1:8123", "localhost", "[::1]:8123"):
        assert app.test_client().get("/api/health", headers={"Host": name}).status_code == 200


def test_pages_and_answers_carry_their_headers(app: Any, ines: Api) -> None:
    """Nothing foreign is loaded, framed or sniffed, nothing is cached, every answer has an id; a foreign page may
    not change anything."""
    answer = ines.get("/api/me")
    assert "default-src 'self'" in answer.headers["Content-Security-Policy"]
    assert (
        "script-src" not in answer.headers["Content-Security-Policy"]
        or "unsafe" not in answer.headers["Content-Security-Policy"].split("style")[0]
    )
    assert answer.headers["X-Frame-Options"] == "DENY" and answer.headers["X-Content-Type-Options"] == "nosniff"
    assert answer.headers["Cache-Control"] == "no-store" and len(answer.headers["X-Request-Id"]) == 12
    foreign = ines.client.post("/api/worlds", json={"name": "x", "draft": "d-1"})
    assert foreign.status_code == 403
    big = ines.client.post("/api/worlds", data=b"x" * 5_000_000, headers={**HEADER, "Content-Type": "application/json"})
    assert big.status_code in (413, 422)


def test_what_is_logged_holds_no_secret(app: Any, capsys: pytest.CaptureFixture[str]) -> None:
    """A request is logged with its id and person; passwords, badges and cookies are not."""
    api = Api(app.test_client(), "ines")
    api.post("/api/people/ines/badge")
    out = capsys.readouterr()
    assert "path=/api/people/ines/badge" in out.out and "request=" in out.out and "person=ines" in out.out
    assert "quay" not in out.out and "BDG-" not in out.out
