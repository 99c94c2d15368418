"""The flow that picks: a task is begun, fetched stop by stop, and set down at its station; then the next."""

from __future__ import annotations

from typing import ClassVar

from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PlateNo
from mindful_crate.core.floor.answers import TASK, Answers, Doubt
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.tasks import Task, TaskState, Tote
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, Prompt, Short
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import (
    BIN,
    MUCH,
    REASON,
    SERIALS,
    ButtonKind,
    Context,
    FlowKind,
    Step,
    Wanted,
    bin_place,
)
from mindful_crate.core.scanning.question import Question, SoFar
from mindful_crate.core.work.picking import looking
from mindful_crate.core.work.picking.acts import (
    LeavePicking,
    PickBegin,
    PickElsewhere,
    PickPlace,
    PickShort,
    PickTake,
    SetTote,
    TakeTote,
    ToteMissing,
)
from mindful_crate.core.work.picking.buttons import GiveBack, NotThere, at_a_stop
from mindful_crate.core.work.picking.stops import (
    ELSEWHERE,
    LATER,
    LEAVING,
    MISSING,
    NEW_TOTE,
    SEEN,
    SHORT,
    counted_at,
    fresh,
    in_hands_told,
    loose_stop,
    much_of,
    next_stop,
    picking,
    stands_there,
    this,
)

LISTED = 20
"""So many of the latest stops are listed: a list of hundreds would be built and sent with every scan."""


def _fetched(task: Task) -> dict[int, int]:
    """How much was fetched at each stop for loose goods, in base units, in the order it began."""
    stops, much = looking.takes_by_number(task.plan), dict[int, int]()
    for part in task.going.parts:
        if part.move in stops and stops[part.move].goods:
            much[part.move] = much.get(part.move, 0) + part.quantity
    return much


