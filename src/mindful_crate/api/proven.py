"""What rehearsals have shown: of a draft, which parts they have tried; of what was put in force, how far it had been rehearsed."""

from __future__ import annotations

from datetime import datetime

from flask import current_app
from flask_openapi3 import APIBlueprint, Tag

from mindful_crate.api.doors import check_site, needs
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, wired
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.proving.coverage import Covered, coverage
from mindful_crate.store import db
from mindful_crate.store import rehearsals as kept
from mindful_crate.store.rows import RehearsalRow, ResultRow, RevisionRow

api = APIBlueprint("proven", __name__, url_prefix="/api", abp_tags=[Tag(name="rehearsals")], doc_ui=WITH_DOCUMENT)


class UntriedView(Answer):
    """Something no rehearsal has tried, and where it is shown."""

    name: str
    link: str


class CoveredView(Answer):
    """Of one list of the rulebook, or one kind of thing: how much was tried, and what was not."""

    title: str
    tried: int
    total: int
    untried: list[UntriedView]


class CoverageView(Answer):
    """What rehearsals have tried, by how many results; and how many rehearsals have none on these rules."""

    lists: list[CoveredView]
    runs: int
    without: int


class SignedView(Answer):
    """A rulebook that was put in force: who did, when, and what rehearsals said of it: how many passed and failed on it, how many of those that passed
    had before it was put in force, who ran them, and how many never ran on it. ``tried``: so many of all its parts did something in them."""

    no: int
    name: str
    by: str
    at: datetime
    now: bool
    passed: int
    before: int
    failed: int
    without: int
    ran_by: list[str]
    tried: int
    parts: int


class SignedList(Answer):
    """What was put in force at a draft's site, the latest first."""

    revisions: list[SignedView]


MOST_SIGNED = 8
"""So many revisions are told with what rehearsals said of them."""


class _Proven:
    """The rehearsals of a draft's site, and what their results say."""

    def __init__(self, conn: db.Conn, draft: str) -> None:
        self.conn, self.parts = conn, wired(current_app)
        self.draft = self.parts.drafts.get(conn, draft)
        check_site(self.draft.row.site)
        self.rows = db.rows(conn, RehearsalRow, "rehearsals", sites=[self.draft.row.site])

    def by(self, rulebook: str, *, draft: str | None = None, revision: int | None = None) -> list[ResultRow]:
        """Their latest results on just these rules; those that have none count for nothing."""
        found = kept.latest(self.conn, [r.id for r in self.rows], rulebook, draft=draft, revision=revision)
        return [r for r in found.values() if r.rulebook == rulebook]

    def tried(self, results: list[ResultRow], rulebook: str) -> list[Covered]:
        """What of these rules the results have tried, on the ground as the draft has it."""
        worlds, row = self.parts.worlds, self.draft.row
        places = {place for r in results for place in kept.result(self.conn, r).tried}
        return coverage(
            worlds.rulebook(self.conn, rulebook), worlds.ground(self.conn, row.opening), SiteCode(row.site), places
        )


@api.get("/drafts/<id>/coverage", responses={200: CoverageView, **PROBLEMS})
@needs(Right.LOOK)
def covered(path: ById) -> CoverageView:
    """What of a draft its rehearsals have tried, by their results on its rules as they are; those without such a result count for nothing."""
    with wired(current_app).database.transaction() as conn:
        of = _Proven(conn, path.id)
        row = of.draft.row
        now = of.by(row.rulebook, draft=row.id)
        lists = of.tried(now, row.rulebook)
    told = [
        CoveredView(title=c.title, tried=c.tried, total=c.total, untried=[UntriedView(name=u.name, link=u.link) for u in c.untried])
        for c in lists
    ]  # fmt: skip
    return CoverageView(lists=told, runs=len(now), without=len(of.rows) - len(now))


@api.get("/drafts/<id>/signed", responses={200: SignedList, **PROBLEMS})
@needs(Right.LOOK)
def signed(path: ById) -> SignedList:
    """Which rulebooks were put in force at a draft's site, by whom, and how far they had been rehearsed."""
    with wired(current_app).database.transaction() as conn:
        of = _Proven(conn, path.id)
        revisions = db.rows(conn, RevisionRow, "revisions", site=of.draft.row.site, most=MOST_SIGNED)
        return SignedList(revisions=[_signed(of, r) for r in revisions])


def _signed(of: _Proven, revision: RevisionRow) -> SignedView:
    mine = of.by(revision.rulebook, revision=revision.no)
    passed = [r for r in mine if r.passed]
    lists = of.tried(mine, revision.rulebook)
    return SignedView(
        no=revision.no, name=revision.name, by=revision.made_by, at=revision.made_at, now=revision.state == "in_force", passed=len(passed),
        before=sum(r.ran_at <= revision.made_at for r in passed), failed=len(mine) - len(passed), without=len(of.rows) - len(mine),
        ran_by=sorted({r.ran_by for r in mine}), tried=sum(c.tried for c in lists), parts=sum(c.total for c in lists),
    )  # fmt: skip
