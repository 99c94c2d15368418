"""Labels as one PDF, against what the libraries for barcodes and pages alone take to draw the same; and how memory grows."""

from __future__ import annotations

import resource
import subprocess
import sys
import time
from collections.abc import Iterator
from datetime import UTC, datetime
from io import BytesIO
from statistics import median

from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from zint import Symbol, Symbology

from mindful_crate.core.catalog.ids import PersonId, PrinterCode
from mindful_crate.core.floor.keeper import Journal
from mindful_crate.core.floor.prints import Condition, Label, Print, Prints
from mindful_crate.files import labels as drawing
from tests.bench.big import few
from tests.bench.measures import Line, settle_down
from tests.conftest import ROOT

SHEET = drawing.SHEETS["roll-100x150"]
LINES = ("Pallet", "12 coils Braided rope 12 mm", "40 boxes Bow shackle 10 mm", "PO-1007, Halloway Quay")
ROUNDS = 5


def made(many: int, begin: int = 0) -> list[Label]:
    """So many labels of plates, each with a number of its own."""
    return [Label("plate", f"LP-{begin + n:06d}", f"LP-{begin + n:06d}", LINES) for n in range(many)]


def alone(labels: list[Label]) -> bytes:
    """The same texts and bars by zint and reportlab, without a layout: where all of it stands is known beforehand."""
    place = drawing.laid_out(labels[0], SHEET.width, SHEET.height)
    texts = [d for d in place if isinstance(d, drawing.Text)]
    module, low, tall = 0.5, 110.0, 30.0
    held = BytesIO()
    canvas = Canvas(held, pagesize=(SHEET.width * mm, SHEET.height * mm), pageCompression=1, invariant=1)
    for label in labels:
        for text in texts:
            canvas.setFont(drawing.BOLD if text.bold else drawing.PLAIN, text.size)
            says = label.code if text.text == labels[0].code else text.text
            canvas.drawString(text.x * mm, (SHEET.height - text.y) * mm, says)
        symbol = Symbol()
        symbol.symbology, symbol.show_text, symbol.height = Symbology.CODE128, False, 50
        symbol.encode(label.code)
        symbol.buffer_vector()
        path = canvas.beginPath()
        for r in symbol.vector.rectangles:
            path.rect(
                (10 + r.x / 2 * module) * mm, (SHEET.height - low - tall) * mm, r.width / 2 * module * mm, tall * mm
            )
        canvas.drawPath(path, stroke=0, fill=1)
        canvas.showPage()
    canvas.save()
    return held.getvalue()


def papers() -> Iterator[Line]:
    """In turns, other numbers each time, so that nothing is known from before."""
    many = few(1_000)
    drawing.pdf(made(2, 900_000), SHEET)
    settle_down()
    ours = theirs = 0.0
    for n in range(ROUNDS):
        labels = made(many, n * 2 * many)
        began = time.process_time()
        drawing.pdf(labels, SHEET)
        ours += time.process_time() - began
        others = made(many, (n * 2 + 1) * many)
        began = time.process_time()
        alone(others)
        theirs += time.process_time() - began
    note = f"{ours / ROUNDS:.2f} and {theirs / ROUNDS:.2f} s"
    yield Line(f"{many:,} labels of plates as one PDF, over the libraries alone", f"{ROUNDS} rounds in turns", ours / theirs, 1.3, False, note)  # fmt: skip
    free, full = _sending(0), _sending(few(10_000))
    yield Line("a label sent with 10,000 waiting for another printer, over none", "median of 500", full / free, 1.5, False, f"{full * 1e6:.0f} and {free * 1e6:.0f} us")  # fmt: skip
    low, high = (_memory(n) for n in (few(1_000), few(10_000)))
    yield Line("memory at the most, 10,000 labels over 1,000", "a process each", high / low, 1.2, False, f"{low:.0f} and {high:.0f} MB")  # fmt: skip


def _sending(waiting: int) -> float:
    """Seconds a label takes that is sent while so many wait for another printer."""
    prints, now, label = Prints(Journal()), datetime(2026, 3, 2, tzinfo=UTC), made(1)
    prints.set(PrinterCode("OFF"), Condition.OFF, now)

    def send(n: int, to: str) -> None:
        prints.send(Print(str(n), tuple(label), 1, PersonId("p"), now, n, 0, PrinterCode(to)), now)

    for n in range(waiting):
        send(n, "OFF")
    took = []
    for n in range(waiting, waiting + 500):
        began = time.perf_counter()
        send(n, "ON")
        took.append(time.perf_counter() - began)
    return median(took)


def _memory(many: int) -> float:
    """MB a process has at the most that makes so many labels as one PDF."""
    program = f"from tests.bench.papers import once; once({many})"
    done = subprocess.run([sys.executable, "-c", program], cwd=ROOT, capture_output=True, text=True, check=True)
    return float(done.stdout)


def once(many: int) -> None:
    """Make so many, and print the memory that took at the most, in MB."""
    drawing.pdf((label for n in range(many) for label in made(1, n)), SHEET)
    print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
