"""What happens: labels and printers."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import DeviceId, LabelRuleId, PersonId, PrinterCode
from mindful_crate.core.floor.prints import Condition, Label
from mindful_crate.core.record import record


@record
class LabelsSent:
    """Labels were sent to a printer; to none for the reason ``why``. ``turn`` is the how-manyeth of the entry."""

    turn: int
    labels: tuple[Label, ...]
    copies: int
    by: PersonId
    printer: PrinterCode | None = None
    by_rule: LabelRuleId | None = None
    why: str = ""
    kind: Literal["labels_sent"] = "labels_sent"

    def number(self, seq: int) -> str:
        """What they are called in the tray, sent by this entry."""
        return f"{seq}-{self.turn}"


@record
class PrintMoved:
    """What waited is for another printer."""

    number: str
    printer: PrinterCode
    kind: Literal["print_moved"] = "print_moved"


@record
class PrintDropped:
    """What waited is not printed."""

    number: str
    kind: Literal["print_dropped"] = "print_dropped"


@record
class PrinterSet:
    """How a printer stand-in is now."""

    printer: PrinterCode
    condition: Condition
    kind: Literal["printer_set"] = "printer_set"


@record
class PrinterChosen:
    """A handset prints there now."""

    device: DeviceId
    printer: PrinterCode
    kind: Literal["printer_chosen"] = "printer_chosen"


PrintingEvent = LabelsSent | PrintMoved | PrintDropped | PrinterSet | PrinterChosen
"""What may happen."""
