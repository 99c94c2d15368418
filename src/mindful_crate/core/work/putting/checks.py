"""Put-away: asking the rules for a plate, and judging the bin again when it is placed."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import OrderKind, Status
from mindful_crate.core.catalog.ids import BinCode, CrewId, ItemCode, PartnerCode, PersonId, PlateNo, TaskNo
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.floor.plates import Plate, PlateLine, in_bin, on_plate
from mindful_crate.core.floor.rests import Rest
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Task, TaskState
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.fit import Judge, TurnDown
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.bin_rules import BinPurpose, Disposition, puts_away_by
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Found, Need, Place
from mindful_crate.core.trail import Trail
from mindful_crate.core.work.receiving.checks import goods_text, known_order

HELD = frozenset({Status.QUARANTINE, Status.DAMAGED, Status.EXPIRED})
"""Statuses of goods that are kept apart."""


PUTS = {Need.PUT_AWAY: "put away", Need.REPLENISH: "brought"}
"""Needs whose tasks end with placing goods where rules say, and what was done by them."""


def purpose_of(goods: Iterable[Goods], kind: OrderKind | None = None, mark: Disposition | None = None) -> BinPurpose:
    """Which rules find the place of goods that came on an order of this kind: those that hold what nobody may use, for goods of which
    nobody may use any."""
    if mark is not None and kind is OrderKind.CUSTOMER_RETURN:
        return BinPurpose.RETURN_TO  # what came back and was looked at goes by its mark, whatever it is fit for
    statuses = {g.status for g in goods}
    return BinPurpose.HOLD_AT if statuses and statuses <= HELD else puts_away_by(kind)


NO_PLACE_TO_STAY = frozenset({ZonePurpose.DOCK, ZonePurpose.DOOR, ZonePurpose.RECEIVING})
"""Purposes of zones that goods only pass through; a rule may still send some there."""


def sources_of(state: State, lines: Iterable[PlateLine]) -> tuple[OrderKind | None, tuple[PartnerCode, ...]]:
    """The kind of order that goods were received on, if it is one, and the partners they came from."""
    orders = [known_order(state, line.order) for line in lines]
    kinds = {o.kind for o in orders}
    return kinds.pop() if len(kinds) == 1 else None, tuple(sorted({o.partner for o in orders}))


def mark_of(state: State, lines: Iterable[PlateLine], goods: Goods | None = None) -> Disposition | None:
    """What is to be done with goods that came back, where that is one thing; of several that are marked otherwise, with those of the same
    status as these goods."""
    known = (state.returned.get(x.key) for x in lines)
    marks = {m.goes if m else None for m in known if goods is None or m is None or m.status is goods.status}
    return marks.pop() if len(marks) == 1 else None


def request_for(
    state: State,
    plate: Plate,
    goods: tuple[Goods, ...],
    lines: tuple[PlateLine, ...],
    *,
    today: date,
    task: TaskNo | None = None,
) -> BinRequest:
    """Which bin for a plate with these goods, received on these order lines?"""
    kind, partners = sources_of(state, lines)
    mark = mark_of(state, lines)
    from_bin = plate.bin or (state.tasks[task].from_bin if task else None)
    return BinRequest(
        site=state.settings.site,
        purpose=purpose_of(goods, kind, mark),
        disposition=mark,
        goods=goods,
        plate_kind=plate.plate_kind,
        plate=plate.number,
        order_kind=kind,
        partners=partners,
        nested=state.nested(plate.number),
        from_bin=from_bin,
        door=from_bin,
        today=today,
        task=task,
    )


def ask_rules(state: State, rulebook: Rulebook, request: BinRequest) -> Trail:
    """The answer of the put-away rules in force at the site."""
    return choose(request, rulebook.rules_for(request.site, request.purpose, request.at), state)


def request_of_task(state: State, task: Task, today: date) -> BinRequest:
    """The request behind a task that puts goods where rules say, as it stands now."""
    if task.plate is None:
        found = request_for_loose(state, task.goods[0], lines_of(state, task), task.from_bin, today, task.number)
    else:
        plate = plate_of(state, task)
        found = request_for(state, plate, plate.goods, lines_of(state, task), today=today, task=task.number)
    return as_needed(found, task.need)


def as_needed(request: BinRequest, need: Need) -> BinRequest:
    """The same for what is brought from reserve: other rules say where to, and where it once came from does not matter."""
    if need is not Need.REPLENISH:
        return request
    return evolve(request, purpose=BinPurpose.REPLENISH_TO, order_kind=None, partners=(), door=None)


def lines_of(state: State, task: Task) -> tuple[PlateLine, ...]:
    """The order lines that the goods of a task, or of its plate whose turn it is, were received on."""
    if task.plate is None:
        return tuple(x for r in task.receipts for x in state.receipts[r].lines)
    return lines_on(state, task.plate)


def lines_on(state: State, number: PlateNo) -> tuple[PlateLine, ...]:
    """The order lines that the receipt of a plate has."""
    plate = state.plate(number)
    return state.receipts[plate.receipt].lines if plate and plate.receipt else ()


def check_rests(state: State, rest: Rest) -> None:
    """Refuse to go on with what rests when it is elsewhere now."""
    if rest.plate is None:
        for goods in rest.goods:
            there = sum(g.quantity for g in state.loose(rest.bin) if g.alike(goods))
            if there < goods.quantity:
                item = state.ground.items[goods.item]
                says = f"{item.told(goods.quantity)} of {item.name} should wait in `{rest.bin}`, but {item.told(there)} lie there."
                raise Refusal("not_there", f"{says} Count it, or take it off the list.")
        return
    plate = state.plate(rest.plate)
    if plate is None or plate.bin is None:
        who = f"@{plate.carrier} carries it" if plate and plate.carrier else "it stands in no bin"
        raise Refusal("not_there", f"Plate `{rest.plate}` waits, but {who}. Have it placed first.")


def request_for_loose(
    state: State,
    goods: Goods,
    lines: tuple[PlateLine, ...],
    from_bin: BinCode,
    today: date,
    task: TaskNo | None = None,
) -> BinRequest:
    """Which bin for loose goods, received on these order lines?"""
    mine = tuple(x for x in lines if x.item == goods.item)
    kind, partners = sources_of(state, mine)
    mark = mark_of(state, mine, goods)
    return BinRequest(
        state.settings.site, purpose_of((goods,), kind, mark), (goods,), order_kind=kind, disposition=mark,
        partners=partners, from_bin=from_bin, door=from_bin, today=today, task=task,
    )  # fmt: skip


def told(state: State, task: Task) -> str:
    """What a put-away task is about: ``plate `LP-000143``` or the goods."""
    return f"plate `{task.plate}`" if task.plate else goods_text(state, task.goods) or f"task `{task.number}`"


def task_of_item(state: State, item: ItemCode, crews: tuple[CrewId, ...]) -> Task:
    """The first open put-away task of these crews for loose goods of an item; refused when there is none."""
    found = state.first_loose(crews, Need.PUT_AWAY, item)
    if found is None:
        name = state.ground.items[item].name
        raise Refusal("no_task", f"No loose `{item}` {name} waits to be put away. On a plate? Then scan the plate.")
    return found


def check_there(state: State, task: Task) -> None:
    """Refuse to take loose goods that are no longer where they lay."""
    takes = (m for m in task.going.remaining if m.do is Do.TAKE and m.at)
    for code, plate, goods in ((m.at, m.plate, g) for m in takes for g in m.goods if m.at):
        there = sum(g.quantity for g in state.ledger.at(on_plate(plate) if plate else in_bin(code)) if g.alike(goods))
        if there < goods.quantity:
            item = state.ground.items[goods.item]
            raise Refusal(
                "not_there",
                f"{item.told(goods.quantity)} of {item.name} should lie {f'on `{plate}` in ' if plate else 'in '}`{code}`, but {item.told(there)} do. "
                "Count it, and tell the office.",
            )


def plate_of(state: State, task: Task) -> Plate:
    """The plate of a put-away task; every one has it."""
    plate = state.plate(task.plate) if task.plate else None
    assert plate is not None, "a put-away task has a plate"
    return plate


def judge(state: State, task: Task, code: BinCode, today: date) -> tuple[TurnDown, str] | None:
    """Why the plate of a task may not go into a bin, with the sentence for the worker; None if it may."""
    check_may_stay(state, task, code)
    judged = Judge(request_of_task(state, task, today), state)
    each = state.ground.bins[code]
    down = judged.turn_down(each)
    return (down, judged.told(each, down)) if down else None


def check_may_stay(state: State, task: Task, code: BinCode) -> None:
    """Refuse a bin that does not exist, is of another site, or that goods only pass through, unless it is the one shown."""
    if code not in state.ground.bins:
        raise Refusal("unknown_bin", f"There is no bin `{code}`.")
    if state.ground.site_of(code) != state.settings.site:
        raise Refusal("other_site", f"Bin `{code}` belongs to another site.")
    zone = state.ground.zones[state.ground.bins[code].zone]
    if zone.purpose in NO_PLACE_TO_STAY and code != task.to_bin:
        shown = f" Take it to `{task.to_bin}`." if task.to_bin else ""
        raise Refusal(
            "no_storage", f"`{code}` in {zone.name} is no place to put goods away: they would stay there.{shown}"
        )


def judge_part(
    state: State, task: Task, goods: tuple[Goods, ...], code: BinCode, today: date
) -> tuple[TurnDown, str] | None:  # fmt: skip
    """Why a part of what is carried may not go into a bin loose, with the sentence for the worker; None if it may."""
    check_may_stay(state, task, code)
    mine = tuple(x for x in lines_of(state, task) if x.item == goods[0].item)
    kind, partners = sources_of(state, mine)
    mark = mark_of(state, mine, goods[0])
    request = BinRequest(
        state.settings.site, purpose_of(goods, kind, mark), goods, order_kind=kind, disposition=mark, partners=partners, from_bin=task.from_bin,
        door=task.from_bin, today=today, task=task.number,
    )  # fmt: skip
    judged, each = Judge(as_needed(request, task.need), state), state.ground.bins[code]
    down = judged.turn_down(each)
    return (down, judged.told(each, down)) if down else None


def taken_told(state: State, task: Task) -> str:
    """All loose goods that a task takes up at once."""
    return goods_text(state, (g for m in task.going.remaining if m.do is Do.TAKE for g in m.goods))


def check_waits(task: Task, plate: PlateNo) -> None:
    """Refuse to take a plate of a task that is not its next, or was taken already."""
    if plate not in task.plan.plates:
        raise Refusal("other_plate", f"Plate `{plate}` does not belong to task `{task.number}`.")
    if carried := task.going.carried:
        raise Refusal(
            "place_first", f"You carry `{carried[0]}` of task `{task.number}`: place it before you take another."
        )
    if not any(m.do is Do.TAKE and m.plate == plate for m in task.going.remaining):
        raise Refusal("task_done", f"Plate `{plate}` was put away already, as a part of task `{task.number}`.")


def left_told(task: Task) -> str:
    """What of a task that was begun is still to do."""
    left = sum(m.do is Do.PLACE for m in task.going.remaining)
    what = ("plate" if task.plan.plates else "place") + ("s" if left > 1 else "")
    return f"{left} more {what} of task `{task.number}`."


def lies_at(state: State, code: BinCode, at: Place) -> bool:
    """Is a bin the place that is named, or in the zone that is?"""
    return state.ground.bins[code].zone == at.zone if isinstance(at, Found) else code == at


def task_to_take(state: State, number: TaskNo, crews: tuple[CrewId, ...], mine: PersonId | None = None) -> Task:
    """An open task these crews may take, or one of several plates that ``mine`` has begun; refused with the reason otherwise."""
    task = state.tasks.get(number)
    if task is None or task.need not in PUTS:
        raise Refusal("unknown_task", f"There is no put-away task `{number}`.")
    done = PUTS[task.need]
    if task.crew not in crews:
        raise Refusal("other_crew", f"Task `{number}` is for crew `{task.crew}`, and you are not in it.")
    if task.whose not in (None, mine) and not task.state.ended:
        raise Refusal("other_person", f"Task `{number}` is for @{task.whose} alone. The office gives it to others.")
    if task.state is TaskState.DONE:
        what = (
            f"Plate `{task.plate}` was {done} already: it stands" if task.plate else f"Task `{number}` is done: it lies"
        )
        raise Refusal("task_done", f"{what} in `{task.placed_in}`.")
    if task.state is TaskState.CANCELLED:
        raise Refusal(
            "task_cancelled", f"Task `{number}` was cancelled: {task.held}. What it is about stays where it is."
        )
    if task.state is TaskState.TAKEN and task.person == mine and task.plan.several and not task.in_hands:
        return task
    if task.state is TaskState.TAKEN:
        raise Refusal("task_taken", f"@{task.person} carries {told(state, task)} already.")
    if task.held:
        raise Refusal("task_held", f"Task `{number}` is held: {task.held}. The office lets it go.")
    return task


def may_take(state: State, task: Task, crews: tuple[CrewId, ...]) -> bool:
    """May these crews take a task now?"""
    try:
        return task_to_take(state, task.number, crews).state is TaskState.OPEN
    except Refusal:
        return False


def keeps_some(task: Task) -> bool:
    """Does something stay in hands when the next part of what is carried is placed?"""
    return not task.plan.plates and sum(m.do is Do.PLACE for m in task.going.remaining) > 1


def task_of_plate(state: State, number: PlateNo) -> Task:
    """The put-away task of a plate; refused with what the plate is doing otherwise."""
    plate, task = state.plate(number), state.task_of(number)
    if plate is None:
        raise Refusal("unknown_plate", f"There is no license plate `{number}`.")
    if plate.building:
        raise Refusal("plate_building", f"Plate `{number}` is still being built. Finish it first.")
    if task is None or task.need is not Need.PUT_AWAY:
        raise Refusal("no_task", f"Plate `{number}` has no put-away task: it stays in `{state.bin_of(number)}`.")
    return task


def carried_by(state: State, person: PersonId) -> Task | None:
    """The put-away task of which a person carries something, the lowest number first."""
    return next((t for t in state.carried(person, Need.PUT_AWAY) if t.in_hands), None)


def begun_by(state: State, person: PersonId) -> Task | None:
    """The put-away task that a person has begun and of which nothing is in their hands: its next plate waits."""
    return next((t for t in state.carried(person, Need.PUT_AWAY) if not t.in_hands), None)


def open_tasks(state: State, crews: tuple[CrewId, ...], most: int) -> list[Task]:
    """The first so many open put-away tasks of these crews, by number."""
    return state.open_tasks(crews, Need.PUT_AWAY, most)
