"""Releases and shipments: which orders may be worked, by which gate, and what leaves together."""

from __future__ import annotations

from datetime import date, datetime
from decimal import Decimal
from typing import Literal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import (
    BinCode,
    CarrierCode,
    GateId,
    ItemCode,
    OrderNo,
    PartnerCode,
    PersonId,
    PlateKindCode,
    PlateNo,
    ShipmentNo,
    TruckNo,
)
from mindful_crate.core.floor.cartons import Carton
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.gates import GateVerdict


@record
class WordSaid:
    """Somebody's yes or no to an order at a gate that asks for it; ``why``: of a no, or what was remarked."""

    gate: GateId
    yes: bool
    who: PersonId
    at: datetime
    why: str = ""


@record
class Release:
    """An order that was released: what its gate said then, who did it, in which entry. ``passed``: why it was let past a gate that
    stopped it. ``waits``: nothing is kept for it in bins yet, a wave will do that."""

    order: OrderNo
    shipment: ShipmentNo
    verdict: GateVerdict
    gate: str
    rate: str
    who: PersonId
    seq: int
    passed: str = ""
    waits: bool = False
    at: datetime | None = None
    lines: tuple[int, ...] = ()
    """Of these lines alone, as it was released last; none: of all."""


@record
class Leaves:
    """What goods must agree in to leave together: for whom, where to, by which carrier and service, and when."""

    partner: PartnerCode
    address: tuple[str, ...]
    carrier: CarrierCode | None
    service: str
    day: date


@record
class Shipment:
    """What leaves together; made in entry ``seq``. ``joins``: others may join it."""

    number: ShipmentNo
    leaves: Leaves
    orders: tuple[OrderNo, ...]
    joins: bool
    seq: int
    left: int = 0
    """The entry in which it left; 0: it has not."""


@record
class Carriage:
    """A shipment that was booked with a carrier: the tracking number of each carton, and the price; ``due``: when the carrier answers, None: it has.
    ``refused``: why it does not take it. ``asked``: what a real carrier is asked and has not answered."""

    shipment: ShipmentNo
    carrier: CarrierCode
    service: str
    price: Decimal
    seq: int
    trackings: tuple[tuple[PlateNo, str], ...] = ()
    due: datetime | None = None
    refused: str = ""
    asked: Literal["", "book", "drop"] = ""


@record
class Parcel:
    """Goods of an order line that left, loose from a bin or on a plate, with the numbers of their pieces."""

    order: OrderNo
    line: int
    goods: Goods
    bin: BinCode
    plate: PlateNo | None = None
    serials: tuple[str, ...] = ()


@record
class Bearer:
    """A plate that left, with what it stood on, and what was known of it as a carton."""

    number: PlateNo
    plate_kind: PlateKindCode
    bin: BinCode
    on: PlateNo | None = None
    carton: Carton | None = None


@record
class Departure:
    """A shipment that left in entry ``seq``: with what, in what, by whom. ``booked``: the entry in which the host agreed; ``refused``: why it did not;
    ``undoing``: it was asked to take it back."""

    shipment: ShipmentNo
    seq: int
    at: datetime
    who: PersonId
    carrier: CarrierCode | None
    service: str
    truck: TruckNo | None
    parcels: tuple[Parcel, ...]
    bearers: tuple[Bearer, ...]
    releases: tuple[Release, ...]
    closed: tuple[tuple[OrderNo, int, int], ...] = ()
    """Order, line and how much of it is not waited for any more, in base units."""
    booked: int = 0
    refused: str = ""
    undoing: bool = False
    day: date | None = None
    """The day by the site's calendar."""

    @property
    def orders(self) -> tuple[OrderNo, ...]:
        """The orders of which something left."""
        return tuple(dict.fromkeys(p.order for p in self.parcels))


class Departures(Keeper[ShipmentNo, Departure]):
    """Shipments that have left; which items left in them, and in what."""

    def __init__(self, journal: Journal) -> None:
        super().__init__(journal)
        self._with: dict[ItemCode, dict[ShipmentNo, None]] = {}
        self._bore: dict[PlateNo, ShipmentNo] = {}

    def changed(self, key: ShipmentNo, before: Departure | None, after: Departure | None) -> None:
        """What left in it."""
        if before is not None:
            for item in {p.goods.item for p in before.parcels}:
                self._with[item].pop(key, None)
            for bearer in before.bearers:
                self._bore.pop(bearer.number, None)
        if after is not None:
            for item in {p.goods.item for p in after.parcels}:
                self._with.setdefault(item, {})[key] = None
            self._bore |= dict.fromkeys((b.number for b in after.bearers), key)

    def with_item(self, item: ItemCode) -> list[Departure]:
        """Those in which an item left, the latest first."""
        return sorted((self[n] for n in self._with.get(item, ())), key=lambda d: -d.seq)

    def with_bearer(self, number: PlateNo) -> Departure | None:
        """That in which a carton or a pallet left."""
        found = self._bore.get(number)
        return self[found] if found else None


class Shipments(Keeper[ShipmentNo, Shipment]):
    """Shipments that have not left, and which of them may be joined."""

    def __init__(self, journal: Journal) -> None:
        super().__init__(journal)
        self._joined: dict[Leaves, dict[ShipmentNo, None]] = {}

    def changed(self, key: ShipmentNo, before: Shipment | None, after: Shipment | None) -> None:
        """Which may be joined by what leaves alike."""
        if before is not None and before.joins:
            self._joined[before.leaves].pop(key, None)
        if after is not None and after.joins:
            self._joined.setdefault(after.leaves, {})[key] = None

    def has_shipment(self, number: ShipmentNo) -> bool:
        """Is there a shipment of that number?"""
        return number in self

    def to_join(self, leaves: Leaves) -> ShipmentNo | None:
        """The first shipment that what leaves like this may join."""
        return min(self._joined.get(leaves, ()), default=None)
