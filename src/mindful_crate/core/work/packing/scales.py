"""The scale stand-in: what the scale of a pack station reads."""

from __future__ import annotations

from mindful_crate.core.catalog.goods import PackStation
from mindful_crate.core.catalog.ids import BinCode
from mindful_crate.core.floor.cartons import Carton
from mindful_crate.core.floor.devices import Scale
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.words.parts import thousandths


def scale_at(state: State, at: BinCode) -> PackStation | None:
    """The pack station at a bin that has a scale."""
    return next((p for p in state.ground.opening.pack_stations if p.bin == at and p.scale), None)


def reads(state: State, carton: Carton, should_mg: int) -> int:
    """What the scale beside a carton reads, in milligrams: what somebody said that lies on it, else what its goods weigh, with its drift. Refused
    where there is none, when it is down, and when it reads what nothing weighs."""
    station = scale_at(state, carton.at)
    if station is None:
        raise Refusal(
            "no_scale", f"There is no scale at `{carton.at}`: weigh the carton, and say what it weighs.", "weight_mg"
        )
    scale = state.scales.get(station.code) or Scale()
    if scale.down:
        raise Refusal(
            "scale_down", f"The scale of {station.name} does not answer: say what the carton weighs.", "weight_mg"
        )
    reading = (should_mg if scale.typed_mg is None else scale.typed_mg) + scale.drift_mg
    if not 0 < reading <= 2_000_000_000:
        says = f"The scale of {station.name} reads {'-' if reading < 0 else ''}{thousandths(abs(reading) // 1000)} kg, which no carton weighs: say what it weighs."
        raise Refusal("scale_nonsense", says, "weight_mg")
    return reading
