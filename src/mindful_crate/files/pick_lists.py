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

TEXT = ParagraphStyle("text", fontName=PLAIN, fontSize=9, leading=12)
"""Styles of papers: running text, the title of a page, what is read from afar, and tables."""
HEAD = ParagraphStyle("head", fontName=BOLD, fontSize=16, leading=20)
LARGE = ParagraphStyle("large", fontName=BOLD, fontSize=12, leading=15)
GRID = TableStyle(
    [
        ("FONTNAME", (0, 0), (-1, 0), BOLD),
        ("FONTSIZE", (0, 0), (-1, 0), 9),
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LINEBELOW", (0, 0), (-1, 0), 1, black),
        ("LINEBELOW", (0, 1), (-1, -1), 0.4, grey),
    ]
)


def bars(text: str) -> Any:
    """A code as Code 128; where it has letters that Code 128 has not, nothing."""
    return Code128(text, barHeight=14 * mm, barWidth=0.4 * mm) if text.isascii() and text else ""


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
    story.append(Paragraph(f"Set it down in {safe(found.to or 'the place the worker chooses')}.", LARGE))
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
                Paragraph(f"Pick list {safe(found.task)}", HEAD),
                bars(found.task),
            ]
        ]
    )
    return [head, Paragraph(safe(about), TEXT), Paragraph(how, TEXT), Spacer(0, 4 * mm)]


def _stops(stops: tuple[StopRow, ...]) -> Table:
    rows: list[list[Any]] = [["", "Bin", "Item", "How many", "For", "Done"]]
    for stop in stops:
        more = [f"on {stop.plate}"] if stop.plate else []
        what = [stop.name, *([f"lot {stop.lot}"] if stop.lot else []), *(f"number {n}" for n in stop.serials)]
        rows.append(
            [
                str(stop.no),
                [Paragraph(safe(stop.bin), LARGE), *(Paragraph(safe(x), TEXT) for x in more)],
                [Paragraph(safe(stop.item), LARGE), *(Paragraph(safe(x), TEXT) for x in what)],
                Paragraph(safe(stop.much), LARGE),
                Paragraph(safe(", ".join(stop.orders)), TEXT),
                "☐",
            ]
        )
    widths = [8 * mm, 38 * mm, 58 * mm, 32 * mm, 32 * mm, 12 * mm]
    table = Table(rows, colWidths=widths, repeatRows=1, style=GRID)
    table.setStyle(TableStyle([("FONTNAME", (0, 1), (-1, -1), PLAIN)]))
    return table


def _packing(each: PackingList, found: PickList) -> list[Any]:
    rows: list[list[Any]] = [["Line", "Item", "", "How many"]]
    rows += [[str(x.line), x.item, Paragraph(safe(x.name), TEXT), x.much] for x in each.lines]
    table = Table(rows, colWidths=[15 * mm, 35 * mm, 90 * mm, 40 * mm], repeatRows=1, style=GRID)
    table.setStyle(TableStyle([("FONTNAME", (0, 1), (-1, -1), PLAIN), ("FONTSIZE", (0, 1), (-1, -1), 9)]))
    head = Table(
        [
            [
                Paragraph(f"Packing list {safe(each.order)}", HEAD),
                bars(each.order),
            ]
        ]
    )
    tote = [Paragraph(f"Tote {safe(each.tote)}", LARGE)] if each.tote else []
    to = [Paragraph(safe(x), TEXT) for x in (each.partner, *each.ship_to)]
    return [
        head,
        *to,
        *tote,
        Paragraph(f"What pick list {safe(found.task)} brings of it:", TEXT),
        Spacer(0, 3 * mm),
        table,
    ]


def safe(text: str) -> str:
    """A text in which nothing is taken for markup, and nothing is unprintable."""
    text = "".join(c if c.isprintable() else " " for c in text)
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
