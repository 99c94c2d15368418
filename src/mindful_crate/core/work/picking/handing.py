"""What is picked changes hands on its way: what was set down at a hand-over point goes on by a task of the next crew."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, PlateNo, RuleId, TaskNo, WaveNo
from mindful_crate.core.catalog.refs import DocKind
from mindful_crate.core.floor.plates import Holder
from mindful_crate.core.floor.standing import zone_wave
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Serves, Task, TaskState, Tote, line_by_line
from mindful_crate.core.floor.waves import Wave
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.recipes import Recipe
from mindful_crate.core.rulebook.steps import Begins, Need
from mindful_crate.core.rulebook.waves import Method
from mindful_crate.core.rulebook.words.parts import all_of
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.picking.arranging import brought, hold_told
from mindful_crate.core.work.picking.events import TotesCame
from mindful_crate.core.work.picking.looking import served_by
from mindful_crate.core.work.picking.zoning import followers, held_now, was_waiting
from mindful_crate.core.work.putting.arranging import HELD
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.events import MoveDone, TaskCancelled, TaskHeld, WorkMade
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
        if (wave := zone_wave(state, task)) is not None and followers(state, wave, task.number):
            continue  # that is handed on to the next zone first
        plate = PlateNo(event.target.code) if event.target.holder is Holder.PLATE else event.plate
        mine.setdefault(event.task, []).append(
            (event.at, plate, () if plate else event.goods, _serves(state, move, event))
        )
    tasks = ((state.tasks[n], there) for n, there in mine.items())
    return said(*(_next(state, making, rulebook, stamp, task, there, task.plan.leg + 1) for task, there in tasks))


def pass_on(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, events: Iterable[object]) -> str:
    """What ended in a zone hands its totes on to the next, which may be taken then; where nobody is next any more, they are brought to the station. What is
    said of it."""
    numbers = dict.fromkeys(e.task for e in events if isinstance(e, MoveDone | TaskCancelled))
    told = []
    for number in numbers:
        task = state.tasks[number]
        if task.need is Need.PICK and task.state.ended and (wave := zone_wave(state, task)) is not None:
            told.append(_passed(state, making, rulebook, stamp, wave, task))
    return said(*told)


def _passed(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, wave: Wave, task: Task) -> str:
    after = followers(state, wave, task.number)
    if not after:
        return ""
    totes = [
        Tote(t.order, t.plate, at)
        for t in task.going.totes
        if state.has_plate(t.plate) and (at := state.bin_of(t.plate)) is not None
    ]
    told = ""
    to = next((t for t in after if t.state is TaskState.OPEN and not t.going.parts), None)
    if totes and to is not None and all(t.came for t in to.going.totes):
        making.event(TotesCame(to.number, tuple(totes)))
        named = all_of(f"`{t.plate}`" for t in totes)
        told = f"{'Tote' if len(totes) == 1 else 'Totes'} {named} {'waits' if len(totes) == 1 else 'wait'} for task `{to.number}`."
    elif totes:
        told = take_on(state, making, rulebook, stamp, task, totes)
    for each in after:
        if each.state is TaskState.OPEN and was_waiting(state, each):
            now = hold_told(wave) or held_now(state, rulebook, each)
            if now != each.held:
                making.event(TaskHeld(each.number, now))
    return told


def _serves(state: State, move: Move, event: MoveDone) -> tuple[Serves, ...]:
    """The lines whose goods a place received; of a part of it, those whose items they are."""
    return _of(state, move.serves, event.goods) if event.goods else move.serves


def take_on(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, task: Task, totes: Iterable[Tote]) -> str:
    """A task that brings totes, which nobody in another zone is handed any more, to their station; what is said of it."""
    there: list[Set] = []
    for tote in totes:
        assert tote.came is not None
        there.append((tote.came, tote.plate, (), served_by(state, tote)))
    recipe = rulebook.recipe(task.plan.recipe)
    return _next(state, making, rulebook, stamp, task, there, len(recipe.legs) if recipe else 0)


def _next(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, task: Task, there: list[Set], leg: int
) -> str:
    recipe = rulebook.recipe(task.plan.recipe)
    if recipe is None:
        return f"The recipe of `{task.number}` is gone: somebody has to bring what stands there on."
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
    waits = recipe.legs and recipe.legs[leg - 1].next is not Begins.ON_ARRIVAL
    held = HELD if waits else ""
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
