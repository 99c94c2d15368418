"""Papers as PDF, by reportlab: pages of all kinds, from pick lists to bills of lading, are drawn alike."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from io import BytesIO
from typing import Any

from reportlab.graphics.barcode.code128 import Code128
from reportlab.lib.colors import black, grey
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import PageBreak, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from mindful_crate.core.catalog.goods import LEAST_PAGE
from mindful_crate.core.floor.pages import PaperPage, PaperTable
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


_PLAIN_ROWS = TableStyle([("FONTNAME", (0, 1), (-1, -1), PLAIN), ("FONTSIZE", (0, 1), (-1, -1), 9)])
STRONG = ParagraphStyle("strong", fontName=BOLD, fontSize=9, leading=12)


def pdf(pages: Sequence[PaperPage], title: str, sheet: tuple[float, float] = (210, 297)) -> bytes:
    """Pages on sheets of this width and height in mm; what is no page of an office is taken for A4. At the foot of every sheet stands what the first of them
    says there."""
    wide, high = sheet if sheet[0] >= LEAST_PAGE[0] and sheet[1] >= LEAST_PAGE[1] else (210, 297)
    fonts()
    foots = pages[0].foot if pages else ""

    def foot(canvas: Any, document: Any) -> None:
        canvas.saveState()
        canvas.setFont(PLAIN, 8)
        canvas.drawString(15 * mm, 10 * mm, foots)
        canvas.drawRightString((wide - 15) * mm, 10 * mm, f"page {document.page}")
        canvas.restoreState()

    page = BytesIO()
    document = SimpleDocTemplate(
        page, pagesize=(wide * mm, high * mm), leftMargin=15 * mm, rightMargin=15 * mm, topMargin=15 * mm, bottomMargin=18 * mm, title=title, author="Mindful Crate"
    )  # fmt: skip
    story: list[Any] = []
    for n, each in enumerate(pages):
        story += [PageBreak()] if n else []
        story += _page(each, (wide - 30) * mm)
    document.build(story, onFirstPage=foot, onLaterPages=foot)
    return page.getvalue()


def _text(text: str, style: Any = TEXT) -> Paragraph:
    return Paragraph(safe(text), style)


def _page(page: PaperPage, wide: float) -> list[Any]:
    story: list[Any] = [Table([[_text(f"{page.title} {page.code}", HEAD), bars(page.code)]])]
    story += [_text(x, LARGE if n == 0 else TEXT) for n, x in enumerate(page.to)]
    story += [Spacer(0, 2 * mm), *(_text(x) for x in page.says)]
    if page.above:
        story += [Spacer(0, 3 * mm), _text(page.above)]
    for table in page.tables:
        story += [Spacer(0, 4 * mm), *([_text(table.title, LARGE)] if table.title else []), _table(table, wide)]
    for says in page.beneath:
        story += [Spacer(0, 5 * mm), _text(says)]
    if page.signed:
        story += [Spacer(0, 14 * mm), _text("      ".join(f"{who} ______________________" for who in page.signed))]
    return story


def _table(table: PaperTable, wide: float) -> Table:
    rows: list[list[Any]] = [[_text(h, STRONG) if h else "" for h in table.heads]]
    for row in (part for whole in table.rows for part in _split(whole)):
        rows.append(
            [
                [
                    _text(line, LARGE if n == 0 and column in table.large else TEXT)
                    for n, line in enumerate(cell.split("\n"))
                ]
                for column, cell in enumerate(row)
            ]
        )
    share = wide / sum(table.wide)
    made = Table(rows, colWidths=[w * share for w in table.wide], repeatRows=1, style=GRID)
    made.setStyle(_PLAIN_ROWS)
    return made


MOST_LINES = 20
"""So many lines has a cell, each of which may need two or three of a narrow column: a row is never larger than a page."""


def _split(row: tuple[str, ...]) -> Iterator[tuple[str, ...]]:
    """A row as several, where a cell of it has more lines than go onto a page."""
    cells = [cell.split("\n") for cell in row]
    for at in range(0, max(map(len, cells), default=1), MOST_LINES):
        yield tuple("\n".join(lines[at : at + MOST_LINES]) for lines in cells)


def safe(text: str) -> str:
    """A text in which nothing is taken for markup, and nothing is unprintable."""
    text = "".join(c if c.isprintable() else " " for c in text)
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
