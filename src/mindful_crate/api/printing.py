"""Labels: what came out of the printers of a floor and what waits, sheets from the catalogue, and what rules would print."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime
from itertools import islice
from typing import Literal

from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.benches import asked_state
from mindful_crate.api.catalogue import shown_pdf
from mindful_crate.api.doors import check_site, needs, person
from mindful_crate.api.drafts import seen_draft
from mindful_crate.api.openings import local_date
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.api.worlds import now_in, world_row
from mindful_crate.core.catalog.ids import OrderNo, PersonId, PrinterCode, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.pages import PaperPage
from mindful_crate.core.floor.prints import Condition, Label, Print
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.printed import PrintedBy, printed_of
from mindful_crate.core.work.printing.labels import bin_label, called, item_label
from mindful_crate.files import labels as drawing
from mindful_crate.files import printouts
from mindful_crate.store import db
from mindful_crate.store.rows import DeliveryRow, DeviceRow

api = APIBlueprint("printing", __name__, url_prefix="/api", abp_tags=[Tag(name="labels")], doc_ui=WITH_DOCUMENT)


class PrinterView(Answer):
    """A printer of a floor, how it is, how many prints wait for it, and the handsets that chose it. ``real``: where its prints go in
    earnest; empty: it is a stand-in. ``failed``: why a real one takes nothing."""

    code: str
    name: str
    zones: list[str]
    width_mm: int
    height_mm: int
    takes_pages: bool
    condition: Condition
    waiting: int
    handsets: list[str]
    real: str
    failed: str


class PrintView(Answer):
    """Labels sent together: of what, how many, to which printer, by whom; whether they came out, and why not. ``handed``:
    they were given to a real printer, are yet to be, or never will be, for the reason ``not_given``; empty: it is a stand-in's."""

    number: str
    what: str
    code: str
    count: int
    paper: bool
    """Pages, and no labels."""
    printer: str
    rule: str
    by: str
    sent: datetime
    printed: datetime | None
    """When they came out, or will."""
    out: bool
    why: str
    handed: Literal["", "given", "not_yet", "never"]
    not_given: str


class TrayView(Answer):
    """The printers of a floor, and what was sent to them, the latest first, at most so many; ``sent``: how many there are in all."""

    clock: datetime
    seq: int
    printers: list[PrinterView]
    prints: list[PrintView]
    sent: int


SHOWN = 300
"""So many prints are listed; what waits may be many more."""


class PrintPath(Body):
    """One print of a floor."""

    id: str = Field(max_length=80)
    number: str = Field(max_length=40)


class SvgPath(Body):
    """One label of a print, counted from 0."""

    id: str = Field(max_length=80)
    number: str = Field(max_length=40)
    n: int = Field(ge=0, le=drawing.MOST_LABELS)


class PagesView(Answer):
    """The pages of a paper."""

    pages: list[PaperPage]


class SheetQuery(Body):
    """Labels of things in the catalogue: of a zone's bins, of items of a group, of carts, printers."""

    of: Literal["bin", "item", "cart", "printer"]
    sheet: str = Field(default="a4-24", max_length=20)
    within: str = Field(default="", max_length=80)
    """The zone of bins, the group of items; empty: all."""
    copies: int = Field(default=1, ge=1, le=20)


class LabelsBody(Body):
    """An order of which all that is open is supposed to be received onto one plate."""

    order: str = Field(max_length=40)
    plate_kind: str = Field(default="", max_length=20)
    world: str | None = Field(default=None, max_length=80)


class PreviewLabel(Answer):
    """A label as it would come out."""

    svg: str
    width_mm: int
    height_mm: int


class PreviewPrint(Answer):
    """What a rule would print: its id and number, when, where, how many; some of the labels."""

    rule: str
    number: int
    when: str
    printer: str
    why: str
    count: int
    labels: list[PreviewLabel]
    papers: list[str]
    """The papers it prints: they are looked at by themselves."""


class LabelsView(Answer):
    """What rules would print, and those that would print nothing, with why."""

    says: str
    prints: list[PreviewPrint]
    nothing: list[str]


def _media(ground: Ground, printer: str | None) -> drawing.Sheet:
    """The size of a printer's labels; of what has none, that of a common roll."""
    found = ground.printers.get(PrinterCode(printer or ""))
    if found is None:
        return drawing.SHEETS["roll-100x150"]
    return drawing.Sheet(found.code, found.name, found.width_mm, found.height_mm)


