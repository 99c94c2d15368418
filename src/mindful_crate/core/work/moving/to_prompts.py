"""What is asked while plates are taken up, and where what is carried goes."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal
from typing import Any

from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import BinCode, PlateNo
from mindful_crate.core.floor.slots import Doubt, Slots
from mindful_crate.core.floor.tasks import Task
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Prompt
from mindful_crate.core.scanning.codes import (
    any_bin,
    empty_bins,
    filled_bins,
    plain,
    shown,
    stored_plates,
    unknown,
    waiting_plates,
)
from mindful_crate.core.scanning.kinds import Codes, Context, PromptKind, bin_place, deviation
from mindful_crate.core.scanning.question import Keys, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.moving import checks as moving
from mindful_crate.core.work.moving.from_prompts import asking, count_codes
from mindful_crate.core.work.receiving import checks as receiving


class PartKind(PromptKind):
    """How many of the carried goods go into the next bin? Asked when the worker says that it is only a part."""

    wants = "a number"
    shape: Shape = "number"
    keys: Keys = "number"
    reads = Read.NUMBER

    def needed(self, ctx: Context, slots: Slots) -> bool:
        return slots.part == 0

    def take(self, ctx: Context, slots: Slots, reading: Reading) -> Slots:
        item = carried_item(ctx, slots)
        if reading.kind is not Read.NUMBER or reading.count is None:
            raise Refusal("no_number", f"Enter how many {item.base.plural} go into the next bin.")
        quantity = receiving.whole_quantity(item, item.base, reading.count)
        have = sum(g.quantity for g in ctx.task(slots).goods)
        if quantity > have:
            raise Refusal("not_carried", f"You carry {item.told(have)}; {item.told(quantity)} cannot be placed.")
        return replace(slots, part=Decimal(quantity))

    def title(self, ctx: Context, slots: Slots) -> str:
        return f"How many {carried_item(ctx, slots).base.plural} go into the next bin?"

    def shows(self, ctx: Context, slots: Slots, prompt: Prompt) -> dict[str, Any]:
        item = carried_item(ctx, slots)
        return {"note": f"You carry {item.told(sum(g.quantity for g in ctx.task(slots).goods))}"}

    def codes(self, ctx: Context, slots: Slots, question: Question) -> Codes:
        return count_codes(ctx, question)


def _last_bin(task: Task) -> BinCode:
    """Where the worker was last: the bin of the last share, else the one the goods were taken from."""
    return task.placed_in or task.from_bin


def carried_item(ctx: Context, slots: Slots) -> Item:
    return ctx.ground.items[ctx.task(slots).goods[0].item]


class PlatesKind(PromptKind):
    """Which plates are taken up? Scanning a bin when some are carried says where they go."""

    wants = "a plate"
    shape: Shape = "pallet"

    def needed(self, ctx: Context, slots: Slots) -> bool:
        if slots.plate is not None or slots.bin is not None or slots.going:
            return False
        return not slots.tasks or ctx.flow.several

    def given(self, ctx: Context, slots: Slots) -> Slots | None:
        carried = moving.carried_plates(ctx.state, ctx.person)
        if slots.tasks or not carried:
            return None
        return replace(slots, tasks=carried, going=not ctx.flow.several)

    def take(self, ctx: Context, slots: Slots, reading: Reading) -> Slots | Doubt:
        if reading.kind is Read.BIN and slots.tasks:
            return ToKind().take(ctx, replace(slots, going=True), reading)
        if reading.kind is Read.LABEL:
            raise Refusal("unknown_plate", f"No license plate has the number `{reading.code}`.")
        if reading.kind is not Read.PLATE:
            raise self.wrong(ctx, slots, reading)
        return replace(slots, plate=moving.plate_to_take(ctx.state, PlateNo(reading.code)).number)

    def title(self, ctx: Context, slots: Slots) -> str:
        return "Scan the next plate, or the bin they go to" if slots.tasks else "Scan the plate to move"

    def asked(self, ctx: Context, slots: Slots) -> str:
        return "a plate, or the bin they go to" if slots.tasks else self.wants

    def shows(self, ctx: Context, slots: Slots, prompt: Prompt) -> dict[str, Any]:
        return {"facts": _carried_facts(ctx, slots), "expect": shown_bin(ctx, slots) or "" if slots.tasks else ""}

    def codes(self, ctx: Context, slots: Slots, question: Question) -> Codes:
        for plate in stored_plates(ctx, 3):
            yield plain(f"plate {plate}", plate)
        if slots.tasks:
            yield from _targets(ctx, question)
        yield from waiting_plates(ctx)
        yield plain("a plate label nobody used", ctx.state.number("plate")[0])
        yield from any_bin(ctx)


def _carried_facts(ctx: Context, slots: Slots) -> tuple[str, ...]:
    plates = [ctx.state.tasks[n].plate for n in slots.tasks]
    return tuple(
        f"`{n}` {receiving.plate_text(ctx.state, ctx.state.plates[n]) or 'nothing on it'}" for n in plates if n
    )


def shown_bin(ctx: Context, slots: Slots) -> BinCode | None:
    """The bin shown: that of the goods or the one plate carried, or the one that all carried plates have."""
    if slots.task:
        return ctx.task(slots).to_bin
    bins = {ctx.state.tasks[n].to_bin for n in slots.tasks}
    return bins.pop() if len(bins) == 1 else None


class ToKind(PromptKind):
    """Where does it go? A bin, or a plate that stands in one."""

    wants = "the bin or plate it goes to"
    shape: Shape = "bin"

    def needed(self, ctx: Context, slots: Slots) -> bool:
        return slots.bin is None

    def take(self, ctx: Context, slots: Slots, reading: Reading) -> Slots | Doubt:
        tasks = tuple(ctx.state.tasks[n] for n in ((slots.task,) if slots.task else slots.tasks))
        if reading.kind is Read.PLATE:
            own = next((t for t in slots.tasks if ctx.state.tasks[t].plate == reading.code), None)
            if own:
                return replace(slots, task=own)
            on: PlateNo | None = PlateNo(reading.code)
            code = ctx.state.bin_of(PlateNo(reading.code))
            if code is None:
                raise Refusal("plate_carried", f"Plate `{reading.code}` is being carried. Set it down first.")
        elif reading.kind is Read.BIN:
            on, code = None, BinCode(reading.code)
        else:
            raise self.wrong(ctx, slots, reading)
        moving.check_target(ctx.state, code, on, tasks)
        filled = replace(slots, bin=code, on=on)
        if tasks[0].goods:
            return self._goods(ctx, slots, tasks[0], filled, code)
        down = moving.judge_plates(ctx.state, tasks, code, on)
        if down:
            raise Refusal(f"bin_{down[0].value}", down[1] + self._instead(ctx, slots, code))
        return self._checked(ctx, slots, filled)

    def _goods(self, ctx: Context, slots: Slots, task: Task, filled: Slots, code: BinCode) -> Slots | Doubt:
        item = ctx.ground.items[task.goods[0].item]
        share = self._share(ctx, slots, task, code)
        if share is not None and filled.on is None:
            filled = replace(filled, part=Decimal(share))
        count = int(filled.part) if filled.part else sum(g.quantity for g in task.goods)
        down = moving.judge_goods(ctx.state, task, moving.portion(task.goods, count), code, filled.on)
        if down is None:
            return self._checked(ctx, slots, filled)
        most = moving.most_here(ctx.state, task, code) if filled.on is None and not slots.part else 0
        if 0 < most < count:
            says = f"`{code}` has room for {item.told(most)} of {item.told(count)}. Place those and the rest elsewhere?"
            return Doubt("yes_no", says, replace(filled, part=Decimal(most)), "Place those")
        raise Refusal(f"bin_{down[0].value}", down[1] + self._instead(ctx, slots, code))

    def _share(self, ctx: Context, slots: Slots, task: Task, code: BinCode) -> int | None:
        """What the rules allot the bin shown, when that is not all of it."""
        if slots.part or code != task.to_bin:
            return None
        request = moving.request_to_place(
            ctx.state, ctx.flow, task.goods, asking(ctx), task=task, from_bin=_last_bin(task)
        )
        trail = moving.ask_where_to(ctx.state, ctx.rulebook, ctx.flow, request)
        if trail is None or trail.bin != code or trail.allocations[0].quantity >= sum(g.quantity for g in task.goods):
            return None
        return trail.allocations[0].quantity

    def _checked(self, ctx: Context, slots: Slots, filled: Slots) -> Slots | Doubt:
        shown = None if filled.on else shown_bin(ctx, slots)
        return deviation(ctx, filled.bin or "", shown, filled, "Place it here all the same?", "Place here")

    def _instead(self, ctx: Context, slots: Slots, code: BinCode) -> str:
        shown = shown_bin(ctx, slots)
        return f" Take it to `{shown}`, or to another bin." if shown and shown != code else " Take it to another bin."

    def asked(self, ctx: Context, slots: Slots) -> str:
        shown = shown_bin(ctx, slots)
        return f"bin `{shown}`" if shown else self.wants

    def title(self, ctx: Context, slots: Slots) -> str:
        what = "it" if slots.task else "them" if len(slots.tasks) > 1 else "the plate"
        return (
            f"Take {what} to this bin and scan it"
            if shown_bin(ctx, slots)
            else f"Where does {'it' if what != 'them' else 'all that'} go?"
        )

    def shows(self, ctx: Context, slots: Slots, prompt: Prompt) -> dict[str, Any]:
        shown = shown_bin(ctx, slots)
        facts: tuple[str, ...]
        if slots.task and ctx.task(slots).goods:
            task, item = ctx.task(slots), carried_item(ctx, slots)
            facts = (f"You carry {item.told(sum(g.quantity for g in task.goods))} of {item.name}",)
            if slots.part:
                facts = (*facts, f"into the next bin: {item.told(int(slots.part))}")
            share = self._share(ctx, slots, task, shown) if shown else None
        elif slots.task:
            plate = ctx.task(slots).plate
            facts, share = (f"Plate `{plate}`",), None
        else:
            facts, share = _carried_facts(ctx, slots), None
        if shown is None:
            return {"facts": facts, "note": "Scan a bin, or a plate that stands in one"}
        note = bin_place(ctx, shown) + (f": place {carried_item(ctx, slots).told(share)} there" if share else "")
        return {"facts": facts, "expect": shown, "note": note}

    def codes(self, ctx: Context, slots: Slots, question: Question) -> Codes:
        return _targets(ctx, question)


def _targets(ctx: Context, question: Question) -> Codes:
    yield from shown(question.expect)
    for code in empty_bins(ctx, 2):
        yield plain(f"bin {code}, empty", code)
    for code in filled_bins(ctx, 2):
        yield plain(f"bin {code}", code)
    for plate in stored_plates(ctx, 1):
        yield plain(f"plate {plate}", plate)
    yield from waiting_plates(ctx)
    yield from unknown()


TO_PROMPTS: dict[Asks, PromptKind] = {Asks.PART: PartKind(), Asks.PLATES: PlatesKind(), Asks.TO: ToKind()}
"""What is asked about where it goes."""
