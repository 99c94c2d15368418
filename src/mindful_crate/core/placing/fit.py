"""May these goods lie in this bin? One judgement for rules, handset and bench."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from enum import StrEnum
from functools import cached_property
from typing import Any, Protocol

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Item, Status
from mindful_crate.core.catalog.ids import BinCode, BinTypeCode, ItemCode, PlateNo, ReservationNo, TaskNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import Bin, BinType, PlateNeed
from mindful_crate.core.placing.request import BinRequest, Load, load_of
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import Wants


class TurnDown(StrEnum):
    """Why a bin was turned down; the first that holds, in this order."""

    BLOCKED = "blocked"
    PLATE_NEEDED = "plate_needed"
    NO_PLATES = "no_plates"
    HAZARD = "hazard"
    TOO_LOW = "too_low"
    NOT_EMPTY = "not_empty"
    OTHER_ITEM = "other_item"
    OTHER_LOT = "other_lot"
    OTHER_STATUS = "other_status"
    NOT_SAME_ITEM = "not_same_item"
    NOT_SAME_LOT = "not_same_lot"
    PLATES_FULL = "plates_full"
    TOO_HEAVY = "too_heavy"
    TOO_BIG = "too_big"
    SHARE_TOO_SMALL = "share_too_small"
    """There is room, but for less than is asked for or than the rule's smallest useful share."""


COUNTED = {
    TurnDown.BLOCKED: "blocked",
    TurnDown.PLATE_NEEDED: "take plates only",
    TurnDown.NO_PLATES: "take no plates",
    TurnDown.HAZARD: "not for this hazard class",
    TurnDown.TOO_LOW: "too low",
    TurnDown.NOT_EMPTY: "not empty",
    TurnDown.OTHER_ITEM: "take one item only",
    TurnDown.OTHER_LOT: "take one lot only",
    TurnDown.OTHER_STATUS: "hold stock of another status",
    TurnDown.PLATES_FULL: "full of plates",
    TurnDown.TOO_HEAVY: "would be too heavy",
    TurnDown.TOO_BIG: "have too little room left",
    TurnDown.NOT_SAME_ITEM: "without the same item",
    TurnDown.NOT_SAME_LOT: "without the same lot",
    TurnDown.SHARE_TOO_SMALL: "have room for too little of it",
}
"""How a count of bins turned down reads: ``71 not empty``."""


@record
class Held:
    """What lies in a bin or is on its way there."""

    volume_mm3: int = 0
    weight_mg: int = 0
    plates: int = 0
    kinds: frozenset[tuple[ItemCode, str, Status]] = frozenset()
    """Item, lot and status of everything held."""

    def plus(self, other: Held) -> Held:
        """Both together."""
        return Held(
            self.volume_mm3 + other.volume_mm3,
            self.weight_mg + other.weight_mg,
            self.plates + other.plates,
            self.kinds | other.kinds,
        )


EMPTY = Held()
_SOMETHING = Held(plates=1)
"""For what only asks whether a bin is empty."""


@record
class Lying:
    """Goods lying in a bin, loose or on a plate (perhaps on another plate) that stands there."""

    bin: BinCode
    plate: PlateNo | None
    goods: Goods


class Filled(Protocol):
    """What judging one bin needs to know of a world."""

    @property
    def ground(self) -> Ground:
        """The catalogue."""
        ...

    def held(self, code: BinCode, but: TaskNo | None = None) -> Held:
        """What a bin holds and what is on its way there, the claim of task ``but`` left out."""
        ...

    def load(self, code: BinCode) -> tuple[int, int, int]:
        """Volume (mm3), weight (mg) and plates of a bin with what is on its way there."""
        ...

    def blocked(self, code: BinCode) -> str | None:
        """Why a bin is blocked, if it is."""
        ...

    def holds_goods(self, code: BinCode) -> bool:
        """Do goods lie in a bin, or are they on their way there?"""
        ...

    def bins_with(self, item: ItemCode) -> frozenset[BinCode]:
        """Bins where the item lies or is on its way to."""
        ...


