"""What dialogues are made of: flows, prompts and buttons, each of a kind that a matter brings.

The machine in ``dialogue`` knows none of them by name; the table of matters says which there are.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from typing import Any, ClassVar, Literal

from mindful_crate.core.catalog.goods import Item, ItemUnit
from mindful_crate.core.catalog.ids import BinCode, CrewId, DeviceId, ItemCode, PersonId, UnitCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.answers import PLATE, TASK, Answers, Doubt, Key, day, flag, number, text, texts
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.task_keeper import alone
from mindful_crate.core.floor.tasks import Task
from mindful_crate.core.memo import Memo
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Check, Flow, FlowPurpose, OtherBin, Prompt
from mindful_crate.core.scanning.question import Keys, Pick, Question, Shape, SoFar
from mindful_crate.core.scanning.reading import Read, Reading, Scan, told

ITEM = text("item", ItemCode)
UNIT = text("unit", UnitCode)
"""The unit it is counted in."""
UNIT_SAID = text("unit_said", ItemCode)
"""The item whose unit was said, by its code or by the worker; kept by flows that ask for it."""
UNIT_ASKED = flag("unit_asked")
"""Was it the worker who said it?"""
LOT = text("lot", str)
EXPIRY = day("expiry")
COUNT = number("count")
"""How many, in the unit."""
BIN = text("bin", BinCode)
"""Where it goes."""
SERIALS = texts("serials", str)
"""Serial numbers that were scanned, a piece each."""
AGAIN = texts("again", str)
"""Answers that hold for the next lines too: the id of the prompt and the answer, in turns."""
REASON = text("reason", str)
"""Why another bin is taken than the one shown."""


LISTED = 30
"""How many picks a handset lists."""
MUCH = 100
"""So far open work is counted on a menu."""
Symbol = Literal["code128", "gs1datamatrix", "typed"]
"""How a code is drawn, or that it is typed."""
Codes = Iterator[tuple[str, Scan, Symbol]]
"""Codes worth scanning: what each is called, and what the scanner reads."""


@dataclass(frozen=True, slots=True)
class Context:
    """All a prompt may look at."""

    state: State
    rulebook: Rulebook
    flow: Flow
    person: PersonId
    crews: tuple[CrewId, ...]
    device: DeviceId | None
    today: date
    machine: Machine

    @property
    def ground(self) -> Ground:
        """The catalogue."""
        return self.state.ground

    @property
    def kind(self) -> FlowKind:
        """What flows of this purpose do."""
        return self.machine.flows[self.flow.purpose]

    def prompt(self, asks: Asks) -> PromptKind:
        """What prompts of this kind do."""
        return self.machine.prompts[asks]

    @property
    def other_bin(self) -> OtherBin:
        """May another bin than the one shown be taken?"""
        return self.rulebook.other_bin_of(self.flow, self.state.settings.site)

    @property
    def asks_unit(self) -> bool:
        """Does the flow ask in which unit something is counted, where no code says it?"""
        return any(p.asks is Asks.UNIT for p in self.flow.prompts)

    def about(self, answers: Answers, reading: Reading) -> Answers:
        """The answers with the item that was read, and the unit it is counted in until another is said."""
        said = reading.item if reading.says_unit and self.asks_unit else None
        return answers.having(ITEM, reading.item).having(UNIT, reading.unit).having(UNIT_SAID, said).without(UNIT_ASKED)

    @property
    def takers(self) -> tuple[CrewId, ...]:
        """The crews whose open tasks may be taken: the person's own, and the person alone."""
        return (*self.crews, alone(self.person))

    def item(self, answers: Answers) -> Item:
        """The item it is about."""
        return self.ground.items[answers.known(ITEM)]

    def unit(self, answers: Answers) -> ItemUnit:
        """The unit being counted in."""
        return self.item(answers).unit(answers.known(UNIT))

    def task(self, answers: Answers) -> Task:
        """The task being done."""
        return self.state.tasks[answers.known(TASK)]


