"""What a live word may be changed to: values, their words, and a note that helps to choose."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from enum import Enum
from typing import Any

from mindful_crate.core.catalog.ids import SiteCode, ZoneCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import STORAGE, ZonePurpose
from mindful_crate.core.plain import to_plain
from mindful_crate.core.record import record
from mindful_crate.core.rulebook import sentences as words


@record
class Choice:
    """One thing a live word may say. ``value`` goes into the rulebook."""

    value: Any
    label: str
    note: str = ""


@record
class Choices:
    """All that a live word may say; ``many`` lets several be ticked, ``ordered`` keeps the order of ticking."""

    title: str
    many: bool
    choices: tuple[Choice, ...]
    ordered: bool = False


def _of(table: dict[Any, str]) -> tuple[Choice, ...]:
    return tuple(Choice(to_plain(k) if isinstance(k, Enum) else k, text) for k, text in table.items())


_FIXED: dict[str, tuple[str, bool, dict[Any, str]]] = {
    "order_kinds": ("From", True, words.ORDER_KINDS),
    "unit_forms": ("In the form of", True, words.UNIT_FORMS),
    "wants": ("Wants", False, words.WANTS),
    "prefer": ("Prefers", True, words.PREFER),
    "if_nothing": ("If nothing fits", False, words.IF_NOTHING),
    "put_away_on": ("After receiving", False, {True: "are put away by the bin rules", False: "stay there"}),
    "booking": ("The host is told", False, words.BOOKING),
    "plate_by": ("A new plate", False, words.PLATE_BY),
    "next_item_confirms": ("Scanning the next item", False, words.NEXT_CONFIRMS),
    "other_bin": ("Another bin", False, words.OTHER_BIN),
    "check": ("Scan check", False, words.CHECK),
    "proposes": ("It proposes", False, words.PROPOSES),
    "skip_single": ("It is", False, words.SKIP),
}
_CONDITIONS = {
    "groups": "of an item group",
    "items": "of an item",
    "hazard_classes": "of a hazard class",
    "order_kinds": "from a kind of order",
    "partners": "supplied by somebody",
    "unit_forms": "in the form of a whole plate, cases or pieces",
}
_LOOK_IN = {"zones": "in a zone", "aisles": "in an aisle", "bin_types": "bins of a type", "bins": "named bins"}


def choices(field: str, ground: Ground, site: SiteCode, free: Callable[[ZoneCode], tuple[int, int]]) -> Choices | None:
    """The choices of a word; None if no word has that field. ``free`` tells (empty bins, bins) of a zone."""
    if field in _FIXED:
        title, many, table = _FIXED[field]
        return Choices(title, many, _of(table), ordered=field == "prefer")
    if field in ("conditions", "look_in"):
        table = _CONDITIONS if field == "conditions" else _LOOK_IN
        return Choices("Add a condition" if field == "conditions" else "Look only", False, _of(table))
    if field == "order_kind":
        return Choices("For", False, (Choice(None, "All orders"), *_of(words.ORDERS)))
    here = [z for z in ground.zones.values() if z.site == site]
    bins = [b for z in here for b in ground.bins_by_zone[z.code]]
    if field == "zones":
        return Choices("Look in", True, tuple(_zone(z, free(z.code)) for z in here))
    if field == "aisles":
        aisles = sorted({b.aisle for b in bins if b.aisle})
        return Choices("Aisles", True, tuple(Choice(a, a, _count(sum(b.aisle == a for b in bins))) for a in aisles))
    if field == "bin_types":
        return Choices("Bins of type", True, tuple(Choice(t.code, t.name) for t in ground.bin_types.values()))
    if field == "bins":
        return Choices("Only", True, tuple(Choice(b.code, b.code) for b in bins if _stores(ground, b.zone)))
    if field == "receiving_bins":
        receiving = [b for b in bins if ground.zones[b.zone].purpose in (ZonePurpose.RECEIVING, ZonePurpose.DOCK)]
        return Choices("Plates stand in", False, tuple(Choice(b.code, b.code) for b in receiving))
    if field == "groups":
        return Choices("Item groups", True, _plain_values(i.group for i in ground.items.values()))
    if field == "hazard_classes":
        classes = (i.hazard_class for i in ground.items.values() if i.hazard_class)
        return Choices("Hazard classes", True, _plain_values(classes))
    if field == "items":
        return Choices("Items", True, tuple(Choice(i.code, i.name, i.code) for i in ground.items.values()))
    if field == "partners":
        return Choices("Supplied by", True, tuple(Choice(p.code, p.name, p.code) for p in ground.partners.values()))
    return None


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
