"""A made-up site of any size, the same each time: bins, stock, items, thirty bin rules, and questions about them."""

from __future__ import annotations

import os
import random
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from typing import Any

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Barcode, Item, ItemUnit, LotOrder, PlateRow, Series, Tracking
from mindful_crate.core.catalog.opening import Ground, Opening
from mindful_crate.core.catalog.places import Bin, BinType, PlateKind, PlateNeed, Site, Zone, ZonePurpose
from mindful_crate.core.catalog.stock import StockTable
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.rulebook.bin_rules import (
    BinPurpose,
    BinRule,
    Conditions,
    LookIn,
    Prefer,
    Target,
    UnitForm,
    Wants,
)

STARTS = datetime(2026, 3, 3, 8, 0, tzinfo=UTC)
TODAY = date(2026, 3, 3)
TYPES = (
    BinType("RACK", "Rack", PlateNeed.REQUIRED, max_plates=2, max_weight_mg=1_500_000_000),  # type: ignore[arg-type]
    BinType("SHELF", "Shelf", PlateNeed.NONE, True, True, True, 600_000_000, 250_000_000),  # type: ignore[arg-type]
    BinType("FLOOR", "Floor", PlateNeed.OPTIONAL, True, True, True, max_plates=6, max_weight_mg=6_000_000_000),  # type: ignore[arg-type]
    BinType("CAGE", "Cage", PlateNeed.REQUIRED, max_plates=1, max_weight_mg=900_000_000, hazard_classes=("3",)),  # type: ignore[arg-type]
)
KINDS = {"R": "RACK", "S": "SHELF", "F": "FLOOR", "C": "CAGE"}
ZONES = ("R1", "R2", "R3", "R4", "R5", "S1", "S2", "S3", "S4", "S5", "S6", "F1", "C1")
"""Five of racks, six of shelves, one of floor places and one of cages."""
GROUPS = tuple(f"G{n:02d}" for n in range(24))
PLATE = PlateKind("PAL", "Pallet", 1200, 800, 144, 22_000_000)  # type: ignore[arg-type]


@dataclass(frozen=True)
class Size:
    """How big a site is."""

    bins: int
    rows: int
    items: int


TINY = bool(os.environ.get("CRATE_BENCH_TINY"))
"""Every bench from beginning to end at a size that takes seconds: its figures mean nothing, that it runs does."""


