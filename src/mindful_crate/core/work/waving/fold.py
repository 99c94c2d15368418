"""How its events change a state: waves."""

from __future__ import annotations

from datetime import timedelta

from mindful_crate.core.catalog.ids import OrderNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.waves import Awaited, Wave
from mindful_crate.core.record import evolve
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At
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


def _waits(state: State, order: OrderNo, waits: bool) -> None:
    release = state.releases.get(order)
    if release is not None and release.waits is not waits:
        state.releases.put(order, evolve(release, waits=waits))


def _made(state: State, e: WaveMade, at: At) -> None:
    state.waves.put(e.wave, Wave(e.wave, e.plan, e.name, e.method, e.orders, at.seq, at.stamp.at))
    for order in e.orders:
        _waits(state, order, False)


def _allocated(state: State, e: WaveAllocated, at: At) -> None:
    gone = 0 if e.held else at.seq
    state.waves.put(e.wave, evolve(state.waves[e.wave], allocated=True, held=e.held, gone=gone))


def _tasks(state: State, e: WaveTasks, _: At) -> None:
    wave = state.waves[e.wave]
    state.waves.put(e.wave, evolve(wave, tasks=(*wave.tasks, *e.tasks)))


def _joined(state: State, e: WaveJoined, _: At) -> None:
    wave = state.waves[e.wave]
    state.waves.put(e.wave, evolve(wave, orders=(*wave.orders, e.order)))
    _waits(state, e.order, False)


def _left(state: State, e: WaveLeft, _: At) -> None:
    wave = state.waves[e.wave]
    state.waves.put(e.wave, evolve(wave, orders=tuple(o for o in wave.orders if o != e.order)))
    _waits(state, e.order, True)


def _held(state: State, e: WaveHeld, at: At) -> None:
    wave = state.waves[e.wave]
    state.waves.put(e.wave, evolve(wave, held=e.why, gone=wave.gone or (0 if e.why else at.seq)))


def _cancelled(state: State, e: WaveCancelled, _: At) -> None:
    state.waves.put(e.wave, evolve(state.waves[e.wave], cancelled=e.why))


def _awaited(state: State, e: WaveAwaited, at: At) -> None:
    state.waves_awaited.put(e.plan, Awaited(at.stamp.at + timedelta(minutes=e.after), e.minutes))


def _ran(state: State, e: WaveRan, _: At) -> None:
    state.waves_awaited.put(e.plan, None)


FOLDS = (
    folding(WaveMade, _made),
    folding(WaveAllocated, _allocated),
    folding(WaveTasks, _tasks),
    folding(WaveJoined, _joined),
    folding(WaveLeft, _left),
    folding(WaveHeld, _held),
    folding(WaveCancelled, _cancelled),
    folding(WaveAwaited, _awaited),
    folding(WaveRan, _ran),
)
"""How its events change a state."""
