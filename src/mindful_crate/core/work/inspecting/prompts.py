"""What is asked while inspecting: what, where, which of the goods, whether they pass, how many fail and what becomes of those."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, PlateNo, TaskNo
from mindful_crate.core.floor.answers import TASK, Answers, flag, text
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.rests import Rest
from mindful_crate.core.floor.tasks import Do, Task
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Prompt
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.scanning.codes import any_bin, item_code, plain, shown, stored_plates, typed, unknown
from mindful_crate.core.scanning.dialogue import passed
from mindful_crate.core.scanning.kinds import (
    BIN,
    COUNT,
    EXPIRY,
    ITEM,
    LISTED,
    LOT,
    UNIT,
    Codes,
    Context,
    NumberKind,
    PromptKind,
    Step,
    bin_place,
)
from mindful_crate.core.scanning.question import Keys, Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.inspecting import checks as inspecting
from mindful_crate.core.work.inspecting.decide import judge_place
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.putting.acts import MakeTasks
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.stamp import Stamp

VERDICT = text("verdict", str)
"""Pass, fail or partly."""
FAULT = text("fault", Status)
REMARK = text("remark", str)
PHOTO = text("photo", str)
"""The name of a photo of what was seen."""
REMARKED = flag("remarked")
"""A remark was given, or none is."""
PASS, FAIL, PARTLY = "pass", "fail", "partly"
VERDICTS = {PASS: "All of it passes", PARTLY: "A part of it fails", FAIL: "Nothing passes"}


def the_kind(ctx: Context, answers: Answers) -> Goods | None:
    """The goods that are looked at now; None when all were."""
    waits = inspecting.waiting(ctx.state, ctx.task(answers))
    wanted = [g for g in waits if answers[ITEM] in (None, g.item)]
    exact = [g for g in wanted if answers[LOT] in (None, g.lot)]
    return next(iter(exact or wanted), None)


def sampled(ctx: Context, answers: Answers) -> bool:
    """Is only a part of the goods looked at, so that more are when one is not as it should be?"""
    goods = the_kind(ctx, answers)
    return goods is not None and _looked_at(ctx, answers, goods) < goods.quantity


def _looked_at(ctx: Context, answers: Answers, goods: Goods) -> int:
    return inspecting.sample_of(ctx.rulebook, ctx.state, ctx.task(answers), goods)


class InspectedKind(PromptKind):
    """What is inspected: which plate, or which loose goods? What the worker carries already is gone on with."""

    wants = "a plate or goods that wait to be inspected"
    shape: Shape = "pallet"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[TASK] is None or ctx.task(answers).state.ended

    def given(self, ctx: Context, answers: Answers) -> Answers | None:
        carried = inspecting.carried_by(ctx.state, ctx.person)
        return Answers().having(TASK, carried.number) if carried else None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is Read.TASK:
            number = TaskNo(reading.code)
        elif reading.kind is Read.PLATE:
            number = inspecting.inspection_of_plate(ctx.state, PlateNo(reading.code)).number
        elif reading.kind is Read.ITEM and reading.item:
            number = inspecting.inspection_of_item(ctx.state, reading.item, ctx.takers).number
        elif reading.kind is Read.LABEL:
            raise Refusal("unknown_plate", f"No license plate has the number `{reading.code}`.")
        else:
            raise self.wrong(ctx, answers, reading)
        return Answers().having(
            TASK, inspecting.task_to_inspect(ctx.state, number, ctx.crews, ctx.person).number
        )  # fmt: skip

    def instead(self, ctx: Context, dialogue: Dialogue, prompt: Prompt, reading: Reading) -> Step | None:
        """What rests becomes an inspection by being scanned."""
        scanned = reading.code if reading.kind is Read.PLATE else reading.item if reading.kind is Read.ITEM else None
        loose_waits = reading.kind is Read.ITEM and ctx.state.first_loose(
            (*ctx.takers, None), Need.INSPECT, reading.item
        )
        rest = None if loose_waits else next((r for r in self._rests(ctx) if scanned and scanned in _names(r)), None)
        return (
            None
            if rest is None
            else Step(dialogue.answers, passed(dialogue), acts=(MakeTasks((rest.key,), take=True),))
        )

    @staticmethod
    def _rests(ctx: Context) -> list[Rest]:
        return ctx.state.rests.of_need(Need.INSPECT)

    def waiting(self, ctx: Context) -> list[Task]:
        """The inspections these crews may go on with."""
        return ctx.state.open_tasks((*ctx.takers, None), Need.INSPECT)

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        for task in islice(self.waiting(ctx), LISTED):
            says = receiving.plate_text(ctx.state, ctx.state.plates[task.plate]) if task.plate else "loose"
            where = (
                f"in {inspecting.stands_in(task)}" if task.going.place is None else f"in {task.from_bin}, to be brought"
            )
            label = task.plate or inspecting.told(ctx.state, task)
            yield Pick(task.plate or task.number, label, f"{where}: {says}")
        for rest in islice(self._rests(ctx), LISTED):
            label = rest.plate or receiving.goods_text(ctx.state, rest.goods)
            yield Pick(rest.plate or rest.goods[0].item, label, f"in {rest.bin}, no inspection yet")

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Scan what is inspected"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        count = len(self.waiting(ctx)) + len(self._rests(ctx))
        if not count:
            return {"note": "Nothing waits to be inspected. It comes when goods are received that a plan stops."}
        return {"note": "1 waits to be inspected" if count == 1 else f"{count} wait to be inspected"}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for task in islice(self.waiting(ctx), 3):
            if task.plate:
                yield plain(f"plate {task.plate}", task.plate)
            else:
                item = ctx.ground.items[task.plan.loose[0].item]
                yield from item_code(ctx, item, item.base.code)
        for rest in islice(self._rests(ctx), 2):
            yield plain(f"{rest.plate or rest.goods[0].item}, no inspection yet", rest.plate or rest.goods[0].item)
        for number in stored_plates(ctx, 1):
            yield plain(f"plate {number}, stored", number)
        yield from any_bin(ctx)
        yield from unknown()


def _names(rest: Rest) -> set[str]:
    """What is scanned to say that it is meant."""
    return {rest.plate} if rest.plate else {g.item for g in rest.goods}


class InspectAtKind(PromptKind):
    """Where is it inspected? Asked while it is carried there."""

    wants = "the place of inspection"
    shape: Shape = "bin"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[BIN] is None and (answers[TASK] is None or ctx.task(answers).going.place is not None)

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is not Read.BIN:
            raise self.wrong(ctx, answers, reading)
        code, task = BinCode(reading.code), ctx.task(answers)
        if not task.in_hands:
            raise Refusal("not_taken", f"Take {inspecting.told(ctx.state, task)} up first.")
        judge_place(ctx.state, ctx.rulebook, task, code, Stamp("", ctx.state.clock, ctx.today, ctx.person))
        return answers.having(BIN, code)

    def asked(self, ctx: Context, answers: Answers) -> str:
        to = ctx.task(answers).to_bin
        return f"bin `{to}`" if to else self.wants

    def title(self, ctx: Context, answers: Answers) -> str:
        if ctx.task(answers).to_bin is None:
            return "No rule found where it is inspected. Choose a place and scan it"
        return "Take it to this place of inspection and scan it"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        task = ctx.task(answers)
        facts: tuple[str, ...] = (receiving.goods_text(ctx.state, task.plan.loose), f"loose, from `{task.from_bin}`")
        if task.plate:
            facts = (f"Plate `{task.plate}`", receiving.plate_text(ctx.state, ctx.state.plates[task.plate]))
        return {"facts": facts, "expect": task.to_bin or "", "note": bin_place(ctx, task.to_bin) if task.to_bin else ""}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield from shown(question.expect)
        yield from any_bin(ctx)


class KindKind(PromptKind):
    """Which of the goods on a plate are looked at? Asked when several wait."""

    wants = "an item that waits to be inspected"
    shape: Shape = "carton"

    def _waits(self, ctx: Context, answers: Answers) -> tuple[Goods, ...]:
        return inspecting.waiting(ctx.state, ctx.task(answers))

    def needed(self, ctx: Context, answers: Answers) -> bool:
        if answers[ITEM] is not None or answers[TASK] is None:
            return answers[ITEM] is None
        return len({g.item for g in self._waits(ctx, answers)}) > 1

    def _of(self, ctx: Context, answers: Answers, goods: Goods) -> Answers:
        unit = ctx.ground.items[goods.item].base.code
        found = answers.having(ITEM, goods.item).having(UNIT, unit).having(LOT, goods.lot or None)
        return found.having(EXPIRY, goods.expiry)

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is not Read.ITEM or reading.item is None:
            raise self.wrong(ctx, answers, reading)
        goods = inspecting.kind_of(ctx.state, ctx.task(answers), reading.item)
        alike = [g for g in self._waits(ctx, answers) if g.item == goods.item and reading.lot in (None, g.lot)]
        return self._of(ctx, answers, (alike or [goods])[0])

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        told: dict[str, Goods] = {}
        for goods in self._waits(ctx, answers):
            told.setdefault(goods.item, goods)
        for goods in told.values():
            item = ctx.ground.items[goods.item]
            lot = f", lot {goods.lot}" if goods.lot else ""
            yield Pick(item.code, item.name, f"{item.told(goods.quantity)}{lot}")

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Scan the item you look at"

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return False  # most plates hold one

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for goods in self._waits(ctx, answers)[:3]:
            item = ctx.ground.items[goods.item]
            yield from item_code(ctx, item, item.base.code)
        yield from any_bin(ctx)
        yield from unknown()


class ChosenKind(PromptKind):
    """Something that is chosen from a few words, which may be typed as well."""

    keys: Keys = "none"

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        return False

    def among(self, ctx: Context, answers: Answers) -> dict[str, str]:
        """What may be chosen, and what each is called."""
        raise NotImplementedError

    def chosen(self, answers: Answers, word: str) -> Answers:
        """The answers with what was chosen."""
        raise NotImplementedError

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        word = reading.code.strip().lower()
        among = self.among(ctx, answers)
        if word not in among:
            raise Refusal("not_among", f"`{reading.code}` is no answer here: {', '.join(among)}.")
        return self.chosen(answers, word)

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        return self.among(ctx, answers).get(reading.code.strip().lower(), "")

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        return (Pick(word, says) for word, says in self.among(ctx, answers).items())

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for word in self.among(ctx, answers):
            yield typed(word, word)
        yield from any_bin(ctx)


class VerdictKind(ChosenKind):
    """Do they pass: all, some, none?"""

    wants = "pass, partly or fail"
    shape: Shape = "carton"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[VERDICT] is None

    def among(self, ctx: Context, answers: Answers) -> dict[str, str]:
        if answers[TASK] is not None and sampled(ctx, answers):
            return {PASS: "The sample is as it should be", FAIL: "Something is not as it should be"}
        asked = {p.asks for p in ctx.flow.prompts}
        goods = the_kind(ctx, answers)
        some = Asks.FAILED in asked and goods is not None and goods.quantity > 1
        return {w: says for w, says in VERDICTS.items() if w != PARTLY or some}

    def chosen(self, answers: Answers, word: str) -> Answers:
        return answers.having(VERDICT, word)

    def title(self, ctx: Context, answers: Answers) -> str:
        goods = the_kind(ctx, answers)
        if goods is None:
            return "All of it was inspected"
        item = ctx.ground.items[goods.item]
        looked = _looked_at(ctx, answers, goods)
        if looked < goods.quantity:
            return f"Look at {item.told(looked)} of {item.told(goods.quantity)}. How are they?"
        return f"Look at {item.told(goods.quantity)}. How are they?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        goods = the_kind(ctx, answers)
        if goods is None:
            return {}
        task, lot = ctx.task(answers), f", lot `{goods.lot}`" if goods.lot else ""
        on = f"On plate `{task.plate}`, in" if task.plate else "Loose, in"
        facts = (f"`{goods.item}` {ctx.ground.items[goods.item].name}{lot}", f"{on} `{inspecting.stands_in(task)}`")
        return {"facts": facts}


class FailedKind(NumberKind):
    """How many fail? Asked when only some do; the others pass."""

    shape: Shape = "number"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[VERDICT] in (None, PARTLY) and answers[COUNT] is None

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        return False

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        goods = the_kind(ctx, answers)
        assert goods is not None
        item = ctx.ground.items[goods.item]
        count = self.number(reading, item.base.plural)
        failed = receiving.whole_quantity(item, item.base, count)
        if failed >= goods.quantity:
            says = f"{item.told(goods.quantity)} are inspected. If nothing passes, step back and say so."
            raise Refusal("more_than_there", says)
        return answers.having(COUNT, count)

    def title(self, ctx: Context, answers: Answers) -> str:
        goods = the_kind(ctx, answers)
        return f"How many {ctx.ground.items[goods.item].base.plural if goods else ''} fail?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        goods = the_kind(ctx, answers)
        return {"note": f"of {ctx.ground.items[goods.item].told(goods.quantity)}; the others pass" if goods else ""}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return False  # most goods pass

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield typed("2", "2")
        yield typed("zero", "0")
        yield from any_bin(ctx)


class FaultKind(ChosenKind):
    """What becomes of what fails?"""

    wants = "damaged or quarantine"
    shape: Shape = "carton"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return _fails(ctx, answers) and answers[FAULT] is None

    def among(self, ctx: Context, answers: Answers) -> dict[str, str]:
        says = {Status.DAMAGED: "It is damaged", Status.QUARANTINE: "It is kept apart until somebody decides"}
        return {s.value: says[s] for s in inspecting.FAULTS}

    def chosen(self, answers: Answers, word: str) -> Answers:
        return answers.having(FAULT, Status(word))

    def title(self, ctx: Context, answers: Answers) -> str:
        return "What becomes of what fails?"

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return False


class RemarkKind(PromptKind):
    """What was seen, in a few words; it may be left out."""

    wants = "a few words"
    shape: Shape = "ticket"
    keys: Keys = "text"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return _fails(ctx, answers, sample=True) and not answers[REMARKED]

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        return False

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        """A photo is taken besides: a remark may still be given."""
        said = reading.code.strip()
        if inspecting.is_photo(said):
            return answers.having(PHOTO, said)
        return answers.having(REMARK, said).having(REMARKED, True)

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        return "a photo" if inspecting.is_photo(reading.code.strip()) else "a remark"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        photo = answers[PHOTO]
        return {"photo": True, "picture": photo} if photo else {"photo": True}

    def title(self, ctx: Context, answers: Answers) -> str:
        return "What did you see?"

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return False

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield typed("a remark", "edges wet")


def _fails(ctx: Context, answers: Answers, sample: bool = False) -> bool:
    """Does something fail, as far as one knows? Of a ``sample``, whether it is as it should be is all that is said."""
    if answers[VERDICT] is None:
        return True
    return answers[VERDICT] != PASS and (sample or not sampled(ctx, answers))


def all_waiting(ctx: Context) -> Iterator[str]:
    """Numbers of everything that waits to be inspected by these crews."""
    yield from (t.number for t in ctx.state.open_tasks((*ctx.takers, None), Need.INSPECT))
    yield from (r.key for r in ctx.state.rests.of_need(Need.INSPECT))


def to_be_taken(task: Task) -> bool:
    """Is what it is about still to be taken up?"""
    return any(m.do is Do.TAKE for m in task.going.remaining)


PROMPTS: dict[Asks, PromptKind] = {
    Asks.INSPECTED: InspectedKind(),
    Asks.INSPECT_AT: InspectAtKind(),
    Asks.KIND: KindKind(),
    Asks.VERDICT: VerdictKind(),
    Asks.FAILED: FailedKind(),
    Asks.FAULT: FaultKind(),
    Asks.REMARK: RemarkKind(),
}
"""What it asks."""
assert set(inspecting.FAULTS) <= putting.HELD
