"""What deciding an act leads to, and the numbers it draws."""

from __future__ import annotations

from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.trail import Trail
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.state import State


@record
class Made:
    """What one act leads to."""

    says: str
    events: tuple[ev.Event, ...] = ()
    trails: tuple[Trail, ...] = ()

    def after(self, first: Made) -> Made:
        """``first`` and then this, as one."""
        says = " ".join(s for s in (first.says, self.says) if s)
        return Made(says, (*first.events, *self.events), (*first.trails, *self.trails))


def draw_some(state: State, series: str, count: int) -> tuple[list[str], tuple[ev.NumberDrawn, ...]]:
    """So many numbers of a series, one after the other, and the event that says they are taken."""
    if not count:
        return [], ()
    first, drawn = draw(state, series)
    texts = [first, *(state.number(series, n)[0] for n in range(1, count))]
    last = state.ground.series[series].last
    if last and drawn.next + count - 2 > last:
        raise Refusal("series_full", f"The number series for a {series} ends at {last:,}. Widen it in the catalogue.")
    return texts, (ev.NumberDrawn(series, drawn.next + count - 1),)


def draw(state: State, series: str) -> tuple[str, ev.NumberDrawn]:
    """The next number of a series and the event that says it is taken; refused when there is none."""
    if series not in state.ground.series:
        raise Refusal("no_series", f"There is no number series for a {series}, so none can be numbered.")
    number, next_ = state.number(series)
    last = state.ground.series[series].last
    if last and next_ > last:
        raise Refusal("series_full", f"The number series for a {series} ended at {last:,}. Widen it in the catalogue.")
    return number, ev.NumberDrawn(series, next_ + 1)
