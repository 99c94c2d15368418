"""Counting: sheets and their differences, bins with when they were counted, and what a draft would have counted when."""

from __future__ import annotations

from flask import Response, current_app
from flask_openapi3 import APIBlueprint, FileStorage, Tag
from pydantic import Field, RootModel

from mindful_crate.api.benches import asked_state
from mindful_crate.api.catalogue import download, shown_pdf
from mindful_crate.api.doors import needs
from mindful_crate.api.drafts import seen_draft
from mindful_crate.api.openings import local_date
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.api.worlds import world_row
from mindful_crate.core.catalog.ids import CountNo
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.counts_board import (
    SECONDS_A_BIN,
    SECONDS_A_LINE,
    BinToCount,
    CountsBoard,
    PlanAhead,
    SheetInside,
    bins_to_count,
    counts_ahead,
    counts_board,
    sheet_inside,
    zones_counted,
)
from mindful_crate.core.work.counting.paper import count_paper
from mindful_crate.files.count_sheets import read_counts, sheet_csv
from mindful_crate.files.paper_pages import pdf
from mindful_crate.files.reading import Unreadable

api = APIBlueprint("counting", __name__, url_prefix="/api", abp_tags=[Tag(name="counting")], doc_ui=WITH_DOCUMENT)


class CountsView(RootModel[CountsBoard]):
    """Sheets, and how many bins are due by each plan."""


class CountSheetView(RootModel[SheetInside]):
    """A sheet with its lines."""


class CountPath(Body):
    """A sheet on a floor."""

    id: str = Field(max_length=80)
    count: str = Field(max_length=40)


class CountsQuery(Body):
    """Also the sheets of which nothing is to be done any more?"""

    finished: bool = False


MOST_BYTES = 5_000_000
"""A file of counts is no larger."""


class CountedFile(Body):
    """A sheet that was filled in: CSV, or a workbook."""

    file: FileStorage


class EnteredView(Answer):
    """What was found of a line."""

    line: int
    quantity: int
    serials: list[str]


class ReadCountsView(Answer):
    """What a file says of a sheet: lines with a number, what is wrong, and how many lines are blank."""

    lines: list[EnteredView]
    wrong: list[str]
    blank: int


class BinsQuery(Body):
    """Bins of a zone, or of all; those that read like some words."""

    zone: str = Field(default="", max_length=20)
    words: str = Field(default="", max_length=60)


class BinsToCountView(Answer):
    """Bins, those that were never counted first."""

    bins: list[BinToCount]
    zones: dict[str, str]
    """The names of the zones in which bins are counted."""


class CountBenchBody(Body):
    """On which floor; none: in the opening state."""

    world: str | None = Field(default=None, max_length=80)


class CountBenchView(Answer):
    """What each plan of the draft would have counted on which day, reckoned with so many seconds a bin and a line."""

    plans: list[PlanAhead]
    seconds_a_bin: int
    seconds_a_line: int


@api.get("/worlds/<id>/counts", responses={200: CountsView, **PROBLEMS})
@needs(Right.LOOK)
def counts(path: ById, query: CountsQuery) -> CountsView:
    """Sheets of which something is to be counted or posted; with ``finished`` all."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            return CountsView(counts_board(w.state, w.rulebook, finished=query.finished))


@api.get("/worlds/<id>/counts/<count>", responses={200: CountSheetView, **PROBLEMS})
@needs(Right.LOOK)
def sheet(path: CountPath) -> CountSheetView:
    """A sheet with its lines, the greatest differences in value first."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            return CountSheetView(sheet_inside(w.state, CountNo(path.count)))


@api.get("/worlds/<id>/counts/<count>/sheet.csv", responses={200: {"content": {"text/csv": {}}}, **PROBLEMS})
@needs(Right.LOOK)
def sheet_as_csv(path: CountPath) -> Response:
    """What of a sheet is still to be counted, as a file to be filled in."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            content = sheet_csv(w.state, CountNo(path.count))
    return download(f"{path.count}.csv", "text/csv; charset=utf-8", content)


@api.get("/worlds/<id>/counts/<count>/sheet.pdf", responses={200: {"content": {"application/pdf": {}}}, **PROBLEMS})
@needs(Right.LOOK)
def sheet_as_pdf(path: CountPath) -> Response:
    """The same on paper."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            made = pdf(count_paper(w.state, CountNo(path.count)), f"Count sheet {path.count}")
    return shown_pdf(made, path.count)


@api.post("/worlds/<id>/counts/<count>/read", responses={200: ReadCountsView, **PROBLEMS})
@needs(Right.LOOK)
def read_sheet(path: CountPath, form: CountedFile) -> ReadCountsView:
    """What a file says of a sheet. Nothing is counted yet: whoever sees that it is right enters it."""
    content = form.file.stream.read(MOST_BYTES + 1)
    if len(content) > MOST_BYTES:
        raise Refusal("too_large", f"That is more than {MOST_BYTES // 1_000_000} MB: no sheet is as long.", "file")
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            name = form.file.filename or "the file"
            try:
                lines, wrong, blank = read_counts(w.state, CountNo(path.count), name, content)
            except Unreadable as error:
                raise Refusal("unreadable", str(error), "file") from None
            return ReadCountsView(
                lines=[EnteredView(line=x.line, quantity=x.quantity, serials=list(x.serials)) for x in lines],
                wrong=list(wrong),
                blank=blank,
            )


@api.get("/worlds/<id>/bins-to-count", responses={200: BinsToCountView, **PROBLEMS})
@needs(Right.LOOK)
def to_count(path: ById, query: BinsQuery) -> BinsToCountView:
    """Bins with the days since they were counted and the movements since."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            zones = {str(z): w.ground.zones[z].name for z in zones_counted(w.state, w.rulebook)}
            return BinsToCountView(bins=bins_to_count(w.state, w.rulebook, query.zone, query.words), zones=zones)


@api.post("/drafts/<id>/bench/counts", responses={200: CountBenchView, **PROBLEMS})
@needs(Right.LOOK)
def bench_counts(path: ById, body: CountBenchBody) -> CountBenchView:
    """The calendar of a draft's count plans for the next four weeks. Nothing is stored."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, body.world) as state:
            today = local_date(state.ground, state.settings.site, state.clock)
            plans = list(counts_ahead(state, found.rulebook, today))
    return CountBenchView(plans=plans, seconds_a_bin=SECONDS_A_BIN, seconds_a_line=SECONDS_A_LINE)