@dataclass(frozen=True, slots=True)
class Step:
    """Where a dialogue goes on, and the acts that must succeed for it to go there."""

    answers: Answers
    past: tuple[Answers, ...] = ()
    doubt: Doubt | None = None
    acts: tuple[Named, ...] = ()
    read_as: str = ""
    ended: bool = False
    """Every prompt of a line was answered."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """Pieces that are to be named by their serial numbers: so many of an item, of those ``among``."""

    item: Item
    quantity: int
    among: tuple[str, ...]
    where: str
    what: str
    """What is said of them: ``is taken``."""
    note: str = ""
    """Said beside the question, instead of how many there are."""
    promised: tuple[str, ...] = ()
    """Those that are there and were ordered by their numbers by somebody else."""


class PromptKind:
    """What every kind of prompt answers; the defaults suit most."""

    wants = "the right code"
    shape: Shape = "ticket"
    keys: Keys = "scan"
    reads: Read | None = None
    """What a text that names nothing is read as where this is asked: a number, a day, a lot."""
    fixable = False
    """Can the analyst say the answer beforehand?"""
    lasts: ClassVar[tuple[Key[Any], ...]] = ()
    """The keys of an answer that holds beyond its line by itself, unless it is asked for each line."""

    def needed(self, ctx: Context, answers: Answers) -> bool:
        """Does this prompt apply, and is it unanswered?"""
        raise NotImplementedError

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        """The answers with this answer filled in; a refusal if it is no answer."""
        raise NotImplementedError

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        """What an answer is called in the log that names no thing; empty: as it was read."""
        return ""

    def instead(self, ctx: Context, dialogue: Dialogue, prompt: Prompt, reading: Reading) -> Step | None:
        """Where a scan leads that is no answer to this question but means something here all the same."""
        return None

    def sought(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | None:
        """The answers with what is looked for by a text that is no answer; it may be typed where an answer must be scanned."""
        return None

    @property
    def repeats(self) -> bool:
        """Can its answer hold for the next line as well? Those that say how it would be scanned again."""
        return type(self).again is not PromptKind.again

    def again(self, answers: Answers) -> str:
        """The answer as it would be scanned, to be given once more for the next line; empty: each line has another."""
        return ""

    def given(self, ctx: Context, answers: Answers) -> Answers | None:
        """The answer, when it is known without asking anybody."""
        return None

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        """Is nothing but a scan an answer now?"""
        return prompt.check is Check.SCAN

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        """What may be tapped."""
        return ()

    def proposal(self, ctx: Context, answers: Answers, prompt: Prompt) -> Decimal | None:
        """The number offered, by kinds that ask for one."""
        return None

    def confirmed(self, ctx: Context, answers: Answers, count: Decimal) -> Answers:
        """The answers when the number offered is confirmed."""
        return answers.having(COUNT, count)

    def title(self, ctx: Context, answers: Answers) -> str:
        """The question."""
        raise NotImplementedError

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        """Further fields of the question."""
        return {}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        """Is it one of the questions of a line, as far as one knows? ``answers`` hold the item and nothing else."""
        return self.needed(ctx, answers)

    def wrong(self, ctx: Context, answers: Answers, reading: Reading) -> Refusal:
        """A scan that is something, but not what is asked, or nothing known at all."""
        if reading.kind is Read.UNKNOWN:
            return Refusal(
                "unknown_code", f"Nothing here has the code `{reading.code}`. Scan {self.asked(ctx, answers)}."
            )
        return Refusal("wrong_kind", f"That is {told(reading)}; scan {self.asked(ctx, answers)}.")

    def asked(self, ctx: Context, answers: Answers) -> str:
        """What should be scanned, for the sentence of a refusal."""
        return self.wants

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        """What is worth scanning at this question, right and wrong."""
        return iter(())


class NumberKind(PromptKind):
    """Asks how many: by a number, or by the barcode of another unit of the same item."""

    wants = "a number"
    shape: Shape = "number"
    keys: Keys = "number"
    reads = Read.NUMBER

    def number(self, reading: Reading, plural: str, *, or_next: bool = False) -> Decimal:
        """The number a reading is; refused when it is none. ``or_next``: the next item could be scanned as well."""
        if reading.kind is Read.NUMBER and reading.count is not None:
            return reading.count
        if reading.kind is Read.UNKNOWN:
            besides = " and no item" if or_next else ""
            raise Refusal("no_number", f"`{reading.code}` is no number{besides}. Enter how many {plural}.")
        besides = ", or scan the next item" if or_next else ""
        raise Refusal("wrong_kind", f"That is {told(reading)}; enter how many {plural}{besides}.")

    def other_unit(self, answers: Answers, reading: Reading) -> Answers | None:
        """The answers with the unit that the barcode of the same item says, when it is another."""
        if reading.kind is Read.ITEM and reading.item == answers[ITEM] and reading.unit != answers[UNIT]:
            return answers.having(UNIT, reading.unit)
        return None


def not_at(prompt: Prompt | None, *asks: Asks) -> Refusal | None:
    """Refuse a button that stands at some questions only, at any other."""
    return None if prompt is not None and prompt.asks in asks else Refusal("not_now", "Not at this question.")


class ButtonKind:
    """A button of a flow. It is accepted exactly when it is offered, since one answer serves both."""

    action = ""
    """Its name in scripts and logs."""
    of_line = False
    """Does it stand beside every line of what is so far, instead of below the question?"""
    counts = False
    """Is said with it how many of the line are meant?"""
    says = ""
    """What is said when the press only moved the dialogue."""

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        """Why it may not be pressed now, in words; None: it is offered."""
        raise NotImplementedError

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        """What stands on it."""
        raise NotImplementedError

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        """Where it leads; ``line`` and ``count`` come with a button of a line."""
        raise NotImplementedError


class FlowKind:
    """What flows of a purpose do with what they have asked; the defaults suit those that do nothing between."""

    waits: ClassVar[Mapping[Asks, tuple[Asks, ...]]]
    """The prompts it has use for, and what must be answered before each. A prompt that stands too early waits for what it
    hangs on; one that it has no use for is passed over. So no order of prompts ends in an error."""
    only_with: ClassVar[Mapping[Asks, Asks]] = {}
    """Prompts that it has use for only where the flow asks for another, too: the line of an order where the order is named."""
    needed: tuple[Asks, ...]
    """What must be asked for it to do its work."""
    buttons: tuple[ButtonKind, ...] = ()
    """In the order in which they stand."""

    def first(self, ctx: Context, answers: Answers) -> Asks | None:
        """What is asked before all else now, wherever it stands; None: nothing is."""
        return None

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        """The act when every prompt is answered, and the answers that stay for the next round."""
        raise Refusal("flow_unfinished", f"Flow {ctx.flow.name} asks nothing. Leave it and tell the analyst.")

    def between(self, ctx: Context, answers: Answers, prompt: Prompt | None) -> tuple[tuple[Named, ...], Answers]:
        """What is done before the next question is asked, and the answers then."""
        return (), answers

    def counted(self, ctx: Context, answers: Answers) -> tuple[Item, int | None] | None:
        """The item of which a number is asked for next, and at most how many of it in base units, where that is so; None: none is, or its pieces are scanned one by
        one."""
        if answers[ITEM] is None or answers[COUNT] is not None or ctx.item(answers).numbered:
            return None
        return ctx.item(answers), None

    def pieces(self, ctx: Context, answers: Answers) -> Wanted | None:
        """The pieces that are to be named now by their serial numbers, where it is not clear by itself which are meant."""
        return None

    def follows(self, answers: Answers, acts: Sequence[Named], events: Sequence[Named]) -> Answers:
        """The answers after its acts made these events."""
        return answers

    def in_hand(self, ctx: Context, answers: Answers) -> str:
        """The code of what a label may be printed of now; empty: nothing is in hand."""
        plate = answers[PLATE]
        return plate if plate and ctx.state.has_plate(plate) else ""

    def so_far(self, ctx: Context, answers: Answers) -> tuple[SoFar, ...]:
        """The lines of what is being made."""
        return ()

    def list_told(self, ctx: Context, answers: Answers) -> tuple[str, str]:
        """What leads to the lines of what is being made, in two words at most, and what those lines are."""
        return "So far", "So far"

    def listed(self, ctx: Context, answers: Answers) -> tuple[tuple[SoFar, ...], int]:
        """The lines that are listed with a question, and how many come before those and are not."""
        return self.so_far(ctx, answers), 0

    def about_to(self, ctx: Context, answers: Answers) -> tuple[str, ...]:
        """What is done when the last look is confirmed, line by line; nothing while it is not clear yet."""
        return ()

    def unfinished(self, ctx: Context, answers: Answers) -> str:
        """What stays begun when the dialogue is left now; empty: nothing."""
        return ""

    def carried(self, ctx: Context) -> list[str]:
        """What the person carries by flows of this purpose."""
        return []

    def places(self, ctx: Context, purpose: FlowPurpose) -> bool:
        """Does this flow place what is carried by flows of that purpose?"""
        return purpose is ctx.flow.purpose

    def open_work(self, ctx: Context) -> int | None:
        """How much waits to be done by flows of this purpose, counted up to :data:`MUCH`; None: nothing is counted."""
        return len(self.carried(ctx)) or None

    def over(self, state: State, answers: Answers) -> None:
        """Says by a refusal what became of the work of a dialogue that is over, if there is something to say."""


@dataclass(frozen=True, slots=True)
class Machine:
    """All kinds of flow and prompt there are."""

    flows: Mapping[FlowPurpose, FlowKind]
    prompts: Mapping[Asks, PromptKind]
    everywhere: tuple[ButtonKind, ...] = ()
    """Buttons that flows of all purposes may offer."""
    at_any_time: Mapping[Read, Callable[[Reading], Named]] = field(default_factory=dict)
    """What a scan does whatever is asked."""
    _known: Memo = field(default_factory=Memo)

    def used(self, flow: Flow) -> list[Prompt]:
        """The prompts of a flow that its purpose has use for, in their order."""
        return self._known.answer(flow, "used", lambda: self._used(flow))

    def _used(self, flow: Flow) -> list[Prompt]:
        kind, only = self.flows[flow.purpose], self.flows[flow.purpose].only_with
        asked = {p.asks for p in flow.prompts}
        return [p for p in flow.prompts if p.asks in kind.waits and only.get(p.asks, p.asks) in asked]

    def waits_for(self, flow: Flow, prompt: Prompt) -> list[Asks]:
        """What a prompt waits for: what it hangs on, as far as the flow asks for it and has use for it."""
        return self._known.answer(flow, prompt.asks, lambda: self._waits_for(flow, prompt))

    def _waits_for(self, flow: Flow, prompt: Prompt) -> list[Asks]:
        asked = {p.asks for p in self.used(flow)}
        return [a for a in self.flows[flow.purpose].waits.get(prompt.asks, ()) if a in asked]

    def lacking(self, flow: Flow) -> list[Asks]:
        """What a flow would have to ask besides, to do its work."""
        asked = {p.asks for p in flow.prompts}
        return [a for a in self.flows[flow.purpose].needed if a not in asked]


def called(asks: Asks) -> str:
    """What a prompt asks for, in a word."""
    return asks.value.replace("_", " ")


def bin_place(ctx: Context, code: BinCode) -> str:
    """Where a bin is, in words: zone, aisle, level."""
    each = ctx.ground.bins[code]
    zone = ctx.ground.zones[each.zone].name
    aisle = f", aisle {each.aisle}" if each.aisle else ""
    level = "floor level" if each.level == 0 else f"level {each.level}"
    return f"{zone}{aisle}, {level}"


def deviation(ctx: Context, code: str, shown: str | None, filled: Answers, words: str, yes: str) -> Answers | Doubt:
    """Another bin than the one shown: never, after a warning, or with a reason, as the flow has it. ``yes`` is what the
    button says that takes it all the same."""
    if shown is None or code == shown:
        return filled
    if ctx.other_bin is OtherBin.NEVER:
        raise Refusal("not_the_bin", f"That is bin `{code}`; this flow keeps to the bin shown: `{shown}`.")
    if ctx.other_bin is OtherBin.REASON:
        return Doubt("reason", f"`{code}` is not the bin shown, `{shown}`. Why is it taken?", filled)
    return Doubt("yes_no", f"`{code}` is not the bin shown, `{shown}`. {words}", filled, yes)
