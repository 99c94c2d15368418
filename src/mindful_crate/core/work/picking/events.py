"""What happens while goods are picked."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import ReservationNo
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.record import record


@record
class KeptMoved:
    """What a reservation holds is elsewhere now; it is as much as before."""

    reservation: ReservationNo
    parts: tuple[Reserved, ...]
    kind: Literal["kept_moved"] = "kept_moved"


PickingEvent = KeptMoved
"""What may happen."""
