"""How its events change a state: gates of orders, releases, shipments."""

from __future__ import annotations

from mindful_crate.core.floor.shipments import GivenGate, Release, Shipment, WordSaid
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.waves import Awaited
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.gates import GateKind, Placed
from mindful_crate.core.work.releasing.events import (
    GateGiven,
    OrderReleased,
    ReleaseAwaited,
    ReleaseUndone,
    ShipmentMade,
    WordGiven,
    WordsLapsed,
)
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At

BY_CLOCK = "by the clock"
"""Under which name the floor knows when orders are released next."""


def _gate_given(state: State, e: GateGiven, _: At) -> None:
    state.gates_given.put(e.order, GivenGate(e.order, e.gate, e.whence, e.row or _instead(state, e)))


def _instead(state: State, e: GateGiven) -> tuple[Placed, ...]:
    """The row of an order with this gate for its cover, in the place of the one before."""
    before = state.gates_given.get(e.order)
    row = list(before.row) if before else []
    at = next((n for n, p in enumerate(row) if p.gate.kind is GateKind.COVER), len(row))
    row[at : at + 1] = [Placed(e.gate, e.whence)] if e.gate else []
    return tuple(row)


def _word_given(state: State, e: WordGiven, at: At) -> None:
    others = tuple(w for w in state.words_said.get(e.order, ()) if w.gate != e.gate)
    said = WordSaid(e.gate, e.yes, at.stamp.who, at.stamp.at, e.why)
    state.words_said.put(e.order, (*others, said))


def _lapsed(state: State, e: WordsLapsed, _: At) -> None:
    state.words_said.put(e.order, None)


def _shipment_made(state: State, e: ShipmentMade, at: At) -> None:
    state.shipments.put(e.shipment, Shipment(e.shipment, e.leaves, (), e.joins, at.seq))


def _released(state: State, e: OrderReleased, at: At) -> None:
    before = state.releases.get(e.order)
    passed = e.passed or (before.passed if before else "")
    release = Release(
        e.order, e.shipment, e.verdict, e.gate, e.rate, at.stamp.who, at.seq, passed, e.waits, at.stamp.at, e.lines
    )  # fmt: skip
    state.releases.put(e.order, release)
    if before is None:
        shipment = state.shipments[e.shipment]
        state.shipments.put(e.shipment, evolve(shipment, orders=(*shipment.orders, e.order)))


def _undone(state: State, e: ReleaseUndone, _: At) -> None:
    shipment = state.shipments[state.releases[e.order].shipment]
    left = tuple(o for o in shipment.orders if o != e.order)
    state.shipments.put(shipment.number, evolve(shipment, orders=left) if left else None)
    state.releases.put(e.order, None)


def _awaited(state: State, e: ReleaseAwaited, at: At) -> None:
    state.releases_awaited.put(BY_CLOCK, Awaited(at.stamp.at, e.minutes) if e.minutes else None)


FOLDS = (
    folding(ReleaseAwaited, _awaited),
    folding(GateGiven, _gate_given),
    folding(WordGiven, _word_given),
    folding(WordsLapsed, _lapsed),
    folding(ShipmentMade, _shipment_made),
    folding(OrderReleased, _released),
    folding(ReleaseUndone, _undone),
)
"""How its events change a state."""
