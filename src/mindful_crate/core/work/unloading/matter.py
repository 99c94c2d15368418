"""Unloading what comes: its flow, its documents, and its row among the matters."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import islice
from typing import ClassVar

from mindful_crate.core.catalog.ids import UnloadingNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.answers import Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, Prompt
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import BIN, COUNT, MUCH, ButtonKind, Context, FlowKind, Step
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.work.papers import Doc, PaperKind, Papers, Stage
from mindful_crate.core.work.receiving.coming import ORDER
from mindful_crate.core.work.rows import Matter, telling
from mindful_crate.core.work.unloading import checks as unloading
from mindful_crate.core.work.unloading.acts import EndUnloading, Unload, UnloadInOffice
from mindful_crate.core.work.unloading.decide import DECIDES
from mindful_crate.core.work.unloading.events import GoodsUnloaded, UnloadingEnded
from mindful_crate.core.work.unloading.fold import FOLDS
from mindful_crate.core.work.unloading.prompts import OFF, PROMPTS, TRUCK
from mindful_crate.core.work.unloading.standing import still_stands


class AllOff(ButtonKind):
    """All of this order is off: goes on with another, at the same truck."""

    action = "all_off"
    says = "What comes next?"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if prompt is not None and prompt.asks is Asks.LOADS:
            return None
        return Refusal("not_now", "No order is being unloaded here.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "That is all of it"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, _next(dialogue.answers), passed(dialogue))


class TruckDone(ButtonKind):
    """Nothing more comes off the truck: what comes next comes off another, or none."""

    action = "truck_done"
    says = "The truck is empty, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if prompt is not None and prompt.asks is Asks.DELIVERY and dialogue.answers[TRUCK]:
            return None
        return Refusal("not_now", "No truck is being unloaded here.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "The truck is empty"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, Answers(), passed(dialogue))


def _next(answers: Answers) -> Answers:
    """What stays for the next order: the truck and its door."""
    return answers.only(TRUCK, BIN) if answers[TRUCK] else Answers()


class UnloadGoods(FlowKind):
    """Each plate, and each count, is unloaded as it is said; nothing is left to finish."""

    waits: ClassVar = {Asks.DELIVERY: (), Asks.DOOR: (Asks.DELIVERY,), Asks.LOADS: (Asks.DELIVERY, Asks.DOOR)}
    needed = (Asks.DELIVERY, Asks.DOOR, Asks.LOADS)
    buttons = (AllOff(), TruckDone())

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        """The order stays for the next round as long as announced plates of it are to come."""
        order, plate = answers.known(ORDER), answers[OFF]
        act = Unload(order, answers.known(BIN), plate, int(answers[COUNT] or 0), answers[TRUCK])
        more = [p for p in unloading.announced_still(ctx.state, order) if p != plate]
        return act, answers.only(ORDER, BIN, TRUCK) if more else _next(answers)

    def open_work(self, ctx: Context) -> int | None:
        return sum(1 for _ in islice(unloading.to_unload(ctx.rulebook, ctx.state), MUCH))


class UnloadingPaper(PaperKind):
    """What was unloaded of an order at one time."""

    kind = DocKind.UNLOADING

    def there(self, state: State, number: str) -> bool:
        return UnloadingNo(number) in state.unloadings

    def all(self, state: State) -> Iterable[str]:
        return iter(state.unloadings)

    def before(self, state: State, number: str) -> tuple[Ref, ...]:
        return (Ref(DocKind.ORDER, state.unloadings[UnloadingNo(number)].order),)

    def since(self, state: State, number: str) -> int:
        return state.unloadings[UnloadingNo(number)].since

    def doc(self, papers: Papers, number: str) -> Doc:
        state = papers.state
        found = state.unloadings[UnloadingNo(number)]
        from_ = f" off truck `{found.truck}`" if found.truck else ""
        stages = [Stage("unloaded", True, found.since, f"{unloading.told(found)}{from_} in `{found.at}`")]
        if found.undone:
            stages.append(Stage("undone", True, found.undone))
        else:
            stages.append(Stage("received", not still_stands(state, found), 0, found.ended))
        return Doc(
            self.kind, number, f"{unloading.told(found)} in `{found.at}`", tuple(stages), self.before(state, number)
        )


def _unloaded(e: GoodsUnloaded) -> str:
    what = [f"plate `{p}`" for p in e.plates] + ([unloading.loads_told(e.count)] if e.count else [])
    truck = f" off truck `{e.truck}`" if e.truck else ""
    return f"{', '.join(what)} of `{e.order}`{truck} in `{e.at}`, unloading `{e.unloading}`"


def _why(why: str) -> str:
    return f": {why.strip()}" if why.strip() else ""


def _asked(a: UnloadInOffice) -> str:
    what = [f"plate `{p}`" for p in a.plates] + ([unloading.loads_told(a.count)] if a.count else [])
    return f"The office unloads {', '.join(what)} of `{a.order}`{_why(a.why)}"


UNLOADING = Matter(
    "unloading",
    DECIDES,
    FOLDS,
    (
        telling(GoodsUnloaded, _unloaded),
        telling(UnloadingEnded, lambda e: f"nothing more of unloading `{e.unloading}` is waited for: {e.why}"),
    ),
    {FlowPurpose.UNLOAD: UnloadGoods()},
    PROMPTS,
    (UnloadingPaper(),),
    asked=(
        telling(UnloadInOffice, _asked),
        telling(EndUnloading, lambda a: f"Nothing more of unloading `{a.unloading}` is to be received{_why(a.why)}"),
    ),
)
"""What it brings."""
