"""Scanner flows: dialogues of the handset as data, and the menus that show them to crews.

A flow is a list of prompts. Prompts asked ``once`` come first; those asked for each ``line`` come again and
again until the worker finishes. The interpreter in ``scanning.dialogue`` knows kinds of prompt, not flows,
so a flow nobody has seen before runs without new code.
"""

from __future__ import annotations

from enum import StrEnum
from typing import Self

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import CrewId, FlowId, PlateKindCode, PromptId, SiteCode
from mindful_crate.core.record import Word, record
from mindful_crate.core.rulebook.bin_rules import BinPurpose


class Said(Word):
    """A value with its words."""

    says: str

    def __new__(cls, value: str, says: str) -> Self:
        made = str.__new__(cls, value)
        made._value_ = value
        made.says = says
        return made


class FlowPurpose(Said):
    """What a flow does with what it has asked; people use it to ..."""

    UNLOAD = "unload", "unload what comes, and count it at the door"
    RECEIVE = "receive", "receive goods onto a license plate"
    INSPECT = "inspect", "inspect what has arrived"
    PUT_AWAY = "put_away", "put plates away"
    PICK = "pick", "pick what orders need"
    SORT = "sort", "sort what was fetched for several orders at once"
    PACK = "pack", "pack what was picked into cartons"
    STAGE = "stage", "bring cartons and pallets to where they wait for their truck"
    LOAD = "load", "load a truck"
    SHIP = "ship", "send a shipment off"
    REPLENISH = "replenish", "bring what shelves lack from reserve"
    RETURN = "return", "take back what customers send back"
    COUNT = "count", "count what lies in bins"
    ADJUST = "adjust", "say how many there really are"
    RESTATUS = "restatus", "say what goods may no longer be used for, or may again"
    RELOCATE = "relocate", "say that goods lie elsewhere than the books say"
    MOVE_PLATES = "move_plates", "move plates"
    MOVE_GOODS = "move_goods", "move goods out of a bin or off a plate"
    UNDO_LAST = "undo_last", "undo the last step they finished"
    LOOK_UP = "look_up", "look up items, bins and plates"


class Asks(Said):
    """What a prompt asks for, and what a sentence calls it."""

    DELIVERY = "delivery", "What comes"
    DOOR = "door", "Where it is set down"
    LOADS = "loads", "What comes off"
    """Announced plates by their labels, or how many pallets and packages."""
    ORDER = "order", "The order"
    NOTE = "note", "The delivery note"
    LINE = "line", "The order line"
    PLATE = "plate", "The plate"
    INTO = "into", "Where it is received"
    ITEM = "item", "The item"
    EXPIRY = "expiry", "The expiry date"
    LOT = "lot", "The lot"
    UNIT = "unit", "The unit"
    """In which it is counted, where no code said it and there is more than one."""
    QUANTITY = "quantity", "The quantity"
    SERIAL = "serial", "The serial numbers"
    """Of what comes, a piece each."""
    INSPECTED = "inspected", "What is inspected"
    INSPECT_AT = "inspect_at", "Where it is inspected"
    KIND = "kind", "The item that is looked at"
    """Which of the goods on a plate, when there are several."""
    VERDICT = "verdict", "Whether it passes"
    FAILED = "failed", "How many fail"
    FAULT = "fault", "What becomes of what fails"
    REMARK = "remark", "A remark"
    PIECES = "pieces", "Which pieces"
    """Which of those that lie there, by their serial numbers, where it is not clear by itself."""
    TASK = "task", "The plate to put away"
    LOT_HELD = "lot_held", "The lot put away"
    """Which lot it is that is carried, so that no other one is put away for it."""
    BIN = "bin", "The bin"
    REFILL = "refill", "What is brought from reserve"
    PICKED = "picked", "What is picked"
    TOTE = "tote", "The tote of each order"
    PICK_AT = "pick_at", "Where it is picked"
    PICK_ITEM = "pick_item", "The item picked"
    PICK_LOT = "pick_lot", "The lot picked"
    PICK_COUNT = "pick_count", "How many are picked"
    PICK_INTO = "pick_into", "The tote it goes into"
    SET_AT = "set_at", "Where it is set down"
    SORT_AT = "sort_at", "Where it is sorted"
    SORT_ITEM = "sort_item", "The item sorted"
    SORT_COUNT = "sort_count", "How many are sorted"
    SORT_INTO = "sort_into", "The place of the order"
    PACKED = "packed", "What is packed"
    PACK_ITEM = "pack_item", "The item packed"
    PACK_COUNT = "pack_count", "How many go in"
    CARTON_KIND = "carton_kind", "Which carton it is"
    WEIGHT = "weight", "What it weighs"
    STAGED = "staged", "What is staged"
    LANE = "lane", "Where it is staged"
    TRUCK = "truck", "The truck, or its door"
    LOADED = "loaded", "What is loaded"
    SHIPPED = "shipped", "What leaves"
    CARRIER = "carrier", "Who drives"
    FROM = "from", "Where it is taken from"
    GOODS = "goods", "The item taken"
    LOT_THERE = "lot_there", "The lot taken"
    """Which lot is taken, when there are several."""
    COUNT = "count", "How many are taken"
    PART = "part", "How many of them go into a bin"
    """How many go into the next bin, when the worker says that it is only a part."""
    PLATES = "plates", "The plates"
    TO = "to", "Where it goes"
    LAST = "last", "What was finished last"
    LOOK = "look", "What is looked up"
    RETURNED_BY = "returned_by", "Who sends it back"
    RETURN_ITEM = "return_item", "The item that comes back"
    RETURN_LOT = "return_lot", "The lot that comes back"
    RETURN_SERIALS = "return_serials", "The pieces that come back"
    RETURN_COUNT = "return_count", "How many come back"
    DISPOSITION = "disposition", "What becomes of it"
    RETURN_REMARK = "return_remark", "What was seen of it"
    SHEET = "sheet", "What is counted"
    COUNT_AT = "count_at", "Where it is counted"
    COUNT_ITEM = "count_item", "The item counted"
    COUNT_LOT = "count_lot", "The lot counted"
    COUNT_SERIALS = "count_serials", "The pieces that are there"
    COUNTED = "counted", "How many are there"
    STOCK_AT = "stock_at", "Where it lies"
    STOCK_ITEM = "stock_item", "What it is about"
    STOCK_GONE = "stock_gone", "The pieces that are gone"
    STOCK_COUNT = "stock_count", "How many there really are"
    NEW_STATUS = "new_status", "What it is now"
    STOCK_TO = "stock_to", "Where it really lies"
    STOCK_REASON = "stock_reason", "Why"
    STOCK_PHOTO = "stock_photo", "A photo of it"
    REVIEW = "review", "A last look"
    """At what is about to be done, before it is done."""


