"""Folding: each event by its row in the table of matters. Only folds put."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

from mindful_crate.core.floor.state import State
from mindful_crate.core.record import maker
from mindful_crate.core.work.rows import by_kind
from mindful_crate.core.work.stamp import At
from mindful_crate.core.work.table import TABLE
from mindful_crate.core.world import events as ev

_at: Callable[..., At] = maker(At)


def apply(state: State, entry: ev.Entry) -> None:
    """Fold one log entry. A refusal takes its place and changes nothing else."""
    if entry.seq != state.seq + 1:
        raise ValueError(f"entry {entry.seq} does not follow {state.seq}")
    stamp, outcome = entry.command.stamp, entry.outcome
    go_on(state, stamp.at)
    if isinstance(outcome, ev.Done):
        at = _at(entry.seq, stamp)
        for event in outcome.events:
            FOLDS[type(event)](state, event, at)
    folded(state, entry)


def folded(state: State, entry: ev.Entry) -> None:
    """The events of an entry are folded: it has its place, whatever came of it, and what it has settled leaves."""
    state.seq = entry.seq
    if any(state.may_settle) and isinstance(entry.outcome, ev.Done):
        state.settle()


def go_on(state: State, at: datetime) -> None:
    """It is so late now, unless it is later already."""
    clock = state.time
    if at > clock.value:
        clock.put(at)


def fold(state: State, event: object, at: At) -> None:
    """Fold one event, of an entry that may be in the making."""
    FOLDS[type(event)](state, event, at)


FOLDS = by_kind(row for matter in TABLE for row in matter.folds)
"""How every event changes a state."""
