"""Shipment plans in sentences."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.goods import INBOUND, OrderKind
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.rulebook.orders import OrderClass
from mindful_crate.core.rulebook.shipping import Rest, ShipPlan, Station
from mindful_crate.core.rulebook.words.parts import ORDERS, Names, Sentence, just
from mindful_crate.core.rulebook.words.steps import Lines, say_only

OUTBOUND = {k: says for k, says in ORDERS.items() if k not in INBOUND}
"""Kinds of order whose goods go out."""
APART = {True: "may be released one by one", False: "are released together"}
REST = {
    Rest.BACK_ORDER: "stays open, and leaves later",
    Rest.CLOSE: "is not waited for any more",
}
"""What becomes of what an order lacks when it is shipped in part."""
PICKED_AT_ALL = {True: "They are picked", False: "They are not picked: they leave from where they lie"}
AT = {
    Station.SORT: {True: "They are sorted", False: "There is no step to sort them"},
    Station.PACK: {True: "They are packed", False: "There is no step to pack them"},
    Station.STAGE: {True: "They are staged", False: "There is no step to stage them"},
    Station.LOAD: {True: "They are loaded", False: "There is no step to load them"},
}
"""Whether goods stop at a station."""
AFTER = {Station.SORT: " where they were picked for several orders at once"}
NAMES = {Station.SORT: "Sort", Station.PACK: "Pack", Station.STAGE: "Stage", Station.LOAD: "Load"}


def ship_sentence(
    plan: ShipPlan, path: str = "", ground: Ground | None = None, classes: Iterable[OrderClass] = ()
) -> Sentence:
    """One shipment plan in words, a line a step."""
    says = Lines(path, Names(ground, classes) if ground else None, ())
    kind = OUTBOUND[plan.order_kind] if plan.order_kind else "All orders that go out"
    says.say(says.word(kind, "order_kind", "order_kind_out"))
    say_only(says, plan.only)
    says.say(". Lines of an order ", says.word(APART[plan.apart], "apart", "apart"))
    says.say(". " if plan.on else ". Switched off: it is for nothing. ")
    says.line(says.word(PICKED_AT_ALL[plan.picks], "picks", "picks"))
    if plan.picks:
        says.say(" by the recipes that pick")
    says.say(". ")
    for station in Station:
        step, at = plan.step(station), station.value
        says.line(says.word(AT[station][step.on], f"{at}/on", f"{at}_on"))
        if step.on:
            says.say(AFTER.get(station, ""), " at ", says.place(step.at, f"{at}/at", f"{at}_at"))
        says.say(". ")
    says.line(just("When it is shipped in part, what it lacks "))
    says.say(says.word(REST[plan.rest], "rest", "rest"), ". ")
    return tuple(says.parts)


def kind_of(value: OrderKind | None) -> str:
    """What a plan is called at first."""
    return OUTBOUND[value] if value else "All that goes out"
