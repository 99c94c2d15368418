"""Cross-docking. Its row among the matters: what follows once goods stand in their lane, or are not brought there after all."""

from __future__ import annotations

from mindful_crate.core.catalog.places import PICKED_FROM
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.standing import purpose_of
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import all_of
from mindful_crate.core.work.crossing.acts import TieThrough
from mindful_crate.core.work.crossing.decide import DECIDES
from mindful_crate.core.work.crossing.events import LineTied
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.picking.arranging import to_fetch
from mindful_crate.core.work.picking.doing import given_up_of
from mindful_crate.core.work.rows import Matter, folding, telling
from mindful_crate.core.work.stamp import At, Stamp
from mindful_crate.core.work.tasks.events import MoveDone, TaskCancelled
from mindful_crate.core.work.waving.decide import wave_at_release
from mindful_crate.core.work.waving.working import make_tasks


def after(state: State, making: Making, rulebook: Rulebook, stamp: Stamp) -> str:
    """What stands in its lane is fetched by a task of its order's wave; what is not brought there is kept for nobody."""
    placed: dict[LineKey, None] = {}
    for event in list(making.events):
        if isinstance(event, TaskCancelled):
            task = state.tasks[event.task]
            for move in task.plan.moves if task.need is Need.PUT_AWAY and not task.going.parts else ():
                if move.do is Do.TAKE and move.serves:
                    given_up_of(state, making, move)
        elif isinstance(event, MoveDone):
            task = state.tasks[event.task]
            move_ = next((m for m in task.plan.moves if m.no == event.move), None)
            if task.need is not Need.PUT_AWAY or move_ is None or move_.do is not Do.PLACE:
                continue
            if purpose_of(state, event.at) in PICKED_FROM:
                placed.update(dict.fromkeys(s.line for s in move_.serves))
    return said(*(_fetched(state, making, rulebook, stamp, line) for line in placed))


def _fetched(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, line: LineKey) -> str:
    """What stands in a lane for an order line becomes a task of its wave; what waits for a wave is fetched with that."""
    order, release = state.order(line.order), state.releases.get(line.order)
    kept = [k for k in to_fetch(state, [line.order]) if k.line == line]
    if order is None or release is None or release.waits or not kept:
        return ""
    waves = state.waves.at_work_on(line.order)
    if not waves:
        return wave_at_release(state, making, rulebook, stamp, [order])
    return make_tasks(state, making, rulebook, stamp, waves[-1].number, kept)


def _put(state: State, e: LineTied, _: At) -> None:
    state.ties.put(e.inbound, e.to or None)


def _told(e: LineTied) -> str:
    to = all_of(f"{t.quantity:,} to `{t.line}`" for t in e.to)
    return f"what comes of `{e.inbound}` goes straight on: {to}" if to else f"what comes of `{e.inbound}` is stored"


def _asked(a: TieThrough) -> str:
    what = f"`{a.inbound}/{a.inbound_line}`"
    return (
        f"The office ties {a.quantity:,} of {what} to `{a.order}/{a.line}`"
        if a.quantity
        else f"The office unties {what}"
    )


CROSSING = Matter(
    "crossing",
    DECIDES,
    (folding(LineTied, _put),),
    (telling(LineTied, _told),),
    asked=(telling(TieThrough, _asked),),
    after=after,
)
"""What it brings."""
