"""The interpreter of handset dialogues: a pure step over flows that are data.

A dialogue is slots to fill. The first prompt of the flow that applies and is unfilled is the question; a scan
is read as what that prompt expects and fills its slot, and perhaps others. When every prompt of a line is
filled, the flow's purpose turns the slots into acts, which ``world.decide`` carries out or refuses.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from decimal import Decimal

from mindful_crate.core.catalog.ids import PlateNo
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.slots import Doubt, Slots
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Check, FlowPurpose, PlateBy, Prompt
from mindful_crate.core.scanning.kinds import Context
from mindful_crate.core.scanning.question import Button, Question, SoFar
from mindful_crate.core.scanning.reading import NUMBERS, How, Read, Reading, Scan, read, told
from mindful_crate.core.scanning.registry import KINDS, called, lacking, used, waits_for
from mindful_crate.core.work.handset.acts import Press
from mindful_crate.core.work.making import Named
from mindful_crate.core.work.moving import checks as moving
from mindful_crate.core.work.moving.acts import PlaceGoods, PlacePlates, TakeGoods, TakePlate
from mindful_crate.core.work.moving.from_prompts import base_count, take_count
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.putting.acts import Place, Take
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.receiving.acts import ChangeLine, FinishPlate, NoteLine, ReceiveAnnounced
from mindful_crate.core.work.tasks.acts import SetDown
from mindful_crate.core.work.tasks.offered import may_go_back


@dataclass(frozen=True, slots=True)
class Step:
    """Where a dialogue goes on, and the acts that must succeed for it to go there."""

    slots: Slots
    past: tuple[Slots, ...] = ()
    doubt: Doubt | None = None
    acts: tuple[Named, ...] = ()
    read_as: str = ""


def current(ctx: Context, slots: Slots) -> Prompt | None:
    """The prompt to ask: the first of the flow that applies, is not answered, and waits for no other."""

    def open_(asks: Asks) -> bool:
        return KINDS[asks].needed(ctx, slots)

    return next((p for p in used(ctx.flow) if not any(map(open_, waits_for(ctx.flow, p))) and open_(p.asks)), None)


def opened(ctx: Context) -> Step:
    """The first step of a dialogue: whatever is known without asking is filled in. Refused when the flow lacks a prompt
    without which it leads nowhere."""
    lacks = lacking(ctx.flow)
    if lacks:
        says = f"{ctx.flow.name} never asks for the {called(lacks[0])}, so it cannot do its work. Tell the analyst."
        raise Refusal("prompt_missing", says)
    return _settle(ctx, Slots(), ())


def scanned(ctx: Context, dialogue: Dialogue, scan: Scan) -> Step:
    """One scan, typed or tapped text."""
    slots, doubt = dialogue.slots, dialogue.doubt
    if doubt and doubt.asks == "reason":
        reason = scan.text.strip()
        if len(reason) < 3:
            raise Refusal("no_reason", "Write the reason in a few words, so that the rules can be mended.")
        return replace(_settle(ctx, replace(doubt.then, reason=reason), ()), read_as="reason")
    if doubt:
        raise Refusal("answer_first", "Answer the question first: yes or no.")
    prompt = current(ctx, slots)
    if prompt is None:
        raise Refusal("flow_unfinished", f"Flow {ctx.flow.name} asks nothing more here. Leave it and tell the analyst.")
    reading = read(scan, prompt.asks, ctx.state, ctx.today)
    if prompt.check is Check.SCAN and scan.how is not How.SCANNED:
        raise Refusal(
            "must_scan", f"This must be scanned, not {scan.how.value}: scan {KINDS[prompt.asks].asked(ctx, slots)}."
        )
    read_as = _read_as(ctx, reading)
    if prompt.asks is Asks.QUANTITY and _is_next_item(reading, slots):
        return replace(_next_item(ctx, slots, prompt, reading), read_as=read_as)
    if prompt.asks is Asks.ITEM and reading.kind is Read.ORDER:
        order = receiving.order_for_receipt(ctx.state, KINDS[Asks.ORDER].take(ctx, slots, reading).order)  # type: ignore[union-attr,arg-type]
        return Step(replace(slots, order=order.number), _passed(dialogue), read_as=read_as)
    past = _passed(dialogue)
    if prompt.asks in (Asks.ORDER, Asks.PLATE, Asks.ITEM) and reading.kind is Read.LABEL:
        announced = ctx.state.announced(PlateNo(reading.code))
        if announced and slots.plate is None:
            act = ReceiveAnnounced(ctx.flow.id, PlateNo(reading.code))
            return Step(replace(slots, order=announced[0].order, new_plate=False), past, acts=(act,), read_as=read_as)
    filled = KINDS[prompt.asks].take(ctx, slots, reading)
    if isinstance(filled, Doubt):
        return Step(slots, past, filled, read_as=read_as)
    return replace(_settle(ctx, filled, past), read_as=read_as)


STEPS_BACK = 12
"""So many questions a worker may step back. Looking up goes on for as long as she likes, and its log must not grow."""


def _passed(dialogue: Dialogue) -> tuple[Slots, ...]:
    """What may be stepped back to after the question that is answered now."""
    return (*dialogue.past, dialogue.slots)[-STEPS_BACK:]


def _read_as(ctx: Context, reading: Reading) -> str:
    """What a scan was read as, for the log: ``item `ROPE-12` Braided rope 12 mm, coil``."""
    if reading.kind is Read.UNKNOWN:
        return "unknown"
    if reading.item and reading.unit:
        item = ctx.ground.items[reading.item]
        return f"{told(reading)} {item.name}, {item.unit(reading.unit).name}"
    return told(reading)


def _is_next_item(reading: Reading, slots: Slots) -> bool:
    return reading.kind is Read.ITEM and reading.item != slots.item


def _next_item(ctx: Context, slots: Slots, prompt: Prompt, reading: Reading) -> Step:
    """The scan of the next item confirms the proposed quantity of the last."""
    unit = ctx.unit(slots)
    if not ctx.rulebook.next_item_confirms(ctx.flow, ctx.state.settings.site):
        raise Refusal("confirm_first", f"Confirm how many {unit.plural} first; then scan the next item.")
    proposal = KINDS[prompt.asks].proposal(ctx, slots, prompt)
    if proposal is None:
        raise Refusal("no_proposal", f"Enter how many {unit.plural} first; there is no number to confirm.")
    line, kept = _line(ctx, replace(slots, count=proposal))
    after = KINDS[Asks.ITEM].take(ctx, kept, reading)
    assert isinstance(after, Slots)
    step = _settle(ctx, after, (kept,))
    return replace(step, acts=(line, *step.acts))


def _settle(ctx: Context, slots: Slots, past: tuple[Slots, ...]) -> Step:
    """Fill what is known without asking; when a line is complete, turn it into acts."""
    acts: tuple[Named, ...] = ()
    for _ in range(len(ctx.flow.prompts) + 1):
        prompt = current(ctx, slots)
        if prompt is None:
            act, kept = _COMPLETE[ctx.flow.purpose](ctx, slots)
            return Step(kept, (), acts=(*acts, act))
        filled = _without_asking(ctx, slots, prompt)
        if filled is None:
            break
        slots = filled
    begun, slots = _BEGIN[ctx.flow.purpose](ctx, slots)
    acts = (*acts, *begun)
    return Step(slots, past if not acts else (), acts=acts)


def _without_asking(ctx: Context, slots: Slots, prompt: Prompt) -> Slots | None:
    kind = KINDS[prompt.asks]
    given = kind.given(ctx, slots)
    if given is not None:
        return given
    if not prompt.skip_single:
        return None
    picks = list(kind.picks(ctx, slots))
    if len(picks) != 1:
        return None
    filled = kind.take(ctx, slots, read(Scan(picks[0].value, How.TAPPED), prompt.asks, ctx.state, ctx.today))
    return filled if isinstance(filled, Slots) else None


def _line(ctx: Context, slots: Slots) -> tuple[Named, Slots]:
    """A line of a receipt: its act, and the slots that stay for the next line."""
    quantity = receiving.whole_quantity(ctx.item(slots), ctx.unit(slots), slots.count or Decimal(0))
    assert slots.order and slots.item and slots.unit
    act = NoteLine(
        ctx.flow.id, slots.order, slots.item, slots.unit, quantity,
        slots.plate, ctx.flow.plate_kind, slots.lot or "", slots.expiry,
    )  # fmt: skip
    return act, Slots(order=slots.order, plate=slots.plate, new_plate=slots.new_plate)


def _placed(ctx: Context, slots: Slots) -> tuple[Named, Slots]:
    """A plate placed: the next one is asked."""
    assert slots.task and slots.bin
    return Place(slots.task, slots.bin, slots.reason or ""), Slots()


def _plates_placed(ctx: Context, slots: Slots) -> tuple[Named, Slots]:
    """Carried plates placed, all or the one chosen: what is still carried is asked for next."""
    assert slots.bin
    placed = (slots.task,) if slots.task else slots.tasks
    left = tuple(t for t in slots.tasks if t not in placed)
    return PlacePlates(placed, slots.bin, slots.on, slots.reason or ""), Slots(tasks=left, going=bool(left))


def _goods_placed(ctx: Context, slots: Slots) -> tuple[Named, Slots]:
    """Carried goods placed, all or a part. What the worker came for and has not taken yet is gone on with."""
    assert slots.task and slots.bin
    part = int(slots.part) if slots.part else None
    act = PlaceGoods(ctx.flow.id, slots.task, slots.bin, slots.on, part, slots.reason or "")
    if slots.count and slots.item:
        return act, Slots(item=slots.item, unit=ctx.item(slots).base.code, count=slots.count, lot=slots.lot)
    return act, Slots()


def _nothing_placed(ctx: Context, slots: Slots) -> tuple[Named, Slots]:
    raise Refusal("flow_unfinished", f"Flow {ctx.flow.name} asks nothing. Leave it and tell the analyst.")


_COMPLETE: dict[FlowPurpose, Callable[[Context, Slots], tuple[Named, Slots]]] = {
    FlowPurpose.RECEIVE: _line,
    FlowPurpose.PUT_AWAY: _placed,
    FlowPurpose.MOVE_PLATES: _plates_placed,
    FlowPurpose.MOVE_GOODS: _goods_placed,
    FlowPurpose.LOOK_UP: _nothing_placed,
}


def _begin_put_away(ctx: Context, slots: Slots) -> tuple[tuple[Named, ...], Slots]:
    """A plate that was found is taken up."""
    if slots.task and ctx.task(slots).person is None:
        return (Take(slots.task),), slots
    return (), slots


def _begin_plates(ctx: Context, slots: Slots) -> tuple[tuple[Named, ...], Slots]:
    """A plate that was scanned is taken up."""
    if slots.plate is None:
        return (), slots
    return (TakePlate(ctx.flow.id, slots.plate),), replace(slots, plate=None)


def _begin_goods(ctx: Context, slots: Slots) -> tuple[tuple[Named, ...], Slots]:
    """Once source, item and count are known, the goods are taken; the count then tells what is still to come."""
    prompt = current(ctx, slots)
    if slots.task or not (slots.from_bin and slots.item and slots.count) or not prompt or prompt.asks is not Asks.TO:
        return (), slots
    count = take_count(ctx, slots)
    left = base_count(ctx, slots) - count
    act = TakeGoods(ctx.flow.id, slots.from_bin, slots.item, count, slots.lot or "", slots.from_plate)
    rest = Decimal(left) if left and ctx.flow.takes_by else None
    return (act,), Slots(item=slots.item, unit=slots.unit, count=rest, lot=slots.lot)


def _begin_nothing(ctx: Context, slots: Slots) -> tuple[tuple[Named, ...], Slots]:
    return (), slots


_BEGIN: dict[FlowPurpose, Callable[[Context, Slots], tuple[tuple[Named, ...], Slots]]] = {
    FlowPurpose.RECEIVE: _begin_nothing,
    FlowPurpose.PUT_AWAY: _begin_put_away,
    FlowPurpose.MOVE_PLATES: _begin_plates,
    FlowPurpose.MOVE_GOODS: _begin_goods,
    FlowPurpose.LOOK_UP: _begin_nothing,
}
"""What is done between two questions, before the next is asked."""


def pressed(ctx: Context, dialogue: Dialogue, press: Press) -> Step:
    """One button."""
    slots, doubt = dialogue.slots, dialogue.doubt
    if press.action in ("yes", "no"):
        return _doubt_answered(ctx, dialogue, press.action == "yes")
    if doubt:
        raise Refusal("answer_first", "Answer the question first: yes or no.")
    prompt = current(ctx, slots)
    if press.action == "confirm":
        if prompt is None or prompt.asks not in NUMBERS:
            raise Refusal("nothing_to_confirm", "There is nothing to confirm here.")
        proposal = KINDS[prompt.asks].proposal(ctx, slots, prompt)
        if proposal is None:
            raise Refusal("no_proposal", "Enter how many; there is no number to confirm.")
        return _settle(ctx, KINDS[prompt.asks].confirmed(ctx, slots, proposal), ())
    if press.action == "go_on":
        if prompt is None or prompt.asks is not Asks.PLATES or not slots.tasks:
            raise Refusal("not_now", "Take a plate up first.")
        return _settle(ctx, replace(slots, going=True), ())
    if press.action == "set_down":
        if not _offers_set_down(ctx, slots, prompt):
            raise Refusal("not_now", "Nothing is carried here that could be put back.")
        return Step(Slots(), acts=(SetDown(ctx.task(slots).number),))
    if press.action == "part":
        if prompt is None or prompt.asks is not Asks.TO or not slots.task or not _offers_part(ctx, slots):
            raise Refusal("not_now", "There is nothing to split here.")
        return _settle(ctx, replace(slots, part=Decimal(0)), _passed(dialogue))
    if press.action == "new_plate":
        if prompt is None or prompt.asks is not Asks.PLATE:
            raise Refusal("not_now", "A new plate can be begun only before the first item.")
        if ctx.flow.plate_by is PlateBy.ASKED:
            raise Refusal("label_asked", "A new plate gets the number of its label here: scan an unused one.")
        return _settle(ctx, replace(slots, new_plate=True), _passed(dialogue))
    if press.action == "other_order":
        _between_lines(ctx, slots)
        return _settle(ctx, replace(slots, order=None), _passed(dialogue))
    if press.action == "finish":
        _between_lines(ctx, slots)
        if slots.plate is None or not ctx.state.has_plate(slots.plate):
            raise Refusal("empty_plate", "Nothing is noted yet: scan an item first.")
        order = slots.order and ctx.order(slots)
        going_on = order and ctx.state.lines_open(order)
        return Step(Slots(order=slots.order if going_on else None), acts=(FinishPlate(slots.plate),))
    return _line_edited(ctx, dialogue, press)


def _doubt_answered(ctx: Context, dialogue: Dialogue, yes: bool) -> Step:
    doubt = dialogue.doubt
    if doubt is None or (yes and doubt.asks != "yes_no"):
        raise Refusal("nothing_to_confirm", "There is no question to answer with yes or no.")
    return _settle(ctx, doubt.then, ()) if yes else Step(dialogue.slots, dialogue.past)


def _between_lines(ctx: Context, slots: Slots) -> None:
    if slots.item is not None:
        name = ctx.item(slots).name
        raise Refusal("line_unfinished", f"The line with {name} is not complete: answer it, or step back.")


def _line_edited(ctx: Context, dialogue: Dialogue, press: Press) -> Step:
    slots = dialogue.slots
    if press.line is None:
        raise Refusal("no_line_named", "Choose a line of the list first.")
    plate = slots.plate and ctx.state.plate(slots.plate)
    line = plate and next((x for x in plate.lines if x.line == press.line), None)
    if not plate or not line:
        raise Refusal("no_such_line", f"Line {press.line} is not on the plate any more.")
    quantity = 0
    if press.action == "change_line":
        item = ctx.ground.items[line.item]
        number = read(Scan(press.count or "", How.TYPED), Asks.QUANTITY, ctx.state, ctx.today).count
        if number is None:
            raise Refusal("no_number", f"`{press.count}` is no number. Enter how many {item.unit(line.unit).plural}.")
        quantity = receiving.whole_quantity(item, item.unit(line.unit), number)
    return Step(slots, dialogue.past, acts=(ChangeLine(plate.number, line.line, quantity),))


def stepped_back(dialogue: Dialogue) -> Step:
    """The question before, within the line."""
    if dialogue.doubt:
        return Step(dialogue.slots, dialogue.past)
    if not dialogue.past:
        raise Refusal(
            "nothing_before", "There is nothing to step back to. What is on the plate already is changed in its list."
        )
    return Step(dialogue.past[-1], dialogue.past[:-1])


def ask(ctx: Context, dialogue: Dialogue) -> Question:
    """What the handset shows now."""
    slots, doubt = dialogue.slots, dialogue.doubt
    base = Question(
        dialogue=dialogue.number, step=dialogue.step, flow=ctx.flow.name, asks="", title="", shape="doubt",
        plate=slots.plate or "", so_far=_so_far(ctx, slots),
    )  # fmt: skip
    if doubt:
        yes_no = doubt.asks == "yes_no"
        asked = current(ctx, slots)
        here = "Take it here" if asked and asked.asks is Asks.FROM else "Place here"
        # the safe choice first: who confirms without reading goes back
        buttons = (Button("no", "No, go back"), Button("yes", here)) if yes_no else (Button("no", "Not here"),)
        return replace(
            base, asks=doubt.asks, title=doubt.says, buttons=(*buttons, Button("leave", "Leave")),
            keys="none" if yes_no else "text",
        )  # fmt: skip
    prompt = current(ctx, slots)
    if prompt is None:
        return replace(base, asks="nothing", title="This flow asks nothing more", buttons=(Button("leave", "Leave"),))
    kind = KINDS[prompt.asks]
    question = replace(
        base,
        prompt=prompt.id,
        asks=prompt.asks.value,
        title=prompt.words or kind.title(ctx, slots),
        shape=kind.shape,
        keys=kind.keys,
        picks=() if prompt.check is Check.SCAN else tuple(kind.picks(ctx, slots)),
        facts=_facts(ctx, slots),
        turn=_turn(ctx, slots, prompt)[0],
        turns=_turn(ctx, slots, prompt)[1],
        must_scan=prompt.check is Check.SCAN,
    )
    question = replace(question, **kind.shows(ctx, slots, prompt))
    return replace(question, buttons=_buttons(ctx, dialogue, prompt, question))


def _facts(ctx: Context, slots: Slots) -> tuple[str, ...]:
    facts = []
    if slots.item:
        facts.append(f"`{slots.item}` {ctx.item(slots).name}")
    if slots.expiry:
        facts.append(f"expires {slots.expiry.isoformat()}")
    if slots.lot:
        facts.append(f"lot `{slots.lot}`")
    return tuple(facts)


def _turn(ctx: Context, slots: Slots, prompt: Prompt) -> tuple[int, int]:
    """The how-manyeth question of how many, among those asked once or those asked for each line.

    Until the item is known, lot and expiry are not counted: most items have none.
    """
    blank = Slots(item=slots.item, unit=slots.unit)
    tracked = (Asks.LOT, Asks.EXPIRY)

    def applies(p: Prompt) -> bool:
        if p.id == prompt.id:
            return True
        if p.asks in tracked:
            return slots.item is not None and KINDS[p.asks].needed(ctx, blank)
        return p.asks is Asks.ITEM or KINDS[p.asks].needed(ctx, blank)

    applying = [p for p in used(ctx.flow) if p.each is prompt.each and applies(p)]
    return applying.index(prompt) + 1, len(applying)


def _buttons(ctx: Context, dialogue: Dialogue, prompt: Prompt, question: Question) -> tuple[Button, ...]:
    slots = dialogue.slots
    found: list[Button] = []
    if question.proposal:
        found.append(Button("confirm", f"Confirm {question.proposal}"))
    if prompt.asks is Asks.PLATE and ctx.flow.plate_by is not PlateBy.ASKED:
        found.append(Button("new_plate", "New receipt" if ctx.flow.plate_by is PlateBy.NONE else "New plate"))
    if prompt.asks is Asks.PLATES and slots.tasks:
        found.append(Button("go_on", "Set down"))
    if prompt.asks is Asks.TO and _offers_part(ctx, slots):
        found.append(Button("part", "Only a part"))
    if _offers_set_down(ctx, slots, prompt):
        found.append(Button("set_down", "Put it back"))
    if ctx.flow.purpose is FlowPurpose.RECEIVE and slots.item is None and slots.order:
        if question.so_far:
            found.append(Button("finish", "Finish receipt" if ctx.flow.plate_by is PlateBy.NONE else "Finish plate"))
        found.append(Button("other_order", "Other order"))
    if dialogue.past:
        found.append(Button("back", "Step back"))
    return (*found, Button("leave", "Leave"))


def _offers_set_down(ctx: Context, slots: Slots, prompt: Prompt | None) -> bool:
    """Is something carried that may go back to where it was taken? While its bin is asked, and nothing was placed yet."""
    if ctx.flow.purpose is not FlowPurpose.PUT_AWAY or not prompt or prompt.asks is not Asks.BIN or slots.task is None:
        return False
    return may_go_back(ctx.task(slots))


def _offers_part(ctx: Context, slots: Slots) -> bool:
    """Can the carried goods be split here? If the flow has a question for it and there is more than one piece."""
    if slots.task is None or not any(p.asks is Asks.PART for p in ctx.flow.prompts):
        return False
    return sum(g.quantity for g in ctx.task(slots).goods) > 1


def _so_far(ctx: Context, slots: Slots) -> tuple[SoFar, ...]:
    plate = slots.plate and ctx.state.plate(slots.plate)
    if not plate:
        return ()
    rows = []
    for line in plate.lines:
        item = ctx.ground.items[line.item]
        unit = item.unit(line.unit)
        count, rest = divmod(line.quantity, unit.quantity)
        if rest:
            unit, count = item.base, line.quantity
        lot = f", lot {line.lot}" if line.lot else ""
        rows.append(SoFar(line.line, item.code, item.name + lot, item.told_in(count, unit), str(count), unit.plural))
    return tuple(rows)


def carried_text(ctx: Context, slots: Slots) -> str:
    """What stays as it is when the dialogue is left now."""
    if slots.plate and ctx.state.has_plate(slots.plate):
        building = ctx.state.plate(slots.plate)
        if building and building.into:
            return f" Receipt `{slots.plate}` is still open; open the flow again to go on with it."
        return f" Plate `{slots.plate}` is still being built; open the flow again to go on with it."
    task = putting.carried_by(ctx.state, ctx.person)
    plates = [ctx.state.tasks[n].plate for n in moving.carried_plates(ctx.state, ctx.person)]
    goods = moving.carried_goods(ctx.state, ctx.person)
    carried = [putting.told(ctx.state, task)] if task else []
    carried += [f"plate `{n}`" for n in plates if n]
    if goods:
        carried += [
            f"{ctx.ground.items[g.item].told(g.quantity)} of {ctx.ground.items[g.item].name}" for g in goods.goods
        ]
    return f" You still carry {', '.join(carried)}; open the flow again to place it." if carried else ""
