"""What is asked of a pick task before its stops and after them: which it is, a tote for each order, and the station. What is asked at a stop is
in ``stop_prompts``."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, TaskNo, WaveNo
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.floor.answers import TASK, Answers, Doubt
from mindful_crate.core.floor.tasks import Tote
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Listed, Prompt
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import all_of
from mindful_crate.core.scanning.codes import any_bin, empty_totes, plain, shown, stored_plates, unknown
from mindful_crate.core.scanning.kinds import BIN, LISTED, Codes, Context, PromptKind, bin_place, deviation
from mindful_crate.core.scanning.question import Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.picking import doing, looking
from mindful_crate.core.work.picking.stop_prompts import STOP_PROMPTS
from mindful_crate.core.work.picking.stops import LEAVING, NEW_TOTE, SHORT, facts_of, in_hands_told, next_stop, picking
from mindful_crate.core.work.receiving.checks import goods_text


class PickedKind(PromptKind):
    """Which task is picked? By its number, its wave, an order, or goods at hand; what is begun is gone on with."""

    wants = "a pick list, a task, a wave, or an order"
    shape: Shape = "ticket"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return picking(ctx, answers) is None

    def given(self, ctx: Context, answers: Answers) -> Answers | None:
        begun = looking.picked_by(ctx.state, ctx.person)
        return answers.having(TASK, begun.number) if begun else None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        given = _given(ctx)
        number = self._number(ctx, answers, reading)
        begun = looking.picked_by(ctx.state, ctx.person)
        if begun is not None and begun.number != number:  # on another handset, since this one began
            fetched = looking.in_hand(begun) and not looking.takes(begun)
            what = "was fetched and not set down yet" if fetched else "is begun"
            says = f"Your task `{begun.number}`, {looking.whom(begun)}, {what}. Finish it right here first?"
            return Doubt("yes_no", says, answers.having(TASK, begun.number), f"Go on with {begun.number}")
        task = looking.task_to_pick(ctx.state, number, ctx.crews, ctx.person)
        if given is not None and task.number != given:
            raise Refusal("not_the_next", f"`{task.number}` is not the next: that is `{given}`.")
        return answers.having(TASK, task.number)

    def _number(self, ctx: Context, answers: Answers, reading: Reading) -> TaskNo:
        if reading.kind is Read.TASK:
            return TaskNo(reading.code)
        if reading.kind is Read.WAVE:
            wave = ctx.state.waves[WaveNo(reading.code)]
            if wave.cancelled:
                raise Refusal("wave_cancelled", f"Wave `{wave.number}` was cancelled: {wave.cancelled}.")
            return self._first(ctx, wave.tasks, f"wave `{wave.number}`")
        if reading.kind is Read.ORDER:
            order = OrderNo(reading.code)
            tasks, waves = ctx.state.tasks, ctx.state.waves.of_order(order)
            # those that are done are looked for only where no other is left
            mine = tasks.picking(order) or [n for w in waves for n in w.tasks if order in tasks[n].plan.orders]
            return self._first(ctx, mine, f"`{order}`")
        if reading.kind is Read.ITEM and reading.item:
            task = ctx.state.first_loose(ctx.takers, Need.PICK, reading.item)
            if task is None:
                name = ctx.ground.items[reading.item].name
                raise Refusal("no_task", f"No task for you picks `{reading.item}` {name}.")
            return task.number
        if reading.kind is Read.PLATE:
            plate = PlateNo(reading.code)
            task = ctx.state.tasks.with_tote(plate) or ctx.state.task_of(plate)
            if task is not None:
                return task.number
        raise self.wrong(ctx, answers, reading)

    def _first(self, ctx: Context, tasks: Iterable[TaskNo], what: str) -> TaskNo:
        """The first of these tasks that this person may take; refused with why none may be."""
        why: Refusal | None = None
        for each in tasks:
            try:
                return looking.task_to_pick(ctx.state, each, ctx.crews, ctx.person).number
            except Refusal as refusal:
                # what is done says least: that somebody has the rest says more
                if why is None or why.problem.code == "task_done":
                    why = refusal
        raise why or Refusal("no_task", f"Nothing of {what} is to be picked: no task was made of it.")

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        given = _given(ctx)
        tasks = ctx.state.tasks
        if given is not None:
            numbers = [given]
        elif ctx.flow.listed is Listed.BINS:
            numbers = tasks.on_the_walk(ctx.takers, Need.PICK, LISTED)
        else:
            numbers = tasks.open_numbers(ctx.takers, Need.PICK, LISTED)
        for each in numbers:
            task = tasks[each]
            yield Pick(each, f"{each} · {looking.told(ctx.state, task).replace('`', '')}", f"first in {task.from_bin}")

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return False  # before the first stop

    def title(self, ctx: Context, answers: Answers) -> str:
        given = _given(ctx)
        return f"Next is `{given}`" if given else "Scan what to pick"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        waits = ctx.state.open_count(ctx.takers, Need.PICK)
        note = (
            "Nothing waits to be picked by you."
            if not waits
            else f"{waits} wait to be picked"
            if waits > 1
            else "1 waits to be picked"
        )
        given = _given(ctx)
        if given is None:
            return {"note": note}
        task = ctx.state.tasks[given]
        move = looking.next_take(task)
        return {
            "expect": given,
            "note": note,
            "facts": (looking.told(ctx.state, task), *(facts_of(ctx, move) if move else ())),
        }

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        numbers = ctx.state.tasks.open_numbers(ctx.takers, Need.PICK, 3)
        for each in numbers:
            yield plain(f"pick list {each}", each)
        for each in numbers[:1]:
            task = ctx.state.tasks[each]
            yield plain(f"order {task.plan.orders[0]}", task.plan.orders[0])
            for wave in ctx.state.waves.of_order(task.plan.orders[0])[:1]:
                yield plain(f"wave {wave.number}", wave.number)
        others = (t for t in ctx.state.tasks.values() if t.need is Need.PICK and t.number not in numbers)
        for task in islice(others, 2):
            yield plain(f"pick list {task.number}, {task.state.value}", task.number)
        yield from any_bin(ctx)
        yield from unknown()


def _given(ctx: Context) -> TaskNo | None:
    """The task that is next, where a flow gives one after another: who comes from a station begins at the start of the walk."""
    if ctx.flow.listed is not Listed.GIVEN:
        return None
    return ctx.state.tasks.next_on_the_walk(ctx.takers, Need.PICK, 0)


class ToteKind(PromptKind):
    """Which totes are taken along from the zone before, and which tote do an order's goods go into? Asked before anything is fetched."""

    wants = "the label of an empty tote"
    shape: Shape = "pallet"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        begins = picking(ctx, answers) is not None and not answers[SHORT] and not answers[LEAVING]
        return begins and bool(self._along(ctx, answers) or self._lacking(ctx, answers))

    @staticmethod
    def _along(ctx: Context, answers: Answers) -> list[Tote]:
        return [t for t in looking.waiting_totes(ctx.task(answers)) if t.plate != answers[NEW_TOTE]]

    @staticmethod
    def _lacking(ctx: Context, answers: Answers) -> list[OrderNo]:
        task = ctx.task(answers)
        lacking = looking.without_tote(task)
        named = answers[NEW_TOTE] and all(t.plate != answers[NEW_TOTE] for t in task.going.totes)
        return lacking[1:] if named else lacking

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind not in (Read.LABEL, Read.PLATE, Read.UNKNOWN):
            raise self.wrong(ctx, answers, reading)
        tote = PlateNo(reading.code.upper())
        if along := self._along(ctx, answers):
            if all(t.plate != tote for t in along):
                raise Refusal(
                    "other_tote", f"`{tote}` is no tote that was handed on to you: take {self.asked(ctx, answers)}."
                )
            return answers.having(NEW_TOTE, tote)
        doing.check_tote(ctx.state, ctx.task(answers), self._lacking(ctx, answers)[0], tote)
        return answers.having(NEW_TOTE, tote)

    def asked(self, ctx: Context, answers: Answers) -> str:
        along = self._along(ctx, answers)
        return all_of(f"`{t.plate}`" for t in along) if along else self.wants

    def title(self, ctx: Context, answers: Answers) -> str:
        if along := self._along(ctx, answers):
            return f"Take tote `{along[0].plate}` along from `{along[0].came}` and scan it"
        return f"Scan an empty tote for `{self._lacking(ctx, answers)[0]}`"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        task = ctx.task(answers)
        if along := self._along(ctx, answers):
            first, handed = along[0], sum(t.came is not None for t in task.going.totes)
            assert first.came is not None
            note = f"Tote {handed - len(along) + 1} of {handed} handed on: {bin_place(ctx, first.came)}"
            return {
                "expect": first.plate,
                "note": note,
                "facts": (f"for `{first.order}`", goods_text(ctx.state, ctx.state.all_goods(first.plate))),
            }
        orders, lacking = task.plan.orders, self._lacking(ctx, answers)
        note = f"Tote {len(orders) - len(lacking) + 1} of {len(orders)}" if len(orders) > 1 else ""
        return {"note": note, "facts": (looking.told(ctx.state, task),)}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return False  # before the first stop

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for each in self._along(ctx, answers)[:3]:
            yield plain(f"tote {each.plate}, handed on", each.plate)
        yield from empty_totes(ctx, 2)
        for each in ctx.task(answers).going.totes[-1:]:
            yield plain(f"tote {each.plate}, of {each.order}", each.plate)
        for plate in stored_plates(ctx, 1):
            yield plain(f"plate {plate}, stored", plate)
        yield from any_bin(ctx)


