"""A small made-up site for properties: a handful of bins of all kinds, four items, random stock and rules."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta

from hypothesis import strategies as st

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import (
    HomeBin,
    Item,
    ItemUnit,
    LotOrder,
    OrderKind,
    Partner,
    PlateRow,
    Series,
    Status,
    StockRow,
    Tracking,
)
from mindful_crate.core.catalog.opening import Ground, Opening
from mindful_crate.core.catalog.places import Bin, BinType, PlateKind, PlateNeed, Site, Zone, ZonePurpose
from mindful_crate.core.catalog.stock import StockTable
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.placing.request import BinRequest, Nested
from mindful_crate.core.rulebook.bin_rules import (
    BOTH_ORDERS,
    BinPurpose,
    BinRule,
    Conditions,
    Disposition,
    IfNothing,
    LookIn,
    Prefer,
    Target,
    UnitForm,
    UpTo,
    Wants,
    Weekday,
)
from mindful_crate.core.rulebook.bin_rules import Between as Span

STARTS = datetime(2026, 3, 3, tzinfo=UTC)
TODAY = date(2026, 3, 3)
TYPES = (
    BinType("RACK", "Rack", PlateNeed.REQUIRED, max_plates=2, max_weight_mg=900_000_000, hazard_classes=("3",)),  # type: ignore[arg-type]
    BinType("SHELF", "Shelf", PlateNeed.OPTIONAL, mixed_items=True, max_volume_mm3=500_000_000),  # type: ignore[arg-type]
    BinType("FREE", "Floor", PlateNeed.OPTIONAL, mixed_items=True, mixed_lots=True, mixed_statuses=True, max_weight_mg=400_000_000),  # type: ignore[arg-type]
    BinType("LOOSE", "Drawer", PlateNeed.NONE, max_volume_mm3=40_000_000),  # type: ignore[arg-type]
)  # fmt: skip
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
        velocity,
        order,
    )  # type: ignore[arg-type]
    for code, group, tracking, hazard, velocity, order in (
        ("NUT", "Small", Tracking.NONE, None, "A", LotOrder.ANY),
        ("OIL", "Wet", Tracking.LOT_EXPIRY, "3", "B", LotOrder.FEFO),
        ("ROD", "Long", Tracking.NONE, None, None, LotOrder.FIFO),
    )
)
BINS = tuple(
    Bin(f"{zone}-{n}", zone, ("RACK", "SHELF", "FREE", "LOOSE")[n % 4], n * 1000, (n * 7 % 5) * 1000, n % 3 + (3 if zone == "Z2" else 0), (n * 5) % 12, f"A{n % 2}", (None, 700, 2000)[n % 3], "broken" if n == 7 else None)  # type: ignore[arg-type]
    for zone in ("Z1", "Z2")
    for n in range(12)
)  # fmt: skip
PLATE = PlateKind("PAL", "Pallet", 1200, 800, 144, 20_000_000)  # type: ignore[arg-type]
PARTNERS = (Partner("V2", "Two", "Vendors"), Partner("C1", "One", "Shops", 30))  # type: ignore[arg-type]
HOMES = (HomeBin("NUT", "Z1-1", 5, 60), HomeBin("NUT", "Z2-2", 5, 0), HomeBin("ROD", "Z1-1", 1, 40), HomeBin("OIL", "Z2-0", 1, 90))  # type: ignore[arg-type]  # fmt: skip
SERIES = tuple(Series(d, f"{d}-", f"r{d}-", 4, 1) for d in ("plate", "task", "receipt", "message", "dialogue", "reservation"))  # fmt: skip


def site(stock: tuple[StockRow, ...] = (), plates: tuple[PlateRow, ...] = ()) -> Ground:
    """The small site with some stock."""
    zones = (
        Zone("Z1", "S", "One", ZonePurpose.RESERVE), Zone("Z2", "S", "Two", ZonePurpose.PICK),  # type: ignore[arg-type]
        Zone("DR", "S", "Door", ZonePurpose.DOOR), Zone("PK", "S", "Packing", ZonePurpose.PACKING),  # type: ignore[arg-type]
    )  # fmt: skip
    others = (Bin("DOOR", "DR", "FREE", 5000, 0, 0, 98), Bin("PACK", "PK", "FREE", 0, 9000, 0, 99))  # type: ignore[arg-type]
    return Ground(
        Opening(
            "small", (Site("S", "Small", "UTC", (0, 5000)),), zones, TYPES, (*BINS, *others), (PLATE,), ITEMS,  # type: ignore[arg-type]
            partners=PARTNERS, home_bins=HOMES, plates=plates, stock=StockTable.of(stock), series=SERIES,
        )
    )  # fmt: skip


def floor(stock: tuple[StockRow, ...] = (), plates: tuple[PlateRow, ...] = ()) -> State:
    """A world of the small site at its opening."""
    return State(site(stock, plates), Settings("S", STARTS))  # type: ignore[arg-type]


def request(*goods: Goods, plate: bool = False, **more: object) -> BinRequest:
    """A request to put away at the small site."""
    return BinRequest("S", BinPurpose.PUT_AWAY, goods, "PAL" if plate else None, **more)  # type: ignore[arg-type]


def asked_for(item: str, quantity: int, **more: object) -> BinRequest:
    """A request to pick at the small site."""
    goods = Goods(item, quantity, str(more.pop("lot", "")))  # type: ignore[arg-type]
    return BinRequest("S", BinPurpose.PICK_FROM, (goods,), today=TODAY, **more)  # type: ignore[arg-type]


item_codes = st.sampled_from(["NUT", "OIL", "ROD"])
lots = st.sampled_from(["", "L1", "L2"])
bin_codes = st.sampled_from([b.code for b in BINS])
days = st.integers(-20, 60).map(lambda n: TODAY + timedelta(days=n))
EXPIRY = {"": None, "L1": date(2026, 3, 20), "L2": date(2026, 5, 1)}


@st.composite
def stocks(draw: st.DrawFn) -> tuple[tuple[StockRow, ...], tuple[PlateRow, ...]]:
    """Rows loose and on plates, a plate on a plate now and then."""
    rows: list[StockRow] = []
    plates: list[PlateRow] = []
    for n in range(draw(st.integers(0, 4))):
        code = draw(bin_codes)
        under = [p.number for p in plates if p.bin == code and p.on is None]
        on = draw(st.sampled_from([None, *under]))
        plates.append(PlateRow(f"P{n}", "PAL", code, on))  # type: ignore[arg-type]
    for _ in range(draw(st.integers(0, 12))):
        plate = draw(st.sampled_from([None, *plates]))
        lot = draw(lots)
        rows.append(
            StockRow(
                plate.bin if plate else draw(bin_codes), draw(item_codes), draw(st.integers(1, 300)), lot, EXPIRY[lot],
                draw(st.sampled_from([Status.AVAILABLE, Status.AVAILABLE, Status.DAMAGED])),
                plate.number if plate else None, draw(st.none() | days),
            )
        )  # type: ignore[arg-type]  # fmt: skip
    return tuple(rows), tuple(plates)


some_goods = st.builds(Goods, item=item_codes, quantity=st.integers(1, 400), lot=lots)
requests = st.builds(
    lambda goods, plate, start, nested, more: request(
        *(goods if plate else goods[:2]),
        plate=plate,
        from_bin=start,
        nested=nested if plate else (),
        today=TODAY,
        **more,
    ),
    st.lists(some_goods, min_size=1, max_size=2),
    st.booleans(),
    st.none() | bin_codes,
    st.lists(st.builds(Nested, plate_kind=st.just("PAL"), goods=st.tuples(some_goods)), max_size=1).map(tuple),
    st.fixed_dictionaries(
        {},
        optional={
            "order_kind": st.sampled_from(OrderKind),
            "partners": st.sampled_from([("V2",), ("C1", "V2"), ("X",)]),
            "disposition": st.sampled_from(Disposition),
            "onto": st.sampled_from(["P0", "P1"]),
            "door": bin_codes,
        },
    ),
)
takings = st.builds(
    lambda item, quantity, lot, more: asked_for(item, quantity, lot=lot, **more),
    item_codes,
    st.integers(1, 500),
    lots,
    st.fixed_dictionaries(
        {},
        optional={
            "partners": st.sampled_from([("V2",), ("C1",)]),
            "form": st.sampled_from(UnitForm),
            "from_bin": bin_codes,
        },
    ),
)
some = st.lists
spans = st.builds(Span, st.none() | st.integers(1, 100), st.none() | st.integers(50, 900))


def targets(wants: list[Wants], prefers: list[Prefer]) -> st.SearchStrategy[Target]:
    """Random targets."""
    return st.builds(
        Target,
        id=st.uuids().map(str),
        look_in=st.builds(
            LookIn,
            zones=some(st.sampled_from(["Z1", "Z2", "Z9"]), max_size=2, unique=True).map(tuple),
            aisles=some(st.sampled_from(["A0", "A1"]), max_size=1).map(tuple),
            bin_types=some(st.sampled_from(["RACK", "SHELF", "FREE"]), max_size=2, unique=True).map(tuple),
            bins=some(bin_codes, max_size=3, unique=True).map(tuple),
            home_bins=st.sampled_from([False, False, False, True]),
            own_plate=st.sampled_from([False, False, False, False, True]),
        ),
        wants=st.sampled_from(wants),
        prefer=some(st.sampled_from(prefers), max_size=3, unique=True).map(tuple),
        up_to=st.sampled_from([UpTo.ROOM, UpTo.ROOM, UpTo.HOME_MAXIMUM]),
        most=st.sampled_from([None, None, 7, 60]),
    )


def rules(target: st.SearchStrategy[Target]) -> st.SearchStrategy[tuple[BinRule, ...]]:
    """Random lists of rules."""
    return some(
        st.builds(
            BinRule,
            id=st.uuids().map(str),
            targets=some(target, min_size=1, max_size=3).map(tuple),
            applies=st.builds(
                Conditions,
                items=some(item_codes, max_size=2, unique=True).map(tuple),
                groups=some(st.sampled_from(["Small", "Wet"]), max_size=1).map(tuple),
                hazard_classes=some(st.just("3"), max_size=1).map(tuple),
                unit_forms=st.sampled_from([(), (), (UnitForm.WHOLE_PLATE,), (UnitForm.CASE, UnitForm.EACH)]),
                weekdays=st.sampled_from([(), (), (Weekday.TUESDAY,), (Weekday.SUNDAY,)]),
                quantity=st.just(Span()) | spans,
            ),
            split=st.booleans(),
            least_percent=st.sampled_from([0, 0, 10, 50]),
            if_nothing=st.sampled_from(IfNothing),
            overflow=st.none() | bin_codes,
            fefo_days=st.sampled_from([0, 0, 30, 400]),
            on=st.sampled_from([True, True, True, False]),
        ),
        max_size=5,
    ).map(tuple)


putting_lists = rules(targets([Wants.SAME_ITEM_AND_LOT, Wants.SAME_ITEM, Wants.EMPTY, Wants.ANY], list(BOTH_ORDERS)))
taking_lists = rules(targets([Wants.ONE_COVERS, Wants.WHOLE_PLATE, Wants.ANY], list(Prefer)))
rule_lists = st.one_of(putting_lists, taking_lists)
