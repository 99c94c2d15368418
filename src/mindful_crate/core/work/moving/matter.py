"""Moves inside the site: the flows for plates and for goods, and their row among the matters."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from typing import ClassVar

from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.slots import Slots
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, Prompt
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import ButtonKind, Context, FlowKind, Step
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.work.moving import checks as moving
from mindful_crate.core.work.moving.acts import PlaceGoods, PlacePlates, TakeGoods, TakePlate
from mindful_crate.core.work.moving.decide import DECIDES
from mindful_crate.core.work.moving.from_prompts import FROM_PROMPTS, base_count, take_count
from mindful_crate.core.work.moving.to_prompts import TO_PROMPTS
from mindful_crate.core.work.rows import Matter
from mindful_crate.core.work.tasks.dialogue import carried_on


class SetDown(ButtonKind):
    """No further plate is taken up."""

    action = "go_on"
    says = "Nothing more is taken up."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if prompt is not None and prompt.asks is Asks.PLATES and dialogue.slots.tasks:
            return None
        return Refusal("not_now", "Take a plate up first.")

    def label(self, ctx: Context, slots: Slots, question: Question) -> str:
        return "Set down"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, replace(dialogue.slots, going=True), ())


class OnlyAPart(ButtonKind):
    """A part of the carried goods goes into the next bin, if the flow has a question for it and there is more than one."""

    action = "part"
    says = "Only a part, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        slots = dialogue.slots
        asked = prompt is not None and prompt.asks is Asks.TO and slots.task is not None
        may = asked and any(p.asks is Asks.PART for p in ctx.flow.prompts)
        if may and sum(g.quantity for g in ctx.task(slots).goods) > 1:
            return None
        return Refusal("not_now", "There is nothing to split here.")

    def label(self, ctx: Context, slots: Slots, question: Question) -> str:
        return "Only a part"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, replace(dialogue.slots, part=Decimal(0)), passed(dialogue))


class MovePlates(FlowKind):
    """Plates are taken up as they are scanned, one or several, and placed all or one by one."""

    waits: ClassVar = {Asks.PLATES: (), Asks.TO: (Asks.PLATES,)}
    needed = (Asks.PLATES, Asks.TO)
    buttons = (SetDown(),)

    def between(self, ctx: Context, slots: Slots, prompt: Prompt | None) -> tuple[tuple[Named, ...], Slots]:
        if slots.plate is None:
            return (), slots
        return (TakePlate(ctx.flow.id, slots.plate),), replace(slots, plate=None)

    def complete(self, ctx: Context, slots: Slots) -> tuple[Named, Slots]:
        """What is still carried is asked for next."""
        assert slots.bin
        placed = (slots.task,) if slots.task else slots.tasks
        left = tuple(t for t in slots.tasks if t not in placed)
        return PlacePlates(placed, slots.bin, slots.on, slots.reason or ""), Slots(tasks=left, going=bool(left))

    def follows(self, slots: Slots, acts: Sequence[Named], events: Sequence[Named]) -> Slots:
        return carried_on(slots, events)

    def carried(self, ctx: Context) -> list[str]:
        plates = [ctx.state.tasks[n].plate for n in moving.carried_plates(ctx.state, ctx.person)]
        return [f"plate `{n}`" for n in plates if n]


class MoveGoods(FlowKind):
    """Goods are taken out of a bin or off a plate once source, item and count are known, and placed whole or in parts."""

    waits: ClassVar = {
        Asks.FROM: (), Asks.GOODS: (), Asks.LOT_THERE: (Asks.FROM, Asks.GOODS), Asks.COUNT: (Asks.GOODS,), Asks.PART: (),
        Asks.TO: (Asks.FROM, Asks.GOODS, Asks.LOT_THERE, Asks.COUNT),
    }  # fmt: skip
    needed = (Asks.FROM, Asks.GOODS, Asks.COUNT, Asks.TO)
    buttons = (OnlyAPart(),)

    def between(self, ctx: Context, slots: Slots, prompt: Prompt | None) -> tuple[tuple[Named, ...], Slots]:
        """The count then tells what is still to come."""
        ready = slots.from_bin and slots.item and slots.count
        if slots.task or not ready or not prompt or prompt.asks is not Asks.TO:
            return (), slots
        assert slots.from_bin and slots.item
        count = take_count(ctx, slots)
        left = base_count(ctx, slots) - count
        act = TakeGoods(ctx.flow.id, slots.from_bin, slots.item, count, slots.lot or "", slots.from_plate)
        rest = Decimal(left) if left and ctx.flow.takes_by else None
        return (act,), Slots(item=slots.item, unit=slots.unit, count=rest, lot=slots.lot)

    def complete(self, ctx: Context, slots: Slots) -> tuple[Named, Slots]:
        """What the worker came for and has not taken yet is gone on with."""
        assert slots.task and slots.bin
        part = int(slots.part) if slots.part else None
        act = PlaceGoods(ctx.flow.id, slots.task, slots.bin, slots.on, part, slots.reason or "")
        if slots.count and slots.item:
            return act, Slots(item=slots.item, unit=ctx.item(slots).base.code, count=slots.count, lot=slots.lot)
        return act, Slots()

    def follows(self, slots: Slots, acts: Sequence[Named], events: Sequence[Named]) -> Slots:
        return carried_on(slots, events)

    def carried(self, ctx: Context) -> list[str]:
        task = moving.carried_goods(ctx.state, ctx.person)
        items = ctx.ground.items
        return [f"{items[g.item].told(g.quantity)} of {items[g.item].name}" for g in task.goods] if task else []


MOVING = Matter(
    "moving", DECIDES,
    flows={FlowPurpose.MOVE_PLATES: MovePlates(), FlowPurpose.MOVE_GOODS: MoveGoods()}, prompts={**FROM_PROMPTS, **TO_PROMPTS},
)  # fmt: skip
"""What it brings."""
