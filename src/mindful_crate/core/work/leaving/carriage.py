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
from mindful_crate.core.work.leaving.acts import BookCarriage, CarrierAnswers, CarrierIs, DropCarriage, SetCarrier
from mindful_crate.core.work.leaving.events import (
    CarriageAnswered,
    CarriageAsked,
    CarriageDropped,
    CarrierSet,
    DropAsked,
)
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
    if set_.real:
        making.event(CarriageAsked(act.shipment, act.carrier, offer.service, offer.price, (), real=True))
        return f"{carrier.name} is asked to take `{act.shipment}`, {offer.service or 'by its one service'}: {offer.price} by its rates."
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
    if (
        carriage is None
        or carriage.refused
        or carriage.asked == "book"
        or (carriage.due and carriage.due > state.clock)
    ):
        return {}
    return dict(carriage.trackings)


def _drop(state: State, making: Making, _: Rulebook, __: Stamp, act: DropCarriage) -> str:
    known = state.carriages.get(act.shipment)
    if known is None or known.refused:
        raise Refusal("not_booked", f"`{act.shipment}` is booked with no carrier.", "shipment")
    shipment_to_send(state, act.shipment)
    set_ = state.carriers_set.get(known.carrier) or CarrierStandIn()
    if set_.real and not set_.down:
        if known.asked == "drop":
            raise Refusal("drop_asked", f"{known.carrier} is asked to drop `{act.shipment}` already.", "shipment")
        making.event(DropAsked(act.shipment, reason(act.why)))
        return f"{known.carrier} is asked to drop `{act.shipment}`: {act.why.strip()}."
    making.event(CarriageDropped(act.shipment, reason(act.why)))
    if set_.real:
        return f"`{act.shipment}` is not booked with {known.carrier} any more, which does not answer: tell it yourself."
    return f"`{act.shipment}` is not booked with {known.carrier} any more: {act.why.strip()}."


def _set(state: State, making: Making, _: Rulebook, __: Stamp, act: SetCarrier) -> str:
    carrier = state.ground.carriers.get(act.carrier)
    if carrier is None:
        raise Refusal("unknown_carrier", f"There is no carrier `{act.carrier}`.", "carrier")
    if (state.carriers_set.get(act.carrier) or CarrierStandIn()).real or act.stand_in.real:
        raise Refusal("real_carrier", f"{carrier.name} is asked in earnest here: how it answers is not set.", "carrier")
    if len(act.stand_in.refuses) > 200 or not 0 <= act.stand_in.seconds <= 86_400:
        raise Refusal(
            "bad_seconds",
            "A carrier takes 0 seconds to a day for an answer, and gives its reason in 200 characters.",
            "stand_in",
        )
    making.event(CarrierSet(act.carrier, act.stand_in))
    return f"{carrier.name} {behaves(act.stand_in)}."


MOST_LETTERS = 200
"""A tracking number, or a reason, is no longer than that."""


def _is(state: State, making: Making, _: Rulebook, __: Stamp, act: CarrierIs) -> str:
    carrier = state.ground.carriers.get(act.carrier)
    if carrier is None:
        raise Refusal("unknown_carrier", f"There is no carrier `{act.carrier}`.", "carrier")
    making.event(CarrierSet(act.carrier, CarrierStandIn(down=act.down, real=act.real)))
    return f"{carrier.name} {behaves(CarrierStandIn(down=act.down, real=act.real))}."


def behaves(stand_in: CarrierStandIn) -> str:
    """How a carrier answers, in words."""
    if stand_in.down:
        return "does not answer"
    if stand_in.real:
        return "is asked in earnest"
    slow = f" after {stand_in.seconds} s" if stand_in.seconds else ""
    return f"refuses{slow}: {stand_in.refuses}" if stand_in.refuses else f"takes bookings{slow}"


def _answers(state: State, making: Making, _: Rulebook, __: Stamp, act: CarrierAnswers) -> str:
    known = state.carriages.get(act.shipment)
    if known is None or not known.asked or known.seq != act.asked:
        raise Refusal(
            "answered_already", f"Nothing is asked of a carrier about `{act.shipment}` that it has not answered."
        )
    name = state.ground.carriers[known.carrier].name
    if known.asked == "drop":
        if act.dropped:
            making.event(CarriageDropped(act.shipment, f"{name} dropped it"))
            return f"{name} dropped `{act.shipment}`."
        making.event(
            CarriageAnswered(act.shipment, known.trackings, known.price, act.refused[:MOST_LETTERS], kept=True)
        )
        return f"{name} keeps `{act.shipment}`: {act.refused[:MOST_LETTERS]}."
    here = {c.number for c in state.cartons.of(act.shipment)}
    odd = next((n for n, code in act.trackings if n not in here or not 0 < len(code) <= MOST_LETTERS), None)
    if odd is not None or act.dropped or (act.price is not None and not 0 <= act.price < 10**8):
        raise Refusal("odd_answer", f"What {name} answers is about other cartons, or no answer to what it was asked.")
    price = known.price if act.price is None else act.price
    making.event(CarriageAnswered(act.shipment, act.trackings, price, act.refused[:MOST_LETTERS]))
    if act.refused:
        return f"{name} does not take `{act.shipment}`: {act.refused[:MOST_LETTERS]}. Book with another."
    return f"`{act.shipment}` is booked with {name}: {counted(len(here), 'carton')}, {price}."


DECIDES = (
    deciding(BookCarriage, _book), deciding(DropCarriage, _drop), deciding(SetCarrier, _set), deciding(CarrierIs, _is), deciding(CarrierAnswers, _answers),
)  # fmt: skip
"""How its acts are decided."""
