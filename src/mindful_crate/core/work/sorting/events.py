"""What happens: goods are sorted."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, OrderNo, PersonId, PlateKindCode, PlateNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.record import record


@record
class GoodsSorted:
    """Goods of an order went from where they were sorted to the order's place: a bin, or a tote that stands in it. ``tote_kind``: the tote is
    a plate from now on, of this kind."""

    by: PersonId
    order: OrderNo
    source: BinCode
    place: BinCode
    goods: tuple[Goods, ...]
    tote: PlateNo | None = None
    tote_kind: PlateKindCode | None = None
    serials: tuple[Serials, ...] = ()
    kind: Literal["goods_sorted"] = "goods_sorted"


@record
class SortingShort:
    """Goods that were to be sorted for an order line are not where they were set down."""

    by: PersonId
    line: LineKey
    at: BinCode
    goods: tuple[Goods, ...]
    why: str
    kind: Literal["sorting_short"] = "sorting_short"


SortingEvent = GoodsSorted | SortingShort
"""What may happen."""
