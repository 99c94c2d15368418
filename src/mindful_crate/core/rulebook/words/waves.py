"""Wave plans in sentences."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.rulebook.orders import OrderClass
from mindful_crate.core.rulebook.times import said_times
from mindful_crate.core.rulebook.waves import Goes, Limits, Method, WavePlan
from mindful_crate.core.rulebook.words.orders import WISHES, joined, wishes
from mindful_crate.core.rulebook.words.parts import Names, Part, Sentence, all_of, any_of, just, within

METHODS = {
    Method.ORDER: "one order at a time",
    Method.CLUSTER: "several orders on a cart, a tote for each",
    Method.BATCH: "all orders together, sorted afterwards",
    Method.ZONES: "zone by zone, the tote handed on",
}
NAMES = {
    Method.ORDER: "order by order",
    Method.CLUSTER: "cluster",
    Method.BATCH: "batch, then sort",
    Method.ZONES: "zone to zone",
}
"""The same in short."""
GOES = {
    Goes.GATHERED: "its orders stand together, and nothing is kept for them until the office says so",
    Goes.HELD: "stock is kept and tasks are made, and held until the office lets them go",
    Goes.LET_GO: "stock is kept, tasks are made and may be taken at once",
}
REFILLS = {True: "is asked for from reserve", False: "stays on its order"}
"""What becomes of what is missing where it is picked."""
WANTED = {
    **WISHES,
    "order_classes": "of a class",
    "within_days": "that leave within so many days",
}
"""What a plan may ask of orders, where it does not yet."""
MOST = {"most_orders": "so many orders", "most_lines": "so many lines", "most_kilograms": "so many kilograms"}
UNITS = {"most_orders": "orders", "most_lines": "lines", "most_kilograms": "kg"}


def wave_sentence(plan: WavePlan, ground: Ground, path: str = "", classes: Iterable[OrderClass] = ()) -> Sentence:
    """One wave plan in words, a line for each of which orders, how they are picked, when, and what follows."""
    names, parts = Names(ground, classes), list[Part]()

    def word(text: str, at: str, field: str) -> Part:
        return Part("word", text, f"{path}/{at}", field)

    def line(text: str) -> None:
        parts.append(Part("text", text, line="in"))

    wants = plan.wants
    asks = wishes(wants, names, f"{path}/wants")
    if wants.order_classes:
        told = any_of(map(names.order_class, wants.order_classes))
        asks.append([just("of class "), word(told, "wants/order_classes", "order_classes")])
    if wants.within_days is not None:
        asks.append([just("that leave "), word(within(wants.within_days), "wants/within_days", "within_days")])
    parts.append(just("It takes released orders "))
    parts += joined(asks)
    if not asks:
        parts.append(just("of any kind"))
    if len(asks) < len(WANTED):
        parts.append(Part("add", "and only" if asks else "only those", f"{path}/wants", "wave_wants"))
    parts += _most(plan.most, path)
    parts.append(just(". "))
    line("They are picked ")
    parts.append(word(METHODS[plan.method], "method", "method"))
    if plan.method in (Method.CLUSTER, Method.ZONES):
        parts += [just(", with "), word(f"{plan.totes} totes", "totes", "totes"), just(" on a cart")]
    elif plan.method is Method.BATCH:
        parts += [just(", with "), word(f"{plan.cart_lines} lines", "cart_lines", "cart_lines"), just(" on a cart")]
    parts += [just(", by "), word(f"{plan.pickers} pickers", "pickers", "pickers"), just(". ")]
    line("It runs ")
    parts.append(
        word(
            f"at {all_of(said_times(plan.times))}" if plan.times else "when the office makes it", "times", "wave_times"
        )
    )
    if plan.times:
        parts += [
            just(" by the site's clock, with what was released "),
            word(f"{plan.cut_off} minutes before" if plan.cut_off else "by then", "cut_off", "cut_off"),
        ]
    parts.append(just("; then "))
    parts += [word(GOES[plan.goes], "goes", "goes"), just(". What is missing where it is picked ")]
    parts += [word(REFILLS[plan.refills], "refills", "refills"), just(".")]
    if not plan.on:
        parts.append(just(" Switched off: it takes nothing."))
    return tuple(parts)


def _most(most: Limits, path: str) -> list[Part]:
    parts: list[Part] = []
    for name, unit in UNITS.items():
        value = getattr(most, name)
        if value is not None:
            parts += [
                just(" and " if parts else ", at most "),
                Part("word", f"{value:,} {unit}", f"{path}/most/{name}", name),
            ]
    if any(getattr(most, name) is None for name in UNITS):
        parts.append(Part("add", "but at most", f"{path}/most", "wave_most"))
    return parts
