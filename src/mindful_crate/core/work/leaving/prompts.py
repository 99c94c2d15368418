"""What is asked while goods leave: what is staged and where, what is loaded on which truck, what is sent off and with whom."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.ids import BinCode, CarrierCode, OrderNo, PlateNo, ShipmentNo, TruckNo
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.floor.answers import Answers, Doubt, flag, text
from mindful_crate.core.floor.standing import purpose_of
from mindful_crate.core.problem import Refusal
from mindful_crate.core.releasing.onward import Stop, kept_in, shipment_to_send, top_of
from mindful_crate.core.rulebook.flows import Asks, Prompt
from mindful_crate.core.rulebook.shipping import Station
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.scanning.codes import any_bin, plain, shown, typed, unknown
from mindful_crate.core.scanning.kinds import Codes, Context, PromptKind, bin_place
from mindful_crate.core.scanning.question import Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.leaving import looking
from mindful_crate.core.work.leaving.decide import check_lane
from mindful_crate.core.work.leaving.places import lane_for, trucks_out

SENT = text("leaving_shipment", ShipmentNo)
"""The shipment it is about."""
WHAT = text("leaving_plate", PlateNo)
"""The carton or plate that was scanned."""
LOOSE = text("leaving_order", OrderNo)
"""The order whose loose goods go."""
LANE = text("leaving_lane", BinCode)
ONTO = text("leaving_pallet", PlateNo)
"""The pallet a carton is put onto, in place of a lane."""
DOOR = text("leaving_door", BinCode)
TRUCK = text("leaving_truck", TruckNo)
PARTLY = flag("leaving_partly")
BY = text("leaving_carrier", CarrierCode)


def shipments_with(ctx: Context, stops: Iterable[Stop]) -> Iterator[ShipmentNo]:
    """Shipments of which something is to do this next."""
    wanted = set(stops)
    for number in sorted(ctx.state.shipments):
        gone = ctx.state.shipments[number].left
        if not gone and any(k.next in wanted for k in kept_in(ctx.state, ctx.rulebook, number)):
            yield number


def of_order(ctx: Context, order: OrderNo) -> ShipmentNo:
    """The shipment an order leaves in; refused when it is not released."""
    release = ctx.state.releases.get(order)
    if release is None:
        raise Refusal("not_released", f"`{order}` is not released, or has left.")
    return release.shipment


def of_plate(ctx: Context, plate: PlateNo) -> ShipmentNo:
    """The shipment whose goods are on a plate; refused when it is none's, or of several."""
    left = ctx.state.departures.with_bearer(plate)
    if left is not None:
        raise Refusal("left", f"`{plate}` has left with `{left.shipment}`.")
    whose = looking.shipments_on(ctx.state, top_of(ctx.state, plate))
    if len(whose) != 1 or None in whose:
        raise Refusal("not_kept", f"What is on `{plate}` is not of one shipment.")
    (found,) = whose
    assert found is not None
    return found


def plates_to(ctx: Context, shipment: ShipmentNo, stops: Iterable[Stop]) -> list[PlateNo]:
    """What is carried of a shipment that is to do this next."""
    return looking.plates_of(ctx.state, ctx.rulebook, shipment, stops)


def called(ctx: Context, shipment: ShipmentNo) -> str:
    """The orders of a shipment."""
    orders = ctx.state.shipments[shipment].orders
    more = f" and {len(orders) - 2} more" if len(orders) > 2 else ""
    return ", ".join(orders[:2]) + more


