"""How its events change a state: unloading what comes."""

from __future__ import annotations

from mindful_crate.core.catalog.refs import DocKind
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.steps_done import StepDone
from mindful_crate.core.floor.unloadings import Unloading
from mindful_crate.core.record import evolve
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At
from mindful_crate.core.work.unloading.events import GoodsUnloaded, UnloadingEnded


def _unloaded(state: State, e: GoodsUnloaded, at: At) -> None:
    old = state.unloadings.get(e.unloading)
    new = old or Unloading(e.unloading, e.order, e.at, e.by, at.seq, truck=e.truck, arrived=e.arrived)
    state.unloadings.put(e.unloading, evolve(new, plates=(*new.plates, *e.plates), count=new.count + e.count, by=e.by))
    state.steps_done.put(e.by, StepDone(DocKind.UNLOADING, e.unloading, at.seq))


def _ended(state: State, e: UnloadingEnded, _: At) -> None:
    state.unloadings.put(e.unloading, evolve(state.unloadings[e.unloading], ended=e.why))


FOLDS = (
    folding(GoodsUnloaded, _unloaded),
    folding(UnloadingEnded, _ended),
)
"""How its events change a state."""