class SetAtKind(PromptKind):
    """Where is it set down? At the station that is shown, or another place that is no storage."""

    wants = "the place it is brought to"
    shape: Shape = "bin"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        fetched = picking(ctx, answers) is not None and next_stop(ctx, answers) is None
        return fetched and answers[BIN] is None and not answers[SHORT]

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        if reading.kind is not Read.BIN:
            raise self.wrong(ctx, answers, reading)
        code = BinCode(reading.code)
        doing.check_place(ctx.state, code)
        return deviation(
            ctx,
            code,
            self._shown(ctx, answers),
            answers.having(BIN, code),
            "Set it down here all the same?",
            "Set it down here",
        )

    @staticmethod
    def _shown(ctx: Context, answers: Answers) -> BinCode | None:
        return looking.set_at(ctx.task(answers))

    def asked(self, ctx: Context, answers: Answers) -> str:
        at = self._shown(ctx, answers)
        return f"`{at}`" if at else self.wants

    def title(self, ctx: Context, answers: Answers) -> str:
        at = self._shown(ctx, answers)
        if at is None:
            return "Take it where it is packed or staged, and scan that"
        return f"Take {'it all' if looking.together(ctx.task(answers)) else 'it'} to `{at}` and scan it"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        task, at = ctx.task(answers), self._shown(ctx, answers)
        note = bin_place(ctx, at) if at else "No rule says where: choose"
        if looking.together(task):
            note = f"{note}; sorted there to {len(task.plan.orders)} orders"
        return {"expect": at or "", "note": note, "facts": tuple(in_hands_told(ctx, task)[:6])}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield from shown(question.expect)
        from_bin = ctx.task(answers).from_bin
        yield plain(f"bin {from_bin}, where it came from", from_bin)
        site = ctx.state.settings.site
        stations = (*ctx.ground.bins_of(ZonePurpose.PACKING, site), *ctx.ground.bins_of(ZonePurpose.STAGING, site))
        for other in islice((b.code for b in stations if b.code != question.expect), 1):
            yield plain(f"bin {other}, no storage either", other)
        yield from unknown()


PROMPTS: dict[Asks, PromptKind] = {
    Asks.PICKED: PickedKind(),
    Asks.TOTE: ToteKind(),
    **STOP_PROMPTS,
    Asks.SET_AT: SetAtKind(),
}
"""What it asks."""
