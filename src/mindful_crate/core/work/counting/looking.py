"""What is to be counted: which bins are due by which plan, what by the book is in them, which line of a sheet is meant."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from datetime import UTC, date, datetime, timedelta
from heapq import nsmallest

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Item, Tracking
from mindful_crate.core.catalog.ids import BinCode, CountNo, ItemCode, PersonId, PlateNo, ZoneCode
from mindful_crate.core.catalog.places import STORAGE, Bin
from mindful_crate.core.floor.counts import CountLine, CountSheet
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.counting import CountPlan, SplitBy

MOST = 10**9
"""So much of an item lies nowhere."""
NEVER = datetime(1, 1, 1, tzinfo=UTC)
"""When a bin was counted that never was: before all others."""


def zones_of(state: State, plan: CountPlan) -> tuple[ZoneCode, ...]:
    """The zones of the site that a plan counts."""
    ground = state.ground
    here = ground.zones_of_site.get(state.settings.site, ())
    return tuple(z for z in here if (z in plan.zones if plan.zones else ground.zones[z].purpose in STORAGE))


def goods_in(state: State, code: BinCode) -> Iterator[tuple[PlateNo | None, Goods]]:
    """All that lies in a bin, loose or on which plate."""
    for goods in state.loose(code):
        yield None, goods
    for plate in state.standing(code):
        for number in state.plates.tower(plate.number):
            for goods in state.plates.goods_on(number):
                yield number, goods


def _is_for(state: State, plan: CountPlan, code: BinCode, held: Iterable[ItemCode] = ()) -> bool:
    """Is a bin of a plan's zones one it counts, by what it holds, or ``held``?"""
    if not plan.groups and not plan.velocity_classes:
        return True
    items = [state.ground.items[i] for i in (*(g.item for _, g in goods_in(state, code)), *held)]
    return any(
        (not plan.groups or i.group in plan.groups)
        and (not plan.velocity_classes or i.velocity_class in plan.velocity_classes)
        for i in items
    )


def plan_of(state: State, rulebook: Rulebook, code: BinCode, held: Iterable[ItemCode] = ()) -> CountPlan | None:
    """The first plan that counts a bin, by what it holds, or ``held`` until now."""
    zone = state.ground.bins[code].zone
    for plan in rulebook.counts_at(state.settings.site):
        if zone in zones_of(state, plan) and _is_for(state, plan, code, held):
            return plan
    return None


def counted_last(state: State, code: BinCode) -> datetime:
    """When a bin was counted last."""
    known = state.bins_counted.get(code)
    return known.at if known else NEVER


def due_by(
    state: State, rulebook: Rulebook, plan: CountPlan, most: int | None = None, now: datetime | None = None
) -> list[BinCode]:
    """Bins that are due by a plan, never counted ones first, then those counted longest ago; those on a sheet already are not. As many as the plan makes
    sheets of at a time, or so many."""
    if plan.every_days is None:
        return []
    many = plan.most_bins if most is None else most
    by_then = (now or state.clock) - timedelta(days=plan.every_days)
    known, sheets = state.bins_counted, state.counts
    ground = state.ground
    others = [zones_of(state, p) for p in _before(rulebook, state, plan)]
    plain = (
        not plan.groups and not plan.velocity_classes and not any(set(z) & set(zones_of(state, plan)) for z in others)
    )

    def candidates() -> Iterator[tuple[datetime, int, BinCode]]:
        for zone in zones_of(state, plan):
            for each in ground.bins_by_zone.get(zone, ()):
                last = known.get(each.code)
                at = last.at if last else NEVER
                if at <= by_then and sheets.with_bin(each.code) is None:
                    yield at, each.walk, each.code

    if plain:
        return [code for *_, code in nsmallest(many, candidates())]
    found: list[BinCode] = []
    for *_, code in sorted(candidates()):
        if len(found) >= many:
            break
        mine = plan_of(state, rulebook, code)
        if mine is not None and mine.id == plan.id:
            found.append(code)
    return found


def _before(rulebook: Rulebook, state: State, plan: CountPlan) -> list[CountPlan]:
    plans = rulebook.counts_at(state.settings.site)
    return plans[: next((n for n, p in enumerate(plans) if p.id == plan.id), 0)]


def lines_of(state: State, codes: Iterable[BinCode]) -> list[list[CountLine]]:
    """What by the book is in each of these bins, a line for each kind of goods and each plate, not numbered yet; a line without an item where there is
    nothing."""
    found: list[list[CountLine]] = []
    for code in codes:
        much: dict[tuple[PlateNo | None, Goods], int] = {}
        for plate, goods in goods_in(state, code):
            key = plate, evolve(goods, quantity=0, arrived=None)
            much[key] = much.get(key, 0) + goods.quantity
        lines = [
            CountLine(0, code, g.item, g.lot, g.expiry, g.status, plate, quantity)
            for (plate, g), quantity in sorted(
                much.items(), key=lambda x: (x[0][0] or "", x[0][1].item, x[0][1].lot, x[0][1].status)
            )
        ]
        found.append(lines or [CountLine(0, code, None)])
    return found


