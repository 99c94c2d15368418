"""The flow of receiving: lines onto a plate or into a receipt, and the buttons between them."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from typing import ClassVar

from mindful_crate.core.catalog.goods import Item, ItemUnit
from mindful_crate.core.catalog.ids import PlateNo
from mindful_crate.core.floor.answers import PLATE, TASK, Answers, text
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.plates import Holder, Plate, PlateLine
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named, evolve
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, PlateBy, Prompt
from mindful_crate.core.rulebook.steps import BookingPoint, DeliveryNote
from mindful_crate.core.scanning.dialogue import passed, settled
from mindful_crate.core.scanning.kinds import (
    BIN,
    COUNT,
    EXPIRY,
    ITEM,
    LOT,
    REASON,
    SERIALS,
    UNIT,
    ButtonKind,
    Context,
    FlowKind,
    Step,
    Wanted,
)
from mindful_crate.core.scanning.question import Question, SoFar
from mindful_crate.core.scanning.reading import How, Read, Scan, read
from mindful_crate.core.work.inspecting import doing as inspecting
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.putting import doing
from mindful_crate.core.work.putting.acts import Place, TakeReceived
from mindful_crate.core.work.putting.buttons import WhereElse
from mindful_crate.core.work.putting.prompts import SOUGHT
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.receiving.acts import ChangeLine, FinishPlate, NoteLine
from mindful_crate.core.work.receiving.coming import INTO, LINE, NEW_PLATE, NO_NOTE, NOTE, ORDER, note_wanted, order_of
from mindful_crate.core.work.receiving.events import LoadStarted, PlateFinished, PlateStarted
from mindful_crate.core.work.receiving.goods_prompts import PIECES, counting, upto
from mindful_crate.core.work.receiving.order_prompts import ORDERS
from mindful_crate.core.work.receiving.serial_prompt import all_scanned
from mindful_crate.core.work.tasks.buttons import PutItBack
from mindful_crate.core.work.tasks.dialogue import carried_on
from mindful_crate.core.work.tasks.events import MoveDone

RECEIVED = text("received", PlateNo)
"""What was finished last and is put away in one go: a plate, or a receipt of loose goods."""


class NewPlate(ButtonKind):
    """A new plate is begun, instead of going on with one."""

    action = "new_plate"
    says = "A new plate, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if prompt is None or prompt.asks is not Asks.PLATE:
            return Refusal("not_now", "A new plate can be begun only before the first item.")
        if ctx.flow.plate_by is PlateBy.ASKED:
            return Refusal("label_asked", "A new plate gets the number of its label here: scan an unused one.")
        return None

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "New receipt" if ctx.flow.plate_by is PlateBy.NONE else "New plate"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(NEW_PLATE, True), passed(dialogue))


def _within_a_line(ctx: Context, answers: Answers) -> Refusal | None:
    if answers[ITEM] is None:
        return None
    name = ctx.item(answers).name
    return Refusal("line_unfinished", f"The line with {name} is not complete: answer it, or step back.")


class NoNote(ButtonKind):
    """The goods came without a delivery note, where their plan takes them so."""

    action = "no_note"
    says = "No delivery note, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        asked = prompt is not None and prompt.asks is Asks.NOTE
        if asked and note_wanted(ctx, dialogue.answers) is DeliveryNote.OPTIONAL:
            return None
        return Refusal(
            "not_now", "The step plan wants the number of the delivery note." if asked else "Nothing asks for it."
        )

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "No delivery note"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.having(NO_NOTE, True), passed(dialogue))


class ThatIsAll(ButtonKind):
    """Fewer came than are to be scanned one by one: those that were scanned are the quantity."""

    action = "that_is_all"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        asks, answers = prompt.asks if prompt is not None else None, dialogue.answers
        if asks is Asks.QUANTITY and counting(ctx, answers) and answers[PIECES]:
            return None
        if asks is Asks.SERIAL and answers[SERIALS]:
            return None
        return Refusal("not_now", "No pieces are being scanned here.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return f"That is all: {answers[PIECES] or len(answers[SERIALS])}"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        answers = dialogue.answers
        if answers[SERIALS]:
            return settled(ctx, all_scanned(ctx, answers), ())
        return settled(ctx, answers.having(COUNT, answers[PIECES]), ())


class Finish(ButtonKind):
    """What was noted is finished, between two lines."""

    action = "finish"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        within = _within_a_line(ctx, dialogue.answers)
        if within or _lines(ctx, dialogue.answers):
            return within
        return Refusal("empty_plate", "Nothing is noted yet: scan an item first.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        tells = ", tell the host" if _asks_to_book(ctx, answers) else ""
        return f"Finish {'receipt' if ctx.flow.plate_by is PlateBy.NONE else 'plate'}{tells}"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        answers = dialogue.answers
        going_on = answers[ORDER] and ctx.state.lines_open(order_of(ctx, answers))
        kept = answers.only(ORDER, NOTE, NO_NOTE) if going_on else Answers()
        act = self.act(ctx, answers)
        if not puts_away(ctx):
            return Step(kept, acts=(act,))
        return Step(kept.having(RECEIVED, act.plate), acts=(act, TakeReceived(act.plate)))

    def act(self, ctx: Context, answers: Answers) -> FinishPlate:
        """How it is finished."""
        return FinishPlate(answers.known(PLATE), book=True if _asks_to_book(ctx, answers) else None)


def puts_away(ctx: Context) -> bool:
    """Is what is received put away in one go, by who received it? A flow of receiving that asks for the bin."""
    return any(p.asks is Asks.BIN for p in ctx.flow.prompts)


def _asks_to_book(ctx: Context, answers: Answers) -> bool:
    """Does finishing this leave nothing open of its orders, and the plan ask whether the host is told at once?"""
    plate = ctx.state.plate(answers.known(PLATE)) if answers[PLATE] else None
    if not plate or not plate.lines:
        return False
    plan = receiving.plan_of_line(ctx.rulebook, ctx.state, plate.lines[0])
    if ctx.rulebook.booking_of(plan, ctx.state.settings.site) is not BookingPoint.LINES_ASKED:
        return False
    orders = {x.order: receiving.known_order(ctx.state, x.order) for x in plate.lines}
    return all(receiving.all_here(ctx.state, o, plate.lines) for o in orders.values())


class FinishLater(Finish):
    """What was noted is finished, and the host is told later, though nothing of the orders is open any more."""

    action = "finish_later"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if refused := super().unless(ctx, dialogue, prompt):
            return refused
        if _asks_to_book(ctx, dialogue.answers):
            return None
        return Refusal("not_now", "When the host is told of this, its step plan says.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Finish, tell the host later"

    def act(self, ctx: Context, answers: Answers) -> FinishPlate:
        return FinishPlate(answers.known(PLATE), book=False)


class FinishOtherwise(Finish):
    """What was noted is finished and sent in to the inspection, or past it, where the plan leaves that to who finishes it."""

    action = "finish_otherwise"

    def _plate(self, ctx: Context, answers: Answers) -> Plate | None:
        return ctx.state.plate(answers.known(PLATE)) if answers[PLATE] else None

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if refused := super().unless(ctx, dialogue, prompt):
            return refused
        plate = self._plate(ctx, dialogue.answers)
        plan = receiving.plan_of_line(ctx.rulebook, ctx.state, plate.lines[0]) if plate and plate.lines else None
        if plan and plan.inspect.on and plan.inspect.sends:
            return None
        return Refusal("not_yours_to_say", "The step plan says itself what is inspected.")

    def _otherwise(self, ctx: Context, answers: Answers) -> bool:
        """Into the inspection? Not if it would stop there anyhow."""
        plate = self._plate(ctx, answers)
        assert plate is not None
        plan = receiving.plan_of_line(ctx.rulebook, ctx.state, plate.lines[0])
        return not inspecting.chosen(ctx.state, plan, plate.lines)

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Finish, to be inspected" if self._otherwise(ctx, answers) else "Finish, past the inspection"

    def act(self, ctx: Context, answers: Answers) -> FinishPlate:
        return evolve(super().act(ctx, answers), inspect=self._otherwise(ctx, answers))


class OtherOrder(ButtonKind):
    """Goes on with another order, between two lines."""

    action = "other_order"
    says = "Another order, then."

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if dialogue.answers[ORDER] is None:
            return Refusal("not_now", "No order is named yet: scan one.")
        if dialogue.answers[TASK] is not None:
            return Refusal("not_now", "Put away what you carry first.")
        return _within_a_line(ctx, dialogue.answers)

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Other order"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        return settled(ctx, dialogue.answers.without(ORDER, NOTE, NO_NOTE), passed(dialogue))


class EditLine(ButtonKind):
    """Changes a line of what is so far."""

    of_line = True
    counts = True
    action = "change_line"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if _lines(ctx, dialogue.answers):
            return None
        return Refusal("no_such_line", "No line is noted here that could be changed.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Change"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        if line is None:
            raise Refusal("no_line_named", "Choose a line of the list first.")
        answers = dialogue.answers
        plate = answers[PLATE] and ctx.state.plate(answers.known(PLATE))
        noted = plate and next((x for x in plate.lines if x.line == line), None)
        if not plate or not noted:
            raise Refusal("no_such_line", f"Line {line} is not on the plate any more.")
        item = ctx.ground.items[noted.item]
        quantity = self.quantity(ctx, item, item.unit(noted.unit), count or "")
        return Step(answers, dialogue.past, acts=(ChangeLine(plate.number, noted.line, quantity),))

    def quantity(self, ctx: Context, item: Item, unit: ItemUnit, count: str) -> int:
        """How much of it there is then, in base units."""
        number = read(Scan(count, How.TYPED), Read.NUMBER, ctx.state, ctx.today).count
        if number is None:
            raise Refusal("no_number", f"`{count}` is no number. Enter how many {unit.plural}.")
        return receiving.whole_quantity(item, unit, number)


class RemoveLine(EditLine):
    """Takes a line off what is so far."""

    action = "remove_line"
    counts = False

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Take off"

    def quantity(self, ctx: Context, item: Item, unit: ItemUnit, count: str) -> int:
        return 0


class Receive(FlowKind):
    """Lines are noted until what is received is finished."""

    waits: ClassVar = {
        Asks.ORDER: (), Asks.INTO: (Asks.ORDER, Asks.PLATE), Asks.NOTE: (Asks.ORDER,), Asks.LINE: (Asks.ORDER,), Asks.PLATE: (), Asks.ITEM: (Asks.ORDER, Asks.LINE, Asks.INTO), Asks.EXPIRY: (Asks.ITEM,), Asks.LOT: (Asks.ITEM,),
        Asks.UNIT: (Asks.ITEM,), Asks.QUANTITY: (Asks.ITEM, Asks.UNIT), Asks.SERIAL: (Asks.ITEM,), Asks.BIN: (), Asks.PIECES: (),
    }  # fmt: skip
    only_with: ClassVar = {Asks.LINE: Asks.ORDER, Asks.PIECES: Asks.BIN}
    needed = (Asks.ITEM, Asks.QUANTITY)
    buttons = (
        NewPlate(), NoNote(), ThatIsAll(), Finish(), FinishLater(), FinishOtherwise(), OtherOrder(), EditLine(), RemoveLine(), PutItBack(Asks.BIN), WhereElse(),
    )  # fmt: skip

    def first(self, ctx: Context, answers: Answers) -> Asks | None:
        """Where what was received is put, and which pieces where that is a part."""
        if answers[TASK] is None or not puts_away(ctx):
            return None
        return Asks.BIN if answers[BIN] is None else Asks.PIECES

    def counted(self, ctx: Context, answers: Answers) -> tuple[Item, int | None] | None:
        return None if answers[ITEM] and upto(ctx, answers) else super().counted(ctx, answers)

    def pieces(self, ctx: Context, answers: Answers) -> Wanted | None:
        """Those of what is in hands that are placed in a bin, where others are not."""
        if answers[TASK] is None or answers[BIN] is None:
            return None
        return doing.to_place(ctx.state, ctx.task(answers))

    def between(self, ctx: Context, answers: Answers, prompt: Prompt | None) -> tuple[tuple[Named, ...], Answers]:
        """What was taken up is placed, and the next of the same receipt taken; what is carried already is gone on with."""
        if not puts_away(ctx):
            return (), answers
        if answers[TASK] is None:
            carried = putting.carried_by(ctx.state, ctx.person)
            return (), answers.having(TASK, carried.number) if carried else answers
        if answers[BIN] is None or (prompt is not None and prompt.asks is Asks.PIECES):
            return (), answers
        place = Place(answers.known(TASK), answers.known(BIN), answers[REASON] or "", answers[SERIALS])
        answers = answers.without(SERIALS)
        if putting.keeps_some(ctx.task(answers)):
            return (place,), answers.without(BIN, REASON, SOUGHT)
        received = answers[RECEIVED]
        more = (TakeReceived(received),) if received else ()
        return (place, *more), answers.without(TASK, BIN, REASON, SOUGHT)

    def places(self, ctx: Context, purpose: FlowPurpose) -> bool:
        """Also what is carried to be put away, where it asks for the bin."""
        return super().places(ctx, purpose) or (purpose is FlowPurpose.PUT_AWAY and puts_away(ctx))

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        """A line is noted; order and plate stay for the next."""
        quantity = receiving.whole_quantity(ctx.item(answers), ctx.unit(answers), answers[COUNT] or Decimal(0))
        line = int(answers.known(LINE)) if answers[LINE] is not None else None
        act = NoteLine(
            ctx.flow.id, answers[ORDER], answers.known(ITEM), answers.known(UNIT), quantity, answers[PLATE], ctx.flow.plate_kind,
            answers[LOT] or "", answers[EXPIRY], answers[NOTE] or "", line, answers[SERIALS], answers[INTO],
        )  # fmt: skip
        return act, answers.only(ORDER, PLATE, NEW_PLATE, NOTE, NO_NOTE, INTO)

    def follows(self, answers: Answers, acts: Sequence[Named], events: Sequence[Named]) -> Answers:
        """What was begun is gone on with, unless it is finished already."""
        if any(isinstance(a, FinishPlate | Place) for a in acts):
            taken = (
                e.task for e in events if isinstance(e, MoveDone) and e.target.holder not in (Holder.BIN, Holder.PLATE)
            )
            return carried_on(next((answers.having(TASK, t) for t in taken), answers), events)
        if any(isinstance(e, PlateFinished) for e in events):  # each line is a receipt of its own
            return answers.without(PLATE, NEW_PLATE, INTO)
        for event in events:
            if isinstance(event, PlateStarted | LoadStarted):
                begun = event.load if isinstance(event, LoadStarted) else event.plate
                answers = answers.having(PLATE, begun).having(NEW_PLATE, False)
        return answers

    def list_told(self, ctx: Context, answers: Answers) -> tuple[str, str]:
        card = ctx.state.plates.card(answers.known(PLATE))
        loose = card is not None and card.into is not None
        return ("So far", "Received so far") if loose else ("On it", f"On plate `{answers[PLATE]}`")

    def so_far(self, ctx: Context, answers: Answers) -> tuple[SoFar, ...]:
        rows = []
        for line in _lines(ctx, answers):
            item = ctx.ground.items[line.item]
            unit = item.unit(line.unit)
            count, rest = divmod(line.quantity, unit.quantity)
            if rest:
                unit, count = item.base, line.quantity
            lot = f", lot {line.lot}" if line.lot else ""
            lot += f": {', '.join(line.serials)}" if line.serials else ""
            told = item.told_in(count, unit)
            still = _still_open(ctx, line)
            rows.append(SoFar(line.line, item.code, item.name + lot, told, str(count), unit.plural, still))
        return tuple(rows)

    def open_work(self, ctx: Context) -> int | None:
        return ORDERS.open_orders(ctx)

    def unfinished(self, ctx: Context, answers: Answers) -> str:
        if not answers[PLATE] or not ctx.state.has_plate(answers.known(PLATE)):
            return ""
        building = ctx.state.plate(answers.known(PLATE))
        if building and building.into:
            return f"Receipt `{answers[PLATE]}` is still open"
        return f"Plate `{answers[PLATE]}` is still being built"

    def over(self, state: State, answers: Answers) -> None:
        if answers[PLATE] and state.has_plate(answers.known(PLATE)):
            receiving.building_plate(state, answers.known(PLATE))  # says who finished it, if somebody did


def _lines(ctx: Context, answers: Answers) -> tuple[PlateLine, ...]:
    """What is noted so far."""
    return ctx.state.plates.lines.get(answers.known(PLATE), ()) if answers[PLATE] else ()


def _still_open(ctx: Context, line: PlateLine) -> str:
    """What is open of the order's line that goods came on, in words."""
    order = ctx.state.order(line.order)
    its = ctx.state.ordered.line(order, line.order_line) if order else None
    left = ctx.state.open_quantity(order, its) if order and its else 0
    return f"{ctx.ground.items[line.item].told(left)} still open" if left > 0 else "✓ all of its line is here"
