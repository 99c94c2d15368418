"""What may be asked: unloading what comes."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, TruckNo, UnloadingNo
from mindful_crate.core.record import record


@record
class Unload:
    """Something came off a truck and stands in a bin: an announced plate of an order, or so many pallets and packages of it."""

    order: OrderNo
    at: BinCode
    plate: PlateNo | None = None
    count: int = 0
    truck: TruckNo | None = None
    kind: Literal["unload"] = "unload"


@record
class UnloadInOffice:
    """The office unloads: announced plates, pallets and packages, or both, in one act; ``at`` None: where the plan says."""

    order: OrderNo
    plates: tuple[PlateNo, ...] = ()
    count: int = 0
    at: BinCode | None = None
    truck: TruckNo | None = None
    why: str = ""
    kind: Literal["unload_in_office"] = "unload_in_office"


@record
class EndUnloading:
    """Nothing more of what was unloaded is to be received."""

    unloading: UnloadingNo
    why: str
    kind: Literal["end_unloading"] = "end_unloading"


UnloadingAct = Unload | UnloadInOffice | EndUnloading
"""What may be asked."""
