"""What one site has sent of transfers, as the host passes it on to the other: each floor is a world of its own, and goods leave the one and
come to the other by what the host tells."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.goods import Order, OrderKind
from mindful_crate.core.catalog.ids import PlateNo, SiteCode
from mindful_crate.core.catalog.notices import NoticeLine, NoticePlate
from mindful_crate.core.floor.shipments import Departure
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import record
from mindful_crate.core.work.host.acts import PassOn


@record
class Passed:
    """What is passed on: to which site, by what, under an id that says it once."""

    to: SiteCode
    id: str
    act: PassOn


def passed_on(state: State) -> Iterator[Passed]:
    """Everything of transfers that has left a floor, which its host has agreed to, in the order in which it left."""
    site = state.settings.site
    for gone in sorted(state.departures.values(), key=lambda d: d.seq):
        for number in gone.orders if gone.booked and not gone.undoing else ():
            order = state.order(number)
            other = other_side(state, order) if order is not None else None
            if order is not None and other is not None:
                act = PassOn(other.number, gone.shipment, tuple(_plates(gone, order, other)))
                yield Passed(other.site, f"passed:{site}:{gone.shipment}:{number}", act)


def other_side(state: State, order: Order) -> Order | None:
    """The order by which what a transfer sends comes to the other site, if the catalogue has one."""
    if order.kind is not OrderKind.TRANSFER_OUT or not order.transfer:
        return None
    known: dict[str, Order] | None = state.ground.remembered.get("transfers in")
    if known is None:
        coming = (o for o in state.ground.orders.values() if o.kind is OrderKind.TRANSFER and o.transfer)
        known = state.ground.remembered["transfers in"] = {o.transfer: o for o in coming}
    found = known.get(order.transfer)
    return found if found is not None and found.site != order.site else None


def _plates(gone: Departure, order: Order, other: Order) -> Iterator[NoticePlate]:
    """The plates that left with goods of an order, with the lines of the other side's order."""
    kinds = {b.number: b.plate_kind for b in gone.bearers}
    by_plate: dict[PlateNo, list[NoticeLine]] = {}
    items = {x.no: x.item for x in other.lines}
    for parcel in gone.parcels:
        if parcel.order != order.number or parcel.plate is None or parcel.plate not in kinds:
            continue
        goods = parcel.goods
        alike = items.get(parcel.line) == goods.item
        line = next((x for x in other.lines if x.item == goods.item and (not alike or x.no == parcel.line)), None)
        if line is not None:  # what the other side did not ask for is no part of its notice
            by_plate.setdefault(parcel.plate, []).append(
                NoticeLine(line.no, goods.item, line.unit, goods.quantity, goods.lot, goods.expiry, parcel.serials)
            )
    for plate, lines in by_plate.items():
        yield NoticePlate(plate, kinds[plate], tuple(lines))
