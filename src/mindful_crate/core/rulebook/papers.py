"""Papers: which labels and papers are printed by themselves, when, for what, and on which printer; and what stands on those of a shipment."""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import CarrierCode, LabelRuleId, PaperFormId, PlateKindCode, PrinterCode, SiteCode
from mindful_crate.core.record import record


class Prints(StrEnum):
    """What a rule prints."""

    PLATE = "plate"
    """The label of a plate."""
    ITEM = "item"
    """One label for each kind of goods."""
    UNIT = "unit"
    """A label for each unit of the goods, or for each piece that has a number."""
    CONTENT = "content"
    """A label for each kind of goods on it: how many, lot, expiry."""
    LIST = "list"
    """A packing slip for each order: what of it is in there."""
    PACKING = "packing_list"
    """Papers of a shipment, on whole pages."""
    LOADING = "loading_list"
    BILL = "bill_of_lading"
    PALLETS = "pallet_sheets"
    PICKS = "pick_list"
    """The list of a pick task."""


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
    LET_GO = "let_go"
    """A pick task may be fetched."""
    PACKED = "packed"
    """The last of a shipment is packed; and so on."""
    STAGED = "staged"
    LOADED = "loaded"
    LEFT = "left"
    """A shipment leaves."""
    ASKED = "asked"
    """Whoever has it in hand asks for it, by a button."""


OF_A_SHIPMENT = (When.PACKED, When.STAGED, When.LOADED, When.LEFT)
"""When something is so of a whole shipment."""
FITS: dict[Prints, tuple[When, ...]] = {
    Prints.PLATE: (When.BEGUN, When.FINISHED, When.TAKEN, When.PLACED, When.CLOSED, When.ASKED),
    Prints.ITEM: (When.FINISHED, When.ASKED),
    Prints.UNIT: (When.FINISHED, When.ASKED),
    Prints.CONTENT: (When.FINISHED, When.CLOSED, When.ASKED),
    Prints.LIST: (When.CLOSED, When.LEFT),
    Prints.PACKING: OF_A_SHIPMENT,
    Prints.LOADING: OF_A_SHIPMENT,
    Prints.BILL: OF_A_SHIPMENT,
    Prints.PALLETS: OF_A_SHIPMENT,
    Prints.PICKS: (When.LET_GO,),
}
"""At which time there is something to print. Of a plate that is only begun it is not known yet what comes onto it."""
MOST_COPIES = 20


@record
class LabelRule:
    """Labels or papers that are printed when something happens, to plates, goods, shipments and tasks for which it holds. ``printer`` None: that of the
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


class Paper(StrEnum):
    """Papers of a shipment."""

    PACKING_LIST = "packing-list"
    LOADING_LIST = "loading-list"
    BILL = "bill-of-lading"
    PALLETS = "pallet-sheets"


PAPER_OF = {
    Prints.PACKING: Paper.PACKING_LIST, Prints.LOADING: Paper.LOADING_LIST, Prints.BILL: Paper.BILL, Prints.PALLETS: Paper.PALLETS,
}  # fmt: skip
"""Which paper of a shipment that is."""
ON_PAGES = (*PAPER_OF, Prints.PICKS)
"""What takes whole pages, and a printer that has them."""


class Column(StrEnum):
    """What stands in a column of a paper."""

    LINE = "line"
    ITEM = "item"
    NAME = "name"
    LOT = "lot"
    EXPIRY = "expiry"
    SERIALS = "serials"
    MUCH = "much"
    PIECES = "pieces"
    WEIGHT = "weight"
    CARTON = "carton"
    KIND = "kind"
    STANDS = "stands"
    TRACKING = "tracking"
    LOADED = "loaded"


class Along(StrEnum):
    """In which order goods stand on a packing list."""

    CARTON = "carton"
    """A table for each carton."""
    LINE = "line"
    """One table in the order of the order's lines; what is in several cartons is added up."""
    ITEM = "item"
    """The same by item code."""


_GOODS = (
    Column.LINE, Column.ITEM, Column.NAME, Column.LOT, Column.EXPIRY, Column.SERIALS, Column.MUCH, Column.PIECES, Column.WEIGHT,
)  # fmt: skip
MAY_SHOW: dict[Paper, tuple[Column, ...]] = {
    Paper.PACKING_LIST: (*_GOODS, Column.CARTON),
    Paper.PALLETS: _GOODS,
    Paper.LOADING_LIST: (
        Column.CARTON, Column.KIND, Column.WEIGHT, Column.STANDS, Column.TRACKING, Column.LOADED,
    ),
    Paper.BILL: (),
}  # fmt: skip
"""The columns a paper may have; a bill of lading has the trade's own."""
_USUAL = (Column.LINE, Column.ITEM, Column.NAME, Column.LOT, Column.SERIALS, Column.MUCH)
USUALLY: dict[Paper, tuple[Column, ...]] = {
    Paper.PACKING_LIST: _USUAL,
    Paper.PALLETS: _USUAL,
    Paper.LOADING_LIST: (Column.CARTON, Column.KIND, Column.WEIGHT, Column.STANDS, Column.LOADED),
    Paper.BILL: (),
}
"""The columns of a paper for which nobody said otherwise."""
MOST_COLUMNS = 8
"""More columns than that cannot be read across a page."""


@record
class PaperForm:
    """What stands on a paper of a shipment: its columns in order (none: the usual ones), along what a packing list goes, and what is
    written above and beneath. ``partner_groups``: for these alone."""

    id: PaperFormId
    paper: Paper = Paper.PACKING_LIST
    partner_groups: tuple[str, ...] = ()
    columns: tuple[Column, ...] = ()
    along: Along = Along.CARTON
    above: str | None = None
    beneath: str | None = None
    site: SiteCode | None = None
    on: bool = True

    @property
    def shows(self) -> tuple[Column, ...]:
        """The columns it has: those that were chosen and may be there, else the usual ones."""
        return tuple(c for c in self.columns if c in MAY_SHOW[self.paper]) or USUALLY[self.paper]
