"""How its events change a state: goods are taken back."""

from __future__ import annotations

from mindful_crate.core.floor.returns import ReturnBuild
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve
from mindful_crate.core.work.returning.events import (
    ReturnBegun,
    ReturnEnded,
    ReturnLineDropped,
    ReturnMarked,
    ReturnNoted,
)
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At


def _begun(state: State, e: ReturnBegun, _: At) -> None:
    state.returning.put(e.device, ReturnBuild(e.device, e.partner, e.order))


def _noted(state: State, e: ReturnNoted, _: At) -> None:
    build = state.returning[e.device]
    state.returning.put(e.device, evolve(build, lines=(*build.lines, e.line)))


def _line_dropped(state: State, e: ReturnLineDropped, _: At) -> None:
    build = state.returning[e.device]
    state.returning.put(e.device, evolve(build, lines=tuple(x for x in build.lines if x.no != e.line)))


def _ended(state: State, e: ReturnEnded, _: At) -> None:
    state.returning.put(e.device, None)


def _marked(state: State, e: ReturnMarked, _: At) -> None:
    for key, marked in e.marks:
        state.returned.put(key, marked)


FOLDS = (
    folding(ReturnBegun, _begun),
    folding(ReturnNoted, _noted),
    folding(ReturnLineDropped, _line_dropped),
    folding(ReturnEnded, _ended),
    folding(ReturnMarked, _marked),
)
"""How its events change a state."""
