"""How its acts are decided: putting away."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import portion
from mindful_crate.core.catalog.ids import ReceiptNo
from mindful_crate.core.floor.plates import in_hands, on_plate
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.rulebook.steps import BookingPoint, Need
from mindful_crate.core.work import numbered
from mindful_crate.core.work.host import decide as hosting
from mindful_crate.core.work.inspecting import doing as inspecting
from mindful_crate.core.work.inspecting.acts import TakeToInspect
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.office import check_why, of_every_crew
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.putting import doing
from mindful_crate.core.work.putting.acts import (
    DropRest,
    MakeTasks,
    Place,
    PlacePart,
    PutAwayInOffice,
    Take,
    TakeReceived,
)
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.doing import place, place_part, take_up, turn
from mindful_crate.core.work.tasks.events import WorkMade
from mindful_crate.core.work.tasks.parts import carried_of


def _take(state: State, making: Making, _: Rulebook, stamp: Stamp, act: Take) -> str:
    task = putting.task_to_take(state, act.task, stamp.crews, stamp.who)
    if not task.plan.plates:
        putting.check_there(state, task)
        where = f" Take it to `{task.to_bin}`." if task.to_bin else ""
        says = f"{putting.taken_told(state, task)} taken from `{task.from_bin}`.{where}"
        take_up(state, making, task, stamp.who, serials=act.serials)
        return says
    number = act.plate or task.plate
    assert number is not None
    putting.check_waits(task, number)
    take_up(state, making, task, stamp.who, number)
    now = state.tasks[act.task]
    where = f" Take it to `{now.to_bin}`." if now.to_bin else ""
    return f"Plate `{number}` taken: {receiving.plate_text(state, putting.plate_of(state, now))}.{where}"


def _take_received(state: State, making: Making, _: Rulebook, stamp: Stamp, act: TakeReceived) -> str:
    card = state.plates.card(act.plate)
    if state.carried(stamp.who, Need.PUT_AWAY):
        return ""
    receipts = (card.receipt,) if card and card.receipt else ()
    for task in state.tasks.following((act.plate,), receipts):
        if task.need is Need.PUT_AWAY and putting.may_take(state, task, stamp.crews) and not task.plan.several:
            if doing.to_take(state, task) is not None:
                return f"`{task.number}` is taken up by its number: which of the pieces it is for must be scanned."
            making.act(Take(task.number))
            return "Take it up."
    return ""


def _place(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: Place) -> str:
    task = state.tasks.get(act.task)
    if task is None or task.need not in putting.PUTS:
        raise Refusal("unknown_task", f"There is no put-away task `{act.task}`.")
    if task.person != stamp.who or not task.in_hands:
        putting.task_to_take(state, task.number, stamp.crews, stamp.who)
        raise Refusal("not_taken", f"Take {putting.told(state, task)} up first.")
    down = putting.judge(state, task, act.bin, stamp.today)
    at = doing.place_of(state, rulebook, task)
    if down is None and doing.hand_over(rulebook, task) and not putting.lies_at(state, act.bin, at):
        shown = f": take it to `{task.to_bin}`" if task.to_bin else ""
        raise Refusal("not_handed_over", f"`{act.bin}` is not where this is handed over{shown}.")
    if down is None:
        plate, goods = task.plate, () if task.plate else task.goods
        place(state, making, task, act.bin, None, goods, act.reason, act.serials)
        says = (
            f"Plate `{plate}` stands in `{act.bin}`."
            if plate
            else f"{putting.told(state, task)} placed in `{act.bin}`."
        )
        on = doing.go_on(state, making, rulebook, stamp, task, plate, goods)
        if on is None:
            for number in doing.receipts_of(state, task, plate):
                if not state.unplaced(number) and not state.rests.has_receipt(number, state.receipts[number].plate):
                    _book_on_put_away(state, making, stamp, number)
        left = state.tasks[act.task]
        return said(says, on or "", putting.left_told(left) if not left.state.ended else "")
    if act.bin != task.to_bin:
        raise Refusal(f"bin_{down[0].value}", down[1])
    request = evolve(putting.request_of_task(state, task, stamp.today), at=at)
    trail = putting.ask_rules(state, rulebook, request)
    what = "the plate" if task.plate else "the goods"
    where = f"Take {what} to `{trail.bin}`." if trail.bin else "No rule finds another bin: choose one and scan it."
    making.trail(trail)
    turn(making, task, trail.bin, trail.rule)
    return f"{down[1]} {where}"


def _place_part(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PlacePart) -> str:
    task = state.tasks.get(act.task)
    if task is None or task.need not in putting.PUTS:
        raise Refusal("unknown_task", f"There is no put-away task `{act.task}`.")
    if task.person != stamp.who or not task.in_hands:
        putting.task_to_take(state, task.number, stamp.crews, stamp.who)
        raise Refusal("not_taken", f"Take {putting.told(state, task)} up first.")
    doing.check_part(state, rulebook, task)
    item, there = state.ground.items[act.item], carried_of(state, task, act.item)
    have = sum(g.quantity for g in there)
    if not have:
        raise Refusal("not_carried", f"You carry no `{item.code}` {item.name}.")
    if act.quantity <= 0:
        raise Refusal("not_above_zero", "The quantity must be above zero.")
    others = sum(g.quantity for g in carried_of(state, task)) - have
    if act.quantity > have or (act.quantity == have and not others):
        says = f"You carry {item.told(have)} of {item.name}: a part is fewer. Place all of it without saying a part."
        raise Refusal("no_part", says)
    spot = on_plate(task.plate) if task.plate else in_hands(task.number)
    goods = portion(there, act.quantity)
    if act.serials:
        goods = numbered.of_pieces(state, spot, there, act.serials)
        numbered.check_numbers(item, act.quantity, act.serials)
    down = putting.judge_part(state, task, goods, act.bin, stamp.today)
    if down is not None:
        raise Refusal(f"bin_{down[0].value}", down[1])
    place_part(state, making, task, act.bin, spot, goods, act.reason.strip(), act.serials)
    left = carried_of(state, state.tasks[task.number])
    rest = (
        f"plate `{task.plate}` with {receiving.goods_text(state, left)}"
        if task.plate
        else receiving.goods_text(state, left)
    )
    where = f", for `{task.to_bin}`" if task.to_bin else ""
    return f"{item.told(act.quantity)} of {item.name} placed in `{act.bin}`. You still carry {rest}{where}."


def _book_on_put_away(state: State, making: Making, stamp: Stamp, number: ReceiptNo | None) -> None:
    receipt = state.receipts.get(number) if number else None
    if receipt is not None and receipt.booking is BookingPoint.PUT_AWAY and not receipt.told:
        hosting.tell_host(state, making, stamp, "book_receipt", receipt.number)


def _make_tasks(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: MakeTasks) -> str:
    keys = dict.fromkeys(act.keys)
    for key in keys:
        if key not in state.rests:
            raise Refusal("nothing_rests", f"`{key}` waits for no task: one was made, or it was taken off the list.")
    if not keys:
        raise Refusal("nothing_rests", "Choose what tasks are made of first.")
    if act.with_alike:
        keys = dict.fromkeys((*keys, *doing.alike(state, rulebook, next(iter(keys)), stamp.today)))
    rests = [state.rests[key] for key in keys]
    to_inspect = [r for r in rests if r.need is Need.INSPECT]
    says = said(*(inspecting.make_of_rest(state, making, rulebook, stamp, r) for r in to_inspect))
    rests = [r for r in rests if r.need is Need.PUT_AWAY]
    if not rests:
        made = next(e for e in making.events if isinstance(e, WorkMade))
        brought = act.take and made.moves[0].do is Do.TAKE
        return said(says, making.act(TakeToInspect(made.task))) if brought else says
    pieces = [p for rest in rests for p in doing.pieces_of_rest(state, rulebook, rest)]
    for rest in rests:
        doing.ended(making, rest)
    before = len(making.events)
    says = said(says, doing.make_tasks(state, making, rulebook, stamp, pieces, act.together))
    if act.take:
        tasks = [e for e in making.events[before:] if isinstance(e, WorkMade)]
        plate = rests[0].plate
        mine = next((e for e in tasks if plate is None or any(m.plate == plate for m in e.moves)), None)
        if mine is None:
            raise Refusal("no_recipe", f"No task can be made of `{rests[0].key}`: {says} Tell the office.")
        says = said(says, making.act(Take(mine.task, plate)))
    return says


def _drop_rest(state: State, making: Making, _: Rulebook, __: Stamp, act: DropRest) -> str:
    rest = state.rests.get(act.key)
    if rest is None:
        raise Refusal("nothing_rests", f"`{act.key}` waits for no task: one was made, or it was taken off the list.")
    if not 3 <= len(act.why.strip()) <= 120:
        raise Refusal("no_reason", "Give the reason in 3 to 120 characters; the log keeps it.")
    if rest.need is Need.INSPECT:
        says = f"`{rest.key}` waits for an inspection, and nobody may use it before: have it made, and say how it is."
        raise Refusal("waits_for_inspection", says)
    doing.ended(making, rest, act.why.strip())
    what = f"Plate `{rest.plate}` stays" if rest.plate else "The goods stay"
    return f"{what} in `{rest.bin}`: {act.why.strip()}. No task is made."


def _put_away_in_office(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PutAwayInOffice
) -> str:  # fmt: skip
    known = state.tasks.get(act.task)
    purpose = FlowPurpose.REPLENISH if known and known.need is Need.REPLENISH else FlowPurpose.PUT_AWAY
    check_why(rulebook, state.settings.site, purpose, act.why)
    stamp = of_every_crew(rulebook, stamp)
    task = putting.task_to_take(state, act.task, stamp.crews)
    says = ""
    while not task.state.ended:
        if not task.in_hands:
            _take(state, making, rulebook, stamp, Take(task.number, serials=act.serials))
            task = state.tasks[act.task]
        where = act.bin or task.to_bin
        if where is None:
            raise Refusal(
                "no_bin", f"No rule found a bin for {putting.told(state, task)}: say where it was put.", "bin"
            )
        if (down := putting.judge(state, task, where, stamp.today)) is not None:
            raise Refusal(f"bin_{down[0].value}", down[1], "bin")
        reason = act.why.strip() if where != task.to_bin else ""
        there = [n for g in task.goods for n in state.serials.at(in_hands(task.number), g)]
        mine = tuple(n for n in act.serials if n in there)[: sum(g.quantity for g in task.goods)]
        says = said(says, _place(state, making, rulebook, stamp, Place(task.number, where, reason, mine)))
        task = state.tasks[act.task]
    return says


DECIDES = (
    deciding(Take, _take),
    deciding(TakeReceived, _take_received),
    deciding(Place, _place),
    deciding(PlacePart, _place_part),
    deciding(MakeTasks, _make_tasks),
    deciding(DropRest, _drop_rest),
    deciding(PutAwayInOffice, _put_away_in_office),
)
"""How its acts are decided."""
