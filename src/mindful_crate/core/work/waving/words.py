"""What is said of waves."""

from __future__ import annotations

from mindful_crate.core.floor.waves import WaveState
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.work.rows import Made, Row, Words, silent, telling
from mindful_crate.core.work.waving.acts import AddToWave, CancelWave, HoldWave, LetWaveGo, MakeWave, TakeOutOfWave
from mindful_crate.core.work.waving.events import (
    WaveAllocated,
    WaveAwaited,
    WaveCancelled,
    WaveHeld,
    WaveJoined,
    WaveLeft,
    WaveMade,
    WaveRan,
    WaveTasks,
)

STATES = {
    WaveState.GATHERED: "gathered",
    WaveState.HELD: "held",
    WaveState.LET_GO: "let go",
    WaveState.IN_PROGRESS: "in progress",
    WaveState.DONE: "done",
    WaveState.CANCELLED: "cancelled",
}
"""How far a wave is, in words."""


def _asked(act: MakeWave) -> str:
    which = counted(len(act.orders), "order") if act.orders else "what waits for its plan"
    return f"The office makes a wave of {which}"


WORDS = (
    telling(WaveMade, lambda e: f"wave `{e.wave}` of {e.name}: {counted(len(e.orders), 'order')}"),
    telling(WaveAllocated, lambda e: f"wave `{e.wave}` " + (f"held: {e.held}" if e.held else "let go")),
    silent(WaveTasks),
    telling(WaveJoined, lambda e: f"`{e.order}` joined wave `{e.wave}`"),
    telling(WaveLeft, lambda e: f"`{e.order}` left wave `{e.wave}`: {e.why}"),
    telling(WaveHeld, lambda e: f"wave `{e.wave}` " + (f"held: {e.why}" if e.why else "let go")),
    telling(WaveCancelled, lambda e: f"wave `{e.wave}` cancelled: {e.why}"),
    silent(WaveAwaited),
    silent(WaveRan),
)
"""What the log says of its events."""
ASKED = (
    telling(MakeWave, _asked),
    telling(LetWaveGo, lambda a: f"The office lets wave `{a.wave}` go"),
    telling(HoldWave, lambda a: f"The office holds wave `{a.wave}`: {a.why}"),
    telling(AddToWave, lambda a: f"The office adds `{a.order}` to wave `{a.wave}`"),
    telling(TakeOutOfWave, lambda a: f"The office takes `{a.order}` out of wave `{a.wave}`: {a.why}"),
    telling(CancelWave, lambda a: f"The office cancels wave `{a.wave}`: {a.why}"),
)
"""What the office asks, in words."""
MAKES: dict[Made, tuple[Row[Words[object]], ...]] = {"wave": (telling(WaveMade, lambda e: e.wave),)}
"""What its events make."""
