"""The page of orders: which classes there are."""

from __future__ import annotations

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.rulebook.chapter import (
    Add,
    Chapter,
    Draw,
    Fact,
    Option,
    Row,
    Section,
    copy_act,
    layer_acts,
    remove_act,
    switch_act,
)
from mindful_crate.core.rulebook.orders import OrderClass
from mindful_crate.core.rulebook.settings import Level
from mindful_crate.core.rulebook.words.orders import class_sentence
from mindful_crate.core.rulebook.words.parts import ORDERS


def draw(what: Draw, tab: str) -> Chapter:
    """All classes, in the order in which they are asked, and where each is asked for."""
    mine = [c for c in what.book.order_classes if c.site in (None, what.site)]
    kinds = tuple(
        Option(k.value, ORDERS[k].lower())
        for k in (OrderKind.SALES, *(k for k in OrderKind if k is not OrderKind.SALES))
    )
    classes = Section(
        "classes", "cards", empty="There is no class: of orders only their kind is asked, which the host gives them.", called="Class", ordered=True,
        add=(Add("Add a class of", "order_classes", "A class was added.", kinds),), rows=tuple(_class(what, c) for c in mine),
    )  # fmt: skip
    asking = list(what.book.asking_for_classes(what.site))
    facts = tuple(
        Fact(c.name, "Asked for by", a.name, Level.OWN, "", "", *_shown(a.place))
        for c in mine
        for a in asking
        if c.id in a.classes
    )
    uses = Section(
        "uses",
        "facts",
        "Where classes are asked for",
        "A class that nothing asks for is seen on lists alone.",
        facts=facts,
    )
    lead = (
        "What an order is by rule, beside the kind the host gives it: an order is of the first class that takes it. Step plans, shipment plans, gates, "
        "releases by the clock, wave plans and rules of packing may be for a class alone; lists of orders name it."
    )
    return Chapter("classes", "Order classes", lead, sections=(classes, *([uses] if facts else [])), bench="classes")


def _class(what: Draw, kind: OrderClass) -> Row:
    path = f"order_classes/{kind.id}"
    return Row(
        kind.id, path, what.parts(class_sentence(kind, what.ground, path)), what.word(kind.name, f"{path}/name", "name"), off=not kind.on,
        notes=what.notes(path), for_all=kind.site is None,
        acts=(
            switch_act(f"{path}/on", kind.on, kind.name), copy_act(path, f"{kind.name} was copied."),
            *layer_acts(path, kind.name, kind, what.site), remove_act(path, f"{kind.name} was removed."),
        ),
    )  # fmt: skip


SHOWN = {
    "step_plans": ("Steps", "steps"), "ship_plans": ("Steps", "steps"), "gates": ("Gates", "gates"), "release_runs": ("Gates", "gates"),
    "wave_plans": ("Waves", "waves"), "pack_rules": ("Packing", "packing"),
}  # fmt: skip
"""The chapters that show what asks for classes."""


def _shown(place: str) -> tuple[str, str]:
    """The chapter of a part, and the link to it there."""
    list_, _, part = place.partition("/")
    title, chapter = SHOWN[list_]
    return title, f"{chapter}/{part}"