class StagedKind(PromptKind):
    """What is staged? A carton, a plate or a tote; an order or a shipment, for all of it that stands loose or by itself."""

    wants = "a carton, a plate, or an order"
    shape: Shape = "pallet"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[SENT] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is Read.PLATE:
            plate = PlateNo(reading.code)
            shipment = of_plate(ctx, plate)
            looking.check_plate(ctx.state, ctx.rulebook, shipment, plate, Station.STAGE)
            return answers.having(SENT, shipment).having(WHAT, plate)
        if reading.kind is Read.ORDER:
            order = OrderNo(reading.code)
            return self._all(ctx, answers, of_order(ctx, order), reading.code)
        if reading.kind is Read.SHIPMENT:
            shipment_to_send(ctx.state, ShipmentNo(reading.code))
            return self._all(ctx, answers, ShipmentNo(reading.code), reading.code)
        raise self.wrong(ctx, answers, reading)

    def _all(self, ctx: Context, answers: Answers, shipment: ShipmentNo, code: str) -> Answers:
        if not any(k.next is Stop.STAGE for k in kept_in(ctx.state, ctx.rulebook, shipment)):
            missing = looking.missing_told(looking.standing(ctx.state, ctx.rulebook, shipment))
            raise Refusal(
                "nothing_to_stage", f"Nothing of `{code}` is to be staged now{f': {missing}' if missing else ''}."
            )
        return answers.having(SENT, shipment)

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        for shipment in islice(shipments_with(ctx, (Stop.STAGE,)), 30):
            plates = plates_to(ctx, shipment, (Stop.STAGE,))
            note = counted(len(plates), "plate") if plates else "loose goods"
            yield Pick(shipment, called(ctx, shipment), note)

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Scan what is staged"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        waits = next(shipments_with(ctx, (Stop.STAGE,)), None)
        return {"note": "" if waits else "Nothing waits to be staged."}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for shipment in islice(shipments_with(ctx, (Stop.STAGE, Stop.PACK)), 2):
            for plate in plates_to(ctx, shipment, (Stop.STAGE, Stop.PACK))[:2]:
                yield plain(f"{plate}, of {called(ctx, shipment)}", plate)
            yield plain(f"order {ctx.state.shipments[shipment].orders[0]}", ctx.state.shipments[shipment].orders[0])
        yield from any_bin(ctx)
        yield from unknown()


class LaneKind(PromptKind):
    """Where is it staged? Where the shipment stands already, else where the plan and the rules say; another lane will do, and for a carton a pallet: one
    that stands in a lane, or a new one where the carton stands."""

    wants = "a lane, or the pallet it is put onto"
    shape: Shape = "bin"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[SENT] is not None and answers[LANE] is None and answers[ONTO] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        if reading.kind in (Read.PLATE, Read.LABEL) and answers[WHAT]:
            return answers.having(ONTO, PlateNo(reading.code))
        if reading.kind is not Read.BIN:
            raise self.wrong(ctx, answers, reading)
        code = BinCode(reading.code)
        check_lane(ctx.state, ctx.rulebook, answers.known(SENT), code)
        filled = answers.having(LANE, code)
        told = lane_for(ctx.state, ctx.rulebook, answers.known(SENT))
        others = self._others(ctx, answers, code)
        if others:
            says = f"Goods of {', '.join(f'`{o}`' for o in others[:2])} stand in `{code}`. Shown was `{told}`."
            return Doubt("yes_no", says, filled, "Beside them")
        return filled

    def _others(self, ctx: Context, answers: Answers, code: BinCode) -> list[ShipmentNo]:
        """Other shipments of which something stands in a lane."""
        found = {s for p in ctx.state.standing(code) for s in looking.shipments_on(ctx.state, p.number) if s}
        return sorted(found - {answers.known(SENT)})

    def asked(self, ctx: Context, answers: Answers) -> str:
        code = lane_for(ctx.state, ctx.rulebook, answers.known(SENT))
        return f"`{code}`" if code else "a lane"

    def title(self, ctx: Context, answers: Answers) -> str:
        code = lane_for(ctx.state, ctx.rulebook, answers.known(SENT))
        return f"Bring it to `{code}` and scan that" if code else "Bring it to a lane and scan that"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        code = lane_for(ctx.state, ctx.rulebook, answers.known(SENT))
        what = f"`{answers[WHAT]}`" if answers[WHAT] else f"all of `{answers[SENT]}` that is ready"
        note = f"{bin_place(ctx, code)}; another lane will do" if code else ""
        return {"expect": code or "", "note": note, "facts": (what, f"for `{called(ctx, answers.known(SENT))}`")}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield from shown(question.expect)
        for each in ctx.ground.bins_of(ZonePurpose.STAGING, ctx.state.settings.site)[-1:]:
            yield plain(f"lane {each.code}", each.code)
        yield from any_bin(ctx)