def few(count: int) -> int:
    """So many of something, or a handful when it is only to be seen that the bench runs."""
    return max(2, count // 100) if TINY else count


SMALL = Size(600, 4_000, 200)
MIDDLE = SMALL if TINY else Size(5_000, 40_000, 1_000)
TENTH = SMALL if TINY else Size(10_000, 100_000, 2_000)
FULL = SMALL if TINY else Size(100_000, 1_000_000, 20_000)


@dataclass
class BigSite:
    """A site with its rules and questions."""

    size: Size
    ground: Ground
    putting: tuple[BinRule, ...]
    taking: tuple[BinRule, ...]

    def state(self) -> State:
        """A world at its opening."""
        return State(self.ground, Settings("X", STARTS))  # type: ignore[arg-type]

    def requests(self, count: int, seed: int = 1) -> list[BinRequest]:
        """Questions, half putting and half taking. As in a real house most are about few items: eight in ten about a
        tenth of them."""
        chance = random.Random(seed)
        items = list(self.ground.items.values())
        busy = items[:: max(1, len(items) // max(1, len(items) // 10))]
        found = []
        for n in range(count):
            some = busy if chance.random() < 0.8 else items
            found.append(self._put(chance, some) if n % 2 else self._take(chance, some))
        return found

    def _put(self, chance: random.Random, items: list[Item]) -> BinRequest:
        item = chance.choice(items)
        plate = item.hazard_class is not None or chance.random() < 0.6
        count = chance.randrange(1, 40) * (12 if plate else 1)
        lot, expiry = lot_of(chance, item)
        goods = Goods(item.code, count, lot, expiry)
        return BinRequest("X", BinPurpose.PUT_AWAY, (goods,), "PAL" if plate else None, door="DOOR-1", from_bin="DOOR-1", today=TODAY)  # type: ignore[arg-type]  # fmt: skip

    def _take(self, chance: random.Random, items: list[Item]) -> BinRequest:
        item = chance.choice(items)
        form = chance.choice([None, None, None, UnitForm.WHOLE_PLATE])
        goods = Goods(item.code, chance.choice([1, 3, 12, 24, 60, 240]))
        return BinRequest("X", BinPurpose.PICK_FROM, (goods,), form=form, today=TODAY)  # type: ignore[arg-type]


def lot_of(chance: random.Random, item: Item) -> tuple[str, date | None]:
    if item.tracking is Tracking.NONE:
        return "", None
    n = chance.randrange(12)
    return f"L{n:02d}", TODAY + timedelta(days=30 * n - 20)


def _items(count: int, chance: random.Random) -> list[Item]:
    found = []
    for n in range(count):
        side = chance.randrange(40, 260)
        weight = chance.randrange(50_000, 4_000_000)
        hazard = "3" if n % 50 == 0 else None
        tracked = n % 5 == 0
        units = (
            ItemUnit("pc", "piece", "pieces", 1, side, side, side // 2 + 10, weight),  # type: ignore[arg-type]
            ItemUnit("case", "case", "cases", 12, 3 * side, 2 * side, side + 20, 12 * weight + 300_000),  # type: ignore[arg-type]
        )
        found.append(
            Item(
                f"I{n:06d}", f"Item {n}", GROUPS[n % len(GROUPS)], units, Tracking.LOT_EXPIRY if tracked else Tracking.NONE,  # type: ignore[arg-type]
                hazard, "ABC"[n % 3], LotOrder.FEFO if tracked else LotOrder.ANY,
            )
        )  # fmt: skip
    return found


def _bins(count: int) -> list[Bin]:
    bins = [Bin("DOOR-1", "D", "FLOOR", 0, 0, 0, 0), Bin("PACK-1", "P", "FLOOR", 60_000, 0, 0, 1)]  # type: ignore[arg-type]
    per_zone = count // len(ZONES)
    walk = 2
    for z, zone in enumerate(ZONES):
        kind = KINDS[zone[0]]
        levels = {"RACK": 5, "SHELF": 6, "FLOOR": 1, "CAGE": 3}[kind]
        for n in range(per_zone):
            bay, level = divmod(n, levels)
            aisle, place = divmod(bay, 40)
            height = None if kind == "FLOOR" else (1_900, 1_400, 1_100)[level % 3] if kind in ("RACK", "CAGE") else 450
            code = f"{zone}-{aisle:03d}-{place:02d}-{level}"
            bins.append(
                Bin(code, zone, kind, 4_000 * aisle + 90_000 * (z % 4), 9_000 + 1_200 * place + 120_000 * (z // 4), level, walk, f"{zone}.{aisle}", height, "damaged" if n % 211 == 7 else None)  # type: ignore[arg-type]
            )  # fmt: skip
            walk += 1
    return bins


def _stock(bins: list[Bin], items: list[Item], rows: int, chance: random.Random) -> tuple[StockTable, list[PlateRow]]:
    """Racks and cages hold plates of one item and lot, shelves and floor places many rows; some bins are empty."""
    tuples, plates = [], []
    shelves = []
    for each in bins[2:]:
        if chance.random() < 0.25:
            continue
        if each.bin_type in ("SHELF", "FLOOR"):
            shelves.append(each)
            continue
        item = chance.choice(items)
        if item.hazard_class and each.bin_type != "CAGE":
            continue
        lot, expiry = lot_of(chance, item)
        for _ in range(chance.randrange(1, 3) if each.bin_type == "RACK" else 1):
            number = f"LP{len(plates):08d}"
            plates.append(PlateRow(number, "PAL", each.code))  # type: ignore[arg-type]
            tuples.append((each.code, number, item.code, lot, expiry.toordinal() if expiry else 0, 0, _arrived(chance), 12 * chance.randrange(1, 30)))  # fmt: skip
    left, n = max(0, rows - len(tuples)), 0
    while n < left:
        each, item = shelves[n % len(shelves)], chance.choice(items)
        n += 1
        if item.hazard_class:
            continue
        lot, expiry = lot_of(chance, item)
        status = 3 if chance.random() < 0.02 else 0
        tuples.append((each.code, "", item.code, lot, expiry.toordinal() if expiry else 0, status, _arrived(chance), chance.randrange(1, 20)))  # fmt: skip
    tuples = list({row[:7]: row for row in tuples}.values())  # no row stands twice
    return StockTable.of_tuples(tuples), plates


def _arrived(chance: random.Random) -> int:
    return TODAY.toordinal() - chance.randrange(1, 400)


def _target(name: str, zones: str, wants: Wants, *prefer: Prefer) -> Target:
    return Target(name, LookIn(zones=tuple(zones.split())), wants, prefer)  # type: ignore[arg-type]


def putting_rules() -> tuple[BinRule, ...]:
    """Fifteen rules: hazard to cages, groups to racks by velocity, loose goods to shelves."""
    rules = [
        BinRule("P1", (_target("P1a", "C1", Wants.SAME_ITEM_AND_LOT, Prefer.WALK_ORDER), _target("P1b", "C1", Wants.EMPTY, Prefer.LOWEST_LEVEL, Prefer.WALK_ORDER)), Conditions(hazard_classes=("3",))),  # type: ignore[arg-type]
    ]  # fmt: skip
    for n in range(8):
        groups = GROUPS[3 * n : 3 * n + 2]
        when = Conditions(groups=groups, unit_forms=(UnitForm.WHOLE_PLATE,))
        zone = f"R{1 + n % 5}"
        order = (Prefer.NEAREST_DOOR, Prefer.LOWEST_LEVEL) if n % 2 else (Prefer.LOWEST_LEVEL, Prefer.WALK_ORDER)
        rules.append(BinRule(f"P{2 + n}", (_target(f"P{2 + n}a", zone, Wants.SAME_ITEM_AND_LOT, Prefer.WALK_ORDER), _target(f"P{2 + n}b", zone, Wants.EMPTY, *order)), when))  # type: ignore[arg-type]  # fmt: skip
    for n in range(3):
        when = Conditions(velocity_classes=("ABC"[n],), unit_forms=(UnitForm.CASE, UnitForm.EACH))
        zone = f"S{1 + 2 * n}"
        rules.append(BinRule(f"P{10 + n}", (_target(f"P{10 + n}a", zone, Wants.SAME_ITEM, Prefer.WALK_ORDER), _target(f"P{10 + n}b", f"S{2 + 2 * n}", Wants.ANY, Prefer.FULLEST)), when))  # type: ignore[arg-type]  # fmt: skip
    rules.append(BinRule("P13", (_target("P13a", "F1", Wants.ANY, Prefer.WALK_ORDER),), Conditions(velocity_classes=("A",), unit_forms=(UnitForm.WHOLE_PLATE,))))  # type: ignore[arg-type]  # fmt: skip
    rules.append(BinRule("P14", (_target("P14a", "R5", Wants.EMPTY, Prefer.WALK_ORDER),), Conditions(unit_forms=(UnitForm.WHOLE_PLATE,))))  # type: ignore[arg-type]  # fmt: skip
    rules.append(BinRule("P15", (_target("P15a", "S6", Wants.ANY, Prefer.WALK_ORDER), _target("P15b", "F1", Wants.ANY, Prefer.WALK_ORDER))))  # type: ignore[arg-type]  # fmt: skip
    return tuple(rules)


def taking_rules() -> tuple[BinRule, ...]:
    """Fifteen rules: whole plates from racks, then shelves by group, then anywhere, split where need be."""
    rules = []
    for n in range(5):
        when = Conditions(groups=GROUPS[5 * n : 5 * n + 3], unit_forms=(UnitForm.WHOLE_PLATE,))
        rules.append(BinRule(f"T{1 + n}", (_target(f"T{1 + n}a", "R1 R2 R3 R4 R5", Wants.WHOLE_PLATE, Prefer.FIFO),), when))  # type: ignore[arg-type]  # fmt: skip
    for n in range(8):
        when = Conditions(groups=GROUPS[3 * n : 3 * n + 3])
        zone = f"S{1 + n % 6}"
        rules.append(BinRule(f"T{6 + n}", (_target(f"T{6 + n}a", zone, Wants.ONE_COVERS, Prefer.FEFO, Prefer.WALK_ORDER), _target(f"T{6 + n}b", "S1 S2 S3 S4 S5 S6", Wants.ANY, Prefer.FEWEST_BINS, Prefer.WALK_ORDER)), when, split=True))  # type: ignore[arg-type]  # fmt: skip
    rules.append(BinRule("T14", (_target("T14a", "F1 C1", Wants.ANY, Prefer.FIFO),), split=True))  # type: ignore[arg-type]
    rules.append(BinRule("T15", (_target("T15a", "R1 R2 R3 R4 R5", Wants.ANY, Prefer.FEFO, Prefer.SMALLEST_REMAINDER),), split=True))  # type: ignore[arg-type]  # fmt: skip
    return tuple(rules)


SERIES = tuple(
    Series(d, f"{d[:2].upper()}-", f"{d[:2].upper()}R-", 7, 1)
    for d in ("plate", "task", "receipt", "message", "dialogue", "reservation")
)


def opening(size: Size, seed: int = 7, **more: Any) -> Opening:
    """The opening state of a site of this size."""
    chance = random.Random(seed)
    items = _items(size.items, chance)
    bins = _bins(size.bins)
    stock, plates = _stock(bins, items, size.rows, chance)
    zones = [Zone("D", "X", "Door", ZonePurpose.DOOR), Zone("P", "X", "Packing", ZonePurpose.PACKING)]  # type: ignore[arg-type]
    purposes = {"R": ZonePurpose.RESERVE, "S": ZonePurpose.PICK, "F": ZonePurpose.BULK, "C": ZonePurpose.HAZARD}
    zones += [Zone(z, "X", z, purposes[z[0]]) for z in ZONES]  # type: ignore[arg-type]
    return Opening(
        f"{size.bins:,} bins", (Site("X", "Big", "UTC", (8_000, 60_000, 126_000, 250_000)),), tuple(zones), TYPES, tuple(bins),  # type: ignore[arg-type]
        (PLATE,), tuple(items), tuple(Barcode(f"29{n:010d}", i.code, "case") for n, i in enumerate(items)),  # type: ignore[arg-type]
        plates=tuple(plates), stock=stock, series=SERIES, **more,
    )  # fmt: skip


def big_site(size: Size, seed: int = 7) -> BigSite:
    """A site of this size with its rules."""
    return BigSite(size, Ground(opening(size, seed), hash="big"), putting_rules(), taking_rules())
