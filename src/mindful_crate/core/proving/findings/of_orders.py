"""Findings of classes of orders: those that no order is ever of, that ask for what there is not, and what asks for one that is not there."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from itertools import combinations

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.findings.finding import Finding, blocks, doubt
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.orders import OrderClass, covers


def order_classes(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """All classes of a site, and all that asks for some."""
    mine = book.classes_at(site)
    for kind in mine:
        yield from _asks(kind, ground, f"order_classes/{kind.id}")
    lost: set[str] = set()
    for first, second in combinations(mine, 2):
        if second.id not in lost and covers(first, second):
            lost.add(second.id)
            yield doubt(
                "never_reached", f"order_classes/{second.id}",
                f"No order is ever of class {second.name}: {first.name} stands before it and takes all that fit it.",
            )  # fmt: skip
    known = {c.id for c in book.order_classes}
    off = {str(c.id): c.name for c in book.order_classes if not c.on}
    for part in (p for p in book.asking_for_classes(site) if p.on):
        place = f"{part.place}/{part.field}"
        for each in part.classes:
            if each not in known:
                yield blocks("missing_class", place, f"Class of orders `{each}` does not exist. Choose another.")
            elif each in off:
                yield doubt("class_off", place, f"Class {off[each]} is switched off: this is for no order.")


def _asks(kind: OrderClass, ground: Ground, place: str) -> Iterator[Finding]:
    """What a class asks for that there is not."""
    known: list[tuple[str, Collection[str]]] = [
        ("channels", {c.code for c in ground.opening.channels}),
        ("carriers", {c.code for c in ground.opening.carriers}),
        ("partners", ground.partners),
        ("partner_groups", {p.group for p in ground.partners.values()}),
        ("groups", {i.group for i in ground.items.values()}),
    ]
    for name, there in known:
        for each in getattr(kind, name):
            if each not in there:
                says = f"`{each}` is not in the catalogue: no order is ever of {kind.name} for it."
                yield doubt("missing_value", f"{place}/{name}", says)
    for name in ("order_priority", "order_lines", "order_weight", "order_value"):
        span = getattr(kind, name)
        if span.least is not None and span.most is not None and span.least > span.most:
            yield blocks("empty_range", f"{place}/{name}", "No order is within this range: its ends are turned.")
