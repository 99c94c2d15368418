"""What happens: goods are taken back."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import DeviceId, OrderNo, PartnerCode
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.returns import Marked, ReturnLine
from mindful_crate.core.record import record


@record
class ReturnBegun:
    """On a handset goods of a customer are taken back from now on; ``order``: as announced."""

    device: DeviceId
    partner: PartnerCode
    order: OrderNo | None = None
    kind: Literal["return_begun"] = "return_begun"


@record
class ReturnNoted:
    """A line of it was scanned."""

    device: DeviceId
    line: ReturnLine
    kind: Literal["return_noted"] = "return_noted"


@record
class ReturnLineDropped:
    """A line of it is none."""

    device: DeviceId
    line: int
    kind: Literal["return_line_dropped"] = "return_line_dropped"


@record
class ReturnEnded:
    """Nothing is taken back on that handset any more: it is finished, or was left and nothing is left of it."""

    device: DeviceId
    finished: OrderNo | None = None
    kind: Literal["return_ended"] = "return_ended"


@record
class ReturnMarked:
    """Lines of a return bear these marks."""

    marks: tuple[tuple[LineKey, Marked], ...]
    kind: Literal["return_marked"] = "return_marked"


ReturningEvent = ReturnBegun | ReturnNoted | ReturnLineDropped | ReturnEnded | ReturnMarked
"""What may happen."""
