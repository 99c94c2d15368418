"""Labels as a printer would print them: rendered at 200 dots an inch, turned, and read back."""

from __future__ import annotations

from io import BytesIO
from typing import Any

import numpy as np
import pypdfium2
import pytest
import zxingcpp
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree
from PIL import Image

from mindful_crate.core.floor.prints import Elements, Label
from mindful_crate.core.problem import Refusal
from mindful_crate.core.scanning.reading import gs1_check_digit
from mindful_crate.files import labels as drawing
from mindful_crate.files.labels import SHEETS, Sheet, Text, laid_out, pdf, svg

DPI = 200


def gtin(digits: str) -> str:
    return digits + str(gs1_check_digit(digits))


SSCC = gtin("39520001000000001")
CONTENT: Elements = (("02", gtin("0290000000093")), ("17", "270331"), ("37", "12"), ("10", "L2604A"))
PLATE = Label("plate", SSCC, SSCC, ("Euro pallet", "250 pieces Bow shackle 8 mm, lot L2604A"), (("00", SSCC),), CONTENT)
ITEM: Elements = (("01", gtin("0290000000093")), ("17", "270331"), ("10", "L1"), ("21", "PLOT-09-1487"))
LABELS = [
    (PLATE, {drawing.told((("00", SSCC),)), drawing.told(CONTENT)}),
    (Label("plate", "LPR-000417", "LPR-000417", ("Pallet",)), {"LPR-000417"}),
    (Label("item", "PLOT-09", "Chart plotter 9 inch", ("PLOT-09", "1 case"), ITEM), {drawing.told(ITEM)}),
    (Label("item", "ROPE-12", "Braided rope", ("ROPE-12",)), {"ROPE-12"}),
    (Label("bin", "B-01-01-1", "B-01-01-1", ("Bulk, aisle 01", "level 1")), {"B-01-01-1"}),
    (Label("badge", "BDG-23456789ABCD", "Nell Arkwright-Featherstonehaugh"), {"BDG-23456789ABCD"}),
]


def read(page: Any, turn: int) -> set[str]:
    """What a reader finds on a page that is turned."""
    picture = page.render(scale=DPI / 72).to_pil().convert("L").rotate(turn, expand=True, fillcolor=255)
    return {found.text for found in zxingcpp.read_barcodes(np.array(picture))}


@pytest.mark.parametrize(
    "sheet", [SHEETS["roll-100x150"], SHEETS["roll-100x50"], SHEETS["roll-70x40"], drawing.CARD], ids=lambda s: s.name
)
@pytest.mark.parametrize("turn", [0, 90, 180])
def test_what_is_printed_is_read_back(sheet: Sheet, turn: int) -> None:
    """Each code of each label, upright, on its side and on its head."""
    document = pypdfium2.PdfDocument(pdf((label for label, _ in LABELS), sheet))
    assert len(document) == len(LABELS)
    for page, (label, says) in zip(document, LABELS, strict=True):
        assert says <= read(page, turn), (label.code, sheet.name)


@pytest.mark.parametrize("sheet", [SHEETS["roll-100x150"], SHEETS["roll-100x50"]], ids=lambda s: s.name)
def test_a_picture_for_a_label_printer_is_read_back(sheet: Sheet) -> None:
    """In its dots, black and white, in the size of the label."""
    for label, says in LABELS:
        picture = Image.open(BytesIO(drawing.png(label, sheet)))
        assert (picture.mode, picture.size) == ("1", (sheet.width * 8, sheet.height * 8))
        found = zxingcpp.read_barcodes(np.array(picture.convert("L")))
        assert says <= {f.text for f in found}, (label.code, sheet.name)


def test_a_code_with_room_for_bars_is_bars() -> None:
    """A scanner that reads bars alone reads a badge and a bin; square is only what would be too fine or one too many."""
    for label, sheet, is_square in (
        (LABELS[-1][0], drawing.CARD, False), (LABELS[-2][0], SHEETS["roll-70x40"], False),
        (Label("badge", "BDG-23456789ABCD", "Nell"), SHEETS["roll-70x40"], False), (LABELS[-1][0], Sheet("small", "", 40, 30), True),
    ):  # fmt: skip
        (bars,) = (x for x in laid_out(label, sheet.width, sheet.height) if isinstance(x, drawing.Bars))
        wide = max(x + w for x, _, w, _ in bars.boxes) - min(x for x, *_ in bars.boxes)
        high = max(y + h for _, y, _, h in bars.boxes) - min(y for _, y, *_ in bars.boxes)
        assert (abs(wide - high) < 0.01) is is_square, (label.code, sheet.name, wide, high)


def test_a_sheet_is_filled_and_goes_on() -> None:
    """Three by eight on a page, and the twenty-fifth begins the next."""
    document = pypdfium2.PdfDocument(pdf((Label("bin", f"B-{n:03}", f"B-{n:03}") for n in range(25)), SHEETS["a4-24"]))
    assert len(document) == 2
    first, second = (read(page, 0) for page in document)
    assert first == {f"B-{n:03}" for n in range(24)} and second == {"B-024"}
    page = document[0]
    assert (round(page.get_width()), round(page.get_height())) == (595, 842)


@settings(max_examples=40)
@given(
    st.text(min_size=1, max_size=90),
    st.lists(st.text(max_size=120), max_size=8),
    st.sampled_from([(20.0, 20.0), (70.0, 40.0), (100.0, 150.0), (300.0, 20.0), (20.0, 300.0)]),
)
def test_no_text_leaves_its_label(title: str, lines: list[str], size: tuple[float, float]) -> None:
    """Whatever letters, however long, on whatever label a printer may have: all text is on it, and the PDF opens."""
    label = Label("bin", "B-01", title, tuple(lines))
    for drawn in laid_out(label, *size):
        if isinstance(drawn, Text):
            assert drawn.x >= 0 and drawn.x + drawn.wide <= size[0] + 0.6, drawn
            assert 0 <= drawn.y <= size[1]
    sheet = Sheet("any", "any", *size)
    assert len(pypdfium2.PdfDocument(pdf([label], sheet))) == 1
    etree.fromstring(svg(label, *size))


def test_what_cannot_be_a_barcode_is_said() -> None:
    """A code in letters that no symbol holds."""
    with pytest.raises(Refusal, match="cannot be drawn"):
        drawing.code("", (("01", "not a number"),), square=True)
