"""What comes out of a printer, as PDF: labels in its size, or a paper."""

from __future__ import annotations

from mindful_crate.core.floor.prints import Print
from mindful_crate.core.work.printing.labels import called
from mindful_crate.files import labels, paper_pages


def pdf(made: Print, sheet: labels.Sheet) -> bytes:
    """All of a print, as often as it is wanted, on what its printer prints on."""
    if made.is_paper:
        some = [p for x in made.labels for _ in range(made.copies) for p in x.pages]
        return paper_pages.pdf(some, called(made.labels, 1).replace("`", "").capitalize(), sheet.paper)
    copies = labels.each((x, made.copies) for x in made.labels)
    return labels.pdf(copies, sheet, f"Labels {made.number}")
