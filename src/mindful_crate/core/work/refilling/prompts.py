"""What is asked of a refill besides its stops and its places: which it is."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.ids import PlateNo, TaskNo
from mindful_crate.core.floor.answers import TASK, Answers, texts
from mindful_crate.core.floor.tasks import Do, Task
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Listed, Prompt
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import all_of
from mindful_crate.core.scanning.codes import any_bin, item_code, plain, unknown
from mindful_crate.core.scanning.kinds import LISTED, Codes, Context, PromptKind
from mindful_crate.core.scanning.question import Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.receiving.checks import goods_text
from mindful_crate.core.work.refilling import looking

PASSED = texts("refills_passed", TaskNo)
"""Refills that were given and are not done now."""


def told(ctx: Context, task: Task) -> str:
    """What a refill brings, and where to."""
    goods = goods_text(ctx.state, (g for m in task.going.remaining if m.do is Do.PLACE for g in m.goods))
    plates = ", ".join(f"plate `{p}`" for p in task.plan.plates)
    return f"{goods or plates} to {all_of(f'`{code}`' for code in looking.goes_to(task))}"


def given(ctx: Context, answers: Answers) -> TaskNo | None:
    """The refill that is next, where a flow gives one after another."""
    if ctx.flow.listed is not Listed.GIVEN:
        return None
    return ctx.state.tasks.next_on_the_walk(ctx.takers, Need.REPLENISH, 0, answers[PASSED])


class RefillKind(PromptKind):
    """Which refill? By its number, the plate it is taken off, goods at hand, or from the list; what is begun is gone on with."""

    wants = "a refill, or goods that are to be brought"
    shape: Shape = "ticket"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[TASK] is None or ctx.task(answers).state.ended

    def given(self, ctx: Context, answers: Answers) -> Answers | None:
        begun = looking.begun_by(ctx.state, ctx.person)
        return answers.having(TASK, begun.number) if begun else None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        task = looking.task_to_refill(ctx.state, self._number(ctx, answers, reading), ctx.crews, ctx.person)
        next_ = given(ctx, answers)
        if next_ is not None and task.number != next_:
            raise Refusal("not_the_next", f"`{task.number}` is not the next: that is `{next_}`.")
        return answers.having(TASK, task.number).without(PASSED)

    def _number(self, ctx: Context, answers: Answers, reading: Reading) -> TaskNo:
        if reading.kind is Read.TASK:
            return TaskNo(reading.code)
        if reading.kind is Read.ITEM and reading.item:
            task = ctx.state.first_loose(ctx.takers, Need.REPLENISH, reading.item)
            if task is None:
                name = ctx.ground.items[reading.item].name
                raise Refusal("no_task", f"No refill for you brings `{reading.item}` {name}.")
            return task.number
        if reading.kind is Read.PLATE:
            plate = PlateNo(reading.code)
            for number in ctx.state.tasks.open_numbers(ctx.takers, Need.REPLENISH, LISTED):
                if any(m.plate == plate for m in ctx.state.tasks[number].going.remaining):
                    return number
            raise Refusal("no_task", f"No refill for you takes anything off plate `{plate}`.")
        raise self.wrong(ctx, answers, reading)

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        next_, tasks = given(ctx, answers), ctx.state.tasks
        if next_ is not None:
            numbers = [next_]
        elif ctx.flow.listed is Listed.BINS:
            numbers = tasks.on_the_walk(ctx.takers, Need.REPLENISH, LISTED)
        else:
            numbers = tasks.open_numbers(ctx.takers, Need.REPLENISH, LISTED)
        for each in numbers:
            task = tasks[each]
            yield Pick(each, f"{each} · {told(ctx, task).replace('`', '')}", f"first in {task.from_bin}")

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return False  # before the first stop

    def title(self, ctx: Context, answers: Answers) -> str:
        next_ = given(ctx, answers)
        return f"Next is `{next_}`" if next_ else "Scan what to bring from reserve"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        waits = ctx.state.open_count(ctx.takers, Need.REPLENISH)
        many = f"{waits} wait to be brought" if waits > 1 else "1 waits to be brought"
        note = many if waits else "Nothing waits to be brought by you."
        next_ = given(ctx, answers)
        if next_ is None:
            return {"note": note}
        return {"expect": next_, "note": note, "facts": (told(ctx, ctx.state.tasks[next_]),)}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        numbers = ctx.state.tasks.open_numbers(ctx.takers, Need.REPLENISH, 3)
        for each in numbers:
            yield plain(f"refill {each}", each)
        for each in numbers[:1]:
            task = ctx.state.tasks[each]
            if task.from_plate:
                yield plain(f"plate {task.from_plate}", task.from_plate)
            for goods in task.plan.loose[:1]:
                item = ctx.ground.items[goods.item]
                yield from item_code(ctx, item, item.base.code)
        others = (t for t in ctx.state.tasks.values() if t.need is not Need.REPLENISH)
        for task in islice(others, 1):
            yield plain(f"task {task.number}, which is none", task.number)
        yield from any_bin(ctx)
        yield from unknown()


PROMPTS: dict[Asks, PromptKind] = {Asks.REFILL: RefillKind()}
"""What it asks."""
