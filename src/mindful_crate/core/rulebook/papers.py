"""Papers: which labels are printed by themselves, when, for what, and on which printer."""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import CarrierCode, LabelRuleId, PlateKindCode, PrinterCode, SiteCode
from mindful_crate.core.record import record


class Prints(StrEnum):
    """What a rule prints."""

    PLATE = "plate"
    """The label of a plate."""
    ITEM = "item"
    """One label for each kind of goods."""
    UNIT = "unit"
    """A label for each unit of the goods, or for each piece that has a number."""
    LIST = "list"
    """A packing slip for each order: what of it is in there."""


class When(StrEnum):
    """What makes a rule print."""

    BEGUN = "begun"
    """A plate is begun under a number the program made; one that is scanned has its label."""
    FINISHED = "finished"
    """What was received is finished."""
    TAKEN = "taken"
    """A plate is taken to be brought somewhere."""
    PLACED = "placed"
    CLOSED = "closed"
    """A carton is closed, or a tote or plate leaves as it is."""
    LEFT = "left"
    """A shipment leaves."""
    ASKED = "asked"
    """Whoever has it in hand asks for it, by a button."""


FITS: dict[Prints, tuple[When, ...]] = {
    Prints.PLATE: tuple(w for w in When if w is not When.LEFT),
    Prints.ITEM: (When.FINISHED, When.ASKED),
    Prints.UNIT: (When.FINISHED, When.ASKED),
    Prints.LIST: (When.CLOSED, When.LEFT),
}
"""At which time there is something to print. Of a plate that is only begun it is not known yet what comes onto it."""
MOST_COPIES = 20


@record
class LabelRule:
    """Labels that are printed when something happens, to plates and goods for which it holds. ``printer`` None: that of the
    handset, else that of the place. Empty conditions hold for everything."""

    id: LabelRuleId
    prints: Prints = Prints.PLATE
    when: When = When.BEGUN
    plate_kinds: tuple[PlateKindCode, ...] = ()
    groups: tuple[str, ...] = ()
    order_kinds: tuple[OrderKind, ...] = ()
    partner_groups: tuple[str, ...] = ()
    carriers: tuple[CarrierCode, ...] = ()
    copies: int = 1
    printer: PrinterCode | None = None
    site: SiteCode | None = None
    on: bool = True