class Later(ButtonKind):
    """This stop is passed over; it comes again after the others."""

    action = "later"
    says = "The next stop, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if at_a_stop(ctx, dialogue, prompt) and looking.several(ctx.task(dialogue.answers)):
            return None
        return Refusal("not_now", "There is no other stop to go to first.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Later"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        answers, move = dialogue.answers, this(next_stop(ctx, dialogue.answers))
        late = (*(n for n in answers[LATER] if n != str(move.no)), str(move.no))
        if len(late) >= len(looking.takes(ctx.task(answers))):
            late = (str(move.no),)  # all were passed over: they come again from the first
        return settled(ctx, fresh(answers).having(LATER, late), passed(dialogue))


class SetDownNow(ButtonKind):
    """What is in hands is set down now, and the rest is left to whoever goes on with it."""

    action = "set_down_now"
    says = "Set down what you have, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        asked = at_a_stop(ctx, dialogue, prompt) or (prompt is not None and prompt.asks is Asks.TOTE)
        if asked and looking.in_hand(ctx.task(dialogue.answers)):
            return None
        return Refusal("not_now", "Nothing is in hands that could be set down.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Set down, leave the rest"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, fresh(dialogue.answers).having(LEAVING, True), passed(dialogue))


class ToteNotThere(ButtonKind):
    """A tote from the zone before is not where it should stand; why is asked, and what follows the flow says."""

    action = "tote_gone"

    @staticmethod
    def _tote(ctx: Context, answers: Answers) -> Tote | None:
        waiting = looking.waiting_totes(ctx.task(answers)) if answers[TASK] is not None else []
        return waiting[0] if waiting else None

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if prompt is not None and prompt.asks is Asks.TOTE and self._tote(ctx, dialogue.answers) is not None:
            return None
        return Refusal("not_now", "No tote is to be taken along now.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Not there"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        tote = self._tote(ctx, dialogue.answers)
        assert tote is not None, "it is offered only with one"
        says = f"Tote `{tote.plate}` of `{tote.order}` not in `{tote.came}`. Why?"
        missing = fresh(dialogue.answers).having(SHORT, tote.plate).having(MISSING, tote.plate)
        return Step(dialogue.answers, passed(dialogue), Doubt("reason", says, missing))


class PickFlow(FlowKind):
    """A task is the worker's as soon as it is known; each stop is an act of its own, so any handset goes on where it stands."""

    _STOP: ClassVar = (Asks.PICKED, Asks.TOTE, Asks.PICK_AT, Asks.PICK_ITEM, Asks.PICK_LOT)
    waits: ClassVar = {
        Asks.PICKED: (),
        Asks.TOTE: (Asks.PICKED,),
        Asks.PICK_AT: (Asks.PICKED, Asks.TOTE),
        Asks.PICK_ITEM: (Asks.PICKED, Asks.TOTE, Asks.PICK_AT),
        Asks.PICK_LOT: (Asks.PICKED, Asks.TOTE, Asks.PICK_AT, Asks.PICK_ITEM),
        Asks.UNIT: _STOP,
        Asks.PICK_COUNT: (*_STOP, Asks.UNIT),
        Asks.PIECES: (*_STOP, Asks.PICK_COUNT),
        Asks.PICK_INTO: (*_STOP, Asks.PICK_COUNT, Asks.PIECES),
        Asks.SET_AT: (Asks.PICKED, Asks.TOTE, Asks.PICK_AT),
        Asks.REVIEW: (Asks.PICKED, Asks.SET_AT),
    }
    only_with: ClassVar = {Asks.UNIT: Asks.PICK_COUNT}
    needed = (Asks.PICKED, Asks.PICK_AT, Asks.SET_AT)
    buttons = (NotThere(), ToteNotThere(), Later(), SetDownNow(), GiveBack(LeavePicking))

    def between(self, ctx: Context, answers: Answers, prompt: Prompt | None) -> tuple[tuple[Named, ...], Answers]:
        task = picking(ctx, answers)
        if task is None:
            return (), answers
        acts: tuple[Named, ...] = (PickBegin(task.number),) if task.state is TaskState.OPEN else ()
        tote = answers[NEW_TOTE]
        if tote is not None:
            handed = any(t.plate == tote for t in looking.waiting_totes(task))
            named = TakeTote(task.number, tote) if handed else SetTote(task.number, looking.without_tote(task)[0], tote)
            acts = (*acts, named)
        answers = answers.without(NEW_TOTE)
        if answers[ELSEWHERE] is not None and (move := next_stop(ctx, answers)) is not None:
            seen = answers.known(ELSEWHERE)
            plate = PlateNo(seen) if ctx.state.has_plate(PlateNo(seen)) else None
            code = (ctx.state.bin_of(plate) if plate else None) or BinCode(seen)
            acts = (*acts, PickElsewhere(task.number, move.no, code, plate, answers[REASON] or ""))
            answers = answers.without(ELSEWHERE).without(REASON).having(SEEN, seen)
        return acts, answers

    def counted(self, ctx: Context, answers: Answers) -> tuple[Item, int | None] | None:
        return counted_at(ctx, answers)

    def pieces(self, ctx: Context, answers: Answers) -> Wanted | None:
        """Those that are fetched, where others lie there too: any, or those that are fixed on the order."""
        move = loose_stop(ctx, answers)
        if move is None or not stands_there(ctx, answers, move):
            return None
        source, much = looking.lies_in(ctx.state, move), much_of(answers, move)
        return looking.pieces_wanted(ctx.state, source, move.goods, move.serves, much, "is picked")

    def about_to(self, ctx: Context, answers: Answers) -> tuple[str, ...]:
        if answers[TASK] is None or answers[BIN] is None:
            return ()
        task, code = ctx.task(answers), answers.known(BIN)
        return (*in_hands_told(ctx, task), f"into `{code}`, {bin_place(ctx, code)}")

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        task, move = ctx.task(answers), next_stop(ctx, answers)
        if answers[MISSING]:
            other = ctx.flow.short is Short.OTHER_BIN
            return ToteMissing(task.number, answers.known(MISSING), answers[REASON] or "", other), fresh(answers)
        if answers[SHORT]:
            other = ctx.flow.short is Short.OTHER_BIN
            return PickShort(task.number, int(answers.known(SHORT)), answers[REASON] or "", other), fresh(answers)
        if move is None:
            act = PickPlace(task.number, answers.known(BIN), answers[REASON] or "", answers[LEAVING])
            return act, Answers()
        return PickTake(task.number, move.no, much_of(answers, move), answers[SERIALS]), fresh(answers)

    def list_told(self, ctx: Context, answers: Answers) -> tuple[str, str]:
        return "Picked", "Picked so far"

    def listed(self, ctx: Context, answers: Answers) -> tuple[tuple[SoFar, ...], int]:
        """What was fetched of the task, stop by stop, the latest last; of many only the latest."""
        task = picking(ctx, answers)
        if task is None:
            return (), 0
        much = _fetched(task)
        numbers = dict.fromkeys(list(much)[-LISTED:])
        moves, totes = looking.takes_by_number(task.plan), {t.order: t.plate for t in task.going.totes}
        left = {m.no: m.goods[0].quantity for m in task.going.remaining if m.no in numbers}
        found = []
        for no in numbers:
            move = moves[no]
            item = ctx.ground.items[ItemCode(move.goods[0].item)]
            order = looking.order_of(move)
            tote = totes.get(order) if order else None
            where = f"{item.told(much[no])} from {move.at}" + (f" into {tote}" if tote else "")
            rest = f"{item.told(left[no])} left there" if no in left else "✓ all of it"
            found.append(SoFar(no, item.code, item.name, where, str(much[no]), item.base.plural, rest))
        return tuple(found), len(much) - len(numbers)

    def unfinished(self, ctx: Context, answers: Answers) -> str:
        begun = looking.picked_by(ctx.state, ctx.person)
        return f"Task `{begun.number}` stays yours" if begun else ""

    def carried(self, ctx: Context) -> list[str]:
        begun = looking.picked_by(ctx.state, ctx.person)
        return [f"what you picked of `{begun.number}`"] if begun and looking.in_hand(begun) else []

    def open_work(self, ctx: Context) -> int | None:
        begun = looking.picked_by(ctx.state, ctx.person)
        return min(MUCH, len(ctx.state.tasks.open_numbers(ctx.takers, Need.PICK, MUCH)) + bool(begun))
