"""What may be asked of waves: to make one, let it go, hold it, change it, cancel it."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from mindful_crate.core.catalog.ids import OrderNo, WaveNo, WavePlanId
from mindful_crate.core.record import record


@record
class MakeWave:
    """Makes a wave by a plan: of the orders that wait for it, as many as it holds; or of those that are named, whatever plan they are for.
    Without a plan they are picked one at a time."""

    plan: WavePlanId | None = None
    orders: tuple[OrderNo, ...] = ()
    kind: Literal["make_wave"] = "make_wave"


@record
class LetWaveGo:
    """What a wave keeps may be fetched; if nothing is kept yet, that is done first."""

    wave: WaveNo
    kind: Literal["let_wave_go"] = "let_wave_go"


@record
class HoldWave:
    """Nobody may take tasks of a wave until it is let go."""

    wave: WaveNo
    why: str
    kind: Literal["hold_wave"] = "hold_wave"


@record
class AddToWave:
    """A released order that waits joins a wave that was not let go."""

    wave: WaveNo
    order: OrderNo
    kind: Literal["add_to_wave"] = "add_to_wave"


@record
class TakeOutOfWave:
    """An order leaves a wave, and waits for another."""

    wave: WaveNo
    order: OrderNo
    why: str
    kind: Literal["take_out_of_wave"] = "take_out_of_wave"


@record
class CancelWave:
    """A wave ends; its orders wait for another."""

    wave: WaveNo
    why: str
    kind: Literal["cancel_wave"] = "cancel_wave"


@record
class WaveDue:
    """The time has come at which a plan runs; the clock says so, and when that was."""

    plan: WavePlanId
    due: datetime
    kind: Literal["wave_due"] = "wave_due"


WavingAct = MakeWave | LetWaveGo | HoldWave | AddToWave | TakeOutOfWave | CancelWave
"""What may be asked."""