class Each(StrEnum):
    """How often a prompt is asked."""

    ONCE = "once"
    LINE = "line"


class Proposes(StrEnum):
    """What a quantity prompt offers to begin with."""

    REST = "rest"
    ONE = "one"
    BLANK = "blank"


class Check(StrEnum):
    """Scan check: must it be scanned, or may it be typed or tapped?"""

    SCAN = "scan"
    BELIEVE = "believe"


class PlateBy(StrEnum):
    """Where the number of a new plate comes from."""

    MADE = "made"
    ASKED = "asked"
    NONE = "none"
    """There is no plate: goods are received loose."""


class OtherBin(StrEnum):
    """May the worker take another bin than the one shown, if the goods fit there?"""

    NEVER = "never"
    WARN = "warn"
    REASON = "reason"


class Listed(StrEnum):
    """How what waits to be put away is offered."""

    CAME = "came"
    BINS = "bins"
    """In the order of the bins it goes to, by the walk."""
    GIVEN = "given"
    """Not listed: one after another is given, the next on the walk."""


class Short(StrEnum):
    """What follows when what is to be picked is not there."""

    OTHER_BIN = "other_bin"
    """The rules are asked again; what they find elsewhere is fetched in the same task."""
    STAYS_OPEN = "stays_open"
    """It stays open on its order."""


@record
class Prompt:
    """One question. ``words`` replaces the ordinary words; ``skip_single`` passes over a sole choice. ``pieces``: of a quantity, so
    many pieces are scanned one by one before the rest is asked as a number; 0: none. ``fixed`` answers it without asking, as long
    as that is an answer. Asked once, the answer of a line holds for the next ones as well, as long as it suits them."""

    id: PromptId
    asks: Asks
    each: Each = Each.LINE
    check: Check = Check.BELIEVE
    proposes: Proposes = Proposes.REST
    skip_single: bool = False
    words: str = ""
    pieces: int = 0
    fixed: str = ""


@record
class Flow:
    """One dialogue on the handset."""

    id: FlowId
    name: str
    purpose: FlowPurpose
    prompts: tuple[Prompt, ...]
    plate_by: PlateBy = PlateBy.MADE
    plate_kind: PlateKindCode | None = None
    next_item_confirms: bool | None = None
    """None: as the settings say; the same for ``other_bin``."""
    other_bin: OtherBin | None = None
    from_rules: BinPurpose | None = None
    """The bin rules by which a move proposes where goods are taken from; None: the worker chooses."""
    to_rules: BinPurpose | None = None
    """The bin rules by which a move proposes where goods go; None: the worker chooses."""
    several: bool = False
    """May several plates be moved at once?"""
    listed: Listed = Listed.CAME
    """How a flow that puts away offers what waits."""
    site: SiteCode | None = None
    short: Short = Short.OTHER_BIN
    """Of a flow that picks: what follows when something is not there."""
    order_kinds: tuple[OrderKind, ...] = ()
    """Of a flow that receives: the kinds of orders it shows and takes; none: all that come in."""

    def is_for(self, kind: OrderKind) -> bool:
        """Does it take orders of this kind?"""
        return not self.order_kinds or kind in self.order_kinds

    @property
    def takes_by(self) -> BinPurpose | None:
        """The rules it takes by: those named, if they are rules that take."""
        return self.from_rules if self.from_rules and self.from_rules.takes else None

    @property
    def puts_by(self) -> BinPurpose | None:
        """The rules it puts by: those named, if they are rules that put."""
        return self.to_rules if self.to_rules and not self.to_rules.takes else None


@record
class Crew:
    """A group of people who may do some tasks and see some flows."""

    id: CrewId
    name: str
    site: SiteCode | None = None


@record
class Menu:
    """Flows a crew sees on the handset, in order; several menus of a crew are groups under their names."""

    id: str
    crew: CrewId
    flows: tuple[FlowId, ...] = ()
    site: SiteCode | None = None
    name: str = ""

    @property
    def under(self) -> str:
        """The heading, in words; empty: none."""
        return f", under {self.name}" if self.name else ""
