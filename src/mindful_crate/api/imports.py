"""Files brought into the ground: looked through first, by a worker when there is much of them, then taken or left."""

from __future__ import annotations

import io
from datetime import datetime
from typing import IO, Literal

from flask import Response, current_app
from flask_openapi3 import APIBlueprint, FileStorage, Tag

from mindful_crate.api.catalogue import Amended, BadCellView, ChangeView, amended, cell_views, change_views, download
from mindful_crate.api.doors import check_site, needs, person
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.jobs.imports import Outcome
from mindful_crate.jobs.queue import let_read
from mindful_crate.store.rows import ImportRow

api = APIBlueprint("imports", __name__, url_prefix="/api", abp_tags=[Tag(name="catalogue")], doc_ui=WITH_DOCUMENT)
SMALL = 1_000_000
"""Files of no more bytes are read while the person waits."""


class Upload(Body):
    """Files to bring in. ``whole``: their tables then hold those rows and no others, of a site's own rows those of
    ``site``."""

    files: list[FileStorage]
    site: str = ""
    whole: bool = False


class ImportView(Answer):
    """Files somebody brings in. What would change and what is wrong is there when they have been read."""

    id: str
    names: list[str]
    made_at: datetime
    state: Literal["waiting", "reading", "read", "failed", "cancelled", "taken"]
    says: str
    """Why it failed."""
    rows: int
    share: float
    """How much has been read, from 0 to 1."""
    changes: list[ChangeView]
    bad: list[BadCellView]
    bad_cells: int
    bad_rows: int


class OpenImports(Answer):
    """Imports that wait to be read, or to be taken or left."""

    imports: list[ImportView]


class Take(Body):
    """Take what was read. ``good``: the good rows, even if others are bad."""

    good: bool = False


@api.post("/ground/imports", responses={200: ImportView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def bring_files(form: Upload) -> ImportView:
    """Bring files in: looked through at once, or by a worker when there is much of them. Nothing changes before they
    are taken."""
    parts = wired(current_app)
    if form.site:
        check_site(form.site)
    size = sum(f.stream.seek(0, io.SEEK_END) for f in form.files)
    for each in form.files:
        each.stream.seek(0)
    files: list[tuple[str, IO[bytes]]] = [(f.filename or "", f.stream) for f in form.files]
    id_ = parts.imports.begin(
        by=person().id, sees=person().row.sites, site=form.site, whole=form.whole, files=files
    )  # fmt: skip
    if size <= SMALL:
        parts.imports.read(id_)
    else:
        let_read(parts.database, id_)
    return _import(id_)


def _import(id_: str) -> ImportView:
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = parts.imports.row(conn, id_, person().id)
    return _import_view(row, parts.imports.outcome(row))


def _import_view(row: ImportRow, found: Outcome) -> ImportView:
    return ImportView(
        id=row.id, names=row.names, made_at=row.made_at, state=row.state, says=row.says, rows=row.rows, share=row.share,  # type: ignore[arg-type]
        changes=change_views(found.changes), bad=cell_views(found.bad), bad_cells=found.bad_cells, bad_rows=found.bad_rows,
    )  # fmt: skip


@api.get("/ground/imports", responses={200: OpenImports, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def open_imports() -> OpenImports:
    """Files the person brought and neither took nor left, the latest first; what came of them is told one by one."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        found = parts.imports.open(conn, person().id)
    return OpenImports(imports=[_import_view(row, Outcome()) for row in found])


@api.get("/ground/imports/<id>", responses={200: ImportView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def import_state(path: ById) -> ImportView:
    """How far an import is, and what came of it."""
    return _import(path.id)


@api.post("/ground/imports/<id>/take", responses={200: Amended, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def take_import(path: ById, body: Take) -> Amended:
    """Take what was read."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row, stayed = parts.imports.take(conn, path.id, person().id, good=body.good)
        no = parts.grounds.no(conn)
    return amended(no, parts.imports.outcome(row), applied=True, stayed=stayed)


@api.post("/ground/imports/<id>/cancel", responses={200: ImportView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def cancel_import(path: ById) -> ImportView:
    """Leave files that were brought; what is being read is read no further."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        parts.imports.cancel(conn, path.id, person().id)
    return _import(path.id)


@api.get("/ground/imports/<id>/reasons", responses={200: {"content": {"text/csv": {}}}, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def import_reasons(path: ById) -> Response:
    """Everything wrong with files, as a file."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        content = parts.imports.reasons(conn, path.id, person().id)
    return download("wrong.csv", "text/csv; charset=utf-8", content)
