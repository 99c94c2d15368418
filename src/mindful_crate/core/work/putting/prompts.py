"""What is asked while putting away: the plate or goods, and the bin."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.ids import BinCode, PlateNo, TaskNo
from mindful_crate.core.floor.answers import TASK, Answers, Doubt, text
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.rests import Rest
from mindful_crate.core.floor.tasks import Do
from mindful_crate.core.placing.explain import explain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.flows import Asks, Check, OtherBin, Prompt
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.scanning.codes import any_bin, item_code, plain, shown, stored_plates
from mindful_crate.core.scanning.dialogue import passed
from mindful_crate.core.scanning.kinds import BIN, LISTED, Codes, Context, PromptKind, Step, bin_place
from mindful_crate.core.scanning.question import Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.putting import doing, places
from mindful_crate.core.work.putting.acts import MakeTasks
from mindful_crate.core.work.receiving import checks as receiving

SOUGHT = text("sought", str)
"""What place is looked for: a part of its code or zone, or whatever would fit."""
NEXT_PLATE = text("next_plate", PlateNo)
"""Of a task of several plates, the one that was scanned."""


class TaskKind(PromptKind):
    """What is put away: which plate, or which loose goods? What the worker carries already is gone on with."""

    wants = "a plate or goods that wait to be put away"
    shape: Shape = "pallet"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[TASK] is None

    def given(self, ctx: Context, answers: Answers) -> Answers | None:
        carried = putting.carried_by(ctx.state, ctx.person)
        return answers.having(TASK, carried.number) if carried else None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is Read.TASK:
            task = ctx.state.tasks[TaskNo(reading.code)]
        elif reading.kind is Read.PLATE:
            task = putting.task_of_plate(ctx.state, PlateNo(reading.code))
            if task.plan.several and not task.state.ended:
                putting.task_to_take(ctx.state, task.number, ctx.crews, ctx.person)
                putting.check_waits(task, PlateNo(reading.code))
                answers = answers.having(NEXT_PLATE, PlateNo(reading.code))
        elif reading.kind is Read.ITEM and reading.item:
            task = putting.task_of_item(ctx.state, reading.item, ctx.crews)
        elif reading.kind is Read.LABEL:
            raise Refusal("unknown_plate", f"No license plate has the number `{reading.code}`.")
        else:
            raise self.wrong(ctx, answers, reading)
        return answers.having(TASK, putting.task_to_take(ctx.state, task.number, ctx.crews, ctx.person).number)

    def instead(self, ctx: Context, dialogue: Dialogue, prompt: Prompt, reading: Reading) -> Step | None:
        """What rests becomes a task by being scanned."""
        key = None
        if reading.kind is Read.PLATE and any(r.key == reading.code for r in self._rests(ctx)):
            key = reading.code
        elif (
            reading.kind is Read.ITEM
            and reading.item
            and not ctx.state.first_loose(ctx.crews, Need.PUT_AWAY, reading.item)
        ):
            key = next((r.key for r in self._rests(ctx) if any(g.item == reading.item for g in r.goods)), None)
        if key is None:
            return None
        return Step(dialogue.answers, passed(dialogue), acts=(MakeTasks((key,), with_alike=True, take=True),))

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        tasks = ctx.state.tasks
        begun = putting.begun_by(ctx.state, ctx.person)
        if begun:
            for plate in (m.plate for m in begun.going.remaining if m.do is Do.TAKE and m.plate):
                yield Pick(plate, plate, f"next of task {begun.number}, in {ctx.state.bin_of(plate)}")
            return
        for number in tasks.open_numbers(ctx.crews, Need.PUT_AWAY, LISTED):
            plan = tasks.plans[number]
            if plan.several:
                yield Pick(number, number, f"{len(plan.several)} plates, the first in {plan.from_bin}")
            elif plan.plate is None:
                yield Pick(number, putting.told(ctx.state, tasks[number]), f"loose in {plan.from_bin}")
            else:
                yield self._of_plate(ctx, number, plan.plate)
        for rest in islice(self._rests(ctx), LISTED):
            if rest.plate is None:
                goods = receiving.goods_text(ctx.state, rest.goods)
                yield Pick(rest.goods[0].item, goods, f"loose in {rest.bin}, no task yet")
            elif (code := ctx.state.bin_of(rest.plate)) is not None:
                yield Pick(rest.plate, rest.plate, f"in {code}, no task yet")

    @staticmethod
    def _rests(ctx: Context) -> list[Rest]:
        """What waits for a put-away task to be made."""
        return ctx.state.rests.of_need(Need.PUT_AWAY)

    @staticmethod
    def _of_plate(ctx: Context, task: TaskNo, plate: PlateNo) -> Pick:
        """What a plate's line says is remembered as long as the same goods are on it: every handset lists the first of the
        same many."""
        lines: dict[TaskNo, tuple[object, Pick]] = ctx.state.memory.setdefault("picks", {})
        goods = ctx.state.plates.goods_on(plate)
        known = lines.get(task)
        if known is not None and known[0] is goods:
            return known[1]
        if len(lines) > 10 * LISTED:
            lines.clear()
        says = receiving.plate_text(ctx.state, ctx.state.plates[plate])
        pick = Pick(plate, plate, f"in {ctx.state.tasks.plans[task].from_bin}: {says}")
        lines[task] = goods, pick
        return pick

    def title(self, ctx: Context, answers: Answers) -> str:
        begun = putting.begun_by(ctx.state, ctx.person)
        if begun:
            return f"Scan the next plate of {begun.number}"
        loose = ctx.state.first_loose(ctx.crews, Need.PUT_AWAY)
        return "Scan what is put away" if loose else "Scan the plate to put away"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        begun = putting.begun_by(ctx.state, ctx.person)
        if begun:
            return {"note": putting.left_told(begun)}
        count, rests = ctx.state.open_count(ctx.crews, Need.PUT_AWAY), len(self._rests(ctx))
        if rests:
            waits = (
                f"{rests} wait for a task: scan one to make it"
                if rests > 1
                else "1 waits for a task: scan it to make it"
            )
            return {"note": f"{count} to put away; {waits}" if count else waits}
        if count == 0:
            return {"note": "Nothing waits to be put away. A task comes when a received plate is finished."}
        return {"note": f"{count} wait to be put away" if count > 1 else "1 waits to be put away"}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        begun = putting.begun_by(ctx.state, ctx.person)
        for task in ([begun] if begun else []) + putting.open_tasks(ctx.state, ctx.crews, 3):
            if task.plate:
                yield plain(f"plate {task.plate}", task.plate)
            else:
                item = ctx.ground.items[task.goods[0].item]
                yield from item_code(ctx, item, item.base.code)
                yield plain(f"task {task.number}, {item.name}", task.number)
        for rest in islice(self._rests(ctx), 2):
            if rest.plate:
                yield plain(f"plate {rest.plate}, no task yet", rest.plate)
            else:
                item = ctx.ground.items[rest.goods[0].item]
                yield from item_code(ctx, item, item.base.code)
        for number in stored_plates(ctx, 1):
            yield plain(f"plate {number}, stored", number)
        for plate in islice(ctx.state.building(), 1):
            yield plain(f"plate {plate.number}, being built", plate.number)
        yield from any_bin(ctx)


class BinKind(PromptKind):
    """Into which bin? The one shown, or another that is judged by the same rules."""

    wants = "a bin"
    shape: Shape = "bin"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        """Where goods are received and put away in one, as long as something of them is carried."""
        puts = answers[TASK] is not None or any(p.asks is Asks.TASK for p in ctx.flow.prompts)
        return answers[BIN] is None and puts

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        if reading.kind is not Read.BIN:
            raise self.wrong(ctx, answers, reading)
        task, code = ctx.task(answers), BinCode(reading.code)
        if not task.in_hands:
            raise Refusal("not_taken", f"Take {putting.told(ctx.state, task)} up first.")
        filled = answers.having(BIN, code)
        if code != task.to_bin and code in ctx.ground.bins and doing.hand_over(ctx.rulebook, task):
            at = doing.place_of(ctx.state, ctx.rulebook, task)
            if not putting.lies_at(ctx.state, code, at):
                raise Refusal(
                    "not_handed_over", f"`{code}` is not where this is handed over: take it to `{task.to_bin or at}`."
                )
        if code == task.to_bin or (task.to_bin is None and putting.judge(ctx.state, task, code, ctx.today) is None):
            return filled
        down = putting.judge(ctx.state, task, code, ctx.today)
        if down:
            shown = f" Take it to `{task.to_bin}`, or to another bin." if task.to_bin else " Take it to another bin."
            raise Refusal(f"bin_{down[0].value}", down[1] + shown)
        if ctx.other_bin is OtherBin.NEVER:
            raise Refusal("not_the_bin", f"That is bin `{code}`; this flow keeps to the bin shown: `{task.to_bin}`.")
        if ctx.other_bin is OtherBin.REASON:
            return Doubt("reason", f"`{code}` is not the bin shown, `{task.to_bin}`. Why is it taken?", filled)
        what = "the plate" if task.plate else "it"
        says = f"`{code}` is not the bin shown, `{task.to_bin}`. Place {what} here all the same?"
        return Doubt("yes_no", says, filled)

    def sought(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | None:
        part = reading.code.strip()
        task = ctx.task(answers)
        if reading.kind is not Read.UNKNOWN or len(part) < 2 or doing.hand_over(ctx.rulebook, task):
            return None
        return answers.having(SOUGHT, part) if places.known(ctx.state, part) else None

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        return f"places with “{answers[SOUGHT]}”" if reading.kind is Read.UNKNOWN and answers[SOUGHT] else ""

    def _others(self, ctx: Context, answers: Answers) -> list[BinCode]:
        """Where else it could go, when that was asked."""
        sought = answers[SOUGHT]
        return places.would_fit(ctx.state, ctx.rulebook, ctx.task(answers), ctx.today, sought) if sought else []

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        return (Pick(code, code, bin_place(ctx, code)) for code in self._others(ctx, answers))

    def asked(self, ctx: Context, answers: Answers) -> str:
        shown = ctx.task(answers).to_bin
        return f"bin `{shown}`" if shown else "a bin"

    def again(self, answers: Answers) -> str:
        return answers[BIN] or ""

    def title(self, ctx: Context, answers: Answers) -> str:
        if ctx.task(answers).to_bin is None:
            return "No rule found a bin. Choose one and scan it"
        hand_over = ", the hand-over point," if doing.hand_over(ctx.rulebook, ctx.task(answers)) else ""
        return f"Take {'the plate' if ctx.task(answers).plate else 'it'} to this bin{hand_over} and scan it"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        task = ctx.task(answers)
        facts: tuple[str, ...] = (receiving.goods_text(ctx.state, task.goods), f"loose, from `{task.from_bin}`")
        if task.plate:
            plate = putting.plate_of(ctx.state, task)
            facts = (f"Plate `{plate.number}`", receiving.plate_text(ctx.state, plate))
        if answers[SOUGHT]:
            facts = (self._told(ctx, answers), *facts)  # what was asked for comes first
        if task.to_bin is None:
            return {"facts": facts}
        return {"facts": facts, "expect": task.to_bin, "note": bin_place(ctx, task.to_bin)}

    def _told(self, ctx: Context, answers: Answers) -> str:
        """The places that were looked for, in words; where they may be tapped, they are."""
        what = "" if answers[SOUGHT] == places.ANY else f" with “{answers[SOUGHT]}”"
        others = self._others(ctx, answers)
        if not others:
            return f"No other place{what} would take it"
        tapped = any(p.asks is Asks.BIN and p.check is not Check.SCAN for p in ctx.flow.prompts)
        return f"These{what} would take it, too" + ("" if tapped else f": {', '.join(f'`{code}`' for code in others)}")

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        task = ctx.task(answers)
        yield from shown(question.expect)
        at = doing.place_of(ctx.state, ctx.rulebook, task)
        request = evolve(putting.request_of_task(ctx.state, task, ctx.today), at=at)
        looks = explain(request, ctx.rulebook.rules_for(request.site, request.purpose, request.at), ctx.state).looks
        seen = [c for look in looks for c in look.bins if c.bin != task.to_bin]
        for other in islice((c for c in seen if c.turned_down is None), 1):
            yield plain(f"bin {other.bin}, fits too", other.bin)
        causes: set[str] = set()
        for other in seen:
            if other.turned_down and other.turned_down not in causes and len(causes) < 3:
                causes.add(other.turned_down)
                yield plain(f"bin {other.bin}", other.bin)
        yield from any_bin(ctx)
        if task.plate:
            yield plain(f"plate {task.plate}", task.plate)


PROMPTS: dict[Asks, PromptKind] = {Asks.TASK: TaskKind(), Asks.BIN: BinKind()}
"""What it asks."""
