"""What a decider makes: numbers it draws, events, trails.

Each event is folded at once under the floor's journal, so a decision sees what it has decided so far: no number is drawn
twice, no stock promised twice, no bin filled twice by one command. All of it stays with the entry, or is taken back without
one; there is one way to change a state.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Literal

from mindful_crate.core.catalog.ids import PlateNo
from mindful_crate.core.floor.numbers import Drawn
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named, record
from mindful_crate.core.scanning.reading import gs1_check_digit
from mindful_crate.core.trail import Trail
from mindful_crate.core.work.stamp import At


class Making:
    """An entry in the making. Only under the open journal of its state. It is given what folds an event, and what decides
    an act that is part of another, so that it knows no matter by name."""

    def __init__(
        self,
        state: State,
        at: At,
        fold: Callable[[State, Named, At], None],
        decide: Callable[[Making, Named], str],
        seen: Callable[[Trail], None] | None = None,
    ) -> None:
        self._state = state
        self._at = at
        self._fold = fold
        self._decide = decide
        self._seen = seen
        self.events: list[Named] = []
        self.trails: list[Trail] = []
        self.whole: list[tuple[str, str]] = []
        """Steps that all of a document is past now, as whoever decided it says: step and number. It is in no log; what is done after anything was decided
        may ask for it."""

    def event(self, event: Named) -> None:
        """Something happens."""
        self.events.append(event)
        self._fold(self._state, event, self._at)

    def act(self, act: Named) -> str:
        """Decide an act as part of this one: what it says."""
        return self._decide(self, act)

    def trail(self, trail: Trail) -> None:
        """How something was chosen, on the state as it was asked: before anything follows from it."""
        self.trails.append(trail)
        if self._seen:
            self._seen(trail)

    def draw(self, series: Drawn) -> str:
        """The next number of a series; refused when there is none."""
        return self.draw_some(series, 1)[0]

    def draw_some(self, series: Drawn, count: int) -> list[str]:
        """So many numbers of a series, one after the other; refused when the series holds no more. Numbers that something
        bears already are passed over: stock may have come in under them."""
        rules = self._state.ground.series.get(series)
        if rules is None:
            raise Refusal("no_series", f"There is no number series for a {series}, so none can be numbered.")
        found: list[str] = []
        ahead = number = 0
        while len(found) < count:
            text, number = self._state.number(series, ahead)
            if rules.last and number > rules.last:
                ended = "ends" if found else "ended"
                says = f"The number series for a {series} {ended} at {rules.last:,}. Widen it in the catalogue."
                raise Refusal("series_full", says)
            if not _borne(self._state, series, text):
                found.append(text)
            ahead += 1
        if found:
            self.event(NumberDrawn(series, number + 1))
        return found

    @contextmanager
    def unless_refused(self) -> Iterator[None]:
        """What is made within is taken back when it is refused; the refusal goes on."""
        before = self._so_far()
        try:
            yield
        except Refusal:
            self._back_to(*before)
            raise

    @contextmanager
    def tried(self) -> Iterator[None]:
        """All that is made within is taken back at the end, whatever happens: only what was said of it stays."""
        before = self._so_far()
        try:
            yield
        finally:
            self._back_to(*before)

    def _so_far(self) -> tuple[int, int, int, int]:
        return len(self._state.journal.lines), len(self.events), len(self.trails), len(self.whole)

    def _back_to(self, mark: int, events: int, trails: int, whole: int) -> None:
        self._state.journal.back_to(mark)
        del self.events[events:], self.trails[trails:], self.whole[whole:]


def _borne(state: State, series: str, text: str) -> bool:
    """Does something bear this number? Only plates come from elsewhere: as stock, announced, or under a label. A receipt of
    loose goods is kept under its number like a plate."""
    if series == "sscc" and text.isdigit():
        text += str(gs1_check_digit(text))
    return series in ("plate", "receipt", "sscc") and (
        state.has_plate(PlateNo(text)) or state.announced(PlateNo(text)) is not None
    )


def said(*parts: str) -> str:
    """What the parts of a command say, as one."""
    return " ".join(p for p in parts if p)


@record
class NumberDrawn:
    """A number was taken from a series; ``next`` is the one after it."""

    series: str
    next: int
    kind: Literal["number_drawn"] = "number_drawn"
