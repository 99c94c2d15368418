"""Returns: what is being taken back on a handset, and how goods that came back are marked."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import DeviceId, ItemCode, OrderNo, PartnerCode, ReturnMarkId, ShipmentNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import Disposition


@record
class ReturnLine:
    """Goods that are taken back, in base units, marked by whoever looked at them. ``held``: why a supervisor has to look at it; ``shipment``: the last with
    which the customer got some; ``order_line``: of an announced return."""

    no: int
    item: ItemCode
    quantity: int
    lot: str = ""
    expiry: date | None = None
    serials: tuple[str, ...] = ()
    mark: ReturnMarkId | None = None
    held: str = ""
    shipment: ShipmentNo | None = None
    order_line: int | None = None
    remark: str = ""
    photo: str = ""


@record
class ReturnBuild:
    """What one customer sends back, while it is scanned on a handset: nothing of it is stock, and nothing is left of it when it is left. ``order``: the number
    under which it was announced."""

    device: DeviceId
    partner: PartnerCode
    order: OrderNo | None = None
    lines: tuple[ReturnLine, ...] = ()

    def scanned(self, item: ItemCode) -> int:
        """So much of an item is on it already."""
        return sum(x.quantity for x in self.lines if x.item == item)


@record
class Marked:
    """How goods of a line of a return are marked: by which mark as it was then, what they become, what is to be done with them, and whether the host credits
    them. ``held``: why a supervisor has to look at them."""

    mark: ReturnMarkId | None
    name: str
    status: Status
    goes: Disposition | None
    credits: bool
    partner: PartnerCode
    item: ItemCode
    quantity: int
    day: date
    held: str = ""
    remark: str = ""
    photo: str = ""


class Returned(Keeper[LineKey, Marked]):
    """What came back, and what of it from whom."""

    def __init__(self, journal: Journal) -> None:
        super().__init__(journal)
        self._from: dict[tuple[PartnerCode, ItemCode], dict[LineKey, None]] = {}

    def changed(self, key: LineKey, before: Marked | None, after: Marked | None) -> None:
        """Who sent back what."""
        if before is not None:
            self._from[before.partner, before.item].pop(key, None)
        if after is not None:
            self._from.setdefault((after.partner, after.item), {})[key] = None

    def sent_back(self, partner: PartnerCode, item: ItemCode) -> Iterator[Marked]:
        """All that a customer sent back of an item."""
        return (self[key] for key in self._from.get((partner, item), ()))
