"""Rehearsals and what came of them: each version is kept, and each result with what it speaks for."""

from __future__ import annotations

import re

import orjson

from mindful_crate.core.plain import canonical, from_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.rehearse import Result
from mindful_crate.core.proving.script import Rehearsal
from mindful_crate.store import db
from mindful_crate.store.rows import RehearsalRow, RehearsalVersionRow, ResultRow

MOST_RUNS = 50
"""Latest results that are listed."""


def script_of(row: RehearsalRow) -> Rehearsal:
    """The script a row holds."""
    return from_plain(Rehearsal, orjson.loads(row.script))


def get(conn: db.Conn, id_: str) -> RehearsalRow:
    """A rehearsal by its id; refused when there is none."""
    row = db.row(conn, RehearsalRow, "rehearsal", id=id_)
    if row is None:
        raise Refusal("unknown_rehearsal", "There is no such rehearsal; it may have been cleared away.")
    return row


def put(conn: db.Conn, script: Rehearsal, by: str, says: str) -> None:
    """Keep a script as a new rehearsal or as the next version of one. Each has a name, no two of a site the same, and
    stays with its site."""
    if not script.name.strip():
        raise Refusal("no_name", "A rehearsal has a name. Say in a few words what it tries.", "name")
    there = db.row(conn, RehearsalRow, "rehearsal_named", site=script.site, name=script.name)
    if there is not None and there.id != script.id:
        taken = f"There is a rehearsal “{there.name}” already. Replace it, or choose another name."
        raise Refusal("name_taken", taken, "name")
    was = db.row(conn, RehearsalRow, "rehearsal", id=script.id)
    if was is not None and was.site != script.site:
        elsewhere = f"There is a rehearsal with the id {script.id} at another site. Give this one an id of its own."
        raise Refusal("id_taken", elsewhere, "id")
    db.run(
        conn, "put_rehearsal", id=script.id, name=script.name, site=script.site, script=canonical(script),
        steps=len(script.steps), pins=script.pins, made_by=by, says=says,
    )  # fmt: skip


def versions(conn: db.Conn, id_: str) -> list[RehearsalVersionRow]:
    """The versions a rehearsal has had, the latest first."""
    return db.rows(conn, RehearsalVersionRow, "rehearsal_versions", rehearsal=id_)


def script_at(conn: db.Conn, id_: str, version: int) -> Rehearsal | None:
    """Its script in a version; None when it has no such version."""
    found = db.value(conn, "script_at", rehearsal=id_, version=version)
    return None if found is None else from_plain(Rehearsal, orjson.loads(found))


def put_result(
    conn: db.Conn, row: RehearsalRow, result: Result, by: str, *, draft: str | None, revision: int | None
) -> int:
    """Keep what came of a run, with what it speaks for; its number."""
    kept = db.value(
        conn, "put_result", rehearsal=row.id, version=row.version, passed=result.passed, checked=result.checked,
        first_difference=result.first_difference, body=canonical(result), ran_by=by, rulebook=result.rulebook,
        opening=result.opening, engine=result.engine, draft=draft, revision=revision,
    )  # fmt: skip
    return int(kept)


def result(conn: db.Conn, row: ResultRow) -> Result:
    """What came of a run, step by step."""
    return from_plain(Result, orjson.loads(db.value(conn, "result_body", id=row.id)))


def latest(
    conn: db.Conn, ids: list[str], rulebook: str, draft: str | None = None, revision: int | None = None
) -> dict[str, ResultRow]:
    """Of each rehearsal the latest result on these rules, else the latest of that draft or revision."""
    found = db.rows(
        conn, ResultRow, "latest_results", rehearsals=ids, rulebook=rulebook, draft=draft, revision=revision
    )
    return {r.rehearsal: r for r in found}


def runs(conn: db.Conn, id_: str) -> list[ResultRow]:
    """Its latest results on whatever rules, the newest first."""
    return db.rows(conn, ResultRow, "results_of", rehearsal=id_, most=MOST_RUNS)


def free_id(conn: db.Conn, name: str) -> str:
    """An id made of a name that no rehearsal has."""
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:50] or "rehearsal"
    id_, n = base, 2
    while db.row(conn, RehearsalRow, "rehearsal", id=id_):
        id_, n = f"{base}-{n}", n + 1
    return id_
