"""Carriers: what they take for a shipment, and booking it with one."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import timedelta

from mindful_crate.core.catalog.ids import ShipmentNo
from mindful_crate.core.floor.cartons import Carton
from mindful_crate.core.floor.devices import CarrierStandIn
from mindful_crate.core.floor.shipments import Carriage
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.releasing.freight import FreightOffer, Piece, offers
from mindful_crate.core.releasing.onward import Stop, kept_in, shipment_to_send
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.work.leaving.acts import BookCarriage, DropCarriage, SetCarrier
from mindful_crate.core.work.leaving.events import CarriageAsked, CarriageDropped, CarrierSet
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.decide import reason


def pieces_of(state: State, rulebook: Rulebook, shipment: ShipmentNo) -> list[Piece]:
    """The cartons of a shipment as a carrier sees them. Refused before their weights and sizes are known."""
    cartons = state.cartons.of(shipment)
    if not cartons:
        raise Refusal(
            "nothing_packed", f"Nothing of `{shipment}` is packed: a price is asked when weight and size are known."
        )
    opened = [c for c in cartons if not c.closed]
    if opened:
        raise Refusal("carton_open", f"Carton `{opened[0].number}` is open: its weight and size are not known yet.")
    if any(k.next is Stop.PACK for k in kept_in(state, rulebook, shipment)):
        raise Refusal(
            "not_packed", f"Not all of `{shipment}` is packed: a price is asked when weight and size are known."
        )
    return [_piece(state, c) for c in cartons]


def _piece(state: State, carton: Carton) -> Piece:
    kind = state.ground.plate_kinds[state.plates.kind_of(carton.number)]
    box = state.ground.carton_kinds.get(carton.kind) if carton.kind else None
    if box is not None:
        return Piece(carton.number, carton.weight_mg, box.length_mm * box.width_mm * box.height_mm)
    load = sum(state.ground.items[g.item].bulk(g.quantity)[0] for g in state.all_goods(carton.number))
    return Piece(carton.number, carton.weight_mg, load + kind.length_mm * kind.width_mm * kind.deck_mm)


def offered(state: State, rulebook: Rulebook, shipment: ShipmentNo) -> list[FreightOffer]:
    """What each carrier takes for a shipment; one that is down says so."""
    pieces = pieces_of(state, rulebook, shipment)
    found = offers(state.ground.opening.carriers, state.ground.opening.rates, pieces, town_of(state, shipment))
    down = {code for code, set_ in state.carriers_set.items() if set_.down}
    return [FreightOffer(o.carrier, o.service, None, "does not answer") if o.carrier in down else o for o in found]


def town_of(state: State, shipment: ShipmentNo) -> str:
    """Where a shipment goes: the last line of its address."""
    address = state.shipments[shipment].leaves.address
    return address[-1] if address else ""


def _book(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: BookCarriage) -> str:
    shipment_to_send(state, act.shipment)
    carrier = state.ground.carriers.get(act.carrier)
    if carrier is None:
        raise Refusal("unknown_carrier", f"There is no carrier `{act.carrier}`.", "carrier")
    known = state.carriages.get(act.shipment)
    if known is not None and not known.refused:
        raise Refusal(
            "booked_already", f"`{act.shipment}` is booked with {known.carrier} already: drop that first.", "shipment"
        )
    if act.service and act.service not in carrier.services:
        raise Refusal(
            "no_service", f"{carrier.name} has no service `{act.service}`: {', '.join(carrier.services)}.", "service"
        )
    set_ = state.carriers_set.get(act.carrier) or CarrierStandIn()
    if set_.down:
        raise Refusal(
            "carrier_down", f"{carrier.name} does not answer. Nothing is lost: book again, or with another.", "carrier"
        )
    offer = next(
        (
            o
            for o in offered(state, rulebook, act.shipment)
            if (o.carrier, o.service) == (act.carrier, act.service or _first(carrier.services))
        ),
        None,
    )
    if offer is None or offer.price is None:
        raise Refusal("no_rate", f"{carrier.name} {offer.says if offer else 'has no rate'}.", "carrier")
    trackings = tuple(
        (p.number, f"{act.carrier}-{act.shipment}-{n}")
        for n, p in enumerate(pieces_of(state, rulebook, act.shipment), start=1)
    )
    due = stamp.at + timedelta(seconds=set_.seconds) if set_.seconds else None
    making.event(
        CarriageAsked(
            act.shipment, act.carrier, offer.service, offer.price, () if set_.refuses else trackings, due, set_.refuses
        )
    )
    if set_.refuses:
        return f"{carrier.name} does not take `{act.shipment}`: {set_.refuses}. Book with another."
    soon = f" It answers in {set_.seconds} s." if due else ""
    return f"`{act.shipment}` is booked with {carrier.name}, {offer.service or 'its one service'}: {counted(len(trackings), 'carton')}, {offer.price}.{soon}"


def _first(services: Sequence[str]) -> str:
    return services[0] if services else ""


def trackings(carriage: Carriage | None, state: State) -> dict[str, str]:
    """The tracking number of each carton, once the carrier has answered."""
    if carriage is None or carriage.refused or (carriage.due and carriage.due > state.clock):
        return {}
    return dict(carriage.trackings)


def _drop(state: State, making: Making, _: Rulebook, __: Stamp, act: DropCarriage) -> str:
    known = state.carriages.get(act.shipment)
    if known is None or known.refused:
        raise Refusal("not_booked", f"`{act.shipment}` is booked with no carrier.", "shipment")
    shipment_to_send(state, act.shipment)
    making.event(CarriageDropped(act.shipment, reason(act.why)))
    return f"`{act.shipment}` is not booked with {known.carrier} any more: {act.why.strip()}."


def _set(state: State, making: Making, _: Rulebook, __: Stamp, act: SetCarrier) -> str:
    carrier = state.ground.carriers.get(act.carrier)
    if carrier is None:
        raise Refusal("unknown_carrier", f"There is no carrier `{act.carrier}`.", "carrier")
    if len(act.stand_in.refuses) > 200 or not 0 <= act.stand_in.seconds <= 86_400:
        raise Refusal(
            "bad_seconds",
            "A carrier takes 0 seconds to a day for an answer, and gives its reason in 200 characters.",
            "stand_in",
        )
    making.event(CarrierSet(act.carrier, act.stand_in))
    does = (
        "is down"
        if act.stand_in.down
        else f"refuses: {act.stand_in.refuses}"
        if act.stand_in.refuses
        else "takes bookings"
    )
    return f"{carrier.name} {does}."


DECIDES = (deciding(BookCarriage, _book), deciding(DropCarriage, _drop), deciding(SetCarrier, _set))
"""How its acts are decided."""
