"""Decide a command against the state and the rulebook: events and trails, or a refusal. Nothing is changed."""

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
from mindful_crate.core.world.fold import fold, go_on


def decide(
    state: State, rulebook: Rulebook, command: acts.Command, seen: Callable[[Trail], None] | None = None
) -> ev.Entry:
    """The log entry of a command: carried out, or refused with a reason the person can act on.

    What is made is folded as it is made, so that the decision sees it, and taken back at the end: whoever decides has the
    state to themselves. ``seen`` is told each trail while the state is as the rules were asked, with what was decided
    before it."""
    outcome: ev.Done | ev.Refused
    with state.tentatively():
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
