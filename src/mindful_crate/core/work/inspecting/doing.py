"""What deciders make of goods that are to be inspected: tasks, or goods that rest until one is made."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, PartnerCode, PlateKindCode, PlateNo, ReceiptNo, RuleId, TaskNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.inspections import pair_key
from mindful_crate.core.floor.plates import PlateLine
from mindful_crate.core.floor.rests import Rest
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Task
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Begins, InspectStep, Need, StepPlan
from mindful_crate.core.work.inspecting import checks as inspecting
from mindful_crate.core.work.inspecting.events import ReceiptCounted
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.receiving.checks import known_order
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.events import GoodsRest, RestEnded, WorkMade


def chosen(state: State, plan: StepPlan, lines: tuple[PlateLine, ...], send: bool | None = None) -> tuple[int, ...]:
    """The lines of a receipt that stop at the inspection, by number; ``send``: who finishes it says so of all, where the plan
    leaves it to them."""
    step = plan.inspect
    if not step.on:
        return ()
    if step.sends and send is not None:
        return tuple(x.line for x in lines) if send else ()
    return tuple(x.line for x in lines if _turn(state, x, step.every) == 0)


def _turn(state: State, line: PlateLine, every: int) -> int:
    """How many receipts it is after the last one that was inspected; 0: its turn."""
    if every <= 1:
        return 0
    partner = known_order(state, line.order).partner
    return (state.receipts_counted.get(pair_key(line.item, partner)) or 0) % every


def count(state: State, making: Making, plan: StepPlan, lines: tuple[PlateLine, ...]) -> None:
    """The receipt counts, for each item and partner once, where every how-manyeth is inspected."""
    if plan.inspect.on and plan.inspect.every > 1:
        for item, partner in dict.fromkeys((x.item, known_order(state, x.order).partner) for x in lines):
            making.event(ReceiptCounted(item, PartnerCode(partner)))


@record
class Waiting:
    """A plate, or loose goods of one kind, that stop at an inspection."""

    key: str
    bin: BinCode
    goods: tuple[Goods, ...]
    plate: PlateNo | None
    plate_kind: PlateKindCode | None
    lines: tuple[PlateLine, ...]
    receipts: tuple[ReceiptNo, ...]


def set_inspecting(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, waits: Iterable[Waiting], step: InspectStep
) -> str:
    """What is to be inspected becomes tasks now, or rests until somebody asks for them: what is said of it."""
    waits = list(waits)
    if step.begins is Begins.ON_ARRIVAL:
        return make(state, making, rulebook, stamp, waits)
    first = waits[0]
    goods = () if first.plate else tuple(g for w in waits for g in w.goods)
    making.event(GoodsRest(first.key, Need.INSPECT, first.bin, first.plate, goods, first.receipts))
    return f"It waits in `{first.bin}` for an inspection to be made."


def make(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, waits: Iterable[Waiting]) -> str:
    """A task for each: to be brought where it is inspected, unless it stands there, and looked at."""
    says = []
    for each in waits:
        step = inspecting.step_of(rulebook, state, each.lines, each.goods[0].item)
        request = request_at(state, each, step, stamp.today)
        to, rule = _where(state, making, rulebook, request, each, step)
        loose = () if each.plate else each.goods
        moves: tuple[Move, ...] = ()
        if to != each.bin:
            moves = (Move(1, Do.TAKE, each.bin, loose, each.plate), Move(2, Do.PLACE, to, loose, each.plate, rule))
        moves = (*moves, Move(len(moves) + 1, Do.LOOK, to, loose, each.plate))
        number = TaskNo(making.draw("task"))
        about = tuple(Ref(DocKind.RECEIPT, r) for r in each.receipts) if each.plate is None else ()
        making.event(WorkMade(number, Need.INSPECT, step.crew, moves, about))
        says.append(f"`{number}` in `{to}`" if to else f"`{number}` in a bin the worker chooses")
    return f"To be inspected: {', '.join(says)}."


def request_at(state: State, waits: Waiting, step: InspectStep, today: date) -> BinRequest:
    """Into which bin is it brought to be inspected?"""
    kind, partners = putting.sources_of(state, waits.lines)
    return BinRequest(
        state.settings.site, BinPurpose.INSPECT_AT, waits.goods, plate_kind=waits.plate_kind, plate=waits.plate,
        order_kind=kind, partners=partners, nested=state.nested(waits.plate) if waits.plate else (),
        from_bin=waits.bin, door=waits.bin, today=today, at=step.at,
    )  # fmt: skip


def _where(
    state: State, making: Making, rulebook: Rulebook, request: BinRequest, waits: Waiting, step: InspectStep
) -> tuple[BinCode | None, RuleId | None]:
    """Where it is looked at, and the rule that says so: where it stands, if that is the place."""
    if putting.lies_at(state, waits.bin, step.at):
        return waits.bin, None
    trail = choose(request, rulebook.rules_for(request.site, request.purpose, request.at), state)
    making.trail(trail)
    return trail.bin, trail.rule


def of_plate(state: State, number: PlateNo, goods: tuple[Goods, ...], lines: tuple[PlateLine, ...]) -> Waiting:
    """A whole plate that waits, where it stands."""
    plate = state.plates[number]
    assert plate.bin is not None
    return Waiting(number, plate.bin, goods, number, plate.plate_kind, lines, (plate.receipt,) if plate.receipt else ())


def of_rest(state: State, rest: Rest) -> list[Waiting]:
    """What rests, to be inspected: a plate, or each kind of loose goods; refused when it is elsewhere."""
    putting.check_rests(state, rest)
    if rest.plate:
        return [of_plate(state, rest.plate, state.plates.goods_on(rest.plate), putting.lines_on(state, rest.plate))]
    lines = tuple(x for r in rest.receipts for x in state.receipts[r].lines)
    return [Waiting(rest.key, rest.bin, (g,), None, None, lines, rest.receipts) for g in rest.goods]


def of_task(state: State, task: Task) -> Waiting:
    """What a task is about, as it waits, wherever it is now."""
    lines = putting.lines_of(state, task)
    if task.plate is None:
        return Waiting(task.number, task.from_bin, task.plan.loose, None, None, lines, task.receipts)
    plate = state.plates[task.plate]
    return Waiting(task.plate, task.from_bin, plate.goods, task.plate, plate.plate_kind, lines, ())


def make_of_rest(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, rest: Rest) -> str:
    """What rests becomes tasks after all."""
    waits = of_rest(state, rest)
    making.event(RestEnded(rest.key))
    return make(state, making, rulebook, stamp, waits)
