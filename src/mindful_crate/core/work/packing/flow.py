"""The flow that packs: item by item into the open carton, which is closed with its kind and weight; then the next."""

from __future__ import annotations

from decimal import Decimal
from itertools import islice
from typing import ClassVar

from mindful_crate.core.floor.answers import Answers, Doubt
from mindful_crate.core.floor.cartons import Carton
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, Prompt
from mindful_crate.core.rulebook.packing import Proof
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import (
    COUNT,
    MUCH,
    REASON,
    SERIALS,
    ButtonKind,
    Context,
    FlowKind,
    Step,
    Wanted,
)
from mindful_crate.core.scanning.question import Question, SoFar
from mindful_crate.core.work import numbered
from mindful_crate.core.work.packing import looking
from mindful_crate.core.work.packing.acts import (
    BeginCarton,
    CloseCarton,
    PackAsIs,
    PackInto,
    PackRest,
    PackShort,
    ReopenCarton,
    TakeOut,
)
from mindful_crate.core.work.packing.prompts import (
    AS_IS,
    BENCH,
    CARTON,
    CLOSING,
    FIRST,
    KIND,
    NEW,
    RECOUNTED,
    REST,
    SHORTING,
    WEIGHT,
    WORK,
    WeightKind,
    bench,
    current,
    much,
    next_one,
    rule,
    work,
)

_WEIGHT = WeightKind()
LISTED = 30
"""So many lines of a carton are listed."""


