"""The tasks of a wave: made of what is kept, ended, made anew."""

from __future__ import annotations

from collections.abc import Sequence

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import OrderNo, TaskNo, WaveNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task
from mindful_crate.core.floor.waves import Wave
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.picking.arranging import Kept, PickTask, arrange, hold_told, priority_of, to_fetch
from mindful_crate.core.work.picking.zoning import chain_begun, waits_told, with_chain
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.events import TaskCancelled, WorkMade
from mindful_crate.core.work.tasks.following import not_begun
from mindful_crate.core.work.waving.events import (
    WaveCancelled,
    WaveLeft,
    WaveTasks,
)
from mindful_crate.core.work.waving.keeping import given_up

MOST_TOLD = 5
"""Of so many things each is told by itself."""


def make_tasks(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, number: WaveNo, kept: Sequence[Kept]
) -> str:
    """Tasks for what is kept for orders of a wave; what is said of them."""
    wave = state.waves[number]
    found = arrange(state, rulebook, kept, wave.method, rulebook.wave_plan(wave.plan), stamp.today, seen=making.trail)
    made: list[TaskNo] = []
    for task in found.tasks:
        made.append(_made(state, making, wave, task, made[-1] if task.handed else None))
    if made:
        making.event(WaveTasks(number, tuple(made)))
    says = f"{counted(len(made), 'task')}: {few([f'`{t}`' for t in made])}." if made else "No task is made of it."
    if made and wave.held and wave.allocated:
        says = f"{says[:-1]}, held: {wave.held}."
    left: dict[str, list[Kept]] = {}
    for each, why in found.left:
        left.setdefault(why, []).append(each)
    for why, of in left.items():
        orders = list(dict.fromkeys(f"`{k.line.order}`" for k in of))
        says = said(
            says,
            f"Of {few(orders)} {counted(len({k.line for k in of}), 'line')} {'is' if len(of) == 1 else 'are'} no task: {why}.",
        )
    return says


def _made(state: State, making: Making, wave: Wave, task: PickTask, behind: TaskNo | None) -> TaskNo:
    number, recipe = TaskNo(making.draw("task")), task.recipe
    held = hold_told(wave) or (waits_told(behind) if behind else task.held)
    making.event(
        WorkMade(
            number,
            Need.PICK,
            recipe.crew_of(0),
            task.moves,
            task.about(wave.number),
            recipe.id,
            0,
            held,
            priority_of(state, task),
            behind=behind,
        )
    )
    return number


def few(things: Sequence[str]) -> str:
    """The first of some, and how many more."""
    told = ", ".join(things[:MOST_TOLD])
    return told if len(things) <= MOST_TOLD else f"{told} and {len(things) - MOST_TOLD} more"


def open_of(state: State, wave: Wave, order: OrderNo | None = None) -> list[Task]:
    """Tasks of a wave that are not ended, or those of them that serve an order."""
    tasks = [state.tasks[n] for n in wave.tasks]
    return [t for t in tasks if not t.state.ended and (order is None or order in t.plan.orders)]


def _drop(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, wave: Wave, order: OrderNo, why: str) -> int:
    """End the tasks of a wave that serve an order, and make those anew that also serve others. Refused when one has begun. How many ended."""
    tasks = with_chain(state, wave, open_of(state, wave, order))
    ended = not_begun(tasks)
    if handed := next((t for t in tasks if chain_begun(state, t)), None):
        raise Refusal(
            "begun", f"Pick task `{handed.number}` is handed totes by `{handed.plan.behind}`, which has begun."
        )
    if not ended and any(order in state.tasks[n].plan.orders and state.tasks[n].going.parts for n in wave.tasks):
        done = next(n for n in wave.tasks if order in state.tasks[n].plan.orders and state.tasks[n].going.parts)
        raise Refusal("begun", f"Pick task `{done}` is done: goods of `{order}` were fetched.")
    for task in ended:
        making.event(TaskCancelled(task, why))
    others = [o for o in dict.fromkeys(o for t in tasks for o in t.plan.orders) if o != order]
    if rest := to_fetch(state, others):
        make_tasks(state, making, rulebook, stamp, wave.number, rest)
    return len(ended)


def out_of_wave(
    state: State,
    making: Making,
    rulebook: Rulebook,
    stamp: Stamp,
    order: Order,
    why: str,
    ends: str = "no order is left in it",
) -> tuple[int, int]:
    """Take an order out of all its waves, with its tasks and what is kept for it; refused when a task has begun. A wave without orders
    ends. How many reservations and tasks ended."""
    tasks = 0
    mine = [w.number for w in state.waves.of_order(order.number) if not w.cancelled]
    for number in mine:
        tasks += _drop(state, making, rulebook, stamp, state.waves[number], order.number, why)
        making.event(WaveLeft(number, order.number, why))
    kept = given_up(state, making, order)
    for number in mine:
        if not state.waves[number].orders:
            making.event(WaveCancelled(number, "no order is left in it"))
    return kept, tasks
