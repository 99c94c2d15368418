"""What stock is free: what may be promised, or taken, without taking it from anybody."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, PlateNo
from mindful_crate.core.catalog.places import PICKED_FROM
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.fit import Lying


def in_storage(state: State, line: Lying) -> bool:
    """Does it lie where goods of the world's site are stored?"""
    zone = state.ground.zones[state.ground.bins[line.bin].zone]
    return zone.site == state.settings.site and zone.purpose in PICKED_FROM


def free_of(state: State, line: Lying) -> int:
    """How much of what lies there is free, in base units: available and in storage, in a bin that is not blocked, kept for nobody."""
    if line.goods.status is not Status.AVAILABLE or not in_storage(state, line) or state.blocked(line.bin):
        return 0
    return max(0, line.goods.quantity - state.reservations.kept_for_good(line))


def unkept(state: State, code: BinCode, plate: PlateNo | None, goods: Goods) -> int:
    """How much of such goods, on a plate or loose in a bin, is kept for nobody, in base units; below 0 where more is kept than lies there."""
    alike = (
        x for x in state.lines(goods.item) if x.plate == plate and (plate or x.bin == code) and x.goods.alike(goods)
    )
    return sum(x.goods.quantity - state.reserved(x) for x in alike)
