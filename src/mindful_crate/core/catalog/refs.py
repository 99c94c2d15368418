"""How documents and order lines are named: one place makes such a name, one reads it."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from mindful_crate.core.catalog.ids import OrderNo
from mindful_crate.core.plain import Misfit, Plain
from mindful_crate.core.record import Word, maker, record


class DocKind(Word):
    """Kinds of document."""

    ORDER = "order"
    SHIPMENT = "shipment"
    WAVE = "wave"
    UNLOADING = "unloading"
    PLATE = "plate"
    RECEIPT = "receipt"
    TASK = "task"
    COUNT = "count"
    MESSAGE = "message"


@record
class Ref:
    """A document by kind and number."""

    kind: DocKind
    number: str


ref_to: Callable[[DocKind, str], Ref] = maker(Ref)
"""A :class:`Ref`, for folding, which makes many."""


class LineKey(NamedTuple):
    """A line of an order; written ``PO-1007/1``."""

    order: OrderNo
    line: int

    def __str__(self) -> str:
        """As it is written, and kept."""
        return f"{self.order}/{self.line}"

    def to_plain(self) -> Plain:
        """Its text."""
        return str(self)

    @classmethod
    def from_plain(cls, plain: Plain, place: str) -> LineKey:
        """The line of a text; an order number may hold a stroke itself."""
        order, _, line = plain.rpartition("/") if isinstance(plain, str) else ("", "", "")
        if not order or not line.isdigit():
            raise Misfit(place, f"{plain!r} names no order line")
        return cls(OrderNo(order), int(line))


def line_key(order: OrderNo, line: int) -> LineKey:
    """A :class:`LineKey`, for folding, which makes many."""
    return tuple.__new__(LineKey, (order, line))
