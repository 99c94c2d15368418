"""A small made-up site for properties: a handful of bins of all kinds, three items, random stock and rules."""

from __future__ import annotations

from datetime import UTC, datetime

from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import Item, ItemUnit, StockRow, Tracking
from mindful_crate.core.catalog.opening import Ground, Opening
from mindful_crate.core.catalog.places import Bin, BinType, PlateKind, PlateNeed, Site, Zone, ZonePurpose
from mindful_crate.core.placing.request import BinRequest, Goods
from mindful_crate.core.rulebook.bin_rules import (
    BinPurpose,
    BinRule,
    Conditions,
    IfNothing,
    LookIn,
    Prefer,
    Target,
    UnitForm,
    Wants,
)
from mindful_crate.core.world.state import State
from mindful_crate.core.world.things import Settings

STARTS = datetime(2026, 3, 3, tzinfo=UTC)
TYPES = (
    BinType("RACK", "Rack", PlateNeed.REQUIRED, max_plates=2, max_weight_mg=900_000_000, hazard_classes=("3",)),  # type: ignore[arg-type]
    BinType("SHELF", "Shelf", PlateNeed.OPTIONAL, mixed_items=True, max_volume_mm3=500_000_000),  # type: ignore[arg-type]
    BinType("FREE", "Floor", PlateNeed.OPTIONAL, mixed_items=True, mixed_lots=True, mixed_statuses=True),  # type: ignore[arg-type]
    BinType("LOOSE", "Drawer", PlateNeed.NONE, max_volume_mm3=40_000_000),  # type: ignore[arg-type]
)
ITEMS = tuple(
    Item(
        code,
        code,
        group,
        (
            ItemUnit("pc", "piece", "pieces", 1, 100, 100, 100, 500_000),
            ItemUnit("case", "case", "cases", 10, 300, 300, 150, 5_200_000),
        ),
        tracking,
        hazard,
    )  # type: ignore[arg-type]
    for code, group, tracking, hazard in (
        ("NUT", "Small", Tracking.NONE, None),
        ("OIL", "Wet", Tracking.LOT, "3"),
        ("ROD", "Long", Tracking.NONE, None),
    )
)
BINS = tuple(
    Bin(f"{zone}-{n}", zone, ("RACK", "SHELF", "FREE", "LOOSE")[n % 4], n * 1000, (n * 7 % 5) * 1000, n % 3, (n * 5) % 12, f"A{n % 2}", (None, 700, 2000)[n % 3], "broken" if n == 7 else None)  # type: ignore[arg-type]
    for zone in ("Z1", "Z2")
    for n in range(12)
)  # fmt: skip
PLATE = PlateKind("PAL", "Pallet", 1200, 800, 144, 20_000_000)  # type: ignore[arg-type]


def site(stock: tuple[StockRow, ...] = ()) -> Ground:
    """The small site with some stock."""
    zones = (Zone("Z1", "S", "One", ZonePurpose.RESERVE), Zone("Z2", "S", "Two", ZonePurpose.PICK))  # type: ignore[arg-type]
    return Ground(
        Opening("small", (Site("S", "Small", "UTC", (0, 5000)),), zones, TYPES, BINS, (PLATE,), ITEMS, stock=stock)  # type: ignore[arg-type]
    )


def floor(stock: tuple[StockRow, ...] = ()) -> State:
    """A world of the small site at its opening."""
    return State(site(stock), Settings("S", STARTS))  # type: ignore[arg-type]


def request(*goods: Goods, plate: bool = False, **more: object) -> BinRequest:
    """A request at the small site."""
    return BinRequest("S", BinPurpose.PUT_AWAY, goods, "PAL" if plate else None, **more)  # type: ignore[arg-type]


item_codes = st.sampled_from(["NUT", "OIL", "ROD"])
lots = st.sampled_from(["", "L1", "L2"])
bin_codes = st.sampled_from([b.code for b in BINS])
stocks = st.lists(
    st.builds(StockRow, bin=bin_codes, item=item_codes, quantity=st.integers(1, 300), lot=lots), max_size=14
).map(tuple)
requests = st.builds(
    lambda goods, plate, start: request(*goods, plate=plate, from_bin=start),
    st.lists(st.builds(Goods, item=item_codes, quantity=st.integers(1, 400), lot=lots), min_size=1, max_size=2),
    st.booleans(),
    st.none() | bin_codes,
)
some = st.lists
targets = st.builds(
    Target,
    id=st.uuids().map(str),
    look_in=st.builds(
        LookIn,
        zones=some(st.sampled_from(["Z1", "Z2", "Z9"]), max_size=2, unique=True).map(tuple),
        aisles=some(st.sampled_from(["A0", "A1"]), max_size=1).map(tuple),
        bin_types=some(st.sampled_from(["RACK", "SHELF", "FREE"]), max_size=2, unique=True).map(tuple),
        bins=some(bin_codes, max_size=3, unique=True).map(tuple),
    ),
    wants=st.sampled_from(Wants),
    prefer=some(st.sampled_from(Prefer), max_size=3, unique=True).map(tuple),
)
rule_lists = some(
    st.builds(
        BinRule,
        id=st.uuids().map(str),
        targets=some(targets, min_size=1, max_size=3).map(tuple),
        applies=st.builds(
            Conditions,
            items=some(item_codes, max_size=2, unique=True).map(tuple),
            groups=some(st.sampled_from(["Small", "Wet"]), max_size=1).map(tuple),
            hazard_classes=some(st.just("3"), max_size=1).map(tuple),
            unit_forms=some(st.sampled_from(UnitForm), max_size=2, unique=True).map(tuple),
        ),
        if_nothing=st.sampled_from(IfNothing),
        on=st.booleans(),
    ),
    max_size=5,
).map(tuple)
