"""What happens: unloading what comes."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import BinCode, OrderNo, PersonId, PlateNo, TruckNo, UnloadingNo
from mindful_crate.core.record import record


@record
class GoodsUnloaded:
    """Something came off a truck and stands in a bin; it is not stock. One that goes on has the number of the one begun."""

    unloading: UnloadingNo
    order: OrderNo
    at: BinCode
    by: PersonId
    plates: tuple[PlateNo, ...] = ()
    count: int = 0
    truck: TruckNo | None = None
    arrived: int = 0
    """How much of the order had arrived or was noted before it was begun, over all lines, in base units."""
    kind: Literal["goods_unloaded"] = "goods_unloaded"


@record
class UnloadingEnded:
    """Nothing more of what was unloaded is to be received."""

    unloading: UnloadingNo
    why: str
    kind: Literal["unloading_ended"] = "unloading_ended"


UnloadingEvent = GoodsUnloaded | UnloadingEnded
"""What may happen."""