class TruckKind(PromptKind):
    """Which truck is loaded? Its number, or the door it stands at."""

    wants = "the truck, or its door"
    shape: Shape = "ticket"
    lasts = (TRUCK, DOOR)

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[DOOR] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is Read.TRUCK:
            truck = ctx.ground.trucks[TruckNo(reading.code)]
            if truck.number not in trucks_out(ctx.state):
                raise Refusal("brings", f"Truck `{truck.number}` brings goods, or is for another site.")
            return answers.having(TRUCK, truck.number).having(DOOR, truck.door)
        if reading.kind is Read.BIN:
            code = BinCode(reading.code)
            if (
                purpose_of(ctx.state, code) is not ZonePurpose.DOOR
                or ctx.ground.site_of(code) != ctx.state.settings.site
            ):
                raise Refusal("no_door", f"`{code}` is no door of this site: scan a door, or the truck.")
            today = ctx.state.clock.date()
            mine = [t for n in trucks_out(ctx.state) if (t := ctx.ground.trucks[n]).door == code and t.day == today]
            return answers.having(DOOR, code).having(TRUCK, mine[0].number if len(mine) == 1 else None)
        raise self.wrong(ctx, answers, reading)

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        for number in trucks_out(ctx.state):
            truck = ctx.ground.trucks[number]
            carrier = ctx.ground.carriers.get(truck.carrier) if truck.carrier else None
            yield Pick(number, carrier.name if carrier else number, f"{truck.door}, {truck.time}")

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Scan the truck, or its door"

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for number in trucks_out(ctx.state)[:2]:
            yield plain(f"truck {number}", number)
        for each in ctx.ground.bins_of(ZonePurpose.DOOR, ctx.state.settings.site)[:2]:
            yield plain(f"door {each.code}", each.code)
        yield from any_bin(ctx)
        yield from unknown()


class LoadedKind(PromptKind):
    """What is loaded? One carton or plate after another, or a shipment at once after a look."""

    wants = "a carton or plate of the shipment"
    shape: Shape = "pallet"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[SENT] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        if reading.kind is Read.PLATE:
            plate = PlateNo(reading.code)
            shipment = of_plate(ctx, plate)
            looking.check_plate(ctx.state, ctx.rulebook, shipment, plate, Station.LOAD)
            return self._meant(ctx, answers, shipment, answers.having(SENT, shipment).having(WHAT, plate))
        if reading.kind is Read.ORDER:
            shipment = of_order(ctx, OrderNo(reading.code))
        elif reading.kind is Read.SHIPMENT:
            shipment = ShipmentNo(reading.code)
        else:
            raise self.wrong(ctx, answers, reading)
        shipment_to_send(ctx.state, shipment)
        missing = looking.standing(ctx.state, ctx.rulebook, shipment)
        if any(s.stop is not Stop.LOAD and not s.whole for s in missing.steps) or missing.tasks:
            raise Refusal("not_complete", f"`{shipment}` is not complete: {looking.missing_told(missing)}.")
        plates = plates_to(ctx, shipment, (Stop.LOAD,))
        loose = looking.loose_of(ctx.state, ctx.rulebook, shipment, (Stop.LOAD,))
        if not plates and not loose:
            raise Refusal("nothing_to_load", f"Nothing of `{shipment}` is left to load.")
        told = [*(f"`{p}`" for p in plates), *(f"loose goods of `{o}`" for o in loose)]
        says = f"Look: {looking.few(told)}. Is all of that on the truck?"
        return Doubt("yes_no", says, answers.having(SENT, shipment), "All of it is loaded")

    def _meant(self, ctx: Context, answers: Answers, shipment: ShipmentNo, filled: Answers) -> Answers | Doubt:
        """What another carrier's truck takes is asked about first."""
        number, how = answers[TRUCK], ctx.state.shipments[shipment].leaves
        truck = ctx.ground.trucks.get(number) if number else None
        if truck is not None and truck.carrier and how.carrier and truck.carrier != how.carrier:
            says = f"`{shipment}` is meant for {how.carrier}, and truck `{truck.number}` is of {truck.carrier}."
            return Doubt("yes_no", says, filled, "Load it all the same")
        return filled

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        for shipment in islice(shipments_with(ctx, (Stop.LOAD,)), 30):
            plates = plates_to(ctx, shipment, (Stop.LOAD,))
            yield Pick(shipment, called(ctx, shipment), counted(len(plates), "plate") if plates else "loose goods")

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Scan what is loaded"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        waits = next(shipments_with(ctx, (Stop.LOAD,)), None)
        where = f"truck `{answers[TRUCK]}` at `{answers[DOOR]}`" if answers[TRUCK] else f"at `{answers[DOOR]}`"
        return {"note": "" if waits else "Nothing waits to be loaded.", "facts": (where,)}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for shipment in islice(shipments_with(ctx, (Stop.LOAD, Stop.STAGE)), 2):
            for plate in plates_to(ctx, shipment, (Stop.LOAD, Stop.STAGE))[:2]:
                yield plain(f"{plate}, of {called(ctx, shipment)}", plate)
            yield plain(f"all of shipment {shipment}", shipment)
        yield from any_bin(ctx)


