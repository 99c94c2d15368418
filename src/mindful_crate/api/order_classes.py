"""Classes of orders: of which each open order is by a draft, and why."""

from __future__ import annotations

from flask import current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.benches import asked_state
from mindful_crate.api.doors import needs
from mindful_crate.api.drafts import seen_draft
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.proving.class_bench import Sorted, sorted_orders
from mindful_crate.core.rulebook.words.parts import ORDER_KINDS, Names

api = APIBlueprint("order_classes", __name__, url_prefix="/api", abp_tags=[Tag(name="benches")], doc_ui=WITH_DOCUMENT)
MOST = 200
"""So many orders are told at once."""
NONE = "-"
"""Asks for orders of no class."""


class ClassesBody(Body):
    """On which floor, or on the opening state; and orders of one class alone, of none (``-``), or of more than one that would take them."""

    world: str | None = Field(default=None, max_length=80)
    of: str = Field(default="", max_length=40)
    twice: bool = False


class NotOfView(Answer):
    """A class that does not take an order, and why."""

    name: str
    says: str


class SortedView(Answer):
    """An open order, its class (empty: none), classes after that which would take it too, and why others would not."""

    order: str
    partner: str
    kind: str
    of: str
    name: str
    fits: list[str]
    others: list[NotOfView]


class CountedView(Answer):
    """A class and how many open orders are of it."""

    id: str
    name: str
    orders: int


class ClassesView(Answer):
    """Open orders as asked for, how many of each class, and how many more than one class would take."""

    orders: list[SortedView]
    total: int
    classes: list[CountedView]
    none: int
    twice: int


@api.post("/drafts/<id>/bench/classes", responses={200: ClassesView, **PROBLEMS})
@needs(Right.LOOK)
def bench_classes(path: ById, body: ClassesBody) -> ClassesView:
    """Of which class each open order is. Nothing is stored."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, body.world) as state:
            names, every = Names(state.ground), sorted_orders(state, found.rulebook)
            site = state.settings.site
    wanted = [
        s
        for s in every
        if (not body.of or (s.mine.id if s.mine else NONE) == body.of) and (not body.twice or bool(s.fits))
    ]
    return ClassesView(
        orders=[_view(s, names) for s in wanted[:MOST]],
        total=len(wanted),
        classes=[
            CountedView(id=c.id, name=c.name, orders=sum(s.mine is c for s in every))
            for c in found.rulebook.classes_at(site)
        ],
        none=sum(s.mine is None for s in every),
        twice=sum(bool(s.fits) for s in every),
    )


def _view(s: Sorted, names: Names) -> SortedView:
    order = s.order
    return SortedView(
        order=order.number, partner=names.partner(order.partner), kind=ORDER_KINDS[order.kind], of=s.mine.id if s.mine else "",
        name=s.mine.name if s.mine else "", fits=list(s.fits), others=[NotOfView(name=o.name, says=o.says) for o in s.others],
    )  # fmt: skip
