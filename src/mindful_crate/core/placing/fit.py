"""May these goods lie in this bin? One judgement for rules, handset and bench."""

from __future__ import annotations

from enum import StrEnum
from typing import Protocol

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, ItemCode, TaskNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import Bin, PlateNeed
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
    PLATES_FULL = "plates_full"
    TOO_HEAVY = "too_heavy"
    TOO_BIG = "too_big"
    NOT_SAME_ITEM = "not_same_item"
    NOT_SAME_LOT = "not_same_lot"


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


class Floor(Protocol):
    """What placing needs to know of a world."""

    @property
    def ground(self) -> Ground:
        """The catalogue."""
        ...

    def held(self, code: BinCode, but: TaskNo | None = None) -> Held:
        """What a bin holds and what is on its way there, the claim of task ``but`` left out."""
        ...

    def blocked(self, code: BinCode) -> str | None:
        """Why a bin is blocked, if it is."""
        ...


class Judge:
    """Judges bins for one request; what does not depend on the bin is worked out once."""

    def __init__(self, request: BinRequest, floor: Floor) -> None:
        self.floor = floor
        self.ground = floor.ground
        self.task = request.task
        self.on_plate = request.plate_kind is not None
        self.load: Load = load_of(request.goods, request.plate_kind, floor.ground)
        self.kinds = frozenset((g.item, g.lot, g.status) for g in request.goods)
        self.items = frozenset(k[0] for k in self.kinds)
        hazards = (floor.ground.items[i].hazard_class for i in self.items)
        self.hazards = frozenset(h for h in hazards if h)

    def turn_down(self, each: Bin, wants: Wants = Wants.ANY) -> TurnDown | None:
        """Why the goods may not go into this bin, or None if they may and it is what is wanted."""
        kind = self.ground.bin_types[each.bin_type]
        load = self.load
        if self.floor.blocked(each.code) is not None:
            return TurnDown.BLOCKED
        if kind.plates is PlateNeed.REQUIRED and not self.on_plate:
            return TurnDown.PLATE_NEEDED
        if kind.plates is PlateNeed.NONE and self.on_plate:
            return TurnDown.NO_PLATES
        if not self.hazards <= set(kind.hazard_classes):
            return TurnDown.HAZARD
        if each.height_mm is not None and load.height_mm > each.height_mm:
            return TurnDown.TOO_LOW
        held = self.floor.held(each.code, self.task)
        if wants is Wants.EMPTY and (held.kinds or held.plates):
            return TurnDown.NOT_EMPTY
        mixing = self._mixing(kind.mixed_items, kind.mixed_lots, kind.mixed_statuses, held)
        if mixing:
            return mixing
        if kind.max_plates is not None and held.plates + load.plates > kind.max_plates:
            return TurnDown.PLATES_FULL
        if kind.max_weight_mg is not None and held.weight_mg + load.weight_mg > kind.max_weight_mg:
            return TurnDown.TOO_HEAVY
        if kind.max_volume_mm3 is not None and held.volume_mm3 + load.volume_mm3 > kind.max_volume_mm3:
            return TurnDown.TOO_BIG
        if wants is Wants.SAME_ITEM and not self.items <= {k[0] for k in held.kinds}:
            return TurnDown.NOT_SAME_ITEM
        if wants is Wants.SAME_ITEM_AND_LOT:
            if not self.items <= {k[0] for k in held.kinds}:
                return TurnDown.NOT_SAME_ITEM
            if not {k[:2] for k in self.kinds} <= {k[:2] for k in held.kinds}:
                return TurnDown.NOT_SAME_LOT
        return None

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
            TurnDown.PLATES_FULL: f"has room for {kind.max_plates} license plates and they are there or on their way",
            TurnDown.TOO_HEAVY: f"bears {_kg(kind.max_weight_mg)}; with this it would be "
            f"{_kg(held.weight_mg + self.load.weight_mg)}",
            TurnDown.TOO_BIG: "has too little room left for this",
            TurnDown.NOT_SAME_ITEM: "does not hold the same item",
            TurnDown.NOT_SAME_LOT: "does not hold the same lot",
        }[down]
        return f"`{each.code}` {why}."


def _kg(milligrams: int | None) -> str:
    return f"{(milligrams or 0) // 1_000_000:,} kg"
