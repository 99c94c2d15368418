"""How its events change a state: packing."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import PlateNo
from mindful_crate.core.floor.cartons import Carton
from mindful_crate.core.floor.plates import Card, in_bin, on_plate
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve
from mindful_crate.core.work.packing.events import (
    CartonBegun,
    CartonClosed,
    CartonDropped,
    CartonReopened,
    GoodsPacked,
    PlateConfirmed,
    ScaleSet,
)
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At


def _begun(state: State, e: CartonBegun, at: At) -> None:
    stamp = at.stamp
    state.plates.spots.put(e.carton, in_bin(e.at))
    card = Card(e.plate_kind, False, e.by, stamp.at, at.seq, None, None, stamp.device, stamp.at, at.seq)
    state.plates.cards.put(e.carton, card)
    state.cartons.put(e.carton, Carton(e.carton, e.shipment, e.at, at.seq, e.by, e.carton_kind))


def _packed(state: State, e: GoodsPacked, _: At) -> None:
    source = on_plate(e.plate) if e.plate else in_bin(e.source)
    state.ledger.move(e.goods, source, on_plate(e.carton) if e.carton else in_bin(e.to), e.serials)
    if e.emptied and e.plate:
        plate_ends(state, e.plate)


def plate_ends(state: State, number: PlateNo) -> None:
    """A plate with nothing on it is none any more; its label is free."""
    state.plates.goods.put(number, ())
    state.plates.spots.put(number, None)
    state.plates.goods.put(number, None)
    state.plates.cards.put(number, None)


def _confirmed(state: State, e: PlateConfirmed, at: At) -> None:
    state.cartons.put(
        e.plate,
        Carton(e.plate, e.shipment, e.at, at.seq, e.by, as_is=True, closed=at.seq, weight_mg=e.weight_mg),
    )


def _closed(state: State, e: CartonClosed, at: At) -> None:
    carton = state.cartons[e.carton]
    now = evolve(carton, kind=e.carton_kind, closed=at.seq, weight_mg=e.weight_mg, weighed=e.weighed)
    state.cartons.put(e.carton, now)
    state.plates.cards.put(e.carton, evolve(state.plates.cards[e.carton], plate_kind=e.plate_kind))


def _reopened(state: State, e: CartonReopened, _: At) -> None:
    carton = state.cartons[e.carton]
    state.cartons.put(e.carton, None if carton.as_is else evolve(carton, closed=0, weight_mg=0, weighed=None))


def _dropped(state: State, e: CartonDropped, _: At) -> None:
    state.cartons.put(e.carton, None)
    plate_ends(state, e.carton)


def _scale_set(state: State, e: ScaleSet, _: At) -> None:
    state.scales.put(e.station, e.scale)


FOLDS = (
    folding(ScaleSet, _scale_set),
    folding(CartonBegun, _begun),
    folding(GoodsPacked, _packed),
    folding(PlateConfirmed, _confirmed),
    folding(CartonClosed, _closed),
    folding(CartonReopened, _reopened),
    folding(CartonDropped, _dropped),
)
"""How its events change a state."""
