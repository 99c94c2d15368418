"""Packing: words, invariants, and its row among the matters."""

from __future__ import annotations

from mindful_crate.core.floor.plates import Holder
from mindful_crate.core.floor.state import State
from mindful_crate.core.work.packing.acts import (
    BeginCarton,
    CloseCarton,
    PackAsIs,
    PackInto,
    PackRest,
    PackShort,
    ReopenCarton,
    SetScale,
    TakeOut,
)
from mindful_crate.core.work.packing.decide import DECIDES, after
from mindful_crate.core.work.packing.events import (
    CartonBegun,
    CartonClosed,
    CartonDropped,
    CartonReopened,
    GoodsPacked,
    PlateConfirmed,
    ScaleSet,
)
from mindful_crate.core.work.packing.flow import FLOWS
from mindful_crate.core.work.packing.fold import FOLDS
from mindful_crate.core.work.packing.looking import kilos
from mindful_crate.core.work.packing.prompts import PROMPTS
from mindful_crate.core.work.rows import Matter, telling


def cartons_are_plates(state: State) -> list[str]:
    """A carton is a plate that stands somewhere, of a shipment that has not left; what is in it is kept for orders of that shipment, all of it."""
    found = []
    for carton in state.cartons.values():
        shipment = state.shipments.get(carton.shipment)
        if shipment is None or shipment.left:
            found.append(f"carton {carton.number} is of {carton.shipment}, which is not here")
        spot = state.plates.spot(carton.number)
        if spot is None or spot.holder is Holder.TRANSIT:
            found.append(f"carton {carton.number} stands nowhere")
    for lying_order, plate in (
        (r.order, p.plate) for r in state.reservations.values() for p in r.parts if p.plate in state.cartons
    ):
        release = state.releases.get(lying_order) if lying_order else None
        if release is None or plate is None or release.shipment != state.cartons[plate].shipment:
            found.append(f"{plate} holds goods of {lying_order}, which leaves otherwise")
    return found


def _packed(e: GoodsPacked) -> str:
    goods = ", ".join(f"{g.quantity} of `{g.item}`" for g in e.goods)
    if e.carton is None:
        return f"{goods} of `{e.order}` out of `{e.plate}`, loose in `{e.to}`"
    return f"{goods} of `{e.order}` into `{e.carton}`"


def _closed(e: CartonClosed) -> str:
    kind = f" {e.carton_kind}," if e.carton_kind else ""
    return (
        f"carton `{e.carton}` closed:{kind} {kilos(e.weight_mg)} by {e.weighed.value}, {kilos(e.should_mg)} by its list"
    )


def _scale(e: ScaleSet) -> str:
    if e.scale.down:
        return f"the scale of `{e.station}` is down"
    reads = f"reads {kilos(e.scale.typed_mg)}" if e.scale.typed_mg is not None else "reads what lies on it"
    drift = f", and {kilos(e.scale.drift_mg)} more" if e.scale.drift_mg else ""
    return f"the scale of `{e.station}` {reads}{drift}"


def _how_many(quantity: int, order: str) -> str:
    return f"{quantity} of a line of `{order}`"


PACKING = Matter(
    "packing",
    DECIDES,
    FOLDS,
    (
        telling(CartonBegun, lambda e: f"carton `{e.carton}` begun in `{e.at}`, for `{e.shipment}`"),
        telling(GoodsPacked, _packed),
        telling(PlateConfirmed, lambda e: f"`{e.plate}` leaves as it is, for `{e.shipment}`"),
        telling(CartonClosed, _closed),
        telling(CartonReopened, lambda e: f"carton `{e.carton}` is open again"),
        telling(CartonDropped, lambda e: f"empty carton `{e.carton}` is none any more"),
        telling(ScaleSet, _scale),
    ),
    flows=FLOWS,
    prompts=PROMPTS,
    asked=(
        telling(BeginCarton, lambda a: f"The office begins a carton for `{a.shipment}`"),
        telling(PackInto, lambda a: f"The office packs {_how_many(a.quantity, a.order)}"),
        telling(PackRest, lambda a: f"The office packs what is left of `{a.order or a.shipment}`"),
        telling(PackAsIs, lambda a: f"The office lets `{a.plate}` leave as it is"),
        telling(TakeOut, lambda a: f"The office takes {_how_many(a.quantity, a.order)} out of `{a.carton}`"),
        telling(CloseCarton, lambda a: f"The office closes carton `{a.carton}`"),
        telling(ReopenCarton, lambda a: f"The office opens carton `{a.carton}` again"),
        telling(PackShort, lambda a: f"The office closes the packing of `{a.order}` short: {a.why}"),
        telling(SetScale, lambda a: f"The scale of `{a.station}` is set"),
    ),
    makes={"plate": (telling(CartonBegun, lambda e: e.carton),)},
    invariants=(cartons_are_plates,),
    after=after,
)
"""What it brings."""
