"""What may be asked: moves inside the site."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import BinCode, FlowId, ItemCode, PlateNo, StockReasonId, TaskNo
from mindful_crate.core.record import record


@record
class TakePlate:
    """Takes up a plate to move it; ``flow`` says by which rules a bin is proposed."""

    flow: FlowId
    plate: PlateNo
    kind: Literal["take_plate"] = "take_plate"


@record
class TakeGoods:
    """Takes goods out of a bin, or off a plate, to move them. Base units."""

    flow: FlowId
    bin: BinCode
    item: ItemCode
    quantity: int
    lot: str = ""
    plate: PlateNo | None = None
    serials: tuple[str, ...] = ()
    """Which pieces, of goods that are kept by serial numbers, where others of the item lie there."""
    kind: Literal["take_goods"] = "take_goods"


@record
class PlacePlates:
    """Places plates that are carried into a bin, or ``on`` a plate that stands there."""

    tasks: tuple[TaskNo, ...]
    bin: BinCode
    on: PlateNo | None = None
    reason: str = ""
    """In words: why there, or why at all."""
    why: StockReasonId | None = None
    """Why they are moved, one of the list."""
    photo: str = ""
    kind: Literal["place_plates"] = "place_plates"


@record
class PlaceGoods:
    """Places carried goods into a bin, or onto a plate there; ``quantity`` None means all of them."""

    flow: FlowId
    task: TaskNo
    bin: BinCode
    plate: PlateNo | None = None
    quantity: int | None = None
    reason: str = ""
    serials: tuple[str, ...] = ()
    """Which of the pieces in hands, where only some are placed there."""
    why: StockReasonId | None = None
    photo: str = ""
    kind: Literal["place_goods"] = "place_goods"


MovingAct = TakePlate | TakeGoods | PlacePlates | PlaceGoods
"""What may be asked."""
