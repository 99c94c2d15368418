"""The ground: sites laid out, tables of the catalogue looked through, changed by a form and taken out as files."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import replace
from datetime import date, datetime
from typing import Any, Literal
from zoneinfo import ZoneInfo, available_timezones

from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.doors import check_site, needs, person
from mindful_crate.api.maps import SiteMap, drawn, site_map
from mindful_crate.api.openings import opening_state
from mindful_crate.api.paging import PageQuery, page_of
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById, FindingView
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.catalog.beginnings import order_to_receive
from mindful_crate.core.catalog.checking import check_opening
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.layout import Block, lay_out
from mindful_crate.core.catalog.opening import Opening
from mindful_crate.core.catalog.places import Site
from mindful_crate.core.catalog.tables import TABLES, Sites, TableChange, amend, bins_in_use, key_text, used_by
from mindful_crate.core.problem import Problem, Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.chapters import how_much
from mindful_crate.core.rulebook.starter import FLOOR, starter
from mindful_crate.files import tables as files
from mindful_crate.files import writing
from mindful_crate.files.sheets import Sheet
from mindful_crate.jobs.imports import Outcome, summed
from mindful_crate.store import db
from mindful_crate.store.grounds import Stayed
from mindful_crate.store.rows import DraftRow, GroundRow, WorldRow

api = APIBlueprint("catalogue", __name__, url_prefix="/api", abp_tags=[Tag(name="catalogue")], doc_ui=WITH_DOCUMENT)
TableName = Literal[
    "sites", "zones", "bin_types", "bins", "plate_kinds", "items", "units", "barcodes", "partners", "channels", "orders",
    "order_lines", "home_bins", "plates", "stock", "serials", "carriers", "rates", "carton_kinds", "carts", "printers", "pack_stations", "trucks", "ways",
    "series",
]  # fmt: skip
SITE = r"^[A-Z0-9][A-Z0-9-]{0,9}$"
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


class SiteHead(Answer):
    """A site with how much there is of it."""

    code: str
    name: str
    time_zone: str
    zones: int
    bins: int
    stock: int
    orders: int
    drafts: list[DraftOnGround]
    live: str
    """Its live floor; empty when there is none yet."""


class RulesView(Answer):
    """How much of a part of the rulebook there is, and the chapter that shows it."""

    says: str
    chapter: str


class DraftOnGround(Answer):
    """A draft, and whether it stands on the ground as it is. If not, what it names and would not find there."""

    id: str
    name: str
    up_to_date: bool
    missing: list[FindingView]
    has_rules: bool
    parts: list[RulesView]


class GroundHead(Answer):
    """The ground as it stands: ``no`` 0 before there is any."""

    no: int
    opening: str
    says: str
    made_by: str
    made_at: datetime | None
    sites: list[SiteHead]
    counts: dict[str, int]


class NewSite(Body):
    """A site to be."""

    base: int
    code: str = Field(pattern=SITE)
    name: str = Field(min_length=2, max_length=80)
    time_zone: str = Field(max_length=60)


class ChangeView(Answer):
    """What happens to one table: how many rows, and the first of them."""

    table: str
    many: str
    new: int
    changed: int
    gone: int
    same: int
    some_new: list[str]
    some_changed: list[str]
    some_gone: list[str]


class BadCellView(Answer):
    """One thing wrong in a file or form."""

    file: str
    line: int
    column: str
    value: str
    says: str


class Amended(Answer):
    """What a change does or did, and everything wrong. ``no`` is the state of the ground after it, or as it was."""

    no: int
    applied: bool
    changes: list[ChangeView]
    bad: list[BadCellView]
    bad_cells: int
    bad_rows: int
    rows: int
    stayed: list[DraftOnGround]


class SheetBody(Body):
    """Rows of a table as a form has them: text cells by column."""

    table: TableName
    rows: list[dict[str, str]] = Field(max_length=5_000)


class AlterBody(Body):
    """Many rows of a table, each with the same cells otherwise."""

    table: Literal["bins", "items", "partners"]
    codes: list[str] = Field(max_length=200_000)
    cells: dict[str, str]


class RowsBody(Body):
    """Rows put in, altered and taken out, in one change."""

    base: int
    says: str = Field(default="", max_length=200)
    sheets: list[SheetBody] = Field(default_factory=list, max_length=20)
    alter: AlterBody | None = None
    gone: dict[TableName, list[str]] = Field(default_factory=dict)
    """Codes of rows that go."""


class TablePath(Body):
    """A table."""

    table: TableName


class TableQuery(PageQuery):
    """Which rows, and of which site."""

    site: str = ""


class TableView(Answer):
    """Rows as text cells."""

    table: str
    one: str
    many: str
    columns: list[str]
    key: list[str]
    """Those that tell its rows apart."""
    needed: list[str]
    """Columns that may not be empty."""
    choices: dict[str, list[str]]
    """What some columns may hold."""
    meant: dict[str, str]
    """What the cells of some columns are."""
    rows: list[list[str]]
    total: int


class FileQuery(Body):
    """In which form, of which site."""

    site: str = ""
    form: Literal["csv", "xlsx"] = "csv"


class LayoutBody(Body):
    """Blocks to lay out. ``apply`` false only looks."""

    base: int
    site: str
    blocks: list[Block] = Field(max_length=50)
    apply: bool = False


class LaidView(Answer):
    """What blocks make."""

    no: int
    applied: bool
    problems: list[str]
    map: SiteMap | None
    """The new bins alone."""
    made: int


class TestOrder(Body):
    """A test order for a site."""

    base: int
    site: str


class Made(Answer):
    """Something was made."""

    no: int
    code: str
    says: str


class MoveOver(Body):
    """Let a draft stand on the ground as it is."""

    version: int


def change_views(changes: Sequence[TableChange]) -> list[ChangeView]:
    """What changes or would change, by table."""
    return [
        ChangeView(
            table=c.table, many=TABLES[c.table].many, new=c.new, changed=c.changed, gone=c.gone, same=c.same,
            some_new=list(c.some_new), some_changed=list(c.some_changed), some_gone=list(c.some_gone),
        )
        for c in changes
    ]  # fmt: skip


def cell_views(bad: Sequence[files.BadCell]) -> list[BadCellView]:
    """The first of what is wrong, cell by cell."""
    return [
        BadCellView(file=b.file, line=b.line, column=b.column, value=b.value, says=b.says)
        for b in bad[: files.MOST_SHOWN]
    ]


def _stayed(stayed: list[Stayed]) -> list[DraftOnGround]:
    return [
        DraftOnGround(
            id=s.draft.id, name=s.draft.name, up_to_date=False, missing=_findings(s.missing), has_rules=True, parts=[]
        )
        for s in stayed
    ]


def _findings(found: list[Any]) -> list[FindingView]:
    return [
        FindingView(code=f.code, severity=f.severity.value, place=f.place, says=f.says, witness=f.witness)
        for f in found
    ]


@api.get("/ground", responses={200: GroundHead, **PROBLEMS})
@needs(Right.LOOK)
def ground_head() -> GroundHead:
    """The ground as it stands, with the sites the person sees."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = parts.grounds.row(conn)
        opening = parts.grounds.opening(conn)
        drafts = db.rows(conn, DraftRow, "drafts", sites=person().row.sites)
        sites = [
            _site_head(conn, opening, s, [d for d in drafts if d.site == s.code], row)
            for s in opening.sites
            if s.code in person().row.sites
        ]
    counts = {name: len(getattr(opening, name)) for name in TABLES}
    if row is None:
        return GroundHead(no=0, opening="", says="", made_by="", made_at=None, sites=[], counts=counts)
    return GroundHead(
        no=row.no, opening=row.opening, says=row.says, made_by=row.made_by, made_at=row.made_at, sites=sites,
        counts=counts,
    )  # fmt: skip


