"""What happens: orders get a gate, are released into shipments, and are taken back."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import GateId, OrderNo, ShipmentNo
from mindful_crate.core.floor.shipments import Leaves
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.gates import Gate, GateVerdict, Placed


@record
class GatesGiven:
    """An order that reached the floor comes to these gates, as they are now, one after another."""

    order: OrderNo
    row: tuple[Placed, ...]
    kind: Literal["gates_given"] = "gates_given"


@record
class GateGiven:
    """An order has this gate, or none, for its cover from now on; the others stay. ``why``: somebody's reason; empty in logs of before orders
    came to gates in a row, when it came with the order."""

    order: OrderNo
    gate: Gate | None
    whence: str
    why: str = ""
    kind: Literal["gate_given"] = "gate_given"


@record
class WordGiven:
    """Somebody said yes or no to an order at a gate that asks for it."""

    order: OrderNo
    gate: GateId
    name: str
    yes: bool
    why: str = ""
    kind: Literal["word_given"] = "word_given"


@record
class WordsLapsed:
    """What was said to an order at its gates holds no more."""

    order: OrderNo
    why: str
    kind: Literal["words_lapsed"] = "words_lapsed"


@record
class ShipmentMade:
    """A shipment is made. ``joins``: orders that leave alike may join it."""

    shipment: ShipmentNo
    leaves: Leaves
    joins: bool
    kind: Literal["shipment_made"] = "shipment_made"


@record
class OrderReleased:
    """An order is released into a shipment; ``passed``: why it was let past a gate that stopped it. ``waits``: a wave will keep stock for
    it. ``lines``: of these lines alone; none: of all."""

    order: OrderNo
    shipment: ShipmentNo
    verdict: GateVerdict
    gate: str
    rate: str
    passed: str = ""
    waits: bool = False
    lines: tuple[int, ...] = ()
    kind: Literal["order_released"] = "order_released"


@record
class ReleaseUndone:
    """An order is released no more; a shipment without orders is none."""

    order: OrderNo
    why: str
    kind: Literal["release_undone"] = "release_undone"


@record
class ReleaseAwaited:
    """Orders wait to be released by the clock at one of these minutes of the day; none: nobody waits any more."""

    minutes: tuple[int, ...]
    kind: Literal["release_awaited"] = "release_awaited"


ReleasingEvent = (
    GatesGiven | GateGiven | WordGiven | WordsLapsed | ShipmentMade | OrderReleased | ReleaseUndone | ReleaseAwaited
)
"""What may happen."""
