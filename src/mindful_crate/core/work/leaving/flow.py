"""The flows by which goods leave: staging, loading, shipping."""

from __future__ import annotations

from itertools import islice
from typing import ClassVar

from mindful_crate.core.floor.answers import Answers
from mindful_crate.core.record import Named
from mindful_crate.core.releasing.onward import Stop
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose
from mindful_crate.core.scanning.kinds import MUCH, Context, FlowKind
from mindful_crate.core.work.leaving import looking
from mindful_crate.core.work.leaving.acts import LoadGoods, ShipShipment, StackPlates, StageGoods
from mindful_crate.core.work.leaving.prompts import (
    BY,
    DOOR,
    LANE,
    ONTO,
    PARTLY,
    SENT,
    TRUCK,
    WHAT,
    called,
    plates_to,
    shipments_with,
)


class StageFlow(FlowKind):
    """A carton or plate after another is brought to its lane; an order or shipment takes all of it that is ready."""

    waits: ClassVar = {Asks.STAGED: (), Asks.LANE: (Asks.STAGED,), Asks.REVIEW: (Asks.STAGED, Asks.LANE)}
    needed = (Asks.STAGED, Asks.LANE)

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        shipment = answers.known(SENT)
        if answers[ONTO]:
            return StackPlates((answers.known(WHAT),), answers[ONTO]), Answers()
        if answers[WHAT]:
            return StageGoods(shipment, answers.known(LANE), (answers.known(WHAT),)), Answers()
        plates = tuple(plates_to(ctx, shipment, (Stop.STAGE,)))
        loose = tuple(looking.loose_of(ctx.state, ctx.rulebook, shipment, (Stop.STAGE,)))
        return StageGoods(shipment, answers.known(LANE), plates, loose), Answers()

    def about_to(self, ctx: Context, answers: Answers) -> tuple[str, ...]:
        if answers[SENT] is not None and answers[ONTO]:
            return f"`{answers[WHAT]}`", f"onto `{answers[ONTO]}`"
        if answers[SENT] is None or answers[LANE] is None:
            return ()
        what = f"`{answers[WHAT]}`" if answers[WHAT] else f"all of {called(ctx, answers.known(SENT))} that is ready"
        return what, f"into `{answers[LANE]}`"

    def open_work(self, ctx: Context) -> int | None:
        return sum(1 for _ in islice(shipments_with(ctx, (Stop.STAGE,)), MUCH))


class LoadFlow(FlowKind):
    """One carton or plate after another goes onto the truck, or a shipment at once."""

    waits: ClassVar = {Asks.TRUCK: (), Asks.LOADED: (Asks.TRUCK,)}
    needed = (Asks.TRUCK, Asks.LOADED)

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        plates = (answers.known(WHAT),) if answers[WHAT] else ()
        act = LoadGoods(answers.known(SENT), answers.known(DOOR), answers[TRUCK], plates)
        return act, answers.only(DOOR, TRUCK)

    def open_work(self, ctx: Context) -> int | None:
        return sum(1 for _ in islice(shipments_with(ctx, (Stop.LOAD,)), MUCH))


class ShipFlow(FlowKind):
    """A shipment is sent off, with its carrier confirmed."""

    waits: ClassVar = {Asks.SHIPPED: (), Asks.CARRIER: (Asks.SHIPPED,), Asks.REVIEW: (Asks.SHIPPED, Asks.CARRIER)}
    needed = (Asks.SHIPPED,)

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        return ShipShipment(answers.known(SENT), answers[BY], answers[PARTLY]), Answers()

    def about_to(self, ctx: Context, answers: Answers) -> tuple[str, ...]:
        if answers[SENT] is None:
            return ()
        asks = any(p.asks is Asks.CARRIER for p in ctx.machine.used(ctx.flow))
        if asks and answers[BY] is None and ctx.ground.carriers:
            return ()
        shipment = answers.known(SENT)
        by = f"with {ctx.ground.carriers[answers.known(BY)].name}" if answers[BY] else ""
        return tuple(x for x in (f"shipment `{shipment}`", called(ctx, shipment), by) if x)

    def open_work(self, ctx: Context) -> int | None:
        return sum(1 for _ in islice(shipments_with(ctx, (Stop.SHIP,)), MUCH))


FLOWS = {FlowPurpose.STAGE: StageFlow(), FlowPurpose.LOAD: LoadFlow(), FlowPurpose.SHIP: ShipFlow()}
"""What they do."""
