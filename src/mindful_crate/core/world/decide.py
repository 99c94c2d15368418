"""Decide a command against the state and the rulebook: events and trails, or a refusal.

``decide`` changes nothing; ``enact`` leaves the state as the entry makes it."""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.trail import Trail
from mindful_crate.core.work.making import Making, Named, said
from mindful_crate.core.work.rows import by_kind
from mindful_crate.core.work.table import TABLE
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.acts import At, Stamp
from mindful_crate.core.world.fold import fold, folded, go_on


def decide(
    state: State, rulebook: Rulebook, command: acts.Command, seen: Callable[[Trail], None] | None = None
) -> ev.Entry:
    """The log entry of a command: carried out, or refused with a reason the person can act on.

    What is made is folded as it is made, so that the decision sees it, and taken back at the end: whoever decides has the
    state to themselves. ``seen`` is told each trail while the state is as the rules were asked, with what was decided
    before it."""
    with state.tentatively():
        return _entry(state, rulebook, command, seen)


def enact(state: State, rulebook: Rulebook, command: acts.Command) -> ev.Entry:
    """Decide a command and leave the state as its entry makes it, which is as :func:`apply` would: what was folded while it was
    decided stays, instead of being taken back and folded once more."""
    entry = enact_if(state, rulebook, command, lambda entry: True)
    assert entry is not None
    return entry


def enact_if(
    state: State, rulebook: Rulebook, command: acts.Command, written: Callable[[ev.Entry], bool]
) -> ev.Entry | None:
    """The same if ``written`` says so of the entry. Should it say no, or fail, nothing is changed; None if it says no."""
    with state.tentatively():
        entry = _entry(state, rulebook, command)
        if isinstance(entry.outcome, ev.Refused):
            state.journal.back_to(0)
            go_on(state, command.stamp.at)
        if not written(entry):
            return None
        state.journal.keep()
    folded(state, entry)
    return entry


def _entry(
    state: State, rulebook: Rulebook, command: acts.Command, seen: Callable[[Trail], None] | None = None
) -> ev.Entry:
    """What comes of a command, next in the log: only under an open journal."""
    outcome: ev.Done | ev.Refused
    try:
        says, making = carried_out(state, rulebook, command.stamp, command.act, seen)
        outcome = ev.Done(cast(tuple[ev.Event, ...], tuple(making.events)), says, tuple(making.trails))
    except Refusal as refusal:
        outcome = ev.Refused(refusal.problem)
    return ev.Entry(state.seq + 1, command, outcome)


def carried_out(
    state: State, rulebook: Rulebook, stamp: Stamp, act: Named, seen: Callable[[Trail], None] | None = None
) -> tuple[str, Making]:
    """What an act says and makes, with all that follows from it: only under an open journal. :class:`Refusal` when it is refused."""

    go_on(state, stamp.at)  # it is decided now, not when something happened last
    making = making_of(state, rulebook, stamp, seen)
    says = making.act(act)
    return said(says, *[after(state, making, rulebook, stamp) for after in AFTER]), making


def making_of(
    state: State, rulebook: Rulebook, stamp: Stamp, seen: Callable[[Trail], None] | None = None
) -> Making:  # fmt: skip
    """An entry in the making, next in the log: only under an open journal."""

    def decided(making: Making, part: Named) -> str:
        return DECIDERS[type(part)](state, making, rulebook, stamp, part)

    return Making(state, At(state.seq + 1, stamp), fold, decided, seen)


AFTER = tuple(matter.after for matter in TABLE if matter.after is not None)
"""What follows from whatever was decided."""
DECIDERS = by_kind(row for matter in TABLE for row in matter.decides)
"""How every act is decided."""