class Floor(Filled, Protocol):
    """What placing needs to know of a world."""

    def claim_of(self, task: TaskNo) -> BinCode | None:
        """The bin a task claims room in."""
        ...

    @property
    def memory(self) -> dict[Any, Any]:
        """Where placing keeps what it has worked out for this world as it changes."""
        ...

    def lines(self, item: ItemCode) -> Sequence[Lying]:
        """All of an item that lies in bins, by bin, plate, lot."""
        ...

    def quantity_in(self, code: BinCode, item: ItemCode, but: TaskNo | None = None) -> int:
        """How much of an item lies in a bin or is on its way there, in base units."""
        ...

    def has_reservations(self, item: ItemCode) -> bool:
        """Is anything of an item reserved?"""
        ...

    def reserved(self, line: Lying, but: ReservationNo | None = None) -> int:
        """How much of such a line is reserved, the reservation ``but`` left out."""
        ...

    def holds_just(self, plate: PlateNo, item: ItemCode, count: int) -> bool:
        """Does a plate hold so much of this item and nothing else, nor another plate?"""
        ...

    def bin_of(self, plate: PlateNo) -> BinCode | None:
        """The bin a plate stands in, through all plates it stands on."""
        ...

    @property
    def blocks_tick(self) -> int:
        """Goes up whenever a bin is blocked or freed."""
        ...

    @property
    def tick(self) -> int:
        """Goes up with every change of a bin."""
        ...

    def changed_since(self, tick: int) -> Iterator[BinCode]:
        """Bins that changed after that tick, latest first."""
        ...


