"""What is always true of receipts and of how far orders are."""

from __future__ import annotations

from collections import Counter

from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.ledger import Cause
from mindful_crate.core.floor.state import State


def received(state: State) -> list[str]:
    """What entered as receipts is what receipts say."""
    on_receipts: Counter[ItemCode] = Counter()
    for receipt in state.receipts.every():
        for line in receipt.lines if not receipt.undone else ():
            on_receipts[line.item] += line.quantity
    booked = Counter({a.item: n for a, n in state.ledger.accounts.items() if a.cause is Cause.RECEIPT})
    return [
        f"{i}: {booked[i]} entered, {on_receipts[i]} on receipts" for i in on_receipts if booked[i] != on_receipts[i]
    ]


def orders(state: State) -> list[str]:
    """What is noted of an order is what plates being built say; no more arrives than was ordered, but for what was taken as more; and
    what was taken as more is what plates and receipts say."""
    found = []
    noted: Counter[LineKey] = Counter()
    over: Counter[LineKey] = Counter()
    for plate in state.plates.values():
        for on_plate in plate.lines:
            noted[LineKey(on_plate.order, on_plate.order_line)] += on_plate.quantity
            over[LineKey(on_plate.order, on_plate.order_line)] += on_plate.over
    for receipt in state.receipts.every():
        for line in receipt.lines if not receipt.undone else ():
            over[line.key] += line.over
    for order in state.all_orders():
        for of_order in order.lines:
            done = state.line_progress(order.number, of_order.no)
            name = LineKey(order.number, of_order.no)
            if done.noted != noted[name] or min(done.noted, done.arrived, done.booked) < 0:
                found.append(f"{name}: noted {done.noted}, on plates {noted[name]}")
            most = of_order.quantity + done.over
            if done.noted + done.arrived > most or done.booked > done.arrived or done.closed < 0:
                found.append(f"{name}: {done} of {of_order.quantity}")
            if done.over != over[name]:
                found.append(f"{name}: {done.over} more than ordered, {over[name]} on plates and receipts")
    return found