class ShippedKind(PromptKind):
    """What leaves? A shipment, by its number, an order of it, or a carton or plate."""

    wants = "a shipment, an order, or a carton of it"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[SENT] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        if reading.kind is Read.SHIPMENT:
            shipment = ShipmentNo(reading.code)
        elif reading.kind is Read.ORDER:
            shipment = of_order(ctx, OrderNo(reading.code))
        elif reading.kind is Read.PLATE:
            shipment = of_plate(ctx, PlateNo(reading.code))
        else:
            raise self.wrong(ctx, answers, reading)
        shipment_to_send(ctx.state, shipment)
        now = looking.standing(ctx.state, ctx.rulebook, shipment)
        missing, filled = looking.missing_told(now), answers.having(SENT, shipment)
        if not now.ready:
            raise Refusal(
                "nothing_ready", f"Nothing of `{shipment}` is ready to leave: {missing or 'nothing is kept for it'}."
            )
        if missing:
            says = f"`{shipment}` is not complete: {missing}. What is ready may leave; the rest stays."
            return Doubt("yes_no", says, filled.having(PARTLY, True), "Ship what is ready")
        return filled

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        for shipment in islice(shipments_with(ctx, (Stop.SHIP,)), 30):
            now = looking.standing(ctx.state, ctx.rulebook, shipment)
            missing = looking.missing_told(now)
            yield Pick(shipment, called(ctx, shipment), missing or "ready")

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Scan what leaves"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        waits = next(shipments_with(ctx, (Stop.SHIP,)), None)
        return {"note": "" if waits else "Nothing is ready to leave."}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for shipment in islice((n for n in sorted(ctx.state.shipments)), 3):
            yield plain(f"shipment {shipment}", shipment)
        for shipment in islice(shipments_with(ctx, (Stop.SHIP,)), 1):
            yield plain(f"order {ctx.state.shipments[shipment].orders[0]}", ctx.state.shipments[shipment].orders[0])
        yield from any_bin(ctx)
        yield from unknown()


class CarrierKind(PromptKind):
    """Who drives? The carrier it was meant for stands first; another is asked about."""

    wants = "a carrier"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[SENT] is not None and answers[BY] is None and bool(ctx.ground.carriers)

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        code = CarrierCode(reading.code.upper())
        if code not in ctx.ground.carriers:
            names = ", ".join(f"`{c}`" for c in ctx.ground.carriers)
            raise Refusal("unknown_carrier", f"`{reading.code}` is no carrier: {names}.")
        meant, filled = ctx.state.shipments[answers.known(SENT)].leaves.carrier, answers.having(BY, code)
        if meant is not None and code != meant:
            name = ctx.ground.carriers[meant].name if meant in ctx.ground.carriers else meant
            says = (
                f"It was meant for {name}; the wave was made for that. Does {ctx.ground.carriers[code].name} take it?"
            )
            return Doubt("yes_no", says, filled, "So it is")
        return filled

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        return f"carrier `{reading.code.upper()}`" if reading.code.upper() in ctx.ground.carriers else ""

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        meant = ctx.state.shipments[answers.known(SENT)].leaves.carrier
        for code, carrier in sorted(ctx.ground.carriers.items(), key=lambda c: (c[0] != meant, c[0])):
            yield Pick(code, carrier.name, "as it was meant" if code == meant else "")

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Who takes it?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        shipment = answers.known(SENT)
        return {"facts": (f"shipment `{shipment}`", called(ctx, shipment))}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for code, carrier in islice(ctx.ground.carriers.items(), 3):
            yield typed(carrier.name, code)
        yield from any_bin(ctx)


PROMPTS: dict[Asks, PromptKind] = {
    Asks.STAGED: StagedKind(),
    Asks.LANE: LaneKind(),
    Asks.TRUCK: TruckKind(),
    Asks.LOADED: LoadedKind(),
    Asks.SHIPPED: ShippedKind(),
    Asks.CARRIER: CarrierKind(),
}
"""What it asks."""
