"""Classes of orders in sentences, and what wave plans ask of orders alike."""

from __future__ import annotations

from collections.abc import Sequence

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.rulebook.bin_rules import Between
from mindful_crate.core.rulebook.orders import CONDITIONS, OrderClass, OrderWish
from mindful_crate.core.rulebook.waves import Of
from mindful_crate.core.rulebook.words.parts import ORDERS, Names, Part, Sentence, any_of, between, just

OF = {
    Of.ALL: "of which all lines are of",
    Of.ANY: "of which a line is of",
    Of.NONE: "of which no line is of",
}
WISHES = {
    "carriers": "by a carrier",
    "partners": "of some partner",
    "partner_groups": "of a group of partners",
    "groups": "by the groups of their items",
    "order_priority": "of a priority",
    "order_lines": "of a number of lines",
    "order_weight": "of a weight",
}
"""What may be asked of orders, where it is not yet."""
NOTICE = {
    True: "of which the partner wants to be told before",
    False: "whether the partner wants to be told before or not",
}
CLASS_ONLY = {
    "order_kinds": "of a kind",
    "channels": "that came by a channel",
    **WISHES,
    "order_value": "of a worth",
    "notice": "of which the partner wants to be told before",
}


def range_told(name: str, value: Between) -> str:
    """A range of a fact of orders: ``priority at most 3``, ``at least 5 lines``."""
    told = between(value)
    if name == "order_priority":
        return f"priority {told}"
    if name == "order_lines":
        return f"{told} line{'' if value.most == 1 else 's'}"
    return f"{told} kg" if name == "order_weight" else f"a worth of {told}"


def wishes(wish: OrderWish, names: Names, path: str) -> list[list[Part]]:
    """What is asked of orders, each with the words that lead to it."""

    def word(text: str, field: str, name: str = "") -> Part:
        return Part("word", text, f"{path}/{field}", name or field)

    asks: list[list[Part]] = []
    if wish.carriers:
        asks.append([just("by "), word(any_of(wish.carriers), "carriers")])
    if wish.partners:
        asks.append([just("of "), word(any_of(map(names.partner, wish.partners)), "partners")])
    if wish.partner_groups:
        asks.append([just("of "), word(any_of(wish.partner_groups), "partner_groups")])
    if wish.groups:
        asks.append([word(OF[wish.of], "of", "wave_of"), just(" "), word(any_of(wish.groups), "groups")])
    for name in ("order_priority", "order_lines", "order_weight"):
        value: Between = getattr(wish, name)
        if not value.open:
            asks.append([just("of "), word(range_told(name, value), name)])
    return asks


def joined(asks: Sequence[list[Part]]) -> list[Part]:
    """What is asked, with *and* between."""
    parts: list[Part] = []
    for n, each in enumerate(asks):
        parts += [*([just(" and ")] if n else []), *each]
    return parts


def class_sentence(kind: OrderClass, ground: Ground, path: str = "") -> Sentence:
    """One class in words: which orders are of it."""
    asks: list[list[Part]] = []
    if kind.channels:
        asks.append([just("that came by "), Part("word", any_of(kind.channels), f"{path}/channels", "channels")])
    asks += wishes(kind, Names(ground), path)
    if not kind.order_value.open:
        told = range_told("order_value", kind.order_value)
        asks.append([just("of "), Part("word", told, f"{path}/order_value", "order_value")])
    if kind.notice:
        asks.append([Part("word", NOTICE[True], f"{path}/notice", "class_notice")])
    kinds = any_of(ORDERS[k].lower() for k in kind.order_kinds)
    which = Part("word", kinds, f"{path}/order_kinds", "class_kinds") if kinds else just("orders")
    parts = [just("It is for "), which, just(" "), *joined(asks)] if asks else [just("It is for "), which]
    if not asks and not kinds:
        parts = [just("It is for all orders")]
    if any(not asks_for(kind, name) for name in CONDITIONS):
        parts.append(Part("add", "and only" if asks or kinds else "only those", path, "class_only"))
    parts.append(just("."))
    if not kind.on:
        parts.append(just(" Switched off: no order is of it."))
    return tuple(parts)


def asks_for(kind: OrderClass, name: str) -> bool:
    """Does a class ask for something by a condition?"""
    value = getattr(kind, name)
    return not value.open if isinstance(value, Between) else bool(value)
