"""Decide a command against the state and the rulebook: events and trails, or a refusal. Nothing is changed."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from typing import cast

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import (
    BinCode,
    DialogueNo,
    FlowId,
    ItemCode,
    PlateNo,
    ReceiptNo,
    ReservationNo,
    RuleId,
    TaskNo,
)
from mindful_crate.core.catalog.places import PlateNeed
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.plates import Plate
from mindful_crate.core.floor.state import State, WorldKind
from mindful_crate.core.floor.tasks import Task, TaskState
from mindful_crate.core.floor.topics import Topic
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Flow, PlateBy
from mindful_crate.core.rulebook.steps import BookingPoint, Need
from mindful_crate.core.scanning import dialogue as talk
from mindful_crate.core.scanning.kinds import Context
from mindful_crate.core.trail import Trail
from mindful_crate.core.world import acts, hosting, moving, putting, receiving
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.acts import At
from mindful_crate.core.world.fold import fold
from mindful_crate.core.world.making import Making, Named, said
from mindful_crate.core.world.rows import by_kind, deciding


def decide(state: State, rulebook: Rulebook, command: acts.Command) -> ev.Entry:
    """The log entry of a command: carried out, or refused with a reason the person can act on. What is made is folded as
    it is made, so that the decision sees it, and taken back at the end: whoever decides has the state to themselves."""
    outcome: ev.Done | ev.Refused
    stamp = command.stamp

    def decided(making: Making, act: Named) -> str:
        return DECIDERS[type(act)](state, making, rulebook, stamp, act)

    with state.tentatively():
        making = Making(state, At(state.seq + 1, stamp), fold, decided)
        try:
            says = making.act(command.act)
            outcome = ev.Done(cast(tuple[ev.Event, ...], tuple(making.events)), says, tuple(making.trails))
        except Refusal as refusal:
            outcome = ev.Refused(refusal.problem)
    return ev.Entry(state.seq + 1, command, outcome)


# Dialogues


def context(state: State, rulebook: Rulebook, stamp: acts.Stamp, flow: Flow) -> Context:
    """What a dialogue of this flow may look at."""
    return Context(state, rulebook, flow, stamp.who, stamp.crews, stamp.device, stamp.today)


def _open_flow(state: State, making: Making, rulebook: Rulebook, stamp: acts.Stamp, act: acts.OpenFlow) -> str:
    flow = rulebook.flow(act.flow)
    if flow is None:
        raise Refusal("unknown_flow", f"The rulebook has no flow `{act.flow}`.")
    if flow not in rulebook.menu_for(state.settings.site, stamp.crews):
        raise Refusal(
            "not_on_menu", f"{flow.name} is on no menu of your crews. The analyst puts it there, under Scanner."
        )
    number = DialogueNo(making.draw("dialogue"))
    for open_ in state.dialogues.open_on(stamp.device):
        making.event(ev.DialogueLeft(open_.number, by=stamp.who))
    making.event(ev.DialogueOpened(number, flow.id, stamp.who, stamp.device))
    step = talk.opened(context(state, rulebook, stamp, flow))
    return said(_move(state, making, stamp, state.dialogues[number], step), f"{flow.name} opened.")


def _answer(state: State, making: Making, rulebook: Rulebook, stamp: acts.Stamp, act: acts.Answer) -> str:
    dialogue, ctx = _talking(state, rulebook, stamp, act.dialogue, act.step)
    step = talk.scanned(ctx, dialogue, act.scan)
    making.event(ev.Scanned(dialogue.number, act.scan.text, step.read_as))
    return _move(state, making, stamp, dialogue, step) or f"{_first_large(step.read_as)}."


def _first_large(text: str) -> str:
    return text[:1].upper() + text[1:]


def _press(state: State, making: Making, rulebook: Rulebook, stamp: acts.Stamp, act: acts.Press) -> str:
    dialogue, ctx = _talking(state, rulebook, stamp, act.dialogue, act.step)
    says = _move(state, making, stamp, dialogue, talk.pressed(ctx, dialogue, act))
    return says or _PRESSED.get(act.action, "Done.")


_PRESSED = {
    "other_order": "Another order, then.",
    "no": "Not there, then.",
    "new_plate": "A new plate, then.",
    "go_on": "Nothing more is taken up.",
    "part": "Only a part, then.",
}
"""What is said when a button only moved the dialogue."""


def _step_back(state: State, making: Making, rulebook: Rulebook, stamp: acts.Stamp, act: acts.StepBack) -> str:
    dialogue, _ = _talking(state, rulebook, stamp, act.dialogue, act.step)
    return said(_move(state, making, stamp, dialogue, talk.stepped_back(dialogue)), "One step back.")


def _leave_flow(state: State, making: Making, rulebook: Rulebook, stamp: acts.Stamp, act: acts.LeaveFlow) -> str:
    dialogue, ctx = _talking(state, rulebook, stamp, act.dialogue, None)
    making.event(ev.DialogueLeft(dialogue.number, by=stamp.who))
    return f"{ctx.flow.name} left." + talk.carried_text(ctx, dialogue.slots)


def _talking(
    state: State, rulebook: Rulebook, stamp: acts.Stamp, number: DialogueNo, step: int | None
) -> tuple[Dialogue, Context]:
    dialogue = state.dialogues.get(number)
    if dialogue is None:
        raise Refusal("unknown_dialogue", f"There is no dialogue `{number}`. Open the flow again.")
    if not dialogue.open:
        if dialogue.taken_over:
            raise Refusal(
                "taken_over",
                f"@{dialogue.taken_by} goes on with this plate on handset `{dialogue.taken_over}`. Open the flow again.",
            )
        if dialogue.slots.plate and state.has_plate(dialogue.slots.plate):
            receiving.building_plate(state, dialogue.slots.plate)  # says who finished it, if somebody did
        raise Refusal("dialogue_over", "This dialogue is over. Open the flow again.")
    if dialogue.device != stamp.device:
        raise Refusal("other_device", f"This dialogue runs on handset `{dialogue.device}`.")
    if step is not None and step != dialogue.step:
        raise Refusal("stale_step", "The question has changed meanwhile. Look at the new one and answer that.")
    flow = rulebook.flow(dialogue.flow)
    if flow is None:
        raise Refusal("unknown_flow", f"The rulebook no longer has flow `{dialogue.flow}`. Leave and open another.")
    return dialogue, context(state, rulebook, stamp, flow)


def _move(state: State, making: Making, stamp: acts.Stamp, dialogue: Dialogue, step: talk.Step) -> str:
    """Carry out what a step of a dialogue leads to, and let the dialogue stand where that leaves it."""
    before = len(making.events)
    says = said(*[making.act(act) for act in step.acts])
    slots = step.slots
    finishes = any(isinstance(a, acts.FinishPlate) for a in step.acts)
    for event in making.events[before:]:
        if isinstance(event, (ev.PlateStarted, ev.LoadStarted)) and not finishes:
            begun = event.load if isinstance(event, ev.LoadStarted) else event.plate
            slots = replace(slots, plate=begun, new_plate=False)
        if isinstance(event, ev.TaskMade) and event.need is Need.MOVE:  # what was taken up is carried from here on
            slots = replace(slots, task=event.task) if event.goods else replace(slots, tasks=(*slots.tasks, event.task))
        if isinstance(event, ev.TaskRetargeted):  # it is still carried: ask for the new bin
            slots = replace(slots, task=event.task, bin=None, on=None, reason=None, part=None)
    if (
        slots.plate and slots.plate != dialogue.slots.plate
    ):  # built in one dialogue at a time: who opens it last goes on
        for other in state.dialogues.open_about(slots.plate):
            if other.number != dialogue.number:
                making.event(ev.DialogueLeft(other.number, stamp.device, stamp.who))
    making.event(ev.DialogueMoved(dialogue.number, slots, step.past, step.doubt))
    return says


# Receiving


def _note_line(state: State, making: Making, rulebook: Rulebook, stamp: acts.Stamp, act: acts.NoteLine) -> str:
    order = receiving.order_for_receipt(state, act.order)
    item = state.ground.items[act.item]
    unit = item.unit(act.unit)
    if act.quantity <= 0:
        raise Refusal("not_above_zero", "The quantity must be above zero.")
    lines = receiving.open_lines(state, order, item.code)
    receiving.check_quantity(state, order, item, act.quantity)
    receiving.check_tracking(item, act.lot, act.expiry)
    if act.expiry:
        receiving.check_expiry(act.expiry, stamp.today)
    if act.lot:
        receiving.check_lot(state, item, act.lot, act.expiry)
    plan = receiving.plan_of(rulebook, state.settings.site, order)
    plate = receiving.building_plate(state, act.plate) if act.plate and state.has_plate(act.plate) else None
    if plate is None:
        number = _start_plate(state, making, rulebook, stamp, act, plan.receive.into)
        noted = 0
    else:
        number = plate.number
        noted = max((x.line for x in plate.lines), default=0)
        for other in plate.lines[:1]:
            site = state.settings.site
            theirs = receiving.plan_of(rulebook, site, receiving.known_order(state, other.order))
            if (theirs.put_away.on, rulebook.booking_of(theirs, site)) != (
                plan.put_away.on,
                rulebook.booking_of(plan, site),
            ):
                raise Refusal(
                    "other_plan",
                    f"Plate `{number}` goes by step plan {theirs.name}, `{order.number}` by {plan.name}, and they "
                    "differ in the next step or the booking. Finish this plate and begin another.",
                )
    left = act.quantity
    for line in lines:
        share = min(left, state.open_quantity(order, line))
        if share <= 0:
            break
        noted += 1
        making.event(
            ev.LineNoted(number, noted, order.number, line.no, item.code, unit.code, share, act.lot, act.expiry)
        )
        left -= share
    count, rest = divmod(act.quantity, unit.quantity)
    told = item.told(act.quantity) if rest else item.told_in(count, unit)
    loose = state.plates.cards[number].into is not None
    begun = f"Receipt `{number}` begun. " if loose else f"Plate `{number}` made. "
    return f"{begun if plate is None else ''}{told} of {item.name} on `{number}`."


def _receive_announced(
    state: State, making: Making, rulebook: Rulebook, stamp: acts.Stamp, act: acts.ReceiveAnnounced
) -> str:
    found = state.announced(act.plate)
    if found is None:
        raise Refusal("not_announced", f"Plate `{act.plate}` was not announced, or it is here already.")
    notice, plate = found
    order = receiving.order_for_receipt(state, notice.order)
    plan = receiving.plan_of(rulebook, state.settings.site, order)
    each = state.ground.bins.get(plan.receive.into)
    if each is None:
        raise Refusal(
            "no_receiving_bin", f"The step plan receives into bin `{plan.receive.into}`, which does not exist."
        )
    if state.ground.bin_types[each.bin_type].plates is PlateNeed.NONE:
        raise Refusal("takes_no_plate", f"`{each.code}` takes no plates: receive the goods by item.")
    making.event(ev.PlateStarted(act.plate, plate.plate_kind, each.code, stamp.who))
    lines = {x.no: x for x in order.lines}
    for no, line in enumerate(plate.lines, start=1):
        item = state.ground.items[line.item]
        if line.quantity > state.open_quantity(order, lines[line.order_line]):
            raise Refusal(
                "more_than_ordered",
                f"{item.told(line.quantity)} of {item.name} are announced on `{act.plate}`, more than `{order.number}` "
                "still wants. Receive it by item.",
            )
        if line.expiry:
            receiving.check_expiry(line.expiry, stamp.today)
        receiving.check_lot(state, item, line.lot, line.expiry)
        making.event(
            ev.LineNoted(
                act.plate, no, order.number, line.order_line, item.code, line.unit, line.quantity, line.lot, line.expiry
            )
        )
    goods = receiving.goods_text(state, (Goods(x.item, x.quantity, x.lot) for x in plate.lines))
    return f"Plate `{act.plate}` as announced: {goods}. Check it, then finish it."


def _start_plate(
    state: State, making: Making, rulebook: Rulebook, stamp: acts.Stamp, act: acts.NoteLine, into: BinCode
) -> PlateNo:
    flow, each = rulebook.flow(act.flow), state.ground.bins.get(into)
    need = state.ground.bin_types[each.bin_type].plates if each else PlateNeed.OPTIONAL
    if flow and flow.plate_by is PlateBy.NONE:
        if need is PlateNeed.REQUIRED:
            raise Refusal("needs_plate", f"`{into}` takes goods on plates only, and {flow.name} builds none.")
        if each is None:
            raise Refusal("no_receiving_bin", f"The step plan receives into bin `{into}`, which does not exist.")
        load = PlateNo(making.draw("receipt"))
        making.event(ev.LoadStarted(load, into, stamp.who))
        return load
    if need is PlateNeed.NONE:
        raise Refusal("takes_no_plate", f"`{into}` takes no plates: receive with a flow that builds none.")
    if act.plate_kind is None or act.plate_kind not in state.ground.plate_kinds:
        raise Refusal("no_plate_kind", f"Flow `{act.flow}` names no kind of plate, so none can be begun.")
    if into not in state.ground.bins:
        raise Refusal("no_receiving_bin", f"The step plan receives into bin `{into}`, which does not exist.")
    number = act.plate or PlateNo(making.draw("plate"))
    making.event(ev.PlateStarted(number, act.plate_kind, into, stamp.who))
    return number


def _change_line(state: State, making: Making, _: Rulebook, stamp: acts.Stamp, act: acts.ChangeLine) -> str:
    plate = receiving.building_plate(state, act.plate)
    line = next((x for x in plate.lines if x.line == act.line), None)
    if line is None:
        raise Refusal("no_such_line", f"Line {act.line} is not on plate `{act.plate}` any more.")
    order, item = receiving.known_order(state, line.order), state.ground.items[line.item]
    if act.quantity < 0:
        raise Refusal("not_above_zero", "The quantity must be above zero.")
    order_line = next(x for x in order.lines if x.no == line.order_line)
    allowed = state.open_quantity(order, order_line) + line.quantity
    if act.quantity > allowed:
        raise Refusal(
            "more_than_ordered",
            f"{item.told(act.quantity)} are more than `{order.number}` still wants: {item.told(allowed)} of "
            f"`{item.code}`. The line stays as it was.",
        )
    making.event(ev.LineChanged(act.plate, act.line, act.quantity))
    if not act.quantity:
        return f"{item.name} is off `{act.plate}`."
    return f"{item.told(act.quantity)} of {item.name} on `{act.plate}` now."


def _finish_plate(state: State, making: Making, rulebook: Rulebook, stamp: acts.Stamp, act: acts.FinishPlate) -> str:
    plate = receiving.building_plate(state, act.plate)
    if not plate.lines:
        raise Refusal("empty_plate", f"Nothing is on plate `{act.plate}`: scan an item first.")
    site = state.settings.site
    plan = receiving.plan_of(rulebook, site, receiving.known_order(state, plate.lines[0].order))
    booking = rulebook.booking_of(plan, site)
    receipt = ReceiptNo(plate.number if plate.into else making.draw("receipt"))
    making.event(ev.PlateFinished(plate.number, receipt, stamp.who, booking))
    says = (
        f"{receiving.plate_word(plate)} finished: {receiving.plate_text(state, plate)} arrived in `{plate.stands}`"
        + ("." if plate.into else f", receipt `{receipt}`.")
    )
    topic: Topic = "book_receipt" if booking is BookingPoint.PLATE_FINISHED else "note_arrival"
    hosting.tell_host(state, making, stamp, topic, receipt)
    if plan.put_away.on:
        make = _make_loose_tasks if plate.into else _make_task
        says = said(says, make(state, making, rulebook, plate, stamp.today))
    for other in state.dialogues.open_about(plate.number):
        if other.device != stamp.device:
            making.event(ev.DialogueLeft(other.number, by=stamp.who))
    return says


def _make_task(state: State, making: Making, rulebook: Rulebook, plate: Plate, today: date) -> str:
    recipe = rulebook.recipe_for(state.settings.site, Need.PUT_AWAY)
    if recipe is None:
        raise Refusal("no_recipe", "Put-away is on, but no recipe makes its tasks: nobody would put this plate away.")
    goods = tuple(Goods(x.item, x.quantity, x.lot, x.expiry) for x in plate.lines)
    trail = putting.ask_rules(state, rulebook, putting.request_for(state, plate, goods, plate.lines, today=today))
    making.trail(trail)
    number = TaskNo(making.draw("task"))
    assert plate.bin is not None
    making.event(ev.TaskMade(number, plate.number, plate.bin, recipe.crew, trail.bin, trail.rule))
    where = f"to `{trail.bin}`" if trail.bin else "to a bin the worker chooses: no rule found one"
    return f"Put-away task `{number}` made, {where}."


def _make_loose_tasks(state: State, making: Making, rulebook: Rulebook, load: Plate, today: date) -> str:
    """A task for each bin that the rules choose for goods received loose, and one for what they find no bin for."""
    recipe = rulebook.recipe_for(state.settings.site, Need.PUT_AWAY)
    if recipe is None:
        raise Refusal("no_recipe", "Put-away is on, but no recipe makes its tasks: nobody would put these goods away.")
    into = load.into
    assert into is not None
    goods: dict[tuple[ItemCode, str, date | None], int] = {}
    for line in load.lines:
        key = (line.item, line.lot, line.expiry)
        goods[key] = goods.get(key, 0) + line.quantity
    made: list[str] = []
    for (item, lot, expiry), quantity in goods.items():
        each = Goods(item, quantity, lot, expiry, arrived=today)
        trail = putting.ask_rules(state, rulebook, putting.request_for_loose(state, each, load.lines, into, today))
        making.trail(trail)
        shares: list[tuple[int, BinCode | None, RuleId | None]] = [
            (a.quantity, a.bin, a.rule) for a in trail.allocations
        ]
        if trail.rest:
            shares.append((trail.rest, None, None))
        for share, to, rule in shares:
            number = TaskNo(making.draw("task"))
            part = (replace(each, quantity=share),)
            receipt = ReceiptNo(load.number)
            making.event(ev.TaskMade(number, None, into, recipe.crew, to, rule, goods=part, receipt=receipt))
            made.append(f"`{number}` to `{to}`" if to else f"`{number}` to a bin the worker chooses")
    return f"Put-away task{'s' if len(made) > 1 else ''} {', '.join(made)}."


# Putting away


def _take(state: State, making: Making, _: Rulebook, stamp: acts.Stamp, act: acts.Take) -> str:
    task = putting.task_to_take(state, act.task, stamp.crews)
    where = f" Take it to `{task.to_bin}`." if task.to_bin else ""
    if task.plate is None:
        putting.check_there(state, task)
        says = f"{putting.told(state, task)} taken from `{task.from_bin}`.{where}"
    else:
        plate = putting.plate_of(state, task)
        says = f"Plate `{task.plate}` taken: {receiving.plate_text(state, plate)}.{where}"
    making.event(ev.TaskTaken(task.number, stamp.who))
    return says


def _place(state: State, making: Making, rulebook: Rulebook, stamp: acts.Stamp, act: acts.Place) -> str:
    task = state.tasks.get(act.task)
    if task is None or task.need is not Need.PUT_AWAY:
        raise Refusal("unknown_task", f"There is no put-away task `{act.task}`.")
    if task.person != stamp.who or task.state is not TaskState.TAKEN:
        putting.task_to_take(state, task.number, stamp.crews)
        raise Refusal("not_taken", f"Take {putting.told(state, task)} up first.")
    down = putting.judge(state, task, act.bin, stamp.today)
    if down is None and task.plate is None:
        making.event(ev.GoodsPlaced(task.number, act.bin, task.goods, None, act.reason))
        if task.receipt and not state.unplaced(task.receipt):
            _book_on_put_away(state, making, stamp, task.receipt)
        return f"{putting.told(state, task)} placed in `{act.bin}`."
    if down is None:
        plate = putting.plate_of(state, task)
        making.event(ev.PlatePlaced(task.number, plate.number, act.bin, act.reason))
        _book_on_put_away(state, making, stamp, plate.receipt)
        return f"Plate `{plate.number}` stands in `{act.bin}`."
    if act.bin != task.to_bin:
        raise Refusal(f"bin_{down[0].value}", down[1])
    trail = putting.ask_rules(state, rulebook, putting.request_of_task(state, task, stamp.today))
    what = "the plate" if task.plate else "the goods"
    where = f"Take {what} to `{trail.bin}`." if trail.bin else "No rule finds another bin: choose one and scan it."
    making.trail(trail)
    making.event(ev.TaskRetargeted(task.number, trail.bin, trail.rule))
    return f"{down[1]} {where}"


def _book_on_put_away(state: State, making: Making, stamp: acts.Stamp, number: ReceiptNo | None) -> None:
    receipt = state.receipts.get(number) if number else None
    if receipt is not None and receipt.booking is BookingPoint.PUT_AWAY and not receipt.told:
        hosting.tell_host(state, making, stamp, "book_receipt", receipt.number)


# Moving


def _move_flow(rulebook: Rulebook, flow_id: FlowId) -> Flow:
    flow = rulebook.flow(flow_id)
    if flow is None:
        raise Refusal("unknown_flow", f"The rulebook has no flow `{flow_id}`.")
    return flow


def _take_plate(state: State, making: Making, rulebook: Rulebook, stamp: acts.Stamp, act: acts.TakePlate) -> str:
    flow = _move_flow(rulebook, act.flow)
    plate = moving.plate_to_take(state, act.plate)
    code = state.bin_of(plate.number)
    assert code is not None
    request = moving.request_to_place(state, flow, plate.goods, stamp, plate=plate, from_bin=code)
    trail = moving.ask_where_to(state, rulebook, flow, request)
    if trail:
        making.trail(trail)
    number = TaskNo(making.draw("task"))
    to, rule = (trail.bin, trail.rule) if trail else (None, None)
    making.event(ev.TaskMade(number, plate.number, code, None, to, rule, Need.MOVE))
    making.event(ev.TaskTaken(number, stamp.who))
    says = f"Plate `{plate.number}` taken from `{code}`: {receiving.plate_text(state, plate) or 'nothing on it'}."
    if trail:
        says += f" Take it to `{trail.bin}`." if trail.bin else " No rule finds a bin for it."
    return says


def _take_goods(state: State, making: Making, rulebook: Rulebook, stamp: acts.Stamp, act: acts.TakeGoods) -> str:
    flow = _move_flow(rulebook, act.flow)
    item = state.ground.items[act.item]
    holder, there = moving.goods_to_take(state, act.bin, act.plate, act.item)
    there = tuple(g for g in there if not act.lot or g.lot == act.lot)
    have = sum(g.quantity for g in there)
    if act.quantity <= 0:
        raise Refusal("not_above_zero", "The quantity must be above zero.")
    if act.quantity > have:
        raise Refusal(
            "more_than_there",
            f"{item.told(act.quantity)} are more than there are {moving.where_told(act.bin, holder)}: {item.told(have)}. "
            "Take fewer, or count the bin.",
        )
    goods = moving.portion(there, act.quantity)
    request = moving.request_to_place(state, flow, goods, stamp, from_bin=act.bin)
    trail = moving.ask_where_to(state, rulebook, flow, request)
    if trail:
        making.trail(trail)
    number = TaskNo(making.draw("task"))
    cuts, let_go = moving.let_go(state, act.bin, holder, goods)
    for cut in cuts:
        making.event(cut)
    to, rule = (trail.bin, trail.rule) if trail else (None, None)
    making.event(ev.TaskMade(number, None, act.bin, None, to, rule, Need.MOVE, goods, holder))
    making.event(ev.TaskTaken(number, stamp.who))
    says = f"{item.told(act.quantity)} of {item.name} taken from {moving.where_told(act.bin, holder)[3:]}.{let_go}"
    if trail:
        says += _where_to(state, trail)
    return says


def _where_to(state: State, trail: Trail) -> str:
    if not trail.allocations:
        return " No rule finds a bin for it."
    first, *more = trail.allocations
    item = state.ground.items[trail.request.goods[0].item]
    if not more and not trail.rest:
        return f" Take it to `{first.bin}`."
    return f" Take {item.told(first.quantity)} of it to `{first.bin}`, the rest elsewhere."


def _place_plates(state: State, making: Making, _: Rulebook, stamp: acts.Stamp, act: acts.PlacePlates) -> str:
    tasks = tuple(_carried(state, stamp, n) for n in act.tasks)
    moving.check_target(state, act.bin, act.on, tasks)
    down = moving.judge_plates(state, tasks, act.bin, act.on)
    if down:
        raise Refusal(f"bin_{down[0].value}", down[1])
    for task in tasks:
        if task.plate:
            making.event(ev.PlatePlaced(task.number, task.plate, act.bin, act.reason, act.on))
    plates = ", ".join(f"`{t.plate}`" for t in tasks)
    where = f"on `{act.on}` in `{act.bin}`" if act.on else f"in `{act.bin}`"
    return f"Plate {plates} stands {where}." if len(tasks) == 1 else f"Plates {plates} stand {where}."


def _carried(state: State, stamp: acts.Stamp, number: TaskNo) -> Task:
    task = state.tasks.get(number)
    if task is None or task.need is not Need.MOVE:
        raise Refusal("unknown_task", f"There is no move `{number}`.")
    if task.state is not TaskState.TAKEN:
        raise Refusal("task_done", f"Move `{number}` is done: it was placed in `{task.placed_in}`.")
    if task.person != stamp.who:
        raise Refusal("other_person", f"@{task.person} carries what belongs to move `{number}`.")
    return task


def _place_goods(state: State, making: Making, rulebook: Rulebook, stamp: acts.Stamp, act: acts.PlaceGoods) -> str:
    task = _carried(state, stamp, act.task)
    moving.check_target(state, act.bin, act.plate, ())
    all_of_it = sum(g.quantity for g in task.goods)
    quantity = all_of_it if act.quantity is None else act.quantity
    if not 0 < quantity <= all_of_it:
        raise Refusal("not_carried", f"You carry {all_of_it:,}; that many cannot be placed.")
    goods = moving.portion(task.goods, quantity)
    down = moving.judge_goods(state, task, goods, act.bin, act.plate)
    if down:
        raise Refusal(f"bin_{down[0].value}", down[1])
    item = state.ground.items[goods[0].item]
    making.event(ev.GoodsPlaced(task.number, act.bin, goods, act.plate, act.reason))
    says = f"{item.told(quantity)} of {item.name} placed {moving.where_told(act.bin, act.plate)}."
    if quantity == all_of_it:
        return says
    flow, left = _move_flow(rulebook, act.flow), state.tasks[task.number]
    request = moving.request_to_place(state, flow, left.goods, stamp, task=left, from_bin=act.bin)
    trail = moving.ask_where_to(state, rulebook, flow, request)
    if trail:
        making.trail(trail)
    says += f" {item.told(all_of_it - quantity)} are left." + (_where_to(state, trail) if trail else "")
    to, rule = (trail.bin, trail.rule) if trail else (None, None)
    making.event(ev.TaskRetargeted(task.number, to, rule))
    return says


# Reservations


def _reserve_stock(state: State, making: Making, rulebook: Rulebook, stamp: acts.Stamp, act: acts.ReserveStock) -> str:
    item = state.ground.items.get(act.item)
    if item is None:
        raise Refusal("unknown_item", f"There is no item `{act.item}`.")
    if act.quantity <= 0:
        raise Refusal("not_above_zero", "The quantity must be above zero.")
    if not 0 < len(act.holder.strip()) <= 60:
        raise Refusal("no_holder", "Say for whom it is kept, in at most 60 characters.")
    request = BinRequest(state.settings.site, BinPurpose.PICK_FROM, (Goods(act.item, act.quantity),), today=stamp.today)
    trail = moving.ask_where_from(state, rulebook, request)
    if not trail.allocations:
        raise Refusal("nothing_free", f"No stock of `{act.item}` {item.name} is free for {act.holder}.")
    making.trail(trail)
    number = ReservationNo(making.draw("reservation"))
    parts = tuple(ev.Reserved(a.bin, a.goods, a.plate) for a in trail.allocations if a.goods)
    kept = sum(p.goods.quantity for p in parts)
    short = f" {item.told(trail.rest)} are short." if trail.rest else ""
    making.event(ev.StockReserved(number, act.holder, act.item, parts))
    return f"{item.told(kept)} of {item.name} are kept for {act.holder} as `{number}`.{short}"


def _let_go(state: State, making: Making, _: Rulebook, __: acts.Stamp, act: acts.LetGo) -> str:
    reservation = state.reservations.get(act.reservation)
    if reservation is None:
        raise Refusal("unknown_reservation", f"There is no reservation `{act.reservation}`; it may have ended.")
    making.event(ev.ReservationCut(act.reservation))
    return f"Reservation `{act.reservation}` of {reservation.holder} is let go."


def _block_bin(state: State, making: Making, _: Rulebook, __: acts.Stamp, act: acts.BlockBin) -> str:
    if act.bin not in state.ground.bins:
        raise Refusal("unknown_bin", f"There is no bin `{act.bin}`.")
    making.event(ev.BinBlocked(act.bin, act.reason))
    return f"Bin `{act.bin}` is blocked: {act.reason}." if act.reason else f"Bin `{act.bin}` is free to use."


def _wait(state: State, making: Making, _: Rulebook, __: acts.Stamp, act: acts.Wait) -> str:
    if state.settings.kind is WorldKind.LIVE:
        raise Refusal("live_clock", "A live world goes by the real clock; only a rehearsal can let time pass.")
    if not 0 < act.seconds <= 31 * 86_400:
        raise Refusal("bad_wait", "Time passes by at least a second and at most 31 days.")
    making.event(ev.TimePassed(act.seconds))
    return f"{act.seconds} seconds pass."


DECIDERS = by_kind(
    (
        deciding(acts.ConfirmOrder, hosting.confirm_order),
        deciding(acts.WriteOrder, hosting.write_order),
        deciding(acts.TryOrder, hosting.try_order),
        deciding(acts.CancelOrder, hosting.cancel_order),
        deciding(acts.ShipTransfer, hosting.ship_transfer),
        deciding(acts.OpenOrder, hosting.open_order),
        deciding(acts.CloseOrder, hosting.close_order),
        deciding(acts.SetHost, hosting.set_host),
        deciding(acts.RepeatMessage, hosting.repeat_message),
        deciding(acts.HostAnswers, hosting.host_answers),
        deciding(acts.HostTells, hosting.host_tells),
        deciding(acts.HostAnnounces, hosting.host_announces),
        deciding(acts.AnnounceOrder, hosting.announce_order),
        deciding(acts.BookReceipt, hosting.book_receipt),
        deciding(acts.OpenFlow, _open_flow),
        deciding(acts.Answer, _answer),
        deciding(acts.Press, _press),
        deciding(acts.StepBack, _step_back),
        deciding(acts.LeaveFlow, _leave_flow),
        deciding(acts.NoteLine, _note_line),
        deciding(acts.ReceiveAnnounced, _receive_announced),
        deciding(acts.ChangeLine, _change_line),
        deciding(acts.FinishPlate, _finish_plate),
        deciding(acts.Take, _take),
        deciding(acts.Place, _place),
        deciding(acts.TakePlate, _take_plate),
        deciding(acts.TakeGoods, _take_goods),
        deciding(acts.PlacePlates, _place_plates),
        deciding(acts.PlaceGoods, _place_goods),
        deciding(acts.ReserveStock, _reserve_stock),
        deciding(acts.LetGo, _let_go),
        deciding(acts.BlockBin, _block_bin),
        deciding(acts.Wait, _wait),
    )
)
