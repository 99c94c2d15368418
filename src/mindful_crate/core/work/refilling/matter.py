"""Filling shelves from reserve. Its row among the matters."""

from __future__ import annotations

from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.waves import ByClock, awaiting
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.rulebook.words.parts import all_of
from mindful_crate.core.work.refilling.acts import FillShelves
from mindful_crate.core.work.refilling.decide import DECIDES, after
from mindful_crate.core.work.refilling.events import RefillsAwaited
from mindful_crate.core.work.refilling.flow import RefillFlow
from mindful_crate.core.work.refilling.prompts import PROMPTS
from mindful_crate.core.work.rows import Matter, folding, silent, telling
from mindful_crate.core.work.stamp import At


def _asked(act: FillShelves) -> str:
    if not act.shelves:
        return "The office has all shelves filled that hold less than their least"
    return f"The office has filled: {all_of(f'`{s.bin}` with `{s.item}`' for s in act.shelves)}"


def _awaited(state: State, e: RefillsAwaited, at: At) -> None:
    state.runs_awaited.put(ByClock.SHELVES, awaiting(at.stamp.at, e.minutes))


REFILLING = Matter(
    "refilling",
    DECIDES,
    (folding(RefillsAwaited, _awaited),),
    (silent(RefillsAwaited),),
    asked=(telling(FillShelves, _asked),),
    flows={FlowPurpose.REPLENISH: RefillFlow()},
    prompts=PROMPTS,
    after=after,
)
"""What it brings."""
