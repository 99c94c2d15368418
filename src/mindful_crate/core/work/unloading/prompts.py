"""What is asked while unloading: what comes, where it is set down, and what comes off."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, TruckNo
from mindful_crate.core.floor.answers import Answers, text
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Check, Prompt
from mindful_crate.core.rulebook.steps import StepPlan
from mindful_crate.core.scanning.codes import any_bin, plain, shown, typed, unknown
from mindful_crate.core.scanning.kinds import BIN, COUNT, LISTED, Codes, Context, NumberKind, PromptKind, bin_place
from mindful_crate.core.scanning.question import Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.receiving.coming import KINDS, ORDER, notice_told, order_named
from mindful_crate.core.work.unloading import checks as unloading

TRUCK = text("truck", TruckNo)
OFF = text("off", PlateNo)
"""The announced plate that comes off."""


def delivery(ctx: Context, answers: Answers) -> tuple[Order, StepPlan]:
    """The order being unloaded, and its plan; refused when it may not be any more."""
    return unloading.order_to_unload(ctx.rulebook, ctx.state, answers.known(ORDER))


def _partner(ctx: Context, number: OrderNo) -> str:
    order = ctx.state.order(number)
    return ctx.ground.partners[order.partner].name if order else ""


class DeliveryKind(PromptKind):
    """What is unloaded: an order, by its number, that of its notice, or the label of an announced plate; a truck says from where."""

    wants = "an order, a notice, an announced plate or a truck"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[ORDER] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        state = ctx.state
        if reading.kind is Read.LABEL and (found := state.announced(PlateNo(reading.code))):
            order, _ = unloading.order_to_unload(ctx.rulebook, state, found[0].order)
            unloading.check_plate(state, order.number, PlateNo(reading.code))
            return answers.having(ORDER, order.number).having(OFF, PlateNo(reading.code))
        if reading.kind is Read.TRUCK and (truck := unloading.truck_of(state, reading.code)):
            unloading.check_truck(state, truck.number)
            return answers.having(TRUCK, truck.number).having(BIN, truck.door)
        number = order_named(ctx, reading)
        if number is None:
            raise self.wrong(ctx, answers, reading)
        order, _ = unloading.order_to_unload(ctx.rulebook, state, number)
        return answers.having(ORDER, order.number)

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        if reading.kind is Read.TRUCK and (truck := unloading.truck_of(ctx.state, reading.code)):
            return f"truck `{truck.number}` at `{truck.door}`"
        return notice_told(ctx, reading)

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        for order, _ in islice(unloading.to_unload(ctx.rulebook, ctx.state), LISTED):
            partner = ctx.ground.partners[order.partner].name
            plates = len(unloading.announced_still(ctx.state, order.number))
            how = f", {plates} announced" if plates else ""
            yield Pick(order.number, order.number, f"{KINDS[order.kind]} {partner}{how}")

    def title(self, ctx: Context, answers: Answers) -> str:
        truck = answers[TRUCK]
        return f"What comes off truck {truck}?" if truck else "What is unloaded?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        if answers[TRUCK]:
            return {
                "note": f"At {answers[BIN]}. Scan the paper of an order, its notice, or the label of an announced plate"
            }
        return {"note": "Scan the truck first, or the paper of an order, its notice, or an announced plate"}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for order, _ in islice(unloading.to_unload(ctx.rulebook, ctx.state), 3):
            yield plain(f"order {order.number}", order.number)
            for plate in unloading.announced_still(ctx.state, order.number)[:1]:
                yield plain(f"announced plate {plate}", plate)
        trucks = [t for t in ctx.ground.opening.trucks if t.site == ctx.state.settings.site]
        for truck in trucks[:2]:
            yield plain(f"truck {truck.number}, {truck.direction.value}", truck.number)
        yield from any_bin(ctx)
        yield from unknown()


class DoorKind(PromptKind):
    """Where is it set down? Known where the plan names the place and nobody must scan it, or the truck stands there."""

    wants = "the place where it is set down"
    shape: Shape = "bin"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[BIN] is None

    def _where(self, ctx: Context, answers: Answers) -> BinCode | None:
        if answers[ORDER] is None:
            return None
        order, plan = delivery(ctx, answers)
        return unloading.where(ctx.state, ctx.rulebook, order, plan, ctx.today)[0]

    def given(self, ctx: Context, answers: Answers) -> Answers | None:
        asked = next((p for p in ctx.flow.prompts if p.asks is Asks.DOOR), None)
        if asked is None or asked.check is Check.SCAN:
            return None
        try:
            found = self._where(ctx, answers)
        except Refusal:  # it is said when it is unloaded
            return None
        return answers.having(BIN, found) if found else None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is not Read.BIN:
            raise self.wrong(ctx, answers, reading)
        unloading.check_door(ctx.state, BinCode(reading.code))
        return answers.having(BIN, BinCode(reading.code))

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Where is it set down? Scan the place"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        try:
            found = self._where(ctx, answers)
        except Refusal:
            found = None
        return {"expect": found or "", "note": bin_place(ctx, found) if found else ""}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield from shown(question.expect)
        yield from any_bin(ctx)


class LoadsKind(NumberKind):
    """What comes off: an announced plate that is scanned, or how many pallets and packages."""

    wants = "the label of an announced plate"
    shape: Shape = "pallet"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[OFF] is None and answers[COUNT] is None

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        still = answers[ORDER] is not None and unloading.announced_still(ctx.state, answers.known(ORDER))
        return bool(still) and super().must_scan(ctx, answers, prompt)

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is Read.LABEL or reading.kind is Read.PLATE:
            unloading.check_plate(ctx.state, answers.known(ORDER), PlateNo(reading.code))
            return answers.having(OFF, PlateNo(reading.code))
        count = self.number(reading, "pallets and packages")
        if count != int(count):
            raise Refusal("fraction", "Half a pallet does not come off: enter a whole number.")
        unloading.check_count(int(count))
        return answers.having(COUNT, count)

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        for plate in islice(unloading.announced_still(ctx.state, answers.known(ORDER)), LISTED):
            found = ctx.state.announced(plate)
            lines = found[1].lines if found else ()
            items = ctx.ground.items
            yield Pick(plate, plate, ", ".join(f"{items[x.item].told(x.quantity)} {items[x.item].name}" for x in lines))

    def title(self, ctx: Context, answers: Answers) -> str:
        if unloading.announced_still(ctx.state, answers.known(ORDER)):
            return "Scan each announced plate as it comes off"
        return "How many pallets and packages come off?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        order = answers.known(ORDER)
        announced, still = ctx.state.announced_of(order), unloading.announced_still(ctx.state, order)
        off = len(announced) - len(still)
        note = f"Into {answers[BIN]}"
        if announced:
            note += f": {off} of {len(announced)} announced plates are off. Others: enter how many"
        return {"note": note, "facts": (f"`{order}` from {_partner(ctx, order)}",)}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for plate in unloading.announced_still(ctx.state, answers.known(ORDER))[:2]:
            yield plain(f"announced plate {plate}", plate)
        yield typed("3 pallets", "3")
        yield typed("none", "0")
        yield from any_bin(ctx)
        yield from unknown()


PROMPTS: dict[Asks, PromptKind] = {
    Asks.DELIVERY: DeliveryKind(),
    Asks.DOOR: DoorKind(),
    Asks.LOADS: LoadsKind(),
}
"""What it asks."""
