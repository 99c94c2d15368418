"""What deciding an act leads to, and the numbers it draws."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import PlateNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.scanning.reading import gs1_check_digit
from mindful_crate.core.trail import Trail
from mindful_crate.core.world import events as ev


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
    """So many numbers of a series, one after the other, and the event that says they are taken; refused when the series
    holds no more. Numbers that something bears already are passed over: stock may have come in under them."""
    if not count:
        return [], ()
    rules = state.ground.series.get(series)
    if rules is None:
        raise Refusal("no_series", f"There is no number series for a {series}, so none can be numbered.")
    found: list[str] = []
    ahead = 0
    while len(found) < count:
        text, number = state.number(series, ahead)
        if rules.last and number > rules.last:
            ended = "ends" if found else "ended"
            says = f"The number series for a {series} {ended} at {rules.last:,}. Widen it in the catalogue."
            raise Refusal("series_full", says)
        if not _borne(state, series, text):
            found.append(text)
        ahead += 1
    return found, (ev.NumberDrawn(series, number + 1),)


def draw(state: State, series: str) -> tuple[str, ev.NumberDrawn]:
    """The next number of a series and the event that says it is taken; refused when there is none."""
    (number,), (drawn,) = draw_some(state, series, 1)
    return number, drawn


def _borne(state: State, series: str, text: str) -> bool:
    """Does something bear this number? Only plates come from elsewhere: as stock, announced, or under a label. A receipt of
    loose goods is kept under its number like a plate."""
    if series == "sscc" and text.isdigit():
        text += str(gs1_check_digit(text))
    return series in ("plate", "receipt", "sscc") and (
        state.has_plate(PlateNo(text)) or state.announced(PlateNo(text)) is not None
    )
