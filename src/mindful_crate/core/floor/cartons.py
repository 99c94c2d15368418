"""Cartons: what goods leave in, what they weigh, and whether they are closed; and what stands on a truck."""

from __future__ import annotations

from collections.abc import Callable

from mindful_crate.core.catalog.ids import BinCode, CartonKindCode, OrderNo, PersonId, PlateNo, ShipmentNo, TruckNo
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.record import Word, record


class Weighed(Word):
    """How it is known what a carton weighs."""

    SCALE = "scale"
    HAND = "hand"
    COMPUTED = "computed"
    """Nobody weighed it: what its goods weigh by the catalogue, and its kind."""


@record
class Carton:
    """A plate that goods leave on: a carton that is packed, or, ``as_is``, a plate or tote that was picked and leaves as it came. It stands at the
    station ``at`` while it is packed. ``closed``: the entry that closed it, 0 while it is open. ``weight_mg`` is with its goods."""

    number: PlateNo
    shipment: ShipmentNo
    at: BinCode
    begun: int
    by: PersonId
    kind: CartonKindCode | None = None
    as_is: bool = False
    closed: int = 0
    weight_mg: int = 0
    weighed: Weighed | None = None


class Cartons(Keeper[PlateNo, Carton]):
    """Cartons that have not left, and which are of a shipment."""

    def __init__(self, journal: Journal) -> None:
        super().__init__(journal)
        self._of: dict[ShipmentNo, dict[PlateNo, None]] = {}
        self._open: dict[ShipmentNo, dict[PlateNo, None]] = {}
        self.told: Callable[[PlateNo, bool], None] = lambda plate, there: None
        """Who is told that a plate is a carton, or is none any more."""

    def changed(self, key: PlateNo, before: Carton | None, after: Carton | None) -> None:
        """Which shipment it is of, and whether it is open."""
        if (before is None) is not (after is None):
            self.told(key, after is not None)
        for carton, there in ((before, False), (after, True)):
            if carton is None:
                continue
            for index, holds in ((self._of, True), (self._open, not carton.closed)):
                mine = index.setdefault(carton.shipment, {})
                if there and holds:
                    mine[key] = None
                else:
                    mine.pop(key, None)
                if not mine:
                    del index[carton.shipment]

    def of(self, shipment: ShipmentNo) -> list[Carton]:
        """The cartons of a shipment, in the order they were begun."""
        return sorted((self[n] for n in self._of.get(shipment, ())), key=lambda c: (c.begun, c.number))

    def open_of(self, shipment: ShipmentNo, at: BinCode | None = None) -> list[Carton]:
        """Those that are open, at a station or anywhere, in the order they were begun."""
        mine = (self[n] for n in self._open.get(shipment, ()))
        return sorted((c for c in mine if at in (None, c.at)), key=lambda c: (c.begun, c.number))

    def is_one_open(self, at: BinCode) -> bool:
        """Is a carton of whichever shipment open at a station?"""
        return any(self[n].at == at for mine in self._open.values() for n in mine)

    def is_closed(self, number: PlateNo) -> bool:
        """Is it a carton that is packed?"""
        carton = self.get(number)
        return carton is not None and carton.closed > 0


@record
class Loaded:
    """A plate, or the loose goods of an order, that stand on a truck, or past a door for one that is not known; loaded in entry ``seq``."""

    what: str
    shipment: ShipmentNo
    door: BinCode
    seq: int
    by: PersonId
    truck: TruckNo | None = None


def loose_load(order: OrderNo) -> str:
    """How the loose goods of an order are called when they are loaded."""
    return f"{LOOSE}{order}"


LOOSE = "goods of "
