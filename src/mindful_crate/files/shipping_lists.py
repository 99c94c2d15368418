"""Papers of a shipment as PDF, by reportlab: whatever pages the core gives are drawn alike."""

from __future__ import annotations

from datetime import datetime
from io import BytesIO
from typing import Any

from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import PageBreak, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from mindful_crate.core.proving.shipping_papers import PaperPage, PaperTable
from mindful_crate.files.labels import BOLD, PLAIN, fonts
from mindful_crate.files.pick_lists import GRID, HEAD, LARGE, TEXT, bars, safe

_PLAIN_ROWS = TableStyle([("FONTNAME", (0, 1), (-1, -1), PLAIN), ("FONTSIZE", (0, 1), (-1, -1), 9)])
STRONG = ParagraphStyle("strong", fontName=BOLD, fontSize=9, leading=12)
_WIDE = 180 * mm
"""An A4 page between its margins."""


def pdf(pages: tuple[PaperPage, ...], title: str, made: datetime, *, left: bool) -> bytes:
    """A4 pages. Every page says of which shipment it is, and when it was made."""
    fonts()
    stands = "as it left" if left else f"as it stood {made:%Y-%m-%d %H:%M} UTC"

    def foot(canvas: Any, document: Any) -> None:
        canvas.saveState()
        canvas.setFont(PLAIN, 8)
        canvas.drawString(15 * mm, 10 * mm, f"{title}, {stands}.")
        canvas.drawRightString(195 * mm, 10 * mm, f"page {document.page}")
        canvas.restoreState()

    page = BytesIO()
    document = SimpleDocTemplate(
        page, pagesize=A4, leftMargin=15 * mm, rightMargin=15 * mm, topMargin=15 * mm, bottomMargin=18 * mm, title=title, author="Mindful Crate"
    )  # fmt: skip
    story: list[Any] = []
    for n, each in enumerate(pages):
        story += [PageBreak()] if n else []
        story += _page(each)
    document.build(story, onFirstPage=foot, onLaterPages=foot)
    return page.getvalue()


def _text(text: str, style: Any = TEXT) -> Paragraph:
    return Paragraph(safe(text), style)


def _page(page: PaperPage) -> list[Any]:
    story: list[Any] = [Table([[_text(f"{page.title} {page.code}", HEAD), bars(page.code)]])]
    story += [_text(x, LARGE if n == 0 else TEXT) for n, x in enumerate(page.to)]
    story += [Spacer(0, 2 * mm), *(_text(x) for x in page.says)]
    if page.above:
        story += [Spacer(0, 3 * mm), _text(page.above)]
    for table in page.tables:
        story += [Spacer(0, 4 * mm), *([_text(table.title, LARGE)] if table.title else []), _table(table)]
    for says in page.beneath:
        story += [Spacer(0, 5 * mm), _text(says)]
    if page.signed:
        story += [Spacer(0, 14 * mm), _text("      ".join(f"{who} ______________________" for who in page.signed))]
    return story


def _table(table: PaperTable) -> Table:
    rows: list[list[Any]] = [[_text(h, STRONG) if h else "" for h in table.heads]]
    for row in table.rows:
        rows.append(
            [
                [
                    _text(line, LARGE if table.large and n == 0 and "\n" in cell else TEXT)
                    for n, line in enumerate(cell.split("\n"))
                ]
                for cell in row
            ]
        )
    share = _WIDE / sum(table.wide)
    made = Table(rows, colWidths=[w * share for w in table.wide], repeatRows=1, style=GRID)
    made.setStyle(_PLAIN_ROWS)
    return made
