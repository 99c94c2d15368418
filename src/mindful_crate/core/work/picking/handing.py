"""What is picked changes hands on its way: what was set down at a hand-over point goes on by a task of the next crew."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, PlateNo, RuleId, TaskNo, WaveNo
from mindful_crate.core.catalog.refs import DocKind
from mindful_crate.core.floor.plates import Holder
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Serves, Task, line_by_line
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.recipes import Recipe
from mindful_crate.core.rulebook.steps import Begins, Need
from mindful_crate.core.rulebook.waves import Method
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.picking.arranging import brought
from mindful_crate.core.work.putting.arranging import HELD
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.events import MoveDone, WorkMade
from mindful_crate.core.work.waving.events import WaveTasks

Set = tuple[BinCode, PlateNo | None, tuple[Goods, ...], tuple[Serves, ...]]
"""Where something was set down: as a plate, or loose; and which order lines it serves."""


def hand_on(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, events: Iterable[object]) -> str:
    """Tasks of the next crew for what was set down at the end of a part of its way; what is said of them."""
    mine: dict[TaskNo, list[Set]] = {}
    for event in events:
        if not isinstance(event, MoveDone) or state.tasks[event.task].need is not Need.PICK:
            continue
        task = state.tasks[event.task]
        move = next((m for m in task.plan.moves if m.no == event.move), None)
        recipe = rulebook.recipe(task.plan.recipe)
        if move is None or move.do is not Do.PLACE or recipe is None or task.plan.leg >= len(recipe.legs):
            continue
        plate = PlateNo(event.target.code) if event.target.holder is Holder.PLATE else event.plate
        mine.setdefault(event.task, []).append(
            (event.at, plate, () if plate else event.goods, _serves(state, move, event))
        )
    return said(*(_next(state, making, rulebook, stamp, state.tasks[n], there) for n, there in mine.items()))


def _serves(state: State, move: Move, event: MoveDone) -> tuple[Serves, ...]:
    """The lines whose goods a place received; of a part of it, those whose items they are."""
    return _of(state, move.serves, event.goods) if event.goods else move.serves


def _next(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, task: Task, there: list[Set]) -> str:
    recipe = rulebook.recipe(task.plan.recipe)
    assert recipe is not None
    leg = task.plan.leg + 1
    moves: list[Move] = []
    places: list[Move] = []
    plates: dict[PlateNo, list[Set]] = {}
    for each in there:
        if each[1] is not None:
            plates.setdefault(each[1], []).append(each)
            continue
        for goods in each[2]:
            moves.append(Move(len(moves) + 1, Do.TAKE, each[0], (goods,), serves=_of(state, each[3], (goods,))))
        to, rule = _place(state, rulebook, recipe, task, leg, each[3], each[2], each[0], stamp.today, making)
        places.append(Move(0, Do.PLACE, to, each[2], None, rule, serves=each[3]))
    for plate, sets in plates.items():
        serves = line_by_line(s for x in sets for s in x[3])
        moves.append(Move(len(moves) + 1, Do.TAKE, sets[0][0], (), plate, serves=serves))
        goods_on = state.all_goods(plate)
        to, rule = _place(state, rulebook, recipe, task, leg, serves, goods_on, sets[0][0], stamp.today, making)
        places.append(Move(0, Do.PLACE, to, (), plate, rule, serves=serves))
    numbered = [
        Move(len(moves) + n, p.do, p.at, p.goods, p.plate, p.rule, serves=p.serves) for n, p in enumerate(places, 1)
    ]
    number = TaskNo(making.draw("task"))
    held = "" if recipe.legs[task.plan.leg].next is Begins.ON_ARRIVAL else HELD
    making.event(
        WorkMade(
            number, Need.PICK, recipe.crew_of(leg), (*moves, *numbered), task.plan.about, recipe.id, leg, held, recipe.priority
        )
    )  # fmt: skip
    wave = next((WaveNo(r.number) for r in task.plan.about if r.kind is DocKind.WAVE), None)
    if wave is not None:
        making.event(WaveTasks(wave, (number,)))
    crew = next((c.name for c in rulebook.crews if c.id == recipe.crew_of(leg)), recipe.crew_of(leg))
    return f"{crew} takes it on from here: `{number}`."


def _of(state: State, serves: tuple[Serves, ...], goods: Iterable[Goods]) -> tuple[Serves, ...]:
    """The lines that such goods are for, by their items."""
    items = {g.item for g in goods}
    lines = [(s, o) for s in serves if (o := state.order(s.line.order)) is not None]
    return tuple(s for s, o in lines if (x := state.ordered.line(o, s.line.line)) is not None and x.item in items)


def _place(
    state: State, rulebook: Rulebook, recipe: Recipe, task: Task, leg: int, serves: tuple[Serves, ...], goods: tuple[Goods, ...], at: BinCode,
    today: date, making: Making,
) -> tuple[BinCode | None, RuleId | None]:  # fmt: skip
    """Where it goes next: to the next hand-over point, or to the station its plan says."""
    order = state.order(serves[0].line.order) if serves else None
    if order is None or not goods:
        return None, None
    if leg < len(recipe.legs):
        purpose, place = BinPurpose.STAGE_AT, recipe.legs[leg].to
    else:
        wave = next((state.waves[WaveNo(r.number)] for r in task.plan.about if r.kind is DocKind.WAVE), None)
        ship = rulebook.ship_plan_for(rulebook.asked(state.ground, order, goods[0].item))
        found, place = brought(ship, wave.method if wave else Method.ORDER)
        if found is None:
            return None, None
        purpose = found
    request = BinRequest(
        state.settings.site, purpose, goods, order_kind=order.kind, partners=(order.partner,), from_bin=at, today=today, at=place,
    )  # fmt: skip
    trail = choose(request, rulebook.rules_for(request.site, request.purpose, request.at), state)
    making.trail(trail)
    return trail.bin, trail.rule
