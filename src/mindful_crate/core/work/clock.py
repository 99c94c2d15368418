"""The clock of a rehearsal, and numbers that are drawn."""

from __future__ import annotations

from datetime import timedelta
from typing import Literal

from mindful_crate.core.floor.state import State, WorldKind
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.making import Making, NumberDrawn
from mindful_crate.core.work.rows import Matter, Row, Words, deciding, folding, silent, telling
from mindful_crate.core.work.stamp import At, Stamp


@record
class Wait:
    """Lets time pass in a rehearsal."""

    seconds: int
    kind: Literal["wait"] = "wait"


@record
class TimePassed:
    """The clock of a rehearsal was moved on."""

    seconds: int
    kind: Literal["time_passed"] = "time_passed"


def _number_drawn(state: State, e: NumberDrawn, _: At) -> None:
    state.next_numbers.put(e.series, e.next)


def _time_passed(state: State, e: TimePassed, _: At) -> None:
    after = state.clock + timedelta(seconds=e.seconds)
    for name, till in state.tills.all().items():
        state.tills.put(name, till.waited(state.clock, after))
    state.time.put(after)


FOLDS = (
    folding(NumberDrawn, _number_drawn),
    folding(TimePassed, _time_passed),
)
"""How its events change a state."""


def _wait(state: State, making: Making, _: Rulebook, __: Stamp, act: Wait) -> str:
    if state.settings.kind is WorldKind.LIVE:
        raise Refusal("live_clock", "A live world goes by the real clock; only a rehearsal can let time pass.")
    if not 0 < act.seconds <= 31 * 86_400:
        raise Refusal("bad_wait", "Time passes by at least a second and at most 31 days.")
    making.event(TimePassed(act.seconds))
    return f"{act.seconds} seconds pass."


DECIDES = (deciding(Wait, _wait),)
"""How its acts are decided."""


WORDS: tuple[Row[Words[object]], ...] = (
    silent(NumberDrawn),
    silent(TimePassed),
)
"""What the log says of its events."""

ASKED = (telling(Wait, lambda a: f"{a.seconds} seconds pass"),)
"""What is asked, in words."""
CLOCK = Matter("clock", DECIDES, FOLDS, WORDS, asked=ASKED)
"""What it brings."""
