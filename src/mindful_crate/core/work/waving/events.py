"""What happens to waves."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import OrderNo, TaskNo, WaveNo, WavePlanId
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.waves import Method


@record
class WaveMade:
    """A wave of these orders, by a plan or of a release itself."""

    wave: WaveNo
    plan: WavePlanId | None
    name: str
    method: Method
    orders: tuple[OrderNo, ...]
    kind: Literal["wave_made"] = "wave_made"


@record
class WaveAllocated:
    """Stock is kept for the orders of a wave; ``held``: why nobody may fetch it yet."""

    wave: WaveNo
    held: str = ""
    kind: Literal["wave_allocated"] = "wave_allocated"


@record
class WaveTasks:
    """These tasks are a wave's from now on."""

    wave: WaveNo
    tasks: tuple[TaskNo, ...]
    kind: Literal["wave_tasks"] = "wave_tasks"


@record
class WaveJoined:
    """An order is in a wave now."""

    wave: WaveNo
    order: OrderNo
    kind: Literal["wave_joined"] = "wave_joined"


@record
class WaveLeft:
    """An order is in a wave no more; it waits for another, should it still be released."""

    wave: WaveNo
    order: OrderNo
    why: str
    kind: Literal["wave_left"] = "wave_left"


@record
class WaveHeld:
    """Nobody may take tasks of a wave for this reason; with an empty one it is let go."""

    wave: WaveNo
    why: str = ""
    kind: Literal["wave_held"] = "wave_held"


@record
class WaveCancelled:
    """A wave has ended without being worked."""

    wave: WaveNo
    why: str
    kind: Literal["wave_cancelled"] = "wave_cancelled"


@record
class WaveAwaited:
    """Orders wait for a plan that runs at these minutes of the day, the next of them after so many minutes from now."""

    plan: WavePlanId
    minutes: tuple[int, ...]
    after: int = 0
    kind: Literal["wave_awaited"] = "wave_awaited"


@record
class WaveRan:
    """A plan ran at its time."""

    plan: WavePlanId
    kind: Literal["wave_ran"] = "wave_ran"


WavingEvent = (
    WaveMade | WaveAllocated | WaveTasks | WaveJoined | WaveLeft | WaveHeld | WaveCancelled | WaveAwaited | WaveRan
)
"""What may happen."""
