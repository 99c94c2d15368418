"""What inspections keep track of: how many receipts of an item came from a partner, and of which goods a sample was not as it should be."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import ItemCode, PartnerCode, TaskNo


def pair_key(item: ItemCode, partner: PartnerCode) -> str:
    """An item of a partner."""
    return f"{item} {partner}"


def goods_key(task: TaskNo, goods: Goods) -> str:
    """A kind of goods of a task."""
    return f"{task} {goods.item} {goods.lot} {goods.expiry or ''}"
