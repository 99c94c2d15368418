"""The question a list of bin rules answers."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import (
    BinCode,
    PartnerCode,
    PlateKindCode,
    PlateNo,
    ReservationNo,
    SiteCode,
    TaskNo,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.record import evolve, record
from mindful_crate.core.rulebook.bin_rules import BinPurpose, Disposition, UnitForm
from mindful_crate.core.rulebook.steps import BY_RULES, Place


@record
class Nested:
    """A license plate that stands on another, with what it carries."""

    plate_kind: PlateKindCode
    goods: tuple[Goods, ...] = ()
    nested: tuple[Nested, ...] = ()

    def all_goods(self) -> Iterator[Goods]:
        """Everything on it and on the plates it carries."""
        yield from self.goods
        for each in self.nested:
            yield from each.all_goods()


@record
class BinRequest:
    """Which bin for these goods, or from which? ``plate_kind`` is None for loose goods; ``task`` is the work that
    asks, whose own claim does not stand in its way. Quantities are base units, lengths mm."""

    site: SiteCode
    purpose: BinPurpose
    goods: tuple[Goods, ...]
    plate_kind: PlateKindCode | None = None
    plate: PlateNo | None = None
    nested: tuple[Nested, ...] = ()
    """Plates on the plate."""
    form: UnitForm | None = None
    """The form asked for, when it is not what the goods themselves show."""
    order_kind: OrderKind | None = None
    partners: tuple[PartnerCode, ...] = ()
    disposition: Disposition | None = None
    from_bin: BinCode | None = None
    door: BinCode | None = None
    """Where the goods came in."""
    onto: PlateNo | None = None
    """The plate the worker is building."""
    today: date | None = None
    """The site's date; without it no rule by day of the week applies and nothing counts as expired."""
    task: TaskNo | None = None
    without: tuple[BinCode, ...] = ()
    """Bins that have had their share already."""
    holder: ReservationNo | None = None
    """Whose reservation may be taken from."""
    at: Place = BY_RULES
    """A place that the step names itself, instead of the rules of its purpose."""

    @property
    def all_goods(self) -> tuple[Goods, ...]:
        """The goods and those on nested plates."""
        return (*self.goods, *(g for n in self.nested for g in n.all_goods()))

    @property
    def splits(self) -> bool:
        """Can it be split at all? Loose goods of one kind can; a plate goes whole."""
        return self.plate_kind is None and len(self.goods) == 1

    def unit_form(self, ground: Ground) -> UnitForm:
        """Whole plate if on a plate; cases if every quantity is whole in some larger unit; else each."""
        if self.form is not None:
            return self.form
        if self.plate_kind is not None:
            return UnitForm.WHOLE_PLATE
        for goods in self.goods:
            units = ground.items[goods.item].units[1:]
            if not any(goods.quantity % u.quantity == 0 for u in units):
                return UnitForm.EACH
        return UnitForm.CASE

    def of(self, quantity: int) -> BinRequest:
        """The same request for another quantity of its one kind of goods."""
        return evolve(self, goods=(evolve(self.goods[0], quantity=quantity),))


@record
class Load:
    """What goods take up: integer mm3, mg and mm, and license plates."""

    volume_mm3: int
    weight_mg: int
    height_mm: int
    plates: int


def load_of(
    goods: tuple[Goods, ...], plate_kind: PlateKindCode | None, ground: Ground, nested: tuple[Nested, ...] = ()
) -> Load:
    """Load of goods, with their plate if they stand on one, and the plates nested on it.

    The height of a plate is its deck plus the goods spread evenly over its footprint, rounded up; a nested plate
    counts like goods of its own volume. Loose goods are as high as the lowest side of one base unit, since they
    can be laid down.
    """
    volume = weight = 0
    for each in goods:
        v, w = ground.items[each.item].bulk(each.quantity)
        volume, weight = volume + v, weight + w
    if plate_kind is None:
        lowest = [min(u.length_mm, u.width_mm, u.height_mm) for u in (ground.items[g.item].base for g in goods)]
        return Load(volume, weight, max(lowest, default=0), 0)
    for inner in nested:
        load = load_of(inner.goods, inner.plate_kind, ground, inner.nested)
        volume, weight = volume + load.volume_mm3, weight + load.weight_mg
    kind = ground.plate_kinds[plate_kind]
    foot = kind.length_mm * kind.width_mm
    height = kind.deck_mm + -(-volume // foot)
    return Load(foot * height, weight + kind.weight_mg, height, 1)
