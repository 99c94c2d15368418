"""How staging, loading and shipping are decided."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, ReservationNo, ShipmentNo
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.cartons import loose_load
from mindful_crate.core.floor.plates import in_bin, on_plate
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.floor.shipments import Bearer, Parcel, Release
from mindful_crate.core.floor.standing import purpose_of, stands_in
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Serves
from mindful_crate.core.problem import Refusal
from mindful_crate.core.releasing.onward import Kept, Stop, bearers, kept_in, kept_on, shipment_to_send, top_of, way_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.shipping import Rest, Station
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.work import numbered
from mindful_crate.core.work.host.decide import sscc, tell_host
from mindful_crate.core.work.leaving import looking
from mindful_crate.core.work.leaving.acts import (
    LoadGoods,
    ReversalAgreed,
    ReverseShipment,
    ShipShipment,
    StackPlates,
    StageGoods,
    TakeOffTruck,
)
from mindful_crate.core.work.leaving.events import (
    GoodsBrought,
    PalletBegun,
    PalletDropped,
    PlateBrought,
    PutOnTruck,
    RestMoved,
    ReversalAsked,
    ShipmentLeft,
    ShipmentReversed,
    TakenOffTruck,
)
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.packing.decide import check_station
from mindful_crate.core.work.picking.doing import check_need
from mindful_crate.core.work.picking.keeping import keep_where
from mindful_crate.core.work.releasing.decide import leaves
from mindful_crate.core.work.releasing.events import ShipmentMade
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.stock.events import ReservationCut, StockReserved
from mindful_crate.core.work.tasks.decide import reason


def _plates(
    state: State, rulebook: Rulebook, shipment: ShipmentNo, plates: Sequence[PlateNo], station: Station
) -> list[PlateNo]:  # fmt: skip
    return list(dict.fromkeys(looking.check_plate(state, rulebook, shipment, p, station) for p in plates))


def _loose(
    state: State, rulebook: Rulebook, shipment: ShipmentNo, orders: Sequence[OrderNo], stops: Sequence[Stop], what: str
) -> dict[OrderNo, list[Kept]]:  # fmt: skip
    mine = looking.loose_of(state, rulebook, shipment, stops)
    for order in orders:
        if order not in state.shipments[shipment].orders:
            raise Refusal("other_shipment", f"`{order}` does not leave in `{shipment}`.", "orders")
        if order not in mine:
            raise Refusal("nothing_loose", f"No loose goods of `{order}` are to be {what}.", "orders")
    return {o: mine[o] for o in orders}


def _stage(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: StageGoods) -> str:
    shipment_to_send(state, act.shipment)
    check_lane(state, rulebook, act.shipment, act.bin)
    plates = _plates(state, rulebook, act.shipment, act.plates, Station.STAGE)
    loose = _loose(state, rulebook, act.shipment, act.orders, (Stop.STAGE, Stop.LOAD, Stop.SHIP), "staged")
    if not plates and not loose:
        raise Refusal("nothing_to_stage", "Nothing was named that could be staged.", "plates")
    told = [*_brought(state, making, stamp, plates, act.bin), *_goods(state, making, stamp, loose, act.bin)]
    missing = looking.missing_told(looking.standing(state, rulebook, act.shipment), Stop.STAGE)
    if not missing:
        making.whole.append((Stop.STAGE, act.shipment))
    rest = f"Of `{act.shipment}`: {missing}." if missing else f"All of `{act.shipment}` is there."
    return f"{looking.few(told)} in `{act.bin}`. {rest}"


def check_lane(state: State, rulebook: Rulebook, shipment: ShipmentNo, code: BinCode) -> None:
    """Refuse what is no place to stage at, and another than the plan names."""
    check_station(state, code)
    if purpose_of(state, code) not in (ZonePurpose.STAGING, ZonePurpose.DOOR):
        zone = state.ground.zones[state.ground.bins[code].zone].name
        raise Refusal("no_lane", f"`{code}` in {zone} is no place to stage: take a lane.", "bin")


def _brought(state: State, making: Making, stamp: Stamp, plates: Sequence[PlateNo], code: BinCode) -> list[str]:
    for plate in plates:
        check_need(state, code, plate)
        if state.bin_of(plate) != code:
            making.event(PlateBrought(stamp.who, plate, code))
    return [f"`{p}`" for p in plates]


def _goods(state: State, making: Making, stamp: Stamp, loose: dict[OrderNo, list[Kept]], code: BinCode) -> list[str]:
    told = []
    for order, kept in loose.items():
        check_need(state, code, None)
        for each in kept:
            if each.part.bin == code:
                continue
            goods = (each.part.goods,)
            source = in_bin(each.part.bin)
            named: tuple[Serials, ...] = ()
            if each.part.goods.item in state.serials.kept:
                there = state.serials.at(source, each.part.goods)
                named = numbered.named(state, source, goods, there[: each.part.goods.quantity])
            making.event(GoodsBrought(stamp.who, order, each.part.bin, code, goods, named))
            move = Move(1, Do.TAKE, each.part.bin, goods, serves=(Serves(each.line, each.part.goods.quantity),))
            keep_where(state, making, move, goods, (each.part.bin, None, None), (code, None, None))
        told.append(f"loose goods of `{order}`")
    return told


def _stack(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: StackPlates) -> str:
    if not act.plates:
        raise Refusal("nothing_to_stack", "Nothing was named that could be put onto a pallet.", "plates")
    orders = (o for o, _, _ in kept_on(state, act.plates[0]) if o)
    release = next((state.releases[o].shipment for o in orders if o in state.releases), None)
    if release is None:
        raise Refusal("not_kept", f"Nothing on `{act.plates[0]}` is kept for an order that leaves.", "plates")
    places = set()
    for plate in act.plates:
        looking.check_plate(state, rulebook, release, plate, Station.STAGE)
        if act.on is not None and act.on in bearers(state, plate):
            raise Refusal("same_plate", f"`{plate}` stands on `{act.on}` already.", "on")
        places.add(state.bin_of(plate))
    if act.on is not None and state.has_plate(act.on):
        places = {state.bin_of(act.on)}  # they are brought to where it stands
    if len(places) > 1:
        raise Refusal(
            "apart",
            f"They stand in {looking.few(f'`{p}`' for p in sorted(map(str, places)))}: bring them together first.",
            "plates",
        )
    (code,) = places
    if code is None:
        raise Refusal("not_here", f"`{act.on}` stands nowhere here: somebody carries it, or it has left.", "on")
    on = act.on
    if on in act.plates:
        raise Refusal("same_plate", f"`{on}` cannot stand on itself.", "on")
    if on is not None and state.cartons.get(on) is not None:
        raise Refusal("no_pallet", f"`{on}` is a carton: scan a pallet, or a label of a new one.", "on")
    if on is None or not state.has_plate(on):
        on = _pallet(state, making, stamp, code, on)
    elif state.all_goods(on):
        looking.check_plate(state, rulebook, release, on, Station.STAGE)
    emptied = []
    for plate in act.plates:
        before = top_of(state, plate)
        making.event(PlateBrought(stamp.who, plate, code, on))
        if (
            before != plate
            and not state.all_goods(before)
            and not state.plates_on(before)
            and state.plates.made_here(before)
        ):
            making.event(PalletDropped(before))
            emptied.append(before)
    gone = f" {looking.few(f'`{p}`' for p in emptied)} is empty and drops out." if emptied else ""
    return f"{looking.few(f'`{p}`' for p in act.plates)} on `{on}` in `{code}`.{gone}"


def _pallet(state: State, making: Making, stamp: Stamp, code: BinCode, number: PlateNo | None) -> PlateNo:
    kinds = state.ground.opening.plate_kinds
    kind = next((k for k in kinds if k.length_mm >= 1_000), None) or next(iter(kinds), None)
    if kind is None:
        raise Refusal(
            "no_plate_kind", "There is no kind of plate, so there is no pallet: make one in the catalogue.", "on"
        )
    if number is None:
        number = sscc(making.draw("sscc")) if "sscc" in state.ground.series else PlateNo(making.draw("plate"))
    check_need(state, code, number)
    making.event(PalletBegun(stamp.who, number, kind.code, code))
    return number


def _load(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: LoadGoods) -> str:
    shipment_to_send(state, act.shipment)
    check_door(state, act)
    named = bool(act.plates or act.orders)
    missing = looking.standing(state, rulebook, act.shipment)
    for step in missing.steps if not act.partly else ():
        if step.stop is not Stop.LOAD and not step.whole:
            says = f"`{act.shipment}` is not complete, so nothing of it is loaded: {looking.missing_told(missing)}."
            raise Refusal("not_complete", says)
    if missing.tasks and not act.partly:
        raise Refusal("not_complete", f"`{act.shipment}` is not complete: {looking.missing_told(missing)}.")
    ready = (Stop.LOAD, Stop.SHIP)
    plates = _plates(state, rulebook, act.shipment, act.plates, Station.LOAD) if named else [
        p for p in looking.plates_of(state, rulebook, act.shipment, ready) if p not in state.loaded
    ]  # fmt: skip
    again = [p for p in plates if p in state.loaded]
    if again:
        raise Refusal("loaded", f"`{again[0]}` is loaded already.", "plates")
    orders = act.orders if named else tuple(
        o for o in looking.loose_of(state, rulebook, act.shipment, ready) if loose_load(o) not in state.loaded
    )  # fmt: skip
    loose = _loose(state, rulebook, act.shipment, orders, ready, "loaded")
    if not plates and not loose:
        raise Refusal("nothing_to_load", f"Nothing of `{act.shipment}` is left to load.")
    told = [*_brought(state, making, stamp, plates, act.door), *_goods(state, making, stamp, loose, act.door)]
    for what in (*plates, *map(loose_load, loose)):
        making.event(PutOnTruck(stamp.who, what, act.shipment, act.door, act.truck))
    now = looking.standing(state, rulebook, act.shipment)
    left = next((s for s in now.steps if s.stop is Stop.LOAD), None)
    late = left.missing if left and not left.whole else () if left or now.may_go else (looking.missing_told(now),)
    if not late:
        making.whole.append((Stop.LOAD, act.shipment))
    where = f"truck `{act.truck}` at `{act.door}`" if act.truck else f"the truck at `{act.door}`"
    rest = f"Still to be loaded: {looking.few(late)}." if late else f"All of `{act.shipment}` is loaded."
    return f"{looking.few(told)} on {where}. {rest}"


def check_door(state: State, act: LoadGoods) -> None:
    """Refuse what is no door, and a truck that stands at another, or that brings goods."""
    check_station(state, act.door)
    if purpose_of(state, act.door) is not ZonePurpose.DOOR:
        raise Refusal("no_door", f"`{act.door}` is no door: goods are loaded at one.", "door")
    truck = state.ground.trucks.get(act.truck) if act.truck else None
    if act.truck and truck is None:
        raise Refusal("unknown_truck", f"There is no truck `{act.truck}`.", "truck")
    if truck is not None and truck.door != act.door:
        raise Refusal("other_door", f"Truck `{truck.number}` stands at `{truck.door}`, not at `{act.door}`.", "truck")


def _off(state: State, making: Making, _: Rulebook, __: Stamp, act: TakeOffTruck) -> str:
    load = state.loaded.get(act.what)
    if load is None:
        raise Refusal("not_loaded", f"`{act.what}` is on no truck.", "what")
    making.event(TakenOffTruck(act.what))
    return f"`{act.what}` is taken off again, and stands at `{load.door}`."


# Shipping


def _ship(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ShipShipment) -> str:
    shipment_to_send(state, act.shipment)
    shipment = state.shipments[act.shipment]
    now = looking.standing(state, rulebook, act.shipment)
    missing = looking.missing_told(now)
    if not now.ready:
        raise Refusal(
            "nothing_ready", f"Nothing of `{act.shipment}` is ready to leave: {missing or 'nothing is kept for it'}."
        )
    if missing and not act.partly:
        raise Refusal("not_complete", f"`{act.shipment}` is not complete: {missing}. Ship what is ready, or wait.")
    booked = state.carriages.get(act.shipment)
    booked = None if booked and booked.refused else booked
    carrier = act.carrier or (booked.carrier if booked else shipment.leaves.carrier)
    if booked and booked.asked:
        what = "take" if booked.asked == "book" else "drop"
        says = f"{booked.carrier} is asked to {what} `{act.shipment}` and has not answered yet: wait for it, or drop the booking."
        raise Refusal("carrier_asked", says)
    if booked and act.carrier not in (None, booked.carrier):
        says = (
            f"`{act.shipment}` is booked with {booked.carrier}: drop that booking first, or let {booked.carrier} drive."
        )
        raise Refusal("booked_already", says, "carrier")
    if act.carrier is not None and act.carrier not in state.ground.carriers:
        raise Refusal("unknown_carrier", f"There is no carrier `{act.carrier}`.", "carrier")
    kept = list(kept_in(state, rulebook, act.shipment))
    going = [k for k in kept if k.next is Stop.SHIP]
    stays = [k for k in kept if k.next is not Stop.SHIP]
    parcels = tuple(_parcel(state, k) for k in going)
    plates = _leaving(state, going, stays)
    orders = dict.fromkeys(k.line.order for k in going)
    rests = {k.line.order for k in stays} | {o for t in now.tasks for o in state.tasks[t].plan.orders}
    done = tuple(state.releases[o] for o in orders if o not in rests)
    closed = tuple(_closed(state, rulebook, going, done))
    told = _order_told(state, going, closed)
    for number in dict.fromkeys(k.reservation for k in going):
        gone = [k.part for k in going if k.reservation == number]
        left = list(state.reservations[number].parts)
        for part in gone:
            left.remove(part)
        making.event(ReservationCut(number, tuple(left)))
    trucks = {x.truck for x in state.loaded.values() if x.shipment == act.shipment and x.truck}
    truck = min(trucks, default=None)
    meant = shipment.leaves.service if carrier == shipment.leaves.carrier else ""
    service = booked.service if booked else meant
    making.event(
        ShipmentLeft(act.shipment, stamp.who, carrier, service, truck, parcels, plates, done, closed)
    )  # fmt: skip
    tell_host(state, making, stamp, "book_shipment", act.shipment)
    other = _rest(
        state, making, sorted({*rests, *(o for o in shipment.orders if o not in orders)} & state.releases.all().keys())
    )
    says = f"Shipment `{act.shipment}` has left{f' with {carrier}' if carrier else ''}: {looking.departure_told(state.departures[act.shipment])}."
    if act.carrier and shipment.leaves.carrier and act.carrier != shipment.leaves.carrier:
        says = said(says, f"It was meant for {shipment.leaves.carrier}.")
    return said(says, *told, other)


def _parcel(state: State, kept: Kept) -> Parcel:
    part = kept.part
    spot = on_plate(part.plate) if part.plate else in_bin(part.bin)
    serials: tuple[str, ...] = ()
    if part.goods.item in state.serials.kept:
        there = state.serials.at(spot, part.goods)
        order = state.order(kept.line.order)
        line = state.ordered.line(order, kept.line.line) if order else None
        fixed = line.serials if line else ()
        serials = tuple(sorted(there, key=lambda n: (n not in fixed, n))[: part.goods.quantity])
    return Parcel(kept.line.order, kept.line.line, part.goods, stands_in(state, part), part.plate, serials)


def _leaving(state: State, going: Sequence[Kept], stays: Sequence[Kept]) -> tuple[Bearer, ...]:
    """The plates that leave with goods, with what they stand on, the lowest first; those on which something stays do not."""
    busy = {p for k in stays if k.part.plate for p in bearers(state, k.part.plate)}
    plates: dict[PlateNo, None] = {}
    leaving: dict[PlateNo, int] = {}
    for each in going:
        if each.part.plate is not None:
            leaving[each.part.plate] = leaving.get(each.part.plate, 0) + each.part.goods.quantity
            for plate in reversed(list(bearers(state, each.part.plate))):
                plates[plate] = None
    found = []
    for plate in plates:
        left = sum(g.quantity for g in state.plates.goods_on(plate)) - leaving.get(plate, 0)
        if plate in busy or left > 0:
            continue
        spot = state.plates.spot(plate)
        on = PlateNo(spot.code) if spot is not None and spot.holder.value == "plate" else None
        code = state.bin_of(plate)
        assert code is not None
        found.append(Bearer(plate, state.plates.kind_of(plate), code, on, state.cartons.get(plate)))
    return tuple(found)


def _by_line(going: Sequence[Kept]) -> Counter[LineKey]:
    """How much of each order line goes, in base units."""
    much: Counter[LineKey] = Counter()
    for each in going:
        much[each.line] += each.part.goods.quantity
    return much


def _closed(
    state: State, rulebook: Rulebook, going: Sequence[Kept], done: Sequence[Release]
) -> list[tuple[OrderNo, int, int]]:
    """What of orders that are done here is given up, as their plan says."""
    much = _by_line(going)
    found = []
    for release in done:
        order = state.order(release.order)
        assert order is not None
        plan = way_of(state, rulebook, order).plan
        if plan is not None and plan.rest is Rest.CLOSE:
            for line in order.lines:
                left = state.ordered.left_to_ship(order.number, line) - much[LineKey(order.number, line.no)]
                if left > 0:
                    found.append((order.number, line.no, left))
    return found


def _order_told(state: State, going: Sequence[Kept], closed: Sequence[tuple[OrderNo, int, int]]) -> list[str]:
    much = _by_line(going)
    told = []
    for number in dict.fromkeys(k.line.order for k in going):
        order = state.order(number)
        assert order is not None
        lacks = [
            f"{state.ground.items[x.item].told(left)} of {state.ground.items[x.item].name}"
            for x in order.lines
            if (left := state.ordered.left_to_ship(number, x) - much[LineKey(number, x.no)]) > 0
        ]
        if lacks:
            gives = "not waited for any more" if any(c[0] == number for c in closed) else "on back order"
            told.append(f"`{number}` is partly shipped: {looking.few(lacks)} {gives}.")
        else:
            told.append(f"`{number}` is shipped.")
    return told


def _rest(state: State, making: Making, orders: Sequence[OrderNo]) -> str:
    """What is kept for orders of a shipment that left without it leaves in another; what is said of it."""
    if not orders:
        return ""
    first = state.order(orders[0])
    assert first is not None
    how, partner = leaves(state, first), state.ground.partners.get(first.partner)
    joins = partner is None or partner.joins
    number = state.shipments.to_join(how) if joins else None
    if number is None:
        number = ShipmentNo(making.draw("shipment"))
        making.event(ShipmentMade(number, how, joins))
    for order in orders:
        making.event(RestMoved(order, number))
    return f"What is still kept for {looking.few(f'`{o}`' for o in orders)} leaves in `{number}`."


# Taken back


def _reverse(state: State, making: Making, _: Rulebook, stamp: Stamp, act: ReverseShipment) -> str:
    why = reason(act.why)
    departure = state.departures.get(act.shipment)
    if departure is None:
        raise Refusal("not_left", f"Shipment `{act.shipment}` has not left.", "shipment")
    if departure.undoing:
        raise Refusal("asked_already", f"The host was asked already to take `{act.shipment}` back.", "shipment")
    for order in departure.orders:
        again = state.releases.get(order)
        if again is not None:
            says = f"`{order}` goes on in `{again.shipment}`: take that back first."
            raise Refusal("released_again", says, "shipment")
    for bearer in departure.bearers:
        if (
            bearer.number in state.plates.cards
            and bearer.number not in state.ground.plates
            and state.bin_of(bearer.number)
        ):
            raise Refusal("plate_used", f"`{bearer.number}` is in use again.", "shipment")
        if (blocked := state.blocked(bearer.bin)) is not None:
            raise Refusal(
                "bin_blocked", f"`{bearer.bin}`, where it would stand again, is blocked: {blocked}.", "shipment"
            )
    making.event(ReversalAsked(act.shipment, why))
    tell_host(state, making, stamp, "undo_shipment", act.shipment)
    return f"The host is asked to take shipment `{act.shipment}` back: {why}."


def _agreed(state: State, making: Making, _: Rulebook, __: Stamp, act: ReversalAgreed) -> str:
    departure = state.departures.get(act.shipment)
    if departure is None or not departure.undoing:
        raise Refusal("not_asked", f"Nobody asked to take shipment `{act.shipment}` back.")
    if act.refused:
        making.event(ReversalAsked(act.shipment, "", act.refused))
        return f"Shipment `{act.shipment}` stays as it left: {act.refused}"
    making.event(ShipmentReversed(act.shipment))
    for parcel in departure.parcels:
        order = state.order(parcel.order)
        if order is None or parcel.order not in state.releases:
            continue
        number = making.draw("reservation")
        part = Reserved(parcel.bin, parcel.goods, parcel.plate)
        making.event(
            StockReserved(ReservationNo(number), parcel.order, parcel.goods.item, (part,), parcel.order, parcel.line)
        )
    where = looking.few(f"`{b}`" for b in dict.fromkeys(p.bin for p in departure.parcels))
    return f"Shipment `{act.shipment}` is taken back: {counted(len(departure.parcels), 'part')} stand in {where} again."


DECIDES = (
    deciding(StageGoods, _stage),
    deciding(StackPlates, _stack),
    deciding(LoadGoods, _load),
    deciding(TakeOffTruck, _off),
    deciding(ShipShipment, _ship),
    deciding(ReverseShipment, _reverse),
    deciding(ReversalAgreed, _agreed),
)
"""How its acts are decided."""