def _site_head(conn: db.Conn, opening: Opening, site: Site, drafts: list[DraftRow], row: GroundRow | None) -> SiteHead:
    parts = wired(current_app)
    zones = {z.code for z in opening.zones if z.site == site.code}
    bins = {b.code for b in opening.bins if b.zone in zones}
    table = opening.stock
    live = db.row(conn, WorldRow, "live_world", site=site.code)
    on = []
    for draft in drafts:
        behind = row is not None and draft.opening != row.opening
        missing = parts.grounds.missing(conn, draft, row.opening) if behind and row else []
        book = parts.worlds.rulebook(conn, draft.rulebook)
        on.append(
            DraftOnGround(
                id=draft.id, name=draft.name, up_to_date=not behind, missing=_findings(missing),
                has_rules=bool(book.step_plans),
                parts=[RulesView(says=says, chapter=link) for says, link in how_much(book, site.code)],
            )
        )  # fmt: skip
    return SiteHead(
        code=site.code, name=site.name, time_zone=site.time_zone, zones=len(zones), bins=len(bins),
        stock=sum(len(table.rows_of_bin(b)) for b in bins), orders=sum(o.site == site.code for o in opening.orders),
        drafts=on, live=live.id if live else "",
    )  # fmt: skip


@api.post("/ground/sites", responses={200: Made, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def make_site(body: NewSite) -> Made:
    """A new site, empty, with a draft of its own for its rules. Whoever makes it sees it."""
    if body.time_zone not in available_timezones():
        raise Refusal("no_time_zone", f"`{body.time_zone}` is no time zone; it reads like Europe/London.", "time_zone")
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        opening = parts.grounds.opening(conn)
        if any(s.code == body.code for s in opening.sites):
            raise Refusal("site_there", f"There is a site `{body.code}` already; give this one another code.", "code")
        site = Site(SiteCode(body.code), body.name.strip(), body.time_zone)
        made, _ = amend(opening, {"sites": [site]})
        parts.grounds.change(conn, body.base, made, f"Site {site.name} was made.", person().id)
        row = parts.grounds.row(conn)
        assert row is not None
        id_ = "d-" + uuid.uuid4().hex[:8]
        parts.drafts.create(
            conn, id_=id_, name="First rules", site=site.code, opening=row.opening, rulebook=Rulebook(site.name),
            by=person().id, parent=None,
        )  # fmt: skip
        db.run(conn, "give_site", id=person().id, site=site.code, crew="")
        return Made(no=row.no, code=id_, says=f"{site.name} is there. Lay out its bins next.")


@api.post("/drafts/<id>/starter", responses={200: Made, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def write_starter(path: ById) -> Made:
    """First rules for a draft that has none yet, written from its site's zones; it can be undone. Whoever asks for them
    joins their crew, to try them on a handset."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        db.value(conn, "in_turn", what="drafts")
        db.value(conn, "lock_draft", id=path.id)
        draft = parts.drafts.get(conn, path.id)
        check_site(draft.row.site)
        if draft.rulebook.step_plans or draft.rulebook.flows:
            raise Refusal("has_rules", "This draft has rules already; they are not written over.")
        ground = parts.worlds.ground(conn, draft.row.opening)
        rules = starter(draft.rulebook.name, ground, SiteCode(draft.row.site))
        parts.drafts.put(conn, draft.row, rules, "First rules were written from the zones.", person().id)
        db.run(conn, "give_site", id=person().id, site=draft.row.site, crew=FLOOR)
    return Made(no=0, code=path.id, says="First rules are written. Read them, change them, rehearse them.")


@api.post("/drafts/<id>/move-over", responses={200: Made, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def move_over(path: ById, body: MoveOver) -> Made:
    """Let a draft stand on the ground as it is, also when it names what is no longer there: findings then say so."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        db.value(conn, "lock_draft", id=path.id)
        draft = parts.drafts.get(conn, path.id)
        check_site(draft.row.site)
        row = parts.grounds.row(conn)
        if row is None or draft.row.opening == row.opening:
            raise Refusal("on_ground", "This draft stands on the ground as it is already.")
        if draft.row.version != body.version:
            raise Refusal("draft_moved", "The draft was changed meanwhile. Look at it as it is now, then try again.")
        parts.grounds.put_draft_on(conn, draft.row, row.opening)
        return Made(no=row.no, code=path.id, says=f"{draft.row.name} stands on the ground as it is now.")


def _site(opening: Opening, code: str) -> Site:
    """A site the person sees; refused when there is none."""
    check_site(code)
    found = next((s for s in opening.sites if s.code == code), None)
    if found is None:
        raise Refusal("unknown_site", f"There is no site `{code}`.")
    return found


class SiteQuery(Body):
    """A site."""

    site: str = Field(max_length=20)


@api.get("/ground/map", responses={200: SiteMap, **PROBLEMS})
@needs(Right.LOOK)
def ground_map(query: SiteQuery) -> SiteMap:
    """A site from above."""
    check_site(query.site)
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        ground = parts.grounds.ground(conn)
    if ground is None or query.site not in ground.sites:
        raise Refusal("unknown_site", f"There is no site `{query.site}`.")
    return site_map(opening_state(ground, query.site), SiteCode(query.site))


@api.post("/ground/layout", responses={200: LaidView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def layout(body: LayoutBody) -> LaidView:
    """Lay out bins by the block: looked at first, then made."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        opening = parts.grounds.opening(conn)
        site = _site(opening, body.site)
        laid = lay_out(opening, site.code, tuple(body.blocks))
        row = parts.grounds.row(conn)
        no, applied = row.no if row else 0, False
        if body.apply and laid.bins and not laid.problems:
            made, _ = amend(opening, {"zones": laid.zones, "bins": laid.bins})
            says = f"{len(laid.bins):,} bins were laid out at {site.name}."
            parts.grounds.change(conn, body.base, made, says, person().id)
            no, applied = no + 1, True
    zones = {z.code: z for z in (*opening.zones, *laid.zones)}
    shown = sorted({b.zone for b in laid.bins})
    kinds = [t for t in opening.bin_types if any(b.bin_type == t.code for b in laid.bins)]
    view = drawn(site, [zones[z] for z in shown], kinds, list(laid.bins)) if laid.bins and not applied else None
    return LaidView(no=no, applied=applied, problems=[_told(p) for p in laid.problems], map=view, made=len(laid.bins))


def _told(problem: Problem) -> str:
    where = problem.place.capitalize() + ": " if problem.place.startswith("block ") else ""
    return where + problem.says


@api.get("/ground/tables/<table>", responses={200: TableView, **PROBLEMS})
@needs(Right.LOOK)
def table_rows(path: TablePath, query: TableQuery) -> TableView:
    """Rows of a table as its file would have them."""
    columns = files.columns(path.table)
    rows, total = page_of(_seen_rows(path.table, query.site), columns, lambda row: row, query)
    words = TABLES.get(path.table)
    return TableView(
        table=path.table, one=words.one if words else path.table[:-1].replace("_", " "),
        many=words.many if words else path.table.replace("_", " "), columns=columns,
        needed=files.needed(path.table), choices=_choices(path.table), meant=files.meant(path.table), rows=rows,
        total=total, key=list(words.by) if words and words.by else columns[:1],
    )  # fmt: skip


CODED = {
    "carrier": "carriers",
    "site": "sites",
    "zone": "zones",
    "bin_type": "bin_types",
    "plate_kind": "plate_kinds",
    "partner": "partners",
}
"""Columns that hold a code of another table, as far as there are few enough to choose from."""


def _choices(table: str) -> dict[str, list[str]]:
    found = files.choices(table)
    for column in files.columns(table):
        if column in CODED and CODED[column] != table:
            found[column] = [row[0] for row in _seen_rows(CODED[column], "")]
    return found


def _seen_rows(table: str, site: str) -> list[list[str]]:
    """Rows of a site the person sees, or of all of hers."""
    if site:
        check_site(site)
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        opening = parts.grounds.opening(conn)
    seen = [site] if site else [s.code for s in opening.sites if s.code in person().row.sites]
    found: dict[tuple[str, ...], list[str]] = {}
    for code in seen or [""]:
        for row in writing.rows_of(opening, table, SiteCode(code)):
            found.setdefault(tuple(row), row)
    return list(found.values())


@api.get("/ground/tables/<table>/file", responses={200: {"content": {"text/csv": {}, XLSX: {}}}, **PROBLEMS})
@needs(Right.LOOK)
def table_file(path: TablePath, query: FileQuery) -> Response:
    """A table as a file that can be brought in again."""
    rows = _seen_rows(path.table, query.site)
    heading = files.columns(path.table)
    if query.form == "csv":
        return download(f"{path.table}.csv", "text/csv; charset=utf-8", writing.as_csv(heading, rows))
    return download(f"{path.table}.xlsx", XLSX, writing.as_workbook({path.table: (heading, rows)}))


@api.get("/ground/workbook", responses={200: {"content": {XLSX: {}}}, **PROBLEMS})
@needs(Right.LOOK)
def workbook(query: SiteQuery) -> Response:
    """Everything of a site as one workbook, a sheet for each table."""
    check_site(query.site)
    sheets = {name: (files.columns(name), _seen_rows(name, query.site)) for name in files.NAMES}
    return download(f"{query.site}.xlsx", XLSX, writing.as_workbook(sheets))


def shown_pdf(made: bytes, name: str) -> Response:
    """A PDF that a browser shows, and keeps under this name."""
    return Response(made, mimetype="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}.pdf"'})


def download(name: str, kind: str, content: bytes) -> Response:
    """A file under a name."""
    return Response(content, mimetype=kind, headers={"Content-Disposition": f"attachment; filename={name}"})


@api.post("/ground/rows", responses={200: Amended, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def change_rows(body: RowsBody) -> Amended:
    """Put rows in and take rows out by a form; all or nothing."""
    parts = wired(current_app)
    sheets = [Sheet.of_cells(s.table, s.rows) for s in body.sheets]
    with parts.database.transaction() as conn:
        opening = parts.grounds.opening(conn)
        if body.alter:
            sheets.append(writing.altered(opening, body.alter.table, body.alter.codes, body.alter.cells))
        brought = files.bring(opening, sheets, sees=person().row.sites)
        if brought.bad:
            return amended(body.base, brought, applied=False, stayed=[])
        opening, gone = _without(brought.opening, body.gone)
        brought = replace(brought, opening=opening, changes=(*brought.changes, *gone))
        problems = check_opening(opening)
        if body.gone and problems:
            raise Refusal("still_used", f"{problems[0].place}: {problems[0].says}. Take that out first.")
        says = body.says or summed(brought.changes)
        stayed = parts.grounds.change(conn, body.base, opening, says, person().id)
        no = parts.grounds.row(conn)
    return amended(no.no if no else 0, brought, applied=True, stayed=stayed)


def _without(opening: Opening, gone: dict[Any, list[str]]) -> tuple[Opening, tuple[TableChange, ...]]:
    """Rows taken out; refused when something else needs them, with what."""
    together = {name: set(codes) for name, codes in gone.items()}
    changes: tuple[TableChange, ...] = ()
    sites = Sites(opening)
    for name in [n for n in reversed(list(TABLES)) if n in together]:
        table = TABLES[name]
        # a row by its whole key, or all that begin with one: everything in a bin
        rows = [r for r in getattr(opening, name) if {table.key(r)[0], key_text(table.key(r))} & together[name]]
        for site in sorted({table.site(r, sites) or "" for r in rows} - {""}):
            check_site(site)
        opening, more = amend(opening, {}, {name: {table.key(r) for r in rows}})
        changes += more
    for name, codes in together.items():
        for code in sorted(codes & bins_in_use(opening) if name == "bins" else codes):
            used = used_by(opening, name, code)
            if used:
                one = TABLES[name].one.capitalize()
                raise Refusal("still_used", f"{one} `{code}` cannot go: {', '.join(used)}.", f"{name}/{code}")
    return opening, changes


def amended(no: int, brought: files.Brought | Outcome, *, applied: bool, stayed: list[Stayed]) -> Amended:
    """What came of a change of the ground, told."""
    return Amended(
        no=no, applied=applied, changes=change_views(brought.changes), bad=cell_views(brought.bad), bad_cells=brought.bad_cells,
        bad_rows=brought.bad_rows, rows=brought.rows, stayed=_stayed(stayed),
    )  # fmt: skip


@api.post("/ground/test-order", responses={200: Made, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def test_order(body: TestOrder) -> Made:
    """One act: a confirmed purchase order to try receiving with."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        opening = parts.grounds.opening(conn)
        site = _site(opening, body.site)
        order, partners = order_to_receive(opening, site.code, _today(site))
        made, _ = amend(opening, {"orders": [order], "partners": partners})
        says = f"Test order {order.number} was made."
        parts.grounds.change(conn, body.base, made, says, person().id)
        row = parts.grounds.row(conn)
    return Made(no=row.no if row else 0, code=order.number, says=says)


def _today(site: Site) -> date:
    return datetime.now(ZoneInfo(site.time_zone)).date()
