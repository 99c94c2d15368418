"""What was unloaded at the door and is not stock: announced plates, or so many pallets and packages of an order."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import BinCode, OrderNo, PersonId, PlateNo, TruckNo, UnloadingNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.record import record


@record
class Unloading:
    """What came of an order at one time and was set down in one place. ``count``: so many pallets and packages that were counted
    and not scanned."""

    number: UnloadingNo
    order: OrderNo
    at: BinCode
    by: PersonId
    since: int
    """The entry that began it."""
    plates: tuple[PlateNo, ...] = ()
    count: int = 0
    truck: TruckNo | None = None
    arrived: int = 0
    """How much of the order had arrived or was noted before, over all lines, in base units."""
    ended: str = ""
    """Why nothing of it is waited for any more, where somebody said so."""
    undone: int = 0
    """The entry in which it was undone."""

    @property
    def ref(self) -> Ref:
        """Its name."""
        return Ref(DocKind.UNLOADING, self.number)


class Unloadings(Keeper[UnloadingNo, Unloading]):
    """All unloadings, by number and by order."""

    def __init__(self, journal: Journal) -> None:
        super().__init__(journal)
        self._of: dict[OrderNo, dict[UnloadingNo, None]] = {}
        self._with: dict[PlateNo, UnloadingNo] = {}

    def changed(self, key: UnloadingNo, before: Unloading | None, after: Unloading | None) -> None:
        """Indexes follow."""
        for plate in before.plates if before and not before.undone else ():
            self._with.pop(plate, None)
        for plate in after.plates if after and not after.undone else ():
            self._with[plate] = key
        if before is None and after is not None:
            self._of.setdefault(after.order, {})[key] = None
        if after is None and before is not None:
            self._of[before.order].pop(key, None)

    def of_order(self, order: OrderNo) -> list[Unloading]:
        """Those of an order, the first first."""
        return sorted((self[number] for number in self._of.get(order, ())), key=lambda u: u.since)

    def of_plate(self, plate: PlateNo) -> Unloading | None:
        """The one with which an announced plate came off."""
        number = self._with.get(plate)
        return self[number] if number else None

    def next_of(self, order: OrderNo) -> UnloadingNo:
        """What the next of an order is called; those that were undone count as well."""
        return UnloadingNo(f"{order}-U{len(self._of.get(order, ())) + 1}")
