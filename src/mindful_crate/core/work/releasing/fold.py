"""How its events change a state: gates of orders, releases, shipments."""

from __future__ import annotations

from mindful_crate.core.floor.shipments import Release, Shipment, WordSaid
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.waves import ByClock, awaiting
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.gates import GateKind, Placed
from mindful_crate.core.work.releasing.events import (
    GateGiven,
    GatesGiven,
    OrderReleased,
    ReleaseAwaited,
    ReleaseUndone,
    ShipmentMade,
    WordGiven,
    WordsLapsed,
)
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At


def _gates_given(state: State, e: GatesGiven, _: At) -> None:
    state.gates_given.put(e.order, e.row)


def _gate_given(state: State, e: GateGiven, _: At) -> None:
    """In the place of the one its cover had before, else last."""
    row = list(state.gates_given.get(e.order, ()))
    at = next((n for n, p in enumerate(row) if p.gate.kind is GateKind.COVER), len(row))
    row[at : at + 1] = [Placed(e.gate, e.whence)] if e.gate else []
    state.gates_given.put(e.order, tuple(row))


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
    state.runs_awaited.put(ByClock.RELEASES, awaiting(at.stamp.at, e.minutes))


FOLDS = (
    folding(ReleaseAwaited, _awaited),
    folding(GatesGiven, _gates_given),
    folding(GateGiven, _gate_given),
    folding(WordGiven, _word_given),
    folding(WordsLapsed, _lapsed),
    folding(ShipmentMade, _shipment_made),
    folding(OrderReleased, _released),
    folding(ReleaseUndone, _undone),
)
"""How its events change a state."""