def _packing(ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> bool:
    """Is it asked what goes in?"""
    return prompt is not None and prompt.asks is Asks.PACK_ITEM and work(ctx, dialogue.answers) is not None


LOOKED_AT = (Proof.REST, Proof.TOTE)
"""With these, what is left may go in after a look at it."""


class AllTheRest(ButtonKind):
    """All that is left goes in, after a look at it."""

    action = "pack_rest"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if _packing(ctx, dialogue, prompt) and self._all_looked_at(ctx, dialogue.answers):
            return None
        return Refusal("not_now", "What goes in is scanned here.")

    def _all_looked_at(self, ctx: Context, answers: Answers) -> bool:
        """Is something left, and may all of it go in after a look?"""
        some = False
        for order in ctx.state.shipments[answers.known(WORK)].orders:
            if next(looking.left_of_order(ctx.state, ctx.rulebook, order), None) is not None:
                if rule(ctx, answers, order).proof not in LOOKED_AT:
                    return False
                some = True
        return some

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "All the rest"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        mine = list(islice(looking.left(ctx.state, ctx.rulebook, dialogue.answers.known(WORK)), MUCH))
        told = []
        for code in dict.fromkeys(k.part.goods.item for k in mine):
            item = ctx.ground.items[code]
            told.append(f"{item.told(much(k for k in mine if k.part.goods.item == code))} of {item.name}")
        more = f" and {len(told) - 6} more items" if len(told) > 6 else ""
        says = f"Look: {', '.join(told[:6])}{more}. Is all of that in the carton?"
        return Step(
            dialogue.answers,
            passed(dialogue),
            Doubt("yes_no", says, dialogue.answers.having(REST, True), "All of it is in"),
        )


class AnotherCarton(ButtonKind):
    """A new carton, under a number that is made."""

    action = "new_carton"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if _packing(ctx, dialogue, prompt):
            carton = current(ctx, dialogue.answers)
            left = next(looking.left(ctx.state, ctx.rulebook, dialogue.answers.known(WORK)), None)
            if left is not None and carton is not None and ctx.state.all_goods(carton.number):
                return None
        return Refusal("not_now", "There is no need of another carton here.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Another carton"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        answers = dialogue.answers
        act = BeginCarton(answers.known(WORK), bench(ctx, answers))
        return Step(answers.without(CARTON), (), acts=(act,))


class CloseIt(ButtonKind):
    """The carton that is filled is closed: its kind and weight are asked."""

    action = "close_carton"
    says = "Closing it."

    def _which(self, ctx: Context, dialogue: Dialogue) -> Carton | None:
        opened = ctx.state.cartons.open_of(dialogue.answers.known(WORK))
        mine = current(ctx, dialogue.answers) or (opened[-1] if opened else None)
        return mine if mine is not None and ctx.state.all_goods(mine.number) else None

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if _packing(ctx, dialogue, prompt) and self._which(ctx, dialogue) is not None:
            return None
        return Refusal("not_now", "There is no carton here that could be closed.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Close the carton"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        carton = self._which(ctx, dialogue)
        assert carton is not None
        return settled(ctx, dialogue.answers.having(CLOSING, carton.number), passed(dialogue))


class ScaleIsRight(ButtonKind):
    """What the scale reads is so, although the list says otherwise: it was counted again."""

    action = "counted_again"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if prompt is not None and prompt.asks is Asks.WEIGHT:
            asked = _WEIGHT.title(ctx, dialogue.answers).startswith("The scale")
            if asked and _WEIGHT.proposal(ctx, dialogue.answers, prompt) is None:
                return None
        return Refusal("not_now", "The scale says nothing here that would be doubted.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Counted again: it is so"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        answers = dialogue.answers.having(WEIGHT, Decimal(0)).having(RECOUNTED, True)
        return settled(ctx, answers, passed(dialogue))


class OpenAgain(ButtonKind):
    """The carton that was closed last is opened again."""

    action = "reopen_carton"

    def _last(self, ctx: Context, dialogue: Dialogue) -> Carton | None:
        closed = [c for c in ctx.state.cartons.of(dialogue.answers.known(WORK)) if c.closed]
        return max(closed, key=lambda c: c.closed, default=None)

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if _packing(ctx, dialogue, prompt) and self._last(ctx, dialogue) is not None:
            return None
        return Refusal("not_now", "There is no closed carton here.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Open the last again"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        carton = self._last(ctx, dialogue)
        assert carton is not None
        return Step(dialogue.answers.having(CARTON, carton.number), (), acts=(ReopenCarton(carton.number),))


class NoMore(ButtonKind):
    """No more of an order is packed: why is asked; what is left becomes what the rule says."""

    action = "pack_short"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        packs = _packing(ctx, dialogue, prompt)
        if packs and next(looking.left(ctx.state, ctx.rulebook, dialogue.answers.known(WORK)), None) is not None:
            return None
        return Refusal("not_now", "Nothing is left here that would not be packed.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Close short"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        answers = dialogue.answers
        mine = list(islice(looking.left(ctx.state, ctx.rulebook, answers.known(WORK)), MUCH))
        order = next((k.line.order for k in mine if k.line.order == answers[FIRST]), mine[0].line.order)
        lines = len({k.line for k in mine if k.line.order == order})
        says = f"{counted(lines, 'line')} of `{order}` are not packed. Why?"
        return Step(answers, passed(dialogue), Doubt("reason", says, answers.having(SHORTING, order)))


class OutAgain(ButtonKind):
    """What is in the carton is taken out of it again."""

    action = "take_out"
    of_line = True
    counts = True

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if _packing(ctx, dialogue, prompt) and current(ctx, dialogue.answers) is not None:
            return None
        return Refusal("not_now", "There is no open carton here to take something out of.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Take out"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        carton = current(ctx, dialogue.answers)
        assert carton is not None
        mine = looking.inside(ctx.state, carton)
        if line is None or not 0 < line <= len(mine):
            raise Refusal("no_such_line", f"Carton `{carton.number}` has no line {line}.")
        what = mine[line - 1]
        try:
            said = Decimal(count) if count else Decimal(what.quantity)
            quantity = int(said)
        except (ArithmeticError, ValueError):
            raise Refusal("no_number", f"`{count}` is no number. Say how many are taken out.") from None
        if quantity != said:
            raise Refusal("no_number", f"`{count}` is no whole number. Say how many are taken out.")
        act = TakeOut(carton.number, what.line.order, what.line.line, quantity)
        return Step(dialogue.answers, (), acts=(act,))


def _so_far(ctx: Context, n: int, each: looking.Inside) -> SoFar:
    item = ctx.ground.items[each.item]
    lot = f", lot {each.lot}" if each.lot else ""
    told = f"{item.told(each.quantity)} for {each.line.order}{lot}"
    return SoFar(n, item.code, item.name, told, str(each.quantity), item.base.plural)


class PackFlow(FlowKind):
    """Each item is an act of its own, so any bench or handset goes on where it stands."""

    _ITEM: ClassVar = (Asks.PACKED, Asks.PACK_ITEM)
    waits: ClassVar = {
        Asks.PACKED: (),
        Asks.PACK_ITEM: (Asks.PACKED,),
        Asks.PACK_COUNT: _ITEM,
        Asks.PIECES: (*_ITEM, Asks.PACK_COUNT),
        Asks.CARTON_KIND: (Asks.PACKED,),
        Asks.WEIGHT: (Asks.PACKED, Asks.CARTON_KIND),
    }
    needed = (Asks.PACKED, Asks.PACK_ITEM)
    buttons = (AllTheRest(), CloseIt(), AnotherCarton(), ScaleIsRight(), NoMore(), OpenAgain(), OutAgain())

    def pieces(self, ctx: Context, answers: Answers) -> Wanted | None:
        """The pieces that go in: they must be those that were picked."""
        mine = next_one(ctx, answers)
        if not mine or mine[0].part.goods.item not in ctx.state.serials.kept:
            return None
        item = ctx.ground.items[mine[0].part.goods.item]
        there = tuple(n for k in mine for n in ctx.state.serials.at(looking.source_of(k.part), k.part.goods))
        quantity = int(answers[COUNT] or much(mine))
        note = f"Picked: {numbered.numbers_told(there)}".replace("`", "")
        return Wanted(item, quantity, tuple(dict.fromkeys(there)), "that were picked", "is packed", note)

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        shipment, stays = answers.known(WORK), answers.only(WORK, BENCH, FIRST, CARTON)
        if answers[NEW]:
            act = BeginCarton(shipment, bench(ctx, answers), answers[NEW], answers[KIND])
            return act, stays.without(CARTON).having(CARTON, answers[NEW])
        if answers[AS_IS]:
            return PackAsIs(answers.known(AS_IS)), stays
        if answers[REST]:
            carton = current(ctx, answers)
            return PackRest(shipment, bench(ctx, answers), None, carton.number if carton else None), stays
        if answers[SHORTING]:
            return PackShort(answers.known(SHORTING), answers[REASON] or ""), stays
        if answers[CLOSING]:
            weight = int(answers[WEIGHT] or 0)
            return CloseCarton(answers.known(CLOSING), answers[KIND], weight, answers[RECOUNTED]), stays.without(CARTON)
        mine = next_one(ctx, answers)
        assert mine, "an item is asked for as long as nothing of it waits"
        quantity, carton = int(answers[COUNT] or much(mine)), current(ctx, answers)
        line = mine[0].line
        act_ = PackInto(
            bench(ctx, answers), line.order, line.line, quantity, carton.number if carton else None, answers[SERIALS]
        )
        return act_, stays

    def list_told(self, ctx: Context, answers: Answers) -> tuple[str, str]:
        carton = self._open(ctx, answers)
        return "In it", f"In carton `{carton.number}`" if carton else "In the carton"

    def so_far(self, ctx: Context, answers: Answers) -> tuple[SoFar, ...]:
        """What is in the open carton, line by line."""
        carton = self._open(ctx, answers)
        mine = looking.inside(ctx.state, carton) if carton is not None else ()
        return tuple(_so_far(ctx, n, each) for n, each in enumerate(mine, start=1))

    def listed(self, ctx: Context, answers: Answers) -> tuple[tuple[SoFar, ...], int]:
        carton = self._open(ctx, answers)
        if carton is None:
            return (), 0
        more, last = looking.latest_inside(ctx.state, carton, LISTED)
        return tuple(_so_far(ctx, n, each) for n, each in enumerate(last, start=more + 1)), more

    def _open(self, ctx: Context, answers: Answers) -> Carton | None:
        return current(ctx, answers) if work(ctx, answers) is not None else None

    def in_hand(self, ctx: Context, answers: Answers) -> str:
        if answers[WORK] is None:
            return ""
        carton = self._open(ctx, answers)
        closed = [c for c in ctx.state.cartons.of(answers.known(WORK)) if c.closed]
        last = max(closed, key=lambda c: c.closed, default=None)
        return carton.number if carton else last.number if last else ""

    def unfinished(self, ctx: Context, answers: Answers) -> str:
        carton = self._open(ctx, answers)
        return f"Carton `{carton.number}` stays open" if carton else ""

    def open_work(self, ctx: Context) -> int | None:
        return sum(1 for _ in islice(looking.waiting(ctx.state, ctx.rulebook), MUCH))


FLOWS = {FlowPurpose.PACK: PackFlow()}
"""What it does."""