def _what(made: Print) -> str:
    first = made.labels[0]
    if made.is_paper:
        return called(made.labels, 1)
    if len(made.labels) > 1:
        return f"{len(made.labels)} labels from `{first.code}` on"
    return f"{'plate to come' if first.of == 'number' else first.of} `{first.code}`"


STAND_IN = DeviceRow("", "", "", datetime(1970, 1, 1, tzinfo=UTC), "")
"""What there is to say of a device that is none in earnest."""


def real_ones(conn: db.Conn, world: str, kind: str) -> dict[str, DeviceRow]:
    """The real printers or scales of a floor, by their codes."""
    return {d.code: d for d in db.rows(conn, DeviceRow, "devices", world=world) if d.kind == kind}


@api.get("/worlds/<id>/prints", responses={200: TrayView, **PROBLEMS})
@needs(Right.LOOK)
def tray(path: ById) -> TrayView:
    """What came out of the printers of a floor, and what waits."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            state, site = w.state, w.settings.site
            clock = now_in(w)
            chosen = list(state.printers_chosen.items())
            real = real_ones(conn, path.id, "printer")
            latest = list(islice(state.prints.latest(), SHOWN))
            numbers = [p.number for p in latest] if real else []
            given = {d.print: d for d in db.rows(conn, DeliveryRow, "deliveries", world=path.id, prints=numbers)}
            printers = [
                PrinterView(
                    code=p.code, name=p.name, zones=[w.ground.zones[z].name for z in p.zones], width_mm=p.width_mm, height_mm=p.height_mm, takes_pages=p.takes_pages,
                    condition=state.prints.condition(p.code), waiting=state.prints.waiting(p.code),
                    handsets=[d for d, c in chosen if c == p.code],
                    real=real.get(p.code, STAND_IN).says, failed=real.get(p.code, STAND_IN).failed,
                )
                for p in w.ground.printers_of(site)
            ]  # fmt: skip
            prints = [
                PrintView(
                    number=p.number, what=_what(p), code=p.labels[0].code, count=p.count, paper=p.is_paper, printer=p.printer or "", rule=p.rule or "", by=p.by,
                    sent=p.sent, printed=p.due, out=p.printed(clock), why=p.why,
                    handed=_handed(p, real, given, clock), not_given=given[p.number].failed if p.number in given else "",
                )
                for p in latest
            ]  # fmt: skip
            return TrayView(clock=clock, seq=state.seq, printers=printers, prints=prints, sent=len(state.prints))


def _handed(
    of: Print, real: dict[str, DeviceRow], given: dict[str, DeliveryRow], clock: datetime
) -> Literal["", "given", "not_yet", "never"]:
    """Whether a real printer has it, in a word."""
    if of.number in given:
        return "never" if given[of.number].failed else "given"
    device = real.get(of.printer or "")
    return "not_yet" if device and of.due and device.since <= of.due <= clock else ""


def _of_world(world: str, number: str) -> tuple[Print, drawing.Sheet]:
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, world)
        with parts.worlds.reading(conn, world) as w:
            found = w.state.prints.get(number)
            if found is None:
                raise Refusal("unknown_print", "That is no longer in the tray. Print the label of the thing itself.")
            return found, _media(w.ground, found.printer)


@api.get("/worlds/<id>/prints/<number>/labels.pdf", responses={200: {"content": {"application/pdf": {}}}, **PROBLEMS})
@needs(Right.LOOK)
def print_pdf(path: PrintPath) -> Response:
    """What a print holds, as PDF in the size of its printer."""
    found, sheet = _of_world(path.id, path.number)
    return shown_pdf(printouts.pdf(found, sheet), f"print-{path.number}")


@api.get("/worlds/<id>/prints/<number>/pages", responses={200: PagesView, **PROBLEMS})
@needs(Right.LOOK)
def print_pages(path: PrintPath) -> PagesView:
    """What stands on a paper that was printed."""
    found, _ = _of_world(path.id, path.number)
    return PagesView(pages=[p for x in found.labels for p in x.pages])


@api.get("/worlds/<id>/prints/<number>/<n>/label.svg", responses={200: {"content": {"image/svg+xml": {}}}, **PROBLEMS})
@needs(Right.LOOK)
def print_svg(path: SvgPath) -> Response:
    """One label of a print as a picture."""
    found, sheet = _of_world(path.id, path.number)
    if path.n >= len(found.labels):
        raise Refusal("unknown_label", f"Print {path.number} has {len(found.labels)} labels.")
    return Response(drawing.svg(found.labels[path.n], sheet.width, sheet.height), mimetype="image/svg+xml")


class SheetView(Answer):
    """What labels may be printed on."""

    name: str
    says: str


class SheetList(Answer):
    """All there is to print on from the office."""

    sheets: list[SheetView]


@api.get("/labels/sheets", responses={200: SheetList, **PROBLEMS})
@needs(Right.LOOK)
def kinds_of_sheets() -> SheetList:
    """What labels may be printed on from the office."""
    return SheetList(sheets=[SheetView(name=s.name, says=s.says) for s in drawing.SHEETS.values()])


@api.get("/drafts/<id>/labels.pdf", responses={200: {"content": {"application/pdf": {}}}, **PROBLEMS})
@needs(Right.LOOK)
def sheets(path: ById, query: SheetQuery) -> Response:
    """Labels of things in the catalogue behind a draft, as PDF."""
    sheet = drawing.SHEETS.get(query.sheet)
    if sheet is None:
        raise Refusal(
            "unknown_sheet", f"There is no sheet `{query.sheet}`; there are {', '.join(drawing.SHEETS)}.", "sheet"
        )
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = parts.drafts.get(conn, path.id).row
        check_site(row.site)
        ground = parts.worlds.ground(conn, row.opening)
    found = list(_of_catalogue(ground, SiteCode(row.site), query))
    if not found:
        raise Refusal("nothing_to_print", "There is nothing of that here to print labels of.", "within")
    if len(found) * query.copies > drawing.MOST_LABELS:
        raise Refusal(
            "too_many",
            f"That would be {len(found) * query.copies:,} labels; print at most {drawing.MOST_LABELS:,} at a time, zone by zone.",
            "within",
        )
    return shown_pdf(
        drawing.pdf(drawing.each((x, query.copies) for x in found), sheet, f"Labels: {query.of}"), f"labels-{query.of}"
    )


def _of_catalogue(ground: Ground, site: SiteCode, query: SheetQuery) -> Iterator[Label]:
    if query.of == "bin":
        for zone in ground.zones_of_site.get(site, ()):
            if query.within in ("", zone):
                yield from (bin_label(ground, b.code) for b in ground.bins_by_zone[zone])
    elif query.of == "item":
        for item in ground.items.values():
            if query.within in ("", item.group):
                yield from (item_label(ground, item, unit) for unit in item.units)
    elif query.of == "cart":
        for cart in ground.opening.carts:
            if cart.site == site:
                yield Label("cart", cart.code, cart.code, (cart.name, f"{cart.totes} totes"))
                yield from (
                    Label("cart", f"{cart.code}-{n}", f"{cart.code}-{n}", (cart.name, f"place {n}"))
                    for n in range(1, cart.totes + 1)
                )
    else:
        for printer in ground.printers_of(site):
            yield Label("printer", printer.code, printer.code, (printer.name, "scan it to print here"))


@api.post("/drafts/<id>/bench/labels", responses={200: LabelsView, **PROBLEMS})
@needs(Right.LOOK)
def bench_labels(path: ById, body: LabelsBody) -> LabelsView:
    """What the label rules of a draft would print if all that is open of an order were received now. Nothing is stored."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, body.world, alone=True) as state:
            today = local_date(state.ground, state.settings.site, state.clock)
            shown = printed_of(
                state,
                found.rulebook,
                OrderNo(body.order.strip().upper()),
                body.plate_kind,
                PersonId(person().id),
                today,
            )
            prints = [preview(state.ground, p) for p in shown.prints]
            return LabelsView(says=shown.says, prints=prints, nothing=list(shown.nothing))


def preview(ground: Ground, printed: PrintedBy) -> PreviewPrint:
    """What a rule prints, with its first labels drawn in the size of its printer."""
    media = _media(ground, printed.printer)
    return PreviewPrint(
        rule=printed.rule, number=printed.number, when=printed.when, printer=printed.printer, why=printed.why, count=printed.count,
        labels=[
            PreviewLabel(svg=drawing.svg(x, media.width, media.height).decode(), width_mm=int(media.width), height_mm=int(media.height))
            for x in printed.labels[:3] if x.of != "page"
        ],
        papers=[x.title for x in printed.labels if x.of == "page"],
    )  # fmt: skip