class Judge:
    """Judges bins for one request; what does not depend on the bin is worked out once."""

    def __init__(self, request: BinRequest, floor: Filled) -> None:
        self.request = request
        self.floor = floor
        self.ground = floor.ground
        self.task = request.task
        self.on_plate = request.plate_kind is not None
        self.load: Load = load_of(request.goods, request.plate_kind, floor.ground, request.nested)
        self.kinds = frozenset((g.item, g.lot, g.status) for g in request.all_goods)
        self.items = frozenset(k[0] for k in self.kinds)
        hazards = (floor.ground.items[i].hazard_class for i in self.items)
        self.hazards = frozenset(h for h in hazards if h)
        self.whole = sum(g.quantity for g in request.all_goods)
        self._suits: dict[BinTypeCode, bool] = {}
        self._of_type: dict[BinTypeCode, TurnDown | None] = {}
        self._loose_mix = self._mixing(False, False, False, EMPTY) is not None

    def turn_down(self, each: Bin, wants: Wants = Wants.ANY) -> TurnDown | None:
        """Why the goods may not go into this bin, or None if they may and it is what is wanted."""
        kind = self.ground.bin_types[each.bin_type]
        load = self.load
        if self.floor.blocked(each.code) is not None:
            return TurnDown.BLOCKED
        if kind.code not in self._of_type:
            self._of_type[kind.code] = self._turned_down_by(kind)
        by_type = self._of_type[kind.code]
        if by_type is not None:
            return by_type
        if each.height_mm is not None and load.height_mm > each.height_mm:
            return TurnDown.TOO_LOW
        held = self._needed_of(each.code, kind, wants)
        if held is None:
            return TurnDown.OTHER_ITEM
        if wants is Wants.EMPTY and (held.kinds or held.plates):
            return TurnDown.NOT_EMPTY
        if held.kinds or self._loose_mix:
            mixing = self._mixing(kind.mixed_items, kind.mixed_lots, kind.mixed_statuses, held)
            if mixing:
                return mixing
        if wants is Wants.SAME_ITEM and not self.items <= {k[0] for k in held.kinds}:
            return TurnDown.NOT_SAME_ITEM
        if wants is Wants.SAME_ITEM_AND_LOT:
            if not self.items <= {k[0] for k in held.kinds}:
                return TurnDown.NOT_SAME_ITEM
            if not {k[:2] for k in self.kinds} <= {k[:2] for k in held.kinds}:
                return TurnDown.NOT_SAME_LOT
        if kind.max_plates is not None and held.plates + load.plates > kind.max_plates:
            return TurnDown.PLATES_FULL
        if kind.max_weight_mg is not None and held.weight_mg + load.weight_mg > kind.max_weight_mg:
            return TurnDown.TOO_HEAVY
        if kind.max_volume_mm3 is not None and held.volume_mm3 + load.volume_mm3 > kind.max_volume_mm3:
            return TurnDown.TOO_BIG
        return None

    def _needed_of(self, code: BinCode, kind: BinType, wants: Wants) -> Held | None:
        """What a bin holds, as far as the verdict hangs on it: what lies there in particular is dear to list. None
        when it is plain that another item lies there and the bin takes one only."""
        floor = self.floor
        if self.task is not None or len(self.items) != 1:
            return floor.held(code, self.task)
        if floor.holds_goods(code):
            mixes = kind.mixed_items and kind.mixed_lots and kind.mixed_statuses
            if wants is Wants.EMPTY:
                return _SOMETHING
            if not kind.mixed_items and code not in self._bins_with:
                return None
            if not mixes or (wants is not Wants.ANY and code in self._bins_with):
                return floor.held(code)
        volume, weight, plates = floor.load(code)
        return Held(volume, weight, plates)

    @cached_property
    def _bins_with(self) -> frozenset[BinCode]:
        """Bins in which the one item lies, or is on its way to."""
        return self.floor.bins_with(next(iter(self.items)))

    def _turned_down_by(self, kind: BinType) -> TurnDown | None:
        """Why no bin of a type may hold the goods, however empty it is."""
        if kind.plates is PlateNeed.REQUIRED and not self.on_plate:
            return TurnDown.PLATE_NEEDED
        if kind.plates is PlateNeed.NONE and self.on_plate:
            return TurnDown.NO_PLATES
        if not self.hazards <= set(kind.hazard_classes):
            return TurnDown.HAZARD
        return None

    def most(self, each: Bin, wants: Wants = Wants.ANY) -> tuple[int, TurnDown | None]:
        """How many base units of the request's one kind of goods fit into a bin, at most what is asked for; and
        why it is not all of them."""
        down = self.turn_down(each, wants)
        if down is None:
            return self.whole, None
        if down not in _ABOUT_SIZE or not self.request.splits:
            return 0, down
        kind, held = self.ground.bin_types[each.bin_type], self.floor.held(each.code, self.task)
        volume = None if kind.max_volume_mm3 is None else kind.max_volume_mm3 - held.volume_mm3
        weight = None if kind.max_weight_mg is None else kind.max_weight_mg - held.weight_mg
        item = self.ground.items[self.request.goods[0].item]
        return most_in(item, self.request.goods[0].quantity, volume, weight), down

    # The quick judgement: the same verdict without its reason, cheap checks first

    def type_suits(self, kind: BinType) -> bool:
        """May these goods lie in a bin of this type at all, when it is empty?"""
        known = self._suits.get(kind.code)
        if known is None:
            known = self._suits[kind.code] = not (
                self._turned_down_by(kind)
                or self._mixing(kind.mixed_items, kind.mixed_lots, kind.mixed_statuses, EMPTY)
            )
        return known

    def room(self, each: Bin, wants: Wants) -> int:
        """How many base units fit into a bin of a type that suits, at most what is asked for: what :meth:`most`
        counts, found more quickly. Goods that do not split fit whole or not at all."""
        kind, load = self.ground.bin_types[each.bin_type], self.load
        if each.height_mm is not None and load.height_mm > each.height_mm:
            return 0
        if self.floor.blocked(each.code) is not None:
            return 0
        held = self.floor.held(each.code, self.task) if self.task else None
        volume, weight, plates = (held.volume_mm3, held.weight_mg, held.plates) if held else self.floor.load(each.code)
        if wants is Wants.EMPTY and plates:
            return 0
        if kind.max_plates is not None and plates + load.plates > kind.max_plates:
            return 0
        room = None if kind.max_volume_mm3 is None else kind.max_volume_mm3 - volume
        bears = None if kind.max_weight_mg is None else kind.max_weight_mg - weight
        if (room is None or load.volume_mm3 <= room) and (bears is None or load.weight_mg <= bears):
            count = self.whole
        elif not self.request.splits:
            return 0
        else:
            item = self.ground.items[self.request.goods[0].item]
            count = most_in(item, self.whole, room, bears)
        return count if count and self._kinds_suit(kind, each.code, wants) else 0

    def _kinds_suit(self, kind: BinType, code: BinCode, wants: Wants) -> bool:
        if wants is Wants.ANY and kind.mixed_items and kind.mixed_lots and kind.mixed_statuses:
            return True
        there = self.floor.held(code, self.task).kinds
        if wants is Wants.EMPTY:
            return not there
        if there and self._mixing(kind.mixed_items, kind.mixed_lots, kind.mixed_statuses, Held(kinds=there)):
            return False
        if wants is Wants.SAME_ITEM:
            return self.items <= {k[0] for k in there}
        if wants is Wants.SAME_ITEM_AND_LOT:
            return {k[:2] for k in self.kinds} <= {k[:2] for k in there}
        return True

    def _mixing(self, items: bool, lots: bool, statuses: bool, held: Held) -> TurnDown | None:
        together = held.kinds | self.kinds  # goods that are mixed themselves need a bin that allows it
        if len(together) == 1:
            return None
        if not items and len({k[0] for k in together}) > 1:
            return TurnDown.OTHER_ITEM
        if not lots and len({k[:2] for k in together}) > len({k[0] for k in together}):
            return TurnDown.OTHER_LOT
        if not statuses and len({k[2] for k in together}) > 1:
            return TurnDown.OTHER_STATUS
        return None

    def told(self, each: Bin, down: TurnDown) -> str:
        """The sentence a worker reads when this bin is turned down."""
        kind = self.ground.bin_types[each.bin_type]
        held = self.floor.held(each.code, self.task)
        other = sorted({k[0] for k in held.kinds} - self.items)
        why = {
            TurnDown.BLOCKED: f"is blocked: {self.floor.blocked(each.code)}",
            TurnDown.PLATE_NEEDED: "takes goods on license plates only",
            TurnDown.NO_PLATES: "takes loose goods only, no license plates",
            TurnDown.HAZARD: f"does not admit hazard class {' or '.join(sorted(self.hazards))}",
            TurnDown.TOO_LOW: f"is {each.height_mm} mm high; this needs {self.load.height_mm} mm",
            TurnDown.NOT_EMPTY: "is not empty",
            TurnDown.OTHER_ITEM: f"holds `{other[0]}`; it takes one item only"
            if other
            else "takes one item only, and these goods are mixed",
            TurnDown.OTHER_LOT: "takes one lot of an item only",
            TurnDown.OTHER_STATUS: "holds stock of another status",
            TurnDown.PLATES_FULL: "has room for one license plate, which is there or on its way"
            if kind.max_plates == 1
            else f"has room for {kind.max_plates} license plates, which are there or on their way",
            TurnDown.TOO_HEAVY: f"bears {_kg(kind.max_weight_mg)}; with this it would be "
            f"{_kg(held.weight_mg + self.load.weight_mg)}",
            TurnDown.TOO_BIG: "has too little room left for this",
            TurnDown.NOT_SAME_ITEM: "does not hold the same item",
            TurnDown.NOT_SAME_LOT: "does not hold the same lot",
            TurnDown.SHARE_TOO_SMALL: "has room for too little of it",
        }[down]
        return f"`{each.code}` {why}."


