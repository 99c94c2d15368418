"""Pick lists as PDF, by reportlab: the list itself, then a packing list for each order on a page of its own."""

from __future__ import annotations

from io import BytesIO
from typing import Any

from reportlab.graphics.barcode.code128 import Code128
from reportlab.lib.colors import black, grey
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import PageBreak, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from mindful_crate.core.proving.pick_list import PackingList, PickList, StopRow
from mindful_crate.files.labels import BOLD, PLAIN, fonts

_TEXT = ParagraphStyle("text", fontName=PLAIN, fontSize=9, leading=12)
_HEAD = ParagraphStyle("head", fontName=BOLD, fontSize=16, leading=20)
_LARGE = ParagraphStyle("large", fontName=BOLD, fontSize=12, leading=15)
_GRID = TableStyle(
    [
        ("FONTNAME", (0, 0), (-1, 0), BOLD),
        ("FONTSIZE", (0, 0), (-1, 0), 9),
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LINEBELOW", (0, 0), (-1, 0), 1, black),
        ("LINEBELOW", (0, 1), (-1, -1), 0.4, grey),
    ]
)


def pdf(found: PickList, site: str) -> bytes:
    """A list of A4 pages. Every page says which task it is of and when it was printed."""
    fonts()
    made = f"{found.made:%Y-%m-%d %H:%M} UTC"

    def foot(canvas: Any, document: Any) -> None:
        canvas.saveState()
        canvas.setFont(PLAIN, 8)
        canvas.drawString(15 * mm, 10 * mm, f"{found.task} as it stood {made}. What the handset says later counts.")
        canvas.drawRightString(195 * mm, 10 * mm, f"page {document.page}")
        canvas.restoreState()

    page = BytesIO()
    document = SimpleDocTemplate(
        page, pagesize=A4, leftMargin=15 * mm, rightMargin=15 * mm, topMargin=15 * mm, bottomMargin=18 * mm,
        title=f"Pick list {found.task}", author="Mindful Crate",
    )  # fmt: skip
    story: list[Any] = [*_begin(found, site), _stops(found.stops), Spacer(0, 5 * mm)]
    story.append(Paragraph(f"Set it down in {_safe(found.to or 'the place the worker chooses')}.", _LARGE))
    for each in found.packing:
        story += [PageBreak(), *_packing(each, found)]
    document.build(story, onFirstPage=foot, onLaterPages=foot)
    return page.getvalue()


def _begin(found: PickList, site: str) -> list[Any]:
    orders = ", ".join(p.order for p in found.packing)
    about = f"{site}. {found.crew}. " + (f"Wave {found.wave}. " if found.wave else "") + f"For {orders}."
    how = "Into no tote: it is sorted afterwards." if found.together else "Each order into a tote of its own."
    head = Table(
        [
            [
                Paragraph(f"Pick list {_safe(found.task)}", _HEAD),
                Code128(found.task, barHeight=14 * mm, barWidth=0.4 * mm),
            ]
        ]
    )
    return [head, Paragraph(_safe(about), _TEXT), Paragraph(how, _TEXT), Spacer(0, 4 * mm)]


def _stops(stops: tuple[StopRow, ...]) -> Table:
    rows: list[list[Any]] = [["", "Bin", "Item", "How many", "For", "Done"]]
    for stop in stops:
        more = [f"on {stop.plate}"] if stop.plate else []
        what = [stop.name, *([f"lot {stop.lot}"] if stop.lot else []), *(f"number {n}" for n in stop.serials)]
        rows.append(
            [
                str(stop.no),
                [Paragraph(_safe(stop.bin), _LARGE), *(Paragraph(_safe(x), _TEXT) for x in more)],
                [Paragraph(_safe(stop.item), _LARGE), *(Paragraph(_safe(x), _TEXT) for x in what)],
                Paragraph(_safe(stop.much), _LARGE),
                Paragraph(_safe(", ".join(stop.orders)), _TEXT),
                "☐",
            ]
        )
    widths = [8 * mm, 38 * mm, 58 * mm, 32 * mm, 32 * mm, 12 * mm]
    table = Table(rows, colWidths=widths, repeatRows=1, style=_GRID)
    table.setStyle(TableStyle([("FONTNAME", (0, 1), (-1, -1), PLAIN)]))
    return table


def _packing(each: PackingList, found: PickList) -> list[Any]:
    rows: list[list[Any]] = [["Line", "Item", "", "How many"]]
    rows += [[str(x.line), x.item, Paragraph(_safe(x.name), _TEXT), x.much] for x in each.lines]
    table = Table(rows, colWidths=[15 * mm, 35 * mm, 90 * mm, 40 * mm], repeatRows=1, style=_GRID)
    table.setStyle(TableStyle([("FONTNAME", (0, 1), (-1, -1), PLAIN), ("FONTSIZE", (0, 1), (-1, -1), 9)]))
    head = Table(
        [
            [
                Paragraph(f"Packing list {_safe(each.order)}", _HEAD),
                Code128(each.order, barHeight=14 * mm, barWidth=0.4 * mm),
            ]
        ]
    )
    tote = [Paragraph(f"Tote {_safe(each.tote)}", _LARGE)] if each.tote else []
    to = [Paragraph(_safe(x), _TEXT) for x in (each.partner, *each.ship_to)]
    return [
        head,
        *to,
        *tote,
        Paragraph(f"What pick list {_safe(found.task)} brings of it:", _TEXT),
        Spacer(0, 3 * mm),
        table,
    ]


def _safe(text: str) -> str:
    """A text in which nothing is taken for markup."""
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
