"""Shipments as the chain tells them."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.ids import ShipmentNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import TaskState
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.work.papers import Doc, PaperKind, Papers, Stage


class ShipmentPaper(PaperKind):
    """Shipments: made, and shipped one day."""

    kind = DocKind.SHIPMENT

    def there(self, state: State, number: str) -> bool:
        return ShipmentNo(number) in state.shipments

    def all(self, state: State) -> Iterable[str]:
        return iter(state.shipments)

    def before(self, state: State, number: str) -> tuple[Ref, ...]:
        return tuple(Ref(DocKind.ORDER, o) for o in state.shipments[ShipmentNo(number)].orders)

    def since(self, state: State, number: str) -> int:
        return state.shipments[ShipmentNo(number)].seq

    def doc(self, papers: Papers, number: str) -> Doc:
        state = papers.state
        shipment = state.shipments[ShipmentNo(number)]
        how, orders = shipment.leaves, shipment.orders
        partner = state.ground.partners.get(how.partner)
        by = f" by {how.carrier}{f', {how.service}' if how.service else ''}" if how.carrier else ""
        count = "1 order" if len(orders) == 1 else f"{len(orders)} orders"
        says = f"{count} for {partner.name if partner else how.partner}{by}, leaves on {how.day.isoformat()}"
        tasks = [
            t.state for o in orders for w in state.waves.of_order(o) for n in w.tasks
            if (t := state.tasks[n]).state is not TaskState.CANCELLED and o in t.plan.orders
        ]  # fmt: skip
        done = sum(s is TaskState.DONE for s in tasks)
        far = f"{done} of {counted(len(tasks), 'task')}" if tasks else ""
        picked = Stage("picked", bool(tasks) and done == len(tasks), 0, far)
        left = state.departures.get(shipment.number)
        cartons = state.cartons.of(shipment.number)
        closed = sum(c.closed > 0 for c in cartons)
        packed = Stage("packed", closed == len(cartons), 0, f"{closed} of {counted(len(cartons), 'carton')} closed")
        if left is not None:
            picked, packed = Stage("picked", True, 0), Stage("packed", True, 0)
            cartons = [b.carton for b in left.bearers if b.carton]
        stages = (
            Stage("made", True, shipment.seq),
            picked,
            *([packed] if cartons else []),
            Stage("shipped", left is not None, left.seq if left else 0),
            *([Stage("booked", left.booked > 0, left.booked, left.refused)] if left else []),
        )
        return Doc(self.kind, shipment.number, says, stages, self.before(state, number))


PAPERS = (ShipmentPaper(),)
"""Its documents."""