_ABOUT_SIZE = frozenset({TurnDown.TOO_HEAVY, TurnDown.TOO_BIG})
"""Turned down for all of it, though some of it may fit."""


def most_in(item: Item, wanted: int, volume_mm3: int | None, weight_mg: int | None) -> int:
    """The most base units up to ``wanted`` whose bulk keeps within a volume and a weight (None: no limit).

    Counted as :meth:`Item.bulk` counts: as many as possible in the largest unit, and never so many of a smaller
    one that they would make another of the larger.
    """
    total, larger = 0, 0
    for unit in item.largest_first():
        count = (wanted - total) // unit.quantity
        if larger:
            count = min(count, (larger - 1) // unit.quantity)
        if volume_mm3 is not None:
            count = min(count, max(0, volume_mm3) // unit.volume_mm3)
        if weight_mg is not None and unit.weight_mg:
            count = min(count, max(0, weight_mg) // unit.weight_mg)
        total += count * unit.quantity
        volume_mm3 = None if volume_mm3 is None else volume_mm3 - count * unit.volume_mm3
        weight_mg = None if weight_mg is None else weight_mg - count * unit.weight_mg
        larger = unit.quantity
    return total


def _kg(milligrams: int | None) -> str:
    return f"{(milligrams or 0) // 1_000_000:,} kg"
