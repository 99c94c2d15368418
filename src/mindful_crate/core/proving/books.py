"""The host's books beside the floor's numbers, line by line of an order."""

from __future__ import annotations

from mindful_crate.core.catalog.goods import Item, OrderLine
from mindful_crate.core.catalog.ids import ItemCode, OrderNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import record
from mindful_crate.core.work.host.decide import in_host


@record
class Booked:
    """A line of an order in the host's books beside the floor's numbers, in base units. The host has received what it accepted; the
    floor says what is noted, has arrived, and what of it the host was told. ``differs`` says in what they do not agree; empty: in
    nothing."""

    line: int
    item: ItemCode
    name: str
    unit: str
    ordered: int
    received: int
    floor_ordered: int | None
    """None: the floor does not know the line."""
    noted: int
    arrived: int
    told: int
    closed: int
    """How much the floor does not wait for any more."""
    differs: str


def books_of(state: State, number: OrderNo) -> tuple[Booked, ...]:
    """What the host believes of each line of an order, and what the floor knows; refused when there is no such order."""
    on_floor = (
        {x.no: x.quantity for x in order.lines} if (order := state.order(number)) and state.is_confirmed(number) else {}
    )
    open_: dict[int, int] = {}  # what the host was told and has not answered; what is settled it has booked
    for receipt in state.receipts.values():
        for part in receipt.lines if receipt.told and not receipt.booked else ():
            if part.order == number:
                open_[part.order_line] = open_.get(part.order_line, 0) + part.quantity
    found: list[Booked] = []
    held = in_host(state, number).held.order
    if not held.inbound:
        return tuple(_gone(state, number, x, on_floor.get(x.no)) for x in held.lines)
    for line in held.lines:
        item, at = state.ground.items[line.item], state.line_progress(number, line.no)
        floor = on_floor.get(line.no)
        sent = at.booked + open_.get(line.no, 0)
        found.append(
            Booked(
                line.no, line.item, item.name, item.base.plural, line.quantity, at.booked, floor, at.noted, at.arrived, sent,
                at.closed, _differs(item, line.quantity, floor, at.booked, at.arrived, sent, at.closed),
            )
        )  # fmt: skip
    return tuple(found)


def _gone(state: State, number: OrderNo, line: OrderLine, floor: int | None) -> Booked:
    """A line that goes out: what left stands for what arrived, what the host has booked of it for what it received."""
    item, at = state.ground.items[line.item], state.line_progress(number, line.no)
    parts = [
        (p, d.booked) for d in state.departures.values() for p in d.parcels if (p.order, p.line) == (number, line.no)
    ]
    booked = sum(p.goods.quantity for p, so in parts if so)
    says = "the floor does not know it" if floor is None else ""
    if floor is not None and floor != line.quantity:
        says = f"the floor was told of {item.told(floor)}"
    if at.shipped > booked:
        says = "; ".join(x for x in (says, f"{item.told(at.shipped - booked)} left that it has not booked") if x)
    return Booked(
        line.no, line.item, item.name, item.base.plural, line.quantity, booked, floor, 0, at.shipped, at.shipped, at.closed, says
    )  # fmt: skip


def _differs(item: Item, ordered: int, floor: int | None, received: int, arrived: int, told: int, closed: int) -> str:
    if floor is None:
        return "the floor does not know it"
    says = []
    if floor != ordered:
        says.append(f"the floor was told of {item.told(floor)}")
    if arrived > told:
        says.append(f"{item.told(arrived - told)} arrived that it was not told of")
    if closed:
        says.append(f"the floor waits for {item.told(closed)} no more")
    if told > received:
        says.append(f"{item.told(told - received)} it was told of and has not booked")
    return "; ".join(says)
