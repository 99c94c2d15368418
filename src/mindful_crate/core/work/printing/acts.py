"""What may be asked: labels and printers."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import PrinterCode
from mindful_crate.core.floor.prints import Condition
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.papers import Prints


@record
class PrintLabel:
    """Prints the label of a plate, a bin or an item, the labels of what is on a plate, or a paper of a shipment or a pick task. Without a ``printer``: that of the
    handset, else of the place."""

    code: str
    prints: Prints = Prints.PLATE
    copies: int | None = None
    printer: PrinterCode | None = None
    kind: Literal["print_label"] = "print_label"


@record
class PrintNumbers:
    """Labels for plates to come: their numbers are taken from the series, so nothing else gets them."""

    count: int
    printer: PrinterCode | None = None
    kind: Literal["print_numbers"] = "print_numbers"


@record
class PrintAgain:
    """Prints something once more, or lets another printer print what waits."""

    number: str
    printer: PrinterCode | None = None
    kind: Literal["print_again"] = "print_again"


@record
class DropPrint:
    """What waits for a printer is not printed."""

    number: str
    kind: Literal["drop_print"] = "drop_print"


@record
class SetPrinter:
    """How a printer stand-in is from now on."""

    printer: PrinterCode
    condition: Condition
    kind: Literal["set_printer"] = "set_printer"


@record
class ChoosePrinter:
    """A handset prints on this printer from now on."""

    printer: PrinterCode
    kind: Literal["choose_printer"] = "choose_printer"


PrintingInOffice = PrintLabel | PrintNumbers | PrintAgain | DropPrint | SetPrinter
"""What the office does."""
PrintingAct = PrintingInOffice | ChoosePrinter
"""What may be asked."""
