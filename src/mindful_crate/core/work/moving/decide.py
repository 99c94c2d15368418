"""How its acts are decided: moves inside the site."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods, portion
from mindful_crate.core.catalog.ids import FlowId, TaskNo
from mindful_crate.core.floor.plates import in_hands
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task, TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.counting import ReasonFor
from mindful_crate.core.rulebook.flows import Flow
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.trail import Trail
from mindful_crate.core.work import numbered
from mindful_crate.core.work.counting.adjusting import photo_told, why_told
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.moving import checks as moving
from mindful_crate.core.work.moving.acts import PlaceGoods, PlacePlates, TakeGoods, TakePlate
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.doing import make, place, take_up, turn


def _move_flow(rulebook: Rulebook, flow_id: FlowId) -> Flow:
    flow = rulebook.flow(flow_id)
    if flow is None:
        raise Refusal("unknown_flow", f"The rulebook has no flow `{flow_id}`.")
    return flow


def _take_plate(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: TakePlate) -> str:
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
    make(making, number, Need.MOVE, None, code, to, rule, plate=plate.number)
    take_up(state, making, state.tasks[number], stamp.who)
    says = f"Plate `{plate.number}` taken from `{code}`: {receiving.plate_text(state, plate) or 'nothing on it'}."
    if trail:
        says += f" Take it to `{trail.bin}`." if trail.bin else " No rule finds a bin for it."
    return says


def _take_goods(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: TakeGoods) -> str:
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
    goods = portion(there, act.quantity)
    if act.serials:
        goods = numbered.of_pieces(state, moving.source(act.bin, holder), there, act.serials)
        numbered.check_numbers(item, sum(g.quantity for g in goods), act.serials)
        numbered.check_numbers(item, act.quantity, act.serials)
    request = moving.request_to_place(state, flow, goods, stamp, from_bin=act.bin)
    trail = moving.ask_where_to(state, rulebook, flow, request)
    if trail:
        making.trail(trail)
    number = TaskNo(making.draw("task"))
    cuts, let_go = moving.let_go(state, act.bin, holder, goods)
    for cut in cuts:
        making.event(cut)
    to, rule = (trail.bin, trail.rule) if trail else (None, None)
    make(making, number, Need.MOVE, None, act.bin, to, rule, goods=goods, plate=holder, share=_share(trail, goods))
    take_up(state, making, state.tasks[number], stamp.who, serials=act.serials)
    says = f"{item.told(act.quantity)} of {item.name} taken from {moving.where_told(act.bin, holder)[3:]}.{let_go}"
    if trail:
        says += _where_to(state, trail)
    return says


def _share(trail: Trail | None, goods: tuple[Goods, ...]) -> int:
    """How much of the goods the rules allot the first bin, when that is not all: only so much room is claimed there."""
    first = trail.allocations[0].quantity if trail and trail.allocations else 0
    return first if first < sum(g.quantity for g in goods) else 0


def _where_to(state: State, trail: Trail) -> str:
    if not trail.allocations:
        return " No rule finds a bin for it."
    first, *more = trail.allocations
    item = state.ground.items[trail.request.goods[0].item]
    if not more and not trail.rest:
        return f" Take it to `{first.bin}`."
    return f" Take {item.told(first.quantity)} of it to `{first.bin}`, the rest elsewhere."


def _why(state: State, rulebook: Rulebook, stamp: Stamp, act: PlacePlates | PlaceGoods) -> str:
    """Why it is moved, and why there, in words; empty where nobody asked."""
    if act.why is None:
        return f"{act.reason}{photo_told(act.photo)}"
    return why_told(state, rulebook, stamp, act.why, act.reason, act.photo, ReasonFor.MOVED)


def _place_plates(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PlacePlates) -> str:
    tasks = tuple(_carried(state, stamp, n) for n in act.tasks)
    moving.check_target(state, act.bin, act.on, tasks)
    down = moving.judge_plates(state, tasks, act.bin, act.on)
    if down:
        raise Refusal(f"bin_{down[0].value}", down[1])
    why = _why(state, rulebook, stamp, act)
    for task in tasks:
        if task.plate:
            place(state, making, task, act.bin, act.on, (), why)
    plates = ", ".join(f"`{t.plate}`" for t in tasks)
    where = f"on `{act.on}` in `{act.bin}`" if act.on else f"in `{act.bin}`"
    return f"Plate {plates} stands {where}." if len(tasks) == 1 else f"Plates {plates} stand {where}."


def _carried(state: State, stamp: Stamp, number: TaskNo) -> Task:
    task = state.tasks.get(number)
    if task is None or task.need is not Need.MOVE:
        raise Refusal("unknown_task", f"There is no move `{number}`.")
    if task.state is not TaskState.TAKEN:
        raise Refusal("task_done", f"Move `{number}` is done: it was placed in `{task.placed_in}`.")
    if task.person != stamp.who:
        raise Refusal("other_person", f"@{task.person} carries what belongs to move `{number}`.")
    return task


def _place_goods(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PlaceGoods) -> str:
    task = _carried(state, stamp, act.task)
    moving.check_target(state, act.bin, act.plate, ())
    all_of_it = sum(g.quantity for g in task.goods)
    quantity = all_of_it if act.quantity is None else act.quantity
    if not 0 < quantity <= all_of_it:
        raise Refusal("not_carried", f"You carry {all_of_it:,}; that many cannot be placed.")
    goods = portion(task.goods, quantity)
    if act.serials:
        goods = numbered.of_pieces(state, in_hands(task.number), task.goods, act.serials)
        numbered.check_numbers(state.ground.items[task.goods[0].item], quantity, act.serials)
    down = moving.judge_goods(state, task, goods, act.bin, act.plate)
    if down:
        raise Refusal(f"bin_{down[0].value}", down[1])
    item = state.ground.items[goods[0].item]
    place(state, making, task, act.bin, act.plate, goods, _why(state, rulebook, stamp, act), act.serials)
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
    turn(making, left, to, rule, _share(trail, left.goods))
    return says


DECIDES = (
    deciding(TakePlate, _take_plate),
    deciding(TakeGoods, _take_goods),
    deciding(PlacePlates, _place_plates),
    deciding(PlaceGoods, _place_goods),
)
"""How its acts are decided."""
