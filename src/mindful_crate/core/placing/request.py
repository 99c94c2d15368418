"""The question a list of bin rules answers."""

from __future__ import annotations

from datetime import date

from mindful_crate.core.catalog.goods import OrderKind, Status
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PartnerCode, PlateKindCode, PlateNo, SiteCode, TaskNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import BinPurpose, UnitForm


@record
class Goods:
    """A quantity of one item, lot and status."""

    item: ItemCode
    quantity: int
    lot: str = ""
    expiry: date | None = None
    status: Status = Status.AVAILABLE


@record
class BinRequest:
    """Which bin for these goods? ``plate_kind`` is None for loose goods; ``task`` is the work that asks, whose
    own claim does not stand in its way."""

    site: SiteCode
    purpose: BinPurpose
    goods: tuple[Goods, ...]
    plate_kind: PlateKindCode | None = None
    plate: PlateNo | None = None
    order_kind: OrderKind | None = None
    partners: tuple[PartnerCode, ...] = ()
    from_bin: BinCode | None = None
    task: TaskNo | None = None

    def unit_form(self, ground: Ground) -> UnitForm:
        """Whole plate if on a plate; cases if every quantity is whole in some larger unit; else each."""
        if self.plate_kind is not None:
            return UnitForm.WHOLE_PLATE
        for goods in self.goods:
            units = ground.items[goods.item].units[1:]
            if not any(goods.quantity % u.quantity == 0 for u in units):
                return UnitForm.EACH
        return UnitForm.CASE


@record
class Load:
    """What goods take up: integer mm3, mg and mm, and license plates."""

    volume_mm3: int
    weight_mg: int
    height_mm: int
    plates: int


def load_of(goods: tuple[Goods, ...], plate_kind: PlateKindCode | None, ground: Ground) -> Load:
    """Load of goods, with their plate if they stand on one.

    The height of a plate is its deck plus the goods spread evenly over its footprint, rounded up; loose goods
    are as high as the lowest side of one base unit, since they can be laid down.
    """
    volume = weight = 0
    for each in goods:
        v, w = ground.items[each.item].bulk(each.quantity)
        volume, weight = volume + v, weight + w
    if plate_kind is None:
        lowest = [min(u.length_mm, u.width_mm, u.height_mm) for u in (ground.items[g.item].base for g in goods)]
        return Load(volume, weight, max(lowest, default=0), 0)
    kind = ground.plate_kinds[plate_kind]
    foot = kind.length_mm * kind.width_mm
    height = kind.deck_mm + -(-volume // foot)
    return Load(foot * height, weight + kind.weight_mg, height, 1)
