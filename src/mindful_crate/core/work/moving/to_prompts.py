"""What is asked while plates are taken up, and where what is carried goes."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from mindful_crate.core.catalog.amounts import portion
from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import BinCode, PlateNo
from mindful_crate.core.floor.answers import PLATE, TASK, Answers, Doubt
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
from mindful_crate.core.scanning.kinds import BIN, Codes, Context, PromptKind, bin_place, deviation
from mindful_crate.core.scanning.question import Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.moving import checks as moving
from mindful_crate.core.work.moving.from_prompts import GOING, asking
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.tasks.dialogue import ON, PART, TASKS
from mindful_crate.core.work.tasks.parts import PartKind


def _last_bin(task: Task) -> BinCode:
    """Where the worker was last: the bin of the last share, else the one the goods were taken from."""
    return task.placed_in or task.from_bin


def carried_item(ctx: Context, answers: Answers) -> Item:
    return ctx.ground.items[ctx.task(answers).goods[0].item]


class PlatesKind(PromptKind):
    """Which plates are taken up? Scanning a bin when some are carried says where they go."""

    wants = "a plate"
    shape: Shape = "pallet"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        if answers[PLATE] is not None or answers[BIN] is not None or answers[GOING]:
            return False
        return not answers[TASKS] or ctx.flow.several

    def given(self, ctx: Context, answers: Answers) -> Answers | None:
        carried = moving.carried_plates(ctx.state, ctx.person)
        if answers[TASKS] or not carried:
            return None
        return answers.having(TASKS, carried).having(GOING, not ctx.flow.several)

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        if reading.kind is Read.BIN and answers[TASKS]:
            return ToKind().take(ctx, answers.having(GOING, True), reading)
        if reading.kind is Read.LABEL:
            raise Refusal("unknown_plate", f"No license plate has the number `{reading.code}`.")
        if reading.kind is not Read.PLATE:
            raise self.wrong(ctx, answers, reading)
        return answers.having(PLATE, moving.plate_to_take(ctx.state, PlateNo(reading.code)).number)

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Scan the next plate, or the bin they go to" if answers[TASKS] else "Scan the plate to move"

    def asked(self, ctx: Context, answers: Answers) -> str:
        return "a plate, or the bin they go to" if answers[TASKS] else self.wants

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        return {
            "facts": _carried_facts(ctx, answers),
            "expect": shown_bin(ctx, answers) or "" if answers[TASKS] else "",
        }

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for plate in stored_plates(ctx, 3):
            yield plain(f"plate {plate}", plate)
        if answers[TASKS]:
            yield from _targets(ctx, question)
        yield from waiting_plates(ctx)
        yield plain("a plate label nobody used", ctx.state.number("plate")[0])
        yield from any_bin(ctx)


def _carried_facts(ctx: Context, answers: Answers) -> tuple[str, ...]:
    plates = [ctx.state.tasks[n].plate for n in answers[TASKS]]
    return tuple(
        f"`{n}` {receiving.plate_text(ctx.state, ctx.state.plates[n]) or 'nothing on it'}" for n in plates if n
    )


def shown_bin(ctx: Context, answers: Answers) -> BinCode | None:
    """The bin shown: that of the goods or the one plate carried, or the one that all carried plates have."""
    if answers[TASK]:
        return ctx.task(answers).to_bin
    bins = {ctx.state.tasks[n].to_bin for n in answers[TASKS]}
    return bins.pop() if len(bins) == 1 else None


class ToKind(PromptKind):
    """Where does it go? A bin, or a plate that stands in one."""

    wants = "the bin or plate it goes to"
    shape: Shape = "bin"

    fixable = True

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[BIN] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        tasks = tuple(ctx.state.tasks[n] for n in ((answers.known(TASK),) if answers[TASK] else answers[TASKS]))
        if not tasks or answers[PLATE]:
            raise Refusal("nothing_carried", "What goes there is not taken up yet.")
        if reading.kind is Read.PLATE:
            own = next((t for t in answers[TASKS] if ctx.state.tasks[t].plate == reading.code), None)
            if own:
                return answers.having(TASK, own)
            on: PlateNo | None = PlateNo(reading.code)
            code = ctx.state.bin_of(PlateNo(reading.code))
            if code is None:
                raise Refusal("plate_carried", f"Plate `{reading.code}` is being carried. Set it down first.")
        elif reading.kind is Read.BIN:
            on, code = None, BinCode(reading.code)
        else:
            raise self.wrong(ctx, answers, reading)
        moving.check_target(ctx.state, code, on, tasks)
        filled = answers.having(BIN, code).having(ON, on)
        if tasks[0].goods:
            return self._goods(ctx, answers, tasks[0], filled, code)
        down = moving.judge_plates(ctx.state, tasks, code, on)
        if down:
            raise Refusal(f"bin_{down[0].value}", down[1] + self._instead(ctx, answers, code))
        return self._checked(ctx, answers, filled)

    def _goods(self, ctx: Context, answers: Answers, task: Task, filled: Answers, code: BinCode) -> Answers | Doubt:
        item = ctx.ground.items[task.goods[0].item]
        share = self._share(ctx, answers, task, code)
        if share is not None and filled[ON] is None:
            filled = filled.having(PART, Decimal(share))
        count = int(filled.known(PART)) if filled[PART] else sum(g.quantity for g in task.goods)
        down = moving.judge_goods(ctx.state, task, portion(task.goods, count), code, filled[ON])
        if down is None:
            return self._checked(ctx, answers, filled)
        most = moving.most_here(ctx.state, task, code) if filled[ON] is None and not answers[PART] else 0
        if 0 < most < count:
            says = f"`{code}` has room for {item.told(most)} of {item.told(count)}. Place those and the rest elsewhere?"
            return Doubt("yes_no", says, filled.having(PART, Decimal(most)), "Place those")
        raise Refusal(f"bin_{down[0].value}", down[1] + self._instead(ctx, answers, code))

    def _share(self, ctx: Context, answers: Answers, task: Task, code: BinCode) -> int | None:
        """What the rules allot the bin shown, when that is not all of it."""
        if answers[PART] or code != task.to_bin:
            return None
        request = moving.request_to_place(
            ctx.state, ctx.flow, task.goods, asking(ctx), task=task, from_bin=_last_bin(task)
        )
        trail = moving.ask_where_to(ctx.state, ctx.rulebook, ctx.flow, request)
        if trail is None or trail.bin != code or trail.allocations[0].quantity >= sum(g.quantity for g in task.goods):
            return None
        return trail.allocations[0].quantity

    def _checked(self, ctx: Context, answers: Answers, filled: Answers) -> Answers | Doubt:
        shown = None if filled[ON] else shown_bin(ctx, answers)
        return deviation(ctx, filled[BIN] or "", shown, filled, "Place it here all the same?", "Place here")

    def _instead(self, ctx: Context, answers: Answers, code: BinCode) -> str:
        shown = shown_bin(ctx, answers)
        return f" Take it to `{shown}`, or to another bin." if shown and shown != code else " Take it to another bin."

    def again(self, answers: Answers) -> str:
        return answers[ON] or answers[BIN] or ""

    def asked(self, ctx: Context, answers: Answers) -> str:
        shown = shown_bin(ctx, answers)
        return f"bin `{shown}`" if shown else self.wants

    def title(self, ctx: Context, answers: Answers) -> str:
        what = "it" if answers[TASK] else "them" if len(answers[TASKS]) > 1 else "the plate"
        return (
            f"Take {what} to this bin and scan it"
            if shown_bin(ctx, answers)
            else f"Where does {'it' if what != 'them' else 'all that'} go?"
        )

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        shown = shown_bin(ctx, answers)
        facts: tuple[str, ...]
        if answers[TASK] and ctx.task(answers).goods:
            task, item = ctx.task(answers), carried_item(ctx, answers)
            facts = (f"You carry {item.told(sum(g.quantity for g in task.goods))} of {item.name}",)
            if answers[PART]:
                facts = (*facts, f"into the next bin: {item.told(int(answers.known(PART)))}")
            share = self._share(ctx, answers, task, shown) if shown else None
        elif answers[TASK]:
            plate = ctx.task(answers).plate
            facts, share = (f"Plate `{plate}`",), None
        else:
            facts, share = _carried_facts(ctx, answers), None
        if shown is None:
            return {"facts": facts, "note": "Scan a bin, or a plate that stands in one"}
        note = bin_place(ctx, shown) + (f": place {carried_item(ctx, answers).told(share)} there" if share else "")
        return {"facts": facts, "expect": shown, "note": note}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
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