def split(state: State, plan: CountPlan, codes: Sequence[BinCode]) -> list[list[CountLine]]:
    """The lines of each sheet: bins that may stand together, in the order of the walk; a bin is never on two."""
    ground = state.ground
    by_code = dict(zip(codes, lines_of(state, codes), strict=True))

    def key(code: BinCode) -> str:
        each: Bin = ground.bins[code]
        if plan.split is SplitBy.ZONE:
            return each.zone
        if plan.split is SplitBy.AISLE:
            return f"{each.zone} {each.aisle}"
        if plan.split is SplitBy.GROUP:
            first = next((x.item for x in by_code[code] if x.item), None)
            return ground.items[first].group if first else ""
        return ""

    sheets: list[list[CountLine]] = []
    together: dict[str, list[BinCode]] = {}
    for code in sorted(codes, key=lambda c: (ground.bins[c].walk, c)):
        together.setdefault(key(code), []).append(code)
    for some in together.values():
        sheet: list[CountLine] = []
        for code in some:
            if sheet and len(sheet) + len(by_code[code]) > plan.most_lines:
                sheets.append(sheet)
                sheet = []
            sheet = [*sheet, *by_code[code]]
        sheets.append(sheet)
    return [[evolve(x, no=n) for n, x in enumerate(sheet, start=1)] for sheet in sheets]


def sheet_of(state: State, count: CountNo) -> CountSheet:
    """A sheet; refused when there is none, or nothing of it is counted any more."""
    sheet = state.counts.get(count)
    if sheet is None:
        raise Refusal("unknown_count", f"There is no sheet `{count}`.", "count")
    return sheet


def check_on(state: State, sheet: CountSheet, code: BinCode) -> None:
    """Refuse a bin that is not on a sheet, and say on which it is."""
    if all(x.bin != code for x in sheet.lines):
        other = state.counts.with_bin(code)
        beside = f" It is on `{other}`." if other else " Tell the office, if it should be counted."
        raise Refusal("not_on_sheet", f"Bin `{code}` is not on `{sheet.number}`.{beside}", "bin")


def expiry_of(state: State, item: Item, lot: str) -> date | None:
    """When a lot of which there is more than was known expires; refused where nobody knows."""
    if not item.lots:
        return None
    if not lot:
        raise Refusal("no_lot", f"{item.name} is kept by lot: say which.", "lot")
    expiry = state.lot_expiry(item.code, lot)
    if item.tracking is Tracking.LOT_EXPIRY and expiry is None:
        says = f"Lot `{lot}` of {item.name} was never here, so nobody knows when it expires. Let the office enter it."
        raise Refusal("new_lot", says, "lot")
    return expiry


def found_plate(state: State, line: CountLine) -> PlateNo | None:
    """The plate a line is about, if somebody found it where by the book it does not stand."""
    plate = line.plate if line.found else None
    return plate if plate and state.has_plate(plate) and state.bin_of(plate) != line.bin else None


def mine(sheet: CountSheet, person: PersonId) -> list[CountLine]:
    """What of a sheet this person may count."""
    return [x for x in sheet.open_lines if person not in x.not_by]


def to_count(state: State, person: PersonId) -> Iterator[CountSheet]:
    """Sheets of which this person may count something."""
    return (s for s in state.counts.unfinished() if mine(s, person))


def meant(
    sheet: CountSheet, code: BinCode, item: ItemCode, plate: PlateNo | None, lot: str | None, person: PersonId
) -> CountLine | None:  # fmt: skip
    """The line of a sheet that is meant by goods in a bin: one that is to be counted first, else what this person counted before. A ``lot`` of None is any."""
    here = [x for x in sheet.lines if x.bin == code and x.item == item and x.plate == plate and lot in (None, x.lot)]
    return (
        next((x for x in here if x.counted is None), None)
        or next((x for x in here if x.by == person and not x.posted), None)
        or next(iter(here), None)
    )


def by_the_book(state: State, line: CountLine) -> int:
    """How much the book says of a line now."""
    if line.item is None:
        return 0
    if line.plate is not None and state.bin_of(line.plate) != line.bin:
        return 0
    return sum(g.quantity for g in state.ledger.at(line.spot) if line.is_of(g))


def moved(state: State, line: CountLine) -> int:
    """How much came or went since a line was counted. A plate that was not there and by the book is elsewhere now was found: nothing went."""
    if line.plate is not None and line.counted == 0 and state.bin_of(line.plate) != line.bin:
        return 0
    return by_the_book(state, line) - line.book


def is_great(sheet: CountSheet, line: CountLine) -> bool:
    """Is the difference of a line more than its plan lets stand?"""
    if sheet.tolerance is None:
        return False
    percent, units = sheet.tolerance
    off = abs(line.difference)
    return off > units and off * 100 > percent * line.book


def told(state: State, line: CountLine) -> str:
    """What a line is about: how the item is called, with its lot and status."""
    if line.item is None:
        return "nothing"
    lot = f", lot `{line.lot}`" if line.lot else ""
    status = "" if line.status.value == "available" else f", {line.status.value}"
    return f"{state.ground.items[line.item].name}{lot}{status}"
