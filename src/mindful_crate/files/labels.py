"""Labels as PDF and SVG: one layout, drawn twice. Barcodes are made by zint, pages by reportlab."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from html import escape
from io import BytesIO
from pathlib import Path

import reportlab
from PIL import Image, ImageDraw, ImageFont
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import registerFont, stringWidth
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from zint import InputMode, Symbology
from zint import Symbol as Zint

from mindful_crate.core.floor.prints import Elements, Label
from mindful_crate.core.problem import Refusal

PLAIN, BOLD = "LabelPlain", "LabelBold"
_WHERE = Path("/usr/share/fonts/truetype/dejavu")
_BUNDLED = Path(reportlab.__file__).parent / "fonts"
LEAST_MODULE_MM = 0.25
"""The narrowest bar that printers of 203 dots an inch draw cleanly is two dots."""
QUIET = 10
"""Modules of white on either side of a linear code (ISO/IEC 15417)."""
SQUARE = 100
"""How zint is told that a Data Matrix is to be as wide as it is high."""
PT = 0.352778
"""Millimetres of a typographic point."""
DOTS = 8
"""Of a label printer of 203 dots an inch, in a millimetre."""
MOST_LABELS = 10_000


@dataclass(frozen=True, slots=True)
class Sheet:
    """What is printed on, in mm: one label on each page of a roll, or ``columns`` by ``rows`` on a page."""

    name: str
    says: str
    width: float
    height: float
    columns: int = 1
    rows: int = 1
    page: tuple[float, float] = (0, 0)
    """The page; nothing: as large as a label."""

    @property
    def paper(self) -> tuple[float, float]:
        """Width and height of a page."""
        return self.page if self.page[0] else (self.width, self.height)

    def corners(self) -> list[tuple[float, float]]:
        """Where on the page each label begins, from the top left."""
        wide, high = self.paper
        left, top = (wide - self.columns * self.width) / 2, (high - self.rows * self.height) / 2
        return [(left + c * self.width, top + r * self.height) for r in range(self.rows) for c in range(self.columns)]


A4 = (210.0, 297.0)
SHEETS: dict[str, Sheet] = {
    s.name: s
    for s in (
        Sheet("roll-100x150", "roll, 100 × 150 mm", 100, 150),
        Sheet("roll-100x50", "roll, 100 × 50 mm", 100, 50),
        Sheet("roll-70x40", "roll, 70 × 40 mm", 70, 40),
        Sheet("a4-8", "A4, 8 labels of 105 × 74 mm", 105, 74, 2, 4, A4),
        Sheet("a4-24", "A4, 24 labels of 70 × 37 mm", 70, 37, 3, 8, A4),
    )
}
"""What labels may be printed on from the office."""
CARD = Sheet("card", "card, 86 x 54 mm", 86, 54)
"""A badge: ISO/IEC 7810, ID-1, in whole mm."""


@dataclass(frozen=True, slots=True)
class Text:
    """A line of text: where its base line begins, from the top left in mm; its size in points."""

    x: float
    y: float
    size: float
    bold: bool
    text: str

    @property
    def wide(self) -> float:
        """How wide it is, in mm."""
        return width_mm(self.text, self.size, self.bold)


@dataclass(frozen=True, slots=True)
class Bars:
    """Black rectangles (x, y, width, height) from the top left in mm."""

    boxes: tuple[tuple[float, float, float, float], ...]


Drawn = Text | Bars


def _font(*, bold: bool) -> str:
    """DejaVu of the system has most alphabets; where it is not installed, what comes with reportlab has western letters."""
    path = _WHERE / ("DejaVuSans-Bold.ttf" if bold else "DejaVuSans.ttf")
    return str(path if path.exists() else _BUNDLED / ("VeraBd.ttf" if bold else "Vera.ttf"))


@cache
def fonts() -> None:
    """Make the fonts known to what draws pages."""
    for name, bold in ((PLAIN, False), (BOLD, True)):
        registerFont(TTFont(name, _font(bold=bold)))


@lru_cache(maxsize=4096)
def width_mm(text: str, size: float, bold: bool = False) -> float:
    """How wide a text is, in mm."""
    fonts()
    return float(stringWidth(text, BOLD if bold else PLAIN, size)) * PT


def told(elements: Elements) -> str:
    """GS1 elements as people read them: identifiers in brackets."""
    return "".join(f"({ai}){value}" for ai, value in elements)


@dataclass(frozen=True, slots=True)
class Code:
    """A barcode in modules: its black rectangles, how wide and high it is."""

    boxes: tuple[tuple[float, float, float, float], ...]
    wide: float
    high: float


@lru_cache(maxsize=2048)
def code(text: str, elements: Elements, *, square: bool) -> Code:
    """A text or GS1 elements as Code 128 or, ``square``, as Data Matrix."""
    drawing = Zint()
    try:
        drawing.symbology = Symbology.DATAMATRIX if square else Symbology.GS1_128 if elements else Symbology.CODE128
        if elements:
            drawing.input_mode = InputMode.GS1
        elif square:
            drawing.input_mode = InputMode.UNICODE
        drawing.show_text = False
        if square:
            drawing.option_3 = SQUARE  # an oblong one would be drawn small in the room of a square one
        else:
            drawing.height = 50
        drawing.encode("".join(f"[{ai}]{value}" for ai, value in elements) if elements else text)
        drawing.buffer_vector()
    except Exception as error:
        raise Refusal("undrawable", f"`{told(elements) or text}` cannot be drawn as a barcode: {error}") from None
    vector = drawing.vector
    scale = 2.0  # zint draws a module two units wide
    boxes = tuple((r.x / scale, r.y / scale, r.width / scale, r.height / scale) for r in vector.rectangles)
    wide = max((x + w for x, _, w, _ in boxes), default=1.0)
    high = max((y + h for _, y, _, h in boxes), default=1.0)
    return Code(boxes, wide, high)


def laid_out(label: Label, width: float, height: float) -> list[Drawn]:
    """What is drawn of a label of this size, in mm."""
    pad = 2.5 if height < 60 else 4.0
    inner = width - 2 * pad
    size = fitting(label.title, inner, min(40.0, height * 0.16 / PT), 7.0 if height < 60 else 15.0)
    drawn: list[Drawn] = []
    top = pad
    for line in _wrapped(label.title, inner, size, 2 if height >= 60 else 1):
        top += size * PT
        drawn.append(Text(pad, top, size, True, line))
    top += 1.5
    floor = height - pad
    beside = width, height  # where a square code begins, from the left and from the top
    small = 6.5 if height < 60 else 8.0
    codes = [("", label.also)] if label.also else []
    codes.append(("" if label.elements else label.code, label.elements))
    square = label.of == "item" and bool(label.elements)
    if square:
        side = min(height * 0.45, width * 0.34)
        beside = width - pad - side - 1.5, floor - side
        drawn += _square("", label.elements, width - pad - side, floor - side, side)
        for line in reversed(_wrapped(told(label.elements), beside[0] - pad, small, 3)):
            drawn.append(Text(pad, floor, small, False, line))
            floor -= small * PT * 1.2
    else:
        high = min(32.0, max(8.0, height * (0.2 if len(codes) > 1 else 0.3)))
        for text, elements in reversed(codes):
            words = told(elements) or text
            drawn += _under(words, pad, floor, inner, small)
            floor -= small * PT + 1
            made = code(text, elements, square=False)
            module = inner / (made.wide + 2 * QUIET)
            second_of_low = height < 60 and bool(label.also) and elements == label.also
            if module < LEAST_MODULE_MM or second_of_low:
                drawn += _square(text, elements, pad, floor - high, high)
            else:
                module = min(module, 0.6)
                drawn.append(
                    _placed(made, pad + (inner - made.wide * module) / 2, floor - high, module, high / made.high)
                )
            floor -= high + 2
    lines = min(13.0, max(7.0, height / 14 / PT))
    for line in label.lines:
        low = top + lines * PT * 2.5 > beside[1]
        for part in _wrapped(line, (beside[0] if low else width - pad) - pad, lines, 2):
            if top + lines * PT * 1.25 > floor:
                return drawn
            top += lines * PT * 1.25
            drawn.append(Text(pad, top, lines, False, part))
    return drawn


def fitting(text: str, wide: float, most: float, least: float) -> float:
    """The largest size in points, of at most and at least so many, in which a text is no wider than so many mm."""
    at = width_mm(text, 10, True)
    return max(least, min(most, 10 * wide / at)) if at else most


def _wrapped(text: str, wide: float, size: float, most: int) -> list[str]:
    """A text in so many lines at most; what does not fit ends with an ellipsis."""
    lines: list[str] = []
    rest = "".join(c if c.isprintable() else " " for c in text).strip()
    while rest and len(lines) < most:
        if width_mm(rest, size, True) <= wide:
            return [*lines, rest]
        cut = len(rest)
        while cut > 1 and width_mm(rest[:cut] + ("…" if len(lines) == most - 1 else ""), size, True) > wide:
            cut -= 1
        space = rest.rfind(" ", 0, cut + 1)
        if len(lines) < most - 1 and space > cut // 2:
            lines.append(rest[:space])
            rest = rest[space + 1 :]
        else:
            lines.append(rest[:cut] + ("…" if len(lines) == most - 1 else ""))
            rest = rest[cut:]
    return lines


def _under(words: str, x: float, y: float, wide: float, size: float) -> list[Drawn]:
    at = min(size, max(4.5, size * wide / max(width_mm(words, size), 0.1)))
    line = _wrapped(words, wide * 1.02, at, 1)[0] if words else ""
    return [Text(x + max(0.0, (wide - width_mm(line, at)) / 2), y, at, False, line)] if line else []


def _square(text: str, elements: Elements, x: float, y: float, side: float) -> list[Drawn]:
    made = code(text, elements, square=True)
    module = side / (max(made.wide, made.high) + 2)  # a module of white all round
    return [_placed(made, x + module, y + module, module, module)]


def _placed(made: Code, x: float, y: float, wide: float, high: float) -> Bars:
    return Bars(tuple((x + bx * wide, y + by * high, bw * wide, bh * high) for bx, by, bw, bh in made.boxes))


def each(labels: Iterable[tuple[Label, int]]) -> Iterator[Label]:
    """Labels as many times as they are wanted."""
    for label, copies in labels:
        for _ in range(copies):
            yield label


def pdf(labels: Iterable[Label], sheet: Sheet, title: str = "Labels") -> bytes:
    """Labels as one PDF, a page a label or a sheet full of them."""
    fonts()
    wide, high = sheet.paper
    held = BytesIO()
    canvas = Canvas(held, pagesize=(wide * mm, high * mm), pageCompression=1, invariant=1)
    canvas.setTitle(title)
    canvas.setCreator("Mindful Crate")
    corners, at = sheet.corners(), 0
    known: tuple[Label, list[Drawn]] | None = None
    for label in labels:
        if at == len(corners):
            canvas.showPage()
            at = 0
        if known is None or known[0] is not label:
            known = label, laid_out(label, sheet.width, sheet.height)
        _onto(canvas, known[1], *corners[at], high)
        at += 1
    canvas.showPage()
    canvas.save()
    return held.getvalue()


def _onto(canvas: Canvas, drawn: Sequence[Drawn], left: float, top: float, high: float) -> None:
    """Draw a label with its corner at ``left`` and ``top``; a PDF counts from the bottom."""
    for each_ in drawn:
        if isinstance(each_, Text):
            canvas.setFont(BOLD if each_.bold else PLAIN, each_.size)
            canvas.drawString((left + each_.x) * mm, (high - top - each_.y) * mm, each_.text)
        else:
            path = canvas.beginPath()
            for x, y, w, h in each_.boxes:
                path.rect((left + x) * mm, (high - top - y - h) * mm, w * mm, h * mm)
            canvas.drawPath(path, stroke=0, fill=1)


def svg(label: Label, width: float, height: float) -> bytes:
    """One label as SVG, for screens."""
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {height:g}" font-family="DejaVu Sans, Verdana, sans-serif">',
        '<rect width="100%" height="100%" fill="#fff"/>',
    ]
    for d in laid_out(label, width, height):
        if isinstance(d, Text):
            weight = ' font-weight="700"' if d.bold else ""
            parts.append(
                f'<text x="{d.x:.2f}" y="{d.y:.2f}" font-size="{d.size * PT:.2f}"{weight} textLength="{max(d.wide, 0.1):.2f}"'
                f' lengthAdjust="spacingAndGlyphs">{escape(d.text)}</text>'
            )
        else:
            path = "".join(f"M{x:.3f} {y:.3f}h{w:.3f}v{h:.3f}h{-w:.3f}z" for x, y, w, h in d.boxes)
            parts.append(f'<path d="{path}"/>')
    return ("".join(parts) + "</svg>").encode()


def png(label: Label, sheet: Sheet) -> bytes:
    """One label in black and white, dot for dot as a label printer of 203 dots an inch prints it."""
    picture = Image.new("1", (round(sheet.width * DOTS), round(sheet.height * DOTS)), 1)
    draw = ImageDraw.Draw(picture)
    for d in laid_out(label, sheet.width, sheet.height):
        if isinstance(d, Text):
            font = ImageFont.truetype(_font(bold=d.bold), d.size * PT * DOTS)
            draw.text((d.x * DOTS, d.y * DOTS), d.text, fill=0, font=font, anchor="ls")
            continue
        for x, y, w, h in d.boxes:
            left, top, right, low = (round(v * DOTS) for v in (x, y, x + w, y + h))
            if right > left and low > top:
                draw.rectangle((left, top, right - 1, low - 1), fill=0)
    held = BytesIO()
    picture.save(held, "PNG", dpi=(DOTS * 25.4, DOTS * 25.4))
    return held.getvalue()
