"""The flow of receiving: lines onto a plate or into a receipt, and the buttons between them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from typing import ClassVar

from mindful_crate.core.catalog.goods import Item, ItemUnit
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.slots import Slots
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, PlateBy, Prompt
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import ButtonKind, Context, FlowKind, Step
from mindful_crate.core.scanning.question import Question, SoFar
from mindful_crate.core.scanning.reading import How, Read, Scan, read
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.receiving.acts import ChangeLine, FinishPlate, NoteLine
from mindful_crate.core.work.receiving.events import LoadStarted, PlateStarted
from mindful_crate.core.work.receiving.prompts import order_of


class NewPlate(ButtonKind):
    """A new plate is begun, instead of going on with one."""

    action = "new_plate"
    says = "A new plate, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if prompt is None or prompt.asks is not Asks.PLATE:
            return Refusal("not_now", "A new plate can be begun only before the first item.")
        if ctx.flow.plate_by is PlateBy.ASKED:
            return Refusal("label_asked", "A new plate gets the number of its label here: scan an unused one.")
        return None

    def label(self, ctx: Context, slots: Slots, question: Question) -> str:
        return "New receipt" if ctx.flow.plate_by is PlateBy.NONE else "New plate"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, replace(dialogue.slots, new_plate=True), passed(dialogue))


def _within_a_line(ctx: Context, slots: Slots) -> Refusal | None:
    if slots.item is None:
        return None
    name = ctx.item(slots).name
    return Refusal("line_unfinished", f"The line with {name} is not complete: answer it, or step back.")


class Finish(ButtonKind):
    """What was noted is finished, between two lines."""

    action = "finish"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        slots = dialogue.slots
        within = _within_a_line(ctx, slots)
        if within or (slots.plate is not None and ctx.state.has_plate(slots.plate)):
            return within
        return Refusal("empty_plate", "Nothing is noted yet: scan an item first.")

    def label(self, ctx: Context, slots: Slots, question: Question) -> str:
        return "Finish receipt" if ctx.flow.plate_by is PlateBy.NONE else "Finish plate"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        slots = dialogue.slots
        assert slots.plate is not None
        going_on = slots.order and ctx.state.lines_open(order_of(ctx, slots))
        return Step(Slots(order=slots.order if going_on else None), acts=(FinishPlate(slots.plate),))


class OtherOrder(ButtonKind):
    """Goes on with another order, between two lines."""

    action = "other_order"
    says = "Another order, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if dialogue.slots.order is None:
            return Refusal("not_now", "No order is named yet: scan one.")
        return _within_a_line(ctx, dialogue.slots)

    def label(self, ctx: Context, slots: Slots, question: Question) -> str:
        return "Other order"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, replace(dialogue.slots, order=None), passed(dialogue))


class EditLine(ButtonKind):
    """Changes a line of what is so far."""

    of_line = True
    action = "change_line"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if ctx.kind.so_far(ctx, dialogue.slots):
            return None
        return Refusal("no_such_line", "No line is noted here that could be changed.")

    def label(self, ctx: Context, slots: Slots, question: Question) -> str:
        return "Change"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        if line is None:
            raise Refusal("no_line_named", "Choose a line of the list first.")
        slots = dialogue.slots
        plate = slots.plate and ctx.state.plate(slots.plate)
        noted = plate and next((x for x in plate.lines if x.line == line), None)
        if not plate or not noted:
            raise Refusal("no_such_line", f"Line {line} is not on the plate any more.")
        item = ctx.ground.items[noted.item]
        quantity = self.quantity(ctx, item, item.unit(noted.unit), count or "")
        return Step(slots, dialogue.past, acts=(ChangeLine(plate.number, noted.line, quantity),))

    def quantity(self, ctx: Context, item: Item, unit: ItemUnit, count: str) -> int:
        """How much of it there is then, in base units."""
        number = read(Scan(count, How.TYPED), Read.NUMBER, ctx.state, ctx.today).count
        if number is None:
            raise Refusal("no_number", f"`{count}` is no number. Enter how many {unit.plural}.")
        return receiving.whole_quantity(item, unit, number)


class RemoveLine(EditLine):
    """Takes a line off what is so far."""

    action = "remove_line"

    def label(self, ctx: Context, slots: Slots, question: Question) -> str:
        return "Remove"

    def quantity(self, ctx: Context, item: Item, unit: ItemUnit, count: str) -> int:
        return 0


class Receive(FlowKind):
    """Lines are noted until what is received is finished."""

    waits: ClassVar = {
        Asks.ORDER: (), Asks.PLATE: (), Asks.ITEM: (Asks.ORDER,), Asks.EXPIRY: (Asks.ITEM,), Asks.LOT: (Asks.ITEM,),
        Asks.QUANTITY: (Asks.ITEM,),
    }  # fmt: skip
    needed = (Asks.ORDER, Asks.ITEM, Asks.QUANTITY)
    buttons = (NewPlate(), Finish(), OtherOrder(), EditLine(), RemoveLine())

    def complete(self, ctx: Context, slots: Slots) -> tuple[Named, Slots]:
        """A line is noted; order and plate stay for the next."""
        quantity = receiving.whole_quantity(ctx.item(slots), ctx.unit(slots), slots.count or Decimal(0))
        assert slots.order and slots.item and slots.unit
        act = NoteLine(
            ctx.flow.id, slots.order, slots.item, slots.unit, quantity,
            slots.plate, ctx.flow.plate_kind, slots.lot or "", slots.expiry,
        )  # fmt: skip
        return act, Slots(order=slots.order, plate=slots.plate, new_plate=slots.new_plate)

    def follows(self, slots: Slots, acts: Sequence[Named], events: Sequence[Named]) -> Slots:
        """What was begun is gone on with, unless it is finished already."""
        if any(isinstance(a, FinishPlate) for a in acts):
            return slots
        for event in events:
            if isinstance(event, PlateStarted | LoadStarted):
                begun = event.load if isinstance(event, LoadStarted) else event.plate
                slots = replace(slots, plate=begun, new_plate=False)
        return slots

    def so_far(self, ctx: Context, slots: Slots) -> tuple[SoFar, ...]:
        plate = slots.plate and ctx.state.plate(slots.plate)
        if not plate:
            return ()
        rows = []
        for line in plate.lines:
            item = ctx.ground.items[line.item]
            unit = item.unit(line.unit)
            count, rest = divmod(line.quantity, unit.quantity)
            if rest:
                unit, count = item.base, line.quantity
            lot = f", lot {line.lot}" if line.lot else ""
            told = item.told_in(count, unit)
            rows.append(SoFar(line.line, item.code, item.name + lot, told, str(count), unit.plural))
        return tuple(rows)

    def unfinished(self, ctx: Context, slots: Slots) -> str:
        if not slots.plate or not ctx.state.has_plate(slots.plate):
            return ""
        building = ctx.state.plate(slots.plate)
        if building and building.into:
            return f"Receipt `{slots.plate}` is still open"
        return f"Plate `{slots.plate}` is still being built"

    def over(self, state: State, slots: Slots) -> None:
        if slots.plate and state.has_plate(slots.plate):
            receiving.building_plate(state, slots.plate)  # says who finished it, if somebody did
