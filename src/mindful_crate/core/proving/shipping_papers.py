"""What stands on the papers of a shipment: packing lists by order, loading list, bill of lading, pallet sheets; as it is now, or as it left."""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum

from mindful_crate.core.catalog.ids import OrderNo, PlateNo, ShipmentNo, TruckNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.cartons import loose_load
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.dock_board import CartonContent, CartonShown, shipment_shown
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.leaving.looking import open_tasks


class Paper(StrEnum):
    """Papers of a shipment."""

    PACKING_LIST = "packing-list"
    LOADING_LIST = "loading-list"
    BILL = "bill-of-lading"
    PALLETS = "pallet-sheets"


TITLES = {
    Paper.PACKING_LIST: "Packing list",
    Paper.LOADING_LIST: "Loading list",
    Paper.BILL: "Bill of lading",
    Paper.PALLETS: "Pallet sheet",
}


@record
class OrderPart:
    """What of an order leaves: carton by carton, and loose; ``rest`` is what stays open of it, in words."""

    order: OrderNo
    partner: str
    ship_to: tuple[str, ...]
    cartons: tuple[tuple[PlateNo, str, tuple[CartonContent, ...]], ...]
    loose: tuple[CartonContent, ...]
    rest: tuple[str, ...]


@record
class Papers:
    """Everything the papers say."""

    shipment: ShipmentNo
    site: str
    partner: str
    address: tuple[str, ...]
    carrier: str
    service: str
    truck: TruckNo | None
    made: datetime
    left: datetime | None
    orders: tuple[OrderPart, ...]
    cartons: tuple[CartonShown, ...]
    loose: tuple[CartonContent, ...]
    loaded: tuple[OrderNo, ...]
    """Orders whose loose goods are on the truck."""


def papers(state: State, rulebook: Rulebook, number: ShipmentNo, paper: Paper) -> Papers:
    """What a paper of a shipment says. Packing lists are refused while something of the shipment is still picked; a bill of lading, while it has no
    carrier."""
    shown = shipment_shown(state, rulebook, number)
    shipment, gone = state.shipments[number], state.departures.get(number)
    if gone is None and paper is Paper.PACKING_LIST and (open_ := open_tasks(state, number)):
        raise Refusal(
            "still_picked", f"`{open_[0]}` of `{number}` is still to be picked: the list would be wrong.", "paper"
        )
    partner = state.ground.partners.get(shipment.leaves.partner)
    code = gone.carrier if gone else shipment.leaves.carrier
    carrier = state.ground.carriers.get(code) if code else None
    if paper is Paper.BILL and carrier is None:
        raise Refusal("no_carrier", f"No carrier drives `{number}` yet, so there is no bill of lading.", "paper")
    service = gone.service if gone else shipment.leaves.service
    truck = gone.truck if gone else shown.leaving.truck if shown.leaving else None
    return Papers(
        number, state.ground.sites[state.settings.site].name, partner.name if partner else shipment.leaves.partner, shipment.leaves.address,
        carrier.name if carrier else "", service, truck, state.clock, gone.at if gone else None,
        tuple(_order(state, o, shown.cartons, shown.loose) for o in shipment.orders), shown.cartons, shown.loose,
        tuple(o for o in shipment.orders if loose_load(o) in state.loaded),
    )  # fmt: skip


def _order(
    state: State, number: OrderNo, cartons: tuple[CartonShown, ...], loose: tuple[CartonContent, ...]
) -> OrderPart:  # fmt: skip
    order = state.order(number)
    assert order is not None
    partner = state.ground.partners.get(order.partner)
    address = tuple(order.ship_to) or (tuple(partner.address) if partner else ())
    mine = tuple(
        (c.number, c.kind, tuple(x for x in c.content if x.order == number))
        for c in cartons
        if any(x.order == number for x in c.content)
    )
    rest = []
    for line in order.lines:
        here = state.reservations.for_line(LineKey(number, line.no))
        kept = sum(p.goods.quantity for n in here for p in state.reservations[n].parts)
        left = state.ordered.left_to_ship(number, line) - kept
        if left > 0:
            item = state.ground.items[line.item]
            rest.append(f"{item.told(left)} of {item.name}")
    return OrderPart(
        number, partner.name if partner else order.partner, address, mine, tuple(x for x in loose if x.order == number), tuple(rest)
    )  # fmt: skip
