"""All kinds of prompt, by what they ask; and which of them a flow of a purpose has use for."""

from __future__ import annotations

from mindful_crate.core.rulebook.flows import Asks, Flow, FlowPurpose, Prompt
from mindful_crate.core.scanning.kinds import Kind
from mindful_crate.core.work.looking.prompts import LookKind
from mindful_crate.core.work.moving.from_prompts import CountKind, FromKind, GoodsKind, LotThereKind
from mindful_crate.core.work.moving.to_prompts import PartKind, PlatesKind, ToKind
from mindful_crate.core.work.putting.prompts import BinKind, TaskKind
from mindful_crate.core.work.receiving.prompts import (
    ExpiryKind,
    ItemKind,
    LotKind,
    OrderKind,
    PlateKindOfPrompt,
    QuantityKind,
)

KINDS: dict[Asks, Kind] = {
    Asks.ORDER: OrderKind(),
    Asks.PLATE: PlateKindOfPrompt(),
    Asks.ITEM: ItemKind(),
    Asks.EXPIRY: ExpiryKind(),
    Asks.LOT: LotKind(),
    Asks.QUANTITY: QuantityKind(),
    Asks.TASK: TaskKind(),
    Asks.BIN: BinKind(),
    Asks.FROM: FromKind(),
    Asks.GOODS: GoodsKind(),
    Asks.LOT_THERE: LotThereKind(),
    Asks.COUNT: CountKind(),
    Asks.PART: PartKind(),
    Asks.PLATES: PlatesKind(),
    Asks.TO: ToKind(),
    Asks.LOOK: LookKind(),
}
WAITS: dict[FlowPurpose, dict[Asks, tuple[Asks, ...]]] = {
    FlowPurpose.RECEIVE: {
        Asks.ORDER: (), Asks.PLATE: (), Asks.ITEM: (Asks.ORDER,), Asks.EXPIRY: (Asks.ITEM,), Asks.LOT: (Asks.ITEM,),
        Asks.QUANTITY: (Asks.ITEM,),
    },
    FlowPurpose.PUT_AWAY: {Asks.TASK: (), Asks.BIN: (Asks.TASK,)},
    FlowPurpose.MOVE_PLATES: {Asks.PLATES: (), Asks.TO: (Asks.PLATES,)},
    FlowPurpose.MOVE_GOODS: {
        Asks.FROM: (), Asks.GOODS: (), Asks.LOT_THERE: (Asks.FROM, Asks.GOODS), Asks.COUNT: (Asks.GOODS,), Asks.PART: (),
        Asks.TO: (Asks.FROM, Asks.GOODS, Asks.LOT_THERE, Asks.COUNT),
    },
    FlowPurpose.LOOK_UP: {Asks.LOOK: ()},
}  # fmt: skip
"""The prompts a flow of a purpose has use for, and what must be answered before each. A prompt that stands too early waits
for what it hangs on; one that the purpose has no use for is passed over. So no order of prompts ends in an error."""
NEEDED: dict[FlowPurpose, tuple[Asks, ...]] = {
    FlowPurpose.RECEIVE: (Asks.ORDER, Asks.ITEM, Asks.QUANTITY),
    FlowPurpose.PUT_AWAY: (Asks.TASK, Asks.BIN),
    FlowPurpose.MOVE_PLATES: (Asks.PLATES, Asks.TO),
    FlowPurpose.MOVE_GOODS: (Asks.FROM, Asks.GOODS, Asks.COUNT, Asks.TO),
    FlowPurpose.LOOK_UP: (Asks.LOOK,),
}
"""What a flow must ask to do its work."""


def used(flow: Flow) -> list[Prompt]:
    """The prompts of a flow that its purpose has use for, in their order."""
    return [p for p in flow.prompts if p.asks in WAITS[flow.purpose]]


def waits_for(flow: Flow, prompt: Prompt) -> list[Asks]:
    """What a prompt waits for: what it hangs on, as far as the flow asks for it."""
    asked = {p.asks for p in flow.prompts}
    return [a for a in WAITS[flow.purpose].get(prompt.asks, ()) if a in asked]


def lacking(flow: Flow) -> list[Asks]:
    """What a flow would have to ask besides, to do its work."""
    asked = {p.asks for p in flow.prompts}
    return [a for a in NEEDED[flow.purpose] if a not in asked]


def called(asks: Asks) -> str:
    """What a prompt asks for, in a word."""
    return asks.value.replace("_", " ")
