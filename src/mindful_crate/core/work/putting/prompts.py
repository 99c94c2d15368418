"""What is asked while putting away: the plate or goods, and the bin."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.amounts import portion
from mindful_crate.core.catalog.ids import BinCode, PlateNo, TaskNo
from mindful_crate.core.catalog.refs import DocKind
from mindful_crate.core.floor.answers import TASK, Answers, Doubt, text, texts
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.rests import Rest
from mindful_crate.core.floor.tasks import Do, Task
from mindful_crate.core.placing.explain import explain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.flows import Asks, Check, Listed, OtherBin, Prompt
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import any_of, capital
from mindful_crate.core.scanning.codes import any_bin, item_code, plain, shown, stored_plates
from mindful_crate.core.scanning.dialogue import passed
from mindful_crate.core.scanning.kinds import BIN, LISTED, Codes, Context, PromptKind, Step, bin_place, deviation
from mindful_crate.core.scanning.question import Keys, Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading, told
from mindful_crate.core.work.numbered import PiecesKind
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.putting import doing, places
from mindful_crate.core.work.putting.acts import MakeTasks
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.tasks.dialogue import PART
from mindful_crate.core.work.tasks.parts import carried

SOUGHT = text("sought", str)
"""What place is looked for: a part of its code or zone, or whatever would fit."""
PASSED_OVER = texts("passed_over", TaskNo)
"""Tasks that were given and are not done now."""
LOT_SEEN = text("lot_seen", str)
"""The lot that was found on what is carried."""
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
        given = next_given(ctx, answers)
        found = self._take(ctx, answers, reading)
        if given is not None and found.known(TASK) != given:
            what = putting.told(ctx.state, ctx.state.tasks[TaskNo(found.known(TASK))])
            shown = ctx.state.tasks[given]
            says = f"{capital(what)} is not the next: that is {putting.told(ctx.state, shown)} in `{shown.from_bin}`."
            raise Refusal("not_the_next", says)
        return found.without(PASSED_OVER)

    def _take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is Read.TASK:
            task = ctx.state.tasks[TaskNo(reading.code)]
        elif reading.kind is Read.PLATE:
            task = putting.task_of_plate(ctx.state, PlateNo(reading.code))
            if task.plan.several and not task.state.ended:
                putting.task_to_take(ctx.state, task.number, ctx.crews, ctx.person)
                putting.check_waits(task, PlateNo(reading.code))
                answers = answers.having(NEXT_PLATE, PlateNo(reading.code))
        elif reading.kind is Read.ITEM and reading.item:
            task = putting.task_of_item(ctx.state, reading.item, ctx.takers)
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
            and not ctx.state.first_loose(ctx.takers, Need.PUT_AWAY, reading.item)
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
        if ctx.flow.listed is Listed.GIVEN:
            return
        by_walk = ctx.flow.listed is Listed.BINS
        listed = tasks.on_the_walk if by_walk else tasks.open_numbers
        for number in listed(ctx.takers, Need.PUT_AWAY, LISTED):
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
    def _given(ctx: Context, task: Task) -> dict[str, Any]:
        """What is shown of the task that is next."""
        what = receiving.plate_text(ctx.state, ctx.state.plates[task.plate]) if task.plate else f"task `{task.number}`"
        to = f"to `{task.to_bin}`, {bin_place(ctx, task.to_bin)}" if task.to_bin else "no rule found a bin for it"
        waits = ctx.state.open_count(ctx.takers, Need.PUT_AWAY)
        note = f"in {task.from_bin}; {waits} wait to be put away" if waits > 1 else f"in {task.from_bin}; the last one"
        return {"expect": task.plate or task.goods[0].item, "facts": (what, to), "note": note}

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
        given = next_given(ctx, answers)
        if given is not None:
            task = ctx.state.tasks[given]
            return (
                "Go for this plate and scan it"
                if task.plate
                else f"Go for {putting.told(ctx.state, task)} and scan one"
            )
        loose = ctx.state.first_loose(ctx.takers, Need.PUT_AWAY)
        return "Scan what is put away" if loose else "Scan the plate to put away"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        begun = putting.begun_by(ctx.state, ctx.person)
        if begun:
            return {"note": putting.left_told(begun)}
        given = next_given(ctx, answers)
        if given is not None:
            return self._given(ctx, ctx.state.tasks[given])
        count, rests = ctx.state.open_count(ctx.takers, Need.PUT_AWAY), len(self._rests(ctx))
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
        for task in ([begun] if begun else []) + putting.open_tasks(ctx.state, ctx.takers, 3):
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


def next_given(ctx: Context, answers: Answers) -> TaskNo | None:
    """The task that is next, where a flow gives one after another; None: it does not, or nothing waits, or one is begun."""
    if ctx.flow.listed is not Listed.GIVEN or putting.begun_by(ctx.state, ctx.person):
        return None
    last = ctx.state.steps_done.get(ctx.person)
    done = ctx.state.tasks.get(TaskNo(last.number)) if last and last.kind is DocKind.TASK else None
    stands = ctx.ground.bins[done.placed_in].walk if done and done.placed_in else 0
    return ctx.state.tasks.next_on_the_walk(ctx.takers, Need.PUT_AWAY, stands, answers[PASSED_OVER])


class LotHeldKind(PromptKind):
    """Which lot is it that is carried? Another than those that are to be put away is refused before it stands anywhere."""

    wants = "the lot"
    shape: Shape = "carton"
    keys: Keys = "text"
    reads = Read.LOT

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[TASK] is not None and answers[LOT_SEEN] is None and bool(self._lots(ctx, answers))

    @staticmethod
    def _lots(ctx: Context, answers: Answers) -> list[str]:
        return sorted({g.lot for g in carried(ctx, answers) if g.lot})

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        lot = reading.lot if reading.lot is not None else reading.code
        lots = self._lots(ctx, answers)
        if lot not in lots:
            is_thing = reading.lot is None and reading.kind is not Read.UNKNOWN
            what = f"That is {told(reading)}" if is_thing else f"`{lot}` is not the lot that is put away"
            raise Refusal("other_lot", f"{what}: it is {any_of(f'`{x}`' for x in lots)}.")
        return answers.having(LOT_SEEN, lot)

    def again(self, answers: Answers) -> str:
        return answers[LOT_SEEN] or ""

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Which lot is it?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        return {"facts": (receiving.goods_text(ctx.state, carried(ctx, answers)),)}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return False  # most items have none

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for lot in self._lots(ctx, answers)[:3]:
            yield plain(f"lot {lot}", lot)
        yield plain("another lot", "L0000")
        yield from any_bin(ctx)


class BinKind(PromptKind):
    """Into which bin? The one shown, or another that is judged by the same rules."""

    wants = "a bin"
    shape: Shape = "bin"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        """Where goods are received and put away in one, as long as something of them is carried; what comes from reserve, once all is taken."""
        if answers[TASK] is not None and ctx.task(answers).need is Need.REPLENISH and not ctx.task(answers).in_hands:
            return False
        puts = answers[TASK] is not None or any(p.asks is Asks.TASK for p in ctx.machine.used(ctx.flow))
        return answers[BIN] is None and puts

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        if reading.kind is not Read.BIN:
            raise self.wrong(ctx, answers, reading)
        task, code = ctx.task(answers), BinCode(reading.code)
        if not task.in_hands:
            raise Refusal("not_taken", f"Take {putting.told(ctx.state, task)} up first.")
        filled = answers.having(BIN, code)
        if answers[PART]:
            return self._part(ctx, answers, task, filled)
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

    def _part(self, ctx: Context, answers: Answers, task: Task, filled: Answers) -> Answers | Doubt:
        """A part of what is carried, which the rules did not ask for: it must fit, and elsewhere than shown is another bin."""
        doing.check_part(ctx.state, ctx.rulebook, task)
        code = filled.known(BIN)
        goods = portion(carried(ctx, answers), int(answers.known(PART)))
        down = putting.judge_part(ctx.state, task, goods, code, ctx.today)
        if down:
            raise Refusal(f"bin_{down[0].value}", down[1] + " Take it to another bin.")
        item = ctx.ground.items[goods[0].item]
        says = f"Place {item.told(int(answers.known(PART)))} of {item.name} here, and the rest where it was to go?"
        return deviation(ctx, code, task.to_bin, filled, says, "Place here")

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
        if answers[PART]:
            item = ctx.ground.items[carried(ctx, answers)[0].item]
            return f"Scan the bin {item.told(int(answers.known(PART)))} go to"
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
        if answers[PART]:
            return {"facts": facts, "note": f"The rest goes to {task.to_bin}"}
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
        part = portion(carried(ctx, answers), int(answers.known(PART))) if answers[PART] else ()
        fit = (c for c in seen if c.turned_down is None)
        if part:  # loose goods need not fit where the plate does
            fit = (c for c in seen if putting.judge_part(ctx.state, task, part, c.bin, ctx.today) is None)
        for other in islice(fit, 1):
            yield plain(f"bin {other.bin}, fits too", other.bin)
        causes: set[str] = set()
        for other in seen:
            if other.turned_down and other.turned_down not in causes and len(causes) < 3:
                causes.add(other.turned_down)
                yield plain(f"bin {other.bin}", other.bin)
        yield from any_bin(ctx)
        if task.plate:
            yield plain(f"plate {task.plate}", task.plate)


PROMPTS: dict[Asks, PromptKind] = {
    Asks.TASK: TaskKind(),
    Asks.PIECES: PiecesKind(),
    Asks.LOT_HELD: LotHeldKind(),
    Asks.BIN: BinKind(),
}
"""What it asks."""
