"""Shipment plans: which steps goods that go out take from the bin to the truck, and where each happens."""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import ShipPlanId, SiteCode
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.steps import ANYTHING, BY_RULES, Only, Place


class Rest(StrEnum):
    """What becomes of what an order lacks when it is shipped in part."""

    BACK_ORDER = "back_order"
    """It stays open, and leaves later."""
    CLOSE = "close"
    """It is not waited for any more."""


class Station(StrEnum):
    """Where goods stop on their way out, after they were picked."""

    SORT = "sort"
    PACK = "pack"
    STAGE = "stage"
    LOAD = "load"


STATION_RULES = {
    Station.SORT: BinPurpose.SORT_AT,
    Station.PACK: BinPurpose.PACK_AT,
    Station.STAGE: BinPurpose.STAGE_AT,
    Station.LOAD: BinPurpose.LOAD_AT,
}
"""The rules that find a bin of each."""


@record
class StationStep:
    """A step after picking: switched on, and where."""

    on: bool = False
    at: Place = BY_RULES


OFF = StationStep()


@record
class ShipPlan:
    """The steps of some goods that go out: those of ``order_kind``, or of all orders when it is None; of them ``only`` some. Goods are always
    shipped in the end."""

    id: ShipPlanId
    name: str
    picks: bool = True
    """Is it picked? Else it is shipped from where it lies, and nothing is fetched."""
    sort: StationStep = OFF
    pack: StationStep = OFF
    stage: StationStep = OFF
    load: StationStep = OFF
    order_kind: OrderKind | None = None
    site: SiteCode | None = None
    only: Only = ANYTHING
    on: bool = True
    apart: bool = True
    """May lines of an order be released apart?"""
    rest: Rest = Rest.BACK_ORDER

    def step(self, station: Station) -> StationStep:
        """The step at a station."""
        found: StationStep = getattr(self, station.value)
        return found

    @property
    def stations(self) -> tuple[Station, ...]:
        """Those that are on, in the order goods take them."""
        return tuple(s for s in Station if self.step(s).on)

    def after_picking(self, sorted_: bool) -> Station | None:
        """Where goods are brought first; past the sort station when they were picked order by order. None: nowhere, they are shipped from
        where they are set down."""
        return next((s for s in self.stations if sorted_ or s is not Station.SORT), None)
