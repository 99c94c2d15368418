"""What a live word may be changed to: values, their words, and a note that helps to choose."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from enum import Enum
from typing import Any, Literal

from mindful_crate.core.catalog.goods import INBOUND, Status
from mindful_crate.core.catalog.ids import SiteCode, ZoneCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import STORAGE, Zone, ZonePurpose
from mindful_crate.core.plain import to_plain
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import BOTH_ORDERS, PUTTING_WANTS, TAKING_WANTS, BinPurpose, IfNothing, Wants
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Listed
from mindful_crate.core.rulebook.gates import GateVerdict
from mindful_crate.core.rulebook.papers import MAY_SHOW, Paper
from mindful_crate.core.rulebook.returns import Otherwise
from mindful_crate.core.rulebook.shipping import Station
from mindful_crate.core.rulebook.words.bin_rules import (
    DAYS,
    DISPOSITIONS,
    IF_NOTHING,
    PREFER,
    PURPOSE_TITLES,
    SPLIT,
    TAKING_ANY,
    UNIT_FORMS,
    UP_TO,
    WANTS,
)
from mindful_crate.core.rulebook.words.counting import (
    AFTER_SHORT,
    AGAIN,
    AT_ZERO,
    BOOK,
    CLOSES,
    COUNT_ONLY,
    OWN,
    PHOTO_ASKED,
    REASON_FOR,
    SPLITS,
)
from mindful_crate.core.rulebook.words.docks import THROUGH
from mindful_crate.core.rulebook.words.filling import FILLS
from mindful_crate.core.rulebook.words.gates import (
    ALSO_WARNED,
    BY_QUANTITY,
    LATE,
    MEASURES,
    ONLY_WHOLE,
    OTHERS,
    VERDICTS,
)
from mindful_crate.core.rulebook.words.orders import CLASS_ONLY, NOTICE, OF
from mindful_crate.core.rulebook.words.packing import ONLY as PACK_ONLY
from mindful_crate.core.rulebook.words.packing import PACKED, PROOF, SUGGESTS, WEIGH
from mindful_crate.core.rulebook.words.packing import SHORT as PACK_SHORT
from mindful_crate.core.rulebook.words.papers import (
    ALONG,
    COLUMNS,
    FORM_ONLY,
    LABEL_ONLY,
    OF_THE_PLACE,
    PRINTS,
    TEXT_LETTERS,
    WHEN,
)
from mindful_crate.core.rulebook.words.parts import ORDER_KINDS, ORDERS, STATUSES, TRACKINGS
from mindful_crate.core.rulebook.words.recipes import (
    CAPS,
    CAUSES,
    GROUPING,
    PICK_GROUPING,
    PICK_STARTS,
    REFILL_GROUPING,
    SEQUENCE,
    STARTS,
)
from mindful_crate.core.rulebook.words.returns import ACCEPTS, CREDITS, OTHERWISE, RETURN_ONLY
from mindful_crate.core.rulebook.words.scanner import (
    CHECK,
    COUNT_LISTED,
    EACH,
    FROM_RULES,
    LISTED,
    NEXT_CONFIRMS,
    OTHER_BIN,
    PICK_LISTED,
    PLATE_BY,
    PROPOSES,
    SHORT,
    SKIP,
    TO_RULES,
)
from mindful_crate.core.rulebook.words.settings import TABLES, TITLES
from mindful_crate.core.rulebook.words.shipping import APART, AT, OUTBOUND, PICKED_AT_ALL, REST
from mindful_crate.core.rulebook.words.steps import (
    ANNOUNCED,
    ANY_CREW,
    BEGINS,
    BOOKING,
    DOCUMENT,
    INSPECTED,
    NOTE,
    ONLY_TITLES,
    OVER,
    PUT_AWAY,
    SENDS,
    UNDO,
    UNLOADED,
)
from mindful_crate.core.rulebook.words.waves import GOES, METHODS, MOST, REFILLS, WANTED


@record
class Choice:
    """One thing a live word may say. ``value`` goes into the rulebook."""

    value: Any
    label: str
    note: str = ""


@record
class Choices:
    """All that a live word may say; ``many`` lets several be ticked, ``ordered`` keeps the order of ticking.
    ``entry`` says that a number, a range or a text is entered instead, in ``unit``."""

    title: str
    many: bool
    choices: tuple[Choice, ...] = ()
    ordered: bool = False
    entry: Literal["", "number", "range", "text"] = ""
    unit: str = ""
    needed: bool = False
    """Something must be said: it cannot be taken away."""
    letters: int = 80
    """So long a text may be."""
    leads: bool = False
    """What is chosen leads to choices of its own, of the field it names."""


def _of(table: dict[Any, str]) -> tuple[Choice, ...]:
    return tuple(Choice(to_plain(k) if isinstance(k, Enum) else k, text) for k, text in table.items())


AS_SET = "as the settings say"
_FIXED: dict[str, tuple[str, bool, dict[Any, str]]] = {
    "order_kinds": ("From", True, ORDER_KINDS),
    "kinds_in": ("It shows and takes", True, {k: ORDERS[k].lower() for k in INBOUND}),
    "unit_forms": ("In the form of", True, UNIT_FORMS),
    "trackings": ("Items that are", True, TRACKINGS),
    "statuses": ("Goods that are", True, STATUSES),
    "dispositions": ("Marked", True, DISPOSITIONS),
    "weekdays": ("On", True, DAYS),
    "wants": ("Wants", False, {w: WANTS[w] for w in PUTTING_WANTS}),
    "take_wants": (
        "Wants",
        False,
        {w: TAKING_ANY if w is Wants.ANY else WANTS[w] for w in TAKING_WANTS},
    ),
    "prefer": ("Prefers", True, {p: PREFER[p] for p in BOTH_ORDERS}),
    "take_prefer": ("Prefers", True, PREFER),
    "up_to": ("As much as", False, UP_TO),
    "split": ("Over several bins", False, SPLIT),
    "take_split": ("From several bins", False, {False: "all from one bin", True: "from several bins if need be"}),
    "home_bins": ("Only its home bins", False, {True: "the item's home bins", False: "any bin of these places"}),
    "own_plate": (
        "Only its own plate",
        False,
        {True: "the bin of the plate being built", False: "any bin of these places"},
    ),
    "if_nothing": ("If nothing fits", False, IF_NOTHING),
    "take_if_nothing": (
        "If nothing is found",
        False,
        {k: v for k, v in IF_NOTHING.items() if k is not IfNothing.OVERFLOW},
    ),
    "from_rules": ("Where goods are taken from", False, FROM_RULES),
    "to_rules": ("Where it goes", False, TO_RULES),
    "several": ("How many at once", False, {True: "several plates", False: "one plate at a time"}),
    "listed": ("What waits", False, LISTED),
    "pick_listed": ("What waits", False, PICK_LISTED),
    "count_listed": ("What is to be counted", False, {k: v for k, v in COUNT_LISTED.items() if k is not Listed.BINS}),
    "short": ("What is not there", False, SHORT),
    "announce_on": ("Before they are received", False, ANNOUNCED),
    "unload_on": ("At the door", False, UNLOADED),
    "inspect_on": ("After receiving", False, INSPECTED),
    "over": ("More than ordered", False, OVER),
    "delivery_note": ("A delivery note", False, NOTE),
    "sends": ("Who finishes the receipt", False, SENDS),
    "put_away_on": ("In the end", False, PUT_AWAY),
    "begins": ("It begins", False, BEGINS),
    "grouping": ("Becomes", False, GROUPING),
    "sequence": ("Placed", False, SEQUENCE),
    "starts": ("It", False, STARTS),
    "label_when": ("When", False, WHEN),
    "measure": ("Measured is", False, MEASURES),
    "by_quantity": ("Without a value", False, BY_QUANTITY),
    "gate_others": ("And for", False, OTHERS),
    "fills": ("Filled are shelves", False, FILLS),
    "gate_late": ("Whoever comes later", False, LATE),
    "run_warned": ("Released are", False, ALSO_WARNED),
    "run_whole": ("And of them", False, ONLY_WHOLE),
    "verdict": ("Below that", False, {v: VERDICTS[v] for v in (GateVerdict.STOP, GateVerdict.WARN)}),
    "label_prints": ("Print", False, PRINTS),
    "count_split": ("On one sheet stand bins", False, SPLITS),
    "count_after_short": ("Besides", False, AFTER_SHORT),
    "count_at_zero": ("Besides", False, AT_ZERO),
    "count_book_shown": ("Who counts", False, BOOK),
    "count_closes": ("The bins", False, CLOSES),
    "count_again": ("A great difference", False, AGAIN),
    "count_own_posts": ("Into the books by", False, OWN),
    "reason_used": ("Given", False, REASON_FOR),
    "reason_photo": ("And", False, PHOTO_ASKED),
    "accepts": ("It is", False, ACCEPTS),
    "outside": ("What is not", False, {k: v for k, v in OTHERWISE.items() if k is not Otherwise.ACCEPT}),
    "never_shipped": ("What was never shipped", False, OTHERWISE),
    "return_status": ("Goods are then", False, {k: v for k, v in STATUSES.items() if k is not Status.INSPECT}),
    "return_goes": ("They are", False, DISPOSITIONS),
    "return_credits": ("And", False, CREDITS),
    "along": ("Goods stand", False, ALONG),
    "apart": ("Lines of an order", False, APART),
    "picks": ("At the bin", False, PICKED_AT_ALL),
    "sort_on": ("After picking", False, AT[Station.SORT]),
    "pack_on": ("After that", False, AT[Station.PACK]),
    "stage_on": ("After that", False, AT[Station.STAGE]),
    "load_on": ("After that", False, AT[Station.LOAD]),
    "order_kind_out": ("For", False, {None: "All orders that go out", **OUTBOUND}),
    "pick_grouping": ("Becomes", False, PICK_GROUPING),
    "rest": ("What an order lacks then", False, REST),
    "packs": ("At the bench", False, PACKED),
    "proof": ("Of what goes in", False, PROOF),
    "suggests": ("Which carton", False, SUGGESTS),
    "weigh": ("Its weight", False, WEIGH),
    "pack_short": ("What is left", False, PACK_SHORT),
    "pack_kinds": ("For", True, OUTBOUND),
    "class_kinds": ("For", True, ORDERS),
    "class_notice": ("Only those", False, NOTICE),
    "dock_through": ("It goes", False, THROUGH),
    "dock_goes": ("For", True, OUTBOUND),
    "cause": ("Of", False, CAUSES),
    "refill_grouping": ("Becomes", False, REFILL_GROUPING),
    "pick_starts": ("It", False, PICK_STARTS),
    "method": ("They are picked", False, METHODS),
    "refills": ("What is missing there", False, REFILLS),
    "goes": ("Then", False, GOES),
    "wave_of": ("Orders", False, OF),
    "receipt_by": ("The receipt", False, DOCUMENT),
    "undo": ("Afterwards it", False, UNDO),
    "booking": ("The host is told", False, {None: AS_SET, **BOOKING}),
    "plate_by": ("A new plate", False, PLATE_BY),
    "next_item_confirms": ("Scanning the next item", False, {None: AS_SET, **NEXT_CONFIRMS}),
    "other_bin": ("Another bin", False, {None: AS_SET, **OTHER_BIN}),
    "check": ("Scan check", False, CHECK),
    "proposes": ("It proposes", False, PROPOSES),
    "skip_single": ("It is", False, SKIP),
    "each": ("It is asked", False, EACH),
}
_CONDITIONS = {
    "groups": "of an item group",
    "items": "of an item",
    "hazard_classes": "of a hazard class",
    "order_kinds": "from a kind of order",
    "velocity_classes": "of a velocity class",
    "trackings": "tracked in some way",
    "statuses": "of a stock status",
    "partners": "of some partner",
    "partner_groups": "of a group of partners",
    "unit_forms": "in the form of a whole plate, cases or pieces",
    "dispositions": "marked for what is to be done with a return",
    "weekdays": "on a day of the week",
    "worth": "of a worth apiece",
    "quantity": "of a quantity",
    "weight_kg": "of a weight",
    "height_mm": "of a height",
}
_LOOK_IN = {
    "zones": "in a zone",
    "aisles": "in an aisle",
    "bin_types": "bins of a type",
    "bins": "named bins",
    "home_bins": "the item's home bins",
    "own_plate": "the bin of the plate being built",
}
_LIMITS = {"up_to": "up to the item's home maximum", "most": "at most so many in a bin"}
_ADDED = {
    "conditions": ("Add a condition", _CONDITIONS),
    "look_in": ("Look only", _LOOK_IN),
    "limit": ("But only", _LIMITS),
    "take_limit": ("But only", {"most": _LIMITS["most"]}),
    "only": ("Only for", ONLY_TITLES),
    "label_only": ("Only", LABEL_ONLY),
    "form_only": ("But", FORM_ONLY),
    "count_only": ("Only bins", COUNT_ONLY),
    "return_only": ("Only what is", RETURN_ONLY),
    "caps": ("But at most", CAPS),
    "run_only": (
        "But only orders",
        {
            "partner_groups": "of a group of partners",
            "order_classes": "of a class",
            "within_days": "that leave within so many days",
        },
    ),
    "shelf_only": ("But only shelves", {"zones": "of a zone", "groups": "for a group of items"}),
    "gate_only": ("But only", {"groups": "for partners of a group", "order_classes": "for a class of orders"}),
    "class_only": ("Only orders", CLASS_ONLY),
    "pack_only": ("Only orders", PACK_ONLY),
    "wave_wants": ("Only orders", WANTED),
    "wave_most": ("But at most", MOST),
    "tolerance": ("Up to", {"percent": "so many per cent of what was ordered", "units": "so many base units"}),
}
"""Words that are not there yet: choosing one of these leads to its own choices."""
_ENTERED: dict[str, tuple[str, Literal["number", "range", "text"], str]] = {
    "name": ("Called", "text", ""),
    "prompt_words": ("In the words", "text", ""),
    "fixed": ("Not asked but taken to be", "text", ""),
    "return_days": ("At most", "number", "days"),
    "count_every_days": ("Due every; nothing: never by days", "number", "days"),
    "count_most_bins": ("At a time, at most", "number", "bins"),
    "count_most_lines": ("On a sheet, at most", "number", "lines"),
    "count_percent": ("Great is a difference of more than", "number", "%"),
    "count_units": ("And of more than", "number", "base units"),
    "above": ("Written above", "text", ""),
    "beneath": ("Written beneath", "text", ""),
    "menu_name": ("Under the heading", "text", ""),
    "start_time": ("From this time on, as 14:00", "text", ""),
    "worth": ("Worth apiece", "range", "of the currency"),
    "quantity": ("Quantity", "range", "base units"),
    "weight_kg": ("Weight", "range", "kg"),
    "height_mm": ("Height", "range", "mm"),
    "most": ("At most in a bin", "number", "base units"),
    "percent": ("Of what was ordered", "number", "%"),
    "units": ("Or, if that is more", "number", "base units"),
    "every": ("Inspected is one receipt of an item from a partner in", "number", "receipts"),
    "sample": ("Looked at, at first; nothing: all", "number", "base units of an item"),
    "each_piece": ("Scanned one by one, at most", "number", "pieces of a line"),
    "things": ("At most in a task", "number", "plates or kinds of goods"),
    "pieces": ("At most in a task", "number", "base units"),
    "kilograms": ("At most in a task", "number", "kg"),
    "litres": ("At most in a task", "number", "l"),
    "order_priority": ("Orders of priority, the lowest first", "range", ""),
    "order_lines": ("Orders of", "range", "lines"),
    "order_weight": ("Orders of", "range", "kg"),
    "order_value": ("Orders worth", "range", "of the currency"),
    "within_days": ("Orders that leave within; 0: that day", "number", "days"),
    "most_orders": ("At most in a wave", "number", "orders"),
    "most_lines": ("At most in a wave", "number", "lines"),
    "most_kilograms": ("At most in a wave", "number", "kg"),
    "totes": ("On a cart", "number", "totes"),
    "cart_lines": ("On a cart", "number", "lines"),
    "pickers": ("Picked by", "number", "pickers"),
    "wave_times": ("It runs at, as 11:00; 16:30. Nothing: by hand", "text", ""),
    "cut_off": ("Released this long before it runs", "number", "minutes"),
    "pack_percent": ("It may differ by", "number", "%"),
    "pack_grams": ("Or, if that is more", "number", "g"),
    "copies": ("Copies of each", "number", "copies"),
    "gate_whose": ("It asks for the word of", "text", ""),
    "gate_until": ("Open until, as 14:00", "text", ""),
    "gate_days": ("Days before it leaves; 0: on that day", "number", "days"),
    "below": ("Below", "number", "%"),
    "dock_jumps": ("Before goods that expire earlier, by up to", "number", "days"),
    "priority": ("Priority, 0 to 9, the highest first", "number", ""),
    "least_percent": ("Smallest useful share", "number", "% of what is asked"),
    "fefo_days": ("Later than the earliest by up to", "number", "days"),
}


def choices(
    field: str,
    ground: Ground,
    site: SiteCode,
    free: Callable[[ZoneCode], tuple[int, int]],
    book: Rulebook | None = None,
) -> Choices | None:
    """The choices of a word; None if no word has that field. ``free`` tells (empty bins, bins) of a zone; some choose among
    the parts of the rulebook."""
    if field in _FIXED:
        title, many, table = _FIXED[field]
        return Choices(title, many, _of(table), ordered=field == "prefer")
    if field in _ADDED:
        title, table = _ADDED[field]
        return Choices(title, False, _of(table), leads=True)
    if field in _ENTERED:
        title, entry, unit = _ENTERED[field]
        letters = TEXT_LETTERS if field in ("above", "beneath") else 80
        return Choices(title, False, entry=entry, unit=unit, needed=field == "name", letters=letters)
    if field.startswith("columns_"):
        may = MAY_SHOW[Paper(field[8:])] if field[8:] in set(Paper) else ()
        return Choices("Columns, in this order", True, _of({c: COLUMNS[c] for c in may}), ordered=True)
    if field.startswith("set_") and field[4:] in TABLES:
        return Choices(TITLES[field[4:]], False, _of({None: "not set here", **TABLES[field[4:]]}))
    if field == "step_crew":
        crews = tuple(Choice(c.id, c.name) for c in book.crews) if book else ()
        return Choices("By", False, (Choice(None, ANY_CREW), *crews))
    if field == "reason_crews":
        return Choices("Only by", True, tuple(Choice(c.id, c.name) for c in book.crews) if book else ())
    if field == "crew":
        return Choices("For", False, tuple(Choice(c.id, c.name) for c in book.crews) if book else ())
    if field == "menu_flows":
        flows = tuple(Choice(f.id, f.name) for f in book.flows) if book else ()
        return Choices("They see, in this order", True, flows, ordered=True)
    if field == "plate_kind":
        return Choices("Kind of plate", False, tuple(Choice(k.code, k.name) for k in ground.opening.plate_kinds))
    if field == "carton_kinds":
        return Choices("Into", True, tuple(Choice(k.code, k.name) for k in ground.opening.carton_kinds))
    if field == "printer":
        printers = (Choice(p.code, f"{p.name} ({p.code})") for p in ground.opening.printers if p.site == site)
        return Choices("On", False, (Choice(None, OF_THE_PLACE), *printers))
    if field == "plate_kinds":
        return Choices("On plates of kind", True, tuple(Choice(k.code, k.name) for k in ground.opening.plate_kinds))
    if field == "order_kind":
        return Choices("For", False, (Choice(None, "All orders"), *_of(ORDERS)))
    here = [z for z in ground.zones.values() if z.site == site]
    bins = [b for z in here for b in ground.bins_by_zone[z.code]]
    if field == "zones":
        return Choices("Look in", True, tuple(_zone(z, free(z.code)) for z in here))
    if field == "shelf_zones":
        at_home = {ground.bins[h.bin].zone for some in ground.homes.values() for h in some.values()}
        return Choices("Shelves of", True, tuple(_zone(z, free(z.code)) for z in here if z.code in at_home))
    if field == "aisles":
        aisles = sorted({b.aisle for b in bins if b.aisle})
        return Choices("Aisles", True, tuple(Choice(a, a, _count(sum(b.aisle == a for b in bins))) for a in aisles))
    if field == "bin_types":
        return Choices("Bins of type", True, tuple(Choice(t.code, t.name) for t in ground.bin_types.values()))
    if field == "bins":
        return Choices("Only", True, tuple(Choice(b.code, b.code) for b in bins if _stores(ground, b.zone)))
    if field in _PLACES:
        return _places(field, ground, here, book, site)
    if field == "item":
        return _only(field, (Choice(i.code, i.name, i.code) for i in ground.items.values()))
    if field == "group":
        return _only(field, _plain_values(i.group for i in ground.items.values()))
    if field == "partner":
        return _only(field, (Choice(p.code, p.name, p.code) for p in ground.partners.values()))
    if field == "stranger":
        known = tuple(Choice(p.code, p.name, p.code) for p in ground.partners.values())
        return Choices("Taken for", False, (Choice(None, "only from customers"), *known))
    if field == "partner_group":
        return _only(field, _plain_values(p.group for p in ground.partners.values() if p.group))
    if field in ("order_class", "order_classes"):
        mine = tuple(Choice(c.id, c.name) for c in (book.order_classes if book else ()) if c.site in (None, site))
        return _only(field, mine) if field == "order_class" else Choices("Of class", True, mine)
    if field == "channels":
        return Choices("That came by", True, tuple(Choice(c.code, c.name, c.code) for c in ground.opening.channels))
    if field == "groups":
        return Choices("Item groups", True, _plain_values(i.group for i in ground.items.values()))
    if field == "hazard_classes":
        classes = (i.hazard_class for i in ground.items.values() if i.hazard_class)
        return Choices("Hazard classes", True, _plain_values(classes))
    if field == "velocity_classes":
        return Choices(
            "Velocity classes", True, _plain_values(i.velocity_class for i in ground.items.values() if i.velocity_class)
        )
    if field == "carriers":
        return Choices("By", True, tuple(Choice(c.code, c.name, c.code) for c in ground.opening.carriers))
    if field == "gate_groups":
        return Choices("For partners of", True, _plain_values(p.group for p in ground.partners.values() if p.group))
    if field == "partner_groups":
        return Choices("Groups of partners", True, _plain_values(p.group for p in ground.partners.values() if p.group))
    if field == "overflow":
        return Choices("Overflow bin", False, tuple(Choice(b.code, b.code, ground.zones[b.zone].name) for b in bins))
    if field == "items":
        return Choices("Items", True, tuple(Choice(i.code, i.name, i.code) for i in ground.items.values()))
    if field == "partners":
        return Choices("Partners", True, tuple(Choice(p.code, p.name, p.code) for p in ground.partners.values()))
    return None


_PLACES: dict[str, tuple[str, tuple[ZonePurpose, ...], BinPurpose]] = {
    "unload_at": ("Unloaded at", (ZonePurpose.DOOR, ZonePurpose.DOCK), BinPurpose.UNLOAD_AT),
    "receive_into": ("Goods stand in", (ZonePurpose.RECEIVING, ZonePurpose.DOCK), BinPurpose.RECEIVE_INTO),
    "inspect_at": ("Inspected at", (ZonePurpose.INSPECTION,), BinPurpose.INSPECT_AT),
    "put_away_at": ("Put away into", tuple(STORAGE), BinPurpose.PUT_AWAY),
    "sort_at": ("Sorted at", (ZonePurpose.SORT,), BinPurpose.SORT_AT),
    "pack_at": ("Packed at", (ZonePurpose.PACKING,), BinPurpose.PACK_AT),
    "stage_at": ("Staged at", (ZonePurpose.STAGING,), BinPurpose.STAGE_AT),
    "load_at": ("Loaded at", (ZonePurpose.DOOR, ZonePurpose.DOCK), BinPurpose.LOAD_AT),
    "dock_at": ("Goes to", (ZonePurpose.CROSS_DOCK,), BinPurpose.PUT_AWAY),
    "hand_over_at": ("Handed over at", (), BinPurpose.STAGE_AT),
}
"""Where steps happen: what the word is called, the purposes of zones that come first, and the list of rules that finds a bin."""


def _places(field: str, ground: Ground, here: Sequence[Zone], book: Rulebook | None, site: SiteCode) -> Choices:
    """Bins and zones meant for a step first; a site that has none is offered all of its bins."""
    title, purposes, purpose = _PLACES[field]
    meant = [z for z in here if z.purpose in purposes] or list(here)
    rules = len(book.rules_for(site, purpose)) if book else 0
    found = [] if field in ("hand_over_at", "dock_at") else [
        Choice({}, "the bin the rules choose", f"{PURPOSE_TITLES[purpose]}: {rules} rule{'' if rules == 1 else 's'}")
    ]  # fmt: skip
    found += [
        Choice({"zone": z.code}, f"the first bin of {z.name} that has room", _count(len(ground.bins_by_zone[z.code])))
        for z in meant
    ]
    if field != "put_away_at":
        found += [Choice(b.code, b.code, z.name) for z in meant for b in ground.bins_by_zone[z.code]]
    return Choices(title, False, tuple(found))


def _only(field: str, values: Iterable[Choice]) -> Choices:
    return Choices("Only for", False, (Choice(None, "for all of them"), *values))


def _plain_values(values: Iterable[str]) -> tuple[Choice, ...]:
    return tuple(Choice(v, v) for v in sorted(set(values)))


def _count(n: int) -> str:
    return f"{n} bin" if n == 1 else f"{n} bins"


def _zone(zone: Any, free: tuple[int, int]) -> Choice:
    empty, total = free
    note = f"{empty} free of {total}"
    if zone.purpose not in STORAGE:
        note += ", no storage"
    return Choice(zone.code, zone.name, note)


def _stores(ground: Ground, zone: ZoneCode) -> bool:
    return ground.zones[zone].purpose in STORAGE
